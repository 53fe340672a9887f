// Package written reads cases of docs/definitions/following.md, a JSON object each, and
// writes their answers. What can't be read is an error that names the field.
package written

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"

	"easymargin/core/form"
	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/supply"
)

// Case is one listing with what its suppliers said, read.
type Case struct {
	ID        string
	Currency  money.Currency
	Now       int64 // microseconds, as all times here
	Stock     supply.Rule
	Guards    plan.Guards
	Suppliers []string // by link
	Links     []supply.Link
	Listing   plan.Listing
	Prices    map[string]plan.Wanted // by supplier; without the offer and the landed cost, which are the link's
}

// Answer is what is said of a case; amounts in major units.
type Answer struct {
	ID       string     `json:"id"`
	Supplier string     `json:"supplier"`
	Offer    int64      `json:"offer"`
	Why      supply.Why `json:"why"`
	Lines    []Line     `json:"lines"`
}

// Line is one change of an answer.
type Line struct {
	Kind     plan.Kind    `json:"kind"`
	Price    *[2]string   `json:"price"`
	Quantity *[2]int64    `json:"quantity"`
	Verdict  plan.Verdict `json:"verdict"`
	Why      *plan.Why    `json:"why"`
}

type reader struct {
	form.Reader
	c *Case
}

// ReadCase reads one JSON object. The error names the field; the ID is filled
// in wherever it could be read.
func ReadCase(text []byte) (c Case, err error) {
	top, err := form.Object("", text)
	if err != nil {
		return c, err
	}
	r := &reader{c: &c}
	if c.ID = r.Text(top, "id", true); r.Err != nil {
		return c, r.Err
	}
	c.Now = r.time(top, "now")
	var stale int64
	c.Stock, c.Guards, stale = supply.DefaultRule, plan.DefaultGuards, defaultStale
	if o := r.Child(top, "rule", false); o != nil {
		stale = r.rule(o)
	}
	// The currency says how all other amounts are read, wherever it stands.
	if o := r.Child(top, "listing", true); o != nil {
		r.listing(o)
	}
	for _, o := range r.needed(top, "links") {
		r.link(o, stale)
	}
	if r.Err == nil && len(c.Links) == 0 {
		r.Fail("links", errors.New("at least one is needed"))
	}
	if o := r.Child(top, "prices", true); o != nil {
		r.prices(o)
	}
	r.Done(top)
	return c, r.Err
}

// defaultStale is following.md's stale_hours.
const defaultStale = 48

// rule reads the figures of a rule, over the defaults, and gives the hours
// after which a feed is stale.
func (r *reader) rule(o *form.Fields) (stale int64) {
	stale = defaultStale
	s, g := &r.c.Stock, &r.c.Guards
	whole := func(key string, least int64, into *int64) {
		if _, ok := o.Values[key]; ok {
			*into = r.whole(o, key, least)
		}
	}
	rate := func(key string, into *money.Rate) {
		if v, ok := r.Rate(o, key, false); ok {
			*into = v
		}
	}
	flag := func(key string, into *bool) {
		if _, ok := o.Values[key]; ok {
			*into = r.Flag(o, key)
		}
	}
	whole("buffer", 0, &s.Buffer)
	whole("least", 0, &s.Least)
	whole("cap", 1, &s.Cap)
	whole("patience", 1, &s.Patience)
	if raw, ok := o.Take("unknown"); ok && string(raw) != `"none"` {
		whole("unknown", 0, &s.Unknown)
	}
	rate("saving", &s.Saving)
	whole("stale_hours", 1, &stale)
	rate("small", &g.Small)
	rate("cost_moved", &g.CostMoved)
	rate("price_moved", &g.PriceMoved)
	whole("moves_per_day", 0, &g.MovesPerDay)
	whole("rival_moves", 0, &g.RivalMoves)
	flag("loss", &g.Loss)
	flag("rest", &g.Rest)
	r.Done(o)
	return stale
}

// link reads one way to have what is listed.
func (r *reader) link(o *form.Fields, stale int64) {
	name := r.Text(o, "supplier", true)
	l := supply.Link{Present: r.Flag(o, "present")}
	l.Update = r.Word(o, "mode", "full", "update") == "update"
	l.UnitsBought, l.UnitsListed = r.whole(o, "units_bought", 1), r.whole(o, "units_listed", 1)
	l.Landed, _ = r.Amount(o, "landed", r.c.Currency, true)
	l.StaleAfter = micros(stale)
	for _, f := range r.needed(o, "feeds") {
		x := supply.Report{At: r.time(f, "at")}
		x.Stock, x.Absent = r.stock(f)
		r.Done(f)
		l.Reports = append(l.Reports, x)
	}
	r.Done(o)
	for i := range r.c.Links {
		if r.c.Suppliers[i] == name {
			r.Fail(o.Name("supplier"), fmt.Errorf("%q stands there twice", name))
		}
		if r.c.Links[i].Present && l.Present {
			r.Fail(o.Name("present"), errors.New("two links are the present one"))
		}
	}
	r.c.Suppliers, r.c.Links = append(r.c.Suppliers, name), append(r.c.Links, l)
}

// micros are the microseconds of hours; as many as there are, where there are more.
func micros(hours int64) int64 {
	const most, hour = 1<<63 - 1, 3600 * form.Second
	if hours > most/hour {
		return most
	}
	return hours * hour
}

// stock reads what a feed said of an item.
func (r *reader) stock(f *form.Fields) (s supply.Stock, absent bool) {
	switch text := r.Text(f, "stock", true); text {
	case "absent":
		return s, true
	case "ended":
		s.State = supply.StockEnded
	case "unknown":
		s.State = supply.StockUnknown
	default:
		n, err := strconv.ParseUint(text, 10, 63)
		if r.Err == nil && err != nil {
			r.Fail(f.Name("stock"), fmt.Errorf("%q is neither a whole number nor one of unknown, ended, absent", text))
		}
		s = supply.Stock{State: supply.StockKnown, Count: int64(n)}
	}
	return s, false
}

// listing reads what was confirmed last.
func (r *reader) listing(o *form.Fields) {
	c := r.c
	c.Currency = money.Currency(r.Text(o, "currency", true))
	if r.Err == nil && !c.Currency.Valid() {
		r.Fail(o.Name("currency"), fmt.Errorf("%q is not a currency with 0, 2 or 3 decimals", string(c.Currency)))
	}
	c.Listing.Price = r.price(o, "price")
	c.Listing.Quantity = r.whole(o, "quantity", 0)
	c.Listing.Landed, _ = r.Amount(o, "landed", c.Currency, true)
	c.Listing.Fixed = r.Flag(o, "fixed")
	var moves []json.RawMessage
	if r.Needed(o, "moves") {
		if raw, _ := o.Take("moves"); raw[0] != '[' || json.Unmarshal(raw, &moves) != nil {
			r.Fail(o.Name("moves"), errors.New("must be a list of times"))
		}
	}
	for i, raw := range moves {
		path := fmt.Sprintf("%s[%d]", o.Name("moves"), i)
		var text string
		if json.Unmarshal(raw, &text) != nil {
			r.Fail(path, errors.New("must be a time as a text"))
			continue
		}
		if t := r.Moment(path, text); t > c.Now-24*3600*form.Second && t <= c.Now {
			c.Listing.Moves++
		}
	}
	r.Done(o)
}

// prices reads the price wanted from each supplier.
func (r *reader) prices(o *form.Fields) {
	r.c.Prices = map[string]plan.Wanted{}
	for _, name := range slices.Sorted(maps.Keys(o.Values)) {
		raw, _ := o.Take(name)
		f, err := form.Object(o.Name(name), raw)
		if err != nil {
			r.Fail(o.Name(name), errors.New("must be a JSON object"))
			continue
		}
		r.c.Prices[name] = r.wanted(f)
		r.Done(f)
	}
}

func (r *reader) wanted(f *form.Fields) (w plan.Wanted) {
	if _, ok := f.Values["broken"]; ok {
		w.Broken = r.Text(f, "broken", true) != ""
		return w
	}
	if raw, ok := f.Values["price"]; ok && string(raw) == "null" {
		f.Take("price")
		return w
	}
	cur := r.c.Currency
	w.Found, w.Price = true, r.price(f, "price")
	w.Profit, w.ProfitNow = r.Signed(f, "profit", cur, true), r.Signed(f, "profit_now", cur, true)
	w.ByRival = r.Word(f, "bound_by", "aim", "rival", "keep", "most") == "rival"
	if r.Needed(f, "keeps_met") {
		w.KeepsMet = r.Flag(f, "keeps_met")
	}
	return w
}

// price is an amount above 0.
func (r *reader) price(f *form.Fields, key string) int64 {
	v, _ := r.Amount(f, key, r.c.Currency, true)
	if r.Err == nil && v == 0 {
		r.Fail(f.Name(key), errors.New("must be above 0"))
	}
	return v
}

func (r *reader) time(f *form.Fields, key string) (t int64) {
	if text := r.Text(f, key, true); r.Err == nil {
		t = r.Moment(f.Name(key), text)
	}
	return t
}

func (r *reader) whole(f *form.Fields, key string, least int64) int64 {
	r.Needed(f, key)
	return r.Count(f, key, least)
}

func (r *reader) needed(f *form.Fields, key string) []*form.Fields {
	r.Needed(f, key)
	return r.List(f, key)
}

// Answer works the case out. It fails where nothing is said of the price from
// the supplier that is chosen.
func (c *Case) Answer() (Answer, error) {
	at, gives := c.Stock.Choose(c.Links, c.Now, c.Listing.Quantity)
	a := Answer{ID: c.ID, Supplier: c.Suppliers[at], Offer: gives.Offer, Why: gives.Why, Lines: []Line{}}
	w, ok := c.Prices[a.Supplier]
	if !ok {
		return a, fmt.Errorf("prices: nothing for %s", a.Supplier)
	}
	w.Offer, w.Landed = gives.Offer, c.Links[at].Landed
	for _, x := range c.Guards.WorkOut(c.Listing, w) {
		line := Line{Kind: x.Kind, Verdict: x.Verdict}
		if x.Price != nil {
			line.Price = &[2]string{c.show(x.Price.From), c.show(x.Price.To)}
		}
		if x.Quantity != nil {
			line.Quantity = &[2]int64{x.Quantity.From, x.Quantity.To}
		}
		if x.Why != "" {
			line.Why = &x.Why
		}
		a.Lines = append(a.Lines, line)
	}
	return a, nil
}

func (c *Case) show(minor int64) string { return money.Of(minor, c.Currency).String() }

// AnswerLineOf reads a case and answers it, errors included, as one JSON object.
func AnswerLineOf(text []byte) []byte {
	c, err := ReadCase(text)
	if err == nil {
		var a Answer
		if a, err = c.Answer(); err == nil {
			return form.Line(a)
		}
	}
	return form.Refusal(c.ID, err)
}

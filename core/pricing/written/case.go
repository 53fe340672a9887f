// Package written reads and writes the file forms of package pricing: the cases
// of docs/definitions/money.md, price rules, and the fee schedules of docs/fees.md. What
// can't be read is an error that names the field.
package written

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"

	"easymargin/core/form"
	"easymargin/core/money"
	"easymargin/core/pricing"
)

// Case is one written case of docs/definitions/money.md, "A case and its answer", read.
type Case struct {
	ID       string
	Terms    *pricing.Terms
	Cost     pricing.Cost
	Outbound int64
	Wish     pricing.Wish
	shown    struct{ outbound bool }
}

// reader reads the parts of a case.
type reader struct{ form.Reader }

// Answer is what is said of a case; amounts in major units.
type Answer struct {
	ID         string         `json:"id"`
	LandedCost string         `json:"landed_cost"`
	BreakEven  *string        `json:"break_even"`
	AimPrice   *string        `json:"aim_price"`
	FloorPrice *string        `json:"floor_price"`
	Price      *string        `json:"price"`
	BoundBy    *pricing.Bound `json:"bound_by"`
	Profit     *string        `json:"profit"`
	Margin     *string        `json:"margin"`
	Return     *string        `json:"return"`
	Lines      []AnswerLine   `json:"lines"`
	Reason     pricing.Bound  `json:"reason,omitempty"`
}

// AnswerLine is one line of an answer.
type AnswerLine struct {
	Name   string `json:"name"`
	Amount string `json:"amount"`
}

// ReadCase reads one JSON object. The error names the field; the ID is filled
// in wherever it could be read.
func ReadCase(text []byte) (Case, error) {
	var c Case
	top, err := form.Object("", text)
	if err != nil {
		return c, err
	}
	r := &reader{}
	c.ID = r.Text(top, "id", true)
	if r.Err != nil {
		return c, r.Err
	}
	cur := money.Currency(r.Text(top, "currency", true))
	if r.Err == nil && !cur.Valid() {
		r.Fail("currency", fmt.Errorf("%q is not a currency with 0, 2 or 3 decimals", string(cur)))
	}
	spec := pricing.Spec{Currency: cur}
	if o := r.Child(top, "cost", true); r.Err == nil {
		r.cost(o, &c, cur)
	}
	spec.Delivery, spec.Charged = r.charged(top, cur)
	c.Outbound, c.shown.outbound = r.Amount(top, "outbound", cur, false)
	if v, ok := r.Amount(top, "limit", cur, false); ok {
		if v < 1 {
			r.Fail("limit", errors.New("must be above 0"))
		}
		spec.Limit = v
	}
	if o := r.Child(top, "tax", false); o != nil {
		spec.Tax.Way = pricing.TaxWay(r.Text(o, "way", true))
		spec.Tax.Rate, _ = r.Rate(o, "rate", false)
		if spec.Tax.Way != "" && r.Err == nil && !form.OneOf(string(spec.Tax.Way), "included", "added", "none") {
			r.Fail("tax.way", fmt.Errorf("%q is none of included, added, none", string(spec.Tax.Way)))
		}
		r.Done(o)
	}
	for _, o := range r.List(top, "fees") {
		spec.Fees = append(spec.Fees, r.fee(o, cur))
	}
	for _, o := range r.List(top, "allowances") {
		spec.Allowances = append(spec.Allowances, r.allowance(o))
	}
	c.Wish = r.wish(top, cur)
	r.Done(top)
	if r.Err != nil {
		return c, r.Err
	}
	c.Terms, err = pricing.NewTerms(spec)
	return c, err
}

// ReadWish reads what a seller wants, a JSON object of a case's keys aims,
// keep, least, most, endings and market. The error names the field.
func ReadWish(text []byte, c money.Currency) (pricing.Wish, error) {
	top, err := form.Object("", text)
	if err != nil {
		return pricing.Wish{}, err
	}
	r := &reader{}
	w := r.wish(top, c)
	r.Done(top)
	return w, r.Err
}

func (r *reader) wish(top *form.Fields, cur money.Currency) pricing.Wish {
	var w pricing.Wish
	for _, o := range r.List(top, "aims") {
		w.Aims = append(w.Aims, r.condition(o, cur))
	}
	for _, o := range r.List(top, "keep") {
		w.Keep = append(w.Keep, r.condition(o, cur))
	}
	w.Least, _ = r.Amount(top, "least", cur, false)
	if v, ok := r.Amount(top, "most", cur, false); ok {
		w.Most = &v
		if v < w.Least {
			r.Fail("least", errors.New("is above most"))
		}
	}
	if o := r.Child(top, "endings", false); o != nil {
		w.Endings = r.endings(o, cur)
	}
	if o := r.Child(top, "market", false); o != nil {
		w.Market = r.market(o, cur)
	}
	return w
}

// charged reads delivery_charged: one amount, or bands by the item price.
func (r *reader) charged(top *form.Fields, cur money.Currency) (*int64, []pricing.ChargedBand) {
	const key = "delivery_charged"
	if raw := bytes.TrimSpace(top.Values[key]); len(raw) == 0 || raw[0] != '[' {
		if v, ok := r.Amount(top, key, cur, false); ok {
			return &v, nil
		}
		return nil, nil
	}
	bands := []pricing.ChargedBand{}
	for _, o := range r.List(top, key) {
		var b pricing.ChargedBand
		b.From, _ = r.Amount(o, "from", cur, true)
		b.Amount, _ = r.Amount(o, "amount", cur, true)
		r.Done(o)
		bands = append(bands, b)
	}
	return nil, bands
}

func (r *reader) cost(o *form.Fields, c *Case, cur money.Currency) {
	from := cur
	if v := r.Text(o, "currency", false); v != "" {
		from = money.Currency(v)
		if !from.Valid() {
			r.Fail("cost.currency", fmt.Errorf("%q is not a currency with 0, 2 or 3 decimals", v))
		}
	}
	v, _ := r.Amount(o, "unit", from, true)
	c.Cost.Unit = money.Of(v, from)
	if s := r.Text(o, "fx", false); s != "" {
		fx, err := money.ParseFX(s)
		if err != nil {
			r.Fail("cost.fx", err)
		}
		c.Cost.FX = fx
	} else if from != cur {
		r.Fail("cost.fx", fmt.Errorf("needed from %s to %s", from, cur))
	}
	c.Cost.Cushion, _ = r.Rate(o, "cushion", false)
	c.Cost.Duty, _ = r.Rate(o, "duty", false)
	c.Cost.UnitsListed = r.Count(o, "units_listed", 1)
	c.Cost.UnitsBought = r.Count(o, "units_bought", 1)
	c.Cost.Handling, _ = r.Amount(o, "handling", cur, false)
	if d := r.Child(o, "delivery", false); d != nil {
		c.Cost.Charge, _ = r.Amount(d, "charge", from, false)
		if v, ok := r.Amount(d, "free_from", from, false); ok {
			c.Cost.FreeFrom = &v
		}
		r.Done(d)
	}
	r.Done(o)
}

func (r *reader) fee(o *form.Fields, cur money.Currency) pricing.Fee {
	f := pricing.Fee{Name: r.Text(o, "name", true), Of: pricing.Base(r.Text(o, "of", true))}
	var hasRate bool
	f.Rate, hasRate = r.Rate(o, "rate", false)
	f.Banding = pricing.Banding(r.Text(o, "banding", false))
	f.Fixed, _ = r.Amount(o, "fixed", cur, false)
	if v, ok := r.Amount(o, "least", cur, false); ok {
		f.Least = &v
	}
	if v, ok := r.Amount(o, "most", cur, false); ok {
		f.Most = &v
	}
	if v, ok := r.Rate(o, "tax", false); ok {
		f.Tax = &v
	}
	bands := r.List(o, "bands")
	_, there := o.Values["bands"]
	switch {
	case there && hasRate:
		r.Fail(o.Path+".rate", errors.New("stands beside bands; one of the two"))
	case there && len(bands) == 0:
		r.Fail(o.Path+".bands", errors.New("needs at least one band"))
	case !there && f.Banding != "":
		r.Fail(o.Path+".banding", errors.New("says how bands work, and there are no bands"))
	}
	for i, b := range bands {
		var n pricing.Band
		_, flat := b.Values["fixed"]
		n.Rate, _ = r.Rate(b, "rate", !flat)
		to, has := r.Amount(b, "to", cur, false)
		switch {
		case has && i == len(bands)-1:
			r.Fail(b.Path+".to", errors.New("the last band has no end"))
		case !has && i < len(bands)-1:
			r.Fail(b.Path+".to", errors.New("is needed in every band but the last"))
		}
		n.To = to
		fixed, has := r.Amount(b, "fixed", cur, false)
		if has && f.Banding == pricing.Slices {
			r.Fail(b.Path+".fixed", errors.New("a band of slices has no fixed part"))
		}
		n.Fixed = fixed
		r.Done(b)
		f.Bands = append(f.Bands, n)
	}
	r.Done(o)
	return f
}

func (r *reader) condition(o *form.Fields, cur money.Currency) pricing.Condition {
	c := pricing.Condition{Kind: pricing.Kind(r.Text(o, "kind", true))}
	switch c.Kind {
	case pricing.MinProfit, pricing.MinPrice:
		c.Amount = r.Signed(o, "value", cur, true)
	case pricing.MinMargin, pricing.MinReturn:
		c.Rate = r.SignedRate(o, "value")
	case pricing.Markup:
		c.Rate = r.SignedRate(o, "value")
		c.Amount = r.Signed(o, "plus", cur, false)
	default:
		r.Fail(o.Path+".kind", fmt.Errorf("%q is none of profit, margin, return, markup, price", string(c.Kind)))
	}
	r.Done(o)
	return c
}

func (r *reader) endings(o *form.Fields, cur money.Currency) pricing.Endings {
	e := pricing.Endings{Way: pricing.Way(r.Text(o, "way", false))}
	if e.Way == "" {
		e.Way = pricing.Up
	}
	if !form.OneOf(string(e.Way), "up", "down", "nearest") {
		r.Fail("endings.way", fmt.Errorf("%q is none of up, down, nearest", string(e.Way)))
	}
	e.Every, _ = r.Amount(o, "every", cur, true)
	if e.Every < 1 {
		r.Fail("endings.every", errors.New("must be above 0"))
	}
	var at []json.RawMessage
	if raw, ok := o.Take("at"); !ok || json.Unmarshal(raw, &at) != nil || len(at) == 0 {
		r.Fail("endings.at", errors.New("needs a list of at least one amount"))
	}
	for i, raw := range at {
		path := fmt.Sprintf("endings.at[%d]", i)
		var s string
		if json.Unmarshal(raw, &s) != nil || len(raw) > 0 && raw[0] != '"' {
			r.Fail(path, errors.New("must be an amount as a text"))
			continue
		}
		v, err := money.Parse(s, cur)
		switch {
		case err != nil:
			r.Fail(path, err)
		case v.Minor < 0 || v.Minor >= e.Every || s[0] == '-':
			r.Fail(path, errors.New("must be from 0 to below every"))
		}
		e.At = append(e.At, v.Minor)
	}
	sort.Slice(e.At, func(i, j int) bool { return e.At[i] < e.At[j] })
	r.Done(o)
	return e
}

func (r *reader) market(o *form.Fields, cur money.Currency) pricing.Market {
	m := pricing.Market{Stance: pricing.Stance(r.Text(o, "stance", true))}
	if !form.OneOf(string(m.Stance), "ignore", "below", "equal", "above") {
		r.Fail("market.stance", fmt.Errorf("%q is none of ignore, below, equal, above", string(m.Stance)))
	}
	switch against := r.Text(o, "against", false); against {
	case "", "lowest":
	case "lead":
		m.AgainstLead = true
	default:
		r.Fail("market.against", fmt.Errorf("%q is none of lowest, lead", against))
	}
	if s := r.Text(o, "by", false); strings.HasSuffix(s, "%") {
		v, err := money.ParseRate(s)
		if err == nil && s[0] == '-' {
			err = errors.New("must not be below 0")
		}
		if err != nil {
			r.Fail("market.by", err)
		}
		m.ByRate, m.ByIsRate = v, true
	} else if _, there := o.Values["by"]; there {
		o.Forget("by")
		m.By, _ = r.Amount(o, "by", cur, false)
	}
	m.MayExceedAim = r.Flag(o, "may_exceed_aim")
	leads := 0
	for _, f := range r.List(o, "offers") {
		var x pricing.Offer
		x.Item, _ = r.Amount(f, "item", cur, true)
		x.Delivery, _ = r.Amount(f, "delivery", cur, false)
		x.Ours, x.Lead = r.Flag(f, "ours"), r.Flag(f, "lead")
		if x.Lead {
			if leads++; leads > 1 {
				r.Fail(f.Path+".lead", errors.New("two offers lead"))
			}
		}
		r.Done(f)
		m.Offers = append(m.Offers, x)
	}
	r.Done(o)
	return m
}

// Answer works the case out.
func (c *Case) Answer() (Answer, error) {
	cur := c.Terms.Currency()
	show := func(v int64) *string { s := money.Of(v, cur).String(); return &s }
	landed, err := c.Cost.Landed(cur)
	if err != nil {
		return Answer{}, fmt.Errorf("cost: %w", err)
	}
	spend := pricing.Spend{Landed: landed, Outbound: c.Outbound}
	a := Answer{ID: c.ID, LandedCost: *show(landed), Lines: []AnswerLine{}}
	if v, ok := c.Terms.BreakEven(spend); ok {
		a.BreakEven = show(v)
	}
	if len(c.Wish.Aims) > 0 {
		if v, ok := c.Terms.Least(c.Wish.Aims, spend); ok {
			a.AimPrice = show(v)
		}
	}
	if v, ok := c.Terms.Floor(&c.Wish, spend); ok {
		a.FloorPrice = show(v)
	}
	choice, err := c.Terms.Choose(&c.Wish, spend)
	if err != nil {
		return Answer{}, fmt.Errorf("price: %w", err)
	}
	if !choice.Found {
		a.Reason = choice.Bound
		return a, nil
	}
	q, err := c.Terms.Quote(nil, spend, money.Of(choice.Price, cur))
	if err != nil {
		return Answer{}, fmt.Errorf("price: %w", err)
	}
	a.Price, a.BoundBy, a.Profit = show(choice.Price), &choice.Bound, show(q.Profit)
	if s, ok := money.Percent(q.Profit, q.Net); ok {
		a.Margin = &s
	}
	if spent, ok := money.Add(landed, c.Outbound); ok {
		if s, ok := money.Percent(q.Profit, spent); ok {
			a.Return = &s
		}
	}
	for _, l := range q.Lines {
		if l.Kind == pricing.LineOutbound && !c.shown.outbound {
			continue
		}
		a.Lines = append(a.Lines, AnswerLine{l.Name, *show(l.Amount)})
	}
	return a, nil
}

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

package written

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// Case is one written case of design/money.md, "A case and its answer", read.
type Case struct {
	ID       string
	Terms    *pricing.Terms
	Cost     pricing.Cost
	Outbound int64
	Wish     pricing.Wish
	shown    struct{ outbound bool }
}

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
	top, err := object("", text)
	if err != nil {
		return c, err
	}
	r := &reader{}
	c.ID = r.text(top, "id", true)
	if r.err != nil {
		return c, r.err
	}
	cur := money.Currency(r.text(top, "currency", true))
	if r.err == nil && !cur.Valid() {
		r.fail("currency", fmt.Errorf("%q is not a currency with 0, 2 or 3 decimals", string(cur)))
	}
	spec := pricing.Spec{Currency: cur}
	if o := r.child(top, "cost", true); r.err == nil {
		r.cost(o, &c, cur)
	}
	if v, ok := r.amount(top, "delivery_charged", cur, false); ok {
		spec.Delivery = &v
	}
	c.Outbound, c.shown.outbound = r.amount(top, "outbound", cur, false)
	if v, ok := r.amount(top, "limit", cur, false); ok {
		if v < 1 {
			r.fail("limit", errors.New("must be above 0"))
		}
		spec.Limit = v
	}
	if o := r.child(top, "tax", false); o != nil {
		spec.Tax.Way = pricing.TaxWay(r.text(o, "way", true))
		spec.Tax.Rate, _ = r.rate(o, "rate", false)
		if spec.Tax.Way != "" && r.err == nil && !oneOf(string(spec.Tax.Way), "included", "added", "none") {
			r.fail("tax.way", fmt.Errorf("%q is none of included, added, none", string(spec.Tax.Way)))
		}
		r.done(o)
	}
	for _, o := range r.list(top, "fees") {
		spec.Fees = append(spec.Fees, r.fee(o, cur))
	}
	for _, o := range r.list(top, "allowances") {
		spec.Allowances = append(spec.Allowances, r.allowance(o))
	}
	c.Wish = r.wish(top, cur)
	r.done(top)
	if r.err != nil {
		return c, r.err
	}
	c.Terms, err = pricing.NewTerms(spec)
	return c, err
}

// ReadWish reads what a seller wants, a JSON object of a case's keys aims,
// keep, least, most, endings and market. The error names the field.
func ReadWish(text []byte, c money.Currency) (pricing.Wish, error) {
	top, err := object("", text)
	if err != nil {
		return pricing.Wish{}, err
	}
	r := &reader{}
	w := r.wish(top, c)
	r.done(top)
	return w, r.err
}

func (r *reader) wish(top *fields, cur money.Currency) pricing.Wish {
	var w pricing.Wish
	for _, o := range r.list(top, "aims") {
		w.Aims = append(w.Aims, r.condition(o, cur))
	}
	for _, o := range r.list(top, "keep") {
		w.Keep = append(w.Keep, r.condition(o, cur))
	}
	w.Least, _ = r.amount(top, "least", cur, false)
	if v, ok := r.amount(top, "most", cur, false); ok {
		w.Most = &v
		if v < w.Least {
			r.fail("least", errors.New("is above most"))
		}
	}
	if o := r.child(top, "endings", false); o != nil {
		w.Endings = r.endings(o, cur)
	}
	if o := r.child(top, "market", false); o != nil {
		w.Market = r.market(o, cur)
	}
	return w
}

func (r *reader) cost(o *fields, c *Case, cur money.Currency) {
	from := cur
	if v := r.text(o, "currency", false); v != "" {
		from = money.Currency(v)
		if !from.Valid() {
			r.fail("cost.currency", fmt.Errorf("%q is not a currency with 0, 2 or 3 decimals", v))
		}
	}
	v, _ := r.amount(o, "unit", from, true)
	c.Cost.Unit = money.Of(v, from)
	if s := r.text(o, "fx", false); s != "" {
		fx, err := money.ParseFX(s)
		if err != nil {
			r.fail("cost.fx", err)
		}
		c.Cost.FX = fx
	} else if from != cur {
		r.fail("cost.fx", fmt.Errorf("needed from %s to %s", from, cur))
	}
	c.Cost.Cushion, _ = r.rate(o, "cushion", false)
	c.Cost.Duty, _ = r.rate(o, "duty", false)
	c.Cost.UnitsListed = r.count(o, "units_listed", 1)
	c.Cost.UnitsBought = r.count(o, "units_bought", 1)
	c.Cost.Handling, _ = r.amount(o, "handling", cur, false)
	if d := r.child(o, "delivery", false); d != nil {
		c.Cost.Charge, _ = r.amount(d, "charge", from, false)
		if v, ok := r.amount(d, "free_from", from, false); ok {
			c.Cost.FreeFrom = &v
		}
		r.done(d)
	}
	r.done(o)
}

func (r *reader) fee(o *fields, cur money.Currency) pricing.Fee {
	f := pricing.Fee{Name: r.text(o, "name", true), Of: pricing.Base(r.text(o, "of", true))}
	var hasRate bool
	f.Rate, hasRate = r.rate(o, "rate", false)
	f.Banding = pricing.Banding(r.text(o, "banding", false))
	f.Fixed, _ = r.amount(o, "fixed", cur, false)
	if v, ok := r.amount(o, "least", cur, false); ok {
		f.Least = &v
	}
	if v, ok := r.amount(o, "most", cur, false); ok {
		f.Most = &v
	}
	if v, ok := r.rate(o, "tax", false); ok {
		f.Tax = &v
	}
	bands := r.list(o, "bands")
	_, there := o.values["bands"]
	switch {
	case there && hasRate:
		r.fail(o.path+".rate", errors.New("stands beside bands; one of the two"))
	case there && len(bands) == 0:
		r.fail(o.path+".bands", errors.New("needs at least one band"))
	case !there && f.Banding != "":
		r.fail(o.path+".banding", errors.New("says how bands work, and there are no bands"))
	}
	for i, b := range bands {
		var n pricing.Band
		_, flat := b.values["fixed"]
		n.Rate, _ = r.rate(b, "rate", !flat)
		to, has := r.amount(b, "to", cur, false)
		switch {
		case has && i == len(bands)-1:
			r.fail(b.path+".to", errors.New("the last band has no end"))
		case !has && i < len(bands)-1:
			r.fail(b.path+".to", errors.New("is needed in every band but the last"))
		}
		n.To = to
		fixed, has := r.amount(b, "fixed", cur, false)
		if has && f.Banding == pricing.Slices {
			r.fail(b.path+".fixed", errors.New("a band of slices has no fixed part"))
		}
		n.Fixed = fixed
		r.done(b)
		f.Bands = append(f.Bands, n)
	}
	r.done(o)
	return f
}

func (r *reader) condition(o *fields, cur money.Currency) pricing.Condition {
	c := pricing.Condition{Kind: pricing.Kind(r.text(o, "kind", true))}
	switch c.Kind {
	case pricing.MinProfit, pricing.MinPrice:
		c.Amount = r.signed(o, "value", cur, true)
	case pricing.MinMargin, pricing.MinReturn:
		c.Rate = r.signedRate(o, "value")
	case pricing.Markup:
		c.Rate = r.signedRate(o, "value")
		c.Amount = r.signed(o, "plus", cur, false)
	default:
		r.fail(o.path+".kind", fmt.Errorf("%q is none of profit, margin, return, markup, price", string(c.Kind)))
	}
	r.done(o)
	return c
}

func (r *reader) endings(o *fields, cur money.Currency) pricing.Endings {
	e := pricing.Endings{Way: pricing.Way(r.text(o, "way", false))}
	if e.Way == "" {
		e.Way = pricing.Up
	}
	if !oneOf(string(e.Way), "up", "down", "nearest") {
		r.fail("endings.way", fmt.Errorf("%q is none of up, down, nearest", string(e.Way)))
	}
	e.Every, _ = r.amount(o, "every", cur, true)
	if e.Every < 1 {
		r.fail("endings.every", errors.New("must be above 0"))
	}
	var at []json.RawMessage
	if raw, ok := o.take("at"); !ok || json.Unmarshal(raw, &at) != nil || len(at) == 0 {
		r.fail("endings.at", errors.New("needs a list of at least one amount"))
	}
	for i, raw := range at {
		path := fmt.Sprintf("endings.at[%d]", i)
		var s string
		if json.Unmarshal(raw, &s) != nil || len(raw) > 0 && raw[0] != '"' {
			r.fail(path, errors.New("must be an amount as a text"))
			continue
		}
		v, err := money.Parse(s, cur)
		switch {
		case err != nil:
			r.fail(path, err)
		case v.Minor < 0 || v.Minor >= e.Every || s[0] == '-':
			r.fail(path, errors.New("must be from 0 to below every"))
		}
		e.At = append(e.At, v.Minor)
	}
	sort.Slice(e.At, func(i, j int) bool { return e.At[i] < e.At[j] })
	r.done(o)
	return e
}

func (r *reader) market(o *fields, cur money.Currency) pricing.Market {
	m := pricing.Market{Stance: pricing.Stance(r.text(o, "stance", true))}
	if !oneOf(string(m.Stance), "ignore", "below", "equal", "above") {
		r.fail("market.stance", fmt.Errorf("%q is none of ignore, below, equal, above", string(m.Stance)))
	}
	switch against := r.text(o, "against", false); against {
	case "", "lowest":
	case "lead":
		m.AgainstLead = true
	default:
		r.fail("market.against", fmt.Errorf("%q is none of lowest, lead", against))
	}
	if s := r.text(o, "by", false); strings.HasSuffix(s, "%") {
		v, err := money.ParseRate(s)
		if err == nil && s[0] == '-' {
			err = errors.New("must not be below 0")
		}
		if err != nil {
			r.fail("market.by", err)
		}
		m.ByRate, m.ByIsRate = v, true
	} else if _, there := o.values["by"]; there {
		o.seen["by"] = false
		m.By, _ = r.amount(o, "by", cur, false)
	}
	m.MayExceedAim = r.flag(o, "may_exceed_aim")
	leads := 0
	for _, f := range r.list(o, "offers") {
		var x pricing.Offer
		x.Item, _ = r.amount(f, "item", cur, true)
		x.Delivery, _ = r.amount(f, "delivery", cur, false)
		x.Ours, x.Lead = r.flag(f, "ours"), r.flag(f, "lead")
		if x.Lead {
			if leads++; leads > 1 {
				r.fail(f.path+".lead", errors.New("two offers lead"))
			}
		}
		r.done(f)
		m.Offers = append(m.Offers, x)
	}
	r.done(o)
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
			return mustJSON(a)
		}
	}
	var id *string
	if c.ID != "" {
		id = &c.ID
	}
	return mustJSON(struct {
		ID    *string `json:"id"`
		Error string  `json:"error"`
	}{id, err.Error()})
}

func mustJSON(v any) []byte {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		panic(err) // plain texts can't fail to encode
	}
	return bytes.TrimRight(b.Bytes(), "\n")
}

// Package written reads orders of docs/orders.md, "What an order comes to", a JSON
// object each, and writes what they come to. What can't be read is an error that
// names the field.
package written

import (
	"errors"
	"fmt"
	"slices"

	"easymargin/core/form"
	"easymargin/core/money"
	"easymargin/core/tally"
)

// Case is an order, read, with the names of its lines.
type Case struct {
	ID       string
	Currency money.Currency
	Lines    []string
	Order    tally.Order
}

// ReadCase reads one JSON object. The error names the field; the ID is filled in
// wherever it could be read.
func ReadCase(text []byte) (c Case, err error) {
	r, top, id, currency := form.Case(text)
	if c.ID, c.Currency = id, currency; r.Err != nil {
		return c, r.Err
	}
	if r.Needed(top, "tax_included") {
		c.Order.TaxIncluded = r.Flag(top, "tax_included")
	}
	if r.Needed(top, "lines") {
		for _, o := range r.List(top, "lines") {
			c.line(r, o)
		}
		if r.Err == nil && len(c.Lines) == 0 {
			r.Fail("lines", errors.New("is empty"))
		}
	}
	c.Order.Delivery, _ = r.Amount(top, "delivery", c.Currency, false)
	if _, there := top.Values["refunds"]; there {
		for _, o := range r.List(top, "refunds") {
			c.refund(r, o)
		}
	}
	r.Done(top)
	return c, r.Err
}

func (c *Case) line(r *form.Reader, o *form.Fields) {
	name := r.Text(o, "line", true)
	if slices.Contains(c.Lines, name) {
		r.Fail(o.Name("line"), fmt.Errorf("%q is named twice", name))
	}
	l := tally.Line{Units: 1}
	if r.Needed(o, "units") {
		l.Units = r.Count(o, "units", 1)
	}
	l.Price, _ = r.Amount(o, "price", c.Currency, true)
	l.Rate = rate(r, o)
	r.Done(o)
	c.Lines, c.Order.Lines = append(c.Lines, name), append(c.Order.Lines, l)
}

// rate is a percentage without its sign, with at most two decimals.
func rate(r *form.Reader, o *form.Fields) money.Rate {
	text := r.Text(o, "rate", true)
	if r.Err != nil {
		return 0
	}
	v, err := money.ParseRate(text + "%")
	switch {
	case err != nil:
		err = fmt.Errorf("%q is not a percentage such as 20 or 5.5", text)
	case v < 0:
		err = errors.New("must not be below 0")
	case v%(money.One/10_000) != 0:
		err = fmt.Errorf("%q has more than 2 decimals", text)
	}
	if err != nil {
		r.Fail(o.Name("rate"), err)
	}
	return v
}

func (c *Case) refund(r *form.Reader, o *form.Fields) {
	out := tally.Refund{Delivery: r.Word(o, "of", "goods", "delivery") == "delivery"}
	if !out.Delivery {
		out.Line = slices.Index(c.Lines, r.Text(o, "line", true)) // -1 is refused when the order is worked out
	}
	out.Amount, _ = r.Amount(o, "amount", c.Currency, true)
	r.Done(o)
	c.Order.Refunds = append(c.Order.Refunds, out)
}

// Answer is what an order comes to; amounts in major units.
type Answer struct {
	ID     string `json:"id"`
	Lines  []Line `json:"lines"`
	Total  Sum    `json:"total"`
	ByRate []Rate `json:"by_rate"`
}

// Sum is what was paid, given back and kept, and the two parts of what was kept.
type Sum struct {
	Paid      string `json:"paid"`
	GivenBack string `json:"given_back"`
	Kept      string `json:"kept"`
	Net       string `json:"net"`
	Tax       string `json:"tax"`
}

// Line is what a line comes to.
type Line struct {
	Line     string `json:"line"`
	Goods    string `json:"goods"`
	Delivery string `json:"delivery"`
	Sum
}

// Rate is what the lines at one rate come to.
type Rate struct {
	Rate  string `json:"rate"`
	Gross string `json:"gross"`
	Net   string `json:"net"`
	Tax   string `json:"tax"`
}

// Write is a tally as an answer.
func (c *Case) Write(t *tally.Tally) Answer {
	text := func(minor int64) string { return money.Of(minor, c.Currency).String() }
	sum := func(s tally.Sum) Sum {
		return Sum{text(s.Paid), text(s.GivenBack), text(s.Kept), text(s.Net), text(s.Tax)}
	}
	out := Answer{ID: c.ID, Total: sum(t.Total)}
	for i, l := range t.Lines {
		out.Lines = append(out.Lines, Line{c.Lines[i], text(l.Goods), text(l.Delivery), sum(l)})
	}
	for _, r := range t.ByRate {
		percent := r.Rate.String()
		out.ByRate = append(out.ByRate, Rate{percent[:len(percent)-1], text(r.Gross), text(r.Net), text(r.Tax)})
	}
	return out
}

// AnswerLineOf answers one case, as a line of JSON. A refund that can't be is
// answered with the name of its field alone, as the definition's cases are.
func AnswerLineOf(text []byte) []byte {
	c, err := ReadCase(text)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	t, err := tally.Of(&c.Order)
	var field *tally.FieldError
	if errors.As(err, &field) {
		return form.Refusal(c.ID, errors.New(field.Field))
	}
	return form.Line(c.Write(t))
}

// Package written reads cases of docs/definitions/buying.md, a JSON object each,
// and writes their answers. What can't be read is an error that names the field.
package written

import (
	"fmt"
	"slices"

	"easymargin/core/buying"
	"easymargin/core/form"
	"easymargin/core/money"
)

// Case is a purchase, read, with the names of its suppliers and lines.
type Case struct {
	ID        string
	Currency  money.Currency
	Suppliers []string
	Lines     []string
	Purchase  buying.Purchase
}

// ReadCase reads one JSON object. The error names the field; the ID is filled in
// wherever it could be read.
func ReadCase(text []byte) (c Case, err error) {
	r, top, id, currency := form.Case(text)
	if c.ID, c.Currency = id, currency; r.Err != nil {
		return c, r.Err
	}
	if r.Needed(top, "suppliers") {
		for _, o := range r.List(top, "suppliers") {
			c.supplier(r, o)
		}
	}
	if r.Needed(top, "lines") {
		for _, o := range r.List(top, "lines") {
			c.line(r, o)
		}
	}
	r.Done(top)
	return c, r.Err
}

func (c *Case) supplier(r *form.Reader, o *form.Fields) {
	name := r.Text(o, "supplier", true)
	if slices.Contains(c.Suppliers, name) {
		r.Fail(o.Name("supplier"), fmt.Errorf("%q is named twice", name))
	}
	var s buying.Supplier
	s.Delivery, _ = r.Amount(o, "delivery", c.Currency, false)
	s.Least, _ = r.Amount(o, "least", c.Currency, false)
	if free, there := r.Amount(o, "free_from", c.Currency, false); there {
		s.FreeFrom = &free
	}
	r.Done(o)
	c.Suppliers, c.Purchase.Suppliers = append(c.Suppliers, name), append(c.Purchase.Suppliers, s)
}

// limit is a count that needn't be there; nil where it isn't.
func limit(r *form.Reader, o *form.Fields, key string) *int64 {
	if _, there := o.Values[key]; !there {
		return nil
	}
	n := r.Count(o, key, 0)
	return &n
}

func (c *Case) line(r *form.Reader, o *form.Fields) {
	name := r.Text(o, "line", true)
	if slices.Contains(c.Lines, name) {
		r.Fail(o.Name("line"), fmt.Errorf("%q is named twice", name))
	}
	l := buying.Line{WithinDays: limit(r, o, "within_days")}
	if r.Needed(o, "units") {
		l.Units = r.Count(o, "units", 1)
	}
	if r.Needed(o, "options") {
		for _, x := range r.List(o, "options") {
			l.Options = append(l.Options, c.option(r, x))
		}
	}
	r.Done(o)
	c.Lines, c.Purchase.Lines = append(c.Lines, name), append(c.Purchase.Lines, l)
}

func (c *Case) option(r *form.Reader, o *form.Fields) buying.Option {
	name := r.Text(o, "supplier", true)
	x := buying.Option{Supplier: slices.Index(c.Suppliers, name)}
	if r.Err == nil && x.Supplier < 0 {
		r.Fail(o.Name("supplier"), fmt.Errorf("%q is none of the suppliers", name))
	}
	x.Cost, _ = r.Amount(o, "cost", c.Currency, true)
	x.UnitsPerItem, x.LeastItems = r.Count(o, "units_per_item", 1), r.Count(o, "least_items", 1)
	x.Stock, x.LeadDays = limit(r, o, "stock"), r.Count(o, "lead_days", 0)
	r.Done(o)
	return x
}

// Answer is how a purchase is divided; amounts in major units.
type Answer struct {
	ID        string     `json:"id"`
	Total     string     `json:"total"`
	Lines     []Line     `json:"lines"`
	Suppliers []Supplier `json:"suppliers"`
	LeftOver  []LeftOver `json:"left_over"`
	Unserved  []string   `json:"unserved"`
	Proved    *bool      `json:"proved,omitempty"` // false, or left out
	Bound     string     `json:"bound,omitempty"`  // where it isn't proved
}

// Line is what is bought of a line.
type Line struct {
	Line     string `json:"line"`
	Supplier string `json:"supplier"`
	Items    int64  `json:"items"`
	Goods    string `json:"goods"`
}

// Supplier is what goes to a supplier.
type Supplier struct {
	Supplier string `json:"supplier"`
	Goods    string `json:"goods"`
	Delivery string `json:"delivery"`
	ToppedUp string `json:"topped_up"`
}

// LeftOver is what is bought of a line and not needed.
type LeftOver struct {
	Line  string `json:"line"`
	Units int64  `json:"units"`
}

// Write is a split as an answer.
func (c *Case) Write(s *buying.Split) Answer {
	text := func(minor int64) string { return money.Of(minor, c.Currency).String() }
	out := Answer{ID: c.ID, Total: text(s.Total), Lines: []Line{}, Suppliers: []Supplier{}, LeftOver: []LeftOver{}, Unserved: []string{}}
	for _, x := range s.Choices {
		from := c.Purchase.Lines[x.Line].Options[x.Option].Supplier
		out.Lines = append(out.Lines, Line{c.Lines[x.Line], c.Suppliers[from], x.Items, text(x.Goods)})
		if x.LeftOver > 0 {
			out.LeftOver = append(out.LeftOver, LeftOver{c.Lines[x.Line], x.LeftOver})
		}
	}
	for _, b := range s.Suppliers {
		out.Suppliers = append(out.Suppliers, Supplier{c.Suppliers[b.Supplier], text(b.Goods), text(b.Delivery), text(b.ToppedUp)})
	}
	for _, i := range s.Unserved {
		out.Unserved = append(out.Unserved, c.Lines[i])
	}
	if !s.Proved {
		out.Proved, out.Bound = new(bool), text(s.Bound)
	}
	return out
}

// AnswerLineOf answers one case, as a line of JSON. start makes what says when to
// stop looking for something better.
func AnswerLineOf(text []byte, start func() (stop func() bool)) []byte {
	c, err := ReadCase(text)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	s, err := c.Purchase.Cheapest(start())
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	return form.Line(c.Write(&s))
}

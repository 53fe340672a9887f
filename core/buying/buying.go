// Package buying divides what is to be bought among suppliers so that it costs
// least in all: docs/definitions/buying.md. Amounts are whole minor units of one
// currency.
package buying

import (
	"fmt"

	"easymargin/core/money"
)

// Supplier is somebody to buy from. Delivery is asked once a purchase, and not
// where goods reach FreeFrom; goods under Least are topped up to it.
type Supplier struct {
	Delivery int64
	FreeFrom *int64 // nil: it never is free
	Least    int64
}

// Option is a way to have a line from a supplier. The zero value of a limit but
// the stock is none.
type Option struct {
	Supplier     int   // its place among the suppliers
	Cost         int64 // of one item
	UnitsPerItem int64 // at least 1
	LeastItems   int64 // at least 1
	Stock        *int64
	LeadDays     int64
}

// Line is something to buy, whole from one supplier.
type Line struct {
	Units      int64
	WithinDays *int64 // nil: whenever it comes
	Options    []Option
}

// Purchase is what is to be bought, and from whom it can be had.
type Purchase struct {
	Suppliers []Supplier
	Lines     []Line
}

// Choice is what is bought of a line: by which of its options, how many items,
// and what the goods cost.
type Choice struct {
	Line, Option int
	Items, Goods int64
	LeftOver     int64 // units that are bought and not needed
}

// Bought is what goes to one supplier. Goods are without what they are topped up by.
type Bought struct {
	Supplier                  int
	Goods, Delivery, ToppedUp int64
}

// Split is how a purchase is divided.
type Split struct {
	Total     int64
	Choices   []Choice // by line, those that can be had
	Suppliers []Bought // those bought from, in their order
	Unserved  []int    // lines that no option can serve
	Proved    bool     // nothing costs less, nor comes before it among what costs the same
	Bound     int64    // what no split can be below
}

// Error says which field of a purchase can't be used.
type Error struct {
	Field, Words string
}

func (e *Error) Error() string { return e.Field + ": " + e.Words }

// serve is what an option comes to for a line; false where it can't serve it.
func (l *Line) serve(o *Option) (c Choice, ok, fits bool) {
	items := max((l.Units-1)/o.UnitsPerItem+1, o.LeastItems)
	goods, fine := money.MulDiv(items, o.Cost, 1)
	units, also := money.MulDiv(items, o.UnitsPerItem, 1)
	if !fine || !also {
		return c, false, false
	}
	ok = (o.Stock == nil || *o.Stock >= items) && (l.WithinDays == nil || o.LeadDays <= *l.WithinDays)
	return Choice{Items: items, Goods: goods, LeftOver: units - l.Units}, ok, true
}

// choices are what the options of each line come to, by their places; those that
// can't serve it are left out.
func (p *Purchase) choices() ([][]Choice, error) {
	out := make([][]Choice, len(p.Lines))
	most, largest := int64(0), p.largest()
	add := func(field string, v int64) error {
		var ok bool
		if most, ok = money.Add(most, v); !ok || most > largest {
			return &Error{field, "makes the purchase too large to be reckoned with"}
		}
		return nil
	}
	for i := range p.Suppliers {
		s := &p.Suppliers[i]
		if err := add(fmt.Sprintf("suppliers[%d].delivery", i), s.Delivery); err != nil {
			return nil, err
		}
		if err := add(fmt.Sprintf("suppliers[%d].least", i), s.Least); err != nil {
			return nil, err
		}
	}
	for i := range p.Lines {
		dearest := int64(0)
		for j := range p.Lines[i].Options {
			c, ok, fits := p.Lines[i].serve(&p.Lines[i].Options[j])
			field := fmt.Sprintf("lines[%d].options[%d].cost", i, j)
			if !fits || c.Goods > largest {
				return nil, &Error{field, "for as many items it is too large an amount"}
			}
			if !ok {
				continue
			}
			c.Line, c.Option = i, j
			out[i], dearest = append(out[i], c), max(dearest, c.Goods)
		}
		if err := add(fmt.Sprintf("lines[%d].options", i), dearest); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// largest is the most that everything together may cost: what is worked out with
// it stays within 64 bits.
func (p *Purchase) largest() int64 { return 1 << 58 / (int64(len(p.Suppliers)) + 1) }

// Of is what a choice of an option for each line comes to; -1 for one that isn't
// bought. An option that can't serve its line is an error.
func (p *Purchase) Of(options []int) (Split, error) {
	all, err := p.choices()
	if err != nil {
		return Split{}, err
	}
	picks := make([]int, len(all))
	for i := range all {
		picks[i] = -1
		for k, c := range all[i] {
			if i < len(options) && c.Option == options[i] {
				picks[i] = k
			}
		}
		if i < len(options) && options[i] >= 0 && picks[i] < 0 {
			return Split{}, &Error{fmt.Sprintf("lines[%d]", i), "it can't be had that way: there is too little, or it comes too late"}
		}
	}
	return p.split(all, picks), nil
}

// split adds a choice up; picks are places among a line's choices, -1: none.
func (p *Purchase) split(all [][]Choice, picks []int) Split {
	out := Split{Proved: true}
	goods, from := make([]int64, len(p.Suppliers)), make([]bool, len(p.Suppliers))
	for i, k := range picks {
		if len(all[i]) == 0 {
			out.Unserved = append(out.Unserved, i)
		}
		if k < 0 {
			continue
		}
		c := all[i][k]
		s := p.Lines[i].Options[c.Option].Supplier
		goods[s], from[s] = goods[s]+c.Goods, true
		out.Choices = append(out.Choices, c)
	}
	for s := range p.Suppliers {
		if !from[s] {
			continue
		}
		b := p.Suppliers[s].bought(goods[s])
		b.Supplier = s
		out.Suppliers = append(out.Suppliers, b)
		out.Total += b.Goods + b.Delivery + b.ToppedUp
	}
	out.Bound = out.Total
	return out
}

// bought is what goods come to at a supplier.
func (s *Supplier) bought(goods int64) Bought {
	b := Bought{Goods: goods, ToppedUp: max(s.Least-goods, 0)}
	if s.FreeFrom == nil || goods+b.ToppedUp < *s.FreeFrom {
		b.Delivery = s.Delivery
	}
	return b
}

// Serve is what an option comes to for a line, and whether it can serve it.
func (p *Purchase) Serve(line, option int) (Choice, bool) {
	c, ok, fits := p.Lines[line].serve(&p.Lines[line].Options[option])
	return c, ok && fits
}

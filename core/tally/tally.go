// Package tally works out what an order comes to: what the buyer pays for each
// line, what was given back, and the tax and the net amount of what was kept.
// It follows docs/orders.md, "What an order comes to". Amounts are whole minor
// units of one currency; rounding is half away from zero.
package tally

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"

	"easymargin/core/money"
)

// Order is what was bought and what was given back of it.
type Order struct {
	TaxIncluded bool  // prices and delivery have the tax in them
	Delivery    int64 // paid once for the whole order
	Lines       []Line
	Refunds     []Refund // in the order in which they were made
}

// Line is so many units of one thing at one price.
type Line struct {
	Units int64 // at least 1
	Price int64 // of one unit
	Rate  money.Rate
}

// Refund is money given back, as the buyer gets it: tax is in it.
type Refund struct {
	Delivery bool // of the order's delivery; else of a line's goods
	Line     int  // whose goods, from 0
	Amount   int64
}

// Sum is what a line, or the whole order, comes to. Goods and Delivery are what
// the buyer paid for them; Paid is both, Kept is Paid less GivenBack, and Kept is
// Net plus Tax.
type Sum struct {
	Goods, Delivery                 int64
	Paid, GivenBack, Kept, Net, Tax int64
}

// RateSum is what all the lines at one rate of tax come to. Gross is what was kept.
type RateSum struct {
	Rate            money.Rate
	Gross, Net, Tax int64
}

// Tally is what an order comes to.
type Tally struct {
	Lines  []Sum
	Total  Sum
	ByRate []RateSum // rates ascending
}

// FieldError names the field of the order that is wrong, such as refunds[0].amount.
type FieldError struct{ Field, Why string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Why }

func wrong(why, field string, args ...any) error {
	return &FieldError{fmt.Sprintf(field, args...), why}
}

// Of works an order out. The error is a *FieldError: an amount below 0 or out of
// range, a refund of more than is left, or of a line that isn't there.
func Of(o *Order) (*Tally, error) {
	t := &Tally{Lines: make([]Sum, len(o.Lines))}
	if err := t.pay(o); err != nil {
		return nil, err
	}
	left := make([]left, len(o.Lines))
	for i, l := range t.Lines {
		left[i].goods, left[i].delivery = l.Goods, l.Delivery
	}
	for i, r := range o.Refunds {
		if err := giveBack(left, i, r); err != nil {
			return nil, err
		}
	}
	for i := range t.Lines {
		l := &t.Lines[i]
		l.Kept = left[i].goods + left[i].delivery
		l.GivenBack = l.Paid - l.Kept
		l.Tax = TaxIn(l.Kept, o.Lines[i].Rate)
		l.Net = l.Kept - l.Tax
	}
	return t, t.total(o)
}

// TaxIn is the tax that is in an amount which includes it, rounded once.
func TaxIn(gross int64, rate money.Rate) int64 {
	tax, _ := money.MulDiv(gross, int64(rate), int64(money.One)+int64(rate)) // never more than gross
	return tax
}

// pay sets what the buyer pays for each line.
func (t *Tally) pay(o *Order) error {
	goods, units := make([]int64, len(o.Lines)), make([]int64, len(o.Lines))
	var all int64
	for i, l := range o.Lines {
		if l.Units < 1 {
			return wrong("must be at least 1", "lines[%d].units", i)
		}
		if l.Price < 0 || l.Rate < 0 {
			return wrong("must not be below 0", "lines[%d].price", i)
		}
		g, ok := money.MulDiv(l.Price, l.Units, 1)
		if sum, fits := money.Add(all, g); ok && fits {
			goods[i], units[i], all = g, l.Units, sum
			continue
		}
		return wrong("is out of range", "lines[%d].price", i)
	}
	if o.Delivery < 0 || len(o.Lines) == 0 && o.Delivery > 0 {
		return wrong("must not be below 0, and needs a line to be of", "delivery")
	}
	by := goods
	if all == 0 {
		by = units
	}
	delivery, ok := Share(o.Delivery, by)
	if !ok {
		return wrong("is out of range", "delivery")
	}
	for i, l := range o.Lines {
		s := &t.Lines[i]
		s.Goods, s.Delivery = goods[i], delivery[i]
		if !o.TaxIncluded {
			if s.Goods, ok = withTax(s.Goods, l.Rate); !ok {
				return wrong("is out of range", "lines[%d].price", i)
			}
			if s.Delivery, ok = withTax(s.Delivery, l.Rate); !ok {
				return wrong("is out of range", "delivery")
			}
		}
		if s.Paid, ok = money.Add(s.Goods, s.Delivery); !ok {
			return wrong("is out of range", "lines[%d].price", i)
		}
	}
	return nil
}

func withTax(net int64, rate money.Rate) (int64, bool) {
	tax, ok := money.Share(net, rate)
	if !ok {
		return 0, false
	}
	return money.Add(net, tax)
}

type left struct{ goods, delivery int64 }

func giveBack(lines []left, i int, r Refund) error {
	if r.Amount < 0 {
		return wrong("must not be below 0", "refunds[%d].amount", i)
	}
	if !r.Delivery {
		if r.Line < 0 || r.Line >= len(lines) {
			return wrong("is no line of the order", "refunds[%d].line", i)
		}
		l := &lines[r.Line]
		if r.Amount > l.goods {
			return wrong("is more than is left of what was paid for the goods", "refunds[%d].amount", i)
		}
		l.goods -= r.Amount
		return nil
	}
	by, all := make([]int64, len(lines)), int64(0)
	for k, l := range lines {
		by[k], all = l.delivery, all+l.delivery
	}
	if r.Amount > all {
		return wrong("is more than is left of what was paid for delivery", "refunds[%d].amount", i)
	}
	parts, _ := Share(r.Amount, by) // what fitted the order fits a part of it
	for k, part := range parts {
		lines[k].delivery -= part
	}
	return nil
}

func (t *Tally) total(o *Order) error {
	rates := map[money.Rate]*RateSum{}
	for i, l := range t.Lines {
		sum, ok := &t.Total, true
		for _, add := range []struct {
			to *int64
			by int64
		}{{&sum.Goods, l.Goods}, {&sum.Delivery, l.Delivery}, {&sum.Paid, l.Paid}, {&sum.GivenBack, l.GivenBack},
			{&sum.Kept, l.Kept}, {&sum.Net, l.Net}, {&sum.Tax, l.Tax}} {
			if *add.to, ok = money.Add(*add.to, add.by); !ok {
				return wrong("is out of range", "lines[%d].price", i)
			}
		}
		rate := o.Lines[i].Rate
		if rates[rate] == nil {
			rates[rate] = &RateSum{Rate: rate}
		}
		by := rates[rate] // never more than the total, which fits
		by.Gross, by.Net, by.Tax = by.Gross+l.Kept, by.Net+l.Net, by.Tax+l.Tax
	}
	for _, by := range rates {
		t.ByRate = append(t.ByRate, *by)
	}
	slices.SortFunc(t.ByRate, func(a, b RateSum) int { return cmp.Compare(a.Rate, b.Rate) })
	return nil
}

// Share divides an amount in proportion to some weights, none below 0: each part
// is rounded down, and what is left over goes, a unit each, to the parts with the
// largest remainders, earlier ones first. Where all weights are 0, nothing is
// shared out. It is false where the weights' sum is out of range.
func Share(amount int64, weights []int64) ([]int64, bool) {
	var all int64
	for _, w := range weights {
		var ok bool
		if all, ok = money.Add(all, w); !ok {
			return nil, false
		}
	}
	parts := make([]int64, len(weights))
	if all == 0 {
		return parts, true
	}
	rest, order := make([]uint64, len(weights)), make([]int, len(weights))
	over := amount
	for i, w := range weights {
		hi, lo := bits.Mul64(uint64(amount), uint64(w))
		part, remainder := bits.Div64(hi, lo, uint64(all)) // w is at most all, so that it fits
		parts[i], rest[i], order[i] = int64(part), remainder, i
		over -= int64(part)
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(rest[b], rest[a]) })
	for _, i := range order[:over] {
		parts[i]++
	}
	return parts, true
}

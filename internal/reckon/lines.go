package reckon

import (
	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/tally"
)

// PriceLine is one line of a price as it is kept with what was handed over or sold.
type PriceLine struct {
	Kind   string `json:"kind"`
	Name   string `json:"name"`
	Amount int64  `json:"amount"`
	// Each is what a further unit of an order's line adds. Nil: the line is of one unit,
	// or so many times that of one.
	Each *int64 `json:"each,omitempty"`
}

// Lines are the lines of a price, which add up to the profit, at a landed cost; nil:
// as it is now. False where they can't be worked out.
func (b *Book) Lines(f *Figures, price int64, landed *int64) (lines []PriceLine, profit int64, ok bool) {
	if f.Broken != "" {
		return nil, 0, false
	}
	spend := f.Spend
	if landed != nil {
		spend.Landed = *landed
	}
	q, err := f.Terms.Quote(nil, spend, money.Of(price, b.Currency))
	if err != nil {
		return nil, 0, false
	}
	for _, x := range q.Lines {
		lines = append(lines, PriceLine{Kind: string(x.Kind), Name: x.Name, Amount: x.Amount})
	}
	return lines, q.Profit, true
}

// Ordered is what was ordered of a listing in one line of an order.
type Ordered struct {
	Price       int64 // of one unit
	Quantity    int64 // at least 1
	Delivery    int64 // the line's part of what the buyer pays for delivery
	Parcel      int64 // what sending the order's parcel costs more for this line
	TaxIncluded bool
	TaxRate     money.Rate
}

// OrderedLines are the lines of what was ordered, which add up to the profit that is
// expected of it. They follow docs/orders.md, "What an order comes to": delivery is
// paid once, so that the first unit is quoted with it and further ones without, tax
// is rounded once for the whole line, and one parcel is sent. False where they can't
// be worked out.
func (b *Book) OrderedLines(f *Figures, o Ordered) (lines []PriceLine, profit int64, ok bool) {
	if f.Broken != "" {
		return nil, 0, false
	}
	first, err := f.Terms.QuoteCharged(nil, f.Spend, money.Of(o.Price, b.Currency), o.Delivery)
	if err != nil {
		return nil, 0, false
	}
	further, err := f.Terms.QuoteCharged(nil, f.Spend, money.Of(o.Price, b.Currency), 0)
	if err != nil {
		return nil, 0, false
	}
	each := map[string]int64{}
	for _, x := range further.Lines {
		each[string(x.Kind)+x.Name] = x.Amount
	}
	for _, x := range first.Lines {
		l := PriceLine{Kind: string(x.Kind), Name: x.Name, Amount: x.Amount}
		more := each[l.Kind+l.Name]
		switch x.Kind {
		case pricing.LineDelivery, pricing.LineTax:
			more = 0
		case pricing.LineOutbound:
			l.Amount, more = -o.Parcel, 0
		}
		l.Each = &more
		lines = append(lines, l)
	}
	return ForUnits(lines, o, 1)
}

// ForUnits are the lines of an order's line as they are for its quantity, where they
// were for another, and what is left of it. False where an amount is out of range.
func ForUnits(lines []PriceLine, o Ordered, was int64) (out []PriceLine, profit int64, ok bool) {
	for _, l := range lines {
		switch {
		case l.Each == nil:
			l.Amount, ok = money.Times(l.Amount/max(was, 1), o.Quantity)
		case l.Kind == KindTax:
			var paid int64
			paid, ok = money.Times(o.Price, o.Quantity)
			if l.Amount = 0; o.TaxIncluded {
				l.Amount = -tally.TaxIn(paid+o.Delivery, o.TaxRate)
			}
		default:
			var more int64
			more, ok = money.Times(*l.Each, o.Quantity-was)
			l.Amount += more
		}
		if !ok || !money.Believed(max(l.Amount, -l.Amount)) {
			return nil, 0, false
		}
		out, profit = append(out, l), profit+l.Amount
	}
	return out, profit, true
}

// Kinds of a line that what really happened may change.
const (
	KindCost     = string(pricing.LineCost)
	KindOutbound = string(pricing.LineOutbound)
	KindFee      = string(pricing.LineFee)
	KindFeeTax   = string(pricing.LineFeeTax)
	KindTax      = string(pricing.LineTax)
	KindPrice    = string(pricing.LinePrice)
	KindDelivery = string(pricing.LineDelivery)
)

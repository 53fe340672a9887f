package pricing

import (
	"fmt"

	"easymargin/core/money"
)

// Spend is what one sold unit costs the seller, in minor units of the terms' currency.
type Spend struct {
	Landed   int64 // landed cost, C
	Outbound int64 // what the seller pays to send it
}

// LineKind says what a line of a quote is; the margin strip draws by it.
type LineKind string

// The kinds of line, in the order they come in.
const (
	LinePrice     LineKind = "price"
	LineDelivery  LineKind = "delivery"
	LineTax       LineKind = "tax"
	LineFee       LineKind = "fee"
	LineFeeTax    LineKind = "fee tax"
	LineAllowance LineKind = "allowance"
	LineCost      LineKind = "cost"
	LineOutbound  LineKind = "outbound"
)

// Line is one rounded part of a quote; what leaves the seller is negative.
type Line struct {
	Kind   LineKind
	Name   string
	Amount int64
}

// Quote is what is left of one price.
type Quote struct {
	Price    money.Amount
	Net      int64 // N: what the margin is a share of
	BuyerTax int64 // X: added by the marketplace on top
	Profit   int64 // π, the sum of Lines
	Lines    []Line
}

// Quote works out what is left of price p under these terms, line by line.
// It follows docs/definitions/money.md, "What is left at price p": each line is rounded
// once, half away from zero, and the lines add up to the profit exactly.
// Lines are appended to dst, so that a caller who brings room allocates nothing.
func (t *Terms) Quote(dst []Line, c Spend, p money.Amount) (Quote, error) {
	return t.QuoteCharged(dst, c, p, t.Charged(p.Minor))
}

// QuoteCharged is Quote where the buyer pays so much for delivery, minor units,
// whatever the terms say of it: as an order tells it.
func (t *Terms) QuoteCharged(dst []Line, c Spend, p money.Amount, charged int64) (Quote, error) {
	if p.Currency != t.currency {
		return Quote{}, fmt.Errorf("price is in %s, the terms are in %s", p.Currency, t.currency)
	}
	if p.Minor < 0 || c.Landed < 0 || c.Outbound < 0 {
		return Quote{}, fmt.Errorf("price and costs must not be below 0")
	}
	if charged < 0 {
		return Quote{}, fmt.Errorf("delivery charged must not be below 0")
	}
	b, ok := t.basesAt(p.Minor, charged)
	if !ok {
		return Quote{}, money.ErrRange
	}
	q := Quote{Price: p, Net: b.net(), BuyerTax: b.x}
	put := func(k LineKind, name string, v int64, fine bool) {
		var sum int64
		sum, inRange := money.Add(q.Profit, v)
		ok = ok && fine && inRange
		q.Profit = sum
		dst = append(dst, Line{k, name, v})
	}
	put(LinePrice, "item price", p.Minor, true)
	if t.hasDel || charged > 0 {
		put(LineDelivery, "delivery charged", b.delivery, true)
	}
	if t.tax.Way != "" {
		put(LineTax, "tax", -b.tax, true)
	}
	for i := range t.fees {
		v, fine := t.fees[i].at(b.of(t.fees[i].Of))
		put(LineFee, t.fees[i].Name, -v, fine)
	}
	for i := range t.fees {
		if f := &t.fees[i]; f.hasTax {
			v, _ := f.at(b.of(f.Of))
			v, fine := money.Share(v, f.tax)
			put(LineFeeTax, f.taxName, -v, fine)
		}
	}
	for i := range t.allow {
		v, fine := money.Share(b.of(t.allow[i].Of), t.allow[i].Rate)
		put(LineAllowance, t.allow[i].Name, -v, fine)
	}
	put(LineCost, "landed cost", -c.Landed, true)
	put(LineOutbound, "outbound", -c.Outbound, true)
	if !ok {
		return Quote{}, money.ErrRange
	}
	q.Lines = dst
	return q, nil
}

// Profit is what is left of price p, without the lines.
func (t *Terms) Profit(c Spend, p int64) (int64, error) {
	part, ok := t.parts(p)
	if ok {
		if v, ok := money.Add(part.left, -c.Landed); ok {
			if v, ok := money.Add(v, -c.Outbound); ok {
				return v, nil
			}
		}
	}
	return 0, money.ErrRange
}

// Currency is the one all amounts are in.
func (t *Terms) Currency() money.Currency { return t.currency }

// bases are the amounts that shares are taken of, at one price.
type bases struct{ item, delivery, total, tax, x int64 }

func (b *bases) of(base Base) int64 {
	switch base {
	case OfItem:
		return b.item
	case OfTotal:
		return b.total
	}
	return b.total + b.x
}

func (b *bases) net() int64 { return b.total - b.tax }

func (t *Terms) bases(p int64) (bases, bool) { return t.basesAt(p, t.Charged(p)) }

func (t *Terms) basesAt(p, charged int64) (bases, bool) {
	b := bases{item: p, delivery: charged}
	var ok bool
	if b.total, ok = money.Add(p, b.delivery); !ok {
		return b, false
	}
	switch t.tax.Way {
	case TaxIncluded:
		b.tax, ok = money.MulDiv(b.total, int64(t.tax.Rate), int64(money.One+t.tax.Rate))
	case TaxAdded:
		if b.x, ok = money.Share(b.total, t.tax.Rate); ok {
			_, ok = money.Add(b.total, b.x)
		}
	}
	return b, ok
}

// parts are the two numbers that every condition looks at: the net, and what
// is left of it before costs (the contribution, π + C + outbound).
type parts struct{ net, left int64 }

func (t *Terms) parts(p int64) (parts, bool) {
	b, ok := t.bases(p)
	if !ok {
		return parts{}, false
	}
	r := parts{net: b.net()}
	r.left = r.net
	for i := range t.fees {
		f := &t.fees[i]
		v, fine := f.at(b.of(f.Of))
		r.left -= v
		ok = ok && fine && r.left > -1<<62
		if f.hasTax {
			v, fine = money.Share(v, f.tax)
			r.left -= v
			ok = ok && fine && r.left > -1<<62
		}
	}
	for i := range t.allow {
		v, fine := money.Share(b.of(t.allow[i].Of), t.allow[i].Rate)
		r.left -= v
		ok = ok && fine && r.left > -1<<62
	}
	return r, ok
}

// Tax is the way and rate of the terms.
func (t *Terms) Tax() Tax { return t.tax }

// Net is N at price p: what the margin is a share of.
func (t *Terms) Net(p int64) int64 {
	b, _ := t.bases(p)
	return b.net()
}

// NetOfTax is p less the tax included in it: what a markup is reckoned on.
func (t *Terms) NetOfTax(p int64) int64 {
	if t.tax.Way != TaxIncluded {
		return p
	}
	x, _ := money.MulDiv(p, int64(t.tax.Rate), int64(money.One+t.tax.Rate))
	return p - x
}

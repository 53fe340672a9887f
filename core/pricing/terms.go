// Package pricing finds what is left of a price and the least price that
// leaves what a seller wants, exactly. It follows docs/definitions/money.md; the section
// is named where a rule comes from.
//
// Amounts are int64 minor units of the terms' one currency.
package pricing

import (
	"fmt"
	"math"
	"math/bits"

	"easymargin/core/money"
)

// DefaultLimit is the highest price looked at unless the terms say otherwise, in minor units.
const DefaultLimit = 10_000_000

// Base is the amount a fee or an allowance is a share of.
type Base string

// The bases of docs/definitions/money.md, "Fees".
const (
	OfItem     Base = "item"      // the item price p
	OfTotal    Base = "total"     // p and the delivery charged, G
	OfTotalTax Base = "total+tax" // G and the buyer's tax, G + X
)

// TaxWay says whose the tax is.
type TaxWay string

// The ways of docs/definitions/money.md, "Tax". The zero value means that the case names no tax.
const (
	TaxNone     TaxWay = "none"
	TaxIncluded TaxWay = "included"
	TaxAdded    TaxWay = "added"
)

// Tax is a way and its rate.
type Tax struct {
	Way  TaxWay     `json:"way"`
	Rate money.Rate `json:"rate"`
}

// Banding says how a fee's bands work.
type Banding string

// The bandings of docs/definitions/money.md, "Fees". The zero value goes with a single rate.
const (
	Slices Banding = "slices"
	Whole  Banding = "whole"
)

// Band is a rate up to and including To; the last band has no end.
type Band struct {
	To    int64      `json:"to,omitempty"` // minor units; not read in the last band
	Rate  money.Rate `json:"rate"`
	Fixed int64      `json:"fixed,omitempty"` // minor units, in a whole band only
}

// Fee is one of a marketplace's fees. With Bands, Rate is not read.
type Fee struct {
	Name    string      `json:"name"`
	Of      Base        `json:"of"`
	Rate    money.Rate  `json:"rate,omitempty"`
	Banding Banding     `json:"banding,omitempty"`
	Bands   []Band      `json:"bands,omitempty"`
	Fixed   int64       `json:"fixed,omitempty"`
	Least   *int64      `json:"least,omitempty"`
	Most    *int64      `json:"most,omitempty"`
	Tax     *money.Rate `json:"tax,omitempty"` // tax on the fee that the seller can't reclaim
}

// Allowance is a share put by for returns, advertising and the like.
type Allowance struct {
	Name string     `json:"name"`
	Of   Base       `json:"of"`
	Rate money.Rate `json:"rate"`
}

// Spec is everything that decides what is left of a price but the cost.
type Spec struct {
	Currency   money.Currency
	Delivery   *int64        // what the buyer pays for delivery; nil leaves its line out
	Charged    []ChargedBand // in place of Delivery where it follows the price
	Tax        Tax
	Fees       []Fee
	Allowances []Allowance
	Limit      int64 // highest price looked at; 0 means DefaultLimit
}

// Terms are a spec made ready for many quotes. They don't change and may be
// used by many goroutines at once.
type Terms struct {
	currency money.Currency
	charged  []ChargedBand // one at least, the first from 0
	byPrice  bool          // whether delivery follows the price
	hasDel   bool
	tax      Tax
	fees     []fee
	allow    []Allowance
	limit    int64 // highest price wanted
	top      int64 // highest price at which every line stays in range, at most limit
	stretch  []stretch
	netLow   int64 // slope of the net, rounded down and up
	netHigh  int64
}

type fee struct {
	Fee
	bands   []band // one at least
	least   int64
	most    int64
	tax     money.Rate
	hasTax  bool
	taxName string
}

type band struct {
	from, to int64 // B in from+1 … to
	rate     int64
	fixed    int64
	hi, lo   uint64 // millionths of the fee below this slice, 128 bits
}

// NewTerms checks a spec and makes it ready. The error names the field.
func NewTerms(s Spec) (*Terms, error) {
	if !s.Currency.Valid() {
		return nil, fmt.Errorf("currency: %q is not a currency with 0, 2 or 3 decimals", string(s.Currency))
	}
	t := &Terms{currency: s.Currency, tax: s.Tax, limit: s.Limit, allow: s.Allowances}
	if t.limit == 0 {
		t.limit = DefaultLimit
	}
	if t.limit < 0 {
		return nil, fmt.Errorf("limit: must be above 0")
	}
	if err := t.setCharged(s); err != nil {
		return nil, err
	}
	switch s.Tax.Way {
	case "", TaxNone, TaxIncluded, TaxAdded:
	default:
		return nil, fmt.Errorf("tax.way: %q is none of included, added, none", string(s.Tax.Way))
	}
	if s.Tax.Rate < 0 || s.Tax.Rate > math.MaxInt64-money.One {
		return nil, fmt.Errorf("tax.rate: out of range")
	}
	for i, a := range s.Allowances {
		if err := checkShare(a.Of, a.Rate); err != nil {
			return nil, fmt.Errorf("allowances[%d].%w", i, err)
		}
	}
	for i, f := range s.Fees {
		made, err := newFee(f)
		if err != nil {
			return nil, fmt.Errorf("fees[%d].%w", i, err)
		}
		t.fees = append(t.fees, made)
	}
	t.findTop()
	t.findStretches()
	return t, nil
}

func checkShare(of Base, r money.Rate) error {
	switch of {
	case OfItem, OfTotal, OfTotalTax:
	default:
		return fmt.Errorf("of: %q is none of item, total, total+tax", string(of))
	}
	if r < 0 {
		return fmt.Errorf("rate: must not be below 0")
	}
	return nil
}

// Check says what can't be right of a fee. The error names the field.
func (f Fee) Check() error {
	_, err := newFee(f)
	return err
}

func newFee(f Fee) (fee, error) {
	m := fee{Fee: f, least: math.MinInt64, most: math.MaxInt64}
	if err := checkShare(f.Of, f.Rate); err != nil {
		return m, err
	}
	if f.Fixed < 0 {
		return m, fmt.Errorf("fixed: must not be below 0")
	}
	if f.Least != nil {
		m.least = *f.Least
	}
	if f.Most != nil {
		m.most = *f.Most
	}
	if f.Least != nil && m.least < 0 || f.Most != nil && m.most < 0 {
		return m, fmt.Errorf("least: bounds must not be below 0")
	}
	if m.least > m.most {
		return m, fmt.Errorf("least: is above most")
	}
	if f.Tax != nil {
		if *f.Tax < 0 {
			return m, fmt.Errorf("tax: must not be below 0")
		}
		m.tax, m.hasTax, m.taxName = *f.Tax, true, f.Name+" tax"
	}
	if len(f.Bands) == 0 {
		m.bands = []band{{to: math.MaxInt64, rate: int64(f.Rate)}}
		return m, nil
	}
	if f.Banding != Slices && f.Banding != Whole {
		return m, fmt.Errorf("banding: %q is none of slices, whole", string(f.Banding))
	}
	var below band
	for i, b := range f.Bands {
		n := band{from: below.to, to: b.To, rate: int64(b.Rate), fixed: b.Fixed}
		if i == len(f.Bands)-1 {
			n.to = math.MaxInt64
		}
		switch {
		case b.Rate < 0 || b.Fixed < 0:
			return m, fmt.Errorf("bands[%d].rate: must not be below 0", i)
		case n.to <= n.from:
			return m, fmt.Errorf("bands[%d].to: must be above the one before and above 0", i)
		case f.Banding == Slices && b.Fixed != 0:
			return m, fmt.Errorf("bands[%d].fixed: a band of slices has no fixed part", i)
		}
		if f.Banding == Slices {
			hi, lo := bits.Mul64(uint64(below.to-below.from), uint64(below.rate))
			var c uint64
			n.lo, c = bits.Add64(below.lo, lo, 0)
			n.hi, _ = bits.Add64(below.hi, hi, c)
		} else {
			n.from = 0 // all of the base is charged
		}
		m.bands = append(m.bands, n)
		below = n
	}
	return m, nil
}

// at is what the fee comes to for base b, and false out of range.
func (f *fee) at(b int64) (int64, bool) {
	n := f.band(b)
	hi, lo := bits.Mul64(uint64(b-n.from), uint64(n.rate))
	if n.hi|n.lo != 0 {
		var c uint64
		lo, c = bits.Add64(lo, n.lo, 0)
		hi += n.hi + c
	}
	lo, c := bits.Add64(lo, uint64(money.One)/2, 0)
	hi += c
	var v uint64
	if hi == 0 {
		v = lo / uint64(money.One)
	} else if hi >= uint64(money.One) {
		return f.capped()
	} else {
		v, _ = bits.Div64(hi, lo, uint64(money.One))
	}
	v += uint64(n.fixed) + uint64(f.Fixed)
	if v > math.MaxInt64 {
		return f.capped()
	}
	return min(max(int64(v), f.least), f.most), true
}

// capped is the fee where its own sum is out of range: its most, if it has one.
func (f *fee) capped() (int64, bool) { return f.most, f.most < math.MaxInt64 }

// findTop lowers the highest price looked at to where all lines are in range.
// Lines never fall with the price but at a whole band's edge, so a price past
// the top may be in range again; nobody sells there.
func (t *Terms) findTop() {
	t.top = t.limit
	for i := range t.charged {
		from, to := t.chargedSpan(i)
		if _, ok := t.parts(to); ok {
			continue
		}
		t.top = firstPrice(from, to, func(p int64) bool { _, ok := t.parts(p); return !ok }) - 1
		return
	}
}

// firstPrice is the least price from lo to hi at which a condition that stays
// true once true holds, or hi + 1.
func firstPrice(lo, hi int64, holds func(p int64) bool) int64 {
	for hi++; lo < hi; {
		mid := lo + (hi-lo)/2
		if holds(mid) {
			hi = mid
		} else {
			lo = mid + 1
		}
	}
	return lo
}

package pricing

import (
	"math"
	"math/bits"
	"sort"

	"easymargin/core/money"
)

// A stretch is a run of prices in which every fee keeps its band and stays
// inside or outside its bounds, so that what is left is a straight line but
// for rounding. Slopes are in 1e-12 of a unit per unit of price.
type stretch struct {
	from      int64
	low, high int64 // slope of the contribution, widened down and up
	delivery  int64 // what the buyer pays for it here
	slack     int64 // by how much rounding can lift the contribution over its line, millionths of a unit
	level     int64 // what the fees held at a bound, and all fixed parts, take
	lines     []share
	plain     bool // whether every product below stays inside 63 bits, so that parts may be summed without looking
}

// A share is a fee or an allowance where it moves with the price.
type share struct {
	base Base
	rate int64 // millionths
	add  int64 // millionths: of the slices below, less where this one begins, and the half that rounds
	plus int64 // whole units on top, before tax on the fee
	tax  int64 // millionths
}

const slopeOne = 1_000_000_000_000

// findStretches lists the prices at which a fee's slope changes.
func (t *Terms) findStretches() {
	edges := []int64{1}
	at := func(of Base, reached func(b int64) bool) {
		for i := range t.charged {
			from, to := t.chargedSpan(i)
			to = min(to, t.top)
			p := firstPrice(from, to, func(p int64) bool {
				q, _ := t.bases(p)
				return reached(q.of(of))
			})
			if p > 1 && p <= to {
				edges = append(edges, p)
			}
		}
	}
	for _, b := range t.charged[1:] {
		if b.From > 1 && b.From <= t.top {
			edges = append(edges, b.From)
		}
	}
	for i := range t.fees {
		f := &t.fees[i]
		for j := range f.bands {
			n := &f.bands[j]
			if n.to < math.MaxInt64 {
				at(f.Of, func(b int64) bool { return b > n.to })
			}
		}
		// Where the fee crosses its least and its most, band by band: within one it only rises.
		for _, bound := range []int64{f.least, f.most} {
			if bound == math.MinInt64 || bound == math.MaxInt64 {
				continue
			}
			free := f.unbounded()
			low := int64(0)
			for j := range f.bands {
				to := f.bands[j].to
				at(f.Of, func(b int64) bool {
					if b <= low {
						return false
					}
					v, ok := free.at(min(b, to))
					return b > to || !ok || v >= bound
				})
				low = to
			}
		}
	}
	sort.Slice(edges, func(i, j int) bool { return edges[i] < edges[j] })
	t.netLow, t.netHigh = slopeOne, slopeOne
	if t.tax.Way == TaxIncluded {
		d := int64(money.One + t.tax.Rate)
		t.netHigh, _ = money.MulDivUp(slopeOne, int64(money.One), d)
		t.netLow = max(0, t.netHigh-1)
	}
	for i, e := range edges {
		if i > 0 && edges[i-1] == e {
			continue
		}
		end := t.top
		for _, x := range edges[i:] {
			if x > e {
				end = x - 1
				break
			}
		}
		t.stretch = append(t.stretch, t.newStretch(e, end))
	}
}

func (f *fee) unbounded() fee {
	free := *f
	free.least, free.most = math.MinInt64, math.MaxInt64
	return free
}

// newStretch bounds how the contribution moves from price p to the last of its stretch.
// Slopes are widened a little; that costs a step of the search, never a price.
func (t *Terms) newStretch(p, last int64) stretch {
	s := stretch{from: p, delivery: t.Charged(p)}
	var fall, widen, slack int64 = 0, 2, 0 // the sum of what fees take of one more unit, rounded down
	const huge = math.MaxInt64 / 4
	if t.tax.Way == TaxIncluded {
		slack = int64(money.One)
	}
	first, _ := t.bases(p)
	end, _ := t.bases(last)
	s.plain = end.total < 1<<42 && t.tax.Rate < 1<<20
	line := func(of Base, rate, tax money.Rate, add, plus int64) {
		s.lines = append(s.lines, share{of, int64(rate), add + int64(money.One)/2, plus, int64(tax)})
		s.plain = s.plain && rate <= 1<<20 && tax <= 1<<20 && add > -1<<61 && add < 1<<61 && plus < 1<<42
		slope, ok := money.MulDiv(int64(rate), slopeOne, int64(money.One))
		step := int64(money.One) // by how much rounding may hold the line back
		if of == OfTotalTax && t.tax.Way == TaxAdded {
			if ok {
				slope, ok = money.MulDiv(slope, int64(money.One+t.tax.Rate), int64(money.One))
			}
			step += min(int64(rate), huge)
		}
		if tax > 0 {
			more, fine := money.MulDiv(slope, int64(tax), int64(money.One))
			slope, ok = slope+more, ok && fine
			held, fine := money.MulDivUp(step, int64(tax), int64(money.One))
			step, ok = min(step+min(held, huge), huge)+int64(money.One), ok && fine
		}
		if !ok || slope < 0 || slope > huge-fall {
			slope, widen = 0, huge // steeper than can be told: treat as level above, endless below
		}
		fall += slope
		slack = min(slack+step, huge)
		widen = min(widen+3, huge)
	}
	hold := func(v int64) {
		var ok bool
		if s.level, ok = money.Add(s.level, v); !ok || s.level > 1<<42 {
			s.plain = false
		}
	}
	for i := range t.fees {
		f := &t.fees[i]
		b := first.of(f.Of)
		v, ok := f.at(b)
		free := f.unbounded()
		fv, fok := free.at(b)
		n := f.band(b)
		if !ok || !fok || fv < f.least || fv >= f.most && f.most < math.MaxInt64 && v == f.most || n.rate == 0 {
			more, fine := money.Share(v, f.tax)
			s.plain = s.plain && ok && fine
			hold(v)
			hold(more)
			continue // level here
		}
		below, fits := n.below()
		s.plain = s.plain && fits
		line(f.Of, money.Rate(n.rate), f.tax, below, n.fixed+f.Fixed)
	}
	for _, a := range t.allow {
		line(a.Of, a.Rate, 0, 0, 0)
	}
	s.low, s.high, s.slack = t.netLow-fall-widen, t.netHigh-fall+min(widen, 64), slack
	return s
}

// band is the one that base b falls in.
func (f *fee) band(b int64) *band {
	n := &f.bands[0]
	for i := 1; b > n.to; i++ {
		n = &f.bands[i]
	}
	return n
}

// below is what a fee's line in this band has at base 0, in millionths: the
// slices below it less what its own rate would have taken there.
func (n *band) below() (int64, bool) {
	hi, lo := bits.Mul64(uint64(n.from), uint64(n.rate))
	if n.hi != 0 || hi != 0 || n.lo >= 1<<62 || lo >= 1<<62 {
		return 0, false
	}
	return int64(n.lo) - int64(lo), true
}

// at is what parts says of a price in this stretch.
func (s *stretch) at(t *Terms, p int64) parts {
	if !s.plain {
		x, _ := t.parts(p)
		return x
	}
	const one = uint64(money.One)
	total := p + s.delivery
	net, taxed := total, total
	switch t.tax.Way {
	case TaxIncluded:
		d := uint64(money.One + t.tax.Rate)
		net -= int64((uint64(total)*uint64(t.tax.Rate) + d/2) / d)
	case TaxAdded:
		taxed += int64((uint64(total)*uint64(t.tax.Rate) + one/2) / one)
	}
	left := net - s.level
	for i := range s.lines {
		l := &s.lines[i]
		b := total
		switch l.base {
		case OfItem:
			b = p
		case OfTotalTax:
			b = taxed
		}
		v := int64(uint64(b*l.rate+l.add)/one) + l.plus
		left -= v
		if l.tax != 0 {
			left -= int64((uint64(v)*uint64(l.tax) + one/2) / one)
		}
	}
	return parts{net: net, left: left}
}

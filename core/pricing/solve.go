package pricing

import (
	"math"
	"math/bits"

	"easymargin/core/money"
)

// Least is the least price from 1 to the limit at which all conditions hold at
// once; false where there is none. It follows docs/definitions/money.md, "Conditions":
// profit need not rise with the price, so it walks the stretches in which it
// is a straight line but for rounding, and in each jumps as far as neither the
// line nor the rounding could reach.
func (t *Terms) Least(conds []Condition, c Spend) (int64, bool) {
	g := t.goal(conds, c, 1)
	return t.least(&g, 1, t.top)
}

// least is the least price from lo to hi that meets g.
func (t *Terms) least(g *goal, lo, hi int64) (int64, bool) {
	if g.never {
		return 0, false
	}
	p, hi := max(lo, g.from), min(hi, t.top)
	for s := 0; p <= hi; {
		for s+1 < len(t.stretch) && t.stretch[s+1].from <= p {
			s++
		}
		end := hi
		if s+1 < len(t.stretch) {
			end = min(hi, t.stretch[s+1].from-1)
		}
		at := &t.stretch[s]
		x := at.at(t, p)
		if g.share && x.net <= 0 { // in a stretch the net never falls
			if p = firstPrice(p, end, func(p int64) bool { return at.at(t, p).net > 0 }); p > end {
				continue
			}
			x = at.at(t, p)
		}
		need, share := g.short(x)
		if need <= 0 && share <= 0 {
			return p, true
		}
		step := int64(1)
		if need > 0 {
			step = jump(need, at.slack, at.high, 1)
		}
		if share > 0 && step > 0 {
			slope, slack, rise := g.shareSlope(t, at, true)
			if k := jump(share, slack, slope, rise); k == 0 || k > step {
				step = k
			}
		}
		if step == 0 || step > end-p {
			p = end // the rest of this stretch can't do it
			step = 1
		}
		if p == math.MaxInt64 {
			break
		}
		p += step
	}
	return 0, false
}

// jump is how far the price must at least rise before a miss of d can close:
// the line rises by slope, rounding gives less than slack once (millionths),
// and one unit of price gives at most rise. 0 says never.
func jump(d, slack, slope, rise int64) int64 {
	k := d
	if rise != 1 {
		k = (d-1)/rise + 1
	}
	q, any := reach(d, slack, slope)
	if !any {
		return k
	}
	if q == 0 {
		return 0
	}
	return max(k, q)
}

// reach is the least k at which slope × k and the slack pass d; 0 where none
// does, false where the slack alone does.
func reach(d, slack, slope int64) (int64, bool) {
	hi, lo := bits.Mul64(uint64(d), slopeOne)
	shi, slo := bits.Mul64(uint64(slack), slopeOne/uint64(money.One))
	lo, borrow := bits.Sub64(lo, slo, 0)
	hi, borrow = bits.Sub64(hi, shi, borrow)
	if borrow != 0 {
		return 1, false
	}
	if slope <= 0 || hi >= uint64(slope) {
		return 0, true
	}
	q, _ := bits.Div64(hi, lo, uint64(slope))
	if q >= math.MaxInt64 {
		return 0, true
	}
	return int64(q) + 1, true // past it, not at it: rounding gives less than the slack
}

// shareSlope bounds how contribution less margin × net moves: its slope, what
// rounding adds, and the most it can rise for one unit of price.
func (g *goal) shareSlope(t *Terms, s *stretch, high bool) (sl, slack, rise int64) {
	by := t.netLow
	if (g.margin < 0) == high {
		by = t.netHigh
	}
	m, ok := money.MulDiv(by, g.margin, int64(money.One))
	if !ok || m > math.MaxInt64/4 || m < -math.MaxInt64/4 {
		m = math.MaxInt64 / 4
		if g.margin < 0 {
			m = -m
		}
	}
	rise, slack = 1, int64(money.One)
	if g.margin < 0 {
		rise = 3 - g.margin/int64(money.One)
	}
	if t.tax.Way == TaxIncluded { // the net's own rounding counts 1 − margin times in all
		slack += max(-g.margin, min(g.margin, math.MaxInt64/8)-2*int64(money.One))
	}
	if high {
		return s.high - m + 2, s.slack + slack, rise
	}
	return s.low - m - 2, s.slack + slack, rise
}

// greatest is the greatest price from lo to hi that meets g.
func (t *Terms) greatest(g *goal, lo, hi int64) (int64, bool) {
	if g.never {
		return 0, false
	}
	lo = max(lo, g.from)
	p := min(hi, t.top)
	s := len(t.stretch) - 1
	for p >= lo {
		for s > 0 && t.stretch[s].from > p {
			s--
		}
		start := max(lo, t.stretch[s].from)
		at := &t.stretch[s]
		x := at.at(t, p)
		if g.share && x.net <= 0 { // in a stretch the net never rises as the price falls
			p = start - 1
			continue
		}
		need, share := g.short(x)
		if need <= 0 && share <= 0 {
			return p, true
		}
		step := int64(1)
		if need > 0 {
			step = fall(need, at.slack, at.low)
		}
		if share > 0 && step > 0 {
			slope, slack, _ := g.shareSlope(t, at, false)
			if k := fall(share, slack, slope); k == 0 || k > step {
				step = k
			}
		}
		if step == 0 || step > p-start {
			p, step = start, 1
		}
		p -= step
	}
	return 0, false
}

// fall is jump, downwards: how far the price must at least fall before a miss
// of d can close. Only a line that falls with the price helps.
func fall(d, slack, slope int64) int64 {
	if slope == math.MinInt64 {
		return 1
	}
	q, _ := reach(d, slack, -slope)
	return q
}

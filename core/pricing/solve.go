package pricing

import (
	"math"
	"math/bits"

	"easymargin/core/money"
)

// Least is the least price from 1 to the limit at which all conditions hold at
// once; false where there is none. It follows design/money.md, "Conditions":
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
		x, _ := t.parts(p)
		need, share := g.short(x)
		if need <= 0 && share <= 0 {
			return p, true
		}
		step := int64(1)
		if need > 0 {
			step = jump(need, t.slack, t.stretch[s].high, 1)
		}
		if share > 0 && step > 0 {
			slope, slack, rise := g.shareSlope(t, t.stretch[s].high, true)
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
// the line rises by slope, rounding gives up to slack once, and one unit of
// price gives at most rise. 0 says never.
func jump(d, slack, slope, rise int64) int64 {
	k := (d-1)/rise + 1
	if d <= slack {
		return k
	}
	if slope <= 0 {
		return 0
	}
	hi, lo := bits.Mul64(uint64(d-slack), slopeOne)
	if hi >= uint64(slope) {
		return 0
	}
	q, _ := bits.Div64(hi, lo, uint64(slope))
	if q > math.MaxInt64 {
		return 0
	}
	return max(k, int64(q))
}

// shareSlope bounds how contribution less margin × net moves: its slope, what
// rounding adds, and the most it can rise for one unit of price.
func (g *goal) shareSlope(t *Terms, slope int64, high bool) (sl, slack, rise int64) {
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
	part := (g.margin + int64(money.One) - 1) / int64(money.One)
	if g.margin < 0 {
		part = -g.margin/int64(money.One) + 1
	}
	rise = 1
	if g.margin < 0 {
		rise = 2 + part
	}
	sl = slope - m
	if high {
		return sl + 2, t.slack + 2 + part, rise
	}
	return sl - 2, t.slack + 2 + part, rise
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
		x, _ := t.parts(p)
		need, share := g.short(x)
		if need <= 0 && share <= 0 {
			return p, true
		}
		step := int64(1)
		if need > 0 {
			step = fall(need, t.slack, t.stretch[s].low)
		}
		if share > 0 && step > 0 {
			slope, slack, _ := g.shareSlope(t, t.stretch[s].low, false)
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
	if d <= slack {
		return 1
	}
	if slope >= 0 || slope == math.MinInt64 {
		return 0
	}
	hi, lo := bits.Mul64(uint64(d-slack), slopeOne)
	if hi >= uint64(-slope) {
		return 0
	}
	q, _ := bits.Div64(hi, lo, uint64(-slope))
	if q > math.MaxInt64 {
		return 0
	}
	return max(1, int64(q))
}

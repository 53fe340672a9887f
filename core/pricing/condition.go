package pricing

import (
	"math"

	"easymargin/core/money"
)

// Kind is what a condition looks at.
type Kind string

// The kinds of docs/definitions/money.md, "Conditions".
const (
	MinProfit Kind = "profit" // π ≥ Amount
	MinMargin Kind = "margin" // N > 0 and π ≥ Rate × N
	MinReturn Kind = "return" // π ≥ Rate × (C + outbound)
	Markup    Kind = "markup" // net(p) ≥ C × (1 + Rate) + Amount
	MinPrice  Kind = "price"  // p ≥ Amount
)

// Condition is true or false at a price. A markup uses both Rate and Amount.
type Condition struct {
	Kind   Kind       `json:"kind"`
	Rate   money.Rate `json:"rate,omitempty"`
	Amount int64      `json:"amount,omitempty"` // minor units
}

// goal is a set of conditions at known costs, brought down to what has to be
// looked at: prices from `from` on, a contribution of at least `need`, and a
// margin. Since profit is a whole number, π ≥ m × N says π ≥ ⌈m × N⌉, and a
// return or a markup is a fixed number once the cost is known.
type goal struct {
	from   int64
	need   int64 // math.MinInt64: none
	spend  int64
	margin int64 // millionths
	share  bool  // whether there is a margin
	never  bool  // out of any range
}

// goal brings conditions down for Spend c. Prices below from are not looked at.
func (t *Terms) goal(conds []Condition, c Spend, from int64) goal {
	g := goal{from: max(from, 1), need: math.MinInt64}
	var ok bool
	if g.spend, ok = money.Add(c.Landed, c.Outbound); !ok {
		g.never = true
		return g
	}
	needs := func(v int64, ok bool) {
		if ok {
			v, ok = money.Add(v, g.spend)
		}
		if !ok {
			g.never = true
			return
		}
		g.need = max(g.need, v)
	}
	for i := range conds {
		switch c := &conds[i]; c.Kind {
		case MinProfit:
			needs(c.Amount, true)
		case MinReturn:
			needs(money.MulDivUp(g.spend, int64(c.Rate), int64(money.One)))
		case MinPrice:
			g.from = max(g.from, c.Amount)
		case MinMargin:
			if !g.share || int64(c.Rate) > g.margin {
				g.share, g.margin = true, int64(c.Rate)
			}
		}
	}
	for i := range conds {
		if conds[i].Kind == Markup {
			t.addMarkup(&g, c.Landed, conds[i])
		}
	}
	return g
}

// addMarkup turns a markup into a least price: what is left of a price after
// its tax never falls as the price rises.
func (t *Terms) addMarkup(g *goal, landed int64, c Condition) {
	v, ok := money.MulDivUp(landed, int64(c.Rate), int64(money.One))
	if ok {
		v, ok = money.Add(v, landed)
	}
	if ok {
		v, ok = money.Add(v, c.Amount)
	}
	if !ok {
		g.never = true
		return
	}
	if t.tax.Way != TaxIncluded {
		g.from = max(g.from, v)
		return
	}
	if v <= 0 {
		return // net of any price is at least that
	}
	d := int64(money.One + t.tax.Rate)
	// v × (1 + r) is within a rounding of the least price: step to it.
	p, ok := money.MulDiv(v, d, int64(money.One))
	if !ok || p > math.MaxInt64/2 {
		g.never = true
		return
	}
	span := d/int64(money.One) + 2
	for p = max(1, p-span); t.NetOfTax(p) < v; {
		p += v - t.NetOfTax(p)
	}
	g.from = max(g.from, p)
}

// short tells by how many minor units the contribution misses the fixed need
// and the margin; both are at most 0 where the goal is met.
func (g *goal) short(x parts) (need, share int64) {
	need, share = math.MinInt64, math.MinInt64
	if g.need != math.MinInt64 {
		need = gap(g.need, x.left)
	}
	if g.share {
		v, ok := money.MulDivUp(x.net, g.margin, int64(money.One))
		if ok {
			v, ok = money.Add(v, g.spend)
		}
		if !ok || x.net <= 0 {
			return need, math.MaxInt64
		}
		share = gap(v, x.left)
	}
	return need, share
}

// gap is want − have, held inside the range.
func gap(want, have int64) int64 {
	d := want - have
	if (have > 0) != (d < want) && have != 0 {
		if want > have {
			return math.MaxInt64
		}
		return math.MinInt64
	}
	return d
}

func (g *goal) met(t *Terms, p int64) bool {
	if g.never || p < g.from || p > t.top {
		return false
	}
	x, _ := t.parts(p)
	need, share := g.short(x)
	return need <= 0 && share <= 0
}

package buying

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// small is a purchase whose every choice can be looked at.
func small(t *rapid.T) *search {
	p := &Purchase{}
	few := rapid.SampledFrom([]int64{0, 1, 2, 3, 5, 8, 12, 20})
	for range rapid.IntRange(1, 3).Draw(t, "suppliers") {
		s := Supplier{Delivery: few.Draw(t, "delivery"), Least: few.Draw(t, "least")}
		if rapid.Bool().Draw(t, "free") {
			free := few.Draw(t, "free from") * 2
			s.FreeFrom = &free
		}
		p.Suppliers = append(p.Suppliers, s)
	}
	for range rapid.IntRange(1, 4).Draw(t, "lines") {
		l := Line{Units: 1}
		for range rapid.IntRange(1, 3).Draw(t, "options") {
			l.Options = append(l.Options, Option{Supplier: rapid.IntRange(0, len(p.Suppliers)-1).Draw(t, "supplier"), Cost: few.Draw(t, "cost"), UnitsPerItem: 1, LeastItems: 1})
		}
		p.Lines = append(p.Lines, l)
	}
	all, err := p.choices()
	require.NoError(t, err)
	return newSearch(p, all, func() bool { return false })
}

// each goes through the choices that a part allows, with what each weighs.
func (x *search) each(n *node, do func(picks []int, weight int64)) {
	picks := make([]int, len(x.opts))
	var walk func(i int)
	walk = func(i int) {
		if i < len(picks) {
			for k := range x.opts[i] {
				if !n.out[i][k] {
					picks[i] = k
					walk(i + 1)
				}
			}
			return
		}
		w := x.weigh(picks)
		for s := range x.sup {
			if n.closed[s] && x.lag.used[s] || n.opened[s] && !x.lag.used[s] || x.lag.used[s] && (x.lag.goods[s] < n.lo[s] || x.lag.goods[s] > n.hi[s]) {
				return
			}
		}
		do(picks, w)
	}
	walk(0)
}

// part is some part of all choices, as dividing makes them.
func part(t *rapid.T, x *search) *node {
	n := x.root()
	for s := range x.sup {
		switch rapid.IntRange(0, 4).Draw(t, "as") {
		case 0:
			n.closed[s] = true
		case 1:
			n.opened[s] = true
		case 2:
			n.opened[s], n.lo[s] = true, x.sup[s].least
		case 3:
			n.opened[s], n.hi[s] = true, max(x.sup[s].least-x.scale, 0)
		}
	}
	return n
}

// Whatever the prices, the bound of a part is never above what any of its choices
// weighs; nothing is left out by what is drawn from it, and nothing is struck that
// would have been better than the best.
func TestTheBoundIsNeverAboveTheTruth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := small(t)
		n := part(t, x)
		before, best := 0, never
		x.each(n, func(_ []int, w int64) { before, best = before+1, min(best, w) })
		if !x.tighten(n) {
			assert.Zero(t, before, "choices were lost")
			return
		}
		after := 0
		x.each(n, func([]int, int64) { after++ })
		assert.Equal(t, before, after, "what is drawn leaves no choice out")
		theta := make([]int64, len(x.sup))
		for s := range theta {
			theta[s] = rapid.Int64Range(-2*x.lag.one, 4*x.lag.one).Draw(t, "price")
		}
		if before == 0 {
			return
		}
		assert.LessOrEqual(t, x.lag.at(n, theta), best)
		assert.LessOrEqual(t, x.lag.at(n, x.lag.natural(n)), best)

		x.weight = best + rapid.Int64Range(1, 3*x.scale).Draw(t, "room")
		x.lag.at(n, theta)
		x.lag.strike(n, theta)
		require.True(t, x.tighten(n))
		left := never
		x.each(n, func(_ []int, w int64) { left = min(left, w) })
		assert.Equal(t, best, left, "the best was struck")

		x.weight = never
		bound, prices := x.lag.bound(n, theta, true)
		assert.LessOrEqual(t, bound, best)
		x.weight = never
		total := 0
		for _, m := range x.parts(n, prices) { // every choice is in one part, and in one alone
			x.each(m, func([]int, int64) { total++ })
		}
		if after = 0; bound < best {
			x.each(n, func([]int, int64) { after++ })
			assert.Equal(t, after, total, "dividing neither loses a choice nor has one twice")
		}
	})
}

// Purchases as a day's orders make them are settled after looking at a few parts: the
// bound is close, and what can't be better is struck early.
func TestFewPartsAreLookedAt(t *testing.T) {
	for _, size := range []struct{ lines, suppliers, most int }{{30, 5, 60}, {60, 12, 120}, {200, 12, 120}} {
		for seed := range uint64(6) {
			r := rand.New(rand.NewPCG(seed, 7))
			p := &Purchase{}
			for range size.suppliers {
				s := Supplier{Delivery: 300 + r.Int64N(800)}
				if r.IntN(3) > 0 {
					free := 3000 + r.Int64N(9000)
					s.FreeFrom = &free
				}
				if r.IntN(3) == 0 {
					s.Least = 1000 + r.Int64N(4000)
				}
				p.Suppliers = append(p.Suppliers, s)
			}
			for range size.lines {
				l := Line{Units: 1 + r.Int64N(12)}
				cost := 200 + r.Int64N(4000)
				for s := range size.suppliers {
					if r.IntN(2) == 0 {
						l.Options = append(l.Options, Option{Supplier: s, Cost: cost * (85 + r.Int64N(30)) / 100, UnitsPerItem: 1 + r.Int64N(6), LeastItems: 1})
					}
				}
				p.Lines = append(p.Lines, l)
			}
			looks := 0
			got, err := p.Cheapest(func() bool { looks++; return looks > 4000 })
			require.NoError(t, err)
			assert.True(t, got.Proved)
			assert.LessOrEqual(t, looks, size.most, "%d lines, %d suppliers, seed %d", size.lines, size.suppliers, seed)
		}
	}
}

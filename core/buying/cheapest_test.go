package buying_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/buying"
)

func never() bool { return false }

// brute looks at every split there is: the least by cost, then by how many are
// bought from, then by the earlier option, line by line.
func brute(t require.TestingT, p *buying.Purchase) (best buying.Split, picks []int) {
	now := make([]int, len(p.Lines))
	found := false
	var walk func(i int)
	walk = func(i int) {
		if i == len(now) {
			s, err := p.Of(now)
			require.NoError(t, err)
			if !found || s.Total < best.Total || s.Total == best.Total && len(s.Suppliers) < len(best.Suppliers) {
				best, picks, found = s, append([]int{}, now...), true
			}
			return
		}
		any := false
		for j := range p.Lines[i].Options {
			now[i] = j
			if _, err := p.Of(append(append([]int{}, now[:i+1]...), none(len(now)-i-1)...)); err == nil {
				any = true
				walk(i + 1)
			}
		}
		if !any {
			now[i] = -1
			walk(i + 1)
		}
	}
	walk(0)
	return best, picks
}

func none(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	return out
}

// drawn is a small purchase with few amounts, so that many things cost the same.
func drawn(t *rapid.T) *buying.Purchase {
	p := &buying.Purchase{}
	few := rapid.SampledFrom([]int64{0, 1, 2, 3, 5, 8, 10, 12, 20})
	for range rapid.IntRange(1, 4).Draw(t, "suppliers") {
		s := buying.Supplier{Delivery: few.Draw(t, "delivery"), Least: few.Draw(t, "least")}
		if rapid.Bool().Draw(t, "free") {
			free := few.Draw(t, "free from") * 2
			s.FreeFrom = &free
		}
		p.Suppliers = append(p.Suppliers, s)
	}
	for range rapid.IntRange(0, 5).Draw(t, "lines") {
		l := buying.Line{Units: rapid.Int64Range(1, 6).Draw(t, "units")}
		if rapid.Bool().Draw(t, "soon") {
			days := int64(2)
			l.WithinDays = &days
		}
		for range rapid.IntRange(0, 4).Draw(t, "options") {
			o := buying.Option{Supplier: rapid.IntRange(0, len(p.Suppliers)-1).Draw(t, "supplier"), Cost: few.Draw(t, "cost"),
				UnitsPerItem: rapid.Int64Range(1, 3).Draw(t, "per item"), LeastItems: rapid.Int64Range(1, 2).Draw(t, "least items"),
				LeadDays: rapid.Int64Range(0, 3).Draw(t, "lead")}
			if rapid.Bool().Draw(t, "counted") {
				stock := rapid.Int64Range(0, 6).Draw(t, "stock")
				o.Stock = &stock
			}
			l.Options = append(l.Options, o)
		}
		p.Lines = append(p.Lines, l)
	}
	return p
}

// What is found is what looking at every split finds, to the order of what costs
// the same.
func TestItIsTheFirstOfTheCheapest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t)
		got, err := p.Cheapest(never)
		require.NoError(t, err)
		want, _ := brute(t, p)
		require.True(t, got.Proved)
		assert.Equal(t, want.Total, got.Total)
		assert.Equal(t, want.Choices, got.Choices, "%+v", p)
		assert.Equal(t, want.Suppliers, got.Suppliers)
		sum := int64(0)
		for _, b := range got.Suppliers {
			sum += b.Goods + b.Delivery + b.ToppedUp
		}
		assert.Equal(t, got.Total, sum, "the suppliers add up")
	})
}

// random is a purchase as a day's orders may make it.
func random(lines, suppliers int, seed uint64) *buying.Purchase {
	r := rand.New(rand.NewPCG(seed, 7))
	p := &buying.Purchase{}
	for range suppliers {
		s := buying.Supplier{Delivery: 300 + r.Int64N(800)}
		if r.IntN(3) > 0 {
			free := 3000 + r.Int64N(9000)
			s.FreeFrom = &free
		}
		if r.IntN(3) == 0 {
			s.Least = 1000 + r.Int64N(4000)
		}
		p.Suppliers = append(p.Suppliers, s)
	}
	for range lines {
		l := buying.Line{Units: 1 + r.Int64N(12)}
		cost := 200 + r.Int64N(4000)
		for s := range suppliers {
			if r.IntN(2) == 0 {
				l.Options = append(l.Options, buying.Option{Supplier: s, Cost: cost * (85 + r.Int64N(30)) / 100, UnitsPerItem: 1 + r.Int64N(6), LeastItems: 1})
			}
		}
		p.Lines = append(p.Lines, l)
	}
	return p
}

// Stopped before it is through, it says what it found, that it isn't proved, and
// what nothing can be below.
func TestStoppedItSaysWhatItFound(t *testing.T) {
	p := random(120, 10, 3)
	whole, err := p.Cheapest(never)
	require.NoError(t, err)
	require.True(t, whole.Proved)
	for looks := range 4 {
		n := 0
		got, err := p.Cheapest(func() bool { n++; return n > looks })
		require.NoError(t, err)
		assert.Len(t, got.Choices, len(whole.Choices))
		assert.GreaterOrEqual(t, got.Total, whole.Total)
		if !got.Proved {
			assert.LessOrEqual(t, got.Bound, whole.Total)
			assert.Positive(t, got.Bound)
		}
	}
}

func TestWhatIsTooLarge(t *testing.T) {
	huge := int64(1) << 62
	for field, p := range map[string]*buying.Purchase{
		"lines[0].options[0].cost": {Suppliers: make([]buying.Supplier, 1), Lines: []buying.Line{{Units: 4, Options: []buying.Option{{Cost: huge, UnitsPerItem: 1, LeastItems: 1}}}}},
		"suppliers[0].delivery":    {Suppliers: []buying.Supplier{{Delivery: huge}}},
		"suppliers[0].least":       {Suppliers: []buying.Supplier{{Least: huge}}},
	} {
		_, err := p.Cheapest(never)
		var e *buying.Error
		if assert.ErrorAs(t, err, &e) {
			assert.Equal(t, field, e.Field)
		}
	}
}

// A person's own choice is added up in the same way; one that can't be is refused.
func TestAChoiceOfOnesOwn(t *testing.T) {
	none, days := int64(0), int64(1)
	p := &buying.Purchase{Suppliers: []buying.Supplier{{Delivery: 5}, {Delivery: 1, Least: 20}},
		Lines: []buying.Line{{Units: 3, WithinDays: &days, Options: []buying.Option{{Cost: 4, UnitsPerItem: 2, LeastItems: 1}, {Supplier: 1, Cost: 2, UnitsPerItem: 1, LeastItems: 1},
			{Cost: 1, UnitsPerItem: 1, LeastItems: 1, Stock: &none}, {Cost: 1, UnitsPerItem: 1, LeastItems: 1, LeadDays: 2}}}}}
	s, err := p.Of([]int{1})
	require.NoError(t, err)
	assert.Equal(t, []buying.Bought{{Supplier: 1, Goods: 6, Delivery: 1, ToppedUp: 14}}, s.Suppliers)
	assert.Equal(t, int64(21), s.Total)
	best, err := p.Cheapest(never)
	require.NoError(t, err)
	assert.Equal(t, int64(13), best.Total)
	assert.Equal(t, int64(1), best.Choices[0].LeftOver)
	for _, wrong := range []int{2, 3, 9} {
		_, err := p.Of([]int{wrong})
		assert.ErrorContains(t, err, "can't be had", wrong)
	}
}

func BenchmarkCheapest(b *testing.B) {
	for _, size := range [][2]int{{20, 4}, {200, 12}} {
		b.Run(fmt.Sprintf("%d lines, %d suppliers", size[0], size[1]), func(b *testing.B) {
			for i := 0; b.Loop(); i++ {
				if _, err := random(size[0], size[1], uint64(i%8)).Cheapest(never); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

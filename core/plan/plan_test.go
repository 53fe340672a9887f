package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/plan"
)

// Whatever moved: sending all that may go never leaves more on sale than can be
// had, and no price goes that a person must look at.
func TestNoPlanOffersMoreThanThereIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := func(name string, from, to int64) int64 { return rapid.Int64Range(from, to).Draw(t, name) }
		l := plan.Listing{
			Price:    some("confirmed price", 1, 5000),
			Quantity: some("confirmed", 0, 20),
			Landed:   some("landed was", 0, 3000),
			Fixed:    rapid.Bool().Draw(t, "fixed"),
			Moves:    some("moves", 0, 8),
		}
		w := plan.Wanted{
			Offer:  some("offer", 0, 20),
			Broken: rapid.Bool().Draw(t, "broken"),
			Found:  rapid.Bool().Draw(t, "found"),
			Price:  some("price", 1, 5000),
			Landed: some("landed", 0, 3000),
			Profit: some(
				"profit",
				-500,
				500,
			),
			ProfitNow: some("profit now", -500, 500),
			ByRival:   rapid.Bool().Draw(t, "rival"),
			KeepsMet:  rapid.Bool().Draw(t, "keeps"),
		}
		quantity := l.Quantity
		for _, x := range plan.DefaultGuards.WorkOut(l, w) {
			if x.Verdict != plan.Go {
				assert.NotEmpty(t, x.Why)
				continue
			}
			assert.Empty(t, x.Why)
			if x.Quantity != nil {
				assert.Equal(t, quantity, x.Quantity.From)
				quantity = x.Quantity.To
			}
			if x.Price != nil {
				assert.True(t, w.Found && !w.Broken && !l.Fixed && w.Profit >= 0)
				assert.Equal(t, w.Price, x.Price.To)
			}
		}
		want := w.Offer
		if !w.Found && !w.Broken {
			want = 0
		}
		assert.LessOrEqual(t, min(quantity, l.Quantity), max(want, 0))
		if quantity > l.Quantity {
			assert.Equal(t, want, quantity)
		}
	})
}

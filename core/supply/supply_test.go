package supply_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/supply"
)

func TestGuardsHoldJustPastTheirShare(t *testing.T) {
	fine := supply.Figures{Rows: 100, LastRows: 100, Known: 100, InStock: 80}
	for name, c := range map[string]struct {
		change func(f *supply.Figures)
		guard  string
	}{
		"all as before":          {func(*supply.Figures) {}, ""},
		"no rows":                {func(f *supply.Figures) { f.Rows = 0 }, "no rows"},
		"another currency":       {func(f *supply.Figures) { f.OtherCurr = 1 }, "currency"},
		"70 % of the rows":       {func(f *supply.Figures) { f.Rows = 70 }, ""},
		"under 70 % of the rows": {func(f *supply.Figures) { f.Rows = 69 }, "rows"},
		"20 % set aside":         {func(f *supply.Figures) { f.SetAside = 20 }, ""},
		"over 20 % set aside":    {func(f *supply.Figures) { f.SetAside = 21 }, "set aside"},
		"10 % of costs moved":    {func(f *supply.Figures) { f.Moved = 10 }, ""},
		"over 10 % of costs":     {func(f *supply.Figures) { f.Moved = 11 }, "costs"},
		"half to nothing":        {func(f *supply.Figures) { f.ToZero = 40 }, ""},
		"over half to nothing":   {func(f *supply.Figures) { f.ToZero = 41 }, "stock"},
	} {
		f := fine
		c.change(&f)
		held := supply.DefaultGuards.Check(f, true)
		if c.guard == "" {
			assert.Empty(t, held, name)
		} else if assert.Len(t, held, 1, name) {
			assert.Equal(t, c.guard, held[0].Guard, name)
		}
	}
	short := fine
	short.Rows = 5
	assert.Empty(t, supply.DefaultGuards.Check(short, false), "an update may be as short as it likes")
	assert.False(t, supply.MovedByHalf(100, 150))
	assert.True(t, supply.MovedByHalf(100, 151))
	assert.True(t, supply.MovedByHalf(100, 49))
}

func TestTheOfferStaysBelowTheStock(t *testing.T) {
	rule := supply.DefaultStockRule
	known := func(n int64) supply.Stock { return supply.Stock{State: supply.StockKnown, Count: n} }
	assert.Equal(t, int64(10), rule.Offer(known(50), 1, 1), "the cap")
	assert.Equal(t, int64(1), rule.Offer(known(2), 1, 1), "the buffer")
	assert.Equal(t, int64(0), rule.Offer(known(1), 1, 1))
	assert.Equal(t, int64(5), rule.Offer(known(1), 6, 1), "one case of six, singles listed")
	assert.Equal(t, int64(0), rule.Offer(known(11), 1, 6), "one pack of six, less the buffer")
	assert.Equal(t, int64(0), rule.Offer(supply.Stock{State: supply.StockUnknown, Count: 9}, 1, 1))
	assert.Equal(t, int64(0), rule.Offer(supply.Stock{State: supply.StockEnded}, 1, 1))
	rapid.Check(t, func(t *rapid.T) {
		r := supply.StockRule{Buffer: rapid.Int64Range(0, 9).Draw(t, "buffer"), Least: rapid.Int64Range(0, 9).Draw(t, "least"), Cap: rapid.Int64Range(0, 99).Draw(t, "cap")}
		n, bought, listed := rapid.Int64Range(0, 1<<40).Draw(t, "stock"), rapid.Int64Range(1, 99).Draw(t, "bought"), rapid.Int64Range(1, 99).Draw(t, "listed")
		offer := r.Offer(known(n), bought, listed)
		assert.GreaterOrEqual(t, offer, int64(0))
		assert.LessOrEqual(t, offer*listed, n*bought, "never above the supplier's stock")
		assert.LessOrEqual(t, offer, r.Cap)
	})
}

func TestDiffNamesEachFieldOnce(t *testing.T) {
	a := supply.Product{Ref: "A", Title: "Mug", Cost: money.Of(240, "GBP"), Stock: supply.Stock{State: supply.StockKnown, Count: 4}, Attributes: []supply.Attribute{{Name: "Finish", Value: "moss"}}}
	b := a
	assert.Empty(t, supply.Diff(&a, &b))
	assert.Equal(t, a.Fingerprint(), b.Fingerprint())
	b.Cost, b.Attributes = money.Of(255, "GBP"), []supply.Attribute{{Name: "Shade", Value: "slate"}}
	assert.Equal(t, []supply.Change{{Field: "cost", Before: "2.40", After: "2.55"}, {Field: "attribute Shade", After: "slate"}, {Field: "attribute Finish", Before: "moss"}}, supply.Diff(&a, &b))
	assert.NotEqual(t, a.Fingerprint(), b.Fingerprint())
}

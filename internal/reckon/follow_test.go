package reckon

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

func TestEachFigureStandsOverTheOthers(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	r := func(v money.Rate) *money.Rate { return &v }
	yes, no := true, false
	all := Follow{n(2), n(3), n(4), n(5), n(6), r(7), r(8), r(9), r(10), n(11), n(12), &yes, &no}
	assert.Equal(t, Following{
		supply.Rule{Buffer: 2, Least: 3, Cap: 4, Patience: 5, Unknown: 6, Saving: 7},
		plan.Guards{Small: 8, CostMoved: 9, PriceMoved: 10, MovesPerDay: 11, RivalMoves: 12, Loss: true},
	}, all.Over(DefaultFollowing))
	var none Follow
	assert.Equal(t, DefaultFollowing, none.Over(DefaultFollowing))
	_, err := ReadFollow("[]", "the price rule Mugs")
	assert.ErrorContains(t, err, "what the price rule Mugs sets")
}

func TestQuietHoursMayGoPastMidnight(t *testing.T) {
	at := func(h, m int) time.Time { return time.Date(2026, 3, 3, h, m, 0, 0, time.Local) }
	for _, c := range []struct {
		from, to int64
		at       time.Time
		quiet    bool
	}{
		{0, 0, at(3, 0), false},
		{600, 600, at(10, 0), false},
		{480, 600, at(7, 59), false},
		{480, 600, at(8, 0), true},
		{480, 600, at(9, 59), true},
		{480, 600, at(10, 0), false},
		{1320, 420, at(21, 59), false},
		{1320, 420, at(22, 0), true},
		{1320, 420, at(0, 0), true},
		{1320, 420, at(6, 59), true},
		{1320, 420, at(7, 0), false},
	} {
		assert.Equal(t, c.quiet, Quiet(&store.Site{QuietFrom: c.from, QuietTo: c.to}, c.at), "%d to %d at %s", c.from, c.to, c.at)
	}
}

func TestASampleIsMadeWhole(t *testing.T) {
	c := Compared{Looked: 50, Of: 200, Lines: map[[2]string][2]int64{{"up", "go"}: {3, 10}}, Offered: [2]int64{7, 8}, None: [2]int64{1, 0}, Switched: [2]int64{0, 2}}
	c.whole()
	assert.Equal(t, Compared{Looked: 50, Of: 200, Lines: map[[2]string][2]int64{{"up", "go"}: {12, 40}}, Offered: [2]int64{28, 32}, None: [2]int64{4, 0},
		Switched: [2]int64{0, 8}}, c)
}

// A move that was taken back waits while it would be the same; what takes stock
// away never does.
func TestWhatWasTakenBack(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	price := func(to int64) *plan.Line { return &plan.Line{Price: &plan.Pair{From: 900, To: to}} }
	stock := func(from, to int64) *plan.Line { return &plan.Line{Quantity: &plan.Pair{From: from, To: to}} }
	for name, c := range map[string]struct {
		l    store.Listing
		x    *plan.Line
		held bool
	}{
		"the same price":              {store.Listing{BackPrice: n(950)}, price(950), true},
		"another price":               {store.Listing{BackPrice: n(950)}, price(951), false},
		"none was taken back":         {store.Listing{}, price(950), false},
		"more stock":                  {store.Listing{BackQuantity: n(8)}, stock(2, 5), true},
		"less stock":                  {store.Listing{BackQuantity: n(8)}, stock(8, 0), false},
		"stock where the price was":   {store.Listing{BackPrice: n(950)}, stock(2, 5), false},
		"a price where the stock was": {store.Listing{BackQuantity: n(8)}, price(950), false},
	} {
		assert.Equal(t, c.held, takenBack(&c.l, c.x), name)
	}
}

func TestARivalThatIsNotFollowedIsNamed(t *testing.T) {
	b := book(func(b *Book) { b.Site.Charged = 0 })
	said := func(offers string) string {
		row := row(func(r *store.PricingRow) { r.Offers = offers })
		b.Rules[0].Wish.Market = pricing.Market{Stance: pricing.Below, By: 1}
		b.Rules[0].Wish.Keep = []pricing.Condition{{Kind: pricing.MinProfit, Amount: 100}}
		f := b.WorkOut([]store.PricingRow{row})
		require.Empty(t, f.Broken)
		return b.PriceWhy(&f)
	}
	assert.Contains(t, said(`[{"seller":"Gannet Goods","item":100}]`), "Gannet Goods asks 1.00 in all, less than it costs us to sell one: not followed")
	assert.NotContains(t, said(`[{"seller":"Gannet Goods","item":900000}]`), "not followed")
	assert.NotContains(t, said(""), "not followed")
}

func TestDaysAreCountedInTenths(t *testing.T) {
	for seconds, want := range map[int64]int64{0: 0, 8640: 1, 86400: 10, 86400*3 + 43200: 35, 4319: 0, 4320: 1} {
		assert.Equal(t, want, Days(seconds).In(), seconds)
	}
}

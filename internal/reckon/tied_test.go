package reckon_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/core/money"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// What one sale ties up is whole items of the supplier's: a case of 12 at 28.80 for one
// sold, two cases of 5 for six.
func TestWhatOneSaleTiesUp(t *testing.T) {
	b := &reckon.Book{Site: store.Site{Currency: "GBP"}, Currency: "GBP", Rates: map[string]money.FX{"EUR": 900_000_000}}
	for _, c := range []struct {
		cost, bought, listed int64
		cur                  string
		ties, spare          int64
		words                string
	}{
		{2880, 12, 1, "GBP", 2880, 11, "a case of 12 must be bought to sell one, for 28.80"},
		{1000, 5, 6, "GBP", 2000, 4, "2 cases of 5 must be bought to sell one, for 20.00"},
		{240, 1, 1, "GBP", 240, 0, ""},
		{240, 1, 3, "GBP", 720, 0, ""},
		{2880, 12, 12, "GBP", 2880, 0, ""},
		{1000, 4, 1, "EUR", 900, 3, "a case of 4 must be bought to sell one, for 9.00"},
	} {
		row := &store.PricingRow{Listing: store.Listing{Units: c.listed}, UnitsBought: c.bought, ItemCost: c.cost, ItemCurrency: c.cur}
		got, ok := b.TiesUp(row)
		assert.True(t, ok)
		assert.Equal(t, [2]int64{c.ties, c.spare}, [2]int64{got.Cost, got.Spare}, c)
		assert.Equal(t, c.words, b.TiedWhy(row))
	}
	_, ok := b.TiesUp(&store.PricingRow{ItemCost: 1, ItemCurrency: "JPY"})
	assert.False(t, ok, "no rate")
}

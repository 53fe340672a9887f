package pricing_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// The cases of docs/definitions/money.md, "Postage by weight, size and destination",
// worked out by hand.
func TestPostage(t *testing.T) {
	raw, err := os.ReadFile("testdata/postage.json")
	require.NoError(t, err)
	var cases []struct {
		Name   string
		Bands  pricing.Postage
		To     string
		Weight int64
		Sides  [3]int64
		For    []pricing.ChargedBand
		Error  string
	}
	require.NoError(t, json.Unmarshal(raw, &cases))
	require.NotEmpty(t, cases)
	for _, c := range cases {
		t.Run(c.Name, func(t *testing.T) {
			require.NoError(t, c.Bands.Check())
			got, err := c.Bands.For(c.To, pricing.Packed{Weight: c.Weight, Sides: c.Sides})
			if c.Error != "" {
				assert.EqualError(t, err, c.Error)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.For, got)
			assert.NoError(t, pricing.CheckCharged(got), "they are bands that a price can follow")
		})
	}
}

func TestPostageThatCantBe(t *testing.T) {
	for words, bands := range map[string]pricing.Postage{
		`[0].to: "Eire" is no country by its two letters, such as GB`:         {{To: "Eire", Amount: 1}},
		"[1]: nothing may be below 0":                                         {{Amount: 1}, {Weight: 5, Amount: -1}},
		"[1]: the band before says another amount for the same parcels":       {{Weight: 5, Amount: 1}, {Weight: 5, Amount: 2}},
		"[0].from: say what holds for these parcels from a price of 0 on too": {{Weight: 5, From: 2500}},
		"[2].from: say what holds for these parcels from a price of 0 on too": {{Amount: 3}, {From: 2500}, {To: "IE", From: 100}},
	} {
		assert.EqualError(t, bands.Check(), words)
	}
	assert.False(t, pricing.Postage{{To: "IE", Amount: 3}}.Looks())
	assert.True(t, pricing.Postage{{Amount: 3}, {Shortest: 25}}.Looks())
}

// Tax in what a supplier asks is no cost where it is got back: 12.00 and 3.00 delivery
// with 20 % in them are 12.50, and 15.00 where it isn't.
func TestTaxInACost(t *testing.T) {
	c := pricing.Cost{Unit: money.Of(1200, "GBP"), Charge: 300, Reclaimed: 200_000}
	landed, err := c.Landed("GBP")
	require.NoError(t, err)
	assert.EqualValues(t, 1250, landed)
	lines, err := c.Open("GBP")
	require.NoError(t, err)
	assert.Contains(t, lines, pricing.CostLine{Name: "tax in it that you get back, 20%", Amount: "-2.50 GBP"})
	c.Reclaimed = 0
	landed, err = c.Landed("GBP")
	require.NoError(t, err)
	assert.EqualValues(t, 1500, landed)
	free := int64(1200)
	c.Reclaimed, c.FreeFrom = 200_000, &free
	landed, err = c.Landed("GBP")
	require.NoError(t, err)
	assert.EqualValues(t, 1000, landed, "free from 12.00 as they ask it, tax included")
}

// A rate holds from its day on; a country's own before that of every other.
func TestTaxRates(t *testing.T) {
	rates := pricing.TaxRates{{From: "2027-01-01", Rate: 210_000}, {Rate: 200_000}, {Country: "IE", From: "2026-03-01", Rate: 230_000}}
	require.NoError(t, rates.Check())
	for _, c := range []struct {
		country, day string
		rate         money.Rate
	}{
		{"GB", "2026-12-31", 200_000}, {"GB", "2027-01-01", 210_000}, {"IE", "2026-02-28", 200_000}, {"IE", "2026-03-01", 230_000}, {"IE", "2028-01-01", 230_000},
	} {
		assert.Equal(t, c.rate, rates.On(c.country, c.day, 190_000), "%s on %s", c.country, c.day)
	}
	assert.Equal(t, money.Rate(190_000), pricing.TaxRates{{Country: "IE", Rate: 1}}.On("GB", "2026-01-01", 190_000))
	for words, wrong := range map[string]pricing.TaxRates{
		`[0].country: "Eire" is no country by its two letters, such as GB`: {{Country: "Eire"}},
		`[0].from: "1.1.27" is not a day such as 2027-01-01`:               {{From: "1.1.27"}},
		"[0].rate: must be between 0 and 100%":                             {{Rate: 1_000_001}},
		"[1]: says another rate for the same country and day":              {{Rate: 1}, {Rate: 2}},
	} {
		assert.EqualError(t, wrong.Check(), words)
	}
}

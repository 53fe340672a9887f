package pricing_test

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

func randomCost(t *rapid.T) pricing.Cost {
	whole := func(name string, lo, hi int64) int64 { return rapid.Int64Range(lo, hi).Draw(t, name) }
	c := pricing.Cost{
		Unit: money.Of(whole("unit", 0, 5_000_000), rapid.SampledFrom([]money.Currency{"GBP", "EUR", "JPY", "KWD"}).Draw(t, "currency")),
		UnitsListed: whole(
			"listed",
			1,
			24,
		),
		UnitsBought: whole("bought", 1, 24),
		Charge:      whole("charge", 0, 2000),
		Duty:        money.Rate(whole("duty", 0, 300_000)),
		Handling:    whole("handling", 0, 500),
		Reclaimed:   money.Rate(rapid.SampledFrom([]int64{0, 0, 55_000, 200_000, 250_000}).Draw(t, "reclaimed")),
	}
	if rapid.Bool().Draw(t, "free") {
		v := whole("free from", 0, 10_000)
		c.FreeFrom = &v
	}
	if c.Unit.Currency != "GBP" {
		c.FX, c.Cushion = money.FX(whole("fx", 1_000, 3_000_000_000)), money.Rate(whole("cushion", 0, 100_000))
	}
	return c
}

// landed is docs/definitions/money.md, "Landed cost", in rationals.
func landed(c pricing.Cost) *big.Int {
	n := big.NewRat(c.UnitsListed, c.UnitsBought)
	unit := big.NewRat(c.Unit.Minor, 1)
	one := big.NewRat(1, 1)
	least, most := one, n
	if n.Cmp(one) < 0 {
		least, most = n, one
	}
	delivery := new(big.Rat).Mul(big.NewRat(c.Charge, 1), least)
	if c.FreeFrom != nil && new(big.Rat).Mul(unit, most).Cmp(big.NewRat(*c.FreeFrom, 1)) >= 0 {
		delivery = new(big.Rat)
	}
	sum := new(big.Rat).Add(new(big.Rat).Mul(unit, n), delivery)
	sum.Quo(sum, new(big.Rat).Add(one, big.NewRat(int64(c.Reclaimed), int64(money.One))))
	sum.Mul(sum, big.NewRat(int64(money.One+c.Duty), int64(money.One)))
	if c.FX != 0 {
		sum.Mul(sum, big.NewRat(int64(c.FX), 1_000_000_000))
		digits, _ := c.Unit.Currency.Digits()
		for ; digits < 2; digits++ {
			sum.Mul(sum, big.NewRat(10, 1))
		}
		for ; digits > 2; digits-- {
			sum.Quo(sum, big.NewRat(10, 1))
		}
	}
	sum.Mul(sum, big.NewRat(int64(money.One+c.Cushion), int64(money.One)))
	up, rest := new(big.Int).QuoRem(sum.Num(), sum.Denom(), new(big.Int))
	if rest.Sign() > 0 {
		up.Add(up, big.NewInt(1))
	}
	return up.Add(up, big.NewInt(c.Handling))
}

func TestLandedCostIsExactUntilItsOneRounding(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := randomCost(t)
		got, err := c.Landed("GBP")
		require.NoError(t, err)
		require.Equal(t, landed(c).Int64(), got)
		lines, err := c.Open("GBP")
		require.NoError(t, err)
		require.Equal(t, money.Of(got, "GBP").String()+" GBP", lines[len(lines)-1].Amount, "opened, it comes to the same")
	})
}

func TestALandedCostOpensIntoItsSteps(t *testing.T) {
	free := int64(3500)
	mugs := pricing.Cost{
		Unit:        money.Of(1295, "EUR"),
		UnitsListed: 1,
		UnitsBought: 6,
		Charge:      450,
		FreeFrom:    &free,
		Duty:        42_000,
		FX:          861_200_000,
		Cushion:     15_000,
		Handling:    60,
	}
	lines, err := mugs.Open("GBP")
	require.NoError(t, err)
	assert.Equal(t, []pricing.CostLine{
		{
			Name:   "one item of the supplier's",
			Amount: "12.95 EUR",
		},
		{Name: "the share that is listed, 1 of 6", Amount: "2.1583 EUR"},
		{Name: "its delivery", Amount: "0.75 EUR"},
		{
			Name:   "duty, 4.2%",
			Amount: "0.1222 EUR",
		},
		{Name: "at 0.8612 GBP for 1 EUR", Amount: "2.6099 GBP"},
		{Name: "cushion, 1.5%", Amount: "0.0391 GBP"},
		{Name: "handling", Amount: "0.60 GBP"},
		{Name: "landed cost, rounded up", Amount: "3.25 GBP"},
	}, lines)
	mugs.Unit = money.Of(3500, "EUR")
	lines, err = mugs.Open("GBP")
	require.NoError(t, err)
	assert.Equal(t, pricing.CostLine{Name: "its delivery, free from 35.00", Amount: "0.00 EUR"}, lines[2])
	yen := pricing.Cost{Unit: money.Of(1200, "JPY"), UnitsListed: 1, UnitsBought: 7}
	lines, err = yen.Open("JPY")
	require.NoError(t, err)
	assert.Equal(
		t,
		[]pricing.CostLine{
			{Name: "one item of the supplier's", Amount: "1200 JPY"},
			{Name: "the share that is listed, 1 of 7", Amount: "171.43 JPY"},
			{Name: "landed cost, rounded up", Amount: "172 JPY"},
		},
		lines,
	)
	_, err = pricing.Cost{Unit: money.Of(1, "EUR")}.Open("GBP")
	assert.ErrorContains(t, err, "fx: needed from EUR to GBP")
	_, err = pricing.Cost{Unit: money.Of(1<<62, "GBP"), UnitsListed: 1000}.Landed("GBP")
	assert.ErrorIs(t, err, money.ErrRange)
}

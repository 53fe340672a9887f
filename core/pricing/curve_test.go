package pricing_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// The few points define the curve: between two of them no price is further from
// the straight line than rounding can move it.
func TestCurveIsTheProfitBetweenItsPoints(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const limit = 2500
		terms, _, _ := randomTerms(t, limit)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 900).Draw(t, "landed")}
		points := terms.Curve(spend, 1, limit)
		require.NotEmpty(t, points)
		require.Equal(t, int64(1), points[0].Price)
		require.Equal(t, int64(limit), points[len(points)-1].Price)
		for i := 1; i < len(points); i++ {
			a, b := points[i-1], points[i]
			for p := a.Price; p <= b.Price; p++ {
				got, err := terms.Profit(spend, p)
				require.NoError(t, err)
				straight := a.Profit + (b.Profit-a.Profit)*(p-a.Price)/(b.Price-a.Price)
				require.InDelta(t, straight, got, 25, "at %d between %v and %v", p, a, b)
			}
		}
	})
}

// A price in a fall earns less than its best; one outside of all falls earns no
// less than any lower price, but for rounding.
func TestFallsAreWhereMoreCostsLess(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const limit = 2500
		terms, _, _ := randomTerms(t, limit)
		falls := terms.Falls()
		inside := func(p int64) *pricing.Fall {
			for i := range falls {
				if p >= falls[i].From && p <= falls[i].To {
					return &falls[i]
				}
			}
			return nil
		}
		left := func(p int64) int64 { v, err := terms.Profit(pricing.Spend{}, p); require.NoError(t, err); return v }
		most := left(1)
		for p := int64(1); p <= limit; p++ {
			if f := inside(p); f != nil {
				require.Less(t, f.Best, f.From)
				require.Less(t, left(p), left(f.Best))
			} else {
				require.GreaterOrEqual(t, left(p), most-30)
			}
			most = max(most, left(p))
		}
	})
}

func TestAWholeBandsEdge(t *testing.T) {
	terms, err := pricing.NewTerms(
		pricing.Spec{Currency: "GBP", Fees: []pricing.Fee{{Name: "commission", Of: pricing.OfItem, Banding: pricing.Whole,
			Bands: []pricing.Band{{To: 5000, Rate: 100_000}, {Rate: 150_000}}}}},
	)
	require.NoError(t, err)
	// 50.00 leaves 45.00; to have that again at 15 % it takes 52.94 (52.94 less 7.94).
	assert.Equal(t, []pricing.Fall{{From: 5001, To: 5293, Best: 5000, Less: 249}}, terms.Falls())
	assert.Equal(t, []pricing.Point{{1, 1}, {5000, 4500}, {5001, 4251}, {8000, 6800}}, terms.Curve(pricing.Spend{}, 1, 8000))
}

func TestWarehouseFees(t *testing.T) {
	tax := money.Rate(200_000)
	w := pricing.Warehouse{Name: "warehouse", Divisor: 5000, Tax: &tax, Steps: []pricing.Step{
		{Name: "letter", Longest: 330, Median: 230, Shortest: 25, Weight: 460, Fee: 190},
		{Name: "small parcel", Longest: 350, Median: 250, Shortest: 120, Weight: 3900, Fee: 310, Over: 1000, HalfKilo: 40},
		{Name: "parcel", Longest: 1200, Girth: 1800, Weight: 23_000, Fee: 520, Over: 2000, HalfKilo: 25},
	}}
	require.NoError(t, w.Check())
	for name, c := range map[string]struct {
		packed  pricing.Packed
		step    string
		charged int64
		fee     int64
		bad     string
	}{
		"flat and light":          {pricing.Packed{Weight: 200, Sides: [3]int64{20, 300, 200}}, "letter", 240, 190, ""}, // 1.2 l at 5000: 240 g
		"heavier by volume":       {pricing.Packed{Weight: 200, Sides: [3]int64{100, 300, 200}}, "small parcel", 1200, 350, ""},
		"a half kilo begun":       {pricing.Packed{Weight: 1501, Sides: [3]int64{60, 200, 200}}, "small parcel", 1501, 390, ""},
		"a half kilo, just":       {pricing.Packed{Weight: 1500, Sides: [3]int64{60, 200, 200}}, "small parcel", 1500, 350, ""},
		"too thick for small":     {pricing.Packed{Weight: 900, Sides: [3]int64{130, 130, 130}}, "parcel", 900, 520, ""},
		"too far around":          {pricing.Packed{Weight: 900, Sides: [3]int64{600, 400, 800}}, "", 38_400, 0, "too large"},
		"too heavy":               {pricing.Packed{Weight: 23_001, Sides: [3]int64{100, 100, 100}}, "", 23_001, 0, "too large"},
		"no weight":               {pricing.Packed{Sides: [3]int64{100, 100, 100}}, "", 0, 0, "weight"},
		"a side missing":          {pricing.Packed{Weight: 10, Sides: [3]int64{100, 0, 100}}, "", 0, 0, "length, width and height"},
		"beyond any measure":      {pricing.Packed{Weight: 10, Sides: [3]int64{1 << 40, 1 << 40, 1 << 40}}, "", 0, 0, "range"},
		"exactly at every border": {pricing.Packed{Weight: 460, Sides: [3]int64{330, 230, 25}}, "letter", 460, 190, ""},
	} {
		f, step, charged, err := w.Resolve(c.packed)
		if c.bad != "" {
			assert.ErrorContains(t, err, c.bad, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, c.step, step, name)
		assert.Equal(t, c.charged, charged, name)
		assert.Equal(t, pricing.Fee{Name: "warehouse", Of: pricing.OfItem, Fixed: c.fee, Tax: &tax}, f, name)
	}
	_, _, _, err := w.Resolve(pricing.Packed{})
	var missing pricing.Missing
	require.True(t, errors.As(err, &missing))
	assert.Len(t, missing, 2)
	for field, bad := range map[string]pricing.Warehouse{"name": {}, "steps": {Name: "w"}, "divisor": {Name: "w",
		Divisor: -1}, "steps[0]": {Name: "w", Steps: []pricing.Step{{Fee: -1}}}} {
		assert.ErrorContains(t, bad.Check(), field)
	}
}

func TestFormerPrices(t *testing.T) {
	for _, c := range []struct{ price, former, percent int64 }{{7500, 10_000, 25}, {6667, 10_000, 33}, {6666, 10_000, 33}, {1,
		1_000_000, 99}, {999, 1000, 0}} {
		got, err := pricing.Off(c.price, c.former)
		require.NoError(t, err)
		assert.Equal(t, c.percent, got, "%d from %d", c.price, c.former)
	}
	for _, bad := range [][2]int64{{100, 100}, {100, 99}, {0, 10}} {
		_, err := pricing.Off(bad[0], bad[1])
		assert.ErrorContains(t, err, "above the price")
	}
	const now, day = 1_772_528_400, 86_400
	ago := func(days, price int64) pricing.Offered {
		return pricing.Offered{From: now - days*day, Price: price}
	}
	assert.True(t, pricing.WasOffered([]pricing.Offered{ago(90, 2000), ago(29, 1500)}, 2000, now), "until 29 days ago")
	assert.False(t, pricing.WasOffered([]pricing.Offered{ago(90, 2000), ago(31, 1500)}, 2000, now), "31 days ago is too long")
	assert.False(t, pricing.WasOffered([]pricing.Offered{ago(90, 1999), ago(2, 1500)}, 2000, now), "never at so much")
	assert.False(t, pricing.WasOffered([]pricing.Offered{ago(90, 2000)}, 2000, now), "what is asked now isn't former")
	assert.False(t, pricing.WasOffered(nil, 2000, now))
}

func TestTheFirstRuleThatFitsHolds(t *testing.T) {
	from, to := int64(1000), int64(2000)
	mug := pricing.Facts{
		SKU:        "EM-1",
		Supplier:   "Fernhollow Wholesale",
		Brand:      "Tarnwick",
		Categories: []string{"mugs", "kitchen"},
		Landed:     1500,
		Weight:     300,
	}
	rules := []pricing.Fits{
		{SKUs: []string{"EM-2"}},
		{Brands: []string{"tarnwick"}, Categories: []string{"stoves"}},
		{Categories: []string{"kitchen"}, CostFrom: &from, CostTo: &to},
		{},
	}
	assert.Equal(t, 2, pricing.First(rules, &mug))
	for name, c := range map[string]struct {
		fits pricing.Fits
		want bool
	}{
		"everything":             {pricing.Fits{}, true},
		"by hand":                {pricing.Fits{SKUs: []string{"EM-9", "EM-1"}}, true},
		"another supplier":       {pricing.Fits{Suppliers: []string{"Tidewrack Clearance"}}, false},
		"cheaper":                {pricing.Fits{CostTo: &from}, false},
		"dearer":                 {pricing.Fits{CostFrom: &to}, false},
		"light enough":           {pricing.Fits{WeightTo: 300}, true},
		"too light":              {pricing.Fits{WeightFrom: 301}, false},
		"brand but not category": {pricing.Fits{Brands: []string{"Tarnwick"}, Categories: []string{"tarps"}}, false},
	} {
		assert.Equal(t, c.want, c.fits.Fit(&mug), name)
	}
	unknown := mug
	unknown.Weight = 0
	assert.False(t, (&pricing.Fits{WeightTo: 300}).Fit(&unknown), "an unknown weight is not a light one")
	assert.Equal(t, -1, pricing.First(rules[:2], &mug))
}

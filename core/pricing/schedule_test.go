package pricing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/core/pricing"
)

// The latest of a category's own schedules that has begun holds, else its
// parent's, else that for every other; a warehouse may stand further up.
func TestWhichScheduleHolds(t *testing.T) {
	store := &pricing.Warehouse{Name: "store"}
	s := pricing.NewSchedules(map[string]string{"mugs": "kitchen", "kitchen": "", "ring": "round", "round": "ring"}, []pricing.Schedule{
		{Category: "mugs", StartsOn: "2026-03-10"},
		{Category: "kitchen", StartsOn: "2026-02-01", Fees: []pricing.Fee{{Name: "second"}}},
		{Category: "kitchen", StartsOn: "2026-01-01", Fees: []pricing.Fee{{Name: "first"}}},
		{StartsOn: "2025-12-01", Warehouse: store},
	})
	for _, c := range []struct {
		category, day, starts string
	}{
		{"mugs", "2026-03-10", "2026-03-10"}, {"mugs", "2026-03-09", "2026-02-01"}, {"kitchen", "2026-02-01", "2026-02-01"},
		{"kitchen", "2026-01-31", "2026-01-01"}, {"mugs", "2025-12-31", "2025-12-01"}, {"elsewhere", "2026-03-10", "2025-12-01"},
		{"ring", "2026-03-10", "2025-12-01"}, {"", "2025-12-01", "2025-12-01"},
	} {
		x, ok := s.On(c.category, c.day)
		assert.Equal(t, []any{c.starts, true}, []any{x.StartsOn, ok}, "%s on %s", c.category, c.day)
		assert.Equal(t, store, s.WarehouseOn(c.category, c.day), "%s on %s", c.category, c.day)
	}
	_, ok := s.On("mugs", "2025-11-30")
	assert.False(t, ok, "none has begun")
	assert.Nil(t, s.WarehouseOn("mugs", "2025-11-30"))
	assert.Equal(t, []string{"mugs", "kitchen", ""}, s.Line("mugs"))
	assert.Equal(t, []string{""}, s.Line(""))
	assert.Len(t, s.Line("ring"), 21, "a ring ends")
}

func TestWhichProductsARuleFits(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	mug := pricing.Facts{SKU: "M-1", Supplier: "Fernhollow", Brand: "Tarnwick", Categories: []string{"mugs", "kitchen", ""}, Landed: 1000, Weight: 300}
	for name, c := range map[string]struct {
		fits pricing.Fits
		want bool
	}{
		"anything":                  {pricing.Fits{}, true},
		"its SKU, however written":  {pricing.Fits{SKUs: []string{"x", "m-1"}}, true},
		"other SKUs":                {pricing.Fits{SKUs: []string{"x"}}, false},
		"its supplier":              {pricing.Fits{Suppliers: []string{"FERNHOLLOW"}}, true},
		"another supplier":          {pricing.Fits{Suppliers: []string{"Tidewrack"}}, false},
		"its brand":                 {pricing.Fits{Brands: []string{"tarnwick"}}, true},
		"another brand":             {pricing.Fits{Brands: []string{"Skarholt"}}, false},
		"a category above it":       {pricing.Fits{Categories: []string{"kitchen"}}, true},
		"another category":          {pricing.Fits{Categories: []string{"tarps"}}, false},
		"from its very cost":        {pricing.Fits{CostFrom: n(1000)}, true},
		"from a penny more":         {pricing.Fits{CostFrom: n(1001)}, false},
		"up to its very cost":       {pricing.Fits{CostTo: n(1000)}, true},
		"up to a penny less":        {pricing.Fits{CostTo: n(999)}, false},
		"from its very weight":      {pricing.Fits{WeightFrom: 300}, true},
		"from a gram more":          {pricing.Fits{WeightFrom: 301}, false},
		"up to its very weight":     {pricing.Fits{WeightTo: 300}, true},
		"up to a gram less":         {pricing.Fits{WeightTo: 299}, false},
		"one of two holds not":      {pricing.Fits{Brands: []string{"Tarnwick"}, CostTo: n(999)}, false},
		"all of several that there": {pricing.Fits{Brands: []string{"Tarnwick"}, CostFrom: n(1), CostTo: n(1000), WeightFrom: 1, WeightTo: 500}, true},
	} {
		assert.Equal(t, c.want, c.fits.Fit(&mug), name)
	}
	unknown := mug
	unknown.Weight = 0
	for _, f := range []pricing.Fits{{WeightFrom: 1}, {WeightTo: 500}} {
		assert.False(t, f.Fit(&unknown), "a bound doesn't fit what isn't known")
	}
	assert.Equal(t, 1, pricing.First([]pricing.Fits{{Brands: []string{"Skarholt"}}, {}, {}}, &mug))
	assert.Equal(t, -1, pricing.First([]pricing.Fits{{Brands: []string{"Skarholt"}}}, &mug))
}

// The floor is the least price that keeps what is kept, and Holds says the same of any.
func TestTheFloorKeepsWhatIsKept(t *testing.T) {
	terms, err := pricing.NewTerms(pricing.Spec{Currency: "GBP", Fees: []pricing.Fee{{Name: "commission", Of: "item", Rate: 100_000}}})
	assert.NoError(t, err)
	spend := pricing.Spend{Landed: 1000, Outbound: 200}
	wish := pricing.Wish{Keep: []pricing.Condition{{Kind: pricing.MinProfit, Amount: 100}}}
	floor, ok := terms.Floor(&wish, spend)
	assert.Equal(t, []any{int64(1444), true}, []any{floor, ok})
	assert.True(t, terms.Holds(wish.Keep, spend, 1444))
	assert.False(t, terms.Holds(wish.Keep, spend, 1443))
	assert.True(t, terms.Holds(nil, spend, 1))
	wish.Least = 1600
	floor, ok = terms.Floor(&wish, spend)
	assert.Equal(t, []any{int64(1600), true}, []any{floor, ok}, "never under the least")
	wish.Keep = []pricing.Condition{{Kind: pricing.MinMargin, Rate: 950_000}}
	_, ok = terms.Floor(&wish, spend)
	assert.False(t, ok, "where the fees leave too little at any price")
}

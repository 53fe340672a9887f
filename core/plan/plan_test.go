package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
)

func ptr(v int64) *int64 { return &v }

// live is a listing that is as it should be.
func live() plan.Listing {
	return plan.Listing{Currency: "GBP", ConfirmedPrice: 1999, ConfirmedQuantity: 10, Choice: pricing.Choice{Price: 1999, Found: true, Bound: pricing.ByAim},
		Quantity: 10, KeepsMet: true, ProfitWas: ptr(300), ProfitNew: ptr(300), CostWas: money.Of(900, "GBP"), CostNow: money.Of(900, "GBP"), QuantityWhy: "43 at Fernhollow"}
}

func TestTheVerdicts(t *testing.T) {
	for name, c := range map[string]struct {
		change func(l *plan.Listing)
		kinds  []plan.Kind
		last   plan.Verdict
		why    string
	}{
		"nothing moved":                 {func(*plan.Listing) {}, nil, "", ""},
		"sold out goes":                 {func(l *plan.Listing) { l.Quantity, l.QuantityWhy = 0, "none left" }, []plan.Kind{plan.ToZero}, plan.Go, ""},
		"no price left goes to nothing": {func(l *plan.Listing) { l.Choice = pricing.Choice{Bound: pricing.ByBounds} }, []plan.Kind{plan.NoPrice}, plan.Go, ""},
		"a price up":                    {func(l *plan.Listing) { l.Choice.Price, l.KeepsMet = 2199, false }, []plan.Kind{plan.PriceUp}, plan.Go, ""},
		"a price down":                  {func(l *plan.Listing) { l.Choice.Price = 1899 }, []plan.Kind{plan.PriceDn}, plan.Go, ""},
		"less than half a percent":      {func(l *plan.Listing) { l.Choice.Price = 2008 }, nil, "", ""},
		"the same where a keep fails":   {func(l *plan.Listing) { l.Choice.Price, l.KeepsMet = 2008, false }, []plan.Kind{plan.PriceUp}, plan.Go, ""},
		"half a percent exactly moves":  {func(l *plan.Listing) { l.ConfirmedPrice, l.Choice.Price = 2000, 2010 }, []plan.Kind{plan.PriceUp}, plan.Go, ""},
		"a quarter is still let go":     {func(l *plan.Listing) { l.ConfirmedPrice, l.Choice.Price = 2000, 2500 }, []plan.Kind{plan.PriceUp}, plan.Go, ""},
		"more than a quarter is held":   {func(l *plan.Listing) { l.ConfirmedPrice, l.Choice.Price = 2000, 2501 }, []plan.Kind{plan.PriceUp}, plan.Held, "more than 25 %"},
		"cost over 30 % is held":        {func(l *plan.Listing) { l.CostNow, l.Choice.Price = money.Of(1171, "GBP"), 2099 }, []plan.Kind{plan.PriceUp}, plan.Held, "cost moved"},
		"a third move in a day is held": {func(l *plan.Listing) { l.MovesToday, l.Choice.Price = 2, 2099 }, []plan.Kind{plan.PriceUp}, plan.Held, "24 hours"},
		"at a loss is held":             {func(l *plan.Listing) { l.ProfitNew, l.Choice.Price = ptr(-1), 1899 }, []plan.Kind{plan.PriceDn}, plan.Held, "loses money"},
		"fixed by hand is held":         {func(l *plan.Listing) { l.FixedByHand, l.Choice.Price = true, 2099 }, []plan.Kind{plan.PriceUp}, plan.Held, "fixed by hand"},
		"fewer goes before its price":   {func(l *plan.Listing) { l.Quantity, l.Choice.Price, l.MovesToday = 4, 2099, 2 }, []plan.Kind{plan.Quantity, plan.PriceUp}, plan.Held, ""},
		"more waits for its price":      {func(l *plan.Listing) { l.ConfirmedQuantity, l.Choice.Price = 3, 2099 }, []plan.Kind{plan.PriceUp}, plan.Go, ""},
		"broken, and none is left":      {func(l *plan.Listing) { l.Broken, l.Quantity = "no exchange rate", 0 }, []plan.Kind{plan.ToZero}, plan.Go, ""},
		"broken, and fewer are left":    {func(l *plan.Listing) { l.Broken, l.Quantity = "no exchange rate", 2 }, []plan.Kind{plan.Quantity, plan.NoPrice}, plan.Blocked, "exchange rate"},
		"broken, and more are there":    {func(l *plan.Listing) { l.Broken, l.Quantity = "no exchange rate", 99 }, []plan.Kind{plan.NoPrice}, plan.Blocked, "exchange rate"},
		"broken, and not on sale":       {func(l *plan.Listing) { l.Broken, l.ConfirmedQuantity = "no exchange rate", 0 }, nil, plan.Go, ""},
		"what can't be worked out":      {func(l *plan.Listing) { l.Broken = "no exchange rate" }, []plan.Kind{plan.NoPrice}, plan.Blocked, "exchange rate"},
	} {
		l := live()
		c.change(&l)
		got := plan.DefaultGuards.WorkOut(l)
		var kinds []plan.Kind
		for _, x := range got {
			kinds = append(kinds, x.Kind)
		}
		require.Equal(t, c.kinds, kinds, name)
		if len(got) > 0 {
			assert.Equal(t, c.last, got[len(got)-1].Verdict, name)
			assert.Contains(t, got[len(got)-1].Why, c.why, name)
		}
	}
}

func TestTheReasonNamesTheCost(t *testing.T) {
	l := live()
	l.CostWas, l.CostNow, l.Feed, l.Choice.Price = money.Of(1240, "EUR"), money.Of(1310, "EUR"), "feed of 09:15", 2099
	assert.Contains(t, plan.DefaultGuards.WorkOut(l)[0].Reasons, "cost 12.40 → 13.10 EUR, feed of 09:15")
}

func TestNoPlanOffersMoreThanThereIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := live()
		l.ConfirmedQuantity = rapid.Int64Range(0, 20).Draw(t, "confirmed")
		l.Quantity = rapid.Int64Range(0, 20).Draw(t, "wanted")
		l.Choice.Price = rapid.Int64Range(1, 5000).Draw(t, "price")
		l.Choice.Found = rapid.Bool().Draw(t, "found")
		l.KeepsMet = rapid.Bool().Draw(t, "keeps")
		quantity := l.ConfirmedQuantity
		for _, x := range plan.DefaultGuards.WorkOut(l) {
			if x.Verdict == plan.Go && x.ToQty != nil {
				assert.LessOrEqual(t, *x.ToQty, l.Quantity)
				quantity = *x.ToQty
			}
			if x.ToPrice != nil {
				assert.Equal(t, l.Choice.Price, *x.ToPrice)
			}
		}
		want := l.Quantity
		if !l.Choice.Found {
			want = 0
		}
		assert.LessOrEqual(t, quantity, max(want, 0), "sending what may go never leaves more on sale than can be had")
	})
}

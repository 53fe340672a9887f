package reckon

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

// onSale is a listing as it is worked out now, with another price, quantity and
// cost on sale.
func sold(b *Book, r store.PricingRow, price, quantity, cost int64) (*store.Listing, Figures) {
	r.ConfirmedQuantity = quantity
	f := figures(b, r)
	l := r.Listing
	b.put(&l, &f)
	l.ConfirmedPrice, l.ConfirmedQuantity, l.ConfirmedLanded, l.ConfirmedCost, l.ConfirmedCostCur = &price, quantity, &cost, &cost, "GBP"
	return &l, f
}

type planned struct {
	kind, verdict, why string
	from, to           *int64 // of the price or the quantity
	reasons            []string
}

func seen(lines []store.PlanLine) []planned {
	var out []planned
	for _, x := range lines {
		p := planned{x.Kind, x.Verdict, x.VerdictWhy, x.FromPrice, x.ToPrice, x.Reasons}
		if x.ToPrice == nil {
			p.from, p.to = x.FromQty, x.ToQty
		}
		out = append(out, p)
	}
	return out
}

func TestThePlanSaysWhatMoved(t *testing.T) {
	soldOut := row(func(r *store.PricingRow) { r.Stock = 0 })
	for name, c := range map[string]struct {
		book                  *Book
		row                   store.PricingRow
		price, quantity, cost int64
		want                  []planned
	}{
		"nothing": {book(), row(), price, 8, landed, nil},
		"the cost rose": {book(), row(), 1600, 8, 940, []planned{{"up", "go", "", at[int64](1600), at[int64](price),
			[]string{"cost 9.40 → 10.00 GBP, feed of 07:00", "meets the rule's aim"}}}},
		"it fell": {book(), row(), 1700, 8, 1100, []planned{{"down", "go", "", at[int64](1700), at[int64](price),
			[]string{"cost 11.00 → 10.00 GBP, feed of 07:00", "meets the rule's aim"}}}},
		"only the rule": {book(), row(), 1600, 8, landed, []planned{{"up", "go", "", at[int64](1600), at[int64](price), []string{"meets the rule's aim"}}}},
		"fewer":         {book(), row(), price, 9, landed, []planned{{"quantity", "go", "", at[int64](9), at[int64](8), []string{"9 at Fernhollow, 07:00"}}}},
		"none": {book(), soldOut, price, 8, 940, []planned{{"zero", "go", "", at[int64](8), at[int64](0),
			[]string{"none left at Fernhollow, 07:00", "cost 9.40 → 10.00 GBP, feed of 07:00"}}}},
		"the cost rose too far": {book(), row(), 1500, 8, 700, []planned{{"up", "held", "cost moved 43 %, more than 30%", at[int64](1500), at[int64](price),
			[]string{"cost 7.00 → 10.00 GBP, feed of 07:00", "meets the rule's aim"}}}},
		"and sells at a loss": {book(), row(), 1000, 8, 700, []planned{
			{"rest", "go", "", at[int64](8), at[int64](0), []string{"every sale at the price there loses money, and the new price is held",
				"cost 7.00 → 10.00 GBP, feed of 07:00"}},
			{"up", "held", "cost moved 43 %, more than 30%", at[int64](1000), at[int64](price), []string{"cost 7.00 → 10.00 GBP, feed of 07:00",
				"meets the rule's aim", "9 at Fernhollow, 07:00"}}}},
		"the price would leap": {book(), row(), 2400, 8, 990, []planned{{"down", "held", "price would move 31 %, more than 25%", at[int64](2400),
			at[int64](price), []string{"cost 9.90 → 10.00 GBP, feed of 07:00", "meets the rule's aim"}}}},
		"too low to wait": {book(), row(), 1200, 8, 990, []planned{{"up", "go", "", at[int64](1200), at[int64](price),
			[]string{"cost 9.90 → 10.00 GBP, feed of 07:00", "meets the rule's aim"}}}},
	} {
		l, f := sold(c.book, c.row, c.price, c.quantity, c.cost)
		assert.Equal(t, c.want, seen(c.book.planLines(l, &f, nil)), name)
	}
	l, f := sold(book(), row(), price, 8, landed)
	l.ConfirmedPrice = nil
	assert.Empty(t, book().planLines(l, &f, nil), "what is not on sale has no plan")
}

// A line keeps what one sale earned and will earn, and what it was worked out from.
func TestALineKeepsWhatItWasWorkedOutFrom(t *testing.T) {
	b := book()
	l, f := sold(b, row(), 1600, 9, 940)
	l.ID = 12
	lines := b.planLines(l, &f, nil)
	up := lines[len(lines)-1]
	if lines[0].ToPrice != nil {
		up = lines[0]
	}
	assert.Equal(t, []any{int64(12), int64(240), int64(300), int64(landed), "GBP", int64(landed), "GBP", store.PlanWaiting},
		[]any{up.ListingID, *up.ProfitWas, *up.ProfitNew, *up.Cost, up.CostCur, *up.Landed, up.Currency, up.State})
	l, f = sold(b, row(), price, 9, landed)
	lines = b.planLines(l, &f, nil)
	assert.Equal(t, []int64{300, 300}, []int64{*lines[0].ProfitWas, *lines[0].ProfitNew}, "another quantity changes no sale")
}

// Where the cost stayed and what it comes to moved, that is said, with the rate's day.
func TestAMovedRateIsSaid(t *testing.T) {
	b := book()
	l, f := sold(b, row(func(r *store.PricingRow) { r.ItemCurrency = "EUR" }), 1400, 8, 780)
	l.ConfirmedCost, l.ConfirmedCostCur = at[int64](landed), "EUR"
	assert.Equal(t, "landed cost 7.80 → 8.00 GBP, by the exchange rate of 2 March", b.costReason(l, &f))
	b.RateDays = nil
	assert.Equal(t, "landed cost 7.80 → 8.00 GBP", b.costReason(l, &f))
	l.ConfirmedLanded = at[int64](800)
	assert.Empty(t, b.costReason(l, &f), "as before")
	l.ConfirmedLanded = nil
	assert.Empty(t, b.costReason(l, &f))
	l.ConfirmedCost = nil
	assert.Empty(t, b.costReason(l, &f), "nothing to compare with")
	l, f = sold(b, row(), 1400, 8, 780)
	l.ConfirmedCost = at[int64](landed)
	assert.Equal(t, "landed cost 7.80 → 10.00 GBP", b.costReason(l, &f), "at home it is no rate")
	l.ConfirmedCostCur = "EUR"
	assert.Equal(t, "cost 10.00 → 10.00 GBP, feed of 07:00", b.costReason(l, &f), "another currency is another cost")
	f.Link.TakenAt = nil
	assert.Equal(t, "cost 10.00 → 10.00 GBP", b.costReason(l, &f))
}

// While something is on its way only what corrects it follows.
func TestWhatFollowsWhatIsOnItsWay(t *testing.T) {
	b := book()
	sent := func(price, quantity *int64) []store.OpenLine {
		return []store.OpenLine{{SendLine: store.SendLine{Price: price, Quantity: quantity, Landed: at[int64](landed)}}}
	}
	for name, c := range map[string]struct {
		stock int64
		price int64
		open  []store.OpenLine
		want  []string
	}{
		"the same price":               {9, 1600, sent(at[int64](price), nil), nil},
		"another, and it keeps enough": {9, 1600, sent(at[int64](1650), nil), nil},
		"one under what is kept":       {9, 1600, sent(at[int64](1443), nil), []string{"up"}},
		"more than there is":           {5, price, sent(nil, at[int64](8)), []string{"quantity"}},
		"fewer than there are":         {9, price, sent(nil, at[int64](3)), nil},
		"some, and there are none":     {0, price, sent(nil, at[int64](8)), []string{"zero"}},
	} {
		l, f := sold(b, row(func(r *store.PricingRow) { r.Stock = c.stock }), c.price, 8, landed)
		var kinds []string
		for _, x := range b.planLines(l, &f, c.open) {
			kinds = append(kinds, x.Kind)
			assert.Equal(t, "follows what is on its way already", x.Reasons[len(x.Reasons)-1], name)
		}
		assert.Equal(t, c.want, kinds, name)
	}
	least := book(func(b *Book) { b.Rules[0].Wish.Least = 1650 })
	for asked, follows := range map[int64]int{1649: 1, 1650: 0} { // enough is kept by both
		l, f := sold(least, row(), 1600, 8, landed)
		assert.Len(t, least.planLines(l, &f, sent(&asked, nil)), follows, "%d on its way", asked)
	}
	over := sent(at[int64](1443), at[int64](3))
	over[0].PriceOver, over[0].QuantityOver = true, true
	l, f := sold(b, row(), price, 8, landed)
	assert.Empty(t, b.planLines(l, &f, over), "what a newer line has overtaken counts for nothing")
	assert.True(t, corrects(plan.Line{Verdict: plan.Blocked}, plan.Wanted{}))
	assert.False(t, corrects(plan.Line{Kind: plan.PriceUp}, plan.Wanted{KeepsMet: true}))
	assert.False(t, corrects(plan.Line{Kind: plan.PriceDn}, plan.Wanted{}))
}

// Two moves a day are enough, unless it is a rival that is followed.
func TestMovesAreCounted(t *testing.T) {
	for moves, want := range map[int64][2]string{1: {"go", "go"}, 2: {"held", "go"}} {
		aim := row(func(r *store.PricingRow) { r.MovesToday = moves })
		l, f := sold(book(), aim, 1600, 8, landed)
		assert.Equal(t, want[0], book().planLines(l, &f, nil)[0].Verdict, "%d moves by the aim", moves)
		b := book(func(b *Book) {
			b.Rules[0].Wish.Market = pricing.Market{Stance: pricing.Below, By: 1, MayExceedAim: true}
		})
		l, f = sold(b, row(func(r *store.PricingRow) { r.MovesToday, r.Offers = moves, offers }), 1650, 8, landed)
		assert.Equal(t, want[1], b.planLines(l, &f, nil)[0].Verdict, "%d moves after rivals", moves)
	}
}

// Where nothing can be told, stock still falls, and the rest says why it waits.
func TestAPlanWithoutAPrice(t *testing.T) {
	b := book()
	unknown := row(func(r *store.PricingRow) { r.ItemCurrency, r.Stock = "USD", 5 })
	l, f := sold(b, unknown, price, 8, landed)
	for _, x := range b.planLines(l, &f, nil) {
		assert.Nil(t, x.ProfitWas, x.Kind)
		if x.Verdict == "blocked" {
			assert.Contains(t, x.VerdictWhy, "no exchange rate from USD to GBP")
		}
	}
	b = book(func(b *Book) { b.Rules[0].Wish.Most = at[int64](1200) })
	l, f = sold(b, row(), 1100, 8, landed)
	lines := seen(b.planLines(l, &f, nil))
	assert.Equal(t, []planned{{"no price", "go", "", at[int64](8), at[int64](0), []string{"no price keeps what the rule asks within its bounds"}}}, lines)
}

func TestWhatSetAPriceInWords(t *testing.T) {
	for _, c := range []struct {
		bound pricing.Bound
		found bool
		want  string
	}{
		{pricing.ByAim, true, "meets the rule's aim"},
		{pricing.ByAim, false, "no price meets what the rule aims at"},
		{pricing.ByKeep, true, "lifted to what the rule keeps"},
		{pricing.ByMarket, true, "set by a rival"},
		{pricing.ByMarket, false, "no rival to price against, and the rule has no aim"},
		{pricing.ByMost, true, "held down to the rule's most"},
		{pricing.ByBounds, false, "no price keeps what the rule asks within its bounds"},
		{ByHand, true, "fixed by hand"},
		{ByHand, false, "the price fixed by hand is under its floor now; release it or fix another"},
		{"", true, ""},
	} {
		assert.Equal(t, c.want, BoundWords(c.bound, c.found))
	}
}

func TestWhySoManyAreOffered(t *testing.T) {
	b := book()
	r := row()
	for why, want := range map[supply.Why]string{
		supply.WhyEnded:    "Fernhollow has ended it",
		supply.WhyGone:     "gone from Fernhollow's feed of 07:00",
		supply.WhyStale:    "nothing heard from Fernhollow for 48 hours",
		supply.WhyUnknown:  "Fernhollow's stock is unknown",
		supply.WhyNoneLeft: "none left at Fernhollow, 07:00",
		supply.WhyTooFew:   "only 1 left at Fernhollow, kept back as the buffer",
		supply.WhyWaiting:  "back at Fernhollow, 07:00; it waits to see whether it stays",
		"":                 "9 at Fernhollow, 07:00",
	} {
		assert.Equal(t, want, b.OfferWhy(&Figures{Link: &r, Gives: supply.Gives{Why: why, Sellable: 1}}), why)
	}
	assert.Equal(t, "you chose not to sell it on Quaymarket GB", b.OfferWhy(&Figures{Link: &r, Barred: true}))
	r.TakenAt = nil
	assert.Equal(t, "9 at Fernhollow, ", b.OfferWhy(&Figures{Link: &r}))
}

// Shares are rounded up, so that what was just too much doesn't look allowed.
func TestWhyALineWaitsInWords(t *testing.T) {
	b := book()
	f := Figures{Broken: "no rate"}
	for _, c := range []struct {
		why  plan.Why
		l    plan.Listing
		w    plan.Wanted
		want string
	}{
		{plan.Broken, plan.Listing{}, plan.Wanted{}, "no rate"},
		{plan.ByHand, plan.Listing{}, plan.Wanted{}, "the price was fixed by hand"},
		{plan.CostMoved, plan.Listing{Landed: 1000}, plan.Wanted{Landed: 1301}, "cost moved 31 %, more than 30%"},
		{plan.CostMoved, plan.Listing{Landed: 1000}, plan.Wanted{Landed: 690}, "cost moved 31 %, more than 30%"},
		{plan.CostMoved, plan.Listing{}, plan.Wanted{Landed: 690}, "cost moved from nothing, more than 30%"},
		{plan.PriceMoved, plan.Listing{Price: 1000}, plan.Wanted{Price: 1500}, "price would move 50 %, more than 25%"},
		{plan.MovedOften, plan.Listing{Moves: 2}, plan.Wanted{}, "price moved 2 times already in 24 hours"},
		{plan.Loss, plan.Listing{}, plan.Wanted{}, "the new price loses money on every sale"},
		{"", plan.Listing{}, plan.Wanted{}, ""},
	} {
		assert.Equal(t, c.want, b.holdWords(plan.DefaultGuards, c.why, &c.l, &c.w, &f))
	}
}

func TestOldRatesAndSmallWords(t *testing.T) {
	assert.Empty(t, StaleRate("EUR", "2026-02-23", morning.Add(-8*time.Hour-40*time.Minute-time.Second)), "eight days less a second")
	for _, now := range []time.Time{morning, morning.Truncate(24 * time.Hour)} {
		assert.Equal(t, "the EUR rate is of 23 February, 8 days old", StaleRate("EUR", "2026-02-23", now))
	}
	assert.Empty(t, StaleRate("EUR", "some day", morning))
	assert.Equal(t, "1 change", Plural(1, "change", "changes"))
	assert.Equal(t, "0 changes", Plural(0, "change", "changes"))
	assert.Equal(t, "a; b", Words("", "a", "", "b"))
	_, err := followingOf(store.Site{Name: "Quaymarket GB", Guards: "{"})
	assert.ErrorContains(t, err, "what Quaymarket GB sets")
	g, err := followingOf(store.Site{Guards: `{"cost_moved":500000,"buffer":3}`})
	assert.NoError(t, err)
	assert.Equal(t, []money.Rate{500_000, plan.DefaultGuards.PriceMoved}, []money.Rate{g.Guards.CostMoved, g.Guards.PriceMoved})
	assert.Equal(t, []int64{3, 10}, []int64{g.Stock.Buffer, g.Stock.Cap})
	for _, x := range []store.FeeSchedule{{Category: "mugs", Fees: "{"}, {Category: "mugs", Fees: "[]", Warehouse: "{"}} {
		_, err := ReadSchedule(x)
		assert.ErrorContains(t, err, `fees for "mugs"`)
	}
	s, err := ReadSchedule(store.FeeSchedule{Category: "mugs", StartsOn: "2026-01-01", Fees: "[]"})
	assert.NoError(t, err)
	assert.Equal(t, []any{"mugs", "2026-01-01", (*pricing.Warehouse)(nil)}, []any{s.Category, s.StartsOn, s.Warehouse})
	_, err = ReadRule(store.PriceRule{Wish: "{"}, "GBP")
	assert.Error(t, err)
	_, err = ReadRule(store.PriceRule{Wish: `{"aims":[],"keep":[]}`, Fits: "{"}, "GBP")
	assert.Error(t, err)
}

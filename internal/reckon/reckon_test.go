package reckon

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// A book in round figures: a tenth of the price for the marketplace, 2.00 for
// sending, no tax. A sale should leave 3.00 and must leave 1.00, so what costs
// 10.00 is asked at 16.67, at 14.44 at least, and makes nothing at 13.33.
const (
	landed = 1000
	price  = 1667
	floor  = 1444
	even   = 1333
)

var morning = time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC)

func profit(amount int64) []pricing.Condition {
	return []pricing.Condition{{Kind: pricing.MinProfit, Amount: amount}}
}

func book(change ...func(*Book)) *Book {
	b := &Book{
		Site:     store.Site{ID: 1, Name: "Quaymarket GB", Currency: "GBP", TaxWay: "included", Outbound: 200},
		Currency: "GBP",
		Rules:    []Ruled{{ID: 7, Name: "All the rest", Wish: pricing.Wish{Aims: profit(300), Keep: profit(100)}}},
		Schedules: pricing.NewSchedules(map[string]string{"mugs": "kitchen", "kitchen": ""}, []pricing.Schedule{
			{StartsOn: "2026-01-01", Fees: []pricing.Fee{{Name: "commission", Of: "item", Rate: 100_000}}},
			{Category: "kitchen", StartsOn: "2026-04-01", Fees: []pricing.Fee{{Name: "commission", Of: "item", Rate: 200_000}}},
		}),
		Rates:    map[string]money.FX{"EUR": 800_000_000},
		RateDays: map[string]string{"EUR": "2026-03-02"},
		Now:      morning,
		Day:      morning.Format(DayForm),
		Follows:  DefaultFollowing,
		terms:    map[termsKey]*pricing.Terms{},
	}
	for _, c := range change {
		c(b)
	}
	return b
}

func at[T any](v T) *T { return &v }

// row is a listing with one supplier that has nine of it.
func row(change ...func(*store.PricingRow)) store.PricingRow {
	r := store.PricingRow{
		Listing: store.Listing{ID: 1, SKU: "M-1", Category: "mugs", Units: 1, State: store.ListingLive, Currency: "GBP"},
		LinkID:  4, UnitsBought: 1, ItemCost: landed, ItemCurrency: "GBP", Stock: 9, StockState: "known", Supplier: "Fernhollow",
		Brand: "Tarnwick", TakenAt: at(morning.Add(-100 * time.Minute)), StaleAfter: 48 * time.Hour,
	}
	for _, c := range change {
		c(&r)
	}
	return r
}

func figures(b *Book, rows ...store.PricingRow) Figures { return b.WorkOut(rows) }

func TestAListingIsWorkedOut(t *testing.T) {
	f := figures(book(), row())
	assert.Equal(t, []any{int64(landed), int64(200), int64(price), true, int64(8), ""},
		[]any{f.Spend.Landed, f.Spend.Outbound, f.Choice.Price, f.Choice.Found, f.Offer, f.Broken})
	low, ok := f.Floor()
	assert.Equal(t, []any{int64(floor), true}, []any{low, ok})
	assert.True(t, f.Allows(floor))
	assert.False(t, f.Allows(floor-1))
	assert.Equal(t, []any{int64(7), false}, []any{f.Rule.ID, f.Own})

	for name, c := range map[string]struct {
		row    store.PricingRow
		change func(*Book)
		price  int64
		offer  int64
		broken string
	}{
		"dearer in another currency": {row: row(func(r *store.PricingRow) { r.ItemCurrency = "EUR" }), price: 1444, offer: 8}, // 8.00 landed
		"with a cushion on it": {row: row(func(r *store.PricingRow) { r.ItemCurrency = "EUR" }),
			change: func(b *Book) { b.Site.Cushion = 100_000 }, price: 1533, offer: 8}, // 8.80
		"no cushion at home":   {row: row(), change: func(b *Book) { b.Site.Cushion = 100_000 }, price: price, offer: 8},
		"our own work counts":  {row: row(), change: func(b *Book) { b.Site.Handling = 90 }, price: 1767, offer: 8},
		"two of them in one":   {row: row(func(r *store.PricingRow) { r.Units = 2 }), price: 2778, offer: 3},
		"no rate":              {row: row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), offer: 8, broken: "no exchange rate from USD to GBP"},
		"out of range":         {row: row(func(r *store.PricingRow) { r.ItemCost, r.Charge = 1<<62, 1<<62 }), offer: 8, broken: "the landed cost is out of range"},
		"not to be sold":       {row: row(func(r *store.PricingRow) { r.Unwanted = true }), price: price},
		"no rule":              {row: row(), change: func(b *Book) { b.Rules = nil }, offer: 8, broken: "no price rule fits it"},
		"a rule that fits not": {row: row(), change: func(b *Book) { b.Rules[0].Fits.Brands = []string{"Skarholt"} }, offer: 8, broken: "no price rule fits it"},
		"no fees yet":          {row: row(), change: func(b *Book) { b.Day = "2025-12-31" }, offer: 8, broken: "no fees are known for Quaymarket GB on 2025-12-31"},
		"fees of another day":  {row: row(), change: func(b *Book) { b.Day = "2026-04-01" }, price: 1875, offer: 8},
		"no warehouse": {row: row(func(r *store.PricingRow) { r.Warehouse = true }), offer: 8,
			broken: "the fees can't be used: Quaymarket GB has no warehouse"},
		"a rule of its own": {row: row(func(r *store.PricingRow) { r.OwnRule = `{"aims":[{"kind":"profit","value":"6.00"}],"keep":[]}` }),
			price: 2000, offer: 8},
		"a broken rule of its own": {row: row(func(r *store.PricingRow) { r.OwnRule = "{" }), offer: 8, broken: "its own price rule can't be used"},
	} {
		b := book()
		if c.change != nil {
			c.change(b)
		}
		f := figures(b, c.row)
		if c.broken != "" {
			assert.Contains(t, f.Broken, c.broken, name)
			_, ok := f.Floor()
			assert.False(t, ok, "%s: nothing may be asked", name)
			assert.False(t, f.Allows(1<<40), name)
		} else {
			assert.Equal(t, []any{c.price, ""}, []any{f.Choice.Price, f.Broken}, name)
		}
		assert.Equal(t, c.offer, f.Offer, name)
	}
}

// A price by hand is found where it is not under the floor and keeps what is kept.
func TestAPriceByHand(t *testing.T) {
	for p, found := range map[int64]bool{floor: true, floor - 1: false, 9999: true} {
		f := figures(book(), row(func(r *store.PricingRow) { r.FixedPrice = &p }))
		assert.Equal(t, []any{p, found, ByHand}, []any{f.Choice.Price, f.Choice.Found, f.Choice.Bound}, p)
	}
}

// The warehouse sends: its fee, by the packed size, is in the place of what
// sending costs; a size of other units says nothing.
func TestTheWarehouseSends(t *testing.T) {
	b := book(func(b *Book) {
		b.Schedules = pricing.NewSchedules(nil, []pricing.Schedule{{StartsOn: "2026-01-01", Fees: []pricing.Fee{{Name: "commission", Of: "item", Rate: 100_000}},
			Warehouse: &pricing.Warehouse{Name: "warehouse fee", Steps: []pricing.Step{{Name: "small", Weight: 500, Fee: 110}, {Name: "big", Weight: 5000, Fee: 500}}}}})
	})
	stored := func(grams int64, change ...func(*store.PricingRow)) Figures {
		return figures(b, row(append(change, func(r *store.PricingRow) {
			r.Warehouse, r.Weight, r.Length, r.Width, r.Height = true, grams, 100, 100, 100
		})...))
	}
	f := stored(400)
	assert.Equal(t, []any{"small", int64(0), int64(1567), ""}, []any{f.Step, f.Spend.Outbound, f.Choice.Price, f.Broken})
	f = stored(501)
	assert.Equal(t, []any{"big", int64(2000)}, []any{f.Step, f.Choice.Price})
	f = stored(400, func(r *store.PricingRow) { r.Units = 3 })
	assert.Contains(t, f.Broken, "so the warehouse's fee can't be told")
	f = stored(400, func(r *store.PricingRow) { r.Units, r.UnitsBought = 0, 1 })
	assert.Empty(t, f.Broken, "none said is one")
}

func TestBooksOfOtherDaysRulesAndRates(t *testing.T) {
	b := book()
	assert.Equal(t, int64(price), figures(b, row()).Choice.Price)
	assert.Equal(t, int64(1875), figures(b.On("2026-05-01"), row()).Choice.Price)
	assert.Equal(t, int64(2000), figures(b.Under([]Ruled{{ID: 8, Wish: pricing.Wish{Aims: profit(600)}}}), row()).Choice.Price)
	euro := row(func(r *store.PricingRow) { r.ItemCurrency = "EUR" })
	assert.Equal(t, int64(price), figures(b.At(map[string]money.FX{"EUR": 1_000_000_000}), euro).Choice.Price)
	assert.Equal(t, int64(price), figures(b, row()).Choice.Price, "the book itself stays")
	assert.Len(t, b.terms, 1, "terms are made once for a category")

	assert.Equal(t, store.Asked{}, b.Asks())
	heavy, tall := *b, *b
	heavy.Rules = []Ruled{{Fits: pricing.Fits{WeightTo: 5}}, {}}
	assert.True(t, heavy.Asks().Sizes)
	heavy.Rules = []Ruled{{Fits: pricing.Fits{WeightFrom: 5}}, {}}
	assert.True(t, heavy.Asks().Sizes)
	tall.Rules = []Ruled{{Wish: pricing.Wish{Market: pricing.Market{Stance: pricing.Below}}}, {}}
	assert.Equal(t, store.Asked{Offers: true}, tall.Asks())
	tall.Rules = []Ruled{{Wish: pricing.Wish{Market: pricing.Market{Stance: pricing.Ignore}}}}
	assert.False(t, tall.Asks().Offers)
}

const offers = `[{"seller":"Us","item":900,"delivery":0,"ours":true},{"seller":"Lowfell","item":1500,"delivery":99},
	{"seller":"The Peg Box","item":1585,"delivery":5},{"seller":"Cairn","item":1700,"delivery":0,"lead":true},
	{"seller":"Far Away","item":1550,"delivery":300}]`

// A price set by a rival names the one it was set by: the lowest, or the leading
// one, and never us.
func TestARivalIsNamed(t *testing.T) {
	stand := func(lead bool) *Book {
		return book(func(b *Book) {
			b.Rules[0].Wish.Market = pricing.Market{Stance: pricing.Below, By: 1, AgainstLead: lead, MayExceedAim: true}
		})
	}
	with := row(func(r *store.PricingRow) { r.Offers = offers })
	f := figures(stand(false), with)
	assert.Equal(t, int64(1589), f.Choice.Price)
	assert.Equal(t, "set by a rival: The Peg Box asks 15.90 in all", stand(false).PriceWhy(&f))
	f = figures(stand(true), with)
	assert.Equal(t, int64(1699), f.Choice.Price)
	assert.Equal(t, "set by a rival: Cairn asks 17.00 in all", stand(true).PriceWhy(&f))
	f.Link.Offers = ""
	assert.Equal(t, "set by a rival", stand(true).PriceWhy(&f))
	assert.Nil(t, ReadOffers("{"), "what can't be read is no offer")
	f = figures(book(), with)
	assert.Equal(t, "meets the rule's aim", book().PriceWhy(&f), "a rule that ignores them")
}

func TestTheQuotesPartsMakeThePrice(t *testing.T) {
	b := book(func(b *Book) { b.Site.TaxRate, b.Site.Charged = 200_000, 150 })
	f := figures(b, row())
	q, err := b.Quote(&f, 2000)
	require.NoError(t, err)
	fees, tax, outbound := Parts(q.Lines)
	assert.Equal(t, []int64{200, 358, 50}, []int64{*fees, *tax, *outbound}, "a tenth of 20.00, a sixth of 21.50, 2.00 less 1.50")
	assert.Equal(t, int64(2000), *fees+*tax+*outbound+f.Spend.Landed+q.Profit)
	for kind, part := range map[pricing.LineKind]Part{pricing.LineFee: FeesPart, pricing.LineFeeTax: FeesPart, pricing.LineAllowance: FeesPart,
		pricing.LineTax: TaxPart, pricing.LineOutbound: DeliveryPart, pricing.LineDelivery: DeliveryPart, pricing.LineCost: CostPart, pricing.LinePrice: ""} {
		assert.Equal(t, part, PartOf(kind), kind)
	}
	assert.Equal(t, "20.00", b.Money(2000))
	f = b.WouldMake(at(row()))
	assert.Equal(t, "", f.Broken)
	f = b.WouldMake(at(row(func(r *store.PricingRow) { r.ItemCurrency = "NOK" })))
	assert.Contains(t, f.Broken, "no exchange rate from NOK to GBP")
}

func TestWhatMayNotBeHandedOver(t *testing.T) {
	b := book()
	for name, c := range map[string]struct {
		f               Figures
		price, quantity *int64
		want            string
	}{
		"both fine":        {figures(b, row()), at[int64](floor), at[int64](8), ""},
		"one too many":     {figures(b, row()), nil, at[int64](9), "9 were to be offered, and only 8 can be now: 9 at Fernhollow, 07:00"},
		"a penny under":    {figures(b, row()), at[int64](floor - 1), nil, "14.43 is under its floor now, which is 14.44"},
		"only a quantity":  {figures(b, row(func(r *store.PricingRow) { r.ItemCurrency = "USD" })), nil, at[int64](8), ""},
		"nothing known":    {figures(b, row(func(r *store.PricingRow) { r.ItemCurrency = "USD" })), at[int64](9999), nil, "no exchange rate from USD to GBP; type one under Price, Terms and rates"},
		"stock to nothing": {figures(b, row(func(r *store.PricingRow) { r.Stock = 0 })), nil, at[int64](0), ""},
		"no price at all": {figures(book(func(b *Book) {
			b.Rules[0].Wish.Keep = []pricing.Condition{{Kind: pricing.MinMargin, Rate: 950_000}}
		}), row()), at[int64](9999), nil,
			"no price keeps what its rule asks now"},
	} {
		assert.Equal(t, c.want, b.Forbids(&c.f, &store.SendLine{Price: c.price, Quantity: c.quantity}), name)
	}
}

// What was worked out is written into the listing, and how it stands by it.
func TestWhatIsWorkedOutIsWritten(t *testing.T) {
	b := book()
	l := store.Listing{State: store.ListingUnpriced}
	f := figures(b, row())
	b.put(&l, &f)
	assert.Equal(t, store.Listing{State: store.ListingReady, Price: at[int64](price), Quantity: 8, Cost: at[int64](landed), CostCur: "GBP",
		Landed: at[int64](landed), Fees: at[int64](167), Tax: at[int64](0), Outbound: at[int64](200), Profit: at[int64](300), Floor: at[int64](floor),
		BreakEven: at[int64](even), Bound: "aim", RuleID: at[int64](7), SupplyLinkID: at[int64](4)}, l)

	for name, c := range map[string]struct {
		row      store.PricingRow
		from, to string
		quantity int64
		why      string
	}{
		"none left":         {row(func(r *store.PricingRow) { r.Stock = 0 }), store.ListingReady, store.ListingPaused, 0, "none left at Fernhollow, 07:00"},
		"there again":       {row(), store.ListingPaused, store.ListingReady, 8, ""},
		"nothing known":     {row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), store.ListingReady, store.ListingUnpriced, 0, "no exchange rate"},
		"live all the same": {row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), store.ListingLive, store.ListingLive, 8, "no exchange rate"},
		"sent, unknown":     {row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), store.ListingUnknown, store.ListingUnknown, 8, "no exchange rate"},
		"on its way":        {row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), store.ListingSent, store.ListingSent, 8, "no exchange rate"},
		"refused stays":     {row(), store.ListingRefused, store.ListingRefused, 8, ""},
		"refused, none known": {row(func(r *store.PricingRow) { r.ItemCurrency = "USD" }), store.ListingRefused, store.ListingRefused, 0,
			"no exchange rate"},
	} {
		l := store.Listing{State: c.from}
		f := figures(b, c.row)
		b.put(&l, &f)
		assert.Equal(t, []any{c.to, c.quantity}, []any{l.State, l.Quantity}, name)
		assert.Contains(t, l.Why, c.why, name)
		if c.why == "" {
			assert.Empty(t, l.Why, name)
		}
	}
	dear := book(func(b *Book) { b.Rules[0].Wish.Most = at[int64](1200) })
	f = figures(dear, row())
	for state, want := range map[string]int64{store.ListingLive: 0, store.ListingReady: 0} {
		l := store.Listing{State: state}
		dear.put(&l, &f)
		assert.Equal(t, []any{want, (*int64)(nil)}, []any{l.Quantity, l.Price}, "no price that may be asked: %s", state)
		assert.Equal(t, "no price keeps what the rule asks within its bounds", l.Why)
	}
	for name, r := range map[string]store.PricingRow{
		"its own rule": row(func(r *store.PricingRow) { r.OwnRule = `{"aims":[{"kind":"profit","value":"6.00"}],"keep":[]}` }),
		"by hand":      row(func(r *store.PricingRow) { r.FixedPrice = at[int64](1999) }),
	} {
		f := figures(b, r)
		l := r.Listing
		b.put(&l, &f)
		assert.Nil(t, l.RuleID, "%s is no rule of the list", name)
	}
}

// Each field that is kept tells two listings apart.
func TestWhatTellsListingsApart(t *testing.T) {
	whole := store.Listing{Price: at[int64](1), Profit: at[int64](1), Floor: at[int64](1), BreakEven: at[int64](1), Landed: at[int64](1), Cost: at[int64](1),
		CostCur: "GBP", Fees: at[int64](1), Tax: at[int64](1), Outbound: at[int64](1), Bound: "aim", Why: "", State: "ready", Quantity: 1,
		RuleID: at[int64](1), SupplyLinkID: at[int64](1)}
	copied := whole
	copied.Price = at[int64](1)
	assert.True(t, sameAmounts(&whole, &copied))
	assert.True(t, sameStanding(&whole, &copied))
	two := at[int64](2)
	for name, change := range map[string]func(l *store.Listing){
		"price": func(l *store.Listing) { l.Price = two }, "no price": func(l *store.Listing) { l.Price = nil },
		"profit": func(l *store.Listing) { l.Profit = two }, "floor": func(l *store.Listing) { l.Floor = two },
		"break-even": func(l *store.Listing) { l.BreakEven = two }, "landed": func(l *store.Listing) { l.Landed = two },
		"cost": func(l *store.Listing) { l.Cost = two }, "currency": func(l *store.Listing) { l.CostCur = "EUR" },
		"fees": func(l *store.Listing) { l.Fees = two }, "tax": func(l *store.Listing) { l.Tax = two },
		"outbound": func(l *store.Listing) { l.Outbound = two }, "bound": func(l *store.Listing) { l.Bound = "keep" },
		"why": func(l *store.Listing) { l.Why = "no" },
	} {
		l := whole
		change(&l)
		assert.False(t, sameAmounts(&whole, &l), name)
		assert.False(t, sameAmounts(&l, &whole), name)
		assert.True(t, sameStanding(&whole, &l), name)
	}
	for name, change := range map[string]func(l *store.Listing){
		"state": func(l *store.Listing) { l.State = "live" }, "quantity": func(l *store.Listing) { l.Quantity = 2 },
		"rule": func(l *store.Listing) { l.RuleID = two }, "supplier": func(l *store.Listing) { l.SupplyLinkID = two },
	} {
		l := whole
		change(&l)
		assert.True(t, sameAmounts(&whole, &l), name)
		assert.False(t, sameStanding(&whole, &l), name)
	}
}

func TestRowsArePartedByListing(t *testing.T) {
	rows := []store.PricingRow{row(), row(), row(func(r *store.PricingRow) { r.ID = 2 }), row(func(r *store.PricingRow) { r.ID = 3 }), row(func(r *store.PricingRow) { r.ID = 3 })}
	var sizes []int
	for part := range ByListing(rows) {
		sizes = append(sizes, len(part))
	}
	assert.Equal(t, []int{2, 1, 2}, sizes)
	for range ByListing(rows) {
		break
	}
	for range ByListing(nil) {
		t.Fatal("there is nothing")
	}
}

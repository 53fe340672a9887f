package house_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/today"
	"easymargin/internal/store"
)

// cheaper brings in a second supplier of what is listed, cheaper than the first, with
// further columns. It gives the listing as it is now.
func (w *world) cheaper(s sources.NewSource, columns, values string) func() store.ListingRow {
	w.t.Helper()
	before := w.listings(store.ListingFilter{States: []string{store.ListingReady}})[0]
	require.Greater(w.t, before.Cost, int64(240))
	f, err := w.Sources.BringIn(w.t.Context(),
		strings.NewReader("ref,title,cost,stock,ean"+columns+"\nC-1,\""+before.Title+"\",2.40,9,"+before.GTIN+values+"\n"), sources.Arriving{Name: "second.csv"})
	require.NoError(w.t, err)
	s.Supplier, s.Currency = "Corrie & Wether", "GBP"
	from, err := w.Sources.Make(w.t.Context(), s)
	require.NoError(w.t, err)
	require.Equal(w.t, store.FeedTaken, w.take(f.ID, from.ID, true).State)
	return func() store.ListingRow {
		w.t.Helper()
		w.idle()
		row, err := w.Store.ListingRowOf(w.t.Context(), before.ID)
		require.NoError(w.t, err)
		return row
	}
}

// settings sets a source otherwise.
func (w *world) settings(name string, change func(*sources.SourceSettings)) error {
	w.t.Helper()
	all, err := w.Store.Sources(w.t.Context())
	require.NoError(w.t, err)
	at := slices.IndexFunc(all, func(s store.Source) bool { return s.Name == name })
	require.GreaterOrEqual(w.t, at, 0)
	set, err := w.Sources.Settings(w.t.Context(), all[at].ID)
	require.NoError(w.t, err)
	change(&set)
	return w.Sources.SetSettings(w.t.Context(), all[at].ID, stops.IfMatch{}, set)
}

// A supplier whose costs nobody has spoken of is never the one a price is worked out
// from, however cheap; alone, it leaves what is listed without a price, and Today asks.
func TestASupplierIsNotPricedOnWhatNobodySaid(t *testing.T) {
	w := newWorld(t)
	require.NoError(t, w.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.Update(&store.Source{ID: w.source.ID}, map[string]any{"costs_unsaid": true}) // as it is when a source is made
	}))
	w.fetch()
	w.idle()
	rows := w.listings(store.ListingFilter{})
	require.NotEmpty(t, rows)
	for _, r := range rows {
		assert.Nil(t, r.Price)
		assert.Contains(t, r.Why, "say what Fernhollow Wholesale charges for delivery and whether there is tax in its costs")
	}
	items, err := w.Today.Today(t.Context())
	require.NoError(t, err)
	at := slices.IndexFunc(items, func(x today.TodayItem) bool { return x.Kind == "unsaid" && strings.Contains(x.Words, "Fernhollow") })
	require.GreaterOrEqual(t, at, 0)
	assert.Contains(t, items[at].More, fmt.Sprintf("%d listings wait for it", w.counts().Unpriced))

	var e *fault.Error
	require.ErrorAs(t, w.settings("Fernhollow Wholesale", func(s *sources.SourceSettings) { s.Charge, s.Tax = "", "without" }), &e)
	assert.Equal(t, "charge", e.Field)
	require.ErrorAs(t, w.settings("Fernhollow Wholesale", func(s *sources.SourceSettings) { s.Charge, s.Tax = "0", "kept" }), &e)
	assert.Equal(t, "tax_rate", e.Field)
	require.NoError(t, w.settings("Fernhollow Wholesale", func(s *sources.SourceSettings) { s.Charge, s.Tax = "0", "without" }))
	w.idle()
	assert.NotEmpty(t, w.listings(store.ListingFilter{States: []string{store.ListingReady}}))
}

// Tax in what a supplier asks is a cost where it isn't got back, and none where it is:
// 2.40 and 0.60 delivery with 20 % in them are 3.00, or 2.50.
func TestTaxInASuppliersCosts(t *testing.T) {
	w := priced(t)
	now := w.cheaper(sources.NewSource{}, "", "")
	assert.NotEqual(t, "Corrie & Wether", now().Supplier, "nobody has said what its costs come to")
	set := func(way string) {
		require.NoError(t, w.settings("Corrie & Wether", func(s *sources.SourceSettings) { s.Charge, s.Tax, s.TaxRate = "0.60", way, "20" }))
	}
	set("kept")
	assert.Equal(t, "Corrie & Wether", now().Supplier)
	assert.EqualValues(t, 300, *now().Landed)
	dear := *now().Price
	set("got back")
	assert.EqualValues(t, 250, *now().Landed, "the tax comes back")
	assert.Less(t, *now().Price, dear)
	d, err := w.Products.Docket(t.Context(), now().ProductID, now().ID)
	require.NoError(t, err)
	assert.NotEmpty(t, d.Rows)
	set("without")
	assert.EqualValues(t, 300, *now().Landed)
}

// Postage follows the weight: what sending costs, and what the buyer pays, which may
// follow the price besides. What has no weight has no price, and says so.
func TestPostageByWeight(t *testing.T) {
	w := priced(t)
	now := w.cheaper(sources.NewSource{Charge: "0", Tax: "without"}, ",weight", ",1500 g")
	require.Equal(t, "Corrie & Wether", now().Supplier)
	flat, unpricedBefore := w.site.Outbound, w.counts().Unpriced
	_, err := w.Prices.Reprice(t.Context(), prices.Repricing{Listings: []int64{now().ID}, To: "20.00", Keep: true})
	require.NoError(t, err)
	require.EqualValues(t, 2000, *now().Price)
	before := *now().Profit

	terms := stops.SiteTerms{Charged: "0", SendingBands: []stops.PostageRow{{Weight: 1000, Amount: "3.10"}, {Weight: 2000, Amount: "4.20"}}}
	would, err := w.Prices.PreviewSite(t.Context(), w.site.ID, prices.SiteChange{Terms: &terms}, false)
	require.NoError(t, err)
	require.NoError(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, terms))
	assert.EqualValues(t, 420, *now().Outbound, "1.5 kg is up to 2 kg")
	assert.Equal(t, before-(420-flat), *now().Profit)
	unpriced := w.listings(store.ListingFilter{States: []string{store.ListingUnpriced}})
	for _, r := range unpriced {
		assert.Regexp(t, `what sending costs can't be told: (the packed weight of the product is not known|no band of postage takes the parcel)`, r.Why)
	}
	assert.EqualValues(t, w.counts().Unpriced-unpricedBefore, would.Unsellable, "it was said before")

	// The buyer pays 3.95 up to 2 kg, and nothing from 25.00 on. No fee or tax looks at it
	// here but those of the site, so it is reckoned from the difference of the two bands.
	terms.DeliveryBands = []stops.PostageRow{{Weight: 2000, Amount: "3.95"}, {Weight: 2000, From: "25.00", Amount: "0"}, {Amount: "9.95"}}
	require.NoError(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, terms))
	assert.EqualValues(t, 420-395, *now().Outbound, "sending, less what the buyer pays for it")
	_, err = w.Prices.Reprice(t.Context(), prices.Repricing{Listings: []int64{now().ID}, To: "25.00", Keep: true})
	require.NoError(t, err)
	assert.EqualValues(t, 420, *now().Outbound, "free from 25.00")

	shown, err := w.Store.SiteOf(t.Context(), w.site.ID)
	require.NoError(t, err)
	again, err := stops.TermsOf(shown)
	require.NoError(t, err)
	assert.Equal(t, "25.00", again.DeliveryBands[1].From, "a person sees what they wrote")
	for field, wrong := range map[string]stops.SiteTerms{
		"sending_bands[0].amount":  {Charged: "0", SendingBands: []stops.PostageRow{{Weight: 5}}},
		"sending_bands[0].from":    {Charged: "0", SendingBands: []stops.PostageRow{{Amount: "1", From: "5"}, {Amount: "2"}}},
		"delivery_bands[0].to":     {Outbound: "0", DeliveryBands: []stops.PostageRow{{To: "E1", Amount: "1"}}},
		"delivery_bands[0].amount": {Outbound: "0", DeliveryBands: []stops.PostageRow{{Amount: "a lot"}}},
		"outbound":                 {DeliveryBands: []stops.PostageRow{{Amount: "1"}}},
	} {
		var e *fault.Error
		require.ErrorAs(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, wrong), &e, field)
		assert.Equal(t, field, e.Field)
	}
}

// A rate of tax that begins on a day moves prices from that day on; the name of a place
// and its currency can be put right until something was sent there.
func TestAPlaceIsPutRight(t *testing.T) {
	w := newWorld(t)
	made, err := w.Places.Make(t.Context(), places.NewPlace{Name: "Harbour Stall", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20",
		Commission: "10", Fixed: "0", Charged: "0", Outbound: "1.00"})
	require.NoError(t, err)
	now := func() (stops.SiteParticulars, store.Site) {
		site, err := w.Store.SiteOf(t.Context(), made.ID)
		require.NoError(t, err)
		p, err := stops.ParticularsOf(site)
		require.NoError(t, err)
		return p, site
	}
	p, _ := now()
	assert.Equal(t, stops.SiteParticulars{Name: "Harbour Stall", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", TaxRates: []stops.TaxRateRow{}}, p)
	p.Name, p.Currency = "Harbour Market", "EUR"
	p.TaxRates = []stops.TaxRateRow{{From: demoDay, Rate: "23%"}}
	require.NoError(t, w.Places.SetParticulars(t.Context(), made.ID, stops.IfMatch{}, p))
	p, site := now()
	assert.Equal(t, [2]string{"Harbour Market", "EUR"}, [2]string{p.Name, p.Currency})
	assert.Equal(t, "Harbour Market", site.Marketplace.Name)
	assert.True(t, site.TermsUnsaid, "what delivery costs was in the other currency")
	for field, change := range map[string]func(*stops.SiteParticulars){
		"currency":          func(p *stops.SiteParticulars) { p.Currency = "JPY" },
		"tax_rate":          func(p *stops.SiteParticulars) { p.TaxRate = "" },
		"tax_rates[0].from": func(p *stops.SiteParticulars) { p.TaxRates = []stops.TaxRateRow{{From: "2027-02-30", Rate: "1%"}} },
		"tax_rates[1]":      func(p *stops.SiteParticulars) { p.TaxRates = []stops.TaxRateRow{{Rate: "1%"}, {Rate: "2%"}} },
	} {
		wrong := p
		change(&wrong)
		err := w.Places.SetParticulars(t.Context(), made.ID, stops.IfMatch{}, wrong)
		var e *fault.Error
		require.ErrorAs(t, err, &e, field)
		assert.Equal(t, field, e.Field)
	}
	q, err := stops.ParticularsOf(w.site)
	require.NoError(t, err)
	q.Currency = "EUR"
	assert.Error(t, w.Places.SetParticulars(t.Context(), w.site.ID, stops.IfMatch{}, q), "its gateway says what it sells in")
}

// Tax of another rate from a day on is in the price from that day, and in what is ordered.
func TestARateOfTaxBeginsOnADay(t *testing.T) {
	w := priced(t)
	row := func() store.ListingRow {
		w.idle()
		return w.listings(store.ListingFilter{States: []string{store.ListingReady}})[0]
	}
	_, err := w.Prices.Reprice(t.Context(), prices.Repricing{Listings: []int64{row().ID}, To: "60.00", Keep: true})
	require.NoError(t, err)
	require.EqualValues(t, 1000, *row().Tax, "60.00 has 10.00 of tax in it at 20 %")
	p, err := stops.ParticularsOf(w.site)
	require.NoError(t, err)
	p.TaxRates = []stops.TaxRateRow{{From: "2099-01-01", Rate: "30%"}, {Country: w.site.Code, From: demoDay, Rate: "25%"}, {Country: "IE", Rate: "23%"}}
	require.NoError(t, w.Places.SetParticulars(t.Context(), w.site.ID, stops.IfMatch{}, p))
	assert.EqualValues(t, 1200, *row().Tax, "and 12.00 at 25 %")
}

// The same number at another supplier that is certainly the same is proposed, with what
// it would have earned, and with why it isn't bought from; taken, prices follow it, and
// taken back they are as before.
func TestACheaperSupplierIsNotHidden(t *testing.T) {
	w := priced(t)
	sites, err := w.Store.Sites(t.Context())
	require.NoError(t, err)
	before := w.listings(store.ListingFilter{States: []string{store.ListingReady}})[0]
	for i := range sites { // nothing new is looked up, as where somebody takes up products one by one
		require.NoError(t, w.Places.SetLists(t.Context(), sites[i].ID, false))
	}
	s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Corrie & Wether", Currency: "EUR", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	list := "ref,title,cost,currency,stock,ean\nC-1,\"" + before.Title + "\",2.00,EUR,9," + before.GTIN + "\nC-2,Something else altogether by Nobody,1.00,EUR,9," + before.GTIN + "\n"
	feed := func() { // each a little longer than the one before
		f, err := w.Sources.BringIn(t.Context(), strings.NewReader(list), sources.Arriving{Name: "second.csv"})
		require.NoError(t, err)
		w.take(f.ID, s.ID, true)
		list += fmt.Sprintf("C-9%d,Another,1.00,EUR,1,\n", len(list))
	}
	feed()
	seconds := func() []matching.SecondSupplyView {
		w.idle()
		got, err := w.Matching.SecondSupplies(t.Context())
		require.NoError(t, err)
		return got.Rows
	}
	require.Len(t, seconds(), 1, "another thing of the same number isn't certain")
	x := seconds()[0]
	assert.Equal(t, "C-1", x.Ref)
	assert.Nil(t, x.Landed)
	assert.Contains(t, x.Why, "no exchange rate from EUR to GBP")
	docket, err := w.Products.Docket(t.Context(), before.ProductID, before.ID)
	require.NoError(t, err)
	require.Len(t, docket.Suppliers, 2)
	assert.True(t, docket.Suppliers[1].Proposed)
	assert.Contains(t, docket.Suppliers[1].Why, "no exchange rate")

	require.NoError(t, w.Prices.SetRate(t.Context(), "EUR", "GBP", "0.9"))
	feed()
	x = seconds()[0]
	require.NotNil(t, x.Landed)
	assert.EqualValues(t, 180, *x.Landed, "2.00 EUR at 0.9")
	assert.Equal(t, *before.Landed-180, x.Saves)
	assert.Empty(t, x.Why)
	items, err := w.Today.Today(t.Context())
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(items, func(i today.TodayItem) bool { return i.Kind == "second" && strings.HasPrefix(i.Words, "1 product has") }))

	now := func() store.ListingRow {
		w.idle()
		row, err := w.Store.ListingRowOf(t.Context(), before.ID)
		require.NoError(t, err)
		return row
	}
	ids, err := w.Matching.TakeSecond(t.Context(), nil)
	require.NoError(t, err)
	assert.Len(t, ids, 1)
	assert.EqualValues(t, 180, *now().Landed)
	assert.Empty(t, seconds())
	assert.Error(t, w.Matching.DismissSecond(t.Context(), ids[0], true))
	_, err = w.Matching.TakeSecond(t.Context(), ids)
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	require.NoError(t, w.Matching.UntakeSecond(t.Context(), ids))
	assert.Equal(t, *before.Landed, *now().Landed)
	require.Len(t, seconds(), 1)
	require.NoError(t, w.Matching.DismissSecond(t.Context(), ids[0], true))
	assert.Empty(t, seconds())
	feed()
	assert.Empty(t, seconds(), "what a person has said stays said")
}

// Where prices go by themselves, what keeping a rule or terms would send at once is said
// before; where they wait for a person, nothing goes.
func TestWhatGoesAtOnceIsSaidBefore(t *testing.T) {
	w := priced(t)
	w.sendAll()
	live := w.counts().Live
	require.Positive(t, live)
	dearer := stops.SiteTerms{Charged: "0", Outbound: "9.00"}
	would := func() prices.Preview {
		p, err := w.Prices.PreviewSite(t.Context(), w.site.ID, prices.SiteChange{Terms: &dearer}, false)
		require.NoError(t, err)
		return p
	}
	assert.Zero(t, would().AtOnce, "by hand nothing goes")
	require.NoError(t, w.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.SetSite(w.Now(), w.site.ID, map[string]any{"runs": store.Alone})
	}))
	w.idle()
	p := would()
	assert.Positive(t, p.AtOnce)
	assert.LessOrEqual(t, p.AtOnce, live)
	week := w.Now().Add(7 * 24 * time.Hour)
	require.NoError(t, w.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.SetSite(w.Now(), w.site.ID, map[string]any{"acts_from": week})
	}))
	assert.Zero(t, would().AtOnce, "prices wait in its first week")
}

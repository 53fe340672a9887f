package house_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/today"
	"easymargin/internal/store"
)

const demoDay = "2026-03-03"

// today is what waits, by its kind.
func (w *world) today() map[string]today.TodayItem {
	items, err := w.Today.Today(w.t.Context())
	require.NoError(w.t, err)
	out := map[string]today.TodayItem{}
	for i, x := range items {
		assert.NotEmpty(w.t, x.Words)
		assert.NotEmpty(w.t, x.Action, x.Words)
		assert.NotEmpty(w.t, x.Link, x.Words)
		if i > 0 {
			assert.GreaterOrEqual(w.t, items[i-1].Stake, x.Stake, "most money at stake first")
		}
		out[x.Kind] = x
	}
	return out
}

func (w *world) listings(f store.ListingFilter) []store.ListingRow {
	l, err := w.Store.Listings(w.t.Context(), f, store.Page{Limit: 500})
	require.NoError(w.t, err)
	return l.Rows
}

// Each thing that waits is said once, and only as long as it waits.
func TestTodaySaysWhatWaits(t *testing.T) {
	w := newWorld(t)
	assert.Contains(t, w.today()["fetch"].Words, "Fernhollow Wholesale")
	r, err := w.Sources.Fetch(t.Context(), w.source.ID)
	require.NoError(t, err)
	w.wait(r)
	w.idle()
	now := w.today()
	assert.Equal(t, "/sources/feeds/1", now["feed"].Link)
	assert.NotContains(t, now, "fetch")
	w.take(1, w.source.ID, false)
	now = w.today()
	assert.NotContains(t, now, "feed")
	assert.Equal(t, "30 products wait for your decision", now["match"].Words)
	ready := w.counts().Ready
	assert.Contains(t, now["ready"].Words, "listings are ready to go up")

	w.market.SetDown(true)
	w.sendAll()
	assert.Equal(t, "1 send-out waits for you", w.today()["stuck"].Words)
	w.market.SetDown(false)
	_, err = w.Sending.SendAgain(t.Context(), 1)
	require.NoError(t, err)
	w.idle()
	now = w.today()
	assert.NotContains(t, now, "stuck")
	assert.NotContains(t, now, "ready")
	assert.Equal(t, "3 listings were refused", now["refused"].Words)
	assert.Equal(t, ready-3, w.counts().Live)

	w.clock.Forward(15 * time.Minute)
	w.fetch()
	now = w.today()
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	onSale := int64(0)
	for _, l := range lines.Rows {
		if l.Kind == "zero" {
			row, err := w.Store.ListingRowOf(t.Context(), l.ListingID)
			require.NoError(t, err)
			onSale += *row.ConfirmedPrice * row.ConfirmedQuantity
		}
	}
	assert.Equal(t, onSale, now["zero"].Stake, "what is on sale and can't be had, to the penny")
	assert.Equal(t, "GBP", now["zero"].Currency)
	assert.Contains(t, now, "held")

	w.clock.Forward(9*24*time.Hour + time.Hour)
	assert.Contains(t, w.today()["stale"].Words, "9 days")
}

func TestADiscardedFeedLeavesNothing(t *testing.T) {
	w := newWorld(t)
	r, err := w.Sources.Fetch(t.Context(), w.source.ID)
	require.NoError(t, err)
	w.wait(r)
	w.idle()
	require.NoError(t, w.Sources.Discard(t.Context(), 1))
	assert.Equal(t, store.FeedDiscarded, w.feed(1).State)
	assert.Zero(t, w.counts().SupplierRows)
	assert.Equal(t, fault.Conflict, fault.KindOf(w.Sources.Discard(t.Context(), 1)), "once is enough")
	_, err = w.Sources.Take(t.Context(), 1, w.source.ID, nil, true)
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "what is discarded can't be taken")
	assert.Equal(t, fault.Missing, fault.KindOf(w.Sources.Discard(t.Context(), 9)))
}

// A send-out that never reached the marketplace can be let go; its listings are
// ready as before, and go out whole the next time.
func TestASendOutIsGivenUp(t *testing.T) {
	w := priced(t)
	ready := w.counts().Ready
	back := w.moveMarket("http://127.0.0.1:1")
	sent := w.sendAll()
	require.Len(t, sent.SendOuts, 1)
	assert.Zero(t, w.counts().Ready)
	assert.Contains(t, w.sendOut(sent.SendOuts[0]).Error, "Quaymarket can't be reached")
	require.NoError(t, w.Sending.GiveUp(t.Context(), sent.SendOuts[0]))
	w.idle()
	assert.Equal(t, ready, w.counts().Ready)
	lines, err := w.Store.SendLines(t.Context(), sent.SendOuts[0], store.SendGivenUp, store.Page{Limit: 1})
	require.NoError(t, err)
	assert.Equal(t, ready, lines.Total)
	assert.Equal(t, fault.Conflict, fault.KindOf(w.Sending.GiveUp(t.Context(), sent.SendOuts[0])))
	_, err = w.Sending.SendAgain(t.Context(), sent.SendOuts[0])
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "given up is not tried again")
	back()
	w.sendAll()
	assert.Equal(t, ready-3, w.market.Applied())
	assert.Equal(t, ready-3, w.counts().Live)
	outs, err := w.Store.SendOuts(t.Context(), store.Page{Limit: 5})
	require.NoError(t, err)
	require.Len(t, outs.Rows, 2)
	assert.Equal(t, [2]int64{ready, 0}, [2]int64{outs.Rows[1].GivenUp, outs.Rows[1].Confirmed}, "newest first")
}

// What the buyer pays and what sending costs move every price on the site; what
// is no amount moves none.
// Nothing is priced where nobody has said what delivery costs the buyer and sending
// costs us; Places and Today ask for it. 0 is an answer.
func TestNothingIsPricedOnWhatNobodySaid(t *testing.T) {
	w := priced(t)
	require.NoError(t, w.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.SetSite(w.Now(), w.site.ID, map[string]any{"terms_unsaid": true}) // as it is when a marketplace is connected
	}))
	w.idle()
	assert.Empty(t, w.listings(store.ListingFilter{States: []string{store.ListingReady}}))
	rows := w.listings(store.ListingFilter{States: []string{store.ListingUnpriced}})
	require.NotEmpty(t, rows)
	for _, r := range rows {
		assert.Nil(t, r.Price)
		assert.Contains(t, r.Why, "what sending one costs you")
	}
	items, err := w.Today.Today(t.Context())
	require.NoError(t, err)
	at := slices.IndexFunc(items, func(x today.TodayItem) bool { return x.Kind == "unsaid" })
	require.GreaterOrEqual(t, at, 0)
	assert.Contains(t, items[at].Words+items[at].More, w.site.Name)
	list, err := w.Places.List(t.Context())
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(list[0].Missing, func(l places.Lack) bool { return strings.Contains(l.Words, "what delivery and sending cost") }))

	var e *fault.Error
	require.ErrorAs(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, stops.SiteTerms{Cushion: "1%"}), &e, "silence is no answer")
	assert.Equal(t, "charged", e.Field)
	require.Len(t, e.Others, 1)
	assert.Equal(t, "outbound", e.Others[0].Field)
	require.NoError(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, stops.SiteTerms{Charged: "0", Outbound: "0"}))
	w.idle()
	assert.NotEmpty(t, w.listings(store.ListingFilter{States: []string{store.ListingReady}}))
}

func TestSellingTermsMoveThePrices(t *testing.T) {
	w := priced(t)
	first := func() store.ListingRow {
		return w.listings(store.ListingFilter{States: []string{store.ListingReady}})[0]
	}
	before := first()
	for _, c := range []struct{ charged, outbound, field string }{{"a lot", "1.00", "charged"}, {"0.00", "-1.00", "outbound"},
		{"0.00", "1.0056", "outbound"}} {
		err := w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, stops.SiteTerms{Charged: c.charged, Outbound: c.outbound})
		assert.Equal(t, fault.Invalid, fault.KindOf(err), c)
		var e *fault.Error
		require.ErrorAs(t, err, &e)
		assert.Equal(t, c.field, e.Field)
		assert.Contains(t, e.Error(), "such as 12.40")
	}
	w.idle()
	assert.Equal(t, *before.Price, *first().Price)
	require.NoError(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, stops.SiteTerms{Charged: "0.00", Outbound: "7.50"}))
	w.idle()
	after := first()
	assert.Equal(t, int64(750), *after.Outbound)
	assert.Greater(t, *after.Price, *before.Price)
	require.NoError(t, w.Places.SetTerms(t.Context(), w.site.ID, stops.IfMatch{}, stops.SiteTerms{Charged: "7.50", Outbound: "7.50"}))
	w.idle()
	assert.Less(t, *first().Price, *after.Price, "the buyer pays for the sending")
	assert.Equal(
		t,
		fault.Missing,
		fault.KindOf(w.Places.SetTerms(t.Context(), 99, stops.IfMatch{}, stops.SiteTerms{Charged: "0.00", Outbound: "1.00"})),
	)
}

// A supplier in another currency has no price until there is a rate, and then
// one that follows it.
func TestCostsInAnotherCurrencyNeedARate(t *testing.T) {
	w := priced(t)
	before := w.listings(store.ListingFilter{States: []string{store.ListingReady}})[0]
	require.Greater(t, before.Cost, int64(270), "the other will be cheaper")
	now := func() store.ListingRow {
		row, err := w.Store.ListingRowOf(t.Context(), before.ID)
		require.NoError(t, err)
		return row
	}
	f, err := w.Sources.BringIn(
		t.Context(),
		strings.NewReader("ref,title,cost,currency,stock,ean\nC-1,\""+before.Title+"\",3.00,EUR,9,"+before.GTIN+"\n"),
		sources.Arriving{Name: "corrie.csv"},
	)
	require.NoError(t, err)
	s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Corrie & Wether", Currency: "EUR", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	require.Equal(t, store.FeedTaken, w.take(f.ID, s.ID, true).State)
	assert.Equal(t, before.Landed, now().Landed, "no rate, no price by it")
	for _, c := range [][3]string{{"EUR", "EUR", "1"}, {"EUR", "pounds", "1"}, {"EUR", "GBP", "nearly one"}, {"EUR", "GBP", "0"},
		{"EUR", "GBP", "-0.9"}} {
		assert.Equal(t, fault.Invalid, fault.KindOf(w.Prices.SetRate(t.Context(), c[0], c[1], c[2])), c)
	}
	require.NoError(t, w.Prices.SetRate(t.Context(), "eur", "gbp", "0.8612"))
	require.NoError(t, w.Prices.SetRate(t.Context(), "EUR", "GBP", "0.9"))
	w.idle()
	assert.Equal(t, "Corrie & Wether", now().Supplier, "the cheaper of the two")
	assert.Equal(t, int64(270), *now().Landed, "3.00 EUR at 0.9")
	assert.Less(t, *now().Price, *before.Price)
	rates, err := w.Store.Reading(t.Context()).Rates()
	require.NoError(t, err)
	require.Len(t, rates, 1, "the newer one stands in place of the older")
	assert.Equal(t, demoDay, rates[0].Day)
}

func TestTheFeesAreSaidInWords(t *testing.T) {
	w := newWorld(t)
	rows, err := w.Prices.Fees(t.Context(), w.site.ID)
	require.NoError(t, err)
	require.NotEmpty(t, rows)
	holds := map[string]int{}
	for _, r := range rows {
		assert.NotEmpty(t, r.Name, r.Category)
		for _, words := range r.Fees {
			assert.Regexp(t, `^[a-z ]+: .*\d`, words)
		}
		if r.Holds {
			holds[r.Category]++
		} else {
			assert.Greater(t, r.StartsOn, demoDay, "what doesn't hold yet is to come")
		}
	}
	for category, n := range holds {
		assert.Equal(t, 1, n, "one schedule of %q holds at a time", category)
	}
	require.NoError(t, w.Prices.RefreshFees(t.Context(), w.site.ID))
	again, err := w.Prices.Fees(t.Context(), w.site.ID)
	require.NoError(t, err)
	assert.Equal(t, rows, again, "reading them again doubles nothing")
	w.market.SetDown(true)
	assert.Error(t, w.Prices.RefreshFees(t.Context(), w.site.ID))
	again, err = w.Prices.Fees(t.Context(), w.site.ID)
	require.NoError(t, err)
	assert.Equal(t, rows, again, "and failing to loses none")
}

func TestListingsAreFoundByWhatIsTyped(t *testing.T) {
	w := priced(t)
	one := w.listings(store.ListingFilter{})[0]
	for _, words := range []string{one.SKU, one.GTIN, one.Ref, one.Title, one.GTIN[3:9], strings.ToUpper(one.Title[2:11]),
		one.Ref[3:] + " " + one.SKU[:2]} {
		found := w.listings(store.ListingFilter{Words: words})
		require.NotEmpty(t, found, words)
		ids := []int64{}
		for _, l := range found {
			ids = append(ids, l.ID)
		}
		assert.Contains(t, ids, one.ID, words)
	}
	for _, words := range []string{"%", "_", `\`, `"`, `"kettle`, "kettle*", "NOT", "ket OR mug", "'; DROP TABLE listings; --", "kettle\x00"} {
		assert.Empty(t, w.listings(store.ListingFilter{Words: words}), "%q stands for itself", words)
	}
	for _, l := range w.listings(store.ListingFilter{States: []string{store.ListingPaused}}) {
		assert.Equal(t, store.ListingPaused, l.State)
	}
}

// A new rule moves the prices here at once, and what is live only by a plan.
func TestANewRuleMovesPricesHereAndPlansTheRest(t *testing.T) {
	w := priced(t)
	w.sendAll()
	applied := w.market.Applied()
	rule := prices.Rule{
		Aims:    []prices.RuleCondition{{Kind: "profit", Value: "5.00"}},
		Keep:    []prices.RuleCondition{{Kind: "profit", Value: "2.00"}},
		Most:    "60.00",
		Endings: &prices.RuleEndings{Every: "1.00", At: []string{"0.95"}, Way: "up"},
	}
	require.NoError(t, w.setRule(rule))
	w.idle()
	kept, err := w.Prices.Rules(t.Context(), w.site.ID)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.Equal(t, rule, kept[0].Rule)
	priced, unpriced := 0, 0
	for _, l := range w.listings(store.ListingFilter{States: []string{store.ListingLive, store.ListingUnpriced}}) {
		if l.Price == nil {
			unpriced++
			assert.NotEmpty(t, l.Why, "what has no price says why")
			continue
		}
		priced++
		assert.Equal(t, int64(95), *l.Price%100, "it ends as the rule wants")
		assert.LessOrEqual(t, *l.Price, int64(6000), "never over the most")
		assert.GreaterOrEqual(t, *l.Price, *l.Floor, "never under the floor")
		assert.GreaterOrEqual(t, *l.Profit, int64(200), "what is kept is kept")
		if l.Bound == "aim" {
			assert.GreaterOrEqual(t, *l.Profit, int64(500), "%s meets the aim", l.SKU)
		}
	}
	assert.NotZero(t, priced)
	assert.NotZero(t, unpriced, "some cost more than the most allows")
	assert.Equal(t, applied, w.market.Applied(), "no marketplace hears of a rule")
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	require.NotEmpty(t, lines.Rows)
	for _, l := range lines.Rows {
		if l.ToPrice != nil {
			assert.Equal(t, int64(95), *l.ToPrice%100)
			assert.NotEqual(t, *l.FromPrice, *l.ToPrice)
		}
	}
}

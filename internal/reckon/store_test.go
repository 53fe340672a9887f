package reckon

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// shelf is a store with one site, one rule, one fee and so many listings that
// each cost 10.00; of every third there is none.
type shelf struct {
	*store.Store
	t    *testing.T
	site store.Site
	over chan store.Run
	told []string // topics of the commit before the newest
}

func newShelf(t *testing.T, n int64) *shelf {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := &shelf{Store: s, t: t, over: make(chan store.Run, 100), site: store.Site{ID: 1, MarketplaceID: 1, Code: "GB", Name: "Quaymarket GB",
		Currency: "GBP", TaxWay: "included", Outbound: 200, Lists: true}}
	queue := work.New(s, time.Now, func() time.Time { return morning }, func(r store.Run) {
		if r.EndedAt != nil {
			h.over <- r
		}
	})
	queue.Handle(store.RunPrice, (&Reckoner{Store: s, Now: func() time.Time { return morning }}).Do)
	s.OnCommit(func(c store.Commit) {
		if len(c.Runs) == 0 { // not of the queue itself
			h.told = c.Topics
		}
	})
	t.Cleanup(func() {
		queue.Close()
		require.NoError(t, s.Close())
	})
	taken := morning.Add(-time.Hour)
	h.do(func(tx store.Tx) error {
		var items []store.SupplierProduct
		var products []store.Product
		var links []store.SupplyLink
		var listings []store.Listing
		for i := int64(1); i <= n; i++ {
			ref := fmt.Sprintf("R%04d", i)
			items = append(items, store.SupplierProduct{ID: i, SourceID: 1, Ref: ref, Title: "mug", Cost: landed, Currency: "GBP", Stock: 9 * min(i%3, 1),
				StockState: "known"})
			products = append(products, store.Product{ID: i, SKU: ref, Title: "mug", Brand: "Tarnwick"})
			links = append(links, store.SupplyLink{ID: i, ProductID: i, SupplierProductID: i, UnitsBought: 1})
			listings = append(listings, store.Listing{ID: i, SKU: ref, ProductID: i, SiteID: 1, Category: "mugs", Units: 1, State: store.ListingUnpriced,
				Currency: "GBP"})
		}
		return errors.Join(tx.Create(&store.Supplier{ID: 1, Name: "Fernhollow"}),
			tx.Create(&store.Source{ID: 1, SupplierID: 1, Name: "Fernhollow", Kind: "file", Mode: "full", Currency: "GBP", TakenAt: &taken, HeardAt: &taken}),
			tx.Create(&store.Marketplace{ID: 1, Name: "Quaymarket"}), tx.Create(&h.site),
			tx.Create(&store.PriceRule{SiteID: 1, Position: 1, Name: "All the rest", Wish: `{"aims":[{"kind":"profit","value":"3.00"}],"keep":[{"kind":"profit","value":"1.00"}]}`}),
			tx.Create(&store.FeeSchedule{SiteID: 1, StartsOn: "2026-01-01", Fees: `[{"name":"commission","of":"item","rate":100000}]`}),
			tx.CreateAll(items), tx.CreateAll(products), tx.CreateAll(links), tx.CreateAll(listings), tx.DirtySite(morning, 1))
	})
	require.NoError(t, queue.Start(t.Context(), false))
	return h
}

func (h *shelf) do(fn func(tx store.Tx) error) { require.NoError(h.t, h.Do(h.t.Context(), fn)) }

// rest waits until a reckoning is through, and gives it.
func (h *shelf) rest() store.Run {
	select {
	case r := <-h.over:
		return r
	case <-time.After(20 * time.Second):
		require.Fail(h.t, "the reckoning never came to an end")
	}
	return store.Run{}
}

func (h *shelf) listing(id int64) store.Listing {
	l, err := store.Get[store.Listing](h.t.Context(), h.Store, id)
	require.NoError(h.t, err)
	return l
}

// All that is dirty is worked out, in parts, and nothing is left marked.
func TestAllThatIsDirtyIsWorkedOut(t *testing.T) {
	const n = pageIDs + 101
	h := newShelf(t, n)
	r := h.rest()
	assert.Equal(t, []any{store.RunDone, int64(n), int64(n), fmt.Sprintf("Quaymarket GB: %d of %d priced, 0 changes to make", n, n)},
		[]any{r.State, r.Done, r.Total, r.Note})
	left, err := h.CountDirty(t.Context(), 1)
	require.NoError(t, err)
	assert.Zero(t, left)
	assert.Equal(t, []any{store.ListingReady, int64(price), int64(8)}, []any{h.listing(n).State, *h.listing(n).Price, h.listing(n).Quantity})
	assert.Equal(t, []any{store.ListingPaused, int64(0)}, []any{h.listing(3).State, h.listing(3).Quantity})

	b, err := Open(h.Reading(t.Context()), h.site, morning)
	require.NoError(t, err)
	seen, last := 0, int64(0)
	require.NoError(t, b.Each(t.Context(), h.Store, func(links []store.PricingRow) {
		assert.Len(t, links, 1)
		assert.Greater(t, links[0].ID, last)
		seen, last = seen+1, links[0].ID
	}))
	assert.Equal(t, n, seen, "each is gone through once, in order")
	other := *b
	other.Site.ID = 2
	require.NoError(t, other.Each(t.Context(), h.Store, func([]store.PricingRow) { t.Fatal("there is nothing") }))
	ended, end := context.WithCancel(t.Context())
	end()
	assert.Error(t, b.Each(ended, h.Store, func([]store.PricingRow) {}))
}

// What is live gets a line into the plan; what was on its way and may not go any
// more is taken back, and what may stays.
func TestLinesOfThePlanAndLinesOnTheirWay(t *testing.T) {
	h := newShelf(t, 6)
	h.rest()
	was, under, fine, more := int64(1600), int64(1400), int64(1700), int64(20)
	h.do(func(tx store.Tx) error {
		line := func(id, listing int64, of store.SendLine) error {
			of.ID, of.ListingID, of.SendOutID, of.Key = id, listing, 1, fmt.Sprint(id)
			return tx.Create(&of)
		}
		return errors.Join(
			tx.Update(&store.Listing{ID: 1}, map[string]any{"state": store.ListingLive, "confirmed_price": was, "confirmed_quantity": 8,
				"confirmed_landed": landed, "confirmed_cost": landed, "confirmed_cost_cur": "GBP", "confirmed_at": morning}),
			tx.MarkListings([]int64{2, 4, 5}, store.ListingSent),
			tx.Create(&store.SendOut{ID: 1, SiteID: 1, Key: "K", State: store.SendWaiting, CreatedAt: morning}),
			line(1, 2, store.SendLine{Was: store.ListingReady, Price: &under, Quantity: &more, State: store.SendWaiting}),
			line(2, 4, store.SendLine{Was: store.ListingRefused, Price: &fine, Quantity: &fine, State: store.SendWaiting}),
			line(3, 5, store.SendLine{Was: store.ListingReady, Price: &under, Quantity: &more, State: store.SendSent}),
			tx.DirtySite(morning, 1),
		)
	})
	r := h.rest()
	assert.Equal(t, "Quaymarket GB: 6 of 6 priced, 3 changes to make", r.Note)
	plans, err := h.OpenPlans(t.Context())
	require.NoError(t, err)
	lines, err := h.PlanLines(t.Context(), store.PlanPart{Plan: plans[0].ID}, store.Page{Limit: 10})
	require.NoError(t, err)
	got := map[string]bool{}
	for _, x := range lines.Rows {
		got[fmt.Sprint(x.ListingID, x.Kind)] = true
	}
	assert.Equal(t, map[string]bool{"1up": true, "5up": true, "5quantity": true}, got, "the sale at 16.00, and what corrects the one on its way")
	states := func(id int64) []any {
		x, err := store.Get[store.SendLine](t.Context(), h.Store, id)
		require.NoError(t, err)
		return []any{x.State, h.listing(x.ListingID).State}
	}
	assert.Equal(t, []any{store.SendWithdrawn, store.ListingReady}, states(1), "under its floor: taken back, ready as before")
	assert.Equal(t, []any{store.SendWithdrawn, store.ListingRefused}, states(2), "more than there is, and refused as before")
	assert.Equal(t, []any{store.SendSent, store.ListingSent}, states(3), "what was handed over can't be")
	x, err := store.Get[store.SendLine](t.Context(), h.Store, 1)
	require.NoError(t, err)
	assert.Contains(t, x.Words, "taken back before it was handed over: 20 were to be offered, and only 8 can be now")

	// Lines on their way are read once for a listing, however many supply it.
	open, err := openOf(h.Reading(t.Context()), []store.PricingRow{{Listing: store.Listing{ID: 5}, Open: true}, {Listing: store.Listing{ID: 5}, Open: true},
		{Listing: store.Listing{ID: 2}}})
	require.NoError(t, err)
	assert.Len(t, open, 1)
	assert.Len(t, open[5], 1)

	// A line of a plan that is taken back leaves its listing live.
	h.do(func(tx store.Tx) error {
		return errors.Join(tx.Create(&store.SendLine{ID: 9, ListingID: 1, SendOutID: 1, Key: "9", Was: store.ListingLive, PlanLineID: &lines.Rows[0].ID,
			Price: &under, State: store.SendWaiting}), tx.DirtyListings(morning, []int64{1}))
	})
	h.rest()
	assert.Equal(t, []any{store.SendWithdrawn, store.ListingLive}, states(9))
}

// Moves of the last day are counted, those that a plan made and that were
// confirmed; and open screens are told when all is worked out.
func TestMovesOfTheLastDay(t *testing.T) {
	for hours, verdict := range map[time.Duration]string{23 * time.Hour: "held", 25 * time.Hour: "go"} {
		h := newShelf(t, 1)
		h.rest()
		was, then := int64(1600), morning.Add(-hours)
		h.do(func(tx store.Tx) error {
			line := func(id int64) error {
				return tx.Create(&store.SendLine{ID: id, ListingID: 1, SendOutID: 1, Key: fmt.Sprint(id), Price: &was, State: store.SendConfirmed,
					AnsweredAt: &then, PlanLineID: &id})
			}
			return errors.Join(
				tx.PutPlanLines(morning, 1, nil, []store.PlanLine{{ListingID: 1, State: store.PlanSent}, {ListingID: 1, State: store.PlanSent}}),
				tx.Create(&store.SendOut{ID: 1, SiteID: 1, Key: "K", State: store.SendDone, CreatedAt: then}), line(1), line(2),
				tx.Update(&store.Listing{ID: 1}, map[string]any{"state": store.ListingLive, "confirmed_price": was, "confirmed_quantity": 8,
					"confirmed_landed": landed, "confirmed_cost": landed, "confirmed_cost_cur": "GBP", "confirmed_at": then}),
				tx.DirtySite(morning, 1))
		})
		h.rest()
		plans, err := h.OpenPlans(t.Context())
		require.NoError(t, err)
		lines, err := h.PlanLines(t.Context(), store.PlanPart{Plan: plans[0].ID}, store.Page{Limit: 10})
		require.NoError(t, err)
		require.Len(t, lines.Rows, 1)
		assert.Equal(t, verdict, lines.Rows[0].Verdict, "moves of %v ago", hours)
		assert.Contains(t, h.told, "plan")
	}
}

// While a look-up goes on that brings more, few are waited for once.
func TestFewWaitForALookUp(t *testing.T) {
	h := newShelf(t, 2)
	assert.Zero(t, h.rest().Tries)
	look := store.Run{Kind: "match", Lane: "match", Subject: 1, State: store.RunRunning, CreatedAt: morning}
	h.do(func(tx store.Tx) error { return tx.Create(&look) })
	h.do(func(tx store.Tx) error { return tx.DirtyListings(morning, []int64{1}) })
	assert.Equal(t, int64(1), h.rest().Tries, "it waited, once")
	h.do(func(tx store.Tx) error { return tx.Update(&look, map[string]any{"subject": 2}) })
	h.do(func(tx store.Tx) error { return tx.DirtyListings(morning, []int64{1}) })
	assert.Zero(t, h.rest().Tries, "a look-up elsewhere brings nothing here")
}

// What a site's prices are made of is read from the data; what can't be is said by name.
func TestABookThatCantBeRead(t *testing.T) {
	h := newShelf(t, 1)
	h.rest()
	read := func(change func(tx store.Tx) error, site func(s *store.Site)) error {
		s := h.site
		if site != nil {
			site(&s)
		}
		if change != nil {
			h.do(change)
		}
		_, err := Open(h.Reading(t.Context()), s, morning)
		return err
	}
	require.NoError(t, read(nil, nil))
	assert.ErrorContains(t, read(nil, func(s *store.Site) { s.Guards = "{" }), "what Quaymarket GB sets")
	assert.ErrorContains(t, read(nil, func(s *store.Site) { s.Allowances = "{" }), "the allowances of Quaymarket GB")
	require.NoError(t, read(nil, func(s *store.Site) { s.Allowances = `[{"name":"returns","of":"item","rate":20000}]` }))
	assert.ErrorContains(t, read(func(tx store.Tx) error { return tx.Update(&store.FeeSchedule{ID: 1}, map[string]any{"fees": "{"}) }, nil), "on Quaymarket GB")
	assert.ErrorContains(t, read(func(tx store.Tx) error { return tx.Update(&store.PriceRule{ID: 1}, map[string]any{"wish": "{"}) }, nil),
		`the price rule "All the rest" of Quaymarket GB`)
}

// directory is a place that says what it is told to.
type directory struct {
	categories []place.Category
	fees       []place.FeeSchedule
	err        error
}

func (d directory) Sites(context.Context) ([]place.Site, error) { return nil, d.err }
func (d directory) Categories(context.Context, string) ([]place.Category, error) {
	return d.categories, d.err
}
func (d directory) Fees(context.Context, string) ([]place.FeeSchedule, error) { return d.fees, d.err }
func (d directory) Demands(context.Context, string, string) (json.RawMessage, error) {
	return nil, d.err
}

func TestFeesAreCheckedBeforeTheyAreKept(t *testing.T) {
	site := place.Site{Code: "GB", Name: "Quaymarket GB", Currency: "GBP"}
	fine := []pricing.Fee{{Name: "commission", Of: "item", Rate: 100_000}}
	warehouse := &pricing.Warehouse{Name: "warehouse fee", Steps: []pricing.Step{{Name: "small", Weight: 500, Fee: 110}}}
	got, err := ReadFees(t.Context(), directory{categories: []place.Category{{Ref: "mugs", Parent: "kitchen", Name: strings.Repeat("ü", 201)}},
		fees: []place.FeeSchedule{{Category: "mugs", StartsOn: "2026-01-01", Fees: fine}, {StartsOn: "2026-01-01", Fees: fine, Warehouse: warehouse}}}, site)
	require.NoError(t, err)
	cats, rows := got.Of(7)
	assert.Equal(t, []store.Category{{SiteID: 7, Ref: "mugs", Parent: "kitchen", Name: strings.Repeat("ü", 200)}}, cats)
	require.Len(t, rows, 2)
	assert.Equal(t, []any{int64(7), "mugs", ""}, []any{rows[0].SiteID, rows[0].Category, rows[0].Warehouse})
	for i, want := range []*pricing.Warehouse{nil, warehouse} {
		back, err := ReadSchedule(rows[i])
		require.NoError(t, err)
		assert.Equal(t, []any{fine, want}, []any{back.Fees, back.Warehouse}, "read back as they were given")
	}
	assert.Equal(t, "200", fmt.Sprint(len(clip(strings.Repeat("x", 201), 200))))
	for want, d := range map[string]directory{
		"away": {err: fault.New(fault.Unavailable, "away")},
		`the fees that Quaymarket GB gives for category "mugs" from 2026-01-01 can't be right`: {
			fees: []place.FeeSchedule{{Category: "mugs", StartsOn: "2026-01-01", Fees: []pricing.Fee{{Name: "x", Of: "nothing"}}}}},
		`the warehouse fees that Quaymarket GB gives for category "mugs"`: {
			fees: []place.FeeSchedule{{Category: "mugs", StartsOn: "2026-01-01", Fees: fine, Warehouse: &pricing.Warehouse{}}}},
	} {
		_, err := ReadFees(t.Context(), d, site)
		assert.ErrorContains(t, err, want)
		assert.Equal(t, fault.Unavailable, fault.KindOf(err))
	}
}

func TestTheFirstRuleSuitsItsCurrency(t *testing.T) {
	for currency, want := range map[string]string{
		"GBP": `{"aims":[{"kind":"margin","value":"18%"}],"keep":[{"kind":"profit","value":"1.00"}],"endings":{"every":"1.00","at":["0.49","0.99"],"way":"up"}}`,
		"JPY": `{"aims":[{"kind":"margin","value":"18%"}],"keep":[{"kind":"profit","value":"100"}],"endings":{"every":"100","at":["80"],"way":"up"}}`,
		"KWD": `{"aims":[{"kind":"margin","value":"18%"}],"keep":[{"kind":"profit","value":"1.000"}],"endings":{"every":"1.000","at":["0.490","0.990"],"way":"up"}}`,
	} {
		got := FirstRule(money.Currency(currency))
		assert.JSONEq(t, want, got)
		_, err := ReadRule(store.PriceRule{Wish: got}, money.Currency(currency))
		assert.NoError(t, err, "and can be used")
	}
}

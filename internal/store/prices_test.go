package store_test

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/store"
)

// onSites is data with two sites of a marketplace, and nothing else.
func onSites(t *testing.T) *store.Store {
	s := open(t, t.TempDir())
	put(t, s, &store.Marketplace{ID: 1, Name: "Quaymarket", Address: "http://gateway.example"})
	for i, code := range []string{"GB", "IE"} {
		put(
			t,
			s,
			&store.Site{
				ID:            int64(i + 1),
				MarketplaceID: 1,
				Code:          code,
				Name:          "Quaymarket " + code,
				Currency:      "GBP",
				Kind:          "catalogue",
				Lists:         true,
			},
		)
	}
	return s
}

// What the marketplace said while prices were worked out is not unsaid by them.
func TestWhatIsWorkedOutLeavesTheStateOfASendOut(t *testing.T) {
	s := onSites(t)
	ctx, price, id := t.Context(), int64(1999), int64(0)
	for was, want := range map[string]string{"live": "live", "refused": "refused", "sent": "sent", "unpriced": "ready", "ready": "ready", "paused": "ready"} {
		id++
		put(t, s, &store.Product{ID: id, SKU: was, CreatedAt: at})
		l := store.Listing{ProductID: id, SKU: was, SiteID: 1, Units: 1, Currency: "GBP", State: was}
		put(t, s, &l)
		l.State, l.Price = "ready", &price // as it was read a moment ago, worked out
		require.NoError(t, s.Do(ctx, func(tx store.Tx) error {
			return errors.Join(tx.PutStanding([]store.Listing{l}), tx.PutAmounts([]store.Listing{l}))
		}))
		got, err := store.Get[store.Listing](ctx, s, l.ID)
		require.NoError(t, err)
		assert.Equal(t, want, got.State, was)
		assert.Equal(t, price, *got.Price)
	}
}

func TestTheOrderOfRulesIsKept(t *testing.T) {
	s := onSites(t)
	ctx := t.Context()
	ids := make([]int64, 3)
	for i := range ids {
		r := store.PriceRule{SiteID: 1, Position: int64(i + 1), Name: string(rune('A' + i)), Wish: "{}"}
		put(t, s, &r)
		ids[i] = r.ID
	}
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.OrderRules(at, 1, []int64{ids[2], ids[0], ids[1]}) }))
	rules, err := s.Reading(ctx).Rules(1)
	require.NoError(t, err)
	assert.Equal(t, []string{"C", "A", "B"}, []string{rules[0].Name, rules[1].Name, rules[2].Name})
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.DropRule(at, &store.PriceRule{ID: ids[0], SiteID: 1}) }))
	rules, err = s.Reading(ctx).Rules(1)
	require.NoError(t, err)
	assert.Len(t, rules, 2)
	other, err := s.Reading(ctx).Rules(2)
	require.NoError(t, err)
	assert.Empty(t, other, "another site has its own")
}

// A schedule that a person made stays when the gateway's are read again, and
// holds where both start on one day.
func TestFeesByHandOutliveTheGateways(t *testing.T) {
	s := onSites(t)
	ctx := t.Context()
	gateway := func() []store.FeeSchedule {
		return []store.FeeSchedule{
			{SiteID: 1, Category: "", StartsOn: "2025-01-01", Fees: "gateway"},
			{SiteID: 1, Category: "mugs", StartsOn: "2026-01-01", Fees: "gateway"},
		}
	}
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.PutFees(at, 1, nil, gateway()) }))
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error {
		return tx.PutSchedule(at, &store.FeeSchedule{SiteID: 1, Category: "mugs", StartsOn: "2026-01-01", Fees: "mine"})
	}))
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.PutFees(at, 1, nil, gateway()) }))
	fees, err := s.Reading(ctx).FeesOf(1)
	require.NoError(t, err)
	require.Len(t, fees, 2)
	assert.Equal(t, "mine", fees[1].Fees)
	assert.ErrorIs(t, s.Do(ctx, func(tx store.Tx) error { return tx.DropSchedule(at, 1, "", "2025-01-01") }), store.ErrMissing)
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.DropSchedule(at, 1, "mugs", "2026-01-01") }))
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error { return tx.PutFees(at, 1, nil, gateway()) }))
	fees, err = s.Reading(ctx).FeesOf(1)
	require.NoError(t, err)
	assert.Equal(t, "gateway", fees[1].Fees, "it is back at the next reading")
}

// Only what is asked for is read, but a listing's own rule and warehouse always bring what they need.
func TestHowMuchOfListingsIsRead(t *testing.T) {
	s := onSites(t)
	ctx := t.Context()
	supplier := store.Supplier{Name: "Fernhollow", CreatedAt: at}
	put(t, s, &supplier)
	source := store.Source{SupplierID: supplier.ID, Name: "Fernhollow", Kind: "file", Mode: "full", Currency: "GBP", CreatedAt: at}
	put(t, s, &source, &store.SupplierTerm{SupplierID: supplier.ID, Currency: "GBP", Charge: 395, Duty: 42_000})
	for i, own := range []string{"", "{}"} {
		id := int64(i + 1)
		put(
			t,
			s,
			&store.SupplierProduct{
				ID:       id,
				SourceID: source.ID,
				Ref:      string(rune('A' + i)),
				Cost:     500,
				Currency: "GBP",
				Details:  `{"weight":250,"length":100,"width":80,"height":60}`,
			},
		)
		put(t, s, &store.Product{ID: id, SKU: string(rune('A' + i)), Title: "mug", Brand: "Tarnwick", CreatedAt: at})
		put(t, s, &store.SupplyLink{ProductID: id, SupplierProductID: id, UnitsBought: 1})
		put(t, s, &store.Entry{ID: id, SiteID: 1, Ref: string(rune('A' + i)), Offers: "[1]", SeenAt: at})
		put(
			t,
			s,
			&store.Listing{
				ID:        id,
				SKU:       string(rune('A' + i)),
				ProductID: id,
				SiteID:    1,
				EntryID:   &id,
				Category:  "mugs",
				Units:     1,
				Currency:  "GBP",
				State:     "ready",
				OwnRule:   own,
				Warehouse: own != "",
			},
		)
	}
	rows, err := s.PricingRange(ctx, 1, 0, 10, store.Asked{})
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, []int64{0, 250}, []int64{rows[0].Weight, rows[1].Weight}, "the one that the warehouse sends has its size")
	assert.Equal(t, []string{"", "[1]"}, []string{rows[0].Offers, rows[1].Offers}, "the one with its own rule has its rivals")
	assert.Equal(
		t,
		[]any{"Fernhollow", int64(395), int64(42_000), "mugs", "Tarnwick"},
		[]any{rows[0].Supplier, rows[0].Charge, rows[0].Duty, rows[0].Category, rows[0].Brand},
	)
	assert.Empty(t, rows[0].Currency)
	rows, err = s.PricingRange(ctx, 1, 0, 1, store.Asked{Results: true, Offers: true, Sizes: true, DayAgo: time.Now()})
	require.NoError(t, err)
	require.Len(t, rows, 1)
	assert.Equal(t, []any{int64(250), int64(60), "[1]", "ready"}, []any{rows[0].Weight, rows[0].Height, rows[0].Offers, rows[0].State})
	rows, err = s.SupplyRows(ctx, 2)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	assert.Equal(t, []any{int64(0), "mug", int64(500), int64(250)}, []any{rows[0].ID, rows[0].Title, rows[0].ItemCost, rows[0].Weight})
	rows, err = s.FoundRows(ctx, []int64{1})
	require.NoError(t, err)
	require.Len(t, rows, 1)
	first, last, err := s.ListingIDs(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, []int64{1, 2}, []int64{first, last})
	first, last, err = s.ListingIDs(ctx, 9)
	require.NoError(t, err)
	assert.Equal(t, []int64{0, 0}, []int64{first, last})
}

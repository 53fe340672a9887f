package demo_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/demo"
	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops/orders"
	"easymargin/internal/store"
)

// The sixty days end in a morning with a little of everything that a person would
// meet: a feed held, listings refused, a rival under our price, orders to buy.
func TestThePastEndsInTheStory(t *testing.T) {
	dir := past(t)
	s, err := store.Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	clock := sim.NewClock(demo.Start, 0)
	h := house.New(house.Options{Store: s, Now: clock.Now})
	ctx := t.Context()

	c, err := s.Counts(ctx, demo.Start)
	require.NoError(t, err)
	assert.InDelta(t, 1600, c.SupplierRows, 150, "supplier products of all four")
	assert.InDelta(t, 400, c.Products, 40)
	assert.InDelta(t, 680, c.Live, 40)
	assert.Equal(t, int64(3), c.Refused)
	assert.Equal(t, int64(1), c.FeedsHeld)
	assert.InDelta(t, 8, c.MatchSeveral+c.MatchNone, 5, "a handful waits on Match")
	assert.Zero(t, c.Unknown+c.SendsStuck, "nothing on sale was lost sight of")
	assert.EqualValues(t, 2, c.Untied, "two old listings at Gullery Fair that no supplier has")

	items, err := h.Today.Today(ctx)
	require.NoError(t, err)
	words := map[string]string{}
	for _, x := range items {
		words[x.Kind] += x.Words + ". " + x.More + "\n"
	}
	assert.Contains(t, words["feed held"], "Fernhollow Wholesale's feed of 08:30 is held")
	assert.Contains(t, words["rest"], "2 listings sell at a loss")
	assert.Contains(t, words["zero"], "stock that can't be had")
	assert.Contains(t, words["prices"], "went under us")
	assert.Contains(t, words["held"], "2 changes are held for you on Quaymarket GB")

	under, sites := 0, map[string]int{}
	for page := (store.Page{Limit: 500}); ; {
		l, err := s.Listings(ctx, store.ListingFilter{States: []string{store.ListingLive}}, page)
		require.NoError(t, err)
		for _, r := range l.Rows {
			sites[r.Site]++
			if *r.ConfirmedPrice < *r.Floor {
				under++
			}
			assert.NotEmpty(t, r.Picture, "%s has a picture", r.Title)
		}
		if page.Cursor = l.Next; l.Next == "" {
			break
		}
	}
	assert.Equal(t, 2, under, "two products under their floor")
	assert.Len(t, sites, 5, "on all three sites of Quaymarket, at Gullery Fair and in the own shop")
	assert.Equal(t, 36, sites["Own shop"])

	suppliers := map[string]int{}
	sources, err := s.Sources(ctx)
	require.NoError(t, err)
	for _, x := range sources {
		feeds, err := s.Deliveries(ctx, x.ID, 500)
		require.NoError(t, err)
		suppliers[x.Supplier.Name] = len(feeds)
	}
	assert.Len(t, suppliers, 4)
	assert.Equal(t, 62, suppliers["Fernhollow Wholesale"], "a list each morning, the first and the broken one")
	assert.Equal(t, 9, suppliers["Brindlewick Outdoor"], "a sheet each Monday")
}

// What was promised to the marketplace is what it has: the stand-in that is
// packed beside the data says the same of every listing.
func TestThePastAgreesWithItsMarketplace(t *testing.T) {
	dir := past(t)
	world, err := demo.World(sim.NewClock(demo.Start, 0), true)
	require.NoError(t, err)
	require.NoError(t, world.Keep(filepath.Join(dir, demo.StandIns)))
	server := httptest.NewServer(world.Markets())
	t.Cleanup(server.Close)
	s, err := store.Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	sites, err := s.Sites(t.Context())
	require.NoError(t, err)
	for _, site := range sites[:3] {
		var there struct {
			Listings []struct {
				SKU             string
				Price, Quantity int64
			}
		}
		res, err := http.Get(server.URL + "/gateway/v1/sites/" + site.Code + "/listings")
		require.NoError(t, err)
		require.NoError(t, json.NewDecoder(res.Body).Decode(&there))
		require.NoError(t, res.Body.Close())
		require.NotEmpty(t, there.Listings)
		skus := make([]string, len(there.Listings))
		for i, l := range there.Listings {
			skus[i] = l.SKU
		}
		ours, err := s.Reading(t.Context()).ListingsBySKU(site.ID, skus)
		require.NoError(t, err)
		bought := map[string]int64{} // early, while nobody looked
		for _, l := range soldSince(t, s, demo.Start.Add(-12*time.Hour)) {
			if l.SiteID == site.ID {
				bought[l.SKU] += l.Quantity
			}
		}
		for _, l := range there.Listings {
			o, ok := ours[l.SKU]
			require.True(t, ok, "%s on %s is ours", l.SKU, site.Name)
			assert.Equal(t, fmt.Sprint(l.Price, l.Quantity+bought[l.SKU]), fmt.Sprint(*o.ConfirmedPrice, o.ConfirmedQuantity), "%s on %s", l.SKU, site.Name)
		}
	}
}

// soldSince are the lines of orders that were placed after a moment.
func soldSince(t *testing.T, s *store.Store, since time.Time) []store.OrderLineRow {
	var out []store.OrderLineRow
	for page := (store.Page{Limit: 500}); ; {
		l, err := s.OrderLineRows(t.Context(), "all", nil, page)
		require.NoError(t, err)
		for _, r := range l.Rows {
			if r.PlacedAt.After(since) {
				out = append(out, r)
			}
		}
		if page.Cursor = l.Next; l.Next == "" {
			return out
		}
	}
}

// The sixty days sold: more from week to week, some things often and most not at all,
// with what was called off and what came back; and what was earned adds up.
func TestThePastSells(t *testing.T) {
	s, err := store.Open(past(t))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	h := house.New(house.Options{Store: s, Now: sim.NewClock(demo.Start, 0).Now})
	lines := soldSince(t, s, demo.Begin)
	assert.InDelta(t, 200, len(lines), 50)
	states, weeks, often := map[string]int{}, map[bool]int{}, map[string]int{}
	for _, l := range lines {
		states[l.State]++
		weeks[l.PlacedAt.After(demo.Begin.AddDate(0, 0, 30))]++
		often[l.SKU]++
		assert.NotNil(t, l.ExpectedProfit, "%s of %s", l.SKU, l.OrderRef)
	}
	assert.Equal(t, 5, states[store.LineNew], "of the morning, to be bought")
	for _, state := range []string{store.LineBought, store.LineSent, store.LineDone, store.LineCancelled, store.LineReturned} {
		assert.Positive(t, states[state], state)
	}
	assert.Greater(t, weeks[true], weeks[false])
	most := 0
	for _, n := range often {
		most = max(most, n)
	}
	assert.Greater(t, most, 5, "there is a bestseller")
	assert.Less(t, len(often), 200, "most of what is on sale never sold")

	sum := map[string]int64{}
	for _, by := range []string{"day", "month", "site", "supplier", "category", "product"} {
		e, err := h.Orders.Earned(t.Context(), orders.Asked{By: by, From: demo.Begin.Format(time.DateOnly)})
		require.NoError(t, err)
		for _, r := range e.Rows {
			sum[by+r.Currency] += r.Left
		}
	}
	for _, by := range []string{"month", "site", "supplier", "category", "product"} {
		for _, currency := range []string{"GBP", "EUR"} {
			assert.Positive(t, sum[by+currency])
			assert.Equal(t, sum["day"+currency], sum[by+currency], "by %s, in %s", by, currency)
		}
	}
	found, err := s.Check(t.Context())
	require.NoError(t, err)
	for _, f := range found {
		assert.True(t, f.OK, "%s: %v", f.Check, f.Examples)
	}
}

// past is a folder with the sixty days: those the program is built with, or
// lived here where it isn't.
func past(t *testing.T) string {
	dir := t.TempDir()
	if demo.Made() {
		require.NoError(t, demo.Unpack(dir))
	} else {
		ctx, cancel := context.WithTimeout(t.Context(), 5*time.Minute)
		defer cancel()
		require.NoError(t, demo.Past(ctx, dir, func(time.Time) {}))
	}
	return dir
}

// What is packed comes out as it went in.
func TestAFolderIsPackedWhole(t *testing.T) {
	dir, file := t.TempDir(), filepath.Join(t.TempDir(), "past.zip")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "pictures"), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "pictures", "a"), []byte("a mug"), 0o600))
	require.NoError(t, demo.Pack(dir, file))
	to := t.TempDir()
	for range 2 { // the second time over what is there
		require.NoError(t, demo.UnpackFile(to, file))
		text, err := os.ReadFile(filepath.Join(to, "pictures", "a"))
		require.NoError(t, err)
		assert.Equal(t, "a mug", string(text))
	}
	require.NoError(t, demo.Pack(dir, file), "again, in place of the one before")
}

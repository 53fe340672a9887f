package house_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// twoSites has the stall list on Quaymarket IE too, pound for pound.
func (s *stall) twoSites() store.Site {
	sites, err := s.Store.Sites(s.t.Context())
	require.NoError(s.t, err)
	require.NoError(s.t, s.Prices.SetRate(s.t.Context(), "GBP", "EUR", "1"))
	require.NoError(s.t, s.Places.SetLists(s.t.Context(), sites[1].ID, true))
	s.idle()
	return sites[1]
}

// onSite are a stall's listings on a site, by the entry they are on.
func (s *stall) onSite(name string) map[string]store.ListingRow {
	out := map[string]store.ListingRow{}
	for _, l := range s.all() {
		if l.Site == name {
			out[l.EntryRef] = l
		}
	}
	return out
}

// elsewhere has look-ups on the second site answered otherwise than on the first.
func (s *stall) elsewhere(change func(entries []any) []any) {
	s.front.said("GET", "/sites/IE/entries", func(answer map[string]any) {
		if list, ok := answer["entries"].([]any); ok {
			answer["entries"] = change(list)
		} else if answer["ref"] != nil { // one entry by itself
			change([]any{answer})
		}
	})
}

// The same product, sold singly at one place and by the six at another: what is
// sold by the six costs six.
func TestUnitsBelongToTheListing(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(13))
	s.elsewhere(func(entries []any) []any {
		for _, e := range entries {
			e.(map[string]any)["units"] = 6
		}
		return entries
	})
	ie := s.twoSites()
	m, err := s.Store.Matches(t.Context(), []string{"several"}, store.Page{})
	require.NoError(t, err)
	require.Len(t, m.Rows, 2, "a pack that only the entry says is for a person")
	for _, x := range m.Rows {
		c, err := s.Matching.Candidates(t.Context(), x.ID, "")
		require.NoError(t, err)
		require.NoError(t, decide(t.Context(), s.Matching, x.ID, matching.Decision{Entry: c[0].Ref}))
	}
	s.idle()
	for ref, gb := range s.onSite("Quaymarket GB") {
		six, ok := s.onSite(ie.Name)[ref]
		require.True(t, ok, ref)
		assert.Equal(t, int64(400), *gb.Landed)
		assert.Equal(t, int64(2400), *six.Landed, "six of them")
		assert.Greater(t, *six.Price, int64(2400))
		assert.Equal(t, int64(1), six.Quantity, "two sixes, one of them kept back")
		x, err := s.Prices.Explain(t.Context(), six.ID, nil)
		require.NoError(t, err)
		var cost []string
		for _, l := range x.Cost {
			cost = append(cost, l.Name+" "+l.Amount)
		}
		assert.Contains(t, strings.Join(cost, "; "), "6", "it says so")
	}
}

// Two supplier rows of one product that are two entries on a second site are
// two doubts, and those that follow them are matched all the same.
func TestTwoEntriesForOneProductEndNothing(t *testing.T) {
	s := newStall(t, 4)
	// Two rows of the supplier's with one number: one product on the first site.
	list := "ref,title,brand,ean,cost,stock\n"
	for i, e := range s.entries {
		list += fmt.Sprintf("R%03d,%q,%s,%s,4.00,9\n", i, e.Title, e.Brand, e.GTIN)
		if i == 0 {
			list += fmt.Sprintf("R%03d-b,%q,%s,%s,3.90,9\n", i, e.Title, e.Brand, e.GTIN)
		}
	}
	f, err := s.Sources.BringIn(t.Context(), strings.NewReader(list), sources.Arriving{Name: "list.csv", SourceID: &s.source.ID})
	require.NoError(t, err)
	s.take(f.ID, s.source.ID, true)
	require.Len(t, s.all(), 4)
	// On the second site that number has another entry for each row that asks.
	asked := 0
	s.elsewhere(func(entries []any) []any {
		asked++
		for _, e := range entries {
			e := e.(map[string]any)
			if e["gtin"] == "0"+s.entries[0].GTIN[1:] || e["gtin"] == s.entries[0].GTIN {
				twin := map[string]any{}
				for k, v := range e {
					twin[k] = v
				}
				twin["ref"] = e["ref"].(string) + "-other"
				return append(entries, twin)
			}
		}
		return entries
	})
	ie := s.twoSites()
	assert.NotZero(t, asked)
	for _, r := range s.runs("match") {
		assert.NotEqual(t, store.RunFailed, r.State, r.Error)
	}
	listed := s.onSite(ie.Name)
	assert.Len(t, listed, 3, "the others are matched")
	m, err := s.Store.Matches(t.Context(), []string{"several"}, store.Page{})
	require.NoError(t, err)
	assert.Len(t, m.Rows, 2)
	// A person says they are two: each is listed, under a SKU of its own.
	refs := []string{s.entries[0].Ref, s.entries[0].Ref + "-other"}
	for i, x := range m.Rows {
		require.NoError(t, decide(t.Context(), s.Matching, x.ID, matching.Decision{Entry: refs[i]}))
	}
	s.idle()
	skus := map[string]bool{}
	for _, l := range s.onSite(ie.Name) {
		assert.False(t, skus[l.SKU], l.SKU)
		skus[l.SKU] = true
	}
	assert.Len(t, skus, 5)
}

// A pack that only the supplier says is never certain.
func TestAPackThatOnlyOneSideSaysWaits(t *testing.T) {
	s := newStall(t, 2)
	for _, e := range s.entries {
		e.Units = 0
	}
	list := "ref,title,brand,ean,cost,stock,units per item\n"
	for i, e := range s.entries {
		list += fmt.Sprintf("R%03d,%q,%s,%s,40.00,9,%d\n", i, e.Title, e.Brand, e.GTIN, 1+9*i)
	}
	f, err := s.Sources.BringIn(t.Context(), strings.NewReader(list), sources.Arriving{Name: "list.csv", SourceID: &s.source.ID})
	require.NoError(t, err)
	s.take(f.ID, s.source.ID, true)
	require.Len(t, s.all(), 1)
	m, err := s.Store.Matches(t.Context(), []string{"several"}, store.Page{})
	require.NoError(t, err)
	require.Len(t, m.Rows, 1)
	c, err := s.Matching.Candidates(t.Context(), m.Rows[0].ID, "")
	require.NoError(t, err)
	require.Len(t, c, 1)
	assert.Contains(t, c[0].Against, "only the supplier says a pack, of 10")
	require.NoError(t, decide(t.Context(), s.Matching, m.Rows[0].ID, matching.Decision{Entry: c[0].Ref}))
	s.idle()
	pack := s.onSite(s.site.Name)[s.entries[1].Ref]
	require.NotNil(t, pack.Landed, "%+v", s.all())
	assert.Equal(t, int64(400), *pack.Landed, "a tenth of forty, once a person has said so")
}

// What a find would make is what the bench says of it: one builder of figures.
func TestAFindMakesWhatTheBenchSays(t *testing.T) {
	s := newStall(t, 3)
	set, err := s.Sources.Settings(t.Context(), s.source.ID)
	require.NoError(t, err)
	set.LookUp, set.Duty, set.Charge = false, "25%", "3.60"
	require.NoError(t, s.Sources.SetSettings(t.Context(), s.source.ID, stops.IfMatch{}, set))
	s.deliver(always(1000), always(9))
	for _, x := range s.find("mug") {
		require.NotNil(t, x.WouldGet, x.Why)
		b, err := s.Prices.Bench(t.Context(), prices.BenchAsk{SiteID: s.site.ID, SupplierProductID: x.ID})
		require.NoError(t, err)
		assert.Equal(t, int64((1000+360)*125/100), b.Landed)
		assert.Equal(t, []int64{b.Landed, *b.Price, *b.Profit}, []int64{*x.Landed, *x.Would, *x.WouldGet})
	}
}

// runs are the runs of a kind that are over.
func (w *world) runs(kind string) []store.Run {
	list, err := w.Store.LastRuns(w.t.Context(), 100)
	require.NoError(w.t, err)
	var out []store.Run
	for _, r := range list {
		if r.Kind == kind {
			out = append(out, r)
		}
	}
	return out
}

// A listing stays with its supplier while another is only a little cheaper, goes
// over when it pays, and goes over at once when its own has none left.
func TestAListingStaysWithItsSupplier(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(1000), always(9))
	s.sendAll()
	other, err := s.Sources.Make(t.Context(), sources.NewSource{Supplier: "Tidewrack Clearance", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	offers := func(cost, stock int64) store.ListingRow {
		f, err := s.Sources.BringIn(t.Context(), strings.NewReader(s.list(always(cost), always(stock))),
			sources.Arriving{Name: "other.csv", SourceID: &other.ID})
		require.NoError(t, err)
		s.take(f.ID, other.ID, true)
		return s.all()[0]
	}
	l := offers(985, 9)
	assert.Equal(t, []any{"Fernhollow Wholesale", int64(1000)}, []any{l.Supplier, *l.Landed}, "fifteen pence are no reason")
	assert.Empty(t, s.planned(), "and nothing is to be changed for them")
	l = offers(700, 9)
	assert.Equal(t, []any{"Tidewrack Clearance", int64(700)}, []any{l.Supplier, *l.Landed})
	l = offers(705, 9)
	assert.Equal(t, "Tidewrack Clearance", l.Supplier, "and there it stays")
	l = offers(705, 0)
	assert.Equal(t, []any{"Fernhollow Wholesale", int64(1000)}, []any{l.Supplier, *l.Landed}, "which has some left")
	for _, x := range s.planned() {
		assert.NotEqual(t, "zero", x.Kind, "so it stays on sale")
	}
	s.deliver(always(1000), always(0))
	require.NotEmpty(t, s.planned())
	assert.Equal(t, "zero", s.planned()[0].Kind, "until nobody has any")
}

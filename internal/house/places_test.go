package house_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// fair is a place without a gateway, made from nothing.
func (s *stall) fair() store.Site {
	s.t.Helper()
	site, err := s.Places.Make(s.t.Context(), places.NewPlace{Name: "Gullery Fair", Country: "ie", Currency: "GBP", TaxWay: "included", TaxRate: "23%",
		Commission: "10%", Fixed: "0.20", Categories: "Kitchen > Mugs\nKitchen > Pots\n", Charged: "0", Outbound: "0"})
	require.NoError(s.t, err)
	return site
}

// report has a file of a place read.
func (s *stall) report(site store.Site, kind, text string) store.PlaceFile {
	s.t.Helper()
	f, err := s.Places.Receive(s.t.Context(), site.ID, kind, "report.csv", strings.NewReader(text))
	require.NoError(s.t, err)
	require.Empty(s.t, f.Missing)
	run, err := s.Places.Take(s.t.Context(), f.ID)
	require.NoError(s.t, err)
	require.Equal(s.t, store.RunDone, s.wait(run).State)
	s.idle()
	got, err := store.Get[store.PlaceFile](s.t.Context(), s.Store, f.ID)
	require.NoError(s.t, err)
	return got
}

// A place is made from nothing, and its catalogue read from a file is matched
// like any other.
func TestAPlaceMadeFromNothing(t *testing.T) {
	s := newStall(t, 3)
	s.given(s.rows("cost,stock", plainRow))
	fair := s.fair()
	text := "Item ID;Item name;Barcode;Section;Lowest price\n"
	for i, e := range s.entries {
		text += fmt.Sprintf("GF-%d;%s;%s;Kitchen > Mugs;%d,99\n", i, e.Title, e.GTIN, 12+i)
	}
	text += "GF-9;;9520001000744;Kitchen > Mugs;3,00\n"
	f := s.report(fair, store.FileCatalogue, text)
	assert.Equal(t, [4]int64{4, 3, 0, 1}, [4]int64{f.Rows, f.New, f.Same, f.Aside})
	listed := s.onSite("Gullery Fair")
	require.Len(t, listed, 3)
	l := listed["GF-0"]
	require.NotNil(t, l.Price)
	assert.Equal(t, "Mugs", l.Category, "by its path among those that were typed")
	assert.EqualValues(t, 400, *l.Landed)

	again := s.report(fair, store.FileCatalogue, text)
	assert.Equal(t, [3]int64{0, 0, 3}, [3]int64{again.New, again.Changed, again.Same}, "the same file changes nothing")
	moved := s.report(fair, store.FileCatalogue, strings.ReplaceAll(text, "12,99", "13,49"))
	assert.Equal(t, [2]int64{1, 2}, [2]int64{moved.Changed, moved.Same})

	fair, err := s.Store.SiteOf(t.Context(), fair.ID)
	require.NoError(t, err)
	found, err := s.Matching.Find(t.Context(), fair, "zzz "+s.entries[1].Title)
	require.NoError(t, err)
	require.NotEmpty(t, found)
	assert.Equal(t, "GF-1", found[0].Ref)

	// What is sent there becomes a file of prices and stock, to be uploaded there.
	sent := s.sendAll()
	assert.EqualValues(t, 6, sent.Lines, "those of Quaymarket, and of the fair")
	files, err := s.Store.OpenSheetFiles(t.Context())
	require.NoError(t, err)
	require.Len(t, files, 1)
	made, err := s.Store.SheetFileContent(t.Context(), files[0].ID)
	require.NoError(t, err)
	now, err := s.Store.ListingRowOf(t.Context(), l.ID)
	require.NoError(t, err)
	assert.Contains(t, string(made.Content), "sku,entry,price,quantity\r\n")
	assert.Contains(t, string(made.Content), fmt.Sprintf("%s,GF-0,%s,%d\r\n", now.SKU, unitText(*now.Price), now.Quantity))
	require.NoError(t, s.Sending.AllTaken(t.Context(), files[0].ID))
	s.idle()
	now, err = s.Store.ListingRowOf(t.Context(), l.ID)
	require.NoError(t, err)
	assert.Equal(t, store.ListingLive, now.State, "a person said that it is there")
	assert.Equal(t, *now.Price, *now.ConfirmedPrice)
	assert.ErrorContains(t, s.Sending.ReadBack(t.Context(), fair.ID), "bring its listing report in again")
}

// A file of changes names each SKU once, with its price and its quantity, whichever of
// them moved: a blank cell may be read as nothing. One answer settles both.
func TestAChangeIsOneRowWithBothFigures(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	fair := s.fair()
	text := "Item ID;Item name;Barcode;Section\n"
	for i, e := range s.entries {
		text += fmt.Sprintf("GF-%d;%s;%s;Kitchen > Mugs\n", i, e.Title, e.GTIN)
	}
	s.report(fair, store.FileCatalogue, text)
	s.sendAll()
	rows := func() (out [][]string) {
		files, err := s.Store.OpenSheetFiles(t.Context())
		require.NoError(t, err)
		for _, f := range files {
			made, err := s.Store.SheetFileContent(t.Context(), f.ID)
			require.NoError(t, err)
			list, err := csv.NewReader(bytes.NewReader(made.Content)).ReadAll()
			require.NoError(t, err)
			seen := map[string]bool{}
			for _, r := range list[1:] {
				assert.False(t, seen[r[0]], "%s stands there twice", r[0])
				assert.NotContains(t, r, "", "no blank cell")
				seen[r[0]] = true
			}
			out = append(out, list[1:]...)
			require.NoError(t, s.Sending.AllTaken(t.Context(), f.ID))
			s.idle()
		}
		return out
	}
	require.Len(t, rows(), 3)
	s.deliver(always(500), func(i int) int64 { return []int64{9, 4, 0}[i] }) // dearer, and fewer of two
	s.letPlanGo(fair.ID)
	s.idle()
	got := rows()
	slices.Reverse(got) // the newest file first
	for _, l := range s.onSite("Gullery Fair") {
		at := slices.IndexFunc(got, func(r []string) bool { return r[0] == l.SKU })
		require.GreaterOrEqual(t, at, 0)
		assert.Equal(t, []string{l.SKU, l.EntryRef, unitText(*l.ConfirmedPrice), fmt.Sprint(l.ConfirmedQuantity)}, got[at])
		assert.Equal(t, l.Quantity, l.ConfirmedQuantity, "settled")
	}
}

// What a seller has listed for years is taken over: by number, by SKU, and by
// hand; from then on it is followed like any other.
func TestTakingOverWhatIsListed(t *testing.T) {
	s := newStall(t, 4)
	s.given(s.rows("cost,stock", plainRow))
	fair := s.fair()
	e := s.entries
	text := "SKU,Listing ID,Title,EAN,Price,Quantity\n" +
		fmt.Sprintf("OLD-1,L1,%q,%s,19.99,5\n", e[0].Title, e[0].GTIN) +
		fmt.Sprintf("SHED-R001,L2,%q,,18.49,2\n", e[1].Title) + // the supplier's ref in our SKU
		fmt.Sprintf("OLD-3,L3,%q,%s,7.00,1\n", "Cover for "+e[2].Title, e[2].GTIN) + // the number on another thing
		"OLD-4,L4,Something that nobody has,,5.00,3\n" +
		fmt.Sprintf("OLD-5,L5,%q,%s,,3\n", e[3].Title, e[3].GTIN) // no price
	f := s.report(fair, store.FileListings, text)
	assert.Equal(t, [5]int64{5, 2, 0, 2, 1}, [5]int64{f.Rows, f.New, f.Same, f.Untied, f.Aside})
	listed := s.onSite("Gullery Fair")
	require.Len(t, listed, 2)
	one := listed["L1"]
	assert.Equal(t, "OLD-1", one.SKU)
	assert.Equal(t, store.ListingLive, one.State)
	assert.EqualValues(t, 1999, *one.ConfirmedPrice)
	assert.EqualValues(t, 5, one.ConfirmedQuantity)
	require.NotNil(t, one.Landed, "and it is worked out")
	assert.EqualValues(t, 4, s.counts().Products, "the product that Quaymarket's listing is of")
	assert.EqualValues(t, 2, s.counts().Untied)

	again := s.report(fair, store.FileListings, text)
	assert.Equal(t, [3]int64{0, 0, 2}, [3]int64{again.New, again.Changed, again.Same})
	moved := s.report(fair, store.FileListings, strings.Replace(text, "19.99,5", "21.00,4", 1))
	assert.Equal(t, [3]int64{0, 1, 1}, [3]int64{moved.New, moved.Changed, moved.Same})
	assert.EqualValues(t, 2100, *s.onSite("Gullery Fair")["L1"].ConfirmedPrice)

	// The plan works on it: when its supplier has none left, it is to go to nothing.
	s.given(s.rows("cost,stock", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,4.00,0", title, brand, gtin)
	}))
	assert.Zero(t, s.onSite("Gullery Fair")["L1"].Quantity)
	plans, err := s.Store.OpenPlans(t.Context())
	require.NoError(t, err)
	require.NotEmpty(t, plans)
	for _, p := range plans {
		if p.SiteID == fair.ID {
			sent, err := s.Sending.SendPlan(t.Context(), p.ID, sending.PlanChoice{})
			require.NoError(t, err)
			s.idle()
			files, err := s.Store.SheetFilesOf(t.Context(), sent.SendOuts[0])
			require.NoError(t, err)
			f, err := s.Store.SheetFileContent(t.Context(), files[0].ID)
			require.NoError(t, err)
			assert.Contains(t, string(f.Content), "OLD-1,L1,21.00,0\r\n", "a file to upload there")
		}
	}

	// By hand.
	items, err := s.Sources.Search(t.Context(), "R002")
	require.NoError(t, err)
	require.NotEmpty(t, items)
	assert.Equal(t, fault.Missing, fault.KindOf(s.Places.TieByHand(t.Context(), fair.ID, "NO-SUCH", items[0].ID, 1, 1)))
	require.NoError(t, s.Places.TieByHand(t.Context(), fair.ID, "OLD-4", items[0].ID, 6, 1))
	s.idle()
	assert.Equal(t, "OLD-4", s.onSite("Gullery Fair")["L4"].SKU)
	assert.EqualValues(t, 1, s.counts().Untied)
	gone := s.report(fair, store.FileListings, strings.Join(strings.Split(text, "\n")[:3], "\n"))
	assert.Zero(t, gone.Untied)
	assert.Zero(t, s.counts().Untied, "what is no longer there isn't shown")
}

func TestAPlacesFileThatCantBeRead(t *testing.T) {
	s := newStall(t, 1)
	fair := s.fair()
	_, err := s.Places.Receive(t.Context(), fair.ID, "orders", "x.csv", strings.NewReader("a,b\n1,2\n"))
	assert.Equal(t, fault.Invalid, fault.KindOf(err))
	_, err = s.Places.Receive(t.Context(), fair.ID, store.FileListings, "x.pdf", strings.NewReader("%PDF-1.7 \x00\x01"))
	assert.Equal(t, fault.Invalid, fault.KindOf(err))
	f, err := s.Places.Receive(t.Context(), fair.ID, store.FileListings, "x.csv", strings.NewReader("our code,asked,qty,title\nA,1.00,2,x\nB,2.00,1,y\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"SKU", "price"}, f.Missing)
	_, err = s.Places.Take(t.Context(), f.ID)
	assert.ErrorContains(t, err, "no column is read as SKU or price")
	_, err = s.Places.Choose(t.Context(), f.ID, map[string]string{"our code": "SKU", "asked": "SKU"})
	assert.ErrorContains(t, err, "both")
	f, err = s.Places.Choose(t.Context(), f.ID, map[string]string{"our code": "SKU", "asked": "price", "qty": "quantity", "title": "title"})
	require.NoError(t, err)
	assert.Empty(t, f.Missing)
	run, err := s.Places.Take(t.Context(), f.ID)
	require.NoError(t, err)
	s.wait(run)
	// Chosen once: the next file is read so by itself.
	f, err = s.Places.Receive(t.Context(), fair.ID, store.FileListings, "y.csv", strings.NewReader("our code,asked,qty,title\nA,1.00,2,x\n"))
	require.NoError(t, err)
	assert.Empty(t, f.Missing)
	for field, in := range map[string]places.NewPlace{
		"name": {Country: "GB", Currency: "GBP"}, "country": {Name: "X", Country: "Britain", Currency: "GBP"}, "currency": {Name: "X", Country: "GB", Currency: "pounds"},
		"tax_rate": {Name: "X", Country: "GB", Currency: "GBP", TaxRate: "much"}, "commission": {Name: "X", Country: "GB", Currency: "GBP", Commission: "x"},
	} {
		_, err := s.Places.Make(t.Context(), in)
		assert.Equal(t, fault.Invalid, fault.KindOf(err), field)
	}
	_, err = s.Places.Make(t.Context(), places.NewPlace{Name: "Gullery Fair", Country: "GB", Currency: "GBP", Commission: "0", Fixed: "0", Charged: "0", Outbound: "0", TaxWay: "none"})
	assert.ErrorContains(t, err, "already")
}

// What a gateway says is listed is taken over the same way.
func TestPullingDownWhatAGatewayLists(t *testing.T) {
	s := newStall(t, 3)
	s.given(s.rows("cost,stock", plainRow))
	s.sendAll()
	s.market.Have("GB", "OLD-1", s.entries[0].Ref, 2100, 3)
	s.market.Have("GB", "OLD-2", "Q0-unknown", 2100, 3)
	run, err := s.Places.PullDown(t.Context(), s.site.ID)
	require.NoError(t, err)
	assert.Contains(t, s.wait(run).Note, "1 listing taken over, 3 ours before, 1 tied to nothing of ours")
	s.idle()
	skus := map[string]store.ListingRow{}
	for _, l := range s.all() {
		skus[l.SKU] = l
	}
	require.Len(t, skus, 4)
	assert.EqualValues(t, 2100, *skus["OLD-1"].ConfirmedPrice)
	assert.EqualValues(t, 3, s.counts().Products, "a second listing of the product that is there")
	fair := s.fair()
	_, err = s.Places.PullDown(t.Context(), fair.ID)
	assert.ErrorContains(t, err, "can't be asked")
}

package house_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/stops/places"
	"easymargin/internal/store"
)

// What one core answers in a second of a shop with 20 000 things, page by page,
// beside the baseline: a bare answer of as many bytes.
func BenchmarkTheShop(b *testing.B) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	s, err := store.Open(b.TempDir())
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	h := house.New(house.Options{Store: s})
	b.Cleanup(h.Close)
	site, err := h.Places.Make(b.Context(), places.NewPlace{Name: "Own shop", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Shop: true,
		Categories: "Kit > Mugs\nKit > Pots\nHill > Packs\nLight", Commission: "0", Fixed: "0", Charged: "0", Outbound: "0"})
	require.NoError(b, err)
	const things = 20_000
	categories := []string{"Kit > Mugs", "Kit > Pots", "Hill > Packs", "Light"}
	var rows []store.ShopListing
	for i := range things {
		title := fmt.Sprintf("Fellgrove Summit thing %d, %d ml", i, 100+i%9*50)
		rows = append(rows, store.ShopListing{SiteID: site.ID, SKU: fmt.Sprintf("BR-%05d", i), Title: title, Category: categories[i%4], Price: int64(500 + i%4000), Quantity: int64(i % 7),
			Content: fmt.Sprintf(`{"title":%q,"brand":"Fellgrove","description":"<p>Packs small, mends easily, and is light to carry.</p>","attributes":{"colour":"moss","material":"steel"}}`, title),
			Words:   title + " Fellgrove", ChangedAt: time.Now()})
	}
	require.NoError(b, s.Do(b.Context(), func(tx store.Tx) error { return tx.PutOnShelf(rows) }))
	pages := h.Shop(house.ShopAt{})
	ask := func(b *testing.B, of http.Handler, path string) int {
		r := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+path, nil)
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		of.ServeHTTP(w, r)
		if w.Code != http.StatusOK {
			b.Fatalf("%s answered %d", path, w.Code)
		}
		return w.Body.Len()
	}
	for _, x := range []struct{ name, path string }{{"front", "/"}, {"category", "/c/Kit?page=40"}, {"search", "/search?q=summit+thing+12"}, {"thing", "/p/BR-00012"}, {"basket", "/basket"}} {
		b.Run(x.name, func(b *testing.B) {
			bytes := make([]byte, ask(b, pages, x.path))
			bare := http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write(bytes) })
			began := time.Now()
			for range 1000 {
				ask(b, bare, "/")
			}
			base := time.Since(began) / 1000
			b.ResetTimer()
			for b.Loop() {
				ask(b, pages, x.path)
			}
			each := b.Elapsed() / time.Duration(b.N)
			b.ReportMetric(float64(time.Second)/float64(each), "pages/s")
			b.ReportMetric(float64(each)/float64(max(base, 1)), "x-bare-answer")
		})
	}
}

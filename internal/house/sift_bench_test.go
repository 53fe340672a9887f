package house_test

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/weighing"
	"easymargin/internal/store"
)

const benchCandidates = 1_000_000

// million is a house with a million candidates on one site, of 40 brands and 30
// categories; of a tenth the lowest isn't known.
func million(b *testing.B) (*house.House, *gorm.DB) {
	s := shelf(b)
	db, err := gorm.Open(sqlite.Open(s.File()))
	require.NoError(b, err)
	for _, q := range []string{
		fmt.Sprintf("CREATE TABLE n AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d) SELECT i, (i * 48271) %% 2147483647 AS r FROM n",
			benchCandidates),
		fmt.Sprintf(`INSERT INTO supplier_products(id, source_id, ref, ref_hash, title, cost, currency, stock, stock_state, details)
			SELECT i, 1, 'R' || i, i, CASE i %% 500 WHEN 0 THEN 'Copper kettle' ELSE 'Enamel mug' END, 400, 'GBP', 9, 'known', '{}' FROM n WHERE i > %d`,
			benchListings),
		"INSERT INTO matches(id, supplier_product_id, site_id, state, decided_by, decided_at) SELECT i, i, 1, 'weighed', 'lookup', '2026-03-03 08:40:00+00:00' FROM n",
		`INSERT INTO weighings(id, site_id, supplier_product_id, match_id, entry_id, landed, stock, lowest, leading, sellers, rating, rank, profit_lowest, margin_lowest,
			return_lowest, profit_leading, price_rule, profit_rule, price_aim, above, weight, ours, brand, category, supplier, weighed_at)
			SELECT i, 1, i, i, 1 + i % 100000, 200 + r % 9000, r % 97, CASE WHEN i % 10 THEN 500 + r % 15000 END, 600 + r % 15000, r % 12, 200 + r % 300, r % 90000,
			CASE WHEN i % 10 THEN r % 4000 - 1500 END, r % 500000 - 100000, r % 900000 - 200000, r % 4100 - 1500, 900 + r % 15000, 50 + r % 3000, 900 + r % 15000,
			r % 3000 - 1000, r % 5000, i % 9 = 0, 'Brand ' || (r % 40), 'c' || (r % 30), 'Fernhollow Wholesale', '2026-03-03 08:40:00+00:00' FROM n`,
		"DROP TABLE n", "ANALYZE",
	} {
		require.NoError(b, db.Exec(q).Error, q)
	}
	require.NoError(b, s.IndexSearch(b.Context(), func(int64) {}))
	return house.New(house.Options{Store: s}), db
}

// BenchmarkSift is the list on Weigh over a million candidates: its first page
// with its count, and a page further on, however it is sifted and sorted. The
// baseline is one look at the whole table.
func BenchmarkSift(b *testing.B) {
	h, db := million(b)
	best := func(do func()) time.Duration {
		least := time.Hour
		for range 5 {
			began := time.Now()
			do()
			least = min(least, time.Since(began))
		}
		return least
	}
	scan := best(func() {
		var n int64
		require.NoError(b, db.Raw("SELECT sum(landed + stock) FROM weighings NOT INDEXED WHERE brand <> 'x'").Scan(&n).Error)
	})
	cond := func(column, op string, values ...string) map[string]any {
		return map[string]any{"column": column, "op": op, "values": values}
	}
	out := json.NewEncoder(os.Stdout)
	for _, x := range []struct {
		name  string
		sieve []any
		sort  string
		desc  bool
	}{
		{"all, by profit", nil, "profit_lowest", true},
		{"all, by brand", nil, "brand", false},
		{"all, by rating", nil, "rating", true},
		{"all, by weight", nil, "weight", false},
		{"one amount", []any{cond("profit_lowest", "above", "10.00")}, "profit_lowest", true},
		{"three conditions", []any{cond("profit_lowest", "above", "5.00"), cond("sellers", "below", "6"), cond("brand", "one of", "Brand 3", "Brand 7")}, "return_lowest", true},
		{"any of these", []any{[]any{cond("rating", "above", "4.5"), cond("rank", "below", "1000")}, cond("ours", "is", "no")}, "above", false},
		{"nothing goes through", []any{cond("landed", "above", "900.00"), cond("stock", "above", "50")}, "profit_lowest", true},
		{"words", []any{cond("title", "has words", "copper")}, "profit_lowest", true},
		{"not known", []any{cond("lowest", "empty")}, "landed", false},
	} {
		text, err := json.Marshal(x.sieve)
		require.NoError(b, err)
		if x.sieve == nil {
			text = nil
		}
		q := weighing.Asked{SiteID: 1, Sieve: string(text)}
		var l store.List[store.SiftedRow]
		list := func(cursor string) func() {
			return func() {
				l, err = h.Weighing.List(b.Context(), q, store.Page{Sort: x.sort, Desc: x.desc, Cursor: cursor})
				require.NoError(b, err)
			}
		}
		first := best(list(""))
		further := first
		if l.Next != "" {
			further = best(list(l.Next))
		}
		require.NoError(b, out.Encode(map[string]any{"bench": "weigh list at 1 M", "case": x.name, "first_ms": first.Milliseconds(),
			"next_ms": further.Milliseconds(), "through": l.Total, "ratio_to_scan": float64(first.Milliseconds()) / float64(max(scan.Milliseconds(), 1))}))
	}
	for _, name := range []string{"the best found", "the best as they were"} {
		began := time.Now()
		require.NoError(b, h.Store.Do(b.Context(), func(tx store.Tx) error { return tx.EndWeighing(1, time.Now()) }))
		require.NoError(b, out.Encode(map[string]any{"bench": "end of weighing 1 M", "case": name, "seconds": time.Since(began).Seconds()}))
	}
	for b.Loop() {
		_, err := h.Weighing.List(b.Context(), weighing.Asked{SiteID: 1}, store.Page{})
		require.NoError(b, err)
	}
}

const benchTaken = 50_000

// BenchmarkTakeOver takes fifty thousand listings over from a place's report,
// tied by number to what a supplier has, and then the same report again. The
// baseline is the intake of as long a supplier's file.
func BenchmarkTakeOver(b *testing.B) {
	s, err := store.Open(b.TempDir())
	require.NoError(b, err)
	h := house.New(house.Options{Store: s, NoPictures: true})
	events, end := h.Events.Listen()
	b.Cleanup(func() {
		h.Close()
		end()
		require.NoError(b, s.Close())
	})
	require.NoError(b, h.Start(b.Context()))
	rests := func() {
		for range events {
			runs, err := h.Queue.Live(b.Context())
			require.NoError(b, err)
			if len(runs) == 0 {
				return
			}
		}
	}
	var list, report strings.Builder
	list.WriteString("ref,ean,title,brand,cost,stock\n")
	report.WriteString("SKU,Listing ID,Title,EAN,Price,Quantity\n")
	for i := range benchTaken {
		n := sim.Number(i)
		fmt.Fprintf(&list, "R%07d,%s,%s,Tarnwick,%d.99,9\n", i, n, sim.PlainTitle(n), 3+i%37)
		fmt.Fprintf(&report, "OLD-%d,L%d,%s,%s,%d.49,%d\n", i, i, sim.PlainTitle(n), n, 12+i%90, 1+i%8)
	}
	from, err := h.Sources.Make(b.Context(), sources.NewSource{Supplier: "Fernhollow Wholesale", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(b, err)
	f, err := h.Sources.BringIn(b.Context(), strings.NewReader(list.String()), sources.Arriving{Name: "list.csv", SourceID: &from.ID})
	require.NoError(b, err)
	began := time.Now()
	_, err = h.Sources.Take(b.Context(), f.ID, from.ID, nil, true)
	require.NoError(b, err)
	rests()
	intake := time.Since(began)
	site, err := h.Places.Make(b.Context(), places.NewPlace{Name: "Gullery Fair", Country: "ie", Currency: "GBP", TaxWay: "included", TaxRate: "23%",
		Commission: "10%", Fixed: "0.20", Charged: "0", Outbound: "0"})
	require.NoError(b, err)
	take := func(what string) {
		began := time.Now()
		x, err := h.Places.Receive(b.Context(), site.ID, store.FileListings, "report.csv", strings.NewReader(report.String()))
		require.NoError(b, err)
		_, err = h.Places.Take(b.Context(), x.ID)
		require.NoError(b, err)
		rests()
		spent := time.Since(began)
		done, err := store.Get[store.PlaceFile](b.Context(), s, x.ID)
		require.NoError(b, err)
		require.NoError(b, json.NewEncoder(os.Stdout).Encode(map[string]any{"bench": "take over 50 000", "case": what, "seconds": spent.Seconds(),
			"new": done.New, "changed": done.Changed, "same": done.Same, "untied": done.Untied, "ratio_to_intake": spent.Seconds() / intake.Seconds()}))
	}
	take("first time")
	for b.Loop() {
		take("the same file")
	}
}

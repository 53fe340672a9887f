package house_test

import (
	"fmt"
	"net/http/httptest"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

const benchListings = 100_000

// shelf is a store with one site, one rule and benchListings listings.
func shelf(b *testing.B) *store.Store {
	s, err := store.Open(b.TempDir())
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	ctx := b.Context()
	make := func(row any) { require.NoError(b, s.Do(ctx, func(tx store.Tx) error { return tx.Create(row) })) }
	make(&store.Supplier{ID: 1, Name: "Fernhollow Wholesale"})
	make(&store.Source{ID: 1, SupplierID: 1, Name: "Fernhollow Wholesale", Kind: "file", Mode: "full", Currency: "GBP"})
	make(&store.Marketplace{ID: 1, Name: "Quaymarket"})
	make(
		&store.Site{
			ID:            1,
			MarketplaceID: 1,
			Code:          "GB",
			Name:          "Quaymarket GB",
			Currency:      "GBP",
			TaxWay:        "included",
			TaxRate:       200_000,
			Outbound:      285,
			Lists:         true,
		},
	)
	make(
		&store.PriceRule{
			SiteID:   1,
			Position: 1,
			Name:     "All the rest",
			Wish:     `{"aims":[{"kind":"margin","value":"18%"}],"keep":[{"kind":"profit","value":"1.00"}],"endings":{"every":"1.00","at":["0.49","0.99"]}}`,
		},
	)
	make(
		&store.FeeSchedule{
			SiteID:   1,
			StartsOn: "2025-01-01",
			Fees:     `[{"name":"commission","of":"total","rate":150000,"least":30},{"name":"order fee","of":"item","fixed":20}]`,
		},
	)
	price := int64(2499)
	require.NoError(b, s.Do(ctx, func(tx store.Tx) error {
		var items []store.SupplierProduct
		var products []store.Product
		var links []store.SupplyLink
		var entries []store.Entry
		var listings []store.Listing
		for i := int64(1); i <= benchListings; i++ {
			ref := fmt.Sprintf("FW-%06d", i)
			items = append(
				items,
				store.SupplierProduct{
					ID:         i,
					SourceID:   1,
					Ref:        ref,
					Title:      "Enamel mug",
					Cost:       300 + i%9000,
					Currency:   "GBP",
					Stock:      i % 40,
					StockState: "known",
					Details:    `{"weight":300}`,
				},
			)
			products = append(products, store.Product{ID: i, SKU: ref, Title: "Enamel mug", Brand: "Tarnwick"})
			links = append(links, store.SupplyLink{ID: i, ProductID: i, SupplierProductID: i, UnitsBought: 1})
			entries = append(entries, store.Entry{ID: i, SiteID: 1, Ref: ref, Category: "mugs"})
			listings = append(
				listings,
				store.Listing{
					ID:        i,
					SKU:       ref,
					ProductID: i,
					SiteID:    1,
					EntryID:   &i,
					Category:  "mugs",
					Units:     1,
					State:     store.ListingReady,
					Currency:  "GBP",
					Price:     &price,
				},
			)
		}
		for _, rows := range []any{items, products, links, entries, listings} {
			if err := tx.CreateAll(rows); err != nil {
				return err
			}
		}
		return nil
	}))
	return s
}

// BenchmarkPreview is what a rule would do to every listing: read, priced twice over, compared.
func BenchmarkPreview(b *testing.B) {
	a := house.New(house.Options{Store: shelf(b)})
	r := prices.NamedRule{
		Name: "Mugs",
		Fits: &prices.Fits{Brands: []string{"Tarnwick"}},
		Rule: prices.Rule{Aims: margin("25%"), Keep: []prices.RuleCondition{{Kind: "profit", Value: "1.00"}}},
	}
	for b.Loop() {
		p, err := a.Prices.PreviewRule(b.Context(), 1, r, false)
		if err != nil || p.Fits != benchListings {
			b.Fatal(p.Fits, err)
		}
	}
	b.ReportMetric(float64(b.N)*benchListings/b.Elapsed().Seconds(), "listings/s")
}

// BenchmarkReckon works every listing out anew, as after a change of terms, and keeps it.
func BenchmarkReckon(b *testing.B) {
	b.Run("all change", func(b *testing.B) { reckon(b, func(n int64) int64 { return 285 + n%97 }) })
	b.Run("nothing changes", func(b *testing.B) { reckon(b, func(int64) int64 { return 285 }) })
}

func reckon(b *testing.B, outbound func(n int64) int64) {
	s := shelf(b)
	h := house.New(house.Options{Store: s})
	events, end := h.Events.Listen()
	defer end()
	defer h.Close()
	require.NoError(b, h.Start(b.Context()))
	move := func(n int64) {
		require.NoError(b, s.Do(b.Context(), func(tx store.Tx) error {
			return tx.SetSite(time.Now(), 1, map[string]any{"outbound": outbound(n)})
		}))
		for e := range events {
			if e.Run != nil && e.Run.Kind == store.RunPrice && e.Run.Ended != nil {
				break
			}
		}
	}
	move(0)
	began := spent(b)
	for n := int64(1); b.Loop(); n++ {
		move(n)
	}
	each(b, benchListings, "listings", spent(b)-began)
}

// BenchmarkSweep is its baseline: SQLite adding the same columns up by itself.
func BenchmarkSweep(b *testing.B) {
	s := shelf(b)
	db, err := gorm.Open(sqlite.Open(s.File()))
	require.NoError(b, err)
	for b.Loop() {
		var sum int64
		err := db.Raw(`SELECT sum(l.price + sp.cost + k.units_bought + length(l.category) + length(p.brand)) FROM listings l
			JOIN entries e ON e.id = l.entry_id
			JOIN products p ON p.id = l.product_id JOIN supply_links k ON k.product_id = l.product_id
				JOIN supplier_products sp ON sp.id = k.supplier_product_id`).Scan(&sum).Error
		if err != nil || sum == 0 {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.N)*benchListings/b.Elapsed().Seconds(), "listings/s")
}

// spent is the processor time that this process has used: on a machine that is
// shared it says more than a clock.
func spent(b *testing.B) time.Duration {
	var u syscall.Rusage
	require.NoError(b, syscall.Getrusage(syscall.RUSAGE_SELF, &u))
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// each reports how many things were done in a second, and the processor time of one.
func each(b *testing.B, n int, what string, cpu time.Duration) {
	b.ReportMetric(float64(b.N*n)/b.Elapsed().Seconds(), what+"/s")
	b.ReportMetric(float64(cpu.Microseconds())/float64(b.N*n), "cpu-µs/each")
}

const plainItems = 20_000

// plainShop is a shop on a plain marketplace, and a supplier's feed that waits to be taken.
func plainShop(b *testing.B) (h *house.House, events <-chan stops.Event, take func()) {
	server := httptest.NewServer(&sim.Plain{})
	b.Cleanup(server.Close)
	s, err := store.Open(b.TempDir())
	require.NoError(b, err)
	h = house.New(house.Options{Store: s, NoPictures: true, Poll: time.Millisecond})
	events, end := h.Events.Listen()
	b.Cleanup(func() {
		h.Close()
		end()
		require.NoError(b, s.Close())
	})
	require.NoError(b, h.Start(b.Context()))
	sites, err := h.Places.Connect(b.Context(), "Plain", server.URL)
	require.NoError(b, err)
	nothingAsked(b, h.Store, sites)
	require.NoError(b, h.Places.SetLists(b.Context(), sites[0].ID, true))
	from, err := h.Sources.Make(b.Context(), sources.NewSource{Supplier: "Fernhollow Wholesale", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(b, err)
	var list strings.Builder
	list.WriteString("ref,ean,title,brand,cost,stock\n")
	for i := range plainItems {
		n := sim.Number(i)
		fmt.Fprintf(&list, "R%07d,%s,%s,Tarnwick,%d.99,9\n", i, n, sim.PlainTitle(n), 3+i%37)
	}
	f, err := h.Sources.BringIn(b.Context(), strings.NewReader(list.String()), sources.Arriving{Name: "list.csv", SourceID: &from.ID})
	require.NoError(b, err)
	return h, events, func() {
		_, err := h.Sources.Take(b.Context(), f.ID, from.ID, nil, true)
		require.NoError(b, err)
	}
}

// BenchmarkMatch looks supplier products up by number on a plain marketplace and lists them.
func BenchmarkMatch(b *testing.B) {
	cpu := time.Duration(0)
	for b.Loop() {
		b.StopTimer()
		_, events, take := plainShop(b)
		cpu -= spent(b)
		b.StartTimer()
		take()
		for e := range events {
			if e.Run != nil && e.Run.Kind == stops.RunMatch && e.Run.Ended != nil && e.Run.Done == plainItems {
				break
			}
		}
		cpu += spent(b)
	}
	each(b, plainItems, "products", cpu)
}

// BenchmarkSend hands all that is ready over to a plain marketplace, which
// confirms at once, until every listing is live and worked out after it.
func BenchmarkSend(b *testing.B) {
	cpu := time.Duration(0)
	for b.Loop() {
		b.StopTimer()
		h, events, take := plainShop(b)
		rests := func() {
			for range events {
				runs, err := h.Queue.Live(b.Context())
				require.NoError(b, err)
				if len(runs) == 0 {
					return
				}
			}
		}
		take()
		rests()
		cpu -= spent(b)
		b.StartTimer()
		sent, err := h.Sending.SendListings(b.Context(), nil, sending.How{})
		require.NoError(b, err)
		require.Equal(b, int64(plainItems), sent.Lines)
		rests()
		cpu += spent(b)
	}
	each(b, plainItems, "lines", cpu)
}

package demo

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"strconv"

	"easymargin/internal/stops/places"
	"easymargin/internal/store"
)

// Gullery Fair has no gateway: it lets sellers download its catalogue and a
// report of what they have listed.
const (
	GulleryCatalogue = "/gullery-fair/catalogue.csv"
	GulleryListings  = "/gullery-fair/listing-report.csv"
)

// fairGoods are the things that Gullery Fair has a page of.
func fairGoods() []item { return items(fernhollowRows)[mayMove:80] }

// fairRef is the number of its page of a thing.
func fairRef(it item) string { return fmt.Sprintf("GF%06d", 310_000+it.n*13) }

// fairCatalogue is its catalogue, as it is downloaded.
func fairCatalogue() []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Comma = ';'
	_ = w.Write([]string{"Page no.", "Heading", "Item number", "Barcode", "Item name", "Section", "From price"})
	for _, it := range fairGoods() {
		_ = w.Write([]string{"p. " + strconv.Itoa(1+it.n/12), "fair", fairRef(it), it.gtin, it.entryTitle(), it.good.category, pence(it.usual * 21 / 10)})
	}
	w.Flush()
	return b.Bytes()
}

// fairListings is what Saltmarsh Kit has listed there for years: under SKUs of
// an older time, two of them of things that no supplier here has.
func fairListings() []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"Your SKU", "Item number", "Listing title", "Your price", "Quantity"})
	for i, it := range fairGoods() {
		if it.pack > 1 || i%4 != 0 || i > 44 {
			continue
		}
		_ = w.Write([]string{fmt.Sprintf("SHED-%03d", 100+i), fairRef(it), it.entryTitle(), pence(it.usual*26/10 + 99 - it.usual*26/10%100), "3"})
	}
	_ = w.Write([]string{"SHED-901", "GF990001", "Tide clock, hand painted", "38.00", "1"})
	_ = w.Write([]string{"SHED-902", "GF990002", "Driftwood lamp, small", "45.00", "2"})
	w.Flush()
	return b.Bytes()
}

// gullery makes the place from nothing, as a person would: its catalogue, and
// what was listed there for years.
func (p *past) gullery(ctx context.Context) error {
	site, err := p.Places.Make(ctx, places.NewPlace{Name: "Gullery Fair", Country: "IE", Currency: "EUR", TaxWay: "included", TaxRate: "23%",
		Commission: "9%", Fixed: "0.25", Charged: "0", Outbound: "0"})
	if err != nil {
		return err
	}
	p.fair = site.ID
	if err := p.report(ctx, store.FileCatalogue, "catalogue.csv", fairCatalogue()); err != nil {
		return err
	}
	return p.report(ctx, store.FileListings, "listing-report.csv", fairListings())
}

// report has a file of Gullery Fair read.
func (p *past) report(ctx context.Context, kind, name string, text []byte) error {
	v, err := p.Places.Receive(ctx, p.fair, kind, name, bytes.NewReader(text))
	if err != nil {
		return err
	}
	if _, err := p.Places.Take(ctx, v.ID); err != nil {
		return err
	}
	return p.idle(ctx, true)
}

// typedIn is what Saltmarsh Kit types in at Gullery Fair every few days: the
// prices and quantities that the plan asks for; then its report is read again.
func (p *past) typedIn(ctx context.Context) error {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"Your SKU", "Item number", "Listing title", "Your price", "Quantity"})
	list, err := p.Store.Listings(ctx, store.ListingFilter{SiteID: p.fair}, store.Page{Limit: 500})
	if err != nil {
		return err
	}
	for _, l := range list.Rows {
		if l.ConfirmedPrice == nil {
			continue
		}
		price, quantity := *l.ConfirmedPrice, l.Quantity
		if l.Price != nil {
			price = *l.Price
		}
		_ = w.Write([]string{l.SKU, l.EntryRef, l.Title, pence(price), strconv.FormatInt(quantity, 10)})
	}
	_ = w.Write([]string{"SHED-901", "GF990001", "Tide clock, hand painted", "38.00", "1"})
	_ = w.Write([]string{"SHED-902", "GF990002", "Driftwood lamp, small", "45.00", "2"})
	w.Flush()
	return p.report(ctx, store.FileListings, "listing-report.csv", b.Bytes())
}

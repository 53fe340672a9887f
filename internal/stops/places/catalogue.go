package places

import (
	"context"
	"encoding/json"

	"easymargin/core/match/title"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// keepEntries keeps rows of a catalogue as entries.
func (st *Stop) keepEntries(ctx context.Context, f *store.PlaceFile, site store.Site, rows []fileRow) error {
	entries := make([]*store.Entry, 0, len(rows))
	categories := map[string]bool{}
	var named []store.Category
	for _, x := range rows {
		p := &x.row.Product.Product
		if p.Title == "" {
			f.Aside++
			continue
		}
		e := &store.Entry{
			SiteID: site.ID, Ref: stops.Clip(p.Ref, 200), GTIN: p.GTIN, Title: stops.Clip(p.Title, 500), Brand: stops.Clip(p.Brand, 200),
			Category: stops.Clip(p.Category, 200), Page: stops.WebAddress(p.Link), Units: p.UnitsPerItem, SeenAt: st.Now(), GTINs: []string{},
			MPN: stops.Clip(p.MPN, 100), Colour: stops.Clip(p.Colour, 100), Size: stops.Clip(p.Size, 100), Material: stops.Clip(p.Material, 100),
		}
		if len(p.Pictures) > 0 {
			e.Picture = stops.WebAddress(p.Pictures[0])
		}
		if p.Cost.Minor > 0 && string(p.Cost.Currency) == site.Currency {
			text, err := json.Marshal([]place.Offer{{Seller: "lowest, by its file", Item: p.Cost.Minor, Lead: true}})
			if err != nil {
				return err
			}
			at := st.Now()
			e.Offers, e.OffersAt = string(text), &at
		}
		entries = append(entries, e)
		if e.Category != "" && !categories[e.Category] {
			categories[e.Category] = true
			named = append(named, store.Category{SiteID: site.ID, Ref: e.Category, Name: e.Category})
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.AddCategories(named); err != nil {
			return err
		}
		fresh, changed, err := tx.ShelveEntries(st.Now(), site.ID, entries, func(e *store.Entry) string {
			return title.Fold(e.Brand + " " + e.Title + " " + e.MPN)
		})
		f.New, f.Changed, f.Same = f.New+fresh, f.Changed+changed, f.Same+int64(len(entries))-fresh-changed
		return err
	})
}

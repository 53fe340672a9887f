package stops

import (
	"time"

	"easymargin/core/ident"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// EntryRow is an entry of a place as the store keeps it, what came from
// elsewhere cut to what is kept. Its own number has 14 digits already.
func EntryRow(siteID int64, e place.Entry, now time.Time) *store.Entry {
	out := &store.Entry{
		SiteID:     siteID,
		Ref:        Clip(e.Ref, 200),
		GTIN:       e.GTIN,
		Title:      Clip(e.Title, 500),
		Brand:      Clip(e.Brand, 200),
		Category:   e.Category,
		Picture:    e.Picture,
		Page:       WebAddress(e.Page),
		Units:      max(e.Units, 0),
		SeenAt:     now,
		GTINs:      []string{},
		MPN:        Clip(e.MPN, 100),
		Colour:     Clip(e.Colour, 100),
		Size:       Clip(e.Size, 100),
		Material:   Clip(e.Material, 100),
		Closed:     e.Copyable != nil && !*e.Copyable,
		NeedsLeave: e.NeedsLeave,
		Rating:     e.Rating,
		Ratings:    e.Ratings,
		Rank:       e.Rank,
	}
	for _, g := range e.GTINs {
		if n := ident.Read(g); n.Found() && n.GTIN != out.GTIN && len(out.GTINs) < 20 {
			out.GTINs = append(out.GTINs, n.GTIN)
		}
	}
	return out
}

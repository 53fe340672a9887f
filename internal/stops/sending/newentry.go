package sending

import (
	"context"
	"fmt"

	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// tieNew ties listings of ours to the entries that a catalogue made of them: from
// then on each is an offer on its entry like any other.
func (st *Stop) tieNew(ctx context.Context, site store.Site, made map[int64]string) error {
	cat := st.Places(site.Marketplace).Catalogue
	if cat == nil {
		return nil
	}
	for id, ref := range made {
		e, err := cat.Entry(ctx, site.Code, ref)
		if place.Forgotten(err) {
			continue // it isn't shown yet
		}
		if err != nil {
			return fmt.Errorf("reading the entry %s: %w", ref, err)
		}
		if err := st.Store.Do(ctx, func(tx store.Tx) error {
			row := stops.EntryRow(site.ID, e, st.Now())
			if err := tx.PutEntry(st.Now(), row); err != nil {
				return err
			}
			tx.Changed("listings", "matches", "prepare", "counts")
			return stops.First(tx.TieEntry(st.Now(), id, row.ID), tx.Note(st.Now(), "new entry made", ref, site.Name))
		}); err != nil {
			return err
		}
	}
	return nil
}

package preparing

import (
	"context"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Outcome is what became, or would become, of one of many listings.
type Outcome struct {
	ID     int64  `json:"id"`
	SKU    string `json:"sku"`
	Title  string `json:"title"`
	Before int    `json:"before" doc:"What stopped it, how much"`
	After  int    `json:"after"`
	Words  string `json:"words" doc:"The first thing that stops it still"`
}

// SayAll keeps the same words of many listings; without keep it only says what
// they would be.
func (st *Stop) SayAll(ctx context.Context, ids []int64, say []FieldSaid, keep bool) ([]Outcome, error) {
	out := []Outcome{}
	each := func(tx store.Tx) error {
		list, err := loadAll(tx, ids)
		if err != nil {
			return err
		}
		for _, x := range list {
			before, after, rows, err := x.with(ctx, st.Now(), say)
			if err != nil {
				return err
			}
			out = append(out, Outcome{ID: x.listing.ID, SKU: x.listing.SKU, Title: after.Report.Title, Before: before.Stops(), After: after.Stops(), Words: after.FirstWords()})
			if !keep {
				continue
			}
			if err := tx.Say(st.Now(), rows); err != nil {
				return err
			}
		}
		return nil
	}
	if !keep {
		return out, each(st.Store.Reading(ctx))
	}
	return out, st.Store.Do(ctx, func(tx store.Tx) error {
		if err := each(tx); err != nil {
			return err
		}
		tx.Changed("prepare", "listings", "counts")
		return tx.Note(st.Now(), "listings prepared", stops.Plural(int64(len(ids)), "listing", "listings"), fieldsOf(say))
	})
}

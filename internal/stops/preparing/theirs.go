package preparing

import (
	"context"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// TheirChange is what a supplier changed of something since a person said
// otherwise. A person's word stands until they take the supplier's.
type TheirChange struct {
	Before string    `json:"before"`
	After  string    `json:"after"`
	At     time.Time `json:"at"`
}

// theirs puts beside what a person said what the supplier made of it since.
func (v *PreparedView) theirs(tx store.Tx) error {
	list, err := tx.TheirChanges([]int64{v.ID})
	for _, c := range list {
		x := TheirChange{stops.Clip(c.Before, 300), stops.Clip(c.After, 300), c.At}
		if c.Field == reckon.PicturesField {
			v.PicturesChanged = &x.At
		}
		for i := range v.Fields {
			if v.Fields[i].Field == c.Field {
				v.Fields[i].Theirs = &x
			}
		}
	}
	return err
}

// Adopt takes the supplier's words and pictures for what they changed since a
// person said otherwise, of some listings. What they didn't change stays as the
// person has it. It says how many words were taken back.
func (st *Stop) Adopt(ctx context.Context, ids []int64) (int, error) {
	n := 0
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		list, err := tx.TheirChanges(ids)
		if err != nil {
			return err
		}
		seen := map[store.Saying]bool{}
		var back []store.Saying
		for _, c := range list {
			s := store.Saying{ListingID: c.ListingID, Field: c.Field, Actor: actor.Of(ctx)}
			if !seen[s] {
				seen[s] = true
				back = append(back, s)
			}
		}
		n = len(back)
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.Say(st.Now(), back), tx.Note(st.Now(), "supplier's words taken", stops.Plural(int64(len(ids)), "listing", "listings"), stops.Plural(int64(n), "value", "values")))
	})
	return n, err
}

package sending

import (
	"cmp"
	"encoding/json"
	"slices"

	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// words takes up what listings of our own say there, where the place tells: what
// isn't as it was sent waits for a person, and what we know of it is what it says.
func (r *reading) words(tx store.Tx, there []place.Listing, ours map[string]store.Listing, open map[int64][]store.OpenLine) error {
	told := map[int64]*place.Content{}
	var ids []int64
	for i := range there {
		x := &there[i]
		l, known := ours[x.SKU]
		if x.Content == nil || !known || slices.ContainsFunc(open[l.ID], func(o store.OpenLine) bool { return o.PlanLineID == nil }) {
			continue // its words may be on their way
		}
		told[l.ID], ids = x.Content, append(ids, l.ID)
	}
	if len(ids) == 0 {
		return nil
	}
	sent, err := tx.SaidThere(ids)
	if err != nil {
		return err
	}
	before, err := tx.WordDifferencesOf(ids)
	if err != nil {
		return err
	}
	var same, moved []int64
	for _, id := range ids {
		if sent[id].At.After(r.asked) {
			continue // confirmed while this was on its way here
		}
		was, err := place.ReadContent(cmp.Or(before[id].Ours, sent[id].Content))
		if err != nil {
			return err
		}
		differs, err := place.BesideOf(was, told[id])
		if err != nil {
			return err
		}
		_, seen := before[id]
		if len(differs) == 0 && !seen {
			continue
		}
		now, err := place.With(was, told[id])
		if err != nil {
			return err
		}
		d := store.WordDifference{ListingID: id, SeenAt: r.stop.Now()}
		whole, err := json.Marshal(now)
		if err == nil {
			d.There = string(whole)
		}
		if err != nil || d.There == before[id].There {
			continue // as it was when somebody was told
		}
		if err := tx.PutSaidThere(id, d.There, r.stop.Now()); err != nil {
			return err
		}
		moved = append(moved, id)
		if len(differs) == 0 {
			same = append(same, id)
			continue
		}
		if sent[id].Content == "" {
			continue // what it said before isn't known, so nothing of it is another
		}
		d.Ours = cmp.Or(before[id].Ours, sent[id].Content)
		names := make([]string, len(differs))
		for i, x := range differs {
			names[i] = x.Field
		}
		fields, err := json.Marshal(names)
		if err != nil {
			return err
		}
		d.Fields = string(fields)
		if err := tx.PutWordDifference(d); err != nil {
			return err
		}
		r.worded++
	}
	return stops.First(tx.DropWordDifferences(same), tx.DirtyListings(r.stop.Now(), moved))
}

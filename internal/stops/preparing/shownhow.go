package preparing

import (
	"context"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// ShownHow is how listings are shown: outside of their days, or hidden, nothing
// of them is offered; what is on sale is put to nothing by the plan.
type ShownHow struct {
	Hidden bool   `json:"hidden,omitempty"`
	From   string `json:"from,omitempty" doc:"YYYY-MM-DD"`
	Until  string `json:"until,omitempty" doc:"YYYY-MM-DD, with that day"`
}

// Show sets how some listings are shown.
func (st *Stop) Show(ctx context.Context, ids []int64, how ShownHow) error {
	for field, day := range map[string]string{"from": how.From, "until": how.Until} {
		if _, err := time.Parse(time.DateOnly, day); day != "" && err != nil {
			return fault.At(field, "%q is not a day such as 2026-04-01", day)
		}
	}
	if how.From != "" && how.Until != "" && how.From > how.Until {
		return fault.At("until", "it would end before it begins")
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		list, err := loadAll(tx, ids)
		if err != nil {
			return err
		}
		for _, x := range list {
			if err := tx.WantListing(x.listing.ID, map[string]any{"hidden": how.Hidden, "shown_from": how.From, "shown_until": how.Until}); err != nil {
				return err
			}
		}
		tx.Changed("prepare", "listings", "counts", "plan")
		return stops.First(tx.DirtyListings(st.Now(), ids), tx.Note(st.Now(), "shown how", stops.Plural(int64(len(ids)), "listing", "listings"), how.words()))
	})
}

func (h *ShownHow) words() string {
	switch {
	case h.Hidden:
		return "hidden"
	case h.From == "" && h.Until == "":
		return "always"
	}
	return "from " + h.From + " until " + h.Until
}

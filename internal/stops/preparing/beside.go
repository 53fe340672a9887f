package preparing

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// BesideRow is a listing on sale that says something else there than was sent.
type BesideRow struct {
	ListingID int64     `json:"id"`
	SKU       string    `json:"sku"`
	Title     string    `json:"title"`
	Site      string    `json:"site"`
	Category  string    `json:"category"`
	Fields    []string  `json:"fields" doc:"Those that differ"`
	SeenAt    time.Time `json:"seen"`
	Picture   string    `json:"picture"`
}

// BesideField is one field of such a listing.
type BesideField struct {
	Field   string `json:"field"`
	Sent    string `json:"sent" doc:"As it was confirmed"`
	There   string `json:"there" doc:"As it was read back"`
	Wanted  string `json:"wanted" doc:"As it is to be; what ours is, if ours is sent"`
	Sayable bool   `json:"may_keep" doc:"Theirs can be kept"`
}

// Beside is what a listing says there beside what was sent, field by field.
func (st *Stop) Beside(ctx context.Context, id int64) ([]BesideField, error) {
	tx := st.Store.Reading(ctx)
	d, err := differenceOf(tx, id)
	if err != nil {
		return nil, err
	}
	list, err := loadAll(tx, []int64{id})
	if err != nil {
		return nil, err
	}
	out := make([]BesideField, 0, len(d.fields))
	for _, x := range list {
		p, _, _, err := x.with(ctx, st.Now(), nil)
		if err != nil {
			return nil, err
		}
		wanted := p.Content(&x.listing)
		for _, f := range d.fields {
			text, err := wanted.Text(f.Field)
			if err != nil {
				return nil, err
			}
			out = append(out, BesideField{f.Field, f.Ours, f.Theirs, text, reckon.Sayable(f.Field)})
		}
	}
	return out, nil
}

// difference is what differs of a listing, read.
type difference struct {
	there  *place.Content
	fields []place.Beside
}

func differenceOf(tx store.Tx, id int64) (difference, error) {
	of, err := tx.WordDifferencesOf([]int64{id})
	if err != nil {
		return difference{}, err
	}
	d, ok := of[id]
	if !ok {
		return difference{}, fault.New(fault.Conflict, "this listing says there what was sent; nothing differs any more")
	}
	ours, err := place.ReadContent(d.Ours)
	if err != nil {
		return difference{}, err
	}
	there, err := place.ReadContent(d.There)
	if err != nil {
		return difference{}, err
	}
	fields, err := place.BesideOf(ours, there)
	return difference{there, fields}, err
}

// values are what a field says there, as a person would say them.
func (d *difference) values(f place.Beside) []string {
	switch {
	case f.Field == "words":
		return d.there.Words
	case f.Theirs == "":
		return []string{}
	}
	return []string{f.Theirs}
}

// Settle decides about listings that say something else there: of the fields
// named theirs is kept, as if a person had said it; all else is ours, and goes
// with the changed words, which nothing here sends. Without fields all is ours.
func (st *Stop) Settle(ctx context.Context, ids []int64, theirs []string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		list, err := loadAll(tx, ids)
		if err != nil {
			return err
		}
		for _, x := range list {
			d, err := differenceOf(tx, x.listing.ID)
			if err != nil {
				return err
			}
			var say []FieldSaid
			for _, f := range d.fields {
				if !slices.Contains(theirs, f.Field) {
					continue
				}
				if !reckon.Sayable(f.Field) {
					return fault.At("theirs", "%s of %s can't be kept as it is there; leave it out, and ours is sent", f.Field, x.listing.SKU)
				}
				say = append(say, FieldSaid{Field: f.Field, Values: d.values(f)})
			}
			if len(say) > 0 {
				_, _, rows, err := x.with(ctx, st.Now(), say)
				if err != nil {
					return err
				}
				if err := tx.Say(st.Now(), rows); err != nil {
					return err
				}
			}
		}
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.DropWordDifferences(ids), tx.DirtyListings(st.Now(), ids),
			tx.Note(st.Now(), "words read back decided", stops.Plural(int64(len(ids)), "listing", "listings"), "theirs: "+strings.Join(theirs, ", ")))
	})
}

// besideOperations are those about what listings say otherwise at their places.
func (st *Stop) besideOperations(api huma.API) {
	stops.Op(api, stops.Read("/content-differences", "list-content-differences", "differences", "Listings on sale that say something else there than was sent"),
		func(ctx context.Context, in *stops.Paged) (stops.List[BesideRow], error) {
			l, err := st.Store.WordDifferences(ctx, in.Page())
			return stops.Shown(l, err, func(r store.WordDifferenceRow) BesideRow { return BesideRow(r) })
		})
	stops.Op(api, stops.Read("/listings/{id}/comparison", "compare-listing", "differences", "What a listing says there beside what was sent, field by field"),
		func(ctx context.Context, in *stops.ByID) ([]BesideField, error) { return st.Beside(ctx, in.ID) })
	stops.Op(api, stops.Post("/content-differences/settle", "settle-content-differences", actor.Send, "Keep fields as they are there; all else is ours, and waits among the changed words", "differences", "prepare", "listings", "counts"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs    []int64  `json:"ids" minItems:"1" maxItems:"1000"`
				Theirs []string `json:"theirs,omitempty" maxItems:"1000" doc:"Fields that are kept as they are there"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Settle(ctx, in.Body.IDs, in.Body.Theirs))
		})
}

package sending

import (
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// DifferenceRow is a listing that was read back and isn't as it was confirmed.
type DifferenceRow struct {
	ID            int64     `json:"id"`
	ListingID     int64     `json:"listing_id"`
	Kind          string    `json:"kind" enum:"changed,ended,never live" doc:"changed there, no longer there, or taken and never seen there"`
	SKU           string    `json:"sku"`
	Title         string    `json:"title"`
	Site          string    `json:"site"`
	Page          string    `json:"page"`
	Currency      string    `json:"currency"`
	OurPrice      *int64    `json:"our_price" doc:"As it was confirmed"`
	OurQuantity   int64     `json:"our_quantity"`
	TheirPrice    *int64    `json:"their_price"`
	TheirQuantity int64     `json:"their_quantity"`
	Wanted        *int64    `json:"wanted" doc:"The price worked out"`
	Floor         *int64    `json:"floor"`
	SeenAt        time.Time `json:"seen"`
	Picture       string    `json:"picture"`
}

// KeepTheirs decides that listings stay as the marketplace has them: what has
// another price there keeps it, fixed by hand; what was ended there isn't sold
// there any more. One whose price there is under its floor can't be kept, and
// then nothing is.
func (st *Stop) KeepTheirs(ctx context.Context, ids []int64) error {
	return st.decide(ctx, ids, func(tx store.Tx, d *store.Difference) error {
		if d.Kind != store.DifferChanged {
			return tx.Unwant(st.Now(), d.ListingID)
		}
		if d.TheirPrice == nil || d.OurPrice != nil && *d.OurPrice == *d.TheirPrice {
			return nil
		}
		return st.keepPrice(tx, d)
	}, store.DifferAccepted, "kept as it is there")
}

// keepPrice fixes a listing's price at what is asked there, where that may be asked.
func (st *Stop) keepPrice(tx store.Tx, d *store.Difference) error {
	site, err := tx.SiteOf(d.SiteID)
	if err != nil {
		return err
	}
	l, err := store.GetTx[store.Listing](tx, d.ListingID)
	if err != nil {
		return err
	}
	figures, _, err := st.figures(tx, site, []store.OutgoingLine{{SendLine: store.SendLine{ListingID: d.ListingID}}})
	if err != nil {
		return err
	}
	f := figures[d.ListingID]
	if f == nil || !f.Allows(*d.TheirPrice) {
		return fault.New(fault.Conflict, "%s asks %s there, under its floor: it can't be kept. Send ours", l.SKU, money.Of(*d.TheirPrice, money.Currency(site.Currency)))
	}
	return tx.FixListing(d.ListingID, *d.TheirPrice)
}

// KeepOurs decides that ours holds: what differs is in the plan again, and what
// was ended there is ready to go up.
func (st *Stop) KeepOurs(ctx context.Context, ids []int64) error {
	return st.decide(ctx, ids, func(store.Tx, *store.Difference) error { return nil }, store.DifferOurs, "ours holds")
}

func (st *Stop) decide(ctx context.Context, ids []int64, do func(tx store.Tx, d *store.Difference) error, state, what string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		list, err := tx.DifferencesOf(ids)
		if err != nil {
			return err
		}
		if len(list) == 0 {
			return fault.New(fault.Conflict, "nothing of it differs any more; look again")
		}
		listings := make([]int64, len(list))
		for i := range list {
			listings[i] = list[i].ListingID
			if err := do(tx, &list[i]); err != nil {
				return err
			}
		}
		tx.Changed("listings", "plan")
		return stops.First(
			tx.CloseDifferences(listings, state, st.Now()),
			tx.DirtyListings(st.Now(), listings),
			tx.Note(st.Now(), what, stops.Plural(int64(len(list)), "listing", "listings"), fmt.Sprint(listings)),
		)
	})
}

// differences registers what is done about what differs.
func (st *Stop) differences(api huma.API) {
	stops.Op(api, stops.Read("/differences", "list-differences", "differences", "Listings that were read back and aren't as they were confirmed"),
		func(ctx context.Context, in *stops.Paged) (stops.List[DifferenceRow], error) {
			l, err := st.Store.Differences(ctx, in.Page())
			return stops.Shown(l, err, func(r store.DifferenceRow) DifferenceRow { return DifferenceRow(r) })
		})
	stops.Op(api, stops.Post("/differences/decide", "decide-differences", actor.Send, "Keep listings as they are there, or send ours", "differences", "plan", "listings"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs    []int64 `json:"ids" minItems:"1" maxItems:"1000"`
				Theirs bool    `json:"theirs" doc:"Theirs is kept; ours is sent where false"`
			}
		}) (stops.Done, error) {
			if in.Body.Theirs {
				return stops.Said(st.KeepTheirs(ctx, in.Body.IDs))
			}
			return stops.Said(st.KeepOurs(ctx, in.Body.IDs))
		})
}

package sending

import (
	"context"
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// readEvery is how often what is on sale is read back by itself.
const readEvery = 6 * time.Hour

// Round has those sites read back whose time has come, sends what may go by
// itself by now, and tries again what couldn't be handed over.
func (st *Stop) Round(ctx context.Context) error {
	if err := st.aloneRound(ctx); err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if stops.Stopped(tx) == nil { // else it goes on when the stop is lifted
			again, err := tx.AgainSendOuts(st.Now())
			for i := 0; err == nil && i < len(again); i++ {
				_, err = st.queueSend(tx, &again[i], "Trying a send-out again")
			}
			if err := stops.First(err, st.lightRound(tx)); err != nil {
				return err
			}
		}
		due, err := tx.DueReadings(st.Now())
		for i := 0; err == nil && i < len(due); i++ {
			err = st.queueRead(tx, due[i])
		}
		if err != nil {
			return err
		}
		return tx.ReadRegularly(st.Now().Add(readEvery))
	})
}

// ReadBack reads back what a site has on sale, on a person's word.
func (st *Stop) ReadBack(ctx context.Context, siteID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if site.Marketplace.Address == "" {
			return fault.New(fault.Conflict, "%s can't be asked what is listed; bring its listing report in again under Places", site.Name)
		}
		return st.queueRead(tx, site)
	})
}

// doRead reads back what is on sale on a site, part by part, and settles by it
// what nobody told us: listings of ours are what they are there, whatever we
// thought. What is there and tied to nothing of ours is noted.
func (st *Stop) doRead(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	outlet, err := st.outlet(site)
	if err != nil {
		return err
	}
	r := reading{stop: st, site: site, seen: map[int64]bool{}, made: map[int64]string{}, began: st.Now()}
	for after := ""; ; {
		r.asked = st.Now()
		there, next, err := outlet.Listings(ctx, site.Code, after)
		if err != nil {
			return err
		}
		for len(there) > 0 {
			n := min(len(there), 500)
			if err := st.Store.Do(ctx, func(tx store.Tx) error { return r.part(tx, there[:n]) }); err != nil {
				return err
			}
			r.found += int64(n)
			t.At(r.found, 0)
			there = there[n:]
		}
		if next == "" || next == after {
			break
		}
		after = next
	}
	if err := st.Store.Do(ctx, r.end); err != nil {
		return err
	}
	if err := st.tieNew(ctx, site, r.made); err != nil {
		return err
	}
	t.Note = fmt.Sprintf(
		"%s: %s read back, %d settled, %d tied to nothing of ours",
		site.Name,
		stops.Plural(r.found, "listing", "listings"),
		r.settled,
		len(r.untied),
	)
	if r.worded > 0 {
		t.Note += fmt.Sprintf(", %d saying something else than was sent", r.worded)
	}
	return nil
}

// reading is what one reading back has come to.
type reading struct {
	stop           *Stop
	site           store.Site
	seen           map[int64]bool // listings of ours that are there
	untied         []store.Untied
	made           map[int64]string // entries that were made of listings of ours, by listing
	found, settled int64
	worded         int64 // that say something else there than was sent
	began          time.Time
	asked          time.Time // when the part that is looked at was asked for
}

// part takes up some of what is on sale there.
func (r *reading) part(tx store.Tx, there []place.Listing) error {
	skus := make([]string, len(there))
	for i := range there {
		skus[i] = there[i].SKU
	}
	ours, err := tx.ListingsBySKU(r.site.ID, skus)
	if err != nil {
		return err
	}
	var ids []int64
	for _, l := range ours {
		ids = append(ids, l.ID)
	}
	open, err := openLines(tx, ids)
	if err != nil {
		return err
	}
	now := r.stop.Now()
	if err := tx.MarkSeen(ids, now); err != nil {
		return err
	}
	for i := range there {
		x := &there[i]
		l, known := ours[x.SKU]
		if !known {
			r.untied = append(
				r.untied,
				store.Untied{SiteID: r.site.ID, SKU: x.SKU, EntryRef: x.Entry, Price: &x.Price, Quantity: x.Quantity, SeenAt: now},
			)
			continue
		}
		r.seen[l.ID] = true
		if l.EntryID == nil && x.Entry != "" {
			r.made[l.ID] = x.Entry
		}
		if err := r.settle(tx, &l, x, open[l.ID]); err != nil {
			return err
		}
	}
	return r.words(tx, there, ours, open)
}

// settle makes a listing what it is there, unless something of it is still on
// its way: then the answer to that tells.
func (r *reading) settle(tx store.Tx, l *store.Listing, x *place.Listing, open []store.OpenLine) error {
	var lost []store.OpenLine
	for _, o := range open {
		switch {
		case o.State == store.SendUnknown:
			lost = append(lost, o)
		case !o.Surely():
			return nil
		}
	}
	if l.ConfirmedAt != nil && l.ConfirmedAt.After(r.asked) {
		return nil // confirmed while this was on its way here: that is newer
	}
	same := l.ConfirmedPrice != nil && *l.ConfirmedPrice == x.Price && l.ConfirmedQuantity == x.Quantity && l.State == store.ListingLive
	if same && len(lost) == 0 {
		return nil
	}
	now := r.stop.Now()
	var by *store.SendLine // the newest line that says what is there
	for i := range lost {
		o := &lost[i].SendLine
		if o.Does == store.DoesChange { // what is listed doesn't tell its words: they differ still, and are sent again
			if err := tx.SetLines([]int64{o.ID}, map[string]any{"state": store.SendGivenUp, "words": "nobody told whether its words are there", "answered_at": &now}); err != nil {
				return err
			}
			continue
		}
		state, words := store.SendGivenUp, fmt.Sprintf(
			"it is not there as it was sent: %d are on sale at %s",
			x.Quantity,
			money.Of(x.Price, money.Currency(r.site.Currency)),
		)
		if o.Price == nil || *o.Price == x.Price {
			there := o.Quantity == nil || *o.Quantity == x.Quantity
			overtaken := false
			if !there && o.Price != nil {
				var err error
				if overtaken, err = tx.QuantityAfter(l.ID, o.ID); err != nil {
					return err
				}
			}
			if there {
				words = "read back: it is there as it was sent"
			} else if overtaken {
				words = "read back: its price is there, and its quantity was changed since"
			}
			if there || overtaken {
				state, by = store.SendConfirmed, o
			}
		}
		if err := tx.SetLines([]int64{o.ID}, map[string]any{"state": state, "words": words, "answered_at": &now}); err != nil {
			return err
		}
		r.settled++
	}
	if by == nil && l.State == store.ListingLive {
		if err := r.differs(tx, l, x); err != nil {
			return err
		}
	}
	return stops.First(tx.ConfirmAsThere(l, x.Price, x.Quantity, by, now), tx.DirtyListings(now, []int64{l.ID}))
}

// differs writes down that a listing was changed there: another price, or more
// of it than was confirmed. Fewer are what was sold.
func (r *reading) differs(tx store.Tx, l *store.Listing, x *place.Listing) error {
	if l.ConfirmedPrice == nil || *l.ConfirmedPrice == x.Price && x.Quantity <= l.ConfirmedQuantity {
		return nil
	}
	return tx.PutDifference(&store.Difference{SiteID: r.site.ID, ListingID: l.ID, Kind: store.DifferChanged, OurPrice: l.ConfirmedPrice,
		OurQuantity: l.ConfirmedQuantity, TheirPrice: &x.Price, TheirQuantity: x.Quantity, SeenAt: r.stop.Now(), State: store.DifferOpen})
}

// end settles what was not among what is on sale there.
func (r *reading) end(tx store.Tx) error {
	ids, err := tx.ListingsThere(r.site.ID)
	if err != nil {
		return err
	}
	var missing []int64
	for _, id := range ids {
		if !r.seen[id] {
			missing = append(missing, id)
		}
	}
	open, err := openLines(tx, missing)
	if err != nil {
		return err
	}
	for _, id := range missing {
		if err := r.missing(tx, id, open[id]); err != nil {
			return err
		}
	}
	tx.Changed("listings", "sendouts", "counts")
	return stops.First(tx.PutUntied(r.site.ID, r.untied), tx.DirtyListings(r.stop.Now(), missing))
}

// missing is a listing that is not on sale there. One that was confirmed must
// be missing twice before it is believed: a marketplace may have told only half.
func (r *reading) missing(tx store.Tx, id int64, open []store.OpenLine) error {
	l, err := store.GetTx[store.Listing](tx, id)
	if err != nil {
		return err
	}
	if l.ConfirmedAt != nil && l.ConfirmedAt.After(r.began) {
		return nil
	}
	was, lost, now := store.ListingReady, []int64(nil), r.stop.Now()
	for _, o := range open {
		switch {
		case o.State == store.SendUnknown:
			lost = append(lost, o.ID)
			if o.PlanLineID == nil && o.Does != store.DoesChange {
				was = o.Was
			}
		case !o.Surely():
			return nil
		}
	}
	r.settled += int64(len(lost))
	if err := tx.SetLines(
		lost,
		map[string]any{"state": store.SendGivenUp, "words": "it was not among what is on sale there", "answered_at": &now},
	); err != nil {
		return err
	}
	if l.ConfirmedAt != nil && l.ConfirmedQuantity == 0 && lost == nil {
		return nil // a marketplace need not show what it has none of
	}
	if l.ConfirmedAt != nil && l.State != store.ListingUnknown {
		return stops.First(tx.MarkListings([]int64{id}, store.ListingUnknown), tx.ReadAt(r.site.ID, now.Add(10*time.Minute)))
	}
	if l.ConfirmedAt != nil {
		kind := store.DifferEnded
		if l.SeenAt == nil {
			kind = store.DifferNever
		}
		if err := tx.PutDifference(&store.Difference{SiteID: r.site.ID, ListingID: id, Kind: kind, OurPrice: l.ConfirmedPrice,
			OurQuantity: l.ConfirmedQuantity, SeenAt: now, State: store.DifferOpen}); err != nil {
			return err
		}
	}
	return tx.Unconfirm(id, was)
}

func openLines(tx store.Tx, ids []int64) (map[int64][]store.OpenLine, error) {
	list, err := tx.OpenLines(ids)
	out := map[int64][]store.OpenLine{}
	for _, x := range list {
		out[x.ListingID] = append(out[x.ListingID], x)
	}
	return out, err
}

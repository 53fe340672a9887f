package sending

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// doSend hands a send-out over; what becomes of it is followed by a run of its
// own. Killed anywhere, it goes on: the batch and each line carry keys that the
// marketplace knows.
func (st *Stop) doSend(ctx context.Context, t *work.Task) error {
	o, err := store.Get[store.SendOut](ctx, st.Store, t.Subject)
	if err != nil || o.State != store.SendWaiting {
		return err
	}
	if o.Paused {
		t.Note = "it is held; it goes on when it is let go"
		return nil
	}
	site, err := st.Store.SiteOf(ctx, o.SiteID)
	if err != nil {
		return err
	}
	outlet, err := st.outlet(site)
	if err != nil {
		return err
	}
	h := handing{perhaps: o.Perhaps}
	if err := st.upload(ctx, &o, &site); err != nil {
		return st.stuck(ctx, &o, &h, err)
	}
	stopped := false
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		if stopped = stops.Stopped(tx) != nil; stopped {
			return nil
		}
		return st.prepare(tx, &o, site, &h)
	}); err != nil {
		return fmt.Errorf("making a send-out ready: %w", err)
	}
	if stopped {
		t.Note = site.Name + ": everything is stopped; it goes on when the stop is lifted"
		return nil
	}
	if len(h.lines) == 0 {
		t.Note = fmt.Sprintf("%s: nothing of it may go any more; it is worked out again", site.Name)
		return nil
	}
	t.At(0, int64(len(h.lines)))
	b, err := outlet.HandOver(ctx, site.Code, o.Key, h.lines)
	if err != nil {
		return st.stuck(ctx, &o, &h, err)
	}
	t.At(int64(len(h.lines)), int64(len(h.lines)))
	t.Note = fmt.Sprintf("%s: %s handed over", site.Name, stops.Plural(int64(len(h.lines)), "line", "lines"))
	return st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		now := st.Now()
		overdue := now.Add(time.Duration(max(site.BatchHours, patience(&site))) * time.Hour)
		tx.Changed("sendouts")
		if err := stops.First(
			tx.Update(
				&o,
				map[string]any{
					"batch":      b.ID,
					"state":      store.SendSent,
					"perhaps":    false,
					"sent_at":    &now,
					"overdue_at": &overdue,
					"error":      "",
				},
			),
		); err != nil {
			return err
		}
		if over, err := st.atOnce(tx, site, &o, &h, b); err != nil || over {
			return err
		}
		return st.queueFollow(tx, site.Marketplace)
	})
}

// patience is how many hours a site has for a batch at the least: where people
// upload a sheet and others look it through, that takes days.
func patience(site *store.Site) int64 {
	if site.Kind == place.KindSheet {
		return 96
	}
	return 1
}

// atOnce notes the lines of a batch as handed over and writes down what a place
// says of it as it takes it. It tells whether that was all there is to say: a
// place may be done with it at once.
func (st *Stop) atOnce(tx store.Tx, site store.Site, o *store.SendOut, h *handing, b place.Batch) (over bool, err error) {
	for i := range h.lines {
		h.outgoing[i].State = store.SendSent
	}
	news, err := st.answer(tx, site, h.outgoing, b)
	if err != nil {
		return false, err
	}
	var silent []int64 // not a word on these yet: they are asked about
	for i := range h.outgoing {
		if h.outgoing[i].State == store.SendSent {
			silent = append(silent, h.outgoing[i].ID)
		}
	}
	if news {
		tx.Changed("listings", "counts")
	}
	if len(silent) > 0 {
		return false, tx.SetLines(silent, map[string]any{"state": store.SendSent, "words": ""})
	}
	if b.State != place.BatchDone {
		return false, nil
	}
	return st.finish(tx, site, o, h.outgoing, b)
}

// handing is a send-out on its way out of the door.
type handing struct {
	perhaps bool // it may have been handed over before
	lines   []place.Line
	// outgoing are the same lines as they were read. Giving up waits for the run;
	// what is read back meanwhile is settled once more by the answer.
	outgoing []store.OutgoingLine
	fresh    []int64 // of them, those that surely weren't handed over before
}

// prepare looks at each line once more before it goes: by what the supplier has
// and costs at this moment. What may not go any more is taken back, or, where it
// may have been handed over before, left to what is read back. That it may have
// been handed over is written down before it is.
func (st *Stop) prepare(tx store.Tx, o *store.SendOut, site store.Site, h *handing) error {
	lines, err := tx.Outgoing(o.ID)
	if err != nil {
		return err
	}
	figures, book, err := st.figures(tx, site, lines)
	if err != nil {
		return err
	}
	overtaken, err := tx.Overtaken(o.ID)
	if err != nil {
		return err
	}
	contents, err := st.contents(tx, &site, lines, figures)
	if err != nil {
		return err
	}
	without, err := missing(tx, &site, contents)
	if err != nil {
		return err
	}
	now, quotes, whole := st.Now(), map[int64]string{}, map[int64]string{}
	var lost, back []store.OutgoingLine
	for i := range lines {
		l := &lines[i]
		if l.State != store.SendWaiting {
			continue
		}
		before := o.Perhaps && l.Handed
		f := figures[l.ListingID]
		why := "its product has no supplier any more"
		if f != nil {
			why = book.Forbids(f, &l.SendLine)
		}
		if overtaken[l.ID] {
			why = "a newer change overtook it"
		}
		new, making := contents[l.ListingID]
		if why == "" {
			why = new.why
		}
		if why == "" && slices.ContainsFunc(new.pictures(), func(d string) bool { return slices.Contains(without, d) }) {
			why = "its pictures were changed a moment ago"
		}
		switch {
		case why != "" && before:
			lost = append(lost, *l)
		case why != "":
			l.Words = why
			back = append(back, *l)
		default:
			quotes[l.ID] = quoteOf(book, f, &l.SendLine)
			line := place.Line{Key: l.Key, SKU: l.SKU, Entry: l.EntryRef, Price: l.Price, Quantity: l.Quantity}
			if making {
				line.Do, line.Content, line.Cleared = new.does, new.says, new.cleared
				whole[l.ID] = string(new.whole)
			}
			h.lines = append(h.lines, line)
			h.outgoing = append(h.outgoing, *l)
			if !before {
				h.fresh = append(h.fresh, l.ID)
			}
		}
	}
	if err := stops.First(tx.PutHanded(quotes, now), tx.PutContents(whole)); err != nil {
		return err
	}
	if err := stops.First(st.keepBody(tx, o, site, h), st.withdraw(tx, back)); err != nil {
		return err
	}
	if err := st.unknown(tx, o.SiteID, lost, "perhaps handed over, and not again: something changed since"); err != nil {
		return err
	}
	if len(lost)+len(back) > 0 {
		tx.Changed("sendouts", "listings", "counts")
	}
	columns := map[string]any{"perhaps": true, "tries": o.Tries + 1, "error": "", "again_at": nil}
	if len(lost) > 0 { // it is no longer the batch that its key may stand for
		o.Key = rand.Text()
		columns["key"] = o.Key
	}
	if len(h.lines) == 0 {
		columns = map[string]any{"state": store.SendDone, "done_at": &now, "perhaps": false}
	}
	return tx.Update(o, columns)
}

// withdraw takes lines back that were never handed over.
func (st *Stop) withdraw(tx store.Tx, lines []store.OutgoingLine) error {
	var ids []int64
	for i := range lines {
		x := store.OpenLine{SendLine: lines[i].SendLine}
		if err := reckon.Withdraw(tx, st.Now(), &x, "taken back before it was handed over: "+lines[i].Words); err != nil {
			return err
		}
		ids = append(ids, x.ListingID)
	}
	return tx.DirtyListings(st.Now(), ids)
}

// figures works out the listings of some lines, as of this moment.
func (st *Stop) figures(tx store.Tx, site store.Site, lines []store.OutgoingLine) (map[int64]*reckon.Figures, *reckon.Book, error) {
	book, err := reckon.Open(tx, site, st.Now())
	if err != nil {
		return nil, nil, err
	}
	ids := make([]int64, len(lines))
	for i := range lines {
		ids[i] = lines[i].ListingID
	}
	out, err := book.FiguresOf(tx, ids, st.Now())
	return out, book, err
}

// quoteOf are the lines of the price that is handed over, at the landed cost it
// was worked out from; "" where no price is.
func quoteOf(b *reckon.Book, f *reckon.Figures, l *store.SendLine) string {
	if l.Price == nil {
		return ""
	}
	lines, _, ok := b.Lines(f, *l.Price, l.Landed)
	if !ok {
		return ""
	}
	text, err := json.Marshal(lines)
	if err != nil {
		return ""
	}
	return string(text)
}

// againAt is from when on a send-out is tried again by itself, where its
// marketplace may take it later: after pauses that grow from half a minute to an
// hour, each a little other than the last, so that many don't come at once. A no
// to all of it is for a person.
func (st *Stop) againAt(o *store.SendOut, why error) *time.Time {
	var u *place.Unreachable
	if !errors.As(why, &u) {
		return nil
	}
	pause := max(min(30*time.Second<<min(o.Tries, 7), time.Hour), u.After)
	at := st.Now().Add(pause + pause*time.Duration(o.ID%5)/20)
	return &at
}

// stuck notes why a send-out does not move, so that a person can decide. What
// the marketplace surely never got is as if it had never been tried.
func (st *Stop) stuck(ctx context.Context, o *store.SendOut, h *handing, why error) error {
	perhaps := place.Perhaps(why)
	words := why.Error()
	if ctx.Err() != nil && !perhaps {
		words = "stopped before it was handed over"
	}
	err := st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		tx.Changed("sendouts", "counts")
		if !perhaps {
			if err := tx.SetLines(h.fresh, map[string]any{"handed_at": nil}); err != nil {
				return err
			}
		}
		var listings []int64
		lines, err := tx.Outgoing(o.ID)
		if err != nil {
			return err
		}
		for _, l := range lines {
			listings = append(listings, l.ListingID)
		}
		// Its listings are worked out again: what must not wait goes past it.
		return stops.First(tx.Update(o, map[string]any{"error": words, "perhaps": perhaps || h.perhaps, "again_at": st.againAt(o, why)}),
			tx.DirtyListings(st.Now(), listings))
	})
	return stops.First(err, why)
}

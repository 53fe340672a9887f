package sending

import (
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// longestPoll is the longest pause between two looks at a batch.
const longestPoll = 30 * time.Second

// doFollow asks a marketplace once about each batch it was handed and has not
// answered whole, and is done again while there are some.
func (st *Stop) doFollow(ctx context.Context, t *work.Task) error {
	m, err := store.Get[store.Marketplace](ctx, st.Store, t.Subject)
	if err != nil {
		return err
	}
	outlet := st.Places(m).Outlet
	list, err := st.Store.FollowedSendOuts(ctx, m.ID)
	if err != nil {
		return err
	}
	open, resting, told := 0, 0, false
	for i := range list {
		o := &list[i]
		site, err := st.Store.SiteOf(ctx, o.SiteID)
		if err != nil {
			return err
		}
		b, err := outlet.Follow(ctx, site.Code, o.Batch)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		over, news, err := st.followed(ctx, site, o, b, err)
		if err != nil {
			return err
		}
		told = told || news
		switch {
		case over:
		case b.State == place.BatchResting:
			resting++ // until somebody does something there
		default:
			open++
		}
		t.At(int64(i+1), int64(len(list)))
	}
	if open == 0 {
		t.Note = m.Name + " has answered all it was handed"
		if resting > 0 {
			t.Note = fmt.Sprintf("%s of %s wait for what you do there", stops.Plural(int64(resting), "filled sheet", "filled sheets"), m.Name)
		}
		return nil
	}
	if t.Tries++; told {
		t.Tries = 0
	}
	t.Note = fmt.Sprintf("%s is at work on %s", m.Name, stops.Plural(int64(open), "batch", "batches"))
	pause := time.Duration(float64(st.Poll) * math.Pow(1.5, float64(min(t.Tries, 20))))
	return work.Again(min(pause, longestPoll))
}

// followed writes down what a marketplace says of a batch, or that it doesn't.
// It tells whether the batch is over, and whether there was anything new.
func (st *Stop) followed(ctx context.Context, site store.Site, o *store.SendOut, b place.Batch, why error) (over, news bool, err error) {
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		lines, err := tx.Outgoing(o.ID)
		if err != nil {
			return err
		}
		switch {
		case place.Forgotten(why):
			over, news = true, true
			return st.forget(tx, site, o, lines, why.Error())
		case why != nil:
			if why.Error() == o.Error {
				return nil
			}
			tx.Changed("sendouts", "counts")
			return tx.Update(o, map[string]any{"error": why.Error()})
		}
		if news, err = st.answer(tx, site, lines, b); err != nil {
			return err
		}
		if b.State == place.BatchDone {
			if over, err = st.finish(tx, site, o, lines, b); err != nil {
				return err
			}
		}
		if o.Error != "" && !over {
			err = tx.Update(o, map[string]any{"error": ""})
		}
		if news || over {
			tx.Changed("sendouts", "listings", "counts")
		}
		return err
	})
	return over, news || over, err
}

// forget ends a batch that its marketplace knows nothing of any more.
func (st *Stop) forget(tx store.Tx, site store.Site, o *store.SendOut, lines []store.OutgoingLine, why string) error {
	var lost []store.OutgoingLine
	for _, l := range lines {
		if l.State == store.SendSent {
			lost = append(lost, l)
		}
	}
	now := st.Now()
	tx.Changed("sendouts", "listings", "counts")
	return stops.First(
		st.unknown(tx, site.ID, lost, "the batch is no longer known there"),
		tx.Update(o, map[string]any{"state": store.SendDone, "done_at": &now, "error": why}),
		tx.Note(now, "send-out forgotten", site.Name, why),
	)
}

// outcomes are what a marketplace says of lines, by their keys. Of one of which
// it says yes and no at once nothing is believed: what is on sale is read back.
// Keys that we never sent are none of ours.
func outcomes(b place.Batch) map[string]place.Outcome {
	said, torn := map[string]place.Outcome{}, map[string]bool{}
	for _, x := range b.Lines {
		was, twice := said[x.Key]
		torn[x.Key] = torn[x.Key] || twice && was.State != x.State
		said[x.Key] = x
	}
	for key, is := range torn {
		if is {
			delete(said, key)
		}
	}
	return said
}

// answer writes down what the marketplace says of lines, and tells whether any
// of it is new. What is said twice counts once; what contradicts an earlier
// word is kept beside it, and what is on sale is read back.
func (st *Stop) answer(tx store.Tx, site store.Site, lines []store.OutgoingLine, b place.Batch) (bool, error) {
	said := outcomes(b)
	news := false
	var settled []store.Said
	var listings, worded []int64
	for i := range lines {
		l := &lines[i]
		x, ok := said[l.Key]
		if !ok || x.State != place.Confirmed && x.State != place.Refused {
			continue // no word, or one that we don't know: it stays open
		}
		words := stops.Clip(x.Words, 1000)
		switch {
		case l.State == store.SendSent || l.State == store.SendUnknown:
			if x.State == place.Confirmed {
				words = ""
			}
			settled, listings = append(
				settled,
				store.Said{ID: l.ID, State: x.State, Words: words, Field: stops.Clip(x.Field, 100)},
			), append(
				listings,
				l.ListingID,
			)
			if l.State, news = x.State, true; l.Does == store.DoesChange {
				worded = append(worded, l.ListingID)
			}
			if x.State == place.Confirmed && l.EntryRef == "" && !reckon.NeedsContent(&site) { // it has an entry of its own there now
				if err := st.queueRead(tx, site); err != nil {
					return news, err
				}
			}
			if x.State == place.Refused && strings.HasPrefix(x.Field, reckon.PicturesField) { // perhaps it hasn't got one any more
				if err := tx.ForgetUploads(site.MarketplaceID); err != nil {
					return news, err
				}
			}
		case l.State != x.State && l.Later == "" && (l.State == store.SendConfirmed || l.State == store.SendRefused):
			l.Later = x.State + ": " + words
			if err := stops.First(tx.SetLines([]int64{l.ID}, map[string]any{"later": l.Later}), st.queueRead(tx, site)); err != nil {
				return news, err
			}
			news = true
		}
	}
	if settled == nil {
		return news, nil
	}
	now := st.Now()
	return news, stops.First(tx.PutAnswers(settled, now), tx.DirtyUnsettled(now, listings), tx.DirtyListings(now, worded))
}

// finish ends a batch that the marketplace says is done. Of lines it had no
// word for, nobody told what became; while it has one that we don't know, the
// batch stays open.
func (st *Stop) finish(tx store.Tx, site store.Site, o *store.SendOut, lines []store.OutgoingLine, b place.Batch) (bool, error) {
	said := outcomes(b)
	var lost []store.OutgoingLine
	open := false
	for _, l := range lines {
		if l.State != store.SendSent {
			continue
		}
		if _, ok := said[l.Key]; ok {
			open = true
		} else {
			lost = append(lost, l)
		}
	}
	if err := st.unknown(tx, site.ID, lost, "the marketplace ended the batch without a word on this line"); err != nil || open {
		return false, err
	}
	now := st.Now()
	if err := tx.Update(o, map[string]any{"state": store.SendDone, "done_at": &now, "error": ""}); err != nil {
		return false, err
	}
	row, err := tx.SendOutRowOf(o.ID)
	if err != nil {
		return false, err
	}
	words := fmt.Sprintf("%d confirmed, %d refused", row.Confirmed, row.Refused)
	if row.Unknown > 0 {
		words += fmt.Sprintf(", %d without a word", row.Unknown)
	}
	tx.Changed("plan")
	return true, tx.Note(now, "send-out answered", site.Name, words)
}

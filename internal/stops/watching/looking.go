package watching

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"easymargin/core/money"
	"easymargin/core/sieve"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// lookEvery is how often it is looked whether watches hold, where anything changed.
const lookEvery = time.Minute

// looksAtOnce is how many listings are looked at in one part.
const looksAtOnce = 20_000

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(store.RunWatch, st.doWatch)
	q.Handle(store.RunMail, st.doMail)
}

// Resume has the ready-made watches there, and mail sent that waits.
func (st *Stop) Resume(ctx context.Context) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		have, err := tx.Watches()
		if err != nil {
			return err
		}
		known := map[string]bool{}
		for _, w := range have {
			known[w.Ready] = true
		}
		for _, r := range readyMade {
			if known[r.ready] {
				continue
			}
			w := store.Watch{Name: r.name, Ready: r.ready, Active: true}
			if err := tx.Create(&w); err != nil {
				return err
			}
			if r.off {
				if err := tx.Update(&w, map[string]any{"active": false}); err != nil {
					return err
				}
			}
		}
		return queueMail(tx, st.Now())
	})
}

// Round has watches looked at when their time has come.
func (st *Stop) Round(ctx context.Context) error {
	if !st.looked.After(lookEvery, st.Now()) {
		return nil
	}
	return st.Store.Do(ctx, func(tx store.Tx) error { return queueWatch(tx, st.Now()) })
}

func queueWatch(tx store.Tx, now time.Time) error {
	return tx.Queue(&store.Run{Kind: store.RunWatch, Lane: store.RunWatch, Title: "Looking at what is watched", Once: true, CreatedAt: now})
}

// doWatch looks at every watch, and has one mail tell of all that set one off.
func (st *Stop) doWatch(ctx context.Context, t *work.Task) error {
	moment, err := st.Store.Moment(ctx)
	if err != nil {
		return err
	}
	list, err := st.Store.Reading(ctx).Watches()
	if err != nil {
		return err
	}
	moved := moment != st.moment
	hits := 0
	var wrong error // of watches that can't be looked at: the others are
	for i := range list {
		w := &list[i]
		// Time alone sets off only what looks at time; the rest waits until something changed.
		if !w.Active || !moved && w.LookedAt != nil && w.Number != "feed age" && w.Ready != "rate" {
			continue
		}
		n, err := st.look(ctx, w)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			wrong = errors.Join(wrong, fmt.Errorf("the watch %s: %w", w.Name, err))
		}
		hits += n
		t.At(int64(i+1), int64(len(list)))
	}
	if wrong == nil {
		st.moment = moment // else all that may have changed is looked at again
	}
	t.Note = reckon.Plural(int64(len(list)), "watch looked at", "watches looked at") + ", " + reckon.Plural(int64(hits), "was set off", "were set off")
	return errors.Join(wrong, st.Store.Do(ctx, func(tx store.Tx) error { return st.tell(tx) }))
}

// look looks at one watch, part by part, and tells how often it was set off.
func (st *Stop) look(ctx context.Context, w *store.Watch) (int, error) {
	if w.Ready != "" {
		return st.lookReady(ctx, w)
	}
	var tests sieve.Tests
	if w.SieveID != nil && w.SiteID != nil {
		var err error
		if tests, err = st.sieveOf(ctx, *w.SieveID, *w.SiteID); err != nil {
			return 0, err
		}
	}
	hits := 0
	for after := int64(0); ; {
		part, err := st.Store.WatchedPart(ctx, w, tests, st.Now(), after, looksAtOnce)
		if err != nil {
			return hits, err
		}
		if len(part) == 0 {
			break
		}
		after = part[len(part)-1].ListingID
		seen := judge(w, part)
		if err := st.keep(ctx, w, &seen); err != nil {
			return hits, err
		}
		hits += len(seen.hits)
		if len(part) < looksAtOnce {
			break
		}
	}
	return hits, st.lookedAt(ctx, w, hits > 0)
}

func (st *Stop) sieveOf(ctx context.Context, id, siteID int64) (sieve.Tests, error) {
	row, err := st.Store.Reading(ctx).SieveOf(id)
	if err != nil {
		return nil, err
	}
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	s, err := sieve.Read(row.Text)
	if err != nil {
		return nil, err
	}
	return s.Ready(store.WeighColumns, money.Currency(site.Currency))
}

// seen is what a look brought: values to keep, and what set the watch off.
type seen struct {
	values []store.WatchValue
	gone   []string
	hits   []store.WatchHit
}

// judge says of numbers whether a watch holds for them, and which of them set it
// off: those it held for now and not at the last look. The first look of a thing
// sets nothing off.
func judge(w *store.Watch, part []store.Watched) (out seen) {
	for i := range part {
		x := &part[i]
		holds := x.Value != nil && met(w, x.Before, *x.Value)
		same := x.Known && x.Held == holds && (x.Value == x.Before || x.Value != nil && x.Before != nil && *x.Value == *x.Before)
		if same {
			continue
		}
		out.values = append(out.values, store.WatchValue{WatchID: w.ID, Key: strconv.FormatInt(x.ListingID, 10), Value: x.Value, Holds: holds})
		if holds && x.Known && (w.Test == "moved" || !x.Held) {
			currency := ""
			if n, _ := numberOf(w.Number); n.kind == sieve.Amount {
				currency = x.Currency
			}
			out.hits = append(out.hits, store.WatchHit{WatchID: w.ID, ListingID: &x.ListingID, Words: x.Title + " on " + x.Site,
				Link: fmt.Sprintf("/watch/listings/%d", x.ListingID), Currency: currency, Before: x.Before, After: x.Value})
		}
	}
	return out
}

// met tells whether a number meets the condition.
func met(w *store.Watch, before *int64, now int64) bool {
	switch w.Test {
	case "below":
		return now < w.Value
	case "above":
		return now > w.Value
	}
	if before == nil || *before == now {
		return false
	}
	return money.Compare(max(now-*before, *before-now), max(*before, -*before), money.Rate(w.Value)) > 0
}

// lookReady looks at a ready-made watch: what holds now and didn't before sets it off.
func (st *Stop) lookReady(ctx context.Context, w *store.Watch) (int, error) {
	things, err := st.readyThings(ctx, w.Ready)
	if err != nil {
		return 0, err
	}
	known, err := st.Store.Reading(ctx).WatchValues(w.ID)
	if err != nil {
		return 0, err
	}
	var s seen
	for i := range things {
		x := &things[i]
		if _, ok := known[x.Key]; ok {
			delete(known, x.Key)
			continue
		}
		s.values = append(s.values, store.WatchValue{WatchID: w.ID, Key: x.Key, Value: x.Value, Holds: true})
		if w.LookedAt != nil {
			s.hits = append(s.hits, store.WatchHit{WatchID: w.ID, ListingID: x.ListingID, Words: x.Words, Link: x.Link, Currency: x.Currency, After: x.Value})
		}
	}
	for key := range known {
		s.gone = append(s.gone, key)
	}
	if err := st.keep(ctx, w, &s); err != nil {
		return 0, err
	}
	return len(s.hits), st.lookedAt(ctx, w, len(s.hits) > 0)
}

// readyThings are what sets off a ready-made watch now.
func (st *Stop) readyThings(ctx context.Context, ready string) ([]store.ReadyThing, error) {
	if ready != "rate" {
		return st.Store.ReadyThings(ctx, ready, st.Now())
	}
	rates, err := st.Store.Reading(ctx).Rates()
	var out []store.ReadyThing
	for _, r := range rates {
		if words := reckon.StaleRate(r.From, r.Day, st.Now()); words != "" {
			out = append(out, store.ReadyThing{Key: r.From + r.To + r.Day, Words: words, Link: "/price?tab=terms"})
		}
	}
	return out, err
}

// keep keeps what a look brought. While a watch is quiet nothing is said.
func (st *Stop) keep(ctx context.Context, w *store.Watch, s *seen) error {
	now := st.Now()
	if w.QuietUntil != nil && now.Before(*w.QuietUntil) {
		s.hits = nil
	}
	if w.Once && len(s.hits) > 1 {
		s.hits = s.hits[:1]
	}
	if len(s.values)+len(s.gone)+len(s.hits) == 0 {
		return nil
	}
	for i := range s.hits {
		s.hits[i].At = now
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := stops.First(tx.PutWatchValues(s.values), tx.DropWatchValues(w.ID, s.gone)); err != nil || len(s.hits) == 0 {
			return err
		}
		tx.Changed("watches", "counts")
		return tx.CreateAll(s.hits)
	})
}

// lookedAt notes that a watch was looked at, and whether it was set off.
func (st *Stop) lookedAt(ctx context.Context, w *store.Watch, fired bool) error {
	now := st.Now()
	columns := map[string]any{"looked_at": &now}
	if fired {
		columns["fired_at"] = &now
		if w.Once {
			columns["active"] = false
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Watch{ID: w.ID}, columns) })
}

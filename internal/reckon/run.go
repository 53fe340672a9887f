package reckon

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"easymargin/internal/fault"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Reckoner works out the listings that something changed for.
type Reckoner struct {
	Store *store.Store
	Now   func() time.Time
}

// How many listings are worked out in one transaction: few at first, so that
// what must not wait is soon in the plan; and many after that, a part at a time
// until somebody waits to write, so that each page of an index is written once
// for many of them.
const (
	atFirst = 500
	atOnce  = 4000
	most    = 60_000
)

// wide is from how many dirty listings on so much is touched that it is kept in memory.
const wide = 50_000

// together is how long few dirty listings wait for more, while a look-up finds them.
const together = 150 * time.Millisecond

// tellEvery is how often open screens are told while a run goes on.
const tellEvery = time.Second

// Do works out the dirty listings of a site, those first whose supplier has
// none left, and puts their lines into its plan. It may be cut short anywhere:
// what is not worked out is still marked.
func (r *Reckoner) Do(ctx context.Context, t *work.Task) error {
	site, err := r.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	total, err := r.Store.CountDirty(ctx, site.ID)
	if err != nil {
		return err
	}
	// Where few wait and a look-up goes on that brings more, the first try of a
	// run lets some come together.
	if total < atFirst && t.Due == 0 && t.Tries == 0 {
		alive, err := r.Store.MatchesComing(ctx, site.ID)
		if err != nil {
			return err
		}
		if alive {
			t.Tries = 1
			return work.Again(together)
		}
	}
	if total > wide {
		narrow, err := r.Store.Widen(ctx)
		if err != nil {
			return err
		}
		defer narrow()
	}
	var sum counted
	told, size := time.Now(), atFirst
	for {
		var more bool
		err := r.Store.Do(ctx, func(tx store.Tx) error {
			if more, err = r.parts(ctx, tx, site.ID, size, &sum); err != nil {
				return err
			}
			if !more || time.Since(told) > tellEvery {
				told = time.Now()
				tx.Changed("listings", "products", "plan", "counts", "sendouts")
			}
			return nil
		})
		if err != nil {
			return fmt.Errorf("working out prices on %s: %w", site.Name, err)
		}
		t.At(sum.done, max(total, sum.done))
		if !more {
			break
		}
		size = most
	}
	t.Note = fmt.Sprintf("%s: %d of %d priced, %s", site.Name, sum.priced, sum.done, Plural(sum.lines, "change to make", "changes to make"))
	return nil
}

// All works out all dirty listings of a site, without a run: for a program that
// isn't the server.
func (r *Reckoner) All(ctx context.Context, site store.Site) error {
	var sum counted
	for more := true; more; {
		err := r.Store.Do(ctx, func(tx store.Tx) (err error) { more, err = r.parts(ctx, tx, site.ID, most, &sum); return err })
		if err != nil {
			return fmt.Errorf("working out prices on %s: %w", site.Name, err)
		}
	}
	return nil
}

type counted struct{ done, priced, lines int64 }

// readers is how many parts are worked out at once while one is written.
const readers = 2

// parts works out the next listings, a part at a time, until somebody waits to
// write or there are no more of them. While one part is written others are
// worked out, from the data as it was before the transaction: nothing of one
// listing follows from what is worked out for another.
func (r *Reckoner) parts(ctx context.Context, tx store.Tx, siteID int64, limit int, sum *counted) (more bool, err error) {
	ids, err := tx.DirtyIDs(siteID, limit)
	if err != nil || len(ids) == 0 {
		return false, err
	}
	ctx, enough := context.WithCancel(ctx)
	defer enough()
	todo, ready := make(chan []int64), make(chan part)
	var work errgroup.Group
	work.Go(func() error {
		defer close(todo)
		for some := range slices.Chunk(ids, atOnce) {
			select {
			case todo <- some:
			case <-ctx.Done():
				return nil
			}
		}
		return nil
	})
	for range min(readers, (len(ids)+atOnce-1)/atOnce) {
		work.Go(func() error {
			err := fault.Caught(func() error {
				return tx.Beside(func(then store.Tx) error { return r.ahead(ctx, then, siteID, todo, ready) })
			})
			if err != nil {
				enough()
			}
			return err
		})
	}
	ended := make(chan error, 1)
	go func() {
		ended <- work.Wait()
		close(ready)
	}()
	more = len(ids) == limit
	for p := range ready {
		if err = p.write(tx, sum); err != nil || tx.Awaited() {
			more = true
			break
		}
	}
	enough()
	for range ready { // what isn't written stays dirty
	}
	return more, errors.Join(err, <-ended)
}

package sources

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/cenkalti/backoff/v5"

	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Fetch begins fetching a source's address.
func (st *Stop) Fetch(ctx context.Context, sourceID int64) (store.Run, error) {
	var r store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		s, err := tx.SourceOf(sourceID)
		if err != nil {
			return err
		}
		if s.Address == "" {
			return fault.At("source", "%s has no address to fetch from; drop its next file instead", s.Name)
		}
		r, err = st.fetchRun(tx, s)
		return err
	})
	return r, err
}

func (st *Stop) fetchRun(tx store.Tx, s store.Source) (store.Run, error) {
	r := store.Run{
		Kind:      runFetch,
		Lane:      store.Lane(runFetch, s.ID),
		Title:     "Fetching " + s.Name,
		Subject:   s.ID,
		Once:      true,
		CreatedAt: st.Now(),
	}
	err := tx.Queue(&r)
	return r, err
}

// doFetch gets what an address serves. The first feed of a source waits for a
// person to see what was recognised; later ones are taken by themselves.
func (st *Stop) doFetch(ctx context.Context, t *work.Task) error {
	s, err := st.Store.SourceOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	in, err := st.newInboxFile()
	if err != nil {
		return err
	}
	got, err := st.fetch(ctx, s, in, t)
	if err != nil || got.Same {
		in.drop()
	}
	if err != nil {
		if ctx.Err() == nil && fault.KindOf(err) != fault.Full { // a full disk is waited for
			err = errors.Join(err, st.failedFeed(ctx, s.ID, s.Address, err))
		}
		return err
	}
	if got.Same {
		t.Note = s.Name + " has nothing new"
		return st.Store.Do(ctx, func(tx store.Tx) error {
			tx.Changed("feeds", "sources", "counts")
			return tx.Heard(&store.Feed{SourceID: &s.ID, Name: s.Address, State: store.FeedSame, ReceivedAt: st.Now()})
		})
	}
	f, err := st.keepFeed(ctx, in, Arriving{Name: s.Address, SourceID: &s.ID, etag: got.ETag, modified: got.Modified})
	if fault.KindOf(err) == fault.Full {
		return err
	}
	if err != nil {
		return errors.Join(err, st.failedFeed(ctx, s.ID, s.Address, err))
	}
	if s.TakenAt == nil {
		t.Note = fmt.Sprintf("%s: have a look at what was recognised, then take it", s.Name)
		return nil
	}
	t.Note = "fetched; taking it now"
	_, err = st.Take(ctx, f.ID, s.ID, nil, false)
	return err
}

// tries is how often an address is asked before it counts as failed.
const tries = 5

// fetch fetches a source's address, again after growing pauses while it may
// work later.
func (st *Stop) fetch(ctx context.Context, s store.Source, in *inboxFile, t *work.Task) (fetch.Fetched, error) {
	q := fetch.Request{Address: s.Address, Username: s.Username}
	if s.TakenAt != nil { // a first feed may have been discarded: it is wanted again then
		q.ETag, q.Modified = s.ETag, s.Modified
	}
	if s.Password != "" {
		var err error
		if q.Password, err = st.Store.Unseal(s.Password); err != nil {
			return fetch.Fetched{}, fault.At("password", "%v", err)
		}
	}
	grow := backoff.NewExponentialBackOff()
	grow.InitialInterval, grow.MaxInterval = st.FirstPause, 30*time.Second
	return backoff.Retry(ctx, func() (fetch.Fetched, error) {
		got, err := st.Fetcher.Get(ctx, q, in, t.At)
		if err == nil {
			return got, nil
		}
		if fault.KindOf(err) != fault.Unavailable {
			return got, backoff.Permanent(err)
		}
		return got, errors.Join(err, in.restart())
	}, backoff.WithBackOff(grow), backoff.WithMaxTries(tries), backoff.WithMaxElapsedTime(0))
}

// failedFeed writes a failure down with its source, so that its health shows it.
func (st *Stop) failedFeed(ctx context.Context, sourceID int64, name string, why error) error {
	return st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		tx.Changed("feeds", "sources", "counts")
		return tx.Create(&store.Feed{SourceID: &sourceID, Name: name, State: store.FeedFailed, Error: why.Error(), ReceivedAt: st.Now()})
	})
}

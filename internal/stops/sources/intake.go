package sources

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"easymargin/core/supply"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// doIntake reads a feed to its end and then takes all of it or nothing.
func (st *Stop) doIntake(ctx context.Context, t *work.Task) error {
	f, err := store.Get[store.Feed](ctx, st.Store, t.Subject)
	if err != nil {
		return err
	}
	switch f.State {
	case store.FeedReading:
	case store.FeedTaken: // a crash came after the feed was taken and before the run was over
		t.Note = "was taken"
		return nil
	default:
		return nil
	}
	held, err := st.takeNow(ctx, &f, t.At)
	if err != nil {
		return err
	}
	s, err := st.Store.SourceOf(ctx, *f.SourceID)
	if err != nil {
		return err
	}
	t.Note = s.Name + ": " + came(&f)
	if held != nil {
		t.Note = fmt.Sprintf("%s is held: %s", s.Name, held[0].Words)
	}
	return nil
}

// came is what came of a feed, in words.
func came(f *store.Feed) string {
	return fmt.Sprintf("%d new, %d changed, %d same, %d set aside, %d gone", f.New, f.Changed, f.Same, f.SetAside, f.Gone)
}

// takeNow takes a feed whose source is known, or holds it and says why. What
// became of it is written down with it, whatever that is.
func (st *Stop) takeNow(ctx context.Context, f *store.Feed, at func(done, total int64)) ([]supply.Hold, error) {
	s, err := st.Store.SourceOf(ctx, *f.SourceID)
	if err != nil {
		return nil, err
	}
	held, err := st.take(ctx, at, f, &s)
	if err == nil {
		return held, nil
	}
	if fault.KindOf(err) == fault.Full && ctx.Err() == nil { // it is taken once there is room
		return nil, err
	}
	columns := map[string]any{"state": store.FeedFailed, "error": err.Error()}
	if ctx.Err() != nil {
		columns, err = map[string]any{"state": store.FeedLooked}, ctx.Err()
	}
	return nil, errors.Join(err, st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		tx.Changed("feeds", "sources", "counts")
		return tx.EndReading(f.ID, columns)
	}))
}

// take does the reading and taking; it returns why the feed is held, if it is.
func (st *Stop) take(ctx context.Context, at func(done, total int64), f *store.Feed, s *store.Source) ([]supply.Hold, error) {
	reading, err := st.readingOf(ctx, s, f.Name, f.PartOf)
	if err != nil {
		return nil, err
	}
	readAs := digest(reading)
	if same, err := st.sameAgain(ctx, f, s, readAs); same || err != nil {
		return nil, err
	}
	if info, err := os.Stat(st.Store.Inbox(f.File)); err != nil || info.Size() != f.Bytes {
		return nil, fault.New(fault.Conflict, "the file of this feed is no longer whole in the inbox; discard it and bring it in again")
	}
	file := st.opened.take(f.File)
	if file == nil {
		if file, err = feed.Open(st.Store.Inbox(f.File), reading); err != nil {
			return nil, err
		}
	}
	if f.PartOf == nil && s.Mode == "full" { // an update may leave columns out
		if vanished := missingColumns(s, file.Look()); vanished != "" {
			held := []supply.Hold{
				{Guard: "columns", Words: "the file no longer has the column " + vanished + " that this source is read by"},
			}
			return held, st.hold(ctx, s, f, supply.Figures{LastRows: s.LastRows}, nil, held)
		}
	}
	guards, err := s.SupplyGuards()
	if err != nil {
		return nil, err
	}
	in, err := st.Store.BeginIntake(ctx, *f, *s, file.Look().Rows)
	if err != nil {
		return nil, err
	}
	err = st.pour(ctx, at, file, reading, in, f)
	var fig supply.Figures
	if err == nil {
		fig, err = in.Finish(guards.MissingGone)
	}
	if err != nil {
		return nil, errors.Join(err, in.Rollback())
	}
	full := s.Mode == "full" && f.PartOf == nil
	if held := guards.Check(fig, full); len(held) > 0 && f.PartOf == nil && (!f.Once || fig.Rows == 0) {
		if err := in.Rollback(); err != nil {
			return nil, err
		}
		return held, st.hold(ctx, s, f, fig, in.Aside(), held)
	}
	look, err := json.Marshal(file.Look()) // under the settings it was read with
	if err != nil {
		return nil, errors.Join(err, in.Rollback())
	}
	now := st.Now()
	f.State, f.TakenAt, f.ReadAs, f.Look = store.FeedTaken, &now, readAs, string(look)
	f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone = fig.Rows, fig.New, fig.Changed, fig.Same, fig.SetAside, fig.Gone
	if s.TakenAt = &now; f.PartOf == nil {
		s.LastFeedID, s.Needed = &f.ID, usedColumns(file.Look())
		if full {
			s.LastRows = fig.Rows
		}
	} else {
		s.LastFeedID = nil // the data are no longer as that feed left them
	}
	return nil, in.Commit(ctx, now, *f, *s, func(tx store.Tx) error { return st.taken(tx, f, s) })
}

// taken is what follows from a feed that is taken, in the same transaction:
// what is new is made findable and looked up on every site we list on.
func (st *Stop) taken(tx store.Tx, f *store.Feed, s *store.Source) error {
	tx.Changed("feeds", "sources", "counts", "products")
	index := store.Run{Kind: runIndex, Lane: runIndex, Title: "Making new products findable", Once: true, CreatedAt: st.Now()}
	if err := tx.Queue(&index); err != nil {
		return err
	}
	seconds := stops.SecondsRun(st.Now())
	if err := tx.Queue(&seconds); err != nil {
		return err
	}
	sites, err := tx.Sites()
	if err != nil {
		return err
	}
	if err := stops.First(stops.LookUp(tx, sites, st.Now()), st.fulfil(tx, f, s)); err != nil {
		return err
	}
	return tx.Note(st.Now(), "feed taken", s.Name, came(f))
}

// pour reads a file and puts its rows, the reading a step ahead of the writing.
func (st *Stop) pour(
	ctx context.Context,
	at func(done, total int64),
	file *feed.File,
	reading feed.Settings,
	in *store.Intake,
	f *store.Feed,
) error {
	type part struct {
		rows  []*feed.Row
		cells [][]string // of rows set aside, in their order; for the others nil
	}
	total := file.Look().Rows // before the reader surveys it anew, perhaps
	parts, readErr := make(chan part, 8), make(chan error, 1)
	stop := make(chan struct{})
	go func() {
		defer close(parts)
		var now part
		flush := func() error {
			select {
			case parts <- now:
			case <-stop:
				return context.Canceled
			}
			now = part{}
			return nil
		}
		take := func(r *feed.Row) error {
			now.rows = append(now.rows, r)
			if len(r.Problems) > 0 || reading.Update {
				now.cells = append(now.cells, r.Cells())
			} else {
				now.cells = append(now.cells, nil)
			}
			if len(now.rows) < 256 {
				return nil
			}
			return flush()
		}
		err := fault.Caught(func() error { return file.Read(reading, take) })
		if err == nil && len(now.rows) > 0 {
			err = flush()
		}
		readErr <- err
	}()
	done := int64(0)
	write := func() error {
		for p := range parts {
			for i, r := range p.rows {
				f.Warnings += int64(len(r.Warnings))
				var err error
				switch {
				case len(r.Problems) > 0:
					err = in.SetAside(r.Number, r.Product.Ref, p.cells[i], r.Problems)
				case r.Repeat:
					in.Repeat()
				default:
					err = in.Put(r.Number, &r.Product, func() []string { return p.cells[i] })
				}
				if err != nil {
					return err
				}
			}
			if done += int64(len(p.rows)); ctx.Err() != nil {
				return ctx.Err()
			}
			at(done, max(total, done))
		}
		return nil
	}
	err := write()
	close(stop)
	for range parts { // let the reader go
	}
	if e := <-readErr; err == nil {
		err = e
	}
	return err
}

// sameAgain takes a file at once that the source took last, to the byte, and
// that would be read the same way.
func (st *Stop) sameAgain(ctx context.Context, f *store.Feed, s *store.Source, readAs string) (bool, error) {
	if f.PartOf != nil {
		return false, nil
	}
	last, same, err := st.lastLike(ctx, s, f.Digest, readAs)
	if err != nil || !same {
		return false, err
	}
	away, err := st.Store.CountMissing(ctx, s.ID)
	if err != nil || away > 0 { // products on their way to gone have one feed more to be missing from
		return false, err
	}
	return true, st.Store.SameAgain(ctx, st.Now(), f, &last, func(tx store.Tx) error { return st.taken(tx, f, s) })
}

// hold writes down why a feed waits, with the figures, and nothing else of it.
func (st *Stop) hold(
	ctx context.Context,
	s *store.Source,
	f *store.Feed,
	fig supply.Figures,
	aside []store.SetAside,
	held []supply.Hold,
) error {
	words, err := json.Marshal(held)
	if err != nil {
		return err
	}
	f.State = store.FeedHeld
	f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone = fig.Rows, fig.New, fig.Changed, fig.Same, fig.SetAside, fig.Gone
	return st.Store.Do(ctx, func(tx store.Tx) error {
		err := tx.KeepHeld(f.ID, aside, map[string]any{"state": store.FeedHeld, "held_for": string(words), "rows": fig.Rows, "new": fig.New,
			"changed": fig.Changed, "same": fig.Same, "set_aside": fig.SetAside, "gone": fig.Gone, "warnings": f.Warnings})
		if err != nil {
			return err
		}
		tx.Changed("feeds", "sources", "counts")
		return tx.Note(st.Now(), "feed held", s.Name, held[0].Words)
	})
}

// doIndex makes what was taken findable.
func (st *Stop) doIndex(ctx context.Context, t *work.Task) error {
	if err := st.Store.IndexSearch(ctx, func(done int64) { t.At(done, 0) }); err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error { tx.Changed("finds"); return nil })
}

// Taken is what `easymargin intake` says of a file: docs/definitions/supply.md, section 8.
type Taken struct {
	Feed     int64         `json:"feed"`
	State    string        `json:"state"`
	Rows     int64         `json:"rows"`
	New      int64         `json:"new"`
	Changed  int64         `json:"changed"`
	Same     int64         `json:"same"`
	SetAside int64         `json:"set_aside"`
	Gone     int64         `json:"gone"`
	HeldFor  []supply.Hold `json:"held_for"`
	Seconds  float64       `json:"seconds"`
}

// takeInto takes a feed into its source at once; once lets it through whatever
// a guard says.
func (st *Stop) takeInto(ctx context.Context, f *store.Feed, s *store.Source, once bool) ([]supply.Hold, error) {
	f.SourceID, f.State, f.Once = &s.ID, store.FeedReading, once
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		return tx.UpdateFeed(f.ID, map[string]any{"source_id": s.ID, "state": store.FeedReading, "once": once})
	})
	if err != nil {
		return nil, err
	}
	return st.takeNow(ctx, f, func(int64, int64) {})
}

// TakeFile brings a file in and takes it at once, without a person, and makes
// what is new findable. A source that isn't there is made: a full one, under a
// supplier of the same name, in the file's currency. What follows on the
// marketplaces is marked and queued with it, for the server to take up.
func (st *Stop) TakeFile(ctx context.Context, source, path string) (Taken, error) {
	began := time.Now()
	in, err := os.Open(path)
	if err != nil {
		return Taken{}, err
	}
	defer in.Close()
	s, there, err := st.Store.SourceNamed(ctx, source)
	if err != nil {
		return Taken{}, err
	}
	arriving := Arriving{Name: filepath.Base(path)}
	if there {
		arriving.SourceID = &s.ID
	}
	f, err := st.BringIn(ctx, in, arriving)
	if err != nil {
		return Taken{}, err
	}
	if !there {
		var l feed.Look
		if err := json.Unmarshal([]byte(f.Look), &l); err != nil {
			return Taken{}, err
		}
		if l.Currency == "" {
			return Taken{}, fault.At(
				"source",
				"the file doesn't say in which currency it is, and there is no source called %s yet; make one first",
				source,
			)
		}
		if s, err = st.Make(ctx, NewSource{Supplier: source, Currency: l.Currency}); err != nil {
			return Taken{}, err
		}
	}
	held, err := st.takeInto(ctx, &f, &s, false)
	if err != nil {
		return Taken{}, err
	}
	out := Taken{
		f.ID,
		f.State,
		f.Rows,
		f.New,
		f.Changed,
		f.Same,
		f.SetAside,
		f.Gone,
		held,
		float64(time.Since(began).Milliseconds()) / 1000,
	}
	if held != nil {
		return out, nil
	}
	out.HeldFor = []supply.Hold{}
	return out, st.Store.IndexSearch(ctx, func(int64) {})
}

package app

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/feed"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const (
	runFetch  = "fetch"
	runIntake = "intake"
)

// BringIn keeps a supplier's file in the inbox and says what is recognised.
// Nothing of it is taken yet. A file that can't be read leaves nothing behind.
func (a *App) BringIn(ctx context.Context, name string, r io.Reader, sourceID *int64) (store.Feed, error) {
	if sourceID != nil {
		if _, err := a.Store.SourceOf(ctx, *sourceID); err != nil {
			return store.Feed{}, err
		}
	}
	in, err := a.newInboxFile()
	if err != nil {
		return store.Feed{}, err
	}
	n, err := io.Copy(in, io.LimitReader(r, feed.MaxBytes+1))
	if err == nil && n > feed.MaxBytes {
		err = feed.TooBig(n)
	}
	if err != nil {
		in.drop()
		return store.Feed{}, fmt.Errorf("receiving %s: %w", name, err)
	}
	return a.keepFeed(ctx, in, name, sourceID, "", "")
}

// inboxFile is a file on its way into the inbox, with its digest so far.
type inboxFile struct {
	*os.File
	io.Writer
	name string
	sum  func() string
}

func (f *inboxFile) Write(p []byte) (int, error) { return f.Writer.Write(p) }

func (f *inboxFile) drop() {
	_ = f.Close()
	_ = os.Remove(f.Name())
}

func (a *App) newInboxFile() (*inboxFile, error) {
	name := rand.Text()
	f, err := os.OpenFile(a.Store.Inbox(name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, fmt.Errorf("making a file in the inbox: %w", err)
	}
	h := sha256.New()
	return &inboxFile{f, io.MultiWriter(f, h), name, func() string { return hex.EncodeToString(h.Sum(nil)) }}, nil
}

// keepFeed looks at a file that has come in whole and keeps it as a feed.
func (a *App) keepFeed(ctx context.Context, in *inboxFile, name string, sourceID *int64, etag, modified string) (store.Feed, error) {
	fail := func(err error) (store.Feed, error) {
		in.drop()
		return store.Feed{}, err
	}
	info, err := in.Stat()
	if err != nil {
		return fail(err)
	}
	if err := errors.Join(in.Sync(), in.Close()); err != nil {
		return fail(fmt.Errorf("keeping %s: %w", name, err))
	}
	opened, err := feed.Open(a.Store.Inbox(in.name))
	if err != nil {
		return fail(err)
	}
	look, err := json.Marshal(opened.Look())
	if err != nil {
		return fail(err)
	}
	f := store.Feed{SourceID: sourceID, Name: clip(name, 300), File: in.name, Bytes: info.Size(), Digest: in.sum(), State: store.FeedLooked,
		Look: string(look), ReceivedAt: a.now()}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if sourceID != nil { // an older feed that nobody took yet is overtaken
			if err := tx.DiscardLooked(*sourceID); err != nil {
				return err
			}
		}
		if err := tx.Create(&f); err != nil {
			return err
		}
		if sourceID == nil || etag+modified == "" {
			return nil
		}
		return tx.Update(&store.Source{ID: *sourceID}, map[string]any{"e_tag": etag, "modified": modified})
	})
	if err != nil {
		return fail(fmt.Errorf("keeping %s: %w", name, err))
	}
	a.changed("feeds", "sources", "counts")
	return f, nil
}

func clip(s string, n int) string {
	s = strings.ToValidUTF8(s, "")
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// NewSource is what a new source is made of. Amounts are texts in major units
// of Currency.
type NewSource struct {
	Supplier string            `json:"supplier" minLength:"1" maxLength:"120" doc:"Who sells to us"`
	Name     string            `json:"name,omitempty" maxLength:"120" doc:"What to call this way their products reach us; the supplier's name unless said"`
	Address  string            `json:"address,omitempty" maxLength:"2000" doc:"Where to fetch from; empty for files brought in by hand"`
	Currency string            `json:"currency" minLength:"3" maxLength:"3" doc:"ISO 4217"`
	Charge   string            `json:"charge,omitempty" doc:"Delivery they charge for one order"`
	FreeFrom string            `json:"free_from,omitempty" doc:"Order value from which delivery is free"`
	Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where a person chose"`
}

// MakeSource makes a source, and its supplier where there is none of that name.
func (a *App) MakeSource(ctx context.Context, n NewSource) (store.Source, error) {
	n.Supplier, n.Name, n.Address = strings.TrimSpace(n.Supplier), strings.TrimSpace(n.Name), strings.TrimSpace(n.Address)
	if n.Supplier == "" {
		return store.Source{}, invalid("supplier", "say which supplier this is")
	}
	if n.Name == "" {
		n.Name = n.Supplier
	}
	cur := money.Currency(strings.ToUpper(strings.TrimSpace(n.Currency)))
	if !cur.Valid() {
		return store.Source{}, invalid("currency", "%q is not a currency code such as GBP", n.Currency)
	}
	s := store.Source{Name: n.Name, Kind: "file", Mode: "full", Address: n.Address, Currency: string(cur), SomeStock: 5, Columns: n.Columns, CreatedAt: a.now()}
	if n.Address != "" {
		s.Kind = "address"
		if !strings.HasPrefix(n.Address, "http://") && !strings.HasPrefix(n.Address, "https://") {
			return s, invalid("address", "%q is not an address such as https://supplier.example/prices.csv", n.Address)
		}
	}
	if n.Charge != "" {
		v, err := money.Parse(n.Charge, cur)
		if err != nil || v.Minor < 0 {
			return s, invalid("charge", "%q is not an amount in %s such as %s", n.Charge, cur, money.Of(450, cur))
		}
		s.Charge = v.Minor
	}
	if n.FreeFrom != "" {
		v, err := money.Parse(n.FreeFrom, cur)
		if err != nil || v.Minor < 0 {
			return s, invalid("free_from", "%q is not an amount in %s such as %s", n.FreeFrom, cur, money.Of(3500, cur))
		}
		s.FreeFrom = &v.Minor
	}
	err := a.Store.Do(ctx, func(tx store.Tx) error {
		if _, there, err := tx.SourceByName(n.Name); err != nil || there {
			if there {
				return &Error{Conflict, "name", fmt.Sprintf("there is a source called %s already; choose it, or give this one another name", n.Name)}
			}
			return err
		}
		sup, err := tx.SupplierNamed(n.Supplier, a.now())
		if err != nil {
			return err
		}
		s.SupplierID, s.Supplier = sup.ID, sup
		return tx.Create(&s)
	})
	if err == nil {
		a.note(ctx, "source made", s.Name, s.Address)
		a.changed("sources", "counts")
	}
	return s, err
}

// Take begins the intake of a feed that was looked at or held, into a source.
// once lets a held feed through.
func (a *App) Take(ctx context.Context, feedID, sourceID int64, columns map[string]string, once bool) (work.Run, error) {
	f, err := store.Get[store.Feed](ctx, a.Store, feedID)
	if err != nil {
		return work.Run{}, err
	}
	if f.State != store.FeedLooked && f.State != store.FeedHeld {
		return work.Run{}, &Error{Conflict, "", fmt.Sprintf("this feed is %s; only one that waits can be taken", f.State)}
	}
	if f.SourceID != nil && *f.SourceID != sourceID {
		return work.Run{}, &Error{Conflict, "source_id", "this feed belongs to another source"}
	}
	s, err := a.Store.SourceOf(ctx, sourceID)
	if err != nil {
		return work.Run{}, err
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if columns != nil {
			s.Columns = columns
			if err := tx.Save(&s); err != nil {
				return err
			}
		}
		return tx.Update(&store.Feed{ID: f.ID}, map[string]any{"source_id": s.ID, "state": store.FeedReading, "once": once})
	})
	if err != nil {
		return work.Run{}, err
	}
	a.changed("feeds", "sources", "counts")
	return a.Queue.Add(ctx, runIntake, "Taking "+f.Name+" from "+s.Supplier.Name, f.ID)
}

// Discard drops a feed that waits; what was taken before stays.
func (a *App) Discard(ctx context.Context, feedID int64) error {
	f, err := store.Get[store.Feed](ctx, a.Store, feedID)
	if err != nil {
		return err
	}
	if f.State != store.FeedLooked && f.State != store.FeedHeld {
		return &Error{Conflict, "", fmt.Sprintf("this feed is %s; only one that waits can be discarded", f.State)}
	}
	if err := a.Store.UpdateFeed(ctx, feedID, map[string]any{"state": store.FeedDiscarded}); err != nil {
		return err
	}
	a.note(ctx, "feed discarded", f.Name, "")
	a.changed("feeds", "counts", "sources")
	return nil
}

// Fetch begins fetching a source's address.
func (a *App) Fetch(ctx context.Context, sourceID int64) (work.Run, error) {
	s, err := a.Store.SourceOf(ctx, sourceID)
	if err != nil {
		return work.Run{}, err
	}
	if s.Address == "" {
		return work.Run{}, invalid("source", "%s has no address to fetch from; drop its next file instead", s.Name)
	}
	return a.Queue.Add(ctx, runFetch, "Fetching "+s.Name, s.ID)
}

// doFetch gets what an address serves. The first feed of a source waits for a
// person to see what was recognised; later ones are taken by themselves.
func (a *App) doFetch(ctx context.Context, t *work.Task) error {
	s, err := a.Store.SourceOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	in, err := a.newInboxFile()
	if err != nil {
		return err
	}
	etag, modified := s.ETag, s.Modified
	if s.TakenAt == nil { // a first feed may have been discarded: get it again
		etag, modified = "", ""
	}
	got, err := a.fetch.get(ctx, s.Address, etag, modified, in, t.At)
	if err != nil || got.same {
		in.drop()
	}
	if err != nil {
		if ctx.Err() == nil {
			a.failedFeed(ctx, s, err)
		}
		return err
	}
	if got.same {
		t.Note = s.Name + " has nothing new"
		f := store.Feed{SourceID: &s.ID, Name: s.Address, State: store.FeedSame, ReceivedAt: a.now()}
		defer a.changed("feeds", "sources", "counts")
		return a.Store.Create(ctx, &f)
	}
	f, err := a.keepFeed(ctx, in, s.Address, &s.ID, got.etag, got.modified)
	if err != nil {
		a.failedFeed(ctx, s, err)
		return err
	}
	if s.TakenAt == nil {
		t.Note = fmt.Sprintf("%s: have a look at what was recognised, then take it", s.Name)
		return nil
	}
	t.Note = "fetched; taking it now"
	_, err = a.Take(ctx, f.ID, s.ID, nil, false)
	return err
}

// failedFeed writes a failure down with its source, so that its health shows it.
func (a *App) failedFeed(ctx context.Context, s store.Source, err error) {
	f := store.Feed{SourceID: &s.ID, Name: s.Address, State: store.FeedFailed, Error: err.Error(), ReceivedAt: a.now()}
	if e := a.Store.Create(context.WithoutCancel(ctx), &f); e != nil {
		a.note(ctx, "feed failed", s.Name, err.Error())
	}
	a.changed("feeds", "sources", "counts")
}

// doIntake reads a feed to its end and then takes all of it or nothing.
func (a *App) doIntake(ctx context.Context, t *work.Task) error {
	f, err := store.Get[store.Feed](ctx, a.Store, t.Subject)
	if err != nil {
		return err
	}
	if f.State == store.FeedTaken { // a crash came after the feed was taken and before the run was over
		t.Note = "was taken"
		return a.afterTaking(ctx)
	}
	s, err := a.Store.SourceOf(ctx, *f.SourceID)
	if err != nil {
		return err
	}
	if f.State == store.FeedDiscarded || f.State == store.FeedHeld {
		return nil
	}
	held, err := a.take(ctx, t, &f, &s)
	defer a.changed("feeds", "sources", "counts", "products")
	switch {
	case ctx.Err() != nil:
		if e := a.Store.UpdateFeed(context.WithoutCancel(ctx), f.ID, map[string]any{"state": store.FeedLooked}); e != nil {
			return e
		}
		return ctx.Err()
	case err != nil:
		if e := a.Store.UpdateFeed(ctx, f.ID, map[string]any{"state": store.FeedFailed, "error": err.Error()}); e != nil {
			return errors.Join(err, e)
		}
		return err
	case held != nil:
		t.Note = fmt.Sprintf("%s is held: %s", s.Name, held[0].Words)
		a.note(ctx, "feed held", s.Name, held[0].Words)
		return nil
	}
	t.Note = fmt.Sprintf("%s: %d new, %d changed, %d same, %d set aside, %d gone", s.Name, f.New, f.Changed, f.Same, f.SetAside, f.Gone)
	a.note(ctx, "feed taken", s.Name, t.Note)
	return a.afterTaking(ctx)
}

// take does the reading and taking; it returns why the feed is held, if it is.
func (a *App) take(ctx context.Context, t *work.Task, f *store.Feed, s *store.Source) ([]supply.Hold, error) {
	file, err := feed.Open(a.Store.Inbox(f.File))
	if err != nil {
		return nil, err
	}
	if vanished := missingColumns(s, file.Look()); len(vanished) > 0 {
		held := []supply.Hold{{Guard: "columns", Words: "the file no longer has the column " + strings.Join(vanished, ", ") + " that this source is read by"}}
		return held, a.hold(ctx, f, supply.Figures{LastRows: s.LastRows}, nil, held)
	}
	guards := supply.DefaultGuards
	if s.Guards != "" {
		if err := json.Unmarshal([]byte(s.Guards), &guards); err != nil {
			return nil, fmt.Errorf("guards of %s: %w", s.Name, err)
		}
	}
	in, err := a.Store.BeginIntake(ctx, f.ID, *s)
	if err != nil {
		return nil, err
	}
	done, warnings := int64(0), int64(0)
	settings := feed.Settings{Columns: s.Columns, Currency: money.Currency(s.Currency), SomeStock: s.SomeStock}
	err = file.Read(settings, func(r *feed.Row) error {
		if done++; done%500 == 0 {
			t.At(done, max(s.LastRows, done))
			if ctx.Err() != nil {
				return ctx.Err()
			}
		}
		warnings += int64(len(r.Warnings))
		switch {
		case len(r.Problems) > 0:
			in.SetAside(r.Number, r.Problems)
		case r.Repeat:
			in.Repeat()
		default:
			return in.Put(&r.Product)
		}
		return nil
	})
	var fig supply.Figures
	if err == nil {
		fig, err = in.Finish(s.Mode == "full", guards.MissingGone)
	}
	if err != nil {
		return nil, errors.Join(err, in.Rollback())
	}
	t.At(done, done)
	f.Warnings = warnings
	if held := guards.Check(fig, s.Mode == "full"); len(held) > 0 && (!f.Once || fig.Rows == 0) {
		if err := in.Rollback(); err != nil {
			return nil, err
		}
		return held, a.hold(ctx, f, fig, in.Aside(), held)
	}
	now := a.now()
	f.State, f.TakenAt = store.FeedTaken, &now
	f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone = fig.Rows, fig.New, fig.Changed, fig.Same, fig.SetAside, fig.Gone
	s.LastRows, s.TakenAt = fig.Rows, &now
	s.Needed = usedColumns(s, file.Look())
	return nil, in.Commit(*f, *s)
}

// hold writes down why a feed waits, with the figures, and nothing else of it.
func (a *App) hold(ctx context.Context, f *store.Feed, fig supply.Figures, aside []store.SetAside, held []supply.Hold) error {
	words, err := json.Marshal(held)
	if err != nil {
		return err
	}
	return a.Store.Do(ctx, func(tx store.Tx) error {
		return tx.KeepHeld(f.ID, aside, map[string]any{"state": store.FeedHeld, "held_for": string(words), "rows": fig.Rows, "new": fig.New,
			"changed": fig.Changed, "same": fig.Same, "set_aside": fig.SetAside, "gone": fig.Gone, "warnings": f.Warnings})
	})
}

// usedColumns are the columns a source is read by; when one vanishes the feed is held.
func usedColumns(s *store.Source, l feed.Look) []string {
	out := []string{}
	for _, c := range l.Columns {
		field, chosen := s.Columns[c.Name]
		if !chosen {
			field = c.Field
		}
		if field != "" {
			out = append(out, c.Name)
		}
	}
	return out
}

func missingColumns(s *store.Source, l feed.Look) []string {
	have := map[string]bool{}
	for _, c := range l.Columns {
		have[c.Name] = true
	}
	var out []string
	for _, n := range s.Needed {
		if !have[n] {
			out = append(out, n)
		}
	}
	return out
}

// afterTaking begins what follows from new supplier data, on every site.
func (a *App) afterTaking(ctx context.Context) error {
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, s := range sites {
		if _, err := a.Queue.Add(ctx, runMatch, "Looking numbers up on "+s.Name, s.ID); err != nil {
			return err
		}
	}
	return nil
}

// stale tells whether a source has been silent for so long that its stock
// counts as unknown: section 4 of design/supply.md.
func stale(taken *time.Time, now time.Time) bool {
	return taken == nil || now.Sub(*taken) > 48*time.Hour
}

package app

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
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
	runIndex  = "index"
)

// Arriving says whose a file is, as far as that is known when it comes in.
type Arriving struct {
	Name     string // of the file, or its address
	SourceID *int64 // nil: not known yet
	PartOf   *int64 // the feed whose set-aside rows it has, mended
	MendsRow int    // the one row of it, where it is one
	etag     string
	modified string
}

// BringIn keeps a supplier's file in the inbox and says what is recognised.
// Nothing of it is taken yet. A file that can't be read leaves nothing behind.
func (a *App) BringIn(ctx context.Context, r io.Reader, in Arriving) (store.Feed, error) {
	if in.PartOf != nil {
		whole, err := store.Get[store.Feed](ctx, a.Store, *in.PartOf)
		if err != nil {
			return store.Feed{}, err
		}
		in.SourceID = whole.SourceID
	}
	if in.SourceID != nil {
		if _, err := a.Store.SourceOf(ctx, *in.SourceID); err != nil {
			return store.Feed{}, err
		}
	}
	file, err := a.newInboxFile()
	if err != nil {
		return store.Feed{}, err
	}
	n, err := io.CopyBuffer(file, io.LimitReader(r, feed.MaxBytes+1), make([]byte, 1<<20))
	if err == nil && n > feed.MaxBytes {
		err = feed.TooBig(n)
	}
	if err != nil {
		file.drop()
		return store.Feed{}, fmt.Errorf("receiving %s: %w", in.Name, err)
	}
	return a.keepFeed(ctx, file, in)
}

// inboxFile is a file on its way into the inbox, with its digest so far. The
// file itself is not embedded: its ReadFrom would pass the digest by.
type inboxFile struct {
	file *os.File
	name string
	hash hash.Hash
}

func (f *inboxFile) Write(p []byte) (int, error) {
	hashed := make(chan struct{})
	go func() { f.hash.Write(p); close(hashed) }() // beside the writing: of a big file it takes as long
	n, err := f.file.Write(p)
	<-hashed
	return n, err
}

func (f *inboxFile) sum() string { return hex.EncodeToString(f.hash.Sum(nil)) }

// restart drops what has come in so far.
func (f *inboxFile) restart() error {
	f.hash.Reset()
	_, err := f.file.Seek(0, io.SeekStart)
	return errors.Join(err, f.file.Truncate(0))
}

// keep closes the file, whole, and says how long it is.
func (f *inboxFile) keep() (int64, error) {
	info, err := f.file.Stat()
	if err != nil {
		return 0, err
	}
	return info.Size(), f.file.Close()
}

func (f *inboxFile) drop() {
	_ = f.file.Close()
	_ = os.Remove(f.file.Name())
}

func (a *App) newInboxFile() (*inboxFile, error) {
	name := rand.Text()
	f, err := os.OpenFile(a.Store.Inbox(name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, fmt.Errorf("making a file in the inbox: %w", err)
	}
	return &inboxFile{f, name, sha256.New()}, nil
}

// keepFeed looks at a file that has come in whole and keeps it as a feed.
func (a *App) keepFeed(ctx context.Context, file *inboxFile, in Arriving) (store.Feed, error) {
	fail := func(err error) (store.Feed, error) {
		file.drop()
		return store.Feed{}, err
	}
	size, err := file.keep()
	if err != nil {
		return fail(fmt.Errorf("keeping %s: %w", in.Name, err))
	}
	reading := feed.Settings{Now: a.now()}
	if in.SourceID != nil {
		s, err := a.Store.SourceOf(ctx, *in.SourceID)
		if err != nil {
			return fail(err)
		}
		if reading, err = a.readingOf(ctx, &s, in.Name, in.PartOf); err != nil {
			return fail(err)
		}
	}
	look, err := a.lookAt(ctx, file, reading, in)
	if err != nil {
		return fail(err)
	}
	f := store.Feed{SourceID: in.SourceID, Name: clip(in.Name, 300), File: file.name, Bytes: size, Digest: file.sum(), State: store.FeedLooked,
		Look: look, PartOf: in.PartOf, MendsRow: in.MendsRow, ReceivedAt: a.now()}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if in.SourceID != nil && in.PartOf == nil { // an older feed that nobody took yet is overtaken
			if err := tx.DiscardLooked(*in.SourceID); err != nil {
				return err
			}
		}
		if err := tx.Create(&f); err != nil {
			return err
		}
		if in.SourceID == nil || in.etag+in.modified == "" {
			return nil
		}
		return tx.Update(&store.Source{ID: *in.SourceID}, map[string]any{"e_tag": in.etag, "modified": in.modified})
	})
	if err != nil {
		return fail(fmt.Errorf("keeping %s: %w", in.Name, err))
	}
	a.changed("feeds", "sources", "counts")
	return f, nil
}

// lookAt is what is recognised of a file, as JSON. One that is the same as the
// file its source took last needs no second look.
func (a *App) lookAt(ctx context.Context, file *inboxFile, reading feed.Settings, in Arriving) (string, error) {
	if in.SourceID != nil && in.PartOf == nil {
		s, err := a.Store.SourceOf(ctx, *in.SourceID)
		if err != nil {
			return "", err
		}
		if last, same, err := a.lastLike(ctx, &s, file.sum(), digest(reading)); err != nil || same {
			return last.Look, err
		}
	}
	opened, err := feed.Open(a.Store.Inbox(file.name), reading)
	if err != nil {
		return "", err
	}
	look, err := json.Marshal(opened.Look())
	a.opened.put(file.name, opened)
	return string(look), err
}

// lastLike is the feed a source took last, where it is the same to the byte and
// would be read the same way.
func (a *App) lastLike(ctx context.Context, s *store.Source, sum, readAs string) (store.Feed, bool, error) {
	if s.LastFeedID == nil {
		return store.Feed{}, false, nil
	}
	last, err := store.Get[store.Feed](ctx, a.Store, *s.LastFeedID)
	return last, err == nil && last.Digest == sum && last.ReadAs == readAs && last.State == store.FeedTaken, err
}

// settingsOf are the settings a source's files are read under.
func (a *App) settingsOf(s *store.Source) (feed.Settings, error) {
	out := feed.Settings{}
	if s.Reading != "" {
		if err := json.Unmarshal([]byte(s.Reading), &out); err != nil {
			return out, fmt.Errorf("settings of %s: %w", s.Name, err)
		}
	}
	out.Currency, out.Update, out.Now = money.Currency(s.Currency), s.Mode == "update", a.now()
	return out, nil
}

// readingOf are the settings one feed of a source is read under. The mended
// rows of another feed are read by what its whole columns proved: a few rows by
// themselves prove too little.
func (a *App) readingOf(ctx context.Context, s *store.Source, name string, partOf *int64) (feed.Settings, error) {
	out, err := a.settingsOf(s)
	if err != nil {
		return out, err
	}
	if strings.HasPrefix(name, "http://") || strings.HasPrefix(name, "https://") {
		out.Base = name
	}
	if partOf == nil {
		return out, nil
	}
	whole, err := store.Get[store.Feed](ctx, a.Store, *partOf)
	if err != nil {
		return out, err
	}
	var l feed.Look
	if err := json.Unmarshal([]byte(whole.Look), &l); err != nil {
		return out, fmt.Errorf("reading feed %d again: %w", whole.ID, err)
	}
	out.Signs, out.Columns = map[string]string{}, map[string]string{}
	for _, c := range l.Columns {
		out.Signs[c.Name], out.Columns[c.Name] = c.Decimal, c.Field
	}
	return out, nil
}

// openedFiles keeps the file surveyed last, so that one that is taken at once
// is not surveyed again.
type openedFiles struct {
	mu   sync.Mutex
	name string
	file *feed.File
}

func (o *openedFiles) put(name string, f *feed.File) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.name, o.file = name, f
}

func (o *openedFiles) take(name string) *feed.File {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.name != name {
		return nil
	}
	f := o.file
	o.name, o.file = "", nil
	return f
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
	Days     int64             `json:"days,omitempty" minimum:"0" doc:"Working days they take to deliver"`
	Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where a person chose"`
	Mode     string            `json:"mode,omitempty" enum:"full,update" doc:"full: what it lists is all there is; update: only some rows or columns"`
	Every    int64             `json:"every,omitempty" minimum:"0" doc:"Minutes between two fetches; 0: only when asked"`
	Username string            `json:"username,omitempty"`
	Password string            `json:"password,omitempty" doc:"Kept encrypted"`
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
	s := store.Source{Name: n.Name, Kind: "file", Mode: "full", Address: n.Address, Currency: string(cur), Days: n.Days, Every: n.Every, LookUp: true, Username: n.Username, CreatedAt: a.now()}
	if n.Mode == "update" {
		s.Mode = n.Mode
	}
	switch {
	case n.Address == "":
	case strings.HasPrefix(n.Address, "http://"), strings.HasPrefix(n.Address, "https://"):
		s.Kind = "address"
	case filepath.IsAbs(n.Address):
		s.Kind = "folder"
		if info, err := os.Stat(n.Address); err != nil || !info.IsDir() {
			return s, invalid("address", "there is no folder %s to watch on this machine", n.Address)
		}
		if s.Every == 0 {
			s.Every = 1
		}
	default:
		return s, invalid("address", "%q is neither an address such as https://supplier.example/prices.csv nor a folder of this machine such as /srv/prices", n.Address)
	}
	if len(n.Columns) > 0 {
		text, err := json.Marshal(feed.Settings{Columns: n.Columns})
		if err != nil {
			return s, err
		}
		s.Reading = string(text)
	}
	if n.Password != "" {
		sealed, err := a.Store.Seal(n.Password)
		if err != nil {
			return s, err
		}
		s.Password = sealed
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
			reading, err := a.settingsOf(&s)
			if err != nil {
				return err
			}
			reading.Columns = columns
			text, err := json.Marshal(reading)
			if err != nil {
				return err
			}
			if err := tx.Update(&store.Source{ID: s.ID}, map[string]any{"reading": string(text)}); err != nil {
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
	got, err := a.fetchAgain(ctx, s, etag, modified, in, t)
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
	f, err := a.keepFeed(ctx, in, Arriving{Name: s.Address, SourceID: &s.ID, etag: got.etag, modified: got.modified})
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

// doIndex makes what was taken findable.
func (a *App) doIndex(ctx context.Context, t *work.Task) error {
	a.begins(t)
	err := a.Store.IndexSearch(ctx, func(done int64) { t.At(done, 0) })
	a.changed("finds")
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
	if f.State == store.FeedDiscarded || f.State == store.FeedHeld {
		return nil
	}
	held, err := a.takeNow(ctx, &f, t.At)
	if err != nil {
		return err
	}
	s, err := a.Store.SourceOf(ctx, *f.SourceID)
	if err != nil {
		return err
	}
	if held != nil {
		t.Note = fmt.Sprintf("%s is held: %s", s.Name, held[0].Words)
		return nil
	}
	t.Note = fmt.Sprintf("%s: %d new, %d changed, %d same, %d set aside, %d gone", s.Name, f.New, f.Changed, f.Same, f.SetAside, f.Gone)
	return a.afterTaking(ctx)
}

// takeNow takes a feed whose source is known, or holds it and says why. What
// became of it is written down with it, whatever that is.
func (a *App) takeNow(ctx context.Context, f *store.Feed, at func(done, total int64)) ([]supply.Hold, error) {
	s, err := a.Store.SourceOf(ctx, *f.SourceID)
	if err != nil {
		return nil, err
	}
	held, err := a.take(ctx, at, f, &s)
	defer a.changed("feeds", "sources", "counts", "products")
	switch {
	case ctx.Err() != nil:
		return nil, errors.Join(ctx.Err(), a.Store.UpdateFeed(context.WithoutCancel(ctx), f.ID, map[string]any{"state": store.FeedLooked}))
	case err != nil:
		return nil, errors.Join(err, a.Store.UpdateFeed(ctx, f.ID, map[string]any{"state": store.FeedFailed, "error": err.Error()}))
	case held != nil:
		f.State = store.FeedHeld
		a.note(ctx, "feed held", s.Name, held[0].Words)
		return held, nil
	}
	a.note(ctx, "feed taken", s.Name, fmt.Sprintf("%d new, %d changed, %d same, %d set aside, %d gone", f.New, f.Changed, f.Same, f.SetAside, f.Gone))
	return nil, nil
}

// take does the reading and taking; it returns why the feed is held, if it is.
func (a *App) take(ctx context.Context, at func(done, total int64), f *store.Feed, s *store.Source) ([]supply.Hold, error) {
	reading, err := a.readingOf(ctx, s, f.Name, f.PartOf)
	if err != nil {
		return nil, err
	}
	readAs := digest(reading)
	if same, err := a.sameAgain(ctx, f, s, readAs); same || err != nil {
		return nil, err
	}
	if info, err := os.Stat(a.Store.Inbox(f.File)); err != nil || info.Size() != f.Bytes {
		return nil, &Error{Conflict, "", "the file of this feed is no longer whole in the inbox; discard it and bring it in again"}
	}
	file := a.opened.take(f.File)
	if file == nil {
		if file, err = feed.Open(a.Store.Inbox(f.File), reading); err != nil {
			return nil, err
		}
	}
	if f.PartOf == nil && s.Mode == "full" { // an update may leave columns out
		if vanished := missingColumns(s, file.Look()); len(vanished) > 0 {
			held := []supply.Hold{{Guard: "columns", Words: "the file no longer has the column " + strings.Join(vanished, ", ") + " that this source is read by"}}
			return held, a.hold(ctx, f, supply.Figures{LastRows: s.LastRows}, nil, held)
		}
	}
	guards := supply.DefaultGuards
	if s.Guards != "" {
		if err := json.Unmarshal([]byte(s.Guards), &guards); err != nil {
			return nil, fmt.Errorf("guards of %s: %w", s.Name, err)
		}
	}
	in, err := a.Store.BeginIntake(ctx, *f, *s, file.Look().Rows)
	if err != nil {
		return nil, err
	}
	err = a.pour(ctx, at, file, reading, in, f)
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
		return held, a.hold(ctx, f, fig, in.Aside(), held)
	}
	look, err := json.Marshal(file.Look()) // under the settings it was read with
	if err != nil {
		return nil, errors.Join(err, in.Rollback())
	}
	now := a.now()
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
	return nil, in.Commit(*f, *s)
}

// pour reads a file and puts its rows, the reading a step ahead of the writing.
func (a *App) pour(ctx context.Context, at func(done, total int64), file *feed.File, reading feed.Settings, in *store.Intake, f *store.Feed) error {
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
		err := file.Read(reading, func(r *feed.Row) error {
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
		})
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
func (a *App) sameAgain(ctx context.Context, f *store.Feed, s *store.Source, readAs string) (bool, error) {
	if f.PartOf != nil {
		return false, nil
	}
	last, same, err := a.lastLike(ctx, s, f.Digest, readAs)
	if err != nil || !same {
		return false, err
	}
	away, err := a.Store.CountMissing(ctx, s.ID)
	if err != nil || away > 0 { // products on their way to gone have one feed more to be missing from
		return false, err
	}
	return true, a.Store.SameAgain(ctx, f, &last, a.now())
}

// digest tells settings apart, and the days on which they are read.
func digest(s feed.Settings) string {
	text, _ := json.Marshal(s) // plain values
	sum := sha256.Sum256(append(text, s.Now.Format(time.DateOnly)...))
	return hex.EncodeToString(sum[:8])
}

// hold writes down why a feed waits, with the figures, and nothing else of it.
func (a *App) hold(ctx context.Context, f *store.Feed, fig supply.Figures, aside []store.SetAside, held []supply.Hold) error {
	words, err := json.Marshal(held)
	if err != nil {
		return err
	}
	f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone = fig.Rows, fig.New, fig.Changed, fig.Same, fig.SetAside, fig.Gone
	return a.Store.Do(ctx, func(tx store.Tx) error {
		return tx.KeepHeld(f.ID, aside, map[string]any{"state": store.FeedHeld, "held_for": string(words), "rows": fig.Rows, "new": fig.New,
			"changed": fig.Changed, "same": fig.Same, "set_aside": fig.SetAside, "gone": fig.Gone, "warnings": f.Warnings})
	})
}

// usedColumns are the columns a source is read by; when one vanishes the feed is held.
func usedColumns(l feed.Look) []string {
	out := []string{}
	for _, c := range l.Columns {
		if c.Field != "" && c.Name != "" {
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

// afterTaking begins what follows from new supplier data, on every site we list on.
func (a *App) afterTaking(ctx context.Context) error {
	if err := a.queueOnce(ctx, runIndex, "Making new products findable", 0); err != nil {
		return err
	}
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, s := range sites {
		if !s.Lists {
			continue
		}
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

// Taken is what `easymargin intake` says of a file: design/supply.md, section 8.
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

// TakeFile brings a file in and takes it at once, without a person, and makes
// what is new findable. A source that isn't there is made: a full one, under a
// supplier of the same name, in the file's currency. What follows on the
// marketplaces is left to the server, which takes it up when it runs.
func (a *App) TakeFile(ctx context.Context, source, path string) (Taken, error) {
	began := time.Now()
	in, err := os.Open(path)
	if err != nil {
		return Taken{}, err
	}
	defer in.Close()
	var s store.Source
	there := false
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		s, there, err = tx.SourceByName(source)
		return err
	})
	if err != nil {
		return Taken{}, err
	}
	arriving := Arriving{Name: filepath.Base(path)}
	if there {
		arriving.SourceID = &s.ID
	}
	f, err := a.BringIn(ctx, in, arriving)
	if err != nil {
		return Taken{}, err
	}
	if !there {
		var l feed.Look
		if err := json.Unmarshal([]byte(f.Look), &l); err != nil {
			return Taken{}, err
		}
		if l.Currency == "" {
			return Taken{}, invalid("source", "the file doesn't say in which currency it is, and there is no source called %s yet; make one first", source)
		}
		if s, err = a.MakeSource(ctx, NewSource{Supplier: source, Currency: l.Currency}); err != nil {
			return Taken{}, err
		}
	}
	f.SourceID, f.State = &s.ID, store.FeedReading
	if err := a.Store.Save(ctx, &f); err != nil {
		return Taken{}, err
	}
	held, err := a.takeNow(ctx, &f, func(int64, int64) {})
	if err != nil {
		return Taken{}, err
	}
	out := Taken{f.ID, f.State, f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone, held, float64(time.Since(began).Milliseconds()) / 1000}
	if held != nil {
		return out, nil
	}
	out.HeldFor = []supply.Hold{}
	if err := a.Store.IndexSearch(ctx, func(int64) {}); err != nil {
		return out, err
	}
	return out, a.afterTaking(ctx)
}

package sources

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
	"strings"
	"sync"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/store"
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
func (st *Stop) BringIn(ctx context.Context, r io.Reader, in Arriving) (store.Feed, error) {
	if in.PartOf != nil {
		whole, err := store.Get[store.Feed](ctx, st.Store, *in.PartOf)
		if err != nil {
			return store.Feed{}, err
		}
		in.SourceID = whole.SourceID
	}
	if in.SourceID != nil {
		if _, err := st.Store.SourceOf(ctx, *in.SourceID); err != nil {
			return store.Feed{}, err
		}
	}
	file, err := st.newInboxFile()
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
	return st.keepFeed(ctx, file, in)
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

func (st *Stop) newInboxFile() (*inboxFile, error) {
	name := rand.Text()
	f, err := os.OpenFile(st.Store.Inbox(name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, st.Store.Explain(fmt.Errorf("making a file in the inbox: %w", err))
	}
	return &inboxFile{f, name, sha256.New()}, nil
}

// keepFeed looks at a file that has come in whole and keeps it as a feed.
func (st *Stop) keepFeed(ctx context.Context, file *inboxFile, in Arriving) (store.Feed, error) {
	fail := func(err error) (store.Feed, error) {
		file.drop()
		return store.Feed{}, err
	}
	size, err := file.keep()
	if err != nil {
		return fail(fmt.Errorf("keeping %s: %w", in.Name, err))
	}
	reading := feed.Settings{Now: st.Now(), Guess: true}
	if in.SourceID != nil {
		s, err := st.Store.SourceOf(ctx, *in.SourceID)
		if err != nil {
			return fail(err)
		}
		if reading, err = st.readingOf(ctx, &s, in.Name, in.PartOf); err != nil {
			return fail(err)
		}
	}
	look, err := st.lookAt(ctx, file, reading, in)
	if err != nil {
		return fail(err)
	}
	f := store.Feed{
		SourceID:   in.SourceID,
		Name:       stops.Clip(in.Name, 300),
		File:       file.name,
		Bytes:      size,
		Digest:     file.sum(),
		State:      store.FeedLooked,
		Look:       look,
		PartOf:     in.PartOf,
		MendsRow:   in.MendsRow,
		ReceivedAt: st.Now(),
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if in.SourceID != nil && in.PartOf == nil { // an older feed that nobody took yet is overtaken
			if err := tx.DiscardLooked(*in.SourceID); err != nil {
				return err
			}
		}
		if err := tx.Create(&f); err != nil {
			return err
		}
		tx.Changed("feeds", "sources", "counts")
		if in.SourceID == nil || in.etag+in.modified == "" {
			return nil
		}
		return tx.Update(&store.Source{ID: *in.SourceID}, map[string]any{"e_tag": in.etag, "modified": in.modified})
	})
	if err != nil {
		return fail(fmt.Errorf("keeping %s: %w", in.Name, err))
	}
	return f, nil
}

// lookAt is what is recognised of a file, as JSON. One that is the same as the
// file its source took last needs no second look.
func (st *Stop) lookAt(ctx context.Context, file *inboxFile, reading feed.Settings, in Arriving) (string, error) {
	if in.SourceID != nil && in.PartOf == nil {
		s, err := st.Store.SourceOf(ctx, *in.SourceID)
		if err != nil {
			return "", err
		}
		if last, same, err := st.lastLike(ctx, &s, file.sum(), digest(reading)); err != nil || same {
			return last.Look, err
		}
	}
	opened, err := feed.Open(st.Store.Inbox(file.name), reading)
	if err != nil {
		return "", err
	}
	look, err := json.Marshal(opened.Look())
	st.opened.put(file.name, opened)
	return string(look), err
}

// lastLike is the feed a source took last, where it is the same to the byte and
// would be read the same way.
func (st *Stop) lastLike(ctx context.Context, s *store.Source, sum, readAs string) (store.Feed, bool, error) {
	if s.LastFeedID == nil {
		return store.Feed{}, false, nil
	}
	last, err := store.Get[store.Feed](ctx, st.Store, *s.LastFeedID)
	return last, err == nil && last.Digest == sum && last.ReadAs == readAs && last.State == store.FeedTaken, err
}

// readingOf are the settings one feed of a source is read under. The mended
// rows of another feed are read by what its whole columns proved: a few rows by
// themselves prove too little.
func (st *Stop) readingOf(ctx context.Context, s *store.Source, name string, partOf *int64) (feed.Settings, error) {
	out, err := st.settingsOf(s)
	if err != nil {
		return out, err
	}
	if stops.WebAddress(name) != "" {
		out.Base = name
	}
	if partOf == nil {
		return out, nil
	}
	whole, err := store.Get[store.Feed](ctx, st.Store, *partOf)
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

// Take begins the intake of a feed that was looked at or held, into a source.
// once lets a held feed through.
func (st *Stop) Take(ctx context.Context, feedID, sourceID int64, columns map[string]string, once bool) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.Feed](tx, feedID)
		if err != nil {
			return err
		}
		if f.State != store.FeedLooked && f.State != store.FeedHeld {
			return fault.New(fault.Conflict, "this feed is %s; only one that waits can be taken", f.State)
		}
		if f.SourceID != nil && *f.SourceID != sourceID {
			return fault.Taken("source_id", "this feed belongs to another source")
		}
		s, err := tx.SourceOf(sourceID)
		if err != nil {
			return err
		}
		if f.PartOf == nil && s.LastFeedID != nil && *s.LastFeedID > f.ID {
			return fault.New(fault.Conflict, "a newer feed of %s was taken since: this one would bring back older costs and stock. Discard it", s.Name)
		}
		if columns != nil {
			reading, err := st.settingsOf(&s)
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
		if err := tx.UpdateFeed(f.ID, map[string]any{"source_id": s.ID, "state": store.FeedReading, "once": once}); err != nil {
			return err
		}
		run, err = st.intakeRun(tx, &f, s.Supplier.Name)
		return err
	})
	return run, err
}

func (st *Stop) intakeRun(tx store.Tx, f *store.Feed, supplier string) (store.Run, error) {
	tx.Changed("feeds", "sources", "counts")
	r := store.Run{Kind: runIntake, Lane: runIntake, Title: "Taking " + f.Name + " from " + supplier, Subject: f.ID, CreatedAt: st.Now()}
	err := tx.Queue(&r)
	return r, err
}

// queueIntake queues the taking of a feed whose source is known.
func (st *Stop) queueIntake(tx store.Tx, f *store.Feed) error {
	s, err := tx.SourceOf(*f.SourceID)
	if err == nil {
		_, err = st.intakeRun(tx, f, s.Supplier.Name)
	}
	return err
}

// Discard drops a feed that waits; what was taken before stays.
func (st *Stop) Discard(ctx context.Context, feedID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.Feed](tx, feedID)
		if err != nil {
			return err
		}
		if f.State != store.FeedLooked && f.State != store.FeedHeld {
			return fault.New(fault.Conflict, "this feed is %s; only one that waits can be discarded", f.State)
		}
		if err := tx.UpdateFeed(feedID, map[string]any{"state": store.FeedDiscarded}); err != nil {
			return err
		}
		tx.Changed("feeds", "counts", "sources")
		return tx.Note(st.Now(), "feed discarded", f.Name, "")
	})
}

// digest tells settings apart, and the days on which they are read.
func digest(s feed.Settings) string {
	text, _ := json.Marshal(s) // plain values
	sum := sha256.Sum256(append(text, s.Now.Format(time.DateOnly)...))
	return hex.EncodeToString(sum[:8])
}

// headerOf is the names of a feed's columns.
func headerOf(f *store.Feed) ([]string, error) {
	var l feed.Look
	if err := json.Unmarshal([]byte(f.Look), &l); err != nil {
		return nil, fmt.Errorf("columns of feed %d: %w", f.ID, err)
	}
	var out []string
	for _, c := range l.Columns {
		if c.Name != feed.WhyColumn {
			out = append(out, c.Name)
		}
	}
	return out, nil
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

func missingColumns(s *store.Source, l feed.Look) string {
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
	return strings.Join(out, ", ")
}

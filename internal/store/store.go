// Package store keeps the data: models, migrations and every query. It is the
// only package that knows SQL. One SQLite file in WAL mode; one connection
// writes, several read.
//
// What a transaction brings about is told once it is kept, see OnCommit: runs
// that were queued in it, and lists that are no longer fresh.
package store

import (
	"context"
	"errors"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/gorm"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
)

// ErrMissing says that no row has the id asked for.
var ErrMissing = fault.New(fault.Missing, "there is no such thing")

// Store is the data of one folder. It is safe for many goroutines.
type Store struct {
	read    *gorm.DB
	write   *gorm.DB
	dir     string
	lock    *flock.Flock
	version atomic.Int64 // of the data as the writing connection saw it last

	mu    sync.Mutex
	hooks []func(Commit)
}

// Commit is what a transaction brought about.
type Commit struct {
	Topics []string // lists that are no longer fresh
	Runs   []Run    // queued in it
}

// OnCommit has fn told of every transaction that was kept and has something to
// say. It must not block.
func (s *Store) OnCommit(fn func(Commit)) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.hooks = append(s.hooks, fn)
}

func (s *Store) tell(c *Commit) {
	if len(c.Topics) == 0 && len(c.Runs) == 0 {
		return
	}
	s.mu.Lock()
	hooks := s.hooks
	s.mu.Unlock()
	for _, fn := range hooks {
		fn(*c)
	}
}

// File is the path of the database.
func (s *Store) File() string { return filepath.Join(s.dir, fileName) }

// Inbox is the path of a file that came in.
func (s *Store) Inbox(name string) string { return filepath.Join(s.dir, "inbox", filepath.Base(name)) }

// PictureFile is the path of a picture by its digest; small is its thumbnail.
func (s *Store) PictureFile(digest string, small bool) string {
	name := filepath.Base(digest)
	if small {
		name += ".thumb.png"
	}
	return filepath.Join(s.dir, "pictures", name)
}

// Tx is a unit of writing: all of it or nothing.
type Tx struct {
	db     *gorm.DB
	commit *Commit
	store  *Store
	waits  int64 // of writers, before it began
}

// Do runs fn in one transaction; an error takes everything back, and so does the
// end of ctx before it is committed. Single statements are not cut short by ctx:
// watching it would cost each of them a goroutine.
func (s *Store) Do(ctx context.Context, fn func(tx Tx) error) error {
	c := &Commit{}
	pool, err := s.write.DB()
	if err != nil {
		return err
	}
	err = s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		return fn(Tx{db.WithContext(context.WithoutCancel(ctx)), c, s, pool.Stats().WaitCount})
	})
	if err == nil {
		s.tell(c)
	}
	return err
}

// Awaited tells whether somebody waits to write until this transaction, one of
// Store.Do, ends. What is done in steps, any of which may be its last, can go on
// in one transaction until then.
func (tx Tx) Awaited() bool {
	pool, err := tx.store.write.DB()
	return err == nil && pool.Stats().WaitCount > tx.waits
}

// Beside reads the data in another transaction, as it was before this one, which
// nobody else can change until this one ends. So reading for what is written
// next goes on while something is written.
func (tx Tx) Beside(fn func(Tx) error) error {
	return tx.store.read.WithContext(tx.Context()).Transaction(func(db *gorm.DB) error { return fn(Tx{db: db, commit: &Commit{}, store: tx.store}) })
}

// Context is what the transaction is done in.
func (tx Tx) Context() context.Context { return tx.db.Statement.Context }

// Reading reads the data as it is, outside of any transaction.
func (s *Store) Reading(ctx context.Context) Tx {
	return Tx{db: s.read.WithContext(ctx), commit: &Commit{}, store: s}
}

// Changed says that lists of some topics will no longer be fresh.
func (tx Tx) Changed(topics ...string) { tx.commit.Topics = append(tx.commit.Topics, topics...) }

// Note writes down who did what: in the same transaction as what was done.
func (tx Tx) Note(at time.Time, what, subject, detail string) error {
	return tx.db.Create(&Audit{At: at, Actor: actor.Of(tx.db.Statement.Context), What: what, Subject: subject, Detail: detail}).Error
}

// Save writes a row, new or known.
func (tx Tx) Save(row any) error { return tx.db.Save(row).Error }

// Create writes a new row and fills in its ID.
func (tx Tx) Create(row any) error { return tx.db.Create(row).Error }

// CreateAll writes a slice of new rows.
func (tx Tx) CreateAll(rows any) error { return tx.db.CreateInBatches(rows, 200).Error }

// Update changes only some columns of a row.
func (tx Tx) Update(row any, columns map[string]any) error {
	return tx.db.Model(row).Updates(columns).Error
}

// Get is the row of a model with an id, or ErrMissing.
func Get[T any](ctx context.Context, s *Store, id int64) (T, error) {
	return get[T](s.read.WithContext(ctx), id)
}

// GetTx is Get inside a transaction.
func GetTx[T any](tx Tx, id int64) (T, error) { return get[T](tx.db, id) }

func get[T any](db *gorm.DB, id int64) (T, error) {
	var row T
	err := db.First(&row, id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrMissing
	}
	return row, err
}

// ShopPicture is the path of a picture as the own shop shows it.
func (s *Store) ShopPicture(name string) string {
	return filepath.Join(s.dir, "shop", filepath.Base(name))
}

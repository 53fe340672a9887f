// Package store keeps the data: models, migrations and every query. It is the
// only package that knows SQL. One SQLite file in WAL mode; one connection
// writes, several read.
package store

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// ErrMissing says that no row has the id asked for.
var ErrMissing = errors.New("there is no such thing")

// Store is the data of one folder. It is safe for many goroutines.
type Store struct {
	read  *gorm.DB
	write *gorm.DB
	dir   string
}

// Open opens the data in dir, makes it if it isn't there, and brings its
// tables up to date.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "inbox"), 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	if err := os.MkdirAll(filepath.Join(dir, "pictures"), 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	file := filepath.Join(dir, "easymargin.db")
	write, err := open(file, "immediate", 1, "-40000") // KiB, negated: the indexes of a million rows, so that adding to them stays in memory
	if err != nil {
		return nil, err
	}
	if err := migrate(write); err != nil {
		return nil, fmt.Errorf("bringing the tables up to date: %w", err)
	}
	read, err := open(file, "deferred", 4, "-8000")
	if err != nil {
		return nil, err
	}
	return &Store{read: read, write: write, dir: dir}, nil
}

func open(file, lock string, connections int, cache string) (*gorm.DB, error) {
	q := url.Values{"_journal_mode": {"WAL"}, "_foreign_keys": {"on"}, "_busy_timeout": {"600000"}, "_txlock": {lock}, "_synchronous": {"NORMAL"}, "_cache_size": {cache}}
	// No cache of prepared statements: on the one connection that writes, whoever
	// fills it would wait for the connection, its holder for the cache.
	db, err := gorm.Open(sqlite.Open("file:"+file+"?"+q.Encode()), &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: true})
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", file, err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	return db, nil
}

func migrate(db *gorm.DB) error {
	return gormigrate.New(db, gormigrate.DefaultOptions, []*gormigrate.Migration{
		{ID: "0001-spine", Migrate: func(tx *gorm.DB) error { return tx.AutoMigrate(tables...) }},
		{ID: "0002-search", Migrate: func(tx *gorm.DB) error {
			err := tx.Exec(createSearch).Error
			if err != nil && strings.Contains(err.Error(), "fts5") {
				err = errors.New("this program was built without the tag sqlite_fts5, which the search needs; make build sets it")
			}
			return err
		}},
		// Until here a site had one rule, and we listed on every site there was.
		{ID: "0003-prices", Migrate: func(tx *gorm.DB) error {
			if err := tx.AutoMigrate(tables...); err != nil {
				return err
			}
			return tx.Exec("UPDATE sites SET lists = 1, kind = 'catalogue' WHERE kind IS NULL OR kind = ''").Error
		}},
		// The orders that lists of listings are asked for in.
		{ID: "0004-orders", Migrate: func(tx *gorm.DB) error {
			for name, on := range map[string]string{"products_by_title": "products(title COLLATE NOCASE, id)", "listings_by_price": "listings(coalesce(price, -1), id)",
				"listings_by_profit": "listings(coalesce(profit, -9000000000), id)", "listings_by_quantity": "listings(quantity, id)", "listings_by_state": "listings(state, id)"} {
				if err := tx.Exec("CREATE INDEX IF NOT EXISTS " + name + " ON " + on).Error; err != nil {
					return err
				}
			}
			return nil
		}},
		{ID: "0005-product-search", Migrate: createProductSearch},
		// What long lists are found, counted and put in order by.
		{ID: "0006-long-lists", Migrate: func(tx *gorm.DB) error {
			for _, q := range []string{"CREATE INDEX IF NOT EXISTS listings_by_landed ON listings(coalesce(landed, -1), id)", "CREATE INDEX IF NOT EXISTS listings_by_entry ON listings(entry_id, site_id)",
				"CREATE INDEX IF NOT EXISTS plan_lines_waiting ON plan_lines(plan_id, state, verdict)", "DELETE FROM plan_lines WHERE state = 'waiting' AND plan_id NOT IN (SELECT id FROM plans WHERE open)"} {
				if err := tx.Exec(q).Error; err != nil {
					return err
				}
			}
			return nil
		}},
	}).Migrate()
}

// Close closes the data.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.read, s.write} {
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}

// File is the path of the database.
func (s *Store) File() string { return filepath.Join(s.dir, "easymargin.db") }

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
type Tx struct{ db *gorm.DB }

// Do runs fn in one transaction; an error takes everything back.
func (s *Store) Do(ctx context.Context, fn func(tx Tx) error) error {
	return s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error { return fn(Tx{db}) })
}

// Save writes a row, new or known.
func (tx Tx) Save(row any) error { return tx.db.Save(row).Error }

// Create writes a new row and fills in its ID.
func (tx Tx) Create(row any) error { return tx.db.Create(row).Error }

// CreateAll writes a slice of new rows.
func (tx Tx) CreateAll(rows any) error { return tx.db.CreateInBatches(rows, 200).Error }

// Save writes one row by itself.
func (s *Store) Save(ctx context.Context, row any) error {
	return s.write.WithContext(ctx).Save(row).Error
}

// Create writes one new row by itself and fills in its ID.
func (s *Store) Create(ctx context.Context, row any) error {
	return s.write.WithContext(ctx).Create(row).Error
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

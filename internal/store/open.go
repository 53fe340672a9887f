package store

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/gofrs/flock"
	"github.com/mattn/go-sqlite3"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"easymargin/internal/fault"
)

const fileName = "easymargin.db"

// Open opens the data in dir, makes it if it isn't there, and brings its tables
// up to date. Several programs may have it open at once; Lock says which of
// them is the server. Errors are *fault.Error and say what to do.
func Open(dir string) (*Store, error) {
	for _, sub := range []string{"inbox", "pictures"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o700); err != nil {
			return nil, folder(dir, err)
		}
	}
	if err := errors.Join(writable(dir), finishRestore(dir)); err != nil {
		return nil, err
	}
	file := filepath.Join(dir, fileName)
	switch info, err := os.Stat(file); {
	case errors.Is(err, fs.ErrNotExist):
		if err := create(dir); err != nil {
			return nil, err
		}
	case err != nil:
		return nil, folder(dir, err)
	default:
		if err := sound(file, info.Size()); err != nil {
			return nil, err
		}
		if err := os.Chmod(file, 0o600); err != nil {
			return nil, folder(dir, err)
		}
	}
	return open(dir)
}

// create makes new data beside where it will be, and puts it there whole: a
// start that is cut short leaves nothing behind that the next would trip over.
func create(dir string) error {
	next := filepath.Join(dir, "new-"+rand.Text()+".db")
	defer func() {
		for _, end := range []string{"", "-wal", "-shm"} {
			_ = os.Remove(next + end)
		}
	}()
	db, err := connect(next, "immediate", 1, "-8000")
	if err != nil {
		return err
	}
	err = migrate(db, frozen(), func(string) error { return nil })
	pool, perr := db.DB()
	if perr == nil {
		perr = pool.Close()
	}
	if err := errors.Join(err, perr); err != nil {
		return err
	}
	if err := os.Chmod(next, 0o600); err != nil {
		return folder(dir, err)
	}
	// A link fails where another program was first; its data is as good.
	if err := os.Link(next, filepath.Join(dir, fileName)); err != nil && !errors.Is(err, fs.ErrExist) {
		return folder(dir, err)
	}
	return nil
}

func open(dir string) (*Store, error) {
	file := filepath.Join(dir, fileName)
	write, err := connect(
		file,
		"immediate",
		1,
		fmt.Sprintf("-%d", usualCache),
	)
	if err != nil {
		return nil, err
	}
	s := &Store{write: write, dir: dir}
	if err := migrate(write, frozen(), s.copyBefore); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	if s.read, err = connect(file, "deferred", 4, "-8000"); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

func connect(file, lock string, connections int, cache string) (*gorm.DB, error) {
	q := url.Values{
		"_journal_mode": {"WAL"},
		"_foreign_keys": {"on"},
		"_busy_timeout": {"600000"},
		"_txlock":       {lock},
		"_synchronous":  {"NORMAL"},
		"_cache_size":   {cache},
	}
	// No cache of prepared statements: on the one connection that writes, whoever
	// fills it would wait for the connection, its holder for the cache.
	dialect := dialector{
		sqlite.Dialector{DSN: (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: file}).EscapedPath(), RawQuery: q.Encode()}).String()},
		filepath.Dir(file),
	}
	db, err := gorm.Open(dialect, &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: true})
	if err != nil {
		return nil, explain(filepath.Dir(file), fmt.Errorf("opening %s: %w", file, err))
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	if lock == "immediate" {
		if err := db.Exec(fmt.Sprintf("PRAGMA wal_autocheckpoint = %d", usualLog)).Error; err != nil {
			return nil, explain(filepath.Dir(file), err)
		}
	}
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	return db, nil
}

// usualCache is what the writing connection keeps of the data in memory, in KiB:
// the indexes of a million rows, so that adding to them stays in memory. wideCache
// holds what working out a million listings touches, and is held only while that goes on.
const (
	usualCache = 40_000
	wideCache  = 400_000

	// Pages of the log after which they are carried over to the file: those of
	// indexes that long work writes again and again are carried over less often.
	usualLog = 10_000
	wideLog  = 50_000
)

// Widen has the writing connection keep much of the data in memory until it is
// narrowed again: long work that touches all of it does so many times faster.
func (s *Store) Widen(ctx context.Context) (narrow func(), err error) {
	set := func(kib, pages int) error {
		return s.write.WithContext(context.WithoutCancel(ctx)).
			Exec(fmt.Sprintf("PRAGMA cache_size = -%d; PRAGMA wal_autocheckpoint = %d", kib, pages)).Error
	}
	return func() {
		_ = set(usualCache, usualLog)
		_ = s.write.Exec("PRAGMA shrink_memory").Error
	}, set(wideCache, wideLog)
}

// dialector says what SQLite's errors mean to people.
type dialector struct {
	sqlite.Dialector
	dir string
}

func (d dialector) Translate(err error) error {
	if err := outOfBounds(err); err != nil {
		return err
	}
	var e sqlite3.Error
	if errors.As(err, &e) && e.ExtendedCode == sqlite3.ErrConstraintForeignKey {
		return fault.New(fault.Missing, "something that this names isn't there, or isn't there any more; nothing was changed. Look again")
	}
	return explain(d.dir, d.Dialector.Translate(err))
}

// outOfBounds says of a write that a table's CHECK refused which figure it was; nil
// of any other error. The names of the checks are table and column.
func outOfBounds(err error) error {
	var e sqlite3.Error
	if !errors.As(err, &e) || e.ExtendedCode != sqlite3.ErrConstraintCheck {
		return nil
	}
	_, name, _ := strings.Cut(e.Error(), "failed: ")
	return fault.New(fault.Invalid, "a figure is beyond what can be kept (%s): amounts reach to ten million million, counts from 0 to a thousand million. Nothing was changed", name)
}

// explain turns errors that come from the disk, not from us, into words.
func explain(dir string, err error) error {
	var e sqlite3.Error
	if !errors.As(err, &e) {
		return err
	}
	if e.SystemErrno == syscall.ENOSPC || e.SystemErrno == syscall.EDQUOT {
		e.Code = sqlite3.ErrFull // as it is for what isn't written to the file itself
	}
	switch e.Code {
	case sqlite3.ErrFull:
		return fault.New(fault.Full, "the disk that holds %s is full; nothing was changed. Make room there and try again", dir)
	case sqlite3.ErrReadonly:
		return fault.New(fault.Full, "%s can't be written to (%v); nothing was changed. Give the program leave to write there", dir, e)
	case sqlite3.ErrCorrupt, sqlite3.ErrNotADB:
		return damaged(filepath.Join(dir, fileName), e.Error())
	}
	return err
}

// Holds tells whether a path is the folder of the data, lies in it, or leads there by a
// link.
func (s *Store) Holds(path string) bool {
	at, err := filepath.EvalSymlinks(path)
	if err != nil {
		at = path
	}
	dir, err := filepath.Abs(s.dir)
	if err != nil {
		return true // nobody knows: then it may be
	}
	if real, err := filepath.EvalSymlinks(dir); err == nil {
		dir = real
	}
	rel, err := filepath.Rel(dir, at)
	return err == nil && filepath.IsLocal(rel)
}

// Explain says in words what an error of the data's disk means; others are as they were.
func (s *Store) Explain(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EROFS) || errors.Is(err, fs.ErrPermission) {
		return folder(s.dir, err)
	}
	return explain(s.dir, err)
}

func folder(dir string, err error) error {
	switch {
	case errors.Is(err, syscall.ENOSPC):
		return fault.New(fault.Full, "the disk that holds %s is full; make room there and start again", dir)
	case errors.Is(err, syscall.EROFS), errors.Is(err, fs.ErrPermission):
		return fault.New(
			fault.Full,
			"the folder %s can't be written to (%v); give the program leave to write there, or choose another with --data",
			dir,
			err,
		)
	}
	return fault.New(fault.Full, "the folder %s can't be used for the data: %v", dir, err)
}

func damaged(file, what string) error {
	return fault.New(
		fault.Conflict,
		"the data in %s is damaged (%s); nothing was changed. Put a copy of it back, or move the file away to begin anew",
		file,
		what,
	)
}

// writable finds out before anything is begun whether the folder takes files.
func writable(dir string) error {
	f, err := os.CreateTemp(dir, "try-")
	if err != nil {
		return folder(dir, err)
	}
	_, err = f.WriteString("x")
	if err := errors.Join(err, f.Close(), os.Remove(f.Name())); err != nil {
		return folder(dir, err)
	}
	return nil
}

// sound looks at the first bytes of a file: is it a database at all, and whole?
// (The SQLite file format, section 1.3.)
func sound(file string, size int64) error {
	if size == 0 {
		return damaged(file, "it is empty")
	}
	f, err := os.Open(file)
	if err != nil {
		return folder(filepath.Dir(file), err)
	}
	defer f.Close()
	var head [100]byte
	if _, err := io.ReadFull(f, head[:]); err != nil || !bytes.HasPrefix(head[:], []byte("SQLite format 3\x00")) {
		return damaged(file, "it is no database")
	}
	page := int64(binary.BigEndian.Uint16(head[16:]))
	if page == 1 {
		page = 65536
	}
	pages := int64(binary.BigEndian.Uint32(head[28:]))
	log, err := os.Stat(file + "-wal")
	if logged := err == nil && log.Size() > 0; page < 512 || !logged && size < pages*page {
		return damaged(file, "its end is missing")
	}
	return nil
}

// Lock makes this program the server of the data: only one is at a time. It
// holds until the store is closed. The command line needs no lock.
func (s *Store) Lock() error {
	s.lock = flock.New(filepath.Join(s.dir, "server.lock"), flock.SetPermissions(0o600))
	mine, err := s.lock.TryLock()
	if err != nil {
		return folder(s.dir, err)
	}
	if !mine {
		s.lock = nil
		return fault.New(fault.Conflict, "another Easy Margin server has the data in %s open; use that one, or stop it first", s.dir)
	}
	return nil
}

// Close closes the data.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.read, s.write} {
		if db == nil {
			continue
		}
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	if s.lock != nil {
		errs = append(errs, s.lock.Unlock())
	}
	return errors.Join(errs...)
}

// copyBefore keeps a copy of the data as it is, before its tables are changed.
func (s *Store) copyBefore(to string) error {
	name := filepath.Join(s.dir, "before-"+to+".db")
	if err := os.Remove(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return folder(s.dir, err)
	}
	if err := s.write.Exec("VACUUM INTO ?", name).Error; err != nil {
		return fmt.Errorf("keeping a copy before the tables are changed: %w", err)
	}
	return os.Chmod(name, 0o600)
}

// ChangedElsewhere tells whether another program has changed the data since it
// was last asked. Only the server asks. While this one writes, nobody else has
// and nobody is kept waiting for the answer.
func (s *Store) ChangedElsewhere(ctx context.Context) (bool, error) {
	pool, err := s.write.DB()
	if err != nil || pool.Stats().InUse > 0 {
		return false, err
	}
	var v int64
	// The connection that writes sees its own commits for no change.
	if err := s.write.WithContext(ctx).Raw("PRAGMA data_version").Scan(&v).Error; err != nil {
		return false, err
	}
	before := s.version.Swap(v)
	return before != 0 && before != v, nil
}

// Unlock lets another program be the server of the data.
func (s *Store) Unlock() error {
	if s.lock == nil {
		return nil
	}
	err := s.lock.Unlock()
	s.lock = nil
	return err
}

package store

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"gorm.io/gorm"

	"easymargin/internal/fault"
)

// A backup is one SQLite file: the data as it was at one moment, with the files
// that belong to it in a table of their own. Pictures that an address gives are
// left out; they are fetched again.
const keptFiles = "CREATE TABLE kept_files (name text PRIMARY KEY, content blob NOT NULL) WITHOUT ROWID"

// Backup writes a copy of the data to a file, as it is at one moment, while
// others work on it. The file must not be there yet.
func (s *Store) Backup(ctx context.Context, file string) error {
	if _, err := os.Stat(file); !errors.Is(err, fs.ErrNotExist) {
		return fault.New(fault.Conflict, "%s is there already; a backup overwrites nothing. Name another file", file)
	}
	next := file + "." + rand.Text() + ".part"
	defer func() { _ = removeData(next) }()
	if err := s.read.WithContext(ctx).Exec("VACUUM INTO ?", next).Error; err != nil {
		return fmt.Errorf("copying the data to %s: %w", file, s.Explain(err))
	}
	if err := os.Chmod(next, 0o600); err != nil {
		return folder(filepath.Dir(file), err)
	}
	db, err := connect(next, "immediate", 1, "-8000")
	if err != nil {
		return err
	}
	err = errors.Join(s.keepFiles(db), closeDB(db))
	if err != nil {
		return err
	}
	if err := flush(next); err != nil {
		return folder(filepath.Dir(file), err)
	}
	if err := os.Link(next, file); err != nil { // fails where somebody else was first
		return folder(filepath.Dir(file), err)
	}
	return nil
}

// keepFiles puts the files that the data names, and the key of its passwords,
// into a copy of it.
func (s *Store) keepFiles(db *gorm.DB) error {
	if err := db.Exec("PRAGMA journal_mode = DELETE").Error; err != nil { // so that the copy is one file
		return err
	}
	if err := db.Exec(keptFiles).Error; err != nil {
		return err
	}
	var names []string
	if err := db.Raw("SELECT file FROM feeds WHERE file <> '' UNION SELECT file FROM place_files WHERE file <> ''").Scan(&names).Error; err != nil {
		return err
	}
	paths := map[string]string{"secret.key": filepath.Join(s.dir, "secret.key")}
	for _, n := range names {
		paths["inbox/"+n] = s.Inbox(n)
	}
	var digests []string
	if err := db.Raw("SELECT digest FROM pictures WHERE url LIKE '" + ownPicture + "%' OR url LIKE '" + madePicture + "%'").Scan(&digests).Error; err != nil {
		return err
	}
	for _, d := range digests {
		for _, small := range []bool{false, true} {
			path := s.PictureFile(d, small)
			paths["pictures/"+filepath.Base(path)] = path
		}
	}
	for name, path := range paths {
		content, err := os.ReadFile(path)
		if errors.Is(err, fs.ErrNotExist) {
			continue // tidied away since, or there is none
		}
		if err == nil {
			err = db.Exec("INSERT INTO kept_files VALUES (?, ?)", name, content).Error
		}
		if err != nil {
			return fmt.Errorf("keeping %s: %w", name, err)
		}
	}
	return nil
}

// Restore puts a backup into a folder. Data that is there already is only
// replaced where overwrite says so, and kept beside it; what serves it must be
// stopped first. The backup is looked at before anything is touched. It gives
// where the data that was there is kept; "" where there was none.
func Restore(dir, file string, overwrite bool) (kept string, err error) {
	info, err := os.Stat(file)
	if err != nil {
		return "", fault.New(fault.Missing, "the backup %s can't be read: %v", file, err)
	}
	if err := sound(file, info.Size()); err != nil {
		return "", fault.New(fault.Invalid, "%s is no backup that can be put back: %v", file, err)
	}
	for _, sub := range []string{"inbox", "pictures"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o700); err != nil {
			return "", folder(dir, err)
		}
	}
	target := filepath.Join(dir, fileName)
	_, err = os.Stat(target)
	there := err == nil
	if there && !overwrite {
		return "", fault.New(fault.Conflict, "there is data in %s already; nothing was touched. Say --overwrite to put the backup in its place", dir)
	}
	lock := flock.New(filepath.Join(dir, "server.lock"), flock.SetPermissions(0o600))
	mine, err := lock.TryLock()
	if err != nil {
		return "", folder(dir, err)
	}
	if !mine {
		return "", fault.New(fault.Conflict, "an Easy Margin server has the data in %s open; stop it first", dir)
	}
	defer func() { _ = lock.Unlock() }()
	next := filepath.Join(dir, "restore-"+rand.Text()+".db")
	defer func() { _ = removeData(next) }()
	if err := unpack(file, next, dir); err != nil {
		return "", err
	}
	if there {
		kept = filepath.Join(dir, "before-restore-"+rand.Text()[:8]+".db")
		for _, end := range []string{"", "-wal", "-shm"} {
			if err := os.Rename(target+end, kept+end); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return "", folder(dir, err)
			}
		}
	}
	if err := os.Rename(next, target); err != nil {
		return kept, folder(dir, err)
	}
	return kept, nil
}

// unpack copies a backup, looks whether it is whole, and puts its files into
// the folder.
func unpack(file, next, dir string) error {
	for _, end := range []string{"", "-wal"} { // the second only where a live file was copied with what belongs to it
		if err := copyFile(file+end, next+end); err != nil && (end == "" || !errors.Is(err, fs.ErrNotExist)) {
			return folder(dir, err)
		}
	}
	if err := os.Chmod(next, 0o600); err != nil {
		return folder(dir, err)
	}
	db, err := connect(next, "immediate", 1, "-8000")
	if err != nil {
		return err
	}
	var said string
	if err := db.Raw("PRAGMA integrity_check(1)").Scan(&said).Error; err != nil || said != "ok" {
		return errors.Join(fault.New(fault.Invalid, "the backup %s is damaged (%s); nothing was touched", file, said), closeDB(db))
	}
	err = errors.Join(putFiles(db, dir), migrate(db, frozen(), func(string) error { return nil }), closeDB(db))
	if err == nil {
		err = flush(next)
	}
	return err
}

// copyFile copies a file to where there is none.
func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}

// putFiles takes the files out of a copy of a backup. Those of the folder that
// have the same name are the same: they are named by chance.
func putFiles(db *gorm.DB, dir string) error {
	var has int64
	if err := db.Raw("SELECT count(*) FROM sqlite_master WHERE name = 'kept_files'").Scan(&has).Error; err != nil || has == 0 {
		return err
	}
	rows, err := db.Raw("SELECT name, content FROM kept_files").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		var content []byte
		if err := rows.Scan(&name, &content); err != nil {
			return err
		}
		path := filepath.Join(dir, "inbox", filepath.Base(name))
		switch {
		case name == "secret.key":
			path = filepath.Join(dir, name)
		case strings.HasPrefix(name, "pictures/"):
			path = filepath.Join(dir, "pictures", filepath.Base(name))
		}
		if err := os.WriteFile(path, content, 0o600); err != nil {
			return folder(dir, err)
		}
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	return db.Exec("DROP TABLE kept_files").Error
}

// removeData removes a file of data with what SQLite keeps beside it.
func removeData(file string) error {
	var errs []error
	for _, end := range []string{"", "-wal", "-shm", "-journal"} {
		if err := os.Remove(file + end); !errors.Is(err, fs.ErrNotExist) {
			errs = append(errs, err)
		}
	}
	return errors.Join(errs...)
}

// flush has a file written through to the disk.
func flush(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

func closeDB(db *gorm.DB) error {
	pool, err := db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

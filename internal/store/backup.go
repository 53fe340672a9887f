package store

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"filippo.io/age"
	"gorm.io/gorm"

	"easymargin/internal/fault"
)

// A backup is one SQLite file: the data as it was at one moment, with the files
// that belong to it in a table of their own. Pictures that an address gives are
// left out; they are fetched again.
const keptFiles = "CREATE TABLE kept_files (name text PRIMARY KEY, content blob NOT NULL) WITHOUT ROWID"

// BackupOptions say what of the key for kept passwords goes into a backup. The zero
// value leaves it out: whoever finds the backup then can't read them.
type BackupOptions struct {
	WithKey    bool   // the key as it is
	Passphrase string // the key sealed with it (age, age-encryption.org/v1); "": not
}

// Backup writes a copy of the data to a file, as it is at one moment, while
// others work on it. The file must not be there yet.
func (s *Store) Backup(ctx context.Context, file string, o BackupOptions) error {
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
	err = errors.Join(s.keepFiles(db, o), closeDB(db))
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

// keepFiles puts the files that the data names into a copy of it, and the key of its
// passwords where that is wanted.
func (s *Store) keepFiles(db *gorm.DB, o BackupOptions) error {
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
	if err := s.keepKey(db, o); err != nil {
		return err
	}
	paths := map[string]string{}
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

// keepKey puts the key of kept passwords into a copy of the data, as it is or sealed.
func (s *Store) keepKey(db *gorm.DB, o BackupOptions) error {
	if !o.WithKey && o.Passphrase == "" {
		return nil
	}
	key, err := os.ReadFile(filepath.Join(s.dir, keyName))
	if errors.Is(err, fs.ErrNotExist) {
		return nil // nothing was sealed yet
	}
	name := keyName
	if err == nil && o.Passphrase != "" {
		name += sealedEnd
		key, err = seal(key, o.Passphrase)
	}
	if err != nil {
		return fmt.Errorf("the key for kept passwords: %w", err)
	}
	return db.Exec("INSERT INTO kept_files VALUES (?, ?)", name, key).Error
}

// sealedEnd is the end of the name of a sealed key.
const sealedEnd = ".age"

func seal(key []byte, passphrase string) ([]byte, error) {
	to, err := age.NewScryptRecipient(passphrase)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w, err := age.Encrypt(&out, to)
	if err != nil {
		return nil, err
	}
	_, err = w.Write(key)
	err = errors.Join(err, w.Close())
	return out.Bytes(), err
}

func unseal(sealed []byte, passphrase string) ([]byte, error) {
	by, err := age.NewScryptIdentity(passphrase)
	if err != nil {
		return nil, err
	}
	r, err := age.Decrypt(bytes.NewReader(sealed), by)
	if err != nil {
		return nil, fault.New(fault.Invalid, "the backup's key can't be opened with this passphrase; nothing was touched")
	}
	return io.ReadAll(r)
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

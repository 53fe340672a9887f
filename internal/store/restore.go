package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"gorm.io/gorm"

	"easymargin/internal/fault"
)

// RestoreOptions say how a backup is put into a folder.
type RestoreOptions struct {
	Overwrite bool // data that is there is replaced, and kept beside it
	Anyway    bool // though an invariant doesn't hold in the backup
	// Passphrase gives what the backup's key was sealed with; it is asked where there is
	// a sealed key.
	Passphrase func() (string, error)
}

// Restored is what came of restoring.
type Restored struct {
	Kept  string   // where the data that was there is kept; "": there was none
	Again []string // what must be typed in again: it was sealed with a key that isn't here
}

// What is made ready beside the data, and then put in its place all at once.
const (
	readyDir = "restore-ready"
	keptName = "kept" // in it: where the data that is there goes
)

// Restore puts a backup into a folder. What serves the folder must be stopped first.
// The backup is unpacked beside the data, opened, brought up to date and checked before
// anything is touched; from then on it is put in place, if need be by the next who
// opens the folder.
func Restore(ctx context.Context, dir, file string, o RestoreOptions) (Restored, error) {
	var out Restored
	info, err := os.Stat(file)
	if err != nil {
		return out, fault.New(fault.Missing, "the backup %s can't be read: %v", file, err)
	}
	if err := sound(file, info.Size()); err != nil {
		return out, fault.New(fault.Invalid, "%s is no backup that can be put back: %v", file, err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return out, folder(dir, err)
	}
	lock := flock.New(filepath.Join(dir, "server.lock"), flock.SetPermissions(0o600))
	mine, err := lock.TryLock()
	if err != nil {
		return out, folder(dir, err)
	}
	if !mine {
		return out, fault.New(fault.Conflict, "an Easy Margin server has the data in %s open; stop it first", dir)
	}
	defer func() { _ = lock.Unlock() }()
	if err := finishRestore(dir); err != nil { // one that was cut short comes first
		return out, err
	}
	_, err = os.Stat(filepath.Join(dir, fileName))
	there := err == nil
	if there && !o.Overwrite {
		return out, fault.New(fault.Conflict, "there is data in %s already; nothing was touched. Say --overwrite to put the backup in its place", dir)
	}
	stage := filepath.Join(dir, "restore-"+rand.Text())
	defer func() { _ = os.RemoveAll(stage) }()
	if err := unpack(file, stage); err != nil {
		return out, err
	}
	if out.Again, err = prepareRestore(ctx, dir, stage, o); err != nil {
		return out, err
	}
	name := ""
	if there {
		name = "before-restore-" + rand.Text()[:8] + ".db"
		out.Kept = filepath.Join(dir, name)
	}
	if err := os.WriteFile(filepath.Join(stage, keptName), []byte(name), 0o600); err != nil {
		return out, folder(dir, err)
	}
	if err := os.Rename(stage, filepath.Join(dir, readyDir)); err != nil { // from here on it is restored
		return out, folder(dir, err)
	}
	return out, finishRestore(dir)
}

// unpack copies a backup to a folder of its own, with the files that are in it, and
// brings it up to date.
func unpack(file, stage string) error {
	for _, sub := range []string{"inbox", "pictures"} {
		if err := os.MkdirAll(filepath.Join(stage, sub), 0o700); err != nil {
			return folder(stage, err)
		}
	}
	next := filepath.Join(stage, fileName)
	for _, end := range []string{"", "-wal"} { // the second only where a live file was copied with what belongs to it
		if err := copyFile(file+end, next+end); err != nil && (end == "" || !errors.Is(err, fs.ErrNotExist)) {
			return folder(stage, err)
		}
	}
	if err := os.Chmod(next, 0o600); err != nil {
		return folder(stage, err)
	}
	db, err := connect(next, "immediate", 1, "-8000")
	if err != nil {
		return err
	}
	var said string
	if err := db.Raw("PRAGMA quick_check(1)").Scan(&said).Error; err != nil || said != "ok" {
		return errors.Join(fault.New(fault.Invalid, "the backup %s is damaged (%s); nothing was touched", file, said), closeDB(db))
	}
	return errors.Join(putFiles(db, stage), migrate(db, frozen(), func(string) error { return nil }), closeDB(db))
}

// putFiles takes the files out of a copy of a backup.
func putFiles(db *gorm.DB, stage string) error {
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
		path := filepath.Join(stage, "inbox", filepath.Base(name))
		switch {
		case name == keyName || name == keyName+sealedEnd:
			path = filepath.Join(stage, name)
		case strings.HasPrefix(name, "pictures/"):
			path = filepath.Join(stage, "pictures", filepath.Base(name))
		}
		if err := os.WriteFile(path, content, 0o600); err != nil {
			return folder(stage, err)
		}
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	return db.Exec("DROP TABLE kept_files").Error
}

// prepareRestore opens what was unpacked, with the key that fits, and looks whether all
// is well with it. It says what must be typed in again.
func prepareRestore(ctx context.Context, dir, stage string, o RestoreOptions) ([]string, error) {
	if err := stageKey(dir, stage, o); err != nil {
		return nil, err
	}
	s, err := open(stage)
	if err != nil {
		return nil, err
	}
	again, err := s.forgetUnreadable(ctx)
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	list, err := s.Check(ctx)
	if err = errors.Join(err, s.Close()); err != nil {
		return nil, err
	}
	if broken := Broken(list); broken != "" && !o.Anyway {
		return nil, fault.New(fault.Invalid, "the backup isn't sound (%s); nothing was touched. Say --anyway to put it back as it is", broken)
	}
	return again, flush(filepath.Join(stage, fileName))
}

// stageKey has the key there that kept passwords are read with: the backup's, else the
// folder's own.
func stageKey(dir, stage string, o RestoreOptions) error {
	to := filepath.Join(stage, keyName)
	sealed, err := os.ReadFile(to + sealedEnd)
	switch {
	case err == nil && o.Passphrase != nil:
		passphrase, err := o.Passphrase()
		if err != nil {
			return err
		}
		if passphrase != "" {
			key, err := unseal(sealed, passphrase)
			if err != nil {
				return err
			}
			if err := os.WriteFile(to, key, 0o600); err != nil {
				return folder(stage, err)
			}
		}
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return folder(stage, err)
	}
	if err := os.Remove(to + sealedEnd); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return folder(stage, err)
	}
	if _, err := os.Stat(to); err == nil {
		return nil
	}
	if err := copyFile(filepath.Join(dir, keyName), to); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return folder(stage, err)
	}
	return nil
}

// forgetUnreadable forgets passwords that were sealed with another key than the one
// that is here, and says whose they were.
func (s *Store) forgetUnreadable(ctx context.Context) ([]string, error) {
	var again []string
	lost := func(sealed, what string) bool {
		if sealed == "" {
			return false
		}
		if _, err := s.Unseal(sealed); err == nil {
			return false
		}
		again = append(again, what)
		return true
	}
	err := s.Do(ctx, func(tx Tx) error {
		var sources []Source
		var files []LightFile
		var people []Person
		if err := errors.Join(tx.db.Where("password <> ''").Find(&sources).Error, tx.db.Where("password <> ''").Find(&files).Error, tx.db.Where("code <> ''").Find(&people).Error); err != nil {
			return err
		}
		for i := range sources {
			if lost(sources[i].Password, "the password for fetching "+sources[i].Name) {
				if err := tx.Update(&sources[i], map[string]any{"password": ""}); err != nil {
					return err
				}
			}
		}
		for i := range files {
			if lost(files[i].Password, "the password that "+files[i].Name+" is given with") {
				if err := tx.Update(&files[i], map[string]any{"password": ""}); err != nil {
					return err
				}
			}
		}
		for i := range people {
			if lost(people[i].Code, "the one-time code of "+people[i].Name+", which isn't asked for until it is set up again") {
				if err := tx.Update(&people[i], map[string]any{"code": "", "code_on": false}); err != nil {
					return err
				}
			}
		}
		return tx.forgetMailPassword(func(sealed string) bool { return lost(sealed, "the password of the mail server") })
	})
	return again, err
}

// forgetMailPassword forgets the mail server's password where lost says so.
func (tx Tx) forgetMailPassword(lost func(sealed string) bool) error {
	set, err := tx.Setting(MailSetting)
	if err != nil || set.Value == "" {
		return err
	}
	var all map[string]any
	if err := json.Unmarshal([]byte(set.Value), &all); err != nil {
		return fmt.Errorf("how mail is sent: %w", err)
	}
	sealed, _ := all["password"].(string)
	if !lost(sealed) {
		return nil
	}
	delete(all, "password")
	text, err := json.Marshal(all)
	if err != nil {
		return err
	}
	return tx.PutSetting(MailSetting, string(text))
}

// finishRestore puts what a restore made ready in its place, where there is such: each
// step may be done again, so that it doesn't matter where the last was cut short.
func finishRestore(dir string) error {
	ready, target := filepath.Join(dir, readyDir), filepath.Join(dir, fileName)
	name, err := os.ReadFile(filepath.Join(ready, keptName))
	if errors.Is(err, fs.ErrNotExist) {
		return ifMissing(os.RemoveAll(ready)) // nothing is ready, or all of it is in place
	}
	if err != nil {
		return folder(dir, err)
	}
	for _, sub := range []string{"inbox", "pictures"} {
		if err := moveAll(filepath.Join(ready, sub), filepath.Join(dir, sub)); err != nil {
			return folder(dir, err)
		}
	}
	if next := filepath.Join(ready, fileName); exists(next) {
		if len(name) > 0 {
			if err := keepAside(dir, filepath.Join(dir, string(name))); err != nil {
				return folder(dir, err)
			}
		}
		if key := filepath.Join(ready, keyName); exists(key) {
			if err := os.Rename(key, filepath.Join(dir, keyName)); err != nil {
				return folder(dir, err)
			}
		}
		if err := os.Rename(next, target); err != nil {
			return folder(dir, err)
		}
	}
	if err := os.Remove(filepath.Join(ready, keptName)); err != nil {
		return folder(dir, err)
	}
	return ifMissing(os.RemoveAll(ready))
}

// keepAside moves the data of a folder to a file beside it, with the key it is read with.
func keepAside(dir, kept string) error {
	for _, end := range []string{"", "-wal", "-shm"} {
		if err := ifMissing(os.Rename(filepath.Join(dir, fileName)+end, kept+end)); err != nil {
			return err
		}
	}
	if exists(kept + ".key") {
		return nil
	}
	return ifMissing(os.Link(filepath.Join(dir, keyName), kept+".key"))
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

func ifMissing(err error) error {
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// moveAll moves the files of a folder to another. Those of the same name are the same.
func moveAll(from, to string) error {
	list, err := os.ReadDir(from)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err := errors.Join(err, os.MkdirAll(to, 0o700)); err != nil {
		return err
	}
	for _, f := range list {
		if err := os.Rename(filepath.Join(from, f.Name()), filepath.Join(to, f.Name())); err != nil {
			return err
		}
	}
	return nil
}

package store

import (
	"crypto/sha256"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// filesOf is what a folder has, by name: each file's digest, but for what only says who
// has it open.
func filesOf(t *testing.T, dir string) map[string]string {
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || d.Name() == "server.lock" {
			return err
		}
		text, err := os.ReadFile(path)
		rel, relErr := filepath.Rel(dir, path)
		require.NoError(t, relErr)
		out[rel] = fmt.Sprintf("%x", sha256.Sum256(text))
		return err
	}))
	return out
}

// withSecrets is a folder in which every kind of kept password is.
func withSecrets(t *testing.T, dir string) {
	s := shopped(t, dir)
	sealed, err := s.Seal("sesame")
	require.NoError(t, err)
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		require.NoError(t, tx.Update(&Source{ID: 1}, map[string]any{"password": sealed}))
		require.NoError(t, tx.Create(&LightFile{SiteID: 1, Name: "stock.csv", Part: LightAll, Only: []string{}, Layout: "{}", Target: "https://x.example/", Password: sealed}))
		require.NoError(t, tx.Update(&Person{ID: 1}, map[string]any{"code": sealed, "code_on": true}))
		return tx.PutSetting(MailSetting, `{"host":"mail.example","password":"`+sealed+`"}`)
	}))
	require.NoError(t, s.Close())
}

func reopened(t *testing.T, dir string) *Store {
	s, err := Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// What can't be put back touches nothing: no key, no file, no byte of the data.
func TestARefusedRestoreTouchesNothing(t *testing.T) {
	from := t.TempDir()
	withSecrets(t, from)
	s := reopened(t, from)
	file := func(name string, o BackupOptions) string {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, s.Backup(t.Context(), path, o))
		return path
	}
	plain, sealed := file("plain.db", BackupOptions{WithKey: true}), file("sealed.db", BackupOptions{Passphrase: "tide and marsh"})
	change := func(path, query string) string {
		db, err := connect(path, "immediate", 1, "-8000")
		require.NoError(t, err)
		require.NoError(t, db.Exec("PRAGMA journal_mode = DELETE").Error)
		require.NoError(t, db.Exec("PRAGMA foreign_keys = OFF").Error)
		require.NoError(t, db.Exec(query).Error)
		require.NoError(t, closeDB(db))
		return path
	}
	dir := t.TempDir()
	there := opened(t, dir)
	_, err := there.Seal("own")
	require.NoError(t, err)
	require.NoError(t, there.Close())
	before := filesOf(t, dir)
	require.Contains(t, before, "secret.key")
	wrong := func() (string, error) { return "not this one", nil }
	for name, try := range map[string]struct {
		file, words string
		pass        func() (string, error)
	}{
		"unsound":          {change(file("unsound.db", BackupOptions{WithKey: true}), "UPDATE listing_sums SET listings = 99"), "isn't sound", nil},
		"of a newer one":   {change(file("newer.db", BackupOptions{WithKey: true}), "INSERT INTO migrations VALUES ('9999_later')"), "another version", nil},
		"wrong passphrase": {sealed, "can't be opened", wrong},
		"no table left":    {change(file("bare.db", BackupOptions{WithKey: true}), "DROP TABLE settings"), "", nil},
	} {
		_, err := Restore(t.Context(), dir, try.file, RestoreOptions{Overwrite: true, Passphrase: try.pass})
		assert.ErrorContains(t, err, try.words, name)
		assert.Equal(t, before, filesOf(t, dir), name)
	}
	_, err = Restore(t.Context(), dir, plain, RestoreOptions{})
	assert.ErrorContains(t, err, "--overwrite")
	assert.Equal(t, before, filesOf(t, dir))
}

// Without its key a backup gives no password away: what was sealed is said, to be typed
// in again, and a code that nobody could show is asked for no more.
func TestABackupGoesWithoutItsKeyUnlessAskedFor(t *testing.T) {
	from := t.TempDir()
	withSecrets(t, from)
	s := reopened(t, from)
	key, err := os.ReadFile(filepath.Join(from, "secret.key"))
	require.NoError(t, err)
	for name, c := range map[string]struct {
		o     BackupOptions
		pass  string
		again int
	}{
		"without": {BackupOptions{}, "", 4}, "with it": {BackupOptions{WithKey: true}, "", 0}, "sealed": {BackupOptions{Passphrase: "tide and marsh"}, "tide and marsh", 0}, "sealed, and forgotten": {BackupOptions{Passphrase: "tide and marsh"}, "", 4},
	} {
		t.Run(name, func(t *testing.T) {
			file, dir := filepath.Join(t.TempDir(), "copy.db"), filepath.Join(t.TempDir(), "data")
			require.NoError(t, s.Backup(t.Context(), file, c.o))
			text, err := os.ReadFile(file)
			require.NoError(t, err)
			if c.o.WithKey {
				assert.Contains(t, string(text), string(key))
			} else {
				assert.NotContains(t, string(text), string(key))
			}
			out, err := Restore(t.Context(), dir, file, RestoreOptions{Passphrase: func() (string, error) { return c.pass, nil }})
			require.NoError(t, err)
			assert.Len(t, out.Again, c.again, "%v", out.Again)
			r := reopened(t, dir)
			source, err := Get[Source](t.Context(), r, 1)
			require.NoError(t, err)
			owner, err := Get[Person](t.Context(), r, 1)
			require.NoError(t, err)
			assert.Equal(t, c.again == 0, owner.CodeOn)
			if c.again > 0 {
				assert.Empty(t, source.Password)
				assert.Contains(t, fmt.Sprint(out.Again), "the password of the mail server")
				return
			}
			again, err := r.Unseal(source.Password)
			require.NoError(t, err)
			assert.Equal(t, "sesame", again)
		})
	}
}

// However far a restore came before it was cut short, the next who opens the folder
// ends it.
func TestARestoreThatWasCutShortIsEnded(t *testing.T) {
	from := t.TempDir()
	withSecrets(t, from)
	s := reopened(t, from)
	require.NoError(t, os.WriteFile(s.Inbox("in-1"), []byte("ref,title\n"), 0o600))
	file := filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, s.Backup(t.Context(), file, BackupOptions{WithKey: true}))
	move := func(t *testing.T, from, to string) { require.NoError(t, os.Rename(from, to)) }
	steps := []func(t *testing.T, dir, ready string){
		func(*testing.T, string, string) {},
		func(t *testing.T, dir, ready string) {
			move(t, filepath.Join(ready, "inbox", "in-1"), filepath.Join(dir, "inbox", "in-1"))
		},
		func(t *testing.T, dir, _ string) {
			move(t, filepath.Join(dir, fileName), filepath.Join(dir, "before.db"))
		},
		func(t *testing.T, dir, ready string) {
			move(t, filepath.Join(ready, keyName), filepath.Join(dir, keyName))
		},
		func(t *testing.T, dir, ready string) {
			move(t, filepath.Join(ready, fileName), filepath.Join(dir, fileName))
		},
		func(t *testing.T, _, ready string) { require.NoError(t, os.Remove(filepath.Join(ready, keptName))) },
	}
	for cut := range len(steps) {
		t.Run(fmt.Sprint("after ", cut), func(t *testing.T) {
			dir := t.TempDir()
			there := opened(t, dir)
			_, err := there.Seal("own")
			require.NoError(t, err)
			require.NoError(t, there.Close())
			ready := filepath.Join(dir, readyDir)
			require.NoError(t, unpack(file, ready))
			_, err = prepareRestore(t.Context(), dir, ready, RestoreOptions{})
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(filepath.Join(ready, keptName), []byte("before.db"), 0o600))
			for _, do := range steps[:cut+1] {
				do(t, dir, ready)
			}
			r := reopened(t, dir)
			l, err := Get[Listing](t.Context(), r, 1)
			require.NoError(t, err)
			assert.Equal(t, "A", l.SKU)
			source, err := Get[Source](t.Context(), r, 1)
			require.NoError(t, err)
			plain, err := r.Unseal(source.Password)
			require.NoError(t, err)
			assert.Equal(t, "sesame", plain)
			assert.FileExists(t, r.Inbox("in-1"))
			assert.FileExists(t, filepath.Join(dir, "before.db"))
			assert.NoDirExists(t, ready)
		})
	}
}

package store_test

import (
	"bytes"
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

func file(dir string) string { return filepath.Join(dir, "easymargin.db") }

func TestOneServerAtATime(t *testing.T) {
	dir := t.TempDir()
	first := open(t, dir)
	require.NoError(t, first.Lock())
	second := open(t, dir) // the command line works beside it
	put(t, second, &store.Supplier{Name: "Fernhollow", CreatedAt: at})
	err := second.Lock()
	require.ErrorContains(t, err, dir)
	assert.ErrorContains(t, err, "another Easy Margin server")
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	require.NoError(t, first.Close())
	require.NoError(t, second.Lock(), "once the first has ended")
}

func TestOnlyItsOwnerReadsTheData(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.Lock())
	put(t, s, &store.Supplier{Name: "Fernhollow", CreatedAt: at})
	_, err := s.Seal("secret")
	require.NoError(t, err)
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		require.NoError(t, err)
		info, err := d.Info()
		require.NoError(t, err)
		if path != dir {
			assert.Zero(t, info.Mode().Perm()&0o077, "%s is %v", path, info.Mode())
		}
		return nil
	}))
}

func TestFilesThatAreNoDataAreRefusedUntouched(t *testing.T) {
	whole := t.TempDir()
	s := open(t, whole)
	put(t, s, &store.Supplier{Name: "Fernhollow", CreatedAt: at})
	require.NoError(t, s.Close())
	text, err := os.ReadFile(file(whole))
	require.NoError(t, err)
	for name, c := range map[string]struct {
		text  []byte
		words string
	}{
		"nothing in it":   {nil, "it is empty"},
		"something else":  {[]byte("ref,title,cost\nA,Mug,1.00\n"), "it is no database"},
		"cut off":         {text[:len(text)-5000], "its end is missing"},
		"the first bytes": {text[:60], "it is no database"},
		"a hole in it":    {append(bytes.Clone(text[:4096]), bytes.Repeat([]byte{0xff}, len(text)-4096)...), "damaged"},
	} {
		dir := t.TempDir()
		require.NoError(t, os.WriteFile(file(dir), c.text, 0o600))
		_, err := store.Open(dir)
		require.ErrorContains(t, err, c.words, name)
		assert.ErrorContains(t, err, "Put a copy of it back", name)
		assert.ErrorContains(t, err, file(dir), name)
		now, err := os.ReadFile(file(dir))
		require.NoError(t, err)
		assert.Equal(t, len(c.text), len(now), "%s: nothing was changed", name)
	}
}

func TestAFolderThatCantBeUsedIsNamed(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	require.NoError(t, os.WriteFile(dir, []byte("a file"), 0o600))
	_, err := store.Open(dir)
	require.ErrorContains(t, err, dir)
	assert.Equal(t, fault.Full, fault.KindOf(err))
	if os.Getuid() == 0 {
		return // whom no folder refuses anything
	}
	dir = t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o500))
	_, err = store.Open(dir)
	assert.ErrorContains(t, err, "can't be written to")
}

func TestAFullDiskIsSaidAndChangesNothing(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	put(t, s, &store.Supplier{Name: "Fernhollow", CreatedAt: at})
	s.Limit(t)
	err := s.Do(t.Context(), func(tx store.Tx) error {
		for range 2000 {
			if err := tx.Note(at, "x", string(bytes.Repeat([]byte("y"), 1000)), ""); err != nil {
				return err
			}
		}
		return nil
	})
	require.ErrorContains(t, err, "the disk that holds "+dir+" is full")
	assert.Equal(t, fault.Full, fault.KindOf(err))
	notes, err := s.LastAudits(t.Context(), 10)
	require.NoError(t, err)
	assert.Empty(t, notes)
}

// Many that begin at once, on a new folder and on one that is there.
func TestManyOpenTheFolderAtOnce(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	for range 2 {
		var all sync.WaitGroup
		errs := make([]error, 8)
		for i := range errs {
			all.Go(func() {
				s, err := store.Open(dir)
				if errs[i] = err; err == nil {
					errs[i] = s.Close()
				}
			})
		}
		all.Wait()
		for _, err := range errs {
			assert.NoError(t, err)
		}
	}
	left, err := filepath.Glob(filepath.Join(dir, "new-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// What another program writes is noticed, once; what this one does isn't.
func TestChangesOfOtherProgramsAreNoticed(t *testing.T) {
	dir := t.TempDir()
	ours, theirs := open(t, dir), open(t, dir)
	changed := func() bool {
		b, err := ours.ChangedElsewhere(t.Context())
		require.NoError(t, err)
		return b
	}
	changed()
	put(t, ours, &store.Supplier{Name: "Fernhollow", CreatedAt: at})
	assert.False(t, changed())
	put(t, theirs, &store.Supplier{Name: "Tidewrack", CreatedAt: at})
	assert.True(t, changed())
	assert.False(t, changed())
}

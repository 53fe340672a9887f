package sources

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"time"

	"easymargin/internal/store"
)

// Round fetches every address and reads every folder whose time has come, and
// marks what is made of sources that have gone silent.
func (st *Stop) Round(ctx context.Context) error {
	sources, err := st.Store.Sources(ctx)
	if err != nil {
		return err
	}
	var errs []error
	for _, s := range sources {
		if s.Every < 1 || s.TriedAt != nil && st.Now().Sub(*s.TriedAt) < time.Duration(s.Every)*time.Minute {
			continue
		}
		now := st.Now()
		err := st.Store.Do(ctx, func(tx store.Tx) error {
			if err := tx.Update(&store.Source{ID: s.ID}, map[string]any{"tried_at": &now}); err != nil || s.Kind != "address" {
				return err
			}
			_, err := st.fetchRun(tx, s)
			return err
		})
		if err == nil && s.Kind == "folder" {
			err = st.readFolder(ctx, s)
		}
		errs = append(errs, err)
	}
	return errors.Join(append(errs, st.Silence(ctx))...)
}

// Silence marks the sources that are late, and what is made of those that nothing was
// heard of for too long.
func (st *Stop) Silence(ctx context.Context) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		any, err := tx.SilentSources(st.Now())
		if any {
			tx.Changed("sources", "counts", "listings")
		}
		return err
	})
}

// settled is how long a file must have been left alone before it is read: a
// program may still be writing it.
const settled = 3 * time.Second

// readFolder brings in the files of a watched folder that weren't there at the
// last look. The first feed of a source waits for a person; later ones are
// taken by themselves.
func (st *Stop) readFolder(ctx context.Context, s store.Source) error {
	failed := func(err error) error {
		return st.failedFeed(ctx, s.ID, s.Address, fmt.Errorf("the folder %s can't be read (%w); what was taken before is unchanged", s.Address, err))
	}
	folder, err := st.OpenFolder(ctx, s.Address)
	if err != nil {
		return failed(err)
	}
	defer folder.Close()
	list, err := fs.ReadDir(folder.FS(), ".")
	if err != nil {
		return failed(err)
	}
	for _, d := range list {
		if !d.Type().IsRegular() || strings.HasPrefix(d.Name(), ".") || strings.HasSuffix(d.Name(), ".part") ||
			strings.HasSuffix(d.Name(), "~") {
			continue
		}
		info, err := d.Info()
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		if time.Since(info.ModTime()) < settled {
			continue
		}
		name := fmt.Sprintf("%s (%s)", d.Name(), info.ModTime().UTC().Format("2006-01-02 15:04:05"))
		known, err := st.Store.FeedNamed(ctx, s.ID, name)
		if err == nil && !known {
			if why := st.readFile(ctx, s, folder, d.Name(), name); why != nil {
				err = st.failedFeed(ctx, s.ID, name, why)
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// readFile brings in one file of a folder; a link out of it isn't followed.
func (st *Stop) readFile(ctx context.Context, s store.Source, folder *os.Root, file, name string) error {
	in, err := folder.Open(file)
	if err != nil {
		return err
	}
	defer in.Close()
	f, err := st.BringIn(ctx, in, Arriving{Name: name, SourceID: &s.ID})
	if err != nil || s.TakenAt == nil {
		return err
	}
	_, err = st.Take(ctx, f.ID, s.ID, nil, false)
	return err
}

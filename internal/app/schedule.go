package app

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-co-op/gocron/v2"

	"easymargin/internal/store"
)

// Schedule begins looking at addresses and watched folders when their time has
// come by the application's own clock, at rivals every hour where a rule looks at
// them, and at exchange rates every day. It returns what ends it.
func (a *App) Schedule(ctx context.Context) (stop func() error, err error) {
	s, err := gocron.NewScheduler()
	if err != nil {
		return nil, err
	}
	_, err = s.NewJob(gocron.DurationJob(2*time.Second), gocron.NewTask(func() {
		if err := a.Round(ctx); err != nil && ctx.Err() == nil {
			slog.Error("looking at what moves by itself", "error", err)
		}
	}), gocron.WithSingletonMode(gocron.LimitModeReschedule))
	if err != nil {
		return nil, err
	}
	s.Start()
	return s.Shutdown, nil
}

// Round does what has come due: suppliers' addresses and folders, rivals,
// exchange rates, and the fees of a new day.
func (a *App) Round(ctx context.Context) error {
	return errors.Join(a.LookRound(ctx), a.rivalRound(ctx), a.ratesRound(ctx), a.dayRound(ctx))
}

// dayRound works prices out anew once a day, and after a start: fees may have
// begun to hold, and rates have grown old.
func (a *App) dayRound(ctx context.Context) error {
	today := a.now().Format(dayForm)
	a.mu.Lock()
	same := a.pricedOn == today
	a.pricedOn = today
	a.mu.Unlock()
	if same {
		return nil
	}
	sites, err := a.Store.Sites(ctx)
	for _, s := range sites {
		if s.Lists {
			a.price(ctx, s)
		}
	}
	return err
}

// LookRound fetches every address and reads every folder whose time has come.
func (a *App) LookRound(ctx context.Context) error {
	sources, err := a.Store.Sources(ctx)
	if err != nil {
		return err
	}
	var errs []error
	for _, s := range sources {
		if s.Every < 1 || s.TriedAt != nil && a.now().Sub(*s.TriedAt) < time.Duration(s.Every)*time.Minute {
			continue
		}
		now := a.now()
		if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Source{ID: s.ID}, map[string]any{"tried_at": &now}) }); err != nil {
			return err
		}
		switch s.Kind {
		case "address":
			_, err = a.Fetch(ctx, s.ID)
		case "folder":
			err = a.readFolder(ctx, s)
		}
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}

// settled is how long a file must have been left alone before it is read: a
// program may still be writing it.
const settled = 3 * time.Second

// readFolder brings in the files of a watched folder that weren't there at the
// last look. The first feed of a source waits for a person; later ones are
// taken by themselves.
func (a *App) readFolder(ctx context.Context, s store.Source) error {
	list, err := os.ReadDir(s.Address)
	if err != nil {
		a.failedFeed(ctx, s, fmt.Errorf("the folder %s can't be read (%w); what was taken before is unchanged", s.Address, err))
		return nil
	}
	for _, d := range list {
		if !d.Type().IsRegular() || strings.HasPrefix(d.Name(), ".") || strings.HasSuffix(d.Name(), ".part") || strings.HasSuffix(d.Name(), "~") {
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
		if known, err := a.Store.FeedNamed(ctx, s.ID, name); err != nil || known {
			if err != nil {
				return err
			}
			continue
		}
		if err := a.readFile(ctx, s, filepath.Join(s.Address, d.Name()), name); err != nil {
			a.failedFeed(ctx, store.Source{ID: s.ID, Name: s.Name, Address: name}, err)
		}
	}
	return nil
}

func (a *App) readFile(ctx context.Context, s store.Source, path, name string) error {
	in, err := os.Open(path)
	if err != nil {
		return err
	}
	defer in.Close()
	f, err := a.BringIn(ctx, in, Arriving{Name: name, SourceID: &s.ID})
	if err != nil || s.TakenAt == nil {
		return err
	}
	_, err = a.Take(ctx, f.ID, s.ID, nil, false)
	return err
}

// Package prices is the stop where prices are made: rules and what they would
// do, fees, exchange rates, what rivals ask, and the bench on which any price is
// tried. It follows docs/definitions/money.md; the figures are package reckon's.
package prices

import (
	"context"
	"errors"
	"sync"

	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Price.
type Stop struct {
	stops.Deps

	mu    sync.Mutex
	tried string // day on which rates were last fetched by themselves
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(stops.RunRivals, st.doRivals)
	q.Handle(store.RunPrice, (&reckon.Reckoner{Store: st.Store, Now: st.Now}).Do)
}

// Resume has what is still marked worked out.
func (st *Stop) Resume(ctx context.Context) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return tx.QueueReckoning(st.Now()) })
}

// Round does what has come due: rivals every hour where a rule looks at them,
// exchange rates every day, and the fees of a new day.
func (st *Stop) Round(ctx context.Context) error {
	return errors.Join(st.rivalRound(ctx), st.ratesRound(ctx), st.DayRound(ctx))
}

// WorkOut works out all that is marked, at once: for a program that isn't the server.
func (st *Stop) WorkOut(ctx context.Context) error {
	sites, err := st.Store.Sites(ctx)
	r := reckon.Reckoner{Store: st.Store, Now: st.Now}
	for i := 0; err == nil && i < len(sites); i++ {
		err = r.All(ctx, sites[i])
	}
	return err
}

// DayRound has everything worked out anew once a day: fees may have begun to
// hold, and rates have grown old.
func (st *Stop) DayRound(ctx context.Context) error {
	today := st.Now().Format(reckon.DayForm)
	done, err := st.Store.Reading(ctx).Setting(store.PricedDay)
	if err != nil || done.Value == today {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.PutSetting(store.PricedDay, today); err != nil {
			return err
		}
		sites, err := tx.Sites()
		for i := 0; err == nil && i < len(sites); i++ {
			err = tx.DirtySite(st.Now(), sites[i].ID)
		}
		return err
	})
}

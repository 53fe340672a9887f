package sending

import (
	"context"
	"errors"
	"fmt"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// ByItself is who sends what a rule lets go.
const ByItself = "on its own"

// settle is how soon it is looked again whether a site has been worked out whole.
const settle = 300 * time.Millisecond

// together is how many changes are let go in one transaction: what must not wait
// gets in between.
const together = 5000

// doAlone sends what a site's rules let go by themselves: at once what takes
// stock away; the rest once all of the site is worked out, outside of its quiet
// hours and within what it may do in a day, and none of it where more than it
// may do at once has come together: that is for a person. What a rule in its
// first week would have sent is written down.
func (st *Stop) doAlone(ctx context.Context, t *work.Task) error {
	ctx = actor.With(ctx, ByItself)
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	if st.Places(site.Marketplace).Outlet == nil {
		t.Note = site.Name + " takes nothing by a gateway"
		return nil
	}
	var note string
	out, err := st.letAlone(ctx, site, func(tx store.Tx, plan store.Plan) (store.AlonePart, error) {
		return store.AlonePart{Plan: plan.ID, Now: st.Now(), Off: true, Most: together}, nil
	})
	if err != nil {
		return halted(t, err)
	}
	if out.Lines == together {
		t.Note = alreadyWords(site.Name, out.Lines, "more goes at once")
		return work.Again(time.Millisecond)
	}
	dirty, err := st.Store.CountDirty(ctx, site.ID)
	if err != nil {
		return err
	}
	if dirty > 0 {
		t.Note = alreadyWords(site.Name, out.Lines, "the rest goes once all is worked out")
		return work.Again(settle)
	}
	rest, err := st.letAlone(ctx, site, func(tx store.Tx, plan store.Plan) (p store.AlonePart, err error) {
		p, note, err = st.allowed(tx, site, plan)
		return p, err
	})
	if err != nil {
		return halted(t, err)
	}
	t.Note = alreadyWords(site.Name, out.Lines+rest.Lines, note)
	if rest.Lines == together { // what takes stock away may have come meanwhile
		return work.Again(time.Millisecond)
	}
	return nil
}

// halted is what becomes of sending by itself where everything is stopped: nothing.
func halted(t *work.Task, err error) error {
	var h *stopped
	if errors.As(err, &h) {
		t.Note = h.Error()
		return nil
	}
	return err
}

// stopped says that everything is stopped.
type stopped struct{ error }

func alreadyWords(site string, n int64, more string) string {
	words := fmt.Sprintf("%s: %s sent by itself", site, stops.Plural(n, "change", "changes"))
	if n == 0 {
		words = site + ": nothing sent by itself"
	}
	if more != "" {
		words += "; " + more
	}
	return words
}

// errNone says that nothing of a part may go.
var errNone = errors.New("none of it may go")

// letAlone sends those lines of a site's plan that part says, and casts the
// shadows of what may not yet.
func (st *Stop) letAlone(ctx context.Context, site store.Site, part func(store.Tx, store.Plan) (store.AlonePart, error)) (Sent, error) {
	out, err := st.send(ctx, store.SendOut{Alone: true}, How{}, func(tx store.Tx) ([]store.SendLine, map[int64]int64, error) {
		plan, ok, err := tx.PlanOf(site.ID)
		if err != nil || !ok {
			return nil, nil, err
		}
		if n, err := tx.CastShadows(plan.ID, site.ID, st.Now()); err != nil {
			return nil, nil, err
		} else if n > 0 {
			tx.Changed("shadows")
		}
		p, err := part(tx, plan)
		if errors.Is(err, errNone) {
			return nil, nil, nil
		}
		if err != nil {
			return nil, nil, err
		}
		ids, err := tx.AloneLines(p)
		if err != nil || len(ids) == 0 {
			return nil, nil, err
		}
		return st.letGo(tx, plan, store.PlanChoice{Lines: ids})
	})
	if err != nil {
		if halt := stops.Stopped(st.Store.Reading(ctx)); halt != nil {
			return out, &stopped{halt}
		}
	}
	return out, err
}

// allowed is how many of the changes that don't only take stock away a site may
// send by itself now, and what to say of the rest.
func (st *Stop) allowed(tx store.Tx, site store.Site, plan store.Plan) (store.AlonePart, string, error) {
	now := st.Now()
	p := store.AlonePart{Plan: plan.ID, Now: now, Most: together}
	n, err := tx.CountAlone(p)
	if err != nil {
		return p, "", err
	}
	if n == 0 {
		return p, "", errNone
	}
	waits := stops.Plural(n, "change waits", "changes wait")
	if reckon.Quiet(&site, now) {
		return p, waits + " for the end of the quiet hours", errNone
	}
	if site.MostAtOnce > 0 && n > site.MostAtOnce {
		return p, fmt.Sprintf("%s for you: more than %d came together", waits, site.MostAtOnce), errNone
	}
	if site.MostADay == 0 {
		return p, "", nil
	}
	done, err := tx.AloneSince(site.ID, now.Add(-24*time.Hour))
	if err != nil {
		return p, "", err
	}
	left := site.MostADay - done
	if left <= 0 {
		return p, fmt.Sprintf("%s: %d went in 24 hours already", waits, done), errNone
	}
	p.Most = min(left, together)
	if n > left {
		return p, fmt.Sprintf("%d wait: no more than %d go in 24 hours", n-left, site.MostADay), nil
	}
	return p, "", nil
}

// aloneEvery is how often it is looked whether what waited may go by itself now:
// quiet hours end, a day passes, a first week too.
const aloneEvery = time.Minute

// aloneRound looks whether what waited may go now. What moved often is worked
// out again once it has moved less often in a day.
func (st *Stop) aloneRound(ctx context.Context) error {
	now := st.Now()
	was := st.aloneAt.Last()
	if !st.aloneAt.After(aloneEvery, now) {
		return nil
	}
	sites, err := st.Store.AloneSites(ctx)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if !was.IsZero() {
			day := 24 * time.Hour
			if err := tx.DirtyMoved(now, was.Add(-day), now.Add(-day)); err != nil {
				return err
			}
		}
		for _, site := range sites {
			if err := tx.QueueAlone(now, site); err != nil {
				return err
			}
		}
		return nil
	})
}

// SetHalt pulls the stop that holds everything at once, or lifts it: what waited
// goes on then.
func (st *Stop) SetHalt(ctx context.Context, on bool, why string) error {
	sites, err := st.Store.AloneSites(ctx)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		now := st.Now()
		if on {
			return stops.First(stops.PutHalt(tx, &stops.Halt{At: now, Why: stops.Clip(why, 500)}), tx.Note(now, "stop pulled", "", why))
		}
		if err := stops.First(stops.PutHalt(tx, nil), st.resume(tx), tx.Note(now, "stop lifted", "", "")); err != nil {
			return err
		}
		for _, site := range sites {
			if err := tx.QueueAlone(now, site); err != nil {
				return err
			}
		}
		return nil
	})
}

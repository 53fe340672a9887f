// Package work does things in the background. A run is kept in the data, in
// the transaction of what it is for; it is claimed from there in order, shows
// its progress, can be stopped, and after a crash begins again in its place.
// Runs of one lane follow one another; lanes go side by side.
package work

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Task is what a handler works through: it tells of progress with At, and of
// what came of it with Note.
type Task struct {
	store.Run
	queue *Queue
}

// At tells that done of total are through; total 0 says that it isn't known.
func (t *Task) At(done, total int64) { t.queue.progress(t.ID, done, total) }

// Again ends a run for now: it waits and is then done once more, in its place.
// Handlers return it.
func Again(after time.Duration) error { return &again{after} }

type again struct{ after time.Duration }

func (a *again) Error() string { return fmt.Sprintf("again in %v", a.after) }

// Handler does one kind of run. It may be called again for a run that a crash
// cut short, and must then go on or begin anew without harm.
type Handler func(ctx context.Context, t *Task) error

// Queue does the runs of one store. Only one queue works on a store at a time.
type Queue struct {
	store  *store.Store
	kinds  map[string]Handler
	clock  func() time.Time
	now    func() time.Time
	notify func(store.Run)

	mu     sync.Mutex
	going  map[int64]*going
	waking chan struct{}
	begun  bool
	ctx    context.Context
	stop   context.CancelFunc
	wg     sync.WaitGroup
}

// going is a run that a handler is at.
type going struct {
	lane        string
	done, total int64
	told        time.Time
	cancel      context.CancelFunc
}

// New makes a queue. clock is the real time, by which runs are due; now is the
// application's own, by which they are dated. notify is told of every change of a run, at most ten times a second for one run's
// progress; it must not block.
func New(s *store.Store, clock, now func() time.Time, notify func(store.Run)) *Queue {
	ctx, stop := context.WithCancel(context.Background())
	q := &Queue{
		store:  s,
		kinds:  map[string]Handler{},
		clock:  clock,
		now:    now,
		notify: notify,
		going:  map[int64]*going{},
		waking: make(chan struct{}, 1),
		ctx:    ctx,
		stop:   stop,
	}
	s.OnCommit(func(c store.Commit) {
		for _, r := range c.Runs {
			notify(r)
		}
		if len(c.Runs) > 0 {
			q.Wake()
		}
	})
	return q
}

// Handle says how a kind of run is done. All kinds are named before Start.
func (q *Queue) Handle(kind string, h Handler) { q.kinds[kind] = h }

// Start begins to do what waits, with what an end of the program cut short in its old
// place. fell says that it ended by its own doing: what went on then is suspected of it.
func (q *Queue) Start(ctx context.Context, fell bool) error {
	if err := q.store.RequeueRuns(ctx, q.now(), fell); err != nil {
		return fmt.Errorf("taking up unfinished runs: %w", err)
	}
	q.mu.Lock()
	q.begun = true
	q.mu.Unlock()
	q.wg.Go(q.dispatch)
	q.Wake()
	return nil
}

// Wake has the queue look for runs: another program may have queued some.
func (q *Queue) Wake() {
	select {
	case q.waking <- struct{}{}:
	default:
	}
}

// dispatch claims runs for free lanes until the queue is closed.
func (q *Queue) dispatch() {
	timer := time.NewTimer(time.Hour)
	defer timer.Stop()
	for {
		pause, err := q.claim()
		if err != nil && q.ctx.Err() == nil {
			slog.Error("looking for runs", "error", err)
			pause = time.Second
		}
		timer.Reset(pause)
		select {
		case <-q.ctx.Done():
			return
		case <-q.waking:
		case <-timer.C:
		}
	}
}

// claim begins every run that is due and whose lane is free, and says when the
// next will be due.
func (q *Queue) claim() (time.Duration, error) {
	var now time.Time
	for {
		now = q.clock()
		r, ok, err := q.store.ClaimRun(q.ctx, q.busy(), now, q.now())
		if err != nil {
			return 0, err
		}
		if !ok {
			break
		}
		ctx, cancel := context.WithCancel(actor.With(q.ctx, r.Actor))
		q.mu.Lock()
		q.going[r.ID] = &going{lane: r.Lane, cancel: cancel}
		q.mu.Unlock()
		q.wg.Go(func() {
			defer cancel()
			q.do(ctx, r)
			q.Wake()
		})
	}
	at, ok, err := q.store.NextDue(q.ctx, now) // that very moment: what came due since is found by it
	if err != nil || !ok {
		return time.Hour, err
	}
	return max(at.Sub(q.clock()), time.Millisecond), nil
}

func (q *Queue) busy() []string {
	q.mu.Lock()
	defer q.mu.Unlock()
	out := make([]string, 0, len(q.going))
	for _, g := range q.going {
		out = append(out, g.lane)
	}
	return out
}

func (q *Queue) do(ctx context.Context, r store.Run) {
	q.notify(r)
	t := &Task{Run: r, queue: q}
	err := q.guarded(ctx, t)
	if q.ctx.Err() != nil {
		return // shutting down: the run stays unfinished and is taken up at the next start
	}
	q.mu.Lock()
	g := q.going[r.ID]
	r = t.Run
	r.Done, r.Total = g.done, g.total
	q.mu.Unlock()
	ended := q.now()
	var more *again
	switch {
	case err == nil:
		r.State, r.Error, r.EndedAt = store.RunDone, "", &ended
	case errors.As(err, &more) && ctx.Err() == nil:
		r.State, r.Due = store.RunQueued, q.clock().Add(more.after).UnixMilli()
	case fault.KindOf(err) == fault.Full && ctx.Err() == nil:
		r.State, r.Due, r.Note = store.RunQueued, q.clock().Add(untilRoom).UnixMilli(), fault.Words(err)+"; it is tried again by itself"
	case ctx.Err() != nil:
		r.State, r.EndedAt = store.RunStopped, &ended
	default:
		r.State, r.Error, r.EndedAt = store.RunFailed, fault.Words(err), &ended
	}
	if !q.keep(&r, ended) {
		return // it stays unfinished and is taken up at the next start
	}
	q.mu.Lock()
	delete(q.going, r.ID)
	q.mu.Unlock()
	q.notify(r)
}

// untilRoom is how long what found the disk full waits before it is tried again, and
// keepAgain how long what became of a run waits that can't be written.
const (
	untilRoom = 15 * time.Second
	keepAgain = time.Second
)

// keep writes how a run stands, however long that can't be; false where the queue is
// closed before. Until it is written the run's lane stays taken.
func (q *Queue) keep(r *store.Run, ended time.Time) bool {
	for {
		err := q.store.KeepRun(q.ctx, r, ended)
		if err == nil {
			return true
		}
		if q.ctx.Err() == nil {
			slog.Error("saving a run", "run", r.ID, "error", err)
		}
		select {
		case <-q.ctx.Done():
			return false
		case <-time.After(keepAgain):
		}
	}
}

// guarded does a run; a panic of it is its failure, and the others go on.
func (q *Queue) guarded(ctx context.Context, t *Task) error {
	do, ok := q.kinds[t.Kind]
	if !ok {
		return fmt.Errorf("no kind of run is called %q", t.Kind)
	}
	return fault.Caught(func() error { return do(ctx, t) })
}

func (q *Queue) progress(id, done, total int64) {
	q.mu.Lock()
	g := q.going[id]
	if g == nil {
		q.mu.Unlock()
		return
	}
	g.done, g.total = done, total
	now := q.clock()
	tell := now.Sub(g.told) > 100*time.Millisecond
	if tell {
		g.told = now
	}
	q.mu.Unlock()
	if !tell {
		return
	}
	if r, err := store.Get[store.Run](q.ctx, q.store, id); err == nil {
		r.Done, r.Total = done, total
		q.notify(r)
	}
}

// Live lists the runs that wait or go on, in their order, with their progress.
func (q *Queue) Live(ctx context.Context) ([]store.Run, error) {
	runs, err := q.store.UnfinishedRuns(ctx)
	q.mu.Lock()
	defer q.mu.Unlock()
	for i := range runs {
		if g := q.going[runs[i].ID]; g != nil {
			runs[i].Done, runs[i].Total = g.done, g.total
		}
	}
	return runs, err
}

// Stop ends a run before its time; false where it is over already.
func (q *Queue) Stop(ctx context.Context, id int64) (bool, error) {
	r, stopped, err := q.store.StopQueued(ctx, id, q.now())
	if err != nil {
		return false, err
	}
	if stopped {
		q.notify(r)
		return true, nil
	}
	q.mu.Lock()
	defer q.mu.Unlock()
	g := q.going[id]
	if g == nil {
		return false, nil
	}
	g.cancel()
	return true, nil
}

// TryAgain has a run that was set aside tried again; false where it isn't set aside.
func (q *Queue) TryAgain(ctx context.Context, id int64) (bool, error) {
	r, aside, err := q.store.TryAside(ctx, id)
	if err != nil || !aside {
		return false, err
	}
	q.notify(r)
	q.Wake()
	return true, nil
}

// Close stops working. What was running begins again at the next start.
func (q *Queue) Close() {
	q.stop()
	q.wg.Wait()
}

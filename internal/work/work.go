// Package work does things in the background: a run starts at once, shows its
// progress, can be stopped, and after a crash begins again. Runs of one lane
// follow one another; lanes go side by side.
package work

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"
)

// State of a run.
type State string

// The states of a run.
const (
	Queued  State = "queued"
	Running State = "running"
	Done    State = "done"
	Failed  State = "failed"
	Stopped State = "stopped"
)

// Run is one piece of work. Handlers change Note; the rest is the queue's.
type Run struct {
	ID      int64      `json:"id"`
	Kind    string     `json:"kind"`
	Title   string     `json:"title"`
	Subject int64      `json:"subject" doc:"What the run works on: a feed, a send-out"`
	State   State      `json:"state"`
	Done    int64      `json:"done"`
	Total   int64      `json:"total" doc:"0 while it isn't known"`
	Note    string     `json:"note" doc:"What came of it, in a sentence"`
	Error   string     `json:"error"`
	Created time.Time  `json:"created"`
	Started *time.Time `json:"started"`
	Ended   *time.Time `json:"ended"`
}

// Over tells whether nothing more will come of the run.
func (r *Run) Over() bool { return r.State == Done || r.State == Failed || r.State == Stopped }

// Ledger keeps runs where a crash can't lose them.
type Ledger interface {
	SaveRun(ctx context.Context, r *Run) error
	UnfinishedRuns(ctx context.Context) ([]Run, error)
}

// Task is what a handler works through: it tells of progress with At.
type Task struct {
	Run
	queue *Queue
}

// At tells that done of total are through; total 0 says that it isn't known.
func (t *Task) At(done, total int64) { t.queue.progress(&t.Run, done, total) }

// Kind is how one kind of run is done. It may be called again for a run that
// a crash cut short, and must then go on or begin anew without harm.
type Kind struct {
	Lane string
	Do   func(ctx context.Context, t *Task) error
}

// Queue takes runs and does them.
type Queue struct {
	ledger Ledger
	kinds  map[string]Kind
	now    func() time.Time
	notify func(Run)

	mu     sync.Mutex
	lanes  map[string]chan int64
	runs   map[int64]*Run // unfinished ones
	cancel map[int64]context.CancelFunc
	told   map[int64]time.Time
	begun  bool // before Start, runs wait in the ledger alone
	stop   context.CancelFunc
	ctx    context.Context
	wg     sync.WaitGroup
}

// New makes a queue. notify is told of every change of a run, at most ten
// times a second for one run's progress; it must not block.
func New(l Ledger, now func() time.Time, notify func(Run)) *Queue {
	ctx, stop := context.WithCancel(context.Background())
	return &Queue{ledger: l, kinds: map[string]Kind{}, now: now, notify: notify, lanes: map[string]chan int64{},
		runs: map[int64]*Run{}, cancel: map[int64]context.CancelFunc{}, told: map[int64]time.Time{}, ctx: ctx, stop: stop}
}

// Handle says how a kind of run is done. All kinds are named before Start.
func (q *Queue) Handle(name string, k Kind) { q.kinds[name] = k }

// Start takes up the runs that were cut short, and those added before.
func (q *Queue) Start(ctx context.Context) error {
	for _, k := range q.kinds {
		q.lane(k.Lane)
	}
	q.mu.Lock()
	q.begun = true
	q.mu.Unlock()
	left, err := q.ledger.UnfinishedRuns(ctx)
	if err != nil {
		return fmt.Errorf("reading unfinished runs: %w", err)
	}
	for i := range left {
		q.put(&left[i])
	}
	return nil
}

// Add queues a run. A kind that isn't known is a mistake of the program.
func (q *Queue) Add(ctx context.Context, kind, title string, subject int64) (Run, error) {
	if _, ok := q.kinds[kind]; !ok {
		return Run{}, fmt.Errorf("no kind of run is called %q", kind)
	}
	r := &Run{Kind: kind, Title: title, Subject: subject, State: Queued, Created: q.now()}
	if err := q.ledger.SaveRun(ctx, r); err != nil {
		return Run{}, fmt.Errorf("queueing %s: %w", title, err)
	}
	copied := *r
	q.put(r)
	return copied, nil
}

func (q *Queue) put(r *Run) {
	q.mu.Lock()
	if !q.begun {
		q.mu.Unlock()
		return
	}
	q.runs[r.ID] = r
	lane := q.lanes[q.kinds[r.Kind].Lane]
	q.mu.Unlock()
	q.notify(*r)
	go func() {
		select {
		case lane <- r.ID:
		case <-q.ctx.Done():
		}
	}()
}

func (q *Queue) lane(name string) {
	q.mu.Lock()
	defer q.mu.Unlock()
	if _, ok := q.lanes[name]; ok {
		return
	}
	c := make(chan int64)
	q.lanes[name] = c
	q.wg.Add(1)
	go func() {
		defer q.wg.Done()
		for {
			select {
			case <-q.ctx.Done():
				return
			case id := <-c:
				q.do(id)
			}
		}
	}()
}

func (q *Queue) do(id int64) {
	q.mu.Lock()
	r := q.runs[id]
	if r == nil || r.Over() {
		q.mu.Unlock()
		return
	}
	ctx, cancel := context.WithCancel(q.ctx)
	defer cancel()
	q.cancel[id] = cancel
	began := q.now()
	r.State, r.Started, r.Done, r.Total = Running, &began, 0, 0
	t := &Task{Run: *r, queue: q}
	q.mu.Unlock()
	q.keep(t.Run)
	err := q.guarded(ctx, t)
	if q.ctx.Err() != nil {
		return // shutting down: the run stays unfinished and is taken up at the next start
	}
	q.mu.Lock()
	ended := q.now()
	done, total := r.Done, r.Total
	*r = t.Run
	r.Ended, r.Done, r.Total = &ended, done, total
	switch {
	case err == nil:
		r.State = Done
	case errors.Is(err, context.Canceled):
		r.State = Stopped
	default:
		r.State, r.Error = Failed, err.Error()
	}
	over := *r
	delete(q.cancel, id)
	delete(q.runs, id)
	delete(q.told, id)
	q.mu.Unlock()
	q.keep(over)
}

// guarded turns a panic of one run into its failure: the others go on.
func (q *Queue) guarded(ctx context.Context, t *Task) (err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("run panicked", "run", t.ID, "kind", t.Kind, "panic", p)
			err = fmt.Errorf("this run broke off for a reason of our own making (%v); nothing was half done", p)
		}
	}()
	return q.kinds[t.Kind].Do(ctx, t)
}

func (q *Queue) keep(r Run) {
	if err := q.ledger.SaveRun(context.WithoutCancel(q.ctx), &r); err != nil {
		slog.Error("saving a run", "run", r.ID, "error", err)
	}
	q.notify(r)
}

func (q *Queue) progress(r *Run, done, total int64) {
	q.mu.Lock()
	defer q.mu.Unlock()
	kept := q.runs[r.ID]
	if kept == nil {
		return
	}
	kept.Done, kept.Total = done, total
	if now := time.Now(); now.Sub(q.told[r.ID]) > 100*time.Millisecond {
		q.told[r.ID] = now
		q.notify(*kept)
	}
}

// Live lists the runs that aren't over, with their progress.
func (q *Queue) Live() []Run {
	q.mu.Lock()
	defer q.mu.Unlock()
	out := make([]Run, 0, len(q.runs))
	for _, r := range q.runs {
		out = append(out, *r)
	}
	return out
}

// Stop ends a run before its time; false where it is over already.
func (q *Queue) Stop(id int64) bool {
	q.mu.Lock()
	r, ok := q.runs[id]
	if !ok {
		q.mu.Unlock()
		return false
	}
	if cancel := q.cancel[id]; cancel != nil {
		q.mu.Unlock()
		cancel()
		return true
	}
	ended := q.now()
	r.State, r.Ended = Stopped, &ended
	over := *r
	delete(q.runs, id)
	q.mu.Unlock()
	q.keep(over)
	return true
}

// Close stops working. What was running begins again at the next start.
func (q *Queue) Close() {
	q.stop()
	q.wg.Wait()
}

// Package app holds the use cases: take a feed, decide a match, set a price
// rule, send, plan. It joins the rules in core with the store, the feed
// reader, the marketplaces and the queue of runs.
package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"easymargin/internal/feed"
	"easymargin/internal/market"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Kind says what sort of error it is; the edge turns it into a status.
type Kind string

// The kinds of error.
const (
	Invalid     Kind = "invalid"
	Missing     Kind = "missing"
	Conflict    Kind = "conflict"
	Held        Kind = "held"
	Unavailable Kind = "unavailable"
)

// Error is an error for people: what happened, to what, and what to do.
type Error struct {
	Kind  Kind
	Field string // of the request, where one is wrong
	Words string
}

func (e *Error) Error() string { return e.Words }

func invalid(field, format string, args ...any) error {
	return &Error{Invalid, field, fmt.Sprintf(format, args...)}
}

// KindOf is the kind of any error that a use case returns; "" for our own mistakes.
func KindOf(err error) Kind {
	var e *Error
	var f *feed.Error
	var refusal *market.Refusal
	switch {
	case errors.As(err, &e):
		return e.Kind
	case errors.Is(err, store.ErrMissing):
		return Missing
	case errors.Is(err, store.ErrCursor), errors.As(err, &f):
		return Invalid
	case market.MayWorkLater(err):
		return Unavailable
	case errors.As(err, &refusal):
		return Conflict
	}
	return ""
}

// Options are what an App is made of. Store is needed; the rest has defaults.
type Options struct {
	Store *store.Store
	Now   func() time.Time // wall clock; the demo's is its own
	// Gateway makes the client of a marketplace.
	Gateway func(name, address string) market.Marketplace
	// Allow lists host:port pairs that may be fetched from though they are private.
	Allow []string
	// Pauses between tries to reach a marketplace; after the last it is left to a person.
	Pauses []time.Duration
	// NoPictures leaves suppliers' pictures where they are.
	NoPictures bool
	// Poll is how often a batch is asked about.
	Poll time.Duration
}

// App is the use cases over one data folder. It is safe for many goroutines.
type App struct {
	Store  *store.Store
	Queue  *work.Queue
	Events *Hub
	now    func() time.Time
	opt    Options
	fetch  *fetcher
	opened openedFiles

	mu     sync.Mutex
	queued map[once]bool // runs that are asked for and have not begun

	ratesTried string // day on which rates were last fetched by themselves
	pricedOn   string // day whose fees prices were last worked out with by themselves
}

// New makes an App. Start must be called before runs are done.
func New(o Options) *App {
	if o.Now == nil {
		o.Now = time.Now
	}
	if o.Gateway == nil {
		o.Gateway = func(name, address string) market.Marketplace { return market.NewGateway(name, address) }
	}
	if o.Pauses == nil {
		o.Pauses = []time.Duration{time.Second, 2 * time.Second, 5 * time.Second, 15 * time.Second}
	}
	if o.Poll == 0 {
		o.Poll = 400 * time.Millisecond
	}
	a := &App{Store: o.Store, Events: newHub(), now: o.Now, opt: o, fetch: newFetcher(o.Allow), queued: map[once]bool{}}
	a.Queue = work.New(o.Store, o.Now, func(r work.Run) {
		if r.State == work.Stopped { // perhaps before it began
			a.begins(&work.Task{Run: r})
		}
		a.Events.publish(Event{Run: &r})
	})
	a.Queue.Handle(runFetch, work.Kind{Lane: "fetch", Do: a.doFetch})
	a.Queue.Handle(runIntake, work.Kind{Lane: "data", Do: a.doIntake})
	a.Queue.Handle(runIndex, work.Kind{Lane: "index", Do: a.doIndex})
	a.Queue.Handle(runPictures, work.Kind{Lane: "pictures", Do: a.doPictures})
	a.Queue.Handle(runMatch, work.Kind{Lane: "data", Do: a.doMatch})
	a.Queue.Handle(runPrice, work.Kind{Lane: "data", Do: a.doPrice})
	a.Queue.Handle(runRivals, work.Kind{Lane: "rivals", Do: a.doRivals})
	a.Queue.Handle(runSend, work.Kind{Lane: "send", Do: a.doSend})
	return a
}

// Start takes up what a crash cut short.
func (a *App) Start(ctx context.Context) error {
	if err := a.Store.ForgetAnswers(ctx, time.Now().Add(-24*time.Hour)); err != nil {
		return fmt.Errorf("tidying up: %w", err)
	}
	return a.Queue.Start(ctx)
}

// Close stops the runs; they go on at the next start.
func (a *App) Close() { a.Queue.Close() }

// Now is the time the app goes by.
func (a *App) Now() time.Time { return a.now() }

// note writes down who did what; that it failed is not worth failing for.
func (a *App) note(ctx context.Context, what, subject, detail string) {
	row := store.Audit{At: a.now(), What: what, Subject: subject, Detail: detail}
	if err := a.Store.Create(context.WithoutCancel(ctx), &row); err != nil {
		slog.Error("writing the audit", "what", what, "error", err)
	}
}

// changed tells every open screen that lists of a topic are no longer fresh.
func (a *App) changed(topics ...string) { a.Events.publish(Event{Topics: topics}) }

func (a *App) gateway(m store.Marketplace) market.Marketplace {
	return a.opt.Gateway(m.Name, m.Address)
}

// once names a run that is queued no more than once, however often it is asked for.
type once struct {
	kind    string
	subject int64
}

// queueOnce queues a run unless one like it is waiting already.
func (a *App) queueOnce(ctx context.Context, kind, title string, subject int64) error {
	a.mu.Lock()
	waits := a.queued[once{kind, subject}]
	a.queued[once{kind, subject}] = true
	a.mu.Unlock()
	if waits {
		return nil
	}
	_, err := a.Queue.Add(context.WithoutCancel(ctx), kind, title, subject)
	return err
}

// begins says that a run queued once has begun: what is asked for from now on is another.
func (a *App) begins(t *work.Task) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.queued, once{t.Kind, t.Subject})
}

func ptr[T any](v T) *T { return &v }

func plural(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

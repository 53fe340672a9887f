package work_test

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/actor"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

func data(t *testing.T) *store.Store {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

type kinds map[string]work.Handler

// start begins a queue over the data; over has the runs as they end.
func start(t *testing.T, s *store.Store, k kinds) (*work.Queue, chan store.Run) {
	over := make(chan store.Run, 1000)
	q := work.New(s, time.Now, time.Now, func(r store.Run) {
		if r.Over() {
			over <- r
		}
	})
	for name, h := range k {
		q.Handle(name, h)
	}
	require.NoError(t, q.Start(t.Context(), false))
	t.Cleanup(q.Close)
	return q, over
}

// add queues runs of a kind, in one transaction.
func add(t *testing.T, s *store.Store, runs ...store.Run) []store.Run {
	require.NoError(t, s.Do(actor.With(t.Context(), "Ada"), func(tx store.Tx) error {
		for i := range runs {
			runs[i].CreatedAt = time.Now()
			if runs[i].Lane == "" {
				runs[i].Lane = runs[i].Kind
			}
			if err := tx.Queue(&runs[i]); err != nil {
				return err
			}
		}
		return nil
	}))
	return runs
}

func TestRunsOfOneLaneFollowOneAnotherInOrder(t *testing.T) {
	s := data(t)
	var mu sync.Mutex
	inside, most, order := 0, 0, []int64{}
	_, over := start(t, s, kinds{"intake": func(ctx context.Context, t *work.Task) error {
		mu.Lock()
		inside++
		most = max(most, inside)
		order = append(order, t.Subject)
		mu.Unlock()
		t.At(1, 1)
		mu.Lock()
		inside--
		mu.Unlock()
		return nil
	}})
	var runs []store.Run
	var want []int64
	for i := range int64(20) {
		runs = append(runs, store.Run{Kind: "intake", Subject: i})
		want = append(want, i)
	}
	add(t, s, runs...)
	for range 20 {
		r := <-over
		assert.Equal(t, store.RunDone, r.State)
		assert.Equal(t, "Ada", r.Actor)
	}
	assert.Equal(t, 1, most)
	assert.Equal(t, want, order)
}

// A lane that is busy, or that waits for its place, holds no other up.
func TestLanesGoSideBySide(t *testing.T) {
	s := data(t)
	hold := make(chan struct{})
	_, over := start(t, s, kinds{"send": func(_ context.Context, t *work.Task) error {
		if t.Lane == "send/1" {
			<-hold
		}
		return nil
	}})
	add(t, s, store.Run{Kind: "send", Lane: "send/1"}, store.Run{Kind: "send", Lane: "send/1"}, store.Run{Kind: "send", Lane: "send/2"})
	assert.Equal(t, "send/2", (<-over).Lane)
	close(hold)
	<-over
	<-over
}

// After a restart a lane goes on in the order it had, with what was cut short
// first; an urgent run comes before all others of its lane.
func TestTheOrderIsTheSameAfterARestart(t *testing.T) {
	s := data(t)
	began := make(chan struct{})
	q := work.New(s, time.Now, time.Now, func(store.Run) {})
	q.Handle("send", func(ctx context.Context, _ *work.Task) error {
		close(began)
		<-ctx.Done()
		return ctx.Err()
	})
	require.NoError(t, q.Start(t.Context(), false))
	var runs []store.Run
	for i := range int64(12) {
		runs = append(runs, store.Run{Kind: "send", Subject: i + 1})
	}
	runs = append(runs, store.Run{Kind: "send", Subject: 99, Urgent: true})
	add(t, s, runs[:12]...)
	<-began
	add(t, s, runs[12:]...)
	q.Close() // as a crash would leave it: running, and never ended
	first, err := store.Get[store.Run](t.Context(), s, 1)
	require.NoError(t, err)
	assert.Equal(t, store.RunRunning, first.State)

	var order []int64 // as they were begun: their ends are told beside each other
	_, over := start(t, s, kinds{"send": func(_ context.Context, r *work.Task) error {
		order = append(order, r.Subject)
		return nil
	}})
	for range runs {
		<-over
	}
	assert.Equal(t, []int64{99, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, order)
}

func TestEveryEndIsToldAndKept(t *testing.T) {
	s, waiting := data(t), make(chan struct{})
	q, over := start(t, s, kinds{
		"fails":  func(context.Context, *work.Task) error { return errors.New("no answer") },
		"panics": func(context.Context, *work.Task) error { panic("oh") },
		"waits": func(ctx context.Context, _ *work.Task) error {
			close(waiting)
			<-ctx.Done()
			return fmt.Errorf("given up: %w", ctx.Err())
		},
	})
	add(t, s, store.Run{Kind: "fails"})
	r := <-over
	assert.Equal(t, [2]string{store.RunFailed, "no answer"}, [2]string{r.State, r.Error})
	add(t, s, store.Run{Kind: "panics"})
	assert.Equal(t, store.RunFailed, (<-over).State)
	add(t, s, store.Run{Kind: "unheard of"})
	assert.Contains(t, (<-over).Error, "no kind of run")
	w := add(t, s, store.Run{Kind: "waits"}, store.Run{Kind: "waits"})
	<-waiting
	live, err := q.Live(t.Context())
	require.NoError(t, err)
	assert.Len(t, live, 2)
	for _, i := range []int{1, 0} { // the one that hasn't begun, and the one that has
		ok, err := q.Stop(t.Context(), w[i].ID)
		require.NoError(t, err)
		assert.True(t, ok)
		r = <-over
		assert.Equal(t, [2]any{store.RunStopped, w[i].ID}, [2]any{r.State, r.ID})
	}
	ok, err := q.Stop(t.Context(), w[0].ID)
	require.NoError(t, err)
	assert.False(t, ok)
	kept, err := store.Get[store.Run](t.Context(), s, w[0].ID)
	require.NoError(t, err)
	assert.Equal(t, store.RunStopped, kept.State)
}

// A run that is to be done again waits its time, and is done once more.
func TestAgain(t *testing.T) {
	s, times := data(t), 0
	_, over := start(t, s, kinds{"follow": func(_ context.Context, t *work.Task) error {
		if times++; times < 3 {
			return work.Again(time.Millisecond)
		}
		return nil
	}})
	add(t, s, store.Run{Kind: "follow"})
	assert.Equal(t, store.RunDone, (<-over).State)
	assert.Equal(t, 3, times)
}

// Of a run that is asked for once, no second waits, however often it is asked
// for; one that has begun doesn't count.
func TestOnceWaitsOnce(t *testing.T) {
	s := data(t)
	for range 3 {
		add(t, s, store.Run{Kind: "price", Subject: 1, Once: true})
	}
	add(t, s, store.Run{Kind: "price", Subject: 2, Once: true})
	runs, err := s.UnfinishedRuns(t.Context())
	require.NoError(t, err)
	assert.Len(t, runs, 2)
	_, ok, err := s.ClaimRun(t.Context(), nil, time.Now(), time.Now())
	require.NoError(t, err)
	require.True(t, ok)
	add(t, s, store.Run{Kind: "price", Subject: 1, Once: true})
	require.NoError(t, s.RequeueRuns(t.Context(), time.Now(), false), "the one that waits does what the one that was cut short would")
	runs, err = s.UnfinishedRuns(t.Context())
	require.NoError(t, err)
	assert.Len(t, runs, 2)
}

// A run that is to be done again, and for which another waits by then, leaves it to that one.
func TestAgainMeetsOnce(t *testing.T) {
	s, times := data(t), 0
	_, over := start(t, s, kinds{"follow": func(ctx context.Context, t *work.Task) error {
		if times++; times == 1 {
			err := s.Do(ctx, func(tx store.Tx) error {
				return tx.Queue(&store.Run{Kind: "follow", Lane: "follow", Once: true, CreatedAt: time.Now()})
			})
			return cmp.Or(err, work.Again(time.Millisecond))
		}
		return nil
	}})
	add(t, s, store.Run{Kind: "follow", Lane: "follow", Once: true})
	first, second := <-over, <-over
	assert.Equal(t, []string{store.RunDone, store.RunDone}, []string{first.State, second.State})
	assert.NotEqual(t, first.ID, second.ID)
	assert.NotNil(t, first.EndedAt)
	assert.Equal(t, 2, times)
}

// What is queued in a transaction that is taken back was never there; nobody
// is told of it.
func TestARunIsThereWithWhatItIsFor(t *testing.T) {
	s := data(t)
	_, over := start(t, s, kinds{"send": func(context.Context, *work.Task) error { return nil }})
	err := s.Do(t.Context(), func(tx store.Tx) error {
		return errors.Join(tx.Queue(&store.Run{Kind: "send", Lane: "send", CreatedAt: time.Now()}), errors.New("after all not"))
	})
	assert.ErrorContains(t, err, "after all not")
	add(t, s, store.Run{Kind: "send", Subject: 7})
	assert.Equal(t, int64(7), (<-over).Subject)
	assert.Empty(t, over)
}

// A run during which the program fell twice is not taken up a third time: it is set
// aside with what waits besides it done, nothing like it is begun, and a person can have
// it tried again. How often the program was ended by somebody else doesn't matter.
func TestARunThatTookTheProgramDownTwiceIsSetAside(t *testing.T) {
	s := data(t)
	// ends is the program from its start to its end, with "bad" begun or not.
	ends := func(fell, again, begins bool) {
		t.Helper()
		over := make(chan string, 10)
		q := work.New(s, time.Now, time.Now, func(r store.Run) {
			if r.Kind == "good" && r.State == store.RunDone { // kept as done: it isn't begun anew at the next start
				over <- "good"
			}
		})
		q.Handle("bad", func(ctx context.Context, _ *work.Task) error {
			over <- "bad"
			<-ctx.Done()
			return ctx.Err()
		})
		q.Handle("good", func(context.Context, *work.Task) error { return nil })
		require.NoError(t, q.Start(t.Context(), fell))
		if again {
			aside, err := s.RunsAside(t.Context())
			require.NoError(t, err)
			require.Len(t, aside, 1)
			ok, err := q.TryAgain(t.Context(), aside[0].ID)
			require.NoError(t, err)
			assert.True(t, ok)
			ok, err = q.TryAgain(t.Context(), aside[0].ID)
			require.NoError(t, err)
			assert.False(t, ok, "it is tried already")
		}
		if begins {
			require.Equal(t, "bad", <-over)
		}
		add(t, s, store.Run{Kind: "good"})
		require.Equal(t, "good", <-over)
		q.Close() // as a fall would leave it
	}
	add(t, s, store.Run{Kind: "bad", Subject: 5, Once: true})
	ends(false, false, true)
	for range 5 {
		ends(false, false, true) // it was ended from outside
	}
	ends(true, false, true) // once can be chance
	ends(true, false, false)
	aside, err := s.RunsAside(t.Context())
	require.NoError(t, err)
	require.Len(t, aside, 1)
	assert.Contains(t, aside[0].Error, "twice")
	alive, err := s.RunAlive(t.Context(), "bad", 5)
	require.NoError(t, err)
	assert.True(t, alive, "nothing is begun in its place")
	again := add(t, s, store.Run{Kind: "bad", Subject: 5, Once: true})
	assert.Equal(t, aside[0].ID, again[0].ID, "nor beside it")
	ends(false, false, false)
	ends(false, true, true)
	ends(true, false, true) // it is counted anew
}

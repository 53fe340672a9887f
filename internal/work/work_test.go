package work_test

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/work"
)

// ledger keeps runs in memory; it stands where the store does.
type ledger struct {
	mu   sync.Mutex
	rows map[int64]work.Run
}

func (l *ledger) SaveRun(_ context.Context, r *work.Run) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if r.ID == 0 {
		r.ID = int64(len(l.rows) + 1)
	}
	l.rows[r.ID] = *r
	return nil
}

func (l *ledger) UnfinishedRuns(context.Context) ([]work.Run, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	var out []work.Run
	for _, r := range l.rows {
		if !r.Over() {
			out = append(out, r)
		}
	}
	return out, nil
}

func start(t *testing.T, l *ledger, kinds map[string]work.Kind) (*work.Queue, chan work.Run) {
	over := make(chan work.Run, 100)
	q := work.New(l, time.Now, func(r work.Run) {
		if r.Over() {
			over <- r
		}
	})
	for name, k := range kinds {
		q.Handle(name, k)
	}
	require.NoError(t, q.Start(t.Context()))
	t.Cleanup(q.Close)
	return q, over
}

func TestRunsOfOneLaneFollowOneAnother(t *testing.T) {
	var mu sync.Mutex
	inside, most := 0, 0
	q, over := start(t, &ledger{rows: map[int64]work.Run{}}, map[string]work.Kind{"intake": {Lane: "data", Do: func(_ context.Context, t *work.Task) error {
		mu.Lock()
		inside++
		most = max(most, inside)
		mu.Unlock()
		t.At(1, 1)
		mu.Lock()
		inside--
		mu.Unlock()
		return nil
	}}})
	for range 20 {
		_, err := q.Add(t.Context(), "intake", "a feed", 1)
		require.NoError(t, err)
	}
	for range 20 {
		assert.Equal(t, work.Done, (<-over).State)
	}
	assert.Equal(t, 1, most)
}

func TestEveryEndIsToldAndKept(t *testing.T) {
	l, waiting := &ledger{rows: map[int64]work.Run{}}, make(chan struct{})
	q, over := start(t, l, map[string]work.Kind{
		"fails":  {Lane: "a", Do: func(context.Context, *work.Task) error { return errors.New("no answer") }},
		"panics": {Lane: "b", Do: func(context.Context, *work.Task) error { panic("oh") }},
		"waits": {Lane: "c", Do: func(ctx context.Context, _ *work.Task) error {
			close(waiting)
			<-ctx.Done()
			return ctx.Err()
		}},
	})
	_, err := q.Add(t.Context(), "fails", "", 0)
	require.NoError(t, err)
	r := <-over
	assert.Equal(t, work.Failed, r.State)
	assert.Equal(t, "no answer", r.Error)
	_, err = q.Add(t.Context(), "panics", "", 0)
	require.NoError(t, err)
	assert.Equal(t, work.Failed, (<-over).State)
	w, err := q.Add(t.Context(), "waits", "", 0)
	require.NoError(t, err)
	<-waiting
	assert.True(t, q.Stop(w.ID))
	assert.Equal(t, work.Stopped, (<-over).State)
	assert.False(t, q.Stop(w.ID))
	assert.Equal(t, work.Stopped, l.rows[w.ID].State)
	_, err = q.Add(t.Context(), "unheard of", "", 0)
	assert.Error(t, err)
}

func TestWhatWasCutShortBeginsAgain(t *testing.T) {
	l, began := &ledger{rows: map[int64]work.Run{}}, make(chan struct{}, 1)
	q := work.New(l, time.Now, func(work.Run) {})
	q.Handle("send", work.Kind{Lane: "send", Do: func(ctx context.Context, _ *work.Task) error {
		began <- struct{}{}
		<-ctx.Done()
		return ctx.Err()
	}})
	require.NoError(t, q.Start(t.Context()))
	_, err := q.Add(t.Context(), "send", "", 7)
	require.NoError(t, err)
	<-began
	q.Close() // as a crash would leave it: running, and never ended
	assert.Equal(t, work.Running, l.rows[1].State)

	_, over := start(t, l, map[string]work.Kind{"send": {Lane: "send", Do: func(context.Context, *work.Task) error { return nil }}})
	r := <-over
	assert.Equal(t, int64(7), r.Subject)
	assert.Equal(t, work.Done, r.State)
}

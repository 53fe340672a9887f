package house_test

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops"
	"easymargin/internal/stops/today"
)

// What happened since somebody was here is counted from then on alone; what comes by
// itself stands in the order in which it comes.
func TestWhatHappenedWhileSomebodyWasAway(t *testing.T) {
	s, gb, _ := onTwoSites(t, 2, 9)
	ctx := t.Context()
	s.clock.Forward(time.Hour)
	left := s.Now()
	nothing, err := s.Today.Beside(ctx, left)
	require.NoError(t, err)
	assert.Empty(t, nothing.Away)
	s.clock.Forward(time.Hour)
	s.buy("GB", gb[s.entries[0].Ref].SKU, 1)
	s.readOrders()
	s.deliver(func(i int) int64 { return 400 + 50*int64(i) }, func(i int) int64 { return 9 * int64(i) }) // one dearer, the other gone
	got, err := s.Today.Beside(ctx, left)
	require.NoError(t, err)
	assert.Equal(t, []today.Gone{
		{Kind: "lines sold", Count: 1, Link: "/orders?part=all"}, {Kind: "went out of stock at suppliers", Count: 1, Link: "/watch?tab=suppliers"},
		{Kind: "costs moved", Count: 1, Link: "/watch?tab=suppliers"}, {Kind: "feeds taken", Count: 1, Link: "/sources"},
	}, got.Away)
	later, err := s.Today.Beside(ctx, s.Now())
	require.NoError(t, err)
	assert.Empty(t, later.Away)
	none, err := s.Today.Beside(ctx, time.Time{})
	require.NoError(t, err)
	assert.Empty(t, none.Away, "nobody asked")

	set, err := s.Sources.Settings(ctx, s.source.ID)
	require.NoError(t, err)
	require.Len(t, none.Comes, 1, "new fees, once for both sites; nothing is fetched by itself")
	assert.Equal(t, today.Coming{Kind: "fees", Name: "Quaymarket", At: time.Date(2026, 4, 1, 0, 0, 0, 0, time.UTC)}, none.Comes[0])
	set.Every = 15
	require.NoError(t, s.Sources.SetSettings(ctx, s.source.ID, stops.IfMatch{}, set))
	at := s.Now()
	require.NoError(t, raw(t, filepath.Dir(s.Store.File())).Exec("UPDATE sources SET tried_at = ?", at).Error)
	comes, err := s.Today.Beside(ctx, time.Time{})
	require.NoError(t, err)
	require.Len(t, comes.Comes, 2)
	assert.Equal(t, today.Coming{Kind: "feed", Name: "Fernhollow Wholesale", At: at.Add(15 * time.Minute)}, comes.Comes[0])
}

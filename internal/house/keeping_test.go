package house_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
	"easymargin/internal/stops/watching"
	"easymargin/internal/store"
)

// What a site's guards allow is what its plan does by itself.
func TestASitesGuardsAreItsOwn(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(always(500), always(9)) // a quarter more: within the 30 % that are allowed
	verdicts := func() map[string]int {
		lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: s.openPlan().ID}, store.Page{})
		require.NoError(t, err)
		out := map[string]int{}
		for _, l := range lines.Rows {
			out[l.Verdict+" "+l.Kind]++
		}
		return out
	}
	assert.Equal(t, map[string]int{"go up": 4}, verdicts())
	strict := watching.SiteFollowing{Runs: store.ByHand, BatchHours: 6, Figures: watching.Figures{CostMoved: "10%"}}
	require.NoError(t, s.Watching.SetFollowing(t.Context(), s.site.ID, stops.IfMatch{}, strict))
	s.idle()
	assert.Equal(t, 4, verdicts()["held up"])
	strict.Figures.CostMoved = "a tenth"
	err := s.Watching.SetFollowing(t.Context(), s.site.ID, stops.IfMatch{}, strict)
	badField(t, err, "cost_moved")
}

// A supplier that is silent for longer than was set has stock that nobody
// knows: it is offered as none, by itself, and as before once it is heard again.
func TestASilentSuppliersStockIsUnknown(t *testing.T) {
	s := newStall(t, 4)
	set, err := s.Sources.Settings(t.Context(), s.source.ID)
	require.NoError(t, err)
	assert.Zero(t, set.Guards.StaleHours, "by how its feeds come")
	set.Guards.StaleHours = 5
	require.NoError(t, s.Sources.SetSettings(t.Context(), s.source.ID, stops.IfMatch{}, set))
	s.deliver(always(400), always(9))
	s.sendAll()
	s.later(4 * time.Hour)
	for _, l := range s.all() {
		assert.NotZero(t, l.Quantity)
	}
	s.later(75 * time.Minute)
	for _, l := range s.all() {
		assert.Zero(t, l.Quantity)
	}
	assert.Contains(t, s.today()["stale"].Words, "5 hours")
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: s.openPlan().ID}, store.Page{})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 4)
	assert.Equal(t, "zero", lines.Rows[0].Kind)
	s.deliver(always(400), always(9))
	for _, l := range s.all() {
		assert.NotZero(t, l.Quantity)
	}
}

// A list that comes each week is late after twenty days, which is said while it is still
// offered, and nothing of it is offered after three weeks. An address that says it has
// nothing new is heard by that.
func TestAWeeklyListIsLateBeforeItIsSilent(t *testing.T) {
	const day = 24 * time.Hour
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	for i := range int64(2) {
		s.clock.Forward(7 * day)
		s.deliver(always(400+i), always(9))
	}
	offered := func() (n int64) {
		for _, l := range s.all() {
			n += l.Quantity
		}
		return n
	}
	s.clock.Forward(19 * day)
	s.later(time.Minute)
	assert.NotContains(t, s.today(), "quiet")
	s.clock.Forward(26 * time.Hour)
	s.later(time.Minute)
	assert.Contains(t, s.today()["quiet"].More, "Tuesday 7 April 08:4")
	assert.NotZero(t, offered(), "it is said while it still counts")
	s.clock.Forward(day)
	s.later(time.Minute)
	assert.Contains(t, s.today()["stale"].Words, "21 days")
	assert.Zero(t, offered())
	s.deliver(always(400), always(9))
	assert.NotContains(t, s.today(), "stale")
	assert.NotZero(t, offered())
}

// Each kind of thing is kept as long as it was set to be, and dropped while the
// application runs; what is still worked with stays.
func TestWhatIsOldIsTidiedAway(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	ctx := t.Context()
	require.NoError(t, s.House.People.KeepAnswer(ctx, "owner", "k", people.Answer{Digest: "d", Status: 200}))
	_, _, err := s.House.People.Enter(ctx, actor.Who{Name: "owner", Person: 1}, "a browser", "")
	require.NoError(t, err)
	db := raw(t, filepath.Dir(s.Store.File()))
	stray := s.Store.Inbox("left-by-a-crash")
	require.NoError(t, os.WriteFile(stray, []byte("x"), 0o600))
	old := time.Now().Add(-48 * time.Hour)
	require.NoError(t, os.Chtimes(stray, old, old))
	have := func() (what []string) {
		if _, err := os.Stat(s.Store.Inbox(s.feed(1).File)); err == nil && s.feed(1).File != "" {
			what = append(what, "file")
		}
		if _, err := os.Stat(stray); err == nil {
			what = append(what, "stray")
		}
		if _, ok, err := s.House.People.Answered(ctx, "owner", "k"); err == nil && ok {
			what = append(what, "answer")
		}
		var sessions int64
		if err := db.Raw("SELECT count(*) FROM sessions").Scan(&sessions).Error; err == nil && sessions > 0 {
			what = append(what, "session")
		}
		if outs, err := s.Store.SendOuts(ctx, store.Page{}); err == nil && outs.Total > 0 {
			what = append(what, "send-out")
		}
		if len(s.runs("intake")) > 0 {
			what = append(what, "run")
		}
		notes, err := s.Store.LastAudits(ctx, 100)
		require.NoError(t, err)
		for _, n := range notes {
			if n.What == "sent" {
				what = append(what, "audit")
			}
		}
		return what
	}
	assert.Equal(t, []string{"file", "stray", "answer", "session", "send-out", "run", "audit"}, have())
	day := func(n int) {
		s.clock.Forward(time.Duration(n) * 24 * time.Hour)
		require.NoError(t, s.Round(ctx))
		s.idle()
	}
	day(2)
	assert.Equal(t, []string{"file", "session", "send-out", "run", "audit"}, have(), "after two days")
	day(30)
	assert.Equal(t, []string{"send-out", "run", "audit"}, have(), "after a month")
	kept, err := s.House.Today.Keeping(ctx)
	require.NoError(t, err)
	assert.NotNil(t, kept.Tidied, "it is said when")
	assert.Contains(t, kept.Note, "dropped", "and what")
	assert.Equal(t, fault.Invalid, fault.KindOf(s.House.Today.Keep(ctx, stops.IfMatch{}, map[string]int64{"sendouts": 3})))
	assert.Equal(t, fault.Invalid, fault.KindOf(s.House.Today.Keep(ctx, stops.IfMatch{}, map[string]int64{"letters": 3})))
	require.NoError(t, s.House.Today.Keep(ctx, stops.IfMatch{}, map[string]int64{"sendouts": 60, "runs": 10, "audit": 30}))
	day(40)
	assert.Empty(t, have(), "as it was set")
	assert.Len(t, s.there(), 4)
	assert.Len(t, s.all(), 4)
}

// A clock that was set back stops nothing: feeds are taken, prices follow, what
// is sent is confirmed, and every invariant holds.
func TestAClockThatWasSetBack(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.alone(nil)
	s.later(time.Hour)
	s.clock.Forward(-26 * time.Hour)
	require.NoError(t, s.Round(t.Context()))
	s.idle()
	before := s.asked()
	s.deliver(always(430), func(i int) int64 { return []int64{0, 9, 9}[i] })
	s.settled()
	assert.Equal(t, []int64{0, 8, 8}, s.quantities())
	assert.Greater(t, s.asked()[1], before[1])
	sound(t, s.Store)
}

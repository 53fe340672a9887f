package house_test

import (
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/plan"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/watching"
	"easymargin/internal/store"
)

// alone has what may go be sent by itself, with what else a test wants of it.
func (s *stall) alone(change func(f *watching.SiteFollowing)) {
	s.t.Helper()
	f := watching.SiteFollowing{Runs: store.Alone, AtOnce: true, BatchHours: 6}
	if change != nil {
		change(&f)
	}
	require.NoError(s.t, s.Watching.SetFollowing(s.t.Context(), s.site.ID, stops.IfMatch{}, f))
	s.idle()
}

// quantities are what is offered there, by product.
func (s *stall) quantities() []int64 {
	out := make([]int64, len(s.entries))
	for _, x := range s.there() {
		out[s.number(x.Entry)] = x.Quantity
	}
	return out
}

// settled lets the marketplace answer.
func (s *stall) settled() {
	s.t.Helper()
	s.idle()
	s.later(15 * time.Minute)
}

func TestByItselfWhatMayGoGoesAndWhatIsHeldWaits(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(always(440), func(i int) int64 { return []int64{9, 9, 9, 0}[i] })
	assert.Equal(t, []int64{8, 8, 8, 8}, s.quantities(), "by hand, nothing goes before a person lets it")
	require.NotEmpty(t, s.planned())

	s.alone(nil)
	s.settled()
	was := s.asked()
	assert.Equal(t, []int64{8, 8, 8, 0}, s.quantities())
	assert.Empty(t, s.planned())
	outs, err := s.Store.SendOuts(t.Context(), store.Page{})
	require.NoError(t, err)
	assert.True(t, outs.Rows[0].Alone)
	assert.Equal(t, sending.ByItself, outs.Rows[0].Sender)

	s.deliver(func(i int) int64 { return []int64{460, 900, 460, 460}[i] }, always(9)) // one of them by more than 30 %
	s.settled()
	now := s.asked()
	assert.Greater(t, now[0], was[0])
	assert.Equal(t, was[1], now[1])
	held := s.planned()
	require.Len(t, held, 1)
	assert.Equal(t, string(plan.Held), held[0].Verdict)
	assert.Equal(t, []int64{8, 0, 8, 8}, s.quantities(), "at a loss, it rests until somebody decides")
}

func TestThreeLimitsOfWhatGoesByItself(t *testing.T) {
	for name, c := range map[string]struct {
		change func(f *watching.SiteFollowing)
		moved  int // of four prices, at once
		later  int // after what held them back is over
		wait   time.Duration
	}{
		"quiet hours":                  {func(f *watching.SiteFollowing) { f.QuietFrom, f.QuietTo = "07:00", "11:00" }, 0, 4, 4 * time.Hour},
		"more than may go at once":     {func(f *watching.SiteFollowing) { f.MostAtOnce = 3 }, 0, 0, time.Hour},
		"as many as may go at once":    {func(f *watching.SiteFollowing) { f.MostAtOnce = 4 }, 4, 4, 0},
		"no more than may go in a day": {func(f *watching.SiteFollowing) { f.MostADay = 3 }, 3, 4, 25 * time.Hour},
	} {
		t.Run(name, func(t *testing.T) {
			s := newStall(t, 5)
			s.deliver(always(400), always(9))
			s.sendAll()
			s.alone(c.change)
			before := s.asked()
			s.deliver(func(i int) int64 { return []int64{440, 440, 440, 440, 400}[i] }, func(i int) int64 { return []int64{9, 9, 9, 9, 0}[i] })
			s.settled()
			moved := func() (n int) {
				for i, p := range s.asked() {
					if p != before[i] {
						n++
					}
				}
				return n
			}
			assert.Equal(t, c.moved, moved())
			assert.Equal(t, int64(0), s.quantities()[4], "stock to nothing is never held back")
			s.later(c.wait)
			assert.Equal(t, c.later, moved())
		})
	}
}

func TestInItsFirstWeekItOnlySaysWhatItWouldDo(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.alone(func(f *watching.SiteFollowing) { f.AtOnce = false })
	before := s.asked()
	s.deliver(always(440), always(9))
	s.settled()
	assert.Equal(t, before, s.asked())
	said, err := s.Store.Shadows(t.Context(), s.site.ID, store.Page{})
	require.NoError(t, err)
	require.Len(t, said.Rows, 2)
	assert.Equal(t, "up", said.Rows[0].Kind)
	require.NotNil(t, said.Rows[0].ToPrice)
	s.later(time.Hour)
	again, err := s.Store.Shadows(t.Context(), 0, store.Page{})
	require.NoError(t, err)
	assert.Len(t, again.Rows, 2, "each change is said once")
	require.Len(t, s.planned(), 2, "and waits for a person")

	s.deliver(always(440), halfOf(9))
	s.settled()
	assert.Contains(t, s.quantities(), int64(0), "what can't be had is offered no more, in the first week too")
	assert.Equal(t, before, s.asked())
	again, err = s.Store.Shadows(t.Context(), 0, store.Page{})
	require.NoError(t, err)
	assert.Len(t, again.Rows, 2, "what went isn't among what would have gone")
	s.deliver(always(440), always(9))

	s.clock.Forward(7 * 24 * time.Hour)
	s.deliver(always(450), always(9))
	s.settled()
	assert.Empty(t, s.planned(), "after it, it acts")
	assert.Greater(t, s.asked()[0], before[0])
}

func TestARuleSetsItsOwnFiguresAndMode(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	view, err := s.Watching.Following(t.Context(), s.site.ID)
	require.NoError(t, err)
	require.NotEmpty(t, view.Rules)
	rule := view.Rules[len(view.Rules)-1]
	n := func(v int64) *int64 { return &v }
	rule.Figures.Buffer, rule.Figures.Cap = n(3), n(4)
	require.NoError(t, s.Watching.SetRuleFollowing(t.Context(), rule.ID, stops.IfMatch{}, rule))
	s.idle()
	for _, x := range s.planned() {
		assert.Equal(t, int64(4), *x.ToQty)
	}
	require.Len(t, s.planned(), 3)
	rule.Runs, rule.AtOnce = store.Alone, true
	require.NoError(t, s.Watching.SetRuleFollowing(t.Context(), rule.ID, stops.IfMatch{}, rule))
	s.settled()
	assert.Equal(t, []int64{4, 4, 4}, s.quantities(), "the rule acts alone though its site goes by hand")
	assert.ErrorIs(t, s.Watching.SetRuleFollowing(t.Context(), 9999, stops.IfMatch{}, rule), store.ErrMissing)
	rule.Figures.Saving = "much"
	badField(t, s.Watching.SetRuleFollowing(t.Context(), rule.ID, stops.IfMatch{}, rule), "saving")
}

func TestOtherFiguresAreTriedBeforeTheyAreKept(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	n := func(v int64) *int64 { return &v }
	got, err := s.Watching.Try(t.Context(), s.site.ID, watching.Trial{Figures: watching.Figures{Buffer: n(9)}})
	require.NoError(t, err)
	assert.Equal(t, []watching.TrialCount{{Kind: "zero", Name: "Stock to nothing", Verdict: "go", Then: 4}}, got.Kinds)
	assert.Equal(t, [][2]int64{{32, 0}, {0, 4}, {0, 0}}, [][2]int64{got.Offered, got.None, got.Switch})
	assert.Equal(t, []int64{4, 4}, []int64{got.Listings, got.Of})
	assert.Empty(t, s.planned(), "nothing is changed by it")
	_, err = s.Watching.Try(t.Context(), s.site.ID, watching.Trial{RuleID: 9999})
	assert.Equal(t, fault.Missing, fault.KindOf(err))
}

// What was sold out comes back only once so many feeds in a row have some.
func TestPatienceWaitsForSeveralFeeds(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	n := func(v int64) *int64 { return &v }
	s.alone(func(f *watching.SiteFollowing) { f.Figures.Patience = n(3) })
	s.deliver(always(400), func(i int) int64 { return []int64{0, 9}[i] })
	s.settled()
	require.Equal(t, []int64{0, 8}, s.quantities(), "falling is never delayed")
	for k, want := range []int64{0, 0, 8} {
		s.deliver(always(400+int64(k)), always(9)) // another list each time: the same file twice is one
		s.settled()
		assert.Equal(t, []int64{want, 8}, s.quantities())
	}
}

func TestTheStopHoldsEverythingAndIsLiftedByHand(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.alone(nil)
	require.NoError(t, s.Sending.SetHalt(t.Context(), true, "the feed looks odd"))
	before := s.asked()
	s.deliver(always(440), func(i int) int64 { return []int64{0, 9, 9}[i] })
	s.settled()
	assert.Equal(t, []int64{8, 8, 8}, s.quantities())
	assert.Equal(t, before, s.asked())
	plan := s.openPlan()
	_, err := s.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	assert.Equal(t, fault.Held, fault.KindOf(err))
	assert.ErrorContains(t, err, "until the stop is lifted")
	_, err = s.Sending.SendListings(t.Context(), nil, sending.How{})
	assert.ErrorContains(t, err, "everything is stopped")

	s.Close()
	s.restart()
	s.settled()
	assert.Equal(t, before, s.asked(), "a start lifts no stop")
	require.NoError(t, s.Sending.SetHalt(t.Context(), false, ""))
	s.settled()
	assert.Equal(t, []int64{0, 8, 8}, s.quantities())
	assert.Greater(t, s.asked()[1], before[1])
}

// What was let go and isn't handed over yet waits too, and goes once it is lifted.
func TestTheStopHoldsWhatIsOnItsWayToTheDoor(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.market.SetDown(true)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.idle()
	require.NoError(t, s.Sending.SetHalt(t.Context(), true, ""))
	s.market.SetDown(false)
	for _, id := range sent.SendOuts {
		_, err := s.Sending.SendAgain(t.Context(), id)
		require.NoError(t, err)
	}
	s.settled()
	assert.Empty(t, s.there())
	require.NoError(t, s.Sending.SetHalt(t.Context(), false, ""))
	s.settled()
	assert.Equal(t, []int64{8, 8}, s.quantities())
}

func TestTakingBackASentPlan(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	before := s.asked()
	s.deliver(always(380), always(9)) // cheaper: prices fall
	s.sendPlan()
	fell := s.asked()
	require.Less(t, fell[0], before[0])
	outs, err := s.Store.SendOuts(t.Context(), store.Page{})
	require.NoError(t, err)
	id := outs.Rows[0].ID

	looks, err := s.Sending.TakeBackLooks(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, looks.Rows, 3)
	for _, r := range looks.Rows {
		assert.Equal(t, "go", r.Verdict, r.Why)
		assert.Equal(t, before[0], *r.ToPrice)
		assert.NotNil(t, r.Profit)
	}
	_, err = s.Sending.TakeBack(t.Context(), id, []int64{looks.Rows[1].ID})
	require.NoError(t, err)
	s.settled()
	again := s.asked()
	n := 0
	for i := range again {
		if again[i] == before[i] {
			n++
		}
	}
	assert.Equal(t, 1, n, "one of them was taken back")
	held := s.planned()
	require.Len(t, held, 1)
	assert.Equal(t, []any{"held", "down"}, []any{held[0].Verdict, held[0].Kind}, "the same move waits for a person")
	assert.Contains(t, held[0].VerdictWhy, "you took this move back")

	looks, err = s.Sending.TakeBackLooks(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "blocked", looks.Rows[1].Verdict)
	assert.Contains(t, looks.Rows[1].Why, "already")
	_, err = s.Sending.TakeBack(t.Context(), id, []int64{looks.Rows[1].ID})
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	_, err = s.Sending.TakeBack(t.Context(), id, nil)
	require.NoError(t, err)
	s.settled()
	assert.Equal(t, before, s.asked())

	s.later(25 * time.Hour)
	s.deliver(always(350), always(9)) // another move is due: it isn't the one that was taken back
	for _, l := range s.planned() {
		assert.Equal(t, "go", l.Verdict, l.VerdictWhy)
	}
}

// Taking back never goes under the floor of now, nor above what there is now.
func TestTakingBackIsHeldToTheGuards(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(always(460), always(0)) // dearer, and none left
	s.sendPlan()
	s.deliver(always(460), func(i int) int64 { return []int64{4, 0}[i] })
	s.sendPlan()
	outs, err := s.Store.SendOuts(t.Context(), store.Page{})
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, o := range outs.Rows {
		looks, err := s.Sending.TakeBackLooks(t.Context(), o.ID)
		require.NoError(t, err)
		for _, r := range looks.Rows {
			kinds[r.Verdict]++
			if r.ToQty != nil && *r.ToQty > 0 {
				assert.LessOrEqual(t, *r.ToQty, int64(3))
			}
		}
	}
	assert.NotZero(t, kinds["blocked"])
	s.safe(func(i int) int64 { return []int64{4, 0}[i] })
	// What was put up by a send-out goes off sale when it is taken back, and stays so.
	first := outs.Rows[len(outs.Rows)-1].ID
	_, err = s.Sending.TakeBack(t.Context(), first, nil)
	require.NoError(t, err)
	s.settled()
	assert.Equal(t, []int64{0, 0}, s.quantities())
	for _, l := range s.planned() {
		assert.Equal(t, "held", l.Verdict)
	}
}

// What rests since a sale would lose money isn't put back by taking that back.
func TestTakingBackPutsNothingBackUnderItsFloor(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(func(i int) int64 { return []int64{900, 400}[i] }, always(9))
	plan := s.openPlan()
	_, err := s.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	require.NoError(t, err)
	s.settled()
	require.Equal(t, []int64{0, 8}, s.quantities())
	outs, err := s.Store.SendOuts(t.Context(), store.Page{})
	require.NoError(t, err)
	looks, err := s.Sending.TakeBackLooks(t.Context(), outs.Rows[0].ID)
	require.NoError(t, err)
	require.Len(t, looks.Rows, 1)
	assert.Equal(t, "blocked", looks.Rows[0].Verdict)
	assert.Contains(t, looks.Rows[0].Why, "under its floor now")
	_, err = s.Sending.TakeBack(t.Context(), outs.Rows[0].ID, nil)
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
}

// What a marketplace refused isn't sent again by itself, or it would be asked
// without end; stock to nothing is tried again every hour.
func TestWhatWasRefusedIsntSentAgainByItself(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.alone(nil)
	asked := 0
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method != http.MethodPost {
			next.ServeHTTP(w, r)
			return
		}
		asked++
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		r.Body = io.NopCloser(strings.NewReader(strings.ReplaceAll(string(body), `"entry":"`, `"entry":"no-`))) // it knows no such entry
		next.ServeHTTP(w, r)
	})
	s.deliver(always(430), func(i int) int64 { return []int64{0, 9}[i] })
	s.idle()
	assert.Equal(t, 2, asked, "each once")
	assert.Len(t, s.planned(), 2, "they wait in the plan")
	s.later(45 * time.Minute)
	assert.Equal(t, 2, asked)
	s.later(45 * time.Minute)
	assert.Equal(t, 3, asked, "what takes stock away is tried again")
	s.front.set(nil)
	s.later(2 * time.Hour)
	assert.Equal(t, int64(0), s.quantities()[0])
	s.deliver(always(435), always(9)) // another change is due
	s.settled()
	assert.Equal(t, *s.all()[0].Price, s.asked()[0])
}

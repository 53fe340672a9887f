package house_test

import (
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/watching"
	"easymargin/internal/store"
)

// rival is another seller on every entry, whose price a test sets.
type rival struct {
	mu    sync.Mutex
	price int64 // 0: it doesn't sell
}

func (r *rival) ask(price int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.price = price
}

func (s *stall) rival() *rival {
	r := &rival{}
	s.market.Wander = func(*sim.Entry, time.Time) []sim.Offer {
		r.mu.Lock()
		defer r.mu.Unlock()
		if r.price == 0 {
			return nil
		}
		return []sim.Offer{{Seller: "Gannet Goods", Item: r.price, Lead: true}}
	}
	return r
}

// under is a rule that goes a penny under the lowest rival, down to what it keeps.
func (s *stall) under() prices.NamedRule {
	s.t.Helper()
	list, err := s.Prices.Rules(s.t.Context(), s.site.ID)
	require.NoError(s.t, err)
	r := list[len(list)-1]
	r.Rule = prices.Rule{
		Aims:   []prices.RuleCondition{{Kind: "margin", Value: "30%"}},
		Keep:   []prices.RuleCondition{{Kind: "profit", Value: "0.50"}},
		Market: &prices.RuleMarket{Stance: "below", Against: "lowest", By: "0.01"},
	}
	return r
}

// moved reads what others ask, lets what may go by itself go, and
// gives what is asked then.
func (s *stall) moved() int64 {
	s.t.Helper()
	require.NoError(s.t, s.Prices.ReadRivals(s.t.Context(), s.site.ID))
	s.settled()
	return s.asked()[0]
}

func TestTwoWhoUndercutEachOtherStopAtTheFloor(t *testing.T) {
	s := newStall(t, 1)
	other := s.rival()
	_, err := s.Prices.KeepRule(t.Context(), s.site.ID, stops.IfMatch{}, s.under())
	require.NoError(t, err)
	s.deliver(always(400), always(9))
	s.sendAll()
	n := int64(1000)
	s.alone(func(f *watching.SiteFollowing) {
		f.Figures.RivalMoves, f.Figures.MovesPerDay, f.Figures.Small, f.Figures.PriceMoved = &n, &n, "0%", "90%"
	})
	top := s.asked()[0]
	price, floor := top, *s.all()[0].Floor
	for price > floor { // each undercuts the other, by a tenth
		other.ask(price * 9 / 10)
		now := s.moved()
		if now == price {
			break
		}
		require.GreaterOrEqual(t, now, floor)
		price = now
	}
	assert.Equal(t, floor, price, "it stops at the floor")
	other.ask(100) // below what it costs anybody
	assert.Equal(t, floor, s.moved(), "and no lower")
	other.ask(0)
	assert.Equal(t, top, s.moved(), "back up when the rival has left")
}

// Where a rival asks less than it costs us, the plan says that it isn't followed.
func TestARivalBelowCostIsNotFollowedAndThatIsSaid(t *testing.T) {
	s := newStall(t, 1)
	other := s.rival()
	_, err := s.Prices.KeepRule(t.Context(), s.site.ID, stops.IfMatch{}, s.under())
	require.NoError(t, err)
	s.deliver(always(400), always(9))
	s.sendAll()
	other.ask(150)
	s.moved()
	lines := s.planned()
	require.Len(t, lines, 1)
	said := strings.Join(lines[0].Reasons, "; ")
	assert.Contains(t, said, "Gannet Goods asks 1.50 in all, less than it costs us to sell one: not followed")
	assert.Equal(t, *s.all()[0].Floor, *lines[0].ToPrice)
}

func TestARuleIsReplayedOverWhatWasRecorded(t *testing.T) {
	s := newStall(t, 3)
	other := s.rival()
	other.ask(1200)
	s.deliver(always(400), always(9))
	_, err := s.Prices.KeepRule(t.Context(), s.site.ID, stops.IfMatch{}, s.under())
	require.NoError(t, err)
	s.idle()
	s.moved()
	s.sendAll()
	began := s.asked()[0]
	for day, ask := range []int64{1100, 900, 1000} {
		s.clock.Forward(24 * time.Hour)
		s.deliver(always(400+int64(day)), always(9))
		other.ask(ask)
		s.moved()
	}
	s.clock.Forward(24 * time.Hour)

	rule := s.under()
	got, err := s.Prices.Replay(t.Context(), s.site.ID, rule, 3)
	require.NoError(t, err)
	assert.Equal(t, int64(3), got.Listings)
	assert.True(t, got.All)
	require.Len(t, got.Days, 3)
	assert.Zero(t, got.Was.Moves, "nobody let a move go")
	assert.NotZero(t, got.Then.Moves)
	assert.Greater(t, got.Then.Lowest, got.Was.Lowest, "it would have been the lowest more often")
	assert.Less(t, *got.Then.Mean, *got.Was.Mean, "for less a sale")
	assert.Less(t, *got.Then.Least, *got.Was.Least)
	assert.Equal(t, 3*3.0, got.Was.OnSale)
	assert.Equal(t, began, s.asked()[0], "nothing is changed by it")
	require.Len(t, got.Rows, 3)

	rule.Rule.Market = nil
	rule.Rule.Aims[0].Value = "35%"
	dear, err := s.Prices.Replay(t.Context(), s.site.ID, rule, 3)
	require.NoError(t, err)
	assert.Greater(t, *dear.Then.Mean, *got.Then.Mean)
	assert.Less(t, dear.Then.Lowest, got.Then.Lowest)

	rule.Rule.Keep[0].Value = "9.00" // more than any rival leaves
	kept, err := s.Prices.Replay(t.Context(), s.site.ID, rule, 3)
	require.NoError(t, err)
	assert.NotZero(t, kept.Then.Unkept, "days that it would have been below its floor, without one")
	rule.Rule.Aims[0].Value = "much"
	_, err = s.Prices.Replay(t.Context(), s.site.ID, rule, 3)
	assert.Error(t, err)
}

// What suppliers and rivals did stands in two lists, with what was before.
func TestMovesAreListed(t *testing.T) {
	s := newStall(t, 2)
	other := s.rival()
	other.ask(1200)
	_, err := s.Prices.KeepRule(t.Context(), s.site.ID, stops.IfMatch{}, s.under())
	require.NoError(t, err)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.moved()
	other.ask(1100)
	s.moved()
	s.deliver(func(i int) int64 { return []int64{450, 400}[i] }, func(i int) int64 { return []int64{9, 2}[i] })

	rivals, err := s.Store.RivalMoves(t.Context(), s.site.ID, store.Page{})
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(rivals.Rows), 2)
	assert.Equal(t, []int64{1100, 1200, 1}, []int64{*rivals.Rows[0].Lowest, *rivals.Rows[0].LowestBefore, rivals.Rows[0].Sellers})
	none, err := s.Store.RivalMoves(t.Context(), s.site.ID+1, store.Page{})
	require.NoError(t, err)
	assert.Empty(t, none.Rows)

	moves, err := s.Store.SupplyMoves(t.Context(), "", store.Page{})
	require.NoError(t, err)
	require.Len(t, moves.Rows, 2)
	by := map[string][2]string{}
	for _, m := range moves.Rows {
		by[m.Field] = [2]string{m.Before, m.After}
		assert.Equal(t, int64(1), m.Listings)
	}
	assert.Equal(t, map[string][2]string{"cost": {"4.00", "4.50"}, "stock": {"9", "2"}}, by)
	costs, err := s.Store.SupplyMoves(t.Context(), "cost", store.Page{})
	require.NoError(t, err)
	assert.Len(t, costs.Rows, 1)

	// And of one listing: how it stood, and all that was sent of it, with why.
	id := s.all()[0].ID
	h, err := s.Watching.History(t.Context(), id, 2)
	require.NoError(t, err)
	require.NotEmpty(t, h.Steps)
	last := h.Steps[len(h.Steps)-1]
	assert.NotNil(t, last.Cost)
	assert.NotNil(t, last.Floor)
	assert.Equal(t, int64(1100), *last.Lowest)
	sent, err := s.Store.Sent(t.Context(), id, store.Page{})
	require.NoError(t, err)
	require.Len(t, sent.Rows, 1)
	assert.Equal(t, store.SendConfirmed, sent.Rows[0].State)
	assert.Nil(t, sent.Rows[0].FromPrice, "it was put up")
}

package house_test

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// The guards of section 7 of docs/definitions/supply.md, each where it alone stands
// between an old word and a marketplace.

// planned are the lines of the plan that waits, if one does.
func (w *world) planned() []store.PlanRow {
	plans, err := w.Store.OpenPlans(w.t.Context())
	require.NoError(w.t, err)
	if len(plans) == 0 {
		return nil
	}
	l, err := w.Store.PlanLines(w.t.Context(), store.PlanPart{Plan: plans[0].ID}, store.Page{Limit: 500})
	require.NoError(w.t, err)
	return l.Rows
}

// asked is what each of a stall's products is offered for.
func (s *stall) asked() []int64 {
	out := make([]int64, len(s.entries))
	for _, x := range s.there() {
		out[s.number(x.Entry)] = x.Price
	}
	return out
}

// prices are the plan's prices: their lines, and what is to be asked.
func (s *stall) prices() (lines []int64, price int64) {
	for _, l := range s.planned() {
		if l.ToPrice != nil {
			lines, price = append(lines, l.ID), *l.ToPrice
		}
	}
	require.Len(s.t, lines, len(s.entries))
	return lines, price
}

// bring has the supplier's list taken and worked out, whatever else goes on.
func (s *stall) bring(cost, stock func(i int) int64) {
	f, err := s.Sources.BringIn(s.t.Context(), strings.NewReader(s.list(cost, stock)), sources.Arriving{Name: "list.csv", SourceID: &s.source.ID})
	require.NoError(s.t, err)
	r, err := s.Sources.Take(s.t.Context(), f.ID, s.source.ID, nil, true)
	require.NoError(s.t, err)
	s.wait(r)
	s.until("it is worked out", func() bool {
		n, err := s.Store.CountDirty(context.Background(), s.site.ID)
		require.NoError(s.t, err)
		return n == 0
	})
}

// A price that was let go doesn't go out any more once a newer one was: not even
// where both were cut short together, and it would be allowed by itself.
func TestAnOvertakenPriceStaysBehind(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(always(360), always(9))
	lines, price := s.prices()
	s.House.Close() // what is let go from here on is handed over after the next start
	letGo := house.New(house.Options{Store: s.Store, Now: s.clock.Now}).Sending.SendPlan
	older, err := letGo(t.Context(), s.openPlan().ID, sending.PlanChoice{Lines: lines})
	require.NoError(t, err)
	dear := price + 150
	var listings []int64
	var next []store.PlanLine
	for _, l := range s.all() {
		listings = append(listings, l.ID)
		next = append(next, store.PlanLine{ListingID: l.ID, Kind: "up", FromPrice: &price, ToPrice: &dear, Cost: &l.Cost, CostCur: l.CostCurrency,
			Landed: l.Landed, Currency: "GBP", Verdict: "go", State: store.PlanWaiting})
	}
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
		ids, err := tx.DirtyIDs(s.site.ID, 100)
		return errors.Join(err, tx.Clean(ids), tx.PutPlanLines(s.clock.Now(), s.site.ID, listings, next))
	}))
	newer, err := letGo(t.Context(), s.openPlan().ID, sending.PlanChoice{})
	require.NoError(t, err)
	require.Equal(t, int64(4), newer.Lines)

	s.restart()
	s.idle()
	assert.Equal(t, []int64{dear, dear, dear, dear}, s.asked(), "the newer word stands")
	assert.Equal(t, int64(8), s.market.Applied(), "and the older one was never said")
	assert.Equal(t, map[string]int{store.SendWithdrawn: 4}, s.states(older.SendOuts[0]))
	left, err := s.Store.SendLines(t.Context(), older.SendOuts[0], "", store.Page{Limit: 1})
	require.NoError(t, err)
	assert.Contains(t, left.Rows[0].Words, "a newer change overtook it")
}

// While a change is on its way nothing follows it but what corrects it; once it
// is answered the plan goes on from there.
func TestNothingFollowsWhatIsOnItsWay(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	var silent atomic.Bool
	s.front.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		if silent.Load() {
			answer["state"], answer["lines"] = "working", []any{}
		}
	})
	meddle := s.front.meddle
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if silent.Load() && r.Method == http.MethodPost { // taken, and not a word yet
			f := &front{next: next}
			f.said(http.MethodPost, "/batches", func(answer map[string]any) { answer["state"], answer["lines"] = "working", []any{} })
			f.ServeHTTP(w, r)
			return
		}
		meddle(w, r, next)
	})
	silent.Store(true)
	s.deliver(always(440), always(9))
	before := s.planned()
	require.Len(t, before, 4)
	sent, err := s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{Lines: ids(before)})
	require.NoError(t, err)
	require.Len(t, sent.SendOuts, 1)
	s.until("the batch is there", func() bool { return s.sendOut(sent.SendOuts[0]).Batch != "" })
	s.bring(always(470), always(9))
	assert.Empty(t, s.planned(), "what is on its way may arrive yet")
	s.bring(always(470), func(i int) int64 { return 9 * int64(min(i, 1)) })
	zero := s.planned()
	require.Len(t, zero, 1, "but stock that can't be had waits for nothing")
	assert.Equal(t, "zero", zero[0].Kind)
	assert.Contains(t, zero[0].Reasons, "follows what is on its way already")

	silent.Store(false)
	s.later(1)
	s.until("it is answered", func() bool { return s.states(sent.SendOuts[0])[store.SendConfirmed] == 4 })
	s.idle()
	prices := s.asked()
	follows := 0
	for _, l := range s.planned() {
		if l.Kind == "up" {
			follows++
			assert.Equal(t, prices[1], *l.FromPrice, "from what has arrived")
			assert.Greater(t, *l.ToPrice, *l.FromPrice)
		}
	}
	assert.Equal(t, 3, follows, "the plan goes on from there")
}

// A change that is refused leaves on sale what was, and it is followed as before.
func TestARefusedChangeKeepsTheListingLive(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	before := s.there()
	s.deliver(always(440), always(9))
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method != http.MethodPost {
			next.ServeHTTP(w, r)
			return
		}
		var in struct{ Lines []struct{ Key string } }
		require.NoError(t, json.NewDecoder(r.Body).Decode(&in))
		lines := []any{}
		for _, l := range in.Lines {
			lines = append(lines, map[string]any{"key": l.Key, "state": "refused", "field": "price", "words": "The price has too many nines."})
		}
		_ = json.NewEncoder(w).Encode(map[string]any{"id": "B1", "state": "done", "lines": lines})
	})
	lines, _ := s.prices()
	_, err := s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{Lines: lines})
	require.NoError(t, err)
	s.idle()
	s.front.set(nil)
	assert.Equal(t, before, s.there())
	for _, l := range s.all() {
		assert.Equal(t, store.ListingLive, l.State, "%s is still on sale", l.SKU)
		assert.Equal(t, before[l.SKU].Price, *l.ConfirmedPrice)
		assert.Equal(t, "The price has too many nines.", l.Words)
	}
	s.deliver(always(440), always(0))
	kinds := map[string]int{}
	for _, l := range s.planned() {
		kinds[l.Kind]++
	}
	assert.Equal(t, 4, kinds["zero"], "and taken off sale when there is none left: %v", kinds)
}

// A plan's line that the figures of now forbid doesn't even become a send-out.
func TestAPlanLetsNothingGoThatIsForbidden(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.House.Close()
	under, over, fine := int64(0), int64(10), int64(0)
	var listings []int64
	var lines []store.PlanLine
	for i, l := range s.all() {
		under, fine = *l.Floor-1, *l.Floor
		x := store.PlanLine{ListingID: l.ID, Kind: "down", Cost: &l.Cost, CostCur: l.CostCurrency, Landed: l.Landed, Currency: "GBP",
			Verdict: "go", State: store.PlanWaiting}
		switch i {
		case 0:
			x.FromPrice, x.ToPrice = l.ConfirmedPrice, &under
		case 1:
			x.Kind, x.FromQty, x.ToQty = "quantity", &l.ConfirmedQuantity, &over
		case 2:
			x.FromPrice, x.ToPrice, x.Verdict = l.ConfirmedPrice, &fine, "blocked"
		default:
			x.FromPrice, x.ToPrice = l.ConfirmedPrice, &fine
		}
		listings, lines = append(listings, l.ID), append(lines, x)
	}
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.PutPlanLines(s.clock.Now(), s.site.ID, listings, lines)
	}))
	all := ids(s.planned())
	require.Len(t, all, 4)
	sent, err := house.New(house.Options{Store: s.Store, Now: s.clock.Now}).Sending.
		SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{Lines: all})
	require.NoError(t, err)
	assert.Equal(t, int64(1), sent.Lines, "of a price under its floor, more than there is, what is blocked, and what may go")
}

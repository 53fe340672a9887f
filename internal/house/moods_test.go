package house_test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// However a marketplace misbehaves while changes are handed to it: nothing is
// done twice, nothing is believed that nobody said, and once it is well again
// what is on sale is what should be, without anybody's help.
func TestHoweverAMarketplaceMisbehaves(t *testing.T) {
	for _, m := range sim.Moods {
		if m.Mood == sim.Slow {
			continue // only slow; the demo's batches are slower
		}
		t.Run(string(m.Mood), func(t *testing.T) {
			s := newStall(t, 4)
			s.deliver(always(400), always(9))
			s.sendAll()
			s.alone(nil)
			applied := s.market.Applied()
			require.NoError(t, s.market.SetMood(m.Mood))
			s.deliver(always(430), func(i int) int64 { return []int64{0, 9, 9, 9}[i] })
			s.idle()
			s.later(15 * time.Minute)
			said := s.market.Applied() - applied
			assert.LessOrEqual(t, said, int64(4), "no line is done twice")

			require.NoError(t, s.market.SetMood(""))
			s.later(4 * time.Hour)
			assert.Equal(t, int64(4), s.market.Applied()-applied, "each change is done once")
			assert.Equal(t, []int64{0, 8, 8, 8}, s.quantities())
			for _, l := range s.all() {
				assert.Equal(t, store.ListingLive, l.State)
				if l.Quantity > 0 { // the price of what isn't offered waits with it
					assert.Equal(t, *l.Price, *l.ConfirmedPrice, "what is confirmed is what is there")
				}
			}
			assert.Empty(t, s.planned())
			sound(t, s.Store)
		})
	}
}

// What couldn't be handed over is tried again by itself, after pauses that grow.
func TestWhatCouldntBeHandedOverIsTriedAgain(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.market.SetDown(true)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.idle()
	var pauses []time.Duration
	for range 3 {
		o := s.sendOut(sent.SendOuts[0])
		require.NotNil(t, o.AgainAt)
		pauses = append(pauses, o.AgainAt.Sub(s.clock.Now()))
		s.clock.Forward(o.AgainAt.Sub(s.clock.Now()))
		require.NoError(t, s.Round(t.Context()))
		s.idle()
	}
	assert.Greater(t, pauses[1], pauses[0])
	assert.Greater(t, pauses[2], pauses[1])
	s.market.SetDown(false)
	s.later(30 * time.Minute)
	assert.Equal(t, []int64{8, 8}, s.quantities())
	assert.Equal(t, int64(2), s.market.Applied())
}

// The stand-in has a page of switches.
func TestTheStandInIsToldToMisbehave(t *testing.T) {
	m := &sim.Marketplace{Clock: sim.NewClock(time.Date(2026, 3, 3, 8, 0, 0, 0, time.UTC), 0), Name: "Quaymarket"}
	do := func(method, form string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(method, "/moods", strings.NewReader(form))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		rec := httptest.NewRecorder()
		m.ServeHTTP(rec, r)
		return rec
	}
	assert.Contains(t, do(http.MethodGet, "").Body.String(), "breaks off in the middle of its answers")
	assert.Equal(t, http.StatusOK, do(http.MethodPost, url.Values{"mood": {"half"}}.Encode()).Code)
	assert.Equal(t, sim.Half, m.Mood())
	assert.Equal(t, http.StatusBadRequest, do(http.MethodPost, url.Values{"mood": {"merry"}}.Encode()).Code)
	assert.Equal(t, sim.Half, m.Mood())
	do(http.MethodPost, "mood=")
	assert.Empty(t, m.Mood())
}

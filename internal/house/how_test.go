package house_test

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// What waits for its hour goes then and not before, by what holds at that hour:
// what the supplier ran out of meanwhile doesn't go at all.
func TestWhatWaitsForItsHourGoesThen(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	evening := s.clock.Now().Add(3 * time.Hour)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{At: &evening})
	require.NoError(t, err)
	require.Len(t, sent.SendOuts, 1)
	assert.Equal(t, [2]int64{4, 4}, [2]int64{sent.Lines, sent.Later})
	assert.Empty(t, sent.Runs)
	s.later(2 * time.Hour)
	assert.Empty(t, s.there(), "not before its hour")
	assert.NotContains(t, s.today(), "stuck", "nobody has to look at it")
	s.deliver(always(400), halfOf(9))
	s.safe(halfOf(9))
	s.later(2 * time.Hour)
	assert.Len(t, s.there(), 2, "only what there is still")
	s.safe(halfOf(9))
	assert.Equal(t, map[string]int{store.SendConfirmed: 2, store.SendWithdrawn: 2}, s.states(sent.SendOuts[0]))
}

// What is spread goes part by part, the most earning first, and survives a restart.
func TestWhatIsSpreadGoesPartByPart(t *testing.T) {
	s := newStall(t, 6)
	s.deliver(func(i int) int64 { return int64(200 + 150*i) }, always(9))
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{Over: 60, Order: "price"})
	require.NoError(t, err)
	require.Len(t, sent.SendOuts, 6, "never more parts than lines")
	assert.Equal(t, int64(6), sent.Lines)
	require.NoError(t, s.Sending.Resume(t.Context()), "as a start does")
	require.NoError(t, s.Round(t.Context()))
	s.idle()
	first := s.there()
	require.Len(t, first, 1)
	s.later(30 * time.Minute)
	assert.Len(t, s.there(), 3)
	for _, x := range first {
		for _, y := range s.there() {
			assert.GreaterOrEqual(t, x.Price, y.Price, "the dearest went first")
		}
	}
	s.later(time.Hour)
	assert.Len(t, s.there(), 6)
	s.safe(always(9))
}

// Stock that goes down never waits for an hour that was said for its plan, and
// what waits is overtaken by it.
func TestStockThatGoesDownDoesNotWait(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(func(i int) int64 { return []int64{400, 450, 400}[i] }, func(i int) int64 { return []int64{2, 9, 9}[i] })
	night := s.clock.Now().Add(5 * time.Hour)
	plan := s.openPlan()
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 2)
	sent, err := s.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{Lines: ids(lines.Rows), At: &night})
	require.NoError(t, err)
	assert.Equal(t, [2]int64{2, 1}, [2]int64{sent.Lines, sent.Later})
	s.idle()
	before := s.sold(s.entries[1].Ref).Price
	assert.LessOrEqual(t, s.sold(s.entries[0].Ref).Quantity, int64(2), "what there is less of")
	s.deliver(func(i int) int64 { return []int64{400, 450, 400}[i] }, func(i int) int64 { return []int64{2, 0, 9}[i] })
	s.sendPlan()
	assert.Zero(t, s.sold(s.entries[1].Ref).Quantity, "stock to nothing goes past what waits")
	s.later(6 * time.Hour)
	assert.GreaterOrEqual(t, s.sold(s.entries[1].Ref).Price, before)
	assert.Zero(t, s.sold(s.entries[1].Ref).Quantity)
}

// A send-out that is held goes nowhere, whatever time passes, until it is let go
// on; given up, its listings are as they were.
func TestASendOutIsHeld(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	soon := s.clock.Now().Add(time.Hour)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{At: &soon})
	require.NoError(t, err)
	id := sent.SendOuts[0]
	require.NoError(t, s.Sending.Hold(t.Context(), id))
	s.later(3 * time.Hour)
	require.NoError(t, s.Sending.Resume(t.Context()))
	s.idle()
	assert.Empty(t, s.there())
	require.NoError(t, s.Sending.Release(t.Context(), id))
	s.later(15 * time.Minute)
	assert.Len(t, s.there(), 3)
	assert.Equal(t, fault.Conflict, fault.KindOf(s.Sending.Hold(t.Context(), id)), "it has gone")
}

// One that waits for its hour can be given up: its listings are as they were.
func TestWhatWaitsCanBeGivenUp(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	soon := s.clock.Now().Add(time.Hour)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{At: &soon})
	require.NoError(t, err)
	require.NoError(t, s.Sending.GiveUp(t.Context(), sent.SendOuts[0]))
	s.later(2 * time.Hour)
	assert.Empty(t, s.there())
	assert.Equal(t, int64(2), s.counts().Ready)
}

func TestAnHourThatCannotBe(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(9))
	for _, wait := range []time.Duration{-time.Hour, 31 * 24 * time.Hour} {
		at := s.clock.Now().Add(wait)
		_, err := s.Sending.SendListings(t.Context(), nil, sending.How{At: &at})
		assert.Equal(t, fault.Invalid, fault.KindOf(err), wait)
	}
	assert.Equal(t, int64(1), s.counts().Ready, "nothing was let go")
}

// Only the sites that were said are sent to.
func TestOnlyTheSitesThatWereSaid(t *testing.T) {
	s := newStall(t, 2)
	ie := s.twoSites()
	s.deliver(always(400), always(9))
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{Sites: []int64{ie.ID}})
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(2), sent.Lines)
	assert.Empty(t, s.there(), "GB was not meant")
	for _, l := range s.onSite("Quaymarket IE") {
		assert.Equal(t, store.ListingLive, l.State)
	}
}

// What was handed over is kept byte for byte, each time it was tried: also what
// may never have arrived.
func TestWhatWasSentIsKeptByteForByte(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	var bodies []string
	tries := 0
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method == http.MethodPost && strings.HasSuffix(r.URL.Path, "/batches") {
			body, again := drained(t, r)
			bodies = append(bodies, body)
			if tries++; tries == 1 {
				w.WriteHeader(http.StatusForbidden)
				_, _ = fmt.Fprint(w, `{"detail":"not today"}`)
				return
			}
			r = again
		}
		next.ServeHTTP(w, r)
	})
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.idle()
	_, err = s.Sending.SendAgain(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	s.idle()
	s.front.set(nil)
	require.Len(t, bodies, 2)
	lines, err := s.Store.SendLines(t.Context(), sent.SendOuts[0], "", store.Page{Limit: 9})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 2)
	for _, l := range lines.Rows {
		parts, err := s.Sending.SentOf(t.Context(), l.ID)
		require.NoError(t, err)
		require.Len(t, parts, 2)
		for i, p := range parts {
			assert.Contains(t, bodies[i], p.Text)
			assert.Contains(t, p.Text, `"sku":"`+l.SKU+`"`)
		}
		tried, err := s.Store.Attempts(t.Context(), l.ListingID, 10)
		require.NoError(t, err)
		require.Len(t, tried, 1)
		assert.Equal(t, store.SendConfirmed, tried[0].State)
	}
}

// What a marketplace said yes to and never showed is told apart from what was
// ended there.
func TestTakenButNeverLive(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	hidden := s.entries[0].Ref
	s.front.said(http.MethodGet, "/listings", func(answer map[string]any) {
		kept := []any{}
		for _, x := range answer["listings"].([]any) {
			if x.(map[string]any)["entry"] != hidden {
				kept = append(kept, x)
			}
		}
		answer["listings"] = kept
	})
	s.sendAll()
	require.Equal(t, int64(3), s.counts().Live, "the batch said yes to all")
	for range 2 {
		require.NoError(t, s.Sending.ReadBack(t.Context(), s.site.ID))
		s.idle()
		s.later(15 * time.Minute)
	}
	l, err := s.Store.Differences(t.Context(), store.Page{Limit: 9})
	require.NoError(t, err)
	require.Len(t, l.Rows, 1)
	assert.Equal(t, store.DifferNever, l.Rows[0].Kind)
	hidden = s.entries[1].Ref // one that was seen there before
	for range 2 {
		require.NoError(t, s.Sending.ReadBack(t.Context(), s.site.ID))
		s.idle()
		s.later(15 * time.Minute)
	}
	kinds := map[string]int{}
	l, err = s.Store.Differences(t.Context(), store.Page{Limit: 9})
	require.NoError(t, err)
	for _, d := range l.Rows {
		kinds[d.Kind]++
	}
	assert.Equal(t, 1, kinds[store.DifferEnded], kinds)
}

// drained reads a request's body, and gives the request with it again.
func drained(t *testing.T, r *http.Request) (string, *http.Request) {
	body, err := io.ReadAll(r.Body)
	assert.NoError(t, err)
	r.Body = io.NopCloser(bytes.NewReader(body))
	return string(body), r
}

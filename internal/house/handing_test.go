package house_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"easymargin/internal/fault"
	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// stall is a world with a supplier of a few products, which says what they cost
// and how many it has.
type stall struct {
	*world
	entries []*sim.Entry
	source  store.Source
}

func newStall(t *testing.T, products int, with ...string) *stall {
	t.Parallel()
	return stallIn(t, t.TempDir(), products, with...)
}

// nothingAsked says of sites that buyers pay nothing for delivery, and that sending
// costs nothing.
func nothingAsked(t require.TestingT, s *store.Store, sites []store.Site) {
	for i := range sites {
		sites[i].TermsUnsaid = false
		require.NoError(t, s.Do(context.Background(), func(tx store.Tx) error {
			return tx.Update(&store.Site{ID: sites[i].ID}, map[string]any{"terms_unsaid": false})
		}))
	}
}

func stallIn(t tester, dir string, products int, with ...string) *stall {
	w, urls := emptyWorld(t, dir, with...)
	sites, err := w.Places.Connect(t.Context(), "Quaymarket", urls.market)
	require.NoError(t, err)
	nothingAsked(t, w.Store, sites)
	w.site = sites[0]
	w.idle()
	s := &stall{world: w}
	for _, e := range w.market.Entries {
		if e.GTIN != "" && !e.Leave && len(s.entries) < products && !strings.HasSuffix(e.Ref, "B") && e.Category == "mugs" {
			s.entries = append(s.entries, e)
		}
	}
	s.source, err = w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Fernhollow Wholesale", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	return s
}

// sound says that the data agrees with itself in everything that a check looks at.
func sound(t *testing.T, s *store.Store) {
	t.Helper()
	list, err := s.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, store.Broken(list))
}

// list is what the supplier sends: cost in pence and stock of each product.
func (s *stall) list(cost, stock func(i int) int64) string {
	var b strings.Builder
	b.WriteString("ref,title,brand,ean,cost,stock\n")
	for i, e := range s.entries {
		fmt.Fprintf(&b, "R%03d,%q,%s,%s,%s,%d\n", i, e.Title, e.Brand, e.GTIN, unitText(cost(i)), stock(i))
	}
	return b.String()
}

// deliver has the supplier's list taken, whatever a guard says of it.
func (s *stall) deliver(cost, stock func(i int) int64) {
	f, err := s.Sources.BringIn(
		s.t.Context(),
		strings.NewReader(s.list(cost, stock)),
		sources.Arriving{Name: "list.csv", SourceID: &s.source.ID},
	)
	require.NoError(s.t, err)
	require.Equal(s.t, store.FeedTaken, s.take(f.ID, s.source.ID, true).State)
}

func always(n int64) func(int) int64 { return func(int) int64 { return n } }

// halfOf is n for every second product and none for the others.
func halfOf(n int64) func(int) int64 {
	return func(i int) int64 { return n * int64(i%2) }
}

type there struct {
	SKU, Entry      string
	Price, Quantity int64
}

// there is what buyers can buy of ours.
func (w *world) there() map[string]there {
	r := httptest.NewRequest(http.MethodGet, "/gateway/v1/sites/GB/listings", nil)
	rec := httptest.NewRecorder()
	w.market.ServeHTTP(rec, r)
	var out struct{ Listings []there }
	require.NoError(w.t, json.Unmarshal(rec.Body.Bytes(), &out))
	by := map[string]there{}
	for _, x := range out.Listings {
		by[x.SKU] = x
	}
	return by
}

// safe checks what must hold of all that is on sale: nothing under its floor as
// it is now, nothing that the supplier hasn't got, and nothing unknown to us.
func (s *stall) safe(stock func(i int) int64) {
	s.t.Helper()
	known := map[string]store.ListingRow{}
	for _, l := range s.all() {
		known[l.SKU] = l
	}
	for sku, x := range s.there() {
		l, ok := known[sku]
		if !assert.True(s.t, ok, "%s is on sale and not ours", sku) || x.Quantity == 0 {
			continue
		}
		assert.LessOrEqual(s.t, x.Quantity, stock(s.number(x.Entry)), "%s: more than there is", sku)
		if assert.NotNil(s.t, l.Floor, sku) {
			assert.GreaterOrEqual(s.t, x.Price, *l.Floor, "%s: under its floor", sku)
		}
		assert.Equal(
			s.t,
			[3]any{store.ListingLive, x.Price, x.Quantity},
			[3]any{l.State, *l.ConfirmedPrice, l.ConfirmedQuantity},
			"%s is known as it is there",
			sku,
		)
	}
}

// number is which of the products is sold on an entry.
func (s *stall) number(entry string) int {
	return slices.IndexFunc(s.entries, func(e *sim.Entry) bool { return e.Ref == entry })
}

// later lets the application's time pass, a quarter of an hour at a time.
func (w *world) later(d time.Duration) {
	for ; d > 0; d -= 15 * time.Minute {
		w.clock.Forward(15 * time.Minute)
		require.NoError(w.t, w.Round(w.t.Context()))
		w.idle()
	}
}

// state counts the lines of a send-out by their states.
func (w *world) states(sendOut int64) map[string]int {
	l, err := w.Store.SendLines(w.t.Context(), sendOut, "", store.Page{Limit: 500})
	require.NoError(w.t, err)
	out := map[string]int{}
	for _, x := range l.Rows {
		out[x.State]++
	}
	return out
}

// Old prices never go out: what changed while a send-out was stuck is looked at
// again when it is handed over, whether its marketplace was away or gave no
// answer that tells.
func TestAStuckSendOutIsLookedAtAgain(t *testing.T) {
	refused := func(s *stall) func() { return s.moveMarket("http://127.0.0.1:1") }
	broken := func(s *stall) func() {
		s.front.set(func(w http.ResponseWriter, _ *http.Request, _ http.Handler) { w.WriteHeader(http.StatusBadGateway) })
		return func() { s.front.set(nil) }
	}
	for name, away := range map[string]func(*stall) func(){"nobody there": refused, "no answer that tells": broken} {
		t.Run(name, func(t *testing.T) {
			s := newStall(t, 10)
			s.deliver(always(400), always(9))
			back := away(s)
			sent := s.sendAll()
			require.Equal(t, int64(10), sent.Lines)
			s.deliver(always(800), halfOf(9))
			back()
			_, err := s.Sending.SendAgain(t.Context(), sent.SendOuts[0])
			require.NoError(t, err)
			s.idle()
			s.safe(halfOf(9))
			assert.Empty(t, s.there(), "none of the old prices may be asked any more")
			s.later(15 * time.Minute) // what was unknown is read back
			assert.Equal(t, int64(5), s.counts().Ready, "they can be sent, at what they cost now")
			assert.Equal(t, int64(5), s.counts().Paused)
			assert.Equal(t, int64(5), s.sendAll().Lines)
			assert.Len(t, s.there(), 5)
			s.safe(halfOf(9))
		})
	}
}

// A price that may have arrived is followed by what corrects it as soon as it
// is known to be there.
func TestWhatMayHaveArrivedIsCorrected(t *testing.T) {
	s := newStall(t, 10)
	s.deliver(always(400), always(9))
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method == http.MethodPost {
			next.ServeHTTP(httptest.NewRecorder(), r) // it arrives, and nobody says so
		}
		w.WriteHeader(http.StatusBadGateway)
	})
	sent := s.sendAll()
	o := s.sendOut(sent.SendOuts[0])
	assert.Contains(t, o.Error, "perhaps changed there")
	assert.NotContains(t, o.Error, "nothing was changed")
	s.deliver(always(800), halfOf(9))
	s.front.set(nil)
	_, err := s.Sending.SendAgain(t.Context(), o.ID)
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(10), s.market.Applied(), "nothing went twice")
	plan := s.openPlan()
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 100})
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, l := range lines.Rows {
		kinds[l.Kind]++
	}
	assert.Equal(t, 5, kinds["zero"], "what can't be had is in the plan at once: %v", kinds)
	assert.Equal(t, 5, kinds["up"], "and so is what costs more: %v", kinds)
	_, err = s.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{Lines: ids(lines.Rows)})
	require.NoError(t, err)
	s.idle()
	s.safe(halfOf(9))
	assert.Len(t, s.there(), 10)
}

func ids(rows []store.PlanRow) []int64 {
	var out []int64
	for _, r := range rows {
		out = append(out, r.ID)
	}
	return out
}

// Stock to nothing goes past a send-out that is stuck, and before all that waits.
func TestStockToNothingOvertakes(t *testing.T) {
	s := newStall(t, 10)
	s.deliver(always(400), always(9))
	s.sendAll()
	require.Len(t, s.there(), 10)
	// A send-out of prices is stuck ...
	s.deliver(always(440), always(9))
	back := s.moveMarket("http://127.0.0.1:1")
	stuck, err := s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{})
	require.NoError(t, err)
	s.idle()
	require.Equal(t, int64(10), stuck.Lines)
	require.NotEmpty(t, s.sendOut(stuck.SendOuts[0]).Error)
	// ... and half of the goods are sold out.
	s.deliver(always(440), halfOf(9))
	back()
	plan := s.openPlan()
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 100})
	require.NoError(t, err)
	assert.Len(t, lines.Rows, 5, "those in a stuck send-out too")
	var order []string
	var mu sync.Mutex
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method == http.MethodPost {
			mu.Lock()
			defer mu.Unlock()
			rec := httptest.NewRecorder()
			next.ServeHTTP(rec, r)
			kind := "prices"
			for _, x := range s.there() {
				if s.number(x.Entry) == 0 && x.Quantity == 0 {
					kind = "zeros"
				}
			}
			order = append(order, kind)
			for k, v := range rec.Header() {
				w.Header()[k] = v
			}
			_, _ = w.Write(rec.Body.Bytes())
			return
		}
		next.ServeHTTP(w, r)
	})
	_, err = s.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	require.NoError(t, err)
	s.idle()
	s.safe(halfOf(9))
	for _, x := range s.there() {
		assert.Equal(t, s.number(x.Entry)%2 == 1, x.Quantity > 0)
	}
	_, err = s.Sending.SendAgain(t.Context(), stuck.SendOuts[0])
	require.NoError(t, err)
	s.idle()
	s.safe(halfOf(9))
	assert.Equal(t, []string{"zeros", "zeros"}, order)
	assert.Equal(t, int64(10), s.counts().Live)
}

// A batch that is done without a word on its lines: they are unknown until what
// is on sale has been read back, and never left out of the plan after that.
func TestABatchWithoutAWordLosesSightOfNothing(t *testing.T) {
	s := newStall(t, 20)
	s.deliver(always(400), always(9))
	s.front.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		answer["state"], answer["lines"] = "done", []any{}
	})
	s.front.mu.Lock()
	meddle := s.front.meddle
	s.front.mu.Unlock()
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		switch {
		case r.Method == http.MethodPost: // taken up, and answered before it is done
			rec := httptest.NewRecorder()
			next.ServeHTTP(rec, r)
			_, _ = fmt.Fprint(w, `{"id":"B1001","state":"working","lines":[]}`)
		case strings.HasSuffix(r.URL.Path, "/listings"):
			http.Error(w, "not now", http.StatusServiceUnavailable)
		default:
			meddle(w, r, next)
		}
	})
	sent := s.sendAll()
	assert.Equal(t, map[string]int{store.SendUnknown: 20}, s.states(sent.SendOuts[0]))
	assert.Equal(t, int64(20), s.counts().Unknown)
	assert.Contains(t, s.today(), "unknown")
	assert.Zero(t, s.sendAll().Lines, "what is unknown isn't sent once more")
	s.front.set(nil)
	s.later(15 * time.Minute) // the reading that failed is done again by itself
	assert.Equal(t, map[string]int{store.SendConfirmed: 20}, s.states(sent.SendOuts[0]), "they were there all the time")
	assert.Equal(t, int64(20), s.counts().Live)
	s.deliver(always(400), always(0))
	zeros, err := s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{})
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(20), zeros.Lines, "all that is on sale is in the plan")
	s.safe(always(0))
}

// What is on sale in our name and tied to nothing here is said.
func TestOffersTiedToNothingAreSaid(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	assert.NotContains(t, s.today(), "untied")
	s.front.said(http.MethodGet, "/listings", func(answer map[string]any) {
		answer["listings"] = append(
			answer["listings"].([]any),
			map[string]any{"sku": "GHOST-1", "entry": "Q7-1", "price": 999, "quantity": 4},
		)
	})
	require.NoError(t, s.Sending.ReadBack(t.Context(), s.site.ID))
	s.idle()
	assert.Equal(t, "1 offer on sale is untied", s.today()["untied"].Words)
	l, err := s.Store.Untieds(t.Context(), store.Page{})
	require.NoError(t, err)
	require.Len(t, l.Rows, 1)
	assert.Equal(t, [3]any{"Quaymarket GB", "GHOST-1", int64(4)}, [3]any{l.Rows[0].Site, l.Rows[0].SKU, l.Rows[0].Quantity})
	s.front.set(nil)
	s.later(7 * time.Hour) // it is read back every six hours by itself
	assert.NotContains(t, s.today(), "untied")
}

// What is on sale there is believed, whoever changed it; what is missing once
// may be missing by mistake.
func TestReadingBackBelievesTheMarketplace(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	changed := func(answer map[string]any) {
		list := answer["listings"].([]any)
		first := list[0].(map[string]any)
		first["price"], first["quantity"] = 1, 12
		answer["listings"] = list[:3]
	}
	s.front.said(http.MethodGet, "/listings", changed)
	require.NoError(t, s.Sending.ReadBack(t.Context(), s.site.ID))
	s.idle()
	mine := s.all()
	slices.SortFunc(mine, func(a, b store.ListingRow) int { return strings.Compare(a.SKU, b.SKU) })
	assert.Equal(t, [2]int64{1, 12}, [2]int64{*mine[0].ConfirmedPrice, mine[0].ConfirmedQuantity})
	assert.Equal(t, store.ListingUnknown, mine[3].State, "missing once")
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: s.openPlan().ID}, store.Page{Limit: 10})
	require.NoError(t, err)
	kinds := map[string]string{}
	for _, l := range lines.Rows {
		kinds[l.SKU+" "+l.Kind] = l.Verdict
	}
	assert.Contains(t, kinds, mine[0].SKU+" quantity", "more than there is is taken back: %v", kinds)
	assert.Contains(t, kinds, mine[0].SKU+" up", "and it is under its floor: %v", kinds)
	s.later(15 * time.Minute)
	assert.Equal(t, int64(1), s.counts().Ready, "missing twice is gone, and can be sent again")
	s.front.set(nil)
	s.sendAll()
	_, err = s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{Lines: ids(lines.Rows)})
	if fault.KindOf(err) != fault.Conflict {
		require.NoError(t, err)
	}
	s.idle()
	s.later(7 * time.Hour)
	assert.Equal(t, int64(4), s.counts().Live)
	s.safe(always(9))
}

// Whatever befalls a batch, a person can try again or give up.
func TestNoSendOutIsADeadEnd(t *testing.T) {
	t.Run("forgotten by the marketplace", func(t *testing.T) {
		s := newStall(t, 5)
		s.deliver(always(400), always(9))
		s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
			if strings.Contains(r.URL.Path, "/batches/") {
				w.Header().Set("Content-Type", "application/problem+json")
				w.WriteHeader(http.StatusNotFound)
				_, _ = fmt.Fprint(w, `{"detail":"no such batch"}`)
				return
			}
			if r.Method == http.MethodPost {
				_, _ = fmt.Fprint(w, `{"id":"B1","state":"working","lines":[]}`) // and it forgets it
				return
			}
			next.ServeHTTP(w, r)
		})
		sent := s.sendAll()
		assert.Equal(t, store.SendDone, s.sendOut(sent.SendOuts[0]).State)
		s.front.set(nil)
		s.later(15 * time.Minute)
		assert.Equal(t, int64(5), s.counts().Ready, "it was read back that nothing of it is there")
		assert.Equal(t, int64(5), s.sendAll().Lines)
		assert.Len(t, s.there(), 5)
	})
	t.Run("never finished", func(t *testing.T) {
		s := newStall(t, 6)
		s.deliver(always(400), always(9))
		mine := s.all()
		s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
			if strings.HasSuffix(r.URL.Path, "/batches/B1001") {
				_, _ = fmt.Fprint(w, `{"id":"B1001","state":"working","lines":[]}`)
				return
			}
			if r.Method == http.MethodPost {
				rec := httptest.NewRecorder()
				next.ServeHTTP(rec, r)
				text := rec.Body.String()
				if strings.Contains(text, `"B1001"`) {
					text = `{"id":"B1001","state":"working","lines":[]}`
				}
				_, _ = fmt.Fprint(w, text)
				return
			}
			next.ServeHTTP(w, r)
		})
		first, err := s.Sending.SendListings(t.Context(), []int64{mine[0].ID, mine[1].ID}, sending.How{})
		require.NoError(t, err)
		second, err := s.Sending.SendListings(t.Context(), []int64{mine[2].ID, mine[3].ID}, sending.How{})
		require.NoError(t, err)
		s.until("the second is answered", func() bool { return s.sendOut(second.SendOuts[0]).State == store.SendDone })
		assert.Equal(t, int64(2), s.counts().Live, "one batch without an end holds nobody up")
		assert.Equal(t, fault.Conflict, fault.KindOf(s.Sending.GiveUp(t.Context(), first.SendOuts[0])), "it is being followed")
		assert.NotContains(t, s.today(), "stuck")
		s.clock.Forward(7 * time.Hour)
		assert.Contains(t, s.today(), "stuck", "a person is told after its time")
		require.NoError(t, s.Sending.GiveUp(t.Context(), first.SendOuts[0]))
		assert.Equal(t, map[string]int{store.SendUnknown: 2}, s.states(first.SendOuts[0]))
		require.NoError(t, s.Sending.ReadBack(t.Context(), s.site.ID))
		s.until("what was given up is read back", func() bool { return s.counts().Unknown == 0 })
		assert.Equal(t, int64(4), s.counts().Live, "it was there all the same")
		assert.Equal(t, int64(4), s.market.Applied())
	})
	t.Run("stopped by a person", func(t *testing.T) {
		s := newStall(t, 4)
		s.deliver(always(400), always(9))
		asked, release := make(chan struct{}), make(chan struct{})
		s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
			if r.Method == http.MethodPost {
				close(asked)
				<-release
			}
			next.ServeHTTP(w, r)
		})
		sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
		require.NoError(t, err)
		<-asked
		ok, err := s.Queue.Stop(t.Context(), sent.Runs[0].ID)
		require.NoError(t, err)
		assert.True(t, ok)
		over := s.wait(store.Run{ID: sent.Runs[0].ID})
		assert.Equal(t, store.RunStopped, over.State)
		s.front.set(nil)
		close(release)
		o := s.sendOut(sent.SendOuts[0])
		assert.Contains(t, o.Error, "perhaps")
		_, err = s.Sending.SendAgain(t.Context(), o.ID)
		require.NoError(t, err)
		s.idle()
		assert.Equal(t, int64(4), s.counts().Live)
		assert.Equal(t, int64(4), s.market.Applied())
	})
}

// An outcome's state that we don't know leaves the line open, and what is said
// later counts; a later word that contradicts is kept and looked into.
func TestStrangeAndContradictoryWords(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	state := "pending"
	var mu sync.Mutex
	s.front.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		mu.Lock()
		defer mu.Unlock()
		for _, x := range answer["lines"].([]any) {
			x.(map[string]any)["state"] = state
		}
	})
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.until("it was asked about", func() bool { return s.followed() > 2 })
	assert.Equal(t, map[string]int{store.SendSent: 3}, s.states(sent.SendOuts[0]), "neither confirmed nor refused")
	mu.Lock()
	state = "confirmed"
	mu.Unlock()
	s.idle()
	assert.Equal(t, map[string]int{store.SendConfirmed: 3}, s.states(sent.SendOuts[0]))
	assert.Equal(t, int64(3), s.counts().Live)
}

func TestALaterWordThatContradictsIsKept(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	asked := 0
	s.front.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		list := answer["lines"].([]any)
		if asked++; asked == 1 {
			answer["state"], answer["lines"] = "working", list[:2]
			return
		}
		first := list[0].(map[string]any)
		first["state"], first["words"] = "refused", "We have changed our mind."
	})
	sent := s.sendAll()
	l, err := s.Store.SendLines(t.Context(), sent.SendOuts[0], "", store.Page{})
	require.NoError(t, err)
	require.Len(t, l.Rows, 3)
	assert.Equal(t, store.SendConfirmed, l.Rows[0].State)
	assert.Contains(t, l.Rows[0].Later, "We have changed our mind.")
	assert.Equal(t, int64(3), s.counts().Live, "it was read back that it is there")
	s.safe(always(9))
}

// Answers that break off after the batch was taken up: given up and sent again,
// each product is there once.
func TestGivingUpAndSendingAgainDoublesNothing(t *testing.T) {
	s := newStall(t, 20)
	s.deliver(always(400), always(9))
	posts := 0
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method == http.MethodPost {
			posts++
			next.ServeHTTP(httptest.NewRecorder(), r)
			_, _ = fmt.Fprint(w, `{"id":`)
			return
		}
		http.Error(w, "not now", http.StatusServiceUnavailable)
	})
	sent := s.sendAll()
	require.NoError(t, s.Sending.GiveUp(t.Context(), sent.SendOuts[0]))
	s.idle()
	assert.Equal(t, map[string]int{store.SendUnknown: 20}, s.states(sent.SendOuts[0]))
	assert.Equal(t, 2, posts, "it was tried as often as a client does, and no more")
	s.front.set(nil)
	s.later(15 * time.Minute)
	s.sendAll()
	s.later(2 * time.Hour)
	assert.Equal(t, int64(20), s.market.Applied(), "no line was done twice")
	assert.Len(t, s.there(), 20)
	s.safe(always(9))
}

// A refused listing that is sent again and given up is refused as before: send
// all leaves it alone.
func TestARefusedListingStaysRefused(t *testing.T) {
	s := newStall(t, 2)
	s.entries[0].Leave = true
	s.deliver(always(400), always(9))
	s.sendAll()
	require.Equal(t, [2]int64{1, 1}, [2]int64{s.counts().Refused, s.counts().Live})
	var refused int64
	for _, l := range s.all() {
		if l.State == store.ListingRefused {
			refused = l.ID
		}
	}
	back := s.moveMarket("http://127.0.0.1:1")
	again, err := s.Sending.SendListings(t.Context(), []int64{refused}, sending.How{})
	require.NoError(t, err)
	s.idle()
	require.NoError(t, s.Sending.GiveUp(t.Context(), again.SendOuts[0]))
	s.idle()
	back()
	assert.Equal(t, int64(1), s.counts().Refused)
	assert.Zero(t, s.sendAll().Lines)
	assert.Equal(t, int64(1), s.market.Applied())
}

// The cost guard compares with what the confirmed price was worked out from,
// however late the confirmation comes.
func TestTheCostGuardKnowsTheCostOfTheConfirmedPrice(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	hold := true
	var mu sync.Mutex
	s.front.said(http.MethodGet, "/batches/", func(answer map[string]any) {
		mu.Lock()
		defer mu.Unlock()
		if hold {
			answer["state"], answer["lines"] = "working", []any{}
		}
	})
	_, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.until("it was asked about", func() bool { return s.followed() > 0 })
	f, err := s.Sources.BringIn(
		t.Context(),
		strings.NewReader(s.list(always(700), always(9))),
		sources.Arriving{Name: "dearer.csv", SourceID: &s.source.ID},
	)
	require.NoError(t, err)
	r, err := s.Sources.Take(t.Context(), f.ID, s.source.ID, nil, true)
	require.NoError(t, err)
	s.wait(r)
	s.until("its prices are worked out", func() bool { return s.counts().Dirty == 0 })
	mu.Lock()
	hold = false
	mu.Unlock()
	s.idle()
	for _, l := range s.all() {
		require.NotNil(t, l.ConfirmedPrice)
		assert.Less(t, *l.ConfirmedPrice, *l.Price, "the old price was confirmed, and a dearer one is wanted")
		kept, err := store.Get[store.Listing](t.Context(), s.Store, l.ID)
		require.NoError(t, err)
		assert.Equal(t, int64(400), *kept.ConfirmedCost, "what the confirmed price was worked out from")
	}
	lines, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: s.openPlan().ID}, store.Page{})
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, l := range lines.Rows {
		if kinds[l.Kind]++; l.Kind == "up" {
			assert.Equal(t, "held", l.Verdict, "75 %% more than the confirmed price was worked out from")
			assert.Contains(t, l.VerdictWhy, "cost")
		}
	}
	assert.Equal(t, map[string]int{"up": 2, "rest": 2}, kinds, "and at the old price they would be sold at a loss")
}

// until blocks until something holds, looking again at every event.
func (w *world) until(what string, holds func() bool) {
	w.t.Helper()
	done := make(chan struct{})
	stuck := time.AfterFunc(20*time.Second, func() { close(done); w.cond.Broadcast() })
	defer stuck.Stop()
	w.mu.Lock()
	defer w.mu.Unlock()
	for !holds() {
		select {
		case <-done:
			require.Fail(w.t, "this never came: "+what)
		default:
		}
		w.cond.Wait()
	}
}

// followed is how often the marketplace's batches were asked about in the run that does.
func (w *world) followed() int64 {
	runs, err := w.Queue.Live(context.Background())
	require.NoError(w.t, err)
	for _, r := range runs {
		if r.Kind == store.RunFollow {
			return r.Tries
		}
	}
	return -1
}

// beside opens the data of a world that has ended as another program would.
func raw(t *testing.T, dir string) *gorm.DB {
	db, err := gorm.Open(sqlite.Open(dir + "/easymargin.db"))
	require.NoError(t, err)
	t.Cleanup(func() {
		pool, err := db.DB()
		require.NoError(t, err)
		require.NoError(t, pool.Close())
	})
	return db
}

// What was asked for is done after the next start, wherever it was cut short:
// its run is kept with it, and even one without a run gets one.
func TestWhatWasLetGoIsSentAfterTheNextStart(t *testing.T) {
	s := newStall(t, 6)
	s.deliver(always(400), always(9))
	dir := strings.TrimSuffix(s.Store.File(), "/easymargin.db")
	mine := s.all()
	s.Close() // nothing is done from here on
	idle := house.New(house.Options{Store: s.Store, Now: s.clock.Now})
	ctx, hangUp := context.WithCancel(t.Context())
	s.Store.OnCommit(func(store.Commit) { hangUp() }) // the connection is dropped right after
	_, err := idle.Sending.SendListings(ctx, []int64{mine[0].ID, mine[1].ID}, sending.How{})
	require.NoError(t, err)
	for _, l := range mine[2:4] {
		_, err = idle.Sending.SendListings(t.Context(), []int64{l.ID}, sending.How{})
		require.NoError(t, err)
	}
	f, err := idle.Sources.BringIn(
		t.Context(),
		strings.NewReader(s.list(always(410), always(9))),
		sources.Arriving{Name: "next.csv", SourceID: &s.source.ID},
	)
	require.NoError(t, err)
	_, err = idle.Sources.Take(t.Context(), f.ID, s.source.ID, nil, true)
	require.NoError(t, err)
	db := raw(t, dir)
	var runs int64
	require.NoError(t, db.Raw("SELECT count(*) FROM runs WHERE state = 'queued' AND kind IN ('send', 'intake')").Scan(&runs).Error)
	assert.Equal(t, int64(4), runs, "each has its run from the start")
	require.NoError(t, db.Exec("DELETE FROM runs WHERE state = 'queued'").Error) // as older data had it

	s.restart()
	s.idle()
	assert.Equal(t, store.FeedTaken, s.feed(f.ID).State)
	assert.Len(t, s.there(), 4)
	assert.Equal(t, int64(4), s.market.Applied())
}

// What stays behind of a plan since something changed for it a moment ago is
// counted, so that nobody thinks it has gone.
func TestWhatIsWorkedOutAgainStaysBehindAndIsCounted(t *testing.T) {
	w := priced(t)
	w.sendAll()
	w.fetch()
	w.clock.Forward(15 * time.Minute)
	w.fetch()
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	may, changed := int64(0), []int64{}
	for _, l := range lines.Rows {
		if l.Verdict == "go" {
			may++
			changed = append(changed, l.ListingID)
		}
	}
	w.House.Close() // nothing works them out meanwhile
	require.NoError(t, w.Store.Do(t.Context(), func(tx store.Tx) error { return tx.DirtyListings(w.clock.Now(), changed[:3]) }))
	sent, err := w.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	require.NoError(t, err)
	assert.Equal(t, [2]int64{may - 3, 3}, [2]int64{sent.Lines, sent.Reworked})
}

// Everything is worked out anew once a day, and not again after a start on the same day.
func TestAllIsWorkedOutAnewOnceADay(t *testing.T) {
	w := priced(t)
	round := func() int64 {
		w.House.Close()
		require.NoError(t, w.Prices.Round(t.Context()))
		n, err := w.Store.CountDirty(t.Context(), w.site.ID)
		require.NoError(t, err)
		w.restart()
		w.idle()
		return n
	}
	all, err := w.Store.CountListings(t.Context(), w.site.ID)
	require.NoError(t, err)
	assert.Equal(t, all, round(), "the first of the day")
	assert.Zero(t, round(), "a restart is no new day")
	w.clock.Forward(24 * time.Hour)
	assert.Equal(t, all, round())
}

package house_test

import (
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"easymargin/internal/stops/matching"

	"github.com/stretchr/testify/require"
	"golang.org/x/time/rate"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"easymargin/demo"
	"easymargin/internal/house"
	"easymargin/internal/place/gateway"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// tester is what a world needs of a test: testing's own, or one history of rapid's.
type tester interface {
	require.TestingT
	Helper()
	Context() context.Context
	Cleanup(func())
}

// world is an application over a real SQLite file, with the demo's stand-ins
// as HTTP servers beside it and a clock that moves only when told to.
type world struct {
	*house.House
	t      tester
	clock  *sim.Clock
	market *sim.Marketplace
	front  *front // before the marketplace's gateway
	shop   *sim.Supplier
	site   store.Site
	source store.Source

	mu   sync.Mutex
	over map[int64]stops.Run
	cond *sync.Cond
	gone func(waited time.Duration) bool // whether there is nothing to wait for any more
}

func newWorld(t *testing.T, with ...string) *world {
	w, urls := emptyWorld(t, filepath.Join(t.TempDir(), "data"), with...)
	sites, err := w.Places.Connect(t.Context(), "Quaymarket", urls.market)
	require.NoError(t, err)
	nothingAsked(t, w.Store, sites)
	w.site = sites[0]
	w.idle()
	w.source, err = w.Sources.Make(
		t.Context(),
		sources.NewSource{Supplier: "Fernhollow Wholesale", Address: urls.shop + "/products.csv", Currency: "GBP", Charge: "0", Tax: "without"},
	)
	require.NoError(t, err)
	return w
}

type addresses struct{ market, shop string }

// emptyWorld is a world over the data in dir, whatever is there.
func emptyWorld(t tester, dir string, with ...string) (*world, addresses) {
	clock := sim.NewClock(demo.Start, 0)
	w := &world{
		t:      t,
		clock:  clock,
		market: demo.Quaymarket(clock),
		shop:   &sim.Supplier{Clock: clock, Every: 15 * time.Minute, Lists: demo.Fernhollow(), Type: "text/csv"},
		over:   map[int64]stops.Run{},
	}
	w.cond = sync.NewCond(&w.mu)
	w.market.FirstWait, w.market.LineWait = 0, 0
	w.front = &front{next: w.market}
	market, shop := httptest.NewServer(w.front), httptest.NewServer(w.shop)
	t.Cleanup(market.Close)
	t.Cleanup(shop.Close)
	s, err := store.Open(dir)
	require.NoError(t, err)
	require.NoError(t, s.Lock())
	w.House = house.New(house.Options{Store: s, Now: clock.Now, Allow: []string{strings.TrimPrefix(shop.URL, "http://")},
		FirstPause: time.Nanosecond, Gateway: gateway.Options{Tries: 2, First: time.Nanosecond, Rate: rate.Inf, Answer: 2 * time.Second},
		Poll: time.Millisecond, NoPictures: !slices.Contains(with, "pictures")})
	events, end := w.Events.Listen()
	go w.follow(events)
	t.Cleanup(func() {
		w.Close()
		end()
		require.NoError(t, s.Close())
	})
	require.NoError(t, w.Start(t.Context()))
	return w, addresses{market.URL, shop.URL}
}

// stocked is the data of a world with Fernhollow's list taken and priced, made
// once and copied for each test that begins there.
var stocked struct {
	sync.Once
	dir string
}

// priced is a world with Fernhollow's products priced on Quaymarket GB. Tests
// that begin there run beside each other.
func priced(t *testing.T) *world {
	t.Parallel()
	stocked.Do(func() {
		dir, err := os.MkdirTemp("", "easymargin-stocked-")
		require.NoError(t, err)
		t.Run("stocked", func(t *testing.T) {
			w := newWorld(t)
			w.fetch()
			db, err := gorm.Open(sqlite.Open(w.Store.File()))
			require.NoError(t, err)
			require.NoError(t, db.Exec("VACUUM INTO ?", filepath.Join(dir, "easymargin.db")).Error)
			pool, err := db.DB()
			require.NoError(t, err)
			require.NoError(t, pool.Close())
		})
		stocked.dir = dir
	})
	require.NotEmpty(t, stocked.dir)
	dir := t.TempDir()
	text, err := os.ReadFile(filepath.Join(stocked.dir, "easymargin.db"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "easymargin.db"), text, 0o600))
	w, urls := emptyWorld(t, dir)
	require.NoError(t, w.Store.MoveMarketplace(t.Context(), "Quaymarket", urls.market))
	require.NoError(t, w.Store.MoveSource(t.Context(), "Fernhollow Wholesale", urls.shop+"/products.csv"))
	sites, err := w.Store.Sites(t.Context())
	require.NoError(t, err)
	sources, err := w.Store.Sources(t.Context())
	require.NoError(t, err)
	w.site, w.source = sites[0], sources[0]
	return w
}

func TestMain(m *testing.M) {
	code := m.Run()
	_ = os.RemoveAll(stocked.dir)
	_ = os.RemoveAll(begun.dir)
	os.Exit(code)
}

// restart begins again on the data of a house that has ended.
func (w *world) restart() {
	w.House = house.New(
		house.Options{Store: w.Store, Now: w.clock.Now, FirstPause: time.Nanosecond, Poll: time.Millisecond, NoPictures: true,
			Gateway: gateway.Options{Tries: 2, First: time.Nanosecond, Rate: rate.Inf}},
	)
	events, end := w.Events.Listen()
	go w.follow(events)
	w.t.Cleanup(end)
	w.t.Cleanup(w.House.Close)
	require.NoError(w.t, w.Start(w.t.Context()))
}

// follow wakes those who wait for runs, at every event.
func (w *world) follow(events <-chan stops.Event) {
	for e := range events {
		w.mu.Lock()
		if e.Run != nil && e.Run.Ended != nil {
			w.over[e.Run.ID] = *e.Run
		}
		w.mu.Unlock()
		w.cond.Broadcast()
	}
}

// wait blocks until a run is over.
func (w *world) wait(r store.Run) stops.Run {
	w.mu.Lock()
	defer w.mu.Unlock()
	for {
		if over, ok := w.over[r.ID]; ok {
			return over
		}
		w.cond.Wait()
	}
}

// idle blocks until no run is going on, or about to.
func (w *world) idle() {
	w.mu.Lock()
	defer w.mu.Unlock()
	for begun := time.Now(); ; {
		runs, err := w.Queue.Live(context.Background())
		require.NoError(w.t, err)
		soon := time.Now().Add(5 * time.Second).UnixMilli()
		if !slices.ContainsFunc(runs, func(r store.Run) bool { return r.Due < soon }) {
			return
		}
		if w.gone != nil && w.gone(time.Since(begun)) {
			return
		}
		if time.Since(begun) > time.Minute {
			require.FailNow(w.t, "it never rests", "%+v", runs)
		}
		w.cond.Wait()
	}
}

// openPlan is the plan that lists what waits to be let go.
func (w *world) openPlan() store.Plan {
	plans, err := w.Store.OpenPlans(w.t.Context())
	require.NoError(w.t, err)
	require.NotEmpty(w.t, plans, "there is a plan")
	return plans[0]
}

// bringIn takes a text as a file of its own source.
func (w *world) bringIn(name, text string) (store.Feed, error) {
	f, err := w.Sources.BringIn(w.t.Context(), strings.NewReader(text), sources.Arriving{Name: name})
	if err != nil {
		return f, err
	}
	s, err := w.Sources.Make(w.t.Context(), sources.NewSource{Supplier: name, Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(w.t, err)
	return w.take(f.ID, s.ID, true), nil
}

func (w *world) take(feedID, sourceID int64, once bool) store.Feed {
	r, err := w.Sources.Take(w.t.Context(), feedID, sourceID, nil, once)
	require.NoError(w.t, err)
	w.wait(r)
	w.idle()
	return w.feed(feedID)
}

// setRule keeps the rule that holds for all that no other does.
func (w *world) setRule(r prices.Rule) error {
	rules, err := w.Prices.Rules(w.t.Context(), w.site.ID)
	require.NoError(w.t, err)
	last := rules[len(rules)-1]
	_, err = w.Prices.KeepRule(w.t.Context(), w.site.ID, stops.IfMatch{}, prices.NamedRule{ID: last.ID, Name: last.Name, Rule: r})
	return err
}

func (w *world) feed(id int64) store.Feed {
	f, err := store.Get[store.Feed](context.Background(), w.Store, id)
	require.NoError(w.t, err)
	return f
}

// fetch fetches Fernhollow's list and takes it, the first one too.
func (w *world) fetch() store.Feed {
	r, err := w.Sources.Fetch(w.t.Context(), w.source.ID)
	require.NoError(w.t, err)
	w.wait(r)
	w.idle()
	feeds, err := w.Store.Feeds(w.t.Context(), w.source.ID, store.Page{Limit: 1})
	require.NoError(w.t, err)
	f := feeds.Rows[0]
	if f.State == store.FeedLooked {
		return w.take(f.ID, w.source.ID, false)
	}
	return f
}

func (w *world) counts() store.Counts {
	c, err := w.Store.Counts(w.t.Context(), w.clock.Now())
	require.NoError(w.t, err)
	return c
}

// sendAll sends all that is ready and waits for the answers.
func (w *world) sendAll() sending.Sent {
	s, err := w.Sending.SendListings(w.t.Context(), nil, sending.How{})
	require.NoError(w.t, err)
	w.idle()
	return s
}

// moveMarket has the marketplace's gateway looked for at another address, until
// what it returns is called.
func (w *world) moveMarket(address string) (back func()) {
	before, err := w.Store.SiteOf(w.t.Context(), w.site.ID)
	require.NoError(w.t, err)
	require.NoError(w.t, w.Store.MoveMarketplace(w.t.Context(), "Quaymarket", address))
	return func() {
		require.NoError(w.t, w.Store.MoveMarketplace(w.t.Context(), "Quaymarket", before.Marketplace.Address))
	}
}

func (w *world) sendOut(id int64) store.SendOutRow {
	o, err := w.Store.SendOutRowOf(w.t.Context(), id)
	require.NoError(w.t, err)
	return o
}

// front stands before a gateway, and does with requests what a test wants.
type front struct {
	next http.Handler

	mu     sync.Mutex
	meddle func(w http.ResponseWriter, r *http.Request, next http.Handler)
}

func (f *front) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	f.mu.Lock()
	meddle := f.meddle
	f.mu.Unlock()
	if meddle == nil {
		f.next.ServeHTTP(w, r)
		return
	}
	meddle(w, r, f.next)
}

// set has requests meddled with from now on; nil lets them through.
func (f *front) set(meddle func(w http.ResponseWriter, r *http.Request, next http.Handler)) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.meddle = meddle
}

// said has the gateway's answers to some requests changed by fn: their JSON as
// the marketplace gave it.
func (f *front) said(method, path string, fn func(answer map[string]any)) {
	f.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if r.Method != method || !strings.Contains(r.URL.Path, path) {
			next.ServeHTTP(w, r)
			return
		}
		rec := httptest.NewRecorder()
		next.ServeHTTP(rec, r)
		var answer map[string]any
		if json.Unmarshal(rec.Body.Bytes(), &answer) != nil {
			answer = map[string]any{}
		}
		fn(answer)
		_ = json.NewEncoder(w).Encode(answer)
	})
}

// decide is a person's decision on a match.
func decide(ctx context.Context, m *matching.Stop, id int64, d matching.Decision) error {
	_, err := m.Decide(ctx, id, d)
	return err
}

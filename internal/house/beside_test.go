package house_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/house"
	"easymargin/internal/stops"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// What the command line takes beside a running server is followed at once: the
// server works out its prices, and nothing goes out at the old ones meanwhile.
func TestAnIntakeBesideTheServerIsFollowedAtOnce(t *testing.T) {
	s := newStall(t, 6)
	s.deliver(always(400), always(9))
	before := s.all()
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(s.list(always(480), halfOf(9))), 0o600))
	dir := filepath.Dir(s.Store.File())
	data, err := store.Open(dir)
	require.NoError(t, err)
	defer data.Close()
	line := house.New(house.Options{Store: data, Now: s.clock.Now})
	taken, err := line.Sources.TakeFile(t.Context(), "Fernhollow Wholesale", path)
	require.NoError(t, err)
	require.Equal(t, store.FeedTaken, taken.State, taken.HeldFor)
	// As if somebody sent in that very moment: what isn't worked out yet stays behind.
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	assert.LessOrEqual(t, sent.Lines, int64(3))
	s.until("the prices follow", func() bool { return s.counts().Dirty == 0 })
	s.idle()
	s.safe(halfOf(9))
	dearer := 0
	for _, l := range s.all() {
		for _, b := range before {
			if b.ID == l.ID && *l.Price > *b.Price {
				dearer++
			}
		}
	}
	assert.Equal(t, 6, dearer)
	assert.Equal(t, int64(3), s.counts().Paused)
	s.sendAll()
	s.safe(halfOf(9))
	assert.Len(t, s.there(), 3)
}

// A machine of our own network may be fetched from by the name it was allowed by.
func TestWhatIsAllowedByItsNameIsFetched(t *testing.T) {
	s := newStall(t, 3)
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		_, _ = w.Write([]byte(s.list(always(400), always(9))))
	}))
	defer shop.Close()
	name := strings.Replace(strings.TrimPrefix(shop.URL, "http://"), "127.0.0.1", "localhost", 1)
	source, err := s.Sources.Make(
		t.Context(),
		sources.NewSource{Supplier: "Nearby", Address: "http://" + name + "/list.csv", Currency: "GBP", Charge: "0", Tax: "without"},
	)
	require.NoError(t, err)
	r, err := s.Sources.Fetch(t.Context(), source.ID)
	require.NoError(t, err)
	over := s.wait(r)
	assert.Contains(t, over.Error, "--allow "+name, "it says how")
	s.House.Fetch.Allow(strings.ToUpper(name))
	r, err = s.Sources.Fetch(t.Context(), source.ID)
	require.NoError(t, err)
	assert.Equal(t, store.RunDone, s.wait(r).State)
}

func TestAFeedWhoseFileIsGoneSaysSo(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	f := s.feed(1)
	require.NoError(t, os.Remove(s.Store.Inbox(f.File)))
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error { return tx.ForgetFiles([]string{f.File}) }))
	_, err := s.Sources.Check(t.Context(), f.ID, nil, nil, 0)
	assert.Equal(t, fault.Conflict, fault.KindOf(err))
	assert.ErrorContains(t, err, "file")
}

// However many make rules at once, each has a place of its own, and the last stays last.
func TestTwentyRulesAtOnceHaveTwentyPlaces(t *testing.T) {
	s := newStall(t, 3)
	var all sync.WaitGroup
	for i := range 20 {
		all.Go(func() {
			_, err := s.Prices.KeepRule(
				t.Context(),
				s.site.ID,
				stops.IfMatch{},
				prices.NamedRule{Name: "Rule " + string(rune('A'+i)), Fits: &prices.Fits{}, Rule: prices.Rule{Aims: margin("20%")}},
			)
			assert.NoError(t, err)
		})
	}
	all.Wait()
	s.idle()
	rules, err := s.Store.Reading(t.Context()).Rules(s.site.ID)
	require.NoError(t, err)
	require.Len(t, rules, 21)
	for i, r := range rules {
		assert.Equal(t, int64(i+1), r.Position)
	}
	assert.Equal(t, "All the rest", rules[20].Name)
}

package house_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// The whole morning, from the first list to a repriced listing.
func TestAProductsWholeWay(t *testing.T) {
	w := newWorld(t)
	f := w.fetch()
	assert.Equal(t, [6]int64{1198, 1194, 0, 0, 4, 0}, [6]int64{f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone})
	c := w.counts()
	assert.Equal(t, int64(30), c.MatchSeveral+c.MatchNone, "18 of them by number, and 12 of which only the supplier says a pack")
	assert.Equal(t, c.SupplierRows, c.MatchSeveral+c.MatchNone+c.Ready+c.Paused+c.Unpriced, "each row waits on Match or has its listing")

	sent := w.sendAll()
	assert.Equal(t, c.Ready, sent.Lines)
	assert.Equal(t, c.Ready-3, w.market.Applied())
	c = w.counts()
	assert.Equal(t, int64(3), c.Refused)
	assert.Equal(t, sent.Lines-3, c.Live)
	assert.Zero(t, w.sendAll().Lines, "sending again sends nothing")

	w.clock.Forward(15 * time.Minute)
	second := w.fetch()
	require.Equal(t, store.FeedTaken, second.State)
	assert.NotZero(t, second.Changed)
	assert.Equal(t, int64(4), second.Gone)
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	require.NotEmpty(t, lines.Rows)
	assert.Equal(t, "zero", lines.Rows[0].Kind, "stock to nothing stands first")
	held := int64(0)
	for _, l := range lines.Rows {
		assert.NotEmpty(t, l.Reasons)
		if l.Verdict == "held" {
			held++
			continue
		}
		if l.ToPrice != nil {
			require.NotNil(t, l.Floor)
			assert.GreaterOrEqual(t, *l.ToPrice, *l.Floor, "never under the floor")
		}
	}
	assert.NotZero(t, held, "a cost that jumped is held")

	var heldID, goID int64
	for _, l := range lines.Rows {
		if l.Verdict == "held" {
			heldID = l.ID
		} else {
			goID = l.ID
		}
	}
	two, err := w.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{Lines: []int64{heldID, goID}})
	require.NoError(t, err)
	w.idle()
	assert.Equal(t, int64(2), two.Lines, "a held line goes when somebody names it")
	plan = w.openPlan() // worked out anew after the answers
	lines, err = w.Store.PlanLines(t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	held--
	before := w.market.Applied()
	var left []int64
	for _, l := range lines.Rows {
		if l.Verdict == "go" {
			left = append(left, l.ID)
		}
	}
	toGo, err := w.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{Except: left})
	require.NoError(t, err)
	assert.Zero(t, toGo.Lines)
	toGo, err = w.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	require.NoError(t, err)
	w.idle()
	assert.Equal(t, lines.Total-held, toGo.Lines)
	assert.Equal(t, before+toGo.Lines, w.market.Applied())
	again, err := w.Sending.SendPlan(t.Context(), plan.ID, sending.PlanChoice{})
	if err == nil {
		assert.Zero(t, again.Lines)
	} else {
		assert.Equal(t, fault.Conflict, fault.KindOf(err), "a newer plan has taken its place")
	}
	assert.Equal(t, before+toGo.Lines, w.market.Applied(), "nothing goes twice")
}

func TestTheSameFileTwiceChangesNothing(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn("Tidewrack Clearance", "sku,title,price,stock\nA1,Mug,2.40,5\nA2,Pot,9.10,0\n")
	require.NoError(t, err)
	assert.Equal(t, int64(2), f.New)
	again, err := w.Sources.BringIn(
		t.Context(),
		strings.NewReader("sku,title,price,stock\nA1,Mug,2.40,5\nA2,Pot,9.10,0\n"),
		sources.Arriving{Name: "again.csv", SourceID: f.SourceID},
	)
	require.NoError(t, err)
	got := w.take(again.ID, *f.SourceID, false)
	assert.Equal(t, [3]int64{0, 0, 2}, [3]int64{got.New, got.Changed, got.Same})
	changes, err := w.Store.Changes(t.Context(), got.ID, store.Page{})
	require.NoError(t, err)
	assert.Zero(t, changes.Total)
}

func TestEveryRowEndsAsExactlyOne(t *testing.T) {
	w := newWorld(t)
	f, err := w.bringIn(
		"Fernhollow",
		strings.Join(
			[]string{
				"ref,title,cost,stock",
				"A,Mug,2.40,5",
				"B,,1.00,1",
				"C,Pot,,1",
				"A,Mug,2.40,5",
				"A,Mug,2.50,5",
				",Peg,1.00,3",
				"D,Line,x,1",
				"",
				"E,Kettle,14.20,no",
			},
			"\n",
		),
	)
	require.NoError(t, err)
	assert.Equal(t, f.Rows, f.New+f.Changed+f.Same+f.SetAside)
	assert.Equal(t, [4]int64{8, 2, 1, 5}, [4]int64{f.Rows, f.New, f.Same, f.SetAside})
	asides, err := w.Store.SetAsides(t.Context(), f.ID, store.Page{})
	require.NoError(t, err)
	var where []int
	for _, a := range asides.Rows {
		where = append(where, a.Row)
		assert.NotEmpty(t, a.Problems)
	}
	assert.Equal(t, []int{3, 4, 6, 7, 8}, where, "rows as a spreadsheet counts them")
}

func TestBadFilesSayWhatIsWrongAndLeaveNothing(t *testing.T) {
	w := newWorld(t)
	for name, c := range map[string]struct{ text, want string }{
		"empty":        {"", "empty"},
		"no header":    {"1,2,3\n4,5,6\n", "no header row"},
		"binary":       {"\x00\x01\x02\xff\xfe" + strings.Repeat("\x00\x13", 400), ""},
		"endless cell": {"ref,title,cost\nA,\"" + strings.Repeat("x", 2<<20), "quote"},
	} {
		_, err := w.bringIn(name, c.text)
		if err == nil {
			feeds, e := w.Store.Feeds(t.Context(), 0, store.Page{Limit: 1})
			require.NoError(t, e)
			assert.Equal(t, store.FeedFailed, feeds.Rows[0].State, name)
			assert.Contains(t, feeds.Rows[0].Error, c.want, name)
			continue
		}
		assert.Equal(t, fault.Invalid, fault.KindOf(err), name)
		assert.Contains(t, err.Error(), c.want, name)
	}
	assert.Zero(t, w.counts().SupplierRows)
}

func TestAShortFeedIsHeldAndTakenOnce(t *testing.T) {
	w := newWorld(t)
	w.fetch()
	before := w.counts()
	w.clock.Forward(15 * time.Minute)
	w.fetch()
	w.clock.Forward(15 * time.Minute)
	short := w.fetch()
	require.Equal(t, store.FeedHeld, short.State)
	assert.Contains(t, short.HeldFor, "under 70 %")
	assert.Equal(t, before.SupplierRows+4, w.counts().SupplierRows)
	gone := func() int64 {
		l, err := w.Store.Listings(t.Context(), store.ListingFilter{}, store.Page{Limit: 500, Sort: "stock"})
		require.NoError(t, err)
		n := int64(0)
		for _, r := range l.Rows {
			if r.Gone {
				n++
			}
		}
		return n
	}
	assert.LessOrEqual(t, gone(), int64(4), "a held feed changes nothing")
	taken := w.take(short.ID, w.source.ID, true)
	assert.Equal(t, store.FeedTaken, taken.State)
	assert.Greater(t, taken.Gone, int64(700))
}

// An address with nothing new since a list that was taken is heard by that; since one that
// is held it isn't: what was taken will go silent, however often the address answers.
func TestNothingNewSinceAHeldFeedSaysNothing(t *testing.T) {
	w := newWorld(t)
	heard := func() time.Time {
		s, err := w.Store.SourceOf(t.Context(), w.source.ID)
		require.NoError(t, err)
		return *s.HeardAt
	}
	w.fetch()
	first := heard()
	w.clock.Forward(5 * time.Minute)
	require.Equal(t, store.FeedSame, w.fetch().State)
	assert.Equal(t, 5*time.Minute, heard().Sub(first))
	w.clock.Forward(15 * time.Minute)
	w.fetch()
	w.clock.Forward(15 * time.Minute)
	require.Equal(t, store.FeedHeld, w.fetch().State)
	last := heard()
	for range 2 {
		w.clock.Forward(5 * time.Minute)
		require.Equal(t, store.FeedSame, w.fetch().State)
	}
	assert.Equal(t, last, heard())

	// The next list is taken; the one that is held is older now, and would bring back what was.
	held, err := w.Store.Feeds(t.Context(), w.source.ID, store.Page{Limit: 3})
	require.NoError(t, err)
	old := held.Rows[slices.IndexFunc(held.Rows, func(f store.Feed) bool { return f.State == store.FeedHeld })]
	w.clock.Forward(15 * time.Minute)
	require.Equal(t, store.FeedTaken, w.fetch().State)
	_, err = w.Sources.Take(t.Context(), old.ID, w.source.ID, nil, true)
	assert.ErrorContains(t, err, "a newer feed")
}

func TestAMarketplaceThatFailsLosesNothing(t *testing.T) {
	w := newWorld(t)
	w.market.SetDown(true)
	f := w.fetch()
	assert.Equal(t, store.FeedTaken, f.State, "the feed is taken all the same")
	c := w.counts()
	assert.Zero(t, c.Ready)
	w.market.SetDown(false)
	r, err := w.Matching.LookAgain(t.Context(), w.site.ID)
	require.NoError(t, err)
	w.wait(r)
	w.idle()
	c = w.counts()
	require.NotZero(t, c.Ready)

	w.market.SetDown(true)
	sent := w.sendAll()
	require.Len(t, sent.SendOuts, 1)
	o, err := w.Store.SendOutRowOf(t.Context(), sent.SendOuts[0])
	require.NoError(t, err)
	assert.Contains(t, o.Error, "503 Service Unavailable")
	assert.Equal(t, sent.Lines, o.Waiting, "no line is lost")
	w.market.SetDown(false)
	run, err := w.Sending.SendAgain(t.Context(), o.ID)
	require.NoError(t, err)
	assert.Equal(t, store.RunDone, w.wait(run).State)
	w.idle()
	assert.Equal(t, sent.Lines-3, w.market.Applied())
	assert.Equal(t, sent.Lines-3, w.counts().Live)
}

func TestAPersonsDecisions(t *testing.T) {
	w := priced(t)
	list, err := w.Store.Matches(t.Context(), []string{"several", "none"}, store.Page{Limit: 50})
	require.NoError(t, err)
	var several store.MatchRow
	for _, m := range list.Rows {
		if m.State == "several" {
			several = m
		}
	}
	candidates, err := w.Matching.Candidates(t.Context(), several.ID, "")
	require.NoError(t, err)
	require.NotEmpty(t, candidates)
	before := w.counts()
	require.NoError(t, decide(t.Context(), w.Matching, several.ID, matching.Decision{Entry: candidates[0].Ref}))
	w.idle()
	after := w.counts()
	assert.Equal(t, before.Products+1, after.Products)
	assert.Equal(t, before.MatchSeveral-1, after.MatchSeveral)
	assert.Equal(t, fault.Conflict, fault.KindOf(decide(t.Context(), w.Matching, several.ID, matching.Decision{State: store.MatchLater})), "decided is decided")
	require.NoError(t, decide(t.Context(), w.Matching, list.Rows[0].ID, matching.Decision{State: store.MatchNewEntry}))
	assert.Equal(t, fault.Invalid, fault.KindOf(decide(t.Context(), w.Matching, list.Rows[1].ID, matching.Decision{State: "perhaps"})))
	assert.Equal(t, fault.Missing, fault.KindOf(decide(t.Context(), w.Matching, 99999, matching.Decision{State: store.MatchLater})))
}

func TestEveryPriceOpensIntoLinesThatAddUp(t *testing.T) {
	w := priced(t)
	l, err := w.Store.Listings(t.Context(), store.ListingFilter{States: []string{store.ListingReady}}, store.Page{Limit: 200})
	require.NoError(t, err)
	for _, r := range l.Rows {
		x, err := w.Prices.Explain(t.Context(), r.ID, nil)
		require.NoError(t, err)
		sum := int64(0)
		for _, line := range x.Lines {
			sum += line.Amount
		}
		assert.Equal(t, *r.Profit, sum)
		assert.Equal(t, *r.Price, *r.Landed+*r.Outbound+*r.Fees+*r.Tax+*r.Profit, "the strip's parts make the price")
	}
}

func TestARuleThatCantBeReadIsAnsweredAtItsField(t *testing.T) {
	w := newWorld(t)
	for _, c := range []struct {
		rule  prices.Rule
		field string
	}{
		{prices.Rule{Aims: []prices.RuleCondition{{Kind: "margin", Value: "18"}}}, "rule.aims[0].value"},
		{prices.Rule{Aims: []prices.RuleCondition{{Kind: "profit", Value: "4.005"}}}, "rule.aims[0].value"},
		{prices.Rule{Aims: []prices.RuleCondition{{Kind: "profit", Value: "4.00"}}, Keep: []prices.RuleCondition{}, Least: "9.00",
			Most: "8.00"}, "rule.least"},
	} {
		err := w.setRule(c.rule)
		var e *fault.Error
		require.ErrorAs(t, err, &e)
		assert.Equal(t, c.field, e.Field)
	}
}

// A supplier must not make us ask machines of our own network.
func TestAddressesThatPointInwardAreRefused(t *testing.T) {
	w := newWorld(t)
	for i, address := range []string{"http://127.0.0.1:1/x.csv", "http://localhost:1/x.csv", "http://[::1]:1/x", "http://10.0.0.1/x", "http://169.254.169.254/latest", "http://[::ffff:127.0.0.1]:1/x", "http://0.0.0.0:1/x", "http://100.64.0.1/x"} {
		s, err := w.Sources.Make(
			t.Context(),
			sources.NewSource{Supplier: "inward " + string(rune('a'+i)), Address: address, Currency: "GBP", Charge: "0", Tax: "without"},
		)
		require.NoError(t, err)
		r, err := w.Sources.Fetch(t.Context(), s.ID)
		require.NoError(t, err)
		got := w.wait(r)
		assert.Equal(t, store.RunFailed, got.State, address)
		assert.Contains(t, got.Error, "private network", address)
	}
}

// Nor by sending us there from an address that may be fetched from.
func TestRedirectsInwardAreRefused(t *testing.T) {
	w := newWorld(t)
	asked := atomic.Int64{}
	inside := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		_, _ = io.WriteString(rw, "ref,title,cost\nA,Secret,1.00\n")
	}))
	defer inside.Close()
	outside := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/round" {
			http.Redirect(rw, r, "/round", http.StatusFound)
			return
		}
		http.Redirect(rw, r, inside.URL+"/list.csv", http.StatusFound)
	}))
	defer outside.Close()
	w.House.Fetch.Allow(strings.TrimPrefix(outside.URL, "http://"))
	for path, want := range map[string]string{"/list.csv": "private network", "/round": "more than five times"} {
		s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: path, Address: outside.URL + path, Currency: "GBP", Charge: "0", Tax: "without"})
		require.NoError(t, err)
		r, err := w.Sources.Fetch(t.Context(), s.ID)
		require.NoError(t, err)
		got := w.wait(r)
		assert.Equal(t, store.RunFailed, got.State, path)
		assert.Contains(t, got.Error, want, path)
	}
	assert.Zero(t, asked.Load(), "nothing inside was asked")
	assert.Zero(t, w.counts().SupplierRows)
}

func TestAnAddressThatFailsSaysSo(t *testing.T) {
	w := newWorld(t)
	w.shop.SetDown(true)
	r, err := w.Sources.Fetch(t.Context(), w.source.ID)
	require.NoError(t, err)
	got := w.wait(r)
	assert.Equal(t, store.RunFailed, got.State)
	assert.Contains(t, got.Error, http.StatusText(http.StatusServiceUnavailable))
	assert.Equal(t, int64(1), w.counts().FeedsFailed)
}

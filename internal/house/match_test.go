package house_test

import (
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// waiting are the matches in some states, by their supplier's ref.
func (s *stall) waiting(states ...string) map[string]store.MatchRow {
	l, err := s.Store.Matches(s.t.Context(), states, store.Page{Limit: 500})
	require.NoError(s.t, err)
	out := map[string]store.MatchRow{}
	for _, m := range l.Rows {
		out[m.Ref] = m
	}
	return out
}

// rows is a list of a stall's goods with columns of a test's own.
func (s *stall) rows(heads string, row func(i int, title, brand, gtin string) string) string {
	text := "ref,title,brand,ean," + heads + "\n"
	for i, e := range s.entries {
		text += fmt.Sprintf("R%03d,%s\n", i, row(i, e.Title, e.Brand, e.GTIN))
	}
	return text
}

// given has a list of the stall's supplier taken, whatever a guard says of it.
func (s *stall) given(text string) {
	s.t.Helper()
	f, err := s.Sources.BringIn(s.t.Context(), strings.NewReader(text), sources.Arriving{Name: "list.csv", SourceID: &s.source.ID})
	require.NoError(s.t, err)
	require.Equal(s.t, store.FeedTaken, s.take(f.ID, s.source.ID, true).State)
	s.idle()
}

// sold is what buyers find of ours on an entry.
func (s *stall) sold(entry string) there {
	for _, x := range s.there() {
		if x.Entry == entry {
			return x
		}
	}
	return there{}
}

// sendPlan lets all of the plan go that may, and waits for the answers.
func (s *stall) sendPlan() {
	s.t.Helper()
	plan := s.openPlan()
	lines, err := s.Store.PlanLines(s.t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(s.t, err)
	_, err = s.Sending.SendPlan(s.t.Context(), plan.ID, sending.PlanChoice{Lines: ids(lines.Rows)})
	require.NoError(s.t, err)
	s.idle()
	s.later(15 * time.Minute)
}

// letPlanGo lets all of a site's plan go, what is held too.
func (s *stall) letPlanGo(siteID int64) {
	plans, err := s.Store.OpenPlans(s.t.Context())
	require.NoError(s.t, err)
	for _, p := range plans {
		if p.SiteID != siteID {
			continue
		}
		lines, err := s.Store.PlanLines(s.t.Context(), store.PlanPart{Plan: p.ID}, store.Page{Limit: 500})
		require.NoError(s.t, err)
		_, err = s.Sending.SendPlan(s.t.Context(), p.ID, sending.PlanChoice{Lines: ids(lines.Rows)})
		require.NoError(s.t, err)
	}
	s.idle()
}

// deliverAnyway delivers the supplier's list with so many of each, whatever a guard says.
func (s *stall) deliverAnyway(stock int64) {
	f, err := s.Sources.BringIn(s.t.Context(), strings.NewReader(s.list(func(int) int64 { return 400 }, func(int) int64 { return stock })),
		sources.Arriving{Name: "list.csv", SourceID: &s.source.ID})
	require.NoError(s.t, err)
	require.Equal(s.t, store.FeedTaken, s.take(f.ID, s.source.ID, true).State)
	s.idle()
}

func plainRow(i int, title, brand, gtin string) string {
	return fmt.Sprintf("%q,%s,%s,4.00,9", title, brand, gtin)
}

// How many is decided with which, the cost follows, and a change is a decision.
func TestUnitsFollowTheMatch(t *testing.T) {
	s := newStall(t, 1)
	s.given(s.rows("cost,stock,units per item", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,24.00,9,6", title, brand, gtin)
	}))
	m := s.waiting(store.MatchMade)["R000"]
	assert.Equal(t, [2]int64{6, 1}, [2]int64{m.Bought, m.Listed}, "both sides say how many")
	landed := func() int64 {
		for _, l := range s.all() {
			require.NotNil(t, l.Landed)
			return *l.Landed
		}
		return 0
	}
	assert.EqualValues(t, 400, landed())
	require.NoError(t, s.Matching.SetUnits(t.Context(), m.ID, 6, 3))
	s.idle()
	assert.EqualValues(t, 1200, landed(), "three of six")
	again := s.waiting(store.MatchMade)["R000"]
	assert.Equal(t, [2]int64{6, 3}, [2]int64{again.Bought, again.Listed})
	assert.Equal(t, fault.Invalid, fault.KindOf(s.Matching.SetUnits(t.Context(), m.ID, 0, 1)))
	s.given(s.rows("cost,stock,units per item", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,30.00,9,6", title, brand, gtin)
	}))
	assert.EqualValues(t, 1500, landed(), "and it lasts")
}

// A match taken back goes off sale by the plan, and not in silence.
func TestAMatchTakenBackGoesOffSale(t *testing.T) {
	s := newStall(t, 2)
	s.given(s.rows("cost,stock", plainRow))
	made := s.waiting(store.MatchMade)
	// One that was never sent is gone with its product.
	require.NoError(t, s.Matching.TakeBack(t.Context(), made["R001"].ID))
	s.idle()
	require.Len(t, s.all(), 1)
	assert.EqualValues(t, 1, s.counts().Products)
	s.sendAll()
	require.NotZero(t, s.sold(s.entries[0].Ref).Quantity)

	require.NoError(t, s.Matching.TakeBack(t.Context(), made["R000"].ID))
	s.idle()
	l := s.all()
	require.Len(t, l, 1, "what is on sale is never lost sight of")
	assert.Zero(t, l[0].Quantity)
	s.sendPlan()
	assert.Zero(t, s.sold(s.entries[0].Ref).Quantity)
	// It asks again, and matched again it is on sale again.
	m := s.waiting(store.MatchSeveral)["R000"]
	require.NotZero(t, m.ID)
	require.NoError(t, decide(t.Context(), s.Matching, m.ID, matching.Decision{Entry: s.entries[0].Ref}))
	s.clock.Forward(time.Hour)
	s.idle()
	assert.NotZero(t, s.all()[0].Quantity)
	assert.Equal(t, fault.Conflict, fault.KindOf(s.Matching.TakeBack(t.Context(), s.waiting(store.MatchSeveral)["R001"].ID)), "it waits already")
}

// A decision lasts: the same row never asks twice, one written otherwise
// neither, and one that became another thing asks, sells nothing meanwhile, and
// says what has changed.
func TestADecisionLastsUntilTheThingChanges(t *testing.T) {
	s := newStall(t, 1)
	s.given(s.rows("cost,stock", plainRow))
	s.sendAll()
	require.NotZero(t, s.sold(s.entries[0].Ref).Quantity)

	s.given(s.rows("cost,stock", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s Ltd,%s,4.00,9", strings.ToUpper(title), strings.ToUpper(brand), gtin)
	}))
	assert.Empty(t, s.waiting(store.MatchSeveral), "the same brand, written otherwise")
	assert.NotZero(t, s.all()[0].Quantity)

	s.given(s.rows("cost,stock,units per item", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,4.00,9,6", title+" pack of 6", brand, gtin)
	}))
	m := s.waiting(store.MatchSeveral)["R000"]
	require.NotZero(t, m.ID, "a pack that it wasn't")
	assert.Equal(t, "changed since it was matched: pack 1 → 6", m.Note)
	assert.Zero(t, s.all()[0].Quantity, "nothing is sold from it meanwhile")
	s.sendPlan()
	assert.Zero(t, s.sold(s.entries[0].Ref).Quantity)
	require.NoError(t, decide(t.Context(), s.Matching, m.ID, matching.Decision{Entry: s.entries[0].Ref, Bought: 6, Listed: 1}))
	s.clock.Forward(time.Hour)
	s.idle()
	l := s.all()[0]
	assert.NotZero(t, l.Quantity)
	assert.EqualValues(t, 67, *l.Landed, "a sixth of four, rounded up")
}

// What a place answered is kept, and asked again once it is old. A place that
// says how long to wait is waited for.
func TestLookUpsAreKeptAndThePlacesLimitIsHeld(t *testing.T) {
	s := newStall(t, 3)
	s.market.Limit = 4
	asked := 0
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		rec := httptest.NewRecorder()
		next.ServeHTTP(rec, r)
		if strings.HasSuffix(r.URL.Path, "/entries") && rec.Code == http.StatusOK {
			asked++
		}
		maps.Copy(w.Header(), rec.Header())
		w.WriteHeader(rec.Code)
		_, _ = w.Write(rec.Body.Bytes())
	})
	text := s.rows("cost,stock", plainRow)
	for i := range 12 {
		text += fmt.Sprintf("N%03d,Thing %d of no place,Nobody,,1.00,5\n", i, i)
	}
	s.given(text)
	assert.Len(t, s.all(), 3)
	assert.Len(t, s.waiting(store.MatchNone), 12)
	assert.NotZero(t, s.market.Waits, "it was told to wait, and did")
	first := asked
	assert.Equal(t, 13, first, "one for the numbers, one for each by its words")

	again := func() {
		require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
			_, err := tx.ForgetMatches(s.site.ID, []string{store.MatchNone})
			return err
		}))
		require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
			run := stops.MatchRun(s.site, s.clock.Now())
			return tx.Queue(&run)
		}))
		s.idle()
	}
	again()
	assert.Equal(t, first, asked, "kept")
	s.clock.Forward(8 * 24 * time.Hour)
	again()
	assert.Greater(t, asked, first, "old")
}

// Anything that names an entry finds it: a number as anybody writes it, the
// place's own, the address of its page with what trails behind, or words.
func TestAnEntryIsFoundByAnything(t *testing.T) {
	s := newStall(t, 1)
	e := s.entries[0]
	site, err := s.Store.SiteOf(t.Context(), s.site.ID)
	require.NoError(t, err)
	address := site.Marketplace.Address
	for _, text := range []string{e.GTIN, "EAN " + e.GTIN[1:], e.Ref, " " + e.Ref + " ", address + e.Page, address + e.Page + "?from=mail#offers",
		address + e.Page + "/a-nice-title", e.Title} {
		found, err := s.Matching.Find(t.Context(), site, text)
		require.NoError(t, err, text)
		require.NotEmpty(t, found, text)
		assert.Equal(t, e.Ref, found[0].Ref, text)
	}
	_, err = s.Matching.Find(t.Context(), site, "  ")
	assert.Equal(t, fault.Invalid, fault.KindOf(err))
	found, err := s.Matching.Find(t.Context(), site, address+"/e/Q0-00000")
	require.NoError(t, err)
	assert.Empty(t, found)
}

// Where the place says that we may not sell, that is said before anything is
// sent; leave can be noted, and then it goes through.
func TestLeaveIsAskedForBeforeAnythingIsSent(t *testing.T) {
	s := newStall(t, 2)
	s.entries[0].NeedsLeave = true
	s.entries[1].Copyable = new(bool)
	s.given(s.rows("cost,stock", plainRow))
	assert.Empty(t, s.all())
	barred := s.waiting(store.MatchBarred)
	require.Len(t, barred, 2)
	d, err := s.Matching.Desk(t.Context(), barred["R000"].ID, "")
	require.NoError(t, err)
	assert.Equal(t, "needs leave", d.Candidates[0].Barred)
	for ref, words := range map[string]string{"R000": "needs leave", "R001": "lets nobody else sell"} {
		err = decide(t.Context(), s.Matching, barred[ref].ID, matching.Decision{Entry: barred[ref].Entry})
		assert.ErrorContains(t, err, words)
	}
	require.NoError(t, s.Matching.NoteLeave(t.Context(), s.site.ID, s.entries[0].Category, store.LeaveAsked))
	s.idle()
	assert.Len(t, s.waiting(store.MatchBarred), 2, "asked is not given")
	require.NoError(t, s.Matching.NoteLeave(t.Context(), s.site.ID, s.entries[0].Category, store.LeaveGiven))
	s.idle()
	assert.Len(t, s.all(), 1)
}

// Certain ones wait to be accepted together where the site is set so.
func TestCertainOnesAreAcceptedTogether(t *testing.T) {
	s := newStall(t, 3)
	require.NoError(t, s.Matching.SetAccepts(t.Context(), s.site.ID, false))
	s.given(s.rows("cost,stock", plainRow))
	assert.Empty(t, s.all())
	certain := s.waiting(store.MatchCertain)
	require.Len(t, certain, 3)
	assert.Equal(t, s.entries[1].Ref, certain["R001"].Entry)
	many, err := s.Matching.DecideMany(t.Context(), []matching.Choice{
		{ID: certain["R001"].ID, Entry: certain["R001"].Entry, Bought: 1, Listed: 1}, {ID: certain["R002"].ID, Entry: "Q0-0000"},
	})
	require.NoError(t, err)
	assert.Equal(t, 1, many.Done)
	require.Len(t, many.Failed, 1, "and what can't be is said")
	many, err = s.Matching.AcceptAll(t.Context(), s.site.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, many.Done)
	s.idle()
	assert.Len(t, s.all(), 3)
}

// Matched on one site, the same entry is decided on the others with the same
// evidence; and those that differ in the same way are offered together.
func TestOneDecisionGoesFurther(t *testing.T) {
	s := newStall(t, 3)
	for _, e := range s.entries {
		e.Units, e.Brand = 0, "Tarnwick"
		e.Title = "Tarnwick " + e.Title
	}
	s.deliver(always(400), always(13))
	ie := s.twoSites()
	s.given(s.rows("cost,stock,units per item", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,24.00,9,6", title, brand, gtin)
	}))
	rows, err := s.Store.Matches(t.Context(), []string{store.MatchSeveral}, store.Page{Limit: 100})
	require.NoError(t, err)
	var here []store.MatchRow
	for _, r := range rows.Rows {
		if r.SiteID == s.site.ID {
			here = append(here, r)
		}
	}
	require.Len(t, here, 3)
	alike, err := s.Matching.AlikeTo(t.Context(), here[0].ID)
	require.NoError(t, err)
	require.Len(t, alike, 2)
	assert.Contains(t, alike[0].Against, "only the supplier says a pack, of 6")

	d, err := s.Matching.Desk(t.Context(), here[0].ID, "")
	require.NoError(t, err)
	assert.Equal(t, []string{ie.Name}, d.Elsewhere)
	done, err := s.Matching.Decide(t.Context(), here[0].ID, matching.Decision{Entry: d.Candidates[0].Ref, Bought: 6, Listed: 1, Everywhere: true})
	require.NoError(t, err)
	assert.Equal(t, []string{ie.Name}, done.Sites)
	s.idle()
	assert.Contains(t, s.onSite(ie.Name), d.Candidates[0].Ref)
	assert.Contains(t, s.onSite(s.site.Name), d.Candidates[0].Ref)
}

// Numbers of the seller's own are handed out once each, and come back.
func TestNumbersOfOurOwn(t *testing.T) {
	s := newStall(t, 1)
	added, err := s.Matching.AddNumbers(t.Context(), "Number\n9521234000013\n952123400001\n9521234000013;2000000000008\n9521234000020\n")
	require.NoError(t, err)
	assert.Equal(t, [3]int64{2, 1, 2}, [3]int64{added.Added, added.Known, int64(len(added.Bad))}, "%+v", added)
	assert.Equal(t, 3, added.Bad[0].Line)
	pool, err := s.Matching.PoolState(t.Context())
	require.NoError(t, err)
	assert.Equal(t, matching.Pool{Free: 2, Low: true}, pool)

	s.given("ref,title,brand,cost,stock\nA,Thing of no place,Nobody,1.00,5\nB,Other of no place,Nobody,1.00,5\nC,Third of no place,Nobody,1.00,5\n")
	none := s.waiting(store.MatchNone)
	_, err = s.Matching.GiveNumber(t.Context(), none["A"].ID)
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "nobody asked for a new entry")
	got := map[string]bool{}
	for _, ref := range []string{"A", "B", "C"} {
		require.NoError(t, decide(t.Context(), s.Matching, none[ref].ID, matching.Decision{State: store.MatchNewEntry}))
	}
	for _, ref := range []string{"A", "B", "A"} {
		n, err := s.Matching.GiveNumber(t.Context(), none[ref].ID)
		require.NoError(t, err)
		got[n] = true
	}
	assert.Len(t, got, 2, "each once, and the same for the same")
	_, err = s.Matching.GiveNumber(t.Context(), none["C"].ID)
	assert.ErrorContains(t, err, "no number is left")
	require.NoError(t, s.Matching.TakeBack(t.Context(), none["A"].ID))
	n, err := s.Matching.GiveNumber(t.Context(), none["C"].ID)
	require.NoError(t, err)
	assert.True(t, got[n], "what A gave back")
}

// SKUs are by a pattern, and none is ever given twice.
func TestSKUsAreByAPattern(t *testing.T) {
	s := newStall(t, 2)
	for pattern, wrong := range map[string]string{"{brand}": "it needs {number}", "{colour}{number}": "is none of", "é{number}": "beside its parts"} {
		assert.ErrorContains(t, s.Matching.SetSKUs(t.Context(), pattern), wrong)
	}
	require.NoError(t, s.Matching.SetSKUs(t.Context(), "{supplier:3}/{brand:4}-{number:4}"))
	s.given(s.rows("cost,stock", plainRow))
	skus := map[string]bool{}
	for _, l := range s.all() {
		assert.Regexp(t, `^[A-Z]{3}/[A-Z]{4}-\d{4}$`, l.SKU)
		skus[l.SKU] = true
	}
	assert.Len(t, skus, 2)
	tried, err := s.Matching.TrySKUs(t.Context(), "")
	require.NoError(t, err)
	assert.NotEmpty(t, tried.Shown)
	for _, x := range tried.Shown {
		assert.False(t, skus[x.SKU], "the next, not one that was given")
	}
	// Taken back and made again it gets another.
	require.NoError(t, s.Matching.TakeBack(t.Context(), s.waiting(store.MatchMade)["R000"].ID))
	require.NoError(t, decide(t.Context(), s.Matching, s.waiting(store.MatchSeveral)["R000"].ID, matching.Decision{Entry: s.entries[0].Ref}))
	for _, l := range s.all() {
		skus[l.SKU] = true
	}
	assert.Len(t, skus, 3)
}

// The desk shows what the supplier says one weighs.
func TestTheDeskShowsTheWeight(t *testing.T) {
	s := newStall(t, 1)
	s.given(s.rows("cost,stock,weight g", func(_ int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,4.00,9,312", title, brand, gtin)
	}))
	d, err := s.Matching.Desk(t.Context(), s.waiting(store.MatchMade)["R000"].ID, "")
	require.NoError(t, err)
	require.NotEmpty(t, d.Candidates)
	assert.Contains(t, d.Candidates[0].Rows, matching.Row{Aspect: "weight", Ours: "312 g", Mark: "one side"})
}

package e2e_test

import (
	"fmt"
	"net/http"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// A Tuesday morning in the living demo, cleared by keyboard: what can't be had
// goes off sale, the held feed is looked at, refusals are read, matches decided.
func TestATuesdayMorning(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30") // the broken feed stands for three minutes
	s := open(t, p, "/")
	s.sees("h1", "Tuesday 3 March")
	for _, words := range []string{"offer stock that can't be had", "2 listings sell at a loss", "1 rival went under us", "feed of 08:30 is held",
		"3 listings were refused", "wait for your decision"} {
		s.sees("section[aria-label='What needs you'] div", words)
	}

	// The first of them: the plan, zeros first, with pictures.
	s.keys('.')
	s.sees("div", "changes to make")
	s.sees("div", "Stock to nothing")
	require.NoError(t, s.WaitElementsMoreThan("[role=row] img", 5))
	shown := `() => [...document.querySelectorAll("[role=row] img")].slice(0, 5).every(i => i.complete && i.naturalWidth > 0)`
	s.MustWait(shown)
	type line struct {
		Kind    string `json:"kind"`
		Verdict string `json:"verdict"`
		Page    string `json:"page"`
	}
	plan := ask[struct{ ID int64 }](t, p, "/api/v1/plans?site=1")
	lines := ask[struct{ Rows []line }](t, p, fmt.Sprintf("/api/v1/plans/%d/lines?limit=500", plan.ID)).Rows
	require.Equal(t, "zero", lines[0].Kind)
	s.keys('.')
	s.sees("h1", "Changes to Quaymarket GB")
	until(t, p, "the answers", idle)
	page, err := browser.Page(s.Browser(), lines[0].Page)
	require.NoError(t, err)
	assert.Contains(t, page.MustElement("#ours").MustText(), "no stock", "the marketplace's own page says so")
	page.MustClose()

	// A listing's history is drawn, and said.
	s.keys('j', 'd')
	s.sees("h1", "Products")
	s.sees("[role=row]", "kettle|mug|quilt|stove").MustClick()
	s.sees("aside", "What .* has confirmed")
	assert.Regexp(t, `Price asked, GBP: \d+\.\d\d, \d+\.\d\d`, *s.MustElement("aside [aria-label='What was asked'] [role=img]").MustAttribute("aria-label"))
	s.keys(input.Escape)

	// The held feed, and what comes after it.
	s.keys('j', 's')
	s.sees("section[aria-label='Fernhollow Wholesale'] button", `Compare the held feed\s*\.`)
	s.keys('.')
	s.sees("section[aria-label='Why it is held']", "400 rows, where the last feed had 1157")
	s.press("Discard it")
	s.sees("h1", "products.csv|Sources")

	// Match: both sides are shown; choosing goes on to the next.
	s.keys('j', 'm')
	s.sees("[role=option]", "ground sheet").MustClick()
	s.sees("h2", "ground sheet")
	require.NoError(t, s.WaitElementsMoreThan("table[aria-label='Compared, fact by fact'] img", 1))
	s.MustElement("img[alt='As Fernhollow Wholesale shows it']")
	waiting := ask[struct{ Total int64 }](t, p, "/api/v1/matches").Total
	s.keys('1')
	s.sees("[role=option][aria-selected=true]", "pillow")
	until(t, p, "prices", idle)
	assert.Equal(t, waiting-1, ask[struct{ Total int64 }](t, p, "/api/v1/matches").Total)
}

// Both sorts of demo are kept as they were begun, and a restart on other ports
// follows them there.
func TestADemoIsKeptAsItWasBegun(t *testing.T) {
	t.Parallel()
	for _, empty := range []bool{false, true} {
		dir, args := t.TempDir(), []string{"demo", "--speed", "0", "--data"}
		first := []string{}
		if empty {
			first = append(first, "--empty")
		}
		p := program(t, append(append([]string{}, append(args, dir)...), first...)...)
		before := ask[counts](t, p, "/api/v1/counts")
		require.NoError(t, p.Kill())
		p = program(t, append(args, dir)...) // --empty is not said again
		until(t, p, "the start", idle)
		after := ask[counts](t, p, "/api/v1/counts")
		assert.Equal(t, before.Live, after.Live)
		assert.Equal(t, empty, after.Live == 0)
		if empty {
			continue
		}
		list := ask[struct{ Rows []struct{ Page string } }](t, p, "/api/v1/listings?state=live&limit=1")
		res, err := http.Get(list.Rows[0].Page)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		assert.Equal(t, http.StatusOK, res.StatusCode, "%s", list.Rows[0].Page)
		assert.Contains(t, list.Rows[0].Page, p.Market)
	}
}

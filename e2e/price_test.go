package e2e_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// stocked is a demo with Fernhollow's list taken and priced.
func stocked(t *testing.T) *browser.Program {
	p := program(t, "demo", "--speed", "60")
	require.NoError(t, p.Ask(http.MethodPost, "/api/sources/1/fetch", nil, nil))
	until(t, p, "the list", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/feeds/1/take", map[string]any{"source_id": 1}, nil))
	until(t, p, "prices", idle)
	return p
}

// labelled is the field that a label's words belong to.
func (s screen) labelled(words string) *rod.Element {
	return s.sees("label", words).MustElement("input, select")
}

// write puts a text in the place of a field's.
func (s screen) write(el *rod.Element, text string) {
	require.NoError(s.t, el.SelectAllText())
	require.NoError(s.t, el.Input(text))
}

// settles waits until a field's value is another than before, and says it.
func (s screen) settles(label, before string) string {
	el := s.labelled(label)
	require.NoError(s.t, el.Wait(rod.Eval(`before => this.value !== before && this.value !== ""`, before)))
	return el.MustProperty("value").Str()
}

// Whatever figure is written leads, and what it gives, written, gives it back.
func TestTheBenchInBothDirections(t *testing.T) {
	p := stocked(t)
	s := open(t, p, "/price?tab=bench")
	s.sees("h2", "Loose figures")
	find := s.MustElement("[aria-label='Find a product for the bench']")
	s.write(find, "kettle")
	s.sees("[aria-label='Products found'] button", "kettle")
	s.keys(input.Enter)
	s.sees("h2", "kettle")
	s.sees("span", "the rule leads")
	by := s.labelled("^price, GBP").MustProperty("value").Str()

	s.write(s.labelled("^profit, GBP"), "9.00")
	price := s.settles("^price, GBP", by)
	s.sees("[data-testid=lines]", "landed cost")
	s.write(s.labelled("^price, GBP"), price+"0")
	s.sees("[role=alert]", "is not an amount in GBP")
	s.write(s.labelled("^price, GBP"), "12,5,0")
	s.sees("[role=alert]", "12,5,0.* is not an amount in GBP")
	s.write(s.labelled("^price, GBP"), price)
	s.MustWait(`() => !document.querySelector("[role=alert]")`)
	require.NoError(t, s.labelled("^profit, GBP").Wait(rod.Eval(`() => this.value.startsWith("9.0")`)), "the price that 9.00 gave leaves 9.00 again")

	// By keyboard on the drawing: one penny more.
	s.MustElement("[role=slider]").MustFocus()
	s.keys(input.ArrowRight)
	next := s.settles("^price, GBP", price)
	assert.Equal(t, pence(price)+1, pence(next))

	// The address has it all: a reload shows the same.
	s.MustWait(`price => location.search.includes(encodeURIComponent(price))`, next)
	s.MustReload().MustWaitLoad()
	s.sees("h2", "kettle")
	assert.Equal(t, next, s.settles("^price, GBP", ""))
	s.sees("td", "Lantern Row US")
}

func pence(text string) int {
	n := 0
	for _, c := range strings.ReplaceAll(text, ".", "") {
		n = n*10 + int(c-'0')
	}
	return n
}

// A rule is written beside what it would do, kept, and becomes a plan.
func TestARuleFromPreviewToPlan(t *testing.T) {
	p := stocked(t)
	require.NoError(t, p.Ask(http.MethodPost, "/api/send-outs", map[string]any{}, nil))
	until(t, p, "the answers", idle)
	s := open(t, p, "/price?tab=rules")
	s.sees("li", "all that no rule above fits")
	s.keys('.')
	s.write(s.MustElement("[aria-label='Name of the rule']"), "Stoves, by return")
	s.MustElement("[aria-label='Add a category']").MustSelect("Stoves")
	s.MustElement("[aria-label='Kind of aim 1']").MustSelect("return on what is spent")
	aim := s.MustElement("[aria-label='Figure of aim 1']")
	s.write(aim, "a lot")
	s.sees("[role=alert]", "is not a (percentage|number)")
	s.write(aim, "35")
	s.MustWait(`() => !document.querySelector("[role=alert]")`)
	aside := "aside[aria-label='What it would do']"
	s.sees(aside, "at least 35% return")
	s.sees(aside, "Those that move most")
	s.sees(aside+" button", "[Ss]tove|burner|windshield|Gas").MustClick()
	s.sees(aside+" [data-testid=lines]", "left for you")
	assert.Zero(t, ask[counts](t, p, "/api/counts").PlanLines, "looking changes nothing")
	s.press("Keep this rule")
	s.sees("li", "Stoves, by return")
	until(t, p, "prices", idle)
	s.sees("li", `in Stoves:.*at least 35% return`)
	s.keys('j', 'w')
	s.sees("h1", `\d+ changes to make`)
	s.sees("[role=grid]", "Price up")
	assert.NotZero(t, ask[counts](t, p, "/api/counts").PlanLines)

	// Moved and dropped by hand, the prices follow.
	s.MustNavigate(p.URL + "/price?tab=rules").MustWaitLoad()
	s.sees("li", "Stoves, by return")
	s.keys(input.Enter)
	s.press("Drop this rule")
	s.MustWait(`() => document.querySelectorAll("ol li").length === 1`)
	until(t, p, "prices", idle)
	assert.Zero(t, ask[counts](t, p, "/api/counts").PlanLines)
}

// Fees that start tomorrow are written today, tried, and hold when the day comes.
func TestFeesThatStartTomorrow(t *testing.T) {
	p := stocked(t)
	type list struct{ Rows []struct{ Price int64 } }
	lamps := func() int64 {
		l := ask[list](t, p, "/api/listings?words=lantern+small&limit=1")
		require.NotEmpty(t, l.Rows)
		return l.Rows[0].Price
	}
	before := lamps()
	s := open(t, p, "/price?tab=fees&category=light")
	s.sees("section[aria-label='Fees'] h2", "Light")
	s.press("Write a new version")
	rate := s.sees("form[aria-label='New version of the fees'] label", "^rate").MustElement("input")
	s.write(rate, "30 or so")
	s.press("Keep this version")
	s.sees("[role=alert]", "30 or so")
	s.write(rate, "30")
	s.press("Keep this version")
	s.sees("section[aria-label='Fees']", "30%")
	s.sees("section[aria-label='Fees']", "by hand")
	s.sees("section[aria-label='Try a price']", "from 4 Mar 2026")
	until(t, p, "prices", idle)
	assert.Equal(t, before, lamps(), "today's fees hold today")
	require.NoError(t, p.Ask(http.MethodPost, "/api/demo/forward", map[string]any{"minutes": 24 * 60}, nil))
	require.Eventually(t, func() bool { return lamps() > before }, 30*time.Second, 200*time.Millisecond, "tomorrow's, when it is tomorrow")
}

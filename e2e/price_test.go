package e2e_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// stocked is a demo with Fernhollow's list taken and priced.
func stocked(t *testing.T) *browser.Program {
	p := program(t, "demo", "--empty", "--speed", "60")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil))
	until(t, p, "the list", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/feeds/1/take", map[string]any{"source_id": 1}, nil))
	until(t, p, "prices", func(runs []run) bool { return idle(runs) && ask[counts](t, p, "/api/v1/counts").Ready > 0 })
	return p
}

// labelled is the field that a label's words belong to.
func (s screen) labelled(words string) *rod.Element {
	field, err := s.ElementByJS(rod.Eval(`label => label.control`, s.sees("label", words).Object))
	require.NoError(s.t, err, "the field of %q", words)
	return field
}

// write puts a text in the place of a field's.
func (s screen) write(el *rod.Element, text string) {
	require.NoError(s.t, el.SelectAllText())
	require.NoError(s.t, el.Input(text))
}

// says waits until something is said to be wrong in these words.
func (s screen) says(words string) { s.sees("[role=alert], [aria-live]", words) }

// quiet waits until nothing is said to be wrong.
func (s screen) quiet() {
	s.MustWait(`() => ![...document.querySelectorAll("[role=alert], form [aria-live]")].some(e => e.textContent)`)
}

// settles waits until a field's value is another than before, and says it.
func (s screen) settles(label, before string) string {
	el := s.labelled(label)
	require.NoError(s.t, el.Wait(rod.Eval(`before => this.value !== before && this.value !== ""`, before)))
	return el.MustProperty("value").Str()
}

// Whatever figure is written leads, and what it gives, written, gives it back.
func TestTheBenchInBothDirections(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/price?tab=terms")
	s.sees("h2", "What holds for all")
	s.keys(']')
	s.sees("h2", "Loose figures")
	find := s.MustElement("[aria-label='Find a product for the bench']")
	s.write(find, "kettle")
	s.sees("[aria-label='Products found'] button", "kettle")
	s.keys(input.Enter)
	s.sees("h2", "kettle")
	s.sees("span", "the rule leads")
	require.NoError(t, s.MustElement("#bench-price").Wait(rod.Eval(`() => document.activeElement === this`)), "its price is in hand")
	by := s.labelled("^price, GBP").MustProperty("value").Str()

	s.write(s.labelled("^profit, GBP"), "9.00")
	price := s.settles("^price, GBP", by)
	s.sees("[data-testid=lines]", "landed cost")
	s.write(s.labelled("^price, GBP"), price+"0")
	s.sees("[role=alert]", "may be one of two numbers")
	s.write(s.labelled("^price, GBP"), "12,5,0")
	s.sees("[role=alert]", "12,5,0.* is not an amount in GBP")
	s.write(s.labelled("^price, GBP"), price)
	s.MustWait(`() => !document.querySelector("[role=alert]")`)
	require.NoError(
		t,
		s.labelled("^profit, GBP").Wait(rod.Eval(`() => this.value.startsWith("9.0")`)),
		"the price that 9.00 gave leaves 9.00 again",
	)

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
	t.Parallel()
	p := stocked(t)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{}, nil))
	until(t, p, "the answers", idle)
	s := open(t, p, "/price?tab=rules")
	s.sees("li", "all that no rule above fits")
	s.keys('.')
	require.NoError(
		t,
		s.MustElement("[aria-label='Name of the rule']").Wait(rod.Eval(`() => document.activeElement === this`)),
		"its name is in hand",
	)
	s.MustInsertText("Stoves, by return")
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
	assert.Zero(t, ask[counts](t, p, "/api/v1/counts").PlanLines, "looking changes nothing")
	s.press("Keep this rule")
	s.sees("li", "Stoves, by return")
	until(t, p, "prices", idle)
	s.sees("li", `in Stoves:.*at least 35% return`)
	s.keys('j', 'w')
	s.sees("div", `\d+ changes to make`)
	s.sees("[role=grid]", "Price up")
	assert.NotZero(t, ask[counts](t, p, "/api/v1/counts").PlanLines)

	// Tried in another order by key, and dropped by hand: the prices follow.
	require.NoError(
		t,
		p.Ask(
			http.MethodPost,
			"/api/v1/sites/1/rules",
			map[string]any{"id": 0, "name": "The kitchen", "fits": map[string]any{"categories": []string{"kitchen"}},
				"rule": map[string]any{"aims": []map[string]string{{"kind": "margin", "value": "18%"}}, "keep": []any{}}},
			nil,
		),
	)
	type rule struct {
		ID       int64
		Name     string
		Listings int64
	}
	s.MustNavigate(p.URL + "/price?tab=rules").MustWaitLoad()
	s.sees("li", "The kitchen")
	until(t, p, "prices", idle)
	first := ask[[]rule](t, p, "/api/v1/sites/1/rules")
	require.Equal(t, "Stoves, by return", first[0].Name)
	s.keys('+')
	s.sees("li:first-child", "The kitchen")
	until(t, p, "prices", idle)
	moved := ask[[]rule](t, p, "/api/v1/sites/1/rules")
	assert.Equal(
		t,
		[]any{"The kitchen", first[0].Listings + first[1].Listings, int64(0)},
		[]any{moved[0].Name, moved[0].Listings, moved[1].Listings},
		"stoves are kitchen too",
	)
	// Dragged onto the second, the first takes its place.
	grip := s.MustElement("ol li:first-child [aria-roledescription]")
	from, to := grip.MustShape().OnePointInside(), s.MustElement("ol li:nth-child(2)").MustShape().OnePointInside()
	s.Mouse.MustMoveTo(from.X, from.Y).MustDown("left")
	require.NoError(t, s.Mouse.MoveLinear(proto.NewPoint(from.X, to.Y+20), 12))
	s.sees("[aria-live]", "is over")
	s.Mouse.MustUp("left")
	s.sees("li:first-child", "Stoves, by return")
	until(t, p, "prices", idle)
	s.keys(input.ArrowUp, input.Enter)
	s.press("Drop this rule")
	s.MustWait(`() => document.querySelectorAll("ol li").length === 2`)
	until(t, p, "prices", idle)
	require.NoError(t, p.Ask(http.MethodDelete, fmt.Sprintf("/api/v1/rules/%d", first[1].ID), nil, nil))
	until(t, p, "prices", idle)
	assert.Zero(t, ask[counts](t, p, "/api/v1/counts").PlanLines)
}

// Fees that start tomorrow are written today, tried, and hold when the day comes.
func TestFeesThatStartTomorrow(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	type list struct{ Rows []struct{ Price int64 } }
	lamps := func() int64 {
		l := ask[list](t, p, "/api/v1/listings?words=lantern+small&limit=1")
		require.NotEmpty(t, l.Rows)
		return l.Rows[0].Price
	}
	before := lamps()
	s := open(t, p, "/price?tab=fees&category=light")
	s.sees("section[aria-label='Fees'] h2", "Light")
	s.keys('.')
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
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 24 * 60}, nil))
	require.Eventually(t, func() bool { return lamps() > before }, 30*time.Second, 200*time.Millisecond, "tomorrow's, when it is tomorrow")
}

// A category without fees of its own gets some, beginning from what it pays;
// the warehouse's steps are written beside them, and tried with a packed size.
func TestFeesOfACategoryAndOfTheWarehouse(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/price?tab=fees")
	s.sees("section[aria-label='Fees'] h2", "Everything else")
	s.press("Write a new version")
	s.write(s.MustElement("[aria-label='Fee of step 2']"), "3,x")
	s.press("Keep this version")
	s.sees("fieldset [role=alert]", "3,x.* is not a number")
	s.write(s.MustElement("[aria-label='Fee of step 2']"), "3.50")
	s.press("Keep this version")
	s.sees("section[aria-label='Fees'] td", `^3\.50$`)
	trial := s.sees("section[aria-label='Try a price']", "from 4 Mar 2026")
	trial.MustElement("input[type=checkbox]").MustClick()
	s.sees("section[aria-label='Try a price'] [role=alert]", "the packed weight .* is not known")
	for label, v := range map[string]string{"g, packed weight": "800", "length in mm": "300", "width in mm": "200", "height in mm": "100"} {
		s.write(trial.MustElement("[aria-label='"+label+"']"), v)
	}
	// 300 × 200 × 100 mm weigh 1 200 g by volume: the step's fee and half a kilo begun past 1 000 g
	s.sees("section[aria-label='Try a price'] tr", `warehouse fee\s*−3\.26`)
	s.sees("section[aria-label='Try a price'] tr", `warehouse fee\s*−3\.72`)

	s.MustElement("[aria-label='Fees of its own for a category']").MustSelect("Mugs and cups")
	rate := s.sees("form[aria-label='New version of the fees'] label", "^rate").MustElement("input")
	assert.Equal(t, "13%", rate.MustProperty("value").String(), "what Camp kitchen, above it, pays")
	s.write(rate, "21")
	s.press("Keep this version")
	s.sees("nav[aria-label='Categories with fees of their own'] button", `Mugs and cups\s*in Camp kitchen`)
	s.sees("section[aria-label='Fees']", "21%")
}

// Prices changed by hand, for a set at once: seen before they are kept, refused
// under their floor, and let go again.
func TestPricesFixedByHand(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/price?sort=title")
	s.sees("[role=row]", "GBP")
	s.keys(input.ArrowDown, input.Space, input.ArrowDown, input.Space)
	s.sees("form[aria-label='Change prices by hand']", "2 prices")
	by := s.MustElement("[aria-label='By how much']")
	s.write(by, "−60%")
	s.keys(input.Enter)
	s.sees("table[aria-label='Prices that would move']", "under its floor of")
	assert.True(t, s.sees("button", "Fix these prices").MustProperty("disabled").Bool(), "under their floor they can't be fixed")
	s.write(by, "a bit")
	s.keys(input.Enter)
	s.sees("[role=alert]", "a bit.* is not an amount")
	s.write(by, "2.50")
	s.keys(input.Enter)
	s.MustWait(`() => !document.querySelector("[role=alert]") && !document.body.textContent.includes("under its floor")`)
	s.press("Fix these prices")
	s.sees("span", "Kept. What is live gets a plan")
	until(t, p, "prices", idle)
	s.sees("[role=row]", "fixed by hand").MustClick()
	s.sees("aside", "The price was fixed by hand and stays")
	s.press("Release it")
	s.sees("aside label", "Fix the price at")
	until(t, p, "prices", idle)

	// A former price to cross out: wrong, too low, then kept with what speaks against it.
	former := s.labelled("Former price, crossed out")
	s.write(former, "12,5,0")
	s.keys(input.Enter)
	s.sees("aside [role=alert]", "12,5,0.* is not an amount in GBP")
	s.write(former, "0.01")
	s.keys(input.Enter)
	s.sees("aside [role=alert]", "must be above the price")
	s.write(former, "1999.00")
	s.keys(input.Enter)
	s.sees("aside label", `−9\d %`)
	s.sees("aside [role=alert]", "Mind: it was not offered at that price")
	s.MustReload().MustWaitLoad()
	s.sees("aside label", `−9\d %`)
	assert.Equal(t, "1999.00", s.labelled("Former price, crossed out").MustProperty("value").Str(), "as a person types it")

	// A rule of its own, from the panel and back.
	s.sees("aside a", "Give it a rule of its own").MustClick()
	s.sees("h2", "A rule for .* alone")
	s.write(s.MustElement("[aria-label='Figure of aim 1']"), "55")
	s.press("Keep this rule")
	s.sees("section", "The first rule that fits a product sets its price")
	until(t, p, "prices", idle)
	l := ask[struct {
		Rows []struct{ ID, Price, Tax, Profit int64 }
	}](t, p, "/api/v1/listings?sort=title&limit=2").Rows
	own := false
	for _, x := range l {
		own = own || x.Profit*100 >= 55*(x.Price-x.Tax)
	}
	assert.True(t, own, "its price is by its own rule")
}

// Costs that rise are asked about, not changed; terms are kept, with what is
// wrong said at its field; another site is listed on, and its plan stands beside.
func TestWhatIfAndTerms(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/price?tab=what-if")
	s.sees("p", "against now")
	costs := s.MustElement("[aria-label='Costs move by']")
	s.write(costs, "lots")
	s.says("lots%. is not a change such as 8%")
	s.write(costs, "30")
	s.quiet()
	s.MustElementR("button", "would lose on every sale").MustClick()
	s.sees("h2", "Those that would lose on every sale")
	left := s.MustElement("table[aria-label='Prices that would move'] tbody tr td:last-child")
	assert.True(t, strings.HasPrefix(left.MustText(), "−"), "what each loses stands in its row: %s", left.MustText())
	before := ask[struct{ Rows []struct{ Price int64 } }](t, p, "/api/v1/listings?sort=title&limit=1").Rows[0].Price
	s.press("As it is now")
	s.sees("p", "The month would leave what it leaves now")

	s.MustNavigate(p.URL + "/price?tab=terms").MustWaitLoad()
	s.sees("h2", "What holds for all on Quaymarket GB")
	out := s.labelled("^Sending one costs you")
	s.write(out, "3,4,5")
	s.MustElement("form[aria-label='What holds for all'] button[type=submit]").MustClick()
	s.sees("form[aria-label='What holds for all'] [aria-live]", "3,4,5.* is not an amount in GBP")
	s.write(out, "6.85")
	s.press("Put something by")
	s.write(s.MustElement("[aria-label='Share put by 1']"), "5")
	s.MustElement("form[aria-label='What holds for all'] button[type=submit]").MustClick()
	s.sees("form[aria-label='What holds for all']", "Kept; prices are worked out anew")
	until(t, p, "prices", idle)
	type line struct {
		Name   string
		Amount int64
	}
	x := ask[struct {
		Price int64
		Lines []line
	}](t, p, "/api/v1/listings/1/price-lines")
	assert.Contains(t, x.Lines, line{"outbound", -685})
	assert.Contains(t, x.Lines, line{"returns", -(x.Price*5 + 50) / 100})
	after := ask[struct{ Rows []struct{ Price int64 } }](t, p, "/api/v1/listings?sort=title&limit=1").Rows[0].Price
	assert.Greater(t, after, before)
	rates := s.MustElement("form[aria-label='A rate']")
	rates.MustElement("[aria-label='Rate']").MustInput("much")
	rates.MustElement("button[type=submit]").MustClick()
	s.sees("form[aria-label='A rate'] [role=alert]", "much.* is not a number")

	s.MustNavigate(p.URL + "/places?open=2").MustWaitLoad()
	s.press("List here")
	require.Eventually(t, func() bool {
		return ask[struct{ Total int }](t, p, "/api/v1/listings?site=2&limit=1").Total > 1000
	}, 30*time.Second, 100*time.Millisecond)
	until(t, p, "prices there", idle)
	s.MustNavigate(p.URL + "/price").MustWaitLoad()
	s.sees("[role=row]", "Quaymarket IE")
	s.sees("[role=row]", "EUR")
	s.MustNavigate(p.URL + "/price?tab=what-if").MustWaitLoad()
	s.sees("p", "The month would leave .* GBP.* against now")
	s.sees("table[aria-label='Site by site'] tr", `Quaymarket IE.*EUR`)
	s.MustElementR("table[aria-label='Site by site'] button", "Quaymarket IE").MustClick()
	s.sees("h2", "Those that would fall furthest")
	s.sees("th", "From, EUR")
}

// One listing gets a rule of its own: what it would ask is seen while the rule
// is written, is what it asks when it is kept, and goes when the rule goes.
func TestAnOwnRule(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/price?tab=rules&own=40")
	price := func() (v struct {
		Price int64
		Shown string
	}) {
		return ask[struct {
			Price int64
			Shown string
		}](t, p, "/api/v1/listings/40/price-lines")
	}
	before := price()
	s.sees("aside[aria-label='What it would do']", "as now")
	require.NoError(
		t,
		s.MustElement("[aria-label='Figure of aim 1']").Wait(rod.Eval(`() => document.activeElement === this`)),
		"its aim is in hand",
	)
	aim := s.MustElement("[aria-label='Figure of aim 1']")
	s.write(aim, "a third")
	s.sees("[role=alert]", "a third. is not")
	s.write(aim, "99")
	s.sees("aside[aria-label='What it would do']", "no price meets what the rule aims at")
	s.write(aim, "35")
	s.sees("aside[aria-label='What it would do']", "more on every sale")
	shown := s.MustElement("aside[aria-label='What it would do'] p span").MustText()
	assert.Equal(t, before, price(), "looking changes nothing")
	s.press("Keep this rule")
	s.sees("li", "All the rest") // back among the rules: it is kept
	until(t, p, "prices", idle)
	after := price()
	assert.Equal(t, shown, fmt.Sprintf("%d.%02d GBP", after.Price/100, after.Price%100))
	assert.Contains(t, after.Shown, "its own rule")
	s.MustNavigate(p.URL + "/price?tab=rules&own=40").MustWaitLoad()
	s.press("Let the rules for all hold again")
	s.sees("li", "All the rest")
	until(t, p, "prices", idle)
	assert.Equal(t, before, price())
}

package e2e_test

import (
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/cdp"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// screen is one page of a running program.
type screen struct {
	*rod.Page
	t *testing.T
	p *browser.Program
}

// chromium is the one that all tests share: each opens screens in a context of its
// own, which shares neither cookies nor storage with another.
var chromium = sync.OnceValues(func() (*rod.Browser, error) {
	b, end, err := browser.Open()
	closeChromium = end
	return b, err
})

var closeChromium = func() {}

func TestMain(m *testing.M) {
	code := m.Run()
	closeChromium()
	os.Exit(code)
}

// open opens a screen in Chromium. When the test fails, the last look of the
// screen is kept in the temporary folder.
func open(t *testing.T, p *browser.Program, path string) screen {
	shared, err := chromium()
	require.NoError(t, err)
	b, err := shared.Incognito()
	require.NoError(t, err)
	t.Cleanup(func() { _ = proto.TargetDisposeBrowserContext{BrowserContextID: b.BrowserContextID}.Call(b) })
	page, err := browser.Page(b, p.URL+path)
	require.NoError(t, err)
	t.Cleanup(func() {
		if t.Failed() {
			if png, err := page.Screenshot(false, nil); err == nil {
				file := filepath.Join(os.TempDir(), t.Name()+".png")
				_ = os.WriteFile(file, png, 0o600)
				t.Log("the screen as it was: " + file)
			}
		}
	})
	stop := func(why any) { require.FailNow(t, "the screen didn't do as it was asked", "%v", why) }
	return screen{page.Timeout(5 * time.Minute).WithPanic(stop), t, p}
}

// sees waits for an element with these words, on the next page too when one is on its way.
func (s screen) sees(selector, words string) *rod.Element {
	el, err := s.ElementR(selector, words)
	for left := (*cdp.Error)(nil); errors.As(err, &left) && left.Message == "Inspected target navigated or closed"; {
		el, err = s.ElementR(selector, words)
	}
	require.NoError(s.t, err, "waiting for %s with %q", selector, words)
	return el
}

// press clicks the button with these words, once it rests where it is: what has just been
// read may move it.
func (s screen) press(words string) {
	el := s.sees("button", words)
	require.NoError(s.t, el.WaitEnabled())
	require.NoError(s.t, el.WaitStable(100*time.Millisecond), "pressing %q", words)
	require.NoError(s.t, el.Click("left", 1), "pressing %q", words)
}

// keys types keys, one after another.
func (s screen) keys(keys ...input.Key) {
	for _, k := range keys {
		require.NoError(s.t, s.Keyboard.Press(k))
		require.NoError(s.t, s.Keyboard.Release(k))
	}
}

// The five steps of a morning, through the real screens; where a key does it, by key.
func TestTheMorning(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/")

	// Bring in.
	s.sees("li[aria-current=step]", "Bring in a supplier's products")
	s.keys('j', 's')
	s.sees("section[aria-label='Fernhollow Wholesale'] button", `Fetch now\s*\.`)
	s.keys('.')
	s.sees("section[aria-label='Fernhollow Wholesale'] button", `Look at the new feed\s*\.`)
	s.keys('.')
	s.sees("th", "Read as")
	s.keys('.')
	s.sees("dt", "rows read")
	s.sees("[role=row]", "the cost is missing")
	until(t, p, "prices", idle)

	// Match: the second waits for a choice; put one off, choose one.
	s.keys('j', 'm')
	s.sees("[role=option]", "dry sack").MustClick()
	s.sees("h2", "dry sack")
	s.sees("table[aria-label='Compared, fact by fact'] li", "words agree")
	waiting := ask[struct{ Total int64 }](t, p, "/api/v1/matches").Total
	s.keys('1')
	s.sees("[role=option][aria-selected=true]", "day pack")
	s.keys('l')
	until(t, p, "the decisions", func([]run) bool { return ask[struct{ Total int64 }](t, p, "/api/v1/matches").Total == waiting-2 })
	until(t, p, "prices", idle)

	// Price: the row's strip opens into lines that add up to what is left.
	s.keys('j', 'p')
	s.sees("[role=row]", "GBP").MustClick()
	lines := s.MustElement("[data-testid=lines]")
	assert.True(t, lines.MustEval(`function() {
		const pence = e => Number(e.textContent.replace("−", "-").replace(/[^0-9.-]/g, "").replace(".", ""));
		const all = [...this.querySelectorAll("tr td:last-child")].map(pence), left = all.pop();
		return left > 0 && all.reduce((a, b) => a + b, 0) === left;
	}`).Bool(), "the lines add up to the penny")
	s.keys(input.Escape)

	// Send.
	ready := ask[counts](t, p, "/api/v1/counts").Ready
	s.keys('j', 'n')
	s.press(fmt.Sprintf("Send .*%d.* ready listings", ready%1000))
	s.sees("h1", "Listings to Quaymarket GB")
	until(t, p, "the answers", idle)
	s.sees("[role=row]", "under review")
	assert.Equal(t, int64(3), ask[counts](t, p, "/api/v1/counts").Refused)

	// Watch: the next feed, its plan, the new price on the marketplace's page.
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 16}, nil))
	s.keys('j', 's')
	s.in("Fernhollow Wholesale", "Fetch now")
	s.sees("[role=cell]", "^212$")
	until(t, p, "the plan", idle)
	s.keys('j', 'w')
	s.sees("div", "Stock to nothing")
	type line struct {
		ID      int64  `json:"id"`
		Kind    string `json:"kind"`
		Verdict string `json:"verdict"`
		Page    string `json:"page"`
		ToPrice *int64 `json:"to_price"`
	}
	plan := ask[struct{ ID int64 }](t, p, "/api/v1/plans")
	all := ask[struct{ Rows []line }](t, p, fmt.Sprintf("/api/v1/plans/%d/lines?limit=500", plan.ID))
	first := map[string]line{}
	for _, l := range all.Rows {
		if _, seen := first[l.Kind]; !seen && l.Verdict == "go" {
			first[l.Kind] = l
		}
	}
	require.Contains(t, first, "zero")
	require.Contains(t, first, "up")
	s.press("Send .* changes")
	s.sees("h1", "Changes to Quaymarket GB")
	until(t, p, "the answers", idle)
	ours := func(l line) string {
		page, err := browser.Page(s.Browser(), l.Page)
		require.NoError(t, err)
		defer page.MustClose()
		return page.MustElement("#ours").MustText()
	}
	assert.Contains(t, ours(first["zero"]), "no stock")
	assert.Contains(t, ours(first["up"]), fmt.Sprintf("%d.%02d GBP", *first["up"].ToPrice/100, *first["up"].ToPrice%100))

	// Sending again sends nothing: only what is held is left.
	s.keys('j', 'w')
	s.sees("h1", "Watch")
	left := s.sees("button", "Choose what to send")
	assert.True(t, left.MustProperty("disabled").Bool())
}

// Every screen, in both themes, has nothing to complain of, best practices too.
func TestScreensAreAccessible(t *testing.T) {
	t.Parallel()
	axe := axeText(t)
	p := stocked(t)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{}, nil))
	until(t, p, "the answers", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 16}, nil))
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil))
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/2/fetch", nil, nil)) // waits to be looked at
	until(t, p, "the plan", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/1/candidates/weigh", map[string]any{"what": "all"}, nil))
	until(t, p, "candidates", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/4/listings", map[string]any{"products": []int{1, 2, 3}, "category": "cooking"}, nil))
	until(t, p, "listings of our own", idle)
	own := fmt.Sprintf("/prepare/%d", preparations(t, p, "all")[0].ID)
	s := open(t, p, "/")
	s.Page = s.CancelTimeout().Timeout(9 * time.Minute)
	s.MustEval("() => {" + axe + "}")
	for _, path := range append(looked, own, own+"?as=buyer", own+"?as=pictures", own+"?as=variants") {
		s.lookAt(path)
	}
	s.MustNavigate(p.URL + "/log-in").MustWaitLoad()
	s.sees("h1", `\S`)
	s.clean(axe, "/log-in", "its own")
}

// lookAt goes to a screen as a link does, and looks at it in both themes.
func (s screen) lookAt(path string) {
	s.MustEval(`path => { history.pushState(null, "", path); dispatchEvent(new PopStateEvent("popstate")); }`, path)
	s.sees("h1", `\S`)
	s.MustWait("() => !document.body.textContent.includes('Reading…')")
	s.cleanInBoth(path)
	if path == "/price?tab=rules" {
		s.keys('?')
		s.sees("dialog h2", "On this screen")
		s.cleanInBoth(path + " with its keys")
		s.keys(input.Escape)
	}
}

// looked are the screens, with their tabs and panels, that axe looks at.
var looked = []string{
	"/", "/keeping", "/nowhere", "/sources", "/sources?open=1", "/sources?tab=find&q=mug", "/sources?tab=find&q=mug&open=40",
	"/sources/feeds/1", "/sources/feeds/1?open=1", "/sources/feeds/1?tab=changes", "/sources/feeds/2", "/sources/feeds/3", "/match",
	"/match?state=later", "/match?state=certain", "/match?state=decided", "/match?state=own", "/weigh", "/weigh?open=1",
	"/weigh?open=1&seller=The%20Peg%20Box", "/weigh?tab=dropped", "/weigh?tab=look-ups", "/places", "/places?open=1",
	"/places?add=made", "/places?add=gateway", "/price", "/price?state=unpriced", "/price?tab=rules", "/price?tab=rules&rule=new",
	"/price?tab=rules&own=40", "/price?tab=fees", "/price?tab=fees&site=4", "/price?tab=terms", "/price?tab=bench",
	"/price?tab=bench&site=4&product=1", "/price?tab=what-if", "/price?pick=40,41", "/price?open=40", "/prepare",
	"/prepare?tab=defaults&site=4", "/prepare?tab=defaults&site=4&terms=new", "/prepare?tab=changed", "/prepare/sheet?all=yes",
	"/prepare/new", "/products/1", "/prepare?tab=ready", "/prepare?tab=add", "/prepare?tab=asked", "/prepare?tab=asked&site=7",
	"/send", "/send?tab=words", "/send?tab=words&side=there", "/orders", "/orders?part=purchases", "/orders?part=earned",
	"/orders?part=earned&by=losses", "/orders?part=earned&by=idle", "/orders?part=books", "/people", "/people?tab=team",
	"/people?tab=team&open=1", "/people?tab=deeds", "/places?open=8", "/send?tab=sheets", "/send?tab=hand", "/send?tab=refused",
	"/send?tab=out", "/send?tab=untied", "/send/1", "/watch", "/watch?open=1", "/watch?site=-1", "/watch?tab=watches",
	"/watch?tab=watches&open=1", "/watch?tab=watches&open=0", "/watch?tab=differs", "/watch?tab=suppliers", "/watch?tab=rivals",
	"/watch?tab=week", "/watch?tab=follow", "/watch?tab=follow&rule=1", "/watch/listings/40", "/watch/listings/40?tab=table",
	"/products", "/products?open=40",
}

// axeText is axe, to be run in a page.
func axeText(t *testing.T) string {
	text, err := os.ReadFile(filepath.Join("..", "ui", "node_modules", "axe-core", "axe.min.js"))
	require.NoError(t, err)
	return string(text)
}

// clean says what axe has to complain of on the screen that is open.
func (s screen) clean(axe, path, theme string) {
	s.MustEval("() => {" + axe + "}")
	s.settled(path, theme)
}

// settled waits for the screen to come to rest, and says which of axe's rules it breaks.
func (s screen) settled(path, theme string) {
	require.NoError(s.t, s.WaitDOMStable(150*time.Millisecond, 0))
	s.obeys(path, theme)
}

// cleanInBoth looks at the screen as it is, and then at its colours in the other theme,
// in which it is left: nothing but colours may depend on the theme.
func (s screen) cleanInBoth(path string) {
	s.settled(path, s.MustEval("() => document.documentElement.className").Str())
	other := s.MustEval(`() => {
		const toggle = [...document.querySelectorAll("button")].find(b => / theme$/.test(b.ariaLabel ?? ""));
		toggle.click();
		return document.documentElement.className;
	}`).Str()
	require.Contains(s.t, []string{"light", "dark"}, other)
	s.obeys(path, other, "color-contrast")
}

// obeys says which of axe's rules the screen breaks: of all, or of those that are named.
func (s screen) obeys(path, theme string, rules ...string) {
	found := s.MustEval(`rules => axe.run(document, { resultTypes: ["violations"], ...(rules.length && { runOnly: rules }) }).then(r => r.violations
		.map(v => v.id + ": " + v.nodes.slice(0, 2).map(n => n.html.slice(0, 200)).join(" | ")))`, append([]string{}, rules...))
	assert.Empty(s.t, found.Arr(), "%s in the %s theme", path, theme)
}

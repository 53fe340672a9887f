package e2e_test

import (
	"fmt"
	"net/http"
	"regexp"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// there is what the stand-in has of ours, by SKU: price and quantity.
func there(t *testing.T, p *browser.Program) map[string][2]int64 {
	var out struct {
		Listings []struct {
			SKU      string `json:"sku"`
			Price    int64  `json:"price"`
			Quantity int64  `json:"quantity"`
		} `json:"listings"`
	}
	market := *p
	market.URL = p.Market
	require.NoError(t, market.Ask(http.MethodGet, "/gateway/v1/sites/GB/listings", nil, &out))
	by := map[string][2]int64{}
	for _, l := range out.Listings {
		by[l.SKU] = [2]int64{l.Price, l.Quantity}
	}
	return by
}

type planned struct {
	ID      int64  `json:"id"`
	SKU     string `json:"sku"`
	Kind    string `json:"kind"`
	Verdict string `json:"verdict"`
	From    *int64 `json:"from_price"`
	To      *int64 `json:"to_price"`
}

func plan(t *testing.T, p *browser.Program) []planned {
	id := ask[struct{ ID int64 }](t, p, "/api/v1/plans?site=1").ID
	return ask[struct{ Rows []planned }](t, p, fmt.Sprintf("/api/v1/plans/%d/lines?limit=500", id)).Rows
}

// A morning's plan from the feed to what the marketplace confirmed: what can't be
// had first, one that was held let go, one taken back.
func TestAPlanFromFeedToConfirmed(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/watch?site=1")
	s.sees("[aria-label='What it comes to'] button", `\d+\s*Stock to nothing`)

	// A consequence alone, by its number; and all of it again.
	s.sees("[aria-label='What it comes to'] button", `Price down`).MustClick()
	s.MustWait(`() => [...document.querySelectorAll("[role=grid] [role=row]")].every(r => !r.textContent.includes("offered"))`)
	downs := 0
	for _, l := range plan(t, p) {
		if l.Kind == "down" && l.Verdict == "go" {
			downs++
		}
	}
	s.sees("button", fmt.Sprintf(`Send %d changes`, downs))
	s.sees("[aria-label='What it comes to'] button[aria-pressed=true]", `Price down`).MustClick()

	// One that is held is opened, its reasons read, and let go.
	var held planned
	for _, l := range plan(t, p) {
		if l.Verdict == "held" && l.To != nil {
			held = l
			break
		}
	}
	require.NotZero(t, held.ID)
	s.sees("[aria-label='What it comes to'] button", `Price up`).MustClick()
	s.MustWait(`() => [...document.querySelectorAll("[role=grid] [role=row]")].every(r => !r.textContent.includes("offered"))`)
	s.sees("[role=row]", regexp.QuoteMeta(held.SKU)+`[\s\S]*held`).MustClick()
	s.sees("section[aria-label='Why it should change']", "cost moved 48 %, more than 30%")
	s.press("Let it go")
	require.Eventually(t, func() bool { return there(t, p)[held.SKU][0] == *held.To }, 30*time.Second, 100*time.Millisecond)

	// The rest goes by one key, and stands as the marketplace says.
	s.keys(input.Escape)
	s.sees("[aria-label='What it comes to'] button[aria-pressed=true]", `Price up`).MustClick()
	lines := plan(t, p)
	may := 0
	for _, l := range lines {
		if l.Verdict == "go" {
			may++
		}
	}
	s.sees("button", fmt.Sprintf(`Send %d changes`, may))
	s.keys('.')
	s.sees("h1", "Changes to Quaymarket GB")
	until(t, p, "the answers", idle)
	now := there(t, p)
	var down planned
	for _, l := range lines {
		switch {
		case l.Verdict != "go":
		case l.Kind == "zero":
			assert.Zero(t, now[l.SKU][1], l.SKU)
		case l.To != nil:
			assert.Equal(t, *l.To, now[l.SKU][0], l.SKU)
			if l.Kind == "down" {
				down = l
			}
		}
	}
	require.NotZero(t, down.ID)

	// One of the prices is taken back, after a look at what that would do.
	var outs struct {
		Rows []struct {
			ID    int64 `json:"id"`
			Lines int64 `json:"lines"`
		}
	}
	require.NoError(t, p.Ask(http.MethodGet, "/api/v1/submissions?limit=5", nil, &outs))
	id := outs.Rows[0].ID
	s.MustNavigate(fmt.Sprintf("%s/send/%d", p.URL, id))
	s.press("Take it back")
	s.sees("[aria-label='Take back'] h2", "Take it back")
	s.sees("[aria-label='Take back'] button", "Take back [0-9]+ lines?")
	s.MustEval(`() => document.querySelectorAll("[aria-label='Take back'] input[type=checkbox]:checked").forEach(x => x.click())`)
	s.sees("[aria-label='Take back'] button", "Nothing is chosen")
	looks := ask[struct {
		Rows []struct {
			ID      int64  `json:"id"`
			SKU     string `json:"sku"`
			Title   string `json:"title"`
			Verdict string `json:"verdict"`
			To      *int64 `json:"to_price"`
		} `json:"rows"`
	}](t, p, fmt.Sprintf("/api/v1/submissions/%d/reversal", id))
	at := -1
	for i, r := range looks.Rows {
		if r.Verdict == "go" && r.To != nil {
			at = i
		}
	}
	require.GreaterOrEqual(t, at, 0)
	row := looks.Rows[at]
	s.MustEval(`at => document.querySelectorAll("[aria-label='Take back'] input[type=checkbox]")[at].click()`, at)
	s.sees("[aria-label='Take back'] button", "Take back 1 line")
	s.keys('.')
	s.sees("h1", "Taken back on Quaymarket GB")
	require.Eventually(t, func() bool { return there(t, p)[row.SKU][0] == *row.To }, 30*time.Second, 100*time.Millisecond)
	until(t, p, "what follows", idle)
	for _, l := range plan(t, p) {
		if l.SKU == row.SKU && l.To != nil {
			assert.Equal(t, "held", l.Verdict, "the same move waits now")
		}
	}
}

// A watch is made by hand, set off by the next feed, and told by mail.
func TestAWatchFiresAndMails(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{}, nil))
	until(t, p, "the answers", idle)
	s := open(t, p, "/watch?tab=watches")
	s.sees("section[aria-label='What is watched'] button", "On sale at a loss")
	s.keys('n')
	s.sees("aside h2", "Watch a number")
	s.labelled("Which number").MustSelect("landed cost")
	s.labelled("tells when it").MustSelect("moves by more than")
	s.labelled("the value").MustInput("1")
	s.sees("label", "By mail too").MustClick()
	s.press("Watch it")
	s.sees("section[aria-label='What is watched']", "cost of .* moves by more than 1% at once")
	until(t, p, "the first look", idle)

	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 16}, nil))
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil))
	until(t, p, "the feed", idle)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 2}, nil))
	s.sees("[aria-label='What set watches off'] [role=row]", `cost of [\s\S]*→`)
	s.press("Mail")
	s.sees("section[aria-label=\"The demo's mailbox\"] summary", "Easy Margin: ").MustClick()
	s.sees("section[aria-label=\"The demo's mailbox\"] pre", "was ")
}

// A rule is replayed over sixty days; the stop is pulled by a key, holds what a
// person lets go, says so on every screen, and is lifted.
func TestAReplayAndTheStop(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "1")
	s := open(t, p, "/price?tab=rules&site=1&rule=1")
	s.press("Replay the last 60 days")
	s.sees("section[aria-label=Replay] tr", `moves of prices\s*\d+\s*\d+`)
	s.sees("section[aria-label=Replay] tr", `days as the lowest\s*\d+\.\d\s*\d+\.\d`)
	require.NoError(t, s.WaitElementsMoreThan("section[aria-label=Replay] [role=img] svg path", 3))

	s.MustNavigate(p.URL + "/watch?site=1")
	s.sees("button", "Stop everything")
	s.keys('!')
	s.sees("[role=alert]", "Everything is stopped")
	assert.Contains(t, s.MustEval("() => document.title").Str(), "Stopped")
	before := there(t, p)
	s.keys('.')
	s.sees("[role=alert]", "nothing is sent until the stop is lifted")
	s.MustNavigate(p.URL + "/products")
	s.sees("[role=alert]", "Everything is stopped")
	assert.Equal(t, before, there(t, p))
	s.press("Lift the stop")
	s.MustWait(`() => !document.title.includes("Stopped")`)
	s.MustNavigate(p.URL + "/watch?site=1")
	s.sees("button", `Send \d+ changes`)
	s.keys('.')
	s.sees("h1", "Changes to Quaymarket GB")
}

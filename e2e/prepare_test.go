package e2e_test

import (
	"fmt"
	"image/color"
	"net/http"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/disintegration/imaging"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

type preparation struct {
	ID    int64    `json:"id"`
	SKU   string   `json:"sku"`
	Title string   `json:"title"`
	State string   `json:"state"`
	Lacks []string `json:"lacks"`
	Site  string   `json:"site"`
}

func preparations(t *testing.T, p *browser.Program, part string) []preparation {
	all := ask[struct{ Rows []preparation }](t, p, "/api/v1/preparations?limit=500&part="+part).Rows
	return slices.DeleteFunc(all, func(x preparation) bool { return x.Site == "Own shop" }) // they are up already
}

// A listing of the seller's own from incomplete to ready by keys alone, then the
// same of many at once, and what the place is given in the end.
func TestAListingFromIncompleteToReady(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	before := preparations(t, p, "")
	require.Greater(t, len(before), 30)
	s := open(t, p, "/")
	s.sees("nav[aria-label='The work'] a", "Prepare")
	s.keys('j', 'r')
	s.sees("h1", "Prepare")
	s.sees("[role=grid] [role=row]", before[0].Title)
	s.keys(input.ArrowDown, input.Enter)
	s.sees("h1", before[0].Title)
	s.sees("button", "Next incomplete")

	// The title is made of parts, and said to be too long as it is typed.
	s.press("Write it by hand")
	title := s.MustElement("input[aria-label=Title]")
	s.write(title, "A quilt for a summer that is spent in the hills, by the sea, or anywhere else that one may sleep")
	s.sees("section[aria-label=Title]", "title is too long")
	s.sees("section[aria-label=Title]", `9\d/80`)
	s.keys(input.Escape)
	s.sees("section[aria-label=Title]", before[0].Title)

	// The first thing that lacks is one key away; Enter keeps it.
	s.keys('e')
	s.MustWait(`() => document.activeElement?.hasAttribute("data-lacks")`)
	require.NoError(t, s.Keyboard.Type('n', 'e', 'w'))
	s.sees("[role=listitem]", "sent as New")
	s.keys(input.Enter)
	s.sees("h1 ~ *", "ready")
	until(t, p, "it lacks nothing", func([]run) bool { return len(preparations(t, p, "")) == len(before)-1 })
	s.MustEval("() => document.activeElement.blur()")
	s.keys('.')
	s.sees("h1", before[1].Title)

	// The same of those that are chosen, after a look.
	s.keys(input.Escape)
	s.sees("[role=grid] [role=row]", before[1].Title)
	s.MustWait(`gone => [...document.querySelectorAll("[role=grid] [role=row]")].every(r => !r.textContent.includes(gone))`, before[0].Title)
	s.keys(input.ArrowDown, ' ', input.ArrowDown, ' ', 's')
	s.sees("h2", "The same of 2 listings")
	s.labelled("What").MustSelect("Condition")
	s.write(s.labelled("Is"), "neither")
	s.sees("aside", "0 of 2 come nearer")
	s.write(s.labelled("Is"), "New")
	s.sees("aside", "2 of 2 come nearer")
	s.press("Keep it for 2")
	until(t, p, "two more lack nothing", func([]run) bool { return len(preparations(t, p, "")) == len(before)-3 })

	// What goes up is what was shown.
	ids := []int64{before[0].ID}
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{"listings": ids}, nil))
	until(t, p, "it is on sale", func([]run) bool {
		return ask[preparation](t, p, fmt.Sprintf("/api/v1/preparations/%d", ids[0])).State == "live"
	})
	market := *p
	market.URL = p.Market
	var out struct {
		Listings []struct {
			SKU     string
			Content struct {
				Title      string
				Attributes map[string]string
			}
		}
	}
	require.NoError(t, market.Ask(http.MethodGet, "/lantern-row/gateway/v1/sites/GB/listings", nil, &out))
	require.Len(t, out.Listings, 1)
	assert.Equal(t, before[0].Title, out.Listings[0].Content.Title)
	assert.Equal(t, "New", out.Listings[0].Content.Attributes["condition"])
}

// Products are listed where each seller writes listings, and what a category
// asks for can be written down; what can't be read is refused in words.
func TestMoreIsListedAndDemandsWrittenDown(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/prepare?tab=add&site=4")
	s.sees("[role=grid] [role=row]", "choose one")
	s.keys(input.ArrowDown, ' ', input.ArrowDown, ' ')
	s.MustElement("select[aria-label=Category]").MustSelect("Camping")
	s.press("List 2 on Lantern Row GB")
	s.sees("[role=tab][aria-selected=true]", "Lacking")
	until(t, p, "they are there", func([]run) bool { return len(preparations(t, p, "all")) == 42 })

	s.MustNavigate(p.URL + "/prepare?tab=asked&site=4")
	s.sees("button", "Outdoor › Camping").MustClick()
	box := s.MustElement("textarea[aria-label^='What is asked']")
	s.write(box, `{"titel": {"limit": 80}}`)
	s.press("Keep what I wrote")
	s.sees("[role=alert]", "titel: is not known here")
	s.write(box, `{"title": {"limit": 80, "parts": ["brand", "kind"]}}`)
	s.press("Keep what I wrote")
	s.sees("[role=status]", "looked at again")
	s.sees("main", "written down")
}

// A product from nothing: typed in, with a picture, listed in one step; what it
// lacks comes next. Then another like it.
func TestAProductFromNothing(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	before := len(preparations(t, p, "all"))
	s := open(t, p, "/prepare")
	s.sees("h1", "Prepare")
	s.keys('n')
	s.sees("h1", "A product from nothing")
	s.write(s.labelled("Number"), "9520001424022")
	s.write(s.labelled("Title"), "Tarnwick Fell brass kettle 1.4 l")
	s.write(s.labelled("Brand"), "Tarnwick")
	s.write(s.labelled("What one costs you"), "11.20")
	s.write(s.labelled("How many there are"), "4")
	file := filepath.Join(t.TempDir(), "kettle.jpg")
	require.NoError(t, imaging.Save(imaging.New(800, 800, color.Black), file))
	s.MustElement("input[type=file]").MustSetFiles(file)
	s.MustElement("button[aria-label^='Leave picture 1']")
	s.MustWaitStable() // the picture's place, and what is known of the number, have been drawn
	s.sees("[role=group][aria-label='List on'] button", "Quaymarket GB").MustClick()
	s.sees("[role=group][aria-label='List on'] button[aria-pressed=false]", "Quaymarket GB")
	s.sees("[role=group][aria-label='List on'] button", "Lantern Row GB").MustClick()
	s.MustWait(`() => [...document.querySelectorAll("select[aria-label=Category] option")].some((o) => o.textContent.includes("Cooking outdoors"))`)
	s.MustElement("select[aria-label=Category]").MustSelect("Cooking outdoors")
	require.NoError(t, s.WaitDOMStable(150*time.Millisecond, 0))
	assert.NotContains(t, s.MustElement("form").MustText(), "is no product number", "choosing where keeps nothing yet")
	s.press("list it on 1 site")
	s.sees("form", "9520001424022 is no product number")
	s.write(s.labelled("Number"), "")
	s.press("list it on 1 site")
	s.sees("h1", "Tarnwick Fell brass kettle")
	s.sees("[role=listitem]", "Condition")
	until(t, p, "it waits on Prepare", func([]run) bool { return len(preparations(t, p, "all")) == before+1 })

	s.press("Make one like it")
	s.sees("h1", "Another product like it")
	s.MustWait(`() => document.querySelector("input[name=title]").value.startsWith("Tarnwick Fell brass")`)
	s.write(s.labelled("Title"), "Tarnwick Fell brass kettle 2 l")
	s.write(s.labelled("What one costs you"), "13.00")
	s.write(s.labelled("How many there are"), "2")
	s.press("list it on 1 site")
	s.sees("h1", "kettle 2 l")
	until(t, p, "and the other", func([]run) bool { return len(preparations(t, p, "all")) == before+2 })
}

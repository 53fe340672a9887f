package e2e_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Selling terms are made, given to all categories and changed: whom that touches
// is said before it is kept. A description's template shows what it makes.
func TestSellingTermsAndATemplate(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	before := len(preparations(t, p, ""))
	require.Greater(t, before, 30)
	s := open(t, p, "/prepare?tab=defaults&site=4")
	s.press("New terms")
	s.write(s.MustElement("input[aria-label='Name of the terms']"), "Usual")
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.sees("[role=status]", "No listing would say anything else")
	s.keys('.') // still in the field: a full stop is a full stop
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.press("Keep them")
	s.sees("button", "Forget them") // they are kept, and shown
	s.sees("nav button", "Every category").MustClick()
	s.MustElement("section[aria-label='Selling terms'] select").MustSelect("Usual")
	s.sees("[role=status]", `40 listings would say something else; \d+ would lack nothing any more`)
	s.press("Keep it")
	until(t, p, "most lack nothing any more", func([]run) bool { return len(preparations(t, p, "")) < before-20 })

	s.sees("nav button", "Usual").MustClick()
	s.write(s.MustElement("input[aria-label='Condition']"), "Broken")
	s.sees("[role=status]", `would lack something then`)
	s.press("Add a way")
	s.write(s.MustElement("input[aria-label='Delivery 1']"), "Post")
	s.write(s.MustElement("input[aria-label='Charge of delivery 1']"), "about four")
	s.sees("[role=alert]", `"about four" is not an amount in GBP`)
	s.write(s.MustElement("input[aria-label='Charge of delivery 1']"), "3.95")
	s.write(s.MustElement("input[aria-label='Condition']"), "New")
	s.sees("[role=status]", "40 listings would say something else")
	s.press("Keep them")
	s.sees("section", "Shared by all listings")

	s.sees("nav button", "Camping").MustClick()
	s.press("Add a part")
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {kind} by {brand}.")
	s.sees("section[aria-label='As a buyer reads it']", `The .+ by \w+\.`)
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {Kind}.")
	s.sees("[role=alert]", "a field stands in braces")
	s.write(s.MustElement("textarea[aria-label='Words of part 1']"), "The {kind} by {brand}.")
	s.press("Keep it")
	s.sees("main", "It holds wherever")
	type said struct{ Buyers string }
	until(t, p, "it is described so", func([]run) bool {
		for _, x := range preparations(t, p, "all") {
			if got := ask[said](t, p, fmt.Sprintf("/api/v1/preparations/%d", x.ID)); len(got.Buyers) > 4 && got.Buyers[:7] == "<p>The " {
				return true
			}
		}
		return false
	})
	assert.NotEmpty(t, preparations(t, p, "ready"))
}

// A hundred titles are made of other parts at once, after a look at each; one has
// its parts in an order of its own, by keys.
func TestAHundredTitles(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	listMore(t, p, 60)
	until(t, p, "a hundred wait", func([]run) bool { return len(preparations(t, p, "")) == 100 })
	s := open(t, p, "/prepare?site=4")
	s.sees("button", `condition is missing\s*100`).MustClick()
	s.sees("h2", "The same of 100 listings")
	s.labelled("What").MustSelect("Title is made of")
	s.write(s.labelled("Is"), "kind, brand")
	s.sees("aside li", `quilt summer Brackenby`)
	s.press("Keep it for 100")
	until(t, p, "each title ends with its brand", func([]run) bool {
		n := 0
		for _, x := range preparations(t, p, "") {
			if words := strings.Fields(x.Title); slices.Contains([]string{"Brackenby", "Fellgrove", "Merrowdale", "Ottermere", "Skarholt", "Tarnwick"}, words[len(words)-1]) {
				n++
			}
		}
		return n >= 95 // some have no brand
	})

	one := preparations(t, p, "")[0]
	s.MustNavigate(fmt.Sprintf("%s/prepare/%d", p.URL, one.ID))
	s.sees("section[aria-label=Title] button", "What it is").MustFocus()
	s.keys(input.Space)
	s.MustWaitStable()
	s.keys(input.ArrowRight)
	s.MustWaitStable()
	s.keys(input.Space)
	until(t, p, "the brand leads again", func([]run) bool {
		return strings.HasPrefix(ask[preparation](t, p, fmt.Sprintf("/api/v1/preparations/%d", one.ID)).Title, "Brackenby")
	})
	s.press("In the place's order")
	s.sees("section[aria-label=Title]", "Brackenby")
}

// Variants stand in a grid: what sets each apart is chosen of the place's values,
// one is left out, and their prices change by a rate, seen before it is kept.
func TestVariantsPricedByRate(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	type row struct {
		ID      int64
		Product int64
		Variant string
		Sold    bool
		Fixed   bool
		Price   *int64
		Values  []string
	}
	type grid struct {
		Group string
		Rows  []row
	}
	family := ask[struct {
		Rows []struct {
			ID        int64 `json:"id"`
			ProductID int64 `json:"product_id"`
		}
	}](t, p, "/api/v1/listings?limit=50&words=Merrowdale%20Trail%20Hex%20tarp%203%20slate")
	require.NotEmpty(t, family.Rows)
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/4/listings", map[string]any{"products": []int64{family.Rows[0].ProductID}, "category": "camping"}, nil))
	var own int64
	until(t, p, "it is there", func([]run) bool {
		for _, x := range preparations(t, p, "all") {
			if strings.Contains(x.Title, "Trail Hex tarp 3 × 3 m, slate") || strings.Contains(x.Title, "Trail Hex tarp") && strings.Contains(x.Title, "slate") {
				own = x.ID
			}
		}
		return own != 0
	})
	read := func() grid { return ask[grid](t, p, fmt.Sprintf("/api/v1/preparations/%d/variants", own)) }
	require.NotEmpty(t, read().Group)
	s := open(t, p, fmt.Sprintf("/prepare/%d", own))
	s.sees("button", "Variants")
	s.keys('v')
	s.sees("section[aria-label=Variants]", "They go up as one thing with 2 variants")
	s.press("List it too")
	until(t, p, "both are priced", func([]run) bool {
		g := read()
		return len(g.Rows) == 2 && g.Rows[0].Price != nil && g.Rows[1].Price != nil
	})
	before := read()
	s.write(s.MustElement("input[aria-label^='Colour of moss']"), "Moss green")
	s.keys(input.Enter)
	until(t, p, "its colour is the place's", func([]run) bool {
		g := read()
		return slices.ContainsFunc(g.Rows, func(r row) bool { return r.Values[0] == "Moss green" })
	})
	s.press("Choose all")
	s.write(s.MustElement("input[aria-label='By how much']"), "-90%")
	s.sees("form", "under its floor|loses|floor")
	s.write(s.MustElement("input[aria-label='By how much']"), "+10%")
	s.sees("form", "→")
	s.press("Fix 2 prices")
	until(t, p, "both are dearer by a tenth", func([]run) bool {
		for i, r := range read().Rows {
			if r.Price == nil || !r.Fixed || *r.Price <= *before.Rows[i].Price*109/100 {
				return false
			}
		}
		return true
	})
	s.sees("section[aria-label=Variants] td", "by hand") // it is drawn anew
	s.MustElement("input[aria-label^='Sell moss']").MustWaitStable().MustClick()
	until(t, p, "one isn't sold here", func([]run) bool {
		return slices.ContainsFunc(read().Rows, func(r row) bool { return !r.Sold })
	})
}

// A description is written without knowing HTML, and goes out in the place's tags.
func TestADescriptionIsWrittenWithoutHTML(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	one := preparations(t, p, "")[0]
	s := open(t, p, fmt.Sprintf("/prepare/%d", one.ID))
	box := s.MustElement("[role=textbox][aria-label=Description]")
	box.MustWaitVisible().MustClick()
	require.NoError(t, s.KeyActions().Press(input.ControlLeft).Type('a').Release(input.ControlLeft).Do())
	require.NoError(t, s.InsertText("Warm & light <for two>"))
	require.NoError(t, s.KeyActions().Press(input.ControlLeft).Type('a').Release(input.ControlLeft).Do())
	s.press("Bold")
	s.press("List")
	require.NoError(t, s.KeyActions().Press(input.ControlLeft).Type(input.Enter).Release(input.ControlLeft).Do())
	type said struct{ Buyers string }
	until(t, p, "it is kept", func([]run) bool {
		return ask[said](t, p, fmt.Sprintf("/api/v1/preparations/%d", one.ID)).Buyers == "<ul><li><b>Warm &amp; light &lt;for two&gt;</b></li></ul>"
	})
	s.sees("[role=listitem]", "Take mine back")
}

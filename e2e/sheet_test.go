package e2e_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"easymargin/e2e/browser"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// listMore lists so many more products on Lantern Row, in one category.
func listMore(t *testing.T, p *browser.Program, n int) {
	var more struct {
		Rows []struct {
			ProductID int64 `json:"product_id"`
		}
	}
	require.NoError(t, p.Ask(http.MethodGet, fmt.Sprintf("/api/v1/sites/4/listable-products?limit=%d", n), nil, &more))
	var ids []int64
	for _, r := range more.Rows {
		ids = append(ids, r.ProductID)
	}
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/4/listings", map[string]any{"products": ids, "category": "cooking"}, nil))
}

// Fifty listings get six columns out of a spreadsheet, three cells of them wrong:
// those are seen at once, undone, mended, and all is kept.
func TestASheetIsPastedInto(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	listMore(t, p, 60)
	type sheet struct {
		Columns []struct{ Field string }
		Rows    []struct {
			ID     int64
			Title  string
			Stops  int
			Values []string
		}
	}
	read := func() sheet { return ask[sheet](t, p, "/api/v1/preparations/sheet?site=4&category=cooking&all=true") }
	until(t, p, "they are there", func([]run) bool { return len(read().Rows) > 60 })
	before := read()
	s := open(t, p, "/prepare?site=4")
	s.sees("[role=grid] [role=row]", "missing")
	s.keys('g')
	s.sees("h1", "as a sheet")
	s.MustElement("select[aria-label=Which]").MustSelect("all of them")
	s.MustElement("select[aria-label=Category]").MustSelect("Cooking outdoors")
	s.MustWait(`title => [...document.querySelectorAll(".dsg-row:not(.dsg-row-header) .dsg-cell-gutter")].some(e => e.offsetParent && e.textContent.includes(title))`, before.Rows[0].Title)

	// Six columns from the condition on: the second applies to none of them.
	require.Equal(t, "attributes.condition", before.Columns[1].Field)
	lines := make([]string, 50)
	for i := range lines {
		cells := []string{"new", "", "moss green", "steel", "0.75 l", "Tarnwick"}
		switch i {
		case 3:
			cells[0] = "broken"
		case 20:
			cells[4] = "a lot"
		case 49:
			cells[2] = "plaid"
		}
		lines[i] = strings.Join(cells, "\t")
	}
	s.MustElement(".dsg-row:not(.dsg-row-header) .dsg-cell:nth-child(3)").MustClick()
	paste := `text => { const d = new DataTransfer(); d.setData("text/plain", text);
		document.dispatchEvent(new ClipboardEvent("paste", { clipboardData: d, bubbles: true, cancelable: true })); }`
	s.MustEval(paste, strings.Join(lines, "\r\n")+"\r\n")
	s.sees("[role=status]", `250 values changed in 50, 3 of them wrong`)
	s.press("Undo")
	s.MustWait(`() => !document.querySelector("section[aria-label='The sheet'] [role=status]").textContent.includes("changed")`)
	s.MustElement(".dsg-row:not(.dsg-row-header) .dsg-cell:nth-child(3)").MustClick()
	s.MustEval(paste, strings.Join(lines, "\r\n")+"\r\n")
	s.sees("[role=status]", `3 of them wrong`)
	wrong := s.MustElement("input[aria-label^='Condition of'][aria-invalid=true]")
	assert.Contains(t, *wrong.MustAttribute("aria-label"), "is none of the place's values")

	// One is mended by typing, looked at as it is typed.
	wrong.MustParents(".dsg-cell").First().MustClick()
	require.NoError(t, s.Keyboard.Type('u', 's', 'e', 'd', input.Enter))
	s.sees("[role=status]", `2 of them wrong`)
	s.MustEval("() => document.activeElement.blur()")
	s.keys(input.Escape, input.Escape)
	s.sees("[role=alert]", "250 values aren't kept yet")
	s.press("Stay here")
	s.press("Keep 250 values")
	s.MustWait(`() => /^\d+ listings$/.test(document.querySelector("section[aria-label='The sheet'] [role=status]").textContent)`)
	after := read()
	done := 0
	for i := range lines {
		assert.Equal(t, "Tarnwick", after.Rows[i].Values[6])
		if after.Rows[i].Stops == 0 {
			done++
		}
	}
	assert.GreaterOrEqual(t, done, 40)
	assert.Equal(t, "used", after.Rows[3].Values[1])
	assert.Equal(t, "plaid", after.Rows[49].Values[3], "what is wrong is kept too, and said")
	assert.Positive(t, after.Rows[49].Stops)
	assert.Equal(t, before.Rows[50].Values, after.Rows[50].Values, "the next is as it was")
}

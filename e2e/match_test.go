package e2e_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Twenty matches by the keyboard alone, one of them undone.
func TestTwentyMatchesByKeyboard(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	s := open(t, p, "/match")
	waiting := func() int64 { return ask[struct{ Total int64 }](t, p, "/api/v1/matches").Total }
	left := func() int64 {
		return ask[struct {
			MatchLater int64 `json:"match_later"`
		}](t, p, "/api/v1/counts").MatchLater
	}
	began := waiting()
	require.Greater(t, began, int64(20))
	made := func() int64 { return ask[struct{ Total int64 }](t, p, "/api/v1/matches?state=decided").Total }
	listed := made()
	for n := range int64(20) {
		title := s.sees("[role=option][aria-selected=true]", ".").MustText()
		s.sees("h2", strings.Split(title, "\n")[0])
		require.NoError(t, s.Wait(rod.Eval(`() => !!document.querySelector("table[aria-label='Compared, fact by fact']") ||
			document.body.innerText.includes('has nothing like it')`)), "what %s may be", title)
		if one, _, _ := s.HasR("table thead button", "It is this one"); !one {
			s.keys('l') // nothing like it, or not allowed
		} else if unknown, _, _ := s.HasR("table td", `\? (bought|listed)|, \?`); unknown {
			s.keys('1')
			s.MustElement("form[aria-label^='How many?'] input")
			s.keys(input.Enter)
		} else {
			s.keys('1')
		}
		until(t, p, "a decision", func([]run) bool { return waiting() == began-n-1 })
		require.NoError(t, s.Wait(rod.Eval(`before => document.querySelector("[role=option][aria-selected=true]")?.innerText !== before`, title)))
	}
	assert.Equal(t, int64(20), made()-listed+left(), "each is matched now, or put off")

	// The last one is undone, and decided again.
	s.keys('z')
	until(t, p, "the decision", func([]run) bool { return waiting() == began-19 })
	s.keys('n')
	until(t, p, "the decision", func([]run) bool { return waiting() == began-20 })
	s.quiet()
}

// A place made from nothing, its catalogue read from a file, and what was listed
// there for years taken over.
func TestAPlaceWithoutAGateway(t *testing.T) {
	t.Parallel()
	p := stocked(t)
	type listing struct{ Title, GTIN, SKU, Site, State, Entry string }
	rows := ask[struct {
		Rows []struct {
			Title, GTIN string
		}
	}](t, p, "/api/v1/listings?limit=12&sort=title").Rows
	require.Len(t, rows, 12)
	dir := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	catalogue, report := "Item ID;Item name;Barcode\n", "SKU,Listing ID,Title,Price,Quantity\n"
	for i, r := range rows {
		catalogue += fmt.Sprintf("GF-%d;%s;%s\n", i, r.Title, r.GTIN[1:])
		report += fmt.Sprintf("OLD-%d,GF-%d,\"%s\",29.99,2\n", i, i, r.Title)
	}
	report += "OLD-77,GF-900,Hand-painted tide clock,35.00,1\n"

	s := open(t, p, "/places")
	s.sees("[role=row]", "Quaymarket GB")
	s.keys('m')
	s.sees("h2", "Make a place without a gateway")
	s.write(s.labelled("^What it is called"), "Gullery Fair")
	s.write(s.labelled("^Country"), "ie")
	s.write(s.labelled("^Currency"), "pounds")
	s.press("Make it")
	s.sees("[aria-live]", "is no currency we know")
	s.write(s.labelled("^Currency"), "GBP")
	s.press("Make it") // nothing is an answer, silence isn't
	s.sees("[aria-live]", "say at which rate what buyers pay has tax")
	for label, said := range map[string]string{"^Tax rate": "23 %", "^It takes of every sale": "9,5", "^And for each sale": "0,25", "^The buyer pays for delivery": "0", "^Sending one costs you": "3,20"} {
		s.write(s.labelled(label), said)
	}
	s.press("Make it")
	s.sees("h2", "Its catalogue")
	s.MustElement("[data-testid='file of Its catalogue']").MustSetFiles(file("catalogue.csv", catalogue))
	s.press("Read 12 rows")
	s.sees("section[aria-label='Its catalogue']", "12 rows: 12 new")
	s.MustElement("[data-testid='file of What we have listed there']").MustSetFiles(file("report.csv", report))
	s.press("Read 13 rows")
	s.sees("section[aria-label='What we have listed there']", "13 rows: 12 taken over, 0 changed, 0 the same, 1 tied to nothing")
	until(t, p, "prices", idle)
	live := 0
	for _, l := range ask[struct{ Rows []listing }](t, p, "/api/v1/listings?limit=500&state=live").Rows {
		if l.Site == "Gullery Fair" {
			live++
		}
	}
	assert.Equal(t, 12, live)

	// What is tied to nothing is tied by hand.
	s.MustNavigate(p.URL + "/send?tab=untied").MustWaitLoad()
	s.sees("[role=row]", "Hand-painted tide clock").MustClick()
	s.write(s.MustElement("[aria-label='Which supplier product is it']"), "kettle")
	s.sees("aside button", "It is")
	s.keys(input.Enter) // out of the field
	s.keys('1')
	s.sees("div", "Nothing is untied")
	s.quiet()
}

package e2e_test

import (
	"io"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// download fetches a supplier's document into a file of its own name.
func download(t *testing.T, p *browser.Program, path string) string {
	res, err := http.Get(p.Suppliers + path)
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, http.StatusOK, res.StatusCode)
	file := filepath.Join(t.TempDir(), filepath.Base(path))
	out, err := os.Create(file)
	require.NoError(t, err)
	_, err = io.Copy(out, res.Body)
	require.NoError(t, err)
	require.NoError(t, out.Close())
	return file
}

// in presses a button inside the section of a name.
func (s screen) in(section, words string) {
	el, err := s.ElementX(`//section[@aria-label="` + section + `"]//button[contains(., "` + words + `")]`)
	require.NoError(s.t, err, "waiting for %q of %s", words, section)
	require.NoError(s.t, el.Click("left", 1))
}

type find struct {
	Title    string `json:"title"`
	Supplier string `json:"supplier"`
	Cost     int64  `json:"cost"`
	Currency string `json:"currency"`
	Gone     bool   `json:"gone"`
}

// A list whose columns nobody knows by name: which row has the names, and what each
// column is, is said by hand.
func TestAListInUnknownWords(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	file := filepath.Join(t.TempDir(), "lijst.csv")
	require.NoError(t, os.WriteFile(file, []byte("Alles van dit voorjaar;vanaf maart;geldig\nKenmrk;Wat het is;Onze\nA1;Vouwbeker heide 250 ml;12,05\n"), 0o600))
	s := open(t, p, "/sources")
	s.MustElement("[data-testid=file]").MustSetFiles(file)
	s.sees("div", "No column is read as ref or title or cost yet")
	s.MustElement("[aria-label='Row with the names of the columns']").MustInput("2")
	s.MustElement("[aria-label='Kenmrk is read as']").MustSelect("ref")
	s.MustElement("[aria-label='Wat het is is read as']").MustSelect("title")
	s.MustElement("[aria-label='Onze is read as']").MustSelect("cost")
	s.sees("section", "Every row reads cleanly")
	s.labelled("^Whose is it").MustSelect("a new supplier")
	s.write(s.labelled("^Supplier's name"), "Beemster Buiten")
	s.write(s.labelled("^One order's delivery"), "0")
	s.labelled("^Tax in their costs").MustSelect("none")
	s.write(s.labelled("^Costs are in"), "EUR")
	s.press("Take this feed")
	s.sees("dt", "rows read")
	until(t, p, "the list", idle)
	assert.Contains(t, ask[[]find](t, p, "/api/v1/supplier-products?words=Vouwbeker+heide"), find{"Vouwbeker heide 250 ml", "Beemster Buiten", 1205, "EUR", false})
}

// The messy sheet, from drop to taken: a column corrected by hand, and a row
// that was set aside mended in place.
func TestTheMessySheet(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/sources")
	s.MustElement("[data-testid=file]").MustSetFiles(download(t, p, "/brindlewick/trade-list.xlsx"))
	s.sees("div", "No column is read as cost yet")
	s.MustElement("[aria-label='Dealer rate is read as']").MustSelect("cost")
	s.sees("section", "would be taken")
	s.sees("section", "can't be read as an amount")
	s.labelled("^Whose is it").MustSelect("a new supplier")
	s.write(s.labelled("^Supplier's name"), "Brindlewick Outdoor")
	s.write(s.labelled("^One order's delivery"), "0")
	s.labelled("^Tax in their costs").MustSelect("none")
	s.press("Take this feed")
	s.sees("[role=row]", "the cost can't be read as an amount").MustClick()
	s.sees("h2", "Row 62")
	cost := s.labelled("^Dealer rate")
	cost.MustSelectAllText().MustInput("still unknown")
	s.keys(input.Enter)
	s.says("still not")
	cost.MustSelectAllText().MustInput("1.004,50")
	s.keys(input.Enter)
	s.says("above the list price of the row, 6.21")
	s.labelled("^RRP").MustSelectAllText().MustInput("1.999,00")
	s.keys(input.Enter)
	s.sees("[role=row]", "mended")
	until(t, p, "the row", idle)
	found := ask[[]find](t, p, "/api/v1/supplier-products?words=Fellgrove+Summit+beaker+200")
	require.NotEmpty(t, found)
	assert.Contains(t, found, find{"Fellgrove Summit beaker, folding, 200 ml", "Brindlewick Outdoor", 100_450, "EUR", false})
}

// A feed that was cut off is held; nothing changes until it is taken once.
func TestAShortFeedIsHeld(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/sources")
	s.in("Fernhollow Wholesale", "Fetch now")
	s.in("Fernhollow Wholesale", "Look at the new feed")
	s.press("Take this feed")
	until(t, p, "the list", idle)
	for range 2 {
		require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 16}, nil))
		require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil))
		until(t, p, "the next list", idle)
	}
	s.keys('j', 't')
	s.sees("div", "Fernhollow Wholesale's feed of .* is held")
	s.press("Compare")
	s.sees("section", "Nothing of it was taken")
	s.sees("dt", "would be gone")
	gone := func() int {
		n := 0
		for _, f := range ask[[]find](t, p, "/api/v1/supplier-products?words=enamel+mug") {
			if f.Gone {
				n++
			}
		}
		return n
	}
	before := gone()
	s.press("Take it this once")
	s.sees("dt", "^gone since the last")
	until(t, p, "the short list", idle)
	assert.Greater(t, gone(), before+10)
}

// One product from its page, by the page's address.
func TestAPageIsCaptured(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	s := open(t, p, "/sources")
	shop, err := browser.Page(s.Browser(), p.Suppliers+"/corrie/")
	require.NoError(t, err)
	link := shop.MustElement("li a")
	title, address := link.MustText(), link.MustProperty("href").Str()
	shop.MustClose()
	s.press("One page")
	s.write(s.labelled("Address of the product"), address+"?utm_source=mail#top")
	s.write(s.labelled("^Supplier"), "Corrie & Wether")
	s.keys(input.Enter)
	s.sees("section", "Every row reads cleanly")
	s.keys('.')
	s.sees("dt", "rows read")
	until(t, p, "the page", idle)
	s.keys('j', 's')
	s.sees("[role=tab]", "Find and keep").MustClick()
	s.MustElement("[aria-label=\"Search all suppliers' products\"]").MustInput(title)
	s.sees("[role=row]", "Corrie & Wether").MustClick()
	s.sees("aside", "Cost, USD")
	s.MustElement("[aria-label=Note]").MustInput("ask for ten")
	s.keys(input.Enter)
	s.sees("[role=row]", "kept")
}

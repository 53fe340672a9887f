package e2e_test

import (
	"encoding/csv"
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"easymargin/e2e/browser"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// newcomer is a new seller: every press and every form filled in counts as an action.
type newcomer struct {
	screen
	actions []string
}

func (n *newcomer) does(what string, act func()) {
	n.actions = append(n.actions, what)
	act()
}

// article is something both suppliers may have, with what each asks for it, in cents of a
// euro; 0: doesn't have it.
type article struct {
	title   string
	ean     string
	german  int64 // without tax, of a case
	inCase  int64
	english int64 // with 19 % tax in it, that the seller gets back
}

// checked is a number with its check digit, ISO/IEC 15420.
func checked(twelve string) string {
	sum := 0
	for i, c := range twelve {
		sum += int(c-'0') * (1 + 2*(i%2))
	}
	return twelve + fmt.Sprint((10-sum%10)%10)
}

// The first penny is right: an empty folder, two messy lists and a marketplace made from
// nothing, through the screens to the file that is uploaded there. No line of it loses
// money, by figures that are reckoned here.
func TestANewcomersFirstFile(t *testing.T) {
	t.Parallel()
	things := []string{"Ottermere Klappbecher 350 ml", "Fellgrove Emaillekessel 1,2 l", "Tarnwick Stirnlampe 200 lm", "Skarholt Packsack 20 l rot", "Merrowdale Zeltheringe Stahl 10 Stück",
		"Brackenby Gaskocher faltbar", "Ottermere Thermosflasche 0,5 l", "Fellgrove Wanderstöcke Paar", "Tarnwick Kissen aufblasbar", "Skarholt Biwaksack orange"}
	articles := make([]article, len(things))
	for i, title := range things {
		articles[i] = article{title: title, ean: checked(fmt.Sprintf("0952000%05d", 41300+i*7)), german: int64(480 + i*377), inCase: 1}
		if i%3 == 0 {
			articles[i].english = articles[i].german*8/10 + 13
		}
		if i%4 == 1 {
			articles[i].inCase, articles[i].german = 6, articles[i].german*6
		}
	}
	comma := func(cents int64) string {
		return strings.Replace(fmt.Sprintf("%d.%02d", cents/100, cents%100), ".", ",", 1)
	}

	german := "Preisliste Winter;;;;;;\nArt.-Nr.;Bezeichnung;EAN;EK netto;Bestand;VE;Gewicht kg\n"
	for i, a := range articles {
		number := a.ean
		switch i {
		case 7:
			number = "" // not known
		case 8:
			number = "9,52E+11" // rounded by a spreadsheet
		}
		row := fmt.Sprintf("D-%03d;%s;%s;%s;%d;%d;0,35\n", i, a.title, number, comma(a.german), 40+i, a.inCase)
		german += row
		if i == 2 {
			german += row // it stands there twice
		}
	}
	english := "sku,title,barcode,price,in stock\n"
	for i, a := range articles {
		if a.english > 0 {
			english += fmt.Sprintf("E%d,%s,%s,%d.%02d,%d\n", i, strings.ReplaceAll(a.title, ",", "."), a.ean, a.english/100, a.english%100, 12)
		}
	}
	catalogue := "entry,title,number\n"
	for i, a := range articles {
		catalogue += fmt.Sprintf("N-%d,\"%s\",%s\n", i, a.title, a.ean)
	}
	dir := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}

	p := program(t, "serve", "--data", filepath.Join(dir, "new"))
	n := &newcomer{screen: open(t, p, "/")}
	n.does("open Places", func() { n.press("Add a place") })
	n.does("make a place", func() { n.press("Make a place") })
	n.does("say what it is", func() {
		for label, said := range map[string]string{"^What it is called": "Nordmarkt", "^Country": "de", "^Currency": "eur", "^Tax rate": "19", "^It takes of every sale": "12,5",
			"^And for each sale": "0,35", "^The buyer pays for delivery": "0", "^Sending one costs you": "4,50"} {
			n.write(n.labelled(label), said)
		}
		n.press("Make it")
	})
	n.does("bring its catalogue in", func() {
		n.sees("h2", "Nordmarkt")
		n.MustElement("[data-testid='file of Its catalogue']").MustSetFiles(file("catalogue.csv", catalogue))
	})
	n.does("read it", func() { n.press(fmt.Sprintf("Read %d rows", len(articles))) })
	n.sees("section[aria-label='Its catalogue']", "10 rows: 10 new")

	for _, list := range []struct{ name, text, supplier, tax, rate, delivery string }{
		{"winter.csv", german, "Halmstett Großhandel", "none", "", "6,90"},
		{"prices.csv", english, "Tidewrack Clearance", "in them, I get it back", "19", "0"},
	} {
		n.does("drop "+list.name, func() {
			n.MustNavigate(p.URL + "/sources").MustWaitLoad()
			n.MustElement("[data-testid=file]").MustSetFiles(file(list.name, list.text))
			n.labelled("^Whose is it").MustSelect("a new supplier")
		})
		n.does("say whose it is and what their costs come to", func() {
			n.write(n.labelled("^Supplier's name"), list.supplier)
			n.write(n.labelled("^Costs are in"), "EUR")
			n.write(n.labelled("^One order's delivery"), list.delivery)
			n.labelled("^Tax in their costs").MustSelect(list.tax)
			if list.rate != "" {
				n.write(n.labelled("^at, %"), list.rate)
			}
			n.press("Take this feed")
		})
		n.sees("dt", "rows read")
		until(t, p, "the list", idle)
	}
	n.does("open Match", func() { n.MustNavigate(p.URL + "/match").MustWaitLoad() })
	for _, a := range []article{articles[1], articles[5]} { // cases whose entry says no pack; the others can wait
		row := n.sees("[role=option]", regexp.QuoteMeta(a.title))
		require.NoError(t, row.WaitStable(100*time.Millisecond))
		row.MustClick()
		n.sees("h2", regexp.QuoteMeta(a.title))
		n.does("choose one", func() {})
		n.does("it is this one", func() { n.press("It is this one") })
		n.does("a case of six, sold singly", func() { n.press("It is, so many") })
		until(t, p, "the decision", func([]run) bool {
			return !slices.Contains(titles(t, p), a.title)
		})
		n.MustWait(`gone => ![...document.querySelectorAll("[role=option]")].some((o) => o.textContent.includes(gone))`, a.title)
	}
	until(t, p, "prices", idle)
	n.does("open Send", func() { n.MustNavigate(p.URL + "/send").MustWaitLoad() })
	n.does("send what is ready", func() { n.press("Send 7 ready listings") })
	until(t, p, "the file", func(runs []run) bool { return idle(runs) && len(ask[[]any](t, p, "/api/v1/sheets")) == 1 })

	sheets := ask[[]struct{ ID int64 }](t, p, "/api/v1/sheets")
	require.Len(t, sheets, 1)
	n.does("get the file", func() {})
	raw, err := os.ReadFile(saved(t, fmt.Sprintf("%s/api/v1/sheets/%d/content", p.URL, sheets[0].ID), "file.csv"))
	require.NoError(t, err)
	assert.LessOrEqual(t, len(n.actions), 20, "%v", n.actions)
	noLoss(t, raw, articles)
}

// titles are what waits at Match.
func titles(t *testing.T, p *browser.Program) (out []string) {
	for _, m := range ask[struct{ Rows []struct{ Title string } }](t, p, "/api/v1/matches?state=waiting").Rows {
		out = append(out, m.Title)
	}
	return out
}

// noLoss reckons every line of the file without the program: what is left of its price
// after tax, the place's fees, sending, and the cheaper of the two suppliers' costs.
func noLoss(t *testing.T, raw []byte, articles []article) {
	rows, err := csv.NewReader(strings.NewReader(string(raw))).ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{"sku", "entry", "price", "quantity"}, rows[0])
	require.Len(t, rows, 1+7)
	part := func(minor, a, b int64) *big.Rat { return new(big.Rat).Mul(big.NewRat(minor, 1), big.NewRat(a, b)) }
	for _, row := range rows[1:] {
		at, err := strconv.Atoi(strings.TrimPrefix(row[1], "N-"))
		require.NoError(t, err)
		a := articles[at]
		price, err := strconv.ParseInt(strings.Replace(row[2], ".", "", 1), 10, 64)
		require.NoError(t, err)
		cost := part(a.german+690, 1, a.inCase)
		if back := part(a.english, 100, 119); a.english > 0 && back.Cmp(cost) < 0 {
			cost = back
		}
		left := part(price, 100, 119) // what is not tax
		for _, goes := range []*big.Rat{part(price, 125, 1000), big.NewRat(35, 1), big.NewRat(450, 1), cost} {
			left.Sub(left, goes)
		}
		assert.GreaterOrEqual(t, left.Sign(), 0, "%s at %s leaves %s cents", a.title, row[2], left.FloatString(2))
	}
}

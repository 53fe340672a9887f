package e2e_test

import (
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// week is a shop's week: its program, its screen and who buys.
type week struct {
	screen
	t       *testing.T
	p       *browser.Program
	buyers  *http.Client // at the marketplace and in the shop
	gateway string
}

// to lets the demo's time go on to a morning, and waits for what comes of it.
func (w *week) to(day int) {
	morning := time.Date(2026, 3, day, 8, 40, 0, 0, time.UTC)
	for { // a quarter of a day at a time, as schedules would have it
		now := ask[struct{ Now time.Time }](w.t, w.p, "/api/v1/demo").Now
		left := int(morning.Sub(now).Minutes())
		if left <= 0 {
			break
		}
		w.do(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": min(left, 360)}, nil)
	}
	w.do(http.MethodPost, "/api/v1/sources/1/fetch", nil, nil)
	w.do(http.MethodPost, "/api/v1/sources/2/fetch", nil, nil)
	w.settled("the suppliers")
}

func (w *week) settled(what string) { until(w.t, w.p, what, idle) }

func (w *week) do(method, path string, body, into any) {
	w.t.Helper()
	require.NoError(w.t, w.p.Ask(method, path, body, into), "%s %s", method, path)
}

// letGo sends what the plan of the screen says: once more where something was being
// worked out again at that moment, since that stays behind.
func (w *week) letGo() {
	const went = "Changes to Quaymarket GB"
	for range 10 {
		until(w.t, w.p, "the plan", func(runs []run) bool {
			return idle(runs) && ask[struct{ Reworked int64 }](w.t, w.p, "/api/v1/plans?site=1").Reworked == 0
		})
		there, err := w.Race().ElementR("h1", went).ElementR("button", "Send .* changes?").Do()
		require.NoError(w.t, err, "the plan or what went of it")
		if there.MustMatches("h1") {
			return
		}
		w.keys('.')
		if _, err := w.Timeout(20*time.Second).ElementR("h1", went); err == nil {
			return
		}
	}
	require.Fail(w.t, "the plan never goes out")
}

// buys has somebody buy at the marketplace, on its own pages.
func (w *week) buys(sku string, quantity int64) string {
	res, err := w.buyers.PostForm(w.p.Market+"/buyers/buy", url.Values{"site": {"GB"}, "sku": {sku}, "quantity": {fmt.Sprint(quantity)}})
	require.NoError(w.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(w.t, err)
	require.Equal(w.t, http.StatusOK, res.StatusCode, "%s", text)
	return regexp.MustCompile(`Order (GB-\d+)`).FindStringSubmatch(string(text))[1]
}

// offered is how many of a SKU buyers can buy at the marketplace, and what it costs.
func (w *week) offered(sku string) (quantity, price int64) {
	var there struct {
		Listings []struct {
			SKU             string
			Quantity, Price int64
		}
	}
	w.ask(w.gateway+"/sites/GB/listings", &there)
	for _, l := range there.Listings {
		if l.SKU == sku {
			return l.Quantity, l.Price
		}
	}
	return 0, 0
}

func (w *week) ask(address string, into any) {
	other := *w.p
	at, err := url.Parse(address)
	require.NoError(w.t, err)
	other.URL = at.Scheme + "://" + at.Host
	require.NoError(w.t, other.Ask(http.MethodGet, at.RequestURI(), nil, into))
}

type weekLine struct {
	ID       int64  `json:"id"`
	OrderID  int64  `json:"order_id"`
	Order    string `json:"order"`
	Site     string `json:"site"`
	SKU      string `json:"sku"`
	State    string `json:"state"`
	Quantity int64  `json:"quantity"`
	Real     *int64 `json:"real"`
	Refunded int64  `json:"refunded"`
	Problem  string `json:"problem"`
}

func (w *week) lines(part string) []weekLine {
	return ask[struct{ Rows []weekLine }](w.t, w.p, "/api/v1/order-lines?limit=200&part="+part).Rows
}

func idsOf(lines []weekLine) (out []int64) {
	for _, l := range lines {
		out = append(out, l.ID)
	}
	return out
}

// A week in the life of a shop, from Monday's list to Sunday's money: a short feed, a
// rival, a batch that fails, a bestseller that sells out, a return, the place's
// statement; and in the end the books add up to the penny with what buyers paid.
func TestAWeekInTheLife(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	p := program(t, "demo", "--speed", "20", "--data", dir)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	w := &week{open(t, p, "/"), t, p, &http.Client{Jar: jar}, p.Market + "/gateway/v1"}

	w.Page = w.CancelTimeout().Timeout(8 * time.Minute)

	// Before the week: the morning's feed came short and is held; nothing of it was taken.
	w.sees("section[aria-label='What needs you'] div", "feed of 08:30 is held")
	w.sees("section[aria-label='What needs you'] div", "went under us")
	w.MustNavigate(p.URL + "/sources")
	w.sees("section[aria-label='Fernhollow Wholesale'] button", `Compare the held feed\s*\.`)
	w.keys('.')
	w.press("Discard it")
	w.settled("the held feed")

	// Monday: the week's sheet of Brindlewick comes in by hand.
	w.to(9)
	w.MustNavigate(p.URL + "/")
	w.sees("h1", "Monday 9 March")
	w.MustNavigate(p.URL + "/sources")
	w.MustElement("[data-testid=file]").MustSetFiles(download(t, p, "/brindlewick/trade-list.xlsx"))
	w.labelled("^Whose is it").MustSelect("Brindlewick Outdoor")
	w.sees("section", "[1-9][0-9]*\\s*would be taken")
	w.press("Take this feed|Take it all the same")
	w.settled("Monday's sheet")

	// Tuesday: what moved over the days goes out, stock to nothing first; the rival is
	// answered, and never under a floor.
	w.to(10)
	w.MustNavigate(p.URL + "/watch?site=1")
	w.sees("div", "changes? to make")
	w.sees("button", "Send .* changes?|Choose what to send")
	w.letGo()
	w.settled("the answers")

	// Wednesday: the marketplace fails just as a batch is handed over. What was let go
	// stays let go, and goes by itself once it is well again.
	w.to(11)
	mood := func(m string) {
		res, err := http.PostForm(p.Market+"/moods", url.Values{"mood": {m}})
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
	}
	mood("failing")
	w.MustNavigate(p.URL + "/watch?site=1")
	w.letGo()
	until(t, p, "the batch that fails", func(runs []run) bool { return ask[counts](t, p, "/api/v1/counts").SendsStuck > 0 })
	w.MustNavigate(p.URL + "/")
	w.sees("section[aria-label='What needs you'] div", "send-out")
	mood("")
	w.do(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 60}, nil)
	until(t, p, "the batch, by itself", func(runs []run) bool { return idle(runs) && ask[counts](t, p, "/api/v1/counts").SendsStuck == 0 })

	// Thursday: it sells. One buys in the own shop, one all that there is of a bestseller.
	w.to(12)
	var best, other string
	for _, l := range w.listings() {
		if q, _ := w.offered(l.SKU); q >= 3 && q <= 40 && best == "" && w.fromOne(l.ProductID) {
			best = l.SKU
		} else if q >= 5 && other == "" {
			other = l.SKU
		}
	}
	require.NotEmpty(t, best)
	require.NotEmpty(t, other)
	all, _ := w.offered(best)
	w.buys(best, all)
	returned := w.buys(other, 1)
	kept := w.buys(other, 2)
	inShop := w.buysInTheShop()
	w.do(http.MethodPost, "/api/v1/sites/1/orders/read", nil, nil)
	w.settled("what was sold")
	rows := w.lines("buy")
	require.True(t, slices.ContainsFunc(rows, func(l weekLine) bool { return l.Order == inShop && l.Site == "Own shop" }))
	left := ask[struct {
		Rows []struct{ Quantity int64 }
	}](t, p, "/api/v1/listings?words="+best)
	require.NotEmpty(t, left.Rows)
	assert.LessOrEqual(t, left.Rows[0].Quantity, int64(1), "what was sold is offered no more")
	w.MustNavigate(p.URL + "/orders")
	w.sees("button", "best bought")
	w.keys('.')
	w.sees("section", "nothing costs less|best")
	w.keys('.')
	until(t, p, "the purchases", func([]run) bool { return len(w.lines("buy")) < len(rows) })
	if rest := w.lines("buy"); len(rest) > 0 { // one that loses money wants a yes, or can't be had at all
		w.do(http.MethodPost, "/api/v1/order-lines/cancel", map[string]any{"lines": idsOf(rest)}, nil)
	}

	// Friday: parcels leave, and one comes back.
	w.to(13)
	onTheWay := w.lines("send")
	require.NotEmpty(t, onTheWay)
	w.do(http.MethodPost, "/api/v1/order-lines/mark-sent", map[string]any{"lines": idsOf(onTheWay), "carrier": "Harbour Post", "tracking": "HP-1"}, nil)
	w.do(http.MethodPost, "/api/v1/sites/1/orders/read", nil, nil)
	w.settled("what the places are told")
	res, err := w.buyers.PostForm(p.Market+"/buyers/call-off", url.Values{"site": {"GB"}, "ref": {returned}})
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	w.do(http.MethodPost, "/api/v1/sites/1/orders/read", nil, nil)
	w.settled("the return")
	w.MustNavigate(p.URL + "/orders?part=problems")
	w.sees("[role=row]", "sent back by its buyer")
	w.do(http.MethodPost, "/api/v1/order-lines/settle", map[string]any{"lines": idsOf(w.lines("problems"))}, nil)

	// Saturday: the marketplace's statement says what it really kept.
	w.to(14)
	statement := fmt.Sprintf("Order,Type,Amount\n%s,Commission fee,-1.11\n%s,Commission fee,-0.50\n%s,Closing fee,-0.07\n", kept, returned, kept)
	w.MustNavigate(p.URL + "/orders")
	w.press("Bring in")
	w.labelled("^Orders of").MustSelect("Quaymarket GB")
	file := filepath.Join(t.TempDir(), "statement.csv")
	require.NoError(t, os.WriteFile(file, []byte(statement), 0o600))
	w.MustElement("[data-testid='file of Its statement']").MustSetFiles(file)
	w.press("Take its 3 rows")
	w.sees("[role=status]", "3 rows of fees read, 3 new")

	// Sunday: the money. What is earned is the same whichever way it is counted, and
	// the books are what buyers paid, as the places have it.
	w.to(15)
	w.MustNavigate(p.URL + "/orders?part=earned")
	w.sees("section", "left of .* that buyers paid")
	w.MustNavigate(p.URL + "/")
	w.sees("h1", "Sunday 15 March")
	w.adds(kept)

	require.NoError(t, p.Kill())
	sound(t, dir)
}

type listed struct {
	SKU       string
	ProductID int64 `json:"product_id"`
}

// fromOne tells whether a product is had from one supplier alone.
func (w *week) fromOne(product int64) bool {
	return len(ask[struct{ Suppliers []struct{} }](w.t, w.p, fmt.Sprintf("/api/v1/products/%d", product)).Suppliers) == 1
}

func (w *week) listings() []listed {
	return ask[struct{ Rows []listed }](w.t, w.p, "/api/v1/listings?site=1&state=live&limit=80").Rows
}

// buysInTheShop is somebody who buys the first thing of the own shop that can be had.
func (w *week) buysInTheShop() string {
	get := func(path string) string {
		res, err := w.buyers.Get(w.p.Shop + path)
		require.NoError(w.t, err)
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		require.NoError(w.t, err)
		return string(text)
	}
	post := func(path string, form url.Values) *http.Response {
		res, err := w.buyers.PostForm(w.p.Shop+path, form)
		require.NoError(w.t, err)
		require.NoError(w.t, res.Body.Close())
		return res
	}
	sku := regexp.MustCompile(`href="/p/([^"]+)"`).FindStringSubmatch(get("/"))[1]
	post("/basket", url.Values{"sku": {sku}, "add": {"1"}, "quantity": {"1"}})
	total := regexp.MustCompile(`name="total" value="(\d+)"`).FindStringSubmatch(get("/checkout"))
	require.Len(w.t, total, 2)
	res := post("/checkout", url.Values{"name": {"Ada Fell"}, "mail": {"ada@post.example"}, "street": {"1 Quay"}, "town": {"Fenmouth"}, "postcode": {"FN1 1AA"}, "total": total[1:]})
	_, ref, found := strings.Cut(res.Request.URL.Path, "/order/")
	require.True(w.t, found, res.Request.URL.Path)
	return ref
}

type sums struct {
	Currency                     string
	Sales, Refunds, Left, Lines  int64
	Gross, Tax, Net, Fees, Units int64
}

// adds says that every way of counting comes to the same: lines one by one, by day, by
// site and by product, and the books against what the places say that buyers paid.
func (w *week) adds(kept string) {
	left, fees := map[string]int64{}, map[string]int64{}
	type order struct {
		Currency string
		Ref      string
		Site     string
		Lines    []struct {
			Real            *int64
			State           string
			Refunded        int64
			Quantity, Price int64
			Beside          []struct {
				Name           string
				Expected, Real int64
			}
		}
	}
	ours := map[string]order{}
	for _, l := range w.lines("all&from=2026-03-01") {
		o := ask[order](w.t, w.p, fmt.Sprintf("/api/v1/orders/%d", l.OrderID))
		if _, seen := ours[o.Site+o.Ref]; seen {
			continue
		}
		ours[o.Site+o.Ref] = o
		for _, x := range o.Lines {
			sum := int64(0)
			for _, b := range x.Beside {
				sum += b.Real
				if strings.Contains(b.Name, "commission") {
					fees[o.Ref] += b.Real
				}
			}
			if x.Real != nil {
				assert.Equal(w.t, *x.Real, sum, "%s: its lines add up", o.Ref)
			}
			left[o.Currency] += sum
		}
	}
	assert.Equal(w.t, int64(-118), fees[kept], "as the statement has it")
	for _, by := range []string{"day", "month", "site", "supplier", "category", "product"} {
		e := ask[struct{ Rows, Totals []sums }](w.t, w.p, "/api/v1/earnings?from=2026-03-01&to=2026-03-31&by="+by)
		rows := map[string]int64{}
		for _, r := range e.Rows {
			rows[r.Currency] += r.Left
		}
		for _, t := range e.Totals {
			assert.Equal(w.t, [2]int64{left[t.Currency], left[t.Currency]}, [2]int64{t.Left, rows[t.Currency]}, "by %s, %s", by, t.Currency)
		}
	}

	// What buyers paid, less what came back to them, as the marketplace itself has it.
	paid := map[string]int64{}
	for site, currency := range map[string]string{"GB": "GBP", "IE": "EUR", "DE": "EUR"} {
		for _, o := range placed[struct {
			Placed time.Time `json:"placed_at"`
			Lines  []struct{ Quantity, Price, Delivery, Refunded int64 }
		}](w.t, w.p, site) {
			for _, l := range o.Lines {
				if o.Placed.Month() == time.March {
					paid[currency] += l.Quantity*l.Price + l.Delivery - l.Refunded
				}
			}
		}
	}
	for _, o := range ours {
		if o.Site == "Own shop" {
			for _, l := range o.Lines {
				for _, b := range l.Beside {
					if b.Name == "price" || strings.Contains(b.Name, "delivery") && b.Real > 0 {
						paid[o.Currency] += b.Real
					}
				}
			}
		}
	}
	book := ask[struct{ Rows, Totals []sums }](w.t, w.p, "/api/v1/books/2026-03")
	for _, t := range book.Totals {
		assert.Equal(w.t, paid[t.Currency], t.Gross, "the books in %s are what was paid", t.Currency)
		assert.Equal(w.t, t.Gross, t.Net+t.Tax)
		sum := sums{}
		for _, r := range book.Rows {
			if r.Currency == t.Currency {
				sum.Gross, sum.Tax, sum.Net = sum.Gross+r.Gross, sum.Tax+r.Tax, sum.Net+r.Net
			}
		}
		assert.Equal(w.t, [3]int64{t.Gross, t.Tax, t.Net}, [3]int64{sum.Gross, sum.Tax, sum.Net})
	}
}

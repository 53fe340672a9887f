package house_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image/color"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/PuerkitoBio/goquery"
	"github.com/disintegration/imaging"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/place"
	"easymargin/internal/shop"
	"easymargin/internal/stops"
	"easymargin/internal/stops/orders"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// till is a stall that sells in its own shop too.
type till struct {
	*stall
	here  store.Site
	pages *httptest.Server
	skus  []string
}

func newTill(t *testing.T, products int, stock int64) *till {
	return tillOf(newStall(t, products), stock)
}

func tillOf(s *stall, stock int64) *till {
	t := s.t
	s.deliver(always(400), always(stock))
	s.sendAll()
	site, err := s.Places.Make(t.Context(), places.NewPlace{Name: "Own shop", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Commission: "1.4%", Fixed: "0.20", Shop: true, Categories: "Kit > Mugs", Charged: "0", Outbound: "0"})
	require.NoError(t, err)
	x := &till{stall: s, here: site}
	require.NoError(t, s.Places.SetTerms(t.Context(), site.ID, stops.IfMatch{}, stops.SiteTerms{Charged: "2.95", Outbound: "2.85"}))
	require.NoError(t, s.Preparing.WriteDemand(t.Context(), site.ID, "Kit > Mugs", `{"title":{"limit":120}}`))
	var ids []int64
	for _, l := range s.all() {
		ids = append(ids, l.ProductID)
	}
	_, err = s.Preparing.Add(t.Context(), site.ID, ids, "Kit > Mugs")
	require.NoError(t, err)
	s.idle()
	x.send()
	for _, l := range x.ours() {
		require.Equal(t, store.ListingLive, l.State, l.Words)
		x.skus = append(x.skus, l.SKU)
	}
	x.pages = httptest.NewServer(s.House.Shop(house.ShopAt{Hosts: []string{"kit.example"}}))
	t.Cleanup(x.pages.Close)
	return x
}

func (x *till) send() {
	_, err := x.Sending.SendListings(x.t.Context(), nil, sending.How{})
	require.NoError(x.t, err)
	x.idle()
}

// ours are the listings in the own shop.
func (x *till) ours() []store.ListingRow {
	l, err := x.Store.Listings(x.t.Context(), store.ListingFilter{SiteID: x.here.ID}, store.Page{Sort: "sku"})
	require.NoError(x.t, err)
	return l.Rows
}

// shelf is how many of a thing can be bought in the shop.
func (x *till) shelf(sku string) int64 {
	rows, err := x.Store.Reading(x.t.Context()).OnShelf(x.here.ID, []string{sku})
	require.NoError(x.t, err)
	return rows[sku].Quantity
}

// buyer is somebody with a browser that runs no script, before the pages of a shop.
type buyer struct {
	t      tester
	at     string
	client *http.Client
}

func (x *till) buyer() *buyer { return newBuyer(x.t, x.pages.URL) }

func newBuyer(t tester, at string) *buyer {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &buyer{t, at, &http.Client{Jar: jar}}
}

type shown struct {
	status int
	path   string
	text   string
	*goquery.Document
}

func (b *buyer) read(res *http.Response, err error) shown {
	require.NoError(b.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	doc, err := goquery.NewDocumentFromReader(strings.NewReader(string(raw)))
	require.NoError(b.t, err)
	return shown{res.StatusCode, res.Request.URL.RequestURI(), doc.Text(), doc}
}

func (b *buyer) get(path string) shown { return b.read(b.client.Get(b.at + path)) }

func (b *buyer) post(path string, form url.Values) shown {
	return b.read(b.client.PostForm(b.at+path, form))
}

func (b *buyer) puts(sku, quantity string) shown {
	return b.post("/basket", url.Values{"sku": {sku}, "quantity": {quantity}, "add": {"1"}})
}

// address is the checkout as somebody fills it in, with the total that they saw.
func (b *buyer) address() url.Values {
	total, _ := b.get("/checkout").Find("input[name=total]").Attr("value")
	return url.Values{"name": {"Ada Fell"}, "mail": {"ada@post.example"}, "street": {"1 Quay"}, "town": {"Fenmouth"}, "postcode": {"FN1 1AA"}, "total": {total}}
}

// What is bought in the shop is promised everywhere in the same moment, is one order
// however often it is clicked, and its buyer sees what becomes of it.
func TestWhatIsBoughtInTheShopIsPromisedEverywhere(t *testing.T) {
	x := newTill(t, 2, 4) // one is kept back
	box := x.mailbox()
	sku := x.skus[0]
	b := x.buyer()
	page := b.get("/p/" + sku)
	assert.Contains(t, page.text, "3 left")
	assert.Contains(t, page.text, "Delivery £2.95")
	basket := b.puts(sku, "2")
	assert.Equal(t, "/basket", basket.path)
	price := *x.ours()[0].ConfirmedPrice
	total := "£" + unitText(2*price+295)
	assert.Contains(t, basket.text, total)
	form := b.address()
	done := b.post("/checkout", form)
	require.Contains(t, done.path, "/order/S-", done.text)
	assert.Contains(t, done.text, "Ada Fell")
	assert.Contains(t, done.text, total)
	again := b.post("/checkout", form)
	assert.Equal(t, done.path, again.path, "a doubled click is the same order")
	require.Len(t, x.lines("all"), 1)
	line := x.lines("all")[0]
	assert.Equal(t, [3]any{int64(2), price, int64(295)}, [3]any{line.Quantity, line.Price, line.Delivery})
	assert.Equal(t, int64(1), x.shelf(sku))
	x.idle()
	for _, l := range x.all() {
		if l.ProductID == x.ours()[0].ProductID {
			assert.Equal(t, int64(1), l.Quantity, "promised on Quaymarket too")
		}
	}
	letters := box.Letters()
	require.Len(t, letters, 1)
	assert.Equal(t, "ada@post.example", letters[0].To)
	assert.Contains(t, letters[0].Body, total)

	// It is bought, sent on and partly paid back: the shop's page and a mail say so.
	x.readOrders()
	require.Len(t, x.lines("all"), 1, "read again it is the same order")
	_, err := x.Orders.Buy(t.Context(), x.best(lineIDs(x.lines("buy"))))
	require.NoError(t, err)
	require.NoError(t, x.Orders.Sent(t.Context(), []int64{line.ID}, "Harbour Post", "HP-7"))
	require.NoError(t, x.Orders.Refund(t.Context(), line.ID, orders.Refund{Amount: "1.00"}))
	x.readOrders()
	x.readOrders()
	said := b.get(done.path)
	assert.Contains(t, said.text, "On its way. Harbour Post HP-7")
	assert.Contains(t, said.text, "£1.00 came back to you")
	assert.Len(t, box.Letters(), 3)
	assert.Equal(t, int64(100), x.lines("all")[0].Refunded)
	sound(t, x.Store)

	// The order is nobody else's to see.
	stranger := x.buyer()
	bare, _, _ := strings.Cut(done.path, "?")
	for _, path := range []string{bare, bare + "?key=x", "/order/S-NOTHERE?key=x"} {
		got := stranger.get(path)
		assert.Equal(t, 404, got.status)
		assert.NotContains(t, got.text, "Ada")
	}
}

// Any number of buyers at once never buy more than there is, and each either has an
// order or is told.
func TestTheLastOnesInTheShopAreSoldOnce(t *testing.T) {
	x := newTill(t, 1, 6)
	sku := x.skus[0]
	require.Equal(t, int64(5), x.shelf(sku))
	buyers := make([]*buyer, 9)
	forms := make([]url.Values, len(buyers))
	for i := range buyers {
		buyers[i] = x.buyer()
		buyers[i].puts(sku, "1")
		forms[i] = buyers[i].address()
	}
	got := make([]shown, 2*len(buyers))
	var wg sync.WaitGroup
	for i := range got {
		wg.Go(func() { got[i] = buyers[i/2].post("/checkout", forms[i/2]) }) // each clicks twice
	}
	wg.Wait()
	made := map[string]bool{}
	for _, g := range got {
		if strings.HasPrefix(g.path, "/order/") {
			made[g.path] = true
			continue
		}
		assert.Regexp(t, "(?i)out of stock|sold or changed|nothing in it", g.text)
	}
	for i := 0; i < len(got); i += 2 {
		if strings.HasPrefix(got[i].path, "/order/") || strings.HasPrefix(got[i+1].path, "/order/") {
			assert.Equal(t, got[i].path, got[i+1].path, "both clicks lead to the one order")
		}
	}
	assert.Len(t, made, 5)
	assert.Len(t, x.lines("all"), 5)
	assert.Zero(t, x.shelf(sku))
	x.idle()
	for _, l := range x.all() {
		assert.Zero(t, l.Quantity, "nothing of it is offered anywhere any more")
	}
	sound(t, x.Store)
	page := x.buyer().get("/p/" + sku)
	assert.Contains(t, page.text, "Out of stock")
	assert.Zero(t, page.Find("form.buy").Length(), "and there is no button")
	assert.Contains(t, x.buyer().puts(sku, "1").text, "out of stock now")
}

// What was sold in the shop while a line was on its way isn't offered again by that
// line, and nothing goes onto the shelves under its floor, or twice.
func TestTheShopLooksOnceMoreAtWhatItIsHanded(t *testing.T) {
	x := newTill(t, 1, 6)
	sku := x.skus[0]
	out := shop.Open("Own shop", x.Store, x.Now).Outlet
	five, four, penny := int64(5), int64(4), int64(1)
	b := x.buyer()
	b.puts(sku, "1")
	require.Contains(t, b.post("/checkout", b.address()).path, "/order/")
	hand := func(key string, l place.Line) place.Outcome {
		l.Key, l.SKU = key+"-1", sku
		got, err := out.HandOver(t.Context(), "GB", key, []place.Line{l})
		require.NoError(t, err)
		require.Len(t, got.Lines, 1)
		assert.Equal(t, place.BatchDone, got.State)
		return got.Lines[0]
	}
	late := hand("late", place.Line{Quantity: &five})
	assert.Equal(t, place.Refused, late.State)
	assert.Contains(t, late.Words, "only 4 can be now")
	assert.Equal(t, int64(4), x.shelf(sku))
	cheap := hand("cheap", place.Line{Price: &penny})
	assert.Equal(t, place.Refused, cheap.State)
	assert.Contains(t, cheap.Words, "under its floor")
	assert.Equal(t, place.Confirmed, hand("right", place.Line{Quantity: &four}).State)
	b.puts(sku, "1")
	require.Contains(t, b.post("/checkout", b.address()).path, "/order/", "another basket is another order")
	assert.Equal(t, int64(3), x.shelf(sku))
	assert.Equal(t, place.Confirmed, hand("right", place.Line{Quantity: &four}).State, "the same batch is answered as before")
	assert.Equal(t, int64(3), x.shelf(sku), "and is not done again")
	_, err := out.Follow(t.Context(), "GB", "nothing")
	assert.True(t, place.Forgotten(err))
	unknown, err := out.HandOver(t.Context(), "GB", "unknown", []place.Line{{Key: "k", SKU: "NOBODY", Quantity: &four}})
	require.NoError(t, err)
	assert.Equal(t, place.Refused, unknown.Lines[0].State)
	sound(t, x.Store)
}

// An order that can't be taken up is none: what it had is on the shelf again and in
// the basket.
func TestAnOrderIsWholeOrNotAtAll(t *testing.T) {
	x := newTill(t, 1, 6)
	sku := x.skus[0]
	broken := true
	pages := httptest.NewServer(shop.New(shop.Options{Store: x.Store, Now: x.Now, Sold: func(tx store.Tx, site *store.Site, list []place.Order) error {
		if broken {
			return errors.New("the disk is full")
		}
		return x.Orders.TakeSold(tx, site, list)
	}}))
	t.Cleanup(pages.Close)
	x.pages = pages
	b := x.buyer()
	b.puts(sku, "2")
	form := b.address()
	got := b.post("/checkout", form)
	assert.Equal(t, 500, got.status)
	assert.Contains(t, got.text, "Nothing was bought")
	assert.Equal(t, int64(5), x.shelf(sku))
	assert.Empty(t, x.lines("all"))
	assert.Contains(t, b.get("/basket").text, "Basket 2")
	broken = false
	assert.Contains(t, b.post("/checkout", form).path, "/order/")
	assert.Equal(t, int64(3), x.shelf(sku))
}

// No quantity that a form can say makes a basket of more than can be had, nor wraps
// what it comes to: every page answers afterwards, and the data is sound.
func TestNoQuantityBreaksTheShop(t *testing.T) {
	x := newTill(t, 1, 6)
	sku := x.skus[0]
	for _, first := range []string{"1", "5", ""} {
		for _, second := range []string{"9223372036854775807", "-9223372036854775808", "18446744073709551615", "9.2e18", "1000000", "100", "-1", "0", "0x10", "١", "1 000", "\x00", "NaN"} {
			b := x.buyer()
			if first != "" {
				b.puts(sku, first)
			}
			for _, add := range []url.Values{{"add": {"1"}}, {}} {
				add.Set("sku", sku)
				add.Set("quantity", second)
				got := b.post("/basket", add)
				assert.Less(t, got.status, 500, "%q then %q", first, second)
				assert.NotContains(t, got.text, "−", "%q then %q", first, second)
			}
			if page := b.get("/checkout"); page.path == "/checkout" {
				assert.NotContains(t, page.text, "−")
			}
		}
	}
	b := x.buyer()
	b.puts(sku, "2")
	assert.Contains(t, b.puts(sku, "9223372036854775807").text, "from 1 to 99")
	assert.Contains(t, b.puts(sku, "4").text, "Only 5 are left")
	assert.Contains(t, b.get("/basket").text, "Basket 2", "it is as it was")
	assert.Contains(t, b.post("/checkout", b.address()).path, "/order/")
	assert.Equal(t, int64(3), x.shelf(sku))
	assert.Equal(t, 200, b.get("/").status)
	sound(t, x.Store)
}

// A key that a visitor chose is none: who set it would know the basket's, and the
// order's. An order opens with its own key alone, which isn't the basket's, and is kept
// by no browser.
func TestNobodyKnowsAnothersBasketOrOrder(t *testing.T) {
	x := newTill(t, 1, 6)
	b := x.buyer()
	at, err := url.Parse(x.pages.URL)
	require.NoError(t, err)
	b.client.Jar.SetCookies(at, []*http.Cookie{{Name: "basket", Value: "CHOSENBYSOMEBODYELSE", Path: "/"}})
	b.puts(x.skus[0], "1")
	token := b.client.Jar.Cookies(at)[0].Value
	assert.NotEqual(t, "CHOSENBYSOMEBODYELSE", token)
	other := x.buyer()
	other.client.Jar.SetCookies(at, []*http.Cookie{{Name: "basket", Value: "CHOSENBYSOMEBODYELSE", Path: "/"}})
	assert.Contains(t, other.get("/basket").text, "nothing in it yet")

	order := b.post("/checkout", b.address())
	require.Contains(t, order.path, "/order/S-")
	page, _, _ := strings.Cut(order.path, "?")
	assert.NotContains(t, order.path, token)
	for _, key := range []string{"", token, "CHOSENBYSOMEBODYELSE", page} {
		got := b.get(page + "?key=" + url.QueryEscape(key))
		assert.Equal(t, 404, got.status, key)
		assert.NotContains(t, got.text, "Ada Fell")
	}
	res, err := other.client.Get(x.pages.URL + order.path)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 200, res.StatusCode, "in another browser too, by the link")
	assert.Equal(t, "no-store", res.Header.Get("Cache-Control"))
}

// A stranger who asks for too much is asked to wait, and others aren't; what says that
// it was forwarded is believed of proxies that were named, and refused otherwise.
func TestStrangersAskForSoMuchAndNoMore(t *testing.T) {
	x := newTill(t, 1, 6)
	near := httptest.NewServer(x.House.Shop(house.ShopAt{Hosts: []string{"kit.example"}, Proxies: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}))
	t.Cleanup(near.Close)
	post := func(server, from, path string) *http.Response {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, server+path, strings.NewReader("sku="+x.skus[0]+"&quantity=1&add=1"))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		if from != "" {
			r.Header.Set("X-Forwarded-For", from)
		}
		res, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res
	}
	assert.Equal(t, 403, post(x.pages.URL, "203.0.113.5", "/basket").StatusCode, "nobody named this proxy")
	asked := func(path string, from func(i int) string) (n int) {
		for n = range 2000 {
			if res := post(near.URL, from(n), path); res.StatusCode == 429 {
				assert.NotEmpty(t, res.Header.Get("Retry-After"))
				return n
			}
		}
		return n
	}
	assert.Less(t, asked("/basket", func(int) string { return "203.0.113.5" }), 300)
	assert.Equal(t, 303, post(near.URL, "203.0.113.6", "/basket").StatusCode, "somebody else isn't kept waiting")
	assert.Less(t, asked("/basket", func(i int) string { return fmt.Sprintf("2001:db8::%x", i) }), 300, "a household has more addresses than anybody counts")
	assert.Less(t, asked("/checkout", func(int) string { return "203.0.113.7" }), 100)
	assert.Less(t, asked("/basket", func(i int) string { return fmt.Sprintf("198.51.%d.%d", i/250, i%250) }), 1900, "all together")
	assert.Equal(t, 200, x.buyer().get("/").status, "looking around is free")
}

// What a buyer gets wrong is said at its field, a program is told from a person, and a
// total that changed meanwhile is shown before it is paid.
func TestTheCheckoutSaysWhatIsWrong(t *testing.T) {
	x := newTill(t, 1, 6)
	sku := x.skus[0]
	b := x.buyer()
	assert.Equal(t, "/basket", b.get("/checkout").path, "there is nothing to buy")
	b.puts(sku, "1")
	good := b.address()
	with := func(name, value string) shown {
		form := url.Values{}
		for k, v := range good {
			form[k] = v
		}
		form.Set(name, value)
		return b.post("/checkout", form)
	}
	for name, value := range map[string]string{"name": " ", "mail": "ada", "street": "", "town": "", "postcode": "\n"} {
		got := with(name, value)
		assert.Equal(t, 422, got.status, name)
		field := got.Find("#" + name)
		assert.Equal(t, name+"-wrong", field.AttrOr("aria-describedby", ""))
		assert.Equal(t, "Ada Fell", got.Find("#name").AttrOr("value", "")+map[bool]string{true: "Ada Fell"}[name == "name"], "the rest is kept")
	}
	assert.Contains(t, with("website", "http://spam.example").text, "by a program")
	assert.Contains(t, with("total", "1").text, "Nothing was bought yet")
	assert.Empty(t, x.lines("all"))
	assert.Contains(t, b.post("/basket", url.Values{"sku": {sku}, "quantity": {"two"}}).text, "whole number")
	assert.Contains(t, b.post("/basket", url.Values{"sku": {sku}, "quantity": {"500"}}).text, "from 1 to 99")
	assert.Contains(t, b.post("/basket", url.Values{"sku": {sku}, "quantity": {"50"}}).text, "Only 5 are left")
	assert.Contains(t, b.get("/basket").text, "Basket 1", "it is as it was")
	assert.Contains(t, b.post("/basket", url.Values{"sku": {sku}, "quantity": {"0"}}).text, "nothing in it yet")

	// Its price went up while it lay in the basket.
	b.puts(sku, "1")
	form := b.address()
	x.deliver(always(900), always(6))
	p := x.planOn(x.here.ID)
	_, err := x.Sending.SendPlan(t.Context(), p, sending.PlanChoice{Held: x.held(p)})
	require.NoError(t, err)
	x.idle()
	now := *x.ours()[0].ConfirmedPrice
	got := b.post("/checkout", form)
	assert.Contains(t, got.text, "It comes to £"+unitText(now+295)+" now")
	assert.Contains(t, b.get("/basket").text, "when you put it in")
	assert.Contains(t, b.post("/checkout", b.address()).path, "/order/")
}

func (x *till) planOn(site int64) int64 {
	plans, err := x.Store.OpenPlans(x.t.Context())
	require.NoError(x.t, err)
	for _, p := range plans {
		if p.SiteID == site {
			return p.ID
		}
	}
	require.Fail(x.t, "nothing is planned there")
	return 0
}

func (x *till) held(plan int64) (out []int64) {
	l, err := x.Store.PlanLines(x.t.Context(), store.PlanPart{Plan: plan}, store.Page{Limit: 100})
	require.NoError(x.t, err)
	for _, r := range l.Rows {
		if r.Verdict == "held" {
			out = append(out, r.ID)
		}
	}
	return out
}

// Nothing of the application is reached from the shop's address, only its own names
// are answered to, and what others wrote does nothing on its pages.
func TestTheShopKeepsToItself(t *testing.T) {
	x := newTill(t, 1, 6)
	b := x.buyer()
	for _, path := range []string{"/api/v1/counts", "/api/v1/orders/1", "/log-in", "/api/v1/shop", "/assets/", "/pictures/..%2f..%2feasymargin.db.small.jpg", "/pictures/x.huge.jpg", "/index.html"} {
		assert.Equal(t, 404, b.get(path).status, path)
	}
	ask := func(change func(r *http.Request)) int {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, x.pages.URL+"/basket", strings.NewReader("sku="+x.skus[0]+"&quantity=1&add=1"))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		change(r)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Host = "evil.example" }))
	assert.Equal(t, 200, ask(func(r *http.Request) { r.Host = "KIT.example" }))
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Header.Set("Origin", "https://evil.example") }))
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Header.Set("Sec-Fetch-Site", "cross-site") }))

	hostile := `<img src=x onerror=alert(1)>"'><script>alert(2)</script>`
	out := shop.Open("Own shop", x.Store, x.Now).Outlet
	content := place.Content{Title: hostile, Category: "Kit > Mugs", Description: `<p>Good</p><script>alert(3)</script><a href="javascript:alert(4)">x</a><b onclick="x()">bold</b>`,
		Brand: hostile, Attributes: map[string]string{hostile: hostile}, Words: []string{hostile}}
	got, err := out.HandOver(t.Context(), "GB", "hostile", []place.Line{{Key: "h", SKU: x.skus[0], Do: place.DoChange, Content: &content}})
	require.NoError(t, err)
	require.Equal(t, place.Confirmed, got.Lines[0].State)
	for _, path := range []string{"/", "/p/" + x.skus[0], "/search?q=" + url.QueryEscape(hostile), "/c/Kit%20%3E%20Mugs", "/c/" + url.PathEscape(hostile)} {
		page := b.get(path)
		page.Find("script").Each(func(_ int, s *goquery.Selection) {
			assert.Equal(t, "application/ld+json", s.AttrOr("type", ""), path)
		})
		assert.Zero(t, page.Find("[onerror], [onclick], a[href^=javascript], main img:not([src^='/pictures/'])").Length(), path)
	}
	assert.Contains(t, b.get("/p/"+x.skus[0]).Find(".words").Text(), "Good")
	for _, q := range []string{`"`, `'`, `*`, `a AND`, `NEAR(`, `-`, `col:x`, `(`, strings.Repeat("mug ", 300), "\xff\xfe", "%00"} {
		assert.Equal(t, 200, b.get("/search?q="+url.QueryEscape(q)).status, q)
	}
	assert.Equal(t, 404, b.get("/c/nothing").status)
	assert.Equal(t, 404, b.get("/p/"+url.PathEscape("../../x")).status)
}

// Its pages are such as our own reader reads: what it sells comes back the same.
func TestOurOwnReaderReadsTheShop(t *testing.T) {
	x := newTill(t, 1, 6)
	b := x.buyer()
	res, err := b.client.Get(x.pages.URL + "/p/" + x.skus[0])
	require.NoError(t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	token, err := x.Sources.Bookmark(t.Context())
	require.NoError(t, err)
	f, err := x.Sources.HandIn(t.Context(), token, "Mirror", "https://kit.example/p/"+x.skus[0], raw)
	require.NoError(t, err)
	x.take(f.ID, *f.SourceID, true)
	found, err := x.Sources.Search(t.Context(), x.skus[0])
	require.NoError(t, err)
	at := slices.IndexFunc(found, func(r sources.Find) bool { return r.SourceID == *f.SourceID })
	require.GreaterOrEqual(t, at, 0, found)
	l := x.ours()[0]
	assert.Equal(t, [4]any{l.Title, x.skus[0], *l.ConfirmedPrice, int64(5)}, [4]any{found[at].Title, found[at].Ref, found[at].Cost, found[at].Stock})
}

// Search, categories and pages of them.
func TestLookingAroundInTheShop(t *testing.T) {
	x := newTill(t, 30, 6)
	b := x.buyer()
	front := b.get("/")
	assert.Equal(t, 24, front.Find(".cards li").Length())
	more := front.Find("a[rel=next]").AttrOr("href", "")
	assert.Equal(t, 6, b.get(more).Find(".cards li").Length())
	assert.Equal(t, "/c/Kit", front.Find("nav.cats a").First().AttrOr("href", ""))
	kit := b.get("/c/Kit")
	assert.Contains(t, kit.Find("main nav.cats").Text(), "Mugs 30", "what is below counts")
	assert.Equal(t, 24, kit.Find(".cards li").Length())
	row := x.ours()[7]
	word := strings.Fields(row.Title)[0]
	found := b.get("/search?q=" + url.QueryEscape(row.SKU))
	assert.Equal(t, row.Title, strings.TrimSpace(found.Find(".cards li .title").First().Text()))
	assert.NotZero(t, b.get("/search?q="+url.QueryEscape(strings.ToUpper(word[:3]))).Find(".cards li").Length(), "as far as it was typed")
	assert.Contains(t, b.get("/search?q=zzzz").text, "Nothing was found")
	assert.Equal(t, "/", b.get("/search?q=").path)

	// A former price is crossed out with what it is less by, rounded down.
	out := shop.Open("Own shop", x.Store, x.Now).Outlet
	_, err := out.HandOver(t.Context(), "GB", "former", []place.Line{{Key: "f", SKU: row.SKU, Do: place.DoChange, Content: &place.Content{Former: unitText(*row.ConfirmedPrice*100/67 + 1)}}})
	require.NoError(t, err)
	page := b.get("/p/" + row.SKU)
	assert.Equal(t, "−33 %", strings.TrimSpace(page.Find(".large .less").Text()))
	assert.Equal(t, 1, page.Find(".large s").Length())
}

// One shop of one's own is enough, its looks are checked, and two who set them meet.
func TestHowTheShopLooks(t *testing.T) {
	x := newTill(t, 1, 6)
	ctx := t.Context()
	_, err := x.Places.Make(ctx, places.NewPlace{Name: "Another", Country: "GB", Currency: "GBP", TaxWay: "none", Shop: true, Commission: "0", Fixed: "0", Charged: "0", Outbound: "0"})
	assert.ErrorContains(t, err, "of our own already")
	good := shop.Looks{Name: "Kit", Motto: "<b>Good</b>", Colour: "#FFCC00", Ground: "#111111", About: "Line one\nLine two"}
	for field, change := range map[string]func(l *shop.Looks){
		"name": func(l *shop.Looks) { l.Name = " " }, "colour": func(l *shop.Looks) { l.Colour = "red;}" }, "ground": func(l *shop.Looks) { l.Ground = "#12345" },
	} {
		bad := good
		change(&bad)
		assert.ErrorContains(t, x.Places.SetShop(ctx, stops.IfMatch{}, bad), map[string]string{"name": "needs a name", "colour": "no colour", "ground": "no colour"}[field])
	}
	require.NoError(t, x.Places.SetShop(ctx, stops.IfMatch{}, good))
	assert.Error(t, x.Places.SetShop(ctx, stops.IfMatch{IfMatch: `"0"`}, good), "somebody else set it")
	page := x.buyer().get("/")
	assert.Equal(t, "Kit <b>Good</b>", strings.Join(strings.Fields(page.Find(".name").Text()), " "))
	res, err := http.Get(x.pages.URL + "/style.css")
	require.NoError(t, err)
	defer res.Body.Close()
	css, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Contains(t, string(css), "--on-colour:#1D2733", "dark text on a bright colour")
	assert.Contains(t, string(css), "--text:#FFFFFF", "light text on a dark page")
	assert.Contains(t, x.buyer().get("/about").text, "Line two")
}

// What is on the shelves is read back whole, and orders that a buyer's shop keeps are
// told part by part.
func TestTheShopIsAPlaceLikeAnyOther(t *testing.T) {
	x := newTill(t, 3, 6)
	require.NoError(t, x.Sending.ReadBack(t.Context(), x.here.ID))
	x.idle()
	for _, l := range x.ours() {
		assert.Equal(t, store.ListingLive, l.State)
	}
	b := x.buyer()
	for range 3 {
		b.puts(x.skus[0], "1")
		require.Contains(t, b.post("/checkout", b.address()).path, "/order/")
	}
	port := shop.Open("Own shop", x.Store, x.Now).Orders
	all, cursor, err := port.Orders(t.Context(), "GB", "")
	require.NoError(t, err)
	require.Len(t, all, 3)
	none, same, err := port.Orders(t.Context(), "GB", cursor)
	require.NoError(t, err)
	assert.Empty(t, none)
	assert.Equal(t, cursor, same)
	answers := []place.OrderAnswer{{Line: "1", Do: place.OrderRefunded, Amount: 50}}
	for range 2 {
		require.NoError(t, port.Answer(t.Context(), "GB", all[0].Ref, "once", answers))
	}
	changed, _, err := port.Orders(t.Context(), "GB", cursor)
	require.NoError(t, err)
	require.Len(t, changed, 1)
	assert.Equal(t, int64(50), changed[0].Lines[0].Refunded, "the same key again changes nothing")
	assert.Error(t, port.Answer(t.Context(), "GB", all[0].Ref, "k", []place.OrderAnswer{{Line: "9", Do: place.OrderSent}}))
	assert.Error(t, port.Answer(t.Context(), "GB", "S-NONE", "k", answers))

	// Called off, its units are offered again.
	require.NoError(t, x.Orders.Cancel(t.Context(), lineIDs(x.lines("buy"))[:1]))
	x.idle()
	total, err := strconv.Atoi(regexp.MustCompile(`\d+`).FindString(strconv.FormatInt(x.ours()[0].Quantity, 10)))
	require.NoError(t, err)
	assert.Equal(t, 3, total, "six, one kept back, two still promised")
	_, err = x.Orders.Split(context.Background(), orders.Wanted{Lines: lineIDs(x.lines("buy"))})
	assert.NoError(t, err)
	sound(t, x.Store)
}

// Variants lead to each other by what sets them apart, and the shop's picture is one of
// its own, small enough.
func TestVariantsAndThePictureOfTheShop(t *testing.T) {
	x := newTill(t, 3, 6)
	out := shop.Open("Own shop", x.Store, x.Now).Outlet
	var lines []place.Line
	for i, size := range []string{"750 ml", "500 ml"} {
		lines = append(lines, place.Line{Key: size, SKU: x.skus[i], Do: place.DoChange, Content: &place.Content{Group: "Titan", Axes: map[string]string{"size": size}}})
	}
	none := int64(0)
	lines = append(lines, place.Line{Key: "none", SKU: x.skus[1], Quantity: &none})
	got, err := out.HandOver(t.Context(), "GB", "family", lines)
	require.NoError(t, err)
	for _, l := range got.Lines {
		require.Equal(t, place.Confirmed, l.State, l.Words)
	}
	page := x.buyer().get("/p/" + x.skus[0])
	assert.Equal(t, []string{"500 ml out of stock", "750 ml"}, page.Find(".variants a").Map(func(_ int, s *goquery.Selection) string { return strings.Join(strings.Fields(s.Text()), " ") }))
	assert.Equal(t, "/p/"+x.skus[1], page.Find(".variants a").First().AttrOr("href", ""))
	assert.Equal(t, "750 ml", strings.TrimSpace(page.Find(".variants a[aria-current]").Text()))
	assert.Zero(t, x.buyer().get("/p/"+x.skus[2]).Find(".variants").Length())

	img := imaging.New(1200, 400, color.NRGBA{47, 107, 94, 255})
	var raw bytes.Buffer
	require.NoError(t, imaging.Encode(&raw, img, imaging.PNG))
	sum := sha256.Sum256(raw.Bytes())
	digest := hex.EncodeToString(sum[:])
	assert.Error(t, shop.KeepPicture(t.Context(), x.Store, digest, []byte("no picture")))
	require.NoError(t, shop.KeepPicture(t.Context(), x.Store, digest, raw.Bytes()))
	require.NoError(t, x.Places.SetShop(t.Context(), stops.IfMatch{}, shop.Looks{Name: "Kit", Colour: "#2F6B5E", Ground: "#FBF9F4", Picture: digest}))
	src := x.buyer().get("/").Find("img.banner").AttrOr("src", "")
	assert.Equal(t, "/pictures/"+digest+".large.jpg", src)
	res, err := http.Get(x.pages.URL + src)
	require.NoError(t, err)
	defer res.Body.Close()
	shown, err := imaging.Decode(res.Body)
	require.NoError(t, err)
	assert.Equal(t, 960, shown.Bounds().Dx())
	assert.Equal(t, "image/jpeg", res.Header.Get("Content-Type"))
}

package e2e_test

import (
	"context"
	"net/http"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Somebody buys in the own shop, whose pages let no script run, and the order is among
// the others in the same moment. Each page is sound for those who can't see it.
func TestBuyingInTheOwnShop(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/")
	axe := axeText(t)
	s.MustNavigate(p.Shop + "/").MustWaitLoad()
	s.clean(axe, "the shop", "light")
	s.sees("nav", "Camp kitchen")
	s.sees(".cards li a", "frying pan").MustClick()
	s.MustWaitLoad()
	title := s.MustElement("h1").MustText()
	price := s.MustElement(".price.large b").MustText()
	s.sees("button", "Put into the basket").MustClick()
	s.sees("h1", "Your basket")
	s.sees("td", price)
	s.sees("a", "To the checkout").MustClick()
	s.sees("h1", "Where it goes")
	for field, text := range map[string]string{"name": "Ada Fell", "mail": "ada@post.example", "street": "1 Quay", "town": "Fenmouth", "postcode": "FN1 1AA"} {
		s.MustElement("#" + field).MustInput(text)
	}
	s.sees("button", "Order and pay").MustClick()
	s.sees("h1", "Thank you: your order S-")
	s.sees("td", title)
	order := s.MustInfo().URL

	type line struct{ Title, State, Site string }
	lines := ask[struct {
		Rows []line
	}](t, p, "/api/v1/order-lines?part=all").Rows
	at := slices.IndexFunc(lines, func(l line) bool { return l.Site == "Own shop" })
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, line{title, "new", "Own shop"}, lines[at])

	// The other pages, as everybody's browser shows them.
	for _, path := range []string{order, p.Shop + "/about", p.Shop + "/search?q=pan", p.Shop + "/c/Camp%20kitchen", p.Shop + "/basket", p.Shop + "/nothing"} {
		s.MustNavigate(path).MustWaitLoad()
		s.clean(axe, path, "light")
	}
	s.MustNavigate(p.Shop + "/search?q=pan").MustWaitLoad()
	s.sees(".cards li a", "pan").MustClick()
	s.MustWaitLoad()
	s.clean(axe, "a thing", "light")
	s.sees("button", "Put into the basket").MustClick()
	s.sees("h1", "Your basket")
	s.clean(axe, "a basket", "light")
	s.sees("a", "To the checkout").MustClick()
	s.sees("h1", "Where it goes")
	s.clean(axe, "the checkout", "light")

	res, err := http.Get(p.Shop + "/api/v1/counts")
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 404, res.StatusCode, "nothing of the application is there")
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'", "no script ran")

	// Its looks are set among the places.
	s.MustNavigate(p.URL + "/places")
	s.sees("[role=row]", "Own shop").MustClick()
	s.sees("a", p.Shop)
	name := s.labelled("^Its name$")
	name.MustSelectAllText()
	s.write(name, "Salt & Kit")
	s.press("Have it look so")
	s.sees("[role=status]", "Kept")
	s.MustNavigate(p.Shop + "/").MustWaitLoad()
	s.sees(".name", "Salt & Kit")
}

// The first view of the shop is light and quick: what comes over the wire before
// somebody scrolls, and how long until it is drawn.
func TestTheFirstViewOfTheShop(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "0")
	s := open(t, p, "/")
	require.NoError(t, proto.NetworkEnable{}.Call(s.Page))
	require.NoError(t, proto.NetworkSetCacheDisabled{CacheDisabled: true}.Call(s.Page))
	var bytes, requests atomic.Int64
	listening, end := context.WithCancel(t.Context())
	t.Cleanup(end)
	go s.Context(listening).EachEvent(func(e *proto.NetworkLoadingFinished) {
		bytes.Add(int64(e.EncodedDataLength))
		requests.Add(1)
	})()
	best := [2]float64{9999, 9999}
	for range 5 {
		bytes.Store(0)
		requests.Store(0)
		s.MustNavigate(p.Shop + "/").MustWaitLoad()
		require.NoError(t, s.WaitIdle(time.Minute))
		at := s.MustEval(`() => [performance.getEntriesByType("navigation")[0].responseEnd, performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? 9999]`).Arr()
		best = [2]float64{min(best[0], at[0].Num()), min(best[1], at[1].Num())}
	}
	t.Logf("first view: %d bytes in %d requests; there after %.0f ms, drawn after %.0f ms, the best of five", bytes.Load(), requests.Load(), best[0], best[1])
	assert.Greater(t, requests.Load(), int64(3), "page, style and pictures were counted")
	assert.Less(t, bytes.Load(), int64(100<<10))
	assert.Less(t, best[0], 200.0, "milliseconds until all of the page is there")
}

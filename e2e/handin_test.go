package e2e_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// drawn is a supplier's page behind a log-in whose product is drawn by script.
const drawn = `<!doctype html><title>Trade prices</title><main></main><script>
document.querySelector("main").innerHTML = "<h1>Ridge lantern</h1><script type=\"application/ld+json\">" + JSON.stringify({"@type": "Product",
	name: "Ridge lantern", sku: "RL-7", gtin13: "4006381333931", offers: {price: "18.40", priceCurrency: "GBP", availability: "InStock"}}) + "<\/script>"
</script>`

// The bookmark hands in the page a person is on, as they see it: one behind a
// log-in whose content is drawn by script. It is looked at before it is kept, and
// a page that opens our window by itself hands in nothing.
func TestAPageIsHandedInFromWhereAPersonIs(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--empty", "--speed", "60")
	supplier := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if _, err := r.Cookie("in"); err != nil && r.URL.Path != "/forger" {
			w.WriteHeader(http.StatusForbidden)
			return
		}
		w.Header().Set("Content-Type", "text/html")
		_, _ = fmt.Fprint(w, drawn)
	}))
	t.Cleanup(supplier.Close)
	s := open(t, p, "/sources")
	s.press("One page")
	s.press("Make the bookmark")
	link, err := s.MustElement("a[href^='javascript:']").Attribute("href")
	require.NoError(t, err)
	code, err := url.PathUnescape(strings.TrimPrefix(*link, "javascript:"))
	require.NoError(t, err)

	// Behind the log-in.
	s.MustSetCookies(&proto.NetworkCookieParam{Name: "in", Value: "1", URL: supplier.URL})
	s.MustNavigate(supplier.URL + "/trade/lantern?session=1").MustWaitLoad()
	s.sees("h1", "Ridge lantern")
	ours := s.MustWaitOpen()
	s.MustEval("() => " + code)
	window := screen{ours().Timeout(time.Minute), t, p}
	window.sees("[role=row], td, div", "Ridge lantern")
	window.sees("button", "Take this feed")
	var c struct {
		Products     int64 `json:"products"`
		SupplierRows int64 `json:"supplier_rows"`
	}
	require.NoError(t, p.Ask(http.MethodGet, "/api/v1/counts", nil, &c))
	assert.Zero(t, c.SupplierRows, "nothing is kept before it was looked at")

	// A forger: its window opens, and says that its bookmark is an old one.
	s.MustNavigate(supplier.URL + "/forger").MustWaitLoad()
	theirs := s.MustWaitOpen()
	s.MustEval(`(o) => { const w = window.open(o + "/hand-in", "another"); addEventListener("message", () => w.postMessage({token: "guessed", address: "https://a.example/", html: "<html></html>"}, "*")) }`, p.URL)
	forged := screen{theirs().Timeout(time.Minute), t, p}
	forged.sees("[role=alert]", "old one")
}

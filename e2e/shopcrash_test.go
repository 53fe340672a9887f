package e2e_test

import (
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

var totalOf = regexp.MustCompile(`name="total" value="(\d+)"`)

// shopper buys one of a thing in the shop, whatever happens to the shop meanwhile. It
// gives the order that it was thanked for; "" for none.
type shopper struct {
	client *http.Client
	did    chan<- struct{} // is told each step; nil: nobody listens
}

func (s *shopper) step() {
	if s.did != nil {
		s.did <- struct{}{}
	}
}

func (s *shopper) text(res *http.Response, err error) (string, string) {
	if err != nil {
		return "", ""
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return "", ""
	}
	return string(raw), res.Request.URL.Path
}

func (s *shopper) buys(shop, sku string) string {
	s.text(s.client.PostForm(shop+"/basket", url.Values{"sku": {sku}, "add": {"1"}, "quantity": {"1"}}))
	s.step()
	page, _ := s.text(s.client.Get(shop + "/checkout"))
	s.step()
	total := totalOf.FindStringSubmatch(page)
	if total == nil {
		return ""
	}
	form := url.Values{"name": {"Ada Fell"}, "mail": {"ada@post.example"}, "street": {"1 Quay"}, "town": {"Fenmouth"}, "postcode": {"FN1 1AA"}, "total": total[1:]}
	for range 2 { // and clicks again where nothing comes back
		if _, path := s.text(s.client.PostForm(shop+"/checkout", form)); strings.HasPrefix(path, "/order/") {
			s.step()
			return strings.TrimPrefix(path, "/order/")
		}
	}
	return ""
}

// Killed while buyers are at the checkout: whoever was thanked has an order, once, which
// the application has too; what left the shelves was ordered, and every invariant holds.
func TestKilledAtTheCheckout(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	start := func() *browser.Program { return program(t, "demo", "--data", dir, "--speed", "0") }
	p := start()
	page, _ := (&shopper{client: http.DefaultClient}).text(http.Get(p.Shop + "/"))
	sku := regexp.MustCompile(`href="/p/([^"]+)"`).FindStringSubmatch(page)[1]
	type row struct {
		Order string `json:"order"`
		Site  string `json:"site"`
	}
	orders := func() map[string]int {
		out := map[string]int{}
		for _, r := range ask[struct{ Rows []row }](t, p, "/api/v1/order-lines?part=all&limit=500").Rows {
			if r.Site == "Own shop" {
				out[r.Order]++
			}
		}
		return out
	}
	thanked := map[string]bool{}
	for _, steps := range []int{3, 6, 8} { // of the nine that three buyers make: at baskets, at the checkout, at the last order
		var mu sync.Mutex
		var wg sync.WaitGroup
		did := make(chan struct{}, 100)
		for range 3 {
			wg.Go(func() {
				jar, err := cookiejar.New(nil)
				if err != nil {
					return
				}
				s := &shopper{&http.Client{Jar: jar, Timeout: 10 * time.Second}, did}
				if ref := s.buys(p.Shop, sku); ref != "" {
					mu.Lock()
					thanked[ref] = true
					mu.Unlock()
				}
			})
		}
		for range steps {
			<-did
		}
		require.NoError(t, p.Kill())
		wg.Wait()
		sound(t, dir)
		p = start()
		have := orders()
		for ref := range thanked {
			assert.Equal(t, 1, have[ref], "%s was thanked for", ref)
		}
		for ref, n := range have {
			assert.Equal(t, 1, n, ref)
		}
	}
	assert.NotEmpty(t, thanked)

	// And it goes on selling.
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	ref := (&shopper{client: &http.Client{Jar: jar}}).buys(p.Shop, sku)
	assert.Equal(t, 1, orders()[ref], fmt.Sprint("the order ", ref))
	require.NoError(t, p.Kill())
	sound(t, dir)
}

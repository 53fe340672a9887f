package web_test

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"easymargin/internal/web"
)

// A server that has just started is asked many things at once, as by a browser
// that had its screens open: every one of them is answered.
func TestManyAskAtOnceJustAfterAStart(t *testing.T) {
	client := &http.Client{Timeout: 20 * time.Second}
	for start := range 20 {
		e := newEdge(t, web.Options{})
		var all sync.WaitGroup
		for i := range 18 {
			all.Go(func() {
				ask := []struct{ method, path, body string }{
					{"POST", "/api/v1/sources", fmt.Sprintf(`{"supplier":"Supplier %d","currency":"GBP","charge":"0","tax":"without"}`, i)},
					{"GET", "/api/v1/counts", ""},
					{"PUT", "/api/v1/exchange-rates", fmt.Sprintf(`{"from":"EUR","to":"GBP","rate":"0.%d"}`, 80+i)},
					{"POST", "/api/v1/feeds?name=list.csv", "ref,title,cost\nA,Mug,1.50\n"},
					{"GET", "/api/v1/today", ""},
					{"GET", "/api/v1/listings", ""},
				}[i%6]
				r, err := http.NewRequest(ask.method, e.URL+ask.path, strings.NewReader(ask.body))
				if !assert.NoError(t, err) {
					return
				}
				r.Header.Set("Content-Type", "application/json")
				if ask.method != http.MethodGet {
					r.Header.Set("Idempotency-Key", fmt.Sprintf("%d-%d", start, i))
				}
				res, err := client.Do(r)
				if assert.NoError(t, err, "start %d: %s %s was never answered", start, ask.method, ask.path) {
					assert.Less(t, res.StatusCode, 300, ask.path)
					assert.NoError(t, res.Body.Close())
				}
			})
		}
		all.Wait()
		if t.Failed() {
			return
		}
	}
}

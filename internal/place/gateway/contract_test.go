package gateway_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/place"
	"easymargin/internal/place/gateway"
	"easymargin/internal/sim"
)

// What a seller needs of a gateway, kept by the grown stand-in and by one that
// answers what was asked at first and nothing since, as it was recorded.
func TestTheContract(t *testing.T) {
	clock := sim.NewClock(time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC), 0)
	stand := &sim.Marketplace{Clock: clock, Sites: []sim.Site{{Code: "GB", Name: "Smallholm GB", Currency: "GBP", TaxWay: "included", TaxRate: 200_000, MaxLines: 50}},
		Categories: []sim.Category{{Ref: "mugs", Name: "Mugs"}},
		Entries:    []*sim.Entry{{Ref: "S-1", GTIN: "04006381333931", Title: "Enamel mug", Brand: "Tarnwick", Category: "mugs"}}}
	for name, g := range map[string]struct {
		handler http.Handler
		grown   bool
		pass    func()
	}{
		"stand-in":         {stand, true, func() { clock.Forward(time.Minute) }},
		"recorded minimal": {replay(t, "testdata/minimal.jsonl"), false, func() {}},
	} {
		t.Run(name, func(t *testing.T) {
			p := gateway.Dial("Smallholm", serve(t, g.handler.ServeHTTP), quick)
			contract(t, p, g.pass)
			for what, ask := range map[string]func() error{
				"demands": func() error { _, err := p.Directory.Demands(t.Context(), "GB", "mugs"); return err },
				"sold by": func() error { _, _, err := p.Rivals.SoldBy(t.Context(), "GB", "Other", ""); return err },
				"a sheet": func() error {
					_, err := p.Sheets.PutSheet(t.Context(), "GB", "k", "a.csv", []byte("sku\n"))
					return err
				},
				"picture": func() error { return p.Pictures.Upload(t.Context(), "00", "png", []byte("x")) },
			} {
				if err := ask(); !g.grown {
					assert.True(t, place.Forgotten(err), "%s: what it doesn't know is a plain no, not a fault: %v", what, err)
				}
			}
		})
	}
}

// contract is what every gateway keeps; pass lets its time pass.
func contract(t *testing.T, p place.Place, pass func()) {
	ctx := t.Context()
	sites, err := p.Directory.Sites(ctx)
	require.NoError(t, err)
	require.Len(t, sites, 1)
	assert.Equal(t, place.Site{Code: "GB", Name: "Smallholm GB", Currency: "GBP", TaxWay: "included", TaxRate: 200_000, MaxLines: 50}, sites[0], "what it says besides is ignored")
	cats, err := p.Directory.Categories(ctx, "GB")
	require.NoError(t, err)
	assert.Equal(t, []place.Category{{Ref: "mugs", Name: "Mugs"}}, cats)
	_, err = p.Directory.Fees(ctx, "GB")
	require.NoError(t, err)
	found, err := p.Catalogue.EntriesByNumber(ctx, "GB", []string{"04006381333931"})
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "S-1", found[0].Ref)
	assert.Nil(t, found[0].Rating, "what it doesn't tell is unknown, not none")
	one, err := p.Catalogue.Entry(ctx, "GB", "S-1")
	require.NoError(t, err)
	assert.Equal(t, "Enamel mug", one.Title)

	price, quantity := int64(1290), int64(3)
	lines := []place.Line{{Key: "contract-1", SKU: "CO-1", Entry: "S-1", Price: &price, Quantity: &quantity},
		{Key: "contract-2", SKU: "CO-2", Entry: "S-9", Price: &price, Quantity: &quantity}}
	b, err := p.Outlet.HandOver(ctx, "GB", "contract", lines)
	require.NoError(t, err)
	again, err := p.Outlet.HandOver(ctx, "GB", "contract", lines)
	require.NoError(t, err)
	assert.Equal(t, b.ID, again.ID, "the same key is the same batch")
	for range 50 {
		if b.State == place.BatchDone {
			break
		}
		pass()
		b, err = p.Outlet.Follow(ctx, "GB", b.ID)
		require.NoError(t, err)
	}
	require.Equal(t, place.BatchDone, b.State)
	said := map[string]place.Outcome{}
	for _, o := range b.Lines {
		said[o.Key] = o
	}
	assert.Equal(t, place.Confirmed, said["contract-1"].State)
	assert.Equal(t, place.Refused, said["contract-2"].State)
	assert.NotEmpty(t, said["contract-2"].Words)
	there, next, err := p.Outlet.Listings(ctx, "GB", "")
	require.NoError(t, err)
	assert.Empty(t, next)
	assert.Equal(t, []place.Listing{{SKU: "CO-1", Entry: "S-1", Price: 1290, Quantity: 3}}, there)
}

// replay answers as was recorded: a line for each question, with the batch it had
// to be given and the key. What was never asked then is unknown to it.
func replay(t *testing.T, file string) http.Handler {
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	type exchange struct {
		Ask, Key     string
		Body, Answer json.RawMessage
	}
	known := map[string]exchange{}
	for s := bufio.NewScanner(f); s.Scan(); {
		var x exchange
		require.NoError(t, json.Unmarshal(s.Bytes(), &x))
		known[x.Ask] = x
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		x, ok := known[r.Method+" "+r.URL.RequestURI()]
		if !ok {
			w.WriteHeader(http.StatusNotFound)
			_, _ = fmt.Fprintf(w, `{"detail":"nothing is at %s"}`, r.URL.Path)
			return
		}
		assert.Equal(t, x.Key, r.Header.Get("Idempotency-Key"))
		if x.Body != nil {
			body, err := io.ReadAll(r.Body)
			assert.NoError(t, err)
			assert.JSONEq(t, string(x.Body), string(body), "an offer is said as it was at first: no field more")
		}
		w.Header().Set("Content-Type", "application/json")
		_, _ = w.Write(x.Answer)
	})
}

package sim_test

import (
	"bytes"
	"encoding/json"
	"image/png"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
)

var start = time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC)

func world() *sim.World {
	clock := sim.NewClock(start, 0)
	return &sim.World{
		Clock: clock,
		Pages: sim.Pages{"/hello": {Type: "text/html", Body: []byte("hello")}},
		Lists: map[string]*sim.Supplier{
			"/list": {
				Clock: clock,
				Every: 15 * time.Minute,
				Type:  "text/csv",
				Lists: [][]byte{[]byte("one " + sim.OwnHost + "/pic/x.png"), []byte("two")},
			},
		},
		Market: &sim.Marketplace{
			Clock:     clock,
			Name:      "Quaymarket",
			Seller:    "Saltmarsh Kit",
			FirstWait: time.Minute,
			LineWait:  time.Second,
			Sites:     []sim.Site{{Code: "GB", Name: "Quaymarket GB", Currency: "GBP", MaxLines: 2}},
			Entries: []*sim.Entry{
				{Ref: "E1", GTIN: "09520000000011", Title: "Tarnwick <b>mug</b>", Page: "/e/E1", Picture: "/pic/E1.svg"},
				{Ref: "E2", Title: "Pot", Leave: true, Page: "/e/E2"},
			},
		},
	}
}

func call(t *testing.T, h http.Handler, method, path, body string, more ...string) (int, string, http.Header) {
	r := httptest.NewRequest(method, path, strings.NewReader(body))
	for i := 0; i+1 < len(more); i += 2 {
		r.Header.Set(more[i], more[i+1])
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	text, err := io.ReadAll(w.Result().Body)
	require.NoError(t, err)
	return w.Code, string(text), w.Result().Header
}

const batch = `{"lines":[{"key":"k1","sku":"S1","entry":"E1","price":1999,"quantity":5},{"key":"k2","sku":"S2","entry":"E2","price":500,"quantity":1}]}`

// Batches take their time, are answered line by line, and never work twice,
// not even across a restart of the stand-ins.
func TestBatches(t *testing.T) {
	file := filepath.Join(t.TempDir(), "standins.json")
	w := world()
	require.NoError(t, w.Keep(file))
	send := func(w *sim.World, key, body string) (int, string) {
		code, text, _ := call(t, w.Market, "POST", "/gateway/v1/sites/GB/batches", body, "Idempotency-Key", key)
		return code, text
	}
	code, text := send(w, "a", batch)
	assert.Equal(t, 200, code)
	assert.Contains(t, text, `"state":"working"`)
	_, again := send(w, "a", batch)
	assert.Equal(t, text, again)
	w.Clock.Forward(time.Minute)
	_, half, _ := call(t, w.Market, "GET", "/gateway/v1/sites/GB/batches/B1001", "")
	assert.Equal(t, 1, strings.Count(half, `"key"`), "one line is answered, the other not yet: %s", half)
	w.Save()

	next := world()
	require.NoError(t, next.Keep(file))
	assert.Equal(t, w.Clock.Now(), next.Clock.Now())
	next.Clock.Forward(time.Hour)
	_, whole, _ := call(t, next.Market, "GET", "/gateway/v1/sites/GB/batches/B1001", "")
	assert.Contains(t, whole, `"state":"done"`)
	assert.Contains(t, whole, "under review")
	send(next, "b", `{"lines":[{"key":"k1","sku":"S1","entry":"E1","price":1,"quantity":0}]}`)
	next.Clock.Forward(time.Hour)
	_, own, _ := call(t, next.Market, "GET", "/gateway/v1/sites/GB/listings", "")
	assert.JSONEq(t, `{"listings":[{"sku":"S1","entry":"E1","price":1999,"quantity":5}]}`, own, "a line that was done is not done again")

	for body, want := range map[string]int{`{"lines":[]}`: 400, `{`: 400, `{"lines":[{},{},{}]}`: 400} {
		code, _ := send(next, "c", body)
		assert.Equal(t, want, code, body)
	}
	code, _ = send(next, "", batch)
	assert.Equal(t, 400, code, "a batch needs a key")
	code, _, _ = call(t, next.Market, "GET", "/gateway/v1/sites/FR/fees", "")
	assert.Equal(t, 404, code)
	next.Market.SetDown(true)
	code, _, _ = call(t, next.Market, "GET", "/gateway/v1/sites", "")
	assert.Equal(t, 503, code)
}

func TestThePublicPageShowsOurOffer(t *testing.T) {
	w := world()
	call(t, w.Market, "POST", "/gateway/v1/sites/GB/batches", batch, "Idempotency-Key", "a")
	w.Clock.Forward(time.Hour)
	_, page, _ := call(t, w.Market, "GET", "/e/E1", "")
	assert.Contains(t, page, "19.99 GBP")
	assert.Contains(t, page, "5 in stock")
	assert.Contains(t, page, "&lt;b&gt;mug", "titles are text")
	code, _, _ := call(t, w.Market, "GET", "/e/none", "")
	assert.Equal(t, 404, code)
	var found struct{ Entries []sim.Entry }
	_, text, _ := call(t, w.Market, "GET", "/gateway/v1/sites/GB/entries?words=tarnwick", "")
	require.NoError(t, json.Unmarshal([]byte(text), &found))
	assert.Equal(t, "http://example.com/e/E1", found.Entries[0].Page)
}

func TestASuppliersListMovesWithTheClock(t *testing.T) {
	w := world()
	s := w.Suppliers()
	code, text, head := call(t, s, "GET", "/list", "")
	assert.Equal(t, [2]any{200, "one http://example.com/pic/x.png"}, [2]any{code, text})
	code, _, _ = call(t, s, "GET", "/list", "", "If-None-Match", head.Get("ETag"))
	assert.Equal(t, 304, code)
	w.Clock.Forward(16 * time.Minute)
	_, text, _ = call(t, s, "GET", "/list", "", "If-None-Match", head.Get("ETag"))
	assert.Equal(t, "two", text)
	_, text, _ = call(t, s, "GET", "/hello", "")
	assert.Equal(t, "hello", text)
	_, text, _ = call(t, s, "GET", "/pic/mugs-A1.png", "")
	cfg, err := png.DecodeConfig(bytes.NewReader([]byte(text)))
	require.NoError(t, err)
	assert.Equal(t, 640, cfg.Width)
	code, _, _ = call(t, s, "GET", "/pic/mugs-A1.svg", "")
	assert.Equal(t, 404, code)
}

// Offers are asked for by the entry; ours is among them while it has stock, and
// a dearer site asks more.
func TestOffersOfSeveralEntries(t *testing.T) {
	w := world()
	w.Market.Sites = append(w.Market.Sites, sim.Site{Code: "IE", Currency: "EUR", Dearer: 124})
	w.Market.Entries[0].Offers = []sim.Offer{{Seller: "Lowfell Stores", Item: 2399, Delivery: 299, Lead: true}}
	offers := func(site, refs string) map[string][]sim.Offer {
		code, text, _ := call(t, w.Market, "GET", "/gateway/v1/sites/"+site+"/offers?entries="+refs, "")
		require.Equal(t, 200, code, text)
		var out struct {
			Entries []struct {
				Ref    string
				Offers []sim.Offer
			}
		}
		require.NoError(t, json.Unmarshal([]byte(text), &out))
		by := map[string][]sim.Offer{}
		for _, e := range out.Entries {
			by[e.Ref] = e.Offers
		}
		return by
	}
	got := offers("GB", "E1,E2,none")
	assert.Equal(t, w.Market.Entries[0].Offers, got["E1"])
	assert.Equal(t, []sim.Offer{}, got["E2"])
	assert.NotContains(t, got, "none")
	call(t, w.Market, "POST", "/gateway/v1/sites/GB/batches", batch, "Idempotency-Key", "a")
	w.Clock.Forward(time.Hour)
	assert.Contains(t, offers("GB", "E1")["E1"], sim.Offer{Seller: "Saltmarsh Kit", Item: 1999, Ours: true})
	assert.Equal(t, []sim.Offer{{Seller: "Lowfell Stores", Item: 2999, Delivery: 370, Lead: true}}, offers("IE", "E1")["E1"])
	code, text, _ := call(t, w.Market, "GET", "/gateway/v1/sites/GB/offers?entries="+strings.Repeat("E1,", 101), "")
	assert.Equal(t, 400, code)
	assert.Contains(t, text, "at most 100")
}

// Rates go both ways, near enough, and wander from day to day.
func TestRatesWander(t *testing.T) {
	clock := sim.NewClock(start, 0)
	r := &sim.Rates{Clock: clock, Worth: map[string]int64{"GBP": 1_000_000, "EUR": 861_200, "JPY": 5_240}}
	type answer struct {
		To, Day string
		Rates   map[string]string
	}
	get := func(to string) answer {
		code, text, _ := call(t, r, "GET", "/?to="+to, "")
		require.Equal(t, 200, code)
		var a answer
		require.NoError(t, json.Unmarshal([]byte(text), &a))
		return a
	}
	today := get("gbp")
	assert.Equal(t, [2]string{"GBP", "2026-03-03"}, [2]string{today.To, today.Day})
	assert.Len(t, today.Rates, 2)
	assert.Regexp(t, `^0\.8[5-7]\d{4}$`, today.Rates["EUR"])
	assert.Regexp(t, `^1\.1[5-7]\d{4}$`, get("EUR").Rates["GBP"])
	clock.Forward(24 * time.Hour)
	assert.NotEqual(t, today.Rates, get("GBP").Rates)
	code, _, _ := call(t, r, "GET", "/?to=ZZZ", "")
	assert.Equal(t, 404, code)
}

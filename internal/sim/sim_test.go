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
	return &sim.World{Clock: clock, Pages: sim.Pages{"/hello": {Type: "text/html", Body: []byte("hello")}},
		Lists: map[string]*sim.Supplier{"/list": {Clock: clock, Every: 15 * time.Minute, Type: "text/csv", Lists: [][]byte{[]byte("one " + sim.OwnHost + "/pic/x.png"), []byte("two")}}},
		Market: &sim.Marketplace{Clock: clock, Name: "Quaymarket", Seller: "Saltmarsh Kit", FirstWait: time.Minute, LineWait: time.Second,
			Sites:   []sim.Site{{Code: "GB", Name: "Quaymarket GB", Currency: "GBP", MaxLines: 2}},
			Entries: []*sim.Entry{{Ref: "E1", GTIN: "09520000000011", Title: "Tarnwick <b>mug</b>", Page: "/e/E1", Picture: "/pic/E1.svg"}, {Ref: "E2", Title: "Pot", Leave: true, Page: "/e/E2"}}}}
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
	assert.Contains(t, whole, "You need leave")
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

package web_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/place/gateway"
	"easymargin/internal/sim"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

// edge is the API over a real file, served as it is.
type edge struct {
	*httptest.Server
	t     *testing.T
	house *house.House
}

func newEdge(t *testing.T, o web.Options, password ...string) *edge {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := house.New(
		house.Options{
			Store:      s,
			FirstPause: time.Nanosecond,
			Gateway:    gateway.Options{Tries: 1},
			Poll:       time.Millisecond,
			Password:   strings.Join(password, ""),
		},
	)
	require.NoError(t, h.Start(t.Context()))
	o.Stops, o.People, o.Events, o.Clock = h.Stops(), h.People, h.Events, h.Now
	served, _ := web.New(o)
	e := &edge{httptest.NewServer(served), t, h}
	t.Cleanup(func() {
		e.Close()
		h.Close()
		require.NoError(t, s.Close())
	})
	return e
}

type answer struct {
	status int
	header http.Header
	text   string
}

// problem is the answer as problem+json, RFC 9457.
func (a answer) problem(t *testing.T) (detail, location string) {
	var p struct {
		Status int
		Detail string
		Errors []struct{ Location, Message string }
	}
	assert.Contains(t, a.header.Get("Content-Type"), "application/problem+json")
	require.NoError(t, json.Unmarshal([]byte(a.text), &p), a.text)
	assert.Equal(t, a.status, p.Status)
	if len(p.Errors) > 0 {
		location = p.Errors[0].Location
	}
	return p.Detail, location
}

func (e *edge) ask(method, path, body string, change ...func(r *http.Request)) answer {
	r, err := http.NewRequest(method, e.URL+path, strings.NewReader(body))
	require.NoError(e.t, err)
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for _, c := range change {
		c(r)
	}
	res, err := http.DefaultClient.Do(r)
	require.NoError(e.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(e.t, err)
	return answer{res.StatusCode, res.Header, string(text)}
}

func header(name, value string) func(r *http.Request) {
	return func(r *http.Request) { r.Header.Set(name, value) }
}

const newSource = `{"supplier":"Tidewrack","currency":"GBP","charge":"0","tax":"without"}`

func TestOnlyTheRightHostAndOriginAreServed(t *testing.T) {
	e := newEdge(t, web.Options{Hosts: []string{"shop.example"}})
	host := func(name string) func(r *http.Request) { return func(r *http.Request) { r.Host = name } }
	for name, want := range map[string]int{"127.0.0.1:8640": 200, "localhost": 200, "[::1]:8640": 200, "shop.example": 200, "evil.example": 403, "127.0.0.1.evil.example": 403, "192.168.1.5": 403} {
		got := e.ask("GET", "/api/v1/counts", "", host(name))
		assert.Equal(t, want, got.status, name)
	}
	detail, _ := e.ask("GET", "/api/v1/counts", "", host("evil.example")).problem(t)
	assert.Contains(t, detail, "--host")
	for _, c := range []struct {
		name, value string
		want        int
	}{{"Sec-Fetch-Site", "cross-site", 403}, {"Sec-Fetch-Site", "same-origin", 200}, {"Origin", "https://evil.example", 403},
		{"Origin", e.URL, 409}} {
		assert.Equal(t, c.want, e.ask("POST", "/api/v1/sources", newSource, header(c.name, c.value)).status, "%s: %s", c.name, c.value)
	}
}

func TestAWriteWithAKeyIsDoneOnce(t *testing.T) {
	e := newEdge(t, web.Options{})
	first := e.ask("POST", "/api/v1/sources", newSource, header("Idempotency-Key", "k1"))
	assert.Equal(t, 200, first.status)
	again := e.ask("POST", "/api/v1/sources", newSource, header("Idempotency-Key", "k1"))
	assert.Equal(t, first.text, again.text, "the same answer")
	other := e.ask("POST", "/api/v1/sources", newSource, header("Idempotency-Key", "k2"))
	assert.Equal(t, 409, other.status)
	detail, location := other.problem(t)
	assert.Contains(t, detail, "already")
	assert.Equal(t, "body.name", location)
	assert.Equal(t, other.text, e.ask("POST", "/api/v1/sources", newSource, header("Idempotency-Key", "k2")).text, "a no stays a no")
	assert.Equal(t, 400, e.ask("POST", "/api/v1/sources", newSource, header("Idempotency-Key", strings.Repeat("k", 201))).status)
	done := make(chan answer)
	for range 4 {
		go func() {
			done <- e.ask("POST", "/api/v1/sources", strings.Replace(newSource, "Tidewrack", "Fernhollow", 1), header("Idempotency-Key", "at once"))
		}()
	}
	for range 4 {
		assert.Equal(t, 200, (<-done).status)
	}
	assert.Equal(t, 2, strings.Count(e.ask("GET", "/api/v1/sources", "").text, `"supplier":`))
}

// A key is for one request, whole: another address, query or body with it is a mistake.
func TestAKeyIsForOneRequest(t *testing.T) {
	e := newEdge(t, web.Options{})
	key := header("Idempotency-Key", "k")
	require.Equal(t, 201, e.ask("POST", "/api/v1/feeds?name=a.csv", "ref,title,cost\nA,Mug,1.50\n", key).status)
	assert.Equal(t, 201, e.ask("POST", "/api/v1/feeds?name=a.csv", "ref,title,cost\nA,Mug,1.50\n", key).status)
	for _, c := range [][3]string{
		{"POST", "/api/v1/feeds?name=a.csv", "ref,title,cost\nA,Mug,1.60\n"},
		{"POST", "/api/v1/feeds?name=b.csv", "ref,title,cost\nA,Mug,1.50\n"},
		{"POST", "/api/v1/feeds/1/discard", ""},
	} {
		got := e.ask(c[0], c[1], c[2], key)
		assert.Equal(t, 422, got.status, "%v: %s", c, got.text)
		assert.Contains(t, got.text, "use a new one")
	}
	feeds, err := e.house.Store.Feeds(t.Context(), 0, store.Page{})
	require.NoError(t, err)
	assert.Equal(t, int64(1), feeds.Total, "and none of them was done")
	assert.Equal(t, store.FeedLooked, feeds.Rows[0].State)
}

func TestErrorsAreProblems(t *testing.T) {
	e := newEdge(t, web.Options{})
	for _, c := range []struct {
		method, path, body string
		status             int
		detail, location   string
	}{
		{"GET", "/api/v1/feeds/99", "", 404, "no such thing", ""},
		{"GET", "/api/nothing", "", 404, "the API has nothing", ""},
		{"PUT", "/api/v1/feeds", "", 405, "PUT is not one of its methods", ""},
		{"POST", "/api/v1/sources", `{"supplier":"X","currency":"pounds"}`, 422, "", "body.currency"},
		{"POST", "/api/v1/sources", `{"supplier":"X","currency":"XXY"}`, 422, "currency code", "body.currency"},
		{"POST", "/api/v1/sources", `{"supplier":"X","currency":"GBP","charge":"12,5,0"}`, 422, "not an amount", "body.charge"},
		{"POST", "/api/v1/sources", `{"supplier":"X","currency":"GBP","address":"ftp://x"}`, 422, "neither an address", "body.address"},
		{"POST", "/api/v1/sources", `{"supplier":`, 400, "", "body"},
		{"POST", "/api/v1/feeds?source_id=x", "a", 422, "", "query.source_id"},
		{"POST", "/api/v1/feeds?name=x", "nothing with columns", 422, "no file that can be read", ""},
		{"POST", "/api/v1/pages", `{"address":"javascript:1"}`, 422, "not an address", "body.address"},
		{"POST", "/api/v1/marketplaces", `{"name":"Q","address":"http://127.0.0.1:1"}`, 502, "can't be reached", ""},
		{"POST", "/api/v1/marketplaces", `{"name":"","address":"http://gateway.example"}`, 422, "body.name: write something here", "body.name"},
		{"POST", "/api/v1/marketplaces", `{"name":"Q"}`, 422, "address is missing", "body"},
		{"POST", "/api/v1/places", `{"name":"Q","country":"GB","currency":"GBP","tax_way":"both"}`, 422, "must be one of included", "body.tax_way"},
		{"POST", "/api/v1/places", `{"name":"Q","country":"GB","currency":"GBP","tax_way":"none","commission":"9%","fixed":"0","charged":"0"}`, 422, "say what sending one costs you", "body.outbound"},
		{"GET", "/api/v1/listings?sort=nothing", "", 422, "not known", ""},
		{"POST", "/api/v1/demo/advance", `{"minutes":5}`, 404, "demo", ""},
	} {
		got := e.ask(c.method, c.path, c.body)
		assert.Equal(t, c.status, got.status, "%s %s: %s", c.method, c.path, got.text)
		detail, location := got.problem(t)
		assert.Contains(t, detail, c.detail, c.path)
		assert.Equal(t, c.location, location, c.path)
	}
}

func TestATooLargeFileIsRefusedBeforeItComes(t *testing.T) {
	e := newEdge(t, web.Options{})
	r := httptest.NewRequest("POST", "/api/v1/feeds?name=x", strings.NewReader("x"))
	r.ContentLength, r.Host = 1<<30, "localhost"
	w := httptest.NewRecorder()
	h, _ := web.New(web.Options{Stops: e.house.Stops(), People: e.house.People, Events: e.house.Events, Clock: e.house.Now})
	h.ServeHTTP(w, r)
	assert.Equal(t, 413, w.Code)
	assert.Contains(t, w.Body.String(), "1024 MiB, and 512 MiB is the most")
	// One that doesn't say how long it is, is cut off all the same, and leaves nothing.
	before, err := os.ReadDir(e.house.Store.Inbox(""))
	require.NoError(t, err)
	assert.Empty(t, before)
}

// From upload to set-aside rows, as a script would.
func TestBringingInThroughTheAPI(t *testing.T) {
	e := newEdge(t, web.Options{})
	got := e.ask("POST", "/api/v1/feeds?name=list.csv", "sku,title,price\nA,Mug,1.50\nB,,2\n")
	require.Equal(t, 201, got.status, got.text)
	var feed struct {
		ID    int64
		State string
		Look  struct {
			Columns []struct{ Name, Field string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(got.text), &feed))
	assert.Equal(t, "looked", feed.State)
	assert.Equal(t, "cost", feed.Look.Columns[2].Field)
	checked := e.ask("POST", "/api/v1/feeds/1/check", `{}`)
	assert.Contains(t, checked.text, `"set_aside":1`)
	require.Equal(t, 200, e.ask("POST", "/api/v1/sources", newSource).status)
	events, err := http.Get(e.URL + "/api/v1/events")
	require.NoError(t, err)
	defer events.Body.Close()
	require.Equal(t, 200, e.ask("POST", "/api/v1/feeds/1/take", `{"source_id":1,"once":true}`).status)
	lines := bufio.NewScanner(events.Body)
	for lines.Scan() {
		if strings.Contains(lines.Text(), `"kind":"intake"`) && strings.Contains(lines.Text(), `"state":"done"`) {
			break
		}
	}
	assert.Contains(t, e.ask("GET", "/api/v1/feeds/1", "").text, `"state":"taken"`)
	file := e.ask("GET", "/api/v1/feeds/1/rejected-rows/export.csv", "")
	assert.Contains(t, file.header.Get("Content-Disposition"), "attachment")
	assert.Equal(t, "sku,title,price,why it was set aside\nB,,2,title: the title is missing\n", file.text)
	assert.Equal(t, 404, e.ask("GET", "/api/v1/feeds/9/rejected-rows/export.csv", "").status)
	assert.Equal(t, 409, e.ask("POST", "/api/v1/feeds/1/take", `{"source_id":1}`).status, "taken is taken")
	mended := e.ask("POST", "/api/v1/rejected-rows/1/mend", `{"cells":["B","","2"]}`)
	assert.Equal(t, 422, mended.status)
	assert.Contains(t, mended.text, "still not")
	assert.Equal(t, 200, e.ask("POST", "/api/v1/rejected-rows/1/mend", `{"cells":["B","Pot","2"]}`).status)
	assert.Equal(t, 404, e.ask("GET", "/api/v1/pictures/..%2F..%2Fsecret.key", "").status)
}

func TestHeadersAndTheFrontEnd(t *testing.T) {
	e := newEdge(t, web.Options{})
	got := e.ask("GET", "/api/v1/counts", "")
	assert.Contains(t, got.header.Get("Content-Security-Policy"), "default-src 'self'")
	assert.Equal(t, "nosniff", got.header.Get("X-Content-Type-Options"))
	assert.Equal(t, "no-store", got.header.Get("Cache-Control"))
	page := e.ask("GET", "/watch?open=3", "")
	if page.status == 200 { // built in; without it the server says how to build it
		assert.Contains(t, page.text, `<div id="root">`)
	} else {
		assert.Contains(t, page.text, "make build")
	}
	var described map[string]any
	require.NoError(t, json.NewDecoder(bytes.NewBufferString(e.ask("GET", "/api/v1/openapi.json", "").text)).Decode(&described))
	for _, path := range []string{"/feeds", "/feeds/{id}/check", "/supplier-products", "/plans/{id}/submit", "/events"} {
		assert.Contains(t, described["paths"], path)
	}
}

// What is wrong with a request is said without what was in it, and nothing of it is
// kept: neither a password nor a megabyte that was sent comes back.
// What makes a client of the description needs names that are names, and a description
// in words; whoever reads it finds it in the browser.
func TestTheAPIIsDescribed(t *testing.T) {
	e := newEdge(t, web.Options{})
	page := e.ask("GET", "/api/docs", "")
	if page.status == http.StatusOK { // the page is built in
		assert.Contains(t, page.text, "/assets/api-docs", "its script")
	}
	var described struct {
		Paths      map[string]map[string]struct{ Description string }
		Components struct{ Schemas map[string]any }
	}
	require.NoError(t, json.Unmarshal([]byte(e.ask("GET", "/api/v1/openapi.json", "").text), &described))
	require.Greater(t, len(described.Components.Schemas), 300)
	for name := range described.Components.Schemas {
		assert.Regexp(t, `^[A-Z][A-Za-z0-9]*$`, name)
	}
	require.NotEmpty(t, described.Paths["/plans/{id}/submit"])
	assert.Contains(t, described.Paths["/plans/{id}/submit"]["post"].Description, "*send*")
}

func TestWhatIsRefusedIsNeitherKeptNorSaidBack(t *testing.T) {
	e := newEdge(t, web.Options{})
	for i, body := range []string{
		`{"host":"mail.example","port":99999,"security":"tls","from":"a@b.example","to":"a@b.example","password":"open sesame"}`,
		`{"host":"mail.example","port":25,"security":"none","from":"nobody","to":"a@b.example","password":"open sesame"}`,
		`{"host":"mail.example","port":25,"security":"open sesame"}`,
		`{"host":"mail.example","port":25,"security":"none","from":"a@b.example","to":"a@b.example","password":["open sesame"]}`,
		`{"host":"` + strings.Repeat("open sesame", 80_000) + `"}`,
		`{"password":"open sesame"`,
	} {
		got := e.ask("PUT", "/api/v1/mail-settings", body, header("Idempotency-Key", fmt.Sprint("k", i)))
		assert.GreaterOrEqual(t, got.status, 400)
		assert.NotContains(t, got.text, "open sesame")
		assert.Less(t, len(got.text), 4096)
	}
	require.Equal(t, 200, e.ask("PUT", "/api/v1/mail-settings", `{"host":"mail.example","port":25,"security":"none","from":"a@b.example","to":"a@b.example","password":"open sesame"}`, header("Idempotency-Key", "k0")).status, "what wasn't done may be tried again with its key")
	text, err := os.ReadFile(e.house.Store.File())
	require.NoError(t, err)
	log, err := os.ReadFile(e.house.Store.File() + "-wal")
	require.NoError(t, err)
	assert.NotContains(t, string(text)+string(log), "open sesame")
}

// What only asks is answered anew each time, and an id that is nowhere is missing, not a
// mistake of the program.
func TestQuestionsAreAnsweredAnewAndUnknownIDsAreMissing(t *testing.T) {
	s := newStall(t, func(x *sim.Entry) bool { return x.Category == "mugs" })
	e := s.edge
	s.do(200, "POST", "/api/v1/marketplaces", fmt.Sprintf(`{"name":"Quaymarket","address":%q}`, s.url))
	s.do(200, "PUT", "/api/v1/sites/1/terms", `{"charged":"0","outbound":"0","handling":"0","cushion":"0%","allowances":[]}`)
	for _, ask := range []struct{ path, body string }{{"/api/v1/quotes", `{"site_id":1,"cost":{"unit":"5.00"},"lead":"profit","value":"5.00"}`}, {"/api/v1/sites/1/rules/backtest", `{"id":0,"name":"x","fits":{},"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`},
		{"/api/v1/sites/1/policy/try", `{"figures":{"small":"1%"}}`}} {
		first := e.ask("POST", ask.path, ask.body, header("Idempotency-Key", "ask"))
		require.Equal(t, 200, first.status, first.text)
	}
	for _, write := range []struct{ method, path, body string }{
		{"POST", "/api/v1/candidates/shortlist", `{"items":[999999]}`}, {"POST", "/api/v1/candidates/reject", `{"items":[999999],"reason":"x"}`}, {"POST", "/api/v1/candidates/restore", `{"items":[999999]}`},
		{"POST", "/api/v1/runs/999999/stop", ""}, {"POST", "/api/v1/runs/999999/retry", ""}, {"PUT", "/api/v1/supplier-products/999999/shortlisting", `{}`}, {"POST", "/api/v1/preparations/visibility", `{"ids":[999999],"hidden":true}`},
		{"POST", "/api/v1/matches/decide", `{"matches":[{"id":999999,"entry":"x"}]}`}, {"POST", "/api/v1/purchases", `{"lines":[999999],"choice":{"999999":1}}`}, {"POST", "/api/v1/submissions/999999/retry", `{}`},
	} {
		got := e.ask(write.method, write.path, write.body)
		assert.Less(t, got.status, 500, "%s %s: %s", write.method, write.path, got.text)
	}
}

package web_test

import (
	"bufio"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"fmt"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/actor"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
	"easymargin/internal/stops/places"
	"easymargin/internal/web"
)

// dataOf is all that a file of data says, as one digest for each table; what only says
// who asked when is left out.
func dataOf(t *testing.T, file string) map[string]string {
	db, err := sql.Open("sqlite3", "file:"+file+"?mode=ro")
	require.NoError(t, err)
	defer db.Close()
	list := func(query string) (out []string) {
		rows, err := db.Query(query)
		require.NoError(t, err)
		defer rows.Close()
		names, err := rows.Columns()
		require.NoError(t, err)
		for rows.Next() {
			cells, to := make([]any, len(names)), make([]any, len(names))
			for i := range cells {
				to[i] = &cells[i]
			}
			require.NoError(t, rows.Scan(to...))
			out = append(out, fmt.Sprint(cells...))
		}
		require.NoError(t, rows.Err())
		return out
	}
	out := map[string]string{}
	for _, name := range list("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'") {
		if name = strings.Trim(name, "[]"); name == "answers" || name == "sessions" || name == "devices" {
			continue
		}
		sum := sha256.New()
		rows := list("SELECT * FROM \"" + name + "\"")
		slices.Sort(rows)
		for _, row := range rows {
			sum.Write([]byte(row))
		}
		out[name] = hex.EncodeToString(sum.Sum(nil))
	}
	return out
}

// asked are operations that only ask, though they carry a body, each with one that is
// right for the shop below.
var asked = map[string]string{
	"POST /api/v1/quotes":                              `{"site_id":1,"product_id":1,"lead":"profit","value":"5.00"}`,
	"POST /api/v1/quotes/by-site":                      `{"site_id":1,"product_id":1}`,
	"POST /api/v1/listings/reprice/check":              `{"listings":[1],"by":"10%"}`,
	"POST /api/v1/what-if":                             `{"cost":"10%"}`,
	"POST /api/v1/sites/{id}/what-if":                  `{"cost":"10%"}`,
	"POST /api/v1/sites/{id}/preview":                  `{"terms":{"charged":"0","outbound":"1.00"}}`,
	"POST /api/v1/sites/{id}/rules/preview":            `{"id":0,"name":"x","fits":{},"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`,
	"POST /api/v1/sites/{id}/rules/backtest":           `{"id":0,"name":"x","fits":{},"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`,
	"POST /api/v1/listings/{id}/rule/preview":          `{"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`,
	"POST /api/v1/sites/{id}/policy/try":               `{"figures":{"small":"1%"}}`,
	"POST /api/v1/feeds/{id}/check":                    `{"source_id":1}`,
	"POST /api/v1/preparations/{id}/check":             `{"say":[{"field":"title","values":["A mug"]}]}`,
	"POST /api/v1/preparations/{id}/description/check": `{"blocks":[]}`,
	"POST /api/v1/preparations/overrides/check":        `{"ids":[PREPARED],"say":[{"field":"title","values":["A mug"]}]}`,
	"POST /api/v1/preparations/sheet/check":            `{"rows":[{"id":PREPARED,"say":[{"field":"title","values":["A mug"]}]}]}`,
	"POST /api/v1/sites/{id}/defaults/check":           `{"category":"mugs","defaults":{}}`,
	"POST /api/v1/sites/{id}/selling-terms/check":      `{"name":"usual","terms":{}}`,
	"POST /api/v1/purchases/split":                     `{"lines":[1]}`,
}

// Whoever may only look changes nothing: each write is refused to them, and what they
// may post leaves every table as it was, though it is answered. What an operation needs
// is held against the data, not against a list.
func TestWhoMayOnlyLookChangesNothing(t *testing.T) {
	s := newStall(t, func(x *sim.Entry) bool { return x.Category == "mugs" })
	e, do := s.edge, s.do
	do(200, "POST", "/api/v1/marketplaces", fmt.Sprintf(`{"name":"Quaymarket","address":%q}`, s.url))
	do(200, "PUT", "/api/v1/sites/1/terms", `{"charged":"0","outbound":"0","handling":"0","cushion":"0%","allowances":[]}`)
	do(200, "POST", "/api/v1/sources", `{"supplier":"Fernhollow","currency":"GBP","charge":"0","tax":"without"}`)
	list := fmt.Sprintf("ref,title,cost,stock,ean,brand\nA,%q,4.00,7,%s,%s\n", s.entry.Title, s.entry.GTIN, s.entry.Brand)
	do(201, "POST", "/api/v1/feeds?name=list.csv", list)
	do(200, "POST", "/api/v1/feeds/1/take", `{"source_id":1,"once":true}`)
	do(200, "POST", "/api/v1/submissions", `{}`)
	do(200, "POST", "/api/v1/orders", fmt.Sprintf(`{"site_id":1,"ref":"T-1","buyer":{"name":"Ada Fell","address":["1 Quay"],"country":"GB"},"lines":[{"sku":%q,"quantity":1,"price":"9.00"}]}`, rows(e, "/api/v1/listings")[0]["sku"]))
	do(201, "POST", "/api/v1/feeds?name=again.csv", strings.Replace(list, "4.00", "4.10", 1))
	// A listing of one's own beside the one on an entry: its words can be prepared.
	site, err := e.house.Places.Make(t.Context(), places.NewPlace{Name: "Own shop", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Shop: true, Categories: "Mugs", Commission: "0", Fixed: "0", Charged: "0", Outbound: "0"})
	require.NoError(t, err)
	require.NoError(t, e.house.Preparing.WriteDemand(t.Context(), site.ID, "Mugs", `{"title":{"limit":120}}`))
	_, err = e.house.Preparing.Add(t.Context(), site.ID, []int64{1}, "Mugs")
	require.NoError(t, err)
	s.settle(s.events)
	mine := rows(e, fmt.Sprintf("/api/v1/listings?site=%d", site.ID))
	require.Len(t, mine, 1)
	prepared := fmt.Sprint(mine[0]["id"])
	_, err = e.house.People.Reset(t.Context(), "", password)
	require.NoError(t, err)
	looker := e.joined("Looker", "look")
	_, described := web.New(web.Options{Stops: e.house.Stops(), People: e.house.People, Events: e.house.Events, Clock: e.house.Now})
	before := dataOf(t, e.house.Store.File())
	require.Greater(t, len(before), 50)
	for path, item := range described.Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "PATCH": item.Patch, "DELETE": item.Delete} {
			if op == nil {
				continue
			}
			path, name := "/api/v1"+path, method+" /api/v1"+path
			declared, _ := stops.Declared(op)
			if declared.Right == actor.Account { // somebody's own password and tokens are theirs to set
				continue
			}
			body, asks := asked[name]
			assert.Equal(t, declared.Effect == stops.Asks, asks, "%s only asks: it wants a body here", name)
			if method == "GET" { // reading writes nothing, whatever it is answered
				if op.OperationID != "stream-events" {
					e.ask(method, given(path), "", looker)
					e.ask(method, parameter.ReplaceAllStringFunc(path, func(p string) string {
						return map[string]string{"{month}": "2026-03", "{format}": "csv"}[p] + map[bool]string{true: "1"}[p != "{month}" && p != "{format}"]
					}), "", looker)
				}
				if after := dataOf(t, e.house.Store.File()); !assert.Equal(t, before, after, name) {
					before = after
				}
				continue
			}
			id, want := "1", 200
			switch {
			case !asks:
				body, want = "{}", 403
			case strings.Contains(name, "/feeds/"):
				id = "2" // the first is taken
			case strings.Contains(name, "/preparations/"):
				id = prepared
			}
			got := e.ask(method, parameter.ReplaceAllString(path, id), strings.ReplaceAll(body, "PREPARED", prepared), looker)
			assert.Equal(t, want, got.status, "%s: %s", name, got.text)
			if after := dataOf(t, e.house.Store.File()); !assert.Equal(t, before, after, name) {
				before = after
			}
		}
	}
}

// Whatever a reading is asked with, it is answered: with what is there, or with words that
// say what is wrong. Nothing that an asker writes ends in a failure of the program.
func TestNonsenseIsAnsweredInWords(t *testing.T) {
	e := newEdge(t, web.Options{})
	_, described := web.New(web.Options{Stops: e.house.Stops(), People: e.house.People, Events: e.house.Events, Clock: e.house.Now})
	asked := 0
	for path, item := range described.Paths {
		if item.Get == nil || item.Get.OperationID == "stream-events" {
			continue
		}
		for _, word := range []string{"1", "0", "-1", "9223372036854775807", "nonsense", "{}", "%00", "'\"<"} {
			query := url.Values{}
			for _, p := range item.Get.Parameters {
				if p.In == "query" {
					query.Set(p.Name, word)
				}
			}
			at := parameter.ReplaceAllString(path, url.PathEscape(word))
			for _, address := range []string{"/api/v1" + at, "/api/v1" + at + "?" + query.Encode()} {
				asked++
				if got := e.ask("GET", address, ""); got.status >= 500 || got.status >= 400 && !strings.Contains(got.text, `"detail"`) {
					t.Errorf("%s: %d %s", address, got.status, got.text)
				}
			}
		}
	}
	assert.Greater(t, asked, 1000)
}

// A token is nobody else, in whatever way it is sent.
func TestATokenIsNobodyElse(t *testing.T) {
	e := newEdge(t, web.Options{}) // one person, who isn't asked for a password
	given, err := e.house.People.Give(actor.Enter(context.Background(), actor.Who{Person: 1, Role: actor.Owner, May: actor.Everything}), people.TokenText{Name: "nightly", Scope: "look"})
	require.NoError(t, err)
	assert.Equal(t, 200, e.ask("POST", "/api/v1/sources", newSource).status, "without one it is the one person who works here")
	for _, scheme := range []string{"Bearer ", "bearer ", "BEARER ", "bEaReR  ", "Token ", "Basic ", "Bearer\t", "", "Negotiate ", "Bearer  x "} {
		for _, token := range []string{given.Token, "em_nonsense", ""} {
			if scheme+token == "" {
				continue
			}
			got := e.ask("POST", "/api/v1/sources", `{"supplier":"By token","currency":"GBP"}`, header("Authorization", scheme+token))
			assert.Contains(t, []int{401, 403}, got.status, "%q", scheme+token)
		}
	}
	for _, change := range []func(r *http.Request){
		func(r *http.Request) { r.SetBasicAuth("owner", given.Token) },
		func(r *http.Request) { r.SetBasicAuth(given.Token, "") },
		func(r *http.Request) {
			r.Header["Authorization"] = []string{"Basic eDp5", "Bearer " + given.Token}
		},
		func(r *http.Request) { r.Header["Authorization"] = []string{"Bearer " + given.Token, "Bearer x"} },
	} {
		got := e.ask("POST", "/api/v1/sources", `{"supplier":"By token","currency":"GBP"}`, change)
		assert.Contains(t, []int{401, 403}, got.status, got.text)
	}
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", header("Authorization", "bearer "+given.Token)).status, "in any case it is a token")
	assert.NotContains(t, e.ask("GET", "/api/v1/sources", "").text, "By token")

	// With another password they end, where that is wanted; from the command line they do.
	_, err = e.house.People.Reset(t.Context(), "owner", password)
	require.NoError(t, err)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", header("Authorization", "Bearer "+given.Token)).status)
	log := auth(password)
	for _, end := range []bool{false, true} {
		made := e.ask("POST", "/api/v1/me/tokens", `{"name":"weekly","scope":"look"}`, log)
		require.Equal(t, 200, made.status, made.text)
		token := jsonOf[struct{ Token string }](t, made.text).Token
		changed := e.ask("PUT", "/api/v1/me/password", fmt.Sprintf(`{"old":%q,"new":%q,"end_tokens":%v}`, password, password, end), log)
		require.Equal(t, 200, changed.status, changed.text)
		kept := jsonOf[people.PasswordChanged](t, changed.text)
		want := map[bool]int{false: 200, true: 401}[end]
		assert.Equal(t, want, e.ask("GET", "/api/v1/counts", "", header("Authorization", "Bearer "+token)).status)
		assert.Equal(t, end, kept.Ended > 0, "%+v", kept)
		assert.Equal(t, end, kept.Kept == 0, "%+v", kept)
	}
}

// An event stream asks again whether its log-in holds, and ends with it.
func TestAnEventStreamEndsWithItsLogIn(t *testing.T) {
	e := newEdge(t, web.Options{Beat: 20 * time.Millisecond}, password)
	_, c := e.logIn(password, "/")
	listen := func(c *http.Cookie) *bufio.Scanner {
		r, err := http.NewRequestWithContext(t.Context(), "GET", e.URL+"/api/v1/events", nil)
		require.NoError(t, err)
		r.AddCookie(c)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { _ = res.Body.Close() })
		require.Equal(t, 200, res.StatusCode)
		return bufio.NewScanner(res.Body)
	}
	lines := listen(c)
	for range 8 {
		require.True(t, lines.Scan(), "while it holds it goes on")
	}
	assert.Equal(t, 200, e.ask("POST", "/log-out", "", cookie(c)).status)
	for lines.Scan() {
		assert.NotContains(t, lines.Text(), "data:")
	}
	assert.NoError(t, lines.Err())

	role := e.joined("Wren", "send")
	r, err := http.NewRequest("GET", e.URL, nil)
	require.NoError(t, err)
	role(r)
	wren, err := r.Cookie("easymargin")
	require.NoError(t, err)
	lines = listen(wren)
	require.True(t, lines.Scan())
	require.NoError(t, e.house.People.EndAll(t.Context(), 2))
	for lines.Scan() {
		assert.NotContains(t, lines.Text(), "data:")
	}
}

// Strangers who guess don't keep out who logged in from their browser before: that is
// counted by itself. A household's addresses are one.
func TestGuessesOfOthersKeepNobodyOut(t *testing.T) {
	e, clock := timedEdge(t, password, netip.MustParsePrefix("127.0.0.0/8"))
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	try := func(from, password string, device *http.Cookie) *http.Response {
		r, err := http.NewRequest("POST", e.URL+"/log-in", strings.NewReader(url.Values{"password": {password}}.Encode()))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Forwarded-For", from)
		if device != nil {
			r.AddCookie(device)
		}
		res, err := client.Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res
	}
	first := try("203.0.113.5", password, nil)
	require.Equal(t, 303, first.StatusCode)
	at := slices.IndexFunc(first.Cookies(), func(c *http.Cookie) bool { return c.Name == "easymargin-device" })
	require.GreaterOrEqual(t, at, 0)
	device := first.Cookies()[at]
	assert.True(t, device.HttpOnly)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", cookie(device)).status, "it lets nobody in by itself")

	for i := range 226 {
		try(fmt.Sprintf("198.51.%d.%d", i/250, i%250), "guess", nil)
	}
	assert.Equal(t, 429, try("203.0.113.9", password, nil).StatusCode, "a browser that nobody knows waits")
	assert.Equal(t, 429, try("203.0.113.9", password, &http.Cookie{Name: "easymargin-device", Value: "MADEUP"}).StatusCode)
	in := try("203.0.113.77", password, device)
	assert.Equal(t, 303, in.StatusCode, "one that logged in before doesn't")
	again := slices.IndexFunc(in.Cookies(), func(c *http.Cookie) bool { return c.Name == "easymargin-device" })
	assert.Equal(t, device.Value, in.Cookies()[again].Value)

	// It is counted by itself, so it can't be guessed with either.
	assert.Equal(t, 401, try("203.0.113.77", "guess", device).StatusCode)
	assert.Equal(t, 429, try("203.0.113.77", password, device).StatusCode)
	clock.Forward(time.Hour)
	assert.Equal(t, 303, try("203.0.113.77", password, device).StatusCode)

	clock.Forward(time.Hour)
	assert.Equal(t, 401, try("2001:db8:7:7::1", "guess", nil).StatusCode)
	assert.Equal(t, 429, try("2001:db8:7:7:9:9:9:9", "guess", nil).StatusCode, "of the same household")
	clock.Forward(time.Hour)
	_, err := e.house.People.Reset(t.Context(), "owner", password+"2")
	require.NoError(t, err)
	try("198.51.100.1", "guess", nil)
	assert.Equal(t, 429, try("198.51.100.2", password+"2", device).StatusCode, "with a lost password the browsers are forgotten too")
}

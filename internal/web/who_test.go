package web_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

const password = "tide and marsh"

func auth(password string) func(r *http.Request) {
	return func(r *http.Request) { r.SetBasicAuth("any", password) }
}

func cookie(c *http.Cookie) func(r *http.Request) {
	return func(r *http.Request) { r.AddCookie(c) }
}

// logIn posts the form and gives the cookie, nil where it was refused.
func (e *edge) logIn(password, to string) (*http.Response, *http.Cookie) {
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.PostForm(e.URL+"/log-in", url.Values{"password": {password}, "to": {to}})
	require.NoError(e.t, err)
	require.NoError(e.t, res.Body.Close())
	for _, c := range res.Cookies() {
		return res, c
	}
	return res, nil
}

func TestOneLogsInOnAPageOfItsOwn(t *testing.T) {
	e := newEdge(t, web.Options{}, password)
	got := e.ask("GET", "/api/v1/counts", "")
	assert.Equal(t, 401, got.status)
	detail, _ := got.problem(t)
	assert.Contains(t, detail, "/log-in")
	assert.Empty(t, got.header.Get("WWW-Authenticate"), "no window of the browser's pops up")
	page := e.ask("GET", "/watch?site=1", "")
	assert.Equal(t, 200, page.status)
	assert.Contains(t, page.text, `value="/watch?site=1"`, "and it leads on to where one was going")
	assert.NotContains(t, page.text, `id="root"`)

	res, c := e.logIn(password, "/watch?site=1")
	assert.Equal(t, http.StatusSeeOther, res.StatusCode)
	assert.Equal(t, "/watch?site=1", res.Header.Get("Location"))
	require.NotNil(t, c)
	assert.Equal(t, []any{true, http.SameSiteStrictMode, false}, []any{c.HttpOnly, c.SameSite, c.Secure})
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", cookie(c)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", cookie(&http.Cookie{Name: c.Name, Value: c.Value + "x"})).status)
	for _, to := range []string{"https://evil.example/", "//evil.example", `/\evil.example`, "javascript:alert(1)"} {
		res, _ := e.logIn(password, to)
		assert.Equal(t, "/", res.Header.Get("Location"), to)
	}

	assert.Equal(t, 200, e.ask("POST", "/log-out", "", cookie(c)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", cookie(c)).status, "logged out is out, for a copied cookie too")
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", auth(password)).status, "a script sends it with each request")
}

// Each wrong guess keeps the next waiting longer, whichever way it comes.
func TestWrongPasswordsWait(t *testing.T) {
	e, clock := timedEdge(t, password)
	res, c := e.logIn("guess", "/")
	assert.Equal(t, 401, res.StatusCode)
	assert.Nil(t, c)
	for _, wait := range []int{1, 2, 4, 8, 16} {
		res, c = e.logIn(password, "/")
		assert.Equal(t, 429, res.StatusCode, "even the right one is not looked at before its time")
		assert.Nil(t, c)
		assert.Equal(t, fmt.Sprint(wait), res.Header.Get("Retry-After"))
		got := e.ask("GET", "/api/v1/counts", "", auth("another"))
		assert.Equal(t, 429, got.status)
		clock.Forward(secondsOf(wait))
		assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", auth("another")).status)
	}
	clock.Forward(secondsOf(40))
	res, c = e.logIn(password, "/")
	assert.Equal(t, http.StatusSeeOther, res.StatusCode)
	require.NotNil(t, c)
	res, _ = e.logIn("guess", "/")
	assert.Equal(t, 401, res.StatusCode)
	res, _ = e.logIn("guess", "/")
	assert.Equal(t, "1", res.Header.Get("Retry-After"), "the right one has begun it anew")
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", cookie(c)).status, "who is in stays in")
}

func TestBehindTLSTheCookieIsSecure(t *testing.T) {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := house.New(house.Options{Store: s, Password: password})
	served, _ := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now, Secure: true})
	server := httptest.NewTLSServer(served)
	t.Cleanup(func() {
		server.Close()
		h.Close()
		require.NoError(t, s.Close())
	})
	client := server.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	res, err := client.PostForm(server.URL+"/log-in", url.Values{"password": {password}})
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.NotEmpty(t, res.Header.Get("Strict-Transport-Security"))
	require.Len(t, res.Cookies(), 2)
	for _, c := range res.Cookies() {
		assert.True(t, c.Secure, "it never goes unencrypted")
	}
}

func TestNobodyListensToTheWorldWithoutAPassword(t *testing.T) {
	for addr, want := range map[string]bool{"127.0.0.1:1": false, "localhost:1": false, "[::1]:1": false, "0.0.0.0:1": true, ":1": true, "192.168.0.2:1": true} {
		got, err := web.Elsewhere(addr, "")
		assert.NoError(t, err)
		assert.Equal(t, want, got, addr)
	}
	_, err := web.Elsewhere("nonsense", password)
	assert.ErrorContains(t, err, "HOST:PORT")
	_, err = web.Elsewhere("127.0.0.1:1", "seven77")
	assert.ErrorContains(t, err, "fewer than 8 characters")
	_, err = web.Elsewhere("127.0.0.1:1", strings.Repeat("é", 8))
	assert.NoError(t, err)

	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	guarded := func(o house.Options) error {
		o.Store = s
		return web.CheckGuarded(t.Context(), "0.0.0.0:1", house.New(o).People)
	}
	assert.NoError(t, guarded(house.Options{}), "at one's own machine")
	assert.ErrorContains(t, guarded(house.Options{Elsewhere: true}), "set a password first")
	assert.NoError(t, guarded(house.Options{Elsewhere: true, Password: password}))
	_, err = house.New(house.Options{Store: s}).People.Reset(t.Context(), "", password)
	require.NoError(t, err)
	assert.NoError(t, guarded(house.Options{Elsewhere: true}), "she has one of her own")
	_, alone := house.New(house.Options{Store: s, Elsewhere: true}).People.Alone(t.Context())
	assert.False(t, alone, "and it is asked for")
}

// Two people's keys are their own, and their writes are known by their names.
func TestKeysBelongToWhoSentThem(t *testing.T) {
	e := newEdge(t, web.Options{}, password)
	_, mine := e.logIn(password, "/")
	got := e.ask("POST", "/api/v1/sources", newSource, cookie(mine), header("Idempotency-Key", "k"))
	require.Equal(t, 200, got.status, got.text)
	theirs := e.joined("Wren", "prepare")
	got = e.ask("POST", "/api/v1/sources", strings.Replace(newSource, "Tidewrack", "Fernhollow", 1), theirs, header("Idempotency-Key", "k"))
	assert.Equal(t, 200, got.status, "%s: the same key of somebody else is another", got.text)
	notes, err := e.house.Store.LastAudits(t.Context(), 10)
	require.NoError(t, err)
	var who []string
	for _, n := range notes {
		who = append(who, n.Actor)
	}
	assert.Contains(t, who, "Wren")
	assert.Contains(t, who, "owner")
}

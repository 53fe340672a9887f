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
	"easymargin/internal/sim"
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
	got := e.ask("GET", "/api/counts", "")
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
	assert.Equal(t, 200, e.ask("GET", "/api/counts", "", cookie(c)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/counts", "", cookie(&http.Cookie{Name: c.Name, Value: c.Value + "x"})).status)
	for _, to := range []string{"https://evil.example/", "//evil.example", `/\evil.example`, "javascript:alert(1)"} {
		res, _ := e.logIn(password, to)
		assert.Equal(t, "/", res.Header.Get("Location"), to)
	}

	assert.Equal(t, 200, e.ask("POST", "/log-out", "", cookie(c)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/counts", "", cookie(c)).status, "logged out is out, for a copied cookie too")
	assert.Equal(t, 200, e.ask("GET", "/api/counts", "", auth(password)).status, "a script sends it with each request")
}

// Each wrong guess keeps the next waiting longer, whichever way it comes.
func TestWrongPasswordsWait(t *testing.T) {
	clock := sim.NewClock(start, 0)
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := house.New(house.Options{Store: s, Now: clock.Now, Clock: clock.Now, Password: password})
	served, _ := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now})
	e := &edge{httptest.NewServer(served), t, h}
	t.Cleanup(func() {
		e.Close()
		h.Close()
		require.NoError(t, s.Close())
	})
	res, c := e.logIn("guess", "/")
	assert.Equal(t, 401, res.StatusCode)
	assert.Nil(t, c)
	for _, wait := range []int{1, 2, 4, 8, 16} {
		res, c = e.logIn(password, "/")
		assert.Equal(t, 429, res.StatusCode, "even the right one is not looked at before its time")
		assert.Nil(t, c)
		assert.Equal(t, fmt.Sprint(wait), res.Header.Get("Retry-After"))
		got := e.ask("GET", "/api/counts", "", auth("another"))
		assert.Equal(t, 429, got.status)
		clock.Forward(secondsOf(wait))
		assert.Equal(t, 401, e.ask("GET", "/api/counts", "", auth("another")).status)
	}
	clock.Forward(secondsOf(40))
	res, c = e.logIn(password, "/")
	assert.Equal(t, http.StatusSeeOther, res.StatusCode)
	require.NotNil(t, c)
	res, _ = e.logIn("guess", "/")
	assert.Equal(t, 401, res.StatusCode)
	res, _ = e.logIn("guess", "/")
	assert.Equal(t, "1", res.Header.Get("Retry-After"), "the right one has begun it anew")
	assert.Equal(t, 200, e.ask("GET", "/api/counts", "", cookie(c)).status, "who is in stays in")
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
	require.Len(t, res.Cookies(), 1)
	assert.True(t, res.Cookies()[0].Secure, "it never goes unencrypted")
}

func TestNobodyListensToTheWorldWithoutAPassword(t *testing.T) {
	for addr, fine := range map[string]bool{"127.0.0.1:1": true, "localhost:1": true, "[::1]:1": true, "0.0.0.0:1": false, ":1": false, "192.168.0.2:1": false, "nonsense": false} {
		assert.Equal(t, fine, web.CheckAddr(addr, "") == nil, addr)
		assert.Equal(t, addr != "nonsense", web.CheckAddr(addr, password) == nil, addr)
	}
	assert.ErrorContains(t, web.CheckAddr("127.0.0.1:1", "seven77"), "fewer than 8 characters")
	assert.NoError(t, web.CheckAddr("127.0.0.1:1", strings.Repeat("é", 8)))
}

// Two people's keys are their own, and their writes are known by their names.
func TestKeysBelongToWhoSentThem(t *testing.T) {
	e := newEdge(t, web.Options{}, password)
	_, mine := e.logIn(password, "/")
	got := e.ask("POST", "/api/sources", newSource, cookie(mine), header("Idempotency-Key", "k"))
	require.Equal(t, 200, got.status, got.text)
	token, err := e.house.People.Enter(t.Context(), "somebody else")
	require.NoError(t, err)
	theirs := cookie(&http.Cookie{Name: mine.Name, Value: token})
	got = e.ask("POST", "/api/sources", strings.Replace(newSource, "Tidewrack", "Fernhollow", 1), theirs, header("Idempotency-Key", "k"))
	assert.Equal(t, 200, got.status, "%s: the same key of somebody else is another", got.text)
	notes, err := e.house.Store.LastAudits(t.Context(), 10)
	require.NoError(t, err)
	var who []string
	for _, n := range notes {
		who = append(who, n.Actor)
	}
	assert.Contains(t, who, "somebody else")
	assert.Contains(t, who, "owner")
}

package web_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops/people"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

// joined lets somebody work here, and logs them in.
func (e *edge) joined(name, role string) func(r *http.Request) {
	_, err := e.house.People.Join(e.t.Context(), people.PersonText{Name: name, Role: role, Active: true, Password: password + name})
	require.NoError(e.t, err)
	res, c := e.logInAs(url.Values{"name": {name}, "password": {password + name}})
	require.Equal(e.t, http.StatusSeeOther, res.StatusCode)
	return cookie(c)
}

func (e *edge) logInAs(form url.Values) (*http.Response, *http.Cookie) {
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.PostForm(e.URL+"/log-in", form)
	require.NoError(e.t, err)
	require.NoError(e.t, res.Body.Close())
	for _, c := range res.Cookies() {
		return res, c
	}
	return res, nil
}

// timedEdge is an edge whose clocks are moved by hand.
func timedEdge(t *testing.T, password string, proxies ...netip.Prefix) (*edge, *sim.Clock) {
	clock := sim.NewClock(start, 0)
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := house.New(house.Options{Store: s, Now: clock.Now, Clock: clock.Now, Password: password})
	served, _ := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now, Proxies: proxies})
	e := &edge{httptest.NewServer(served), t, h}
	t.Cleanup(func() {
		e.Close()
		h.Close()
		require.NoError(t, s.Close())
	})
	return e, clock
}

// One at their own machine is asked nothing; the second wants everybody to log in.
func TestTheSecondPersonHasEverybodyLogIn(t *testing.T) {
	e, clock := timedEdge(t, "")
	wren := `{"name":"Wren","role":"prepare","active":true,"password":"salt and sand"}`
	assert.Equal(t, "owner", get[map[string]any](e, "/api/v1/me")["role"])
	got := e.ask("POST", "/api/v1/people", wren)
	assert.Equal(t, 409, got.status)
	assert.Contains(t, got.text, "set a password of your own first", "or she would be locked out")
	assert.Equal(t, 422, e.ask("PUT", "/api/v1/me/password", `{"new":"short"}`).status)
	require.Equal(t, 200, e.ask("PUT", "/api/v1/me/password", `{"new":"tide and marsh"}`).status)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "").status, "still one, still not asked")
	require.Equal(t, 200, e.ask("POST", "/api/v1/people", wren).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "").status)

	page := e.ask("GET", "/log-in", "")
	assert.Contains(t, page.text, `name="name"`)
	for _, wrong := range []url.Values{{"name": {"Wren"}, "password": {"tide and marsh"}}, {"name": {"Nobody"}, "password": {"tide and marsh"}}, {"password": {"tide and marsh"}}} {
		clock.Forward(time.Minute)
		res, c := e.logInAs(wrong)
		assert.Equal(t, 401, res.StatusCode)
		assert.Nil(t, c)
	}
	clock.Forward(time.Minute)
	_, owner := e.logInAs(url.Values{"name": {"OWNER"}, "password": {"tide and marsh"}})
	require.NotNil(t, owner, "however the name is written")
	_, second := e.logInAs(url.Values{"name": {"wren"}, "password": {"salt and sand"}})
	require.NotNil(t, second)

	// What is wrong with a person is said at its field.
	for body, want := range map[string]string{
		`{"name":" ","role":"look","active":true,"password":"12345678"}`:          "body.name",
		`{"name":"WREN","role":"look","active":true,"password":"12345678"}`:       "body.name",
		`{"name":"easymargin","role":"look","active":true,"password":"12345678"}`: "body.name",
		`{"name":"A (b)","role":"look","active":true,"password":"12345678"}`:      "body.name",
		`{"name":"Tern","role":"king","active":true,"password":"12345678"}`:       "body.role",
		`{"name":"Tern","role":"look","active":true,"password":"1234567"}`:        "body.password",
		`{"name":"Tern","role":"look","active":true}`:                             "body.password",
	} {
		_, at := e.ask("POST", "/api/v1/people", body, cookie(owner)).problem(t)
		assert.Equal(t, want, at, body)
	}
	got = e.ask("PUT", "/api/v1/people/1", `{"name":"owner","role":"send","active":true}`, cookie(owner))
	assert.Equal(t, 422, got.status, "somebody has to be the owner")
	assert.Equal(t, 412, e.ask("PUT", "/api/v1/people/2", `{"name":"Wren","role":"look","active":true}`, cookie(owner), header("If-Match", `"9"`)).status)

	// Another role holds at once, and ends what was begun with the old one.
	require.Equal(t, 200, e.ask("POST", "/api/v1/me/tokens", `{"name":"nightly","scope":"prepare"}`, cookie(second)).status)
	require.Equal(t, 200, e.ask("PUT", "/api/v1/people/2", `{"name":"Wren","role":"look","active":true}`, cookie(owner)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", cookie(second)).status)
	_, second = e.logInAs(url.Values{"name": {"Wren"}, "password": {"salt and sand"}})
	assert.Empty(t, jsonOf[map[string]any](t, e.ask("GET", "/api/v1/me", "", cookie(second)).text)["tokens"])
	assert.Equal(t, 403, e.ask("POST", "/api/v1/sources", newSource, cookie(second)).status)
	// And who is gone is out.
	require.Equal(t, 200, e.ask("PUT", "/api/v1/people/2", `{"name":"Wren","role":"look","active":false}`, cookie(owner)).status)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "").status, "one is left: nobody is asked any more")
	said := e.ask("GET", "/api/v1/audit-entries?who=owner", "").text
	for _, want := range []string{"person let in", "person changed", "works here no more", "logged in", "password changed"} {
		assert.Contains(t, said, want)
	}
	assert.NotContains(t, said, "salt and sand")
}

func jsonOf[T any](t *testing.T, text string) (out T) {
	require.NoError(t, json.Unmarshal([]byte(text), &out), text)
	return out
}

// A token is its person's, for no more than its scope, until its day.
func TestTokensAreForScripts(t *testing.T) {
	e, clock := timedEdge(t, password)
	send := e.joined("Wren", "send")
	made := func(body string, who func(*http.Request)) (string, int64) {
		got := e.ask("POST", "/api/v1/me/tokens", body, who)
		require.Equal(t, 200, got.status, got.text)
		out := jsonOf[people.NewToken](t, got.text)
		return out.Token, out.ID
	}
	token, id := made(`{"name":"nightly","scope":"prepare","days":2}`, send)
	bearer := header("Authorization", "Bearer "+token)
	assert.True(t, strings.HasPrefix(token, "em_") && len(token) > 25, "it can't be guessed")
	require.Equal(t, 200, e.ask("POST", "/api/v1/sources", newSource, bearer).status)
	assert.Contains(t, e.ask("GET", "/api/v1/audit-entries", "", send).text, `"who":"Wren (nightly)"`)
	got := e.ask("PUT", "/api/v1/halt", `{"on":true}`, bearer)
	assert.Equal(t, 403, got.status)
	detail, _ := got.problem(t)
	assert.Contains(t, detail, "needs the right “send”, which your role, “prepare”, doesn't have (it has: look, prepare)")
	assert.NotContains(t, e.ask("GET", "/api/v1/me", "", send).text, token, "it is shown once")
	_, at := e.ask("POST", "/api/v1/me/tokens", `{"name":"more","scope":"send"}`, e.joined("Tern", "look")).problem(t)
	assert.Equal(t, "body.scope", at)
	for _, c := range [][3]string{{"POST", "/api/v1/me/tokens", `{"name":"more","scope":"look"}`}, {"PUT", "/api/v1/me/password", `{"old":"tide and marshWren","new":"another one"}`}, {"POST", "/api/v1/me/second-factor", ""},
		{"DELETE", fmt.Sprintf("/api/v1/me/tokens/%d", id), ""}} {
		got := e.ask(c[0], c[1], c[2], bearer)
		assert.Equal(t, 403, got.status, "%v: %s", c, got.text)
		assert.Contains(t, got.text, "log in", "a script can't change what its person is known by")
	}
	for _, wrong := range []string{token + "x", "em_", "", token[3:]} {
		assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", header("Authorization", "Bearer "+wrong)).status, wrong)
	}
	clock.Forward(48*time.Hour - time.Second)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", bearer).status)
	clock.Forward(2 * time.Second)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", bearer).status, "its day is over")
	token, id = made(`{"name":"daily","scope":"look"}`, send)
	bearer = header("Authorization", "Bearer "+token)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", bearer).status)
	assert.Equal(t, 404, e.ask("DELETE", fmt.Sprintf("/api/v1/me/tokens/%d", id), "", e.joined("Knot", "owner")).status, "it is somebody else's")
	require.Equal(t, 200, e.ask("DELETE", fmt.Sprintf("/api/v1/me/tokens/%d", id), "", send).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", bearer).status)
}

// Nothing of a password or a token is kept for a write that comes again.
func TestNoSecretIsKeptForAWriteThatComesAgain(t *testing.T) {
	e := newEdge(t, web.Options{})
	keyed := func(key string) func(*http.Request) { return header("Idempotency-Key", key) }
	token := jsonOf[people.NewToken](t, e.ask("POST", "/api/v1/me/tokens", `{"name":"nightly","scope":"look"}`, keyed("t")).text).Token
	require.Equal(t, 200, e.ask("PUT", "/api/v1/me/password", `{"new":"tide and marsh"}`, keyed("p")).status)
	require.Equal(t, 200, e.ask("POST", "/api/v1/people", `{"name":"Wren","role":"look","active":true,"password":"salt and sand"}`, keyed("w")).status)
	for _, key := range []string{"t", "p", "w"} {
		_, kept, err := e.house.People.Answered(t.Context(), "owner", key)
		require.NoError(t, err)
		assert.False(t, kept, key)
	}
	raw, err := os.ReadFile(e.house.Store.File())
	require.NoError(t, err)
	wal, _ := os.ReadFile(e.house.Store.File() + "-wal")
	for _, secret := range []string{token, "tide and marsh", "salt and sand"} {
		assert.NotContains(t, string(raw)+string(wal), secret, "nor anywhere else in the data")
	}
}

// At one's own machine, where nobody logs in, a token still holds to its scope.
func TestATokenHoldsToItsScopeWhereNobodyLogsIn(t *testing.T) {
	e := newEdge(t, web.Options{})
	token := jsonOf[people.NewToken](t, e.ask("POST", "/api/v1/me/tokens", `{"name":"nightly","scope":"look"}`).text).Token
	assert.Equal(t, 403, e.ask("POST", "/api/v1/sources", newSource, header("Authorization", "Bearer "+token)).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", header("Authorization", "Bearer em_other")).status)
	assert.Equal(t, 200, e.ask("POST", "/api/v1/sources", newSource).status)
}

func TestLogInsEnd(t *testing.T) {
	e, clock := timedEdge(t, password)
	in := func() func(*http.Request) {
		_, c := e.logIn(password, "/")
		return cookie(c)
	}
	one, two := in(), in()
	clock.Forward(people.SessionIdle - time.Hour)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", one).status)
	clock.Forward(2 * time.Hour)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", one).status, "it was used")
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", two).status, "it was not")
	for range 8 {
		clock.Forward(people.SessionIdle - 26*time.Hour)
		e.ask("GET", "/api/v1/counts", "", one)
	}
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", one).status, "it is used every day, and ends all the same")

	one, two = in(), in()
	mine := jsonOf[people.Me](t, e.ask("GET", "/api/v1/me", "", one).text).LogIns
	var other int64
	for _, x := range mine {
		if !x.This && x.Seen.Equal(clock.Now()) {
			other = x.ID
		}
	}
	require.Equal(t, 200, e.ask("DELETE", fmt.Sprintf("/api/v1/me/sessions/%d", other), "", one).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", two).status)
	assert.Equal(t, 404, e.ask("DELETE", fmt.Sprintf("/api/v1/me/sessions/%d", other), "", one).status)

	// Another password of one's own ends all but the one that set it.
	two = in()
	_, at := e.ask("PUT", "/api/v1/me/password", `{"old":"not it","new":"salt and sand"}`, one).problem(t)
	assert.Equal(t, "body.old", at)
	clock.Forward(time.Minute)
	require.Equal(t, 200, e.ask("PUT", "/api/v1/me/password", fmt.Sprintf(`{"old":%q,"new":"salt and sand"}`, password), one).status)
	assert.Equal(t, 200, e.ask("GET", "/api/v1/counts", "", one).status)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", two).status)
	res, _ := e.logIn(password, "/")
	assert.Equal(t, 401, res.StatusCode, "the one it was started with is hers no more")

	// From the command line everything of hers ends.
	clock.Forward(time.Minute)
	_, err := e.house.People.Reset(t.Context(), "owner", "from the shell")
	require.NoError(t, err)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", one).status)
	_, c := e.logIn("from the shell", "/")
	assert.NotNil(t, c)
	_, err = e.house.People.Reset(t.Context(), "owner", "short")
	assert.ErrorContains(t, err, "8 characters or more")
}

// A code is asked for once it was shown that there is one, counts once, and the
// command line takes it away from whoever lost it.
func TestCodesBesideThePassword(t *testing.T) {
	e, clock := timedEdge(t, "")
	assert.Equal(t, 409, e.ask("POST", "/api/v1/me/second-factor", "").status, "without a password")
	require.Equal(t, 200, e.ask("PUT", "/api/v1/me/password", `{"new":"tide and marsh"}`).status)
	begun := jsonOf[people.Code](t, e.ask("POST", "/api/v1/me/second-factor", "").text)
	assert.True(t, strings.HasPrefix(begun.Address, "otpauth://totp/"))
	raw, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(begun.Picture, "data:image/png;base64,"))
	require.NoError(t, err)
	assert.Equal(t, "image/png", http.DetectContentType(raw))
	code := func() string {
		text, err := totp.GenerateCode(begun.Secret, clock.Now())
		require.NoError(t, err)
		return text
	}
	_, at := e.ask("PUT", "/api/v1/me/second-factor", `{"code":"000000"}`).problem(t)
	assert.Equal(t, "body.code", at)
	require.Equal(t, 200, e.ask("PUT", "/api/v1/me/second-factor", fmt.Sprintf(`{"code":%q}`, code())).status)
	require.Equal(t, 200, e.ask("POST", "/api/v1/people", `{"name":"Wren","role":"look","active":true,"password":"salt and sand"}`).status)

	in := func(code string) (*http.Response, *http.Cookie) {
		clock.Forward(31 * time.Second) // whatever was wrong before
		return e.logInAs(url.Values{"name": {"owner"}, "password": {password}, "code": {code}})
	}
	assert.Contains(t, e.ask("GET", "/log-in", "").text, `name="code"`)
	res, c := in("")
	assert.Equal(t, []any{401, (*http.Cookie)(nil)}, []any{res.StatusCode, c}, "the password alone is not enough")
	res, c = in("123456")
	assert.Equal(t, []any{401, (*http.Cookie)(nil)}, []any{res.StatusCode, c})
	clock.Forward(31 * time.Second)
	now := code()
	res, c = e.logInAs(url.Values{"name": {"owner"}, "password": {password}, "code": {now[:3] + " " + now[3:]}})
	require.Equal(t, http.StatusSeeOther, res.StatusCode)
	again, _ := e.logInAs(url.Values{"name": {"owner"}, "password": {password}, "code": {now}})
	assert.Equal(t, 401, again.StatusCode, "whoever looked over her shoulder is late")
	clock.Forward(time.Minute)
	assert.Equal(t, 401, e.ask("GET", "/api/v1/counts", "", func(r *http.Request) { r.SetBasicAuth("owner", password) }).status, "a script uses a token")

	me := cookie(c)
	_, at = e.ask("POST", "/api/v1/me/second-factor/remove", `{"password":"not it"}`, me).problem(t)
	assert.Equal(t, "body.password", at)
	_, err = e.house.People.Reset(t.Context(), "owner", password)
	require.NoError(t, err)
	res, _ = in("")
	assert.Equal(t, http.StatusSeeOther, res.StatusCode, "she lost it, and has a shell")
}

// Who did what is found by whom, by words and by day, and comes as a file without formulas.
func TestWhoDidWhat(t *testing.T) {
	e, clock := timedEdge(t, password)
	wren := e.joined("Wren", "prepare")
	require.Equal(t, 200, e.ask("POST", "/api/v1/sources", `{"supplier":"=1+1","currency":"GBP"}`, wren).status)
	clock.Forward(48 * time.Hour)
	require.Equal(t, 200, e.ask("POST", "/api/v1/sources", newSource, wren).status)
	type page struct {
		Total int64
		Next  string
		Rows  []people.Deed
	}
	of := func(query string) page {
		return jsonOf[page](t, e.ask("GET", "/api/v1/audit-entries?"+query, "", wren).text)
	}
	all := of("")
	assert.Equal(t, "Tidewrack", all.Rows[0].Subject, "the last first")
	assert.Equal(t, int64(2), of("who=Wren&words=source").Total)
	assert.Equal(t, int64(1), of("words=TIDEWRACK").Total)
	assert.Equal(t, int64(1), of("words=source&from="+start.AddDate(0, 0, 1).Format(time.DateOnly)).Total)
	assert.Equal(t, int64(1), of("words=source&to="+start.Format(time.DateOnly)).Total)
	first := of("limit=1")
	assert.Equal(t, all.Rows[1].ID, of("limit=1&cursor=" + first.Next).Rows[0].ID)
	_, at := e.ask("GET", "/api/v1/audit-entries?from=today", "", wren).problem(t)
	assert.Equal(t, "body.from", at)
	assert.ElementsMatch(t, []string{"Wren", "easymargin"}, jsonOf[[]string](t, e.ask("GET", "/api/v1/audit-entries/actors", "", wren).text))
	file := e.ask("GET", "/api/v1/audit-entries/export.csv?who=Wren&words=source", "", wren)
	assert.Equal(t, 3, strings.Count(file.text, "\n"), file.text)
	assert.NotContains(t, file.text, ",=1+1", "no cell is a formula")
	assert.Equal(t, 200, e.ask("GET", "/api/v1/audit-entries/export.xlsx", "", wren).status)
	assert.Equal(t, 422, e.ask("GET", "/api/v1/audit-entries/export.exe", "", wren).status)
}

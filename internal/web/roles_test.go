package web_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/actor"
	"easymargin/internal/house"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

var parameter = regexp.MustCompile(`\{(\w+)\}`)

// given is an address with something in place of its parameters that is nowhere.
func given(path string) string {
	return parameter.ReplaceAllStringFunc(path, func(p string) string {
		switch p {
		case "{month}":
			return "2001-01"
		case "{kind}":
			return "csv"
		case "{digest}":
			return strings.Repeat("0", 64)
		}
		return "999999"
	})
}

// Every operation of the API, as its description has it, lets those through who may
// and nobody else, and each that writes was thought of.
func TestWhoMayWhat(t *testing.T) {
	e := newEdge(t, web.Options{}, password)
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	h := house.New(house.Options{Store: s})
	t.Cleanup(h.Close)
	served, described := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now})

	operations := map[string]bool{}
	for path, item := range described.Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete, "PATCH": item.Patch} {
			if op != nil {
				operations[method+" "+path] = true
			}
		}
	}
	require.Greater(t, len(operations), 200)
	require.NoError(t, chi.Walk(served.(chi.Routes), func(method, path string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if strings.HasPrefix(path, "/api/") && !strings.HasPrefix(path, "/api/openapi") {
			operations[method+" "+path] = true // files that the description leaves out are guarded too
		}
		return nil
	}))
	for op := range web.Needs {
		assert.True(t, operations[op], "%s is listed, and there is no such operation", op)
	}

	as := map[actor.Role]func(*http.Request){
		actor.Look: e.joined("Looker", "look"), actor.Prepare: e.joined("Preparer", "prepare"), actor.Send: e.joined("Sender", "send"), actor.Owner: e.joined("Second", "owner"),
	}
	for op := range operations {
		method, path, _ := strings.Cut(op, " ")
		need := web.Need(method, path)
		if method != "GET" {
			_, listed := web.Needs[op]
			assert.True(t, listed, "who may %s?", op)
		}
		for role, who := range as {
			r, err := http.NewRequest(method, e.URL+given(path), strings.NewReader("{}"))
			require.NoError(t, err)
			r.Header.Set("Content-Type", "application/json")
			who(r)
			res, err := http.DefaultClient.Do(r)
			require.NoError(t, err)
			require.NoError(t, res.Body.Close()) // events never end
			if role < need {
				assert.Equal(t, 403, res.StatusCode, "%s as %s", op, role)
			} else {
				assert.NotContains(t, []int{401, 403}, res.StatusCode, "%s as %s", op, role)
			}
		}
		r, err := http.NewRequest(method, e.URL+given(path), nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		assert.Equal(t, 401, res.StatusCode, "%s by nobody", op)
	}

	// Said once more by hand, where it matters most.
	for op, want := range map[string]actor.Role{
		"POST /api/plans/{id}/send": actor.Send, "POST /api/send-outs": actor.Send, "POST /api/order-lines/buy": actor.Send, "POST /api/order-lines/{id}/refund": actor.Send,
		"PUT /api/sites/{id}/following": actor.Owner, "POST /api/people": actor.Owner, "PUT /api/mail": actor.Owner, "POST /api/books/{month}/close": actor.Owner,
		"POST /api/sites/{id}/rules": actor.Prepare, "POST /api/feeds/{id}/take": actor.Prepare, "GET /api/purchases/{id}/order.{kind}": actor.Send,
		"GET /api/plan": actor.Look, "HEAD /api/plan": actor.Look, "POST /api/something/new": actor.Owner, "GET /api/people": actor.Owner,
	} {
		method, path, _ := strings.Cut(op, " ")
		assert.Equal(t, want, web.Need(method, path), op)
	}
}

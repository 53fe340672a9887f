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
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
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
		case "{format}":
			return "csv"
		case "{digest}":
			return strings.Repeat("0", 64)
		}
		return "999999"
	})
}

// Every operation of the API lets those through who may by its declaration and nobody
// else, whatever rights a role is made of; and nothing is served that isn't declared.
func TestWhoMayWhat(t *testing.T) {
	e := newEdge(t, web.Options{}, password)
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	h := house.New(house.Options{Store: s})
	t.Cleanup(h.Close)
	served, described := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now})
	_, err = e.house.People.KeepRole(t.Context(), 0, stops.IfMatch{}, people.RoleText{Name: "bookkeeper", Rights: []string{"buyers", "money"}})
	require.NoError(t, err)

	operations := map[string]*stops.Operation{}
	for path, item := range described.Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete, "PATCH": item.Patch} {
			if op == nil {
				continue
			}
			d, ok := stops.Declared(op)
			require.True(t, ok, op.OperationID)
			assert.Regexp(t, `^[a-z]+(-[a-z]+)+$`, d.ID)
			assert.NotEmpty(t, d.Topics, d.ID)
			assert.NotEmpty(t, d.Summary, d.ID)
			assert.NotZero(t, d.Right, d.ID)
			assert.Equal(t, method == "GET", d.Effect == stops.Reads, d.ID)
			operations[method+" /api/v1"+path] = d
		}
	}
	require.Greater(t, len(operations), 200)
	require.NoError(t, chi.Walk(served.(chi.Routes), func(method, path string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if strings.HasPrefix(path, "/api/") && !strings.HasPrefix(path, "/api/v1/openapi") {
			assert.Contains(t, operations, method+" "+path, "it isn't declared")
		}
		return nil
	}))

	as := map[actor.Rights]func(*http.Request){actor.Look | actor.Buyers | actor.Money | actor.Account: e.joined("Bookkeeper", "bookkeeper")}
	for _, r := range actor.Presets {
		as[r.Rights] = e.joined("A "+r.Name, r.Name)
	}
	for op, d := range operations {
		method, path, _ := strings.Cut(op, " ")
		for may, who := range as {
			r, err := http.NewRequest(method, e.URL+given(path), strings.NewReader("{}"))
			require.NoError(t, err)
			r.Header.Set("Content-Type", "application/json")
			who(r)
			res, err := http.DefaultClient.Do(r)
			require.NoError(t, err)
			require.NoError(t, res.Body.Close()) // events never end
			if may.Has(d.Right) {
				assert.NotContains(t, []int{401, 403}, res.StatusCode, "%s with %s", op, may)
			} else {
				assert.Equal(t, 403, res.StatusCode, "%s with %s", op, may)
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
	for op, want := range map[string]actor.Rights{
		"POST /api/v1/plans/{id}/submit": actor.Send, "POST /api/v1/submissions": actor.Send, "POST /api/v1/purchases": actor.Money, "POST /api/v1/order-lines/{id}/refund": actor.Money,
		"PUT /api/v1/sites/{id}/policy": actor.Settings, "POST /api/v1/people": actor.People, "PUT /api/v1/mail-settings": actor.Settings, "POST /api/v1/books/{month}/close": actor.Money,
		"POST /api/v1/sites/{id}/rules": actor.Prepare, "POST /api/v1/feeds/{id}/take": actor.Prepare, "GET /api/v1/purchases/{id}/export.{format}": actor.Buyers,
		"GET /api/v1/plans": actor.Look, "GET /api/v1/people": actor.People, "POST /api/v1/preparations/visibility": actor.Send,
	} {
		require.Contains(t, operations, op)
		assert.Equal(t, want, operations[op].Right, op)
	}
}

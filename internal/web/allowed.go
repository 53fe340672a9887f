package web

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
)

// base is the path that the API's operations are below.
const base = "/api/v1"

// declare keeps the declarations of all operations by method and route. An operation
// without one is a mistake of ours, and stops the start.
func (s *server) declare(api *huma.OpenAPI) {
	s.operations = map[string]*stops.Operation{}
	for path, item := range api.Paths {
		for _, op := range []*huma.Operation{item.Get, item.Post, item.Put, item.Delete} {
			if op == nil {
				continue
			}
			d, ok := stops.Declared(op)
			if !ok {
				panic(op.OperationID + " isn't declared by stops.Operation")
			}
			s.operations[op.Method+" "+base+path] = d
		}
	}
}

// operation is the one that a request is for; nil where none is declared.
func (s *server) operation(r *http.Request) *stops.Operation {
	method := r.Method
	if method == http.MethodHead {
		method = http.MethodGet
	}
	return s.operations[method+" "+chi.RouteContext(r.Context()).RoutePattern()]
}

// allowed lets through what whoever asks may do, and says of the rest which right it
// takes. What no operation declares is for nobody but who may everything.
func (s *server) allowed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		who, need := actor.Asking(r.Context()), actor.Everything
		if op := s.operation(r); op != nil {
			need = op.Right
		}
		switch {
		case who.May.Has(need) || strings.HasPrefix(r.URL.Path, base+"/openapi"):
			next.ServeHTTP(w, r)
		case who.Script && need == actor.Account:
			stops.Refuse(w, http.StatusForbidden, "a token changes nothing that its person is known by; log in to do this. Nothing was changed")
		default:
			stops.Refuse(w, http.StatusForbidden, fmt.Sprintf("This needs the right “%s”, which your role, “%s”, doesn't have (it has: %s). Nothing was changed. The owner gives rights under People", need, who.Role, who.May&^actor.Account))
		}
	})
}

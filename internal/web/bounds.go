package web

import (
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

// exact is the largest whole number that every reader of JSON keeps exactly, to the
// power of ten below: 2⁵³ is a little over it (RFC 8259, section 6).
const exact = 1e15

// bounded gives every whole number that a request may carry a bound where its
// operation gave none, so that no arithmetic with it can leave 64 bits.
func bounded(api *huma.OpenAPI) {
	b := bounder{api.Components.Schemas, map[*huma.Schema]bool{}}
	for _, item := range api.Paths {
		for _, op := range operationsOf(item) {
			for _, p := range op.Parameters {
				b.bound(p.Schema)
			}
			if op.RequestBody == nil {
				continue
			}
			for _, media := range op.RequestBody.Content {
				b.bound(media.Schema)
			}
		}
	}
}

// operationsOf are the operations at one address, by method.
func operationsOf(item *huma.PathItem) map[string]*huma.Operation {
	out := map[string]*huma.Operation{}
	for method, op := range map[string]*huma.Operation{http.MethodGet: item.Get, http.MethodPost: item.Post, http.MethodPut: item.Put, http.MethodPatch: item.Patch, http.MethodDelete: item.Delete} {
		if op != nil {
			out[method] = op
		}
	}
	return out
}

type bounder struct {
	named huma.Registry
	done  map[*huma.Schema]bool
}

func (b *bounder) bound(s *huma.Schema) {
	if s == nil || b.done[s] {
		return
	}
	b.done[s] = true
	if s.Ref != "" {
		b.bound(b.named.SchemaFromRef(s.Ref))
		return
	}
	if s.Type == huma.TypeInteger {
		least, most := -exact, float64(exact)
		if s.Minimum == nil && s.ExclusiveMinimum == nil {
			s.Minimum = &least
		}
		if s.Maximum == nil && s.ExclusiveMaximum == nil {
			s.Maximum = &most
		}
		s.PrecomputeMessages()
	}
	b.bound(s.Items)
	for _, p := range s.Properties {
		b.bound(p)
	}
	if more, ok := s.AdditionalProperties.(*huma.Schema); ok {
		b.bound(more)
	}
}

package web

import (
	"net/http"
	"net/url"
	"path"
	"strings"

	"github.com/go-chi/chi/v5"
)

// screens are the addresses of screens, as ui/src/router.tsx has them; a test compares
// the two.
var screens = []string{
	"/", "/keeping", "/sources", "/sources/feeds/{id}", "/hand-in", "/match", "/weigh", "/price", "/prepare", "/prepare/new", "/prepare/sheet", "/prepare/{id}",
	"/send", "/send/{id}", "/orders", "/orders/{id}", "/watch", "/watch/listings/{id}", "/people", "/places", "/products", "/products/{id}",
}

// known tells whether an address is that of a screen.
var known = func() func(path string) bool {
	r := chi.NewRouter()
	for _, s := range screens {
		r.Get(s, func(http.ResponseWriter, *http.Request) {})
	}
	return func(path string) bool { return r.Match(chi.NewRouteContext(), http.MethodGet, path) }
}()

// inside is an address to go to after logging in, made anew of the path and the question
// of one that is a screen of ours; "/" for any other. What a browser would read as
// another host's never comes out of it: it begins with one slash, and what follows is
// escaped.
func inside(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || !strings.HasPrefix(u.Path, "/") || path.Clean(u.Path) != u.Path || !known(u.Path) {
		return "/"
	}
	return (&url.URL{Path: u.Path, RawQuery: u.Query().Encode()}).String()
}

// Package web is the edge: who may ask, the API of the stops, its events and the
// built front end, on chi.
package web

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"path"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"easymargin/internal/edge"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
)

//go:embed all:dist
var dist embed.FS

// Options are what the edge is made of.
type Options struct {
	Stops  []stops.Stop
	People *people.Stop // who works here; asks for a password or doesn't
	Events *stops.Hub
	Hosts  []string // further host names to be called by
	Demo   *Demo    // nil for the real thing
	Clock  Clock
	Secure bool // reached over TLS
	// Proxies are those whose word is taken for who asks.
	Proxies []netip.Prefix
	Operate Operate
	// Beat is how often an event stream says that it is still there; 0: every 20 seconds.
	Beat time.Duration
}

type server struct {
	Options
	keys       keyed
	operations map[string]*stops.Operation // by method and route
}

// Elsewhere tells whether an address to listen at can be reached from other
// machines. It refuses what is no address, and a password that is too short.
func Elsewhere(addr, password string) (bool, error) {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return false, fmt.Errorf("the address %q is not HOST:PORT", addr)
	}
	if password != "" && len([]rune(password)) < people.LeastPassword {
		return false, fmt.Errorf("EASYMARGIN_PASSWORD has fewer than %d characters; choose a longer one", people.LeastPassword)
	}
	return !edge.Local(host), nil
}

// CheckGuarded refuses to be reached from other machines where no owner has a
// password to log in with; by says by what it is reached.
func CheckGuarded(ctx context.Context, by string, p *people.Stop) error {
	guarded, err := p.Guarded(ctx)
	if err != nil || guarded || !p.Elsewhere {
		return err
	}
	return fmt.Errorf("%s lets it be reached from other machines: set a password first, in EASYMARGIN_PASSWORD or with easymargin password, or leave that away and use 127.0.0.1", by)
}

// New is the handler of everything, and the description of its API.
func New(o Options) (http.Handler, *huma.OpenAPI) {
	s := &server{Options: o}
	r := chi.NewRouter()
	refuse := func(w http.ResponseWriter, words string) { stops.Refuse(w, http.StatusForbidden, words) }
	r.Use(middleware.Recoverer, edge.Proxies(o.Proxies, refuse), s.checkHost, edge.Bodies(mostWait), s.headers, http.NewCrossOriginProtection().Handler)
	r.Get(logInPath, s.logInPage)
	r.Post(logInPath, s.logIn)
	r.Post(logOutPath, s.logOut)
	s.operate(r)
	var described *huma.OpenAPI
	compress := middleware.Compress(5, "application/json", "text/html", "text/css", "text/javascript")
	r.Route(base, func(r chi.Router) {
		r.Use(s.who, compress)
		r.Group(func(r chi.Router) {
			r.Use(s.allowed, s.idempotent)
			api := humachi.New(r, describe())
			for _, stop := range o.Stops {
				stop.Operations(api)
			}
			s.demoOperations(api)
			stops.Raw(api, stops.Read("/events", "stream-events", "runs", "Runs and changes as server-sent events: a stream that doesn't end").File("text/event-stream"), s.events)
			described = api.OpenAPI()
			bounded(described)
			s.declare(described)
			tagged(described, s.operations)
		})
		r.NotFound(nowhere)
	})
	r.NotFound(s.who(compress(frontEnd())).ServeHTTP)
	r.MethodNotAllowed(func(w http.ResponseWriter, r *http.Request) {
		stops.Refuse(w, http.StatusMethodNotAllowed, r.URL.Path+" is there, but "+r.Method+" is not one of its methods")
	})
	return r, described
}

// nowhere answers for addresses below /api that are none.
func nowhere(w http.ResponseWriter, r *http.Request) {
	stops.Refuse(w, http.StatusNotFound, "the API has nothing at "+r.URL.Path)
}

// mostWait is how long the body of a request may take to come: a log-in's is a line,
// others come from programs. Files take as long as they keep coming.
func mostWait(r *http.Request) time.Duration {
	if r.URL.Path == logInPath {
		return 10 * time.Second
	}
	return time.Minute
}

// checkHost refuses requests that were sent here under somebody else's name,
// which is how a page elsewhere would reach a server on this machine.
func (s *server) checkHost(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := edge.Host(r)
		fine := edge.Called(host, s.Hosts)
		if _, err := netip.ParseAddr(strings.Trim(host, "[]")); err == nil && !fine {
			_, alone := s.People.Alone(r.Context())
			fine = !alone // a page elsewhere can't log in
		}
		if !fine {
			stops.Refuse(w, http.StatusForbidden, fmt.Sprintf("this server is not called %q; start it with --host to let it be", host))
			return
		}
		next.ServeHTTP(w, r)
	})
}

func (s *server) headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set(
			"Content-Security-Policy",
			"default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
		)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin") // without one, a form sent over plain HTTP has the origin null
		if s.Secure || edge.TLS(r) {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

// frontEnd serves the built screens; addresses of screens all get the one page.
func frontEnd() http.Handler {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is built in
	}
	serve := http.FileServerFS(files)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if name == "api/docs" {
			http.ServeFileFS(w, r, files, "api-docs.html")
			return
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			nowhere(w, r)
			return
		}
		if info, err := fs.Stat(files, name); err == nil && !info.IsDir() && name != "index.html" {
			if strings.HasPrefix(name, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			serve.ServeHTTP(w, r)
			return
		}
		status := http.StatusOK
		if !known(r.URL.Path) {
			status = http.StatusNotFound // a screen says so
		}
		if strings.HasPrefix(name, "assets/") || path.Ext(name) != "" {
			http.NotFound(w, r) // a file that isn't there is no screen
			return
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			slog.Error("the front end is not built in", "error", err)
			stops.Refuse(w, http.StatusNotFound, "the front end is not built in; run make build")
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Cache-Control", "no-cache")
		w.WriteHeader(status)
		_, _ = w.Write(page)
	})
}

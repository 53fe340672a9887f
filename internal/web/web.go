// Package web is the edge: the API, its events and the built front end, on
// chi. It checks who asks and from where, and turns errors into problem+json,
// once, here.
package web

import (
	"crypto/sha256"
	"crypto/subtle"
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

	"easymargin/internal/app"
)

//go:embed all:dist
var dist embed.FS

// Demo is what the demo adds: a clock that can be moved.
type Demo struct {
	Now     func() time.Time
	Forward func(by time.Duration) time.Time
}

// Options are what the edge is made of.
type Options struct {
	App      *app.App
	Password string   // asked for where the address is not this machine's own
	Hosts    []string // further host names to be called by
	Demo     *Demo    // nil for the real thing
}

type server struct {
	app  *app.App
	demo *Demo
	keys keyed
}

// CheckAddr refuses to be reached from elsewhere without a password.
func CheckAddr(addr, password string) error {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return fmt.Errorf("the address %q is not HOST:PORT", addr)
	}
	if !local(host) && password == "" {
		return fmt.Errorf("%s can be reached from other machines: set a password in EASYMARGIN_PASSWORD first, or use 127.0.0.1", addr)
	}
	return nil
}

func local(host string) bool {
	if host == "localhost" {
		return true
	}
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return err == nil && ip.IsLoopback()
}

// New is the handler of everything, and the description of its API.
func New(o Options) (http.Handler, *huma.OpenAPI) {
	s := &server{app: o.App, demo: o.Demo}
	r := chi.NewRouter()
	r.Use(middleware.Recoverer, o.checkHost, headers, http.NewCrossOriginProtection().Handler, o.askPassword, middleware.Compress(5, "application/json", "text/html", "text/css", "text/javascript"))
	cfg := huma.DefaultConfig("Easy Margin", "1")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath, cfg.CreateHooks = "/api/openapi", "", "", nil
	cfg.Info.Description = "Everything the screens do. Amounts are whole minor units with their currency beside them; rates are percentages as text."
	var described *huma.OpenAPI
	r.Group(func(r chi.Router) {
		r.Use(s.idempotent)
		api := humachi.New(r, cfg)
		s.operations(api)
		r.Post("/api/feeds", s.upload)
		r.Get("/api/feeds/{id}/set-aside.csv", s.setAsideFile)
		r.Get("/api/events", s.events)
		r.Get("/api/pictures/{digest}", s.picture)
		described = api.OpenAPI()
		describe(described)
	})
	r.NotFound(frontEnd())
	return r, described
}

// checkHost refuses requests that were sent here under somebody else's name,
// which is how a page elsewhere would reach a server on this machine.
func (o Options) checkHost(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		fine := local(host)
		for _, h := range o.Hosts {
			fine = fine || strings.EqualFold(h, host)
		}
		if _, err := netip.ParseAddr(strings.Trim(host, "[]")); err == nil && o.Password != "" {
			fine = true
		}
		if !fine {
			problem(w, http.StatusForbidden, fmt.Sprintf("this server is not called %q; start it with --host to let it be", host))
			return
		}
		next.ServeHTTP(w, r)
	})
}

func (o Options) askPassword(next http.Handler) http.Handler {
	if o.Password == "" {
		return next
	}
	want := sha256.Sum256([]byte(o.Password))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, given, _ := r.BasicAuth()
		got := sha256.Sum256([]byte(given))
		if subtle.ConstantTimeCompare(want[:], got[:]) != 1 {
			w.Header().Set("WWW-Authenticate", `Basic realm="Easy Margin"`)
			problem(w, http.StatusUnauthorized, "a password is needed")
			return
		}
		next.ServeHTTP(w, r)
	})
}

func headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

// frontEnd serves the built screens; addresses of screens all get the one page.
func frontEnd() http.HandlerFunc {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is built in
	}
	serve := http.FileServerFS(files)
	return func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			problem(w, http.StatusNotFound, "the API has nothing at "+r.URL.Path)
			return
		}
		if info, err := fs.Stat(files, name); err == nil && !info.IsDir() && name != "index.html" {
			if strings.HasPrefix(name, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			serve.ServeHTTP(w, r)
			return
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			slog.Error("the front end is not built in", "error", err)
			problem(w, http.StatusNotFound, "the front end is not built in; run make build")
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Cache-Control", "no-cache")
		_, _ = w.Write(page)
	}
}

package web

import (
	"context"
	"io/fs"
	"log/slog"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"
)

// Operate is what whoever runs the program watches it by: docs/operating.md.
type Operate struct {
	Ready   func(context.Context) error // whether the data can be read; nil: it isn't asked
	Metrics http.Handler                // in Prometheus' text format; nil: none
}

const metricsPath = "/metrics"

// operate answers whoever watches the program, and programs that ask every site for the
// same files. Whether it lives and is ready says nothing of the shop, so that anybody
// may ask; figures are for those who may look.
func (s *server) operate(r chi.Router) {
	plain := func(w http.ResponseWriter, status int, words string) {
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		w.Header().Set("Cache-Control", "no-store")
		w.WriteHeader(status)
		_, _ = w.Write([]byte(words + "\n"))
	}
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { plain(w, http.StatusOK, "alive") })
	r.Get("/readyz", func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), 5*time.Second)
		defer cancel()
		if s.Operate.Ready != nil {
			if err := s.Operate.Ready(ctx); err != nil {
				slog.Error("not ready", "error", err)
				plain(w, http.StatusServiceUnavailable, "the data can't be read; the log says why")
				return
			}
		}
		plain(w, http.StatusOK, "ready")
	})
	if s.Operate.Metrics != nil {
		r.Method(http.MethodGet, metricsPath, s.who(s.Operate.Metrics)) // whoever is known may look
	}
	r.Get("/robots.txt", func(w http.ResponseWriter, _ *http.Request) { plain(w, http.StatusOK, "User-agent: *\nDisallow: /") })
	r.Get("/favicon.ico", func(w http.ResponseWriter, _ *http.Request) {
		mark, err := fs.ReadFile(dist, "dist/mark.svg")
		if err != nil {
			plain(w, http.StatusNotFound, "the front end is not built in; run make build")
			return
		}
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Header().Set("Cache-Control", "public, max-age=86400")
		_, _ = w.Write(mark)
	})
}

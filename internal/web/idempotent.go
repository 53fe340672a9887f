package web

import (
	"bytes"
	"context"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"easymargin/internal/store"
)

// keyed lets one request of a key through at a time.
type keyed struct {
	mu   sync.Mutex
	busy map[string]chan struct{}
}

func (k *keyed) enter(key string) func() {
	for {
		k.mu.Lock()
		wait, busy := k.busy[key]
		if !busy {
			if k.busy == nil {
				k.busy = map[string]chan struct{}{}
			}
			done := make(chan struct{})
			k.busy[key] = done
			k.mu.Unlock()
			return func() {
				k.mu.Lock()
				delete(k.busy, key)
				k.mu.Unlock()
				close(done)
			}
		}
		k.mu.Unlock()
		<-wait
	}
}

// idempotent gives a write that comes again with the same Idempotency-Key the
// answer it had the first time, and does nothing twice.
func (s *server) idempotent(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key := r.Header.Get("Idempotency-Key")
		if key == "" || r.Method == http.MethodGet || r.Method == http.MethodHead {
			next.ServeHTTP(w, r)
			return
		}
		if len(key) > 200 {
			problem(w, http.StatusBadRequest, "an Idempotency-Key has at most 200 characters")
			return
		}
		defer s.keys.enter(key)()
		where := r.Method + " " + r.URL.Path
		before, known, err := s.app.Store.Answered(r.Context(), key)
		switch {
		case err != nil:
			status, words := statusOf(err)
			problem(w, status, words)
			return
		case known && before.Path != where:
			problem(w, http.StatusConflict, "this Idempotency-Key was used for something else")
			return
		case known:
			w.Header().Set("Content-Type", before.Type)
			w.WriteHeader(before.Status)
			_, _ = w.Write(before.Body)
			return
		}
		rec := &recorder{ResponseWriter: w, status: http.StatusOK}
		next.ServeHTTP(rec, r)
		if rec.status >= 500 || rec.body.Len() > 1<<20 {
			return
		}
		row := store.Answered{Key: key, Path: where, Status: rec.status, Type: w.Header().Get("Content-Type"), Body: rec.body.Bytes(), At: time.Now()}
		if err := s.app.Store.Create(context.WithoutCancel(r.Context()), &row); err != nil {
			slog.Error("keeping an answer", "error", err)
		}
	})
}

type recorder struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (r *recorder) WriteHeader(status int) {
	r.status = status
	r.ResponseWriter.WriteHeader(status)
}

func (r *recorder) Write(p []byte) (int, error) {
	r.body.Write(p)
	return r.ResponseWriter.Write(p)
}

package web

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"hash"
	"io"
	"log/slog"
	"net/http"
	"strings"
	"sync"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/stops/people"
)

// keyed lets one request of a key through at a time.
type keyed struct {
	mu   sync.Mutex
	busy map[string]chan struct{}
}

// enter waits for those before it, and gives how it is left; an error where ctx ends first.
func (k *keyed) enter(ctx context.Context, key string) (leave func(), err error) {
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
			}, nil
		}
		k.mu.Unlock()
		select {
		case <-wait:
		case <-ctx.Done():
			return nil, ctx.Err()
		}
	}
}

// idempotent gives a write that comes again from the same person with the same
// Idempotency-Key the answer it had the first time, and does nothing twice. The
// key with another request is a mistake, and told (422, as
// draft-ietf-httpapi-idempotency-key-header has it). Only answers of what was done are
// kept, and never what was asked.
func (s *server) idempotent(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key := r.Header.Get("Idempotency-Key")
		if op := s.operation(r); key == "" || op == nil || !op.Keyed() {
			next.ServeHTTP(w, r)
			return
		}
		if len(key) > 200 {
			stops.Refuse(w, http.StatusBadRequest, "an Idempotency-Key has at most 200 characters")
			return
		}
		who := actor.Of(r.Context())
		leave, err := s.keys.enter(r.Context(), who+"\n"+key)
		if err != nil {
			stops.Problem(w, err) // whoever asked has given it up
			return
		}
		defer leave()
		before, known, err := s.People.Answered(r.Context(), who, key)
		if err != nil {
			stops.Problem(w, err)
			return
		}
		asked, err := digestOf(r, known)
		switch {
		case err != nil:
			stops.Refuse(w, http.StatusBadRequest, "the request can't be read: "+err.Error())
			return
		case known && !strings.HasPrefix(before.Digest, asked.head()):
			stops.Refuse(w, http.StatusUnprocessableEntity, "this Idempotency-Key was used for something else; use a new one")
			return
		case known && before.Digest != asked.whole():
			stops.Refuse(w, http.StatusUnprocessableEntity, "this Idempotency-Key was used with another body; use a new one")
			return
		case known:
			w.Header().Set("Content-Type", before.Type)
			w.WriteHeader(before.Status)
			_, _ = w.Write(before.Body)
			return
		}
		rec := &recorder{ResponseWriter: w, status: http.StatusOK}
		next.ServeHTTP(rec, r)
		if rec.status >= 400 || rec.body.Len() > 1<<20 { // what wasn't done may be tried again
			return
		}
		_, _ = io.Copy(io.Discard, r.Body) // what nobody read counts as asked too
		a := people.Answer{Digest: asked.whole(), Status: rec.status, Type: w.Header().Get("Content-Type"), Body: rec.body.Bytes()}
		if err := s.People.KeepAnswer(context.WithoutCancel(r.Context()), who, key, a); err != nil {
			slog.Error("keeping an answer", "error", err)
		}
	})
}

// asking is a request as far as its body has been read.
type asking struct {
	line string
	body hash.Hash
}

func (a *asking) head() string  { return a.line + "/" }
func (a *asking) whole() string { return a.line + "/" + hex.EncodeToString(a.body.Sum(nil)) }

// digestOf tells requests apart. The body is digested as it is read on; where
// its answer is known already, it is read to its end here.
func digestOf(r *http.Request, known bool) (*asking, error) {
	line := sha256.Sum256([]byte(r.Method + " " + r.URL.RequestURI()))
	a := &asking{hex.EncodeToString(line[:]), sha256.New()}
	if known {
		_, err := io.Copy(a.body, r.Body)
		return a, err
	}
	body := r.Body
	r.Body = struct {
		io.Reader
		io.Closer
	}{io.TeeReader(body, a.body), body}
	return a, nil
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

// Unwrap lets http.ResponseController reach what it controls.
func (r *recorder) Unwrap() http.ResponseWriter { return r.ResponseWriter }

package edge

import (
	"context"
	"errors"
	"io"
	"net/http"
	"time"
)

type tlsKey struct{}

func withTLS(ctx context.Context) context.Context { return context.WithValue(ctx, tlsKey{}, true) }

// TLS tells whether a request came over TLS, to us or to a proxy that is believed.
func TLS(r *http.Request) bool {
	return r.TLS != nil || r.Context().Value(tlsKey{}) != nil
}

// Bodies gives the body of a request so long to come whole; who takes one in parts
// sets a time of its own for each. Once it is there nothing hangs on it any more: what
// is done with it may take as long as it takes.
func Bodies(long func(r *http.Request) time.Duration) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Body != nil && r.Body != http.NoBody {
				control := http.NewResponseController(w)
				_ = control.SetReadDeadline(time.Now().Add(long(r))) // where it can't be set there is none
				r.Body = &body{r.Body, control}
			}
			next.ServeHTTP(w, r)
		})
	}
}

// body lifts the deadline once it has come whole.
type body struct {
	io.ReadCloser
	control *http.ResponseController
}

func (b *body) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if errors.Is(err, io.EOF) {
		_ = b.control.SetReadDeadline(time.Time{})
	}
	return n, err
}

package gateway

import (
	"context"
	"net/http"
	"strconv"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// limited keeps all requests to one place within its limit, and all of them
// back while the place has asked to be left alone (429 with Retry-After,
// RFC 6585 section 4, RFC 9110 section 10.2.3).
type limited struct {
	next  http.RoundTripper
	limit *rate.Limiter

	mu   sync.Mutex
	rest time.Time // not before
}

func (l *limited) RoundTrip(r *http.Request) (*http.Response, error) {
	if err := l.limit.Wait(r.Context()); err != nil {
		return nil, err
	}
	if err := l.waitOut(r.Context()); err != nil {
		return nil, err
	}
	res, err := l.next.RoundTrip(r)
	if err == nil && res.StatusCode == http.StatusTooManyRequests {
		l.mu.Lock()
		l.rest = time.Now().Add(retryAfter(res))
		l.mu.Unlock()
	}
	return res, err
}

func (l *limited) waitOut(ctx context.Context) error {
	l.mu.Lock()
	wait := time.Until(l.rest)
	l.mu.Unlock()
	if wait <= 0 {
		return nil
	}
	t := time.NewTimer(wait)
	defer t.Stop()
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-t.C:
		return nil
	}
}

// retryAfter is how long an answer asks to wait; 0 where it doesn't say.
func retryAfter(res *http.Response) time.Duration {
	text := res.Header.Get("Retry-After")
	if s, err := strconv.ParseInt(text, 10, 32); err == nil && s > 0 {
		return time.Duration(s) * time.Second
	}
	if at, err := http.ParseTime(text); err == nil {
		return max(time.Until(at), 0)
	}
	return 0
}

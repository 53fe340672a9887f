package web_test

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/internal/web"
)

// Whoever watches the program gets plain answers, none of them a screen.
func TestItIsWatched(t *testing.T) {
	var broken error
	handler, _ := web.New(web.Options{Operate: web.Operate{Ready: func(context.Context) error { return broken }}})
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+path, nil)
		handler.ServeHTTP(w, r)
		return w
	}
	for path, words := range map[string]string{"/healthz": "alive\n", "/readyz": "ready\n", "/robots.txt": "User-agent: *\nDisallow: /\n"} {
		got := get(path)
		assert.Equal(t, [2]any{http.StatusOK, words}, [2]any{got.Code, got.Body.String()}, path)
		assert.Equal(t, "text/plain; charset=utf-8", got.Header().Get("Content-Type"))
	}
	broken = errors.New("disk I/O error at /secret")
	got := get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, got.Code)
	assert.NotContains(t, got.Body.String(), "secret")
	assert.Equal(t, http.StatusOK, get("/healthz").Code, "alive all the same")
}

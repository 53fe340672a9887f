package edge_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/edge"
)

// served is what a request from an address, with headers, is answered, and who it is
// taken for.
func served(t *testing.T, proxies []string, from string, headers ...string) (status int, client string, tls bool) {
	list, err := edge.ParseProxies(proxies)
	require.NoError(t, err)
	h := edge.Proxies(list, func(w http.ResponseWriter, words string) { http.Error(w, words, http.StatusForbidden) })(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		client, tls = edge.Client(r), edge.TLS(r)
	}))
	r := httptest.NewRequest(http.MethodGet, "/", nil)
	r.RemoteAddr = from
	for i := 0; i < len(headers); i += 2 {
		r.Header.Add(headers[i], headers[i+1])
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	return w.Code, client, tls
}

func TestWhoAsksIsWhoANamedProxySays(t *testing.T) {
	for _, c := range []struct {
		proxies []string
		from    string
		headers []string
		status  int
		client  string
		tls     bool
	}{
		{nil, "203.0.113.5:99", nil, 200, "203.0.113.5", false},
		{nil, "[2001:db8:1:2:3::4]:99", nil, 200, "2001:db8:1:2::/64", false},
		{nil, "203.0.113.5:99", []string{"X-Forwarded-For", "10.0.0.1"}, 403, "", false},
		{nil, "127.0.0.1:99", []string{"X-Real-IP", "10.0.0.1"}, 403, "", false},
		{nil, "127.0.0.1:99", []string{"Forwarded", "for=10.0.0.1"}, 403, "", false},
		{nil, "127.0.0.1:99", []string{"X-Forwarded-Host", "app.example"}, 403, "", false},
		{[]string{"127.0.0.1"}, "127.0.0.1:99", []string{"X-Forwarded-For", "203.0.113.5", "X-Forwarded-Proto", "https"}, 200, "203.0.113.5", true},
		{[]string{"127.0.0.1"}, "127.0.0.1:99", []string{"X-Forwarded-For", "9.9.9.9, 203.0.113.5"}, 200, "203.0.113.5", false},
		{[]string{"127.0.0.1"}, "127.0.0.2:99", []string{"X-Forwarded-For", "203.0.113.5"}, 403, "", false},
		{[]string{"10.0.0.0/8", "::1"}, "[::1]:99", []string{"X-Forwarded-For", "203.0.113.5, 10.2.3.4"}, 200, "203.0.113.5", false},
		{[]string{"10.0.0.0/8"}, "[::ffff:10.0.0.9]:99", []string{"X-Forwarded-For", "203.0.113.5"}, 200, "203.0.113.5", false},
	} {
		status, client, tls := served(t, c.proxies, c.from, c.headers...)
		assert.Equal(t, [3]any{c.status, c.client, c.tls}, [3]any{status, client, tls}, "%+v", c)
	}
	_, err := edge.ParseProxies([]string{"proxy.example"})
	assert.ErrorContains(t, err, "no address")
	assert.True(t, edge.Called("KIT.example", []string{"kit.example"}))
	for _, host := range []string{"127.0.0.1.evil.example", "evil.example", "", "10.0.0.1"} {
		assert.False(t, edge.Called(host, nil), host)
	}
	for _, host := range []string{"localhost", "LOCALHOST", "127.9.9.9", "[::1]"} {
		assert.True(t, edge.Called(host, nil), host)
	}
}

// So many at once by each and by all, and more as time passes; who is kept waiting is
// told how long, and takes nothing from others.
func TestALimitIsKeptByEachAndByAll(t *testing.T) {
	at := time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC)
	l := &edge.Limit{Each: edge.Rate{Burst: 3, Every: time.Minute}, All: edge.Rate{Burst: 5, Every: 10 * time.Second}, Now: func() time.Time { return at }}
	ask := func(from string) (wait time.Duration) {
		r := httptest.NewRequest(http.MethodPost, "/", nil)
		r.RemoteAddr = from + ":1"
		edge.Proxies(nil, nil)(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { wait = l.Wait(r) })).ServeHTTP(httptest.NewRecorder(), r)
		return wait
	}
	for range 3 {
		assert.Zero(t, ask("203.0.113.5"))
	}
	for range 9 {
		assert.Equal(t, time.Minute, ask("203.0.113.5"))
	}
	assert.Zero(t, ask("203.0.113.6"))
	assert.Zero(t, ask("203.0.113.7"))
	assert.Equal(t, 10*time.Second, ask("203.0.113.8"), "all together")
	at = at.Add(10 * time.Second)
	assert.Zero(t, ask("203.0.113.8"))
	assert.Positive(t, ask("203.0.113.8"))
	at = at.Add(time.Minute)
	assert.Zero(t, ask("203.0.113.5"))
}

// A body that comes a byte a second is not waited for; one that came whole may be worked
// with for longer than it may take to come.
func TestASlowBodyEndsAndSlowWorkDoesNot(t *testing.T) {
	const long = 150 * time.Millisecond
	worked := make(chan error, 1)
	server := httptest.NewServer(edge.Bodies(func(*http.Request) time.Duration { return long })(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		if err != nil {
			http.Error(w, "it didn't come", http.StatusRequestTimeout)
			return
		}
		select { // as long work would, until somebody gives the request up
		case <-r.Context().Done():
			worked <- r.Context().Err()
		case <-time.After(4 * long):
			worked <- nil
		}
		_, _ = fmt.Fprint(w, len(body))
	})))
	t.Cleanup(server.Close)
	res, err := http.Post(server.URL, "text/plain", io.LimitReader(zeros{}, 1<<20))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.NoError(t, <-worked)

	conn, err := net.Dial("tcp", server.Listener.Addr().String())
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close() })
	_, err = fmt.Fprint(conn, "POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\na")
	require.NoError(t, err)
	began := time.Now()
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	require.NoError(t, err)
	assert.Equal(t, http.StatusRequestTimeout, answer.StatusCode)
	assert.Less(t, time.Since(began), 100*long)
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { return len(p), nil }

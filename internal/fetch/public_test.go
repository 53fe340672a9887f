package fetch_test

import (
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fetch"
)

// An address in every form is what it leads to: of a machine itself, of a network of
// one's own, or set aside, and none of these is public.
func TestWhatIsPublic(t *testing.T) {
	for _, private := range []string{
		"127.0.0.1", "127.255.255.254", "0.0.0.0", "10.1.2.3", "172.16.0.1", "172.31.255.255", "192.168.1.5", "169.254.169.254", "100.64.0.1", "100.127.255.255", "198.18.0.1", "198.19.255.255",
		"192.0.0.8", "192.0.2.1", "198.51.100.7", "203.0.113.9", "224.0.0.1", "239.1.1.1", "240.0.0.1", "255.255.255.255",
		"::", "::1", "::ffff:127.0.0.1", "::ffff:10.0.0.1", "::127.0.0.1", "fe80::1", "fe80::1%eth0", "fc00::1", "fd12:3456::1", "ff02::1", "64:ff9b::7f00:1", "64:ff9b::a00:1", "64:ff9b:1::1",
		"2001::1", "2001:db8::1", "2002:7f00:1::", "2002:a00:1::1", "2002:808:808::", "100::1", "3fff::1", "fec0::1",
	} {
		assert.False(t, fetch.Public(netip.MustParseAddr(private)), private)
	}
	for _, public := range []string{"1.1.1.1", "8.8.8.8", "172.15.255.255", "172.32.0.1", "100.63.255.255", "100.128.0.1", "198.17.255.255", "198.20.0.1", "2606:4700::1111", "2a00:1450::1", "::ffff:8.8.8.8"} {
		assert.True(t, fetch.Public(netip.MustParseAddr(public)), public)
	}
}

// What the owner typed as this machine is reached; not what answers there send on to,
// nor another port of it, nor anything by a name.
func TestWhatTheOwnerTypedIsReachedAndNoMore(t *testing.T) {
	reached := 0
	inner := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { reached++ }))
	t.Cleanup(inner.Close)
	outer := httptest.NewServer(http.RedirectHandler(inner.URL+"/secret", http.StatusFound))
	t.Cleanup(outer.Close)
	at := func(s *httptest.Server) string { return strings.TrimPrefix(s.URL, "http://") }
	f := fetch.New(nil)
	client := func(typed string) *http.Client {
		return &http.Client{Transport: &http.Transport{DialContext: f.DialTyped(typed), DisableKeepAlives: true}}
	}
	_, err := client(at(outer)).Get(outer.URL)
	assert.ErrorContains(t, err, "private network", "it sends on")
	assert.Zero(t, reached)
	res, err := client(at(inner)).Get(inner.URL)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 1, reached)
	_, port, err := net.SplitHostPort(at(inner))
	require.NoError(t, err)
	for typed, ask := range map[string]string{"shop.example:443": inner.URL, "127.0.0.1:1": inner.URL, "169.254.169.254:80": "http://169.254.169.254/", "localhost.localdomain:" + port: "http://localhost.localdomain:" + port} {
		_, err := client(typed).Get(ask)
		assert.Error(t, err, "%s, %s", typed, ask)
	}
	assert.Equal(t, 1, reached)
}

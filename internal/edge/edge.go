// Package edge is what the application and the own shop have in common where requests
// come in: by which names they are called, whose word is taken for who asks, how
// long a body may take, and how often somebody may ask.
package edge

import (
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
)

// Host is the host that a request names, without its port.
func Host(r *http.Request) string {
	if h, _, err := net.SplitHostPort(r.Host); err == nil {
		return h
	}
	return r.Host
}

// Local tells whether a host is this machine itself.
func Local(host string) bool {
	if strings.EqualFold(host, "localhost") {
		return true
	}
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return err == nil && ip.IsLoopback()
}

// Called tells whether a server is called by a host: this machine, or one of some names.
func Called(host string, names []string) bool {
	return Local(host) || slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, host) })
}

// ParseProxies reads addresses of proxies, each an address or a network such as 10.0.0.0/8.
func ParseProxies(list []string) ([]netip.Prefix, error) {
	var out []netip.Prefix
	for _, text := range list {
		p, err := netip.ParsePrefix(text)
		if err != nil {
			ip, addrErr := netip.ParseAddr(text)
			if addrErr != nil {
				return nil, fmt.Errorf("--proxy: %q is no address such as 127.0.0.1, nor a network such as 10.0.0.0/8", text)
			}
			p = netip.PrefixFrom(ip.Unmap(), ip.Unmap().BitLen())
		}
		out = append(out, p.Masked())
	}
	return out, nil
}

// forwarded are the headers by which proxies say whom they ask for.
var forwarded = []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip"}

// Proxies takes the word of some proxies, and of nobody else, for who asks and whether
// they came over TLS. A request that says it was forwarded and comes from elsewhere is
// refused: believed it would let anybody be anybody, ignored it would have all who
// come through a proxy that nobody named be one. refuse answers it.
func Proxies(proxies []netip.Prefix, refuse func(w http.ResponseWriter, words string)) func(http.Handler) http.Handler {
	addresses := middleware.ClientIPFromRemoteAddr
	if len(proxies) > 0 {
		var text []string
		for _, p := range proxies {
			text = append(text, p.String())
		}
		addresses = middleware.ClientIPFromXFF(text...)
	}
	named := func(r *http.Request) bool {
		at, err := netip.ParseAddrPort(r.RemoteAddr)
		return err == nil && slices.ContainsFunc(proxies, func(p netip.Prefix) bool { return p.Contains(at.Addr().Unmap()) })
	}
	return chi.Chain(func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !named(r) && slices.ContainsFunc(forwarded, func(h string) bool { return r.Header.Get(h) != "" }) {
				refuse(w, "this request says that it was forwarded, and comes from no proxy that is known here; start the program with --proxy and the address of yours")
				return
			}
			if named(r) && strings.EqualFold(r.Header.Get("X-Forwarded-Proto"), "https") {
				r = r.WithContext(withTLS(r.Context()))
			}
			next.ServeHTTP(w, r)
		})
	}, addresses).Handler
}

// Client is the address that a request comes from, for counting: of IPv6 the network
// of a household or a machine, since each has 2⁶⁴ addresses (RFC 6177). "" is nobody
// that can be told.
func Client(r *http.Request) string {
	ip := middleware.GetClientIPAddr(r.Context())
	if !ip.IsValid() {
		return ""
	}
	if ip.Is4() {
		return ip.String()
	}
	p, err := ip.Prefix(64)
	if err != nil {
		return ""
	}
	return p.String()
}

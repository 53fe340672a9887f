// Package fetch gets files from addresses that suppliers name. It goes only to
// public addresses, also after a redirect, save for pairs of host and port that
// were allowed by name: a supplier must not make us ask machines of our own
// network.
package fetch

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"sync"
	"syscall"
	"time"

	"code.dny.dev/ssrf"

	"easymargin/internal/fault"
	"easymargin/internal/feed"
)

// Fetcher gets files. It is safe for many goroutines.
type Fetcher struct {
	client  *http.Client
	plain   *net.Dialer // to whatever was allowed by name
	public  *net.Dialer // to public addresses alone
	mu      sync.Mutex
	allowed map[string]bool
	names   map[string]string // host → address it is reached at
}

var errPrivate = errors.New("the address leads into a private network, which is never fetched from")

// New makes a fetcher that may fetch from some pairs of host and port though
// they are private, as they are written or as they are looked up.
func New(allow []string) *Fetcher {
	f := &Fetcher{allowed: map[string]bool{}}
	for _, pair := range allow {
		f.Allow(pair)
	}
	f.plain = &net.Dialer{Timeout: 10 * time.Second}
	f.public = &net.Dialer{Timeout: f.plain.Timeout, Control: func(_, address string, _ syscall.RawConn) error {
		// Called with the address after its name was looked up, so that a name can't point inward.
		at, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		if !f.allows(address) && !Public(at.Addr()) {
			return errPrivate
		}
		return nil
	}}
	f.client = &http.Client{
		Timeout:   5 * time.Minute,
		Transport: &http.Transport{DialContext: f.Dial, ResponseHeaderTimeout: 30 * time.Second, DisableKeepAlives: true},
		CheckRedirect: func(_ *http.Request, via []*http.Request) error {
			if len(via) >= 5 {
				return errors.New("the address sends on more than five times")
			}
			return nil
		},
	}
	return f
}

// special are the networks that IANA sets aside for something else than the internet.
var special = ssrf.New(ssrf.WithAnyNetwork(), ssrf.WithAnyPort())

// Public tells whether an address is one of the internet, in whatever form it is
// written: none that IANA sets aside for a machine itself, a network of one's own, or
// what wraps such (RFC 6890; NAT64, RFC 6052; 6to4, RFC 3056).
func Public(ip netip.Addr) bool { return special.SafeAddr(ip.Unmap()) == nil }

// Dial connects to public addresses, and to others that were allowed by name.
func (f *Fetcher) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	if at, ok := f.named(address); ok {
		return f.plain.DialContext(ctx, network, at)
	}
	if f.allows(address) { // by the very name it was allowed by
		return f.plain.DialContext(ctx, network, address)
	}
	return f.public.DialContext(ctx, network, address)
}

// DialTyped is Dial for what the owner typed in by themselves: a gateway, a mail server.
// Where they wrote this machine, or an address of a network of their own, that is
// allowed by that; what a name leads to isn't, nor where an answer sends on to.
func (f *Fetcher) DialTyped(typed string) func(ctx context.Context, network, address string) (net.Conn, error) {
	return func(ctx context.Context, network, address string) (net.Conn, error) {
		if strings.EqualFold(address, typed) && near(typed) {
			return f.plain.DialContext(ctx, network, address)
		}
		return f.Dial(ctx, network, address)
	}
}

// near tells whether a pair of host and port is written as this machine or as an address
// of a network of one's own (RFC 1918, RFC 4193).
func near(pair string) bool {
	host, _, err := net.SplitHostPort(pair)
	if err != nil {
		return false
	}
	ip, err := netip.ParseAddr(host)
	return strings.EqualFold(host, "localhost") || err == nil && (ip.Unmap().IsLoopback() || ip.Unmap().IsPrivate())
}

// Allow lets one pair of host and port be fetched from though it is private.
func (f *Fetcher) Allow(pair string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.allowed[strings.ToLower(pair)] = true
}

func (f *Fetcher) allows(pair string) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.allowed[strings.ToLower(pair)]
}

// Name has a host reached at an address of this machine, whatever its port: the
// demo's suppliers are called the same wherever they listen.
func (f *Fetcher) Name(host, at string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.names == nil {
		f.names = map[string]string{}
	}
	f.names[strings.ToLower(host)] = at
}

func (f *Fetcher) named(address string) (string, bool) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return "", false
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	at, ok := f.names[strings.ToLower(host)]
	return at, ok
}

// Request is what to fetch, and what is known of it.
type Request struct {
	Address            string
	ETag, Modified     string // of what was fetched last
	Username, Password string
}

// Fetched is what an address gave.
type Fetched struct {
	Same           bool // nothing new since the tags given
	ETag, Modified string
}

// Get writes what an address serves to w, at most feed.MaxBytes of it. at is
// told how far it is; it may be nil.
func (f *Fetcher) Get(ctx context.Context, q Request, w io.Writer, at func(done, total int64)) (Fetched, error) {
	req, err := q.of(ctx, http.MethodGet, nil)
	if err != nil {
		return Fetched{}, err
	}
	u := req.URL
	if q.ETag != "" {
		req.Header.Set("If-None-Match", q.ETag)
	}
	if q.Modified != "" {
		req.Header.Set("If-Modified-Since", q.Modified)
	}
	res, err := f.do(ctx, f.client, req, "what was taken before is unchanged, try again later")
	if err != nil {
		return Fetched{}, err
	}
	defer res.Body.Close()
	out := Fetched{ETag: res.Header.Get("ETag"), Modified: res.Header.Get("Last-Modified")}
	if res.StatusCode == http.StatusNotModified {
		out.Same = true
		return out, nil
	}
	if res.StatusCode != http.StatusOK {
		return out, fault.New(fault.Unavailable, "%s answered %s; what was taken before is unchanged, try again later", u.Host, res.Status)
	}
	if res.ContentLength > feed.MaxBytes {
		return out, feed.TooBig(res.ContentLength)
	}
	n, err := io.Copy(w, &counting{r: io.LimitReader(res.Body, feed.MaxBytes+1), total: max(res.ContentLength, 0), at: at})
	if err != nil {
		if ctx.Err() != nil {
			return out, ctx.Err()
		}
		if fault.NoRoom(err) { // it is we who can't keep it
			return out, err
		}
		return out, fault.New(fault.Unavailable, "%s broke off after %d bytes (%v); nothing was kept, try again", u.Host, n, err)
	}
	if n > feed.MaxBytes {
		return out, feed.TooBig(n)
	}
	return out, nil
}

// of is the request by a method.
func (q *Request) of(ctx context.Context, method string, body io.Reader) (*http.Request, error) {
	u, err := url.Parse(q.Address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return nil, fault.At("address", "%q is not an address such as https://supplier.example/prices.csv", q.Address)
	}
	req, err := http.NewRequestWithContext(ctx, method, u.String(), body)
	if err != nil {
		return nil, err
	}
	req.Header.Set("User-Agent", "easymargin")
	if q.Username != "" || q.Password != "" {
		req.SetBasicAuth(q.Username, q.Password) // not sent on to another host by a redirect
	}
	return req, nil
}

// do asks, and says in words why there is no answer; after is what holds then.
func (f *Fetcher) do(ctx context.Context, c *http.Client, req *http.Request, after string) (*http.Response, error) {
	res, err := c.Do(req)
	if err == nil {
		return res, nil
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if errors.Is(err, errPrivate) {
		return nil, fault.At("address", "%s: %v; if it is yours, start the program with --allow %s", req.URL.Host, errPrivate, Pair(req.URL))
	}
	var inner *url.Error
	if errors.As(err, &inner) {
		err = inner.Err
	}
	return nil, fault.New(fault.Unavailable, "%s can't be reached (%v); %s", req.URL.Host, err, after)
}

// Put gives an address a file (RFC 9110, 9.3.4), the whole of it or nothing: the
// same again changes nothing. It isn't sent on to where the address points.
func (f *Fetcher) Put(ctx context.Context, q Request, media string, body []byte) error {
	req, err := q.of(ctx, http.MethodPut, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", media)
	c := *f.client
	c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	res, err := f.do(ctx, &c, req, "it is tried again")
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode < 200 || res.StatusCode > 299 {
		said, _ := io.ReadAll(io.LimitReader(res.Body, 300)) // what can't be read says nothing
		return fault.New(fault.Unavailable, "%s answered %s to the file: %s", req.URL.Host, res.Status, strings.TrimSpace(string(said)))
	}
	return nil
}

// Pair is the host and port of an address, as --allow wants them.
func Pair(u *url.URL) string {
	port := u.Port()
	if port == "" {
		port = map[string]string{"http": "80", "https": "443"}[u.Scheme]
	}
	return net.JoinHostPort(u.Hostname(), port)
}

type counting struct {
	r           io.Reader
	done, total int64
	at          func(done, total int64)
}

func (c *counting) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.done += int64(n)
	if c.at != nil {
		c.at(c.done, c.total)
	}
	return n, err
}

// Limited takes no more than it may; going over is told with the limit.
type Limited struct {
	To   *bytes.Buffer
	What string
	Most int // bytes
}

func (l *Limited) Write(p []byte) (int, error) {
	if l.To.Len()+len(p) > l.Most {
		return 0, fmt.Errorf("%s has more than %d MiB, which is the most that is fetched", l.What, l.Most>>20)
	}
	return l.To.Write(p)
}

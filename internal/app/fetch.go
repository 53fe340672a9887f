package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"sync"
	"syscall"
	"time"

	"easymargin/internal/feed"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// fetcher gets files from suppliers' addresses. It goes only to public
// addresses, also after a redirect, save for pairs of host and port that were
// allowed by name: a supplier must not make us ask machines of our own network.
type fetcher struct {
	client  *http.Client
	mu      sync.Mutex
	allowed map[string]bool
}

// Allow lets one pair of host and port be fetched from though it is private.
func (a *App) Allow(pair string) {
	a.fetch.mu.Lock()
	defer a.fetch.mu.Unlock()
	a.fetch.allowed[pair] = true
}

func (f *fetcher) allows(pair string) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.allowed[pair]
}

var errPrivate = errors.New("the address leads into a private network, which is never fetched from")

func newFetcher(allow []string) *fetcher {
	f := &fetcher{allowed: map[string]bool{}}
	for _, pair := range allow {
		f.allowed[pair] = true
	}
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: func(_, address string, _ syscall.RawConn) error {
		// Called with the address after its name was looked up, so that a name can't point inward.
		at, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		ip := at.Addr().Unmap()
		if !f.allows(address) && (!ip.IsGlobalUnicast() || ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() || carrier.Contains(ip)) {
			return errPrivate
		}
		return nil
	}}
	f.client = &http.Client{
		Timeout:   5 * time.Minute,
		Transport: &http.Transport{DialContext: dialer.DialContext, ResponseHeaderTimeout: 30 * time.Second, DisableKeepAlives: true},
		CheckRedirect: func(_ *http.Request, via []*http.Request) error {
			if len(via) >= 5 {
				return errors.New("the address sends on more than five times")
			}
			return nil
		},
	}
	return f
}

var carrier = netip.MustParsePrefix("100.64.0.0/10") // shared address space, RFC 6598

// request is what to fetch, and what is known of it.
type request struct{ address, etag, modified, username, password string }

// fetchAgain fetches a source's address, trying again after growing pauses
// while it may work later.
func (a *App) fetchAgain(ctx context.Context, s store.Source, etag, modified string, in *inboxFile, t *work.Task) (fetched, error) {
	q := request{s.Address, etag, modified, s.Username, ""}
	if s.Password != "" {
		var err error
		if q.password, err = a.Store.Unseal(s.Password); err != nil {
			return fetched{}, &Error{Invalid, "password", err.Error()}
		}
	}
	for i := 0; ; i++ {
		got, err := a.fetch.get(ctx, q, in, t.At)
		if err == nil || KindOf(err) != Unavailable || i >= len(a.opt.Pauses) {
			return got, err
		}
		if err := in.restart(); err != nil {
			return got, err
		}
		select {
		case <-ctx.Done():
			return got, ctx.Err()
		case <-time.After(a.opt.Pauses[i]):
		}
	}
}

// fetched is what an address gave.
type fetched struct {
	same           bool // nothing new since the tags given
	etag, modified string
}

// get writes what an address serves to w.
func (f *fetcher) get(ctx context.Context, q request, w io.Writer, at func(done, total int64)) (fetched, error) {
	address := q.address
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return fetched{}, invalid("address", "%q is not an address such as https://supplier.example/prices.csv", address)
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return fetched{}, err
	}
	req.Header.Set("User-Agent", "easymargin")
	if q.etag != "" {
		req.Header.Set("If-None-Match", q.etag)
	}
	if q.modified != "" {
		req.Header.Set("If-Modified-Since", q.modified)
	}
	if q.username != "" || q.password != "" {
		req.SetBasicAuth(q.username, q.password) // not sent on to another host by a redirect
	}
	res, err := f.client.Do(req)
	if err != nil {
		if ctx.Err() != nil {
			return fetched{}, ctx.Err()
		}
		if errors.Is(err, errPrivate) {
			return fetched{}, invalid("address", "%s: %v; if it is yours, start the program with --allow %s", u.Host, errPrivate, u.Host)
		}
		var inner *url.Error
		if errors.As(err, &inner) {
			err = inner.Err
		}
		return fetched{}, &Error{Unavailable, "", fmt.Sprintf("%s can't be reached (%v); what was taken before is unchanged, try again later", u.Host, err)}
	}
	defer res.Body.Close()
	out := fetched{etag: res.Header.Get("ETag"), modified: res.Header.Get("Last-Modified")}
	if res.StatusCode == http.StatusNotModified {
		out.same = true
		return out, nil
	}
	if res.StatusCode != http.StatusOK {
		return out, &Error{Unavailable, "", fmt.Sprintf("%s answered %s; what was taken before is unchanged, try again later", u.Host, res.Status)}
	}
	if res.ContentLength > feed.MaxBytes {
		return out, feed.TooBig(res.ContentLength)
	}
	n, err := io.Copy(w, &counting{r: io.LimitReader(res.Body, feed.MaxBytes+1), total: max(res.ContentLength, 0), at: at})
	if err != nil {
		if ctx.Err() != nil {
			return out, ctx.Err()
		}
		return out, &Error{Unavailable, "", fmt.Sprintf("%s broke off after %d bytes (%v); nothing was kept, try again", u.Host, n, err)}
	}
	if n > feed.MaxBytes {
		return out, feed.TooBig(n)
	}
	return out, nil
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

// Package gateway is the client of the protocol written down in docs/gateway.md
// and docs/gateway.yaml. Anyone can put a real marketplace behind it.
package gateway

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptrace"
	"net/url"
	"strings"
	"time"

	"github.com/cenkalti/backoff/v5"
	"golang.org/x/time/rate"

	"easymargin/internal/place"
)

// Options say how patient a client is. The zero value suits a real place.
type Options struct {
	Tries   uint          // how often one request is tried; 0: 5
	First   time.Duration // pause before the second try, growing from there; 0: 1 s
	Longest time.Duration // no pause is longer, whatever the place asks for; 0: 2 min
	Whole   time.Duration // after which it is left to a person, whatever the place asks for; 0: 30 min
	Rate    rate.Limit    // requests a second; 0: 100
	Answer  time.Duration // how long one answer is waited for; 0: 20 s
	// Dial connects to what an address leads to, and refuses what it may not lead to;
	// nil: whatever it is.
	Dial func(ctx context.Context, network, address string) (net.Conn, error)
}

func (o Options) filled() Options {
	if o.Tries == 0 {
		o.Tries = 5
	}
	if o.First == 0 {
		o.First = time.Second
	}
	if o.Longest == 0 {
		o.Longest = 2 * time.Minute
	}
	if o.Whole == 0 {
		o.Whole = 30 * time.Minute
	}
	if o.Rate == 0 {
		o.Rate = 100
	}
	if o.Answer == 0 {
		o.Answer = 20 * time.Second
	}
	return o
}

// Client speaks with one marketplace. It is safe for many goroutines, which
// share its limit.
type Client struct {
	name    string
	address string
	http    *http.Client
	opt     Options
}

// maxAnswer is the most that is read of one answer, in bytes.
const maxAnswer = 32 << 20

// Dial makes a place of the gateway at an address. Nothing is asked yet.
func Dial(name, address string, o Options) place.Place {
	o = o.filled()
	wire := http.DefaultTransport.(*http.Transport).Clone()
	if wire.Proxy = nil; o.Dial != nil {
		wire.DialContext = o.Dial
	}
	c := &Client{name, strings.TrimRight(address, "/"), &http.Client{Timeout: o.Answer, CheckRedirect: redirects,
		Transport: &limited{next: wire, limit: rate.NewLimiter(o.Rate, max(1, int(o.Rate)))}}, o}
	return place.Place{Name: name, Directory: c, Catalogue: c, Rivals: c, Outlet: c, Wire: c, Pictures: c, Sheets: c, Orders: c}
}

// redirects lets a question be sent on, and nothing that would change something.
func redirects(r *http.Request, via []*http.Request) error {
	if via[0].Method != http.MethodGet {
		return http.ErrUseLastResponse
	}
	if len(via) >= 5 {
		return errors.New("it sends on more than five times")
	}
	return nil
}

// Sites implements place.Directory.
func (c *Client) Sites(ctx context.Context) ([]place.Site, error) {
	var out struct{ Sites []place.Site }
	err := c.get(ctx, &out, nil, "sites")
	return place.BoundSites(out.Sites), err
}

// Categories implements place.Directory.
func (c *Client) Categories(ctx context.Context, site string) ([]place.Category, error) {
	var out struct{ Categories []place.Category }
	err := c.get(ctx, &out, nil, "sites", site, "categories")
	return out.Categories, err
}

// Fees implements place.Directory.
func (c *Client) Fees(ctx context.Context, site string) ([]place.FeeSchedule, error) {
	var out struct{ Schedules []place.FeeSchedule }
	err := c.get(ctx, &out, nil, "sites", site, "fees")
	return out.Schedules, err
}

// Demands implements place.Directory.
func (c *Client) Demands(ctx context.Context, site, category string) (json.RawMessage, error) {
	var out struct{ Demands json.RawMessage }
	err := c.get(ctx, &out, nil, "sites", site, "demands", category)
	return out.Demands, err
}

// EntriesByNumber implements place.Catalogue.
func (c *Client) EntriesByNumber(ctx context.Context, site string, gtins []string) ([]place.Entry, error) {
	return c.entries(ctx, site, url.Values{"gtin": {strings.Join(gtins, ",")}})
}

// Entry implements place.Catalogue.
func (c *Client) Entry(ctx context.Context, site, ref string) (place.Entry, error) {
	var out place.Entry
	err := c.get(ctx, &out, nil, "sites", site, "entries", ref)
	return place.BoundEntries([]place.Entry{out})[0], err
}

// EntriesByWords implements place.Catalogue.
func (c *Client) EntriesByWords(ctx context.Context, site, words string) ([]place.Entry, error) {
	return c.entries(ctx, site, url.Values{"words": {words}})
}

func (c *Client) entries(ctx context.Context, site string, q url.Values) ([]place.Entry, error) {
	var out struct{ Entries []place.Entry }
	err := c.get(ctx, &out, q, "sites", site, "entries")
	return place.BoundEntries(out.Entries), err
}

// Offers implements place.Rivals.
func (c *Client) Offers(ctx context.Context, site string, refs []string) (map[string][]place.Offer, error) {
	var out struct {
		Entries []struct {
			Ref    string
			Offers []place.Offer
		}
	}
	err := c.get(ctx, &out, url.Values{"entries": {strings.Join(refs, ",")}}, "sites", site, "offers")
	by := map[string][]place.Offer{}
	for _, e := range out.Entries {
		by[e.Ref] = place.BoundOffers(e.Offers)
	}
	return by, err
}

// SoldBy implements place.Rivals.
func (c *Client) SoldBy(ctx context.Context, site, seller, after string) ([]place.Sold, string, error) {
	var out struct {
		Entries []place.Sold
		Next    string
	}
	q := url.Values{"seller": {seller}}
	if after != "" {
		q.Set("after", after)
	}
	err := c.get(ctx, &out, q, "sites", site, "sold")
	return place.BoundSold(out.Entries), out.Next, err
}

// Body implements place.Wire.
func (c *Client) Body(lines []place.Line) ([]byte, error) {
	return json.Marshal(map[string]any{"lines": lines})
}

// HandOver implements place.Outlet.
func (c *Client) HandOver(ctx context.Context, site, key string, lines []place.Line) (place.Batch, error) {
	var out place.Batch
	text, err := c.Body(lines)
	if err != nil {
		return out, err
	}
	err = c.ask(ctx, request{method: http.MethodPost, address: c.path("sites", site, "batches"), key: key, body: text, whole: handingOver}, &out)
	if err == nil && out.ID == "" {
		err = &place.Unreachable{Name: c.name, Err: errors.New("its answer names no batch"), Perhaps: true}
	}
	return out, err
}

// Upload implements place.Pictures.
func (c *Client) Upload(ctx context.Context, digest, kind string, content []byte) error {
	return c.ask(ctx, request{method: http.MethodPut, address: c.path("pictures", digest), body: content, media: "image/" + kind, whole: c.opt.Whole}, nil)
}

// PutSheet implements place.Sheets.
func (c *Client) PutSheet(ctx context.Context, site, key, name string, content []byte) (string, error) {
	var out struct{ ID string }
	address := c.path("sites", site, "sheets") + "?" + url.Values{"name": {name}}.Encode()
	err := c.ask(ctx, request{method: http.MethodPost, address: address, key: key, body: content, media: "application/octet-stream", whole: handingOver}, &out)
	if err == nil && out.ID == "" {
		err = &place.Unreachable{Name: c.name, Err: errors.New("its answer names no sheet"), Perhaps: true}
	}
	return out.ID, err
}

// SheetLines implements place.Sheets.
func (c *Client) SheetLines(ctx context.Context, site, ref string) ([]place.SheetLine, error) {
	var out struct{ Lines []place.SheetLine }
	err := c.get(ctx, &out, nil, "sites", site, "sheets", ref)
	return out.Lines, err
}

// Follow implements place.Outlet.
func (c *Client) Follow(ctx context.Context, site, id string) (place.Batch, error) {
	var out place.Batch
	err := c.get(ctx, &out, nil, "sites", site, "batches", id)
	return out, err
}

// Listings implements place.Outlet. A gateway that knows no parts answers with
// all there is.
func (c *Client) Listings(ctx context.Context, site, after string) ([]place.Listing, string, error) {
	var out struct {
		Listings []place.Listing
		Next     string
	}
	q := url.Values{"limit": {"1000"}}
	if after != "" {
		q.Set("after", after)
	}
	err := c.get(ctx, &out, q, "sites", site, "listings")
	return place.BoundListings(out.Listings), out.Next, err
}

// Orders implements place.Orders.
func (c *Client) Orders(ctx context.Context, site, since string) ([]place.Order, string, error) {
	var out struct {
		Orders []json.RawMessage
		Next   string
	}
	q := url.Values{}
	if since != "" {
		q.Set("since", since)
	}
	err := c.get(ctx, &out, q, "sites", site, "orders")
	list := make([]place.Order, len(out.Orders))
	for i, text := range out.Orders {
		list[i] = orderOf(text)
	}
	return list, out.Next, err
}

// orderOf reads one order by itself, so that one that can't be read keeps none of the
// others from being taken.
func orderOf(text []byte) place.Order {
	var o place.Order
	err := json.Unmarshal(text, &o)
	if err == nil {
		return o
	}
	var named struct{ Ref string }
	_ = json.Unmarshal(text, &named) // without a name it gets one
	return place.Order{Ref: named.Ref, Wrong: err.Error()}
}

// Answer implements place.Orders.
func (c *Client) Answer(ctx context.Context, site, order, key string, answers []place.OrderAnswer) error {
	text, err := json.Marshal(map[string]any{"lines": answers})
	if err != nil {
		return err
	}
	return c.ask(ctx, request{method: http.MethodPost, address: c.path("sites", site, "orders", order, "answers"), key: key, body: text, whole: handingOver}, nil)
}

func (c *Client) get(ctx context.Context, into any, q url.Values, parts ...string) error {
	address := c.path(parts...)
	if len(q) > 0 {
		address += "?" + q.Encode()
	}
	return c.ask(ctx, request{method: http.MethodGet, address: address, whole: c.opt.Whole}, into)
}

func (c *Client) path(parts ...string) string {
	for i := range parts {
		parts[i] = url.PathEscape(parts[i])
	}
	return c.address + "/gateway/v1/" + strings.Join(parts, "/")
}

type request struct {
	method, address, key string
	body                 []byte
	whole                time.Duration // after which it isn't tried again
	media                string        // of the body; "" is JSON
}

// handingOver is how long a batch is tried to be handed over as it was made
// ready: after that it must be looked at once more before it may go.
const handingOver = 5 * time.Second

// ask asks, and again after growing pauses while it may work later. That is
// safe with a batch too: the place knows its key.
func (c *Client) ask(ctx context.Context, r request, into any) error {
	perhaps, patience := false, c.opt.patience()
	_, err := backoff.Retry(ctx, func() (struct{}, error) {
		err := c.once(ctx, r, into)
		var u *place.Unreachable
		if !errors.As(err, &u) {
			if err != nil {
				err = backoff.Permanent(err)
			}
			return struct{}{}, err
		}
		perhaps = perhaps || u.Perhaps
		var wait *busy
		if errors.As(u.Err, &wait) && wait.after > 0 {
			u.After = wait.after
			patience.left++ // what it asked to wait for is no try
			return struct{}{}, errors.Join(u, &backoff.RetryAfterError{Duration: min(wait.after, c.opt.Longest)})
		}
		return struct{}{}, u
	}, backoff.WithBackOff(patience), backoff.WithMaxElapsedTime(min(r.whole, c.opt.Whole)))
	var u *place.Unreachable
	switch {
	case err == nil:
		return nil
	case errors.As(err, &u):
		u.Perhaps = perhaps
		return u
	case perhaps: // what came after doesn't tell either
		return &place.Unreachable{Name: c.name, Err: err, Perhaps: true}
	}
	return err
}

// patience is how long a client goes on asking: pauses that grow, with jitter,
// so many times in a row. A place that says how long to wait is waited for.
type patience struct {
	*backoff.ExponentialBackOff
	tries, left uint
}

func (o Options) patience() *patience {
	grow := backoff.NewExponentialBackOff()
	grow.InitialInterval, grow.MaxInterval = o.First, o.Longest
	return &patience{grow, o.Tries, o.Tries}
}

// NextBackOff implements backoff.BackOff.
func (p *patience) NextBackOff() time.Duration {
	if p.left--; p.left == 0 {
		return backoff.Stop
	}
	return p.ExponentialBackOff.NextBackOff()
}

// Reset implements backoff.BackOff.
func (p *patience) Reset() {
	p.left = p.tries
	p.ExponentialBackOff.Reset()
}

// busy is a place's wish to be asked later.
type busy struct {
	status string
	after  time.Duration // 0: it doesn't say
}

func (b *busy) Error() string { return "it answered " + b.status }

// once asks one time.
func (c *Client) once(ctx context.Context, r request, into any) error {
	wrote := false // from here on the place may have read it
	traced := httptrace.WithClientTrace(ctx, &httptrace.ClientTrace{WroteHeaders: func() { wrote = true }})
	req, err := http.NewRequestWithContext(traced, r.method, r.address, bytes.NewReader(r.body))
	if err != nil {
		return &place.Refusal{Name: c.name, Words: err.Error()}
	}
	req.Header.Set("Content-Type", cmp.Or(r.media, "application/json"))
	if r.key != "" {
		req.Header.Set("Idempotency-Key", r.key)
	}
	changes := r.method != http.MethodGet
	lost := func(err error) error {
		return &place.Unreachable{Name: c.name, Err: err, Perhaps: changes && wrote}
	}
	res, err := c.http.Do(req)
	if err != nil {
		if ctx.Err() != nil && !(changes && wrote) {
			return ctx.Err()
		}
		return lost(reason(err))
	}
	defer res.Body.Close()
	text, err := io.ReadAll(io.LimitReader(res.Body, maxAnswer+1))
	switch {
	case res.StatusCode == http.StatusTooManyRequests:
		return &place.Unreachable{Name: c.name, Err: &busy{res.Status, retryAfter(res)}}
	case res.StatusCode >= 500:
		return lost(&busy{res.Status, retryAfter(res)})
	case res.StatusCode >= 300 && res.StatusCode < 400:
		return &place.Refusal{
			Name:   c.name,
			Status: res.StatusCode,
			Words:  fmt.Sprintf("it sends on to %q, which is not followed; connect it there", res.Header.Get("Location")),
		}
	case err != nil:
		return lost(fmt.Errorf("its answer broke off: %w", err))
	case len(text) > maxAnswer:
		return lost(fmt.Errorf("its answer has more than %d MiB", maxAnswer>>20))
	case res.StatusCode >= 400:
		var problem struct{ Detail string }
		if json.Unmarshal(text, &problem) != nil || problem.Detail == "" {
			problem.Detail = res.Status
		}
		return &place.Refusal{Name: c.name, Status: res.StatusCode, Words: problem.Detail}
	}
	if into == nil {
		return nil
	}
	if err := json.Unmarshal(text, into); err != nil {
		return lost(fmt.Errorf("its answer can't be read: %w", err))
	}
	return nil
}

// reason takes the address off an HTTP client's error: people know where it went.
func reason(err error) error {
	var u *url.Error
	if errors.As(err, &u) {
		return u.Err
	}
	return err
}

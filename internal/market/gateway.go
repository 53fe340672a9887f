package market

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"
)

// Gateway speaks the protocol of docs/gateway.md with one marketplace.
type Gateway struct {
	name    string
	address string
	client  *http.Client
}

// maxAnswer is the most that is read of one answer, in bytes.
const maxAnswer = 32 << 20

// NewGateway is a client of the gateway at an address.
func NewGateway(name, address string) *Gateway {
	return &Gateway{name, strings.TrimRight(address, "/"), &http.Client{Timeout: 20 * time.Second}}
}

var _ Marketplace = (*Gateway)(nil)

// Sites implements Marketplace.
func (g *Gateway) Sites(ctx context.Context) ([]Site, error) {
	var out struct{ Sites []Site }
	err := g.get(ctx, &out, "sites")
	return out.Sites, err
}

// Categories implements Marketplace.
func (g *Gateway) Categories(ctx context.Context, site string) ([]Category, error) {
	var out struct{ Categories []Category }
	err := g.get(ctx, &out, "sites", site, "categories")
	return out.Categories, err
}

// Fees implements Marketplace.
func (g *Gateway) Fees(ctx context.Context, site string) ([]FeeSchedule, error) {
	var out struct{ Schedules []FeeSchedule }
	err := g.get(ctx, &out, "sites", site, "fees")
	return out.Schedules, err
}

// EntriesByNumber implements Marketplace.
func (g *Gateway) EntriesByNumber(ctx context.Context, site string, gtins []string) ([]Entry, error) {
	return g.entries(ctx, site, url.Values{"gtin": {strings.Join(gtins, ",")}})
}

// Entry implements Marketplace.
func (g *Gateway) Entry(ctx context.Context, site, ref string) (Entry, error) {
	var out Entry
	err := g.get(ctx, &out, "sites", site, "entries", ref)
	return out, err
}

// EntriesByWords implements Marketplace.
func (g *Gateway) EntriesByWords(ctx context.Context, site, words string) ([]Entry, error) {
	return g.entries(ctx, site, url.Values{"words": {words}})
}

func (g *Gateway) entries(ctx context.Context, site string, q url.Values) ([]Entry, error) {
	var out struct{ Entries []Entry }
	err := g.do(ctx, http.MethodGet, g.path("sites", site, "entries")+"?"+q.Encode(), "", nil, &out)
	return out.Entries, err
}

// Offers implements Marketplace.
func (g *Gateway) Offers(ctx context.Context, site string, refs []string) (map[string][]Offer, error) {
	var out struct {
		Entries []struct {
			Ref    string  `json:"ref"`
			Offers []Offer `json:"offers"`
		} `json:"entries"`
	}
	err := g.do(ctx, http.MethodGet, g.path("sites", site, "offers")+"?"+url.Values{"entries": {strings.Join(refs, ",")}}.Encode(), "", nil, &out)
	by := map[string][]Offer{}
	for _, e := range out.Entries {
		by[e.Ref] = e.Offers
	}
	return by, err
}

// Send implements Marketplace.
func (g *Gateway) Send(ctx context.Context, site, key string, lines []Line) (Batch, error) {
	var out Batch
	err := g.do(ctx, http.MethodPost, g.path("sites", site, "batches"), key, map[string]any{"lines": lines}, &out)
	return out, err
}

// Batch implements Marketplace.
func (g *Gateway) Batch(ctx context.Context, site, id string) (Batch, error) {
	var out Batch
	err := g.get(ctx, &out, "sites", site, "batches", id)
	return out, err
}

func (g *Gateway) get(ctx context.Context, into any, parts ...string) error {
	return g.do(ctx, http.MethodGet, g.path(parts...), "", nil, into)
}

func (g *Gateway) path(parts ...string) string {
	for i := range parts {
		parts[i] = url.PathEscape(parts[i])
	}
	return g.address + "/gateway/v1/" + strings.Join(parts, "/")
}

func (g *Gateway) do(ctx context.Context, method, address, key string, body, into any) error {
	var in io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return err
		}
		in = bytes.NewReader(text)
	}
	req, err := http.NewRequestWithContext(ctx, method, address, in)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set("Idempotency-Key", key)
	}
	res, err := g.client.Do(req)
	if err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return &Unreachable{g.name, reason(err)}
	}
	defer res.Body.Close()
	text, err := io.ReadAll(io.LimitReader(res.Body, maxAnswer+1))
	switch {
	case err != nil:
		return &Unreachable{g.name, fmt.Errorf("its answer broke off: %w", err)}
	case len(text) > maxAnswer:
		return &Unreachable{g.name, fmt.Errorf("its answer has more than %d MiB", maxAnswer>>20)}
	case res.StatusCode >= 500 || res.StatusCode == http.StatusTooManyRequests:
		return &Unreachable{g.name, fmt.Errorf("it answered %s", res.Status)}
	case res.StatusCode >= 400:
		var problem struct{ Detail string }
		if json.Unmarshal(text, &problem) != nil || problem.Detail == "" {
			problem.Detail = res.Status
		}
		return &Refusal{g.name, res.StatusCode, problem.Detail}
	}
	if err := json.Unmarshal(text, into); err != nil {
		return &Unreachable{g.name, fmt.Errorf("its answer can't be read: %w", err)}
	}
	return nil
}

// reason takes the address off an HTTP client's error: people know where it went.
func reason(err error) error {
	if u, ok := err.(*url.Error); ok {
		return u.Err
	}
	return err
}

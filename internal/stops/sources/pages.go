package sources

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/fetch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// trackers are the parts of an address that say how somebody came to a page,
// not which page it is.
var trackers = map[string]bool{
	"ref":       true,
	"referrer":  true,
	"source":    true,
	"campaign":  true,
	"affiliate": true,
	"aff":       true,
	"partner":   true,
	"clickid":   true,
	"sessionid": true,
	"session":   true,
	"sid":       true,
}

// PageAddress is a page's address without what only tells how one came to it,
// so that the same page is known again.
func PageAddress(text string) (string, error) {
	u, err := url.Parse(strings.TrimSpace(text))
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return "", fault.At("address", "%q is not an address such as https://shop.example/stove", stops.Clip(text, 100))
	}
	u.Fragment, u.RawFragment, u.User = "", "", nil
	u.Host = strings.ToLower(u.Host)
	q := u.Query()
	for name := range q {
		n := strings.ToLower(name)
		if trackers[n] || strings.HasPrefix(n, "utm_") || strings.HasSuffix(n, "clid") || strings.HasPrefix(n, "mc_") ||
			strings.HasPrefix(n, "_") {
			q.Del(name)
		}
	}
	u.RawQuery = q.Encode()
	if u.Path == "" {
		u.Path = "/"
	}
	return u.String(), nil
}

// Capture fetches one product's page and keeps it as a feed of the supplier's
// pages, to be looked at and taken. Pages bring one product at a time, so their
// source is an update: what another page told stays as it was.
func (st *Stop) Capture(ctx context.Context, supplier, address string) (store.Feed, error) {
	address, err := PageAddress(address)
	if err != nil {
		return store.Feed{}, err
	}
	if supplier = strings.TrimSpace(supplier); supplier == "" {
		u, err := url.Parse(address)
		if err != nil {
			return store.Feed{}, err
		}
		supplier = strings.TrimPrefix(u.Hostname(), "www.")
	}
	file, err := st.newInboxFile()
	if err != nil {
		return store.Feed{}, err
	}
	if _, err := st.Fetcher.Get(ctx, fetch.Request{Address: address}, file, nil); err != nil {
		file.drop()
		return store.Feed{}, err
	}
	opened, err := feed.Open(st.Store.Inbox(file.name), feed.Settings{Now: st.Now()})
	if err != nil {
		file.drop()
		return store.Feed{}, fmt.Errorf("%s: %w", address, err)
	}
	source, err := st.pagesOf(ctx, supplier, opened.Look().Currency)
	if err != nil {
		file.drop()
		return store.Feed{}, err
	}
	return st.keepFeed(ctx, file, Arriving{Name: address, SourceID: &source.ID})
}

// pagesOf is the source of a supplier's pages, made where there is none.
func (st *Stop) pagesOf(ctx context.Context, supplier, currency string) (store.Source, error) {
	name := supplier + ", pages"
	s, there, err := st.Store.SourceNamed(ctx, name)
	if err != nil || there {
		return s, err
	}
	if !money.Currency(currency).Valid() {
		return s, fault.At("address", "the page names no currency; type the product in by hand")
	}
	return st.make(ctx, NewSource{Supplier: supplier, Name: name, Currency: currency, Mode: "update"}, "page")
}

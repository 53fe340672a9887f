package app

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"easymargin/core/money"
	"easymargin/internal/feed"
	"easymargin/internal/store"
)

// trackers are the parts of an address that say how somebody came to a page,
// not which page it is.
var trackers = map[string]bool{"ref": true, "referrer": true, "source": true, "campaign": true, "affiliate": true, "aff": true, "partner": true, "clickid": true, "sessionid": true, "session": true, "sid": true}

// PageAddress is a page's address without what only tells how one came to it,
// so that the same page is known again.
func PageAddress(text string) (string, error) {
	u, err := url.Parse(strings.TrimSpace(text))
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return "", invalid("address", "%q is not an address such as https://shop.example/stove", clip(text, 100))
	}
	u.Fragment, u.RawFragment, u.User = "", "", nil
	u.Host = strings.ToLower(u.Host)
	q := u.Query()
	for name := range q {
		n := strings.ToLower(name)
		if trackers[n] || strings.HasPrefix(n, "utm_") || strings.HasSuffix(n, "clid") || strings.HasPrefix(n, "mc_") || strings.HasPrefix(n, "_") {
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
func (a *App) Capture(ctx context.Context, supplier, address string) (store.Feed, error) {
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
	file, err := a.newInboxFile()
	if err != nil {
		return store.Feed{}, err
	}
	if _, err := a.fetch.get(ctx, request{address: address}, file, nil); err != nil {
		file.drop()
		return store.Feed{}, err
	}
	opened, err := feed.Open(a.Store.Inbox(file.name), feed.Settings{Now: a.now()})
	if err != nil {
		file.drop()
		return store.Feed{}, fmt.Errorf("%s: %w", address, err)
	}
	source, err := a.pagesOf(ctx, supplier, opened.Look().Currency)
	if err != nil {
		file.drop()
		return store.Feed{}, err
	}
	return a.keepFeed(ctx, file, Arriving{Name: address, SourceID: &source.ID})
}

// pagesOf is the source of a supplier's pages, made where there is none.
func (a *App) pagesOf(ctx context.Context, supplier, currency string) (store.Source, error) {
	name := supplier + ", pages"
	var s store.Source
	there := false
	err := a.Store.Do(ctx, func(tx store.Tx) error {
		var err error
		s, there, err = tx.SourceByName(name)
		return err
	})
	if err != nil || there {
		return s, err
	}
	if !money.Currency(currency).Valid() {
		return s, invalid("address", "the page names no currency; type the product in by hand")
	}
	if s, err = a.MakeSource(ctx, NewSource{Supplier: supplier, Name: name, Currency: currency, Mode: "update"}); err != nil {
		return s, err
	}
	s.Kind = "page"
	return s, a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Source{ID: s.ID}, map[string]any{"kind": "page"}) })
}

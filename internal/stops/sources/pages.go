package sources

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"fmt"
	"io"
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
	return st.capture(ctx, supplier, address, func(address string, w io.Writer) error {
		_, err := st.Fetcher.Get(ctx, fetch.Request{Address: address}, w, nil)
		return err
	})
}

// HandIn keeps a page as a person's browser has it, as Capture keeps one that it
// fetched: also one behind a log-in, or drawn by script. token is that of the
// bookmark that handed it in.
func (st *Stop) HandIn(ctx context.Context, token, supplier, address string, html []byte) (store.Feed, error) {
	known, err := st.Store.Reading(ctx).Setting(bookmarkSetting)
	if err != nil {
		return store.Feed{}, err
	}
	if known.Value == "" || subtle.ConstantTimeCompare([]byte(token), []byte(known.Value)) != 1 {
		return store.Feed{}, fault.New(fault.Conflict, "this bookmark is an old one; put the one under Sources, One page, in its place")
	}
	if len(html) == 0 {
		return store.Feed{}, fault.New(fault.Invalid, "the page came without anything in it; open it again, and hand it in once it is drawn")
	}
	return st.capture(ctx, supplier, address, func(_ string, w io.Writer) error {
		_, err := w.Write(html)
		return err
	})
}

// MaxPage is the most bytes of a page that is handed in.
const MaxPage = 16 << 20

// bookmarkSetting is the setting of the token of bookmarks that hand pages in.
const bookmarkSetting = "page bookmark"

// Bookmarked is the token of bookmarks that hand pages in; "" where none was made yet.
func (st *Stop) Bookmarked(ctx context.Context) (string, error) {
	known, err := st.Store.Reading(ctx).Setting(bookmarkSetting)
	return known.Value, err
}

// Bookmark makes a token of bookmarks that hand pages in; those with the one before
// hand nothing in any more.
func (st *Stop) Bookmark(ctx context.Context) (string, error) {
	token := rand.Text()
	return token, st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sources")
		return stops.First(tx.PutSetting(bookmarkSetting, token), tx.Note(st.Now(), "bookmark made", "", ""))
	})
}

// capture keeps a page that get writes.
func (st *Stop) capture(ctx context.Context, supplier, address string, get func(address string, w io.Writer) error) (store.Feed, error) {
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
	if err := get(address, file); err != nil {
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

// Package shop is the own shop: a place to sell that is written straight into
// (docs/places.md), and the pages on which its buyers buy (docs/shop.md).
// The pages are made on the server and need no script. They have an address of their
// own, and nothing of the application is reached from it.
package shop

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"net/netip"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"easymargin/internal/actor"
	"easymargin/internal/edge"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

//go:embed pages
var pages embed.FS

// Options are what the shop's pages are made of.
type Options struct {
	Store *store.Store
	Now   func() time.Time
	// Sold takes an order up in the transaction that makes it, so that what it
	// has is promised before anybody else can buy it anywhere.
	Sold    func(tx store.Tx, site *store.Site, list []place.Order) error
	Hosts   []string       // names it is called by, beside those of this machine
	Proxies []netip.Prefix // whose word is taken for who asks
	Secure  bool           // reached over TLS
}

type server struct {
	Options
	made    *template.Template
	baskets edge.Limit
	orders  edge.Limit

	mu    sync.Mutex
	known seen // what every page needs, as it was a moment ago
	until time.Time
}

// How often baskets are changed and orders made: what a household does in a hurry, and
// what a shop of this size sells on its best day, many times over.
var (
	basketsEach = edge.Rate{Burst: 120, Every: time.Second}
	basketsAll  = edge.Rate{Burst: 1200, Every: 100 * time.Millisecond}
	ordersEach  = edge.Rate{Burst: 30, Every: 20 * time.Second}
	ordersAll   = edge.Rate{Burst: 300, Every: time.Second}
)

// mostWait is how long a form may take to come.
const mostWait = 10 * time.Second

// fresh is how long what every page needs is used without looking again: names,
// looks and counts, never a price or what can be had.
const fresh = 2 * time.Second

// New is the handler of the shop's pages.
func New(o Options) http.Handler {
	s := &server{Options: o, baskets: edge.Limit{Each: basketsEach, All: basketsAll}, orders: edge.Limit{Each: ordersEach, All: ordersAll}}
	o.Store.OnCommit(func(c store.Commit) { // what its seller sets is seen at once
		if slices.Contains(c.Topics, "places") || slices.Contains(c.Topics, "sites") {
			s.mu.Lock()
			s.until = time.Time{}
			s.mu.Unlock()
		}
	})
	s.made = template.Must(template.New("").Funcs(template.FuncMap{"money": shown}).ParseFS(pages, "pages/*.html"))
	r := chi.NewRouter()
	refuse := func(w http.ResponseWriter, words string) { http.Error(w, words, http.StatusForbidden) }
	r.Use(middleware.Recoverer, edge.Proxies(o.Proxies, refuse), s.checkHost, edge.Bodies(func(*http.Request) time.Duration { return mostWait }), s.headers, http.NewCrossOriginProtection().Handler, middleware.Compress(5, "text/html", "text/css", "application/xml"))
	r.Get("/", s.front)
	r.Get("/c/*", s.category)
	r.Get("/search", s.search)
	r.Get("/p/{sku}", s.product)
	r.Get("/basket", s.basket)
	r.Post("/basket", s.within(&s.baskets, s.changeBasket))
	r.Get("/checkout", s.checkout)
	r.Post("/checkout", s.within(&s.orders, s.buy))
	r.Get("/order/{ref}", s.order)
	r.Get("/about", s.about)
	r.Get("/style.css", s.style)
	r.Get("/pictures/{digest}.{size}.jpg", s.picture)
	r.Get("/robots.txt", func(w http.ResponseWriter, _ *http.Request) {
		_, _ = fmt.Fprint(w, "User-agent: *\nDisallow: /basket\nDisallow: /checkout\nDisallow: /order/\n")
	})
	r.NotFound(func(w http.ResponseWriter, r *http.Request) { s.missing(w, r, "There is no such page here.") })
	return r
}

// checkHost refuses requests that were sent here under somebody else's name.
func (s *server) checkHost(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if host := edge.Host(r); !edge.Called(host, s.Hosts) {
			http.Error(w, fmt.Sprintf("this shop is not called %q; start it with --shop-host to let it be", host), http.StatusForbidden)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// within lets as much through as a limit allows, and says of the rest when to come again.
func (s *server) within(l *edge.Limit, next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		wait := l.Wait(r)
		if wait == 0 {
			next(w, r)
			return
		}
		edge.RetryAfter(w, wait)
		s.sorry(w, r, http.StatusTooManyRequests, "Too much was asked for at once.", "Wait a little and try again; nothing was bought, and your basket is as it was.")
	}
}

func (s *server) headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'none'; img-src 'self'; style-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		if s.Secure || edge.TLS(r) {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		next.ServeHTTP(w, r.WithContext(actor.With(r.Context(), "the shop")))
	})
}

// view is what every page has: how the shop looks, where one is, and what is in the
// basket.
type view struct {
	Looks
	Version    int64
	Currency   string
	Title      string
	Words      string // that were searched for
	Categories []shelf
	InBasket   int64
	At         string // the category one is in
	Canonical  string
	LD         any // schema.org, JSON-LD
	Data       any
}

// shelf is a category with how many can be had in it and below.
type shelf struct {
	Ref, Name, Link string
	Count           int64
}

// seen is what a page is made from.
type seen struct {
	tx      store.Tx
	site    store.Site
	looks   Looks
	version int64 // of the looks: the style sheet of others isn't this one's
	all     []store.Category
	counts  map[string]int64
	now     time.Time
}

// look is what every page needs.
func (s *server) look(ctx context.Context) (*seen, error) {
	tx := s.Store.Reading(ctx)
	s.mu.Lock()
	defer s.mu.Unlock()
	if now := time.Now(); now.After(s.until) {
		site, err := tx.ShopSite()
		if err != nil {
			return nil, err
		}
		next := seen{site: site}
		if next.looks, next.version, err = LooksOf(tx, &site); err != nil {
			return nil, err
		}
		if next.all, next.counts, err = tx.ShopCategories(site.ID); err != nil {
			return nil, err
		}
		s.known, s.until = next, now.Add(fresh)
	}
	out := s.known
	out.tx, out.now = tx, s.Now()
	return &out, nil
}

// below are the categories under one that have something, with what is below them counted in.
func (v *seen) below(parent string) []shelf {
	var out []shelf
	for _, c := range v.all {
		if c.Parent != parent {
			continue
		}
		if n := v.count(c.Ref, 0); n > 0 {
			out = append(out, shelf{c.Ref, c.Name, link("c", c.Ref), n})
		}
	}
	return out
}

// deepest is how deep categories are followed.
const deepest = 8

func (v *seen) count(ref string, depth int) int64 {
	n := v.counts[ref]
	for _, c := range v.all {
		if c.Parent == ref && ref != "" && depth < deepest {
			n += v.count(c.Ref, depth+1)
		}
	}
	return n
}

// link is an address of the shop.
func link(kind, name string) string {
	return "/" + kind + "/" + strings.ReplaceAll(template.URLQueryEscaper(name), "+", "%20")
}

// show answers with a page.
func (s *server) show(w http.ResponseWriter, r *http.Request, v *seen, status int, name string, page view) {
	page.Looks, page.Version, page.Currency, page.Categories = v.looks, v.version, v.site.Currency, v.below("")
	if b, err := s.basketOf(r, v.tx); err == nil {
		for _, l := range b.Lines {
			page.InBasket += l.Quantity
		}
	}
	var out bytes.Buffer
	if err := s.made.ExecuteTemplate(&out, name, page); err != nil {
		s.failed(w, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	if w.Header().Get("Cache-Control") == "" {
		w.Header().Set("Cache-Control", "no-cache")
	}
	w.WriteHeader(status)
	_, _ = out.WriteTo(w)
}

// failed says that a page can't be shown, and why in the log alone.
func (s *server) failed(w http.ResponseWriter, err error) {
	if errors.Is(err, store.ErrMissing) {
		http.Error(w, "There is no shop here yet.", http.StatusNotFound)
		return
	}
	slog.Error("a page of the shop", "error", err)
	http.Error(w, "This page can't be shown just now. Nothing was bought and nothing lost; try again in a moment.", http.StatusInternalServerError)
}

// missing says that there is no such page, and offers the search.
func (s *server) missing(w http.ResponseWriter, r *http.Request, words string) {
	s.sorry(w, r, http.StatusNotFound, words, "What you look for may be found by its name.")
}

// sorry answers with a page that has only words.
func (s *server) sorry(w http.ResponseWriter, r *http.Request, status int, title, words string) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	s.show(w, r, v, status, "words", view{Title: title, Data: []string{words}})
}

// about says who sells here, and how it is delivered and taken back.
func (s *server) about(w http.ResponseWriter, r *http.Request) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	s.show(w, r, v, http.StatusOK, "about", view{Title: "Delivery, returns, and who we are"})
}

// style is the shop's one style sheet, in its seller's colours.
func (s *server) style(w http.ResponseWriter, r *http.Request) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	text, err := pages.ReadFile("pages/style.css")
	if err != nil {
		s.failed(w, err)
		return
	}
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "public, max-age=300")
	accent := v.looks.Colour
	if contrast(accent, v.looks.Ground) < 4.5 {
		accent = on(v.looks.Ground)
	}
	_, _ = fmt.Fprintf(w, ":root{--colour:%s;--on-colour:%s;--ground:%s;--text:%s;--link:%s}\n%s", v.looks.Colour, on(v.looks.Colour), v.looks.Ground, on(v.looks.Ground), accent, text)
}

// picture serves a picture that the shop was given, and no other file.
func (s *server) picture(w http.ResponseWriter, r *http.Request) {
	digest, size := chi.URLParam(r, "digest"), chi.URLParam(r, "size")
	if sides[size] == 0 || path.Base(digest) != digest {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	http.ServeFile(w, r, pictureFile(s.Store, digest, size))
}

// mended is what a buyer is told of an error that is theirs to mend; false for another.
func mended(err error) (string, bool) {
	if fault.KindOf(err) == "" || errors.Is(err, store.ErrMissing) {
		return "", false
	}
	return err.Error(), true
}

package sim

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Entry is a page of the marketplace's catalogue.
type Entry struct {
	Ref      string  `json:"ref"`
	GTIN     string  `json:"gtin"`
	Title    string  `json:"title"`
	Brand    string  `json:"brand"`
	Category string  `json:"category"`
	Picture  string  `json:"picture"`
	Page     string  `json:"page"`
	Units    int64   `json:"units"`
	Leave    bool    `json:"-"` // offers are refused here, and nothing says so before
	Offers   []Offer `json:"-"`

	GTINs      []string          `json:"gtins,omitempty"` // further numbers
	MPN        string            `json:"mpn,omitempty"`
	Colour     string            `json:"colour,omitempty"`
	Size       string            `json:"size,omitempty"`
	Material   string            `json:"material,omitempty"`
	Copyable   *bool             `json:"copyable,omitempty"`
	NeedsLeave bool              `json:"needs_leave,omitempty"`
	Rating     int64             `json:"rating,omitempty"` // hundredths of a star
	Ratings    int64             `json:"ratings,omitempty"`
	Rank       int64             `json:"rank,omitempty"`
	Titles     map[string]string `json:"-"` // by site, where it has one of its own
}

// Offer is another seller's offer, minor units.
type Offer struct {
	Seller   string `json:"seller"`
	Item     int64  `json:"item"`
	Delivery int64  `json:"delivery"`
	Lead     bool   `json:"lead"`
	Ours     bool   `json:"ours,omitempty"`
}

// Site is what the gateway says of one country.
type Site struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Currency string `json:"currency"`
	TaxWay   string `json:"tax_way"`
	TaxRate  int64  `json:"tax_rate"`
	MaxLines int64  `json:"max_lines"`
	Picture  int64  `json:"least_picture"`
	NoMarks  bool   `json:"no_marks,omitempty"`
	Kind     string `json:"kind,omitempty"`
	Dearer   int64  `json:"-"` // per cent of the offers' amounts that others ask on this site; 0 for 100
}

// Category is one category; Parent "" is the top.
type Category struct {
	Ref    string `json:"ref"`
	Parent string `json:"parent"`
	Name   string `json:"name"`

	NeedsLeave bool `json:"needs_leave,omitempty"` // to sell there takes leave of the place
}

// FeeSchedule is the fees of a category from a day on. Rates are millionths,
// amounts minor units.
type FeeSchedule struct {
	Site      string           `json:"-"` // code; "" for every site
	Category  string           `json:"category"`
	StartsOn  string           `json:"starts_on"`
	Fees      []map[string]any `json:"fees"`
	Warehouse map[string]any   `json:"warehouse,omitempty"`
}

// Marketplace is a marketplace with a shared catalogue, or without entries: the
// gateway under /gateway/v1, a public page per entry under /e/.
type Marketplace struct {
	Clock      *Clock
	Name       string
	Seller     string // who sends batches
	Sites      []Site
	Categories []Category
	Schedules  []FeeSchedule
	Demands    map[string]Demands // by category
	Entries    []*Entry
	FirstWait  time.Duration    // before a batch's first line is answered, clock time
	LineWait   time.Duration    // between its lines
	Sheets     *Sheets          // what it takes sheets by; nil: it takes none
	Limit      int              // questions that are answered in a second; more are told to wait; 0: any number
	Charges    map[string]int64 // what buyers pay for delivery, by site
	// Wander is what sellers ask on an entry at a moment; nil leaves its Offers as they are.
	Wander func(e *Entry, now time.Time) []Offer

	once    sync.Once
	byGTIN  map[string][]*Entry
	byRef   map[string]*Entry
	mux     *http.ServeMux
	changed func() // told after every change

	mu          sync.Mutex
	own         map[string]map[string]*own // by site and SKU
	batches     map[string]*batch          // by id
	keys        map[string]string          // batch key → id
	done        map[string]outcome
	pictures    map[string]bool     // that were uploaded, by digest
	uploads     []*upload           // filled sheets
	orders      map[string][]*Order // by site
	ordered     int                 // changes of orders so far
	refusedOnce map[string]string   // by SKU: what was wrong with it the first time
	applied     int64               // lines that changed something, for tests
	second      time.Time
	questions   int   // in that second
	Waits       int64 // how often somebody was told to wait, for tests
	down        bool
	mood        Mood
	polled      map[string]int // how often since the mood changed, by address
}

// own is one of the seller's offers.
type own struct {
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    int64  `json:"price"`
	Quantity int64  `json:"quantity"`

	Content *Content `json:"content,omitempty"` // of a listing of its own
}

type batch struct {
	ID       string
	Site     string
	Received time.Time
	Lines    []line
	Answered int
}

type line struct {
	Key      string `json:"key"`
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    *int64 `json:"price"`
	Quantity *int64 `json:"quantity"`
	Do       string `json:"do"`

	Content *Content `json:"content"`
	Cleared []string `json:"cleared"`
}

type outcome struct {
	Key   string `json:"key"`
	State string `json:"state"`
	Field string `json:"field,omitempty"`
	Words string `json:"words,omitempty"`
}

// tooMany counts questions by the second of the wall clock, as asking is real
// work whatever time the demo shows.
func (m *Marketplace) tooMany() bool {
	if m.Limit == 0 {
		return false
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if now := time.Now().Truncate(time.Second); now != m.second {
		m.second, m.questions = now, 0
	}
	m.questions++
	if m.questions <= m.Limit {
		return false
	}
	m.Waits++
	return true
}

func (m *Marketplace) init() {
	m.byGTIN, m.byRef = map[string][]*Entry{}, map[string]*Entry{}
	for _, e := range m.Entries {
		m.byRef[e.Ref] = e
		for _, n := range append([]string{e.GTIN}, e.GTINs...) {
			if n != "" {
				m.byGTIN[n] = append(m.byGTIN[n], e)
			}
		}
	}
	m.own, m.batches, m.keys, m.done = map[string]map[string]*own{}, map[string]*batch{}, map[string]string{}, map[string]outcome{}
	m.pictures, m.refusedOnce = map[string]bool{}, map[string]string{}
	m.mux = http.NewServeMux()
	api := func(pattern string, h func(w http.ResponseWriter, r *http.Request)) {
		m.mux.HandleFunc(pattern, func(w http.ResponseWriter, r *http.Request) {
			m.mu.Lock()
			down := m.down
			m.mu.Unlock()
			if down {
				problem(w, http.StatusServiceUnavailable, "maintenance, back shortly")
				return
			}
			if m.tooMany() {
				w.Header().Set("Retry-After", "1")
				problem(w, http.StatusTooManyRequests, fmt.Sprintf("at most %d questions a second", m.Limit))
				return
			}
			if site := r.PathValue("site"); site != "" && !slices.ContainsFunc(m.Sites, func(s Site) bool { return s.Code == site }) {
				problem(w, http.StatusNotFound, "no site "+site)
				return
			}
			h(w, r)
		})
	}
	api("GET /gateway/v1/sites", func(w http.ResponseWriter, _ *http.Request) { answer(w, map[string]any{"sites": m.Sites}) })
	api("GET /gateway/v1/sites/{site}/categories", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, map[string]any{"categories": m.Categories})
	})
	api("GET /gateway/v1/sites/{site}/fees", func(w http.ResponseWriter, r *http.Request) {
		list := []FeeSchedule{}
		for _, s := range m.Schedules {
			if s.Site == "" || s.Site == r.PathValue("site") {
				list = append(list, s)
			}
		}
		answer(w, map[string]any{"schedules": list})
	})
	api("GET /gateway/v1/sites/{site}/demands/{category}", m.demands)
	api("GET /gateway/v1/sites/{site}/entries", m.entries)
	api("GET /gateway/v1/sites/{site}/entries/{ref}", func(w http.ResponseWriter, r *http.Request) {
		if e := m.byRef[r.PathValue("ref")]; e != nil {
			answer(w, shown(e, r))
			return
		}
		problem(w, http.StatusNotFound, "no such entry")
	})
	api("GET /gateway/v1/sites/{site}/offers", m.offers)
	api("GET /gateway/v1/sites/{site}/sold", m.sold)
	api("GET /gateway/v1/sites/{site}/listings", m.listings)
	api("GET /gateway/v1/sites/{site}/orders", m.told)
	api("POST /gateway/v1/sites/{site}/orders/{ref}/answers", m.answered)
	api("POST /gateway/v1/sites/{site}/batches", m.moody(m.take))
	api("PUT /gateway/v1/pictures/{digest}", m.receive)
	api("GET /gateway/v1/sites/{site}/batches/{id}", m.moody(m.outcome))
	m.sellerRoutes(api)
	m.mux.HandleFunc("GET /moods", m.moods)
	m.mux.HandleFunc("POST /moods", m.moods)
	m.mux.HandleFunc("GET /e/{ref}", m.page)
	m.mux.HandleFunc("GET /pic/{ref}", photo(onWhite))
	m.mux.HandleFunc("GET /{$}", m.home)
	m.buyersRoutes()
}

// ServeHTTP serves the gateway and the public pages.
func (m *Marketplace) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	m.once.Do(m.init)
	m.mux.ServeHTTP(w, r)
}

// Have puts an offer of the seller's on a site, as if it had been there for years.
func (m *Marketplace) Have(site, sku, entry string, price, quantity int64) {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.own[site] == nil {
		m.own[site] = map[string]*own{}
	}
	m.own[site][sku] = &own{SKU: sku, Entry: entry, Price: price, Quantity: quantity}
	m.tell()
}

// End takes an offer of the seller's off a site, as if somebody had there.
func (m *Marketplace) End(site, sku string) {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	delete(m.own[site], sku)
	m.tell()
}

// SetDown makes the gateway fail, or work again.
func (m *Marketplace) SetDown(down bool) {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.down = down
}

// Applied counts the lines that changed something here.
func (m *Marketplace) Applied() int64 {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	return m.applied
}

func (m *Marketplace) entries(w http.ResponseWriter, r *http.Request) {
	out := []*Entry{}
	if numbers := r.URL.Query().Get("gtin"); numbers != "" {
		list := strings.Split(numbers, ",")
		if len(list) > 100 {
			problem(w, http.StatusBadRequest, "at most 100 numbers in one look-up")
			return
		}
		for _, n := range list {
			out = append(out, m.byGTIN[n]...)
		}
	} else {
		out = m.search(r.URL.Query().Get("words"), r.PathValue("site"))
	}
	list := make([]Entry, len(out))
	for i, e := range out {
		list[i] = shown(e, r)
	}
	answer(w, map[string]any{"entries": list})
}

// shown is an entry with its addresses made whole, in the words of the site.
func shown(e *Entry, r *http.Request) Entry {
	out := *e
	out.Title = e.titleOn(r.PathValue("site"))
	out.Page, out.Picture = "http://"+r.Host+e.Page, "http://"+r.Host+e.Picture
	return out
}

func (e *Entry) titleOn(site string) string { return cmp.Or(e.Titles[site], e.Title) }

// search ranks entries by how many of the words their title has, up to twelve.
func (m *Marketplace) search(words, site string) []*Entry {
	want := strings.Fields(strings.ToLower(strings.Map(func(r rune) rune {
		if strings.ContainsRune(",.;:()/'\"", r) {
			return ' '
		}
		return r
	}, words)))
	type hit struct {
		e *Entry
		n int
	}
	var hits []hit
	for _, e := range m.Entries {
		title, n := strings.ToLower(e.titleOn(site)), 0
		for _, w := range want {
			if strings.Contains(title, w) {
				n++
			}
		}
		if n > 0 && n*2 >= len(want) {
			hits = append(hits, hit{e, n})
		}
	}
	slices.SortStableFunc(hits, func(a, b hit) int { return b.n - a.n })
	out := []*Entry{}
	for i := 0; i < len(hits) && i < 12; i++ {
		out = append(out, hits[i].e)
	}
	return out
}

// offers are what sellers ask on entries, ours among them.
func (m *Marketplace) offers(w http.ResponseWriter, r *http.Request) {
	refs := strings.Split(r.URL.Query().Get("entries"), ",")
	if len(refs) > 100 {
		problem(w, http.StatusBadRequest, "at most 100 entries in one look-up")
		return
	}
	site := r.PathValue("site")
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	ours := map[string]int64{}
	for _, o := range m.own[site] {
		if o.Quantity > 0 {
			ours[o.Entry] = o.Price
		}
	}
	type entry struct {
		Ref    string  `json:"ref"`
		Offers []Offer `json:"offers"`
	}
	out := []entry{}
	for _, ref := range refs {
		e := m.byRef[ref]
		if e == nil {
			continue
		}
		x := entry{Ref: ref, Offers: []Offer{}}
		x.Offers = append(x.Offers, m.askedOn(site, e)...)
		if p, ok := ours[ref]; ok {
			x.Offers = append(x.Offers, Offer{Seller: m.Seller, Item: p, Ours: true})
		}
		out = append(out, x)
	}
	answer(w, map[string]any{"entries": out})
}

// sold is what one seller offers, a hundred at a time in the order of its entries.
func (m *Marketplace) sold(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	site := r.PathValue("site")
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	type sold struct {
		*Entry
		Item     int64 `json:"item"`
		Delivery int64 `json:"delivery"`
	}
	out, next := []sold{}, ""
	for _, ref := range slices.Sorted(maps.Keys(m.byRef)) {
		if ref <= q.Get("after") {
			continue
		}
		if len(out) >= 100 { // all of an entry's are in one part
			next = out[len(out)-1].Ref
			break
		}
		for _, o := range m.askedOn(site, m.byRef[ref]) {
			if o.Seller == q.Get("seller") {
				out = append(out, sold{m.byRef[ref], o.Item, o.Delivery})
			}
		}
	}
	answer(w, map[string]any{"entries": out, "next": next})
}

// askedOn are what others ask on an entry now, on a site: on one that is dearer,
// prices end in .99 again.
func (m *Marketplace) askedOn(site string, e *Entry) []Offer {
	dearer := int64(0)
	for i, s := range m.Sites {
		if s.Code == site {
			dearer = m.Sites[i].Dearer
		}
	}
	out := slices.Clone(m.asked(e))
	for i := range out {
		if dearer > 0 {
			out[i].Item = out[i].Item*dearer/10_000*100 + 99
			out[i].Delivery = out[i].Delivery * dearer / 100
		}
	}
	return out
}

// asked are what others ask on an entry now.
func (m *Marketplace) asked(e *Entry) []Offer {
	if m.Wander == nil {
		return e.Offers
	}
	return m.Wander(e, m.Clock.Now())
}

// listings are our offers on a site in the order of their SKUs: all of them, or
// so many from the one after a SKU on.
func (m *Marketplace) listings(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	limit, err := strconv.Atoi(cmp.Or(q.Get("limit"), "0"))
	if err != nil || limit < 0 {
		problem(w, http.StatusBadRequest, "limit is no number of listings")
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	mine := m.own[r.PathValue("site")]
	skus := slices.Sorted(maps.Keys(mine))
	from, there := slices.BinarySearch(skus, q.Get("after"))
	if there {
		from++
	}
	out := struct {
		Listings []own  `json:"listings"`
		Next     string `json:"next,omitempty"`
	}{Listings: []own{}}
	for _, sku := range skus[from:] {
		if limit > 0 && len(out.Listings) == limit {
			out.Next = out.Listings[limit-1].SKU
			break
		}
		out.Listings = append(out.Listings, *mine[sku])
	}
	answer(w, out)
}

func (m *Marketplace) take(w http.ResponseWriter, r *http.Request) {
	key := r.Header.Get("Idempotency-Key")
	if key == "" {
		problem(w, http.StatusBadRequest, "a batch needs an Idempotency-Key")
		return
	}
	var in struct{ Lines []line }
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 16<<20)).Decode(&in); err != nil {
		problem(w, http.StatusBadRequest, "the batch can't be read: "+err.Error())
		return
	}
	if limit := m.Sites[0].MaxLines; int64(len(in.Lines)) > limit || len(in.Lines) == 0 {
		problem(w, http.StatusBadRequest, fmt.Sprintf("a batch has 1 to %d lines", limit))
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	id, known := m.keys[key]
	if !known {
		id = "B" + strconv.Itoa(1001+len(m.batches))
		m.keys[key] = id
		m.batches[id] = &batch{ID: id, Site: r.PathValue("site"), Received: m.Clock.Now(), Lines: in.Lines}
		m.tell()
	}
	answer(w, m.shown(m.batches[id]))
}

func (m *Marketplace) outcome(w http.ResponseWriter, r *http.Request) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	b := m.batches[r.PathValue("id")]
	if b == nil {
		problem(w, http.StatusNotFound, "no such batch")
		return
	}
	answer(w, m.shown(b))
}

func (m *Marketplace) shown(b *batch) map[string]any {
	state, lines := "working", []outcome{}
	for _, l := range b.Lines[:b.Answered] {
		lines = append(lines, m.done[l.Key])
	}
	if b.Answered == len(b.Lines) {
		state = "done"
	}
	return map[string]any{"id": b.ID, "state": state, "lines": lines}
}

// advance does the lines whose time has come. A line whose key was done before
// is not done again.
func (m *Marketplace) advance() {
	now, moved := m.Clock.Now(), false
	if m.Sheets != nil {
		m.review()
	}
	for _, b := range slices.SortedFunc(maps.Values(m.batches), func(a, b *batch) int { // as they came
		return cmp.Or(cmp.Compare(len(a.ID), len(b.ID)), cmp.Compare(a.ID, b.ID))
	}) {
		for b.Answered < len(b.Lines) && !now.Before(b.Received.Add(m.FirstWait+time.Duration(b.Answered)*m.LineWait)) {
			l := b.Lines[b.Answered]
			if _, known := m.done[l.Key]; !known {
				m.done[l.Key] = m.apply(b.Site, l)
			}
			b.Answered++
			moved = true
		}
	}
	if moved {
		m.tell()
	}
}

func (m *Marketplace) apply(site string, l line) outcome {
	refused := func(field, words string) outcome { return outcome{l.Key, "refused", field, words} }
	e := m.byRef[l.Entry]
	have := m.own[site][l.SKU]
	switch {
	case l.Entry == "" && m.Demands != nil:
		if field, words := m.lacks(have, &l); words != "" {
			return refused(field, words)
		}
	case e == nil:
		return refused("entry", "We have no entry "+l.Entry+".")
	case e.Leave:
		return refused("entry", "This entry is under review. Nothing new is taken on it until that is done.")
	case e.NeedsLeave || e.Copyable != nil && !*e.Copyable:
		return refused("entry", "You may not sell on this entry.")
	case have == nil && (l.Price == nil || l.Quantity == nil):
		return refused("price", "A new offer needs a price and a quantity.")
	case l.Price != nil && (*l.Price < 1 || *l.Price > 500_000):
		return refused("price", "The price must be from 0.01 to 5000.00.")
	case l.Quantity != nil && (*l.Quantity < 0 || *l.Quantity > 999):
		return refused("quantity", "The quantity must be from 0 to 999.")
	}
	if have == nil {
		have = &own{SKU: l.SKU, Entry: l.Entry, Content: l.Content}
		if l.Entry == "" && m.catalogue(site) {
			have.Entry = m.newEntry(l.Content)
		}
		if m.own[site] == nil {
			m.own[site] = map[string]*own{}
		}
		m.own[site][l.SKU] = have
	}
	if l.Price != nil {
		have.Price = *l.Price
	}
	if l.Quantity != nil {
		have.Quantity = *l.Quantity
	}
	if l.Do == "change" && l.Content != nil {
		have.Content = changed(have.Content, &l)
	}
	m.applied++
	return outcome{Key: l.Key, State: "confirmed"}
}

func (m *Marketplace) tell() {
	if m.changed != nil {
		m.changed()
	}
}

func answer(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v)
}

func problem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(map[string]any{"title": http.StatusText(status), "status": status, "detail": detail})
}

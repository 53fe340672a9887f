package house_test

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/time/rate"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"pgregory.net/rapid"

	"easymargin/demo"
	"easymargin/internal/house"
	"easymargin/internal/place/gateway"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/places"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// Made-up histories of a small shop, with a marketplace that fails in every way
// it can and a program that is killed at any point. Whatever happens, what the
// stand-in received is never under its floor, never more than the supplier has,
// never sent twice; and nothing on sale is ever lost sight of. These are
// supply.md's "never"s, section 7, reckoned here from the supplier's figures
// alone, without any code of ours.

// goods are what two suppliers sell: A singly, but the last by the six; B the
// first two. What the marketplace calls the fourth is six of them.
var goods = []struct {
	gtin, title    string
	byA, byB       bool
	bought, listed int64
}{
	{"09520001001017", "Tarnwick Camp enamel mug moss", true, true, 1, 1},
	{"09520001001024", "Ottermere Shore steel flask 1 l", true, false, 1, 1},
	{"09520001001031", "Skarholt Moor folding stove steel", false, true, 1, 1},
	{"09520001001048", "Fellgrove Summit peg set", true, false, 1, 6},
	{"09520001001055", "Merrowdale Trail gas lantern small", true, false, 6, 1},
}

const number = 5

// inShop is how many of them, the first, are sold in the own shop too, one by one.
const inShop = 4

// truth is what holds: what suppliers ask and have, what a rule keeps and a rate is.
type truth struct {
	cost, stock [2][number]int64 // by supplier and product
	sold        [number]int64    // in the own shop, in units: promised to its buyers, and not yet bought
	keep        int64            // minor units of profit on each site
	euro        int64            // for a pound, in hundredths
}

// most is the most that may be offered of a product, where so many units are sold as
// one: what a supplier has, less what is promised. Where both have it, what is
// promised may be either's.
func (x *truth) most(p int, listed int64) int64 {
	most, sold := int64(0), x.sold[p]
	if goods[p].byA && goods[p].byB {
		sold = 0
	}
	for s, sells := range []bool{goods[p].byA, goods[p].byB} {
		if sells {
			most = max(most, x.stock[s][p]*goods[p].bought-sold)
		}
	}
	return most / listed
}

// keeps tells whether a price of so many units leaves what the rule keeps, bought
// where it leaves most.
func (x *truth) keeps(p int, listed int64, site string, price int64) bool {
	for s, sells := range []bool{goods[p].byA, goods[p].byB} {
		if sells && x.left(s, p, listed, site, price) >= x.keep {
			return true
		}
	}
	return false
}

// left is what a sale leaves: the tax within, a tenth and twenty for the place,
// and the landed cost, rounded up; money.md.
func (x *truth) left(s, p int, listed int64, site string, price int64) int64 {
	up := func(a, b int64) int64 { return (a + b - 1) / b }
	half := func(a, b int64) int64 { return (2*a + b) / (2 * b) }
	fx, tax := int64(100), int64(20)
	if site == "IE" {
		fx, tax = x.euro, 23
	}
	landed := up(x.cost[s][p]*listed*fx, goods[p].bought*100)
	return price - half(price*tax, 100+tax) - half(price, 10) - 20 - landed
}

// order is a line as the stand-in received it.
type order struct {
	Key      string `json:"key"`
	SKU      string `json:"sku"`
	Entry    string `json:"entry"`
	Price    *int64 `json:"price,omitempty"`
	Quantity *int64 `json:"quantity,omitempty"`
}

// moods are the ways in which a marketplace answers.
var moods = []string{
	"away", "broken", "cut off", "busy", "mute", "half", "strange", "doubled", "refusing",
}

// history is one made-up history.
type history struct {
	*world
	t    *rapid.T
	dir  string
	from [2]store.Source
	end  func()           // of the program
	door *httptest.Server // of the own shop

	mu     sync.Mutex
	may    []truth // what may hold at this moment: one, where nothing is going on
	mood   string
	dying  string                      // killed at the next batch: "before" it arrives or "after"
	dead   string                      // where the data are, as they were when the program was killed
	asked  map[string]int              // how often since the mood changed, by address
	there  map[string]map[string]order // what is on sale, by site and SKU
	shelf  map[string]int64            // what can be bought in the own shop, by SKU, when it was last looked at
	seen   map[string]bool             // keys of lines
	lost   map[string]bool             // what was handed over in vain without our being told so, by site and SKU
	faults []string
	told   []string
	halted bool
	alone  map[string]bool // sites that send by themselves
}

func (h *history) fault(format string, args ...any) {
	h.faults = append(h.faults, fmt.Sprintf(format, args...))
}

// received looks at a line that the stand-in was just handed.
func (h *history) received(site string, o order) {
	was, on := h.there[site][o.SKU]
	if h.seen[o.Key] {
		return // the stand-in does it once
	}
	h.seen[o.Key] = true
	h.note("received %s %s %s: %s for %s (%s)", site, o.SKU, o.Entry, say(o.Quantity), say(o.Price), h.mood)
	now := was
	if !on {
		now = o
	}
	if o.Price != nil {
		now.Price = o.Price
	}
	if o.Quantity != nil {
		now.Quantity = o.Quantity
	}
	if !on && (o.Price == nil || o.Quantity == nil) {
		return // it changes nothing: nothing of it is on sale
	}
	// Who doesn't know whether a change arrived takes it back by saying once more what was.
	if on && *now.Price == *was.Price && *now.Quantity == *was.Quantity && !h.lost[site+o.SKU] {
		h.fault("%s on %s was sent twice: %d at %d", o.SKU, site, *now.Quantity, *now.Price)
	}
	p := h.product(now.Entry)
	if o.Quantity != nil && !h.some(func(x *truth) bool { return *o.Quantity <= x.most(p, goods[p].listed) }) {
		h.fault("%s on %s: %d offered, %v", goods[p].title, site, *o.Quantity, h.may)
	}
	if o.Price != nil && !h.some(func(x *truth) bool { return x.keeps(p, goods[p].listed, site, *o.Price) }) {
		h.fault("%s on %s: asked %d, %v", goods[p].title, site, *o.Price, h.may)
	}
	if on && *now.Quantity > *was.Quantity && !h.some(func(x *truth) bool { return x.keeps(p, goods[p].listed, site, *now.Price) }) {
		h.fault("%s on %s: more on sale at %d, %v", goods[p].title, site, *now.Price, h.may)
	}
	if h.halted {
		h.fault("%s on %s: sent while everything was stopped", goods[p].title, site)
	}
	h.there[site][o.SKU] = now
	delete(h.lost, site+o.SKU)
}

// note keeps what happened, for whoever looks into a failure.
func (h *history) note(format string, args ...any) {
	h.told = append(h.told, fmt.Sprintf(format, args...))
}

func say(v *int64) string {
	if v == nil {
		return "–"
	}
	return fmt.Sprint(*v)
}

func (h *history) product(entry string) int {
	var p int
	_, err := fmt.Sscanf(entry, "E%d", &p)
	require.NoError(h.t, err)
	return p
}

// gate stands before the marketplace, in its mood.
func (h *history) gate(w http.ResponseWriter, r *http.Request, next http.Handler) {
	h.mu.Lock()
	defer h.mu.Unlock()
	cut := func() {
		c, _, err := w.(http.Hijacker).Hijack()
		if err == nil {
			_ = c.Close()
		}
	}
	batch := strings.Contains(r.URL.Path, "/batches")
	if h.dead != "" {
		cut()
		return
	}
	if !batch {
		next.ServeHTTP(w, r)
		return
	}
	mood := h.mood
	h.asked[r.URL.Path]++
	body, _ := io.ReadAll(r.Body)
	r.Body = io.NopCloser(bytes.NewReader(body))
	var in struct {
		Lines []order `json:"lines"`
	}
	site := strings.Split(r.URL.Path, "/")[4]
	if r.Method == http.MethodPost {
		_ = json.Unmarshal(body, &in)
	}
	vain := func() {
		for _, o := range in.Lines {
			h.lost[site+o.SKU] = true
		}
	}
	switch {
	case mood == "away":
		vain()
		w.WriteHeader(http.StatusServiceUnavailable)
		return
	case mood == "busy" && h.asked[r.URL.Path] < 3:
		w.Header().Set("Retry-After", "0")
		w.WriteHeader(http.StatusTooManyRequests)
		return
	}
	killed := r.Method == http.MethodPost && h.dying != ""
	if killed && h.dying == "before" {
		vain()
		h.kill()
		cut()
		return
	}
	if r.Method == http.MethodPost {
		for i := range in.Lines {
			if mood == "refusing" && !h.seen[in.Lines[i].Key] {
				h.seen[in.Lines[i].Key] = true
				h.note("refused %s %s", site, in.Lines[i].SKU)
				in.Lines[i].Entry = "gone" // the stand-in knows no such entry, and does nothing
				continue
			}
			h.received(site, in.Lines[i])
		}
		body, _ = json.Marshal(in)
		r.Body = io.NopCloser(bytes.NewReader(body))
	}
	rec := httptest.NewRecorder()
	next.ServeHTTP(rec, r)
	h.market.Applied() // it is done at once
	switch {
	case killed:
		h.kill()
		cut()
		return
	case mood == "broken":
		w.WriteHeader(http.StatusBadGateway)
		return
	case mood == "cut off":
		cut()
		return
	}
	var answer map[string]any
	if r.Method != http.MethodGet || json.Unmarshal(rec.Body.Bytes(), &answer) != nil {
		w.WriteHeader(rec.Code)
		_, _ = w.Write(rec.Body.Bytes())
		return
	}
	if lines, ok := answer["lines"].([]any); ok {
		switch mood {
		case "mute":
			answer["lines"] = []any{}
		case "half":
			answer["lines"] = lines[:len(lines)/2]
		case "strange": // for a while
			if h.asked[r.URL.Path] > 3 {
				break
			}
			for _, l := range lines[:(len(lines)+1)/2] {
				l.(map[string]any)["state"] = "pondered"
			}
		case "doubled":
			answer["lines"] = append(lines, lines...)
		}
	}
	_ = json.NewEncoder(w).Encode(answer)
}

// kill is a power cut: the data are what they are at this moment, and nothing
// that the program does afterwards is heard of.
func (h *history) kill() {
	h.note("killed %s", h.dying)
	h.dying = ""
	dir, err := os.MkdirTemp(h.dir, "killed-")
	require.NoError(h.t, err)
	copyData(h.t, h.Store.File(), filepath.Join(dir, "easymargin.db"))
	h.dead = dir
}

// copyData copies a database as it is at this moment, what is written ahead too.
func copyData(t tester, from, to string) {
	db, err := gorm.Open(sqlite.Open(from))
	require.NoError(t, err)
	// A reader keeps what was written ahead from being put elsewhere meanwhile.
	require.NoError(t, db.Transaction(func(tx *gorm.DB) error {
		var n int64
		if err := tx.Raw("SELECT count(*) FROM sqlite_master").Scan(&n).Error; err != nil {
			return err
		}
		for _, end := range []string{"", "-wal"} {
			text, err := os.ReadFile(from + end)
			if err == nil {
				err = os.WriteFile(to+end, text, 0o600)
			}
			if err != nil && !os.IsNotExist(err) {
				return err
			}
		}
		return nil
	}))
	pool, err := db.DB()
	require.NoError(t, err)
	require.NoError(t, pool.Close())
}

// boot starts the program on the data in a folder.
func (h *history) boot(dir string) {
	s, err := store.Open(dir)
	require.NoError(h.t, err)
	h.House = house.New(house.Options{Store: s, Now: h.clock.Now, FirstPause: time.Nanosecond,
		Gateway: gateway.Options{Tries: 2, First: time.Nanosecond, Rate: rate.Inf}, Poll: time.Millisecond, NoPictures: true})
	events, end := h.Events.Listen()
	go h.follow(events)
	h.door = httptest.NewServer(h.Shop(house.ShopAt{}))
	door := h.door
	stop := sync.OnceFunc(func() {
		door.Close()
		h.House.Close()
		end()
		_ = s.Close()
	})
	h.end = stop
	h.t.Cleanup(stop)
	require.NoError(h.t, h.Start(h.t.Context()))
}

// settle waits until nothing is going on, starts the program again where it was
// killed, and forgets what held before.
func (h *history) settle() {
	h.idle()
	h.mu.Lock()
	dead := h.dead
	h.mu.Unlock()
	if dead != "" {
		h.end()
		h.mu.Lock()
		h.dead = ""
		h.mu.Unlock()
		h.boot(dead)
		h.idle()
		h.mu.Lock()
		x := h.may[len(h.may)-1]
		h.mu.Unlock()
		h.say(x) // what wasn't kept when it died is said again
		h.idle()
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	h.dying = ""
	h.looks()
	if len(h.may) > 1 {
		h.may = h.may[len(h.may)-1:]
	}
	if len(h.faults) > 0 {
		require.FailNow(h.t, strings.Join(h.faults, "\n"), "%s", h.tell())
	}
}

// looks sees what the own shop has, and that nothing is more than before where
// nothing that held since allows it.
func (h *history) looks() {
	now := map[string]int64{}
	for sku, row := range h.onShelf() {
		p := h.titled(row.Title)
		now[sku] = row.Quantity
		if was, known := h.shelf[sku]; known && row.Quantity > was && !h.some(func(x *truth) bool { return row.Quantity <= x.most(p, 1) }) {
			h.fault("%s: %d on our own shelf, %v", row.Title, row.Quantity, h.may)
		}
	}
	h.shelf = now
}

// onShelf is what the own shop has.
func (h *history) onShelf() map[string]store.ShopListing {
	site, err := h.Store.ShopSite(h.t.Context())
	require.NoError(h.t, err)
	rows, _, err := h.Store.Reading(h.t.Context()).Shelf(site.ID, store.ShelfPart{Limit: number})
	require.NoError(h.t, err)
	out := map[string]store.ShopListing{}
	for _, r := range rows {
		out[r.SKU] = r
	}
	return out
}

func (h *history) titled(title string) int {
	for p, g := range goods {
		if g.title == title {
			return p
		}
	}
	require.FailNow(h.t, "no such thing is sold", title)
	return 0
}

// some tells whether something of what may hold at this moment does.
func (h *history) some(holds func(x *truth) bool) bool {
	for i := range h.may {
		if holds(&h.may[i]) {
			return true
		}
	}
	return false
}

// buys has somebody come to the own shop and ask for something, be it nonsense.
// Nothing is handed to the marketplace in that moment, and nobody dies.
func (h *history) buys() {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.dead != "" {
		return
	}
	h.looks()
	shelf := h.onShelf()
	if len(shelf) == 0 { // it was all taken back
		return
	}
	sku := rapid.SampledFrom(slices.Sorted(maps.Keys(shelf))).Draw(h.t, "sku")
	text := rapid.SampledFrom([]string{"1", "1", "2", "6", "12", "99", "100", "0", "-1", "9223372036854775807", "1e1", "2.5", ""}).Draw(h.t, "quantity")
	b := newBuyer(h.t, h.door.URL)
	b.puts(sku, text)
	form := b.address()
	done := b.post("/checkout", form)
	h.note("asked for %s of %s: %s", text, shelf[sku].Title, done.path)
	require.NotEqual(h.t, http.StatusInternalServerError, done.status, done.text)
	left := h.onShelf()[sku].Quantity
	if !strings.HasPrefix(done.path, "/order/") {
		require.LessOrEqual(h.t, left, shelf[sku].Quantity)
		return
	}
	n, err := strconv.ParseInt(cmp.Or(text, "1"), 10, 64)
	require.NoError(h.t, err, "this is no number of things: %q", text)
	require.Positive(h.t, n)
	require.LessOrEqual(h.t, n, shelf[sku].Quantity, "more was sold than was there")
	require.LessOrEqual(h.t, left, shelf[sku].Quantity-n)
	require.Equal(h.t, done.path, b.post("/checkout", form).path, "it is one order however often it is clicked")
	x := h.may[len(h.may)-1]
	x.sold[h.titled(shelf[sku].Title)] += n
	h.may = append(h.may, x)
	h.shelf[sku] = left
	h.note("holds %v", x)
}

// tell is all that happened, and every line there is, for whoever looks into a failure.
func (h *history) tell() string {
	out := strings.Join(h.told, "\n")
	l, err := h.Store.SendOuts(h.t.Context(), store.Page{Limit: 100})
	require.NoError(h.t, err)
	for i := len(l.Rows) - 1; i >= 0; i-- {
		o := l.Rows[i]
		lines, err := h.Store.SendLines(h.t.Context(), o.ID, "", store.Page{Limit: 100})
		require.NoError(h.t, err)
		out += fmt.Sprintf("\n%d to %s, batch %q, %s %q", o.ID, o.Site, o.Batch, o.State, o.Error)
		for _, x := range lines.Rows {
			out += fmt.Sprintf("\n  %d %s %s for %s: %s, %s %s", x.ID, x.SKU, say(x.Quantity), say(x.Price), x.State, x.Words, x.Later)
		}
	}
	return out
}

// enough tells, of what is waited for, whether the program is dead. A marketplace
// that is asked again and again gets well after a while.
func (h *history) enough(waited time.Duration) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	if waited > time.Second {
		h.mood = ""
	}
	return h.dead != ""
}

// becomes says that something holds from now on.
func (h *history) becomes(change func(x *truth)) truth {
	h.mu.Lock()
	defer h.mu.Unlock()
	x := h.may[len(h.may)-1]
	change(&x)
	h.may = append(h.may, x)
	h.note("holds %v", x)
	return x
}

// deliver has a supplier's list taken, whatever a guard says of it.
func (h *history) deliver(s int, x truth, wait bool) {
	var b strings.Builder
	b.WriteString("ref,title,ean,cost,stock,units per item\n")
	for p, g := range goods {
		if s == 0 && g.byA || s == 1 && g.byB {
			fmt.Fprintf(&b, "%c-%d,%s,%s,%d.%02d,%d,%d\n", 'A'+s, p, g.title, g.gtin, x.cost[s][p]/100, x.cost[s][p]%100, x.stock[s][p], g.bought)
		}
	}
	f, err := h.Sources.BringIn(h.t.Context(), strings.NewReader(b.String()), sources.Arriving{Name: "list.csv", SourceID: &h.from[s].ID})
	require.NoError(h.t, err)
	_, err = h.Sources.Take(h.t.Context(), f.ID, h.from[s].ID, nil, true)
	require.NoError(h.t, err)
	if wait {
		h.idle()
	}
}

// keep has the rule that holds for all keep so much of every sale.
func (h *history) keep(minor int64) {
	sites, err := h.Store.Sites(h.t.Context())
	require.NoError(h.t, err)
	for _, site := range sites {
		rules, err := h.Prices.Rules(h.t.Context(), site.ID)
		require.NoError(h.t, err)
		r := prices.Rule{
			Aims: []prices.RuleCondition{{Kind: "margin", Value: "15%"}},
			Keep: []prices.RuleCondition{{Kind: "profit", Value: unitText(minor)}},
		}
		_, err = h.Prices.KeepRule(h.t.Context(), site.ID, stops.IfMatch{}, prices.NamedRule{ID: rules[0].ID, Name: rules[0].Name, Rule: r})
		require.NoError(h.t, err)
	}
}

// say says all that holds: both suppliers' lists, what the rule keeps, and the rate.
func (h *history) say(x truth) {
	require.NoError(h.t, h.Prices.SetRate(h.t.Context(), "GBP", "EUR", unitText(x.euro)))
	h.keep(x.keep)
	h.deliver(0, x, true)
	h.deliver(1, x, true)
}

// newHistory is a shop of these goods and the marketplace it sells on.
func newHistory(rt *rapid.T, dir string) *history {
	clock := sim.NewClock(demo.Start, 0)
	h := &history{t: rt, dir: dir, there: map[string]map[string]order{"GB": {}, "IE": {}}, seen: map[string]bool{}, lost: map[string]bool{}, asked: map[string]int{}, alone: map[string]bool{}}
	h.world = &world{t: rt, clock: clock, over: map[int64]stops.Run{}}
	h.cond = sync.NewCond(&h.world.mu)
	h.gone = h.enough
	h.market = &sim.Marketplace{
		Clock: clock, Name: "Quaymarket", Seller: "Saltmarsh Kit",
		Sites: []sim.Site{
			{Code: "GB", Name: "Quaymarket GB", Currency: "GBP", TaxWay: "included", TaxRate: 200_000, MaxLines: 2},
			{Code: "IE", Name: "Quaymarket IE", Currency: "EUR", TaxWay: "included", TaxRate: 230_000, MaxLines: 2},
		},
		Categories: []sim.Category{{Ref: "all", Name: "All"}},
		Schedules: []sim.FeeSchedule{{StartsOn: "2025-01-01", Fees: []map[string]any{
			{"name": "commission", "of": "item", "rate": 100_000, "fixed": 20},
		}}},
	}
	for p, g := range goods {
		h.market.Entries = append(h.market.Entries, &sim.Entry{
			Ref: fmt.Sprintf("E%d", p), GTIN: g.gtin, Title: g.title, Category: "all", Units: g.listed,
			Page: fmt.Sprintf("/e/E%d", p), Picture: fmt.Sprintf("/pic/E%d", p),
		})
	}
	h.front = &front{next: h.market}
	h.front.set(h.gate)
	server := httptest.NewServer(h.front)
	rt.Cleanup(server.Close)
	x := truth{keep: 100, euro: 120}
	for s := range 2 {
		for p := range number {
			x.cost[s][p], x.stock[s][p] = 400, 12
		}
	}
	h.may = []truth{x}
	data := filepath.Join(dir, "data")
	begun.Do(func() {
		made, err := os.MkdirTemp("", "easymargin-begun-")
		require.NoError(rt, err)
		h.boot(made)
		h.open(server.URL, x)
		h.end()
		begun.dir = made
	})
	require.NoError(rt, os.Mkdir(data, 0o700))
	copyData(rt, filepath.Join(begun.dir, "easymargin.db"), filepath.Join(data, "easymargin.db"))
	h.boot(data)
	require.NoError(rt, h.Store.MoveMarketplace(rt.Context(), "Quaymarket", server.URL))
	list, err := h.Store.Sources(rt.Context())
	require.NoError(rt, err)
	for _, s := range list {
		h.from[s.ID-1] = s
	}
	return h
}

// begun is the data of a shop that every history begins with, made once.
var begun struct {
	sync.Once
	dir string
}

// open makes the shop: connected, listed on both sites, matched and priced.
func (h *history) open(address string, x truth) {
	sites, err := h.Places.Connect(h.t.Context(), "Quaymarket", address)
	require.NoError(h.t, err)
	nothingAsked(h.t, h.Store, sites)
	for _, s := range sites {
		require.NoError(h.t, h.Places.SetLists(h.t.Context(), s.ID, true))
	}
	for s, name := range []string{"Fernhollow Wholesale", "Brindlewick Outdoor"} {
		h.from[s], err = h.Sources.Make(h.t.Context(), sources.NewSource{Supplier: name, Currency: "GBP", Charge: "0", Tax: "without"})
		require.NoError(h.t, err)
	}
	h.say(x)
	for range 2 {
		open, err := h.Store.Matches(h.t.Context(), []string{"several"}, store.Page{})
		require.NoError(h.t, err)
		for _, m := range open.Rows {
			c, err := h.Matching.Candidates(h.t.Context(), m.ID, "")
			require.NoError(h.t, err)
			require.NotEmpty(h.t, c)
			require.NoError(h.t, decide(h.t.Context(), h.Matching, m.ID, matching.Decision{Entry: c[0].Ref}))
		}
		h.idle()
	}
	require.Equal(h.t, int64(10), h.counts().Ready)
	h.openShop()
}

// openShop has the own shop sell the first of the goods, at the terms of the marketplace.
func (h *history) openShop() {
	ctx := h.t.Context()
	site, err := h.Places.Make(ctx, places.NewPlace{Name: "Own shop", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Commission: "10%", Fixed: "0.20", Shop: true, Categories: "Kit", Charged: "0", Outbound: "0"})
	require.NoError(h.t, err)
	require.NoError(h.t, h.Preparing.WriteDemand(ctx, site.ID, "Kit", `{"title":{"limit":120}}`))
	l, err := h.Store.Listings(ctx, store.ListingFilter{}, store.Page{Limit: 100})
	require.NoError(h.t, err)
	ids := map[int64]bool{}
	for _, x := range l.Rows {
		if h.titled(x.Title) < inShop {
			ids[x.ProductID] = true
		}
	}
	require.Len(h.t, ids, inShop)
	_, err = h.Preparing.Add(ctx, site.ID, slices.Collect(maps.Keys(ids)), "Kit")
	require.NoError(h.t, err)
	h.idle()
	h.keep(h.may[0].keep)
	h.idle()
	_, err = h.Sending.SendListings(ctx, nil, sending.How{Sites: []int64{site.ID}})
	require.NoError(h.t, err)
	h.idle()
	l, err = h.Store.Listings(ctx, store.ListingFilter{SiteID: site.ID}, store.Page{Limit: 100})
	require.NoError(h.t, err)
	require.Len(h.t, h.onShelf(), inShop, "%+v", l.Rows)
}

func (h *history) letGo(held bool) {
	plans, err := h.Store.OpenPlans(h.t.Context())
	require.NoError(h.t, err)
	for _, plan := range plans {
		choice := sending.PlanChoice{}
		if held {
			lines, err := h.Store.PlanLines(h.t.Context(), store.PlanPart{Plan: plan.ID}, store.Page{Limit: 100})
			require.NoError(h.t, err)
			choice.Lines = ids(lines.Rows)
		}
		_, _ = h.Sending.SendPlan(h.t.Context(), plan.ID, choice) // overtaken meanwhile, perhaps
	}
}

// runs has a site send what may go by itself, from now on or after a first week, or no more.
func (h *history) runs(site int64, how string, atOnce bool) {
	h.alone[[]string{"GB", "IE"}[site-1]] = how == store.Alone
	f, err := h.Watching.Following(h.t.Context(), site)
	require.NoError(h.t, err)
	f.Site.Runs, f.Site.AtOnce, f.Site.ActsFrom = how, atOnce, nil
	require.NoError(h.t, h.Watching.SetFollowing(h.t.Context(), site, stops.IfMatch{}, f.Site))
}

// undo takes back one of the last send-outs, as far as that may be.
func (h *history) undo(which int) {
	l, err := h.Store.SendOuts(h.t.Context(), store.Page{Limit: 10})
	require.NoError(h.t, err)
	if which < len(l.Rows) {
		_, _ = h.Sending.TakeBack(h.t.Context(), l.Rows[which].ID, nil) // nothing of it may be taken back, perhaps
	}
}

// halt pulls the stop, or lifts it. What is on its way out of the door as it is
// pulled may still arrive: it is pulled where nothing is.
func (h *history) halt(on bool) {
	if on {
		h.settle()
	}
	require.NoError(h.t, h.Sending.SetHalt(h.t.Context(), on, ""))
	h.mu.Lock()
	h.halted = on
	h.mu.Unlock()
}

// stuck are the send-outs that aren't through.
func (h *history) stuck() []store.SendOutRow {
	l, err := h.Store.SendOuts(h.t.Context(), store.Page{Limit: 100})
	require.NoError(h.t, err)
	var out []store.SendOutRow
	for _, o := range l.Rows {
		if o.State != store.SendDone {
			out = append(out, o)
		}
	}
	return out
}

// step is one thing that happens.
func (h *history) step() {
	rt, ctx := h.t, h.t.Context()
	h.mu.Lock()
	h.mood, h.asked = "", map[string]int{}
	if rapid.IntRange(0, 2).Draw(rt, "well?") == 0 {
		h.mood = rapid.SampledFrom(moods).Draw(rt, "mood")
	}
	if rapid.IntRange(0, 5).Draw(rt, "killed?") == 0 {
		h.dying = rapid.SampledFrom([]string{"before", "after"}).Draw(rt, "killed")
	}
	h.mu.Unlock()
	what := rapid.SampledFrom([]string{"feed", "feed", "feed", "send", "send", "plan", "plan", "plan", "held", "rule", "rate",
		"time", "again", "give up", "read back", "restart", "alone", "by hand", "undo", "undo", "halt", "lift", "buy", "buy", "buy"}).Draw(rt, "what")
	h.mu.Lock()
	h.note("%s (%s)", what, h.mood)
	h.mu.Unlock()
	switch what {
	case "feed":
		s := rapid.IntRange(0, 1).Draw(rt, "supplier")
		x := h.becomes(func(x *truth) {
			for p := range number {
				x.cost[s][p] = rapid.SampledFrom([]int64{300, 396, 402, 600, 804}).Draw(rt, "cost")
				x.stock[s][p] = rapid.SampledFrom([]int64{0, 1, 2, 7, 8, 30}).Draw(rt, "stock")
			}
		})
		h.deliver(s, x, false)
	case "send":
		_, err := h.Sending.SendListings(ctx, nil, sending.How{})
		require.Equal(rt, h.halted, err != nil, "%v", err)
	case "plan":
		h.letGo(false)
	case "held":
		h.letGo(true)
	case "rule":
		h.keep(h.becomes(func(x *truth) { x.keep = rapid.SampledFrom([]int64{50, 100, 300}).Draw(rt, "keep") }).keep)
	case "rate":
		x := h.becomes(func(x *truth) { x.euro = rapid.SampledFrom([]int64{105, 120, 140}).Draw(rt, "euro") })
		require.NoError(rt, h.Prices.SetRate(ctx, "GBP", "EUR", unitText(x.euro)))
	case "time":
		h.clock.Forward(15 * time.Minute)
		require.NoError(rt, h.Round(ctx))
	case "again":
		for _, o := range h.stuck() {
			_, _ = h.Sending.SendAgain(ctx, o.ID) // on its way again already, perhaps
		}
	case "give up":
		for _, o := range h.stuck() {
			_ = h.Sending.GiveUp(ctx, o.ID)
		}
	case "read back":
		for site := range int64(2) {
			require.NoError(rt, h.Sending.ReadBack(ctx, site+1))
		}
	case "alone", "by hand":
		h.runs(rapid.Int64Range(1, 2).Draw(rt, "site"), what, rapid.Bool().Draw(rt, "at once"))
	case "buy":
		h.buys()
	case "undo":
		h.undo(rapid.IntRange(0, 3).Draw(rt, "which"))
	case "halt", "lift":
		h.halt(what == "halt")
	case "restart":
		h.mu.Lock()
		if h.dead == "" {
			h.kill()
		}
		h.mu.Unlock()
		h.settle()
	}
	h.mu.Lock()
	dead := h.dead != ""
	h.mu.Unlock()
	if dead || rapid.IntRange(0, 2).Draw(rt, "wait?") > 0 {
		h.settle()
	}
}

// mended brings everything to rest: the marketplace is well, what is stuck is
// tried again, what is unknown read back, and all that should change let go.
func (h *history) mended() {
	h.mu.Lock()
	h.mood, h.dying, h.asked = "", "", map[string]int{}
	h.mu.Unlock()
	h.settle()
	h.halt(false)
	h.safe()
	for range 3 {
		for _, o := range h.stuck() {
			_, _ = h.Sending.SendAgain(h.t.Context(), o.ID)
		}
		h.settle()
		for site := range int64(2) {
			require.NoError(h.t, h.Sending.ReadBack(h.t.Context(), site+1))
		}
		h.settle()
		h.letGo(true)
		h.settle()
	}
}

// safe checks that a site which sends by itself, in its first week too, offers no more
// than there is before a person lets anything go: what was refused is tried again after
// an hour.
func (h *history) safe() {
	for range 2 {
		for _, o := range h.stuck() {
			_, _ = h.Sending.SendAgain(h.t.Context(), o.ID)
		}
		h.settle()
		for site := range int64(2) {
			require.NoError(h.t, h.Sending.ReadBack(h.t.Context(), site+1))
		}
		h.settle()
		h.clock.Forward(61 * time.Minute)
		require.NoError(h.t, h.Round(h.t.Context()))
		h.settle()
	}
	x := h.may[len(h.may)-1]
	for site, there := range h.there {
		for sku, o := range there {
			if p := h.product(o.Entry); h.alone[site] {
				require.LessOrEqual(h.t, *o.Quantity, x.most(p, goods[p].listed), "%s on %s, which sends by itself, offers more than there is\n%s", sku, site, h.tell())
			}
		}
	}
}

// seesAll checks that what is on sale is known as it is, and may be.
func (h *history) seesAll() {
	known := map[string]store.ListingRow{}
	l, err := h.Store.Listings(h.t.Context(), store.ListingFilter{}, store.Page{Limit: 100, Sort: "sku"})
	require.NoError(h.t, err)
	for _, x := range l.Rows {
		known[x.Site+x.SKU] = x
	}
	x := h.may[len(h.may)-1]
	for sku, row := range h.onShelf() {
		require.LessOrEqual(h.t, row.Quantity, x.most(h.titled(row.Title), 1), "%s in our own shop: more than there is\n%s", sku, h.tell())
		require.True(h.t, row.Quantity == 0 || x.keeps(h.titled(row.Title), 1, "GB", row.Price), "%s in our own shop is sold at %d, under its floor\n%s", sku, row.Price, h.tell())
	}
	for site, there := range h.there {
		for sku, o := range there {
			l, ok := known["Quaymarket "+site+sku]
			require.True(h.t, ok, "%s on %s is on sale and not ours", sku, site)
			require.NotNil(h.t, l.ConfirmedPrice, "%s on %s is on sale, and we don't know: %s", sku, site, l.State)
			p := h.product(o.Entry)
			if *o.Price == *l.ConfirmedPrice && *o.Quantity == l.ConfirmedQuantity && l.State == store.ListingLive &&
				*o.Quantity <= x.most(p, goods[p].listed) && (*o.Quantity == 0 || x.keeps(p, goods[p].listed, site, *o.Price)) {
				continue
			}
			require.Equal(h.t, [3]any{store.ListingLive, *o.Price, *o.Quantity}, [3]any{l.State, *l.ConfirmedPrice, l.ConfirmedQuantity},
				"%s on %s is known as it is\n%s", sku, site, h.tell())
			require.LessOrEqual(h.t, *o.Quantity, x.most(p, goods[p].listed), "%s on %s: more than there is\n%s", sku, site, h.tell())
			require.True(h.t, *o.Quantity == 0 || x.keeps(p, goods[p].listed, site, *o.Price), "%s on %s is sold at %d, under its floor: %v\n%s",
				sku, site, *o.Price, x, h.tell())
		}
	}
}

// sound checks that every invariant of the data holds.
func (h *history) sound() {
	list, err := h.Store.Check(h.t.Context())
	require.NoError(h.t, err)
	require.Empty(h.t, store.Broken(list), "%s", h.tell())
}

func TestNever(t *testing.T) {
	for _, part := range []string{"one", "two", "three", "four"} { // side by side
		t.Run(part, func(t *testing.T) {
			t.Parallel()
			rapid.Check(t, func(rt *rapid.T) {
				dir, err := os.MkdirTemp("", "easymargin-never-")
				require.NoError(rt, err)
				rt.Cleanup(func() { _ = os.RemoveAll(dir) })
				h := newHistory(rt, dir)
				for range rapid.IntRange(3, 14).Draw(rt, "steps") {
					h.step()
				}
				h.mended()
				h.seesAll()
				h.sound()
			})
		})
	}
}

package sim

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"
)

// Order is something that a made-up buyer bought.
type Order struct {
	Ref      string      `json:"ref"`
	Placed   time.Time   `json:"placed_at"`
	Currency string      `json:"currency"`
	Buyer    Buyer       `json:"buyer"`
	Lines    []OrderLine `json:"lines"`

	Changed int `json:"changed"` // of all changes of orders, which was its last
}

// Buyer is a made-up buyer.
type Buyer struct {
	Name    string   `json:"name"`
	Address []string `json:"address"`
	Country string   `json:"country"`
}

// OrderLine is what was bought of one listing.
type OrderLine struct {
	Ref      string `json:"ref"`
	SKU      string `json:"sku"`
	Title    string `json:"title"`
	Quantity int64  `json:"quantity"`
	Price    int64  `json:"price"`
	Delivery int64  `json:"delivery"`
	Fees     *int64 `json:"fees,omitempty"`
	State    string `json:"state,omitempty"`
	Refunded int64  `json:"refunded,omitempty"`

	Carrier  string `json:"carrier,omitempty"` // as the seller told
	Tracking string `json:"tracking,omitempty"`
}

// buyers are who buys at made-up places.
var buyers = []Buyer{
	{"Ines Fairweather", []string{"4 Saltpan Row", "Wick"}, "GB"}, {"Tomas Underhill", []string{"Old Mill, Kiln Lane", "Brae"}, "GB"},
	{"Marit Solheim", []string{"Nedre gate 12", "Vik"}, "NO"}, {"Jonah Pettibone", []string{"Flat 3, 18 Harbour Street", "Skerry"}, "IE"},
	{"Greta Amsel", []string{"Mühlweg 9", "Auental"}, "DE"},
}

// buyer is somebody who buys on a site, of its country where one is known.
func buyer(site string, n int) Buyer {
	for i := range buyers {
		if b := buyers[(n+i)%len(buyers)]; b.Country == site {
			return b
		}
	}
	return buyers[n%len(buyers)]
}

// Buy has somebody buy so many of one of our listings on a site. It is an error
// where fewer are on sale.
func (m *Marketplace) Buy(site, sku string, quantity int64) (ref string, err error) {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	have := m.own[site][sku]
	if have == nil || have.Quantity < quantity {
		return "", fmt.Errorf("%s isn't on sale on %s, or fewer than %d are", sku, site, quantity)
	}
	have.Quantity -= quantity
	currency := ""
	for _, s := range m.Sites {
		if s.Code == site {
			currency = s.Currency
		}
	}
	n := len(m.orders[site]) + 1
	title := sku
	if e := m.byRef[have.Entry]; e != nil {
		title = e.Title
	}
	o := &Order{Ref: fmt.Sprintf("%s-%05d", site, n), Placed: m.Clock.Now(), Currency: currency, Buyer: buyer(site, n),
		Lines: []OrderLine{{Ref: "1", SKU: sku, Title: title, Quantity: quantity, Price: have.Price, Delivery: m.Charges[site]}}}
	if m.orders == nil {
		m.orders = map[string][]*Order{}
	}
	m.orders[site] = append(m.orders[site], o)
	m.touch(o)
	return o.Ref, nil
}

// touch has an order told again.
func (m *Marketplace) touch(o *Order) {
	m.ordered++
	o.Changed = m.ordered
	m.tell()
}

// Deep are the SKUs of which at least so many are on sale on a site, in order.
func (m *Marketplace) Deep(site string, least int64) []string {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	var out []string
	for sku, o := range m.own[site] {
		if o.Quantity >= least {
			out = append(out, sku)
		}
	}
	slices.Sort(out)
	return out
}

// CallOff has a buyer call an order off, or send it back once it was sent.
func (m *Marketplace) CallOff(site, ref string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, o := range m.orders[site] {
		if o.Ref != ref {
			continue
		}
		for i := range o.Lines {
			l := &o.Lines[i]
			l.State = map[bool]string{true: "returned", false: "cancelled"}[l.State == "sent"]
			l.Refunded = l.Quantity*l.Price + l.Delivery
		}
		m.touch(o)
	}
}

// Ordered is an order as it is.
func (m *Marketplace) Ordered(site, ref string) Order {
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, o := range m.orders[site] {
		if o.Ref == ref {
			out := *o
			out.Lines = slices.Clone(o.Lines)
			return out
		}
	}
	return Order{}
}

// told are a site's orders that changed after a moment, at most so many.
func (m *Marketplace) told(w http.ResponseWriter, r *http.Request) {
	since, err := strconv.Atoi("0" + r.URL.Query().Get("since"))
	if err != nil {
		problem(w, http.StatusBadRequest, "since is nothing that an answer said before")
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	out := struct {
		Orders []*Order `json:"orders"`
		Next   string   `json:"next"`
	}{[]*Order{}, strconv.Itoa(since)}
	var list []*Order
	for _, o := range m.orders[r.PathValue("site")] {
		if o.Changed > since {
			list = append(list, o)
		}
	}
	slices.SortFunc(list, func(a, b *Order) int { return a.Changed - b.Changed })
	for _, o := range list[:min(len(list), 50)] {
		out.Orders, out.Next = append(out.Orders, o), strconv.Itoa(o.Changed)
	}
	answer(w, out)
}

// answered takes what the seller says of an order's lines.
func (m *Marketplace) answered(w http.ResponseWriter, r *http.Request) {
	var in struct {
		Lines []struct {
			Line, Do, Carrier, Tracking string
			Amount                      int64
		}
	}
	if r.Header.Get("Idempotency-Key") == "" {
		problem(w, http.StatusBadRequest, "an answer needs an Idempotency-Key")
		return
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&in); err != nil {
		problem(w, http.StatusBadRequest, "the answer can't be read: "+err.Error())
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, o := range m.orders[r.PathValue("site")] {
		if o.Ref != r.PathValue("ref") {
			continue
		}
		for _, a := range in.Lines {
			i := slices.IndexFunc(o.Lines, func(l OrderLine) bool { return l.Ref == a.Line })
			if i < 0 {
				problem(w, http.StatusBadRequest, "the order has no line "+a.Line)
				return
			}
			l := &o.Lines[i]
			switch {
			case a.Do == "sent" && (a.Carrier == "" || a.Tracking == ""):
				problem(w, http.StatusBadRequest, "Say by whom it was sent, and its number.")
				return
			case a.Do == "sent" && l.State == "cancelled":
				problem(w, http.StatusConflict, "The buyer has called this line off.")
				return
			case a.Do == "sent":
				l.State, l.Carrier, l.Tracking = "sent", a.Carrier, a.Tracking
			case a.Do == "cancelled":
				l.State, l.Refunded = "cancelled", l.Quantity*l.Price+l.Delivery
			case a.Do == "refunded":
				l.Refunded = min(l.Refunded+a.Amount, l.Quantity*l.Price+l.Delivery)
			default:
				problem(w, http.StatusBadRequest, "do is sent, cancelled or refunded")
				return
			}
			m.touch(o)
		}
		answer(w, map[string]any{})
		return
	}
	problem(w, http.StatusNotFound, "there is no order "+r.PathValue("ref"))
}

// Offered is how many of a listing of ours are on sale on a site.
func (m *Marketplace) Offered(site, sku string) int64 {
	m.once.Do(m.init)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.advance()
	if o := m.own[site][sku]; o != nil {
		return o.Quantity
	}
	return 0
}

package shop

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/microcosm-cc/bluemonday"

	"easymargin/core/money"
	"easymargin/internal/edge"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// perPage is how many things one page of a list shows.
const perPage = 24

// card is a thing in a list.
type card struct {
	Title, Link, Picture string
	Price, Former        int64
	Percent              int64 // that it is cheaper than before
	Out                  bool
}

// list is one page of a list.
type list struct {
	Cards      []card
	Total      int64
	Below      []shelf
	Prev, Next string // addresses; "": none
	Front      bool
}

func (s *server) front(w http.ResponseWriter, r *http.Request) {
	s.list(w, r, store.ShelfPart{}, func(*seen) (view, bool) { return view{}, true })
}

func (s *server) category(w http.ResponseWriter, r *http.Request) {
	ref, err := url.PathUnescape(chi.URLParam(r, "*"))
	if err != nil {
		ref = ""
	}
	s.list(w, r, store.ShelfPart{Category: ref}, func(v *seen) (view, bool) {
		for _, c := range v.all {
			if c.Ref == ref {
				return view{Title: c.Name, At: ref}, true
			}
		}
		return view{}, false
	})
}

func (s *server) search(w http.ResponseWriter, r *http.Request) {
	words := strings.TrimSpace(place.OneLine(strings.ToValidUTF8(r.URL.Query().Get("q"), "")))
	if len(words) > 200 {
		words = strings.ToValidUTF8(words[:200], "")
	}
	if words == "" {
		http.Redirect(w, r, "/", http.StatusSeeOther)
		return
	}
	s.list(w, r, store.ShelfPart{Words: words}, func(*seen) (view, bool) { return view{Title: "Found for “" + words + "”", Words: words}, true })
}

// list shows a page of a part of the shelves; of says what it is called, and whether it is there.
func (s *server) list(w http.ResponseWriter, r *http.Request, part store.ShelfPart, of func(*seen) (view, bool)) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	page, there := of(v)
	if !there {
		s.missing(w, r, "There is no such category here.")
		return
	}
	at, _ := strconv.Atoi(r.URL.Query().Get("page"))
	at = min(max(at, 1), 10_000)
	part.Limit, part.Offset = perPage, (at-1)*perPage
	rows, total, err := v.tx.Shelf(v.site.ID, part)
	if err != nil {
		s.failed(w, err)
		return
	}
	out := list{Total: total, Below: v.below(part.Category), Front: part == (store.ShelfPart{Limit: perPage, Offset: part.Offset}) && at == 1}
	for i := range rows {
		c, err := cardOf(&rows[i], v.site.Currency)
		if err != nil {
			s.failed(w, err)
			return
		}
		out.Cards = append(out.Cards, c)
	}
	to := func(n int) string {
		q := r.URL.Query()
		q.Set("page", strconv.Itoa(n))
		return r.URL.EscapedPath() + "?" + q.Encode()
	}
	if at > 1 {
		out.Prev = to(at - 1)
	}
	if int64(at*perPage) < total {
		out.Next = to(at + 1)
	}
	if page.At == "" && page.Words == "" {
		out.Below = nil // they stand above already
	}
	page.Data = out
	s.show(w, r, v, http.StatusOK, "list", page)
}

func contentOf(row *store.ShopListing) (*place.Content, error) {
	c := &place.Content{}
	if err := json.Unmarshal([]byte(row.Content), c); err != nil {
		return nil, fmt.Errorf("what the shop says of %s: %w", row.SKU, err)
	}
	return c, nil
}

func cardOf(row *store.ShopListing, currency string) (card, error) {
	c, err := contentOf(row)
	if err != nil {
		return card{}, err
	}
	out := card{Title: row.Title, Link: link("p", row.SKU), Price: row.Price, Out: row.Quantity == 0}
	if row.Picture != "" {
		out.Picture = "/pictures/" + row.Picture + ".small.jpg"
	}
	out.Former, out.Percent = former(c, row.Price, currency)
	return out, nil
}

// former is what something cost before, where it was more, and by how many per cent
// it is cheaper: rounded down, so that no more is promised than holds.
func former(c *place.Content, price int64, currency string) (minor, percent int64) {
	before, err := money.Parse(c.Former, money.Currency(currency))
	if err != nil || before.Minor <= price || !money.Believed(before.Minor) {
		return 0, 0
	}
	return before.Minor, (before.Minor - price) * 100 / before.Minor
}

// delivery is what a buyer pays to have one of a thing delivered by itself.
func (v *seen) delivery(row *store.ShopListing, c *place.Content) (int64, error) {
	if own, says := ownDelivery(c, &v.site); says {
		return own, nil
	}
	charge, err := reckon.BuyerPays(v.tx, &v.site, map[string]int64{row.SKU: 1}, row.Price, v.now)
	if reckon.CantBePosted(err) {
		return 0, nil // the basket says so, and doesn't sell it
	}
	return charge, err
}

// ownDelivery is what a buyer pays to have one thing delivered by itself, however many of it, where its
// listing says so itself: the cheapest of the ways that it offers. False where the site's postage holds.
func ownDelivery(c *place.Content, site *store.Site) (int64, bool) {
	if c.Terms == nil || len(c.Terms.Delivery) == 0 {
		return 0, false
	}
	least := int64(-1)
	for _, d := range c.Terms.Delivery {
		a, err := money.Parse(d.Charge, money.Currency(site.Currency))
		if d.Charge == "" {
			a, err = money.Amount{}, nil
		}
		if err == nil && money.Believed(a.Minor) && (least < 0 || a.Minor < least) {
			least = a.Minor
		}
	}
	return max(least, 0), true
}

// fact is something that is said of a thing.
type fact struct{ Name, Value string }

// thing is what the page of one thing shows.
type thing struct {
	card
	SKU         string
	Pictures    []shotOf
	Description template.HTML
	Facts       []fact
	Delivery    int64
	Ways        []string
	Returns     string
	Left        int64
	Most        int64 // that are put into the basket at once
	Variants    []variant
	Shelf       shelf
}

type shotOf struct{ Link, Text string }

type variant struct {
	Words, Link string
	This, Out   bool
}

// safe is what a description may have: it was written by who knows whom.
var safe = bluemonday.NewPolicy().AllowElements("p", "b", "strong", "i", "em", "ul", "ol", "li", "br")

func (s *server) product(w http.ResponseWriter, r *http.Request) {
	v, err := s.look(r.Context())
	if err != nil {
		s.failed(w, err)
		return
	}
	sku, err := url.PathUnescape(chi.URLParam(r, "sku"))
	if err != nil {
		sku = ""
	}
	found, err := v.tx.OnShelf(v.site.ID, []string{sku})
	if err != nil {
		s.failed(w, err)
		return
	}
	row, there := found[sku]
	if !there {
		s.missing(w, r, "There is no such thing here.")
		return
	}
	t, c, err := s.thing(v, &row)
	if err != nil {
		s.failed(w, err)
		return
	}
	s.show(w, r, v, http.StatusOK, "product", view{Title: row.Title, At: row.Category, Canonical: t.Link, LD: structured(r, t, c, &row, v), Data: t})
}

func (s *server) thing(v *seen, row *store.ShopListing) (*thing, *place.Content, error) {
	c, err := contentOf(row)
	if err != nil {
		return nil, nil, err
	}
	one, err := cardOf(row, v.site.Currency)
	if err != nil {
		return nil, nil, err
	}
	t := &thing{card: one, SKU: row.SKU, Left: row.Quantity, Most: min(row.Quantity, mostUnits)}
	if t.Delivery, err = v.delivery(row, c); err != nil {
		return nil, nil, err
	}
	description := c.Description
	if !strings.Contains(description, "<") {
		description = "<p>" + strings.ReplaceAll(template.HTMLEscapeString(description), "\n", "<br>") + "</p>"
	}
	t.Description = template.HTML(safe.Sanitize(description)) //nolint:gosec // sanitised
	for i, p := range c.Pictures {
		digest, err := digestOf(v.tx, p)
		if err != nil {
			return nil, nil, err
		}
		if digest == "" || !hasPicture(s.Store, digest) {
			continue
		}
		text := row.Title
		if i < len(c.Texts) && c.Texts[i] != "" {
			text = c.Texts[i]
		}
		t.Pictures = append(t.Pictures, shotOf{"/pictures/" + digest + ".large.jpg", text})
	}
	t.Facts = facts(c)
	if c.Terms != nil {
		for _, d := range c.Terms.Delivery {
			t.Ways = append(t.Ways, way(&d, v.site.Currency))
		}
		if c.Terms.ReturnsDays > 0 {
			t.Returns = fmt.Sprintf("Can be sent back within %d days", c.Terms.ReturnsDays)
			if c.Terms.ReturnsPaid {
				t.Returns += ", at our cost"
			}
		}
	}
	for _, x := range v.all {
		if x.Ref == row.Category {
			t.Shelf = shelf{Ref: x.Ref, Name: x.Name, Link: link("c", x.Ref)}
		}
	}
	if row.Family == "" {
		return t, c, nil
	}
	kin, _, err := v.tx.Shelf(v.site.ID, store.ShelfPart{Family: row.Family, Limit: 100})
	if err != nil {
		return nil, nil, err
	}
	for i := range kin {
		k, err := contentOf(&kin[i])
		if err != nil {
			return nil, nil, err
		}
		t.Variants = append(t.Variants, variant{axes(k, kin[i].Title), link("p", kin[i].SKU), kin[i].SKU == row.SKU, kin[i].Quantity == 0})
	}
	slices.SortStableFunc(t.Variants, func(a, b variant) int { return strings.Compare(a.Words, b.Words) })
	return t, c, nil
}

// way is one way of delivery in words.
func way(d *place.Delivery, currency string) string {
	out := d.Name + ", free"
	if a, err := money.Parse(d.Charge, money.Currency(currency)); err == nil && a.Minor > 0 {
		out = d.Name + ", " + shown(a.Minor, currency)
	}
	if d.Most > 0 && d.Least > 0 && d.Least != d.Most {
		return fmt.Sprintf("%s, %d to %d working days", out, d.Least, d.Most)
	} else if n := max(d.Most, d.Least); n > 0 {
		return fmt.Sprintf("%s, %d working days", out, n)
	}
	return out
}

// axes is what sets one variant apart, in words.
func axes(c *place.Content, title string) string {
	var out []string
	for _, k := range sorted(c.Axes) {
		out = append(out, c.Axes[k])
	}
	if len(out) == 0 {
		return title
	}
	return strings.Join(out, ", ")
}

func sorted(m map[string]string) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// facts are what is said of a thing beside its description.
func facts(c *place.Content) []fact {
	var out []fact
	add := func(name, value string) {
		if value != "" {
			out = append(out, fact{strings.ToUpper(name[:1]) + strings.ReplaceAll(name[1:], "_", " "), value})
		}
	}
	if c.Brand != "" {
		add("brand", c.Brand)
	}
	for _, k := range sorted(c.Attributes) {
		if k != "" {
			add(k, c.Attributes[k])
		}
	}
	if c.Number != "" {
		add("number (GTIN)", c.Number)
	}
	return out
}

// structured is a thing as schema.org has it: Product with its Offer, for engines and
// readers such as our own.
func structured(r *http.Request, t *thing, c *place.Content, row *store.ShopListing, v *seen) any {
	base := "http://" + r.Host
	if edge.TLS(r) {
		base = "https://" + r.Host
	}
	availability := "https://schema.org/InStock"
	if row.Quantity == 0 {
		availability = "https://schema.org/OutOfStock"
	}
	offer := map[string]any{"@type": "Offer", "url": base + t.Link, "price": money.Of(row.Price, money.Currency(v.site.Currency)).String(), "priceCurrency": v.site.Currency,
		"availability": availability, "itemCondition": "https://schema.org/NewCondition",
		"shippingDetails": map[string]any{"@type": "OfferShippingDetails", "shippingRate": map[string]any{"@type": "MonetaryAmount",
			"value": money.Of(t.Delivery, money.Currency(v.site.Currency)).String(), "currency": v.site.Currency}}}
	if row.Quantity > 0 {
		offer["inventoryLevel"] = map[string]any{"@type": "QuantitativeValue", "value": row.Quantity}
	}
	out := map[string]any{"@context": "https://schema.org", "@type": "Product", "name": row.Title, "sku": row.SKU, "offers": offer}
	if c.Brand != "" {
		out["brand"] = map[string]any{"@type": "Brand", "name": c.Brand}
	}
	if c.Number != "" {
		out["gtin"] = c.Number
	}
	if t.Shelf.Name != "" {
		out["category"] = t.Shelf.Name
	}
	if text := strings.TrimSpace(bluemonday.StrictPolicy().Sanitize(c.Description)); text != "" {
		out["description"] = text
	}
	var pictures []string
	for _, p := range t.Pictures {
		pictures = append(pictures, base+p.Link)
	}
	if len(pictures) > 0 {
		out["image"] = pictures
	}
	return out
}

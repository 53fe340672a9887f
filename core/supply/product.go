// Package supply holds the rules for what suppliers send: what one row says,
// what changed, when a whole feed must wait for a person, and how much of a
// stock to offer. It follows docs/definitions/supply.md; the section is named where a
// rule comes from.
package supply

import (
	"math/bits"
	"sort"
	"strconv"
	"strings"

	"easymargin/core/money"
)

// StockState says what is known of a stock.
type StockState string

// What a stock cell can say. The zero value means that the feed says nothing of stock.
const (
	StockUnsaid  StockState = ""
	StockKnown   StockState = "known"
	StockUnknown StockState = "unknown"
	StockEnded   StockState = "ended"
)

// Stock is a supplier's stock of one item: Count counts only where State is StockKnown.
type Stock struct {
	State StockState
	Count int64
}

// String is the stock in the words of `easymargin read`.
func (s Stock) String() string {
	if s.State == StockKnown {
		return strconv.FormatInt(s.Count, 10)
	}
	return string(s.State)
}

// ReadStock reads a stock as String writes it; what it wouldn't write is unknown.
func ReadStock(text string) Stock {
	if n, err := strconv.ParseInt(text, 10, 64); err == nil && n >= 0 {
		return Stock{StockKnown, n}
	}
	if s := StockState(text); s == StockUnsaid || s == StockEnded {
		return Stock{State: s}
	}
	return Stock{State: StockUnknown}
}

// Some tells whether there is any to be had.
func (s Stock) Some() bool { return s.State == StockKnown && s.Count > 0 }

// Product is one row of a supplier, read: section 2. An empty field says that
// the row doesn't tell; amounts of nil likewise.
type Product struct {
	Ref             string
	GTIN            string // 14 digits or empty
	GTINStatus      string // core/ident's status where GTIN is set, "leading zeros" where it was repaired so
	MPN             string
	Brand           string
	Title           string
	Description     string // safe HTML
	Category        string
	Cost            money.Amount // Minor 0 where the row doesn't tell, which only an update may
	ListPrice       *money.Amount
	LeastAdvertised *money.Amount
	Stock           Stock
	AvailableFrom   string // YYYY-MM-DD
	UnitsPerItem    int64
	LeastOrder      int64
	Weight          int64 // whole grams
	Length          int64 // whole millimetres, as the width and the height
	Width           int64
	Height          int64
	LeadDays        *int64
	Pictures        []string
	Link            string
	Condition       string
	Group           string
	Colour          string
	Size            string
	Material        string
	Origin          string
	CommodityCode   string
	Attributes      []Attribute // other columns, in the order of the file
}

// Attribute is a column that is no field, by its own name.
type Attribute struct{ Name, Value string }

// Item is a product with its digests, which are asked for several times on a
// product's way and cost as much as reading it.
type Item struct {
	Product
	Hash  int64 // of the ref, RefHash
	Print int64 // Fingerprint
}

// Digested is a product with its digests. It must not be changed afterwards.
func Digested(p Product) Item { return Item{p, RefHash(p.Ref), p.Fingerprint()} }

// Digest fills the digests in.
func (i *Item) Digest() { i.Hash, i.Print = RefHash(i.Ref), i.Fingerprint() }

// Field is one named value of a product as text.
type Field struct{ Name, Value string }

func number(n int64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatInt(n, 10)
}

func amount(a *money.Amount) string {
	if a == nil {
		return ""
	}
	return a.String()
}

// Fields lists everything a product says, in the order it is logged; two
// products are the same when their fields are.
func (p *Product) Fields() []Field {
	lead := ""
	if p.LeadDays != nil {
		lead = strconv.FormatInt(*p.LeadDays, 10)
	}
	cost := ""
	if p.Cost.Minor != 0 {
		cost = p.Cost.String()
	}
	out := []Field{
		{"cost", cost},
		{"currency", string(p.Cost.Currency)},
		{"stock", p.Stock.String()},
		{"title", p.Title},
		{"identifier", p.GTIN},
		{"brand", p.Brand},
		{"category", p.Category},
		{"mpn", p.MPN},
		{"description", p.Description},
		{"list_price", amount(p.ListPrice)},
		{"least_advertised", amount(p.LeastAdvertised)},
		{"available_from", p.AvailableFrom},
		{"units_per_item", number(p.UnitsPerItem)},
		{"least_order", number(p.LeastOrder)},
		{
			"weight",
			number(p.Weight),
		},
		{"length", number(p.Length)},
		{"width", number(p.Width)},
		{"height", number(p.Height)},
		{"lead_days", lead},
		{"pictures", strings.Join(p.Pictures, " ")},
		{"link", p.Link},
		{"condition", p.Condition},
		{"group", p.Group},
		{"colour", p.Colour},
		{"size", p.Size},
		{"material", p.Material},
		{"origin", p.Origin},
		{"commodity_code", p.CommodityCode},
	}
	for _, a := range p.Attributes {
		out = append(out, Field{"attribute " + a.Name, a.Value})
	}
	return out
}

// Fingerprint is a 64-bit digest of the ref and all fields, the same in every
// run of the program, by which rows that are the same are told without reading
// them back.
func (p *Product) Fingerprint() int64 {
	h := digest(len(p.Attributes))
	for _, s := range [...]string{p.Ref, string(p.Cost.Currency), string(p.Stock.State), p.Title, p.GTIN, p.GTINStatus, p.Brand,
		p.Category, p.MPN, p.Description,
		p.AvailableFrom, p.Link, p.Condition, p.Group, p.Colour, p.Size, p.Material, p.Origin, p.CommodityCode} {
		h.text(s)
	}
	for _, n := range [...]int64{p.Cost.Minor, p.Stock.Count, p.UnitsPerItem, p.LeastOrder, p.Weight, p.Length, p.Width, p.Height,
		int64(len(p.Pictures))} {
		h.word(uint64(n))
	}
	for _, a := range [...]*money.Amount{p.ListPrice, p.LeastAdvertised} {
		if h.word(0); a != nil {
			h.word(uint64(a.Minor) + 1)
			h.text(string(a.Currency))
		}
	}
	if h.word(0); p.LeadDays != nil {
		h.word(uint64(*p.LeadDays) + 1)
	}
	for _, s := range p.Pictures {
		h.text(s)
	}
	for _, a := range p.Attributes {
		h.text(a.Name)
		h.text(a.Value)
	}
	return int64(h)
}

// RefHash is a 64-bit digest of a ref.
func RefHash(ref string) int64 {
	var h digest
	h.text(ref)
	return int64(h)
}

// digest mixes words of 64 bits, by multiplying and folding the high half down.
type digest uint64

func (d *digest) word(w uint64) {
	hi, lo := bits.Mul64(uint64(*d)^w^0x9e3779b97f4a7c15, 0xd6e8feb86659fd93)
	*d = digest(hi ^ lo ^ bits.RotateLeft64(w, 29))
}

func (d *digest) text(s string) {
	d.word(uint64(len(s)))
	for ; len(s) >= 8; s = s[8:] {
		d.word(
			uint64(
				s[0],
			) | uint64(
				s[1],
			)<<8 | uint64(
				s[2],
			)<<16 | uint64(
				s[3],
			)<<24 | uint64(
				s[4],
			)<<32 | uint64(
				s[5],
			)<<40 | uint64(
				s[6],
			)<<48 | uint64(
				s[7],
			)<<56,
		)
	}
	var rest uint64
	for i := range len(s) {
		rest |= uint64(s[i]) << (8 * i)
	}
	d.word(rest)
}

// Overlay is what an update makes of a product: what the update doesn't say
// stays as it was. Amounts that stay are dropped where the currency changes.
func (p Product) Overlay(old *Product) Product {
	text := func(new *string, was string) {
		if *new == "" {
			*new = was
		}
	}
	whole := func(new *int64, was int64) {
		if *new == 0 {
			*new = was
		}
	}
	for _, f := range [...]struct {
		new *string
		was string
	}{{&p.MPN, old.MPN}, {&p.Brand, old.Brand}, {&p.Title, old.Title}, {&p.Description, old.Description}, {&p.Category, old.Category},
		{&p.AvailableFrom, old.AvailableFrom}, {&p.Link, old.Link}, {&p.Condition, old.Condition}, {&p.Group, old.Group}, {&p.Colour, old.Colour},
		{&p.Size, old.Size}, {&p.Material, old.Material}, {&p.Origin, old.Origin}, {&p.CommodityCode, old.CommodityCode}} {
		text(f.new, f.was)
	}
	if p.GTIN == "" {
		p.GTIN, p.GTINStatus = old.GTIN, old.GTINStatus
	}
	whole(&p.UnitsPerItem, old.UnitsPerItem)
	whole(&p.LeastOrder, old.LeastOrder)
	whole(&p.Weight, old.Weight)
	whole(&p.Length, old.Length)
	whole(&p.Width, old.Width)
	whole(&p.Height, old.Height)
	if p.LeadDays == nil {
		p.LeadDays = old.LeadDays
	}
	if p.Cost.Minor == 0 {
		p.Cost = old.Cost
	}
	for _, f := range [...]struct{ new, was **money.Amount }{{&p.ListPrice, &old.ListPrice}, {&p.LeastAdvertised, &old.LeastAdvertised}} {
		if *f.new == nil && *f.was != nil && (**f.was).Currency == p.Cost.Currency {
			*f.new = *f.was
		}
	}
	if p.Stock.State == StockUnsaid {
		p.Stock = old.Stock
	}
	if len(p.Pictures) == 0 {
		p.Pictures = old.Pictures
	}
	merged := append([]Attribute(nil), old.Attributes...)
	for _, a := range p.Attributes {
		at := -1
		for i := range merged {
			if merged[i].Name == a.Name {
				at = i
			}
		}
		if at < 0 {
			merged = append(merged, a)
		} else {
			merged[at] = a
		}
	}
	p.Attributes = merged
	return p
}

// Change is one field that a feed changed, section 5.
type Change struct{ Field, Before, After string }

// Diff lists what differs between two readings of one product.
func Diff(before, after *Product) []Change {
	was := map[string]string{}
	for _, f := range before.Fields() {
		was[f.Name] = f.Value
	}
	var out []Change
	for _, f := range after.Fields() {
		if was[f.Name] != f.Value {
			out = append(out, Change{f.Name, was[f.Name], f.Value})
		}
		delete(was, f.Name)
	}
	var left []string
	for name := range was {
		if was[name] != "" {
			left = append(left, name)
		}
	}
	sort.Strings(left)
	for _, name := range left {
		out = append(out, Change{Field: name, Before: was[name]})
	}
	return out
}

// Problem is why a row is set aside, section 3.
type Problem struct {
	Column string `json:"column"` // as named in the file
	Value  string `json:"value"`
	Reason string `json:"reason"`
}

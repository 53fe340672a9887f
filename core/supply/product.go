// Package supply holds the rules for what suppliers send: what one row says,
// what changed, when a whole feed must wait for a person, and how much of a
// stock to offer. It follows design/supply.md; the section is named where a
// rule comes from.
package supply

import (
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

// Some tells whether there is any to be had.
func (s Stock) Some() bool { return s.State == StockKnown && s.Count > 0 }

// Product is one row of a supplier, read: section 2.
type Product struct {
	Ref          string
	GTIN         string // 14 digits or empty
	GTINStatus   string // core/ident's status where GTIN is set
	MPN          string
	Brand        string
	Title        string
	Description  string // safe HTML
	Category     string
	Cost         money.Amount
	ListPrice    *money.Amount
	Stock        Stock
	UnitsPerItem int64 // 0 where the feed doesn't say
	Pictures     []string
	Link         string
	Group        string
	Colour       string
	Size         string
	Attributes   map[string]string // other columns, by their own name
}

// Field is one named value of a product as text, in the order they are logged.
type Field struct{ Name, Value string }

// Fields lists everything a product says; two products are the same when their fields are.
func (p *Product) Fields() []Field {
	list := ""
	if p.ListPrice != nil {
		list = p.ListPrice.String()
	}
	units := ""
	if p.UnitsPerItem > 0 {
		units = strconv.FormatInt(p.UnitsPerItem, 10)
	}
	out := []Field{
		{"cost", p.Cost.String()}, {"currency", string(p.Cost.Currency)}, {"stock", p.Stock.String()},
		{"title", p.Title}, {"identifier", p.GTIN}, {"brand", p.Brand}, {"category", p.Category}, {"mpn", p.MPN},
		{"description", p.Description}, {"list_price", list}, {"units_per_item", units},
		{"pictures", strings.Join(p.Pictures, " ")}, {"link", p.Link}, {"group", p.Group}, {"colour", p.Colour}, {"size", p.Size},
	}
	for name, v := range p.Attributes {
		out = append(out, Field{"attribute " + name, v})
	}
	sort.Slice(out[16:], func(i, j int) bool { return out[16+i].Name < out[16+j].Name })
	return out
}

// Fingerprint is a 64-bit digest of the fields (FNV-1a), by which rows that
// are the same are told without reading them back.
func (p *Product) Fingerprint() int64 {
	h := uint64(14695981039346656037)
	for _, f := range p.Fields() {
		for _, s := range [2]string{f.Name, f.Value} {
			for i := 0; i < len(s); i++ {
				h = (h ^ uint64(s[i])) * 1099511628211
			}
			h = (h ^ 0xff) * 1099511628211
		}
	}
	return int64(h)
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

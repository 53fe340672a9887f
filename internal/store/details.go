package store

import (
	"encoding/json"
	"fmt"
	"strconv"
	"unicode/utf8"

	"easymargin/core/money"
	"easymargin/core/supply"
)

// details is the part of a supplier product that is only shown, never looked
// for. The form it is kept in is written by appendDetails, which a feed of a
// million rows needs to be quick, and read by encoding/json.
type details struct {
	MPN             string      `json:"mpn"`
	Description     string      `json:"description"`
	ListPrice       *int64      `json:"list_price"`
	LeastAdvertised *int64      `json:"least_advertised"`
	AvailableFrom   string      `json:"available_from"`
	LeastOrder      int64       `json:"least_order"`
	Weight          int64       `json:"weight"`
	Length          int64       `json:"length"`
	Width           int64       `json:"width"`
	Height          int64       `json:"height"`
	LeadDays        *int64      `json:"lead_days"`
	Pictures        []string    `json:"pictures"`
	Link            string      `json:"link"`
	Condition       string      `json:"condition"`
	Group           string      `json:"group"`
	Colour          string      `json:"colour"`
	Size            string      `json:"size"`
	Material        string      `json:"material"`
	Origin          string      `json:"origin"`
	CommodityCode   string      `json:"commodity_code"`
	Attributes      [][2]string `json:"attributes"`
}

func appendDetails(b []byte, p *supply.Product) []byte {
	b = append(b, '{')
	key := func(name string) {
		if b[len(b)-1] != '{' {
			b = append(b, ',')
		}
		b = append(append(append(b, '"'), name...), `":`...)
	}
	text := func(name, v string) {
		if v != "" {
			key(name)
			b = appendText(b, v)
		}
	}
	whole := func(name string, v int64) {
		if v != 0 {
			key(name)
			b = strconv.AppendInt(b, v, 10)
		}
	}
	text("mpn", p.MPN)
	text("description", p.Description)
	if p.ListPrice != nil {
		key("list_price")
		b = strconv.AppendInt(b, p.ListPrice.Minor, 10)
	}
	if p.LeastAdvertised != nil {
		key("least_advertised")
		b = strconv.AppendInt(b, p.LeastAdvertised.Minor, 10)
	}
	text("available_from", p.AvailableFrom)
	whole("least_order", p.LeastOrder)
	whole("weight", p.Weight)
	whole("length", p.Length)
	whole("width", p.Width)
	whole("height", p.Height)
	if p.LeadDays != nil {
		key("lead_days")
		b = strconv.AppendInt(b, *p.LeadDays, 10)
	}
	if len(p.Pictures) > 0 {
		key("pictures")
		for i, s := range p.Pictures {
			b = append(b, "[,"[min(i, 1)])
			b = appendText(b, s)
		}
		b = append(b, ']')
	}
	text("link", p.Link)
	text("condition", p.Condition)
	text("group", p.Group)
	text("colour", p.Colour)
	text("size", p.Size)
	text("material", p.Material)
	text("origin", p.Origin)
	text("commodity_code", p.CommodityCode)
	if len(p.Attributes) > 0 {
		key("attributes")
		for i, a := range p.Attributes {
			b = append(append(b, "[,"[min(i, 1)]), '[')
			b = append(appendText(b, a.Name), ',')
			b = append(appendText(b, a.Value), ']')
		}
		b = append(b, ']')
	}
	return append(b, '}')
}

// appendText writes a JSON string, RFC 8259.
func appendText(b []byte, s string) []byte {
	b = append(b, '"')
	for i := 0; i < len(s); {
		c := s[i]
		switch {
		case c == '"' || c == '\\':
			b = append(b, '\\', c)
		case c < 0x20:
			b = append(b, `\u00`...)
			b = append(b, "0123456789abcdef"[c>>4], "0123456789abcdef"[c&15])
		case c < utf8.RuneSelf:
			b = append(b, c)
		default:
			r, size := utf8.DecodeRuneInString(s[i:])
			b = utf8.AppendRune(b, r)
			i += size
			continue
		}
		i++
	}
	return append(b, '"')
}

// Product is the row as core/supply has it.
func (p *SupplierProduct) Product() (supply.Product, error) {
	var d details
	if p.Details != "" {
		if err := json.Unmarshal([]byte(p.Details), &d); err != nil {
			return supply.Product{}, fmt.Errorf("details of %s: %w", p.Ref, err)
		}
	}
	cur := money.Currency(p.Currency)
	amount := func(v *int64) *money.Amount {
		if v == nil {
			return nil
		}
		a := money.Of(*v, cur)
		return &a
	}
	out := supply.Product{
		Ref:             p.Ref,
		GTIN:            p.GTIN,
		GTINStatus:      p.GTINStatus,
		MPN:             d.MPN,
		Brand:           p.Brand,
		Title:           p.Title,
		Description:     d.Description,
		Category:        p.Category,
		Cost:            money.Of(p.Cost, cur),
		ListPrice:       amount(d.ListPrice),
		LeastAdvertised: amount(d.LeastAdvertised),
		Stock: supply.Stock{
			State: supply.StockState(p.StockState),
			Count: p.Stock,
		},
		AvailableFrom: d.AvailableFrom,
		UnitsPerItem:  p.UnitsPerItem,
		LeastOrder:    d.LeastOrder,
		Weight:        d.Weight,
		Length:        d.Length,
		Width:         d.Width,
		Height:        d.Height,
		LeadDays:      d.LeadDays,
		Pictures:      d.Pictures,
		Link:          d.Link,
		Condition:     d.Condition,
		Group:         d.Group,
		Colour:        d.Colour,
		Size:          d.Size,
		Material:      d.Material,
		Origin:        d.Origin,
		CommodityCode: d.CommodityCode,
	}
	for _, a := range d.Attributes {
		out.Attributes = append(out.Attributes, supply.Attribute{Name: a[0], Value: a[1]})
	}
	return out, nil
}

package feed

import (
	"bufio"
	"encoding/json"
	"io"

	"easymargin/core/supply"
)

// Print writes what the reader makes of a file as `easymargin read` does:
// docs/definitions/supply.md, section 8. It knows no source.
func (f *File) Print(w io.Writer, s Settings) error {
	s.Loose = true
	out := bufio.NewWriterSize(w, 64<<10)
	e := json.NewEncoder(out)
	e.SetEscapeHTML(false)
	if err := e.Encode(f.headJSON()); err != nil {
		return err
	}
	err := f.Read(s, func(r *Row) error { return e.Encode(r.JSON()) })
	if err != nil {
		return err
	}
	return out.Flush()
}

func (f *File) headJSON() map[string]any {
	l := f.look
	columns := []map[string]any{}
	for _, c := range l.Columns {
		m := map[string]any{"name": c.Name, "field": nil}
		switch c.Field {
		case "":
		case "box":
			m["field"] = "dimensions"
		default:
			m["field"] = c.Field
		}
		columns = append(columns, m)
	}
	head := map[string]any{"kind": l.Kind, "columns": columns}
	for name, v := range map[string]string{"encoding": l.Encoding, "delimiter": l.Delimiter, "sheet": l.Sheet, "wrapping": l.Wrapping} {
		if v != "" && !(name == "sheet" && l.Kind != "xlsx") {
			head[name] = v
		}
	}
	if l.HeaderRow > 0 {
		head["header_row"] = l.HeaderRow
	}
	return head
}

// JSON is the row in the form of `easymargin read`.
func (r *Row) JSON() map[string]any {
	if len(r.Problems) > 0 {
		return map[string]any{"row": r.Number, "set_aside": r.Problems}
	}
	attributes := map[string]string{}
	for _, a := range r.Product.Attributes {
		attributes[a.Name] = a.Value
	}
	warnings := r.Warnings
	if warnings == nil {
		warnings = []string{}
	}
	return map[string]any{"row": r.Number, "fields": fieldsJSON(&r.Product.Product), "attributes": attributes, "warnings": warnings}
}

func fieldsJSON(p *supply.Product) map[string]any {
	m := map[string]any{"ref": p.Ref}
	for name, v := range map[string]string{"identifier": p.GTIN, "mpn": p.MPN, "brand": p.Brand, "title": p.Title, "description": p.Description, "category": p.Category,
		"currency": string(p.Cost.Currency), "available_from": p.AvailableFrom, "link": p.Link, "condition": p.Condition, "group": p.Group, "colour": p.Colour,
		"size": p.Size, "material": p.Material, "origin": p.Origin, "commodity_code": p.CommodityCode} {
		if v != "" {
			m[name] = v
		}
	}
	for name, v := range map[string]int64{"units_per_item": p.UnitsPerItem, "least_order": p.LeastOrder, "weight": p.Weight, "length": p.Length, "width": p.Width, "height": p.Height} {
		if v > 0 {
			m[name] = v
		}
	}
	if p.Cost.Minor != 0 {
		m["cost"] = p.Cost.String()
	}
	if p.ListPrice != nil {
		m["list_price"] = p.ListPrice.String()
	}
	if p.LeastAdvertised != nil {
		m["least_advertised"] = p.LeastAdvertised.String()
	}
	if p.LeadDays != nil {
		m["lead_days"] = *p.LeadDays
	}
	if len(p.Pictures) > 0 {
		m["pictures"] = p.Pictures
	}
	switch p.Stock.State {
	case supply.StockKnown:
		m["stock"] = p.Stock.Count
	case supply.StockUnknown, supply.StockEnded:
		m["stock"] = string(p.Stock.State)
	}
	return m
}

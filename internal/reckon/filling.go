package reckon

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/listing"
	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

// Filled is what is said of a listing, and where each value comes from.
type Filled struct {
	Values    listing.Values
	Pictures  []Chosen        // those of the values, in their order
	From      map[string]From // by field, as listing.Values has it
	Terms     listing.Terms   // the selling terms that hold
	TermsName string          // "": none

	group    string   // that joins the variants of its product
	parts    []string // of its title, where they aren't the place's
	defaults Defaults
}

// From is where a value comes from, and what would stand there without a person's.
type From struct {
	Kind    FromKind
	Name    string // the supplier's, or who said it
	Without string // what would stand there if a person's word were taken back
}

// FromKind is what a value comes from.
type FromKind string

// What values come from, the first that has one.
const (
	FromPerson   FromKind = "person"
	FromWords    FromKind = "our word"
	FromProduct  FromKind = "product"
	FromSupplier FromKind = "supplier"
	FromTerms    FromKind = "terms"
	FromCategory FromKind = "category"
	FromTemplate FromKind = "template"
)

// fill takes each value from the first that has one: what a person said, our
// word for a value of the supplier's, the product, the supplier.
func (a *Asking) fill(m *store.Material, l *store.Listing, n *listing.Needs) Filled {
	f := Filled{From: map[string]From{}, Values: listing.Values{Attributes: map[string]listing.Text{}}, defaults: a.defaultsOf(l.Category)}
	supplier, product := From{Kind: FromSupplier, Name: m.Supplier}, From{Kind: FromProduct}
	v, item := &f.Values, &m.Item
	put := func(field, value string, from From, into *string) {
		if value != "" && *into == "" {
			*into, f.From[field] = value, from
		}
	}
	put("sku", l.SKU, product, &v.SKU)
	put("number", ident.Read(m.Product.GTIN).Shown, product, &v.Number)
	put("brand", m.Product.Brand, product, &v.Brand)
	put("brand", item.Brand, supplier, &v.Brand)
	put("kind", unbranded(cmp.Or(m.Product.Title, item.Title), v.Brand), product, &v.Kind)
	put("model", item.MPN, supplier, &v.Model)
	if n.Description != nil {
		put("description", Description(item.Description, n.Description.HTML), supplier, &v.Description)
	}
	if item.ListPrice != nil && string(item.ListPrice.Currency) == l.Currency {
		put("list_price", item.ListPrice.String(), supplier, &v.ListPrice)
	}
	cur := money.Currency(l.Currency)
	if l.Price != nil {
		v.Price = money.Of(*l.Price, cur).String()
	}
	if l.Former != nil {
		v.Former = money.Of(*l.Former, cur).String()
		f.From["former"] = product
	}
	f.fillPictures(m)
	if item.Weight+item.Length+item.Width+item.Height > 0 {
		v.Package = &listing.Packed{Weight: item.Weight, Length: item.Length, Width: item.Width, Height: item.Height}
		f.From["package"] = supplier
	}
	for i := range n.Attributes {
		at := &n.Attributes[i]
		value := suppliers(item, cmp.Or(f.defaults.Names[at.Ref], at.Ref))
		if value == "" {
			continue
		}
		from := supplier
		if theirs, ok := a.words[[3]string{l.Category, at.Ref, Folded(value)}]; ok {
			value, from = theirs, From{Kind: FromWords, Name: value}
		}
		v.Attributes[at.Ref], f.From["attributes."+at.Ref] = listing.Text{value}, from
	}
	for field, s := range m.Said {
		texts, err := s.TextOf()
		if err != nil {
			continue
		}
		without := f.at(field)
		if f.set(field, texts) {
			f.From[field] = From{Kind: FromPerson, Name: s.Actor, Without: without}
		}
	}
	f.group = Group(m)
	a.fillDefaults(&f, m, n)
	return f
}

// suppliers is what the supplier says of an attribute: one of its fields, or one
// of the columns it calls so.
func suppliers(item *supply.Product, ref string) string {
	switch ref {
	case "colour":
		return item.Colour
	case "size":
		return item.Size
	case "material":
		return item.Material
	case "origin":
		return item.Origin
	case "commodity_code":
		return item.CommodityCode
	case "condition":
		return item.Condition
	case "mpn":
		return item.MPN
	}
	want := Folded(strings.ReplaceAll(ref, "_", " "))
	for _, x := range item.Attributes {
		if Folded(strings.ReplaceAll(x.Name, "_", " ")) == want {
			return x.Value
		}
	}
	return ""
}

// Folded is how our words are compared: without case and outer spaces.
func Folded(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

// texts are the fields of a listing that are one text.
func (f *Filled) texts() map[string]*string {
	v := &f.Values
	return map[string]*string{"number": &v.Number, "brand": &v.Brand, "title": &v.Title, "description": &v.Description, "list_price": &v.ListPrice,
		"series": &v.Series, "model": &v.Model, "key_feature": &v.KeyFeature, "kind": &v.Kind, "pack": &v.Pack}
}

// parcel is the fields of one.
func parcel(p *listing.Packed) map[string]*int64 {
	return map[string]*int64{"package.weight": &p.Weight, "package.length": &p.Length, "package.width": &p.Width, "package.height": &p.Height}
}

// Sayable tells whether a person may say something of a field.
func Sayable(field string) bool {
	var f Filled
	_, text := f.texts()[field]
	_, figure := parcel(&listing.Packed{})[field]
	ref, attribute := strings.CutPrefix(field, "attributes.")
	return text || figure || attribute && ref != "" || field == "words" || field == TermsField || field == TitleParts
}

// at is what stands in a field.
func (f *Filled) at(field string) string {
	if s, ok := f.texts()[field]; ok {
		return *s
	}
	if ref, ok := strings.CutPrefix(field, "attributes."); ok {
		return strings.Join(f.Values.Attributes[ref], "|")
	}
	if field == "words" {
		return strings.Join(f.Values.Words, ", ")
	}
	if f.Values.Package == nil { // asking for it makes none
		return ""
	}
	if n, ok := parcel(f.Values.Package)[field]; ok && *n != 0 {
		return strconv.FormatInt(*n, 10)
	}
	return ""
}

// set puts a person's word into a field; false where there is no such field.
func (f *Filled) set(field string, texts []string) bool {
	first := strings.Join(texts, ", ")
	if s, ok := f.texts()[field]; ok {
		*s = first
		return true
	}
	if ref, ok := strings.CutPrefix(field, "attributes."); ok {
		f.Values.Attributes[ref] = texts
		return true
	}
	if field == "words" {
		f.Values.Words = texts
		return true
	}
	p := listing.Packed{}
	if f.Values.Package != nil {
		p = *f.Values.Package
	}
	n, ok := parcel(&p)[field]
	v, err := strconv.ParseInt(first, 10, 64)
	if !ok || err != nil {
		return false
	}
	if *n, f.Values.Package = v, &p; p == (listing.Packed{}) {
		f.Values.Package = nil
	}
	return true
}

// unbranded is a title without the words of a brand at its beginning.
func unbranded(title, brand string) string {
	words, marks := strings.Fields(title), strings.Fields(brand)
	if len(marks) > 0 && len(words) > len(marks) && slices.EqualFunc(words[:len(marks)], marks, strings.EqualFold) {
		words = words[len(marks):]
	}
	return strings.Join(words, " ")
}

// At is what stands in a field; several values are joined by a bar.
func (f *Filled) At(field string) string { return f.at(field) }

// Part is the text of a title's part, docs/definitions/listing.md section 2.
func (f *Filled) Part(name string) string { return f.Values.Text(name) }

package feed

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"

	"github.com/PuerkitoBio/goquery"
	"golang.org/x/net/html"
)

// page is a product's web page with schema.org data, as JSON-LD or microdata.
// Each Product in it, or each variant of one, is a row.
type page struct{}

// maxPage is the most that a page may have: held as a tree it takes forty times as much.
const maxPage = 4 << 20

func (page) name() string { return "html" }

func (page) recognise(head []byte) bool {
	t := bytes.ToLower(head[:min(len(head), 4096)])
	if bytes.HasPrefix(bytes.TrimSpace(t), []byte("<?xml")) && !bytes.Contains(t, []byte("<html")) {
		return false
	}
	return bytes.HasPrefix(bytes.TrimSpace(t), []byte("<")) &&
		(bytes.Contains(t, []byte("<html")) || bytes.Contains(t, []byte("<!doctype html")) ||
			bytes.Contains(t, []byte("application/ld+json")) || bytes.Contains(t, []byte("itemscope")) || bytes.Contains(t, []byte("<head")) || bytes.Contains(t, []byte("<body")))
}

var errNoProduct = wrong("no schema.org Product was found in this page, as JSON-LD or as microdata; type the product in by hand")

func (page) look(in *input, s Settings) (Look, error) {
	l, err := keyedLook(s, func(k *keys, yield func(*Record) bool) error { return eachProduct(in, s.Base, k, yield) }, errNoProduct.Error())
	l.Base = s.Base
	return l, err
}

func (page) records(in *input, l *Look, yield func(*Record) bool) error {
	return eachProduct(in, l.Base, keysOf(l), yield)
}

func eachProduct(in *input, fetchedFrom string, k *keys, yield func(*Record) bool) error {
	r, err := in.text()
	if err != nil {
		return err
	}
	defer r.Close()
	text, err := io.ReadAll(io.LimitReader(r, maxPage+1))
	if err != nil {
		return in.broken(err)
	}
	if len(text) > maxPage {
		return wrong("the page has more than %d MiB, which is the most that is read of one", maxPage>>20)
	}
	doc, err := goquery.NewDocumentFromReader(bytes.NewReader(text))
	if err != nil {
		return wrong("the page can't be read: %v", err)
	}
	found := linked(doc)
	if len(found) == 0 {
		found = microdata(doc)
	}
	base := pageAddress(doc, fetchedFrom)
	for i, p := range found {
		var rec Record
		rec.reset(i + 1)
		if err := k.product(&rec, p, base); err != nil {
			return err
		}
		if !yield(&rec) {
			return nil
		}
	}
	return nil
}

// pageAddress is where a page says it lives, else where it was fetched from, to
// make its addresses whole.
func pageAddress(doc *goquery.Document, fetchedFrom string) *url.URL {
	for _, s := range []string{doc.Find("base[href]").AttrOr("href", ""), doc.Find("link[rel=canonical]").AttrOr("href", ""), doc.Find(`meta[property="og:url"]`).AttrOr("content", ""), fetchedFrom} {
		if isAddress(s) {
			if u, err := url.Parse(s); err == nil {
				return u
			}
		}
	}
	return nil
}

// thing is one object of linked data: names in order, values as JSON has them.
type thing struct {
	names  []string
	values map[string]any
}

func (t *thing) set(name string, v any) {
	if _, there := t.values[name]; !there {
		t.names = append(t.names, name)
	}
	t.values[name] = v
}

func (t *thing) is(kinds ...string) bool {
	for _, v := range listOf(t.values["@type"]) {
		s, _ := v.(string)
		if slices.Contains(kinds, s[strings.LastIndexAny(s, "/#:")+1:]) {
			return true
		}
	}
	return false
}

func listOf(v any) []any {
	switch v := v.(type) {
	case nil:
		return nil
	case []any:
		return v
	}
	return []any{v}
}

// linked finds the products in the page's JSON-LD, graphs and lists seen through.
func linked(doc *goquery.Document) []*thing {
	var out []*thing
	doc.Find("script").Each(func(_ int, s *goquery.Selection) {
		kind, _, _ := strings.Cut(strings.ToLower(s.AttrOr("type", "")), ";")
		if strings.TrimSpace(kind) != "application/ld+json" {
			return
		}
		text := strings.TrimSpace(s.Text())
		text = strings.TrimSuffix(strings.TrimPrefix(text, "<!--"), "-->")
		text = strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(text), "/*<![CDATA[*/"), "/*]]>*/")
		d := json.NewDecoder(strings.NewReader(lineBreaks(text)))
		d.UseNumber()
		for {
			v, err := readThing(d, 0)
			if err != nil {
				return
			}
			out = append(out, products(v, 0)...)
		}
	})
	return out
}

// lineBreaks makes raw line breaks inside quoted texts, which JSON forbids and
// pages have all the same, into spaces.
func lineBreaks(s string) string {
	var b strings.Builder
	quoted, escaped := false, false
	for _, r := range s {
		switch {
		case escaped:
			escaped = false
		case r == '\\':
			escaped = quoted
		case r == '"':
			quoted = !quoted
		case quoted && r < 0x20:
			r = ' '
		}
		b.WriteRune(r)
	}
	return b.String()
}

var errDeep = errors.New("too deep")

// readThing reads one JSON value, objects as things that keep their order.
func readThing(d *json.Decoder, depth int) (any, error) {
	if depth > MaxDepth {
		return nil, errDeep
	}
	t, err := d.Token()
	if err != nil {
		return nil, err
	}
	switch t {
	case json.Delim('{'):
		o := &thing{values: map[string]any{}}
		for d.More() {
			name, err := d.Token()
			if err != nil {
				return nil, err
			}
			v, err := readThing(d, depth+1)
			if err != nil {
				return nil, err
			}
			o.set(fmt.Sprint(name), v)
		}
		_, err := d.Token()
		return o, err
	case json.Delim('['):
		list := []any{}
		for d.More() {
			v, err := readThing(d, depth+1)
			if err != nil {
				return nil, err
			}
			list = append(list, v)
		}
		_, err := d.Token()
		return list, err
	}
	return t, nil
}

// products finds the products in a value; one with variants becomes its variants.
func products(v any, depth int) []*thing {
	var out []*thing
	if depth > MaxDepth {
		return nil
	}
	for _, x := range listOf(v) {
		t, ok := x.(*thing)
		switch {
		case !ok:
		case t.is("Product", "ProductGroup", "IndividualProduct", "ProductModel", "SomeProducts"):
			out = append(out, variants(t)...)
		default:
			for _, name := range []string{"@graph", "mainEntity", "mainEntityOfPage", "itemListElement", "item"} {
				out = append(out, products(t.values[name], depth+1)...)
			}
		}
	}
	return out
}

// variants are the rows one product makes: itself, or each of its variants with
// what they have in common, or each of its offers that is a variant of its own.
func variants(t *thing) []*thing {
	list := append(listOf(t.values["hasVariant"]), listOf(t.values["model"])...)
	var out []*thing
	for _, v := range list {
		inner, ok := v.(*thing)
		if !ok {
			continue
		}
		row := &thing{values: map[string]any{}}
		for _, n := range inner.names {
			row.set(n, inner.values[n])
		}
		for _, n := range t.names {
			if _, own := row.values[n]; !own && n != "hasVariant" && n != "model" && n != "variesBy" && n != "sku" &&
				!strings.HasPrefix(n, "gtin") &&
				n != "offers" {
				row.set(n, t.values[n])
			}
		}
		if row.values["group"] == nil {
			for _, n := range []string{"inProductGroupWithID", "productGroupID", "sku", "name"} {
				if g := firstText(row.values[n], t.values[n]); g != "" {
					row.set("group", g)
					break
				}
			}
		}
		delete(row.values, "productGroupID")
		delete(row.values, "inProductGroupWithID")
		out = append(out, row)
	}
	if len(out) > 0 {
		return out
	}
	offers := offersOf(t)
	skus := map[string]bool{}
	for _, o := range offers {
		if s := firstText(o.values["sku"]); s != "" {
			skus[s] = true
		}
	}
	if len(skus) < 2 || len(skus) != len(offers) {
		return []*thing{t}
	}
	for _, o := range offers {
		row := &thing{values: map[string]any{}}
		for _, n := range t.names {
			row.set(n, t.values[n])
		}
		if g := firstText(t.values["sku"], t.values["productID"], t.values["name"]); g != "" {
			row.set("group", g)
		}
		for _, n := range o.names {
			if n == "sku" || n == "mpn" || n == "color" || n == "size" || n == "url" || strings.HasPrefix(n, "gtin") {
				row.set(n, o.values[n])
			}
		}
		row.set("offers", o)
		out = append(out, row)
	}
	return out
}

func firstText(values ...any) string {
	for _, v := range values {
		for _, x := range listOf(v) {
			if s := strings.TrimSpace(textOf(x)); s != "" {
				return s
			}
		}
	}
	return ""
}

// textOf is what a value says: of an object its name, or its value and unit.
func textOf(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case json.Number:
		if plain, ok := plainNumber(v.String()); ok {
			return plain
		}
		return v.String()
	case bool:
		return fmt.Sprint(v)
	case *thing:
		for _, n := range []string{"name", "@value", "contentUrl", "url", "@id"} {
			if s := textOf(v.values[n]); s != "" {
				return s
			}
		}
		if n := textOf(v.values["value"]); n != "" {
			unit := textOf(v.values["unitCode"])
			if u, ok := unitCodes[strings.ToUpper(unit)]; ok {
				unit = u
			} else if text := textOf(v.values["unitText"]); text != "" {
				unit = text
			}
			return strings.TrimSpace(n + " " + unit)
		}
	}
	return ""
}

// unitCodes are UN/CEFACT Recommendation 20's codes of the units we read.
var unitCodes = map[string]string{
	"GRM": "g",
	"KGM": "kg",
	"ONZ": "oz",
	"LBR": "lb",
	"MMT": "mm",
	"CMT": "cm",
	"MTR": "m",
	"INH": "in",
	"FOT": "ft",
}

// offersOf lists a product's offers, those inside an aggregate too.
func offersOf(t *thing) []*thing {
	var out []*thing
	for _, v := range listOf(t.values["offers"]) {
		o, ok := v.(*thing)
		if !ok {
			continue
		}
		if inner := listOf(o.values["offers"]); len(inner) > 0 {
			for _, x := range inner {
				if i, ok := x.(*thing); ok {
					out = append(out, i)
				}
			}
			continue
		}
		out = append(out, o)
	}
	return out
}

// lastPart is what follows the last slash or hash: schema.org/InStock → InStock.
func lastPart(s string) string { return s[strings.LastIndexAny(s, "/#:")+1:] }

// offer is the price, currency and availability of a product: of several
// offers the first that can be bought and has a price, else the first with one.
func offer(t *thing) (price, currency, availability string, number bool) {
	best := -1
	list := offersOf(t)
	priceOf := func(o *thing) (string, string, bool) {
		for _, n := range []string{"price", "lowPrice"} {
			if s := firstText(o.values[n]); s != "" {
				_, isNumber := listOf(o.values[n])[0].(json.Number)
				return s, firstText(o.values["priceCurrency"]), isNumber
			}
		}
		for _, v := range listOf(o.values["priceSpecification"]) {
			if ps, ok := v.(*thing); ok {
				if s := firstText(ps.values["price"]); s != "" {
					_, isNumber := listOf(ps.values["price"])[0].(json.Number)
					return s, firstText(ps.values["priceCurrency"], o.values["priceCurrency"]), isNumber
				}
			}
		}
		return "", "", false
	}
	for i, o := range list {
		if s, _, _ := priceOf(o); s == "" {
			continue
		}
		a := strings.ToLower(lastPart(firstText(o.values["availability"])))
		if best < 0 {
			best = i
		}
		if a == "" || strings.Contains(a, "instock") || strings.Contains(a, "limited") || strings.Contains(a, "online") {
			best = i
			break
		}
	}
	if best < 0 {
		if len(list) > 0 {
			return "", "", lastPart(firstText(list[0].values["availability"])), false
		}
		return "", "", "", false
	}
	price, currency, number = priceOf(list[best])
	return price, currency, lastPart(firstText(list[best].values["availability"])), number
}

// columnsOf names the properties that supply.md gives a field of its own.
var columnsOf = map[string]string{
	"sku":             "ref",
	"name":            "title",
	"color":           "colour",
	"image":           "pictures",
	"url":             "link",
	"brand":           "brand",
	"manufacturer":    "manufacturer",
	"mpn":             "mpn",
	"itemCondition":   "condition",
	"description":     "description",
	"category":        "category",
	"material":        "material",
	"size":            "size",
	"countryOfOrigin": "origin",
	"depth":           "length",
}

// product fills a record from a product.
func (k *keys) product(r *Record, t *thing, base *url.URL) error {
	put := func(name, text string, number bool) error {
		if text = strings.TrimSpace(text); text == "" {
			return nil
		}
		return k.put(r, name, text, number)
	}
	whole := func(s string) string {
		if base != nil && !isAddress(s) {
			if u, err := base.Parse(s); err == nil {
				return u.String()
			}
		}
		return s
	}
	seen := map[string]bool{}
	for _, n := range t.names {
		v, there := t.values[n]
		if !there || strings.HasPrefix(n, "@") || n == "offers" || n == "review" || n == "aggregateRating" || n == "isRelatedTo" ||
			n == "isSimilarTo" ||
			n == "isVariantOf" ||
			n == "mainEntityOfPage" {
			continue
		}
		if n == "additionalProperty" {
			for _, x := range listOf(v) {
				if p, ok := x.(*thing); ok {
					if name := firstText(p.values["name"]); name != "" {
						if err := put(name, firstText(p.values["value"]), false); err != nil {
							return err
						}
					}
				}
			}
			continue
		}
		name := n
		if strings.HasPrefix(strings.ToLower(n), "gtin") {
			name = "identifier"
		} else if c, ok := columnsOf[n]; ok {
			name = c
		}
		if seen[name] && name != "pictures" {
			continue
		}
		seen[name] = true
		for i, x := range listOf(v) {
			s := textOf(x)
			switch name {
			case "pictures":
				if o, ok := x.(*thing); ok {
					s = firstText(o.values["contentUrl"], o.values["url"], o.values["@id"])
				}
				s = whole(s)
			case "link":
				s = whole(s)
			case "condition":
				s = lastPart(s)
			}
			if i > 0 && name != "pictures" && name != "category" {
				break
			}
			if err := put(name, s, false); err != nil {
				return err
			}
		}
		if name == "pictures" {
			if i, ok := k.at[name]; ok && i < len(r.Cells) && r.Cells[i] != "" && r.Lists[i] == nil {
				if r.Lists == nil {
					r.Lists = map[int][]string{}
				}
				r.Lists[i] = []string{r.Cells[i]}
			}
		}
	}
	price, currency, availability, number := offer(t)
	if err := put("cost", price, number); err != nil {
		return err
	}
	if err := put("currency", currency, false); err != nil {
		return err
	}
	if err := put("stock", availability, false); err != nil {
		return err
	}
	if i, ok := k.at["ref"]; !ok || i >= len(r.Cells) ||
		r.Cells[i] == "" { // a page without a sku is known by another number of its own, or by its address
		ref := firstText(t.values["productID"], t.values["mpn"])
		if ref == "" {
			ref = firstText(t.values["url"])
		}
		if ref == "" && base != nil {
			ref = base.String()
		}
		return put("ref", ref, false)
	}
	return nil
}

// microdata finds the products in the page's microdata (HTML Living Standard, 5).
func microdata(doc *goquery.Document) []*thing {
	var out []*thing
	doc.Find("[itemscope][itemtype]").Each(func(_ int, s *goquery.Selection) {
		if _, inner := s.Attr("itemprop"); inner && s.ParentsFiltered("[itemscope]").Length() > 0 {
			return
		}
		if t := item(s.Get(0), 0); t.is("Product", "ProductGroup", "IndividualProduct") {
			out = append(out, variants(t)...)
		}
	})
	return out
}

func attrOf(n *html.Node, name string) (string, bool) {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val, true
		}
	}
	return "", false
}

// item is one itemscope with its properties.
func item(n *html.Node, depth int) *thing {
	t := &thing{values: map[string]any{}}
	kind, _ := attrOf(n, "itemtype")
	t.set("@type", strings.Fields(kind + " ")[:min(1, len(strings.Fields(kind)))])
	if f := strings.Fields(kind); len(f) > 0 {
		t.set("@type", f[0])
	} else {
		delete(t.values, "@type")
	}
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			if c.Type != html.ElementNode {
				continue
			}
			props, has := attrOf(c, "itemprop")
			_, scope := attrOf(c, "itemscope")
			if has {
				var v any
				if scope && depth < MaxDepth {
					v = item(c, depth+1)
				} else {
					v = propText(c)
				}
				for _, p := range strings.Fields(props) {
					if old, there := t.values[p]; there {
						t.values[p] = append(listOf(old), v)
					} else {
						t.set(p, v)
					}
				}
			}
			if !scope {
				walk(c)
			}
		}
	}
	walk(n)
	return t
}

func propText(n *html.Node) string {
	name := map[string]string{"meta": "content", "a": "href", "area": "href", "link": "href", "img": "src", "audio": "src", "video": "src", "source": "src", "iframe": "src", "embed": "src",
		"data": "value", "meter": "value", "time": "datetime", "object": "data"}[n.Data]
	if v, ok := attrOf(n, "content"); ok {
		return v
	}
	if name != "" {
		if v, ok := attrOf(n, name); ok {
			return v
		}
	}
	return goquery.NewDocumentFromNode(n).Text()
}

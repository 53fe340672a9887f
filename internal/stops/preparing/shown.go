package preparing

import (
	"slices"
	"strconv"
	"strings"
	"unicode"

	"easymargin/core/listing"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// parts are the fields that only titles are made of, in the order they are shown.
var parts = []string{"brand", "series", "model", "key_feature", "kind", "pack"}

// shown is a listing as its editor has it.
func (x *loaded) shown(p *reckon.Prepared, cats []store.Category) PreparedView {
	l, n := &x.listing, &p.Asked.Needs
	out := PreparedView{ID: l.ID, Version: l.Version, SKU: l.SKU, Product: x.material.Product.Title, Supplier: x.material.Supplier,
		SupplierTitle: x.material.Item.Title, SiteID: x.site.ID, Site: x.site.Name, State: l.State, Currency: l.Currency, Price: l.Price, Profit: l.Profit,
		Why: l.Why, Category: l.Category, Categories: paths(cats), Fixed: l.ConfirmedPrice != nil,
		Title: p.Report.Title, Typed: strings.TrimSpace(p.Values.Title) != "", Parts: []TitlePart{}, Pictures: []PreparedPicture{}, Other: []string{},
		Needed: p.Report.Needed, Helps: p.Report.Helps, Stops: p.Stops(), Learnt: []string{}}
	if p.Asked.Demand != nil {
		out.AskedAt = &p.Asked.Demand.ReadAt
	}
	out.Buyers, out.Markup, out.Proposed = p.ForBuyers(), n.Description != nil && len(n.Description.HTML) > 0, []string{}
	out.Tags = []string{}
	if out.Markup {
		out.Tags = n.Description.HTML
	}
	if n.Words != nil {
		out.Proposed = proposed(x, p, out.Categories)
	}
	out.Shown = ShownHow{l.Hidden, l.ShownFrom, l.ShownUntil}
	out.Group, out.NewEntry = reckon.Group(x.material), !reckon.NeedsContent(x.site)
	out.Terms, out.TermsOwn, out.AllTerms = p.TermsName, p.From[reckon.TermsField].Kind == reckon.FromPerson, x.asking.TermsNames()
	wrong := problemsOf(p)
	if t := n.Title; t != nil {
		out.Limit, out.Counts = t.Limit, t.Counts
		for _, name := range t.Parts {
			out.Parts = append(out.Parts, TitlePart{Name: name, Text: p.Part(name), LeftOut: slices.Contains(p.Report.LeftOut, name)})
		}
	}
	out.PartsOwn, out.MoreParts = p.From[reckon.TitleParts].Kind == reckon.FromPerson, []string{}
	for _, name := range append(slices.Clone(parts), refsOf(n)...) {
		if n.Title != nil && !slices.Contains(n.Title.Parts, name) && p.Part(name) != "" {
			out.MoreParts = append(out.MoreParts, name)
		}
	}
	out.Length = listing.Length(out.Title, out.Counts)
	out.Fields = fields(p)
	for i, y := range p.Pictures {
		pic := PreparedPicture{Original: y.Original, Recipe: y.Recipe, Text: y.Text, Seen: p.Seen(i), Digest: y.Digest, Width: y.Width, Height: y.Height,
			Kind: y.Kind, Bytes: y.Bytes, Small: y.Small}
		if z, ok := wrong["pictures."+strconv.Itoa(i+1)]; ok {
			pic.Words = reckon.ProblemWords(listing.Problem{Field: "it", Code: z.Code})
		}
		out.Pictures = append(out.Pictures, pic)
	}
	for _, y := range p.Report.Problems {
		if y.Field == "category" || y.Field == "pictures" || y.Field == "price" || y.Field == "former" || y.Field == "package.girth" || strings.HasPrefix(y.Field, "words.") {
			out.Other = append(out.Other, reckon.ProblemWords(y))
		}
	}
	return out
}

func refsOf(n *listing.Needs) []string {
	var out []string
	for i := range n.Attributes {
		out = append(out, n.Attributes[i].Ref)
	}
	return out
}

// problemsOf are what is wrong with a listing, by field.
func problemsOf(p *reckon.Prepared) map[string]listing.Problem {
	out := map[string]listing.Problem{}
	for _, y := range p.Report.Problems {
		out[y.Field] = y
	}
	return out
}

// fields are all that can be said of a listing, in the order it is shown.
func fields(p *reckon.Prepared) []SaidField {
	out, n, wrong := []SaidField{}, &p.Asked.Needs, problemsOf(p)
	add := func(field, value, need string, asked *listing.Attribute) {
		f := SaidField{Field: field, Value: value, Need: need, Asked: asked}
		from := p.From[field]
		f.From, f.Name, f.Without = from.Kind, from.Name, from.Without
		if y, ok := wrong[field]; ok {
			f.Code, f.Level, f.Words = y.Code, y.Level, reckon.ProblemWords(y)
		}
		if asked != nil {
			if sent := p.Report.Attributes[asked.Ref]; sent != value {
				f.Sent = sent
			}
		}
		out = append(out, f)
	}
	add("sku", p.Values.SKU, listing.Needed, nil)
	add("title", p.Values.Title, listing.Needed, nil)
	for _, name := range parts {
		if name == "brand" && n.Brand != nil {
			add(name, p.At(name), listing.Needed, nil)
		} else if n.Title != nil && slices.Contains(n.Title.Parts, name) {
			add(name, p.At(name), "", nil)
		}
	}
	number := n.Number
	if number == listing.NeededAlone {
		number = listing.Needed
	}
	add("number", p.Values.Number, number, nil)
	for i := range n.Attributes {
		a := &n.Attributes[i]
		need := a.Need
		if !p.Applies(i) {
			need = "does not apply"
		}
		add("attributes."+a.Ref, p.At("attributes."+a.Ref), need, a)
	}
	if n.Description != nil {
		need := ""
		if n.Description.Least > 0 {
			need = listing.Needed
		}
		add("description", p.Values.Description, need, nil)
	}
	if n.Words != nil {
		add("words", strings.Join(p.Values.Words, ", "), "", nil)
	}
	if k := n.Package; k != nil {
		if k.Weight != nil {
			add("package.weight", p.At("package.weight"), listing.Needed, nil)
		}
		if k.Side > 0 || k.Girth > 0 {
			for _, name := range []string{"package.length", "package.width", "package.height"} {
				add(name, p.At(name), listing.Needed, nil)
			}
		}
	}
	if n.Price != nil && n.Price.NotOverList {
		add("list_price", p.Values.ListPrice, "", nil)
	}
	return out
}

// paths are a site's categories with the way to each, in the order of it.
func paths(cats []store.Category) []CategoryPath {
	by := map[string]store.Category{}
	for _, c := range cats {
		by[c.Ref] = c
	}
	out := []CategoryPath{}
	for _, c := range cats {
		path := c.Name
		for at, n := c.Parent, 0; at != "" && n < 10; at, n = by[at].Parent, n+1 {
			path = by[at].Name + " › " + path
		}
		out = append(out, CategoryPath{Ref: c.Ref, Path: path})
	}
	slices.SortFunc(out, func(a, b CategoryPath) int { return strings.Compare(a.Path, b.Path) })
	return out
}

// mostProposed is how many search words are proposed.
const mostProposed = 12

// proposed are search words that stand neither in the title nor among those
// that are there: from what the supplier says, the attributes and the category.
func proposed(x *loaded, p *reckon.Prepared, cats []CategoryPath) []string {
	item := &x.material.Item
	from := []string{item.Title, item.Category, item.Colour, item.Material, item.Size}
	for _, v := range p.Report.Attributes {
		from = append(from, v)
	}
	slices.Sort(from[5:]) // a map's order is none
	for _, c := range cats {
		if c.Ref == x.listing.Category {
			from = append(from, c.Path)
		}
	}
	parted := func(s string) []string {
		return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	}
	seen := map[string]bool{}
	for _, s := range append([]string{p.Report.Title}, p.Values.Words...) {
		for _, w := range parted(s) {
			seen[w] = true
		}
	}
	out := []string{}
	for _, s := range from {
		for _, w := range parted(s) {
			if len([]rune(w)) < 3 || seen[w] || !strings.ContainsFunc(w, unicode.IsLetter) {
				continue
			}
			if seen[w] = true; len(out) < mostProposed {
				out = append(out, w)
			}
		}
	}
	return out
}

package reckon

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"easymargin/core/listing"
	"easymargin/core/money"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Defaults is what holds for all listings of our own in a category, unless one
// says otherwise. A part that is left out is that of the category above.
type Defaults struct {
	Blocks []listing.Block   `json:"blocks,omitempty" maxItems:"40" doc:"The template of descriptions"`
	Values map[string]string `json:"values,omitempty" doc:"By field, where nothing else says one"`
	Names  map[string]string `json:"names,omitempty" doc:"By the place's attribute: what we, or suppliers, call it"`
	Terms  string            `json:"terms,omitempty" doc:"Name of the selling terms"`
	Texts  []KeptText        `json:"texts,omitempty" maxItems:"200" doc:"Texts to put into descriptions"`
	Title  []string          `json:"title,omitempty" maxItems:"20" doc:"Parts of a title, in their order; left out: the place's"`
}

// KeptText is a text that descriptions share, such as a table of sizes: lines,
// and cells parted by tabs or bars.
type KeptText struct {
	Name  string `json:"name" minLength:"1" maxLength:"100"`
	Brand string `json:"brand,omitempty" maxLength:"200" doc:"It is of this brand's things; empty: of any"`
	Text  string `json:"text" minLength:"1" maxLength:"5000"`
}

// Kept is the text of a name for things of a brand: the brand's own before one
// for all, the nearer category's before the one above; "" where there is none.
func (d *Defaults) Kept(name, brand string) string {
	for _, of := range []string{Folded(brand), ""} {
		for _, t := range d.Texts {
			if Folded(t.Name) == Folded(name) && Folded(t.Brand) == of {
				return t.Text
			}
		}
	}
	return ""
}

// Texts are the kept texts that a listing's description could take: those of its
// brand and those for all, each name once.
func (f *Filled) Texts() []KeptText {
	out := []KeptText{}
	for _, t := range f.defaults.Texts {
		text := f.defaults.Kept(t.Name, f.Values.Brand)
		if text != "" && !slices.ContainsFunc(out, func(y KeptText) bool { return Folded(y.Name) == Folded(t.Name) }) {
			out = append(out, KeptText{Name: t.Name, Text: text})
		}
	}
	return out
}

// above are a category and those above it, the nearest first; "" is the last.
func (a *Asking) above(category string) []string {
	var out []string
	for at := category; at != "" && !slices.Contains(out, at); at = a.parents[at] {
		out = append(out, at)
	}
	return append(out, "")
}

// defaultsOf is what holds in a category: each part of the nearest that has it,
// values and names of all.
func (a *Asking) defaultsOf(category string) Defaults {
	out := Defaults{Values: map[string]string{}, Names: map[string]string{}}
	for _, at := range a.above(category) {
		d, ok := a.defaults[at]
		if !ok {
			continue
		}
		if len(out.Blocks) == 0 {
			out.Blocks = d.Blocks
		}
		if out.Terms == "" {
			out.Terms = d.Terms
		}
		if len(out.Title) == 0 {
			out.Title = d.Title
		}
		out.Texts = append(out.Texts, d.Texts...)
		for k, v := range d.Values {
			if out.Values[k] == "" {
				out.Values[k] = v
			}
		}
		for k, v := range d.Names {
			if out.Names[k] == "" {
				out.Names[k] = v
			}
		}
	}
	return out
}

// Suppose has defaults and terms be others than those that are kept: nil leaves
// them. It is for looking at what a change would do.
func (a *Asking) Suppose(category string, d *Defaults, name string, t *listing.Terms) {
	if d != nil {
		a.defaults[category] = *d
	}
	if t != nil {
		a.terms[name] = *t
	}
	a.ready = map[string]*Asked{}
}

// openDefaults reads a site's.
func (a *Asking) openDefaults(tx store.Tx, siteID int64) error {
	a.defaults, a.terms, a.given = map[string]Defaults{}, map[string]listing.Terms{}, map[string]bool{}
	kept, err := tx.CategoryDefaults(siteID)
	if err != nil {
		return err
	}
	for category, row := range kept {
		var d Defaults
		if err := json.Unmarshal([]byte(row.Defaults), &d); err != nil {
			return fmt.Errorf("what holds in %q: %w", category, err)
		}
		a.defaults[category] = d
	}
	terms, err := tx.SellingTerms(siteID)
	if err != nil {
		return err
	}
	for _, row := range terms {
		var t listing.Terms
		if err := json.Unmarshal([]byte(row.Terms), &t); err != nil {
			return fmt.Errorf("the terms %q: %w", row.Name, err)
		}
		a.terms[row.Name] = t
	}
	brands, err := tx.BrandRequests(siteID)
	for _, b := range brands {
		if b.State == store.BrandGiven {
			a.given[b.Brand] = true
		}
	}
	return err
}

// TermsField is the name of the selling terms of one listing, where they aren't
// those of its category.
const TermsField = "terms"

// fillDefaults fills what nothing else says: by the selling terms, then by what
// holds in the category; and describes it by the template.
func (a *Asking) fillDefaults(f *Filled, m *store.Material, n *listing.Needs) {
	d := &f.defaults
	f.parts = d.Title
	if s, said := m.Said[TitleParts]; said {
		if texts, err := s.TextOf(); err == nil {
			f.parts = texts
			f.From[TitleParts] = From{Kind: FromPerson, Name: s.Actor}
		}
	}
	f.TermsName = d.Terms
	if s, said := m.Said[TermsField]; said {
		if texts, err := s.TextOf(); err == nil && len(texts) > 0 {
			f.TermsName = texts[0]
			f.From[TermsField] = From{Kind: FromPerson, Name: s.Actor, Without: d.Terms}
		}
	}
	f.Terms = a.terms[f.TermsName]
	for i := range n.Attributes {
		ref := n.Attributes[i].Ref
		if len(f.Values.Attributes[ref]) > 0 {
			continue
		}
		if v := f.Terms.Said(ref); v != "" {
			f.Values.Attributes[ref], f.From["attributes."+ref] = listing.Text{v}, From{Kind: FromTerms, Name: f.TermsName}
		} else if v := d.Values["attributes."+ref]; v != "" {
			f.Values.Attributes[ref], f.From["attributes."+ref] = listing.Text{v}, From{Kind: FromCategory}
		}
	}
	for field, into := range f.texts() {
		if v := d.Values[field]; v != "" && *into == "" {
			*into, f.From[field] = v, From{Kind: FromCategory}
		}
	}
	if n.Description == nil || len(d.Blocks) == 0 {
		return
	}
	kept := func(name string) string { return d.Kept(name, f.Values.Brand) }
	described := listing.Describe(d.Blocks, &f.Values, Description(m.Item.Description, n.Description.HTML), kept, n.Description.HTML)
	if from := f.From["description"]; from.Kind == FromPerson {
		from.Without = described
		f.From["description"] = from
	} else if described != "" {
		f.Values.Description, f.From["description"] = described, From{Kind: FromTemplate}
	}
}

// placeTerms are the selling terms as a place is given them.
func (p *Prepared) placeTerms(l *store.Listing) *place.Terms {
	t := &p.Terms
	if p.TermsName == "" {
		return nil
	}
	out := &place.Terms{HandlingDays: t.HandlingDays, From: t.From, Collection: t.Collection, ReturnsDays: t.ReturnsDays, ReturnsPaid: t.ReturnsPaid, Warranty: t.Warranty,
		Invoice: t.Invoice, Days: t.Days, Offers: t.Offers}
	for _, d := range t.Delivery {
		out.Delivery = append(out.Delivery, place.Delivery(d))
	}
	if l.Price != nil && l.Floor != nil {
		if lowest, ok := t.Lowest(*l.Price, *l.Floor); ok {
			out.LowestOffer = money.Of(lowest, money.Currency(l.Currency)).String()
		}
	}
	return out
}

// TermsNames are the names of the site's selling terms.
func (a *Asking) TermsNames() []string {
	return slices.AppendSeq([]string{}, slices.Values(slices.Sorted(maps.Keys(a.terms))))
}

// Axes are the attributes that set variants apart.
var Axes = []string{"colour", "size", "material"}

// Group is what joins the variants of a product on a place; "" where it is none.
func Group(m *store.Material) string {
	if m.Product.FamilyID == nil {
		return ""
	}
	return fmt.Sprintf("family-%d", *m.Product.FamilyID)
}

package preparing

import (
	"context"
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"easymargin/core/listing"
	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SiteDefaults is what holds for a site's own listings unless one says otherwise.
type SiteDefaults struct {
	Categories []CategoryDefaults `json:"categories" doc:"Those that are used or say something; the first is every category"`
	Terms      []NamedTerms       `json:"terms"`
	Brands     []BrandAsked       `json:"brands" doc:"Brands that the place was asked to take"`
	Learnt     []LearntCategory   `json:"learnt" doc:"Which of its categories a supplier's is"`
}

// CategoryDefaults is what holds in one category.
type CategoryDefaults struct {
	Category string          `json:"category" doc:"Ref; empty is every category"`
	Path     string          `json:"path"`
	Listings int64           `json:"listings"`
	Defaults reckon.Defaults `json:"defaults"`
}

// NamedTerms are selling terms with their name.
type NamedTerms struct {
	Name  string        `json:"name"`
	Terms listing.Terms `json:"terms"`
	Of    []string      `json:"of" doc:"Paths of the categories whose terms they are"`
}

// LearntCategory is which of a site's categories a supplier's is.
type LearntCategory struct {
	Ours     string `json:"ours"`
	Category string `json:"category" doc:"Ref"`
	Path     string `json:"path"`
}

// Touched is whom a change would touch.
type Touched struct {
	Listings int      `json:"listings" doc:"That would say something else"`
	Live     int      `json:"live" doc:"Of them, on sale"`
	Ready    int      `json:"ready" doc:"Of them, would lack nothing any more"`
	Lacking  int      `json:"lacking" doc:"Of them, would lack something then"`
	Titles   []string `json:"titles" doc:"The first ten"`
}

// Defaults are a site's.
func (st *Stop) Defaults(ctx context.Context, siteID int64) (SiteDefaults, error) {
	out := SiteDefaults{Categories: []CategoryDefaults{}, Terms: []NamedTerms{}, Brands: []BrandAsked{}, Learnt: []LearntCategory{}}
	tx := st.Store.Reading(ctx)
	if _, err := tx.SiteOf(siteID); err != nil {
		return out, err
	}
	cats, err := tx.CategoriesOf(siteID)
	if err != nil {
		return out, err
	}
	used, err := tx.OwnCategories(siteID)
	if err != nil {
		return out, err
	}
	kept, err := tx.CategoryDefaults(siteID)
	if err != nil {
		return out, err
	}
	path := map[string]string{"": "Every category"}
	for _, c := range append([]CategoryPath{{Ref: "", Path: path[""]}}, paths(cats)...) {
		path[c.Ref] = c.Path
		row, says := kept[c.Ref]
		if !says && used[c.Ref] == 0 && c.Ref != "" {
			continue
		}
		x := CategoryDefaults{Category: c.Ref, Path: c.Path, Listings: used[c.Ref]}
		if says {
			if err := json.Unmarshal([]byte(row.Defaults), &x.Defaults); err != nil {
				return out, err
			}
		}
		out.Categories = append(out.Categories, x)
	}
	terms, err := tx.SellingTerms(siteID)
	if err != nil {
		return out, err
	}
	for _, t := range terms {
		x := NamedTerms{Name: t.Name, Of: []string{}}
		if err := json.Unmarshal([]byte(t.Terms), &x.Terms); err != nil {
			return out, err
		}
		for _, c := range out.Categories {
			if c.Defaults.Terms == t.Name {
				x.Of = append(x.Of, c.Path)
			}
		}
		out.Terms = append(out.Terms, x)
	}
	words, err := tx.CategoryWords(siteID)
	if err != nil {
		return out, err
	}
	for _, w := range words {
		out.Learnt = append(out.Learnt, LearntCategory{w.Ours, w.Category, path[w.Category]})
	}
	out.Brands, err = brandsAsked(tx, siteID)
	return out, err
}

// SetDefaults keeps what holds in a category; without keep it only says whom
// that would touch.
func (st *Stop) SetDefaults(ctx context.Context, siteID int64, category string, d reckon.Defaults, keep bool) (Touched, error) {
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return Touched{}, err
	}
	if err := checkDefaults(tx, &site, category, &d); err != nil {
		return Touched{}, err
	}
	touched, err := st.touched(tx, &site, func(a *reckon.Asking) { a.Suppose(category, &d, "", nil) })
	if err != nil || !keep {
		return touched, err
	}
	text, err := json.Marshal(d)
	if err != nil {
		return touched, err
	}
	return touched, st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.PutCategoryDefault(st.Now(), store.CategoryDefault{SiteID: siteID, Category: category, Defaults: string(text), Actor: actor.Of(ctx), At: st.Now()}),
			tx.Note(st.Now(), "defaults set", site.Name, category))
	})
}

// checkDefaults says what is wrong with what is to hold in a category.
func checkDefaults(tx store.Tx, site *store.Site, category string, d *reckon.Defaults) error {
	cats, err := tx.CategoriesOf(site.ID)
	if err != nil {
		return err
	}
	if category != "" && !slices.ContainsFunc(cats, func(c store.Category) bool { return c.Ref == category }) {
		return fault.At("category", "%s has no category %q", site.Name, category)
	}
	for i := range d.Blocks {
		if err := d.Blocks[i].Valid(); err != nil {
			return fault.At("blocks", "part %d of the description: %v", i+1, err)
		}
	}
	named := map[[2]string]bool{}
	for i, t := range d.Texts {
		key := [2]string{reckon.Folded(t.Name), reckon.Folded(t.Brand)}
		if named[key] || key[0] == "" || strings.TrimSpace(t.Text) == "" {
			return fault.At("texts", "kept text %d needs words, and a name that no other of its brand has", i+1)
		}
		named[key] = true
	}
	for field := range d.Values {
		if !reckon.Sayable(field) || field == reckon.TermsField {
			return fault.At("values", "%q is nothing that can be said of a listing", field)
		}
	}
	if d.Terms == "" {
		return nil
	}
	terms, err := tx.SellingTerms(site.ID)
	if err == nil && !slices.ContainsFunc(terms, func(t store.SellingTerms) bool { return t.Name == d.Terms }) {
		err = fault.At("terms", "%s has no selling terms called %q", site.Name, d.Terms)
	}
	return err
}

// SetTerms keeps selling terms under a name; without keep it only says whom that
// would touch.
func (st *Stop) SetTerms(ctx context.Context, siteID int64, name string, t listing.Terms, keep bool) (Touched, error) {
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return Touched{}, err
	}
	if name = strings.TrimSpace(name); name == "" {
		return Touched{}, fault.At("name", "give the terms a name")
	}
	if err := t.Valid(money.Currency(site.Currency)); err != nil {
		return Touched{}, fault.At("terms", "%v", err)
	}
	touched, err := st.touched(tx, &site, func(a *reckon.Asking) { a.Suppose("", nil, name, &t) })
	if err != nil || !keep {
		return touched, err
	}
	text, err := json.Marshal(t)
	if err != nil {
		return touched, err
	}
	return touched, st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.PutSellingTerms(st.Now(), store.SellingTerms{SiteID: siteID, Name: name, Terms: string(text), Actor: actor.Of(ctx), At: st.Now()}),
			tx.Note(st.Now(), "selling terms set", site.Name, name))
	})
}

// DropTerms forgets selling terms that no category has.
func (st *Stop) DropTerms(ctx context.Context, siteID int64, name string) error {
	all, err := st.Defaults(ctx, siteID)
	if err != nil {
		return err
	}
	for _, t := range all.Terms {
		if t.Name == name && len(t.Of) > 0 {
			return fault.New(fault.Conflict, "%s are the terms of %s; choose others there first", name, strings.Join(t.Of, ", "))
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.DropSellingTerms(st.Now(), siteID, name), tx.Note(st.Now(), "selling terms dropped", name, ""))
	})
}

// mostTouched is the most listings that are looked at for whom a change touches.
const mostTouched = 10_000

// touched tells which listings of a site would say something else if it were as
// change has it.
func (st *Stop) touched(tx store.Tx, site *store.Site, change func(*reckon.Asking)) (Touched, error) {
	out := Touched{Titles: []string{}}
	now, err := reckon.OpenAsking(tx, site)
	if err != nil {
		return out, err
	}
	then, err := reckon.OpenAsking(tx, site)
	if err != nil {
		return out, err
	}
	change(then)
	ids, err := tx.OwnListings(site.ID, mostTouched)
	if err != nil {
		return out, err
	}
	listings, err := tx.ListingsOf(ids)
	if err != nil {
		return out, err
	}
	materials, err := tx.Materials(ids)
	if err != nil {
		return out, err
	}
	for _, id := range ids {
		l, m := listings[id], materials[id]
		if m == nil {
			continue
		}
		before, err := now.Prepare(m, &l)
		if err != nil {
			continue // it says so itself
		}
		after, err := then.Prepare(m, &l)
		if err != nil {
			return out, fault.New(fault.Invalid, "%s: %v", l.SKU, err)
		}
		if reflect.DeepEqual(before.Content(&l), after.Content(&l)) && before.Stops() == after.Stops() {
			continue
		}
		out.Listings++
		if l.ConfirmedPrice != nil {
			out.Live++
		}
		if before.Stops() > 0 && after.Stops() == 0 {
			out.Ready++
		}
		if before.Stops() == 0 && after.Stops() > 0 {
			out.Lacking++
		}
		if len(out.Titles) < 10 {
			out.Titles = append(out.Titles, after.Report.Title)
		}
	}
	return out, nil
}

// Described is what a template would make of one listing.
type Described struct {
	Text   string `json:"text" doc:"As buyers get it: safe HTML where markup, else plain"`
	Markup bool   `json:"markup"`
	Words  string `json:"words" doc:"What would be wrong with it"`
}

// Describe shows what a template would make of a listing's description.
func (st *Stop) Describe(ctx context.Context, id int64, blocks []listing.Block, texts []reckon.KeptText) (Described, error) {
	for i := range blocks {
		if err := blocks[i].Valid(); err != nil {
			return Described{}, fault.At("blocks", "part %d of the description: %v", i+1, err)
		}
	}
	x, err := load(st.Store.Reading(ctx), id)
	if err != nil {
		return Described{}, err
	}
	delete(x.material.Said, "description")
	x.asking.Suppose(x.listing.Category, &reckon.Defaults{Blocks: blocks, Texts: texts}, "", nil)
	p, err := x.asking.Prepare(x.material, &x.listing)
	if err != nil {
		return Described{}, fault.New(fault.Invalid, "%v", err)
	}
	out := Described{Text: p.ForBuyers()}
	if d := p.Asked.Needs.Description; d != nil {
		out.Markup = len(d.HTML) > 0
	} else {
		out.Words = "the place has no descriptions here"
	}
	for _, y := range p.Report.Problems {
		if y.Field == "description" {
			out.Words = reckon.ProblemWords(y)
		}
	}
	return out, nil
}

package reckon

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"easymargin/core/form"
	"easymargin/core/ident"
	"easymargin/core/listing"
	"easymargin/core/money"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Asking is what a site asks of listings of our own, by category, with our words
// for its values. It is for one goroutine.
type Asking struct {
	currency money.Currency
	demands  map[string]store.Demand
	parents  map[string]string
	words    map[[3]string]string // category, attribute, our word folded → theirs
	ready    map[string]*Asked
	noMarks  bool
	sheet    bool                     // it takes a sheet, and with it pictures by their address alone
	barred   map[string]bool          // categories that we have no leave to sell in
	defaults map[string]Defaults      // by category
	terms    map[string]listing.Terms // by name
	given    map[string]bool          // brands that a person was told are on the register
}

// Asked is what one category asks for, made ready.
type Asked struct {
	Needs   listing.Needs
	Demand  *store.Demand // nil where nothing was read of it
	checker *listing.Checker
}

// NeedsContent tells whether listings of a site have words and pictures of our
// own: in a shared catalogue the entry has them.
func NeedsContent(site *store.Site) bool {
	switch site.Kind {
	case place.KindOwn, place.KindSheet, place.KindHand, place.KindShop:
		return true
	}
	return false
}

// Writes tells whether listings of a site may have words and pictures of our own:
// all of them, or in a shared catalogue those that make a new entry.
func Writes(site *store.Site) bool { return NeedsContent(site) || site.Kind == place.KindCatalogue }

// OpenAsking reads what a site asks for.
func OpenAsking(tx store.Tx, site *store.Site) (*Asking, error) {
	a := &Asking{currency: money.Currency(site.Currency), parents: map[string]string{}, words: map[[3]string]string{}, ready: map[string]*Asked{}, noMarks: site.NoMarks, sheet: site.Kind == place.KindSheet, barred: map[string]bool{}}
	var err error
	if a.demands, err = tx.Demands(site.ID); err != nil {
		return nil, err
	}
	cats, err := tx.CategoriesOf(site.ID)
	if err != nil {
		return nil, err
	}
	for _, c := range cats {
		a.parents[c.Ref] = c.Parent
		if c.NeedsLeave {
			a.barred[c.Ref] = true
		}
	}
	leaves, err := tx.LeavesGiven(site.ID)
	if err != nil {
		return nil, err
	}
	for category, given := range leaves {
		if given {
			delete(a.barred, category)
		}
	}
	if err := a.openDefaults(tx, site.ID); err != nil {
		return nil, err
	}
	words, err := tx.ValueWords(site.ID)
	for _, w := range words {
		a.words[[3]string{w.Category, w.Attribute, w.Ours}] = w.Theirs
	}
	return a, err
}

// parts are what a title is made of where a place doesn't say.
var parts = []string{"brand", "kind"}

// For is what a category asks for: its own demands, else those of the nearest
// one above it that has some.
func (a *Asking) For(category string) (*Asked, error) {
	if x, ok := a.ready[category]; ok {
		return x, nil
	}
	x := &Asked{}
	for at, seen := category, []string{}; ; at = a.parents[at] {
		if d, ok := a.demands[at]; ok {
			n, err := ReadNeeds([]byte(d.Needs))
			if err != nil {
				return nil, fmt.Errorf("what is asked for in %q: %w", at, err)
			}
			x.Needs, x.Demand = *n, &d
			break
		}
		if at == "" || slices.Contains(seen, at) {
			break
		}
		seen = append(seen, at)
	}
	if b := x.Needs.Brand; b != nil && len(a.given) > 0 {
		longer := *b
		longer.Register = slices.Concat(b.Register, slices.Sorted(maps.Keys(a.given)))
		x.Needs.Brand = &longer
	}
	title := listing.Title{}
	if x.Needs.Title != nil {
		title = *x.Needs.Title
	}
	if len(title.Parts) == 0 {
		title.Parts = parts
		x.Needs.Title = &title
	}
	var err error
	if x.checker, err = x.Needs.Ready(a.currency); err != nil {
		return nil, err
	}
	a.ready[category] = x
	return x, nil
}

// TitleParts is the field that says which parts a title is made of, in their
// order, where they aren't the place's.
const TitleParts = "title.parts"

// parted is what a category asks for with a title of other parts.
func (a *Asking) parted(asked *Asked, category string, parts []string) (*Asked, error) {
	key := category + "\x00" + strings.Join(parts, "\x00")
	if x, ok := a.ready[key]; ok {
		return x, nil
	}
	x := &Asked{Needs: asked.Needs, Demand: asked.Demand}
	title := *asked.Needs.Title
	title.Parts = parts
	title.FirstToGo = slices.DeleteFunc(slices.Clone(title.FirstToGo), func(p string) bool { return !slices.Contains(parts, p) })
	x.Needs.Title = &title
	var err error
	x.checker, err = x.Needs.Ready(a.currency)
	a.ready[key] = x
	return x, err
}

// ReadNeeds reads what a category asks for, strictly: docs/definitions/listing.md, section 1.
func ReadNeeds(text []byte) (*listing.Needs, error) {
	var n listing.Needs
	err := form.Into("needs", text, &n)
	return &n, err
}

// Prepared is a listing of our own as it would go up, and what it lacks.
type Prepared struct {
	Filled
	Asked  *Asked
	Report listing.Report
}

// Prepare fills a listing from what is known and checks it.
func (a *Asking) Prepare(m *store.Material, l *store.Listing) (Prepared, error) {
	asked, err := a.For(l.Category)
	if err != nil {
		return Prepared{}, err
	}
	p := Prepared{Filled: a.fill(m, l, &asked.Needs), Asked: asked}
	if len(p.parts) > 0 {
		if asked, err = a.parted(asked, l.Category, p.parts); err != nil {
			return Prepared{}, err
		}
		p.Asked = asked
	}
	p.Report, err = asked.checker.Check(&p.Values, l.EntryID != nil)
	if l.Category == "" && l.EntryID == nil && len(a.parents) > 0 { // what it needs isn't known before
		p.Report.Problems = append(p.Report.Problems, listing.Problem{Field: "category", Code: "missing", Level: listing.Stops})
		p.Report.Needed[1]++
	}
	if l.Category != "" && l.EntryID == nil && asked.Demand == nil && len(a.demands) > 0 {
		p.Report.Problems = append(p.Report.Problems, listing.Problem{Field: "category", Code: "not known", Level: listing.Stops})
	}
	if a.barred[l.Category] {
		p.Report.Problems = append(p.Report.Problems, listing.Problem{Field: "category", Code: "needs leave", Level: listing.Stops})
	}
	for i := range p.Pictures {
		if c := &p.Pictures[i]; a.sheet && (c.Address == "" || !c.Recipe.Nothing()) {
			p.Report.Problems = append(p.Report.Problems, listing.Problem{Field: fmt.Sprintf("pictures.%d", i+1), Code: "no address", Level: listing.Stops})
		}
		if a.noMarks && p.Pictures[i].Recipe.Caption != "" {
			p.Report.Problems = append(p.Report.Problems, listing.Problem{Field: fmt.Sprintf("pictures.%d", i+1), Code: "caption", Level: listing.Stops})
		}
	}
	return p, err
}

// Change is what differs between what the listing says at its place and what it
// is to say; nothing where that isn't known.
func (p *Prepared) Change(m *store.Material, l *store.Listing) (place.Change, error) {
	if m.There == "" || l.ConfirmedPrice == nil {
		return place.Change{}, nil
	}
	var there place.Content
	if err := json.Unmarshal([]byte(m.There), &there); err != nil {
		return place.Change{}, fmt.Errorf("what %s says there: %w", l.SKU, err)
	}
	return place.ChangeOf(&there, p.Content(l))
}

// Row is how far the listing is, as it is kept.
func (p *Prepared) Row(l *store.Listing) (store.Preparation, error) {
	lacks, err := json.Marshal(p.Report.Problems)
	row := store.Preparation{ListingID: l.ID, SiteID: l.SiteID, Title: p.Report.Title, Done: int64(p.Report.Needed[0]), Needed: int64(p.Report.Needed[1]),
		Helped: int64(p.Report.Helps[0]), Helps: int64(p.Report.Helps[1]), Lacks: string(lacks)}
	row.Stops = int64(p.Stops())
	return row, err
}

// Untold is what is kept of a listing of which can't be told what it lacks.
func Untold(why error) string {
	text, err := json.Marshal([]listing.Problem{{Field: "check", Code: "can't be done: " + why.Error(), Level: listing.Stops}})
	if err != nil {
		return "[]"
	}
	return string(text)
}

// ForBuyers is the description as buyers get it.
func (p *Prepared) ForBuyers() string {
	d := p.Asked.Needs.Description
	if d == nil {
		return "" // the place has none
	}
	return ForBuyers(p.Values.Description, d.HTML)
}

// Stops is how many things stop the listing, its price apart: without one it
// waits at Price, and there is nothing to prepare.
func (p *Prepared) Stops() int {
	n := 0
	for _, x := range p.Report.Problems {
		if x.Level == listing.Stops && !(x.Field == "price" && x.Code == "missing") {
			n++
		}
	}
	return n
}

// Content is the listing as a place is given it.
func (p *Prepared) Content(l *store.Listing) *place.Content {
	v := &p.Values
	c := &place.Content{Category: l.Category, Number: ident.Read(v.Number).Shown, Brand: v.Brand, Title: p.Report.Title, Description: p.ForBuyers(),
		Attributes: p.Report.Attributes, ListPrice: v.ListPrice, Former: v.Former, Terms: p.placeTerms(l)}
	if c.Group = p.group; c.Group != "" {
		c.Axes = map[string]string{}
		for _, ref := range Axes {
			if value := p.Report.Attributes[ref]; value != "" {
				c.Axes[ref] = value
			}
		}
	}
	for _, w := range v.Words {
		if w != "" {
			c.Words = append(c.Words, w)
		}
	}
	for i := range p.Pictures {
		c.Pictures, c.Texts = append(c.Pictures, p.Pictures[i].named()), append(c.Texts, p.Seen(i))
	}
	if v.Package != nil {
		c.Package = &place.Packed{Weight: v.Package.Weight, Length: v.Package.Length, Width: v.Package.Width, Height: v.Package.Height}
	}
	return c
}

// problemWords say for people what is wrong with a field.
var problemWords = map[string]string{
	"missing": "is missing", "characters": "has a character that can't be in it", "too long": "is too long", "wrong": "is no number that can be sold under",
	"not on the register": "is not on the place's register", "forbidden words": "has words that the place forbids", "too short": "is too short",
	"tags": "has a tag that the place doesn't take", "does not apply": "doesn't apply here and isn't sent", "not a number": "is not a number",
	"no such unit": "has a unit that isn't taken", "too many decimals": "has too many decimals", "too small": "is too small", "too large": "is too large",
	"not one of": "is none of the place's values", "too many": "are too many", "not yes or no": "is neither yes nor no", "not a date": "is not a date",
	"needs leave": "needs leave of the place", "not known": "has needs that aren't known yet: have them read, or bring in its sheet", "no address": "has no address of its own as it is, and a sheet takes no other", "caption": "has a caption, which the place forbids", "not a link": "is not an address of a page", "twice": "stands there twice", "wrong kind": "is of a kind that isn't taken", "not square": "is not square",
	"too heavy": "has too many bytes", "too few": "are too few", "over the list price": "is over the list price",
	"not above the price": "is not above the price", "too far": "says that more is saved than the place allows",
}

// ProblemWords say what is wrong with a field, in a few words: "capacity is missing".
func ProblemWords(p listing.Problem) string {
	name := strings.TrimPrefix(strings.TrimPrefix(p.Field, "attributes."), "package.")
	name = strings.NewReplacer("_", " ", ".", " ").Replace(name)
	return name + " " + cmp.Or(problemWords[p.Code], p.Code)
}

// FirstWords say the first thing that stops a listing; "" where nothing does.
func (p *Prepared) FirstWords() string {
	for _, x := range p.Report.Problems {
		if x.Level == listing.Stops {
			return ProblemWords(x)
		}
	}
	return ""
}

// Applies tells of the attribute of a place in the needs whether its conditions hold.
func (p *Prepared) Applies(i int) bool { return p.Asked.checker.Applies(&p.Values, false, i) }

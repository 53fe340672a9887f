package preparing

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/listing"
	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// BlankView is a blank that is kept: a place's own sheet for a category.
type BlankView struct {
	Category string    `json:"category" doc:"Ref; empty: changes of price and stock"`
	Path     string    `json:"path"`
	Name     string    `json:"name"`
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Filled   int       `json:"filled" doc:"Columns that are filled"`
}

// BlankLook is what is recognised of a blank that was dropped. Nothing of it is
// kept yet.
type BlankLook struct {
	Token    string       `json:"token" doc:"Names it when it is kept"`
	Name     string       `json:"name"`
	Sheets   []BlankSheet `json:"sheets" doc:"Those that have a header; the likeliest first"`
	Category string       `json:"category" doc:"Ref of the one it seems to be for; empty: none"`
	Paths    []string     `json:"paths" doc:"What columns can be filled from"`
}

// BlankSheet is a sheet of a blank.
type BlankSheet struct {
	Name      string        `json:"name" doc:"Empty: a text, which has none"`
	HeaderRow int           `json:"header_row"`
	FirstRow  int           `json:"first_row"`
	Columns   []BlankColumn `json:"columns"`
}

// BlankColumn is a column of a blank, and what it would be filled with.
type BlankColumn struct {
	Header  string   `json:"header"`
	Needed  *bool    `json:"needed" doc:"None: the blank marks no column"`
	Values  []string `json:"values" doc:"Of its drop-down"`
	Example string   `json:"example"`
	Fill    Filling  `json:"fill"`
}

// Filling is what a column is filled with: from a path of a listing, or a text.
type Filling struct {
	From  string `json:"from,omitempty" maxLength:"120"`
	Value string `json:"value,omitempty" maxLength:"1000"`
	As    string `json:"as,omitempty" enum:",number,date"`
	Join  string `json:"join,omitempty" maxLength:"5"`
}

// BlankChoice is how a blank is kept.
type BlankChoice struct {
	Token     string       `json:"token" maxLength:"40"`
	Name      string       `json:"name" maxLength:"300"`
	Category  string       `json:"category" doc:"Ref; empty: changes of price and stock"`
	Also      []string     `json:"also,omitempty" maxItems:"200" doc:"Refs of further categories that it is for: their listings go in one file"`
	Sheet     string       `json:"sheet,omitempty"`
	HeaderRow int          `json:"header_row" minimum:"1"`
	FirstRow  int          `json:"first_row" minimum:"1"`
	Columns   []FilledAs   `json:"columns" maxItems:"2000"`
	Output    blank.Output `json:"output"`
}

// FilledAs is a column and what it is filled with, in the order of the sheet.
type FilledAs struct {
	Header string  `json:"header" maxLength:"1000"`
	Fill   Filling `json:"fill"`
}

// BlankKept is what keeping a blank came to.
type BlankKept struct {
	Changes  []string `json:"changes" doc:"In what the category asks for something else than before, in words"`
	Listings int64    `json:"listings" doc:"Of ours there, looked at again"`
	Without  []string `json:"without" doc:"Needed columns that are filled with nothing"`
}

// paths are what columns can be filled from, beside attributes.
var fillPaths = []string{"sku", "number", "brand", "title", "description", "price", "list_price", "former", "quantity", "entry", "category", "group",
	"words", "pictures", "package.weight", "package.length", "package.width", "package.height", "do", "terms.handling_days", "terms.returns_days", "terms.warranty", "terms.from"}

// Blanks are those of a site.
func (st *Stop) Blanks(ctx context.Context, siteID int64) ([]BlankView, error) {
	tx := st.Store.Reading(ctx)
	list, err := tx.Blanks(siteID)
	if err != nil {
		return nil, err
	}
	cats, err := tx.CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	named := map[string]string{"": "Changes of price and stock"}
	for _, p := range paths(cats) {
		named[p.Ref] = p.Path
	}
	out := []BlankView{}
	for _, b := range list {
		var l blank.Layout
		if err := json.Unmarshal([]byte(b.Layout), &l); err != nil {
			return nil, err
		}
		out = append(out, BlankView{b.Category, cmp.Or(named[b.Category], b.Category), b.Name, b.Actor, b.At, len(l.Columns)})
	}
	return out, nil
}

// LookBlank keeps a blank in the inbox and says what is recognised of it: each
// column is filled as one of its name was before, else as its name says.
func (st *Stop) LookBlank(ctx context.Context, siteID int64, name string, raw []byte) (BlankLook, error) {
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return BlankLook{}, err
	}
	if site.Kind != place.KindSheet && site.Marketplace.Address != "" {
		return BlankLook{}, fault.New(fault.Conflict, "%s takes listings by its gateway: it needs no sheets", site.Name)
	}
	b, err := blank.Read(raw)
	if err != nil {
		return BlankLook{}, fault.New(fault.Invalid, "%s: %v", stops.Clip(name, 100), err)
	}
	sheets, err := b.Sheets()
	if err != nil {
		return BlankLook{}, err
	}
	best, ok := blank.Template(sheets)
	if !ok {
		return BlankLook{}, fault.New(fault.Invalid, "%s has no header row: a row with at least two names of columns. Is it the blank that the place gives sellers?", stops.Clip(name, 100))
	}
	before, err := filledBefore(tx, siteID)
	if err != nil {
		return BlankLook{}, err
	}
	out := BlankLook{Token: rand.Text(), Name: stops.Clip(name, 300), Sheets: []BlankSheet{}, Paths: fillPaths}
	slices.SortStableFunc(sheets, func(a, c blank.Sheet) int {
		first := func(s blank.Sheet) int {
			if s.Name != nil && best.Name != nil && *s.Name != *best.Name {
				return 1
			}
			return 0
		}
		return first(a) - first(c)
	})
	for i := range sheets {
		out.Sheets = append(out.Sheets, lookedSheet(&sheets[i], before))
	}
	if out.Category, err = categoryNamed(tx, siteID, name, &best); err != nil {
		return out, err
	}
	return out, os.WriteFile(st.Store.Inbox(out.Token), raw, 0o600)
}

func lookedSheet(s *blank.Sheet, before map[string]Filling) BlankSheet {
	out := BlankSheet{HeaderRow: s.HeaderRow, FirstRow: s.FirstRow, Columns: []BlankColumn{}}
	if s.Name != nil {
		out.Name = *s.Name
	}
	for _, c := range s.Columns {
		x := BlankColumn{Header: c.Header, Needed: c.Needed, Values: append([]string{}, c.Values...), Example: stops.Clip(c.Example, 200)}
		if f, known := before[c.Header]; known {
			x.Fill = f
		} else if c.Guess != nil {
			x.Fill = Filling{From: *c.Guess, As: asNumber(*c.Guess)}
		} else if ref := refOf(c.Header); ref != "" {
			x.Fill = Filling{From: "attributes." + ref}
		}
		out.Columns = append(out.Columns, x)
	}
	return out
}

// asNumber says which of the paths are figures.
func asNumber(from string) string {
	switch {
	case from == "price", from == "list_price", from == "former", from == "quantity", strings.HasPrefix(from, "package."):
		return "number"
	}
	return ""
}

var notRef = regexp.MustCompile(`[^\pL\pN]+`)

// refOf is a header as an attribute's name: without marks, in small letters.
func refOf(header string) string {
	return stops.Clip(strings.Trim(notRef.ReplaceAllString(strings.ToLower(blank.Bare(header)), "_"), "_"), 60)
}

// filledBefore is what columns of a site's blanks are filled with, by their headers.
func filledBefore(tx store.Tx, siteID int64) (map[string]Filling, error) {
	out := map[string]Filling{}
	list, err := tx.Blanks(siteID)
	for _, b := range list {
		var l blank.Layout
		if err := json.Unmarshal([]byte(b.Layout), &l); err != nil {
			return nil, err
		}
		for _, c := range l.Columns {
			f := Filling{From: c.From, As: c.As, Join: c.Join}
			if c.Value != nil {
				f.Value = *c.Value
			}
			out[c.Header] = f
		}
	}
	return out, err
}

// categoryNamed is the category whose name a blank's file or sheet has in it; ""
// where none is.
func categoryNamed(tx store.Tx, siteID int64, file string, s *blank.Sheet) (string, error) {
	cats, err := tx.CategoriesOf(siteID)
	where := strings.ToLower(file)
	if s.Name != nil {
		where += " " + strings.ToLower(*s.Name)
	}
	best := ""
	for _, c := range cats {
		if len(c.Ref) > len(best) && (strings.Contains(where, strings.ToLower(c.Ref)) || strings.Contains(where, strings.ToLower(c.Name))) {
			best = c.Ref
		}
	}
	return best, err
}

// KeepBlank keeps a blank for a category, or several, in place of their earlier
// ones. What it asks for is what they demand from now on.
func (st *Stop) KeepBlank(ctx context.Context, siteID int64, in BlankChoice) (BlankKept, error) {
	out := BlankKept{Changes: []string{}, Without: []string{}}
	gone := fault.New(fault.Conflict, "the blank is no longer here; drop it again")
	if !regexp.MustCompile(`^[A-Z2-7]{10,40}$`).MatchString(in.Token) {
		return out, gone
	}
	raw, err := os.ReadFile(st.Store.Inbox(in.Token))
	if err != nil {
		return out, gone
	}
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return out, err
	}
	cats, err := tx.CategoriesOf(siteID)
	if err != nil {
		return out, err
	}
	if in.Category == "" && len(in.Also) > 0 {
		return out, fault.At("also", "a blank for changes of price and stock is for all categories")
	}
	of := append([]string{in.Category}, in.Also...)
	for i, ref := range of {
		if ref != "" && !slices.ContainsFunc(cats, func(c store.Category) bool { return c.Ref == ref }) {
			return out, fault.At("category", "%s has no category %q", site.Name, ref)
		}
		if slices.Contains(of[:i], ref) {
			return out, fault.At("also", "the category %q is named twice", ref)
		}
	}
	layout, sheet, err := layoutOf(raw, &in)
	if err != nil {
		return out, err
	}
	nameCategories(layout, sheet, cats)
	taken := map[int]bool{}
	for _, c := range layout.Columns {
		for i := range sheet.Columns {
			if !taken[i] && sheet.Columns[i].Header == c.Header {
				taken[i] = true
				break
			}
		}
	}
	for i, c := range sheet.Columns {
		if !taken[i] && c.Needed != nil && *c.Needed {
			out.Without = append(out.Without, c.Header)
		}
	}
	text, err := json.Marshal(layout)
	if err != nil {
		return out, err
	}
	needs, err := json.Marshal(needsOf(sheet, layout))
	if err != nil {
		return out, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error { // what it asks for and the blank itself: both or neither
		tx.Changed("prepare", "listings", "counts", "places")
		used, err := tx.OwnCategories(siteID)
		if err != nil {
			return err
		}
		for _, ref := range of {
			if in.Category != "" {
				changes, err := st.keep(tx, site, ref, needs, store.DemandSheet)
				if err != nil {
					return err
				}
				for _, c := range changes {
					if !slices.Contains(out.Changes, c) {
						out.Changes = append(out.Changes, c)
					}
				}
			}
			out.Listings += used[ref]
			if err := tx.PutBlank(&store.Blank{SiteID: siteID, Category: ref, Name: stops.Clip(in.Name, 300), Content: raw, Layout: string(text),
				Actor: actor.Of(ctx), At: st.Now()}); err != nil {
				return err
			}
		}
		return tx.Note(st.Now(), "blank kept", site.Name, in.Name)
	})
	if err == nil {
		_ = os.Remove(st.Store.Inbox(in.Token))
	}
	return out, err
}

// layoutOf is the layout that a person chose, and the sheet it is for.
func layoutOf(raw []byte, in *BlankChoice) (*blank.Layout, *blank.Sheet, error) {
	l := &blank.Layout{Sheet: in.Sheet, HeaderRow: in.HeaderRow, FirstRow: in.FirstRow, Output: in.Output}
	for _, c := range in.Columns {
		if c.Fill.From == "" && c.Fill.Value == "" {
			continue
		}
		f := blank.Filled{Header: c.Header, From: c.Fill.From, As: c.Fill.As, Join: c.Fill.Join}
		if c.Fill.Value != "" {
			f.From, f.Value = "", &c.Fill.Value
		}
		l.Columns = append(l.Columns, f)
	}
	if len(l.Columns) == 0 {
		return nil, nil, fault.At("columns", "choose what at least one column is filled with")
	}
	if !slices.ContainsFunc(l.Columns, func(c blank.Filled) bool { return c.From == "sku" }) {
		return nil, nil, fault.At("columns", "no column is filled with the SKU: its report could never be read")
	}
	if err := l.Valid(); err != nil {
		return nil, nil, err
	}
	b, err := blank.Read(raw)
	if err != nil {
		return nil, nil, err
	}
	sheets, err := b.Sheets()
	if err != nil {
		return nil, nil, err
	}
	for i := range sheets {
		if sheets[i].Name == nil || *sheets[i].Name == in.Sheet {
			return l, &sheets[i], nil
		}
	}
	return nil, nil, fault.At("sheet", "the blank has no sheet %q", in.Sheet)
}

// nameCategories has a column of categories say each as its drop-down does.
func nameCategories(l *blank.Layout, s *blank.Sheet, cats []store.Category) {
	for i := range l.Columns {
		f := &l.Columns[i]
		at := slices.IndexFunc(s.Columns, func(c blank.Column) bool { return c.Header == f.Header })
		if f.From != "category" || at < 0 {
			continue
		}
		f.Map = map[string]string{}
		for _, c := range cats {
			for _, v := range s.Columns[at].Values {
				if strings.EqualFold(v, c.Name) || strings.EqualFold(v, c.Ref) {
					f.Map[c.Ref] = v
				}
			}
		}
	}
}

// needsOf is what a sheet asks for, in the form of docs/definitions/listing.md, section 1:
// what is said of a column is said of what it is filled with.
func needsOf(s *blank.Sheet, l *blank.Layout) *listing.Needs {
	n := &listing.Needs{}
	taken := map[int]bool{}
	pictures := &listing.Pictures{}
	for _, f := range l.Columns {
		i := slices.IndexFunc(s.Columns, func(c blank.Column) bool { return c.Header == f.Header })
		for i >= 0 && taken[i] {
			next := slices.IndexFunc(s.Columns[i+1:], func(c blank.Column) bool { return c.Header == f.Header })
			if next < 0 {
				i = -1
				break
			}
			i += next + 1
		}
		if i < 0 || f.From == "" {
			continue
		}
		taken[i] = true
		askColumn(n, pictures, &s.Columns[i], &f)
	}
	if pictures.Most != nil || pictures.Least > 0 {
		n.Pictures = pictures
	}
	return n
}

func askColumn(n *listing.Needs, pictures *listing.Pictures, c *blank.Column, f *blank.Filled) {
	needed := c.Needed != nil && *c.Needed
	limit := func() *int64 {
		if c.Most() == 0 {
			return nil
		}
		most := int64(c.Most())
		return &most
	}
	need := ""
	if needed {
		need = listing.Needed
	}
	switch from := f.From; {
	case from == "title":
		n.Title = &listing.Title{Limit: limit(), Counts: "utf16"}
	case from == "description":
		n.Description = &listing.Description{Limit: limit(), Counts: "utf16"}
		if needed {
			n.Description.Least = 1
		}
	case from == "number":
		n.Number = need
	case from == "brand" && len(c.Values) > 0:
		n.Brand = &listing.Brand{Register: c.Values}
	case from == "pictures":
		if needed && pictures.Least == 0 {
			pictures.Least = 1
		}
	case strings.HasPrefix(from, "pictures."):
		at, err := strconv.ParseInt(strings.TrimPrefix(from, "pictures."), 10, 64)
		if err != nil {
			return
		}
		if pictures.Most == nil || *pictures.Most < at {
			pictures.Most = &at
		}
		if needed {
			pictures.Least = max(pictures.Least, at)
		}
	case strings.HasPrefix(from, "package.") && needed:
		if n.Package == nil {
			n.Package = &listing.Package{}
		}
		if from == "package.weight" {
			n.Package.Weight = []int64{1, 1_000_000}
		} else {
			n.Package.Side = 100_000
		}
	case strings.HasPrefix(from, "attributes."):
		a := listing.Attribute{Ref: strings.TrimPrefix(from, "attributes."), Kind: "text", Need: need, Limit: limit()}
		switch {
		case len(c.Values) > 0:
			a.Kind, a.Values, a.Limit = "choice", c.Values, nil
		case f.As == "number":
			a.Kind, a.Limit = "number", nil
		case f.As == "date":
			a.Kind, a.Limit = "date", nil
		}
		if !slices.ContainsFunc(n.Attributes, func(x listing.Attribute) bool { return x.Ref == a.Ref }) {
			n.Attributes = append(n.Attributes, a)
		}
	}
}

// LayoutOf is the layout of a category's blank, as it can be exported and given
// to easymargin fill.
func (st *Stop) LayoutOf(ctx context.Context, siteID int64, category string) (json.RawMessage, error) {
	b, there, err := st.Store.Reading(ctx).BlankOf(siteID, category)
	if err == nil && !there {
		err = store.ErrMissing
	}
	return json.RawMessage(b.Layout), err
}

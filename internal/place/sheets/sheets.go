// Package sheets makes an outlet of a place that takes no lines. Where it takes
// filled sheets, what is handed over becomes files in the place's own form, which a
// person uploads there; what the place says is read of its reports. Where it has
// neither, each line becomes a task for a person, who says what became of it. All that is
// promised of a send-out, that nothing goes twice above all, holds for them too.
package sheets

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/money"
	"easymargin/internal/blank"
	"easymargin/internal/place"
)

// Blank is a place's sheet for a category, and what its columns are filled with.
type Blank struct {
	Name    string
	Content []byte
	Layout  blank.Layout
}

// File is a filled sheet. Its rows are those of the lines, in their order; changes of
// price and of stock of one SKU are one row.
type File struct {
	Category string // "": changes of price and stock, and offers on entries
	Name     string
	Content  []byte
	Lines    []place.Line
	Rows     []int // the row of each line, from 1
}

// OnSale is what a listing asks and offers at its place, as far as is known, and what
// it may.
type OnSale struct {
	Price    *int64 // minor units; nil: it isn't there
	Quantity int64
	Offer    int64  // how many may be offered
	Floor    *int64 // the lowest price that may be asked; nil: none is known
}

// Cabinet is where blanks and filled sheets are kept.
type Cabinet interface {
	// Takes tells how a site of a place is served, and its currency.
	Takes(ctx context.Context, place, site string) (How, money.Currency, error)
	// Blank is that of a category; false where there is none.
	Blank(ctx context.Context, place, site, category string) (Blank, bool, error)
	// OnSale is what listings ask and offer there, by SKU.
	OnSale(ctx context.Context, place, site string, skus []string) (map[string]OnSale, error)
	// Keep keeps the files of a batch by its key, with lines that no file could
	// be made of; a second time it changes nothing.
	Keep(ctx context.Context, place, site, key string, files []File, refused []Refused) error
	// KeepTasks keeps the lines of a batch as tasks by its key; a second time it
	// changes nothing.
	KeepTasks(ctx context.Context, place, site, key string, lines []place.Line) error
	// Files are those of a batch, in the order in which they were made.
	Files(ctx context.Context, place, site, key string) ([]Made, error)
	// Drop forgets a batch of which no file is at its place: it is made anew.
	Drop(ctx context.Context, place, site, key string) error
	// Given notes that a door took a file, and the place's name for it.
	Given(ctx context.Context, id int64, ref string) error
	// Refs are the files of a batch that a door took and hasn't answered whole, by
	// the place's names for them.
	Refs(ctx context.Context, place, site, key string) ([]string, error)
	// Say writes down what a place says of the lines of a file.
	Say(ctx context.Context, place, site, ref string, lines []place.SheetLine) error
	// Told is what is known of a batch; false where it isn't there.
	Told(ctx context.Context, place, site, key string) (place.Batch, bool, error)
}

// Made is a file that was made.
type Made struct {
	ID      int64
	Name    string
	Content []byte
	There   bool // at its place
}

// How a site is served.
type How int

// By its gateway, by filled sheets, or by a person.
const (
	ByGateway How = iota
	BySheets
	ByHand
)

// Refused is a line that the place's sheet can't take as it is.
type Refused struct {
	Line    place.Line
	Outcome place.Outcome
}

// Open is a place whose sites that take sheets are handed files; p is what it can
// do besides.
func Open(p place.Place, c Cabinet) place.Place {
	p.Outlet = &outlet{name: p.Name, other: p.Outlet, door: p.Sheets, cabinet: c}
	return p
}

type outlet struct {
	name    string
	other   place.Outlet // for what isn't done by sheets; nil: nothing
	door    place.Sheets // takes filled sheets; nil: a person does
	cabinet Cabinet
}

// HandOver implements place.Outlet: it makes files of the lines.
func (o *outlet) HandOver(ctx context.Context, site, key string, lines []place.Line) (place.Batch, error) {
	how, currency, err := o.cabinet.Takes(ctx, o.name, site)
	if err != nil {
		return place.Batch{}, err
	}
	if how == ByGateway {
		return o.other.HandOver(ctx, site, key, lines)
	}
	if b, there, err := o.cabinet.Told(ctx, o.name, site, key); err != nil || there { // tried again: its door knows the key
		if err == nil && how == BySheets {
			err = o.give(ctx, site, key)
		}
		return b, err
	}
	if how == ByHand {
		if err := o.cabinet.KeepTasks(ctx, o.name, site, key, lines); err != nil {
			return place.Batch{}, err
		}
		b, _, err := o.cabinet.Told(ctx, o.name, site, key)
		return b, err
	}
	var files []File
	var refused []Refused
	parts, err := o.parts(ctx, site, lines)
	if err != nil {
		return place.Batch{}, err
	}
	for _, p := range parts {
		there := map[string]OnSale{}
		if p.category == "" {
			skus := make([]string, len(p.lines))
			for i := range p.lines {
				skus[i] = p.lines[i].SKU
			}
			if there, err = o.cabinet.OnSale(ctx, o.name, site, skus); err != nil {
				return place.Batch{}, err
			}
		}
		f, out, err := p.fill(o.name, site, key, currency, there)
		if err != nil {
			return place.Batch{}, err
		}
		if refused = append(refused, out...); len(f.Lines) > 0 {
			files = append(files, f)
		}
	}
	if err := o.cabinet.Keep(ctx, o.name, site, key, files, refused); err != nil {
		return place.Batch{}, err
	}
	if err := o.give(ctx, site, key); err != nil {
		return place.Batch{}, err
	}
	b, _, err := o.cabinet.Told(ctx, o.name, site, key)
	return b, err
}

func categoryOf(l *place.Line) string {
	if l.Content == nil {
		return ""
	}
	return l.Content.Category
}

// part is the lines that go into one file: those of one category, or of several
// that have the same blank.
type part struct {
	category string // the first
	blank    Blank
	lines    []place.Line
}

// parts divides lines into those that one file takes each, in their order.
func (o *outlet) parts(ctx context.Context, site string, lines []place.Line) ([]*part, error) {
	var out []*part
	of := map[string]*part{}
	for _, l := range lines {
		category := categoryOf(&l)
		p := of[category]
		if p == nil {
			b, there, err := o.cabinet.Blank(ctx, o.name, site, category)
			switch {
			case err != nil:
				return nil, err
			case !there && category != "":
				return nil, &place.Refusal{Name: o.name, Words: fmt.Sprintf("there is no blank of it for the category %s; drop the one it gives sellers under Prepare", category)}
			case !there:
				b = plain
			}
			if i := slices.IndexFunc(out, func(p *part) bool { return category != "" && p.category != "" && p.blank.same(&b) }); i >= 0 {
				p = out[i]
			} else {
				p = &part{category: category, blank: b}
				out = append(out, p)
			}
			of[category] = p
		}
		p.lines = append(p.lines, l)
	}
	return out, nil
}

// same tells whether two categories have the same blank, filled alike.
func (b *Blank) same(other *Blank) bool {
	return bytes.Equal(b.Content, other.Content) && reflect.DeepEqual(b.Layout, other.Layout)
}

// plain is the sheet of changes where a place has none of its own.
var plain = Blank{Name: "price-and-stock.csv", Content: []byte("sku,entry,price,quantity\n"), Layout: blank.Layout{
	Columns: blank.Columns{
		{Header: "sku", From: "sku"}, {Header: "entry", From: "entry"}, {Header: "price", From: "price", As: "number"},
		{Header: "quantity", From: "quantity", As: "number"},
	},
	Output: blank.Output{Kind: "csv"},
}}

// give hands the files of a batch to the place's door, if it has one: right after
// they were made, while what is in them was looked at a moment ago. At a place
// without one they wait for a person.
func (o *outlet) give(ctx context.Context, site, key string) error {
	if o.door == nil {
		return nil
	}
	files, err := o.cabinet.Files(ctx, o.name, site, key)
	if err != nil {
		return err
	}
	given := false
	for i, f := range files {
		if given = given || f.There; f.There {
			continue
		}
		ref, err := o.door.PutSheet(ctx, site, fmt.Sprintf("%s-%d", key, i+1), f.Name, f.Content)
		if place.Forgotten(err) {
			return nil // it has no door
		}
		if err != nil {
			return o.notGiven(ctx, site, key, given, err)
		}
		if err := o.cabinet.Given(ctx, f.ID, ref); err != nil {
			return err
		}
		given = true
	}
	return nil
}

// notGiven is what a door's no to a file of a batch comes to. Where none of it
// arrived its files are forgotten: tried again, it may be other lines, and what is
// offered then must be looked at then. Where another file is there already, some of
// the batch was done all the same.
func (o *outlet) notGiven(ctx context.Context, site, key string, given bool, why error) error {
	if !given && !place.Perhaps(why) {
		return errors.Join(why, o.cabinet.Drop(ctx, o.name, site, key))
	}
	if given && !place.Perhaps(why) {
		return &place.Unreachable{Name: o.name, Err: why, Perhaps: true}
	}
	return why
}

// fill makes its file. A line that the sheet can't take is refused here, in the
// words that the place of a name would use, and the others go.
func (p *part) fill(name, site, key string, c money.Currency, there map[string]OnSale) (File, []Refused, error) {
	b := p.blank
	sheet, err := blank.Read(b.Content)
	if err != nil {
		return File{}, nil, &place.Refusal{Name: name, Words: fmt.Sprintf("its blank %s can't be read any more: %v", b.Name, err)}
	}
	var refused []Refused
	var groups []group
	for _, g := range p.groups() {
		if words := g.complete(there, c); words != "" {
			refused = append(refused, g.refused("price", words)...)
			continue
		}
		groups = append(groups, g)
	}
	rows := make([]blank.Row, len(groups))
	for i := range groups {
		rows[i] = RowOf(&groups[i].row, c)
	}
	wrong := map[int]blank.Problem{} // the first of each row
	var layout []string              // what is wrong with the layout itself
	if _, err := sheet.Fill(&b.Layout, blank.List(rows), io.Discard, blank.Options{Problem: func(p blank.Problem) {
		if p.Row == 0 {
			layout = append(layout, p.Words())
		} else if _, ok := wrong[p.Row]; !ok {
			wrong[p.Row] = p
		}
	}}); err != nil {
		return File{}, nil, &place.Refusal{Name: name, Words: err.Error()}
	}
	if len(layout) > 0 {
		return File{}, nil, &place.Refusal{Name: name, Words: "its blank and what it is filled with don't fit: " + strings.Join(layout, "; ")}
	}
	f := File{Category: p.category, Name: fileName(site, p.category, key, &b)}
	var good []blank.Row
	for i := range groups {
		bad, is := wrong[i+1]
		if !is {
			good = append(good, rows[i])
			for _, l := range groups[i].lines {
				f.Lines, f.Rows = append(f.Lines, l), append(f.Rows, len(good))
			}
			continue
		}
		field := ""
		for _, col := range b.Layout.Columns {
			if col.Header == bad.Column {
				field = col.From
			}
		}
		bad.Row = 0
		refused = append(refused, groups[i].refused(field, bad.Words())...)
	}
	if len(good) == 0 {
		return f, refused, nil
	}
	var out bytes.Buffer
	res, err := sheet.Fill(&b.Layout, blank.List(good), &out, blank.Options{})
	if err == nil && !res.Written {
		err = fmt.Errorf("filling %s came out otherwise a second time", b.Name)
	}
	f.Content = out.Bytes()
	return f, refused, err
}

// group is the lines that are one row: those of a listing that is made or changed, or
// all changes of price and stock of one SKU.
type group struct {
	row   place.Line
	lines []place.Line
}

func (p *part) groups() []group {
	var out []group
	at := map[string]int{}
	for _, l := range p.lines {
		if i, known := at[l.SKU]; known && p.category == "" && l.Content == nil {
			g := &out[i]
			g.lines = append(g.lines, l)
			g.row.Price, g.row.Quantity = cmp.Or(l.Price, g.row.Price), cmp.Or(l.Quantity, g.row.Quantity)
			continue
		}
		if p.category == "" && l.Content == nil {
			at[l.SKU] = len(out)
		}
		out = append(out, group{l, []place.Line{l}})
	}
	return out
}

// complete puts in the figure that a change leaves as it is: a place that reads a blank
// cell as 0 would take the listing off sale, or give it away. Words say why it can't go.
func (g *group) complete(there map[string]OnSale, c money.Currency) string {
	x, known := there[g.row.SKU]
	if g.row.Content != nil || !known || x.Price == nil {
		return ""
	}
	if g.row.Quantity == nil {
		n := max(min(x.Quantity, x.Offer), 0)
		g.row.Quantity = &n
	}
	if g.row.Price == nil {
		if *g.row.Quantity > 0 && x.Floor != nil && *x.Price < *x.Floor {
			return fmt.Sprintf("the price that is there, %s, is under its floor of %s: its stock goes with a price that may be asked", money.Of(*x.Price, c), money.Of(*x.Floor, c))
		}
		g.row.Price = x.Price
	}
	return ""
}

func (g *group) refused(field, words string) (out []Refused) {
	for _, l := range g.lines {
		out = append(out, Refused{l, place.Outcome{Key: l.Key, State: place.Refused, Field: field, Words: words}})
	}
	return out
}

// fileName is what a filled sheet is called: its site, category and batch.
func fileName(site, category, key string, b *Blank) string {
	ext := strings.ToLower(filepath.Ext(b.Name))
	switch kind := b.Layout.Output.Kind; {
	case kind == "csv" || kind == "tsv":
		ext = "." + kind
	case kind == "xlsx" && ext != ".xlsm":
		ext = ".xlsx"
	}
	return strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, strings.ToLower(site+"-"+cmp.Or(category, "price-and-stock")+"-"+key[:min(6, len(key))])+ext)
}

// RowOf is a line as a layout's paths see it: the fields of docs/definitions/listing.md,
// section 2, with entry, quantity and do. Amounts are in major units.
func RowOf(l *place.Line, c money.Currency) blank.Row {
	r := blank.Row{"key": l.Key, "sku": l.SKU, "entry": l.Entry, "do": cmp.Or(l.Do, "change")}
	if l.Price != nil {
		r["price"] = money.Of(*l.Price, c).String()
	}
	if l.Quantity != nil {
		r["quantity"] = json.Number(strconv.FormatInt(*l.Quantity, 10))
	}
	x := l.Content
	if x == nil {
		return r
	}
	r["number"], r["brand"], r["title"], r["description"], r["category"] = x.Number, x.Brand, x.Title, x.Description, x.Category
	r["list_price"], r["former"], r["group"] = x.ListPrice, x.Former, x.Group
	r["words"], r["pictures"] = texts(x.Words), texts(x.Pictures)
	attributes := map[string]any{}
	for k, v := range x.Attributes {
		attributes[k] = v
	}
	r["attributes"] = attributes
	if p := x.Package; p != nil {
		r["package"] = map[string]any{"weight": figure(p.Weight), "length": figure(p.Length), "width": figure(p.Width), "height": figure(p.Height)}
	}
	if t := x.Terms; t != nil {
		terms := map[string]any{"from": t.From, "warranty": t.Warranty, "lowest_offer": t.LowestOffer}
		for name, n := range map[string]int64{"handling_days": t.HandlingDays, "returns_days": t.ReturnsDays, "days": t.Days} {
			terms[name] = figure(n)
		}
		r["terms"] = terms
	}
	return r
}

// figure is a figure that is given; 0 is none.
func figure(n int64) any {
	if n == 0 {
		return nil
	}
	return json.Number(strconv.FormatInt(n, 10))
}

func texts(in []string) []any {
	out := make([]any, len(in))
	for i, s := range in {
		out[i] = s
	}
	return out
}

// Follow implements place.Outlet: it is what the place's reports said.
func (o *outlet) Follow(ctx context.Context, site, id string) (place.Batch, error) {
	how, _, err := o.cabinet.Takes(ctx, o.name, site)
	if err != nil {
		return place.Batch{}, err
	}
	if how == ByGateway {
		return o.other.Follow(ctx, site, id)
	}
	refs, err := o.cabinet.Refs(ctx, o.name, site, id)
	if err != nil {
		return place.Batch{}, err
	}
	for _, ref := range refs {
		lines, err := o.door.SheetLines(ctx, site, ref)
		if err != nil && !place.Forgotten(err) {
			return place.Batch{}, err
		}
		if err := o.cabinet.Say(ctx, o.name, site, ref, lines); err != nil {
			return place.Batch{}, err
		}
	}
	b, there, err := o.cabinet.Told(ctx, o.name, site, id)
	if b.State == place.BatchResting && len(refs) > 0 {
		b.State = "working" // its door is asked again
	}
	if err == nil && !there {
		err = &place.Refusal{Name: o.name, Status: http.StatusNotFound, Words: "its files are no longer here"}
	}
	return b, err
}

// Listings implements place.Outlet. A place that can't be asked tells by its
// listing report alone.
func (o *outlet) Listings(ctx context.Context, site, after string) ([]place.Listing, string, error) {
	if o.other != nil {
		return o.other.Listings(ctx, site, after)
	}
	return nil, "", &place.Refusal{Name: o.name, Words: "it can't be asked what is listed; bring its listing report in again under Places"}
}

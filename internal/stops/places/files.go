package places

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// runFile is the reading of a place's file.
const runFile = "place file"

// A place's files are read by the reader of suppliers' files: each thing that a
// column may be stands for a field of that reader, or for none, "" in meaning.
type column struct {
	name  string   // as a person chooses it
	field string   // the reader's; "" is an attribute
	words []string // names that it is known by
	need  bool
}

// columns are what the columns of each kind of file may be.
var columns = map[string][]column{
	store.FileCatalogue: {
		{"entry", "ref", []string{"entry", "entry number", "entry no", "entry id", "catalogue number", "catalogue id", "catalogue no", "item", "item id", "item number", "page id", "product id", "id"}, true},
		{"number", "identifier", []string{"number", "ean", "gtin", "upc", "barcode", "isbn", "product number"}, false},
		{"title", "title", []string{"title", "name", "item name", "product name", "product title", "entry title"}, true},
		{"brand", "brand", []string{"brand", "manufacturer", "maker"}, false},
		{"maker's number", "mpn", []string{"mpn", "maker's number", "part number", "manufacturer part number", "model"}, false},
		{"category", "category", []string{"category", "section", "department"}, false},
		{"colour", "colour", []string{"colour", "color"}, false},
		{"size", "size", []string{"size"}, false},
		{"material", "material", []string{"material"}, false},
		{"units", "units_per_item", []string{"units", "pack", "pack size", "pack qty", "pieces", "units per item"}, false},
		{"lowest price", "cost", []string{"lowest", "lowest price", "from price", "best price"}, false},
		{"page", "link", []string{"page", "link", "url", "address", "web address"}, false},
		{"picture", "pictures", []string{"picture", "image", "photo", "image url"}, false},
	},
	store.FileListings: {
		{"SKU", "ref", []string{"sku", "seller sku", "your sku", "our sku", "your reference", "own reference", "custom label", "stock code"}, true},
		{"entry", "", []string{"entry", "entry number", "entry no", "entry id", "catalogue number", "catalogue id", "item id", "item number", "page id", "product id", "listing id", "listing number"}, false},
		{"number", "identifier", []string{"number", "ean", "gtin", "upc", "barcode", "isbn", "product number"}, false},
		{"title", "title", []string{"title", "name", "item name", "product name", "listing title"}, false},
		{"brand", "brand", []string{"brand", "manufacturer", "maker"}, false},
		{"maker's number", "mpn", []string{"mpn", "maker's number", "part number", "model"}, false},
		{"price", "cost", []string{"price", "your price", "our price", "asking price", "item price", "current price"}, true},
		{"quantity", "stock", []string{"quantity", "qty", "stock", "available", "quantity available", "in stock"}, true},
	},
}

// FileView is a file of a place: what was recognised of it, and what came of it.
type FileView struct {
	ID      int64        `json:"id"`
	SiteID  int64        `json:"site_id"`
	Kind    string       `json:"kind" enum:"catalogue,listings"`
	Name    string       `json:"name"`
	State   string       `json:"state" enum:"looked,taken,failed"`
	Columns []FileColumn `json:"columns"`
	Choices []string     `json:"choices" doc:"What a column may be"`
	Missing []string     `json:"missing" doc:"What is needed and no column is read as"`
	Rows    int64        `json:"rows"`
	New     int64        `json:"new"`
	Changed int64        `json:"changed"`
	Same    int64        `json:"same"`
	Aside   int64        `json:"aside" doc:"Rows that couldn't be read"`
	Untied  int64        `json:"untied" doc:"Offers that are tied to nothing of ours"`
	Error   string       `json:"error"`
}

// FileColumn is one column with what it is read as.
type FileColumn struct {
	Name    string   `json:"name"`
	As      string   `json:"as" doc:"One of choices; empty: not read"`
	Samples []string `json:"samples"`
}

// Receive keeps a place's file in the inbox and says what is recognised. Nothing
// of it is taken yet.
func (st *Stop) Receive(ctx context.Context, siteID int64, kind, name string, r io.Reader) (FileView, error) {
	if columns[kind] == nil {
		return FileView{}, fault.At("kind", "%q is neither a catalogue nor listings", kind)
	}
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return FileView{}, err
	}
	f := store.PlaceFile{SiteID: site.ID, Kind: kind, Name: stops.Clip(strings.TrimSpace(name), 300), File: rand.Text(), State: store.FileLooked,
		ReceivedAt: st.Now()}
	if f.Digest, err = st.save(f.File, r); err != nil {
		return FileView{}, fmt.Errorf("receiving %s: %w", f.Name, err)
	}
	drop := func(err error) (FileView, error) {
		_ = os.Remove(st.Store.Inbox(f.File))
		return FileView{}, err
	}
	chosen := map[string]string{}
	last, there, err := st.Store.Reading(ctx).LastFile(site.ID, kind)
	if err != nil {
		return drop(err)
	}
	if there {
		if chosen, err = columnsOf(&last); err != nil {
			return drop(err)
		}
	}
	file, err := feed.Open(st.Store.Inbox(f.File), st.reading(kind, nil, site))
	if err != nil {
		return drop(err)
	}
	look := file.Look()
	chosen = guessed(kind, look.Columns, chosen)
	lookText, err := json.Marshal(look)
	if err != nil {
		return drop(err)
	}
	chosenText, err := json.Marshal(chosen)
	if err != nil {
		return drop(err)
	}
	f.Look, f.Columns, f.Rows = string(lookText), string(chosenText), look.Rows
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("places")
		return tx.Create(&f)
	}); err != nil {
		return drop(err)
	}
	return viewFile(&f)
}

// viewFile is a file as a person sees it.
func viewFile(f *store.PlaceFile) (FileView, error) {
	v := FileView{ID: f.ID, SiteID: f.SiteID, Kind: f.Kind, Name: f.Name, State: f.State, Columns: []FileColumn{}, Choices: []string{}, Missing: []string{},
		Rows: f.Rows, New: f.New, Changed: f.Changed, Same: f.Same, Aside: f.Aside, Untied: f.Untied, Error: f.Error}
	chosen, err := columnsOf(f)
	if err != nil {
		return v, err
	}
	var look feed.Look
	if err := json.Unmarshal([]byte(f.Look), &look); err != nil {
		return v, err
	}
	there := map[string]bool{}
	for _, c := range look.Columns {
		there[chosen[c.Name]] = true
		v.Columns = append(v.Columns, FileColumn{c.Name, chosen[c.Name], append([]string{}, c.Samples...)})
	}
	for _, c := range columns[f.Kind] {
		v.Choices = append(v.Choices, c.name)
		if c.need && !there[c.name] {
			v.Missing = append(v.Missing, c.name)
		}
	}
	return v, nil
}

// save writes a file into the inbox, and says its digest.
func (st *Stop) save(name string, r io.Reader) (string, error) {
	out, err := os.OpenFile(st.Store.Inbox(name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", st.Store.Explain(err)
	}
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(out, sum), io.LimitReader(r, feed.MaxBytes+1))
	if err == nil && n > feed.MaxBytes {
		err = feed.TooBig(n)
	}
	if err = errors.Join(err, out.Close()); err != nil {
		_ = os.Remove(st.Store.Inbox(name))
		return "", err
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}

// reading is how the reader reads a file of a kind, its columns as chosen.
func (st *Stop) reading(kind string, chosen map[string]string, site store.Site) feed.Settings {
	s := feed.Settings{Update: true, Loose: true, Currency: money.Currency(site.Currency), Now: st.Now(), Words: map[string]string{}}
	for _, c := range columns[kind] {
		field := c.field
		if field == "" {
			field = "group" // a text field of its own, so that a header with it is one
		}
		for _, w := range c.words {
			s.Words[w] = field
		}
	}
	if chosen == nil {
		return s
	}
	s.Columns = map[string]string{}
	for name, as := range chosen {
		s.Columns[name] = ""
		for _, c := range columns[kind] {
			if c.name == as {
				s.Columns[name] = c.field
			}
		}
	}
	return s
}

// guessed says what columns are read as: as chosen before, else by their names.
func guessed(kind string, list []feed.Column, before map[string]string) map[string]string {
	out := map[string]string{}
	taken := map[string]bool{}
	for _, c := range list {
		if as, known := before[c.Name]; known {
			out[c.Name], taken[as] = as, true
		}
	}
	for _, c := range list {
		if _, known := out[c.Name]; known {
			continue
		}
		out[c.Name] = ""
		for _, k := range columns[kind] {
			if !taken[k.name] && k.known(c.Name) {
				out[c.Name], taken[k.name] = k.name, true
				break
			}
		}
	}
	return out
}

func (c *column) known(name string) bool {
	folded := feed.ColumnWord(name)
	for _, w := range c.words {
		if feed.ColumnWord(w) == folded {
			return true
		}
	}
	return false
}

// Choose says what the columns of a file are read as.
func (st *Stop) Choose(ctx context.Context, fileID int64, chosen map[string]string) (FileView, error) {
	var row store.PlaceFile
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.PlaceFile](tx, fileID)
		if err != nil {
			return err
		}
		if f.State != store.FileLooked {
			return fault.New(fault.Conflict, "%s was taken already; bring it in again", f.Name)
		}
		seen := map[string]string{}
		for name, as := range chosen {
			if as == "" {
				continue
			}
			if other := seen[as]; other != "" {
				return fault.At("columns", "both %s and %s are read as %s; choose one", other, name, as)
			}
			seen[as] = name
		}
		text, err := json.Marshal(chosen)
		if err != nil {
			return err
		}
		f.Columns, row = string(text), f
		row.Columns = f.Columns
		return tx.Save(&f)
	})
	if err != nil {
		return FileView{}, err
	}
	return viewFile(&row)
}

// Take has a file read, as a run.
func (st *Stop) Take(ctx context.Context, fileID int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.PlaceFile](tx, fileID)
		if err != nil {
			return err
		}
		v, err := viewFile(&f)
		if err != nil {
			return err
		}
		switch {
		case f.State == store.FileTaken:
			return fault.New(fault.Conflict, "%s was taken already", f.Name)
		case len(v.Missing) > 0:
			return fault.At("columns", "no column is read as %s; choose one", strings.Join(v.Missing, " or "))
		}
		site, err := tx.SiteOf(f.SiteID)
		if err != nil {
			return err
		}
		title := map[string]string{store.FileCatalogue: "Reading the catalogue of ", store.FileListings: "Taking over what is listed on "}[f.Kind]
		run = store.Run{Kind: runFile, Lane: store.Lane(runFile, site.MarketplaceID), Title: title + site.Name, Subject: f.ID, CreatedAt: st.Now()}
		return tx.Queue(&run)
	})
	return run, err
}

// fileRow is one row of a place's file, as the reader has it.
type fileRow struct {
	row   *feed.Row
	entry string // of a listing
}

// doFile reads a file. Each part of it is kept in a transaction, and what was
// kept before is found again, so that reading it once more changes nothing.
func (st *Stop) doFile(ctx context.Context, t *work.Task) error {
	f, err := store.Get[store.PlaceFile](ctx, st.Store, t.Subject)
	if err != nil {
		return err
	}
	site, err := st.Store.SiteOf(ctx, f.SiteID)
	if err != nil {
		return err
	}
	if f.State == store.FileTaken {
		return nil
	}
	err = st.readFile(ctx, t, &f, site)
	if err != nil && fault.KindOf(err) == fault.Invalid {
		f.State, f.Error = store.FileFailed, err.Error()
	}
	if err == nil {
		now := st.Now()
		f.State, f.TakenAt = store.FileTaken, &now
		t.Note = fileNote(&f, site)
	}
	if err != nil && f.State != store.FileFailed {
		return err
	}
	file := f.File
	f.File = ""
	if failed := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("places", "sites", "counts", "matches", "listings", "products")
		if f.State == store.FileTaken && f.Kind == store.FileCatalogue {
			if err := stops.LookUp(tx, []store.Site{site}, st.Now()); err != nil {
				return err
			}
		}
		return tx.Save(&f)
	}); failed != nil {
		return failed
	}
	_ = os.Remove(st.Store.Inbox(file))
	return err
}

func fileNote(f *store.PlaceFile, site store.Site) string {
	if f.Kind == store.FileCatalogue {
		return fmt.Sprintf("%s: %s read, %d new, %d changed", site.Name, stops.Plural(f.Rows, "entry", "entries"), f.New, f.Changed)
	}
	return fmt.Sprintf("%s: %s taken over, %d as before, %d tied to nothing of ours", site.Name, stops.Plural(f.New+f.Changed, "listing", "listings"),
		f.Same, f.Untied)
}

// partOfFile is how many rows are kept together.
const partOfFile = 500

func (st *Stop) readFile(ctx context.Context, t *work.Task, f *store.PlaceFile, site store.Site) error {
	chosen, err := columnsOf(f)
	if err != nil {
		return err
	}
	s := st.reading(f.Kind, chosen, site)
	file, err := feed.Open(st.Store.Inbox(f.File), s)
	if err != nil {
		return err
	}
	look := file.Look()
	entry := -1
	for i, c := range look.Columns {
		if chosen[c.Name] == "entry" && f.Kind == store.FileListings {
			entry = i
		}
	}
	f.Rows, f.New, f.Changed, f.Same, f.Aside, f.Untied = 0, 0, 0, 0, 0, 0
	keep := st.keepEntries
	if f.Kind == store.FileListings {
		keep = st.keepListings
	}
	var there []string // SKUs
	var part []fileRow
	flush := func() error {
		if len(part) == 0 {
			return nil
		}
		err := keep(ctx, f, site, part)
		part = part[:0]
		t.At(f.Rows, look.Rows)
		return err
	}
	err = file.Read(s, func(r *feed.Row) error {
		f.Rows++
		if len(r.Problems) > 0 || r.Repeat {
			f.Aside++
			return nil
		}
		x := fileRow{row: r}
		if cells := r.Cells(); entry >= 0 && entry < len(cells) {
			x.entry = strings.TrimSpace(cells[entry])
		}
		part = append(part, x)
		there = append(there, r.Product.Ref)
		if len(part) == partOfFile {
			return flush()
		}
		return ctx.Err()
	})
	if err == nil {
		err = flush()
	}
	if err == nil && f.Kind == store.FileListings {
		err = st.Store.Do(ctx, func(tx store.Tx) error { return tx.KeepUntied(site.ID, there) }) // what isn't there any more
	}
	return err
}

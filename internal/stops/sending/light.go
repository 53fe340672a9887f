package sending

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// LightFile is a file of price and stock of what a site has on sale: what is in
// it, how it is written, when it is made and where it goes. It tells no more than
// was let go before: prices as confirmed, and never more than can be offered now.
type LightFile struct {
	ID       int64         `json:"id" readOnly:"true"`
	Version  int64         `json:"version" readOnly:"true" doc:"For If-Match"`
	SiteID   int64         `json:"site_id"`
	Site     string        `json:"site" readOnly:"true"`
	Name     string        `json:"name" minLength:"1" maxLength:"120" doc:"Of the file; its ending is its kind: csv, tsv or xlsx"`
	Part     string        `json:"part" enum:"all,changed,end" doc:"All that is on sale, what changed since it was given last, or what isn't to be sold there any more"`
	Only     []string      `json:"only,omitempty" maxItems:"10000" doc:"Only these SKUs; all where left out"`
	Columns  []LightColumn `json:"columns" minItems:"1" maxItems:"50"`
	Change   string        `json:"change_word,omitempty" maxLength:"60" doc:"What the column of the action says of a change; change where left out"`
	End      string        `json:"end_word,omitempty" maxLength:"60" doc:"And of what isn't to be sold any more; end where left out"`
	Output   LightOutput   `json:"output"`
	Every    int64         `json:"every_minutes" minimum:"0" maximum:"10080" doc:"0: only when somebody asks"`
	Target   string        `json:"target" maxLength:"1000" doc:"A folder of this machine, or an address that takes it by PUT; empty: it is downloaded"`
	Username string        `json:"username,omitempty" maxLength:"320"`
	Password string        `json:"password,omitempty" maxLength:"320" writeOnly:"true" doc:"Left out, the one kept stays"`
	Known    bool          `json:"known" readOnly:"true" doc:"Whether a password is kept"`
	Due      *time.Time    `json:"due" readOnly:"true"`
	Made     *time.Time    `json:"made" readOnly:"true" doc:"When it was given last"`
	Rows     int64         `json:"rows" readOnly:"true" doc:"Of the last"`
	Error    string        `json:"error" readOnly:"true" doc:"Why the last could not be given"`
}

// Edition implements stops.Edited.
func (f LightFile) Edition() int64 { return f.Version }

// LightColumn is one column of a light file.
type LightColumn struct {
	Header string `json:"header" minLength:"1" maxLength:"120"`
	From   string `json:"from,omitempty" enum:"sku,entry,price,quantity,do,title,number,brand,category,currency,"`
	Value  string `json:"value,omitempty" maxLength:"200" doc:"The same in every row, where it is from nothing"`
}

// LightOutput says how a light file is written.
type LightOutput struct {
	Delimiter string `json:"delimiter,omitempty" enum:"comma,semicolon," doc:"Of CSV; a comma where left out"`
	Decimal   string `json:"decimal,omitempty" enum:"point,comma,"`
	Encoding  string `json:"encoding,omitempty" enum:"utf-8,utf-8-bom,windows-1252,utf-16,"`
}

// kindOf is what a file is by its ending.
func kindOf(name string) string { return strings.TrimPrefix(strings.ToLower(filepath.Ext(name)), ".") }

// check says what is wrong with it.
func (f *LightFile) check() error {
	switch kind := kindOf(f.Name); {
	case strings.ContainsAny(f.Name, `/\:*?"<>|`) || strings.ContainsFunc(f.Name, func(r rune) bool { return r < ' ' }) || strings.HasPrefix(f.Name, "."):
		return fault.At("name", "%q is no name of a file; leave out / \\ : * ? \" < > | and a point at its beginning", f.Name)
	case kind != "csv" && kind != "tsv" && kind != "xlsx":
		return fault.At("name", "%q must end in .csv, .tsv or .xlsx", f.Name)
	case f.Every > 0 && f.Target == "":
		return fault.At("target", "a file that is made by itself must go somewhere: a folder, or an address that takes it by PUT")
	case f.Every > 0 && f.Every < 5:
		return fault.At("every_minutes", "%d minutes is too often; 5 at the least", f.Every)
	}
	if !slices.ContainsFunc(f.Columns, func(c LightColumn) bool { return c.From == "sku" || c.From == "entry" }) {
		return fault.At("columns", "without a column of the SKU or the entry nobody can tell which listing a row is of")
	}
	l := f.layout()
	if err := l.Valid(); err != nil {
		return err
	}
	for i, c := range f.Columns {
		for _, d := range f.Columns[:i] {
			if strings.EqualFold(strings.TrimSpace(c.Header), strings.TrimSpace(d.Header)) {
				return fault.At(fmt.Sprintf("columns[%d].header", i), "two columns are called %q", c.Header)
			}
		}
	}
	return nil
}

func isAddress(target string) bool {
	return strings.HasPrefix(target, "http://") || strings.HasPrefix(target, "https://")
}

// layout is how its rows are written.
func (f *LightFile) layout() blank.Layout {
	l := blank.Layout{HeaderRow: 1, FirstRow: 2, Output: blank.Output{Kind: kindOf(f.Name), Encoding: f.Output.Encoding}}
	if f.Output.Delimiter == "semicolon" && l.Output.Kind == "csv" {
		l.Output.Delimiter = ";"
	}
	if f.Output.Decimal == "comma" {
		l.Output.Decimal = ","
	}
	for _, c := range f.Columns {
		x := blank.Filled{Header: c.Header, From: c.From}
		switch c.From {
		case "":
			x.Value = &c.Value
		case "price", "quantity":
			x.As = "number"
		case "do":
			x.Map = map[string]string{"change": cmp.Or(f.Change, "change"), "end": cmp.Or(f.End, "end")}
		}
		l.Columns = append(l.Columns, x)
	}
	return l
}

// light is a light file as it was made: what it says, and what it says of each SKU.
type light struct {
	content []byte
	rows    int64
	given   map[string]string
}

// inOneGo is how many listings of a light file are worked out together.
const inOneGo = 5000

// make makes a light file by what holds at this moment: the price that was
// confirmed, and as many as are on sale and can still be offered; none of what may
// not be sold at its price any more.
func (st *Stop) make(ctx context.Context, f *LightFile, last map[string]string) (light, error) {
	site, err := st.Store.SiteOf(ctx, f.SiteID)
	if err != nil {
		return light{}, err
	}
	there, err := st.Store.LightRows(ctx, f.SiteID)
	if err != nil {
		return light{}, err
	}
	if len(f.Only) > 0 {
		few := map[string]bool{}
		for _, sku := range f.Only {
			few[sku] = true
		}
		there = slices.DeleteFunc(there, func(r store.LightRow) bool { return !few[r.SKU] })
	}
	out := light{given: make(map[string]string, len(there))}
	rows := lightRows{currency: money.Currency(site.Currency)}
	for part := range slices.Chunk(there, inOneGo) {
		lines := make([]store.OutgoingLine, len(part))
		for i := range part {
			lines[i].ListingID = part[i].ID
		}
		figures, book, err := st.figures(st.Store.Reading(ctx), site, lines)
		if err != nil {
			return out, err
		}
		for i := range part {
			r := &part[i]
			x := figures[r.ID]
			switch {
			case x == nil || r.Ended || r.Price == nil:
				r.Quantity = 0
			default:
				r.Quantity = min(r.Quantity, x.Offer)
				if book.Forbids(x, &store.SendLine{Price: r.Price, Quantity: &r.Quantity}) != "" {
					r.Quantity = 0
				}
			}
			if said := saidOf(r); f.takes(r, said, last) {
				rows.list = append(rows.list, *r)
				out.given[r.SKU] = said
			} else if f.Part == store.LightChanged {
				out.given[r.SKU] = said
			}
		}
	}
	if f.Part != store.LightEnd { // what was on sale when it was given last, and isn't known to be any more
		known := map[string]bool{}
		for i := range there {
			known[there[i].SKU] = true
		}
		for sku, said := range last {
			gone := store.LightRow{SKU: sku, Ended: true}
			if known[sku] || said == saidOf(&gone) { // it was told already
				continue
			}
			rows.list, out.given[sku] = append(rows.list, gone), saidOf(&gone)
		}
		slices.SortFunc(rows.list, func(a, b store.LightRow) int { return strings.Compare(a.SKU, b.SKU) })
	}
	layout := f.layout()
	heads, err := headsOf(f.Columns)
	if err != nil {
		return out, err
	}
	sheet, err := blank.Read(heads)
	if err != nil {
		return out, err
	}
	var b bytes.Buffer
	var wrong error
	res, err := sheet.Fill(&layout, &rows, &b, blank.Options{Problem: func(p blank.Problem) {
		if wrong == nil {
			wrong = fault.New(fault.Invalid, "%s", p.Words())
		}
	}})
	if err == nil && !res.Written {
		err = errors.Join(wrong, errors.New("the file could not be written"))
	}
	out.content, out.rows = b.Bytes(), int64(len(rows.list))
	return out, err
}

// takes tells whether a row is among its part.
func (f *LightFile) takes(r *store.LightRow, said string, last map[string]string) bool {
	switch f.Part {
	case store.LightEnd:
		return r.Ended
	case store.LightChanged:
		return last[r.SKU] != said
	}
	return true
}

// saidOf is what a light file says of a listing, to be compared.
func saidOf(r *store.LightRow) string {
	price := ""
	if r.Price != nil && !r.Ended {
		price = strconv.FormatInt(*r.Price, 10)
	}
	return fmt.Sprintf("%s %d %s", price, r.Quantity, doesOf(r))
}

func doesOf(r *store.LightRow) string {
	if r.Ended {
		return "end"
	}
	return "change"
}

// lightRows are the rows of a light file as a layout sees them.
type lightRows struct {
	list     []store.LightRow
	currency money.Currency
}

// Len implements blank.Rows.
func (l *lightRows) Len() int { return len(l.list) }

// Each implements blank.Rows.
func (l *lightRows) Each(yield func(n int, r blank.Row) error) error {
	for i := range l.list {
		x := &l.list[i]
		r := blank.Row{"sku": x.SKU, "title": x.Title, "number": x.Number, "brand": x.Brand, "category": x.Category, "entry": x.Entry, "do": doesOf(x),
			"currency": string(l.currency), "quantity": json.Number(strconv.FormatInt(x.Quantity, 10))}
		if x.Price != nil {
			r["price"] = money.Of(*x.Price, l.currency).String()
		}
		if err := yield(i+1, r); err != nil {
			return err
		}
	}
	return nil
}

// headsOf is the row of headers that a light file is filled under, as CSV.
func headsOf(columns []LightColumn) ([]byte, error) {
	heads := make([]string, len(columns))
	for i, c := range columns {
		heads[i] = c.Header
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.Write(heads); err != nil {
		return nil, err
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// Field is a column in a Table Schema.
type Field struct {
	Name        string         `json:"name"`
	Type        string         `json:"type"`
	Title       string         `json:"title,omitempty"`
	Decimal     string         `json:"decimalChar,omitempty"`
	Constraints map[string]any `json:"constraints,omitempty"`
}

// Schema describes its columns by Table Schema 1.0 of the Data Package standard.
func (f *LightFile) Schema() ([]byte, error) {
	var out struct {
		Fields     []Field `json:"fields"`
		PrimaryKey string  `json:"primaryKey,omitempty"`
	}
	for _, c := range f.Columns {
		x := Field{Name: c.Header, Type: "string"}
		switch c.From {
		case "sku":
			out.PrimaryKey = c.Header
			x.Constraints = map[string]any{"required": true, "unique": true}
		case "price":
			x.Type, x.Constraints = "number", map[string]any{"minimum": 0}
			if f.Output.Decimal == "comma" {
				x.Decimal = ","
			}
		case "quantity":
			x.Type, x.Constraints = "integer", map[string]any{"required": true, "minimum": 0}
		case "do":
			x.Constraints = map[string]any{"enum": []string{cmp.Or(f.Change, "change"), cmp.Or(f.End, "end")}}
		}
		out.Fields = append(out.Fields, x)
	}
	return json.MarshalIndent(out, "", "  ")
}

// doLight makes a light file and gives it to where it goes. What can't be given is
// tried again; a crash in the middle gives it once more, whole.
func (st *Stop) doLight(ctx context.Context, t *work.Task) error {
	row, err := store.Get[store.LightFile](ctx, st.Store, t.Subject)
	if fault.KindOf(err) == fault.Missing {
		return nil // dropped meanwhile
	}
	if err != nil {
		return err
	}
	if stops.Stopped(st.Store.Reading(ctx)) != nil {
		t.Note = row.Name + ": everything is stopped; it is made when its time comes again"
		return st.lightDue(ctx, &row, nil)
	}
	f, last, err := lightOf(&row)
	if err != nil {
		return err
	}
	made, err := st.make(ctx, &f, last)
	if err == nil && made.rows > 0 || err == nil && f.Part == store.LightAll {
		err = st.give(ctx, &f, &row, made.content)
	}
	if err != nil {
		return errors.Join(err, st.lightDue(context.WithoutCancel(ctx), &row, err))
	}
	t.Note = fmt.Sprintf("%s: %s to %s", row.Name, stops.Plural(made.rows, "row", "rows"), row.Target)
	err = st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error { return tx.PutGiven(row.ID, st.Now(), made.rows, made.given) })
	return stops.First(err, st.lightDue(context.WithoutCancel(ctx), &row, nil))
}

// lightAgain is how soon a light file is tried again that could not be given.
const lightAgain = 5 * time.Minute

// lightDue says when a light file is made next, and why it couldn't be given.
func (st *Stop) lightDue(ctx context.Context, row *store.LightFile, why error) error {
	columns := map[string]any{"due_at": nil, "error": ""}
	pause := time.Duration(row.Every) * time.Minute
	if why != nil {
		columns["error"], pause = why.Error(), min(max(pause, time.Minute), lightAgain)
	}
	if row.Every > 0 {
		columns["due_at"] = st.Now().Add(pause)
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sendouts")
		return tx.Update(row, columns)
	})
}

// give gives a light file to where it goes, with its schema beside it in a folder:
// who reads there finds the whole of it or the one before.
func (st *Stop) give(ctx context.Context, f *LightFile, row *store.LightFile, content []byte) error {
	if f.Target == "" {
		return fault.New(fault.Conflict, "%s goes nowhere by itself; download it", f.Name)
	}
	if !isAddress(f.Target) {
		schema, err := f.Schema()
		if err != nil {
			return err
		}
		folder, err := st.OpenFolder(ctx, f.Target)
		if err != nil {
			return err
		}
		defer folder.Close()
		return stops.First(st.putFile(folder, f.Name, content), st.putFile(folder, f.Name+".schema.json", schema))
	}
	q := fetch.Request{Address: f.Target, Username: row.Username}
	if row.Password != "" {
		var err error
		if q.Password, err = st.Store.Unseal(row.Password); err != nil {
			return err
		}
	}
	return st.Fetcher.Put(ctx, q, stops.Media(f.Name), content)
}

// putFile writes a file into a folder, the whole of it or nothing.
func (st *Stop) putFile(folder *os.Root, name string, content []byte) error {
	part := ".part-" + rand.Text()
	tmp, err := folder.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err == nil {
		_, err = tmp.Write(content)
		err = errors.Join(err, tmp.Sync(), tmp.Close())
		if err == nil {
			err = folder.Rename(part, name)
		}
		if err != nil {
			err = errors.Join(err, folder.Remove(part))
		}
	}
	if err != nil {
		return fault.New(fault.Unavailable, "%s can't be written to %s: %v; it is tried again", name, folder.Name(), err)
	}
	return nil
}

// lightRound has those light files made whose time has come.
func (st *Stop) lightRound(tx store.Tx) error {
	due, err := tx.DueLightFiles(st.Now())
	for i := 0; err == nil && i < len(due); i++ {
		err = st.queueLight(tx, &due[i])
	}
	return err
}

func (st *Stop) queueLight(tx store.Tx, f *store.LightFile) error {
	return tx.Queue(&store.Run{Kind: store.RunLight, Lane: store.RunLight, Title: "Making " + f.Name, Subject: f.ID, Once: true, CreatedAt: st.Now()})
}

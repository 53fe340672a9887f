// Package feed turns what a supplier sends into rows of cells, and cells into
// supply.Product. It follows docs/definitions/supply.md, sections 1 to 3. A new kind of
// file is one new file with a kind in it and one line in kinds; docs/feeds.md
// shows how.
//
// A file is read as a stream, never as a whole: once to see how it is wrapped
// and written, once to survey its columns, and once to read its rows.
package feed

import (
	"fmt"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/fault"
)

// Limits on what is read; going over one is an error that names it.
const (
	MaxBytes   = 512 << 20 // of a file as it is sent
	MaxPlain   = 2 << 30   // of a file unpacked
	MaxCell    = 1 << 20   // of one cell
	MaxToken   = 4 << 20   // of one token of XML or JSON, and of one row that is read as one
	MaxColumns = 2000
	MaxDepth   = 64 // of elements or objects inside one another
)

// Error says what is wrong with a file, and where.
type Error struct {
	Row    int    // as a spreadsheet shows it; 0 for the file as a whole
	Reason string // what is wrong and how to mend it
	limit  bool   // it is over a limit, whatever follows
}

func (e *Error) Error() string {
	if e.Row == 0 {
		return e.Reason
	}
	return fmt.Sprintf("row %d: %s", e.Row, e.Reason)
}

// FaultKind implements fault.Kinded.
func (e *Error) FaultKind() fault.Kind { return fault.Invalid }

func wrong(format string, args ...any) error { return &Error{Reason: fmt.Sprintf(format, args...)} }

// Column is one column of a file and the field it is read as; "" for a named
// attribute, "box" for dimensions in one cell.
type Column struct {
	Name    string   `json:"name"`
	Field   string   `json:"field"`
	Samples []string `json:"samples"`
	Decimal string   `json:"decimal" doc:"The decimal sign its values prove; empty where none does"`
	// Proposed is a field that it could be, for a person to choose: it is not read as it.
	Proposed string `json:"proposed,omitempty" doc:"What it could be, for you to choose; it isn't read so"`
	unit     string // of weight or lengths, from the name
}

// Look is what was recognised before anything is kept.
type Look struct {
	Kind      string   `json:"kind"`
	Wrapping  string   `json:"wrapping" doc:"gzip, zip, or empty"`
	Encoding  string   `json:"encoding"`
	Delimiter string   `json:"delimiter"`
	Sheet     string   `json:"sheet"`
	Base      string   `json:"base" doc:"Address that a page's own addresses are relative to"`
	Sheets    []string `json:"sheets"`
	HeaderRow int      `json:"header_row"`
	Columns   []Column `json:"columns"`
	Rows      int64    `json:"rows" doc:"Rows with text in them, the header's aside"`
	from1904  bool     // a sheet that counts days from then
	Currency  string   `json:"currency" doc:"The one the first rows are in; empty where they don't say"`
}

// Missing lists the needed fields that no column is read as.
func (l *Look) Missing() []string {
	out := []string{}
	for _, field := range []string{"ref", "title", "cost"} {
		if !l.Has(field) {
			out = append(out, field)
		}
	}
	return out
}

// Has tells whether a column is read as a field.
func (l *Look) Has(field string) bool {
	for _, c := range l.Columns {
		if c.Field == field {
			return true
		}
	}
	return false
}

// column is the place of a column by its name, −1 where there is none.
func (l *Look) column(name string) int {
	for i, c := range l.Columns {
		if c.Name == name {
			return i
		}
	}
	return -1
}

// Settings are what a source knows of its files. The zero value knows nothing.
type Settings struct {
	Columns    map[string]string       `json:"columns,omitempty"`     // column name → field, where a person chose; "" leaves it an attribute
	Words      map[string]string       `json:"words,omitempty"`       // further column names → field
	Currency   money.Currency          `json:"currency,omitempty"`    // where a row doesn't say
	Decimal    string                  `json:"decimal,omitempty"`     // "," or "." where a column's values don't prove it
	Signs      map[string]string       `json:"signs,omitempty"`       // column name → its decimal sign, where another file has proved it
	SomeStock  int64                   `json:"some_stock,omitempty"`  // what "in stock" without a number means; 0 is 5
	StockWords map[string]supply.Stock `json:"stock_words,omitempty"` // further words, folded; Count −1 is SomeStock
	WeightUnit string                  `json:"weight_unit,omitempty"`
	LengthUnit string                  `json:"length_unit,omitempty"`
	Sheet      string                  `json:"sheet,omitempty"`
	Base       string                  `json:"base,omitempty"`   // address of a page, where the page itself doesn't say
	Update     bool                    `json:"update,omitempty"` // only some rows or columns: title and cost aren't needed
	Loose      bool                    `json:"-"`                // title and cost are needed only where there is such a column
	HeaderRow  int                     `json:"-"`                // the row that a person says has the names of the columns; 0: it is found
	Guess      bool                    `json:"-"`                // where no row names known columns, one that looks like names is taken for the header
	Doubts     bool                    `json:"-"`                // a cost above the list price of its row sets it aside
	Now        time.Time               `json:"-"`                // by which available_from is past or to come
}

// Row is one row read: either a product, or problems for which it is set aside.
type Row struct {
	Number   int
	Product  supply.Item // with its digests, where there are no problems
	Problems []supply.Problem
	Warnings []string
	Repeat   bool // an exact repeat of an earlier row
	record   *Record
	columns  int
	signs    []signs
}

// Cells are the row as the file has it, a cell for each column of the Look, a
// number with the decimal sign of its column. They are good only inside yield.
func (r *Row) Cells() []string {
	out := make([]string, r.columns)
	for i := range min(len(out), len(r.record.Cells)) {
		out[i] = r.record.Cells[i]
		if r.record.number(i) && r.signs[i].decided() == ',' {
			out[i] = strings.ReplaceAll(out[i], ".", ",")
		}
	}
	if r.record.Broken != "" && len(out) > 0 {
		out[0] = strings.Join(r.record.Cells, " ")
	}
	return out
}

// Record is one row of cells as the file has it. Its slices are used again for
// the next one.
type Record struct {
	Row    int
	Cells  []string
	Number []bool           // cells stored as numbers, their text in plain decimal form; nil: none
	Lists  map[int][]string // cells that are lists
	Broken string           // why the row can't be read at all
}

func (r *Record) number(i int) bool { return i < len(r.Number) && r.Number[i] }

func (r *Record) blank() bool {
	for _, c := range r.Cells {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return r.Broken == ""
}

// A kind reads one sort of file.
type kind interface {
	// name is the kind in the answer of `easymargin read`.
	name() string
	// recognise looks at the first characters and says whether the file is of this kind.
	recognise(head []byte) bool
	// look finds the header or the keys.
	look(in *input, s Settings) (Look, error)
	// records yields the rows of data, blank ones too, until yield is false.
	records(in *input, l *Look, yield func(*Record) bool) error
}

// kinds are asked in this order; delimited text, which nearly everything could be, is last.
var kinds = []kind{xlsx{}, page{}, xmlFile{}, jsonLines{}, jsonFile{}, delimited{}}

// File is a supplier's file on disk.
type File struct {
	in   *input
	kind kind
	base Look // as the file says, before a source's settings
	look Look
	s    Settings
	facts
}

// Open recognises a file and surveys its columns. The error is an *Error for
// what is wrong with the file, anything else for what is wrong with reading it.
func Open(path string, s Settings) (*File, error) {
	in, err := unwrap(path)
	if err != nil {
		return nil, err
	}
	f := &File{in: in}
	for _, k := range kinds {
		if k.recognise(in.head) {
			f.kind = k
			break
		}
	}
	if f.kind == nil {
		return nil, wrong(
			"this is no file that can be read: not delimited text, a sheet (XLSX), JSON, XML or a product's page. Ask the supplier for one of these",
		)
	}
	if f.base, err = f.kind.look(in, s); err != nil {
		return nil, err
	}
	f.base.Kind, f.base.Wrapping, f.base.Encoding = f.kind.name(), in.wrapping, in.encoding
	return f, f.survey(s)
}

// Look is what was recognised, under the settings it was opened with.
func (f *File) Look() Look { return f.look }

// Read reads the whole file, a row at a time, under settings that may differ
// from those it was opened with. It stops at the first error of yield. A row
// that can't be taken has problems; reading goes on.
func (f *File) Read(s Settings, yield func(*Row) error) error {
	if !sameReading(f.s, s) {
		if err := f.survey(s); err != nil {
			return err
		}
	}
	p := newParser(&f.look, &f.facts, s)
	if !s.Loose {
		needed := []string{"ref"}
		if !s.Update {
			needed = append(needed, "title", "cost")
		}
		var missing []string
		for _, field := range needed {
			if !f.look.Has(field) {
				missing = append(missing, field)
			}
		}
		if len(missing) > 0 {
			return &Error{
				Row:    f.look.HeaderRow,
				Reason: "no column is read as " + strings.Join(missing, " or ") + "; choose one among the columns",
			}
		}
	}
	ours := f.look.column(WhyColumn) >= 0 // written by us, with apostrophes before what a spreadsheet would calculate
	seen := supply.NewPrints(int(min(f.look.Rows, 1<<24)))
	var stop error
	err := f.ahead(func(r *Record) bool {
		if ours {
			for i, c := range r.Cells {
				r.Cells[i] = Plain(c)
			}
		}
		row := p.row(r)
		row.record, row.columns, row.signs = r, len(f.look.Columns), f.signs
		if len(row.Problems) == 0 {
			row.Product.Digest()
			if was, _, ok := seen.Get(row.Product.Hash); !ok {
				seen.Put(row.Product.Hash, row.Product.Print, 1)
			} else if was == row.Product.Print {
				row.Repeat = true
			} else {
				row.Problems = []supply.Problem{
					{
						Column: p.column("ref"),
						Value:  row.Product.Ref,
						Reason: "this ref came before in this file with other values; the first was kept",
					},
				}
			}
		}
		stop = yield(row)
		return stop == nil
	})
	if stop != nil {
		return stop
	}
	return err
}

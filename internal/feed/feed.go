// Package feed turns what a supplier sends into rows of cells, and cells into
// supply.Product. It follows design/supply.md, sections 1 to 3, for the kinds
// it knows; a new kind is one new file with a kind in it and one line in kinds.
package feed

import (
	"fmt"
	"io"
	"os"
	"strings"

	"easymargin/core/money"
	"easymargin/core/supply"
)

// Limits on what is read; going over one is an error that names it.
const (
	MaxBytes   = 512 << 20 // of a file
	MaxCell    = 1 << 20   // of one cell
	MaxColumns = 2000
)

// Error says what is wrong with a file, and where.
type Error struct {
	Row    int    // as a spreadsheet shows it; 0 for the file as a whole
	Reason string // what is wrong and how to mend it
}

func (e *Error) Error() string {
	if e.Row == 0 {
		return e.Reason
	}
	return fmt.Sprintf("row %d: %s", e.Row, e.Reason)
}

// Column is one column of a file and the field it is read as; "" for a named attribute.
type Column struct {
	Name    string   `json:"name"`
	Field   string   `json:"field"`
	Samples []string `json:"samples"`
}

// Look is what was recognised before anything is kept.
type Look struct {
	Kind      string   `json:"kind"`
	Encoding  string   `json:"encoding"`
	Delimiter string   `json:"delimiter"`
	HeaderRow int      `json:"header_row"`
	Columns   []Column `json:"columns"`
	Currency  string   `json:"currency"` // the one the first rows are in; "" where they don't say
}

// Missing lists the needed fields that no column is read as.
func (l Look) Missing() []string {
	var out []string
	for _, field := range []string{"ref", "title", "cost"} {
		if !l.has(field) {
			out = append(out, field)
		}
	}
	return out
}

func (l Look) has(field string) bool {
	for _, c := range l.Columns {
		if c.Field == field {
			return true
		}
	}
	return false
}

// Record is one row of cells as the file has it.
type Record struct {
	Row   int
	Cells []string
}

// A kind reads one sort of file.
type kind interface {
	// recognise looks at the first bytes and says whether the file is of this kind.
	recognise(head []byte) bool
	// look finds the header.
	look(r io.Reader) (Look, error)
	// records yields the rows below the header until yield is false.
	records(r io.Reader, l Look, yield func(Record) bool) error
}

var kinds = []kind{delimited{}}

// File is a supplier's file on disk.
type File struct {
	path string
	kind kind
	look Look
}

// Open recognises a file. The error is an *Error for what is wrong with the
// file, anything else for what is wrong with reading it.
func Open(path string) (*File, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	switch {
	case info.Size() == 0:
		return nil, &Error{Reason: "the file is empty; ask the supplier to send it again"}
	case info.Size() > MaxBytes:
		return nil, TooBig(info.Size())
	}
	head := make([]byte, 64<<10)
	n, err := io.ReadFull(f, head)
	if err != nil && err != io.ErrUnexpectedEOF {
		return nil, err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	for _, k := range kinds {
		if k.recognise(head[:n]) {
			l, err := k.look(f)
			if err != nil {
				return nil, err
			}
			return &File{path, k, l}, nil
		}
	}
	return nil, &Error{Reason: "this is not a text file with columns; save it as CSV in UTF-8 and bring it in again"}
}

// TooBig is the error for a file of n bytes, over MaxBytes.
func TooBig(n int64) error {
	return &Error{Reason: fmt.Sprintf("the file has %d MiB, and %d MiB is the most that is read; split it and bring the parts in as one source set to update", n>>20, int64(MaxBytes)>>20)}
}

// Look is what was recognised.
func (f *File) Look() Look { return f.look }

// Settings are what a source knows of its files.
type Settings struct {
	Columns   map[string]string // column name → field, where a person chose; "" leaves it an attribute
	Currency  money.Currency    // where a row doesn't say
	SomeStock int64             // what "in stock" without a number means; 0 is 5
}

// Row is one row read: either a product, or problems for which it is set aside.
type Row struct {
	Number   int
	Product  supply.Product
	Problems []supply.Problem
	Warnings []string
	Repeat   bool // an exact repeat of an earlier row
}

// Read reads the whole file, a row at a time. It stops at the first error of
// yield. A row that can't be taken has problems; reading goes on.
func (f *File) Read(s Settings, yield func(*Row) error) error {
	in, err := os.Open(f.path)
	if err != nil {
		return err
	}
	defer in.Close()
	p := newParser(f.look, s)
	if missing := p.look.Missing(); len(missing) > 0 {
		return &Error{Row: f.look.HeaderRow, Reason: "no column is read as " + strings.Join(missing, " or ") + "; choose one among the columns"}
	}
	seen := map[uint64]int64{}
	var stop error
	err = f.kind.records(in, f.look, func(r Record) bool {
		row := p.row(r)
		if len(row.Problems) == 0 {
			key, print := hash(row.Product.Ref), row.Product.Fingerprint()
			if was, ok := seen[key]; !ok {
				seen[key] = print
			} else if was == print {
				row.Repeat = true
			} else {
				row.Problems = []supply.Problem{{Column: p.column("ref"), Value: row.Product.Ref, Reason: "this ref came before in this file with other values; the first was kept"}}
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

func hash(s string) uint64 {
	h := uint64(14695981039346656037)
	for i := 0; i < len(s); i++ {
		h = (h ^ uint64(s[i])) * 1099511628211
	}
	return h
}

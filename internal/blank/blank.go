// Package blank reads a marketplace's own sheet, says what it asks for, and fills
// it: docs/definitions/listing.md, section 3. A workbook is filled by changing the bytes of
// the rows that are written and nothing else, so that whatever a place has put
// into its blank is still there when it comes back; no library does that.
package blank

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"easymargin/internal/fault"
	"easymargin/internal/feed"
)

// Limits on a blank.
const (
	MaxFile    = 64 << 20  // bytes of the file
	maxPart    = 256 << 20 // bytes of one part, unpacked
	maxRows    = 1_048_576 // of a sheet
	maxColumns = 16_384
	maxText    = 32_767 // UTF-16 units in one cell
)

// Blank is an opened blank: a workbook or a text.
type Blank struct {
	book  *book
	table [][]string // of a text
	mark  byte       // that parts its cells
}

// Open reads a blank. What it can't read is fault.Invalid, in words for people.
func Open(path string) (*Blank, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if info.Size() > MaxFile {
		return nil, fault.New(fault.Invalid, "%s has %d MiB; a blank may have %d", filepath.Base(path), info.Size()>>20, MaxFile>>20)
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return Read(raw)
}

// Read reads a blank from its bytes.
func Read(raw []byte) (*Blank, error) {
	switch {
	case len(raw) > MaxFile:
		return nil, fault.New(fault.Invalid, "the file has %d MiB; a blank may have %d", len(raw)>>20, MaxFile>>20)
	case strings.HasPrefix(string(raw[:min(4, len(raw))]), "PK\x03\x04"):
		b, err := openBook(raw)
		if err != nil {
			return nil, err
		}
		return &Blank{book: b}, nil
	case strings.HasPrefix(string(raw[:min(4, len(raw))]), "\xd0\xcf\x11\xe0"):
		return nil, fault.New(fault.Invalid, "this is a sheet of the old kind (XLS), or one with a password; save it as XLSX without a password")
	case len(raw) == 0:
		return nil, fault.New(fault.Invalid, "the file is empty")
	}
	text, _, err := feed.Text(raw)
	if err != nil {
		return nil, fault.New(fault.Invalid, "the text can't be decoded: %v", err)
	}
	return readText(text)
}

// IsText tells whether the blank is a text and no workbook.
func (b *Blank) IsText() bool { return b.book == nil }

// readText parts a text by the mark that parts its fullest lines alike.
func readText(text []byte) (*Blank, error) {
	best := &Blank{}
	most := -1
	for _, mark := range []byte("\t;,|") {
		table, err := feed.Delimited(text, mark)
		if err != nil {
			if best.mark == 0 && mark == '|' {
				return nil, fault.New(fault.Invalid, "the text can't be read: %v", err)
			}
			continue
		}
		widest, named := 0, 0
		for _, rec := range table[:min(len(table), deepest)] {
			widest = max(widest, filled(rec))
			known := 0
			for _, c := range rec {
				if feed.Known(Bare(c)) != "" {
					known++
				}
			}
			named = max(named, known)
		}
		if score := 1000*named + widest; score > most {
			most, best = score, &Blank{table: table, mark: mark}
		}
	}
	return best, nil
}

// filled counts the cells of a record that hold something.
func filled(rec []string) int {
	n := 0
	for _, c := range rec {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

// Problem is one thing that is wrong with a row or with the layout.
type Problem struct {
	Row    int    `json:"row,omitempty" doc:"Line of the rows, from 1; left out: the layout itself"`
	Column string `json:"column"`
	Code   string `json:"code" enum:"not one of,missing,no such column,too long,cannot be written"`
	Value  string `json:"value,omitempty"`
}

// The codes of problems: docs/definitions/listing.md, section 3.
const (
	NotOneOf      = "not one of"
	Missing       = "missing"
	NoSuchColumn  = "no such column"
	TooLong       = "too long"
	CannotWritten = "cannot be written"
)

// Words say what is wrong, for people.
func (p Problem) Words() string {
	where := p.Column
	if p.Row > 0 {
		where = fmt.Sprintf("row %d, %s", p.Row, p.Column)
	}
	switch p.Code {
	case NotOneOf:
		return fmt.Sprintf("%s: %q is none of the blank's values", where, p.Value)
	case Missing:
		return where + ": is needed and empty"
	case NoSuchColumn:
		return fmt.Sprintf("the blank has no column %q", p.Column)
	case TooLong:
		return where + ": is too long"
	}
	return fmt.Sprintf("%s: %q can't be written there", where, p.Value)
}

package blank

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"

	"easymargin/internal/feed"
)

// cell is a cell as it stands in a sheet's part.
type cell struct {
	col      int // from 0
	from, to int // its element's bytes
	style    string
	text     string
	formula  bool
	shared   bool // it is the one whose formula others share, or an array's
}

// line is a row of a sheet.
type line struct {
	n        int // from 1
	from, to int // its element's bytes
	inner    int // where its start tag ends
	end      int // where its end tag begins; it has none where end is to
	style    string
	cells    []cell
}

// at is the cell of a column; nil where there is none.
func (l *line) at(col int) *cell {
	for i := range l.cells {
		if l.cells[i].col == col {
			return &l.cells[i]
		}
	}
	return nil
}

// text is what a column holds.
func (l *line) text(col int) string {
	if c := l.at(col); c != nil {
		return c.text
	}
	return ""
}

// columnStyle is the format of some columns.
type columnStyle struct {
	from, to int // from 0
	style    string
}

// rule is a data validation.
type rule struct {
	kind, operator, first, second string
	areas                         []area
}

// sheet is a sheet of a workbook with where everything stands in its bytes.
type sheet struct {
	raw       []byte
	prefix    string // of its elements: "" or "x:"
	lines     []line
	data      [2]int // what is inside of sheetData
	dataTag   [2]int // sheetData whole, where it has no inside
	dimension [2]int // the ref's bytes; zeros where it has none
	columns   []columnStyle
	rules     []rule
	merged    []area
	formulas  bool
}

// sheet reads a part once.
func (b *book) sheet(part string) (*sheet, error) {
	if s := b.read[part]; s != nil {
		return s, nil
	}
	raw, err := b.part(part)
	if err != nil {
		return nil, err
	}
	s := &sheet{raw: raw}
	r := reader{sheet: s, d: newTokens(raw), strings: b.strings}
	if err := r.all(); err != nil {
		return nil, broken(part, err)
	}
	b.read[part] = s
	return s, nil
}

// line is the row of a number; nil where there is none.
func (s *sheet) line(n int) *line {
	for i := range s.lines {
		if s.lines[i].n == n {
			return &s.lines[i]
		}
	}
	return nil
}

// reader reads a sheet's part, keeping where each token stands.
type reader struct {
	sheet   *sheet
	d       *xml.Decoder
	strings []string
	from    int // where the last token began
}

func (r *reader) next() (xml.Token, error) {
	r.from = int(r.d.InputOffset())
	return r.d.RawToken()
}

func (r *reader) here() int { return int(r.d.InputOffset()) }

var errCut = errors.New("it ends too soon")

func (r *reader) all() error {
	for {
		t, err := r.next()
		if errors.Is(err, io.EOF) {
			if r.sheet.data[1] == 0 && r.sheet.dataTag[1] == 0 {
				return errors.New("it has no rows' part")
			}
			return nil
		}
		if err != nil {
			return err
		}
		e, ok := t.(xml.StartElement)
		if !ok {
			continue
		}
		switch e.Name.Local {
		case "dimension":
			at := strings.Index(string(r.sheet.raw[r.from:r.here()]), `ref="`)
			if at >= 0 {
				from := r.from + at + len(`ref="`)
				if n := strings.IndexByte(string(r.sheet.raw[from:r.here()]), '"'); n >= 0 {
					r.sheet.dimension = [2]int{from, from + n}
				}
			}
		case "col":
			from, to := number(attr(e, "min")), number(attr(e, "max"))
			if style := attr(e, "style"); style != "" && from > 0 {
				r.sheet.columns = append(r.sheet.columns, columnStyle{from - 1, to - 1, style})
			}
		case "sheetData":
			if e.Name.Space != "" {
				r.sheet.prefix = e.Name.Space + ":"
			}
			if err := r.data(); err != nil {
				return err
			}
		case "mergeCell":
			if a, ok := areaOf(attr(e, "ref")); ok {
				r.sheet.merged = append(r.sheet.merged, a)
			}
		case "dataValidation":
			if err := r.rule(e); err != nil {
				return err
			}
		}
	}
}

// closed tells whether the start tag that was just read is its element whole.
func (r *reader) closed() bool { return r.sheet.raw[r.here()-2] == '/' }

func (r *reader) data() error {
	from := r.from
	if r.closed() {
		if _, err := r.next(); err != nil {
			return err
		}
		r.sheet.dataTag = [2]int{from, r.here()}
		return nil
	}
	r.sheet.data[0] = r.here()
	n := 0
	for {
		t, err := r.next()
		if err != nil {
			return cut(err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			if t.Name.Local != "row" {
				if err := r.skip(); err != nil {
					return err
				}
				continue
			}
			n++
			if at := number(attr(t, "r")); at >= n {
				n = at
			}
			if n > maxRows {
				return fmt.Errorf("it has more than %d rows", maxRows)
			}
			if err := r.row(t, n); err != nil {
				return err
			}
		case xml.EndElement:
			r.sheet.data[1] = r.from
			return nil
		}
	}
}

func cut(err error) error {
	if errors.Is(err, io.EOF) {
		return errCut
	}
	return err
}

// skip passes over the element whose start was read.
func (r *reader) skip() error {
	for depth := 1; depth > 0; {
		t, err := r.next()
		if err != nil {
			return cut(err)
		}
		switch t.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			depth--
		}
	}
	return nil
}

func (r *reader) row(e xml.StartElement, n int) error {
	l := line{n: n, from: r.from, inner: r.here()}
	if v := attr(e, "customFormat"); v == "1" || v == "true" {
		l.style = attr(e, "s")
	}
	closed := r.closed()
	col := -1
	for {
		t, err := r.next()
		if err != nil {
			return cut(err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			if t.Name.Local != "c" {
				if err := r.skip(); err != nil {
					return err
				}
				continue
			}
			col++
			if at := feed.ColumnOf(attr(t, "r")); at >= col {
				col = at
			}
			if col >= maxColumns {
				return fmt.Errorf("row %d has more than %d columns", n, maxColumns)
			}
			c, err := r.cell(t, col)
			if err != nil {
				return err
			}
			l.cells = append(l.cells, c)
		case xml.EndElement:
			l.end, l.to = r.from, r.here()
			if closed {
				l.end = l.to
			}
			r.sheet.lines = append(r.sheet.lines, l)
			return nil
		}
	}
}

func (r *reader) cell(e xml.StartElement, col int) (cell, error) {
	c := cell{col: col, from: r.from, style: attr(e, "s")}
	kind := attr(e, "t")
	var text strings.Builder
	in, value := "", ""
	for depth, quiet := 1, 0; depth > 0; {
		t, err := r.next()
		if err != nil {
			return c, cut(err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			depth++
			in = t.Name.Local
			switch {
			case in == "f":
				c.formula, r.sheet.formulas = true, true
				how := attr(t, "t")
				c.shared = attr(t, "ref") != "" && (how == "shared" || how == "array" || how == "dataTable")
			case in == "rPh" && quiet == 0:
				quiet = depth
			}
		case xml.EndElement:
			if depth == quiet {
				quiet = 0
			}
			depth--
			in = ""
		case xml.CharData:
			switch {
			case in == "v":
				value += string(t)
			case in == "t" && quiet == 0:
				text.Write(t)
			}
		}
	}
	c.to = r.here()
	switch kind {
	case "s":
		n := number(strings.TrimSpace(value))
		if n < 0 || n >= len(r.strings) {
			return c, errors.New("a cell points to a text that isn't there")
		}
		c.text = r.strings[n]
	case "inlineStr":
		c.text = feed.UnescapeX(text.String())
	case "str":
		c.text = feed.UnescapeX(value)
	case "b":
		c.text = map[string]string{"1": "TRUE", "0": "FALSE"}[strings.TrimSpace(value)]
	default:
		c.text = strings.TrimSpace(value)
	}
	return c, nil
}

// rule reads a data validation, of the standard or of the extension that keeps
// lists on other sheets.
func (r *reader) rule(e xml.StartElement) error {
	out := rule{kind: attr(e, "type"), operator: attr(e, "operator")}
	where := attr(e, "sqref")
	if !r.closed() {
		in := ""
		for depth := 1; depth > 0; {
			t, err := r.next()
			if err != nil {
				return cut(err)
			}
			switch t := t.(type) {
			case xml.StartElement:
				depth++
				if name := t.Name.Local; name != "f" {
					in = name
				}
			case xml.EndElement:
				depth--
				if t.Name.Local != "f" {
					in = ""
				}
			case xml.CharData:
				switch in {
				case "formula1":
					out.first += string(t)
				case "formula2":
					out.second += string(t)
				case "sqref":
					where += string(t)
				}
			}
		}
	}
	for _, a := range strings.Fields(where) {
		if x, ok := areaOf(a); ok {
			out.areas = append(out.areas, x)
		}
	}
	r.sheet.rules = append(r.sheet.rules, out)
	return nil
}

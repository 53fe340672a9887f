package blank

import (
	"io"
	"strings"

	"golang.org/x/text/encoding/charmap"

	"easymargin/internal/fault"
)

// Rows are the rows to be written, gone through once. Each is given with the
// number that problems name it by.
type Rows interface {
	Len() int
	Each(yield func(n int, r Row) error) error
}

// Options say how a blank is filled.
type Options struct {
	Anyway  bool          // also what isn't allowed, and without what is missing
	Problem func(Problem) // hears of each
	Human   bool          // a text is meant for a person's spreadsheet: none of its cells may look like a formula
}

// Result is what came of filling a blank.
type Result struct {
	Rows     int  // written, or that would have been
	Start    int  // row of the first of them, from 1
	Problems int  // heard of
	Written  bool // false: what was written is no file that can be used
}

// target is a column that is filled.
type target struct {
	Filled
	trail   trail
	mapping mapping
	col     int // from 0
	checks
	needed bool
	style  string // format of its cells
}

// kind is what a cell is written as.
type kind byte

const (
	empty kind = iota
	asText
	asNumber
	asDate
)

// value is what one cell is written with.
type value struct {
	kind kind
	text string
}

// job is one filling: where rows go, and what is checked.
type job struct {
	Options
	layout  *Layout
	sheet   *sheet // nil for a text
	targets []target
	without []string // headers of needed columns that the layout doesn't name
	start   int
	width   int // fields of the header
	result  Result
	encoded *charmap.Charmap // nil: any character
	fatal   bool
	days    bool // days are written as a workbook counts them, early or not
	early   bool
}

func (j *job) problem(p Problem) {
	j.result.Problems++
	if j.Problem != nil {
		j.Problem(p)
	}
}

// writer writes rows.
type writer interface {
	begin() error
	row(n int, values []value) error // n from 1; a value for each target
	end() error
}

// Fill writes the blank with the rows to w. Problems are heard of as they are
// met; where one is, and Anyway isn't said, nothing that was written is of use.
// An error is something else: a layout that doesn't fit, a row that can't be read.
func (b *Blank) Fill(l *Layout, rows Rows, w io.Writer, o Options) (Result, error) {
	if err := l.Valid(); err != nil {
		return Result{}, err
	}
	kind := l.Output.Kind
	if kind == "" {
		kind = "xlsx"
		if b.book == nil {
			kind = "csv"
		}
	}
	if b.book == nil && kind == "xlsx" {
		made, err := bookOf(b.table)
		if err != nil {
			return Result{}, err
		}
		b = &Blank{book: made}
	}
	j := &job{Options: o, layout: l}
	place, err := b.prepare(j)
	if err != nil {
		return Result{}, err
	}
	if j.start+rows.Len()-1 > maxRows && kind == "xlsx" {
		return Result{}, fault.New(fault.Invalid, "%d rows from row %d on don't fit: a sheet has at most %d", rows.Len(), j.start, maxRows)
	}
	var out writer
	if kind == "xlsx" {
		j.days, j.early = true, b.book.early
		out, err = b.book.writer(j, place, rows.Len(), w)
	} else {
		if l.Output.Encoding == "windows-1252" {
			j.encoded = charmap.Windows1252
		}
		out, err = b.textWriter(j, kind, w)
	}
	if err != nil {
		return Result{}, err
	}
	return j.run(rows, out)
}

func (j *job) run(rows Rows, out writer) (Result, error) {
	writing := j.usable()
	if writing {
		if err := out.begin(); err != nil {
			return j.result, err
		}
	}
	values := make([]value, len(j.targets))
	n := 0
	err := rows.Each(func(named int, r Row) error {
		n++
		for i := range j.targets {
			values[i] = j.value(&j.targets[i], r, named)
		}
		for _, header := range j.without {
			j.problem(Problem{Row: named, Column: header, Code: Missing})
		}
		if writing = writing && j.usable(); writing {
			return out.row(j.start+n-1, values)
		}
		return nil
	})
	j.result.Rows, j.result.Start = n, j.start
	if err != nil {
		return j.result, err
	}
	if writing = writing && j.usable(); writing {
		err = out.end()
	}
	j.result.Written = writing && err == nil
	return j.result, err
}

// usable tells whether what is written can still be used.
func (j *job) usable() bool { return !j.fatal && (j.Anyway || j.result.Problems == 0) }

// value is what a row says in a column, checked.
func (j *job) value(t *target, r Row, n int) value {
	say := func(code, what string) { j.problem(Problem{Row: n, Column: t.Header, Code: code, Value: what}) }
	raw := ""
	if t.Value != nil {
		raw = *t.Value
	} else if len(t.trail) > 0 {
		var err error
		if raw, err = text(t.trail.at(r), t.Join, t.mapping.of); err != nil {
			say(CannotWritten, "")
			return value{}
		}
	}
	if strings.TrimSpace(raw) == "" && !strings.Contains(raw, "\r") { // a return is kept
		if t.needed {
			say(Missing, "")
		}
		return value{}
	}
	if !j.holdable(t, raw, n) {
		return value{}
	}
	picked, allowed := t.pick(raw)
	if !allowed {
		say(NotOneOf, raw)
		picked = raw
	}
	raw = picked
	if allowed && t.most > 0 && units(raw) > t.most {
		say(TooLong, "")
	}
	plain := strings.TrimSpace(raw)
	again := say // one problem a cell: what isn't allowed is a number or a day all the same
	if !allowed {
		again = func(string, string) {}
	}
	switch t.As {
	case "number":
		if isNumber(plain) {
			return value{asNumber, plain}
		}
		again(CannotWritten, raw)
	case "date":
		d, ok := day(plain)
		if ok && j.days {
			_, ok = serial(d, j.early)
		}
		if ok {
			return value{asDate, plain}
		}
		again(CannotWritten, raw)
	}
	return value{asText, raw}
}

// holdable tells whether a cell can hold a text at all; where none can, nothing
// is written, not even anyway.
func (j *job) holdable(t *target, raw string, n int) bool {
	bad := unwritable(raw)
	if bad == "" && j.encoded != nil {
		for _, r := range raw {
			if _, ok := j.encoded.EncodeRune(r); !ok {
				bad = string(r)
				break
			}
		}
	}
	if bad != "" {
		j.fatal = true
		j.problem(Problem{Row: n, Column: t.Header, Code: CannotWritten, Value: bad})
		return false
	}
	if len(raw) > maxText && units(raw) > maxText {
		j.fatal = true
		j.problem(Problem{Row: n, Column: t.Header, Code: TooLong})
		return false
	}
	return true
}

// prepare finds where the layout's columns are and where rows begin. It gives
// the place of the sheet in its workbook.
func (b *Blank) prepare(j *job) (int, error) {
	l := j.layout
	found, place, err := b.find(l)
	if err != nil {
		return 0, err
	}
	header, first := found.HeaderRow, l.FirstRow
	if first == 0 {
		first = found.FirstRow
	}
	taken := map[int]bool{}
	for _, c := range l.Columns {
		at := -1
		for i := range found.Columns {
			if !taken[i] && plainHeader(found.Columns[i].Header) == plainHeader(c.Header) {
				at = i
				break
			}
		}
		if at < 0 {
			j.problem(Problem{Column: c.Header, Code: NoSuchColumn})
			continue
		}
		taken[at] = true
		col := &found.Columns[at]
		t := target{Filled: c, col: col.at, needed: col.Needed != nil && *col.Needed, mapping: mappingOf(c.Map)}
		if c.From != "" {
			t.trail = strings.Split(c.From, ".")
		}
		j.targets = append(j.targets, t)
	}
	for i, c := range found.Columns {
		if !taken[i] && c.Needed != nil && *c.Needed {
			j.without = append(j.without, c.Header)
		}
	}
	if b.book == nil {
		j.width = len(b.table[header-1])
		j.start = first
		for i := first; i <= len(b.table); i++ {
			for _, t := range j.targets {
				if t.col < len(b.table[i-1]) && strings.TrimSpace(b.table[i-1][t.col]) != "" {
					j.start = i + 1
				}
			}
		}
		return 0, nil
	}
	s, err := b.book.sheet(b.book.files[place])
	if err != nil {
		return 0, err
	}
	j.sheet = s
	j.start = first
	for i := range s.lines {
		line := &s.lines[i]
		if line.n == header && len(line.cells) > 0 {
			for _, c := range line.cells {
				if strings.TrimSpace(c.text) != "" {
					j.width = c.col + 1
				}
			}
		}
		for k := range j.targets {
			if c := line.at(j.targets[k].col); line.n >= first && c != nil && !c.formula && strings.TrimSpace(c.text) != "" {
				j.start = line.n + 1
			}
		}
	}
	for k := range j.targets {
		t := &j.targets[k]
		t.checks = b.book.column(s, place, t.col, first)
		t.style = s.format(t.col, first)
	}
	return place, nil
}

// find is the sheet of a layout, recognised with the layout's header.
func (b *Blank) find(l *Layout) (Sheet, int, error) {
	none := fault.New(fault.Invalid, "no header was found in the blank; say in the layout in which row it is (header_row)")
	if b.book == nil {
		if l.HeaderRow > len(b.table) {
			return Sheet{}, 0, fault.At("layout", "the header is to be in row %d, and the blank has %d", l.HeaderRow, len(b.table))
		}
		s, ok := b.recogniseText(l.HeaderRow)
		if !ok {
			return s, 0, none
		}
		return s, 0, nil
	}
	place := 0
	if l.Sheet != "" {
		if place = b.book.sheetOf(l.Sheet); place < 0 {
			return Sheet{}, 0, fault.At("layout", "the blank has no sheet %q; it has %s", l.Sheet, strings.Join(b.book.names, ", "))
		}
	} else {
		list, err := b.Sheets()
		if err != nil {
			return Sheet{}, 0, err
		}
		best, ok := Template(list)
		if !ok {
			return best, 0, none
		}
		place = best.from
	}
	s, err := b.book.sheet(b.book.files[place])
	if err != nil {
		return Sheet{}, 0, err
	}
	found, ok, err := b.book.recognise(s, place, l.HeaderRow)
	if err == nil && !ok {
		err = none
	}
	return found, place, err
}

// format is the format of a column's cells: that of its cell in the first row,
// else that row's, else the column's; "" for none.
func (s *sheet) format(col, first int) string {
	if l := s.line(first); l != nil {
		if c := l.at(col); c != nil {
			return c.style
		}
		if l.style != "" {
			return l.style
		}
	}
	for _, c := range s.columns {
		if col >= c.from && col <= c.to {
			return c.style
		}
	}
	return ""
}

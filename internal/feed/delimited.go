package feed

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// delimited is text with cells parted by one of four marks, quoted as RFC 4180
// says. A quote inside an unquoted cell is a character like any other.
type delimited struct{}

const marks = ",;\t|"

func (delimited) recognise(head []byte) bool {
	return bytes.IndexByte(head, 0) < 0 && bytes.ContainsAny(head, marks) && bytes.ContainsAny(head, "\r\n")
}

func (d delimited) look(r io.Reader) (Look, error) {
	head, err := io.ReadAll(io.LimitReader(r, 256<<10))
	if err != nil {
		return Look{}, err
	}
	best, bestNamed := Look{}, 0
	for _, mark := range []byte(marks) {
		l, named := headerOf(head, mark)
		if named > bestNamed {
			best, bestNamed = l, named
		}
	}
	if bestNamed < 2 {
		return Look{}, &Error{Reason: "no header row was found: a row that names at least two columns such as ref, title, cost, stock. Add one at the top and bring the file in again"}
	}
	return best, nil
}

// headerOf looks for the header among the first rows, were the cells parted by mark.
func headerOf(head []byte, mark byte) (Look, int) {
	s := newScanner(bytes.NewReader(head), mark)
	l := Look{Kind: "delimited", Encoding: "utf-8", Delimiter: string(mark)}
	named := 0
	for range 200 {
		rec, err := s.next()
		if err != nil {
			break
		}
		if named == 0 {
			columns, n := nameColumns(rec.Cells)
			if n >= 2 {
				named, l.Columns, l.HeaderRow = n, columns, rec.Row
			}
			continue
		}
		enough := true
		for i := range l.Columns {
			if i < len(rec.Cells) && strings.TrimSpace(rec.Cells[i]) != "" && len(l.Columns[i].Samples) < 3 {
				l.Columns[i].Samples = append(l.Columns[i].Samples, clip(rec.Cells[i], 80))
			}
			enough = enough && len(l.Columns[i].Samples) == 3
			if l.Columns[i].Field == "currency" && l.Currency == "" && i < len(rec.Cells) {
				l.Currency = strings.TrimSpace(rec.Cells[i])
			}
			if l.Columns[i].Field == "cost" && l.Currency == "" && i < len(rec.Cells) {
				l.Currency = signOf(rec.Cells[i])
			}
		}
		if enough {
			break
		}
	}
	return l, named
}

func clip(s string, n int) string {
	if len(s) <= n {
		return s
	}
	for n > 0 && !utf8.RuneStart(s[n]) {
		n--
	}
	return s[:n] + "…"
}

func (delimited) records(r io.Reader, l Look, yield func(Record) bool) error {
	s := newScanner(r, l.Delimiter[0])
	for {
		rec, err := s.next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if rec.Row <= l.HeaderRow || blank(rec.Cells) {
			continue
		}
		if !yield(rec) {
			return nil
		}
	}
}

func blank(cells []string) bool {
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return true
}

// scanner cuts delimited text into records. Rows are counted as a spreadsheet
// shows them: blank lines count, a line break inside quotes starts no row.
type scanner struct {
	r     *bufio.Reader
	mark  byte
	row   int
	buf   []byte
	ends  []int
	start bool
}

func newScanner(r io.Reader, mark byte) *scanner {
	return &scanner{r: bufio.NewReaderSize(r, 1<<18), mark: mark, start: true}
}

// next is the next record; io.EOF after the last.
func (s *scanner) next() (Record, error) {
	if s.start {
		s.start = false
		if bom, err := s.r.Peek(3); err == nil && bytes.Equal(bom, []byte("\ufeff")) {
			_, _ = s.r.Discard(3)
		}
	}
	s.buf, s.ends = s.buf[:0], s.ends[:0]
	s.row++
	for {
		more, err := s.cell()
		if err != nil {
			return Record{}, err
		}
		if len(s.ends) > MaxColumns {
			return Record{}, &Error{s.row, fmt.Sprintf("has more than %d columns, which is the most that is read", MaxColumns)}
		}
		if !more {
			break
		}
	}
	if !utf8.Valid(s.buf) {
		return Record{}, &Error{s.row, "is not text in UTF-8; save the file as UTF-8 and bring it in again"}
	}
	all := string(s.buf)
	cells, from := make([]string, len(s.ends)), 0
	for i, to := range s.ends {
		cells[i], from = all[from:to], to
	}
	return Record{s.row, cells}, nil
}

// cell reads one cell and tells whether the record goes on behind it.
func (s *scanner) cell() (bool, error) {
	from := len(s.buf)
	b, err := s.r.ReadByte()
	if err == io.EOF && len(s.ends) == 0 {
		return false, io.EOF
	}
	quoted := err == nil && b == '"'
	if quoted {
		if err := s.quoted(); err != nil {
			return false, err
		}
		b, err = s.r.ReadByte()
	}
	for {
		switch {
		case err == io.EOF:
			s.ends = append(s.ends, len(s.buf))
			return false, nil
		case err != nil:
			return false, err
		case b == s.mark:
			s.ends = append(s.ends, len(s.buf))
			return true, nil
		case b == '\n', b == '\r':
			if b == '\r' {
				if next, err := s.r.Peek(1); err == nil && next[0] == '\n' {
					_, _ = s.r.Discard(1)
				}
			}
			s.ends = append(s.ends, len(s.buf))
			return false, nil
		}
		if s.buf = append(s.buf, b); len(s.buf)-from > MaxCell {
			return false, s.tooLong()
		}
		b, err = s.r.ReadByte()
	}
}

// quoted reads the inside of a quoted cell, up to its closing quote.
func (s *scanner) quoted() error {
	from, row := len(s.buf), s.row
	for {
		b, err := s.r.ReadByte()
		if err == io.EOF {
			return &Error{row, "opens a quote that is never closed; close it or double the quotes inside the cell"}
		}
		if err != nil {
			return err
		}
		if b == '"' {
			next, err := s.r.Peek(1)
			if err != nil || next[0] != '"' {
				return nil
			}
			_, _ = s.r.Discard(1)
		}
		if s.buf = append(s.buf, b); len(s.buf)-from > MaxCell {
			return s.tooLong()
		}
	}
}

func (s *scanner) tooLong() error {
	return &Error{s.row, fmt.Sprintf("has a cell of more than %d KiB, which is the most that is read; a quote opened there may never be closed", MaxCell>>10)}
}

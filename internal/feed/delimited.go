package feed

import (
	"bytes"
	"errors"
	"io"
	"strings"
)

// delimited is text with cells parted by one of four marks, quoted as RFC 4180
// says. A quote inside an unquoted cell is a character like any other.
type delimited struct{}

const marks = ",;\t|"

func (delimited) name() string { return "delimited" }

func (delimited) recognise(head []byte) bool {
	return bytes.IndexByte(head, 0) < 0 && bytes.ContainsAny(head, marks)
}

func (delimited) look(in *input, s Settings) (Look, error) {
	var best header
	mark := byte(0)
	for _, m := range []byte(marks) {
		h := newHeaderFinder(&s)
		sc := newScanner(bytes.NewReader(in.head), m)
		for range headerRows {
			rec, err := sc.next()
			if err != nil || h.found(rec) {
				break // an error here is met again, and told, when the rows are read
			}
		}
		if h.best.better(&best) {
			best, mark = h.best, m
		}
	}
	if best.rank == 0 {
		// The head may end before the header does, where a preamble is very long; and a wrong quote must be told as such.
		sc := newScanner(bytes.NewReader(in.head), ',')
		for range headerRows {
			if _, err := sc.next(); err != nil {
				var e *Error
				if errors.As(err, &e) && (e.limit || len(in.head) < 60<<10) {
					return Look{}, e
				}
				break
			}
		}
		return Look{}, errNoHeader
	}
	return Look{Delimiter: string(mark), HeaderRow: best.row, Columns: best.columns}, nil
}

func (delimited) records(in *input, l *Look, yield func(*Record) bool) error {
	r, err := in.text()
	if err != nil {
		return err
	}
	defer r.Close()
	s := newScanner(r, l.Delimiter[0])
	for {
		rec, err := s.next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return in.broken(err)
		}
		if rec.Row > l.HeaderRow && !yield(rec) {
			return nil
		}
	}
}

// scanner cuts delimited text into records, a window of the text at a time.
// Rows are counted as a spreadsheet shows them: blank lines count, a line break
// inside quotes starts no row.
type scanner struct {
	r     io.Reader
	mark  byte
	buf   []byte // the window
	at    int    // where the next record begins in it
	eof   bool
	rec   Record
	ends  []span
	lines int
}

// span is one cell in the window; doubled says that it has doubled quotes.
type span struct {
	from, to int
	doubled  bool
	extra    []byte // what follows a closing quote, which no standard allows
}

func newScanner(r io.Reader, mark byte) *scanner {
	return &scanner{r: r, mark: mark, buf: make([]byte, 0, 256<<10)}
}

var errMore = errors.New("the record goes on behind the window")

// next is the next record, good until the one after; io.EOF after the last.
func (s *scanner) next() (*Record, error) {
	for {
		if s.at == len(s.buf) && s.eof {
			return nil, io.EOF
		}
		to, err := s.cut()
		if err == nil {
			s.rec.Row = s.lines + 1
			s.lines++
			s.texts(to)
			s.at = to
			return &s.rec, nil
		}
		if !errors.Is(err, errMore) {
			return nil, err
		}
		if err := s.fill(); err != nil {
			return nil, err
		}
	}
}

// fill moves the record that has begun to the front and reads on behind it.
func (s *scanner) fill() error {
	n := copy(s.buf, s.buf[s.at:])
	s.buf, s.at = s.buf[:n], 0
	if n == cap(s.buf) {
		s.buf = append(make([]byte, 0, 2*cap(s.buf)), s.buf...)
	}
	n, err := s.r.Read(s.buf[len(s.buf):cap(s.buf)])
	s.buf = s.buf[:len(s.buf)+n]
	if errors.Is(err, io.EOF) {
		s.eof = true
		return nil
	}
	return err
}

// cut finds the cells of the record that begins at s.at and says where the next begins.
func (s *scanner) cut() (int, error) {
	s.ends = s.ends[:0]
	b, i := s.buf, s.at
	for {
		if len(s.ends) >= MaxColumns {
			return 0, tooMany(s.lines + 1)
		}
		c := span{from: i}
		if i < len(b) && b[i] == '"' {
			end, err := s.quoted(i + 1)
			if err != nil {
				return 0, err
			}
			c.from, c.to, c.doubled = i+1, end.to, end.doubled
			i = end.to + 1
		}
		from := i
		for i < len(b) && b[i] != s.mark && b[i] != '\n' && b[i] != '\r' {
			i++
		}
		if i-from > MaxCell {
			return 0, tooLong(s.lines + 1)
		}
		if c.to == 0 {
			c.to = i
		} else if i > from {
			c.extra = b[from:i]
		}
		if i >= len(b) {
			if !s.eof {
				return 0, errMore
			}
			s.ends = append(s.ends, c)
			return i, nil
		}
		s.ends = append(s.ends, c)
		switch b[i] {
		case s.mark:
			i++
			continue
		case '\n':
			return i + 1, nil
		}
		if i+1 < len(b) {
			if b[i+1] == '\n' {
				return i + 2, nil
			}
			return i + 1, nil
		}
		if !s.eof {
			return 0, errMore // a line feed may follow
		}
		return i + 1, nil
	}
}

// quoted finds the quote that closes a cell which begins at i.
func (s *scanner) quoted(i int) (span, error) {
	out := span{from: i}
	for {
		at := bytes.IndexByte(s.buf[i:], '"')
		if at < 0 && len(s.buf)-out.from > MaxCell {
			return out, tooLong(s.lines + 1)
		}
		if at < 0 {
			if !s.eof {
				return out, errMore
			}
			return out, &Error{
				Row:    s.lines + 1,
				Reason: "opens a quote that is never closed; close it or double the quotes inside the cell",
			}
		}
		i += at
		if i+1 >= len(s.buf) && !s.eof {
			return out, errMore
		}
		if i+1 < len(s.buf) && s.buf[i+1] == '"' {
			out.doubled = true
			i += 2
			continue
		}
		if i-out.from > MaxCell {
			return out, tooLong(s.lines + 1)
		}
		out.to = i
		return out, nil
	}
}

// texts makes strings of the cells: one for the whole record, and parts of it.
func (s *scanner) texts(to int) {
	all := string(s.buf[s.at:to])
	s.rec.Cells = s.rec.Cells[:0]
	for _, c := range s.ends {
		text := all[c.from-s.at : c.to-s.at]
		if c.doubled {
			text = strings.ReplaceAll(text, `""`, `"`)
		}
		if c.extra != nil {
			text += string(c.extra)
		}
		s.rec.Cells = append(s.rec.Cells, text)
	}
}

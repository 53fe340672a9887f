package feed

import (
	"bytes"
	"errors"
	"io"
	"unicode/utf8"
)

// Known is the field that a column name stands for by the built-in words;
// "" where it isn't known.
func Known(name string) string {
	field, _ := new(Settings).known(name)
	return field
}

// Names are the fields that the cells of a header stand for, in any of the languages that
// headers are read in; "" for a cell that names none.
func Names(cells []string) []string {
	columns, _ := nameColumns(cells, new(Settings))
	out := make([]string, len(columns))
	for i, c := range columns {
		out[i] = c.Field
	}
	return out
}

// Text decodes a text file as a feed is decoded: by its mark, by where its
// zeros are, as UTF-8 where it is valid, else as windows-1252. It names the
// encoding: utf-8, utf-16, windows-1252.
func Text(raw []byte) (text []byte, encoding string, err error) {
	encoding, e := encodingOf(raw, utf8.Valid(raw))
	if e != nil {
		if raw, err = e.NewDecoder().Bytes(raw); err != nil {
			return nil, encoding, err
		}
	}
	return bytes.TrimPrefix(raw, []byte("\ufeff")), encoding, nil
}

// Delimited cuts text into records of cells, as a feed's is: blank lines are
// records of one empty cell.
func Delimited(text []byte, mark byte) ([][]string, error) {
	s := newScanner(bytes.NewReader(text), mark)
	var out [][]string
	for {
		rec, err := s.next()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		out = append(out, append([]string(nil), rec.Cells...))
	}
}

// UnescapeX decodes _x000D_ and its like, ECMA-376 part 1, 22.4.2.4 (ST_Xstring).
func UnescapeX(s string) string { return unescapeX(s) }

// ColumnOf is the place of a cell's column by its reference, from 0; −1 where
// the reference doesn't say.
func ColumnOf(ref string) int { return columnOf(ref) }

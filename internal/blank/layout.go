package blank

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"easymargin/internal/fault"
)

// Layout says where what goes in a blank: docs/definitions/listing.md, section 3. It is
// kept, exported and read as JSON.
type Layout struct {
	Sheet     string  `json:"sheet,omitempty"`      // "": the one that looks most like it, or a text
	HeaderRow int     `json:"header_row,omitempty"` // from 1; 0: as recognised
	FirstRow  int     `json:"first_row,omitempty"`
	Columns   Columns `json:"columns"`
	Output    Output  `json:"output"`
}

// Columns are the columns of a layout in their order: of two keys for headers of
// one name, the earlier takes the earlier column.
type Columns []Filled

// Filled is what one column is filled with.
type Filled struct {
	Header string            `json:"-"`
	From   string            `json:"from,omitempty"` // a path of names joined by points
	Value  *string           `json:"value,omitempty"`
	As     string            `json:"as,omitempty"` // number, date; "": text
	Join   string            `json:"join,omitempty"`
	Map    map[string]string `json:"map,omitempty"`
}

// Output says how what is filled is written.
type Output struct {
	Kind      string `json:"kind,omitempty"` // xlsx, csv, tsv; "": as the blank
	Encoding  string `json:"encoding,omitempty"`
	Delimiter string `json:"delimiter,omitempty"`
	Decimal   string `json:"decimal,omitempty"`
	LineEnd   string `json:"line_end,omitempty"`
	Header    string `json:"header,omitempty"` // all, last, none
}

// UnmarshalJSON keeps the order in which columns are written.
func (c *Columns) UnmarshalJSON(raw []byte) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	if t, err := d.Token(); err != nil || t != json.Delim('{') {
		return errors.New("columns: an object is needed, of a column's header to what it is filled with")
	}
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return err
		}
		f := Filled{Header: key.(string)}
		if err := d.Decode(&f); err != nil {
			return fmt.Errorf("columns.%s: %w", f.Header, err)
		}
		*c = append(*c, f)
	}
	return nil
}

// MarshalJSON writes the columns in their order.
func (c Columns) MarshalJSON() ([]byte, error) {
	var out bytes.Buffer
	out.WriteByte('{')
	for i := range c {
		key, err := json.Marshal(c[i].Header)
		if err != nil {
			return nil, err
		}
		value, err := json.Marshal(c[i])
		if err != nil {
			return nil, err
		}
		if i > 0 {
			out.WriteByte(',')
		}
		out.Write(key)
		out.WriteByte(':')
		out.Write(value)
	}
	out.WriteByte('}')
	return out.Bytes(), nil
}

// UnmarshalJSON reads a column's filling strictly; a constant may be a number.
func (f *Filled) UnmarshalJSON(raw []byte) error {
	type plain Filled
	var in struct {
		plain
		Value json.RawMessage `json:"value"`
	}
	if err := strict(raw, &in); err != nil {
		return err
	}
	header := f.Header
	*f = Filled(in.plain)
	f.Header = header
	if v := bytes.TrimSpace(in.Value); len(v) > 0 && string(v) != "null" {
		text := string(v)
		if v[0] == '"' {
			if err := json.Unmarshal(v, &text); err != nil {
				return err
			}
		} else if v[0] == '{' || v[0] == '[' {
			return errors.New("value: a text is needed")
		}
		f.Value = &text
	}
	return nil
}

func strict(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("there is more than one value")
	}
	return nil
}

// ReadLayout reads a layout and checks it.
func ReadLayout(raw []byte) (*Layout, error) {
	var l Layout
	if err := strict(bytes.TrimPrefix(raw, []byte("\ufeff")), &l); err != nil {
		return nil, fault.At("layout", "the layout can't be read: %v", err)
	}
	err := l.Valid()
	return &l, err
}

// Valid tells what is wrong with a layout.
func (l *Layout) Valid() error {
	o := &l.Output
	word := func(name, value string, words ...string) error {
		if value != "" && !slices.Contains(words, value) {
			return fault.At("layout", "output.%s: %q is none of %s", name, value, strings.Join(words, ", "))
		}
		return nil
	}
	for _, err := range []error{
		word("kind", o.Kind, "xlsx", "csv", "tsv"),
		word("encoding", o.Encoding, "utf-8", "utf-8-bom", "windows-1252", "utf-16"),
		word("line_end", o.LineEnd, "crlf", "lf"),
		word("header", o.Header, "all", "last", "none"),
		word("decimal", o.Decimal, ".", ","),
	} {
		if err != nil {
			return err
		}
	}
	if o.Delimiter != "" && (utf8.RuneCountInString(o.Delimiter) != 1 || strings.ContainsAny(o.Delimiter, "\"\r\n")) {
		return fault.At("layout", "output.delimiter: one character is needed, and no quote or line end")
	}
	if l.HeaderRow < 0 || l.FirstRow < 0 || l.HeaderRow > maxRows || l.FirstRow > maxRows {
		return fault.At("layout", "header_row and first_row count from 1 to %d", maxRows)
	}
	if l.FirstRow > 0 && l.FirstRow <= l.HeaderRow {
		return fault.At("layout", "first_row %d isn't below header_row %d", l.FirstRow, l.HeaderRow)
	}
	for i := range l.Columns {
		c := &l.Columns[i]
		if c.As != "" && c.As != "number" && c.As != "date" && c.As != "text" {
			return fault.At("layout", "columns.%s.as: %q is none of number, date", c.Header, c.As)
		}
		if c.From != "" && c.Value != nil {
			return fault.At("layout", "columns.%s: it is filled from a path or with a value, not with both", c.Header)
		}
	}
	return nil
}

package blank

import (
	"encoding/json"
	"errors"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/listing"
)

// Row is a row to be written, as JSON has it: objects, arrays, texts, json.Number.
type Row map[string]any

// trail is a path of names, parted once.
type trail []string

// at is what stands at a path: nil where nothing does. A number counts from 1 in
// an array.
func (p trail) at(v any) any {
	for _, step := range p {
		switch in := v.(type) {
		case Row:
			v = in[step]
		case map[string]any:
			v = in[step]
		case []any:
			n, err := strconv.Atoi(step)
			if err != nil || n < 1 || n > len(in) {
				return nil
			}
			v = in[n-1]
		default:
			return nil
		}
	}
	return v
}

// errShape is a value that is an object, which no cell holds.
var errShape = errors.New("an object can't be written into a cell")

// text is a value as a cell's text; each of several is put through put.
func text(v any, join string, put func(string) string) (string, error) {
	switch v := v.(type) {
	case nil:
		return "", nil
	case string:
		return put(v), nil
	case json.Number:
		return put(v.String()), nil
	case bool:
		return put(strconv.FormatBool(v)), nil
	case []any:
		if join == "" {
			join = ", "
		}
		var parts []string
		for _, x := range v {
			t, err := text(x, join, put)
			if err != nil {
				return "", err
			}
			if t != "" {
				parts = append(parts, t)
			}
		}
		return strings.Join(parts, join), nil
	}
	return "", errShape
}

// mapping is a column's map, looked up by the exact word, else by one alike.
type mapping struct{ exact, alike map[string]string }

func mappingOf(m map[string]string) mapping {
	out := mapping{m, map[string]string{}}
	for _, k := range slices.Sorted(maps.Keys(m)) {
		if _, ok := out.alike[listing.Alike(k)]; !ok {
			out.alike[listing.Alike(k)] = m[k]
		}
	}
	return out
}

func (m *mapping) of(s string) string {
	if len(m.exact) == 0 {
		return s
	}
	if v, ok := m.exact[s]; ok {
		return v
	}
	if v, ok := m.alike[listing.Alike(s)]; ok {
		return v
	}
	return s
}

// decimal is a number as JSON and people write one; zeros may lead.
var decimal = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?([eE][+-]?[0-9]{1,3})?$`)

// isNumber tells whether a text is a number that a workbook can hold.
func isNumber(s string) bool {
	_, err := strconv.ParseFloat(s, 64) // its size alone: the digits are written as they are
	return err == nil && decimal.MatchString(s)
}

// day reads YYYY-MM-DD.
func day(s string) (time.Time, bool) {
	t, err := time.Parse(time.DateOnly, strings.TrimSpace(s))
	return t, err == nil
}

// serial is a day as a workbook counts days: from the last day of 1899 with a 29
// February 1900 that never was, or from the first of 1904. ECMA-376 part 1, 18.17.4.
func serial(t time.Time, early bool) (int, bool) {
	since := func(y int, m time.Month, d int) int {
		return int(t.Sub(time.Date(y, m, d, 0, 0, 0, 0, time.UTC)) / (24 * time.Hour))
	}
	if early {
		n := since(1904, time.January, 1)
		return n, n >= 0
	}
	n := since(1899, time.December, 31)
	if n > 59 {
		n++
	}
	return n, n >= 1
}

// unwritable is the first character that no cell can hold: outside XML 1.0,
// section 2.2.
func unwritable(s string) string {
	for _, r := range s {
		if r < 0x20 && r != '\t' && r != '\n' && r != '\r' || r == 0xfffe || r == 0xffff {
			return string(r)
		}
	}
	return ""
}

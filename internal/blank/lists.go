package blank

import (
	"encoding/xml"
	"regexp"
	"strings"
	"unicode/utf16"

	"easymargin/core/listing"
)

// checks is what a column's rules say of a cell.
type checks struct {
	values []string       // of its drop-down; nil: any
	exact  map[string]int // places among the values
	alike  map[string]int
	most   int // UTF-16 units; 0: any
}

// allow has a column take some values only.
func (c *checks) allow(values []string) {
	c.values, c.exact, c.alike = values, map[string]int{}, map[string]int{}
	for i, v := range values {
		if _, ok := c.exact[v]; !ok {
			c.exact[v] = i
		}
		if key := listing.Alike(v); c.alike[key] == 0 {
			c.alike[key] = i + 1
		}
	}
}

// pick is the value of a drop-down that a text is, as the drop-down writes it:
// an exact one, else the first that is alike (docs/definitions/listing.md, section 1).
func (c *checks) pick(text string) (string, bool) {
	if c.values == nil {
		return text, true
	}
	if i, ok := c.exact[text]; ok {
		return c.values[i], true
	}
	if i := c.alike[listing.Alike(text)]; i > 0 {
		return c.values[i-1], true
	}
	return "", false
}

// units are the UTF-16 units of a text.
func units(s string) int {
	n := 0
	for _, r := range s {
		n += utf16.RuneLen(r)
	}
	return n
}

// column is what the rules of a sheet say of one column from a row on: those of
// the row itself, else the first below.
func (b *book) column(s *sheet, own, col, row int) checks {
	var out checks
	at := map[string]int{} // the row whose rule holds, by kind
	for i := range s.rules {
		r := &s.rules[i]
		for _, a := range r.areas {
			if col < a.col || col > a.toCol || a.toRow < row {
				continue
			}
			from := max(a.row, row)
			if was, ok := at[r.kind]; ok && was <= from {
				continue
			}
			switch r.kind {
			case "list":
				if values := b.list(r.first, own, 0); values != nil {
					at[r.kind] = from
					out.allow(values)
				}
			case "textLength":
				if most := r.most(); most > 0 {
					out.most, at[r.kind] = most, from
				}
			}
		}
	}
	return out
}

// most is the most units that a textLength rule lets a text have; 0 for any.
func (r *rule) most() int {
	first, second := number(strings.TrimSpace(r.first)), number(strings.TrimSpace(r.second))
	switch r.operator {
	case "", "between":
		return max(second, 0)
	case "lessThan":
		return max(first-1, 0)
	case "lessThanOrEqual", "equal":
		return max(first, 0)
	}
	return 0
}

// nameText is a name as a formula writes one.
var nameText = regexp.MustCompile(`^[\pL_\\][\pL\pN_.\\?]*$`)

// tableText is a column of a table: Papers[Kind].
var tableText = regexp.MustCompile(`^([\pL_\\][\pL\pN_.\\]*)\[(?:\[#Data\],)?\[?([^\[\]]+)\]?\]$`)

// list are the values that the formula of a drop-down stands for: a list, a
// range or a name; nil for another formula. own is the sheet it stands on.
func (b *book) list(formula string, own, depth int) []string {
	f := strings.TrimPrefix(strings.TrimSpace(formula), "=")
	if depth > 5 || f == "" {
		return nil
	}
	if strings.HasPrefix(f, `"`) {
		if len(f) < 2 || !strings.HasSuffix(f, `"`) {
			return nil
		}
		return nonEmpty(strings.Split(strings.ReplaceAll(f[1:len(f)-1], `""`, `"`), ","))
	}
	on, ref := own, f
	if i := strings.LastIndexByte(f, '!'); i >= 0 {
		name := f[:i]
		if strings.HasPrefix(name, "'") && strings.HasSuffix(name, "'") && len(name) > 2 {
			name = strings.ReplaceAll(name[1:len(name)-1], "''", "'")
		}
		if on, ref = b.sheetOf(name), f[i+1:]; on < 0 {
			return nil
		}
	}
	if a, ok := areaOf(ref); ok {
		return b.values(on, a)
	}
	if m := tableText.FindStringSubmatch(ref); m != nil {
		return b.tableColumn(m[1], m[2])
	}
	if !nameText.MatchString(ref) {
		return nil
	}
	var found *named
	for i := range b.ranges {
		n := &b.ranges[i]
		if strings.EqualFold(n.name, ref) && (n.sheet == on || n.sheet < 0 && found == nil) {
			found = n
		}
	}
	if found == nil {
		return nil
	}
	return b.list(found.text, on, depth+1)
}

func nonEmpty(list []string) []string {
	out := []string{}
	for _, s := range list {
		if s = strings.TrimSpace(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

// values are what the cells of an area hold, row by row, empty ones left out.
func (b *book) values(on int, a area) []string {
	if on >= len(b.files) {
		return nil
	}
	s, err := b.sheet(b.files[on])
	if err != nil {
		return nil // a sheet that is none, such as a chart
	}
	var all []string
	for i := range s.lines {
		for _, c := range s.lines[i].cells {
			if a.holds(c.col, s.lines[i].n) {
				all = append(all, c.text)
			}
		}
	}
	return nonEmpty(all)
}

// table is a table of a sheet: its place, and its columns' names.
type table struct {
	name    string
	sheet   int
	area    area
	columns []string
}

// tableColumn are the values of a table's column.
func (b *book) tableColumn(name, column string) []string {
	if !b.tabled {
		b.tabled = true
		b.readTables()
	}
	for _, t := range b.tables {
		if !strings.EqualFold(t.name, name) {
			continue
		}
		for i, c := range t.columns {
			if strings.EqualFold(c, column) {
				a := t.area
				a.col, a.toCol = a.col+i, a.col+i
				return b.values(t.sheet, a)
			}
		}
	}
	return nil
}

func (b *book) readTables() {
	for i, file := range b.files {
		rels, err := b.relations(file)
		if err != nil {
			continue
		}
		for _, r := range rels {
			if !strings.HasSuffix(r.kind, "/table") {
				continue
			}
			raw, err := b.part(r.part)
			if err != nil {
				continue
			}
			t := table{sheet: i}
			heads, totals := 1, 0
			err = each(raw, r.part, func(_ *xml.Decoder, e xml.StartElement) error {
				switch e.Name.Local {
				case "table":
					t.name = attr(e, "displayName")
					t.area, _ = areaOf(attr(e, "ref"))
					if v := attr(e, "headerRowCount"); v != "" {
						heads = max(number(v), 0)
					}
					totals = max(number(attr(e, "totalsRowCount")), 0)
				case "tableColumn":
					t.columns = append(t.columns, attr(e, "name"))
				}
				return nil
			})
			t.area.row, t.area.toRow = t.area.row+heads, t.area.toRow-totals
			if err == nil && t.name != "" {
				b.tables = append(b.tables, t)
			}
		}
	}
}

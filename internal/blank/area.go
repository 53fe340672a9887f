package blank

import (
	"strconv"
	"strings"

	"easymargin/internal/feed"
)

// area is a rectangle of cells: columns from 0, rows from 1, all inclusive.
type area struct{ col, row, toCol, toRow int }

func (a area) holds(col, row int) bool {
	return col >= a.col && col <= a.toCol && row >= a.row && row <= a.toRow
}

// areaOf reads A1, A1:B2, A:B or 1:2, with or without dollars.
func areaOf(s string) (area, bool) {
	from, to, two := strings.Cut(strings.ReplaceAll(s, "$", ""), ":")
	if !two {
		to = from
	}
	c1, r1, ok1 := corner(from)
	c2, r2, ok2 := corner(to)
	if !ok1 || !ok2 || !two && (c1 < 0 || r1 < 0) {
		return area{}, false
	}
	a := area{min(c1, c2), min(r1, r2), max(c1, c2), max(r1, r2)}
	if c1 < 0 && c2 < 0 {
		a.col, a.toCol = 0, maxColumns-1
	}
	if r1 < 0 && r2 < 0 {
		a.row, a.toRow = 1, maxRows
	}
	return a, (c1 < 0) == (c2 < 0) && (r1 < 0) == (r2 < 0)
}

// corner reads A1, A or 1; what isn't there is −1.
func corner(s string) (col, row int, ok bool) {
	i := 0
	for i < len(s) && (s[i]|0x20) >= 'a' && (s[i]|0x20) <= 'z' {
		i++
	}
	col, row = -1, -1
	if i > 0 {
		if i > 3 {
			return 0, 0, false
		}
		if col = feed.ColumnOf(s[:i]); col >= maxColumns {
			return 0, 0, false
		}
	}
	if i < len(s) {
		if row = number(s[i:]); row < 1 || row > maxRows {
			return 0, 0, false
		}
	}
	return col, row, len(s) > 0
}

// columnName is a column as a reference names it: 0 is A.
func columnName(col int) string {
	out := ""
	for col++; col > 0; col = (col - 1) / 26 {
		out = string(rune('A'+(col-1)%26)) + out
	}
	return out
}

func (a area) String() string {
	first, last := columnName(a.col)+strconv.Itoa(a.row), columnName(a.toCol)+strconv.Itoa(a.toRow)
	if first == last {
		return first
	}
	return first + ":" + last
}

// with is the area that holds another too.
func (a area) with(b area) area {
	return area{min(a.col, b.col), min(a.row, b.row), max(a.toCol, b.toCol), max(a.toRow, b.toRow)}
}

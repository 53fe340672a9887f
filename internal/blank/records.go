package blank

import "strings"

// Records are the rows of a blank's first sheet with a header, as texts, from the
// header on: a file that a place gives back is read so. The header comes first.
func (b *Blank) Records() ([][]string, error) {
	list, err := b.Sheets()
	if err != nil || len(list) == 0 {
		return nil, err
	}
	s, _ := Template(list)
	if b.book == nil {
		return b.table[s.HeaderRow-1:], nil
	}
	sheet, err := b.book.sheet(b.book.files[s.from])
	if err != nil {
		return nil, err
	}
	var out [][]string
	for i := range sheet.lines {
		l := &sheet.lines[i]
		if l.n < s.HeaderRow {
			continue
		}
		var rec []string
		for _, c := range l.cells {
			for len(rec) < c.col {
				rec = append(rec, "")
			}
			rec = append(rec, strings.TrimSpace(c.text))
		}
		out = append(out, rec)
	}
	return out, nil
}

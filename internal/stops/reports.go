package stops

import (
	"slices"
	"strings"

	"easymargin/internal/blank"
	"easymargin/internal/fault"
)

// RecordsOf reads a file that a place lets sellers download, CSV or a workbook: its
// header and the lines below it. wants is what such a file has, said where this one
// hasn't.
func RecordsOf(name string, raw []byte, wants string) ([][]string, error) {
	b, err := blank.Read(raw)
	if err != nil {
		return nil, fault.New(fault.Invalid, "%s: %v", Clip(name, 100), err)
	}
	records, err := b.Records()
	if err == nil && len(records) < 2 {
		err = fault.New(fault.Invalid, "%s has no header with lines below it; %s", Clip(name, 100), wants)
	}
	return records, err
}

// GuessedColumn is a column of such a file, and what it is read as; "": nothing.
type GuessedColumn struct {
	Name    string
	As      string
	Samples []string
	At      int // its place in a record
}

// GuessColumns says what the columns of a file are: as before, where that is known of
// a name, else by the names that words knows them by, in their order. A column without
// a name is none. taken are the things that some column is read as.
func GuessColumns(records [][]string, before map[string]string, order []string, words map[string][]string) (out []GuessedColumn, taken map[string]bool) {
	taken = map[string]bool{}
	for i, name := range records[0] {
		if strings.TrimSpace(name) == "" {
			continue
		}
		c := GuessedColumn{Name: name, As: before[name], Samples: []string{}, At: i}
		for _, rec := range records[1:] {
			if i < len(rec) && rec[i] != "" && len(c.Samples) < 3 && !slices.Contains(c.Samples, rec[i]) {
				c.Samples = append(c.Samples, Clip(rec[i], 80))
			}
		}
		taken[c.As] = true
		out = append(out, c)
	}
	for _, as := range order {
		for i := range out {
			c := &out[i]
			if _, said := before[c.Name]; !taken[as] && !said && c.As == "" && slices.Contains(words[as], strings.ToLower(strings.TrimSpace(c.Name))) {
				c.As, taken[as] = as, true
			}
		}
	}
	return out, taken
}

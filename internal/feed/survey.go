package feed

import (
	"encoding/json"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/money"
)

// facts are what only all values of a column together tell.
type facts struct {
	signs []signs // decimal signs, a column each
}

// signs counts what the values of a column prove of its decimal sign.
type signs struct{ point, comma int }

// decided is the column's decimal sign, 0 where nothing proves it. Two signs
// proved: the commoner.
func (s signs) decided() byte {
	switch {
	case s.point > s.comma:
		return '.'
	case s.comma > s.point:
		return ','
	}
	return 0
}

// figures tells whether a field is read with a decimal sign.
func figures(field string) bool {
	switch field {
	case "cost", "list_price", "least_advertised", "weight", "length", "width", "height", "box":
		return true
	}
	return false
}

// survey reads the file once under settings: samples, decimal signs, a column
// that is the identifier though no name says so, and the currency of the first rows.
func (f *File) survey(s Settings) error {
	f.s, f.look = s, f.base
	f.look.Columns = append([]Column(nil), f.base.Columns...)
	named := false
	for i := range f.look.Columns {
		c := &f.look.Columns[i]
		c.Samples = []string{}
		if field, chosen := s.Columns[c.Name]; chosen && c.Name != "" {
			c.Field = field
			if _, c.unit = s.known(c.Name); field == "" {
				c.unit = ""
			}
		}
		named = named || c.Field == "identifier"
	}
	n := len(f.look.Columns)
	f.signs = make([]signs, n)
	tally := make([]struct{ filled, good int }, n)
	cols := f.look.Columns
	stored := make([]bool, n) // columns with numbers stored as such
	code, cost := -1, -1
	for i := range cols {
		switch cols[i].Field {
		case "currency":
			code = i
		case "cost":
			cost = i
		}
	}
	f.look.Rows, f.look.Currency = 0, ""
	propose := newProposer(cols)
	err := f.ahead(func(r *Record) bool {
		f.look.Rows++
		for i, cell := range r.Cells {
			if i >= n {
				break
			}
			c := &cols[i]
			if len(c.Samples) < 3 {
				if t := strings.TrimSpace(cell); t != "" {
					c.Samples = append(c.Samples, clip(t, 80))
				}
			}
			switch {
			case figures(c.Field):
				if r.number(i) {
					stored[i] = true
				} else {
					f.signs[i].see(c.Field, cell)
				}
			case c.Field == "" && !named:
				if cell != "" && tally[i].good == tally[i].filled && strings.TrimSpace(cell) != "" {
					if tally[i].filled++; ident.Read(cell).Status == ident.Good {
						tally[i].good++
					}
				}
			}
		}
		propose.see(r)
		if f.look.Currency == "" {
			f.look.Currency = firstCurrency(r, code, cost)
		}
		return true
	})
	if err != nil {
		return err
	}
	for i := range cols {
		if sign := s.Signs[cols[i].Name]; sign == "," {
			f.signs[i] = signs{comma: 1 << 30}
		} else if sign == "." {
			f.signs[i] = signs{point: 1 << 30}
		}
		if d := f.signs[i].decided(); d != 0 {
			cols[i].Decimal = string(d)
		} else if stored[i] {
			cols[i].Decimal = "."
		}
		if _, chosen := s.Columns[cols[i].Name]; cols[i].Field == "" && !named && !chosen && tally[i].good > 0 &&
			tally[i].good == tally[i].filled {
			cols[i].Field, named = "identifier", true
		}
		cols[i].Proposed = ""
		if _, chosen := s.Columns[cols[i].Name]; i == propose.best() && !chosen && cols[i].Field == "" {
			cols[i].Proposed = "cost"
		}
	}
	return nil
}

func firstCurrency(r *Record, code, cost int) string {
	if code >= 0 && code < len(r.Cells) {
		if c := strings.ToUpper(strings.TrimSpace(r.Cells[code])); money.Currency(c).Valid() {
			return c
		}
	}
	if cost >= 0 && cost < len(r.Cells) {
		return signOf(r.Cells[cost])
	}
	return ""
}

// see adds what one value proves.
func (s *signs) see(field, cell string) {
	if field == "box" {
		for _, part := range boxParts(cell) {
			s.see("length", part)
		}
		return
	}
	switch f, ok := figure(cell); {
	case !ok:
	case f.proves == '.':
		s.point++
	case f.proves == ',':
		s.comma++
	}
}

// sameReading tells whether two settings survey a file alike.
func sameReading(a, b Settings) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && string(x) == string(y)
}

package feed

import (
	_ "embed"
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"unicode"
)

//go:embed header_words.json
var headerWords []byte

// fieldOf maps a column name, folded, to its field: docs/definitions/supply.md, section 1, "Header".
var fieldOf = func() map[string]string {
	var words map[string][]string
	if err := json.Unmarshal(headerWords, &words); err != nil {
		panic(err) // the file is built in
	}
	m := map[string]string{}
	for field, names := range words {
		for _, n := range names {
			m[fold(n)] = field
		}
	}
	return m
}()

// Fields lists the fields that columns are read as, docs/definitions/supply.md, section 2;
// "box" is length, width and height in one cell.
var Fields = []string{"ref", "identifier", "title", "cost", "currency", "stock", "brand", "category", "description", "mpn",
	"list_price", "least_advertised", "available_from", "units_per_item", "least_order", "weight", "length", "width", "height", "box",
	"pictures", "link", "condition", "group", "colour", "size", "material", "origin", "commodity_code", "lead_days"}

// WhyColumn is the column with the reasons in a file of rows that were set
// aside. It is not read when the file comes back.
const WhyColumn = "why it was set aside"

// fold drops whatever is no letter or digit.
func fold(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
}

var trailingDigits = regexp.MustCompile(`\d+$`)

// known is the field a column name stands for, with the unit that may follow
// the name of a weight or a length; "" where it isn't known.
func (s *Settings) known(name string) (field, unit string) {
	folded := fold(name)
	look := func(n string) string {
		if f, ok := s.Words[n]; ok {
			return f
		}
		return fieldOf[n]
	}
	if f := look(folded); f != "" {
		return f, ""
	}
	if bare := trailingDigits.ReplaceAllString(folded, ""); bare != folded && look(bare) == "pictures" {
		return "pictures", ""
	}
	for _, unit := range unitNames {
		if bare, ok := strings.CutSuffix(folded, unit); ok {
			f := look(bare)
			if f == "weight" && weights[unit] != nil || isLength(f) && lengths[unit] != nil {
				return f, unit
			}
		}
	}
	return "", ""
}

func isLength(field string) bool {
	return field == "length" || field == "width" || field == "height" || field == "box"
}

// nameColumns reads names as a header and says how many it knows. A field is
// given to the first column named so; a later one stays an attribute. What English
// names, or the source's own words, goes before what other languages do.
func nameColumns(cells []string, s *Settings) ([]Column, int) {
	taken, count := map[string]bool{}, 0
	out := make([]Column, len(cells))
	name := func(i int, field, unit string) {
		if field == "" {
			return
		}
		count++
		if taken[field] && field != "pictures" {
			return
		}
		taken[field] = true
		out[i].Field, out[i].unit = field, unit
	}
	var rest []int
	for i, c := range cells {
		out[i] = Column{Name: strings.TrimSpace(c), Samples: []string{}}
		field, unit := s.known(c)
		if _, said := s.Words[fold(c)]; field == "" && !said {
			rest = append(rest, i)
		}
		name(i, field, unit)
	}
	foreign := 0 // columns that only another language names
	for _, friends := range []bool{false, true} {
		for _, i := range rest {
			if field, unit := inTongues(cells[i]); field != "" && falseFriend(cells[i]) == friends && (!friends || foreign >= 2) {
				name(i, field, unit)
				foreign++
			}
		}
	}
	return out, count
}

// headerFinder looks for the header among the first rows: the row that a person says it
// is; else the first that names two columns which a person chose fields for; else the
// first that names two known columns; else, where that is wanted, the row that looks
// most like names.
type headerFinder struct {
	s      *Settings
	best   header
	chosen int // columns that a person chose fields for
}

// header is a row that may name the columns.
type header struct {
	rank    int // 0: none; rows of a higher rank go before
	weight  int // how many columns it names; the first of the most goes before
	row     int
	columns []Column
}

// The ranks of a header.
const (
	guessed = iota + 1
	named
	sure
)

// headerRows is how far down a header is looked for.
const headerRows = 300

func newHeaderFinder(s *Settings) *headerFinder {
	h := &headerFinder{s: s}
	for _, field := range s.Columns {
		if field != "" {
			h.chosen++
		}
	}
	return h
}

// found looks at a row, and says whether no later one can be better.
func (h *headerFinder) found(r *Record) bool {
	columns, n := nameColumns(r.Cells, h.s)
	for len(columns) > 0 && columns[len(columns)-1].Name == "" { // nameless ones at the end may be cells that a program wrote for nothing
		columns = columns[:len(columns)-1]
	}
	chosen, texts := 0, 0
	for _, c := range columns {
		if h.s.Columns[c.Name] != "" {
			chosen++
		}
		if strings.ContainsFunc(c.Name, unicode.IsLetter) {
			texts++
		}
	}
	x := header{0, n, r.Row, columns}
	switch {
	case h.s.HeaderRow > 0:
		if r.Row == h.s.HeaderRow && len(columns) > 0 {
			x.rank, x.weight = sure, max(n, texts)
		}
	case chosen > 1 || h.chosen < 2 && n > 1:
		x.rank, x.weight = sure, max(n, chosen)
	case n > 1:
		x.rank = named
	case h.s.Guess && texts > 1:
		x.rank, x.weight = guessed, texts
	}
	if x.rank > h.best.rank || x.rank == guessed && x.rank == h.best.rank && x.weight > h.best.weight {
		h.best = x
	}
	return h.best.rank == sure
}

// better tells whether a header is to be preferred to another: one of another mark
// between cells, say.
func (x *header) better(than *header) bool {
	return x.rank > than.rank || x.rank == than.rank && x.weight > than.weight
}

var errNoHeader = wrong(
	"no header row was found: a row that names at least two columns such as ref, title, cost, stock. Add one at the top and bring the file in again",
)

// IsField tells whether a column can be read as a field of this name.
func IsField(name string) bool { return slices.Contains(Fields, name) }

// ColumnWord is a column name as Settings.Words knows it.
func ColumnWord(name string) string { return fold(name) }

package match

import (
	"fmt"
	"slices"
	"strings"

	"easymargin/core/match/title"
)

// Basis is what of a supplier product a decision rests on: a change of it asks
// again.
type Basis struct {
	GTIN  string `json:"gtin,omitempty"`
	Brand string `json:"brand,omitempty"`
	Units int64  `json:"units,omitempty"` // as its field and its title say; 0 not said
}

// BasisOf is a product's basis.
func (j Judge) BasisOf(p *Product) Basis {
	s := j.side(&p.Thing)
	j.read(s, &side{Thing: &Thing{}})
	b := Basis{GTIN: p.GTIN, Brand: p.Brand}
	if s.pack.Said() {
		b.Units = s.pack.Count
	}
	return b
}

// Changed says in words what of a basis is another now; "" for nothing. A brand
// written otherwise is the same, and so is one unit that isn't said.
func (j Judge) Changed(was, now Basis) string {
	var out []string
	say := func(what, was, now string) {
		out = append(out, fmt.Sprintf("%s %s → %s", what, orNone(was), orNone(now)))
	}
	if was.GTIN != now.GTIN {
		say("number", was.GTIN, now.GTIN)
	}
	if a, b := j.Tables.BrandWords(was.Brand), j.Tables.BrandWords(now.Brand); !slices.Equal(a, b) {
		say("brand", was.Brand, now.Brand)
	}
	if max(was.Units, 1) != max(now.Units, 1) {
		say("pack", fmt.Sprint(max(was.Units, 1)), fmt.Sprint(max(now.Units, 1)))
	}
	return strings.Join(out, ", ")
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

// NewJudge judges by the tables that come with the program.
func NewJudge() Judge { return Judge{title.Default()} }

// Package match weighs a supplier product against entries of a marketplace's
// catalogue: what speaks for and against each, and whether one is certain. It
// follows design/product.md, step 2, and design/identifiers.md on packs and
// repaired numbers.
package match

import (
	"fmt"
	"sort"
	"strings"
	"unicode"
)

// Product is what is known of the supplier product.
type Product struct {
	GTIN     string // 14 digits or empty
	Repaired bool   // the number was repaired in a way that can be right by chance
	Inside   string // the number of the single item, where GTIN names a case
	Title    string
	Brand    string
	Units    int64 // how many are in one supplier item; 0 not said
}

// Entry is a page of the marketplace's catalogue.
type Entry struct {
	Ref, GTIN, Title, Brand string
	Units                   int64 // how many the entry sells as one; 0 not said
}

// Evidence is one thing for or against, in words.
type Evidence struct {
	For   bool   `json:"for"`
	Words string `json:"words"`
}

// Candidate is an entry weighed.
type Candidate struct {
	Ref      string     `json:"ref"`
	Score    int        `json:"score"`
	Evidence []Evidence `json:"evidence"`
	Differs  []string   `json:"differs"` // words of the entry's title that the supplier's has not
}

// State is what became of looking up.
type State string

// The verdicts.
const (
	Certain State = "matched" // one entry and nothing against it
	Several State = "several" // a person chooses
	None    State = "none"    // nothing was found
)

// Weigh orders the entries, best first, and says whether the first is certain.
// It is so only where the identifier is the same and whole, only one entry has
// it, and neither brand nor pack speaks against it.
func Weigh(p Product, entries []Entry) ([]Candidate, State) {
	if len(entries) == 0 {
		return nil, None
	}
	same, against := 0, false
	out := make([]Candidate, 0, len(entries))
	for _, e := range entries {
		c := Candidate{Ref: e.Ref}
		put := func(speaks bool, weight int, words string) {
			c.Evidence = append(c.Evidence, Evidence{speaks, words})
			if !speaks {
				weight = -weight
				against = true
			}
			c.Score += weight
		}
		switch {
		case p.GTIN == "":
			put(false, 20, "the supplier gives no number")
		case e.GTIN == p.GTIN && p.Repaired:
			same++
			put(false, 5, "same number, but its leading zeros were put back by guess")
			c.Score += 50
		case e.GTIN == p.GTIN:
			same++
			put(true, 60, "same number")
		case p.Inside != "" && e.GTIN == p.Inside:
			put(false, 10, "the supplier's number is of a case, this entry is the single item")
			c.Score += 40
		default:
			put(false, 30, "another number")
		}
		switch {
		case p.Brand == "" || e.Brand == "":
		case strings.EqualFold(p.Brand, e.Brand):
			put(true, 15, "same brand")
		case !containsWords(p.Title, e.Brand):
			put(false, 25, "another brand: "+e.Brand)
		}
		share, differs := likeness(p.Title, e.Title)
		c.Differs = differs
		theirs, ours := firstFigure(differs), ""
		if theirs != "" {
			_, lacks := likeness(e.Title, p.Title)
			ours = firstFigure(lacks)
		}
		switch {
		case ours != "": // 600 ml is not 300 ml, however alike the words are
			put(false, 10, "the titles' figures differ: "+theirs+" here, "+ours+" at the supplier")
		case share >= 60:
			put(true, share/5, "titles agree")
		case share < 25:
			put(false, 10, "titles have little in common")
		default:
			c.Score += share / 10
		}
		bought, listed := max(p.Units, 1), max(e.Units, 1)
		switch {
		case bought == listed:
		case bought > 1 && listed > 1: // one number, yet two packs: one of the two says it wrongly
			put(false, 10, fmt.Sprintf("the supplier's item holds %d, the entry %d", bought, listed))
		case bought > 1:
			put(false, 10, fmt.Sprintf("only the supplier says a pack, of %d", bought))
		default:
			put(false, 10, fmt.Sprintf("only the entry says a pack, of %d", listed))
		}
		out = append(out, c)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Score > out[j].Score })
	if len(entries) == 1 && same == 1 && !against {
		return out, Certain
	}
	return out, Several
}

// likeness is the share, in percent, of the words of both titles that both
// have, and the words of b that a has not.
func likeness(a, b string) (int, []string) {
	in := map[string]bool{}
	for _, w := range words(a) {
		in[w] = true
	}
	both, all := 0, len(in)
	var differs []string
	seen := map[string]bool{}
	for _, w := range words(b) {
		if seen[w] {
			continue
		}
		seen[w] = true
		if in[w] {
			both++
		} else {
			all++
			differs = append(differs, w)
		}
	}
	if all == 0 {
		return 0, nil
	}
	return 100 * both / all, differs
}

// firstFigure is the first of some words that begins with a digit, "" for none.
func firstFigure(words []string) string {
	for _, w := range words {
		if w[0] >= '0' && w[0] <= '9' {
			return w
		}
	}
	return ""
}

func containsWords(title, brand string) bool {
	return strings.Contains(" "+strings.Join(words(title), " ")+" ", " "+strings.Join(words(brand), " ")+" ")
}

func words(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

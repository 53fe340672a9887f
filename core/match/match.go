// Package match weighs a supplier product against entries of a marketplace's
// catalogue: is it the same thing, how many of it, and what speaks for and
// against it. It follows docs/definitions/matching.md.
package match

import (
	"easymargin/core/ident"
	"easymargin/core/match/title"
)

// Thing is what one side says. Only the title is needed.
type Thing struct {
	Title, Brand, MPN, Category string
	Colour, Size, Material      string
	Condition, Description      string
	Units                       int64 // single units in it; 0 not said
	Price                       int64 // cost or lowest offer in minor units of Currency; 0 not said
	Currency                    string
}

// Product is what is known of a supplier product.
type Product struct {
	Thing
	GTIN    string // as the supplier writes it
	Guessed bool   // GTIN was read by a guess already: zeros put back
}

// Entry is a page of a marketplace's catalogue.
type Entry struct {
	Thing
	Ref     string
	GTINs   []string
	Closed  bool // it may not be copied
	ByLeave bool // its category needs leave that we don't have
}

// Verdict is what the evidence comes to.
type Verdict string

// The verdicts, matching.md.
const (
	Certain    Verdict = "certain"
	Likely     Verdict = "likely"
	Unsure     Verdict = "unsure"
	None       Verdict = "none"
	Conflict   Verdict = "conflict"
	NotAllowed Verdict = "not allowed"
)

// Answer is a judgement with its candidates, the likeliest first.
type Answer struct {
	Verdict    Verdict
	Ref        string // the entry meant; "" for none, unsure and conflict
	Bought     int64  // single units in the supplier's item; 0 unknown
	Listed     int64  // single units in what the entry sells; 0 unknown
	Candidates []Candidate
	Others     []Candidate // the rest, which nothing speaks for
}

// Candidate is an entry worth a person's look, and why.
type Candidate struct {
	Ref     string   `json:"ref"`
	For     []string `json:"for"`
	Against []string `json:"against"`
	Rows    []Row    `json:"rows,omitempty"`
	Bought  int64    `json:"bought"` // 0 unknown
	Listed  int64    `json:"listed"` // 0 unknown
}

// Mark says how the two sides of a row stand to each other.
type Mark string

// The marks of a row.
const (
	Same    Mark = "same"
	Differs Mark = "differs"
	OneSide Mark = "one side"
	Near    Mark = "near" // not the same words, and nothing against it
)

// Row is one fact of both sides, for a person to compare.
type Row struct {
	Aspect string `json:"aspect"`
	Ours   string `json:"ours"`
	Theirs string `json:"theirs"`
	Mark   Mark   `json:"mark"`
}

// Judge weighs entries by some tables of words.
type Judge struct{ Tables *title.Tables }

// Weigh judges by the tables that come with the program.
func Weigh(p *Product, entries []Entry) Answer {
	return NewJudge().Weigh(p, entries)
}

// Weigh judges a product against entries.
func (j Judge) Weigh(p *Product, entries []Entry) Answer {
	ours := j.ourSide(p)
	pairs := make([]*pair, 0, len(entries))
	for i := range entries {
		pairs = append(pairs, j.compare(ours, &entries[i]))
	}
	return decide(pairs)
}

// side is what is read from one side.
type side struct {
	*Thing
	brand   []string // its words
	code    string   // the field's maker's number
	facts   *title.Facts
	colours []string
	sizes   []title.Size
	figures []title.Figure // of a size field, which may be one
	pack    title.Pack
	number  ident.Number
	guessed bool
}

// ourSide reads the product by itself; a brand or maker's number of an entry
// that stands in its title has it read once more.
func (j Judge) ourSide(p *Product) *side {
	s := j.side(&p.Thing)
	if p.GTIN != "" {
		s.number = ident.Read(p.GTIN)
		s.guessed = p.Guessed || byGuess(s.number)
	}
	return s
}

func (j Judge) side(t *Thing) *side {
	s := &side{Thing: t, brand: j.Tables.BrandWords(t.Brand), code: title.Code(t.MPN)}
	return s
}

// read reads a side, both sides' names known.
func (j Judge) read(s, other *side) {
	names := title.Names{}
	names.Brand(s.brand)
	names.Brand(other.brand)
	if longEnough(s.code) {
		names.Code(s.code)
	}
	if longEnough(other.code) {
		names.Code(other.code)
	}
	s.facts = j.Tables.Read(s.Title, &names)
	s.colours, s.sizes, s.figures = s.facts.Colours, s.facts.Sizes, nil
	if s.Colour != "" {
		if f := j.Tables.ReadField(s.Colour); len(f.Colours) > 0 {
			s.colours = f.Colours
		}
	}
	if s.Size != "" {
		f := j.Tables.ReadField(s.Size)
		if len(f.Sizes) > 0 {
			s.sizes = f.Sizes
		}
		s.figures = f.Figures
	}
	s.pack = j.packOf(s)
}

// longEnough keeps codes of one or two signs from being found in every title.
func longEnough(code string) bool { return len(code) >= 3 }

// packOf is how many a side says are sold as one: its field, else its title,
// else its description.
func (j Judge) packOf(s *side) title.Pack {
	said := s.facts.Pack
	if said.Count == 0 && !said.Unclear && s.Description != "" {
		said = j.Tables.ReadPack(s.Description)
	}
	switch {
	case s.Units <= 0:
		return said
	case said.Count == 0 && said.Perhaps == s.Units:
		return title.Pack{Count: s.Units}
	case said.Unclear:
		return said
	case said.Count > 1 && said.Count != s.Units: // the title says more than the field, or another pack
		return title.Pack{Count: said.Count, Unclear: true, Words: said.Words}
	}
	return title.Pack{Count: s.Units, Words: said.Words}
}

package match

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/match/title"
)

// tie says what an entry's numbers are to the product's.
type tie int

const (
	noTie   tie = iota
	whole       // the product's own number, every digit of it there
	guessed     // the same, but the product's was repaired by a guess
	inhouse     // the same, but a number of somebody's own
	caseOf      // the product's is of a case of what the entry's names
	inCase      // the entry's is of a case of what the product's names
)

// pair is a product and an entry, compared.
type pair struct {
	entry       *Entry
	tie         tie
	otherNumber bool // both have whole numbers, and they differ
	brandAgrees bool
	codeAgrees  bool     // by makers' numbers, however short
	codeCounts  bool     // the number is long enough to prove something
	against     []string // contradictions
	doubts      []string // what speaks against without contradicting
	speaks      []string // what speaks for
	rows        []Row
	shared      int  // of a hundred: the words of the side with fewer that the other has
	words       int  // how many words both have
	fewest      int  // words of the side with fewer
	farApart    bool // they are in two languages beyond doubt
	alsoAgrees  bool // a figure, size or colour does
	sameTongue  bool // or it can't be told
	foreignFor  bool // one side, in another language, begins as an accessory's does
	oursSay     bool // the product says anything that can be compared
	theirsSay   bool
	bought      int64 // 0 unknown
	listed      int64
	packsSaid   bool // both plainly
	onePack     bool // one side alone says several
	score       int
}

func (p *pair) contradicted() bool { return len(p.against) > 0 }

// unitsKnown tells whether both counts are known.
func (p *pair) unitsKnown() bool { return p.bought > 0 && p.listed > 0 }

func (p *pair) row(aspect, ours, theirs string, mark Mark) {
	if ours != "" || theirs != "" {
		p.rows = append(p.rows, Row{aspect, ours, theirs, mark})
	}
}

func (p *pair) agree(score int, format string, args ...any) {
	p.score += score
	p.speaks = append(p.speaks, fmt.Sprintf(format, args...))
}

func (p *pair) differ(format string, args ...any) {
	p.against = append(p.against, fmt.Sprintf(format, args...))
}

func (p *pair) doubt(format string, args ...any) {
	p.doubts = append(p.doubts, fmt.Sprintf(format, args...))
}

// Two titles are in two languages from apart on, and far apart beyond doubt.
const (
	apart    = 220
	farApart = 600
)

// compare weighs one entry.
func (j Judge) compare(ours *side, e *Entry) *pair {
	theirs := j.side(&e.Thing)
	// Both sides are read knowing both brands and both makers' numbers.
	j.read(theirs, ours)
	if ours.facts == nil || j.heldBy(ours, theirs) {
		j.read(ours, theirs)
	}
	p := &pair{entry: e}
	p.numbers(ours, e)
	p.brands(ours, theirs)
	p.codes(ours, theirs)
	p.packs(ours, theirs)
	p.figures(ours, theirs)
	p.sizes(ours, theirs)
	p.colours(ours, theirs)
	p.likeness(j, ours, theirs)
	p.telling(ours, theirs)
	p.conditions(j, ours, theirs)
	p.prices(ours, theirs)
	p.row("category", ours.Category, theirs.Category, sameText(ours.Category, theirs.Category))
	p.row("material", ours.Material, theirs.Material, sameText(ours.Material, theirs.Material))
	if len(p.against) > 0 {
		p.score -= 40 + 10*len(p.against)
	}
	return p
}

// heldBy tells whether a brand or maker's number of the entry, other than the
// product's own, may stand in the product's title.
func (j Judge) heldBy(ours, theirs *side) bool {
	if len(theirs.brand) > 0 && !slices.Equal(theirs.brand, ours.brand) || theirs.code != "" && theirs.code != ours.code {
		return true
	}
	return false
}

func sameText(a, b string) Mark {
	switch {
	case a == "" || b == "":
		return OneSide
	case title.Fold(a) == title.Fold(b):
		return Same
	}
	return Near
}

// numbers compares the product's number with the entry's.
func (p *pair) numbers(ours *side, e *Entry) {
	n := ours.number
	shown := ""
	other := false
	for _, g := range e.GTINs {
		m := ident.Read(g)
		if !m.Found() {
			continue
		}
		if shown == "" {
			shown = m.Shown
		}
		switch {
		case !n.Found():
		case m.GTIN == n.GTIN:
			shown = m.Shown
			switch {
			case n.Use == ident.Internal:
				p.tie = inhouse
			case ours.guessed:
				p.tie = guessed
			default:
				p.tie = whole
			}
		case n.Inside != "" && m.GTIN == n.Inside && p.tie == noTie:
			shown, p.tie = m.Shown, caseOf
		case m.Inside != "" && m.Inside == n.GTIN && p.tie == noTie:
			shown, p.tie = m.Shown, inCase
		default:
			other = true
		}
	}
	p.otherNumber = other && p.tie == noTie && n.Use != ident.Internal && !ours.guessed
	mine := n.Shown
	if !n.Found() {
		mine = ""
	}
	mark := OneSide
	switch p.tie {
	case whole:
		mark = Same
		p.agree(100, "same number")
	case guessed:
		mark = Near
		p.agree(35, "same number, but its leading zeros were put back by guess")
	case inhouse:
		mark = Near
		p.agree(35, "same number, but one of somebody's own that others use too")
	case caseOf:
		mark = Near
		p.agree(70, "the supplier's number is of a case of this")
	case inCase:
		mark = Near
		p.agree(70, "the entry's number is of a case of this")
	default:
		switch {
		case p.otherNumber:
			mark = Differs
			p.score -= 25
			p.doubt("another number: %s", shown)
		case n.Found() && other:
			mark = Differs
			p.score -= 8
		}
	}
	p.row("number", mine, shown, mark)
}

// byGuess tells whether a number was read in a way that is right by chance one
// time in ten: zeros put back, or ten digits that are a book's and, padded,
// another's.
func byGuess(n ident.Number) bool {
	if n.Status == ident.Repaired {
		return n.Why == ident.WhyLeadingZeros && n.Kind != ident.ISBN10 // whose check digit is one of eleven, and which a book's length tells
	}
	return n.Kind == ident.ISBN10 && ident.Read("00"+strings.ToUpper(n.Shown)).Found()
}

func (p *pair) brands(ours, theirs *side) {
	mark := OneSide
	a, b := ours.brand, theirs.brand
	same := len(a) > 0 && len(b) > 0 && sameBrand(a, b)
	switch {
	case same:
		p.brandAgrees, mark = true, Same
	case len(b) > 0 && title.Holds(ours.Title, b), len(a) > 0 && title.Holds(theirs.Title, a):
		p.brandAgrees, mark = true, Same
		if len(a) > 0 && len(b) > 0 {
			mark = Near
		}
	case len(a) > 0 && len(b) > 0:
		mark = Differs
		p.differ("another brand: %s, not %s", theirs.Brand, ours.Brand)
	}
	if p.brandAgrees {
		name := theirs.Brand
		if name == "" {
			name = ours.Brand
		}
		p.agree(15, "same brand: %s", name)
	}
	p.row("brand", ours.Brand, theirs.Brand, mark)
}

// sameBrand compares brands' words; one may be the other's beginning, as in
// "Skarholt" and "Skarholt Outdoor".
func sameBrand(a, b []string) bool {
	x, y := strings.Join(a, ""), strings.Join(b, "")
	if x == y || unumlaut(x) == unumlaut(y) {
		return true
	}
	if len(a) > len(b) {
		a, b = b, a
	}
	return len(a[0]) > 3 && slices.Equal(a, b[:len(a)])
}

// unumlaut writes ae, oe and ue as the letters they stand for.
func unumlaut(s string) string { return umlauts.Replace(s) }

var umlauts = strings.NewReplacer("ae", "a", "oe", "o", "ue", "u")

// codes compares makers' numbers: the fields', and words of the titles that mix
// letters and digits.
func (p *pair) codes(ours, theirs *side) {
	a, b := codesOf(ours), codesOf(theirs)
	var agreed string
	for _, x := range a {
		if slices.Contains(b, x) && len(x) > len(agreed) {
			agreed = x
		}
	}
	mark := OneSide
	if agreed != "" {
		p.codeAgrees, mark = true, Same
		p.codeCounts = len(agreed) >= 4 && strings.ContainsAny(agreed, "0123456789")
		score := 10
		if p.codeCounts {
			score = 50
		}
		p.agree(score, "same maker's number: %s", agreed)
	}
	for _, x := range a {
		for _, y := range b {
			if x == y || slices.Contains(b, x) || slices.Contains(a, y) || form(x) != form(y) {
				continue
			}
			if mark != Same {
				mark = Differs
			}
			p.differ("another maker's number: %s, not %s", y, x)
			goto done
		}
	}
done:
	p.row("maker's number", shownCode(ours, a), shownCode(theirs, b), mark)
}

func shownCode(s *side, codes []string) string {
	if s.MPN != "" {
		return s.MPN
	}
	return strings.Join(codes, ", ")
}

func codesOf(s *side) []string {
	out := s.facts.Codes
	if s.code != "" && !slices.Contains(out, s.code) {
		out = append([]string{s.code}, out...)
	}
	return out
}

// form is where a code has letters and where digits.
func form(code string) string {
	b := []byte(code)
	for i, c := range b {
		if c >= '0' && c <= '9' {
			b[i] = '9'
		} else {
			b[i] = 'A'
		}
	}
	return string(b)
}

// packs works out how many are bought and how many listed.
func (p *pair) packs(ours, theirs *side) {
	a, b := settled(ours, theirs), settled(theirs, ours)
	hintA, hintB := p.tie == caseOf, p.tie == inCase
	mark := OneSide
	switch {
	case a.Unclear || b.Unclear:
		if !a.Unclear && a.Count > 0 {
			p.bought = a.Count
		}
		if !b.Unclear && b.Count > 0 {
			p.listed = b.Count
		}
		p.doubt("how many are in it is said in two ways")
		p.onePack = (a.Unclear || a.Count > 1) != (b.Unclear || b.Count > 1)
	case a.Said() && b.Said():
		p.packsSaid = true
		p.bought, p.listed = a.Count, b.Count
		switch {
		case a.Count == b.Count:
			mark = Same
			if a.Count > 1 {
				p.agree(6, "both of %d", a.Count)
			}
		case a.Count%b.Count == 0 || b.Count%a.Count == 0:
			mark = Near
			p.speaks = append(p.speaks, fmt.Sprintf("the supplier's item holds %d, the entry %d", a.Count, b.Count))
		default:
			mark = Differs
			p.bought, p.listed = 0, 0
			p.doubt("the supplier's item holds %d, the entry %d: one doesn't go into the other", a.Count, b.Count)
		}
	case a.Count > 1:
		mark = Differs
		p.bought, p.onePack = a.Count, true
		if p.tie != caseOf {
			p.score -= 4
		}
		p.doubt("only the supplier says a pack, of %d", a.Count)
	case b.Count > 1:
		mark = Differs
		p.listed, p.onePack = b.Count, true
		if p.tie != inCase {
			p.score -= 4
		}
		p.doubt("only the entry says a pack, of %d", b.Count)
	case hintA || hintB:
		p.doubt("how many are in the case isn't said")
	default: // nothing hints at more than one
		p.bought, p.listed = 1, 1
	}
	p.row("pack", saidPack(a), saidPack(b), mark)
}

// settled is a side's pack, where "5 x 90 cm" may be five or a measure: five
// where the other side says five, a measure where the other has two lengths as
// well, and unclear where it has one.
func settled(s, other *side) title.Pack {
	k := s.pack
	if k.Perhaps == 0 || k.Said() || k.Unclear {
		return k
	}
	lengths := 0
	for _, f := range other.facts.Figures {
		if f.Kind == "length" {
			lengths++
		}
	}
	switch {
	case lengths > 1:
	case other.pack.Said() && other.pack.Count == k.Perhaps:
		k.Count = k.Perhaps
	case lengths == 1:
		k.Unclear, k.Words = true, strconv.FormatInt(k.Perhaps, 10)+" x"
	}
	return k
}

func saidPack(k title.Pack) string {
	switch {
	case k.Count == 0 && !k.Unclear:
		return ""
	case k.Unclear:
		return "unclear: " + k.Words
	}
	return strconv.FormatInt(k.Count, 10)
}

// figures compares every kind of figure that both sides have.
func (p *pair) figures(ours, theirs *side) {
	a, b := byKind(ours), byKind(theirs)
	kinds := slices.Sorted(keys(a, b))
	for _, kind := range kinds {
		x, y := a[kind], b[kind]
		mark := OneSide
		if len(x) > 0 && len(y) > 0 {
			if figuresAgree(x, y) {
				mark, p.alsoAgrees = Same, true
				p.agree(8, "%s on both", texts(y))
			} else {
				mark = Differs
				p.differ("%s here, %s at the supplier", texts(y), texts(x))
			}
		} else if hints[kind] && several(x, y) && !p.packsSaid {
			p.onePack = true
			p.bought, p.listed = 0, 0
			p.doubt("only one side says %s%s", texts(x), texts(y))
		}
		p.row(kind, texts(x), texts(y), mark)
	}
}

// hints are kinds of figures that may be a pack: six bottles on one side alone
// leave open how many are sold.
var hints = map[string]bool{"containers": true, "rolls": true, "pairs": true}

func several(lists ...[]title.Figure) bool {
	for _, l := range lists {
		for _, f := range l {
			if f.N > 1000 {
				return true
			}
		}
	}
	return false
}

func keys[V any](maps ...map[string]V) func(func(string) bool) {
	return func(yield func(string) bool) {
		seen := map[string]bool{}
		for _, m := range maps {
			for k := range m {
				if !seen[k] {
					seen[k] = true
					if !yield(k) {
						return
					}
				}
			}
		}
	}
}

func byKind(s *side) map[string][]title.Figure {
	out := map[string][]title.Figure{}
	for _, f := range append(s.figures[:len(s.figures):len(s.figures)], s.facts.Figures...) {
		out[f.Kind] = append(out[f.Kind], f)
	}
	return out
}

func texts(list []title.Figure) string {
	var b strings.Builder
	for i, f := range list {
		if i > 0 {
			b.WriteString(" × ")
		}
		b.WriteString(f.Text)
	}
	return b.String()
}

// figuresAgree tells whether every figure of the side with fewer is one of the
// other's.
func figuresAgree(a, b []title.Figure) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	taken := make([]bool, len(b))
next:
	for _, x := range a {
		for i, y := range b {
			if !taken[i] && sameFigure(x, y) {
				taken[i] = true
				continue next
			}
		}
		return false
	}
	return true
}

// sameFigure compares two figures of a kind: exactly, but within two per cent
// where one of them is of another system.
func sameFigure(a, b title.Figure) bool {
	for _, x := range [2]int64{a.N, a.Other} {
		for _, y := range [2]int64{b.N, b.Other} {
			if x == y {
				return true
			}
			if a.Rough != b.Rough && x > 0 && y > 0 && 50*abs(x-y) <= max(x, y) {
				return true
			}
		}
	}
	return false
}

func abs(n int64) int64 { return max(n, -n) }

func (p *pair) sizes(ours, theirs *side) {
	a, b := ours.sizes, theirs.sizes
	mark := OneSide
	if len(a) > 0 && len(b) > 0 {
		mark = Near
		for _, x := range a {
			for _, y := range b {
				switch compareSizes(x, y) {
				case Same:
					mark = Same
				case Differs:
					if mark != Same {
						mark = Differs
					}
				}
			}
		}
		switch mark {
		case Same:
			p.alsoAgrees = true
			p.agree(8, "size %s on both", sizeTexts(b))
		case Differs:
			p.differ("size %s here, %s at the supplier", sizeTexts(b), sizeTexts(a))
		}
	}
	p.row("size", sizeTexts(a), sizeTexts(b), mark)
}

func sizeTexts(list []title.Size) string {
	out := make([]string, len(list))
	for i, s := range list {
		out[i] = strings.ToUpper(strings.TrimSpace(s.System + " " + s.Value))
	}
	return strings.Join(out, ", ")
}

// compareSizes: only sizes of one system can be told apart; a number without
// one is of the other's where they are of one range.
func compareSizes(x, y title.Size) Mark {
	nx, ex := strconv.ParseFloat(x.Value, 32)
	ny, ey := strconv.ParseFloat(y.Value, 32)
	switch {
	case (ex == nil) != (ey == nil):
		return Near // a letter and a number
	case x.System == y.System && x.Value == y.Value:
		return Same
	case x.System == y.System:
		return Differs
	case ex != nil:
		return Near
	case x.System != "" && y.System != "":
		return Near
	case x.Value == y.Value:
		return Same
	case (nx < 25) == (ny < 25):
		return Differs
	}
	return Near
}

func (p *pair) colours(ours, theirs *side) {
	a, b := ours.colours, theirs.colours
	mark := OneSide
	if len(a) > 0 && len(b) > 0 {
		if subset(a, b) || subset(b, a) {
			mark, p.alsoAgrees = Same, true
			p.agree(7, "%s on both", strings.Join(b, " and "))
		} else {
			mark = Differs
			p.differ("%s here, %s at the supplier", strings.Join(b, " and "), strings.Join(a, " and "))
		}
	}
	p.row("colour", written(ours.Colour, a), written(theirs.Colour, b), mark)
}

func written(field string, read []string) string {
	if field != "" {
		return field
	}
	return strings.Join(read, ", ")
}

func subset(a, b []string) bool {
	for _, x := range a {
		if !slices.Contains(b, x) {
			return false
		}
	}
	return true
}

func (p *pair) telling(ours, theirs *side) {
	a, b := ours.facts.Telling, theirs.facts.Telling
	mark := Same
	for _, x := range a {
		if !slices.Contains(b, x) {
			mark = Differs
			p.differ("only the supplier says “%s”", x)
		}
	}
	for _, y := range b {
		if !slices.Contains(a, y) {
			mark = Differs
			p.differ("only the entry says “%s”", y)
		}
	}
	if mark == Same && len(a) > 0 {
		p.agree(4*len(a), "“%s” on both", strings.Join(a, "”, “"))
	}
	for _, x := range ours.facts.Choices {
		group, mine, _ := strings.Cut(x, "/")
		for _, y := range theirs.facts.Choices {
			if rest, ok := strings.CutPrefix(y, group+"/"); ok && !slices.Contains(ours.facts.Choices, y) && !slices.Contains(theirs.facts.Choices, x) {
				p.differ("%s here, %s at the supplier", rest, mine)
			}
		}
	}
	p.row("says", strings.Join(a, ", "), strings.Join(b, ", "), mark)
	p.accessory(ours.facts, theirs.facts, "the supplier's item")
	p.accessory(theirs.facts, ours.facts, "the entry")
}

// accessory: what is for a thing is not the thing. It is told where one side
// says "for", the other has nothing of what stands before it, and something of
// what stands after.
func (p *pair) accessory(a, b *title.Facts, which string) {
	if a.For < 0 || b.For >= 0 || a.For > len(a.Words) {
		return
	}
	before, after := a.Words[:a.For], a.Words[a.For:]
	if len(a.Again) > 0 { // "tube cap for such a tube": a cap
		after = append(after[:len(after):len(after)], a.Again...)
		before = slices.DeleteFunc(slices.Clone(before), func(w string) bool { return slices.Contains(a.Again, w) })
	}
	if len(before) == 0 || has(before, b.Words, title.SameWord) > 0 {
		return
	}
	if !p.sameTongue {
		p.foreignFor = p.foreignFor || a.Early
		return
	}
	if has(after, b.Words, title.SameWord) == 0 {
		return
	}
	p.differ("%s is for such a thing, and not one itself", which)
}

// has is how many of some words others have.
func has(words, others []string, same func(a, b string) bool) int {
	n := 0
	for _, w := range words {
		if slices.ContainsFunc(others, func(o string) bool { return same(w, o) }) {
			n++
		}
	}
	return n
}

func (p *pair) conditions(j Judge, ours, theirs *side) {
	a, b := j.conditionOf(ours), j.conditionOf(theirs)
	mark := Same
	if a != b {
		mark = Differs
		p.differ("%s here, %s at the supplier", said(b), said(a))
	}
	if a != "" || b != "" {
		p.row("condition", said(a), said(b), mark)
	}
}

func said(condition string) string {
	if condition == "" {
		return "new"
	}
	return condition
}

// conditionOf is a side's condition: its field's, unless that says new or
// nothing known; then the title's.
func (j Judge) conditionOf(s *side) string {
	if s.Condition != "" {
		if c := j.Tables.ReadField(s.Condition).Condition; c != "" {
			return c
		}
	}
	return s.facts.Condition
}

// likeness compares the rest of the words.
func (p *pair) likeness(j Judge, ours, theirs *side) {
	a, b := ours.facts, theirs.facts
	p.oursSay, p.theirsSay = says(ours), says(theirs)
	few, many := a.Words, b.Words
	if len(few) > len(many) {
		few, many = many, few
	}
	p.fewest = len(few)
	if len(few) > 0 {
		p.words = has(few, many, title.Alike)
		p.shared = 100 * p.words / len(few)
		p.score += 30*p.words/len(few) + 10*p.words/len(many)
	}
	p.sameTongue = true
	if p.shared < 50 {
		n := j.Tables.Apart(a.Spoken, b.Spoken)
		p.sameTongue, p.farApart = n < apart, n >= farApart
	}
	switch {
	case p.fewest == 0:
	case p.shared >= 50:
		p.speaks = append(p.speaks, fmt.Sprintf("%d of %d words agree", p.words, p.fewest))
	case p.sameTongue:
		p.doubt("only %d of %d words agree", p.words, p.fewest)
	}
	p.row("title", ours.Title, theirs.Title, map[bool]Mark{true: Same, false: Near}[p.shared == 100 && len(few) == len(many)])
}

// says tells whether a side says anything that could be compared.
func says(s *side) bool {
	return len(s.brand) > 0 || s.code != "" || len(s.facts.Words) > 0 || len(s.facts.Figures) > 0 || len(s.facts.Codes) > 0
}

// prices: out of all proportion is a hint against the pack, never proof.
func (p *pair) prices(ours, theirs *side) {
	cost, lowest := ours.Price, theirs.Price
	if cost <= 0 || lowest <= 0 || ours.Currency != theirs.Currency {
		return
	}
	bought, listed := max(p.bought, ours.pack.Count, 1), max(p.listed, theirs.pack.Count, 1)
	low := 4*lowest*bought < cost*listed
	high := lowest*bought > 8*cost*listed
	if !low && !high {
		return
	}
	p.score -= 2
	if low {
		p.doubt("its lowest offer a unit is under a quarter of what a unit costs")
	} else {
		p.doubt("its lowest offer a unit is over eight times what a unit costs")
	}
	if !p.packsSaid {
		if p.bought == 1 && p.listed == 1 || p.onePack {
			p.bought, p.listed = 0, 0
		}
	}
}

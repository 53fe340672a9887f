// Package title reads what a seller's title says: how many are sold as one, the
// figures with their units, sizes, colours, the words that tell a thing from
// its neighbour, codes, and what is left. It follows docs/definitions/matching.md, "What
// is read from each side". The words it knows are data, in tables/.
package title

import (
	"slices"
	"strings"
)

// Facts are what a text says.
type Facts struct {
	Pack      Pack
	Figures   []Figure
	Sizes     []Size
	Colours   []string // by the name in the table, each once
	Telling   []string // by the name in the table, each once
	Choices   []string // the same of those that only speak against others of their group: "place/front"
	Condition string   // "" where none is said, which is new
	Codes     []string // words that mix letters and digits, capital letters and digits only
	Words     []string // the rest, folded, each once, without those that say nothing
	For       int      // how many of Words stand before a "for"; -1 where none does
	Again     []string // words that stand after a "for" and stood before it too
	Early     bool     // and that it stands near the beginning, as in "strap for a bag"
	Spoken    []string // words by which the language can be told
}

// Pack is how many single units a text says are sold as one.
type Pack struct {
	Count   int64  // 0 where nothing is said
	Unclear bool   // several are hinted at, or two counts are said
	Perhaps int64  // of "5 x 90 cm": a count or a measure, as the other side may tell
	Words   string // as it stands there
}

// Said tells whether a count is plainly said.
func (p Pack) Said() bool { return p.Count > 0 && !p.Unclear }

// Figure is a number with its unit. Values are thousandths of the kind's base
// unit: ml, g, mm, W, V, A, mAh, lm, K, GB, or the thing counted.
type Figure struct {
	Kind  string
	N     int64
	Other int64 // N where its mark is read the other way
	Rough bool  // of another system, equal within two per cent
	Text  string
}

// Size is a size of clothes or shoes.
type Size struct {
	System string // uk, eu, us, … or "" for letters and where none is said
	Value  string
}

// Names are what a text may hold that is no word of it: brands, and makers'
// numbers known from elsewhere.
type Names struct {
	brands [][]string
	codes  []string
}

// Brand adds a brand's name.
func (n *Names) Brand(words []string) {
	if len(words) > 0 {
		n.brands = append(n.brands, words)
	}
}

// Code adds a maker's number in the form of Code.
func (n *Names) Code(code string) {
	if code != "" {
		n.codes = append(n.codes, code)
	}
}

// Code is a maker's number as it is compared: capital letters and digits only.
func Code(s string) string {
	var b strings.Builder
	for _, r := range Fold(s) {
		switch {
		case r >= 'a' && r <= 'z':
			b.WriteByte(byte(r) - 'a' + 'A')
		case r >= '0' && r <= '9':
			b.WriteByte(byte(r))
		}
	}
	return b.String()
}

// BrandWords are a brand's words, folded, without its legal form.
func (t *Tables) BrandWords(brand string) []string {
	tokens := lex(brand)
	for i := 1; i < len(tokens); i++ {
		if _, n := t.legal.find(tokens, i, broken); n > 0 && i+n == len(tokens) {
			tokens = tokens[:i]
			break
		}
	}
	// forms stand one after the other: Inc, Ltd
	for len(tokens) > 1 {
		last := len(tokens) - 1
		if _, n := t.legal.find(tokens, last, broken); n == 0 {
			break
		}
		tokens = tokens[:last]
	}
	words := make([]string, len(tokens))
	for i := range tokens {
		words[i] = tokens[i].text
	}
	return words
}

// Read reads a title. names are what in it is no word: a brand's own words are
// never colours, sizes or telling words.
func (t *Tables) Read(text string, names *Names) *Facts {
	return t.read(text, names, false)
}

// ReadPack reads a description, for the pack only, and only where it is spelled
// out.
func (t *Tables) ReadPack(text string) Pack {
	r := reader{t: t, tokens: lex(text), facts: &Facts{For: -1}, strict: true}
	t.mend(r.tokens)
	for r.i < len(r.tokens) {
		if !r.pack() {
			r.i++
		}
	}
	return r.facts.Pack
}

// ReadField reads a colour or a size given in a field of its own.
func (t *Tables) ReadField(text string) *Facts {
	f := t.read(text, &Names{}, true)
	if len(f.Sizes)+len(f.Figures)+len(f.Colours) == 0 {
		if w := strings.Fields(Fold(text)); len(w) > 0 {
			f.Sizes = []Size{{Value: strings.Join(w, " ")}}
		}
	}
	return f
}

func (t *Tables) read(text string, names *Names, field bool) *Facts {
	r := reader{t: t, tokens: lex(text), facts: &Facts{For: -1}, field: field}
	t.mend(r.tokens)
	for i := 0; i < len(r.tokens); i++ {
		if n := r.named(names, i); n > 0 {
			i += n - 1
		} else if t.isSet(r.tokens[i].text) && !r.numbered(i) {
			r.ofSet = true
		}
	}
	for r.i < len(r.tokens) {
		switch {
		case r.name(names):
		case r.condition():
		case r.pack():
		case r.teller():
		case r.size():
		case r.figure():
		case r.colour():
		case r.code():
		default:
			r.word()
		}
	}
	return r.facts
}

// isSet tells whether a word makes a title one of a set of parts.
func (t *Tables) isSet(w string) bool {
	if t.sets[w] {
		return true
	}
	return len(w) > 6 && (strings.HasSuffix(w, "set") || strings.HasSuffix(w, "satz") || strings.HasSuffix(w, "service"))
}

// reader goes over a text once; whatever fits first at a token takes it.
type reader struct {
	t      *Tables
	tokens []token
	i      int
	facts  *Facts
	ofSet  bool // the text is about a set of parts
	field  bool
	strict bool // only packs that are spelled out
}

// numbered tells whether the set word at i is one of "set of 6": a pack, no kind.
func (r *reader) numbered(i int) bool {
	_, _, ok := r.packOf(i)
	return ok || i > 0 && r.tokens[i-1].text == "er"
}

// ends tells whether the token before j is the last of its own: a unit glued to
// more letters or digits is a piece of a code.
func (r *reader) ends(j int) bool { return j >= len(r.tokens) || r.tokens[j].gap != glued }

// begins tells whether token i begins a thing of its own.
func (r *reader) begins(i int) bool { return r.tokens[i].gap != glued }

// name takes a brand or a known maker's number.
func (r *reader) name(names *Names) bool {
	if !r.begins(r.i) {
		return false
	}
	if n := r.named(names, r.i); n > 0 {
		r.i += n
		if _, form := r.t.legal.at(r.tokens, r.i); form > 0 && r.ends(r.i+form) { // "Skarholt AS"
			r.i += form
		}
		return true
	}
	for _, c := range names.codes {
		if n := codeAt(r.tokens, r.i, c); n > 0 && r.ends(r.i+n) {
			r.facts.Codes = appendNew(r.facts.Codes, c)
			r.i += n
			return true
		}
	}
	return false
}

// named is how many tokens at i are a brand.
func (r *reader) named(names *Names, i int) int {
	for _, b := range names.brands {
		if r.tokens[i].gap != glued && matchesAt(r.tokens, i, b) {
			return len(b)
		}
	}
	return 0
}

func matchesAt(tokens []token, i int, words []string) bool {
	if i+len(words) > len(tokens) {
		return false
	}
	for k, w := range words {
		if tokens[i+k].text != w {
			return false
		}
	}
	return i+len(words) == len(tokens) || tokens[i+len(words)].gap != glued
}

// codeAt is how many tokens from i on spell a code; 0 where they don't.
func codeAt(tokens []token, i int, code string) int {
	rest := code
	for n := 0; i+n < len(tokens); n++ {
		t := &tokens[i+n]
		if n > 0 && t.gap == broken {
			return 0
		}
		for k := range len(t.text) {
			c := t.text[k]
			if c >= 'a' && c <= 'z' {
				c -= 'a' - 'A'
			} else if c < '0' || c > '9' {
				if c == '.' || c == ',' {
					continue
				}
				return 0
			}
			if rest == "" || rest[0] != c {
				return 0
			}
			rest = rest[1:]
		}
		if rest == "" {
			return n + 1
		}
	}
	return 0
}

// Holds tells whether a brand's words stand in a text.
func Holds(text string, words []string) bool {
	if len(words) == 0 {
		return false
	}
	tokens := lex(text)
	for i := range tokens {
		if tokens[i].gap != glued && matchesAt(tokens, i, words) {
			return true
		}
	}
	return false
}

func (r *reader) condition() bool {
	name, n := r.t.conditions.at(r.tokens, r.i)
	if n == 0 || !r.begins(r.i) || !r.ends(r.i+n) {
		return false
	}
	if name != "new" {
		r.facts.Condition = name
	}
	r.i += n
	return true
}

// teller takes a telling word.
func (r *reader) teller() bool {
	if !r.begins(r.i) {
		return false
	}
	name, n := r.t.telling.at(r.tokens, r.i)
	if n > 0 && !r.ends(r.i+n) {
		n = 0
	}
	if n == 0 {
		for _, p := range r.t.prefixes {
			if len(r.tokens[r.i].text) > len(p.start)+2 && strings.HasPrefix(r.tokens[r.i].text, p.start) {
				name, n = p.name, 1
				// what it replaces is a word like any other
				r.keep(strings.TrimPrefix(r.tokens[r.i].text, p.start))
				break
			}
		}
	}
	if n == 0 {
		return false
	}
	if strings.Contains(name, "/") {
		r.facts.Choices = appendNew(r.facts.Choices, name)
	} else {
		r.facts.Telling = appendNew(r.facts.Telling, name)
	}
	for k := range n {
		r.facts.Spoken = append(r.facts.Spoken, r.tokens[r.i+k].text)
	}
	if name == "case" { // case for: what stands before is the accessory
		r.keep("case")
	}
	if (name == "case" || name == "compatible") && r.facts.For < 0 {
		r.forHere()
	}
	r.i += n
	return true
}

func (r *reader) forHere() {
	r.facts.For = len(r.facts.Words)
	r.facts.Early = r.i <= 4 && len(r.facts.Figures)+len(r.facts.Colours) == 0
}

func (r *reader) colour() bool {
	t := r.tokens
	if !r.begins(r.i) {
		return false
	}
	name, n := r.t.colours.at(t, r.i)
	if n == 0 || !r.ends(r.i+n) {
		return false
	}
	r.facts.Colours = appendNew(r.facts.Colours, name)
	for k := range n {
		r.facts.Spoken = append(r.facts.Spoken, t[r.i+k].text)
	}
	r.i += n
	return true
}

// code takes a word that mixes letters and digits, such as a maker's number.
func (r *reader) code() bool {
	if !r.begins(r.i) || r.i > 0 && r.tokens[r.i].gap == joined {
		return false
	}
	j, letters, digits := r.i, 0, 0
	for {
		t := &r.tokens[j]
		if t.number {
			digits += len(t.text)
		} else {
			if len(t.text) > 4 {
				return false
			}
			letters += len(t.text)
		}
		j++
		if j == len(r.tokens) || r.tokens[j].gap > joined {
			break
		}
	}
	if letters == 0 || digits == 0 || letters > 8 || j == r.i+1 {
		return false
	}
	var b strings.Builder
	for _, t := range r.tokens[r.i:j] {
		b.WriteString(t.text)
	}
	r.facts.Codes = appendNew(r.facts.Codes, Code(b.String()))
	r.i = j
	return true
}

// word takes what is left: a bare number, a year, or a word.
func (r *reader) word() {
	t := &r.tokens[r.i]
	if t.number {
		if n, ok := t.whole(); ok && r.begins(r.i) && r.ends(r.i+1) {
			switch {
			case len(t.text) == 4 && n >= 1950 && n <= 2049: // a year tells a thing from last year's
				r.facts.Telling = appendNew(r.facts.Telling, t.text)
			case len(t.text) <= 4:
				r.figureOf(Figure{Kind: "number", N: t.value, Other: t.value, Text: t.text})
			}
		}
		r.i++
		return
	}
	if _, n := r.t.accessory.at(r.tokens, r.i); n > 0 {
		if r.facts.For < 0 && len(r.facts.Words) > 0 {
			r.forHere()
		}
		r.facts.Spoken = append(r.facts.Spoken, t.text)
		r.i += n
		return
	}
	if _, n := r.t.noise.at(r.tokens, r.i); n > 0 {
		r.i += n
		return
	}
	r.facts.Spoken = append(r.facts.Spoken, t.text)
	if !r.t.stop[t.text] {
		r.keep(t.text)
	}
	r.i++
}

func (r *reader) keep(w string) {
	if len(w) < 2 || len(r.facts.Words) >= 60 {
		return
	}
	if f := r.facts; f.For > 0 && slices.Contains(f.Words[:f.For], w) {
		f.Again = appendNew(f.Again, w)
		return
	}
	r.facts.Words = appendNew(r.facts.Words, w)
}

func appendNew(list []string, s string) []string {
	for _, x := range list {
		if x == s {
			return list
		}
	}
	return append(list, s)
}

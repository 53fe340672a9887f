package title

import (
	"strconv"
	"strings"
)

// mostInPack is the largest count that is believed.
const mostInPack = 10_000

// pack takes a pack: "pack of 6", "6 pack", "6 x 0.5 l" (and its measure stays),
// "x6", "2 dozen".
func (r *reader) pack() bool {
	if !r.begins(r.i) && !(r.tokens[r.i].text == "x") {
		return false
	}
	t := &r.tokens[r.i]
	if count, n, ok := r.packOf(r.i); ok {
		return r.packed(count, n)
	}
	if t.number || r.t.numbers[t.text] > 0 {
		if r.numberPack() || t.number && !r.strict && r.chain() {
			return true
		}
	}
	if t.text == "x" {
		return !r.strict && r.timesPack()
	}
	if count, n := r.fixed(r.i); n > 0 {
		return r.packed(count, n)
	}
	if _, n := r.t.packBefore.at(r.tokens, r.i); n > 0 && r.i+n < len(r.tokens) && !r.strict {
		if count, ok := r.count(r.i + n); ok && count > 0 && r.ends(r.i+n+1) && !r.measured(r.i+n) &&
			(r.i+n+1 == len(r.tokens) || r.tokens[r.i+n+1].text != "x") {
			return r.packed(count, n+1)
		}
	}
	if _, n := r.t.several.at(r.tokens, r.i); n > 0 {
		r.facts.Pack.Unclear = r.facts.Pack.Count == 0
		r.facts.Pack.Words = r.text(r.i, r.i+n)
		r.i += n
		return true
	}
	return false
}

// fixed is a word that is a number of its own, such as dozen.
func (r *reader) fixed(i int) (int64, int) {
	name, n := r.t.packFixed.at(r.tokens, i)
	if n == 0 {
		return 0, 0
	}
	count, _ := strconv.ParseInt(name, 10, 64)
	return count, n
}

// count is the whole number at a token, in digits or in words.
func (r *reader) count(i int) (int64, bool) {
	if i >= len(r.tokens) {
		return 0, false
	}
	t := &r.tokens[i]
	if n, ok := t.whole(); ok {
		return n, n > 0 && n <= mostInPack
	}
	n := r.t.numbers[t.text]
	return n, n > 0
}

// packOf reads "pack of 6", "case of 2 x 6", "box of a dozen" at i.
func (r *reader) packOf(i int) (count int64, tokens int, ok bool) {
	_, n := r.t.packOf.at(r.tokens, i)
	if n == 0 || i+n >= len(r.tokens) {
		return 0, 0, false
	}
	j := i + n
	if !r.t.link[r.tokens[j].text] || r.tokens[j].gap == broken {
		return 0, 0, false
	}
	if j++; j < len(r.tokens) && r.tokens[j].gap == glued { // "map case A5"
		return 0, 0, false
	}
	if j < len(r.tokens) && (r.tokens[j].text == "a" || r.tokens[j].text == "one") && j+1 < len(r.tokens) && !r.tokens[j+1].number {
		if c, n := r.fixed(j + 1); n > 0 {
			return c, j + 1 + n - i, true
		}
	}
	if j < len(r.tokens) {
		if c, n := r.fixed(j); n > 0 {
			return c, j + n - i, true
		}
	}
	c, ok := r.count(j)
	if !ok || r.tokens[j].gap == broken || !r.ends(j+1) && r.tokens[j+1].text != "x" || r.measured(j) {
		return 0, 0, false
	}
	j++
	if d, n := r.fixed(j); n > 0 && d == 12 && r.tokens[j].gap != broken { // box of 3 dozen
		return c * d, j + n - i, c*d <= mostInPack
	}
	// pack of 2 x 6, but not pack of 6 x 330 ml
	for j+1 < len(r.tokens) && r.tokens[j].text == "x" {
		m, ok := r.count(j + 1)
		if !ok || r.measured(j+1) {
			break
		}
		c, j = c*m, j+2
	}
	return c, j - i, c <= mostInPack
}

// measured tells whether the number at i has a unit: 500 g is no count.
func (r *reader) measured(i int) bool {
	_, n := r.unit(i)
	return n > 0
}

// numberPack reads what begins with a number: 6 pack, 6er-Set, 2 x 6 pieces,
// 6 x 0.5 l, 3x Brand, 120 ml x 2, 2 dozen.
func (r *reader) numberPack() bool {
	i := r.i
	count, ok := r.count(i)
	if !ok {
		return false
	}
	// 2 x 6 pack: both multiplied where a pack word stands by
	j, product := i+1, count
	for !r.strict && j+1 < len(r.tokens) && r.tokens[j].text == "x" && r.tokens[j].gap != broken {
		m, ok := r.count(j + 1)
		if !ok || r.measured(j+1) || r.tokens[j+1].gap == broken {
			break
		}
		product, j = product*m, j+2
	}
	if n := r.packWord(j, product); n > 0 && product <= mostInPack {
		return r.packed(product, j+n-i)
	}
	if c, n := r.fixed(i + 1); n > 0 && i+1 < len(r.tokens) && r.tokens[i+1].gap != broken && c == 12 {
		if r.countsAlone(i) {
			return r.packed(count*c, 1+n)
		}
		return r.unclear(1 + n) // "Range 7 dozen": seven dozen, or a dozen of the Range 7
	}
	if _, n := r.t.accessory.at(r.tokens, i+1); n > 0 && !r.strict {
		if one, ok := r.count(i + 1 + n); ok && one == 1 && !r.measured(i+1+n) && r.ends(i+2+n) { // "6 for one"
			return r.unclear(2 + n)
		}
	}
	return false
}

// countsAlone tells whether the number at i can only be a count, as in "2 dozen", "box
// of 2 dozen" and "pencils 2 dozen": a name that stands before may have it as its own.
func (r *reader) countsAlone(i int) bool {
	if i == 0 || r.tokens[i].gap == broken {
		return true
	}
	before := r.tokens[i-1].text
	_, pack := r.t.packOf.at(r.tokens, i-1)
	return r.t.link[before] || pack > 0 || !r.tokens[i-1].number && len(before) > 3 && strings.HasSuffix(before, "s")
}

// unclear takes words that hint at several and don't say how many.
func (r *reader) unclear(tokens int) bool {
	p := &r.facts.Pack
	p.Unclear, p.Words = true, r.text(r.i, r.i+tokens)
	r.i += tokens
	return true
}

// packWord is how many tokens a pack word after a count takes; 0 for none, and
// for parts of a set.
func (r *reader) packWord(j int, count int64) int {
	if j >= len(r.tokens) || r.tokens[j].gap == broken {
		return 0
	}
	_, n := r.t.packAfter.at(r.tokens, j)
	if n == 0 || !r.ends(j+n) {
		return 0
	}
	for k := j; k < j+n; k++ { // "Range 30 case of 5" and "4 in pack of 5" are of 5
		if _, _, ok := r.packOf(k); ok {
			return 0
		}
	}
	w := r.tokens[j].text
	if n == 1 && r.t.parts[w] {
		if r.ofSet || r.strict || r.t.alwaysParts[w] {
			return 0
		}
		// "16 piece cutlery", "4-piece": it says what kind of thing it is
		one := w == "piece" || w == "pieza"
		if one && count > 1 && j+1 < len(r.tokens) && r.tokens[j+1].gap != broken {
			return 0
		}
	}
	return n
}

// packed keeps a count; two that differ are unclear.
func (r *reader) packed(count int64, tokens int) bool {
	words := r.text(r.i, r.i+tokens)
	r.i += tokens
	p := &r.facts.Pack
	switch {
	case count <= 0 || count > mostInPack:
		return true
	case p.Count == 0:
		p.Count, p.Words, p.Unclear = count, words, false
	case p.Count == count:
	case p.Count == 1: // "1 pack" beside a plainer word
		p.Count, p.Words = count, words
	case count == 1:
	default:
		p.Unclear = true
		p.Words += ", " + words
	}
	return true
}

func (r *reader) text(i, j int) string {
	var b strings.Builder
	for k := i; k < j && k < len(r.tokens); k++ {
		if k > i && r.tokens[k].gap != glued {
			if r.tokens[k].gap == joined {
				b.WriteByte('-')
			} else {
				b.WriteByte(' ')
			}
		}
		b.WriteString(r.tokens[k].text)
	}
	return b.String()
}

// link is one number of a chain such as 30 x 40 cm.
type link struct {
	at   int
	unit unit
	has  bool // has a unit
}

// chain reads numbers with x between them, or a number with its measure and x:
// lengths are measures of the thing, a count before any other measure is a pack.
func (r *reader) chain() bool {
	i := r.i
	var links []link
	j, last := i, i
	for {
		t := &r.tokens[j]
		if !t.number || t.value < 0 {
			break
		}
		u, n := r.unit(j)
		links = append(links, link{j, u, n > 0})
		j += 1 + n
		last = j
		if !(j+1 < len(r.tokens) && r.isX(j) && r.tokens[j+1].number && r.tokens[j].gap != broken && r.tokens[j+1].gap != broken) {
			break
		}
		if r.tokens[j].gap == spaced && r.tokens[j+1].gap == glued && !r.measured(j+1) && !(j+2 < len(r.tokens) && r.isX(j+2)) {
			break // "Range 30 x6": x6 is by itself
		}
		j++
	}
	if len(links) == 0 {
		return false
	}
	if !r.ends(last) && !r.isX(last) {
		return false // a piece of a code
	}
	if len(links) == 1 {
		return r.alone(links[0], last)
	}
	length, other := 0, 0
	for _, l := range links {
		switch {
		case l.has && l.unit.kind == "length":
			length++
		case l.has:
			other++
		}
	}
	first, end := links[0], links[len(links)-1]
	switch {
	case other > 0 && end.has && other == 1 && r.counts(links[:len(links)-1]): // 2 x 6 x 0.5 l
		return r.multiplied(links[:len(links)-1], end, last)
	case other > 0 && first.has && other == 1 && r.counts(links[1:]): // 120 ml x 2
		return r.multiplied(links[1:], first, last)
	case length == 1 && first.has && r.counts(links[1:]) && len(links) == 2 && small(&r.tokens[end.at]): // 80 cm x 2
		return r.multiplied(links[1:], first, last)
	case length > 0 && other == 0 && len(links) > 2 && r.counts(links[:1]) && (length == len(links)-1 || r.apart(links)):
		// 10 x 40 cm x 30 cm, 24 x 300x200 cm: a count before
		n, _ := r.tokens[first.at].whole()
		r.packed(n, links[1].at-r.i)
		return true
	case length > 0 && other == 0:
		u := unit{}
		for k := len(links) - 1; k >= 0; k-- {
			if links[k].has {
				u = links[k].unit
			} else {
				links[k].unit = u
			}
		}
		for _, l := range links {
			if l.unit.kind == "" {
				l.unit = u
				for _, m := range links {
					if m.has {
						l.unit = m.unit
					}
				}
			}
			r.figureOf(r.measure(l.at, l.unit))
		}
		if n, ok := r.tokens[first.at].whole(); ok && !first.has && len(links) == 2 && n > 1 && n <= 48 {
			r.facts.Pack.Perhaps = n
		}
		r.i = last
		return true
	case length == 0 && other == 0:
		for _, l := range links { // 4 x 4: whatever it is, it must agree
			t := &r.tokens[l.at]
			r.figureOf(Figure{Kind: "by", N: t.value, Other: t.other, Text: t.text})
		}
		r.i = last
		return true
	}
	return false
}

// apart tells whether the first of a chain stands apart from the others, which
// are written close together.
func (r *reader) apart(links []link) bool {
	return r.tokens[links[1].at].gap == spaced && r.tokens[links[2].at].gap == glued
}

func small(t *token) bool { n, ok := t.whole(); return ok && n <= 12 }

func (r *reader) isX(j int) bool {
	if j >= len(r.tokens) {
		return false
	}
	return r.tokens[j].text == "x" || r.tokens[j].text == "by"
}

func (r *reader) counts(links []link) bool {
	for _, l := range links {
		if n, ok := r.tokens[l.at].whole(); l.has || !ok || n < 1 || n > 1000 {
			return false
		}
	}
	return true
}

func (r *reader) multiplied(counts []link, measure link, last int) bool {
	product := int64(1)
	for _, l := range counts {
		n, _ := r.tokens[l.at].whole()
		product *= n
	}
	r.figureOf(r.measure(measure.at, measure.unit))
	return r.packed(product, last-r.i)
}

// alone is one number with x after it: 3 x Brand, pens 6x; and not 10 x zoom.
func (r *reader) alone(l link, last int) bool {
	if l.has || last >= len(r.tokens) || r.tokens[last].text != "x" || r.tokens[last].gap == broken {
		return false
	}
	n, ok := r.tokens[l.at].whole()
	after := last + 1
	if !ok || n < 1 || n > 1000 || after < len(r.tokens) && r.tokens[after].number {
		return false
	}
	if after < len(r.tokens) && (r.t.times[r.tokens[after].text] || r.tokens[after].gap == glued) ||
		l.at > 0 && r.t.times[r.tokens[l.at-1].text] {
		r.figureOf(Figure{Kind: "times", N: n * 1000, Other: n * 1000, Text: r.tokens[l.at].text + "x"})
		r.i = after
		return true
	}
	if after >= len(r.tokens) && l.at == 0 {
		return false
	}
	return r.packed(n, after-r.i)
}

// timesPack reads x6 or x 6 after a word or a measure, or before one.
func (r *reader) timesPack() bool {
	i := r.i
	n, ok := r.count(i + 1)
	if !ok || n > 1000 || !r.tokens[i+1].number || r.tokens[i+1].gap == broken || !r.ends(i+2) || r.measured(i+1) {
		return false
	}
	if i > 0 && r.tokens[i].gap == glued && !r.tokens[i-1].number { // a code such as gx6
		return false
	}
	if i == 0 && i+2 >= len(r.tokens) {
		return false
	}
	return r.packed(n, 2)
}

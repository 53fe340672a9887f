package title

import "strconv"

// unit is the unit after the number at i, and how many tokens it is; 0 for none.
func (r *reader) unit(i int) (unit, int) {
	j := i + 1
	if j >= len(r.tokens) || r.tokens[j].gap == broken {
		return unit{}, 0
	}
	next := &r.tokens[j]
	for _, u := range r.t.units[next.text] {
		if !u.glued || next.gap != glued && !r.unitApart(j) {
			continue
		}
		if r.ends(j + 1) {
			return u, 1
		}
		return unit{}, 0
	}
	name, n := r.t.unitNames.at(r.tokens, j)
	if n == 0 || !r.ends(j+n) && !r.isX(j+n) {
		return unit{}, 0
	}
	if j+n < len(r.tokens) && r.tokens[j+n].gap == joined && r.tokens[j+n].number && next.gap != glued {
		return unit{}, 0 // "Range 30 ML-7128": the start of a code
	}
	for _, u := range r.t.units[name] {
		if !u.glued {
			return u, n
		}
	}
	return unit{}, 0
}

// unitApart tells whether a letter with a space before it can be a unit: 16 A, and not
// "3 a 6", "12 a, b" or "2 a piece".
func (r *reader) unitApart(j int) bool {
	if r.tokens[j].gap != spaced || r.strict || j < 2 {
		return false
	}
	return j+1 == len(r.tokens) || r.tokens[j+1].gap >= spaced && !r.tokens[j+1].number && r.t.numbers[r.tokens[j+1].text] == 0 && r.tokens[j+1].text != "piece"
}

// figure takes a number with its unit, a fraction of an inch, or a count of
// parts or of anything else joined to it: 16 piece, 3-pin, 6-burner.
func (r *reader) figure() bool {
	t := &r.tokens[r.i]
	if !t.number || t.value < 0 || !r.begins(r.i) {
		if r.begins(r.i) && r.tokens[r.i].text == "pair" { // a pair, without a number, is one
			r.figureOf(Figure{Kind: "pairs", N: 1000, Other: 1000, Text: "pair"})
			r.i++
			return true
		}
		return false
	}
	if r.fraction() {
		return true
	}
	if u, n := r.unit(r.i); n > 0 {
		if u.kind == "persons" && n == 1 && r.i+2 < len(r.tokens) && r.tokens[r.i+1].text == "man" && r.tokens[r.i+1].gap == broken {
			return false
		}
		r.figureOf(r.measure(r.i, u))
		r.i += 1 + n
		return true
	}
	if j := r.i + 1; j < len(r.tokens) && r.tokens[j].gap < broken && !r.tokens[j].number {
		w := r.tokens[j].text
		switch {
		case r.t.parts[w] && r.ends(j+1):
			r.figureOf(Figure{Kind: "parts", N: t.value, Other: t.value, Text: r.text(r.i, j+1)})
		case r.tokens[j].gap == joined && len(w) > 2 && r.ends(j+1) && (j+1 == len(r.tokens) || r.tokens[j+1].gap > joined):
			r.figureOf(Figure{Kind: w, N: t.value, Other: t.value, Text: r.text(r.i, j+1)})
		default:
			return false
		}
		r.i = j + 1
		return true
	}
	return false
}

// fraction takes 1/2 in, 1 1/2 in and 3/4".
func (r *reader) fraction() bool {
	i, whole := r.i, int64(0)
	if n, ok := r.tokens[i].whole(); ok && i+3 < len(r.tokens) && r.tokens[i+1].number && r.tokens[i+2].text == "/" && r.tokens[i+3].number {
		whole, i = n, i+1
	}
	if i+2 >= len(r.tokens) || r.tokens[i+1].text != "/" || !r.tokens[i+2].number {
		return false
	}
	a, ok1 := r.tokens[i].whole()
	b, ok2 := r.tokens[i+2].whole()
	if !ok1 || !ok2 || b == 0 || a > 1000 || whole > 10_000 {
		return false
	}
	n := whole*1000 + a*1000/b
	end := i + 3
	u, k := r.unit(i + 2)
	if k == 0 {
		u = unit{kind: "fraction", num: 1, den: 1}
	}
	n = n * u.num / u.den
	r.figureOf(Figure{Kind: u.kind, N: n, Other: n, Rough: u.rough, Text: r.text(r.i, end+k)})
	r.i = end + k
	return true
}

// measure is the number at a token in a unit's base.
func (r *reader) measure(at int, u unit) Figure {
	t := &r.tokens[at]
	text := t.text
	if at+1 < len(r.tokens) {
		if _, n := r.unit(at); n > 0 {
			text = r.text(at, at+1+n)
		}
	}
	f := Figure{Kind: u.kind, Rough: u.rough, Text: text, N: t.value, Other: t.other}
	if f.N > 1<<40 || f.Other > 1<<40 { // no thing has so many
		return Figure{Kind: u.kind, Text: text}
	}
	f.N, f.Other = f.N*u.num/u.den, f.Other*u.num/u.den
	return f
}

func (r *reader) figureOf(f Figure) {
	if len(r.facts.Figures) < 40 {
		r.facts.Figures = append(r.facts.Figures, f)
	}
}

// size takes a size: UK 8, size M, XL, Größe 42.
func (r *reader) size() bool {
	i := r.i
	if !r.begins(i) {
		return false
	}
	t := &r.tokens[i]
	named := false
	if r.t.sizeWord[t.text] && i+1 < len(r.tokens) && (r.tokens[i+1].gap != glued || t.text == "gr") {
		i++
		named = true
		t = &r.tokens[i]
	}
	// a system and its number, either way round
	// ("de 6" and "it 5" only where a word of size stands before)
	if r.t.system[t.text] && (named || r.field || !r.t.stop[t.text]) && i+1 < len(r.tokens) && r.tokens[i+1].number &&
		r.tokens[i+1].gap < broken && r.ends(i+2) && !r.measured(i+1) {
		if r.sized(t.text, &r.tokens[i+1]) {
			r.i = i + 2
			return true
		}
	}
	if (named || r.field) && t.number {
		end := i + 1
		system := ""
		if end < len(r.tokens) && r.t.system[r.tokens[end].text] && r.tokens[end].gap < broken {
			system, end = r.tokens[end].text, end+1
		}
		if !r.measured(i) && r.ends(end) && r.sized(system, t) {
			r.i = end
			return true
		}
	}
	name, n := r.t.sizes.at(r.tokens, i)
	if n == 0 {
		return false
	}
	text := r.text(i, i+n)
	switch {
	case !r.ends(i+n) || r.tokens[i+n-1].stop && len(text) == 1:
		return false
	case r.t.spelled[text] && !named && !r.field:
		return false
	case len(text) == 1 && !named && !r.field: // a letter by itself, hyphened to nothing
		if r.tokens[i].gap == joined || i+1 < len(r.tokens) && r.tokens[i+1].gap < spaced {
			return false
		}
	case !named && !r.field && r.tokens[i].gap == joined:
		return false
	}
	r.facts.Sizes = append(r.facts.Sizes, Size{Value: name})
	r.i = i + n
	return true
}

func (r *reader) sized(system string, t *token) bool {
	if t.value <= 0 || t.value > 200_000 {
		return false
	}
	if same := r.t.sameSystem[system]; same != "" {
		system = same
	}
	r.facts.Sizes = append(r.facts.Sizes, Size{System: system, Value: decimal(t.value)})
	return true
}

// decimal writes thousandths without needless zeros.
func decimal(n int64) string {
	s := strconv.FormatInt(n/1000, 10)
	if n%1000 != 0 {
		d := strconv.FormatInt(1000+n%1000, 10)[1:]
		for d[len(d)-1] == '0' {
			d = d[:len(d)-1]
		}
		s += "." + d
	}
	return s
}

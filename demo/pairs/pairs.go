// Package pairs makes matching cases with what is true of them, from a seed:
// true pairs, near misses, packs, variants, reused and damaged numbers,
// accessories, several languages, damaged titles. docs/definitions/matching.md, "How good
// it must be", is measured on them.
package pairs

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"

	"easymargin/core/match"
)

// Truth is what is true of a case.
type Truth struct {
	Kind           string
	Ref            string // the entry that is the product; "" for none
	Bought, Listed int64  // 0 unknown
	OK             []match.Verdict
	Certain        bool     // it can be certain
	Trap           bool     // it must not be
	First          []string // entries that may be ranked first where a person decides
}

// Case is a case with its truth.
type Case struct {
	Product match.Product
	Entries []match.Entry
	Truth   Truth
}

// Make makes n cases. The same seed makes the same ones.
func Make(seed uint64, n int) []Case {
	m := &maker{rand.New(rand.NewPCG(seed, 77))}
	out := make([]Case, 0, n)
	for len(out) < n {
		out = append(out, kinds[len(out)%len(kinds)](m))
	}
	return out
}

type maker struct{ *rand.Rand }

// item is one thing as its maker knows it.
type item struct {
	good     *good
	brand    int
	rng      string
	features []int
	value    int64 // of the figure
	height   int64
	colour   int // -1 none
	size     string
	side     int // -1 none
	parts    string
	per      string
	mpn      string
	gtin     string
	cost     int64
}

func pick[T any](m *maker, list []T) T { return list[m.IntN(len(list))] }

func (m *maker) item() *item {
	g := &goods[m.IntN(len(goods))]
	it := &item{good: g, brand: m.IntN(len(brands)), rng: pick(m, ranges), colour: -1, side: -1, gtin: m.gtin("952"), cost: 150 + m.Int64N(6000)}
	for i := range g.features {
		if m.IntN(4) > 0 {
			it.features = append(it.features, i)
		}
	}
	if len(g.values) > 0 {
		m.measure(it)
	}
	if g.colours && m.IntN(5) > 0 {
		it.colour = m.IntN(len(colours))
	}
	if len(g.sizes) > 0 {
		it.size = m.sizeOf(g)
	}
	if g.sides {
		it.side = m.IntN(2)
	}
	if len(g.parts) > 0 {
		it.parts = pick(m, g.parts)
	}
	if len(g.per) > 0 {
		it.per = pick(m, g.per)
	}
	it.mpn = m.code(it.brand)
	return it
}

func (m *maker) measure(it *item) {
	g := it.good
	if g.figure == "by" {
		i := 2 * m.IntN(len(g.values)/2)
		it.value, it.height = g.values[i], g.values[i+1]
		return
	}
	it.value = pick(m, g.values)
}

func (m *maker) sizeOf(g *good) string {
	if g.sizes[0] == "uk" {
		return "UK " + strconv.Itoa(4+m.IntN(9))
	}
	return pick(m, g.sizes)
}

func (m *maker) code(brand int) string {
	b := brands[brand]
	if brand%2 == 0 {
		return fmt.Sprintf("%s-%04d", b.code, 1000+m.IntN(9000))
	}
	return fmt.Sprintf("%s%03d-%c", b.code, 100+m.IntN(900), 'A'+rune(m.IntN(20)))
}

// gtin is a 13-digit number with a prefix and a right check digit.
func (m *maker) gtin(prefix string) string {
	s := prefix
	for len(s) < 12 {
		s += string('0' + rune(m.IntN(10)))
	}
	return s + check(s)
}

func check(s string) string {
	sum := 0
	for i := len(s) - 1; i >= 0; i-- {
		w := 1
		if (len(s)-1-i)%2 == 0 {
			w = 3
		}
		sum += w * int(s[i]-'0')
	}
	return strconv.Itoa((10 - sum%10) % 10)
}

func caseOf(gtin string, m *maker) string {
	s := strconv.Itoa(1+m.IntN(8)) + gtin[:12]
	return s + check(s)
}

// say is how a title is written.
type say struct {
	lang    int
	pack    int64 // 0 says nothing
	brand   bool
	mpn     bool
	drop    int // features left out
	damaged bool
	extra   string
	before  string // such as "spare strap for"
	noColor bool
	noSize  bool
}

func (m *maker) title(it *item, s say) string {
	g := it.good
	var words []string
	noun := g.noun[s.lang]
	if it.parts != "" {
		if s.lang == 0 {
			noun = pick(m, []string{it.parts + " piece ", it.parts + "-piece "}) + noun
		} else {
			noun += " " + it.parts + [5]string{"", "-teilig", " pièces", " pezzi", " piezas"}[s.lang]
			if s.lang > 1 && !strings.Contains(noun, "set") {
				noun = "set " + noun
			}
		}
	}
	if it.per != "" && s.lang == 0 {
		noun = it.per + " " + noun
	}
	for i, f := range it.features {
		if i >= s.drop {
			words = append(words, g.features[f][s.lang])
		}
	}
	words = append(words, noun)
	if it.side >= 0 {
		words = append(words, sideWords[it.side][s.lang])
	}
	if it.value > 0 {
		words = append(words, m.figure(it))
	}
	if it.colour >= 0 && !s.noColor {
		c := colours[it.colour][s.lang]
		if also := alsoColours[c]; also != "" && m.IntN(2) == 0 {
			c = also
		}
		words = append(words, c)
	}
	if it.size != "" && !s.noSize {
		size := it.size
		if m.IntN(3) == 0 {
			size = [5]string{"size ", "Größe ", "taille ", "taglia ", "talla "}[s.lang] + size
		}
		if size == "XXL" && m.IntN(2) == 0 {
			size = "2XL"
		}
		words = append(words, size)
	}
	m.Shuffle(len(words), func(i, j int) { words[i], words[j] = words[j], words[i] })
	lead := ""
	if s.brand {
		lead = brands[it.brand].name
	}
	if it.rng != "" {
		lead = strings.TrimSpace(lead + " " + it.rng)
	}
	if lead != "" {
		if m.IntN(4) == 0 {
			words = append(words, lead)
		} else {
			words = append([]string{lead}, words...)
		}
	}
	if s.mpn {
		words = append(words, it.mpn)
	}
	if s.extra != "" {
		words = append(words, s.extra)
	}
	if s.pack > 0 {
		p := m.packWords(s.lang, s.pack)
		if p == fmt.Sprintf("%d x", s.pack) {
			words = append([]string{p}, words...)
			words[1] = p + " " + words[1]
			words = words[1:]
		} else {
			words = append(words, p)
		}
	}
	out := strings.Join(words, pick(m, []string{" ", " ", " ", ", ", " - "}))
	if s.before != "" {
		out = s.before + " " + out
	}
	if s.damaged {
		out = m.slip(out)
	}
	switch m.IntN(6) {
	case 0:
		out = strings.ToUpper(out)
	case 1:
		out = strings.ToLower(out)
	case 2:
		out = strings.ReplaceAll(out, " ", "  ")
	}
	return strings.TrimSpace(out + " " + pick(m, shouts))
}

func (m *maker) packWords(lang int, n int64) string {
	if n == 1 {
		return pick(m, singles[lang])
	}
	if n == 12 && lang == 0 && m.IntN(5) == 0 {
		return "1 dozen"
	}
	return fmt.Sprintf(pick(m, packsIn[lang]), n)
}

// figure writes a measure in one of its ways.
func (m *maker) figure(it *item) string {
	v := it.value
	point := pick(m, []string{".", ","})
	dec := func(n, by int64) string {
		s := strconv.FormatInt(n/by, 10)
		if r := n % by; r != 0 {
			s += point + strings.TrimRight(fmt.Sprintf("%0*d", len(strconv.FormatInt(by, 10))-1, r), "0")
		}
		return s
	}
	gap := pick(m, []string{"", " "})
	switch it.good.figure {
	case "ml":
		if v >= 100 && m.IntN(2) == 0 {
			return dec(v, 1000) + gap + pick(m, []string{"l", "L"})
		}
		if v%10 == 0 && m.IntN(2) == 0 {
			return dec(v, 10) + gap + "cl"
		}
		return fmt.Sprint(v) + gap + "ml"
	case "g":
		if v >= 1000 {
			return dec(v, 1000) + gap + "kg"
		}
		if v == 227 || v == 454 {
			if m.IntN(2) == 0 {
				return map[int64]string{227: "8", 454: "16"}[v] + gap + "oz"
			}
		}
		return fmt.Sprint(v) + gap + "g"
	case "cm":
		switch m.IntN(3) {
		case 0:
			return fmt.Sprint(v) + gap + "mm"
		case 1:
			return dec(v, 1000) + gap + "m"
		}
		return dec(v, 10) + gap + "cm"
	case "by":
		a, b := v, it.height
		if m.IntN(2) == 0 {
			a, b = b, a
		}
		x := pick(m, []string{" x ", "x", " × "})
		switch m.IntN(3) {
		case 0:
			return dec(a, 1000) + x + dec(b, 1000) + gap + "m"
		case 1:
			return dec(a, 10) + " cm" + x + dec(b, 10) + " cm"
		}
		return dec(a, 10) + x + dec(b, 10) + gap + "cm"
	}
	return fmt.Sprint(v) + gap + it.good.figure
}

// slip swaps or drops a letter of a long word.
func (m *maker) slip(s string) string {
	words := strings.Split(s, " ")
	for range 8 {
		i := m.IntN(len(words))
		w := []rune(words[i])
		if len(w) < 7 || strings.ContainsAny(words[i], "0123456789,-") {
			continue
		}
		k := 2 + m.IntN(len(w)-4)
		if m.IntN(2) == 0 {
			w[k], w[k+1] = w[k+1], w[k]
		} else {
			w = append(w[:k], w[k+1:]...)
		}
		words[i] = string(w)
		break
	}
	return strings.Join(words, " ")
}

func (m *maker) ref() string { return fmt.Sprintf("E%06d", m.IntN(1_000_000)) }

// sell is an entry of an item.
func (m *maker) sell(it *item, s say) match.Entry {
	e := match.Entry{Ref: m.ref(), GTINs: []string{"0" + it.gtin}, Thing: match.Thing{Brand: brands[it.brand].name, Price: it.cost * (140 + m.Int64N(150)) / 100, Currency: "GBP"}}
	if m.IntN(2) == 0 {
		e.Category = it.good.category
	}
	if it.colour >= 0 && m.IntN(2) == 0 {
		e.Colour = colours[it.colour][0]
		s.noColor = s.noColor || m.IntN(2) == 0
	}
	if it.size != "" && m.IntN(3) == 0 {
		e.Size = it.size
		s.noSize = m.IntN(2) == 0
	}
	s.brand = m.IntN(4) > 0
	if s.drop == 0 {
		s.drop = m.IntN(2)
	}
	e.Title = m.title(it, s)
	if s.pack > 1 {
		e.Price *= s.pack
	}
	return e
}

// offer is a supplier's row of an item.
func (m *maker) offer(it *item, s say) match.Product {
	p := match.Product{GTIN: it.gtin, Thing: match.Thing{Brand: m.brandField(it.brand), Price: it.cost, Currency: "GBP"}}
	if it.colour >= 0 && m.IntN(3) == 0 {
		p.Colour = pick(m, colours[it.colour][:])
		s.noColor = m.IntN(2) == 0
	}
	s.brand = m.IntN(4) > 0
	s.damaged = s.damaged || m.IntN(5) == 0
	if s.drop == 0 {
		s.drop = m.IntN(2)
	}
	if m.IntN(3) == 0 {
		p.Condition = "new"
	}
	if m.IntN(4) == 0 {
		p.Description = pick(m, []string{"Please order by noon.", "A favourite of our customers for 20 years.", "Made to last; comes boxed."})
	}
	p.Title = m.title(it, s)
	if s.pack > 1 {
		p.Price *= s.pack
	}
	return p
}

func (m *maker) brandField(b int) string {
	n := brands[b].name
	switch m.IntN(5) {
	case 0:
		return strings.ToUpper(n)
	case 1:
		return strings.TrimSpace(n + " " + brands[b].legal)
	}
	return n
}

// others are entries of other things.
func (m *maker) others(it *item) []match.Entry {
	var out []match.Entry
	for range m.IntN(3) {
		o := m.item()
		if o.brand != it.brand && o.good != it.good {
			out = append(out, m.sell(o, say{}))
		}
	}
	return out
}

// variant is an item that differs in one thing a buyer would see.
func (m *maker) variant(it *item) *item {
	v := *it
	v.mpn, v.gtin = m.code(it.brand), m.gtin("952")
	for range 30 {
		switch m.IntN(5) {
		case 0:
			if it.colour >= 0 {
				v.colour = m.IntN(len(colours))
			}
		case 1:
			if it.value > 0 {
				m.measure(&v)
			}
		case 2:
			if it.size != "" {
				v.size = m.sizeOf(it.good)
			}
		case 3:
			if it.side >= 0 {
				v.side = 1 - it.side
			}
		case 4:
			if it.parts != "" {
				v.parts = pick(m, it.good.parts)
			}
		}
		if v.colour != it.colour || v.value != it.value || v.size != it.size || v.side != it.side || v.parts != it.parts ||
			v.height != it.height {
			return &v
		}
	}
	return nil
}

func (m *maker) shuffled(entries []match.Entry) []match.Entry {
	m.Shuffle(len(entries), func(i, j int) { entries[i], entries[j] = entries[j], entries[i] })
	return entries
}

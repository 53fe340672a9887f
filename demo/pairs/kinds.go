package pairs

import (
	"fmt"
	"strings"

	"easymargin/core/match"
)

var (
	certain   = []match.Verdict{match.Certain}
	likely    = []match.Verdict{match.Likely}
	conflict  = []match.Verdict{match.Conflict}
	undecided = []match.Verdict{match.Likely, match.Unsure, match.Conflict}
	nothing   = []match.Verdict{match.None, match.Unsure}
)

// kinds make a case each, in turn.
var kinds = []func(*maker) Case{
	plain, plain, plain, thin, damagedNumber, language, language, byCode, byCode, lostByCode, guessByCode, amongVariants, amongVariants,
	samePack, samePack, packsDiffer, packsDiffer, packsDiffer, caseNumber, counted, book,
	packOneSide, packOneSide, caseUnsaid, guessedWords, internalWords, lostWords, wordsOnly, twice, nearMisses, nothingThere, notAllowed, shortCode,
	outOfProportion, variantHasNumber, tongueNoNumber,
	trapVariant, trapVariant, trapVariant, trapBrand, trapThing, trapThingSameBrand, trapCode, trapPart, trapAccessory, trapUsed, trapTelling,
	trapGeneration, trapPack, trapGuess, trapInternal,
}

func (m *maker) sure(kind string, it *item, p match.Product, e match.Entry, bought, listed int64) Case {
	return Case{p, m.shuffled(append(m.others(it), e)), Truth{Kind: kind, Ref: e.Ref, Bought: bought, Listed: listed, OK: certain, Certain: true, First: []string{e.Ref}}}
}

func (m *maker) open(kind string, it *item, p match.Product, e match.Entry, ok []match.Verdict) Case {
	return Case{p, m.shuffled(append(m.others(it), e)), Truth{Kind: kind, Ref: e.Ref, Bought: 1, Listed: 1, OK: ok, First: []string{e.Ref}}}
}

func (m *maker) trap(kind string, it *item, p match.Product, e match.Entry, ok []match.Verdict) Case {
	return Case{p, m.shuffled(append(m.others(it), e)), Truth{Kind: "trap: " + kind, OK: ok, Trap: true}}
}

func plain(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{mpn: m.IntN(4) == 0})
	if m.IntN(2) == 0 {
		p.MPN = it.mpn
	}
	e := m.sell(it, say{})
	if m.IntN(2) == 0 {
		e.MPN = it.mpn
	}
	return m.sure("number, full data", it, p, e, 1, 1)
}

func thin(m *maker) Case {
	it := m.item()
	it.side = -1
	name := brands[it.brand].name + " " + it.good.noun[0]
	p := match.Product{GTIN: it.gtin, Thing: match.Thing{Title: name}}
	e := m.sell(it, say{})
	if m.IntN(2) == 0 {
		e.Title = strings.ToUpper(name)
	}
	return m.sure("number, thin data", it, p, e, 1, 1)
}

func damagedNumber(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{})
	p.GTIN = pick(m, []string{"EAN: " + it.gtin, it.gtin + ".0", "'" + it.gtin, it.gtin[:3] + "-" + it.gtin[3:], "0" + it.gtin, `="` + it.gtin + `"`, it.gtin + ",00", it.gtin[:1] + "." + it.gtin[1:] + "E+12"})
	return m.sure("number damaged, whole", it, p, m.sell(it, say{}), 1, 1)
}

func language(m *maker) Case {
	it := m.item()
	it.per = ""
	a, b := 1+m.IntN(4), 0
	if m.IntN(2) == 0 {
		a, b = b, a
	}
	return m.sure("number, title in another language", it, m.offer(it, say{lang: a}), m.sell(it, say{lang: b}), 1, 1)
}

func byCode(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{lang: map[bool]int{true: 1 + m.IntN(4)}[it.per == "" && m.IntN(3) == 0]})
	p.GTIN, p.MPN = pick(m, []string{"", "n/a", "0000000000000"}), it.mpn
	e := m.sell(it, say{mpn: m.IntN(3) == 0})
	e.MPN = strings.ToLower(it.mpn)
	return m.sure("brand and maker's number", it, p, e, 1, 1)
}

func lostByCode(m *maker) Case {
	c := byCode(m)
	c.Product.GTIN = pick(m, []string{"9.52345E+12", "9521234567890"})
	c.Truth.Kind = "number lost, brand and maker's number agree"
	return c
}

func guessByCode(m *maker) Case {
	it := m.item()
	n := guessable(m)
	p := m.offer(it, say{})
	p.GTIN, p.MPN = n, it.mpn
	e := m.sell(it, say{})
	e.GTINs, e.MPN = []string{"0" + n}, it.mpn
	return m.sure("number by guess, brand and maker's number agree", it, p, e, 1, 1)
}

// guessable is a number of twelve digits without its leading zero.
func guessable(m *maker) string {
	s := "01234"
	for len(s) < 11 {
		s += fmt.Sprint(m.IntN(10))
	}
	return (s + check(s))[1:]
}

func amongVariants(m *maker) Case {
	it := m.item()
	byNumber := m.IntN(2) == 0
	p := m.offer(it, say{})
	e := m.sell(it, say{})
	if !byNumber {
		p.GTIN, p.MPN, e.MPN = "", it.mpn, it.mpn
	}
	c := m.sure("among its variants", it, p, e, 1, 1)
	for range 1 + m.IntN(3) {
		if v := m.variant(it); v != nil {
			x := m.sell(v, say{})
			x.MPN = v.mpn
			c.Entries = append(c.Entries, x)
		}
	}
	m.shuffled(c.Entries)
	return c
}

func packSize(m *maker) int64 { return pick(m, []int64{2, 3, 4, 5, 6, 8, 10, 12, 24}) }

// packed is an item whose own words leave packs alone.
func (m *maker) packable() *item {
	for {
		if it := m.item(); it.parts == "" {
			return it
		}
	}
}

func samePack(m *maker) Case {
	it, n := m.packable(), packSize(m)
	s, t := say{pack: n}, say{pack: n}
	if m.IntN(3) == 0 && it.per == "" {
		s.lang = 1 + m.IntN(4)
	}
	field := m.IntN(3)
	if field == 0 {
		s.pack = 0
	} else if field == 1 {
		t.pack = 0
	}
	p, e := m.offer(it, s), m.sell(it, t)
	p.Price, e.Price = it.cost*n, it.cost*n*2
	if field == 0 {
		p.Units = n
	} else if field == 1 {
		e.Units = n
	}
	return m.sure("same pack, said on both sides", it, p, e, n, n)
}

func packsDiffer(m *maker) Case {
	it, n := m.packable(), packSize(m)
	a, b := n, int64(1)
	if m.IntN(2) == 0 {
		a, b = b, a
	}
	if m.IntN(4) == 0 && n%2 == 0 && n > 2 {
		a, b = n, n/2
	}
	s, t := say{pack: a}, say{pack: b}
	p, e := m.offer(it, s), m.sell(it, t)
	if m.IntN(3) == 0 {
		e = m.sell(it, say{})
		e.Units = b
	}
	p.Price, e.Price = it.cost*a, it.cost*b*2
	if m.IntN(4) == 0 {
		p.GTIN, p.MPN, e.MPN = "", it.mpn, it.mpn
	}
	return m.sure("packs differ, both said", it, p, e, a, b)
}

func caseNumber(m *maker) Case {
	it, n := m.packable(), packSize(m)
	p := m.offer(it, say{pack: n})
	p.GTIN = caseOf(it.gtin, m)
	e := m.sell(it, say{})
	e.Units = 1
	return m.sure("case number on the single's entry, both counts said", it, p, e, n, 1)
}

func counted(m *maker) Case {
	for {
		if it := m.item(); it.parts != "" || it.per != "" {
			return m.sure("a count that is no pack", it, m.offer(it, say{}), m.sell(it, say{}), 1, 1)
		}
	}
}

func book(m *maker) Case {
	b := pick(m, books)
	n := m.gtin("979" + fmt.Sprint(5+m.IntN(4)))
	p := match.Product{GTIN: n, Thing: match.Thing{Title: pick(m, []string{b.title + " by " + b.author, b.author + ": " + b.title, strings.ToUpper(b.title)})}}
	e := match.Entry{Ref: m.ref(), GTINs: []string{n}, Thing: match.Thing{Title: b.title + pick(m, []string{" (", " - ", ", "}) + b.author, Brand: pick(m, []string{"", "Lantern Hill Press"})}}
	return Case{p, []match.Entry{e}, Truth{Kind: "book by ISBN", Ref: e.Ref, Bought: 1, Listed: 1, OK: certain, Certain: true, First: []string{e.Ref}}}
}

func packOneSide(m *maker) Case {
	it, n := m.packable(), packSize(m)
	s, t := say{pack: n}, say{}
	if m.IntN(2) == 0 {
		s, t = t, s
	}
	p, e := m.offer(it, s), m.sell(it, t)
	p.Price, e.Price = it.cost*n, it.cost*n*2
	if m.IntN(2) == 0 {
		p.GTIN, p.MPN, e.MPN = "", it.mpn, it.mpn
	}
	return m.open("pack said on one side only", it, p, e, undecided)
}

func caseUnsaid(m *maker) Case {
	it := m.packable()
	p := m.offer(it, say{})
	p.GTIN = caseOf(it.gtin, m)
	p.Price = it.cost * 6
	return m.open("case number on the single's entry, counts not said", it, p, m.sell(it, say{}), likely)
}

func guessedWords(m *maker) Case {
	it := m.item()
	it.gtin = guessable(m)
	e := m.sell(it, say{})
	return m.open("number by guess, words agree", it, m.offer(it, say{}), e, likely)
}

func internalWords(m *maker) Case {
	it := m.item()
	it.gtin = m.gtin("2")
	return m.open("internal number, words agree", it, m.offer(it, say{}), m.sell(it, say{}), likely)
}

func lostWords(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{})
	p.GTIN = "9.52345E+12"
	return m.open("number lost, words agree", it, p, m.sell(it, say{}), likely)
}

func wordsOnly(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{})
	p.GTIN = ""
	c := m.open("words only", it, p, m.sell(it, say{}), []match.Verdict{match.Likely, match.Unsure})
	if v := m.variant(it); v != nil && m.IntN(2) == 0 {
		c.Entries = m.shuffled(append(c.Entries, m.sell(v, say{})))
	}
	return c
}

func twice(m *maker) Case {
	it := m.item()
	a, b := m.sell(it, say{}), m.sell(it, say{})
	b.Ref += "B"
	return Case{m.offer(it, say{}), []match.Entry{a, b}, Truth{Kind: "the same entry several times", OK: []match.Verdict{match.Unsure}, First: []string{a.Ref, b.Ref}}}
}

func nearMisses(m *maker) Case {
	for {
		it := m.item()
		v := m.variant(it)
		if v == nil {
			continue
		}
		p := m.offer(it, say{})
		p.GTIN = ""
		e := m.sell(v, say{})
		return Case{p, m.shuffled(append(m.others(it), e)), Truth{Kind: "near misses only", OK: nothing}}
	}
}

func nothingThere(m *maker) Case {
	it := m.item()
	p := m.offer(it, say{})
	if m.IntN(2) == 0 {
		p.GTIN = ""
	}
	return Case{p, m.others(it), Truth{Kind: "nothing there", OK: nothing[:1]}}
}

func notAllowed(m *maker) Case {
	c := plain(m)
	for i := range c.Entries {
		if c.Entries[i].Ref == c.Truth.Ref {
			c.Entries[i].Closed, c.Entries[i].ByLeave = m.IntN(2) == 0, true
		}
	}
	c.Truth.Kind, c.Truth.OK, c.Truth.Certain = "not allowed", []match.Verdict{match.NotAllowed}, false
	return c
}

func shortCode(m *maker) Case {
	it := m.item()
	it.mpn = pick(m, []string{"A12", "K56", "ABCD"})
	p := m.offer(it, say{})
	p.GTIN, p.MPN = "", it.mpn
	e := m.sell(it, say{})
	e.MPN = it.mpn
	return m.open("maker's number too short or without a digit", it, p, e, likely)
}

func outOfProportion(m *maker) Case {
	it := m.packable()
	p := m.offer(it, say{})
	p.Price = it.cost * 12
	return m.open("price out of proportion, no pack said", it, p, m.sell(it, say{}), undecided)
}

func variantHasNumber(m *maker) Case {
	for {
		it := m.item()
		v := m.variant(it)
		if v == nil {
			continue
		}
		v.gtin = it.gtin
		p := m.offer(it, say{})
		right, wrong := m.sell(it, say{}), m.sell(v, say{})
		right.GTINs = nil
		return Case{p, m.shuffled([]match.Entry{right, wrong}), Truth{Kind: "number on a variant, the right entry beside it", Ref: right.Ref, Bought: 1, Listed: 1,
			OK: []match.Verdict{match.Conflict, match.Likely}, First: []string{right.Ref}}}
	}
}

func tongueNoNumber(m *maker) Case {
	it := m.item()
	it.per, it.rng = "", "Saltgrass"
	p := m.offer(it, say{lang: 1 + m.IntN(4)})
	p.GTIN = ""
	return m.open("words only, another language", it, p, m.sell(it, say{}), []match.Verdict{match.Likely, match.Unsure})
}

func trapVariant(m *maker) Case {
	for {
		it := m.item()
		v := m.variant(it)
		if v == nil {
			continue
		}
		v.gtin = it.gtin
		return m.trap("number on a variant", it, m.offer(it, say{}), m.sell(v, say{}), conflict)
	}
}

func trapBrand(m *maker) Case {
	it := m.item()
	o := *it
	o.brand = (it.brand + 1 + m.IntN(len(brands)-1)) % len(brands)
	o.rng = ""
	return m.trap("number on another brand", it, m.offer(it, say{}), m.sell(&o, say{}), conflict)
}

func trapThing(m *maker) Case {
	for {
		it, o := m.item(), m.item()
		if it.good != o.good && it.brand != o.brand {
			o.gtin = it.gtin
			return m.trap("number on another thing", it, m.offer(it, say{}), m.sell(o, say{}), conflict)
		}
	}
}

func trapThingSameBrand(m *maker) Case {
	for {
		it, o := m.item(), m.item()
		if it.good != o.good {
			o.brand, o.gtin, o.rng, it.rng = it.brand, it.gtin, "", ""
			o.mpn = m.code(it.brand)
			return m.trap("number on another thing of the brand", it, m.offer(it, say{}), m.sell(o, say{}), undecided)
		}
	}
}

func trapCode(m *maker) Case {
	it := m.item()
	p, e := m.offer(it, say{}), m.sell(it, say{})
	p.MPN, e.MPN = it.mpn, m.code(it.brand)
	return m.trap("number on another maker's number", it, p, e, conflict)
}

func trapPart(m *maker) Case {
	it := m.item()
	e := m.sell(it, say{before: pick(m, []string{"Spare ", "Replacement "}) + it.good.part + " for"})
	return m.trap("number on a spare part", it, m.offer(it, say{}), e, conflict)
}

func trapAccessory(m *maker) Case {
	it := m.item()
	before := it.good.accessory + pick(m, []string{" for", ", compatible with"})
	p, e := m.offer(it, say{}), m.sell(it, say{})
	if m.IntN(2) == 0 {
		p = m.offer(it, say{before: before})
	} else {
		e = m.sell(it, say{before: before})
	}
	return m.trap("number on an accessory", it, p, e, conflict)
}

func trapUsed(m *maker) Case {
	it := m.item()
	p, e := m.offer(it, say{}), m.sell(it, say{})
	switch m.IntN(3) {
	case 0:
		p.Condition = "used"
	case 1:
		e.Title += " (refurbished)"
	default:
		e = m.sell(it, say{extra: pick(m, []string{"used", "gebraucht", "d'occasion", "usato", "reacondicionado"})})
	}
	return m.trap("number on a used one", it, p, e, conflict)
}

func trapTelling(m *maker) Case {
	it := m.item()
	w := pick(m, tellings)
	p, e := m.offer(it, say{}), m.sell(it, say{})
	if m.IntN(2) == 0 {
		p = m.offer(it, say{extra: w})
	} else {
		e = m.sell(it, say{extra: w})
	}
	return m.trap("number on one with a telling word", it, p, e, conflict)
}

func trapGeneration(m *maker) Case {
	it := m.item()
	e := m.sell(it, say{extra: pick(m, generations)})
	return m.trap("number on another generation", it, m.offer(it, say{}), e, conflict)
}

func trapPack(m *maker) Case {
	it, n := m.packable(), packSize(m)
	e := m.sell(it, say{pack: n})
	e.Price = it.cost * n * 2
	return m.trap("number on another pack, said on one side", it, m.offer(it, say{}), e, undecided)
}

func trapGuess(m *maker) Case {
	it, o := m.item(), m.item()
	it.gtin = guessable(m)
	o.gtin = it.gtin
	return m.trap("number by guess on another thing", it, m.offer(it, say{}), m.sell(o, say{}), append(conflict, nothing...))
}

func trapInternal(m *maker) Case {
	it, o := m.item(), m.item()
	it.gtin = m.gtin("2")
	o.gtin = it.gtin
	return m.trap("internal number on another thing", it, m.offer(it, say{}), m.sell(o, say{}), append(conflict, nothing...))
}

package match_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/match"
	"easymargin/demo/pairs"
)

// flask is a pair that is certain; with changes one thing of it.
func flask(change func(p *match.Product, e *match.Entry)) match.Answer {
	p := match.Product{GTIN: "9521000100015", Thing: match.Thing{Title: "Tarnwick Trail vacuum flask 500 ml blue", Brand: "Tarnwick", Price: 400, Currency: "GBP"}}
	e := match.Entry{Ref: "Q1", GTINs: []string{"09521000100015"}, Thing: match.Thing{Title: "Trail flask, vacuum, 0.5 l, Tarnwick, blue", Brand: "Tarnwick Ltd", Price: 900, Currency: "GBP"}}
	change(&p, &e)
	return match.Weigh(&p, []match.Entry{e})
}

func TestEachContradictionIsSeen(t *testing.T) {
	assert.Equal(t, match.Certain, flask(func(*match.Product, *match.Entry) {}).Verdict)
	for words, change := range map[string]func(p *match.Product, e *match.Entry){
		"another brand: Skarholt, not Tarnwick":             func(p *match.Product, e *match.Entry) { e.Brand, e.Title = "Skarholt", "Trail vacuum flask 0.5 l blue" },
		"another maker's number: TW200, not TW100":          func(p *match.Product, e *match.Entry) { p.MPN, e.MPN = "TW-100", "TW 200" },
		"350 ml here, 500 ml at the supplier":               func(_ *match.Product, e *match.Entry) { e.Title = "Tarnwick Trail vacuum flask 350 ml blue" },
		"red here, blue at the supplier":                    func(_ *match.Product, e *match.Entry) { e.Colour = "rouge" },
		"size L here, M at the supplier":                    func(p *match.Product, e *match.Entry) { p.Size, e.Size = "M", "Large" },
		"only the entry says “lid”":                         func(_ *match.Product, e *match.Entry) { e.Title += " lid" },
		"only the supplier says “refill”":                   func(p *match.Product, _ *match.Entry) { p.Title += " Nachfüllpack" },
		"used here, new at the supplier":                    func(_ *match.Product, e *match.Entry) { e.Condition = "gebraucht" },
		"the entry is for such a thing, and not one itself": func(_ *match.Product, e *match.Entry) { e.Title = "Spout for Tarnwick Trail vacuum flask 500 ml blue" },
		"16 a here, 10a at the supplier":                    func(p *match.Product, e *match.Entry) { p.Title += " 10a"; e.Title += ", 16 A" },
		"6500k here, 2700 k at the supplier":                func(p *match.Product, e *match.Entry) { p.Title += " 2700 K"; e.Title += " 6500K" },
		"1400 rpm here, 900rpm at the supplier":             func(p *match.Product, e *match.Entry) { p.Title += " 900rpm"; e.Title += " 1400 rpm" },
		"45° here, 90° at the supplier":                     func(p *match.Product, e *match.Entry) { p.Title += " 90°"; e.Title += " 45°" },
		"only the supplier says “without”":                  func(p *match.Product, _ *match.Entry) { p.Title += " zonder" },
		"front here, rear at the supplier":                  func(p *match.Product, e *match.Entry) { p.Title += " rear"; e.Title += " front" },
	} {
		a := flask(change)
		assert.Equal(t, match.Conflict, a.Verdict, words)
		assert.Empty(t, a.Ref, words)
		require.Len(t, a.Candidates, 1, words)
		assert.Contains(t, a.Candidates[0].Against, words)
	}
}

// What stands before "for" is the thing, whatever words of it stand after it too, in
// every language that is read.
func TestAThingForTheThingIsAnother(t *testing.T) {
	for _, title := range []string{"Flask strap for Tarnwick Trail vacuum flask 500 ml", "Deckelring für Tarnwick Trail vacuum flask 500 ml",
		"Dop voor Tarnwick Trail vacuum flask 500 ml", "Lock till Tarnwick Trail vacuum flask 500 ml", "Nakretka do Tarnwick Trail vacuum flask 500 ml"} {
		a := flask(func(p *match.Product, e *match.Entry) { p.MPN, e.MPN, e.Title = "TW-1001", "TW-1001", title })
		assert.NotEqual(t, match.Certain, a.Verdict, title)
	}
}

// A wrong product of counts is worse than an open question: a figure beside a count is
// no count unless a sign or the words say so.
func TestCountsMultiplyOnlyWhereTheyAreSaidTo(t *testing.T) {
	for title, units := range map[string]int64{"Tarnwick rod 4in pack of 5": 5, "Tarnwick rod 20 in pack of 5": 5, "Tarnwick rods 2 dozen": 24, "Tarnwick rods 2 x 6 pack": 12,
		"Tarnwick 7 dozen": 0, "Tarnwick cups 6 for one": 0, "Tarnwick rods in box of 3 dozen": 36} {
		a := match.Weigh(&match.Product{GTIN: "9521000100015", Thing: match.Thing{Title: title, Brand: "Tarnwick"}},
			[]match.Entry{{Ref: "Q1", GTINs: []string{"9521000100015"}, Thing: match.Thing{Title: title, Brand: "Tarnwick"}}})
		assert.Equal(t, units, a.Bought, title)
		assert.Equal(t, units > 0, a.Verdict == match.Certain, title)
	}
}

func TestUnitsArePartOfTheAnswer(t *testing.T) {
	for name, c := range map[string]struct {
		change         func(p *match.Product, e *match.Entry)
		verdict        match.Verdict
		bought, listed int64
	}{
		"both say":            {func(p *match.Product, e *match.Entry) { p.Units, e.Units = 6, 1; p.Price *= 6 }, match.Certain, 6, 1},
		"by field and title":  {func(p *match.Product, e *match.Entry) { p.Units, e.Title = 12, e.Title+" 6-pack" }, match.Certain, 12, 6},
		"one says":            {func(p *match.Product, _ *match.Entry) { p.Units = 6 }, match.Conflict, 0, 0},
		"one says one":        {func(p *match.Product, _ *match.Entry) { p.Units = 1 }, match.Certain, 1, 1},
		"they don't divide":   {func(p *match.Product, e *match.Entry) { p.Units, e.Units = 3, 10 }, match.Likely, 0, 0},
		"field against title": {func(p *match.Product, e *match.Entry) { p.Units, p.Title = 1, p.Title+" pack of 6"; e.Units = 1 }, match.Conflict, 0, 0},
		"description": {func(p *match.Product, e *match.Entry) {
			p.Description = "Sold in a box of 4."
			e.Units = 4
			e.Price *= 4
			p.Price *= 4
		}, match.Certain, 4, 4},
		"price beyond reason": {func(p *match.Product, _ *match.Entry) { p.Price = 9000 }, match.Likely, 0, 0},
		"other currency":      {func(p *match.Product, _ *match.Entry) { p.Price, p.Currency = 9000, "JPY" }, match.Certain, 1, 1},
		"case, both said":     {func(p *match.Product, e *match.Entry) { p.GTIN, p.Units, e.Units = "19521000100012", 6, 1 }, match.Certain, 6, 1},
		"case, nothing said":  {func(p *match.Product, _ *match.Entry) { p.GTIN = "19521000100012" }, match.Likely, 0, 0},
		"six bottles or one":  {func(p *match.Product, _ *match.Entry) { p.Title += ", 6 bottles" }, match.Conflict, 0, 0},
		"a count or a measure": {func(p *match.Product, e *match.Entry) {
			p.Title, e.Title = "Tarnwick mat 5 x 90 cm blue", "Tarnwick mat 90 cm blue"
		}, match.Conflict, 0, 0},
	} {
		a := flask(c.change)
		assert.Equal(t, c.verdict, a.Verdict, name)
		assert.Equal(t, [2]int64{c.bought, c.listed}, [2]int64{a.Bought, a.Listed}, name)
	}
}

func TestWhatIsNeverCertain(t *testing.T) {
	for name, change := range map[string]func(p *match.Product, e *match.Entry){
		"zeros put back by guess":             func(p *match.Product, e *match.Entry) { p.GTIN, e.GTINs = "12345265020", []string{"012345265020"} },
		"a number of somebody's own":          func(p *match.Product, e *match.Entry) { p.GTIN, e.GTINs = "2046162279777", []string{"2046162279777"} },
		"words alone":                         func(p *match.Product, _ *match.Entry) { p.GTIN = "" },
		"a language whose words aren't known": func(_ *match.Product, e *match.Entry) { e.Title = "Tarnwick termoskanna vandring" },
		"a maker's number too short":          func(p *match.Product, e *match.Entry) { p.GTIN, p.MPN, e.MPN = "", "A12", "A12" },
		"one side says nothing":               func(p *match.Product, _ *match.Entry) { p.Title, p.Brand = "Code 39012", "" },
		"one language, no word in common":     func(_ *match.Product, e *match.Entry) { e.Title = "Tarnwick folding camp chair" },
	} {
		assert.Equal(t, match.Likely, flask(change).Verdict, name)
	}
	assert.Equal(t, match.NotAllowed, flask(func(_ *match.Product, e *match.Entry) { e.Closed = true }).Verdict)
	assert.Equal(t, match.NotAllowed, flask(func(_ *match.Product, e *match.Entry) { e.ByLeave = true }).Verdict)
	assert.Equal(t, match.Certain, flask(func(p *match.Product, e *match.Entry) { p.GTIN, p.MPN, e.MPN = "2046162279777", "TW-1001", "TW1001" }).Verdict,
		"brand and maker's number prove it beside a number of somebody's own")
	assert.Equal(t, match.Certain, flask(func(p *match.Product, e *match.Entry) { p.GTIN, e.GTINs = "306406152", []string{"9780306406157"} }).Verdict,
		"a book's number whose zero a spreadsheet took")
	assert.Equal(t, match.None, match.Weigh(&match.Product{Thing: match.Thing{Title: "x"}}, nil).Verdict)
}

func TestTheRightOneAmongMany(t *testing.T) {
	p := match.Product{GTIN: "9521000100015", Thing: match.Thing{Title: "Tarnwick Trail flask 500 ml blue", Brand: "Tarnwick", MPN: "TW-1001"}}
	thing := func(title, mpn string) match.Thing { return match.Thing{Title: title, Brand: "Tarnwick", MPN: mpn} }
	wrong := match.Entry{Ref: "number", GTINs: []string{p.GTIN}, Thing: thing("Tarnwick Trail flask 750 ml blue", "TW-1002")}
	right := match.Entry{Ref: "maker", Thing: thing("Tarnwick Trail flask 500 ml blue", "TW-1001")}
	a := match.Weigh(&p, []match.Entry{wrong, right})
	assert.Equal(t, match.Certain, a.Verdict)
	assert.Equal(t, "maker", a.Ref)
	assert.Equal(t, []string{"maker", "number"}, []string{a.Candidates[0].Ref, a.Candidates[1].Ref}, "the one that has the number is shown, against")
	p.MPN = ""
	a = match.Weigh(&p, []match.Entry{wrong, right})
	assert.Equal(t, match.Conflict, a.Verdict)
	assert.Equal(t, "maker", a.Candidates[0].Ref)
	twin := right
	twin.Ref = "twin"
	p.MPN = "TW-1001"
	assert.Equal(t, match.Unsure, match.Weigh(&p, []match.Entry{right, twin}).Verdict)
}

func TestRowsStandBesideEachOther(t *testing.T) {
	a := flask(func(p *match.Product, e *match.Entry) { e.Units = 6; p.MPN = "TW-1" })
	marks := map[string]match.Mark{}
	for _, r := range a.Candidates[0].Rows {
		marks[r.Aspect] = r.Mark
	}
	assert.Equal(t, map[string]match.Mark{"number": match.Same, "brand": match.Same, "maker's number": match.OneSide, "pack": match.Differs,
		"volume": match.Same, "colour": match.Same, "title": match.Same}, marks)
}

// measures are those of matching.md, "How good it must be".
type measures struct {
	cases, certain, right, could, called, traps, trapped, open, first int
	fine                                                              int // the verdict is one of those that are
}

func (m *measures) add(a match.Answer, t pairs.Truth) {
	m.cases++
	if slices.Contains(t.OK, a.Verdict) {
		m.fine++
	}
	if a.Verdict == match.Certain {
		m.certain++
		if a.Ref == t.Ref && a.Bought == t.Bought && a.Listed == t.Listed {
			m.right++
		}
	}
	if t.Certain {
		m.could++
		if a.Verdict == match.Certain {
			m.called++
		}
	}
	if t.Trap {
		m.traps++
		if a.Verdict == match.Certain {
			m.trapped++
		}
	}
	if len(t.First) > 0 && a.Verdict != match.Certain {
		m.open++
		if len(a.Candidates) > 0 && slices.Contains(t.First, a.Candidates[0].Ref) {
			m.first++
		}
	}
}

func (m *measures) hold(t *testing.T) {
	assert.GreaterOrEqual(t, 1000*m.right, 999*m.certain, "right in entry and units: %d of %d", m.right, m.certain)
	assert.GreaterOrEqual(t, 100*m.called, 97*m.could, "called certain: %d of %d", m.called, m.could)
	assert.Zero(t, m.trapped, "of %d traps", m.traps)
	assert.GreaterOrEqual(t, 100*m.first, 95*m.open, "ranked first: %d of %d", m.first, m.open)
	assert.GreaterOrEqual(t, 100*m.fine, 98*m.cases, "a verdict that is fine: %d of %d", m.fine, m.cases)
}

func TestTheLabelledSet(t *testing.T) {
	var m measures
	for _, c := range pairs.Make(2026, 6000) {
		m.add(match.Weigh(&c.Product, c.Entries), c.Truth)
	}
	m.hold(t)
}

// BenchmarkWeigh weighs the labelled set, and prints the measures and what
// became of each kind. The baseline is folding the same titles.
func BenchmarkWeigh(b *testing.B) {
	cases := pairs.Make(2026, 6000)
	n := 0
	for b.Loop() {
		c := &cases[n%len(cases)]
		match.Weigh(&c.Product, c.Entries)
		n++
	}
	entries := 0
	for i := range n {
		entries += len(cases[i%len(cases)].Entries)
	}
	b.ReportMetric(float64(entries)/b.Elapsed().Seconds(), "pairs/s")
	report(b, cases)
}

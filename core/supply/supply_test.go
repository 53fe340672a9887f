package supply_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/supply"
)

func TestGuardsHoldJustPastTheirShare(t *testing.T) {
	fine := supply.Figures{Rows: 100, LastRows: 100, Known: 100, InStock: 80}
	for name, c := range map[string]struct {
		change func(f *supply.Figures)
		guard  string
	}{
		"all as before":          {func(*supply.Figures) {}, ""},
		"no rows":                {func(f *supply.Figures) { f.Rows = 0 }, "no rows"},
		"another currency":       {func(f *supply.Figures) { f.OtherCurr = 1 }, "currency"},
		"70 % of the rows":       {func(f *supply.Figures) { f.Rows = 70 }, ""},
		"under 70 % of the rows": {func(f *supply.Figures) { f.Rows = 69 }, "rows"},
		"20 % set aside":         {func(f *supply.Figures) { f.SetAside = 20 }, ""},
		"over 20 % set aside":    {func(f *supply.Figures) { f.SetAside = 21 }, "set aside"},
		"10 % of costs moved":    {func(f *supply.Figures) { f.Moved = 10 }, ""},
		"over 10 % of costs":     {func(f *supply.Figures) { f.Moved = 11 }, "costs"},
		"10 % are other things":  {func(f *supply.Figures) { f.Other = 10 }, ""},
		"over 10 % are":          {func(f *supply.Figures) { f.Other = 11 }, "identity"},
		"few of few are":         {func(f *supply.Figures) { f.Known, f.Other = 9, 7 }, ""},
		"60 % of stocks jumped":  {func(f *supply.Figures) { f.Jumped = 60 }, ""},
		"over 60 % jumped":       {func(f *supply.Figures) { f.Jumped = 61 }, "stock jumps"},
		"half are dearer":        {func(f *supply.Figures) { f.Dearer, f.Cheaper = 50, 50 }, ""},
		"over half are dearer":   {func(f *supply.Figures) { f.Dearer = 51 }, "costs together"},
		"over half are cheaper":  {func(f *supply.Figures) { f.Cheaper = 51 }, "costs together"},
		"half to nothing":        {func(f *supply.Figures) { f.ToZero = 40 }, ""},
		"over half to nothing":   {func(f *supply.Figures) { f.ToZero = 41 }, "stock"},
	} {
		f := fine
		c.change(&f)
		held := supply.DefaultGuards.Check(f, true)
		if c.guard == "" {
			assert.Empty(t, held, name)
		} else if assert.Len(t, held, 1, name) {
			assert.Equal(t, c.guard, held[0].Guard, name)
		}
	}
	short := fine
	short.Rows = 5
	assert.Empty(t, supply.DefaultGuards.Check(short, false), "an update may be as short as it likes")
	assert.False(t, supply.MovedByHalf(100, 150))
	assert.True(t, supply.MovedByHalf(100, 151))
	assert.True(t, supply.MovedByHalf(100, 49))
}

// now is some moment; the links below were heard from just then.
const now = 1_772_527_000

func link(stock supply.Stock, bought, listed int64) *supply.Link {
	return &supply.Link{UnitsBought: bought, UnitsListed: listed, StaleAfter: 3600, Reports: []supply.Report{{At: now, Stock: stock}}}
}

func known(n int64) supply.Stock { return supply.Stock{State: supply.StockKnown, Count: n} }

func TestTheOfferStaysBelowTheStock(t *testing.T) {
	for name, c := range map[string]struct {
		link  *supply.Link
		offer int64
		why   supply.Why
	}{
		"the cap":                            {link(known(50), 1, 1), 10, supply.WhyInStock},
		"the buffer":                         {link(known(2), 1, 1), 1, supply.WhyInStock},
		"only the buffer":                    {link(known(1), 1, 1), 0, supply.WhyTooFew},
		"one case of six, singles listed":    {link(known(1), 6, 1), 5, supply.WhyInStock},
		"one pack of six, less the buffer":   {link(known(11), 1, 6), 0, supply.WhyTooFew},
		"unknown, whatever the count":        {link(supply.Stock{State: supply.StockUnknown, Count: 9}, 1, 1), 0, supply.WhyUnknown},
		"ended":                              {link(supply.Stock{State: supply.StockEnded}, 1, 1), 0, supply.WhyEnded},
		"never heard from":                   {&supply.Link{StaleAfter: 3600}, 0, supply.WhyStale},
		"as many as a number holds, in tens": {link(known(1<<62), 10, 1), 10, supply.WhyInStock},
	} {
		g := supply.DefaultRule.Gives(c.link, now, 0)
		assert.Equal(t, []any{c.offer, c.why}, []any{g.Offer, g.Why}, name)
	}
	rapid.Check(t, func(t *rapid.T) {
		r := supply.Rule{
			Buffer:   rapid.Int64Range(0, 9).Draw(t, "buffer"),
			Least:    rapid.Int64Range(0, 9).Draw(t, "least"),
			Cap:      rapid.Int64Range(1, 99).Draw(t, "cap"),
			Patience: 1,
		}
		n, bought, listed := rapid.Int64Range(0, 1<<40).
			Draw(t, "stock"),
			rapid.Int64Range(1, 99).
				Draw(t, "bought"),
			rapid.Int64Range(1, 99).
				Draw(t, "listed")
		g := r.Gives(link(known(n), bought, listed), now, rapid.Int64Range(0, 3).Draw(t, "confirmed"))
		assert.GreaterOrEqual(t, g.Offer, int64(0))
		assert.LessOrEqual(t, g.Offer*listed, n*bought, "never above the supplier's stock")
		assert.LessOrEqual(t, g.Offer, r.Cap)
	})
}

// The present supplier stays unless another saves more than 2 %; one whose cost
// can't be told is never chosen for being cheap.
func TestTheSupplierIsKept(t *testing.T) {
	two := func(present, other int64) []supply.Link {
		a, b := *link(known(9), 1, 1), *link(known(9), 1, 1)
		a.Present, a.Landed, b.Landed = true, present, other
		return []supply.Link{a, b}
	}
	for other, want := range map[int64]int{1000: 0, 1001: 0, 980: 0, 979: 1, 0: 1} {
		at, _ := supply.DefaultRule.Choose(two(1000, other), now, 5)
		assert.Equal(t, want, at, "%d against 1000", other)
	}
	links := two(1000, 1)
	links[1].Unpriced = true
	at, _ := supply.DefaultRule.Choose(links, now, 5)
	assert.Zero(t, at)
	links[0].Unpriced, links[1].Unpriced = true, false
	at, _ = supply.DefaultRule.Choose(links, now, 5)
	assert.Equal(t, 1, at)
	links = two(1000, 2000)
	links[0].Reports[0].Stock = known(0)
	at, g := supply.DefaultRule.Choose(links, now, 5)
	assert.Equal(t, []any{1, int64(8)}, []any{at, g.Offer}, "what the present one hasn't, the dearer one has")
	links[1].Reports[0].Stock = known(0)
	at, g = supply.DefaultRule.Choose(links, now, 5)
	assert.Equal(t, []any{0, int64(0), supply.WhyNoneLeft}, []any{at, g.Offer, g.Why})
}

func TestDiffNamesEachFieldOnce(t *testing.T) {
	a := supply.Product{
		Ref:        "A",
		Title:      "Mug",
		Cost:       money.Of(240, "GBP"),
		Stock:      supply.Stock{State: supply.StockKnown, Count: 4},
		Attributes: []supply.Attribute{{Name: "Finish", Value: "moss"}},
	}
	b := a
	assert.Empty(t, supply.Diff(&a, &b))
	assert.Equal(t, a.Fingerprint(), b.Fingerprint())
	b.Cost, b.Attributes = money.Of(255, "GBP"), []supply.Attribute{{Name: "Shade", Value: "slate"}}
	assert.Equal(
		t,
		[]supply.Change{
			{Field: "cost", Before: "2.40", After: "2.55"},
			{Field: "attribute Shade", After: "slate"},
			{Field: "attribute Finish", Before: "moss"},
		},
		supply.Diff(&a, &b),
	)
	assert.NotEqual(t, a.Fingerprint(), b.Fingerprint())
}

// What a row says of which thing it is, of its stock and of its cost is compared with
// what it said before; what one of both doesn't say, says nothing.
func TestRowsAreComparedWithWhatTheyWere(t *testing.T) {
	cup := supply.Product{GTIN: "09520001000017", Brand: "Tarnwick", Title: "Tarnwick cup blue", UnitsPerItem: 6,
		Cost: money.Of(1000, "GBP"), Stock: supply.Stock{State: supply.StockKnown, Count: 30}}
	for name, c := range map[string]struct {
		change func(p *supply.Product)
		want   supply.Figures
	}{
		"the same":              {func(*supply.Product) {}, supply.Figures{}},
		"other letters":         {func(p *supply.Product) { p.Brand, p.Title = "TARNWICK", "Cup, dark" }, supply.Figures{}},
		"other words":           {func(p *supply.Product) { p.Title = "Mug (dark)" }, supply.Figures{Other: 1}},
		"another number":        {func(p *supply.Product) { p.GTIN = "09520001000024" }, supply.Figures{Other: 1}},
		"no number":             {func(p *supply.Product) { p.GTIN, p.Brand, p.Title = "", "", "" }, supply.Figures{}},
		"another brand":         {func(p *supply.Product) { p.Brand = "Skarholt" }, supply.Figures{Other: 1}},
		"another count":         {func(p *supply.Product) { p.UnitsPerItem = 12 }, supply.Figures{Other: 1}},
		"three times the stock": {func(p *supply.Product) { p.Stock.Count = 90 }, supply.Figures{Jumped: 1}},
		"twice the stock":       {func(p *supply.Product) { p.Stock.Count = 60 }, supply.Figures{}},
		"a third of the stock":  {func(p *supply.Product) { p.Stock.Count = 10 }, supply.Figures{Jumped: 1}},
		"none left":             {func(p *supply.Product) { p.Stock.Count = 0 }, supply.Figures{}},
		"30 % dearer":           {func(p *supply.Product) { p.Cost.Minor = 1300 }, supply.Figures{}},
		"31 % dearer":           {func(p *supply.Product) { p.Cost.Minor = 1310 }, supply.Figures{Dearer: 1}},
		"45 % cheaper":          {func(p *supply.Product) { p.Cost.Minor = 550 }, supply.Figures{Cheaper: 1}},
		"half as dear again":    {func(p *supply.Product) { p.Cost.Minor = 1510 }, supply.Figures{Dearer: 1, Moved: 1}},
		"another currency":      {func(p *supply.Product) { p.Cost = money.Of(9000, "EUR") }, supply.Figures{}},
	} {
		after, got := cup, supply.Figures{}
		c.change(&after)
		got.Compare(&cup, &after)
		assert.Equal(t, c.want, got, name)
	}
}

package match_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/core/match"
)

func TestOnlyAWholeUnopposedNumberIsCertain(t *testing.T) {
	mug := match.Product{GTIN: "09521000100010", Title: "Tarnwick Trail mug, titanium, 450 ml", Brand: "Tarnwick", Units: 1}
	entry := match.Entry{Ref: "Q1", GTIN: mug.GTIN, Title: "Tarnwick Trail Titanium mug 450 ml", Brand: "Tarnwick", Units: 1}
	with := func(change func(p *match.Product, e *match.Entry)) (match.Product, match.Entry) {
		p, e := mug, entry
		change(&p, &e)
		return p, e
	}
	for name, c := range map[string]struct {
		change func(p *match.Product, e *match.Entry)
		want   match.State
	}{
		"the same number":         {func(*match.Product, *match.Entry) {}, match.Certain},
		"zeros put back by guess": {func(p *match.Product, _ *match.Entry) { p.Repaired = true }, match.Several},
		"another brand":           {func(_ *match.Product, e *match.Entry) { e.Brand = "Skarholt" }, match.Several},
		"no number":               {func(p *match.Product, _ *match.Entry) { p.GTIN = "" }, match.Several},
		"a case for the single item": {func(p *match.Product, _ *match.Entry) {
			p.GTIN,
				p.Inside = "19521000100017", "09521000100010"
		}, match.Several},
		"a title that says elsewise": {func(_ *match.Product, e *match.Entry) { e.Title = "Down quilt, three season" }, match.Several},
		"another size in the title": {func(_ *match.Product,
			e *match.Entry) {
			e.Title = "Tarnwick Trail Titanium mug 600 ml"
		}, match.Several},
		"a size only one title gives": {func(_ *match.Product, e *match.Entry) { e.Title = "Tarnwick Trail Titanium mug" }, match.Certain},
		"a brand within the title": {func(p *match.Product, e *match.Entry) { p.Brand, e.Brand = "TW Supplies", "Tarnwick" },
			match.Certain},
		"a pack that only the entry says":    {func(_ *match.Product, e *match.Entry) { e.Units = 6 }, match.Several},
		"a pack that only the supplier says": {func(p *match.Product, _ *match.Entry) { p.Units = 10 }, match.Several},
		"a pack where the entry says none":   {func(p *match.Product, e *match.Entry) { p.Units, e.Units = 10, 0 }, match.Several},
		"two packs under one number":         {func(p *match.Product, e *match.Entry) { p.Units, e.Units = 12, 6 }, match.Several},
		"the same pack on both sides":        {func(p *match.Product, e *match.Entry) { p.Units, e.Units = 6, 6 }, match.Certain},
	} {
		p, e := with(c.change)
		got, state := match.Weigh(p, []match.Entry{e})
		assert.Equal(t, c.want, state, name)
		assert.Len(t, got, 1, name)
		assert.NotEmpty(t, got[0].Evidence, name)
	}
	_, state := match.Weigh(mug, nil)
	assert.Equal(t, match.None, state)
}

func TestTwoEntriesWithOneNumberWantAPerson(t *testing.T) {
	p := match.Product{GTIN: "09521000100010", Title: "Peg set, steel", Units: 1}
	got, state := match.Weigh(p, []match.Entry{
		{
			Ref:   "twin",
			GTIN:  p.GTIN,
			Title: "Peg set, steel, twin pack",
			Units: 2,
		},
		{Ref: "one", GTIN: p.GTIN, Title: "Peg set, steel", Units: 1},
	})
	assert.Equal(t, match.Several, state)
	assert.Equal(t, "one", got[0].Ref, "the likelier stands first")
	assert.Contains(t, got[1].Differs, "twin")
}

// Without a number to go by, the size decides which of two like titles is first.
func TestAnotherSizeSpeaksAgainst(t *testing.T) {
	p := match.Product{Title: "Tarnwick Trail mug, titanium, 300 ml", Brand: "Tarnwick"}
	got, _ := match.Weigh(p, []match.Entry{
		{
			Ref:   "600",
			Title: "Tarnwick Trail Titanium mug 600 ml",
			Brand: "Tarnwick",
		},
		{Ref: "300", Title: "Tarnwick Trail Titanium mug 300 ml", Brand: "Tarnwick"},
	})
	assert.Equal(t, "300", got[0].Ref)
	assert.Contains(t, got[0].Evidence, match.Evidence{For: true, Words: "titles agree"})
	assert.Contains(t, got[1].Evidence, match.Evidence{Words: "the titles' figures differ: 600 here, 300 at the supplier"})
	assert.NotContains(t, got[1].Evidence, match.Evidence{For: true, Words: "titles agree"})
}

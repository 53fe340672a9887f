package title_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/match/title"
)

func read(text string, brands ...string) *title.Facts {
	names := &title.Names{}
	for _, b := range brands {
		names.Brand(title.Default().BrandWords(b))
	}
	return title.Default().Read(text, names)
}

func TestEveryWayToSayAPack(t *testing.T) {
	for text, want := range map[string]int64{
		"pens pack of 6": 6, "pens, 6 pack": 6, "pens 6pk": 6, "pens 6-pack": 6, "6 x pens": 6, "6x pens": 6, "pens x6": 6, "pens x 6": 6,
		"set of 6 pens": 6, "pens (box of 12)": 12, "case of 24 pens": 24, "pens, 1 dozen": 12, "a dozen pens": 12, "2 dozen pens": 24,
		"half dozen pens": 6, "pens 6 pcs": 6, "pens 6 pieces": 6, "pens 6 count": 6, "pens 6ct": 6, "Stifte 6er-Pack": 6, "Stifte 6er Set": 6,
		"Stifte 6 Stück": 6, "lot de 6 stylos": 6, "stylos, paquet de 6": 6, "penne confezione da 6": 6, "paquete de 6": 6, "caja de 6": 6,
		"juego de 6 plumas": 6, "plumas 6 uds": 6, "pens 2 × 6 pack": 12, "pens, pack of 2 x 6": 12, "6 x 330 ml": 6, "330ml x 6": 6, "6x0.5 l": 6,
		"2 x 6 x 33 cl cola": 12, "500mlx6": 6, "pens twin pack": 2, "pens, pack of six": 6, "pens 1 pc": 1, "pens 1 Stück": 1, "pens pack 6": 6,
		"Range 30 pens x6": 6, "Range 30 case of 5": 5, "10 x 40 cm x 30 cm boards": 10, "pnes confezoine da 6": 6,
	} {
		f := read(text)
		assert.Equal(t, want, f.Pack.Count, text)
		assert.True(t, f.Pack.Said(), text)
	}
}

func TestCountsThatAreNoPack(t *testing.T) {
	for text, kind := range map[string]string{
		"16 piece cutlery set": "parts", "16-piece cutlery": "parts", "Besteckset 16-teilig": "parts", "cutlery set, 16 pieces": "parts",
		"2 person tent": "persons", "3-pin plug": "pins", "6-inch pipe": "length", "30 x 40 cm board": "length", "6-burner range": "burners",
		"binoculars with 10x zoom": "times", "2 in 1 whisk": "ways", "pair of socks": "pairs", "80 cm x 190 cm mat": "length", "sack of 25 kg": "mass", "map case A5": "",
		"paper 500 sheets": "sheets", "socket set": "",
	} {
		f := read(text)
		assert.False(t, f.Pack.Said() && f.Pack.Count != 1, text)
		if kind != "" {
			assert.True(t, slices.ContainsFunc(f.Figures, func(g title.Figure) bool { return g.Kind == kind }), "%s: %+v", text, f.Figures)
		}
	}
}

func TestTwoCountsAreUnclear(t *testing.T) {
	assert.True(t, read("pens pack of 6, box of 12").Pack.Unclear)
	assert.True(t, read("pens multipack").Pack.Unclear)
	assert.False(t, read("pens pack of 6 (6 pcs)").Pack.Unclear)
}

func TestAPackIsReadInADescriptionOnlyWhereSpelledOut(t *testing.T) {
	tables := title.Default()
	assert.EqualValues(t, 6, tables.ReadPack("Strong and useful. Comes in a box of 6.").Count)
	assert.Zero(t, tables.ReadPack("Fits 6 x 4 pictures; order by 12 noon. A cutlery set, 4 piece.").Count)
}

func TestFiguresAreBroughtToOneBase(t *testing.T) {
	for text, want := range map[string]string{
		"500 ml": "volume 500000", "0.5l": "volume 500000", "0,5 Liter": "volume 500000", "50 cl": "volume 500000",
		"1.2 m": "length 1200000", "120cm": "length 1200000", "1200 mm": "length 1200000", `27"`: "length 685800", "27-inch": "length 685800",
		"½ in": "length 12700", "1 1/2 in": "length 38100", "1,500 g": "mass 1500000", "16 oz": "mass 453600", "2 TB": "storage 2000000",
		"5 Ah": "charge 5000000", "12A": "current 12000", "2700K": "temperature 2700000",
	} {
		f := read("thing " + text)
		require.NotEmpty(t, f.Figures, text)
		assert.Equal(t, want, fmt.Sprint(f.Figures[0].Kind, " ", f.Figures[0].N), text)
	}
	// A point before three digits may part thousands, and a comma may be a decimal sign.
	f := read("bag 1.500 g").Figures[0]
	assert.Equal(t, []int64{1500, 1_500_000}, []int64{f.N, f.Other})
}

func TestSizesColoursAndTellingWords(t *testing.T) {
	f := read("Shoes size UK 8, dunkelblau, left")
	assert.Equal(t, []title.Size{{System: "uk", Value: "8"}}, f.Sizes)
	assert.Equal(t, []string{"navy"}, f.Colours)
	assert.Equal(t, []string{"left"}, f.Telling)
	assert.Equal(t, []title.Size{{Value: "xxl"}}, read("vest 2XL").Sizes)
	assert.Empty(t, read("women's L-shaped desk by S. Porter").Sizes)
	assert.Empty(t, read("bottle 1 l").Sizes)
	assert.Equal(t, []string{"green"}, read("running vest light green").Colours)
	assert.Equal(t, []string{"spare"}, read("Ersatzrad").Telling)
	assert.Equal(t, []string{"second"}, read("kettle mk2").Telling)
	assert.Equal(t, []string{"2026"}, read("planner 2026").Telling)
	assert.Equal(t, "refurbished", read("drill, generalüberholt").Condition)
	assert.Equal(t, "used", read("trolley d'occasion").Condition)
	assert.Equal(t, []string{"place/front"}, read("front mudguard").Choices)
}

func TestABrandsOwnWordsAreNothingElse(t *testing.T) {
	f := read("Red Max Mini & Co kettle 1 l", "Red Max Mini & Co.")
	assert.Empty(t, f.Colours)
	assert.Empty(t, f.Telling)
	assert.Equal(t, []string{"kettle"}, f.Words)
	assert.Equal(t, []string{"casa", "brunello"}, title.Default().BrandWords("Casa Brunello S.r.l."))
	assert.Equal(t, []string{"aurelko"}, title.Default().BrandWords("Aurelko, Sp. z o.o."))
	// its "kit" makes "4 pcs" no count of parts
	assert.EqualValues(t, 4, read("Kit Harrow torch 4 pcs", "Kit Harrow").Pack.Count)
}

func TestCodesMixLettersAndDigits(t *testing.T) {
	assert.Equal(t, []string{"TV344H"}, read("trolley TV344-H 35l").Codes)
	assert.Empty(t, read("non-stick 20cm 2XL mk2 8 GB").Codes)
	names := &title.Names{}
	names.Code("AK273R")
	assert.Equal(t, []string{"AK273R"}, title.Default().Read("shampoo AK273 R, 5 l", names).Codes)
}

func TestWhatAnAccessoryIsFor(t *testing.T) {
	f := read("splash guard for frying pan")
	assert.Equal(t, 2, f.For)
	assert.True(t, f.Early)
	assert.Equal(t, -1, read("frying pan").For)
}

func TestLanguagesAreToldApart(t *testing.T) {
	apart := func(a, b string) int32 { return title.Default().Apart(read(a).Spoken, read(b).Spoken) }
	assert.Greater(t, apart("Schraubendreher isoliert Schlitz", "insulated slotted screwdriver"), int32(600))
	assert.Greater(t, apart("bavoir silicone réglable noir", "adjustable baby bib black"), int32(300))
	assert.Less(t, apart("wiper blade left flat", "music stand folding steel"), int32(100))
	assert.Zero(t, apart("Quarry", "Quarry"))
}

func TestWordsAreAlike(t *testing.T) {
	for _, p := range [][2]string{{"cup", "cups"}, {"alu", "aluminium"}, {"friyng", "frying"}, {"sloted", "slotted"}, {"polish", "polished"}, {"concentrato", "concentrate"}} {
		assert.True(t, title.Alike(p[0], p[1]), p)
		assert.True(t, title.Alike(p[1], p[0]), p)
	}
	for _, p := range [][2]string{{"pan", "panel"}, {"left", "lift"}, {"glass", "brass"}, {"wind", "windproof"}} {
		assert.False(t, title.SameWord(p[0], p[1]), p)
	}
	assert.False(t, title.Alike("glass", "steel"))
}

func TestATableCanBeExtended(t *testing.T) {
	tables := *title.Default()
	require.NoError(t, tables.Extend("colours.txt", strings.NewReader("# ours\nteal: seagreen, Meergrün\n")))
	assert.Equal(t, []string{"teal"}, tables.Read("mug meergrün", &title.Names{}).Colours)
	for table, line := range map[string]string{"colours.txt": "no colon", "packs.txt": "nonsense: a", "units.txt": "ml: a", "numbers.txt": "x: y", "other.txt": "a: b"} {
		assert.ErrorContains(t, tables.Extend(table, strings.NewReader("\n"+line)), table+" line 2", line)
	}
}

// Case, accents as entities, and the order of what a title says don't matter.
func TestOrderAndCaseDontMatter(t *testing.T) {
	parts := []string{"Skarholt", "Grün", "UK 8", "0.5 l", "pack of 6", "30 × 40 cm", "links", "TV344-H", "kettle", "stainless"}
	rapid.Check(t, func(t *rapid.T) {
		some := slices.Clone(parts[:rapid.IntRange(2, len(parts)).Draw(t, "parts")])
		seed := rapid.Uint64().Draw(t, "seed")
		sep := rapid.SampledFrom([]string{", ", " - ", " | ", "; "}).Draw(t, "separator")
		change := rapid.SampledFrom([]func(string) string{
			strings.ToUpper, strings.ToLower,
			func(s string) string { return strings.ReplaceAll(strings.ReplaceAll(s, "ü", "&uuml;"), " ", "  ") },
		}).Draw(t, "writing")
		want := read(strings.Join(some, ", "), "Skarholt AS")
		rand.New(rand.NewPCG(seed, 1)).Shuffle(len(some), func(i, j int) { some[i], some[j] = some[j], some[i] })
		got := read(change(strings.Join(some, sep)), "Skarholt AS")
		assert.Equal(t, want.Pack.Count, got.Pack.Count)
		assert.ElementsMatch(t, want.Colours, got.Colours)
		assert.ElementsMatch(t, want.Sizes, got.Sizes)
		assert.ElementsMatch(t, want.Telling, got.Telling)
		assert.ElementsMatch(t, want.Codes, got.Codes)
		assert.ElementsMatch(t, want.Words, got.Words)
		assert.Equal(t, len(want.Figures), len(got.Figures))
	})
}

// There is no text that can't be read, and no count beyond what is believed.
func TestAnyTextIsRead(t *testing.T) {
	bits := []string{"6", "x", "pack", "of", "12", " ", "-", "'", `"`, "m", "ml", "er", "&#", "½", "×", "ß", "1.5", "999999999999999", "/", "*", "size", "UK", "日本"}
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.OneOf(rapid.SampledFrom(bits), rapid.String()), 0, 30).Draw(t, "bits"), rapid.SampledFrom([]string{"", " "}).Draw(t, "gap"))
		f := read(text, rapid.String().Draw(t, "brand"))
		assert.GreaterOrEqual(t, f.Pack.Count, int64(0))
		assert.LessOrEqual(t, f.Pack.Count, int64(10_000))
		title.Default().ReadPack(text)
		title.Default().ReadField(text)
	})
}

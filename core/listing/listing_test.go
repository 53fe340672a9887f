package listing_test

import (
	"math/big"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/listing"
	"easymargin/core/money"
)

func limit(n int64) *int64 { return &n }

// report checks values against needs, which must be sound.
func report(t require.TestingT, n listing.Needs, v listing.Values) listing.Report {
	c, err := n.Ready("GBP")
	require.NoError(t, err)
	r, err := c.Check(&v, false)
	require.NoError(t, err)
	return r
}

var (
	someWord = rapid.SampledFrom([]string{"Tap", "tap", "TÁP,", "15", "mm", "a", "–", "Röhre", "“Clip”", "clip", "DN15", "straight", "🛁"})
	somePart = rapid.Map(rapid.SliceOfN(someWord, 0, 5), func(w []string) string { return strings.Join(w, " ") })
)

func TestATitleKeepsItsLimit(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		parts := []string{"brand", "series", "kind", "bore"}
		counts := rapid.SampledFrom([]string{"", listing.Characters, listing.Bytes, listing.UTF16}).Draw(t, "counts")
		n := listing.Title{
			Limit: limit(rapid.Int64Range(0, 40).Draw(t, "limit")), Counts: counts, Parts: parts,
			FirstToGo:    rapid.SliceOfDistinct(rapid.SampledFrom(parts), func(s string) string { return s }).Draw(t, "first to go"),
			NumbersFirst: rapid.Bool().Draw(t, "numbers first"), RepeatWords: rapid.Bool().Draw(t, "repeat"),
		}
		v := listing.Values{SKU: "A", Price: "1", Brand: somePart.Draw(t, "brand"), Series: somePart.Draw(t, "series"), Kind: somePart.Draw(t, "kind"),
			Attributes: map[string]listing.Text{"bore": {somePart.Draw(t, "bore")}}}
		r := report(t, listing.Needs{Title: &n}, v)

		all := strings.Fields(v.Brand + " " + v.Series + " " + v.Kind + " " + v.Attributes["bore"][0])
		got := strings.Fields(r.Title)
		assert.Subset(t, all, got)
		assert.Equal(t, len(all) == 0, r.Title == "", "something is said where something is known")
		assert.Equal(t, r.Title, strings.Join(got, " "))
		if strings.Contains(r.Title, " ") {
			assert.NotContains(t, r.Problems, listing.Problem{Field: "title", Code: "too long", Level: listing.Stops})
		}
		assert.Subset(t, parts, r.LeftOut)
		seen := map[string]bool{}
		for _, name := range r.LeftOut {
			assert.False(t, seen[name], "each is named once")
			seen[name] = true
		}
		if free := n; len(r.LeftOut) == 0 {
			free.Limit = nil
			assert.Equal(t, r.Title, report(t, listing.Needs{Title: &free}, v).Title, "a limit that is kept changes nothing")
		}
	})
}

func TestAWordThatWasLeftOutComesBackWithoutItsPart(t *testing.T) {
	n := listing.Title{Limit: limit(12), Parts: []string{"brand", "series", "kind"}, FirstToGo: []string{"brand"}}
	r := report(t, listing.Needs{Title: &n}, listing.Values{SKU: "A", Price: "1", Brand: "Millrace Taps", Series: "Millrace", Kind: "Tap"})
	assert.Equal(t, "Millrace Tap", r.Title)
	assert.Equal(t, []string{"brand"}, r.LeftOut)
}

func TestAPartThatComesBackMayHaveToGoToo(t *testing.T) {
	n := listing.Title{Limit: limit(6), Parts: []string{"brand", "series", "kind"}, FirstToGo: []string{"series", "brand"}}
	r := report(t, listing.Needs{Title: &n}, listing.Values{SKU: "A", Price: "1", Brand: "Millrace", Series: "MILLRACE", Kind: "Tap"})
	assert.Equal(t, "Tap", r.Title)
	assert.Equal(t, []string{"brand", "series"}, r.LeftOut)
}

func TestTheWordForNoBrandIsNoPartOfATitle(t *testing.T) {
	n := listing.Needs{Title: &listing.Title{Parts: []string{"brand", "kind"}}, Brand: &listing.Brand{Register: []string{"Gurdle"}, None: "No brand"}}
	r := report(t, n, listing.Values{SKU: "A", Price: "1", Brand: "NO BRAND", Kind: "Tap"})
	assert.Equal(t, "Tap", r.Title)
	assert.True(t, r.Ready())
}

func TestForbiddenTexts(t *testing.T) {
	for title, want := range map[string]bool{
		"Tap, free  DELIVERY!":                  true,
		"Tap free-delivery":                     false,
		"Tap carefree deliverys, free delivery": true,
		"freedelivery":                          false,
		"Tap fréé delivery":                     true,
		"Now 50% off":                           true,
		"Now 150% off":                          false, // a digit touches its outer digit
		"Now 50% offer":                         false,
		"Brand new*":                            true,
		"Brand newish*":                         false,
	} {
		n := listing.Needs{Title: &listing.Title{Forbidden: []string{"Free delivery", "50% off", "new*", " "}}}
		r := report(t, n, listing.Values{SKU: "A", Price: "1", Title: title})
		assert.Equal(t, want, !r.Ready(), title)
	}
}

// one checks one attribute.
func one(t require.TestingT, currency string, a listing.Attribute, text string) (value, code string) {
	a.Ref = "m"
	c, err := (&listing.Needs{Attributes: []listing.Attribute{a}}).Ready(money.Currency(currency))
	require.NoError(t, err)
	r, err := c.Check(&listing.Values{SKU: "A", Title: "T", Price: "1", Attributes: map[string]listing.Text{"m": {text}}}, false)
	require.NoError(t, err)
	if len(r.Problems) > 0 {
		return "", r.Problems[0].Code
	}
	return r.Attributes["m"], ""
}

// A unit is compared as texts are, and may have a figure of its own.
func TestUnitsAsTheyAreWritten(t *testing.T) {
	for _, c := range []struct{ unit, text, value, code string }{
		{"métre", "2 metre", "2", ""},
		{"metre", "2 MÉTRE", "2", ""},
		{"m2", "12,5 m2", "12.5", ""},
		{"g/m2", "180 G/M2", "180", ""},
		{"g/m2", "180 g/m3", "", "not a number"},
		{"g", "180 g/m", "", "no such unit"},
	} {
		value, code := one(t, "EUR", listing.Attribute{Kind: listing.KindNumber, Unit: c.unit}, c.text)
		assert.Equal(t, [2]string{c.value, c.code}, [2]string{value, code}, c.text)
	}
}

// Whatever a site counts, it counts the text as it is sent: in NFC.
func TestLengthsAreOfTheTextAsItIsSent(t *testing.T) {
	for _, counts := range []string{listing.Bytes, listing.UTF16, "characters"} {
		assert.Equal(t, listing.Length("Crème", counts), listing.Length("Cre\u0300me", counts), counts)
	}
}

func TestNumbersAsPeopleWriteThem(t *testing.T) {
	a := listing.Attribute{Kind: listing.KindNumber, Unit: "mm", Units: []string{"cm", "in", "kg", "pcs"}}
	for _, c := range []struct{ currency, text, value, code string }{
		{"GBP", "1 250", "1250", ""},
		{"GBP", "1’250.5 mm", "1250.5", ""},
		{"GBP", "1 250,5", "1250.5", ""},
		{"GBP", "1.250.000", "1250000", ""},
		{"GBP", "1,25,000", "", "not a number"},
		{"GBP", "12.50.00", "", "not a number"},
		{"GBP", "1,234.567,8", "", "not a number"},
		{"GBP", "1.234'567,8", "", "not a number"},
		{"GBP", "1.250 000", "", "not a number"},
		{"GBP", "1250,500", "1250.5", ""}, // four digits before it: a decimal sign
		{"GBP", "0,500", "0.5", ""},
		{"GBP", "012,500", "12.5", ""},
		{"GBP", ".5", "0.5", ""},
		{"GBP", "5.", "", "no such unit"},
		{"GBP", "−1,5 cm", "-15", ""},
		{"GBP", "-0", "0", ""},
		{"GBP", "--5", "", "not a number"},
		{"GBP", "- 5 cm", "-50", ""},
		{"GBP", "−\u00a05", "-5", ""},
		{"GBP", "-", "", "not a number"},
		{"GBP", "1'234’567", "", "not a number"}, // two marks of thousands
		{"GBP", "1’234’567", "1234567", ""},
		{"GBP", "1 234\u00a0567", "", "not a number"},
		{"GBP", "007", "7", ""},
		{"EUR", "1.250", "1250", ""},
		{"EUR", "1,250", "1.25", ""},
		{"SEK", "1,250 cm", "12.5", ""},
		{"JPY", "1,250", "1250", ""},
		{"GBP", "2 kg", "", "no such unit"}, // taken, but no length
		{"GBP", "2 pcs", "", "no such unit"},
		{"GBP", "2 ft", "", "no such unit"},
		{"GBP", "2 mm²", "", "no such unit"},
		{"GBP", "2 mm 3", "", "not a number"},
		{"GBP", "1/2 in", "", "not a number"},
		{"GBP", "mm", "", "not a number"},
		{"GBP", "1.100", "1.1", ""},
		{"GBP", strings.Repeat("9", 2000), "", "not a number"},
	} {
		value, code := one(t, c.currency, a, c.text)
		assert.Equal(t, c.value, value, c.text)
		assert.Equal(t, c.code, code, c.text)
	}
}

func TestUnitsAreTurnedExactlyOrNotAtAll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.Int64Range(-1e9, 1e9).Draw(t, "n")
		pair := rapid.SampledFrom([][2]string{{"ml", "l"}, {"g", "oz"}, {"g", "lb"}, {"mm", "ft"}, {"l", "cl"}, {"cm", "in"}, {"oz", "g"}, {"in", "mm"}}).Draw(t, "units")
		there := listing.Attribute{Kind: listing.KindNumber, Unit: pair[0], Units: pair[1:]}
		text := big.NewRat(n, 1000).FloatString(3)
		if strings.Count(text, ".") == 1 && !strings.HasPrefix(strings.TrimPrefix(text, "-"), "0") {
			text += "0" // so that it can't be thousands
		}
		value, code := one(t, "GBP", there, text+" "+pair[1])
		if code != "" {
			assert.Equal(t, "too many decimals", code)
			return
		}
		assert.False(t, strings.Contains(value, ".") && strings.HasSuffix(value, "0"), value)
		got, ok := new(big.Rat).SetString(value)
		require.True(t, ok)
		factor := map[string]string{"ml": "1", "cl": "10", "l": "1000", "g": "1", "oz": "28.349523125", "lb": "453.59237", "mm": "1", "cm": "10", "in": "25.4", "ft": "304.8"}
		in, _ := new(big.Rat).SetString(factor[pair[1]])
		out, _ := new(big.Rat).SetString(factor[pair[0]])
		want := big.NewRat(n, 1000)
		assert.Zero(t, want.Quo(want.Mul(want, in), out).Cmp(got), "%s %s is %s %s", text, pair[1], value, pair[0])
	})
}

func TestKindsOfValue(t *testing.T) {
	for _, c := range []struct {
		a                 listing.Attribute
		text, value, code string
	}{
		{listing.Attribute{Kind: listing.KindDate}, "2026/3/7", "2026-03-07", ""},
		{listing.Attribute{Kind: listing.KindDate}, "29.2.2024", "2024-02-29", ""},
		{listing.Attribute{Kind: listing.KindDate}, "2000-2-29", "2000-02-29", ""},
		{listing.Attribute{Kind: listing.KindDate}, "1900-02-29", "", "not a date"},
		{listing.Attribute{Kind: listing.KindDate}, "31.04.2026", "", "not a date"},
		{listing.Attribute{Kind: listing.KindDate}, "31.12.2026", "2026-12-31", ""},
		{listing.Attribute{Kind: listing.KindDate}, "0.12.2026", "", "not a date"},
		{listing.Attribute{Kind: listing.KindDate}, "7.3.26", "", "not a date"},
		{listing.Attribute{Kind: listing.KindDate}, "2026-13-01", "", "not a date"},
		{listing.Attribute{Kind: listing.KindDate}, "2026-+3-01", "", "not a date"},
		{listing.Attribute{Kind: listing.KindLink, Limit: limit(12)}, "ftp://files.example/a", "", "too long"},
		{listing.Attribute{Kind: listing.KindLink}, "HTTPS://files.example", "HTTPS://files.example", ""},
		{listing.Attribute{Kind: listing.KindLink}, "https://", "", "not a link"},
		{listing.Attribute{Kind: listing.KindLink}, "https://files.example/a b", "", "not a link"},
		{listing.Attribute{Kind: listing.KindText, Limit: limit(3), Counts: listing.UTF16}, "🛁🛁", "", "too long"},
		{listing.Attribute{Kind: listing.KindText, Limit: limit(4), Counts: listing.UTF16}, " 🛁🛁 ", "🛁🛁", ""},
		{listing.Attribute{Kind: listing.KindChoice, Values: []string{"GROSS"}}, "groß", "GROSS", ""},
		{listing.Attribute{Kind: listing.KindChoices, AtMost: limit(1)}, "Red| réd ||", "Red", ""},
		{listing.Attribute{Kind: listing.KindNumber, Decimals: limit(1)}, "12.50", "12.5", ""},
		{listing.Attribute{Kind: listing.KindNumber, Decimals: limit(1)}, "12.55", "", "too many decimals"},
	} {
		value, code := one(t, "GBP", c.a, c.text)
		assert.Equal(t, c.value, value, c.text)
		assert.Equal(t, c.code, code, c.text)
	}
}

func TestConditionsThatLeadBackGoByTheValuesAlone(t *testing.T) {
	yes, no := true, false
	n := listing.Needs{Attributes: []listing.Attribute{
		{Ref: "a", Kind: listing.KindText, When: []listing.Condition{{Field: "b", Filled: &yes}}},
		{Ref: "b", Kind: listing.KindText, When: []listing.Condition{{Field: "c", Filled: &yes}}},
		{Ref: "c", Kind: listing.KindText, When: []listing.Condition{{Field: "a", Filled: &yes}}},
		{Ref: "d", Kind: listing.KindText, Need: listing.Needed, When: []listing.Condition{{Field: "a", Filled: &yes}}},
		{Ref: "e", Kind: listing.KindText, Need: listing.Helps, When: []listing.Condition{{Field: "e", Filled: &no}}},
	}}
	r := report(t, n, listing.Values{SKU: "A", Price: "1", Title: "T", Attributes: map[string]listing.Text{"a": {"x"}, "b": {"y"}}})
	assert.Equal(t, []listing.Problem{
		{Field: "attributes.b", Code: "does not apply", Level: listing.LeftOut},
		{Field: "attributes.d", Code: "missing", Level: listing.Stops}, // a applies, since b is filled
		{Field: "attributes.e", Code: "missing", Level: listing.AHelp},
	}, r.Problems)
	assert.Equal(t, [2]int{0, 1}, r.Helps)
}

func TestTheOrderOfWhatIsWrongWithADescription(t *testing.T) {
	n := listing.Needs{Description: &listing.Description{Least: 3, Limit: limit(5), HTML: []string{"B", "br"}}}
	for text, want := range map[string]string{
		"":                     "too short",
		"<b></b>":              "too short",
		"<b>abc</b><BR />":     "",
		"abcdef<i>":            "too long",
		"ab</i >c":             "tags",
		"a<b":                  "", // three signs and no tag
		"abcd<br":              "too long",
		"<b title='x>y'>abc":   "too long", // up to the first >
		"abc<script\n>":        "tags",
		"abc<!-- <b> -->":      "too long",
		"\u0041\u030aabc<br/>": "",
	} {
		code := ""
		if r := report(t, n, listing.Values{SKU: "A", Price: "1", Title: "T", Description: text}); len(r.Problems) > 0 {
			code = r.Problems[0].Code
		}
		assert.Equal(t, want, code, text)
	}
}

func TestNothingCanBeSaidThatBreaksTheCheck(t *testing.T) {
	text := rapid.OneOf(rapid.String(), someWord, somePart)
	rapid.Check(t, func(t *rapid.T) {
		var n listing.Needs
		v := listing.Values{SKU: text.Draw(t, "sku"), Title: text.Draw(t, "title"), Description: text.Draw(t, "description"), Number: text.Draw(t, "number"),
			Words: rapid.SliceOf(text).Draw(t, "words"), Attributes: map[string]listing.Text{}}
		for _, kind := range []string{listing.KindText, listing.KindNumber, listing.KindChoice, listing.KindChoices, listing.KindYesNo, listing.KindDate, listing.KindLink} {
			a := listing.Attribute{Ref: kind, Kind: kind, Need: listing.Needed, Unit: "g", Units: []string{"kg"}, Limit: limit(5), AtMost: limit(2)}
			if strings.HasPrefix(kind, listing.KindChoice) {
				a.Values = []string{"tap", "Tap", "clip"}
			}
			n.Attributes = append(n.Attributes, a)
			v.Attributes[kind] = rapid.SliceOfN(text, 0, 3).Draw(t, kind)
		}
		n.Title = &listing.Title{Limit: limit(20), Forbidden: []string{text.Draw(t, "forbidden")}}
		n.Description = &listing.Description{Least: 1, Limit: limit(20)}
		n.Words = &listing.Words{Most: limit(2), Limit: limit(4), Bytes: limit(9)}
		r := report(t, n, v)
		assert.LessOrEqual(t, r.Needed[0], r.Needed[1])
		assert.Equal(t, 9, r.Needed[1], "title, price and seven attributes")
		seen := map[string]bool{}
		for _, p := range r.Problems {
			assert.False(t, seen[p.Field], "%s has one problem", p.Field)
			seen[p.Field] = true
		}
		for ref, value := range r.Attributes {
			again := v
			again.Attributes = map[string]listing.Text{ref: {value}}
			if s := report(t, n, again); !strings.ContainsFunc(value, unicode.IsControl) {
				assert.Equal(t, value, s.Attributes[ref], "what the place gets reads as itself")
			}
		}
	})
}

// BenchmarkCheck is how many listings are checked a second, on one core, against
// a category with twenty attributes; 50 000 are wanted.
func BenchmarkCheck(b *testing.B) {
	n := listing.Needs{
		Title:       &listing.Title{Limit: limit(60), Parts: []string{"brand", "series", "kind", "a0", "pack"}, FirstToGo: []string{"series"}, Forbidden: []string{"free delivery"}},
		Description: &listing.Description{Least: 20, Limit: limit(5000), HTML: []string{"p", "b"}},
		Brand:       &listing.Brand{Register: []string{"Gurdle", "Sprock & Wend"}},
		Pictures:    &listing.Pictures{Least: 1, Side: 500}, Package: &listing.Package{Weight: []int64{1, 30000}, Girth: 3000},
		Words: &listing.Words{Most: limit(20), Limit: limit(30)}, Price: &listing.Price{Least: "1.00"}, Number: listing.Needed,
	}
	v := listing.Values{SKU: "PL-0001", Number: "9520000042103", Brand: "Sprock & Wend", Series: "Millrace", Kind: "Pipe Clip", Pack: "bag of 50", Price: "8.40",
		Description: "<p>" + strings.Repeat("A clip that holds a pipe. ", 20) + "</p>", Words: []string{"clip", "pipe", "holder", "plumbing"},
		Pictures: []listing.Picture{{Width: 900, Height: 900, Kind: "jpeg", Bytes: 9000}}, Package: &listing.Packed{Weight: 90, Length: 100, Width: 80, Height: 20},
		Attributes: map[string]listing.Text{}}
	for i, text := range []string{"15 mm", "Chrome", "yes", "2026-03-07", "a text", "1,5 kg", "BRUSHED BRASS", "Röhre", "no", "12"} {
		for j := range 2 {
			a := listing.Attribute{Ref: "a" + string(rune('0'+i*2+j)), Need: listing.Needed}
			switch i {
			case 0:
				a.Kind, a.Unit = listing.KindNumber, "mm"
			case 5:
				a.Kind, a.Unit, a.Units = listing.KindNumber, "g", []string{"kg"}
			case 1, 6:
				a.Kind, a.Values = listing.KindChoice, []string{"Chrome", "Brushed brass", "White", "Black"}
			case 2, 8:
				a.Kind = listing.KindYesNo
			case 3:
				a.Kind = listing.KindDate
			case 9:
				a.Kind = listing.KindNumber
			default:
				a.Kind = listing.KindText
			}
			n.Attributes, v.Attributes[a.Ref] = append(n.Attributes, a), listing.Text{text}
		}
	}
	c, err := n.Ready("GBP")
	require.NoError(b, err)
	if r, err := c.Check(&v, false); err != nil || !r.Ready() {
		b.Fatal(r.Problems, err)
	}
	for b.Loop() {
		if _, err := c.Check(&v, false); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "listings/s")
}

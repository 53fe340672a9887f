package listing_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/listing"
)

func kettle() *listing.Values {
	return &listing.Values{Brand: "Tarnwick", Kind: "Fell kettle 1.4 l", Attributes: map[string]listing.Text{
		"colour": {"Moss green"}, "material": {"brass"}, "condition": {"Used"}, "condition_note": {"a dent at the foot"},
		"features": {"Whistles|Pours without dripping|Folds flat for a rucksack"}, "in_the_box": {"Kettle; Lid"},
	}}
}

func kept(name string) string {
	return map[string]string{"Sizes": "Size\tChest, cm\nS\t90\nL | 104", "Care": "Wipe it.\nNo {size} machine."}[name]
}

func TestADescriptionFromATemplate(t *testing.T) {
	rich := []string{"p", "b", "ul", "li"}
	for name, c := range map[string]struct {
		blocks []listing.Block
		tags   []string
		want   string
	}{
		"placeholders": {[]listing.Block{{Kind: "text", Text: "The {kind} by {brand}, in {attributes.colour}."}}, nil, "The Fell kettle 1.4 l by Tarnwick, in Moss green."},
		"a line without what it speaks of is left out": {[]listing.Block{{Kind: "text", Text: "Size: {size}\nFrom {brand}"}}, nil, "From Tarnwick"},
		"only where a field is filled":                 {[]listing.Block{{Kind: "text", Text: "Two in one", When: "pack"}, {Kind: "text", Text: "Of brass", When: "material"}}, nil, "Of brass"},
		"features from the longest": {[]listing.Block{{Kind: "features", Text: "What it does"}}, rich,
			"<p><b>What it does</b></p>\n<ul><li>Folds flat for a rucksack</li><li>Pours without dripping</li><li>Whistles</li></ul>"},
		"features, plain":   {[]listing.Block{{Kind: "features"}}, nil, "• Folds flat for a rucksack\n• Pours without dripping\n• Whistles"},
		"facts":             {[]listing.Block{{Kind: "facts"}}, nil, "• Colour: Moss green\n• Material: brass"},
		"in the box":        {[]listing.Block{{Kind: "box", Text: "In the box"}}, nil, "In the box\n• Kettle\n• Lid"},
		"the condition":     {[]listing.Block{{Kind: "condition"}}, []string{"br"}, "Used: a dent at the foot<br>"},
		"what they say":     {[]listing.Block{{Kind: "supplier", Text: "In their words"}}, rich, "<p><b>In their words</b></p>\n<p>Boils water.</p>\n<p>Twice.</p>"},
		"nothing to say":    {[]listing.Block{{Kind: "box", Field: "size"}, {Kind: "features", Field: "none"}}, rich, ""},
		"another's field":   {[]listing.Block{{Kind: "box", Field: "features"}}, nil, "• Whistles\n• Pours without dripping\n• Folds flat for a rucksack"},
		"a kept table":      {[]listing.Block{{Kind: "kept", Text: "Sizes"}}, []string{"p", "table", "tr", "td"}, "<table><tr><td>Size</td><td>Chest, cm</td></tr><tr><td>S</td><td>90</td></tr><tr><td>L</td><td>104</td></tr></table>"},
		"without tables":    {[]listing.Block{{Kind: "kept", Text: "Sizes"}}, rich, "<p>Size · Chest, cm</p>\n<p>S · 90</p>\n<p>L · 104</p>"},
		"a kept text":       {[]listing.Block{{Kind: "kept", Text: "Care"}, {Kind: "kept", Text: "None"}}, []string{"p", "table", "tr", "td"}, "<p>Wipe it.</p>"},
		"no tags but these": {[]listing.Block{{Kind: "text", Text: "a <b>b</b> & c"}}, []string{"p"}, "<p>a &lt;b&gt;b&lt;/b&gt; &amp; c</p>"},
	} {
		assert.Equal(t, c.want, listing.Describe(c.blocks, kettle(), "Boils water.\nTwice.", kept, c.tags), name)
	}
	assert.Equal(t, "<p>Safe already</p>", listing.Describe([]listing.Block{{Kind: "supplier"}}, kettle(), "<p>Safe already</p>", kept, rich))
}

func TestBlocksThatCantBe(t *testing.T) {
	for words, b := range map[string]listing.Block{
		"no kind of block":  {Kind: "poem"},
		"has no words":      {Kind: "text", Text: " "},
		"the kept texts":    {Kind: "kept"},
		"stands in braces":  {Kind: "text", Text: "The {Kind of} thing"},
		"5000 characters":   {Kind: "facts", Text: strings.Repeat("a", 5001)},
		"such as {brand}; ": {Kind: "text", Text: "an open { brace"},
	} {
		assert.ErrorContains(t, b.Valid(), words)
	}
	assert.NoError(t, (&listing.Block{Kind: "text", Text: "The {kind}"}).Valid())
}

// Whatever is said, no tag of it is more than text in what goes out.
func TestNothingThatIsSaidBecomesATag(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := kettle()
		text := rapid.StringMatching(`[a-z<>&"{}|; ]{0,30}`).Draw(t, "text")
		v.Brand, v.Attributes["features"], v.Attributes["colour"] = text, listing.Text{text}, listing.Text{text}
		out := listing.Describe([]listing.Block{{Kind: "text", Text: "By {brand}"}, {Kind: "facts"}, {Kind: "features", Text: "{brand}"}}, v, "", kept, []string{"p", "b", "ul", "li"})
		for _, tag := range []string{"<p>", "</p>", "<b>", "</b>", "<ul>", "</ul>", "<li>", "</li>"} {
			out = strings.ReplaceAll(out, tag, "")
		}
		if strings.ContainsAny(out, "<>") {
			t.Fatal(out)
		}
	})
}

package reckon

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestASuppliersDescriptionSendsNobodyElsewhere(t *testing.T) {
	for text, want := range map[string]string{
		"<p>Soft. See www.other-shop.example/mug or https://x.example</p>": "Soft. See or",
		"Ask sales@other.example or +44 20 7946 0000 for more":             "Ask or for more",
		"Holds 450 ml, 84 g, 2026-03-07, number 9520001030345":             "Holds 450 ml, 84 g, 2026-03-07, number 9520001030345",
		"<ul><li>One</li><li>Two</li></ul><script>alert(1)</script>":       "One\nTwo",
		"A &amp; B<br>C": "A & B\nC",
	} {
		assert.Equal(t, want, squeezed(Description(text, nil)), text)
	}
	assert.Equal(t, "<p>Soft <b>wool</b></p>", Description(`<p class="x">Soft <b onclick="y">wool</b></p><style>p{}</style><img src=x>`, []string{"p", "b"}))
}

var spaces = regexp.MustCompile(` +`)

// squeezed is a text with one space where there are several.
func squeezed(s string) string { return spaces.ReplaceAllString(s, " ") }

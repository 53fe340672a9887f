package place

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What a listing says once a change was applied is what was wanted, whatever it said
// before; its category stays.
// A parcel of which nothing is known is none, and of one that is known in part only that
// is said: no weight of nothing is ever sent.
func TestAParcelIsWhatIsKnownOfIt(t *testing.T) {
	text, err := json.Marshal(Content{Title: "Mug", Package: &Packed{Length: 120}})
	require.NoError(t, err)
	assert.JSONEq(t, `{"title":"Mug","package":{"length":120}}`, string(text))
	c, err := ChangeOf(&Content{Title: "Mug", Package: &Packed{}}, &Content{Title: "Mug"})
	require.NoError(t, err)
	assert.Empty(t, c.Fields, "what was sent as nothing before isn't cleared now")
}

func TestAChangeAppliedIsWhatWasWanted(t *testing.T) {
	text := rapid.SampledFrom([]string{"", "moss", "rust", "a <b>bold</b> word", "750 ml"})
	content := rapid.Custom(func(t *rapid.T) *Content {
		c := &Content{Category: "mugs", Title: text.Draw(t, "title"), Brand: text.Draw(t, "brand"), Description: text.Draw(t, "description"), Former: text.Draw(t, "former")}
		for _, ref := range rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"colour", "size", "material"}), 0, 3, rapid.ID).Draw(t, "attributes") {
			if c.Attributes == nil {
				c.Attributes = map[string]string{}
			}
			c.Attributes[ref] = text.Draw(t, ref)
		}
		if p := rapid.SliceOfN(rapid.SampledFrom([]string{"sha256:a", "sha256:b"}), 0, 2).Draw(t, "pictures"); len(p) > 0 {
			c.Pictures = p
		}
		return c
	})
	rapid.Check(t, func(t *rapid.T) {
		there, wanted := content.Draw(t, "there"), content.Draw(t, "wanted")
		change, err := ChangeOf(there, wanted)
		require.NoError(t, err)
		got, err := Apply(there, change.Content, change.Cleared)
		require.NoError(t, err)
		again, err := ChangeOf(got, wanted)
		require.NoError(t, err)
		assert.Empty(t, again.Fields, "nothing is left to change")
		assert.Equal(t, "mugs", got.Category)
	})
}

func TestOneLineKeepsAHeaderOne(t *testing.T) {
	assert.Equal(t, "Order 1  Bcc: x@y.example", OneLine("Order 1\r\nBcc: x@y.example"))
	assert.Equal(t, "Mühle ☕", OneLine("Mühle ☕"))
}

package preparing

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/listing"
	"easymargin/internal/stops"
)

func needs(t *testing.T, text string) *listing.Needs {
	var n listing.Needs
	require.NoError(t, json.Unmarshal([]byte(text), &n))
	return &n
}

func TestWhatCameOutOtherwiseIsSaidInWords(t *testing.T) {
	for name, c := range map[string]struct {
		before, now string
		want        []string
	}{
		"nothing": {`{"title":{"limit":80},"number":"needed"}`, `{"title":{"limit":80},"number":"needed"}`, nil},
		"an attribute is new": {
			`{}`, `{"attributes":[{"ref":"made_of","kind":"text"},{"ref":"b","kind":"text","need":"needed"}]}`,
			[]string{"made of is new", "b is new, and needed"},
		},
		"one is needed now, one no longer, one gone": {
			`{"attributes":[{"ref":"a","kind":"text"},{"ref":"b","kind":"text","need":"needed"},{"ref":"c","kind":"text"}]}`,
			`{"attributes":[{"ref":"a","kind":"text","need":"needed"},{"ref":"b","kind":"text","need":"helps"}]}`,
			[]string{"a is needed now", "b is no longer needed", "c is no longer asked for"},
		},
		"another kind": {
			`{"attributes":[{"ref":"a","kind":"text"}]}`, `{"attributes":[{"ref":"a","kind":"choice","values":["x","y"]}]}`,
			[]string{"a is a choice now, and was a text", "a is one of 2 values now"},
		},
		"values come and go": {
			`{"attributes":[{"ref":"a","kind":"choice","values":["1","2","3","4","5","6"]}]}`, `{"attributes":[{"ref":"a","kind":"choice","values":["6","7"]}]}`,
			[]string{"a no longer takes 1, 2, 3, 4 and 1 more", "a takes 7 too"},
		},
		"any value is taken now": {
			`{"attributes":[{"ref":"a","kind":"choice","values":["1"]}]}`, `{"attributes":[{"ref":"a","kind":"choice"}]}`, nil,
		},
		"limits that narrow": {
			`{"title":{"limit":80},"attributes":[{"ref":"a","kind":"text"}]}`, `{"title":{"limit":79},"attributes":[{"ref":"a","kind":"text","limit":9}]}`,
			[]string{"a has at most 9 now", "a title has at most 79 now"},
		},
		"limits that widen": {`{"title":{"limit":80}}`, `{"title":{"limit":81}}`, nil},
		"pictures, number and brand": {
			`{"pictures":{"least":1}}`, `{"pictures":{"least":2},"number":"needed","brand":{"register":["x"]}}`,
			[]string{"at least 2 pictures are needed now", "a number is needed now", "a brand must be on its register now"},
		},
	} {
		assert.Equal(t, c.want, Compare(needs(t, c.before), needs(t, c.now)), name)
	}
}

func TestAnOwnSKUIsOneThatEveryPlaceTakes(t *testing.T) {
	for sku, want := range map[string]string{
		"TW-0001":   "TW-0001",
		"a b/c_d.e": "a-b/c_d.e",
		"Ör 1":      "-r-1",
		"0123456789012345678901234567890123456789": "012345678901234567890123456789012345",
	} {
		assert.Equal(t, want, stops.OwnSKU(sku))
	}
}

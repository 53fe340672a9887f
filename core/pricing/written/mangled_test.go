package written_test

import (
	"bytes"
	"encoding/json"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/pricing/written"
)

// workedCases are the cases of testdata, as JSON values.
func workedCases(t *testing.T) []map[string]any {
	data, err := os.ReadFile("testdata/quotes.jsonl")
	require.NoError(t, err)
	var out []map[string]any
	for line := range bytes.Lines(data) {
		var c struct{ Case map[string]any }
		require.NoError(t, json.Unmarshal(line, &c))
		out = append(out, c.Case)
	}
	return out
}

var odd = []any{
	nil,
	true,
	0.5,
	-1.0,
	"",
	"-",
	"1e9",
	"12,5,0",
	"9223372036854775807",
	"-0.00",
	"0",
	"100%",
	"-100%",
	"99999999%",
	"GBP",
	"lowest",
	"slices",
	"addedx",
	[]any{},
	[]any{nil},
	map[string]any{},
	strings.Repeat("9", 60),
	"0.00000001",
}

// mangle puts something odd somewhere into a case.
func mangle(t *rapid.T, v any, depth int) any {
	switch x := v.(type) {
	case map[string]any:
		keys := slices.Sorted(maps.Keys(x))
		if len(keys) == 0 || depth > 5 {
			return rapid.SampledFrom(odd).Draw(t, "odd")
		}
		k := rapid.SampledFrom(keys).Draw(t, "key")
		out := maps.Clone(x)
		switch rapid.IntRange(0, 5).Draw(t, "how") {
		case 0:
			delete(out, k)
		case 1:
			out[k+"x"] = x[k]
		case 2:
			out[k] = rapid.SampledFrom(odd).Draw(t, "odd")
		default:
			out[k] = mangle(t, x[k], depth+1)
		}
		return out
	case []any:
		if len(x) == 0 {
			return rapid.SampledFrom(odd).Draw(t, "odd")
		}
		out := append([]any(nil), x...)
		i := rapid.IntRange(0, len(x)-1).Draw(t, "at")
		out[i] = mangle(t, x[i], depth+1)
		return out
	}
	return rapid.SampledFrom(odd).Draw(t, "odd")
}

// Whatever stands in a case, it is answered: with a price whose lines add up,
// or with words that name a field. Nothing ends the program.
func TestMangledCasesAreAnswered(t *testing.T) {
	cases := workedCases(t)
	rapid.Check(t, func(t *rapid.T) {
		c := any(cases[rapid.IntRange(0, len(cases)-1).Draw(t, "case")])
		for range rapid.IntRange(1, 3).Draw(t, "times") {
			c = mangle(t, c, 0)
		}
		text, err := json.Marshal(c)
		require.NoError(t, err)
		var got struct {
			ID    *string
			Error *string
			Price *string
			Lines []written.AnswerLine
			Bound *string `json:"bound_by"`
			Why   string  `json:"reason"`
		}
		require.NoError(t, json.Unmarshal(written.AnswerLineOf(text), &got), "%s", text)
		if got.Error != nil {
			require.Regexp(t, `^[a-z_]+(\[\d+\])?(\.[a-zA-Z_]+(\[\d+\])?)*: `, *got.Error, "%s", text)
			return
		}
		require.NotNil(t, got.ID)
		require.Equal(t, got.Price == nil, got.Why != "")
		require.Equal(t, got.Price == nil, got.Bound == nil)
		require.Equal(t, got.Price == nil, len(got.Lines) == 0)
	})
}

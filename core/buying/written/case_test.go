package written_test

import (
	"bufio"
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/buying/written"
)

func never() func() bool { return func() bool { return false } }

func answer(t *testing.T, text string) map[string]any {
	var out map[string]any
	require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(text), never), &out))
	return out
}

// The worked cases of docs/definitions/buying.md.
func TestCases(t *testing.T) {
	f, err := os.Open("testdata/buy.jsonl")
	require.NoError(t, err)
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20)
	n := 0
	for lines.Scan() {
		n++
		var c struct {
			Case   json.RawMessage
			Answer map[string]any
		}
		require.NoError(t, json.Unmarshal(lines.Bytes(), &c))
		text := string(c.Case)
		var plain string
		if json.Unmarshal(c.Case, &plain) == nil { // a case that is no JSON stands as a text
			text = plain
		}
		got := answer(t, text)
		if c.Answer["error"] == true {
			assert.Equal(t, c.Answer["id"], got["id"])
			wrong, _ := c.Answer["wrong_field"].(string)
			assert.Contains(t, got["error"], wrong)
			continue
		}
		assert.Equal(t, c.Answer, got)
	}
	require.NoError(t, lines.Err())
	assert.Equal(t, 52, n)
}

const sound = `{"id":"x","currency":"GBP","suppliers":[{"supplier":"A","delivery":"1.00","free_from":"9.00","least":"2.00"},{"supplier":"B"}],
	"lines":[{"line":"1","units":3,"within_days":4,"options":[{"supplier":"A","cost":"1.50","units_per_item":2,"least_items":1,"stock":9,"lead_days":2}]}]}`

func TestUnreadableCases(t *testing.T) {
	require.NotContains(t, answer(t, sound), "error")
	for name, c := range map[string]struct{ from, to, field string }{
		"no id":                     {`"id":"x",`, ``, "id"},
		"an empty id":               {`"id":"x"`, `"id":""`, "id"},
		"no currency":               {`"currency":"GBP",`, ``, "currency"},
		"no suppliers":              {`"suppliers"`, `"sellers"`, "suppliers"},
		"no lines":                  {`"lines"`, `"rows"`, "lines"},
		"a supplier without a name": {`"supplier":"B"`, ``, "suppliers[1].supplier"},
		"a delivery below nothing":  {`"delivery":"1.00"`, `"delivery":"-1.00"`, "suppliers[0].delivery"},
		"a least of nothing":        {`"least":"2.00"`, `"least":null`, "suppliers[0].least"},
		"a line twice":              {`"lines":[`, `"lines":[{"line":"1","units":1,"options":[]},`, "lines[1].line"},
		"no units":                  {`"units":3,`, ``, "lines[0].units"},
		"units as a text":           {`"units":3`, `"units":"3"`, "lines[0].units"},
		"half a day":                {`"within_days":4`, `"within_days":0.5`, "lines[0].within_days"},
		"no options":                {`"options"`, `"ways"`, "lines[0].options"},
		"no cost":                   {`"cost":"1.50",`, ``, "lines[0].options[0].cost"},
		"items of nothing":          {`"units_per_item":2`, `"units_per_item":0`, "lines[0].options[0].units_per_item"},
		"less than no items":        {`"least_items":1`, `"least_items":-1`, "lines[0].options[0].least_items"},
		"a stock below nothing":     {`"stock":9`, `"stock":-9`, "lines[0].options[0].stock"},
		"a lead time below nothing": {`"lead_days":2`, `"lead_days":-2`, "lines[0].options[0].lead_days"},
		"too dear for 64 bits":      {`"units":3,`, `"units":9223372036854775807,`, "lines[0].options[0].cost"},
		"a key that isn't one":      {`"units":3`, `"units":3,"unit":"box"`, "lines[0].unit"},
	} {
		t.Run(name, func(t *testing.T) {
			changed := strings.Replace(sound, c.from, c.to, 1)
			require.NotEqual(t, sound, changed)
			assert.Contains(t, answer(t, changed)["error"], c.field)
		})
	}
}

// What can't be served is said, and the rest is divided as if it weren't there.
func TestWhatCannotBeServed(t *testing.T) {
	got := answer(t, strings.Replace(sound, `"stock":9`, `"stock":1`, 1))
	assert.Equal(t, []any{"1"}, got["unserved"])
	assert.Equal(t, "0.00", got["total"])
	assert.Empty(t, got["suppliers"])
	got = answer(t, sound)
	assert.Equal(t, []any{map[string]any{"line": "1", "units": 1.0}}, got["left_over"])
	keys := make([]string, 0, len(got))
	for k := range got {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	assert.Equal(t, []string{"id", "left_over", "lines", "suppliers", "total", "unserved"}, keys, "proved is said only where it isn't")
}

// Stopped at once, it says what it found and that it isn't proved.
func TestStoppedAtOnce(t *testing.T) {
	text := `{"id":"x","currency":"GBP","suppliers":[{"supplier":"A","delivery":"4.00","free_from":"10.00"},{"supplier":"B","delivery":"3.00","free_from":"9.00"}],"lines":[` +
		`{"line":"1","units":1,"options":[{"supplier":"A","cost":"5.00"},{"supplier":"B","cost":"5.10"}]},` +
		`{"line":"2","units":1,"options":[{"supplier":"A","cost":"4.60"},{"supplier":"B","cost":"4.40"}]}]}`
	var out struct {
		Total, Bound string
		Proved       *bool
	}
	at := func() func() bool { return func() bool { return true } }
	require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(text), at), &out))
	if out.Proved != nil {
		assert.False(t, *out.Proved)
		assert.NotEmpty(t, out.Bound)
	}
	assert.Equal(t, "9.50", out.Total)
}

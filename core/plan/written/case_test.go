package written_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/plan/written"
)

func TestTheCasesOfFollowing(t *testing.T) {
	data, err := os.ReadFile("testdata/follow.jsonl")
	require.NoError(t, err)
	seen := 0
	for line := range bytes.Lines(data) {
		var row struct{ Case, Answer json.RawMessage }
		require.NoError(t, json.Unmarshal(line, &row))
		var want struct {
			ID, Error string
			Fields    []string `json:"wrong_field"`
		}
		require.NoError(t, json.Unmarshal(row.Answer, &want))
		seen++
		t.Run(want.ID, func(t *testing.T) {
			got := written.AnswerLineOf(row.Case)
			if want.Error == "" {
				assert.JSONEq(t, string(row.Answer), string(got))
				return
			}
			var said struct{ ID, Error string }
			require.NoError(t, json.Unmarshal(got, &said))
			assert.Equal(t, want.ID, said.ID)
			path, _, _ := strings.Cut(said.Error, ":")
			assert.Contains(t, path, want.Fields[0])
		})
	}
	assert.GreaterOrEqual(t, seen, 114)
}

const sound = `{"id":"x","now":"2026-03-03T09:15:00Z","rule":{"buffer":1},
	"links":[{"supplier":"A","present":true,"mode":"full","units_bought":1,"units_listed":1,"landed":"12.00","feeds":[{"at":"2026-03-03T08:15:00Z","stock":"20"}]}],
	"listing":{"currency":"GBP","price":"20.00","quantity":10,"landed":"12.00","fixed":false,"moves":["2026-03-03T08:00:00Z"]},
	"prices":{"A":{"price":"20.00","profit":"3.00","profit_now":"3.00","bound_by":"aim","keeps_met":true}}}`

func TestUnreadableCases(t *testing.T) {
	var fine map[string]any
	require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(sound)), &fine))
	require.NotContains(t, fine, "error")
	for name, c := range map[string]struct{ from, to, field string }{
		"no id":                       {`"id":"x",`, ``, "id"},
		"an unknown key":              {`"mode":`, `"colour":"red","mode":`, "links[0].colour"},
		"an unknown key of the rule":  {`"buffer":1`, `"bufer":1`, "rule.bufer"},
		"nothing where a number is":   {`"buffer":1`, `"buffer":null`, "rule.buffer"},
		"half a unit":                 {`"buffer":1`, `"buffer":1.5`, "rule.buffer"},
		"a cap of nothing":            {`"buffer":1`, `"cap":0`, "rule.cap"},
		"no patience":                 {`"buffer":1`, `"patience":0`, "rule.patience"},
		"never fresh":                 {`"buffer":1`, `"stale_hours":0`, "rule.stale_hours"},
		"an unknown unknown":          {`"buffer":1`, `"unknown":"some"`, "rule.unknown"},
		"less than no share":          {`"buffer":1`, `"small":"-1%"`, "rule.small"},
		"a word for a flag":           {`"buffer":1`, `"rest":"yes"`, "rule.rest"},
		"a time somewhere":            {`09:15:00Z`, `09:15:00+01:00`, "now"},
		"a move at no time":           {`["2026-03-03T08:00:00Z"]`, `["yesterday"]`, "listing.moves[0]"},
		"a move that is a number":     {`["2026-03-03T08:00:00Z"]`, `[7]`, "listing.moves[0]"},
		"moves that are none":         {`["2026-03-03T08:00:00Z"]`, `null`, "listing.moves"},
		"no moves":                    {`,"moves":["2026-03-03T08:00:00Z"]`, ``, "listing.moves"},
		"no feeds":                    {`,"feeds":[{"at":"2026-03-03T08:15:00Z","stock":"20"}]`, ``, "links[0].feeds"},
		"a stock below none":          {`"stock":"20"`, `"stock":"-1"`, "feeds[0].stock"},
		"a stock that is a number":    {`"stock":"20"`, `"stock":20`, "feeds[0].stock"},
		"no currency":                 {`"currency":"GBP",`, ``, "listing.currency"},
		"money that isn't":            {`"GBP"`, `"QQQ"`, "listing.currency"},
		"a price of nothing":          {`"price":"20.00","quantity"`, `"price":"0.00","quantity"`, "listing.price"},
		"a landed cost below nothing": {`"landed":"12.00","feeds"`, `"landed":"-0.01","feeds"`, "links[0].landed"},
		"a price and broken":          {`"prices":{"A":{`, `"prices":{"A":{"broken":"no rate",`, "prices.A."},
		"no price with a profit":      {`"A":{"price":"20.00"`, `"A":{"price":null`, "prices.A"},
		"no profit now":               {`"profit_now":"3.00",`, ``, "prices.A.profit_now"},
		"no keeps":                    {`,"keeps_met":true`, ``, "prices.A.keeps_met"},
		"bound by nothing known":      {`"aim"`, `"market"`, "prices.A.bound_by"},
		"a wanted price of nothing":   {`"A":{"price":"20.00"`, `"A":{"price":"0.00"`, "prices.A."},
		"two present ones":            {`"links":[`, `"links":[{"supplier":"B","present":true,"mode":"full","units_bought":1,"units_listed":1,"landed":"12.00","feeds":[]},`, "present"},
		"a supplier twice":            {`"links":[`, `"links":[{"supplier":"A","mode":"full","units_bought":1,"units_listed":1,"landed":"12.00","feeds":[]},`, "supplier"},
		"links that are none":         {`"links":[{`, `"links":7,"x":[{`, "links"},
	} {
		t.Run(name, func(t *testing.T) {
			text := strings.Replace(sound, c.from, c.to, 1)
			require.NotEqual(t, sound, text)
			var got map[string]any
			require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(text)), &got))
			require.Contains(t, got, "error", text)
			path, _, _ := strings.Cut(got["error"].(string), ": ")
			assert.Contains(t, path, c.field)
		})
	}
}

// Whatever is cut out of a case or put into it, the answer is one line of JSON,
// and never a price, a quantity or a supplier beside an error.
func TestNothingOddBreaksACase(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := []byte(sound)
		from := rapid.IntRange(0, len(text)-1).Draw(t, "from")
		to := rapid.IntRange(from, min(len(text), from+30)).Draw(t, "to")
		put := rapid.SampledFrom([]string{"", "0", `"`, "null", "[]", "{}", "-1", `"-0.00"`, "9223372036854775807", `"9223372036854775808"`, `"%"`}).Draw(t, "put")
		var got map[string]any
		require.NoError(t, json.Unmarshal(written.AnswerLineOf(append(append(bytes.Clone(text[:from]), put...), text[to:]...)), &got))
		if _, failed := got["error"]; failed {
			require.Len(t, got, 2)
		}
	})
}

package written_test

import (
	"bufio"
	"encoding/json"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/match"
	"easymargin/core/match/written"
)

type truth struct {
	Kind    string          `json:"kind"`
	Ref     *string         `json:"ref"`
	Bought  *int64          `json:"units_bought"`
	Listed  *int64          `json:"units_listed"`
	OK      []match.Verdict `json:"verdict_ok"`
	Certain bool            `json:"certain_expected"`
	First   []string        `json:"first_ok"`
}

func TestWorkedCases(t *testing.T) {
	f, err := os.Open("../testdata/cases.jsonl")
	require.NoError(t, err)
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20)
	n := 0
	for lines.Scan() {
		n++
		var c struct {
			Case  json.RawMessage
			Truth truth
		}
		require.NoError(t, json.Unmarshal(lines.Bytes(), &c))
		var a written.Answer
		require.NoError(t, json.Unmarshal(written.AnswerLineOf(c.Case), &a))
		name := string(a.ID) + " " + c.Truth.Kind
		assert.Contains(t, c.Truth.OK, a.Verdict, name)
		if a.Verdict == match.Certain {
			assert.Equal(t, c.Truth.Ref, a.Ref, name)
			assert.Equal(t, c.Truth.Bought, a.Bought, name)
			assert.Equal(t, c.Truth.Listed, a.Listed, name)
		} else {
			assert.False(t, c.Truth.Certain, name)
			if len(c.Truth.First) > 0 {
				require.NotEmpty(t, a.Candidates, name)
				assert.True(t, slices.Contains(c.Truth.First, a.Candidates[0].Ref), name)
			}
		}
	}
	require.NoError(t, lines.Err())
	assert.Equal(t, 164, n)
}

func TestWhatCantBeReadIsAnsweredWithItsField(t *testing.T) {
	for line, want := range map[string]string{
		`nonsense`:                                                                                       "case: must be a JSON object with id, product and entries",
		`{"id":"a","product":[]}`:                                                                        "product: must be an object",
		`{"id":"a","product":{"brand":"x"}}`:                                                             "product.title: is needed",
		`{"id":"a","product":{"title":["x"]}}`:                                                           "product.title: must be a text",
		`{"id":"a","product":{"title":"x","units":1.5}}`:                                                 "product.units: must be a whole number from 0 to 1000000",
		`{"id":"a","product":{"title":"x","cost":"1,5"}}`:                                                `product.cost: "1,5" is not an amount in major units`,
		`{"id":"a","product":{"title":"x"},"entries":{}}`:                                                "entries: must be a list of objects",
		`{"id":"a","product":{"title":"x"},"entries":[{"title":"y"}]}`:                                   "entries[0].ref: is needed",
		`{"id":"a","product":{"title":"x"},"entries":[{"ref":"r"}]}`:                                     "entries[0].title: is needed",
		`{"id":"a","product":{"title":"x"},"entries":[{"ref":"r","title":"y","gtins":"952"}]}`:           "entries[0].gtins: must be a list of texts",
		`{"id":"a","product":{"title":"x"},"entries":[{"ref":"r","title":"y","copyable":"no"}]}`:         "entries[0].copyable: must not be a string",
		`{"id":"a","product":{"title":"x"},"entries":[{"ref":"r","title":"y"},{"ref":"r","title":"y"}]}`: `entries[1].ref: "r" is there twice`,
	} {
		var got struct{ Error string }
		require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(line)), &got))
		assert.Equal(t, want, got.Error, line)
	}
	assert.JSONEq(t, `{"id":7,"verdict":"none","ref":null,"units_bought":null,"units_listed":null,"candidates":[]}`,
		string(written.AnswerLineOf([]byte(`{"id":7,"product":{"title":"x","gtin":null,"cost":1.234,"units":null},"entries":null}`))))
}

func TestAnyLineIsAnswered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.OneOf(rapid.StringMatching(`\{"id":1,"product":\{"title":"[a-z0-9 x"]{0,30}","units":[0-9]{1,3}\},"entries":\[(\{"ref":"a","title":"[a-z0-9 ]{0,30}"\})?\]\}`), rapid.String()).Draw(t, "line")
		assert.True(t, json.Valid(written.AnswerLineOf([]byte(line))))
	})
}

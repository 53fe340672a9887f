package written_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/tally/written"
)

// The worked cases of docs/orders.md.
func TestCases(t *testing.T) {
	data, err := os.ReadFile("testdata/tally.jsonl")
	require.NoError(t, err)
	n := 0
	for line := range bytes.Lines(data) {
		n++
		var c struct{ Case, Answer json.RawMessage }
		require.NoError(t, json.Unmarshal(line, &c))
		assert.JSONEq(t, string(c.Answer), string(written.AnswerLineOf(c.Case)))
	}
	assert.Equal(t, 34, n)
}

func TestWhatCantBeReadNamesItsField(t *testing.T) {
	for text, field := range map[string]string{
		`{`:                           "",
		`{"id":""}`:                   "id",
		`{"id":"a","currency":"QQQ"}`: "currency",
		`{"id":"a","currency":"GBP"}`: "tax_included",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[]}`:                                                                                                                  "lines",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":0,"price":"1.00","rate":"20"}]}`:                                                                 "lines[0].units",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"1.005","rate":"20"}]}`:                                                                "lines[0].price",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"-1.00","rate":"20"}]}`:                                                                "lines[0].price",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"1.00","rate":"20%"}]}`:                                                                "lines[0].rate",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"1.00","rate":"5.123"}]}`:                                                              "lines[0].rate",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"1.00","rate":"-5"}]}`:                                                                 "lines[0].rate",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"1.00","rate":"5","x":1}]}`:                                                            "lines[0].x",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":9000000000000000000,"price":"9.00","rate":"5"}]}`:                                                "lines[0].price",
		`{"id":"a","currency":"GBP","tax_included":true,"delivery":"-1.00","lines":[{"line":"1","units":1,"price":"9.00","rate":"5"}]}`:                                               "delivery",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"9.00","rate":"5"},{"line":"1","units":1,"price":"9.00","rate":"5"}]}`:                 "lines[1].line",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"9.00","rate":"5"}],"refunds":[{"of":"tip","amount":"1.00"}]}`:                         "refunds[0].of",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"9.00","rate":"5"}],"refunds":[{"of":"goods","line":"2","amount":"1.00"}]}`:            "refunds[0].line",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"9.00","rate":"5"}],"refunds":[{"of":"delivery","amount":"0.01"}]}`:                    "refunds[0].amount",
		`{"id":"a","currency":"GBP","tax_included":true,"lines":[{"line":"1","units":1,"price":"92233720368547758.07","rate":"0"},{"line":"2","units":1,"price":"0.01","rate":"0"}]}`: "lines[1].price",
	} {
		var out struct {
			ID    *string
			Error string
		}
		require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(text)), &out), text)
		assert.NotEmpty(t, out.Error, text)
		assert.Contains(t, out.Error, field, text)
	}
}

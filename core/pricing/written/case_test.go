package written_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/pricing/written"
)

func TestWorkedCases(t *testing.T) {
	data, err := os.ReadFile("testdata/quotes.jsonl")
	require.NoError(t, err)
	postage, err := os.ReadFile("testdata/quotes_postage.jsonl")
	require.NoError(t, err)
	data = append(data, postage...)
	n := 0
	for line := range bytes.Lines(data) {
		var c struct {
			Case, Answer json.RawMessage
		}
		require.NoError(t, json.Unmarshal(line, &c))
		var want struct {
			ID    string
			Error bool
			Field any `json:"wrong_field"`
		}
		require.NoError(t, json.Unmarshal(c.Answer, &want))
		n++
		t.Run(want.ID, func(t *testing.T) {
			got := written.AnswerLineOf(c.Case)
			if !want.Error {
				assert.JSONEq(t, string(c.Answer), string(got))
				return
			}
			var said struct{ ID, Error string }
			require.NoError(t, json.Unmarshal(got, &said))
			assert.Equal(t, want.ID, said.ID)
			fields, ok := want.Field.([]any)
			if !ok {
				fields = []any{want.Field}
			}
			for _, f := range fields {
				if assert.ObjectsAreEqual(true, bytes.Contains([]byte(said.Error), []byte(f.(string)))) {
					return
				}
			}
			t.Errorf("error %q names none of %v", said.Error, fields)
		})
	}
	assert.GreaterOrEqual(t, n, 61)
}

func TestUnreadableCases(t *testing.T) {
	for name, c := range map[string]struct{ text, field string }{
		"no JSON":                  {`nonsense`, "case"},
		"a number for an amount":   {`{"id":"x","currency":"GBP","cost":{"unit":10}}`, "cost.unit"},
		"an unknown key":           {`{"id":"x","currency":"GBP","cost":{"unit":"10","colour":"red"}}`, "cost.colour"},
		"rate beside bands":        {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"fees":[{"name":"f","of":"item","rate":"1%","banding":"whole","bands":[{"rate":"2%"}]}]}`, "fees[0].rate"},
		"fixed in slices":          {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"fees":[{"name":"f","of":"item","banding":"slices","bands":[{"rate":"2%","fixed":"0.10"}]}]}`, "fixed"},
		"least above most":         {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"least":"2.00","most":"1.00"}`, "least"},
		"fx missing":               {`{"id":"x","currency":"GBP","cost":{"unit":"1","currency":"EUR"}}`, "fx"},
		"two leads":                {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"market":{"stance":"equal","offers":[{"item":"1","lead":true},{"item":"2","lead":true}]}}`, "lead"},
		"a negative cost":          {`{"id":"x","currency":"GBP","cost":{"unit":"-1"}}`, "unit"},
		"five decimals of a rate":  {`{"id":"x","currency":"GBP","cost":{"unit":"1","duty":"1.23456%"}}`, "duty"},
		"past the range":           {`{"id":"x","currency":"GBP","cost":{"unit":"92233720368547758.08"}}`, "unit"},
		"banding but no bands":     {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"fees":[{"name":"f","of":"item","rate":"1%","banding":"whole"}]}`, "fees[0].banding"},
		"a band that says nothing": {`{"id":"x","currency":"GBP","cost":{"unit":"1"},"fees":[{"name":"f","of":"item","banding":"whole","bands":[{"to":"20.00"},{"rate":"5%"}]}]}`, "fees[0].bands[0].rate"},
		"half a pack":              {`{"id":"x","currency":"GBP","cost":{"unit":"1","units_bought":0.5}}`, "units_bought"},
	} {
		t.Run(name, func(t *testing.T) {
			var got map[string]any
			require.NoError(t, json.Unmarshal(written.AnswerLineOf([]byte(c.text)), &got))
			require.Contains(t, got, "error")
			assert.Contains(t, got["error"], c.field)
		})
	}
}

// A band of whole prices may have a fixed part alone.
func TestABandOfAFixedPartAlone(t *testing.T) {
	got := written.AnswerLineOf([]byte(`{"id":"x","currency":"GBP","cost":{"unit":"10.00"},"aims":[{"kind":"profit","value":"1.00"}],
		"fees":[{"name":"sale fee","of":"item","banding":"whole","bands":[{"to":"20.00","fixed":"1.00"},{"rate":"5%"}]}]}`))
	var answer struct{ Price, Profit string }
	require.NoError(t, json.Unmarshal(got, &answer), string(got))
	assert.Equal(t, []string{"12.00", "1.00"}, []string{answer.Price, answer.Profit})
}

func TestDeliveryThatFollowsThePriceIsRefusedByField(t *testing.T) {
	for bands, field := range map[string]string{
		`[]`:                                "delivery_charged",
		`[{"from":"1.00","amount":"2.00"}]`: "delivery_charged[0].from",
		`[{"from":"0.00"}]`:                 "delivery_charged[0].amount",
		`[{"from":"0.00","amount":"2.00"},{"from":"0.00","amount":"1.00"}]`: "delivery_charged[1].from",
		`[{"from":"0.00","amount":"-2.00"}]`:                                "delivery_charged[0].amount",
		`[{"from":"0.00","amount":"2.00","to":"3.00"}]`:                     "delivery_charged[0].to",
		`[{"from":"0.00","amount":"2.005"}]`:                                "delivery_charged[0].amount",
		`[4]`:                                                               "delivery_charged[0]",
	} {
		var said struct{ Error string }
		got := written.AnswerLineOf([]byte(`{"id":"a","currency":"GBP","cost":{"unit":"1.00"},"delivery_charged":` + bands + `}`))
		require.NoError(t, json.Unmarshal(got, &said))
		assert.Contains(t, said.Error, field+":", bands)
	}
}

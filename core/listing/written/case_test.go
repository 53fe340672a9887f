package written_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/listing/written"
)

const sound = `{"id":"x","currency":"GBP","needs":{"title":{"limit":60},"attributes":[{"ref":"bore","kind":"number","least":"1","most":"9",
	"when":[{"field":"kind","filled":true}]}],"package":{"weight":[1,9]},"former":{"most":"70%"}},
	"values":{"sku":"A","title":"Tap","price":"8.40","words":["a"],"pictures":[{"width":1,"height":1,"kind":"png","bytes":1}],"attributes":{"bore":"2"}}}`

func TestUnreadableCases(t *testing.T) {
	var fine map[string]any
	require.NoError(t, json.Unmarshal(new(written.Reader).AnswerLineOf([]byte(sound)), &fine))
	require.NotContains(t, fine, "error")
	for name, c := range map[string]struct{ from, to, field string }{
		"no id":                          {`"id":"x",`, ``, "id"},
		"a number for an id":             {`"id":"x"`, `"id":7`, "id"},
		"a key in capitals":              {`"title":{"limit"`, `"title":{"Limit"`, "needs.title.Limit"},
		"an unknown key of the values":   {`"sku":"A"`, `"sku":"A","skew":"B"`, "values.skew"},
		"an unknown currency":            {`GBP`, `XXX`, "currency"},
		"half a limit":                   {`"limit":60`, `"limit":60.5`, "needs.title.limit"},
		"less than no limit":             {`"limit":60`, `"limit":-1`, "title.limit"},
		"no ref":                         {`"ref":"bore",`, ``, "ref"},
		"no kind":                        {`"kind":"number",`, ``, "kind"},
		"an unknown kind":                {`"kind":"number"`, `"kind":"figure"`, "kind"},
		"a ref twice":                    {`"attributes":[{`, `"attributes":[{"ref":"bore","kind":"text"},{`, "ref"},
		"a bound that is no number":      {`"least":"1"`, `"least":"1e3"`, "least"},
		"least above most":               {`"least":"1"`, `"least":"10"`, "least"},
		"a condition of two kinds":       {`"filled":true`, `"filled":true,"in":["x"]`, "when[0]"},
		"a condition without a field":    {`"field":"kind",`, ``, "when[0]"},
		"a condition that says nothing":  {`,"filled":true`, ``, "when[0]"},
		"one weight":                     {`[1,9]`, `[1]`, "package.weight"},
		"a weight that is a text":        {`[1,9]`, `["1",9]`, "needs.package.weight[0]"},
		"a rate without a sign":          {`"70%"`, `"seventy"`, "former.most"},
		"a rate below nothing":           {`"70%"`, `"-70%"`, "former.most"},
		"a price below nothing":          {`"8.40"`, `"-8.40"`, "values.price"},
		"a word that is a number":        {`["a"]`, `[7]`, "values.words[0]"},
		"a picture that is a text":       {`{"width":1,"height":1,"kind":"png","bytes":1}`, `"a.png"`, "values.pictures[0]"},
		"an attribute that is a flag":    {`"bore":"2"`, `"bore":true`, "values.attributes.bore"},
		"attributes that are a list":     {`{"bore":"2"}`, `["2"]`, "values.attributes"},
		"a list of what is nothing":      {`["a"]`, `[null]`, "values.words[0]"},
		"a need that is neither":         {`"kind":"number",`, `"kind":"number","need":"must",`, "need"},
		"a way to count that isn't one":  {`"limit":60`, `"limit":60,"counts":"runes"`, "counts"},
		"less than no decimals":          {`"kind":"number",`, `"kind":"number","decimals":-1,`, "decimals"},
		"a flag for a word":              {`"sku":"A"`, `"sku":true`, "values.sku"},
		"a word for whether it is found": {`"needs"`, `"entry":"yes","needs"`, "entry"},
	} {
		t.Run(name, func(t *testing.T) {
			changed := strings.Replace(sound, c.from, c.to, 1)
			require.NotEqual(t, sound, changed)
			var said struct{ Error string }
			require.NoError(t, json.Unmarshal(new(written.Reader).AnswerLineOf([]byte(changed)), &said))
			assert.Contains(t, said.Error, c.field)
		})
	}
}

func TestNullAsksForNothing(t *testing.T) {
	got := new(written.Reader).AnswerLineOf([]byte(`{"id":"x","currency":"GBP","needs":{"title":{"limit":null},"attributes":[{"ref":"a","kind":"text","need":null,
		"when":null}],"words":null},"entry":null,"values":{"sku":"A","title":"T","price":"1","words":null,"brand":null,"attributes":{"a":null}}}`))
	assert.JSONEq(t, `{"id":"x","title":"T","left_out":[],"attributes":{},"problems":[],"needed":[2,2],"helps":[0,0]}`, string(got))
}

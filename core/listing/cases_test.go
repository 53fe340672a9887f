package listing_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/listing"
	"easymargin/core/listing/written"
)

func TestTheCasesOfListings(t *testing.T) {
	var r written.Reader // one for all, as the command has it
	data, err := os.ReadFile("testdata/listing.jsonl")
	require.NoError(t, err)
	seen := 0
	for line := range bytes.Lines(data) {
		var row struct{ Case, Answer json.RawMessage }
		require.NoError(t, json.Unmarshal(line, &row))
		var want struct {
			ID    *string
			Error any
		}
		require.NoError(t, json.Unmarshal(row.Answer, &want))
		text := row.Case
		var broken string
		if json.Unmarshal(row.Case, &broken) == nil {
			text = []byte(broken)
		}
		seen++
		name := "unreadable"
		if want.ID != nil {
			name = *want.ID
		}
		t.Run(name, func(t *testing.T) {
			got := r.AnswerLineOf(text)
			if want.Error == nil {
				assert.JSONEq(t, string(row.Answer), string(got))
				return
			}
			var said struct {
				ID    *string
				Error string
			}
			require.NoError(t, json.Unmarshal(got, &said))
			assert.Equal(t, want.ID, said.ID)
			require.NotEmpty(t, said.Error)
			fields, _ := want.Error.([]any)
			if one, ok := want.Error.(string); ok {
				fields = []any{one}
			}
			for _, f := range fields {
				if strings.Contains(said.Error, f.(string)) {
					return
				}
			}
			assert.Empty(t, fields, said.Error)
		})
	}
	assert.GreaterOrEqual(t, seen, 112)
}

func TestTheCharactersOfASKU(t *testing.T) {
	for r := rune(1); r < 0x180; r++ {
		v := listing.Values{SKU: "A" + string(r) + "A", Title: "T", Price: "1"}
		want := strings.ContainsRune("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_./", r)
		assert.Equal(t, want, len(report(t, listing.Needs{}, v).Problems) == 0, "%q", r)
	}
}

func TestBoundsAreTheirs(t *testing.T) {
	// Each bound is met exactly, and missed by one.
	side := func(n int64) listing.Needs {
		return listing.Needs{Package: &listing.Package{Side: n, Weight: []int64{n, n}, Girth: 5 * n}}
	}
	packed := listing.Values{SKU: "A", Title: "T", Price: "1.00", Package: &listing.Packed{Weight: 100, Length: 100, Width: 100, Height: 100}}
	assert.Empty(t, report(t, side(100), packed).Problems)
	over := report(t, side(99), packed).Problems
	require.Len(t, over, 5)
	for i, field := range []string{"weight", "length", "width", "height", "girth"} {
		assert.Equal(t, listing.Problem{Field: "package." + field, Code: "too large", Level: listing.Stops}, over[i])
	}
	assert.Equal(t, "too small", report(t, side(101), packed).Problems[0].Code)

	price := func(least, most string) []listing.Problem {
		return report(t, listing.Needs{Price: &listing.Price{Least: least, Most: most}}, packed).Problems
	}
	assert.Empty(t, price("1.00", "1.00"))
	assert.Equal(t, "too small", price("1.01", "")[0].Code)
	assert.Equal(t, "too large", price("", "0.99")[0].Code)

	pictured := packed
	pictured.Pictures = []listing.Picture{{Width: 500, Height: 300, Kind: "png", Bytes: 10}, {Width: 300, Height: 500, Kind: "png", Bytes: 10}}
	two := listing.Pictures{Least: 2, Most: limit(2), Side: 500, Bytes: 10, Kinds: []string{"PNG"}}
	assert.Empty(t, report(t, listing.Needs{Pictures: &two}, pictured).Problems)
	for _, change := range []func(p *listing.Pictures){
		func(p *listing.Pictures) { p.Least, p.Most = 3, nil }, func(p *listing.Pictures) { p.Least, p.Most = 0, limit(1) },
		func(p *listing.Pictures) { p.Side = 501 }, func(p *listing.Pictures) { p.Bytes = 9 },
		func(p *listing.Pictures) { p.Square = true }, func(p *listing.Pictures) { p.Kinds = []string{"jpeg"} },
	} {
		n := two
		change(&n)
		assert.NotEmpty(t, report(t, listing.Needs{Pictures: &n}, pictured).Problems, "%+v", n)
	}

	worded := packed
	worded.Words = []string{"tea", "", "mug"}
	assert.Empty(t, report(t, listing.Needs{Words: &listing.Words{Most: limit(2), Limit: limit(3), Bytes: limit(7)}}, worded).Problems)
	assert.Equal(t, "too many", report(t, listing.Needs{Words: &listing.Words{Most: limit(1)}}, worded).Problems[0].Code)
	assert.Equal(t, "too long", report(t, listing.Needs{Words: &listing.Words{Bytes: limit(6)}}, worded).Problems[0].Code)
	assert.Equal(t, listing.Problem{Field: "words.1", Code: "too long", Level: listing.Stops},
		report(t, listing.Needs{Words: &listing.Words{Limit: limit(2)}}, worded).Problems[0])
}

func TestNeedsThatCantBe(t *testing.T) {
	for name, n := range map[string]listing.Needs{
		"number":      {Number: "sometimes"},
		"title":       {Title: &listing.Title{Counts: "letters"}},
		"limit":       {Title: &listing.Title{Limit: limit(-1)}},
		"description": {Description: &listing.Description{Counts: "letters"}},
		"least":       {Description: &listing.Description{Least: 6, Limit: limit(5)}},
		"pictures":    {Pictures: &listing.Pictures{Least: -1}},
		"side":        {Pictures: &listing.Pictures{Side: -1}},
		"bytes":       {Pictures: &listing.Pictures{Bytes: -1}},
		"girth":       {Package: &listing.Package{Girth: -1}},
		"weight":      {Package: &listing.Package{Weight: []int64{5, 4}}},
		"words":       {Words: &listing.Words{Most: limit(-1)}},
		"price":       {Price: &listing.Price{Least: "2.00", Most: "1.99"}},
		"most":        {Price: &listing.Price{Most: "1.999"}},
		"former":      {Former: &listing.Former{Most: "-1%"}},
		"decimals":    {Attributes: []listing.Attribute{{Ref: "a", Kind: listing.KindNumber, Decimals: limit(-1)}}},
		"at_most":     {Attributes: []listing.Attribute{{Ref: "a", Kind: listing.KindChoices, AtMost: limit(-1)}}},
		"when[0]":     {Attributes: []listing.Attribute{{Ref: "a", Kind: listing.KindText, When: []listing.Condition{{Field: "b"}}}}},
	} {
		_, err := n.Ready("GBP")
		assert.ErrorContains(t, err, name)
	}
	n := listing.Needs{Description: &listing.Description{Least: 5, Limit: limit(5)}, Price: &listing.Price{Least: "1.00", Most: "1.00"},
		Attributes: []listing.Attribute{{Ref: "a", Kind: listing.KindNumber, Least: "-1.5", Most: "-1.5"}}}
	_, err := n.Ready("GBP")
	assert.NoError(t, err, "bounds may meet")
	_, err = n.Ready("ZZZ")
	assert.ErrorContains(t, err, "currency")
}

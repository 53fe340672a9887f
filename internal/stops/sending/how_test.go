package sending

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/internal/place"
	"easymargin/internal/store"
)

var now = time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC)

// However things are spread, every line is in one part and in its order, no part is
// larger than the site takes, what takes stock down goes at once, and the rest within
// the time that was said.
func TestPartsHaveEveryLineOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		site := &store.Site{MaxLines: rapid.Int64Range(0, 9).Draw(t, "most"), Marketplace: store.Marketplace{Address: rapid.SampledFrom([]string{"", "http://m"}).Draw(t, "address")},
			Kind: rapid.SampledFrom([]string{"", place.KindSheet, place.KindHand}).Draw(t, "kind")}
		h := How{Over: rapid.Int64Range(0, 600).Draw(t, "over")}
		if rapid.Bool().Draw(t, "later") {
			at := now.Add(time.Duration(rapid.Int64Range(1, 5000).Draw(t, "in")) * time.Minute)
			h.At = &at
		}
		offered := map[int64]int64{}
		var lines []store.SendLine
		for i := range rapid.IntRange(0, 40).Draw(t, "lines") {
			n := rapid.Int64Range(0, 9).Draw(t, "quantity")
			offered[int64(i)] = rapid.Int64Range(0, 9).Draw(t, "offered")
			lines = append(lines, store.SendLine{ListingID: int64(i), Quantity: &n})
		}
		from, until := now, now.Add(time.Duration(h.Over)*time.Minute)
		if h.At != nil {
			from, until = *h.At, h.At.Add(time.Duration(h.Over)*time.Minute)
		}
		seen, last, waits := map[int64]bool{}, time.Time{}, int64(-1)
		for _, p := range h.parts(site, lines, offered, now) {
			require.NotEmpty(t, p.lines)
			assert.LessOrEqual(t, int64(len(p.lines)), mostLines(site))
			if p.at != nil {
				assert.False(t, p.at.Before(from) || p.at.After(until), "within the time that was said")
				assert.False(t, p.at.Before(last), "one after another")
				last = *p.at
			}
			for _, l := range p.lines {
				assert.False(t, seen[l.ListingID], "twice")
				seen[l.ListingID] = true
				lowers := *l.Quantity < offered[l.ListingID]
				switch {
				case h.waits():
					assert.Equal(t, lowers, p.at == nil, "what takes stock down goes at once, and nothing else")
				default:
					assert.Nil(t, p.at)
				}
				if p.at != nil {
					assert.Greater(t, l.ListingID, waits, "in their order")
					waits = l.ListingID
				}
			}
			if bySheet(site) && p.at != nil {
				assert.Equal(t, from, *p.at, "a file stays whole")
			}
		}
		assert.Len(t, seen, len(lines))
	})
}

func TestWhenSomethingMayGo(t *testing.T) {
	for name, c := range map[string]struct {
		in    time.Duration
		wrong bool
	}{
		"now":                   {0, false},
		"a moment ago":          {-30 * time.Second, false},
		"an hour ago":           {-time.Hour, true},
		"in thirty days":        {30 * 24 * time.Hour, false},
		"in more than a month":  {31 * 24 * time.Hour, true},
		"a minute over a month": {30*24*time.Hour + time.Minute, true},
	} {
		at := now.Add(c.in)
		assert.Equal(t, c.wrong, How{At: &at}.check(now) != nil, name)
	}
	assert.NoError(t, How{}.check(now))
	assert.True(t, How{}.goes(7))
	assert.True(t, How{Sites: []int64{3, 7}}.goes(7))
	assert.False(t, How{Sites: []int64{3}}.goes(7))
}

// A line's part of a batch is given as it stood in it, whatever stands around it.
func TestPartOfABatch(t *testing.T) {
	body := []byte(`{"lines":[{"key":"a-1","sku":"A \"quoted\"","price":1290},{"price":5,"key":"a-2"}]}`)
	for key, want := range map[string]string{"a-1": `{"key":"a-1","sku":"A \"quoted\"","price":1290}`, "a-2": `{"price":5,"key":"a-2"}`, "a-3": ""} {
		got, err := partOf(body, key)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	_, err := partOf([]byte(`{"lines":[`), "a-1")
	assert.Error(t, err)
}

// What a light file is written as is read back as a person wrote it.
func TestALightFileIsReadAsItWasWritten(t *testing.T) {
	in := LightFile{Name: "stock.csv", Part: store.LightChanged, Change: "U", End: "D", Output: LightOutput{Delimiter: "semicolon", Decimal: "comma", Encoding: "windows-1252"},
		Columns: []LightColumn{{Header: "Item SKU", From: "sku"}, {Header: "Price", From: "price"}, {Header: "Qty", From: "quantity"}, {Header: "Do", From: "do"}, {Header: "Shop", Value: "Saltmarsh"}}}
	require.NoError(t, in.check())
	raw, err := json.Marshal(in.layout())
	require.NoError(t, err)
	out, last, err := lightOf(&store.LightFile{Name: in.Name, Part: in.Part, Layout: string(raw)})
	require.NoError(t, err)
	assert.Empty(t, last)
	assert.Equal(t, in, out)
	schema, err := in.Schema()
	require.NoError(t, err)
	assert.JSONEq(t, `{"fields":[{"name":"Item SKU","type":"string","constraints":{"required":true,"unique":true}},
		{"name":"Price","type":"number","decimalChar":",","constraints":{"minimum":0}},{"name":"Qty","type":"integer","constraints":{"required":true,"minimum":0}},
		{"name":"Do","type":"string","constraints":{"enum":["U","D"]}},{"name":"Shop","type":"string"}],"primaryKey":"Item SKU"}`, string(schema))
}

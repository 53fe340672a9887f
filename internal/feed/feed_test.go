package feed_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"html"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"easymargin/core/supply"
	"easymargin/internal/feed"
)

var now = time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC)

// file writes bytes as a file of their own.
func file(t testing.TB, text []byte) string {
	path := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(path, text, 0o600))
	return path
}

// rows reads a text to its end.
func rows(t testing.TB, text string, s feed.Settings) (feed.Look, []feed.Row) {
	f, err := feed.Open(file(t, []byte(text)), s)
	require.NoError(t, err)
	var out []feed.Row
	require.NoError(t, f.Read(s, func(r *feed.Row) error { out = append(out, *r); return nil }))
	return f.Look(), out
}

var (
	tags  = regexp.MustCompile(`</?[a-zA-Z][^>]*>`)
	space = regexp.MustCompile(`\s+`)
)

// plain is a value as the cases compare it: numbers as numbers, texts with
// white space folded.
func plain(field string, v any) any {
	switch v := v.(type) {
	case string:
		switch field {
		case "cost", "list_price", "least_advertised":
			if whole, frac, ok := strings.Cut(v, "."); ok {
				frac = strings.TrimRight(frac, "0")
				return strings.TrimSuffix(whole+"."+frac, ".")
			}
			return v
		case "description":
			return space.ReplaceAllString(html.UnescapeString(tags.ReplaceAllString(v, "")), "")
		}
		return strings.TrimSpace(space.ReplaceAllString(strings.ReplaceAll(v, "\u00a0", " "), " "))
	case []any:
		if len(v) == 0 {
			return nil
		}
	}
	return v
}

type line struct {
	Row       int            `json:"row"`
	Fields    map[string]any `json:"fields"`
	Warnings  *[]string      `json:"warnings"`
	Aside     []aside        `json:"set_aside"`
	Kind      string         `json:"kind"`
	Encoding  string         `json:"encoding"`
	Delimiter string         `json:"delimiter"`
	HeaderRow int            `json:"header_row"`
	Columns   []struct {
		Name  string `json:"name"`
		Field any    `json:"field"`
	} `json:"columns"`
}

type aside struct {
	Column *string `json:"column"`
	Reason string  `json:"reason"`
}

func lines(t *testing.T, text []byte) []line {
	var out []line
	s := bufio.NewScanner(bytes.NewReader(text))
	s.Buffer(nil, 1<<20)
	for s.Scan() {
		var l line
		require.NoError(t, json.Unmarshal(s.Bytes(), &l))
		out = append(out, l)
	}
	return out
}

// The worked files: what `easymargin read` prints agrees with what is expected.
func TestWorkedFiles(t *testing.T) {
	all, err := filepath.Glob("testdata/feeds/*.expected.jsonl")
	require.NoError(t, err)
	require.Len(t, all, 14)
	for _, expected := range all {
		path := strings.TrimSuffix(expected, ".expected.jsonl")
		text, err := os.ReadFile(expected)
		require.NoError(t, err)
		want := lines(t, text)
		f, err := feed.Open(path, feed.Settings{Now: now})
		require.NoError(t, err, path)
		var out bytes.Buffer
		require.NoError(t, f.Print(&out, feed.Settings{Now: now}), path)
		got := lines(t, out.Bytes())
		require.Len(t, got, len(want), path)
		head, wanted := got[0], want[0]
		assert.Equal(t, wanted.Kind, head.Kind, path)
		if wanted.Encoding != "" {
			assert.Equal(t, wanted.Encoding, head.Encoding, path)
		}
		assert.Equal(t, wanted.HeaderRow, head.HeaderRow, path)
		assert.Equal(t, wanted.Delimiter, head.Delimiter, path)
		for i, w := range want[1:] {
			g, where := got[i+1], fmt.Sprintf("%s row %d", filepath.Base(path), w.Row)
			require.Equal(t, w.Row, g.Row, where)
			require.Equal(t, len(w.Aside) > 0, len(g.Aside) > 0, where)
			for name, v := range w.Fields {
				if v != nil {
					assert.Equal(t, plain(name, v), plain(name, g.Fields[name]), "%s %s", where, name)
				}
			}
			for name := range g.Fields {
				assert.Contains(t, w.Fields, name, "%s has a field too many", where)
			}
			if w.Warnings != nil {
				require.NotNil(t, g.Warnings, where)
				assert.Equal(t, len(*w.Warnings) > 0, len(*g.Warnings) > 0, "%s warnings: %v", where, *g.Warnings)
			}
			for _, a := range g.Aside {
				assert.NotEmpty(t, a.Reason, where)
			}
		}
	}
}

// Amounts as people write them, in a column where the sign is proved elsewhere or not at all.
func TestAmountsAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct{ currency, proof, cell, want string }{
		{"GBP", "9.99", "1,234", "1234.00"}, {"GBP", "", "1,234", "1234.00"}, {"EUR", "", "1,234", "1.24"}, {"EUR", "", "1.234", "1234.00"}, {"EUR", "9,99", "1.234", "1234.00"},
		{"GBP", "9,99", "1.234,5", "1234.50"}, {"EUR", "9.99", "1'234.50", "1234.50"}, {"EUR", "9,99", "1 234,50", "1234.50"}, {"EUR", "9,99", "1\u202f234,50 €", "1234.50"},
		{"USD", "", "$1,234,567.89", "1234567.89"}, {"USD", "", ".50", "0.50"}, {"SEK", "", "129,90 kr", "129.90"}, {"EUR", "9,99", "12,- €", "12.00"}, {"JPY", "", "¥1200", "1200"}, {"JPY", "", "1200.4", "1201"},
		{"KWD", "", "1.2345", "1.235"}, {"GBP", "", "+5", ""}, {"GBP", "", "12..5", ""}, {"GBP", "", "1,23,4", ""}, {"GBP", "", "12.5%", ""}, {"GBP", "", "ask", ""}, {"GBP", "", "5 or 6", ""},
		{"GBP", "", "(3.20)", ""}, {"GBP", "", "−3.20", ""}, {"GBP", "", "92233720368547758.08", ""}, {"GBP", "", "0.001", "0.01"},
	} {
		text := "ref;title;cost;currency\n"
		if c.proof != "" {
			for i := range 3 {
				text += fmt.Sprintf("P%d;Proof;%s;%s\n", i, c.proof, c.currency)
			}
		}
		_, got := rows(t, text+fmt.Sprintf("X;Thing;\"%s\";%s\n", c.cell, c.currency), feed.Settings{})
		last := got[len(got)-1]
		if c.want == "" {
			assert.NotEmpty(t, last.Problems, "%s %s", c.cell, c.currency)
			continue
		}
		require.Empty(t, last.Problems, "%s %s", c.cell, c.currency)
		assert.Equal(t, c.want, last.Product.Cost.String(), "%s %s after %q", c.cell, c.currency, c.proof)
	}
}

func TestTwoSignsInOneColumnSetTheRarerAside(t *testing.T) {
	_, got := rows(t, "ref;title;cost\nA;Mug;1,50\nB;Pot;2,50\nC;Peg;3.50\n", feed.Settings{Currency: "GBP"})
	assert.Empty(t, got[0].Problems)
	assert.Equal(t, "2.50", got[1].Product.Cost.String())
	require.Len(t, got[2].Problems, 1)
	assert.Equal(t, "cost", got[2].Problems[0].Column)
}

// A cost above the list price of its own row is a mistake in one of the two: the row waits
// for a person. A case may cost more than the list price of one that is in it.
func TestACostAboveItsListPriceIsDoubtful(t *testing.T) {
	const list = "ref,title,cost,list price,units per item\nA,Kettle,1021.50,45.15,1\nB,Pegs,28.80,3.99,12\nC,Cup,3.50,3.50,\nD,Mug,3.51,3.50,\nE,Pan,9.00,0,\nF,Pot,9.00,,\n"
	_, got := rows(t, list, feed.Settings{Currency: "GBP", Doubts: true})
	doubtful := ""
	for _, r := range got {
		if len(r.Problems) > 0 {
			doubtful += r.Product.Ref
			assert.Equal(t, "cost", r.Problems[0].Column)
		}
	}
	assert.Equal(t, "AD", doubtful)
	assert.Contains(t, got[0].Problems[0].Reason, "45.15")
	_, got = rows(t, list, feed.Settings{Currency: "GBP"})
	assert.Empty(t, got[0].Problems, "read prints what is there")
}

func TestStockAsSuppliersWriteIt(t *testing.T) {
	own := feed.Settings{
		Currency:   "GBP",
		SomeStock:  7,
		StockWords: map[string]supply.Stock{"ontheway": {State: supply.StockKnown}, "plenty": {State: supply.StockKnown, Count: -1}},
	}
	for cell, want := range map[string]string{"12": "12", "1,200": "1200", "12.0": "12", "> 10": "10", "10 +": "10", "In-Stock": "7", "YES": "7", "Plenty": "7", "on the way": "0", "Back order": "0", "few": "1",
		"End-of-Life": "ended", "-3": "0", "": "unknown", "phone us": "unknown", "12.5": "unknown", "5 pcs": "unknown"} {
		_, got := rows(t, "ref,title,cost,stock\nA,Mug,1.50,\""+cell+"\"\n", own)
		assert.Equal(t, want, got[0].Product.Stock.String(), "%q", cell)
	}
	_, got := rows(t, "ref,title,cost\nA,Mug,1.50\n", own)
	assert.Empty(t, got[0].Product.Stock.String(), "no column says nothing")
	_, got = rows(
		t,
		"ref,title,cost,stock,available from\nA,Mug,1.50,9,2026-04-01\nB,Pot,1.50,9,2026-03-03\n",
		feed.Settings{Currency: "GBP", Now: now},
	)
	assert.Equal(t, [2]string{"0", "9"}, [2]string{got[0].Product.Stock.String(), got[1].Product.Stock.String()})
}

func TestMeasuresAreRoundedUp(t *testing.T) {
	for cell, want := range map[string]int64{"450": 450_000, "0,45 kg": 450, "16 oz": 454, "1 lb": 454, "450.1 g": 451, "2 pounds": 908} {
		_, got := rows(t, "ref;title;cost;weight (kg)\nA;Mug;1;\""+cell+"\"\n", feed.Settings{Currency: "GBP"})
		assert.Equal(t, want, got[0].Product.Weight, "%q %v", cell, got[0].Warnings)
	}
	_, got := rows(t, "ref;title;cost;weight;dimensions\nA;Mug;1;450;10x20x30\n", feed.Settings{Currency: "GBP"})
	assert.Zero(t, got[0].Product.Weight)
	assert.Len(t, got[0].Warnings, 2, "no unit anywhere")
	_, got = rows(t, "ref;title;cost;weight;dimensions cm\nA;Mug;1;450;10 x 20,5 x 30\n", feed.Settings{Currency: "GBP", WeightUnit: "g"})
	assert.Equal(
		t,
		[4]int64{450, 100, 205, 300},
		[4]int64{got[0].Product.Weight, got[0].Product.Length, got[0].Product.Width, got[0].Product.Height},
	)
}

// A workbook is read wherever it is wrapped, and counts days from where it says.
func TestAWrappedSheet(t *testing.T) {
	x := excelize.NewFile()
	early := true
	require.NoError(t, x.SetWorkbookProps(&excelize.WorkbookPropsOptions{Date1904: &early}))
	require.NoError(t, x.SetSheetRow("Sheet1", "A1", &[]any{"ref", "title", "cost", "available from"}))
	require.NoError(t, x.SetSheetRow("Sheet1", "A2", &[]any{"A", "Mug", "1,50", 44_681}))
	var sheet, gz, zipped bytes.Buffer
	require.NoError(t, x.Write(&sheet))
	g := gzip.NewWriter(&gz)
	_, err := g.Write(sheet.Bytes())
	require.NoError(t, err)
	require.NoError(t, g.Close())
	z := zip.NewWriter(&zipped)
	w, err := z.Create("list.xlsx")
	require.NoError(t, err)
	_, err = w.Write(sheet.Bytes())
	require.NoError(t, err)
	require.NoError(t, z.Close())
	for wrapping, text := range map[string]string{"": sheet.String(), "gzip": gz.String(), "zip": zipped.String()} {
		l, got := rows(t, text, feed.Settings{Currency: "EUR"})
		assert.Equal(t, [2]string{"xlsx", wrapping}, [2]string{l.Kind, l.Wrapping})
		require.Len(t, got, 1, wrapping)
		assert.Equal(t, [2]string{"1.50", "2026-05-01"}, [2]string{got[0].Product.Cost.String(), got[0].Product.AvailableFrom}, wrapping)
	}
}

// A sheet as another program writes it: numbers, dates, rich text, a second sheet.
func TestASheetOfAnotherProgram(t *testing.T) {
	x := excelize.NewFile()
	_, err := x.NewSheet("Goods")
	require.NoError(t, err)
	require.NoError(t, x.SetSheetRow("Sheet1", "A1", &[]any{"Hello", "there"}))
	put := func(at string, cells ...any) { require.NoError(t, x.SetSheetRow("Goods", at, &cells)) }
	put("B3", "Item no", "EAN", "Product name", "Cost", "Stock", "Available from", "Shelf")
	put("B4", 20417, 9520000204174, "Flask", 2.2000000000000002, 8, time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC), true)
	put("B6", "0042", "9520000204181", "1.234", "1,234", "in stock", nil, "a\u00a0b")
	require.NoError(
		t,
		x.SetCellRichText("Goods", "D6", []excelize.RichTextRun{{Text: "Mug "}, {Text: "big", Font: &excelize.Font{Bold: true}}}),
	)
	var b bytes.Buffer
	require.NoError(t, x.Write(&b))
	l, got := rows(t, b.String(), feed.Settings{Currency: "GBP", Now: now})
	assert.Equal(t, [4]any{"xlsx", "Goods", 3, int64(2)}, [4]any{l.Kind, l.Sheet, l.HeaderRow, l.Rows})
	assert.Equal(t, []string{"Sheet1", "Goods"}, l.Sheets)
	require.Len(t, got, 2)
	first, second := got[0].Product, got[1].Product
	assert.Equal(
		t,
		[6]any{4, "20417", "09520000204174", "2.20", "0", "2026-05-01"},
		[6]any{got[0].Number, first.Ref, first.GTIN, first.Cost.String(), first.Stock.String(), first.AvailableFrom},
	)
	assert.Equal(
		t,
		[5]any{6, "0042", "Mug big", "1234.00", "5"},
		[5]any{got[1].Number, second.Ref, second.Title, second.Cost.String(), second.Stock.String()},
	)
	assert.Empty(t, got[0].Warnings)
}

func TestJSONOfOtherShapes(t *testing.T) {
	for name, text := range map[string]string{
		"an array at the top":  `[{"sku":"A","name":"Mug","price":{"amount":"2.40","currency":"GBP"},"brand":{"name":"Tarnwick"},"tags":["a","b"]}]`,
		"deep inside":          `{"meta":{"pages":1,"notes":[]},"data":[{"x":1}].concat`,
		"an object of objects": `{"a":{"b":{"rows":[{"sku":"A","name":"Mug","price":{"amount":"2.40","currency":"GBP"},"brand":{"name":"Tarnwick"},"tags":["a","b"]}]}}}`,
		"after empty arrays":   `{"none":[],"words":["x"],"rows":[{"sku":"A","name":"Mug","price":{"amount":"2.40","currency":"GBP"},"brand":{"name":"Tarnwick"},"tags":["a","b"]}]}`,
	} {
		if name == "deep inside" {
			_, err := feed.Open(file(t, []byte(text)), feed.Settings{})
			assert.ErrorContains(t, err, "JSON is broken", name)
			continue
		}
		l, got := rows(t, text, feed.Settings{})
		assert.Equal(t, "json", l.Kind, name)
		require.Len(t, got, 1, name)
		p := got[0].Product
		assert.Equal(
			t,
			[5]string{"A", "Mug", "2.40", "GBP", "Tarnwick"},
			[5]string{p.Ref, p.Title, p.Cost.String(), string(p.Cost.Currency), p.Brand},
			name,
		)
		assert.Equal(t, []supply.Attribute{{Name: "tags", Value: "a, b"}}, p.Attributes, name)
	}
	l, got := rows(
		t,
		"{\"sku\":\"A\",\"name\":\"Mug\",\"cost\":1}\nnot json\n\n{\"sku\":\"B\",\"name\":\"Pot\",\"cost\":2}\n",
		feed.Settings{Currency: "GBP"},
	)
	assert.Equal(t, "jsonl", l.Kind)
	require.Len(t, got, 3)
	assert.Equal(t, []supply.Problem{{Value: "not json", Reason: "this line is no whole JSON object"}}, got[1].Problems)
	assert.Equal(t, 4, got[2].Number)
}

func TestPicturesInsideObjects(t *testing.T) {
	_, got := rows(
		t,
		"[{\"sku\":\"A\",\"name\":\"Mug\",\"cost\":1,\n\"images\":[{\"url\":\"https://x.example/1.png\"},{\"url\":\"https://x.example/2.png\"}]}]",
		feed.Settings{Currency: "GBP"},
	)
	assert.Equal(t, []string{"https://x.example/1.png", "https://x.example/2.png"}, got[0].Product.Pictures)
	_, got = rows(
		t,
		`<goods><i sku="A" name="Mug" cost="1"><images><image src="https://x.example/1.png"/><image src="https://x.example/2.png"/></images></i><i sku="B" name="Pot" cost="2"/></goods>`,
		feed.Settings{Currency: "GBP"},
	)
	assert.Equal(t, []string{"https://x.example/1.png", "https://x.example/2.png"}, got[0].Product.Pictures)
}

func TestXMLOfOtherShapes(t *testing.T) {
	l, got := rows(t, `<?xml version="1.0" encoding="windows-1252"?><shop><about><name>Shop</name></about><goods>
		<item id="1"><sku>A</sku><name>Mug &amp; lid</name><price currency="EUR">12,50</price><photos><photo>https://x.example/1.png</photo><photo>https://x.example/2.png</photo></photos></item>
		<item id="2"><sku>B</sku><name>Pot</name><price currency="EUR">9,10</price></item></goods></shop>`, feed.Settings{})
	assert.Equal(t, "xml", l.Kind)
	require.Len(t, got, 2)
	p := got[0].Product
	assert.Equal(t, [4]string{"A", "Mug & lid", "12.50", "EUR"}, [4]string{p.Ref, p.Title, p.Cost.String(), string(p.Cost.Currency)})
	assert.Equal(t, []supply.Attribute{{Name: "id", Value: "1"}}, got[0].Product.Attributes[:1])
}

func TestPagesOfOtherShops(t *testing.T) {
	linked := func(data string) string {
		return `<!doctype html><html><head><link rel="canonical" href="https://x.example/goods/stove"><script type="application/ld+json">` + data + `</script></head><body></body></html>`
	}
	_, got := rows(
		t,
		linked(`[{"@type":"Thing"},{"@type":["Product","Thing"],"name":"Stove","gtin":"9520001401404","image":"/pic/1.jpg","sku":"S1",
		"offers":{"@type":"AggregateOffer","lowPrice":"60.00","offers":[{"price":"64.50","priceCurrency":"USD","availability":"http://schema.org/OutOfStock"},{"price":70.25,"priceCurrency":"USD","availability":"InStock"}]}}]`),
		feed.Settings{},
	)
	require.Len(t, got, 1)
	p := got[0].Product
	assert.Equal(
		t,
		[5]string{"S1", "09520001401404", "70.25", "5", "https://x.example/pic/1.jpg"},
		[5]string{p.Ref, p.GTIN, p.Cost.String(), p.Stock.String(), p.Pictures[0]},
		"the offer that can be bought",
	)

	_, got = rows(
		t,
		linked(`{"@graph":[{"@type":"ProductGroup","productGroupID":"G1","name":"Mug","brand":{"name":"Tarnwick"},"hasVariant":[
		{"@type":"Product","sku":"M1","name":"Mug, red","color":"red","offers":{"price":"5","priceCurrency":"GBP"}},{"@type":"Product","sku":"M2","name":"Mug, blue","color":"blue","offers":{"price":"6","priceCurrency":"GBP"}}]}]}`),
		feed.Settings{},
	)
	require.Len(t, got, 2)
	assert.Equal(
		t,
		[4]string{"M2", "blue", "G1", "Tarnwick"},
		[4]string{got[1].Product.Ref, got[1].Product.Colour, got[1].Product.Group, got[1].Product.Brand},
	)

	_, got = rows(
		t,
		`<html><body><div itemscope itemtype="https://schema.org/Product"><h1 itemprop="name">Kettle</h1><meta itemprop="sku" content="K1"><span itemprop="brand" itemscope itemtype="https://schema.org/Brand"><b itemprop="name">Ottermere</b></span>
		<img itemprop="image" src="https://x.example/k.png"><div itemprop="offers" itemscope itemtype="https://schema.org/Offer"><span itemprop="price" content="24.90">£24.90</span><meta itemprop="priceCurrency" content="GBP"><link itemprop="availability" href="https://schema.org/SoldOut"></div></div></body></html>`,
		feed.Settings{},
	)
	require.Len(t, got, 1)
	p = got[0].Product
	assert.Equal(
		t,
		[5]string{"K1", "Kettle", "Ottermere", "24.90", "0"},
		[5]string{p.Ref, p.Title, p.Brand, p.Cost.String(), p.Stock.String()},
	)
	_, err := feed.Open(file(t, []byte("<!doctype html><html><body>Hello</body></html>")), feed.Settings{})
	assert.ErrorContains(t, err, "no schema.org Product")
}

func packed(t *testing.T, names ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, n := range names {
		w, err := z.Create(n)
		require.NoError(t, err)
		_, err = w.Write([]byte("ref,title,cost\nA,Mug,1.50\n"))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// Whatever is wrong with a file, the message says what, and how to mend it.
func TestWhatCantBeReadSaysWhy(t *testing.T) {
	bomb := func(n int) []byte {
		var b bytes.Buffer
		z := gzip.NewWriter(&b)
		_, err := z.Write(bytes.Repeat([]byte("ref,title,cost\n"), min(n, 1)*4_500_000)) // 64 MiB; members of a gzip may follow one another
		require.NoError(t, err)
		require.NoError(t, z.Close())
		return bytes.Repeat(b.Bytes(), max(n, 1))
	}
	for name, c := range map[string]struct {
		text []byte
		want string
	}{
		"empty":               {nil, "empty"},
		"an empty gzip":       {bomb(0), "empty"},
		"a broken gzip":       {append([]byte("\x1f\x8b\x08"), bytes.Repeat([]byte{7}, 40)...), "broken"},
		"a bomb":              {bomb(33), "2048 MiB"},
		"two in a zip":        {packed(t, "a.csv", "b.csv"), "more than one file"},
		"a broken zip":        {[]byte("PK\x03\x04 and then nothing of the sort"), "broken"},
		"an old sheet":        {append([]byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"), make([]byte, 600)...), "XLSX"},
		"prose":               {[]byte("Dear customer, please find our prices, as ever, below.\nYours, Fernhollow\n"), "no header row"},
		"a picture":           {append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00"), bytes.Repeat([]byte{0, 9, 0}, 300)...), "no file that can be read"},
		"quotes never closed": {[]byte("ref,title,cost\nA,\"Mug,1.50\nB,Pot,2\n"), "never closed"},
		"a cell too long":     {[]byte("ref,title,cost\nA,\"" + strings.Repeat("x", 1<<20+9) + "\",1\n"), "1024 KiB"},
		"a million columns":   {[]byte("ref,title,cost" + strings.Repeat(",x", 1_000_000) + "\n"), "2000 columns"},
		"a million commas":    {[]byte("ref,title,cost\nA,Mug,1" + strings.Repeat(",", 1_000_000) + "\n"), "2000 columns"},
		"external entities":   {[]byte(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><goods><i><sku>A</sku><name>&e;</name><cost>1</cost></i><i><sku>B</sku><name>x</name><cost>1</cost></i></goods>`), "entity"},
		"laughs":              {[]byte(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]><goods><i><sku>&b;</sku><name>x</name></i><i/></goods>`), "entity"},
		"deep XML":            {[]byte("<a>" + strings.Repeat("<b>", 500)), "64"},
		"deep JSON":           {[]byte(`{"a":` + strings.Repeat("[[", 200) + strings.Repeat("]]", 200) + `}`), "64"},
		"JSON without rows":   {[]byte("{\n\"a\":[1,2],\"b\":{}}"), "no list of objects"},
		"broken JSON":         {[]byte(`[{"sku":"A","name":"Mug","cost":1},{"sku":`), "too early"},
		"broken XML":          {[]byte(`<goods><i><sku>A</sku><name>M</name></i><i><sku>B</goods>`), "line 1"},
	} {
		f, err := feed.Open(file(t, c.text), feed.Settings{Currency: "GBP"})
		if err == nil {
			err = f.Read(feed.Settings{Currency: "GBP"}, func(*feed.Row) error { return nil })
		}
		var e *feed.Error
		if assert.ErrorAs(t, err, &e, name) {
			assert.Contains(t, e.Error(), c.want, name)
		}
	}
}

func TestHostileTextIsMadeHarmless(t *testing.T) {
	_, got := rows(t, "ref,title,cost,description,link,images\n"+
		`A,"<b>Mug</b> =1+1",1,"<p onclick=go()>Fine<script>steal()</script><a href='javascript:x'>link</a>&lt;script&gt;x&lt;/script&gt;</p>",javascript:alert(1),"data:image/png;base64,xx"`+"\n", feed.Settings{Currency: "GBP"})
	p := got[0].Product
	assert.Equal(t, "<p>Finelink</p>", p.Description)
	assert.Empty(t, p.Link)
	assert.Empty(t, p.Pictures)
	assert.Len(t, got[0].Warnings, 2)
}

// A part of mended rows is read by what the whole file had proved, and our own
// apostrophes and column go.
func TestMendedRowsAreReadLikeTheWhole(t *testing.T) {
	s := feed.Settings{Currency: "GBP", Signs: map[string]string{"cost": ","}}
	_, got := rows(t, "ref,title,cost,"+feed.WhyColumn+"\n'=A,Mug,\"1,234\",\"cost: was missing\"\n", s)
	assert.Equal(t, "1.24", got[0].Product.Cost.String())
	assert.Equal(t, "=A", got[0].Product.Ref)
	assert.Empty(t, got[0].Product.Attributes)
}

package blank_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"easymargin/internal/blank"
	"easymargin/internal/fault"
)

func parts(t require.TestingT, raw []byte) map[string][]byte {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		if out[f.Name], err = io.ReadAll(r); err != nil {
			require.NoError(t, err)
		}
	}
	return out
}

// made is a workbook of 1-cups with other parts.
func made(t require.TestingT, change map[string]string) []byte {
	raw, err := os.ReadFile(casePath("1-cups.xlsx"))
	require.NoError(t, err)
	all := parts(t, raw)
	for name, text := range change {
		all[name] = []byte(text)
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range all {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

const sheet1 = "xl/worksheets/sheet1.xml"

// sheetOf is a sheet's part of these rows and what follows them.
func sheetOf(rows, rest string) string {
	return `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` + rows + `</sheetData>` + rest + `</worksheet>`
}

func header(names ...string) string {
	out := `<row r="1">`
	for i, n := range names {
		out += fmt.Sprintf(`<c r="%c1" t="inlineStr"><is><t>%s</t></is></c>`, 'A'+i, n)
	}
	return out + "</row>"
}

func layoutOf(t require.TestingT, text string) *blank.Layout {
	l, err := blank.ReadLayout([]byte(text))
	require.NoError(t, err)
	return l
}

// fill fills a blank by its bytes.
func fill(t require.TestingT, raw []byte, l *blank.Layout, o blank.Options, rows ...blank.Row) ([]byte, []blank.Problem) {
	b, err := blank.Read(raw)
	require.NoError(t, err)
	var out bytes.Buffer
	var said []blank.Problem
	o.Problem = func(p blank.Problem) { said = append(said, p) }
	_, err = b.Fill(l, blank.List(rows), &out, o)
	require.NoError(t, err)
	return out.Bytes(), said
}

func row(pairs ...string) blank.Row {
	r := blank.Row{}
	for i := 0; i < len(pairs); i += 2 {
		r[pairs[i]] = pairs[i+1]
	}
	return r
}

const skuTitle = `{"columns":{"SKU":{"from":"sku"},"Title":{"from":"title"}},"output":{"kind":"xlsx"}}`

func TestARowIsPutAmongWhatStandsThere(t *testing.T) {
	raw := made(t, map[string]string{
		sheet1: sheetOf(header("SKU", "Title", "Sum")+
			`<row r="2" spans="3:3" ht="20"><c r="C2" s="3"><f>A2&amp;"x"</f><v>1</v></c></row><row r="3" s="2" customFormat="1"/>`+
			"\n"+`<row r="4"><c/><c t="inlineStr"><is><t>kept</t></is></c><c><f>1+1</f></c></row>`, ""),
		"xl/workbook.xml": `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Cups" sheetId="1" r:id="rId1"/></sheets></workbook>`,
	})
	l := layoutOf(t, `{"columns":{"SKU":{"from":"sku"}},"output":{"kind":"xlsx"}}`)
	out, said := fill(t, raw, l, blank.Options{}, row("sku", "A"), row("sku", "B"), row("sku", "C"), row("sku", "D"))
	assert.Empty(t, said)
	all := parts(t, out)
	text := string(all[sheet1])
	assert.Contains(t, text, `<row r="2" spans="1:3" ht="20"><c r="A2" t="inlineStr"><is><t>A</t></is></c><c r="C2" s="3"><f>A2&amp;"x"</f><v>1</v></c></row>`)
	assert.Contains(t, text, `<row r="3" s="2" customFormat="1"><c r="A3" t="inlineStr">`)
	assert.Contains(t, text, `<row r="4"><c r="A4" t="inlineStr"><is><t>C</t></is></c><c r="B4" t="inlineStr"><is><t>kept</t></is></c><c r="C4"><f>1+1</f></c></row>`,
		"cells that said where they are by their place alone say it now")
	assert.Contains(t, text, `<row r="5"><c r="A5"`)
	assert.Contains(t, string(all["xl/workbook.xml"]), `<calcPr calcId="0" fullCalcOnLoad="1"/></workbook>`)
}

func TestRowsBeginBelowWhatIsThere(t *testing.T) {
	for name, c := range map[string]struct {
		rows string
		want string
	}{
		"nothing there":                {"", "A2"},
		"an example":                   {`<row r="2"><c r="A2" t="inlineStr"><is><t>X</t></is></c></row>`, "A3"},
		"a gap above an example":       {`<row r="5"><c r="B5" t="inlineStr"><is><t>X</t></is></c></row>`, "A6"},
		"a formula counts for nothing": {`<row r="5"><c r="A5" t="str"><f>B5</f><v>x</v></c></row>`, "A2"},
		"nor does another column":      {`<row r="5"><c r="D5" t="inlineStr"><is><t>X</t></is></c></row>`, "A2"},
		"nor do blanks":                {`<row r="5"><c r="A5" t="inlineStr"><is><t> </t></is></c></row>`, "A2"},
	} {
		raw := made(t, map[string]string{sheet1: sheetOf(header("SKU", "Title")+c.rows, "")})
		out, _ := fill(t, raw, layoutOf(t, skuTitle), blank.Options{}, row("sku", "new", "title", "T"))
		f, err := excelize.OpenReader(bytes.NewReader(out))
		require.NoError(t, err)
		v, err := f.GetCellValue("Cups", c.want)
		require.NoError(t, err)
		assert.Equal(t, "new", v, name)
	}
}

// A formula that is written over is taken out of the order of calculation; the
// last one takes the order with it.
func TestAFormulaThatIsWrittenOver(t *testing.T) {
	chain := `<calcChain xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><c r="A2" i="1"/><c r="B9"/></calcChain>`
	rels := `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml" Id="rId1"/><Relationship Id="rId9" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/calcChain" Target="calcChain.xml"/></Relationships>`
	change := map[string]string{
		sheet1:                       sheetOf(header("SKU", "Title")+`<row r="2"><c r="A2"><f>1</f></c></row>`, ""),
		"xl/calcChain.xml":           chain,
		"xl/_rels/workbook.xml.rels": rels,
	}
	l := layoutOf(t, skuTitle)
	out, _ := fill(t, made(t, change), l, blank.Options{}, row("sku", "A"))
	assert.Equal(t, `<calcChain xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><c r="B9" i="1"/></calcChain>`, string(parts(t, out)["xl/calcChain.xml"]))

	change["xl/calcChain.xml"] = strings.Replace(chain, `<c r="B9"/>`, "", 1)
	out, _ = fill(t, made(t, change), l, blank.Options{}, row("sku", "A"))
	assert.NotContains(t, parts(t, out), "xl/calcChain.xml")
	assert.NotContains(t, string(parts(t, out)["xl/_rels/workbook.xml.rels"]), "calcChain")

	change[sheet1] = sheetOf(header("SKU", "Title")+`<row r="2"><c r="A2"><f t="shared" ref="A2:A9" si="0">B2</f></c></row>`, "")
	b, err := blank.Read(made(t, change))
	require.NoError(t, err)
	_, err = b.Fill(l, blank.List{row("sku", "A")}, io.Discard, blank.Options{})
	assert.ErrorContains(t, err, "A2 has a formula that other cells share")
}

func TestDropDownsOfEveryKind(t *testing.T) {
	for formula, want := range map[string][]string{
		`"Red, Blue ,,"`:   {"Red", "Blue"},
		`$E$2:$E$4`:        {"Moss", "7"},
		`Cups!$E:$E`:       {"Moss", "7"},
		`'Cups'!$E$2:$F$2`: {"Moss", "Sand"},
		`Colours`:          {"Sand"},
		`Again`:            {"Sand"},
		`INDIRECT("E2")`:   nil,
		`Nowhere`:          nil,
		`[1]Other!$A$1`:    nil,
		`OFFSET(E2,0,0,2)`: nil,
	} {
		raw := made(t, map[string]string{
			sheet1: sheetOf(header("SKU", "Colour")+`<row r="2"><c r="E2" t="inlineStr"><is><t>Moss</t></is></c><c r="F2" t="inlineStr"><is><t>Sand</t></is></c></row><row r="4"><c r="E4"><v>7</v></c></row>`,
				`<dataValidations count="1"><dataValidation type="list" sqref="B2:B9"><formula1>`+strings.NewReplacer("&", "&amp;", "<", "&lt;").Replace(formula)+`</formula1></dataValidation></dataValidations>`),
			"xl/workbook.xml": `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Cups" sheetId="1" r:id="rId1"/></sheets>` +
				`<definedNames><definedName name="colours">Cups!$E$2</definedName><definedName name="Colours" localSheetId="0">Cups!$F$2</definedName><definedName name="Again">Colours</definedName></definedNames></workbook>`,
		})
		b, err := blank.Read(raw)
		require.NoError(t, err)
		list, err := b.Sheets()
		require.NoError(t, err)
		assert.Equal(t, want, list[0].Columns[1].Values, formula)
	}
}

func TestAValueIsWrittenAsTheListWritesIt(t *testing.T) {
	raw := made(t, map[string]string{sheet1: sheetOf(header("SKU", "Colour"),
		`<dataValidations count="1"><dataValidation type="list" sqref="B2:B9"><formula1>"Écru,écru,Blue"</formula1></dataValidation></dataValidations>`)})
	l := layoutOf(t, `{"columns":{"SKU":{"from":"sku"},"Colour":{"from":"colour","map":{"Sea":"BLUE"}}},"output":{"kind":"csv","header":"none"}}`)
	out, said := fill(t, raw, l, blank.Options{}, row("sku", "1", "colour", "écru"), row("sku", "2", "colour", " ECRU "), row("sku", "3", "colour", "sea"))
	assert.Empty(t, said)
	assert.Equal(t, "1,écru\r\n2,Écru\r\n3,Blue\r\n", string(out))
	out, said = fill(t, raw, l, blank.Options{Anyway: true}, row("sku", "1", "colour", "Red"))
	assert.Equal(t, []blank.Problem{{Row: 1, Column: "Colour", Code: blank.NotOneOf, Value: "Red"}}, said)
	assert.Equal(t, "1,Red\r\n", string(out))
}

// Where what isn't allowed is written anyway, it is written as it is: a number as a number,
// a day as a day; each cell is said once.
func TestWhatIsWrittenAnywayStaysWhatItIs(t *testing.T) {
	raw := made(t, map[string]string{sheet1: sheetOf(header("SKU", "Title"),
		`<dataValidations count="1"><dataValidation type="list" sqref="A2:B9"><formula1>"1,2"</formula1></dataValidation></dataValidations>`)})
	l := layoutOf(t, `{"columns":{"SKU":{"from":"sku","as":"number"},"Title":{"from":"day","as":"date"}},"output":{"kind":"xlsx"}}`)
	out, said := fill(t, raw, l, blank.Options{Anyway: true}, row("sku", "7.50", "day", "2026-03-03"), row("sku", "seven", "day", "Tuesday"))
	assert.Len(t, said, 4)
	for _, p := range said {
		assert.Equal(t, blank.NotOneOf, p.Code)
	}
	text := string(parts(t, out)[sheet1])
	assert.Contains(t, text, `<c r="A2"><v>7.50</v></c>`)
	assert.Contains(t, text, `<v>46084</v>`)
	assert.NotContains(t, text, `<v>seven</v>`)
}

func TestMarksOfWhatIsNeeded(t *testing.T) {
	yes, no := true, false
	for name, c := range map[string]struct {
		text string
		want []*bool
	}{
		"none":                            {"SKU,Title\n", []*bool{nil, nil}},
		"stars":                           {"SKU*,*Title,Colour\n", []*bool{&yes, &yes, &no}},
		"words in brackets":               {"SKU (required),Title [optional],Colour\n", []*bool{&yes, &no, &no}},
		"a row above":                     {"Required,not required\nSKU,Title\n", []*bool{&yes, &no}},
		"a row below":                     {"SKU,Title,Colour\nmandatory field,,Optional\nX,Y,Z\n", []*bool{&yes, &no, &no}},
		"a sentence above":                {"All fields marked with a star are required\nSKU,Title\n", []*bool{nil, nil}},
		"other words":                     {"SKU,Title\nPflichtfeld,optionnel\n", []*bool{&yes, &no}},
		"a name that has such a word":     {"SKU,Assembly required\n", []*bool{nil, nil}},
		"an example that has such a word": {"SKU,Title\nX,Optional lid\n", []*bool{nil, nil}},
	} {
		b, err := blank.Read([]byte(c.text))
		require.NoError(t, err)
		list, err := b.Sheets()
		require.NoError(t, err)
		require.Len(t, list, 1, name)
		for i, want := range c.want {
			assert.Equal(t, want, list[0].Columns[i].Needed, "%s: %s", name, list[0].Columns[i].Header)
		}
	}
	b, err := blank.Read([]byte("SKU,Title,Colour\nmandatory field,,Optional\nX,Y,Z\n"))
	require.NoError(t, err)
	list, err := b.Sheets()
	require.NoError(t, err)
	assert.Equal(t, [2]int{1, 3}, [2]int{list[0].HeaderRow, list[0].FirstRow})
	assert.Equal(t, "X", list[0].Columns[0].Example)
}

func TestANeededColumnIsMissing(t *testing.T) {
	l := layoutOf(t, `{"columns":{"sku *":{"from":"sku"}}}`)
	raw := []byte("SKU*,Title*\n")
	out, said := fill(t, raw, l, blank.Options{Anyway: true}, row("sku", "A"), row("sku", " "))
	assert.ElementsMatch(t, []blank.Problem{{Row: 1, Column: "Title*", Code: blank.Missing}, {Row: 2, Column: "sku *", Code: blank.Missing}, {Row: 2, Column: "Title*", Code: blank.Missing}}, said)
	assert.Equal(t, "SKU*,Title*\r\nA,\r\n,\r\n", string(out))
}

func TestNumbersAndDays(t *testing.T) {
	l := layoutOf(t, `{"columns":{"SKU":{"from":"sku","as":"number"},"Title":{"from":"day","as":"date"}},"output":{"kind":"xlsx"}}`)
	early := map[string]string{
		sheet1:            sheetOf(header("SKU", "Title"), ""),
		"xl/workbook.xml": `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><workbookPr date1904="1"/><sheets><sheet name="Cups" sheetId="1" r:id="rId1"/></sheets></workbook>`,
	}
	out, said := fill(t, made(t, early), l, blank.Options{}, row("sku", "-0.50", "day", "1904-01-02"))
	assert.Empty(t, said)
	assert.Contains(t, string(parts(t, out)[sheet1]), `<c r="A2"><v>-0.50</v></c><c r="B2" s="6"><v>1</v></c>`, "days get a format where the column has none")
	delete(early, "xl/workbook.xml")
	out, _ = fill(t, made(t, early), l, blank.Options{}, row("sku", "1e3", "day", "1900-03-01"), row("sku", "007", "day", "1900-02-28"))
	text := string(parts(t, out)[sheet1])
	assert.Contains(t, text, `<v>61</v>`)
	assert.Contains(t, text, `<v>59</v>`)
	_, said = fill(t, made(t, early), l, blank.Options{}, row("sku", "1,5", "day", "2026-02-30"), row("sku", "1e999", "day", "1899-12-31"))
	assert.Len(t, said, 4)
	for _, p := range said {
		assert.Equal(t, blank.CannotWritten, p.Code)
	}
}

func TestColumnsOfOneName(t *testing.T) {
	l := layoutOf(t, `{"columns":{"picture":{"from":"p.1"},"PIC TURE":{"from":"p.2"},"Picture":{"from":"p.3"}}}`)
	_, said := fill(t, []byte("SKU,Picture,Picture\n"), l, blank.Options{}, blank.Row{"p": []any{"a", "b", "c"}})
	assert.Equal(t, []blank.Problem{{Column: "Picture", Code: blank.NoSuchColumn}}, said)
	out, _ := fill(t, []byte("SKU,Picture,Picture\n"), l, blank.Options{Anyway: true}, blank.Row{"p": []any{"a", "b", "c"}})
	assert.Equal(t, "SKU,Picture,Picture\r\n,a,b\r\n", string(out))
}

func TestTextsInOtherEncodings(t *testing.T) {
	l := layoutOf(t, `{"columns":{"SKU":{"from":"sku"},"Title":{"from":"n"},"List":{"from":"list","join":"|"}},"output":{"kind":"tsv","encoding":"utf-16","line_end":"lf","header":"last"}}`)
	raw := []byte("\ufeffabout this,,\nSKU,Title,List\n")
	out, _ := fill(t, raw, l, blank.Options{}, blank.Row{"sku": "Ł", "n": json.Number("1.10"), "list": []any{"a", "b\tc"}})
	assert.Equal(t, "\xff\xfe", string(out[:2]))
	text, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(out)
	require.NoError(t, err)
	assert.Equal(t, "SKU\tTitle\tList\nŁ\t1.10\t\"a|b\tc\"\n", string(text))

	l.Output = blank.Output{Encoding: "utf-8-bom", Header: "none"}
	out, _ = fill(t, raw, l, blank.Options{Human: true}, blank.Row{"sku": "=1+1"})
	assert.Equal(t, "\ufeff'=1+1,,\r\n", string(out), "what a person opens calculates nothing")
}

func TestATextBecomesAWorkbook(t *testing.T) {
	out, said := fill(t, []byte("SKU;Title\n"), layoutOf(t, skuTitle), blank.Options{}, row("sku", "00123", "title", "ä"))
	assert.Empty(t, said)
	f, err := excelize.OpenReader(bytes.NewReader(out))
	require.NoError(t, err)
	v, err := f.GetCellValue("Listings", "A2")
	require.NoError(t, err)
	assert.Equal(t, "00123", v)
}

func TestBlanksAndLayoutsThatCantBe(t *testing.T) {
	for words, raw := range map[string]string{
		"is empty":          "",
		"of the old kind":   "\xd0\xcf\x11\xe0 old",
		"can't be unpacked": "PK\x03\x04 no zip",
		"XLSX, XLSM":        "",
	} {
		text := []byte(raw)
		if words == "XLSX, XLSM" {
			var b bytes.Buffer
			z := zip.NewWriter(&b)
			_, err := z.Create("photo.jpg")
			require.NoError(t, err)
			require.NoError(t, z.Close())
			text = b.Bytes()
		}
		_, err := blank.Read(text)
		assert.ErrorContains(t, err, words)
		assert.Equal(t, fault.Invalid, fault.KindOf(err))
	}
	for words, text := range map[string]string{
		`unknown field "colums"`:  `{"colums":{}}`,
		"none of number, date":    `{"columns":{"A":{"from":"a","as":"money"}}}`,
		"not with both":           `{"columns":{"A":{"from":"a","value":"b"}}}`,
		"isn't below header_row":  `{"header_row":3,"first_row":3,"columns":{}}`,
		"none of utf-8":           `{"columns":{},"output":{"encoding":"latin"}}`,
		"one character":           `{"columns":{},"output":{"delimiter":"ab"}}`,
		"an object is needed":     `{"columns":[]}`,
		"value: a text is needed": `{"columns":{"A":{"value":{}}}}`,
	} {
		_, err := blank.ReadLayout([]byte(text))
		assert.ErrorContains(t, err, words)
	}
	b, err := blank.Open(casePath("2-mats.xlsx"))
	require.NoError(t, err)
	_, err = b.Fill(layoutOf(t, `{"sheet":"Rugs","columns":{}}`), blank.List{}, io.Discard, blank.Options{})
	assert.ErrorContains(t, err, `no sheet "Rugs"; it has Guide, Mats, l`)
}

func TestRowsAreReadStrictly(t *testing.T) {
	path := filepath.Join(t.TempDir(), "rows.jsonl")
	write := func(text string) *blank.File {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		f, err := blank.OpenRows(path)
		require.NoError(t, err)
		return f
	}
	f := write("\n{\"sku\":\"A\\ud83d\\ude00\"}\n\n{\"sku\":\"\\ud800x\",\"n\":1.50}\n")
	assert.Equal(t, 2, f.Len())
	var got []string
	require.NoError(t, f.Each(func(n int, r blank.Row) error {
		got = append(got, fmt.Sprint(n, " ", r["sku"]))
		return nil
	}))
	assert.Equal(t, []string{"2 A😀", "4 \uffffx"}, got, "half a pair is kept as what no cell holds")
	for _, bad := range []string{"[1]", "{\"a\":1} 2", "null", "{"} {
		assert.ErrorContains(t, write(bad+"\n").Each(func(int, blank.Row) error { return nil }), "line 1 of the rows", bad)
	}
}

// Whatever a text is, it comes back from the workbook as it was put in, by
// another program's reader.
func TestTextsComeBackAsTheyWere(t *testing.T) {
	raw := made(t, map[string]string{sheet1: sheetOf(header("SKU", "Title"), "")})
	rapid.Check(t, func(rt *rapid.T) {
		text := rapid.StringOfN(rapid.OneOf(rapid.Rune(), rapid.SampledFrom([]rune("_x0041_&<>\"'\r\n\t =+-@"))), 1, 40, -1).Draw(rt, "text")
		if strings.TrimSpace(text) == "" && !strings.Contains(text, "\r") { // a return is a text
			return
		}
		out, said := fill(rt, raw, layoutOf(rt, skuTitle), blank.Options{}, row("sku", text))
		if strings.ContainsFunc(text, func(r rune) bool { return r < 0x20 && !strings.ContainsRune("\t\n\r", r) || r == 0xfffe || r == 0xffff }) {
			require.Len(rt, said, 1)
			return
		}
		require.Empty(rt, said)
		b, err := blank.Read(out)
		require.NoError(rt, err)
		list, err := b.Sheets()
		require.NoError(rt, err)
		if strings.TrimSpace(strings.Trim(text, "*")) != "" && strings.Trim(text, "* \t\r\n") != "" { // by itself it marks a column that is needed
			require.Equal(rt, text, list[0].Columns[0].Example)
		}
		f, err := excelize.OpenReader(bytes.NewReader(out))
		require.NoError(rt, err)
		v, err := f.GetCellValue("Cups", "A2")
		require.NoError(rt, err)
		require.Equal(rt, text, v)
	})
}

// BenchmarkFill fills 5 000 rows of 60 columns, and beside it has the streaming
// writer of a library write the same texts into a workbook of its own.
func BenchmarkFill(b *testing.B) {
	names := make([]string, 0, 60)
	columns := make([]string, 0, 60)
	one := blank.Row{}
	for i := range 60 {
		name := fmt.Sprintf("Column %d", i)
		names = append(names, name)
		columns = append(columns, fmt.Sprintf("%q:{\"from\":%q}", name, name))
		one[name] = "Tarnwick camp mug, moss"
	}
	l := layoutOf(b, `{"columns":{`+strings.Join(columns, ",")+`},"output":{"kind":"xlsx"}}`)
	rows := make(blank.List, 5000)
	for i := range rows {
		rows[i] = one
	}
	raw := []byte(strings.Join(names, ",") + "\n")
	b.Run("ours", func(b *testing.B) {
		for b.Loop() {
			x, err := blank.Read(raw)
			require.NoError(b, err)
			_, err = x.Fill(l, rows, io.Discard, blank.Options{})
			require.NoError(b, err)
		}
	})
	b.Run("library", func(b *testing.B) {
		for b.Loop() {
			f := excelize.NewFile()
			w, err := f.NewStreamWriter("Sheet1")
			require.NoError(b, err)
			cells := make([]any, 60)
			for i := range cells {
				cells[i] = one[names[i]]
			}
			for i := range rows {
				require.NoError(b, w.SetRow(fmt.Sprintf("A%d", i+2), cells))
			}
			require.NoError(b, w.Flush())
			require.NoError(b, f.Write(io.Discard))
			require.NoError(b, f.Close())
		}
	})
}

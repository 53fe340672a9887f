package feed_test

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"io"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/feed"
)

// swollen is a text of 32 MiB that packs to some KiB: a part
// again and again between two others.
type swollen struct{ before, again, after string }

const swollenTo = 32 << 20

func (s swollen) write(t *testing.T, w io.Writer) {
	part := []byte(strings.Repeat(s.again, 1<<16/len(s.again)))
	_, err := io.WriteString(w, s.before)
	for n := 0; err == nil && n < swollenTo; n += len(part) {
		_, err = w.Write(part)
	}
	require.NoError(t, err)
	_, err = io.WriteString(w, s.after)
	require.NoError(t, err)
}

func (s swollen) gzip(t *testing.T) []byte {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	s.write(t, z)
	require.NoError(t, z.Close())
	return b.Bytes()
}

// sheet is a workbook of which one part is swollen.
func (s swollen) sheet(t *testing.T, part string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"xl/workbook.xml":            `<workbook xmlns:r="r"><sheets><sheet name="a" r:id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="s" Target="worksheets/a.xml"/><Relationship Id="t" Type="x/sharedStrings" Target="texts.xml"/></Relationships>`,
		"xl/worksheets/a.xml":        `<worksheet><sheetData><row><c t="inlineStr"><is><t>ref</t></is></c><c t="inlineStr"><is><t>title</t></is></c></row></sheetData></worksheet>`,
		"xl/texts.xml":               `<sst/>`,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		if name == part {
			s.write(t, w)
			continue
		}
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// A small file that unpacks to one endless token is refused with the limit, and
// never held.
func TestOneEndlessTokenIsRefusedWithoutHoldingIt(t *testing.T) {
	row := `<row><ref>A</ref><title>Mug</title><cost>1</cost></row>`
	for name, text := range map[string][]byte{
		"a tag with many attributes": swollen{"<list><row ", `a="" `, "/>" + row + "</list>"}.gzip(t),
		"a name":                     swollen{"<list><", "r", "/>" + row + "</list>"}.gzip(t),
		"a comment":                  swollen{"<list><!--", "x ", "-->" + row + "</list>"}.gzip(t),
		"an instruction":             swollen{"<list><?x ", "x ", "?>" + row + "</list>"}.gzip(t),
		"a text":                     swollen{"<list>" + row + "<row><title>", "x ", "</title></row></list>"}.gzip(t),
		"a text outside of rows":     swollen{"<list>", "x ", row + row + "</list>"}.gzip(t),
		"a section of characters":    swollen{"<list><row><title><![CDATA[", "x ", "]]></title></row></list>"}.gzip(t),
		"a JSON text":                swollen{`[{"ref":"`, "x ", `","title":"Mug","cost":1}]`}.gzip(t),
		"a JSON key":                 swollen{`{"`, "x ", `":[{"ref":"A","title":"Mug","cost":1}]}`}.gzip(t),
		"a JSON number":              swollen{`[{"ref":"A","title":"Mug","cost":`, "1", `}]`}.gzip(t),
		"a JSON row":                 swollen{`[{"ref":"A","title":"Mug","cost":1,"x":[0`, ",0", `]}]`}.gzip(t),
		"a line of JSON":             swollen{`{"ref":"A","title":"Mug","cost":1}` + "\n" + `{"ref":"B","x":[0`, ",0", `]}`}.gzip(t),
		"a sheet's tag":              swollen{"<worksheet><sheetData><row ", `a="" `, "/></sheetData></worksheet>"}.sheet(t, "xl/worksheets/a.xml"),
		"a sheet's text":             swollen{"<sst><si><t>", "x ", "</t></si></sst>"}.sheet(t, "xl/texts.xml"),
		"a sheet's list of sheets":   swollen{"<workbook ", `a="" `, "/>"}.sheet(t, "xl/workbook.xml"),
	} {
		require.Less(t, len(text), 2<<20, name)
		path := file(t, text)
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		f, err := feed.Open(path, feed.Settings{Currency: "GBP"})
		if err == nil {
			err = f.Read(feed.Settings{Currency: "GBP"}, func(*feed.Row) error { return nil })
		}
		runtime.ReadMemStats(&after)
		require.Error(t, err, name)
		var e *feed.Error
		require.ErrorAs(t, err, &e, name)
		assert.Regexp(t, `more than (4 MiB|1024 KiB)`, err.Error(), name)
		assert.Less(t, (after.TotalAlloc-before.TotalAlloc)>>20, uint64(250), "%s: MiB taken up in all", name)
	}
}

// What is large but not one piece is read as ever.
func TestManySmallTokensAreNoEndlessOne(t *testing.T) {
	item := strings.Repeat("<row><ref>A</ref><title>Mug</title><cost>1</cost><more>"+strings.Repeat("word ", 200)+"</more></row>", 4_000)
	_, got := rows(t, "<list>"+item+"</list>", feed.Settings{Currency: "GBP"})
	assert.Len(t, got, 4_000)
	_, got = rows(
		t,
		"["+strings.TrimSuffix(
			strings.Repeat(`{"ref":"A","title":"Mug","cost":1,"more":"`+strings.Repeat("word ", 200)+`"},`, 4_000),
			",",
		)+"]",
		feed.Settings{Currency: "GBP"},
	)
	assert.Len(t, got, 4_000)
	_, got = rows(
		t,
		`{"ref":"A","title":"Mug","cost":1}`+"\n"+`{"ref":"B","title":"Pot","cost":1,"more":"`+strings.Repeat("é", 400_000)+`"}`+"\n",
		feed.Settings{Currency: "GBP"},
	)
	assert.Len(t, got, 2)
}

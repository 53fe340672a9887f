package blank_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"

	"easymargin/internal/blank"
)

// expected is a worked case: testdata/sheets, docs/definitions/listing.md section 3.
type expected struct {
	Blank    string               `json:"blank"`
	Sheet    string               `json:"sheet"`
	Kind     string               `json:"kind"`
	Exit     int                  `json:"exit"`
	Problems []blank.Problem      `json:"problems"`
	FirstRow int                  `json:"first_row"`
	Cells    map[string][2]string `json:"cells"`
	Records  [][]json.RawMessage  `json:"records"`
	Chars    [][3]json.RawMessage `json:"characters"`
	Decimal  string               `json:"decimal"`
}

func casePath(name string) string { return filepath.Join("testdata", "sheets", name) }

func readJSON(t *testing.T, name string, into any) {
	raw, err := os.ReadFile(casePath(name))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, into))
}

// filled fills a blank and gives what was written and what was said.
func filled(t *testing.T, path string, l *blank.Layout, rows blank.Rows, o blank.Options) ([]byte, []blank.Problem, blank.Result) {
	b, err := blank.Open(path)
	require.NoError(t, err)
	var out bytes.Buffer
	var said []blank.Problem
	o.Problem = func(p blank.Problem) { said = append(said, p) }
	res, err := b.Fill(l, rows, &out, o)
	require.NoError(t, err)
	return out.Bytes(), said, res
}

func TestWorkedSheets(t *testing.T) {
	for _, name := range []string{"1-cups", "2-mats", "3-cards", "4-herbs", "4-herbs-cannot"} {
		t.Run(name, func(t *testing.T) {
			var want expected
			readJSON(t, name+".expected.json", &want)
			raw, err := os.ReadFile(casePath(name + ".layout.json"))
			require.NoError(t, err)
			l, err := blank.ReadLayout(raw)
			require.NoError(t, err)
			rows, err := blank.OpenRows(casePath(name + ".rows.jsonl"))
			require.NoError(t, err)
			out, said, res := filled(t, casePath(want.Blank), l, rows, blank.Options{})
			assert.Equal(t, want.Exit == 0, res.Written)
			values := map[string]string{} // by row and column, where the case names one
			for _, p := range want.Problems {
				values[strconv.Itoa(p.Row)+p.Column] = p.Value
			}
			for i, p := range said {
				if values[strconv.Itoa(p.Row)+p.Column] == "" {
					said[i].Value = ""
				}
			}
			assert.ElementsMatch(t, want.Problems, said)
			if !res.Written {
				return
			}
			if want.Kind == "csv" {
				sameRecords(t, &want, out)
				return
			}
			sameCells(t, &want, out)
		})
	}
}

func sameRecords(t *testing.T, want *expected, out []byte) {
	text, err := charmap.Windows1252.NewDecoder().Bytes(out)
	require.NoError(t, err)
	assert.Contains(t, string(text), "\r\n")
	r := csv.NewReader(strings.NewReader(strings.ReplaceAll(string(text), "\r\n", "\n")))
	r.Comma = ';'
	got, err := r.ReadAll()
	require.NoError(t, err)
	require.Len(t, got, len(want.Records))
	for i, rec := range want.Records {
		for k, raw := range rec {
			var s string
			if json.Unmarshal(raw, &s) != nil {
				var n struct{ Number string }
				require.NoError(t, json.Unmarshal(raw, &n))
				s = strings.Replace(n.Number, ".", want.Decimal, 1)
			}
			assert.Equal(t, strings.ReplaceAll(s, "\r\n", "\n"), got[i][k])
		}
	}
}

// sameCells reads the workbook by another program's eyes, and sees that every
// other part is what it was, to the byte.
func sameCells(t *testing.T, want *expected, out []byte) {
	f, err := excelize.OpenReader(bytes.NewReader(out))
	require.NoError(t, err)
	defer f.Close()
	for ref, c := range want.Cells {
		got, err := f.GetCellValue(want.Sheet, ref, excelize.Options{RawCellValue: true})
		require.NoError(t, err)
		kind, err := f.GetCellType(want.Sheet, ref)
		require.NoError(t, err)
		switch c[0] {
		case "text":
			assert.Equal(t, excelize.CellTypeInlineString, kind, ref)
			assert.Equal(t, c[1], got, ref)
		case "date":
			d, err := time.Parse(time.DateOnly, c[1])
			require.NoError(t, err)
			assert.Equal(t, strconv.Itoa(int(d.Sub(time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)).Hours()/24)), got, ref)
		default:
			a, err := strconv.ParseFloat(c[1], 64)
			require.NoError(t, err)
			b, err := strconv.ParseFloat(got, 64)
			require.NoError(t, err)
			assert.InDelta(t, a, b, 1e-9, ref)
		}
		col := strings.TrimRight(ref, "0123456789")
		first, err := f.GetCellStyle(want.Sheet, col+strconv.Itoa(want.FirstRow))
		require.NoError(t, err)
		style, err := f.GetCellStyle(want.Sheet, ref)
		require.NoError(t, err)
		assert.Equal(t, first, style, "the format of %s", ref)
	}
	raw, err := os.ReadFile(casePath(want.Blank))
	require.NoError(t, err)
	before, after := parts(t, raw), parts(t, out)
	for name, text := range before {
		if strings.Contains(name, "worksheets/sheet") || name == "xl/workbook.xml" && strings.Contains(string(after[name]), `fullCalcOnLoad="1"`) {
			continue
		}
		assert.Equal(t, string(text), string(after[name]), name)
	}
	assert.Len(t, after, len(before))
}

func TestWhatIsRecognised(t *testing.T) {
	var cases []struct {
		Blank     string  `json:"blank"`
		Sheet     *string `json:"sheet"`
		HeaderRow []int   `json:"header_row"`
		FirstRow  []int   `json:"first_row"`
		Columns   []struct {
			Header  string   `json:"header"`
			Needed  []*bool  `json:"needed"`
			Values  []string `json:"values"`
			Guess   []string `json:"guess"`
			Example *string  `json:"example"`
		} `json:"columns"`
	}
	readJSON(t, "recognised.json", &cases)
	for _, c := range cases {
		b, err := blank.Open(casePath(c.Blank))
		require.NoError(t, err)
		list, err := b.Sheets()
		require.NoError(t, err)
		s, ok := blank.Template(list)
		require.True(t, ok)
		assert.Equal(t, c.Sheet, s.Name)
		assert.Contains(t, c.HeaderRow, s.HeaderRow)
		assert.Contains(t, c.FirstRow, s.FirstRow)
		require.Len(t, s.Columns, len(c.Columns))
		for i, want := range c.Columns {
			got := s.Columns[i]
			assert.Equal(t, want.Header, got.Header)
			assert.Equal(t, want.Values, got.Values)
			assert.True(t, slices.ContainsFunc(want.Needed, func(b *bool) bool {
				return b == nil && got.Needed == nil || b != nil && got.Needed != nil && *b == *got.Needed
			}), got.Header)
			if len(want.Guess) > 0 {
				require.NotNil(t, got.Guess, got.Header)
				assert.Contains(t, want.Guess, *got.Guess)
			}
			if want.Example != nil {
				assert.Equal(t, *want.Example, got.Example)
			}
		}
	}
}

package feed_test

import (
	"os"
	"path/filepath"
	"testing"

	"easymargin/internal/feed"
)

// FuzzFile gives every reader any bytes at all: it must answer with rows or an
// error, never fall over, and never go on for ever. Its seeds, which `go test`
// runs, are the worked files and a few of each kind.
func FuzzFile(f *testing.F) {
	seeds, err := filepath.Glob("testdata/feeds/*")
	if err != nil {
		f.Fatal(err)
	}
	for _, path := range seeds {
		text, err := os.ReadFile(path)
		if err != nil {
			f.Fatal(err)
		}
		if len(text) < 32<<10 {
			f.Add(text)
		}
	}
	for _, s := range []string{"ref,title,cost\nA,\"B\"\"C\"x,1\r\n\r\nD,E", `[{"sku":1,"name":{"a":[1,{"b":null}]}}]`, "{\"sku\":1}\n{", "<a><b sku='1' name='2'/><b/></a>",
		"<html><script type=application/ld+json>{\"@type\":\"Product\"}</script>", "ref;title;cost\nA;B;1.234,5;;;\n", "\xff\xfer\x00e\x00f\x00,\x00", "\xef\xbb\xbfref,title\n\xffA,B"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		if len(text) > 1<<20 {
			return
		}
		opened, err := feed.Open(file(t, text), feed.Settings{Now: now})
		if err != nil {
			return
		}
		last, n := 0, 0
		err = opened.Read(feed.Settings{Now: now, Loose: true}, func(r *feed.Row) error {
			if n++; r.Number <= last {
				t.Fatalf("row %d after row %d", r.Number, last)
			}
			last = r.Number
			if len(r.Problems) == 0 && r.Product.Ref == "" {
				t.Fatalf("row %d has no ref and no problem", r.Number)
			}
			if got := len(r.Cells()); got != len(opened.Look().Columns) {
				t.Fatalf("row %d has %d cells for %d columns", r.Number, got, len(opened.Look().Columns))
			}
			r.JSON()
			return nil
		})
		if err == nil && int64(n) != opened.Look().Rows {
			t.Fatalf("%d rows read, %d surveyed", n, opened.Look().Rows)
		}
	})
}

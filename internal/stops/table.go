package stops

import (
	"bytes"
	"strings"

	"easymargin/internal/blank"
	"easymargin/internal/fault"
)

// Table writes rows as a file for a person's spreadsheet, csv or xlsx, with a
// header; none of its cells is a formula.
func Table(kind string, columns blank.Columns, rows blank.List) ([]byte, error) {
	if kind != "csv" && kind != "xlsx" {
		return nil, fault.At("kind", "it comes as csv or xlsx")
	}
	var heads []string
	for _, c := range columns {
		heads = append(heads, c.Header)
	}
	b, err := blank.Read([]byte(strings.Join(heads, ",") + "\n"))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	layout := blank.Layout{HeaderRow: 1, FirstRow: 2, Columns: columns, Output: blank.Output{Kind: kind, Encoding: "utf-8-bom"}}
	_, err = b.Fill(&layout, rows, &out, blank.Options{Human: true, Anyway: true})
	return out.Bytes(), err
}

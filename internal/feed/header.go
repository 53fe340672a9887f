package feed

import (
	_ "embed"
	"encoding/json"
	"regexp"
	"strings"
	"unicode"
)

//go:embed header_words.json
var headerWords []byte

// fieldOf maps a column name, folded, to its field: design/supply.md, section 1, "Header".
var fieldOf = func() map[string]string {
	var words map[string][]string
	if err := json.Unmarshal(headerWords, &words); err != nil {
		panic(err) // the file is built in
	}
	m := map[string]string{}
	for field, names := range words {
		for _, n := range names {
			m[fold(n)] = field
		}
	}
	return m
}()

// Fields lists the fields that columns are read as in this version.
var Fields = []string{"ref", "identifier", "title", "cost", "currency", "stock", "brand", "category", "description", "mpn",
	"list_price", "units_per_item", "pictures", "link", "group", "colour", "size"}

var readable = func() map[string]bool {
	m := map[string]bool{}
	for _, f := range Fields {
		m[f] = true
	}
	return m
}()

func fold(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
}

var numberedPicture = regexp.MustCompile(`^(image|picture|photo)\d+$`)

// nameColumns reads a row as a header and says how many columns it knows. A
// field is given to the first column named so; a later one stays an attribute.
func nameColumns(cells []string) ([]Column, int) {
	taken, known := map[string]bool{}, 0
	out := make([]Column, len(cells))
	for i, c := range cells {
		out[i] = Column{Name: strings.TrimSpace(c), Samples: []string{}}
		name := fold(c)
		field := fieldOf[name]
		if numberedPicture.MatchString(name) {
			field = "pictures"
		}
		if field != "" {
			known++
		}
		if !readable[field] || taken[field] && field != "pictures" {
			continue
		}
		taken[field] = true
		out[i].Field = field
	}
	return out, known
}

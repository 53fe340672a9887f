package store

import (
	"strings"
	"unicode"
)

// product_search finds what we sell by any part of its title, SKU, number or
// suppliers' refs; its triggers keep it in step, so that nobody has to remember it.

// The ways to ask the index: for a set that products are found by, for one that
// products met on a walk are looked up in, and for products f one after another.
const (
	wordsFind   = "p.id IN (SELECT rowid FROM product_search WHERE words MATCH ?)"
	wordsTell   = "+" + wordsFind
	wordsStream = "f.words MATCH ?"
)

// productsWith is the condition, on products p, that words stand somewhere in
// what a product is found by, and its arguments. The index, asked as said, knows
// words of three letters and more; shorter ones are looked for row by row.
func productsWith(words []string, ask string) (where string, args []any) {
	var all, indexed []string
	for _, w := range words {
		if isIndexed(w) {
			indexed = append(indexed, quoted(w))
			continue
		}
		all = append(all, `(p.title LIKE ? ESCAPE '\' OR p.sku LIKE ? ESCAPE '\' OR p.gtin LIKE ? ESCAPE '\')`)
		args = append(args, like(w), like(w), like(w))
	}
	if len(indexed) > 0 {
		all = append(all, ask)
		args = append(args, strings.Join(indexed, " AND "))
	}
	return strings.Join(all, " AND "), args
}

// unquotable is what ends or breaks a text in a question to FTS5.
var unquotable = strings.NewReplacer(`"`, `""`, "\x00", " ")

// quoted is a word as a text in a question to FTS5 (its documentation, section 3.1):
// nothing of it is read as anything but the word.
func quoted(word string) string { return `"` + unquotable.Replace(word) + `"` }

func isIndexed(word string) bool {
	return len([]rune(word)) >= 3 && strings.IndexFunc(word, unicode.IsControl) < 0
}

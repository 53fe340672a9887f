package store

import (
	"strings"
	"unicode"

	"gorm.io/gorm"
)

// product_search finds what we sell by any part of its title, SKU, number or
// suppliers' refs: an index of every three letters that stand together. Its
// triggers keep it in step, so that nobody has to remember it.
const (
	productWords = `coalesce(p.title, '') || char(10) || p.sku || char(10) || coalesce(p.gtin, '') || char(10) || coalesce((SELECT group_concat(sp.ref, char(10))
		FROM supply_links k JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE k.product_id = p.id), '')`
	putProductWords = `INSERT INTO product_search(rowid, words) SELECT p.id, ` + productWords + ` FROM products p`
)

func createProductSearch(tx *gorm.DB) error {
	again := func(id string) string {
		return "DELETE FROM product_search WHERE rowid = " + id + "; " + putProductWords + " WHERE p.id = " + id + ";"
	}
	for _, q := range []string{
		`CREATE VIRTUAL TABLE product_search USING fts5(words, content='', contentless_delete=1, tokenize='trigram')`,
		putProductWords,
		"CREATE TRIGGER product_made AFTER INSERT ON products BEGIN " + putProductWords + " WHERE p.id = new.id; END",
		"CREATE TRIGGER product_renamed AFTER UPDATE OF title, sku, gtin ON products BEGIN " + again("new.id") + " END",
		"CREATE TRIGGER product_dropped AFTER DELETE ON products BEGIN DELETE FROM product_search WHERE rowid = old.id; END",
		"CREATE TRIGGER product_supplied AFTER INSERT ON supply_links BEGIN " + again("new.product_id") + " END",
	} {
		if err := tx.Exec(q).Error; err != nil {
			return err
		}
	}
	return nil
}

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
			indexed = append(indexed, `"`+strings.ReplaceAll(w, `"`, `""`)+`"`)
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

func isIndexed(word string) bool {
	return len([]rune(word)) >= 3 && strings.IndexFunc(word, unicode.IsControl) < 0
}

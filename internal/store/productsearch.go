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

// productsWith is the condition, on products p, that a word stands somewhere in
// what a product is found by, and its argument. The index knows words of three
// letters and more; shorter ones are looked for row by row.
func productsWith(word string) (string, []any) {
	if len([]rune(word)) >= 3 && strings.IndexFunc(word, unicode.IsControl) < 0 {
		return "p.id IN (SELECT rowid FROM product_search WHERE words MATCH ?)", []any{`"` + strings.ReplaceAll(word, `"`, `""`) + `"`}
	}
	return `(p.title LIKE ? ESCAPE '\' OR p.sku LIKE ? ESCAPE '\' OR p.gtin LIKE ? ESCAPE '\')`, []any{like(word), like(word), like(word)}
}

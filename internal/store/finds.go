package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"gorm.io/gorm"

	"easymargin/core/ident"
	"easymargin/core/supply"
)

const indexRows = 20_000

// IndexSearch brings the search index up to date, part by part, each in a
// transaction with the mark that says how far it has got: killed at any
// moment, it goes on from there. at is told after each part.
func (s *Store) IndexSearch(ctx context.Context, at func(done int64)) error {
	done := int64(0)
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		n, err := s.indexPart(ctx)
		if err != nil {
			return fmt.Errorf("indexing for the search: %w", err)
		}
		if n == 0 {
			return nil
		}
		done += n
		at(done)
	}
}

func (s *Store) indexPart(ctx context.Context) (int64, error) {
	const words = "sp.title || ' ' || sp.brand || ' ' || sp.category"
	n := int64(0)
	err := s.Do(ctx, func(tx Tx) error {
		mark := SearchMark{ID: 1}
		if err := tx.db.Where("id = 1").Limit(1).Find(&mark).Error; err != nil {
			return err
		}
		var top struct{ ID int64 }
		if err := tx.db.Raw(`SELECT coalesce(max(id), 0) AS id FROM (SELECT id FROM supplier_products WHERE id > ?
			ORDER BY id LIMIT ?)`, mark.ProductID, indexRows).Scan(&top).Error; err != nil {
			return err
		}
		if top.ID > 0 {
			res := tx.db.Exec(
				`INSERT INTO supplier_search (rowid, words) SELECT sp.id, `+words+` FROM supplier_products sp WHERE sp.id > ? AND sp.id <= ?`,
				mark.ProductID,
				top.ID,
			)
			if res.Error != nil {
				return res.Error
			}
			n, mark.ProductID = res.RowsAffected, top.ID
			mark.ID = 1
			return tx.db.Save(&mark).Error
		}
		if err := tx.db.Raw(`SELECT coalesce(max(id), 0) AS id FROM (SELECT id FROM supplier_changes WHERE id > ? ORDER BY id LIMIT ?)`,
			mark.ChangeID, 10*indexRows).Scan(&top).Error; err != nil || top.ID == 0 {
			return err
		}
		const changed = `(SELECT DISTINCT supplier_product_id FROM supplier_changes WHERE id > ? AND id <= ?
			AND field IN ('title', 'brand', 'category'))`
		if err := tx.db.Exec(`DELETE FROM supplier_search WHERE rowid IN `+changed, mark.ChangeID, top.ID).Error; err != nil {
			return err
		}
		if err := tx.db.Exec(
			`INSERT INTO supplier_search (rowid, words) SELECT sp.id, `+words+` FROM supplier_products sp WHERE sp.id IN `+changed,
			mark.ChangeID,
			top.ID,
		).Error; err != nil {
			return err
		}
		n, mark.ChangeID, mark.ID = 1, top.ID, 1
		return tx.db.Save(&mark).Error
	})
	return n, err
}

// FoundRow is a supplier product that a search found, and what it is to us.
type FoundRow struct {
	ID         int64
	SourceID   int64
	Supplier   string
	Ref        string
	GTIN       string
	Title      string
	Brand      string
	Category   string
	Cost       int64
	Currency   string
	Stock      int64
	StockState string
	Gone       bool
	Units      int64
	ProductID  *int64 // ours, where it is one
	SKU        string
	Sites      string // where it is listed and in what state, as "live on Quaymarket GB, …"
	Profit     *int64 // left of a sale on the first of those sites
	ProfitCur  string
	Note       string
	KeptAt     *time.Time
	Picture    string `gorm:"-"`
}

// shown gives found rows their pictures.
func (s *Store) shown(ctx context.Context, rows []FoundRow) error {
	return pictured(ctx, rows, func(r *FoundRow) int64 { return r.ID }, func(r *FoundRow) *string { return &r.Picture }, s.itemPictures)
}

const foundColumns = `sp.id, sp.source_id, u.name AS supplier, sp.ref, sp.gtin, sp.title, sp.brand, sp.category, sp.cost, sp.currency, sp.stock, sp.stock_state, sp.gone, sp.units_per_item AS units,
	p.id AS product_id, coalesce(p.sku, '') AS sku, coalesce((SELECT group_concat(l.state || ' on ' || s.name, ', ') FROM listings l
		JOIN sites s ON s.id = l.site_id WHERE l.product_id = p.id), '') AS sites,
	(SELECT l.profit FROM listings l WHERE l.product_id = p.id ORDER BY l.id LIMIT 1) AS profit, coalesce((SELECT l.currency
		FROM listings l WHERE l.product_id = p.id ORDER BY l.id LIMIT 1), '') AS profit_cur,
	coalesce(f.note, '') AS note, f.kept_at`

const foundTables = ` JOIN sources so ON so.id = sp.source_id JOIN suppliers u ON u.id = so.supplier_id
	LEFT JOIN supply_links k ON k.supplier_product_id = sp.id
	LEFT JOIN products p ON p.id = k.product_id LEFT JOIN finds f ON f.supplier_product_id = sp.id`

// Search finds supplier products by words, by the beginning of a ref, or by a
// product number in any form it is written: at most limit, the same product at
// several suppliers side by side.
func (s *Store) Search(ctx context.Context, words string, limit int) ([]FoundRow, error) {
	words = strings.TrimSpace(words)
	ids, err := s.searchIDs(s.read.WithContext(ctx), words, limit)
	if err != nil || len(ids) == 0 {
		return []FoundRow{}, err
	}
	out := []FoundRow{}
	err = s.read.WithContext(ctx).Raw(`SELECT `+foundColumns+` FROM supplier_products sp`+foundTables+`
		WHERE sp.id`+inList+` OR sp.gtin <> '' AND sp.gtin IN (SELECT gtin FROM supplier_products WHERE id`+inList+` AND gtin <> '')
		ORDER BY CASE sp.gtin WHEN '' THEN sp.title ELSE coalesce((SELECT min(title) FROM supplier_products o
			WHERE o.gtin = sp.gtin), '') END, sp.gtin, sp.cost, sp.id LIMIT ?`, listOf(ids), listOf(ids), limit).Scan(&out).Error
	if err != nil {
		return out, err
	}
	return out, s.shown(ctx, out)
}

func (s *Store) searchIDs(db *gorm.DB, words string, limit int) ([]int64, error) {
	var ids []int64
	if words == "" {
		return nil, nil
	}
	if n := ident.Read(words); n.Found() {
		err := db.Raw(`SELECT id FROM supplier_products WHERE gtin = ? OR gtin = ? LIMIT ?`, n.GTIN, orNone(n.Inside), limit).
			Scan(&ids).Error
		if err != nil || len(ids) > 0 {
			return ids, err
		}
	}
	if !strings.ContainsFunc(words, unicode.IsSpace) {
		for _, ref := range []string{words, strings.ToUpper(words)} {
			err := db.Raw(`SELECT id FROM supplier_products WHERE source_id IN (SELECT id FROM sources) AND ref >= ? AND ref < ? LIMIT ?`,
				ref, ref+"\U0010ffff", limit).Scan(&ids).Error
			if err != nil || len(ids) > 0 {
				return ids, err
			}
		}
	}
	terms := strings.FieldsFunc(words, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) })
	if len(terms) == 0 {
		return nil, nil
	}
	if n := len(terms) - 1; n > 0 && utf8.RuneCountInString(terms[n]) < 2 {
		terms = terms[:n] // hardly begun: it would match nearly everything
	}
	terms = terms[:min(len(terms), 12)]
	for _, whole := range []bool{true, false} { // the last word may be half typed; the others too, where nothing is found
		q := make([]string, len(terms))
		for i, t := range terms {
			if q[i] = quoted(t); !whole || i == len(terms)-1 {
				q[i] += "*"
			}
		}
		err := db.Raw(`SELECT rowid FROM supplier_search WHERE supplier_search MATCH ? LIMIT ?`, strings.Join(q, " AND "), limit).
			Scan(&ids).Error
		if err != nil || len(ids) > 0 {
			return ids, err
		}
	}
	return ids, nil
}

func orNone(s string) string {
	if s == "" {
		return "-"
	}
	return s
}

// FoundByID is one supplier product as a search shows it.
func (s *Store) FoundByID(ctx context.Context, id int64) (FoundRow, error) {
	return one[FoundRow](
		s.read.WithContext(ctx).Raw(`SELECT `+foundColumns+` FROM supplier_products sp`+foundTables+` WHERE sp.id = ? LIMIT 1`, id),
		func(r FoundRow) int64 { return r.ID },
	)
}

// Kept lists the supplier products that were kept, newest first.
func (s *Store) Kept(ctx context.Context) ([]FoundRow, error) {
	out := []FoundRow{}
	err := s.read.WithContext(ctx).
		Raw(`SELECT ` + foundColumns + ` FROM finds ff JOIN supplier_products sp ON sp.id = ff.supplier_product_id` + foundTables + `
			ORDER BY ff.kept_at DESC, sp.id LIMIT 500`).Scan(&out).Error
	if err != nil {
		return out, err
	}
	return out, s.shown(ctx, out)
}

// Keep keeps a supplier product with a note.
func (tx Tx) Keep(id int64, note string, now time.Time) error {
	if _, err := GetTx[SupplierProduct](tx, id); err != nil {
		return err
	}
	return tx.Save(&Find{id, note, now})
}

// Forget lets a kept supplier product go.
func (tx Tx) Forget(id int64) error {
	return tx.db.Where("supplier_product_id = ?", id).Delete(&Find{}).Error
}

// HistoryPoint is one change of a supplier product's cost, stock or being listed.
type HistoryPoint struct {
	At     time.Time
	FeedID int64
	Field  string
	Before string
	After  string
}

// History lists what changed of a supplier product, oldest first, and when it was first seen.
func (s *Store) History(ctx context.Context, id int64) (first time.Time, points []HistoryPoint, err error) {
	points = []HistoryPoint{}
	db := s.read.WithContext(ctx)
	var f Feed
	err = errors.Join(
		db.Raw(`SELECT f.* FROM feeds f JOIN supplier_products sp ON sp.first_feed_id = f.id WHERE sp.id = ?`, id).Scan(&f).Error,
		db.Raw(`SELECT f.taken_at AS at, c.feed_id, c.field, c.before, c.after FROM supplier_changes c JOIN feeds f ON f.id = c.feed_id
			WHERE c.supplier_product_id = ? ORDER BY c.id`, id).Scan(&points).Error)
	if f.TakenAt != nil {
		first = *f.TakenAt
	}
	return first, points, err
}

// CountItems is how many products a source has ever had.
func (s *Store) CountItems(ctx context.Context, sourceID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&SupplierProduct{}).Where("source_id = ?", sourceID).Count(&n).Error
	return n, err
}

// ItemOf is a source's product by its ref.
func (tx Tx) ItemOf(sourceID int64, ref string) (SupplierProduct, bool, error) {
	var p SupplierProduct
	res := tx.db.Where("source_id = ? AND ref_hash = ? AND ref = ?", sourceID, supply.RefHash(ref), ref).Limit(1).Find(&p)
	return p, res.RowsAffected > 0, res.Error
}

// OwnListingsOfItem are the listings of our own that a supplier product supplies.
func (tx Tx) OwnListingsOfItem(itemID int64) ([]int64, error) {
	ids := []int64{}
	err := tx.db.Raw(`SELECT l.id FROM supply_links k CROSS JOIN listings l ON l.product_id = k.product_id
		WHERE k.supplier_product_id = ? AND l.entry_id IS NULL AND NOT l.unwanted ORDER BY l.id`, itemID).Scan(&ids).Error
	return ids, err
}

// TakeWish is what is to be done with the row of a feed, once: it is forgotten.
func (tx Tx) TakeWish(feedID int64) (string, bool, error) {
	var w Wish
	res := tx.db.Where("feed_id = ?", feedID).Limit(1).Find(&w)
	if res.Error != nil || res.RowsAffected == 0 {
		return "", false, res.Error
	}
	err := tx.db.Delete(&w).Error
	return w.Wish, true, err
}

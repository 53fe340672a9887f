package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm/clause"
)

// ShopSite is the site of the own shop; ErrMissing where there is none.
func (s *Store) ShopSite(ctx context.Context) (Site, error) {
	return s.Reading(ctx).ShopSite()
}

// ShopSite is the site of the own shop; ErrMissing where there is none.
func (tx Tx) ShopSite() (Site, error) {
	var site Site
	res := tx.db.Preload("Marketplace").Where("kind = 'shop'").Order("id").Limit(1).Find(&site)
	if res.Error == nil && res.RowsAffected == 0 {
		return site, ErrMissing
	}
	return site, res.Error
}

// OnShelf are what the shop has of some SKUs, by SKU.
func (tx Tx) OnShelf(siteID int64, skus []string) (map[string]ShopListing, error) {
	var rows []ShopListing
	out := map[string]ShopListing{}
	err := tx.db.Where("site_id = ? AND sku IN ?", siteID, skus).Find(&rows).Error
	for _, r := range rows {
		out[r.SKU] = r
	}
	return out, err
}

// PutOnShelf writes what the shop has of some SKUs.
func (tx Tx) PutOnShelf(rows []ShopListing) error {
	if len(rows) == 0 {
		return nil
	}
	return tx.db.Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "site_id"}, {Name: "sku"}},
		DoUpdates: clause.AssignmentColumns([]string{"title", "category", "price", "quantity", "family", "picture", "content", "words", "changed_at"}),
	}).CreateInBatches(rows, 200).Error
}

// TakeOffShelf takes some units of a SKU. That there are so many was looked at in the
// same transaction; the table refuses less than none.
func (tx Tx) TakeOffShelf(siteID int64, sku string, units int64) error {
	return tx.db.Exec("UPDATE shop_listings SET quantity = quantity - ? WHERE site_id = ? AND sku = ?", units, siteID, sku).Error
}

// ShelfPart is a part of the shop's shelves.
type ShelfPart struct {
	Category string // with what is below it; "": all
	Words    string
	Family   string
	Offset   int
	Limit    int
}

// Shelf is a part of what the shop has, and how many there are in all: what can be
// had first, by title, the newest first where all is asked for.
func (tx Tx) Shelf(siteID int64, part ShelfPart) ([]ShopListing, int64, error) {
	from, args := "shop_listings s WHERE s.site_id = ?", []any{siteID}
	order := "(s.quantity = 0), s.title, s.id"
	switch {
	case part.Words != "":
		from = "shop_search f JOIN shop_listings s ON s.id = f.rowid WHERE shop_search MATCH ? AND s.site_id = ?"
		args, order = []any{match(part.Words), siteID}, "(s.quantity = 0), rank, s.id"
	case part.Category != "":
		from += " AND s.category IN (SELECT ref FROM below)"
	case part.Family != "":
		from += " AND s.family = ?"
		args = append(args, part.Family)
	default:
		from += " AND s.quantity > 0"
		order = "s.id DESC"
	}
	below := ""
	if part.Category != "" && part.Words == "" {
		below = "WITH RECURSIVE below (ref) AS (SELECT ? UNION SELECT c.ref FROM categories c JOIN below b ON c.parent = b.ref WHERE c.site_id = ?) "
		args = append([]any{part.Category, siteID}, args...)
	}
	var total int64
	if err := tx.db.Raw(below+"SELECT count(*) FROM "+from, args...).Scan(&total).Error; err != nil {
		return nil, 0, err
	}
	var out []ShopListing
	// The page's rows are found by what an index has of them, and read whole after that.
	var ids []int64
	if err := tx.db.Raw(below+"SELECT s.id FROM "+from+" ORDER BY "+order+" LIMIT ? OFFSET ?", append(args, part.Limit, part.Offset)...).Scan(&ids).Error; err != nil {
		return nil, 0, err
	}
	err := tx.db.Raw("SELECT s.* FROM json_each(?) j CROSS JOIN shop_listings s ON s.id = j.value ORDER BY j.key", listOf(ids)).Scan(&out).Error
	return out, total, err
}

// match is what FTS5 is asked for: every word, the last as far as it was typed.
func match(words string) string {
	var out []string
	for _, w := range strings.Fields(words) {
		out = append(out, quoted(w))
	}
	return strings.Join(out[:min(len(out), 12)], " ") + "*"
}

// ShelfAfter is a part of all that the shop has, by SKU after one.
func (tx Tx) ShelfAfter(siteID int64, after string, limit int) ([]ShopListing, error) {
	var out []ShopListing
	err := tx.db.Where("site_id = ? AND sku > ?", siteID, after).Order("sku").Limit(limit).Find(&out).Error
	return out, err
}

// ShopCategories are the categories of the shop, and how many can be had in each.
func (tx Tx) ShopCategories(siteID int64) ([]Category, map[string]int64, error) {
	var rows []struct {
		Category string
		N        int64
	}
	var all []Category
	err := tx.db.Raw("SELECT category, count(*) AS n FROM shop_listings WHERE site_id = ? AND quantity > 0 GROUP BY category", siteID).Scan(&rows).Error
	if err == nil {
		err = tx.db.Where("site_id = ?", siteID).Order("id").Find(&all).Error
	}
	counts := map[string]int64{}
	for _, r := range rows {
		counts[r.Category] = r.N
	}
	return all, counts, err
}

// ShopBatch is what was answered to a batch, JSON; false where it isn't known.
func (tx Tx) ShopBatch(siteID int64, key string) (string, bool, error) {
	var text string
	res := tx.db.Raw("SELECT outcomes FROM shop_batches WHERE site_id = ? AND key = ?", siteID, key).Scan(&text)
	return text, res.RowsAffected > 0, res.Error
}

// PutShopBatch keeps what was answered to a batch.
func (tx Tx) PutShopBatch(siteID int64, key, outcomes string, at time.Time) error {
	return tx.db.Exec("INSERT INTO shop_batches (site_id, key, outcomes, at) VALUES (?, ?, ?, ?)", siteID, key, outcomes, at).Error
}

// Basket is what lies in a visitor's basket; false where they have none.
func (tx Tx) Basket(token string) (ShopBasket, bool, error) {
	var b ShopBasket
	res := tx.db.Where("token = ?", token).Limit(1).Find(&b)
	return b, res.RowsAffected > 0, res.Error
}

// DropBasket takes a basket away.
func (tx Tx) DropBasket(token string) error {
	return tx.db.Where("token = ?", token).Delete(&ShopBasket{}).Error
}

// ShopOrderOf is the order that was made of a basket; false where there is none.
func (tx Tx) ShopOrderOf(basket string) (ShopOrder, bool, error) {
	var o ShopOrder
	res := tx.db.Where("basket = ?", basket).Limit(1).Find(&o)
	return o, res.RowsAffected > 0, res.Error
}

// ShopOrderNamed is an order of the shop; false where there is none.
func (tx Tx) ShopOrderNamed(siteID int64, ref string) (ShopOrder, bool, error) {
	var o ShopOrder
	res := tx.db.Where("site_id = ? AND ref = ?", siteID, ref).Limit(1).Find(&o)
	return o, res.RowsAffected > 0, res.Error
}

// ShopOrdersSince are orders that were made or changed after one, in that order.
func (tx Tx) ShopOrdersSince(siteID, seq int64, limit int) ([]ShopOrder, error) {
	var out []ShopOrder
	err := tx.db.Where("site_id = ? AND seq > ?", siteID, seq).Order("seq").Limit(limit).Find(&out).Error
	return out, err
}

// PutShopOrder keeps an order of the shop, new or changed, as the last that was.
func (tx Tx) PutShopOrder(o *ShopOrder) error {
	if err := tx.db.Raw("SELECT coalesce(max(seq), 0) + 1 FROM shop_orders").Scan(&o.Seq).Error; err != nil {
		return err
	}
	return tx.db.Save(o).Error
}

// PictureAt is the digest of the kept picture of an address; "" where there is none.
func (tx Tx) PictureAt(address string) (string, error) {
	var digest string
	err := tx.db.Raw("SELECT digest FROM pictures WHERE url = ? AND digest <> ''", address).Scan(&digest).Error
	return digest, err
}

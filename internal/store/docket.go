package store

import "time"

// Supplied is a supplier product that supplies a product of ours.
type Supplied struct {
	SupplierProduct `gorm:"embedded"`
	LinkID          int64
	UnitsBought     int64
	Doubt           string
	Supplier        string
	SupplierID      int64
	TakenAt         *time.Time
}

// SuppliesOf are all that supply a product, in the order they were tied to it.
func (tx Tx) SuppliesOf(productID int64) ([]Supplied, error) {
	var out []Supplied
	err := tx.db.Raw(`SELECT sp.*, k.id AS link_id, k.units_bought, k.doubt, u.name AS supplier, u.id AS supplier_id,
		so.taken_at
		FROM supply_links k CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id CROSS JOIN sources so ON so.id = sp.source_id
		CROSS JOIN suppliers u ON u.id = so.supplier_id WHERE k.product_id = ? ORDER BY k.id`, productID).Scan(&out).Error
	return out, err
}

// ListedAs are a product's listings that are wanted, site by site.
func (tx Tx) ListedAs(productID int64) ([]ListingRow, error) {
	var out []ListingRow
	err := tx.db.Raw("SELECT "+listingColumns+" FROM "+listingTables+" WHERE l.product_id = ? AND NOT l.unwanted ORDER BY l.site_id, l.id", productID).Scan(&out).Error
	return out, err
}

// LastCostChange is the last time that a supplier product's cost moved: what it
// was before, as a text in major units; "" where it never did.
func (tx Tx) LastCostChange(itemID int64) (before string, at time.Time, err error) {
	var row struct {
		Before string
		At     time.Time
	}
	err = tx.db.Raw(`SELECT c.before, f.taken_at AS at FROM supplier_changes c CROSS JOIN feeds f ON f.id = c.feed_id
		WHERE c.supplier_product_id = ? AND c.field = 'cost' ORDER BY c.id DESC LIMIT 1`, itemID).Scan(&row).Error
	return row.Before, row.At, err
}

// EntryOf is the entry that a listing is on; false where it is one of our own.
func (tx Tx) EntryOf(l *Listing) (Entry, bool, error) {
	var e Entry
	if l.EntryID == nil {
		return e, false, nil
	}
	res := tx.db.Where("id = ?", *l.EntryID).Limit(1).Find(&e)
	return e, res.RowsAffected > 0, res.Error
}

// WaitingOf is how many changes of a listing wait in the plan.
func (tx Tx) WaitingOf(listingID int64) (int64, error) {
	var n int64
	err := tx.db.Raw("SELECT count(*) FROM plan_lines WHERE listing_id = ? AND state = 'waiting'", listingID).Scan(&n).Error
	return n, err
}

// FamilyMember is one variant of a product's family, listed on a site or not.
type FamilyMember struct {
	ProductID int64
	ListingID int64 // 0: it isn't listed there
	SKU       string
	Variant   string
}

// FamilyOn is a product's family on a site, itself with it.
func (tx Tx) FamilyOn(productID, siteID int64) ([]FamilyMember, error) {
	var out []FamilyMember
	err := tx.db.Raw(`SELECT p.id AS product_id, coalesce(l.id, 0) AS listing_id, coalesce(l.sku, p.sku) AS sku, p.variant
		FROM products mine CROSS JOIN products p ON p.id = mine.id OR p.family_id = mine.family_id
		LEFT JOIN listings l ON l.product_id = p.id AND l.site_id = ? AND l.entry_id IS NULL WHERE mine.id = ? ORDER BY p.variant, p.id`, siteID, productID).Scan(&out).Error
	return out, err
}

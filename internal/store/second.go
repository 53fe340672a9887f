package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// SecondSupply is a supplier's product that is what is sold already from another one,
// and that supplies nothing yet.
type SecondSupply struct {
	SupplierProductID int64 `gorm:"primaryKey;autoIncrement:false"`
	ProductID         int64
	ListingID         int64 // that the amounts are of
	UnitsBought       int64
	Landed            *int64 // of one of the listing, minor units of Currency; nil: it can't be told
	Saves             int64  // what one sale would cost less; below 0: more
	Sold              int64  // sales in the last thirty days
	Month             int64  // what these would have earned more
	Currency          string // of the site that the listing is on
	Dismissed         bool   // a person has said that it is another thing
	Why               string // why it would not be bought from all the same
}

// SecondPair is a supplier product with one of the same number that supplies a product
// that is listed.
type SecondPair struct {
	SupplierProductID int64 // that supplies nothing
	BesideID          int64 // the one that supplies the product
	ProductID         int64
	UnitsBought       int64 // single units in an item of Beside
}

// SecondPairs are the supplier products that share a number with what is sold and supply
// nothing, after one by id; at most limit. Those that the supplier no longer has are left out.
func (s *Store) SecondPairs(ctx context.Context, after int64, limit int) (out []SecondPair, err error) {
	return out, s.read.WithContext(ctx).Raw(`SELECT sp.id AS supplier_product_id, min(mine.id) AS beside_id, k.product_id, k.units_bought
		FROM supplier_products sp CROSS JOIN supplier_products mine ON mine.gtin = sp.gtin AND mine.source_id <> sp.source_id
		CROSS JOIN supply_links k ON k.supplier_product_id = mine.id
		WHERE sp.id > ? AND sp.gtin <> '' AND NOT sp.gone
			AND NOT EXISTS (SELECT 1 FROM supply_links x WHERE x.supplier_product_id = sp.id)
			AND EXISTS (SELECT 1 FROM listings l WHERE l.product_id = k.product_id AND NOT l.unwanted)
		GROUP BY sp.id ORDER BY sp.id LIMIT ?`, after, limit).Scan(&out).Error
}

// SoldSince are how many of each of some products were sold since a time, listing by listing together.
func (s *Store) SoldSince(ctx context.Context, products []int64, since time.Time) (map[int64]int64, error) {
	var rows []struct{ ProductID, N int64 }
	err := s.read.WithContext(ctx).Raw(`SELECT l.product_id, sum(x.quantity) AS n FROM order_lines x JOIN orders o ON o.id = x.order_id
		JOIN listings l ON l.id = x.listing_id WHERE l.product_id`+inList+` AND o.placed_at >= ? AND x.state NOT IN ('cancelled', 'returned') GROUP BY 1`,
		listOf(products), since).Scan(&rows).Error
	out := map[int64]int64{}
	for _, r := range rows {
		out[r.ProductID] = r.N
	}
	return out, err
}

// PutSecondSupplies puts what was found in the place of all that was found before, but
// for what a person has said to be another thing.
func (tx Tx) PutSecondSupplies(list []SecondSupply) error {
	if err := tx.db.Exec("DELETE FROM second_supplies WHERE NOT dismissed").Error; err != nil || len(list) == 0 {
		return err
	}
	return tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(list, 500).Error
}

// DismissSecondSupply keeps that a supplier's product is another thing; false where it
// wasn't proposed.
func (tx Tx) DismissSecondSupply(supplierProductID int64, dismissed bool) (bool, error) {
	res := tx.db.Model(&SecondSupply{}).Where("supplier_product_id = ?", supplierProductID).Update("dismissed", dismissed)
	return res.RowsAffected > 0, res.Error
}

// DropSecondSupply takes one away: it supplies the product now, or doesn't any more.
func (tx Tx) DropSecondSupply(supplierProductID int64) error {
	return tx.db.Where("supplier_product_id = ?", supplierProductID).Delete(&SecondSupply{}).Error
}

// SecondSupplyRow is a second supply as it is shown: beside what the listing is worked out from.
type SecondSupplyRow struct {
	SecondSupply
	Title    string
	SKU      string `gorm:"column:sku"`
	Site     string
	Supplier string
	Ref      string
	Cost     int64
	CostCur  string
	Stock    int64
	State    string `gorm:"column:stock_state"`
	Now      string // the supplier it is worked out from
	Paid     *int64 // its landed cost
}

const secondRows = `SELECT x.*, p.title, l.sku, t.name AS site, u.name AS supplier, sp.ref, sp.cost, sp.currency AS cost_cur, sp.stock, sp.stock_state,
		coalesce((SELECT u2.name FROM supply_links k2 JOIN supplier_products sp2 ON sp2.id = k2.supplier_product_id JOIN sources s2 ON s2.id = sp2.source_id
			JOIN suppliers u2 ON u2.id = s2.supplier_id WHERE k2.id = l.supply_link_id), '') AS now, l.landed AS paid
	FROM second_supplies x JOIN products p ON p.id = x.product_id JOIN listings l ON l.id = x.listing_id JOIN sites t ON t.id = l.site_id
	JOIN supplier_products sp ON sp.id = x.supplier_product_id JOIN sources s ON s.id = sp.source_id JOIN suppliers u ON u.id = s.supplier_id`

// SecondSupplies lists those that were found, what earns most first; at most limit.
func (s *Store) SecondSupplies(ctx context.Context, limit int) (out []SecondSupplyRow, err error) {
	return out, s.read.WithContext(ctx).Raw(secondRows+" WHERE NOT x.dismissed ORDER BY x.month DESC, x.saves DESC, x.supplier_product_id LIMIT ?", limit).Scan(&out).Error
}

// SecondSupplyOf is the one of a supplier product; ErrMissing where none is proposed.
func (tx Tx) SecondSupplyOf(supplierProductID int64) (SecondSupply, error) {
	return get[SecondSupply](tx.db, supplierProductID)
}

// SecondSuppliesOf are those of one product.
func (tx Tx) SecondSuppliesOf(productID int64) (out []SecondSupplyRow, err error) {
	return out, tx.db.Raw(secondRows+" WHERE x.product_id = ? AND NOT x.dismissed ORDER BY x.saves DESC, x.supplier_product_id", productID).Scan(&out).Error
}

// SecondSums is how many were found, and what those that could be used would earn a
// month, by currency.
type SecondSums struct {
	N        int64
	Month    int64
	Currency string
}

// SecondSums counts second supplies by the currency they are sold in.
func (s *Store) SecondSums(ctx context.Context) (out []SecondSums, err error) {
	return out, s.read.WithContext(ctx).Raw("SELECT count(*) AS n, sum(month) AS month, currency FROM second_supplies WHERE NOT dismissed GROUP BY currency ORDER BY month DESC").
		Scan(&out).Error
}

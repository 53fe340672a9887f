package store

import (
	"cmp"
	"context"
	"database/sql"
	"fmt"
	"time"

	"gorm.io/gorm/clause"
)

// RunOrders reads what was sold on a site, and tells its place what became of it.
const RunOrders = "orders"

// LateOrder is how long after it was placed an order that wasn't sent is late.
const LateOrder = 48 * time.Hour

// OrderSites are the sites whose orders can be asked for and weren't since a moment.
func (tx Tx) OrderSites(before time.Time) ([]Site, error) {
	var out []Site
	err := tx.db.Preload("Marketplace").Joins("JOIN marketplaces m ON m.id = sites.marketplace_id").
		Where("m.address <> '' AND sites.lists AND (sites.orders_at IS NULL OR sites.orders_at <= ?)", before).Order("sites.id").Find(&out).Error
	return out, err
}

// OrdersRead notes how far a site's orders were read.
func (tx Tx) OrdersRead(siteID int64, cursor string, at time.Time) error {
	return tx.db.Exec("UPDATE sites SET orders_cursor = ?, orders_at = ? WHERE id = ?", cursor, at, siteID).Error
}

// OrderOf is an order by its place's name for it, with its lines; false where it is new.
func (tx Tx) OrderOf(siteID int64, ref string) (Order, []OrderLine, bool, error) {
	var o Order
	if err := tx.db.Where("site_id = ? AND ref = ?", siteID, ref).Limit(1).Find(&o).Error; err != nil || o.ID == 0 {
		return o, nil, false, err
	}
	lines, err := tx.LinesOfOrder(o.ID)
	return o, lines, true, err
}

// LinesOfOrder are the lines of one, in their order.
func (tx Tx) LinesOfOrder(id int64) (lines []OrderLine, err error) {
	return lines, tx.db.Where("order_id = ?", id).Order("id").Find(&lines).Error
}

// OrderLines are lines by id.
func (tx Tx) OrderLines(ids []int64) ([]OrderLine, error) {
	var out []OrderLine
	err := tx.db.Where("id"+inList, listOf(ids)).Order("id").Find(&out).Error
	return out, err
}

// promisedItems is a query for how many items (items) of each supplier product (id)
// are promised; see Promised.
const (
	lineUnits     = "x.quantity * max(x.units, 1)"
	lineBox       = "max(x.units_bought, 1)"
	promisedItems = `SELECT p.id, sum(p.items) AS items FROM (
		SELECT x.supplier_product_id AS id, (sum(` + lineUnits + `) + ` + lineBox + ` - 1) / ` + lineBox + ` AS items FROM order_lines x
			WHERE x.promised AND x.supplier_product_id IS NOT NULL AND x.bought_at IS NULL GROUP BY x.supplier_product_id, x.units_bought
		UNION ALL SELECT x.supplier_product_id, coalesce((SELECT b.items FROM purchase_lines b WHERE b.order_line_id = x.id ORDER BY b.purchase_id DESC LIMIT 1),
			(` + lineUnits + ` + ` + lineBox + ` - 1) / ` + lineBox + `) FROM order_lines x
			WHERE x.promised AND x.supplier_product_id IS NOT NULL AND x.bought_at IS NOT NULL) p GROUP BY p.id`
)

// Promised is how many items of each supplier product are sold and not missing
// from a feed of its supplier yet: as many as were bought, and of what wasn't yet the
// units together, rounded up.
func (tx Tx) Promised() (map[int64]int64, error) {
	var id, n int64
	out := map[int64]int64{}
	err := eachArray(tx.db, asArray("id, items")+" FROM ("+promisedItems+")", []any{&id, &n}, func() { out[id] = n })
	return out, err
}

// Delivered are the promised lines that were bought before their supplier's last
// feed was received: what they are of is missing from it. With the products they
// are of.
func (tx Tx) Delivered() (lines, products []int64, err error) {
	var line, product int64
	err = eachArray(tx.db, asArray("x.id, x.supplier_product_id")+` FROM order_lines x JOIN supplier_products sp ON sp.id = x.supplier_product_id
		WHERE x.promised AND x.bought_at IS NOT NULL AND EXISTS (SELECT 1 FROM feeds f WHERE f.source_id = sp.source_id AND f.state IN ('taken', 'same')
			AND f.received_at > x.bought_at)`,
		[]any{&line, &product}, func() { lines, products = append(lines, line), append(products, product) })
	return lines, products, err
}

// DirtySold marks what is made of supplier products of which something was sold, or
// given back: before all else, on every site. What is said of them on Weigh follows.
func (tx Tx) DirtySold(now time.Time, products []int64) error {
	if len(products) == 0 {
		return nil
	}
	tx.Changed("weigh")
	return cmp.Or(tx.dirty(now, `SELECT l.id, l.site_id, 1 FROM json_each(?) j CROSS JOIN supply_links k ON k.supplier_product_id = j.value
		CROSS JOIN listings l ON l.product_id = k.product_id WHERE 1`, listOf(products)),
		tx.countSold(now, `SELECT w.id FROM json_each(@sold) j CROSS JOIN supply_links k ON k.supplier_product_id = j.value
			CROSS JOIN supply_links b ON b.product_id = k.product_id CROSS JOIN weighings w ON w.supplier_product_id = b.supplier_product_id`,
			sql.Named("sold", listOf(products))))
}

// SetOrderLines changes only some columns of lines.
func (tx Tx) SetOrderLines(ids []int64, columns map[string]any) error {
	if len(ids) == 0 {
		return nil
	}
	tx.Changed("orders", "counts")
	return tx.db.Model(&OrderLine{}).Where("id"+inList, listOf(ids)).Updates(columns).Error
}

// Untold are lines of which a place is to be told something, of one site, with
// their orders' refs.
func (s *Store) Untold(ctx context.Context, siteID int64) ([]UntoldLine, error) {
	var out []UntoldLine
	err := s.read.WithContext(ctx).Raw(`SELECT x.id, x.ref, x.told, o.ref AS order_ref FROM order_lines x JOIN orders o ON o.id = x.order_id
		WHERE x.told <> '' AND o.site_id = ? ORDER BY o.id, x.id`, siteID).Scan(&out).Error
	return out, err
}

// UntoldLine is a line of which its place is to be told something.
type UntoldLine struct {
	ID       int64
	Ref      string
	Told     string
	OrderRef string
}

// OrderLineRow is a line of an order as lists show it.
type OrderLineRow struct {
	OrderLine `gorm:"embedded"`
	OrderRef  string
	SiteID    int64
	Site      string
	PlacedAt  time.Time
	Currency  string
	Country   string
	Buyer     string
	ProductID int64
	Supplier  string
	OwnTitle  string // of our product
	Late      bool
	Arrived   bool   // what was bought for it is here
	Picture   string `gorm:"-"`
}

const orderLineColumns = `x.*, o.ref AS order_ref, o.site_id, s.name AS site, o.placed_at, o.currency, o.country, o.buyer,
	coalesce(l.product_id, 0) AS product_id, coalesce(u.name, '') AS supplier, coalesce(p.title, '') AS own_title,
	EXISTS (SELECT 1 FROM purchase_lines b JOIN purchases q ON q.id = b.purchase_id WHERE b.order_line_id = x.id AND q.arrived_at IS NOT NULL) AS arrived`

const orderLineFrom = `order_lines x JOIN orders o ON o.id = x.order_id JOIN sites s ON s.id = o.site_id
	LEFT JOIN listings l ON l.id = x.listing_id LEFT JOIN products p ON p.id = l.product_id
	LEFT JOIN supplier_products sp ON sp.id = x.supplier_product_id LEFT JOIN sources so ON so.id = sp.source_id
	LEFT JOIN suppliers u ON u.id = so.supplier_id`

// Parts of the lines of orders.
var orderParts = map[string]string{
	"buy":      "x.state = 'new' AND x.problem = ''",
	"send":     "x.state = 'bought'",
	"problems": "x.problem <> ''",
	"all":      "1",
}

// OrderPart tells whether there is such a part.
func OrderPart(part string) bool { return orderParts[part] != "" }

// OrderLineRows lists lines of orders of a part, the newest first; those to be
// bought or sent the oldest first. sold says which of them; nil: all.
func (s *Store) OrderLineRows(ctx context.Context, part string, sold *SoldPart, p Page) (List[OrderLineRow], error) {
	from, args := orderLineFrom+" LEFT JOIN entries e ON e.id = l.entry_id WHERE "+orderParts[part], []any(nil)
	if sold != nil {
		where, more := sold.where()
		from, args = from+" AND "+where, more
	}
	l, err := list[OrderLineRow](ctx, s.read, listQuery{
		columns: orderLineColumns,
		from:    from,
		args:    args,
		id:      "x.id",
		sort:    "placed",
		desc:    part == "all" || part == "problems",
		sorts:   map[string]string{"placed": "o.placed_at", "site": "s.name", "supplier": "u.name"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *OrderLineRow) int64 {
		if r.ListingID == nil {
			return 0
		}
		return *r.ListingID
	}, func(r *OrderLineRow) *string { return &r.Picture }, s.listingPictures)
}

// OrderRows are the lines of one order.
func (s *Store) OrderRows(ctx context.Context, orderID int64) ([]OrderLineRow, error) {
	var out []OrderLineRow
	err := s.read.WithContext(ctx).Raw("SELECT "+orderLineColumns+" FROM "+orderLineFrom+" WHERE x.order_id = ? ORDER BY x.id", orderID).Scan(&out).Error
	return out, err
}

// Way is a supplier product by which a line of an order can be had.
type Way struct {
	LineID            int64
	SupplierProductID int64
	SupplierID        int64
	Supplier          string
	Ref               string
	Title             string
	Cost              int64
	Currency          string
	UnitsBought       int64
	Stock             int64
	StockState        string
	Gone              bool
	Doubt             string
	Stale             bool
	Charge            int64
	FreeFrom          *int64
	Days              int64
	Least             int64
	Reclaimed         int64 // tax in all these amounts that we get back, millionths; 0: none
}

// Ways are the supplier products by which lines can be had: those of their
// products' supply links, the cheapest first.
func (tx Tx) Ways(lineIDs []int64) ([]Way, error) {
	var out []Way
	err := tx.db.Raw(`SELECT x.id AS line_id, sp.id AS supplier_product_id, u.id AS supplier_id, u.name AS supplier, sp.ref, sp.title, sp.cost, sp.currency,
		k.units_bought, sp.stock, sp.stock_state, sp.gone, k.doubt, so.stale, coalesce(t.charge, 0) AS charge, t.free_from, coalesce(t.days, 0) AS days, coalesce(t.least, 0) AS least,
		CASE WHEN so.cost_tax_back THEN so.cost_tax ELSE 0 END AS reclaimed
		FROM json_each(?) j CROSS JOIN order_lines x ON x.id = j.value JOIN listings l ON l.id = x.listing_id
		JOIN supply_links k ON k.product_id = l.product_id JOIN supplier_products sp ON sp.id = k.supplier_product_id
		JOIN sources so ON so.id = sp.source_id JOIN suppliers u ON u.id = so.supplier_id
		LEFT JOIN supplier_terms t ON t.supplier_id = u.id AND t.currency = sp.currency ORDER BY x.id, sp.cost, sp.id`, listOf(lineIDs)).Scan(&out).Error
	return out, err
}

// BuyingLine is what was bought of a line.
type BuyingLine struct {
	PurchaseID        int64
	OrderLineID       int64
	SupplierProductID int64
	Items             int64
	Goods             int64
}

// PutBuyingLines keeps what was bought in one go.
func (tx Tx) PutBuyingLines(list []BuyingLine) error {
	rows := make([][]any, len(list))
	for i, l := range list {
		rows[i] = []any{l.PurchaseID, l.OrderLineID, l.SupplierProductID, l.Items, l.Goods}
	}
	return tx.insertRows("purchase_lines (purchase_id, order_line_id, supplier_product_id, items, goods)", rows, "")
}

// BuyingRow is a purchase as lists show it.
type BuyingRow struct {
	Buying   `gorm:"embedded"`
	Supplier string
	Mail     string // where its orders go
	Lines    int64
	// What became of the last mail of it; none where none was made, or it is tidied away.
	MailMadeAt    *time.Time
	MailSentAt    *time.Time
	MailRefusedAt *time.Time
	MailError     string
}

// Buyings lists what was bought, the newest first.
func (s *Store) Buyings(ctx context.Context, p Page) (List[BuyingRow], error) {
	return list[BuyingRow](ctx, s.read, listQuery{
		columns: "b.*, u.name AS supplier, coalesce((SELECT max(t.mail) FROM supplier_terms t WHERE t.supplier_id = b.supplier_id), '') AS mail, (SELECT count(*) FROM purchase_lines x WHERE x.purchase_id = b.id) AS lines, " +
			"m.made_at AS mail_made_at, m.sent_at AS mail_sent_at, m.refused_at AS mail_refused_at, coalesce(m.error, '') AS mail_error",
		from:  "purchases b JOIN suppliers u ON u.id = b.supplier_id LEFT JOIN mails m ON m.id = (SELECT max(y.id) FROM mails y WHERE y.about = 'purchase ' || b.id) WHERE 1",
		id:    "b.id",
		sort:  "made",
		desc:  true,
		sorts: map[string]string{"made": "b.made_at"},
	}, p)
}

// BoughtRow is a line of a purchase as the supplier reads it.
type BoughtRow struct {
	OrderLineID int64
	OrderRef    string
	Ref         string // the supplier's
	Title       string
	Items       int64
	Goods       int64
	Buyer       string
	State       string
}

// BoughtRows are the lines of a purchase.
func (s *Store) BoughtRows(ctx context.Context, purchaseID int64) ([]BoughtRow, error) {
	var out []BoughtRow
	err := s.read.WithContext(ctx).Raw(`SELECT b.order_line_id, o.ref AS order_ref, sp.ref, sp.title, b.items, b.goods, o.buyer, x.state
		FROM purchase_lines b JOIN order_lines x ON x.id = b.order_line_id JOIN orders o ON o.id = x.order_id
		JOIN supplier_products sp ON sp.id = b.supplier_product_id WHERE b.purchase_id = ? ORDER BY sp.ref, b.order_line_id`, purchaseID).Scan(&out).Error
	return out, err
}

// OrdersGoTo is where a supplier's orders are sent; "": nobody said.
func (tx Tx) OrdersGoTo(supplierID int64) (string, error) {
	var mail string
	err := tx.db.Raw("SELECT coalesce(max(mail), '') FROM supplier_terms WHERE supplier_id = ?", supplierID).Scan(&mail).Error
	return mail, err
}

// PurchaseLinesOpen are the lines of a purchase that wait for it.
func (tx Tx) PurchaseLinesOpen(purchaseID int64) ([]int64, error) {
	var ids []int64
	err := tx.db.Raw(`SELECT b.order_line_id FROM purchase_lines b JOIN order_lines x ON x.id = b.order_line_id
		WHERE b.purchase_id = ? AND x.state = 'bought'`, purchaseID).Scan(&ids).Error
	return ids, err
}

// EndSent has lines count as done that were sent before a moment.
func (tx Tx) EndSent(before, now time.Time) error {
	return tx.db.Exec("UPDATE order_lines SET state = 'done', ended_at = ? WHERE state = 'sent' AND sent_at < ?", now, before).Error
}

// OrderLineRowsOf are lines by id, in the order of the ids.
func (tx Tx) OrderLineRowsOf(ids []int64) ([]OrderLineRow, error) {
	var out []OrderLineRow
	err := tx.db.Raw("SELECT "+orderLineColumns+" FROM json_each(?) j JOIN "+orderLineFrom+" WHERE x.id = j.value ORDER BY j.key", listOf(ids)).Scan(&out).Error
	return out, err
}

// NextBuying is our reference for the next purchase.
func (tx Tx) NextBuying() (string, error) {
	var n int64
	err := tx.db.Raw("SELECT coalesce(max(id), 0) + 1 FROM purchases").Scan(&n).Error
	return fmt.Sprintf("P-%05d", n), err
}

// Unbought is what buyers paid, in one currency, for what is still to be bought.
type Unbought struct {
	Currency string
	Lines    int64
	Paid     int64
}

// ToBuy is what is still to be bought, by currency.
func (s *Store) ToBuy(ctx context.Context) ([]Unbought, error) {
	var out []Unbought
	err := s.read.WithContext(ctx).Raw(`SELECT o.currency, count(*) AS lines, sum(x.price * x.quantity + x.delivery) AS paid
		FROM order_lines x JOIN orders o ON o.id = x.order_id WHERE x.state = 'new' AND x.problem = '' GROUP BY o.currency ORDER BY paid DESC`).Scan(&out).Error
	return out, err
}

// PutFeeRows keeps rows of a statement; those that are there already stay as they
// are. It tells how many were new.
func (tx Tx) PutFeeRows(rows []FeeRow) (int64, error) {
	if len(rows) == 0 {
		return 0, nil
	}
	res := tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(rows, 200)
	return res.RowsAffected, res.Error
}

// PutSiteFees keeps what a statement says was kept for no order; what is there already
// stays as it is. It tells how many were new.
func (tx Tx) PutSiteFees(rows []SiteFee) (int64, error) {
	if len(rows) == 0 {
		return 0, nil
	}
	res := tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(rows, 200)
	return res.RowsAffected, res.Error
}

// SumFees has the fees of some lines be what statements say of them.
func (tx Tx) SumFees(lines []int64) error {
	return tx.db.Exec("UPDATE order_lines SET fees = (SELECT sum(f.amount) FROM fee_rows f WHERE f.order_line_id = order_lines.id) "+
		"WHERE id IN (SELECT value FROM json_each(?)) AND EXISTS (SELECT 1 FROM fee_rows f WHERE f.order_line_id = order_lines.id)", listOf(lines)).Error
}

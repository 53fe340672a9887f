package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"easymargin/core/supply"
)

// PricingRow is one listing with one of its supply links: all that its price
// and quantity are worked out from.
type PricingRow struct {
	Listing
	LinkID            int64
	UnitsBought       int64
	Doubt             string // why nothing may be sold from the link just now
	SupplierProductID int64
	ItemCost          int64
	ItemCurrency      string
	Stock             int64
	StockState        string
	Gone              bool
	SourceID          int64
	Charge            int64
	FreeFrom          *int64
	Duty              int64
	Reclaimed         int64 // tax in the cost and in Charge that we get back, millionths
	CostsUnsaid       bool  // nobody has said yet what its supplier's costs come to
	Supplier          string
	Update            bool // its source's feeds leave out what stays as it was
	TakenAt           *time.Time
	StaleAfter        time.Duration
	Open              bool // a line of it is on its way, or nobody told what became of it
	MovesToday        int64
	Title             string
	Brand             string
	Offers            string
	Weight            int64 // grams, as the sides in millimetres; 0 where unknown or not asked for
	Length            int64
	Width             int64
	Height            int64
	Rating            *int64 // hundredths of a star; nil where unknown or not asked for, as the rank
	Rank              *int64
}

// Present tells whether this is the link that the listing was worked out from last.
func (r *PricingRow) Present() bool { return r.SupplyLinkID != nil && *r.SupplyLinkID == r.LinkID }

// Asked is how much of the listings is read. What isn't asked for is left out
// of the rows, since reading a column of a million rows takes its time.
type Asked struct {
	Results bool      // what was worked out before, and what is on its way
	Offers  bool      // what others ask; of listings with a rule of their own it is always read
	Sizes   bool      // packed sizes; those of listings that the warehouse sends are always read
	Ratings bool      // how buyers rate and the place ranks what is sold
	DayAgo  time.Time // from when on moves of the price are counted, with Results
}

// openLine tells of a line that it is on its way, or that nobody told what
// became of it.
const openLine = "x.state IN ('waiting', 'sent', 'unknown')"

// columns lists what is read, in the order that into takes it.
func (a Asked) columns() string {
	c := `l.id, l.sku, l.product_id, l.site_id, l.entry_id, l.category, l.units, l.supply_link_id, l.state, l.unwanted, l.hidden, l.shown_from, l.shown_until, l.price, l.rule_id, l.own_rule, l.fixed_price,
		l.warehouse, l.confirmed_price, k.id, k.units_bought, k.doubt, sp.id, sp.cost, sp.currency, sp.stock, sp.stock_state, sp.gone, sp.source_id, p.title, p.brand`
	sizes := "CASE WHEN l.warehouse THEN sp.details END"
	if a.Sizes {
		sizes = "sp.details"
	}
	for _, name := range []string{"weight", "length", "width", "height"} {
		c += ", coalesce(json_extract(nullif(" + sizes + ", ''), '$." + name + "'), 0)"
	}
	offers := "CASE WHEN l.own_rule <> '' THEN coalesce(e.offers, '') ELSE '' END"
	if a.Offers {
		offers = "coalesce(e.offers, '')"
	}
	c += ", " + offers
	if a.Ratings {
		c += ", e.rating, e.rank"
	}
	if a.Results {
		c += `, l.currency, l.quantity, l.cost, l.cost_cur, l.landed, l.fees, l.tax, l.outbound, l.profit, l.floor, l.break_even, l.bound, l.why,
			l.confirmed_quantity, l.confirmed_cost, l.confirmed_cost_cur, l.confirmed_landed, l.former, l.back_price, l.back_quantity, l.differs,
			EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id AND ` + openLine + `),
			(SELECT count(*) FROM send_lines x WHERE x.listing_id = l.id AND x.answered_at > ? AND x.state = 'confirmed'
				AND x.price IS NOT NULL AND x.plan_line_id IS NOT NULL)`
	}
	return c
}

// query reads what is asked for of the listings that from has, a listing's links together.
func (a Asked) query(from string) string {
	return asArray(a.columns()) + " FROM " + from + " ORDER BY l.id, k.id"
}

// into is where a row's columns go, in the order of columns.
func (a Asked) into(r *PricingRow) []any {
	to := []any{
		&r.ID,
		&r.SKU,
		&r.ProductID,
		&r.SiteID,
		&r.EntryID,
		&r.Category,
		&r.Units,
		&r.SupplyLinkID,
		&r.State,
		&r.Unwanted,
		&r.Hidden,
		&r.ShownFrom,
		&r.ShownUntil,
		&r.Price,
		&r.RuleID,
		&r.OwnRule,
		&r.FixedPrice,
		&r.Warehouse,
		&r.ConfirmedPrice,
		&r.LinkID,
		&r.UnitsBought,
		&r.Doubt,
		&r.SupplierProductID,
		&r.ItemCost,
		&r.ItemCurrency,
		&r.Stock,
		&r.StockState,
		&r.Gone,
		&r.SourceID,
		&r.Title,
		&r.Brand,
		&r.Weight,
		&r.Length,
		&r.Width,
		&r.Height,
		&r.Offers,
	}
	if a.Ratings {
		to = append(to, &r.Rating, &r.Rank)
	}
	if a.Results {
		to = append(
			to,
			&r.Currency,
			&r.Quantity,
			&r.Cost,
			&r.CostCur,
			&r.Landed,
			&r.Fees,
			&r.Tax,
			&r.Outbound,
			&r.Profit,
			&r.Floor,
			&r.BreakEven,
			&r.Bound,
			&r.Why,
			&r.ConfirmedQuantity,
			&r.ConfirmedCost,
			&r.ConfirmedCostCur,
			&r.ConfirmedLanded,
			&r.Former,
			&r.BackPrice,
			&r.BackQuantity,
			&r.Differs,
			&r.Open,
			&r.MovesToday,
		)
	}
	return to
}

// Cross joins keep the tables in this order, and a plus before site_id keeps its
// index out of it: a page is a range of ids, and must not look at all that a
// site has to find it.
const (
	withEntry  = " l LEFT JOIN entries e ON e.id = l.entry_id"
	withSupply = " CROSS JOIN products p ON p.id = l.product_id CROSS JOIN supply_links k ON k.product_id = l.product_id " +
		"CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id"

	rangeOfSite = "(SELECT * FROM listings WHERE +site_id = ? AND id > ? AND id <= ?)" + withEntry + withSupply
	someOf      = "(SELECT * FROM listings WHERE id" + inList + ")" + withEntry + withSupply
)

// PricingRange are the rows of a site's listings with ids after one and up to
// another, each with all its supply links; a listing's links stand together.
func (s *Store) PricingRange(ctx context.Context, siteID, after, to int64, a Asked) ([]PricingRow, error) {
	return pricingRows(ctx, s.read, a, rangeOfSite, siteID, after, to)
}

// ListingIDs are the first and the last id of a site's listings; 0 where it has none.
func (s *Store) ListingIDs(ctx context.Context, siteID int64) (first, last int64, err error) {
	err = s.read.WithContext(ctx).
		Raw("SELECT coalesce(min(id), 0), coalesce(max(id), 0) FROM listings WHERE site_id = ?", siteID).
		Row().
		Scan(&first, &last)
	return first, last, err
}

// CountOnSale counts the listings of a site that are on sale, or may be.
func (s *Store) CountOnSale(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE site_id = ? AND state IN ('live', 'unknown')", siteID).
		Scan(&n).Error
	return n, err
}

// Reports are what the last feeds said of supplier products, at most so many of
// each, oldest first: from what they are now, back through what changed.
func (tx Tx) Reports(ids []int64, most int64) (map[int64][]supply.Report, error) {
	type row struct {
		ID         int64
		Feed       int64
		TakenAt    *time.Time
		ReceivedAt time.Time
		Stock      int64
		State      string
		Gone       bool
	}
	var rows []row
	err := tx.db.Raw(`SELECT sp.id, f.id AS feed, f.taken_at, f.received_at, sp.stock, sp.stock_state AS state, sp.gone FROM json_each(?) j
		CROSS JOIN supplier_products sp ON sp.id = j.value CROSS JOIN feeds f ON f.source_id = sp.source_id AND f.state IN ('taken', 'same')
		AND f.id >= coalesce(sp.first_feed_id, 0) AND f.id IN (SELECT g.id FROM feeds g WHERE g.source_id = sp.source_id AND
			(g.state = 'taken' OR g.state = 'same' AND `+lastCame+` = 'taken') ORDER BY g.id DESC LIMIT ?) ORDER BY sp.id, f.id DESC`, listOf(ids), most).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var changes []SupplierChange
	err = tx.db.Raw(`SELECT c.* FROM json_each(?) j CROSS JOIN supplier_changes c ON c.supplier_product_id = j.value
		WHERE c.field IN ('stock', 'listed') ORDER BY c.id DESC`, listOf(ids)).Scan(&changes).Error
	by := map[int64][]SupplierChange{}
	for _, c := range changes {
		by[c.SupplierProductID] = append(by[c.SupplierProductID], c)
	}
	out := map[int64][]supply.Report{}
	for i := 0; i < len(rows); {
		r := rows[i]
		stock, gone := supply.Stock{State: supply.StockState(r.State), Count: r.Stock}, r.Gone
		left := by[r.ID]
		for ; i < len(rows) && rows[i].ID == r.ID; i++ {
			at := rows[i].ReceivedAt
			if t := rows[i].TakenAt; t != nil {
				at = *t
			}
			out[r.ID] = append(out[r.ID], supply.Report{At: at.Unix(), Stock: stock, Absent: gone})
			for ; len(left) > 0 && left[0].FeedID >= rows[i].Feed; left = left[1:] { // as it was before this feed
				if left[0].Field == "listed" {
					gone = left[0].Before == "gone"
				} else {
					stock = supply.ReadStock(left[0].Before)
				}
			}
		}
		slices.Reverse(out[r.ID])
	}
	return out, err
}

// everything is all there is to read of a row.
func everything(dayAgo time.Time) Asked {
	return Asked{Results: true, Offers: true, Sizes: true, DayAgo: dayAgo}
}

// PricingRowsOf are the rows of some listings, by id, with everything.
func (s *Store) PricingRowsOf(ctx context.Context, ids []int64, dayAgo time.Time) ([]PricingRow, error) {
	return pricingRows(ctx, s.read, everything(dayAgo), someOf, listOf(ids))
}

// PricingRowsOf is Store.PricingRowsOf inside a transaction.
func (tx Tx) PricingRowsOf(ids []int64, dayAgo time.Time) ([]PricingRow, error) {
	return pricingRows(tx.db.Statement.Context, tx.db, everything(dayAgo), someOf, listOf(ids))
}

// PricingRowsFor are the rows of some listings, by id, with what is asked for.
func (tx Tx) PricingRowsFor(ids []int64, a Asked) ([]PricingRow, error) {
	return pricingRows(tx.db.Statement.Context, tx.db, a, someOf, listOf(ids))
}

// DirtyIDs are the next dirty listings of a site, urgent ones first; at most limit.
func (tx Tx) DirtyIDs(siteID int64, limit int) (ids []int64, err error) {
	var text string
	err = tx.db.Raw(`SELECT json_group_array(listing_id) FROM (SELECT listing_id FROM dirties WHERE site_id = ? ORDER BY urgent DESC, listing_id LIMIT ?)`,
		siteID, limit).Row().Scan(&text)
	if err == nil {
		err = json.Unmarshal([]byte(text), &ids)
	}
	return ids, err
}

// Clean takes the mark from listings that were worked out.
func (tx Tx) Clean(ids []int64) error {
	return tx.db.Exec("DELETE FROM dirties WHERE listing_id"+inList, listOf(ids)).Error
}

// pricingRows reads by hand what GORM would take many times as long for. The query
// isn't cut short by ctx, which would cost a goroutine a row; it is at most a
// page, and ctx is looked at before each.
func pricingRows(ctx context.Context, db *gorm.DB, a Asked, from string, args ...any) ([]PricingRow, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	db = db.WithContext(context.WithoutCancel(ctx))
	by, err := supplies(db)
	if err != nil {
		return nil, err
	}
	if a.Results {
		args = append([]any{a.DayAgo}, args...)
	}
	rows, err := db.Raw(a.query(from), args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	return scanPricing(rows, a, by)
}

func scanPricing(rows *sql.Rows, a Asked, by map[int64]supplyOf) ([]PricingRow, error) {
	var r PricingRow
	var text string
	out := make([]PricingRow, 0, 1024)
	to := a.into(&r)
	for rows.Next() {
		r = PricingRow{}
		err := rows.Scan(&text)
		if err == nil {
			err = fromArray(text, to)
		}
		if err != nil {
			return nil, fmt.Errorf("reading what prices are worked out from: %w", err)
		}
		r.from(by[r.SourceID])
		out = append(out, r)
	}
	return out, rows.Err()
}

// supplyOf is what a source says of all its products: who supplies them, when it
// was heard from last, and what delivering costs by currency.
type supplyOf struct {
	source     Source
	staleAfter time.Duration
	terms      map[string]SupplierTerm
}

func supplies(db *gorm.DB) (map[int64]supplyOf, error) {
	var sources []Source
	if err := db.Preload("Supplier").Find(&sources).Error; err != nil {
		return nil, err
	}
	var terms []SupplierTerm
	if err := db.Find(&terms).Error; err != nil {
		return nil, err
	}
	bySupplier := map[int64]map[string]SupplierTerm{}
	for _, t := range terms {
		if bySupplier[t.SupplierID] == nil {
			bySupplier[t.SupplierID] = map[string]SupplierTerm{}
		}
		bySupplier[t.SupplierID][t.Currency] = t
	}
	out := map[int64]supplyOf{}
	for _, s := range sources {
		_, unknown, err := s.Silence()
		if err != nil {
			return nil, err
		}
		out[s.ID] = supplyOf{s, unknown, bySupplier[s.SupplierID]}
	}
	return out, nil
}

// SupplyGuards are the guards of a source, with the defaults for what it doesn't set.
func (s *Source) SupplyGuards() (supply.Guards, error) {
	g := supply.DefaultGuards
	if s.Guards == "" {
		return g, nil
	}
	if err := json.Unmarshal([]byte(s.Guards), &g); err != nil {
		return g, fmt.Errorf("guards of %s: %w", s.Name, err)
	}
	return g, nil
}

// from fills in what the row's source says of all its products.
func (r *PricingRow) from(s supplyOf) {
	t := s.terms[r.ItemCurrency]
	r.Charge, r.FreeFrom, r.Duty, r.Supplier, r.TakenAt, r.StaleAfter = t.Charge, t.FreeFrom, t.Duty, s.source.Supplier.Name,
		s.source.HeardAt, s.staleAfter
	r.Update, r.CostsUnsaid, r.Reclaimed = s.source.Mode == "update", s.source.CostsUnsaid, 0
	if s.source.CostTaxBack {
		r.Reclaimed = s.source.CostTax
	}
}

// SupplyRows are a product's supply links where it has no listing yet: rows without one.
func (s *Store) SupplyRows(ctx context.Context, productID int64) ([]PricingRow, error) {
	return pricingRows(
		ctx,
		s.read,
		Asked{Sizes: true},
		"(SELECT "+unlisted+", id AS product_id FROM products WHERE id = ?) l JOIN (SELECT '' AS offers) e"+withSupply,
		productID,
	)
}

// unlisted stands for the listing that there isn't.
const unlisted = `0 AS id, '' AS sku, 0 AS site_id, NULL AS entry_id, '' AS category, 1 AS units, NULL AS supply_link_id, '' AS state, 0 AS unwanted, 0 AS hidden, '' AS shown_from, '' AS shown_until, NULL AS price, NULL AS rule_id,
	'' AS own_rule, NULL AS fixed_price, 0 AS warehouse, NULL AS confirmed_price`

// FoundRows are those of supplier products that are no products of ours yet, as
// one single of each would be listed; by id.
func (s *Store) FoundRows(ctx context.Context, supplierProductIDs []int64) ([]PricingRow, error) {
	return pricingRows(
		ctx,
		s.read,
		Asked{Sizes: true},
		"(SELECT "+unlisted+`, 0 AS product_id) l JOIN (SELECT '' AS offers) e CROSS JOIN supplier_products sp
		CROSS JOIN (SELECT id, title, brand FROM supplier_products) p ON p.id = sp.id
		CROSS JOIN (SELECT id, max(units_per_item, 1) AS units_bought, '' AS doubt FROM supplier_products) k ON k.id = sp.id WHERE sp.id`+inList,
		listOf(supplierProductIDs),
	)
}

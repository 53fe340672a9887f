package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"
)

// PricingRow is one listing with one of its supply links: all that its price
// and quantity are worked out from.
type PricingRow struct {
	Listing
	Category          string
	LinkID            int64
	Present           bool
	UnitsBought       int64
	UnitsListed       int64
	SupplierProductID int64
	Cost              int64
	CostCurrency      string
	Stock             int64
	StockState        string
	Gone              bool
	SourceID          int64
	Charge            int64
	FreeFrom          *int64
	Supplier          string
	TakenAt           *time.Time
	InFlight          bool // a line of it is on its way to the marketplace
	MovesToday        int64
	Duty              int64
	SKU               string
	Title             string
	EntryTitle        string
	Brand             string
	Offers            string
	Weight            int64 // grams, as the sides in millimetres; 0 where unknown or not asked for
	Length            int64
	Width             int64
	Height            int64
}

// Asked is how much of the listings is read. What isn't asked for is left out
// of the rows, since reading a column of a million rows takes its time.
type Asked struct {
	Results bool      // what was worked out before, and whether a line is on its way
	Offers  bool      // what others ask; of listings with a rule of their own it is always read
	Sizes   bool      // packed sizes; those of listings that the warehouse sends are always read
	DayAgo  time.Time // from when on moves of the price are counted, with Results
}

// columns lists what is read, in the order that scan takes it.
func (a Asked) columns() string {
	c := `l.id, l.product_id, l.site_id, l.entry_id, l.unwanted, l.price, l.rule_id, coalesce(l.own_rule, ''), l.fixed_price, coalesce(l.warehouse, 0), l.confirmed_price, e.category,
		k.id, k.present, k.units_bought, k.units_listed, sp.id, sp.cost, sp.currency, sp.stock, sp.stock_state, sp.gone, sp.source_id, p.sku, p.title, p.brand`
	sizes := "CASE WHEN l.warehouse THEN sp.details END"
	if a.Sizes {
		sizes = "sp.details"
	}
	for _, name := range []string{"weight", "length", "width", "height"} {
		c += ", coalesce(json_extract(" + sizes + ", '$." + name + "'), 0)"
	}
	offers := "CASE WHEN l.own_rule <> '' THEN coalesce(e.offers, '') ELSE '' END"
	if a.Offers {
		offers = "coalesce(e.offers, '')"
	}
	c += ", " + offers
	if a.Results {
		c += `, l.state, l.currency, l.quantity, l.landed, l.fees, l.tax, l.outbound, l.profit, l.floor, l.break_even, l.bound, l.why,
			l.confirmed_quantity, l.confirmed_cost, l.confirmed_cost_cur, l.former,
			EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id AND x.state IN ('waiting', 'sent')),
			(SELECT count(*) FROM send_lines x WHERE x.listing_id = l.id AND x.state = 'confirmed' AND x.price IS NOT NULL AND x.plan_line_id IS NOT NULL AND x.answered_at > ?)`
	}
	return c
}

// query reads what is asked for of the listings that from has, a listing's links together.
func (a Asked) query(from string) string {
	return asArray(a.columns()) + " FROM " + from + " ORDER BY l.id, k.id"
}

// into is where a row's columns go, in the order of columns.
func (a Asked) into(r *PricingRow) []any {
	to := []any{&r.ID, &r.ProductID, &r.SiteID, &r.EntryID, &r.Unwanted, &r.Price, &r.RuleID, &r.OwnRule, &r.FixedPrice, &r.Warehouse, &r.ConfirmedPrice, &r.Category,
		&r.LinkID, &r.Present, &r.UnitsBought, &r.UnitsListed, &r.SupplierProductID, &r.Cost, &r.CostCurrency, &r.Stock, &r.StockState, &r.Gone, &r.SourceID, &r.SKU, &r.Title, &r.Brand,
		&r.Weight, &r.Length, &r.Width, &r.Height, &r.Offers}
	if a.Results {
		to = append(to, &r.State, &r.Currency, &r.Quantity, &r.Landed, &r.Fees, &r.Tax, &r.Outbound, &r.Profit, &r.Floor, &r.BreakEven, &r.Bound, &r.Why,
			&r.ConfirmedQuantity, &r.ConfirmedCost, &r.ConfirmedCostCur, &r.Former, &r.InFlight, &r.MovesToday)
	}
	return to
}

// Cross joins keep the tables in this order, and a plus before site_id keeps its
// index out of it: a page is a range of ids, and must not look at all that a
// site has to find it.
const (
	ofSite     = "(SELECT * FROM listings WHERE +site_id = ? AND id > ?"
	withEntry  = " l CROSS JOIN entries e ON e.id = l.entry_id"
	withSupply = " CROSS JOIN products p ON p.id = l.product_id CROSS JOIN supply_links k ON k.product_id = l.product_id CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id"

	firstOfSite = ofSite + " ORDER BY id LIMIT ?)" + withEntry + withSupply
	rangeOfSite = ofSite + " AND id <= ?)" + withEntry + withSupply
)

// PricingRows are the listings of a site after a given id, each with all its
// supply links; a listing's links stand together. At most limit listings.
func (s *Store) PricingRows(ctx context.Context, siteID, after int64, limit int, a Asked) ([]PricingRow, error) {
	return s.pricingRows(ctx, a, firstOfSite, siteID, after, limit)
}

// PricingRange are the rows of a site's listings with ids after one and up to another.
func (s *Store) PricingRange(ctx context.Context, siteID, after, to int64, a Asked) ([]PricingRow, error) {
	return s.pricingRows(ctx, a, rangeOfSite, siteID, after, to)
}

// ListingIDs are the first and the last id of a site's listings; 0 where it has none.
func (s *Store) ListingIDs(ctx context.Context, siteID int64) (first, last int64, err error) {
	err = s.read.WithContext(ctx).Raw("SELECT coalesce(min(id), 0), coalesce(max(id), 0) FROM listings WHERE site_id = ?", siteID).Row().Scan(&first, &last)
	return first, last, err
}

// PricingRowsOf are the rows of some listings, by id, with everything.
func (s *Store) PricingRowsOf(ctx context.Context, ids []int64, dayAgo time.Time) ([]PricingRow, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	return s.pricingRows(ctx, Asked{Results: true, Offers: true, Sizes: true, DayAgo: dayAgo}, "(SELECT * FROM listings WHERE id IN ?)"+withEntry+withSupply, ids)
}

// pricingRows reads by hand what GORM would take many times as long for. The query
// isn't cut short by ctx, which would cost a goroutine a row; it is at most a
// page, and ctx is looked at before each.
func (s *Store) pricingRows(ctx context.Context, a Asked, from string, args ...any) ([]PricingRow, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	sources, err := s.Sources(ctx)
	if err != nil {
		return nil, err
	}
	by := map[int64]*Source{}
	for i := range sources {
		by[sources[i].ID] = &sources[i]
	}
	if a.Results {
		args = append([]any{a.DayAgo}, args...)
	}
	rows, err := s.read.WithContext(context.WithoutCancel(ctx)).Raw(a.query(from), args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	return scanPricing(rows, a, by)
}

func scanPricing(rows *sql.Rows, a Asked, by map[int64]*Source) ([]PricingRow, error) {
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

// from fills in what the row's source says of all its products.
func (r *PricingRow) from(s *Source) {
	if s == nil {
		return
	}
	r.Charge, r.FreeFrom, r.Duty, r.Supplier, r.TakenAt = s.Charge, s.FreeFrom, s.Duty, s.Supplier.Name, s.TakenAt
}

// SupplyRows are a product's supply links where it has no listing yet: rows without one.
func (s *Store) SupplyRows(ctx context.Context, productID int64) ([]PricingRow, error) {
	return s.pricingRows(ctx, Asked{Sizes: true}, "(SELECT "+unlisted+", id AS product_id FROM products WHERE id = ?) l JOIN (SELECT '' AS category, '' AS offers) e"+withSupply, productID)
}

// unlisted stands for the listing that there isn't.
const unlisted = "0 AS id, 0 AS site_id, 0 AS entry_id, 0 AS unwanted, NULL AS price, NULL AS rule_id, '' AS own_rule, NULL AS fixed_price, 0 AS warehouse, NULL AS confirmed_price"

// FoundRows are those of a supplier product that is no product of ours yet, as
// one single of it would be listed.
func (s *Store) FoundRows(ctx context.Context, supplierProductID int64) ([]PricingRow, error) {
	return s.pricingRows(ctx, Asked{Sizes: true}, "(SELECT "+unlisted+`, 0 AS product_id) l JOIN (SELECT '' AS category, '' AS offers) e JOIN supplier_products sp
		JOIN (SELECT id, '' AS sku, title, brand FROM supplier_products) p ON p.id = sp.id
		JOIN (SELECT id, 1 AS present, max(units_per_item, 1) AS units_bought, 1 AS units_listed FROM supplier_products) k ON k.id = sp.id WHERE sp.id = ?`, supplierProductID)
}

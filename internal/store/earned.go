package store

import (
	"context"
	"fmt"
	"strings"
	"time"
)

// SoldPart says which lines of orders are meant: those placed from one moment to
// before another, and of one site, supplier or product where it isn't 0.
type SoldPart struct {
	From, To                      time.Time
	SiteID, SupplierID, ProductID int64
	Category                      string // "" for any
}

// where is the condition on orderLineFrom.
func (p SoldPart) where() (string, []any) {
	q, args := "o.placed_at >= ? AND o.placed_at < ?", []any{p.From, p.To}
	for _, x := range []struct {
		column string
		id     int64
	}{{"o.site_id", p.SiteID}, {"u.id", p.SupplierID}, {"l.product_id", p.ProductID}} {
		if x.id != 0 {
			q, args = q+" AND "+x.column+" = ?", append(args, x.id)
		}
	}
	if p.Category != "" {
		q, args = q+" AND coalesce(nullif(l.category, ''), e.category, '') = ?", append(args, p.Category)
	}
	return q, args
}

// SoldLine is a line of an order with what it is counted by.
type SoldLine struct {
	OrderLine  `gorm:"embedded"`
	PlacedAt   time.Time
	Currency   string
	SiteID     int64
	Site       string
	SupplierID int64
	Supplier   string
	ProductID  int64
	OwnTitle   string
	Category   string
	Country    string // of the buyer
}

// EachSold goes through the lines of a part, in the order they were placed.
func (s *Store) EachSold(ctx context.Context, part SoldPart, each func(*SoldLine) error) error {
	where, args := part.where()
	rows, err := s.read.WithContext(ctx).Raw(`SELECT x.*, o.placed_at, o.currency, o.site_id, s.name AS site, coalesce(u.id, 0) AS supplier_id,
		coalesce(u.name, '') AS supplier, coalesce(l.product_id, 0) AS product_id, coalesce(p.title, x.title) AS own_title,
		coalesce(nullif(l.category, ''), e.category, '') AS category, o.country
		FROM `+orderLineFrom+` LEFT JOIN entries e ON e.id = l.entry_id WHERE `+where+" ORDER BY o.placed_at, x.id", args...).Rows()
	if err != nil {
		return fmt.Errorf("reading what was sold: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var l SoldLine
		if err := s.read.ScanRows(rows, &l); err != nil {
			return err
		}
		if err := each(&l); err != nil {
			return err
		}
	}
	return rows.Err()
}

// KeptApart is what a place kept for no order on a day, under the name it gives it.
type KeptApart struct {
	Day      string
	SiteID   int64
	Site     string
	Currency string
	Kind     string
	Rows     int64
	Amount   int64 // minor units
}

// SiteFees are what places kept for no order, by day, site and kind: of the days and the
// site of a part. What is asked of a supplier, a product or a category has none.
func (s *Store) SiteFees(ctx context.Context, part SoldPart) ([]KeptApart, error) {
	var out []KeptApart
	if part.SupplierID != 0 || part.ProductID != 0 || part.Category != "" {
		return out, nil
	}
	err := s.read.WithContext(ctx).Raw(`SELECT f.day, f.site_id, s.name AS site, s.currency, f.kind, count(*) AS rows, sum(f.amount) AS amount
		FROM site_fees f JOIN sites s ON s.id = f.site_id WHERE f.day >= ? AND f.day < ? AND (? = 0 OR f.site_id = ?)
		GROUP BY f.day, f.site_id, f.kind ORDER BY f.day, f.site_id, f.kind`,
		part.From.Format(time.DateOnly), part.To.Format(time.DateOnly), part.SiteID, part.SiteID).Scan(&out).Error
	return out, err
}

// soldSince are the units of lines that were sold and not called off.
const soldSince = `FROM order_lines x JOIN orders o ON o.id = x.order_id WHERE o.placed_at >= ? AND x.state <> 'cancelled'`

// SoldByListing is how many of each listing of a site were sold since a moment.
func (s *Store) SoldByListing(ctx context.Context, siteID int64, since time.Time) (map[int64]int64, error) {
	var rows []struct{ ListingID, N int64 }
	err := s.read.WithContext(ctx).Raw("SELECT x.listing_id, sum(x.quantity) AS n "+soldSince+" AND o.site_id = ? AND x.listing_id IS NOT NULL GROUP BY x.listing_id",
		since, siteID).Scan(&rows).Error
	out := map[int64]int64{}
	for _, r := range rows {
		out[r.ListingID] = r.N
	}
	return out, err
}

// SoldOn is how many of something were sold on a site.
type SoldOn struct {
	Site  string
	Units int64
}

// SoldOf is how many were sold since a moment of the products that a supplier product
// is of, by site, the most first.
func (s *Store) SoldOf(ctx context.Context, supplierProductID int64, since time.Time) ([]SoldOn, error) {
	var out []SoldOn
	err := s.read.WithContext(ctx).Raw("SELECT s.name AS site, sum(x.quantity) AS units "+strings.Replace(soldSince, "WHERE",
		"JOIN sites s ON s.id = o.site_id JOIN listings l ON l.id = x.listing_id WHERE", 1)+
		" AND l.product_id IN (SELECT k.product_id FROM supply_links k WHERE k.supplier_product_id = ?) GROUP BY s.id ORDER BY units DESC, s.id", since, supplierProductID).Scan(&out).Error
	return out, err
}

// NeverSold is a listing that is on sale and was not sold. Price is what it costs there.
type NeverSold struct {
	ListingID int64
	ProductID int64
	SKU       string
	Title     string
	Site      string
	Currency  string
	Price     *int64
	Quantity  int64
	Looked    int64 // how often others' offers were looked at while it was on sale
	Led       int64 // of these, how often what it cost then, delivery in it, led
}

// askedThen is what a listing cost at its site as others' offers were looked at: what
// had been confirmed last. NULL: it wasn't on sale yet.
const askedThen = `(SELECT x.price FROM send_lines x WHERE x.listing_id = l.id AND x.state = 'confirmed' AND x.price IS NOT NULL AND x.answered_at <= m.at
	ORDER BY x.answered_at DESC, x.id DESC LIMIT 1)`

// NeverSold are listings that are on sale, were confirmed before a moment and were
// never sold since then: by site, the most money in stock first.
func (s *Store) NeverSold(ctx context.Context, since time.Time, p Page) (List[NeverSold], error) {
	return list[NeverSold](ctx, s.read, listQuery{
		columns: `l.id AS listing_id, l.product_id, l.sku, p.title, s.name AS site, s.currency, l.confirmed_price AS price, l.confirmed_quantity AS quantity,
			(SELECT count(` + askedThen + `) FROM market_points m WHERE m.entry_id = l.entry_id AND m.leading IS NOT NULL AND m.at >= t.since) AS looked,
			(SELECT count(*) FROM market_points m WHERE m.entry_id = l.entry_id AND m.at >= t.since AND ` + askedThen + ` + s.charged <= m.leading) AS led`,
		from: `(SELECT ? AS since) t CROSS JOIN listings l JOIN products p ON p.id = l.product_id JOIN sites s ON s.id = l.site_id
			WHERE l.state = 'live' AND l.confirmed_quantity > 0 AND NOT EXISTS (SELECT 1 FROM order_lines x JOIN orders o ON o.id = x.order_id
			WHERE x.listing_id = l.id AND x.state <> 'cancelled' AND o.placed_at >= t.since)`,
		args:  []any{since},
		id:    "l.id",
		sorts: map[string]string{"worth": "printf('%08d %020d', s.id, 4000000000000000000 - coalesce(l.confirmed_price, 0) * l.confirmed_quantity)", "title": "p.title"},
		sort:  "worth", upTo: true,
	}, p)
}

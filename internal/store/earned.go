package store

import (
	"context"
	"fmt"
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
	TaxRate    int64  // of the site, millionths
}

// EachSold goes through the lines of a part, in the order they were placed.
func (s *Store) EachSold(ctx context.Context, part SoldPart, each func(*SoldLine) error) error {
	where, args := part.where()
	rows, err := s.read.WithContext(ctx).Raw(`SELECT x.*, o.placed_at, o.currency, o.site_id, s.name AS site, coalesce(u.id, 0) AS supplier_id,
		coalesce(u.name, '') AS supplier, coalesce(l.product_id, 0) AS product_id, coalesce(p.title, x.title) AS own_title,
		coalesce(nullif(l.category, ''), e.category, '') AS category, o.country, s.tax_rate
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

package store

import (
	"context"
	"fmt"
	"time"
)

// SupplyMove is a cost or a stock of something we list that a feed changed.
type SupplyMove struct {
	ID        int64
	At        *time.Time
	FeedID    int64
	Source    string
	ProductID int64
	Title     string
	Ref       string
	Field     string
	Before    string
	After     string
	Currency  string
	Listings  int64
	Picture   string `gorm:"-"`
	ItemID    int64
}

// SupplyMoves lists what suppliers changed of what we list, newest first.
func (s *Store) SupplyMoves(ctx context.Context, field string, p Page) (List[SupplyMove], error) {
	where, args := "c.field IN ('cost', 'stock', 'listed')", []any{}
	if field != "" {
		where, args = "c.field = ?", []any{field}
	}
	l, err := list[SupplyMove](ctx, s.read, listQuery{
		columns: `c.id, f.taken_at AS at, c.feed_id, so.name AS source, k.product_id, p.title, sp.ref, c.field, c.before, c.after, sp.currency,
			sp.id AS item_id, (SELECT count(*) FROM listings l WHERE l.product_id = k.product_id) AS listings`,
		from: `supplier_changes c CROSS JOIN supply_links k ON k.supplier_product_id = c.supplier_product_id CROSS JOIN products p ON p.id = k.product_id
			CROSS JOIN supplier_products sp ON sp.id = c.supplier_product_id CROSS JOIN sources so ON so.id = sp.source_id
			CROSS JOIN feeds f ON f.id = c.feed_id WHERE ` + where,
		counted: "supplier_changes c CROSS JOIN supply_links k ON k.supplier_product_id = c.supplier_product_id WHERE " + where,
		upTo:    true,
		args:    args,
		id:      "c.id",
		sort:    "id",
		desc:    true,
		sorts:   map[string]string{"id": "c.id"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *SupplyMove) int64 { return r.ItemID }, func(r *SupplyMove) *string { return &r.Picture }, s.itemPictures)
}

// RivalMove is what others ask on an entry that we list on, from a moment on.
type RivalMove struct {
	ID            int64
	At            time.Time
	ListingID     int64
	SKU           string
	Title         string
	Site          string
	Currency      string
	Lowest        *int64
	LowestBefore  *int64
	Leading       *int64
	LeadingBefore *int64
	Sellers       int64
	SellersBefore *int64
	Asked         *int64 // what we ask in all
	Floor         *int64
	Picture       string `gorm:"-"`
}

// RivalMoves lists how what others ask moved where we list, newest first.
func (s *Store) RivalMoves(ctx context.Context, siteID int64, p Page) (List[RivalMove], error) {
	where, args := "WHERE 1 = 1", []any{}
	if siteID != 0 {
		where, args = "WHERE e.site_id = ?", []any{siteID}
	}
	const before = "(SELECT b.%[1]s FROM market_points b WHERE b.entry_id = m.entry_id AND b.id < m.id ORDER BY b.id DESC LIMIT 1) AS %[1]s_before"
	l, err := list[RivalMove](ctx, s.read, listQuery{
		columns: `m.id, m.at, l.id AS listing_id, l.sku, p.title, s.name AS site, l.currency, m.lowest, m.leading, m.sellers, ` +
			fmt.Sprintf(before, "lowest") + ", " + fmt.Sprintf(before, "leading") + ", " + fmt.Sprintf(before, "sellers") + `,
			l.confirmed_price + s.charged AS asked, l.floor`,
		from: `market_points m CROSS JOIN entries e ON e.id = m.entry_id
			CROSS JOIN listings l ON l.id = (SELECT min(x.id) FROM listings x WHERE x.entry_id = m.entry_id)
			CROSS JOIN products p ON p.id = l.product_id CROSS JOIN sites s ON s.id = l.site_id ` + where,
		counted: "market_points m CROSS JOIN entries e ON e.id = m.entry_id " + where +
			" AND EXISTS (SELECT 1 FROM listings x WHERE x.entry_id = m.entry_id)",
		upTo:  true,
		args:  args,
		id:    "m.id",
		sort:  "id",
		desc:  true,
		sorts: map[string]string{"id": "m.id"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *RivalMove) int64 { return r.ListingID }, func(r *RivalMove) *string { return &r.Picture }, s.listingPictures)
}

// SentRow is one change that was handed over of a listing, or is to be: what it
// was, why, who let it go, and what the marketplace said.
type SentRow struct {
	ID        int64
	SendOutID int64
	At        time.Time // let go
	Answered  *time.Time
	FromPrice *int64
	Price     *int64
	FromQty   *int64
	Quantity  *int64
	Reasons   []string `gorm:"serializer:list"`
	Rule      string
	Sender    string
	Alone     bool
	Undoes    *int64
	State     string
	Words     string
	Profit    *int64
}

// Sent lists all that was handed over of a listing, newest first.
func (s *Store) Sent(ctx context.Context, listingID int64, p Page) (List[SentRow], error) {
	return list[SentRow](ctx, s.read, listQuery{
		columns: `x.id, x.send_out_id, o.created_at AS at, x.answered_at AS answered, y.from_price, x.price, y.from_qty, x.quantity,
			coalesce(y.reasons, '[]') AS reasons, coalesce(y.rule, '') AS rule, o.sender, o.alone, o.undoes, x.state, x.words, y.profit_new AS profit`,
		from: `send_lines x CROSS JOIN send_outs o ON o.id = x.send_out_id LEFT JOIN plan_lines y ON y.id = x.plan_line_id WHERE x.listing_id = ?`,
		args: []any{listingID},
		id:   "x.id",
		sort: "id",
		desc: true,
		sorts: map[string]string{
			"id": "x.id",
		},
	}, p)
}

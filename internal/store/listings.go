package store

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
)

// like makes a pattern that finds s anywhere, with SQL's own marks taken literally.
func like(s string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(strings.TrimSpace(s)) + "%"
}

// ListingRow is a listing as lists show it. Amounts are minor units of Currency,
// Cost of CostCurrency.
type ListingRow struct {
	ID                int64
	Version           int64
	ProductID         int64
	SKU               string
	Title             string
	Brand             string
	Site              string
	Category          string
	EntryRef          string
	Page              string // public, of the entry
	State             string
	Currency          string
	Price             *int64
	Quantity          int64
	Units             int64 // single units in what is listed
	Landed            *int64
	Fees              *int64 // fees, their tax and allowances, of the price
	Tax               *int64
	Outbound          *int64 // sending one, less what the buyer pays for it
	Profit            *int64
	BreakEven         *int64
	Floor             *int64
	Bound             string
	Why               string
	ConfirmedPrice    *int64
	ConfirmedQuantity int64
	ConfirmedAt       *time.Time
	Words             string
	Supplier          string
	Ref               string
	Cost              int64
	CostCurrency      string
	Stock             int64
	StockState        string
	Gone              bool
	GTIN              string
	Picture           string `gorm:"-"` // digest of its leading picture; "" where none is kept
}

const listingColumns = `l.id, l.version, l.product_id, l.sku, p.title, p.brand, s.name AS site, coalesce(c.name,
	l.category) AS category, coalesce(e.ref, '') AS entry_ref, coalesce(e.page, '') AS page, l.state, l.currency,
	l.price, l.quantity, l.units, l.landed, l.fees, l.tax, l.outbound, l.profit, l.break_even, l.floor, l.bound, l.why, l.confirmed_price, l.confirmed_quantity, l.confirmed_at, l.words,
	u.name AS supplier, sp.ref, sp.cost, sp.currency AS cost_currency, sp.stock, sp.stock_state, sp.gone, p.gtin`

// Cross joins keep the tables in this order: a list in the order of the first
// one's index begins at once, however long it is.
const (
	listingTables = "listings l CROSS JOIN products p ON p.id = l.product_id" + listingJoins
	titleTables   = "products p CROSS JOIN listings l ON l.product_id = p.id" + listingJoins
	stockTables   = `supplier_products sp INDEXED BY supplier_product_stock CROSS JOIN supply_links k ON k.supplier_product_id = sp.id
	CROSS JOIN listings l ON l.product_id = k.product_id AND k.id = coalesce(l.supply_link_id, (SELECT min(id) FROM supply_links
		WHERE product_id = l.product_id)) CROSS JOIN products p ON p.id = l.product_id CROSS JOIN sites s ON s.id = l.site_id
	LEFT JOIN entries e ON e.id = l.entry_id LEFT JOIN categories c ON c.site_id = l.site_id AND c.ref = l.category
	CROSS JOIN sources so ON so.id = sp.source_id CROSS JOIN suppliers u ON u.id = so.supplier_id`
	listingJoins = ` CROSS JOIN sites s ON s.id = l.site_id LEFT JOIN entries e ON e.id = l.entry_id
	LEFT JOIN categories c ON c.site_id = l.site_id AND c.ref = l.category
	CROSS JOIN supply_links k ON k.id = coalesce(l.supply_link_id, (SELECT min(id) FROM supply_links
		WHERE product_id = l.product_id)) CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id
	CROSS JOIN sources so ON so.id = sp.source_id CROSS JOIN suppliers u ON u.id = so.supplier_id`
)

// ListingFilter narrows a list of listings. States empty means all.
type ListingFilter struct {
	States []string
	Words  string
	SiteID int64 // 0: every site
	// SupplierID is whose supply they are worked out from; 0: anybody's.
	SupplierID int64
	Category   string // of the site; "": any
}

// Listings is the list of listings.
func (s *Store) Listings(ctx context.Context, f ListingFilter, p Page) (List[ListingRow], error) {
	l, err := list[ListingRow](ctx, s.read, f.query(p), p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *ListingRow) int64 { return r.ID }, func(r *ListingRow) *string { return &r.Picture }, s.listingPictures)
}

// query reads the list in the order of a page. A plus before a column keeps its
// index out of a walk along that order.
func (f ListingFilter) query(p Page) listQuery {
	tables := listingTables
	if p.Sort == "stock" {
		tables = stockTables
	}
	if p.Sort == "" || p.Sort == "title" || p.Sort == "sku" {
		tables = titleTables
	}
	q := listQuery{
		columns: listingColumns,
		id:      "l.id",
		sort:    "title",
		sorts: map[string]string{
			"title":    "p.title COLLATE NOCASE",
			"sku":      "l.sku",
			"price":    "coalesce(l.price, -1)",
			"profit":   "coalesce(l.profit, -9000000000)",
			"quantity": "l.quantity",
			"landed":   "coalesce(l.landed, -1)",
			"state":    "l.state",
			"stock":    "sp.stock",
		},
		ties: map[string]string{"stock": "sp.id"},
	}
	words := strings.Fields(f.Words)
	where := func(plus, ask string) string {
		text := " WHERE 1 = 1"
		q.args = nil
		if f.SiteID != 0 {
			text += " AND " + plus + "l.site_id = ?"
			q.args = append(q.args, f.SiteID)
		}
		if len(f.States) > 0 {
			args, marks := anyOf(f.States)
			text, q.args = text+" AND "+plus+"l.state IN ("+marks+")", append(q.args, args...)
		}
		if f.SupplierID != 0 {
			text += ` AND l.supply_link_id IN (SELECT k.id FROM sources s CROSS JOIN supplier_products sp ON sp.source_id = s.id
				CROSS JOIN supply_links k ON k.supplier_product_id = sp.id WHERE s.supplier_id = ?)`
			q.args = append(q.args, f.SupplierID)
		}
		if f.Category != "" {
			text += " AND " + plus + "l.category = ?"
			q.args = append(q.args, f.Category)
		}
		if len(words) > 0 {
			found, args := productsWith(words, ask)
			text, q.args = text+" AND "+found, append(q.args, args...)
		}
		return text
	}
	q.from, q.upTo = tables+where("+", wordsTell), len(words) > 0
	switch {
	case !q.upTo:
		q.few, q.counted = listingTables+where("", ""), "listings l"+where("", "")
	case slices.ContainsFunc(words, isIndexed):
		q.few = titleTables + where("+", wordsFind)
		q.counted = "product_search f CROSS JOIN products p ON p.id = f.rowid CROSS JOIN listings l ON l.product_id = p.id" + where(
			"+",
			wordsStream,
		)
	default:
		q.counted = "products p CROSS JOIN listings l ON l.product_id = p.id" + where("+", "")
	}
	return q
}

// ListingRowOf is one listing as lists show it.
func (s *Store) ListingRowOf(ctx context.Context, id int64) (ListingRow, error) {
	r, err := one[ListingRow](
		s.read.WithContext(ctx).Raw("SELECT "+listingColumns+" FROM "+listingTables+" WHERE l.id = ?", id),
		func(r ListingRow) int64 { return r.ID },
	)
	if err != nil {
		return r, err
	}
	found, err := s.listingPictures(ctx, []int64{id})
	r.Picture = found[id]
	return r, err
}

// CountListings counts the listings of a site.
func (s *Store) CountListings(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE site_id = ?", siteID).Scan(&n).Error
	return n, err
}

// ListingOn is a product's listing on a site, the first made; false where there is none.
func (s *Store) ListingOn(ctx context.Context, productID, siteID int64) (Listing, bool, error) {
	var l Listing
	res := s.read.WithContext(ctx).Where("product_id = ? AND site_id = ?", productID, siteID).Order("id").Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// InsertListing adds a listing and marks it to be worked out. Its SKU there is
// the product's; where that is taken, with a number behind it.
func (tx Tx) InsertListing(now time.Time, l *Listing, sku string) error {
	l.SKU = sku
	for n := 2; ; n++ {
		var taken int64
		if err := tx.db.Raw("SELECT count(*) FROM listings WHERE site_id = ? AND sku = ?", l.SiteID, l.SKU).Scan(&taken).Error; err != nil {
			return err
		}
		if taken == 0 {
			break
		}
		l.SKU = sku + "-" + strconv.Itoa(n)
	}
	if err := tx.db.Create(l).Error; err != nil {
		return err
	}
	return tx.DirtyListings(now, []int64{l.ID})
}

// SetListing changes what a person wants of a listing, and marks it.
func (tx Tx) SetListing(now time.Time, id int64, columns map[string]any) error {
	if err := tx.WantListing(id, columns); err != nil {
		return err
	}
	return tx.DirtyListings(now, []int64{id})
}

// WantListing is SetListing of one among many, which are marked together.
func (tx Tx) WantListing(id int64, columns map[string]any) error {
	columns["version"] = gorm.Expr("version + 1")
	return tx.db.Model(&Listing{ID: id}).Updates(columns).Error
}

const (
	setAmounts = `price = w.value->>1, cost = w.value->>2, cost_cur = w.value->>3, landed = w.value->>4, fees = w.value->>5,
		tax = w.value->>6, outbound = w.value->>7, profit = w.value->>8, floor = w.value->>9, break_even = w.value->>10, bound = w.value->>11,
		why = w.value->>12`
	setStanding = `state = CASE WHEN state IN ('unpriced', 'incomplete', 'ready', 'paused') THEN w.value->>13 ELSE state END, quantity = w.value->>14,
		supply_link_id = w.value->>15, rule_id = w.value->>16`
)

func amountsOf(l *Listing) []any {
	return []any{l.ID, l.Price, l.Cost, l.CostCur, l.Landed, l.Fees, l.Tax, l.Outbound, l.Profit, l.Floor, l.BreakEven, l.Bound, l.Why}
}

func standingOf(l *Listing) []any { return []any{l.State, l.Quantity, l.SupplyLinkID, l.RuleID} }

// PutAmounts writes the amounts that were worked out for listings, and why they
// are as they are. What each is worked out from, and how it stands, is
// PutStanding's: it changes more rarely, and each has its own indexes to keep.
func (tx Tx) PutAmounts(list []Listing) error { return tx.putListings(list, setAmounts, amountsOf) }

// PutStanding writes by which supplier and rule listings are worked out, what is
// offered and how they stand; a state that a send-out gave one stays.
func (tx Tx) PutStanding(list []Listing) error {
	nothing := make([]any, 12) // in the places of the amounts
	return tx.putListings(list, setStanding, func(l *Listing) []any {
		return append(append([]any{l.ID}, nothing...), standingOf(l)...)
	})
}

// PutBoth is PutAmounts and PutStanding of listings for which both have changed,
// each row written once.
func (tx Tx) PutBoth(list []Listing) error {
	return tx.putListings(list, setAmounts+", "+setStanding, func(l *Listing) []any { return append(amountsOf(l), standingOf(l)...) })
}

func (tx Tx) putListings(list []Listing, set string, values func(*Listing) []any) error {
	if len(list) == 0 {
		return nil
	}
	rows := make([][]any, len(list))
	for i := range list {
		rows[i] = values(&list[i])
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	return tx.db.Exec("UPDATE listings SET "+set+" FROM jsonb_each(?) w WHERE listings.id = w.value->>0", string(text)).Error
}

// Variant is one product of a family with its listing on one site.
type Variant struct {
	ListingID int64
	ProductID int64
	SKU       string
	Variant   string // what sets it apart, such as 'moss, M'
	Site      string
	State     string
	Sold      bool // whether it is to be sold on this site
	Currency  string
	Price     *int64
	Quantity  int64
}

// VariantsOf lists the family of a listing's product on the listing's site.
func (s *Store) VariantsOf(ctx context.Context, listingID int64) ([]Variant, error) {
	out := []Variant{}
	err := s.read.WithContext(ctx).
		Raw(`SELECT l.id AS listing_id, p.id AS product_id, l.sku, p.variant, s.name AS site, l.state, NOT l.unwanted AS sold,
			l.currency, l.price, l.quantity
		FROM listings me JOIN products mine ON mine.id = me.product_id JOIN products p ON p.family_id = mine.family_id
		JOIN listings l ON l.product_id = p.id AND l.site_id = me.site_id JOIN sites s ON s.id = l.site_id WHERE me.id = ?
			ORDER BY p.variant, p.id`, listingID).Scan(&out).Error
	return out, err
}

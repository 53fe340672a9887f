package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"easymargin/core/supply"
)

// Demand is what a site asks for in a category.
type Demand struct {
	ID        int64
	SiteID    int64
	Category  string // ref
	Needs     string // JSON of listing.Needs
	Origin    string // DemandRead, DemandTyped, DemandSheet
	ReadAt    time.Time
	ChangedAt time.Time // when it last came out otherwise than before
	Changes   string    // in what, in words; JSON
}

// Where a demand comes from.
const (
	DemandRead  = "gateway"
	DemandTyped = "person"
	DemandSheet = "sheet" // of a blank that was dropped
)

// Demands are what a site asks for, by category.
func (tx Tx) Demands(siteID int64) (map[string]Demand, error) {
	var rows []Demand
	err := tx.db.Where("site_id = ?", siteID).Find(&rows).Error
	out := map[string]Demand{}
	for _, r := range rows {
		out[r.Category] = r
	}
	return out, err
}

// PutDemand writes what a site asks for in a category, in the place of what it
// asked for before, and marks the listings there.
func (tx Tx) PutDemand(now time.Time, d *Demand) error {
	if err := tx.db.Exec(`INSERT INTO demands (site_id, category, needs, origin, read_at, changed_at, changes) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (site_id, category) DO UPDATE SET needs = excluded.needs, origin = excluded.origin, read_at = excluded.read_at,
			changed_at = excluded.changed_at, changes = excluded.changes`,
		d.SiteID, d.Category, d.Needs, d.Origin, d.ReadAt, d.ChangedAt, d.Changes).Error; err != nil {
		return err
	}
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ? AND l.entry_id IS NULL AND l.category = ?", d.SiteID, d.Category)
}

// SetCategory puts a listing into a category, and marks it.
func (tx Tx) SetCategory(now time.Time, listingID int64, category string) error {
	return tx.SetListing(now, listingID, map[string]any{"category": category})
}

// Saying is what a person says of one field of a listing.
type Saying struct {
	ListingID int64
	Field     string
	Value     string // JSON: a text or a list of texts
	Actor     string
	At        time.Time
}

// Say writes what a person says of listings, and marks them. An empty value
// takes back what was said.
func (tx Tx) Say(now time.Time, list []Saying) error {
	var ids []int64
	for i := range list {
		s := &list[i]
		ids = append(ids, s.ListingID)
		var err error
		if s.Value == "" {
			err = tx.db.Exec("DELETE FROM sayings WHERE listing_id = ? AND field = ?", s.ListingID, s.Field).Error
		} else {
			err = tx.db.Exec(`INSERT INTO sayings (listing_id, field, value, actor, at) VALUES (?, ?, ?, ?, ?)
				ON CONFLICT DO UPDATE SET value = excluded.value, actor = excluded.actor, at = excluded.at`, s.ListingID, s.Field, s.Value, s.Actor, s.At).Error
		}
		if err != nil {
			return err
		}
	}
	return tx.DirtyListings(now, ids)
}

// ValueWord is our word for one of a place's allowed values.
type ValueWord struct {
	SiteID    int64
	Category  string
	Attribute string
	Ours      string
	Theirs    string
	Actor     string
	At        time.Time
}

// Learn keeps our word for one of a place's values, and marks the listings of
// the category.
func (tx Tx) Learn(now time.Time, w ValueWord) error {
	if err := tx.db.Exec(`INSERT INTO value_words (site_id, category, attribute, ours, theirs, actor, at) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET theirs = excluded.theirs, actor = excluded.actor, at = excluded.at`,
		w.SiteID, w.Category, w.Attribute, w.Ours, w.Theirs, w.Actor, w.At).Error; err != nil {
		return err
	}
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ? AND l.entry_id IS NULL AND l.category = ?", w.SiteID, w.Category)
}

// Unlearn forgets one.
func (tx Tx) Unlearn(now time.Time, w ValueWord) error {
	res := tx.db.Exec("DELETE FROM value_words WHERE site_id = ? AND category = ? AND attribute = ? AND ours = ?", w.SiteID, w.Category, w.Attribute, w.Ours)
	if res.Error != nil || res.RowsAffected == 0 {
		return res.Error
	}
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ? AND l.entry_id IS NULL AND l.category = ?", w.SiteID, w.Category)
}

// ValueWords are all that were learnt on a site, by category and attribute.
func (tx Tx) ValueWords(siteID int64) ([]ValueWord, error) {
	var out []ValueWord
	err := tx.db.Where("site_id = ?", siteID).Order("category, attribute, ours").Find(&out).Error
	return out, err
}

// ListingsOf reads some listings, by id.
func (tx Tx) ListingsOf(ids []int64) (map[int64]Listing, error) {
	var rows []Listing
	out := map[int64]Listing{}
	err := tx.db.Raw("SELECT l.* FROM json_each(?) j CROSS JOIN listings l ON l.id = j.value", listOf(ids)).Scan(&rows).Error
	for i := range rows {
		out[rows[i].ID] = rows[i]
	}
	return out, err
}

// Material is all that can be said of a listing of our own, and by whom.
type Material struct {
	ListingID int64
	Product   Product
	Supplier  string
	Item      supply.Product // of the supplier it is worked out from now
	Pictures  []Picture      // those that are kept, in the supplier's order
	Said      map[string]Saying
	There     string // JSON of place.Content: what it says at its place; "": nothing, as far as is known
}

// Materials reads what can be said of some listings, by id.
func (tx Tx) Materials(ids []int64) (map[int64]*Material, error) {
	out := map[int64]*Material{}
	var rows []struct {
		ListingID int64
		Supplier  string
		ItemID    int64
		Product   Product         `gorm:"embedded;embeddedPrefix:p_"`
		Item      SupplierProduct `gorm:"embedded;embeddedPrefix:sp_"`
	}
	err := tx.db.Raw(`SELECT l.id AS listing_id, u.name AS supplier, sp.id AS item_id, p.id AS p_id, p.sku AS p_sku, p.gtin AS p_gtin, p.title AS p_title,
		p.brand AS p_brand, p.variant AS p_variant, p.family_id AS p_family_id, sp.id AS sp_id, sp.ref AS sp_ref, sp.gtin AS sp_gtin, sp.brand AS sp_brand,
		sp.title AS sp_title, sp.category AS sp_category, sp.currency AS sp_currency, sp.details AS sp_details, sp.stock AS sp_stock, sp.stock_state AS sp_stock_state
		FROM json_each(?) j CROSS JOIN listings l ON l.id = j.value CROSS JOIN products p ON p.id = l.product_id
		CROSS JOIN supply_links k ON k.id = coalesce(l.supply_link_id, (SELECT min(id) FROM supply_links WHERE product_id = l.product_id))
		CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id CROSS JOIN sources so ON so.id = sp.source_id
		CROSS JOIN suppliers u ON u.id = so.supplier_id`, listOf(ids)).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	byItem := map[int64][]*Material{}
	var items []int64
	for i := range rows {
		r := &rows[i]
		m := &Material{ListingID: r.ListingID, Product: r.Product, Supplier: r.Supplier, Said: map[string]Saying{}}
		if m.Item, err = r.Item.Product(); err != nil {
			return nil, err
		}
		out[r.ListingID] = m
		if byItem[r.ItemID] == nil {
			items = append(items, r.ItemID)
		}
		byItem[r.ItemID] = append(byItem[r.ItemID], m)
	}
	var pictures []struct {
		ItemID  int64
		Picture Picture `gorm:"embedded"`
	}
	err = tx.db.Raw(`SELECT u.supplier_product_id AS item_id, x.* FROM json_each(?) j CROSS JOIN picture_uses u ON u.supplier_product_id = j.value
		CROSS JOIN pictures x ON x.id = u.picture_id WHERE x.state = 'kept' ORDER BY u.supplier_product_id, u.position`, listOf(items)).Scan(&pictures).Error
	if err != nil {
		return nil, err
	}
	for _, p := range pictures {
		for _, m := range byItem[p.ItemID] {
			m.Pictures = append(m.Pictures, p.Picture)
		}
	}
	var there []struct {
		ListingID int64
		Content   string
	}
	if err := tx.db.Raw("SELECT c.listing_id, c.content FROM json_each(?) j CROSS JOIN listing_contents c ON c.listing_id = j.value", listOf(ids)).Scan(&there).Error; err != nil {
		return nil, err
	}
	for _, x := range there {
		if m := out[x.ListingID]; m != nil {
			m.There = x.Content
		}
	}
	var said []Saying
	err = tx.db.Raw("SELECT s.* FROM json_each(?) j CROSS JOIN sayings s ON s.listing_id = j.value", listOf(ids)).Scan(&said).Error
	for _, s := range said {
		if m := out[s.ListingID]; m != nil {
			m.Said[s.Field] = s
		}
	}
	return out, err
}

// Preparation is how far a listing of our own is.
type Preparation struct {
	ListingID int64 `gorm:"primaryKey;autoIncrement:false"`
	SiteID    int64
	Title     string
	Done      int64
	Needed    int64
	Helped    int64
	Helps     int64
	Stops     int64  // problems that stop it
	Lacks     string // JSON of []listing.Problem
	Changed   string // JSON: fields that differ from what is there; on sale alone
}

// PutPreparations writes how far listings are.
func (tx Tx) PutPreparations(list []Preparation) error {
	rows := make([][]any, len(list))
	for i := range list {
		p := &list[i]
		rows[i] = []any{p.ListingID, p.SiteID, p.Title, p.Done, p.Needed, p.Helped, p.Helps, p.Stops, p.Lacks, cmp.Or(p.Changed, "[]")}
	}
	return tx.insertRows("preparations (listing_id, site_id, title, done, needed, helped, helps, stops, lacks, changed)", rows,
		`ON CONFLICT (listing_id) DO UPDATE SET title = excluded.title, done = excluded.done, needed = excluded.needed, helped = excluded.helped,
			helps = excluded.helps, stops = excluded.stops, lacks = excluded.lacks, changed = excluded.changed`)
}

// PreparationRow is a listing of our own as Prepare lists it.
type PreparationRow struct {
	Preparation  `gorm:"embedded"`
	SKU          string
	ProductTitle string
	Site         string
	Category     string
	State        string
	Currency     string
	Price        *int64
	Profit       *int64
	Picture      string `gorm:"-"`
}

// PreparationFilter narrows what Prepare lists.
type PreparationFilter struct {
	SiteID int64  // 0: every site
	Part   string // "": what lacks something, PartReady, PartAll
	Words  string
}

// The parts of what Prepare lists, besides what lacks something.
const (
	PartReady   = "ready"
	PartAll     = "all"
	PartUnsent  = "unsent"  // on sale, and says something else there than it is to say
	PartChanged = "changed" // suppliers changed something of it since a person said otherwise
)

// Preparations lists listings of our own: those first of which one thing done
// brings most.
func (s *Store) Preparations(ctx context.Context, f PreparationFilter, p Page) (List[PreparationRow], error) {
	from := `preparations q CROSS JOIN listings l ON l.id = q.listing_id CROSS JOIN products p ON p.id = l.product_id CROSS JOIN sites s ON s.id = l.site_id
		LEFT JOIN categories c ON c.site_id = l.site_id AND c.ref = l.category WHERE NOT l.unwanted`
	var args []any
	switch f.Part {
	case "":
		from += " AND q.stops > 0"
	case PartReady:
		from += " AND q.stops = 0"
	case PartUnsent:
		from += " AND q.changed <> '[]' AND l.state = 'live'"
	case PartChanged:
		from += " AND EXISTS (SELECT 1 FROM " + strings.Replace(theirChanges, " ON y.listing_id = l.id", "", 1) + " WHERE y.listing_id = l.id)"
	}
	if f.SiteID != 0 {
		from, args = from+" AND q.site_id = ?", append(args, f.SiteID)
	}
	if f.Words != "" {
		from, args = from+" AND instr(lower(q.title || ' ' || p.title || ' ' || l.sku), lower(?)) > 0", append(args, f.Words)
	}
	l, err := list[PreparationRow](ctx, s.read, listQuery{
		columns: `q.*, l.sku, p.title AS product_title, s.name AS site, coalesce(c.name, l.category) AS category, l.state, l.currency, l.price, l.profit`,
		from:    from, args: args, id: "q.listing_id",
		sort: "worth", desc: true,
		sorts: map[string]string{
			"worth":  "CASE WHEN q.stops = 0 THEN 0 ELSE max(coalesce(l.profit, 0), 0) / q.stops END",
			"lacks":  "q.stops",
			"title":  "p.title COLLATE NOCASE",
			"profit": "coalesce(l.profit, -9000000000)",
		},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *PreparationRow) int64 { return r.ListingID }, func(r *PreparationRow) *string { return &r.Picture }, s.listingPictures)
}

// PreparedIn are the listings of our own in one category of a site, by title:
// those that lack something, or all.
func (s *Store) PreparedIn(ctx context.Context, siteID int64, category string, all bool, limit int) ([]int64, error) {
	var ids []int64
	err := s.read.WithContext(ctx).Raw(`SELECT l.id FROM listings l CROSS JOIN products p ON p.id = l.product_id LEFT JOIN preparations q ON q.listing_id = l.id
		WHERE l.site_id = ? AND l.entry_id IS NULL AND l.category = ? AND NOT l.unwanted AND (? OR q.stops > 0) ORDER BY p.title COLLATE NOCASE, l.id LIMIT ?`,
		siteID, category, all, limit).Scan(&ids).Error
	return ids, err
}

// PreparationOf is how far one listing is; false where nothing is asked of it.
func (tx Tx) PreparationOf(listingID int64) (Preparation, bool, error) {
	var p Preparation
	res := tx.db.Where("listing_id = ?", listingID).Limit(1).Find(&p)
	return p, res.RowsAffected > 0, res.Error
}

// Lackings are how many listings of a site lack each thing, the commonest first.
func (s *Store) Lackings(ctx context.Context, siteID int64) ([]Lacking, error) {
	var out []Lacking
	err := s.read.WithContext(ctx).Raw(`SELECT j.value->>'field' AS field, j.value->>'code' AS code, count(*) AS listings
		FROM preparations q CROSS JOIN listings l ON l.id = q.listing_id AND NOT l.unwanted CROSS JOIN json_each(q.lacks) j WHERE q.stops > 0 AND (? = 0 OR q.site_id = ?) AND j.value->>'level' = 'stops'
		GROUP BY 1, 2 ORDER BY 3 DESC, 1, 2`, siteID, siteID).Scan(&out).Error
	return out, err
}

// Lacking is one thing that listings lack.
type Lacking struct {
	Field    string
	Code     string
	Listings int64
}

// WantOn has what was taken off a site be wanted there again: the listings of a
// product that the seller chose not to sell there. It tells whether there was one.
func (tx Tx) WantOn(now time.Time, siteID, productID int64) (bool, error) {
	var ids []int64
	err := tx.db.Raw("SELECT id FROM listings WHERE site_id = ? AND product_id = ? AND unwanted ORDER BY id LIMIT 1", siteID, productID).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return false, err
	}
	return true, tx.Want(now, ids[0])
}

// ListedOn tells which of some products are listed on a site, and wanted there.
func (tx Tx) ListedOn(siteID int64, productIDs []int64) (map[int64]bool, error) {
	var ids []int64
	err := tx.db.Raw("SELECT DISTINCT product_id FROM listings WHERE site_id = ? AND NOT unwanted AND product_id"+inList, siteID, listOf(productIDs)).Scan(&ids).Error
	out := map[int64]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// TextOf is a saying's value as texts.
func (s *Saying) TextOf() ([]string, error) {
	var one string
	if json.Unmarshal([]byte(s.Value), &one) == nil {
		return []string{one}, nil
	}
	var list []string
	err := json.Unmarshal([]byte(s.Value), &list)
	return list, err
}

// OwnCategories are the categories of a site that listings of our own are in,
// and how many.
func (tx Tx) OwnCategories(siteID int64) (map[string]int64, error) {
	var rows []struct {
		Category string
		N        int64
	}
	err := tx.db.Raw("SELECT category, count(*) AS n FROM listings WHERE site_id = ? AND entry_id IS NULL AND category <> '' GROUP BY 1", siteID).Scan(&rows).Error
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Category] = r.N
	}
	return out, err
}

// guess is the category of a site that a product p goes into: one of the same
// ref, else of the same name, as where it is sold already; else the one that was
// learnt for its supplier's.
const guess = `coalesce((SELECT c.ref FROM listings o CROSS JOIN categories d ON d.site_id = o.site_id AND d.ref = o.category
	CROSS JOIN categories c ON c.site_id = s.id AND (c.ref = d.ref OR c.name = d.name COLLATE NOCASE) WHERE o.product_id = p.id
	ORDER BY c.ref = d.ref DESC, o.id LIMIT 1), (SELECT w.category FROM supply_links k CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id
	CROSS JOIN category_words w ON w.site_id = s.id AND w.ours = trim(sp.category) COLLATE NOCASE WHERE k.product_id = p.id AND sp.category <> ''
	ORDER BY k.id LIMIT 1), '')`

// GuessCategories are the categories that products would go into on a site.
func (tx Tx) GuessCategories(siteID int64, productIDs []int64) (map[int64]string, error) {
	var rows []struct {
		ID       int64
		Category string
	}
	err := tx.db.Raw("SELECT p.id, "+guess+" AS category FROM json_each(?) j CROSS JOIN products p ON p.id = j.value CROSS JOIN sites s WHERE s.id = ?",
		listOf(productIDs), siteID).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.Category
	}
	return out, err
}

// CandidateRow is a product that isn't listed on a site.
type CandidateRow struct {
	ProductID int64
	SKU       string
	Title     string
	Brand     string
	Stock     int64
	Category  string
	Picture   string `gorm:"-"`
}

// OwnCandidates lists products that a site has no listing of, by title.
func (s *Store) OwnCandidates(ctx context.Context, siteID int64, words string, p Page) (List[CandidateRow], error) {
	from := `products p CROSS JOIN sites s WHERE s.id = ? AND NOT EXISTS (SELECT 1 FROM listings l WHERE l.product_id = p.id AND l.site_id = s.id AND NOT l.unwanted)
		AND EXISTS (SELECT 1 FROM supply_links k WHERE k.product_id = p.id)`
	args := []any{siteID}
	if words != "" {
		from, args = from+" AND instr(lower(p.title || ' ' || p.sku || ' ' || p.brand), lower(?)) > 0", append(args, words)
	}
	l, err := list[CandidateRow](ctx, s.read, listQuery{
		columns: `p.id AS product_id, p.sku, p.title, p.brand, ` + guess + ` AS category, (SELECT coalesce(max(CASE WHEN sp.gone THEN 0 ELSE sp.stock END), 0)
			FROM supply_links k JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE k.product_id = p.id) AS stock`,
		from: from, args: args, id: "p.id", sort: "title", sorts: map[string]string{"title": "p.title COLLATE NOCASE"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *CandidateRow) int64 { return r.ProductID }, func(r *CandidateRow) *string { return &r.Picture }, s.productPictures)
}

// productPictures are the digests of products' leading pictures.
func (s *Store) productPictures(ctx context.Context, ids []int64) (map[int64]string, error) {
	return digests[int64](s.read.WithContext(ctx), `SELECT k.product_id AS key, `+fmt.Sprintf(leading, "k.supplier_product_id")+` AS digest
		FROM json_each(?) j CROSS JOIN supply_links k ON k.product_id = j.value GROUP BY k.product_id`, listOf(ids))
}

// KnownNumber is an identifier that something says a product has, and what says it.
type KnownNumber struct{ Number, By string }

// NumbersOf are the identifiers that a product's suppliers and the entries it is
// sold on know it by; the same one may come more than once.
func (tx Tx) NumbersOf(productID int64) ([]KnownNumber, error) {
	var out []KnownNumber
	err := tx.db.Raw(`SELECT sp.gtin AS number, u.name AS by FROM supply_links k CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id
			CROSS JOIN sources so ON so.id = sp.source_id CROSS JOIN suppliers u ON u.id = so.supplier_id WHERE k.product_id = ?1 AND sp.gtin <> ''
		UNION SELECT e.gtin, 'the entry ' || e.ref FROM listings l CROSS JOIN entries e ON e.id = l.entry_id WHERE l.product_id = ?1 AND e.gtin <> ''
		UNION SELECT j.value, 'the entry ' || e.ref FROM listings l CROSS JOIN entries e ON e.id = l.entry_id CROSS JOIN json_each(coalesce(nullif(e.gtins, ''), '[]')) j
			WHERE l.product_id = ?1`, productID).Scan(&out).Error
	return out, err
}

// mostParcels is how many parcels of a category are looked at.
const mostParcels = 500

// ParcelsIn are what suppliers say that listings in a category of a site weigh
// (g) and measure (mm: length, width, height); 0 where one says nothing.
func (tx Tx) ParcelsIn(siteID int64, category string) ([][4]int64, error) {
	var rows []struct{ A, B, C, D int64 }
	err := tx.db.Raw(`SELECT coalesce(sp.details->>'weight', 0) AS a, coalesce(sp.details->>'length', 0) AS b, coalesce(sp.details->>'width', 0) AS c,
			coalesce(sp.details->>'height', 0) AS d
		FROM (SELECT product_id FROM listings WHERE site_id = ? AND category = ? LIMIT ?) l
		CROSS JOIN supply_links k ON k.product_id = l.product_id CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE sp.details <> ''`,
		siteID, category, mostParcels).Scan(&rows).Error
	out := make([][4]int64, 0, len(rows))
	for _, r := range rows {
		out = append(out, [4]int64{r.A, r.B, r.C, r.D})
	}
	return out, err
}

// SKUTaken tells whether a site has a listing of a SKU.
func (tx Tx) SKUTaken(siteID int64, sku string) (bool, error) {
	var n int64
	err := tx.db.Raw("SELECT count(*) FROM listings WHERE site_id = ? AND sku = ?", siteID, sku).Scan(&n).Error
	return n > 0, err
}

// Worded are listings on sale that are to say something else than they do there,
// and of which nothing is on its way: some, or all where ids is nil. One of which
// isn't known what it says there is among them only by its id.
func (tx Tx) Worded(ids []int64) ([]Listing, error) {
	q := `SELECT l.* FROM listings l JOIN preparations q ON q.listing_id = l.id WHERE l.state = 'live' AND l.entry_id IS NULL AND NOT l.unwanted
		AND NOT EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id AND x.does = 'change' AND x.state IN ('waiting', 'sent', 'unknown')) AND `
	var args []any
	if ids == nil {
		q += "q.changed <> '[]'"
	} else {
		q, args = q+"(q.changed <> '[]' OR NOT EXISTS (SELECT 1 FROM listing_contents c WHERE c.listing_id = l.id)) AND l.id"+inList, []any{listOf(ids)}
	}
	var out []Listing
	err := tx.db.Raw(q+" ORDER BY l.id", args...).Scan(&out).Error
	return out, err
}

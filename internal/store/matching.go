package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/mattn/go-sqlite3"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// unmatched are the supplier products that are to be looked up on a site: new
// ones of sources that do so by themselves, those that a person asked for, and
// those whose rows changed so that a decision may not hold any more.
const unmatched = `CROSS JOIN sources so ON so.id = sp.source_id LEFT JOIN matches m ON m.supplier_product_id = sp.id AND m.site_id = ?
	WHERE NOT sp.gone AND (m.id IS NULL AND so.look_up OR m.state IN ('asked', 'to weigh') OR m.recheck)`

const unmatchedPage = `SELECT sp.* FROM supplier_products sp ` + unmatched + ` AND sp.id > ? ORDER BY sp.id LIMIT ?`

// Unmatched are supplier products of a site's lookup that have no match there
// yet, in order of id after a given one.
func (s *Store) Unmatched(ctx context.Context, siteID, after int64, limit int) ([]SupplierProduct, error) {
	var out []SupplierProduct
	err := s.read.WithContext(ctx).Raw(unmatchedPage, siteID, after, limit).Scan(&out).Error
	return out, err
}

// CountUnmatched counts what Unmatched lists.
func (s *Store) CountUnmatched(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw(`SELECT count(*) FROM supplier_products sp `+unmatched, siteID).Scan(&n).Error
	return n, err
}

// AskFor makes a supplier product be looked up on a site, whatever its source
// does by itself. One that is matched there already stays so.
func (tx Tx) AskFor(supplierProductID, siteID int64, now time.Time) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "supplier_product_id"}, {Name: "site_id"}},
		DoUpdates: clause.AssignmentColumns([]string{"state"}),
		Where:     clause.Where{Exprs: []clause.Expression{clause.Expr{SQL: "matches.state <> 'matched'"}}}}).
		Create(&Match{SupplierProductID: supplierProductID, SiteID: siteID, State: MatchAsked, DecidedBy: "person", DecidedAt: now}).Error
}

// ForgetMatches makes undecided matches be looked up again. One that was decided
// once, and asks again, stays.
func (tx Tx) ForgetMatches(siteID int64, states []string) (int64, error) {
	res := tx.db.Where("site_id = ? AND state IN ? AND entry_id IS NULL", siteID, states).Delete(&Match{})
	return res.RowsAffected, res.Error
}

// resting are fields of a supplier's row that a match rests on.
const resting = "('identifier', 'brand', 'units_per_item', 'title', 'description', 'mpn')"

// resteds are the states of matches that are looked up again when such a field changes.
const resteds = "('matched', 'certain', 'weighed')"

// Recheck has the matches weighed again that rest on what a feed changed. Where
// it is the number, the brand or the pack itself, nothing is sold from the row
// until that is done.
func (tx Tx) Recheck(now time.Time, feedID int64) error {
	var items []int64
	err := tx.db.Raw(`SELECT DISTINCT m.supplier_product_id FROM supplier_changes c JOIN matches m ON m.supplier_product_id = c.supplier_product_id
		WHERE c.feed_id = ? AND c.field IN `+resting+` AND m.state IN `+resteds, feedID).Scan(&items).Error
	if err != nil || len(items) == 0 {
		return err
	}
	for part := range parts(items) {
		if err := tx.db.Exec("UPDATE matches SET recheck = 1 WHERE state IN "+resteds+" AND supplier_product_id"+inList, listOf(part)).Error; err != nil {
			return err
		}
	}
	var links []int64
	err = tx.db.Raw(`SELECT DISTINCT k.id FROM supplier_changes c JOIN supply_links k ON k.supplier_product_id = c.supplier_product_id
		JOIN matches m ON m.supplier_product_id = k.supplier_product_id AND m.state = 'matched'
		WHERE c.feed_id = ? AND c.field IN ('identifier', 'brand', 'units_per_item') AND k.doubt = ''
		AND NOT (c.field = 'units_per_item' AND c.before IN ('', '1') AND c.after IN ('', '1'))`, feedID).Scan(&links).Error
	if err != nil || len(links) == 0 {
		return err
	}
	return tx.Doubt(now, links, "its number, brand or pack has changed; whether it is the same thing still is being looked at")
}

// Doubt keeps anything from being sold from some supply links, for a reason;
// "" lifts it.
func (tx Tx) Doubt(now time.Time, links []int64, why string) error {
	for part := range parts(links) {
		if err := tx.db.Exec("UPDATE supply_links SET doubt = ? WHERE id"+inList, why, listOf(part)).Error; err != nil {
			return err
		}
		if err := tx.dirty(now, `SELECT l.id, l.site_id, ? <> '' FROM json_each(?) j CROSS JOIN supply_links k ON k.id = j.value
			CROSS JOIN listings l ON l.product_id = k.product_id WHERE 1`, why, listOf(part)); err != nil {
			return err
		}
	}
	return nil
}

// MatchesOf are the matches of some supplier products on a site.
func (tx Tx) MatchesOf(siteID int64, items []int64) (map[int64]Match, error) {
	var list []Match
	err := tx.db.Raw("SELECT * FROM matches WHERE site_id = ? AND supplier_product_id"+inList, siteID, listOf(items)).Scan(&list).Error
	out := make(map[int64]Match, len(list))
	for _, m := range list {
		out[m.SupplierProductID] = m
	}
	return out, err
}

// MatchesOfItem are all the matches of one supplier product.
func (tx Tx) MatchesOfItem(itemID int64) ([]Match, error) {
	var out []Match
	err := tx.db.Where("supplier_product_id = ?", itemID).Order("site_id").Find(&out).Error
	return out, err
}

// MatchedTo counts the supplier products matched to an entry, but for one.
func (tx Tx) MatchedTo(entryID, butItem int64) (int64, error) {
	var n int64
	err := tx.db.Raw("SELECT count(*) FROM matches WHERE entry_id = ? AND state = 'matched' AND supplier_product_id <> ?", entryID, butItem).
		Scan(&n).Error
	return n, err
}

// PutEntry keeps an entry as last seen and fills in its ID. Listings on it
// follow its category.
func (tx Tx) PutEntry(now time.Time, e *Entry) error {
	var known Entry
	res := tx.db.Where("site_id = ? AND ref = ?", e.SiteID, e.Ref).Limit(1).Find(&known)
	if res.Error != nil {
		return res.Error
	}
	if res.RowsAffected == 0 {
		return tx.db.Create(e).Error
	}
	e.ID, e.Offers, e.OffersAt = known.ID, known.Offers, known.OffersAt // those are read by themselves
	if err := tx.db.Save(e).Error; err != nil {
		return err
	}
	if e.Category == known.Category {
		if same(e.Rating, known.Rating) && same(e.Rank, known.Rank) {
			return nil
		}
		return tx.DirtyEntries(now, []int64{e.ID}) // a rule may be for what is rated so
	}
	if err := tx.db.Model(&Listing{}).
		Where("entry_id = ? AND site_id = ?", e.ID, e.SiteID).
		Update("category", e.Category).Error; err != nil {
		return err
	}
	return tx.DirtyEntries(now, []int64{e.ID})
}

func same(a, b *int64) bool { return a == b || a != nil && b != nil && *a == *b }

// PutEntries is PutEntry for many: those never seen before go in together.
func (tx Tx) PutEntries(now time.Time, siteID int64, list []*Entry) error {
	refs := make([]string, len(list))
	for i, e := range list {
		refs[i] = e.Ref
	}
	var known []string
	if err := tx.db.Raw("SELECT ref FROM entries WHERE site_id = ? AND ref"+inList, siteID, textList(refs)).Scan(&known).Error; err != nil {
		return err
	}
	var fresh []*Entry
	for _, e := range list {
		if !slices.Contains(known, e.Ref) {
			fresh = append(fresh, e)
		} else if err := tx.PutEntry(now, e); err != nil {
			return err
		}
	}
	if fresh == nil {
		return nil
	}
	next, err := tx.nextID("entries")
	if err != nil {
		return err
	}
	rows := make([][]any, len(fresh))
	for i, e := range fresh {
		e.ID = next + int64(i)
		numbers, err := json.Marshal(e.GTINs)
		if err != nil {
			return err
		}
		rows[i] = []any{e.ID, e.SiteID, e.Ref, e.GTIN, e.Title, e.Brand, e.Category, e.Picture, e.Page, e.Units, stamp(e.SeenAt),
			string(numbers), e.MPN, e.Colour, e.Size, e.Material, e.Closed, e.NeedsLeave, e.Rating, e.Ratings, e.Rank}
	}
	return tx.insertRows(`entries (id, site_id, ref, gtin, title, brand, category, picture, page, units, seen_at,
		gtins, mpn, colour, size, material, closed, needs_leave, rating, ratings, rank)`, rows, "")
}

// insertRows inserts rows as JSON, one statement for all of them: many columns
// of many rows as parameters cost more to bind than to write. into names the
// table and its columns.
func (tx Tx) insertRows(into string, rows [][]any, conflict string) error {
	if len(rows) == 0 {
		return nil
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	columns := make([]string, len(rows[0]))
	for i := range columns {
		columns[i] = fmt.Sprintf("value->>%d", i)
	}
	return tx.db.Exec("INSERT INTO "+into+" SELECT "+strings.Join(columns, ", ")+" FROM jsonb_each(?) WHERE true "+conflict, string(text)).Error
}

// nextID is the id that the next row of a table will have.
func (tx Tx) nextID(table string) (int64, error) {
	var id int64
	err := tx.db.Raw("SELECT coalesce(max(id), 0) + 1 FROM " + table).Scan(&id).Error
	return id, err
}

// stamp is a moment as the driver writes it.
func stamp(t time.Time) string { return t.Format(sqlite3.SQLiteTimestampFormats[0]) }

// Sold is what is known already of some entries of a site and of some supplier
// products: which entries are listed, and which of the products we sell.
type Sold struct{ Entries, Items map[int64]bool }

// SoldAmong looks that up.
func (tx Tx) SoldAmong(siteID int64, entryIDs, itemIDs []int64) (Sold, error) {
	out := Sold{map[int64]bool{}, map[int64]bool{}}
	for _, q := range []struct {
		into  map[int64]bool
		query string
		args  []any
	}{
		{out.Entries, "SELECT DISTINCT entry_id FROM listings WHERE site_id = ? AND entry_id" + inList, []any{siteID, listOf(entryIDs)}},
		{out.Items, "SELECT DISTINCT supplier_product_id FROM supply_links WHERE supplier_product_id" + inList, []any{listOf(itemIDs)}},
	} {
		var ids []int64
		if err := tx.db.Raw(q.query, q.args...).Scan(&ids).Error; err != nil {
			return out, err
		}
		for _, id := range ids {
			q.into[id] = true
		}
	}
	return out, nil
}

// PutMatches is PutMatch for many.
func (tx Tx) PutMatches(list []Match) error {
	rows := make([][]any, len(list))
	for i, m := range list {
		rows[i] = []any{m.SupplierProductID, m.SiteID, m.State, m.EntryID, m.Candidates, m.DecidedBy, stamp(m.DecidedAt),
			m.Verdict, m.UnitsBought, m.UnitsListed, m.Basis, m.Note}
	}
	return tx.insertRows(`matches (supplier_product_id, site_id, state, entry_id, candidates, decided_by, decided_at,
		verdict, units_bought, units_listed, basis, note)`, rows,
		`ON CONFLICT (supplier_product_id, site_id) DO UPDATE SET state = excluded.state, entry_id = excluded.entry_id,
		candidates = excluded.candidates, decided_by = excluded.decided_by, decided_at = excluded.decided_at, verdict = excluded.verdict,
		units_bought = excluded.units_bought, units_listed = excluded.units_listed, basis = excluded.basis, note = excluded.note, recheck = 0`)
}

// Newly is a product that is made together with its supplier and its listing.
// It has its SKU already.
type Newly struct {
	Product Product
	Link    SupplyLink
	Listing Listing
}

// InsertNew writes products that were never there, each with its supplier and
// its listing, and marks the listings to be worked out.
func (tx Tx) InsertNew(now time.Time, list []*Newly) error {
	next, err := tx.nextID("products")
	if err != nil {
		return err
	}
	var products, links, listings [][]any
	ids := make([]int64, len(list))
	for i, n := range list {
		p, l := &n.Product, &n.Listing
		p.ID = next + int64(i)
		ids[i] = p.ID
		products = append(products, []any{p.ID, p.SKU, p.GTIN, p.Title, p.Brand, p.Picture, stamp(p.CreatedAt)})
		links = append(links, []any{p.ID, n.Link.SupplierProductID, n.Link.UnitsBought})
		listings = append(listings, []any{l.SiteID, p.SKU, p.ID, l.EntryID, l.Category, l.Units, l.State, l.Currency})
	}
	// Links before their products: the search then takes each product in once, with
	// its supplier's ref, instead of twice.
	if err := tx.db.Exec("PRAGMA defer_foreign_keys = ON").Error; err != nil {
		return err
	}
	for _, x := range []struct {
		into string
		rows [][]any
	}{
		{"supply_links (product_id, supplier_product_id, units_bought)", links},
		{"products (id, sku, gtin, title, brand, picture, created_at)", products},
		{"listings (site_id, sku, product_id, entry_id, category, units, state, currency)", listings},
	} {
		if err := tx.insertRows(x.into, x.rows, ""); err != nil {
			return err
		}
	}
	return tx.DirtyProducts(now, ids)
}

// EntriesByRef are known entries of a site.
func (tx Tx) EntriesByRef(siteID int64, refs []string) ([]Entry, error) {
	var out []Entry
	if len(refs) == 0 {
		return nil, nil
	}
	err := tx.db.Raw("SELECT * FROM entries WHERE site_id = ? AND ref"+inList, siteID, textList(refs)).Scan(&out).Error
	return out, err
}

// ListingOfEntry is our listing on an entry, the first made; false where there is none.
func (tx Tx) ListingOfEntry(siteID, entryID int64) (Listing, bool, error) {
	var l Listing
	res := tx.db.Where("site_id = ? AND entry_id = ?", siteID, entryID).Order("id").Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// ListingsOn are a product's listings on a site, the first made first.
func (tx Tx) ListingsOn(productID, siteID int64) ([]Listing, error) {
	var out []Listing
	err := tx.db.Where("product_id = ? AND site_id = ?", productID, siteID).Order("id").Find(&out).Error
	return out, err
}

// SetUnits says how many single units a listing sells; it is worked out anew.
func (tx Tx) SetUnits(now time.Time, listingID, n int64) error {
	if err := tx.db.Model(&Listing{}).Where("id = ?", listingID).
		Updates(map[string]any{"units": n, "version": gorm.Expr("version + 1")}).Error; err != nil {
		return err
	}
	return tx.DirtyListings(now, []int64{listingID})
}

// Unwant takes a listing off sale: nothing more is offered, first of all. Want
// offers it again.
func (tx Tx) Unwant(now time.Time, listingID int64) error { return tx.want(now, listingID, true) }

// Want is the other way.
func (tx Tx) Want(now time.Time, listingID int64) error { return tx.want(now, listingID, false) }

func (tx Tx) want(now time.Time, listingID int64, un bool) error {
	if err := tx.db.Model(&Listing{}).Where("id = ?", listingID).
		Updates(map[string]any{"unwanted": un, "version": gorm.Expr("version + 1")}).Error; err != nil {
		return err
	}
	return tx.dirty(now, "SELECT id, site_id, ? FROM listings WHERE id = ?", un, listingID)
}

// EverHandedOver tells whether anything of a listing was ever sent, or is known
// to be there.
func (tx Tx) EverHandedOver(listingID int64) (bool, error) {
	var n int64
	err := tx.db.Raw(`SELECT (SELECT count(*) FROM send_lines WHERE listing_id = ?1)
		+ (SELECT count(*) FROM listings WHERE id = ?1 AND (confirmed_price IS NOT NULL OR confirmed_quantity > 0))`, listingID).Scan(&n).Error
	return n > 0, err
}

// DeleteListing takes away a listing that was never handed over, with what was
// planned for it.
func (tx Tx) DeleteListing(listingID int64) error {
	return tx.db.Where("id = ?", listingID).Delete(&Listing{}).Error
}

// LinkBetween is the supply link of a product with a supplier product.
func (tx Tx) LinkBetween(productID, supplierProductID int64) (SupplyLink, bool, error) {
	var l SupplyLink
	res := tx.db.Where("product_id = ? AND supplier_product_id = ?", productID, supplierProductID).Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// LinksOf are the supply links of a supplier product.
func (tx Tx) LinksOf(supplierProductID int64) ([]SupplyLink, error) {
	var out []SupplyLink
	err := tx.db.Where("supplier_product_id = ?", supplierProductID).Order("id").Find(&out).Error
	return out, err
}

// DropLink takes a supply link away where its product has another or is listed
// nowhere; the product goes too where nothing is left of it. Where it is all
// that a listing has, it stays, and false is said.
func (tx Tx) DropLink(linkID int64) (bool, error) {
	var l SupplyLink
	if err := tx.db.Take(&l, linkID).Error; err != nil {
		return false, err
	}
	var n struct{ Links, Listings int64 }
	if err := tx.db.Raw(`SELECT (SELECT count(*) FROM supply_links WHERE product_id = ?1) AS links,
		(SELECT count(*) FROM listings WHERE product_id = ?1) AS listings`, l.ProductID).Scan(&n).Error; err != nil {
		return false, err
	}
	if n.Links == 1 && n.Listings > 0 {
		return false, nil
	}
	if err := tx.db.Delete(&l).Error; err != nil {
		return false, err
	}
	if n.Links == 1 {
		return true, tx.db.Where("id = ?", l.ProductID).Delete(&Product{}).Error
	}
	return true, tx.db.Exec(`INSERT INTO dirties (listing_id, site_id, urgent) SELECT id, site_id, 1 FROM listings WHERE product_id = ?
		ON CONFLICT (listing_id) DO UPDATE SET urgent = 1`, l.ProductID).Error
}

// IsListed tells whether we have a listing on an entry.
func (s *Store) IsListed(ctx context.Context, siteID int64, ref string) (bool, error) {
	var n int64
	err := s.read.WithContext(ctx).
		Raw("SELECT count(*) FROM listings l JOIN entries e ON e.id = l.entry_id WHERE l.site_id = ? AND e.ref = ?", siteID, ref).
		Scan(&n).Error
	return n > 0, err
}

// FamilyOfGroup is the family that a supplier's group belongs to; false where
// it belongs to none yet.
func (tx Tx) FamilyOfGroup(sourceID int64, group string) (int64, bool, error) {
	var g FamilyGroup
	res := tx.db.Where("source_id = ? AND group_ref = ?", sourceID, group).Limit(1).Find(&g)
	return g.FamilyID, res.RowsAffected > 0, res.Error
}

// LinkOf is the supply link of a supplier product, the first made; false where
// there is none.
func (tx Tx) LinkOf(supplierProductID int64) (SupplyLink, bool, error) {
	var l SupplyLink
	res := tx.db.Where("supplier_product_id = ?", supplierProductID).Order("id").Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// MatchRow is a supplier product that waits on Match.
type MatchRow struct {
	ID         int64
	State      string
	SiteID     int64
	Site       string
	ProductID  int64
	Supplier   string
	Ref        string
	GTIN       string
	GTINStatus string
	Title      string
	Brand      string
	Category   string
	Cost       int64
	Currency   string
	Stock      int64
	StockState string
	Units      int64
	Verdict    string
	Note       string
	Bought     int64
	Listed     int64
	DecidedBy  string
	DecidedAt  time.Time
	Entry      string // the one it is matched to, or would be
	EntryTitle string
	Number     string // of the seller's own, given to a new entry
	Candidates string // JSON
	Picture    string `gorm:"-"`
}

const matchColumns = `m.id, m.state, m.site_id, s.name AS site, sp.id AS product_id, u.name AS supplier, sp.ref, sp.gtin, sp.gtin_status, sp.title, sp.brand, sp.category,
	sp.cost, sp.currency, sp.stock, sp.stock_state, sp.units_per_item AS units, m.candidates, m.verdict, m.note,
	m.units_bought AS bought, m.units_listed AS listed, m.decided_by, m.decided_at, coalesce(e.ref, '') AS entry,
	coalesce(e.title, '') AS entry_title, coalesce((SELECT gtin FROM pool_numbers n WHERE n.match_id = m.id), '') AS number`

// The first candidate of what waits to be accepted is its entry.
const matchTables = `matches m CROSS JOIN supplier_products sp ON sp.id = m.supplier_product_id CROSS JOIN sites s ON s.id = m.site_id
	CROSS JOIN sources so ON so.id = sp.source_id CROSS JOIN suppliers u ON u.id = so.supplier_id
	LEFT JOIN entries e ON e.id = coalesce(m.entry_id, CASE WHEN m.state IN ('certain', 'not allowed') THEN
		(SELECT id FROM entries WHERE site_id = m.site_id AND ref = m.candidates->>0) END)`

// Matches lists the matches in some states.
func (s *Store) Matches(ctx context.Context, states []string, p Page) (List[MatchRow], error) {
	args, marks := anyOf(states)
	l, err := list[MatchRow](ctx, s.read, listQuery{columns: matchColumns, from: matchTables + " WHERE m.state IN (" + marks + ")",
		args: args, id: "m.id", sorts: map[string]string{"id": "m.id", "decided": "m.decided_at"}, sort: "id"}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *MatchRow) int64 { return r.ProductID }, func(r *MatchRow) *string { return &r.Picture }, s.itemPictures)
}

// MatchRowOf is one match.
func (s *Store) MatchRowOf(ctx context.Context, id int64) (MatchRow, error) {
	return one[MatchRow](
		s.read.WithContext(ctx).Raw("SELECT "+matchColumns+" FROM "+matchTables+" WHERE m.id = ?", id),
		func(r MatchRow) int64 { return r.ID },
	)
}

// TieEntry puts a listing of ours on the entry that was made of it, and makes the
// match that asked for one.
func (tx Tx) TieEntry(now time.Time, listingID, entryID int64) error {
	if err := tx.SetListing(now, listingID, map[string]any{"entry_id": entryID}); err != nil {
		return err
	}
	return errors.Join(tx.db.Exec("DELETE FROM preparations WHERE listing_id = ?", listingID).Error,
		tx.db.Exec(`UPDATE matches SET state = 'matched', entry_id = ?, decided_at = ? WHERE state = 'new entry' AND site_id = (SELECT site_id FROM listings WHERE id = ?)
			AND supplier_product_id IN (SELECT k.supplier_product_id FROM supply_links k CROSS JOIN listings l ON l.product_id = k.product_id WHERE l.id = ?)`,
			entryID, now, listingID, listingID).Error)
}

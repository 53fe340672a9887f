package store

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm/clause"
)

// siteNamed is a site of a place by its code.
const siteNamed = "(SELECT s.id FROM sites s JOIN marketplaces m ON m.id = s.marketplace_id WHERE m.name = ? AND s.code = ?)"

// ShelvedByNumber are known entries of a site of a place by their numbers.
func (s *Store) ShelvedByNumber(ctx context.Context, place, site string, gtins []string) ([]Entry, error) {
	var out []Entry
	err := s.read.WithContext(ctx).
		Raw("SELECT * FROM entries WHERE gtin"+inList+" AND site_id = "+siteNamed, textList(gtins), place, site).Scan(&out).Error
	return out, err
}

// ShelvedByRef is one known entry of a site of a place; false where there is none.
func (s *Store) ShelvedByRef(ctx context.Context, place, site, ref string) (Entry, bool, error) {
	var e Entry
	res := s.read.WithContext(ctx).Raw("SELECT * FROM entries WHERE ref = ? AND site_id = "+siteNamed, ref, place, site).Scan(&e)
	return e, res.RowsAffected > 0, res.Error
}

// mostShelved is the most entries that a search by words gives.
const mostShelved = 24

// ShelvedByWords are known entries of a site of a place that have some words:
// all of them, or else more than half of the rarer ones.
func (s *Store) ShelvedByWords(ctx context.Context, place, site string, words []string) ([]Entry, error) {
	var out []Entry
	for _, join := range []string{" ", " OR "} {
		if len(words) == 0 {
			break
		}
		all := make([]string, len(words))
		for i, w := range words {
			all[i] = quoted(w)
		}
		err := s.read.WithContext(ctx).Raw(`SELECT e.* FROM entry_search f JOIN entries e ON e.id = f.rowid WHERE entry_search MATCH ?
			AND e.site_id = `+siteNamed+` LIMIT ?`, strings.Join(all, join), place, site, 40*mostShelved).Scan(&out).Error
		if err != nil || len(out) > 0 {
			return out, err
		}
	}
	return out, nil
}

// ShelveEntries keeps entries that were read of a place's file, findable by
// their words. It says how many are new and how many are other than before.
func (tx Tx) ShelveEntries(now time.Time, siteID int64, list []*Entry, words func(*Entry) string) (fresh, changed int64, err error) {
	refs := make([]string, len(list))
	for i, e := range list {
		refs[i] = e.Ref
	}
	known, err := tx.EntriesByRef(siteID, refs)
	if err != nil {
		return 0, 0, err
	}
	by := make(map[string]*Entry, len(known))
	for i := range known {
		by[known[i].Ref] = &known[i]
	}
	var put []*Entry
	for _, e := range list {
		old := by[e.Ref]
		if old == nil {
			fresh++
		} else if sameEntry(old, e) {
			e.ID = old.ID
			continue
		} else {
			changed++
		}
		put = append(put, e)
	}
	if err := tx.PutEntries(now, siteID, put); err != nil {
		return 0, 0, err
	}
	rows := make([][]any, len(put))
	for i, e := range put {
		rows[i] = []any{e.ID, words(e)}
	}
	for _, e := range put {
		if by[e.Ref] != nil {
			if err := tx.db.Exec("DELETE FROM entry_search WHERE rowid = ?", e.ID).Error; err != nil {
				return 0, 0, err
			}
		}
	}
	if err := tx.insertRows("entry_search (rowid, words)", rows, ""); err != nil {
		return 0, 0, err
	}
	return fresh, changed, tx.putOffers(put)
}

// putOffers keeps what others ask on entries, where a file says so.
func (tx Tx) putOffers(list []*Entry) error {
	rows := [][]any{}
	for _, e := range list {
		if e.OffersAt != nil {
			rows = append(rows, []any{e.ID, e.Offers, stamp(*e.OffersAt)})
		}
	}
	if len(rows) == 0 {
		return nil
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	return tx.db.Exec(`UPDATE entries SET offers = j.value->>1, offers_at = j.value->>2 FROM json_each(?) j WHERE entries.id = j.value->>0`,
		string(text)).Error
}

func sameEntry(a, b *Entry) bool {
	return a.GTIN == b.GTIN && a.Title == b.Title && a.Brand == b.Brand && a.Category == b.Category && a.Units == b.Units && a.MPN == b.MPN &&
		a.Colour == b.Colour && a.Size == b.Size && a.Material == b.Material && a.Page == b.Page && a.Offers == b.Offers
}

// AddCategories adds categories that a place's file names.
func (tx Tx) AddCategories(list []Category) error {
	if len(list) == 0 {
		return nil
	}
	return tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(list, 200).Error
}

// LastFile is the newest file of a kind that was taken for a site; false for none.
func (tx Tx) LastFile(siteID int64, kind string) (PlaceFile, bool, error) {
	var f PlaceFile
	res := tx.db.Where("site_id = ? AND kind = ? AND state = ?", siteID, kind, FileTaken).Order("id DESC").Limit(1).Find(&f)
	return f, res.RowsAffected > 0, res.Error
}

// ItemsByNumber are supplier products by their numbers, the cheapest of a number first.
func (tx Tx) ItemsByNumber(gtins []string) (map[string][]SupplierProduct, error) {
	var rows []SupplierProduct
	err := tx.db.Raw("SELECT * FROM supplier_products WHERE NOT gone AND gtin"+inList+" AND gtin <> '' ORDER BY id", textList(gtins)).Scan(&rows).Error
	out := map[string][]SupplierProduct{}
	for _, r := range rows {
		out[r.GTIN] = append(out[r.GTIN], r)
	}
	return out, err
}

// ItemsByRefs are supplier products by their refs, of every source.
func (tx Tx) ItemsByRefs(refs []string) (map[string][]SupplierProduct, error) {
	var rows []SupplierProduct
	err := tx.db.Raw(`SELECT sp.* FROM sources so CROSS JOIN json_each(?) j CROSS JOIN supplier_products sp ON sp.source_id = so.id AND sp.ref = j.value
		WHERE NOT sp.gone`, textList(refs)).Scan(&rows).Error
	out := map[string][]SupplierProduct{}
	for _, r := range rows {
		out[r.Ref] = append(out[r.Ref], r)
	}
	return out, err
}

// LinksOfItems are the supply links of some supplier products, by them.
func (tx Tx) LinksOfItems(ids []int64) (map[int64]SupplyLink, error) {
	var rows []SupplyLink
	err := tx.db.Raw("SELECT * FROM supply_links WHERE supplier_product_id"+inList+" ORDER BY id DESC", listOf(ids)).Scan(&rows).Error
	out := map[int64]SupplyLink{}
	for _, l := range rows {
		out[l.SupplierProductID] = l // the first made stays
	}
	return out, err
}

// UnsentOnEntries are listings of a site on some entries that were never handed
// over, by their entry.
func (tx Tx) UnsentOnEntries(siteID int64, entryIDs []int64) (map[int64]Listing, error) {
	var rows []Listing
	err := tx.db.Raw(`SELECT l.* FROM listings l WHERE l.site_id = ? AND l.entry_id`+inList+` AND l.confirmed_price IS NULL
		AND NOT EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id)`, siteID, listOf(entryIDs)).Scan(&rows).Error
	out := map[int64]Listing{}
	for _, l := range rows {
		out[*l.EntryID] = l
	}
	return out, err
}

// Adopt gives a listing that was never handed over the SKU that it has there.
func (tx Tx) Adopt(listingID int64, sku string) error {
	if _, err := tx.GiveSKU(sku); err != nil {
		return err
	}
	return tx.db.Model(&Listing{ID: listingID}).Update("sku", sku).Error
}

// PutUntiedRows keeps some offers that are tied to nothing, in place of those of
// the same SKUs.
func (tx Tx) PutUntiedRows(rows []Untied) error {
	if len(rows) == 0 {
		return nil
	}
	return tx.db.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, 200).Error
}

// DropUntied forgets offers that were tied to nothing: they are tied now, or no
// longer there.
func (tx Tx) DropUntied(siteID int64, skus []string) error {
	if len(skus) == 0 {
		return nil
	}
	return tx.db.Exec("DELETE FROM untieds WHERE site_id = ? AND sku"+inList, siteID, textList(skus)).Error
}

// KeepUntied forgets those of a site but some.
func (tx Tx) KeepUntied(siteID int64, skus []string) error {
	return tx.db.Exec("DELETE FROM untieds WHERE site_id = ? AND NOT sku"+inList, siteID, textList(skus)).Error
}

// UntiedOf is one offer that is tied to nothing; false where there is none.
func (tx Tx) UntiedOf(siteID int64, sku string) (Untied, bool, error) {
	var u Untied
	res := tx.db.Where("site_id = ? AND sku = ?", siteID, sku).Limit(1).Find(&u)
	return u, res.RowsAffected > 0, res.Error
}

// PlaceState is what is known of a site, for the list of places.
type PlaceState struct {
	SiteID     int64
	Entries    int64
	Categories int64
	Schedules  int64
	Listings   int64
	Live       int64
	Untied     int64
	Waiting    int64      // matches that wait for a person
	ReadAt     *time.Time `gorm:"-"` // when its newest file was taken
}

// PlaceStates counts what is known of every site.
func (s *Store) PlaceStates(ctx context.Context) (map[int64]PlaceState, error) {
	var rows []PlaceState
	err := s.read.WithContext(ctx).Raw(`SELECT s.id AS site_id,
		(SELECT count(*) FROM entries e WHERE e.site_id = s.id) AS entries,
		(SELECT count(*) FROM categories c WHERE c.site_id = s.id) AS categories,
		(SELECT count(*) FROM fee_schedules f WHERE f.site_id = s.id) AS schedules,
		(SELECT count(*) FROM listings l WHERE l.site_id = s.id) AS listings,
		(SELECT count(*) FROM listings l WHERE l.site_id = s.id AND l.state = 'live') AS live,
		(SELECT count(*) FROM untieds u WHERE u.site_id = s.id AND u.quantity > 0) AS untied,
		(SELECT count(*) FROM matches m WHERE m.site_id = s.id AND m.state IN ('several', 'none', 'not allowed', 'certain')) AS waiting
		FROM sites s`).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var files []PlaceFile
	err = s.read.WithContext(ctx).Raw("SELECT * FROM place_files WHERE id IN (SELECT max(id) FROM place_files WHERE state = 'taken' GROUP BY site_id)").
		Scan(&files).Error
	out := map[int64]PlaceState{}
	for _, r := range rows {
		for _, f := range files {
			if f.SiteID == r.SiteID {
				r.ReadAt = f.TakenAt
			}
		}
		out[r.SiteID] = r
	}
	return out, err
}

// FilesOf are the newest files of a site.
func (s *Store) FilesOf(ctx context.Context, siteID int64, limit int) ([]PlaceFile, error) {
	var out []PlaceFile
	err := s.read.WithContext(ctx).Where("site_id = ?", siteID).Order("id DESC").Limit(limit).Find(&out).Error
	return out, err
}

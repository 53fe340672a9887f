package store

import (
	"context"
	"encoding/json"
	"time"
)

// LookedUp are the refs that a place answered with since a moment, by what was
// asked; what wasn't asked since then is not in it.
func (s *Store) LookedUp(ctx context.Context, siteID int64, asked []string, since time.Time) (map[string][]string, error) {
	var rows []struct{ Asked, Refs string }
	err := s.read.WithContext(ctx).
		Raw("SELECT asked, refs FROM look_ups WHERE site_id = ? AND looked_at > ? AND asked"+inList, siteID, since, textList(asked)).
		Scan(&rows).Error
	out := make(map[string][]string, len(rows))
	for _, r := range rows {
		var refs []string
		if err := json.Unmarshal([]byte(r.Refs), &refs); err != nil {
			return nil, err
		}
		out[r.Asked] = refs
	}
	return out, err
}

// PutLookUps keeps what a place answered.
func (tx Tx) PutLookUps(list []LookUp) error {
	rows := make([][]any, len(list))
	for i, l := range list {
		refs, err := json.Marshal(l.Refs)
		if err != nil {
			return err
		}
		rows[i] = []any{l.SiteID, l.Asked, string(refs), stamp(l.LookedAt)}
	}
	return tx.insertRows("look_ups (site_id, asked, refs, looked_at)", rows,
		"ON CONFLICT (site_id, asked) DO UPDATE SET refs = excluded.refs, looked_at = excluded.looked_at")
}

// ForgetLookUps has all of a site asked again when it is needed.
func (tx Tx) ForgetLookUps(siteID int64) error {
	return tx.db.Where("site_id = ?", siteID).Delete(&LookUp{}).Error
}

// Leaves are what is noted of leave to sell, by category.
func (tx Tx) Leaves(siteID int64) (map[string]string, error) {
	var list []Leave
	err := tx.db.Where("site_id = ?", siteID).Find(&list).Error
	out := make(map[string]string, len(list))
	for _, l := range list {
		out[l.Category] = l.State
	}
	return out, err
}

// LeavesGiven are the categories of a site that there is leave for.
func (tx Tx) LeavesGiven(siteID int64) (map[string]bool, error) {
	list, err := tx.Leaves(siteID)
	out := map[string]bool{}
	for category, state := range list {
		out[category] = state == LeaveGiven
	}
	return out, err
}

// PutLeave notes leave, in place of what was noted, and marks our own listings there.
func (tx Tx) PutLeave(now time.Time, l Leave) error {
	if err := tx.db.Save(&l).Error; err != nil {
		return err
	}
	return tx.dirtyOwn(now, l.SiteID)
}

// CertainChoice is a certain match that waits to be accepted.
type CertainChoice struct {
	ID             int64
	Entry          string
	Bought, Listed int64
}

// CertainChoices are some of those of a site.
func (s *Store) CertainChoices(ctx context.Context, siteID int64, limit int) ([]CertainChoice, error) {
	var out []CertainChoice
	err := s.read.WithContext(ctx).Raw(`SELECT id, candidates->>0 AS entry, units_bought AS bought, units_listed AS listed FROM matches
		WHERE site_id = ? AND state = 'certain' ORDER BY id LIMIT ?`, siteID, limit).Scan(&out).Error
	return out, err
}

// AddPool adds numbers to the pool, and says how many are new to it.
func (tx Tx) AddPool(now time.Time, numbers []string) (int64, error) {
	rows := make([][]any, len(numbers))
	for i, n := range numbers {
		rows[i] = []any{n, stamp(now)}
	}
	var before, after int64
	count := func(into *int64) error { return tx.db.Raw("SELECT count(*) FROM pool_numbers").Scan(into).Error }
	if err := count(&before); err != nil {
		return 0, err
	}
	if err := tx.insertRows("pool_numbers (gtin, added_at)", rows, "ON CONFLICT (gtin) DO NOTHING"); err != nil {
		return 0, err
	}
	err := count(&after)
	return after - before, err
}

// PoolCounts counts the numbers that are free and those that were handed out.
func (s *Store) PoolCounts(ctx context.Context) (free, taken int64, err error) {
	var n struct{ Free, Taken int64 }
	err = s.read.WithContext(ctx).Raw(`SELECT count(*) FILTER (WHERE taken_at IS NULL) AS free, count(taken_at) AS taken FROM pool_numbers`).
		Scan(&n).Error
	return n.Free, n.Taken, err
}

// NumberOf is the number of the pool that a match got; "" for none.
func (tx Tx) NumberOf(matchID int64) (string, error) {
	var out string
	err := tx.db.Raw("SELECT gtin FROM pool_numbers WHERE match_id = ?", matchID).Scan(&out).Error
	return out, err
}

// TakeNumber hands the next free number out; "" where none is left.
func (tx Tx) TakeNumber(now time.Time, matchID int64) (string, error) {
	var out string
	err := tx.db.Raw(`UPDATE pool_numbers SET match_id = ?, taken_at = ? WHERE gtin =
		(SELECT gtin FROM pool_numbers WHERE taken_at IS NULL ORDER BY gtin LIMIT 1) RETURNING gtin`, matchID, now).Scan(&out).Error
	return out, err
}

// ReturnNumber puts a match's number back, and says how many it had.
func (tx Tx) ReturnNumber(matchID int64) (int64, error) {
	res := tx.db.Exec("UPDATE pool_numbers SET match_id = NULL, taken_at = NULL WHERE match_id = ?", matchID)
	return res.RowsAffected, res.Error
}

// GiveSKU notes a SKU as given; false where it was given before.
func (tx Tx) GiveSKU(sku string) (bool, error) {
	res := tx.db.Exec("INSERT INTO given_skus (sku) VALUES (?) ON CONFLICT DO NOTHING", sku)
	return res.RowsAffected == 1, res.Error
}

// SupplierName is the name of a source's supplier.
func (tx Tx) SupplierName(sourceID int64) (string, error) {
	var out string
	err := tx.db.Raw("SELECT u.name FROM sources so JOIN suppliers u ON u.id = so.supplier_id WHERE so.id = ?", sourceID).Scan(&out).Error
	return out, err
}

// LastProduct is the highest number that a product has.
func (tx Tx) LastProduct() (int64, error) {
	next, err := tx.nextID("products")
	return next - 1, err
}

// SampleItems are some of the newest supplier products.
func (tx Tx) SampleItems(n int) ([]SupplierProduct, error) {
	var out []SupplierProduct
	err := tx.db.Raw("SELECT * FROM supplier_products WHERE NOT gone ORDER BY id DESC LIMIT ?", n).Scan(&out).Error
	return out, err
}

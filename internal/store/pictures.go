package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// nextMatches are some that wait for a person's decision: the pictures of hundreds
// of thousands that may never be looked at are left where they are.
const nextMatches = `(SELECT m.* FROM sites s CROSS JOIN matches m ON m.site_id = s.id AND m.state IN ('several', 'none') LIMIT 500)`

const unpicturedPage = `SELECT sp.* FROM supplier_products sp WHERE sp.id > ?
	AND (EXISTS (SELECT 1 FROM supply_links k WHERE k.supplier_product_id = sp.id) OR EXISTS (SELECT 1 FROM finds f
		WHERE f.supplier_product_id = sp.id) OR sp.id IN (SELECT m.supplier_product_id FROM ` + nextMatches + ` m))
	AND (NOT EXISTS (SELECT 1 FROM picture_uses u WHERE u.supplier_product_id = sp.id)
		OR EXISTS (SELECT 1 FROM supplier_changes c WHERE c.supplier_product_id = sp.id AND c.field = 'pictures')) ORDER BY sp.id LIMIT ?`

// UnpicturedItems are supplier products of ours, kept, or next on Match, after a
// given id, whose pictures aren't noted yet or were changed by a feed since.
func (s *Store) UnpicturedItems(ctx context.Context, after int64, limit int) ([]SupplierProduct, error) {
	var out []SupplierProduct
	err := s.read.WithContext(ctx).Raw(unpicturedPage, after, limit).Scan(&out).Error
	return out, err
}

// UsePictures notes which pictures a supplier product has, in their order. New
// addresses wait to be fetched.
func (tx Tx) UsePictures(itemID int64, urls []string) error {
	if err := tx.db.Where("supplier_product_id = ?", itemID).Delete(&PictureUse{}).Error; err != nil {
		return err
	}
	for i, u := range urls {
		p := Picture{URL: u, State: PictureWaiting}
		err := tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "url"}}, DoNothing: true}).Create(&p).Error
		if err != nil {
			return err
		}
		if err := tx.db.Where("url = ?", u).Limit(1).Find(&p).Error; err != nil {
			return err
		}
		if err := tx.db.Create(&PictureUse{itemID, int64(i), p.ID}).Error; err != nil {
			return err
		}
	}
	return nil
}

// WaitingPictures are pictures to be fetched: new ones, and failed ones that
// are due to be tried again.
func (s *Store) WaitingPictures(ctx context.Context, tries int64, before time.Time, limit int) ([]Picture, error) {
	var out []Picture
	err := s.read.WithContext(ctx).
		Where("state = ? OR state = ? AND tries < ? AND tried_at < ?", PictureWaiting, PictureFailed, tries, before).
		Order("id").
		Limit(limit).
		Find(&out).Error
	return out, err
}

// CountWaitingPictures counts the new ones among them.
func (s *Store) CountWaitingPictures(ctx context.Context) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&Picture{}).Where("state = ?", PictureWaiting).Count(&n).Error
	return n, err
}

// PictureRow is one picture of a supplier product.
type PictureRow struct {
	URL    string
	State  string
	Digest string
	Width  int64
	Height int64
	Why    string
}

// PicturesOf lists a supplier product's pictures, in their order.
func (s *Store) PicturesOf(ctx context.Context, itemID int64) ([]PictureRow, error) {
	out := []PictureRow{}
	err := s.read.WithContext(ctx).
		Raw(`SELECT p.url, p.state, p.digest, p.width, p.height, p.why FROM picture_uses u JOIN pictures p ON p.id = u.picture_id
		WHERE u.supplier_product_id = ? ORDER BY u.position`, itemID).Scan(&out).Error
	return out, err
}

// PictureOf is the picture of a digest, or ErrMissing.
func (s *Store) PictureOf(ctx context.Context, digest string) (Picture, error) {
	var p Picture
	res := s.read.WithContext(ctx).Where("digest = ? AND state = ?", digest, PictureKept).Limit(1).Find(&p)
	if res.Error == nil && res.RowsAffected == 0 {
		return p, ErrMissing
	}
	return p, res.Error
}

// NoteEntryPictures notes the pictures of those entries that somebody would look
// at: that a supplier product which waits on Match may be, and those listed on
// where no supplier shows what it is. It says how many are new.
func (tx Tx) NoteEntryPictures() (int64, error) {
	res := tx.db.Exec(`INSERT INTO pictures (url, state) SELECT DISTINCT picture, 'waiting' FROM (
		SELECT e.picture FROM ` + nextMatches + ` m CROSS JOIN json_each(m.candidates) c
			CROSS JOIN entries e ON e.site_id = m.site_id AND e.ref = CASE c.type WHEN 'text' THEN c.value ELSE json_extract(c.value, '$.ref') END
		UNION ALL
		SELECT e.picture FROM listings l JOIN entries e ON e.id = l.entry_id WHERE NOT EXISTS (SELECT 1 FROM supply_links k
			JOIN picture_uses u ON u.supplier_product_id = k.supplier_product_id WHERE k.product_id = l.product_id)
		) WHERE picture <> '' ON CONFLICT (url) DO NOTHING`)
	return res.RowsAffected, res.Error
}

// NotePictures has pictures fetched that aren't known yet. It says how many are new.
func (tx Tx) NotePictures(urls []string) (int64, error) {
	text, err := json.Marshal(urls)
	if err != nil {
		return 0, err
	}
	res := tx.db.Exec(`INSERT INTO pictures (url, state) SELECT DISTINCT value, 'waiting' FROM json_each(?) WHERE value <> ''
		ON CONFLICT (url) DO NOTHING`, string(text))
	return res.RowsAffected, res.Error
}

// PicturesAt are the digests of those pictures of some addresses that are kept.
func (s *Store) PicturesAt(ctx context.Context, urls []string) (map[string]string, error) {
	text, err := json.Marshal(urls)
	if err != nil {
		return nil, err
	}
	return digests[string](s.read.WithContext(ctx),
		`SELECT url AS key, digest FROM pictures WHERE state = 'kept' AND url IN (SELECT value FROM json_each(?))`, string(text))
}

// leading is the first picture of a supplier product that is kept.
const leading = `(SELECT x.digest FROM picture_uses u CROSS JOIN pictures x ON x.id = u.picture_id AND x.state = 'kept'
	WHERE u.supplier_product_id = %s ORDER BY u.position LIMIT 1)`

// itemPictures are the digests of the leading pictures of some supplier products.
func (s *Store) itemPictures(ctx context.Context, ids []int64) (map[int64]string, error) {
	return digests[int64](s.read.WithContext(ctx),
		"SELECT value AS key, "+fmt.Sprintf(leading, "value")+" AS digest FROM json_each(?)", listOf(ids))
}

// listingPictures are the digests of the leading pictures of some listings: that
// which a person chose, the present supplier's, another's, or else the entry's.
func (s *Store) listingPictures(ctx context.Context, ids []int64) (map[int64]string, error) {
	return digests[int64](s.read.WithContext(ctx), `SELECT l.id AS key, coalesce(
		(SELECT s.value->>'$[0].digest' FROM sayings s WHERE s.listing_id = l.id AND s.field = 'pictures'),
		(SELECT d FROM (SELECT k.id = l.supply_link_id AS present, `+fmt.Sprintf(leading, "k.supplier_product_id")+` AS d
			FROM supply_links k WHERE k.product_id = l.product_id) WHERE d IS NOT NULL ORDER BY present DESC LIMIT 1),
		(SELECT x.digest FROM entries e CROSS JOIN pictures x ON x.url = e.picture AND x.state = 'kept' WHERE e.id = l.entry_id)) AS digest
		FROM json_each(?) j CROSS JOIN listings l ON l.id = j.value`, listOf(ids))
}

// digests reads pairs of a key and a digest; keys without one are left out.
func digests[K comparable](db *gorm.DB, query string, args ...any) (map[K]string, error) {
	var rows []struct {
		Key    K
		Digest *string
	}
	out := map[K]string{}
	err := db.Raw(query, args...).Scan(&rows).Error
	for _, r := range rows {
		if r.Digest != nil {
			out[r.Key] = *r.Digest
		}
	}
	return out, err
}

// pictured gives the rows of a list the digests of their pictures. They are read
// for the page alone: the whole list is sorted without them.
func pictured[T any](ctx context.Context, rows []T, id func(*T) int64, picture func(*T) *string,
	of func(ctx context.Context, ids []int64) (map[int64]string, error)) error {
	ids := make([]int64, len(rows))
	for i := range rows {
		ids[i] = id(&rows[i])
	}
	found, err := of(ctx, ids)
	for i := range rows {
		*picture(&rows[i]) = found[ids[i]]
	}
	return err
}

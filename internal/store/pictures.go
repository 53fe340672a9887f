package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

const unpicturedPage = `SELECT sp.* FROM supplier_products sp WHERE sp.id > ?
	AND (EXISTS (SELECT 1 FROM supply_links k WHERE k.supplier_product_id = sp.id) OR EXISTS (SELECT 1 FROM finds f
		WHERE f.supplier_product_id = sp.id))
	AND (NOT EXISTS (SELECT 1 FROM picture_uses u WHERE u.supplier_product_id = sp.id)
		OR EXISTS (SELECT 1 FROM supplier_changes c WHERE c.supplier_product_id = sp.id AND c.field = 'pictures')) ORDER BY sp.id LIMIT ?`

// UnpicturedItems are supplier products of ours, or kept, after a given id,
// whose pictures aren't noted yet or were changed by a feed since.
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

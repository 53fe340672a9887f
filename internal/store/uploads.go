package store

import (
	"fmt"
	"strings"
	"time"
)

// Where pictures come from that no address gives.
const (
	ownPicture  = "own:"  // a person brought it
	madePicture = "made:" // it was made of another
)

// PutPicture notes a picture that no address gives; made tells whether it was
// made of another. Its file is there already.
func (tx Tx) PutPicture(p *Picture, made bool) error {
	p.URL, p.State = ownPicture+p.Digest, PictureKept
	if made {
		p.URL = madePicture + p.Digest
	}
	return tx.db.Exec(`INSERT INTO pictures (url, state, digest, kind, width, height, bytes) VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (url) DO NOTHING`,
		p.URL, p.State, p.Digest, p.Kind, p.Width, p.Height, p.Bytes).Error
}

// PutPictureAddress notes where a picture that is kept can be had by anybody.
func (tx Tx) PutPictureAddress(address, digest string) error {
	return tx.db.Exec(`INSERT INTO pictures (url, state, digest, kind, width, height, bytes)
		SELECT ?, state, digest, kind, width, height, bytes FROM pictures WHERE digest = ? AND state = 'kept' LIMIT 1
		ON CONFLICT (url) DO UPDATE SET state = excluded.state, digest = excluded.digest, kind = excluded.kind, width = excluded.width,
			height = excluded.height, bytes = excluded.bytes`, address, digest).Error
}

// PictureKeptAs is a kept picture by its digest: first as an address gives it.
func (tx Tx) PictureKeptAs(digest string) (Picture, error) {
	var p Picture
	res := tx.db.Raw("SELECT * FROM pictures WHERE digest = ? AND state = 'kept' ORDER BY url NOT LIKE 'http%', id LIMIT 1", digest).Scan(&p)
	if res.Error == nil && res.RowsAffected == 0 {
		return p, fmt.Errorf("picture %s: %w", digest, ErrMissing)
	}
	return p, res.Error
}

// PictureNamed is a kept picture as a line names it: by its address, or by
// sha256: and its digest.
func (tx Tx) PictureNamed(name string) (Picture, error) {
	if digest, ok := strings.CutPrefix(name, "sha256:"); ok {
		return tx.PictureKeptAs(digest)
	}
	var p Picture
	res := tx.db.Raw("SELECT * FROM pictures WHERE url = ? AND state = 'kept' LIMIT 1", name).Scan(&p)
	if res.Error == nil && res.RowsAffected == 0 {
		return p, fmt.Errorf("picture %s: %w", name, ErrMissing)
	}
	return p, res.Error
}

// PicturesFor are all kept pictures that a product may be shown by: of every
// supplier of it, of its entries, and those that a person brought for it.
func (tx Tx) PicturesFor(productID int64) ([]Picture, error) {
	var out []Picture
	err := tx.db.Raw(`SELECT x.* FROM pictures x WHERE x.state = 'kept' AND x.id IN (
		SELECT u.picture_id FROM supply_links k CROSS JOIN picture_uses u ON u.supplier_product_id = k.supplier_product_id WHERE k.product_id = ?1
		UNION SELECT p.id FROM listings l CROSS JOIN entries e ON e.id = l.entry_id CROSS JOIN pictures p ON p.url = e.picture WHERE l.product_id = ?1
		UNION SELECT p.id FROM listings l CROSS JOIN sayings s ON s.listing_id = l.id AND s.field = 'pictures' CROSS JOIN json_each(s.value) j
			CROSS JOIN pictures p ON p.url = '`+ownPicture+`' || (j.value->>'original') WHERE l.product_id = ?1) ORDER BY x.id`, productID).Scan(&out).Error
	return out, err
}

// Uploaded tells which of some pictures a marketplace was given.
func (tx Tx) Uploaded(marketplaceID int64, digests []string) (map[string]bool, error) {
	var found []string
	out := map[string]bool{}
	err := tx.db.Raw("SELECT digest FROM uploads WHERE marketplace_id = ? AND digest IN ?", marketplaceID, digests).Scan(&found).Error
	for _, d := range found {
		out[d] = true
	}
	return out, err
}

// PutUpload notes that a marketplace was given a picture.
func (tx Tx) PutUpload(marketplaceID int64, digest string, now time.Time) error {
	return tx.db.Exec("INSERT INTO uploads (marketplace_id, digest, at) VALUES (?, ?, ?) ON CONFLICT DO NOTHING", marketplaceID, digest, now).Error
}

// ForgetUploads has pictures given to a marketplace once more: it says that it
// hasn't got one.
func (tx Tx) ForgetUploads(marketplaceID int64) error {
	return tx.db.Exec("DELETE FROM uploads WHERE marketplace_id = ?", marketplaceID).Error
}

// PictureJob is what is to be done to the pictures of many listings.
type PictureJob struct {
	ID       int64
	Recipe   string // JSON of retouch.Recipe
	Listings string // JSON of ids
	Done     int64  // of them, from the first on
}

// UseKeptPictures has a supplier product shown by pictures that a person brought,
// in their order.
func (tx Tx) UseKeptPictures(itemID int64, digests []string) error {
	for i, d := range digests {
		p, err := tx.PictureKeptAs(d)
		if err != nil {
			return err
		}
		if err := tx.db.Create(&PictureUse{itemID, int64(i), p.ID}).Error; err != nil {
			return err
		}
	}
	return nil
}

package store

import (
	"time"
)

// CategoryDefault is what holds for all listings of our own in a category.
type CategoryDefault struct {
	SiteID   int64  `gorm:"primaryKey;autoIncrement:false"`
	Category string `gorm:"primaryKey"` // ref; "" is every category
	Defaults string // JSON of reckon.Defaults
	Actor    string
	At       time.Time
}

// CategoryDefaults are those of a site, by category.
func (tx Tx) CategoryDefaults(siteID int64) (map[string]CategoryDefault, error) {
	var rows []CategoryDefault
	out := map[string]CategoryDefault{}
	err := tx.db.Where("site_id = ?", siteID).Find(&rows).Error
	for _, r := range rows {
		out[r.Category] = r
	}
	return out, err
}

// PutCategoryDefault keeps one, and marks the site's own listings.
func (tx Tx) PutCategoryDefault(now time.Time, d CategoryDefault) error {
	if err := tx.db.Exec(`INSERT INTO category_defaults (site_id, category, defaults, actor, at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET defaults = excluded.defaults, actor = excluded.actor, at = excluded.at`, d.SiteID, d.Category, d.Defaults, d.Actor, d.At).Error; err != nil {
		return err
	}
	return tx.dirtyOwn(now, d.SiteID)
}

// dirtyOwn marks the listings of our own on a site.
func (tx Tx) dirtyOwn(now time.Time, siteID int64) error {
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ? AND l.entry_id IS NULL", siteID)
}

// SellingTerms are the answers that many listings of a site share.
type SellingTerms struct {
	SiteID int64  `gorm:"primaryKey;autoIncrement:false"`
	Name   string `gorm:"primaryKey"`
	Terms  string // JSON of listing.Terms
	Actor  string
	At     time.Time
}

// TableName says which table they are in.
func (SellingTerms) TableName() string { return "selling_terms" }

// SellingTerms are those of a site, by name.
func (tx Tx) SellingTerms(siteID int64) ([]SellingTerms, error) {
	var out []SellingTerms
	err := tx.db.Where("site_id = ?", siteID).Order("name COLLATE NOCASE").Find(&out).Error
	return out, err
}

// PutSellingTerms keeps some under a name, and marks the site's own listings.
func (tx Tx) PutSellingTerms(now time.Time, t SellingTerms) error {
	if err := tx.db.Exec(`INSERT INTO selling_terms (site_id, name, terms, actor, at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET terms = excluded.terms, actor = excluded.actor, at = excluded.at`, t.SiteID, t.Name, t.Terms, t.Actor, t.At).Error; err != nil {
		return err
	}
	return tx.dirtyOwn(now, t.SiteID)
}

// DropSellingTerms forgets some, and marks the site's own listings.
func (tx Tx) DropSellingTerms(now time.Time, siteID int64, name string) error {
	res := tx.db.Exec("DELETE FROM selling_terms WHERE site_id = ? AND name = ?", siteID, name)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrMissing
	}
	if res.Error != nil {
		return res.Error
	}
	return tx.dirtyOwn(now, siteID)
}

// OwnListings are the listings of our own on a site that are wanted there.
func (tx Tx) OwnListings(siteID int64, limit int) ([]int64, error) {
	var ids []int64
	err := tx.db.Raw("SELECT id FROM listings WHERE site_id = ? AND entry_id IS NULL AND NOT unwanted ORDER BY id LIMIT ?", siteID, limit).Scan(&ids).Error
	return ids, err
}

// LearnCategory keeps which of a site's categories a supplier's is.
func (tx Tx) LearnCategory(siteID int64, ours, category, actor string, now time.Time) error {
	return tx.db.Exec(`INSERT INTO category_words (site_id, ours, category, actor, at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET category = excluded.category, actor = excluded.actor, at = excluded.at`, siteID, ours, category, actor, now).Error
}

// UnlearnCategory forgets it.
func (tx Tx) UnlearnCategory(siteID int64, ours string) error {
	return tx.db.Exec("DELETE FROM category_words WHERE site_id = ? AND ours = ?", siteID, ours).Error
}

// CategoryWord is which of a site's categories a supplier's is.
type CategoryWord struct {
	SiteID   int64
	Ours     string
	Category string
	Actor    string
	At       time.Time
}

// CategoryWords are all that were learnt on a site.
func (tx Tx) CategoryWords(siteID int64) ([]CategoryWord, error) {
	var out []CategoryWord
	err := tx.db.Where("site_id = ?", siteID).Order("ours").Find(&out).Error
	return out, err
}

// BrandRequest is a brand that a place was asked to put on its register.
type BrandRequest struct {
	SiteID  int64  `gorm:"primaryKey;autoIncrement:false"`
	Brand   string `gorm:"primaryKey"`
	State   string // BrandAsked, BrandGiven, BrandRefused
	Comment string
	Picture string
	Actor   string
	At      time.Time
}

// States of a brand that was asked for.
const (
	BrandAsked   = "asked"
	BrandGiven   = "given"
	BrandRefused = "refused"
)

// BrandRequests are those of a site, the newest first.
func (tx Tx) BrandRequests(siteID int64) ([]BrandRequest, error) {
	var out []BrandRequest
	err := tx.db.Where("site_id = ?", siteID).Order("at DESC, brand").Find(&out).Error
	return out, err
}

// PutBrandRequest keeps one, and marks the site's own listings.
func (tx Tx) PutBrandRequest(now time.Time, b BrandRequest) error {
	if err := tx.db.Exec(`INSERT INTO brand_requests (site_id, brand, state, comment, picture, actor, at) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET state = excluded.state, comment = excluded.comment, picture = excluded.picture, actor = excluded.actor, at = excluded.at`,
		b.SiteID, b.Brand, b.State, b.Comment, b.Picture, b.Actor, b.At).Error; err != nil {
		return err
	}
	return tx.dirtyOwn(now, b.SiteID)
}

package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm/clause"
)

// CountListings counts the listings of a site.
func (s *Store) CountListings(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&Listing{}).Where("site_id = ?", siteID).Count(&n).Error
	return n, err
}

// PutWorkedOut writes what was worked out for a listing, and nothing else of
// it: a state that a send-out gave it in the meantime stays.
func (tx Tx) PutWorkedOut(l *Listing) error {
	return tx.db.Exec(`UPDATE listings SET state = CASE WHEN state IN ('unpriced', 'ready', 'paused') THEN ? ELSE state END, price = ?, quantity = ?, landed = ?, fees = ?, tax = ?, outbound = ?, profit = ?, floor = ?, break_even = ?, bound = ?, rule_id = ?, why = ? WHERE id = ?`,
		l.State, l.Price, l.Quantity, l.Landed, l.Fees, l.Tax, l.Outbound, l.Profit, l.Floor, l.BreakEven, l.Bound, l.RuleID, l.Why, l.ID).Error
}

// ChooseLink makes one supply link of a product the present one.
func (tx Tx) ChooseLink(productID, linkID int64) error {
	return tx.db.Exec(`UPDATE supply_links SET present = (id = ?) WHERE product_id = ?`, linkID, productID).Error
}

// CategoriesOf lists a site's categories.
func (s *Store) CategoriesOf(ctx context.Context, siteID int64) ([]Category, error) {
	var out []Category
	err := s.read.WithContext(ctx).Where("site_id = ?", siteID).Order("name").Find(&out).Error
	return out, err
}

// FeesOf lists a site's fee schedules, oldest first.
func (s *Store) FeesOf(ctx context.Context, siteID int64) ([]FeeSchedule, error) {
	var out []FeeSchedule
	err := s.read.WithContext(ctx).Where("site_id = ?", siteID).Order("category, starts_on").Find(&out).Error
	return out, err
}

// PutFees replaces a site's categories and the schedules that came from its
// gateway. One that a person made stays, and holds where both start on one day.
func (tx Tx) PutFees(siteID int64, cats []Category, fees []FeeSchedule) error {
	err := errors.Join(tx.db.Where("site_id = ?", siteID).Delete(&Category{}).Error, tx.db.Where("site_id = ? AND NOT coalesce(by_hand, 0)", siteID).Delete(&FeeSchedule{}).Error)
	if err == nil && len(cats) > 0 {
		err = tx.CreateAll(cats)
	}
	if err == nil && len(fees) > 0 {
		err = tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(fees, 200).Error
	}
	return err
}

// PutSchedule keeps a schedule that a person made, in place of any that starts the same day.
func (tx Tx) PutSchedule(f *FeeSchedule) error {
	f.ByHand = true
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "site_id"}, {Name: "category"}, {Name: "starts_on"}},
		DoUpdates: clause.AssignmentColumns([]string{"fees", "warehouse", "by_hand"})}).Create(f).Error
}

// DropSchedule drops a schedule that a person made.
func (tx Tx) DropSchedule(siteID int64, category, startsOn string) error {
	res := tx.db.Where("site_id = ? AND category = ? AND starts_on = ? AND by_hand", siteID, category, startsOn).Delete(&FeeSchedule{})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrMissing
	}
	return res.Error
}

// Rules lists a site's price rules, in the order they are tried.
func (s *Store) Rules(ctx context.Context, siteID int64) ([]PriceRule, error) {
	var out []PriceRule
	err := s.read.WithContext(ctx).Where("site_id = ?", siteID).Order("position, id").Find(&out).Error
	return out, err
}

// OrderRules writes the order in which rules are tried.
func (tx Tx) OrderRules(ids []int64) error {
	for i, id := range ids {
		if err := tx.db.Model(&PriceRule{ID: id}).Update("position", i+1).Error; err != nil {
			return err
		}
	}
	return nil
}

// DropRule drops a rule.
func (tx Tx) DropRule(id int64) error { return tx.db.Delete(&PriceRule{ID: id}).Error }

// RuleCount is how many listings a rule holds.
type RuleCount struct {
	RuleID *int64
	N      int64
}

// RuleCounts counts the listings that each rule of a site holds.
func (s *Store) RuleCounts(ctx context.Context, siteID int64) ([]RuleCount, error) {
	var out []RuleCount
	err := s.read.WithContext(ctx).Raw("SELECT rule_id, count(*) AS n FROM listings WHERE rule_id IN (SELECT id FROM price_rules WHERE site_id = ?) GROUP BY rule_id", siteID).Scan(&out).Error
	return out, err
}

// Setting reads a setting; "" where it was never set.
func (s *Store) Setting(ctx context.Context, key string) (string, error) {
	var x Setting
	err := s.read.WithContext(ctx).Where("key = ?", key).Limit(1).Find(&x).Error
	return x.Value, err
}

// SetSetting keeps a setting.
func (s *Store) SetSetting(ctx context.Context, key, value string) error {
	return s.Save(ctx, &Setting{Key: key, Value: value})
}

// ListedEntry is an entry that we have a listing on.
type ListedEntry struct {
	Entry     `gorm:"embedded"`
	ListingID int64
}

const listedEntriesPage = `SELECT e.*, l.id AS listing_id FROM listings l CROSS JOIN entries e ON e.id = l.entry_id
	WHERE +l.site_id = ? AND l.id > ? AND (e.offers_at IS NULL OR e.offers_at < ?) ORDER BY l.id LIMIT ?`

// ListedEntries are the entries we have listings on whose offers were not read
// since a moment, in order of the listings after a given one.
func (s *Store) ListedEntries(ctx context.Context, siteID, after int64, limit int, before time.Time) ([]ListedEntry, error) {
	var out []ListedEntry
	err := s.read.WithContext(ctx).Raw(listedEntriesPage, siteID, after, before, limit).Scan(&out).Error
	return out, err
}

// PutOffers keeps what others ask on an entry.
func (tx Tx) PutOffers(entryID int64, offers string, at time.Time) error {
	return tx.db.Exec("UPDATE entries SET offers = ?, offers_at = ? WHERE id = ?", offers, at, entryID).Error
}

// ListingOn is a product's listing on a site; false where there is none.
func (s *Store) ListingOn(ctx context.Context, productID, siteID int64) (Listing, bool, error) {
	var l Listing
	res := s.read.WithContext(ctx).Where("product_id = ? AND site_id = ?", productID, siteID).Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// CategoryOf is the category that a product has on any site of a marketplace; "" where none is known.
func (s *Store) CategoryOf(ctx context.Context, productID, marketplaceID int64) (string, error) {
	var out []string
	err := s.read.WithContext(ctx).Raw(`SELECT e.category FROM listings l JOIN entries e ON e.id = l.entry_id JOIN sites s ON s.id = l.site_id
		WHERE l.product_id = ? AND s.marketplace_id = ? LIMIT 1`, productID, marketplaceID).Scan(&out).Error
	return strings.Join(out, ""), err
}

// Confirmed lists what a listing has been offered at, oldest first.
func (s *Store) Confirmed(ctx context.Context, listingID int64) ([]SendLine, error) {
	var out []SendLine
	err := s.read.WithContext(ctx).Where("listing_id = ? AND state = ? AND price IS NOT NULL AND answered_at IS NOT NULL", listingID, SendConfirmed).Order("answered_at, id").Find(&out).Error
	return out, err
}

// Rates lists the exchange rates.
func (s *Store) Rates(ctx context.Context) ([]ExchangeRate, error) {
	var out []ExchangeRate
	err := s.read.WithContext(ctx).Order("from_currency, to_currency").Find(&out).Error
	return out, err
}

// PutRate keeps one exchange rate in place of an earlier one.
func (tx Tx) PutRate(r *ExchangeRate) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "from_currency"}, {Name: "to_currency"}},
		DoUpdates: clause.AssignmentColumns([]string{"rate", "day", "way"})}).Create(r).Error
}

package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm/clause"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// Sites lists every site with its marketplace.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	var out []Site
	err := s.read.WithContext(ctx).Preload("Marketplace").Order("id").Find(&out).Error
	return out, err
}

// Sites is Store.Sites inside a transaction.
func (tx Tx) Sites() ([]Site, error) {
	var out []Site
	err := tx.db.Preload("Marketplace").Order("id").Find(&out).Error
	return out, err
}

// SiteOf is one site with its marketplace.
func (s *Store) SiteOf(ctx context.Context, id int64) (Site, error) {
	return get[Site](s.read.WithContext(ctx).Preload("Marketplace"), id)
}

// SiteOf is Store.SiteOf inside a transaction.
func (tx Tx) SiteOf(id int64) (Site, error) { return get[Site](tx.db.Preload("Marketplace"), id) }

// ReadTaxRates are the rates of tax by country and day; none where one holds for all.
func (s *Site) ReadTaxRates() (rates pricing.TaxRates, err error) {
	if s.TaxRates == "" {
		return nil, nil
	}
	if err = json.Unmarshal([]byte(s.TaxRates), &rates); err != nil {
		err = fmt.Errorf("the rates of tax of %s: %w", s.Name, err)
	}
	return rates, err
}

// TaxOn is the rate of tax in what buyers of a country pay on a day, millionths; where
// nothing else is said, the site's own.
func (s *Site) TaxOn(country string, at time.Time) (int64, error) {
	rates, err := s.ReadTaxRates()
	return int64(rates.On(country, at.Format(time.DateOnly), money.Rate(s.TaxRate))), err
}

// SoldOn tells whether anything of a site was ever handed over, is known to be on sale
// there, or was ordered.
func (tx Tx) SoldOn(siteID int64) (sold bool, err error) {
	return sold, tx.db.Raw(`SELECT EXISTS (SELECT 1 FROM listings l WHERE l.site_id = ?1 AND (l.confirmed_price IS NOT NULL OR l.confirmed_quantity > 0
		OR EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id))) OR EXISTS (SELECT 1 FROM orders WHERE site_id = ?1)`, siteID).Scan(&sold).Error
}

// ListIn has what is listed on a site be priced in another currency from now on.
func (tx Tx) ListIn(siteID int64, currency string) error {
	return tx.db.Model(&Listing{}).Where("site_id = ?", siteID).Update("currency", currency).Error
}

// SetSite changes what is set of a site, and marks all that is listed there.
func (tx Tx) SetSite(now time.Time, siteID int64, columns map[string]any) error {
	if err := tx.db.Model(&Site{ID: siteID}).Updates(columns).Error; err != nil {
		return err
	}
	return tx.DirtySite(now, siteID)
}

// MoveMarketplace points a marketplace to where it is now, and with it the pages
// and pictures that were below its address.
func (s *Store) MoveMarketplace(ctx context.Context, name, gateway string) error {
	return s.Do(ctx, func(tx Tx) error {
		var m Marketplace
		if err := tx.db.Where("name = ?", name).Limit(1).Find(&m).Error; err != nil || m.ID == 0 || m.Address == gateway {
			return err
		}
		for table, columns := range map[string][]string{"entries": {"page", "picture"}, "pictures": {"url"}} {
			for _, column := range columns {
				err := tx.db.Exec("UPDATE OR IGNORE "+table+" SET "+column+" = ? || substr("+column+", ?) WHERE substr("+column+", 1, ?) = ?",
					gateway, len(m.Address)+1, len(m.Address)+1, m.Address+"/").Error
				if err != nil {
					return err
				}
			}
		}
		return tx.db.Model(&m).Update("address", gateway).Error
	})
}

// CategoriesOf lists a site's categories.
func (tx Tx) CategoriesOf(siteID int64) ([]Category, error) {
	var out []Category
	err := tx.db.Where("site_id = ?", siteID).Order("name").Find(&out).Error
	return out, err
}

// FeesOf lists a site's fee schedules, oldest first.
func (tx Tx) FeesOf(siteID int64) ([]FeeSchedule, error) {
	var out []FeeSchedule
	err := tx.db.Where("site_id = ?", siteID).Order("category, starts_on").Find(&out).Error
	return out, err
}

// PutFees replaces a site's categories and the schedules that came from its
// gateway. One that a person made stays, and holds where both start on one day.
func (tx Tx) PutFees(now time.Time, siteID int64, cats []Category, fees []FeeSchedule) error {
	err := errors.Join(
		tx.db.Where("site_id = ?", siteID).Delete(&Category{}).Error,
		tx.db.Where("site_id = ? AND NOT by_hand", siteID).Delete(&FeeSchedule{}).Error,
	)
	if err == nil && len(cats) > 0 {
		err = tx.CreateAll(cats)
	}
	if err == nil && len(fees) > 0 {
		err = tx.db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(fees, 200).Error
	}
	if err != nil {
		return err
	}
	return tx.SetSite(now, siteID, map[string]any{"fees_at": &now})
}

// ScheduleOf is the schedule of a category from a day on; false where there is none.
func (tx Tx) ScheduleOf(siteID int64, category, startsOn string) (FeeSchedule, bool, error) {
	var f FeeSchedule
	res := tx.db.Where("site_id = ? AND category = ? AND starts_on = ?", siteID, category, startsOn).Limit(1).Find(&f)
	return f, res.RowsAffected > 0, res.Error
}

// PutSchedule keeps a schedule that a person made, in place of any that starts the same day.
func (tx Tx) PutSchedule(now time.Time, f *FeeSchedule) error {
	f.ByHand = true
	err := tx.db.Clauses(clause.OnConflict{
		Columns: []clause.Column{{Name: "site_id"}, {Name: "category"}, {Name: "starts_on"}},
		DoUpdates: append(
			clause.AssignmentColumns([]string{"fees", "warehouse", "by_hand"}),
			clause.Assignments(map[string]any{"version": clause.Expr{SQL: "fee_schedules.version + 1"}})...),
	}).Create(f).Error
	if err != nil {
		return err
	}
	return tx.DirtySite(now, f.SiteID)
}

// DropSchedule drops a schedule that a person made.
func (tx Tx) DropSchedule(now time.Time, siteID int64, category, startsOn string) error {
	res := tx.db.Where("site_id = ? AND category = ? AND starts_on = ? AND by_hand", siteID, category, startsOn).Delete(&FeeSchedule{})
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrMissing
	}
	if res.Error != nil {
		return res.Error
	}
	return tx.DirtySite(now, siteID)
}

// CategoryOf is the category that a product has on any site of a marketplace; "" where none is known.
func (s *Store) CategoryOf(ctx context.Context, productID, marketplaceID int64) (string, error) {
	var out []string
	err := s.read.WithContext(ctx).Raw(`SELECT l.category FROM listings l JOIN sites s ON s.id = l.site_id
		WHERE l.product_id = ? AND s.marketplace_id = ? AND l.category <> '' LIMIT 1`, productID, marketplaceID).Scan(&out).Error
	return strings.Join(out, ""), err
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

// PutOffers keeps what others ask on an entry. Where that differs from what was
// known, the listings there are marked.
func (tx Tx) PutOffers(now time.Time, e *Entry) error {
	var before string
	if err := tx.db.Raw("SELECT offers FROM entries WHERE id = ?", e.ID).Scan(&before).Error; err != nil {
		return err
	}
	if err := tx.db.Model(&Entry{ID: e.ID}).
		Updates(map[string]any{"offers": e.Offers, "offers_at": e.OffersAt}).Error; err != nil || before == e.Offers {
		return err
	}
	return tx.DirtyEntries(now, []int64{e.ID})
}

// Rates lists the exchange rates.
func (tx Tx) Rates() ([]ExchangeRate, error) {
	var out []ExchangeRate
	err := tx.db.Order("from_currency, to_currency").Find(&out).Error
	return out, err
}

// PutRate keeps one exchange rate in place of an earlier one, and marks what is
// changed by it.
func (tx Tx) PutRate(now time.Time, r *ExchangeRate) error {
	err := tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "from_currency"}, {Name: "to_currency"}},
		DoUpdates: clause.AssignmentColumns([]string{"rate", "day", "way"})}).Create(r).Error
	if err != nil {
		return err
	}
	return tx.DirtyCurrency(now, r.From, r.To)
}

// Setting reads a setting; "" where it was never set.
func (tx Tx) Setting(key string) (Setting, error) {
	x := Setting{Key: key}
	err := tx.db.Where("key = ?", key).Limit(1).Find(&x).Error
	return x, err
}

// PutSetting keeps a setting.
func (tx Tx) PutSetting(key, value string) error {
	return tx.db.Exec(
		"INSERT INTO settings (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value, version = settings.version + 1",
		key,
		value,
	).Error
}

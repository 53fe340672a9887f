package store

import (
	"context"
	"time"

	"easymargin/internal/actor"
)

// PutDifference keeps that a listing is not there as it was confirmed, in the
// place of what was seen of it before and not decided on: that began with what
// was ours.
func (tx Tx) PutDifference(d *Difference) error {
	var open Difference
	if err := tx.db.Where("listing_id = ? AND state = 'open'", d.ListingID).Order("id DESC").Limit(1).Find(&open).Error; err != nil {
		return err
	}
	if open.ID != 0 {
		d.ID, d.OurPrice, d.OurQuantity = open.ID, open.OurPrice, open.OurQuantity
	}
	if err := tx.db.Save(d).Error; err != nil {
		return err
	}
	tx.Changed("differences", "counts")
	return tx.db.Exec("UPDATE listings SET differs = 1 WHERE id = ?", d.ListingID).Error
}

// CloseDifferences decides on what differs of some listings.
func (tx Tx) CloseDifferences(listingIDs []int64, state string, now time.Time) error {
	if len(listingIDs) == 0 {
		return nil
	}
	res := tx.db.Exec("UPDATE listings SET differs = 0 WHERE differs AND id"+inList, listOf(listingIDs))
	if res.Error != nil || res.RowsAffected == 0 {
		return res.Error
	}
	tx.Changed("differences", "counts")
	return tx.db.Exec("UPDATE differences SET state = ?, decided_at = ?, decided_by = ? WHERE state = 'open' AND listing_id"+inList, state,
		now, actor.Of(tx.db.Statement.Context), listOf(listingIDs)).Error
}

// DifferencesOf are open differences by id.
func (tx Tx) DifferencesOf(ids []int64) ([]Difference, error) {
	var out []Difference
	err := tx.db.Where("state = 'open' AND id"+inList, listOf(ids)).Order("id").Find(&out).Error
	return out, err
}

// FixListing fixes the price of a listing by hand.
func (tx Tx) FixListing(id, price int64) error {
	return tx.db.Exec("UPDATE listings SET fixed_price = ?, version = version + 1 WHERE id = ?", price, id).Error
}

// DifferenceRow is a listing that is not there as it was confirmed.
type DifferenceRow struct {
	ID            int64
	ListingID     int64
	Kind          string
	SKU           string
	Title         string
	Site          string
	Page          string
	Currency      string
	OurPrice      *int64
	OurQuantity   int64
	TheirPrice    *int64
	TheirQuantity int64
	Wanted        *int64 // the price worked out
	Floor         *int64
	SeenAt        time.Time
	Picture       string `gorm:"-"`
}

// Differences lists what differs and nobody has decided on, newest first.
func (s *Store) Differences(ctx context.Context, p Page) (List[DifferenceRow], error) {
	l, err := list[DifferenceRow](ctx, s.read, listQuery{
		columns: `d.id, d.listing_id, d.kind, l.sku, p.title, s.name AS site, coalesce(e.page, '') AS page, l.currency, d.our_price, d.our_quantity,
			d.their_price, d.their_quantity, l.price AS wanted, l.floor, d.seen_at`,
		from: `differences d JOIN listings l ON l.id = d.listing_id JOIN products p ON p.id = l.product_id JOIN sites s ON s.id = d.site_id
			LEFT JOIN entries e ON e.id = l.entry_id WHERE d.state = 'open'`,
		id:    "d.id",
		sort:  "id",
		desc:  true,
		sorts: map[string]string{"id": "d.id"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *DifferenceRow) int64 { return r.ListingID }, func(r *DifferenceRow) *string { return &r.Picture },
		s.listingPictures)
}

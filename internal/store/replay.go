package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Replayed is what was recorded of some listings since a moment: how their
// suppliers' costs and stock moved, what others asked, what was confirmed. Each
// list is by id and oldest first.
type Replayed struct {
	Changes   map[int64][]ReplayChange   // by supplier product
	Market    map[int64][]MarketPoint    // by entry; the last from before the moment among them
	Confirmed map[int64][]ConfirmedPoint // by listing; likewise
	Known     map[int64]time.Time        // when a supplier product was first seen
}

// ReplayChange is one field of a supplier product that a feed changed.
type ReplayChange struct {
	ID     int64
	At     time.Time
	Field  string
	Before string
	After  string
}

// Replay reads what was recorded of listings since a moment.
func (s *Store) Replay(ctx context.Context, rows []PricingRow, since time.Time) (*Replayed, error) {
	var items, entries, listings []int64
	for i := range rows {
		items, listings = append(items, rows[i].SupplierProductID), append(listings, rows[i].ID)
		if rows[i].EntryID != nil {
			entries = append(entries, *rows[i].EntryID)
		}
	}
	out := &Replayed{map[int64][]ReplayChange{}, map[int64][]MarketPoint{}, map[int64][]ConfirmedPoint{}, map[int64]time.Time{}}
	db := s.read.WithContext(ctx)
	return out, firstOf(
		out.changes(db, listOf(items), since),
		out.market(db, listOf(entries), since),
		out.confirmed(db, listOf(listings), since),
	)
}

func firstOf(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

func (r *Replayed) changes(db *gorm.DB, ids string, since time.Time) error {
	var list []ReplayChange
	err := db.Raw(`SELECT DISTINCT c.supplier_product_id AS id, f.taken_at AS at, c.field, c.before, c.after, c.id AS n FROM json_each(?) j
		CROSS JOIN supplier_changes c ON c.supplier_product_id = j.value CROSS JOIN feeds f ON f.id = c.feed_id
		WHERE f.taken_at >= ? AND c.field IN ('cost', 'stock', 'listed') ORDER BY c.id`, ids, since).Scan(&list).Error
	for _, c := range list {
		r.Changes[c.ID] = append(r.Changes[c.ID], c)
	}
	if err != nil {
		return err
	}
	var known []struct {
		ID int64
		At time.Time
	}
	err = db.Raw(`SELECT DISTINCT sp.id, f.taken_at AS at FROM json_each(?) j CROSS JOIN supplier_products sp ON sp.id = j.value
		JOIN feeds f ON f.id = sp.first_feed_id WHERE f.taken_at IS NOT NULL`, ids).Scan(&known).Error
	for _, k := range known {
		r.Known[k.ID] = k.At
	}
	return err
}

func (r *Replayed) market(db *gorm.DB, ids string, since time.Time) error {
	var list []MarketPoint
	err := db.Raw(`SELECT DISTINCT m.* FROM json_each(?) j CROSS JOIN market_points m ON m.entry_id = j.value
		WHERE m.at >= coalesce((SELECT max(at) FROM market_points b WHERE b.entry_id = j.value AND b.at <= ?), '') ORDER BY m.at, m.id`, ids, since).
		Scan(&list).Error
	for _, m := range list {
		r.Market[m.EntryID] = append(r.Market[m.EntryID], m)
	}
	return err
}

func (r *Replayed) confirmed(db *gorm.DB, ids string, since time.Time) error {
	var list []struct {
		ConfirmedPoint `gorm:"embedded"`
		ListingID      int64
	}
	err := db.Raw(`SELECT DISTINCT x.listing_id, x.answered_at AS at, x.price, x.quantity, x.landed, x.id FROM json_each(?) j
		CROSS JOIN send_lines x ON x.listing_id = j.value WHERE x.state = 'confirmed' AND x.answered_at >= coalesce((SELECT max(y.answered_at)
		FROM send_lines y WHERE y.listing_id = j.value AND y.state = 'confirmed' AND y.price IS NOT NULL AND y.answered_at <= ?), '')
		ORDER BY x.answered_at, x.id`, ids, since).Scan(&list).Error
	for _, c := range list {
		r.Confirmed[c.ListingID] = append(r.Confirmed[c.ListingID], c.ConfirmedPoint)
	}
	return err
}

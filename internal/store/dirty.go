package store

import (
	"context"
	"fmt"
	"time"
)

// RunPrice is the run that works out the dirty listings of a site.
const RunPrice = "price"

// What changed is marked where it changes: every writer below that touches what
// a price or a quantity is made of marks the listings in its own transaction,
// whichever program it runs in, and queues their reckoning.

// noneLeft tells, of a supplier product, that nothing of it can be had.
const noneLeft = "(sp.gone OR sp.stock_state <> 'known' OR sp.stock <= 0)"

// dirty marks the listings that a select gives, as (id, site_id, urgent).
func (tx Tx) dirty(now time.Time, query string, args ...any) error {
	err := tx.db.Exec(
		`INSERT INTO dirties (listing_id, site_id, urgent) `+query+` ON CONFLICT (listing_id) DO UPDATE SET urgent = max(urgent,
			excluded.urgent)`,
		args...).Error
	if err != nil {
		return fmt.Errorf("marking what changed: %w", err)
	}
	return tx.QueueReckoning(now)
}

// QueueReckoning queues the reckoning of every site that has dirty listings and
// none waiting.
func (tx Tx) QueueReckoning(now time.Time) error {
	var sites []Site
	err := tx.db.Raw(`SELECT s.id, s.name FROM sites s WHERE EXISTS (SELECT 1 FROM dirties d WHERE d.site_id = s.id)
		AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.kind = 'price' AND r.subject = s.id AND r.state IN ('queued', 'set aside'))
			ORDER BY s.id`).Scan(&sites).Error
	for i := 0; err == nil && i < len(sites); i++ {
		err = tx.Queue(
			&Run{
				Kind:      RunPrice,
				Lane:      Lane(RunPrice, sites[i].ID),
				Title:     "Working out prices on " + sites[i].Name,
				Subject:   sites[i].ID,
				Once:      true,
				CreatedAt: now,
			},
		)
	}
	return err
}

// DirtyListings marks some listings.
func (tx Tx) DirtyListings(now time.Time, ids []int64) error {
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.id"+inList, listOf(ids))
}

// DirtyUnsettled marks those of some listings for which an answer leaves
// something to say: on sale is not what should be, or a line waits in the plan
// or is on its way. The others are what they should be, and need no more work.
func (tx Tx) DirtyUnsettled(now time.Time, ids []int64) error {
	return tx.dirty(now, `SELECT l.id, l.site_id, 0 FROM listings l WHERE l.id`+inList+` AND (l.state <> 'live' OR l.price IS NULL
		OR l.confirmed_price IS NOT l.price OR l.confirmed_quantity <> l.quantity
		OR EXISTS (SELECT 1 FROM plan_lines x WHERE x.listing_id = l.id AND x.state = 'waiting')
		OR EXISTS (SELECT 1 FROM send_lines y WHERE y.listing_id = l.id AND y.state IN ('waiting', 'sent', 'unknown')))`, listOf(ids))
}

// DirtySite marks all of a site: its rules, fees or terms have changed.
func (tx Tx) DirtySite(now time.Time, siteID int64) error {
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ?", siteID)
}

// DirtyProducts marks the listings of some products.
func (tx Tx) DirtyProducts(now time.Time, ids []int64) error {
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.product_id"+inList, listOf(ids))
}

// DirtyItems marks what is made of some supplier products: those of which none
// can be had are urgent.
func (tx Tx) DirtyItems(now time.Time, ids []int64) error {
	for part := range parts(ids) {
		err := tx.dirty(
			now,
			`SELECT l.id, l.site_id, `+noneLeft+` FROM json_each(?) j CROSS JOIN supply_links k ON k.supplier_product_id = j.value
			CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id CROSS JOIN listings l ON l.product_id = k.product_id WHERE 1`,
			listOf(part),
		)
		if err != nil {
			return err
		}
	}
	return nil
}

// DirtySource marks what is made of a source's products: it has gone silent, or
// is heard again.
func (tx Tx) DirtySource(now time.Time, sourceID int64) error {
	return tx.dirty(
		now,
		`SELECT l.id, l.site_id, `+noneLeft+` OR so.stale FROM listings l CROSS JOIN supply_links k ON k.product_id = l.product_id
		CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id CROSS JOIN sources so ON so.id = sp.source_id WHERE so.id = ?`,
		sourceID,
	)
}

// DirtySupplier marks what is made of a supplier's products: its terms have changed.
func (tx Tx) DirtySupplier(now time.Time, supplierID int64) error {
	return tx.dirty(now, `SELECT l.id, l.site_id, 0 FROM listings l CROSS JOIN supply_links k ON k.product_id = l.product_id
		CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id CROSS JOIN sources so ON so.id = sp.source_id
			WHERE so.supplier_id = ?`, supplierID)
}

// DirtyCurrency marks the listings whose costs are changed by a rate.
func (tx Tx) DirtyCurrency(now time.Time, from, to string) error {
	return tx.dirty(now, `SELECT l.id, l.site_id, 0 FROM listings l CROSS JOIN supply_links k ON k.product_id = l.product_id
		CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE l.currency = ? AND sp.currency = ?`, to, from)
}

// DirtyEntries marks the listings on some entries: what others ask there was read again.
func (tx Tx) DirtyEntries(now time.Time, ids []int64) error {
	return tx.dirty(now, "SELECT l.id, l.site_id, 0 FROM listings l WHERE l.entry_id"+inList, listOf(ids))
}

// CountDirty counts the listings of a site that wait to be worked out.
func (s *Store) CountDirty(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT count(*) FROM dirties WHERE site_id = ?", siteID).Scan(&n).Error
	return n, err
}

// parts cuts a long list into pieces that one statement takes easily.
func parts(ids []int64) func(yield func([]int64) bool) {
	const most = 10_000
	return func(yield func([]int64) bool) {
		for len(ids) > 0 {
			n := min(len(ids), most)
			if !yield(ids[:n]) {
				return
			}
			ids = ids[n:]
		}
	}
}

// MatchesComing tells whether a look-up goes on for a site, none of whose dirty
// listings is urgent.
func (s *Store) MatchesComing(ctx context.Context, siteID int64) (bool, error) {
	var coming bool
	err := s.read.WithContext(ctx).Raw(`SELECT EXISTS (SELECT 1 FROM runs WHERE kind = 'match' AND subject = ? AND state = 'running')
		AND NOT EXISTS (SELECT 1 FROM dirties WHERE site_id = ? AND urgent)`, siteID, siteID).Scan(&coming).Error
	return coming, err
}

// DirtyWindows marks the listings of a site that are shown from a day on or until
// one, and offer something outside of that time or nothing within.
func (tx Tx) DirtyWindows(now time.Time, siteID int64) error {
	return tx.dirty(now, `SELECT l.id, l.site_id, 0 FROM listings l WHERE l.site_id = ?1 AND (l.shown_from <> '' OR l.shown_until <> '')
		AND (l.shown_from <= ?2 AND (l.shown_until = '' OR l.shown_until >= ?2)) = (l.quantity = 0)`, siteID, now.Format(time.DateOnly))
}

package store

import "time"

// TheirChange is what a supplier changed of something that a person said of a
// listing, since it was said.
type TheirChange struct {
	ListingID int64
	Field     string // as sayings have it
	Before    string
	After     string
	At        time.Time
}

// theirChanges joins what people said of listings l with what suppliers changed
// of the same since.
const theirChanges = `sayings y ON y.listing_id = l.id
	CROSS JOIN supply_links k ON k.id = coalesce(l.supply_link_id, (SELECT min(id) FROM supply_links WHERE product_id = l.product_id))
	CROSS JOIN supplier_changes c ON c.supplier_product_id = k.supplier_product_id AND c.field IN (
		CASE WHEN y.field = 'kind' THEN 'title' WHEN y.field LIKE 'package.%' THEN substr(y.field, 9) WHEN y.field LIKE 'attributes.%' THEN substr(y.field, 12)
			ELSE y.field END,
		CASE WHEN y.field LIKE 'attributes.%' THEN 'attribute ' || replace(substr(y.field, 12), '_', ' ') END)
	CROSS JOIN feeds f ON f.id = c.feed_id AND f.taken_at > y.at`

// TheirChanges are those of some listings, the oldest first.
func (tx Tx) TheirChanges(ids []int64) ([]TheirChange, error) {
	var out []TheirChange
	err := tx.db.Raw(`SELECT y.listing_id, y.field, c.before, c.after, f.taken_at AS at FROM json_each(?) j CROSS JOIN listings l ON l.id = j.value
		CROSS JOIN `+theirChanges+` ORDER BY c.id`, listOf(ids)).Scan(&out).Error
	return out, err
}

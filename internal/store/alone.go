package store

import (
	"context"
	"time"
)

// RunAlone is the run that sends what a site's rules let go by themselves.
const RunAlone = "alone"

// QueueAlone queues the sending of what a site's rules let go by themselves.
func (tx Tx) QueueAlone(now time.Time, site Site) error {
	return tx.Queue(&Run{
		Kind:      RunAlone,
		Lane:      Lane(RunAlone, site.ID),
		Title:     "Looking at what may go by itself on " + site.Name,
		Subject:   site.ID,
		Once:      true,
		CreatedAt: now,
	})
}

// whose says of a waiting line x of listing l by whom it may be let go: the mode
// of its rule r, or else of its site s, and whether that acts yet or only says.
const (
	ofRules  = " JOIN sites s ON s.id = l.site_id LEFT JOIN price_rules r ON r.id = l.rule_id "
	mayAlone = "coalesce(nullif(r.runs, ''), s.runs) = 'alone'"
	acts     = "coalesce(r.acts_from, '') <= ? AND (coalesce(r.runs, '') <> '' OR coalesce(s.acts_from, '') <= ?)"
)

// PutsOff are the consequences that take a listing off sale.
const PutsOff = "('zero', 'rest', 'no price')"

// AlonePart says which of the lines that may go by themselves are meant.
type AlonePart struct {
	Plan int64
	Now  time.Time
	Off  bool  // those that take a listing off sale, or show fewer; the others where false
	Most int64 // at most so many; 0: all
}

// less tells of a line that it only takes stock away.
const less = "(x.kind IN " + PutsOff + " OR x.kind = 'quantity' AND x.to_qty < x.from_qty)"

// refusedBefore tells of a line that the same change of its listing was refused
// since anything of it was confirmed last: it isn't sent again by itself, or a
// marketplace would be asked without end. What takes stock away is tried again
// after an hour.
const refusedBefore = `EXISTS (SELECT 1 FROM send_lines y WHERE y.listing_id = x.listing_id AND y.state = 'refused' AND y.price IS x.to_price
	AND y.quantity IS x.to_qty AND y.id > coalesce((SELECT max(z.id) FROM send_lines z WHERE z.listing_id = x.listing_id AND z.state = 'confirmed'), 0)
	AND (NOT ` + less + ` OR y.answered_at > ?))`

func (p AlonePart) from() (string, []any) {
	which, args := "NOT "+less+" AND "+acts, []any{p.Plan, p.Now, p.Now}
	if p.Off { // a first week doesn't hold back what can't be had
		which, args = less, args[:1]
	}
	return ` FROM plan_lines x INDEXED BY plan_line_waiting CROSS JOIN listings l ON l.id = x.listing_id` + ofRules +
		`WHERE x.plan_id = ? AND x.verdict = 'go' AND x.state = 'waiting' AND ` + which + ` AND ` + mayAlone +
		" AND NOT " + refusedBefore, append(args, p.Now.Add(-time.Hour))
}

// CountAlone counts the lines that may go by themselves.
func (tx Tx) CountAlone(p AlonePart) (int64, error) {
	from, args := p.from()
	var n int64
	err := tx.db.Raw("SELECT count(*)"+from, args...).Scan(&n).Error
	return n, err
}

// AloneLines are the ids of lines that may go by themselves, in the order they go.
func (tx Tx) AloneLines(p AlonePart) ([]int64, error) {
	from, args := p.from()
	var ids []int64
	err := tx.db.Raw("SELECT x.id"+from+" ORDER BY x.place, x.id LIMIT ?", append(args, limitOf(p.Most))...).Scan(&ids).Error
	return ids, err
}

// limitOf is a LIMIT; 0 is none.
func limitOf(n int64) int64 {
	if n == 0 {
		return -1
	}
	return n
}

// AloneSince counts the changes other than to less stock that a site's rules let
// go by themselves since a moment.
func (tx Tx) AloneSince(siteID int64, since time.Time) (int64, error) {
	var n int64
	err := tx.db.Raw(`SELECT count(*) FROM send_outs o JOIN send_lines x ON x.send_out_id = o.id
		WHERE o.alone AND o.site_id = ? AND o.created_at > ? AND x.state <> 'withdrawn'
		AND (x.price IS NOT NULL OR EXISTS (SELECT 1 FROM plan_lines p WHERE p.id = x.plan_line_id AND p.to_qty > p.from_qty))`, siteID, since).
		Scan(&n).Error
	return n, err
}

// CastShadows writes down what rules in their first week would have sent, each
// change once: what takes stock away isn't among it, since that goes at once. It tells
// how many there are anew.
func (tx Tx) CastShadows(planID, siteID int64, now time.Time) (int64, error) {
	res := tx.db.Exec(`INSERT INTO shadows (site_id, listing_id, rule, kind, from_price, to_price, from_qty, to_qty, reasons, at)
		SELECT l.site_id, x.listing_id, x.rule, x.kind, x.from_price, x.to_price, x.from_qty, x.to_qty, x.reasons, ?
		FROM plan_lines x INDEXED BY plan_line_waiting CROSS JOIN listings l ON l.id = x.listing_id`+ofRules+`
		WHERE x.plan_id = ? AND x.verdict = 'go' AND x.state = 'waiting' AND `+mayAlone+` AND NOT (`+acts+`) AND NOT `+less+`
		AND NOT EXISTS (SELECT 1 FROM shadows h WHERE h.id = (SELECT max(g.id) FROM shadows g WHERE g.listing_id = x.listing_id AND g.kind = x.kind)
			AND h.to_price IS x.to_price AND h.to_qty IS x.to_qty)`, now, planID, now, now)
	return res.RowsAffected, res.Error
}

// ShadowRow is a change that a rule in its first week would have sent.
type ShadowRow struct {
	ID        int64
	ListingID int64
	SKU       string
	Title     string
	Site      string
	Currency  string
	Rule      string
	Kind      string
	FromPrice *int64
	ToPrice   *int64
	FromQty   *int64
	ToQty     *int64
	Reasons   []string `gorm:"serializer:list"`
	At        time.Time
	Picture   string `gorm:"-"`
}

// Shadows lists what rules in their first week would have sent, newest first.
func (s *Store) Shadows(ctx context.Context, siteID int64, p Page) (List[ShadowRow], error) {
	l, err := list[ShadowRow](ctx, s.read, listQuery{
		columns: `h.id, h.listing_id, l.sku, p.title, s.name AS site, l.currency, h.rule, h.kind, h.from_price, h.to_price, h.from_qty, h.to_qty,
			h.reasons, h.at`,
		from: `shadows h JOIN listings l ON l.id = h.listing_id JOIN products p ON p.id = l.product_id JOIN sites s ON s.id = h.site_id
			WHERE (? = 0 OR h.site_id = ?)`,
		args:  []any{siteID, siteID},
		id:    "h.id",
		sort:  "at",
		desc:  true,
		sorts: map[string]string{"at": "h.id"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *ShadowRow) int64 { return r.ListingID }, func(r *ShadowRow) *string { return &r.Picture }, s.listingPictures)
}

// PlanOf is the plan of a site; false where it never had one.
func (tx Tx) PlanOf(siteID int64) (Plan, bool, error) {
	var p Plan
	res := tx.db.Where("site_id = ?", siteID).Limit(1).Find(&p)
	return p, res.RowsAffected > 0, res.Error
}

// AloneSites are the sites of which something may be sent by itself, and that
// have a plan with lines that may go.
func (s *Store) AloneSites(ctx context.Context) ([]Site, error) {
	var out []Site
	err := s.read.WithContext(ctx).Raw(`SELECT s.* FROM sites s WHERE (s.runs = 'alone' OR EXISTS (SELECT 1 FROM price_rules r WHERE r.site_id = s.id
		AND r.runs = 'alone')) AND EXISTS (SELECT 1 FROM plan_sums m JOIN plans p ON p.id = m.plan_id WHERE p.site_id = s.id AND m.verdict = 'go'
		AND m.lines > 0) ORDER BY s.id`).Scan(&out).Error
	return out, err
}

// DirtyMoved marks the live listings whose price moved between two moments: it
// has moved less often in a day than it had, and may move again.
func (tx Tx) DirtyMoved(now, from, to time.Time) error {
	return tx.dirty(now, `SELECT DISTINCT l.id, l.site_id, 0 FROM send_lines x CROSS JOIN listings l ON l.id = x.listing_id
		WHERE x.price IS NOT NULL AND x.state = 'confirmed' AND x.answered_at > ? AND x.answered_at <= ?`, from, to)
}

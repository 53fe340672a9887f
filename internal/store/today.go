package store

import (
	"context"
	"time"
)

// Counts is what waits at each stop.
type Counts struct {
	FeedsWaiting int64 // feeds looked at or held, waiting for a person
	FeedsHeld    int64
	FeedsFailed  int64 // sources whose newest feed failed
	MatchSeveral int64
	MatchNone    int64
	MatchLater   int64
	MatchCertain int64
	Unpriced     int64
	Incomplete   int64 // listings of our own that lack something
	Ready        int64
	Refused      int64
	Sent         int64
	Live         int64
	Paused       int64
	Unknown      int64 // sent, and nobody told what became of them
	SendsStuck   int64 // send-outs that wait for a person
	PlanLines    int64
	PlanHeld     int64
	PlanGo       int64
	Untied       int64 // on sale somewhere, and tied to nothing of ours
	Dirty        int64 // listings that wait to be worked out
	Products     int64
	Sources      int64
	SupplierRows int64
	Hits         int64 // times that watches were set off, which nobody has seen
	Differences  int64 // listings that are not as they were confirmed
	SaidThere    int64 // that say something else there than was sent
	OrdersBuy    int64 // lines of orders to be bought
	OrdersSend   int64 // bought, and to be sent
	OrdersWrong  int64 // that a person must look at
	OrdersLate   int64 // not sent for too long
	Words        int64 // listings on sale whose words differ from what is there
	Tasks        int64 // for a person, at places that are served by hand
	Sheets       int64 // filled sheets that wait to be uploaded
}

// Counts counts what waits.
func (s *Store) Counts(ctx context.Context, now time.Time) (Counts, error) {
	var c Counts
	err := s.read.WithContext(ctx).Raw(`SELECT
		(SELECT count(*) FROM feeds WHERE state IN ('looked', 'held')) AS feeds_waiting,
		(SELECT count(*) FROM feeds WHERE state = 'held') AS feeds_held,
		(SELECT count(*) FROM sources s WHERE (SELECT f.state FROM feeds f WHERE f.source_id = s.id
			ORDER BY f.id DESC LIMIT 1) = 'failed') AS feeds_failed,
		(SELECT count(*) FROM matches WHERE state IN ('several', 'not allowed')) AS match_several,
		(SELECT count(*) FROM matches WHERE state = 'certain') AS match_certain,
		(SELECT count(*) FROM matches WHERE state = 'none') AS match_none,
		(SELECT count(*) FROM matches WHERE state = 'later') AS match_later,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'unpriced') AS unpriced,
		(SELECT count(*) FROM preparations q CROSS JOIN listings l ON l.id = q.listing_id WHERE q.stops > 0 AND NOT l.unwanted) AS incomplete,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'ready') AS ready,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'refused') AS refused,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'sent') AS sent,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'live') AS live,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'paused') AS paused,
		(SELECT coalesce(sum(listings), 0) FROM listing_sums WHERE state = 'unknown') AS unknown,
		(SELECT count(*) FROM send_outs o WHERE o.state = 'waiting' AND NOT `+sendAlive+`
			AND (o.again_at IS NULL OR o.tries > 0 OR o.paused) OR o.state = 'sent'
			AND o.overdue_at < ?) AS sends_stuck,
		(SELECT coalesce(sum(lines), 0) FROM plan_sums) AS plan_lines,
		(SELECT coalesce(sum(lines), 0) FROM plan_sums WHERE verdict = 'held') AS plan_held,
		(SELECT coalesce(sum(lines), 0) FROM plan_sums WHERE verdict = 'go') AS plan_go,
		(SELECT count(*) FROM untieds WHERE quantity > 0) AS untied, (SELECT count(*) FROM dirties) AS dirty,
		(SELECT count(*) FROM products) AS products, (SELECT count(*) FROM sources) AS sources, (SELECT count(*)
			FROM supplier_products) AS supplier_rows, (SELECT count(*) FROM watch_hits WHERE NOT seen) AS hits,
		(SELECT count(*) FROM differences WHERE state = 'open') AS differences, (SELECT count(*) FROM word_differences) AS said_there,
		(SELECT count(*) FROM order_lines WHERE state = 'new' AND problem = '') AS orders_buy,
		(SELECT count(*) FROM order_lines WHERE state = 'bought') AS orders_send,
		(SELECT count(*) FROM order_lines WHERE problem <> '') AS orders_wrong,
		(SELECT count(*) FROM order_lines x JOIN orders o ON o.id = x.order_id WHERE x.state IN ('new', 'bought') AND o.placed_at < ?) AS orders_late,
		(SELECT count(*) FROM sheet_files f JOIN send_outs o ON o.site_id = f.site_id AND o.key = f.batch WHERE o.state = 'sent' AND f.uploaded_at IS NULL) AS sheets,
		(SELECT count(*) FROM preparations q CROSS JOIN listings l ON l.id = q.listing_id WHERE q.changed <> '[]' AND l.state = 'live') AS words,
		(SELECT count(*) FROM sheet_lines t JOIN send_outs o ON o.site_id = t.site_id AND o.key = t.batch WHERE t.task <> '' AND t.said = '' AND o.state = 'sent') AS tasks`, now, now.Add(-LateOrder)).Scan(&c).Error
	return c, err
}

// UnpricedBySite is how many listings have no price, by their site.
func (s *Store) UnpricedBySite(ctx context.Context) (map[int64]int64, error) {
	var rows []struct{ SiteID, N int64 }
	err := s.read.WithContext(ctx).Raw("SELECT site_id, sum(listings) AS n FROM listing_sums WHERE state = 'unpriced' GROUP BY 1").Scan(&rows).Error
	out := map[int64]int64{}
	for _, r := range rows {
		out[r.SiteID] = r.N
	}
	return out, err
}

// UnsaidSource is a source of which nobody has said what its costs come to.
type UnsaidSource struct {
	ID       int64
	Name     string
	Listings int64 // that could be priced from it
}

// UnsaidSources are the sources of which nobody has said what their costs come to, the
// one that most listings wait for first.
func (s *Store) UnsaidSources(ctx context.Context) (out []UnsaidSource, err error) {
	return out, s.read.WithContext(ctx).Raw(`SELECT s.id, s.name, (SELECT count(*) FROM supplier_products sp
			JOIN supply_links k ON k.supplier_product_id = sp.id JOIN listings l ON l.product_id = k.product_id WHERE sp.source_id = s.id) AS listings
		FROM sources s WHERE s.costs_unsaid ORDER BY listings DESC, s.id`).Scan(&out).Error
}

// LastAudits lists what was done last.
func (s *Store) LastAudits(ctx context.Context, n int) ([]Audit, error) {
	var out []Audit
	err := s.read.WithContext(ctx).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// LastRun is the newest run of a kind that is over; false where there is none.
func (s *Store) LastRun(ctx context.Context, kind string) (Run, bool, error) {
	var r Run
	res := s.read.WithContext(ctx).Where("kind = ? AND ended_at IS NOT NULL", kind).Order("id DESC").Limit(1).Find(&r)
	return r, res.RowsAffected > 0, res.Error
}

// Tidy drops rows of a kind from before a moment, and says how many: so many at
// a time that others can write in between. Nothing more is old where it says 0.
func (tx Tx) Tidy(what string, before time.Time) (int64, error) {
	n := int64(0)
	for _, q := range tidying[what] {
		res := tx.db.Exec(q, before)
		if res.Error != nil {
			return n, res.Error
		}
		n += res.RowsAffected
	}
	return n, nil
}

// tidying is how rows of each kind are dropped. What is still worked with stays.
var tidying = map[string][]string{
	"history": {
		"DELETE FROM supplier_changes WHERE id IN (SELECT c.id FROM supplier_changes c JOIN feeds f ON f.id = c.feed_id " +
			"WHERE f.taken_at < ? LIMIT 5000)",
		"DELETE FROM market_points WHERE id IN (SELECT id FROM market_points WHERE at < ? LIMIT 5000)",
	},
	"sendouts": {
		"DELETE FROM plan_lines WHERE state = 'sent' AND id IN (SELECT x.plan_line_id FROM send_lines x " +
			"JOIN send_outs o ON o.id = x.send_out_id WHERE o.state = 'done' AND o.done_at < ? AND x.plan_line_id IS NOT NULL LIMIT 5000)",
		"DELETE FROM send_outs WHERE id IN (SELECT o.id FROM send_outs o WHERE o.state = 'done' AND o.done_at < ? " +
			"AND NOT EXISTS (SELECT 1 FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'unknown') LIMIT 10)",
	},
	"runs":     {"DELETE FROM runs WHERE state NOT IN ('queued', 'running', 'set aside') AND ended_at < ?"},
	"audit":    {"DELETE FROM audits WHERE at < ?"},
	"answers":  {"DELETE FROM answers WHERE at < ?"},
	"sessions": {"DELETE FROM sessions WHERE seen_at < ?", "DELETE FROM shop_baskets WHERE seen_at < ?"},
	"buyers": {
		"UPDATE orders SET buyer = '' WHERE buyer <> '' AND placed_at < ? AND NOT EXISTS (SELECT 1 FROM order_lines x " +
			"WHERE x.order_id = orders.id AND x.state IN ('new', 'bought'))",
		"UPDATE shop_orders SET buyer = '' WHERE buyer <> '' AND placed_at < ? AND NOT EXISTS (SELECT 1 FROM order_lines x JOIN orders o ON o.id = x.order_id " +
			"WHERE o.site_id = shop_orders.site_id AND o.ref = shop_orders.ref AND x.state IN ('new', 'bought'))",
		"UPDATE mails SET body = '' WHERE body <> '' AND sent_at IS NOT NULL AND made_at < ?", // of suppliers' orders too
	},
}

// OldFiles are the names of inbox files whose feeds were over before a moment.
func (s *Store) OldFiles(ctx context.Context, before time.Time) ([]string, error) {
	var out []string
	err := s.read.WithContext(ctx).
		Raw("SELECT file FROM feeds WHERE file <> '' AND state IN ('taken', 'discarded', 'failed') AND received_at < ?", before).
		Scan(&out).Error
	return out, err
}

// ForgetFiles says of feeds that their files are gone.
func (tx Tx) ForgetFiles(names []string) error {
	return tx.db.Exec("UPDATE feeds SET file = '' WHERE file IN (SELECT value FROM json_each(?))", textList(names)).Error
}

// FileNamed tells whether a feed names an inbox file.
func (s *Store) FileNamed(ctx context.Context, name string) (bool, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT count(*) FROM feeds WHERE file = ?", name).Scan(&n).Error
	return n > 0, err
}

package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"easymargin/core/sieve"
)

// The runs of watches: one looks whether they hold, one sends the mail.
const (
	RunWatch = "watch"
	RunMail  = "mail"
)

// WatchNumbers are the numbers that a watch may look at, of listings l with
// their entry e, last market point m, present supplier product sp, its source so
// and site s: NULL where not known. A question mark is the time now.
var WatchNumbers = map[string]string{
	"cost":    "l.landed",
	"stock":   "CASE sp.stock_state WHEN 'known' THEN CASE WHEN sp.gone THEN 0 ELSE sp.stock END WHEN 'ended' THEN 0 END",
	"price":   "l.confirmed_price",
	"lowest":  "m.lowest",
	"leading": "m.leading",
	"sellers": "m.sellers",
	"profit":  "CASE WHEN l.confirmed_price IS l.price THEN l.profit ELSE (SELECT x.profit_was FROM plan_lines x WHERE x.listing_id = l.id AND x.state = 'waiting' LIMIT 1) END",
	"margin":  "CASE WHEN l.price + s.charged - coalesce(l.tax, 0) > 0 THEN l.profit * 1000000 / (l.price + s.charged - coalesce(l.tax, 0)) END",
	"rating":  "e.rating",
	"return rate": `(SELECT CASE WHEN sum(x.quantity) > 0 THEN sum(CASE x.state WHEN 'returned' THEN x.quantity ELSE 0 END) * 1000000 / sum(x.quantity) END
		FROM order_lines x JOIN orders o ON o.id = x.order_id WHERE x.listing_id = l.id AND x.state <> 'cancelled' AND o.placed_at >= datetime(?, '-60 days'))`,
	"feed age": "CAST((julianday(?) - julianday(so.taken_at)) * 24 AS integer)",
}

const watchTables = ` FROM listings l JOIN sites s ON s.id = l.site_id LEFT JOIN entries e ON e.id = l.entry_id
	LEFT JOIN market_points m ON m.id = (SELECT p.id FROM market_points p WHERE p.entry_id = l.entry_id ORDER BY p.at DESC, p.id DESC LIMIT 1)
	LEFT JOIN supply_links k ON k.id = l.supply_link_id LEFT JOIN supplier_products sp ON sp.id = k.supplier_product_id
	LEFT JOIN sources so ON so.id = sp.source_id JOIN products p ON p.id = l.product_id`

// Watched is one listing's number as a watch sees it.
type Watched struct {
	ListingID int64
	SKU       string
	Title     string
	Site      string
	Currency  string
	Value     *int64
	Before    *int64
	Held      bool // it did when it was looked at last
	Known     bool // it was looked at before
}

// WatchedPart are the numbers of those listings that a watch is for, by id, after
// one, at most so many: with what it saw of them last.
func (s *Store) WatchedPart(ctx context.Context, w *Watch, tests sieve.Tests, now time.Time, after int64, most int) ([]Watched, error) {
	number, ok := WatchNumbers[w.Number]
	if !ok {
		return nil, fmt.Errorf("no number is called %q", w.Number)
	}
	var args []any
	if strings.Contains(number, "?") { // it looks at the time
		args = append(args, now.UTC().Format("2006-01-02 15:04:05"))
	}
	where := " WHERE l.id > ?"
	args = append(args, w.ID)
	tail := []any{after}
	if w.SiteID != nil {
		where, tail = where+" AND +l.site_id = ?", append(tail, *w.SiteID)
	}
	if w.ProductID != nil {
		where, tail = where+" AND l.product_id = ?", append(tail, *w.ProductID)
	}
	if w.SieveID != nil && w.SiteID != nil {
		q := Sifted{SiteID: *w.SiteID, Tests: tests}
		through, more := q.where()
		where += " AND l.product_id IN (SELECT y.product_id FROM weighings w CROSS JOIN supply_links y ON y.supplier_product_id = w.supplier_product_id WHERE " + through + ")"
		tail = append(tail, more...)
	}
	var out []Watched
	err := s.read.WithContext(ctx).Raw(`SELECT l.id AS listing_id, l.sku, p.title, s.name AS site, l.currency, `+number+` AS value, v.value AS before,
		coalesce(v.holds, 0) AS held, v.key IS NOT NULL AS known`+watchTables+`
		LEFT JOIN watch_values v ON v.watch_id = ? AND v.key = CAST(l.id AS text)`+where+` ORDER BY l.id LIMIT ?`,
		append(append(args, tail...), most)...).Scan(&out).Error
	return out, err
}

// WatchValues are what a watch saw last, by key.
func (tx Tx) WatchValues(watchID int64) (map[string]WatchValue, error) {
	var rows []WatchValue
	err := tx.db.Where("watch_id = ?", watchID).Find(&rows).Error
	out := map[string]WatchValue{}
	for _, r := range rows {
		out[r.Key] = r
	}
	return out, err
}

// PutWatchValues keeps what a watch saw.
func (tx Tx) PutWatchValues(rows []WatchValue) error {
	list := make([][]any, len(rows))
	for i, r := range rows {
		list[i] = []any{r.WatchID, r.Key, r.Value, r.Holds}
	}
	return tx.insertRows("watch_values (watch_id, key, value, holds)", list,
		" ON CONFLICT (watch_id, key) DO UPDATE SET value = excluded.value, holds = excluded.holds")
}

// DropWatchValues forgets what a watch saw of some things that are no more.
func (tx Tx) DropWatchValues(watchID int64, keys []string) error {
	return tx.db.Exec("DELETE FROM watch_values WHERE watch_id = ? AND key IN (SELECT value FROM json_each(?))", watchID, textList(keys)).Error
}

// ForgetWatchValues forgets all that a watch saw: it begins anew.
func (tx Tx) ForgetWatchValues(watchID int64) error {
	return tx.db.Exec("DELETE FROM watch_values WHERE watch_id = ?", watchID).Error
}

// DropWatch drops a watch with what set it off.
func (tx Tx) DropWatch(id int64) error { return tx.db.Delete(&Watch{ID: id}).Error }

// Watches are all watches, in the order they were made.
func (tx Tx) Watches() ([]Watch, error) {
	var out []Watch
	err := tx.db.Order("ready = '', id").Find(&out).Error
	return out, err
}

// WatchRow is a watch with what it is for and how it stands.
type WatchRow struct {
	Watch
	Site     string
	Currency string
	Product  string
	Sieve    string
	Holds    int64 // things it holds for now
	Hits     int64 // times it was set off
	Unseen   int64
}

// WatchRows lists all watches with how they stand.
func (s *Store) WatchRows(ctx context.Context) ([]WatchRow, error) {
	out := []WatchRow{}
	err := s.read.WithContext(ctx).Raw(`SELECT w.*, coalesce(s.name, '') AS site, coalesce(s.currency, '') AS currency, coalesce(p.title, '') AS product,
		coalesce(v.name, '') AS sieve, (SELECT count(*) FROM watch_values x WHERE x.watch_id = w.id AND x.holds) AS holds,
		(SELECT count(*) FROM watch_hits h WHERE h.watch_id = w.id) AS hits,
		(SELECT count(*) FROM watch_hits h WHERE h.watch_id = w.id AND NOT h.seen) AS unseen
		FROM watches w LEFT JOIN sites s ON s.id = w.site_id LEFT JOIN products p ON p.id = w.product_id LEFT JOIN sieves v ON v.id = w.sieve_id
		ORDER BY w.ready = '', w.id`).Scan(&out).Error
	return out, err
}

// WatchHitRow is a time that a watch was set off.
type WatchHitRow struct {
	WatchHit
	Watch   string
	Number  string
	Mailed  *time.Time
	Picture string `gorm:"-"`
}

// WatchHits lists what set watches off, newest first; of one where watchID isn't 0.
func (s *Store) WatchHits(ctx context.Context, watchID int64, p Page) (List[WatchHitRow], error) {
	l, err := list[WatchHitRow](ctx, s.read, listQuery{
		columns: "h.*, w.name AS watch, w.number, m.sent_at AS mailed",
		from:    "watch_hits h JOIN watches w ON w.id = h.watch_id LEFT JOIN mails m ON m.id = h.mail_id WHERE (? = 0 OR h.watch_id = ?)",
		args:    []any{watchID, watchID},
		id:      "h.id",
		sort:    "id",
		desc:    true,
		sorts:   map[string]string{"id": "h.id"},
	}, p)
	if err != nil {
		return l, err
	}
	listing := func(r *WatchHitRow) int64 {
		if r.ListingID == nil {
			return 0
		}
		return *r.ListingID
	}
	return l, pictured(ctx, l.Rows, listing, func(r *WatchHitRow) *string { return &r.Picture }, s.listingPictures)
}

// SeeHits marks what set watches off as seen, up to a hit.
func (tx Tx) SeeHits(upTo int64) error {
	return tx.db.Exec("UPDATE watch_hits SET seen = 1 WHERE NOT seen AND id <= ?", upTo).Error
}

// UnmailedHits are what set off watches that mail, and no mail tells of yet.
func (tx Tx) UnmailedHits(most int) ([]WatchHitRow, error) {
	var out []WatchHitRow
	err := tx.db.Raw(`SELECT h.*, w.name AS watch, w.number FROM watch_hits h JOIN watches w ON w.id = h.watch_id WHERE w.mail AND h.mail_id IS NULL
		ORDER BY h.id LIMIT ?`, most).Scan(&out).Error
	return out, err
}

// TellBy notes which mail tells of what set watches off.
func (tx Tx) TellBy(hits []int64, mailID int64) error {
	return tx.db.Exec("UPDATE watch_hits SET mail_id = ? WHERE id"+inList, mailID, listOf(hits)).Error
}

// LastMail is when a mail was made last; false: never.
func (tx Tx) LastMail() (time.Time, bool, error) {
	var m Mail
	res := tx.db.Order("id DESC").Limit(1).Find(&m)
	return m.MadeAt, res.RowsAffected > 0, res.Error
}

// WaitingMails are mails that weren't sent yet and may be, those tried least first, so
// that none holds up those behind it.
func (s *Store) WaitingMails(ctx context.Context, n int) ([]Mail, error) {
	var out []Mail
	err := s.read.WithContext(ctx).Where("sent_at IS NULL AND refused_at IS NULL").Order("tries, id").Limit(n).Find(&out).Error
	return out, err
}

// RefusedMails is how many mails were refused after a moment.
func (s *Store) RefusedMails(ctx context.Context, after time.Time) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&Mail{}).Where("refused_at > ?", after).Count(&n).Error
	return n, err
}

// LastMails are the newest mails.
func (s *Store) LastMails(ctx context.Context, n int) ([]Mail, error) {
	var out []Mail
	err := s.read.WithContext(ctx).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// Moment tells by its value whether anything that watches look at may have
// changed since: it is another then.
func (s *Store) Moment(ctx context.Context) (string, error) {
	var out string
	err := s.read.WithContext(ctx).Raw(`SELECT printf('%d %d %d %d %d %d %s', coalesce((SELECT max(id) FROM supplier_changes), 0),
		coalesce((SELECT max(id) FROM market_points), 0), coalesce((SELECT max(id) FROM audits), 0), coalesce((SELECT max(id) FROM feeds), 0),
		coalesce((SELECT max(id) FROM order_lines), 0), (SELECT count(*) FROM order_lines WHERE state = 'returned'),
		coalesce((SELECT max(made_at) FROM plans), ''))`).Scan(&out).Error
	return out, err
}

// ReadyThing is something that sets off a ready-made watch: what it is, in words,
// and where it is looked at.
type ReadyThing struct {
	Key       string
	ListingID *int64
	Words     string
	Link      string
	Currency  string
	Value     *int64
}

// readyThings are the questions of ready-made watches that the data answers.
var readyThings = map[string]string{
	"loss": `SELECT 'l' || l.id AS key, l.id AS listing_id, p.title || ' on ' || s.name AS words,
		'/watch?site=' || s.id AS link, l.currency, min(x.profit_was) AS value FROM plan_lines x CROSS JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
		JOIN sites s ON s.id = l.site_id WHERE x.state = 'waiting' AND x.profit_was < 0 AND l.confirmed_quantity > 0 AND l.state = 'live' GROUP BY l.id LIMIT 10000`,
	"no stock": `SELECT 'l' || l.id AS key, l.id AS listing_id, p.title || ': ' || x.from_qty || ' offered on ' || s.name || ', and no supplier has any' AS words,
		'/watch?site=' || s.id AS link FROM plan_lines x CROSS JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
		JOIN sites s ON s.id = l.site_id WHERE x.state = 'waiting' AND x.place = 0 AND l.confirmed_quantity > 0 LIMIT 10000`,
	"feed held": `SELECT 'f' || f.id AS key, s.name || ' sent a feed that is held' AS words, '/sources/feeds/' || f.id AS link FROM feeds f
		JOIN sources s ON s.id = f.source_id WHERE f.state = 'held'`,
	"quiet": `SELECT 'q' || id || ' ' || coalesce(taken_at, '') AS key, 'nothing was heard from ' || name || ' for longer than usual; in a day its stock counts as unknown' AS words,
		'/sources' AS link FROM sources WHERE quiet AND NOT stale`,
	"stale": `SELECT 's' || id || ' ' || coalesce(taken_at, '') AS key, 'nothing is heard from ' || name || '; what it supplies is offered as none' AS words,
		'/sources' AS link FROM sources WHERE stale`,
	"refused": `SELECT 'o' || o.id AS key, s.name || ' refused ' || count(*) || CASE count(*) WHEN 1 THEN ' line' ELSE ' lines' END || ' of a send-out' AS words,
		'/send/' || o.id AS link FROM send_lines x JOIN send_outs o ON o.id = x.send_out_id JOIN sites s ON s.id = o.site_id
		WHERE x.state = 'refused' AND x.answered_at > ? GROUP BY o.id`,
	"never live": `SELECT 'd' || d.id AS key, d.listing_id, p.title || ' was taken by ' || s.name || ' and is not to be seen there' AS words,
		'/watch?tab=differs' AS link FROM differences d JOIN listings l ON l.id = d.listing_id JOIN products p ON p.id = l.product_id
		JOIN sites s ON s.id = d.site_id WHERE d.state = 'open' AND d.kind = 'never live' LIMIT 10000`,
	"through": `SELECT 'o' || o.id AS key, 'a send-out to ' || s.name || ' is through: ' || (SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id
		AND x.state = 'confirmed') || ' of ' || (SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id) || ' confirmed' AS words,
		'/send/' || o.id AS link FROM send_outs o JOIN sites s ON s.id = o.site_id WHERE o.state = 'done' AND NOT o.alone AND o.done_at > ?`,
	"task": `SELECT 't' || o.id || ' ' || t.key AS key, x.listing_id, CASE WHEN x.quantity = 0 THEN 'take off sale by hand: ' ELSE 'by hand: ' END || p.title || ' on ' || s.name AS words,
		'/send?tab=hand' AS link FROM sheet_lines t JOIN send_outs o ON o.site_id = t.site_id AND o.key = t.batch
		JOIN send_lines x ON x.send_out_id = o.id AND x.key = t.key JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
		JOIN sites s ON s.id = t.site_id WHERE t.task <> '' AND t.said = '' AND o.state = 'sent' ORDER BY x.quantity = 0 DESC, t.at LIMIT 10000`,
	"pool": `SELECT 'pool' AS key, n || CASE n WHEN 1 THEN ' product number of your own is' ELSE ' product numbers of your own are' END || ' left' AS words, '/match' AS link, n AS value
		FROM (SELECT count(*) AS n, (SELECT count(*) FROM pool_numbers) AS had FROM pool_numbers WHERE match_id IS NULL AND taken_at IS NULL)
		WHERE had > 0 AND n < 10`,
}

// ReadyThings are what sets off a ready-made watch now.
func (s *Store) ReadyThings(ctx context.Context, ready string, now time.Time) ([]ReadyThing, error) {
	q, ok := readyThings[ready]
	if !ok {
		return nil, fmt.Errorf("no ready-made watch is called %q", ready)
	}
	var args []any
	if ready == "refused" || ready == "through" {
		args = []any{now.AddDate(0, 0, -7)}
	}
	var out []ReadyThing
	err := s.read.WithContext(ctx).Raw(q, args...).Scan(&out).Error
	return out, err
}

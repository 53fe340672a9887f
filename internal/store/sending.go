package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"
)

// The runs of sending: one hands a send-out over, one follows what a
// marketplace was handed, one reads back what a site has on sale.
const (
	RunSend   = "send"
	RunFollow = "follow"
	RunRead   = "read back"
)

// sendAlive tells of a send-out o whether a run is at it.
const sendAlive = "EXISTS (SELECT 1 FROM runs r WHERE r.kind = 'send' AND r.subject = o.id AND r." + alive + ")"

// Sendables are listings that may go out as new offers: those with the ids, or
// all that are ready where ids is nil. Refused ones go only by their id; none
// goes while something changed for it that wasn't worked out yet. They have
// what is sent of them, and nothing else. order is profit or price, the most of
// it first, or "" for as they were made.
func (tx Tx) Sendables(ids []int64, order string) ([]Listing, error) {
	q := asArray("l.id, l.site_id, l.state, l.price, l.quantity, l.cost, l.cost_cur, l.landed, l.floor") + ` FROM listings l
		WHERE l.price IS NOT NULL AND l.quantity > 0 AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id) AND `
	var args []any
	if ids == nil {
		q += "l.state = 'ready'"
	} else {
		q, args = q+"l.state IN ('ready', 'refused') AND l.id"+inList, []any{listOf(ids)}
	}
	q += " ORDER BY " + map[string]string{"profit": "l.profit DESC, ", "price": "l.price DESC, "}[order] + "l.id"
	var l Listing
	var out []Listing
	err := eachArray(tx.db, q, []any{&l.ID, &l.SiteID, &l.State, &l.Price, &l.Quantity, &l.Cost, &l.CostCur, &l.Landed, &l.Floor},
		func() { out = append(out, l) }, args...)
	if err != nil {
		return nil, fmt.Errorf("reading what can be sent: %w", err)
	}
	return out, nil
}

// CountDirtyReady counts the ready listings that can't be sent yet, since
// something changed for them that wasn't worked out: of all, or of those with the
// ids, the refused ones too.
func (tx Tx) CountDirtyReady(ids []int64) (int64, error) {
	q, args := "SELECT count(*) FROM dirties d JOIN listings l ON l.id = d.listing_id WHERE ", []any(nil)
	if ids == nil {
		q += "l.state = 'ready'"
	} else {
		q, args = q+"l.state IN ('ready', 'refused') AND l.id"+inList, []any{listOf(ids)}
	}
	var n int64
	err := tx.db.Raw(q, args...).Scan(&n).Error
	return n, err
}

// CountDirtyPlanned counts the lines of a plan that may go but can't yet, since
// something changed for their listings that wasn't worked out.
func (s *Store) CountDirtyPlanned(ctx context.Context, planID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw(`SELECT count(*) FROM plan_lines x JOIN dirties d ON d.listing_id = x.listing_id
		WHERE x.plan_id = ? AND x.state = 'waiting' AND x.verdict = 'go'`, planID).Scan(&n).Error
	return n, err
}

// Offered is how many are on offer of the listings of some lines, as confirmed last.
func (tx Tx) Offered(lines []SendLine) (map[int64]int64, error) {
	ids := make([]int64, len(lines))
	for i := range lines {
		ids[i] = lines[i].ListingID
	}
	var id, n int64
	out := map[int64]int64{}
	err := eachArray(tx.db, asArray("l.id, l.confirmed_quantity")+" FROM listings l WHERE l.id"+inList, []any{&id, &n},
		func() { out[id] = n }, listOf(ids))
	return out, err
}

// MarkListings sets the state of listings.
func (tx Tx) MarkListings(ids []int64, state string) error {
	return tx.db.Exec("UPDATE listings SET state = ? WHERE id"+inList, state, listOf(ids)).Error
}

// OutgoingLine is a line of a send-out with what the marketplace is told of it.
// What is only kept of it, its quote and its times, isn't read.
type OutgoingLine struct {
	SendLine
	SKU      string
	EntryRef string
	Handed   bool // over, perhaps
}

// Outgoing lists the lines of a send-out in the order they go.
func (tx Tx) Outgoing(sendOutID int64) ([]OutgoingLine, error) {
	l := OutgoingLine{SendLine: SendLine{SendOutID: sendOutID}}
	var out []OutgoingLine
	err := eachArray(tx.db, asArray(`x.id, x.listing_id, x.plan_line_id, x.key, x.was, x.price, x.quantity, x.cost, x.cost_cur, x.landed, x.state,
		x.words, x.later, x.handed_at IS NOT NULL, l.sku, coalesce(e.ref, ''), x.does`)+` FROM send_lines x JOIN listings l ON l.id = x.listing_id
		LEFT JOIN entries e ON e.id = l.entry_id WHERE x.send_out_id = ? ORDER BY x.id`,
		[]any{&l.ID, &l.ListingID, &l.PlanLineID, &l.Key, &l.Was, &l.Price, &l.Quantity, &l.Cost, &l.CostCur, &l.Landed, &l.State,
			&l.Words, &l.Later, &l.Handed, &l.SKU, &l.EntryRef, &l.Does},
		func() { out = append(out, l) }, sendOutID)
	if err != nil {
		return nil, fmt.Errorf("reading the lines of a send-out: %w", err)
	}
	return out, nil
}

// InsertSendLines writes new lines of a send-out.
func (tx Tx) InsertSendLines(list []SendLine) error {
	rows := make([][]any, len(list))
	for i := range list {
		l := &list[i]
		rows[i] = []any{l.SendOutID, l.ListingID, l.PlanLineID, l.Key, l.Was, l.Price, l.Quantity, l.Cost, l.CostCur, l.Landed, l.State, l.Does}
	}
	return tx.insertRows(
		"send_lines (send_out_id, listing_id, plan_line_id, key, was, price, quantity, cost, cost_cur, landed, state, does)", rows, "")
}

// OpenLine is a line on its way, with whether it may have been handed over.
type OpenLine struct {
	SendLine `gorm:"embedded"`
	Perhaps  bool // its send-out was tried, and nobody told whether it arrived
	// A newer line with a price, or a quantity, was confirmed: whatever became of this one's, it holds no more.
	PriceOver, QuantityOver bool
}

// Surely tells whether the line was surely never handed over.
func (l *OpenLine) Surely() bool { return l.State == SendWaiting && !l.Perhaps }

// OpenLines are the lines of some listings that are on their way or of which
// nobody told what became of them, in the order they were let go.
func (tx Tx) OpenLines(listingIDs []int64) ([]OpenLine, error) {
	var out []OpenLine
	const newer = `EXISTS (SELECT 1 FROM send_lines y WHERE y.listing_id = x.listing_id AND y.id > x.id AND y.state = 'confirmed' AND `
	err := tx.db.Raw(`SELECT x.*, o.perhaps AND x.handed_at IS NOT NULL AS perhaps,
		`+newer+`y.price IS NOT NULL) AS price_over, `+newer+`y.quantity IS NOT NULL) AS quantity_over FROM json_each(?) j
		CROSS JOIN send_lines x ON x.listing_id = j.value
		JOIN send_outs o ON o.id = x.send_out_id WHERE `+openLine+` ORDER BY x.listing_id, x.id`, listOf(listingIDs)).Scan(&out).Error
	return out, err
}

// PerhapsHanded are, by listing, the newest lines that were handed over as far
// as anybody knows and never answered: what is the same once more carries the
// same key, by which the marketplace knows it.
func (tx Tx) PerhapsHanded(listingIDs []int64) (map[int64]SendLine, error) {
	var rows []SendLine
	err := tx.db.Raw(`SELECT x.* FROM json_each(?) j CROSS JOIN send_lines x ON x.id = (SELECT max(y.id) FROM send_lines y
		WHERE y.listing_id = j.value AND y.does = '')
		WHERE x.state IN ('unknown', 'given up') AND x.handed_at IS NOT NULL`, listOf(listingIDs)).Scan(&rows).Error
	out := map[int64]SendLine{}
	for _, r := range rows {
		out[r.ListingID] = r
	}
	return out, err
}

// Overtaken are the lines of a send-out that a newer line of the same listing
// has overtaken, in the price or in the quantity.
func (tx Tx) Overtaken(sendOutID int64) (map[int64]bool, error) {
	var ids []int64
	err := tx.db.Raw(`SELECT x.id FROM send_lines x WHERE x.send_out_id = ? AND EXISTS (SELECT 1 FROM send_lines y
		WHERE y.listing_id = x.listing_id AND y.id > x.id
		AND y.state NOT IN ('withdrawn', 'given up', 'refused') AND (x.price IS NOT NULL
			AND y.price IS NOT NULL OR x.quantity IS NOT NULL AND y.quantity IS NOT NULL))`, sendOutID).Scan(&ids).Error
	out := map[int64]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// SetLines changes only some columns of lines.
func (tx Tx) SetLines(ids []int64, columns map[string]any) error {
	return tx.db.Model(&SendLine{}).Where("id"+inList, listOf(ids)).Updates(columns).Error
}

// MarkUnconfirmed sets the state of those listings that were never confirmed.
func (tx Tx) MarkUnconfirmed(ids []int64, state string) error {
	return tx.db.Exec("UPDATE listings SET state = ? WHERE confirmed_at IS NULL AND id"+inList, state, listOf(ids)).Error
}

// Said is what a marketplace said of a line.
type Said struct {
	ID    int64  `json:"id"`
	State string `json:"state"` // confirmed, refused
	Words string `json:"words"`
	Field string `json:"field"`
}

// PutAnswers writes what was said into lines, and what it means into their
// listings: what was confirmed is on sale, unless a newer line said otherwise
// that was confirmed before; a no leaves on sale what is.
func (tx Tx) PutAnswers(said []Said, now time.Time) error {
	text, err := json.Marshal(said)
	if err != nil {
		return err
	}
	// Materialised, so that the few lines find their listings and not the other way round.
	const (
		answers = "WITH a AS MATERIALIZED (SELECT value->>'state' AS said, value->>'words' AS said_words, value->>'field' AS said_field, " +
			"x.* FROM json_each(?) CROSS JOIN send_lines x ON x.id = value->>'id') "
		newest = `max(CASE WHEN a.%[1]s IS NOT NULL AND NOT EXISTS (SELECT 1 FROM send_lines y WHERE y.listing_id = a.listing_id
			AND y.id > a.id AND y.state = 'confirmed' AND y.%[1]s IS NOT NULL) THEN a.id END)`
	)
	for _, q := range []struct {
		query string
		args  []any
	}{
		{answers + "UPDATE send_lines SET state = a.said, words = a.said_words, field = a.said_field, answered_at = ? FROM a " +
			"WHERE send_lines.id = a.id", []any{string(text), now}},
		{strings.TrimSuffix(answers, " ") + `, n AS MATERIALIZED (SELECT a.listing_id, ` + fmt.Sprintf(newest, "price") + ` AS priced, ` +
			fmt.Sprintf(newest, "quantity") + ` AS counted FROM a WHERE a.said = 'confirmed' GROUP BY a.listing_id)
			UPDATE listings SET state = 'live', words = '', words_field = '', confirmed_at = ?,
				confirmed_price = CASE WHEN n.priced IS NULL THEN confirmed_price ELSE p.price END,
				confirmed_cost = CASE WHEN n.priced IS NULL THEN confirmed_cost ELSE p.cost END,
				confirmed_cost_cur = CASE WHEN n.priced IS NULL THEN confirmed_cost_cur ELSE p.cost_cur END,
				confirmed_landed = CASE WHEN n.priced IS NULL THEN confirmed_landed ELSE p.landed END,
				confirmed_quantity = CASE WHEN n.counted IS NULL THEN confirmed_quantity ELSE q.quantity END
			FROM n LEFT JOIN send_lines p ON p.id = n.priced LEFT JOIN send_lines q ON q.id = n.counted
			WHERE listings.id = n.listing_id`, []any{string(text), now}},
		{answers + `INSERT INTO listing_contents (listing_id, content, at) SELECT a.listing_id, a.content, ? FROM a
			WHERE a.said = 'confirmed' AND a.content <> '' ORDER BY a.id
			ON CONFLICT (listing_id) DO UPDATE SET content = excluded.content, at = excluded.at`, []any{string(text), now}},
		{answers + `DELETE FROM word_differences WHERE listing_id IN (SELECT a.listing_id FROM a WHERE a.said = 'confirmed' AND a.content <> '')`,
			[]any{string(text)}},
		{answers + `UPDATE listings SET words = a.said_words, words_field = a.said_field, state = CASE WHEN confirmed_at IS NULL
			THEN 'refused' ELSE listings.state END
			FROM a WHERE listings.id = a.listing_id AND a.said = 'refused'`, []any{string(text)}},
	} {
		if err := tx.db.Exec(q.query, q.args...).Error; err != nil {
			return fmt.Errorf("writing down what a marketplace said: %w", err)
		}
	}
	return nil
}

// PutHanded writes down of lines that they are being handed over, with the
// lines of their prices, by id.
func (tx Tx) PutHanded(quotes map[int64]string, now time.Time) error {
	text, err := json.Marshal(quotes)
	if err != nil {
		return err
	}
	return tx.db.Exec(
		"UPDATE send_lines SET quote = q.value, handed_at = ? FROM json_each(?) q WHERE send_lines.id = CAST(q.key AS INTEGER)",
		now,
		string(text),
	).Error
}

// PutContents writes down what listings say in the lines that are being handed
// over, whole, by line.
func (tx Tx) PutContents(contents map[int64]string) error {
	if len(contents) == 0 {
		return nil
	}
	text, err := json.Marshal(contents)
	if err != nil {
		return err
	}
	return tx.db.Exec("UPDATE send_lines SET content = q.value FROM json_each(?) q WHERE send_lines.id = CAST(q.key AS INTEGER)", string(text)).Error
}

// ConfirmAsThere makes a listing what was read back of it, by the line that
// says the same, if one does.
func (tx Tx) ConfirmAsThere(l *Listing, price, quantity int64, by *SendLine, now time.Time) error {
	columns := map[string]any{
		"confirmed_price":    price,
		"confirmed_quantity": quantity,
		"confirmed_at":       &now,
		"state":              ListingLive,
		"words":              "",
		"words_field":        "",
	}
	switch {
	case by != nil && by.Price != nil:
		columns["confirmed_cost"], columns["confirmed_cost_cur"], columns["confirmed_landed"] = by.Cost, by.CostCur, by.Landed
	case l.ConfirmedPrice == nil || *l.ConfirmedPrice != price:
		columns["confirmed_cost"], columns["confirmed_cost_cur"], columns["confirmed_landed"] = nil, "",
			nil // nobody knows what it was worked out from
	}
	return tx.db.Model(&Listing{ID: l.ID}).Updates(columns).Error
}

// Unconfirm says of a listing that it isn't on sale: it is as it was before it
// was sent.
func (tx Tx) Unconfirm(id int64, state string) error {
	return tx.db.Model(&Listing{ID: id}).
		Updates(map[string]any{"state": state, "confirmed_price": nil, "confirmed_quantity": 0, "confirmed_cost": nil, "confirmed_cost_cur": "",
			"confirmed_landed": nil, "confirmed_at": nil, "seen_at": nil}).Error
}

// MarkSeen notes that listings were seen on their site, those that weren't before.
func (tx Tx) MarkSeen(ids []int64, at time.Time) error {
	return tx.db.Exec("UPDATE listings SET seen_at = ? WHERE seen_at IS NULL AND id"+inList, at, listOf(ids)).Error
}

// ReadRegularly has every site read back at a moment that has something on sale
// and that nothing else reads back before.
func (tx Tx) ReadRegularly(at time.Time) error {
	return tx.db.Exec(
		`INSERT INTO readings (site_id, due_at) SELECT s.id, ? FROM sites s WHERE NOT EXISTS (SELECT 1 FROM readings r WHERE r.site_id = s.id)
		AND EXISTS (SELECT 1 FROM marketplaces m WHERE m.id = s.marketplace_id AND m.address <> '')
		AND EXISTS (SELECT 1 FROM listings l WHERE l.site_id = s.id AND l.state IN ('live', 'unknown'))`,
		at,
	).Error
}

// WaitingSendOuts are the send-outs that were let go and that no run hands over,
// though nothing went wrong with them.
func (tx Tx) WaitingSendOuts() ([]SendOut, error) {
	var out []SendOut
	err := tx.db.Raw("SELECT o.* FROM send_outs o WHERE o.state = 'waiting' AND o.error = '' AND o.again_at IS NULL AND NOT o.paused AND NOT " +
		sendAlive + " ORDER BY o.id").Scan(&out).Error
	return out, err
}

// AgainSendOuts are the send-outs whose time has come to be tried again, and that
// no run is at.
func (tx Tx) AgainSendOuts(now time.Time) ([]SendOut, error) {
	var out []SendOut
	err := tx.db.Raw("SELECT o.* FROM send_outs o WHERE o.state = 'waiting' AND o.again_at <= ? AND NOT o.paused AND NOT "+sendAlive+" ORDER BY o.urgent DESC, o.id", now).
		Scan(&out).Error
	return out, err
}

// FollowedSendOuts are the send-outs of a marketplace that were handed over and
// not answered whole.
func (s *Store) FollowedSendOuts(ctx context.Context, marketplaceID int64) ([]SendOut, error) {
	var out []SendOut
	err := s.read.WithContext(ctx).
		Raw("SELECT o.* FROM send_outs o JOIN sites s ON s.id = o.site_id WHERE o.state = 'sent' AND s.marketplace_id = ? "+
			"ORDER BY o.id", marketplaceID).Scan(&out).Error
	return out, err
}

// FollowedMarketplaces are those that have been handed something they haven't
// answered whole.
func (tx Tx) FollowedMarketplaces() ([]Marketplace, error) {
	var out []Marketplace
	err := tx.db.Raw("SELECT DISTINCT m.* FROM marketplaces m JOIN sites s ON s.marketplace_id = m.id " +
		"JOIN send_outs o ON o.site_id = s.id WHERE o.state = 'sent' ORDER BY m.id").Scan(&out).Error
	return out, err
}

// ReadAt has a site's listings read back at some moments.
func (tx Tx) ReadAt(siteID int64, moments ...time.Time) error {
	for _, at := range moments {
		if err := tx.db.Create(&Reading{SiteID: siteID, DueAt: at}).Error; err != nil {
			return err
		}
	}
	return nil
}

// DueReadings are the sites whose listings are due to be read back; the
// moments that made them so are forgotten.
func (tx Tx) DueReadings(now time.Time) ([]Site, error) {
	var out []Site
	err := tx.db.Raw("SELECT * FROM sites WHERE id IN (SELECT site_id FROM readings WHERE due_at <= ?) ORDER BY id", now).Scan(&out).Error
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return out, tx.db.Where("due_at <= ?", now).Delete(&Reading{}).Error
}

// ListingsBySKU are a site's listings by their SKUs there.
func (tx Tx) ListingsBySKU(siteID int64, skus []string) (map[string]Listing, error) {
	var rows []Listing
	err := tx.db.Where("site_id = ? AND sku IN (SELECT value FROM json_each(?))", siteID, textList(skus)).Find(&rows).Error
	out := map[string]Listing{}
	for _, r := range rows {
		out[r.SKU] = r
	}
	return out, err
}

// ListingsThere are the ids of a site's listings that are, or may be, on sale there.
func (tx Tx) ListingsThere(siteID int64) ([]int64, error) {
	var ids []int64
	err := tx.db.Raw(`SELECT l.id FROM listings l WHERE l.site_id = ? AND (l.confirmed_at IS NOT NULL OR EXISTS (SELECT 1
		FROM send_lines x WHERE x.listing_id = l.id AND x.state = 'unknown'))`, siteID).Scan(&ids).Error
	return ids, err
}

// PutUntied keeps the offers of a site that are tied to nothing of ours, in the
// place of those known before.
func (tx Tx) PutUntied(siteID int64, rows []Untied) error {
	if err := tx.db.Where("site_id = ?", siteID).Delete(&Untied{}).Error; err != nil || len(rows) == 0 {
		return err
	}
	return tx.CreateAll(rows)
}

// UntiedRow is an offer on sale somewhere that is tied to nothing of ours.
type UntiedRow struct {
	ID       int64 // of its row, for lists
	Site     string
	SKU      string
	EntryRef string
	Price    *int64
	Currency string
	Quantity int64
	SeenAt   time.Time
	SiteID   int64
	Title    string
	GTIN     string
}

// Untieds lists the offers on sale that are tied to nothing of ours.
func (s *Store) Untieds(ctx context.Context, p Page) (List[UntiedRow], error) {
	return list[UntiedRow](
		ctx,
		s.read,
		listQuery{
			columns: `u.rowid AS id, s.name AS site, u.sku, u.entry_ref, u.price, s.currency, u.quantity, u.seen_at, u.site_id, coalesce(nullif(u.title, ''), e.title, '') AS title,
				coalesce(nullif(u.gtin, ''), e.gtin, '') AS gtin`,
			from:  "untieds u JOIN sites s ON s.id = u.site_id LEFT JOIN entries e ON e.site_id = u.site_id AND e.ref = u.entry_ref WHERE u.quantity > 0",
			id:    "u.rowid",
			sort:  "sku",
			sorts: map[string]string{"sku": "u.sku"},
		},
		p,
	)
}

// SendOutRow is a send-out with its lines counted.
type SendOutRow struct {
	ID        int64
	Site      string
	State     string
	Batch     string
	Error     string
	PlanID    *int64
	Perhaps   bool
	Alive     bool // a run is at it
	Followed  bool // a run follows what its marketplace was handed
	Tries     int64
	Sender    string
	Alone     bool
	Undoes    *int64
	AgainAt   *time.Time
	Paused    bool
	Lines     int64
	Waiting   int64
	Confirmed int64
	Refused   int64
	GivenUp   int64
	Unknown   int64
	Withdrawn int64
	Sheets    int64 // filled sheets that it came to
	Unloaded  int64 // of them, not uploaded yet
	Tasks     int64 // for a person, that wait
	CreatedAt time.Time
	SentAt    *time.Time
	OverdueAt *time.Time
	DoneAt    *time.Time
}

// Overdue tells whether a batch should have been finished by now.
func (o *SendOutRow) Overdue(now time.Time) bool {
	return o.State == SendSent && o.OverdueAt != nil && now.After(*o.OverdueAt)
}

const sendOutColumns = `o.id, s.name AS site, o.state, o.batch, o.error, o.plan_id, o.perhaps, ` + sendAlive + ` AS alive,
	EXISTS (SELECT 1 FROM runs r WHERE r.kind = 'follow' AND r.subject = s.marketplace_id AND r.` + alive + `) AS followed,
	o.tries, o.sender, o.alone, o.undoes, o.again_at, o.paused, o.created_at, o.sent_at, o.overdue_at, o.done_at,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id) AS lines,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state IN ('waiting', 'sent')) AS waiting,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'confirmed') AS confirmed,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'refused') AS refused,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'given up') AS given_up,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'unknown') AS unknown,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'withdrawn') AS withdrawn,
	(SELECT count(*) FROM sheet_files f WHERE f.site_id = o.site_id AND f.batch = o.key) AS sheets,
	(SELECT count(*) FROM sheet_files f WHERE f.site_id = o.site_id AND f.batch = o.key AND f.uploaded_at IS NULL) AS unloaded,
	(SELECT count(*) FROM sheet_lines t WHERE t.site_id = o.site_id AND t.batch = o.key AND t.task <> '' AND t.said = '') AS tasks`

// SendOuts lists the send-outs, newest first.
func (s *Store) SendOuts(ctx context.Context, p Page) (List[SendOutRow], error) {
	return list[SendOutRow](
		ctx,
		s.read,
		listQuery{columns: sendOutColumns, from: "send_outs o JOIN sites s ON s.id = o.site_id WHERE 1 = 1", id: "o.id",
			sorts: map[string]string{"id": "o.id"}, sort: "id", desc: true},
		p,
	)
}

const sendOutRow = "SELECT " + sendOutColumns + " FROM send_outs o JOIN sites s ON s.id = o.site_id WHERE o.id = ?"

func sendOutID(r SendOutRow) int64 { return r.ID }

// SendOutRowOf is one send-out.
func (s *Store) SendOutRowOf(ctx context.Context, id int64) (SendOutRow, error) {
	return one(s.read.WithContext(ctx).Raw(sendOutRow, id), sendOutID)
}

// SendOutRowOf is Store.SendOutRowOf inside a transaction.
func (tx Tx) SendOutRowOf(id int64) (SendOutRow, error) {
	return one(tx.db.Raw(sendOutRow, id), sendOutID)
}

// SendLineRow is one line of a send-out.
type SendLineRow struct {
	ID        int64
	ListingID int64
	SKU       string
	Title     string
	Page      string
	Currency  string
	Price     *int64
	Quantity  *int64
	State     string
	Field     string
	Words     string
	Later     string
	Picture   string `gorm:"-"`
}

// SendLines lists the lines of a send-out: refused first, then those that wait.
func (s *Store) SendLines(ctx context.Context, id int64, state string, p Page) (List[SendLineRow], error) {
	q := listQuery{
		columns: "x.id, x.listing_id, l.sku, p.title, coalesce(e.page, '') AS page, l.currency, x.price, x.quantity, x.state, x.field, " +
			"x.words, x.later",
		from: `send_lines x JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
			LEFT JOIN entries e ON e.id = l.entry_id WHERE x.send_out_id = ?`,
		args: []any{id},
		id:   "x.id",
		sort: "state",
		sorts: map[string]string{
			"state": "CASE x.state WHEN 'refused' THEN 0 WHEN 'unknown' THEN 1 WHEN 'given up' THEN 2 WHEN 'withdrawn' THEN 3 " +
				"WHEN 'waiting' THEN 4 WHEN 'sent' THEN 5 ELSE 6 END",
		},
	}
	if state != "" {
		q.from += " AND x.state = ?"
		q.args = append(q.args, state)
	}
	l, err := list[SendLineRow](ctx, s.read, q, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *SendLineRow) int64 { return r.ListingID }, func(r *SendLineRow) *string { return &r.Picture }, s.listingPictures)
}

// ConfirmedPoint is what a marketplace confirmed of a listing at a moment; nil
// where that line left it as it was.
type ConfirmedPoint struct {
	At       time.Time
	Price    *int64
	Quantity *int64
	Landed   *int64 // landed cost that the price was worked out from
}

// ConfirmedHistory is what was confirmed of a listing since a day, oldest first.
func (s *Store) ConfirmedHistory(ctx context.Context, listingID int64, since time.Time) ([]ConfirmedPoint, error) {
	out := []ConfirmedPoint{}
	err := s.read.WithContext(ctx).Model(&SendLine{}).Select("answered_at AS at, price, quantity, landed").
		Where("listing_id = ? AND state = ? AND answered_at >= ?", listingID, SendConfirmed, since).
		Order("answered_at, id").
		Scan(&out).Error
	return out, err
}

// Confirmed lists what a listing has been offered at, oldest first.
func (tx Tx) Confirmed(listingID int64) ([]SendLine, error) {
	var out []SendLine
	err := tx.db.Where("listing_id = ? AND state = ? AND price IS NOT NULL AND answered_at IS NOT NULL", listingID, SendConfirmed).
		Order("answered_at, id").
		Find(&out).Error
	return out, err
}

// QuantityAfter tells whether another quantity of a listing was confirmed by a
// line that is newer than one.
func (tx Tx) QuantityAfter(listingID, lineID int64) (bool, error) {
	var there bool
	err := tx.db.Raw("SELECT EXISTS (SELECT 1 FROM send_lines WHERE listing_id = ? AND id > ? AND quantity IS NOT NULL AND state = 'confirmed')", listingID, lineID).
		Scan(&there).Error
	return there, err
}

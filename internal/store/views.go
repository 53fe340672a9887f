package store

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// like makes a pattern that finds s anywhere, with SQL's own marks taken literally.
func like(s string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(strings.TrimSpace(s)) + "%"
}

// ListingRow is a listing as lists show it. Amounts are minor units of Currency.
type ListingRow struct {
	ID                int64      `json:"id"`
	ProductID         int64      `json:"product_id"`
	SKU               string     `json:"sku"`
	Title             string     `json:"title"`
	Brand             string     `json:"brand"`
	Site              string     `json:"site"`
	Category          string     `json:"category"`
	EntryRef          string     `json:"entry_ref"`
	Page              string     `json:"page" doc:"Public page of the entry"`
	State             string     `json:"state"`
	Currency          string     `json:"currency"`
	Price             *int64     `json:"price"`
	Quantity          int64      `json:"quantity"`
	Landed            *int64     `json:"landed"`
	Fees              *int64     `json:"fees" doc:"Fees, their tax and allowances, of the price"`
	Tax               *int64     `json:"tax"`
	Outbound          *int64     `json:"outbound" doc:"Sending one, less what the buyer pays for it"`
	Profit            *int64     `json:"profit"`
	BreakEven         *int64     `json:"break_even"`
	Floor             *int64     `json:"floor"`
	Bound             string     `json:"bound" doc:"What set the price: aim, market, keep, most"`
	Why               string     `json:"why" doc:"Why there is no price or nothing to offer"`
	ConfirmedPrice    *int64     `json:"confirmed_price"`
	ConfirmedQuantity int64      `json:"confirmed_quantity"`
	ConfirmedAt       *time.Time `json:"confirmed_at"`
	Words             string     `json:"words" doc:"The marketplace's words of a refusal"`
	Supplier          string     `json:"supplier"`
	Ref               string     `json:"ref" doc:"The supplier's ref"`
	Cost              int64      `json:"cost"`
	CostCurrency      string     `json:"cost_currency"`
	Stock             int64      `json:"stock"`
	StockState        string     `json:"stock_state"`
	Gone              bool       `json:"gone"`
	GTIN              string     `json:"gtin"`
}

const listingColumns = `l.id, l.product_id, p.sku, p.title, p.brand, s.name AS site, coalesce(c.name, e.category) AS category, e.ref AS entry_ref, e.page, l.state, l.currency,
	l.price, l.quantity, l.landed, l.fees, l.tax, l.outbound, l.profit, l.break_even, l.floor, l.bound, l.why, l.confirmed_price, l.confirmed_quantity, l.confirmed_at, l.words,
	u.name AS supplier, sp.ref, sp.cost, sp.currency AS cost_currency, sp.stock, sp.stock_state, sp.gone, p.gtin`

// Cross joins keep the tables in this order: a list in the order of the first
// one's index begins at once, however long it is.
const (
	listingTables = "listings l CROSS JOIN products p ON p.id = l.product_id" + listingJoins
	titleTables   = "products p CROSS JOIN listings l ON l.product_id = p.id" + listingJoins
	listingJoins  = ` CROSS JOIN sites s ON s.id = l.site_id CROSS JOIN entries e ON e.id = l.entry_id
	LEFT JOIN categories c ON c.site_id = l.site_id AND c.ref = e.category
	CROSS JOIN supply_links k ON k.product_id = l.product_id AND k.present CROSS JOIN supplier_products sp ON sp.id = k.supplier_product_id
	CROSS JOIN sources so ON so.id = sp.source_id CROSS JOIN suppliers u ON u.id = so.supplier_id`
)

// ListingFilter narrows a list of listings. States empty means all.
type ListingFilter struct {
	States []string
	Words  string
	SiteID int64 // 0: every site
}

// Listings is the list of listings.
func (s *Store) Listings(ctx context.Context, f ListingFilter, p Page) (List[ListingRow], error) {
	return list[ListingRow](ctx, s.read, f.query(p), p)
}

// query reads the list in the order of a page. A plus before a column keeps its
// index out of a walk along that order.
func (f ListingFilter) query(p Page) listQuery {
	tables := listingTables
	if p.Sort == "" || p.Sort == "title" || p.Sort == "sku" {
		tables = titleTables
	}
	q := listQuery{columns: listingColumns, id: "l.id", sort: "title",
		sorts: map[string]string{"title": "p.title COLLATE NOCASE", "sku": "p.sku", "price": "coalesce(l.price, -1)", "profit": "coalesce(l.profit, -9000000000)",
			"quantity": "l.quantity", "landed": "coalesce(l.landed, -1)", "state": "l.state", "stock": "sp.stock"}}
	words := strings.Fields(f.Words)
	where := func(plus, ask string) string {
		text := " WHERE 1 = 1"
		q.args = nil
		if f.SiteID != 0 {
			text += " AND " + plus + "l.site_id = ?"
			q.args = append(q.args, f.SiteID)
		}
		if len(f.States) > 0 {
			text += " AND " + plus + "l.state IN (?" + strings.Repeat(",?", len(f.States)-1) + ")"
			for _, st := range f.States {
				q.args = append(q.args, st)
			}
		}
		if len(words) > 0 {
			found, args := productsWith(words, ask)
			text, q.args = text+" AND "+found, append(q.args, args...)
		}
		return text
	}
	q.from, q.upTo = tables+where("+", wordsTell), len(words) > 0
	switch {
	case !q.upTo:
		q.few, q.counted = listingTables+where("", ""), "listings l"+where("", "")
	case slices.ContainsFunc(words, isIndexed):
		q.few = titleTables + where("+", wordsFind)
		q.counted = "product_search f CROSS JOIN products p ON p.id = f.rowid CROSS JOIN listings l ON l.product_id = p.id" + where("+", wordsStream)
	default:
		q.counted = "products p CROSS JOIN listings l ON l.product_id = p.id" + where("+", "")
	}
	return q
}

// ListingRowOf is one listing as lists show it.
func (s *Store) ListingRowOf(ctx context.Context, id int64) (ListingRow, error) {
	var row ListingRow
	res := s.read.WithContext(ctx).Raw("SELECT "+listingColumns+" FROM "+listingTables+" WHERE l.id = ?", id).Scan(&row)
	if res.Error == nil && row.ID == 0 {
		return row, ErrMissing
	}
	return row, res.Error
}

// SetAsides lists what a feed set aside.
func (s *Store) SetAsides(ctx context.Context, feedID int64, p Page) (List[SetAside], error) {
	return list[SetAside](ctx, s.read, listQuery{columns: "a.*", from: "set_asides a WHERE a.feed_id = ?", args: []any{feedID}, id: "a.id",
		sorts: map[string]string{"row": "a.row"}, sort: "row"}, p)
}

// EachSetAside calls fn for everything a feed set aside, in the order of the file.
func (s *Store) EachSetAside(ctx context.Context, feedID int64, fn func(SetAside) error) error {
	var rows []SetAside
	return s.read.WithContext(ctx).Where("feed_id = ?", feedID).FindInBatches(&rows, 1000, func(*gorm.DB, int) error {
		for _, r := range rows {
			if err := fn(r); err != nil {
				return err
			}
		}
		return nil
	}).Error
}

// ChangeRow is one change that a feed made, with what it was made to.
type ChangeRow struct {
	ID     int64  `json:"id"`
	ItemID int64  `json:"supplier_product_id"`
	Ref    string `json:"ref"`
	Title  string `json:"title"`
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Changes lists what a feed changed.
func (s *Store) Changes(ctx context.Context, feedID int64, p Page) (List[ChangeRow], error) {
	return list[ChangeRow](ctx, s.read, listQuery{columns: "c.id, c.supplier_product_id AS item_id, sp.ref, sp.title, c.field, c.before, c.after",
		from: "supplier_changes c JOIN supplier_products sp ON sp.id = c.supplier_product_id WHERE c.feed_id = ?", args: []any{feedID}, id: "c.id",
		sorts: map[string]string{"id": "c.id", "ref": "sp.ref", "field": "c.field"}, sort: "id"}, p)
}

// MatchRow is a supplier product that waits on Match.
type MatchRow struct {
	ID         int64  `json:"id"`
	State      string `json:"state"`
	SiteID     int64  `json:"site_id"`
	Site       string `json:"site"`
	ProductID  int64  `json:"supplier_product_id"`
	Supplier   string `json:"supplier"`
	Ref        string `json:"ref"`
	GTIN       string `json:"gtin"`
	GTINStatus string `json:"gtin_status"`
	Title      string `json:"title"`
	Brand      string `json:"brand"`
	Category   string `json:"category"`
	Cost       int64  `json:"cost"`
	Currency   string `json:"currency"`
	Stock      int64  `json:"stock"`
	StockState string `json:"stock_state"`
	Units      int64  `json:"units"`
	Candidates string `json:"-"`
}

const matchColumns = `m.id, m.state, m.site_id, s.name AS site, sp.id AS product_id, u.name AS supplier, sp.ref, sp.gtin, sp.gtin_status, sp.title, sp.brand, sp.category,
	sp.cost, sp.currency, sp.stock, sp.stock_state, sp.units_per_item AS units, m.candidates`

const matchTables = `matches m JOIN supplier_products sp ON sp.id = m.supplier_product_id JOIN sites s ON s.id = m.site_id
	JOIN sources so ON so.id = sp.source_id JOIN suppliers u ON u.id = so.supplier_id`

// Matches lists the matches in some states.
func (s *Store) Matches(ctx context.Context, states []string, p Page) (List[MatchRow], error) {
	args := make([]any, len(states))
	for i := range states {
		args[i] = states[i]
	}
	return list[MatchRow](ctx, s.read, listQuery{columns: matchColumns, from: matchTables + " WHERE m.state IN (?" + strings.Repeat(",?", len(states)-1) + ")",
		args: args, id: "m.id", sorts: map[string]string{"id": "m.id"}, sort: "id"}, p)
}

// MatchRowOf is one match.
func (s *Store) MatchRowOf(ctx context.Context, id int64) (MatchRow, error) {
	var row MatchRow
	res := s.read.WithContext(ctx).Raw("SELECT "+matchColumns+" FROM "+matchTables+" WHERE m.id = ?", id).Scan(&row)
	if res.Error == nil && row.ID == 0 {
		return row, ErrMissing
	}
	return row, res.Error
}

// EntriesByRef are known entries of a site.
func (s *Store) EntriesByRef(ctx context.Context, siteID int64, refs []string) ([]Entry, error) {
	var out []Entry
	err := s.read.WithContext(ctx).Where("site_id = ? AND ref IN ?", siteID, refs).Find(&out).Error
	return out, err
}

// PlanRow is a line of a plan as Watch shows it.
type PlanRow struct {
	ID         int64    `json:"id"`
	ListingID  int64    `json:"listing_id"`
	SKU        string   `json:"sku"`
	Title      string   `json:"title"`
	Site       string   `json:"site"`
	Page       string   `json:"page"`
	Currency   string   `json:"currency"`
	Kind       string   `json:"kind" doc:"zero, no price, up, down, quantity"`
	FromPrice  *int64   `json:"from_price"`
	ToPrice    *int64   `json:"to_price"`
	FromQty    *int64   `json:"from_quantity"`
	ToQty      *int64   `json:"to_quantity"`
	Asked      *int64   `json:"asked" doc:"The price asked after the change"`
	ProfitWas  *int64   `json:"profit_was" doc:"Left of a sale at the old price, at today's cost"`
	ProfitNew  *int64   `json:"profit_new"`
	Price      *int64   `json:"price" doc:"The price worked out, with what it splits into"`
	Landed     *int64   `json:"landed"`
	Fees       *int64   `json:"fees"`
	Tax        *int64   `json:"tax"`
	Outbound   *int64   `json:"outbound"`
	Profit     *int64   `json:"profit"`
	BreakEven  *int64   `json:"break_even"`
	Floor      *int64   `json:"floor"`
	Reasons    []string `json:"reasons" gorm:"serializer:json"`
	Verdict    string   `json:"verdict"`
	VerdictWhy string   `json:"verdict_why"`
	State      string   `json:"state"`
}

// PlanLines lists the lines of a plan that wait, in the order they go out.
func (s *Store) PlanLines(ctx context.Context, planID int64, p Page) (List[PlanRow], error) {
	return list[PlanRow](ctx, s.read, listQuery{
		columns: `x.id, x.listing_id, p.sku, p.title, s.name AS site, e.page, x.currency, x.kind, x.from_price, x.to_price, x.from_qty, x.to_qty,
			coalesce(x.to_price, l.confirmed_price) AS asked, x.profit_was, x.profit_new, l.price, l.landed, l.fees, l.tax, l.outbound, l.profit, l.break_even, l.floor, x.reasons, x.verdict, x.verdict_why, x.state`,
		from: `plan_lines x JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id JOIN sites s ON s.id = l.site_id JOIN entries e ON e.id = l.entry_id
			WHERE x.plan_id = ? AND x.state = 'waiting'`,
		args: []any{planID}, id: "x.id", sort: "order",
		sorts: map[string]string{"order": "CASE x.kind WHEN 'zero' THEN 0 WHEN 'no price' THEN 1 WHEN 'up' THEN 2 WHEN 'down' THEN 3 ELSE 4 END"}}, p)
}

// PlanGroup sums the lines of one consequence.
type PlanGroup struct {
	Kind    string `json:"kind"`
	Lines   int64  `json:"lines"`
	Go      int64  `json:"go"`
	Held    int64  `json:"held"`
	Blocked int64  `json:"blocked"`
	OnSale  int64  `json:"on_sale" doc:"What is on sale in these listings, at their prices"`
	Gain    int64  `json:"gain" doc:"What one sale of each earns more than without the change"`
}

// PlanGroups sums a plan by consequence.
func (s *Store) PlanGroups(ctx context.Context, planID int64) ([]PlanGroup, error) {
	out := []PlanGroup{}
	err := s.read.WithContext(ctx).Raw(`SELECT x.kind, count(*) AS lines, sum(x.verdict = 'go') AS go, sum(x.verdict = 'held') AS held, sum(x.verdict = 'blocked') AS blocked,
		sum(coalesce(l.confirmed_price, 0) * l.confirmed_quantity) AS on_sale, sum(coalesce(x.profit_new, 0) - coalesce(x.profit_was, 0)) AS gain
		FROM plan_lines x JOIN listings l ON l.id = x.listing_id WHERE x.plan_id = ? AND x.state = 'waiting' GROUP BY x.kind`, planID).Scan(&out).Error
	return out, err
}

// OpenPlan is the newest plan of any site that still waits, or ErrMissing.
func (s *Store) OpenPlan(ctx context.Context) (Plan, error) {
	plans, err := s.OpenPlans(ctx)
	if err == nil && len(plans) == 0 {
		err = ErrMissing
	}
	if err != nil {
		return Plan{}, err
	}
	return plans[0], nil
}

// OpenPlans are the plans that still wait, one at most for each site, newest first.
func (s *Store) OpenPlans(ctx context.Context) ([]Plan, error) {
	var out []Plan
	err := s.read.WithContext(ctx).Where("open").Order("id DESC").Find(&out).Error
	return out, err
}

// SendOutRow is a send-out with its lines counted.
type SendOutRow struct {
	ID        int64      `json:"id"`
	Site      string     `json:"site"`
	State     string     `json:"state"`
	Batch     string     `json:"batch"`
	Error     string     `json:"error"`
	PlanID    *int64     `json:"plan_id"`
	Lines     int64      `json:"lines"`
	Waiting   int64      `json:"waiting"`
	Confirmed int64      `json:"confirmed"`
	Refused   int64      `json:"refused"`
	GivenUp   int64      `json:"given_up"`
	CreatedAt time.Time  `json:"created"`
	DoneAt    *time.Time `json:"done"`
}

const sendOutColumns = `o.id, s.name AS site, o.state, o.batch, o.error, o.plan_id, o.created_at, o.done_at,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id) AS lines,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state IN ('waiting', 'sent')) AS waiting,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'confirmed') AS confirmed,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'refused') AS refused,
	(SELECT count(*) FROM send_lines x WHERE x.send_out_id = o.id AND x.state = 'given up') AS given_up`

// SendOuts lists the send-outs, newest first.
func (s *Store) SendOuts(ctx context.Context, p Page) (List[SendOutRow], error) {
	return list[SendOutRow](ctx, s.read, listQuery{columns: sendOutColumns, from: "send_outs o JOIN sites s ON s.id = o.site_id WHERE 1 = 1", id: "o.id",
		sorts: map[string]string{"id": "o.id"}, sort: "id", desc: true}, p)
}

// SendOutRowOf is one send-out.
func (s *Store) SendOutRowOf(ctx context.Context, id int64) (SendOutRow, error) {
	var row SendOutRow
	res := s.read.WithContext(ctx).Raw("SELECT "+sendOutColumns+" FROM send_outs o JOIN sites s ON s.id = o.site_id WHERE o.id = ?", id).Scan(&row)
	if res.Error == nil && row.ID == 0 {
		return row, ErrMissing
	}
	return row, res.Error
}

// SendLineRow is one line of a send-out.
type SendLineRow struct {
	ID        int64  `json:"id"`
	ListingID int64  `json:"listing_id"`
	SKU       string `json:"sku"`
	Title     string `json:"title"`
	Page      string `json:"page"`
	Currency  string `json:"currency"`
	Price     *int64 `json:"price"`
	Quantity  *int64 `json:"quantity"`
	State     string `json:"state"`
	Field     string `json:"field"`
	Words     string `json:"words"`
}

// SendLines lists the lines of a send-out: refused first, then those that wait.
func (s *Store) SendLines(ctx context.Context, id int64, state string, p Page) (List[SendLineRow], error) {
	q := listQuery{columns: "x.id, x.listing_id, p.sku, p.title, e.page, l.currency, x.price, x.quantity, x.state, x.field, x.words",
		from: `send_lines x JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id JOIN entries e ON e.id = l.entry_id WHERE x.send_out_id = ?`,
		args: []any{id}, id: "x.id", sort: "state",
		sorts: map[string]string{"state": "CASE x.state WHEN 'refused' THEN 0 WHEN 'given up' THEN 1 WHEN 'waiting' THEN 2 WHEN 'sent' THEN 3 ELSE 4 END"}}
	if state != "" {
		q.from += " AND x.state = ?"
		q.args = append(q.args, state)
	}
	return list[SendLineRow](ctx, s.read, q, p)
}

// Counts is what waits at each stop.
type Counts struct {
	FeedsWaiting int64 `json:"feeds_waiting" doc:"Feeds looked at or held, waiting for a person"`
	FeedsHeld    int64 `json:"feeds_held"`
	FeedsFailed  int64 `json:"feeds_failed" doc:"Sources whose newest feed failed"`
	MatchSeveral int64 `json:"match_several"`
	MatchNone    int64 `json:"match_none"`
	MatchLater   int64 `json:"match_later"`
	Unpriced     int64 `json:"unpriced"`
	Ready        int64 `json:"ready"`
	Refused      int64 `json:"refused"`
	Sent         int64 `json:"sent"`
	Live         int64 `json:"live"`
	Paused       int64 `json:"paused"`
	SendsStuck   int64 `json:"sends_stuck" doc:"Send-outs that could not be handed over"`
	PlanLines    int64 `json:"plan_lines"`
	PlanHeld     int64 `json:"plan_held"`
	PlanGo       int64 `json:"plan_go"`
	Products     int64 `json:"products"`
	Sources      int64 `json:"sources"`
	SupplierRows int64 `json:"supplier_products"`
}

// Counts counts what waits.
func (s *Store) Counts(ctx context.Context) (Counts, error) {
	var c Counts
	err := s.read.WithContext(ctx).Raw(`SELECT
		(SELECT count(*) FROM feeds WHERE state IN ('looked', 'held')) AS feeds_waiting,
		(SELECT count(*) FROM feeds WHERE state = 'held') AS feeds_held,
		(SELECT count(*) FROM sources s WHERE (SELECT f.state FROM feeds f WHERE f.source_id = s.id ORDER BY f.id DESC LIMIT 1) = 'failed') AS feeds_failed,
		(SELECT count(*) FROM matches WHERE state = 'several') AS match_several,
		(SELECT count(*) FROM matches WHERE state = 'none') AS match_none,
		(SELECT count(*) FROM matches WHERE state = 'later') AS match_later,
		(SELECT count(*) FROM listings WHERE state = 'unpriced') AS unpriced,
		(SELECT count(*) FROM listings WHERE state = 'ready') AS ready,
		(SELECT count(*) FROM listings WHERE state = 'refused') AS refused,
		(SELECT count(*) FROM listings WHERE state = 'sent') AS sent,
		(SELECT count(*) FROM listings WHERE state = 'live') AS live,
		(SELECT count(*) FROM listings WHERE state = 'paused') AS paused,
		(SELECT count(*) FROM send_outs WHERE state IN ('waiting', 'sent') AND error <> '') AS sends_stuck,
		(SELECT count(*) FROM plan_lines x WHERE x.plan_id IN (SELECT id FROM plans WHERE open) AND x.state = 'waiting') AS plan_lines,
		(SELECT count(*) FROM plan_lines x WHERE x.plan_id IN (SELECT id FROM plans WHERE open) AND x.state = 'waiting' AND x.verdict = 'held') AS plan_held,
		(SELECT count(*) FROM plan_lines x WHERE x.plan_id IN (SELECT id FROM plans WHERE open) AND x.state = 'waiting' AND x.verdict = 'go') AS plan_go,
		(SELECT count(*) FROM products) AS products, (SELECT count(*) FROM sources) AS sources, (SELECT count(*) FROM supplier_products) AS supplier_rows`).Scan(&c).Error
	return c, err
}

// Sources lists every source with its supplier, by name.
func (s *Store) Sources(ctx context.Context) ([]Source, error) {
	var out []Source
	err := s.read.WithContext(ctx).Preload("Supplier").Order("name").Find(&out).Error
	return out, err
}

// Feeds lists feeds, newest first; sourceID 0 means of every source.
func (s *Store) Feeds(ctx context.Context, sourceID int64, p Page) (List[Feed], error) {
	q := listQuery{columns: "f.*", from: "feeds f WHERE 1 = 1", id: "f.id", sorts: map[string]string{"id": "f.id"}, sort: "id", desc: true}
	if sourceID > 0 {
		q.from += " AND f.source_id = ?"
		q.args = []any{sourceID}
	}
	return list[Feed](ctx, s.read, q, p)
}

// LastRuns lists the newest runs.
func (s *Store) LastRuns(ctx context.Context, n int) ([]Run, error) {
	var out []Run
	err := s.read.WithContext(ctx).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// LastAudits lists what was done last.
func (s *Store) LastAudits(ctx context.Context, n int) ([]Audit, error) {
	var out []Audit
	err := s.read.WithContext(ctx).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// Sites lists every site with its marketplace.
func (s *Store) Sites(ctx context.Context) ([]Site, error) {
	var out []Site
	err := s.read.WithContext(ctx).Preload("Marketplace").Order("id").Find(&out).Error
	return out, err
}

// SiteOf is one site with its marketplace.
func (s *Store) SiteOf(ctx context.Context, id int64) (Site, error) {
	return get[Site](s.read.WithContext(ctx).Preload("Marketplace"), id)
}

// SourceOf is one source with its supplier.
func (s *Store) SourceOf(ctx context.Context, id int64) (Source, error) {
	return get[Source](s.read.WithContext(ctx).Preload("Supplier"), id)
}

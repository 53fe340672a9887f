package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// PutPlanLines puts lines in the place of those of the same listings that wait:
// what was planned for them before is overtaken.
func (tx Tx) PutPlanLines(now time.Time, siteID int64, listingIDs []int64, lines []PlanLine) error {
	err := tx.db.Exec("DELETE FROM plan_lines WHERE state = 'waiting' AND listing_id"+inList, listOf(listingIDs)).Error
	if err != nil || len(lines) == 0 {
		return err
	}
	p := Plan{SiteID: siteID, MadeAt: now}
	err = tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "site_id"}},
		DoUpdates: clause.AssignmentColumns([]string{"made_at"})}, clause.Returning{Columns: []clause.Column{{Name: "id"}}}).
		Create(&p).Error
	if err != nil {
		return err
	}
	for i := range lines {
		lines[i].PlanID = p.ID
	}
	return tx.CreateAll(lines)
}

// PlanRow is a line of a plan as Watch shows it.
type PlanRow struct {
	ID         int64
	ListingID  int64
	SKU        string
	Title      string
	Site       string
	Page       string
	Currency   string
	Kind       string
	FromPrice  *int64
	ToPrice    *int64
	FromQty    *int64
	ToQty      *int64
	Asked      *int64 // the price asked after the change
	ProfitWas  *int64
	ProfitNew  *int64
	Price      *int64 // the price worked out, with what it splits into
	Landed     *int64
	Fees       *int64
	Tax        *int64
	Outbound   *int64
	Profit     *int64
	BreakEven  *int64
	Floor      *int64
	Reasons    []string `gorm:"serializer:list"`
	Verdict    string
	VerdictWhy string
	State      string
	Picture    string `gorm:"-"`
}

// goesFirst puts stock to nothing before all else.
const goesFirst = "CASE x.kind WHEN 'zero' THEN 0 WHEN 'rest' THEN 1 WHEN 'no price' THEN 2 WHEN 'up' THEN 3 WHEN 'down' THEN 4 ELSE 5 END"

// PlanLines lists the lines of a plan that wait, in the order they go out.
func (s *Store) PlanLines(ctx context.Context, planID int64, p Page) (List[PlanRow], error) {
	l, err := list[PlanRow](ctx, s.read, listQuery{
		columns: `x.id, x.listing_id, l.sku, p.title, s.name AS site, coalesce(e.page, '') AS page, x.currency, x.kind, x.from_price,
			x.to_price, x.from_qty, x.to_qty,
			coalesce(x.to_price, l.confirmed_price) AS asked, x.profit_was, x.profit_new, l.price, l.landed, l.fees, l.tax, l.outbound,
				l.profit, l.break_even, l.floor, x.reasons, x.verdict, x.verdict_why, x.state`,
		from: `plan_lines x JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
			JOIN sites s ON s.id = l.site_id LEFT JOIN entries e ON e.id = l.entry_id
			WHERE x.plan_id = ? AND x.state = 'waiting'`,
		args:  []any{planID},
		id:    "x.id",
		sort:  "order",
		sorts: map[string]string{"order": goesFirst},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *PlanRow) int64 { return r.ListingID }, func(r *PlanRow) *string { return &r.Picture }, s.listingPictures)
}

// PlanGroup sums the lines of one consequence.
type PlanGroup struct {
	Kind    string
	Lines   int64
	Go      int64
	Held    int64
	Blocked int64
	OnSale  int64 // what is on sale in these listings, at their prices
	Gain    int64 // what one sale of each earns more than without the change
	Rivals  int64 // those that go because somebody asks less than we do
}

// PlanGroups sums a plan by consequence.
func (s *Store) PlanGroups(ctx context.Context, planID int64) ([]PlanGroup, error) {
	out := []PlanGroup{}
	err := s.read.WithContext(ctx).
		Raw(`SELECT x.kind, count(*) AS lines, sum(x.verdict = 'go') AS go, sum(x.verdict = 'held') AS held,
			sum(x.verdict = 'blocked') AS blocked, sum(x.verdict = 'go' AND x.kind = 'down' AND l.bound = 'market') AS rivals,
		sum(coalesce(l.confirmed_price, l.price, 0) * coalesce(x.from_qty, l.confirmed_quantity)) AS on_sale, sum(coalesce(x.profit_new,
			0) - coalesce(x.profit_was, 0)) AS gain
		FROM plan_lines x JOIN listings l ON l.id = x.listing_id WHERE x.plan_id = ? AND x.state = 'waiting' GROUP BY x.kind`, planID).
		Scan(&out).Error
	return out, err
}

// OpenPlans are the plans with lines that wait, one at most for each site: those
// with most to be taken off sale first, then the one worked out last.
func (s *Store) OpenPlans(ctx context.Context) ([]Plan, error) {
	var out []Plan
	err := s.read.WithContext(ctx).
		Raw("SELECT p.* FROM plans p WHERE EXISTS (SELECT 1 FROM plan_lines x WHERE x.plan_id = p.id AND x.state = 'waiting') " +
			"ORDER BY (SELECT count(*) FROM plan_lines x WHERE x.plan_id = p.id AND x.state = 'waiting' AND x.kind IN ('zero', 'rest', 'no price')) DESC, " +
			"p.made_at DESC, p.id DESC").Scan(&out).Error
	return out, err
}

// PlanChoice says which lines of a plan a person lets go. The zero value is all
// that may go by themselves.
type PlanChoice struct {
	Lines  []int64 // only these, held ones among them; all that may go where empty
	Except []int64 // of all that may go, not these
	Held   []int64 // and these held ones, which somebody has looked at
}

// PlanSendables are waiting lines of a plan that were chosen, stock to nothing
// first. A line whose listing something has changed for since is worked out
// again and not among them, nor is one that the figures of now forbid.
func (tx Tx) PlanSendables(planID int64, c PlanChoice) ([]PlanLine, error) {
	q := `SELECT x.* FROM plan_lines x JOIN listings l ON l.id = x.listing_id WHERE x.plan_id = ? AND x.state = 'waiting'
		AND x.verdict <> 'blocked'
		AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)
		AND (x.to_price IS NULL OR l.floor IS NOT NULL AND x.to_price >= l.floor)
		AND (x.to_qty IS NULL OR x.to_qty = 0 OR x.to_qty <= l.quantity)`
	args := []any{planID}
	if len(c.Lines) > 0 {
		q, args = q+" AND x.id"+inList, append(args, listOf(c.Lines))
	} else {
		q += " AND (x.verdict = 'go' AND x.id NOT" + inList + " OR x.verdict = 'held' AND x.id" + inList + ")"
		args = append(args, listOf(c.Except), listOf(c.Held))
	}
	var out []PlanLine
	err := tx.db.Raw(q+" ORDER BY "+goesFirst+", x.id", args...).Scan(&out).Error
	return out, err
}

// MarkPlanLines sets the state of plan lines.
func (tx Tx) MarkPlanLines(ids []int64, state string) error {
	return tx.db.Exec("UPDATE plan_lines SET state = ? WHERE id"+inList, state, listOf(ids)).Error
}

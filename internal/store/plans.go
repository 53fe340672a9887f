package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm/clause"
)

// PutPlanLines puts lines in the place of those of the same listings that wait:
// what was planned for them before is overtaken.
func (tx Tx) PutPlanLines(now time.Time, siteID int64, listingIDs []int64, lines []PlanLine) error {
	var waits bool
	if err := tx.db.Raw("SELECT EXISTS (SELECT 1 FROM plan_sums m JOIN plans p ON p.id = m.plan_id WHERE p.site_id = ? AND m.lines > 0)", siteID).
		Scan(&waits).Error; err != nil {
		return err
	}
	if waits {
		if err := tx.db.Exec("DELETE FROM plan_lines WHERE state = 'waiting' AND listing_id"+inList, listOf(listingIDs)).Error; err != nil {
			return err
		}
	}
	if len(lines) == 0 {
		return nil
	}
	p := Plan{SiteID: siteID, MadeAt: now}
	err := tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "site_id"}},
		DoUpdates: clause.AssignmentColumns([]string{"made_at"})}, clause.Returning{Columns: []clause.Column{{Name: "id"}}}).
		Create(&p).Error
	if err != nil {
		return err
	}
	rows := make([][]any, len(lines))
	for i := range lines {
		x := &lines[i]
		reasons, err := json.Marshal(x.Reasons)
		if err != nil {
			return err
		}
		if x.Reasons == nil {
			reasons = []byte("[]")
		}
		rows[i] = []any{p.ID, x.ListingID, x.Kind, x.FromPrice, x.ToPrice, x.FromQty, x.ToQty, x.ProfitWas, x.ProfitNew, x.Cost, x.CostCur, x.Landed,
			x.Currency, string(reasons), x.Verdict, x.VerdictWhy, x.State, x.Rule, placeOf(x.Kind), x.OnSale, x.Gain, x.Rival}
	}
	return tx.insertRows(`plan_lines (plan_id, listing_id, kind, from_price, to_price, from_qty, to_qty, profit_was, profit_new, cost, cost_cur, landed,
		currency, reasons, verdict, verdict_why, state, rule, place, on_sale, gain, rival)`, rows, "")
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

// placeOf puts stock to nothing before all else.
func placeOf(kind string) int64 {
	at := slices.Index([]string{"zero", "rest", "no price", "up", "down"}, kind)
	if at < 0 {
		return 5
	}
	return int64(at)
}

// PlanPart says which of the lines that wait are wanted; the zero value is all
// of every site.
type PlanPart struct {
	Plan    int64  // 0: of every site
	Kind    string // one consequence
	Verdict string
}

// where is the condition of a part on lines x; sums is it on their sums.
func (p PlanPart) where() (lines, sums string, args []any) {
	lines, sums = "x.state = 'waiting'", "SELECT coalesce(sum(lines), 0) FROM plan_sums x WHERE 1"
	and := func(condition string, v any) {
		lines, sums, args = lines+" AND "+condition, sums+" AND "+condition, append(args, v)
	}
	if p.Plan != 0 {
		and("x.plan_id = ?", p.Plan)
	}
	if p.Verdict != "" {
		and("x.verdict = ?", p.Verdict)
	}
	if p.Kind != "" {
		and("x.kind = ?", p.Kind)
		lines += fmt.Sprintf(" AND x.place = %d", placeOf(p.Kind)) // which has an index
	}
	return lines, sums, args
}

// PlanLines lists lines of plans that wait, in the order they go out.
func (s *Store) PlanLines(ctx context.Context, part PlanPart, p Page) (List[PlanRow], error) {
	where, sums, args := part.where()
	var total int64
	if err := s.read.WithContext(ctx).Raw(sums, args...).Scan(&total).Error; err != nil {
		return List[PlanRow]{}, err
	}
	l, err := list[PlanRow](ctx, s.read, listQuery{
		columns: `x.id, x.listing_id, l.sku, p.title, s.name AS site, coalesce(e.page, '') AS page, x.currency, x.kind, x.from_price,
			x.to_price, x.from_qty, x.to_qty,
			coalesce(x.to_price, l.confirmed_price) AS asked, x.profit_was, x.profit_new, l.price, l.landed, l.fees, l.tax, l.outbound,
				l.profit, l.break_even, l.floor, x.reasons, x.verdict, x.verdict_why, x.state`,
		from: `plan_lines x CROSS JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
			JOIN sites s ON s.id = l.site_id LEFT JOIN entries e ON e.id = l.entry_id WHERE ` + where,
		args:  args,
		total: &total,
		id:    "x.id",
		sort:  "order",
		sorts: map[string]string{"order": "x.place"},
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

// PlanGroups sums a plan by consequence; of every site where planID is 0.
func (s *Store) PlanGroups(ctx context.Context, planID int64) ([]PlanGroup, error) {
	out := []PlanGroup{}
	err := s.read.WithContext(ctx).
		Raw(`SELECT kind, sum(lines) AS lines, sum(CASE WHEN verdict = 'go' THEN lines ELSE 0 END) AS go,
			sum(CASE WHEN verdict = 'held' THEN lines ELSE 0 END) AS held, sum(CASE WHEN verdict = 'blocked' THEN lines ELSE 0 END) AS blocked,
			sum(rivals) AS rivals, sum(on_sale) AS on_sale, sum(gain) AS gain
			FROM plan_sums WHERE (? = 0 OR plan_id = ?) GROUP BY kind HAVING sum(lines) > 0`, planID, planID).
		Scan(&out).Error
	slices.SortStableFunc(out, func(a, b PlanGroup) int { return cmp.Compare(placeOf(a.Kind), placeOf(b.Kind)) })
	return out, err
}

// OpenPlans are the plans with lines that wait, one at most for each site: those
// with most to be taken off sale first, then the one worked out last.
func (s *Store) OpenPlans(ctx context.Context) ([]Plan, error) {
	var out []Plan
	err := s.read.WithContext(ctx).
		Raw(`SELECT p.* FROM plans p JOIN (SELECT plan_id, sum(lines) AS n, sum(CASE WHEN kind IN ('zero', 'rest', 'no price') THEN lines
			ELSE 0 END) AS off FROM plan_sums GROUP BY plan_id) s ON s.plan_id = p.id WHERE s.n > 0
			ORDER BY s.off DESC, p.made_at DESC, p.id DESC`).Scan(&out).Error
	return out, err
}

// PlanChoice says which lines of a plan a person lets go. The zero value is all
// that may go by themselves.
type PlanChoice struct {
	Lines  []int64 // only these, held ones among them; all that may go where empty
	Kind   string  // only those of one consequence; "" for every
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
	if c.Kind != "" {
		q, args = q+" AND x.kind = ?", append(args, c.Kind)
	}
	var out []PlanLine
	err := tx.db.Raw(q+" ORDER BY x.place, x.id", args...).Scan(&out).Error
	return out, err
}

// MarkPlanLines sets the state of plan lines.
func (tx Tx) MarkPlanLines(ids []int64, state string) error {
	return tx.db.Exec("UPDATE plan_lines SET state = ? WHERE id"+inList, state, listOf(ids)).Error
}

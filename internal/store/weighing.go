package store

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"easymargin/core/sieve"
	"easymargin/internal/fault"
)

// WeighRow is a match with its entry and its supplier product, as one listing of
// it would be worked out.
type WeighRow struct {
	PricingRow
	MatchID   int64
	OffersAt  *time.Time
	IsOurs    bool
	IsCertain bool
	IsDropped bool
	ItemCat   string // category as the supplier says
}

// weighable are matches with an entry that may be the same thing.
const weighable = "state IN ('matched', 'certain', 'several', 'not allowed', 'later', 'weighed') AND (verdict <> 'none' OR state = 'matched')"

// WeighRows are the next matches of a site after one that have an entry: the one
// decided, or else the likeliest.
func (s *Store) WeighRows(ctx context.Context, siteID, after int64, limit int) ([]WeighRow, error) {
	return s.weighRows(ctx, "site_id = ? AND id > ? AND "+weighable+" ORDER BY id LIMIT ?", siteID, after, limit)
}

// WeighRowsOf are those of some supplier products.
func (s *Store) WeighRowsOf(ctx context.Context, siteID int64, items []int64) ([]WeighRow, error) {
	return s.weighRows(ctx, "site_id = ? AND supplier_product_id"+inList+" AND "+weighable, siteID, listOf(items))
}

func (s *Store) weighRows(ctx context.Context, which string, args ...any) ([]WeighRow, error) {
	db := s.read.WithContext(ctx)
	by, err := supplies(db)
	if err != nil {
		return nil, err
	}
	rows, err := db.Raw(`SELECT m.id, m.site_id, coalesce(e.id, 0), coalesce(e.category, ''),
		CASE WHEN m.units_listed > 0 THEN m.units_listed ELSE max(coalesce(e.units, 1), 1) END,
		CASE WHEN m.units_bought > 0 THEN m.units_bought ELSE max(sp.units_per_item, 1) END,
		sp.id, sp.cost, sp.currency, sp.stock, sp.stock_state, sp.gone, sp.source_id, sp.title, coalesce(nullif(sp.brand, ''), e.brand, ''),
		coalesce(e.offers, ''), e.offers_at, e.rating, e.rank, coalesce(json_extract(nullif(sp.details, ''), '$.weight'), 0), sp.category,
		EXISTS (SELECT 1 FROM supply_links k CROSS JOIN listings l ON l.product_id = k.product_id AND l.site_id = m.site_id AND NOT l.unwanted
			WHERE k.supplier_product_id = sp.id),
		EXISTS (SELECT 1 FROM drops d WHERE d.supplier_product_id = sp.id), m.state IN ('matched', 'certain') OR m.verdict = 'certain' AND NOT m.recheck
		FROM (SELECT * FROM matches WHERE `+which+`) m
		CROSS JOIN supplier_products sp ON sp.id = m.supplier_product_id
		LEFT JOIN entries e ON e.id = coalesce(m.entry_id, (SELECT id FROM entries WHERE site_id = m.site_id
			AND ref = CASE json_type(nullif(m.candidates, ''), '$[0]') WHEN 'text' THEN m.candidates->>0 ELSE m.candidates->>'$[0].ref' END))
		ORDER BY m.id`, args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []WeighRow
	for rows.Next() {
		var r WeighRow
		var entry int64
		var offersAt sql.NullTime
		if err := rows.Scan(&r.MatchID, &r.SiteID, &entry, &r.Category, &r.Units, &r.UnitsBought, &r.SupplierProductID, &r.ItemCost, &r.ItemCurrency, &r.Stock,
			&r.StockState, &r.Gone, &r.SourceID, &r.Title, &r.Brand, &r.Offers, &offersAt, &r.Rating, &r.Rank, &r.Weight, &r.ItemCat, &r.IsOurs,
			&r.IsDropped, &r.IsCertain); err != nil {
			return nil, err
		}
		if entry > 0 {
			r.EntryID = &entry
		}
		if offersAt.Valid {
			r.OffersAt = &offersAt.Time
		}
		r.LinkID = r.SupplierProductID
		r.from(by[r.SourceID])
		out = append(out, r)
	}
	return out, rows.Err()
}

// PutWeighings keeps what was worked out, in place of what was before.
func (tx Tx) PutWeighings(list []Weighing) error {
	rows := make([][]any, len(list))
	for i, w := range list {
		var market any
		if w.MarketAt != nil {
			market = stamp(*w.MarketAt)
		}
		rows[i] = []any{w.SiteID, w.SupplierProductID, w.MatchID, w.EntryID, w.Landed, w.Stock, w.Lowest, w.Leading, w.Sellers, w.Rating, w.Rank,
			w.ProfitLowest, w.MarginLowest, w.ReturnLowest, w.ProfitLeading, w.PriceRule, w.ProfitRule, w.PriceAim, w.Above, w.Weight, w.TiesUp,
			w.Ours, w.Certain, w.Dropped, w.Brand, w.Category, w.Supplier, market, stamp(w.WeighedAt)}
	}
	const columns = `site_id, supplier_product_id, match_id, entry_id, landed, stock, lowest, leading, sellers, rating, rank, profit_lowest, margin_lowest,
		return_lowest, profit_leading, price_rule, profit_rule, price_aim, above, weight, ties_up, ours, certain, dropped, brand, category, supplier, market_at, weighed_at`
	var set []string
	for _, c := range strings.Split(columns, ",") {
		c = strings.TrimSpace(c)
		set = append(set, c+" = excluded."+c)
	}
	return tx.insertRows("weighings ("+columns+")", rows, "ON CONFLICT (supplier_product_id, site_id) DO UPDATE SET "+strings.Join(set, ", "))
}

// EndWeighing forgets what is no candidate any more, and says which supplier and
// which site is best.
func (tx Tx) EndWeighing(siteID int64, now time.Time) error {
	for _, q := range []string{
		"DELETE FROM weighings WHERE site_id = ?1 AND NOT EXISTS (SELECT 1 FROM matches m WHERE m.id = match_id AND " + weighable + ")",
		`UPDATE weighings SET best_supplier = landed IS NOT NULL AND landed = b.least FROM (SELECT entry_id, min(landed) AS least FROM weighings
			WHERE site_id = ?1 AND entry_id IS NOT NULL GROUP BY entry_id) b WHERE weighings.site_id = ?1 AND weighings.entry_id = b.entry_id
			AND best_supplier <> (landed IS NOT NULL AND landed = b.least)`,
		`UPDATE weighings SET best_site = return_lowest IS NOT NULL AND return_lowest = b.most FROM (SELECT supplier_product_id, max(return_lowest) AS most
			FROM weighings GROUP BY supplier_product_id) b WHERE weighings.supplier_product_id = b.supplier_product_id
			AND best_site <> (return_lowest IS NOT NULL AND return_lowest = b.most)`,
	} {
		if err := tx.db.Exec(q, siteID).Error; err != nil {
			return err
		}
	}
	return tx.countSold(now, `SELECT id FROM weighings WHERE site_id = @site AND dropped IN (0, 1) AND units_sold > 0
		UNION SELECT w.id FROM orders o CROSS JOIN order_lines x ON x.order_id = o.id CROSS JOIN listings l ON l.id = x.listing_id
		CROSS JOIN supply_links k ON k.product_id = l.product_id CROSS JOIN weighings w ON w.supplier_product_id = k.supplier_product_id AND w.site_id = @site
		WHERE o.placed_at >= @since AND +o.site_id = @site`, sql.Named("site", siteID))
}

// SoldDays is of how many days it is said on Weigh how many were sold.
const SoldDays = 30

// countSold counts for some weighings, whose ids a query says, how many of what the
// supplier product is of were sold on their site of late and not called off.
func (tx Tx) countSold(now time.Time, ids string, args ...any) error {
	const sold = `(SELECT coalesce(sum(x.quantity), 0) FROM supply_links k CROSS JOIN listings l ON l.product_id = k.product_id
		AND l.site_id = weighings.site_id CROSS JOIN order_lines x ON x.listing_id = l.id CROSS JOIN orders o ON o.id = x.order_id
		WHERE k.supplier_product_id = weighings.supplier_product_id AND o.placed_at >= @since AND x.state <> 'cancelled')`
	return tx.db.Exec("UPDATE weighings SET units_sold = "+sold+" WHERE id IN ("+ids+") AND units_sold <> "+sold,
		append(args, sql.Named("since", now.AddDate(0, 0, -SoldDays)))...).Error
}

// WeighColumns are the columns that a sieve may look at, with those marked that
// follow from prices or from what is listed.
var WeighColumns = []sieve.Column{
	{Name: "title", Kind: sieve.Text}, {Name: "brand", Kind: sieve.Name}, {Name: "category", Kind: sieve.Name}, {Name: "supplier", Kind: sieve.Name},
	{Name: "landed", Kind: sieve.Amount}, {Name: "stock", Kind: sieve.Count}, {Name: "lowest", Kind: sieve.Amount}, {Name: "leading", Kind: sieve.Amount},
	{Name: "sellers", Kind: sieve.Count}, {Name: "rating", Kind: sieve.Rating}, {Name: "rank", Kind: sieve.Count}, {Name: "weight", Kind: sieve.Count},
	{Name: "ties_up", Kind: sieve.Amount},
	{Name: "profit_lowest", Kind: sieve.Amount, Follows: true}, {Name: "margin_lowest", Kind: sieve.Share, Follows: true},
	{Name: "return_lowest", Kind: sieve.Share, Follows: true}, {Name: "profit_leading", Kind: sieve.Amount, Follows: true},
	{Name: "price_rule", Kind: sieve.Amount, Follows: true}, {Name: "profit_rule", Kind: sieve.Amount, Follows: true},
	{Name: "price_aim", Kind: sieve.Amount, Follows: true}, {Name: "above", Kind: sieve.Amount, Follows: true},
	{Name: "best_supplier", Kind: sieve.Truth, Follows: true}, {Name: "best_site", Kind: sieve.Truth, Follows: true},
	{Name: "units_sold", Kind: sieve.Count, Follows: true}, {Name: "ours", Kind: sieve.Truth, Follows: true},
	{Name: "certain", Kind: sieve.Truth, Follows: true},
}

// sieved is the SQL of a sieve made ready, and its arguments.
func sieved(tests sieve.Tests) (string, []any) {
	var all []string
	var args []any
	for _, any := range tests {
		var some []string
		for _, t := range any {
			q, a := sievedTest(&t)
			some, args = append(some, q), append(args, a...)
		}
		all = append(all, "("+strings.Join(some, " OR ")+")")
	}
	return strings.Join(append([]string{""}, all...), " AND "), args
}

func sievedTest(t *sieve.Test) (string, []any) {
	c := "w." + t.Column.Name
	named := t.Column.Kind == sieve.Name
	switch t.Op {
	case sieve.Empty:
		if named {
			return c + " = ''", nil
		}
		return c + " IS NULL", nil
	case sieve.Filled:
		if named {
			return c + " <> ''", nil
		}
		return c + " IS NOT NULL", nil
	case sieve.Has:
		words := make([]string, len(t.Words))
		for i, w := range t.Words {
			words[i] = quoted(w) + "*"
		}
		return "w.supplier_product_id IN (SELECT rowid FROM supplier_search WHERE supplier_search MATCH ?)", []any{strings.Join(words, " AND ")}
	case sieve.Above:
		return c + " > ?", []any{t.From}
	case sieve.Below:
		return c + " < ?", []any{t.From}
	case sieve.Between:
		return c + " BETWEEN ? AND ?", []any{t.From, t.To}
	case sieve.IsNot:
		if named {
			return c + " <> ?", []any{t.Words[0]}
		}
		return c + " IS NOT ?", []any{t.From}
	}
	if named {
		return c + " COLLATE NOCASE IN (SELECT value FROM json_each(?))", []any{textList(t.Words)}
	}
	return c + " = ?", []any{t.From}
}

// Sifted is what is asked of the list on Weigh.
type Sifted struct {
	SiteID  int64
	Tests   sieve.Tests
	Dropped bool // those that were dropped, in place of the others
}

func (q *Sifted) where() (string, []any) {
	where, args := sieved(q.Tests)
	return "w.site_id = ? AND w.dropped = ?" + where, append([]any{q.SiteID, q.Dropped}, args...)
}

// sorted are the columns with an index of their own.
var sorted = []string{"profit_lowest", "margin_lowest", "return_lowest", "profit_rule", "landed", "lowest", "sellers", "above", "units_sold"}

// indexed tells whether one index alone answers how many go through: there is at
// most one column, and it has one. Otherwise SQLite would take an index for one
// condition and look each of its rows up in the table for the others, in no
// order: of a million rows that takes ten times as long as one look at them all.
func (q *Sifted) indexed() bool {
	column := ""
	for _, any := range q.Tests {
		for _, t := range any {
			if t.Column.Kind == sieve.Text {
				return true // the words' own index says which rows there are at all
			}
			if column != "" && t.Column.Name != column || len(any) > 1 {
				return false
			}
			column = t.Column.Name
		}
	}
	return column == "" || slices.Contains(sorted, column)
}

func scanned(indexed bool) string {
	if indexed {
		return "weighings w"
	}
	return "weighings w NOT INDEXED"
}

// CountSifted counts what goes through.
func (s *Store) CountSifted(ctx context.Context, q Sifted) (int64, error) {
	where, args := q.where()
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT count(*) FROM "+scanned(q.indexed())+" WHERE "+where, args...).Scan(&n).Error
	return n, searchWords(err)
}

// searchWords says what is wrong with words that can't be searched for.
func searchWords(err error) error {
	if err != nil && strings.Contains(err.Error(), "fts5") {
		return errors.Join(ErrCursor, err)
	}
	return err
}

// SiftedRow is a row of the list on Weigh.
type SiftedRow struct {
	Weighing
	Ref       string
	Title     string
	GTIN      string `gorm:"column:gtin"`
	Cost      int64
	CostCur   string
	EntryRef  string
	Page      string
	State     string // of its match
	Verdict   string
	Bought    int64
	Listed    int64
	Kept      bool
	Reason    string // why it was dropped
	ListedNow bool   `gorm:"column:listed_now"` // since it was weighed too
	Picture   string `gorm:"-"`
}

const siftedColumns = `w.*, sp.ref, sp.title, sp.gtin, sp.cost, sp.currency AS cost_cur, coalesce(e.ref, '') AS entry_ref, coalesce(e.page, '') AS page,
	m.state, m.verdict, m.units_bought AS bought, m.units_listed AS listed, EXISTS (SELECT 1 FROM finds f WHERE f.supplier_product_id = sp.id) AS kept,
	EXISTS (SELECT 1 FROM supply_links k CROSS JOIN listings l ON l.product_id = k.product_id AND l.site_id = w.site_id AND NOT l.unwanted
		WHERE k.supplier_product_id = sp.id) AS listed_now,
	coalesce((SELECT reason FROM drops d WHERE d.supplier_product_id = sp.id), '') AS reason`

const siftedTables = ` CROSS JOIN supplier_products sp ON sp.id = w.supplier_product_id CROSS JOIN matches m ON m.id = w.match_id
	LEFT JOIN entries e ON e.id = w.entry_id`

// Sift lists what goes through, in the order of a column: what isn't known comes
// last, whichever way. Only the rows of the page are looked up further.
func (s *Store) Sift(ctx context.Context, q Sifted, p Page) (List[SiftedRow], error) {
	out := List[SiftedRow]{Rows: []SiftedRow{}}
	sorts := map[string]bool{"id": true}
	for _, c := range WeighColumns {
		sorts[c.Name] = c.Kind != sieve.Text
	}
	if p.Sort == "" {
		p.Sort, p.Desc = "profit_lowest", true
	}
	if !sorts[p.Sort] {
		return out, ErrCursor
	}
	if p.Limit < 1 || p.Limit > 500 {
		p.Limit = 100
	}
	at, err := readPlace(p)
	if err != nil {
		return out, err
	}
	var ids []int64
	var next *sortPlace
	page := func() error {
		var err error
		ids, next, err = s.siftedIDs(ctx, q, p, at)
		return searchWords(err)
	}
	count := func() error {
		var err error
		out.Total, err = s.CountSifted(ctx, q)
		return err
	}
	switch {
	case p.Cursor != "":
		out.Total, err = at.total, page()
	case q.indexed():
		err = cmp.Or(count(), page())
	default: // two looks at all of them, beside each other
		var both errgroup.Group
		both.Go(func() error { return fault.Caught(count) })
		both.Go(func() error { return fault.Caught(page) })
		err = both.Wait()
	}
	if err != nil || len(ids) == 0 {
		return out, err
	}
	if next != nil {
		next.total = out.Total
		out.Next = next.String()
	}
	var rows []SiftedRow
	if err := s.read.WithContext(ctx).Raw("SELECT "+siftedColumns+" FROM json_each(?) j CROSS JOIN weighings w ON w.id = j.value"+siftedTables+
		" ORDER BY j.key", listOf(ids)).Scan(&rows).Error; err != nil {
		return out, err
	}
	out.Rows = rows
	return out, pictured(ctx, out.Rows, func(r *SiftedRow) int64 { return r.SupplierProductID }, func(r *SiftedRow) *string { return &r.Picture }, s.itemPictures)
}

// sortPlace is where a page begins: after a row among those that are known, or
// among the others; and how many there are in all, which isn't counted again.
type sortPlace struct {
	known bool
	value any
	id    int64
	total int64
}

func (a sortPlace) String() string {
	part := "b"
	if a.known {
		part = "k"
	}
	return fmt.Sprintf("%s %d %d %v", part, a.id, a.total, a.value)
}

func readPlace(p Page) (sortPlace, error) {
	if p.Cursor == "" {
		return sortPlace{known: true}, nil
	}
	f := strings.SplitN(p.Cursor, " ", 4)
	if len(f) != 4 || f[0] != "k" && f[0] != "b" {
		return sortPlace{}, ErrCursor
	}
	id, err := strconv.ParseInt(f[1], 10, 64)
	total, totalErr := strconv.ParseInt(f[2], 10, 64)
	if err != nil || totalErr != nil || total < 0 {
		return sortPlace{}, ErrCursor
	}
	out := sortPlace{f[0] == "k", f[3], id, total}
	named := slices.ContainsFunc(WeighColumns, func(c sieve.Column) bool { return c.Name == p.Sort && c.Kind == sieve.Name })
	if out.known && !named {
		if out.value, err = strconv.ParseInt(f[3], 10, 64); err != nil {
			return out, ErrCursor
		}
	}
	return out, nil
}

// walked tells whether rows are walked in the order of the column's index until
// the page is full: where so many go through that few are passed over for that.
// Otherwise one look at all of them is faster.
func (q *Sifted) walked(p Page, total int64) bool {
	if p.Sort == "id" || q.indexed() && len(q.Tests) > 0 {
		return true
	}
	return slices.Contains(sorted, p.Sort) && (len(q.Tests) == 0 || total > 20_000)
}

// siftedIDs are the ids of a page, and where the next begins. First come those
// that are known, in the order of the column, then the others by id.
func (s *Store) siftedIDs(ctx context.Context, q Sifted, p Page, from sortPlace) ([]int64, *sortPlace, error) {
	db := s.read.WithContext(ctx)
	column := "w." + p.Sort
	dir, beyond := "ASC", ">"
	if p.Desc {
		dir, beyond = "DESC", "<"
	}
	table := scanned(q.walked(p, from.total))
	type at struct {
		ID    int64
		Value string
	}
	var out []at
	if where, args := q.where(); from.known {
		more := ""
		if p.Cursor != "" {
			more = fmt.Sprintf(" AND (%s, w.id) %s (?, ?)", column, beyond)
			args = append(args, from.value, from.id)
		}
		err := db.Raw(fmt.Sprintf("SELECT w.id, CAST(%s AS text) AS value FROM %s WHERE %s AND %s IS NOT NULL%s ORDER BY %s %s, w.id %s LIMIT ?",
			column, table, where, column, more, column, dir, dir), append(args, p.Limit+1)...).Scan(&out).Error
		if err != nil {
			return nil, nil, err
		}
	}
	ids := make([]int64, 0, p.Limit)
	for _, x := range out[:min(len(out), p.Limit)] {
		ids = append(ids, x.ID)
	}
	if len(out) > p.Limit {
		last := out[p.Limit-1]
		return ids, &sortPlace{known: true, value: last.Value, id: last.ID}, nil
	}
	// what isn't known
	where, args := q.where()
	after := int64(0)
	if !from.known {
		after = from.id
	}
	var rest []int64
	err := db.Raw(fmt.Sprintf("SELECT w.id FROM %s WHERE %s AND %s IS NULL AND w.id > ? ORDER BY w.id LIMIT ?", table, where, column),
		append(args, after, p.Limit+1-len(ids))...).Scan(&rest).Error
	if err != nil {
		return nil, nil, err
	}
	if room := p.Limit - len(ids); len(rest) > room {
		return append(ids, rest[:room]...), &sortPlace{value: "", id: lastOr(rest[:room], after)}, nil
	}
	return append(ids, rest...), nil, nil
}

func lastOr(list []int64, or int64) int64 {
	if len(list) == 0 {
		return or
	}
	return list[len(list)-1]
}

// CountToWeigh counts the matches of a site that can be weighed.
func (s *Store) CountToWeigh(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).
		Raw("SELECT count(*) FROM matches WHERE site_id = ? AND "+weighable, siteID).Scan(&n).Error
	return n, err
}

// AskToWeigh has supplier products looked up on a site to be weighed: nothing is
// listed by that alone. Those of a source that is looked up by itself are left to
// that.
func (tx Tx) AskToWeigh(items []int64, siteID int64, now time.Time) error {
	for part := range parts(items) {
		if err := tx.db.Exec(`INSERT INTO matches (supplier_product_id, site_id, state, decided_by, decided_at)
			SELECT sp.id, ?, 'to weigh', 'person', ? FROM json_each(?) j CROSS JOIN supplier_products sp ON sp.id = j.value
			CROSS JOIN sources so ON so.id = sp.source_id WHERE NOT sp.gone AND NOT so.look_up
			ON CONFLICT (supplier_product_id, site_id) DO UPDATE SET state = 'to weigh' WHERE matches.state = 'weighed'`,
			siteID, stamp(now), listOf(part)).Error; err != nil {
			return err
		}
	}
	return nil
}

// AskWeighed has what was looked up to be weighed alone looked up to be listed:
// it goes the way of what a person asked for.
func (tx Tx) AskWeighed(items []int64, siteID int64) error {
	for part := range parts(items) {
		if err := tx.db.Exec("UPDATE matches SET state = 'asked' WHERE site_id = ? AND state IN ('to weigh', 'weighed') AND supplier_product_id"+inList,
			siteID, listOf(part)).Error; err != nil {
			return err
		}
	}
	return nil
}

// AskWeighedOf does so with all of a source, on every site.
func (tx Tx) AskWeighedOf(sourceID int64) error {
	return tx.db.Exec(`UPDATE matches SET state = 'asked' WHERE state IN ('to weigh', 'weighed') AND supplier_product_id IN
		(SELECT id FROM supplier_products WHERE source_id = ?)`, sourceID).Error
}

// OldestMarket are entries that candidates of a site are on whose offers are not
// known since a moment: the dearest goods first, as there is most to earn.
func (s *Store) OldestMarket(ctx context.Context, siteID int64, since time.Time, limit int) ([]Entry, error) {
	var out []Entry
	err := s.read.WithContext(ctx).Raw(`SELECT * FROM entries WHERE id IN (SELECT DISTINCT w.entry_id FROM weighings w JOIN entries e ON e.id = w.entry_id
		WHERE w.site_id = ? AND NOT w.dropped AND (e.offers_at IS NULL OR e.offers_at < ?) ORDER BY w.landed DESC LIMIT ?)`, siteID, since, limit).
		Scan(&out).Error
	return out, err
}

// CountOldMarket counts those.
func (s *Store) CountOldMarket(ctx context.Context, siteID int64, since time.Time) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw(`SELECT count(DISTINCT w.entry_id) FROM weighings w JOIN entries e ON e.id = w.entry_id WHERE w.site_id = ?
		AND NOT w.dropped AND (e.offers_at IS NULL OR e.offers_at < ?)`, siteID, since).Scan(&n).Error
	return n, err
}

// KeptItems are the finds that are kept; ItemsOfSource all that a source has.
func (s *Store) KeptItems(ctx context.Context) ([]int64, error) {
	var ids []int64
	err := s.read.WithContext(ctx).Raw("SELECT supplier_product_id FROM finds ORDER BY 1").Scan(&ids).Error
	return ids, err
}

// ItemsOfSource are the supplier products of a source.
func (s *Store) ItemsOfSource(ctx context.Context, sourceID int64) ([]int64, error) {
	var ids []int64
	err := s.read.WithContext(ctx).Raw("SELECT id FROM supplier_products WHERE source_id = ? AND NOT gone ORDER BY id", sourceID).Scan(&ids).Error
	return ids, err
}

// ItemsOfCatalogue are the supplier products that have a number of an entry that
// is known of a site.
func (s *Store) ItemsOfCatalogue(ctx context.Context, siteID int64) ([]int64, error) {
	var ids []int64
	err := s.read.WithContext(ctx).Raw(`SELECT DISTINCT sp.id FROM entries e JOIN supplier_products sp ON sp.gtin = e.gtin
		WHERE e.site_id = ? AND e.gtin <> '' AND NOT sp.gone ORDER BY sp.id`, siteID).Scan(&ids).Error
	return ids, err
}

// DropItems takes supplier products out of Weigh, for a reason; KeepItems keeps
// them as finds.
func (tx Tx) DropItems(items []int64, reason string, now time.Time, by string) error {
	rows := make([][]any, len(items))
	for i, id := range items {
		rows[i] = []any{id, reason, stamp(now), by}
	}
	if err := tx.insertRows("drops (supplier_product_id, reason, dropped_at, dropped_by)", rows,
		"ON CONFLICT (supplier_product_id) DO UPDATE SET reason = excluded.reason, dropped_at = excluded.dropped_at"); err != nil {
		return err
	}
	return tx.db.Exec("UPDATE weighings SET dropped = 1 WHERE supplier_product_id"+inList, listOf(items)).Error
}

// Undrop brings them back.
func (tx Tx) Undrop(items []int64) error {
	if err := tx.db.Exec("DELETE FROM drops WHERE supplier_product_id"+inList, listOf(items)).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE weighings SET dropped = 0 WHERE supplier_product_id"+inList, listOf(items)).Error
}

// KeepItems keeps supplier products as finds.
func (tx Tx) KeepItems(items []int64, now time.Time) error {
	rows := make([][]any, len(items))
	for i, id := range items {
		rows[i] = []any{id, "", stamp(now)}
	}
	return tx.insertRows("finds (supplier_product_id, note, kept_at)", rows, "ON CONFLICT DO NOTHING")
}

// Sieves are the named ones, by name.
func (s *Store) Sieves(ctx context.Context) ([]Sieve, error) {
	var out []Sieve
	err := s.read.WithContext(ctx).Order("name").Find(&out).Error
	return out, err
}

// PutSieve keeps a sieve, in place of one of the same name.
func (tx Tx) PutSieve(x *Sieve) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "name"}},
		DoUpdates: append(clause.AssignmentColumns([]string{"text", "sort", "down", "columns"}),
			clause.Assignments(map[string]any{"version": gorm.Expr("sieves.version + 1")})...)}).Create(x).Error
}

// RulesIn are the price rules that are for the products in a sieve.
func (tx Tx) RulesIn(sieveID int64) ([]PriceRule, error) {
	var out []PriceRule
	err := tx.db.Where("sieve_id = ?", sieveID).Order("id").Find(&out).Error
	return out, err
}

// SieveOf is a sieve.
func (tx Tx) SieveOf(id int64) (Sieve, error) { return GetTx[Sieve](tx, id) }

// SieveNamed is the sieve of a name; its ID is 0 where there is none.
func (tx Tx) SieveNamed(name string) (Sieve, error) {
	var out Sieve
	err := tx.db.Where("name = ?", name).Limit(1).Find(&out).Error
	return out, err
}

// DropSieve forgets one; false where there is none.
func (tx Tx) DropSieve(id int64) (bool, error) {
	res := tx.db.Delete(&Sieve{}, id)
	return res.RowsAffected > 0, res.Error
}

// WebLookUps are the addresses that things are looked up at.
func (s *Store) WebLookUps(ctx context.Context) ([]WebLookUp, error) {
	var out []WebLookUp
	err := s.read.WithContext(ctx).Order("name").Find(&out).Error
	return out, err
}

// PutWebLookUp keeps one, in place of one of the same name.
func (tx Tx) PutWebLookUp(x *WebLookUp) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "name"}}, DoUpdates: clause.AssignmentColumns([]string{"address"})}).Create(x).Error
}

// DropWebLookUp forgets one.
func (tx Tx) DropWebLookUp(id int64) error { return tx.db.Delete(&WebLookUp{}, id).Error }

// PutMarketPoint keeps what others ask on an entry now, where that is another
// than what was kept last.
func (tx Tx) PutMarketPoint(p *MarketPoint) error {
	var last MarketPoint
	res := tx.db.Where("entry_id = ?", p.EntryID).Order("at DESC, id DESC").Limit(1).Find(&last)
	if res.Error != nil || res.RowsAffected > 0 && same(last.Lowest, p.Lowest) && same(last.Leading, p.Leading) && last.Sellers == p.Sellers {
		return res.Error
	}
	return tx.db.Create(p).Error
}

// MarketPoints are how what others ask on an entry moved, oldest first.
func (s *Store) MarketPoints(ctx context.Context, entryID int64) ([]MarketPoint, error) {
	out := []MarketPoint{}
	err := s.read.WithContext(ctx).Where("entry_id = ?", entryID).Order("at, id").Find(&out).Error
	return out, err
}

// SameElsewhere are the same entry's candidates from other suppliers on a site.
func (s *Store) SameElsewhere(ctx context.Context, siteID, entryID int64) ([]SiftedRow, error) {
	var out []SiftedRow
	err := s.read.WithContext(ctx).Raw("SELECT "+siftedColumns+" FROM weighings w"+siftedTables+
		" WHERE w.site_id = ? AND w.entry_id = ? ORDER BY w.landed IS NULL, w.landed", siteID, entryID).Scan(&out).Error
	return out, err
}

// SiftedOne is one row of the list on Weigh.
func (s *Store) SiftedOne(ctx context.Context, id int64) (SiftedRow, error) {
	var out []SiftedRow
	if err := s.read.WithContext(ctx).Raw("SELECT "+siftedColumns+" FROM weighings w"+siftedTables+" WHERE w.id = ?", id).Scan(&out).Error; err != nil {
		return SiftedRow{}, err
	}
	if len(out) == 0 {
		return SiftedRow{}, ErrMissing
	}
	return out[0], pictured(ctx, out, func(r *SiftedRow) int64 { return r.SupplierProductID }, func(r *SiftedRow) *string { return &r.Picture }, s.itemPictures)
}

// OldWeighings are the sites that were weighed, and not since a moment.
func (s *Store) OldWeighings(ctx context.Context, since time.Time) ([]int64, error) {
	var ids []int64
	err := s.read.WithContext(ctx).Raw(`SELECT id FROM sites s WHERE EXISTS (SELECT 1 FROM weighings w WHERE w.site_id = s.id)
		AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.kind = 'weigh' AND r.subject = s.id AND r.created_at >= ?)`, stamp(since)).Scan(&ids).Error
	return ids, err
}

// EntriesOf are some entries, by id.
func (s *Store) EntriesOf(ctx context.Context, ids []int64) ([]Entry, error) {
	var out []Entry
	err := s.read.WithContext(ctx).Raw("SELECT * FROM entries WHERE id"+inList+" ORDER BY id", listOf(ids)).Scan(&out).Error
	return out, err
}

// NumberedItem is a supplier product with its number.
type NumberedItem struct {
	ID       int64
	GTIN     string `gorm:"column:gtin"`
	Supplier string
	Ref      string
	Cost     int64
	Currency string
}

// ItemsByNumber are the supplier products of some numbers, of 14 digits.
func (s *Store) ItemsByNumber(ctx context.Context, gtins []string) ([]NumberedItem, error) {
	var out []NumberedItem
	err := s.read.WithContext(ctx).Raw(`SELECT sp.id, sp.gtin, s.name AS supplier, sp.ref, sp.cost, sp.currency
		FROM supplier_products sp JOIN sources so ON so.id = sp.source_id JOIN suppliers s ON s.id = so.supplier_id
		WHERE sp.gtin IN (SELECT value FROM json_each(?)) AND NOT sp.gone ORDER BY sp.gtin, sp.id`, textList(gtins)).Scan(&out).Error
	return out, err
}

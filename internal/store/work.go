package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"easymargin/internal/work"
)

// SaveRun implements work.Ledger.
func (s *Store) SaveRun(ctx context.Context, r *work.Run) error {
	row := Run{ID: r.ID, Kind: r.Kind, Title: r.Title, Subject: r.Subject, State: string(r.State), Done: r.Done, Total: r.Total,
		Note: r.Note, Error: r.Error, CreatedAt: r.Created, StartedAt: r.Started, EndedAt: r.Ended}
	err := s.write.WithContext(ctx).Save(&row).Error
	r.ID = row.ID
	return err
}

// Run is the row as package work has it.
func (r *Run) Run() work.Run {
	return work.Run{ID: r.ID, Kind: r.Kind, Title: r.Title, Subject: r.Subject, State: work.State(r.State), Done: r.Done, Total: r.Total,
		Note: r.Note, Error: r.Error, Created: r.CreatedAt, Started: r.StartedAt, Ended: r.EndedAt}
}

// UnfinishedRuns implements work.Ledger.
func (s *Store) UnfinishedRuns(ctx context.Context) ([]work.Run, error) {
	var rows []Run
	if err := s.read.WithContext(ctx).Where("state IN ?", []string{string(work.Queued), string(work.Running)}).Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]work.Run, len(rows))
	for i := range rows {
		out[i] = rows[i].Run()
	}
	return out, nil
}

// unmatched are the supplier products that are to be looked up on a site: new
// ones of sources that do so by themselves, and those that a person asked for.
const unmatched = `CROSS JOIN sources so ON so.id = sp.source_id LEFT JOIN matches m ON m.supplier_product_id = sp.id AND m.site_id = ?
	WHERE NOT sp.gone AND (m.id IS NULL AND so.look_up OR m.state = 'asked')`

const unmatchedPage = `SELECT sp.* FROM supplier_products sp ` + unmatched + ` AND sp.id > ? ORDER BY sp.id LIMIT ?`

// Unmatched are supplier products of a site's lookup that have no match there
// yet, in order of id after a given one.
func (s *Store) Unmatched(ctx context.Context, siteID, after int64, limit int) ([]SupplierProduct, error) {
	var out []SupplierProduct
	err := s.read.WithContext(ctx).Raw(unmatchedPage, siteID, after, limit).Scan(&out).Error
	return out, err
}

// CountUnmatched counts what Unmatched lists.
func (s *Store) CountUnmatched(ctx context.Context, siteID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw(`SELECT count(*) FROM supplier_products sp `+unmatched, siteID).Scan(&n).Error
	return n, err
}

// ForgetMatches makes undecided matches be looked up again.
func (tx Tx) ForgetMatches(siteID int64, states []string) (int64, error) {
	res := tx.db.Where("site_id = ? AND state IN ?", siteID, states).Delete(&Match{})
	return res.RowsAffected, res.Error
}

// PutEntry keeps an entry as last seen and fills in its ID.
func (tx Tx) PutEntry(e *Entry) error {
	var known Entry
	res := tx.db.Where("site_id = ? AND ref = ?", e.SiteID, e.Ref).Limit(1).Find(&known)
	if res.Error != nil {
		return res.Error
	}
	e.ID = known.ID
	return tx.db.Save(e).Error
}

// PutMatch keeps a decision, in place of an earlier one.
func (tx Tx) PutMatch(m *Match) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "supplier_product_id"}, {Name: "site_id"}},
		DoUpdates: clause.AssignmentColumns([]string{"state", "entry_id", "candidates", "decided_by", "decided_at"})}).Create(m).Error
}

// ListingOfEntry is our listing on an entry; false where there is none.
func (tx Tx) ListingOfEntry(siteID, entryID int64) (Listing, bool, error) {
	var l Listing
	res := tx.db.Where("site_id = ? AND entry_id = ?", siteID, entryID).Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// FamilyOf is the family of a supplier's group, made where it isn't there.
func (tx Tx) FamilyOf(sourceID int64, group, title string) (Family, error) {
	f := Family{SourceID: sourceID, Group: group, Title: title}
	return f, tx.db.Where("source_id = ? AND group_ref = ?", sourceID, group).FirstOrCreate(&f).Error
}

// Variant is one product of a family with its listing on one site.
type Variant struct {
	ListingID int64  `json:"listing_id"`
	ProductID int64  `json:"product_id"`
	SKU       string `json:"sku"`
	Variant   string `json:"variant" doc:"What sets it apart, such as 'moss, M'"`
	Site      string `json:"site"`
	State     string `json:"state"`
	Sold      bool   `json:"sold" doc:"Whether it is to be sold on this site"`
	Currency  string `json:"currency"`
	Price     *int64 `json:"price"`
	Quantity  int64  `json:"quantity"`
}

// VariantsOf lists the family of a listing's product on the listing's site.
func (s *Store) VariantsOf(ctx context.Context, listingID int64) ([]Variant, error) {
	out := []Variant{}
	err := s.read.WithContext(ctx).Raw(`SELECT l.id AS listing_id, p.id AS product_id, p.sku, p.variant, s.name AS site, l.state, NOT l.unwanted AS sold, l.currency, l.price, l.quantity
		FROM listings me JOIN products mine ON mine.id = me.product_id JOIN products p ON p.family_id = mine.family_id
		JOIN listings l ON l.product_id = p.id AND l.site_id = me.site_id JOIN sites s ON s.id = l.site_id WHERE me.id = ? ORDER BY p.variant, p.id`, listingID).Scan(&out).Error
	return out, err
}

// LinkOf is the supply link of a supplier product; false where there is none.
func (tx Tx) LinkOf(supplierProductID int64) (SupplyLink, bool, error) {
	var l SupplyLink
	res := tx.db.Where("supplier_product_id = ?", supplierProductID).Limit(1).Find(&l)
	return l, res.RowsAffected > 0, res.Error
}

// OvertakePlans closes the open plans of a site. Their lines that were never
// let go are worked out again, so they are not kept.
func (tx Tx) OvertakePlans(siteID int64) error {
	err := tx.db.Exec(`DELETE FROM plan_lines WHERE plan_id IN (SELECT id FROM plans WHERE site_id = ? AND open) AND state = 'waiting'`, siteID).Error
	if err != nil {
		return err
	}
	return tx.db.Exec(`UPDATE plans SET open = 0 WHERE site_id = ? AND open`, siteID).Error
}

// Sendable is a listing with what a line to the marketplace needs.
type Sendable struct {
	Listing      `gorm:"embedded"`
	Cost         int64
	CostCurrency string
}

// Sendables are listings that may go out as new offers: those with the ids, or
// all that are ready where ids is nil. Refused ones go only by their id.
func (tx Tx) Sendables(ids []int64) ([]Sendable, error) {
	var out []Sendable
	q := `SELECT l.*, sp.cost, sp.currency AS cost_currency FROM listings l JOIN supply_links k ON k.product_id = l.product_id AND k.present
		JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE l.price IS NOT NULL AND l.quantity > 0 AND `
	if ids == nil {
		return out, tx.db.Raw(q + "l.state = 'ready' ORDER BY l.id").Scan(&out).Error
	}
	return out, tx.db.Raw(q+"l.state IN ('ready', 'refused') AND l.id IN ? ORDER BY l.id", ids).Scan(&out).Error
}

// PlanChoice says which lines of a plan a person lets go. The zero value is all
// that may go by themselves.
type PlanChoice struct {
	Lines  []int64 `json:"lines,omitempty" doc:"Only these, held ones among them; all that may go where left out"`
	Except []int64 `json:"except,omitempty" doc:"Of all that may go, not these"`
	Held   []int64 `json:"held,omitempty" doc:"And these held ones, which somebody has looked at"`
}

// PlanSendables are waiting lines of an open plan that were chosen. A line
// whose listing has moved on since, or is on its way already, is not among them.
func (tx Tx) PlanSendables(planID int64, c PlanChoice) ([]PlanLine, error) {
	var out []PlanLine
	q := tx.db.Model(&PlanLine{}).Select("plan_lines.*").Joins("JOIN plans p ON p.id = plan_lines.plan_id AND p.open").
		Joins("JOIN listings l ON l.id = plan_lines.listing_id").
		Where("plan_lines.plan_id = ? AND plan_lines.state = 'waiting' AND plan_lines.verdict <> 'blocked'", planID).
		Where("NOT EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id AND x.state IN ('waiting', 'sent'))").
		Where("(plan_lines.from_price IS NULL OR plan_lines.from_price = l.confirmed_price)").
		Where("(plan_lines.to_price IS NULL OR l.floor IS NULL OR plan_lines.to_price >= l.floor)").
		Where("(plan_lines.from_qty IS NULL OR plan_lines.from_qty = l.confirmed_quantity)").
		Where("(plan_lines.to_qty IS NULL OR plan_lines.to_qty = 0 OR plan_lines.to_qty <= l.quantity)")
	if len(c.Lines) > 0 {
		q = q.Where("plan_lines.id IN ?", c.Lines)
	} else {
		none := []int64{0} // an empty list is no SQL
		q = q.Where("(plan_lines.verdict = 'go' AND plan_lines.id NOT IN ? OR plan_lines.verdict = 'held' AND plan_lines.id IN ?)", append(none, c.Except...), append(none, c.Held...))
	}
	err := q.Order("CASE plan_lines.kind WHEN 'zero' THEN 0 WHEN 'no price' THEN 1 ELSE 2 END, plan_lines.id").Find(&out).Error
	return out, err
}

// MarkPlanLines sets the state of plan lines.
func (tx Tx) MarkPlanLines(ids []int64, state string) error {
	return tx.db.Model(&PlanLine{}).Where("id IN ?", ids).Update("state", state).Error
}

// MarkListings sets the state of listings.
func (tx Tx) MarkListings(ids []int64, state string) error {
	return tx.db.Model(&Listing{}).Where("id IN ?", ids).Update("state", state).Error
}

// OutgoingLine is a line of a send-out with what the marketplace is told of it.
type OutgoingLine struct {
	SendLine `gorm:"embedded"`
	SKU      string
	EntryRef string
}

// Outgoing lists the lines of a send-out in the order they go.
func (s *Store) Outgoing(ctx context.Context, sendOutID int64) ([]OutgoingLine, error) {
	var out []OutgoingLine
	err := s.write.WithContext(ctx).Raw(`SELECT x.*, p.sku, e.ref AS entry_ref FROM send_lines x JOIN listings l ON l.id = x.listing_id
		JOIN products p ON p.id = l.product_id JOIN entries e ON e.id = l.entry_id WHERE x.send_out_id = ? ORDER BY x.id`, sendOutID).Scan(&out).Error
	return out, err
}

// MarkLines sets the state of the lines of a send-out that are in another.
func (tx Tx) MarkLines(sendOutID int64, from, to, words string, at *time.Time) error {
	return tx.db.Model(&SendLine{}).Where("send_out_id = ? AND state = ?", sendOutID, from).
		Updates(map[string]any{"state": to, "words": words, "answered_at": at}).Error
}

// Answered is the answer given to an idempotency key; false where there is none.
func (s *Store) Answered(ctx context.Context, key string) (Answered, bool, error) {
	var a Answered
	res := s.write.WithContext(ctx).Where("key = ?", key).Limit(1).Find(&a)
	return a, res.RowsAffected > 0, res.Error
}

// SourceByName is the source of a name; false where there is none.
func (tx Tx) SourceByName(name string) (Source, bool, error) {
	var s Source
	res := tx.db.Where("name = ?", name).Limit(1).Find(&s)
	return s, res.RowsAffected > 0, res.Error
}

// SupplierNamed is the supplier of a name, made where it isn't there.
func (tx Tx) SupplierNamed(name string, now time.Time) (Supplier, error) {
	s := Supplier{Name: name, CreatedAt: now}
	return s, tx.db.Where("name = ?", name).FirstOrCreate(&s).Error
}

// Feed updates only some columns of a feed.
func (s *Store) UpdateFeed(ctx context.Context, id int64, columns map[string]any) error {
	return s.write.WithContext(ctx).Model(&Feed{}).Where("id = ?", id).Updates(columns).Error
}

// KeepHeld writes what a held feed would set aside, in place of an earlier reading.
func (tx Tx) KeepHeld(feedID int64, aside []SetAside, columns map[string]any) error {
	if err := tx.db.Where("feed_id = ?", feedID).Delete(&SetAside{}).Error; err != nil {
		return err
	}
	if len(aside) > 0 {
		if err := tx.CreateAll(aside); err != nil {
			return err
		}
	}
	return tx.db.Model(&Feed{}).Where("id = ?", feedID).Updates(columns).Error
}

// Update changes only some columns of a row.
func (tx Tx) Update(row any, columns map[string]any) error {
	return tx.db.Model(row).Updates(columns).Error
}

// ForgetAnswers drops idempotency answers older than a day.
func (s *Store) ForgetAnswers(ctx context.Context, before time.Time) error {
	return s.write.WithContext(ctx).Where("at < ?", before).Delete(&Answered{}).Error
}

// IsListed tells whether we have a listing on an entry.
func (s *Store) IsListed(ctx context.Context, siteID int64, ref string) (bool, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT count(*) FROM listings l JOIN entries e ON e.id = l.entry_id WHERE l.site_id = ? AND e.ref = ?", siteID, ref).Scan(&n).Error
	return n > 0, err
}

// MoveMarketplace points a marketplace to where it is now.
func (s *Store) MoveMarketplace(ctx context.Context, name, gateway string) error {
	return s.write.WithContext(ctx).Model(&Marketplace{}).Where("name = ?", name).Update("address", gateway).Error
}

// MoveSource points a source to where it is now.
func (s *Store) MoveSource(ctx context.Context, name, address string) error {
	return s.write.WithContext(ctx).Model(&Source{}).Where("name = ?", name).Update("address", address).Error
}

// ItemsAfter lists the supplier products of a source after an id, by id.
func (s *Store) ItemsAfter(ctx context.Context, sourceID, after int64, limit int) ([]SupplierProduct, error) {
	var out []SupplierProduct
	err := s.read.WithContext(ctx).Where("source_id = ? AND id > ?", sourceID, after).Order("id").Limit(limit).Find(&out).Error
	return out, err
}

// FeedNamed tells whether a source has had a feed of this name.
func (s *Store) FeedNamed(ctx context.Context, sourceID int64, name string) (bool, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&Feed{}).Where("source_id = ? AND name = ?", sourceID, name).Count(&n).Error
	return n > 0, err
}

// AskFor makes a supplier product be looked up on a site, whatever its source
// does by itself. One that is matched there already stays so.
func (tx Tx) AskFor(supplierProductID, siteID int64, now time.Time) error {
	return tx.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "supplier_product_id"}, {Name: "site_id"}}, DoUpdates: clause.AssignmentColumns([]string{"state"}),
		Where: clause.Where{Exprs: []clause.Expression{clause.Expr{SQL: "matches.state <> 'matched'"}}}}).
		Create(&Match{SupplierProductID: supplierProductID, SiteID: siteID, State: MatchAsked, DecidedBy: "person", DecidedAt: now}).Error
}

// CountMissing counts the products of a source that were missing from its last
// feed and are not gone yet.
func (s *Store) CountMissing(ctx context.Context, sourceID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).Raw("SELECT count(*) FROM supplier_products WHERE source_id = ? AND missing > 0 AND NOT gone", sourceID).Scan(&n).Error
	return n, err
}

// DiscardLooked discards the feeds of a source that were looked at and not taken.
func (tx Tx) DiscardLooked(sourceID int64) error {
	return tx.db.Model(&Feed{}).Where("source_id = ? AND state = ?", sourceID, FeedLooked).Update("state", FeedDiscarded).Error
}

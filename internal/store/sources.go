package store

import (
	"context"
	"errors"
	"time"

	"easymargin/core/supply"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Sources lists every source with its supplier, by name.
func (s *Store) Sources(ctx context.Context) ([]Source, error) {
	var out []Source
	err := s.read.WithContext(ctx).Preload("Supplier").Order("name").Find(&out).Error
	return out, err
}

// SourceOf is one source with its supplier.
func (s *Store) SourceOf(ctx context.Context, id int64) (Source, error) {
	return get[Source](s.read.WithContext(ctx).Preload("Supplier"), id)
}

// SourceOf is Store.SourceOf inside a transaction.
func (tx Tx) SourceOf(id int64) (Source, error) { return get[Source](tx.db.Preload("Supplier"), id) }

// SourceNamed is the source of a name; false where there is none.
func (s *Store) SourceNamed(ctx context.Context, name string) (Source, bool, error) {
	return sourceNamed(s.read.WithContext(ctx), name)
}

// SourceNamed is Store.SourceNamed inside a transaction.
func (tx Tx) SourceNamed(name string) (Source, bool, error) { return sourceNamed(tx.db, name) }

func sourceNamed(db *gorm.DB, name string) (Source, bool, error) {
	var s Source
	res := db.Preload("Supplier").Where("name = ?", name).Limit(1).Find(&s)
	return s, res.RowsAffected > 0, res.Error
}

// SupplierNamed is the supplier of a name, made where it isn't there.
func (tx Tx) SupplierNamed(name string, now time.Time) (Supplier, error) {
	s := Supplier{Name: name, CreatedAt: now}
	err := tx.db.Where("name = ?", name).FirstOrCreate(&s).Error
	return s, err
}

// TermsOf are a supplier's delivery terms in a currency; nothing where none were set.
func (tx Tx) TermsOf(supplierID int64, currency string) (SupplierTerm, error) {
	t := SupplierTerm{SupplierID: supplierID, Currency: currency}
	err := tx.db.Where("supplier_id = ? AND currency = ?", supplierID, currency).Limit(1).Find(&t).Error
	return t, err
}

// HasTerms tells whether somebody has said what a supplier asks for delivering in a currency.
func (tx Tx) HasTerms(supplierID int64, currency string) (has bool, err error) {
	return has, tx.db.Raw("SELECT EXISTS (SELECT 1 FROM supplier_terms WHERE supplier_id = ? AND currency = ?)", supplierID, currency).Scan(&has).Error
}

// PutTerms keeps a supplier's delivery terms, and marks what they are part of.
func (tx Tx) PutTerms(now time.Time, t *SupplierTerm) error {
	err := tx.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(t).Error
	if err != nil {
		return err
	}
	return tx.DirtySupplier(now, t.SupplierID)
}

// KindHand is the kind of a source whose products are typed in, one at a time.
const KindHand = "hand"

// Silence says how long after it was last heard a source's silence is said, and how long
// after it its stock counts as unknown: docs/definitions/supply.md, "Silence".
func (s *Source) Silence() (said, unknown time.Duration, err error) {
	g, err := s.SupplyGuards()
	c := supply.Coming{Set: g.StaleHours * 3600, Rhythm: s.Rhythm, Typed: s.Kind == KindHand}
	if s.Kind == "address" || s.Kind == "page" { // a folder is looked at often, and filled in a rhythm of its own
		c.Every = s.Every * 60
	}
	a, b := c.Silence()
	return time.Duration(a) * time.Second, time.Duration(b) * time.Second, err
}

// Silent tells whether nothing was heard of a source for so long that its stock counts
// as unknown.
func (s *Source) Silent(now time.Time) bool {
	_, unknown, err := s.Silence()
	return err != nil || s.HeardAt == nil || now.Sub(*s.HeardAt) > unknown
}

// WasSilent tells whether a source had gone silent by now. Its mark alone doesn't
// tell: a listing may have been worked out between the moment it went silent and
// the next look at all sources.
func (s *Source) WasSilent(now time.Time) bool { return s.Stale || s.HeardAt != nil && s.Silent(now) }

// SilentSources marks the sources whose silence is to be said and the listings of those
// that have gone silent since they were last looked at. It says whether there were any.
func (tx Tx) SilentSources(now time.Time) (any bool, err error) {
	var all []Source
	if err := tx.db.Where("NOT stale AND heard_at IS NOT NULL").Find(&all).Error; err != nil {
		return false, err
	}
	for i := range all {
		s := &all[i]
		said, unknown, err := s.Silence()
		if err != nil {
			unknown = 0 // its guards can't be read: its stock isn't relied on
		}
		switch since := now.Sub(*s.HeardAt); {
		case since > unknown:
			err = errors.Join(tx.db.Model(s).Update("stale", true).Error, tx.DirtySource(now, s.ID))
		case since > said && !s.Quiet:
			err = tx.db.Model(s).Update("quiet", true).Error
		default:
			continue
		}
		if any = true; err != nil {
			return any, err
		}
	}
	return any, nil
}

// lastCame is the state of the last feed that a source's address sent before feed g: that
// is the one it compares with when it says that nothing is new.
const lastCame = `(SELECT b.state FROM feeds b WHERE b.source_id = g.source_id AND b.id < g.id AND b.part_of IS NULL
	AND b.state NOT IN ('same', 'failed') ORDER BY b.id DESC LIMIT 1)`

// Heard keeps that a source's address had nothing new. Where the feed it sent last was
// taken, the source was heard by that, and what is made of it counts anew where it had
// gone silent; nothing new since a feed that is held says nothing of what was taken.
func (tx Tx) Heard(same *Feed) error {
	if err := tx.Create(same); err != nil {
		return err
	}
	id, now, last := *same.SourceID, same.ReceivedAt, ""
	s, err := get[Source](tx.db, id)
	if err != nil {
		return err
	}
	if err := tx.db.Raw("SELECT coalesce("+lastCame+", '') FROM feeds g WHERE g.id = ?", same.ID).Scan(&last).Error; err != nil || last != FeedTaken {
		return err
	}
	if s.WasSilent(now) && s.TakenAt != nil {
		err = tx.DirtySource(now, id)
	}
	return errors.Join(err, tx.db.Exec(heard, now, id, id).Error)
}

// heard writes when a source was heard, the rhythm in which its feeds come, by the median
// of the times between the last of them, and that it isn't silent.
const heard = `UPDATE sources SET heard_at = ?, stale = 0, quiet = 0, rhythm = coalesce((
	WITH last AS (SELECT id, taken_at FROM feeds WHERE source_id = ? AND state = 'taken' AND part_of IS NULL ORDER BY id DESC LIMIT 12),
		gaps AS (SELECT unixepoch(taken_at) - lag(unixepoch(taken_at)) OVER (ORDER BY id) AS gap FROM last)
	SELECT min(max(gap, 0), 1000000000) FROM gaps WHERE gap IS NOT NULL AND (SELECT count(gap) FROM gaps) > 1
	ORDER BY gap LIMIT 1 OFFSET (SELECT count(gap) / 2 FROM gaps)), 0) WHERE id = ?`

// MoveSource points a source to where it is now.
func (s *Store) MoveSource(ctx context.Context, name, address string) error {
	return s.write.WithContext(ctx).Model(&Source{}).Where("name = ?", name).Update("address", address).Error
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

// Deliveries are the newest feeds of a source that brought something, newest
// first: not the times its address had nothing new.
func (s *Store) Deliveries(ctx context.Context, sourceID int64, limit int) ([]Feed, error) {
	out := []Feed{}
	err := s.read.WithContext(ctx).Where("source_id = ? AND state <> ?", sourceID, FeedSame).Order("id DESC").Limit(limit).Find(&out).Error
	return out, err
}

// UpdateFeed changes only some columns of a feed.
func (tx Tx) UpdateFeed(id int64, columns map[string]any) error {
	return tx.db.Model(&Feed{}).Where("id = ?", id).Updates(columns).Error
}

// EndReading writes what became of a feed that was being taken; where another
// program took it meanwhile, that stays.
func (tx Tx) EndReading(id int64, columns map[string]any) error {
	return tx.db.Model(&Feed{}).Where("id = ? AND state = ?", id, FeedReading).Updates(columns).Error
}

// DiscardLooked discards the feeds of a source that were looked at and not taken.
func (tx Tx) DiscardLooked(sourceID int64) error {
	return tx.db.Model(&Feed{}).Where("source_id = ? AND state = ?", sourceID, FeedLooked).Update("state", FeedDiscarded).Error
}

// FeedNamed tells whether a source has had a feed of this name.
func (s *Store) FeedNamed(ctx context.Context, sourceID int64, name string) (bool, error) {
	var n int64
	err := s.read.WithContext(ctx).Model(&Feed{}).Where("source_id = ? AND name = ?", sourceID, name).Count(&n).Error
	return n > 0, err
}

// FeedsWithoutRun are the feeds whose taking was begun and that no run takes.
func (tx Tx) FeedsWithoutRun(kind string) ([]Feed, error) {
	var out []Feed
	err := tx.db.Where("state = ? AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.kind = ? AND r.subject = feeds.id "+
		"AND r."+alive+")", FeedReading, kind).
		Order("id").
		Find(&out).Error
	return out, err
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
	return tx.UpdateFeed(feedID, columns)
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
	ID     int64
	ItemID int64
	Ref    string
	Title  string
	Field  string
	Before string
	After  string
}

// Changes lists what a feed changed.
func (s *Store) Changes(ctx context.Context, feedID int64, p Page) (List[ChangeRow], error) {
	return list[ChangeRow](
		ctx,
		s.read,
		listQuery{
			columns: "c.id, c.supplier_product_id AS item_id, sp.ref, sp.title, c.field, c.before, c.after",
			from:    "supplier_changes c JOIN supplier_products sp ON sp.id = c.supplier_product_id WHERE c.feed_id = ?",
			args:    []any{feedID},
			id:      "c.id",
			sorts:   map[string]string{"id": "c.id", "ref": "sp.ref", "field": "c.field"},
			sort:    "id",
		},
		p,
	)
}

// CountMissing counts the products of a source that were missing from its last
// feed and are not gone yet.
func (s *Store) CountMissing(ctx context.Context, sourceID int64) (int64, error) {
	var n int64
	err := s.read.WithContext(ctx).
		Raw("SELECT count(*) FROM supplier_products WHERE source_id = ? AND missing > 0 AND NOT gone", sourceID).Scan(&n).Error
	return n, err
}

package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"easymargin/core/supply"
	"easymargin/internal/fault"
)

// Intake writes one feed in one transaction: killed at any moment, the data is
// as before or as after. It is the bulk path, on GORM's own connection with
// prepared statements of many rows, since building a statement a row costs
// more than the row.
//
// What is known of the source is read once into a table of digests, so that a
// row that is the same costs no look-up.
type Intake struct {
	store   *Store
	tx      *sql.Tx
	source  Source
	feedID  int64
	update  bool // rows say only what they change
	part    bool // rows that were set aside before and are sent again: none is missing
	bulk    bool // so much is new that an index is cheaper made anew
	stmts   map[string]*sql.Stmt
	known   *supply.Prints
	seen    bitmap // ids that the feed has
	stocked bitmap // ids that have stock
	away    bitmap // ids that are gone, or were missing from the last feed
	gone    bitmap // ids that are gone
	fresh   []*supply.Item
	room    []any
	json    []byte
	touched []int64    // ids that changed, or are missing now: what is made of them is to be worked out again
	aside   []SetAside // waiting to be written
	kept    []SetAside // the first of them, for a feed that is held
	figures supply.Figures
}

const (
	insertRows = 50
	keptAside  = 10_000 // set-aside rows that a held feed shows
	bulkRows   = 50_000 // from here on it may be worth making an index anew
)

// BeginIntake opens the transaction. It must end in Commit or Rollback. rows is
// about how many there are to come.
func (s *Store) BeginIntake(ctx context.Context, f Feed, source Source, rows int64) (*Intake, error) {
	pool, err := s.write.DB()
	if err != nil {
		return nil, err
	}
	tx, err := pool.BeginTx(ctx, nil)
	if err != nil {
		return nil, fmt.Errorf("beginning an intake: %w", err)
	}
	in := &Intake{
		store:  s,
		tx:     tx,
		source: source,
		feedID: f.ID,
		update: source.Mode == "update",
		part:   f.PartOf != nil,
		stmts:  map[string]*sql.Stmt{},
	}
	// Another intake of this source may have ended while this one waited for its turn; of this feed too.
	state := ""
	err = tx.QueryRow("SELECT s.last_rows, s.marks, f.state FROM sources s JOIN feeds f ON f.id = ? WHERE s.id = ?", f.ID, source.ID).
		Scan(&in.source.LastRows, &in.source.Marks, &state)
	in.figures.LastRows = in.source.LastRows
	if err == nil && state != FeedReading {
		err = fault.New(fault.Conflict, "this feed is %s: another program took it in hand", state)
	}
	if err == nil {
		err = in.load(rows)
	}
	if err == nil && rows >= bulkRows {
		err = in.dropIndex(rows)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("reading what is known of %s: %w", source.Name, explain(s.dir, err)), tx.Rollback())
	}
	return in, nil
}

func (in *Intake) load(rowsToCome int64) error {
	room := int(max(in.source.LastRows, rowsToCome))
	in.known = supply.NewPrints(room)
	if in.store.readMarks(&in.source, in.note) {
		return nil
	}
	in.known, in.figures.InStock = supply.NewPrints(room), 0
	rows, err := in.tx.Query(
		`SELECT id, ref_hash, fingerprint, (gone OR missing > 0) + 2 * gone + 4 * (NOT gone AND stock_state = 'known' AND stock > 0)
			FROM supplier_products WHERE source_id = ?`,
		in.source.ID,
	)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var m mark
		if err := rows.Scan(&m.id, &m.hash, &m.print, &m.state); err != nil {
			return err
		}
		in.note(m)
	}
	return rows.Err()
}

// note takes up one known product.
func (in *Intake) note(m mark) {
	in.known.Put(m.hash, m.print, m.id)
	if m.state&markAway != 0 {
		in.away.set(m.id)
	}
	if m.state&markGone != 0 {
		in.gone.set(m.id)
	}
	if m.state&markStocked != 0 {
		in.stocked.set(m.id)
		in.figures.InStock++
	}
}

// gtinIndex is the one index whose entries come in no order: a million of them
// are made faster all at once than one by one.
const gtinIndex = "supplier_product_gtin"

// dropIndex drops it where most of what will be in it is still to come. That is
// part of the transaction like all else.
func (in *Intake) dropIndex(rows int64) error {
	var all int64
	if err := in.tx.QueryRow(`SELECT count(*) FROM (SELECT 1 FROM supplier_products LIMIT ?)`, rows).Scan(&all); err != nil {
		return err
	}
	if fresh := rows - int64(in.known.Len()); fresh < bulkRows || fresh < all {
		return nil
	}
	in.bulk = true
	_, err := in.tx.Exec("DROP INDEX " + gtinIndex)
	return err
}

func (in *Intake) exec(query string, args ...any) error {
	st, err := in.prepare(query)
	if err != nil {
		return err
	}
	_, err = st.Exec(args...)
	return err
}

func (in *Intake) prepare(query string) (*sql.Stmt, error) {
	if st, ok := in.stmts[query]; ok {
		return st, nil
	}
	st, err := in.tx.Prepare(query)
	if err == nil {
		in.stmts[query] = st
	}
	return st, err
}

// Put takes one row, which must not be changed afterwards. cells are the row
// as the file has it, for the case that it can't be taken after all.
func (in *Intake) Put(row int, p *supply.Item, cells func() []string) error {
	was, id, known := in.known.Get(p.Hash)
	if !known && in.update && (p.Title == "" || p.Cost.Minor == 0) {
		return in.SetAside(
			row,
			p.Ref,
			cells(),
			[]supply.Problem{{Value: p.Ref, Reason: "this ref is not known yet, and an update can't add it without a title and a cost"}},
		)
	}
	in.figures.Rows++
	if string(p.Cost.Currency) != in.source.Currency {
		in.figures.OtherCurr++
	}
	switch {
	case !known:
		in.figures.New++
		if in.fresh = append(in.fresh, p); len(in.fresh) == insertRows {
			return in.insert()
		}
		return nil
	case was == p.Print && !in.away.has(id):
		in.figures.Known++
		in.figures.Same++
		in.seen.set(id)
		return nil
	}
	in.figures.Known++
	in.seen.set(id)
	if err := in.change(id, p); err != nil {
		return fmt.Errorf("changing %s: %w", p.Ref, err)
	}
	return nil
}

// Repeat counts an exact repeat of an earlier row of the feed.
func (in *Intake) Repeat() { in.figures.Rows++; in.figures.Same++ }

// SetAside notes a row that is not taken, with every problem it has. Where its
// ref is known it stays as it was: it is in the feed, so it isn't gone.
func (in *Intake) SetAside(row int, ref string, cells []string, problems []supply.Problem) error {
	in.figures.Rows++
	in.figures.SetAside++
	if ref != "" {
		if _, id, known := in.known.Get(supply.RefHash(ref)); known {
			in.seen.set(id)
		}
	}
	a := SetAside{FeedID: in.feedID, Row: row, Cells: append([]string(nil), cells...), Problems: problems}
	if len(in.kept) < keptAside {
		in.kept = append(in.kept, a)
	}
	if in.aside = append(in.aside, a); len(in.aside) < 500 {
		return nil
	}
	return in.writeAside()
}

func (in *Intake) writeAside() error {
	for _, a := range in.aside {
		cells, err := json.Marshal(a.Cells)
		if err != nil {
			return err
		}
		problems, err := json.Marshal(a.Problems)
		if err != nil {
			return err
		}
		if err := in.exec(
			`INSERT INTO set_asides (feed_id, row, cells, problems) VALUES (?, ?, ?, ?)`,
			a.FeedID,
			a.Row,
			string(cells),
			string(problems),
		); err != nil {
			return err
		}
	}
	in.aside = in.aside[:0]
	return nil
}

// Aside lists the first rows that were set aside.
func (in *Intake) Aside() []SetAside { return in.kept }

// insert adds the waiting new rows.
func (in *Intake) insert() error {
	n := len(in.fresh)
	if n == 0 {
		return nil
	}
	source, feed := strconv.FormatInt(in.source.ID, 10), strconv.FormatInt(in.feedID, 10)
	row := "(" + source + ",?,?,?,?,?,?,?,?,?,?,?,?,?,?,0,0," + feed + "," + feed + ")"
	query := `INSERT INTO supplier_products (source_id, ref, ref_hash, gtin, gtin_status, brand, title, category, cost, currency,
		stock, stock_state,
		units_per_item, details, fingerprint, gone, missing, first_feed_id, changed_feed_id) VALUES ` + row + strings.Repeat(
		","+row,
		n-1,
	)
	args := in.room[:0]
	for _, p := range in.fresh {
		args = in.columns(append(args, p.Ref, p.Hash), &p.Product, p.Print)
	}
	in.room = args
	st, err := in.prepare(query)
	if err != nil {
		return err
	}
	res, err := st.Exec(args...)
	if err != nil {
		return fmt.Errorf("adding new rows: %w", err)
	}
	last, err := res.LastInsertId()
	if err != nil {
		return err
	}
	for i, p := range in.fresh { // ids of one statement follow one another
		id := last - int64(n-1-i)
		in.known.Put(p.Hash, p.Print, id)
		in.seen.set(id)
		in.restock(id, &p.Product)
	}
	in.fresh = in.fresh[:0]
	return nil
}

// restock notes whether a product has stock now.
func (in *Intake) restock(id int64, p *supply.Product) {
	if p.Stock.Some() {
		in.stocked.set(id)
	} else {
		in.stocked.clear(id)
	}
}

// columns appends the values that change with a row, from gtin to fingerprint.
func (in *Intake) columns(to []any, p *supply.Product, print int64) []any {
	in.json = appendDetails(in.json[:0], p)
	return append(
		to,
		p.GTIN,
		p.GTINStatus,
		p.Brand,
		p.Title,
		p.Category,
		p.Cost.Minor,
		string(p.Cost.Currency),
		p.Stock.Count,
		string(p.Stock.State),
		p.UnitsPerItem,
		string(in.json),
		print,
	)
}

func (in *Intake) change(id int64, p *supply.Item) error {
	before, gone, missing, err := in.read(id)
	if err != nil {
		return err
	}
	if before.Ref != p.Ref {
		return fmt.Errorf("its digest is the same as that of %s; rename one of the two", before.Ref)
	}
	after := *p
	if in.update {
		after = supply.Digested(p.Overlay(&before))
	}
	changes := supply.Diff(&before, &after.Product)
	if gone {
		changes = append(changes, supply.Change{Field: "listed", Before: "gone", After: "listed"})
	}
	if len(changes) == 0 && before.Fingerprint() == after.Print && missing == 0 {
		in.figures.Same++
		return nil
	}
	if len(changes) == 0 {
		in.figures.Same++ // back before it was taken for gone, or a digest that an earlier version made otherwise
	} else {
		in.figures.Changed++
	}
	if before.Stock.Some() && !gone && !after.Stock.Some() {
		in.figures.ToZero++
	}
	in.figures.Compare(&before, &after.Product)
	for _, c := range changes {
		if err := in.log(id, c); err != nil {
			return err
		}
	}
	if len(changes) > 0 {
		in.touched = append(in.touched, id)
	}
	in.known.Put(p.Hash, after.Print, id)
	in.restock(id, &after.Product)
	in.away.clear(id)
	in.gone.clear(id)
	return in.exec(
		`UPDATE supplier_products SET gtin = ?, gtin_status = ?, brand = ?, title = ?, category = ?, cost = ?, currency = ?, stock = ?,
		stock_state = ?, units_per_item = ?, details = ?, fingerprint = ?, gone = 0, missing = 0, changed_feed_id = ? WHERE id = ?`,
		append(in.columns(nil, &after.Product, after.Print), in.feedID, id)...)
}

func (in *Intake) log(id int64, c supply.Change) error {
	return in.exec(
		`INSERT INTO supplier_changes (supplier_product_id, feed_id, field, before, after) VALUES (?, ?, ?, ?, ?)`,
		id,
		in.feedID,
		c.Field,
		c.Before,
		c.After,
	)
}

// read is a row as it was before, whether it was gone, and from how many feeds it was missing.
func (in *Intake) read(id int64) (p supply.Product, gone bool, missing int64, err error) {
	st, err := in.prepare(
		`SELECT ref, gtin, gtin_status, brand, title, category, cost, currency, stock, stock_state, units_per_item, details, gone,
			missing FROM supplier_products WHERE id = ?`,
	)
	if err != nil {
		return p, false, 0, err
	}
	var r SupplierProduct
	err = st.QueryRow(id).
		Scan(&r.Ref, &r.GTIN, &r.GTINStatus, &r.Brand, &r.Title, &r.Category, &r.Cost, &r.Currency, &r.Stock, &r.StockState,
			&r.UnitsPerItem, &r.Details, &gone, &missing)
	if err != nil {
		return p, false, 0, err
	}
	p, err = r.Product()
	return p, gone, missing, err
}

// Finish writes what still waits and finds the products that are missing from
// a full feed: after missingGone feeds in a row they are gone.
func (in *Intake) Finish(missingGone int64) (supply.Figures, error) {
	if err := errors.Join(in.insert(), in.writeAside()); err != nil {
		return in.figures, err
	}
	if in.update || in.part || in.figures.Rows == 0 {
		return in.figures, nil
	}
	var lost []int64
	in.known.Each(func(_, _, id int64) {
		if !in.seen.has(id) && !in.gone.has(id) {
			lost = append(lost, id)
		}
	})
	slices.Sort(lost)
	for _, id := range lost {
		missing := int64(1)
		if in.away.has(id) {
			st, err := in.prepare(`SELECT missing + 1 FROM supplier_products WHERE id = ?`)
			if err != nil {
				return in.figures, err
			}
			if err := st.QueryRow(id).Scan(&missing); err != nil {
				return in.figures, err
			}
		}
		gone := missing >= missingGone
		in.away.set(id)
		if gone {
			in.figures.Gone++
			if in.stocked.has(id) {
				in.figures.ToZero++
			}
			in.gone.set(id)
			in.stocked.clear(id)
			in.touched = append(in.touched, id)
			if err := in.log(id, supply.Change{Field: "listed", Before: "listed", After: "gone"}); err != nil {
				return in.figures, err
			}
		}
		if err := in.exec(
			`UPDATE supplier_products SET missing = ?, gone = ?, changed_feed_id = ? WHERE id = ?`,
			missing,
			gone,
			in.feedID,
			id,
		); err != nil {
			return in.figures, err
		}
	}
	return in.figures, nil
}

// Commit keeps the feed: its rows, what was set aside, and the feed and source
// as given. What is made of the changed products is marked, and then does what
// else belongs to the same transaction.
func (in *Intake) Commit(ctx context.Context, now time.Time, f Feed, s Source, then func(tx Tx) error) error {
	c := &Commit{}
	tag, err := in.finish(f, s)
	if err == nil {
		db := in.store.write.Session(&gorm.Session{NewDB: true, Context: ctx})
		db.Statement.ConnPool = in.tx
		err = in.tell(Tx{db: db, commit: c, store: in.store}, now, s, then)
	}
	if err != nil {
		return errors.Join(explain(in.store.dir, err), in.tx.Rollback())
	}
	if err := in.tx.Commit(); err != nil {
		return explain(in.store.dir, err)
	}
	in.store.tell(c)
	return in.store.tidyMarks(s.ID, tag)
}

// tell marks what is made of the changed products.
func (in *Intake) tell(tx Tx, now time.Time, s Source, then func(tx Tx) error) error {
	var err error
	if in.source.WasSilent(now) { // it is heard again: all it has counts anew
		err = tx.DirtySource(now, s.ID)
	} else {
		err = tx.DirtyItems(now, in.touched)
	}
	if err != nil {
		return err
	}
	if err := tx.Recheck(now, in.feedID); err != nil {
		return err
	}
	return then(tx)
}

// finish writes the feed and its source, and gives the tag of its marks.
func (in *Intake) finish(f Feed, s Source) (tag string, err error) {
	needed, err := json.Marshal(s.Needed)
	if err != nil {
		return "", err
	}
	if in.bulk {
		if _, err := in.tx.Exec("CREATE INDEX " + gtinIndex + " ON supplier_products (gtin)"); err != nil {
			return "", err
		}
	}
	if in.known.Len() >= bulkRows {
		tag = in.store.writeMarks(s.ID, in.known, in.state)
	}
	_, err = in.tx.Exec(
		`UPDATE feeds SET state = ?, rows = ?, new = ?, changed = ?, same = ?, set_aside = ?, gone = ?, warnings = ?, held_for = '',
			error = '', taken_at = ?, read_as = ?, look = ? WHERE id = ?`,
		f.State,
		f.Rows,
		f.New,
		f.Changed,
		f.Same,
		f.SetAside,
		f.Gone,
		f.Warnings,
		f.TakenAt,
		f.ReadAs,
		f.Look,
		f.ID,
	)
	if err != nil {
		return "", err
	}
	_, err = in.tx.Exec(
		`UPDATE sources SET last_rows = ?, last_feed_id = ?, taken_at = ?, needed = ?, marks = ? WHERE id = ?`,
		s.LastRows,
		s.LastFeedID,
		s.TakenAt,
		string(needed),
		tag,
		s.ID,
	)
	if err == nil {
		_, err = in.tx.Exec(heard, s.TakenAt, s.ID, s.ID)
	}
	if err == nil && f.PartOf != nil {
		err = in.mended(f)
	}
	return tag, err
}

// state is what a mark says of a product.
func (in *Intake) state(id int64) byte {
	var m byte
	for _, x := range [...]struct {
		set bitmap
		bit byte
	}{{in.away, markAway}, {in.gone, markGone}, {in.stocked, markStocked}} {
		if x.set.has(id) {
			m |= x.bit
		}
	}
	return m
}

// mended ties the set-aside rows of an earlier feed to the part that took them.
func (in *Intake) mended(f Feed) error {
	if in.figures.SetAside > 0 {
		return nil // some of them still can't be taken; the part's own page shows which
	}
	_, err := in.tx.Exec(
		`UPDATE set_asides SET mended_by = ? WHERE feed_id = ? AND mended_by IS NULL AND (? = 0 OR row = ?)`,
		f.ID,
		*f.PartOf,
		f.MendsRow,
		f.MendsRow,
	)
	return err
}

// Rollback leaves the data as it was.
func (in *Intake) Rollback() error { return in.tx.Rollback() }

// SameAgain takes a feed that is the same, to the byte, as the one its source
// took last, and is read the same way: nothing changes but that it was seen.
func (s *Store) SameAgain(ctx context.Context, now time.Time, f *Feed, last *Feed, then func(tx Tx) error) error {
	f.State, f.TakenAt, f.Rows, f.SetAside, f.Warnings, f.Look, f.ReadAs = FeedTaken, &now, last.Rows, last.SetAside, last.Warnings,
		last.Look, last.ReadAs
	f.Same = last.Rows - last.SetAside
	return s.Do(ctx, func(tx Tx) error {
		source, err := get[Source](tx.db, *f.SourceID)
		if err != nil {
			return err
		}
		if source.WasSilent(now) {
			if err := tx.DirtySource(now, source.ID); err != nil {
				return err
			}
		}
		err = tx.db.Exec(
			`INSERT INTO set_asides (feed_id, row, cells, problems, mended_by) SELECT ?, row, cells, problems, mended_by FROM set_asides
				WHERE feed_id = ? ORDER BY id`,
			f.ID,
			last.ID,
		).Error
		err = errors.Join(
			err,
			tx.db.Save(f).Error,
			tx.db.Model(&source).Updates(map[string]any{"taken_at": &now, "last_feed_id": f.ID}).Error,
			tx.db.Exec(heard, now, source.ID, source.ID).Error,
		)
		if err != nil {
			return err
		}
		return then(tx)
	})
}

// bitmap is a set of row ids, which are small and close together.
type bitmap []uint64

func (b *bitmap) set(id int64) {
	if n := int(id>>6) + 1; n > len(*b) {
		*b = append(*b, make([]uint64, max(n-len(*b), len(*b)/2, 64))...)
	}
	(*b)[id>>6] |= 1 << (id & 63)
}

func (b bitmap) clear(id int64) {
	if b.has(id) {
		b[id>>6] &^= 1 << (id & 63)
	}
}

func (b bitmap) has(id int64) bool { return int(id>>6) < len(b) && b[id>>6]&(1<<(id&63)) != 0 }

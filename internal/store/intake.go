package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"easymargin/core/money"
	"easymargin/core/supply"
)

// Intake writes one feed in one transaction: killed at any moment, the data is
// as before or as after. It is the bulk path, on GORM's own connection with
// prepared statements of many rows, since building a statement a row costs
// more than the row.
type Intake struct {
	tx      *sql.Tx
	source  Source
	feedID  int64
	stmts   map[string]*sql.Stmt
	waiting []*supply.Product
	prints  []int64
	seen    bitmap
	aside   []SetAside
	figures supply.Figures
}

const (
	lookUpRows = 400
	insertRows = 100
)

// BeginIntake opens the transaction. It must end in Commit or Rollback.
func (s *Store) BeginIntake(ctx context.Context, feedID int64, source Source) (*Intake, error) {
	pool, err := s.write.DB()
	if err != nil {
		return nil, err
	}
	tx, err := pool.BeginTx(ctx, nil)
	if err != nil {
		return nil, fmt.Errorf("beginning an intake: %w", err)
	}
	in := &Intake{tx: tx, source: source, feedID: feedID, stmts: map[string]*sql.Stmt{}}
	in.figures.LastRows = source.LastRows
	err = tx.QueryRow(`SELECT count(*) FROM supplier_products WHERE source_id = ? AND NOT gone AND stock_state = 'known' AND stock > 0`, source.ID).Scan(&in.figures.InStock)
	if err != nil {
		return nil, errors.Join(err, tx.Rollback())
	}
	return in, nil
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

func (in *Intake) exec(query string, args ...any) error {
	st, err := in.prepare(query)
	if err != nil {
		return err
	}
	_, err = st.Exec(args...)
	return err
}

// Put takes one row. The product must not be changed afterwards.
func (in *Intake) Put(p *supply.Product) error {
	in.figures.Rows++
	if string(p.Cost.Currency) != in.source.Currency {
		in.figures.OtherCurr++
	}
	in.waiting = append(in.waiting, p)
	in.prints = append(in.prints, p.Fingerprint())
	if len(in.waiting) < lookUpRows {
		return nil
	}
	return in.flush()
}

// Repeat counts an exact repeat of an earlier row of the feed.
func (in *Intake) Repeat() { in.figures.Rows++; in.figures.Same++ }

// SetAside notes a row that is not taken, with every problem it has.
func (in *Intake) SetAside(row int, problems []supply.Problem) {
	in.figures.Rows++
	in.figures.SetAside++
	for _, p := range problems {
		in.aside = append(in.aside, SetAside{FeedID: in.feedID, Row: row, Column: p.Column, Value: p.Value, Reason: p.Reason})
	}
}

// Aside lists what was set aside.
func (in *Intake) Aside() []SetAside { return in.aside }

type known struct {
	id      int64
	print   int64
	gone    bool
	missing int64
}

// flush compares the waiting rows with what is kept and writes what differs.
func (in *Intake) flush() error {
	if len(in.waiting) == 0 {
		return nil
	}
	old, err := in.lookUp()
	if err != nil {
		return fmt.Errorf("looking up known rows: %w", err)
	}
	var fresh []*supply.Product
	for i, p := range in.waiting {
		k, ok := old[p.Ref]
		if !ok {
			in.figures.New++
			fresh = append(fresh, p)
			continue
		}
		in.figures.Known++
		in.seen.set(k.id)
		if k.print == in.prints[i] && !k.gone && k.missing == 0 {
			in.figures.Same++
			continue
		}
		if err := in.change(k, p, in.prints[i]); err != nil {
			return fmt.Errorf("changing %s: %w", p.Ref, err)
		}
	}
	for len(fresh) > 0 {
		n := insertRows
		if len(fresh) < n {
			n = 1
		}
		if err := in.insert(fresh[:n]); err != nil {
			return fmt.Errorf("adding new rows: %w", err)
		}
		fresh = fresh[n:]
	}
	in.waiting, in.prints = in.waiting[:0], in.prints[:0]
	return nil
}

func (in *Intake) lookUp() (map[string]known, error) {
	args := []any{in.source.ID}
	for _, p := range in.waiting {
		args = append(args, p.Ref)
	}
	for len(args) <= lookUpRows {
		args = append(args, nil) // one statement serves the last, shorter group too
	}
	st, err := in.prepare(`SELECT ref, id, fingerprint, gone, missing FROM supplier_products WHERE source_id = ? AND ref IN (?` + strings.Repeat(",?", lookUpRows-1) + `)`)
	if err != nil {
		return nil, err
	}
	rows, err := st.Query(args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := make(map[string]known, len(in.waiting))
	for rows.Next() {
		var ref string
		var k known
		if err := rows.Scan(&ref, &k.id, &k.print, &k.gone, &k.missing); err != nil {
			return nil, err
		}
		out[ref] = k
	}
	return out, rows.Err()
}

const productColumns = 19

// details is the part of a supplier product that is only shown, never looked for.
type details struct {
	MPN         string            `json:"mpn,omitempty"`
	Description string            `json:"description,omitempty"`
	ListPrice   *int64            `json:"list_price,omitempty"`
	Pictures    []string          `json:"pictures,omitempty"`
	Link        string            `json:"link,omitempty"`
	Group       string            `json:"group,omitempty"`
	Colour      string            `json:"colour,omitempty"`
	Size        string            `json:"size,omitempty"`
	Attributes  map[string]string `json:"attributes,omitempty"`
}

func columnsOf(p *supply.Product) ([]any, error) {
	d := details{p.MPN, p.Description, nil, p.Pictures, p.Link, p.Group, p.Colour, p.Size, p.Attributes}
	if p.ListPrice != nil {
		d.ListPrice = &p.ListPrice.Minor
	}
	text, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	picture := ""
	if len(p.Pictures) > 0 {
		picture = p.Pictures[0]
	}
	return []any{p.GTIN, p.GTINStatus, p.Brand, p.Title, p.Category, p.Cost.Minor, string(p.Cost.Currency),
		p.Stock.Count, string(p.Stock.State), p.UnitsPerItem, picture, string(text)}, nil
}

func (in *Intake) insert(fresh []*supply.Product) error {
	row := "(?" + strings.Repeat(",?", productColumns-1) + ")"
	query := `INSERT INTO supplier_products (source_id, ref, gtin, gtin_status, brand, title, category, cost, currency, stock, stock_state,
		units_per_item, picture, details, fingerprint, gone, missing, first_feed_id, changed_feed_id) VALUES ` + row + strings.Repeat(","+row, len(fresh)-1)
	args := make([]any, 0, len(fresh)*productColumns)
	for _, p := range fresh {
		cols, err := columnsOf(p)
		if err != nil {
			return err
		}
		args = append(append(append(args, in.source.ID, p.Ref), cols...), p.Fingerprint(), false, 0, in.feedID, in.feedID)
	}
	st, err := in.prepare(query)
	if err != nil {
		return err
	}
	res, err := st.Exec(args...)
	if err != nil {
		return err
	}
	last, err := res.LastInsertId()
	for i := range fresh {
		in.seen.set(last - int64(i))
	}
	return err
}

func (in *Intake) change(k known, p *supply.Product, print int64) error {
	st, err := in.prepare(`SELECT * FROM supplier_products WHERE id = ?`)
	if err != nil {
		return err
	}
	before, err := scanProduct(st, k.id)
	if err != nil {
		return err
	}
	in.figures.Changed++
	changes := supply.Diff(&before, p)
	if k.gone {
		changes = append(changes, supply.Change{Field: "listed", Before: "gone", After: "back"})
	} else if before.Stock.Some() && !p.Stock.Some() {
		in.figures.ToZero++
	}
	if before.Cost.Currency == p.Cost.Currency && supply.MovedByHalf(before.Cost.Minor, p.Cost.Minor) {
		in.figures.Moved++
	}
	for _, c := range changes {
		if err := in.log(k.id, c); err != nil {
			return err
		}
	}
	cols, err := columnsOf(p)
	if err != nil {
		return err
	}
	return in.exec(`UPDATE supplier_products SET gtin = ?, gtin_status = ?, brand = ?, title = ?, category = ?, cost = ?, currency = ?, stock = ?,
		stock_state = ?, units_per_item = ?, picture = ?, details = ?, fingerprint = ?, gone = 0, missing = 0, changed_feed_id = ? WHERE id = ?`,
		append(cols, print, in.feedID, k.id)...)
}

func (in *Intake) log(id int64, c supply.Change) error {
	return in.exec(`INSERT INTO supplier_changes (supplier_product_id, feed_id, field, before, after) VALUES (?, ?, ?, ?, ?)`, id, in.feedID, c.Field, c.Before, c.After)
}

func scanProduct(st *sql.Stmt, id int64) (supply.Product, error) {
	rows, err := st.Query(id)
	if err != nil {
		return supply.Product{}, err
	}
	defer rows.Close()
	names, err := rows.Columns()
	if err != nil {
		return supply.Product{}, err
	}
	var p SupplierProduct
	into := map[string]any{"ref": &p.Ref, "gtin": &p.GTIN, "gtin_status": &p.GTINStatus, "brand": &p.Brand, "title": &p.Title,
		"category": &p.Category, "cost": &p.Cost, "currency": &p.Currency, "stock": &p.Stock, "stock_state": &p.StockState,
		"units_per_item": &p.UnitsPerItem, "details": &p.Details}
	dest := make([]any, len(names))
	for i, n := range names {
		if dest[i] = into[n]; dest[i] == nil {
			dest[i] = new(any)
		}
	}
	if !rows.Next() {
		return supply.Product{}, errors.Join(rows.Err(), ErrMissing)
	}
	if err := rows.Scan(dest...); err != nil {
		return supply.Product{}, err
	}
	return p.Product()
}

// Product is the row as core/supply has it.
func (p *SupplierProduct) Product() (supply.Product, error) {
	var d details
	if p.Details != "" {
		if err := json.Unmarshal([]byte(p.Details), &d); err != nil {
			return supply.Product{}, fmt.Errorf("details of %s: %w", p.Ref, err)
		}
	}
	cur := money.Currency(p.Currency)
	out := supply.Product{Ref: p.Ref, GTIN: p.GTIN, GTINStatus: p.GTINStatus, MPN: d.MPN, Brand: p.Brand, Title: p.Title,
		Description: d.Description, Category: p.Category, Cost: money.Of(p.Cost, cur),
		Stock: supply.Stock{State: supply.StockState(p.StockState), Count: p.Stock}, UnitsPerItem: p.UnitsPerItem,
		Pictures: d.Pictures, Link: d.Link, Group: d.Group, Colour: d.Colour, Size: d.Size, Attributes: d.Attributes}
	if d.ListPrice != nil {
		v := money.Of(*d.ListPrice, cur)
		out.ListPrice = &v
	}
	return out, nil
}

// Finish writes what still waits and finds the products that are missing from
// a full feed: after missingGone feeds in a row they are gone.
func (in *Intake) Finish(full bool, missingGone int64) (supply.Figures, error) {
	if err := in.flush(); err != nil {
		return in.figures, err
	}
	if !full || in.figures.Rows == 0 {
		return in.figures, nil
	}
	rows, err := in.tx.Query(`SELECT id, missing, stock_state = 'known' AND stock > 0 FROM supplier_products WHERE source_id = ? AND NOT gone`, in.source.ID)
	if err != nil {
		return in.figures, err
	}
	type lost struct {
		known
		stock bool
	}
	var all []lost
	for rows.Next() {
		var l lost
		if err := rows.Scan(&l.id, &l.missing, &l.stock); err != nil {
			return in.figures, errors.Join(err, rows.Close())
		}
		if !in.seen.has(l.id) {
			all = append(all, l)
		}
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return in.figures, err
	}
	for _, l := range all {
		gone := l.missing+1 >= missingGone
		if gone {
			in.figures.Gone++
			if l.stock {
				in.figures.ToZero++
			}
			if err := in.log(l.id, supply.Change{Field: "listed", Before: "listed", After: "gone"}); err != nil {
				return in.figures, err
			}
		}
		if err := in.exec(`UPDATE supplier_products SET missing = ?, gone = ?, changed_feed_id = ? WHERE id = ?`, l.missing+1, gone, in.feedID, l.id); err != nil {
			return in.figures, err
		}
	}
	return in.figures, nil
}

// Commit keeps the feed: its rows, what was set aside, and the feed and source as given.
func (in *Intake) Commit(f Feed, s Source) error {
	for _, a := range in.aside {
		if err := in.exec(`INSERT INTO set_asides (feed_id, row, column, value, reason) VALUES (?, ?, ?, ?, ?)`, a.FeedID, a.Row, a.Column, a.Value, a.Reason); err != nil {
			return errors.Join(err, in.tx.Rollback())
		}
	}
	needed, err := json.Marshal(s.Needed)
	if err != nil {
		return errors.Join(err, in.tx.Rollback())
	}
	for _, w := range []struct {
		query string
		args  []any
	}{
		{`UPDATE feeds SET state = ?, rows = ?, new = ?, changed = ?, same = ?, set_aside = ?, gone = ?, warnings = ?, held_for = '', error = '', taken_at = ? WHERE id = ?`,
			[]any{f.State, f.Rows, f.New, f.Changed, f.Same, f.SetAside, f.Gone, f.Warnings, f.TakenAt, f.ID}},
		{`UPDATE sources SET last_rows = ?, taken_at = ?, needed = ? WHERE id = ?`, []any{s.LastRows, s.TakenAt, string(needed), s.ID}},
	} {
		if _, err := in.tx.Exec(w.query, w.args...); err != nil {
			return errors.Join(err, in.tx.Rollback())
		}
	}
	return in.tx.Commit()
}

// Rollback leaves the data as it was.
func (in *Intake) Rollback() error { return in.tx.Rollback() }

// bitmap is a set of row ids, which are small and close together.
type bitmap []uint64

func (b *bitmap) set(id int64) {
	for int(id>>6) >= len(*b) {
		*b = append(*b, make([]uint64, max(64, len(*b)))...)
	}
	(*b)[id>>6] |= 1 << (id & 63)
}

func (b bitmap) has(id int64) bool { return int(id>>6) < len(b) && b[id>>6]&(1<<(id&63)) != 0 }

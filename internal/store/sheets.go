package store

import (
	"context"
	"encoding/json"
	"slices"
	"time"
)

// Blank is a place's own sheet for a category, with what its columns are filled with.
type Blank struct {
	ID       int64
	SiteID   int64
	Category string // ref; "" is changes of price and stock
	Name     string
	Content  []byte
	Layout   string // JSON of blank.Layout
	Actor    string
	At       time.Time
}

// Blanks are a site's, without their contents.
func (tx Tx) Blanks(siteID int64) ([]Blank, error) {
	var out []Blank
	err := tx.db.Raw("SELECT id, site_id, category, name, layout, actor, at FROM blanks WHERE site_id = ? ORDER BY category", siteID).Scan(&out).Error
	return out, err
}

// BlankOf is the blank of a category; false where there is none.
func (tx Tx) BlankOf(siteID int64, category string) (Blank, bool, error) {
	var b Blank
	res := tx.db.Raw("SELECT * FROM blanks WHERE site_id = ? AND category = ?", siteID, category).Scan(&b)
	return b, res.RowsAffected > 0, res.Error
}

// PutBlank keeps a blank in place of the category's earlier one.
func (tx Tx) PutBlank(b *Blank) error {
	return tx.db.Exec(`INSERT INTO blanks (site_id, category, name, content, layout, actor, at) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (site_id, category) DO UPDATE SET name = excluded.name, content = excluded.content, layout = excluded.layout,
			actor = excluded.actor, at = excluded.at`, b.SiteID, b.Category, b.Name, b.Content, b.Layout, b.Actor, b.At).Error
}

// SheetFile is a filled sheet.
type SheetFile struct {
	ID         int64
	SiteID     int64
	Batch      string // key of its send-out
	Category   string
	Name       string
	Rows       int64
	Content    []byte
	MadeAt     time.Time
	FetchedAt  *time.Time
	UploadedAt *time.Time
	UploadedBy string
	Ref        string // the place's name for it, where its door took it
}

// SheetLine is a line of a filled sheet, and what the place said of it.
type SheetLine struct {
	SiteID int64
	Batch  string
	Key    string
	FileID *int64 // none: it was refused before a file was made
	SKU    string `gorm:"column:sku"`
	Row    int64
	Said   string // "", and as below
	Field  string
	Words  string
	Task   string     // JSON of place.Line: a task for a person; "": none
	At     *time.Time // since when a task waits
}

// What a place's report says of a line.
const (
	SheetTaken     = "taken" // it is at it: under review
	SheetConfirmed = "confirmed"
	SheetRefused   = "refused"
)

// KeepSheets keeps the files of a batch with their lines, once: a second time
// changes nothing. files[i].ID is set; lines name their file by its place.
func (tx Tx) KeepSheets(siteID int64, batch string, files []SheetFile, lines []SheetLine, fileOf []int) error {
	var n int64
	if err := tx.db.Raw("SELECT count(*) FROM sheet_lines WHERE site_id = ? AND batch = ?", siteID, batch).Scan(&n).Error; err != nil || n > 0 {
		return err
	}
	for i := range files {
		if err := tx.db.Create(&files[i]).Error; err != nil {
			return err
		}
	}
	rows := make([][]any, len(lines))
	for i, l := range lines {
		var file any
		if fileOf[i] >= 0 {
			file = files[fileOf[i]].ID
		}
		rows[i] = []any{siteID, batch, l.Key, file, l.SKU, l.Row, l.Said, l.Field, l.Words, l.Task, nullTime(l.At)}
	}
	return tx.insertRows("sheet_lines (site_id, batch, key, file_id, sku, row, said, field, words, task, at)", rows, "")
}

func nullTime(t *time.Time) any {
	if t == nil {
		return nil
	}
	return stamp(*t)
}

// TaskRow is a task for a person at a place that is served by hand.
type TaskRow struct {
	SheetLine `gorm:"embedded"`
	Site      string
	Currency  string
	SendOut   int64
	LineID    int64
	ListingID int64
	Title     string
	Page      string // where the listing stands there
	OverdueAt *time.Time
	Was       *int64 // the price that is there
	WasQty    int64
}

// Tasks are those that wait, of every site or of one: what takes something off
// sale first, then changes of what is on sale, then what is new; the oldest first.
func (s *Store) Tasks(ctx context.Context, key string) ([]TaskRow, error) {
	var out []TaskRow
	q := `SELECT t.*, s.name AS site, s.currency, o.id AS send_out, x.id AS line_id, l.id AS listing_id, p.title, coalesce(g.page, '') AS page, o.overdue_at,
		l.confirmed_price AS was, l.confirmed_quantity AS was_qty
		FROM sheet_lines t JOIN sites s ON s.id = t.site_id JOIN send_outs o ON o.site_id = t.site_id AND o.key = t.batch
		JOIN send_lines x ON x.send_out_id = o.id AND x.key = t.key JOIN listings l ON l.id = x.listing_id JOIN products p ON p.id = l.product_id
		LEFT JOIN listing_pages g ON g.listing_id = l.id WHERE t.task <> '' AND t.said = '' AND o.state = 'sent'`
	var args []any
	if key != "" {
		q, args = q+" AND t.key = ?", append(args, key)
	}
	err := s.read.WithContext(ctx).Raw(q+" ORDER BY NOT (x.price IS NULL AND x.quantity = 0), l.confirmed_price IS NULL, t.at, t.row", args...).Scan(&out).Error
	return out, err
}

// PutPage notes where a listing stands at its place.
func (tx Tx) PutPage(listingID int64, page string) error {
	return tx.db.Exec("INSERT INTO listing_pages (listing_id, page) VALUES (?, ?) ON CONFLICT (listing_id) DO UPDATE SET page = excluded.page", listingID, page).Error
}

// SheetLines are those of a batch.
func (tx Tx) SheetLines(siteID int64, batch string) ([]SheetLine, error) {
	var out []SheetLine
	err := tx.db.Raw("SELECT * FROM sheet_lines WHERE site_id = ? AND batch = ? ORDER BY file_id, row", siteID, batch).Scan(&out).Error
	return out, err
}

// SheetFileRow is a filled sheet with what became of its lines.
type SheetFileRow struct {
	SheetFile `gorm:"embedded"`
	Site      string
	SendOut   int64
	Size      int64
	Taken     int64
	Confirmed int64
	Refused   int64
	Open      int64 // without a word
}

const sheetFileRows = `SELECT f.id, f.site_id, f.batch, f.category, f.name, f.rows, f.made_at, f.fetched_at, f.uploaded_at, f.uploaded_by, length(f.content) AS size,
	s.name AS site, o.id AS send_out,
	(SELECT count(*) FROM sheet_lines l WHERE l.file_id = f.id AND l.said = 'taken') AS taken,
	(SELECT count(*) FROM sheet_lines l WHERE l.file_id = f.id AND l.said = 'confirmed') AS confirmed,
	(SELECT count(*) FROM sheet_lines l WHERE l.file_id = f.id AND l.said = 'refused') AS refused,
	(SELECT count(*) FROM sheet_lines l WHERE l.file_id = f.id AND l.said = '') AS open
	FROM sheet_files f JOIN sites s ON s.id = f.site_id JOIN send_outs o ON o.site_id = f.site_id AND o.key = f.batch `

// SheetFilesOf are the filled sheets of a send-out.
func (s *Store) SheetFilesOf(ctx context.Context, sendOut int64) ([]SheetFileRow, error) {
	var out []SheetFileRow
	err := s.read.WithContext(ctx).Raw(sheetFileRows+"WHERE o.id = ? ORDER BY f.id", sendOut).Scan(&out).Error
	return out, err
}

// OpenSheetFiles are filled sheets that wait for somebody: to be uploaded, or for
// what their place says of them.
func (s *Store) OpenSheetFiles(ctx context.Context) ([]SheetFileRow, error) {
	var out []SheetFileRow
	err := s.read.WithContext(ctx).Raw(sheetFileRows + "WHERE o.state = 'sent' ORDER BY f.uploaded_at IS NOT NULL, f.id").Scan(&out).Error
	return out, err
}

// SheetFileRow is one of them.
func (tx Tx) SheetFileRow(id int64) (SheetFileRow, error) {
	return one(tx.db.Raw(sheetFileRows+"WHERE f.id = ?", id), func(r SheetFileRow) int64 { return r.ID })
}

// SheetLinesOut are the lines of a filled sheet that aren't settled.
func (tx Tx) SheetLinesOut(file int64) ([]OutgoingLine, error) {
	var sendOut int64
	if err := tx.db.Raw("SELECT o.id FROM sheet_files f JOIN send_outs o ON o.site_id = f.site_id AND o.key = f.batch WHERE f.id = ?", file).Scan(&sendOut).Error; err != nil {
		return nil, err
	}
	var keys []string
	if err := tx.db.Raw("SELECT key FROM sheet_lines WHERE file_id = ?", file).Scan(&keys).Error; err != nil {
		return nil, err
	}
	lines, err := tx.Outgoing(sendOut)
	in := map[string]bool{}
	for _, k := range keys {
		in[k] = true
	}
	return slices.DeleteFunc(lines, func(l OutgoingLine) bool { return !in[l.Key] || l.State != SendSent }), err
}

// SheetFileContent is a filled sheet whole.
func (s *Store) SheetFileContent(ctx context.Context, id int64) (SheetFile, error) {
	return Get[SheetFile](ctx, s, id)
}

// MarkFetched notes that a filled sheet was downloaded.
func (tx Tx) MarkFetched(id int64, at time.Time) error {
	return tx.db.Exec("UPDATE sheet_files SET fetched_at = ? WHERE id = ? AND fetched_at IS NULL", at, id).Error
}

// MarkNotUploaded notes that a downloaded sheet went nowhere.
func (tx Tx) MarkNotUploaded(id int64) error {
	return tx.db.Exec("UPDATE sheet_files SET fetched_at = NULL WHERE id = ? AND uploaded_at IS NULL", id).Error
}

// Fetched names a filled sheet of a send-out that was downloaded, and of which
// nobody said whether it is at its place; "" where there is none.
func (tx Tx) Fetched(sendOut int64) (name string, err error) {
	err = tx.db.Raw(`SELECT coalesce(min(f.name), '') FROM send_outs o JOIN sheet_files f ON f.site_id = o.site_id AND f.batch = o.key
		WHERE o.id = ? AND f.fetched_at IS NOT NULL AND f.uploaded_at IS NULL`, sendOut).Scan(&name).Error
	return name, err
}

// MarkUploaded notes that a filled sheet was uploaded at its place.
func (tx Tx) MarkUploaded(id int64, at time.Time, by string) error {
	return tx.db.Exec("UPDATE sheet_files SET uploaded_at = ?, uploaded_by = ? WHERE id = ? AND uploaded_at IS NULL", at, by, id).Error
}

// NeverUploaded tells whether a send-out came to filled sheets that nobody took
// to their place.
func (tx Tx) NeverUploaded(sendOut int64) (bool, error) {
	var n struct{ Files, There, Tasks int64 }
	err := tx.db.Raw(`SELECT count(f.id) AS files, count(f.uploaded_at) AS there,
		(SELECT count(*) FROM sheet_lines t WHERE t.site_id = o.site_id AND t.batch = o.key AND t.task <> '') AS tasks
		FROM send_outs o LEFT JOIN sheet_files f ON o.site_id = f.site_id AND o.key = f.batch WHERE o.id = ?`, sendOut).Scan(&n).Error
	return n.Files+n.Tasks > 0 && n.There == 0, err
}

// OpenSheetLines are the lines of a site that its place hasn't answered, the
// newest first.
func (tx Tx) OpenSheetLines(siteID int64) ([]SheetLine, error) {
	var out []SheetLine
	err := tx.db.Raw("SELECT * FROM sheet_lines WHERE site_id = ? AND said IN ('', 'taken') AND file_id IS NOT NULL ORDER BY file_id DESC, row", siteID).
		Scan(&out).Error
	return out, err
}

// AskedOf are the first lines of a filled sheet that its place is at and says
// something of.
func (tx Tx) AskedOf(file int64) ([]SheetLine, error) {
	var out []SheetLine
	err := tx.db.Raw("SELECT * FROM sheet_lines WHERE file_id = ? AND said = 'taken' AND words <> '' ORDER BY row LIMIT 10", file).Scan(&out).Error
	return out, err
}

// SheetsOf are the filled sheets of a batch.
func (tx Tx) SheetsOf(siteID int64, batch string) ([]SheetFile, error) {
	var out []SheetFile
	err := tx.db.Raw("SELECT * FROM sheet_files WHERE site_id = ? AND batch = ? ORDER BY id", siteID, batch).Scan(&out).Error
	return out, err
}

// DropSheets forgets a batch's filled sheets and lines, unless one of them is at
// its place.
func (tx Tx) DropSheets(siteID int64, batch string) error {
	const unsent = " WHERE site_id = ? AND batch = ? AND NOT EXISTS (SELECT 1 FROM sheet_files f WHERE f.site_id = ? AND f.batch = ? AND f.uploaded_at IS NOT NULL)"
	for _, table := range []string{"sheet_lines", "sheet_files"} {
		if err := tx.db.Exec("DELETE FROM "+table+unsent, siteID, batch, siteID, batch).Error; err != nil {
			return err
		}
	}
	return nil
}

// GiveSheet notes that a place's door took a filled sheet, and its name for it.
func (tx Tx) GiveSheet(id int64, ref string, at time.Time) error {
	return tx.db.Exec("UPDATE sheet_files SET uploaded_at = ?, uploaded_by = ?, ref = ? WHERE id = ?", at, "its door", ref, id).Error
}

// SheetRefs are the place's names for the filled sheets of a batch that its door
// took and that it hasn't answered whole.
func (tx Tx) SheetRefs(siteID int64, batch string) ([]string, error) {
	var out []string
	err := tx.db.Raw(`SELECT f.ref FROM sheet_files f WHERE f.site_id = ? AND f.batch = ? AND f.ref <> ''
		AND EXISTS (SELECT 1 FROM sheet_lines l WHERE l.file_id = f.id AND l.said IN ('', 'taken')) ORDER BY f.id`, siteID, batch).Scan(&out).Error
	return out, err
}

// OpenLinesOf are the lines of a filled sheet that its place hasn't answered, by
// its name for it.
func (tx Tx) OpenLinesOf(siteID int64, ref string) ([]SheetLine, error) {
	var out []SheetLine
	err := tx.db.Raw(`SELECT l.* FROM sheet_files f JOIN sheet_lines l ON l.file_id = f.id WHERE f.site_id = ? AND f.ref = ? AND l.said IN ('', 'taken')
		ORDER BY l.row`, siteID, ref).Scan(&out).Error
	return out, err
}

// PutSheetWords writes down what a place said of lines.
func (tx Tx) PutSheetWords(lines []SheetLine) error {
	rows := make([][]any, len(lines))
	for i, l := range lines {
		rows[i] = []any{l.SiteID, l.Batch, l.Key, l.Said, l.Field, l.Words}
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	return tx.db.Exec(`UPDATE sheet_lines SET said = j.value->>3, field = j.value->>4, words = j.value->>5 FROM json_each(?) j
		WHERE sheet_lines.site_id = j.value->>0 AND sheet_lines.batch = j.value->>1 AND sheet_lines.key = j.value->>2`, string(text)).Error
}

// ReportForm is what the columns of a place's report are.
type ReportForm struct {
	SiteID  int64  `gorm:"primaryKey;autoIncrement:false"`
	Columns string // JSON: column → what it is read as
	States  string // JSON: its word → taken, confirmed, refused
}

// ReportFormOf is a site's; empty where none was read yet.
func (tx Tx) ReportFormOf(siteID int64) (ReportForm, error) {
	f := ReportForm{SiteID: siteID, Columns: "{}", States: "{}"}
	err := tx.db.Where("site_id = ?", siteID).Limit(1).Find(&f).Error
	return f, err
}

// PutReportForm keeps what the columns of a site's report are.
func (tx Tx) PutReportForm(f ReportForm) error { return tx.db.Save(&f).Error }

// SiteNamed is a site of a place by its code.
func (tx Tx) SiteNamed(place, code string) (Site, error) {
	var id int64
	if err := tx.db.Raw("SELECT coalesce("+siteNamed+", 0)", place, code).Scan(&id).Error; err != nil {
		return Site{}, err
	}
	return tx.SiteOf(id)
}

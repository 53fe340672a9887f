package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"time"
)

// RunLight makes a light file and gives it to where it goes.
const RunLight = "light file"

// LightFile is a file of price and stock of what a site has on sale, and when and
// where it goes.
type LightFile struct {
	ID       int64
	Version  int64 `gorm:"default:1"`
	SiteID   int64
	Name     string
	Part     string   // LightAll, LightChanged, LightEnd
	Only     []string `gorm:"serializer:list"` // SKUs; empty: of all
	Layout   string   // JSON of blank.Layout
	Every    int64    // minutes; 0: only when somebody asks
	Target   string   // a folder, an address for PUT; "" to be downloaded
	Username string
	Password string // sealed
	DueAt    *time.Time
	MadeAt   *time.Time // when it was given last
	Rows     int64      // of the last
	Error    string     // why the last could not be given
	Last     []byte     // gzip of JSON: what was given of each SKU
}

// What a light file has of what is on sale.
const (
	LightAll     = "all"
	LightChanged = "changed" // since it was given last
	LightEnd     = "end"     // what isn't to be sold there any more
)

// LightFileRow is a light file with its site.
type LightFileRow struct {
	LightFile `gorm:"embedded"`
	Site      string
}

// LightFiles are all, by name.
func (s *Store) LightFiles(ctx context.Context) ([]LightFileRow, error) {
	var out []LightFileRow
	err := s.read.WithContext(ctx).Raw(`SELECT f.id, f.version, f.site_id, f.name, f.part, f.only, f.layout, f.every, f.target, f.username, f.password,
		f.due_at, f.made_at, f.rows, f.error, s.name AS site FROM light_files f JOIN sites s ON s.id = f.site_id ORDER BY f.name`).Scan(&out).Error
	return out, err
}

// LightFileNamed is the id of the light file of a name; 0: there is none.
func (tx Tx) LightFileNamed(name string) (int64, error) {
	var id int64
	err := tx.db.Raw("SELECT id FROM light_files WHERE name = ?", name).Scan(&id).Error
	return id, err
}

// DropLightFile forgets a light file.
func (tx Tx) DropLightFile(id int64) error { return tx.db.Delete(&LightFile{ID: id}).Error }

// DueLightFiles are those whose time has come.
func (tx Tx) DueLightFiles(now time.Time) ([]LightFile, error) {
	var out []LightFile
	err := tx.db.Where("due_at <= ?", now).Order("id").Find(&out).Error
	return out, err
}

// LightRow is a listing that is on sale as a light file has it.
type LightRow struct {
	ID       int64
	SKU      string
	Title    string
	Number   string
	Brand    string
	Category string
	Entry    string
	Price    *int64
	Quantity int64
	Ended    bool // it isn't to be sold there any more
}

// LightRows are the listings of a site that are on sale as far as is known, by
// SKU: their prices and quantities as they were confirmed.
func (s *Store) LightRows(ctx context.Context, siteID int64) ([]LightRow, error) {
	var l LightRow
	var out []LightRow
	err := eachArray(s.read.WithContext(ctx), asArray(`l.id, l.sku, p.title, p.gtin, p.brand, l.category, coalesce(e.ref, ''), l.confirmed_price,
		l.confirmed_quantity, l.unwanted`)+` FROM listings l JOIN products p ON p.id = l.product_id LEFT JOIN entries e ON e.id = l.entry_id
		WHERE l.site_id = ? AND l.confirmed_at IS NOT NULL ORDER BY l.sku`,
		[]any{&l.ID, &l.SKU, &l.Title, &l.Number, &l.Brand, &l.Category, &l.Entry, &l.Price, &l.Quantity, &l.Ended},
		func() { out = append(out, l) }, siteID)
	if err != nil {
		return nil, fmt.Errorf("reading what is on sale: %w", err)
	}
	return out, nil
}

// Given is what a light file said of each SKU when it was given last.
func (f *LightFile) Given() (map[string]string, error) {
	out := map[string]string{}
	if len(f.Last) == 0 {
		return out, nil
	}
	r, err := gzip.NewReader(bytes.NewReader(f.Last))
	if err != nil {
		return nil, err
	}
	err = json.NewDecoder(r).Decode(&out)
	return out, err
}

// PutGiven keeps that a light file was given, and what it said of each SKU.
func (tx Tx) PutGiven(id int64, at time.Time, rows int64, given map[string]string) error {
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	if err := json.NewEncoder(w).Encode(given); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	tx.Changed("sendouts")
	return tx.db.Model(&LightFile{ID: id}).Updates(map[string]any{"made_at": at, "rows": rows, "error": "", "last": b.Bytes()}).Error
}

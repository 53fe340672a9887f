package store

import (
	"context"
	"time"
)

// WordDifference is a listing that says something else at its place than was sent.
type WordDifference struct {
	ListingID int64
	Ours      string // JSON of place.Content, as it was confirmed last
	There     string // as it was read back
	Fields    string // JSON: those that differ
	SeenAt    time.Time
}

// SaidThere is what a listing says at its place as far as we know.
type SaidThere struct {
	ListingID int64
	Content   string // JSON of place.Content
	At        time.Time
}

// SaidThere are what listings say at their places, by id.
func (tx Tx) SaidThere(ids []int64) (map[int64]SaidThere, error) {
	var rows []SaidThere
	err := tx.db.Raw("SELECT c.* FROM listing_contents c WHERE c.listing_id"+inList, listOf(ids)).Scan(&rows).Error
	out := make(map[int64]SaidThere, len(rows))
	for _, r := range rows {
		out[r.ListingID] = r
	}
	return out, err
}

// PutSaidThere keeps what a listing says at its place.
func (tx Tx) PutSaidThere(id int64, content string, at time.Time) error {
	return tx.db.Exec(`INSERT INTO listing_contents (listing_id, content, at) VALUES (?, ?, ?)
		ON CONFLICT DO UPDATE SET content = excluded.content, at = excluded.at`, id, content, at).Error
}

// PutWordDifference keeps that a listing says something else there.
func (tx Tx) PutWordDifference(d WordDifference) error {
	tx.Changed("differences", "counts")
	return tx.db.Exec(`INSERT INTO word_differences (listing_id, ours, there, fields, seen_at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET there = excluded.there, fields = excluded.fields, seen_at = excluded.seen_at`, d.ListingID, d.Ours, d.There, d.Fields, d.SeenAt).Error
}

// DropWordDifferences forgets what listings say otherwise there.
func (tx Tx) DropWordDifferences(ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	res := tx.db.Exec("DELETE FROM word_differences WHERE listing_id"+inList, listOf(ids))
	if res.RowsAffected > 0 {
		tx.Changed("differences", "counts")
	}
	return res.Error
}

// WordDifferencesOf are what listings say otherwise there, by id.
func (tx Tx) WordDifferencesOf(ids []int64) (map[int64]WordDifference, error) {
	var rows []WordDifference
	err := tx.db.Raw("SELECT * FROM word_differences d WHERE d.listing_id"+inList, listOf(ids)).Scan(&rows).Error
	out := make(map[int64]WordDifference, len(rows))
	for _, r := range rows {
		out[r.ListingID] = r
	}
	return out, err
}

// WordDifferenceRow is a listing that says something else there.
type WordDifferenceRow struct {
	ListingID int64
	SKU       string
	Title     string
	Site      string
	Category  string
	Fields    []string `gorm:"serializer:list"`
	SeenAt    time.Time
	Picture   string `gorm:"-"`
}

// WordDifferences lists the listings that say something else there, the last seen first.
func (s *Store) WordDifferences(ctx context.Context, p Page) (List[WordDifferenceRow], error) {
	l, err := list[WordDifferenceRow](ctx, s.read, listQuery{
		columns: `d.listing_id, l.sku, p.title, s.name AS site, coalesce(c.name, l.category) AS category, d.fields, d.seen_at`,
		from: `word_differences d JOIN listings l ON l.id = d.listing_id JOIN products p ON p.id = l.product_id JOIN sites s ON s.id = l.site_id
			LEFT JOIN categories c ON c.site_id = l.site_id AND c.ref = l.category`,
		id:    "d.listing_id",
		sort:  "seen",
		desc:  true,
		sorts: map[string]string{"seen": "d.seen_at", "site": "s.name", "sku": "l.sku"},
	}, p)
	if err != nil {
		return l, err
	}
	return l, pictured(ctx, l.Rows, func(r *WordDifferenceRow) int64 { return r.ListingID }, func(r *WordDifferenceRow) *string { return &r.Picture },
		s.listingPictures)
}

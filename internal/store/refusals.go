package store

import (
	"context"
	"time"
)

// Refusal is what a place says of listings that it refused alike.
type Refusal struct {
	SiteID   int64
	Site     string
	Field    string
	Words    string
	Listings string // JSON of ids
	Own      int64  // of them, whose words are ours to write
	Count    int64
	Mended   string // JSON of the values that mended some before; "": none
}

// mostRefusals is how many kinds of refusal are told apart.
const mostRefusals = 50

// Refusals are those of listings that wait, the commonest first.
func (s *Store) Refusals(ctx context.Context) ([]Refusal, error) {
	var out []Refusal
	err := s.read.WithContext(ctx).Raw(`SELECT l.site_id, s.name AS site, l.words_field AS field, l.words, json_group_array(l.id) AS listings,
		sum(l.entry_id IS NULL) AS own, count(*) AS count, coalesce(m.said, '') AS mended
		FROM listings l JOIN sites s ON s.id = l.site_id LEFT JOIN mends m ON m.site_id = l.site_id AND m.field = l.words_field AND m.words = l.words
		WHERE l.state = 'refused' GROUP BY l.site_id, l.words_field, l.words ORDER BY count DESC, l.site_id, l.words LIMIT ?`, mostRefusals).Scan(&out).Error
	return out, err
}

// PutMend remembers what mended listings that were refused with some words.
func (tx Tx) PutMend(siteID int64, field, words, said, actor string, at time.Time) error {
	return tx.db.Exec(`INSERT INTO mends (site_id, field, words, said, actor, at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET said = excluded.said, actor = excluded.actor, at = excluded.at`, siteID, field, words, said, actor, at).Error
}

// ofOwn is the condition of a listing of our own that its site refused, or a change of it.
const ofOwn = "l.entry_id IS NULL AND (l.state = 'refused' OR l.words <> '')"

// RefusedBySKU are the listings of our own that a site refused, or a change of
// them, by their SKUs there.
func (tx Tx) RefusedBySKU(siteID int64, skus []string) (map[string]int64, error) {
	var rows []struct {
		ID  int64
		SKU string
	}
	err := tx.db.Raw("SELECT l.id, l.sku FROM listings l WHERE l.site_id = ? AND "+ofOwn+" AND l.sku IN (SELECT value FROM json_each(?))", siteID, textList(skus)).
		Scan(&rows).Error
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.SKU] = r.ID
	}
	return out, err
}

// RefusedOwn are the ids of those, by SKU.
func (tx Tx) RefusedOwn(siteID int64, limit int) ([]int64, error) {
	var ids []int64
	err := tx.db.Raw("SELECT l.id FROM listings l WHERE l.site_id = ? AND "+ofOwn+" ORDER BY l.sku LIMIT ?", siteID, limit).Scan(&ids).Error
	return ids, err
}

// SentContents are what was handed over last of the words of listings, JSON of
// place.Content, by id.
func (tx Tx) SentContents(ids []int64) (map[int64]string, error) {
	var rows []struct {
		ListingID int64
		Content   string
	}
	err := tx.db.Raw(`SELECT x.listing_id, x.content FROM json_each(?) j CROSS JOIN send_lines x ON x.listing_id = j.value
		WHERE x.content <> '' ORDER BY x.id`, listOf(ids)).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ListingID] = r.Content
	}
	return out, err
}

package store

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// many makes a shelf of listings of which some filters match few, and some many.
func many(t *testing.T) *Store {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	for _, q := range []string{
		"INSERT INTO suppliers(id, name, created_at) VALUES (1, 'Fernhollow', 0)",
		"INSERT INTO sources(id, supplier_id, name, kind, mode, currency, created_at) VALUES (1, 1, 'Fernhollow', 'file', 'full', 'GBP', 0)",
		"INSERT INTO marketplaces(id, name, address) VALUES (1, 'Quaymarket', 'http://gateway.example')",
		"INSERT INTO sites(id, marketplace_id, code, name, currency, kind, lists) VALUES (1, " +
			"1, 'GB', 'Quaymarket GB', 'GBP', 'catalogue', 1), (2, 1, 'IE', 'Quaymarket IE', 'EUR', 'catalogue', 1)",
		"CREATE TEMP TABLE n AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 10500) SELECT i FROM n",
		`INSERT INTO supplier_products(id, source_id, ref, title, cost, currency, stock, stock_state, details) SELECT i,
			1, 'FW-' || i, 'Enamel mug', 100 + i, 'GBP', i % 40, 'known', '{}' FROM n`,
		`INSERT INTO products(id, sku, title, brand, gtin, created_at) SELECT i, printf('SK-%05d', i), CASE i % 3 WHEN 0 THEN 'Tarnwick'
			WHEN 1 THEN 'ottermere' ELSE 'Ötter' END || ' enamel mug ' || i, '', '', 0 FROM n`,
		"INSERT INTO supply_links(id, product_id, supplier_product_id, units_bought) SELECT i, i, i, 1 FROM n",
		"INSERT INTO entries(id, site_id, ref, seen_at) SELECT i, 1, 'E' || i, 0 FROM n UNION ALL SELECT 20000 + i, 2, 'E' || i, 0 " +
			"FROM n WHERE i % 50 = 0",
		`INSERT INTO listings(id, sku, product_id, site_id, entry_id, state, currency, price, quantity, landed, profit)
			SELECT i, printf('SK-%05d', i), i, 1, i, CASE WHEN i % 100 = 0 THEN 'ready' WHEN i % 77 = 0 THEN 'refused'
				ELSE 'live' END, 'GBP', CASE WHEN i % 7 > 0 THEN i * 37 % 1000 END, i % 11, i % 500, i % 90 - 10 FROM n
			UNION ALL SELECT 20000 + i, printf('SK-%05d', i), i, 2, 20000 + i, 'live', 'EUR', i, 1, i, i FROM n WHERE i % 50 = 0`,
	} {
		require.NoError(t, s.write.Exec(q).Error, q)
	}
	return s
}

// However few or many a filter matches, and whichever way they are found, a
// list has the same rows in the same order, and its pages meet.
func TestListsAreTheSameHoweverManyMatch(t *testing.T) {
	s := many(t)
	sorts := map[string]string{
		"title":    "p.title COLLATE NOCASE",
		"sku":      "p.sku",
		"price":    "coalesce(l.price, -1)",
		"profit":   "l.profit",
		"landed":   "l.landed",
		"quantity": "l.quantity",
		"state":    "l.state",
		"stock":    "(SELECT stock FROM supplier_products WHERE id = p.id)",
	}
	for name, c := range map[string]struct {
		filter ListingFilter
		where  string
	}{
		"all":                  {ListingFilter{}, "1"},
		"a state of many":      {ListingFilter{States: []string{"live"}}, "l.state = 'live'"},
		"a state of few":       {ListingFilter{States: []string{"ready"}}, "l.state = 'ready'"},
		"two states, one site": {ListingFilter{States: []string{"ready", "refused"}, SiteID: 1}, "l.state <> 'live' AND l.site_id = 1"},
		"a site of many":       {ListingFilter{SiteID: 1}, "l.site_id = 1"},
		"a site of few":        {ListingFilter{SiteID: 2}, "l.site_id = 2"},
		"a word of all":        {ListingFilter{Words: " MUG "}, "1"},
		"a word of some":       {ListingFilter{Words: "tarnwick", SiteID: 1}, "p.id % 3 = 0 AND l.site_id = 1"},
		"several words": {ListingFilter{Words: "enamel 77 mug tarn", States: []string{"live"}}, "p.title LIKE '%tarn%' " +
			"AND p.title || p.sku LIKE '%77%' AND l.state = 'live'"},
		"a capital abroad": {ListingFilter{Words: "ötter"}, "p.id % 3 = 2"},
		"a supplier's ref": {ListingFilter{Words: "fw-1050"}, "p.id IN (1050, 10500)"},
		"nothing":          {ListingFilter{Words: "no such thing"}, "0"},
		"white space":      {ListingFilter{Words: " \t"}, "1"},
	} {
		var total int64
		require.NoError(
			t,
			s.read.Raw("SELECT count(*) FROM listings l JOIN products p ON p.id = l.product_id WHERE "+c.where).Scan(&total).Error,
		)
		for sort, expr := range sorts {
			desc := len(sort)%2 == 0
			order := fmt.Sprintf("%s ASC, l.id ASC", expr)
			if sort == "stock" { // those of one stock in the order of its index
				order = fmt.Sprintf("%s ASC, p.id ASC, l.id ASC", expr)
			}
			if desc {
				order = strings.ReplaceAll(order, "ASC", "DESC")
			}
			var want []int64
			require.NoError(
				t,
				s.read.Raw("SELECT l.id FROM listings l JOIN products p ON p.id = l.product_id WHERE "+c.where+" ORDER BY "+order+" LIMIT 130").
					Scan(&want).Error,
			)
			var got []int64
			page := Page{Limit: 65, Sort: sort, Desc: desc}
			for range 2 {
				l, err := s.Listings(t.Context(), c.filter, page)
				require.NoError(t, err)
				for _, r := range l.Rows {
					got = append(got, r.ID)
				}
				if strings.TrimSpace(c.filter.Words) != "" && total > fewRows {
					assert.Equal(t, []any{int64(fewRows), true}, []any{l.Total, l.More}, "%s is counted so far only", name)
				} else {
					assert.Equal(t, []any{total, false}, []any{l.Total, l.More}, name)
				}
				if page.Cursor = l.Next; page.Cursor == "" {
					break
				}
			}
			assert.True(t, slices.Equal(want, got), "%s by %s: %v\nnot %v", name, sort, got, want)
		}
	}
}

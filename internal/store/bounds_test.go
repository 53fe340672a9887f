package store

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
)

// unbounded are whole numbers that are no amounts and no counts: names, places in an
// order, moments, and what SQLite or the program alone writes.
var unbounded = map[string]bool{
	"version": true, "position": true, "place": true, "seq": true, "status": true, "ref_hash": true, "fingerprint": true, "due": true, "done": true, "total": true,
	"subject": true, "row": true, "rows": true, "code_step": true, "value": true, "before": true, "after": true, "part_of": true, "mended_by": true, "undoes": true,
	"tries": true, "code_on": true, "active": true, "quiet_from": true, "quiet_to": true,
}

// Every amount and count of every table has a CHECK of its type and its bounds: a
// column that is added without one is named here.
func TestEveryFigureHasBounds(t *testing.T) {
	s := shopped(t, t.TempDir())
	var columns []struct{ Tab, Col, Sql string }
	require.NoError(t, s.read.Raw(`SELECT m.name AS tab, c.name AS col, m.sql FROM sqlite_schema m JOIN pragma_table_info(m.name) c
		WHERE m.type = 'table' AND instr(m.name, 'search') = 0 AND lower(c.type) = 'integer'`).Scan(&columns).Error)
	require.Greater(t, len(columns), 200)
	filled := map[string]bool{"sites": true, "listings": true, "supplier_products": true, "plan_lines": true, "send_lines": true, "feeds": true} // by shopped
	for _, c := range columns {
		if c.Col == "id" || strings.HasSuffix(c.Col, "_id") || unbounded[c.Col] {
			continue
		}
		assert.Contains(t, c.Sql, "typeof("+c.Col+")", "%s.%s has no bounds", c.Tab, c.Col)
		if !filled[c.Tab] {
			continue
		}
		for _, value := range []string{"9.2e18", "0.5", "'many'", "9223372036854775807", "-9223372036854775807"} {
			err := s.Do(t.Context(), func(tx Tx) error {
				return tx.db.Exec(fmt.Sprintf("UPDATE %s SET %s = %s", c.Tab, c.Col, value)).Error
			})
			assert.Equal(t, fault.Invalid, fault.KindOf(err), "%s.%s = %s: %v", c.Tab, c.Col, value, err)
		}
	}
	list, err := s.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, Broken(list))
}

// Figures beyond the bounds that a version before let in are brought to them.
func TestFiguresOfBeforeAreBroughtWithinBounds(t *testing.T) {
	dir := t.TempDir()
	steps := frozen()
	at := 0
	for steps[at].name != "0016_bounds" {
		at++
	}
	file := dir + "/" + fileName
	db, err := connect(file, "immediate", 1, "-8000")
	require.NoError(t, err)
	require.NoError(t, migrate(db, steps[:at], func(string) error { return nil }))
	require.NoError(t, db.Exec(`INSERT INTO marketplaces (id, name, address) VALUES (1, 'The shop', 'shop:');
		INSERT INTO sites (id, marketplace_id, code, name, currency, kind) VALUES (1, 1, 'gb', 'The shop', 'GBP', 'shop');
		INSERT INTO shop_listings (site_id, sku, title, category, price, quantity, family, picture, content, words, changed_at) VALUES (1, 'A', 'Mug', '', 900, 9.2e18, '', '', '{}', '', '2026-03-03');
		INSERT INTO shop_orders (site_id, ref, basket, seq, placed_at, currency, total, buyer, lines) VALUES (1, 'S-1', 'b', 1, '2026-03-03', 'GBP', -9223372036854775513, '', '[]')`).Error)
	require.NoError(t, closeDB(db))
	s := opened(t, dir)
	shelf, err := s.Reading(t.Context()).OnShelf(1, []string{"A"})
	require.NoError(t, err)
	assert.Zero(t, shelf["A"].Quantity)
	o, there, err := s.Reading(t.Context()).ShopOrderNamed(1, "S-1")
	require.NoError(t, err)
	assert.True(t, there)
	assert.Zero(t, o.Total)
}

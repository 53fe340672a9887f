package house_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"path"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// newHoard is a stall with so many listings on one site, each ready to be sent;
// nothing is done in the background until it is restarted.
func newHoard(t *testing.T, listings int) (*stall, *gorm.DB) {
	s := newStall(t, 1)
	s.Close()
	db := raw(t, strings.TrimSuffix(s.Store.File(), "/easymargin.db"))
	for _, q := range []string{
		"DROP TRIGGER product_made", "DROP TRIGGER product_supplied", // nobody searches here
		"UPDATE sites SET max_lines = 1000000",
		fmt.Sprintf("CREATE TABLE n AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d) SELECT i FROM n", listings),
		`INSERT INTO supplier_products(id, source_id, ref, ref_hash, title, cost, currency, stock, stock_state, details) SELECT i,
			1, 'R' || i, i, 'Enamel mug', 400, 'GBP', 9, 'known', '{}' FROM n`,
		`INSERT INTO products(id, sku, title, created_at) SELECT i, 'S-' || i, 'Enamel mug ' || i, '2026-03-03 08:40:00+00:00' FROM n`,
		"INSERT INTO supply_links(id, product_id, supplier_product_id, units_bought) SELECT i, i, i, 1 FROM n",
		"INSERT INTO entries(id, site_id, ref, category, seen_at) SELECT i, 1, 'E' || i, 'mugs', '2026-03-03 08:40:00+00:00' FROM n",
		`INSERT INTO listings(id, site_id, sku, product_id, entry_id, category, units, state, currency, price, quantity, floor)
			SELECT i, 1, 'S-' || i, i, i, 'mugs', 1, 'ready', 'GBP', 1500, 8, 700 FROM n`,
		"UPDATE sources SET taken_at = '2026-03-03 08:40:00+00:00', heard_at = '2026-03-03 08:40:00+00:00'",
	} {
		require.NoError(t, db.Exec(q).Error, q)
	}
	return s, db
}

// A hundred thousand listings are let go, and a hundred thousand changes to them
// with a person's choice of each: no statement has a value for each.
func TestAHundredThousandLinesAreLetGo(t *testing.T) {
	const many = 100_000
	s, db := newHoard(t, many)
	sent, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	assert.Equal(t, int64(many), sent.Lines)
	assert.Equal(t, int64(many), s.sendOut(sent.SendOuts[0]).Waiting)

	for _, q := range []string{"UPDATE listings SET state = 'live', confirmed_price = 1500, confirmed_quantity = 8, " +
		"quantity = 0", "DELETE FROM dirties", "INSERT INTO plans(id, site_id, made_at) VALUES (1, 1, '2026-03-03 08:40:00+00:00')",
		"INSERT INTO plan_lines(id, plan_id, listing_id, kind, from_qty, to_qty, currency, verdict, state) SELECT i, 1, i, 'zero', 8, " +
			"0, 'GBP', 'go', 'waiting' FROM n"} {
		require.NoError(t, db.Exec(q).Error, q)
	}
	var chosen []int64
	require.NoError(t, db.Raw("SELECT id FROM plan_lines").Scan(&chosen).Error)
	require.Len(t, chosen, many)
	none, err := s.Sending.SendPlan(t.Context(), 1, sending.PlanChoice{Except: chosen, Held: chosen})
	require.NoError(t, err)
	assert.Zero(t, none.Lines)
	zeros, err := s.Sending.SendPlan(t.Context(), 1, sending.PlanChoice{Lines: chosen})
	require.NoError(t, err)
	assert.Equal(t, int64(many), zeros.Lines)
}

// One batch of very many lines is handed over, answered and confirmed whole,
// and another given up whole.
func TestABatchOfVeryManyLines(t *testing.T) {
	const many = 35_000
	s, db := newHoard(t, many)
	var lines atomic.Int64
	var answers sync.Map
	gateway := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet {
			out, _ := answers.Load(path.Base(r.URL.Path))
			_ = json.NewEncoder(w).Encode(out)
			return
		}
		var in struct{ Lines []struct{ Key string } }
		if !assert.NoError(t, json.NewDecoder(r.Body).Decode(&in)) {
			return
		}
		lines.Add(int64(len(in.Lines)))
		said := make([]map[string]string, len(in.Lines))
		for i, l := range in.Lines {
			said[i] = map[string]string{"key": l.Key, "state": "confirmed"}
		}
		out := map[string]any{"id": r.Header.Get("Idempotency-Key"), "state": "done", "lines": said}
		answers.Store(out["id"], out)
		_ = json.NewEncoder(w).Encode(out)
	}))
	defer gateway.Close()
	require.NoError(t, s.Store.MoveMarketplace(t.Context(), "Quaymarket", gateway.URL))
	s.restart()
	_, err := s.Sending.SendListings(t.Context(), nil, sending.How{})
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(many), lines.Load())
	assert.Equal(t, int64(many), s.counts().Live)

	require.NoError(t, db.Exec("UPDATE supplier_products SET stock = 0").Error)
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error { return tx.DirtySite(s.clock.Now(), s.site.ID) }))
	s.idle()
	require.NoError(t, s.Store.MoveMarketplace(t.Context(), "Quaymarket", "http://127.0.0.1:1"))
	zeros, err := s.Sending.SendPlan(t.Context(), s.openPlan().ID, sending.PlanChoice{})
	require.NoError(t, err)
	assert.Equal(t, int64(many), zeros.Lines)
	s.idle()
	require.NoError(t, s.Sending.GiveUp(t.Context(), zeros.SendOuts[0]))
	s.idle()
	plan, err := s.Store.PlanLines(t.Context(), store.PlanPart{Plan: s.openPlan().ID}, store.Page{})
	require.NoError(t, err)
	assert.Equal(t, int64(many), plan.Total, "what was given up is planned again")
}

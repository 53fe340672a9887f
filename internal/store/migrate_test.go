package store_test

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"easymargin/internal/store"
)

// Data from before sites had lists of rules is brought up to date as it is opened.
func TestOlderDataIsBroughtUpToDate(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(dir)
	require.NoError(t, err)
	m := store.Marketplace{Name: "Quaymarket", Address: "http://gateway.example"}
	require.NoError(t, s.Create(t.Context(), &m))
	site := store.Site{MarketplaceID: m.ID, Code: "GB", Name: "Quaymarket GB", Currency: "GBP"}
	require.NoError(t, s.Create(t.Context(), &site))
	require.NoError(t, s.Create(t.Context(), &store.PriceRule{SiteID: site.ID, Name: "Everything", Wish: "{}"}))
	require.NoError(t, s.Create(t.Context(), &store.FeeSchedule{SiteID: site.ID, StartsOn: "2025-01-01", Fees: "[]"}))
	require.NoError(t, s.Close())

	db, err := gorm.Open(sqlite.Open(filepath.Join(dir, "easymargin.db")))
	require.NoError(t, err)
	for _, q := range []string{
		"DELETE FROM migrations WHERE id = '0003-prices'", "DROP TABLE settings",
		"ALTER TABLE sites DROP COLUMN lists", "ALTER TABLE sites DROP COLUMN kind", "ALTER TABLE sites DROP COLUMN handling", "ALTER TABLE sites DROP COLUMN cushion", "ALTER TABLE sites DROP COLUMN allowances",
		"ALTER TABLE fee_schedules DROP COLUMN warehouse", "ALTER TABLE fee_schedules DROP COLUMN by_hand", "ALTER TABLE price_rules DROP COLUMN fits",
		"ALTER TABLE listings DROP COLUMN own_rule", "ALTER TABLE listings DROP COLUMN fixed_price", "ALTER TABLE listings DROP COLUMN former", "ALTER TABLE listings DROP COLUMN warehouse",
		"ALTER TABLE entries DROP COLUMN offers", "ALTER TABLE entries DROP COLUMN offers_at", "ALTER TABLE sources DROP COLUMN duty", "ALTER TABLE exchange_rates DROP COLUMN way",
	} {
		require.NoError(t, db.Exec(q).Error, q)
	}
	pool, err := db.DB()
	require.NoError(t, err)
	require.NoError(t, pool.Close())

	s, err = store.Open(dir)
	require.NoError(t, err)
	defer s.Close()
	got, err := s.SiteOf(t.Context(), site.ID)
	require.NoError(t, err)
	assert.True(t, got.Lists, "where we sold before, we still do")
	assert.Equal(t, "catalogue", got.Kind)
	rules, err := s.Rules(t.Context(), site.ID)
	require.NoError(t, err)
	require.Len(t, rules, 1)
	assert.Equal(t, "Everything", rules[0].Name)
	require.NoError(t, s.Do(t.Context(), func(tx store.Tx) error { return tx.PutFees(site.ID, nil, nil) }))
	fees, err := s.FeesOf(t.Context(), site.ID)
	require.NoError(t, err)
	assert.Empty(t, fees, "the gateway's schedules of before are the gateway's")
}

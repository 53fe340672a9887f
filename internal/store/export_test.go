package store

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
)

// DB is where tests read what the store has no question for.
func (s *Store) DB() *gorm.DB { return s.read }

// Limit leaves the data no room to grow, as a full disk would.
func (s *Store) Limit(t *testing.T) {
	var pages int64
	require.NoError(t, s.write.Raw("PRAGMA page_count").Scan(&pages).Error)
	require.NoError(t, s.write.Raw(fmt.Sprintf("PRAGMA max_page_count = %d", pages+2)).Scan(&pages).Error)
}

package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhoWritesLongSeesThatOthersWait(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	other := make(chan error, 1)
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		assert.False(t, tx.Awaited())
		changed, err := s.ChangedElsewhere(t.Context())
		assert.NoError(t, err)
		assert.False(t, changed)
		assert.False(t, tx.Awaited(), "who asks whether another program wrote keeps nobody waiting")
		go func() {
			other <- s.Do(t.Context(), func(tx Tx) error { return tx.Create(&Supplier{Name: "Fernhollow Wholesale"}) })
		}()
		assert.Eventually(t, tx.Awaited, 10*time.Second, time.Millisecond)
		return nil
	}))
	require.NoError(t, <-other)
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		assert.False(t, tx.Awaited(), "those who waited before have had their turn")
		return nil
	}))
}

func TestBesideATransactionTheDataIsAsBefore(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		if err := tx.Create(&Supplier{Name: "Fernhollow Wholesale"}); err != nil {
			return err
		}
		return tx.Beside(func(before Tx) error {
			_, err := GetTx[Supplier](before, 1)
			assert.ErrorIs(t, err, ErrMissing)
			assert.Error(t, before.Create(&Supplier{Name: "Brackwater"}), "nothing is written beside it")
			return nil
		})
	}))
}

package house_test

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/place/gateway"
	"easymargin/internal/store"
)

// other is another program on the data of a stall.
func (s *stall) other() *house.House {
	data, err := store.Open(filepath.Dir(s.Store.File()))
	require.NoError(s.t, err)
	s.t.Cleanup(func() { _ = data.Close() })
	return house.New(house.Options{Store: data, Now: s.clock.Now, Gateway: gateway.Options{First: time.Millisecond}, Poll: time.Millisecond})
}

func TestAPlanForScriptsBesideAServerAndWithoutOne(t *testing.T) {
	s := newStall(t, 4)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.deliver(always(440), func(i int) int64 { return []int64{0, 9, 9, 9}[i] })
	script := s.other()
	got, err := script.Plan(t.Context())
	require.NoError(t, err)
	got.Seconds = 0
	assert.Equal(t, house.Planned{Lines: 4, Go: 4, ToZero: 1, PriceUp: 3}, got)
	require.NoError(t, script.SendPlans(t.Context(), &got, 20*time.Second), "the server hands it over")
	assert.Equal(t, []int64{4, 4, 0, 0}, []int64{*got.Sent, *got.Confirmed, *got.Refused, *got.Open})

	s.deliver(always(450), always(9))
	s.Close()
	require.NoError(t, s.Store.Close())
	script = s.other()
	got, err = script.Plan(t.Context())
	require.NoError(t, err)
	require.NoError(t, script.SendPlans(t.Context(), &got, 20*time.Second), "nobody serves the data: it hands it over itself")
	assert.Equal(t, got.Go, *got.Confirmed)
	assert.NotZero(t, *got.Confirmed)
	sound(t, script.Store)
}

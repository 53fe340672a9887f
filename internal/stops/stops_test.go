package stops_test

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"easymargin/internal/stops"
)

func TestAPaceByAClockThatMayBeSetBack(t *testing.T) {
	var p stops.Pace
	noon := time.Date(2026, 3, 3, 12, 0, 0, 0, time.UTC)
	assert.True(t, p.Last().IsZero())
	for _, c := range []struct {
		at  time.Duration
		due bool
	}{{0, true}, {59 * time.Second, false}, {time.Minute, true}, {61 * time.Second, false}, {-time.Hour, true}, {-time.Hour + time.Second, false}} {
		assert.Equal(t, c.due, p.After(time.Minute, noon.Add(c.at)), c.at)
	}
	assert.Equal(t, noon.Add(-time.Hour), p.Last())
}

func TestTheFirstOfSomeErrors(t *testing.T) {
	one, two := errors.New("one"), errors.New("two")
	assert.NoError(t, stops.First(nil, nil))
	assert.Equal(t, one, stops.First(nil, one, two))
}

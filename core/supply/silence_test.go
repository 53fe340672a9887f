package supply_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/supply"
)

// The table of docs/definitions/supply.md, "Silence".
func TestSilenceFollowsHowFeedsCome(t *testing.T) {
	const hour, day = time.Hour, 24 * time.Hour
	for name, c := range map[string]struct {
		coming        supply.Coming
		said, unknown time.Duration
	}{
		"two days, set":                {supply.Coming{Set: 48 * hour, Every: time.Minute}, day, 2 * day},
		"five hours, set":              {supply.Coming{Set: 5 * hour}, 150 * time.Minute, 5 * hour},
		"fetched each quarter hour":    {supply.Coming{Every: 15 * time.Minute, Rhythm: time.Hour}, 30 * time.Minute, day + 30*time.Minute},
		"fetched each day":             {supply.Coming{Every: day}, 2 * day, 3 * day},
		"a list each Monday":           {supply.Coming{Rhythm: 7 * day}, 20 * day, 21 * day},
		"a list each morning":          {supply.Coming{Rhythm: day}, 2 * day, 3 * day},
		"several a day":                {supply.Coming{Rhythm: 2 * hour}, day, 2 * day},
		"too few came to tell":         {supply.Coming{}, 8 * day, 9 * day},
		"typed in, whatever else says": {supply.Coming{Typed: true, Set: hour, Every: hour}, supply.Never, supply.Never},
	} {
		said, unknown := c.coming.Silence()
		assert.Equal(t, c.said, said, name)
		assert.Equal(t, c.unknown, unknown, name)
	}
	assert.Equal(t, "48 hours", supply.Span(48*hour))
	assert.Equal(t, "9 days", supply.Span(9*day+time.Hour))
}

// Nothing goes off sale for silence that wasn't said a day before, but where a person set less.
func TestSilenceIsSaidFirst(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := supply.Coming{
			Every:  time.Duration(rapid.Int64Range(0, 10000).Draw(t, "every")) * time.Minute,
			Rhythm: time.Duration(rapid.Int64Range(0, 10_000_000).Draw(t, "rhythm")) * time.Second,
		}
		said, unknown := c.Silence()
		assert.GreaterOrEqual(t, unknown-said, 24*time.Hour)
		c.Set = time.Duration(rapid.Int64Range(1, 24*365).Draw(t, "set")) * time.Hour
		said, unknown = c.Silence()
		assert.Equal(t, c.Set, unknown)
		assert.Less(t, said, unknown)
	})
}

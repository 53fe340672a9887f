package supply_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/supply"
)

// The table of docs/definitions/supply.md, "Silence".
func TestSilenceFollowsHowFeedsCome(t *testing.T) {
	const minute, hour, day = 60, 3600, 24 * 3600
	for name, c := range map[string]struct {
		coming        supply.Coming
		said, unknown int64
	}{
		"two days, set":                {supply.Coming{Set: 48 * hour, Every: minute}, day, 2 * day},
		"five hours, set":              {supply.Coming{Set: 5 * hour}, 150 * minute, 5 * hour},
		"fetched each quarter hour":    {supply.Coming{Every: 15 * minute, Rhythm: hour}, 30 * minute, day + 30*minute},
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
	assert.Equal(t, "9 days", supply.Span(9*day+hour))
}

// Nothing goes off sale for silence that wasn't said a day before, but where a person set less.
func TestSilenceIsSaidFirst(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := supply.Coming{
			Every:  rapid.Int64Range(0, 1_000_000).Draw(t, "every"),
			Rhythm: rapid.Int64Range(0, 10_000_000).Draw(t, "rhythm"),
		}
		said, unknown := c.Silence()
		assert.GreaterOrEqual(t, unknown-said, int64(24*3600))
		c.Set = 3600 * rapid.Int64Range(1, 24*365).Draw(t, "set")
		said, unknown = c.Silence()
		assert.Equal(t, c.Set, unknown)
		assert.Less(t, said, unknown)
	})
}

package supply

import "fmt"

// Coming is how a source's feeds come: docs/definitions/supply.md, "Silence". Times are
// in seconds.
type Coming struct {
	Set    int64 // what a person set; 0: by how it comes
	Every  int64 // between two fetches of its address; 0: a person or a folder brings it
	Rhythm int64 // the usual time between two feeds; 0: too few came to tell
	Typed  bool  // its stock is typed in, and stays until somebody types it anew
}

const (
	hour = 3600
	day  = 24 * hour

	// Never is longer than any source is silent: some 292 years.
	Never = 9_223_372_036
	// Ahead is how long before its stock counts as unknown a source's silence is said.
	Ahead = day

	unknownRhythm = 9 * day // a weekly list that is two days late
	leastSilence  = 2 * day
)

// Silence says how many seconds after it was last heard a source's silence is said, and
// after how many its stock counts as unknown. The second is a day after the first, unless
// a person set less than two days.
func (c Coming) Silence() (said, unknown int64) {
	switch {
	case c.Typed:
		return Never, Never
	case c.Set > 0:
		return max(c.Set-Ahead, c.Set/2), c.Set
	case c.Every > 0:
		unknown = 2*c.Every + Ahead
	case c.Rhythm > 0:
		unknown = max(3*c.Rhythm, leastSilence)
	default:
		unknown = unknownRhythm
	}
	return unknown - Ahead, unknown
}

// Span says seconds in the words of people: hours up to two days, then days.
func Span(seconds int64) string {
	if seconds <= 2*day {
		return fmt.Sprintf("%d hours", seconds/hour)
	}
	return fmt.Sprintf("%d days", seconds/day)
}

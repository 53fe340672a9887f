package supply

import (
	"fmt"
	"time"
)

// Coming is how a source's feeds come: docs/definitions/supply.md, "Silence".
type Coming struct {
	Set    time.Duration // what a person set; 0: by how it comes
	Every  time.Duration // between two fetches of its address; 0: a person or a folder brings it
	Rhythm time.Duration // the usual time between two feeds; 0: too few came to tell
	Typed  bool          // its stock is typed in, and stays until somebody types it anew
}

const (
	// Never is longer than any source is silent.
	Never = time.Duration(1<<63 - 1)
	// Ahead is how long before its stock counts as unknown a source's silence is said.
	Ahead = 24 * time.Hour

	unknownRhythm = 9 * 24 * time.Hour // a weekly list that is two days late
	leastSilence  = 48 * time.Hour
)

// Silence says how long after its last feed a source's silence is said, and how long
// after it its stock counts as unknown. The second is never less than a day after the
// first, unless a person set less.
func (c Coming) Silence() (said, unknown time.Duration) {
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

// Span says a time in the words of people: hours up to two days, then days.
func Span(d time.Duration) string {
	if h := int64(d.Hours()); h <= 48 {
		return fmt.Sprintf("%d hours", h)
	}
	return fmt.Sprintf("%d days", int64(d.Hours()/24))
}

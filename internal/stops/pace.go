package stops

import (
	"sync"
	"time"
)

// Pace is when something was done last, for what is done every so often by the
// application's own clock. The zero value was never done.
type Pace struct {
	mu sync.Mutex
	at time.Time
}

// After tells whether so long has passed since the last time, and notes it then.
// A clock that was set back counts as passed.
func (p *Pace) After(pause time.Duration, now time.Time) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if passed := now.Sub(p.at); passed >= 0 && passed < pause {
		return false
	}
	p.at = now
	return true
}

// Last is when it was done last; the zero time where it never was.
func (p *Pace) Last() time.Time {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.at
}

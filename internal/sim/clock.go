// Package sim holds the stand-ins for the outside world: suppliers and
// marketplaces as small HTTP servers of their own, with a clock that can be
// moved. They know nothing of the application but the protocols it speaks.
package sim

import (
	"sync"
	"time"
)

// Clock is a time of its own that runs at a speed and can be moved forward.
type Clock struct {
	mu    sync.Mutex
	base  time.Time // demo time when last set
	since time.Time // real time then
	speed int64     // demo seconds per real second
}

// NewClock starts a clock at a demo time. At speed 0 it moves only when told to.
func NewClock(start time.Time, speed int64) *Clock {
	return &Clock{base: start, since: time.Now(), speed: speed}
}

// Now is the demo time.
func (c *Clock) Now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.now()
}

func (c *Clock) now() time.Time {
	return c.base.Add(time.Since(c.since) * time.Duration(c.speed)).UTC()
}

// Forward moves the clock on.
func (c *Clock) Forward(by time.Duration) time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.base, c.since = c.now().Add(max(by, 0)), time.Now()
	return c.base
}

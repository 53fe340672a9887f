package edge

import (
	"net/http"
	"strconv"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// Limit is how often something may be done: by each address, and by all together. The
// zero value lets nothing through.
type Limit struct {
	Each, All Rate
	Now       func() time.Time // nil: the real time

	mu   sync.Mutex
	all  *rate.Limiter
	each map[string]*rate.Limiter
}

// Rate is so many at once, and one more each time Every passed.
type Rate struct {
	Burst int
	Every time.Duration
}

func (r Rate) limiter() *rate.Limiter { return rate.NewLimiter(rate.Every(r.Every), r.Burst) }

// mostAddresses is how many addresses are told apart; with more, all are counted anew.
const mostAddresses = 10_000

// Wait is how long who asks must wait; 0: they needn't, and it is counted.
func (l *Limit) Wait(r *http.Request) time.Duration {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.Now == nil {
		l.Now = time.Now
	}
	if l.all == nil || len(l.each) > mostAddresses {
		l.each = map[string]*rate.Limiter{}
	}
	if l.all == nil {
		l.all = l.All.limiter()
	}
	from := Client(r)
	mine := l.each[from]
	if mine == nil {
		mine = l.Each.limiter()
		l.each[from] = mine
	}
	now := l.Now()
	took := mine.ReserveN(now, 1)
	if wait := took.DelayFrom(now); wait > 0 {
		took.CancelAt(now)
		return wait
	}
	both := l.all.ReserveN(now, 1)
	if wait := both.DelayFrom(now); wait > 0 {
		both.CancelAt(now)
		took.CancelAt(now)
		return wait
	}
	return 0
}

// RetryAfter says in a header how long who asks must wait, in whole seconds (RFC 9110,
// 10.2.3).
func RetryAfter(w http.ResponseWriter, wait time.Duration) {
	w.Header().Set("Retry-After", strconv.FormatInt(int64((wait+time.Second-1)/time.Second), 10))
}

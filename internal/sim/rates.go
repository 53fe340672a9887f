package sim

import (
	"fmt"
	"net/http"
	"strings"
)

// Rates serves exchange rates: what one of each currency is in the one asked
// for, at the clock's day. They wander a little from day to day.
type Rates struct {
	Clock *Clock
	// Millionths of one common unit that each currency is worth.
	Worth map[string]int64
}

// ServeHTTP answers ?to=GBP.
func (r *Rates) ServeHTTP(w http.ResponseWriter, q *http.Request) {
	to := strings.ToUpper(q.URL.Query().Get("to"))
	if r.Worth[to] == 0 {
		problem(w, http.StatusNotFound, "no rates into "+to)
		return
	}
	now := r.Clock.Now()
	worth := func(c string) int64 {
		v := r.Worth[c]
		return v + v*int64((now.YearDay()*7+len(c)*int(c[0]))%13-6)/4000
	}
	rates := map[string]string{}
	for from := range r.Worth {
		if from == to {
			continue
		}
		v := worth(from) * 1_000_000 / worth(to)
		rates[from] = fmt.Sprintf("%d.%06d", v/1_000_000, v%1_000_000)
	}
	answer(w, map[string]any{"to": to, "day": now.Format("2006-01-02"), "rates": rates})
}

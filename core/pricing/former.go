package pricing

import (
	"fmt"
	"time"

	"easymargin/core/money"
)

// FormerWithin is how lately a product must have been offered at a price for
// it to be shown crossed out as its former one. Several countries forbid else.
const FormerWithin = 30 * 24 * time.Hour

// Offered is a price that held from a moment on, minor units.
type Offered struct {
	From  time.Time
	Price int64
}

// Off is by how much a price is below a former one, in whole per cent and
// never rounded up. A former price that isn't above the price is an error.
func Off(price, former int64) (percent int64, err error) {
	if price < 1 || former <= price {
		return 0, fmt.Errorf("a former price must be above the price")
	}
	kept, ok := money.MulDivUp(price, 100, former)
	if !ok {
		return 0, money.ErrRange
	}
	return 100 - kept, nil
}

// WasOffered tells whether a product was offered at the former price or above
// within FormerWithin before now. History is in order of time.
func WasOffered(history []Offered, former int64, now time.Time) bool {
	since := now.Add(-FormerWithin)
	for i, h := range history {
		if i == len(history)-1 { // what is asked now is the price, not a former one
			break
		}
		if h.Price >= former && history[i+1].From.After(since) {
			return true
		}
	}
	return false
}

package pricing

import (
	"fmt"

	"easymargin/core/money"
)

// FormerWithin is how lately a product must have been offered at a price for
// it to be shown crossed out as its former one, in seconds. Several countries forbid else.
const FormerWithin = 30 * 24 * 60 * 60

// Offered is a price that held from a moment on.
type Offered struct {
	From  int64 // seconds since 1970, as all moments here
	Price int64 // minor units
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
func WasOffered(history []Offered, former, now int64) bool {
	since := now - FormerWithin
	for i, h := range history {
		if i == len(history)-1 { // what is asked now is the price, not a former one
			break
		}
		if h.Price >= former && history[i+1].From > since {
			return true
		}
	}
	return false
}

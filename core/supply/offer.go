package supply

import "math/bits"

// StockRule says how much of a stock to offer, section 6.
type StockRule struct {
	Buffer int64 `json:"buffer"`
	Least  int64 `json:"least"`
	Cap    int64 `json:"cap"`
}

// DefaultStockRule is section 6's.
var DefaultStockRule = StockRule{Buffer: 1, Least: 1, Cap: 10}

// Offer is how many to offer of a listing that needs unitsListed single units
// where the supplier's item holds unitsBought. Gone and stale products are
// told by the caller as StockUnknown.
func (r StockRule) Offer(s Stock, unitsBought, unitsListed int64) int64 {
	left := r.Sellable(s, unitsBought, unitsListed) - r.Buffer
	if left < max(r.Least, 1) {
		return 0
	}
	return min(r.Cap, left)
}

// Sellable is how many listed units the supplier has: floor(stock × bought / listed).
func (r StockRule) Sellable(s Stock, unitsBought, unitsListed int64) int64 {
	if !s.Some() {
		return 0
	}
	hi, lo := bits.Mul64(uint64(s.Count), uint64(max(unitsBought, 1)))
	d := uint64(max(unitsListed, 1))
	if hi >= d {
		return 1<<63 - 1
	}
	q, _ := bits.Div64(hi, lo, d)
	return int64(min(q, 1<<63-1))
}

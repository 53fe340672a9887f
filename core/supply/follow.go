package supply

import (
	"math/bits"

	"easymargin/core/money"
)

// Rule says how much of what suppliers have is offered, and from whom it is
// bought: docs/definitions/following.md. The zero value is not useful; start from
// DefaultRule.
type Rule struct {
	Buffer   int64      // kept back, in listed units
	Least    int64      // less than so many is offered as none
	Cap      int64      // the most that is offered
	Patience int64      // accepted feeds that must all allow it before something is offered again
	Unknown  int64      // what an unknown stock counts as
	Saving   money.Rate // of the present supplier's landed cost, above which another takes its place
}

// DefaultRule is following.md's.
var DefaultRule = Rule{Buffer: 1, Least: 1, Cap: 10, Patience: 1, Saving: 2 * money.One / 100}

// Report is what one accepted feed said of an item.
type Report struct {
	At     int64 // when it was taken, Unix seconds
	Stock  Stock
	Absent bool // it didn't list the item
}

// Link is one way to have what is listed.
type Link struct {
	Present     bool
	Update      bool // the source is an update: what its feeds leave out stays as it was
	UnitsBought int64
	UnitsListed int64
	Landed      int64    // of one listed unit, in the listing's currency
	Unpriced    bool     // the landed cost can't be told: it is chosen only where nothing else is
	StaleAfter  int64    // seconds without a feed, above which nothing of it counts
	Reports     []Report // of accepted feeds, oldest first
}

// Why says why so much is offered, in following.md's words.
type Why string

// The reasons, in the order they are tried.
const (
	WhyEnded    Why = "ended"
	WhyGone     Why = "gone"
	WhyStale    Why = "stale"
	WhyUnknown  Why = "unknown"
	WhyNoneLeft Why = "none left"
	WhyTooFew   Why = "too few"
	WhyInStock  Why = "in stock"
	WhyWaiting  Why = "waiting"
)

// Gives is what a link can give.
type Gives struct {
	Offer    int64
	Sellable int64 // listed units the supplier has, before the buffer
	Why      Why
}

// Gives says what a link can give now, where so many were confirmed last.
func (r Rule) Gives(l *Link, now, confirmed int64) Gives {
	g := r.fresh(l, l.Reports, len(l.Reports) == 0 || now-l.Reports[len(l.Reports)-1].At > l.StaleAfter)
	if confirmed > 0 || g.Offer == 0 {
		return g // falling is never delayed
	}
	for k := int64(1); k < r.Patience && int(k) < len(l.Reports); k++ {
		if r.fresh(l, l.Reports[:len(l.Reports)-int(k)], false).Offer == 0 {
			return Gives{0, g.Sellable, WhyWaiting}
		}
	}
	return g
}

// fresh is what a link gives whose reports end here.
func (r Rule) fresh(l *Link, reports []Report, stale bool) Gives {
	var said *Report
	gone := false
	for i := len(reports) - 1; i >= 0 && said == nil; i-- {
		switch {
		case !reports[i].Absent:
			said = &reports[i]
		case !l.Update:
			said, gone = &reports[i], true
		}
	}
	stock := Stock{State: StockUnknown}
	if said != nil && !gone {
		stock = said.Stock
	}
	switch {
	case stock.State == StockEnded:
		return Gives{0, 0, WhyEnded}
	case gone:
		return Gives{0, 0, WhyGone}
	case stale:
		return Gives{0, 0, WhyStale}
	}
	why := WhyInStock
	if stock.State != StockKnown {
		stock, why = Stock{State: StockKnown, Count: r.Unknown}, WhyUnknown
	}
	g := Gives{Sellable: Sellable(stock.Count, l.UnitsBought, l.UnitsListed), Why: why}
	left := g.Sellable - r.Buffer
	if left >= max(r.Least, 1) {
		g.Offer = min(r.Cap, left)
		return g
	}
	switch {
	case why == WhyUnknown:
	case stock.Count == 0:
		g.Why = WhyNoneLeft
	default:
		g.Why = WhyTooFew
	}
	return g
}

// Sellable is how many listed units so many items make: floor(stock × bought / listed).
func Sellable(stock, bought, listed int64) int64 {
	if stock <= 0 {
		return 0
	}
	hi, lo := bits.Mul64(uint64(stock), uint64(max(bought, 1)))
	d := uint64(max(listed, 1))
	if hi >= d {
		return 1<<63 - 1
	}
	q, _ := bits.Div64(hi, lo, d)
	return int64(min(q, 1<<63-1))
}

// Choose says from which link a listing is had, and what it gives: following.md,
// "From whom". There is at least one link.
func (r Rule) Choose(links []Link, now, confirmed int64) (int, Gives) {
	gives := make([]Gives, len(links))
	present, best := -1, -1
	for i := range links {
		gives[i] = r.Gives(&links[i], now, confirmed)
		if links[i].Present {
			present = i
		}
		if gives[i].Offer > 0 && !links[i].Unpriced && (best < 0 || links[i].Landed < links[best].Landed) {
			best = i
		}
	}
	at := max(present, 0)
	switch {
	case best < 0: // none gives anything
	case present < 0 || gives[present].Offer == 0 || links[present].Unpriced:
		at = best
	case r.saves(links[present].Landed, links[best].Landed):
		at = best
	}
	return at, gives[at]
}

// saves tells whether the other costs less by more than Saving of the present.
func (r Rule) saves(present, other int64) bool {
	return other < present && money.Compare(present-other, present, r.Saving) > 0
}

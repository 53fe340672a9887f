// Package plan compares what should be true of a listing with what the
// marketplace last confirmed, and says what to change and whether it may go
// without a person. It follows docs/definitions/following.md, "What to change".
package plan

import "easymargin/core/money"

// Verdict says whether a line may go.
type Verdict string

// The verdicts.
const (
	Go      Verdict = "go"
	Held    Verdict = "held"    // a person must look
	Blocked Verdict = "blocked" // it can't be done
)

// Kind groups lines by consequence.
type Kind string

// The consequences.
const (
	ToZero   Kind = "zero"     // stock to nothing
	Rest     Kind = "rest"     // off sale, because a held price would lose money
	NoPrice  Kind = "no price" // no price is left that may be asked: stock to nothing
	PriceUp  Kind = "up"
	PriceDn  Kind = "down"
	Quantity Kind = "quantity" // another quantity above nothing
)

// Why is what a line is held or blocked for.
type Why string

// The reasons, in the order they are tried.
const (
	Broken     Why = "broken" // nothing can be worked out, such as without an exchange rate
	ByHand     Why = "by hand"
	CostMoved  Why = "cost moved"
	PriceMoved Why = "price moved"
	MovedOften Why = "moved often"
	Loss       Why = "loss"
)

// Guards say what may go by itself. The zero value is not useful; start from
// DefaultGuards.
type Guards struct {
	Small       money.Rate `json:"small"`         // a smaller move that meets every keep is left alone
	CostMoved   money.Rate `json:"cost_moved"`    // the landed cost moved by more
	PriceMoved  money.Rate `json:"price_moved"`   // the price would move by more
	MovesPerDay int64      `json:"moves_per_day"` // so many moves in 24 hours are enough
	RivalMoves  int64      `json:"rival_moves"`   // and so many after rivals; then it waits until the day has passed
	Loss        bool       `json:"loss"`          // a price may lose money
	Rest        bool       `json:"rest"`          // a listing that loses money goes off sale while its price is held
}

// DefaultGuards are following.md's.
var DefaultGuards = Guards{
	Small:       money.One / 200,
	CostMoved:   30 * money.One / 100,
	PriceMoved:  money.One / 4,
	MovesPerDay: 2,
	RivalMoves:  6,
	Rest:        true,
}

// Listing is what was confirmed last. Amounts are minor units of its currency.
type Listing struct {
	Price    int64
	Quantity int64
	Landed   int64 // that the price was worked out from
	Fixed    bool  // a person fixed the price by hand
	Moves    int64 // confirmed changes of the price in the last 24 hours
}

// Wanted is what should be true.
type Wanted struct {
	Offer     int64
	Broken    bool // the price can't be told
	Found     bool // a price that may be asked exists
	Price     int64
	Landed    int64 // of the chosen supplier
	Profit    int64 // at the price wanted
	ProfitNow int64 // at the confirmed price, at today's cost
	ByRival   bool  // a rival set the price
	KeepsMet  bool  // of the confirmed price, at today's cost
}

// Pair is a value before and after.
type Pair struct{ From, To int64 }

// Line is one change to one listing.
type Line struct {
	Kind     Kind
	Price    *Pair // nil where the price stays
	Quantity *Pair // nil where the quantity stays
	Verdict  Verdict
	Why      Why // of a verdict other than go
}

// WorkOut lists the changes a listing needs, in the order they go. A quantity
// that falls goes by itself, so that a held price never leaves stock on sale
// that can't be had; one that rises waits for its price.
func (g Guards) WorkOut(l Listing, w Wanted) []Line {
	switch {
	case w.Offer == 0:
		return l.off(ToZero)
	case w.Broken:
		return l.fallOnly(w.Offer)
	case !w.Found:
		return l.off(NoPrice)
	}
	var out []Line
	moves := g.moves(l, w)
	quantity := Pair{l.Quantity, w.Offer}
	if w.Offer < l.Quantity || w.Offer > l.Quantity && !moves {
		out = append(out, Line{Kind: Quantity, Quantity: &quantity, Verdict: Go})
	}
	if !moves {
		return out
	}
	price := Line{Kind: PriceUp, Price: &Pair{l.Price, w.Price}, Verdict: Go}
	if w.Price < l.Price {
		price.Kind = PriceDn
	}
	if w.Offer > l.Quantity {
		price.Quantity = &quantity
	}
	if price.Why = g.hold(l, w); price.Why == "" {
		return append(out, price)
	}
	price.Verdict = Held
	if g.Rest && !g.Loss && w.ProfitNow < 0 && l.Quantity > 0 {
		out, price.Quantity = l.off(Rest), &Pair{0, w.Offer}
	}
	return append(out, price)
}

// off takes a listing off sale, if it is on.
func (l *Listing) off(kind Kind) []Line {
	if l.Quantity == 0 {
		return nil
	}
	return []Line{{Kind: kind, Quantity: &Pair{l.Quantity, 0}, Verdict: Go}}
}

// fallOnly is for a listing whose price can't be worked out: that is for a
// person to mend, but what the supplier no longer has goes off sale all the same.
func (l *Listing) fallOnly(offer int64) []Line {
	var out []Line
	if offer < l.Quantity {
		out = append(out, Line{Kind: Quantity, Quantity: &Pair{l.Quantity, offer}, Verdict: Go})
	}
	if l.Quantity > 0 {
		out = append(out, Line{Kind: NoPrice, Verdict: Blocked, Why: Broken})
	}
	return out
}

// moves tells whether the price is to move at all.
func (g Guards) moves(l Listing, w Wanted) bool {
	d := distance(w.Price, l.Price)
	if d == 0 {
		return false
	}
	small := money.Compare(d, l.Price, g.Small) < 0
	often := w.ByRival && l.Moves >= g.RivalMoves
	return !w.KeepsMet || !small && !often
}

// hold is the first reason for which a move waits for a person; "" where it goes.
func (g Guards) hold(l Listing, w Wanted) Why {
	urgent := w.Price > l.Price && !w.KeepsMet // waiting would cost more than moving
	switch {
	case l.Fixed:
		return ByHand
	case money.Compare(distance(w.Landed, l.Landed), l.Landed, g.CostMoved) > 0:
		return CostMoved
	case !urgent && money.Compare(distance(w.Price, l.Price), l.Price, g.PriceMoved) > 0:
		return PriceMoved
	case !urgent && !w.ByRival && l.Moves >= g.MovesPerDay:
		return MovedOften
	case w.Profit < 0 && !g.Loss:
		return Loss
	}
	return ""
}

func distance(a, b int64) int64 {
	if a < b {
		return b - a
	}
	return a - b
}

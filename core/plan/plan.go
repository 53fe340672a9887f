// Package plan compares what should be true of a live listing with what the
// marketplace last confirmed, and says what to change, why, and whether it may
// go without a person. It follows design/supply.md, section 7.
package plan

import (
	"fmt"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// Verdict says whether a line may go.
type Verdict string

// The verdicts of section 7.
const (
	Go      Verdict = "go"
	Held    Verdict = "held"
	Blocked Verdict = "blocked"
)

// Kind groups lines by consequence.
type Kind string

// The consequences, in the order they go out.
const (
	ToZero   Kind = "zero"     // stock to nothing
	NoPrice  Kind = "no price" // no price is left that may be asked: stock to nothing
	PriceUp  Kind = "up"
	PriceDn  Kind = "down"
	Quantity Kind = "quantity" // another quantity above nothing
)

// Guards hold a line for a person, section 7. Shares are in percent.
type Guards struct {
	CostMoved   int64 `json:"cost_moved"`
	PriceMoved  int64 `json:"price_moved"`
	MovesPerDay int64 `json:"moves_per_day"`
	LossAllowed bool  `json:"loss_allowed"`
}

// DefaultGuards are section 7's.
var DefaultGuards = Guards{CostMoved: 30, PriceMoved: 25, MovesPerDay: 2}

// Listing is one live listing: what was confirmed, what should be, and what the
// reasons are made of. Prices and profits are minor units of Currency.
type Listing struct {
	Currency          money.Currency
	ConfirmedPrice    int64
	ConfirmedQuantity int64
	Choice            pricing.Choice
	PriceWhy          string // why no price, or what bound it
	Broken            string // why nothing can be worked out, such as a missing exchange rate
	Quantity          int64
	QuantityWhy       string // such as "none left at Fernhollow"
	KeepsMet          bool   // at the confirmed price, at today's cost
	FixedByHand       bool
	ProfitWas         *int64 // at the confirmed price, at today's cost
	ProfitNew         *int64 // at the new price
	CostWas, CostNow  money.Amount
	Feed              string // such as "feed of 09:15"
	MovesToday        int64
}

// Line is one change to one listing.
type Line struct {
	Kind               Kind
	FromPrice, ToPrice *int64 // nil where the price stays
	FromQty, ToQty     *int64 // nil where the quantity stays
	ProfitWas          *int64
	ProfitNew          *int64 // nil where nothing is offered after
	Reasons            []string
	Verdict            Verdict
	Why                string // of a verdict other than go
}

// WorkOut lists the changes a listing needs: at most one of quantity and one
// of price. A quantity that falls goes by itself, so that a held price never
// leaves stock on sale that can't be had; one that rises waits for its price.
func (g Guards) WorkOut(l Listing) []Line {
	reasons := l.costReason()
	if l.Broken != "" {
		return l.fallOnly(reasons)
	}
	want, kind, why := l.Quantity, ToZero, l.QuantityWhy
	if !l.Choice.Found {
		want, kind, why = 0, NoPrice, l.PriceWhy
	}
	if want == 0 {
		if l.ConfirmedQuantity == 0 {
			return nil
		}
		return []Line{{Kind: kind, FromQty: ptr(l.ConfirmedQuantity), ToQty: ptr(0), ProfitWas: l.ProfitWas,
			Reasons: append([]string{why}, reasons...), Verdict: Go}}
	}
	var out []Line
	qty := Line{Kind: Quantity, FromQty: ptr(l.ConfirmedQuantity), ToQty: ptr(want), ProfitWas: l.ProfitWas, ProfitNew: l.ProfitWas,
		Reasons: []string{why}, Verdict: Go}
	price := l.priceChanges()
	if want < l.ConfirmedQuantity || want > l.ConfirmedQuantity && !price {
		out = append(out, qty)
	}
	if !price {
		return out
	}
	line := Line{Kind: PriceUp, FromPrice: ptr(l.ConfirmedPrice), ToPrice: ptr(l.Choice.Price), ProfitWas: l.ProfitWas, ProfitNew: l.ProfitNew,
		Reasons: append(reasons, l.PriceWhy), Verdict: Go}
	if l.Choice.Price < l.ConfirmedPrice {
		line.Kind = PriceDn
	}
	if want > l.ConfirmedQuantity {
		line.FromQty, line.ToQty = qty.FromQty, qty.ToQty
		line.Reasons = append(line.Reasons, why)
	}
	if line.Why = g.hold(l); line.Why != "" {
		line.Verdict = Held
	}
	return append(out, line)
}

// fallOnly is for a listing whose price can't be worked out: that is for a
// person to mend, but what the supplier no longer has goes off sale all the same.
func (l *Listing) fallOnly(reasons []string) []Line {
	var out []Line
	if l.Quantity < l.ConfirmedQuantity {
		kind := Quantity
		if l.Quantity == 0 {
			kind = ToZero
		}
		out = append(out, Line{Kind: kind, FromQty: ptr(l.ConfirmedQuantity), ToQty: ptr(l.Quantity), ProfitWas: l.ProfitWas,
			Reasons: append([]string{l.QuantityWhy}, reasons...), Verdict: Go})
	}
	if l.ConfirmedQuantity > 0 && l.Quantity > 0 {
		out = append(out, Line{Kind: NoPrice, Reasons: append(reasons, l.Broken), Verdict: Blocked, Why: l.Broken, ProfitWas: l.ProfitWas})
	}
	return out
}

// priceChanges leaves a price alone that would move less than 0.5 % and still
// meets every keep.
func (l *Listing) priceChanges() bool {
	d := distance(l.Choice.Price, l.ConfirmedPrice)
	return d != 0 && !(l.KeepsMet && beyond(l.ConfirmedPrice, d, 5, 1000))
}

// beyond tells whether d is under num/den of v.
func beyond(v, d, num, den int64) bool {
	limit, ok := money.MulDivUp(v, num, den)
	return ok && d < limit
}

func (g Guards) hold(l Listing) string {
	cost := distance(l.CostNow.Minor, l.CostWas.Minor)
	price := distance(l.Choice.Price, l.ConfirmedPrice)
	switch {
	case l.FixedByHand:
		return "the price was fixed by hand"
	case l.CostWas.Minor > 0 && l.CostWas.Currency == l.CostNow.Currency && over(cost, l.CostWas.Minor, g.CostMoved):
		return fmt.Sprintf("cost moved %s, more than %d %%", percent(cost, l.CostWas.Minor), g.CostMoved)
	case over(price, l.ConfirmedPrice, g.PriceMoved):
		return fmt.Sprintf("price would move %s, more than %d %%", percent(price, l.ConfirmedPrice), g.PriceMoved)
	case l.MovesToday >= g.MovesPerDay:
		return fmt.Sprintf("price moved %d times already in 24 hours", l.MovesToday)
	case !g.LossAllowed && l.ProfitNew != nil && *l.ProfitNew < 0:
		return "the new price loses money on every sale"
	}
	return ""
}

func over(d, of, limit int64) bool {
	share, ok := money.MulDivUp(d, 100, of)
	return of > 0 && (!ok || share > limit)
}

func percent(d, of int64) string {
	v, _ := money.MulDivUp(d, 100, of)
	return fmt.Sprintf("%d %%", v)
}

func (l *Listing) costReason() []string {
	if l.CostWas == l.CostNow || l.CostWas.Currency == "" {
		return nil
	}
	words := fmt.Sprintf("cost %s → %s %s", l.CostWas, l.CostNow, l.CostNow.Currency)
	if l.Feed != "" {
		words += ", " + l.Feed
	}
	return []string{words}
}

func distance(a, b int64) int64 {
	if a < b {
		return b - a
	}
	return a - b
}

func ptr(v int64) *int64 { return &v }

package pricing

import (
	"errors"
	"fmt"
	"math"
)

// ChargedBand is what the buyer pays for delivery from a price on, minor units.
// It follows docs/definitions/money.md, "Delivery that follows the price".
type ChargedBand struct {
	From   int64 `json:"from"` // the item price, this one in it
	Amount int64 `json:"amount"`
}

// CheckCharged says what can't be right of delivery that follows the price. The
// error names the field.
func CheckCharged(bands []ChargedBand) error {
	if len(bands) == 0 {
		return errors.New("delivery_charged: needs at least one band")
	}
	for i, b := range bands {
		switch {
		case i == 0 && b.From != 0:
			return errors.New("delivery_charged[0].from: must be 0")
		case i > 0 && b.From <= bands[i-1].From:
			return fmt.Errorf("delivery_charged[%d].from: must be above the one before", i)
		case b.Amount < 0:
			return fmt.Errorf("delivery_charged[%d].amount: must not be below 0", i)
		}
	}
	return nil
}

func (t *Terms) setCharged(s Spec) error {
	t.charged = []ChargedBand{{}}
	if s.Delivery != nil {
		if *s.Delivery < 0 {
			return errors.New("delivery_charged: must not be below 0")
		}
		t.hasDel, t.charged[0].Amount = true, *s.Delivery
	}
	if s.Charged == nil {
		return nil
	}
	if s.Delivery != nil {
		return errors.New("delivery_charged: is one amount or bands, not both")
	}
	t.hasDel, t.byPrice, t.charged = true, true, s.Charged
	return CheckCharged(s.Charged)
}

// Charged is what the buyer pays for delivery at item price p, minor units.
func (t *Terms) Charged(p int64) int64 {
	i := len(t.charged) - 1
	for i > 0 && t.charged[i].From > p {
		i--
	}
	return t.charged[i].Amount
}

// chargedSpan is the first and the last price, up to the limit, of a band of
// delivery charged; the last is below the first where the limit comes before.
func (t *Terms) chargedSpan(i int) (from, to int64) {
	to = t.limit
	if i+1 < len(t.charged) {
		to = min(to, t.charged[i+1].From-1)
	}
	return max(t.charged[i].From, 1), to
}

// Under is the item price that asks the buyer for at most so much in all: the
// greatest up to the limit, or 1 where there is none. Where delivery doesn't
// follow the price, the limit isn't looked at here.
func (t *Terms) Under(total int64) int64 {
	if !t.byPrice {
		return max(total-t.charged[0].Amount, 1)
	}
	for i := len(t.charged) - 1; i >= 0; i-- {
		from, to := t.chargedSpan(i)
		if left := total - t.charged[i].Amount; total >= math.MinInt64+t.charged[i].Amount && min(left, to) >= from {
			return min(left, to)
		}
	}
	return 1
}

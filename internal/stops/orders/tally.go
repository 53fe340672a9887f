package orders

import (
	"encoding/json"
	"fmt"

	"easymargin/core/money"
	"easymargin/core/tally"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// comesTo is what a line comes to, as docs/orders.md, "What an order comes to", says.
// Tax that its place told stands as it was told, less its part of what was given back.
func comesTo(l *store.OrderLine) tally.Sum {
	s := tally.Sum{Goods: l.Price * l.Quantity, Delivery: l.Delivery}
	s.Paid = s.Goods + s.Delivery
	s.GivenBack = min(l.Refunded, s.Paid)
	s.Kept = s.Paid - s.GivenBack
	switch {
	case l.Tax != nil && s.Paid > 0:
		s.Tax, _ = money.MulDiv(*l.Tax, s.Kept, s.Paid) // never more than was told
	case l.Tax == nil && l.TaxIncluded:
		s.Tax = tally.TaxIn(s.Kept, money.Rate(l.TaxRate))
	}
	s.Net = s.Kept - s.Tax
	return s
}

// goodsLeft and deliveryLeft are what can still be given back of a line.
func goodsLeft(l *store.OrderLine) int64 {
	return max(l.Price*l.Quantity-(l.Refunded-l.RefundedDelivery), 0)
}

func deliveryLeft(l *store.OrderLine) int64 { return max(l.Delivery-l.RefundedDelivery, 0) }

// expectedOf are the lines that were expected of a line of an order; none where
// nothing was.
func expectedOf(l *store.OrderLine) (lines []reckon.PriceLine, err error) {
	if l.Expected != "" {
		err = json.Unmarshal([]byte(l.Expected), &lines)
	}
	return lines, err
}

// refundedThere takes up what a place says was given back of a line in all. What is
// more than was paid for the goods is of their delivery; what is more than was paid
// in all can't be, and is kept as what is wrong.
func refundedThere(l *store.OrderLine, x *line, c money.Currency) {
	paid := l.Price*l.Quantity + l.Delivery
	if x.Refunded > paid {
		l.Problem = fmt.Sprintf("its place says that %s was given back, more than the %s that was paid", money.Of(x.Refunded, c), money.Of(paid, c))
	}
	l.Refunded = min(x.Refunded, paid)
	l.RefundedDelivery = max(l.RefundedDelivery, l.Refunded-l.Price*l.Quantity)
}

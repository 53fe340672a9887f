package reckon

import (
	"easymargin/core/money"
	"easymargin/core/pricing"
)

// PriceLine is one line of a price as it is kept with what was handed over or sold.
type PriceLine struct {
	Kind   string `json:"kind"`
	Name   string `json:"name"`
	Amount int64  `json:"amount"`
}

// Lines are the lines of a price, which add up to the profit, at a landed cost; nil:
// as it is now. False where they can't be worked out.
func (b *Book) Lines(f *Figures, price int64, landed *int64) (lines []PriceLine, profit int64, ok bool) {
	if f.Broken != "" {
		return nil, 0, false
	}
	spend := f.Spend
	if landed != nil {
		spend.Landed = *landed
	}
	q, err := f.Terms.Quote(nil, spend, money.Of(price, b.Currency))
	if err != nil {
		return nil, 0, false
	}
	for _, x := range q.Lines {
		lines = append(lines, PriceLine{string(x.Kind), x.Name, x.Amount})
	}
	return lines, q.Profit, true
}

// Kinds of a line that what really happened may change.
const (
	KindCost     = string(pricing.LineCost)
	KindOutbound = string(pricing.LineOutbound)
	KindFee      = string(pricing.LineFee)
	KindFeeTax   = string(pricing.LineFeeTax)
	KindTax      = string(pricing.LineTax)
	KindPrice    = string(pricing.LinePrice)
	KindDelivery = string(pricing.LineDelivery)
)

package tally_test

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/tally"
)

// Whatever is ordered and given back: parts add up to their wholes, no line's tax
// is off by more than half a unit of what its rate gives, and no line falls under 0.
func TestPartsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		o := tally.Order{TaxIncluded: rapid.Bool().Draw(t, "included"), Delivery: rapid.Int64Range(0, 9999).Draw(t, "delivery")}
		for range rapid.IntRange(1, 9).Draw(t, "lines") {
			o.Lines = append(o.Lines, tally.Line{
				Units: rapid.Int64Range(1, 20).Draw(t, "units"),
				Price: rapid.Int64Range(0, 30000).Draw(t, "price"),
				Rate:  money.Rate(rapid.Int64Range(0, 3000).Draw(t, "rate") * 100),
			})
		}
		plain, err := tally.Of(&o)
		require.NoError(t, err)
		if o.TaxIncluded {
			assert.Equal(t, o.Delivery, plain.Total.Delivery)
		}
		deliveryLeft := plain.Total.Delivery
		for range rapid.IntRange(0, 4).Draw(t, "refunds") {
			r := tally.Refund{Delivery: rapid.Bool().Draw(t, "of delivery"), Line: rapid.IntRange(0, len(o.Lines)-1).Draw(t, "line")}
			most := deliveryLeft
			if !r.Delivery {
				most = plain.Lines[r.Line].Goods
				for _, before := range o.Refunds {
					if !before.Delivery && before.Line == r.Line {
						most -= before.Amount
					}
				}
			}
			r.Amount = rapid.Int64Range(0, most).Draw(t, "amount")
			if r.Delivery {
				deliveryLeft -= r.Amount
			}
			o.Refunds = append(o.Refunds, r)
			over := o
			over.Refunds = append(over.Refunds[:len(over.Refunds):len(over.Refunds)], tally.Refund{Delivery: r.Delivery, Line: r.Line, Amount: most - r.Amount + 1})
			_, err := tally.Of(&over)
			require.Error(t, err, "a unit more than is left is given back")
		}
		got, err := tally.Of(&o)
		require.NoError(t, err)
		var all, rates tally.Sum
		for i, l := range got.Lines {
			assert.Equal(t, l.Goods+l.Delivery, l.Paid)
			assert.Equal(t, l.Paid-l.GivenBack, l.Kept)
			assert.Equal(t, l.Kept, l.Net+l.Tax)
			assert.GreaterOrEqual(t, l.Kept, int64(0))
			assert.GreaterOrEqual(t, l.GivenBack, int64(0))
			// 2·|tax·(1+r) − kept·r| ≤ 1+r, in millionths
			r := big.NewInt(int64(o.Lines[i].Rate))
			whole := new(big.Int).Add(r, big.NewInt(1_000_000))
			off := new(big.Int).Sub(new(big.Int).Mul(big.NewInt(l.Tax), whole), new(big.Int).Mul(big.NewInt(l.Kept), r))
			assert.LessOrEqual(t, new(big.Int).Mul(off.Abs(off), big.NewInt(2)).Cmp(whole), 0)
			all.Paid, all.GivenBack, all.Kept, all.Net, all.Tax = all.Paid+l.Paid, all.GivenBack+l.GivenBack, all.Kept+l.Kept, all.Net+l.Net, all.Tax+l.Tax
		}
		for i, r := range got.ByRate {
			rates.Kept, rates.Net, rates.Tax = rates.Kept+r.Gross, rates.Net+r.Net, rates.Tax+r.Tax
			assert.True(t, i == 0 || got.ByRate[i-1].Rate < r.Rate)
		}
		all.Goods, all.Delivery = got.Total.Goods, got.Total.Delivery
		assert.Equal(t, all, got.Total)
		assert.Equal(t, [3]int64{all.Kept, all.Net, all.Tax}, [3]int64{rates.Kept, rates.Net, rates.Tax})
	})
}

func TestShare(t *testing.T) {
	for _, c := range []struct {
		amount  int64
		weights []int64
		want    []int64
	}{
		{100, []int64{1, 1, 1}, []int64{34, 33, 33}},
		{2, []int64{1, 1, 1}, []int64{1, 1, 0}},
		{5, []int64{1, 0, 3}, []int64{1, 0, 4}}, // 1.25 and 3.75
		{7, []int64{0, 0}, []int64{0, 0}},
		{9223372036854775807, []int64{9223372036854775806, 1}, []int64{9223372036854775806, 1}},
	} {
		got, ok := tally.Share(c.amount, c.weights)
		assert.True(t, ok)
		assert.Equal(t, c.want, got)
	}
	_, ok := tally.Share(1, []int64{9223372036854775807, 1})
	assert.False(t, ok)
}

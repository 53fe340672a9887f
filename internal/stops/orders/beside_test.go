package orders

import (
	"math/big"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/internal/store"
)

// What really was takes the place of what was expected; of what was called off only
// what was spent remains, and no tax is owed on what was given back.
func TestBeside(t *testing.T) {
	const expected = `[{"kind":"price","name":"item price","amount":2000},{"kind":"delivery","name":"delivery charged","amount":300},
		{"kind":"tax","name":"tax","amount":-383},{"kind":"fee","name":"commission","amount":-200},{"kind":"fee tax","name":"tax on fees","amount":-40},
		{"kind":"cost","name":"landed cost","amount":-900},{"kind":"outbound","name":"delivery","amount":-285},{"kind":"allowance","name":"returns","amount":-46}]`
	day := time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC)
	n := func(v int64) *int64 { return &v }
	for name, c := range map[string]struct {
		line store.OrderLine
		real []int64 // price, delivery, tax, two of fees, cost, sending, set aside; given back and its tax where there are any
	}{
		"nothing is known yet":           {store.OrderLine{}, []int64{2000, 300, -383, -200, -40, -900, -285, -46}},
		"the supplier asked more":        {store.OrderLine{Cost: n(950)}, []int64{2000, 300, -383, -200, -40, -950, -285, -46}},
		"fees are told as one":           {store.OrderLine{Fees: n(251)}, []int64{2000, 300, -383, -251, 0, -900, -285, -46}},
		"tax and sending are told":       {store.OrderLine{Tax: n(400), Sending: n(310)}, []int64{2000, 300, -400, -200, -40, -900, -310, -46}},
		"called off at once":             {store.OrderLine{State: store.LineCancelled, Refunded: 2300, Cost: n(950)}, []int64{0, 0, 0, 0, 0, 0, 0, 0}},
		"called off after it was bought": {store.OrderLine{State: store.LineCancelled, BoughtAt: &day, Refunded: 2300, Cost: n(950)}, []int64{0, 0, 0, 0, 0, -950, 0, 0}},
		"called off on its way":          {store.OrderLine{State: store.LineCancelled, BoughtAt: &day, SentAt: &day}, []int64{0, 0, 0, 0, 0, -900, -285, 0}},
		"called off, and its fee kept":   {store.OrderLine{State: store.LineCancelled, BoughtAt: &day, Fees: n(30)}, []int64{0, 0, 0, -30, 0, -900, 0, 0}},
		"half was given back":            {store.OrderLine{Refunded: 1150}, []int64{2000, 300, -383, -200, -40, -900, -285, -46, -1150, 191}},
		"all was given back":             {store.OrderLine{State: store.LineReturned, Refunded: 2300}, []int64{2000, 300, -383, -200, -40, -900, -285, -46, -2300, 383}},
		"more than all was given back":   {store.OrderLine{Refunded: 9000}, []int64{2000, 300, -383, -200, -40, -900, -285, -46, -2300, 383}},
		"given back of another tax":      {store.OrderLine{Refunded: 1150, Tax: n(400)}, []int64{2000, 300, -400, -200, -40, -900, -285, -46, -1150, 200}},
		"a penny was given back":         {store.OrderLine{Refunded: 1}, []int64{2000, 300, -383, -200, -40, -900, -285, -46, -1}},
	} {
		l := c.line
		l.Expected, l.Price, l.Quantity, l.Delivery, l.TaxIncluded, l.TaxRate = expected, 1000, 2, 300, true, 200_000
		lines, err := beside(&l)
		require.NoError(t, err, name)
		real := []int64{}
		for _, b := range lines {
			real = append(real, b.Real)
		}
		assert.Equal(t, c.real, real, name)
	}

	// Delivery that nobody expected is there all the same; what isn't known has no lines.
	l := store.OrderLine{Expected: `[{"kind":"price","name":"item price","amount":2000}]`, Price: 2000, Quantity: 1, Delivery: 250}
	lines, err := beside(&l)
	require.NoError(t, err)
	assert.Equal(t, []Beside{{"item price", 2000, 2000, true, "price"}, {"delivery charged", 0, 250, true, "delivery"}}, lines)
	lines, err = beside(&store.OrderLine{Price: 5, Quantity: 1})
	require.NoError(t, err)
	assert.Empty(t, lines)
	_, err = beside(&store.OrderLine{Expected: "{"})
	assert.Error(t, err)
}

// However much was given back: what was kept is its net and its tax; the tax is what the
// rate gives of it to the nearest penny, or what was told in proportion; and in the end
// nothing of either is left.
func TestWhatALineComesTo(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		l := store.OrderLine{
			Price:       rapid.Int64Range(0, 1_000_000).Draw(rt, "price"),
			Quantity:    rapid.Int64Range(1, 500).Draw(rt, "quantity"),
			Delivery:    rapid.Int64Range(0, 5_000).Draw(rt, "delivery"),
			TaxIncluded: rapid.Bool().Draw(rt, "included"),
			TaxRate:     rapid.Int64Range(0, 3_000).Draw(rt, "rate") * 100,
		}
		paid := l.Price*l.Quantity + l.Delivery
		part, whole := l.TaxRate, 1_000_000+l.TaxRate // of which the tax is a part
		if told := rapid.Int64Range(0, paid/4+1).Draw(rt, "tax"); rapid.Bool().Draw(rt, "told") {
			l.Tax, part, whole = &told, told, paid
		} else if !l.TaxIncluded {
			part = 0
		}
		for range 4 {
			l.Refunded += rapid.Int64Range(0, paid/3+2).Draw(rt, "given back")
			s := comesTo(&l)
			assert.Equal(rt, paid, s.Kept+s.GivenBack)
			assert.Equal(rt, s.Kept, s.Net+s.Tax)
			if l.Refunded >= paid {
				assert.Zero(rt, s.Kept)
				assert.Zero(rt, s.Tax)
				continue
			}
			assert.Equal(rt, l.Refunded, s.GivenBack)
			off := new(big.Int).Sub(new(big.Int).Mul(big.NewInt(s.Tax), big.NewInt(2*whole)), new(big.Int).Mul(big.NewInt(s.Kept), big.NewInt(2*part)))
			assert.LessOrEqual(rt, off.CmpAbs(big.NewInt(whole)), 0, "%d of %d is at most half a penny off", s.Tax, s.Kept)
		}
	})
}

// Whatever is known of a line, its lines add up to what stands in Earned, part by part.
func TestEarnedIsItsLines(t *testing.T) {
	const expected = `[{"kind":"price","name":"item price","amount":2000},{"kind":"tax","name":"tax","amount":-333},{"kind":"fee","name":"commission","amount":-200},
		{"kind":"cost","name":"landed cost","amount":-900},{"kind":"outbound","name":"delivery","amount":-285},{"kind":"allowance","name":"returns","amount":-40}]`
	rapid.Check(t, func(rt *rapid.T) {
		maybe := func(name string) *int64 {
			if !rapid.Bool().Draw(rt, name+" is known") {
				return nil
			}
			v := rapid.Int64Range(0, 3_000).Draw(rt, name)
			return &v
		}
		day := time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC)
		l := store.OrderLine{Price: 1000, Quantity: 2, Cost: maybe("cost"), Tax: maybe("tax"), Fees: maybe("fees"), Sending: maybe("sending"),
			Delivery: rapid.Int64Range(0, 500).Draw(rt, "delivery"), Refunded: rapid.Int64Range(0, 2_500).Draw(rt, "given back"),
			State: rapid.SampledFrom([]string{store.LineNew, store.LineBought, store.LineSent, store.LineCancelled, store.LineReturned}).Draw(rt, "state")}
		if rapid.Bool().Draw(rt, "bought") {
			l.BoughtAt = &day
		}
		if rapid.Bool().Draw(rt, "its lines are known") {
			l.Expected = expected
		}
		lines, err := beside(&l)
		require.NoError(rt, err)
		sum := int64(0)
		for _, b := range lines {
			sum += b.Real
			if l.State == store.LineCancelled {
				assert.LessOrEqual(rt, b.Real, int64(0), "nothing is earned by what was called off")
			}
		}
		var row EarnedRow
		require.NoError(rt, row.add(&l))
		assert.Equal(rt, sum, row.Left)
		assert.Equal(rt, int64(1), row.Lines)
		assert.Equal(rt, map[bool]int64{true: 0, false: 2}[l.State == store.LineCancelled], row.Units)
		if l.Expected == "" {
			assert.Equal(rt, int64(1), row.Unknown)
			assert.Zero(rt, row.Losses)
			return
		}
		assert.Equal(rt, row.Left, row.Sales+row.Tax+row.Fees+row.Cost+row.Sending+row.Other+row.Refunds)
		assert.Equal(rt, row.Left < 0, row.Losses == 1)
		if l.State != store.LineCancelled {
			assert.Equal(rt, 2000+l.Delivery, row.Sales, "what buyers paid")
			assert.Equal(rt, -min(l.Refunded, 2000+l.Delivery), row.Refunds)
		}
	})
}

package money_test

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/money"
)

// Both divisions are what exact arithmetic says, over all there is, and say so
// where the result doesn't fit.
func TestMulDivIsExact(t *testing.T) {
	edges := []int64{math.MinInt64, math.MinInt64 + 1, -1_000_000, -3, -2, -1, 0, 1, 2, 3, 999_999, 1_000_000, 1_000_001, math.MaxInt64 - 1, math.MaxInt64}
	any64 := rapid.OneOf(rapid.SampledFrom(edges), rapid.Int64(), rapid.Int64Range(-10_000_000, 10_000_000))
	rapid.Check(t, func(t *rapid.T) {
		a, b, c := any64.Draw(t, "a"), any64.Draw(t, "b"), any64.Draw(t, "c")
		near, nearOK := money.MulDiv(a, b, c)
		up, upOK := money.MulDivUp(a, b, c)
		if c <= 0 {
			if nearOK || upOK {
				t.Fatalf("nothing is divided by %d", c)
			}
			return
		}
		whole := new(big.Int).Mul(big.NewInt(a), big.NewInt(b))
		abs := new(big.Int).Abs(whole)
		wantNear := new(big.Int).Div(abs.Add(abs, big.NewInt(c/2)), big.NewInt(c)) // half away from zero
		if whole.Sign() < 0 {
			wantNear.Neg(wantNear)
		}
		wantUp, rest := new(big.Int).QuoRem(whole, big.NewInt(c), new(big.Int))
		if rest.Sign() > 0 {
			wantUp.Add(wantUp, big.NewInt(1))
		}
		for _, x := range []struct {
			name string
			got  int64
			ok   bool
			want *big.Int
		}{{"nearest", near, nearOK, wantNear}, {"upwards", up, upOK, wantUp}} {
			fits := x.want.CmpAbs(big.NewInt(math.MaxInt64)) <= 0
			if x.ok != fits || fits && x.got != x.want.Int64() {
				t.Fatalf("%s: %d × %d / %d is %v, got %d, %v", x.name, a, b, c, x.want, x.got, x.ok)
			}
		}
	})
}

func TestSharesAndComparisons(t *testing.T) {
	v, ok := money.Share(1050, 100_000)
	assert.Equal(t, []any{int64(105), true}, []any{v, ok})
	v, _ = money.Share(1045, 100_000)
	assert.Equal(t, int64(105), v, "half away from zero")
	v, _ = money.Share(-1045, 100_000)
	assert.Equal(t, int64(-105), v)
	for part, want := range map[int64]int{299: -1, 300: 0, 301: 1} {
		assert.Equal(t, want, money.Compare(part, 1000, 300_000), part)
	}
	assert.Equal(t, 1, money.Compare(math.MaxInt64, math.MaxInt64-1, money.One), "in the last place of the largest")
	assert.Equal(t, -1, money.Compare(math.MaxInt64-1, math.MaxInt64, money.One))
}

func TestSumsStayInRange(t *testing.T) {
	for _, c := range []struct {
		a, b, sum int64
		ok        bool
	}{
		{1, 2, 3, true}, {5, 0, 5, true}, {-5, 0, -5, true}, {5, -7, -2, true}, {math.MaxInt64, 0, math.MaxInt64, true},
		{math.MaxInt64, 1, 0, false}, {math.MaxInt64 - 1, 1, math.MaxInt64, true}, {-math.MaxInt64, -1, 0, false},
		{-math.MaxInt64 + 1, -1, -math.MaxInt64, true}, {math.MinInt64 + 1, -2, 0, false},
	} {
		sum, ok := money.Add(c.a, c.b)
		assert.Equal(t, []any{c.sum, c.ok}, []any{sum, ok}, "%d + %d", c.a, c.b)
	}
	two, err := money.Of(150, "GBP").Add(money.Of(50, "GBP"))
	assert.NoError(t, err)
	assert.Equal(t, money.Of(200, "GBP"), two)
	_, err = money.Of(150, "GBP").Add(money.Of(50, "EUR"))
	assert.ErrorContains(t, err, "can't add EUR to GBP")
	_, err = money.Of(math.MaxInt64, "GBP").Add(money.Of(1, "GBP"))
	assert.ErrorIs(t, err, money.ErrRange)
	for part, want := range map[int64]string{1: "0.33%", 2: "0.67%", -1: "-0.33%", 300: "100.00%"} {
		got, ok := money.Percent(part, 300)
		assert.Equal(t, []any{want, true}, []any{got, ok})
	}
	got, ok := money.Percent(1, 1)
	assert.Equal(t, []any{"100.00%", true}, []any{got, ok})
	for _, whole := range []int64{0, -1} {
		_, ok := money.Percent(1, whole)
		assert.False(t, ok)
	}
	for currency, valid := range map[money.Currency]bool{"GBP": true, "JPY": true, "KWD": true, "XAU": false, "pounds": false, "": false} {
		assert.Equal(t, valid, currency.Valid(), currency)
	}
}

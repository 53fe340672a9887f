package money_test

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
)

func TestParseKeepsToTheCurrencysDecimals(t *testing.T) {
	for _, c := range []struct {
		text string
		in   money.Currency
		want int64
		bad  bool
	}{
		{"12.40", "GBP", 1240, false}, {"-0.05", "GBP", -5, false}, {"7", "EUR", 700, false}, {"1200", "JPY", 1200, false},
		{"0.125", "KWD", 125, false}, {"12.405", "GBP", 0, true}, {"12.400", "GBP", 0, true}, {"3.5", "JPY", 0, true},
		{"", "GBP", 0, true}, {".5", "GBP", 0, true}, {"5.", "GBP", 0, true}, {"1e3", "GBP", 0, true}, {"+1", "GBP", 0, true},
		{"92233720368547758.07", "GBP", math.MaxInt64, false}, {"92233720368547758.08", "GBP", 0, true}, {"1.00", "XAU", 0, true},
	} {
		v, err := money.Parse(c.text, c.in)
		if c.bad {
			assert.Error(t, err, "%s %s", c.text, c.in)
			continue
		}
		require.NoError(t, err, "%s %s", c.text, c.in)
		assert.Equal(t, money.Of(c.want, c.in), v)
	}
}

func TestWhatIsWrittenReadsBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cur := rapid.SampledFrom([]money.Currency{"GBP", "JPY", "KWD", "EUR"}).Draw(t, "currency")
		a := money.Of(rapid.Int64Range(-math.MaxInt64, math.MaxInt64).Draw(t, "minor"), cur)
		back, err := money.Parse(a.String(), cur)
		require.NoError(t, err)
		assert.Equal(t, a, back)
	})
}

// The one multiplication that everything rests on, against numbers of any size.
func TestMulDivRoundsOnceHalfAwayFromZero(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		any64 := rapid.Int64Range(-math.MaxInt64, math.MaxInt64)
		a, b, c := any64.Draw(t, "a"), any64.Draw(t, "b"), rapid.Int64Range(1, math.MaxInt64).Draw(t, "c")
		if rapid.Bool().Draw(t, "small") {
			a, b, c = a%1000, b%1000, c%100+1
		}
		twice := new(big.Int).Mul(big.NewInt(a), big.NewInt(b))
		sign := twice.Sign()
		twice.Abs(twice).Lsh(twice, 1).Add(twice, big.NewInt(c)).Quo(twice, new(big.Int).Lsh(big.NewInt(c), 1))
		if sign < 0 {
			twice.Neg(twice)
		}
		got, ok := money.MulDiv(a, b, c)
		require.Equal(t, twice.IsInt64() && twice.Int64() != math.MinInt64, ok)
		if ok {
			assert.Equal(t, twice.Int64(), got)
		}
		num := new(big.Int).Mul(big.NewInt(a), big.NewInt(b))
		up, rem := new(big.Int).QuoRem(num, big.NewInt(c), new(big.Int))
		if rem.Sign() > 0 {
			up.Add(up, big.NewInt(1))
		}
		if got, ok := money.MulDivUp(a, b, c); ok {
			assert.Equal(t, up.Int64(), got)
		}
	})
}

func TestAddNeverWraps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.Int64().Draw(t, "a"), rapid.Int64().Draw(t, "b")
		sum := new(big.Int).Add(big.NewInt(a), big.NewInt(b))
		got, ok := money.Add(a, b)
		assert.Equal(t, sum.IsInt64() && sum.Int64() != math.MinInt64, ok)
		if ok {
			assert.Equal(t, sum.Int64(), got)
		}
	})
	_, err := money.Of(1, "GBP").Add(money.Of(1, "EUR"))
	assert.ErrorContains(t, err, "can't add EUR to GBP")
}

func TestRatesAndPercentages(t *testing.T) {
	r, err := money.ParseRate("12.35%")
	require.NoError(t, err)
	assert.Equal(t, money.Rate(123_500), r)
	assert.Equal(t, "12.35%", r.String())
	for _, bad := range []string{"12.35", "12.34567%", "%", "1 %"} {
		_, err := money.ParseRate(bad)
		assert.Error(t, err, bad)
	}
	fx, err := money.ParseFX("0.8612")
	require.NoError(t, err)
	assert.Equal(t, "0.8612", fx.String())
	_, err = money.ParseFX("0")
	assert.ErrorContains(t, err, "above 0")
	s, ok := money.Percent(-1, 100_000)
	assert.True(t, ok)
	assert.Equal(t, "0.00%", s, "no minus on nothing")
	_, ok = money.Percent(5, 0)
	assert.False(t, ok)
}

// A changed amount is the rational product, rounded once.
func TestChangingAnAmountRoundsOnce(t *testing.T) {
	currencies := rapid.SampledFrom([]money.Currency{"GBP", "JPY", "KWD"})
	rapid.Check(t, func(t *rapid.T) {
		a := money.Of(rapid.Int64Range(-1_000_000_000, 1_000_000_000).Draw(t, "minor"), currencies.Draw(t, "from"))
		to := currencies.Draw(t, "to")
		fx := money.FX(rapid.Int64Range(1, 900_000_000_000).Draw(t, "fx"))
		got, err := fx.Change(a, to)
		require.NoError(t, err)
		from, _ := a.Currency.Digits()
		digits, _ := to.Digits()
		exact := new(big.Rat).Mul(big.NewRat(a.Minor, 1), big.NewRat(int64(fx), 1_000_000_000))
		for ; from < digits; from++ {
			exact.Mul(exact, big.NewRat(10, 1))
		}
		for ; from > digits; from-- {
			exact.Quo(exact, big.NewRat(10, 1))
		}
		off := new(big.Rat).Sub(exact, big.NewRat(got.Minor, 1))
		require.LessOrEqual(t, off.Abs(off).Cmp(big.NewRat(1, 2)), 0, "%s at %s is %s", a, fx, got)
		require.Equal(t, to, got.Currency)
	})
	_, err := money.FX(0).Change(money.Of(1, "GBP"), "EUR")
	assert.ErrorContains(t, err, "can't change")
	_, err = money.FX(1).Change(money.Of(1, "GBP"), "ZZZ")
	assert.ErrorContains(t, err, "ZZZ")
	_, err = money.FX(math.MaxInt64).Change(money.Of(math.MaxInt64, "JPY"), "KWD")
	assert.ErrorIs(t, err, money.ErrRange)
}

func TestBackIsTheOtherWay(t *testing.T) {
	for _, c := range []struct {
		rate, text string
		from, to   money.Currency
		want       string
	}{
		{"1.25", "5.00", "EUR", "GBP", "4.00"},
		{"3", "1.00", "EUR", "GBP", "0.33"},
		{"190.5", "381", "JPY", "GBP", "2.00"},
		{"0.39", "1.00", "GBP", "KWD", "2.564"},
	} {
		rate, err := money.ParseFX(c.rate)
		require.NoError(t, err)
		a, err := money.Parse(c.text, c.from)
		require.NoError(t, err)
		got, err := rate.Back(a, c.to)
		require.NoError(t, err)
		assert.Equal(t, c.want, got.String())
	}
	_, err := money.FX(1).Back(money.Of(1<<62, "GBP"), "EUR")
	assert.ErrorIs(t, err, money.ErrRange)
	_, err = money.FX(0).Back(money.Of(1, "GBP"), "EUR")
	assert.Error(t, err)
}

package money_test

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/money"
)

// A product is exact or it is none: held against arithmetic without bounds.
func TestTimesIsExactWithinItsBounds(t *testing.T) {
	any64 := rapid.OneOf(rapid.Int64(), rapid.Int64Range(-money.Most, money.Most), rapid.Int64Range(-1_000_000, 1_000_000), rapid.SampledFrom([]int64{0, 1, -1, math.MaxInt64, math.MinInt64, money.Most, -money.Most}))
	rapid.Check(t, func(t *rapid.T) {
		a, n := any64.Draw(t, "amount"), any64.Draw(t, "times")
		want := new(big.Int).Mul(big.NewInt(a), big.NewInt(n))
		got, ok := money.Times(a, n)
		if fits := new(big.Int).Abs(want).Cmp(big.NewInt(money.Most)) <= 0; fits != ok || ok && want.Int64() != got {
			t.Fatalf("%d × %d = %d, %v; it is %s", a, n, got, ok, want)
		}
	})
}

func TestWhatIsBelieved(t *testing.T) {
	for minor, want := range map[int64]bool{0: true, money.Most: true, money.Most + 1: false, -1: false, math.MaxInt64: false, math.MinInt64: false} {
		assert.Equal(t, want, money.Believed(minor), minor)
	}
}

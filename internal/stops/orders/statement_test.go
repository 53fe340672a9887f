package orders

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// An amount that is shared out is there whole, and none has more than a minor unit
// over or under its due.
func TestSharedOutToTheLastUnit(t *testing.T) {
	assert.Equal(t, []int64{33, 34, 33}, shared(100, []int64{1, 1, 1}))
	assert.Equal(t, []int64{0, 0, 7}, shared(7, []int64{0, 0, 0}))
	assert.Equal(t, []int64{-3, -7}, shared(-10, []int64{30, 70}))
	assert.Equal(t, []int64{5}, shared(5, []int64{9}))
	rapid.Check(t, func(t *rapid.T) {
		amount := rapid.Int64Range(-1e9, 1e9).Draw(t, "amount")
		weights := rapid.SliceOfN(rapid.Int64Range(0, 1e9), 1, 40).Draw(t, "weights")
		whole, sum := int64(0), int64(0)
		for _, w := range weights {
			whole += w
		}
		got := shared(amount, weights)
		for i, v := range got {
			sum += v
			if whole > 0 {
				due := float64(amount) * float64(weights[i]) / float64(whole)
				if d := float64(v) - due; d > 1.0001 || d < -1.0001 {
					t.Fatalf("%d of %d at %d/%d", v, amount, weights[i], whole)
				}
			}
		}
		if sum != amount {
			t.Fatalf("%v is %d, not %d", got, sum, amount)
		}
	})
}

package orders

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/internal/store"
)

// 12.00 with 20 % in it that comes back costs 10.00, and is cheaper than 11.00 without.
func TestTaxThatComesBackIsNoCostOfAPurchase(t *testing.T) {
	free := int64(6000)
	w := store.Way{Cost: 1200, Charge: 300, Least: 2400, FreeFrom: &free, Reclaimed: 200_000}
	ownCost(&w)
	assert.Equal(t, [4]int64{1000, 250, 2000, 5000}, [4]int64{w.Cost, w.Charge, w.Least, *w.FreeFrom}, "free from the same goods")
	kept := store.Way{Cost: 1200, Charge: 300}
	ownCost(&kept)
	assert.Equal(t, store.Way{Cost: 1200, Charge: 300}, kept)
}

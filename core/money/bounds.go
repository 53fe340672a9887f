package money

import "math/bits"

// What is believed of a number that comes from outside: a buyer's form, a
// supplier's file, a marketplace's answer. Within these bounds an amount times a
// count, and the sum of a million of them, stay far inside 64 bits.
const (
	// Most is the largest amount, in minor units: a price, a line of an order, an order.
	Most = 1_000_000_000_000
	// MostUnits is the most pieces that are ordered, or offered, at once.
	MostUnits = 1_000_000
	// MostStock is the most items that a supplier is believed to have of a product.
	MostStock = 1_000_000_000
)

// Believed tells whether an amount in minor units can be one: from 0 to Most.
func Believed(minor int64) bool { return minor >= 0 && minor <= Most }

// Times is an amount so many times; it is false where the product is beyond Most
// either way, so that sums of products can't leave the range of 64 bits.
func Times(minor, n int64) (int64, bool) {
	hi, lo := bits.Mul64(abs(minor), abs(n))
	if hi != 0 || lo > Most {
		return 0, false
	}
	if (minor < 0) != (n < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

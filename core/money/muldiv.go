package money

import (
	"cmp"
	"math"
	"math/bits"
)

// MulDiv is a × b / c rounded half away from zero, with nothing lost between.
// It is false where the result is out of range or c is not above 0.
func MulDiv(a, b, c int64) (int64, bool) {
	if c <= 0 {
		return 0, false
	}
	neg := (a < 0) != (b < 0)
	hi, lo := bits.Mul64(abs(a), abs(b))
	lo, carry := bits.Add64(lo, uint64(c)/2, 0)
	return quotient(hi+carry, lo, uint64(c), neg)
}

// MulDivUp is a × b / c rounded towards positive infinity.
func MulDivUp(a, b, c int64) (int64, bool) {
	if c <= 0 {
		return 0, false
	}
	neg := (a < 0) != (b < 0)
	hi, lo := bits.Mul64(abs(a), abs(b))
	if !neg {
		var carry uint64
		lo, carry = bits.Add64(lo, uint64(c)-1, 0)
		hi += carry
	}
	return quotient(hi, lo, uint64(c), neg)
}

// Share is v × r rounded half away from zero: one line's rounding.
func Share(v int64, r Rate) (int64, bool) { return MulDiv(v, int64(r), int64(One)) }

func quotient(hi, lo, c uint64, neg bool) (int64, bool) {
	var q uint64
	switch {
	case hi == 0 && c == uint64(One):
		q = lo / uint64(One) // a constant divisor: much the commonest case, and much the fastest
	case hi == 0:
		q = lo / c
	case hi >= c:
		return 0, false
	default:
		q, _ = bits.Div64(hi, lo, c)
	}
	if q > math.MaxInt64 {
		return 0, false
	}
	if neg {
		return -int64(q), true
	}
	return int64(q), true
}

func abs(v int64) uint64 {
	if v < 0 {
		return -uint64(v)
	}
	return uint64(v)
}

// Compare says how a part stands to a rate of the whole, exactly: -1 below it,
// 0 at it, 1 above. None of them may be below 0.
func Compare(part, whole int64, r Rate) int {
	phi, plo := bits.Mul64(uint64(part), uint64(One))
	whi, wlo := bits.Mul64(uint64(whole), uint64(r))
	return cmp.Or(cmp.Compare(phi, whi), cmp.Compare(plo, wlo))
}

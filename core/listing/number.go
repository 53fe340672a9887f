package listing

import (
	"math/big"
	"slices"
	"strings"
	"unicode"

	"easymargin/core/money"
)

// Codes of a number that can't be taken.
const (
	notANumber = "not a number"
	noSuchUnit = "no such unit"
	tooMany    = "too many decimals"
)

// factors are units in the smallest of their kind: millilitres, grams, millimetres.
var factors = map[string]struct {
	kind byte
	in   *big.Rat
}{
	"ml": {'v', big.NewRat(1, 1)}, "cl": {'v', big.NewRat(10, 1)}, "l": {'v', big.NewRat(1000, 1)},
	"g": {'w', big.NewRat(1, 1)}, "kg": {'w', big.NewRat(1000, 1)},
	"oz": {'w', big.NewRat(28349523125, 1e9)}, "lb": {'w', big.NewRat(45359237, 1e5)},
	"mm": {'l', big.NewRat(1, 1)}, "cm": {'l', big.NewRat(10, 1)}, "m": {'l', big.NewRat(1000, 1)},
	"in": {'l', big.NewRat(254, 10)}, "ft": {'l', big.NewRat(3048, 10)},
}

// commas are the currencies whose countries write the decimal sign as a comma:
// docs/definitions/supply.md, section 2, "Amounts".
var commas = []money.Currency{"EUR", "PLN", "CZK", "SEK", "NOK", "DKK", "HUF", "BRL", "TRY"}

// decimalSign is what an undecided mark is read by in a currency.
func decimalSign(c money.Currency) rune {
	if slices.Contains(commas, c) {
		return ','
	}
	return '.'
}

// Number reads a decimal with a unit after it, and brings it exactly to the
// attribute's unit; a code says why not.
func (a *Attribute) number(text string, c money.Currency) (v *big.Rat, code string) {
	rest, negative := strings.CutPrefix(text, "-")
	if !negative {
		rest, negative = strings.CutPrefix(text, "−")
	}
	if rest = strings.TrimSpace(rest); rest == "" {
		return nil, notANumber
	}
	end := 0
	for i, r := range rest {
		if r >= '0' && r <= '9' {
			end = i + 1
		} else if !money.Mark(r) {
			break
		}
	}
	plain, ok := money.Decimal(rest[:end], decimalSign(c))
	unit := strings.TrimSpace(rest[end:])
	ours := unit == "" || a.Unit != "" && Alike(unit) == Alike(a.Unit)
	known := ours || a.Unit != "" && slices.ContainsFunc(a.Units, func(u string) bool { return Alike(u) == Alike(unit) })
	if !ok || !known && strings.ContainsFunc(unit, unicode.IsDigit) { // the figures of m2 are its unit's
		return nil, notANumber
	}
	v, ok = new(big.Rat).SetString(plain)
	if !ok {
		return nil, notANumber
	}
	if negative {
		v.Neg(v)
	}
	if ours {
		return v, ""
	}
	if !known {
		return nil, noSuchUnit
	}
	from, ok1 := factors[strings.ToLower(unit)]
	to, ok2 := factors[strings.ToLower(a.Unit)]
	if !ok1 || !ok2 || from.kind != to.kind {
		return nil, noSuchUnit
	}
	return v.Quo(v.Mul(v, from.in), to.in), ""
}

// written is a number as the place wants it, without trailing zeros, and how
// many decimals it has; false where it has no end.
func written(v *big.Rat) (text string, decimals int64, ok bool) {
	if v.IsInt() {
		return v.Num().String(), 0, true
	}
	// A fraction in lowest terms ends where its denominator is 2^a·5^b, after
	// the greater of a and b decimals.
	d := new(big.Int).Set(v.Denom())
	twos := int(d.TrailingZeroBits())
	d.Rsh(d, uint(twos))
	fives, five, rest := 0, big.NewInt(5), new(big.Int)
	for {
		q, r := new(big.Int).QuoRem(d, five, rest)
		if r.Sign() != 0 {
			break
		}
		d, fives = q, fives+1
	}
	if d.Cmp(big.NewInt(1)) != 0 {
		return "", 0, false
	}
	n := max(twos, fives)
	return v.FloatString(n), int64(n), true
}

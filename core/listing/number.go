package listing

import (
	"math/big"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"easymargin/core/money"
)

// Codes of a number that can't be taken.
const (
	notANumber = "not a number"
	noSuchUnit = "no such unit"
	tooMany    = "too many decimals"
)

// mostFigures is how long a number may be written, in bytes.
const mostFigures = 1000

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
// design/supply.md, section 2, "Amounts".
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
		} else if markOf(r) == 0 {
			break
		}
	}
	plain, ok := decimal(rest[:end], decimalSign(c))
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

// markOf is a mark inside figures, a point, a comma, an apostrophe or a space; 0 for
// anything else. Marks are of one kind where they are the same character.
func markOf(r rune) rune {
	if strings.ContainsRune(".,'’‘", r) || unicode.IsSpace(r) {
		return r
	}
	return 0
}

// decimal brings figures to the form digits[.digits]; undecided is the decimal
// sign of a mark that may be either.
func decimal(s string, undecided rune) (string, bool) {
	if s == "" || len(s) > mostFigures {
		return "", false
	}
	type mark struct {
		kind   rune
		at, to int
	}
	var marks []mark
	kinds := ""
	for i, r := range s {
		if k := markOf(r); k != 0 {
			marks = append(marks, mark{k, i, i + len(string(r))})
			if !strings.ContainsRune(kinds, k) {
				kinds += string(k)
			}
		}
	}
	sign := -1 // the mark that is the decimal sign
	if n := len(marks); n > 0 {
		switch last := marks[n-1]; {
		case utf8.RuneCountInString(kinds) > 2:
			return "", false
		case utf8.RuneCountInString(kinds) == 2:
			if sign = n - 1; last.kind != '.' && last.kind != ',' || strings.ContainsRune(kindsOf(s[:last.at]), last.kind) {
				return "", false
			}
		case n == 1 && (last.kind == '.' || last.kind == ','):
			either := len(s)-last.to == 3 && last.at >= 1 && last.at <= 3 && s[0] != '0'
			if !either || last.kind == undecided {
				sign = 0
			}
		}
	}
	frac := ""
	if sign >= 0 {
		frac = s[marks[sign].to:]
		s, marks = s[:marks[sign].at], marks[:sign]
		if frac == "" {
			return "", false
		}
	}
	whole := s
	if len(marks) > 0 {
		var b strings.Builder
		from := 0
		for i, m := range marks {
			if n := m.at - from; i == 0 && (n < 1 || n > 3) || i > 0 && n != 3 {
				return "", false
			}
			b.WriteString(s[from:m.at])
			from = m.to
		}
		if len(s)-from != 3 {
			return "", false
		}
		b.WriteString(s[from:])
		whole = b.String()
	}
	if frac == "" {
		return whole, true
	}
	if whole == "" {
		whole = "0"
	}
	return whole + "." + frac, true
}

// kindsOf are the kinds of the marks in figures.
func kindsOf(s string) string {
	return strings.Map(func(r rune) rune {
		if k := markOf(r); k != 0 {
			return k
		}
		return -1
	}, s)
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

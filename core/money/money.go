// Package money holds amounts, rates and exchange rates, all of them whole
// numbers, and the few ways they are multiplied and rounded. It follows
// docs/definitions/money.md, "Amounts and rates": no binary floating point, half away
// from zero, and an overflow is an error, never a wrong number.
package money

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// ErrRange says that a result lies outside ±(2⁶³ − 1) minor units.
var ErrRange = errors.New("amount is beyond ±(2^63 - 1) minor units")

// Amount is a whole number of minor units (pence, cents, yen) of one currency.
// The zero value is no money in no currency.
type Amount struct {
	Minor    int64
	Currency Currency
}

// Of makes an amount of minor units.
func Of(minor int64, c Currency) Amount { return Amount{minor, c} }

// Parse reads "-?digits[.digits]" in major units. More decimals than the
// currency has, trailing zeros counted, are an error.
func Parse(text string, c Currency) (Amount, error) {
	exp, ok := c.Digits()
	if !ok {
		return Amount{}, fmt.Errorf("unknown currency %q", string(c))
	}
	minor, err := parseFixed(text, exp)
	if err != nil {
		return Amount{}, err
	}
	return Amount{minor, c}, nil
}

// String writes the amount in major units with all its decimals, without the currency.
func (a Amount) String() string {
	exp, _ := a.Currency.Digits()
	return formatFixed(a.Minor, exp)
}

// Add adds two amounts of one currency.
func (a Amount) Add(b Amount) (Amount, error) {
	if a.Currency != b.Currency {
		return Amount{}, fmt.Errorf("can't add %s to %s", b.Currency, a.Currency)
	}
	sum, ok := Add(a.Minor, b.Minor)
	if !ok {
		return Amount{}, ErrRange
	}
	return Amount{sum, a.Currency}, nil
}

// Rate is a share in millionths: 15 % is 150 000.
type Rate int64

// One is the rate of 100 %.
const One Rate = 1_000_000

// ParseRate reads a percentage such as "12.35%" with at most four decimals.
func ParseRate(text string) (Rate, error) {
	digits, ok := strings.CutSuffix(text, "%")
	if !ok {
		return 0, fmt.Errorf("%q is not a percentage such as 12.5%%", text)
	}
	v, err := parseFixed(digits, 4)
	if err != nil {
		return 0, err
	}
	return Rate(v), nil
}

// String writes the rate as a percentage without needless zeros.
func (r Rate) String() string {
	s := formatFixed(int64(r), 4)
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".") + "%"
}

// FX is an exchange rate in billionths: selling currency per unit of the
// supplier's, both in major units. The zero value means "the same currency".
type FX int64

// ParseFX reads an exchange rate above 0 with at most nine decimals.
func ParseFX(text string) (FX, error) {
	v, err := parseFixed(text, 9)
	if err != nil {
		return 0, err
	}
	if v <= 0 {
		return 0, errors.New("an exchange rate must be above 0")
	}
	return FX(v), nil
}

// String writes the rate without needless zeros.
func (f FX) String() string {
	return strings.TrimSuffix(strings.TrimRight(formatFixed(int64(f), 9), "0"), ".")
}

// Change is an amount in another currency, rounded once, half away from zero.
func (f FX) Change(a Amount, to Currency) (Amount, error) {
	from, ok := a.Currency.Digits()
	exp, fine := to.Digits()
	if !ok || !fine || f <= 0 {
		return Amount{}, fmt.Errorf("can't change %q into %q", string(a.Currency), string(to))
	}
	return scaled(a, to, int64(f), 1_000_000_000, exp-from)
}

// Back is an amount the other way round: of the selling currency in the supplier's,
// rounded once, half away from zero.
func (f FX) Back(a Amount, to Currency) (Amount, error) {
	from, ok := a.Currency.Digits()
	exp, fine := to.Digits()
	if !ok || !fine || f <= 0 {
		return Amount{}, fmt.Errorf("can't change %q into %q", string(a.Currency), string(to))
	}
	return scaled(a, to, 1_000_000_000, int64(f), exp-from)
}

// scaled is a · num/den, with so many decimals more.
func scaled(a Amount, to Currency, num, den int64, more int) (Amount, error) {
	for ; more > 0; more-- {
		if num > math.MaxInt64/10 {
			return Amount{}, ErrRange
		}
		num *= 10
	}
	for ; more < 0; more++ {
		if den > math.MaxInt64/10 {
			return Amount{}, ErrRange
		}
		den *= 10
	}
	v, ok := MulDiv(a.Minor, num, den)
	if !ok {
		return Amount{}, ErrRange
	}
	return Amount{v, to}, nil
}

func parseFixed(text string, decimals int) (int64, error) {
	whole, frac, point := strings.Cut(strings.TrimPrefix(text, "-"), ".")
	if !allDigits(whole) || point && !allDigits(frac) {
		return 0, fmt.Errorf("%q is not a number such as 12.40", text)
	}
	if len(frac) > decimals {
		return 0, fmt.Errorf("%q has more than %d decimals", text, decimals)
	}
	v, err := strconv.ParseInt(whole+frac+strings.Repeat("0", decimals-len(frac)), 10, 64)
	if err != nil {
		return 0, ErrRange
	}
	if text[0] == '-' {
		v = -v
	}
	return v, nil
}

func allDigits(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return s != ""
}

func formatFixed(v int64, decimals int) string {
	sign, u := "", uint64(v)
	if v < 0 {
		sign, u = "-", -u
	}
	s := strconv.FormatUint(u, 10)
	if decimals == 0 {
		return sign + s
	}
	if len(s) <= decimals {
		s = strings.Repeat("0", decimals+1-len(s)) + s
	}
	return sign + s[:len(s)-decimals] + "." + s[len(s)-decimals:]
}

// Percent writes part / whole as a percentage with two decimals, half away
// from zero. It is false where whole is not above 0.
func Percent(part, whole int64) (string, bool) {
	if whole <= 0 {
		return "", false
	}
	v, ok := MulDiv(part, 10_000, whole)
	if !ok {
		return "", false
	}
	return formatFixed(v, 2) + "%", true
}

// Add adds two numbers of minor units; it is false where the sum is out of range.
func Add(a, b int64) (int64, bool) {
	s := a + b
	if (b > 0) != (s > a) && b != 0 || s == math.MinInt64 {
		return 0, false
	}
	return s, true
}

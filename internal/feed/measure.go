package feed

import (
	"errors"
	"strconv"
	"strings"

	"easymargin/core/money"
)

// ratio is how many grams or millimetres one of a unit is, exactly.
type ratio struct{ num, den int64 }

// Weights and lengths by the international pound and inch of 1959.
var (
	weights = map[string]*ratio{"g": {1, 1}, "kg": {1000, 1}, "oz": {28_349_523_125, 1_000_000_000}, "lb": {45_359_237, 100_000}}
	lengths = map[string]*ratio{"mm": {1, 1}, "cm": {10, 1}, "m": {1000, 1}, "in": {254, 10}, "ft": {3048, 10}}
	// unitNames with the longer before those they end in.
	unitNames = []string{"kg", "mm", "cm", "oz", "lb", "in", "ft", "g", "m"}
)

var unitWords = map[string]string{
	"gr":          "g",
	"gram":        "g",
	"grams":       "g",
	"kgs":         "kg",
	"kilo":        "kg",
	"kilogram":    "kg",
	"kilograms":   "kg",
	"ounce":       "oz",
	"ounces":      "oz",
	"lbs":         "lb",
	"pound":       "lb",
	"pounds":      "lb",
	"millimetre":  "mm",
	"millimetres": "mm",
	"centimetre":  "cm",
	"centimetres": "cm",
	"metre":       "m",
	"metres":      "m",
	"inch":        "in",
	"inches":      "in",
	"foot":        "ft",
	"feet":        "ft",
}

func unitOf(word string, table map[string]*ratio) *ratio {
	if w, ok := unitWords[word]; ok {
		word = w
	}
	return table[word]
}

var errUnit = errors.New("has no unit, neither in the cell nor in the column's name; set one with the source")

// measure reads a weight in grams or a length in millimetres, rounded up.
func (p *parser) measure(cell string, number bool, column int, table map[string]*ratio, usual string) (int64, error) {
	cell = strings.TrimSpace(cell)
	if len(cell) < 10 && cell != "" && allDigits(cell) { // the usual: whole figures, the unit in the column's name
		if unit := table[p.look.Columns[column].unit]; unit != nil && unit.den == 1 {
			v, _ := strconv.ParseInt(cell, 10, 64)
			return v * unit.num, nil
		}
	}
	if strings.HasSuffix(cell, `"`) {
		cell = strings.TrimSuffix(cell, `"`) + "in"
	}
	f, ok := figure(cell)
	if !ok || f.negative || f.currency != "" {
		return 0, errAmount
	}
	unit := unitOf(f.unit, table)
	if f.unit != "" && unit == nil {
		return 0, errAmount
	}
	if unit == nil {
		unit = unitOf(p.look.Columns[column].unit, table)
	}
	if unit == nil {
		unit = unitOf(usual, table)
	}
	if unit == nil {
		return 0, errUnit
	}
	sign := byte('.')
	if !number {
		sign = p.signIn(column, p.rowCurrency)
	}
	text, err := f.digits(sign)
	if err != nil {
		return 0, err
	}
	whole, frac, _ := strings.Cut(text, ".")
	frac = strings.TrimRight(frac, "0")
	if len(whole) > 9 || len(frac) > 6 {
		return 0, errAmount
	}
	v, den := int64(0), unit.den
	for _, d := range whole + frac {
		v = v*10 + int64(d-'0')
	}
	for range frac {
		den *= 10
	}
	out, ok := money.MulDivUp(v, unit.num, den)
	if !ok {
		return 0, errAmount
	}
	return out, nil
}

// boxParts takes 120x80x40 cm apart into three, each with the unit.
func boxParts(cell string) []string {
	parts := strings.FieldsFunc(cell, func(r rune) bool { return r == 'x' || r == 'X' || r == '×' || r == '*' })
	if len(parts) != 3 {
		return nil
	}
	unit := strings.TrimLeft(parts[2], "0123456789., \t\u00a0")
	for i := range 2 {
		if strings.TrimRight(strings.TrimSpace(parts[i]), "0123456789.,") == "" {
			parts[i] += unit
		}
	}
	return parts
}

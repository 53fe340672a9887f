package feed

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"easymargin/core/money"
)

// numeral is the figures of a cell, taken apart before its decimal sign is known.
type numeral struct {
	text     string // digits and the marks between them
	negative bool
	proves   byte   // the decimal sign that this value by itself proves, or 0
	currency string // named by a sign or a code
	unit     string // what else stands behind it, such as kg
}

var signs3 = map[rune]string{'£': "GBP", '€': "EUR", '$': "USD"}

// signOf is the currency named by a sign or a code in an amount, or "".
func signOf(s string) string {
	f, ok := figure(s)
	if !ok {
		return ""
	}
	return f.currency
}

func isMinus(r rune) bool { return r == '-' || r == '−' || r == '–' }

// thousands marks that can't be a decimal sign.
func isGap(r rune) bool {
	return unicode.IsSpace(r) || r == '\'' || r == '’' || r == '‘' || r == '`'
}

// figure takes a cell apart; false where there are no figures in it, or more than one lot.
func figure(cell string) (numeral, bool) {
	s := strings.TrimSpace(cell)
	var f numeral
	if s == "" {
		return f, false
	}
	if s[0] >= '0' && s[0] <= '9' { // the commonest by far: plain figures with at most a point in them
		plain, dot := true, -1
		for i := range len(s) {
			if s[i] == '.' && dot < 0 {
				dot = i
			} else if s[i] < '0' || s[i] > '9' {
				plain = false
				break
			}
		}
		if plain {
			f.text = s
			if dot >= 0 {
				f.proves = proof(s)
			}
			return f, true
		}
	}
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") {
		f.negative, s = true, strings.TrimSpace(s[1:len(s)-1])
	}
	from := strings.IndexFunc(s, unicode.IsDigit)
	to := strings.LastIndexFunc(s, unicode.IsDigit)
	if from < 0 {
		return f, false
	}
	_, size := utf8.DecodeRuneInString(s[to:])
	before, after := s[:from], s[to+size:]
	if rest, ok := strings.CutSuffix(before, "."); ok && (rest == "" || !unicode.IsLetter(lastRune(rest))) {
		before, from = rest, from-1 // .50
	}
	f.text = s[from : to+size]
	if !f.around(before, false) || !f.around(after, true) {
		return f, false
	}
	for _, r := range f.text {
		if (r < '0' || r > '9') && r != ',' && r != '.' && !isGap(r) {
			return f, false
		}
	}
	f.proves = proof(f.text)
	return f, true
}

func lastRune(s string) rune { r, _ := utf8.DecodeLastRuneInString(s); return r }

// around reads what stands before or behind the figures: a minus, a currency, a unit.
func (f *numeral) around(s string, behind bool) bool {
	for s = strings.TrimSpace(s); s != ""; s = strings.TrimSpace(s) {
		r, size := utf8.DecodeRuneInString(s)
		switch {
		case isMinus(r):
			if f.negative {
				return false
			}
			f.negative, s = true, s[size:]
		case signs3[r] != "":
			f.currency, s = signs3[r], s[size:]
		case unicode.Is(unicode.Sc, r):
			s = s[size:]
		case unicode.IsLetter(r):
			end := strings.IndexFunc(s, func(r rune) bool { return !unicode.IsLetter(r) })
			if end < 0 {
				end = len(s)
			}
			word := s[:end]
			s = strings.TrimPrefix(s[end:], ".")
			switch code := strings.ToUpper(word); {
			case money.Currency(code).Valid():
				f.currency = code
			case behind && f.unit == "":
				f.unit = strings.ToLower(word)
			case localSigns[strings.ToLower(word)]:
			default:
				return false
			}
		case behind && r == '.' && len(s) == size, behind && r == ',' && len(s) == size: // "5." and "5,"
			s = ""
		case behind && strings.HasPrefix(s, ",-"), behind && strings.HasPrefix(s, ".-"): // "12,-": no minor units
			s = strings.TrimLeft(s[2:], "-")
		default:
			return false
		}
	}
	return true
}

// localSigns are words that stand for a currency of several countries or none that we fill in.
var localSigns = map[string]bool{"kr": true, "zł": true, "zl": true, "kč": true, "ft": true, "r": true, "tl": true}

// proof is the decimal sign that figures prove by themselves: docs/definitions/supply.md,
// section 2, "Amounts".
func proof(text string) byte {
	points, commas, gaps := 0, 0, 0
	last, lastAt, firstAt := byte(0), -1, -1
	for i, r := range text {
		switch {
		case r == '.':
			points++
		case r == ',':
			commas++
		case isGap(r):
			gaps++
			continue
		default:
			continue
		}
		last, lastAt = byte(r), i
		if firstAt < 0 {
			firstAt = i
		}
	}
	other := func(b byte) byte {
		if b == '.' {
			return ','
		}
		return '.'
	}
	switch {
	case points+commas == 0:
		return 0
	case points > 0 && commas > 0, gaps > 0 && points+commas == 1:
		return last // two different marks: the last
	case points+commas > 1:
		return other(last) // a mark that comes again parts thousands
	}
	before, after := firstAt, len(text)-lastAt-1
	if after == 3 && before >= 1 && before <= 3 && text[0] != '0' {
		return 0 // 1,234 may be either
	}
	return last
}

var errAmount = errors.New("can't be read as a number")

// digits brings figures to plain decimal form under a decimal sign: "1234.5".
// Thousands must be parted in threes.
func (f *numeral) digits(sign byte) (string, error) {
	if f.proves != 0 && sign != 0 && f.proves != sign {
		return "", fmt.Errorf("is written with %q as its decimal sign, and most of this column with %q", string(f.proves), string(sign))
	}
	whole, frac := f.text, ""
	if sign != 0 {
		if i := strings.LastIndexByte(f.text, sign); i >= 0 {
			whole, frac = f.text[:i], f.text[i+1:]
		}
	}
	if !allDigits(frac) {
		return "", errAmount
	}
	if !allDigits(whole) {
		groups := strings.FieldsFunc(whole, func(r rune) bool { return r == ',' || r == '.' || isGap(r) })
		marks := 0
		for _, r := range whole {
			if r < '0' || r > '9' {
				marks++
			}
		}
		if marks != len(groups)-1 || strings.IndexByte(whole, sign) >= 0 && sign != 0 {
			return "", errAmount
		}
		for i, g := range groups {
			if i > 0 && len(g) != 3 || i == 0 && (len(g) < 1 || len(g) > 3) {
				return "", errAmount
			}
		}
		whole = strings.Join(groups, "")
	}
	if whole == "" && frac == "" {
		return "", errAmount
	}
	if whole == "" {
		whole = "0"
	}
	if frac == "" {
		return whole, nil
	}
	return whole + "." + frac, nil
}

func allDigits(s string) bool {
	for i := range len(s) {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}

// commaFirst are the currencies of places that write a decimal comma.
var commaFirst = map[money.Currency]bool{
	"EUR": true,
	"PLN": true,
	"CZK": true,
	"SEK": true,
	"NOK": true,
	"DKK": true,
	"HUF": true,
	"BRL": true,
	"TRY": true,
}

// signIn is the decimal sign of a column: as its values prove, else as the
// source says, else as is usual for the currency.
func (p *parser) signIn(column int, c money.Currency) byte {
	if d := p.facts.signs[column].decided(); d != 0 {
		return d
	}
	if p.settings.Decimal != "" {
		return p.settings.Decimal[0]
	}
	if commaFirst[c] {
		return ','
	}
	return '.'
}

// amountIn reads the amount in a column. Decimals beyond the currency's are
// rounded up, which the second result tells.
func (p *parser) amountIn(r *Record, column int, c money.Currency) (money.Amount, bool, error) {
	f, ok := figure(r.Cells[column])
	if !ok || f.unit != "" && !localSigns[f.unit] {
		return money.Amount{}, false, errAmount
	}
	sign := byte('.')
	if !r.number(column) {
		sign = p.signIn(column, c)
	}
	text, err := f.digits(sign)
	if err != nil {
		return money.Amount{}, false, err
	}
	exp, _ := c.Digits()
	rounded := false
	if whole, frac, ok := strings.Cut(text, "."); ok {
		frac = strings.TrimRight(frac, "0")
		if len(frac) > exp {
			frac, rounded = frac[:exp], true
		}
		text = whole + frac + strings.Repeat("0", exp-len(frac))
	} else {
		text += strings.Repeat("0", exp)
	}
	v := int64(0)
	for i := range len(text) {
		d := int64(text[i] - '0')
		if v > (1<<63-1-d)/10 {
			return money.Amount{}, false, money.ErrRange
		}
		v = v*10 + d
	}
	if v > money.Most {
		return money.Amount{}, false, fmt.Errorf("is more than an amount can be: %s at most", money.Of(money.Most, c))
	}
	if f.negative {
		v = -v
	} else if rounded {
		v++
	}
	return money.Of(v, c), rounded, nil
}

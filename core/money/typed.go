package money

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// ErrEither says that a mark in a number may be the decimal sign or part thousands.
var ErrEither = errors.New("may be one of two numbers")

// Typed brings a number as a person types it, in any country, to the form
// -?digits[.digits], as Decimal reads it. Where a point or a comma may be either, the
// error is ErrEither, and asks.
func Typed(text string) (string, error) {
	plain := strings.TrimSpace(strings.NewReplacer("−", "-", "’", "'", "\u2009", " ", "\u00a0", " ", "\u202f", " ").Replace(text))
	rest, minus := strings.CutPrefix(plain, "-")
	rest = strings.TrimSpace(rest)
	point, ok := Decimal(rest, '.')
	comma, okay := Decimal(rest, ',')
	switch {
	case !ok || !okay:
		return "", fmt.Errorf("%q is not a number such as 12.40", text)
	case point != comma:
		return "", fmt.Errorf("%q %w: %s or %s; write it without the mark, or with other decimals", text, ErrEither, point, comma)
	case minus:
		return "-" + point, nil
	}
	return point, nil
}

// mostFigures is how long a number may be written, in bytes.
const mostFigures = 1000

// Mark tells whether a character may stand inside figures: a point, a comma, an
// apostrophe or a space. Marks are of one kind where they are the same character.
func Mark(r rune) bool { return strings.ContainsRune(".,'’‘", r) || unicode.IsSpace(r) }

// Decimal brings figures as people write them to the form digits[.digits]. Of two kinds of
// mark the last is the decimal sign; a point or comma that stands twice, an apostrophe and
// a space part thousands, which go in threes. One point or comma is the decimal sign, unless
// it stands before exactly three digits and after one to three that don't begin with 0: then
// it is where it is the undecided one. False for what is no number.
func Decimal(s string, undecided rune) (string, bool) {
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
		switch {
		case Mark(r):
			marks = append(marks, mark{r, i, i + utf8.RuneLen(r)})
			if !strings.ContainsRune(kinds, r) {
				kinds += string(r)
			}
		case r < '0' || r > '9':
			return "", false
		}
	}
	sign := -1 // the mark that is the decimal sign
	if n := len(marks); n > 0 {
		switch last := marks[n-1]; {
		case utf8.RuneCountInString(kinds) > 2:
			return "", false
		case utf8.RuneCountInString(kinds) == 2:
			if sign = n - 1; last.kind != '.' && last.kind != ',' || strings.ContainsRune(s[:last.at], last.kind) {
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

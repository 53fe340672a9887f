package money

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
)

// ErrEither says that a mark in a number may be the decimal sign or part thousands.
var ErrEither = errors.New("may be one of two numbers")

// Typed brings a number as a person types it, in any country, to the form
// -?digits[.digits]: "1 234,50", "1.234,50", "1'234.50" and "−0,35". Of two kinds of mark the last
// is the decimal sign; a mark that stands twice, a space and an apostrophe part
// thousands, which go in threes. A single point or comma before exactly three digits may
// be either: that is an error which asks, unless it can't part thousands (0,125).
func Typed(text string) (string, error) {
	s := strings.TrimSpace(strings.NewReplacer("−", "-", "’", "'", "\u2009", " ", "\u00a0", " ", "\u202f", " ").Replace(text))
	sign := ""
	if rest, ok := strings.CutPrefix(s, "-"); ok {
		sign, s = "-", strings.TrimSpace(rest)
	}
	wrong := fmt.Errorf("%q is not a number such as 12.40", text)
	var marks []int
	for i, r := range s {
		switch {
		case r >= '0' && r <= '9':
		case strings.ContainsRune(".,' ", r):
			marks = append(marks, i)
		default:
			return "", wrong
		}
	}
	if s == "" || !unicode.IsDigit(rune(s[len(s)-1])) {
		return "", wrong
	}
	decimal := -1
	if n := len(marks); n > 0 {
		last := marks[n-1]
		c := s[last]
		alone := strings.Count(s, string(c)) == 1
		switch {
		case c == ' ' || c == '\'' || !alone: // parts thousands
		case n == 1 && last >= 1 && last <= 3 && s[0] != '0' && len(s)-last == 4:
			return "", fmt.Errorf("%q %w: %s or %s.%s; write it without the mark, or with other decimals", text, ErrEither, s[:last]+s[last+1:], s[:last], s[last+1:])
		default:
			decimal = last
		}
	}
	whole, fraction := s, ""
	if decimal >= 0 {
		whole, fraction = s[:decimal], s[decimal:]
	}
	digits, parted := strings.Builder{}, byte(0)
	run := 0
	for i := range len(whole) {
		c := whole[i]
		if c >= '0' && c <= '9' {
			digits.WriteByte(c)
			run++
			continue
		}
		if first := parted == 0; parted != 0 && c != parted || first && (run < 1 || run > 3) || !first && run != 3 {
			return "", wrong
		}
		parted, run = c, 0
	}
	if parted != 0 && run != 3 {
		return "", wrong
	}
	if digits.Len() == 0 {
		digits.WriteByte('0')
	}
	if fraction != "" {
		fraction = "." + fraction[1:]
	}
	return sign + digits.String() + fraction, nil
}

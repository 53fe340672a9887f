package feed

import (
	"strings"
	"unicode"
)

// Inert keeps a spreadsheet from taking a text that came from elsewhere for a
// formula, by an apostrophe before it: also where the sign stands behind white
// space, an invisible mark or in its full-width form. Plain takes it off again.
func Inert(cell string) string {
	if risky(cell) {
		return "'" + cell
	}
	return cell
}

// Plain is a cell that Inert wrote, as it was.
func Plain(cell string) string {
	if inner, ok := strings.CutPrefix(cell, "'"); ok && risky(inner) {
		return inner
	}
	return cell
}

// risky tells whether a spreadsheet might calculate with a cell. Apostrophes
// before the sign don't count, so that Plain always gives what Inert was given.
func risky(cell string) bool {
	rest := strings.TrimLeftFunc(cell, func(r rune) bool {
		return r == '\'' || unicode.IsSpace(r) || unicode.IsControl(r) || unicode.In(r, unicode.Cf, unicode.M)
	})
	if rest == "" {
		return strings.ContainsAny(cell, "\t\r")
	}
	for _, r := range rest {
		return strings.ContainsRune("=+-@＝＋－＠", r)
	}
	return false
}

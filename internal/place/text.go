package place

import (
	"strings"
	"unicode"
)

// OneLine keeps a text that came from elsewhere on the line it stands on: in a mail, a
// header, a label.
func OneLine(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, s)
}

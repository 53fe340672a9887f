package reckon

import (
	"html"
	"regexp"
	"strings"

	"github.com/microcosm-cc/bluemonday"
)

// What a place forbids in a description, and what would send a buyer elsewhere:
// addresses of pages and of mail, telephone numbers.
var elsewhere = regexp.MustCompile(`(?i)\b(?:https?://|www\.)\S+|\b[\w.+-]+@[\w-]+(?:\.[\w-]+)+|(?:\+|\b0)\d[\d ()/.-]{7,}\d`)

var (
	endOfLine = regexp.MustCompile(`(?i)<(?:br|/p|/li|/ul|/ol|/h[1-6]|/div)\b[^>]*>`)
	blanks    = regexp.MustCompile(`[ \t]*\n[ \t\n]*`)
)

// Description is a supplier's description as a place takes it: with its tags, or
// plain where it takes none; without scripts, addresses and telephone numbers.
func Description(text string, tags []string) string {
	text = elsewhere.ReplaceAllString(text, "")
	if len(tags) > 0 {
		p := bluemonday.NewPolicy()
		p.AllowElements(tags...)
		return strings.TrimSpace(p.Sanitize(text))
	}
	text = endOfLine.ReplaceAllString(text, "$0\n")
	text = html.UnescapeString(bluemonday.StrictPolicy().Sanitize(text))
	return strings.TrimSpace(blanks.ReplaceAllString(text, "\n"))
}

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

// ForBuyers is a description as it goes out, whoever wrote it: of its tags only
// those that a place takes, and none of what stands in them.
func ForBuyers(text string, tags []string) string {
	if len(tags) == 0 {
		return text // it takes none, which the check says
	}
	return only(tags).Sanitize(text)
}

func only(tags []string) *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(tags...)
	return p
}

// Description is a supplier's description as a place takes it: with its tags, or
// plain where it takes none; without scripts, addresses and telephone numbers.
func Description(text string, tags []string) string {
	text = elsewhere.ReplaceAllString(text, "")
	if len(tags) > 0 {
		return strings.TrimSpace(only(tags).Sanitize(text))
	}
	text = endOfLine.ReplaceAllString(text, "$0\n")
	text = html.UnescapeString(bluemonday.StrictPolicy().Sanitize(text))
	return strings.TrimSpace(blanks.ReplaceAllString(text, "\n"))
}

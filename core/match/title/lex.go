package title

import (
	"html"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// How a token stands to the one before it.
const (
	glued  = iota // nothing between: 35l
	joined        // a hyphen, stroke or underscore: 4-piece
	spaced        // white space
	broken        // a comma, bracket, dash or full stop: another thought
)

// token is a run of letters, a number, or one of the signs that mean something
// here (inch, foot, per cent, times and the stroke of a fraction).
type token struct {
	text   string // folded: small letters without accents
	number bool
	value  int64 // thousandths, where it is a number
	other  int64 // its value where the mark in it is read the other way; else the same
	gap    uint8
	stop   bool // a full stop or an apostrophe follows, as in an initial
}

var fractions = strings.NewReplacer("½", " 1/2", "¼", " 1/4", "¾", " 3/4", "⅓", " 1/3", "⅔", " 2/3", "⅛", " 1/8")

var plain = strings.NewReplacer("ß", "ss", "ø", "o", "æ", "ae", "œ", "oe", "ł", "l", "đ", "d", "ı", "i", "þ", "th", "×", " x ", "″", `"`, "”", `"`, "“", `"`, "º", "°", "′", "'", "’", "'", "‘", "'", "´", "'", "`", "'", "‑", "-", "‐", "-", "–", " – ", "—", " – ", "−", "-")

// Fold is a text in small letters without accents, with HTML entities as their
// characters: what is compared.
func Fold(s string) string {
	s = html.UnescapeString(s)
	ascii := true
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			ascii = false
			break
		}
	}
	if ascii {
		return strings.ToLower(s)
	}
	s = plain.Replace(fractions.Replace(strings.ToLower(norm.NFC.String(s))))
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r) || unicode.Is(unicode.Cf, r):
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		return r
	}, plain.Replace(norm.NFKD.String(s)))
}

// lex parts a text into tokens. There is nothing it can't read.
func lex(text string) []token {
	s := Fold(text)
	out := make([]token, 0, len(s)/5+4)
	gap := uint8(broken)
	for i := 0; i < len(s); {
		c := s[i]
		switch {
		case c >= '0' && c <= '9':
			t, n := number(s[i:])
			t.gap = gap
			out, gap, i = append(out, t), glued, i+n
		case c >= 'a' && c <= 'z' || c >= utf8.RuneSelf:
			j := i
			for j < len(s) && (s[j] >= 'a' && s[j] <= 'z' || s[j] >= utf8.RuneSelf) && (j == i || !strings.HasPrefix(s[j:], "°")) {
				j++
			}
			if c >= utf8.RuneSelf { // other scripts, and signs that say nothing
				r, _ := utf8.DecodeRuneInString(s[i:])
				if r == '°' && len(out) > 0 && out[len(out)-1].number && gap <= spaced {
					out, gap, i = append(out, token{text: "°", gap: gap}), glued, i+len("°")
					continue
				}
				if !unicode.IsLetter(r) && !unicode.IsDigit(r) {
					i += utf8.RuneLen(r)
					gap = broken
					continue
				}
			}
			if j < len(s) && s[j] == '\'' && j+1 < len(s) && s[j+1] >= 'a' && s[j+1] <= 'z' {
				if j-i <= 2 { // l'eau, d'acier
					i, gap = j+1, spaced
					continue
				}
				k := j + 1
				for k < len(s) && s[k] >= 'a' && s[k] <= 'z' {
					k++
				}
				out = append(out, token{text: s[i:j] + s[j+1:k], gap: gap}) // men's
				gap, i = glued, k
				continue
			}
			// 500mlx6 and 30 cmx20: the x is a sign of its own
			if j-i > 1 && j-i < 5 && s[j-1] == 'x' && j < len(s) && isDigit(s[j]) && len(out) > 0 && out[len(out)-1].number && gap <= spaced {
				out = append(out, token{text: s[i : j-1], gap: gap}, token{text: "x", gap: glued})
				gap, i = glued, j
				continue
			}
			out = append(out, token{text: s[i:j], gap: gap, stop: j < len(s) && s[j] == '.'})
			gap, i = glued, j
		case (c == '"' || c == '\'') && len(out) > 0 && out[len(out)-1].number && gap == glued:
			n := 1
			if c == '\'' && i+1 < len(s) && s[i+1] == '\'' {
				c, n = '"', 2
			}
			out, gap, i = append(out, token{text: string(c), gap: glued}), glued, i+n
		case c == '%':
			out, gap, i = append(out, token{text: "%", gap: gap}), glued, i+1
		case c == '*' && len(out) > 0 && out[len(out)-1].number && digitNext(s[i+1:]):
			out, gap, i = append(out, token{text: "x", gap: gap}), glued, i+1
		case c == '-' || c == '/' || c == '_' || c == '+' || c == '&' || c == '#':
			gap = max(gap, joined)
			if c == '+' || c == '&' || c == '#' {
				gap = max(gap, spaced)
			}
			if c == '/' && i > 0 && i+1 < len(s) && isDigit(s[i-1]) && isDigit(s[i+1]) {
				out, gap = append(out, token{text: "/", gap: glued}), glued
			}
			// " - " parts thoughts, "non-stick" doesn't
			if i > 0 && s[i-1] == ' ' && i+1 < len(s) && s[i+1] == ' ' {
				gap = broken
			}
			i++
		case c == ' ':
			gap = max(gap, spaced)
			i++
		default:
			gap = broken
			i++
		}
	}
	return out
}

func digitNext(s string) bool {
	s = strings.TrimLeft(s, " ")
	return s != "" && isDigit(s[0])
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// number reads the number that s begins with, and its length. The comma and the
// point are alike: one before three digits may also part thousands.
func number(s string) (token, int) {
	j := 0
	for j < len(s) && isDigit(s[j]) {
		j++
	}
	whole := s[:j]
	t := token{number: true, text: whole}
	var groups []string
	mark := byte(0)
	for j+1 < len(s) && (s[j] == '.' || s[j] == ',') && isDigit(s[j+1]) && (mark == 0 || s[j] == mark) {
		k := j + 1
		for k < len(s) && isDigit(s[k]) {
			k++
		}
		mark = s[j]
		groups = append(groups, s[j+1:k])
		j = k
	}
	thousands := len(whole) <= 3 && whole[0] != '0' && len(groups) > 0
	for _, g := range groups {
		thousands = thousands && len(g) == 3
	}
	asDecimal := func() int64 { return thousandths(whole, groups[0]) }
	asThousands := func() int64 { return thousandths(whole+strings.Join(groups, ""), "") }
	switch {
	case len(groups) == 0:
		t.value = thousandths(whole, "")
		t.other = t.value
	case len(groups) > 1 && !thousands: // 12.5.2026 and the like: a code
		t.value, t.other = -1, -1
	case len(groups) > 1:
		t.value = asThousands()
		t.other = t.value
	case thousands && mark == ',':
		t.value, t.other = asThousands(), asDecimal()
	case thousands:
		t.value, t.other = asDecimal(), asThousands()
	default:
		t.value = asDecimal()
		t.other = t.value
	}
	t.text = s[:j]
	return t, j
}

// thousandths is whole.decimals in thousandths; -1 for what no figure is.
func thousandths(whole, decimals string) int64 {
	if len(whole) > 12 {
		return -1
	}
	n := int64(0)
	for i := range len(whole) {
		n = n*10 + int64(whole[i]-'0')
	}
	for i := range 3 {
		n *= 10
		if i < len(decimals) {
			n += int64(decimals[i] - '0')
		}
	}
	return n
}

// whole tells whether a token is a whole number, and which.
func (t *token) whole() (int64, bool) {
	if !t.number || t.value < 0 || t.value%1000 != 0 || strings.ContainsAny(t.text, ".,") {
		return 0, false
	}
	return t.value / 1000, true
}

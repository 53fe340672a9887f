package ident

import (
	"encoding/json"
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

// Read reads one text, steps 1 to 7 of docs/definitions/identifiers.md.
func Read(text string) Number {
	if plain(text) { // as nearly all are: nothing to clean, no damage to look for
		return number(text)
	}
	s, early := clean(text)
	if early != nil {
		return *early
	}
	var first *Number
	for _, rest := range labelled(s) {
		n := number(rest)
		if n.Status != Wrong {
			return n
		}
		if first == nil {
			first = &n
		}
	}
	if first != nil {
		return *first
	}
	return number(s)
}

// plain tells whether a text is digits alone, of a length that has no repairs.
func plain(s string) bool {
	switch len(s) {
	case 8, 12, 13, 14:
	default:
		return false
	}
	for i := range len(s) {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}

func isDash(r rune) bool { return r == '\u00ad' || r == '\u2212' || unicode.Is(unicode.Pd, r) }

// clean is step 1 up to the label.
func clean(text string) (string, *Number) {
	s := strings.Map(func(r rune) rune {
		if r != '\u00ad' && unicode.Is(unicode.Cf, r) {
			return -1
		}
		return r
	}, text)
	s = strings.TrimSpace(s)
	if inner, ok := strings.CutPrefix(s, `="`); ok && strings.HasSuffix(inner, `"`) {
		s = strings.TrimSpace(inner[:len(inner)-1])
	}
	for _, mark := range []string{"'", "‘", "’"} {
		if rest, ok := strings.CutPrefix(s, mark); ok {
			s = rest
			break
		}
	}
	dashes, others := 0, 0
	var b strings.Builder
	var last [2]rune // the two characters kept last
	minus := false
	for _, r := range s {
		switch {
		case isDash(r):
			dashes++
			minus = minus || (last[1] == 'E' || last[1] == 'e') && isDigit(last[0])
			last = [2]rune{}
			continue
		case unicode.IsSpace(r):
			continue
		}
		others++
		if d, ok := decimal(r); ok {
			r = d
		}
		b.WriteRune(r)
		last = [2]rune{last[1], r}
	}
	if others == 0 && dashes > 0 {
		n := none(WhyPlaceholder)
		return "", &n
	}
	if minus {
		n := wrong(WhyCharacters)
		return "", &n
	}
	return b.String(), nil
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }

// decimal turns any Unicode decimal digit into its ASCII one. The ranges of Nd
// are runs of tens that begin with a zero.
func decimal(r rune) (rune, bool) {
	if r < 0x80 || !unicode.Is(unicode.Nd, r) {
		return 0, false
	}
	for _, x := range unicode.Nd.R16 {
		if r >= rune(x.Lo) && r <= rune(x.Hi) {
			return '0' + (r-rune(x.Lo))%10, true
		}
	}
	for _, x := range unicode.Nd.R32 {
		if r >= rune(x.Lo) && r <= rune(x.Hi) {
			return '0' + (r-rune(x.Lo))%10, true
		}
	}
	return 0, false
}

var labels = map[string][]string{"EAN": {"8", "13"}, "UPC": {"12"}, "GTIN": {"8", "12", "13", "14"}, "ISBN": {"10", "13"}}

// labelled lists what may be left of a text that begins with a label, in the
// order to try; only what is possible.
func labelled(s string) []string {
	for label, lengths := range labels {
		if len(s) < len(label) || !strings.EqualFold(s[:len(label)], label) {
			continue
		}
		rest := s[len(label):]
		var exact, loose []string
		for _, l := range lengths {
			if left, ok := strings.CutPrefix(rest, l); ok {
				left = strings.TrimPrefix(left, ":")
				n, _ := strconv.Atoi(l)
				if possible(left) {
					loose = append(loose, left)
					if len(left) == n {
						exact = append(exact, left)
					}
				}
			}
		}
		if alone := strings.TrimPrefix(rest, ":"); possible(alone) {
			exact = append(exact, alone)
		}
		return append(exact, loose...)
	}
	return nil
}

var (
	plainForm    = regexp.MustCompile(`^(?:[0-9]{6,14}|[0-9]{9}[Xx])$`)
	decimalForm  = regexp.MustCompile(`^([0-9]+)[.,]0+$`)
	exponentForm = regexp.MustCompile(`^([0-9])(?:[.,]([0-9]+))?[eE]\+?([0-9]+)$`)
)

func possible(s string) bool {
	if m := decimalForm.FindStringSubmatch(s); m != nil {
		s = m[1]
	} else if m := exponentForm.FindStringSubmatch(s); m != nil {
		e, err := strconv.Atoi(m[3])
		return err == nil && e >= 5 && e <= 13
	}
	return plainForm.MatchString(s)
}

// number is steps 2 to 7.
func number(s string) Number {
	if why := nothing(s); why != "" {
		return none(why)
	}
	if plain(s) {
		if n := judge(s); !fillerGTIN[n.GTIN] {
			return n
		}
		return none(WhyPlaceholder)
	}
	var repair Why
	if m := decimalForm.FindStringSubmatch(s); m != nil {
		s, repair = m[1], WhyDecimal
	} else if m := exponentForm.FindStringSubmatch(s); m != nil {
		e, err := strconv.Atoi(m[3])
		if err != nil || e != len(m[2]) {
			return Number{Status: Lost, Why: WhyExponent}
		}
		s, repair = m[1]+m[2], WhyExponent
	}
	if repair != "" {
		if why := nothing(s); why != "" {
			return none(why)
		}
	}
	if len(s) == 10 && s[9] == 'x' {
		s = s[:9] + "X"
	}
	for i := 0; i < len(s); i++ {
		if !isDigit(rune(s[i])) && !(i == 9 && len(s) == 10 && s[9] == 'X') {
			return wrong(WhyCharacters)
		}
	}
	n := judge(s)
	if n.Found() {
		if fillerGTIN[n.GTIN] {
			return none(WhyPlaceholder)
		}
		if repair != "" && n.Status == Good {
			n.Status, n.Why = Repaired, repair
		}
	}
	return n
}

var nothingWords = map[string]bool{
	"n/a":           true,
	"na":            true,
	"none":          true,
	"null":          true,
	"doesnotapply":  true,
	"notapplicable": true,
	"unknown":       true,
	"tbd":           true,
}

// Keyboard fillers, and the numbers they would be stored as.
var (
	fillers    = map[string]bool{"1234567890128": true, "123456789012": true, "0123456789012": true, "012345678905": true}
	fillerGTIN = map[string]bool{"01234567890128": true, "00123456789012": true, "00012345678905": true}
)

// nothing is step 2.
func nothing(s string) Why {
	switch {
	case s == "":
		return WhyEmpty
	case nothingWords[strings.ToLower(s)], fillers[s], isDigit(rune(s[0])) && strings.Trim(s, s[:1]) == "":
		return WhyPlaceholder
	}
	return ""
}

// Answer is one line of `easymargin identify`, docs/definitions/identifiers.md, "Input and answer".
func Answer(in string) []byte {
	n := Read(in)
	text := func(s string) *string {
		if s == "" {
			return nil
		}
		return &s
	}
	a := map[string]any{"in": in, "kind": text(string(n.Kind)), "gtin": text(n.GTIN), "shown": text(n.Shown),
		"status": n.Status, "why": n.Why, "use": text(string(n.Use))}
	if n.Kind == GTIN14 {
		a["inside"] = text(n.Inside)
	}
	out, err := json.Marshal(a)
	if err != nil {
		panic(err) // texts can't fail to encode
	}
	return out
}

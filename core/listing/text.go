package listing

import (
	"encoding/json"
	"errors"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Text is what is said of an attribute: one text, or a list of them.
type Text []string

// UnmarshalJSON reads a text or a list of texts.
func (t *Text) UnmarshalJSON(raw []byte) error {
	switch raw[0] {
	case 'n':
		return nil
	case '"':
		*t = Text{""}
		return json.Unmarshal(raw, &(*t)[0])
	}
	var list []string
	if raw[0] != '[' || json.Unmarshal(raw, &list) != nil {
		return errors.New("must be a text or a list of texts")
	}
	*t = list
	if len(list) == 1 { // a list all the same, which no bar parts
		*t = append(*t, "")
	}
	return nil
}

// MarshalJSON writes one text as a text.
func (t Text) MarshalJSON() ([]byte, error) {
	if len(t) == 1 {
		return json.Marshal(t[0])
	}
	return json.Marshal([]string(t))
}

// joined is the text, or the list joined; trimmed and in NFC.
func (t Text) joined() string {
	if len(t) == 1 {
		return clean(t[0])
	}
	return strings.Join(t.items(), ", ")
}

// items are the texts that aren't blank.
func (t Text) items() []string {
	var out []string
	for _, s := range t {
		if s = clean(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

// choices are the items of an attribute that takes several: a text is parted by bars.
func (t Text) choices() []string {
	if len(t) == 1 {
		t = strings.Split(t[0], "|")
	}
	return t.items()
}

// clean is a text in NFC without outer white space.
func clean(s string) string { return strings.TrimSpace(norm.NFC.String(s)) }

// Alike is what is compared of a text: no case, no accents, no outer spaces.
func Alike(s string) string { return strings.TrimSpace(fold(s)) }

// fold is a text without case, by Unicode's full folding, and without the
// combining marks of its NFD form.
func fold(s string) string {
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
	return unmarked(cases.Fold().String(unmarked(s)))
}

func unmarked(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.Is(unicode.M, r) {
			return -1
		}
		return r
	}, norm.NFD.String(s))
}

// Length counts a text, as it would be sent (in NFC), in a site's own way; as
// characters where it doesn't say.
func Length(s, counts string) int64 {
	if !norm.NFC.IsNormalString(s) {
		s = norm.NFC.String(s)
	}
	switch counts {
	case Bytes:
		return int64(len(s))
	case UTF16:
		n := int64(0)
		for _, r := range s {
			n++
			if r > 0xFFFF {
				n++
			}
		}
		return n
	}
	return int64(utf8.RuneCountInString(s))
}

func over(s, counts string, limit *int64) bool { return limit != nil && Length(s, counts) > *limit }

// spaced is a text with one space for inner white space, and none outside.
func spaced(s string) string { return strings.Join(strings.Fields(s), " ") }

// phrase finds a text in others, both folded and spaced: no letter or digit may
// touch its outer letter or digit.
func phrase(in, what string) bool {
	if what == "" {
		return false
	}
	first, _ := utf8.DecodeRuneInString(what)
	last, _ := utf8.DecodeLastRuneInString(what)
	for from := 0; ; {
		i := strings.Index(in[from:], what)
		if i < 0 {
			return false
		}
		i += from
		before, _ := utf8.DecodeLastRuneInString(in[:i])
		after, _ := utf8.DecodeRuneInString(in[i+len(what):])
		if !(wordly(first) && wordly(before)) && !(wordly(last) && wordly(after)) {
			return true
		}
		_, size := utf8.DecodeRuneInString(in[i:])
		from = i + size
	}
}

func wordly(r rune) bool { return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r)) }

// tag is one tag of a text: where it stands and its name.
type tag struct {
	from, to int
	name     string
}

// tags are '<', maybe '/', a letter, up to '>'.
func tags(s string) []tag {
	var out []tag
	for i := 0; i < len(s); {
		at := strings.IndexByte(s[i:], '<')
		if at < 0 {
			break
		}
		at += i
		i = at + 1
		name := strings.TrimPrefix(s[at+1:], "/")
		if r, _ := utf8.DecodeRuneInString(name); !unicode.IsLetter(r) {
			continue
		}
		end := strings.IndexByte(name, '>')
		if end < 0 {
			break
		}
		i = len(s) - len(name) + end + 1
		name = name[:end]
		if cut := strings.IndexFunc(name, func(r rune) bool { return unicode.IsSpace(r) || r == '/' }); cut >= 0 {
			name = name[:cut]
		}
		out = append(out, tag{at, i, strings.ToLower(name)})
	}
	return out
}

// untagged is a text without its tags.
func untagged(s string, all []tag) string {
	var b strings.Builder
	from := 0
	for _, t := range all {
		b.WriteString(s[from:t.from])
		from = t.to
	}
	b.WriteString(s[from:])
	return b.String()
}

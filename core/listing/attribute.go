package listing

import (
	"fmt"
	"math/big"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"easymargin/core/money"
)

// asked is an attribute made ready: what is compared is worked out once.
type asked struct {
	Attribute
	field       string
	allowed     map[string]string // folded → as the place writes it, the first of those alike
	least, most *big.Rat
	in          []map[string]bool // by condition, folded
	leads       []int             // by condition, the attribute that its field may be; -1 for none
}

// read is a value as the place writes it, joined where there are several, and
// each by itself; a code says what is wrong with it. The value isn't blank.
func (a *asked) read(t Text, c money.Currency) (value string, each []string, code string) {
	if a.Kind == KindChoices {
		each, code = a.several(t.choices())
		return strings.Join(each, "|"), each, code
	}
	value, code = a.one(t.joined(), c)
	return value, []string{value}, code
}

func (a *asked) one(text string, c money.Currency) (value, code string) {
	switch a.Kind {
	case KindNumber:
		return a.figure(text, c)
	case KindChoice:
		if value, ok := a.allows(text); ok {
			return value, ""
		}
		return "", "not one of"
	case KindYesNo:
		switch fold(text) {
		case "yes", "y", "true", "1", "ja", "oui":
			return "yes", ""
		case "no", "n", "false", "0", "nein", "non":
			return "no", ""
		}
		return "", "not yes or no"
	case KindDate:
		if day, ok := readDay(text); ok {
			return day, ""
		}
		return "", "not a date"
	case KindLink:
		if over(text, a.Counts, a.Limit) {
			return "", "too long"
		}
		if !isLink(text) {
			return "", "not a link"
		}
		return text, ""
	}
	if over(text, a.Counts, a.Limit) {
		return "", "too long"
	}
	return text, ""
}

func (a *asked) figure(text string, c money.Currency) (value, code string) {
	v, code := a.number(text, c)
	if code != "" {
		return "", code
	}
	value, decimals, ok := written(v)
	switch {
	case !ok || a.Decimals != nil && decimals > *a.Decimals:
		return "", tooMany
	case a.least != nil && v.Cmp(a.least) < 0:
		return "", "too small"
	case a.most != nil && v.Cmp(a.most) > 0:
		return "", "too large"
	}
	return value, ""
}

// several are choices as the place writes them, each once.
func (a *asked) several(texts []string) (out []string, code string) {
	seen := map[string]bool{}
	for _, s := range texts {
		value, ok := a.allows(s)
		if !ok {
			return nil, "not one of"
		}
		key := value
		if a.allowed == nil {
			key = Alike(s)
		}
		if !seen[key] {
			seen[key] = true
			out = append(out, value)
		}
	}
	if a.AtMost != nil && int64(len(out)) > *a.AtMost {
		return nil, "too many"
	}
	return out, ""
}

// allows finds a text among the allowed values: the very one, else the first
// alike. Where the place lists none, all are.
func (a *asked) allows(text string) (string, bool) {
	if a.allowed == nil {
		return text, true
	}
	v, ok := a.allowed[Alike(text)]
	if ok && v != text && slices.Contains(a.Values, text) {
		return text, true
	}
	return v, ok
}

// readDay reads YYYY-MM-DD, YYYY/MM/DD and DD.MM.YYYY; days and months may have one digit.
func readDay(s string) (string, bool) {
	for _, mark := range []string{"-", "/", "."} {
		f := strings.Split(s, mark)
		if len(f) != 3 {
			continue
		}
		if mark == "." {
			f[0], f[2] = f[2], f[0]
		}
		if len(f[0]) != 4 || len(f[1]) < 1 || len(f[1]) > 2 || len(f[2]) < 1 || len(f[2]) > 2 {
			return "", false
		}
		var n [3]int
		for i := range f {
			v, err := strconv.ParseUint(f[i], 10, 16)
			if err != nil {
				return "", false
			}
			n[i] = int(v)
		}
		if n[1] < 1 || n[1] > 12 || n[2] < 1 || n[2] > daysIn(n[0], n[1]) {
			return "", false
		}
		return fmt.Sprintf("%04d-%02d-%02d", n[0], n[1], n[2]), true
	}
	return "", false
}

// daysIn is how many days a month of the Gregorian calendar has.
func daysIn(year, month int) int {
	switch {
	case month == 2 && year%4 == 0 && (year%100 != 0 || year%400 == 0):
		return 29
	case month == 2:
		return 28
	case month == 4 || month == 6 || month == 9 || month == 11:
		return 30
	}
	return 31
}

// isLink tells whether a text is an absolute http or https address.
func isLink(s string) bool {
	u, err := url.Parse(s)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Hostname() != "" && !strings.ContainsFunc(s, unicode.IsSpace)
}

// applies tells whether all conditions of an attribute hold.
func (k *check) applies(i int) bool {
	a := &k.needs[i]
	for n := range a.When {
		if !k.holds(i, n) {
			return false
		}
	}
	return true
}

// holds looks at one condition. The attribute it names counts as empty where it
// doesn't apply itself, unless their conditions lead back to each other.
func (k *check) holds(i, n int) bool {
	a := &k.needs[i]
	w := &a.When[n]
	if w.Entry != nil {
		return *w.Entry == k.entry
	}
	texts := k.texts(w.Field)
	if j := k.leads(i, n); texts != nil && j >= 0 && !k.reaches(j, i, map[int]bool{}) && !k.applies(j) {
		texts = nil
	}
	if w.Filled != nil {
		return *w.Filled == (texts != nil)
	}
	return slices.ContainsFunc(texts, func(s string) bool { return a.in[n][Alike(s)] })
}

// leads is the attribute that a condition looks at; -1 where it looks at none.
func (k *check) leads(i, n int) int {
	w := &k.needs[i].When[n]
	if w.Entry != nil || k.v.named(w.Field) != "" {
		return -1
	}
	return k.needs[i].leads[n]
}

// reaches tells whether the conditions of one attribute lead to another.
func (k *check) reaches(from, to int, seen map[int]bool) bool {
	if from == to {
		return true
	}
	if seen[from] {
		return false
	}
	seen[from] = true
	for n := range k.needs[from].When {
		if j := k.leads(from, n); j >= 0 && k.reaches(j, to, seen) {
			return true
		}
	}
	return false
}

// texts are all that a field may be compared as: as written, and where it is
// valid as the place writes it; nil where it is empty.
func (k *check) texts(field string) []string {
	if s := k.v.named(field); s != "" {
		return []string{s}
	}
	t := k.v.Attributes[field]
	i, known := k.at[field]
	if !known || k.needs[i].Kind != KindChoices {
		s := t.joined()
		if s == "" {
			return nil
		}
		if out := []string{s}; !known {
			return out
		}
	}
	out := []string{t.joined()}
	if k.needs[i].Kind == KindChoices {
		if out = t.choices(); out == nil {
			return nil
		}
	}
	if _, each, code := k.needs[i].read(t, k.currency); code == "" {
		out = append(out, each...)
	}
	return out
}

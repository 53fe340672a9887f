// Package sieve is conditions on facts: one form for lists, rules and watches. A
// sieve is conditions that must all hold; each may be several of which any does.
// docs/weighing.md says how people use it.
package sieve

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/money"
)

// Kind says what a column holds, and so which conditions it takes.
type Kind string

// The kinds of columns.
const (
	Amount Kind = "amount" // minor units of the currency of the sieve's site
	Count  Kind = "count"
	Share  Kind = "share"  // millionths
	Rating Kind = "rating" // hundredths
	Text   Kind = "text"   // words, found by any form of theirs
	Name   Kind = "name"   // one of a set of names, such as a brand
	Truth  Kind = "truth"  // yes or no
)

// Column is a fact that conditions may look at.
type Column struct {
	Name string
	Kind Kind
	// Follows tells that it follows from prices, or from what is listed. A rule or
	// a watch whose sieve looked at it would change what it looks at.
	Follows bool
}

// Op is how a column is compared.
type Op string

// The comparisons.
const (
	Is      Op = "is"
	IsNot   Op = "is not"
	Above   Op = "above"
	Below   Op = "below"
	Between Op = "between" // its ends among them
	OneOf   Op = "one of"
	Has     Op = "has words"
	Empty   Op = "empty"
	Filled  Op = "filled"
)

// ops are the comparisons that each kind of column takes.
var ops = map[Kind][]Op{
	Amount: {Above, Below, Between, Is, Empty, Filled},
	Count:  {Above, Below, Between, Is, IsNot, Empty, Filled},
	Share:  {Above, Below, Between, Empty, Filled},
	Rating: {Above, Below, Between, Empty, Filled},
	Text:   {Has},
	Name:   {Is, IsNot, OneOf, Empty, Filled},
	Truth:  {Is},
}

// Ops are the comparisons that a column takes, the usual first.
func (c Column) Ops() []Op { return ops[c.Kind] }

// Condition is one comparison of one column. Values are as people write them:
// amounts in major units, shares as percentages, "yes" and "no".
type Condition struct {
	Column string   `json:"column"`
	Op     Op       `json:"op"`
	Values []string `json:"values,omitempty"`
}

// Any is conditions of which any must hold.
type Any []Condition

// Sieve is conditions that must all hold. The zero value lets everything through.
type Sieve []Any

// Most is the most conditions that a sieve has.
const Most = 40

// Read reads a sieve as JSON: a list whose parts are a condition, or a list of
// conditions of which any holds. "" is the sieve that lets everything through.
func Read(text string) (Sieve, error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	var parts []json.RawMessage
	if err := json.Unmarshal([]byte(text), &parts); err != nil {
		return nil, fmt.Errorf("a sieve is a list of conditions: %w", err)
	}
	var out Sieve
	for _, p := range parts {
		var any Any
		if len(p) > 0 && p[0] == '{' {
			any = make(Any, 1)
			if err := json.Unmarshal(p, &any[0]); err != nil {
				return nil, fmt.Errorf("a condition has a column, an op and values: %w", err)
			}
		} else if err := json.Unmarshal(p, &any); err != nil {
			return nil, fmt.Errorf("a condition has a column, an op and values: %w", err)
		}
		if len(any) > 0 {
			out = append(out, any)
		}
	}
	return out, nil
}

// Test is a condition made ready: its values as the column holds them.
type Test struct {
	Column Column
	Op     Op
	From   int64    // the value, or the lower end
	To     int64    // the upper end
	Words  []string // names or words
}

// Tests are a sieve made ready: all of them must hold, each if any of its own does.
type Tests [][]Test

// Error is what is wrong with a condition, by its place in the sieve.
type Error struct {
	At     int // which of the sieve's parts, from 0
	Column string
	Words  string
}

func (e *Error) Error() string { return fmt.Sprintf("condition %d, %s: %s", e.At+1, e.Column, e.Words) }

// Ready checks a sieve against columns and makes it ready for amounts of a
// currency; with none it only checks, for amounts of any. The error is an *Error.
func (s Sieve) Ready(columns []Column, cur money.Currency) (Tests, error) {
	out := make(Tests, 0, len(s))
	n := 0
	for i, any := range s {
		tests := make([]Test, 0, len(any))
		for _, c := range any {
			if n++; n > Most {
				return nil, &Error{i, c.Column, fmt.Sprintf("a sieve has at most %d conditions", Most)}
			}
			t, err := c.ready(columns, cur)
			if err != nil {
				return nil, &Error{i, c.Column, err.Error()}
			}
			tests = append(tests, t)
		}
		out = append(out, tests)
	}
	return out, nil
}

// FactsOnly says which of its columns keeps a sieve from being used by a rule:
// one that follows from prices. "" where none does.
func (s Sieve) FactsOnly(columns []Column) string {
	for _, any := range s {
		for _, c := range any {
			if i := slices.IndexFunc(columns, func(x Column) bool { return x.Name == c.Column }); i >= 0 && columns[i].Follows {
				return c.Column
			}
		}
	}
	return ""
}

// Looks tells whether a sieve made ready looks at any of some columns.
func (t Tests) Looks(columns ...string) bool {
	return slices.ContainsFunc(t, func(any []Test) bool {
		return slices.ContainsFunc(any, func(x Test) bool { return slices.Contains(columns, x.Column.Name) })
	})
}

func (c *Condition) ready(columns []Column, cur money.Currency) (Test, error) {
	i := slices.IndexFunc(columns, func(x Column) bool { return x.Name == c.Column })
	if i < 0 {
		return Test{}, fmt.Errorf("there is no such column")
	}
	t := Test{Column: columns[i], Op: c.Op}
	if !slices.Contains(t.Column.Ops(), c.Op) {
		return t, fmt.Errorf("it can't be asked whether it is %q", string(c.Op))
	}
	need := map[Op]int{Empty: 0, Filled: 0, Between: 2}
	want, fixed := need[c.Op]
	switch {
	case fixed && len(c.Values) != want:
		return t, fmt.Errorf("%q takes %d values", string(c.Op), want)
	case !fixed && len(c.Values) == 0, !fixed && c.Op != OneOf && len(c.Values) != 1:
		return t, fmt.Errorf("%q takes one value", string(c.Op))
	}
	var err error
	for k, text := range c.Values {
		switch t.Column.Kind {
		case Text:
			t.Words = strings.Fields(text)
			if len(t.Words) == 0 {
				return t, fmt.Errorf("write the words it has")
			}
		case Name:
			t.Words = append(t.Words, text)
		default:
			v, readErr := value(t.Column.Kind, text, cur)
			if readErr != nil {
				err = readErr
			}
			if k == 0 {
				t.From = v
			}
			t.To = v
		}
	}
	if err == nil && c.Op == Between && t.From > t.To {
		t.From, t.To = t.To, t.From
	}
	return t, err
}

// value reads one value of a kind as people write it.
func value(k Kind, text string, cur money.Currency) (int64, error) {
	text = strings.TrimSpace(strings.ReplaceAll(text, "−", "-"))
	switch k {
	case Amount:
		if cur == "" { // any: one with the most decimals takes what some does
			a, err := money.Parse(text, "BHD")
			if err != nil {
				return 0, fmt.Errorf("%q is not an amount", text)
			}
			return a.Minor, nil
		}
		a, err := money.Parse(text, cur)
		if err != nil {
			return 0, fmt.Errorf("%q is not an amount in %s", text, cur)
		}
		return a.Minor, nil
	case Share:
		if !strings.HasSuffix(text, "%") {
			text += "%"
		}
		r, err := money.ParseRate(text)
		if err != nil {
			return 0, fmt.Errorf("%q is not a percentage", strings.TrimSuffix(text, "%"))
		}
		return int64(r), nil
	case Rating:
		whole, part, _ := strings.Cut(text, ".")
		n, err := strconv.ParseInt(whole+(part + "00")[:2], 10, 32)
		if err != nil || n < 0 || len(part) > 2 {
			return 0, fmt.Errorf("%q is not a rating such as 4.5", text)
		}
		return n, nil
	case Truth:
		switch strings.ToLower(text) {
		case "yes":
			return 1, nil
		case "no":
			return 0, nil
		}
		return 0, fmt.Errorf("%q is neither yes nor no", text)
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, fmt.Errorf("%q is not a whole number", text)
	}
	return n, nil
}

// Facts give what is known of one thing by its column: a number, or its words;
// false where it isn't known.
type Facts interface {
	Number(column string) (int64, bool)
	Words(column string) (string, bool)
}

// Holds tells whether a thing goes through. What isn't known holds no
// comparison but empty.
func (t Tests) Holds(f Facts) bool {
	for _, any := range t {
		if !slices.ContainsFunc(any, func(x Test) bool { return x.holds(f) }) {
			return false
		}
	}
	return true
}

func (t *Test) holds(f Facts) bool {
	switch t.Column.Kind {
	case Text, Name:
		words, known := f.Words(t.Column.Name)
		known = known && words != ""
		switch t.Op {
		case Empty:
			return !known
		case Filled:
			return known
		case Has:
			return known && hasAll(words, t.Words)
		case IsNot:
			return !known || !slices.ContainsFunc(t.Words, func(w string) bool { return strings.EqualFold(w, words) })
		}
		return known && slices.ContainsFunc(t.Words, func(w string) bool { return strings.EqualFold(w, words) })
	}
	n, known := f.Number(t.Column.Name)
	switch t.Op {
	case Empty:
		return !known
	case Filled:
		return known
	case IsNot:
		return !known || n != t.From
	}
	if !known {
		return false
	}
	switch t.Op {
	case Above:
		return n > t.From
	case Below:
		return n < t.From
	case Between:
		return n >= t.From && n <= t.To
	}
	return n == t.From
}

// hasAll tells whether a text has the beginning of a word for each of some words.
func hasAll(text string, words []string) bool {
	have := strings.Fields(strings.ToLower(text))
	for _, w := range words {
		w = strings.ToLower(w)
		if !slices.ContainsFunc(have, func(h string) bool { return strings.HasPrefix(strings.Trim(h, ",.;:()"), w) }) {
			return false
		}
	}
	return true
}

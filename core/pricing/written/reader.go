// Package written reads and writes the file forms of package pricing: the cases
// of design/money.md, price rules, and the fee schedules of docs/fees.md. What
// can't be read is an error that names the field.
package written

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"

	"easymargin/core/money"
)

// fields is one JSON object of a case, and which of its keys were asked for.
type fields struct {
	path   string
	values map[string]json.RawMessage
	seen   map[string]bool
}

func object(path string, raw []byte) (*fields, error) {
	f := &fields{path: path, seen: map[string]bool{}}
	name := path
	if name == "" {
		name = "case"
	}
	if raw = bytes.TrimSpace(raw); len(raw) == 0 || raw[0] != '{' {
		return nil, fmt.Errorf("%s: must be a JSON object", name)
	}
	if err := json.Unmarshal(raw, &f.values); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return f, nil
}

func (f *fields) take(key string) (json.RawMessage, bool) {
	f.seen[key] = true
	v, ok := f.values[key]
	return v, ok
}

func (f *fields) name(key string) string {
	if f.path == "" {
		return key
	}
	return f.path + "." + key
}

// reader keeps the first error, so that reading is a list of what is wanted.
type reader struct{ err error }

func (r *reader) fail(path string, err error) {
	if r.err == nil {
		r.err = fmt.Errorf("%s: %w", path, err)
	}
}

// done refuses keys that nobody asked for.
func (r *reader) done(f *fields) {
	var unknown []string
	for k := range f.values {
		if !f.seen[k] {
			unknown = append(unknown, k)
		}
	}
	if sort.Strings(unknown); len(unknown) > 0 {
		r.fail(f.name(unknown[0]), errors.New("is not known here"))
	}
}

func (r *reader) text(f *fields, key string, needed bool) string {
	raw, ok := f.take(key)
	if !ok {
		if needed {
			r.fail(f.name(key), errors.New("is missing"))
		}
		return ""
	}
	var s string
	if raw[0] != '"' || json.Unmarshal(raw, &s) != nil {
		r.fail(f.name(key), errors.New("must be a text in quotes"))
	} else if s == "" && key != "name" && key != "id" {
		r.fail(f.name(key), errors.New("is empty"))
	}
	return s
}

func (r *reader) flag(f *fields, key string) bool {
	raw, ok := f.take(key)
	var b bool
	if ok && (raw[0] != 't' && raw[0] != 'f' || json.Unmarshal(raw, &b) != nil) {
		r.fail(f.name(key), errors.New("must be true or false"))
	}
	return b
}

// count is a whole number of at least least, which it is where it is left out.
func (r *reader) count(f *fields, key string, least int64) int64 {
	raw, ok := f.take(key)
	if !ok {
		return least
	}
	var n int64
	if json.Unmarshal(raw, &n) != nil || n < least {
		r.fail(f.name(key), fmt.Errorf("must be a whole number of at least %d", least))
		return least
	}
	return n
}

// amount is one not below 0; it tells whether the key was there.
func (r *reader) amount(f *fields, key string, c money.Currency, needed bool) (int64, bool) {
	v := r.signed(f, key, c, needed)
	raw, there := f.values[key]
	if strings.HasPrefix(string(raw), `"-`) {
		r.fail(f.name(key), errors.New("must not be below 0"))
	}
	return v, there
}

func (r *reader) signed(f *fields, key string, c money.Currency, needed bool) int64 {
	s := r.text(f, key, needed)
	if s == "" || r.err != nil {
		return 0
	}
	v, err := money.Parse(s, c)
	if err != nil {
		r.fail(f.name(key), err)
	}
	return v.Minor
}

func (r *reader) rate(f *fields, key string, needed bool) (money.Rate, bool) {
	s := r.text(f, key, needed)
	_, there := f.values[key]
	if s == "" || r.err != nil {
		return 0, there
	}
	v, err := money.ParseRate(s)
	if err == nil && s[0] == '-' {
		err = errors.New("must not be below 0")
	}
	if err != nil {
		r.fail(f.name(key), err)
	}
	return v, there
}

func (r *reader) signedRate(f *fields, key string) money.Rate {
	s := r.text(f, key, true)
	if s == "" || r.err != nil {
		return 0
	}
	v, err := money.ParseRate(s)
	if err != nil {
		r.fail(f.name(key), err)
	}
	return v
}

func (r *reader) child(f *fields, key string, needed bool) *fields {
	raw, ok := f.take(key)
	if !ok {
		if needed {
			r.fail(f.name(key), errors.New("is missing"))
		}
		return nil
	}
	o, err := object(f.name(key), raw)
	if err != nil && r.err == nil {
		r.err = err
	}
	return o
}

func (r *reader) list(f *fields, key string) []*fields {
	raw, ok := f.take(key)
	if !ok {
		return nil
	}
	var items []json.RawMessage
	if raw[0] != '[' || json.Unmarshal(raw, &items) != nil {
		r.fail(f.name(key), errors.New("must be a list"))
		return nil
	}
	var out []*fields
	for i, item := range items {
		o, err := object(fmt.Sprintf("%s[%d]", f.name(key), i), item)
		if err != nil {
			if r.err == nil {
				r.err = err
			}
			return nil
		}
		out = append(out, o)
	}
	return out
}

func oneOf(s string, words ...string) bool {
	for _, w := range words {
		if s == w {
			return true
		}
	}
	return false
}

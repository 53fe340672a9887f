// Package form reads JSON objects that people or programs write, key by key:
// cases, price rules, fee schedules. What can't be read is an error that names
// the field, and so is a key that nobody asked for.
package form

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"
	"time"

	"easymargin/core/money"
)

// Fields is one JSON object of a case, and which of its keys were asked for.
type Fields struct {
	Path   string
	Values map[string]json.RawMessage
	seen   map[string]bool
}

// Object reads a JSON object that stands at a path; "" for the whole.
func Object(path string, raw []byte) (*Fields, error) {
	f := &Fields{Path: path, seen: map[string]bool{}}
	name := path
	if name == "" {
		name = "case"
	}
	if raw = bytes.TrimSpace(raw); len(raw) == 0 || raw[0] != '{' {
		return nil, fmt.Errorf("%s: must be a JSON object", name)
	}
	if err := json.Unmarshal(raw, &f.Values); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return f, nil
}

// FieldsOf are values that stand in no object of their own.
func FieldsOf(values map[string]json.RawMessage) *Fields {
	return &Fields{Values: values, seen: map[string]bool{}}
}

// Take is what stands under a key, and whether it is there at all.
func (f *Fields) Take(key string) (json.RawMessage, bool) {
	f.seen[key] = true
	v, ok := f.Values[key]
	return v, ok
}

// Forget has a key count as not asked for yet.
func (f *Fields) Forget(key string) { delete(f.seen, key) }

// Name is the path of a key.
func (f *Fields) Name(key string) string {
	if f.Path == "" {
		return key
	}
	return f.Path + "." + key
}

// Reader keeps the first error, so that reading is a list of what is wanted.
type Reader struct{ Err error }

// Fail notes what is wrong at a path.
func (r *Reader) Fail(path string, err error) {
	if r.Err == nil {
		r.Err = fmt.Errorf("%s: %w", path, err)
	}
}

// Case begins to read a written case: a JSON object with an id and the currency that its
// amounts are in. The reader has the first error; the id is there wherever it could be read.
func Case(text []byte) (r *Reader, top *Fields, id string, c money.Currency) {
	r = &Reader{}
	top, err := Object("", text)
	if err != nil {
		r.Err = err
		return r, top, "", ""
	}
	if id = r.Text(top, "id", true); r.Err == nil && id == "" {
		r.Fail("id", errors.New("is empty"))
	}
	if r.Err != nil {
		return r, top, id, ""
	}
	c = money.Currency(r.Text(top, "currency", true))
	if r.Err == nil && !c.Valid() {
		r.Fail("currency", fmt.Errorf("%q is no currency", c))
	}
	return r, top, id, c
}

// Done refuses keys that nobody asked for.
func (r *Reader) Done(f *Fields) {
	var unknown []string
	for k := range f.Values {
		if !f.seen[k] {
			unknown = append(unknown, k)
		}
	}
	if sort.Strings(unknown); len(unknown) > 0 {
		r.Fail(f.Name(unknown[0]), errors.New("is not known here"))
	}
}

// Text is a text in quotes; "" where it is left out.
func (r *Reader) Text(f *Fields, key string, needed bool) string {
	raw, ok := f.Take(key)
	if !ok {
		if needed {
			r.Fail(f.Name(key), errors.New("is missing"))
		}
		return ""
	}
	var s string
	if raw[0] != '"' || json.Unmarshal(raw, &s) != nil {
		r.Fail(f.Name(key), errors.New("must be a text in quotes"))
	} else if s == "" && key != "name" && key != "id" {
		r.Fail(f.Name(key), errors.New("is empty"))
	}
	return s
}

// Flag is true or false; false where it is left out.
func (r *Reader) Flag(f *Fields, key string) bool {
	raw, ok := f.Take(key)
	var b bool
	if ok && (raw[0] != 't' && raw[0] != 'f' || json.Unmarshal(raw, &b) != nil) {
		r.Fail(f.Name(key), errors.New("must be true or false"))
	}
	return b
}

// Count is a whole number of at least least, which it is where it is left out.
func (r *Reader) Count(f *Fields, key string, least int64) int64 {
	raw, ok := f.Take(key)
	if !ok {
		return least
	}
	var n int64
	if string(raw) == "null" || json.Unmarshal(raw, &n) != nil || n < least {
		r.Fail(f.Name(key), fmt.Errorf("must be a whole number of at least %d", least))
		return least
	}
	return n
}

// Amount is one in major units as a text, not below 0; it tells whether the key was there.
func (r *Reader) Amount(f *Fields, key string, c money.Currency, needed bool) (int64, bool) {
	v := r.Signed(f, key, c, needed)
	raw, there := f.Values[key]
	if strings.HasPrefix(string(raw), `"-`) {
		r.Fail(f.Name(key), errors.New("must not be below 0"))
	}
	return v, there
}

// Signed is an amount that may be below 0, in minor units.
func (r *Reader) Signed(f *Fields, key string, c money.Currency, needed bool) int64 {
	s := r.Text(f, key, needed)
	if s == "" || r.Err != nil {
		return 0
	}
	v, err := money.Parse(s, c)
	if err != nil {
		r.Fail(f.Name(key), err)
	}
	return v.Minor
}

// Rate is a share not below 0, such as "12.5%"; it tells whether the key was there.
func (r *Reader) Rate(f *Fields, key string, needed bool) (money.Rate, bool) {
	s := r.Text(f, key, needed)
	_, there := f.Values[key]
	if s == "" || r.Err != nil {
		return 0, there
	}
	v, err := money.ParseRate(s)
	if err == nil && s[0] == '-' {
		err = errors.New("must not be below 0")
	}
	if err != nil {
		r.Fail(f.Name(key), err)
	}
	return v, there
}

// SignedRate is a share that may be below 0.
func (r *Reader) SignedRate(f *Fields, key string) money.Rate {
	s := r.Text(f, key, true)
	if s == "" || r.Err != nil {
		return 0
	}
	v, err := money.ParseRate(s)
	if err != nil {
		r.Fail(f.Name(key), err)
	}
	return v
}

// Child is the object under a key; nil where it is left out.
func (r *Reader) Child(f *Fields, key string, needed bool) *Fields {
	raw, ok := f.Take(key)
	if !ok {
		if needed {
			r.Fail(f.Name(key), errors.New("is missing"))
		}
		return nil
	}
	o, err := Object(f.Name(key), raw)
	if err != nil && r.Err == nil {
		r.Err = err
	}
	return o
}

// List is the list of objects under a key.
func (r *Reader) List(f *Fields, key string) []*Fields {
	raw, ok := f.Take(key)
	if !ok {
		return nil
	}
	var items []json.RawMessage
	if raw[0] != '[' || json.Unmarshal(raw, &items) != nil {
		r.Fail(f.Name(key), errors.New("must be a list"))
		return nil
	}
	var out []*Fields
	for i, item := range items {
		o, err := Object(fmt.Sprintf("%s[%d]", f.Name(key), i), item)
		if err != nil {
			if r.Err == nil {
				r.Err = err
			}
			return nil
		}
		out = append(out, o)
	}
	return out
}

// OneOf tells whether a text is one of some words.
func OneOf(s string, words ...string) bool {
	for _, w := range words {
		if s == w {
			return true
		}
	}
	return false
}

// Needed notes that a key is missing, and tells whether it is there.
func (r *Reader) Needed(f *Fields, key string) bool {
	_, ok := f.Values[key]
	if !ok {
		f.seen[key] = true
		r.Fail(f.Name(key), errors.New("is missing"))
	}
	return ok
}

// Word is a needed text that is one of some words.
func (r *Reader) Word(f *Fields, key string, words ...string) string {
	s := r.Text(f, key, true)
	if r.Err == nil && !OneOf(s, words...) {
		r.Fail(f.Name(key), fmt.Errorf("%q is none of %s", s, strings.Join(words, ", ")))
	}
	return s
}

// Second is a second in the unit of Moment.
const Second = 1_000_000

// Moment reads a moment of UTC as RFC 3339 has it, which must end in Z: in
// microseconds since 1970.
func (r *Reader) Moment(path, text string) int64 {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil || !strings.HasSuffix(text, "Z") {
		r.Fail(path, fmt.Errorf("%q is no time such as 2026-03-03T09:15:00Z", text))
	}
	return t.UnixMicro()
}

// Line writes an answer as one line of JSON.
func Line(v any) []byte {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		panic(err) // plain texts can't fail to encode
	}
	return bytes.TrimRight(b.Bytes(), "\n")
}

// Refusal is the answer to a case that can't be answered; its ID is null where
// it couldn't be read.
func Refusal(id string, err error) []byte {
	out := struct {
		ID    *string `json:"id"`
		Error string  `json:"error"`
	}{Error: err.Error()}
	if id != "" {
		out.ID = &id
	}
	return Line(out)
}

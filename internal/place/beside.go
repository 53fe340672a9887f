package place

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
)

// Beside is a field of a listing as it was sent and as it is at its place.
type Beside struct {
	Field  string `json:"field"` // such as title or attributes.colour
	Ours   string `json:"ours"`  // as confirmed; "": it said nothing
	Theirs string `json:"theirs"`
}

// BesideOf are the fields that a place tells otherwise than they were sent, by
// name. What it doesn't tell isn't among them: a place need not show all it was
// given. Of pictures only their number counts, as places keep copies at addresses
// of their own.
func BesideOf(ours, theirs *Content) ([]Beside, error) {
	a, err := fieldsOf(ours)
	if err != nil {
		return nil, err
	}
	b, err := fieldsOf(theirs)
	if err != nil {
		return nil, err
	}
	var out []Beside
	for _, name := range slices.Sorted(maps.Keys(b)) {
		x := Beside{name, textOf(a[name]), textOf(b[name])}
		if name == "pictures" {
			x.Ours, x.Theirs = strconv.Itoa(len(ours.Pictures)), strconv.Itoa(len(theirs.Pictures))
		}
		if x.Ours != x.Theirs {
			out = append(out, x)
		}
	}
	return out, nil
}

// Text is what a field such as title or attributes.colour says; "": nothing.
func (c *Content) Text(field string) (string, error) {
	of, err := fieldsOf(c)
	return textOf(of[field]), err
}

// textOf is a value of a field to be read: a text as it is, a list joined, all
// else as JSON.
func textOf(raw json.RawMessage) string {
	var text string
	if json.Unmarshal(raw, &text) == nil {
		return text
	}
	var list []string
	if json.Unmarshal(raw, &list) == nil {
		var b bytes.Buffer
		for i, s := range list {
			if i > 0 {
				b.WriteString(", ")
			}
			b.WriteString(s)
		}
		return b.String()
	}
	return string(raw)
}

// With is what a listing is said to say where a place tells of it: what it tells,
// and of the rest what was sent.
func With(ours, theirs *Content) (*Content, error) {
	var out Content
	for _, c := range []*Content{ours, theirs} {
		text, err := json.Marshal(c)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(text, &out); err != nil {
			return nil, err
		}
	}
	if len(theirs.Pictures) == len(ours.Pictures) {
		out.Pictures = ours.Pictures // theirs are copies of them
	}
	return &out, nil
}

// ReadContent reads a content that was kept as JSON; "" is one that says nothing.
func ReadContent(text string) (*Content, error) {
	out := &Content{}
	if text == "" {
		return out, nil
	}
	if err := json.Unmarshal([]byte(text), out); err != nil {
		return nil, fmt.Errorf("what a listing said: %w", err)
	}
	return out, nil
}

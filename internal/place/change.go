package place

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Change is what differs between what a listing says at a place and what it is
// to say: the fields, such as title or attributes.colour; of them what is said
// now, and those that say nothing any more.
type Change struct {
	Fields  []string
	Content *Content
	Cleared []string
}

// ChangeOf compares what is there with what is to be there.
func ChangeOf(there, wanted *Content) (Change, error) {
	a, err := fieldsOf(there)
	if err != nil {
		return Change{}, err
	}
	b, err := fieldsOf(wanted)
	if err != nil {
		return Change{}, err
	}
	out := Change{Content: &Content{}}
	said := map[string]json.RawMessage{}
	attributes := map[string]string{}
	for _, name := range slices.Sorted(maps.Keys(b)) {
		if string(a[name]) == string(b[name]) {
			continue
		}
		out.Fields = append(out.Fields, name)
		if ref, ok := strings.CutPrefix(name, "attributes."); ok {
			attributes[ref] = wanted.Attributes[ref]
		} else {
			said[name] = b[name]
		}
	}
	for _, name := range slices.Sorted(maps.Keys(a)) {
		if _, still := b[name]; !still {
			out.Fields, out.Cleared = append(out.Fields, name), append(out.Cleared, name)
		}
	}
	text, err := json.Marshal(said)
	if err != nil {
		return out, err
	}
	if err := json.Unmarshal(text, out.Content); err != nil {
		return out, fmt.Errorf("what changed of a listing: %w", err)
	}
	if len(attributes) > 0 {
		out.Content.Attributes = attributes
	}
	return out, nil
}

// fieldsOf are the fields of a content as they are sent, each attribute one.
func fieldsOf(c *Content) (map[string]json.RawMessage, error) {
	text, err := json.Marshal(c)
	if err != nil {
		return nil, err
	}
	out := map[string]json.RawMessage{}
	if err := json.Unmarshal(text, &out); err != nil {
		return nil, err
	}
	delete(out, "attributes")
	delete(out, "category") // it is fixed there
	if string(out["package"]) == "{}" {
		delete(out, "package") // of which nothing is known
	}
	for ref, v := range c.Attributes {
		if out["attributes."+ref], err = json.Marshal(v); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Apply is what a listing says once a change was made to it: ChangeOf the other way.
// Its category stays as it is.
func Apply(there, said *Content, cleared []string) (*Content, error) {
	fields, err := fieldsOf(there)
	if err != nil {
		return nil, err
	}
	if said != nil {
		new, err := fieldsOf(said)
		if err != nil {
			return nil, err
		}
		maps.Copy(fields, new)
	}
	for _, name := range cleared {
		delete(fields, name)
	}
	attributes := map[string]json.RawMessage{}
	for name, v := range fields {
		if ref, ok := strings.CutPrefix(name, "attributes."); ok {
			attributes[ref] = v
			delete(fields, name)
		}
	}
	if fields["attributes"], err = json.Marshal(attributes); err != nil {
		return nil, err
	}
	text, err := json.Marshal(fields)
	if err != nil {
		return nil, err
	}
	out := &Content{}
	if err := json.Unmarshal(text, out); err != nil {
		return nil, fmt.Errorf("changing a listing: %w", err)
	}
	out.Category = there.Category
	return out, nil
}

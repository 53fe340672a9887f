package form

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"sync"
)

// Into reads JSON into a struct, or what structs are made of, by the names its
// fields have in JSON: keys are compared exactly, null is left out, and what is
// not known or of another type is an error that names the field. A type that
// reads itself is left to do so.
func Into(path string, raw []byte, v any) error {
	raw, to := bytes.TrimSpace(raw), reflect.ValueOf(v).Elem()
	if plainly(raw, v, to.Type()) {
		return nil
	}
	to.SetZero()
	return into(path, raw, to)
}

// plainly reads JSON that has nothing to complain of, which is most, in a
// quarter of the time. It is false wherever it isn't sure: encoding/json takes
// keys in any case, and null for an item of a list.
func plainly(raw []byte, v any, t reflect.Type) bool {
	if bytes.Contains(raw, []byte("null")) || !spelled(raw, namesOf(t)) {
		return false
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	return d.Decode(v) == nil && d.InputOffset() == int64(len(raw))
}

// spelled tells whether no key is one of some names but for its case.
func spelled(raw []byte, names map[string]string) bool {
	for i := 0; i < len(raw); i++ {
		if raw[i] != '"' {
			continue
		}
		from := i + 1
		for i = from; i < len(raw) && raw[i] != '"'; i++ {
			if raw[i] == '\\' {
				i++
			}
		}
		if i >= len(raw) {
			return false
		}
		text := raw[from:i]
		rest := bytes.TrimLeft(raw[i+1:], " \t\r\n")
		if len(rest) == 0 || rest[0] != ':' {
			continue
		}
		if bytes.IndexByte(text, '\\') >= 0 {
			return false
		}
		if name, ok := names[string(bytes.ToLower(text))]; ok && name != string(text) {
			return false
		}
	}
	return true
}

var named sync.Map // reflect.Type → map[string]string

// namesOf are the names that fields have in JSON, in all that a type is made of,
// by their small letters.
func namesOf(t reflect.Type) map[string]string {
	if known, ok := named.Load(t); ok {
		return known.(map[string]string)
	}
	out := map[string]string{}
	gather(t, out, map[reflect.Type]bool{})
	named.Store(t, out)
	return out
}

func gather(t reflect.Type, into map[string]string, seen map[reflect.Type]bool) {
	if seen[t] {
		return
	}
	seen[t] = true
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Map:
		gather(t.Elem(), into, seen)
	case reflect.Struct:
		for i := range t.NumField() {
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			into[strings.ToLower(name)] = name
			gather(t.Field(i).Type, into, seen)
		}
	}
}

var readsItself = reflect.TypeFor[json.Unmarshaler]()

func into(path string, raw []byte, v reflect.Value) error {
	if string(raw) == "null" {
		return nil
	}
	if v.Kind() == reflect.Pointer {
		v.Set(reflect.New(v.Type().Elem()))
		return into(path, raw, v.Elem())
	}
	if v.Addr().Type().Implements(readsItself) {
		return at(path, v.Addr().Interface().(json.Unmarshaler).UnmarshalJSON(raw))
	}
	switch v.Kind() {
	case reflect.Struct:
		return intoStruct(path, raw, v)
	case reflect.Slice:
		var items []json.RawMessage
		if raw[0] != '[' || json.Unmarshal(raw, &items) != nil {
			return at(path, errors.New("must be a list"))
		}
		v.Set(reflect.MakeSlice(v.Type(), len(items), len(items)))
		for i, item := range items {
			place := fmt.Sprintf("%s[%d]", path, i)
			if string(item) == "null" {
				return at(place, errors.New("is null"))
			}
			if err := into(place, item, v.Index(i)); err != nil {
				return err
			}
		}
	case reflect.Map:
		items, err := keys(path, raw)
		if err != nil {
			return err
		}
		v.Set(reflect.MakeMapWithSize(v.Type(), len(items)))
		for key, item := range items {
			one := reflect.New(v.Type().Elem()).Elem()
			if err := into(within(path, key), item, one); err != nil {
				return err
			}
			v.SetMapIndex(reflect.ValueOf(key), one)
		}
	default:
		if json.Unmarshal(raw, v.Addr().Interface()) != nil {
			return at(path, errors.New(wanted(v.Kind())))
		}
	}
	return nil
}

func intoStruct(path string, raw []byte, v reflect.Value) error {
	items, err := keys(path, raw)
	if err != nil {
		return err
	}
	t := v.Type()
	for i := range t.NumField() {
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		if item, ok := items[name]; ok {
			delete(items, name)
			if err := into(within(path, name), item, v.Field(i)); err != nil {
				return err
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(items)) {
		return at(within(path, key), errors.New("is not known here"))
	}
	return nil
}

func keys(path string, raw []byte) (map[string]json.RawMessage, error) {
	o, err := Object(path, raw)
	if err != nil {
		return nil, err
	}
	return o.Values, nil
}

func within(path, key string) string { return (&Fields{Path: path}).Name(key) }

func at(path string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("%s: %w", path, err)
}

// wanted says what a plain value must be.
func wanted(k reflect.Kind) string {
	switch k {
	case reflect.String:
		return "must be a text in quotes"
	case reflect.Bool:
		return "must be true or false"
	}
	return "must be a whole number"
}

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
)

// Into reads JSON into a struct, or what structs are made of, by the names its
// fields have in JSON: keys are compared exactly, null is left out, and what is
// not known or of another type is an error that names the field. A type that
// reads itself is left to do so.
func Into(path string, raw []byte, v any) error {
	return into(path, bytes.TrimSpace(raw), reflect.ValueOf(v).Elem())
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

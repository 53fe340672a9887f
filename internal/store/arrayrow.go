package store

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"gorm.io/gorm"
)

// A row of many columns is read as one JSON array: each column by itself costs
// two or three calls into C, which is most of what reading a long list takes.

// asArray is a select of the columns as one array.
func asArray(columns string) string { return "SELECT json_array(" + columns + ")" }

// eachArray reads a select of such arrays: each row is put where to says, and
// then read is called. Pointers among them are new for every row.
func eachArray(db *gorm.DB, query string, to []any, read func(), args ...any) error {
	rows, err := db.Raw(query, args...).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var text string
	for rows.Next() {
		if err := rows.Scan(&text); err != nil {
			return err
		}
		if err := fromArray(text, to); err != nil {
			return err
		}
		read()
	}
	return rows.Err()
}

// fromArray puts the values of such an array where they belong, in order: into
// *int64, *string and *bool, and into **int64 where there may be none.
func fromArray(text string, to []any) error {
	rest, ok := strings.CutPrefix(text, "[")
	for i, dst := range to {
		if i > 0 && ok {
			rest, ok = strings.CutPrefix(rest, ",")
		}
		if !ok || rest == "" {
			return fmt.Errorf("value %d of %d is not there", i+1, len(to))
		}
		end, err := 0, error(nil)
		if rest[0] == '"' {
			end, err = putText(rest, dst)
		} else {
			end, err = putNumber(rest, dst)
		}
		if err != nil {
			return fmt.Errorf("value %d of %d: %w", i+1, len(to), err)
		}
		rest = rest[end:]
	}
	if rest != "]" {
		return fmt.Errorf("more than %d values", len(to))
	}
	return nil
}

// putText puts the quoted text that s begins with, and says where it ends.
func putText(s string, dst any) (end int, err error) {
	to, ok := dst.(*string)
	if !ok {
		return 0, fmt.Errorf("a text for %T", dst)
	}
	for end = 1; end < len(s) && s[end] != '"'; end++ {
		if s[end] == '\\' {
			end++
		}
	}
	if end >= len(s) {
		return 0, fmt.Errorf("a text without an end")
	}
	end++
	if *to = s[1 : end-1]; strings.IndexByte(*to, '\\') >= 0 {
		err = json.Unmarshal([]byte(s[:end]), to)
	}
	return end, err
}

// putNumber puts the number or null that s begins with, and says where it ends.
func putNumber(s string, dst any) (end int, err error) {
	if end = strings.IndexAny(s, ",]"); end < 0 {
		return 0, fmt.Errorf("a number without an end")
	}
	text := s[:end]
	if to, ok := dst.(**int64); ok {
		if *to = nil; text == "null" {
			return end, nil
		}
		*to = new(int64)
		dst = *to
	}
	v, err := strconv.ParseInt(text, 10, 64)
	switch to := dst.(type) {
	case *int64:
		*to = v
	case *bool:
		*to = v != 0
	default:
		return 0, fmt.Errorf("%s for %T", text, dst)
	}
	return end, err
}

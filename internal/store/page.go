package store

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"

	"gorm.io/gorm"
)

// Page says which part of a list is wanted: Limit rows after Cursor, in the order of Sort.
type Page struct {
	Limit  int
	Cursor string
	Sort   string
	Desc   bool
}

// List is one part of a list, how many rows it has in all, and where the next
// part begins ("" at the end).
type List[T any] struct {
	Rows  []T    `json:"rows"`
	Total int64  `json:"total"`
	Next  string `json:"next"`
}

// listQuery is a query that can be read part by part: keyset paging on a sort
// expression and the id, so that the millionth row costs no more than the first.
type listQuery struct {
	columns string // what is selected
	from    string // tables, joins and where
	counted string // what is counted in its place, where fewer tables say as much
	args    []any
	id      string            // unique column that breaks ties
	sorts   map[string]string // name → expression that is never NULL
	sort    string            // the sort used unless one is asked for
	desc    bool              // its direction
}

// ErrCursor says that a cursor or a sort is none of ours.
var ErrCursor = fmt.Errorf("this cursor or sort is not known for the list")

func list[T any](ctx context.Context, db *gorm.DB, q listQuery, p Page) (List[T], error) {
	out := List[T]{Rows: []T{}}
	if p.Limit < 1 || p.Limit > 500 {
		p.Limit = 100
	}
	if p.Sort == "" {
		p.Sort, p.Desc = q.sort, q.desc
	}
	expr, ok := q.sorts[p.Sort]
	if !ok {
		return out, ErrCursor
	}
	db = db.WithContext(ctx)
	if q.counted == "" {
		q.counted = q.from
	}
	if err := db.Raw("SELECT count(*) FROM "+q.counted, q.args...).Scan(&out.Total).Error; err != nil {
		return out, err
	}
	dir, cmp := "ASC", ">"
	if p.Desc {
		dir, cmp = "DESC", "<"
	}
	where, args := "", append([]any(nil), q.args...)
	if p.Cursor != "" {
		key, err := readCursor(p.Cursor)
		if err != nil {
			return out, err
		}
		where = fmt.Sprintf(" AND (%s, %s) %s (?, ?)", expr, q.id, cmp)
		args = append(args, key[0], key[1])
	}
	sql := fmt.Sprintf("SELECT %s FROM %s%s ORDER BY %s %s, %s %s LIMIT %d", q.columns, q.from, where, expr, dir, q.id, dir, p.Limit+1)
	if err := db.Raw(sql, args...).Scan(&out.Rows).Error; err != nil {
		return out, err
	}
	if len(out.Rows) <= p.Limit {
		return out, nil
	}
	out.Rows = out.Rows[:p.Limit]
	var last struct {
		K any
		I int64
	}
	sql = fmt.Sprintf("SELECT %s, %s FROM %s%s ORDER BY %s %s, %s %s LIMIT 1 OFFSET %d", expr, q.id, q.from, where, expr, dir, q.id, dir, p.Limit-1)
	if err := db.Raw(sql, args...).Row().Scan(&last.K, &last.I); err != nil {
		return out, err
	}
	if b, ok := last.K.([]byte); ok {
		last.K = string(b)
	}
	text, err := json.Marshal([]any{last.K, last.I})
	out.Next = base64.RawURLEncoding.EncodeToString(text)
	return out, err
}

func readCursor(s string) ([2]any, error) {
	var out [2]any
	text, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil {
		return out, ErrCursor
	}
	var parts []json.RawMessage
	if json.Unmarshal(text, &parts) != nil || len(parts) != 2 {
		return out, ErrCursor
	}
	for i, p := range parts {
		var n int64
		var t string
		if json.Unmarshal(p, &n) == nil {
			out[i] = n
		} else if json.Unmarshal(p, &t) == nil {
			out[i] = t
		} else {
			return out, ErrCursor
		}
	}
	return out, nil
}

package store

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"easymargin/internal/fault"
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
	Rows  []T
	Total int64
	More  bool // there are more than Total: they are not counted any further
	Next  string
}

// fewRows is up to how many rows are found by what they have in common and then
// sorted; more are met soon enough by walking along the order asked for.
const fewRows = 10_000

// listQuery is a query that can be read part by part: keyset paging on a sort
// expression and the id, so that the millionth row costs no more than the first.
type listQuery struct {
	columns string // what is selected
	from    string // tables, joins and where
	few     string // the same with other indexes, where no more than fewRows match; "" for from
	counted string // what is counted in its place, where fewer tables say as much
	total   *int64 // how many there are, where that is known
	upTo    bool   // it is counted to fewRows only, because counting on would take as long as reading it all
	args    []any
	id      string            // unique column that breaks ties
	sorts   map[string]string // name → expression that is never NULL
	ties    map[string]string // name → what goes before the id where many are alike, since an index has them in its order
	sort    string            // the sort used unless one is asked for
	desc    bool              // its direction
}

// ErrCursor says that a cursor or a sort is none of ours.
var ErrCursor = fault.New(fault.Invalid, "this cursor or sort is not known for the list")

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
	counting := "SELECT count(*) FROM " + q.counted
	if q.upTo {
		counting = fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s LIMIT %d)", q.counted, fewRows+1)
	}
	if q.total != nil {
		out.Total = *q.total
	} else if err := db.Raw(counting, q.args...).Scan(&out.Total).Error; err != nil {
		return out, err
	}
	if q.few != "" && out.Total <= fewRows {
		q.from = q.few
	}
	if q.upTo && out.Total > fewRows {
		out.Total, out.More = fewRows, true
	}
	dir, cmp := "ASC", ">"
	if p.Desc {
		dir, cmp = "DESC", "<"
	}
	keys := []string{expr, q.id}
	if tie := q.ties[p.Sort]; tie != "" {
		keys = []string{expr, tie, q.id}
	}
	key := strings.Join(keys, ", ")
	where, args := "", append([]any(nil), q.args...)
	if p.Cursor != "" {
		from, err := readCursor(p.Cursor, len(keys))
		if err != nil {
			return out, err
		}
		where = fmt.Sprintf(" AND (%s) %s (?%s)", key, cmp, strings.Repeat(", ?", len(keys)-1))
		args = append(args, from...)
	}
	if out.Total == 0 {
		return out, nil
	}
	var rows []keyed[T]
	sql := fmt.Sprintf("SELECT json_array(%s) AS page_key, %s FROM %s%s ORDER BY %s %s LIMIT %d",
		key, q.columns, q.from, where, strings.Join(keys, " "+dir+", "), dir, p.Limit+1)
	if err := db.Raw(sql, args...).Scan(&rows).Error; err != nil {
		return out, err
	}
	if len(rows) > p.Limit {
		rows = rows[:p.Limit]
		out.Next = base64.RawURLEncoding.EncodeToString([]byte(rows[p.Limit-1].PageKey))
	}
	for i := range rows {
		out.Rows = append(out.Rows, rows[i].Row)
	}
	return out, nil
}

// keyed is a row with where it stands in the list.
type keyed[T any] struct {
	PageKey string // JSON: the values that rows are sorted by, the id last
	Row     T      `gorm:"embedded"`
}

// readCursor reads the values, n of them, after which a part begins.
func readCursor(s string, n int) ([]any, error) {
	text, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil {
		return nil, ErrCursor
	}
	var parts []json.RawMessage
	if json.Unmarshal(text, &parts) != nil || len(parts) != n {
		return nil, ErrCursor
	}
	out := make([]any, n)
	for i, p := range parts {
		var n int64
		var t string
		if json.Unmarshal(p, &n) == nil {
			out[i] = n
		} else if json.Unmarshal(p, &t) == nil {
			out[i] = t
		} else {
			return nil, ErrCursor
		}
	}
	return out, nil
}

// one is the one row that a query gives, or ErrMissing where it gives none; id
// is what tells a row from none.
func one[T any](db *gorm.DB, id func(T) int64) (T, error) {
	var row T
	err := db.Scan(&row).Error
	if err == nil && id(row) == 0 {
		err = ErrMissing
	}
	return row, err
}

// anyOf are a few words as arguments, and the marks that stand for them.
func anyOf(words []string) (args []any, marks string) {
	for _, w := range words {
		args = append(args, w)
	}
	return args, strings.TrimSuffix(strings.Repeat("?,", len(words)), ",")
}

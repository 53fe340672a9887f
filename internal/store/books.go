package store

import (
	"context"
	"time"

	"easymargin/internal/actor"
)

// ClosedBook is a month of the books that was closed.
type ClosedBook struct {
	Month   string // YYYY-MM
	Content string // JSON
	Actor   string
	At      time.Time
}

// ClosedBooks are the months that were closed, the earliest first.
func (tx Tx) ClosedBooks() ([]ClosedBook, error) {
	var out []ClosedBook
	err := tx.db.Raw("SELECT * FROM closed_books ORDER BY month").Scan(&out).Error
	return out, err
}

// CloseBook closes a month with what is in it. One that is closed stays as it is.
func (tx Tx) CloseBook(month, content string, at time.Time) (bool, error) {
	res := tx.db.Exec("INSERT INTO closed_books (month, content, actor, at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING", month, content,
		actor.Of(tx.db.Statement.Context), at)
	return res.RowsAffected > 0, res.Error
}

// FirstSold is the month of the first order, or of the first fee for none; "" where there
// is neither.
func (s *Store) FirstSold(ctx context.Context) (string, error) {
	var month string
	err := s.read.WithContext(ctx).Raw(`SELECT coalesce(min(month), '') FROM (SELECT strftime('%Y-%m', min(placed_at)) AS month FROM orders
		UNION ALL SELECT substr(min(day), 1, 7) FROM site_fees)`).Scan(&month).Error
	return month, err
}

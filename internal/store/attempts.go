package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"time"
)

// PutBody keeps what is about to be handed over of a send-out, byte for byte.
func (tx Tx) PutBody(sendOutID int64, at time.Time, body []byte) error {
	var small bytes.Buffer
	w, err := gzip.NewWriterLevel(&small, gzip.BestSpeed)
	if err != nil {
		return err
	}
	if _, err := w.Write(body); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	return tx.db.Exec("INSERT INTO send_bodies (send_out_id, at, body) VALUES (?, ?, ?)", sendOutID, at, small.Bytes()).Error
}

// Body is what was handed over, or tried to be, at a moment.
type Body struct {
	At   time.Time
	Body []byte
}

// Bodies are what was handed over of a send-out, each time it was tried, oldest first.
func (s *Store) Bodies(ctx context.Context, sendOutID int64) ([]Body, error) {
	var out []Body
	if err := s.read.WithContext(ctx).Raw("SELECT at, body FROM send_bodies WHERE send_out_id = ? ORDER BY id", sendOutID).Scan(&out).Error; err != nil {
		return nil, err
	}
	for i := range out {
		r, err := gzip.NewReader(bytes.NewReader(out[i].Body))
		if err != nil {
			return nil, fmt.Errorf("what was handed over of send-out %d: %w", sendOutID, err)
		}
		if out[i].Body, err = io.ReadAll(r); err != nil {
			return nil, fmt.Errorf("what was handed over of send-out %d: %w", sendOutID, err)
		}
	}
	return out, nil
}

// Attempt is a line that was let go for a listing, and what became of it.
type Attempt struct {
	ID         int64 // of the line
	SendOutID  int64
	Key        string
	Does       string
	Price      *int64
	Quantity   *int64
	Content    string
	State      string
	Field      string
	Words      string
	Later      string
	Sender     string
	HandedAt   *time.Time
	AnsweredAt *time.Time
	CreatedAt  time.Time
}

const attempts = `SELECT x.id, x.send_out_id, x.key, x.does, x.price, x.quantity, x.content, x.state, x.field, x.words, x.later, o.sender,
	x.handed_at, x.answered_at, o.created_at FROM send_lines x JOIN send_outs o ON o.id = x.send_out_id WHERE `

// Attempts are the lines of a listing, the newest first, as far as limit.
func (s *Store) Attempts(ctx context.Context, listingID int64, limit int) ([]Attempt, error) {
	var out []Attempt
	err := s.read.WithContext(ctx).Raw(attempts+"x.listing_id = ? ORDER BY x.id DESC LIMIT ?", listingID, limit).Scan(&out).Error
	return out, err
}

// AttemptOf is one line.
func (s *Store) AttemptOf(ctx context.Context, lineID int64) (Attempt, error) {
	return one(s.read.WithContext(ctx).Raw(attempts+"x.id = ?", lineID), func(a Attempt) int64 { return a.ID })
}

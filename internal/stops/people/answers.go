package people

import (
	"context"

	"easymargin/internal/store"
)

// Answer is an answer already given to a write.
type Answer struct {
	Digest string // of the request
	Status int
	Type   string
	Body   []byte
}

// Answered is the answer given to somebody's idempotency key; false where there is none.
func (st *Stop) Answered(ctx context.Context, who, key string) (Answer, bool, error) {
	a, ok, err := st.Store.AnswerTo(ctx, who, key)
	return Answer{a.Digest, a.Status, a.Type, a.Body}, ok, err
}

// KeepAnswer keeps the answer that was given to somebody's key.
func (st *Stop) KeepAnswer(ctx context.Context, who, key string, a Answer) error {
	return st.Store.PutAnswer(
		ctx,
		&store.Answer{Actor: who, Key: key, Digest: a.Digest, Status: a.Status, Type: a.Type, Body: a.Body, At: st.Now()},
	)
}

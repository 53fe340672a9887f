package store

import (
	"context"
)

// AnswerTo is the answer given to an actor's idempotency key; false where there is none.
func (s *Store) AnswerTo(ctx context.Context, who, key string) (Answer, bool, error) {
	var a Answer
	res := s.write.WithContext(ctx).Where("actor = ? AND key = ?", who, key).Limit(1).Find(&a)
	return a, res.RowsAffected > 0, res.Error
}

// PutAnswer keeps the answer that was given to a key.
func (s *Store) PutAnswer(ctx context.Context, a *Answer) error {
	return s.write.WithContext(ctx).Create(a).Error
}

// SessionOf is who has logged in with a token of this digest; false where nobody has.
func (s *Store) SessionOf(ctx context.Context, digest string) (Session, bool, error) {
	var x Session
	res := s.read.WithContext(ctx).Where("digest = ?", digest).Limit(1).Find(&x)
	return x, res.RowsAffected > 0, res.Error
}

// PutSession keeps who has logged in; DropSession ends it.
func (s *Store) PutSession(ctx context.Context, x *Session) error {
	return s.write.WithContext(ctx).Save(x).Error
}

// DropSession ends a session.
func (s *Store) DropSession(ctx context.Context, digest string) error {
	return s.write.WithContext(ctx).Where("digest = ?", digest).Delete(&Session{}).Error
}

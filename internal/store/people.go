package store

import (
	"context"
	"time"
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

// Active are those who work here now, at most so many.
func (tx Tx) Active(most int) ([]Person, error) {
	var out []Person
	err := tx.db.Where("active").Order("id").Limit(most).Find(&out).Error
	return out, err
}

// People are all who work or worked here.
func (tx Tx) People() ([]Person, error) {
	var out []Person
	err := tx.db.Order("id").Find(&out).Error
	return out, err
}

// PersonNamed is who has a name, however it is written; false where nobody.
func (tx Tx) PersonNamed(name string) (Person, bool, error) {
	var p Person
	res := tx.db.Where("name = ?", name).Limit(1).Find(&p)
	return p, res.RowsAffected > 0, res.Error
}

// Roles are those that the owner made, by name.
func (tx Tx) Roles() ([]Role, error) {
	var out []Role
	err := tx.db.Order("name").Find(&out).Error
	return out, err
}

// RoleNamed is the role that the owner gave a name; false where there is none.
func (tx Tx) RoleNamed(name string) (Role, bool, error) {
	var r Role
	res := tx.db.Where("name = ?", name).Limit(1).Find(&r)
	return r, res.RowsAffected > 0, res.Error
}

// HoldersOf is how many who work here, and tokens of theirs, have a role.
func (tx Tx) HoldersOf(name string) (int64, error) {
	var n int64
	err := tx.db.Raw(`SELECT (SELECT count(*) FROM people WHERE role = ?1 COLLATE NOCASE AND active) + (SELECT count(*) FROM tokens WHERE scope = ?1 COLLATE NOCASE)`, name).Scan(&n).Error
	return n, err
}

// RenameRole has everybody who has a role have it by its new name.
func (tx Tx) RenameRole(from, to string) error {
	if err := tx.db.Exec("UPDATE people SET role = ? WHERE role = ? COLLATE NOCASE", to, from).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE tokens SET scope = ? WHERE scope = ? COLLATE NOCASE", to, from).Error
}

// DropRole deletes a role that the owner made.
func (tx Tx) DropRole(id int64) error { return tx.db.Where("id = ?", id).Delete(&Role{}).Error }

// SessionOf is who has logged in with a token of this digest; false where nobody has.
func (tx Tx) SessionOf(digest string) (Session, bool, error) {
	var x Session
	res := tx.db.Where("digest = ?", digest).Limit(1).Find(&x)
	return x, res.RowsAffected > 0, res.Error
}

// SessionsOf are the log-ins of a person, the last used first.
func (tx Tx) SessionsOf(person int64) ([]Session, error) {
	var out []Session
	err := tx.db.Where("person_id = ?", person).Order("seen_at DESC").Find(&out).Error
	return out, err
}

// DropSession ends a log-in by its digest.
func (tx Tx) DropSession(digest string) error {
	return tx.db.Where("digest = ?", digest).Delete(&Session{}).Error
}

// EndSession ends a person's log-in; false where they have none such.
func (tx Tx) EndSession(person, id int64) (bool, error) {
	res := tx.db.Where("person_id = ? AND id = ?", person, id).Delete(&Session{})
	return res.RowsAffected > 0, res.Error
}

// EndSessions ends a person's log-ins, all but one (0: that one too).
func (tx Tx) EndSessions(person, but int64) error {
	return tx.db.Where("person_id = ? AND id <> ?", person, but).Delete(&Session{}).Error
}

// DeviceKnown tells whether somebody logged in with a browser after a moment.
func (tx Tx) DeviceKnown(digest string, person int64, after time.Time) (bool, error) {
	var n int64
	err := tx.db.Model(&Device{}).Where("digest = ? AND person_id = ? AND seen_at > ?", digest, person, after).Count(&n).Error
	return n > 0, err
}

// PutDevice notes that somebody logged in with a browser, and forgets those that nobody
// logged in with since a moment.
func (tx Tx) PutDevice(d Device, before time.Time) error {
	if err := tx.db.Where("seen_at <= ?", before).Delete(&Device{}).Error; err != nil {
		return err
	}
	return tx.db.Save(&d).Error
}

// DropDevices forgets all browsers of a person.
func (tx Tx) DropDevices(person int64) error {
	return tx.db.Where("person_id = ?", person).Delete(&Device{}).Error
}

// TokenOf is the token of a digest; false where there is none.
func (tx Tx) TokenOf(digest string) (Token, bool, error) {
	var t Token
	res := tx.db.Where("digest = ?", digest).Limit(1).Find(&t)
	return t, res.RowsAffected > 0, res.Error
}

// TokensOf are the tokens of a person, the newest first.
func (tx Tx) TokensOf(person int64) ([]Token, error) {
	var out []Token
	err := tx.db.Where("person_id = ?", person).Order("id DESC").Find(&out).Error
	return out, err
}

// DropToken ends a person's token; false where they have none such.
func (tx Tx) DropToken(person, id int64) (bool, error) {
	res := tx.db.Where("person_id = ? AND id = ?", person, id).Delete(&Token{})
	return res.RowsAffected > 0, res.Error
}

// DropTokens ends all tokens of a person, and says how many.
func (tx Tx) DropTokens(person int64) (int64, error) {
	res := tx.db.Where("person_id = ?", person).Delete(&Token{})
	return res.RowsAffected, res.Error
}

// AuditPart says which part of who did what is wanted.
type AuditPart struct {
	Actor, Words string    // Words: in what was done, with what, or how
	From, To     time.Time // To is after the last; zero: no such bound
}

// Audits lists who did what, the last first.
func (s *Store) Audits(ctx context.Context, part AuditPart, p Page) (List[Audit], error) {
	q := listQuery{columns: "a.*", from: "audits a WHERE true", id: "a.id", sorts: map[string]string{"id": "a.id"}, sort: "id", desc: true, upTo: true}
	and := func(sql string, args ...any) {
		q.from += " AND " + sql
		q.args = append(q.args, args...)
	}
	if part.Actor != "" {
		and("a.actor = ?", part.Actor)
	}
	if part.Words != "" {
		and("instr(lower(a.what || ' ' || a.subject || ' ' || a.detail), lower(?)) > 0", part.Words)
	}
	if !part.From.IsZero() {
		and("a.at >= ?", part.From)
	}
	if !part.To.IsZero() {
		and("a.at < ?", part.To)
	}
	return list[Audit](ctx, s.read, q, p)
}

// Actors are those who did something, by name.
func (s *Store) Actors(ctx context.Context) ([]string, error) {
	var out []string
	// Walks the index from one name to the next: the audit is long, its names are few.
	err := s.read.WithContext(ctx).Raw(`WITH RECURSIVE names (name) AS (SELECT min(actor) FROM audits UNION ALL
		SELECT (SELECT min(actor) FROM audits WHERE actor > name) FROM names WHERE name IS NOT NULL)
		SELECT name FROM names WHERE name IS NOT NULL`).Scan(&out).Error
	return out, err
}

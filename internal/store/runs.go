package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"

	"easymargin/internal/actor"
)

// listOf is the values of a long list as one argument, for `IN (SELECT value FROM
// json_each(?))`: SQLite takes no more than 32 766 arguments.
func listOf(ids []int64) string {
	text, err := json.Marshal(ids)
	if err != nil || ids == nil {
		return "[]" // whole numbers always can be written
	}
	return string(text)
}

// textList is listOf of texts.
func textList(words []string) string {
	text, err := json.Marshal(words)
	if err != nil || words == nil {
		return "[]" // texts always can be written
	}
	return string(text)
}

// inList is the condition that goes with listOf.
const inList = " IN (SELECT value FROM json_each(?))"

// Lane is the lane of a kind of run at one place, site or source; runs of one
// lane follow one another.
func Lane(kind string, id int64) string { return kind + "/" + strconv.FormatInt(id, 10) }

// Queue keeps a run to be done, in the transaction of what it is for: either
// both are there or neither. Of a run with Once, no second waits, nor is one queued
// beside one that is set aside; r is the one that is there.
func (tx Tx) Queue(r *Run) error {
	if r.Once {
		var waiting Run
		res := tx.db.Where("kind = ? AND subject = ? AND once AND state IN ?", r.Kind, r.Subject, []string{RunQueued, RunAside}).Limit(1).Find(&waiting)
		if res.Error != nil {
			return res.Error
		}
		if res.RowsAffected > 0 {
			if waiting.State == RunQueued && (r.Due < waiting.Due || r.Urgent && !waiting.Urgent) {
				waiting.Due, waiting.Urgent = min(r.Due, waiting.Due), r.Urgent || waiting.Urgent
				if err := tx.db.Save(&waiting).Error; err != nil {
					return err
				}
				tx.commit.Runs = append(tx.commit.Runs, waiting)
			}
			*r = waiting
			return nil
		}
	}
	r.State, r.Actor = RunQueued, actor.Of(tx.db.Statement.Context)
	if err := tx.db.Create(r).Error; err != nil {
		return fmt.Errorf("queueing %s: %w", r.Title, err)
	}
	tx.commit.Runs = append(tx.commit.Runs, *r)
	return nil
}

// ClaimRun takes the next run that is due and whose lane is free, urgent ones
// first and otherwise in the order they were queued, and marks it running since
// a moment. due is the real time; false: there is none.
func (s *Store) ClaimRun(ctx context.Context, busy []string, due, since time.Time) (Run, bool, error) {
	lanes := textList(busy)
	// Of runs during which the program fell one is tried at a time, so that the next
	// fall tells which of them is the reason.
	const next = ` FROM runs WHERE state = 'queued' AND due <= ? AND lane NOT IN (SELECT value FROM json_each(?))
		AND (falls = 0 OR NOT EXISTS (SELECT 1 FROM runs r WHERE r.state = 'running' AND r.falls > 0))`
	var waits int64
	// Looked at first, since most wakings find nothing and need not write.
	if err := s.read.WithContext(ctx).
		Raw("SELECT EXISTS (SELECT 1"+next+")", due.UnixMilli(), lanes).Scan(&waits).Error; err != nil || waits == 0 {
		return Run{}, false, err
	}
	var r Run
	res := s.write.WithContext(ctx).
		Raw("UPDATE runs SET state = 'running', started_at = ?, done = 0, total = 0 WHERE id = (SELECT id"+next+" ORDER BY urgent DESC, "+
			"id LIMIT 1) RETURNING *",
			since, due.UnixMilli(), lanes).
		Scan(&r)
	return r, res.Error == nil && r.ID != 0, res.Error
}

// NextDue is when the next run that waits for its time is due; false: none does.
func (s *Store) NextDue(ctx context.Context, now time.Time) (time.Time, bool, error) {
	var due *int64
	err := s.read.WithContext(ctx).Raw("SELECT min(due) FROM runs WHERE state = 'queued' AND due > ?", now.UnixMilli()).Scan(&due).Error
	if err != nil || due == nil {
		return time.Time{}, false, err
	}
	return time.UnixMilli(*due), true, nil
}

// anotherWaits tells of a run that is not to be waited for twice that a second
// one of its kind and subject waits, which does what this one would.
const anotherWaits = "runs.once AND EXISTS (SELECT 1 FROM runs w WHERE w.kind = runs.kind AND w.subject = runs.subject AND w.once " +
	"AND w.state = 'queued' AND w.id <> runs.id)"

// KeepRun writes how a run stands. One that is to be done again is over where
// another waits in its place.
func (s *Store) KeepRun(ctx context.Context, r *Run, now time.Time) error {
	if r.State == RunQueued {
		err := s.write.WithContext(ctx).
			Raw("UPDATE runs SET state = CASE WHEN "+anotherWaits+" THEN 'done' ELSE 'queued' END, done = ?, total = ?, tries = ?, "+
				"falls = 0, note = ?, due = ? WHERE id = ? RETURNING state",
				r.Done, r.Total, r.Tries, r.Note, r.Due, r.ID).Scan(&r.State).Error
		if err != nil || r.State == RunQueued {
			return err
		}
		r.EndedAt = &now
	}
	return s.write.WithContext(ctx).
		Model(r).
		Select("state", "done", "total", "tries", "note", "error", "due", "started_at", "ended_at").
		Updates(r).Error
}

// StopQueued ends a run that has not begun; false where it has.
func (s *Store) StopQueued(ctx context.Context, id int64, now time.Time) (Run, bool, error) {
	var r Run
	res := s.write.WithContext(ctx).
		Raw("UPDATE runs SET state = 'stopped', ended_at = ? WHERE id = ? AND state = 'queued' RETURNING *", now, id).
		Scan(&r)
	return r, res.Error == nil && r.ID != 0, res.Error
}

// RequeueRuns puts the runs that an end of the program cut short back in their places.
// fell says that it ended by its own doing: a run that went on twice as it did is set
// aside.
func (s *Store) RequeueRuns(ctx context.Context, now time.Time, fell bool) error {
	if fell {
		err := s.write.WithContext(ctx).Exec("UPDATE runs SET falls = falls + 1, state = iif(falls + 1 < ?, state, ?), ended_at = iif(falls + 1 < ?, ended_at, ?), "+
			"error = iif(falls + 1 < ?, error, ?) WHERE state = 'running'", mostFalls, RunAside, mostFalls, now, mostFalls,
			"the program ended twice while this went on; it is not taken up again by itself").Error
		if err != nil {
			return err
		}
	}
	return s.write.WithContext(ctx).
		Exec("UPDATE runs SET state = CASE WHEN "+anotherWaits+" THEN 'done' ELSE 'queued' END, ended_at = CASE WHEN "+anotherWaits+" "+
			"THEN ? END WHERE state = 'running'", now).Error
}

// TryAside has a run that was set aside tried again; false where it isn't set aside.
func (s *Store) TryAside(ctx context.Context, id int64) (Run, bool, error) {
	var r Run
	res := s.write.WithContext(ctx).
		Raw("UPDATE runs SET state = 'queued', falls = 0, error = '', due = 0, ended_at = NULL WHERE id = ? AND state = ? RETURNING *", id, RunAside).
		Scan(&r)
	return r, res.Error == nil && r.ID != 0, res.Error
}

// RunsAside are the runs that are set aside.
func (s *Store) RunsAside(ctx context.Context) ([]Run, error) {
	var out []Run
	err := s.read.WithContext(ctx).Where("state = ?", RunAside).Order("id").Find(&out).Error
	return out, err
}

// UnfinishedRuns are the runs that wait or go on, in their order.
func (s *Store) UnfinishedRuns(ctx context.Context) ([]Run, error) {
	var out []Run
	err := s.read.WithContext(ctx).Where("state IN ?", []string{RunQueued, RunRunning}).Order("id").Find(&out).Error
	return out, err
}

// LastRuns lists the newest runs that are over.
func (s *Store) LastRuns(ctx context.Context, n int) ([]Run, error) {
	var out []Run
	err := s.read.WithContext(ctx).Where("state NOT IN ?", []string{RunQueued, RunRunning, RunAside}).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// alive is the condition that a run waits, goes on, or is set aside until somebody has
// it tried again: no other is begun in its place.
const alive = "state IN ('queued', 'running', '" + RunAside + "')"

// RunAlive tells whether a run of a kind waits, goes on or is set aside for a subject.
func (s *Store) RunAlive(ctx context.Context, kind string, subject int64) (bool, error) {
	return runAlive(s.read.WithContext(ctx), kind, subject)
}

// RunAlive is Store.RunAlive inside a transaction.
func (tx Tx) RunAlive(kind string, subject int64) (bool, error) {
	return runAlive(tx.db, kind, subject)
}

func runAlive(db *gorm.DB, kind string, subject int64) (bool, error) {
	var n int64
	err := db.Raw("SELECT count(*) FROM runs WHERE kind = ? AND subject = ? AND "+alive, kind, subject).
		Scan(&n).Error
	return n > 0, err
}

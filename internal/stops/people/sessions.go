package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// A log-in ends so long after it was used last, and so long after it was made.
const (
	SessionIdle = 14 * 24 * time.Hour
	SessionMost = 90 * 24 * time.Hour
)

// DeviceMost is how long a browser is known to have been logged in with.
const DeviceMost = 365 * 24 * time.Hour

// Enter begins a session of a person and gives its token, by which they are known
// again, and the token of their browser. browser is what it calls itself, before the
// token that it had; one that isn't ours is none.
func (st *Stop) Enter(ctx context.Context, w actor.Who, browser, before string) (token, device string, err error) {
	now := st.Now()
	token, device = rand.Text(), before
	err = st.Store.Do(actor.Enter(ctx, w), func(tx store.Tx) error {
		oldest := now.Add(-DeviceMost)
		known, err := tx.DeviceKnown(tokenDigest(before), w.Person, oldest)
		if err != nil {
			return err
		}
		if !known {
			device = rand.Text()
		}
		return stops.First(
			tx.PutDevice(store.Device{Digest: tokenDigest(device), PersonID: w.Person, SeenAt: now}, oldest),
			tx.Create(&store.Session{Digest: st.digest(token), PersonID: w.Person, Browser: stops.Clip(browser, 200), MadeAt: now, SeenAt: now}),
			tx.Update(&store.Person{ID: w.Person}, map[string]any{"seen_at": now}),
			tx.Note(now, "logged in", w.Name, ""),
		)
	})
	return token, device, err
}

// ByCookie is whom a session's token stands for; false where nobody.
func (st *Stop) ByCookie(ctx context.Context, token string) (actor.Who, bool) {
	tx, now := st.Store.Reading(ctx), st.Now()
	x, there, err := tx.SessionOf(st.digest(token))
	if err != nil || !there || now.Sub(x.SeenAt) > SessionIdle || now.Sub(x.MadeAt) > SessionMost {
		return actor.Who{}, false
	}
	w, ok := st.active(tx, x.PersonID)
	w.Session = x.ID
	if ok && now.Sub(x.SeenAt) > time.Hour {
		st.seen(ctx, &x, now)
	}
	return w, ok
}

// seen writes down that a token or a session was used, and when; where that fails
// it is written down another time.
func (st *Stop) seen(ctx context.Context, row any, now time.Time) {
	_ = st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error { return tx.Update(row, map[string]any{"seen_at": now}) })
}

// active is somebody who works here now; false where they don't.
func (st *Stop) active(tx store.Tx, id int64) (actor.Who, bool) {
	p, err := store.GetTx[store.Person](tx, id)
	if err != nil || !p.Active {
		return actor.Who{}, false
	}
	w, err := whoIs(tx, p)
	return w, err == nil
}

// Leave ends a session.
func (st *Stop) Leave(ctx context.Context, token string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return tx.DropSession(st.digest(token)) })
}

// digest is how a token is kept. Another password at the start ends all sessions of the one before.
func (st *Stop) digest(token string) string {
	salt := sha256.Sum256([]byte(st.Password))
	sum := sha256.Sum256(append(salt[:], token...))
	return hex.EncodeToString(sum[:])
}

// Asks says what the log-in asks for beside a password: a name, where more than
// one works here, and a code, where somebody has one set up.
func (st *Stop) Asks(ctx context.Context) (name, code bool, err error) {
	all, err := st.Store.Reading(ctx).Active(1000)
	for _, p := range all {
		code = code || p.CodeOn
	}
	return len(all) > 1, code, err
}

// LogIn is one of a person's log-ins.
type LogIn struct {
	ID      int64     `json:"id"`
	Browser string    `json:"browser"`
	Made    time.Time `json:"made"`
	Seen    time.Time `json:"seen"`
	This    bool      `json:"this" doc:"Whether it is the one that asks"`
}

// EndLogIn ends one of one's own log-ins.
func (st *Stop) EndLogIn(ctx context.Context, id int64) error {
	w, _, err := st.myself(ctx)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		ended, err := tx.EndSession(w.Person, id)
		if err == nil && !ended {
			err = fault.New(fault.Missing, "you have no such log-in; it may have ended")
		}
		return err
	})
}

// EndAll ends all log-ins of somebody, and with them every token: when a machine was lost.
func (st *Stop) EndAll(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		p, err := store.GetTx[store.Person](tx, id)
		if err != nil {
			return err
		}
		return stops.First(endAll(tx, id), tx.Note(st.Now(), "log-ins and tokens ended", p.Name, ""))
	})
}

// endAll ends all by which somebody is known but their password.
func endAll(tx store.Tx, person int64) error {
	_, err := tx.DropTokens(person)
	return stops.First(err, tx.EndSessions(person, 0), tx.DropDevices(person))
}

// Package people is who works here: logging in with the password, staying
// logged in, and what was already answered to whom.
package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/hex"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// LeastPassword is how many characters a password has at least.
const LeastPassword = 8

// Owner is who works here while there is only one password.
const Owner = "owner"

// Stop is the use cases of who works here.
type Stop struct {
	stops.Deps
	password [sha256.Size]byte
	asked    bool // a password is asked for
	clock    func() time.Time

	mu    sync.Mutex
	wrong map[string]*guesses // by where they come from
}

// guesses are wrong passwords from one address.
type guesses struct {
	n     int
	until time.Time // no other is looked at before
}

// New makes the stop. An empty password asks for none; clock is the real time.
func New(d stops.Deps, password string, clock func() time.Time) *Stop {
	return &Stop{Deps: d, password: sha256.Sum256([]byte(password)), asked: password != "", clock: clock, wrong: map[string]*guesses{}}
}

// Operations implements stops.Stop: logging in is the edge's.
func (st *Stop) Operations(huma.API) {}

// Asked tells whether a password is asked for.
func (st *Stop) Asked() bool { return st.asked }

// longestWait is the longest that a wrong guess keeps others waiting.
const longestWait = 15 * time.Minute

// Check looks at a password that came from somewhere. After a wrong one the
// next is looked at later, and later still after each further one.
func (st *Stop) Check(from, password string) error {
	st.mu.Lock()
	defer st.mu.Unlock()
	now := st.clock()
	g := st.wrong[from]
	if g != nil && now.Before(g.until) {
		return &Wait{g.until.Sub(now)}
	}
	got := sha256.Sum256([]byte(password))
	if subtle.ConstantTimeCompare(st.password[:], got[:]) == 1 {
		delete(st.wrong, from)
		return nil
	}
	if g == nil {
		if len(st.wrong) > 10_000 { // more addresses than anybody has: forget the oldest wrongs of all
			clear(st.wrong)
		}
		g = &guesses{}
		st.wrong[from] = g
	}
	g.n++
	wait := min(time.Second<<min(g.n-1, 20), longestWait)
	g.until = now.Add(wait)
	return fault.New(fault.Held, "this is not the password")
}

// Wait says that no password is looked at for a while.
type Wait struct{ For time.Duration }

func (w *Wait) Error() string {
	return "too many wrong passwords: wait " + w.For.Round(time.Second).String() + " and try again"
}

// FaultKind implements fault.Kinded.
func (w *Wait) FaultKind() fault.Kind { return fault.Held }

// Enter begins a session and gives its token, by which it is known again.
func (st *Stop) Enter(ctx context.Context, who string) (string, error) {
	token, now := rand.Text(), st.Now()
	return token, st.Store.PutSession(ctx, &store.Session{Digest: st.digest(token), Actor: who, MadeAt: now, SeenAt: now})
}

// Who is who a token stands for; false where nobody.
func (st *Stop) Who(ctx context.Context, token string) (string, bool) {
	x, ok, err := st.Store.SessionOf(ctx, st.digest(token))
	if err != nil || !ok {
		return "", false
	}
	if now := st.Now(); now.Sub(x.SeenAt) > time.Hour {
		x.SeenAt = now
		_ = st.Store.PutSession(context.WithoutCancel(ctx), &x) // that it was used is written down another time
	}
	return x.Actor, true
}

// Leave ends a session.
func (st *Stop) Leave(ctx context.Context, token string) error {
	return st.Store.DropSession(ctx, st.digest(token))
}

// digest is how a token is kept. Another password ends all sessions of the one before.
func (st *Stop) digest(token string) string {
	sum := sha256.Sum256(append(st.password[:], token...))
	return hex.EncodeToString(sum[:])
}

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

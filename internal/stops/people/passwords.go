package people

import (
	"context"
	"strings"
	"time"
	"unicode"

	"github.com/alexedwards/argon2id"
	"golang.org/x/time/rate"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Passwords have at least so many characters, and at most so many bytes.
const (
	LeastPassword = 8
	mostPassword  = 800
)

// hashed is a password as it is kept: argon2id, RFC 9106.
func hashed(field, password string) (string, error) {
	switch {
	case len([]rune(password)) < LeastPassword:
		return "", fault.At(field, "a password has %d characters or more", LeastPassword)
	case len(password) > mostPassword:
		return "", fault.At(field, "a password has at most %d bytes", mostPassword)
	}
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// nobodys is looked at where there is no such person, so that it takes as long.
const nobodys = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$0YyQ1V3t5rKpJ3JmYx3o8b2C0mC1l0h3lqzXbJ2b1Xk"

// nameOf is a name as it is kept.
func nameOf(text string) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	switch {
	case text == "":
		return "", fault.At("name", "somebody needs a name")
	case strings.EqualFold(text, actor.System) || strings.EqualFold(text, "command line"):
		return "", fault.At("name", "%q is what the program calls itself; choose another name", text)
	case strings.ContainsFunc(text, func(r rune) bool { return unicode.IsControl(r) || strings.ContainsRune(`:()<>"`, r) }):
		return "", fault.At("name", `a name has none of : ( ) < > and "`)
	}
	return text, nil
}

// guesses are wrong passwords from one address, or for one name.
type guesses struct {
	n     int
	until time.Time // no other is looked at before
}

// The longest that wrong guesses keep others waiting: from the same address, and
// for the same name, which anybody can give.
const (
	longestFrom = 15 * time.Minute
	longestName = 30 * time.Second
)

// Wait says that no password is looked at for a while.
type Wait struct{ For time.Duration }

func (w *Wait) Error() string {
	return "too many wrong passwords: wait " + w.For.Round(time.Second).String() + " and try again"
}

// FaultKind implements fault.Kinded.
func (w *Wait) FaultKind() fault.Kind { return fault.Held }

// How often somebody may try from a browser that nobody logged in with before, all
// together, whatever name they give: each try takes a tenth of a second.
const (
	strangersRate  = rate.Limit(2) // a second
	strangersBurst = 60
)

// Try is what somebody says to be let in.
type Try struct {
	From           string // the address they come from
	Device         string // the token of their browser; "": none
	Name, Password string
	Code           string // one-time, RFC 6238; "": none
}

// ErrCode says that the password was right and a code is wanted too.
var ErrCode = fault.New(fault.Held, "a code is asked for too: the six figures that your authenticator shows now")

// Check looks at what somebody says to be let in, and tells who they are. After a
// wrong password or code the next is looked at later, and later still after each
// further one, from that address and for that name. A browser that somebody logged in
// with before is counted by itself when it is them who try: strangers who guess keep
// them out as little as they get in (OWASP, Device Cookies).
func (st *Stop) Check(ctx context.Context, in Try) (actor.Who, error) {
	keys, err := st.counted(ctx, in)
	if err != nil {
		return actor.Who{}, err
	}
	st.mu.Lock()
	defer st.mu.Unlock()
	now := st.Clock()
	for k := range keys {
		if g := st.wrong[k]; g != nil && now.Before(g.until) {
			return actor.Who{}, &Wait{g.until.Sub(now)}
		}
	}
	p, err := st.right(ctx, in)
	switch {
	case err == nil:
		for k := range keys {
			delete(st.wrong, k)
		}
		w, err := whoIs(st.Store.Reading(ctx), p)
		return w, err
	case err == ErrCode || fault.KindOf(err) == "":
		return actor.Who{}, err
	}
	for k, longest := range keys {
		st.wronged(k, longest, now)
	}
	return actor.Who{}, err
}

func (st *Stop) wronged(key string, longest time.Duration, now time.Time) {
	g := st.wrong[key]
	if g == nil {
		if len(st.wrong) > 10_000 { // more than anybody has: forget the oldest wrongs of all
			clear(st.wrong)
		}
		g = &guesses{}
		st.wrong[key] = g
	}
	g.n++
	g.until = now.Add(min(time.Second<<min(g.n-1, 20), longest))
}

// counted are what a try is counted by, and how long wrong ones keep the next of the
// same waiting at most.
func (st *Stop) counted(ctx context.Context, in Try) (map[string]time.Duration, error) {
	tx := st.Store.Reading(ctx)
	p, known, err := st.named(tx, in.Name)
	if err != nil {
		return nil, err
	}
	if known && in.Device != "" {
		digest := tokenDigest(in.Device)
		if there, err := tx.DeviceKnown(digest, p.ID, st.Now().Add(-DeviceMost)); err != nil || there {
			return map[string]time.Duration{"browser " + digest: longestFrom}, err
		}
	}
	now := st.Clock()
	if r := st.strangers.ReserveN(now, 1); r.DelayFrom(now) > 0 {
		defer r.CancelAt(now)
		return nil, &Wait{r.DelayFrom(now)}
	}
	return map[string]time.Duration{in.From: longestFrom, "name " + strings.ToLower(in.Name): longestName}, nil
}

// right is who a password, and a code where one is asked for, belong to.
func (st *Stop) right(ctx context.Context, in Try) (store.Person, error) {
	tx := st.Store.Reading(ctx)
	p, known, err := st.named(tx, in.Name)
	if err != nil {
		return p, err
	}
	hash, err := st.hashOf(&p, known)
	if err != nil {
		return p, err
	}
	fits := false
	if len(in.Password) <= mostPassword {
		fits, err = argon2id.ComparePasswordAndHash(in.Password, hash)
		fits = fits && hash != nobodys
	}
	switch {
	case err != nil:
		return p, err
	case !fits:
		return p, fault.New(fault.Held, "this is not the password")
	case !p.CodeOn:
		return p, nil
	case in.Code == "":
		return p, ErrCode
	}
	step, err := st.codeStep(&p, in.Code)
	if err != nil {
		return p, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&p, map[string]any{"code_step": step}) })
	return p, err
}

// hashOf is the hash that somebody's password is held against: their own, the one given
// at the start where they are the owner and keep none, or nobody's, which takes as long.
func (st *Stop) hashOf(p *store.Person, known bool) (string, error) {
	switch {
	case known && p.Password != "":
		return p.Password, nil
	case known && p.Role == actor.Owner && st.Password != "":
		return st.given()
	}
	return nobodys, nil
}

// named is who logs in: by the name, or whoever is alone here; false where nobody.
func (st *Stop) named(tx store.Tx, name string) (store.Person, bool, error) {
	all, err := tx.Active(2)
	if err != nil || len(all) == 1 {
		return first(all), len(all) == 1, err
	}
	p, known, err := tx.PersonNamed(strings.Join(strings.Fields(name), " "))
	return p, known && p.Active, err
}

func first(all []store.Person) store.Person {
	if len(all) == 0 {
		return store.Person{}
	}
	return all[0]
}

// PasswordChanged is what became of somebody's tokens as their password changed.
type PasswordChanged struct {
	Ended int64 `json:"ended" doc:"Tokens that ended with it"`
	Kept  int   `json:"kept" doc:"Tokens that still hold"`
}

// ChangePassword gives whoever asks another password; the old one is asked for
// where there is one. Their other log-ins end, and their tokens too where tokens says so.
func (st *Stop) ChangePassword(ctx context.Context, old, new string, tokens bool) (PasswordChanged, error) {
	out := PasswordChanged{}
	w, p, err := st.myself(ctx)
	if err != nil {
		return out, err
	}
	if p.Password != "" || st.Password != "" && p.Role == actor.Owner {
		if err := st.again(p, old); err != nil {
			return out, fault.At("old", "%v", err)
		}
	}
	hash, err := hashed("new", new)
	if err != nil {
		return out, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) (err error) {
		if tokens {
			if out.Ended, err = tx.DropTokens(p.ID); err != nil {
				return err
			}
		}
		left, err := tx.TokensOf(p.ID)
		out.Kept = len(left)
		return stops.First(err,
			tx.Update(&p, map[string]any{"password": hash, "version": p.Version + 1}),
			tx.EndSessions(p.ID, w.Session),
			tx.Note(st.Now(), "password changed", p.Name, stops.Plural(out.Ended, "token ended", "tokens ended")),
		)
	})
	return out, err
}

// again looks at the password of somebody who is in already: they are asked for
// it before what they are known by is changed.
func (st *Stop) again(p store.Person, password string) error {
	st.mu.Lock()
	defer st.mu.Unlock()
	key, now := "again "+strings.ToLower(p.Name), st.Clock()
	if g := st.wrong[key]; g != nil && now.Before(g.until) {
		return &Wait{g.until.Sub(now)}
	}
	hash, err := st.hashOf(&p, true)
	if err != nil {
		return err
	}
	fits, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return err
	}
	if !fits || hash == nobodys {
		st.wronged(key, longestFrom, now)
		return fault.New(fault.Held, "this is not your password as it was")
	}
	delete(st.wrong, key)
	return nil
}

// myself is whoever asks, as a person: a script can't change what its person is known by.
func (st *Stop) myself(ctx context.Context) (actor.Who, store.Person, error) {
	w := actor.Asking(ctx)
	if w.Script {
		return w, store.Person{}, fault.New(fault.Held, "a token can't do this: log in")
	}
	p, err := store.Get[store.Person](ctx, st.Store, w.Person)
	return w, p, err
}

// Reset gives somebody another password from the command line, and ends their log-ins
// and tokens; no code is asked for any more, for whoever lost both. Without a name it is
// whoever is alone here; a name that nobody has is an error.
func (st *Stop) Reset(ctx context.Context, name, password string) (string, error) {
	hash, err := hashed("password", password)
	if err != nil {
		return "", err
	}
	var p store.Person
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		var known bool
		if name == "" {
			p, known, err = st.named(tx, "")
		} else {
			p, known, err = tx.PersonNamed(strings.Join(strings.Fields(name), " "))
		}
		if err != nil || !known || !p.Active {
			return stops.First(err, st.nobody(tx, name))
		}
		return stops.First(
			tx.Update(&p, map[string]any{"password": hash, "code": "", "code_on": false, "version": p.Version + 1}),
			endAll(tx, p.ID),
			tx.Note(st.Now(), "password reset", p.Name, ""),
		)
	})
	return p.Name, err
}

// nobody says that nobody has a name, and who works here.
func (st *Stop) nobody(tx store.Tx, name string) error {
	all, err := tx.Active(50)
	if err != nil {
		return err
	}
	names := make([]string, len(all))
	for i := range all {
		names[i] = all[i].Name
	}
	if name == "" {
		return fault.New(fault.Missing, "say whose password: %s", strings.Join(names, ", "))
	}
	return fault.New(fault.Missing, "nobody called %q works here; nothing was changed. Here work %s", name, strings.Join(names, ", "))
}

// Package people is who works here: what each may, how they log in and by what
// they stay known, the tokens of their scripts, and who did what. While one
// person works here, at their own machine, nobody is asked for a password.
package people

import (
	"context"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"golang.org/x/time/rate"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Owner is how the first owner is called until she says otherwise.
const Owner = "owner"

// Options say how people are known.
type Options struct {
	// Password is the owner's until she keeps one of her own; where it is given,
	// it is asked for. "" is none.
	Password string
	// Elsewhere: reached from other machines, so that a password is always asked for.
	Elsewhere bool
	Clock     func() time.Time // the real time, by which guesses and codes go
}

// Stop is the use cases of who works here.
type Stop struct {
	stops.Deps
	Options
	mu        sync.Mutex // one password at a time: checking one takes 64 MiB
	wrong     map[string]*guesses
	strangers *rate.Limiter // passwords from browsers that nobody logged in with before
	given     func() (string, error)
}

// New makes the stop.
func New(d stops.Deps, o Options) *Stop {
	return &Stop{Deps: d, Options: o, wrong: map[string]*guesses{}, strangers: rate.NewLimiter(strangersRate, strangersBurst),
		given: sync.OnceValues(func() (string, error) { return argon2id.CreateHash(o.Password, argon2id.DefaultParams) })}
}

// Alone is who works here where it is only one, at their own machine and without
// a password that was asked for: whoever asks is them. false: one logs in.
func (st *Stop) Alone(ctx context.Context) (actor.Who, bool) {
	if st.Password != "" || st.Elsewhere {
		return actor.Who{}, false
	}
	all, err := st.Store.Reading(ctx).Active(2)
	if err != nil || len(all) != 1 { // what can't be read lets nobody in
		return actor.Who{}, false
	}
	w, err := whoIs(st.Store.Reading(ctx), all[0])
	return w, err == nil
}

// whoIs is a person as they ask for things.
func whoIs(tx store.Tx, p store.Person) (actor.Who, error) {
	role, err := roleOf(tx, p.Role)
	return actor.Who{Name: p.Name, Person: p.ID, Role: role.Name, May: role.Rights}, err
}

// Guarded tells whether somebody can log in with a password: without one nobody
// may be let in from elsewhere.
func (st *Stop) Guarded(ctx context.Context) (bool, error) {
	all, err := st.Store.Reading(ctx).Active(1000)
	for _, p := range all {
		if p.Role == actor.Owner && (p.Password != "" || st.Password != "") {
			return true, err
		}
	}
	return false, err
}

// Person is somebody who works here, as the API shows them.
type Person struct {
	ID       int64      `json:"id"`
	Version  int64      `json:"version" doc:"For If-Match"`
	Name     string     `json:"name" doc:"One logs in with it, and the audit calls them so"`
	Role     string     `json:"role" doc:"One of the roles"`
	Active   bool       `json:"active" doc:"Not: they can't log in any more, and stay in the audit"`
	Password bool       `json:"password" doc:"Whether they have one of their own"`
	Code     bool       `json:"code" doc:"Whether a one-time code is asked for too"`
	Seen     *time.Time `json:"seen"`
}

func personOf(p store.Person) Person {
	return Person{p.ID, p.Version, p.Name, p.Role, p.Active, p.Password != "", p.CodeOn, p.SeenAt}
}

// Team are all who work or worked here.
func (st *Stop) Team(ctx context.Context) ([]Person, error) {
	all, err := st.Store.Reading(ctx).People()
	out := []Person{}
	for _, p := range all {
		out = append(out, personOf(p))
	}
	return out, err
}

// PersonText is a person as they are written.
type PersonText struct {
	Name     string `json:"name" maxLength:"60"`
	Role     string `json:"role" doc:"One of the roles"`
	Active   bool   `json:"active"`
	Password string `json:"password,omitempty" maxLength:"200" doc:"A new one; empty leaves the one they have"`
	// EndTokens goes with a new password.
	EndTokens bool `json:"end_tokens,omitempty" doc:"With a new password their tokens end too; else those stay"`
}

// Join lets somebody work here. Whoever lets a second in needs a password of
// their own first: from then on everybody logs in.
func (st *Stop) Join(ctx context.Context, in PersonText) (int64, error) {
	p := store.Person{Active: true}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		all, err := tx.Active(2)
		if err != nil {
			return err
		}
		if len(all) == 1 && all[0].Password == "" && st.Password == "" {
			return fault.New(fault.Conflict, "set a password of your own first: once there are two of you, everybody logs in")
		}
		if err := st.write(tx, &p, in); err != nil {
			return err
		}
		return tx.Note(st.Now(), "person let in", p.Name, p.Role)
	})
	return p.ID, err
}

// Keep changes who somebody is here. Another role, another password or leaving
// ends their log-ins; leaving and another role end their tokens too.
func (st *Stop) Keep(ctx context.Context, id int64, m stops.IfMatch, in PersonText) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		p, err := store.GetTx[store.Person](tx, id)
		if err != nil {
			return err
		}
		if err := m.Check(p.Version, p.Name, personOf(p)); err != nil {
			return err
		}
		before := p
		p.Active, p.Version = in.Active, p.Version+1
		if err := st.write(tx, &p, in); err != nil {
			return err
		}
		if err := oneOwner(tx); err != nil {
			return err
		}
		said := p.Role
		if p.Role != before.Role || !p.Active || in.Password != "" && in.EndTokens {
			_, err = tx.DropTokens(id)
		}
		if p.Role != before.Role || !p.Active || in.Password != "" {
			but := int64(0)
			if w := actor.Asking(ctx); w.Person == id && p.Active {
				but = w.Session
			}
			err = stops.First(err, tx.EndSessions(id, but))
		}
		if !p.Active {
			said = "works here no more"
		}
		return stops.First(err, tx.Note(st.Now(), "person changed", p.Name, said))
	})
}

// write checks what a person is to be and writes it.
func (st *Stop) write(tx store.Tx, p *store.Person, in PersonText) error {
	name, err := nameOf(in.Name)
	if err != nil {
		return err
	}
	if other, taken, err := tx.PersonNamed(name); err != nil || taken && other.ID != p.ID {
		return stops.First(err, fault.Taken("name", "there is a %s here already", other.Name))
	}
	role, err := roleOf(tx, in.Role)
	if err != nil {
		return fault.At("role", "%v", err)
	}
	p.Name, p.Role = name, role.Name
	if in.Password != "" {
		if p.Password, err = hashed("password", in.Password); err != nil {
			return err
		}
	}
	if p.ID == 0 && p.Password == "" {
		return fault.At("password", "%s needs a password to log in with, of %d characters or more", name, LeastPassword)
	}
	tx.Changed("people")
	return tx.Save(p)
}

// oneOwner refuses to leave nobody who may everything.
func oneOwner(tx store.Tx) error {
	all, err := tx.Active(1000)
	for _, p := range all {
		if p.Role == actor.Owner {
			return nil
		}
	}
	return stops.First(err, fault.At("role", "somebody has to be the owner: make another person one first"))
}

// Package actor says who does something, and what they may. The edge puts it
// into the context, and whatever is written down about it, down to the audit,
// takes it from there.
package actor

import (
	"context"
	"fmt"
	"slices"
	"strings"
)

// System is who does what nobody asked for in so many words: a schedule, a
// follow-up, a start.
const System = "easymargin"

// Rights are things that somebody may do, each of them by itself: a set of bits. The
// zero value may nothing.
type Rights uint16

// The rights.
const (
	Look     Rights = 1 << iota // see everything but buyers and who works here
	Prepare                     // bring in, match, price, prepare: nothing of it goes out
	Send                        // let go what touches a place, a supplier or a buyer
	Buyers                      // see buyers' names and addresses
	Money                       // buy, refund, take statements, close the books
	Settings                    // say where one sells, what goes without a person, where mail goes
	People                      // say who works here, and what each may
	Account                     // change one's own password, tokens and log-ins; no script may
)

// Everything is all rights together.
const Everything = Look | Prepare | Send | Buyers | Money | Settings | People | Account

// named are the rights that a role is made of, with their names in the API. Account is
// not among them: every person has it.
var named = []struct {
	Right Rights
	Name  string
}{{Look, "look"}, {Prepare, "prepare"}, {Send, "send"}, {Buyers, "buyers"}, {Money, "money"}, {Settings, "settings"}, {People, "people"}, {Account, "account"}}

// Has tells whether all of some rights are among these.
func (r Rights) Has(all Rights) bool { return r&all == all }

// Names are the names of the rights, in their order.
func (r Rights) Names() []string {
	out := []string{}
	for _, n := range named {
		if r.Has(n.Right) {
			out = append(out, n.Name)
		}
	}
	return out
}

// String is the names of the rights in one text: "look, prepare".
func (r Rights) String() string {
	if r == 0 {
		return "nothing"
	}
	return strings.Join(r.Names(), ", ")
}

// RightsOf reads the names of rights; one that isn't known is an error.
func RightsOf(names []string) (Rights, error) {
	out := Rights(0)
	for _, name := range names {
		at := slices.IndexFunc(named, func(n struct {
			Right Rights
			Name  string
		}) bool {
			return n.Name == name
		})
		if at < 0 {
			return 0, fmt.Errorf("%q is none of the rights %s", name, Everything&^Account)
		}
		out |= named[at].Right
	}
	return out, nil
}

// Owner is the role that may everything; somebody always has it.
const Owner = "owner"

// Role is a set of rights under a name.
type Role struct {
	Name   string
	Rights Rights
}

// Presets are the roles that are always there. The owner can make others.
var Presets = []Role{
	{"look", Look | Account},
	{"prepare", Look | Prepare | Account},
	{"send", Look | Prepare | Send | Buyers | Money | Account},
	{Owner, Everything},
}

// Preset is one of the roles that are always there; false where none has that name.
func Preset(name string) (Role, bool) {
	at := slices.IndexFunc(Presets, func(r Role) bool { return r.Name == name })
	if at < 0 {
		return Role{}, false
	}
	return Presets[at], true
}

// Who is somebody who asks for something.
type Who struct {
	Name    string
	Person  int64 // 0: no person
	Session int64 // by which they are known; 0: none
	Role    string
	May     Rights
	Script  bool // by a token
}

type key struct{}

// Enter is a context in which somebody does what is done.
func Enter(ctx context.Context, w Who) context.Context { return context.WithValue(ctx, key{}, w) }

// With is a context in which a program of ours does what is done, by a name.
func With(ctx context.Context, name string) context.Context { return Enter(ctx, Who{Name: name}) }

// Asking is who does what is done in a context; the zero value where nobody was named.
func Asking(ctx context.Context) Who {
	w, _ := ctx.Value(key{}).(Who)
	return w
}

// Of is the name of who does what is done in a context; System where nobody was named.
func Of(ctx context.Context) string {
	if w := Asking(ctx); w.Name != "" {
		return w.Name
	}
	return System
}

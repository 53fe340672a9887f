// Package actor says who does something, and what they may. The edge puts it
// into the context, and whatever is written down about it, down to the audit,
// takes it from there.
package actor

import (
	"context"
	"fmt"
	"slices"
)

// System is who does what nobody asked for in so many words: a schedule, a
// follow-up, a start.
const System = "easymargin"

// Role is what somebody may do. Each may what those before it may; the zero
// value may nothing.
type Role int

// The roles.
const (
	Nobody  Role = iota
	Look         // sees everything but buyers and who works here
	Prepare      // brings in, matches, prices, prepares
	Send         // lets go what touches a place, a supplier or a buyer
	Owner        // says who works here, where one sells, and what is done without a person
)

var roles = []string{"nobody", "look", "prepare", "send", "owner"}

func (r Role) String() string { return roles[r] }

// RoleOf reads a role; one that isn't known is an error and Nobody.
func RoleOf(text string) (Role, error) {
	if n := slices.Index(roles, text); n > 0 {
		return Role(n), nil
	}
	return Nobody, fmt.Errorf("%q is none of the roles look, prepare, send and owner", text)
}

// Who is somebody who asks for something.
type Who struct {
	Name    string
	Person  int64 // 0: no person
	Session int64 // by which they are known; 0: none
	Role    Role
	Script  bool // by a token: it may not change what its person is known by
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

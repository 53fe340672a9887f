// Package fault is what an error is to a person: its kind, the field that is
// wrong, and a sentence that says what happened and what to do. Use cases
// return it; the edge turns it into problem+json, RFC 9457, once.
package fault

import (
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"syscall"
)

// Kind says what sort of error it is; the edge turns it into a status.
type Kind string

// The kinds of error.
const (
	Invalid     Kind = "invalid"     // what was asked makes no sense as it stands
	Missing     Kind = "missing"     // there is no such thing
	Conflict    Kind = "conflict"    // it can't be done as things are
	Stale       Kind = "stale"       // somebody changed it meanwhile
	Held        Kind = "held"        // a person must look first
	Unavailable Kind = "unavailable" // it may work later
	Full        Kind = "full"        // there is no room to write, or no leave
	Forbidden   Kind = "forbidden"   // whoever asks may not
	TooLarge    Kind = "too large"   // more than is taken
)

// Error is an error for people.
type Error struct {
	Kind    Kind
	Field   string // of the request, where one is wrong
	Words   string
	Current any      // of a stale one: the thing as it is now
	Others  []*Error // further fields that are wrong
}

func (e *Error) Error() string { return e.Words }

// FaultKind implements Kinded.
func (e *Error) FaultKind() Kind { return e.Kind }

// Kinded is an error that knows its kind. Packages with errors of their own
// implement it.
type Kinded interface {
	error
	FaultKind() Kind
}

// New makes an error of a kind.
func New(kind Kind, format string, args ...any) error {
	return &Error{Kind: kind, Words: fmt.Sprintf(format, args...)}
}

// At makes an error that a field of the request is the reason for.
func At(field, format string, args ...any) error {
	return &Error{Kind: Invalid, Field: field, Words: fmt.Sprintf(format, args...)}
}

// All is several errors, each of a field, as one; nil where there are none.
func All(list []*Error) error {
	if len(list) == 0 {
		return nil
	}
	first := *list[0]
	first.Others = list[1:]
	return &first
}

// Taken makes an error that a field names what is there already.
func Taken(field, format string, args ...any) error {
	return &Error{Kind: Conflict, Field: field, Words: fmt.Sprintf(format, args...)}
}

// KindOf is the kind of an error; "" for our own mistakes.
func KindOf(err error) Kind {
	var k Kinded
	switch {
	case NoRoom(err):
		return Full
	case errors.As(err, &k):
		return k.FaultKind()
	}
	return ""
}

// NoRoom tells whether an error comes of a disk that is full, or of a share of it that
// is used up, whatever was written there.
func NoRoom(err error) bool { return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) }

// Words are what an error says to people.
func Words(err error) string {
	var k Kinded
	if NoRoom(err) && !errors.As(err, &k) {
		return "the disk is full; nothing was changed. Make room there and try again"
	}
	return err.Error()
}

// Caught does something and turns a panic of it into an error, so that a mistake of
// ours ends what was being done and not the program. Every goroutine that works on
// what came from outside does so through it.
func Caught(do func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("panicked", "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("this broke off by a mistake of the program (%v); nothing was half done", p)
		}
	}()
	return do()
}

// Package actor says who does something. The edge puts it into the context, and
// whatever is written down about it, down to the audit, takes it from there.
package actor

import "context"

// System is who does what nobody asked for in so many words: a schedule, a
// follow-up, a start.
const System = "easymargin"

type key struct{}

// With is a context in which name does what is done.
func With(ctx context.Context, name string) context.Context {
	return context.WithValue(ctx, key{}, name)
}

// Of is who does what is done in a context; System where nobody was named.
func Of(ctx context.Context) string {
	if name, ok := ctx.Value(key{}).(string); ok && name != "" {
		return name
	}
	return System
}

// Package files makes a place of one that has no gateway: what is known of it
// comes from the files that it lets sellers download. Its catalogue is looked up
// in what was read of them; nothing can be sent there this way.
package files

import (
	"context"
	"net/http"

	"easymargin/internal/place"
)

// Shelf is where what was read of a place's files is kept.
type Shelf interface {
	// ByNumber finds entries by numbers of 14 digits.
	ByNumber(ctx context.Context, place, site string, gtins []string) ([]place.Entry, error)
	// ByRef finds one entry; false where there is none.
	ByRef(ctx context.Context, place, site, ref string) (place.Entry, bool, error)
	// ByWords finds those that have most of some words, the likeliest first.
	ByWords(ctx context.Context, place, site, words string) ([]place.Entry, error)
}

// Open makes the place called name of a shelf.
func Open(name string, s Shelf) place.Place {
	return place.Place{Name: name, Catalogue: &catalogue{name, s}}
}

type catalogue struct {
	name  string
	shelf Shelf
}

// EntriesByNumber implements place.Catalogue.
func (c *catalogue) EntriesByNumber(ctx context.Context, site string, gtins []string) ([]place.Entry, error) {
	return c.shelf.ByNumber(ctx, c.name, site, gtins)
}

// Entry implements place.Catalogue.
func (c *catalogue) Entry(ctx context.Context, site, ref string) (place.Entry, error) {
	e, found, err := c.shelf.ByRef(ctx, c.name, site, ref)
	if err == nil && !found {
		err = &place.Refusal{Name: c.name, Status: http.StatusNotFound, Words: "no entry " + ref + " is in what was read of it"}
	}
	return e, err
}

// EntriesByWords implements place.Catalogue.
func (c *catalogue) EntriesByWords(ctx context.Context, site, words string) ([]place.Entry, error) {
	return c.shelf.ByWords(ctx, c.name, site, words)
}

package house

import (
	"context"
	"slices"
	"strings"

	"easymargin/core/match/title"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// shelf is what was read of the files of places without a gateway, as
// place/files looks things up in it.
type shelf struct{ store *store.Store }

// ByNumber implements files.Shelf.
func (s shelf) ByNumber(ctx context.Context, name, site string, gtins []string) ([]place.Entry, error) {
	list, err := s.store.ShelvedByNumber(ctx, name, site, gtins)
	return shelved(list), err
}

// ByRef implements files.Shelf.
func (s shelf) ByRef(ctx context.Context, name, site, ref string) (place.Entry, bool, error) {
	e, found, err := s.store.ShelvedByRef(ctx, name, site, ref)
	return shelved([]store.Entry{e})[0], found, err
}

// mostFound is the most entries that words find.
const mostFound = 12

// ByWords implements files.Shelf: those with most of the words, the likeliest first.
func (s shelf) ByWords(ctx context.Context, name, site, words string) ([]place.Entry, error) {
	want := title.Default().Read(words, &title.Names{}).Words
	if len(want) > 12 {
		want = want[:12]
	}
	list, err := s.store.ShelvedByWords(ctx, name, site, want)
	if err != nil {
		return nil, err
	}
	has := make(map[int64]int, len(list))
	for _, e := range list {
		text := " " + title.Fold(e.Brand+" "+e.Title) + " "
		for _, w := range want {
			if strings.Contains(text, w) {
				has[e.ID]++
			}
		}
	}
	list = slices.DeleteFunc(list, func(e store.Entry) bool { return 2*has[e.ID] < len(want) })
	slices.SortStableFunc(list, func(a, b store.Entry) int { return has[b.ID] - has[a.ID] })
	return shelved(list[:min(len(list), mostFound)]), nil
}

// shelved are entries as a place gives them.
func shelved(list []store.Entry) []place.Entry {
	out := make([]place.Entry, len(list))
	for i, e := range list {
		copyable := !e.Closed
		out[i] = place.Entry{
			Ref: e.Ref, GTIN: e.GTIN, Title: e.Title, Brand: e.Brand, Category: e.Category, Picture: e.Picture, Page: e.Page, Units: e.Units,
			GTINs: e.GTINs, MPN: e.MPN, Colour: e.Colour, Size: e.Size, Material: e.Material, Copyable: &copyable, NeedsLeave: e.NeedsLeave,
			Rating: e.Rating, Ratings: e.Ratings, Rank: e.Rank,
		}
	}
	return out
}

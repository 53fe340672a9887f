// Package stops is what the stops of the work have in common: what they are
// made of, how their part of the API is said, and how their errors are
// answered. Each stop is a package below it, and none imports another.
package stops

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Deps is what every stop is made of.
type Deps struct {
	Store   *store.Store
	Queue   *work.Queue
	Now     func() time.Time // the time the application goes by, UTC
	Places  func(store.Marketplace) place.Place
	Fetcher *fetch.Fetcher
	// FirstPause is how long an address that failed is left alone, growing from there.
	FirstPause time.Duration
	// Stall is how long an upload may bring nothing before it is given up.
	Stall time.Duration
	// Folders are those named at the start that files may be read from and put into,
	// name → path.
	Folders map[string]string
	// NoPictures leaves suppliers' pictures where they are.
	NoPictures bool
}

// Book opens the book of a site as it is now, outside of any transaction.
func (d Deps) Book(tx store.Tx, site store.Site) (*reckon.Book, error) {
	return reckon.Open(tx, site, d.Now())
}

// Stop is one stop of the work, with its part of the API.
type Stop interface {
	Operations(api huma.API)
}

// Amount reads a text in major units, with words for whoever typed it.
func Amount(field, text string, cur money.Currency) (int64, error) {
	text = strings.TrimSpace(text)
	v, err := money.Parse(text, cur)
	plain := text
	if err != nil {
		if plain, err = money.Typed(text); errors.Is(err, money.ErrEither) {
			return 0, fault.At(field, "%s", err)
		}
		v, err = money.Parse(plain, cur)
	}
	switch {
	case err == nil && money.Believed(v.Minor):
		return v.Minor, nil
	case err == nil && v.Minor > 0 || errors.Is(err, money.ErrRange):
		return 0, fault.At(field, "%s is more than an amount can be: %s at most", text, money.Of(money.Most, cur))
	}
	if exp, _ := cur.Digits(); exp == 0 && strings.Contains(plain, ".") {
		return 0, fault.At(field, "%s has no decimals: write %q without them", cur, text)
	}
	return 0, fault.At(field, "%q is not an amount in %s such as %s", text, cur, money.Of(1240, cur))
}

// Share reads a percentage; the sign may be left out.
func Share(field, text string) (money.Rate, error) {
	text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%"))
	v, err := money.ParseRate(text + "%")
	if err != nil {
		plain, either := money.Typed(text)
		if errors.Is(either, money.ErrEither) {
			return 0, fault.At(field, "%s", either)
		}
		v, err = money.ParseRate(plain + "%")
	}
	if err != nil {
		return 0, fault.At(field, "%q is not a percentage such as 12.5%%", text)
	}
	return v, nil
}

// Clip cuts a text that came from elsewhere to so many characters.
func Clip(s string, n int) string {
	s = strings.ToValidUTF8(s, "")
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// WebAddress lets only addresses through that a browser opens as a page.
func WebAddress(s string) string {
	if strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://") {
		return s
	}
	return ""
}

// FieldError splits a core error into the field it names and its words.
func FieldError(err error, under string) error {
	field, text, ok := strings.Cut(err.Error(), ": ")
	if !ok {
		return fault.At(under, "%v", err)
	}
	switch {
	case under != "" && strings.HasPrefix(field, "["):
		field = under + field
	case under != "":
		field = under + "." + field
	}
	return fault.At(field, "%s", text)
}

// MatchRun is the looking up of what is not matched on a site yet.
func MatchRun(site store.Site, now time.Time) store.Run {
	return store.Run{
		Kind:      RunMatch,
		Lane:      store.Lane(RunMatch, site.MarketplaceID),
		Title:     "Looking numbers up on " + site.Name,
		Subject:   site.ID,
		Once:      true,
		CreatedAt: now,
	}
}

// LookUp queues the looking up on every site we list on: new supplier data is
// there, or a site began to be listed on.
func LookUp(tx store.Tx, sites []store.Site, now time.Time) error {
	for _, s := range sites {
		if !s.Lists || reckon.NeedsContent(&s) { // there is no catalogue to look in
			continue
		}
		r := MatchRun(s, now)
		if err := tx.Queue(&r); err != nil {
			return err
		}
	}
	return nil
}

// PicturesRun is the fetching of the pictures of what is sold or kept.
func PicturesRun(now time.Time) store.Run {
	return store.Run{Kind: RunPictures, Lane: RunPictures, Title: "Fetching pictures", Once: true, CreatedAt: now}
}

// SecondsRun is the finding of what suppliers have that is sold already from another one.
func SecondsRun(now time.Time) store.Run {
	return store.Run{Kind: RunSeconds, Lane: RunSeconds, Title: "Finding second suppliers", Once: true, CreatedAt: now}
}

// Kinds of run that one stop queues and another does.
const (
	RunMatch    = "match"
	RunPictures = "pictures"
	RunSeconds  = "second suppliers"
	RunRivals   = "rivals"
	RunDemands  = "demands"
)

// First is the first of some errors.
func First(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// Plural is a number with its noun.
func Plural(n int64, one, many string) string { return reckon.Plural(n, one, many) }

// ListingName is how the audit calls a listing.
func ListingName(id int64) string { return fmt.Sprintf("listing %d", id) }

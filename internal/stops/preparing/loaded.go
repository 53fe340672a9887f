package preparing

import (
	"context"
	"regexp"
	"slices"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// loaded is a listing as it was read.
type loaded struct {
	site     *store.Site
	listing  store.Listing
	material *store.Material
	asking   *reckon.Asking
}

// load reads a listing of our own.
func load(tx store.Tx, id int64) (*loaded, error) {
	list, err := loadAll(tx, []int64{id})
	if err != nil {
		return nil, err
	}
	return list[0], nil
}

// loadAll reads listings of our own, in the order of their ids as given. Each
// site's demands are read once.
func loadAll(tx store.Tx, ids []int64) ([]*loaded, error) {
	listings, err := tx.ListingsOf(ids)
	if err != nil {
		return nil, err
	}
	materials, err := tx.Materials(ids)
	if err != nil {
		return nil, err
	}
	sites, askings := map[int64]*store.Site{}, map[int64]*reckon.Asking{}
	out := make([]*loaded, 0, len(ids))
	for _, id := range ids {
		l, ok := listings[id]
		if !ok {
			return nil, store.ErrMissing
		}
		site := sites[l.SiteID]
		if site == nil {
			s, err := tx.SiteOf(l.SiteID)
			if err != nil {
				return nil, err
			}
			site, sites[l.SiteID] = &s, &s
			if askings[s.ID], err = reckon.OpenAsking(tx, site); err != nil {
				return nil, err
			}
		}
		switch {
		case l.EntryID != nil || !reckon.Writes(site):
			return nil, fault.New(fault.Conflict, "%s is sold on an entry of %s, which has its words and pictures; there is nothing to prepare", l.SKU, site.Name)
		case materials[id] == nil:
			return nil, fault.New(fault.Conflict, "%s has no supplier any more", l.SKU)
		}
		out = append(out, &loaded{site, l, materials[id], askings[l.SiteID]})
	}
	return out, nil
}

// titlePart is the name of a part of a title: a field or an attribute.
var titlePart = regexp.MustCompile(`^[a-z][a-z0-9_]{0,60}$`)

// say puts a person's words into what was read.
func (x *loaded) say(ctx context.Context, now time.Time, say []FieldSaid) error {
	for _, s := range say {
		if !reckon.Sayable(s.Field) {
			return fault.At("say", "%q is nothing that can be said of a listing", s.Field)
		}
		if s.Field == reckon.TermsField && len(s.Values) > 0 && s.Values[0] != "" && !slices.Contains(x.asking.TermsNames(), s.Values[0]) {
			return fault.At("say", "%s has no selling terms called %q", x.site.Name, s.Values[0])
		}
		for _, v := range s.Values {
			if s.Field == reckon.TitleParts && v != "" && !titlePart.MatchString(v) {
				return fault.At("say", "%q is no part of a title, such as brand or colour", v)
			}
			if len([]rune(v)) > mostText {
				return fault.At("say", "%s: a value has at most %d characters", s.Field, mostText)
			}
		}
		row, err := s.row(ctx, now, x.listing.ID)
		if err != nil {
			return err
		}
		if row.Value == "" {
			delete(x.material.Said, s.Field)
		} else {
			x.material.Said[s.Field] = row
		}
	}
	return nil
}

// with is the listing as it was, as it is with a person's words, and those as
// they are kept. Where an amount can't be read it is said, and nothing is kept.
func (x *loaded) with(ctx context.Context, now time.Time, say []FieldSaid) (before, after reckon.Prepared, rows []store.Saying, err error) {
	if before, err = x.asking.Prepare(x.material, &x.listing); err != nil {
		return before, after, nil, err
	}
	if err = x.say(ctx, now, say); err != nil {
		return before, after, nil, err
	}
	if after, err = x.asking.Prepare(x.material, &x.listing); err != nil {
		return before, after, nil, fault.New(fault.Invalid, "%s: %v", x.listing.SKU, err)
	}
	for i := range say {
		row, err := say[i].row(ctx, now, x.listing.ID)
		if err != nil {
			return before, after, nil, err
		}
		rows = append(rows, row)
	}
	return before, after, rows, nil
}

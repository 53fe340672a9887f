// Package matching is the stop where suppliers' products are tied to a
// marketplace's entries: by their numbers where that is certain, by a person
// where it isn't. It follows design/matching.md.
package matching

import (
	"context"
	"encoding/json"
	"fmt"

	"easymargin/core/ident"
	"easymargin/core/match"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Match.
type Stop struct{ stops.Deps }

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) { q.Handle(stops.RunMatch, st.doMatch) }

// doMatch looks up every supplier product that has no match on a site yet. One
// certain hit becomes a product with its listing; the others wait for a person.
// Each group of numbers is kept in one transaction, so a crash or an outage
// leaves nothing half done and the next run goes on from there.
func (st *Stop) doMatch(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	catalogue, err := st.catalogue(site)
	if err != nil {
		return err
	}
	total, err := st.Store.CountUnmatched(ctx, site.ID)
	if err != nil {
		return err
	}
	found, waiting, done, after := int64(0), int64(0), int64(0), int64(0)
	for {
		group, err := st.Store.Unmatched(ctx, site.ID, after, place.MaxNumbers/2) // a case number asks for its item too
		if err != nil {
			return err
		}
		if len(group) == 0 {
			break
		}
		after = group[len(group)-1].ID
		entries, err := lookUp(ctx, catalogue, site.Code, group)
		if err != nil {
			return err
		}
		n, err := st.keep(ctx, site, group, entries)
		if err != nil {
			return err
		}
		found, waiting, done = found+n, waiting+int64(len(group))-n, done+int64(len(group))
		t.At(done, total)
	}
	t.Note = fmt.Sprintf("%s: %d matched, %s", site.Name, found, stops.Plural(waiting, "waits for you", "wait for you"))
	return nil
}

// keep keeps what a look-up found for a group, and says how many were certain.
func (st *Stop) keep(ctx context.Context, site store.Site, group []store.SupplierProduct, entries map[string][]place.Entry) (int64, error) {
	found := int64(0)
	return found, st.Store.Do(ctx, func(tx store.Tx) error {
		for i := range group {
			p := &group[i]
			hits := entries[p.GTIN]
			if n := ident.Read(p.GTIN); n.Inside != "" {
				hits = append(hits[:len(hits):len(hits)], entries[n.Inside]...)
			}
			state, err := st.putLookup(tx, site, p, hits)
			if err != nil {
				return fmt.Errorf("matching %s: %w", p.Ref, err)
			}
			if state == match.Certain {
				found++
			}
		}
		tx.Changed("matches", "counts", "products")
		if found == 0 || st.NoPictures {
			return nil
		}
		r := stops.PicturesRun(st.Now())
		return tx.Queue(&r)
	})
}

func (st *Stop) catalogue(site store.Site) (place.Catalogue, error) {
	c := st.Places(site.Marketplace).Catalogue
	if c == nil {
		return nil, fault.New(fault.Conflict, "%s has no catalogue to look things up in", site.Marketplace.Name)
	}
	return c, nil
}

// lookUp asks for the entries of a group's numbers, by number.
func lookUp(ctx context.Context, catalogue place.Catalogue, site string, group []store.SupplierProduct) (map[string][]place.Entry, error) {
	var numbers []string
	asked := map[string]bool{}
	ask := func(n string) {
		if n != "" && !asked[n] {
			asked[n] = true
			numbers = append(numbers, n)
		}
	}
	for i := range group {
		ask(group[i].GTIN)
		if group[i].GTIN != "" {
			ask(ident.Read(group[i].GTIN).Inside)
		}
	}
	out := map[string][]place.Entry{}
	if len(numbers) == 0 {
		return out, nil
	}
	entries, err := catalogue.EntriesByNumber(ctx, site, numbers)
	for _, e := range entries {
		if n := ident.Read(e.GTIN); n.Found() {
			e.GTIN = n.GTIN
		}
		out[e.GTIN] = append(out[e.GTIN], e)
	}
	return out, err
}

// putLookup keeps what a look-up found for one supplier product.
func (st *Stop) putLookup(tx store.Tx, site store.Site, p *store.SupplierProduct, hits []place.Entry) (match.State, error) {
	kept := make([]store.Entry, len(hits))
	for i, h := range hits {
		kept[i] = st.entryOf(site.ID, h)
		if err := tx.PutEntry(st.Now(), &kept[i]); err != nil {
			return "", err
		}
	}
	candidates, state := weigh(p, kept)
	m := store.Match{SupplierProductID: p.ID, SiteID: site.ID, DecidedBy: "lookup", DecidedAt: st.Now()}
	if state == match.Certain {
		doubt, err := st.list(tx, site, p, &kept[0], false)
		if err != nil {
			return "", err
		}
		if doubt != "" {
			state = match.Several
			candidates[0].Evidence = append(candidates[0].Evidence, match.Evidence{Words: doubt})
		} else {
			m.EntryID = &kept[0].ID
		}
	}
	text, err := json.Marshal(candidates)
	if err != nil {
		return "", err
	}
	m.Candidates, m.State = string(text), string(state)
	return state, tx.PutMatch(&m)
}

func (st *Stop) entryOf(siteID int64, e place.Entry) store.Entry {
	return store.Entry{
		SiteID:   siteID,
		Ref:      e.Ref,
		GTIN:     e.GTIN,
		Title:    stops.Clip(e.Title, 500),
		Brand:    stops.Clip(e.Brand, 200),
		Category: e.Category,
		Picture:  e.Picture,
		Page:     stops.WebAddress(e.Page),
		Units:    max(e.Units, 0),
		SeenAt:   st.Now(),
	}
}

func weigh(p *store.SupplierProduct, entries []store.Entry) ([]match.Candidate, match.State) {
	list := make([]match.Entry, len(entries))
	for i, e := range entries {
		list[i] = match.Entry{Ref: e.Ref, GTIN: e.GTIN, Title: e.Title, Brand: e.Brand, Units: e.Units}
	}
	inside := ""
	if p.GTIN != "" {
		inside = ident.Read(p.GTIN).Inside
	}
	return match.Weigh(match.Product{GTIN: p.GTIN, Repaired: p.GTINStatus == string(ident.WhyLeadingZeros), Inside: inside,
		Title: p.Title, Brand: p.Brand, Units: p.UnitsPerItem}, list)
}

// LookAgain forgets the undecided matches of a site and looks them up anew.
func (st *Stop) LookAgain(ctx context.Context, siteID int64) (store.Run, error) {
	var run store.Run
	return run, st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if _, err := tx.ForgetMatches(site.ID, []string{string(match.Several), string(match.None)}); err != nil {
			return err
		}
		run = stops.MatchRun(site, st.Now())
		return tx.Queue(&run)
	})
}

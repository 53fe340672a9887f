// Package matching is the stop where suppliers' products are tied to a
// marketplace's entries: by their numbers where that is certain, by a person
// where it isn't. It follows design/matching.md.
package matching

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

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

// groupSize is how many supplier products are looked up and kept together.
const groupSize = 5 * place.MaxNumbers

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
		group, err := st.Store.Unmatched(ctx, site.ID, after, groupSize)
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
// What is new goes in together: a statement for the group, not one for each.
func (st *Stop) keep(ctx context.Context, site store.Site, group []store.SupplierProduct, entries map[string][]place.Entry) (int64, error) {
	found := int64(0)
	return found, st.Store.Do(ctx, func(tx store.Tx) error {
		looked, err := st.weighAll(tx, site, group, entries)
		if err != nil {
			return err
		}
		alone, err := st.listNew(tx, site, looked)
		if err != nil {
			return err
		}
		for _, l := range alone {
			doubt, err := st.list(tx, site, l.item, l.entry(), false)
			if err != nil {
				return fmt.Errorf("matching %s: %w", l.item.Ref, err)
			}
			if doubt != "" {
				l.state = match.Several
				l.candidates[0].Evidence = append(l.candidates[0].Evidence, match.Evidence{Words: doubt})
			}
		}
		matches := make([]store.Match, len(looked))
		for i, l := range looked {
			text, err := json.Marshal(l.candidates)
			if err != nil {
				return err
			}
			matches[i] = store.Match{SupplierProductID: l.item.ID, SiteID: site.ID, State: string(l.state), Candidates: string(text),
				DecidedBy: "lookup", DecidedAt: st.Now()}
			if l.state == match.Certain {
				matches[i].EntryID = &l.entry().ID
				found++
			}
		}
		if err := tx.PutMatches(matches); err != nil {
			return err
		}
		tx.Changed("matches", "counts", "products")
		if st.NoPictures {
			return nil
		}
		r := stops.PicturesRun(st.Now())
		return tx.Queue(&r)
	})
}

// lookedUp is a supplier product with what was found for it.
type lookedUp struct {
	item       *store.SupplierProduct
	hits       []*store.Entry
	candidates []match.Candidate
	state      match.State
}

// entry is the one that a certain match is of.
func (l *lookedUp) entry() *store.Entry { return l.hits[0] }

// weighAll keeps the entries that were found for a group and weighs them.
func (st *Stop) weighAll(
	tx store.Tx, site store.Site, group []store.SupplierProduct, entries map[string][]place.Entry,
) ([]*lookedUp, error) {
	byRef := map[string]*store.Entry{}
	var all []*store.Entry
	out := make([]*lookedUp, len(group))
	for i := range group {
		p := &group[i]
		hits := entries[p.GTIN]
		if n := ident.Read(p.GTIN); n.Inside != "" {
			hits = append(hits[:len(hits):len(hits)], entries[n.Inside]...)
		}
		out[i] = &lookedUp{item: p}
		for _, h := range hits {
			if byRef[h.Ref] == nil {
				e := st.entryOf(site.ID, h)
				byRef[h.Ref], all = &e, append(all, &e)
			}
			out[i].hits = append(out[i].hits, byRef[h.Ref])
		}
	}
	if err := tx.PutEntries(st.Now(), site.ID, all); err != nil {
		return nil, err
	}
	for _, l := range out {
		l.candidates, l.state = weigh(l.item, l.hits)
	}
	return out, nil
}

// listNew makes the products and listings of those certain matches that are new
// and by themselves, and gives the other certain ones back.
func (st *Stop) listNew(tx store.Tx, site store.Site, looked []*lookedUp) (alone []*lookedUp, err error) {
	var certain []*lookedUp
	var entryIDs, itemIDs []int64
	for _, l := range looked {
		if l.state == match.Certain {
			certain = append(certain, l)
			entryIDs, itemIDs = append(entryIDs, l.entry().ID), append(itemIDs, l.item.ID)
		}
	}
	if certain == nil {
		return nil, nil
	}
	sold, err := tx.SoldAmong(site.ID, entryIDs, itemIDs)
	if err != nil {
		return nil, err
	}
	var fresh []*store.Newly
	for _, l := range certain {
		said, err := l.item.Product()
		if err != nil {
			return nil, fmt.Errorf("matching %s: %w", l.item.Ref, err)
		}
		if sold.Entries[l.entry().ID] || sold.Items[l.item.ID] || said.Group != "" {
			alone = append(alone, l)
			continue
		}
		sold.Entries[l.entry().ID] = true // a second supplier of it in this group joins it
		fresh = append(fresh, &store.Newly{
			Product: st.productOf(l.item, l.entry()), Link: linkOf(0, l.item), Listing: listingOf(site, 0, l.entry()),
		})
	}
	if fresh == nil {
		return alone, nil
	}
	return alone, tx.InsertNew(st.Now(), fresh, sku)
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
	for part := range slices.Chunk(numbers, place.MaxNumbers) { // a case number asks for its item too
		entries, err := catalogue.EntriesByNumber(ctx, site, part)
		if err != nil {
			return nil, err
		}
		for _, e := range entries {
			if n := ident.Read(e.GTIN); n.Found() {
				e.GTIN = n.GTIN
			}
			out[e.GTIN] = append(out[e.GTIN], e)
		}
	}
	return out, nil
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

func weigh(p *store.SupplierProduct, entries []*store.Entry) ([]match.Candidate, match.State) {
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

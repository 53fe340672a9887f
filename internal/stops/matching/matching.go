// Package matching is the stop where suppliers' products are tied to a place's
// entries: by themselves where that is certain, by a person where it isn't. It
// follows docs/definitions/matching.md.
package matching

import (
	"context"
	"fmt"

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
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(stops.RunMatch, st.doMatch)
	q.Handle(stops.RunSeconds, st.doSeconds)
}

// groupSize is how many supplier products are looked up and kept together.
const groupSize = 5 * place.MaxNumbers

// doMatch looks up every supplier product that has no match on a site yet, and
// weighs again what changed. A certain one becomes a product with its listing;
// the others wait for a person. Each group of numbers is kept in one
// transaction, so a crash or an outage leaves nothing half done and the next
// run goes on from there.
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
		hits, err := st.lookUp(ctx, catalogue, site, group)
		if err != nil {
			return err
		}
		n, err := st.keep(ctx, site, group, hits)
		if err != nil {
			return err
		}
		found, waiting, done = found+n, waiting+int64(len(group))-n, done+int64(len(group))
		t.At(done, total)
	}
	if found > 0 { // what is listed now may be had elsewhere too
		if err := st.Store.Do(ctx, func(tx store.Tx) error {
			run := stops.SecondsRun(st.Now())
			return tx.Queue(&run)
		}); err != nil {
			return err
		}
	}
	t.Note = fmt.Sprintf("%s: %d matched, %s", site.Name, found, stops.Plural(waiting, "waits for you", "wait for you"))
	return nil
}

// lookedUp is a supplier product with what was found for it.
type lookedUp struct {
	item    *store.SupplierProduct
	product match.Product
	hits    []*store.Entry
	answer  match.Answer
	before  store.Match // where it was matched, and its row has changed
	match   store.Match // what becomes of it
}

// entry is the one that is meant.
func (l *lookedUp) entry() *store.Entry {
	for _, e := range l.hits {
		if e.Ref == l.answer.Ref {
			return e
		}
	}
	return nil
}

// keep keeps what a look-up found for a group, and says how many were matched.
// What is new goes in together: a statement for the group, not one for each.
func (st *Stop) keep(ctx context.Context, site store.Site, group []store.SupplierProduct, hits *hits) (int64, error) {
	found := int64(0)
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		looked, err := st.weighAll(tx, site, group, hits)
		if err != nil {
			return err
		}
		alone, err := st.listNew(tx, site, looked)
		if err != nil {
			return err
		}
		for _, l := range alone {
			doubt, err := st.list(tx, site, l.item, l.entry(), units{l.answer.Bought, l.answer.Listed}, false)
			if err != nil {
				return fmt.Errorf("matching %s: %w", l.item.Ref, err)
			}
			if doubt != "" {
				l.match.State, l.match.EntryID, l.match.Note = store.MatchSeveral, nil, doubt
			}
		}
		matches := make([]store.Match, len(looked))
		for i, l := range looked {
			if matches[i] = l.match; l.match.State == store.MatchMade {
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
	return found, err
}

// weighAll keeps the entries that were found for a group and weighs them.
func (st *Stop) weighAll(tx store.Tx, site store.Site, group []store.SupplierProduct, h *hits) ([]*lookedUp, error) {
	byRef, err := st.keepHits(tx, site, h)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(group))
	for i := range group {
		ids[i] = group[i].ID
	}
	before, err := tx.MatchesOf(site.ID, ids)
	if err != nil {
		return nil, err
	}
	given, err := tx.LeavesGiven(site.ID)
	if err != nil {
		return nil, err
	}
	out := make([]*lookedUp, len(group))
	for i := range group {
		l := &lookedUp{item: &group[i], before: before[group[i].ID]}
		if l.product, err = stops.Bought(l.item); err != nil {
			return nil, err
		}
		for _, key := range h.keysFor(l.item) {
			for _, e := range h.entries[key] {
				l.add(byRef[e.Ref])
			}
			for _, ref := range h.known[key] {
				l.add(byRef[ref])
			}
		}
		if l.before.Recheck && l.before.EntryID != nil {
			e, err := store.GetTx[store.Entry](tx, *l.before.EntryID)
			if err != nil {
				return nil, err
			}
			l.add(&e)
		}
		l.answer = weigh(&l.product, l.hits, site.Currency, given)
		if err := st.settle(tx, site, l); err != nil {
			return nil, err
		}
		out[i] = l
	}
	return out, nil
}

func (l *lookedUp) add(e *store.Entry) {
	if e == nil {
		return
	}
	for _, h := range l.hits {
		if h.Ref == e.Ref {
			return
		}
	}
	l.hits = append(l.hits, e)
}

// keepHits keeps the entries that were found and what was asked, and gives all
// that is known of those by their refs.
func (st *Stop) keepHits(tx store.Tx, site store.Site, h *hits) (map[string]*store.Entry, error) {
	byRef := map[string]*store.Entry{}
	var all []*store.Entry
	for _, list := range h.entries {
		for _, x := range list {
			if byRef[x.Ref] == nil {
				e := st.kept(site.ID, x)
				byRef[x.Ref], all = &e, append(all, &e)
			}
		}
	}
	if err := tx.PutEntries(st.Now(), site.ID, all); err != nil {
		return nil, err
	}
	answers := make([]store.LookUp, 0, len(h.asked))
	for _, key := range h.asked {
		a := store.LookUp{SiteID: site.ID, Asked: key, Refs: []string{}, LookedAt: st.Now()}
		for _, e := range h.entries[key] {
			a.Refs = append(a.Refs, e.Ref)
		}
		answers = append(answers, a)
	}
	if err := tx.PutLookUps(answers); err != nil {
		return nil, err
	}
	var known []string
	for _, refs := range h.known {
		for _, ref := range refs {
			if byRef[ref] == nil {
				known = append(known, ref)
			}
		}
	}
	entries, err := tx.EntriesByRef(site.ID, known)
	for i := range entries {
		byRef[entries[i].Ref] = &entries[i]
	}
	return byRef, err
}

// settle says what becomes of a product: what the verdict is, unless it was
// matched before and its row has changed. Then it stays as it is where it is
// certain still, the same entry and the same units; or it asks, and says what
// has changed.
func (st *Stop) settle(tx store.Tx, site store.Site, l *lookedUp) error {
	a := l.answer
	l.match = store.Match{
		SupplierProductID: l.item.ID, SiteID: site.ID, State: stateOf(a.Verdict, site.Accepts), Candidates: candidatesText(a), DecidedBy: "lookup",
		DecidedAt: st.Now(), Verdict: string(a.Verdict), UnitsBought: a.Bought, UnitsListed: a.Listed, Basis: basisOf(&l.product),
	}
	if l.before.State == store.MatchToWeigh || l.before.State == store.MatchWeighed {
		l.match.State = store.MatchWeighed
	}
	if l.match.State == store.MatchMade {
		l.match.EntryID = &l.entry().ID
	}
	was := l.before
	if was.State != store.MatchMade || was.EntryID == nil {
		return nil
	}
	what, err := changed(&was, &l.product)
	if err != nil {
		return err
	}
	e := l.entry()
	same := what == "" || a.Verdict == match.Certain && e != nil && e.ID == *was.EntryID && a.Bought == was.UnitsBought && a.Listed == was.UnitsListed
	if same { // nothing that it rests on is another
		m := was
		m.Recheck, m.Basis = false, l.match.Basis
		l.match = m
		return st.lift(tx, l.item.ID)
	}
	l.match.State, l.match.EntryID = store.MatchSeveral, was.EntryID
	l.match.Note = "changed since it was matched: " + what
	return st.doubt(tx, l.item.ID, "the supplier's row has changed ("+what+"); decide on Match whether it is the same thing")
}

// listNew makes the products and listings of those certain matches that are new
// and by themselves, and gives the other certain ones back.
func (st *Stop) listNew(tx store.Tx, site store.Site, looked []*lookedUp) (alone []*lookedUp, err error) {
	var certain []*lookedUp
	var entryIDs, itemIDs []int64
	for _, l := range looked {
		if l.match.State == store.MatchMade && l.before.State != store.MatchMade {
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
	var items []*store.SupplierProduct
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
			Product: st.newProduct(l.item, l.entry()), Link: stops.LinkOf(0, l.item, l.answer.Bought), Listing: listingOf(site, 0, l.entry(), l.answer.Listed),
		})
		items = append(items, l.item)
	}
	if fresh == nil {
		return alone, nil
	}
	give, err := stops.SKUs(tx)
	if err != nil {
		return nil, err
	}
	for i, n := range fresh {
		if n.Product.SKU, err = give(items[i], n.Product.Brand, ""); err != nil {
			return nil, err
		}
	}
	return alone, tx.InsertNew(st.Now(), fresh)
}

func (st *Stop) catalogue(site store.Site) (place.Catalogue, error) {
	c := st.Places(site.Marketplace).Catalogue
	if c == nil {
		return nil, fault.New(fault.Conflict, "%s has no catalogue to look things up in", site.Marketplace.Name)
	}
	return c, nil
}

// LookAgain forgets the undecided matches of a site and looks them up anew,
// whatever was answered before.
func (st *Stop) LookAgain(ctx context.Context, siteID int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if _, err := tx.ForgetMatches(site.ID, undecided); err != nil {
			return err
		}
		if err := tx.ForgetLookUps(site.ID); err != nil {
			return err
		}
		run = stops.MatchRun(site, st.Now())
		return tx.Queue(&run)
	})
	return run, err
}

// undecided are the states of matches that a person may decide.
var undecided = []string{store.MatchSeveral, store.MatchNone, store.MatchCertain, store.MatchBarred}

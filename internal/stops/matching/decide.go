package matching

import (
	"context"
	"fmt"
	"slices"

	"easymargin/core/match"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Decision is a person's decision on a match: an entry by its ref with how many
// are in either side, or one of store.MatchNewEntry and store.MatchLater.
type Decision struct {
	Entry      string `json:"entry,omitempty" doc:"Ref of the entry chosen"`
	State      string `json:"state,omitempty" enum:"new entry,later"`
	Bought     int64  `json:"units_bought,omitempty" minimum:"0" maximum:"10000" doc:"Single units in the supplier's item; 0 as it was worked out"`
	Listed     int64  `json:"units_listed,omitempty" minimum:"0" maximum:"10000" doc:"Single units in what the entry sells; 0 as it was worked out"`
	Everywhere bool   `json:"everywhere,omitempty" doc:"On the other sites too that have the same entry and are undecided"`
}

// Decided is what a decision did.
type Decided struct {
	OK    bool     `json:"ok"`
	Sites []string `json:"sites" doc:"Where it was decided too"`
}

// Decide is a person's decision on a match.
func (st *Stop) Decide(ctx context.Context, matchID int64, d Decision) (Decided, error) {
	out := Decided{true, []string{}}
	var entry *store.Entry
	if d.Entry != "" {
		_, site, _, err := st.matchOf(st.Store.Reading(ctx), matchID)
		if err != nil {
			return out, err
		}
		if entry, err = st.findEntry(ctx, site, d.Entry); err != nil {
			return out, err
		}
	} else if d.State != store.MatchNewEntry && d.State != store.MatchLater {
		return out, fault.At("state", "choose an entry, a new entry, or later")
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		m, err := st.decide(ctx, tx, matchID, entry, d)
		if err != nil || entry == nil || !d.Everywhere {
			return err
		}
		others, err := st.elsewhere(tx, m, entry.Ref)
		for _, o := range others {
			if err != nil {
				break
			}
			e := o.entry
			_, err = st.decide(ctx, tx, o.match.ID, &e, d)
			out.Sites = append(out.Sites, o.site.Name)
		}
		return err
	})
	return out, err
}

// decide writes one decision.
func (st *Stop) decide(ctx context.Context, tx store.Tx, matchID int64, entry *store.Entry, d Decision) (store.Match, error) {
	m, site, p, err := st.matchOf(tx, matchID)
	if err != nil {
		return m, err
	}
	if m.State == store.MatchMade {
		return m, fault.New(fault.Conflict, "%s is matched already; take that back first", p.Title)
	}
	product, err := stops.Bought(&p)
	if err != nil {
		return m, err
	}
	if m.EntryID != nil && (entry == nil || entry.ID != *m.EntryID) { // it was matched, and asked again
		if err := st.unlist(tx, site, &m, &p); err != nil {
			return m, err
		}
	}
	if m.State == store.MatchNewEntry && d.State != store.MatchNewEntry {
		if err := st.dropNew(tx, site, &p); err != nil {
			return m, err
		}
	}
	m.State, m.Note, m.EntryID = d.State, "", nil
	if d.State == store.MatchNewEntry {
		if err := st.makeNew(tx, &site, &p); err != nil {
			return m, err
		}
	}
	if entry != nil {
		if err := tx.PutEntry(st.Now(), entry); err != nil {
			return m, err
		}
		if err := st.allowed(tx, site, entry); err != nil {
			return m, err
		}
		u, err := st.unitsOf(&product, entry, site, d)
		if err != nil {
			return m, err
		}
		if _, err := st.list(tx, site, &p, entry, u, true); err != nil {
			return m, err
		}
		m.State, m.EntryID, m.UnitsBought, m.UnitsListed = store.MatchMade, &entry.ID, u.bought, u.listed
		if err := st.lift(tx, p.ID); err != nil {
			return m, err
		}
	} else if _, err := tx.ReturnNumber(m.ID); err != nil {
		return m, err
	}
	m.Basis, m.Recheck = basisOf(&product), false
	m.DecidedBy, m.DecidedAt = actor.Of(ctx), st.Now()
	if err := tx.Save(&m); err != nil {
		return m, err
	}
	tx.Changed("matches", "counts", "products", "listings")
	return m, tx.Note(st.Now(), "match decided", p.Ref, m.State+" "+d.Entry)
}

// allowed refuses an entry that we may not sell on: better said here than by
// the place.
func (st *Stop) allowed(tx store.Tx, site store.Site, e *store.Entry) error {
	if e.Closed {
		return fault.New(fault.Conflict, "%s lets nobody else sell on %s; choose the next best, or ask for a new entry", site.Marketplace.Name, e.Ref)
	}
	if !e.NeedsLeave {
		return nil
	}
	given, err := tx.LeavesGiven(site.ID)
	if err != nil || given[e.Category] {
		return err
	}
	return fault.New(fault.Conflict, "selling in this category needs leave of %s; note it under Match once you have it", site.Marketplace.Name)
}

// unitsOf are the units of a decision: as the person says, else as both sides
// say, else one.
func (st *Stop) unitsOf(p *match.Product, e *store.Entry, site store.Site, d Decision) (units, error) {
	a := judge.Weigh(p, []match.Entry{stops.Listed(e, site.Currency, map[string]bool{e.Category: true})})
	var u units
	if len(a.Candidates) > 0 {
		u = units{a.Candidates[0].Bought, a.Candidates[0].Listed}
	}
	if d.Bought > 0 {
		u.bought = d.Bought
	}
	if d.Listed > 0 {
		u.listed = d.Listed
	}
	return units{max(u.bought, 1), max(u.listed, 1)}, nil
}

// SetUnits changes how many are in either side of a match that was made. It is
// a decision like any other, and the landed cost follows.
func (st *Stop) SetUnits(ctx context.Context, matchID, bought, listed int64) error {
	if bought < 1 || bought > 10_000 || listed < 1 || listed > 10_000 {
		return fault.At("units_bought", "write how many are in it, from 1 to 10000")
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		m, site, p, err := st.matchOf(tx, matchID)
		if err != nil {
			return err
		}
		if m.State != store.MatchMade || m.EntryID == nil {
			return fault.New(fault.Conflict, "%s isn't matched", p.Title)
		}
		l, there, err := tx.ListingOfEntry(site.ID, *m.EntryID)
		if err != nil || !there {
			return err
		}
		if err := st.supply(tx, l.ProductID, &p, units{bought, listed}); err != nil {
			return err
		}
		if l.Units != listed {
			if err := tx.SetUnits(st.Now(), l.ID, listed); err != nil {
				return err
			}
		}
		m.UnitsBought, m.UnitsListed, m.DecidedBy, m.DecidedAt = bought, listed, actor.Of(ctx), st.Now()
		if err := tx.Save(&m); err != nil {
			return err
		}
		tx.Changed("matches", "listings", "products")
		return tx.Note(st.Now(), "units decided", p.Ref, fmt.Sprintf("%d bought, %d listed", bought, listed))
	})
}

// TakeBack undoes a decision: it asks again, and what was listed by it goes off
// sale by the plan.
func (st *Stop) TakeBack(ctx context.Context, matchID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		m, site, p, err := st.matchOf(tx, matchID)
		if err != nil {
			return err
		}
		switch m.State {
		case store.MatchMade:
			if err := st.unlist(tx, site, &m, &p); err != nil {
				return err
			}
		case store.MatchNewEntry:
			if _, err := tx.ReturnNumber(m.ID); err != nil {
				return err
			}
			if err := st.dropNew(tx, site, &p); err != nil {
				return err
			}
		case store.MatchLater:
		default:
			return fault.New(fault.Conflict, "%s waits to be decided already", p.Title)
		}
		refs, err := refsOf(&m)
		if err != nil {
			return err
		}
		m.State, m.EntryID, m.Note, m.Recheck = store.MatchSeveral, nil, "", false
		if len(refs) == 0 {
			m.State = store.MatchNone
		}
		m.DecidedBy, m.DecidedAt = actor.Of(ctx), st.Now()
		if err := tx.Save(&m); err != nil {
			return err
		}
		tx.Changed("matches", "counts", "products", "listings")
		return tx.Note(st.Now(), "match taken back", p.Ref, "")
	})
}

// unlist takes a match's listing off sale. One that was never handed over goes;
// of one that was, nothing more is offered, and the plan says so. Other
// suppliers of the same entry go on.
func (st *Stop) unlist(tx store.Tx, site store.Site, m *store.Match, p *store.SupplierProduct) error {
	if m.EntryID == nil {
		return nil
	}
	l, there, err := tx.ListingOfEntry(site.ID, *m.EntryID)
	if err != nil || !there {
		return err
	}
	others, err := tx.MatchedTo(*m.EntryID, p.ID)
	if err != nil {
		return err
	}
	matches, err := tx.MatchesOfItem(p.ID)
	if err != nil {
		return err
	}
	elsewhere := false // the same supplier product sells this product on another site
	for _, x := range matches {
		elsewhere = elsewhere || x.ID != m.ID && x.State == store.MatchMade
	}
	handed, err := tx.EverHandedOver(l.ID)
	if err != nil {
		return err
	}
	if others == 0 {
		if !handed {
			if err := tx.DeleteListing(l.ID); err != nil {
				return err
			}
		} else if err := tx.Unwant(st.Now(), l.ID); err != nil {
			return err
		}
	}
	if elsewhere {
		return nil
	}
	link, linked, err := tx.LinkBetween(l.ProductID, p.ID)
	if err != nil || !linked {
		return err
	}
	gone, err := tx.DropLink(link.ID)
	if err != nil || gone {
		return err
	}
	// It is all that a listing on sale is worked out from: it stays, and gives nothing.
	return tx.Doubt(st.Now(), []int64{link.ID}, "the match with "+p.Ref+" was taken back")
}

// Choice is one of several decisions made together.
type Choice struct {
	ID     int64  `json:"id"`
	Entry  string `json:"entry"`
	Bought int64  `json:"units_bought,omitempty" minimum:"0" maximum:"10000"`
	Listed int64  `json:"units_listed,omitempty" minimum:"0" maximum:"10000"`
	// Everywhere lists it on the other sites too, as a Decision's does.
	Everywhere bool `json:"everywhere,omitempty"`
}

// DecideMany makes decisions together, after a look at the list of them. Those
// that can't be made are said, and the others still made.
func (st *Stop) DecideMany(ctx context.Context, list []Choice) (Many, error) {
	out := Many{Failed: []Failed{}}
	for _, c := range list {
		m, err := store.Get[store.Match](ctx, st.Store, c.ID)
		if err == nil && m.Recheck {
			err = fault.New(fault.Conflict, "the supplier's row has changed since; it is looked up again first")
		}
		if err != nil {
			out.Failed = append(out.Failed, Failed{c.ID, err.Error()})
			continue
		}
		if _, err := st.Decide(ctx, c.ID, Decision{Entry: c.Entry, Bought: c.Bought, Listed: c.Listed, Everywhere: c.Everywhere}); err != nil {
			if kind := fault.KindOf(err); kind == fault.Unavailable || kind == fault.Full || len(list) == 1 {
				return out, err
			}
			out.Failed = append(out.Failed, Failed{c.ID, err.Error()})
			continue
		}
		out.Done++
	}
	return out, nil
}

// AcceptAll accepts every certain one of a site that waits to be, as the answer
// stands; a run would be no faster than a list of a few thousand.
func (st *Stop) AcceptAll(ctx context.Context, siteID int64) (Many, error) {
	out := Many{Failed: []Failed{}}
	for {
		list, err := st.Store.CertainChoices(ctx, siteID, 500)
		if err != nil || len(list) == 0 {
			return out, err
		}
		choices := make([]Choice, len(list))
		for i, m := range list {
			choices[i] = Choice{ID: m.ID, Entry: m.Entry, Bought: m.Bought, Listed: m.Listed}
		}
		done, err := st.DecideMany(ctx, choices)
		out.Done, out.Failed = out.Done+done.Done, append(out.Failed, done.Failed...)
		if err != nil || done.Done == 0 {
			return out, err
		}
	}
}

// Many is what became of decisions made together.
type Many struct {
	Done   int      `json:"done"`
	Failed []Failed `json:"failed"`
}

// Failed is one that couldn't be made, and why.
type Failed struct {
	ID  int64  `json:"id"`
	Why string `json:"why"`
}

// SetAccepts says whether certain matches of a site are accepted by themselves.
func (st *Stop) SetAccepts(ctx context.Context, siteID int64, on bool) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if err := tx.Update(&store.Site{ID: site.ID}, map[string]any{"accepts": on}); err != nil {
			return err
		}
		tx.Changed("sites", "matches")
		return tx.Note(st.Now(), "certain matches", site.Name, map[bool]string{true: "accepted by themselves", false: "wait for a look"}[on])
	})
}

// NoteLeave notes that leave to sell in a category was asked for or given. What
// waits for it is weighed again.
func (st *Stop) NoteLeave(ctx context.Context, siteID int64, category, state string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if err := tx.PutLeave(st.Now(), store.Leave{SiteID: site.ID, Category: category, State: state, NotedAt: st.Now(), NotedBy: actor.Of(ctx)}); err != nil {
			return err
		}
		tx.Changed("matches", "counts", "sites", "prepare", "listings")
		if state == store.LeaveGiven {
			if _, err := tx.ForgetMatches(site.ID, []string{store.MatchBarred}); err != nil {
				return err
			}
			run := stops.MatchRun(site, st.Now())
			if err := tx.Queue(&run); err != nil {
				return err
			}
		}
		return tx.Note(st.Now(), "leave "+state, site.Name, category)
	})
}

// elsewhere is an undecided match of the same supplier product on another site
// of the same place that has the same entry.
type elsewhere struct {
	match store.Match
	site  store.Site
	entry store.Entry
}

// elsewhere finds where else the same decision can be made on the same evidence.
func (st *Stop) elsewhere(tx store.Tx, m store.Match, ref string) ([]elsewhere, error) {
	here, err := tx.SiteOf(m.SiteID)
	if err != nil {
		return nil, err
	}
	list, err := tx.MatchesOfItem(m.SupplierProductID)
	if err != nil {
		return nil, err
	}
	var out []elsewhere
	for _, x := range list {
		undecided := []string{store.MatchSeveral, store.MatchNone, store.MatchCertain, store.MatchWeighed}
		if x.ID == m.ID || !slices.Contains(undecided, x.State) || x.Recheck {
			continue
		}
		site, err := tx.SiteOf(x.SiteID)
		if err != nil {
			return nil, err
		}
		if site.MarketplaceID != here.MarketplaceID || !site.Lists || reckon.NeedsContent(&site) {
			continue
		}
		entries, err := tx.EntriesByRef(site.ID, []string{ref})
		if err != nil {
			return nil, err
		}
		if len(entries) > 0 && !entries[0].Closed {
			out = append(out, elsewhere{x, site, entries[0]})
		}
	}
	return out, nil
}

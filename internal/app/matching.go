package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/match"
	"easymargin/internal/market"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const runMatch = "match"

// doMatch looks up every supplier product that has no match on a site yet. One
// certain hit becomes a product with its listing; the others wait for a person.
// Each group of numbers is kept in one transaction, so a crash or an outage
// leaves nothing half done and the next run goes on from there.
func (a *App) doMatch(ctx context.Context, t *work.Task) error {
	site, err := a.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	total, err := a.Store.CountUnmatched(ctx, site.ID)
	if err != nil {
		return err
	}
	gw := a.gateway(site.Marketplace)
	found, waiting, done, after := int64(0), int64(0), int64(0), int64(0)
	for {
		group, err := a.Store.Unmatched(ctx, site.ID, after, market.MaxNumbers/2) // a case number asks for its item too
		if err != nil {
			return err
		}
		if len(group) == 0 {
			break
		}
		after = group[len(group)-1].ID
		entries, err := lookUp(ctx, gw, site.Code, group)
		if err != nil {
			a.price(ctx, site)
			return err
		}
		err = a.Store.Do(ctx, func(tx store.Tx) error {
			for i := range group {
				p := &group[i]
				hits := entries[p.GTIN]
				if n := ident.Read(p.GTIN); n.Inside != "" {
					hits = append(hits[:len(hits):len(hits)], entries[n.Inside]...)
				}
				state, err := a.putLookup(tx, site, p, hits)
				if err != nil {
					return fmt.Errorf("matching %s: %w", p.Ref, err)
				}
				if state == string(match.Certain) {
					found++
				} else {
					waiting++
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		done += int64(len(group))
		t.At(done, total)
		a.changed("matches", "counts", "products")
	}
	if found > 0 {
		if err := a.pictures(ctx); err != nil {
			return err
		}
	}
	t.Note = fmt.Sprintf("%s: %d matched, %s", site.Name, found, plural(waiting, "waits for you", "wait for you"))
	a.price(ctx, site)
	return nil
}

// lookUp asks for the entries of a group's numbers, by number.
func lookUp(ctx context.Context, gw market.Marketplace, site string, group []store.SupplierProduct) (map[string][]market.Entry, error) {
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
	out := map[string][]market.Entry{}
	if len(numbers) == 0 {
		return out, nil
	}
	entries, err := gw.EntriesByNumber(ctx, site, numbers)
	for _, e := range entries {
		if n := ident.Read(e.GTIN); n.Found() {
			e.GTIN = n.GTIN
		}
		out[e.GTIN] = append(out[e.GTIN], e)
	}
	return out, err
}

// putLookup keeps what a look-up found for one supplier product.
func (a *App) putLookup(tx store.Tx, site store.Site, p *store.SupplierProduct, hits []market.Entry) (string, error) {
	kept := make([]store.Entry, len(hits))
	for i, h := range hits {
		kept[i] = a.entryOf(site.ID, h)
		if err := tx.PutEntry(&kept[i]); err != nil {
			return "", err
		}
	}
	candidates, state := weigh(p, kept)
	m := store.Match{SupplierProductID: p.ID, SiteID: site.ID, State: string(state), DecidedBy: "lookup", DecidedAt: a.now()}
	text, err := json.Marshal(candidates)
	if err != nil {
		return "", err
	}
	m.Candidates = string(text)
	if state == match.Certain {
		m.EntryID = &kept[0].ID
		if err := a.makeListing(tx, site, p, &kept[0]); err != nil {
			return "", err
		}
	}
	return m.State, tx.PutMatch(&m)
}

func (a *App) entryOf(siteID int64, e market.Entry) store.Entry {
	return store.Entry{SiteID: siteID, Ref: e.Ref, GTIN: e.GTIN, Title: clip(e.Title, 500), Brand: clip(e.Brand, 200), Category: e.Category,
		Picture: e.Picture, Page: webAddress(e.Page), Units: max(e.Units, 1), SeenAt: a.now()}
}

// webAddress lets only addresses through that a browser opens as a page.
func webAddress(s string) string {
	if strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://") {
		return s
	}
	return ""
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

// makeListing makes the product and listing of an entry, or adds a supplier to
// them where they are there.
func (a *App) makeListing(tx store.Tx, site store.Site, p *store.SupplierProduct, e *store.Entry) error {
	link := store.SupplyLink{SupplierProductID: p.ID, UnitsBought: max(p.UnitsPerItem, 1), UnitsListed: max(e.Units, 1)}
	known, there, err := tx.ListingOfEntry(site.ID, e.ID)
	if err != nil {
		return err
	}
	if there {
		old, linked, err := tx.LinkOf(p.ID)
		if err != nil || linked && old.ProductID == known.ProductID {
			return err
		}
		link.ProductID = known.ProductID
		return tx.Create(&link)
	}
	if old, linked, err := tx.LinkOf(p.ID); err != nil {
		return err
	} else if linked { // sold on another site already
		return tx.Create(&store.Listing{ProductID: old.ProductID, SiteID: site.ID, EntryID: e.ID, State: store.ListingUnpriced, Currency: site.Currency})
	}
	title, brand := e.Title, e.Brand
	if title == "" {
		title = p.Title
	}
	if brand == "" {
		brand = p.Brand
	}
	prod := store.Product{SKU: fmt.Sprintf("new-%d", p.ID), GTIN: e.GTIN, Title: title, Brand: brand, Picture: e.Picture, CreatedAt: a.now()}
	if err := a.joinFamily(tx, p, &prod); err != nil {
		return err
	}
	if err := tx.Create(&prod); err != nil {
		return err
	}
	prod.SKU = sku(brand, prod.ID)
	if err := tx.Save(&prod); err != nil {
		return err
	}
	link.ProductID, link.Present = prod.ID, true
	return errors.Join(tx.Create(&link),
		tx.Create(&store.Listing{ProductID: prod.ID, SiteID: site.ID, EntryID: e.ID, State: store.ListingUnpriced, Currency: site.Currency}))
}

// joinFamily makes a product a variant, where the supplier's row is one of a group.
func (a *App) joinFamily(tx store.Tx, p *store.SupplierProduct, prod *store.Product) error {
	said, err := p.Product()
	if err != nil || said.Group == "" {
		return err
	}
	f, err := tx.FamilyOf(p.SourceID, said.Group, p.Title)
	if err != nil {
		return fmt.Errorf("the group %s: %w", said.Group, err)
	}
	var apart []string
	for _, s := range []string{said.Colour, said.Size, said.Material} {
		if s != "" {
			apart = append(apart, s)
		}
	}
	if len(apart) == 0 {
		apart = []string{p.Ref}
	}
	prod.FamilyID, prod.Variant = &f.ID, clip(strings.Join(apart, ", "), 200)
	return nil
}

// Sell says whether a listing's product, a variant perhaps, is to be sold on
// its site. One that isn't is offered as none; where it is live, that is a plan
// first.
func (a *App) Sell(ctx context.Context, listingID int64, sell bool) error {
	l, err := store.Get[store.Listing](ctx, a.Store, listingID)
	if err != nil {
		return err
	}
	site, err := a.Store.SiteOf(ctx, l.SiteID)
	if err != nil {
		return err
	}
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Listing{ID: l.ID}, map[string]any{"unwanted": !sell}) }); err != nil {
		return err
	}
	a.note(ctx, "choice of what to sell", site.Name, fmt.Sprintf("listing %d: %v", l.ID, sell))
	a.changed("listings")
	a.price(ctx, site)
	return nil
}

// sku is two letters of the brand and a number of its own.
func sku(brand string, id int64) string {
	letters := strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' {
			return r
		}
		return -1
	}, strings.ToUpper(brand))
	return fmt.Sprintf("%s-%05d", (letters + "XX")[:2], id)
}

// CandidateView is an entry that a supplier product may be, weighed.
type CandidateView struct {
	match.Candidate
	Title  string `json:"title"`
	Brand  string `json:"brand"`
	GTIN   string `json:"gtin"`
	Page   string `json:"page"`
	Units  int64  `json:"units"`
	Ours   bool   `json:"ours" doc:"Whether we list on this entry already"`
	ByWord bool   `json:"by_words" doc:"Found by words rather than by number"`
}

// Candidates are the entries that a match may be: those found by number, and
// those found by words. words "" means the supplier's own title.
func (a *App) Candidates(ctx context.Context, matchID int64, words string) ([]CandidateView, error) {
	m, site, p, err := a.matchOf(ctx, matchID)
	if err != nil {
		return nil, err
	}
	var byNumber []match.Candidate
	if m.Candidates != "" {
		if err := json.Unmarshal([]byte(m.Candidates), &byNumber); err != nil {
			return nil, fmt.Errorf("candidates of match %d: %w", m.ID, err)
		}
	}
	refs := make([]string, len(byNumber))
	for i, c := range byNumber {
		refs[i] = c.Ref
	}
	entries, err := a.Store.EntriesByRef(ctx, site.ID, refs)
	if err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for _, e := range entries {
		known[e.Ref] = true
	}
	if words == "" && len(entries) == 0 {
		words = p.Title
	}
	if words != "" {
		found, err := a.gateway(site.Marketplace).EntriesByWords(ctx, site.Code, words)
		if err != nil {
			return nil, err
		}
		for _, e := range found {
			if !known[e.Ref] {
				entries = append(entries, a.entryOf(site.ID, e))
			}
		}
	}
	weighed, _ := weigh(&p, entries)
	out := make([]CandidateView, 0, len(weighed))
	for _, c := range weighed {
		for _, e := range entries {
			if e.Ref == c.Ref {
				ours, err := a.Store.IsListed(ctx, site.ID, e.Ref)
				if err != nil {
					return nil, err
				}
				out = append(out, CandidateView{c, e.Title, e.Brand, e.GTIN, e.Page, e.Units, ours, !known[e.Ref]})
			}
		}
	}
	return out[:min(len(out), 9)], nil
}

func (a *App) matchOf(ctx context.Context, id int64) (store.Match, store.Site, store.SupplierProduct, error) {
	m, err := store.Get[store.Match](ctx, a.Store, id)
	if err != nil {
		return m, store.Site{}, store.SupplierProduct{}, err
	}
	site, err := a.Store.SiteOf(ctx, m.SiteID)
	if err != nil {
		return m, site, store.SupplierProduct{}, err
	}
	p, err := store.Get[store.SupplierProduct](ctx, a.Store, m.SupplierProductID)
	return m, site, p, err
}

// Decide is a person's decision on a match: an entry by its ref, or one of
// store.MatchNewEntry and store.MatchLater.
func (a *App) Decide(ctx context.Context, matchID int64, state, entryRef string) error {
	m, site, p, err := a.matchOf(ctx, matchID)
	if err != nil {
		return err
	}
	if m.State == string(match.Certain) {
		return &Error{Conflict, "", p.Title + " is matched already"}
	}
	var entry *store.Entry
	switch {
	case entryRef != "":
		if entry, err = a.findEntry(ctx, site, entryRef); err != nil {
			return err
		}
		state = string(match.Certain)
	case state != store.MatchNewEntry && state != store.MatchLater:
		return invalid("state", "choose an entry, a new entry, or later")
	}
	m.State, m.DecidedBy, m.DecidedAt = state, "person", a.now()
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if entry != nil {
			if err := tx.PutEntry(entry); err != nil {
				return err
			}
			m.EntryID = &entry.ID
			if err := a.makeListing(tx, site, &p, entry); err != nil {
				return err
			}
		}
		return tx.Save(&m)
	})
	if err != nil {
		return err
	}
	a.note(ctx, "match decided", p.Ref, state+" "+entryRef)
	a.changed("matches", "counts", "products")
	if entry != nil {
		a.price(ctx, site)
	}
	return nil
}

// findEntry is an entry by its ref, known here or asked for at the marketplace.
func (a *App) findEntry(ctx context.Context, site store.Site, ref string) (*store.Entry, error) {
	known, err := a.Store.EntriesByRef(ctx, site.ID, []string{ref})
	if err != nil {
		return nil, err
	}
	if len(known) > 0 {
		return &known[0], nil
	}
	found, err := a.gateway(site.Marketplace).Entry(ctx, site.Code, ref)
	if err != nil {
		return nil, err
	}
	e := a.entryOf(site.ID, found)
	return &e, nil
}

// LookAgain forgets the undecided matches of a site and looks them up anew.
func (a *App) LookAgain(ctx context.Context, siteID int64) (work.Run, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return work.Run{}, err
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		_, err := tx.ForgetMatches(site.ID, []string{string(match.Several), string(match.None)})
		return err
	})
	if err != nil {
		return work.Run{}, err
	}
	return a.Queue.Add(ctx, runMatch, "Looking numbers up on "+site.Name, site.ID)
}

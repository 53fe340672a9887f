package matching

import (
	"context"
	"encoding/json"
	"fmt"

	"easymargin/core/match"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Evidence is one thing for or against, in words.
type Evidence struct {
	For   bool   `json:"for"`
	Words string `json:"words"`
}

// CandidateView is an entry that a supplier product may be, weighed.
type CandidateView struct {
	Ref      string     `json:"ref"`
	Score    int        `json:"score"`
	Evidence []Evidence `json:"evidence"`
	Differs  []string   `json:"differs" doc:"Words of the entry's title that the supplier's has not"`
	Title    string     `json:"title"`
	Brand    string     `json:"brand"`
	GTIN     string     `json:"gtin"`
	Page     string     `json:"page"`
	Units    int64      `json:"units" doc:"How many it sells as one; 0 where it doesn't say"`
	Ours     bool       `json:"ours" doc:"Whether we list on this entry already"`
	ByWord   bool       `json:"by_words" doc:"Found by words rather than by number"`
	Picture  string     `json:"picture" doc:"Digest of the entry's picture; empty where it isn't kept yet"`
}

// Candidates are the entries that a match may be: those found by number, and
// those found by words. words "" means the supplier's own title.
func (st *Stop) Candidates(ctx context.Context, matchID int64, words string) ([]CandidateView, error) {
	m, site, p, err := st.matchOf(st.Store.Reading(ctx), matchID)
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
	entries, err := st.Store.EntriesByRef(ctx, site.ID, refs)
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
		catalogue, err := st.catalogue(site)
		if err != nil {
			return nil, err
		}
		found, err := catalogue.EntriesByWords(ctx, site.Code, words)
		if err != nil {
			return nil, err
		}
		for _, e := range found {
			if !known[e.Ref] {
				entries = append(entries, st.entryOf(site.ID, e))
			}
		}
	}
	return st.show(ctx, site, &p, entries, byNumber, known)
}

// show weighs entries for a person, the likeliest first. What was said of them
// when they were looked up is kept.
func (st *Stop) show(
	ctx context.Context,
	site store.Site,
	p *store.SupplierProduct,
	entries []store.Entry,
	before []match.Candidate,
	known map[string]bool,
) ([]CandidateView, error) {
	list := make([]*store.Entry, len(entries))
	for i := range entries {
		list[i] = &entries[i]
	}
	pictures, err := st.pictures(ctx, entries)
	if err != nil {
		return nil, err
	}
	weighed, _ := weigh(p, list)
	out := make([]CandidateView, 0, len(weighed))
	for _, c := range weighed[:min(len(weighed), 9)] {
		for _, b := range before {
			if b.Ref == c.Ref && len(b.Evidence) > len(c.Evidence) {
				c.Evidence = b.Evidence
			}
		}
		for _, e := range entries {
			if e.Ref != c.Ref {
				continue
			}
			ours, err := st.Store.IsListed(ctx, site.ID, e.Ref)
			if err != nil {
				return nil, err
			}
			v := CandidateView{
				Ref:      c.Ref,
				Score:    c.Score,
				Evidence: []Evidence{},
				Differs:  append([]string{}, c.Differs...),
				Title:    e.Title,
				Brand:    e.Brand,
				GTIN:     e.GTIN,
				Page:     e.Page,
				Units:    e.Units,
				Ours:     ours,
				ByWord:   !known[e.Ref],
				Picture:  pictures[e.Picture],
			}
			for _, x := range c.Evidence {
				v.Evidence = append(v.Evidence, Evidence(x))
			}
			out = append(out, v)
		}
	}
	return out, nil
}

// pictures are the digests of entries' pictures by their address. Those that
// nobody has looked at before are fetched, and shown once they are here.
func (st *Stop) pictures(ctx context.Context, entries []store.Entry) (map[string]string, error) {
	urls := make([]string, len(entries))
	for i := range entries {
		urls[i] = stops.WebAddress(entries[i].Picture)
	}
	found, err := st.Store.PicturesAt(ctx, urls)
	if err != nil || st.NoPictures || len(found) == len(urls) {
		return found, err
	}
	return found, st.Store.Do(ctx, func(tx store.Tx) error {
		n, err := tx.NotePictures(urls)
		if err != nil || n == 0 {
			return err
		}
		r := stops.PicturesRun(st.Now())
		return tx.Queue(&r)
	})
}

func (st *Stop) matchOf(tx store.Tx, id int64) (store.Match, store.Site, store.SupplierProduct, error) {
	m, err := store.GetTx[store.Match](tx, id)
	if err != nil {
		return m, store.Site{}, store.SupplierProduct{}, err
	}
	site, err := tx.SiteOf(m.SiteID)
	if err != nil {
		return m, site, store.SupplierProduct{}, err
	}
	p, err := store.GetTx[store.SupplierProduct](tx, m.SupplierProductID)
	return m, site, p, err
}

// Decide is a person's decision on a match: an entry by its ref, or one of
// store.MatchNewEntry and store.MatchLater.
func (st *Stop) Decide(ctx context.Context, matchID int64, state, entryRef string) error {
	var entry *store.Entry
	if entryRef != "" {
		_, site, _, err := st.matchOf(st.Store.Reading(ctx), matchID)
		if err != nil {
			return err
		}
		if entry, err = st.findEntry(ctx, site, entryRef); err != nil {
			return err
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		m, site, p, err := st.matchOf(tx, matchID)
		if err != nil {
			return err
		}
		if m.State == string(match.Certain) {
			return fault.New(fault.Conflict, "%s is matched already", p.Title)
		}
		switch {
		case entry != nil:
			state = string(match.Certain)
			if err := tx.PutEntry(st.Now(), entry); err != nil {
				return err
			}
			m.EntryID = &entry.ID
			if _, err := st.list(tx, site, &p, entry, true); err != nil {
				return err
			}
		case state != store.MatchNewEntry && state != store.MatchLater:
			return fault.At("state", "choose an entry, a new entry, or later")
		}
		m.State, m.DecidedBy, m.DecidedAt = state, actor.Of(ctx), st.Now()
		if err := tx.Save(&m); err != nil {
			return err
		}
		tx.Changed("matches", "counts", "products")
		return tx.Note(st.Now(), "match decided", p.Ref, state+" "+entryRef)
	})
}

// findEntry is an entry by its ref, known here or asked for at the marketplace.
func (st *Stop) findEntry(ctx context.Context, site store.Site, ref string) (*store.Entry, error) {
	known, err := st.Store.EntriesByRef(ctx, site.ID, []string{ref})
	if err != nil {
		return nil, err
	}
	if len(known) > 0 {
		return &known[0], nil
	}
	catalogue, err := st.catalogue(site)
	if err != nil {
		return nil, err
	}
	found, err := catalogue.Entry(ctx, site.Code, ref)
	if err != nil {
		return nil, err
	}
	e := st.entryOf(site.ID, found)
	return &e, nil
}

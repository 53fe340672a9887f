package matching

import (
	"context"
	"fmt"
	"time"

	"easymargin/core/match"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Row is one fact of both sides.
type Row struct {
	Aspect string `json:"aspect"`
	Ours   string `json:"ours"`
	Theirs string `json:"theirs"`
	Mark   string `json:"mark" enum:"same,differs,one side,near"`
}

// CandidateView is an entry that a supplier product may be, weighed.
type CandidateView struct {
	Ref     string    `json:"ref"`
	For     []string  `json:"for"`
	Against []string  `json:"against"`
	Rows    []Row     `json:"rows" doc:"Facts of both sides, aligned"`
	Bought  int64     `json:"units_bought" doc:"Single units in the supplier's item; 0 unknown"`
	Listed  int64     `json:"units_listed" doc:"Single units in what the entry sells; 0 unknown"`
	Title   string    `json:"title"`
	Brand   string    `json:"brand"`
	GTIN    string    `json:"gtin"`
	Page    string    `json:"page"`
	Units   int64     `json:"units" doc:"How many it sells as one; 0 where it doesn't say"`
	Ours    bool      `json:"ours" doc:"Whether we list on this entry already"`
	ByWord  bool      `json:"by_words" doc:"Found by words rather than by number"`
	Picture string    `json:"picture" doc:"Digest of the entry's picture; empty where it isn't kept yet"`
	Lowest  *int64    `json:"lowest" doc:"Lowest total that others ask"`
	Sellers *int64    `json:"sellers"`
	Rating  *int64    `json:"rating" doc:"Hundredths of a star"`
	Rank    *int64    `json:"rank"`
	Barred  string    `json:"barred" doc:"Why we may not sell on it; empty where we may"`
	Leave   string    `json:"leave" doc:"What is noted of leave for its category: asked, given or nothing"`
	Cat     string    `json:"category"`
	Seen    time.Time `json:"seen"`
}

// DeskView is one decision: what speaks for each entry.
type DeskView struct {
	Verdict    string          `json:"verdict"`
	Note       string          `json:"note" doc:"What changed since it was decided, or why it asks"`
	Entry      string          `json:"entry" doc:"The entry it is matched to, or was before it changed"`
	Candidates []CandidateView `json:"candidates"`
	Elsewhere  []string        `json:"elsewhere" doc:"Other sites where the same entry waits to be decided"`
	Number     string          `json:"number" doc:"The number of the seller's own that its new entry got"`
}

// Candidates are the entries that a match may be: those found by number, and
// those found by what a person writes. words "" means the supplier's own title.
func (st *Stop) Candidates(ctx context.Context, matchID int64, words string) ([]CandidateView, error) {
	d, err := st.Desk(ctx, matchID, words)
	return d.Candidates, err
}

// Desk is one decision with its candidates.
func (st *Stop) Desk(ctx context.Context, matchID int64, words string) (DeskView, error) {
	out := DeskView{Candidates: []CandidateView{}, Elsewhere: []string{}}
	tx := st.Store.Reading(ctx)
	m, site, p, err := st.matchOf(tx, matchID)
	if err != nil {
		return out, err
	}
	refs, err := refsOf(&m)
	if err != nil {
		return out, err
	}
	entries, err := tx.EntriesByRef(site.ID, refs)
	if err != nil {
		return out, err
	}
	if m.EntryID != nil {
		e, err := store.GetTx[store.Entry](tx, *m.EntryID)
		if err != nil {
			return out, err
		}
		out.Entry = e.Ref
		entries = withEntry(entries, e)
	}
	known := map[string]bool{}
	for _, e := range entries {
		known[e.Ref] = true
	}
	if words == "" && len(entries) == 0 && st.Places(site.Marketplace).Catalogue != nil {
		words = p.Title
	}
	asked := map[string]bool{}
	if words != "" {
		found, err := st.Find(ctx, site, words)
		if err != nil {
			return out, err
		}
		for _, e := range found {
			asked[e.Ref] = true
			entries = withEntry(entries, e)
		}
	}
	product, err := stops.Bought(&p)
	if err != nil {
		return out, err
	}
	given, err := tx.Leaves(site.ID)
	if err != nil {
		return out, err
	}
	s := shown{site: site, given: given, known: known, asked: asked}
	if out.Candidates, err = st.show(ctx, &product, entries, s); err != nil {
		return out, err
	}
	said, err := p.Product()
	if err != nil {
		return out, err
	}
	for i := range out.Candidates {
		if said.Weight > 0 { // what an entry says of it stands in its title, among the figures
			v := &out.Candidates[i]
			v.Rows = append(v.Rows, Row{"weight", fmt.Sprintf("%d g", said.Weight), "", string(match.OneSide)})
		}
	}
	out.Verdict, out.Note = m.Verdict, m.Note
	if len(out.Candidates) > 0 {
		others, err := st.elsewhere(tx, m, out.Candidates[0].Ref)
		if err != nil {
			return out, err
		}
		for _, o := range others {
			out.Elsewhere = append(out.Elsewhere, o.site.Name)
		}
	}
	out.Number, err = tx.NumberOf(m.ID)
	return out, err
}

func withEntry(list []store.Entry, e store.Entry) []store.Entry {
	for _, x := range list {
		if x.Ref == e.Ref {
			return list
		}
	}
	return append(list, e)
}

// shown is what a desk's entries are shown with.
type shown struct {
	site  store.Site
	given map[string]string // leave by category
	known map[string]bool   // found when it was looked up
	asked map[string]bool   // asked for by a person: shown whatever is thought of them
}

// show weighs entries for a person, the likeliest first; those that a person
// asked for are all there.
func (st *Stop) show(ctx context.Context, p *match.Product, entries []store.Entry, s shown) ([]CandidateView, error) {
	given := map[string]bool{}
	for c, state := range s.given {
		given[c] = state == store.LeaveGiven
	}
	list := make([]match.Entry, len(entries))
	byRef := map[string]*store.Entry{}
	for i := range entries {
		list[i] = stops.Listed(&entries[i], s.site.Currency, given)
		byRef[entries[i].Ref] = &entries[i]
	}
	a := judge.Weigh(p, list)
	pictures, err := st.pictures(ctx, entries)
	if err != nil {
		return nil, err
	}
	candidates := a.Candidates
	for _, c := range a.Others {
		if s.asked[c.Ref] || s.known[c.Ref] {
			candidates = append(candidates, c)
		}
	}
	out := make([]CandidateView, 0, len(candidates))
	for _, c := range candidates[:min(len(candidates), 9)] {
		e := byRef[c.Ref]
		ours, err := st.Store.IsListed(ctx, s.site.ID, e.Ref)
		if err != nil {
			return nil, err
		}
		v := CandidateView{
			Ref: c.Ref, For: c.For, Against: c.Against, Rows: []Row{}, Bought: c.Bought, Listed: c.Listed,
			Title: e.Title, Brand: e.Brand, GTIN: e.GTIN, Page: e.Page, Units: e.Units, Ours: ours, ByWord: !s.known[e.Ref],
			Picture: pictures[e.Picture], Rating: e.Rating, Rank: e.Rank, Leave: s.given[e.Category], Cat: e.Category, Seen: e.SeenAt,
		}
		switch {
		case e.Closed:
			v.Barred = "may not be copied"
		case e.NeedsLeave && s.given[e.Category] != store.LeaveGiven:
			v.Barred = "needs leave"
		}
		for _, r := range c.Rows {
			v.Rows = append(v.Rows, Row{r.Aspect, r.Ours, r.Theirs, string(r.Mark)})
		}
		if m := st.market(e); m != nil {
			v.Lowest, v.Sellers = m.lowest, m.sellers
		}
		out = append(out, v)
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

// findEntry is an entry by its ref, known here or asked for at the place.
func (st *Stop) findEntry(ctx context.Context, site store.Site, ref string) (*store.Entry, error) {
	known, err := st.Store.Reading(ctx).EntriesByRef(site.ID, []string{ref})
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
	if numbers := entryNumbers(&found); len(numbers) > 0 {
		found.GTIN = numbers[0]
	}
	e := st.kept(site.ID, found)
	return &e, nil
}

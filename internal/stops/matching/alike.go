package matching

import (
	"context"
	"slices"
	"strings"

	"easymargin/core/match"
	"easymargin/core/match/title"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Alike is a product that waits, and differs from its likeliest entry in the
// same way as the one that was decided.
type Alike struct {
	ID       int64    `json:"id"`
	Title    string   `json:"title"`
	Entry    string   `json:"entry"`
	Entries  string   `json:"entry_title"`
	Against  []string `json:"against"`
	Bought   int64    `json:"units_bought" doc:"Single units in the supplier's item; 0 unknown"`
	Listed   int64    `json:"units_listed" doc:"Single units in what the entry sells; 0 unknown"`
	Picture  string   `json:"picture"`
	Supplier string   `json:"supplier"`
}

// mostAlike is the most that are offered together.
const mostAlike = 100

// AlikeTo are those that wait on the same site, are of the same brand, and
// differ in the same way: the same things speak against, whatever the figures
// in them.
func (st *Stop) AlikeTo(ctx context.Context, matchID int64) ([]Alike, error) {
	out := []Alike{}
	tx := st.Store.Reading(ctx)
	m, site, p, err := st.matchOf(tx, matchID)
	if err != nil {
		return out, err
	}
	refs, err := refsOf(&m)
	if err != nil {
		return out, err
	}
	pattern, _, _, err := st.doubts(tx, site, &p, refs)
	if err != nil || pattern == "" {
		return out, err
	}
	rows, err := st.Store.Matches(ctx, []string{store.MatchSeveral, store.MatchNone}, store.Page{Limit: 500})
	if err != nil {
		return out, err
	}
	brand := judge.Tables.BrandWords(p.Brand)
	for _, r := range rows.Rows {
		if r.ID == m.ID || r.SiteID != site.ID || !slices.Equal(judge.Tables.BrandWords(r.Brand), brand) {
			continue
		}
		x, _, xp, err := st.matchOf(tx, r.ID)
		if err != nil {
			return out, err
		}
		xrefs, err := refsOf(&x)
		if err != nil {
			return out, err
		}
		same, c, e, err := st.doubts(tx, site, &xp, xrefs)
		if err != nil {
			return out, err
		}
		if same == pattern && len(out) < mostAlike {
			out = append(out, Alike{r.ID, r.Title, e.Ref, e.Title, c.Against, c.Bought, c.Listed, r.Picture, r.Supplier})
		}
	}
	return out, nil
}

// doubts is what speaks against a product's likeliest entry, with its figures
// and quoted words left out; "" where nothing was found.
func (st *Stop) doubts(tx store.Tx, site store.Site, p *store.SupplierProduct, refs []string) (string, match.Candidate, store.Entry, error) {
	entries, err := tx.EntriesByRef(site.ID, refs)
	if err != nil || len(entries) == 0 {
		return "", match.Candidate{}, store.Entry{}, err
	}
	product, err := stops.Bought(p)
	if err != nil {
		return "", match.Candidate{}, store.Entry{}, err
	}
	list := make([]*store.Entry, len(entries))
	for i := range entries {
		list[i] = &entries[i]
	}
	a := weigh(&product, list, site.Currency, nil)
	if len(a.Candidates) == 0 {
		return "", match.Candidate{}, store.Entry{}, nil
	}
	c := a.Candidates[0]
	i := slices.IndexFunc(entries, func(e store.Entry) bool { return e.Ref == c.Ref })
	pattern := make([]string, len(c.Against))
	for k, words := range c.Against {
		pattern[k] = strings.Map(func(r rune) rune {
			if r >= '0' && r <= '9' {
				return '#'
			}
			return r
		}, title.Fold(words))
		for strings.Contains(pattern[k], "##") {
			pattern[k] = strings.ReplaceAll(pattern[k], "##", "#")
		}
	}
	slices.Sort(pattern)
	return string(a.Verdict) + ": " + strings.Join(pattern, "; "), c, entries[i], nil
}

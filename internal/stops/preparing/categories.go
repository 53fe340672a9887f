package preparing

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"easymargin/core/pricing"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// CategoryChoice is a category that a listing could go into, and what selling in
// it would cost at the listing's price.
type CategoryChoice struct {
	Ref   string `json:"ref"`
	Path  string `json:"path"`
	Fees  *int64 `json:"fees" doc:"Of a sale at the price now, with their tax; none: the listing has no price"`
	Left  *int64 `json:"left" doc:"Of a sale at the price now"`
	Guess bool   `json:"guess" doc:"It goes there by what was learnt, or by where it is sold elsewhere"`
	Inner bool   `json:"inner" doc:"There are others below it"`
	Leave string `json:"leave" enum:",needed,asked,given" doc:"Of leave to sell there; empty: it takes none"`
}

// mostChoices is how many categories a search gives.
const mostChoices = 40

// Categories searches the categories of a listing's site, by words of their
// paths; with no words it gives those at the top, or those below one.
func (st *Stop) Categories(ctx context.Context, id int64, words, below string) ([]CategoryChoice, error) {
	tx := st.Store.Reading(ctx)
	x, err := load(tx, id)
	if err != nil {
		return nil, err
	}
	cats, err := tx.CategoriesOf(x.site.ID)
	if err != nil {
		return nil, err
	}
	guessed, err := tx.GuessCategories(x.site.ID, []int64{x.listing.ProductID})
	if err != nil {
		return nil, err
	}
	leaves, err := tx.Leaves(x.site.ID)
	if err != nil {
		return nil, err
	}
	parent, inner, leave := map[string]string{}, map[string]bool{}, map[string]string{}
	for _, c := range cats {
		if c.NeedsLeave {
			leave[c.Ref] = cmp.Or(leaves[c.Ref], "needed")
		}
		parent[c.Ref], inner[c.Parent] = c.Parent, true
	}
	want := strings.Fields(strings.ToLower(words))
	out := []CategoryChoice{}
	for _, p := range paths(cats) {
		path := strings.ToLower(p.Path)
		fits := len(want) > 0 && !slices.ContainsFunc(want, func(w string) bool { return !strings.Contains(path, w) })
		if len(want) == 0 {
			fits = parent[p.Ref] == below || below == "" && p.Ref == guessed[x.listing.ProductID]
		}
		if fits && len(out) < mostChoices {
			out = append(out, CategoryChoice{Ref: p.Ref, Path: p.Path, Guess: p.Ref == guessed[x.listing.ProductID], Inner: inner[p.Ref], Leave: leave[p.Ref]})
		}
	}
	slices.SortStableFunc(out, func(a, b CategoryChoice) int {
		switch {
		case a.Guess == b.Guess:
			return 0
		case a.Guess:
			return -1
		}
		return 1
	})
	return out, st.feesOf(tx, x, out)
}

// feesOf says of each category what a sale of a listing at its price would cost
// there, by the same figures as everywhere.
func (st *Stop) feesOf(tx store.Tx, x *loaded, list []CategoryChoice) error {
	if x.listing.Price == nil {
		return nil
	}
	book, err := reckon.Open(tx, *x.site, st.Now())
	if err != nil {
		return err
	}
	rows, err := tx.PricingRowsOf([]int64{x.listing.ID}, st.Now().Add(-24*time.Hour))
	if err != nil || len(rows) == 0 {
		return err
	}
	for i := range list {
		there := slices.Clone(rows)
		for j := range there {
			there[j].Category = list[i].Ref
		}
		f := book.WorkOut(there)
		if f.Broken != "" {
			continue
		}
		q, err := book.Quote(&f, *x.listing.Price)
		if err != nil {
			continue // beyond what an amount can be
		}
		fees := int64(0)
		for _, l := range q.Lines {
			if l.Kind == pricing.LineFee || l.Kind == pricing.LineFeeTax {
				fees -= l.Amount
			}
		}
		left := q.Profit
		list[i].Fees, list[i].Left = &fees, &left
	}
	return nil
}

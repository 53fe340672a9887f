package reckon

import (
	"context"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Following is the book where a rule, or the site where ruleID is 0, sets other
// figures of docs/definitions/following.md.
func (b *Book) Following(ruleID int64, f Follow) (*Book, error) {
	then := *b
	then.Rules = append([]Ruled(nil), b.Rules...)
	found := ruleID == 0
	if found {
		then.Follows = f.Over(DefaultFollowing)
	}
	for i := range then.Rules {
		if then.Rules[i].ID == ruleID {
			then.Rules[i].Own, found = f, true
		}
	}
	if !found {
		return nil, fault.New(fault.Missing, "there is no such price rule on %s", b.Site.Name)
	}
	return then.Under(then.Rules), nil
}

// Compared is what two books make of the same listings on sale, the first's
// figures before the second's.
type Compared struct {
	Looked, Of int64 // listings on sale that were looked at, and all there are
	Lines      map[[2]string][2]int64
	Offered    [2]int64
	None       [2]int64
	Switched   [2]int64
}

// Compare works listings on sale out under two books: at most so many, evenly
// spread; where there are more, the counts are made whole from those.
func (b *Book) Compare(ctx context.Context, s *store.Store, then *Book, most int64) (Compared, error) {
	out := Compared{Lines: map[[2]string][2]int64{}}
	var err error
	if out.Of, err = s.CountOnSale(ctx, b.Site.ID); err != nil {
		return out, err
	}
	err = b.each(ctx, s, max(1, (out.Of+most-1)/most), store.Asked{Results: true}, func(links []store.PricingRow) {
		if links[0].ConfirmedPrice == nil {
			return
		}
		out.Looked++
		for i, book := range []*Book{b, then} {
			l := links[0].Listing
			f := book.WorkOut(links)
			book.put(&l, &f)
			for _, x := range book.planLines(&l, &f, nil) {
				at := [2]string{x.Kind, x.Verdict}
				c := out.Lines[at]
				c[i]++
				out.Lines[at] = c
			}
			out.Offered[i] += f.Offer
			if f.Offer == 0 {
				out.None[i]++
			}
			if was := links[0].SupplyLinkID; was != nil && *was != f.Link.LinkID {
				out.Switched[i]++
			}
		}
	})
	if out.Looked > 0 && out.Looked < out.Of {
		out.whole()
	}
	return out, err
}

// whole makes the counts of a sample those of all.
func (c *Compared) whole() {
	up := func(v *[2]int64) {
		for i := range v {
			v[i] = v[i] * c.Of / c.Looked
		}
	}
	for k, v := range c.Lines {
		up(&v)
		c.Lines[k] = v
	}
	up(&c.Offered)
	up(&c.None)
	up(&c.Switched)
}

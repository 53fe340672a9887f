package reckon

import (
	"context"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// pageIDs is how many ids are read at once.
const pageIDs = 2000

// Each goes through a site's listings with all their supply links, in order of
// their ids. It only reads, two pages at a time: reading is most of it.
func (b *Book) Each(ctx context.Context, s *store.Store, do func(links []store.PricingRow)) error {
	return b.each(ctx, s, 1, store.Asked{}, do)
}

// Some is Each over one page of every so many.
func (b *Book) Some(ctx context.Context, s *store.Store, every int64, do func(links []store.PricingRow)) error {
	return b.each(ctx, s, every, store.Asked{}, do)
}

// each is Each over one page of every so many; more is read of the listings
// besides what the rules look at.
func (b *Book) each(ctx context.Context, s *store.Store, every int64, more store.Asked, do func(links []store.PricingRow)) error {
	first, last, err := s.ListingIDs(ctx, b.Site.ID)
	if err != nil || last == 0 {
		return err
	}
	type page struct {
		rows []store.PricingRow
		err  error
	}
	ctx, end := context.WithCancel(ctx)
	defer end()
	asked, pages := b.Asks(), make(chan chan page, 1)
	asked.Results, asked.DayAgo = more.Results, b.Now.Add(-24*time.Hour)
	go func() {
		defer close(pages)
		for after := first - 1; after < last; after += pageIDs * every {
			next := make(chan page, 1)
			select {
			case pages <- next:
			case <-ctx.Done():
				return
			}
			go func() {
				var got page
				got.err = fault.Caught(func() (err error) {
					got.rows, err = s.PricingRange(ctx, b.Site.ID, after, after+pageIDs, asked)
					return err
				})
				next <- got
			}()
		}
	}()
	for next := range pages {
		got := <-next
		if got.err != nil {
			return got.err
		}
		for links := range ByListing(got.rows) {
			do(links)
		}
	}
	return ctx.Err()
}

// FiguresOf works out some listings of the book's site as they are in a transaction,
// at a time: what they may be offered at, looked at once more before they are.
func (b *Book) FiguresOf(tx store.Tx, ids []int64, now time.Time) (map[int64]*Figures, error) {
	rows, err := tx.PricingRowsOf(ids, now.Add(-24*time.Hour))
	if err != nil {
		return nil, err
	}
	if err := b.Recall(tx, rows); err != nil {
		return nil, err
	}
	out := map[int64]*Figures{}
	for links := range ByListing(rows) {
		f := b.WorkOut(links)
		out[links[0].ID] = &f
	}
	return out, nil
}

// ByListing parts rows into those of one listing each.
func ByListing(rows []store.PricingRow) func(yield func([]store.PricingRow) bool) {
	return func(yield func([]store.PricingRow) bool) {
		for from := 0; from < len(rows); {
			to := from + 1
			for to < len(rows) && rows[to].ID == rows[from].ID {
				to++
			}
			if !yield(rows[from:to]) {
				return
			}
			from = to
		}
	}
}

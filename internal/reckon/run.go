package reckon

import (
	"context"
	"errors"
	"fmt"
	"time"

	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Reckoner works out the listings that something changed for.
type Reckoner struct {
	Store *store.Store
	Now   func() time.Time
}

// How many listings are worked out in one transaction: few at first, so that
// what must not wait is soon in the plan, and many after that, so that each page
// of an index is written once for many of them.
const (
	atFirst = 500
	atOnce  = 4000
)

// wide is from how many dirty listings on so much is touched that it is kept in memory.
const wide = 50_000

// together is how long few dirty listings wait for more, while a look-up finds them.
const together = 150 * time.Millisecond

// tellEvery is how often open screens are told while a run goes on.
const tellEvery = time.Second

// Do works out the dirty listings of a site, those first whose supplier has
// none left, and puts their lines into its plan. It may be cut short anywhere:
// what is not worked out is still marked.
func (r *Reckoner) Do(ctx context.Context, t *work.Task) error {
	site, err := r.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	total, err := r.Store.CountDirty(ctx, site.ID)
	if err != nil {
		return err
	}
	// Where few wait and a look-up goes on that brings more, the first try of a
	// run lets some come together.
	if total < atFirst && t.Due == 0 && t.Tries == 0 {
		alive, err := r.Store.MatchesComing(ctx, site.ID)
		if err != nil {
			return err
		}
		if alive {
			t.Tries = 1
			return work.Again(together)
		}
	}
	if total > wide {
		narrow, err := r.Store.Widen(ctx)
		if err != nil {
			return err
		}
		defer narrow()
	}
	var sum counted
	told, size := time.Now(), atFirst
	for {
		var n int64
		err := r.Store.Do(ctx, func(tx store.Tx) error {
			if n, err = r.part(tx, site.ID, size, &sum); err != nil {
				return err
			}
			if n == 0 || time.Since(told) > tellEvery {
				told = time.Now()
				tx.Changed("listings", "products", "plan", "counts", "sendouts")
			}
			return nil
		})
		if err != nil {
			return fmt.Errorf("working out prices on %s: %w", site.Name, err)
		}
		if n == 0 {
			break
		}
		sum.done, size = sum.done+n, atOnce
		t.At(sum.done, max(total, sum.done))
	}
	t.Note = fmt.Sprintf("%s: %d of %d priced, %s", site.Name, sum.priced, sum.done, Plural(sum.lines, "change to make", "changes to make"))
	return nil
}

// All works out all dirty listings of a site, without a run: for a program that
// isn't the server.
func (r *Reckoner) All(ctx context.Context, site store.Site) error {
	var sum counted
	for {
		var n int64
		err := r.Store.Do(ctx, func(tx store.Tx) (err error) { n, err = r.part(tx, site.ID, atOnce, &sum); return err })
		if err != nil {
			return fmt.Errorf("working out prices on %s: %w", site.Name, err)
		}
		if n == 0 {
			return nil
		}
	}
}

type counted struct{ done, priced, lines int64 }

// part works out the next listings, in a transaction with the book they are
// worked out by.
func (r *Reckoner) part(tx store.Tx, siteID int64, size int, sum *counted) (int64, error) {
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return 0, err
	}
	b, err := Open(tx, site, r.Now())
	if err != nil {
		return 0, err
	}
	asked := b.Asks()
	asked.Results, asked.DayAgo = true, b.Now.Add(-24*time.Hour)
	rows, n, err := tx.TakeDirty(siteID, size, asked)
	if err != nil || n == 0 {
		return n, err
	}
	if err := b.Recall(tx, rows); err != nil {
		return n, err
	}
	open, err := openOf(tx, rows)
	if err != nil {
		return n, err
	}
	var lines []store.PlanLine
	var amounts, standing, both []store.Listing
	var ids []int64
	for links := range ByListing(rows) {
		l := links[0].Listing
		f := b.WorkOut(links)
		still, err := b.sift(tx, &l, &f, open[l.ID])
		if err != nil {
			return n, err
		}
		b.put(&l, &f)
		switch a, s := sameAmounts(&l, &links[0].Listing), sameStanding(&l, &links[0].Listing); {
		case !a && !s:
			both = append(both, l)
		case !a:
			amounts = append(amounts, l)
		case !s:
			standing = append(standing, l)
		}
		if l.Price != nil {
			sum.priced++
		}
		ids = append(ids, l.ID)
		lines = append(lines, b.planLines(&l, &f, still)...)
	}
	sum.lines += int64(len(lines))
	err = errors.Join(tx.PutAmounts(amounts), tx.PutStanding(standing), tx.PutBoth(both), tx.PutPlanLines(b.Now, siteID, ids, lines))
	if err == nil && len(lines) > 0 && b.ActsAlone() {
		err = tx.QueueAlone(b.Now, site)
	}
	return n, err
}

// openOf are the lines on their way, by listing, of the rows that have some.
func openOf(tx store.Tx, rows []store.PricingRow) (map[int64][]store.OpenLine, error) {
	var ids []int64
	for i := range rows {
		if rows[i].Open && (i == 0 || rows[i-1].ID != rows[i].ID) {
			ids = append(ids, rows[i].ID)
		}
	}
	if ids == nil {
		return nil, nil
	}
	list, err := tx.OpenLines(ids)
	out := map[int64][]store.OpenLine{}
	for _, x := range list {
		out[x.ListingID] = append(out[x.ListingID], x)
	}
	return out, err
}

// put writes what was worked out into a listing.
func (b *Book) put(l *store.Listing, f *Figures) {
	l.Price, l.Profit, l.Floor, l.BreakEven, l.Landed, l.Fees, l.Tax, l.Outbound, l.Bound, l.Why = nil, nil, nil, nil, nil, nil, nil,
		nil, "", f.Broken
	l.Quantity, l.RuleID, l.SupplyLinkID = f.Offer, nil, &f.Link.LinkID
	l.Cost, l.CostCur = &f.Link.ItemCost, f.Link.ItemCurrency
	if f.Rule != nil && !f.Own && l.FixedPrice == nil {
		l.RuleID = &f.Rule.ID
	}
	if f.Broken == "" {
		l.Landed = &f.Spend.Landed
		if v, ok := f.Floor(); ok {
			l.Floor = &v
		}
		if v, ok := f.Terms.BreakEven(f.Spend); ok {
			l.BreakEven = &v
		}
		l.Bound = string(f.Choice.Bound)
		l.Why = BoundWords(f.Choice.Bound, f.Choice.Found)
	}
	if f.Choice.Found && f.Broken == "" {
		l.Price, l.Why = &f.Choice.Price, ""
		if q, err := b.Quote(f, f.Choice.Price); err == nil {
			l.Profit = &q.Profit
			l.Fees, l.Tax, l.Outbound = Parts(q.Lines)
		}
		if f.Offer == 0 {
			l.Why = b.OfferWhy(f)
		}
	} else if f.Broken == "" || !onSale(l.State) {
		l.Quantity = 0 // what is live already stays on sale, as far as the supplier has it, until its price can be told again
	}
	switch l.State {
	case store.ListingUnpriced, store.ListingReady, store.ListingPaused:
		switch {
		case l.Price == nil:
			l.State = store.ListingUnpriced
		case l.Quantity == 0:
			l.State = store.ListingPaused
		default:
			l.State = store.ListingReady
		}
	}
}

// onSale tells whether a listing of this state may be on sale.
func onSale(state string) bool {
	return state == store.ListingLive || state == store.ListingSent || state == store.ListingUnknown
}

func same(x, y *int64) bool { return x == y || x != nil && y != nil && *x == *y }

func sameAmounts(a, b *store.Listing) bool {
	return same(a.Price, b.Price) && same(a.Profit, b.Profit) && same(a.Floor, b.Floor) && same(a.BreakEven, b.BreakEven) &&
		same(a.Landed, b.Landed) && same(a.Cost, b.Cost) &&
		a.CostCur == b.CostCur && same(a.Fees, b.Fees) && same(a.Tax, b.Tax) && same(a.Outbound, b.Outbound) && a.Bound == b.Bound &&
		a.Why == b.Why
}

func sameStanding(a, b *store.Listing) bool {
	return a.State == b.State && a.Quantity == b.Quantity && same(a.RuleID, b.RuleID) && same(a.SupplyLinkID, b.SupplyLinkID)
}

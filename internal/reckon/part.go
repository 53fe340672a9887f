package reckon

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"easymargin/internal/store"
)

// part is what was worked out for some listings, before it is written.
type part struct {
	book                    *Book
	ids                     []int64 // of all that were dirty
	amounts, standing, both []store.Listing
	worked                  []int64
	lines                   []store.PlanLine
	back                    []withdrawn
	priced                  int64
	prepared                []store.Preparation
}

// withdrawn is a line that is taken back, and why.
type withdrawn struct {
	line store.OpenLine
	why  string
}

// ahead works parts out, by one book, until there are none or they are taken no more.
func (r *Reckoner) ahead(ctx context.Context, tx store.Tx, siteID int64, todo <-chan []int64, ready chan<- part) error {
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return err
	}
	b, err := Open(tx, site, r.Now())
	if err != nil {
		return err
	}
	asked := b.Asks()
	asked.Results, asked.DayAgo = true, b.Now.Add(-24*time.Hour)
	if Writes(&site) {
		if b.asking, err = OpenAsking(tx, &site); err != nil {
			return err
		}
	}
	for some := range todo {
		p, err := b.part(tx, some, asked)
		if err != nil {
			return err
		}
		select {
		case ready <- p:
		case <-ctx.Done():
			return nil
		}
	}
	return nil
}

// part works out some listings.
func (b *Book) part(tx store.Tx, ids []int64, asked store.Asked) (part, error) {
	p := part{book: b, ids: ids}
	rows, err := tx.PricingRowsFor(ids, asked)
	if err != nil {
		return p, err
	}
	if err := b.Recall(tx, rows); err != nil {
		return p, err
	}
	open, err := openOf(tx, rows)
	if err != nil {
		return p, err
	}
	said, err := b.materials(tx, rows)
	if err != nil {
		return p, err
	}
	for links := range ByListing(rows) {
		l := links[0].Listing
		f := b.WorkOut(links)
		still, back := b.sift(&l, &f, open[l.ID])
		p.back = append(p.back, back...)
		b.put(&l, &f)
		p.prepare(said[l.ID], &l)
		switch a, s := sameAmounts(&l, &links[0].Listing), sameStanding(&l, &links[0].Listing); {
		case !a && !s:
			p.both = append(p.both, l)
		case !a:
			p.amounts = append(p.amounts, l)
		case !s:
			p.standing = append(p.standing, l)
		}
		if l.Price != nil {
			p.priced++
		}
		p.worked = append(p.worked, l.ID)
		p.lines = append(p.lines, b.planLines(&l, &f, still)...)
	}
	return p, nil
}

// write puts into the data what was worked out, and takes the marks away.
func (p *part) write(tx store.Tx, sum *counted) error {
	for i := range p.back {
		if err := Withdraw(tx, p.book.Now, &p.back[i].line, p.back[i].why); err != nil {
			return err
		}
	}
	site := p.book.Site
	err := errors.Join(tx.PutAmounts(p.amounts), tx.PutStanding(p.standing), tx.PutBoth(p.both),
		tx.PutPlanLines(p.book.Now, site.ID, p.worked, p.lines), tx.PutPreparations(p.prepared), tx.Clean(p.ids))
	if err == nil && len(p.lines) > 0 && p.book.ActsAlone() {
		err = tx.QueueAlone(p.book.Now, site)
	}
	sum.done, sum.priced, sum.lines = sum.done+int64(len(p.ids)), sum.priced+p.priced, sum.lines+int64(len(p.lines))
	return err
}

// materials are what can be said of the listings of our own among rows.
func (b *Book) materials(tx store.Tx, rows []store.PricingRow) (map[int64]*store.Material, error) {
	if b.asking == nil {
		return nil, nil
	}
	var ids []int64
	for i := range rows {
		if rows[i].EntryID == nil && (i == 0 || rows[i-1].ID != rows[i].ID) {
			ids = append(ids, rows[i].ID)
		}
	}
	if ids == nil {
		return nil, nil
	}
	return tx.Materials(ids)
}

// prepare works out how far a listing of our own is. One that lacks something is
// incomplete, and so not sent, unless it is on sale already. What can't be told
// stops that listing and nothing else: prices and stock go on.
func (p *part) prepare(m *store.Material, l *store.Listing) {
	if m == nil {
		return
	}
	row := store.Preparation{ListingID: l.ID, SiteID: l.SiteID}
	done, err := p.book.asking.Prepare(m, l)
	if err == nil {
		row, err = done.Row(l)
	}
	if err == nil {
		row.Changed, err = changedFields(&done, m, l)
	}
	if err != nil {
		row.Stops, row.Lacks = 1, Untold(err)
	}
	p.prepared = append(p.prepared, row)
	if (l.State == store.ListingReady || l.State == store.ListingPaused) && row.Stops > 0 {
		l.State = store.ListingIncomplete
	}
}

// changedFields are those in which a listing differs from what it says there, as
// they are kept.
func changedFields(done *Prepared, m *store.Material, l *store.Listing) (string, error) {
	c, err := done.Change(m, l)
	if err != nil || len(c.Fields) == 0 {
		return "", err
	}
	text, err := json.Marshal(c.Fields)
	return string(text), err
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
	case store.ListingUnpriced, store.ListingIncomplete, store.ListingReady, store.ListingPaused:
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

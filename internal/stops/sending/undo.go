package sending

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"easymargin/core/plan"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// BackRow is one line of a send-out as it can be taken back: to what, and
// whether it may be.
type BackRow struct {
	ID        int64  `json:"id" doc:"Of the line"`
	ListingID int64  `json:"listing_id"`
	SKU       string `json:"sku"`
	Title     string `json:"title"`
	Currency  string `json:"currency"`
	FromPrice *int64 `json:"from_price" doc:"As it is there now; none where the price stays"`
	ToPrice   *int64 `json:"to_price"`
	FromQty   *int64 `json:"from_quantity"`
	ToQty     *int64 `json:"to_quantity"`
	Verdict   string `json:"verdict" enum:"go,held,blocked" doc:"held: only where it is named"`
	Why       string `json:"why"`
	Profit    *int64 `json:"profit" doc:"Left of a sale at the price it goes back to, at today's cost"`
}

// Back is what taking back a send-out comes to.
type Back struct {
	Site string    `json:"site"`
	Rows []BackRow `json:"rows"`
}

// TakeBackLooks says what taking back a send-out would do. Nothing is changed.
func (st *Stop) TakeBackLooks(ctx context.Context, id int64) (Back, error) {
	tx := st.Store.Reading(ctx)
	o, err := store.GetTx[store.SendOut](tx, id)
	if err != nil {
		return Back{}, err
	}
	site, err := tx.SiteOf(o.SiteID)
	if err != nil {
		return Back{}, err
	}
	rows, _, err := st.back(tx, site, id)
	return Back{site.Name, rows}, err
}

// TakeBack sends listings back to what they were before a send-out, worked out
// against today's costs and by the same guards: all that may go, or, where some
// lines are named, those, held ones among them. It is a send-out of its own.
// The move that was taken back is held from then on, until another one is due.
func (st *Stop) TakeBack(ctx context.Context, id int64, named []int64) (Sent, error) {
	return st.send(ctx, store.SendOut{Undoes: &id}, How{}, func(tx store.Tx) ([]store.SendLine, map[int64]int64, error) {
		o, err := store.GetTx[store.SendOut](tx, id)
		if err != nil {
			return nil, nil, err
		}
		site, err := tx.SiteOf(o.SiteID)
		if err != nil {
			return nil, nil, err
		}
		if err := st.door(tx, site.ID); err != nil {
			return nil, nil, err
		}
		rows, made, err := st.back(tx, site, id)
		if err != nil {
			return nil, nil, err
		}
		var lines []store.PlanLine
		for i, r := range rows {
			picked := slices.Contains(named, r.ID)
			if r.Verdict == string(plan.Blocked) && picked {
				return nil, nil, fault.New(fault.Conflict, "%s can't be taken back: %s", r.SKU, r.Why)
			}
			if r.Verdict == string(plan.Go) && (len(named) == 0 || picked) || r.Verdict == string(plan.Held) && picked {
				lines = append(lines, made[i])
			}
		}
		if len(lines) == 0 {
			return nil, nil, fault.New(fault.Conflict, "nothing of this send-out can be taken back by itself; each line says why")
		}
		if err := tx.PutSentLines(st.Now(), site.ID, lines); err != nil {
			return nil, nil, err
		}
		out, ids, sites := make([]store.SendLine, len(lines)), make([]int64, len(lines)), map[int64]int64{}
		var priced, counted []int64
		for i := range lines {
			x := &lines[i]
			out[i], ids[i], sites[x.ListingID] = lineOf(x), x.ListingID, site.ID
			if x.ToPrice != nil {
				priced = append(priced, x.ListingID)
			}
			if x.ToQty != nil && *x.ToQty < *x.FromQty {
				counted = append(counted, x.ListingID)
			}
		}
		return out, sites, stops.First(tx.HoldBack(priced, counted), tx.DirtyListings(st.Now(), ids))
	})
}

// back works out each line of a send-out as it could be taken back, and the line
// of the plan that it would be.
func (st *Stop) back(tx store.Tx, site store.Site, id int64) ([]BackRow, []store.PlanLine, error) {
	list, err := tx.BackLines(id)
	if err != nil {
		return nil, nil, err
	}
	outgoing := make([]store.OutgoingLine, len(list))
	for i := range list {
		outgoing[i].ListingID = list[i].ListingID
	}
	figures, book, err := st.figures(tx, site, outgoing)
	if err != nil {
		return nil, nil, err
	}
	rows, lines := make([]BackRow, len(list)), make([]store.PlanLine, len(list))
	for i := range list {
		x := &list[i]
		rows[i] = BackRow{ID: x.ID, ListingID: x.ListingID, SKU: x.SKU, Title: x.Title, Currency: x.Currency}
		st.backRow(&rows[i], x, book, figures[x.ListingID])
		lines[i] = backPlan(&rows[i], x, figures[x.ListingID])
	}
	return rows, lines, nil
}

// backRow says to what a line would be taken back, and whether it may.
func (st *Stop) backRow(r *BackRow, x *store.BackLine, b *reckon.Book, f *reckon.Figures) {
	block := func(format string, args ...any) {
		r.Verdict, r.Why = string(plan.Blocked), fmt.Sprintf(format, args...)
	}
	switch {
	case x.State != store.SendConfirmed:
		block("it was never confirmed, so there is nothing to take back")
		return
	case x.Back:
		block("it was taken back already")
		return
	case x.Open:
		block("something of it is on its way; wait for the answer")
		return
	case x.ConfirmedPrice == nil || x.ListingState != store.ListingLive:
		block("it isn't on sale there any more")
		return
	case f == nil:
		block("its product has no supplier any more")
		return
	}
	if !x.Planned { // it was put up by this: off sale it goes
		r.FromQty, r.ToQty = &x.ConfirmedQuantity, new(int64)
		if r.Verdict = string(plan.Go); x.ConfirmedQuantity == 0 {
			block("it offers none already")
		}
		return
	}
	if x.Price != nil && x.FromPrice != nil {
		if *x.ConfirmedPrice != *x.Price {
			block("its price has moved again since")
			return
		}
		if *x.FromPrice != *x.Price {
			r.FromPrice, r.ToPrice = x.ConfirmedPrice, x.FromPrice
		}
	}
	short := ""
	if x.Quantity != nil && x.FromQty != nil && x.ConfirmedQuantity == *x.Quantity {
		to := min(*x.FromQty, f.Offer)
		if to < *x.FromQty {
			short = fmt.Sprintf("%d of the %d before: %s", to, *x.FromQty, b.OfferWhy(f))
		}
		if to != x.ConfirmedQuantity {
			r.FromQty, r.ToQty = &x.ConfirmedQuantity, &to
		}
	}
	if r.ToPrice == nil && r.ToQty == nil {
		block("%s", cmp.Or(short, "it is as it was before"))
		return
	}
	r.Verdict, r.Why = string(plan.Go), short
	st.guard(r, x, b, f)
}

// guard holds a taking back to the guards that hold for every move.
func (st *Stop) guard(r *BackRow, x *store.BackLine, b *reckon.Book, f *reckon.Figures) {
	if why := b.Forbids(f, &store.SendLine{Price: r.ToPrice, Quantity: r.ToQty}); why != "" {
		r.Verdict, r.Why = string(plan.Blocked), why
		return
	}
	if r.ToPrice == nil {
		return
	}
	v, err := f.Terms.Profit(f.Spend, *r.ToPrice)
	if err != nil {
		return
	}
	r.Profit = &v
	was := plan.Listing{Price: *r.FromPrice, Quantity: x.ConfirmedQuantity, Landed: f.Spend.Landed, Fixed: x.Fixed, Moves: f.Link.MovesToday}
	if x.ConfirmedLanded != nil {
		was.Landed = *x.ConfirmedLanded
	}
	w := plan.Wanted{Offer: max(f.Offer, 1), Found: true, Price: *r.ToPrice, Landed: f.Spend.Landed, Profit: v}
	if why := b.HeldFor(f, was, w); why != "" {
		r.Verdict, r.Why = string(plan.Held), reckon.Words(why, r.Why)
	}
}

// backPlan is the line of a plan that takes a line back.
func backPlan(r *BackRow, x *store.BackLine, f *reckon.Figures) store.PlanLine {
	p := store.PlanLine{ListingID: x.ListingID, Kind: string(plan.Quantity), FromPrice: r.FromPrice, ToPrice: r.ToPrice, FromQty: r.FromQty,
		ToQty: r.ToQty, ProfitNew: r.Profit, Currency: x.Currency, Verdict: string(plan.Go), Reasons: []string{"a change was taken back"}}
	switch {
	case r.ToPrice != nil && *r.ToPrice > *r.FromPrice:
		p.Kind = string(plan.PriceUp)
	case r.ToPrice != nil:
		p.Kind = string(plan.PriceDn)
	case r.ToQty != nil && *r.ToQty == 0:
		p.Kind = string(plan.ToZero)
	}
	if f != nil && f.Broken == "" {
		p.Landed, p.Cost, p.CostCur = &f.Spend.Landed, &f.Link.ItemCost, f.Link.ItemCurrency
	}
	return p
}

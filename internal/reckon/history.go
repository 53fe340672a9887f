package reckon

import (
	"context"
	"time"

	"easymargin/internal/store"
)

// Step is how a listing stood from a moment on: amounts are minor units of its
// site's currency, totals among them where they are others'; nil is not known.
type Step struct {
	At       time.Time
	Cost     *int64 // landed
	Price    *int64 // confirmed
	Floor    *int64 // by the rule and fees of that day as they are set now
	Lowest   *int64
	Leading  *int64
	Stock    *int64 // the present supplier's, listed units
	Quantity int64  // confirmed
}

// History is how a listing stood since a moment, a step for each time that
// something of it moved: from what was recorded.
func (b *Book) History(ctx context.Context, s *store.Store, listingID int64, since time.Time) ([]Step, error) {
	rows, err := s.PricingRowsOf(ctx, []int64{listingID}, b.Now.Add(-24*time.Hour))
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	rec, err := s.Replay(ctx, rows, since)
	if err != nil {
		return nil, err
	}
	rewind(rows, rec)
	var out []Step
	var was asked
	var market *store.MarketPoint
	r := &Replay{From: since}
	for list := moments(rows, rec, since); len(list) > 0; {
		var now []moment
		now, list = sameTime(list)
		at := now[0].at
		for i := range now {
			switch m := &now[i]; {
			case m.change != nil:
				apply(rows, m.change)
			case m.market != nil:
				market = m.market
			case m.was != nil:
				was.take(m.was, &Past{}, r, at)
			}
		}
		out = append(out, b.On(at.Format(DayForm)).stepAt(rows, rec, market, &was, at))
	}
	return out, nil
}

// stepAt is how a listing stood at a moment.
func (b *Book) stepAt(rows []store.PricingRow, rec *store.Replayed, market *store.MarketPoint, was *asked, at time.Time) Step {
	b.Now = at
	for i := range rows {
		rows[i].TakenAt, rows[i].Offers, rows[i].ConfirmedQuantity = &at, offersText(market), was.quantity
	}
	out := Step{At: at, Price: was.price, Quantity: was.quantity}
	if market != nil {
		out.Lowest, out.Leading = market.Lowest, market.Leading
	}
	f := b.WorkOut(rows)
	if first, ok := rec.Known[f.Link.SupplierProductID]; ok && first.After(at) {
		return out // no supplier had it yet
	}
	out.Stock = ptr(f.Gives.Sellable)
	if f.Broken == "" {
		out.Cost = ptr(f.Spend.Landed)
		if v, ok := f.Floor(); ok {
			out.Floor = &v
		}
	}
	return out
}

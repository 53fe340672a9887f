package app

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const runPrice = "price"

// price queues the working out of a site's prices and plan.
func (a *App) price(ctx context.Context, site store.Site) {
	if err := a.queueOnce(ctx, runPrice, "Working out prices on "+site.Name, site.ID); err != nil {
		slog.Error("queueing prices", "site", site.Name, "error", err)
	}
}

// put writes what was worked out into a listing and tells whether it differs.
func (p *pricer) put(l *store.Listing, w worked) bool {
	before := *l
	l.Price, l.Profit, l.Floor, l.BreakEven, l.Landed, l.Fees, l.Tax, l.Outbound, l.Bound, l.Why = nil, nil, nil, nil, nil, nil, nil, nil, "", w.broken
	l.Quantity, l.RuleID = w.offer, nil
	if w.rule != nil && !w.own && l.FixedPrice == nil {
		l.RuleID = &w.rule.id
	}
	if w.broken == "" {
		l.Landed = &w.spend.Landed
		if v, ok := w.terms.Floor(&w.wish, w.spend); ok {
			l.Floor = &v
		}
		if v, ok := w.terms.BreakEven(w.spend); ok {
			l.BreakEven = &v
		}
		l.Bound = string(w.choice.Bound)
		l.Why = p.priceWhy(w.choice)
	}
	if w.choice.Found && w.broken == "" {
		l.Price, l.Why = &w.choice.Price, ""
		if q, err := w.terms.Quote(p.lines[:0], w.spend, money.Of(w.choice.Price, p.currency)); err == nil {
			p.lines = q.Lines
			l.Profit = &q.Profit
			l.Fees, l.Tax, l.Outbound = parts(q.Lines)
		}
		if w.offer == 0 {
			l.Why = p.quantityWhy(w)
		}
	} else if w.broken == "" || l.State != store.ListingLive {
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
	return !sameListing(&before, l)
}

// parts sums a quote's lines into the parts of a margin strip, as costs.
func parts(lines []pricing.Line) (fees, tax, outbound *int64) {
	fees, tax, outbound = new(int64), new(int64), new(int64)
	for _, x := range lines {
		switch x.Kind {
		case pricing.LineFee, pricing.LineFeeTax, pricing.LineAllowance:
			*fees -= x.Amount
		case pricing.LineTax:
			*tax -= x.Amount
		case pricing.LineOutbound, pricing.LineDelivery:
			*outbound -= x.Amount
		}
	}
	return fees, tax, outbound
}

func sameListing(a, b *store.Listing) bool {
	eq := func(x, y *int64) bool { return x == y || x != nil && y != nil && *x == *y }
	return eq(a.Price, b.Price) && eq(a.Profit, b.Profit) && eq(a.Floor, b.Floor) && eq(a.BreakEven, b.BreakEven) && eq(a.Landed, b.Landed) &&
		eq(a.Fees, b.Fees) && eq(a.Tax, b.Tax) && eq(a.Outbound, b.Outbound) && eq(a.RuleID, b.RuleID) &&
		a.Quantity == b.Quantity && a.Bound == b.Bound && a.Why == b.Why && a.State == b.State
}

// doPrice works out every listing of a site, and from the live ones the plan.
// It may be cut short anywhere: the next run works everything out again.
func (a *App) doPrice(ctx context.Context, t *work.Task) error {
	a.begins(t)
	site, err := a.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	p, err := a.pricer(ctx, site)
	if err != nil {
		return err
	}
	total, err := a.Store.CountListings(ctx, site.ID)
	if err != nil {
		return err
	}
	var lines []store.PlanLine
	asked := p.asks()
	asked.Results, asked.DayAgo = true, p.now.Add(-24*time.Hour)
	after, done, priced := int64(0), int64(0), int64(0)
	for {
		rows, err := a.Store.PricingRows(ctx, site.ID, after, 500, asked)
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		err = a.Store.Do(ctx, func(tx store.Tx) error {
			for links := range byListing(rows) {
				w := p.workOut(links)
				l := links[0].Listing
				if !w.link.Present {
					if err := tx.ChooseLink(l.ProductID, w.link.LinkID); err != nil {
						return err
					}
				}
				if p.put(&l, w) {
					if err := tx.PutWorkedOut(&l); err != nil {
						return err
					}
				}
				if l.Price != nil {
					priced++
				}
				if l.State == store.ListingLive && !w.link.InFlight {
					lines = append(lines, p.planLines(&l, w)...)
				}
				done++
			}
			return nil
		})
		if err != nil {
			return err
		}
		after = rows[len(rows)-1].ID
		t.At(done, total)
	}
	if err := a.keepPlan(ctx, site, lines); err != nil {
		return err
	}
	t.Note = fmt.Sprintf("%s: %d of %d priced, %s", site.Name, priced, done, plural(int64(len(lines)), "change to make", "changes to make"))
	a.changed("listings", "products", "plan", "counts")
	return nil
}

// planLines compares a live listing with what the marketplace confirmed.
func (p *pricer) planLines(l *store.Listing, w worked) []store.PlanLine {
	if l.ConfirmedPrice == nil {
		return nil
	}
	in := plan.Listing{Currency: p.currency, ConfirmedPrice: *l.ConfirmedPrice, ConfirmedQuantity: l.ConfirmedQuantity, Choice: w.choice,
		PriceWhy: p.why(&w), Broken: w.broken, Quantity: w.offer, QuantityWhy: p.quantityWhy(w),
		CostNow: money.Of(w.link.Cost, money.Currency(w.link.CostCurrency)), MovesToday: w.link.MovesToday, FixedByHand: l.FixedPrice != nil}
	if l.ConfirmedCost != nil {
		in.CostWas = money.Of(*l.ConfirmedCost, money.Currency(l.ConfirmedCostCur))
	}
	if w.link.TakenAt != nil {
		in.Feed = "feed of " + w.link.TakenAt.Format("15:04")
	}
	if w.broken == "" {
		in.KeepsMet = w.terms.Holds(w.wish.Keep, w.spend, in.ConfirmedPrice)
		if v, err := w.terms.Profit(w.spend, in.ConfirmedPrice); err == nil {
			in.ProfitWas = &v
		}
		in.ProfitNew = l.Profit
	}
	var out []store.PlanLine
	for _, x := range p.guards.WorkOut(in) {
		out = append(out, store.PlanLine{ListingID: l.ID, Kind: string(x.Kind), FromPrice: x.FromPrice, ToPrice: x.ToPrice, FromQty: x.FromQty, ToQty: x.ToQty,
			ProfitWas: x.ProfitWas, ProfitNew: x.ProfitNew, Landed: l.Landed, Cost: &in.CostNow.Minor, CostCur: w.link.CostCurrency, Currency: string(p.currency), Reasons: x.Reasons,
			Verdict: string(x.Verdict), VerdictWhy: x.Why, State: store.SendWaiting})
	}
	return out
}

// keepPlan puts a newly worked out plan in the place of the one before.
func (a *App) keepPlan(ctx context.Context, site store.Site, lines []store.PlanLine) error {
	return a.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.OvertakePlans(site.ID); err != nil || len(lines) == 0 {
			return err
		}
		p := store.Plan{SiteID: site.ID, MadeAt: a.now(), Open: true}
		if err := tx.Create(&p); err != nil {
			return err
		}
		for i := range lines {
			lines[i].PlanID = p.ID
		}
		return tx.CreateAll(lines)
	})
}

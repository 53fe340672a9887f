package reckon

import (
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// planLines compares a listing with what is on sale: what the marketplace
// confirmed last, and after it what is on its way. Nothing where it is not on
// sale and nothing of it on its way.
func (b *Book) planLines(l *store.Listing, f *Figures, open []store.OpenLine) []store.PlanLine {
	price, quantity, landed := l.ConfirmedPrice, l.ConfirmedQuantity, l.ConfirmedLanded
	for _, x := range open {
		if x.Price != nil && !x.PriceOver {
			price, landed = x.Price, x.Landed
		}
		if x.Quantity != nil && !x.QuantityOver {
			quantity = *x.Quantity
		}
	}
	if price == nil {
		return nil
	}
	was := plan.Listing{Price: *price, Quantity: quantity, Landed: f.Spend.Landed, Fixed: l.FixedPrice != nil, Moves: f.Link.MovesToday}
	if landed != nil {
		was.Landed = *landed
	}
	w, profitWas, profitNew := b.wanted(f, was.Price)
	var out []store.PlanLine
	guards := b.following(f.Rule).Guards
	onSale, ok := money.Times(*price, quantity)
	if !ok {
		onSale = money.Most // it only says what comes first
	}
	for _, x := range guards.WorkOut(was, w) {
		if len(open) > 0 && !corrects(x, w) {
			continue // it waits until what is on its way has been answered
		}
		row := store.PlanLine{
			ListingID: l.ID,
			Kind:      string(x.Kind),
			ProfitWas: profitWas,
			Cost:      ptr(f.Link.ItemCost),
			CostCur:   f.Link.ItemCurrency,
			Landed:    l.Landed,
			Currency:  string(b.Currency),
			Reasons: b.reasons(
				x,
				l,
				f,
				open,
			),
			Verdict:    string(x.Verdict),
			VerdictWhy: b.holdWords(guards, x.Why, &was, &w, f),
			State:      store.PlanWaiting,
			OnSale:     onSale,
		}
		if l.Differs && w.KeepsMet && x.Price != nil {
			row.Verdict, row.VerdictWhy = string(plan.Held), "the price was changed on "+b.Site.Name+"; keep theirs, or send ours"
		}
		if takenBack(l, &x) {
			row.Verdict, row.VerdictWhy = string(plan.Held), "you took this move back; it waits until another one is due, or you send it"
		}
		if x.Price != nil {
			row.FromPrice, row.ToPrice, row.ProfitNew = &x.Price.From, &x.Price.To, profitNew
		} else if x.Kind == plan.Quantity {
			row.ProfitNew = profitWas
		}
		if x.Quantity != nil {
			row.FromQty, row.ToQty = &x.Quantity.From, &x.Quantity.To
		}
		row.Gain = val(row.ProfitNew) - val(row.ProfitWas)
		row.Rival = row.Verdict == string(plan.Go) && x.Kind == plan.PriceDn && w.ByRival
		if f.Rule != nil {
			row.Rule = f.Rule.Name
		}
		out = append(out, row)
	}
	return out
}

// wanted is what should be true of a listing that asks a price now, and what a
// sale leaves at that price and at the one wanted; nil where that can't be told.
func (b *Book) wanted(f *Figures, now int64) (w plan.Wanted, profitNow, profit *int64) {
	w = plan.Wanted{Offer: f.Offer, Broken: f.Broken != "", Landed: f.Spend.Landed}
	if w.Broken {
		return w, nil, nil
	}
	w.Found, w.Price, w.ByRival = f.Choice.Found, f.Choice.Price, f.Choice.Bound == pricing.ByMarket
	w.KeepsMet = f.Terms.Holds(f.Wish.Keep, f.Spend, now) && now >= f.Wish.Least
	if v, err := f.Terms.Profit(f.Spend, now); err == nil {
		w.ProfitNow, profitNow = v, &v
	}
	if w.Found {
		if v, err := f.Terms.Profit(f.Spend, w.Price); err == nil {
			w.Profit, profit = v, &v
		}
	}
	return w, profitNow, profit
}

// HeldFor says, in words, why a move of a price would be held by the guards that
// hold for a listing; "" where it would go.
func (b *Book) HeldFor(f *Figures, was plan.Listing, w plan.Wanted) string {
	guards := b.following(f.Rule).Guards
	for _, x := range guards.WorkOut(was, w) {
		if x.Verdict == plan.Held {
			return b.holdWords(guards, x.Why, &was, &w, f)
		}
	}
	return ""
}

// takenBack tells of a line whether a person took the same move
// back: a price that would be the same, or any more stock.
// What takes stock away goes all the same.
func takenBack(l *store.Listing, x *plan.Line) bool {
	if x.Price != nil {
		return l.BackPrice != nil && *l.BackPrice == x.Price.To
	}
	return x.Quantity != nil && x.Quantity.To > x.Quantity.From && l.BackQuantity != nil
}

// corrects tells of a line whether it must not wait for what is on its way: it
// takes stock away that can't be had, or lifts a price from under what is kept.
func corrects(x plan.Line, w plan.Wanted) bool {
	return x.Verdict == plan.Blocked || x.Quantity != nil && x.Quantity.To < x.Quantity.From || x.Kind == plan.PriceUp && !w.KeepsMet
}

// reasons says in words what moved.
func (b *Book) reasons(x plan.Line, l *store.Listing, f *Figures, open []store.OpenLine) []string {
	var out []string
	put := func(s string) {
		if s != "" {
			out = append(out, s)
		}
	}
	cost := b.costReason(l, f)
	switch x.Kind {
	case plan.ToZero, plan.Quantity:
		put(b.OfferWhy(f))
		put(cost)
	case plan.NoPrice:
		put(Words(f.Broken, b.PriceWhy(f)))
		put(cost)
	case plan.Rest:
		put("every sale at the price there loses money, and the new price is held")
		put(cost)
	default:
		put(cost)
		put(b.PriceWhy(f))
		if x.Quantity != nil {
			put(b.OfferWhy(f))
		}
	}
	if x.Kind != plan.ToZero && x.Kind != plan.NoPrice {
		put(b.TiedWhy(f.Link))
	}
	if len(open) > 0 {
		put("follows what is on its way already")
	}
	return out
}

// costReason says how the supplier's cost has moved since the price that was
// confirmed was worked out; and where it hasn't, how what it comes to has.
func (b *Book) costReason(l *store.Listing, f *Figures) string {
	if l.ConfirmedCost == nil {
		return ""
	}
	was := money.Of(*l.ConfirmedCost, money.Currency(l.ConfirmedCostCur))
	now := money.Of(f.Link.ItemCost, money.Currency(f.Link.ItemCurrency))
	if was == now {
		return b.landedReason(l, f)
	}
	words := fmt.Sprintf("cost %s → %s %s", was, now, now.Currency)
	if f.Link.TakenAt != nil {
		words += ", feed of " + f.Link.TakenAt.Format("15:04")
	}
	return words
}

// landedReason says how the landed cost has moved while the supplier's cost stayed.
func (b *Book) landedReason(l *store.Listing, f *Figures) string {
	if l.ConfirmedLanded == nil || *l.ConfirmedLanded == f.Spend.Landed {
		return ""
	}
	words := fmt.Sprintf(
		"landed cost %s → %s %s",
		money.Of(*l.ConfirmedLanded, b.Currency),
		money.Of(f.Spend.Landed, b.Currency),
		b.Currency,
	)
	if day, err := time.Parse(DayForm, b.RateDays[f.Link.ItemCurrency]); err == nil && f.Link.ItemCurrency != string(b.Currency) {
		words += ", by the exchange rate of " + day.Format("2 January")
	}
	return words
}

// val is a number, or 0 where it isn't known.
func val(v *int64) int64 {
	if v == nil {
		return 0
	}
	return *v
}

func ptr[T any](v T) *T { return &v }

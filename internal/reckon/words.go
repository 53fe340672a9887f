package reckon

import (
	"fmt"
	"strings"
	"time"

	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/core/supply"
)

// PriceWhy says what set the price, or why there is none, with the rival named
// where one set it.
func (b *Book) PriceWhy(f *Figures) string {
	text := BoundWords(f.Choice.Bound, f.Choice.Found)
	if f.Choice.Bound == pricing.ByKeep && f.Rule != nil && f.Rule.Stands() {
		return Words(text, b.notFollowed(f))
	}
	if f.Choice.Bound != pricing.ByMarket || !f.Choice.Found {
		return text
	}
	rival := lowest(f)
	if rival == nil {
		return text
	}
	return fmt.Sprintf("%s: %s asks %s in all", text, rival.Seller, b.Money(rival.Item+rival.Delivery))
}

// notFollowed says that a rival asks less than can be asked, and that nobody goes
// after it; "" where none does.
func (b *Book) notFollowed(f *Figures) string {
	rival := lowest(f)
	if rival == nil {
		return ""
	}
	total := rival.Item + rival.Delivery
	even, ok := f.Terms.BreakEven(f.Spend)
	switch {
	case ok && total < even+f.Terms.Charged(even):
		return fmt.Sprintf("%s asks %s in all, less than it costs us to sell one: not followed", rival.Seller, b.Money(total))
	case total < f.Choice.Price+f.Terms.Charged(f.Choice.Price):
		return fmt.Sprintf("%s asks %s in all, under the floor: not followed any further", rival.Seller, b.Money(total))
	}
	return ""
}

// BoundWords says what set a price, or why none was found.
func BoundWords(bound pricing.Bound, found bool) string {
	switch bound {
	case pricing.ByAim:
		if !found {
			return "no price meets what the rule aims at"
		}
		return "meets the rule's aim"
	case pricing.ByKeep:
		return "lifted to what the rule keeps"
	case pricing.ByMarket:
		if !found {
			return "no rival to price against, and the rule has no aim"
		}
		return "set by a rival"
	case pricing.ByMost:
		return "held down to the rule's most"
	case pricing.ByBounds:
		return "no price keeps what the rule asks within its bounds"
	case ByHand:
		if !found {
			return "the price fixed by hand is under its floor now; release it or fix another"
		}
		return "fixed by hand"
	}
	return ""
}

// OfferWhy says in words why so many are offered.
func (b *Book) OfferWhy(f *Figures) string {
	r, at := f.Link, ""
	if r.TakenAt != nil {
		at = r.TakenAt.Format("15:04")
	}
	if f.Barred {
		return "you chose not to sell it on " + b.Site.Name
	}
	if f.Away != "" {
		return f.Away
	}
	if r.Doubt != "" {
		return r.Doubt
	}
	switch f.Gives.Why {
	case supply.WhyEnded:
		return r.Supplier + " has ended it"
	case supply.WhyGone:
		return fmt.Sprintf("gone from %s's feed of %s", r.Supplier, at)
	case supply.WhyStale:
		return fmt.Sprintf("nothing heard from %s for %s", r.Supplier, supply.Span(int64(r.StaleAfter.Seconds())))
	case supply.WhyUnknown:
		return r.Supplier + "'s stock is unknown"
	case supply.WhyNoneLeft:
		if b.Promised[r.SupplierProductID] > 0 && r.Stock > 0 {
			return fmt.Sprintf("all %d at %s, %s, are promised", r.Stock, r.Supplier, at)
		}
		return fmt.Sprintf("none left at %s, %s", r.Supplier, at)
	case supply.WhyTooFew:
		return fmt.Sprintf("only %d left at %s, kept back as the buffer", f.Gives.Sellable, r.Supplier)
	case supply.WhyWaiting:
		return fmt.Sprintf("back at %s, %s; it waits to see whether it stays", r.Supplier, at)
	}
	if n := b.Promised[r.SupplierProductID]; n > 0 {
		return fmt.Sprintf("%d at %s, %s, %d of them promised", r.Stock, r.Supplier, at, n)
	}
	return fmt.Sprintf("%d at %s, %s", r.Stock, r.Supplier, at)
}

// holdWords says why a line waits for a person.
func (b *Book) holdWords(g plan.Guards, why plan.Why, l *plan.Listing, w *plan.Wanted, f *Figures) string {
	percent := func(now, was int64) string {
		if was == 0 {
			return "from nothing"
		}
		d := now - was
		if d < 0 {
			d = -d
		}
		return fmt.Sprintf("%d %%", (d*100+was-1)/was)
	}
	switch why {
	case plan.Broken:
		return f.Broken
	case plan.ByHand:
		return "the price was fixed by hand"
	case plan.CostMoved:
		return fmt.Sprintf("cost moved %s, more than %s", percent(w.Landed, l.Landed), g.CostMoved)
	case plan.PriceMoved:
		return fmt.Sprintf("price would move %s, more than %s", percent(w.Price, l.Price), g.PriceMoved)
	case plan.MovedOften:
		return fmt.Sprintf("price moved %d times already in 24 hours", l.Moves)
	case plan.Loss:
		return "the new price loses money on every sale"
	}
	return ""
}

// StaleRate is what is said of an exchange rate that is too old to be relied on; "" of one that isn't.
func StaleRate(from, day string, now time.Time) string {
	at, err := time.Parse(DayForm, day)
	if err != nil || now.Sub(at) < 8*24*time.Hour {
		return ""
	}
	return fmt.Sprintf("the %s rate is of %s, %d days old", from, at.Format("2 January"), int(now.Sub(at).Hours()/24))
}

// Plural is a number with its noun.
func Plural(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Words joins what there is to say.
func Words(parts ...string) string {
	var out []string
	for _, s := range parts {
		if s != "" {
			out = append(out, s)
		}
	}
	return strings.Join(out, "; ")
}

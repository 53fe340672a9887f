package reckon

import (
	"fmt"

	"easymargin/core/money"
	"easymargin/internal/store"
)

// Tied is what must be bought to sell one of a listing: whole items of the supplier's,
// of which a part may stay unsold.
type Tied struct {
	Items int64 // of the supplier's
	Of    int64 // single units in each
	Cost  int64 // of them, minor units of the site's currency
	Spare int64 // single units that one sale leaves over
}

// TiesUp is what one sale from a supply ties up; false where its cost can't be told in
// the site's currency.
func (b *Book) TiesUp(r *store.PricingRow) (Tied, bool) {
	listed, bought := max(r.Units, 1), max(r.UnitsBought, 1)
	t := Tied{Items: (listed + bought - 1) / bought, Of: bought}
	t.Spare = t.Items*bought - listed
	sum, ok := money.Times(r.ItemCost, t.Items)
	if !ok {
		return t, false
	}
	cost := money.Of(sum, money.Currency(r.ItemCurrency))
	if r.ItemCurrency != b.Site.Currency {
		fx := b.Rates[r.ItemCurrency]
		if fx == 0 {
			return t, false
		}
		var err error
		if cost, err = fx.Change(cost, b.Currency); err != nil {
			return t, false
		}
	}
	t.Cost = cost.Minor
	return t, money.Believed(t.Cost)
}

// TiedWhy says what one sale ties up where a part of what must be bought stays unsold;
// "" where nothing does.
func (b *Book) TiedWhy(r *store.PricingRow) string {
	t, ok := b.TiesUp(r)
	switch {
	case t.Spare == 0 || !ok:
		return ""
	case t.Items > 1:
		return fmt.Sprintf("%d cases of %d must be bought to sell one, for %s", t.Items, t.Of, b.Money(t.Cost))
	}
	return fmt.Sprintf("a case of %d must be bought to sell one, for %s", t.Of, b.Money(t.Cost))
}

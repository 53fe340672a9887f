package reckon

import (
	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

// Weigh works out what a supplier product would make on the site of the book, at
// what others ask on its entry and by our own rule. The row stands for the
// listing that there isn't. What can't be told is left blank.
func (b *Book) Weigh(r *store.PricingRow) store.Weighing {
	var w store.Weighing
	w.SiteID, w.SupplierProductID = b.Site.ID, r.SupplierProductID
	if tied, ok := b.TiesUp(r); ok {
		w.TiesUp = &tied.Cost
	}
	if r.Weight > 0 {
		w.Weight = ptr(r.Weight)
	}
	f := b.WorkOut([]store.PricingRow{*r})
	if s := supply.StockState(r.StockState); s != supply.StockUnknown && s != supply.StockUnsaid {
		w.Stock = ptr(f.Gives.Sellable)
	}
	w.Rating, w.Rank = r.Rating, r.Rank
	m := marketOf(r.Offers)
	w.Lowest, w.Leading = m.lowest, m.leading
	if r.Offers != "" {
		w.Sellers = &m.sellers
	}
	if f.Terms == nil {
		return w
	}
	w.Landed = ptr(f.Spend.Landed)
	at := func(total *int64) *int64 { // what is left where the buyer pays so much in all
		price, ok := priceAt(f.Terms, total)
		if !ok {
			return nil
		}
		p, err := f.Terms.Profit(f.Spend, price)
		if err != nil {
			return nil
		}
		return &p
	}
	if w.ProfitLowest = at(w.Lowest); w.ProfitLowest != nil {
		price, _ := priceAt(f.Terms, w.Lowest)
		if net := f.Terms.Net(price); net > 0 {
			w.MarginLowest = share(*w.ProfitLowest, net)
		}
		w.ReturnLowest = share(*w.ProfitLowest, f.Spend.Landed+f.Spend.Outbound)
	}
	w.ProfitLeading = at(w.Leading)
	if f.Broken != "" {
		return w
	}
	if f.Choice.Found {
		w.PriceRule = ptr(f.Choice.Price)
		if p, err := f.Terms.Profit(f.Spend, f.Choice.Price); err == nil {
			w.ProfitRule = &p
		}
	}
	if p, ok := f.Terms.Least(f.Wish.Aims, f.Spend); ok {
		w.PriceAim = &p
		if w.Lowest != nil {
			w.Above = ptr(p + f.Terms.Charged(p) - *w.Lowest)
		}
	}
	return w
}

// priceAt is the item price at which the buyer pays at most so much in all; false where
// delivery alone is more, or the total isn't known.
func priceAt(t *pricing.Terms, total *int64) (int64, bool) {
	if total == nil {
		return 0, false
	}
	price := t.Under(*total)
	return price, price+t.Charged(price) <= *total
}

// share is a part of a whole in millionths; nil where there is no whole.
func share(part, whole int64) *int64 {
	if whole <= 0 {
		return nil
	}
	v, ok := money.MulDiv(part, 1_000_000, whole)
	if !ok {
		return nil
	}
	return &v
}

package reckon

import (
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// known is what a sieve may look at to tell which products a rule is for: the
// facts of store.WeighColumns.
type known struct {
	row   *store.PricingRow
	facts *pricing.Facts
	stock int64 // how many could be sold
	book  *Book
}

// Words implements sieve.Facts.
func (k known) Words(column string) (string, bool) {
	switch column {
	case "title":
		return k.row.Title, true
	case "brand":
		return k.row.Brand, true
	case "category":
		return k.row.Category, true
	case "supplier":
		return k.row.Supplier, true
	}
	return "", false
}

// Number implements sieve.Facts.
func (k known) Number(column string) (int64, bool) {
	set := func(v *int64) (int64, bool) {
		if v == nil {
			return 0, false
		}
		return *v, true
	}
	switch column {
	case "landed":
		return k.facts.Landed, true
	case "stock":
		return k.stock, true
	case "ties_up":
		tied, ok := k.book.TiesUp(k.row)
		return tied.Cost, ok
	case "weight":
		return k.row.Weight, k.row.Weight > 0
	case "rating":
		return set(k.row.Rating)
	case "rank":
		return set(k.row.Rank)
	case "lowest", "leading", "sellers":
		m := marketOf(k.row.Offers)
		switch column {
		case "lowest":
			return set(m.lowest)
		case "leading":
			return set(m.leading)
		}
		return m.sellers, k.row.Offers != ""
	}
	return 0, false
}

// market is what others ask on an entry: totals, minor units.
type market struct {
	lowest  *int64
	leading *int64
	sellers int64
}

func marketOf(offers string) market {
	var m market
	for _, o := range ReadOffers(offers) {
		if o.Ours {
			continue
		}
		m.sellers++
		total := o.Item + o.Delivery
		if m.lowest == nil || total < *m.lowest {
			m.lowest = &total
		}
		if o.Lead {
			m.leading = &total
		}
	}
	return m
}

package place

import "easymargin/core/money"

// What a place tells is believed only within the bounds of core/money: a number
// beyond them is a mistake or an attack, and sums with it would be too.

// Believed tells whether an offer's amounts can be amounts.
func (o *Offer) Believed() bool { return money.Believed(o.Item) && money.Believed(o.Delivery) }

// Believed tells whether a seller's amounts can be amounts.
func (s *Sold) Believed() bool { return money.Believed(s.Item) && money.Believed(s.Delivery) }

// bound brings what an entry says in numbers within what can be: a number that
// can't be is one that isn't told.
func (e *Entry) bound() {
	if e.Units < 0 || e.Units > money.MostUnits {
		e.Units = 0
	}
	for _, n := range []**int64{&e.Rating, &e.Ratings, &e.Rank} {
		if *n != nil && (**n < 0 || **n > money.MostStock) {
			*n = nil
		}
	}
}

// BoundEntries brings what entries say in numbers within what can be.
func BoundEntries(list []Entry) []Entry {
	for i := range list {
		list[i].bound()
	}
	return list
}

// BoundSold leaves out what can't be asked for.
func BoundSold(list []Sold) []Sold {
	out := list[:0]
	for _, s := range list {
		if s.bound(); s.Believed() {
			out = append(out, s)
		}
	}
	return out
}

// BoundOffers leaves out what can't be an offer.
func BoundOffers(list []Offer) []Offer {
	out := list[:0]
	for _, o := range list {
		if o.Believed() {
			out = append(out, o)
		}
	}
	return out
}

// BoundListings brings what is on sale within what can be. A listing is never left
// out, so that nothing on sale is lost sight of: what is beyond the bounds counts as
// the bound, differs from what we asked for, and is shown and mended as that.
func BoundListings(list []Listing) []Listing {
	for i := range list {
		l := &list[i]
		l.Price, l.Quantity = min(max(l.Price, 0), money.Most), min(max(l.Quantity, 0), money.MostUnits)
	}
	return list
}

// BoundSites brings what sites say in numbers within what can be.
func BoundSites(list []Site) []Site {
	for i := range list {
		s := &list[i]
		s.TaxRate = min(max(s.TaxRate, 0), int64(10*money.One))
		s.MaxLines, s.Picture = min(max(s.MaxLines, 0), money.MostUnits), min(max(s.Picture, 0), money.MostUnits)
	}
	return list
}

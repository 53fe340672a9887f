package reckon

import (
	"context"
	"encoding/json"
	"time"

	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// ReadMarket reads what others ask on some entries (at most place.MaxNumbers)
// and keeps it, as of a moment.
func ReadMarket(ctx context.Context, s *store.Store, p place.Place, site store.Site, entries []store.Entry, at time.Time) error {
	if p.Rivals == nil {
		return fault.New(fault.Conflict, "%s doesn't say what others ask", site.Marketplace.Name)
	}
	refs := make([]string, len(entries))
	for i := range entries {
		refs[i] = entries[i].Ref
	}
	found, err := p.Rivals.Offers(ctx, site.Code, refs)
	if err != nil {
		return err
	}
	return s.Do(ctx, func(tx store.Tx) error {
		for i := range entries {
			text, err := json.Marshal(sane(found[entries[i].Ref]))
			if err != nil {
				return err
			}
			entries[i].Offers, entries[i].OffersAt = string(text), &at
			if err := tx.PutOffers(at, &entries[i]); err != nil {
				return err
			}
			m := marketOf(entries[i].Offers)
			if err := tx.PutMarketPoint(&store.MarketPoint{EntryID: entries[i].ID, At: at, Lowest: m.lowest, Leading: m.leading, Sellers: m.sellers}); err != nil {
				return err
			}
		}
		return nil
	})
}

// sane are the offers that somebody could pay; one leads at most.
func sane(offers []place.Offer) []place.Offer {
	list, led := []place.Offer{}, false
	for _, o := range offers {
		if o.Item < 1 || o.Delivery < 0 || o.Item > pricing.DefaultLimit*100 || o.Delivery > pricing.DefaultLimit {
			continue
		}
		o.Seller, o.Lead = clip(o.Seller, 120), o.Lead && !led
		led = led || o.Lead
		list = append(list, o)
	}
	return list
}

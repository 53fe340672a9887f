package reckon

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// Postage are the bands of a site's postage, in minor units of its currency. A list
// without bands leaves what the site says for all parcels.
type Postage struct {
	Buyer pricing.Postage `json:"buyer,omitempty"` // what the buyer pays
	Ours  pricing.Postage `json:"ours,omitempty"`  // what sending costs us
}

// ReadPostage reads the bands that are kept of a site.
func ReadPostage(site store.Site) (p Postage, err error) {
	if site.Postage == "" {
		return p, nil
	}
	if err = json.Unmarshal([]byte(site.Postage), &p); err != nil {
		err = fmt.Errorf("the postage of %s: %w", site.Name, err)
	}
	return p, err
}

// Looks tells whether some band looks at what a parcel weighs or measures.
func (p *Postage) Looks() bool { return p.Buyer.Looks() || p.Ours.Looks() }

// noPostage says that what the buyer pays for delivery can't be told, and why.
type noPostage struct{ why error }

func (e noPostage) Error() string {
	return "what the buyer pays for delivery can't be told: " + e.why.Error()
}

// postedOf is one unit of what is listed as postage looks at it: several of the
// supplier's items weigh several times as much, and their sides aren't known.
func postedOf(r *store.PricingRow) pricing.Packed {
	p := packedOf(r)
	if weight, ok := money.MulDivUp(r.Weight, max(r.Units, 1), max(r.UnitsBought, 1)); ok && p.Weight == 0 {
		p.Weight = weight
	}
	return p
}

// Parcel is what so many units of listings are in one parcel: their weights together,
// and the sides of the largest. What isn't known of one of them isn't known of it.
func Parcel(rows []store.PricingRow, units map[int64]int64) (out pricing.Packed) {
	all := [2]bool{true, true}
	done := map[int64]bool{}
	for i := range rows {
		r := &rows[i]
		if done[r.ID] || units[r.ID] == 0 {
			continue
		}
		done[r.ID] = true
		one := postedOf(r)
		weight, ok := money.Times(one.Weight, units[r.ID])
		sum, fits := money.Add(out.Weight, weight)
		all[0] = all[0] && one.Weight > 0 && ok && fits
		slices.Sort(one.Sides[:])
		all[1] = all[1] && one.Sides[0] > 0
		out.Weight = sum
		for i, side := range one.Sides {
			out.Sides[i] = max(out.Sides[i], side)
		}
	}
	if !all[0] {
		out.Weight = 0
	}
	if !all[1] {
		out.Sides = [3]int64{}
	}
	return out
}

// Outbound is what sending a parcel to a country costs us, minor units. The error is
// pricing.Missing or pricing.ErrNoPostage.
func (b *Book) Outbound(to string, parcel pricing.Packed) (int64, error) {
	if len(b.postage.Ours) == 0 {
		return b.Site.Outbound, nil
	}
	bands, err := b.postage.Ours.For(to, parcel)
	if err != nil {
		return 0, err
	}
	return bands[0].Amount, nil
}

// Delivery is what the buyer pays to have a parcel delivered to a country, by the price
// of what is in it. The error is pricing.Missing or pricing.ErrNoPostage.
func (b *Book) Delivery(to string, parcel pricing.Packed) ([]pricing.ChargedBand, error) {
	if len(b.postage.Buyer) == 0 {
		return []pricing.ChargedBand{{Amount: b.Site.Charged}}, nil
	}
	return b.postage.Buyer.For(to, parcel)
}

// Flat puts one amount for all parcels in the place of bands: what the buyer pays, what
// sending costs us, or both; nil leaves one as it is.
func (b *Book) Flat(charged, outbound *int64) {
	if charged != nil {
		b.Site.Charged, b.postage.Buyer = *charged, nil
	}
	if outbound != nil {
		b.Site.Outbound, b.postage.Ours = *outbound, nil
	}
}

// DeliveryNow is what the buyer pays for the delivery of a listing at its price, minor
// units; what the site says for all parcels where it has no price.
func DeliveryNow(tx store.Tx, site store.Site, listingID int64, now time.Time) (int64, error) {
	if site.Postage == "" {
		return site.Charged, nil
	}
	b, err := Open(tx, site, now)
	if err != nil {
		return 0, err
	}
	rows, err := tx.PricingRowsOf([]int64{listingID}, now)
	if err != nil || len(rows) == 0 {
		return site.Charged, err
	}
	f := b.WorkOut(rows)
	if f.Terms == nil || rows[0].Price == nil {
		return site.Charged, nil
	}
	return f.Terms.Charged(*rows[0].Price), nil
}

// BuyerPays is what a buyer in the site's own country pays to have so many units of SKUs
// delivered in one parcel, goods being the price of all that is in it. The error is
// pricing.Missing or pricing.ErrNoPostage where bands can't tell.
func BuyerPays(tx store.Tx, site *store.Site, units map[string]int64, goods int64, now time.Time) (int64, error) {
	bands, err := ReadPostage(*site)
	if err != nil || len(bands.Buyer) == 0 || len(units) == 0 {
		return site.Charged, err
	}
	listed, err := tx.ListingsBySKU(site.ID, slices.Collect(maps.Keys(units)))
	if err != nil {
		return 0, err
	}
	byID := map[int64]int64{}
	for sku, l := range listed {
		byID[l.ID] = units[sku]
	}
	rows, err := tx.PricingRowsOf(slices.Collect(maps.Keys(byID)), now)
	if err != nil {
		return 0, err
	}
	by, err := bands.Buyer.For(site.Code, Parcel(rows, byID))
	if err != nil {
		return 0, err
	}
	at := 0
	for i := range by {
		if by[i].From <= goods {
			at = i
		}
	}
	return by[at].Amount, nil
}

// CantBePosted tells whether an error says that bands of postage can't tell what a parcel
// costs, rather than that something went wrong.
func CantBePosted(err error) bool {
	var missing pricing.Missing
	return errors.Is(err, pricing.ErrNoPostage) || errors.As(err, &missing)
}

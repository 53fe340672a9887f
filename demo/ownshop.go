package demo

import (
	"context"

	"easymargin/internal/house"
	"easymargin/internal/shop"
	"easymargin/internal/stops"
	"easymargin/internal/stops/places"
	"easymargin/internal/store"
)

// ownShopName is what Saltmarsh Kit calls its own shop among its places.
const ownShopName = "Own shop"

// ownShop makes Saltmarsh Kit's own shop: only the payment costs a fee, and its
// categories are called as they are on Quaymarket.
func ownShop(ctx context.Context, h *house.House) error {
	site, err := h.Places.Make(ctx, places.NewPlace{Name: ownShopName, Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%", Commission: "1.4%", Fixed: "0.20", Shop: true,
		Categories: "Camp kitchen > Mugs and cups\nCamp kitchen > Stoves\nCamp kitchen > Pots and pans\nCamp kitchen > Cutlery and boards\nCamp kitchen > Water\n" +
			"Shelter and sleep > Tarps and sheets\nShelter and sleep > Pegs and lines\nShelter and sleep > Mats, quilts, pillows\n" +
			"Hill walking > Packs and sacks\nHill walking > Poles\nHill walking > Maps and compasses\nLight", Charged: "0", Outbound: "0"})
	if err != nil {
		return err
	}
	if err := h.Places.SetTerms(ctx, site.ID, stops.IfMatch{}, terms[ownShopName]); err != nil {
		return err
	}
	return h.Places.SetShop(ctx, stops.IfMatch{}, shop.Looks{
		Name: "Saltmarsh Kit", Motto: "For the camp kitchen and the hill", Colour: "#2F6B5E", Ground: "#FBF9F4",
		Terms: "Parcels leave within two working days and cost 2.95, whatever is in a line of your order.\nWhat you don't like can be sent back within 30 days.",
		About: "Saltmarsh Kit\nThe Old Salt Shed, Fenmouth\npost@saltmarsh.example",
	})
}

// onOwnShop is how many products Saltmarsh Kit has in its own shop.
const onOwnShop = 36

// fillShop lists what sells well on Quaymarket in the own shop too.
func (p *past) fillShop(ctx context.Context) error {
	if err := p.idle(ctx, true); err != nil { // the shop shows pictures of its own
		return err
	}
	found, err := p.Store.OwnCandidates(ctx, p.sites[ownShopName], "", store.Page{Limit: 300})
	if err != nil {
		return err
	}
	all, cast := items(fernhollowRows), map[string]bool{} // what is looked at on the last morning is on Quaymarket alone
	c := theCast()
	for _, n := range []int{c.dearer[0], c.dearer[1], c.soldUp, c.rival} {
		cast[all[n].title()] = true
	}
	var ids []int64
	for i := 2; i < len(found.Rows) && len(ids) < onOwnShop; i += 4 {
		if r := found.Rows[i]; r.Stock > 5 && r.Picture != "" && !cast[r.Title] {
			ids = append(ids, r.ProductID)
		}
	}
	if _, err := p.Preparing.Add(ctx, p.sites[ownShopName], ids, ""); err != nil {
		return err
	}
	return p.idle(ctx, true)
}

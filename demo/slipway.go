package demo

import (
	"context"

	"easymargin/internal/stops/places"
)

// slipwayAsks is what The Slipway Board asks for, as Saltmarsh Kit wrote it down
// from its form: a title of 60 characters and up to five square pictures.
const slipwayAsks = `{"title":{"limit":60,"counts":"characters","parts":["brand","series","kind","colour"],"first_to_go":["series"]},
 "description":{"least":20,"limit":1500},
 "attributes":[{"ref":"condition","kind":"choice","need":"needed","values":["New","As new","Used"]},
               {"ref":"collection","kind":"yesno","need":"helps"}],
 "pictures":{"least":1,"most":5,"square":true,"kinds":["jpeg","png"]}}`

// slipway notes The Slipway Board, a notice board with a form of its own: it has
// neither a gateway nor a sheet.
func (p *past) slipway(ctx context.Context) error {
	site, err := p.Places.Make(ctx, places.NewPlace{Name: "The Slipway Board", Country: "GB", Currency: "GBP", TaxWay: "included", TaxRate: "20%",
		Commission: "0%", Fixed: "0.30", ByHand: true, Categories: "For the kitchen\nFor the hill", Charged: "0", Outbound: "0"})
	if err != nil {
		return err
	}
	for _, category := range []string{"For the kitchen", "For the hill"} {
		if err := p.Preparing.WriteDemand(ctx, site.ID, category, slipwayAsks); err != nil {
			return err
		}
	}
	return nil
}

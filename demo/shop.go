package demo

import (
	"context"
	"errors"
	"fmt"

	"easymargin/internal/app"
	"easymargin/internal/sim"
)

// places are where Saltmarsh Kit sells, by the path of their gateways.
var places = []struct{ name, path string }{{"Quaymarket", ""}, {"Lantern Row", LanternPath}, {"Copperfold", CopperfoldPath}, {"Saltmarsh Kit's own shop", OwnShopPath}}

// terms are what Saltmarsh Kit charges and pays on each site.
var terms = map[string]app.SiteTerms{
	"Quaymarket GB":  {Charged: "0.00", Outbound: "2.85"},
	"Quaymarket IE":  {Charged: "3.50", Outbound: "7.40", Cushion: "1.5%"},
	"Quaymarket DE":  {Charged: "3.90", Outbound: "8.20", Cushion: "1.5%"},
	"Lantern Row GB": {Charged: "2.49", Outbound: "2.85", Allowances: []app.SiteAllowance{{Name: "returns", Of: "item", Rate: "2%"}}},
	"Lantern Row US": {Charged: "6.00", Outbound: "11.50", Handling: "0.40", Cushion: "2%", Allowances: []app.SiteAllowance{{Name: "advertising", Of: "total", Rate: "3%"}}},
	"Copperfold JP":  {Charged: "600", Outbound: "2100", Cushion: "3%"},
	"Copperfold NO":  {Charged: "49.00", Outbound: "119.00", Cushion: "2%"},
	"Own shop":       {Charged: "2.95", Outbound: "2.85"},
}

// Shop sets Saltmarsh Kit up in an empty data folder: Quaymarket connected, the
// suppliers' addresses known, nothing brought in yet. Where the shop is there
// already it only follows the stand-ins to where they are now. market and
// suppliers are their addresses, such as http://127.0.0.1:8641.
func Shop(ctx context.Context, a *app.App, market, suppliers string) error {
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return err
	}
	if len(sites) > 0 {
		var errs []error
		for _, p := range places {
			errs = append(errs, a.Store.MoveMarketplace(ctx, p.name, market+p.path))
		}
		return errors.Join(append(errs, a.Store.MoveSource(ctx, "Fernhollow Wholesale", suppliers+FernhollowPath),
			a.Store.MoveSource(ctx, "Tidewrack Clearance", suppliers+TidewrackPath), a.MoveRates(ctx, suppliers+sim.RatesPath))...)
	}
	for _, p := range places {
		made, err := a.Connect(ctx, p.name, market+p.path)
		if err != nil {
			return fmt.Errorf("connecting %s: %w", p.name, err)
		}
		for _, s := range made {
			if err := a.SetTerms(ctx, s.ID, terms[s.Name]); err != nil {
				return err
			}
		}
	}
	if _, err := a.FetchRates(ctx, suppliers+sim.RatesPath); err != nil {
		return err
	}
	for _, s := range []app.NewSource{
		{Supplier: "Fernhollow Wholesale", Address: suppliers + FernhollowPath, Currency: "GBP"},
		{Supplier: "Tidewrack Clearance", Address: suppliers + TidewrackPath, Currency: "GBP", Charge: "3.95", FreeFrom: "25.00"},
	} {
		if _, err := a.MakeSource(ctx, s); err != nil {
			return err
		}
	}
	return nil
}

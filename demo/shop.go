package demo

import (
	"context"
	"errors"
	"fmt"

	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/sources"
)

// markets are where Saltmarsh Kit sells, by the path of their gateways.
var markets = []struct{ name, path string }{
	{"Quaymarket", ""},
	{"Lantern Row", LanternPath},
	{"Copperfold", CopperfoldPath},
}

// terms are what Saltmarsh Kit charges and pays on each site.
var terms = map[string]stops.SiteTerms{
	"Quaymarket GB":  {Charged: "0.00", Outbound: "2.85"},
	"Quaymarket IE":  {Charged: "3.50", Outbound: "7.40", Cushion: "1.5%"},
	"Quaymarket DE":  {Charged: "3.90", Outbound: "8.20", Cushion: "1.5%"},
	"Lantern Row GB": {Charged: "2.49", Outbound: "2.85", Allowances: []stops.SiteAllowance{{Name: "returns", Of: "item", Rate: "2%"}}},
	"Lantern Row US": {
		Charged:    "6.00",
		Outbound:   "11.50",
		Handling:   "0.40",
		Cushion:    "2%",
		Allowances: []stops.SiteAllowance{{Name: "advertising", Of: "total", Rate: "3%"}},
	},
	"Copperfold JP": {Charged: "600", Outbound: "2100", Cushion: "3%"},
	"Copperfold NO": {Charged: "49.00", Outbound: "119.00", Cushion: "2%"},
	"Own shop":      {Charged: "2.95", Outbound: "2.85"},
}

// SuppliersHost is what the suppliers' side of the demo is called in addresses,
// wherever it listens.
const SuppliersHost = "suppliers.example"

const suppliersURL = "http://" + SuppliersHost

// Shop sets Saltmarsh Kit up in an empty data folder: its marketplaces connected,
// the suppliers' addresses known, nothing brought in yet. Where the shop is there
// already it only follows the marketplaces to where they are now: market is their
// address, such as http://127.0.0.1:8641.
func Shop(ctx context.Context, h *house.House, market string) error {
	sites, err := h.Store.Sites(ctx)
	if err != nil {
		return err
	}
	if len(sites) > 0 {
		var errs []error
		for _, p := range markets {
			errs = append(errs, h.Store.MoveMarketplace(ctx, p.name, market+p.path))
		}
		return errors.Join(errs...)
	}
	for _, p := range markets {
		made, err := h.Places.Connect(ctx, p.name, market+p.path)
		if err != nil {
			return fmt.Errorf("connecting %s: %w", p.name, err)
		}
		for _, s := range made {
			if err := h.Places.SetTerms(ctx, s.ID, stops.IfMatch{}, terms[s.Name]); err != nil {
				return err
			}
		}
	}
	if err := ownShop(ctx, h); err != nil {
		return fmt.Errorf("making the own shop: %w", err)
	}
	if _, err := h.Prices.FetchRates(ctx, suppliersURL+sim.RatesPath); err != nil {
		return err
	}
	for _, s := range []sources.NewSource{
		{Supplier: "Fernhollow Wholesale", Address: suppliersURL + FernhollowPath, Currency: "GBP", Charge: "0", Tax: "without"},
		{Supplier: "Tidewrack Clearance", Address: suppliersURL + TidewrackPath, Currency: "GBP", Tax: "without", Charge: "3.95", FreeFrom: "25.00"},
	} {
		if _, err := h.Sources.Make(ctx, s); err != nil {
			return err
		}
	}
	return nil
}

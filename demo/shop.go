package demo

import (
	"context"
	"fmt"

	"easymargin/internal/app"
)

// Shop sets Saltmarsh Kit up in an empty data folder: Quaymarket connected,
// Fernhollow's address known, nothing brought in yet. Where the shop is there
// already it only follows the stand-ins to where they are now.
func Shop(ctx context.Context, a *app.App, market, fernhollow string) error {
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return err
	}
	if len(sites) > 0 {
		return a.Store.MoveAddresses(ctx, "Quaymarket", market, "Fernhollow Wholesale", fernhollow)
	}
	made, err := a.Connect(ctx, "Quaymarket", market)
	if err != nil {
		return fmt.Errorf("connecting Quaymarket: %w", err)
	}
	for _, s := range made {
		if err := a.SetTerms(ctx, s.ID, "0.00", "2.85"); err != nil {
			return err
		}
	}
	_, err = a.MakeSource(ctx, app.NewSource{Supplier: "Fernhollow Wholesale", Address: fernhollow, Currency: "GBP"})
	return err
}

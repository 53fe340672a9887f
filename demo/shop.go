package demo

import (
	"context"
	"errors"
	"fmt"

	"easymargin/internal/app"
)

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
		return errors.Join(a.Store.MoveAddresses(ctx, "Quaymarket", market, "Fernhollow Wholesale", suppliers+FernhollowPath),
			a.Store.MoveAddresses(ctx, "Quaymarket", market, "Tidewrack Clearance", suppliers+TidewrackPath))
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
	for from, rate := range map[string]string{"EUR": "0.8612", "USD": "0.7904"} {
		if err := a.SetRate(ctx, from, "GBP", rate); err != nil {
			return err
		}
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

package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/store"
)

// Promised is in the supplier's items, the units of a product taken together and
// rounded up once for each way it is packed.
func TestPromisedIsInItemsRoundedUp(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := context.Background()
	require.NoError(t, s.Do(ctx, func(tx store.Tx) error {
		sup, err := tx.SupplierNamed("Fernhollow", time.Now())
		if err != nil {
			return err
		}
		src := store.Source{SupplierID: sup.ID, Name: "list", Currency: "GBP"}
		if err := tx.Create(&src); err != nil {
			return err
		}
		for i := range 2 {
			sp := store.SupplierProduct{SourceID: src.ID, Ref: string(rune('A' + i)), Currency: "GBP"}
			if err := tx.Create(&sp); err != nil {
				return err
			}
		}
		m := store.Marketplace{Name: "Quaymarket"}
		if err := tx.Create(&m); err != nil {
			return err
		}
		site := store.Site{MarketplaceID: m.ID, Code: "GB", Name: "Quaymarket GB", Currency: "GBP"}
		if err := tx.Create(&site); err != nil {
			return err
		}
		o := store.Order{SiteID: site.ID, Ref: "1", Origin: store.OrderTyped, Currency: "GBP"}
		if err := tx.Create(&o); err != nil {
			return err
		}
		line := func(ref string, product, quantity, units, bought int64, promised bool) error {
			return tx.Create(&store.OrderLine{OrderID: o.ID, Ref: ref, SKU: ref, Quantity: quantity, Price: 1, State: store.LineNew, Units: units, UnitsBought: bought,
				SupplierProductID: &product, Promised: promised})
		}
		for _, err := range []error{
			line("1", 1, 1, 1, 6, true), line("2", 1, 4, 1, 6, true), // five of a box of six: one box
			line("3", 1, 1, 2, 6, true),  // and two more: two boxes
			line("4", 1, 9, 1, 6, false), // missing from a feed already
			line("5", 2, 3, 2, 1, true),
			line("6", 2, 1, 1, 4, true), line("7", 2, 1, 1, 4, true),
			tx.SetOrderLines([]int64{6, 7}, map[string]any{"state": store.LineBought, "bought_at": time.Now()}), // a box each, bought apart
		} {
			if err != nil {
				return err
			}
		}
		return nil
	}))
	got, err := s.Reading(ctx).Promised()
	require.NoError(t, err)
	assert.Equal(t, map[int64]int64{1: 2, 2: 8}, got)
}

package preparing

import (
	"context"
	"strings"

	"easymargin/core/listing"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SetSKU gives a listing a SKU of its own. One that was ever handed over keeps
// its own: the place knows it by that.
func (st *Stop) SetSKU(ctx context.Context, id int64, sku string) error {
	sku = strings.TrimSpace(sku)
	if code := listing.CheckSKU(sku); code != "" {
		return fault.At("sku", "%s", reckon.ProblemWords(listing.Problem{Field: "SKU", Code: code}))
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		x, err := load(tx, id)
		if err != nil {
			return err
		}
		if x.listing.SKU == sku {
			return nil
		}
		handed, err := tx.EverHandedOver(id)
		if err != nil {
			return err
		}
		if handed {
			return fault.New(fault.Conflict, "%s was handed over under this SKU: %s knows it by that", x.listing.SKU, x.site.Name)
		}
		taken, err := tx.SKUTaken(x.site.ID, sku)
		if err != nil {
			return err
		}
		if taken {
			return fault.At("sku", "%s has a listing %s already", x.site.Name, sku)
		}
		tx.Changed("prepare", "listings", "products")
		return stops.First(tx.SetListing(st.Now(), id, map[string]any{"sku": sku}), tx.Note(st.Now(), "SKU changed", x.listing.SKU, sku))
	})
}

package matching

import (
	"context"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SKUPattern is how SKUs are made, with what the next would be for real rows.
type SKUPattern struct {
	Pattern string      `json:"pattern"`
	Shown   []SKUSample `json:"shown" doc:"What the next supplier products would get"`
}

// SKUSample is what one row would get.
type SKUSample struct {
	Ref   string `json:"ref"`
	Title string `json:"title"`
	SKU   string `json:"sku"`
}

// TrySKUs shows what a pattern would make of real rows; "" is the one in use.
func (st *Stop) TrySKUs(ctx context.Context, pattern string) (SKUPattern, error) {
	tx := st.Store.Reading(ctx)
	now, last, err := stops.SKUState(tx)
	if err != nil {
		return SKUPattern{}, err
	}
	if pattern == "" {
		pattern = now
	}
	if err := stops.CheckSKUPattern(pattern); err != nil {
		return SKUPattern{}, err
	}
	rows, err := tx.SampleItems(6)
	if err != nil {
		return SKUPattern{}, err
	}
	out := SKUPattern{pattern, []SKUSample{}}
	for _, r := range rows {
		said, err := r.Product()
		if err != nil {
			return out, err
		}
		supplier, err := tx.SupplierName(r.SourceID)
		if err != nil {
			return out, err
		}
		last++
		w := stops.SKUWords{Supplier: supplier, Brand: r.Brand, Variant: said.Colour + said.Size, Ref: r.Ref, Number: last}
		out.Shown = append(out.Shown, SKUSample{r.Ref, r.Title, stops.RenderSKU(pattern, w)})
	}
	return out, nil
}

// SetSKUs sets the pattern. SKUs that were given stay.
func (st *Stop) SetSKUs(ctx context.Context, pattern string) error {
	if err := stops.CheckSKUPattern(pattern); err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.PutSetting(stops.SKUPatternSetting, pattern); err != nil {
			return err
		}
		return tx.Note(st.Now(), "SKU pattern set", pattern, "")
	})
}

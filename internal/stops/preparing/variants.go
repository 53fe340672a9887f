package preparing

import (
	"context"
	"slices"

	"easymargin/core/listing"
	"easymargin/internal/reckon"
)

// VariantGrid are the variants of a product on one site, by what sets them apart.
type VariantGrid struct {
	Group string       `json:"group" doc:"What joins them there; empty: it is no variant"`
	Axes  []Axis       `json:"axes"`
	Rows  []VariantRow `json:"rows"`
}

// Axis is one thing that sets variants apart.
type Axis struct {
	Field  string   `json:"field" doc:"Such as attributes.colour"`
	Values []string `json:"values" doc:"That the place knows; none: any"`
}

// VariantRow is one variant.
type VariantRow struct {
	ID       int64    `json:"id" doc:"Of its listing; 0: it isn't listed there"`
	Product  int64    `json:"product"`
	SKU      string   `json:"sku"`
	Variant  string   `json:"variant" doc:"As the supplier sets it apart"`
	Sold     bool     `json:"sold"`
	State    string   `json:"state"`
	Values   []string `json:"values" doc:"An axis each"`
	Wrong    []string `json:"wrong" doc:"What is wrong with each, in words"`
	Number   string   `json:"number"`
	Currency string   `json:"currency"`
	Price    *int64   `json:"price"`
	Fixed    bool     `json:"fixed" doc:"The price was fixed by hand"`
	Profit   *int64   `json:"profit"`
	Stock    int64    `json:"stock" doc:"Of the supplier that it is worked out from"`
	Stops    int      `json:"stops"`
	Picture  string   `json:"picture" doc:"Digest"`
}

// Variants are those of a listing's product on its site.
func (st *Stop) Variants(ctx context.Context, id int64) (VariantGrid, error) {
	out := VariantGrid{Axes: []Axis{}, Rows: []VariantRow{}}
	tx := st.Store.Reading(ctx)
	x, err := load(tx, id)
	if err != nil {
		return out, err
	}
	asked, err := x.asking.For(x.listing.Category)
	if err != nil {
		return out, err
	}
	for i := range asked.Needs.Attributes {
		if a := &asked.Needs.Attributes[i]; slices.Contains(reckon.Axes, a.Ref) {
			out.Axes = append(out.Axes, Axis{"attributes." + a.Ref, append([]string{}, a.Values...)})
		}
	}
	out.Group = reckon.Group(x.material)
	family, err := tx.FamilyOn(x.listing.ProductID, x.site.ID)
	if err != nil {
		return out, err
	}
	var ids []int64
	for _, v := range family {
		if v.ListingID != 0 {
			ids = append(ids, v.ListingID)
		}
	}
	list, err := loadAll(tx, ids)
	if err != nil {
		return out, err
	}
	by := map[int64]*loaded{}
	for _, y := range list {
		by[y.listing.ID] = y
	}
	for _, v := range family {
		row := VariantRow{ID: v.ListingID, Product: v.ProductID, SKU: v.SKU, Variant: v.Variant, Values: make([]string, len(out.Axes)), Wrong: make([]string, len(out.Axes))}
		if y := by[v.ListingID]; y != nil {
			if err := y.variant(&row, out.Axes); err != nil {
				return out, err
			}
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// variant fills the row of a variant that is listed.
func (x *loaded) variant(row *VariantRow, axes []Axis) error {
	p, err := x.asking.Prepare(x.material, &x.listing)
	if err != nil {
		return err
	}
	l := &x.listing
	row.Sold, row.State, row.Number, row.Currency, row.Price, row.Profit = !l.Unwanted, l.State, p.Values.Number, l.Currency, l.Price, l.Profit
	row.Fixed, row.Stops, row.Stock = l.FixedPrice != nil, p.Stops(), x.material.Item.Stock.Count
	if len(p.Pictures) > 0 {
		row.Picture = p.Pictures[0].Digest
	}
	wrong := problemsOf(&p)
	for i, a := range axes {
		row.Values[i] = p.At(a.Field)
		if y, ok := wrong[a.Field]; ok && y.Level == listing.Stops {
			row.Wrong[i] = reckon.ProblemWords(y)
		}
	}
	return nil
}

package stops

import (
	"encoding/json"

	"easymargin/core/ident"
	"easymargin/core/match"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Bought is a supplier product as core/match has it.
func Bought(p *store.SupplierProduct) (match.Product, error) {
	said, err := p.Product()
	if err != nil {
		return match.Product{}, err
	}
	return match.Product{
		GTIN: p.GTIN, Guessed: p.GTINStatus == string(ident.WhyLeadingZeros),
		Thing: match.Thing{
			Title: p.Title, Brand: p.Brand, MPN: said.MPN, Category: p.Category, Colour: said.Colour, Size: said.Size, Material: said.Material,
			Condition: said.Condition, Description: said.Description, Units: p.UnitsPerItem, Price: p.Cost, Currency: p.Currency,
		},
	}, nil
}

// Listed is an entry as core/match has it. given are the categories that there
// is leave to sell in.
func Listed(e *store.Entry, currency string, given map[string]bool) match.Entry {
	lowest := int64(0)
	var offers []place.Offer
	if e.Offers != "" && json.Unmarshal([]byte(e.Offers), &offers) == nil {
		for _, o := range offers {
			if total := o.Item + o.Delivery; !o.Ours && (lowest == 0 || total < lowest) {
				lowest = total
			}
		}
	}
	numbers := e.GTINs
	if e.GTIN != "" {
		numbers = append([]string{e.GTIN}, numbers...)
	}
	return match.Entry{
		Ref: e.Ref, GTINs: numbers, Closed: e.Closed, ByLeave: e.NeedsLeave && !given[e.Category],
		Thing: match.Thing{
			Title: e.Title, Brand: e.Brand, MPN: e.MPN, Category: e.Category, Colour: e.Colour, Size: e.Size, Material: e.Material, Units: e.Units,
			Price: lowest, Currency: currency,
		},
	}
}

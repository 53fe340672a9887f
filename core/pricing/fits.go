package pricing

import (
	"slices"
	"strings"
)

// Facts are what a rule may look at of a product.
type Facts struct {
	SKU        string
	Supplier   string
	Brand      string
	Categories []string // the entry's category and those above it, by ref
	Landed     int64    // landed cost, minor units of the site's currency
	Weight     int64    // grams packed; 0: unknown
	Warehouse  bool     // sent by the marketplace's warehouse
}

// Fits says which products a rule is for. Empty parts ask nothing; those that
// are there must all hold. A bound on the weight doesn't fit an unknown one.
type Fits struct {
	SKUs       []string
	Suppliers  []string
	Brands     []string
	Categories []string
	CostFrom   *int64 // landed cost, minor units, both ends in it
	CostTo     *int64
	WeightFrom int64 // grams; 0: no bound
	WeightTo   int64
}

// Fit tells whether the product is one of those meant. Names are compared
// without regard to case.
func (f *Fits) Fit(p *Facts) bool {
	among := func(list []string, v string) bool {
		return len(list) == 0 || slices.ContainsFunc(list, func(x string) bool { return strings.EqualFold(x, v) })
	}
	switch {
	case !among(f.SKUs, p.SKU), !among(f.Suppliers, p.Supplier), !among(f.Brands, p.Brand):
		return false
	case len(f.Categories) > 0 && !slices.ContainsFunc(f.Categories, func(c string) bool { return slices.Contains(p.Categories, c) }):
		return false
	case f.CostFrom != nil && p.Landed < *f.CostFrom, f.CostTo != nil && p.Landed > *f.CostTo:
		return false
	case (f.WeightFrom > 0 || f.WeightTo > 0) && p.Weight <= 0, p.Weight < f.WeightFrom, f.WeightTo > 0 && p.Weight > f.WeightTo:
		return false
	}
	return true
}

// First is the first of several rules that fits, or -1.
func First(rules []Fits, p *Facts) int {
	return slices.IndexFunc(rules, func(f Fits) bool { return f.Fit(p) })
}

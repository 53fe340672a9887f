package prices

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// ofWhat says what a fee is taken of.
var ofWhat = map[pricing.Base]string{
	pricing.OfItem:     "of the item price",
	pricing.OfTotal:    "of item and delivery",
	pricing.OfTotalTax: "of all the buyer pays, tax too",
}

// showFee is one fee as it is drawn.
func showFee(f pricing.Fee, c money.Currency) FeeShown {
	show := func(v int64) string { return money.Of(v, c).String() }
	out := FeeShown{Name: f.Name, Of: ofWhat[f.Of], Bands: []BandShown{}}
	if len(f.Bands) == 0 && f.Rate > 0 {
		out.Rate = f.Rate.String()
	}
	highest, said := money.Rate(1), []string{}
	for _, b := range f.Bands {
		highest = max(highest, b.Rate)
	}
	for i, b := range f.Bands {
		band := BandShown{Rate: b.Rate.String(), To: "above", Share: int64(b.Rate * 100 / highest)}
		words := band.Rate
		if b.Fixed > 0 {
			band.Rate, words = band.Rate+" + "+show(b.Fixed), band.Rate+" and "+show(b.Fixed)
		}
		if i < len(f.Bands)-1 {
			band.To = "to " + show(b.To)
			words += " up to " + show(b.To)
		} else {
			words += " above"
		}
		out.Bands, said = append(out.Bands, band), append(said, words)
	}
	switch {
	case len(f.Bands) > 0 && f.Banding == pricing.Slices:
		out.Of = "each slice at its own rate, " + out.Of
	case len(f.Bands) > 0:
		out.Of = "all of it at the rate it falls in, " + out.Of
	case out.Rate == "":
		out.Of = ""
	}
	var also []string
	if f.Fixed > 0 {
		also = append(also, show(f.Fixed)+" each")
	}
	if f.Least != nil {
		also = append(also, "at least "+show(*f.Least))
	}
	if f.Most != nil {
		also = append(also, "at most "+show(*f.Most))
	}
	if f.Tax != nil {
		also = append(also, "with "+f.Tax.String()+" tax that can't be reclaimed")
	}
	out.Said, out.Also = strings.Join(said, ", "), strings.Join(also, ", ")
	return out
}

// markChanged marks the fees that the version before had otherwise, or not at all.
func markChanged(fees, before []FeeShown) {
	for i := range fees {
		fees[i].Changed = !slices.ContainsFunc(before, func(b FeeShown) bool {
			b.Changed = false
			return reflect.DeepEqual(b, fees[i])
		})
	}
}

// showWarehouse is what a warehouse takes, step by step.
func showWarehouse(w pricing.Warehouse, c money.Currency) *StoreShown {
	out := &StoreShown{Name: w.Name, Steps: []StepShown{}}
	for _, s := range w.Steps {
		step := StepShown{Name: s.Name, Fits: fitsStep(s), Fee: money.Of(s.Fee, c).String()}
		if s.HalfKilo > 0 {
			step.Also = fmt.Sprintf("and %s per ½ kg over %d g", money.Of(s.HalfKilo, c), s.Over)
		}
		out.Steps = append(out.Steps, step)
	}
	return out
}

// fitsStep says what fits a step of a warehouse's fees.
func fitsStep(s pricing.Step) string {
	sides := []string{}
	for _, v := range []int64{s.Longest, s.Median, s.Shortest} {
		if v == 0 {
			sides = append(sides, "any")
		} else {
			sides = append(sides, fmt.Sprint(v))
		}
	}
	for len(sides) > 0 && sides[len(sides)-1] == "any" {
		sides = sides[:len(sides)-1]
	}
	var all []string
	if len(sides) > 0 {
		all = append(all, strings.Join(sides, " × ")+" mm")
	}
	if s.Girth > 0 {
		all = append(all, fmt.Sprintf("%d mm around", s.Girth))
	}
	if s.Weight > 0 {
		all = append(all, fmt.Sprintf("%d g", s.Weight))
	}
	if all == nil {
		return "anything else"
	}
	return "up to " + strings.Join(all, ", ")
}

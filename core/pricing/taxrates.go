package pricing

import (
	"fmt"

	"easymargin/core/money"
)

// TaxRate is a rate of tax in what buyers of a country pay, from a day on.
type TaxRate struct {
	Country string     `json:"country,omitempty"` // ISO 3166-1 alpha-2; "": every country without rates of its own
	From    string     `json:"from,omitempty"`    // YYYY-MM-DD, this day in it; "": always
	Rate    money.Rate `json:"rate"`
}

// TaxRates are rates of tax by country and day, in any order.
type TaxRates []TaxRate

// Check says what rates can't mean. The error names the field.
func (r TaxRates) Check() error {
	seen := map[[2]string]bool{}
	for i, x := range r {
		key := [2]string{x.Country, x.From}
		switch {
		case x.Country != "" && !country.MatchString(x.Country):
			return fmt.Errorf("[%d].country: %q is no country by its two letters, such as GB", i, x.Country)
		case x.From != "" && !day.MatchString(x.From):
			return fmt.Errorf("[%d].from: %q is not a day such as 2027-01-01", i, x.From)
		case x.Rate < 0 || x.Rate > money.One:
			return fmt.Errorf("[%d].rate: must be between 0 and 100%%", i)
		case seen[key]:
			return fmt.Errorf("[%d]: says another rate for the same country and day", i)
		}
		seen[key] = true
	}
	return nil
}

// On is the rate that holds for a buyer's country on a day: the latest that began for
// the country; else the latest that began for every other; else usual.
func (r TaxRates) On(country, day string, usual money.Rate) money.Rate {
	for _, of := range []string{country, ""} {
		best := -1
		for i, x := range r {
			if x.Country == of && x.From <= day && (best < 0 || x.From > r[best].From) {
				best = i
			}
		}
		if best >= 0 {
			return r[best].Rate
		}
	}
	return usual
}

package listing

import (
	"fmt"
	"unicode/utf8"

	"easymargin/core/money"
)

// Terms are the delivery, return, handling and fulfilment answers that many
// listings on one site share. Amounts are texts in major units of the site's
// currency. The zero value promises nothing.
type Terms struct {
	Delivery      []Delivery `json:"delivery,omitempty" maxItems:"20"`
	HandlingDays  int64      `json:"handling_days,omitempty" minimum:"0" maximum:"60" doc:"Working days until it is sent"`
	From          string     `json:"from,omitempty" maxLength:"120" doc:"Where it is sent from"`
	Collection    bool       `json:"collection,omitempty" doc:"Buyers may fetch it"`
	ReturnsDays   int64      `json:"returns_days,omitempty" minimum:"0" maximum:"366"`
	ReturnsPaid   bool       `json:"returns_paid,omitempty" doc:"We pay for sending it back"`
	Warranty      string     `json:"warranty,omitempty" maxLength:"300"`
	Invoice       bool       `json:"invoice,omitempty"`
	Condition     string     `json:"condition,omitempty" maxLength:"80" doc:"Where a listing says none"`
	ConditionNote string     `json:"condition_note,omitempty" maxLength:"1000"`
	Days          int64      `json:"days,omitempty" minimum:"0" maximum:"366" doc:"It stays up so long; 0: until it is ended"`
	Offers        bool       `json:"offers,omitempty" doc:"Buyers may offer less"`
	LeastOffer    string     `json:"least_offer,omitempty" maxLength:"12" doc:"Of the price, as a percentage; the lowest that is accepted is never under the floor"`
}

// Delivery is one way in which a buyer can have it delivered.
type Delivery struct {
	Name   string `json:"name" maxLength:"80"`
	Charge string `json:"charge,omitempty" maxLength:"20" doc:"Left out: free"`
	Least  int64  `json:"least,omitempty" minimum:"0" maximum:"90" doc:"Working days it takes"`
	Most   int64  `json:"most,omitempty" minimum:"0" maximum:"90"`
}

// Valid tells what is wrong with terms, in a currency.
func (t *Terms) Valid(c money.Currency) error {
	for i := range t.Delivery {
		d := &t.Delivery[i]
		switch {
		case clean(d.Name) == "":
			return fmt.Errorf("delivery %d has no name", i+1)
		case d.Most > 0 && d.Least > d.Most:
			return fmt.Errorf("%s takes at least %d days and at most %d", d.Name, d.Least, d.Most)
		}
		if d.Charge != "" {
			if v, err := money.Parse(d.Charge, c); err != nil || v.Minor < 0 {
				return fmt.Errorf("%s: %q is not an amount in %s such as %s", d.Name, d.Charge, c, money.Of(395, c))
			}
		}
	}
	switch {
	case t.LeastOffer != "" && !t.Offers:
		return fmt.Errorf("buyers may make no offers, so there is no lowest one")
	case utf8.RuneCountInString(t.Warranty) > 300:
		return fmt.Errorf("a warranty has at most 300 characters")
	}
	if t.LeastOffer != "" {
		if r, err := money.ParseRate(t.LeastOffer); err != nil || r <= 0 || r > money.One {
			return fmt.Errorf("%q is not a percentage of the price such as 85%%", t.LeastOffer)
		}
	}
	return nil
}

// Lowest is the lowest offer that is accepted at a price, minor units: the share
// of it, rounded up, and never under the floor; false where no offers are taken.
func (t *Terms) Lowest(price, floor int64) (int64, bool) {
	if !t.Offers {
		return 0, false
	}
	lowest := price
	if r, err := money.ParseRate(t.LeastOffer); err == nil && t.LeastOffer != "" {
		lowest = (price*int64(r) + int64(money.One) - 1) / int64(money.One)
	}
	return min(max(lowest, floor), price), true
}

// Said is what terms answer where a listing is asked and says nothing.
func (t *Terms) Said(ref string) string {
	days := func(n int64) string {
		if n == 0 {
			return ""
		}
		return fmt.Sprint(n)
	}
	switch ref {
	case "condition":
		return t.Condition
	case "condition_note":
		return t.ConditionNote
	case "warranty":
		return t.Warranty
	case "handling_days":
		return days(t.HandlingDays)
	case "returns_days":
		return days(t.ReturnsDays)
	case "dispatched_from":
		return t.From
	}
	return ""
}

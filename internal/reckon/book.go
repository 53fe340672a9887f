// Package reckon is the one builder of figures: from what a listing's supply,
// place and rule are, through the rules in core, to its price, its offer and
// the lines of its plan. Whatever shows a figure asks it; and it works out what
// has changed, in the order in which it matters.
package reckon

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/pricing/written"
	"easymargin/core/sieve"
	"easymargin/core/supply"
	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// DayForm is how days are written, ISO 8601.
const DayForm = "2006-01-02"

// Book is all that a site's prices are worked out from, read once. It is for
// one goroutine.
type Book struct {
	Site      store.Site
	Currency  money.Currency
	Rules     []Ruled // in order; the last holds for all the rest
	Schedules *pricing.Schedules
	Rates     map[string]money.FX
	RateDays  map[string]string
	Now       time.Time
	Day       string                    // whose fees hold
	Follows   Following                 // what holds where no rule says otherwise
	Reports   map[int64][]supply.Report // what feeds said of supplier products, oldest first, where that matters
	Promised  map[int64]int64           // items of supplier products that are sold and not missing from a feed yet

	asking *Asking // nil where listings have no content of our own

	taxRates pricing.TaxRates // by country and day, before the site's one
	postage  Postage          // bands in the place of what the site says for all

	split bool // a rule sets other figures of stock than its site

	allow []pricing.Allowance
	terms map[termsKey]*pricing.Terms
	lines []pricing.Line // room for one quote
}

// Ruled is a price rule made ready.
type Ruled struct {
	ID   int64 // 0: a listing's own
	Name string
	Fits pricing.Fits
	In   sieve.Tests // what its products must go through besides
	Wish pricing.Wish
	Own  Follow // what it sets otherwise than its site
	Runs string // store.ByHand, store.Alone; "" as its site
}

// Stands tells whether the rule looks at rivals.
func (r *Ruled) Stands() bool {
	return r.Wish.Market.Stance != "" && r.Wish.Market.Stance != pricing.Ignore
}

// LooksAtRivals tells whether what others ask decides which products the rule
// is for, or their price.
func (r *Ruled) LooksAtRivals() bool { return r.Stands() || r.In.Looks("lowest", "leading", "sellers") }

// Sieved has a rule be for the products in a sieve. Its sieve may look at facts
// only: where it looked at what follows from prices, the rule would change what
// it looks at.
func (r *Ruled) Sieved(tx store.Tx, id int64, c money.Currency) error {
	row, err := tx.SieveOf(id)
	if err != nil {
		return fault.At("fits.sieve", "there is no such sieve")
	}
	if r.In, err = RuleSieve(row.Text, c); err != nil {
		return fault.At("fits.sieve", "the sieve %s: %v", row.Name, err)
	}
	return nil
}

// RuleSieve reads a sieve that a rule can use.
func RuleSieve(text string, c money.Currency) (sieve.Tests, error) {
	s, err := sieve.Read(text)
	if err != nil {
		return nil, err
	}
	if col := s.FactsOnly(store.WeighColumns); col != "" {
		return nil, fmt.Errorf("it looks at %q, which follows from prices or from what is listed; one for a rule looks at facts only",
			strings.ReplaceAll(col, "_", " "))
	}
	return s.Ready(store.WeighColumns, c)
}

// Open reads the book of a site as it is in a transaction, or in the data.
func Open(tx store.Tx, site store.Site, now time.Time) (*Book, error) {
	b := &Book{Site: site, Currency: money.Currency(site.Currency), Now: now, Day: now.Format(DayForm),
		Rates: map[string]money.FX{}, RateDays: map[string]string{}, terms: map[termsKey]*pricing.Terms{}}
	var err error
	if b.Follows, err = followingOf(site); err != nil {
		return nil, err
	}
	if b.taxRates, err = site.ReadTaxRates(); err != nil {
		return nil, err
	}
	if b.postage, err = ReadPostage(site); err != nil {
		return nil, err
	}
	rules, err := tx.Rules(site.ID)
	if err != nil {
		return nil, fmt.Errorf("reading the price rules of %s: %w", site.Name, err)
	}
	for _, row := range rules {
		r, err := ReadRule(row, b.Currency)
		if err != nil {
			return nil, fmt.Errorf("the price rule %q of %s: %w", row.Name, site.Name, err)
		}
		if row.SieveID != nil {
			if err := r.Sieved(tx, *row.SieveID, b.Currency); err != nil {
				return nil, fmt.Errorf("the price rule %q of %s: %w", row.Name, site.Name, err)
			}
		}
		b.split = b.split || b.following(&r).Stock != b.Follows.Stock
		b.Rules = append(b.Rules, r)
	}
	cats, err := tx.CategoriesOf(site.ID)
	if err != nil {
		return nil, err
	}
	parent := map[string]string{}
	for _, c := range cats {
		parent[c.Ref] = c.Parent
	}
	schedules, err := SchedulesOf(tx, site)
	if err != nil {
		return nil, err
	}
	b.Schedules = pricing.NewSchedules(parent, schedules)
	if site.Allowances != "" {
		if err := json.Unmarshal([]byte(site.Allowances), &b.allow); err != nil {
			return nil, fmt.Errorf("the allowances of %s: %w", site.Name, err)
		}
	}
	rates, err := tx.Rates()
	for _, r := range rates {
		if r.To == site.Currency {
			b.Rates[r.From], b.RateDays[r.From] = money.FX(r.Rate), r.Day
		}
	}
	if err != nil {
		return nil, err
	}
	b.Promised, err = tx.Promised()
	return b, err
}

// On is the book as its fees are on another day.
func (b *Book) On(day string) *Book {
	then := *b
	then.Day, then.terms = day, map[termsKey]*pricing.Terms{}
	return &then
}

// Under is the book with other rules.
func (b *Book) Under(rules []Ruled) *Book {
	then := *b
	then.Rules, then.split = rules, false
	for i := range rules {
		then.split = then.split || b.following(&rules[i]).Stock != b.Follows.Stock
	}
	return &then
}

// At is the book with other exchange rates into its currency.
func (b *Book) At(rates map[string]money.FX) *Book {
	then := *b
	then.Rates = rates
	return &then
}

// ReadRule makes a kept rule ready.
func ReadRule(row store.PriceRule, c money.Currency) (Ruled, error) {
	out := Ruled{ID: row.ID, Name: row.Name, Runs: row.Runs}
	var err error
	if out.Wish, err = written.ReadWish([]byte(row.Wish), c); err == nil && row.Fits != "" {
		out.Fits, err = written.ReadFits([]byte(row.Fits), c)
	}
	if err == nil {
		out.Own, err = ReadFollow(row.Follows, "the price rule "+row.Name)
	}
	return out, err
}

// SchedulesOf are a site's fee schedules, as the core has them.
func SchedulesOf(tx store.Tx, site store.Site) ([]pricing.Schedule, error) {
	rows, err := tx.FeesOf(site.ID)
	if err != nil {
		return nil, err
	}
	out := make([]pricing.Schedule, len(rows))
	for i, row := range rows {
		if out[i], err = ReadSchedule(row); err != nil {
			return nil, fmt.Errorf("on %s: %w", site.Name, err)
		}
	}
	return out, nil
}

// ReadSchedule is one fee schedule, as the core has it.
func ReadSchedule(row store.FeeSchedule) (pricing.Schedule, error) {
	s := pricing.Schedule{Category: row.Category, StartsOn: row.StartsOn}
	if err := json.Unmarshal([]byte(row.Fees), &s.Fees); err != nil {
		return s, fmt.Errorf("fees for %q: %w", row.Category, err)
	}
	if row.Warehouse != "" {
		if err := json.Unmarshal([]byte(row.Warehouse), &s.Warehouse); err != nil {
			return s, fmt.Errorf("warehouse fees for %q: %w", row.Category, err)
		}
	}
	return s, nil
}

// Asks says how much of the listings the rules look at.
func (b *Book) Asks() store.Asked {
	a := store.Asked{Sizes: b.postage.Looks()}
	for i := range b.Rules {
		a.Sizes = a.Sizes || b.Rules[i].Fits.WeightFrom > 0 || b.Rules[i].Fits.WeightTo > 0 || b.Rules[i].In.Looks("weight")
		a.Offers = a.Offers || b.Rules[i].LooksAtRivals()
		a.Ratings = a.Ratings || b.Rules[i].In.Looks("rating", "rank")
	}
	return a
}

// termsKey is what terms differ by on one site: the category, what the warehouse
// takes of the one product, and what the buyer pays to have it delivered.
type termsKey struct {
	category  string
	warehouse bool
	fee       int64
	step      string
	delivery  string
}

// Sale is one product on one site, as far as fees look at it.
type Sale struct {
	Category  string
	Warehouse bool
	Packed    pricing.Packed
	Posted    pricing.Packed // as postage looks at it
}

// unknownFees says that nothing is known of what a site takes on a day.
type unknownFees struct{ site, day string }

func (e unknownFees) Error() string {
	return fmt.Sprintf("no fees are known for %s on %s; read them again or write them under Price, Fees", e.site, e.day)
}

// Terms are those of a sale; a category without fees of its own uses its
// parent's. By the warehouse, its fee comes first, from the packed size.
func (b *Book) Terms(s Sale) (t *pricing.Terms, step string, err error) {
	key := termsKey{category: s.Category, warehouse: s.Warehouse}
	var stored pricing.Fee
	if s.Warehouse {
		w := b.Schedules.WarehouseOn(s.Category, b.Day)
		if w == nil {
			return nil, "", errors.New(b.Site.Name + " has no warehouse that sends for sellers")
		}
		if stored, key.step, _, err = w.Resolve(s.Packed); err != nil {
			return nil, "", err
		}
		key.fee = stored.Fixed
	}
	rate := b.taxRates.On(b.Site.Code, b.Day, money.Rate(b.Site.TaxRate))
	spec := pricing.Spec{Currency: b.Currency, Delivery: &b.Site.Charged, Allowances: b.allow,
		Tax: pricing.Tax{Way: pricing.TaxWay(b.Site.TaxWay), Rate: rate}}
	if len(b.postage.Buyer) > 0 {
		spec.Delivery = nil
		if spec.Charged, err = b.Delivery(b.Site.Code, s.Posted); err != nil {
			return nil, "", noPostage{err}
		}
		key.delivery = fmt.Sprint(spec.Charged)
	}
	if t, ok := b.terms[key]; ok {
		return t, key.step, nil
	}
	x, ok := b.Schedules.On(s.Category, b.Day)
	if !ok { // a schedule without fees says that there are none; no schedule says nothing
		return nil, "", unknownFees{b.Site.Name, b.Day}
	}
	fees := x.Fees
	if s.Warehouse {
		fees = append(fees[:len(fees):len(fees)], stored)
	}
	spec.Fees = fees
	if t, err = pricing.NewTerms(spec); err == nil {
		b.terms[key] = t
	}
	return t, key.step, err
}

package stops

import (
	"cmp"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// SiteTerms are what holds for all that is sold on a site, texts: amounts in
// major units of its currency, rates as percentages.
type SiteTerms struct {
	Charged       string          `json:"charged" doc:"What the buyer pays for delivery; not looked at where there are bands of it"`
	Outbound      string          `json:"outbound" doc:"What sending one costs us; not looked at where there are bands of it"`
	DeliveryBands []PostageRow    `json:"delivery_bands,omitempty" maxItems:"200" doc:"What the buyer pays, by where it goes, weight, size and price"`
	SendingBands  []PostageRow    `json:"sending_bands,omitempty" maxItems:"200" doc:"What sending a parcel costs us, by where it goes, weight and size"`
	Handling      string          `json:"handling,omitempty" doc:"Our own work for each unit"`
	Cushion       string          `json:"cushion,omitempty" doc:"Put on costs in another currency, for the rate moving"`
	Allowances    []SiteAllowance `json:"allowances,omitempty" doc:"Put by for returns, advertising and the like"`
}

// PostageRow is a band of postage as a person writes it. A bound that is left out
// isn't looked at.
type PostageRow struct {
	To       string `json:"to,omitempty" maxLength:"2" doc:"Country, two letters of ISO 3166-1; empty: every country without bands of its own"`
	Weight   int64  `json:"weight,omitempty" minimum:"0" maximum:"1000000000" doc:"Grams, up to and including"`
	Longest  int64  `json:"longest,omitempty" minimum:"0" maximum:"100000000" doc:"Longest side in millimetres, up to and including"`
	Median   int64  `json:"median,omitempty" minimum:"0" maximum:"100000000" doc:"Middle side in millimetres, up to and including"`
	Shortest int64  `json:"shortest,omitempty" minimum:"0" maximum:"100000000" doc:"Shortest side in millimetres, up to and including"`
	From     string `json:"from,omitempty" maxLength:"40" doc:"Item price from which it holds; empty: any"`
	Amount   string `json:"amount" maxLength:"40"`
}

// SiteAllowance is a share put by.
type SiteAllowance struct {
	Name string `json:"name" minLength:"1" maxLength:"80"`
	Of   string `json:"of" enum:"item,total,total+tax"`
	Rate string `json:"rate"`
}

// Set checks terms that a person wrote, and puts them into a site. Nothing is an
// answer to what a price needs; silence isn't.
func (t SiteTerms) Set(site *store.Site) error {
	cur := money.Currency(site.Currency)
	var silent []*fault.Error
	for _, x := range []struct {
		field, text, words string
		bands              int
		into               *int64
	}{
		{"charged", t.Charged, "say what the buyer pays for delivery; 0 where nothing", len(t.DeliveryBands), &site.Charged},
		{"outbound", t.Outbound, "say what sending one costs you; 0 where nothing", len(t.SendingBands), &site.Outbound},
		{"handling", cmp.Or(t.Handling, "0"), "", 0, &site.Handling},
	} {
		text := strings.TrimSpace(x.text)
		if text == "" && x.bands > 0 {
			text = "0"
		}
		if text == "" {
			silent = append(silent, &fault.Error{Kind: fault.Invalid, Field: x.field, Words: x.words})
			continue
		}
		v, err := Amount(x.field, text, cur)
		if err != nil {
			return err
		}
		*x.into = v
	}
	if err := fault.All(silent); err != nil {
		return err
	}
	site.TermsUnsaid = false
	cushion, err := Share("cushion", cmp.Or(t.Cushion, "0"))
	if err != nil || cushion < 0 {
		return fault.At("cushion", "%q is not a percentage such as 1.5%%", t.Cushion)
	}
	site.Cushion = int64(cushion)
	if err := t.setPostage(site); err != nil {
		return err
	}
	return t.setAllowances(site)
}

func (t SiteTerms) setPostage(site *store.Site) error {
	buyer, err := postage("delivery_bands", t.DeliveryBands, money.Currency(site.Currency))
	if err != nil {
		return err
	}
	ours, err := postage("sending_bands", t.SendingBands, money.Currency(site.Currency))
	if err != nil {
		return err
	}
	for i, b := range ours {
		if b.From != 0 {
			return fault.At(fmt.Sprintf("sending_bands[%d].from", i), "what sending costs you doesn't follow the price; leave it empty")
		}
	}
	// Lists that look at one amount for all take the first band's.
	if len(buyer) > 0 && strings.TrimSpace(t.Charged) == "" {
		site.Charged = buyer[0].Amount
	}
	if len(ours) > 0 && strings.TrimSpace(t.Outbound) == "" {
		site.Outbound = ours[0].Amount
	}
	if site.Postage = ""; len(buyer)+len(ours) > 0 {
		text, err := json.Marshal(reckon.Postage{Buyer: buyer, Ours: ours})
		if err != nil {
			return err
		}
		site.Postage = string(text)
	}
	return nil
}

// postage reads bands that a person wrote; what is wrong is said at its field.
func postage(field string, rows []PostageRow, cur money.Currency) (pricing.Postage, error) {
	out := make(pricing.Postage, len(rows))
	for i, r := range rows {
		out[i] = pricing.PostageBand{To: strings.ToUpper(strings.TrimSpace(r.To)), Weight: r.Weight, Longest: r.Longest, Median: r.Median, Shortest: r.Shortest}
		at := fmt.Sprintf("%s[%d].", field, i)
		if strings.TrimSpace(r.Amount) == "" {
			return nil, fault.At(at+"amount", "say how much; 0 is an answer")
		}
		var err error
		if out[i].Amount, err = Amount(at+"amount", r.Amount, cur); err != nil {
			return nil, err
		}
		if out[i].From, err = Amount(at+"from", cmp.Or(strings.TrimSpace(r.From), "0"), cur); err != nil {
			return nil, err
		}
	}
	if err := out.Check(); err != nil {
		return nil, FieldError(err, field)
	}
	return out, nil
}

func (t SiteTerms) setAllowances(site *store.Site) error {
	allowances := []pricing.Allowance{}
	for i, x := range t.Allowances {
		field := fmt.Sprintf("allowances[%d].rate", i)
		rate, err := Share(field, x.Rate)
		if err != nil || rate < 0 {
			return fault.At(field, "%q is not a percentage such as 2%%", x.Rate)
		}
		allowances = append(allowances, pricing.Allowance{Name: strings.TrimSpace(x.Name), Of: pricing.Base(x.Of), Rate: rate})
	}
	if _, err := pricing.NewTerms(pricing.Spec{Currency: money.Currency(site.Currency), Allowances: allowances}); err != nil {
		return FieldError(err, "")
	}
	text, err := json.Marshal(allowances)
	site.Allowances = string(text)
	return err
}

// TermsOf are a site's terms as a person reads and writes them; what nobody has said
// yet is empty.
func TermsOf(site store.Site) (SiteTerms, error) {
	cur := money.Currency(site.Currency)
	show := func(minor int64) string { return money.Of(minor, cur).String() }
	t := SiteTerms{Charged: show(site.Charged), Outbound: show(site.Outbound), Handling: show(site.Handling),
		Cushion: money.Rate(site.Cushion).String(), Allowances: []SiteAllowance{}, DeliveryBands: []PostageRow{}, SendingBands: []PostageRow{}}
	if site.TermsUnsaid {
		t.Charged, t.Outbound = "", ""
	}
	if site.Allowances != "" {
		var list []pricing.Allowance
		if err := json.Unmarshal([]byte(site.Allowances), &list); err != nil {
			return t, fmt.Errorf("the allowances of %s: %w", site.Name, err)
		}
		for _, a := range list {
			t.Allowances = append(t.Allowances, SiteAllowance{a.Name, string(a.Of), a.Rate.String()})
		}
	}
	bands, err := reckon.ReadPostage(site)
	if err != nil {
		return t, err
	}
	written := func(list pricing.Postage) []PostageRow {
		out := []PostageRow{}
		for _, b := range list {
			row := PostageRow{To: b.To, Weight: b.Weight, Longest: b.Longest, Median: b.Median, Shortest: b.Shortest, Amount: show(b.Amount)}
			if b.From > 0 {
				row.From = show(b.From)
			}
			out = append(out, row)
		}
		return out
	}
	t.DeliveryBands, t.SendingBands = written(bands.Buyer), written(bands.Ours)
	return t, nil
}

// SiteParticulars are what a site is: its name, where it sells, in which currency,
// and the tax that is in what buyers pay.
type SiteParticulars struct {
	Name     string       `json:"name" minLength:"1" maxLength:"120"`
	Country  string       `json:"country" maxLength:"20" doc:"Two letters, ISO 3166-1; a place with a gateway says it itself"`
	Currency string       `json:"currency" doc:"ISO 4217; it can be changed while nothing was sent there or sold"`
	TaxWay   string       `json:"tax_way" enum:"included,added,none" doc:"Whether what buyers pay has tax in it"`
	TaxRate  string       `json:"tax_rate,omitempty" doc:"As a percentage"`
	TaxRates []TaxRateRow `json:"tax_rates,omitempty" maxItems:"200" doc:"Rates by the buyer's country and from a day on, in the place of the one"`
}

// TaxRateRow is a rate of tax as a person writes it.
type TaxRateRow struct {
	Country string `json:"country,omitempty" maxLength:"2" doc:"Two letters, ISO 3166-1; empty: every country without rates of its own"`
	From    string `json:"from,omitempty" maxLength:"10" doc:"YYYY-MM-DD, this day in it; empty: always"`
	Rate    string `json:"rate" doc:"As a percentage"`
}

// Country is how a country is written: two letters, ISO 3166-1.
var Country = regexp.MustCompile(`^[A-Z]{2}$`)

// Set checks particulars that a person wrote, and puts them into a site.
func (p SiteParticulars) Set(site *store.Site) error {
	name, code := strings.TrimSpace(p.Name), strings.ToUpper(strings.TrimSpace(p.Country))
	cur := money.Currency(strings.ToUpper(strings.TrimSpace(p.Currency)))
	switch {
	case name == "":
		return fault.At("name", "say what the place is called")
	case code != site.Code && !Country.MatchString(code):
		return fault.At("country", "%q is no country by its two letters, such as GB", p.Country)
	case !cur.Valid():
		return fault.At("currency", "%q is no currency we know, such as GBP", p.Currency)
	case p.TaxWay != "none" && strings.TrimSpace(p.TaxRate) == "":
		return fault.At("tax_rate", "say at which rate what buyers pay has tax, such as 20%%; or that it has none")
	}
	rate, err := Share("tax_rate", cmp.Or(strings.TrimSpace(p.TaxRate), "0"))
	if err != nil || rate < 0 {
		return fault.At("tax_rate", "%q is not a percentage such as 20%%", p.TaxRate)
	}
	if p.TaxWay == "none" {
		rate = 0
	}
	rates, err := p.rates()
	if err != nil {
		return err
	}
	site.Name, site.Code, site.Currency, site.TaxWay, site.TaxRate, site.TaxRates = name, code, string(cur), p.TaxWay, int64(rate), ""
	if len(rates) > 0 && p.TaxWay != "none" {
		text, err := json.Marshal(rates)
		site.TaxRates = string(text)
		return err
	}
	return nil
}

func (p SiteParticulars) rates() (pricing.TaxRates, error) {
	var out pricing.TaxRates
	for i, r := range p.TaxRates {
		rate, err := Share(fmt.Sprintf("tax_rates[%d].rate", i), r.Rate)
		if err != nil {
			return nil, err
		}
		x := pricing.TaxRate{Country: strings.ToUpper(strings.TrimSpace(r.Country)), From: strings.TrimSpace(r.From), Rate: rate}
		if _, err := time.Parse(time.DateOnly, x.From); x.From != "" && err != nil {
			return nil, fault.At(fmt.Sprintf("tax_rates[%d].from", i), "%q is not a day such as 2027-01-01", r.From)
		}
		out = append(out, x)
	}
	if err := out.Check(); err != nil {
		return nil, FieldError(err, "tax_rates")
	}
	return out, nil
}

// ParticularsOf are a site's particulars as a person reads and writes them.
func ParticularsOf(site store.Site) (SiteParticulars, error) {
	p := SiteParticulars{Name: site.Name, Country: site.Code, Currency: site.Currency, TaxWay: site.TaxWay, TaxRate: money.Rate(site.TaxRate).String(), TaxRates: []TaxRateRow{}}
	rates, err := site.ReadTaxRates()
	for _, r := range rates {
		p.TaxRates = append(p.TaxRates, TaxRateRow{r.Country, r.From, r.Rate.String()})
	}
	return p, err
}

package written

import (
	"encoding/json"
	"errors"
	"fmt"

	"easymargin/core/form"
	"easymargin/core/money"
	"easymargin/core/pricing"
)

// ReadSchedules reads a file of fee schedules as docs/fees.md shows it; its
// fees are those of docs/definitions/money.md's cases. The error names the field.
func ReadSchedules(text []byte, cur money.Currency) ([]pricing.Schedule, error) {
	top, err := form.Object("", text)
	if err != nil {
		return nil, err
	}
	r := &reader{}
	r.Text(top, "site", false)
	if c := r.Text(top, "currency", true); r.Err == nil && c != string(cur) {
		r.Fail("currency", fmt.Errorf("is %s, the site's is %s", c, cur))
	}
	var out []pricing.Schedule
	seen := map[[2]string]bool{}
	for _, o := range r.List(top, "schedules") {
		s := r.schedule(o, cur)
		if key := [2]string{s.Category, s.StartsOn}; seen[key] {
			r.Fail(o.Path, fmt.Errorf("category %q has a schedule from %s already", s.Category, s.StartsOn))
		} else {
			seen[key] = true
		}
		out = append(out, s)
	}
	r.Done(top)
	if r.Err == nil && len(out) == 0 {
		r.Fail("schedules", errors.New("needs at least one"))
	}
	return out, r.Err
}

// ReadSchedule reads one schedule of such a file.
func ReadSchedule(text []byte, cur money.Currency) (pricing.Schedule, error) {
	top, err := form.Object("", text)
	if err != nil {
		return pricing.Schedule{}, err
	}
	r := &reader{}
	s := r.schedule(top, cur)
	return s, r.Err
}

func (r *reader) schedule(o *form.Fields, cur money.Currency) pricing.Schedule {
	var s pricing.Schedule
	if raw, ok := o.Take("category"); ok && json.Unmarshal(raw, &s.Category) != nil {
		r.Fail(o.Name("category"), errors.New("must be a text in quotes"))
	}
	s.StartsOn = r.Text(o, "starts_on", true)
	if r.Err == nil && !isDay(s.StartsOn) {
		r.Fail(o.Name("starts_on"), fmt.Errorf("%q is not a day such as 2026-04-01", s.StartsOn))
	}
	for _, f := range r.List(o, "fees") {
		s.Fees = append(s.Fees, r.fee(f, cur))
	}
	if w := r.Child(o, "warehouse", false); w != nil {
		s.Warehouse = r.warehouse(w, cur)
	}
	r.Done(o)
	if r.Err == nil {
		for i, f := range s.Fees {
			if err := f.Check(); err != nil {
				r.Fail(fmt.Sprintf("%s[%d]", o.Name("fees"), i), err)
			}
		}
	}
	return s
}

func (r *reader) warehouse(o *form.Fields, cur money.Currency) *pricing.Warehouse {
	w := &pricing.Warehouse{Name: r.Text(o, "name", true), Divisor: r.Count(o, "divisor", 0)}
	if v, ok := r.Rate(o, "tax", false); ok {
		w.Tax = &v
	}
	for _, f := range r.List(o, "steps") {
		s := pricing.Step{
			Name:     r.Text(f, "name", true),
			Longest:  r.Count(f, "longest", 0),
			Median:   r.Count(f, "median", 0),
			Shortest: r.Count(f, "shortest", 0),
			Girth:    r.Count(f, "girth", 0),
			Weight:   r.Count(f, "weight", 0),
			Over:     r.Count(f, "over", 0),
		}
		s.Fee, _ = r.Amount(f, "fee", cur, true)
		s.HalfKilo, _ = r.Amount(f, "half_kilo", cur, false)
		r.Done(f)
		w.Steps = append(w.Steps, s)
	}
	r.Done(o)
	if r.Err == nil {
		if err := w.Check(); err != nil {
			r.Fail(o.Path, err)
		}
	}
	return w
}

func isDay(s string) bool {
	if len(s) != 10 || s[4] != '-' || s[7] != '-' {
		return false
	}
	for i, c := range s {
		if i != 4 && i != 7 && (c < '0' || c > '9') {
			return false
		}
	}
	return s[5:7] >= "01" && s[5:7] <= "12" && s[8:] >= "01" && s[8:] <= "31"
}

// What a schedule is written as; ReadSchedules reads it back.
type (
	writtenBand struct {
		To    string `json:"to,omitempty"`
		Rate  string `json:"rate"`
		Fixed string `json:"fixed,omitempty"`
	}
	writtenFee struct {
		Name    string          `json:"name"`
		Of      pricing.Base    `json:"of"`
		Rate    string          `json:"rate,omitempty"`
		Banding pricing.Banding `json:"banding,omitempty"`
		Bands   []writtenBand   `json:"bands,omitempty"`
		Fixed   string          `json:"fixed,omitempty"`
		Least   string          `json:"least,omitempty"`
		Most    string          `json:"most,omitempty"`
		Tax     string          `json:"tax,omitempty"`
	}
	writtenStep struct {
		Name     string `json:"name"`
		Longest  int64  `json:"longest,omitempty"`
		Median   int64  `json:"median,omitempty"`
		Shortest int64  `json:"shortest,omitempty"`
		Girth    int64  `json:"girth,omitempty"`
		Weight   int64  `json:"weight,omitempty"`
		Fee      string `json:"fee"`
		Over     int64  `json:"over,omitempty"`
		HalfKilo string `json:"half_kilo,omitempty"`
	}
	writtenWarehouse struct {
		Name    string        `json:"name"`
		Divisor int64         `json:"divisor,omitempty"`
		Tax     string        `json:"tax,omitempty"`
		Steps   []writtenStep `json:"steps"`
	}
	// Schedule is a schedule with its amounts and rates as texts.
	Schedule struct {
		Category  string            `json:"category"`
		StartsOn  string            `json:"starts_on"`
		Fees      []writtenFee      `json:"fees"`
		Warehouse *writtenWarehouse `json:"warehouse,omitempty"`
	}
	// File is a file of schedules.
	File struct {
		Site      string         `json:"site"`
		Currency  money.Currency `json:"currency"`
		Schedules []Schedule     `json:"schedules"`
	}
)

// Written is a schedule as a file has it.
func Written(s pricing.Schedule, cur money.Currency) Schedule {
	show := func(v int64) string { return money.Of(v, cur).String() }
	some := func(v int64) string {
		if v == 0 {
			return ""
		}
		return show(v)
	}
	may := func(v *int64) string {
		if v == nil {
			return ""
		}
		return show(*v)
	}
	tax := func(v *money.Rate) string {
		if v == nil {
			return ""
		}
		return v.String()
	}
	out := Schedule{Category: s.Category, StartsOn: s.StartsOn, Fees: []writtenFee{}}
	for _, f := range s.Fees {
		w := writtenFee{
			Name:    f.Name,
			Of:      f.Of,
			Banding: f.Banding,
			Fixed:   some(f.Fixed),
			Least:   may(f.Least),
			Most:    may(f.Most),
			Tax:     tax(f.Tax),
		}
		if len(f.Bands) == 0 {
			w.Rate, w.Banding = f.Rate.String(), ""
		}
		for i, b := range f.Bands {
			x := writtenBand{Rate: b.Rate.String(), Fixed: some(b.Fixed)}
			if i < len(f.Bands)-1 {
				x.To = show(b.To)
			}
			w.Bands = append(w.Bands, x)
		}
		out.Fees = append(out.Fees, w)
	}
	if w := s.Warehouse; w != nil {
		out.Warehouse = &writtenWarehouse{Name: w.Name, Divisor: w.Divisor, Tax: tax(w.Tax)}
		for _, x := range w.Steps {
			out.Warehouse.Steps = append(
				out.Warehouse.Steps,
				writtenStep{x.Name, x.Longest, x.Median, x.Shortest, x.Girth, x.Weight, show(x.Fee), x.Over, some(x.HalfKilo)},
			)
		}
	}
	return out
}

// WriteSchedules writes a file of schedules that ReadSchedules reads back.
func WriteSchedules(site string, cur money.Currency, list []pricing.Schedule) ([]byte, error) {
	out := File{Site: site, Currency: cur}
	for _, s := range list {
		out.Schedules = append(out.Schedules, Written(s, cur))
	}
	return json.MarshalIndent(out, "", "  ")
}

// ReadFits reads which products a rule is for: an object of the lists skus,
// suppliers, brands and categories, the amounts cost_from and cost_to, and the
// grams weight_from and weight_to, each of which may be left out.
func ReadFits(text []byte, cur money.Currency) (pricing.Fits, error) {
	top, err := form.Object("", text)
	if err != nil {
		return pricing.Fits{}, err
	}
	r := &reader{}
	list := func(key string) []string {
		var out []string
		if raw, ok := top.Take(key); ok && json.Unmarshal(raw, &out) != nil {
			r.Fail(key, errors.New("must be a list of texts"))
		}
		return out
	}
	f := pricing.Fits{SKUs: list("skus"), Suppliers: list("suppliers"), Brands: list("brands"), Categories: list("categories"),
		WeightFrom: r.Count(top, "weight_from", 0), WeightTo: r.Count(top, "weight_to", 0)}
	if v, ok := r.Amount(top, "cost_from", cur, false); ok {
		f.CostFrom = &v
	}
	if v, ok := r.Amount(top, "cost_to", cur, false); ok {
		f.CostTo = &v
		if f.CostFrom != nil && v < *f.CostFrom {
			r.Fail("cost_from", errors.New("is above cost_to"))
		}
	}
	if f.WeightTo > 0 && f.WeightFrom > f.WeightTo {
		r.Fail("weight_from", errors.New("is above weight_to"))
	}
	r.Done(top)
	return f, r.Err
}

// ReadAllowances reads a list of allowances as docs/definitions/money.md's cases have them.
func ReadAllowances(text []byte) ([]pricing.Allowance, error) {
	r := &reader{}
	top := form.FieldsOf(map[string]json.RawMessage{"allowances": text})
	var out []pricing.Allowance
	for _, o := range r.List(top, "allowances") {
		out = append(out, r.allowance(o))
	}
	return out, r.Err
}

func (r *reader) allowance(o *form.Fields) pricing.Allowance {
	a := pricing.Allowance{Name: r.Text(o, "name", true), Of: pricing.Base(r.Text(o, "of", true))}
	a.Rate, _ = r.Rate(o, "rate", true)
	r.Done(o)
	return a
}

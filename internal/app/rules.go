package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// RuleCondition is one aim or keep, its numbers as texts: a percentage for
// margin, return and markup, an amount for profit, price and plus.
type RuleCondition struct {
	Kind  string `json:"kind" enum:"profit,margin,return,markup,price"`
	Value string `json:"value"`
	Plus  string `json:"plus,omitempty"`
}

// RuleEndings are the allowed prices of a rule, amounts as texts.
type RuleEndings struct {
	Every string   `json:"every"`
	At    []string `json:"at" minItems:"1"`
	Way   string   `json:"way" enum:"up,down,nearest"`
}

// RuleMarket is where a rule stands beside rivals.
type RuleMarket struct {
	Stance       string `json:"stance" enum:"ignore,below,equal,above"`
	Against      string `json:"against,omitempty" enum:"lowest,lead"`
	By           string `json:"by,omitempty" doc:"An amount, or a percentage of the rival's total"`
	MayExceedAim bool   `json:"may_exceed_aim,omitempty"`
}

// Rule is a price rule in the form of design/money.md's cases.
type Rule struct {
	Aims    []RuleCondition `json:"aims"`
	Keep    []RuleCondition `json:"keep"`
	Least   string          `json:"least,omitempty"`
	Most    string          `json:"most,omitempty"`
	Endings *RuleEndings    `json:"endings,omitempty"`
	Market  *RuleMarket     `json:"market,omitempty"`
}

// Fits says which products a rule is for; costs are landed costs, as texts in
// the site's currency. What is left out asks nothing.
type Fits struct {
	SKUs       []string `json:"skus,omitempty"`
	Suppliers  []string `json:"suppliers,omitempty"`
	Brands     []string `json:"brands,omitempty"`
	Categories []string `json:"categories,omitempty" doc:"By ref; those below them too"`
	CostFrom   string   `json:"cost_from,omitempty"`
	CostTo     string   `json:"cost_to,omitempty"`
	WeightFrom int64    `json:"weight_from,omitempty" doc:"Grams, packed"`
	WeightTo   int64    `json:"weight_to,omitempty"`
}

// NamedRule is a rule of a site's list.
type NamedRule struct {
	ID       int64  `json:"id" doc:"0 for a new one"`
	Name     string `json:"name" minLength:"1" maxLength:"120"`
	Fits     *Fits  `json:"fits,omitempty" doc:"Left out in the last rule, which holds for all the rest"`
	Rule     Rule   `json:"rule"`
	Listings int64  `json:"listings,omitempty" doc:"How many it holds, as last worked out"`
	Words    string `json:"words,omitempty" doc:"The rule as a sentence"`
}

var firstRule = Rule{Aims: []RuleCondition{{Kind: "margin", Value: "18%"}}}

const lastName = "All the rest"

// suited is the rule with the endings and the least profit that suit a currency.
func (r Rule) suited(c money.Currency) Rule {
	one := int64(1)
	exp, _ := c.Digits()
	for range exp {
		one *= 10
	}
	if exp == 0 {
		r.Keep = []RuleCondition{{Kind: "profit", Value: "100"}}
		r.Endings = &RuleEndings{Every: "100", At: []string{"80"}, Way: "up"}
		return r
	}
	show := func(v int64) string { return money.Of(v, c).String() }
	r.Keep = []RuleCondition{{Kind: "profit", Value: show(one)}}
	r.Endings = &RuleEndings{Every: show(one), At: []string{show(one * 49 / 100), show(one * 99 / 100)}, Way: "up"}
	return r
}

// readRule makes a kept rule ready.
func readRule(row store.PriceRule, c money.Currency) (ruled, error) {
	out := ruled{id: row.ID, name: row.Name}
	var err error
	if out.wish, err = pricing.ReadWish([]byte(row.Wish), c); err == nil && row.Fits != "" {
		out.fits, err = pricing.ReadFits([]byte(row.Fits), c)
	}
	return out, err
}

// field splits a core error into the field it names and its words.
func fieldError(err error, under string) error {
	field, text, ok := strings.Cut(err.Error(), ": ")
	if !ok {
		return invalid(under, "%v", err)
	}
	if under != "" {
		field = under + "." + field
	}
	return &Error{Invalid, field, text}
}

// made checks a rule that a person wrote and makes its row. Errors name the
// field as NamedRule has it.
func (r NamedRule) made(c money.Currency) (row store.PriceRule, out ruled, err error) {
	row = store.PriceRule{ID: r.ID, Name: strings.TrimSpace(r.Name)}
	if row.Name == "" {
		return row, out, invalid("name", "give the rule a name")
	}
	text, err := r.Rule.text(c)
	if err != nil {
		return row, out, err
	}
	row.Wish = string(text)
	if r.Fits != nil {
		text, err := json.Marshal(r.Fits)
		if err != nil {
			return row, out, err
		}
		if _, err := pricing.ReadFits(text, c); err != nil {
			return row, out, fieldError(err, "fits")
		}
		row.Fits = string(text)
	}
	out, err = readRule(row, c)
	return row, out, err
}

// text is the rule as it is kept, checked.
func (r Rule) text(c money.Currency) ([]byte, error) {
	if r.Keep == nil {
		r.Keep = []RuleCondition{}
	}
	if r.Aims == nil {
		r.Aims = []RuleCondition{}
	}
	if len(r.Aims) == 0 && (r.Market == nil || r.Market.Stance == "ignore") {
		return nil, invalid("rule.aims", "say what to aim at, or where to stand beside rivals")
	}
	text, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	if _, err := pricing.ReadWish(text, c); err != nil {
		return nil, fieldError(err, "rule")
	}
	return text, nil
}

// Rules lists a site's price rules, in the order they are tried.
func (a *App) Rules(ctx context.Context, siteID int64) ([]NamedRule, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	rows, err := a.Store.Rules(ctx, siteID)
	if err != nil {
		return nil, err
	}
	counts, err := a.Store.RuleCounts(ctx, siteID)
	if err != nil {
		return nil, err
	}
	holds := map[int64]int64{}
	for _, c := range counts {
		if c.RuleID != nil {
			holds[*c.RuleID] = c.N
		}
	}
	out := []NamedRule{}
	for i, row := range rows {
		r := NamedRule{ID: row.ID, Name: row.Name, Listings: holds[row.ID]}
		if err := json.Unmarshal([]byte(row.Wish), &r.Rule); err != nil {
			return nil, fmt.Errorf("reading rule %d: %w", row.ID, err)
		}
		if row.Fits != "" {
			if err := json.Unmarshal([]byte(row.Fits), &r.Fits); err != nil {
				return nil, fmt.Errorf("reading rule %d: %w", row.ID, err)
			}
		} else if i < len(rows)-1 {
			r.Fits = &Fits{}
		}
		r.Words = r.Rule.Words(site.Currency)
		out = append(out, r)
	}
	return out, nil
}

// Words says a rule as a sentence.
func (r Rule) Words(cur string) string {
	say := func(c RuleCondition) string {
		switch c.Kind {
		case "margin":
			return c.Value + " margin"
		case "return":
			return c.Value + " return"
		case "profit":
			return c.Value + " " + cur + " profit"
		case "price":
			return "a price of " + c.Value + " " + cur
		}
		if c.Plus != "" {
			return c.Value + " on cost and " + c.Plus + " " + cur
		}
		return c.Value + " on cost"
	}
	all := func(list []RuleCondition) string {
		var out []string
		for _, c := range list {
			out = append(out, say(c))
		}
		return strings.Join(out, " and ")
	}
	var parts []string
	if len(r.Aims) > 0 {
		parts = append(parts, "at least "+all(r.Aims))
	}
	if m := r.Market; m != nil && m.Stance != "ignore" {
		rival := map[string]string{"lead": "the leading rival", "": "the lowest rival", "lowest": "the lowest rival"}[m.Against]
		part := map[string]string{"below": "under ", "above": "over ", "equal": "level with "}[m.Stance] + rival
		if m.By != "" && m.Stance != "equal" {
			by := m.By
			if !strings.HasSuffix(by, "%") {
				by += " " + cur
			}
			part = by + " " + part
		}
		if m.MayExceedAim {
			part += ", even above the aim"
		}
		parts = append(parts, part)
	}
	if r.Endings != nil {
		parts = append(parts, "ending in "+strings.Join(r.Endings.At, " or "))
	}
	if len(r.Keep) > 0 {
		parts = append(parts, "never under "+all(r.Keep))
	}
	switch {
	case r.Least != "" && r.Most != "":
		parts = append(parts, "from "+r.Least+" to "+r.Most+" "+cur)
	case r.Least != "":
		parts = append(parts, "from "+r.Least+" "+cur)
	case r.Most != "":
		parts = append(parts, "up to "+r.Most+" "+cur)
	}
	return strings.Join(parts, ", ")
}

// KeepRule keeps a rule of a site: a new one before the last, a known one in
// its place. Prices are worked out anew; it changes no marketplace: what is
// live gets a plan.
func (a *App) KeepRule(ctx context.Context, siteID int64, r NamedRule) (int64, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return 0, err
	}
	rows, err := a.Store.Rules(ctx, siteID)
	if err != nil {
		return 0, err
	}
	row, made, err := r.made(money.Currency(site.Currency))
	if err != nil {
		return 0, err
	}
	row.SiteID, row.UpdatedAt = siteID, a.now()
	at := slices.IndexFunc(rows, func(x store.PriceRule) bool { return x.ID == r.ID })
	last := len(rows) - 1
	switch {
	case r.ID != 0 && at < 0:
		return 0, store.ErrMissing
	case at == last && last >= 0:
		row.Position, row.Fits = rows[at].Position, "" // the last holds for all the rest, whatever is asked
	case at >= 0:
		row.Position = rows[at].Position
	}
	if row.Fits == "" && at != last {
		return 0, invalid("fits", "say which products the rule is for; only the last holds for all the rest")
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.Save(&row); err != nil || at >= 0 {
			return err
		}
		var order []int64
		for i, x := range rows {
			if i == last {
				order = append(order, row.ID)
			}
			order = append(order, x.ID)
		}
		return tx.OrderRules(order)
	})
	if err != nil {
		return 0, err
	}
	a.note(ctx, "price rule kept", site.Name+", "+row.Name, r.Rule.Words(site.Currency))
	return row.ID, a.rulesChanged(ctx, site, made.stands())
}

func (a *App) rulesChanged(ctx context.Context, site store.Site, stands bool) error {
	a.changed("rules")
	if stands {
		return a.readRivals(ctx, site) // which works prices out after
	}
	a.price(ctx, site)
	return nil
}

// DropRule drops a rule; the last, which holds for all the rest, stays.
func (a *App) DropRule(ctx context.Context, id int64) error {
	return a.editRules(ctx, id, "price rule dropped", func(tx store.Tx, _ []int64, _ int) error { return tx.DropRule(id) })
}

// MoveRule moves a rule to another place in the order they are tried, from 0.
func (a *App) MoveRule(ctx context.Context, id int64, to int) error {
	return a.editRules(ctx, id, "price rule moved", func(tx store.Tx, ids []int64, at int) error {
		to = max(0, min(to, len(ids)-2)) // never behind the last
		ids = slices.Delete(ids, at, at+1)
		return tx.OrderRules(slices.Insert(ids, to, id))
	})
}

func (a *App) editRules(ctx context.Context, id int64, what string, do func(tx store.Tx, ids []int64, at int) error) error {
	row, err := store.Get[store.PriceRule](ctx, a.Store, id)
	if err != nil {
		return err
	}
	site, err := a.Store.SiteOf(ctx, row.SiteID)
	if err != nil {
		return err
	}
	rows, err := a.Store.Rules(ctx, row.SiteID)
	if err != nil {
		return err
	}
	var ids []int64
	for _, r := range rows {
		ids = append(ids, r.ID)
	}
	at := slices.Index(ids, id)
	if at == len(ids)-1 {
		return &Error{Conflict, "", "the last rule holds for all the rest: it stays, and stays last"}
	}
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return do(tx, ids, at) }); err != nil {
		return err
	}
	a.note(ctx, what, site.Name+", "+row.Name, "")
	return a.rulesChanged(ctx, site, false)
}

package prices

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing/written"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
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

// Rule is a price rule in the form of docs/definitions/money.md's cases.
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
	Sieve      int64    `json:"sieve,omitempty" doc:"A kept sieve that looks at facts only"`
}

// NamedRule is a rule of a site's list.
type NamedRule struct {
	ID       int64  `json:"id" doc:"0 for a new one"`
	Version  int64  `json:"version,omitempty" doc:"For If-Match"`
	Name     string `json:"name" minLength:"1" maxLength:"120"`
	Fits     *Fits  `json:"fits,omitempty" doc:"Left out in the last rule, which holds for all the rest"`
	Rule     Rule   `json:"rule"`
	Listings int64  `json:"listings,omitempty" doc:"How many it holds, as last worked out"`
	Words    string `json:"words,omitempty" doc:"The rule as a sentence"`
	For      string `json:"for,omitempty" doc:"Which products it is for, in words"`
}

// made checks a rule that a person wrote and makes its row. Errors name the
// field as NamedRule has it.
func (r NamedRule) made(tx store.Tx, c money.Currency) (row store.PriceRule, out reckon.Ruled, err error) {
	row = store.PriceRule{ID: r.ID, Name: strings.TrimSpace(r.Name)}
	if row.Name == "" {
		return row, out, fault.At("name", "give the rule a name")
	}
	text, err := r.Rule.text(c)
	if err != nil {
		return row, out, err
	}
	row.Wish = string(text)
	if r.Fits != nil {
		fits := *r.Fits
		if fits.Sieve != 0 { // kept by itself
			row.SieveID, fits.Sieve = &r.Fits.Sieve, 0
		}
		text, err := json.Marshal(fits)
		if err != nil {
			return row, out, err
		}
		if _, err := written.ReadFits(text, c); err != nil {
			return row, out, stops.FieldError(err, "fits")
		}
		row.Fits = string(text)
	}
	if out, err = reckon.ReadRule(row, c); err == nil && row.SieveID != nil {
		err = out.Sieved(tx, *row.SieveID, c)
	}
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
		return nil, fault.At("rule.aims", "say what to aim at, or where to stand beside rivals")
	}
	text, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	if _, err := written.ReadWish(text, c); err != nil {
		return nil, stops.FieldError(err, "rule")
	}
	return text, nil
}

// Rules lists a site's price rules, in the order they are tried.
func (st *Stop) Rules(ctx context.Context, siteID int64) ([]NamedRule, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	rows, err := st.Store.Reading(ctx).Rules(siteID)
	if err != nil {
		return nil, err
	}
	counts, err := st.Store.RuleCounts(ctx, siteID)
	if err != nil {
		return nil, err
	}
	holds := map[int64]int64{}
	for _, c := range counts {
		if c.RuleID != nil {
			holds[*c.RuleID] = c.N
		}
	}
	cats, err := st.Store.Reading(ctx).CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for _, c := range cats {
		names[c.Ref] = c.Name
	}
	out := []NamedRule{}
	for i := range rows {
		r, err := named(rows, i, site.Currency)
		if err != nil {
			return nil, err
		}
		r.Listings, r.For = holds[r.ID], r.Fits.Words(names)
		if r.Fits != nil && r.Fits.Sieve != 0 {
			s, err := store.Get[store.Sieve](ctx, st.Store, r.Fits.Sieve)
			if err != nil {
				return nil, err
			}
			r.For = strings.TrimPrefix(r.For+", in the sieve "+s.Name, "every product, ")
		}
		out = append(out, r)
	}
	return out, nil
}

// named is a kept rule as a person wrote it.
func named(rows []store.PriceRule, i int, currency string) (NamedRule, error) {
	row := rows[i]
	r := NamedRule{ID: row.ID, Version: row.Version, Name: row.Name}
	if err := json.Unmarshal([]byte(row.Wish), &r.Rule); err != nil {
		return r, fmt.Errorf("reading rule %d: %w", row.ID, err)
	}
	if row.Fits != "" {
		if err := json.Unmarshal([]byte(row.Fits), &r.Fits); err != nil {
			return r, fmt.Errorf("reading rule %d: %w", row.ID, err)
		}
	} else if i < len(rows)-1 {
		r.Fits = &Fits{}
	}
	if row.SieveID != nil && r.Fits != nil {
		r.Fits.Sieve = *row.SieveID
	}
	r.Words = r.Rule.Words(currency)
	return r, nil
}

// Words says which products a rule is for, with categories by their names.
func (f *Fits) Words(categories map[string]string) string {
	if f == nil {
		return "all that no rule above fits"
	}
	var parts []string
	say := func(before string, list []string) {
		if len(list) > 0 {
			parts = append(parts, before+strings.Join(list, " or "))
		}
	}
	between := func(before, from, to, unit string) {
		switch {
		case from != "" && to != "":
			parts = append(parts, before+from+" to "+to+unit)
		case from != "":
			parts = append(parts, before+from+unit+" and more")
		case to != "":
			parts = append(parts, before+"up to "+to+unit)
		}
	}
	whole := func(v int64) string {
		if v == 0 {
			return ""
		}
		return strconv.FormatInt(v, 10)
	}
	say("", f.Brands)
	say("from ", f.Suppliers)
	named := slices.Clone(f.Categories)
	for i, ref := range named {
		named[i] = cmp.Or(categories[ref], ref)
	}
	say("in ", named)
	between("costing ", f.CostFrom, f.CostTo, "")
	between("weighing ", whole(f.WeightFrom), whole(f.WeightTo), " g")
	if len(f.SKUs) > 3 {
		parts = append(parts, fmt.Sprintf("%d picked by hand", len(f.SKUs)))
	} else {
		say("", f.SKUs)
	}
	if parts == nil {
		return "every product"
	}
	return strings.Join(parts, ", ")
}

// Words says a rule as a sentence. Beside rivals an aim is no promise: where they ask
// less, it gives way, down to what the rule keeps.
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
	m := r.Market
	beside := m != nil && m.Stance != "ignore"
	switch {
	case len(r.Aims) > 0 && beside:
		parts = append(parts, "aims at "+all(r.Aims))
	case len(r.Aims) > 0:
		parts = append(parts, "at least "+all(r.Aims))
	}
	if beside {
		rival := map[string]string{"lead": "the leading rival", "": "the lowest rival", "lowest": "the lowest rival"}[m.Against]
		part := map[string]string{"below": "under ", "above": "over ", "equal": "level with "}[m.Stance] + rival
		if m.By != "" && m.Stance != "equal" {
			by := m.By
			if !strings.HasSuffix(by, "%") {
				by += " " + cur
			}
			part = by + " " + part
		}
		switch {
		case m.MayExceedAim:
			part += ", even above the aim"
		case len(r.Aims) > 0:
			part += " where that is less"
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
// its place. Prices are worked out anew: what is on sale gets a plan, which waits for
// a person or goes by itself, as its site or its rule says.
func (st *Stop) KeepRule(ctx context.Context, siteID int64, edit stops.IfMatch, r NamedRule) (int64, error) {
	id := int64(0)
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		rows, err := tx.Rules(siteID)
		if err != nil {
			return err
		}
		row, made, err := r.made(tx, money.Currency(site.Currency))
		if err != nil {
			return err
		}
		row.SiteID, row.UpdatedAt = siteID, st.Now()
		at := slices.IndexFunc(rows, func(x store.PriceRule) bool { return x.ID == r.ID })
		last := len(rows) - 1
		switch {
		case r.ID != 0 && at < 0:
			return store.ErrMissing
		case at == last && last >= 0:
			row.Fits, row.SieveID = "", nil // the last holds for all the rest, whatever is asked
		case row.Fits == "":
			return fault.At("fits", "say which products the rule is for; only the last holds for all the rest")
		}
		if at < 0 {
			acts := st.Now().Add(reckon.FirstWeek) // where its site sends by itself, a new rule only says at first
			row.ActsFrom = &acts
			err = tx.InsertRule(st.Now(), &row, last)
		} else {
			err = st.changeRule(tx, site, rows, at, edit, &row)
		}
		if err != nil {
			return err
		}
		id = row.ID
		if err := st.rulesChanged(tx, site, made.LooksAtRivals()); err != nil {
			return err
		}
		return tx.Note(st.Now(), "price rule kept", site.Name+", "+row.Name, r.Rule.Words(site.Currency))
	})
	return id, err
}

// changeRule writes a rule, unless somebody else has since it was opened.
func (st *Stop) changeRule(tx store.Tx, site store.Site, rows []store.PriceRule, at int, edit stops.IfMatch, row *store.PriceRule) error {
	now, err := named(rows, at, site.Currency)
	if err != nil {
		return err
	}
	if err := edit.Check(rows[at].Version, "the price rule "+rows[at].Name, now); err != nil {
		return err
	}
	row.Version = rows[at].Version
	return tx.ChangeRule(st.Now(), row)
}

// rulesChanged is what follows from other rules: where one looks at rivals,
// what they ask is read.
func (st *Stop) rulesChanged(tx store.Tx, site store.Site, stands bool) error {
	tx.Changed("rules")
	if !stands {
		return nil
	}
	return st.queueRivals(tx, site)
}

// DropRule drops a rule; the last, which holds for all the rest, stays.
func (st *Stop) DropRule(ctx context.Context, id int64) error {
	return st.editRules(
		ctx,
		id,
		"price rule dropped",
		func(tx store.Tx, row *store.PriceRule, _ []int64, _ int) error { return tx.DropRule(st.Now(), row) },
	)
}

// MoveRule moves a rule to another place in the order they are tried, from 0.
func (st *Stop) MoveRule(ctx context.Context, id int64, to int) error {
	return st.editRules(ctx, id, "price rule moved", func(tx store.Tx, row *store.PriceRule, ids []int64, at int) error {
		to = max(0, min(to, len(ids)-2)) // never behind the last
		ids = slices.Delete(ids, at, at+1)
		return tx.OrderRules(st.Now(), row.SiteID, slices.Insert(ids, to, id))
	})
}

func (st *Stop) editRules(
	ctx context.Context,
	id int64,
	what string,
	do func(tx store.Tx, row *store.PriceRule, ids []int64, at int) error,
) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := store.GetTx[store.PriceRule](tx, id)
		if err != nil {
			return err
		}
		site, err := tx.SiteOf(row.SiteID)
		if err != nil {
			return err
		}
		rows, err := tx.Rules(row.SiteID)
		if err != nil {
			return err
		}
		var ids []int64
		for _, r := range rows {
			ids = append(ids, r.ID)
		}
		at := slices.Index(ids, id)
		if at == len(ids)-1 {
			return fault.New(fault.Conflict, "the last rule holds for all the rest: it stays, and stays last")
		}
		if err := do(tx, &row, ids, at); err != nil {
			return err
		}
		if err := st.rulesChanged(tx, site, false); err != nil {
			return err
		}
		return tx.Note(st.Now(), what, site.Name+", "+row.Name, "")
	})
}

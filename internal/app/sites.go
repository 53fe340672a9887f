package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/market"
	"easymargin/internal/store"
)

// Connect asks a marketplace's gateway for its sites, and keeps each with its
// categories, fees and a price rule to begin with.
func (a *App) Connect(ctx context.Context, name, address string) ([]store.Site, error) {
	name, address = strings.TrimSpace(name), strings.TrimRight(strings.TrimSpace(address), "/")
	if name == "" {
		return nil, invalid("name", "say what the marketplace is called")
	}
	if !strings.HasPrefix(address, "http://") && !strings.HasPrefix(address, "https://") {
		return nil, invalid("address", "%q is not the address of a gateway, such as https://gateway.example", address)
	}
	gw := a.opt.Gateway(name, address)
	found, err := gw.Sites(ctx)
	if err != nil {
		return nil, err
	}
	if len(found) == 0 {
		return nil, invalid("address", "this gateway has no sites")
	}
	m := store.Marketplace{Name: name, Address: address}
	var sites []store.Site
	var all []siteFees
	for _, f := range found {
		if !money.Currency(f.Currency).Valid() {
			return nil, invalid("address", "its site %s is in %q, which is no currency we know", f.Code, f.Currency)
		}
		fees, err := a.readFees(ctx, gw, f)
		if err != nil {
			return nil, err
		}
		all = append(all, fees)
		sites = append(sites, store.Site{Code: f.Code, Name: f.Name, Currency: f.Currency, TaxWay: f.TaxWay, TaxRate: f.TaxRate, MaxLines: max(f.MaxLines, 1), LeastPicture: f.Picture})
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.Create(&m); err != nil {
			return &Error{Conflict, "name", "there is a marketplace called " + name + " already"}
		}
		for i := range sites {
			now := a.now()
			sites[i].MarketplaceID, sites[i].FeesAt = m.ID, &now
			if err := tx.Create(&sites[i]); err != nil {
				return err
			}
			if err := all[i].put(tx, sites[i].ID); err != nil {
				return err
			}
			rule := store.PriceRule{SiteID: sites[i].ID, Name: firstRule.Name, UpdatedAt: now}
			wish, err := json.Marshal(firstRule.suited(money.Currency(sites[i].Currency)))
			if err != nil {
				return err
			}
			rule.Wish = string(wish)
			if err := tx.Create(&rule); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	a.note(ctx, "marketplace connected", name, address)
	a.changed("sites", "counts")
	return sites, a.afterTaking(ctx)
}

type siteFees struct {
	categories []store.Category
	schedules  []store.FeeSchedule
}

func (f siteFees) put(tx store.Tx, siteID int64) error {
	for i := range f.categories {
		f.categories[i].SiteID = siteID
	}
	for i := range f.schedules {
		f.schedules[i].SiteID = siteID
	}
	return tx.PutFees(siteID, f.categories, f.schedules)
}

func (a *App) readFees(ctx context.Context, gw market.Marketplace, site market.Site) (siteFees, error) {
	var out siteFees
	cats, err := gw.Categories(ctx, site.Code)
	if err != nil {
		return out, err
	}
	for _, c := range cats {
		out.categories = append(out.categories, store.Category{Ref: c.Ref, Parent: c.Parent, Name: clip(c.Name, 200)})
	}
	fees, err := gw.Fees(ctx, site.Code)
	if err != nil {
		return out, err
	}
	for _, f := range fees {
		if _, err := pricing.NewTerms(pricing.Spec{Currency: money.Currency(site.Currency), Fees: f.Fees}); err != nil {
			return out, &Error{Unavailable, "", fmt.Sprintf("the fees that %s gives for category %q from %s can't be right: %v", site.Name, f.Category, f.StartsOn, err)}
		}
		text, err := json.Marshal(f.Fees)
		if err != nil {
			return out, err
		}
		out.schedules = append(out.schedules, store.FeeSchedule{Category: f.Category, StartsOn: f.StartsOn, Fees: string(text)})
	}
	return out, nil
}

// RefreshFees reads a site's categories and fees again.
func (a *App) RefreshFees(ctx context.Context, siteID int64) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	fees, err := a.readFees(ctx, a.gateway(site.Marketplace), market.Site{Code: site.Code, Name: site.Name, Currency: site.Currency})
	if err != nil {
		return err
	}
	now := a.now()
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		return errors.Join(fees.put(tx, site.ID), tx.Update(&store.Site{ID: site.ID}, map[string]any{"fees_at": &now}))
	})
	if err != nil {
		return err
	}
	a.note(ctx, "fees read", site.Name, "")
	a.changed("sites")
	a.price(ctx, site)
	return nil
}

// SetTerms sets what the buyer pays for delivery on a site and what sending one
// costs us, texts in major units of its currency.
func (a *App) SetTerms(ctx context.Context, siteID int64, charged, outbound string) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	cur := money.Currency(site.Currency)
	read := func(field, text string) (int64, error) {
		v, err := money.Parse(strings.TrimSpace(text), cur)
		if err != nil || v.Minor < 0 {
			return 0, invalid(field, "%q is not an amount in %s such as %s", text, cur, money.Of(295, cur))
		}
		return v.Minor, nil
	}
	c, err := read("charged", charged)
	if err != nil {
		return err
	}
	o, err := read("outbound", outbound)
	if err != nil {
		return err
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		return tx.Update(&store.Site{ID: site.ID}, map[string]any{"charged": c, "outbound": o})
	})
	if err != nil {
		return err
	}
	a.note(ctx, "selling terms set", site.Name, fmt.Sprintf("delivery charged %s, sending %s", charged, outbound))
	a.changed("sites")
	a.price(ctx, site)
	return nil
}

// SetRate keeps an exchange rate, with today as its day.
func (a *App) SetRate(ctx context.Context, from, to, rate string) error {
	f, t := money.Currency(strings.ToUpper(from)), money.Currency(strings.ToUpper(to))
	if !f.Valid() || !t.Valid() || f == t {
		return invalid("from", "an exchange rate is between two currencies such as EUR and GBP")
	}
	v, err := money.ParseFX(strings.TrimSpace(rate))
	if err != nil {
		return invalid("rate", "%v; write how much %s one %s is, as in 0.8612", err, t, f)
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		return tx.PutRate(&store.ExchangeRate{From: string(f), To: string(t), Rate: int64(v), Day: a.now().Format("2006-01-02")})
	})
	if err != nil {
		return err
	}
	a.note(ctx, "exchange rate set", string(f)+" to "+string(t), rate)
	a.changed("sites")
	sites, err := a.Store.Sites(ctx)
	for _, s := range sites {
		if s.Currency == string(t) {
			a.price(ctx, s)
		}
	}
	return err
}

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

// Rule is a price rule in the form of design/money.md's cases.
type Rule struct {
	Name    string          `json:"-"`
	Aims    []RuleCondition `json:"aims" minItems:"1"`
	Keep    []RuleCondition `json:"keep"`
	Least   string          `json:"least,omitempty"`
	Most    string          `json:"most,omitempty"`
	Endings *RuleEndings    `json:"endings,omitempty"`
}

var firstRule = Rule{Name: "Everything", Aims: []RuleCondition{{Kind: "margin", Value: "18%"}}}

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

// RuleOf is the price rule of a site.
func (a *App) RuleOf(ctx context.Context, siteID int64) (Rule, error) {
	row, err := a.Store.RuleOf(ctx, siteID)
	if err != nil {
		return Rule{}, err
	}
	r := Rule{Name: row.Name}
	if err := json.Unmarshal([]byte(row.Wish), &r); err != nil {
		return r, fmt.Errorf("reading rule %d: %w", row.ID, err)
	}
	return r, nil
}

// SetRule keeps a site's price rule and works prices out anew. It changes no
// marketplace: listings that are live get a plan.
func (a *App) SetRule(ctx context.Context, siteID int64, r Rule) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	text, err := json.Marshal(r)
	if err != nil {
		return err
	}
	if _, err := pricing.ReadWish(text, money.Currency(site.Currency)); err != nil {
		field, words, _ := strings.Cut(err.Error(), ": ")
		return &Error{Invalid, field, words}
	}
	row, err := a.Store.RuleOf(ctx, siteID)
	if err != nil && !errors.Is(err, store.ErrMissing) {
		return err
	}
	row.SiteID, row.Name, row.Wish, row.UpdatedAt = siteID, r.Name, string(text), a.now()
	if err := a.Store.Save(ctx, &row); err != nil {
		return err
	}
	a.note(ctx, "price rule kept", site.Name, row.Wish)
	a.changed("rules")
	a.price(ctx, site)
	return nil
}

// FeeRow is what a category pays on a site, in words a person reads.
type FeeRow struct {
	Category string   `json:"category" doc:"Ref; empty for every category without fees of its own"`
	Name     string   `json:"name"`
	StartsOn string   `json:"starts_on" doc:"YYYY-MM-DD"`
	Holds    bool     `json:"holds" doc:"Whether it holds today"`
	Fees     []string `json:"fees" doc:"Each fee in words"`
}

// Fees lists a site's fee schedules, those that hold today and those to come.
func (a *App) Fees(ctx context.Context, siteID int64) ([]FeeRow, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	cats, err := a.Store.CategoriesOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	names := map[string]string{"": "Everything else"}
	for _, c := range cats {
		names[c.Ref] = c.Name
	}
	schedules, err := a.Store.FeesOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	today := a.now().Format("2006-01-02")
	newest := map[string]string{}
	for _, s := range schedules {
		if s.StartsOn <= today {
			newest[s.Category] = s.StartsOn
		}
	}
	out := []FeeRow{}
	for _, s := range schedules {
		var fees []pricing.Fee
		if err := json.Unmarshal([]byte(s.Fees), &fees); err != nil {
			return nil, fmt.Errorf("fees of %s for %q: %w", site.Name, s.Category, err)
		}
		if s.StartsOn < newest[s.Category] {
			continue // no longer holds
		}
		row := FeeRow{Category: s.Category, Name: names[s.Category], StartsOn: s.StartsOn, Holds: s.StartsOn <= today, Fees: []string{}}
		for _, f := range fees {
			row.Fees = append(row.Fees, feeWords(f, money.Currency(site.Currency)))
		}
		out = append(out, row)
	}
	return out, nil
}

// feeWords says one fee in a sentence's worth of words.
func feeWords(f pricing.Fee, c money.Currency) string {
	show := func(v int64) string { return money.Of(v, c).String() }
	var parts []string
	for i, b := range f.Bands {
		part := b.Rate.String()
		if b.Fixed > 0 {
			part += " and " + show(b.Fixed)
		}
		if i < len(f.Bands)-1 {
			part += " up to " + show(b.To)
		} else if f.Banding == pricing.Slices {
			part += " of what is above"
		} else {
			part += " above that"
		}
		parts = append(parts, part)
	}
	if f.Rate > 0 {
		parts = append(parts, f.Rate.String())
	}
	if f.Fixed > 0 {
		parts = append(parts, show(f.Fixed)+" "+string(c)+" each")
	}
	if f.Least != nil {
		parts = append(parts, "at least "+show(*f.Least))
	}
	if f.Most != nil {
		parts = append(parts, "at most "+show(*f.Most))
	}
	if f.Tax != nil {
		parts = append(parts, "with "+f.Tax.String()+" tax")
	}
	return f.Name + ": " + strings.Join(parts, ", ")
}

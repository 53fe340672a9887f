package app

import (
	"cmp"
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
		site := store.Site{Code: f.Code, Name: f.Name, Currency: f.Currency, TaxWay: f.TaxWay, TaxRate: f.TaxRate, MaxLines: max(f.MaxLines, 1), LeastPicture: f.Picture,
			Kind: cmp.Or(f.Kind, market.Catalogue)}
		site.Lists = site.Kind == market.Catalogue && len(sites) == 0 // the others when a person says so
		sites = append(sites, site)
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
			rule := store.PriceRule{SiteID: sites[i].ID, Name: lastName, Position: 1, UpdatedAt: now}
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
		if f.Warehouse != nil {
			if err := f.Warehouse.Check(); err != nil {
				return out, &Error{Unavailable, "", fmt.Sprintf("the warehouse fees that %s gives for category %q from %s can't be right: %v", site.Name, f.Category, f.StartsOn, err)}
			}
		}
		row, err := scheduleRow(pricing.Schedule{Category: f.Category, StartsOn: f.StartsOn, Fees: f.Fees, Warehouse: f.Warehouse})
		if err != nil {
			return out, err
		}
		out.schedules = append(out.schedules, row)
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

// SiteTerms are what holds for all that is sold on a site, texts: amounts in
// major units of its currency, rates as percentages.
type SiteTerms struct {
	Charged    string          `json:"charged" doc:"What the buyer pays for delivery"`
	Outbound   string          `json:"outbound" doc:"What sending one costs us"`
	Handling   string          `json:"handling,omitempty" doc:"Our own work for each unit"`
	Cushion    string          `json:"cushion,omitempty" doc:"Put on costs in another currency, for the rate moving"`
	Allowances []SiteAllowance `json:"allowances,omitempty" doc:"Put by for returns, advertising and the like"`
}

// SiteAllowance is a share put by.
type SiteAllowance struct {
	Name string `json:"name" minLength:"1" maxLength:"80"`
	Of   string `json:"of" enum:"item,total,total+tax"`
	Rate string `json:"rate"`
}

// SetTerms sets what the buyer pays for delivery on a site, what sending one
// costs us, and what else is put on every cost or by of every price.
func (a *App) SetTerms(ctx context.Context, siteID int64, t SiteTerms) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	cur := money.Currency(site.Currency)
	columns := map[string]any{}
	for field, text := range map[string]string{"charged": t.Charged, "outbound": t.Outbound, "handling": cmp.Or(t.Handling, money.Of(0, cur).String())} {
		if columns[field], err = amount(field, text, cur); err != nil {
			return err
		}
	}
	cushion, err := share("cushion", cmp.Or(t.Cushion, "0"))
	if err != nil || cushion < 0 {
		return invalid("cushion", "%q is not a percentage such as 1.5%%", t.Cushion)
	}
	columns["cushion"] = int64(cushion)
	allowances := []pricing.Allowance{}
	for i, x := range t.Allowances {
		rate, err := share(fmt.Sprintf("allowances[%d].rate", i), x.Rate)
		if err != nil || rate < 0 {
			return invalid(fmt.Sprintf("allowances[%d].rate", i), "%q is not a percentage such as 2%%", x.Rate)
		}
		allowances = append(allowances, pricing.Allowance{Name: strings.TrimSpace(x.Name), Of: pricing.Base(x.Of), Rate: rate})
	}
	if _, err := pricing.NewTerms(pricing.Spec{Currency: cur, Allowances: allowances}); err != nil {
		return fieldError(err, "")
	}
	text, err := json.Marshal(allowances)
	if err != nil {
		return err
	}
	columns["allowances"] = string(text)
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Site{ID: site.ID}, columns) }); err != nil {
		return err
	}
	a.note(ctx, "selling terms set", site.Name, fmt.Sprintf("delivery charged %s, sending %s", t.Charged, t.Outbound))
	a.changed("sites")
	a.price(ctx, site)
	return nil
}

// SetLists says whether we list on a site. Where we begin to, what suppliers
// have is looked up there; where we stop, nothing more is, and what is listed stays.
func (a *App) SetLists(ctx context.Context, siteID int64, on bool) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	if on && site.Kind != market.Catalogue {
		return &Error{Conflict, "lists", site.Name + " has no catalogue to match with: listings of our own are not prepared yet"}
	}
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Site{ID: site.ID}, map[string]any{"lists": on}) }); err != nil {
		return err
	}
	a.note(ctx, map[bool]string{true: "listing begun", false: "listing stopped"}[on], site.Name, "")
	a.changed("sites", "counts")
	if on {
		return a.afterTaking(ctx)
	}
	return nil
}

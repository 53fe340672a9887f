// Package places is where we sell: marketplaces are connected, and what holds
// for all that is sold on one of their sites is set.
package places

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"sync/atomic"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Places.
type Stop struct {
	stops.Deps
	shopAt atomic.Value // string: where the own shop is served
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(runFile, st.doFile)
	q.Handle(runPullDown, st.doPullDown)
}

// Connect asks a marketplace's gateway for its sites, and keeps each with its
// categories, fees and a price rule to begin with.
func (st *Stop) Connect(ctx context.Context, name, address string) ([]store.Site, error) {
	name, address = strings.TrimSpace(name), strings.TrimRight(strings.TrimSpace(address), "/")
	if name == "" {
		return nil, fault.At("name", "say what the marketplace is called")
	}
	if stops.WebAddress(address) == "" {
		return nil, fault.At("address", "%q is not the address of a gateway, such as https://gateway.example", address)
	}
	m := store.Marketplace{Name: name, Address: address}
	dir := st.Places(m).Directory
	found, err := dir.Sites(ctx)
	if err != nil {
		return nil, err
	}
	if len(found) == 0 {
		return nil, fault.At("address", "this gateway has no sites")
	}
	var sites []store.Site
	var fees []reckon.Fees
	for _, f := range found {
		if !money.Currency(f.Currency).Valid() {
			return nil, fault.At("address", "its site %s is in %q, which is no currency we know", f.Code, f.Currency)
		}
		x, err := reckon.ReadFees(ctx, dir, f)
		if err != nil {
			return nil, err
		}
		fees = append(fees, x)
		site := store.Site{
			Code:         f.Code,
			Name:         f.Name,
			Currency:     f.Currency,
			TaxWay:       f.TaxWay,
			TaxRate:      f.TaxRate,
			MaxLines:     max(f.MaxLines, 1),
			LeastPicture: f.Picture,
			NoMarks:      f.NoMarks,
			Kind:         cmp.Or(f.Kind, place.KindCatalogue),
			TermsUnsaid:  true,
		}
		site.Lists = site.Kind == place.KindCatalogue && len(sites) == 0 // the others when a person says so
		sites = append(sites, site)
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.Create(&m); err != nil {
			return fault.Taken("name", "there is a marketplace called %s already", name)
		}
		for i := range sites {
			sites[i].MarketplaceID = m.ID
			if err := st.keep(tx, &sites[i], fees[i]); err != nil {
				return err
			}
		}
		tx.Changed("sites", "counts")
		if err := stops.LookUp(tx, sites, st.Now()); err != nil {
			return err
		}
		return tx.Note(st.Now(), "marketplace connected", name, address)
	})
	return sites, err
}

// keep keeps a site that was found, with its fees and a rule to begin with.
func (st *Stop) keep(tx store.Tx, site *store.Site, fees reckon.Fees) error {
	if err := tx.Create(site); err != nil {
		return err
	}
	cats, schedules := fees.Of(site.ID)
	if err := tx.PutFees(st.Now(), site.ID, cats, schedules); err != nil {
		return err
	}
	rule := store.PriceRule{
		SiteID:    site.ID,
		Name:      reckon.LastName,
		Wish:      reckon.FirstRule(money.Currency(site.Currency)),
		UpdatedAt: st.Now(),
	}
	return tx.InsertRule(st.Now(), &rule, 0)
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

// columns checks terms that a person wrote, and makes of them what is kept.
func (t SiteTerms) columns(cur money.Currency) (map[string]any, error) {
	columns := map[string]any{}
	var silent []*fault.Error
	for _, x := range []struct{ field, text, words string }{
		{"charged", t.Charged, "say what the buyer pays for delivery; 0 where nothing"},
		{"outbound", t.Outbound, "say what sending one costs you; 0 where nothing"},
		{"handling", cmp.Or(t.Handling, "0"), ""},
	} {
		if strings.TrimSpace(x.text) == "" {
			silent = append(silent, &fault.Error{Kind: fault.Invalid, Field: x.field, Words: x.words})
			continue
		}
		v, err := stops.Amount(x.field, x.text, cur)
		if err != nil {
			return nil, err
		}
		columns[x.field] = v
	}
	if err := fault.All(silent); err != nil {
		return nil, err
	}
	cushion, err := stops.Share("cushion", cmp.Or(t.Cushion, "0"))
	if err != nil || cushion < 0 {
		return nil, fault.At("cushion", "%q is not a percentage such as 1.5%%", t.Cushion)
	}
	columns["cushion"], columns["terms_unsaid"] = int64(cushion), false
	allowances := []pricing.Allowance{}
	for i, x := range t.Allowances {
		field := fmt.Sprintf("allowances[%d].rate", i)
		rate, err := stops.Share(field, x.Rate)
		if err != nil || rate < 0 {
			return nil, fault.At(field, "%q is not a percentage such as 2%%", x.Rate)
		}
		allowances = append(allowances, pricing.Allowance{Name: strings.TrimSpace(x.Name), Of: pricing.Base(x.Of), Rate: rate})
	}
	if _, err := pricing.NewTerms(pricing.Spec{Currency: cur, Allowances: allowances}); err != nil {
		return nil, stops.FieldError(err, "")
	}
	text, err := json.Marshal(allowances)
	columns["allowances"] = string(text)
	return columns, err
}

// SetTerms sets what the buyer pays for delivery on a site, what sending one
// costs us, and what else is put on every cost or by of every price.
func (st *Stop) SetTerms(ctx context.Context, siteID int64, edit stops.IfMatch, t SiteTerms) error {
	return st.setSite(ctx, siteID, edit, "selling terms set", fmt.Sprintf("delivery charged %s, sending %s", t.Charged, t.Outbound),
		func(site *store.Site) (map[string]any, error) { return t.columns(money.Currency(site.Currency)) })
}

// setSite changes what is set of a site, unless somebody else has since it was
// opened. Its prices are worked out anew.
func (st *Stop) setSite(
	ctx context.Context,
	siteID int64,
	edit stops.IfMatch,
	what, detail string,
	change func(*store.Site) (map[string]any, error),
) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		now, err := viewSite(site)
		if err != nil {
			return err
		}
		if err := edit.Check(site.Version, "what is set for "+site.Name, now); err != nil {
			return err
		}
		columns, err := change(&site)
		if err != nil {
			return err
		}
		columns["version"] = site.Version + 1
		if err := tx.SetSite(st.Now(), site.ID, columns); err != nil {
			return err
		}
		tx.Changed("sites")
		return tx.Note(st.Now(), what, site.Name, detail)
	})
}

// SetLists says whether we list on a site. Where we begin to, what suppliers
// have is looked up there; where we stop, nothing more is, and what is listed stays.
func (st *Stop) SetLists(ctx context.Context, siteID int64, on bool) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if on && site.Kind != place.KindCatalogue && !reckon.NeedsContent(&site) {
			return fault.Taken("lists", "%s has no catalogue to match with, and its listings can't be sent from here yet", site.Name)
		}
		if err := tx.Update(&store.Site{ID: site.ID}, map[string]any{"lists": on}); err != nil {
			return err
		}
		tx.Changed("sites", "counts")
		if site.Lists = on; on {
			if err := stops.LookUp(tx, []store.Site{site}, st.Now()); err != nil {
				return err
			}
		}
		return tx.Note(st.Now(), map[bool]string{true: "listing begun", false: "listing stopped"}[on], site.Name, "")
	})
}

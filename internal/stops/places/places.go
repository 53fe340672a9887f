// Package places is where we sell: marketplaces are connected, and what holds
// for all that is sold on one of their sites is set.
package places

import (
	"cmp"
	"context"
	"fmt"
	"strings"
	"sync/atomic"

	"easymargin/core/money"
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

// SetTerms sets what the buyer pays for delivery on a site, what sending one
// costs us, and what else is put on every cost or by of every price.
func (st *Stop) SetTerms(ctx context.Context, siteID int64, edit stops.IfMatch, t stops.SiteTerms) error {
	return st.setSite(ctx, siteID, edit, "selling terms set", fmt.Sprintf("delivery charged %s, sending %s", t.Charged, t.Outbound),
		func(_ store.Tx, site *store.Site) (map[string]any, error) {
			err := t.Set(site)
			return map[string]any{"charged": site.Charged, "outbound": site.Outbound, "handling": site.Handling, "cushion": site.Cushion,
				"terms_unsaid": site.TermsUnsaid, "allowances": site.Allowances, "postage": site.Postage}, err
		})
}

// SetParticulars sets what a site is called, where and in which currency it sells, and
// the tax in what buyers pay. Its currency is another only while nothing was sent
// there or sold: what delivery costs is asked anew then.
func (st *Stop) SetParticulars(ctx context.Context, siteID int64, edit stops.IfMatch, p stops.SiteParticulars) error {
	return st.setSite(ctx, siteID, edit, "place changed", strings.TrimSpace(p.Name), func(tx store.Tx, site *store.Site) (map[string]any, error) {
		was := *site
		if err := p.Set(site); err != nil {
			return nil, err
		}
		if site.Code != was.Code && was.Marketplace.Address != "" && was.Kind != place.KindShop {
			return nil, fault.At("country", "%s says itself where it sells: %s", was.Marketplace.Name, was.Code)
		}
		columns := map[string]any{"name": site.Name, "code": site.Code, "currency": site.Currency, "tax_way": site.TaxWay, "tax_rate": site.TaxRate, "tax_rates": site.TaxRates}
		if site.Currency != was.Currency {
			if err := otherCurrency(tx, &was, site.Currency); err != nil {
				return nil, err
			}
			columns["terms_unsaid"], columns["postage"] = true, ""
		}
		if site.Name != was.Name && was.Marketplace.Name == was.Name {
			if err := tx.Update(&store.Marketplace{ID: was.MarketplaceID}, map[string]any{"name": site.Name}); err != nil {
				return nil, fault.Taken("name", "there is a place called %s already", site.Name)
			}
		}
		return columns, nil
	})
}

// otherCurrency has what is listed on a site be in another currency; it refuses where
// something was sold in the one there is.
func otherCurrency(tx store.Tx, site *store.Site, cur string) error {
	if site.Marketplace.Address != "" && site.Kind != place.KindShop {
		return fault.At("currency", "%s says itself what it sells in: %s", site.Marketplace.Name, site.Currency)
	}
	was, _ := money.Currency(site.Currency).Digits()
	if now, _ := money.Currency(cur).Digits(); now != was {
		return fault.At("currency", "%s has other decimals than %s, in which fees and rules are written; make another place for it", cur, site.Currency)
	}
	sold, err := tx.SoldOn(site.ID)
	switch {
	case err != nil:
		return err
	case sold:
		return fault.Taken("currency", "something was sent to %s or sold there in %s; make another place for another currency", site.Name, site.Currency)
	}
	return tx.ListIn(site.ID, cur)
}

// setSite changes what is set of a site, unless somebody else has since it was
// opened. Its prices are worked out anew.
func (st *Stop) setSite(
	ctx context.Context,
	siteID int64,
	edit stops.IfMatch,
	what, detail string,
	change func(store.Tx, *store.Site) (map[string]any, error),
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
		columns, err := change(tx, &site)
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

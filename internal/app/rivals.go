package app

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"easymargin/core/pricing"
	"easymargin/internal/market"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const runRivals = "rivals"

// rivalsEvery is how often rivals' offers are read again where a rule looks at them.
const rivalsEvery = time.Hour

// readRivals queues the reading of what others ask where we have listings;
// prices are worked out after it.
func (a *App) readRivals(ctx context.Context, site store.Site) error {
	return a.queueOnce(ctx, runRivals, "Reading what others ask on "+site.Name, site.ID)
}

// ReadRivals reads what others ask on a site, on a person's word.
func (a *App) ReadRivals(ctx context.Context, siteID int64) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	return a.readRivals(ctx, site)
}

// doRivals reads the offers on every entry we have a listing on. Each group is
// kept by itself, and what was read since the run was asked for is not read
// again, so that one cut short goes on where it stopped.
func (a *App) doRivals(ctx context.Context, t *work.Task) error {
	a.begins(t)
	site, err := a.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	total, err := a.Store.CountListings(ctx, site.ID)
	if err != nil {
		return err
	}
	done, after := int64(0), int64(0)
	for {
		listed, err := a.Store.ListedEntries(ctx, site.ID, after, market.MaxNumbers, t.Created)
		if err != nil {
			return err
		}
		if len(listed) == 0 {
			break
		}
		after = listed[len(listed)-1].ListingID
		entries := make([]store.Entry, len(listed))
		for i := range listed {
			entries[i] = listed[i].Entry
		}
		if err := a.keepOffers(ctx, site, entries, a.now()); err != nil {
			return err
		}
		done += int64(len(entries))
		t.At(done, total)
	}
	t.Note = fmt.Sprintf("%s: %s read", site.Name, plural(done, "entry", "entries"))
	a.price(ctx, site)
	return nil
}

func (a *App) keepOffers(ctx context.Context, site store.Site, entries []store.Entry, at time.Time) error {
	refs := make([]string, len(entries))
	for i := range entries {
		refs[i] = entries[i].Ref
	}
	found, err := a.gateway(site.Marketplace).Offers(ctx, site.Code, refs)
	if err != nil {
		return err
	}
	return a.Store.Do(ctx, func(tx store.Tx) error {
		for i := range entries {
			list := []market.Offer{}
			led := false
			for _, o := range found[entries[i].Ref] {
				if o.Item < 1 || o.Delivery < 0 || o.Item > pricing.DefaultLimit*100 || o.Delivery > pricing.DefaultLimit {
					continue // no price that anyone could pay
				}
				o.Seller, o.Lead = clip(o.Seller, 120), o.Lead && !led // one leads at most
				led = led || o.Lead
				list = append(list, o)
			}
			text, err := json.Marshal(list)
			if err != nil {
				return err
			}
			entries[i].Offers, entries[i].OffersAt = string(text), &at
			if err := tx.PutOffers(entries[i].ID, string(text), at); err != nil {
				return err
			}
		}
		return nil
	})
}

// rivalRound reads rivals again on the sites whose rules look at them, when their time has come.
func (a *App) rivalRound(ctx context.Context) error {
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if !site.Lists {
			continue
		}
		p, err := a.pricer(ctx, site)
		if err != nil {
			return err
		}
		for i := range p.rules {
			if !p.rules[i].stands() {
				continue
			}
			old, err := a.Store.ListedEntries(ctx, site.ID, 0, 1, a.now().Add(-rivalsEvery))
			if err != nil {
				return err
			}
			if len(old) > 0 {
				if err := a.readRivals(ctx, site); err != nil {
					return err
				}
			}
			break
		}
	}
	return nil
}

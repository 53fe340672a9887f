package preparing

import (
	"context"

	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// OwnCandidate is a product of ours that isn't on a site yet.
type OwnCandidate struct {
	ProductID int64  `json:"product_id"`
	SKU       string `json:"sku"`
	Title     string `json:"title"`
	Brand     string `json:"brand"`
	Stock     int64  `json:"stock" doc:"Of the supplier with most"`
	Category  string `json:"category" doc:"Ref of the one it would go into; empty where nothing speaks for one"`
	Picture   string `json:"picture" doc:"Digest"`
}

// Candidates are products that could be listed on a site of our own, those with
// most stock first.
func (st *Stop) Candidates(ctx context.Context, siteID int64, words string, p store.Page) (store.List[store.CandidateRow], error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return store.List[store.CandidateRow]{}, err
	}
	if !reckon.NeedsContent(&site) {
		return store.List[store.CandidateRow]{}, fault.New(fault.Conflict, "%s has a catalogue: what is sold there is found under Match", site.Name)
	}
	return st.Store.OwnCandidates(ctx, siteID, words, p)
}

// mostAdded is the most products that are listed at once.
const mostAdded = 10_000

// Add makes listings of our own of some products on a site. Each goes into the
// category of the same name as where it is sold already, else into the one
// given; it isn't sent before it has a price and what its category needs.
func (st *Stop) Add(ctx context.Context, siteID int64, products []int64, category string) (int64, error) {
	if len(products) == 0 || len(products) > mostAdded {
		return 0, fault.At("products", "choose from 1 to %d products", mostAdded)
	}
	var n int64
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if !reckon.NeedsContent(&site) {
			return fault.New(fault.Conflict, "%s has a catalogue: what is sold there is found under Match", site.Name)
		}
		if n, err = stops.ListOwn(tx, st.Now(), &site, products, category); err != nil {
			return err
		}
		tx.Changed("prepare", "listings", "products", "counts")
		return stops.First(st.queueDemands(tx, site), tx.Note(st.Now(), "listed", site.Name, stops.Plural(n, "product", "products")))
	})
	return n, err
}

// Unlist takes listings of our own off their site. One that was never handed over
// goes, with what was said of it; of one that was, nothing more is offered, and
// the plan says so. It says how many went at once.
func (st *Stop) Unlist(ctx context.Context, ids []int64) (int64, error) {
	var gone int64
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range ids {
			x, err := load(tx, id)
			if err != nil {
				return err
			}
			handed, err := tx.EverHandedOver(id)
			if err != nil {
				return err
			}
			if handed {
				err = tx.Unwant(st.Now(), id)
			} else {
				gone++
				err = tx.DeleteListing(id)
			}
			if err := stops.First(err, tx.Note(st.Now(), "taken off", x.listing.SKU, x.site.Name)); err != nil {
				return err
			}
		}
		tx.Changed("prepare", "listings", "products", "counts", "plan")
		return nil
	})
	return gone, err
}

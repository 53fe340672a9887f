package places

import (
	"context"
	"fmt"

	"easymargin/core/ident"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// runPullDown is the taking over of what a gateway says is listed.
const runPullDown = "take over"

// PullDown has what a gateway says we have on sale taken over: what is tied to
// nothing of ours is tied where it can be.
func (st *Stop) PullDown(ctx context.Context, siteID int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if site.Marketplace.Address == "" {
			return fault.New(fault.Conflict, "%s can't be asked; bring in the listing report that it lets you download", site.Marketplace.Name)
		}
		run = store.Run{Kind: runPullDown, Lane: store.Lane(runPullDown, site.MarketplaceID), Title: "Taking over what is listed on " + site.Name,
			Subject: site.ID, Once: true, CreatedAt: st.Now()}
		return tx.Queue(&run)
	})
	return run, err
}

// doPullDown takes over part by part. Those that are ours already are left to
// the reading back, which knows what is on its way.
func (st *Stop) doPullDown(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	p := st.Places(site.Marketplace)
	var f store.PlaceFile // its figures alone
	var all []string
	for after := ""; ; {
		there, next, err := p.Outlet.Listings(ctx, site.Code, after)
		if err != nil {
			return err
		}
		for len(there) > 0 {
			n := min(len(there), partOfFile)
			if err := st.pullPart(ctx, p.Catalogue, &f, site, there[:n]); err != nil {
				return err
			}
			for _, x := range there[:n] {
				all = append(all, x.SKU)
			}
			f.Rows += int64(n)
			t.At(f.Rows, 0)
			there = there[n:]
		}
		if next == "" || next == after {
			break
		}
		after = next
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("listings", "counts", "products", "places", "matches")
		return tx.KeepUntied(site.ID, all)
	}); err != nil {
		return err
	}
	t.Note = fmt.Sprintf("%s: %s taken over, %d ours before, %d tied to nothing of ours", site.Name,
		stops.Plural(f.New, "listing", "listings"), f.Same, f.Untied)
	return nil
}

func (st *Stop) pullPart(ctx context.Context, c place.Catalogue, f *store.PlaceFile, site store.Site, there []place.Listing) error {
	tx := st.Store.Reading(ctx)
	skus, refs := make([]string, len(there)), make([]string, len(there))
	for i, x := range there {
		skus[i], refs[i] = x.SKU, x.Entry
	}
	ours, err := tx.ListingsBySKU(site.ID, skus)
	if err != nil {
		return err
	}
	known, err := tx.EntriesByRef(site.ID, refs)
	if err != nil {
		return err
	}
	has := map[string]bool{}
	for _, e := range known {
		has[e.Ref] = true
	}
	var fresh []*offered
	var entries []*store.Entry
	for _, x := range there {
		if _, mine := ours[x.SKU]; mine {
			f.Same++
			continue
		}
		fresh = append(fresh, &offered{sku: x.SKU, entry: x.Entry, price: x.Price, quantity: x.Quantity})
		if x.Entry == "" || has[x.Entry] || c == nil {
			continue
		}
		has[x.Entry] = true
		e, err := c.Entry(ctx, site.Code, x.Entry)
		if place.Forgotten(err) {
			continue
		}
		if err != nil {
			return err
		}
		entries = append(entries, st.entryRow(site.ID, e))
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.PutEntries(st.Now(), site.ID, entries); err != nil {
			return err
		}
		return st.tieAll(tx, f, site, fresh)
	})
}

// entryRow is an entry of a place as the store keeps it.
func (st *Stop) entryRow(siteID int64, e place.Entry) *store.Entry {
	if n := ident.Read(e.GTIN); n.Found() {
		e.GTIN = n.GTIN
	}
	return stops.EntryRow(siteID, e, st.Now())
}

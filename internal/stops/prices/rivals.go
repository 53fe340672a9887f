package prices

import (
	"context"
	"fmt"
	"slices"
	"time"

	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// rivalsEvery is how often rivals' offers are read again where a rule looks at them.
const rivalsEvery = time.Hour

// queueRivals queues the reading of what others ask where we have listings;
// what has changed is worked out after it.
func (st *Stop) queueRivals(tx store.Tx, site store.Site) error {
	r := store.Run{
		Kind:      stops.RunRivals,
		Lane:      store.Lane(stops.RunRivals, site.MarketplaceID),
		Title:     "Reading what others ask on " + site.Name,
		Subject:   site.ID,
		Once:      true,
		CreatedAt: st.Now(),
	}
	return tx.Queue(&r)
}

// ReadRivals reads what others ask on a site, on a person's word.
func (st *Stop) ReadRivals(ctx context.Context, siteID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		return st.queueRivals(tx, site)
	})
}

// doRivals reads the offers on every entry we have a listing on. Each group is
// kept by itself, and what was read since the run was asked for is not read
// again, so that one cut short goes on where it stopped.
func (st *Stop) doRivals(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	total, err := st.Store.CountListings(ctx, site.ID)
	if err != nil {
		return err
	}
	done, after := int64(0), int64(0)
	for {
		listed, err := st.Store.ListedEntries(ctx, site.ID, after, place.MaxNumbers, t.CreatedAt)
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
		if err := reckon.ReadMarket(ctx, st.Store, st.Places(site.Marketplace), site, entries, st.Now()); err != nil {
			return err
		}
		done += int64(len(entries))
		t.At(done, total)
	}
	t.Note = fmt.Sprintf("%s: %s read", site.Name, stops.Plural(done, "entry", "entries"))
	return nil
}

// rivalRound reads rivals again on the sites whose rules look at them, when their time has come.
func (st *Stop) rivalRound(ctx context.Context) error {
	sites, err := st.Store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if !site.Lists || reckon.NeedsContent(&site) {
			continue
		}
		b, err := st.Book(st.Store.Reading(ctx), site)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(b.Rules, func(r reckon.Ruled) bool { return r.LooksAtRivals() }) {
			continue
		}
		old, err := st.Store.ListedEntries(ctx, site.ID, 0, 1, st.Now().Add(-rivalsEvery))
		if err == nil && len(old) > 0 {
			err = st.ReadRivals(ctx, site.ID)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// Package weighing is the stop where it is found out what is worth selling: what
// supplier products would make on a site at today's market, sifted and sorted.
// docs/weighing.md says how people use it.
package weighing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Weigh.
type Stop struct{ stops.Deps }

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{d} }

// The runs of Weigh.
const (
	runWeigh  = "weigh"
	runMarket = "market"
)

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(runWeigh, st.doWeigh)
	q.Handle(runMarket, st.doMarket)
}

// partWeighed is how many are worked out and kept together.
const partWeighed = 1000

// queueWeigh queues the weighing of a site's candidates, behind what is looked up
// for it now.
func (st *Stop) queueWeigh(tx store.Tx, site store.Site) (store.Run, error) {
	r := store.Run{Kind: runWeigh, Lane: store.Lane(stops.RunMatch, site.MarketplaceID), Title: "Weighing what could be sold on " + site.Name, Subject: site.ID, Once: true,
		CreatedAt: st.Now()}
	err := tx.Queue(&r)
	return r, err
}

// doWeigh works out every candidate of a site: each match that has an entry. It
// reads nothing from the place.
func (st *Stop) doWeigh(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	book, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return err
	}
	total, err := st.Store.CountToWeigh(ctx, site.ID)
	if err != nil {
		return err
	}
	done, after := int64(0), int64(0)
	for {
		rows, err := st.Store.WeighRows(ctx, site.ID, after, partWeighed)
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		after = rows[len(rows)-1].MatchID
		if err := st.weighNow(ctx, book, rows); err != nil {
			return err
		}
		done += int64(len(rows))
		t.At(done, total)
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("weigh", "counts")
		return tx.EndWeighing(site.ID, st.Now())
	}); err != nil {
		return err
	}
	t.Note = fmt.Sprintf("%s: %s weighed", site.Name, stops.Plural(done, "candidate", "candidates"))
	return nil
}

// weighNow works candidates out and keeps what they would make.
func (st *Stop) weighNow(ctx context.Context, book *reckon.Book, rows []store.WeighRow, topics ...string) error {
	list := make([]store.Weighing, len(rows))
	for i := range rows {
		list[i] = st.weigh(book, &rows[i])
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed(topics...)
		return tx.PutWeighings(list)
	})
}

func (st *Stop) weigh(book *reckon.Book, r *store.WeighRow) store.Weighing {
	w := book.Weigh(&r.PricingRow)
	w.MatchID, w.EntryID = r.MatchID, r.EntryID
	w.Ours, w.Certain, w.Dropped, w.Brand, w.Supplier = r.IsOurs, r.IsCertain, r.IsDropped, r.Brand, r.Supplier
	w.Category = r.Category
	if w.Category == "" {
		w.Category = r.ItemCat
	}
	w.MarketAt, w.WeighedAt = r.OffersAt, st.Now()
	return w
}

// marketFresh is how old what others ask may be before it is read again.
const marketFresh = 6 * time.Hour

// ReadMarket has what others ask on the candidates' entries read, the dearest
// goods first, and everything weighed after it.
func (st *Stop) ReadMarket(ctx context.Context, siteID int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if st.Places(site.Marketplace).Rivals == nil {
			return fault.New(fault.Conflict, "%s doesn't say what others ask; its catalogue's file may, as a lowest price", site.Marketplace.Name)
		}
		run = store.Run{Kind: runMarket, Lane: store.Lane(stops.RunMatch, site.MarketplaceID), Title: "Reading the market of " + site.Name, Subject: site.ID,
			Once: true, CreatedAt: st.Now()}
		return tx.Queue(&run)
	})
	return run, err
}

// doMarket reads the offers on entries group by group; what was read not long
// ago isn't read again, so that one cut short goes on where it stopped.
func (st *Stop) doMarket(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	since := t.CreatedAt.Add(-marketFresh)
	total, err := st.Store.CountOldMarket(ctx, site.ID, since)
	if err != nil {
		return err
	}
	done := int64(0)
	for {
		entries, err := st.Store.OldestMarket(ctx, site.ID, since, place.MaxNumbers)
		if err != nil {
			return err
		}
		if len(entries) == 0 {
			break
		}
		if err := reckon.ReadMarket(ctx, st.Store, st.Places(site.Marketplace), site, entries, st.Now()); err != nil {
			return err
		}
		done += int64(len(entries))
		t.At(done, total)
	}
	t.Note = fmt.Sprintf("%s: what others ask on %s read", site.Name, stops.Plural(done, "entry", "entries"))
	return st.Store.Do(ctx, func(tx store.Tx) error {
		_, err := st.queueWeigh(tx, site)
		return err
	})
}

// mostRead is the most candidates whose market is read while somebody waits.
const mostRead = 200

// ReadMarketOf reads what others ask on some candidates' entries at once,
// however old it is, and weighs those anew.
func (st *Stop) ReadMarketOf(ctx context.Context, siteID int64, items []int64) error {
	if len(items) > mostRead {
		return fault.At("supplier_products", "the market of at most %d is read at once; read that of all", mostRead)
	}
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	rows, err := st.Store.WeighRowsOf(ctx, site.ID, items)
	if err != nil {
		return err
	}
	var ids []int64
	for _, r := range rows {
		if r.EntryID != nil && !slices.Contains(ids, *r.EntryID) {
			ids = append(ids, *r.EntryID)
		}
	}
	for part := range slices.Chunk(ids, place.MaxNumbers) {
		entries, err := st.Store.EntriesOf(ctx, part)
		if err != nil {
			return err
		}
		if err := reckon.ReadMarket(ctx, st.Store, st.Places(site.Marketplace), site, entries, st.Now()); err != nil {
			return err
		}
	}
	book, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return err
	}
	if rows, err = st.Store.WeighRowsOf(ctx, site.ID, items); err != nil {
		return err
	}
	return st.weighNow(ctx, book, rows, "weigh")
}

// ToWeigh is what a person wants weighed on a site.
type ToWeigh struct {
	What     string  `json:"what" enum:"all,kept,source,catalogue,items" doc:"All that was looked up, kept finds, all of a source, whatever suppliers have of the site's catalogue, or some"`
	SourceID int64   `json:"source_id,omitempty"`
	Items    []int64 `json:"supplier_products,omitempty" maxItems:"10000"`
}

// Weigh has candidates looked up, where they weren't, and weighed. Nothing is
// listed by that.
func (st *Stop) Weigh(ctx context.Context, siteID int64, what ToWeigh) (store.Run, error) {
	var items []int64
	var err error
	switch what.What {
	case "kept":
		items, err = st.Store.KeptItems(ctx)
	case "source":
		items, err = st.Store.ItemsOfSource(ctx, what.SourceID)
	case "catalogue":
		items, err = st.Store.ItemsOfCatalogue(ctx, siteID)
	case "items":
		items = what.Items
	}
	if err != nil {
		return store.Run{}, err
	}
	if what.What != "all" && len(items) == 0 {
		return store.Run{}, fault.At("what", "there is nothing of that to weigh yet")
	}
	var run store.Run
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if len(items) > 0 {
			if err := tx.AskToWeigh(items, site.ID, st.Now()); err != nil {
				return err
			}
			look := stops.MatchRun(site, st.Now())
			if err := tx.Queue(&look); err != nil {
				return err
			}
		}
		run, err = st.queueWeigh(tx, site)
		tx.Changed("matches")
		return err
	})
	return run, err
}

// Ask has candidates that were looked up to be weighed alone matched as any
// others: what is certain is listed where the site accepts that by itself, the
// rest waits on Match.
func (st *Stop) Ask(ctx context.Context, siteID int64, items []int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if err := tx.AskWeighed(items, site.ID); err != nil {
			return err
		}
		run = stops.MatchRun(site, st.Now())
		if err := tx.Queue(&run); err != nil {
			return err
		}
		_, err = st.queueWeigh(tx, site)
		return err
	})
	return run, err
}

// weighedAgain is how long what was worked out stands: costs and rivals move.
const weighedAgain = time.Hour

// Round weighs the sites anew that were weighed before, once an hour.
func (st *Stop) Round(ctx context.Context) error {
	ids, err := st.Store.OldWeighings(ctx, st.Now().Add(-weighedAgain))
	for _, id := range ids {
		err = errors.Join(err, st.Store.Do(ctx, func(tx store.Tx) error {
			site, err := tx.SiteOf(id)
			if err != nil {
				return err
			}
			_, err = st.queueWeigh(tx, site)
			return err
		}))
	}
	return err
}

package app

import (
	"context"
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Find is a supplier product that a search found, with what one would make.
type Find struct {
	store.FoundRow
	Landed   *int64 `json:"landed" doc:"Landed cost of one, in the site's currency"`
	Would    *int64 `json:"would_ask" doc:"The price the site's rule would ask, under its fees for every category"`
	WouldGet *int64 `json:"would_make" doc:"What would be left of a sale at that price"`
	Site     string `json:"site" doc:"On which site that is"`
	Cur      string `json:"site_currency"`
	Why      string `json:"why" doc:"Why no price can be told"`
}

// Search finds supplier products over all suppliers by words or identifier.
func (a *App) Search(ctx context.Context, words string) ([]Find, error) {
	rows, err := a.Store.Search(ctx, words, 100)
	if err != nil {
		return nil, err
	}
	return a.wouldMake(ctx, rows)
}

// Kept lists what was kept, newest first.
func (a *App) Kept(ctx context.Context) ([]Find, error) {
	rows, err := a.Store.Kept(ctx)
	if err != nil {
		return nil, err
	}
	return a.wouldMake(ctx, rows)
}

// wouldMake works out, on the first site, what each find would make.
func (a *App) wouldMake(ctx context.Context, rows []store.FoundRow) ([]Find, error) {
	out := make([]Find, len(rows))
	for i := range rows {
		out[i].FoundRow = rows[i]
	}
	sites, err := a.Store.Sites(ctx)
	if err != nil || len(sites) == 0 || len(rows) == 0 {
		return out, err
	}
	p, err := a.pricer(ctx, sites[0])
	if err != nil {
		return nil, err
	}
	sources, err := a.Store.Sources(ctx)
	if err != nil {
		return nil, err
	}
	delivery := map[int64]store.Source{}
	for _, s := range sources {
		delivery[s.ID] = s
	}
	for i := range out {
		x, s := &out[i], delivery[out[i].SourceID]
		x.Site, x.Cur = sites[0].Name, sites[0].Currency
		cost := p.costOf(&store.PricingRow{Cost: x.Cost, CostCurrency: x.Currency, UnitsBought: max(x.Units, 1), UnitsListed: 1, Charge: s.Charge, FreeFrom: s.FreeFrom})
		landed, err := cost.Landed(p.currency)
		if err != nil {
			x.Why = fmt.Sprintf("no exchange rate from %s to %s", x.Currency, x.Cur)
			continue
		}
		x.Landed = &landed
		w := worked{link: &store.PricingRow{Supplier: s.Supplier.Name, Brand: x.Brand}}
		p.choose(&w, landed)
		if w.broken != "" || !w.choice.Found {
			x.Why = words(w.broken, p.priceWhy(w.choice))
			continue
		}
		choice := w.choice
		if q, err := w.terms.Quote(nil, w.spend, money.Of(choice.Price, p.currency)); err == nil {
			x.Would, x.WouldGet = &choice.Price, &q.Profit
		}
	}
	return out, nil
}

// Keep keeps a supplier product with a note, without listing it.
func (a *App) Keep(ctx context.Context, id int64, note string) error {
	if err := a.Store.Keep(ctx, id, clip(note, 1000), a.now()); err != nil {
		return err
	}
	a.changed("finds")
	return a.pictures(ctx)
}

// Forget lets a kept supplier product go.
func (a *App) Forget(ctx context.Context, id int64) error {
	if err := a.Store.Forget(ctx, id); err != nil {
		return err
	}
	a.changed("finds")
	return nil
}

// TakeToSite takes supplier products to a site: each is looked up there by its
// number, under the site's own defaults. One certain hit becomes a listing, the
// others wait on Match.
func (a *App) TakeToSite(ctx context.Context, ids []int64, siteID int64) (work.Run, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return work.Run{}, err
	}
	if len(ids) == 0 {
		return work.Run{}, invalid("ids", "choose what to take to %s", site.Name)
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range ids {
			if _, err := store.GetTx[store.SupplierProduct](tx, id); err != nil {
				return err
			}
			if err := tx.AskFor(id, siteID, a.now()); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return work.Run{}, err
	}
	a.note(ctx, "taken to a site", site.Name, plural(int64(len(ids)), "find", "finds"))
	return a.Queue.Add(ctx, runMatch, "Looking numbers up on "+site.Name, site.ID)
}

// SupplierItem is a supplier product with all it says and how it came to be so.
type SupplierItem struct {
	store.FoundRow
	Fields   []ItemField          `json:"fields"`
	First    *time.Time           `json:"first" doc:"When it was first taken"`
	History  []store.HistoryPoint `json:"history" doc:"Oldest first"`
	Pictures []store.PictureRow   `json:"pictures"`
}

// ItemField is one named value.
type ItemField struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// SupplierItem opens one supplier product.
func (a *App) SupplierItem(ctx context.Context, id int64) (SupplierItem, error) {
	row, err := store.Get[store.SupplierProduct](ctx, a.Store, id)
	if err != nil {
		return SupplierItem{}, err
	}
	p, err := row.Product()
	if err != nil {
		return SupplierItem{}, err
	}
	found, err := a.Store.FoundByID(ctx, id)
	if err != nil {
		return SupplierItem{}, err
	}
	out := SupplierItem{FoundRow: found, Fields: []ItemField{}}
	for _, f := range p.Fields() {
		if f.Value != "" {
			out.Fields = append(out.Fields, ItemField{f.Name, f.Value})
		}
	}
	first, points, err := a.Store.History(ctx, id)
	if !first.IsZero() {
		out.First = &first
	}
	if out.History = points; err != nil {
		return out, err
	}
	out.Pictures, err = a.Store.PicturesOf(ctx, id)
	return out, err
}

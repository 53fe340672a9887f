package sources

import (
	"context"
	"strconv"
	"strings"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// FoundRow is a supplier product that a search found, and what it is to us.
type FoundRow struct {
	ID         int64      `json:"id"`
	SourceID   int64      `json:"source_id"`
	Supplier   string     `json:"supplier"`
	Ref        string     `json:"ref"`
	GTIN       string     `json:"gtin"`
	Title      string     `json:"title"`
	Brand      string     `json:"brand"`
	Category   string     `json:"category"`
	Cost       int64      `json:"cost"`
	Currency   string     `json:"currency"`
	Stock      int64      `json:"stock"`
	StockState string     `json:"stock_state"`
	Gone       bool       `json:"gone"`
	Units      int64      `json:"units"`
	ProductID  *int64     `json:"product_id" doc:"Ours, where it is one"`
	SKU        string     `json:"sku"`
	Sites      string     `json:"sites" doc:"Where it is listed and in what state, as 'live on Quaymarket GB, …'"`
	Profit     *int64     `json:"profit" doc:"Left of a sale on the first of those sites"`
	ProfitCur  string     `json:"profit_currency"`
	Note       string     `json:"note"`
	KeptAt     *time.Time `json:"kept"`
	Picture    string     `json:"picture" doc:"Digest of its leading picture; empty where none is kept"`
}

// Find is a supplier product that a search found, with what one would make.
type Find struct {
	FoundRow
	Landed   *int64 `json:"landed" doc:"Landed cost of one, in the site's currency"`
	Would    *int64 `json:"would_ask" doc:"The price the site's rule would ask, under its fees for every category"`
	WouldGet *int64 `json:"would_make" doc:"What would be left of a sale at that price"`
	Site     string `json:"site" doc:"On which site that is"`
	Cur      string `json:"site_currency"`
	Why      string `json:"why" doc:"Why no price can be told"`
}

// Search finds supplier products over all suppliers by words or identifier.
func (st *Stop) Search(ctx context.Context, words string) ([]Find, error) {
	rows, err := st.Store.Search(ctx, words, 100)
	if err != nil {
		return nil, err
	}
	return st.wouldMake(ctx, rows)
}

// Kept lists what was kept, newest first.
func (st *Stop) Kept(ctx context.Context) ([]Find, error) {
	rows, err := st.Store.Kept(ctx)
	if err != nil {
		return nil, err
	}
	return st.wouldMake(ctx, rows)
}

// wouldMake works out, on the first site, what each find would make: by the
// same figures as the bench.
func (st *Stop) wouldMake(ctx context.Context, rows []store.FoundRow) ([]Find, error) {
	out, at, ids := make([]Find, len(rows)), map[int64]*Find{}, make([]int64, len(rows))
	for i := range rows {
		out[i].FoundRow, ids[i] = FoundRow(rows[i]), rows[i].ID
		at[rows[i].ID] = &out[i]
	}
	sites, err := st.Store.Sites(ctx)
	if err != nil || len(sites) == 0 || len(rows) == 0 {
		return out, err
	}
	book, err := st.Book(st.Store.Reading(ctx), sites[0])
	if err != nil {
		return nil, err
	}
	figures, err := st.Store.FoundRows(ctx, ids)
	if err != nil {
		return nil, err
	}
	for i := range figures {
		x := at[figures[i].SupplierProductID]
		x.Site, x.Cur = sites[0].Name, sites[0].Currency
		f := book.WouldMake(&figures[i])
		if f.Spend.Landed != 0 || f.Broken == "" {
			x.Landed = &f.Spend.Landed
		}
		if f.Broken != "" || !f.Choice.Found {
			x.Why = reckon.Words(f.Broken, book.PriceWhy(&f))
			continue
		}
		if q, err := book.Quote(&f, f.Choice.Price); err == nil {
			x.Would, x.WouldGet = &f.Choice.Price, &q.Profit
		}
	}
	return out, nil
}

// Keep keeps a supplier product with a note, without listing it.
func (st *Stop) Keep(ctx context.Context, id int64, note string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.Keep(id, stops.Clip(note, 1000), st.Now()); err != nil {
			return err
		}
		tx.Changed("finds")
		return st.queuePictures(tx)
	})
}

// Forget lets a kept supplier product go.
func (st *Stop) Forget(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("finds")
		return tx.Forget(id)
	})
}

// ListOn lists supplier products on sites, by the defaults of each. Where there
// is a catalogue, each is looked up there by its number: one certain hit becomes
// a listing, the others wait on Match. Where each seller writes listings, one is
// made at once, and what it lacks stands on Prepare.
func (st *Stop) ListOn(ctx context.Context, ids, siteIDs []int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return st.listOn(tx, ids, siteIDs, "") })
}

func (st *Stop) listOn(tx store.Tx, ids, siteIDs []int64, category string) error {
	if len(ids) == 0 || len(siteIDs) == 0 {
		return fault.At("ids", "choose what to list, and where")
	}
	for _, siteID := range siteIDs {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		if reckon.NeedsContent(&site) {
			err = st.listOwn(tx, ids, &site, category)
		} else {
			err = st.lookUpOn(tx, ids, site)
		}
		if err := stops.First(err, tx.Note(st.Now(), "taken to a site", site.Name, stops.Plural(int64(len(ids)), "find", "finds"))); err != nil {
			return err
		}
	}
	tx.Changed("finds", "listings", "products", "prepare", "counts")
	return st.queuePictures(tx)
}

// lookUpOn has supplier products looked up in a site's catalogue.
func (st *Stop) lookUpOn(tx store.Tx, ids []int64, site store.Site) error {
	for _, id := range ids {
		if _, err := store.GetTx[store.SupplierProduct](tx, id); err != nil {
			return err
		}
		if err := tx.AskFor(id, site.ID, st.Now()); err != nil {
			return err
		}
	}
	run := stops.MatchRun(site, st.Now())
	return tx.Queue(&run)
}

// listOwn makes listings of our own of supplier products; what is no product of
// ours yet becomes one.
func (st *Stop) listOwn(tx store.Tx, ids []int64, site *store.Site, category string) error {
	var products []int64
	for _, id := range ids {
		p, err := store.GetTx[store.SupplierProduct](tx, id)
		if err != nil {
			return err
		}
		link, ours, err := tx.LinkOf(id)
		if err != nil {
			return err
		}
		if !ours {
			prod := store.Product{GTIN: p.GTIN, Title: p.Title, Brand: p.Brand, CreatedAt: st.Now()}
			if err := stops.MakeProduct(tx, &p, &prod, 0); err != nil {
				return err
			}
			link.ProductID = prod.ID
		}
		products = append(products, link.ProductID)
	}
	_, err := stops.ListOwn(tx, st.Now(), site, products, category)
	return err
}

// HistoryPoint is one change of a supplier product's cost, stock or being listed.
type HistoryPoint struct {
	At     time.Time `json:"at"`
	FeedID int64     `json:"feed_id"`
	Field  string    `json:"field"`
	Before string    `json:"before"`
	After  string    `json:"after"`
	Was    *int64    `json:"was" doc:"The figure before, of a cost in minor units; none where it is no figure"`
	Is     *int64    `json:"is"`
}

// point is a change with its figures.
func point(x store.HistoryPoint) HistoryPoint {
	out := HistoryPoint{At: x.At, FeedID: x.FeedID, Field: x.Field, Before: x.Before, After: x.After}
	if x.Field == "cost" || x.Field == "stock" {
		out.Was, out.Is = figure(x.Before), figure(x.After)
	}
	return out
}

// figure is a kept figure without its point, which a field always has at the same place.
func figure(text string) *int64 {
	v, err := strconv.ParseInt(strings.Replace(text, ".", "", 1), 10, 64)
	if err != nil {
		return nil
	}
	return &v
}

// PictureRow is one picture of a supplier product.
type PictureRow struct {
	URL    string `json:"url"`
	State  string `json:"state"`
	Digest string `json:"digest"`
	Width  int64  `json:"width"`
	Height int64  `json:"height"`
	Why    string `json:"why" doc:"Why it failed, or what speaks against it"`
}

// SupplierItem is a supplier product with all it says and how it came to be so.
type SupplierItem struct {
	FoundRow
	Fields   []ItemField    `json:"fields"`
	First    *time.Time     `json:"first" doc:"When it was first taken"`
	History  []HistoryPoint `json:"history" doc:"Oldest first"`
	Pictures []PictureRow   `json:"pictures"`
}

// ItemField is one named value.
type ItemField struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// SupplierItem opens one supplier product.
func (st *Stop) SupplierItem(ctx context.Context, id int64) (SupplierItem, error) {
	row, err := store.Get[store.SupplierProduct](ctx, st.Store, id)
	if err != nil {
		return SupplierItem{}, err
	}
	p, err := row.Product()
	if err != nil {
		return SupplierItem{}, err
	}
	found, err := st.Store.FoundByID(ctx, id)
	if err != nil {
		return SupplierItem{}, err
	}
	out := SupplierItem{FoundRow: FoundRow(found), Fields: []ItemField{}, History: []HistoryPoint{}, Pictures: []PictureRow{}}
	for _, f := range p.Fields() {
		if f.Value != "" {
			out.Fields = append(out.Fields, ItemField{f.Name, f.Value})
		}
	}
	first, points, err := st.Store.History(ctx, id)
	if err != nil {
		return out, err
	}
	if !first.IsZero() {
		out.First = &first
	}
	for _, x := range points {
		out.History = append(out.History, point(x))
	}
	pictures, err := st.Store.PicturesOf(ctx, id)
	for _, x := range pictures {
		out.Pictures = append(out.Pictures, PictureRow(x))
	}
	return out, err
}

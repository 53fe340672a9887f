// Package products is everything we sell: the listings of every site, and the
// variants of each.
package products

import (
	"cmp"
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/pricing"
	"easymargin/internal/actor"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Stop is the use cases of Products.
type Stop struct{ stops.Deps }

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{d} }

// ListingRow is a listing as lists show it. Amounts are minor units of Currency.
type ListingRow struct {
	ID                int64      `json:"id"`
	Version           int64      `json:"version" doc:"Of what is wanted of it; for If-Match"`
	ProductID         int64      `json:"product_id"`
	SKU               string     `json:"sku"`
	Title             string     `json:"title"`
	Brand             string     `json:"brand"`
	Site              string     `json:"site"`
	Category          string     `json:"category"`
	EntryRef          string     `json:"entry_ref"`
	Page              string     `json:"page" doc:"Public page of the entry"`
	State             string     `json:"state"`
	Currency          string     `json:"currency"`
	Price             *int64     `json:"price"`
	Quantity          int64      `json:"quantity"`
	Units             int64      `json:"units" doc:"Single units in what is listed"`
	Landed            *int64     `json:"landed"`
	Fees              *int64     `json:"fees" doc:"Fees, their tax and allowances, of the price"`
	Tax               *int64     `json:"tax"`
	Outbound          *int64     `json:"outbound" doc:"Sending one, less what the buyer pays for it"`
	Profit            *int64     `json:"profit"`
	BreakEven         *int64     `json:"break_even"`
	Floor             *int64     `json:"floor"`
	Bound             string     `json:"bound" doc:"What set the price: aim, market, keep, most"`
	Why               string     `json:"why" doc:"Why there is no price or nothing to offer"`
	ConfirmedPrice    *int64     `json:"confirmed_price"`
	ConfirmedQuantity int64      `json:"confirmed_quantity"`
	ConfirmedAt       *time.Time `json:"confirmed_at"`
	Words             string     `json:"words" doc:"The marketplace's words of a refusal"`
	Supplier          string     `json:"supplier"`
	Ref               string     `json:"ref" doc:"The supplier's ref"`
	Cost              int64      `json:"cost"`
	CostCurrency      string     `json:"cost_currency"`
	Stock             int64      `json:"stock"`
	StockState        string     `json:"stock_state"`
	Gone              bool       `json:"gone"`
	GTIN              string     `json:"gtin"`
	Picture           string     `json:"picture" doc:"Digest of its leading picture; empty where none is kept"`
	Says              string     `json:"says" doc:"The marketplace's words, else why there is no price or nothing to offer, else what set the price"`
}

// rowOf is a listing as lists show it.
func rowOf(r store.ListingRow) ListingRow {
	out := ListingRow{
		ID:                r.ID,
		Version:           r.Version,
		ProductID:         r.ProductID,
		SKU:               r.SKU,
		Title:             r.Title,
		Brand:             r.Brand,
		Site:              r.Site,
		Category:          r.Category,
		EntryRef:          r.EntryRef,
		Page:              r.Page,
		State:             r.State,
		Currency:          r.Currency,
		Price:             r.Price,
		Quantity:          r.Quantity,
		Units:             r.Units,
		Landed:            r.Landed,
		Fees:              r.Fees,
		Tax:               r.Tax,
		Outbound:          r.Outbound,
		Profit:            r.Profit,
		BreakEven:         r.BreakEven,
		Floor:             r.Floor,
		Bound:             r.Bound,
		Why:               r.Why,
		ConfirmedPrice:    r.ConfirmedPrice,
		ConfirmedQuantity: r.ConfirmedQuantity,
		ConfirmedAt:       r.ConfirmedAt,
		Words:             r.Words,
		Supplier:          r.Supplier,
		Ref:               r.Ref,
		Cost:              r.Cost,
		CostCurrency:      r.CostCurrency,
		Stock:             r.Stock,
		StockState:        r.StockState,
		Gone:              r.Gone,
		GTIN:              r.GTIN,
		Picture:           r.Picture,
	}
	out.Says = cmp.Or(r.Words, r.Why, reckon.BoundWords(pricing.Bound(r.Bound), r.Price != nil))
	return out
}

// Variant is one product of a family with its listing on one site.
type Variant struct {
	ListingID int64  `json:"listing_id"`
	ProductID int64  `json:"product_id"`
	SKU       string `json:"sku"`
	Variant   string `json:"variant" doc:"What sets it apart, such as 'moss, M'"`
	Site      string `json:"site"`
	State     string `json:"state"`
	Sold      bool   `json:"sold" doc:"Whether it is to be sold on this site"`
	Currency  string `json:"currency"`
	Price     *int64 `json:"price"`
	Quantity  int64  `json:"quantity"`
}

// Sell says whether a listing's product, a variant perhaps, is to be sold on
// its site. One that isn't is offered as none; where it is live, that is a plan
// first.
func (st *Stop) Sell(ctx context.Context, listingID int64, sell bool) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		l, err := store.GetTx[store.Listing](tx, listingID)
		if err != nil {
			return err
		}
		site, err := tx.SiteOf(l.SiteID)
		if err != nil {
			return err
		}
		if err := tx.SetListing(st.Now(), l.ID, map[string]any{"unwanted": !sell}); err != nil {
			return err
		}
		tx.Changed("listings")
		return tx.Note(st.Now(), "choice of what to sell", site.Name, fmt.Sprintf("%s: %v", stops.ListingName(l.ID), sell))
	})
}

// ConfirmedPoint is what a marketplace confirmed of a listing at a moment.
type ConfirmedPoint struct {
	At       time.Time `json:"at"`
	Price    *int64    `json:"price" doc:"None where this change left it as it was"`
	Quantity *int64    `json:"quantity"`
	Landed   *int64    `json:"landed" doc:"Landed cost that the price was worked out from"`
}

// historyDays is how far a listing's history goes back.
const historyDays = 180

// History is what a marketplace confirmed of a listing, oldest first.
func (st *Stop) History(ctx context.Context, listingID int64) ([]ConfirmedPoint, error) {
	list, err := st.Store.ConfirmedHistory(ctx, listingID, st.Now().AddDate(0, 0, -historyDays))
	out := make([]ConfirmedPoint, len(list))
	for i := range list {
		out[i] = ConfirmedPoint(list[i])
	}
	return out, err
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/listings/{id}/history", "list-listing-history", "listings", "What the marketplace confirmed of a listing, oldest first"),
		func(ctx context.Context, in *stops.ByID) ([]ConfirmedPoint, error) { return st.History(ctx, in.ID) },
	)
	stops.Op(api, stops.Read("/listings", "list-listings", "listings", "Listings"), func(ctx context.Context, in *struct {
		stops.Paged
		State string `query:"state" doc:"States, parted by commas; empty for all"`
		Words string `query:"words" maxLength:"300"`
		Site  int64  `query:"site" doc:"Only on this site; 0 for all"`
		// Supplier and Category narrow it further.
		Supplier int64  `query:"supplier" doc:"Only what is worked out from this supplier; 0 for all"`
		Category string `query:"category" maxLength:"400" doc:"Only in this category of a site; empty for all"`
	}) (stops.List[ListingRow], error) {
		f := store.ListingFilter{Words: in.Words, SiteID: in.Site, SupplierID: in.Supplier, Category: in.Category}
		if in.State != "" {
			f.States = strings.Split(in.State, ",")
		}
		l, err := st.Store.Listings(ctx, f, in.Page())
		return stops.Shown(l, err, rowOf)
	})
	stops.Op(api, stops.Read("/listings/{id}", "get-listing", "listings", "One listing"),
		func(ctx context.Context, in *stops.ByID) (ListingRow, error) {
			r, err := st.Store.ListingRowOf(ctx, in.ID)
			return rowOf(r), err
		},
	)
	stops.Op(api, stops.Read("/products/{id}", "get-product", "products", "One product: what the supplier says, what we say, what the market says"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Listing int64 `query:"listing" doc:"The listing that it is about; left out: its first"`
		}) (Docket, error) {
			return st.Docket(ctx, in.ID, in.Listing)
		})
	stops.Op(api, stops.Read("/listings/{id}/variants", "list-listing-variants", "listings", "The variants of a listing's product on its site; none where it is no variant"),
		func(ctx context.Context, in *stops.ByID) ([]Variant, error) {
			rows, err := st.Store.VariantsOf(ctx, in.ID)
			out := make([]Variant, 0, len(rows))
			for _, r := range rows {
				out = append(out, Variant(r))
			}
			return out, err
		},
	)
	stops.Op(api, stops.Put("/listings/{id}/on-sale", "set-listing-on-sale", actor.Send, "Say whether a product, a variant perhaps, is to be sold on this site", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Sold bool `json:"sold"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Sell(ctx, in.ID, in.Body.Sold))
		},
	)
}

package watching

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SupplyMove is a cost or a stock of something we list that a feed changed.
type SupplyMove struct {
	ID        int64      `json:"id"`
	At        *time.Time `json:"at"`
	FeedID    int64      `json:"feed_id"`
	Source    string     `json:"source"`
	ProductID int64      `json:"product_id"`
	Title     string     `json:"title"`
	Ref       string     `json:"ref"`
	Field     string     `json:"field" enum:"cost,stock,listed"`
	Before    string     `json:"before"`
	After     string     `json:"after"`
	Currency  string     `json:"currency"`
	Listings  int64      `json:"listings" doc:"Made of it"`
	Picture   string     `json:"picture"`
	ItemID    int64      `json:"item_id" doc:"Of the supplier product"`
}

// RivalMove is what others ask on an entry that we list on, from a moment on;
// totals in minor units.
type RivalMove struct {
	ID            int64     `json:"id"`
	At            time.Time `json:"at"`
	ListingID     int64     `json:"listing_id"`
	SKU           string    `json:"sku"`
	Title         string    `json:"title"`
	Site          string    `json:"site"`
	Currency      string    `json:"currency"`
	Lowest        *int64    `json:"lowest"`
	LowestBefore  *int64    `json:"lowest_before"`
	Leading       *int64    `json:"leading"`
	LeadingBefore *int64    `json:"leading_before"`
	Sellers       int64     `json:"sellers"`
	SellersBefore *int64    `json:"sellers_before"`
	Asked         *int64    `json:"asked" doc:"What we ask in all"`
	Floor         *int64    `json:"floor"`
	Picture       string    `json:"picture"`
}

// SentRow is one change that was handed over of a listing: what it was, why, who
// let it go, and what the marketplace said.
type SentRow struct {
	ID        int64      `json:"id"`
	SendOutID int64      `json:"send_out_id"`
	At        time.Time  `json:"at" doc:"When it was let go"`
	Answered  *time.Time `json:"answered"`
	FromPrice *int64     `json:"from_price"`
	Price     *int64     `json:"price"`
	FromQty   *int64     `json:"from_quantity"`
	Quantity  *int64     `json:"quantity"`
	Reasons   []string   `json:"reasons"`
	Rule      string     `json:"rule" doc:"The price rule that held"`
	Sender    string     `json:"sender"`
	Alone     bool       `json:"alone" doc:"A rule let it go"`
	Undoes    *int64     `json:"undoes"`
	State     string     `json:"state"`
	Words     string     `json:"words" doc:"The marketplace's"`
	Profit    *int64     `json:"profit"`
}

// Step is how a listing stood from a moment on.
type Step struct {
	At       time.Time `json:"at"`
	Cost     *int64    `json:"cost" doc:"Landed"`
	Price    *int64    `json:"price" doc:"As it was confirmed"`
	Floor    *int64    `json:"floor" doc:"By the rule and the fees as they are set now"`
	Lowest   *int64    `json:"lowest" doc:"The lowest total others asked"`
	Leading  *int64    `json:"leading"`
	Stock    *int64    `json:"stock" doc:"At the supplier, in listed units"`
	Quantity int64     `json:"quantity" doc:"As it was confirmed"`
}

// History is how a listing stood in the last days.
type History struct {
	Currency string    `json:"currency"`
	Charged  int64     `json:"charged" doc:"What the buyer pays for delivery: with it, prices compare with others' totals"`
	From     time.Time `json:"from"`
	To       time.Time `json:"to"`
	Steps    []Step    `json:"steps"`
}

// History is how a listing stood in the last days.
func (st *Stop) History(ctx context.Context, listingID int64, days int) (History, error) {
	l, err := store.Get[store.Listing](ctx, st.Store, listingID)
	if err != nil {
		return History{}, err
	}
	site, err := st.Store.SiteOf(ctx, l.SiteID)
	if err != nil {
		return History{}, err
	}
	book, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return History{}, err
	}
	charged, err := reckon.DeliveryNow(st.Store.Reading(ctx), site, listingID, st.Now())
	if err != nil {
		return History{}, err
	}
	out := History{Currency: site.Currency, Charged: charged, From: st.Now().AddDate(0, 0, -days), To: st.Now(), Steps: []Step{}}
	steps, err := book.History(ctx, st.Store, listingID, out.From)
	for _, x := range steps {
		out.Steps = append(out.Steps, Step(x))
	}
	return out, err
}

func (st *Stop) moveOperations(api huma.API) {
	stops.Op(api, stops.Read("/supplier-moves", "list-supplier-moves", "feeds", "What suppliers changed of what we list, newest first"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Field string `query:"field" enum:"cost,stock,listed"`
		}) (stops.List[SupplyMove], error) {
			l, err := st.Store.SupplyMoves(ctx, in.Field, in.Page())
			return stops.Shown(l, err, func(r store.SupplyMove) SupplyMove { return SupplyMove(r) })
		})
	stops.Op(api, stops.Read("/rival-moves", "list-rival-moves", "listings", "How what others ask moved where we list, newest first"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Site int64 `query:"site" doc:"0: every site"`
		}) (stops.List[RivalMove], error) {
			l, err := st.Store.RivalMoves(ctx, in.Site, in.Page())
			return stops.Shown(l, err, func(r store.RivalMove) RivalMove { return RivalMove(r) })
		})
	stops.Op(api, stops.Read("/listings/{id}/submitted", "list-submitted-of-listing", "sendouts", "All that was handed over of a listing, newest first"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Paged
		}) (stops.List[SentRow], error) {
			l, err := st.Store.Sent(ctx, in.ID, in.Page())
			return stops.Shown(l, err, func(r store.SentRow) SentRow { return SentRow(r) })
		})
	stops.Op(api, stops.Read("/listings/{id}/timeline", "get-listing-timeline", "listings", "Cost, price, floor, rivals and stock of a listing through time"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Days int `query:"days" default:"60" minimum:"1" maximum:"730"`
		}) (History, error) {
			return st.History(ctx, in.ID, in.Days)
		})
}

package weighing

import (
	"context"
	"encoding/csv"
	"io"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Candidate is what a supplier product would make on a site. Amounts are minor
// units of the site's currency; what isn't known is null.
type Candidate struct {
	ID                int64      `json:"id"`
	SupplierProductID int64      `json:"supplier_product_id"`
	MatchID           int64      `json:"match_id"`
	State             string     `json:"state" doc:"Of its match; weighed where it was looked up for that alone"`
	Verdict           string     `json:"verdict" doc:"On its match"`
	Bought            int64      `json:"units_bought" doc:"Single units in the supplier's item, by its match; 0 unknown"`
	Listed            int64      `json:"units_listed" doc:"Single units in what the entry sells; 0 unknown"`
	Supplier          string     `json:"supplier"`
	Ref               string     `json:"ref"`
	GTIN              string     `json:"gtin"`
	Title             string     `json:"title"`
	Brand             string     `json:"brand"`
	Category          string     `json:"category"`
	Entry             string     `json:"entry"`
	Page              string     `json:"page" doc:"Address of the entry's page"`
	Cost              int64      `json:"cost" doc:"What the supplier asks, in its own currency"`
	CostCurrency      string     `json:"cost_currency"`
	Landed            *int64     `json:"landed"`
	Stock             *int64     `json:"stock" doc:"How many of what is sold could be had"`
	Weight            *int64     `json:"weight" doc:"Grams"`
	Lowest            *int64     `json:"lowest" doc:"The lowest total that others ask"`
	Leading           *int64     `json:"leading"`
	Sellers           *int64     `json:"sellers"`
	Rating            *int64     `json:"rating" doc:"Hundredths of a star"`
	Rank              *int64     `json:"rank"`
	TiesUp            *int64     `json:"ties_up" doc:"What must be bought to sell one: whole cases, where a supplier sells nothing smaller"`
	ProfitLowest      *int64     `json:"profit_lowest"`
	MarginLowest      *int64     `json:"margin_lowest" doc:"Millionths"`
	ReturnLowest      *int64     `json:"return_lowest" doc:"Millionths"`
	ProfitLeading     *int64     `json:"profit_leading"`
	PriceRule         *int64     `json:"price_rule"`
	ProfitRule        *int64     `json:"profit_rule"`
	PriceAim          *int64     `json:"price_aim"`
	Above             *int64     `json:"above" doc:"By how much the total that the aim needs is over the lowest"`
	BestSupplier      bool       `json:"best_supplier"`
	BestSite          bool       `json:"best_site"`
	UnitsSold         int64      `json:"units_sold" doc:"Of what it supplies, on the site, in the last thirty days"`
	Ours              bool       `json:"ours"`
	Kept              bool       `json:"kept"`
	Reason            string     `json:"reason" doc:"Why it was dropped"`
	MarketAt          *time.Time `json:"market_at" doc:"When it was read what others ask"`
	WeighedAt         time.Time  `json:"weighed_at"`
	Picture           string     `json:"picture"`
}

func candidateOf(r store.SiftedRow) Candidate {
	return Candidate{
		ID: r.ID, SupplierProductID: r.SupplierProductID, MatchID: r.MatchID, State: r.State, Verdict: r.Verdict, Bought: r.Bought, Listed: r.Listed, Supplier: r.Supplier, Ref: r.Ref, GTIN: r.GTIN,
		Title: r.Title, Brand: r.Brand, Category: r.Category, Entry: r.EntryRef, Page: r.Page, Cost: r.Cost, CostCurrency: r.CostCur, Landed: r.Landed,
		Stock: r.Stock, Weight: r.Weight, TiesUp: r.TiesUp, Lowest: r.Lowest, Leading: r.Leading, Sellers: r.Sellers, Rating: r.Rating, Rank: r.Rank,
		ProfitLowest: r.ProfitLowest, MarginLowest: r.MarginLowest, ReturnLowest: r.ReturnLowest, ProfitLeading: r.ProfitLeading,
		PriceRule: r.PriceRule, ProfitRule: r.ProfitRule, PriceAim: r.PriceAim, Above: r.Above, BestSupplier: r.BestSupplier, BestSite: r.BestSite, UnitsSold: r.UnitsSold,
		Ours: r.Ours || r.ListedNow, Kept: r.Kept, Reason: r.Reason, MarketAt: r.MarketAt, WeighedAt: r.WeighedAt, Picture: r.Picture,
	}
}

// Opened is a candidate with what stands around it.
type Opened struct {
	Candidate Candidate     `json:"candidate"`
	Offers    []place.Offer `json:"offers" doc:"What others ask on its entry"`
	Same      []Candidate   `json:"same" doc:"The same entry's candidates of all suppliers, the cheapest first"`
	LookUps   []LookUp      `json:"look_ups"`
	Moved     []MarketPoint `json:"moved" doc:"How what others ask moved, oldest first"`
	Sold      []SoldOn      `json:"sold" doc:"What was sold of it in the last thirty days, by site"`
}

// SoldOn is how many of something were sold on a site.
type SoldOn struct {
	Site  string `json:"site"`
	Units int64  `json:"units"`
}

// MarketPoint is what others asked from a moment on: totals, minor units.
type MarketPoint struct {
	At      time.Time `json:"at"`
	Lowest  *int64    `json:"lowest"`
	Leading *int64    `json:"leading"`
	Sellers int64     `json:"sellers"`
}

// LookUp is a web address that the seller looks things up at, made out for one product.
type LookUp struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Address string `json:"address" doc:"With {words} and {number} where they go; made out where it stands by a product"`
}

// SieveView is a named sieve.
type SieveView struct {
	ID      int64    `json:"id"`
	Name    string   `json:"name" minLength:"1" maxLength:"80"`
	Sieve   string   `json:"sieve" maxLength:"8000" doc:"A list of conditions as JSON; each {column, op, values}, or a list of them of which any must hold"`
	Sort    string   `json:"sort" maxLength:"40"`
	Down    bool     `json:"down"`
	Columns []string `json:"columns,omitempty" maxItems:"40" doc:"Shown with it, in this order; the usual ones where left out"`
	Facts   bool     `json:"facts" doc:"Whether it looks at facts only, and not at what follows from prices"`
}

// ColumnView is a column that a sieve may look at.
type ColumnView struct {
	Name    string   `json:"name"`
	Kind    string   `json:"kind"`
	Ops     []string `json:"ops"`
	Follows bool     `json:"follows" doc:"It follows from prices"`
}

// Asked is which candidates are asked for.
type Asked struct {
	SiteID  int64  `path:"id"`
	Sieve   string `query:"sieve" maxLength:"8000" doc:"A list of conditions as JSON"`
	Dropped bool   `query:"dropped" doc:"Those that were dropped, in place of the others"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/sites/{id}/candidates", "list-candidates", "weigh", "What supplier products would make on a site, sifted and sorted"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Asked
		}) (stops.List[Candidate], error) {
			l, err := st.List(ctx, in.Asked, in.Page())
			return stops.Shown(l, err, candidateOf)
		})
	stops.Op(api, stops.Read("/sites/{id}/candidates/count", "count-candidates", "weigh", "How many go through a sieve"),
		func(ctx context.Context, in *Asked) (stops.Counted, error) {
			n, err := st.Count(ctx, *in)
			return stops.Counted{Count: int(n)}, err
		})
	stops.Op(api, stops.Read("/candidates/{id}", "get-candidate", "weigh", "A candidate with what others ask and who else supplies it"),
		func(ctx context.Context, in *stops.ByID) (Opened, error) { return st.Open(ctx, in.ID) })
	stops.Op(api, stops.Post("/sites/{id}/candidates/weigh", "weigh-candidates", actor.Prepare, "Look candidates up on a site, where they weren't, and weigh them", "sources", "runs"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body ToWeigh
		}) (stops.Run, error) {
			r, err := st.Weigh(ctx, in.ID, in.Body)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Post("/sites/{id}/candidates/read-market", "read-market", actor.Prepare, "Read what others ask on the candidates' entries, and weigh them anew", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.ReadMarket(ctx, in.ID)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Read("/sites/{id}/sellers/offers", "list-seller-offers", "weigh", "What one seller offers on a site, where the place tells, and who supplies it"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Seller string `query:"seller" required:"true" minLength:"1" maxLength:"200"`
		}) (Shop, error) {
			return st.SoldBy(ctx, in.ID, in.Seller)
		})
	stops.Op(api, stops.Post("/sites/{id}/candidates/read-market-now", "read-market-of-candidates", actor.Prepare, "Read what others ask on some candidates' entries at once", "weigh", "finds", "matches", "products", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body Some
		}) (stops.Done, error) {
			return stops.Said(st.ReadMarketOf(ctx, in.ID, in.Body.Items))
		})
	stops.Op(api, stops.Post("/candidates/reject", "reject-candidates", actor.Prepare, "Drop candidates, with the reason", "weigh", "finds", "matches", "products", "listings"),
		func(ctx context.Context, in *struct {
			Body struct {
				Some
				Reason string `json:"reason" maxLength:"200"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Drop(ctx, in.Body.Items, in.Body.Reason))
		})
	stops.Op(api, stops.Post("/candidates/restore", "restore-candidates", actor.Prepare, "Bring dropped candidates back", "weigh", "finds", "matches", "products", "listings"),
		func(ctx context.Context, in *struct{ Body Some }) (stops.Done, error) {
			return stops.Said(st.Undrop(ctx, in.Body.Items))
		})
	stops.Op(api, stops.Post("/candidates/shortlist", "shortlist-candidates", actor.Prepare, "Keep candidates as finds", "weigh", "finds", "matches", "products", "listings"),
		func(ctx context.Context, in *struct{ Body Some }) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.Body.Items))
		})
	stops.Op(api, stops.Post("/sites/{id}/candidates/match", "match-candidates", actor.Prepare, "Have what was looked up to be weighed alone matched, by Match's rules", "weigh", "finds", "matches", "products", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body Some
		}) (stops.Run, error) {
			r, err := st.Ask(ctx, in.ID, in.Body.Items)
			return stops.RunOf(r), err
		})
	st.sieveOperations(api)
}

// Some are supplier products.
type Some struct {
	Items []int64 `json:"supplier_products" minItems:"1" maxItems:"10000"`
}

// Filters are the kept filters, and what one may look at.
type Filters struct {
	Sieves  []SieveView  `json:"sieves" doc:"The filters that were kept, by name"`
	Columns []ColumnView `json:"columns" doc:"What a filter may ask of, and a list may show"`
	LookUps []LookUp     `json:"look_ups" doc:"Addresses that a candidate is looked up at"`
}

func (st *Stop) sieveOperations(api huma.API) {
	stops.Op(api, stops.Read("/filters", "list-filters", "sieves", "Named sieves, and the columns that one may look at"),
		func(ctx context.Context, _ *stops.None) (Filters, error) {
			var out Filters
			var err error
			if out.Sieves, err = st.Sieves(ctx); err != nil {
				return out, err
			}
			out.Columns = columns()
			out.LookUps, err = st.lookUps(ctx, func(address string) string { return address })
			return out, err
		})
	stops.Op(api, stops.Post("/filters", "create-filter", actor.Prepare, "Keep a sieve under a name, in place of the one of that name", "sieves"),
		func(ctx context.Context, in *struct{ Body SieveView }) (stops.Made, error) {
			id, err := st.PutSieve(ctx, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Delete("/filters/{id}", "delete-filter", actor.Prepare, "Forget a named sieve", "sieves"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ForgetSieve(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/web-look-ups", "create-web-look-up", actor.Prepare, "Keep a web address that things are looked up at", "sieves", "weigh"),
		func(ctx context.Context, in *struct {
			Body struct {
				Name    string `json:"name" minLength:"1" maxLength:"80"`
				Address string `json:"address" minLength:"1" maxLength:"2000"`
			}
		}) (stops.Made, error) {
			id, err := st.PutLookUp(ctx, in.Body.Name, in.Body.Address)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Delete("/web-look-ups/{id}", "delete-web-look-up", actor.Prepare, "Forget a web address that things are looked up at", "sieves", "weigh"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ForgetLookUp(ctx, in.ID))
		})
	stops.Download(api, stops.Read("/sites/{id}/candidates/export.{format}", "export-candidates", "weigh", "The candidates that go through a sieve, as a file"),
		func(ctx context.Context, in *struct {
			Asked
			stops.Format
			Sort string `query:"sort"`
			Desc bool   `query:"desc"`
		}) (stops.File, error) {
			return st.file(ctx, in.Asked, in.Format.Format, store.Page{Limit: 500, Sort: in.Sort, Desc: in.Desc})
		})
}

// file is the candidates that go through a sieve, in the order asked for. What is wrong
// with the question is said before the file begins.
func (st *Stop) file(ctx context.Context, in Asked, format string, p store.Page) (stops.File, error) {
	out := stops.File{Name: "candidates." + format}
	site, err := st.Store.SiteOf(ctx, in.SiteID)
	if err == nil {
		_, err = st.List(ctx, in, store.Page{Limit: 1, Sort: p.Sort})
	}
	if err == nil && format == "xlsx" {
		err = st.fitsSheet(ctx, in)
	}
	out.Write = func(w io.Writer) error {
		if format == "xlsx" {
			return st.WriteSheet(ctx, w, site, in, p)
		}
		return st.Write(ctx, csv.NewWriter(w), site, in, p)
	}
	return out, err
}

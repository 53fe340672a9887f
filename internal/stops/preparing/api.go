package preparing

import (
	"context"
	"encoding/json"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/listing"
	"easymargin/internal/actor"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// PreparationRow is a listing of our own as Prepare lists it.
type PreparationRow struct {
	ID       int64    `json:"id"`
	SKU      string   `json:"sku"`
	Title    string   `json:"title" doc:"As it would go up"`
	Product  string   `json:"product"`
	Site     string   `json:"site"`
	Category string   `json:"category"`
	State    string   `json:"state"`
	Currency string   `json:"currency"`
	Price    *int64   `json:"price"`
	Profit   *int64   `json:"profit"`
	Done     int64    `json:"done"`
	Needed   int64    `json:"needed"`
	Helped   int64    `json:"helped"`
	Helps    int64    `json:"helps"`
	Lacks    []string `json:"lacks" doc:"What stops it, in words"`
	Picture  string   `json:"picture" doc:"Digest"`
	Changed  []string `json:"changed" doc:"Fields that differ from what is there, where it is on sale"`
}

func rowOf(r store.PreparationRow) PreparationRow {
	out := PreparationRow{ID: r.ListingID, SKU: r.SKU, Title: r.Title, Product: r.ProductTitle, Site: r.Site, Category: r.Category, State: r.State, Currency: r.Currency,
		Price: r.Price, Profit: r.Profit, Done: r.Done, Needed: r.Needed, Helped: r.Helped, Helps: r.Helps, Lacks: []string{}, Picture: r.Picture, Changed: []string{}}
	_ = json.Unmarshal([]byte(r.Changed), &out.Changed) // as it was written
	var problems []listing.Problem
	if json.Unmarshal([]byte(r.Lacks), &problems) == nil {
		for _, p := range problems {
			if p.Level == listing.Stops {
				out.Lacks = append(out.Lacks, reckon.ProblemWords(p))
			}
		}
	}
	return out
}

// LackingView is one thing that listings lack, and how many do.
type LackingView struct {
	Field    string `json:"field"`
	Words    string `json:"words"`
	Listings int64  `json:"listings"`
}

// Operations registers the stop's part of the API.
func (st *Stop) Operations(api huma.API) {
	st.besideOperations(api)
	st.mendOperations(api)
	st.pictureOperations(api)
	st.defaultOperations(api)
	st.blankOperations(api)
	st.refusalOperations(api)
	type filter struct {
		stops.Paged
		Site  int64  `query:"site"`
		Part  string `query:"part" enum:",ready,all,changed,unsent"`
		Words string `query:"words" maxLength:"200"`
	}
	stops.Op(api, stops.Read("/preparations", "list-preparations", "prepare", "Listings of our own by what they lack; those first of which one thing done brings most"),
		func(ctx context.Context, in *filter) (stops.List[PreparationRow], error) {
			l, err := st.Store.Preparations(ctx, store.PreparationFilter{SiteID: in.Site, Part: in.Part, Words: in.Words}, in.Page())
			return stops.Shown(l, err, rowOf)
		})
	stops.Op(api, stops.Read("/preparations/missing-fields", "list-missing-fields", "prepare", "What listings of our own lack, the commonest first"),
		func(ctx context.Context, in *struct {
			Site int64 `query:"site"`
		}) ([]LackingView, error) {
			out := []LackingView{}
			found, err := st.Store.Lackings(ctx, in.Site)
			for _, x := range found {
				out = append(out, LackingView{x.Field, reckon.ProblemWords(listing.Problem{Field: x.Field, Code: x.Code}), x.Listings})
			}
			return out, err
		})
	stops.Op(api, stops.Read("/preparations/{id}", "get-preparation", "prepare", "A listing of our own with what its category asks for"),
		func(ctx context.Context, in *stops.ByID) (PreparedView, error) { return st.One(ctx, in.ID, nil) })
	type saying struct {
		ID   int64 `path:"id"`
		Body struct {
			Say []FieldSaid `json:"say" maxItems:"500"`
		}
	}
	stops.Op(api, stops.Ask("/preparations/{id}/check", "check-preparation", "listings", "What a listing would be with other words; nothing is kept"),
		func(ctx context.Context, in *saying) (PreparedView, error) { return st.One(ctx, in.ID, in.Body.Say) })
	stops.Op(api, stops.Put("/preparations/{id}", "update-preparation", actor.Prepare, "Keep what a person says of a listing", "prepare", "listings"),
		func(ctx context.Context, in *saying) (PreparedView, error) { return st.Say(ctx, in.ID, in.Body.Say) })
	type many struct {
		Body struct {
			IDs []int64     `json:"ids" minItems:"1" maxItems:"10000"`
			Say []FieldSaid `json:"say" minItems:"1" maxItems:"50"`
		}
	}
	stops.Op(api, stops.Ask("/preparations/overrides/check", "check-preparation-overrides", "listings", "What listings would be with the same words in all; nothing is kept"),
		func(ctx context.Context, in *many) ([]Outcome, error) {
			return st.SayAll(ctx, in.Body.IDs, in.Body.Say, false)
		})
	stops.Op(api, stops.Post("/preparations/overrides", "override-preparations", actor.Prepare, "Keep the same words of many listings", "prepare", "listings"),
		func(ctx context.Context, in *many) ([]Outcome, error) {
			return st.SayAll(ctx, in.Body.IDs, in.Body.Say, true)
		})
	stops.Op(api, stops.Read("/preparations/sheet", "get-preparation-sheet", "sheet", "Listings of our own in one category, as a grid"),
		func(ctx context.Context, in *struct {
			Site     int64  `query:"site" required:"true"`
			Category string `query:"category"`
			All      bool   `query:"all" doc:"Also those that lack nothing"`
		}) (Sheet, error) {
			return st.Sheet(ctx, in.Site, in.Category, in.All)
		})
	type rows struct {
		Body struct {
			Rows []RowSaid `json:"rows" minItems:"1" maxItems:"10000"`
		}
	}
	stops.Op(api, stops.Ask("/preparations/sheet/check", "check-preparation-sheet", "prepare", "What rows of a sheet would be; nothing is kept"),
		func(ctx context.Context, in *rows) ([]SheetRow, error) { return st.CheckRows(ctx, in.Body.Rows) })
	stops.Op(api, stops.Put("/preparations/sheet", "update-preparation-sheet", actor.Prepare, "Keep what a person says in a sheet", "prepare", "listings"),
		func(ctx context.Context, in *rows) ([]SheetRow, error) { return st.SayRows(ctx, in.Body.Rows) })
	stops.Op(api, stops.Read("/preparations/{id}/categories", "search-categories", "prepare", "Categories that a listing could go into, with what a sale would cost there"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Words string `query:"words" maxLength:"200"`
			Below string `query:"below" maxLength:"200" doc:"Ref; with no words: those right below it"`
		}) ([]CategoryChoice, error) {
			return st.Categories(ctx, in.ID, in.Words, in.Below)
		})
	stops.Op(api, stops.Read("/preparations/{id}/variants", "list-own-variants", "prepare", "The variants of a listing's product on its site, by what sets them apart"),
		func(ctx context.Context, in *stops.ByID) (VariantGrid, error) { return st.Variants(ctx, in.ID) })
	stops.Op(api, stops.Post("/preparations/visibility", "set-visibility", actor.Send, "Set how listings are shown: hidden, from a day, until a day", "prepare", "listings", "plan", "products"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs   []int64  `json:"ids" minItems:"1" maxItems:"10000"`
				Shown ShownHow `json:"shown"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Show(ctx, in.Body.IDs, in.Body.Shown))
		})
	stops.Op(api, stops.Post("/preparations/adopt", "adopt-supplier-content", actor.Prepare, "Take the supplier's words and pictures for what they changed since a person said otherwise", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs []int64 `json:"ids" minItems:"1" maxItems:"10000"`
			}
		}) (stops.Counted, error) {
			n, err := st.Adopt(ctx, in.Body.IDs)
			return stops.Counted{Count: n}, err
		})
	stops.Op(api, stops.Post("/preparations/category", "set-preparations-category", actor.Prepare, "Put listings that aren't on sale into a category", "prepare", "listings", "runs"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs      []int64 `json:"ids" minItems:"1" maxItems:"10000"`
				Category string  `json:"category"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetCategory(ctx, in.Body.IDs, in.Body.Category))
		})
	stops.Op(api, stops.Put("/preparations/{id}/sku", "set-sku", actor.Prepare, "Give a listing that was never handed over a SKU of its own", "prepare", "listings", "products"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				SKU string `json:"sku" maxLength:"60"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetSKU(ctx, in.ID, in.Body.SKU))
		})
	stops.Op(api, stops.Post("/preparations/unlist", "unlist-preparations", actor.Prepare, "Take listings of our own off their site; those that were never handed over go, the others are put to nothing by the plan", "prepare", "listings", "plan", "products"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs []int64 `json:"ids" minItems:"1" maxItems:"10000"`
			}
		}) (stops.Counted, error) {
			n, err := st.Unlist(ctx, in.Body.IDs)
			return stops.Counted{Count: int(n)}, err
		})
	type onSite struct {
		ID int64 `path:"id"`
		stops.Paged
		Words string `query:"words" maxLength:"200"`
	}
	stops.Op(api, stops.Read("/sites/{id}/listable-products", "list-listable-products", "prepare", "Products that could be listed on a site of our own"),
		func(ctx context.Context, in *onSite) (stops.List[OwnCandidate], error) {
			l, err := st.Candidates(ctx, in.ID, in.Words, in.Page())
			return stops.Shown(l, err, func(r store.CandidateRow) OwnCandidate { return OwnCandidate(r) })
		})
	stops.Op(api, stops.Post("/sites/{id}/listings", "create-own-listings", actor.Prepare, "Make listings of our own of some products", "prepare", "listings", "plan", "products", "runs"),
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Products []int64 `json:"products" minItems:"1" maxItems:"10000"`
				Category string  `json:"category,omitempty" doc:"Ref; left out: the one of the same name as where it is sold already"`
			}
		}) (stops.Counted, error) {
			n, err := st.Add(ctx, in.ID, in.Body.Products, in.Body.Category)
			return stops.Counted{Count: int(n)}, err
		})
	stops.Op(api, stops.Read("/sites/{id}/requirements", "list-requirements", "prepare", "What a site asks for, category by category"),
		func(ctx context.Context, in *stops.ByID) ([]DemandView, error) { return st.Demands(ctx, in.ID) })
	stops.Op(api, stops.Read("/sites/{id}/value-mappings", "list-value-mappings", "prepare", "Our words for a site's values, learnt from what people chose"),
		func(ctx context.Context, in *stops.ByID) ([]OurWord, error) { return st.Words(ctx, in.ID) })
	stops.Op(api, stops.Delete("/sites/{id}/value-mappings", "delete-value-mapping", actor.Prepare, "Take one of our words back", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID        int64  `path:"id"`
			Category  string `query:"category"`
			Attribute string `query:"attribute" required:"true"`
			Ours      string `query:"ours" required:"true"`
		}) (stops.Done, error) {
			return stops.Said(st.Forget(ctx, in.ID, in.Category, in.Attribute, in.Ours))
		})
	stops.Op(api, stops.Post("/sites/{id}/requirements/read", "read-requirements", actor.Prepare, "Read what a site asks for again", "runs", "prepare", "listings"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.ReadDemands(ctx, in.ID))
		})
	stops.Op(api, stops.Put("/sites/{id}/requirements", "update-requirements", actor.Prepare, "Write down what a category asks for", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Category string `json:"category"`
				Needs    string `json:"needs" maxLength:"1000000" doc:"JSON, in the form of docs/listings.md"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.WriteDemand(ctx, in.ID, in.Body.Category, in.Body.Needs))
		})
}

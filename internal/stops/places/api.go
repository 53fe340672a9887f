package places

import (
	"cmp"
	"context"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/actor"
	"easymargin/internal/feed"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SiteView is a site as the API shows it.
type SiteView struct {
	ID          int64                 `json:"id"`
	Version     int64                 `json:"version" doc:"Of what is set of it; for If-Match"`
	Name        string                `json:"name"`
	Marketplace string                `json:"marketplace"`
	Address     string                `json:"address"`
	Currency    string                `json:"currency"`
	Kind        string                `json:"kind" doc:"catalogue, own listings, sheet, shop"`
	Lists       bool                  `json:"lists" doc:"Whether we list there"`
	Accepts     bool                  `json:"accepts" doc:"Whether certain matches are accepted by themselves"`
	TaxWay      string                `json:"tax_way"`
	TaxRate     string                `json:"tax_rate"`
	Charged     int64                 `json:"charged" doc:"What the buyer pays for delivery"`
	Outbound    int64                 `json:"outbound" doc:"What sending one costs us"`
	Handling    int64                 `json:"handling" doc:"Our own work for each unit"`
	Cushion     string                `json:"cushion"`
	Allowances  []stops.SiteAllowance `json:"allowances"`
	TermsUnsaid bool                  `json:"terms_unsaid" doc:"Nobody has said yet what the buyer pays for delivery and what sending costs us; nothing is priced until then"`
	Particulars stops.SiteParticulars `json:"particulars" doc:"What it is, as update-site takes it"`
	Terms       stops.SiteTerms       `json:"terms" doc:"The same as texts, as update-terms takes them; empty where nobody has said it"`
	FeesAt      *time.Time            `json:"fees_read"`
}

func viewSite(x store.Site) (SiteView, error) {
	v := SiteView{
		ID:          x.ID,
		Version:     x.Version,
		Name:        x.Name,
		Marketplace: x.Marketplace.Name,
		Address:     x.Marketplace.Address,
		Currency:    x.Currency,
		Kind:        x.Kind,
		Lists:       x.Lists,
		Accepts:     x.Accepts,
		TaxWay:      x.TaxWay,
		TaxRate: money.Rate(x.TaxRate).
			String(),
		TermsUnsaid: x.TermsUnsaid,
		Charged:     x.Charged,
		Outbound:    x.Outbound,
		Handling:    x.Handling,
		Cushion:     money.Rate(x.Cushion).String(),
		Allowances:  []stops.SiteAllowance{},
		FeesAt:      x.FeesAt,
	}
	var err error
	if v.Terms, err = stops.TermsOf(x); err != nil {
		return v, err
	}
	v.Allowances = v.Terms.Allowances
	v.Particulars, err = stops.ParticularsOf(x)
	return v, err
}

func viewSites(list []store.Site, err error) ([]SiteView, error) {
	out := []SiteView{}
	for _, x := range list {
		v, err := viewSite(x)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, err
}

// Category is a category of a site.
type Category struct {
	Ref    string `json:"ref"`
	Parent string `json:"parent"`
	Name   string `json:"name"`
	Pays   string `json:"pays" doc:"Ref of the category whose fees hold for it today; its own, one above it, or empty for everything else's"`
}

// categories are a site's categories, with whose fees each pays.
func (st *Stop) categories(ctx context.Context, siteID int64) ([]Category, error) {
	tx := st.Store.Reading(ctx)
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return nil, err
	}
	rows, err := tx.CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	list, err := reckon.SchedulesOf(tx, site)
	if err != nil {
		return nil, err
	}
	parent := map[string]string{}
	for _, c := range rows {
		parent[c.Ref] = c.Parent
	}
	schedules, day := pricing.NewSchedules(parent, list), st.Now().Format(reckon.DayForm)
	out := []Category{}
	for _, c := range rows {
		pays, _ := schedules.On(c.Ref, day)
		out = append(out, Category{c.Ref, c.Parent, c.Name, pays.Category})
	}
	return out, nil
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/sites", "list-sites", "sites", "Where we sell"), func(ctx context.Context, _ *stops.None) ([]SiteView, error) {
		return viewSites(st.Store.Sites(ctx))
	})
	stops.Op(api, stops.Post("/marketplaces", "connect-marketplace", actor.Settings, "Connect a marketplace by the address of its gateway", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *struct {
			Body struct {
				Name    string `json:"name" minLength:"1" maxLength:"120"`
				Address string `json:"address" minLength:"1" maxLength:"2000"`
			}
		}) ([]SiteView, error) {
			return viewSites(st.Connect(ctx, in.Body.Name, in.Body.Address))
		},
	)
	stops.Op(api, stops.Put("/sites/{id}/terms", "update-terms", actor.Prepare, "Set what delivery costs the buyer, what sending costs us, and what is put on costs and by of prices", "sites", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body stops.SiteTerms
		}) (stops.Done, error) {
			return stops.Said(st.SetTerms(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Put("/sites/{id}", "update-site", actor.Settings, "Set what a place is called, where and in which currency it sells, and the tax in what buyers pay", "sites", "places", "listings", "plan"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body stops.SiteParticulars
		}) (stops.Done, error) {
			return stops.Said(st.SetParticulars(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Put("/sites/{id}/listed-on", "set-listed-on", actor.Settings, "Say whether we list on a site", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Lists bool `json:"lists"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetLists(ctx, in.ID, in.Body.Lists))
		},
	)
	stops.Op(api, stops.Read("/sites/{id}/categories", "list-categories", "sites", "A site's categories"),
		func(ctx context.Context, in *stops.ByID) ([]Category, error) {
			return st.categories(ctx, in.ID)
		},
	)
	st.placeOperations(api)
}

// placeOperations are those about places that are known by their files.
func (st *Stop) placeOperations(api huma.API) {
	stops.Op(api, stops.Read("/places", "list-places", "places", "Where we sell: what each can do, and what is missing before one can sell there"),
		func(ctx context.Context, _ *stops.None) ([]PlaceView, error) { return st.List(ctx) })
	stops.Op(api, stops.Post("/places", "create-place", actor.Settings, "Make a place without a gateway", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *stops.Body[NewPlace]) (stops.Made, error) {
			site, err := st.Make(ctx, in.Body)
			return stops.Made{ID: site.ID}, err
		})
	stops.Op(api, stops.Post("/sites/{id}/categories", "add-categories", actor.Prepare, "Add categories, one a line", "sites"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Categories string `json:"categories" maxLength:"1000000"`
			}
		}) (stops.Counted, error) {
			n, err := st.AddCategories(ctx, in.ID, in.Body.Categories)
			return stops.Counted{Count: n}, err
		})
	stops.Op(api, stops.Put("/site-files/{id}/columns", "set-site-file-columns", actor.Prepare, "Say what the columns of a place's file are read as", "places"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Columns map[string]string `json:"columns"`
			}
		}) (FileView, error) {
			return st.Choose(ctx, in.ID, in.Body.Columns)
		})
	stops.Op(api, stops.Post("/site-files/{id}/take", "take-site-file", actor.Prepare, "Read a place's file", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.Take(ctx, in.ID)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Post("/sites/{id}/listings/take-over", "take-over-listings", actor.Prepare, "Take over what a gateway says we have on sale", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.PullDown(ctx, in.ID)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Post("/unlinked-offers/link", "link-offer", actor.Send, "Tie an offer that is on sale to a supplier product", "listings", "products", "matches"),
		func(ctx context.Context, in *struct {
			Body struct {
				SiteID int64  `json:"site_id"`
				SKU    string `json:"sku" minLength:"1"`
				ItemID int64  `json:"supplier_product_id"`
				Bought int64  `json:"units_bought"`
				Listed int64  `json:"units_listed"`
			}
		}) (stops.Done, error) {
			b := in.Body
			return stops.Said(st.TieByHand(ctx, b.SiteID, b.SKU, b.ItemID, b.Bought, b.Listed))
		})
	st.shopOperations(api)
	stops.Op(api, stops.Post("/sites/{id}/files", "upload-site-file", actor.Prepare, "Bring in a file that a place lets sellers download: the body is the file", "places").Uploaded().Status(http.StatusCreated),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Streamed
			Name string `query:"name" maxLength:"300" doc:"What the file is called"`
			Kind string `query:"kind" maxLength:"40"`
		}) (FileView, error) {
			name := cmp.Or(strings.TrimSpace(in.Name), "pasted table")
			var v FileView
			err := in.Receive(name, feed.MaxBytes, feed.TooBig, st.Stall, func(body io.Reader) (err error) {
				v, err = st.Receive(ctx, in.ID, in.Kind, name, body)
				return err
			})
			return v, err
		})
}

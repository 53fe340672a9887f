package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/app"
	"easymargin/internal/feed"
	"easymargin/internal/work"
)

// bringing is what is done to feeds that wait and to rows that were set aside.
func (s *server) bringing(api huma.API) {
	op(api, http.MethodPost, "/api/feeds/{id}/check", "check-feed", "Read a feed that waits as if it were taken, and keep nothing of it", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			SourceID *int64            `json:"source_id,omitempty"`
			Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where it differs from what was recognised"`
		}
	}) (app.Checked, error) {
		return s.app.Check(ctx, in.ID, in.Body.SourceID, in.Body.Columns)
	})
	op(api, http.MethodPost, "/api/set-asides/{id}/mend", "mend-row", "Take one row that was set aside, with its cells mended", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Cells []string `json:"cells" doc:"A cell for each column of the feed"`
		}
	}) (work.Run, error) {
		return s.app.Mend(ctx, in.ID, in.Body.Cells)
	})
	op(api, http.MethodPost, "/api/pages", "capture-page", "Fetch one product's page; it waits to be taken", func(ctx context.Context, in *body[struct {
		Address  string `json:"address" minLength:"1" maxLength:"2000"`
		Supplier string `json:"supplier,omitempty" maxLength:"120" doc:"Whose page it is; the address's host unless said"`
	}]) (feedView, error) {
		f, err := s.app.Capture(ctx, in.Body.Supplier, in.Body.Address)
		return viewFeed(f), err
	})
	op(api, http.MethodGet, "/api/sources/{id}/settings", "source-settings", "What is set of a source", func(ctx context.Context, in *ByID) (app.SourceSettings, error) {
		x, err := s.app.Store.SourceOf(ctx, in.ID)
		if err != nil {
			return app.SourceSettings{}, err
		}
		return s.app.Settings(&x)
	})
	op(api, http.MethodGet, "/api/fields", "fields", "What a column can be read as", func(context.Context, *none) ([]string, error) { return feed.Fields, nil })
	op(api, http.MethodPut, "/api/sources/{id}/settings", "set-source", "Set how a source is fetched, read and guarded", func(ctx context.Context, in *struct {
		ByID
		Body app.SourceSettings
	}) (done, error) {
		return said(s.app.SetSettings(ctx, in.ID, in.Body))
	})
}

// finding is the search over all suppliers and what is kept of it.
func (s *server) finding(api huma.API) {
	op(api, http.MethodGet, "/api/finds", "search", "Search all suppliers' products by words, ref or number; without words, those that were kept", func(ctx context.Context, in *struct {
		Words string `query:"words" maxLength:"300"`
	}) ([]app.Find, error) {
		if in.Words == "" {
			return s.app.Kept(ctx)
		}
		return s.app.Search(ctx, in.Words)
	})
	op(api, http.MethodPut, "/api/finds/{id}", "keep-find", "Keep a supplier product with a note, without listing it", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Note string `json:"note" maxLength:"1000"`
		}
	}) (done, error) {
		return said(s.app.Keep(ctx, in.ID, in.Body.Note))
	})
	op(api, http.MethodDelete, "/api/finds/{id}", "forget-find", "Let a kept supplier product go", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.Forget(ctx, in.ID))
	})
	op(api, http.MethodPost, "/api/sites/{id}/finds", "take-finds", "Take supplier products to a site, with the site's own defaults", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			IDs []int64 `json:"ids" minItems:"1" maxItems:"500"`
		}
	}) (work.Run, error) {
		return s.app.TakeToSite(ctx, in.Body.IDs, in.ID)
	})
	op(api, http.MethodGet, "/api/supplier-products/{id}", "supplier-product", "One supplier product, with its history", func(ctx context.Context, in *ByID) (app.SupplierItem, error) {
		return s.app.SupplierItem(ctx, in.ID)
	})
}

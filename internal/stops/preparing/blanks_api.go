package preparing

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/blank"
	"easymargin/internal/stops"
)

// blankOperations are those about places' own sheets.
func (st *Stop) blankOperations(api huma.API) {
	stops.Op(api, http.MethodGet, "/api/sites/{id}/blanks", "list-blanks", "A place's own sheets, and how they are filled",
		func(ctx context.Context, in *stops.ByID) ([]BlankView, error) { return st.Blanks(ctx, in.ID) })
	stops.Upload(api, "/api/sites/{id}/blanks", "drop-blank", "What is recognised of a place's own sheet: the body is its file. Nothing of it is kept", blank.MaxFile, st.LookBlank)
	stops.Op(api, http.MethodPost, "/api/sites/{id}/blanks/keep", "keep-blank", "Keep a blank for a category; what it asks for is what the category demands from now on",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body BlankChoice
		}) (BlankKept, error) {
			return st.KeepBlank(ctx, in.ID, in.Body)
		})
	stops.Op(api, http.MethodGet, "/api/sites/{id}/blanks/layout", "export-layout", "How a category's blank is filled, as easymargin fill takes it",
		func(ctx context.Context, in *struct {
			stops.ByID
			Category string `query:"category"`
		}) (any, error) {
			return st.LayoutOf(ctx, in.ID, in.Category)
		})
}

package preparing

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/stops"
)

// blankOperations are those about places' own sheets.
func (st *Stop) blankOperations(api huma.API) {
	stops.Op(api, stops.Read("/sites/{id}/templates", "list-templates", "prepare", "A place's own sheets, and how they are filled"),
		func(ctx context.Context, in *stops.ByID) ([]BlankView, error) { return st.Blanks(ctx, in.ID) })
	stops.Upload(api, stops.Post("/sites/{id}/templates/inspect", "inspect-template", actor.Prepare, "What is recognised of a place's own sheet: the body is its file. Nothing of it is kept", "prepare"), blank.MaxFile, st.LookBlank)
	stops.Op(api, stops.Post("/sites/{id}/templates", "create-template", actor.Prepare, "Keep a blank for a category; what it asks for is what the category demands from now on", "prepare", "listings", "places", "counts"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body BlankChoice
		}) (BlankKept, error) {
			return st.KeepBlank(ctx, in.ID, in.Body)
		})
	stops.Op(api, stops.Read("/sites/{id}/templates/layout", "get-template-layout", "prepare", "How a category's blank is filled, as easymargin fill takes it"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Category string `query:"category"`
		}) (any, error) {
			return st.LayoutOf(ctx, in.ID, in.Category)
		})
}

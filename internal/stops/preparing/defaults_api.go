package preparing

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/listing"
	"easymargin/internal/actor"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// defaultOperations are those on what holds for many listings.
func (st *Stop) defaultOperations(api huma.API) {
	stops.Op(api, stops.Read("/sites/{id}/defaults", "get-defaults", "prepare", "What holds for a site's own listings unless one says otherwise"),
		func(ctx context.Context, in *stops.ByID) (SiteDefaults, error) { return st.Defaults(ctx, in.ID) })
	type ofCategory struct {
		ID   int64 `path:"id"`
		Body struct {
			Category string          `json:"category" doc:"Ref; empty is every category"`
			Defaults reckon.Defaults `json:"defaults"`
		}
	}
	stops.Op(api, stops.Ask("/sites/{id}/defaults/check", "check-defaults", "listings", "Whom it would touch; nothing is kept"),
		func(ctx context.Context, in *ofCategory) (Touched, error) {
			return st.SetDefaults(ctx, in.ID, in.Body.Category, in.Body.Defaults, false)
		})
	stops.Op(api, stops.Put("/sites/{id}/defaults", "update-defaults", actor.Prepare, "Keep what holds in a category", "prepare", "listings"),
		func(ctx context.Context, in *ofCategory) (Touched, error) {
			return st.SetDefaults(ctx, in.ID, in.Body.Category, in.Body.Defaults, true)
		})
	type terms struct {
		ID   int64 `path:"id"`
		Body struct {
			Name  string        `json:"name" maxLength:"80"`
			Terms listing.Terms `json:"terms"`
		}
	}
	stops.Op(api, stops.Ask("/sites/{id}/selling-terms/check", "check-selling-terms", "listings", "Whom selling terms would touch; nothing is kept"),
		func(ctx context.Context, in *terms) (Touched, error) {
			return st.SetTerms(ctx, in.ID, in.Body.Name, in.Body.Terms, false)
		})
	stops.Op(api, stops.Put("/sites/{id}/selling-terms", "update-selling-terms", actor.Prepare, "Keep selling terms under a name", "prepare", "listings"),
		func(ctx context.Context, in *terms) (Touched, error) {
			return st.SetTerms(ctx, in.ID, in.Body.Name, in.Body.Terms, true)
		})
	stops.Op(api, stops.Delete("/sites/{id}/selling-terms", "delete-selling-terms", actor.Prepare, "Forget selling terms that no category has", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID   int64  `path:"id"`
			Name string `query:"name" required:"true"`
		}) (stops.Done, error) {
			return stops.Said(st.DropTerms(ctx, in.ID, in.Name))
		})
	stops.Op(api, stops.Delete("/sites/{id}/learnt-categories", "delete-learnt-category", actor.Prepare, "Forget which of a site's categories a supplier's is", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID   int64  `path:"id"`
			Ours string `query:"ours" required:"true"`
		}) (stops.Done, error) {
			return stops.Said(st.Store.Do(ctx, func(tx store.Tx) error {
				tx.Changed("prepare")
				return tx.UnlearnCategory(in.ID, in.Ours)
			}))
		})
	stops.Op(api, stops.Ask("/preparations/{id}/description/check", "check-description", "listings", "What a template would make of a listing's description"),
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Blocks []listing.Block   `json:"blocks" maxItems:"40"`
				Texts  []reckon.KeptText `json:"texts,omitempty" maxItems:"200"`
			}
		}) (Described, error) {
			return st.Describe(ctx, in.ID, in.Body.Blocks, in.Body.Texts)
		})
	stops.Op(api, stops.Post("/sites/{id}/brands", "request-brand", actor.Send, "Note that a place was asked to put a brand on its register, or what became of that", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body NewBrand
		}) (stops.Done, error) {
			return stops.Said(st.AskBrand(ctx, in.ID, in.Body))
		})
	stops.Op(api, stops.Read("/preparations/{id}/brands", "search-brands", "prepare", "Search the register that a listing's brand must be on"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Words string `query:"words" maxLength:"120"`
		}) ([]string, error) {
			return st.Brands(ctx, in.ID, in.Words)
		})
}

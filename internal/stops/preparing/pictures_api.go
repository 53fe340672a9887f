package preparing

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/retouch"
	"easymargin/internal/stops"
)

// pictureOperations are those on the pictures of listings.
func (st *Stop) pictureOperations(api huma.API) {
	stops.Op(api, stops.Read("/preparations/{id}/pictures", "list-picture-choices", "prepare", "What the pictures of a listing can be chosen from, and what its site wants of them"),
		func(ctx context.Context, in *stops.ByID) (PictureDesk, error) { return st.Pictures(ctx, in.ID) })
	stops.Op(api, stops.Put("/preparations/{id}/pictures", "set-picture-choice", actor.Prepare, "Keep a person's choice of pictures; the first leads", "prepare", "listings"),
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Pictures []PictureChoice `json:"pictures" maxItems:"200"`
			}
		}) (PreparedView, error) {
			return st.Choose(ctx, in.ID, in.Body.Pictures)
		})
	stops.Op(api, stops.Delete("/preparations/{id}/pictures", "delete-picture-choice", actor.Prepare, "Take a person's choice of pictures back: the supplier's stand there again", "prepare", "listings"),
		func(ctx context.Context, in *stops.ByID) (PreparedView, error) { return st.Choose(ctx, in.ID, nil) })
	stops.Op(api, stops.Post("/preparations/pictures", "retouch-pictures", actor.Prepare, "Do the same to all pictures of many listings; a run", "runs", "prepare"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs    []int64        `json:"ids" minItems:"1" maxItems:"10000"`
				Recipe retouch.Recipe `json:"recipe"`
			}
		}) (stops.Run, error) {
			r, err := st.Retouch(ctx, in.Body.IDs, in.Body.Recipe)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Post("/pictures/fetch", "fetch-picture", actor.Prepare, "Bring in a picture from its address", "pictures"),
		func(ctx context.Context, in *struct {
			Body struct {
				Address string `json:"address" minLength:"1" maxLength:"2000"`
			}
		}) (OriginalPicture, error) {
			return st.FetchPicture(ctx, in.Body.Address)
		})
	stops.Op(api, stops.Post("/pictures", "upload-picture", actor.Prepare, "Bring in a picture: the body is its file", "pictures").Most(retouch.MostBytes+1<<20),
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"application/octet-stream"`
		}) (OriginalPicture, error) {
			return st.AddPicture(ctx, in.RawBody)
		})
	stops.Download(api, stops.Read("/pictures/{digest}/preview", "preview-picture", "pictures", "A picture as a recipe would make it").File("image/*"),
		func(ctx context.Context, in *struct {
			Digest string `path:"digest"`
			Recipe string `query:"recipe" required:"true" doc:"JSON of Recipe"`
		}) (stops.File, error) {
			p, err := st.Look(ctx, in.Digest, []byte(in.Recipe))
			if err != nil {
				return stops.File{}, err
			}
			return stops.File{Type: "image/" + p.Kind, Content: p.Content, Cache: lookFor}, nil
		})
	stops.Download(api, stops.Read("/sites/{id}/value-mappings/export.csv", "export-value-mappings", "prepare", "Our words for a site's values, as CSV").File("text/csv"),
		func(ctx context.Context, in *stops.ByID) (stops.File, error) { return st.wordsFile(ctx, in.ID) })
}

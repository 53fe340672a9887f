package preparing

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/internal/retouch"
	"easymargin/internal/stops"
)

// pictureOperations are those on the pictures of listings.
func (st *Stop) pictureOperations(api huma.API) {
	stops.Op(api, http.MethodGet, "/api/preparations/{id}/pictures", "list-picture-choices", "What the pictures of a listing can be chosen from, and what its site wants of them",
		func(ctx context.Context, in *stops.ByID) (PictureDesk, error) { return st.Pictures(ctx, in.ID) })
	stops.Op(api, http.MethodPut, "/api/preparations/{id}/pictures", "choose-pictures", "Keep a person's choice of pictures; the first leads",
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Pictures []PictureChoice `json:"pictures" maxItems:"200"`
			}
		}) (PreparedView, error) {
			return st.Choose(ctx, in.ID, in.Body.Pictures)
		})
	stops.Op(api, http.MethodDelete, "/api/preparations/{id}/pictures", "unchoose-pictures", "Take a person's choice of pictures back: the supplier's stand there again",
		func(ctx context.Context, in *stops.ByID) (PreparedView, error) { return st.Choose(ctx, in.ID, nil) })
	stops.Op(api, http.MethodPost, "/api/preparations/pictures", "retouch", "Do the same to all pictures of many listings; a run",
		func(ctx context.Context, in *struct {
			Body struct {
				IDs    []int64        `json:"ids" minItems:"1" maxItems:"10000"`
				Recipe retouch.Recipe `json:"recipe"`
			}
		}) (stops.Run, error) {
			r, err := st.Retouch(ctx, in.Body.IDs, in.Body.Recipe)
			return stops.RunOf(r), err
		})
	stops.Op(api, http.MethodPost, "/api/pictures/from-address", "fetch-picture", "Bring in a picture from its address",
		func(ctx context.Context, in *struct {
			Body struct {
				Address string `json:"address" minLength:"1" maxLength:"2000"`
			}
		}) (OriginalPicture, error) {
			return st.FetchPicture(ctx, in.Body.Address)
		})
	huma.Register(api, huma.Operation{OperationID: "add-picture", Method: http.MethodPost, Path: "/api/pictures", Summary: "Bring in a picture: the body is its file",
		DefaultStatus: http.StatusOK, MaxBodyBytes: retouch.MostBytes + 1<<20},
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"application/octet-stream"`
		}) (*stops.Body[OriginalPicture], error) {
			p, err := st.AddPicture(ctx, in.RawBody)
			if err != nil {
				return nil, stops.ProblemOf(err)
			}
			return &stops.Body[OriginalPicture]{Body: p}, nil
		})
	api.OpenAPI().AddOperation(&huma.Operation{Method: http.MethodGet, Path: "/api/pictures/{digest}/look", OperationID: "look-at-picture",
		Summary: "A picture as a recipe would make it, to be looked at",
		Parameters: []*huma.Param{
			{Name: "digest", In: "path", Required: true, Schema: &huma.Schema{Type: "string"}},
			{Name: "recipe", In: "query", Required: true, Description: "JSON of Recipe", Schema: &huma.Schema{Type: "string"}},
		},
		Responses: map[string]*huma.Response{"200": {Description: "The picture", Content: map[string]*huma.MediaType{"image/*": {}}}}})
}

// Routes implements stops.Routed: what is a file rather than a value.
func (st *Stop) Routes(r chi.Router) {
	r.Get("/api/sites/{id}/words.csv", st.wordsFile)
	r.Get("/api/sites/{id}/refused.{kind}", st.refusedFile)
	r.Get("/api/pictures/{digest}/look", st.look)
}

// look serves a picture as a recipe makes it: the same recipe makes the same.
func (st *Stop) look(w http.ResponseWriter, r *http.Request) {
	p, err := st.Look(r.Context(), chi.URLParam(r, "digest"), []byte(r.URL.Query().Get("recipe")))
	if err != nil {
		stops.Problem(w, err)
		return
	}
	w.Header().Set("Content-Type", "image/"+p.Kind)
	w.Header().Set("Cache-Control", fmt.Sprintf("private, max-age=%d", int(lookFor.Seconds())))
	_, _ = w.Write(p.Content)
}

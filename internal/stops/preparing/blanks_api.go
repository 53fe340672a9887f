package preparing

import (
	"cmp"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/internal/stops"
)

// blankOperations are those about places' own sheets.
func (st *Stop) blankOperations(api huma.API) {
	stops.Op(api, http.MethodGet, "/api/sites/{id}/blanks", "list-blanks", "A place's own sheets, and how they are filled",
		func(ctx context.Context, in *stops.ByID) ([]BlankView, error) { return st.Blanks(ctx, in.ID) })
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

// blankUpload takes a blank as the body of the request.
func (st *Stop) blankUpload(w http.ResponseWriter, r *http.Request) {
	id, err := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err != nil {
		stops.Refuse(w, http.StatusNotFound, "there is no such site")
		return
	}
	name := cmp.Or(strings.TrimSpace(r.URL.Query().Get("name")), "blank")
	var out BlankLook
	if err := stops.Receive(w, r, name, st.Stall, func(body io.Reader) (err error) {
		out, err = st.LookBlank(r.Context(), id, name, body)
		return err
	}); err != nil {
		stops.Problem(w, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	_ = json.NewEncoder(w).Encode(out)
}

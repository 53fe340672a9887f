package web

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/core/supply"
	"easymargin/internal/app"
	"easymargin/internal/feed"
	"easymargin/internal/store"
)

// feedView is a feed as the API shows it.
type feedView struct {
	ID         int64         `json:"id"`
	SourceID   *int64        `json:"source_id"`
	PartOf     *int64        `json:"part_of" doc:"The feed whose set-aside rows these are, mended"`
	Name       string        `json:"name"`
	Bytes      int64         `json:"bytes"`
	State      string        `json:"state" doc:"looked, reading, taken, held, failed, discarded, same"`
	Look       *feed.Look    `json:"look" doc:"What was recognised"`
	Missing    []string      `json:"missing" doc:"Needed fields that no column is read as"`
	Rows       int64         `json:"rows"`
	New        int64         `json:"new"`
	Changed    int64         `json:"changed"`
	Same       int64         `json:"same"`
	SetAside   int64         `json:"set_aside"`
	Gone       int64         `json:"gone"`
	Warnings   int64         `json:"warnings"`
	HeldFor    []supply.Hold `json:"held_for"`
	Error      string        `json:"error"`
	ReceivedAt time.Time     `json:"received"`
	TakenAt    *time.Time    `json:"taken"`
}

func viewFeed(f store.Feed) feedView {
	v := feedView{ID: f.ID, SourceID: f.SourceID, PartOf: f.PartOf, Name: f.Name, Bytes: f.Bytes, State: f.State, Rows: f.Rows, New: f.New, Changed: f.Changed, Same: f.Same,
		SetAside: f.SetAside, Gone: f.Gone, Warnings: f.Warnings, Error: f.Error, ReceivedAt: f.ReceivedAt, TakenAt: f.TakenAt, HeldFor: []supply.Hold{}, Missing: []string{}}
	if f.Look != "" {
		var l feed.Look
		if json.Unmarshal([]byte(f.Look), &l) == nil {
			v.Look = &l
			v.Missing = append(v.Missing, l.Missing()...)
		}
	}
	if f.HeldFor != "" {
		_ = json.Unmarshal([]byte(f.HeldFor), &v.HeldFor) // our own writing; an old form shows no reasons
	}
	return v
}

// upload takes a file as the body of the request, so that any size streams to disk.
func (s *server) upload(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	name := strings.TrimSpace(q.Get("name"))
	if name == "" {
		name = "pasted table"
	}
	in := app.Arriving{Name: name}
	for param, into := range map[string]**int64{"source_id": &in.SourceID, "part_of": &in.PartOf} {
		if text := q.Get(param); text != "" {
			id, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				problem(w, http.StatusUnprocessableEntity, param+" is no number")
				return
			}
			*into = &id
		}
	}
	if r.ContentLength > feed.MaxBytes {
		problem(w, http.StatusRequestEntityTooLarge, feed.TooBig(r.ContentLength).Error())
		return
	}
	f, err := s.app.BringIn(r.Context(), r.Body, in)
	if err != nil {
		status, words := statusOf(err)
		problem(w, status, words)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	_ = json.NewEncoder(w).Encode(viewFeed(f))
}

// setAsideFile is what a feed set aside, as CSV with the reasons.
func (s *server) setAsideFile(w http.ResponseWriter, r *http.Request) {
	id, err := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err == nil {
		_, err = store.Get[store.Feed](r.Context(), s.app.Store, id)
	}
	if err != nil {
		problem(w, http.StatusNotFound, "there is no such feed")
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="set-aside-%d.csv"`, id))
	out := csv.NewWriter(w)
	if err := s.app.AsideFile(r.Context(), id, out); err != nil {
		slog.Error("writing set-aside rows", "feed", id, "error", err)
	}
	out.Flush()
}

// picture serves a picture that was kept, or its thumbnail. What is behind a
// digest never changes.
func (s *server) picture(w http.ResponseWriter, r *http.Request) {
	p, err := s.app.Store.PictureOf(r.Context(), chi.URLParam(r, "digest"))
	if err != nil {
		problem(w, http.StatusNotFound, "there is no such picture")
		return
	}
	small := r.URL.Query().Get("size") == "small"
	if w.Header().Set("Content-Type", "image/"+p.Kind); small {
		w.Header().Set("Content-Type", "image/png")
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeFile(w, r, s.app.Store.PictureFile(p.Digest, small))
}

// describe adds to the API's description what huma doesn't serve itself.
func describe(api *huma.OpenAPI) {
	text := func(name, doc string, required bool) *huma.Param {
		return &huma.Param{Name: name, In: "query", Description: doc, Required: required, Schema: &huma.Schema{Type: "string"}}
	}
	answer := func(doc, media string) map[string]*huma.Response {
		return map[string]*huma.Response{"200": {Description: doc, Content: map[string]*huma.MediaType{media: {}}}}
	}
	api.AddOperation(&huma.Operation{Method: http.MethodPost, Path: "/api/feeds", OperationID: "bring-in", Summary: "Bring in a file: the body is the file itself",
		Parameters:  []*huma.Param{text("name", "What the file is called", false), text("source_id", "The source it belongs to, if known", false), text("part_of", "The feed whose set-aside rows it has, mended", false)},
		RequestBody: &huma.RequestBody{Content: map[string]*huma.MediaType{"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}}},
		Responses:   map[string]*huma.Response{"201": {Description: "What was recognised; nothing is taken yet"}}})
	api.AddOperation(&huma.Operation{Method: http.MethodGet, Path: "/api/feeds/{id}/set-aside.csv", OperationID: "set-aside-file", Summary: "What a feed set aside, as CSV with the reasons",
		Parameters: []*huma.Param{{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: "integer"}}}, Responses: answer("The rows", "text/csv")})
	api.AddOperation(&huma.Operation{Method: http.MethodGet, Path: "/api/pictures/{digest}", OperationID: "picture", Summary: "A picture that was kept",
		Parameters: []*huma.Param{{Name: "digest", In: "path", Required: true, Schema: &huma.Schema{Type: "string"}}, text("size", "small: its thumbnail, PNG", false)}, Responses: answer("The picture", "image/*")})
	api.AddOperation(&huma.Operation{Method: http.MethodGet, Path: "/api/events", OperationID: "events", Summary: "Runs and changes as server-sent events", Responses: answer("A stream that doesn't end", "text/event-stream")})
}

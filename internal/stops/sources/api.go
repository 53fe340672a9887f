package sources

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/core/supply"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// FeedView is a feed as the API shows it.
type FeedView struct {
	ID         int64         `json:"id"`
	SourceID   *int64        `json:"source_id"`
	PartOf     *int64        `json:"part_of" doc:"The feed whose set-aside rows these are, mended"`
	Name       string        `json:"name"`
	Bytes      int64         `json:"bytes"`
	State      string        `json:"state" doc:"looked, reading, taken, held, failed, discarded, same"`
	HasFile    bool          `json:"has_file" doc:"Whether its file is still kept"`
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

func viewFeed(f store.Feed) FeedView {
	v := FeedView{
		ID:         f.ID,
		SourceID:   f.SourceID,
		PartOf:     f.PartOf,
		Name:       f.Name,
		Bytes:      f.Bytes,
		State:      f.State,
		HasFile:    f.File != "",
		Rows:       f.Rows,
		New:        f.New,
		Changed:    f.Changed,
		Same:       f.Same,
		SetAside:   f.SetAside,
		Gone:       f.Gone,
		Warnings:   f.Warnings,
		Error:      f.Error,
		ReceivedAt: f.ReceivedAt,
		TakenAt:    f.TakenAt,
		HeldFor:    []supply.Hold{},
		Missing:    []string{},
	}
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

// SourceView is a source as the API shows it.
type SourceView struct {
	ID       int64      `json:"id"`
	Supplier string     `json:"supplier"`
	Name     string     `json:"name"`
	Kind     string     `json:"kind" doc:"file, address, folder, page, list, hand"`
	Address  string     `json:"address"`
	Currency string     `json:"currency"`
	Mode     string     `json:"mode" doc:"full, update"`
	Every    int64      `json:"every" doc:"Minutes between two looks; 0: only when asked"`
	Charge   int64      `json:"charge"`
	FreeFrom *int64     `json:"free_from"`
	Rows     int64      `json:"rows" doc:"Of the last taken feed"`
	Silent   bool       `json:"silent" doc:"Nothing was heard of it for so long that its stock counts as unknown"`
	TakenAt  *time.Time `json:"taken"`
	SameAt   *time.Time `json:"same" doc:"When its address had nothing new, where that was after the newest feed"`
	Feeds    []FeedView `json:"feeds" doc:"The newest that brought something, newest first"`
}

// shownFeeds is how many feeds of a source are shown with it.
const shownFeeds = 60

func (st *Stop) viewSource(ctx context.Context, x store.Source) (SourceView, error) {
	terms, err := st.Store.Reading(ctx).TermsOf(x.SupplierID, x.Currency)
	if err != nil {
		return SourceView{}, err
	}
	v := SourceView{
		ID:       x.ID,
		Supplier: x.Supplier.Name,
		Name:     x.Name,
		Kind:     x.Kind,
		Address:  x.Address,
		Currency: x.Currency,
		Mode:     x.Mode,
		Every:    x.Every,
		Charge:   terms.Charge,
		FreeFrom: terms.FreeFrom,
		Rows:     x.LastRows,
		Silent:   x.TakenAt != nil && Silent(&x, st.Now()),
		TakenAt:  x.TakenAt,
		Feeds:    []FeedView{},
	}
	last, err := st.Store.Feeds(ctx, x.ID, store.Page{Limit: 1})
	if err != nil {
		return v, err
	}
	if len(last.Rows) > 0 && last.Rows[0].State == store.FeedSame {
		v.SameAt = &last.Rows[0].ReceivedAt
	}
	feeds, err := st.Store.Deliveries(ctx, x.ID, shownFeeds)
	for _, f := range feeds {
		f.Look = "" // the list doesn't need it
		v.Feeds = append(v.Feeds, viewFeed(f))
	}
	return v, err
}

// SetAsideView is a row that was not taken.
type SetAsideView struct {
	ID       int64            `json:"id"`
	Row      int              `json:"row"`
	Cells    []string         `json:"cells" doc:"The row as the file has it, in the order of the feed's columns"`
	Problems []supply.Problem `json:"problems"`
	MendedBy *int64           `json:"mended_by" doc:"The feed that took it, mended"`
}

// ChangeRow is one change that a feed made, with what it was made to.
type ChangeRow struct {
	ID     int64  `json:"id"`
	ItemID int64  `json:"supplier_product_id"`
	Ref    string `json:"ref"`
	Title  string `json:"title"`
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	st.sourceOperations(api)
	st.feedOperations(api)
	st.findOperations(api)
	describe(api.OpenAPI())
}

func (st *Stop) sourceOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/sources",
		"sources",
		"Sources with their newest feeds",
		func(ctx context.Context, _ *stops.None) ([]SourceView, error) {
			list, err := st.Store.Sources(ctx)
			out := []SourceView{}
			for _, x := range list {
				v, err := st.viewSource(ctx, x)
				if err != nil {
					return nil, err
				}
				out = append(out, v)
			}
			return out, err
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sources",
		"make-source",
		"Make a source, and its supplier where there is none of that name",
		func(ctx context.Context, in *stops.Body[NewSource]) (SourceView, error) {
			x, err := st.Make(ctx, in.Body)
			if err != nil {
				return SourceView{}, err
			}
			return st.viewSource(ctx, x)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sources/{id}/fetch",
		"fetch-source",
		"Fetch a source's address",
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.Fetch(ctx, in.ID)
			return stops.RunOf(r), err
		},
	)
	stops.OpEdited(
		api,
		"/api/sources/{id}/settings",
		"source-settings",
		"What is set of a source",
		func(ctx context.Context, in *stops.ByID) (SourceSettings, error) {
			return st.Settings(ctx, in.ID)
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/sources/{id}/settings",
		"set-source",
		"Set how a source is fetched, read and guarded",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body SourceSettings
		}) (stops.Done, error) {
			return stops.Said(st.SetSettings(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/pages",
		"capture-page",
		"Fetch one product's page; it waits to be taken",
		func(ctx context.Context, in *stops.Body[struct {
			Address  string `json:"address" minLength:"1" maxLength:"2000"`
			Supplier string `json:"supplier,omitempty" maxLength:"120" doc:"Whose page it is; the address's host unless said"`
		}]) (FeedView, error) {
			f, err := st.Capture(ctx, in.Body.Supplier, in.Body.Address)
			return viewFeed(f), err
		},
	)
	huma.Register(api, huma.Operation{OperationID: "hand-in-page", Method: http.MethodPost, Path: "/api/pages/handed-in", DefaultStatus: http.StatusOK, MaxBodyBytes: MaxPage,
		Summary: "A product's page as a person's browser has it, handed in by a bookmark; it waits to be taken"},
		func(ctx context.Context, in *struct {
			Token    string `query:"token" maxLength:"60" required:"true"`
			Address  string `query:"address" minLength:"1" maxLength:"2000" required:"true"`
			Supplier string `query:"supplier" maxLength:"120"`
			RawBody  []byte `contentType:"application/octet-stream"`
		}) (*stops.Body[FeedView], error) {
			f, err := st.HandIn(ctx, in.Token, in.Supplier, in.Address, in.RawBody)
			if err != nil {
				return nil, stops.ProblemOf(err)
			}
			return &stops.Body[FeedView]{Body: viewFeed(f)}, nil
		})
	stops.Op(api, http.MethodGet, "/api/bookmark", "bookmark", "The token of bookmarks that hand pages in; empty where none was made yet",
		func(ctx context.Context, _ *stops.None) (Bookmarked, error) {
			token, err := st.Bookmarked(ctx)
			return Bookmarked{token}, err
		})
	stops.Op(api, http.MethodPost, "/api/bookmark", "renew-bookmark", "Another token: bookmarks with the one before hand nothing in any more",
		func(ctx context.Context, _ *stops.None) (Bookmarked, error) {
			token, err := st.Bookmark(ctx)
			return Bookmarked{token}, err
		})
}

// Bookmarked is what a bookmark that hands pages in carries.
type Bookmarked struct {
	Token string `json:"token"`
}

func (st *Stop) feedOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/fields",
		"fields",
		"What a column can be read as",
		func(context.Context, *stops.None) ([]string, error) { return feed.Fields, nil },
	)
	stops.Op(
		api,
		http.MethodGet,
		"/api/feeds/{id}",
		"feed",
		"One feed and what was recognised of it",
		func(ctx context.Context, in *stops.ByID) (FeedView, error) {
			f, err := store.Get[store.Feed](ctx, st.Store, in.ID)
			return viewFeed(f), err
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/feeds/{id}/check",
		"check-feed",
		"Read a feed that waits as if it were taken, and keep nothing of it",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				SourceID *int64            `json:"source_id,omitempty"`
				Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where it differs from what was recognised"`
			}
		}) (Checked, error) {
			return st.Check(ctx, in.ID, in.Body.SourceID, in.Body.Columns)
		},
	)
	stops.Op(api, http.MethodPost, "/api/feeds/{id}/take", "take-feed", "Take a feed that waits", func(ctx context.Context, in *struct {
		stops.ByID
		Body struct {
			SourceID int64             `json:"source_id"`
			Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where it differs from what was recognised; kept with the source"`
			Once     bool              `json:"once,omitempty" doc:"Take a held feed though its guards say no"`
		}
	}) (stops.Run, error) {
		r, err := st.Take(ctx, in.ID, in.Body.SourceID, in.Body.Columns, in.Body.Once)
		return stops.RunOf(r), err
	})
	stops.Op(
		api,
		http.MethodPost,
		"/api/feeds/{id}/discard",
		"discard-feed",
		"Drop a feed that waits",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Discard(ctx, in.ID))
		},
	)
	stops.Op(
		api,
		http.MethodGet,
		"/api/feeds/{id}/set-aside",
		"set-aside",
		"Rows a feed set aside, with each problem",
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Paged
		}) (stops.List[SetAsideView], error) {
			l, err := st.Store.SetAsides(ctx, in.ID, in.Page())
			return stops.Shown(l, err, func(a store.SetAside) SetAsideView {
				return SetAsideView{a.ID, a.Row, a.Cells, a.Problems, a.MendedBy}
			})
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/set-asides/{id}/mend",
		"mend-row",
		"Take one row that was set aside, with its cells mended",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Cells []string `json:"cells" doc:"A cell for each column of the feed"`
			}
		}) (stops.Run, error) {
			r, err := st.Mend(ctx, in.ID, in.Body.Cells)
			return stops.RunOf(r), err
		},
	)
	stops.Op(api, http.MethodGet, "/api/feeds/{id}/changes", "changes", "What a feed changed", func(ctx context.Context, in *struct {
		stops.ByID
		stops.Paged
	}) (stops.List[ChangeRow], error) {
		l, err := st.Store.Changes(ctx, in.ID, in.Page())
		return stops.Shown(l, err, func(r store.ChangeRow) ChangeRow { return ChangeRow(r) })
	})
}

// findOperations are the search over all suppliers and what is kept of it.
func (st *Stop) findOperations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/finds",
		"search",
		"Search all suppliers' products by words, ref or number; without words, those that were kept",
		func(ctx context.Context, in *struct {
			Words string `query:"words" maxLength:"300"`
		}) ([]Find, error) {
			if in.Words == "" {
				return st.Kept(ctx)
			}
			return st.Search(ctx, in.Words)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sources/lists",
		"take-list",
		"Take a pasted list of product numbers with costs, to be weighed: nothing is looked up or listed by itself",
		func(ctx context.Context, in *struct{ Body NumberList }) (TakenList, error) {
			return st.TakeList(ctx, in.Body)
		},
	)
	stops.Op(
		api,
		http.MethodPut,
		"/api/finds/{id}",
		"keep-find",
		"Keep a supplier product with a note, without listing it",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Note string `json:"note" maxLength:"1000"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.ID, in.Body.Note))
		},
	)
	stops.Op(
		api,
		http.MethodDelete,
		"/api/finds/{id}",
		"forget-find",
		"Let a kept supplier product go",
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Forget(ctx, in.ID))
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/finds/list",
		"list-finds",
		"List supplier products on sites, by the defaults of each",
		func(ctx context.Context, in *struct {
			Body struct {
				IDs   []int64 `json:"ids" minItems:"1" maxItems:"500"`
				Sites []int64 `json:"sites" minItems:"1" maxItems:"50"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.ListOn(ctx, in.Body.IDs, in.Body.Sites))
		},
	)
	stops.Op(api, http.MethodPost, "/api/products", "make-product", "Make a product from nothing, and list it",
		func(ctx context.Context, in *struct{ Body NewProduct }) (MadeProduct, error) {
			return st.MakeProduct(ctx, in.Body)
		})
	stops.Op(
		api,
		http.MethodGet,
		"/api/supplier-products/{id}",
		"supplier-product",
		"One supplier product, with its history",
		func(ctx context.Context, in *stops.ByID) (SupplierItem, error) {
			return st.SupplierItem(ctx, in.ID)
		},
	)
}

// Routes implements stops.Routed: what is a file rather than a value.
func (st *Stop) Routes(r chi.Router) {
	r.Post("/api/feeds", st.upload)
	r.Get("/api/feeds/{id}/set-aside.csv", st.setAsideFile)
	r.Get("/api/pictures/{digest}", st.picture)
}

// upload takes a file as the body of the request, so that any size streams to disk.
func (st *Stop) upload(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	in := Arriving{Name: strings.TrimSpace(q.Get("name"))}
	if in.Name == "" {
		in.Name = "pasted table"
	}
	for param, into := range map[string]**int64{"source_id": &in.SourceID, "part_of": &in.PartOf} {
		if text := q.Get(param); text != "" {
			id, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				stops.Refuse(w, http.StatusUnprocessableEntity, param+" is no number")
				return
			}
			*into = &id
		}
	}
	if r.ContentLength > feed.MaxBytes {
		stops.Refuse(w, http.StatusRequestEntityTooLarge, feed.TooBig(r.ContentLength).Error())
		return
	}
	var f store.Feed
	err := stops.Receive(w, r, in.Name, st.Stall, func(body io.Reader) (err error) {
		f, err = st.BringIn(r.Context(), body, in)
		return err
	})
	if err != nil {
		stops.Problem(w, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	_ = json.NewEncoder(w).Encode(viewFeed(f))
}

// setAsideFile is what a feed set aside, as CSV with the reasons.
func (st *Stop) setAsideFile(w http.ResponseWriter, r *http.Request) {
	id, err := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err == nil {
		_, err = store.Get[store.Feed](r.Context(), st.Store, id)
	}
	if err != nil {
		stops.Refuse(w, http.StatusNotFound, "there is no such feed")
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="set-aside-%d.csv"`, id))
	out := csv.NewWriter(w)
	if err := st.AsideFile(r.Context(), id, out); err != nil {
		slog.Error("writing set-aside rows", "feed", id, "error", err)
	}
	out.Flush()
}

// picture serves a picture that was kept, or its thumbnail. What is behind a
// digest never changes.
func (st *Stop) picture(w http.ResponseWriter, r *http.Request) {
	p, err := st.Store.PictureOf(r.Context(), chi.URLParam(r, "digest"))
	if err != nil {
		stops.Refuse(w, http.StatusNotFound, "there is no such picture")
		return
	}
	small := r.URL.Query().Get("size") == "small"
	if w.Header().Set("Content-Type", "image/"+p.Kind); small {
		w.Header().Set("Content-Type", "image/png")
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeFile(w, r, st.Store.PictureFile(p.Digest, small))
}

// describe adds to the API's description what huma doesn't serve itself.
func describe(api *huma.OpenAPI) {
	text := func(name, doc string) *huma.Param {
		return &huma.Param{Name: name, In: "query", Description: doc, Schema: &huma.Schema{Type: "string"}}
	}
	answer := func(doc, media string) map[string]*huma.Response {
		return map[string]*huma.Response{"200": {Description: doc, Content: map[string]*huma.MediaType{media: {}}}}
	}
	api.AddOperation(
		&huma.Operation{
			Method:      http.MethodPost,
			Path:        "/api/feeds",
			OperationID: "bring-in",
			Summary:     "Bring in a file: the body is the file itself",
			Parameters: []*huma.Param{
				text("name", "What the file is called"),
				text("source_id", "The source it belongs to, if known"),
				text("part_of", "The feed whose set-aside rows it has, mended"),
			},
			RequestBody: &huma.RequestBody{
				Content: map[string]*huma.MediaType{"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}},
			},
			Responses: map[string]*huma.Response{"201": {Description: "What was recognised; nothing is taken yet"}},
		},
	)
	api.AddOperation(
		&huma.Operation{
			Method:      http.MethodGet,
			Path:        "/api/feeds/{id}/set-aside.csv",
			OperationID: "set-aside-file",
			Summary:     "What a feed set aside, as CSV with the reasons",
			Parameters: []*huma.Param{
				{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: "integer"}},
			},
			Responses: answer("The rows", "text/csv"),
		},
	)
	api.AddOperation(
		&huma.Operation{
			Method:      http.MethodGet,
			Path:        "/api/pictures/{digest}",
			OperationID: "picture",
			Summary:     "A picture that was kept",
			Parameters: []*huma.Param{
				{Name: "digest", In: "path", Required: true, Schema: &huma.Schema{Type: "string"}},
				text("size", "small: its thumbnail, PNG"),
			},
			Responses: answer("The picture", "image/*"),
		},
	)
}

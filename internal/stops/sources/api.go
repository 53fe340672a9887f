package sources

import (
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/supply"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
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
	Of       int64      `json:"supplier_id"`
	Name     string     `json:"name"`
	Kind     string     `json:"kind" doc:"file, address, folder, page, list, hand"`
	Address  string     `json:"address"`
	Currency string     `json:"currency"`
	Mode     string     `json:"mode" doc:"full, update"`
	Every    int64      `json:"every" doc:"Minutes between two looks; 0: only when asked"`
	Charge   int64      `json:"charge"`
	FreeFrom *int64     `json:"free_from"`
	Rows     int64      `json:"rows" doc:"Of the last taken feed"`
	Unsaid   bool       `json:"unsaid" doc:"Nobody has said yet what the supplier charges for delivery and whether there is tax in its costs; nothing of it is priced until then"`
	Silent   bool       `json:"silent" doc:"Nothing was heard of it for so long that its stock counts as unknown"`
	TakenAt  *time.Time `json:"taken"`
	DueBy    *time.Time `json:"due_by" doc:"When its stock counts as unknown unless something is heard of it before; null: never, or nothing came yet"`
	Late     bool       `json:"late" doc:"Nothing was heard of it for longer than usual, and its stock still counts"`
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
		Of:       x.SupplierID,
		Name:     x.Name,
		Kind:     x.Kind,
		Address:  x.Address,
		Currency: x.Currency,
		Mode:     x.Mode,
		Every:    x.Every,
		Charge:   terms.Charge,
		FreeFrom: terms.FreeFrom,
		Rows:     x.LastRows,
		Unsaid:   x.CostsUnsaid,
		Silent:   x.HeardAt != nil && x.Silent(st.Now()),
		TakenAt:  x.TakenAt,
		Feeds:    []FeedView{},
	}
	if said, unknown, err := x.Silence(); err == nil && x.HeardAt != nil && x.Kind != store.KindHand {
		by := x.HeardAt.Add(unknown)
		v.DueBy, v.Late = &by, !v.Silent && st.Now().Sub(*x.HeardAt) > said
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
	st.fileOperations(api)
}

func (st *Stop) sourceOperations(api huma.API) {
	stops.Op(api, stops.Read("/sources", "list-sources", "sources", "Sources with their newest feeds"),
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
	stops.Op(api, stops.Post("/sources", "create-source", actor.Prepare, "Make a source, and its supplier where there is none of that name", "feeds", "sources", "runs"),
		func(ctx context.Context, in *stops.Body[NewSource]) (SourceView, error) {
			x, err := st.Make(ctx, in.Body)
			if err != nil {
				return SourceView{}, err
			}
			return st.viewSource(ctx, x)
		},
	)
	stops.Op(api, stops.Post("/sources/{id}/fetch", "fetch-source", actor.Prepare, "Fetch a source's address", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.Fetch(ctx, in.ID)
			return stops.RunOf(r), err
		},
	)
	stops.OpEdited(api, stops.Read("/sources/{id}/settings", "get-source-settings", "sources", "What is set of a source"),
		func(ctx context.Context, in *stops.ByID) (SourceSettings, error) {
			return st.Settings(ctx, in.ID)
		},
	)
	stops.Op(api, stops.Put("/sources/{id}/settings", "update-source-settings", actor.Prepare, "Set how a source is fetched, read and guarded", "sources", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body SourceSettings
		}) (stops.Done, error) {
			return stops.Said(st.SetSettings(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Post("/pages", "capture-page", actor.Prepare, "Fetch one product's page; it waits to be taken", "feeds", "sources"),
		func(ctx context.Context, in *struct {
			Body struct {
				Address  string `json:"address" minLength:"1" maxLength:"2000"`
				Supplier string `json:"supplier,omitempty" maxLength:"120" doc:"Whose page it is; the address's host unless said"`
			}
		}) (FeedView, error) {
			f, err := st.Capture(ctx, in.Body.Supplier, in.Body.Address)
			return viewFeed(f), err
		},
	)
	stops.Op(api, stops.Post("/pages/upload", "upload-page", actor.Prepare, "A product's page as a person's browser has it, handed in by a bookmark; it waits to be taken", "feeds", "sources").Most(MaxPage),
		func(ctx context.Context, in *struct {
			Token    string `query:"token" maxLength:"60" required:"true"`
			Address  string `query:"address" minLength:"1" maxLength:"2000" required:"true"`
			Supplier string `query:"supplier" maxLength:"120"`
			RawBody  []byte `contentType:"application/octet-stream"`
		}) (FeedView, error) {
			f, err := st.HandIn(ctx, in.Token, in.Supplier, in.Address, in.RawBody)
			return viewFeed(f), err
		})
	stops.Op(api, stops.Read("/bookmarklet", "get-bookmarklet", "sources", "The token of bookmarks that hand pages in; empty where none was made yet").For(actor.Prepare),
		func(ctx context.Context, _ *stops.None) (Bookmarked, error) {
			token, err := st.Bookmarked(ctx)
			return Bookmarked{token}, err
		})
	stops.Op(api, stops.Post("/bookmarklet/renew", "renew-bookmarklet", actor.Prepare, "Another token: bookmarks with the one before hand nothing in any more", "sources"),
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
	stops.Op(api, stops.Read("/feed-fields", "list-feed-fields", "fields", "What a column can be read as"),
		func(context.Context, *stops.None) ([]string, error) { return feed.Fields, nil },
	)
	stops.Op(api, stops.Read("/feeds/{id}", "get-feed", "feeds", "One feed and what was recognised of it"),
		func(ctx context.Context, in *stops.ByID) (FeedView, error) {
			f, err := store.Get[store.Feed](ctx, st.Store, in.ID)
			return viewFeed(f), err
		},
	)
	stops.Op(api, stops.Ask("/feeds/{id}/check", "check-feed", "feeds", "Read a feed that waits as if it were taken, and keep nothing of it"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				SourceID *int64            `json:"source_id,omitempty"`
				Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where it differs from what was recognised"`
				Header   int               `json:"header_row,omitempty" minimum:"0" maximum:"300" doc:"The row with the names of the columns, where it is another than was recognised; when it is taken, give all columns"`
			}
		}) (Checked, error) {
			return st.Check(ctx, in.ID, in.Body.SourceID, in.Body.Columns, in.Body.Header)
		},
	)
	stops.Op(api, stops.Post("/feeds/{id}/take", "take-feed", actor.Prepare, "Take a feed that waits", "feeds", "sources", "runs"), func(ctx context.Context, in *struct {
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
	stops.Op(api, stops.Post("/feeds/{id}/discard", "discard-feed", actor.Prepare, "Drop a feed that waits", "feeds", "sources", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Discard(ctx, in.ID))
		},
	)
	stops.Op(api, stops.Read("/feeds/{id}/rejected-rows", "list-rejected-rows", "feeds", "Rows a feed set aside, with each problem"),
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
	stops.Op(api, stops.Post("/rejected-rows/{id}/mend", "mend-rejected-row", actor.Prepare, "Take one row that was set aside, with its cells mended", "feeds", "sources", "runs"),
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
	stops.Op(api, stops.Read("/feeds/{id}/changes", "list-feed-changes", "feeds", "What a feed changed"), func(ctx context.Context, in *struct {
		stops.ByID
		stops.Paged
	}) (stops.List[ChangeRow], error) {
		l, err := st.Store.Changes(ctx, in.ID, in.Page())
		return stops.Shown(l, err, func(r store.ChangeRow) ChangeRow { return ChangeRow(r) })
	})
}

// findOperations are the search over all suppliers and what is kept of it.
func (st *Stop) findOperations(api huma.API) {
	stops.Op(api, stops.Read("/supplier-products", "search-supplier-products", "finds", "Search all suppliers' products by words, ref or number; without words, those that were kept"),
		func(ctx context.Context, in *struct {
			Words string `query:"words" maxLength:"300"`
		}) ([]Find, error) {
			if in.Words == "" {
				return st.Kept(ctx)
			}
			return st.Search(ctx, in.Words)
		},
	)
	stops.Op(api, stops.Post("/sources/lists", "create-sources-from-list", actor.Prepare, "Take a pasted list of product numbers with costs, to be weighed: nothing is looked up or listed by itself", "sources", "runs"),
		func(ctx context.Context, in *struct{ Body NumberList }) (TakenList, error) {
			return st.TakeList(ctx, in.Body)
		},
	)
	stops.Op(api, stops.Put("/supplier-products/{id}/shortlisting", "shortlist-supplier-product", actor.Prepare, "Keep a supplier product with a note, without listing it", "finds"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Note string `json:"note" maxLength:"1000"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.ID, in.Body.Note))
		},
	)
	stops.Op(api, stops.Delete("/supplier-products/{id}/shortlisting", "remove-from-shortlist", actor.Prepare, "Let a kept supplier product go", "finds"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Forget(ctx, in.ID))
		},
	)
	stops.Op(api, stops.Post("/supplier-products/list", "list-supplier-products-for-sale", actor.Prepare, "List supplier products on sites, by the defaults of each", "finds", "runs", "matches", "listings", "prepare"),
		func(ctx context.Context, in *struct {
			Body struct {
				IDs   []int64 `json:"ids" minItems:"1" maxItems:"500"`
				Sites []int64 `json:"sites" minItems:"1" maxItems:"50"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.ListOn(ctx, in.Body.IDs, in.Body.Sites))
		},
	)
	stops.Op(api, stops.Post("/products", "create-product", actor.Prepare, "Make a product from nothing, and list it", "finds", "prepare", "listings", "products", "sources", "counts"),
		func(ctx context.Context, in *struct{ Body NewProduct }) (MadeProduct, error) {
			return st.MakeProduct(ctx, in.Body)
		})
	stops.Op(api, stops.Read("/supplier-products/{id}", "get-supplier-product", "finds", "One supplier product, with its history"),
		func(ctx context.Context, in *stops.ByID) (SupplierItem, error) {
			return st.SupplierItem(ctx, in.ID)
		},
	)
}

// fileOperations are those that take or give a file.
func (st *Stop) fileOperations(api huma.API) {
	stops.Op(api, stops.Post("/feeds", "upload-feed", actor.Prepare, "Bring in a file: the body is the file itself; nothing of it is taken yet", "feeds", "sources", "runs").Uploaded().Status(http.StatusCreated),
		func(ctx context.Context, in *struct {
			stops.Streamed
			Name     string `query:"name" maxLength:"300" doc:"What the file is called"`
			SourceID int64  `query:"source_id" minimum:"0" doc:"The source it belongs to, if known"`
			PartOf   int64  `query:"part_of" minimum:"0" doc:"The feed whose set-aside rows it has, mended"`
		}) (FeedView, error) {
			given := Arriving{Name: cmp.Or(strings.TrimSpace(in.Name), "pasted table")}
			if in.SourceID > 0 {
				given.SourceID = &in.SourceID
			}
			if in.PartOf > 0 {
				given.PartOf = &in.PartOf
			}
			var f store.Feed
			err := in.Receive(given.Name, feed.MaxBytes, feed.TooBig, st.Stall, func(body io.Reader) (err error) {
				f, err = st.BringIn(ctx, body, given)
				return err
			})
			return viewFeed(f), err
		})
	stops.Download(api, stops.Read("/feeds/{id}/rejected-rows/export.csv", "export-rejected-rows", "feeds", "What a feed set aside, as CSV with the reasons").File("text/csv"),
		func(ctx context.Context, in *stops.ByID) (stops.File, error) {
			_, err := store.Get[store.Feed](ctx, st.Store, in.ID)
			return stops.File{Name: fmt.Sprintf("set-aside-%d.csv", in.ID), Write: func(w io.Writer) error {
				out := csv.NewWriter(w)
				err := st.AsideFile(ctx, in.ID, out)
				out.Flush()
				return errors.Join(err, out.Error())
			}}, err
		})
	stops.Download(api, stops.Read("/pictures/{digest}", "get-picture", "pictures", "A picture that was kept").File("image/*"),
		func(ctx context.Context, in *struct {
			Digest string `path:"digest"`
			Size   string `query:"size" enum:"small" doc:"small: its thumbnail, PNG"`
		}) (stops.File, error) {
			return st.picture(ctx, in.Digest, in.Size == "small")
		})
}

// picture is a picture that was kept, or its thumbnail. What is behind a digest never
// changes.
func (st *Stop) picture(ctx context.Context, digest string, small bool) (stops.File, error) {
	p, err := st.Store.PictureOf(ctx, digest)
	if err != nil {
		return stops.File{}, fault.New(fault.Missing, "there is no such picture")
	}
	out := stops.File{Type: "image/" + p.Kind, Cache: 365 * 24 * time.Hour}
	if small {
		out.Type = "image/png"
	}
	out.Content, err = os.ReadFile(st.Store.PictureFile(p.Digest, small))
	return out, err
}

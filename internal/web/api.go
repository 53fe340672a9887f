package web

import (
	"context"
	"net/http"
	"sort"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/supply"
	"easymargin/internal/app"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

type body[T any] struct{ Body T }

type none struct{}

type ByID struct {
	ID int64 `path:"id"`
}

type Paged struct {
	Limit  int    `query:"limit" default:"100" minimum:"1" maximum:"500"`
	Cursor string `query:"cursor" doc:"Where the last part ended"`
	Sort   string `query:"sort"`
	Desc   bool   `query:"desc"`
}

func (p Paged) page() store.Page {
	return store.Page{Limit: p.Limit, Cursor: p.Cursor, Sort: p.Sort, Desc: p.Desc}
}

// Lists are never null here: every answer makes them, if only empty.
func init() { huma.DefaultArrayNullable = false }

// maxBody is the most that is read of a request, in bytes: a little over the
// most that any use case takes, so that it is theirs to say what is too much.
const maxBody = 5 << 20

// op registers one operation; its errors become problem+json here and nowhere else.
func op[I, O any](api huma.API, method, path, id, summary string, do func(ctx context.Context, in *I) (O, error)) {
	status := http.StatusOK
	huma.Register(api, huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, DefaultStatus: status, MaxBodyBytes: maxBody}, func(ctx context.Context, in *I) (*body[O], error) {
		out, err := do(ctx, in)
		if err != nil {
			return nil, toProblem(err)
		}
		return &body[O]{out}, nil
	})
}

// done is the answer of a write that has nothing more to say.
type done struct {
	OK bool `json:"ok"`
}

func said(err error) (done, error) { return done{err == nil}, err }

func (s *server) operations(api huma.API) {
	s.overview(api)
	s.sources(api)
	s.bringing(api)
	s.finding(api)
	s.matching(api)
	s.prices(api)
	s.pricing(api)
	s.listings(api)
	s.sending(api)
	s.watching(api)
}

type demoView struct {
	Demo bool      `json:"demo"`
	Now  time.Time `json:"now" doc:"The time the application goes by"`
}

type todayView struct {
	Items []app.TodayItem `json:"items"`
	Last  []lastThing     `json:"last" doc:"What was done last"`
}

type lastThing struct {
	At      time.Time `json:"at"`
	What    string    `json:"what"`
	Subject string    `json:"subject"`
	Detail  string    `json:"detail"`
}

func (s *server) overview(api huma.API) {
	op(api, http.MethodGet, "/api/today", "today", "What needs a person, and what was done last", func(ctx context.Context, _ *none) (todayView, error) {
		items, err := s.app.Today(ctx)
		if err != nil {
			return todayView{}, err
		}
		last, err := s.app.Store.LastAudits(ctx, 12)
		out := todayView{Items: items, Last: []lastThing{}}
		for _, l := range last {
			out.Last = append(out.Last, lastThing{l.At, l.What, l.Subject, l.Detail})
		}
		return out, err
	})
	op(api, http.MethodGet, "/api/counts", "counts", "What waits at each stop", func(ctx context.Context, _ *none) (store.Counts, error) {
		return s.app.Store.Counts(ctx)
	})
	op(api, http.MethodGet, "/api/runs", "runs", "Runs going on, then the newest that are over", func(ctx context.Context, _ *none) ([]work.Run, error) {
		live := s.app.Queue.Live()
		sort.Slice(live, func(i, j int) bool { return live[i].ID < live[j].ID })
		past, err := s.app.Store.LastRuns(ctx, 30)
		for i := range past {
			if r := past[i].Run(); r.Over() {
				live = append(live, r)
			}
		}
		return live, err
	})
	op(api, http.MethodPost, "/api/runs/{id}/stop", "stop-run", "Stop a run", func(_ context.Context, in *ByID) (done, error) {
		return done{s.app.Queue.Stop(in.ID)}, nil
	})
	op(api, http.MethodGet, "/api/demo", "demo", "The clock, and whether this is the demo", func(context.Context, *none) (demoView, error) {
		return demoView{Demo: s.demo != nil, Now: s.app.Now()}, nil
	})
	op(api, http.MethodPost, "/api/demo/forward", "demo-forward", "Move the demo's clock on", func(_ context.Context, in *body[struct {
		Minutes int `json:"minutes" minimum:"1" maximum:"10080"`
	}]) (demoView, error) {
		if s.demo == nil {
			return demoView{}, &app.Error{Kind: app.Missing, Words: "only the demo has a clock that moves"}
		}
		now := s.demo.Forward(time.Duration(in.Body.Minutes) * time.Minute)
		return demoView{true, now}, nil
	})
}

type sourceView struct {
	ID       int64      `json:"id"`
	Supplier string     `json:"supplier"`
	Name     string     `json:"name"`
	Kind     string     `json:"kind" doc:"file, address"`
	Address  string     `json:"address"`
	Currency string     `json:"currency"`
	Mode     string     `json:"mode" doc:"full, update"`
	Every    int64      `json:"every" doc:"Minutes between two looks; 0: only when asked"`
	Charge   int64      `json:"charge"`
	FreeFrom *int64     `json:"free_from"`
	Rows     int64      `json:"rows" doc:"Of the last taken feed"`
	TakenAt  *time.Time `json:"taken"`
	Feeds    []feedView `json:"feeds" doc:"The newest, newest first"`
}

func (s *server) viewSource(ctx context.Context, x store.Source) (sourceView, error) {
	v := sourceView{ID: x.ID, Supplier: x.Supplier.Name, Name: x.Name, Kind: x.Kind, Address: x.Address, Currency: x.Currency, Mode: x.Mode, Every: x.Every, Charge: x.Charge, FreeFrom: x.FreeFrom,
		Rows: x.LastRows, TakenAt: x.TakenAt, Feeds: []feedView{}}
	feeds, err := s.app.Store.Feeds(ctx, x.ID, store.Page{Limit: 12})
	for _, f := range feeds.Rows {
		f.Look = "" // the list doesn't need it
		v.Feeds = append(v.Feeds, viewFeed(f))
	}
	return v, err
}

func (s *server) sources(api huma.API) {
	op(api, http.MethodGet, "/api/sources", "sources", "Sources with their newest feeds", func(ctx context.Context, _ *none) ([]sourceView, error) {
		list, err := s.app.Store.Sources(ctx)
		out := []sourceView{}
		for _, x := range list {
			v, err := s.viewSource(ctx, x)
			if err != nil {
				return nil, err
			}
			out = append(out, v)
		}
		return out, err
	})
	op(api, http.MethodPost, "/api/sources", "make-source", "Make a source, and its supplier where there is none of that name", func(ctx context.Context, in *body[app.NewSource]) (sourceView, error) {
		x, err := s.app.MakeSource(ctx, in.Body)
		if err != nil {
			return sourceView{}, err
		}
		return s.viewSource(ctx, x)
	})
	op(api, http.MethodPost, "/api/sources/{id}/fetch", "fetch-source", "Fetch a source's address", func(ctx context.Context, in *ByID) (work.Run, error) {
		return s.app.Fetch(ctx, in.ID)
	})
	op(api, http.MethodGet, "/api/feeds/{id}", "feed", "One feed and what was recognised of it", func(ctx context.Context, in *ByID) (feedView, error) {
		f, err := store.Get[store.Feed](ctx, s.app.Store, in.ID)
		return viewFeed(f), err
	})
	op(api, http.MethodPost, "/api/feeds/{id}/take", "take-feed", "Take a feed that waits", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			SourceID int64             `json:"source_id"`
			Columns  map[string]string `json:"columns,omitempty" doc:"Column name to field, where it differs from what was recognised; kept with the source"`
			Once     bool              `json:"once,omitempty" doc:"Take a held feed though its guards say no"`
		}
	}) (work.Run, error) {
		return s.app.Take(ctx, in.ID, in.Body.SourceID, in.Body.Columns, in.Body.Once)
	})
	op(api, http.MethodPost, "/api/feeds/{id}/discard", "discard-feed", "Drop a feed that waits", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.Discard(ctx, in.ID))
	})
	op(api, http.MethodGet, "/api/feeds/{id}/set-aside", "set-aside", "Rows a feed set aside, with each problem", func(ctx context.Context, in *struct {
		ByID
		Paged
	}) (store.List[setAsideView], error) {
		l, err := s.app.Store.SetAsides(ctx, in.ID, in.page())
		out := store.List[setAsideView]{Rows: []setAsideView{}, Total: l.Total, Next: l.Next}
		for _, a := range l.Rows {
			out.Rows = append(out.Rows, setAsideView{a.ID, a.Row, a.Cells, a.Problems, a.MendedBy})
		}
		return out, err
	})
	op(api, http.MethodGet, "/api/feeds/{id}/changes", "changes", "What a feed changed", func(ctx context.Context, in *struct {
		ByID
		Paged
	}) (store.List[store.ChangeRow], error) {
		return s.app.Store.Changes(ctx, in.ID, in.page())
	})
}

type setAsideView struct {
	ID       int64            `json:"id"`
	Row      int              `json:"row"`
	Cells    []string         `json:"cells" doc:"The row as the file has it, in the order of the feed's columns"`
	Problems []supply.Problem `json:"problems"`
	MendedBy *int64           `json:"mended_by" doc:"The feed that took it, mended"`
}

func (s *server) matching(api huma.API) {
	op(api, http.MethodGet, "/api/matches", "matches", "Supplier products that wait for a decision", func(ctx context.Context, in *struct {
		Paged
		State string `query:"state" enum:"waiting,later,new entry" default:"waiting"`
	}) (store.List[store.MatchRow], error) {
		states := []string{in.State}
		if in.State == "waiting" {
			states = []string{"several", "none"}
		}
		return s.app.Store.Matches(ctx, states, in.page())
	})
	op(api, http.MethodGet, "/api/matches/{id}/candidates", "candidates", "Entries that a supplier product may be, weighed", func(ctx context.Context, in *struct {
		ByID
		Words string `query:"words" maxLength:"300" doc:"Look entries up by these words as well"`
	}) ([]app.CandidateView, error) {
		return s.app.Candidates(ctx, in.ID, in.Words)
	})
	op(api, http.MethodPost, "/api/matches/{id}/decide", "decide-match", "Choose an entry, ask for a new one, or put it off", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Entry string `json:"entry,omitempty" doc:"Ref of the entry chosen"`
			State string `json:"state,omitempty" enum:"new entry,later"`
		}
	}) (done, error) {
		return said(s.app.Decide(ctx, in.ID, in.Body.State, in.Body.Entry))
	})
	op(api, http.MethodPost, "/api/sites/{id}/look-again", "look-again", "Look undecided supplier products up again", func(ctx context.Context, in *ByID) (work.Run, error) {
		return s.app.LookAgain(ctx, in.ID)
	})
}

func (s *server) listings(api huma.API) {
	op(api, http.MethodGet, "/api/listings", "listings", "Listings", func(ctx context.Context, in *struct {
		Paged
		State string `query:"state" doc:"States, parted by commas; empty for all"`
		Words string `query:"words" maxLength:"300"`
		Site  int64  `query:"site" doc:"Only on this site; 0 for all"`
	}) (store.List[store.ListingRow], error) {
		f := store.ListingFilter{Words: in.Words, SiteID: in.Site}
		if in.State != "" {
			f.States = strings.Split(in.State, ",")
		}
		return s.app.Store.Listings(ctx, f, in.page())
	})
	op(api, http.MethodGet, "/api/listings/{id}", "listing", "One listing", func(ctx context.Context, in *ByID) (store.ListingRow, error) {
		return s.app.Store.ListingRowOf(ctx, in.ID)
	})
	op(api, http.MethodGet, "/api/listings/{id}/variants", "variants", "The variants of a listing's product on its site; none where it is no variant", func(ctx context.Context, in *ByID) ([]store.Variant, error) {
		return s.app.Store.VariantsOf(ctx, in.ID)
	})
	op(api, http.MethodPut, "/api/listings/{id}/sold", "sell-listing", "Say whether a product, a variant perhaps, is to be sold on this site", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Sold bool `json:"sold"`
		}
	}) (done, error) {
		return said(s.app.Sell(ctx, in.ID, in.Body.Sold))
	})
}

type planSite struct {
	ID   int64  `json:"id" doc:"Of the site"`
	Name string `json:"name"`
}

type planView struct {
	ID     int64             `json:"id" doc:"0 where nothing waits"`
	Sites  []planSite        `json:"sites" doc:"Where a plan waits"`
	SiteID int64             `json:"site_id"`
	Site   string            `json:"site"`
	Cur    string            `json:"currency"`
	MadeAt *time.Time        `json:"made"`
	Groups []store.PlanGroup `json:"groups"`
}

func (s *server) watching(api huma.API) {
	op(api, http.MethodGet, "/api/plan", "plan", "The plan that waits on a site", func(ctx context.Context, in *struct {
		Site int64 `query:"site" doc:"The newest plan of any where left out, or where none waits on it"`
	}) (planView, error) {
		out := planView{Groups: []store.PlanGroup{}, Sites: []planSite{}}
		plans, err := s.app.Store.OpenPlans(ctx)
		for i, p := range plans {
			site, err := s.app.Store.SiteOf(ctx, p.SiteID)
			if err != nil {
				return out, err
			}
			out.Sites = append(out.Sites, planSite{site.ID, site.Name})
			if i == 0 || site.ID == in.Site {
				out.ID, out.SiteID, out.Site, out.Cur, out.MadeAt = p.ID, site.ID, site.Name, site.Currency, &plans[i].MadeAt
			}
		}
		if err != nil || out.ID == 0 {
			return out, err
		}
		out.Groups, err = s.app.Store.PlanGroups(ctx, out.ID)
		return out, err
	})
	op(api, http.MethodGet, "/api/plans/{id}/lines", "plan-lines", "Lines of a plan that wait, in the order they go out", func(ctx context.Context, in *struct {
		ByID
		Paged
	}) (store.List[store.PlanRow], error) {
		return s.app.Store.PlanLines(ctx, in.ID, in.page())
	})
	op(api, http.MethodPost, "/api/plans/{id}/send", "send-plan", "Send lines of a plan", func(ctx context.Context, in *struct {
		ByID
		Body store.PlanChoice
	}) (app.Sent, error) {
		return s.app.SendPlan(ctx, in.ID, in.Body)
	})
}

func (s *server) sending(api huma.API) {
	op(api, http.MethodPost, "/api/send-outs", "send", "Send listings that are ready", func(ctx context.Context, in *body[struct {
		Listings []int64 `json:"listings,omitempty" doc:"Which; all that are ready where left out"`
	}]) (app.Sent, error) {
		return s.app.SendListings(ctx, in.Body.Listings)
	})
	op(api, http.MethodGet, "/api/send-outs", "send-outs", "Send-outs, newest first", func(ctx context.Context, in *Paged) (store.List[store.SendOutRow], error) {
		return s.app.Store.SendOuts(ctx, in.page())
	})
	op(api, http.MethodGet, "/api/send-outs/{id}", "send-out", "One send-out", func(ctx context.Context, in *ByID) (store.SendOutRow, error) {
		return s.app.Store.SendOutRowOf(ctx, in.ID)
	})
	op(api, http.MethodGet, "/api/send-outs/{id}/lines", "send-lines", "Lines of a send-out", func(ctx context.Context, in *struct {
		ByID
		Paged
		State string `query:"state"`
	}) (store.List[store.SendLineRow], error) {
		return s.app.Store.SendLines(ctx, in.ID, in.State, in.page())
	})
	op(api, http.MethodPost, "/api/send-outs/{id}/again", "send-again", "Try a stuck send-out again; nothing is sent twice", func(ctx context.Context, in *ByID) (work.Run, error) {
		return s.app.SendAgain(ctx, in.ID)
	})
	op(api, http.MethodPost, "/api/send-outs/{id}/give-up", "give-up", "Give a send-out up that could not be handed over", func(ctx context.Context, in *ByID) (done, error) {
		return said(s.app.GiveUp(ctx, in.ID))
	})
}

package matching

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// MatchRow is a supplier product that waits on Match.
type MatchRow struct {
	ID         int64  `json:"id"`
	State      string `json:"state"`
	SiteID     int64  `json:"site_id"`
	Site       string `json:"site"`
	ProductID  int64  `json:"supplier_product_id"`
	Supplier   string `json:"supplier"`
	Ref        string `json:"ref"`
	GTIN       string `json:"gtin"`
	GTINStatus string `json:"gtin_status"`
	Title      string `json:"title"`
	Brand      string `json:"brand"`
	Category   string `json:"category"`
	Cost       int64  `json:"cost"`
	Currency   string `json:"currency"`
	Stock      int64  `json:"stock"`
	StockState string `json:"stock_state"`
	Units      int64  `json:"units" doc:"How many are in the supplier's item; 0 where it doesn't say"`
	Candidates string `json:"-"`
	Picture    string `json:"picture" doc:"Digest of the supplier's leading picture; empty where none is kept"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(
		api,
		http.MethodGet,
		"/api/matches",
		"matches",
		"Supplier products that wait for a decision",
		func(ctx context.Context, in *struct {
			stops.Paged
			State string `query:"state" enum:"waiting,later,new entry" default:"waiting"`
		}) (stops.List[MatchRow], error) {
			states := []string{in.State}
			if in.State == "waiting" {
				states = []string{"several", "none"}
			}
			l, err := st.Store.Matches(ctx, states, in.Page())
			return stops.Shown(l, err, func(r store.MatchRow) MatchRow { return MatchRow(r) })
		},
	)
	stops.Op(
		api,
		http.MethodGet,
		"/api/matches/{id}/candidates",
		"candidates",
		"Entries that a supplier product may be, weighed",
		func(ctx context.Context, in *struct {
			stops.ByID
			Words string `query:"words" maxLength:"300" doc:"Look entries up by these words as well"`
		}) ([]CandidateView, error) {
			return st.Candidates(ctx, in.ID, in.Words)
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/matches/{id}/decide",
		"decide-match",
		"Choose an entry, ask for a new one, or put it off",
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Entry string `json:"entry,omitempty" doc:"Ref of the entry chosen"`
				State string `json:"state,omitempty" enum:"new entry,later"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Decide(ctx, in.ID, in.Body.State, in.Body.Entry))
		},
	)
	stops.Op(
		api,
		http.MethodPost,
		"/api/sites/{id}/look-again",
		"look-again",
		"Look undecided supplier products up again",
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.LookAgain(ctx, in.ID)
			return stops.RunOf(r), err
		},
	)
}

package today

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// TodayView is what needs a person, and what was done last.
type TodayView struct {
	Items []TodayItem `json:"items"`
	Last  []LastThing `json:"last" doc:"What was done last"`
}

// LastThing is something that was done.
type LastThing struct {
	At      time.Time `json:"at"`
	Actor   string    `json:"actor" doc:"Who did it"`
	What    string    `json:"what"`
	Subject string    `json:"subject"`
	Detail  string    `json:"detail"`
}

// Counts is what waits at each stop.
type Counts struct {
	FeedsWaiting int64       `json:"feeds_waiting" doc:"Feeds looked at or held, waiting for a person"`
	FeedsHeld    int64       `json:"feeds_held"`
	FeedsFailed  int64       `json:"feeds_failed" doc:"Sources whose newest feed failed"`
	MatchSeveral int64       `json:"match_several"`
	MatchNone    int64       `json:"match_none"`
	MatchLater   int64       `json:"match_later"`
	MatchCertain int64       `json:"match_certain" doc:"Wait to be accepted together"`
	Unpriced     int64       `json:"unpriced"`
	Incomplete   int64       `json:"incomplete" doc:"Listings of our own that lack something their category needs"`
	Ready        int64       `json:"ready"`
	Refused      int64       `json:"refused"`
	Sent         int64       `json:"sent"`
	Live         int64       `json:"live"`
	Paused       int64       `json:"paused"`
	Unknown      int64       `json:"unknown" doc:"Sent, and nobody told what became of them"`
	SendsStuck   int64       `json:"sends_stuck" doc:"Send-outs that wait for a person: not handed over, or never finished"`
	PlanLines    int64       `json:"plan_lines"`
	PlanHeld     int64       `json:"plan_held"`
	PlanGo       int64       `json:"plan_go"`
	Untied       int64       `json:"untied" doc:"On sale somewhere, and tied to nothing of ours"`
	Dirty        int64       `json:"dirty" doc:"Listings that wait to be worked out, since something changed"`
	Products     int64       `json:"products"`
	Sources      int64       `json:"sources"`
	SupplierRows int64       `json:"supplier_products"`
	Hits         int64       `json:"hits" doc:"Times that watches were set off, which nobody has seen"`
	Differences  int64       `json:"differences" doc:"Listings that are not as they were confirmed"`
	OrdersBuy    int64       `json:"orders_buy" doc:"Lines of orders to be bought"`
	OrdersSend   int64       `json:"orders_send" doc:"Bought, and to be sent"`
	OrdersWrong  int64       `json:"orders_wrong" doc:"That a person must look at"`
	OrdersLate   int64       `json:"orders_late" doc:"Not sent for too long"`
	SaidThere    int64       `json:"said_there" doc:"Listings that say something else at their place than was sent"`
	Sheets       int64       `json:"sheets" doc:"Filled sheets that wait to be uploaded at their place"`
	Words        int64       `json:"words" doc:"Listings on sale whose words differ from what is there"`
	Tasks        int64       `json:"tasks" doc:"Tasks at places that are served by hand"`
	Halt         *stops.Halt `json:"halt" doc:"The stop that holds everything at once, where it is pulled"`
}

func countsOf(c store.Counts, halt *stops.Halt) Counts {
	return Counts{c.FeedsWaiting, c.FeedsHeld, c.FeedsFailed, c.MatchSeveral, c.MatchNone, c.MatchLater, c.MatchCertain, c.Unpriced, c.Incomplete, c.Ready,
		c.Refused, c.Sent, c.Live, c.Paused, c.Unknown, c.SendsStuck, c.PlanLines, c.PlanHeld, c.PlanGo, c.Untied, c.Dirty, c.Products,
		c.Sources, c.SupplierRows, c.Hits, c.Differences, c.OrdersBuy, c.OrdersSend, c.OrdersWrong, c.OrdersLate, c.SaidThere, c.Sheets, c.Words, c.Tasks, halt}
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/today", "get-today", "today", "What needs a person, and what was done last"),
		func(ctx context.Context, _ *stops.None) (TodayView, error) {
			items, err := st.Today(ctx)
			if err != nil {
				return TodayView{}, err
			}
			last, err := st.Store.LastAudits(ctx, 12)
			out := TodayView{Items: items, Last: []LastThing{}}
			for _, l := range last {
				out.Last = append(out.Last, LastThing{l.At, l.Actor, l.What, l.Subject, l.Detail})
			}
			return out, err
		},
	)
	stops.Op(api, stops.Read("/today/comparison", "compare-today", "today", "What comes by itself next, and what happened since a moment"),
		func(ctx context.Context, in *struct {
			Since time.Time `query:"since" doc:"Left out: nothing is counted"`
		}) (TodayBeside, error) {
			return st.Beside(ctx, in.Since)
		},
	)
	stops.Op(api, stops.Read("/counts", "get-counts", "counts", "What waits at each stop"),
		func(ctx context.Context, _ *stops.None) (Counts, error) {
			c, err := st.Store.Counts(ctx, st.Now())
			if err != nil {
				return Counts{}, err
			}
			halt, err := stops.Halted(st.Store.Reading(ctx))
			return countsOf(c, halt), err
		},
	)
	stops.Op(api, stops.Read("/runs", "list-runs", "runs", "Runs that are set aside, those under way, then those that wait, then the newest that are over"),
		func(ctx context.Context, _ *stops.None) ([]stops.Run, error) {
			live, err := st.Queue.Live(ctx)
			if err != nil {
				return nil, err
			}
			slices.SortStableFunc(live, func(a, b store.Run) int { // what is under way stands before what waits for its turn
				return cmp.Compare(b.State, a.State)
			})
			aside, err := st.Store.RunsAside(ctx)
			if err != nil {
				return nil, err
			}
			past, err := st.Store.LastRuns(ctx, 30)
			out := []stops.Run{}
			for _, r := range slices.Concat(aside, live, past) {
				out = append(out, stops.RunOf(r))
			}
			return out, err
		},
	)
	stops.Op(api, stops.Post("/runs/{id}/stop", "stop-run", actor.Prepare, "Stop a run", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			ok, err := st.Queue.Stop(ctx, in.ID)
			return stops.Done{OK: ok}, err
		},
	)
	stops.Op(api, stops.Post("/runs/{id}/retry", "retry-run", actor.Prepare, "Have a run tried again that is set aside because the program ended twice while it went on", "runs", "today"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			ok, err := st.Queue.TryAgain(ctx, in.ID)
			if err == nil && !ok {
				err = fault.New(fault.Conflict, "this run isn't set aside any more; it was tried again, or there is no such run")
			}
			return stops.Done{OK: ok}, err
		},
	)
	stops.OpEdited(api, stops.Read("/retention", "get-retention", "keeping", "What is kept, and for how long"),
		func(ctx context.Context, _ *stops.None) (Keeping, error) {
			return st.Keeping(ctx)
		},
	)
	stops.Op(api, stops.Put("/retention", "update-retention", actor.Settings, "Set how long things are kept; what is older goes at once", "keeping"),
		func(ctx context.Context, in *struct {
			stops.IfMatch
			Body struct {
				Days map[string]int64 `json:"days" doc:"By kind"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.Keep(ctx, in.IfMatch, in.Body.Days))
		},
	)
}

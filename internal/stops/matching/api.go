package matching

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// MatchRow is a supplier product with its match on one site.
type MatchRow struct {
	ID         int64     `json:"id"`
	State      string    `json:"state"`
	SiteID     int64     `json:"site_id"`
	Site       string    `json:"site"`
	ProductID  int64     `json:"supplier_product_id"`
	Supplier   string    `json:"supplier"`
	Ref        string    `json:"ref"`
	GTIN       string    `json:"gtin"`
	GTINStatus string    `json:"gtin_status"`
	Title      string    `json:"title"`
	Brand      string    `json:"brand"`
	Category   string    `json:"category"`
	Cost       int64     `json:"cost"`
	Currency   string    `json:"currency"`
	Stock      int64     `json:"stock"`
	StockState string    `json:"stock_state"`
	Units      int64     `json:"units" doc:"How many are in the supplier's item; 0 where it doesn't say"`
	Verdict    string    `json:"verdict"`
	Note       string    `json:"note" doc:"What changed since it was decided, or why it asks"`
	Bought     int64     `json:"units_bought" doc:"0 unknown"`
	Listed     int64     `json:"units_listed" doc:"0 unknown"`
	DecidedBy  string    `json:"decided_by"`
	DecidedAt  time.Time `json:"decided_at"`
	Entry      string    `json:"entry" doc:"The one it is matched to, or would be"`
	EntryTitle string    `json:"entry_title"`
	Number     string    `json:"number" doc:"Of the seller's own, given to a new entry"`
	Candidates string    `json:"-"`
	Picture    string    `json:"picture" doc:"Digest of the supplier's leading picture; empty where none is kept"`
}

// tabs are the states that each list of the desk shows.
var tabs = map[string][]string{
	"waiting":     {store.MatchSeveral, store.MatchNone, store.MatchBarred},
	"certain":     {store.MatchCertain},
	"later":       {store.MatchLater},
	"new entry":   {store.MatchNewEntry},
	"decided":     {store.MatchMade},
	"not allowed": {store.MatchBarred},
}

// EntryView is an entry that was looked up.
type EntryView struct {
	Ref   string `json:"ref"`
	Title string `json:"title"`
	Brand string `json:"brand"`
	GTIN  string `json:"gtin"`
	Page  string `json:"page"`
	Units int64  `json:"units"`
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	stops.Op(api, stops.Read("/matches", "list-matches", "matches", "Supplier products by what became of their match"),
		func(ctx context.Context, in *struct {
			stops.Paged
			State string `query:"state" enum:"waiting,certain,later,new entry,decided,not allowed" default:"waiting"`
		}) (stops.List[MatchRow], error) {
			l, err := st.Store.Matches(ctx, tabs[in.State], in.Page())
			return stops.Shown(l, err, func(r store.MatchRow) MatchRow { return MatchRow(r) })
		})
	stops.Op(api, stops.Read("/matches/{id}/entries", "list-match-entries", "matches", "Entries that a supplier product may be, weighed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Words string `query:"words" maxLength:"2000" doc:"Look entries up by this as well: words, a number, an entry's own number, or the address of its page"`
		}) (DeskView, error) {
			return st.Desk(ctx, in.ID, in.Words)
		})
	stops.Op(api, stops.Post("/matches/{id}/decide", "decide-match", actor.Prepare, "Choose an entry, ask for a new one, or put it off", "matches", "products", "listings", "pool"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body Decision
		}) (Decided, error) {
			return st.Decide(ctx, in.ID, in.Body)
		})
	stops.Op(api, stops.Post("/matches/decide", "decide-matches", actor.Prepare, "Decide several together, after a look at the list of them", "matches", "products", "listings", "pool", "weigh", "finds"),
		func(ctx context.Context, in *struct {
			Body struct {
				Choices []Choice `json:"choices" minItems:"1" maxItems:"500"`
			}
		}) (Many, error) {
			return st.DecideMany(ctx, in.Body.Choices)
		})
	stops.Op(api, stops.Post("/matches/{id}/undo", "undo-match", actor.Prepare, "Undo a decision; what was listed by it goes off sale by the plan", "matches", "products", "listings", "pool"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.TakeBack(ctx, in.ID))
		})
	stops.Op(api, stops.Put("/matches/{id}/units", "set-match-units", actor.Prepare, "Say how many are in the supplier's item and in what the entry sells", "matches", "products", "listings", "pool"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Bought int64 `json:"units_bought"`
				Listed int64 `json:"units_listed"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetUnits(ctx, in.ID, in.Body.Bought, in.Body.Listed))
		})
	stops.Op(api, stops.Read("/matches/{id}/similar", "list-similar-matches", "matches", "Those that wait and differ in the same way"),
		func(ctx context.Context, in *stops.ByID) ([]Alike, error) { return st.AlikeTo(ctx, in.ID) })
	stops.Op(api, stops.Put("/matches/{id}/number", "assign-match-number", actor.Prepare, "Give a new entry a number of the seller's own", "matches", "pool"),
		func(ctx context.Context, in *stops.ByID) (GivenNumber, error) {
			n, err := st.GiveNumber(ctx, in.ID)
			return GivenNumber{n}, err
		})
	stops.Op(api, stops.Delete("/matches/{id}/number", "delete-match-number", actor.Prepare, "Put the number back into the pool", "matches", "pool"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.GiveBack(ctx, in.ID))
		})
	st.siteOperations(api)
	st.secondOperations(api)
	st.ownOperations(api)
}

// GivenNumber is a number of the seller's own that an entry was given.
type GivenNumber struct {
	Number string `json:"number" doc:"A GTIN from the seller's pool"`
}

// siteOperations are those about a site as a whole.
func (st *Stop) siteOperations(api huma.API) {
	stops.Op(api, stops.Post("/sites/{id}/matches/retry", "retry-matches", actor.Prepare, "Look undecided supplier products up again", "runs", "matches"),
		func(ctx context.Context, in *stops.ByID) (stops.Run, error) {
			r, err := st.LookAgain(ctx, in.ID)
			return stops.RunOf(r), err
		})
	stops.Op(api, stops.Read("/sites/{id}/entries", "look-up-entries", "look-up", "Look entries up by a number, the place's own, an address of a page, or words"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Q string `query:"q" maxLength:"2000"`
		}) ([]EntryView, error) {
			site, err := st.Store.SiteOf(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			found, err := st.Find(ctx, site, in.Q)
			out := make([]EntryView, 0, len(found))
			for _, e := range found {
				out = append(out, EntryView{e.Ref, e.Title, e.Brand, e.GTIN, e.Page, e.Units})
			}
			return out, err
		})
	stops.Op(api, stops.Post("/sites/{id}/matches/accept-certain", "accept-certain-matches", actor.Prepare, "Accept every certain match of a site that waits to be", "matches", "listings", "products", "runs"),
		func(ctx context.Context, in *stops.ByID) (Many, error) { return st.AcceptAll(ctx, in.ID) })
	stops.Op(api, stops.Put("/sites/{id}/auto-accept", "set-auto-accept", actor.Prepare, "Whether certain matches are accepted by themselves", "sites"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				On bool `json:"on"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetAccepts(ctx, in.ID, in.Body.On))
		})
	stops.Op(api, stops.Put("/sites/{id}/approvals", "set-approval", actor.Prepare, "Note that leave to sell in a category was asked for or given", "prepare", "listings", "matches", "runs"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Category string `json:"category" minLength:"1"`
				State    string `json:"state" enum:"asked,given"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.NoteLeave(ctx, in.ID, in.Body.Category, in.Body.State))
		})
}

// ownOperations are those about numbers and SKUs of the seller's own.
func (st *Stop) ownOperations(api huma.API) {
	stops.Op(api, stops.Read("/own-numbers", "get-own-numbers", "pool", "How many numbers of the seller's own there are"),
		func(ctx context.Context, _ *stops.None) (Pool, error) { return st.PoolState(ctx) })
	stops.Op(api, stops.Post("/own-numbers", "add-own-numbers", actor.Prepare, "Add numbers of the seller's own, one a line", "pool"),
		func(ctx context.Context, in *struct {
			Body struct {
				Numbers string `json:"numbers" maxLength:"4000000"`
			}
		}) (PoolAdded, error) {
			return st.AddNumbers(ctx, in.Body.Numbers)
		})
	stops.Op(api, stops.Read("/sku-pattern", "get-sku-pattern", "skus", "How SKUs are made, tried on real rows"),
		func(ctx context.Context, in *struct {
			Pattern string `query:"pattern" maxLength:"80" doc:"Try this one; empty is the one in use"`
		}) (SKUPattern, error) {
			return st.TrySKUs(ctx, in.Pattern)
		})
	stops.Op(api, stops.Put("/sku-pattern", "set-sku-pattern", actor.Prepare, "Set how SKUs are made; those that were given stay", "skus"),
		func(ctx context.Context, in *struct {
			Body struct {
				Pattern string `json:"pattern" minLength:"1" maxLength:"80"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.SetSKUs(ctx, in.Body.Pattern))
		})
}

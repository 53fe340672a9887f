// Package watching is the stop where what should change on the marketplaces is
// looked at before it is let go: the plan, with its reasons.
package watching

import (
	"context"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Stop is the use cases of Watch.
type Stop struct {
	stops.Deps
	looked stops.Pace
	moment string // of the data when watches were looked at last; only their run touches it
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// PlanRow is a line of a plan as Watch shows it.
type PlanRow struct {
	ID         int64    `json:"id"`
	ListingID  int64    `json:"listing_id"`
	SKU        string   `json:"sku"`
	Title      string   `json:"title"`
	Site       string   `json:"site"`
	Page       string   `json:"page"`
	Currency   string   `json:"currency"`
	Kind       string   `json:"kind" enum:"zero,rest,no price,up,down,quantity"`
	FromPrice  *int64   `json:"from_price"`
	ToPrice    *int64   `json:"to_price"`
	FromQty    *int64   `json:"from_quantity"`
	ToQty      *int64   `json:"to_quantity"`
	Asked      *int64   `json:"asked" doc:"The price asked after the change"`
	ProfitWas  *int64   `json:"profit_was" doc:"Left of a sale at the old price, at today's cost"`
	ProfitNew  *int64   `json:"profit_new"`
	Price      *int64   `json:"price" doc:"The price worked out, with what it splits into"`
	Landed     *int64   `json:"landed"`
	Fees       *int64   `json:"fees"`
	Tax        *int64   `json:"tax"`
	Outbound   *int64   `json:"outbound"`
	Profit     *int64   `json:"profit"`
	BreakEven  *int64   `json:"break_even"`
	Floor      *int64   `json:"floor"`
	Reasons    []string `json:"reasons"`
	Verdict    string   `json:"verdict" enum:"go,held,blocked"`
	VerdictWhy string   `json:"verdict_why"`
	State      string   `json:"state"`
	Picture    string   `json:"picture" doc:"Digest of its leading picture; empty where none is kept"`
}

// PlanGroup sums the lines of one consequence.
type PlanGroup struct {
	Kind    string `json:"kind"`
	Lines   int64  `json:"lines"`
	Go      int64  `json:"go"`
	Held    int64  `json:"held"`
	Blocked int64  `json:"blocked"`
	OnSale  int64  `json:"on_sale" doc:"What is on sale in these listings, at their prices"`
	Gain    int64  `json:"gain" doc:"What one sale of each earns more than without the change"`
	Name    string `json:"name"`
	First   bool   `json:"first" doc:"Whether it goes out before all else"`
	Words   string `json:"words" doc:"What comes of it, in money"`
	Short   string `json:"short" doc:"The money alone"`
}

// names are what each consequence is called.
var names = map[string]string{
	"zero":     "Stock to nothing",
	"rest":     "Off sale until you decide",
	"no price": "No price left",
	"up":       "Price up",
	"down":     "Price down",
	"quantity": "Another quantity",
}

// kinds are the consequences, in the order they go out.
var kinds = []string{"zero", "rest", "no price", "up", "down", "quantity"}

// groupOf is a group with its words; amounts in a currency.
func groupOf(g store.PlanGroup, cur string) PlanGroup {
	show := func(v int64) string { return money.Of(v, money.Currency(cur)).String() + " " + cur }
	if cur == "" { // of several currencies: amounts don't add up
		out := PlanGroup{Kind: g.Kind, Lines: g.Lines, Go: g.Go, Held: g.Held, Blocked: g.Blocked, Name: names[g.Kind]}
		out.First = slices.Contains(kinds[:3], g.Kind)
		return out
	}
	out := PlanGroup{
		Kind:    g.Kind,
		Lines:   g.Lines,
		Go:      g.Go,
		Held:    g.Held,
		Blocked: g.Blocked,
		OnSale:  g.OnSale,
		Gain:    g.Gain,
		Name:    names[g.Kind],
	}
	switch {
	case slices.Contains(kinds[:3], g.Kind):
		out.Short = show(g.OnSale) + " on sale"
	case g.Kind != "quantity" && g.Gain < 0:
		out.Short = show(-g.Gain) + " less a sale of each"
	case g.Kind != "quantity":
		out.Short = show(g.Gain) + " more a sale of each"
	}
	switch {
	case g.Kind == "zero":
		out.First, out.Words = true, show(g.OnSale)+" on sale that can't be had"
	case g.Kind == "rest":
		out.First, out.Words = true, show(g.OnSale)+" on sale at a loss"
	case g.Kind == "no price":
		out.First, out.Words = true, show(g.OnSale)+" on sale with no price left"
	case g.Kind == "quantity":
	case g.Gain < 0:
		out.Words = "gives up " + show(-g.Gain) + " on one sale of each"
	default:
		out.Words = "earns " + show(g.Gain) + " more on one sale of each"
	}
	return out
}

// PlanSite is a site on which a plan waits.
type PlanSite struct {
	ID     int64  `json:"id" doc:"Of the site"`
	Name   string `json:"name"`
	PlanID int64  `json:"plan_id"`
	Sends  bool   `json:"sends" doc:"Whether anything can be handed over there"`
}

// PlanView is the plan of one site, or of all, summed by consequence.
type PlanView struct {
	ID       int64       `json:"id" doc:"Of the one site's plan; 0 where nothing waits, or it is of all sites"`
	Sites    []PlanSite  `json:"sites" doc:"Where a plan waits"`
	SiteID   int64       `json:"site_id" doc:"0: all sites"`
	Site     string      `json:"site"`
	Cur      string      `json:"currency" doc:"Empty where the sites have several: their amounts don't add up"`
	MadeAt   *time.Time  `json:"made" doc:"When a line of it was last worked out"`
	Reworked int64       `json:"reworked" doc:"Listings there that are being worked out again, since something changed"`
	Groups   []PlanGroup `json:"groups"`
	Runs     string      `json:"runs" doc:"by hand, alone, first week; empty for all sites"`
}

// Plan is the plan that waits on a site; the one with most to take off sale where
// none waits on it. All of them together where siteID is below 0.
func (st *Stop) Plan(ctx context.Context, siteID int64) (PlanView, error) {
	out := PlanView{Groups: []PlanGroup{}, Sites: []PlanSite{}}
	plans, err := st.Store.OpenPlans(ctx)
	if err != nil || len(plans) == 0 {
		return out, err
	}
	for i, p := range plans {
		site, err := st.Store.SiteOf(ctx, p.SiteID)
		if err != nil {
			return out, err
		}
		out.Sites = append(out.Sites, PlanSite{site.ID, site.Name, p.ID, st.Places(site.Marketplace).Outlet != nil})
		dirty, err := st.Store.CountDirty(ctx, site.ID)
		if err != nil {
			return out, err
		}
		switch {
		case siteID < 0:
			out.add(&plans[i], &site)
			out.Reworked += dirty
		case i == 0 || site.ID == siteID:
			out.ID, out.SiteID, out.Site, out.Cur, out.MadeAt, out.Reworked = p.ID, site.ID, site.Name, site.Currency, &plans[i].MadeAt, dirty
			out.Runs = st.runs(&site)
		}
	}
	groups, err := st.Store.PlanGroups(ctx, out.ID)
	for _, g := range groups {
		out.Groups = append(out.Groups, groupOf(g, out.Cur))
	}
	return out, err
}

// add adds a site's plan to that of all.
func (v *PlanView) add(p *store.Plan, site *store.Site) {
	if v.Site == "" {
		v.Site, v.Cur = "all sites", site.Currency
	}
	if v.Cur != site.Currency {
		v.Cur = ""
	}
	if v.MadeAt == nil || p.MadeAt.After(*v.MadeAt) {
		v.MadeAt = &p.MadeAt
	}
}

// runs says how what may go on a site is sent.
func (st *Stop) runs(site *store.Site) string {
	if site.Runs == store.Alone && site.ActsFrom != nil && site.ActsFrom.After(st.Now()) {
		return "first week"
	}
	return site.Runs
}

// Operations implements stops.Stop.
func (st *Stop) Operations(api huma.API) {
	st.watchOperations(api)
	st.moveOperations(api)
	stops.Op(api, stops.Read("/plans", "get-plan", "plan", "The plan that waits on a site"), func(ctx context.Context, in *struct {
		Site int64 `query:"site" doc:"The one worked out last of any where left out, or where none waits on it"`
	}) (PlanView, error) {
		return st.Plan(ctx, in.Site)
	})
	stops.Op(api, stops.Read("/plans/{id}/lines", "list-plan-lines", "plan", "Lines of a plan that wait, in the order they go out; of all plans where the id is 0"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Paged
			Kind    string `query:"kind" doc:"Only those of one consequence"`
			Verdict string `query:"verdict" enum:"go,held,blocked"`
		}) (stops.List[PlanRow], error) {
			l, err := st.Store.PlanLines(ctx, store.PlanPart{Plan: in.ID, Kind: in.Kind, Verdict: in.Verdict}, in.Page())
			return stops.Shown(l, err, func(r store.PlanRow) PlanRow { return PlanRow(r) })
		},
	)
	stops.OpEdited(api, stops.Read("/sites/{id}/policy", "get-policy", "following", "How a site follows suppliers and rivals, with what its price rules set otherwise"),
		func(ctx context.Context, in *stops.ByID) (FollowingView, error) { return st.Following(ctx, in.ID) },
	)
	stops.Op(api, stops.Put("/sites/{id}/policy", "update-policy", actor.Settings, "Set how a site follows suppliers and rivals", "following", "sites", "rules", "plan", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body SiteFollowing
		}) (stops.Done, error) {
			return stops.Said(st.SetFollowing(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Put("/rules/{id}/policy", "update-rule-policy", actor.Settings, "Set what a price rule follows otherwise than its site", "following", "sites", "rules", "plan", "listings"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.IfMatch
			Body RuleFollowing
		}) (stops.Done, error) {
			return stops.Said(st.SetRuleFollowing(ctx, in.ID, in.IfMatch, in.Body))
		},
	)
	stops.Op(api, stops.Ask("/sites/{id}/policy/try", "try-policy", "listings", "What other figures would make of a site's plan; nothing is changed"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body Trial
		}) (TrialView, error) {
			return st.Try(ctx, in.ID, in.Body)
		},
	)
	stops.Op(api, stops.Read("/dry-runs", "list-dry-runs", "shadows", "What rules in their first week would have sent by themselves, newest first"),
		func(ctx context.Context, in *struct {
			stops.Paged
			Site int64 `query:"site" doc:"0: of all"`
		}) (stops.List[ShadowRow], error) {
			l, err := st.Store.Shadows(ctx, in.Site, in.Page())
			return stops.Shown(l, err, func(r store.ShadowRow) ShadowRow { return ShadowRow(r) })
		},
	)
}

// ShadowRow is a change that a rule in its first week would have sent by itself.
type ShadowRow struct {
	ID        int64     `json:"id"`
	ListingID int64     `json:"listing_id"`
	SKU       string    `json:"sku"`
	Title     string    `json:"title"`
	Site      string    `json:"site"`
	Currency  string    `json:"currency"`
	Rule      string    `json:"rule"`
	Kind      string    `json:"kind"`
	FromPrice *int64    `json:"from_price"`
	ToPrice   *int64    `json:"to_price"`
	FromQty   *int64    `json:"from_quantity"`
	ToQty     *int64    `json:"to_quantity"`
	Reasons   []string  `json:"reasons"`
	At        time.Time `json:"at"`
	Picture   string    `json:"picture"`
}

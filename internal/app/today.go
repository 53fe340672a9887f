package app

import (
	"context"
	"fmt"
	"slices"
	"sort"

	"easymargin/internal/store"
)

// TodayItem is one thing that needs a person: a sentence and its one action.
type TodayItem struct {
	Kind     string `json:"kind"`
	Words    string `json:"words" doc:"What waits, in a sentence"`
	More     string `json:"more" doc:"Why it matters, or what stands behind it"`
	Action   string `json:"action" doc:"What the button says"`
	Link     string `json:"link" doc:"Screen where it is done"`
	Stake    int64  `json:"stake" doc:"Money at stake, minor units; 0 where it can't be told"`
	Currency string `json:"currency"`
}

// Today lists what needs a person, most money at stake first.
func (a *App) Today(ctx context.Context) ([]TodayItem, error) {
	c, err := a.Store.Counts(ctx)
	if err != nil {
		return nil, err
	}
	out := []TodayItem{}
	put := func(n int64, item TodayItem) {
		if n > 0 {
			out = append(out, item)
		}
	}
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	if err := a.planItems(ctx, put); err != nil {
		return nil, err
	}
	put(c.SendsStuck, TodayItem{Kind: "stuck", Words: plural(c.SendsStuck, "send-out is stuck", "send-outs are stuck"),
		More: "The marketplace could not be reached. Nothing is sent twice when you try again.", Action: "Look at them", Link: "/send"})
	if err := a.feedItems(ctx, put); err != nil {
		return nil, err
	}
	put(c.Refused, TodayItem{Kind: "refused", Words: plural(c.Refused, "listing was refused", "listings were refused"),
		More: "The marketplace says why, line by line.", Action: "Read why", Link: "/send?tab=refused"})
	if n := c.MatchSeveral + c.MatchNone; n > 0 {
		put(n, TodayItem{Kind: "match", Words: plural(n, "product waits for your decision", "products wait for your decision"),
			More: fmt.Sprintf("%d with several entries or doubts, %d without an entry.", c.MatchSeveral, c.MatchNone), Action: "Decide", Link: "/match"})
	}
	put(c.Ready, TodayItem{Kind: "ready", Words: plural(c.Ready, "listing is ready to go up", "listings are ready to go up"),
		More: "Priced, in stock, and not on sale yet.", Action: "Send them", Link: "/send"})
	put(c.Unpriced, TodayItem{Kind: "unpriced", Words: plural(c.Unpriced, "listing has no price", "listings have no price"),
		More: "The reason stands beside each.", Action: "See why", Link: "/price?state=unpriced"})
	if err := a.rateItems(ctx, sites, put); err != nil {
		return nil, err
	}
	if len(sites) == 0 {
		put(1, TodayItem{Kind: "first", Words: "No marketplace is connected", More: "Connect one by the address of its gateway; its fees and categories come with it.",
			Action: "Connect one", Link: "/price?tab=terms"})
	}
	if c.Sources == 0 {
		put(1, TodayItem{Kind: "first", Words: "No supplier's products are here yet", More: "Drop a price list, or give the address one is fetched from.",
			Action: "Bring in the first", Link: "/sources"})
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Stake > out[j].Stake })
	return out, nil
}

// rateItems says which exchange rates that prices are made of are too old.
func (a *App) rateItems(ctx context.Context, sites []store.Site, put func(int64, TodayItem)) error {
	rates, err := a.Store.Rates(ctx)
	if err != nil {
		return err
	}
	sources, err := a.Store.Sources(ctx)
	if err != nil {
		return err
	}
	for _, r := range rates {
		into := slices.IndexFunc(sites, func(s store.Site) bool { return s.Lists && s.Currency == r.To })
		words := staleRate(r.From, r.Day, a.now())
		if into < 0 || words == "" || !slices.ContainsFunc(sources, func(s store.Source) bool { return s.Currency == r.From }) {
			continue
		}
		put(1, TodayItem{Kind: "rate", Words: "T" + words[1:], More: "Costs in " + r.From + " are changed into " + r.To + " by it.", Action: "See the rates",
			Link: fmt.Sprintf("/price?tab=terms&site=%d", sites[into].ID)})
	}
	return nil
}

func (a *App) planItems(ctx context.Context, put func(int64, TodayItem)) error {
	plans, err := a.Store.OpenPlans(ctx)
	if err != nil {
		return err
	}
	for _, p := range plans {
		if err := a.planItem(ctx, p, put); err != nil {
			return err
		}
	}
	return nil
}

// planItem says what waits in the plan of one site.
func (a *App) planItem(ctx context.Context, p store.Plan, put func(int64, TodayItem)) error {
	site, err := a.Store.SiteOf(ctx, p.SiteID)
	if err != nil {
		return err
	}
	groups, err := a.Store.PlanGroups(ctx, p.ID)
	if err != nil {
		return err
	}
	link := fmt.Sprintf("/watch?site=%d", site.ID)
	cur, held, moves, gain := site.Currency, int64(0), int64(0), int64(0)
	for _, g := range groups {
		held += g.Held + g.Blocked
		switch g.Kind {
		case "zero", "no price":
			put(g.Go, TodayItem{Kind: "zero", Words: plural(g.Go, "listing offers stock that can't be had", "listings offer stock that can't be had"),
				More: "Buyers on " + site.Name + " can order them until their stock is put to nothing.", Action: "Stop selling them", Link: link, Stake: g.OnSale, Currency: cur})
		case "up", "down":
			moves += g.Go
			gain += max(g.Gain, -g.Gain)
		default:
			put(g.Go, TodayItem{Kind: "quantity", Words: plural(g.Go, "quantity is out of date", "quantities are out of date"), More: "Suppliers' stock has moved.", Action: "Look at the plan", Link: link})
		}
	}
	put(moves, TodayItem{Kind: "prices", Words: plural(moves, "price should move", "prices should move"),
		More: "Costs have moved; this is what one sale of each would earn or lose by it.", Action: "Look at the plan", Link: link, Stake: gain, Currency: cur})
	put(held, TodayItem{Kind: "held", Words: plural(held, "change is held for you", "changes are held for you"), More: "It moves further than you allow without a look.", Action: "Decide", Link: link})
	return nil
}

func (a *App) feedItems(ctx context.Context, put func(int64, TodayItem)) error {
	sources, err := a.Store.Sources(ctx)
	if err != nil {
		return err
	}
	for _, s := range sources {
		feeds, err := a.Store.Feeds(ctx, s.ID, store.Page{Limit: 1})
		if err != nil {
			return err
		}
		if len(feeds.Rows) == 0 {
			if s.Address != "" {
				put(1, TodayItem{Kind: "fetch", Words: s.Name + " has not been fetched yet", More: "Nothing is kept before you have seen what was recognised.", Action: "Fetch it", Link: "/sources"})
			}
			continue
		}
		f, link := feeds.Rows[0], fmt.Sprintf("/sources/feeds/%d", feeds.Rows[0].ID)
		at := f.ReceivedAt.Format("15:04")
		switch f.State {
		case store.FeedHeld:
			put(1, TodayItem{Kind: "feed held", Words: fmt.Sprintf("%s's feed of %s is held", s.Name, at), More: "It differs more than you allow; nothing of it was taken.", Action: "Compare", Link: link})
		case store.FeedLooked:
			put(1, TodayItem{Kind: "feed", Words: fmt.Sprintf("%s's feed of %s waits to be taken", s.Name, at), More: "See what was recognised first.", Action: "Look at it", Link: link})
		case store.FeedFailed:
			put(1, TodayItem{Kind: "feed failed", Words: fmt.Sprintf("%s's feed of %s failed", s.Name, at), More: f.Error, Action: "Look at it", Link: "/sources"})
		}
		if s.TakenAt != nil && stale(s.TakenAt, a.now()) {
			put(1, TodayItem{Kind: "stale", Words: "Nothing was heard from " + s.Name + " for 48 hours", More: "Its stock counts as unknown and is offered as none.", Action: "See its feeds", Link: "/sources"})
		}
	}
	return nil
}

// Package today is the morning's first look: what needs a person, by the money
// at stake, what was done last, the runs in progress, and what is kept for how
// long.
package today

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"easymargin/core/money"
	"easymargin/core/supply"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Today.
type Stop struct {
	stops.Deps
	tidied day
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) { q.Handle(runTidy, st.doTidy) }

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
func (st *Stop) Today(ctx context.Context) ([]TodayItem, error) {
	c, err := st.Store.Counts(ctx, st.Now())
	if err != nil {
		return nil, err
	}
	out := []TodayItem{}
	put := func(n int64, item TodayItem) {
		if n > 0 {
			out = append(out, item)
		}
	}
	sites, err := st.Store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	if err := st.planItems(ctx, put); err != nil {
		return nil, err
	}
	aside, err := st.Store.RunsAside(ctx)
	if err != nil {
		return nil, err
	}
	for _, r := range aside {
		put(1, TodayItem{
			Kind:   "set aside",
			Words:  "“" + r.Title + "” is set aside",
			More:   "The program ended twice while it went on, so it isn't tried again by itself, and nothing like it either. Everything else goes on.",
			Action: "See it",
			Link:   "/?runs=open",
		})
	}
	put(c.Tasks, TodayItem{
		Kind:   "tasks",
		Words:  stops.Plural(c.Tasks, "thing is to be done by hand", "things are to be done by hand"),
		More:   "What takes something off sale stands first: until it is done, what can't be had may be bought.",
		Action: "Go to the hand desk",
		Link:   "/send?tab=hand",
	})
	put(c.Sheets, TodayItem{
		Kind:   "sheets",
		Words:  stops.Plural(c.Sheets, "filled sheet waits to be uploaded", "filled sheets wait to be uploaded"),
		More:   "Download each, upload it at its place, and say so; nothing of it is there before.",
		Action: "Take them there",
		Link:   "/send?tab=sheets",
	})
	put(c.SendsStuck, TodayItem{
		Kind:   "stuck",
		Words:  stops.Plural(c.SendsStuck, "send-out waits for you", "send-outs wait for you"),
		More:   "They could not be handed over, or were never finished. Nothing is sent twice when you try again.",
		Action: "Look at them",
		Link:   "/send?tab=out",
	})
	put(c.Unknown, TodayItem{
		Kind:   "unknown",
		Words:  stops.Plural(c.Unknown, "listing is unknown", "listings are unknown"),
		More:   "They were sent, and nobody told what became of them. They are read back from what is on sale.",
		Action: "Look at them",
		Link:   "/products?state=unknown",
	})
	put(c.Untied, TodayItem{
		Kind:   "untied",
		Words:  stops.Plural(c.Untied, "offer on sale is untied", "offers on sale are untied"),
		More:   "They are on sale in your name and tied to nothing here, so nobody watches their price and stock.",
		Action: "See which",
		Link:   "/send?tab=untied",
	})
	if err := st.feedItems(ctx, put); err != nil {
		return nil, err
	}
	put(c.Refused, TodayItem{Kind: "refused", Words: stops.Plural(c.Refused, "listing was refused", "listings were refused"),
		More: "The marketplace says why, line by line.", Action: "Read why", Link: "/send?tab=refused"})
	if n := c.MatchSeveral + c.MatchNone; n > 0 {
		put(n, TodayItem{
			Kind:  "match",
			Words: stops.Plural(n, "product waits for your decision", "products wait for your decision"),
			More: fmt.Sprintf(
				"%d with several entries or doubts, %d without an entry.",
				c.MatchSeveral,
				c.MatchNone,
			),
			Action: "Decide",
			Link:   "/match",
		})
	}
	refused, err := st.Store.RefusedMails(ctx, st.Now().AddDate(0, 0, -7))
	if err != nil {
		return nil, err
	}
	put(refused, TodayItem{Kind: "mail", Words: stops.Plural(refused, "mail was refused", "mails were refused"),
		More: "Whom it was for doesn't know; why stands with each.", Action: "See which", Link: "/watch?tab=watches"})
	put(c.OrdersLate, TodayItem{Kind: "late", Words: stops.Plural(c.OrdersLate, "order line is late", "order lines are late"),
		More: "Placed more than two days ago, and not sent.", Action: "See them", Link: "/orders"})
	put(c.OrdersWrong, TodayItem{Kind: "problems", Words: stops.Plural(c.OrdersWrong, "order line has a problem", "order lines have a problem"),
		More: "Something only you can settle: an unknown SKU, a return, a no from the marketplace.", Action: "Look", Link: "/orders?part=problems"})
	sold, err := st.Store.ToBuy(ctx)
	if err != nil {
		return nil, err
	}
	for _, x := range sold {
		put(x.Lines, TodayItem{Kind: "buy", Words: stops.Plural(x.Lines, "order line is to be bought", "order lines are to be bought"),
			More: "Sold and paid for; nothing of it is offered any more.", Action: "Buy", Link: "/orders", Stake: x.Paid, Currency: x.Currency})
	}
	put(c.OrdersSend, TodayItem{Kind: "to send", Words: stops.Plural(c.OrdersSend, "order line is to be marked as sent", "order lines are to be marked as sent"),
		More: "Bought, and on its way to its buyer or to you.", Action: "Mark them", Link: "/orders?part=send"})
	put(c.SaidThere, TodayItem{Kind: "said there",
		Words:  stops.Plural(c.SaidThere, "listing says something else than was sent", "listings say something else than was sent"),
		More:   "Somebody changed them at the marketplace; keep theirs or send ours, field by field.",
		Action: "Look", Link: "/send?tab=words&side=there"})
	put(c.Differences, TodayItem{Kind: "differs",
		Words:  stops.Plural(c.Differences, "listing differs from what was confirmed", "listings differ from what was confirmed"),
		More:   "Somebody changed or ended them at the marketplace; until you decide, their prices wait.",
		Action: "Decide", Link: "/watch?tab=differs"})
	put(c.MatchCertain, TodayItem{Kind: "certain", Words: stops.Plural(c.MatchCertain, "certain match waits", "certain matches wait"),
		More: "Look at the list and accept them together.", Action: "Look", Link: "/match?state=certain"})
	put(c.Ready, TodayItem{Kind: "ready", Words: stops.Plural(c.Ready, "listing is ready to go up", "listings are ready to go up"),
		More: "Priced, in stock, and not on sale yet.", Action: "Send them", Link: "/send"})
	put(c.Incomplete, TodayItem{Kind: "incomplete", Words: stops.Plural(c.Incomplete, "listing lacks something", "listings lack something"),
		More: "What its place needs before it goes up; most are one step from ready.", Action: "Prepare them", Link: "/prepare"})
	put(c.Unpriced, TodayItem{Kind: "unpriced", Words: stops.Plural(c.Unpriced, "listing has no price", "listings have no price"),
		More: "The reason stands beside each.", Action: "See why", Link: "/price?state=unpriced"})
	if err := st.unsaidItem(ctx, sites, put); err != nil {
		return nil, err
	}
	if err := st.unsaidCosts(ctx, put); err != nil {
		return nil, err
	}
	if err := st.secondItem(ctx, put); err != nil {
		return nil, err
	}
	if err := st.rateItems(ctx, sites, put); err != nil {
		return nil, err
	}
	if len(sites) == 0 {
		put(
			1,
			TodayItem{
				Kind:   "first",
				Words:  "No marketplace is connected",
				More:   "Connect one by the address of its gateway, or make one of the files that it lets you download.",
				Action: "Add a place",
				Link:   "/places",
			},
		)
	}
	if c.Sources == 0 {
		put(
			1,
			TodayItem{
				Kind:   "first",
				Words:  "No supplier's products are here yet",
				More:   "Drop a price list, or give the address one is fetched from.",
				Action: "Bring in the first",
				Link:   "/sources",
			},
		)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Stake > out[j].Stake })
	return out, nil
}

// unsaidItem asks for what prices need of the site that most listings wait for.
func (st *Stop) unsaidItem(ctx context.Context, sites []store.Site, put func(int64, TodayItem)) error {
	unpriced, err := st.Store.UnpricedBySite(ctx)
	if err != nil {
		return err
	}
	most := -1
	for i, s := range sites {
		if s.TermsUnsaid && s.Lists && (most < 0 || unpriced[s.ID] > unpriced[sites[most].ID]) {
			most = i
		}
	}
	if most < 0 {
		return nil
	}
	s, waiting := sites[most], ""
	if n := unpriced[s.ID]; n > 0 {
		waiting = " " + stops.Plural(n, "listing waits", "listings wait") + " for it."
	}
	put(1, TodayItem{Kind: "unsaid", Words: "Nothing is priced on " + s.Name + " yet",
		More:   "Say what the buyer pays for delivery there and what sending one costs you; 0 is an answer." + waiting,
		Action: "Say it", Link: fmt.Sprintf("/price?tab=terms&site=%d", s.ID)})
	return nil
}

// unsaidCosts asks for what the costs of a supplier come to: of the source that most
// listings wait for.
func (st *Stop) unsaidCosts(ctx context.Context, put func(int64, TodayItem)) error {
	list, err := st.Store.UnsaidSources(ctx)
	if err != nil || len(list) == 0 {
		return err
	}
	s, waiting := list[0], ""
	if s.Listings > 0 {
		waiting = " " + stops.Plural(s.Listings, "listing waits", "listings wait") + " for it."
	}
	put(1, TodayItem{Kind: "unsaid", Words: "Nothing of " + s.Name + " is priced yet",
		More:   "Say what they charge to deliver an order and whether there is tax in their costs; 0 and none are answers." + waiting,
		Action: "Say it", Link: fmt.Sprintf("/sources?open=%d", s.ID)})
	return nil
}

// secondItem says what further suppliers of what is sold would have earned in a month.
func (st *Stop) secondItem(ctx context.Context, put func(int64, TodayItem)) error {
	sums, err := st.Store.SecondSums(ctx)
	if err != nil || len(sums) == 0 {
		return err
	}
	n, earns := int64(0), []string{}
	for _, s := range sums {
		n += s.N
		if s.Month > 0 {
			earns = append(earns, money.Of(s.Month, money.Currency(s.Currency)).String()+" "+s.Currency)
		}
	}
	more := "None is cheaper now, but each can be bought from where the other has none."
	if len(earns) > 0 {
		more = "From these, the last thirty days' sales would have earned " + strings.Join(earns, " and ") + " more."
	}
	put(n, TodayItem{Kind: "second", Words: stops.Plural(n, "product has a second supplier that isn't used", "products have a second supplier that isn't used"),
		More: more, Action: "Look", Link: "/match?state=second"})
	return nil
}

// rateItems says which exchange rates that prices are made of are too old.
func (st *Stop) rateItems(ctx context.Context, sites []store.Site, put func(int64, TodayItem)) error {
	rates, err := st.Store.Reading(ctx).Rates()
	if err != nil {
		return err
	}
	sources, err := st.Store.Sources(ctx)
	if err != nil {
		return err
	}
	for _, r := range rates {
		into := slices.IndexFunc(sites, func(s store.Site) bool { return s.Lists && s.Currency == r.To })
		words := reckon.StaleRate(r.From, r.Day, st.Now())
		if into < 0 || words == "" || !slices.ContainsFunc(sources, func(s store.Source) bool { return s.Currency == r.From }) {
			continue
		}
		put(
			1,
			TodayItem{
				Kind:   "rate",
				Words:  "T" + words[1:],
				More:   "Costs in " + r.From + " are changed into " + r.To + " by it.",
				Action: "See the rates",
				Link:   fmt.Sprintf("/price?tab=terms&site=%d", sites[into].ID),
			},
		)
	}
	return nil
}

func (st *Stop) planItems(ctx context.Context, put func(int64, TodayItem)) error {
	plans, err := st.Store.OpenPlans(ctx)
	if err != nil {
		return err
	}
	for _, p := range plans {
		if err := st.planItem(ctx, p, put); err != nil {
			return err
		}
	}
	return nil
}

// planItem says what waits in the plan of one site.
func (st *Stop) planItem(ctx context.Context, p store.Plan, put func(int64, TodayItem)) error {
	site, err := st.Store.SiteOf(ctx, p.SiteID)
	if err != nil {
		return err
	}
	groups, err := st.Store.PlanGroups(ctx, p.ID)
	if err != nil {
		return err
	}
	link := fmt.Sprintf("/watch?site=%d", site.ID)
	cur := site.Currency
	var held, moves, amounts, rivals, gain int64
	for _, g := range groups {
		held += g.Held + g.Blocked
		switch g.Kind {
		case "rest":
			put(g.Go, TodayItem{
				Kind:     g.Kind,
				Words:    stops.Plural(g.Go, "listing sells at a loss", "listings sell at a loss"),
				More:     "Their new prices are held for you; until you decide, buyers on " + site.Name + " can order them.",
				Action:   "Stop selling them",
				Link:     link,
				Stake:    g.OnSale,
				Currency: cur,
			})
		case "no price":
			put(g.Go, TodayItem{
				Kind:     g.Kind,
				Words:    stops.Plural(g.Go, "listing has no price left", "listings have no price left"),
				More:     "None that may be asked covers what they cost now; buyers on " + site.Name + " can still order them.",
				Action:   "Stop selling them",
				Link:     link,
				Stake:    g.OnSale,
				Currency: cur,
			})
		case "zero":
			put(
				g.Go,
				TodayItem{
					Kind:     "zero",
					Words:    stops.Plural(g.Go, "listing offers stock that can't be had", "listings offer stock that can't be had"),
					More:     "Buyers on " + site.Name + " can order them until their stock is put to nothing.",
					Action:   "Stop selling them",
					Link:     link,
					Stake:    g.OnSale,
					Currency: cur,
				},
			)
		case "up", "down":
			moves += g.Go
			rivals += g.Rivals
			gain += max(g.Gain, -g.Gain)
		default:
			amounts += g.Go
		}
	}
	put(moves+amounts, TodayItem{
		Kind:     "prices",
		Words:    movesWords(moves, amounts) + " on " + site.Name,
		More:     moreWords(moves, rivals),
		Action:   "Look at the plan",
		Link:     link,
		Stake:    gain,
		Currency: cur,
	})
	put(
		held,
		TodayItem{
			Kind:   "held",
			Words:  stops.Plural(held, "change is held for you", "changes are held for you") + " on " + site.Name,
			More:   "It moves further than you allow without a look.",
			Action: "Decide",
			Link:   link,
		},
	)
	return nil
}

// movesWords counts prices and quantities that should change.
func movesWords(prices, quantities int64) string {
	switch {
	case quantities == 0:
		return stops.Plural(prices, "price should move", "prices should move")
	case prices == 0:
		return stops.Plural(quantities, "quantity is out of date", "quantities are out of date")
	}
	return stops.Plural(prices, "price", "prices") + " and " + stops.Plural(quantities, "quantity", "quantities") + " should move"
}

// moreWords says why prices should move, rivals that asked less first.
func moreWords(prices, rivals int64) string {
	switch {
	case prices == 0:
		return "Suppliers' stock has moved."
	case rivals > 0:
		return fmt.Sprintf("%s under us; this is what one sale of each would earn or lose by all of it.",
			stops.Plural(rivals, "rival went", "rivals went"))
	}
	return "Costs have moved; this is what one sale of each would earn or lose by it."
}

func (st *Stop) feedItems(ctx context.Context, put func(int64, TodayItem)) error {
	sources, err := st.Store.Sources(ctx)
	if err != nil {
		return err
	}
	for _, s := range sources {
		feeds, err := st.Store.Deliveries(ctx, s.ID, 1)
		if err != nil {
			return err
		}
		if len(feeds) == 0 {
			if s.Address != "" {
				put(
					1,
					TodayItem{
						Kind:   "fetch",
						Words:  s.Name + " has not been fetched yet",
						More:   "Nothing is kept before you have seen what was recognised.",
						Action: "Fetch it",
						Link:   "/sources",
					},
				)
			}
			continue
		}
		f, link := feeds[0], fmt.Sprintf("/sources/feeds/%d", feeds[0].ID)
		at := f.ReceivedAt.Format("15:04")
		switch f.State {
		case store.FeedHeld:
			put(
				1,
				TodayItem{
					Kind:   "feed held",
					Words:  fmt.Sprintf("%s's feed of %s is held", s.Name, at),
					More:   "It differs more than you allow; nothing of it was taken.",
					Action: "Compare",
					Link:   link,
				},
			)
		case store.FeedLooked:
			put(
				1,
				TodayItem{
					Kind:   "feed",
					Words:  fmt.Sprintf("%s's feed of %s waits to be taken", s.Name, at),
					More:   "See what was recognised first.",
					Action: "Look at it",
					Link:   link,
				},
			)
		case store.FeedFailed:
			put(
				1,
				TodayItem{
					Kind:   "feed failed",
					Words:  fmt.Sprintf("%s's feed of %s failed", s.Name, at),
					More:   f.Error,
					Action: "Look at it",
					Link:   "/sources",
				},
			)
		}
		said, unknown, err := s.Silence()
		if err != nil {
			return err
		}
		if s.HeardAt == nil {
			continue
		}
		switch since := st.Now().Sub(*s.HeardAt); {
		case since > unknown:
			put(1, TodayItem{
				Kind:   "stale",
				Words:  fmt.Sprintf("Nothing was heard from %s for %s", s.Name, supply.Span(int64(since.Seconds()))),
				More:   "Its stock counts as unknown and is offered as none.",
				Action: "See its feeds",
				Link:   "/sources",
			})
		case since > said:
			put(1, TodayItem{
				Kind:   "quiet",
				Words:  fmt.Sprintf("%s is late: it was last heard on %s", s.Name, s.HeardAt.Format("Monday 2 January 15:04")),
				More:   fmt.Sprintf("If none comes by %s, its stock counts as unknown and is offered as none.", s.HeardAt.Add(unknown).Format("Monday 2 January 15:04")),
				Action: "Bring it in",
				Link:   "/sources",
			})
		}
	}
	return nil
}

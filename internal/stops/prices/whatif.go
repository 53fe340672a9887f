package prices

import (
	"cmp"
	"context"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// WhatIf is a question over all listings of a site. Nothing is changed by it.
type WhatIf struct {
	Cost     string            `json:"cost,omitempty" doc:"By how much suppliers' costs move, such as 8% or -3%"`
	Supplier string            `json:"supplier,omitempty" doc:"Only this one's; all where left out"`
	FeesOn   string            `json:"fees_on,omitempty" doc:"Fees as they hold on this day, YYYY-MM-DD"`
	Rates    map[string]string `json:"rates,omitempty" doc:"Other exchange rates into the site's currency, by currency"`
	Sales    int64             `json:"sales,omitempty" minimum:"0" maximum:"100000" doc:"Sales of each listing in a month; 1 where left out"`
	Sold     bool              `json:"sold,omitempty" doc:"As many of each as were really sold in the last thirty days, in place of sales"`
	Show     string            `json:"show,omitempty" enum:"furthest,floor,loss,broken" doc:"Which listings to list: those that fall furthest, that come under their floor, that lose on every sale, or for which nothing could be worked out"`
}

// mostShown is how many listings an answer lists.
const mostShown = 100

// WhatIfAnswer says what a question would come to, at the prices that hold now.
type WhatIfAnswer struct {
	SiteID     int64  `json:"site_id"`
	Site       string `json:"site"`
	Currency   string `json:"currency"`
	Listings   int64  `json:"listings" doc:"With a price"`
	Worse      int64  `json:"worse" doc:"That would earn less"`
	UnderFloor int64  `json:"under_floor" doc:"Whose price would be under its floor, and isn't now"`
	AtLoss     int64  `json:"at_loss" doc:"That would lose money on every sale, and don't now"`
	Unpriced   int64  `json:"unpriced" doc:"For which nothing could be worked out then; neither sum has them"`
	Now        int64  `json:"now" doc:"What the month leaves now, minor units"`
	Then       int64  `json:"then"`
	Sales      int64  `json:"sales" doc:"Of all of them in the month"`
	Most       []Move `json:"most" doc:"The hundred listings asked for that would fall furthest; to is the price the rules would ask then"`
	show       string
	sales      int64           // of each, where none are told apart
	sold       map[int64]int64 // of each, as they were sold; nil: sales
}

// WhatIfAll is a question's answer on every site we list on.
type WhatIfAll struct {
	Home  string         `json:"home" doc:"The currency of the sums"`
	Now   *int64         `json:"now" doc:"What the month leaves now on all of them, minor units; none where a rate into the currency is missing"`
	Then  *int64         `json:"then"`
	Sites []WhatIfAnswer `json:"sites"`
}

// AskWhatIfAll answers a question over the listings of every site we list on.
// Exchange rates are asked about on one site, whose currency they are into.
func (st *Stop) AskWhatIfAll(ctx context.Context, q WhatIf) (WhatIfAll, error) {
	out := WhatIfAll{Sites: []WhatIfAnswer{}}
	if len(q.Rates) > 0 {
		return out, fault.At("rates", "ask about exchange rates on one site, into whose currency they are")
	}
	sites, err := st.Store.Sites(ctx)
	if err != nil || len(sites) == 0 {
		return out, err
	}
	home, err := st.home(ctx, sites)
	if err != nil {
		return out, err
	}
	out.Home = home.currency
	now, then, whole := int64(0), int64(0), true
	for _, site := range sites {
		if !site.Lists {
			continue
		}
		x, err := st.AskWhatIf(ctx, site.ID, q)
		if err != nil {
			return out, err
		}
		out.Sites = append(out.Sites, x)
		was, will := home.of(x.Now, x.Currency), home.of(x.Then, x.Currency)
		if was == nil || will == nil {
			whole = false
			continue
		}
		now, then = now+*was, then+*will
	}
	if whole {
		out.Now, out.Then = &now, &then
	}
	return out, nil
}

// AskWhatIf answers a question over all listings of a site, reading only.
func (st *Stop) AskWhatIf(ctx context.Context, siteID int64, q WhatIf) (WhatIfAnswer, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return WhatIfAnswer{}, err
	}
	now, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return WhatIfAnswer{}, err
	}
	then := now
	change := money.Rate(0)
	if q.Cost != "" {
		if change, err = money.ParseRate(q.Cost); err != nil || change < -money.One || change > 100*money.One {
			return WhatIfAnswer{}, fault.At("cost", "%q is not a change such as 8%% or -3%%", q.Cost)
		}
	}
	if q.FeesOn != "" {
		if _, err := time.Parse(reckon.DayForm, q.FeesOn); err != nil {
			return WhatIfAnswer{}, fault.At("fees_on", "%q is not a day such as 2026-04-01", q.FeesOn)
		}
		then = then.On(q.FeesOn)
	}
	if len(q.Rates) > 0 {
		rates := map[string]money.FX{}
		for c, r := range now.Rates {
			rates[c] = r
		}
		for c, text := range q.Rates {
			if rates[c], err = money.ParseFX(text); err != nil {
				return WhatIfAnswer{}, fault.At("rates", "%s: %v", c, err)
			}
		}
		then = then.At(rates)
	}
	sales := q.Sales
	if sales == 0 {
		sales = 1
	}
	out := WhatIfAnswer{
		SiteID:   site.ID,
		Site:     site.Name,
		Currency: site.Currency,
		Most:     []Move{},
		show:     cmp.Or(q.Show, "furthest"),
		sales:    sales,
	}
	if q.Sold {
		if out.sold, err = st.Store.SoldByListing(ctx, site.ID, st.Now().AddDate(0, 0, -30)); err != nil {
			return out, err
		}
	}
	err = then.Each(ctx, st.Store, func(links []store.PricingRow) {
		out.ask(now, then, links, change, q.Supplier)
	})
	if err != nil {
		return out, err
	}
	out.settle()
	return out, st.openMoves(
		ctx,
		then,
		out.Most,
		func(links []store.PricingRow) { moveCosts(links, change, q.Supplier) },
		func(m Move) *int64 { return m.From },
	)
}

// moveCosts moves what suppliers ask, or one of them.
func moveCosts(links []store.PricingRow, change money.Rate, supplier string) {
	for i := range links {
		if supplier == "" || links[i].Supplier == supplier {
			by, _ := money.Share(links[i].ItemCost, change)
			links[i].ItemCost += by
		}
	}
}

func (v *WhatIfAnswer) ask(now, then *reckon.Book, links []store.PricingRow, change money.Rate, supplier string) {
	price := links[0].Price
	if links[0].ConfirmedPrice != nil {
		price = links[0].ConfirmedPrice // what buyers pay today
	}
	if price == nil {
		return
	}
	was := now.WorkOut(links)
	if was.Broken != "" {
		return
	}
	before, err := was.Terms.Profit(was.Spend, *price)
	if err != nil {
		return
	}
	moved := slices.Clone(links)
	moveCosts(moved, change, supplier)
	v.Listings++
	w := then.WorkOut(moved)
	m := moveOf(then, &moved[0], &w)
	m.From, m.ProfitWas = price, &before
	after, err := int64(0), error(nil)
	if w.Broken == "" {
		after, err = w.Terms.Profit(w.Spend, *price)
	}
	if w.Broken != "" || err != nil {
		m.Profit = nil
		v.Unpriced++
		v.list(m, "broken")
		return
	}
	m.Profit = &after
	n := v.sales
	if v.sold != nil {
		n = v.sold[links[0].ID]
	}
	v.Now, v.Then, v.Sales = v.Now+before*n, v.Then+after*n, v.Sales+n
	if after >= before {
		return
	}
	v.Worse++
	v.list(m, "furthest")
	if !holdsFloor(w, *price) && holdsFloor(was, *price) {
		v.UnderFloor++
		v.list(m, "floor")
	}
	if after < 0 && before >= 0 {
		v.AtLoss++
		v.list(m, "loss")
	}
}

func holdsFloor(w reckon.Figures, price int64) bool {
	return w.Allows(price)
}

// list keeps a listing for the answer if it is of those asked for.
func (v *WhatIfAnswer) list(m Move, of string) {
	if v.show != of {
		return
	}
	v.Most = append(v.Most, m)
	if len(v.Most) >= 10*mostShown {
		v.settle()
	}
}

// settle keeps those that fall furthest.
func (v *WhatIfAnswer) settle() {
	lost := func(m Move) int64 {
		if m.Profit == nil {
			return *m.ProfitWas
		}
		return *m.ProfitWas - *m.Profit
	}
	slices.SortStableFunc(v.Most, func(a, b Move) int { return cmp.Compare(lost(b), lost(a)) })
	v.Most = v.Most[:min(len(v.Most), mostShown)]
}

package app

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/core/supply"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const runPrice = "price"

// price queues the working out of a site's prices and plan.
func (a *App) price(ctx context.Context, site store.Site) {
	if err := a.queueOnce(ctx, runPrice, "Working out prices on "+site.Name, site.ID); err != nil {
		slog.Error("queueing prices", "site", site.Name, "error", err)
	}
}

// pricer is all that a site's prices are worked out from, read once.
type pricer struct {
	site     store.Site
	rule     Rule
	wish     pricing.Wish
	parent   map[string]string
	fees     map[string][]pricing.Fee
	terms    map[string]*pricing.Terms
	rates    map[string]money.FX
	now      time.Time
	stock    supply.StockRule
	guards   plan.Guards
	currency money.Currency
	lines    []pricing.Line // room for one quote
}

func (a *App) pricer(ctx context.Context, site store.Site) (*pricer, error) {
	rule, err := a.RuleOf(ctx, site.ID)
	if err != nil {
		return nil, fmt.Errorf("reading the price rule of %s: %w", site.Name, err)
	}
	p := &pricer{site: site, rule: rule, parent: map[string]string{}, fees: map[string][]pricing.Fee{}, terms: map[string]*pricing.Terms{},
		rates: map[string]money.FX{}, now: a.now(), stock: supply.DefaultStockRule, guards: plan.DefaultGuards, currency: money.Currency(site.Currency)}
	text, err := json.Marshal(rule)
	if err != nil {
		return nil, err
	}
	if p.wish, err = pricing.ReadWish(text, p.currency); err != nil {
		return nil, fmt.Errorf("the price rule of %s: %w", site.Name, err)
	}
	cats, err := a.Store.CategoriesOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	for _, c := range cats {
		p.parent[c.Ref] = c.Parent
	}
	schedules, err := a.Store.FeesOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	today := p.now.Format("2006-01-02")
	for _, s := range schedules { // oldest first: a later start takes an earlier one's place
		if s.StartsOn > today {
			continue
		}
		var fees []pricing.Fee
		if err := json.Unmarshal([]byte(s.Fees), &fees); err != nil {
			return nil, fmt.Errorf("fees of %s for %q: %w", site.Name, s.Category, err)
		}
		p.fees[s.Category] = fees
	}
	rates, err := a.Store.Rates(ctx)
	for _, r := range rates {
		if r.To == site.Currency {
			p.rates[r.From] = money.FX(r.Rate)
		}
	}
	return p, err
}

// termsOf are the terms in a category; one without fees of its own uses its parent's.
func (p *pricer) termsOf(category string) (*pricing.Terms, error) {
	if t, ok := p.terms[category]; ok {
		return t, nil
	}
	fees, at := p.fees[category], category
	for range 20 { // no deeper than any tree; a ring ends here too
		if fees != nil || at == "" {
			break
		}
		at = p.parent[at]
		fees = p.fees[at]
	}
	t, err := pricing.NewTerms(pricing.Spec{Currency: p.currency, Delivery: &p.site.Charged,
		Tax: pricing.Tax{Way: pricing.TaxWay(p.site.TaxWay), Rate: money.Rate(p.site.TaxRate)}, Fees: fees})
	if err == nil {
		p.terms[category] = t
	}
	return t, err
}

// costOf is the supplier's side of one supply link.
func (p *pricer) costOf(r *store.PricingRow) pricing.Cost {
	c := pricing.Cost{Unit: money.Of(r.Cost, money.Currency(r.CostCurrency)), UnitsBought: r.UnitsBought, UnitsListed: r.UnitsListed, Charge: r.Charge, FreeFrom: r.FreeFrom}
	if r.CostCurrency != p.site.Currency {
		c.FX = p.rates[r.CostCurrency]
	}
	return c
}

// stockOf is the stock of a supply link as it may be counted on.
func (p *pricer) stockOf(r *store.PricingRow) supply.Stock {
	if r.Gone || stale(r.TakenAt, p.now) {
		return supply.Stock{State: supply.StockUnknown}
	}
	return supply.Stock{State: supply.StockState(r.StockState), Count: r.Stock}
}

// worked is what was worked out for one listing.
type worked struct {
	link   *store.PricingRow
	offer  int64
	spend  pricing.Spend
	choice pricing.Choice
	terms  *pricing.Terms
	broken string
	barred bool // the seller chose not to sell it here
}

// workOut finds the supplier, the price and the quantity of a listing, from
// all its supply links: design/supply.md section 6, design/money.md.
func (p *pricer) workOut(links []store.PricingRow) worked {
	w := worked{link: &links[0]}
	best, present := -1, -1
	landed, offers := make([]int64, len(links)), make([]int64, len(links))
	for i := range links {
		r := &links[i]
		offers[i] = p.stock.Offer(p.stockOf(r), r.UnitsBought, r.UnitsListed)
		var err error
		if landed[i], err = p.costOf(r).Landed(p.currency); err != nil {
			landed[i], offers[i] = -1, 0
		}
		if r.Present {
			present = i
		}
		if offers[i] > 0 && (best < 0 || landed[i] < landed[best]) {
			best = i
		}
	}
	at := max(present, 0)
	if best >= 0 && (present < 0 || offers[present] == 0 || saves(landed[present], landed[best])) {
		at = best
	}
	w.link, w.offer = &links[at], offers[at]
	if w.link.Unwanted {
		w.offer, w.barred = 0, true
	}
	if landed[at] < 0 {
		if w.link.CostCurrency != p.site.Currency && p.rates[w.link.CostCurrency] == 0 {
			w.broken = fmt.Sprintf("no exchange rate from %s to %s; type one under Price, Fees and terms", w.link.CostCurrency, p.site.Currency)
		} else {
			w.broken = "the landed cost is out of range"
		}
		return w
	}
	var err error
	if w.terms, err = p.termsOf(w.link.Category); err != nil {
		w.broken = "the fees can't be used: " + err.Error()
		return w
	}
	w.spend = pricing.Spend{Landed: landed[at], Outbound: p.site.Outbound}
	if w.choice, err = w.terms.Choose(&p.wish, w.spend); err != nil {
		w.broken = "no price can be worked out: " + err.Error()
	}
	return w
}

// saves tells whether the other saves more than 2 %.
func saves(present, other int64) bool {
	v, ok := money.MulDiv(present, 98, 100)
	return ok && other < v
}

// put writes what was worked out into a listing and tells whether it differs.
func (p *pricer) put(l *store.Listing, w worked) bool {
	before := *l
	l.Price, l.Profit, l.Floor, l.BreakEven, l.Landed, l.Fees, l.Tax, l.Outbound, l.Bound, l.Why = nil, nil, nil, nil, nil, nil, nil, nil, "", w.broken
	l.Quantity = w.offer
	if w.broken == "" {
		l.Landed = &w.spend.Landed
		if v, ok := w.terms.Floor(&p.wish, w.spend); ok {
			l.Floor = &v
		}
		if v, ok := w.terms.BreakEven(w.spend); ok {
			l.BreakEven = &v
		}
		l.Bound = string(w.choice.Bound)
		l.Why = p.priceWhy(w.choice)
	}
	if w.choice.Found && w.broken == "" {
		l.Price, l.Why = &w.choice.Price, ""
		if q, err := w.terms.Quote(p.lines[:0], w.spend, money.Of(w.choice.Price, p.currency)); err == nil {
			p.lines = q.Lines
			l.Profit = &q.Profit
			l.Fees, l.Tax, l.Outbound = parts(q.Lines)
		}
		if w.offer == 0 {
			l.Why = p.quantityWhy(w)
		}
	} else {
		l.Quantity = 0
	}
	switch l.State {
	case store.ListingUnpriced, store.ListingReady, store.ListingPaused:
		switch {
		case l.Price == nil:
			l.State = store.ListingUnpriced
		case l.Quantity == 0:
			l.State = store.ListingPaused
		default:
			l.State = store.ListingReady
		}
	}
	return !sameListing(&before, l)
}

// parts sums a quote's lines into the parts of a margin strip, as costs.
func parts(lines []pricing.Line) (fees, tax, outbound *int64) {
	fees, tax, outbound = new(int64), new(int64), new(int64)
	for _, x := range lines {
		switch x.Kind {
		case pricing.LineFee, pricing.LineFeeTax, pricing.LineAllowance:
			*fees -= x.Amount
		case pricing.LineTax:
			*tax -= x.Amount
		case pricing.LineOutbound, pricing.LineDelivery:
			*outbound -= x.Amount
		}
	}
	return fees, tax, outbound
}

func sameListing(a, b *store.Listing) bool {
	eq := func(x, y *int64) bool { return x == y || x != nil && y != nil && *x == *y }
	return eq(a.Price, b.Price) && eq(a.Profit, b.Profit) && eq(a.Floor, b.Floor) && eq(a.BreakEven, b.BreakEven) && eq(a.Landed, b.Landed) &&
		eq(a.Fees, b.Fees) && eq(a.Tax, b.Tax) && eq(a.Outbound, b.Outbound) &&
		a.Quantity == b.Quantity && a.Bound == b.Bound && a.Why == b.Why && a.State == b.State
}

func (p *pricer) priceWhy(c pricing.Choice) string {
	switch c.Bound {
	case pricing.ByAim:
		if !c.Found {
			return "no price meets what the rule aims at"
		}
		return "meets the rule's aim"
	case pricing.ByKeep:
		return "lifted to what the rule keeps"
	case pricing.ByMarket:
		if !c.Found {
			return "no rival to price against, and the rule has no aim"
		}
		return "set by a rival"
	case pricing.ByMost:
		return "held down to the rule's most"
	case pricing.ByBounds:
		return "no price keeps what the rule asks within its bounds"
	}
	return ""
}

// quantityWhy says in words why so many are offered.
func (p *pricer) quantityWhy(w worked) string {
	r, at := w.link, ""
	if r.TakenAt != nil {
		at = r.TakenAt.Format("15:04")
	}
	switch {
	case w.barred:
		return "you chose not to sell it on " + p.site.Name
	case r.Gone:
		return fmt.Sprintf("gone from %s's feed of %s", r.Supplier, at)
	case stale(r.TakenAt, p.now):
		return "nothing heard from " + r.Supplier + " for 48 hours"
	case r.StockState == string(supply.StockEnded):
		return r.Supplier + " has ended it"
	case r.StockState != string(supply.StockKnown):
		return r.Supplier + "'s stock is unknown"
	case r.Stock == 0:
		return fmt.Sprintf("none left at %s, %s", r.Supplier, at)
	case w.offer == 0:
		return fmt.Sprintf("only %d left at %s, kept back as the buffer", p.stock.Sellable(p.stockOf(r), r.UnitsBought, r.UnitsListed), r.Supplier)
	}
	return fmt.Sprintf("%d at %s, %s", r.Stock, r.Supplier, at)
}

// doPrice works out every listing of a site, and from the live ones the plan.
// It may be cut short anywhere: the next run works everything out again.
func (a *App) doPrice(ctx context.Context, t *work.Task) error {
	a.begins(t)
	site, err := a.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	p, err := a.pricer(ctx, site)
	if err != nil {
		return err
	}
	total, err := a.Store.CountListings(ctx, site.ID)
	if err != nil {
		return err
	}
	var lines []store.PlanLine
	after, done, priced := int64(0), int64(0), int64(0)
	for {
		rows, err := a.Store.PricingRows(ctx, site.ID, after, 500, p.now.Add(-24*time.Hour))
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		err = a.Store.Do(ctx, func(tx store.Tx) error {
			for from := 0; from < len(rows); {
				to := from + 1
				for to < len(rows) && rows[to].ID == rows[from].ID {
					to++
				}
				w := p.workOut(rows[from:to])
				l := rows[from].Listing
				if !w.link.Present {
					if err := tx.ChooseLink(l.ProductID, w.link.LinkID); err != nil {
						return err
					}
				}
				if p.put(&l, w) {
					if err := tx.PutWorkedOut(&l); err != nil {
						return err
					}
				}
				if l.Price != nil {
					priced++
				}
				if l.State == store.ListingLive && !w.link.InFlight {
					lines = append(lines, p.planLines(&l, w)...)
				}
				from = to
				done++
			}
			return nil
		})
		if err != nil {
			return err
		}
		after = rows[len(rows)-1].ID
		t.At(done, total)
	}
	if err := a.keepPlan(ctx, site, lines); err != nil {
		return err
	}
	t.Note = fmt.Sprintf("%s: %d of %d priced, %s", site.Name, priced, done, plural(int64(len(lines)), "change to make", "changes to make"))
	a.changed("listings", "products", "plan", "counts")
	return nil
}

// planLines compares a live listing with what the marketplace confirmed.
func (p *pricer) planLines(l *store.Listing, w worked) []store.PlanLine {
	if l.ConfirmedPrice == nil {
		return nil
	}
	in := plan.Listing{Currency: p.currency, ConfirmedPrice: *l.ConfirmedPrice, ConfirmedQuantity: l.ConfirmedQuantity, Choice: w.choice,
		PriceWhy: p.priceWhy(w.choice), Broken: w.broken, Quantity: w.offer, QuantityWhy: p.quantityWhy(w),
		CostNow: money.Of(w.link.Cost, money.Currency(w.link.CostCurrency)), MovesToday: w.link.MovesToday}
	if l.ConfirmedCost != nil {
		in.CostWas = money.Of(*l.ConfirmedCost, money.Currency(l.ConfirmedCostCur))
	}
	if w.link.TakenAt != nil {
		in.Feed = "feed of " + w.link.TakenAt.Format("15:04")
	}
	if w.broken == "" {
		in.KeepsMet = w.terms.Holds(p.wish.Keep, w.spend, in.ConfirmedPrice)
		if v, err := w.terms.Profit(w.spend, in.ConfirmedPrice); err == nil {
			in.ProfitWas = &v
		}
		in.ProfitNew = l.Profit
	}
	var out []store.PlanLine
	for _, x := range p.guards.WorkOut(in) {
		out = append(out, store.PlanLine{ListingID: l.ID, Kind: string(x.Kind), FromPrice: x.FromPrice, ToPrice: x.ToPrice, FromQty: x.FromQty, ToQty: x.ToQty,
			ProfitWas: x.ProfitWas, ProfitNew: x.ProfitNew, Landed: l.Landed, Cost: &in.CostNow.Minor, CostCur: w.link.CostCurrency, Currency: string(p.currency), Reasons: x.Reasons,
			Verdict: string(x.Verdict), VerdictWhy: x.Why, State: store.SendWaiting})
	}
	return out
}

// keepPlan puts a newly worked out plan in the place of the one before.
func (a *App) keepPlan(ctx context.Context, site store.Site, lines []store.PlanLine) error {
	return a.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.OvertakePlans(site.ID); err != nil || len(lines) == 0 {
			return err
		}
		p := store.Plan{SiteID: site.ID, MadeAt: a.now(), Open: true}
		if err := tx.Create(&p); err != nil {
			return err
		}
		for i := range lines {
			lines[i].PlanID = p.ID
		}
		return tx.CreateAll(lines)
	})
}

// QuoteLine is one line of an explained price, minor units.
type QuoteLine struct {
	Kind   string `json:"kind"`
	Name   string `json:"name"`
	Amount int64  `json:"amount"`
}

// Explained is a price with the lines that made it.
type Explained struct {
	Currency  string      `json:"currency"`
	Price     int64       `json:"price"`
	Profit    int64       `json:"profit"`
	Margin    string      `json:"margin" doc:"Percentage of the net, empty where undefined"`
	Return    string      `json:"return" doc:"Percentage of landed cost and outbound, empty where undefined"`
	BreakEven *int64      `json:"break_even"`
	Floor     *int64      `json:"floor"`
	Bound     string      `json:"bound"`
	Why       string      `json:"why"`
	Lines     []QuoteLine `json:"lines"`
	Cost      []QuoteLine `json:"cost" doc:"How the landed cost came about, in the supplier's currency but for the last line"`
	CostIn    string      `json:"cost_currency"`
	Units     string      `json:"units" doc:"How many single units are bought and listed, in words"`
	Rule      string      `json:"rule"`
	Offer     string      `json:"offer" doc:"Why so many are offered, in words"`
	Quantity  int64       `json:"quantity"`
}

// Explain opens a listing's price, or another price for it, into its lines.
func (a *App) Explain(ctx context.Context, listingID int64, price *int64) (Explained, error) {
	l, err := store.Get[store.Listing](ctx, a.Store, listingID)
	if err != nil {
		return Explained{}, err
	}
	site, err := a.Store.SiteOf(ctx, l.SiteID)
	if err != nil {
		return Explained{}, err
	}
	p, err := a.pricer(ctx, site)
	if err != nil {
		return Explained{}, err
	}
	links, err := a.Store.PricingRows(ctx, site.ID, l.ID-1, 1, p.now.Add(-24*time.Hour))
	if err != nil {
		return Explained{}, err
	}
	if len(links) == 0 || links[0].ID != l.ID {
		return Explained{}, store.ErrMissing
	}
	w := p.workOut(links)
	out := Explained{Currency: site.Currency, Rule: p.rule.Name, Offer: p.quantityWhy(w), Quantity: w.offer, CostIn: w.link.CostCurrency, Lines: []QuoteLine{}, Cost: []QuoteLine{}}
	out.Units = fmt.Sprintf("%d in the supplier's item, %d in what is listed", max(w.link.UnitsBought, 1), max(w.link.UnitsListed, 1))
	if w.broken != "" {
		out.Why = w.broken
		return out, nil
	}
	out.Cost = []QuoteLine{{"unit", "one item of the supplier's", w.link.Cost}}
	if w.link.Charge > 0 {
		out.Cost = append(out.Cost, QuoteLine{"delivery", "delivery for one order", w.link.Charge})
	}
	out.Cost = append(out.Cost, QuoteLine{"landed", "landed cost of one listed", w.spend.Landed})
	out.Bound, out.Why = string(w.choice.Bound), p.priceWhy(w.choice)
	if v, ok := w.terms.BreakEven(w.spend); ok {
		out.BreakEven = &v
	}
	if v, ok := w.terms.Floor(&p.wish, w.spend); ok {
		out.Floor = &v
	}
	at := w.choice.Price
	if price != nil {
		at = *price
	} else if !w.choice.Found {
		return out, nil
	}
	if at < 1 || at > pricing.DefaultLimit {
		return out, invalid("price", "a price is from 0.01 to 100000.00")
	}
	q, err := w.terms.Quote(nil, w.spend, money.Of(at, p.currency))
	if err != nil {
		return out, err
	}
	out.Price, out.Profit = at, q.Profit
	out.Margin, _ = money.Percent(q.Profit, q.Net)
	out.Return, _ = money.Percent(q.Profit, w.spend.Landed+w.spend.Outbound)
	for _, x := range q.Lines {
		out.Lines = append(out.Lines, QuoteLine{string(x.Kind), x.Name, x.Amount})
	}
	return out, nil
}

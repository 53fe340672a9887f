package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/pricing"
	"easymargin/core/supply"
	"easymargin/internal/market"
	"easymargin/internal/store"
)

// dayForm is how days are written, ISO 8601.
const dayForm = "2006-01-02"

// pricer is all that a site's prices are worked out from, read once.
type pricer struct {
	site      store.Site
	rules     []ruled // in order; the last holds for all the rest
	schedules *pricing.Schedules
	allow     []pricing.Allowance
	terms     map[termsKey]*pricing.Terms
	rates     map[string]money.FX
	rateDays  map[string]string
	now       time.Time
	day       string // whose fees hold
	stock     supply.StockRule
	guards    plan.Guards
	currency  money.Currency
	lines     []pricing.Line // room for one quote
}

// ruled is a price rule made ready.
type ruled struct {
	id   int64
	name string
	fits pricing.Fits
	wish pricing.Wish
}

// stands tells whether the rule looks at rivals.
func (r *ruled) stands() bool {
	return r.wish.Market.Stance != "" && r.wish.Market.Stance != pricing.Ignore
}

// termsKey is what terms differ by on one site: the category, and what the
// warehouse takes of the one product.
type termsKey struct {
	category  string
	warehouse bool
	fee       int64
	step      string
}

func (a *App) pricer(ctx context.Context, site store.Site) (*pricer, error) {
	p := &pricer{site: site, terms: map[termsKey]*pricing.Terms{}, rates: map[string]money.FX{}, rateDays: map[string]string{},
		now: a.now(), day: a.now().Format(dayForm), stock: supply.DefaultStockRule, guards: plan.DefaultGuards, currency: money.Currency(site.Currency)}
	rules, err := a.Store.Rules(ctx, site.ID)
	if err != nil {
		return nil, fmt.Errorf("reading the price rules of %s: %w", site.Name, err)
	}
	for _, row := range rules {
		r, err := readRule(row, p.currency)
		if err != nil {
			return nil, fmt.Errorf("the price rule %q of %s: %w", row.Name, site.Name, err)
		}
		p.rules = append(p.rules, r)
	}
	cats, err := a.Store.CategoriesOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	parent := map[string]string{}
	for _, c := range cats {
		parent[c.Ref] = c.Parent
	}
	schedules, err := a.schedules(ctx, site)
	if err != nil {
		return nil, err
	}
	p.schedules = pricing.NewSchedules(parent, schedules)
	if site.Allowances != "" {
		if err := json.Unmarshal([]byte(site.Allowances), &p.allow); err != nil {
			return nil, fmt.Errorf("the allowances of %s: %w", site.Name, err)
		}
	}
	rates, err := a.Store.Rates(ctx)
	for _, r := range rates {
		if r.To == site.Currency {
			p.rates[r.From], p.rateDays[r.From] = money.FX(r.Rate), r.Day
		}
	}
	return p, err
}

// schedules are a site's fee schedules, as the core has them.
func (a *App) schedules(ctx context.Context, site store.Site) ([]pricing.Schedule, error) {
	rows, err := a.Store.FeesOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	out := make([]pricing.Schedule, len(rows))
	for i, row := range rows {
		s := pricing.Schedule{Category: row.Category, StartsOn: row.StartsOn}
		if err := json.Unmarshal([]byte(row.Fees), &s.Fees); err != nil {
			return nil, fmt.Errorf("fees of %s for %q: %w", site.Name, row.Category, err)
		}
		if row.Warehouse != "" {
			if err := json.Unmarshal([]byte(row.Warehouse), &s.Warehouse); err != nil {
				return nil, fmt.Errorf("warehouse fees of %s for %q: %w", site.Name, row.Category, err)
			}
		}
		out[i] = s
	}
	return out, nil
}

// asks says how much of the listings the rules look at.
func (p *pricer) asks() store.Asked {
	var a store.Asked
	for i := range p.rules {
		a.Sizes = a.Sizes || p.rules[i].fits.WeightFrom > 0 || p.rules[i].fits.WeightTo > 0
		a.Offers = a.Offers || p.rules[i].stands()
	}
	return a
}

// sale is one product on one site, as far as fees look at it.
type sale struct {
	category  string
	warehouse bool
	packed    pricing.Packed
}

// unknownFees says that nothing is known of what a site takes on a day.
type unknownFees struct{ site, day string }

func (e unknownFees) Error() string {
	return fmt.Sprintf("no fees are known for %s on %s; read them again or write them under Price, Fees", e.site, e.day)
}

// termsOf are the terms of a sale; a category without fees of its own uses its
// parent's. By the warehouse, its fee comes first, from the packed size.
func (p *pricer) termsOf(s sale) (t *pricing.Terms, step string, err error) {
	key := termsKey{category: s.category, warehouse: s.warehouse}
	var stored pricing.Fee
	if s.warehouse {
		w := p.schedules.WarehouseOn(s.category, p.day)
		if w == nil {
			return nil, "", errors.New(p.site.Name + " has no warehouse that sends for sellers")
		}
		if stored, key.step, _, err = w.Resolve(s.packed); err != nil {
			return nil, "", err
		}
		key.fee = stored.Fixed
	}
	if t, ok := p.terms[key]; ok {
		return t, key.step, nil
	}
	x, ok := p.schedules.On(s.category, p.day)
	if !ok { // a schedule without fees says that there are none; no schedule says nothing
		return nil, "", unknownFees{p.site.Name, p.day}
	}
	fees := x.Fees
	if s.warehouse {
		fees = append(fees[:len(fees):len(fees)], stored)
	}
	t, err = pricing.NewTerms(pricing.Spec{Currency: p.currency, Delivery: &p.site.Charged, Allowances: p.allow,
		Tax: pricing.Tax{Way: pricing.TaxWay(p.site.TaxWay), Rate: money.Rate(p.site.TaxRate)}, Fees: fees})
	if err == nil {
		p.terms[key] = t
	}
	return t, key.step, err
}

// costOf is the supplier's side of one supply link.
func (p *pricer) costOf(r *store.PricingRow) pricing.Cost {
	c := pricing.Cost{Unit: money.Of(r.Cost, money.Currency(r.CostCurrency)), UnitsBought: r.UnitsBought, UnitsListed: r.UnitsListed, Charge: r.Charge, FreeFrom: r.FreeFrom,
		Duty: money.Rate(r.Duty), Handling: p.site.Handling}
	if r.CostCurrency != p.site.Currency {
		c.FX, c.Cushion = p.rates[r.CostCurrency], money.Rate(p.site.Cushion)
	}
	return c
}

// packedOf is the packed size of what is listed; that of the supplier's item
// says nothing of another number of units.
func packedOf(r *store.PricingRow) pricing.Packed {
	if max(r.UnitsBought, 1) != max(r.UnitsListed, 1) {
		return pricing.Packed{}
	}
	return pricing.Packed{Weight: r.Weight, Sides: [3]int64{r.Length, r.Width, r.Height}}
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
	rule   *ruled // that holds
	own    bool   // the rule is the listing's own
	wish   pricing.Wish
	choice pricing.Choice
	terms  *pricing.Terms
	step   string // of the warehouse's fees
	broken string
	barred bool // the seller chose not to sell it here
}

// ByHand is the bound of a price that a person fixed.
const ByHand pricing.Bound = "fixed"

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
			landed[i] = -1
		}
		if r.Present {
			present = i
		}
		if offers[i] > 0 && landed[i] >= 0 && (best < 0 || landed[i] < landed[best]) {
			best = i
		}
	}
	at := max(present, 0)
	if best >= 0 && (present < 0 || offers[present] == 0 || landed[present] < 0 || saves(landed[present], landed[best])) {
		at = best
	}
	w.link, w.offer = &links[at], offers[at]
	if w.link.Unwanted {
		w.offer, w.barred = 0, true
	}
	if landed[at] < 0 {
		w.broken = p.costBroken(w.link.CostCurrency)
		return w
	}
	p.choose(&w, landed[at])
	return w
}

func (p *pricer) costBroken(from string) string {
	if from != p.site.Currency && p.rates[from] == 0 {
		return fmt.Sprintf("no exchange rate from %s to %s; type one under Price, Terms and rates", from, p.site.Currency)
	}
	return "the landed cost is out of range"
}

// choose finds the rule that holds for the link, and the price by it.
func (p *pricer) choose(w *worked, landed int64) {
	l := w.link
	w.spend = pricing.Spend{Landed: landed, Outbound: p.site.Outbound}
	if l.Warehouse {
		w.spend.Outbound = 0 // the warehouse sends, and its fee says what that costs
	}
	var err error
	if w.terms, w.step, err = p.termsOf(sale{l.Category, l.Warehouse, packedOf(l)}); err != nil {
		var missing pricing.Missing
		switch {
		case errors.As(err, &missing):
			w.broken = missing.Error() + ", so the warehouse's fee can't be told"
		case errors.As(err, &unknownFees{}):
			w.broken = err.Error()
		default:
			w.broken = "the fees can't be used: " + err.Error()
		}
		return
	}
	if w.rule, err = p.ruleFor(l, landed); err != nil {
		w.broken = err.Error()
		return
	}
	w.own = w.rule.id == 0
	w.wish = w.rule.wish
	if w.rule.stands() {
		w.wish.Market.Offers = offersOf(l.Offers)
	}
	if l.FixedPrice != nil {
		w.choice = pricing.Choice{Price: *l.FixedPrice, Found: true, Bound: ByHand}
		if floor, ok := w.terms.Floor(&w.wish, w.spend); !ok || *l.FixedPrice < floor || !w.terms.Holds(w.wish.Keep, w.spend, *l.FixedPrice) {
			w.choice = pricing.Choice{Bound: ByHand}
		}
		return
	}
	if w.choice, err = w.terms.Choose(&w.wish, w.spend); err != nil {
		w.broken = "no price can be worked out: " + err.Error()
	}
}

// ruleFor is the listing's own rule, or the first of the site's that fits it.
func (p *pricer) ruleFor(l *store.PricingRow, landed int64) (*ruled, error) {
	if l.OwnRule != "" {
		wish, err := pricing.ReadWish([]byte(l.OwnRule), p.currency)
		if err != nil {
			return nil, fmt.Errorf("its own price rule can't be used: %w", err)
		}
		return &ruled{name: "its own rule", wish: wish}, nil
	}
	facts := pricing.Facts{SKU: l.SKU, Supplier: l.Supplier, Brand: l.Brand, Categories: p.schedules.Line(l.Category), Landed: landed, Weight: packedOf(l).Weight}
	for i := range p.rules {
		if p.rules[i].fits.Fit(&facts) {
			return &p.rules[i], nil
		}
	}
	return nil, errors.New("no price rule fits it; add one under Price, Rules")
}

// saves tells whether the other saves more than 2 %.
func saves(present, other int64) bool {
	v, ok := money.MulDiv(present, 98, 100)
	return ok && other < v
}

// offersOf are the rivals' offers as last read, for the core.
func offersOf(text string) []pricing.Offer {
	var out []pricing.Offer
	for _, o := range readOffers(text) {
		out = append(out, pricing.Offer{Item: o.Item, Delivery: o.Delivery, Ours: o.Ours, Lead: o.Lead})
	}
	return out
}

func readOffers(text string) []market.Offer {
	var list []market.Offer
	if text != "" && json.Unmarshal([]byte(text), &list) != nil {
		return nil // what can't be read is no offer
	}
	return list
}

// money writes an amount of the site's currency.
func (p *pricer) money(v int64) string { return money.Of(v, p.currency).String() }

// why is priceWhy with the rival named, where one set the price.
func (p *pricer) why(w *worked) string {
	text := p.priceWhy(w.choice)
	if w.choice.Bound != pricing.ByMarket || !w.choice.Found {
		return text
	}
	var rival *market.Offer
	for _, o := range readOffers(w.link.Offers) {
		if !o.Ours && (o.Lead || !w.wish.Market.AgainstLead) && (rival == nil || o.Item+o.Delivery < rival.Item+rival.Delivery) {
			rival = &o
		}
	}
	if rival == nil {
		return text
	}
	return fmt.Sprintf("%s: %s asks %s in all", text, rival.Seller, p.money(rival.Item+rival.Delivery))
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
	case ByHand:
		if !c.Found {
			return "the price fixed by hand is under its floor now; release it or fix another"
		}
		return "fixed by hand"
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

// staleRate is what is said of an exchange rate that is too old to be relied on; "" of one that isn't.
func staleRate(from, day string, now time.Time) string {
	at, err := time.Parse(dayForm, day)
	if err != nil || now.Sub(at) < 8*24*time.Hour {
		return ""
	}
	return fmt.Sprintf("the %s rate is of %s, %d days old", from, at.Format("2 January"), int(now.Sub(at).Hours()/24))
}

func words(parts ...string) string {
	var out []string
	for _, s := range parts {
		if s != "" {
			out = append(out, s)
		}
	}
	return strings.Join(out, "; ")
}

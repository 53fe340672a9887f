package prices

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// QuoteLine is one line of an explained price, minor units.
type QuoteLine struct {
	Kind   string `json:"kind"`
	Name   string `json:"name"`
	Amount int64  `json:"amount"`
	Part   string `json:"part" doc:"Of the price: cost, delivery, fees, tax; empty for the price itself"`
}

// Split is what a price goes to besides its cost and what is left, minor units.
type Split struct {
	Delivery int64 `json:"delivery" doc:"Sending it, less what the buyer pays for that"`
	Fees     int64 `json:"fees" doc:"With their tax and what is put by"`
	Tax      int64 `json:"tax"`
}

// BenchCost is what a supplier asks, as texts; amounts in Currency but
// Handling, which is in the site's. What is left out is the product's, or nothing.
type BenchCost struct {
	Unit        string `json:"unit,omitempty"`
	Currency    string `json:"currency,omitempty"`
	UnitsBought int64  `json:"units_bought,omitempty" minimum:"0" maximum:"1000000"`
	UnitsListed int64  `json:"units_listed,omitempty" minimum:"0" maximum:"1000000"`
	Charge      string `json:"charge,omitempty"`
	FreeFrom    string `json:"free_from,omitempty"`
	Duty        string `json:"duty,omitempty"`
	FX          string `json:"fx,omitempty"`
	Cushion     string `json:"cushion,omitempty"`
	Handling    string `json:"handling,omitempty"`
}

// BenchPacked is a packed size: grams and millimetres.
type BenchPacked struct {
	Weight int64 `json:"weight,omitempty" minimum:"0"`
	Length int64 `json:"length,omitempty" minimum:"0"`
	Width  int64 `json:"width,omitempty" minimum:"0"`
	Height int64 `json:"height,omitempty" minimum:"0"`
}

// BenchAsk is a question to the bench: a product of ours or loose figures, on
// one site, and the figure that leads.
type BenchAsk struct {
	SiteID            int64       `json:"site_id"`
	ProductID         int64       `json:"product_id,omitempty" doc:"0 for loose figures"`
	SupplierProductID int64       `json:"supplier_product_id,omitempty" doc:"What a supplier has and we don't sell yet, in the place of a product"`
	Category          string      `json:"category,omitempty" doc:"Ref; the product's where left out"`
	Day               string      `json:"day,omitempty" doc:"Whose fees hold, YYYY-MM-DD; today where left out"`
	Cost              BenchCost   `json:"cost,omitempty"`
	Charged           string      `json:"charged,omitempty" doc:"What the buyer pays for delivery; the site's where left out"`
	Outbound          string      `json:"outbound,omitempty" doc:"What sending one costs; the site's where left out"`
	Warehouse         string      `json:"warehouse,omitempty" enum:"yes,no" doc:"Sent by the marketplace's warehouse; as the listing says where left out"`
	Packed            BenchPacked `json:"packed,omitempty"`
	Lead              string      `json:"lead,omitempty" enum:"rule,price,profit,margin,return,markup" doc:"The figure that leads; the rule where left out"`
	Value             string      `json:"value,omitempty" doc:"Its value: an amount, or a percentage"`
	Former            string      `json:"former,omitempty" doc:"A former price to show crossed out"`
}

// BenchWish is the price by the rule that holds.
type BenchWish struct {
	Name  string `json:"name"`
	Price *int64 `json:"price"`
	Bound string `json:"bound"`
	Why   string `json:"why"`
}

// BenchFormer is what may be said of a former price.
type BenchFormer struct {
	Percent int64  `json:"percent" doc:"Whole per cent off, never rounded up"`
	Warning string `json:"warning" doc:"Why it may not be shown; empty where nothing speaks against it"`
}

// BenchAnswer is what is left of a price, and all that stands around it.
// Amounts are minor units of Currency.
type BenchAnswer struct {
	SiteID    int64              `json:"site_id"`
	Site      string             `json:"site"`
	Currency  string             `json:"currency"`
	Title     string             `json:"title" doc:"Of the product; empty for loose figures"`
	SKU       string             `json:"sku"`
	ListingID int64              `json:"listing_id" doc:"0 where the product isn't listed there"`
	Live      *int64             `json:"live" doc:"The price that buyers see now"`
	Price     *int64             `json:"price" doc:"None where the rule finds none"`
	Profit    *int64             `json:"profit"`
	Margin    string             `json:"margin" doc:"Empty where undefined, as the return and the markup"`
	Return    string             `json:"return"`
	Markup    string             `json:"markup"`
	Lines     []QuoteLine        `json:"lines"`
	Split     *Split             `json:"split" doc:"None where there is no price"`
	Landed    int64              `json:"landed"`
	Cost      []pricing.CostLine `json:"cost" doc:"How the landed cost came about"`
	Figures   BenchCost          `json:"figures" doc:"The costs it was reckoned with"`
	Charged   int64              `json:"charged"`
	Outbound  int64              `json:"outbound"`
	BreakEven *int64             `json:"break_even"`
	Floor     *int64             `json:"floor" doc:"The lowest offer worth accepting"`
	Rule      BenchWish          `json:"rule"`
	Category  string             `json:"category"`
	FeesOf    string             `json:"fees_of" doc:"Which schedule holds, in words"`
	Step      string             `json:"step" doc:"Of the warehouse's fees"`
	Warehouse bool               `json:"warehouse"`
	CanStore  bool               `json:"can_store" doc:"Whether the site has a warehouse that sends for sellers"`
	Curve     []pricing.Point    `json:"curve"`
	Falls     []pricing.Fall     `json:"falls" doc:"Prices at which a higher price earns less"`
	Rivals    []place.Offer      `json:"rivals"`
	RivalsAt  *time.Time         `json:"rivals_at"`
	Former    *BenchFormer       `json:"former"`
	Units     string             `json:"units"`
	Offer     string             `json:"offer" doc:"Why so many are offered, in words; empty where it isn't listed"`
	Quantity  int64              `json:"quantity"`
	Warnings  []string           `json:"warnings"`
	Why       string             `json:"why" doc:"Why nothing can be worked out; empty where it can"`
}

// Bench answers a question of one price on one site. It reads only, but for
// what rivals ask, which is read from the marketplace when it is old.
func (st *Stop) Bench(ctx context.Context, q BenchAsk) (BenchAnswer, error) {
	site, err := st.Store.SiteOf(ctx, q.SiteID)
	if err != nil {
		return BenchAnswer{}, err
	}
	b, err := st.benchOn(ctx, site, q)
	if err != nil {
		return BenchAnswer{}, err
	}
	if err := b.answer(q); err != nil {
		return BenchAnswer{}, err
	}
	if q.Former != "" && b.out.Price != nil {
		if err := st.former(ctx, b, q.Former); err != nil {
			return BenchAnswer{}, err
		}
	}
	return b.out, nil
}

// bench is one product on one site on its way to an answer.
type bench struct {
	*reckon.Book
	links []store.PricingRow
	w     reckon.Figures
	cost  pricing.Cost
	out   BenchAnswer
}

func newBench(p *reckon.Book) *bench {
	return &bench{
		Book: p,
		out: BenchAnswer{SiteID: p.Site.ID, Site: p.Site.Name, Currency: p.Site.Currency, Lines: []QuoteLine{}, Cost: []pricing.CostLine{},
			Curve: []pricing.Point{}, Falls: []pricing.Fall{}, Rivals: []place.Offer{}, Warnings: []string{}},
	}
}

// rivals fills in what others ask, the lowest first.
func (b *bench) rivals(offers string) {
	b.out.Rivals = append(b.out.Rivals, reckon.ReadOffers(offers)...)
	slices.SortStableFunc(b.out.Rivals, func(x, y place.Offer) int { return cmp.Compare(x.Item+x.Delivery, y.Item+y.Delivery) })
}

// benchOn gathers what a question is about, with the figures that were typed.
func (st *Stop) benchOn(ctx context.Context, site store.Site, q BenchAsk) (*bench, error) {
	p, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return nil, err
	}
	b := newBench(p)
	if q.Day != "" {
		if _, err := time.Parse(reckon.DayForm, q.Day); err != nil {
			return nil, fault.At("day", "%q is not a day such as 2026-04-01", q.Day)
		}
		p.Day = q.Day
	}
	if err := b.termsTyped(q); err != nil {
		return nil, err
	}
	switch {
	case q.ProductID != 0:
		if err := st.benchProduct(ctx, b, q.ProductID); err != nil {
			return nil, err
		}
	case q.SupplierProductID != 0:
		if b.links, err = st.Store.FoundRows(ctx, []int64{q.SupplierProductID}); err != nil {
			return nil, err
		}
		if len(b.links) == 0 {
			return nil, store.ErrMissing
		}
		b.out.Title = b.links[0].Title
	default:
		b.links = []store.PricingRow{{Listing: store.Listing{Units: 1}, UnitsBought: 1, ItemCurrency: site.Currency}}
	}
	b.w = p.WorkOut(b.links)
	l := b.w.Link
	if l.ID == 0 && q.ProductID == 0 {
		b.w = reckon.Figures{Link: l}
	}
	if q.Category != "" {
		l.Category = q.Category
	}
	if q.Warehouse != "" {
		l.Warehouse = q.Warehouse == "yes"
	}
	if q.Packed != (BenchPacked{}) {
		l.Weight, l.Length, l.Width, l.Height = cmp.Or(
			q.Packed.Weight,
			l.Weight,
		), cmp.Or(
			q.Packed.Length,
			l.Length,
		), cmp.Or(
			q.Packed.Width,
			l.Width,
		), cmp.Or(
			q.Packed.Height,
			l.Height,
		)
	}
	b.cost = p.Cost(l)
	if err := b.costTyped(q.Cost); err != nil {
		return nil, err
	}
	l.UnitsBought, l.Units = b.cost.UnitsBought, b.cost.UnitsListed
	b.out.Offer, b.out.Quantity = "", b.w.Offer
	if l.ID != 0 {
		b.out.Offer = p.OfferWhy(&b.w)
	}
	b.w.Broken = ""
	l.CostsUnsaid = l.CostsUnsaid && q.Cost.Charge == "" // typed delivery is an answer
	landed, err := b.cost.Landed(p.Currency)
	if err != nil {
		b.w.Broken = p.CostBroken(string(b.cost.Unit.Currency))
		return b, nil
	}
	fixed := l.FixedPrice
	l.FixedPrice = nil // the bench shows what the rule would ask
	p.Choose(&b.w, landed)
	l.FixedPrice = fixed
	return b, nil
}

func (st *Stop) benchProduct(ctx context.Context, b *bench, productID int64) error {
	l, listed, err := st.Store.ListingOn(ctx, productID, b.Site.ID)
	if err != nil {
		return err
	}
	if listed {
		if b.links, err = st.Store.PricingRowsOf(ctx, []int64{l.ID}, b.Now.Add(-24*time.Hour)); err != nil {
			return err
		}
	}
	if len(b.links) == 0 {
		if b.links, err = st.Store.SupplyRows(ctx, productID); err != nil {
			return err
		}
		if len(b.links) == 0 {
			return store.ErrMissing
		}
		category, err := st.Store.CategoryOf(ctx, productID, b.Site.MarketplaceID)
		if err != nil {
			return err
		}
		for i := range b.links {
			b.links[i].Category = category
		}
	}
	b.out.Title, b.out.SKU, b.out.ListingID = b.links[0].Title, b.links[0].SKU, b.links[0].ID
	if !listed {
		return nil
	}
	b.out.Live = l.ConfirmedPrice
	if l.EntryID == nil {
		return nil
	}
	entry, err := store.Get[store.Entry](ctx, st.Store, *l.EntryID)
	if err != nil {
		return err
	}
	// Whoever may only look sees what was read last: what is read is kept, and prices follow it.
	reads := actor.Asking(ctx).May.Has(actor.Prepare)
	if reads && (entry.OffersAt == nil || b.Now.Sub(*entry.OffersAt) > rivalsEvery) {
		short, cancel := context.WithTimeout(ctx, 3*time.Second)
		defer cancel()
		list := []store.Entry{entry}
		if err := reckon.ReadMarket(short, st.Store, st.Places(b.Site.Marketplace), b.Site, list, b.Now); err != nil {
			b.out.Warnings = append(b.out.Warnings, "what others ask could not be read: "+err.Error())
		}
		entry = list[0]
	}
	for i := range b.links {
		b.links[i].Offers = entry.Offers
	}
	b.out.RivalsAt = entry.OffersAt
	b.rivals(entry.Offers)
	return nil
}

// answer fills in the answer, with the leading figure first.
func (b *bench) answer(q BenchAsk) error {
	out, w, l := &b.out, &b.w, b.w.Link
	out.Figures, out.Category, out.Warehouse = b.written(), l.Category, l.Warehouse
	out.Charged, out.Outbound = b.Site.Charged, w.Spend.Outbound
	if w.Terms != nil {
		out.Charged = w.Terms.Charged(1)
	}
	out.CanStore = b.Schedules.WarehouseOn(l.Category, b.Day) != nil
	out.Units = fmt.Sprintf("%d in the supplier's item, %d in what is listed", out.Figures.UnitsBought, out.Figures.UnitsListed)
	if from := out.Figures.Currency; from != out.Currency && q.Cost.FX == "" {
		if words := reckon.StaleRate(from, b.RateDays[from], b.Now); words != "" {
			out.Warnings = append(out.Warnings, words)
		}
	}
	if x, ok := b.Schedules.On(l.Category, b.Day); ok {
		out.FeesOf = "since " + x.StartsOn
		if x.Category != l.Category {
			out.FeesOf += ", those of the category above"
		}
	} else {
		out.FeesOf = "no fees are known"
	}
	if w.Broken != "" {
		out.Why = w.Broken
		return nil
	}
	var err error
	if out.Cost, err = b.cost.Open(b.Currency); err != nil {
		return err
	}
	out.Landed, out.Step = w.Spend.Landed, w.Step
	out.Rule = BenchWish{Name: w.Rule.Name, Bound: string(w.Choice.Bound), Why: b.PriceWhy(w)}
	if w.Choice.Found {
		out.Rule.Price = &w.Choice.Price
	}
	if v, ok := w.Terms.BreakEven(w.Spend); ok {
		out.BreakEven = &v
	}
	if v, ok := w.Terms.Floor(&w.Wish, w.Spend); ok {
		out.Floor = &v
	}
	price, err := b.leading(q)
	if err != nil {
		return err
	}
	if price != nil {
		if err := b.quote(*price); err != nil {
			return err
		}
	}
	b.draw()
	return nil
}

// leading is the price that the leading figure comes to; none where the rule leads and finds none.
func (b *bench) leading(q BenchAsk) (*int64, error) {
	w := &b.w
	cond := pricing.Condition{}
	value := cmp.Or(q.Value, "0")
	switch q.Lead {
	case "", "rule":
		return b.out.Rule.Price, nil
	case "price":
		v, err := stops.Amount("value", q.Value, b.Currency)
		if err == nil && (v < 1 || v > pricing.DefaultLimit) {
			err = fault.At("value", "a price is from %s to %s %s", b.Money(1), b.Money(pricing.DefaultLimit), b.Currency)
		}
		return &v, err
	case "profit":
		v, err := stops.Amount("value", strings.TrimPrefix(value, "-"), b.Currency)
		if err != nil {
			return nil, err
		}
		if strings.HasPrefix(value, "-") {
			v = -v
		}
		cond = pricing.Condition{Kind: pricing.MinProfit, Amount: v}
	default:
		v, err := stops.Share("value", value)
		if err != nil {
			return nil, err
		}
		cond = pricing.Condition{Kind: pricing.Kind(q.Lead), Rate: v}
	}
	p, ok := w.Terms.Least([]pricing.Condition{cond}, w.Spend)
	if !ok {
		return nil, fault.At("value", "no price up to %s %s leaves that", b.Money(pricing.DefaultLimit), b.Currency)
	}
	return &p, nil
}

// quote fills in what is left of a price.
func (b *bench) quote(price int64) error {
	out, w := &b.out, &b.w
	q, err := w.Terms.Quote(nil, w.Spend, money.Of(price, b.Currency))
	if err != nil {
		return fault.At("value", "the price is out of range: %v", err)
	}
	out.Price, out.Profit, out.Charged = &price, &q.Profit, w.Terms.Charged(price)
	out.Margin, _ = money.Percent(q.Profit, q.Net)
	if spent, ok := money.Add(w.Spend.Landed, w.Spend.Outbound); ok {
		out.Return, _ = money.Percent(q.Profit, spent)
	}
	out.Markup, _ = money.Percent(w.Terms.NetOfTax(price)-w.Spend.Landed, w.Spend.Landed)
	fees, tax, delivery := reckon.Parts(q.Lines)
	out.Lines, out.Split = quoteLines(q), &Split{*delivery, *fees, *tax}
	return nil
}

// draw fills in the curve around all that is marked on it.
func (b *bench) draw() {
	out, far := &b.out, int64(0)
	for _, v := range []*int64{out.Price, out.BreakEven, out.Floor, out.Rule.Price, out.Live} {
		if v != nil {
			far = max(far, *v)
		}
	}
	if out.BreakEven == nil && far == 0 {
		far = out.Landed * 3
	}
	for _, o := range out.Rivals {
		if price := b.w.Terms.Under(o.Item + o.Delivery); price < 3*far {
			far = max(far, price)
		}
	}
	hi := min(far+far/4+1, pricing.DefaultLimit)
	out.Curve = append(out.Curve, b.w.Terms.Curve(b.w.Spend, 1, hi)...)
	for _, f := range b.w.Terms.Falls() {
		if f.From <= hi {
			f.To = min(f.To, hi)
			out.Falls = append(out.Falls, f)
		}
	}
}

// former says what may be said of a former price, by what the listing was offered at.
func (st *Stop) former(ctx context.Context, b *bench, text string) error {
	v, err := stops.Amount("former", text, b.Currency)
	if err != nil {
		return err
	}
	off, err := pricing.Off(*b.out.Price, v)
	if err != nil {
		return fault.At("former", "%v, which is %s", err, b.Money(*b.out.Price))
	}
	b.out.Former = &BenchFormer{Percent: off}
	b.out.Former.Warning, err = st.formerWarning(st.Store.Reading(ctx), b.out.ListingID, v)
	return err
}

// formerWarning says why a former price may not be shown; "" where nothing speaks against it.
func (st *Stop) formerWarning(tx store.Tx, listingID, former int64) (string, error) {
	const law = "; several countries forbid showing it crossed out then"
	if listingID == 0 {
		return "it was never offered here at that price" + law, nil
	}
	lines, err := tx.Confirmed(listingID)
	if err != nil {
		return "", err
	}
	var history []pricing.Offered
	for _, l := range lines {
		history = append(history, pricing.Offered{From: l.AnsweredAt.Unix(), Price: *l.Price})
	}
	if pricing.WasOffered(history, former, st.Now().Unix()) {
		return "", nil
	}
	return "it was not offered at that price or above within the last 30 days" + law, nil
}

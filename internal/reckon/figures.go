package reckon

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/pricing/written"
	"easymargin/core/supply"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Figures are what was worked out for one listing.
type Figures struct {
	Link   *store.PricingRow // the supplier chosen
	Gives  supply.Gives
	Offer  int64 // how many to offer
	Spend  pricing.Spend
	Rule   *Ruled // that holds
	Own    bool   // the rule is the listing's own
	Wish   pricing.Wish
	Choice pricing.Choice
	Terms  *pricing.Terms
	Step   string // of the warehouse's fees
	Broken string // why nothing can be worked out, in words
	Barred bool   // the seller chose not to sell it here
	Away   string // why it isn't shown just now, in words
}

// ByHand is the bound of a price that a person fixed.
const ByHand pricing.Bound = "fixed"

// Cost is the supplier's side of one supply link.
func (b *Book) Cost(r *store.PricingRow) pricing.Cost {
	c := pricing.Cost{
		Unit:        money.Of(r.ItemCost, money.Currency(r.ItemCurrency)),
		UnitsBought: r.UnitsBought,
		UnitsListed: r.Units,
		Charge:      r.Charge,
		FreeFrom:    r.FreeFrom,
		Reclaimed:   money.Rate(r.Reclaimed),
		Duty:        money.Rate(r.Duty),
		Handling:    b.Site.Handling,
	}
	if r.ItemCurrency != b.Site.Currency {
		c.FX, c.Cushion = b.Rates[r.ItemCurrency], money.Rate(b.Site.Cushion)
	}
	return c
}

// packedOf is the packed size of what is listed; that of the supplier's item
// says nothing of another number of units.
func packedOf(r *store.PricingRow) pricing.Packed {
	if max(r.UnitsBought, 1) != max(r.Units, 1) {
		return pricing.Packed{}
	}
	return pricing.Packed{Weight: r.Weight, Sides: [3]int64{r.Length, r.Width, r.Height}}
}

// left is how many items a supplier has that aren't promised to buyers.
func (b *Book) left(r *store.PricingRow) int64 {
	return max(r.Stock-b.Promised[r.SupplierProductID], 0)
}

// Has tells whether a supplier has enough for so many of a listing that nobody else
// was promised. Where it gives no count, it is believed to.
func (b *Book) Has(r *store.PricingRow, quantity int64) bool {
	if r.TakenAt == nil || r.Gone || r.Doubt != "" || r.StockState == string(supply.StockEnded) {
		return false
	}
	return r.StockState != string(supply.StockKnown) || b.left(r)*max(r.UnitsBought, 1) >= quantity*max(r.Units, 1)
}

// linkOf is a supply link as core/supply has it.
func (b *Book) linkOf(r *store.PricingRow) supply.Link {
	l := supply.Link{Present: r.Present(), UnitsBought: r.UnitsBought, UnitsListed: r.Units, StaleAfter: int64(r.StaleAfter.Seconds())}
	var err error
	if l.Landed, err = b.Cost(r).Landed(b.Currency); err != nil || r.CostsUnsaid {
		l.Unpriced = true
	}
	if reports, ok := b.Reports[r.SupplierProductID]; ok && len(reports) > 0 && r.Doubt == "" {
		l.Reports, l.Update = reports, r.Update
		last := &reports[len(reports)-1]
		if r.TakenAt != nil { // heard from since, with nothing new
			last.At = max(last.At, r.TakenAt.Unix())
		}
		if b.Promised[r.SupplierProductID] > 0 {
			l.Reports = slices.Clone(reports)
			l.Reports[len(reports)-1].Stock.Count = b.left(r)
		}
	} else if r.TakenAt != nil {
		l.Reports = []supply.Report{
			{At: r.TakenAt.Unix(), Stock: supply.Stock{State: supply.StockState(r.StockState), Count: b.left(r)}, Absent: r.Gone || r.Doubt != ""},
		}
	}
	return l
}

// WorkOut finds the supplier, the price and the quantity of a listing, from all
// its supply links, which stand together: docs/definitions/following.md, docs/definitions/money.md.
func (b *Book) WorkOut(rows []store.PricingRow) Figures {
	var room [4]supply.Link
	links := append(room[:0], make([]supply.Link, 0, len(rows))...)
	for i := range rows {
		links = append(links, b.linkOf(&rows[i]))
	}
	stock := b.Follows.Stock
	if b.split { // the figures of the rule that holds with the supplier there is now say which is best
		stock = b.ruleNow(rows, links).Stock
	}
	at, gives := stock.Choose(links, b.Now.Unix(), rows[0].ConfirmedQuantity)
	f := Figures{Link: &rows[at], Gives: gives, Offer: gives.Offer, Barred: rows[at].Unwanted, Away: b.away(&rows[at].Listing)}
	switch {
	case f.Link.CostsUnsaid:
		f.Broken = CostsUnsaid(f.Link.Supplier)
	case links[at].Unpriced:
		f.Broken = b.CostBroken(f.Link.ItemCurrency)
	default:
		b.Choose(&f, links[at].Landed)
	}
	if own := b.following(f.Rule).Stock; own != stock { // and those of the rule that holds with it, how many are offered
		f.Gives = own.Gives(&links[at], b.Now.Unix(), rows[0].ConfirmedQuantity)
		f.Offer = f.Gives.Offer
	}
	if f.Barred || f.Away != "" {
		f.Offer = 0
	}
	return f
}

// away says why a listing isn't shown just now; "" where it is. Days are those of
// the time that the book goes by.
func (b *Book) away(l *store.Listing) string {
	today := b.Now.Format(time.DateOnly)
	switch {
	case l.Hidden:
		return "you hid it"
	case l.ShownFrom != "" && today < l.ShownFrom:
		return "it is shown from " + l.ShownFrom + " on"
	case l.ShownUntil != "" && today > l.ShownUntil:
		return "it was shown until " + l.ShownUntil
	}
	return ""
}

// ruleNow are the figures of the rule that holds for a listing with its present
// supplier, or else its first.
func (b *Book) ruleNow(rows []store.PricingRow, links []supply.Link) Following {
	at := 0
	for i := range links {
		if links[i].Present {
			at = i
		}
	}
	rule, err := b.ruleFor(&rows[at], links[at].Landed, supply.Sellable(rows[at].Stock, rows[at].UnitsBought, rows[at].Units))
	if err != nil {
		return b.Follows
	}
	return b.following(rule)
}

// TermsUnsaid asks for what a price on a site needs and nobody has said.
func TermsUnsaid(site string) string {
	return "say what the buyer pays for delivery on " + site + " and what sending one costs you, under Price, Terms and rates; 0 is an answer"
}

// CostsUnsaid asks for what a supplier's costs come to, which nobody has said.
func CostsUnsaid(supplier string) string {
	return "say what " + supplier + " charges for delivery and whether there is tax in its costs, under Sources, Settings; 0 is an answer"
}

// CostBroken says why a landed cost can't be told.
func (b *Book) CostBroken(from string) string {
	if from != b.Site.Currency && b.Rates[from] == 0 {
		return fmt.Sprintf("no exchange rate from %s to %s; type one under Price, Terms and rates", from, b.Site.Currency)
	}
	return "the landed cost is out of range"
}

// Choose finds the rule that holds for the link of the figures, and the price by it.
func (b *Book) Choose(f *Figures, landed int64) {
	l := f.Link
	f.Spend = pricing.Spend{Landed: landed, Outbound: b.Site.Outbound}
	switch {
	case l.CostsUnsaid:
		f.Broken = CostsUnsaid(l.Supplier)
	case b.Site.TermsUnsaid:
		f.Broken = TermsUnsaid(b.Site.Name)
	}
	if f.Broken != "" {
		return
	}
	var err error
	if l.Warehouse {
		f.Spend.Outbound = 0 // the warehouse sends, and its fee says what that costs
	} else if f.Spend.Outbound, err = b.Outbound(b.Site.Code, postedOf(l)); err != nil {
		f.Broken = "what sending costs can't be told: " + err.Error()
		return
	}
	if f.Terms, f.Step, err = b.Terms(Sale{l.Category, l.Warehouse, packedOf(l), postedOf(l)}); err != nil {
		var missing pricing.Missing
		switch {
		case errors.As(err, &noPostage{}), errors.As(err, &unknownFees{}):
			f.Broken = err.Error()
		case errors.As(err, &missing):
			f.Broken = missing.Error() + ", so the warehouse's fee can't be told"
		default:
			f.Broken = "the fees can't be used: " + err.Error()
		}
		return
	}
	if f.Rule, err = b.ruleFor(l, landed, f.Gives.Sellable); err != nil {
		f.Broken = err.Error()
		return
	}
	f.Own = f.Rule.ID == 0
	f.Wish = f.Rule.Wish
	if f.Rule.Stands() {
		f.Wish.Market.Offers = offersOf(l.Offers)
	}
	if l.FixedPrice != nil {
		f.Choice = pricing.Choice{
			Price: *l.FixedPrice,
			Found: f.Allows(*l.FixedPrice) && f.Terms.Holds(f.Wish.Keep, f.Spend, *l.FixedPrice),
			Bound: ByHand,
		}
		return
	}
	if f.Choice, err = f.Terms.Choose(&f.Wish, f.Spend); err != nil {
		f.Broken = "no price can be worked out: " + err.Error()
	}
}

// Floor is the lowest price that may be asked; false where there is none.
func (f *Figures) Floor() (int64, bool) {
	if f.Broken != "" {
		return 0, false
	}
	return f.Terms.Floor(&f.Wish, f.Spend)
}

// Allows tells whether a price is not under the floor.
func (f *Figures) Allows(price int64) bool {
	floor, ok := f.Floor()
	return ok && price >= floor
}

// ruleFor is the listing's own rule, or the first of the site's that fits it.
func (b *Book) ruleFor(l *store.PricingRow, landed, stock int64) (*Ruled, error) {
	if l.OwnRule != "" {
		wish, err := written.ReadWish([]byte(l.OwnRule), b.Currency)
		if err != nil {
			return nil, fmt.Errorf("its own price rule can't be used: %w", err)
		}
		return &Ruled{Name: "its own rule", Wish: wish}, nil
	}
	facts := pricing.Facts{
		SKU:        l.SKU,
		Supplier:   l.Supplier,
		Brand:      l.Brand,
		Categories: b.Schedules.Line(l.Category),
		Landed:     landed,
		Weight:     packedOf(l).Weight,
	}
	for i := range b.Rules {
		if b.Rules[i].Fits.Fit(&facts) && b.Rules[i].In.Holds(known{l, &facts, stock, b}) {
			return &b.Rules[i], nil
		}
	}
	return nil, errors.New("no price rule fits it; add one under Price, Rules")
}

// offersOf are the rivals' offers as last read, for the core.
func offersOf(text string) []pricing.Offer {
	var out []pricing.Offer
	for _, o := range ReadOffers(text) {
		out = append(out, pricing.Offer{Item: o.Item, Delivery: o.Delivery, Ours: o.Ours, Lead: o.Lead})
	}
	return out
}

// ReadOffers reads what others ask as it is kept; what can't be read is no offer.
func ReadOffers(text string) []place.Offer {
	var list []place.Offer
	if text != "" && json.Unmarshal([]byte(text), &list) != nil {
		return nil
	}
	return list
}

// Quote opens a price into its lines, at the figures' costs.
func (b *Book) Quote(f *Figures, price int64) (pricing.Quote, error) {
	q, err := f.Terms.Quote(b.lines[:0], f.Spend, money.Of(price, b.Currency))
	if err == nil {
		b.lines = q.Lines
	}
	return q, err
}

// Part is a part of a price as the margin strip draws it: what that part goes to.
type Part string

// The parts of a price besides what is left.
const (
	CostPart     Part = "cost"
	DeliveryPart Part = "delivery"
	FeesPart     Part = "fees"
	TaxPart      Part = "tax"
)

// PartOf is the part that a line of a price belongs to; "" for the price itself.
func PartOf(kind pricing.LineKind) Part {
	switch kind {
	case pricing.LineFee, pricing.LineFeeTax, pricing.LineAllowance:
		return FeesPart
	case pricing.LineTax:
		return TaxPart
	case pricing.LineOutbound, pricing.LineDelivery:
		return DeliveryPart
	case pricing.LineCost:
		return CostPart
	}
	return ""
}

// Parts sums a quote's lines into the parts of a margin strip, as costs.
func Parts(lines []pricing.Line) (fees, tax, outbound *int64) {
	sums := map[Part]int64{}
	for _, x := range lines {
		sums[PartOf(x.Kind)] -= x.Amount
	}
	return ptr(sums[FeesPart]), ptr(sums[TaxPart]), ptr(sums[DeliveryPart])
}

// Money writes an amount of the site's currency.
func (b *Book) Money(v int64) string { return money.Of(v, b.Currency).String() }

// WouldMake is what a supplier product that is no listing yet would be here:
// one single of it, under the fees for every category.
func (b *Book) WouldMake(row *store.PricingRow) Figures {
	f := Figures{Link: row}
	landed, err := b.Cost(row).Landed(b.Currency)
	if err != nil {
		f.Broken = b.CostBroken(row.ItemCurrency)
		return f
	}
	b.Choose(&f, landed)
	return f
}

// lowest is the rival that a price was set by.
func lowest(f *Figures) *place.Offer {
	var rival *place.Offer
	for _, o := range ReadOffers(f.Link.Offers) {
		if !o.Ours && (o.Lead || !f.Wish.Market.AgainstLead) && (rival == nil || cmp.Less(o.Item+o.Delivery, rival.Item+rival.Delivery)) {
			rival = &o
		}
	}
	return rival
}

// LandedFrom is what one of a listing would cost from another supply, minor units; nil
// where it can't be told. Why says, in words, why nothing would be bought from it now.
func (b *Book) LandedFrom(r *store.PricingRow) (landed *int64, why string) {
	l := b.linkOf(r)
	switch {
	case r.CostsUnsaid:
		return nil, CostsUnsaid(r.Supplier)
	case l.Unpriced:
		return nil, b.CostBroken(r.ItemCurrency)
	}
	f := Figures{Link: r, Gives: b.Follows.Stock.Gives(&l, b.Now.Unix(), 0)}
	if f.Offer = f.Gives.Offer; f.Offer == 0 {
		why = b.OfferWhy(&f)
	}
	return &l.Landed, why
}

// GoesAlone tells whether a change of a listing's price is sent by itself: where its site
// or its rule says so, and after the site's first week. What is held waits all the same.
func (b *Book) GoesAlone(f *Figures) bool {
	if f.Rule != nil && f.Rule.Runs != "" {
		return f.Rule.Runs == store.Alone
	}
	return b.Site.Runs == store.Alone && (b.Site.ActsFrom == nil || !b.Site.ActsFrom.After(b.Now))
}

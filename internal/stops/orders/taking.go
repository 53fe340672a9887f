package orders

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// TakeSold keeps orders of the own shop, in the transaction that makes them.
func (st *Stop) TakeSold(tx store.Tx, site *store.Site, list []place.Order) error {
	return st.take(tx, site, list, store.OrderShop)
}

// take keeps orders that a site told of. What is new of them is promised in the
// same transaction, so that nothing of it is offered any more; one that is known is
// looked at for what changed.
func (st *Stop) take(tx store.Tx, site *store.Site, list []place.Order, origin string) error {
	var sold []int64 // supplier products of which something was sold or given back
	for i := range list {
		o := readable(&list[i], site, st.Now())
		row, lines, known, err := tx.OrderOf(site.ID, o.Ref)
		if err != nil {
			return err
		}
		if !known {
			if row, err = st.newOrder(tx, site, o, origin); err != nil {
				return err
			}
		}
		for k := range o.Lines {
			x := &o.Lines[k]
			at := slices.IndexFunc(lines, func(l store.OrderLine) bool { return l.Ref == x.Ref })
			var touched *int64
			if at < 0 {
				touched, err = st.newLine(tx, site, &row, x)
			} else {
				touched, err = st.changedLine(tx, &lines[at], &x.OrderLine, money.Currency(row.Currency))
			}
			if err != nil {
				return err
			}
			if touched != nil {
				sold = append(sold, *touched)
			}
		}
	}
	if len(list) > 0 {
		tx.Changed("orders", "listings", "plan", "counts")
	}
	return tx.DirtySold(st.Now(), sold)
}

// order is one as it is taken: each of its lines has a name of its own.
type order struct {
	place.Order
	Lines []line
}

// line is one as it is taken, with what is wrong with it; "": nothing.
type line struct {
	place.OrderLine
	wrong string
}

// readable is an order that can be kept, whatever a place tells: what can't be as it
// says is kept as far as it can, with what is wrong, for a person. An order is never
// dropped, and none keeps those after it from being read.
func readable(o *place.Order, site *store.Site, now time.Time) *order {
	out := &order{Order: *o}
	if out.Ref = stops.Clip(strings.TrimSpace(o.Ref), 100); out.Ref == "" {
		text, err := json.Marshal(o)
		if err != nil {
			text = []byte(o.Buyer.Name)
		}
		out.Ref = fmt.Sprintf("without a name, %x", sha256.Sum256(text))[:30]
	}
	if o.Placed.IsZero() {
		out.Placed = now
	}
	strange := ""
	if o.Wrong != "" {
		strange = stops.Clip(o.Wrong, 200) + "; "
	}
	if o.Currency == "" && o.Wrong != "" {
		out.Currency = site.Currency
	} else if !money.Currency(o.Currency).Valid() {
		strange = fmt.Sprintf("its currency is %q; ", stops.Clip(o.Currency, 10))
		out.Currency = site.Currency
	}
	list := o.Lines
	if len(list) == 0 {
		list, strange = []place.OrderLine{{Quantity: 1}}, strange+"it has no lines; "
	}
	names := map[string]int{}
	for _, x := range list {
		l := line{OrderLine: x, wrong: strange}
		l.bound()
		l.SKU = stops.Clip(strings.TrimSpace(x.SKU), 200)
		if l.Ref = stops.Clip(strings.TrimSpace(x.Ref), 100); l.Ref == "" {
			l.Ref = "of " + l.SKU
		}
		names[l.Ref]++
		if n := names[l.Ref]; n > 1 {
			l.Ref = fmt.Sprintf("%s, %d", l.Ref, n)
		}
		if l.wrong != "" {
			l.wrong = "it can't be read as it was told: " + strings.TrimSuffix(l.wrong, "; ")
		}
		out.Lines = append(out.Lines, l)
	}
	return out
}

// bound brings a line's figures within what can be. Money that can't be is none, so
// that no sum counts it; of more pieces than can be there are as many as can be, so
// that they are promised and sold to nobody else.
func (l *line) bound() {
	x := l.OrderLine
	l.Quantity = min(max(x.Quantity, 1), money.MostUnits)
	paid, fits := money.Times(x.Price, l.Quantity)
	if fits = fits && money.Believed(x.Price) && money.Believed(x.Delivery) && money.Believed(paid+x.Delivery); !fits {
		l.Price, l.Delivery = 0, 0
	}
	if !fits || l.Quantity != x.Quantity {
		l.wrong += fmt.Sprintf("its quantity is %d, its price %d, its delivery %d; ", x.Quantity, x.Price, x.Delivery)
	}
	if l.Tax != nil && !money.Believed(max(*l.Tax, -*l.Tax)) {
		l.wrong += fmt.Sprintf("its tax is %d; ", *l.Tax)
		l.Tax = nil
	}
	if l.Fees != nil && !money.Believed(max(*l.Fees, -*l.Fees)) {
		l.wrong += fmt.Sprintf("its fees are %d; ", *l.Fees)
		l.Fees = nil
	}
	if !money.Believed(x.Refunded) {
		l.wrong += fmt.Sprintf("%d of it was given back; ", x.Refunded)
		l.Refunded = 0
	}
}

// clipped is a buyer as far as one is kept.
func clipped(b place.Buyer) place.Buyer {
	out := place.Buyer{Name: stops.Clip(b.Name, 200), Country: stops.Clip(b.Country, 2), Mail: stops.Clip(b.Mail, 320)}
	for _, l := range b.Address[:min(len(b.Address), 12)] {
		out.Address = append(out.Address, stops.Clip(l, 200))
	}
	return out
}

func (st *Stop) newOrder(tx store.Tx, site *store.Site, o *order, origin string) (store.Order, error) {
	buyer, err := json.Marshal(clipped(o.Buyer))
	if err != nil {
		return store.Order{}, err
	}
	row := store.Order{SiteID: site.ID, Version: 1, Ref: o.Ref, Origin: origin, PlacedAt: o.Placed.UTC(), SeenAt: st.Now(), Currency: o.Currency,
		Buyer: string(buyer), Country: stops.Clip(o.Buyer.Country, 2)}
	err = tx.Create(&row)
	return row, err
}

// newLine keeps a line that is new, with what was expected of it. It gives the
// supplier product that it is to be had from.
func (st *Stop) newLine(tx store.Tx, site *store.Site, o *store.Order, x *line) (*int64, error) {
	l := store.OrderLine{OrderID: o.ID, Ref: x.Ref, SKU: x.SKU, Title: stops.Clip(x.Title, 500), Quantity: x.Quantity, Price: x.Price, Delivery: x.Delivery,
		Tax: x.Tax, Fees: x.Fees, State: store.LineNew, Units: 1, UnitsBought: 1, TaxIncluded: site.TaxWay == string(pricing.TaxIncluded)}
	rate, err := site.TaxOn(o.Country, o.PlacedAt)
	if err != nil {
		return nil, err
	}
	l.TaxRate = rate
	refundedThere(&l, x, money.Currency(o.Currency))
	ours, err := tx.ListingsBySKU(site.ID, []string{x.SKU})
	if err != nil {
		return nil, err
	}
	listing, known := ours[x.SKU]
	if known {
		l.ListingID, l.Units = &listing.ID, max(listing.Units, 1)
		if err := st.expect(tx, site, o, &l); err != nil {
			return nil, err
		}
	} else {
		l.Problem = fmt.Sprintf("nothing of ours on %s has the SKU %s", site.Name, stops.Clip(x.SKU, 60))
	}
	if x.wrong != "" {
		l.Problem = x.wrong
	}
	l.Promised = l.SupplierProductID != nil
	if over(x.State) {
		now := st.Now()
		l.State, l.EndedAt, l.Promised, l.Problem = x.State, &now, false, ""
	}
	err = tx.Create(&l)
	return l.SupplierProductID, err
}

func over(state string) bool { return state == place.OrderCancelled || state == place.OrderReturned }

// expect says from which supplier a line is to be had, and what was expected to be
// left of it, line by line, when it came.
func (st *Stop) expect(tx store.Tx, site *store.Site, o *store.Order, l *store.OrderLine) error {
	book, err := reckon.Open(tx, *site, st.Now())
	if err != nil {
		return err
	}
	rows, err := tx.PricingRowsOf([]int64{*l.ListingID}, st.Now())
	if err != nil || len(rows) == 0 {
		return err
	}
	for i := range rows {
		rows[i].ConfirmedQuantity = 0 // by whom it can be had, whatever is on offer
	}
	if able := slices.DeleteFunc(slices.Clone(rows), func(r store.PricingRow) bool { return !book.Has(&r, l.Quantity) }); len(able) > 0 {
		rows = able // it is bought whole: promising it where it can't be had would leave it on offer where it can
	}
	f := book.WorkOut(rows)
	l.SupplierProductID, l.UnitsBought = &f.Link.SupplierProductID, max(f.Link.UnitsBought, 1)
	if o.Currency != site.Currency {
		return nil
	}
	ordered := orderedOf(l)
	if ordered.Parcel, err = st.parcel(tx, book, o, l, &f); err != nil {
		return err
	}
	lines, left, ok := book.OrderedLines(&f, ordered)
	cost, fits := money.Times(f.Spend.Landed, l.Quantity)
	if !ok || !fits {
		return nil // nothing is expected of it
	}
	l.ExpectedCost, l.ExpectedProfit = &cost, &left
	text, err := json.Marshal(lines)
	l.Expected = string(text)
	return err
}

// orderedOf is a line as it was ordered; Parcel is left out.
func orderedOf(l *store.OrderLine) reckon.Ordered {
	return reckon.Ordered{Price: l.Price, Quantity: l.Quantity, Delivery: l.Delivery, TaxIncluded: l.TaxIncluded, TaxRate: money.Rate(l.TaxRate)}
}

// parcel is what sending an order's parcel costs more for a new line than for the lines
// that are known of it. It is one parcel: bands of postage look at the country it goes to
// and at all that is in it. Where none takes it, or a weight isn't known, it is what
// sending its dearest unit alone would cost.
func (st *Stop) parcel(tx store.Tx, book *reckon.Book, o *store.Order, l *store.OrderLine, f *reckon.Figures) (int64, error) {
	known, err := tx.LinesOfOrder(o.ID)
	if err != nil || f.Link.Warehouse {
		return 0, err
	}
	whole := f.Spend.Outbound
	if book.Site.Postage != "" {
		units := map[int64]int64{*l.ListingID: l.Quantity}
		for i := range known {
			if k := &known[i]; k.ListingID != nil && !over(k.State) {
				units[*k.ListingID] += k.Quantity
			}
		}
		rows, err := tx.PricingRowsOf(slices.Collect(maps.Keys(units)), st.Now())
		if err != nil {
			return 0, err
		}
		rows = slices.DeleteFunc(rows, func(r store.PricingRow) bool { return r.Warehouse })
		if cost, err := book.Outbound(o.Country, reckon.Parcel(rows, units)); err == nil {
			whole = cost
		}
	}
	sum, err := outboundOf(known)
	return max(whole-sum, 0), err
}

// outboundOf is what sending lines of an order was expected to cost.
func outboundOf(known []store.OrderLine) (sum int64, err error) {
	for i := range known {
		lines, err := expectedOf(&known[i])
		if err != nil {
			return 0, err
		}
		for _, x := range lines {
			if x.Kind == reckon.KindOutbound {
				sum -= x.Amount
			}
		}
	}
	return sum, nil
}

// lessened has what was expected of a line be for fewer.
func lessened(columns map[string]any, l *store.OrderLine, quantity int64) error {
	if l.Expected == "" || l.ExpectedCost == nil || l.ExpectedProfit == nil {
		return nil
	}
	lines, err := expectedOf(l)
	if err != nil {
		return err
	}
	fewer := orderedOf(l)
	fewer.Quantity = quantity
	lines, left, ok := reckon.ForUnits(lines, fewer, l.Quantity)
	if !ok {
		return nil
	}
	text, err := json.Marshal(lines)
	columns["expected"], columns["expected_cost"], columns["expected_profit"] = string(text), *l.ExpectedCost/l.Quantity*quantity, left
	return err
}

// changedLine takes up what a place says otherwise of a line that is known. It
// gives the supplier product of which something is given back.
func (st *Stop) changedLine(tx store.Tx, l *store.OrderLine, x *place.OrderLine, c money.Currency) (*int64, error) {
	columns := map[string]any{}
	now := st.Now()
	var back *int64
	if over(x.State) && l.State != x.State && l.State != store.LineReturned {
		columns["state"], columns["ended_at"] = x.State, &now
		switch {
		case l.State == store.LineNew:
			columns["promised"], columns["problem"], back = false, "", l.SupplierProductID
		case x.State == place.OrderCancelled && l.State == store.LineBought:
			columns["problem"] = "called off after it was bought: send it back, or sell it another time"
		case x.State == place.OrderReturned:
			columns["problem"] = "sent back by its buyer: look at what came, and what is to be given back"
		}
	}
	if x.Quantity < l.Quantity && l.State == store.LineNew { // a part of it was called off
		columns["quantity"], back = x.Quantity, l.SupplierProductID
		if err := lessened(columns, l, x.Quantity); err != nil {
			return nil, err
		}
	}
	if x.Refunded > l.Refunded {
		now := *l
		now.Quantity = min(x.Quantity, l.Quantity)
		refundedThere(&now, &line{OrderLine: *x}, c)
		columns["refunded"], columns["refunded_delivery"] = now.Refunded, now.RefundedDelivery
		if now.Problem != l.Problem {
			columns["problem"] = now.Problem
		}
	}
	if x.Fees != nil && (l.Fees == nil || *l.Fees != *x.Fees) {
		columns["fees"] = *x.Fees
	}
	if x.Tax != nil && (l.Tax == nil || *l.Tax != *x.Tax) {
		columns["tax"] = *x.Tax
	}
	if len(columns) == 0 {
		return nil, nil
	}
	return back, tx.SetOrderLines([]int64{l.ID}, columns)
}

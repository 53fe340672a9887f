package orders

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"easymargin/core/buying"
	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SplitView is how lines that are to be bought are best divided among suppliers.
// Amounts are minor units of Currency.
type SplitView struct {
	Currency  string          `json:"currency"`
	Total     int64           `json:"total"`
	Best      int64           `json:"best" doc:"The least that it can cost; more than that is what choices of one's own cost"`
	Proved    bool            `json:"proved" doc:"Nothing costs less"`
	Lines     []SplitLine     `json:"lines"`
	Suppliers []SplitSupplier `json:"suppliers"`
	Unserved  []int64         `json:"unserved" doc:"Lines that nobody has enough for"`
	Losses    []int64         `json:"losses" doc:"Lines on which this loses money"`
}

// SplitLine is a line, and how it can be had.
type SplitLine struct {
	ID       int64      `json:"id"`
	OrderRef string     `json:"order"`
	Site     string     `json:"site"`
	SKU      string     `json:"sku"`
	Title    string     `json:"title"`
	Quantity int64      `json:"quantity"`
	Ways     []SplitWay `json:"ways"`
	Expected *int64     `json:"expected" doc:"What its goods were expected to cost, delivery and duty in it"`
	Profit   *int64     `json:"profit" doc:"What was expected to be left of it"`
	Words    string     `json:"words" doc:"A warning: dearer than expected, or at a loss"`
}

// SplitWay is one way to have a line.
type SplitWay struct {
	Product  int64  `json:"supplier_product"`
	Supplier string `json:"supplier"`
	Ref      string `json:"ref"`
	Items    int64  `json:"items"`
	Goods    int64  `json:"goods"`
	LeftOver int64  `json:"left_over" doc:"Single units that nobody ordered"`
	Words    string `json:"words" doc:"Why it can't be had so; empty: it can"`
	Chosen   bool   `json:"chosen"`
}

// SplitSupplier is what goes to one supplier.
type SplitSupplier struct {
	ID       int64  `json:"id"`
	Supplier string `json:"supplier"`
	Goods    int64  `json:"goods"`
	Delivery int64  `json:"delivery"`
	ToppedUp int64  `json:"topped_up"`
}

// Wanted is which lines are to be bought, and from whom where a person says so.
type Wanted struct {
	Lines  []int64         `json:"lines" minItems:"1" maxItems:"200"`
	Choice map[int64]int64 `json:"choice,omitempty" doc:"Supplier product by line, where it isn't the best split's"`
	Yes    bool            `json:"yes,omitempty" doc:"Also what loses money"`
}

// longest is how long the best split is looked for while a person waits.
const longest = 2 * time.Second

// division is a purchase as core/buying has it, with what its places stand for.
type division struct {
	currency  money.Currency
	rows      []store.OrderLineRow // what was expected of them in its currency
	rates     []store.ExchangeRate
	promised  map[int64]int64 // items, by supplier product
	ways      [][]store.Way   // by line
	suppliers []int64
	names     []string
	purchase  buying.Purchase
	optionOf  [][]int // by line and way: its option; -1: none
}

// divide reads lines and how they can be had. All are in the currency of the first
// line's order.
func (st *Stop) divide(tx store.Tx, ids []int64) (*division, error) {
	rows, err := tx.OrderLineRowsOf(ids)
	if err != nil {
		return nil, err
	}
	if len(ids) == 0 {
		return nil, fault.At("lines", "choose at least one line to buy")
	}
	if len(rows) != len(ids) {
		return nil, fault.New(fault.Missing, "some of these lines are not there any more; look again")
	}
	ways, err := tx.Ways(ids)
	if err != nil {
		return nil, err
	}
	for i := range ways {
		ownCost(&ways[i])
	}
	rates, err := tx.Rates()
	if err != nil {
		return nil, err
	}
	promised, err := tx.Promised()
	if err != nil {
		return nil, err
	}
	d := &division{currency: money.Currency(rows[0].Currency), rows: rows, rates: rates, promised: promised}
	change := func(v int64, from string) (int64, bool) { return d.change(v, from, string(d.currency)) }
	for i := range rows {
		l := &rows[i]
		if l.State != store.LineNew {
			return nil, fault.New(fault.Conflict, "%s is %s already, so it isn't bought again", stops.Clip(orSKU(&l.OrderLine), 80), l.State)
		}
		l.ExpectedCost, l.ExpectedProfit = d.here(l.ExpectedCost, l.Currency), d.here(l.ExpectedProfit, l.Currency)
		line := buying.Line{Units: l.Quantity * max(l.Units, 1)}
		var mine []store.Way
		var options []int
		for _, w := range ways {
			if w.LineID != l.ID {
				continue
			}
			mine = append(mine, w)
			cost, ok := change(w.Cost, w.Currency)
			if !ok || w.Gone || w.Stale || w.Doubt != "" || w.StockState == "ended" {
				options = append(options, -1)
				continue
			}
			o := buying.Option{Supplier: d.supplier(&w, change), Cost: cost, UnitsPerItem: max(w.UnitsBought, 1), LeastItems: 1}
			if w.StockState == "known" {
				left := w.Stock - promised[w.SupplierProductID]
				if l.SupplierProductID != nil && *l.SupplierProductID == w.SupplierProductID && l.Promised { // what is promised is this
					left += own(l)
				}
				left = max(left, 0)
				o.Stock = &left
			}
			options = append(options, len(line.Options))
			line.Options = append(line.Options, o)
		}
		d.ways, d.optionOf = append(d.ways, mine), append(d.optionOf, options)
		d.purchase.Lines = append(d.purchase.Lines, line)
	}
	return d, nil
}

// ownCost takes the tax that we get back out of what a way costs, so that suppliers who ask
// with it and without are compared by what is ours to pay. Each amount is rounded by itself.
func ownCost(w *store.Way) {
	if w.Reclaimed == 0 {
		return
	}
	for _, v := range []*int64{&w.Cost, &w.Charge, &w.Least, w.FreeFrom} {
		if v == nil {
			continue
		}
		if own, ok := money.MulDiv(*v, int64(money.One), int64(money.One)+w.Reclaimed); ok {
			*v = own
		}
	}
}

// change is an amount in another currency; false where there is no rate.
func (d *division) change(v int64, from, to string) (int64, bool) {
	if from == to {
		return v, true
	}
	for _, r := range d.rates {
		if r.From == from && r.To == to {
			a, err := money.FX(r.Rate).Change(money.Of(v, money.Currency(from)), money.Currency(to))
			return a.Minor, err == nil
		}
	}
	for _, r := range d.rates { // else by the rate the other way
		if r.From == to && r.To == from {
			a, err := money.FX(r.Rate).Back(money.Of(v, money.Currency(from)), money.Currency(to))
			return a.Minor, err == nil
		}
	}
	return 0, false
}

// here is an amount in the purchase's currency; nil where it isn't known.
func (d *division) here(v *int64, from string) *int64 {
	if v == nil {
		return nil
	}
	if n, ok := d.change(*v, from, string(d.currency)); ok {
		return &n
	}
	return nil
}

// supplier is a supplier's place among those bought from; its delivery in the
// purchase's currency.
func (d *division) supplier(w *store.Way, change func(int64, string) (int64, bool)) int {
	if i := slices.Index(d.suppliers, w.SupplierID); i >= 0 {
		return i
	}
	s := buying.Supplier{}
	s.Delivery, _ = change(w.Charge, w.Currency) // the rate is there: the cost was changed by it
	s.Least, _ = change(w.Least, w.Currency)
	if w.FreeFrom != nil {
		free, _ := change(*w.FreeFrom, w.Currency)
		s.FreeFrom = &free
	}
	d.suppliers, d.names, d.purchase.Suppliers = append(d.suppliers, w.SupplierID), append(d.names, w.Supplier), append(d.purchase.Suppliers, s)
	return len(d.suppliers) - 1
}

// best is the cheapest way to divide it.
func (d *division) best() (buying.Split, error) {
	end := time.Now().Add(longest)
	return d.purchase.Cheapest(func() bool { return time.Now().After(end) })
}

// chosen divides it as a person chose; what they said nothing of is as in best.
func (d *division) chosen(choice map[int64]int64, best *buying.Split) (mine buying.Split, err error) {
	picks := make([]int, len(d.rows))
	for i := range picks {
		picks[i] = -1
	}
	for _, c := range best.Choices {
		picks[c.Line] = c.Option
	}
	for i := range d.rows {
		want, ok := choice[d.rows[i].ID]
		if !ok {
			continue
		}
		at := slices.IndexFunc(d.ways[i], func(w store.Way) bool { return w.SupplierProductID == want })
		if at < 0 || d.optionOf[i][at] < 0 {
			return mine, fault.New(fault.Conflict, "%s can't be had that way now; choose another", stops.Clip(orSKU(&d.rows[i].OrderLine), 80))
		}
		picks[i] = d.optionOf[i][at]
	}
	mine, err = d.purchase.Of(picks)
	if err != nil {
		err = fault.New(fault.Conflict, "%v", err)
	}
	return mine, err
}

// shares are what lines cost with their part of delivery and of what is topped up,
// by their places: each supplier's is divided by what the goods cost, and adds up.
func shares(d *division, s *buying.Split) map[int]int64 {
	out := map[int]int64{}
	for _, b := range s.Suppliers {
		extra, left := b.Delivery+b.ToppedUp, b.Delivery+b.ToppedUp
		last := -1
		for _, c := range s.Choices {
			if d.purchase.Lines[c.Line].Options[c.Option].Supplier != b.Supplier {
				continue
			}
			part := int64(0)
			if b.Goods > 0 {
				part, _ = money.MulDiv(extra, c.Goods, b.Goods)
				part = min(part, left)
			}
			out[c.Line], left, last = c.Goods+part, left-part, c.Line
		}
		if last >= 0 {
			out[last] += left
		}
	}
	return out
}

// Split says how lines are best bought, and what choices of a person's own cost.
func (st *Stop) Split(ctx context.Context, in Wanted) (SplitView, error) {
	d, err := st.divide(st.Store.Reading(ctx), in.Lines)
	if err != nil {
		return SplitView{}, err
	}
	best, err := d.best()
	if err != nil {
		return SplitView{}, err
	}
	mine, err := d.chosen(in.Choice, &best)
	if err != nil {
		return SplitView{}, err
	}
	return d.view(&mine, &best), nil
}

func (d *division) view(mine, best *buying.Split) SplitView {
	out := SplitView{Currency: string(d.currency), Total: mine.Total, Best: best.Total, Proved: best.Proved, Lines: []SplitLine{}, Suppliers: []SplitSupplier{},
		Unserved: []int64{}, Losses: []int64{}}
	cost := shares(d, mine)
	for i := range d.rows {
		r := &d.rows[i]
		l := SplitLine{ID: r.ID, OrderRef: r.OrderRef, Site: r.Site, SKU: r.SKU, Title: orSKU(&r.OrderLine), Quantity: r.Quantity, Ways: []SplitWay{}, Expected: r.ExpectedCost,
			Profit: r.ExpectedProfit}
		at := slices.IndexFunc(mine.Choices, func(c buying.Choice) bool { return c.Line == i })
		for k, w := range d.ways[i] {
			x := SplitWay{Product: w.SupplierProductID, Supplier: w.Supplier, Ref: w.Ref}
			if o := d.optionOf[i][k]; o >= 0 {
				c, ok := d.purchase.Serve(i, o)
				x.Items, x.Goods, x.LeftOver = c.Items, c.Goods, c.LeftOver
				if !ok {
					x.Words = fmt.Sprintf("only %d left", *d.purchase.Lines[i].Options[o].Stock)
				}
				x.Chosen = at >= 0 && mine.Choices[at].Option == o
			} else {
				x.Words = whyNot(&w)
			}
			l.Ways = append(l.Ways, x)
		}
		l.Words = d.warn(r, cost[i], at >= 0)
		if lost, yes := loses(r, cost[i]); at >= 0 && yes && lost {
			out.Losses = append(out.Losses, r.ID)
		}
		if at < 0 {
			out.Unserved = append(out.Unserved, r.ID)
		}
		out.Lines = append(out.Lines, l)
	}
	for i, words := range d.short(mine) {
		out.Lines[i].Words = words
	}
	for _, b := range mine.Suppliers {
		out.Suppliers = append(out.Suppliers, SplitSupplier{d.suppliers[b.Supplier], d.names[b.Supplier], b.Goods, b.Delivery, b.ToppedUp})
	}
	return out
}

// short are the lines, by their places, for which there isn't enough where several
// are bought of one product: each by itself could be had.
func (d *division) short(s *buying.Split) map[int]string {
	taken, left, out := map[int64]int64{}, map[int64]int64{}, map[int]string{}
	for i := range d.rows { // what is promised of these lines is theirs
		for k, w := range d.ways[i] {
			o := d.optionOf[i][k]
			if o < 0 || d.purchase.Lines[i].Options[o].Stock == nil {
				continue
			}
			if _, known := left[w.SupplierProductID]; !known {
				left[w.SupplierProductID] = max(w.Stock-d.promised[w.SupplierProductID], 0)
			}
		}
	}
	for i := range d.rows {
		l := &d.rows[i]
		if l.SupplierProductID != nil && l.Promised {
			if _, counted := left[*l.SupplierProductID]; counted {
				left[*l.SupplierProductID] += own(l)
			}
		}
	}
	for i := range d.ways {
		for _, w := range d.ways[i] { // several in one box are promised together, and bought apart
			if have, counted := left[w.SupplierProductID]; counted {
				left[w.SupplierProductID] = min(have, w.Stock)
			}
		}
	}
	for _, c := range s.Choices {
		w := d.ways[c.Line][slices.Index(d.optionOf[c.Line], c.Option)]
		have, counted := left[w.SupplierProductID]
		taken[w.SupplierProductID] += c.Items
		if counted && taken[w.SupplierProductID] > have {
			out[c.Line] = fmt.Sprintf("only %d left at %s for these lines together", have, w.Supplier)
		}
	}
	return out
}

// own is how many items are promised of a line.
func own(l *store.OrderLineRow) int64 {
	bought := max(l.UnitsBought, 1)
	return (l.Quantity*max(l.Units, 1) + bought - 1) / bought
}

func whyNot(w *store.Way) string {
	switch {
	case w.Gone || w.StockState == "ended":
		return "it is gone there"
	case w.Stale:
		return "nothing was heard from there for too long"
	case w.Doubt != "":
		return w.Doubt
	}
	return "there is no rate for " + w.Currency
}

// loses tells whether a line loses money at a cost; false, false where that isn't known.
func loses(r *store.OrderLineRow, cost int64) (loss, known bool) {
	if r.ExpectedProfit == nil || r.ExpectedCost == nil {
		return false, false
	}
	return *r.ExpectedProfit+*r.ExpectedCost-cost < 0, true
}

// warn says what a person should know before a line is bought at a cost.
func (d *division) warn(r *store.OrderLineRow, cost int64, served bool) string {
	text := func(v int64) string { return money.Of(v, d.currency).String() + " " + string(d.currency) }
	if !served {
		return "nobody has enough of it now"
	}
	if loss, known := loses(r, cost); known && loss {
		return fmt.Sprintf("at a loss of %s", text(cost-*r.ExpectedCost-*r.ExpectedProfit))
	}
	if r.ExpectedCost != nil && cost > *r.ExpectedCost {
		return fmt.Sprintf("%s dearer than was expected", text(cost-*r.ExpectedCost))
	}
	return ""
}

// Buy buys lines as was chosen: a purchase for each supplier, with our reference,
// and the lines bought. What loses money wants a yes. A choice is needed for each
// line: what is bought is what a person saw.
func (st *Stop) Buy(ctx context.Context, in Wanted) ([]int64, error) {
	made := []int64{}
	for _, id := range in.Lines {
		if _, ok := in.Choice[id]; !ok {
			return made, fault.At("choice", "say from whom each line is bought; the split says which is best")
		}
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		made = made[:0]
		d, err := st.divide(tx, in.Lines)
		if err != nil {
			return err
		}
		mine, err := d.chosen(in.Choice, &buying.Split{})
		if err != nil {
			return err
		}
		v := d.view(&mine, &mine)
		if len(v.Unserved) > 0 {
			return fault.New(fault.Conflict, "nobody has enough for %s now; leave them out, or call them off", stops.Plural(int64(len(v.Unserved)), "line", "lines"))
		}
		for _, words := range d.short(&mine) {
			return fault.New(fault.Conflict, "%s; choose another supplier for one of them", words)
		}
		if len(v.Losses) > 0 && !in.Yes {
			return fault.New(fault.Held, "%s would be bought at a loss; say yes to it, or leave them out", stops.Plural(int64(len(v.Losses)), "line", "lines"))
		}
		now, cost := st.Now(), shares(d, &mine)
		var sold []int64
		for _, b := range mine.Suppliers {
			row := store.Buying{SupplierID: d.suppliers[b.Supplier], Ref: "", Currency: string(d.currency), Goods: b.Goods, Delivery: b.Delivery, ToppedUp: b.ToppedUp,
				Actor: actor.Of(ctx), MadeAt: now}
			if row.Ref, err = tx.NextBuying(); err != nil {
				return err
			}
			if err := tx.Create(&row); err != nil {
				return err
			}
			made = append(made, row.ID)
			var lines []store.BuyingLine
			for _, c := range mine.Choices {
				o := d.purchase.Lines[c.Line].Options[c.Option]
				if o.Supplier != b.Supplier {
					continue
				}
				l := &d.rows[c.Line]
				w := d.ways[c.Line][slices.Index(d.optionOf[c.Line], c.Option)]
				lines = append(lines, store.BuyingLine{PurchaseID: row.ID, OrderLineID: l.ID, SupplierProductID: w.SupplierProductID, Items: c.Items, Goods: c.Goods})
				if l.SupplierProductID != nil {
					sold = append(sold, *l.SupplierProductID)
				}
				sold = append(sold, w.SupplierProductID)
				columns := map[string]any{"state": store.LineBought, "bought_at": &now, "supplier_product_id": w.SupplierProductID, "units_bought": max(w.UnitsBought, 1),
					"promised": true}
				if v, ok := d.change(cost[c.Line], string(d.currency), l.Currency); ok { // else it isn't known in what it was sold in
					columns["cost"] = v
				}
				if err := tx.SetOrderLines([]int64{l.ID}, columns); err != nil {
					return err
				}
			}
			if err := stops.First(tx.PutBuyingLines(lines), tx.Note(now, "bought", row.Ref, d.names[b.Supplier])); err != nil {
				return err
			}
		}
		tx.Changed("orders", "counts", "listings")
		return tx.DirtySold(now, sold)
	})
	return made, err
}

// Arrived says that a purchase has arrived.
func (st *Stop) Arrived(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		b, err := store.GetTx[store.Buying](tx, id)
		if err != nil {
			return err
		}
		now := st.Now()
		tx.Changed("orders")
		return stops.First(tx.Update(&b, map[string]any{"arrived_at": &now}), tx.Note(now, "purchase arrived", b.Ref, ""))
	})
}

// buyingColumns are the columns of a supplier's order.
var buyingColumns = blank.Columns{{Header: "our reference", From: "ours"}, {Header: "your reference", From: "ref"}, {Header: "title", From: "title"},
	{Header: "items", From: "items", As: "number"}, {Header: "order", From: "order"}, {Header: "name", From: "name"}, {Header: "address", From: "address"}}

// SupplierOrder is what a supplier is given of a purchase, as a file: csv or xlsx,
// with whom each goes to. None of its cells is a formula.
func (st *Stop) SupplierOrder(ctx context.Context, id int64, kind string) (string, []byte, error) {
	b, err := store.Get[store.Buying](ctx, st.Store, id)
	if err != nil {
		return "", nil, err
	}
	list, err := st.Store.BoughtRows(ctx, id)
	if err != nil {
		return "", nil, err
	}
	var rows blank.List
	for _, r := range list {
		var buyer place.Buyer
		if r.Buyer != "" {
			if err := json.Unmarshal([]byte(r.Buyer), &buyer); err != nil {
				return "", nil, fmt.Errorf("who bought %s: %w", r.OrderRef, err)
			}
		}
		rows = append(rows, blank.Row{"ours": b.Ref, "ref": r.Ref, "title": r.Title, "items": json.Number(strconv.FormatInt(r.Items, 10)), "order": r.OrderRef,
			"name": buyer.Name, "address": strings.Join(append(slices.Clone(buyer.Address), buyer.Country), ", ")})
	}
	raw, err := stops.Table(kind, buyingColumns, rows)
	return fmt.Sprintf("%s.%s", b.Ref, kind), raw, err
}

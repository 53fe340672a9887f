package house_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/stops/orders"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/today"
	"easymargin/internal/store"
)

// sold has somebody buy of what is on an entry of GB, and reads the orders of GB.
func (s *stall) buy(site, sku string, quantity int64) string {
	ref, err := s.market.Buy(site, sku, quantity)
	require.NoError(s.t, err)
	return ref
}

func (s *stall) readOrders() {
	sites, err := s.Store.Sites(s.t.Context())
	require.NoError(s.t, err)
	for _, x := range sites {
		if x.Lists {
			require.NoError(s.t, s.Orders.Read(s.t.Context(), x.ID))
		}
	}
	s.idle()
}

func (s *stall) lines(part string) []store.OrderLineRow {
	l, err := s.Store.OrderLineRows(s.t.Context(), part, nil, store.Page{Limit: 100})
	require.NoError(s.t, err)
	return l.Rows
}

func lineIDs(rows []store.OrderLineRow) []int64 {
	var out []int64
	for _, r := range rows {
		out = append(out, r.ID)
	}
	return out
}

// best is the split that the screen shows, as it is bought.
func (s *stall) best(ids []int64) orders.Wanted {
	v, err := s.Orders.Split(s.t.Context(), orders.Wanted{Lines: ids})
	require.NoError(s.t, err)
	w := orders.Wanted{Lines: ids, Choice: map[int64]int64{}}
	for _, l := range v.Lines {
		for _, x := range l.Ways {
			if x.Chosen {
				w.Choice[l.ID] = x.Product
			}
		}
	}
	return w
}

// onTwoSites lists everything on both sites of Quaymarket.
func onTwoSites(t *testing.T, products int, stock int64) (*stall, map[string]store.ListingRow, map[string]store.ListingRow) {
	s := newStall(t, products)
	s.twoSites()
	s.deliver(always(400), always(stock))
	s.sendAll()
	return s, s.onSite("Quaymarket GB"), s.onSite("Quaymarket IE")
}

// thereOn is how many of a listing are on sale on a site.
func (s *stall) thereOn(site, sku string) int64 {
	return s.market.Offered(site, sku)
}

// The same last unit is sold on two sites within a second: it is promised once, all
// other offers of it go to nothing by the usual rules, and a person is told that
// there isn't enough for both.
func TestTheSameLastUnitIsSoldTwice(t *testing.T) {
	s, gb, ie := onTwoSites(t, 1, 2) // two there, one kept back: one is offered
	e := s.entries[0].Ref
	require.Equal(t, [2]int64{1, 1}, [2]int64{s.thereOn("GB", gb[e].SKU), s.thereOn("IE", ie[e].SKU)})
	first := s.buy("GB", gb[e].SKU, 1)
	s.buy("IE", ie[e].SKU, 1)
	s.readOrders()
	s.readOrders()
	rows := s.lines("buy")
	require.Len(t, rows, 2, "an order read twice is one order")
	for _, l := range s.all() {
		assert.Zero(t, l.Quantity, "%s is offered no more", l.SKU)
	}
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(rows)})
	require.NoError(t, err)
	assert.Empty(t, v.Unserved, "the one that was kept back serves the second buyer")
	s.deliver(always(400), always(1)) // and now somebody else bought one there
	v, err = s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(rows)})
	require.NoError(t, err)
	assert.NotEmpty(t, v.Unserved)
	_, err = s.Orders.Buy(t.Context(), s.best(lineIDs(rows)))
	assert.Error(t, err)

	// One of them can't be had: it is called off, and its place is told.
	require.NoError(t, s.Orders.Cancel(t.Context(), lineIDs(rows)[1:]))
	s.idle()
	assert.Equal(t, "cancelled", s.market.Ordered("IE", "IE-00001").Lines[0].State)
	_, err = s.Orders.Buy(t.Context(), s.best(lineIDs(s.lines("buy"))))
	require.NoError(t, err)
	assert.Empty(t, s.market.Ordered("GB", first).Lines[0].State, "bought isn't sent")
}

// Units that were sold are promised until a feed newer than their purchase: the
// same stock is never offered twice, and what is called off is offered again.
func TestWhatIsSoldIsPromised(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(6))
	s.sendAll()
	sku := ""
	for _, l := range s.all() {
		if l.EntryRef == s.entries[0].Ref {
			sku = l.SKU
		}
	}
	quantity := func() int64 {
		for _, l := range s.all() {
			if l.SKU == sku {
				return l.Quantity
			}
		}
		return -1
	}
	require.Equal(t, int64(5), quantity(), "one is kept back")
	ref := s.buy("GB", sku, 2)
	s.readOrders()
	assert.Equal(t, int64(3), quantity())
	s.later(time.Hour)
	s.deliver(always(400), always(6)) // a feed that knows nothing of it yet
	assert.Equal(t, int64(3), quantity(), "it wasn't bought: no feed takes the promise back")

	s.market.CallOff("GB", ref)
	s.readOrders()
	assert.Equal(t, int64(5), quantity(), "called off, it is offered again")
	assert.Empty(t, s.lines("buy"))

	s.buy("GB", sku, 1)
	s.readOrders()
	_, err := s.Orders.Buy(t.Context(), s.best(lineIDs(s.lines("buy"))))
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(4), quantity(), "bought, and in no feed yet")
	s.later(15 * time.Minute)
	s.deliver(always(400), always(5)) // it is missing from this one
	s.later(15 * time.Minute)
	assert.Equal(t, int64(4), quantity(), "and so it isn't taken off twice")
	sound(t, s.Store)
}

// From sold to sent: what was expected is kept as it was, the purchase has our
// reference and its file whom it goes to, and the place is told carrier and number.
func TestAnOrderIsBoughtAndSent(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	listing := s.all()[0]
	ref := s.buy("GB", listing.SKU, 2)
	s.readOrders()
	rows := s.lines("buy")
	require.Len(t, rows, 1)
	require.NotNil(t, rows[0].ExpectedProfit)
	waits := s.today()["buy"]
	assert.Equal(t, [2]any{2 * rows[0].Price, "GBP"}, [2]any{waits.Stake, waits.Currency}, "what was paid for it is at stake")
	assert.Equal(t, 2**listing.Profit, *rows[0].ExpectedProfit)
	v, err := s.Orders.One(t.Context(), rows[0].OrderID)
	require.NoError(t, err)
	require.NotNil(t, v.Buyer)
	sum := [2]int64{}
	for _, b := range v.Lines[0].Beside {
		sum[0], sum[1] = sum[0]+b.Expected, sum[1]+b.Real
	}
	assert.Equal(t, [2]int64{*rows[0].ExpectedProfit, *rows[0].ExpectedProfit}, sum, "its lines add up")

	w := s.best(lineIDs(rows))
	_, err = s.Orders.Buy(t.Context(), orders.Wanted{Lines: w.Lines})
	assert.ErrorContains(t, err, "from whom", "nothing is bought that nobody saw")
	made, err := s.Orders.Buy(t.Context(), w)
	require.NoError(t, err)
	require.Len(t, made, 1)
	_, err = s.Orders.Buy(t.Context(), w)
	assert.Equal(t, fault.Conflict, fault.KindOf(err), "nothing is bought twice")
	assert.False(t, s.lines("send")[0].Arrived)
	require.NoError(t, s.Orders.Arrived(t.Context(), made[0]))
	assert.True(t, s.lines("send")[0].Arrived, "it can go out now")
	name, raw, err := s.Orders.SupplierOrder(t.Context(), made[0], "csv")
	require.NoError(t, err)
	assert.Equal(t, "P-00001.csv", name)
	file, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, file, 2)
	assert.Equal(t, [2]string{"P-00001", "2"}, [2]string{file[1][0], file[1][3]})
	assert.True(t, strings.HasPrefix(file[1][1], "R00"), "their own reference")
	assert.Equal(t, v.Buyer.Name, file[1][5])

	assert.ErrorContains(t, s.Orders.Sent(t.Context(), lineIDs(rows), "Harbour Post", " "), "tracking number")
	down := true
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if down && strings.HasSuffix(r.URL.Path, "/answers") {
			w.WriteHeader(http.StatusServiceUnavailable)
			return
		}
		next.ServeHTTP(w, r)
	})
	require.NoError(t, s.Orders.Sent(t.Context(), lineIDs(rows), "Harbour Post", "HP-1"))
	s.settled()
	assert.Empty(t, s.market.Ordered("GB", ref).Lines[0].Tracking)
	down = false
	s.later(15 * time.Minute)
	got := s.market.Ordered("GB", ref).Lines[0]
	assert.Equal(t, [3]string{"sent", "Harbour Post", "HP-1"}, [3]string{got.State, got.Carrier, got.Tracking}, "told as soon as it can be")

	// It cost more than was expected, and comes back in the end.
	require.NoError(t, s.Orders.Real(t.Context(), rows[0].ID, "9.50", "", ""))
	s.market.CallOff("GB", ref)
	s.readOrders()
	problems := s.lines("problems")
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0].Problem, "sent back")
	one, err := s.Orders.One(t.Context(), rows[0].OrderID)
	require.NoError(t, err)
	real := int64(0)
	for _, b := range one.Lines[0].Beside {
		real += b.Real
	}
	assert.Equal(t, real, *one.Lines[0].Real)
	gross := rows[0].Quantity * rows[0].Price
	assert.Equal(t, gross, one.Lines[0].Refunded)
	assert.Equal(t, *rows[0].ExpectedProfit+*rows[0].ExpectedCost-950-gross+(gross+3)/6, real,
		"each difference is a line; of what was given back no tax is owed, a sixth of it")
	assert.Equal(t, int64(0), s.earned(t).Tax)
	require.NoError(t, s.Orders.Settle(t.Context(), lineIDs(problems)))
	assert.Empty(t, s.lines("problems"))
	sound(t, s.Store)
}

// earned is what all that was sold in the last thirty days earned.
func (s *stall) earned(t *testing.T) orders.EarnedRow {
	e, err := s.Orders.Earned(t.Context(), orders.Asked{By: "product"})
	require.NoError(t, err)
	require.Len(t, e.Totals, 1)
	return e.Totals[0]
}

// What is called off after it was bought is no sale: what its goods cost is lost, and
// nothing else. What a part is given back of keeps its share of the tax; Earned and the
// books say the same.
func TestWhatWasCalledOffOrGivenBackInMoney(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	off, kept := s.all()[0], s.all()[1]
	s.buy("GB", off.SKU, 1)
	s.buy("GB", kept.SKU, 2)
	s.readOrders()
	rows := s.lines("buy")
	require.Len(t, rows, 2)
	_, err := s.Orders.Buy(t.Context(), s.best(lineIDs(rows)))
	require.NoError(t, err)
	of := func(sku string) store.OrderLineRow {
		for _, l := range s.lines("all") {
			if l.SKU == sku {
				return l
			}
		}
		t.Fatal(sku)
		return store.OrderLineRow{}
	}
	require.NoError(t, s.Orders.Cancel(t.Context(), []int64{of(off.SKU).ID}))
	s.idle()
	s.readOrders() // its place says that it gave the money back
	require.Positive(t, of(off.SKU).Refunded)
	cost := *of(off.SKU).Cost
	v, err := s.Orders.One(t.Context(), of(off.SKU).OrderID)
	require.NoError(t, err)
	assert.Equal(t, -cost, *v.Lines[0].Real, "what was bought is all that is lost")
	for _, b := range v.Lines[0].Beside {
		assert.True(t, b.Real == 0 || b.Real == -cost, "%s %d", b.Name, b.Real)
	}
	lost, err := s.Orders.Losses(t.Context(), orders.Asked{})
	require.NoError(t, err)
	require.Len(t, lost, 1)
	assert.Equal(t, "it was called off after it was bought", lost[0].Why)

	before := *of(kept.SKU).ExpectedProfit
	gross := 2 * of(kept.SKU).Price
	require.NoError(t, s.Orders.Refund(t.Context(), of(kept.SKU).ID, orders.Refund{Amount: "1.00"}))
	v, err = s.Orders.One(t.Context(), of(kept.SKU).OrderID)
	require.NoError(t, err)
	more := *of(kept.SKU).Cost - *of(kept.SKU).ExpectedCost
	sixth := func(v int64) int64 { return (v + 3) / 6 } // the tax in it, to the nearest penny
	assert.Equal(t, before-more-100+sixth(gross)-sixth(gross-100), *v.Lines[0].Real, "a pound less, of which some was tax")
	b, err := s.Orders.Book(t.Context(), s.Now().Format("2006-01"))
	require.NoError(t, err)
	require.Len(t, b.Totals, 1)
	e := s.earned(t)
	assert.Equal(t, [2]int64{2, 2}, [2]int64{e.Lines, e.Units}, "what was called off wasn't sold")
	assert.Equal(t, [2]int64{gross - 100, -e.Tax}, [2]int64{b.Totals[0].Gross, b.Totals[0].Tax})
	assert.Equal(t, b.Totals[0].Gross, e.Sales+e.Refunds, "what buyers paid, less what they got back")
	assert.Equal(t, *v.Lines[0].Real-cost, e.Left)
	sound(t, s.Store)
}

// An order for something we don't know is kept and shown, never dropped; so is one
// that is typed in, once.
func TestOrdersThatAreStrangeOrTyped(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.front.said(http.MethodGet, "/orders", func(answer map[string]any) {
		if list := answer["orders"].([]any); len(list) > 0 {
			list[0].(map[string]any)["lines"].([]any)[0].(map[string]any)["sku"] = "NOBODY-7"
		}
	})
	s.buy("GB", s.all()[0].SKU, 1)
	s.readOrders()
	rows := s.lines("problems")
	require.Len(t, rows, 1)
	assert.Contains(t, rows[0].Problem, "NOBODY-7")
	assert.Nil(t, rows[0].ListingID)

	typed := orders.TypedOrder{SiteID: s.site.ID, Ref: "BY-PHONE-1", Buyer: place.Buyer{Name: "Ada Quill", Country: "GB"},
		Lines: []orders.TypedLine{{SKU: s.all()[0].SKU, Quantity: 2, Price: "12.5"}}}
	_, err := s.Orders.Type(t.Context(), typed)
	require.NoError(t, err)
	s.idle()
	assert.Equal(t, int64(6), s.all()[0].Quantity, "promised like any other")
	_, err = s.Orders.Type(t.Context(), typed)
	assert.ErrorContains(t, err, "here already")
	typed.Ref, typed.Lines[0].Price = "BY-PHONE-2", "a tenner"
	_, err = s.Orders.Type(t.Context(), typed)
	var e *fault.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, "lines[0].price", e.Field)
	sound(t, s.Store)
}

// What would lose money wants a yes; a buyer is forgotten once it is long over.
func TestALossWantsAYes(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.buy("GB", s.all()[0].SKU, 1)
	s.readOrders()
	s.deliver(always(4000), always(9))
	rows := s.lines("buy")
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(rows)})
	require.NoError(t, err)
	assert.Equal(t, lineIDs(rows), v.Losses)
	assert.Contains(t, v.Lines[0].Words, "at a loss")
	w := s.best(lineIDs(rows))
	_, err = s.Orders.Buy(t.Context(), w)
	assert.Equal(t, fault.Held, fault.KindOf(err))
	assert.Len(t, s.lines("buy"), 1, "nothing was bought")
	w.Yes = true
	_, err = s.Orders.Buy(t.Context(), w)
	require.NoError(t, err)
	require.NoError(t, s.Orders.Sent(t.Context(), lineIDs(rows), "Harbour Post", "HP-2"))
	s.idle()
	s.clock.Forward(91 * 24 * time.Hour)
	require.NoError(t, s.Round(t.Context()))
	s.idle()
	one, err := s.Orders.One(t.Context(), rows[0].OrderID)
	require.NoError(t, err)
	assert.Nil(t, one.Buyer)
	assert.Equal(t, store.LineDone, one.Lines[0].State)
	sound(t, s.Store)
}

// Lines sold in several currencies are bought together: each is compared with what
// was expected of it, and keeps what it cost, in the money it was sold in.
func TestWhatWasSoldInSeveralCurrenciesIsBoughtTogether(t *testing.T) {
	s, gb, ie := onTwoSites(t, 1, 20)
	require.NoError(t, s.Prices.SetRate(t.Context(), "GBP", "EUR", "1.25"))
	s.idle() // and none the other way: that is its reciprocal
	e := s.entries[0].Ref
	s.buy("GB", gb[e].SKU, 1)
	s.buy("IE", ie[e].SKU, 1)
	s.readOrders()
	rows := s.lines("buy")
	require.Len(t, rows, 2)
	assert.Equal(t, [2]int64{400, 500}, [2]int64{*rows[0].ExpectedCost, *rows[1].ExpectedCost}, "each in the money it was sold in")
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(rows)})
	require.NoError(t, err)
	assert.Equal(t, "GBP", v.Currency)
	for _, l := range v.Lines {
		assert.Equal(t, int64(400), *l.Expected)
		assert.Empty(t, l.Words, "no dearer than expected")
	}
	_, err = s.Orders.Buy(t.Context(), s.best(lineIDs(rows)))
	require.NoError(t, err)
	rows = s.lines("send")
	assert.Equal(t, [2]int64{400, 500}, [2]int64{*rows[0].Cost, *rows[1].Cost})
}

// A place without a gateway tells by its order report: read twice it is the same
// orders, and a row that can't be read takes nothing.
func TestAnOrderReportIsTaken(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	all := s.all()
	take := func(text string) (int, error) {
		look, err := s.Orders.LookReport(t.Context(), s.site.ID, "orders.csv", []byte(text))
		require.NoError(t, err)
		require.Empty(t, look.Missing)
		choice := orders.OrderReportChoice{Token: look.Token, Columns: map[string]string{}}
		for _, c := range look.Columns {
			choice.Columns[c.Name] = c.As
		}
		n, err := s.Orders.TakeReport(t.Context(), s.site.ID, choice)
		s.idle()
		return n, err
	}
	head := "Order number,Order date,SKU,Qty,Unit price,Postage,Status,Buyer name,Country\n"
	report := head + "F-1,2026-03-02," + all[0].SKU + ",2,£10.50,1.00,paid,Ada Quill,gb\nF-1,2026-03-02," + all[1].SKU + ",1,\"9,90\",,paid,Ada Quill,gb\nF-2,2026-03-02," +
		all[0].SKU + ",1,10.50,,Cancelled by buyer,Bo Marsh,gb\n"
	n, err := take(report)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	rows := s.lines("buy")
	require.Len(t, rows, 2, "what was called off needn't be bought")
	by := map[string]store.OrderLineRow{}
	for _, r := range rows {
		by[r.SKU] = r
	}
	assert.Equal(t, [4]int64{2, 1050, 100, 990}, [4]int64{by[all[0].SKU].Quantity, by[all[0].SKU].Price, by[all[0].SKU].Delivery, by[all[1].SKU].Price})
	assert.Equal(t, "GB", by[all[0].SKU].Country)
	_, err = take(report)
	require.NoError(t, err)
	assert.Len(t, s.lines("all"), 3, "read twice, it is the same orders")

	for _, row := range []string{"F-3,2026-03-02,X,0,1.00,,,,", "F-3,2026-03-02,X,1,\"1,000\",,,,", "F-3,03/02/2026,X,1,1.00,,,,", ",2026-03-02,X,1,1.00,,,,"} {
		_, err = take(head + "F-9,2026-03-02," + all[0].SKU + ",1,1.00,,,,\n" + row + "\n")
		assert.ErrorContains(t, err, "row 3", row)
	}
	assert.Len(t, s.lines("all"), 3, "nothing of a report is taken that has such a row")
	look, err := s.Orders.LookReport(t.Context(), s.site.ID, "orders.csv", []byte("Ref,Amount\n1,2\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"order", "sku", "quantity", "price"}, look.Missing)
	sound(t, s.Store)
}

// What was earned adds up by whatever it is counted, to the penny, and says what is
// known and what was only expected.
func TestWhatWasEarnedAddsUp(t *testing.T) {
	s, gb, ie := onTwoSites(t, 3, 20)
	s.market.Charges = map[string]int64{"IE": 350}
	for i, e := range s.entries {
		s.buy("GB", gb[e.Ref].SKU, int64(i+1))
		s.buy("IE", ie[e.Ref].SKU, 1)
	}
	off := s.buy("GB", gb[s.entries[0].Ref].SKU, 1)
	s.market.CallOff("GB", off)
	s.readOrders()
	rows := s.lines("buy")
	require.Len(t, rows, 6)
	require.NoError(t, s.Orders.Real(t.Context(), rows[0].ID, "9.99", "1.01", ""))
	require.NoError(t, s.Orders.Sent(t.Context(), lineIDs(rows[:1]), "Harbour Post", "HP-3"))
	require.NoError(t, s.Orders.Refund(t.Context(), rows[0].ID, orders.Refund{Amount: "2.50"}))
	s.idle()
	want := map[string]int64{} // by currency
	for _, r := range s.lines("all") {
		one, err := s.Orders.One(t.Context(), r.OrderID)
		require.NoError(t, err)
		for _, b := range one.Lines[0].Beside {
			want[r.Currency] += b.Real
		}
	}
	for _, by := range []string{"day", "month", "site", "supplier", "category", "product"} {
		got, err := s.Orders.Earned(t.Context(), orders.Asked{By: by})
		require.NoError(t, err)
		left, units := map[string]int64{}, int64(0)
		for _, r := range got.Rows {
			left[r.Currency], units = left[r.Currency]+r.Left, units+r.Units
			assert.Equal(t, r.Left, r.Sales+r.Tax+r.Fees+r.Cost+r.Sending+r.Other+r.Refunds, "%s %s adds up", by, r.Name)
			assert.Zero(t, r.Unknown)
		}
		assert.Equal(t, want, left, by)
		assert.Equal(t, int64(9), units, "what was called off before it was bought counts for nothing")
		for _, r := range got.Totals {
			assert.Equal(t, want[r.Currency], r.Left)
			assert.Equal(t, map[string]int64{"GBP": -250, "EUR": 0}[r.Currency], r.Refunds)
		}
	}
	got, err := s.Orders.Earned(t.Context(), orders.Asked{By: "site", Site: s.site.ID})
	require.NoError(t, err)
	require.Len(t, got.Rows, 1)
	assert.Equal(t, "Quaymarket GB", got.Rows[0].Name)
	for field, ask := range map[string]orders.Asked{"from": {From: "3 March"}, "to": {To: "2026-13-01"}, "by": {By: "hour"}} {
		_, err := s.Orders.Earned(t.Context(), ask)
		var e *fault.Error
		if assert.ErrorAs(t, err, &e) {
			assert.Equal(t, field, e.Field)
		}
	}
	_, err = s.Orders.Earned(t.Context(), orders.Asked{From: "2026-03-05", To: "2026-03-04"})
	assert.ErrorContains(t, err, "after the last")
}

// However sales, feeds, purchases and cancellations come, no site ever offers more than
// its supplier has and hasn't promised, and what the place has on sale never grows
// past it.
func TestPromisesHoldHoweverThingsCome(t *testing.T) {
	for seed := range uint64(3) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) { promising(t, seed) })
	}
}

func promising(t *testing.T, seed uint64) {
	s, gb, ie := onTwoSites(t, 2, 12)
	s.weigh()
	r := rand.New(rand.NewPCG(seed, 14))
	stock := []int64{12, 12}
	for range 14 {
		switch r.IntN(6) {
		case 0, 1: // somebody buys, on either site
			i := r.IntN(2)
			site, sku := "GB", gb[s.entries[i].Ref].SKU
			if r.IntN(2) == 0 {
				site, sku = "IE", ie[s.entries[i].Ref].SKU
			}
			if n := s.thereOn(site, sku); n > 0 {
				s.buy(site, sku, 1+r.Int64N(n))
			}
			s.readOrders()
		case 2: // something is called off, or bought
			rows := s.lines("buy")
			if len(rows) == 0 {
				continue
			}
			one := rows[r.IntN(len(rows)):][:1]
			if r.IntN(2) == 0 {
				require.NoError(t, s.Orders.Cancel(t.Context(), lineIDs(one)))
			} else if w := s.best(lineIDs(one)); len(w.Choice) == 1 {
				_, err := s.Orders.Buy(t.Context(), w)
				require.NoError(t, err)
			}
			s.idle()
		case 3: // a feed, in which what was bought before it is missing
			s.later(15 * time.Minute)
			for i := range stock {
				stock[i] = r.Int64N(14)
			}
			s.deliver(always(400), func(i int) int64 { return stock[i] })
			s.later(15 * time.Minute)
		case 5: // some of it is given back
			if rows := s.lines("send"); len(rows) > 0 {
				l := rows[r.IntN(len(rows))]
				require.NoError(t, s.Orders.Refund(t.Context(), l.ID, orders.Refund{Amount: unitText(1 + r.Int64N(l.Price))}))
				s.idle()
			}
		case 4:
			plans, err := s.Store.OpenPlans(t.Context())
			require.NoError(t, err)
			for _, p := range plans {
				s.letPlanGo(p.SiteID)
			}
		}
		promised := []int64{0, 0}
		for _, l := range s.lines("all") {
			if l.Promised {
				for i, e := range s.entries {
					if l.SKU == gb[e.Ref].SKU || l.SKU == ie[e.Ref].SKU {
						promised[i] += l.Quantity
					}
				}
			}
		}
		for _, l := range s.all() {
			i := s.number(l.EntryRef)
			assert.LessOrEqual(t, l.Quantity, max(stock[i]-promised[i], 0), "%s on %s", l.SKU, l.Site)
		}
	}
	for _, l := range s.lines("all") { // what is promised is what was sold and isn't in a feed yet
		over := l.State == store.LineCancelled && l.BoughtAt == nil
		assert.False(t, over && l.Promised, "called off, and promised still")
		assert.False(t, l.State == store.LineNew && !l.Promised, "sold, and not promised")
	}
	s.saysWhatWasSold(gb)
	sound(t, s.Store)
}

// saysWhatWasSold compares what different screens say of one month's sales with its
// lines, one by one: Weigh, Earned and the books.
func (s *stall) saysWhatWasSold(gb map[string]store.ListingRow) {
	t, ctx := s.t, s.t.Context()
	units, left, paid := map[string]int64{}, map[string]int64{}, map[string]int64{}
	for _, l := range s.lines("all") {
		if l.State != store.LineCancelled {
			units[l.Site+l.SKU] += l.Quantity
			paid[l.Currency] += l.Price*l.Quantity + l.Delivery - l.Refunded
		}
		v, err := s.Orders.One(ctx, l.OrderID)
		require.NoError(t, err)
		for _, b := range v.Lines[0].Beside {
			left[l.Currency] += b.Real
		}
	}
	for _, row := range s.sifted("", "id", false) {
		assert.Equal(t, units[s.site.Name+gb[row.EntryRef].SKU], row.UnitsSold, "%s on Weigh", row.EntryRef)
	}
	book, err := s.Orders.Book(ctx, s.Now().Format("2006-01"))
	require.NoError(t, err)
	booked := map[string]orders.BookRow{}
	for _, b := range book.Totals {
		booked[b.Currency] = b
		assert.Equal(t, paid[b.Currency], b.Gross, "what buyers paid in %s and didn't get back", b.Currency)
	}
	e, err := s.Orders.Earned(ctx, orders.Asked{By: "site"})
	require.NoError(t, err)
	for _, row := range e.Totals {
		assert.Equal(t, left[row.Currency], row.Left, "left in %s", row.Currency)
		assert.Equal(t, booked[row.Currency].Gross, row.Sales+row.Refunds)
		assert.Equal(t, booked[row.Currency].Tax, -row.Tax, "the tax in %s", row.Currency)
	}
}

// A supplier's least purchase is topped up to, and its order is mailed once, each
// line on a line of its own whatever is written in it.
func TestASuppliersOrderIsMailed(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(9))
	s.sendAll()
	s.buy("GB", s.all()[0].SKU, 1)
	s.readOrders()
	set, err := s.Sources.Settings(t.Context(), s.source.ID)
	require.NoError(t, err)
	set.Least, set.OrdersTo, set.Charge = "10.00", "orders at fernhollow", "2.00"
	assert.ErrorContains(t, s.Sources.SetSettings(asOwner(t), s.source.ID, stops.IfMatch{}, set), "no mail address")
	set.OrdersTo = "orders@fernhollow.example"
	sender := actor.Enter(t.Context(), actor.Who{Name: "Tern", Role: "send", May: actor.Look | actor.Prepare | actor.Send})
	assert.Equal(t, fault.Forbidden, fault.KindOf(s.Sources.SetSettings(sender, s.source.ID, stops.IfMatch{}, set)), "buyers' addresses go there")
	require.NoError(t, s.Sources.SetSettings(asOwner(t), s.source.ID, stops.IfMatch{}, set))
	set.OrdersTo, set.Charge = "me@elsewhere.example", "2.00"
	assert.ErrorContains(t, s.Sources.SetSettings(sender, s.source.ID, stops.IfMatch{}, set), "only the owner")
	set.OrdersTo = "orders@fernhollow.example"
	require.NoError(t, s.Sources.SetSettings(sender, s.source.ID, stops.IfMatch{}, set), "the rest is theirs to set")
	_, err = s.Sources.Make(sender, sources.NewSource{Supplier: "Fernhollow", Name: "Another list", Currency: "GBP", Tax: "without", Charge: "2.00"})
	require.NoError(t, err)
	s.idle()
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(s.lines("buy"))})
	require.NoError(t, err)
	assert.Equal(t, [3]int64{400, 200, 600}, [3]int64{v.Suppliers[0].Goods, v.Suppliers[0].Delivery, v.Suppliers[0].ToppedUp})
	w := s.best(lineIDs(s.lines("buy")))
	w.Yes = true
	made, err := s.Orders.Buy(t.Context(), w)
	require.NoError(t, err)
	assert.ErrorContains(t, s.Orders.MailOrder(t.Context(), made[0]), "no mail server")
	box := s.mailbox()
	require.NoError(t, s.Orders.MailOrder(t.Context(), made[0]))
	s.idle()
	assert.ErrorContains(t, s.Orders.MailOrder(t.Context(), made[0]), "mailed already")
	letters := box.Letters()
	require.Len(t, letters, 1)
	assert.Equal(t, [2]string{"orders@fernhollow.example", "Order P-00001"}, [2]string{letters[0].To, letters[0].Subject})
	assert.Contains(t, letters[0].Body, "1 × R000")
	assert.Contains(t, letters[0].Body, "for order GB-00001: ")
	sound(t, s.Store)
}

// A letter that is refused ends and is shown where it was asked for; those behind it go.
// One that isn't taken for now goes once it is, and holds up nothing either.
func TestARefusedLetterHoldsUpNoOther(t *testing.T) {
	s := newStall(t, 3)
	s.deliver(always(400), always(9))
	s.sendAll()
	box := s.mailbox()
	set, err := s.Sources.Settings(t.Context(), s.source.ID)
	require.NoError(t, err)
	addresses := []string{"nobody@fernhollow.example", "later@fernhollow.example", "orders@fernhollow.example"}
	box.Refuse(addresses[0], 550)
	box.Refuse(addresses[1], 450)
	var made []int64
	for i, address := range addresses {
		s.buy("GB", s.all()[i].SKU, 1)
		s.readOrders()
		w := s.best(lineIDs(s.lines("buy")))
		w.Yes = true
		ids, err := s.Orders.Buy(t.Context(), w)
		require.NoError(t, err)
		made = append(made, ids...)
		set.OrdersTo = address
		require.NoError(t, s.Sources.SetSettings(asOwner(t), s.source.ID, stops.IfMatch{}, set))
		require.NoError(t, s.Orders.MailOrder(t.Context(), ids[0]))
	}
	s.idle()
	letters := func() (to []string) {
		for _, l := range box.Letters() {
			to = append(to, l.To)
		}
		return to
	}
	assert.Equal(t, []string{addresses[2]}, letters())
	state := func(i int) orders.BuyingView {
		l, err := s.Store.Buyings(t.Context(), store.Page{Limit: 9})
		require.NoError(t, err)
		for _, r := range l.Rows {
			if r.ID == made[i] {
				return orders.Shown(r)
			}
		}
		require.Fail(t, "no such purchase")
		return orders.BuyingView{}
	}
	assert.Equal(t, []string{"refused", "waiting", "sent"}, []string{state(0).Mail, state(1).Mail, state(2).Mail})
	assert.Contains(t, state(0).MailWhy, "nobody here is called "+addresses[0])
	assert.Nil(t, state(0).Mailed, "it doesn't read as mailed")
	items, err := s.Today.Today(t.Context())
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(items, func(x today.TodayItem) bool { return x.Words == "1 mail was refused" }), "%+v", items)

	box.Refuse(addresses[1], 0)
	s.later(2 * time.Minute)
	s.Queue.Wake()
	s.idle()
	assert.ErrorContains(t, s.Orders.MailOrder(t.Context(), made[1]), "mailed already")
	set.OrdersTo = addresses[2]
	require.NoError(t, s.Sources.SetSettings(asOwner(t), s.source.ID, stops.IfMatch{}, set))
	require.NoError(t, s.Orders.MailOrder(t.Context(), made[0]), "once its address is mended")
	s.idle()
	assert.Equal(t, "sent", state(0).Mail)
	assert.NotContains(t, letters(), addresses[0])
}

// A month of the books is closed once and stays as it is; what changes of it later is
// a correction in the first month that is open, once.
func TestBooksThatAreClosedStayAsTheyAre(t *testing.T) {
	s, gb, ie := onTwoSites(t, 1, 20)
	e := s.entries[0].Ref
	s.buy("GB", gb[e].SKU, 2)
	s.buy("IE", ie[e].SKU, 1)
	s.readOrders()
	march, err := s.Orders.Book(t.Context(), "2026-03")
	require.NoError(t, err)
	require.Len(t, march.Rows, 2)
	for i, r := range march.Rows {
		assert.Equal(t, r.Gross, r.Net+r.Tax)
		assert.Positive(t, r.Tax, r)
		assert.Equal(t, r.Gross, march.Totals[i].Gross)
	}
	rows := s.lines("buy")
	sold := rows[0]
	assert.Equal(t, 2*sold.Price, march.Rows[1].Gross, "by currency: EUR, then GBP")
	assert.Equal(t, "20%", march.Rows[1].Rate)
	assert.ErrorContains(t, s.Orders.CloseBook(t.Context(), "2026-03"), "isn't over")
	assert.ErrorContains(t, s.Orders.CloseBook(t.Context(), "March"), "no month")

	_, err = s.Orders.Buy(t.Context(), s.best(lineIDs(rows)))
	require.NoError(t, err)
	s.clock.Forward(31 * 24 * time.Hour) // April
	assert.ErrorContains(t, s.Orders.CloseBook(t.Context(), "2026-02"), "nothing was sold in it")
	require.NoError(t, s.Orders.CloseBook(t.Context(), "2026-03"))
	assert.ErrorContains(t, s.Orders.CloseBook(t.Context(), "2026-03"), "closed already")
	require.NoError(t, s.Orders.Refund(t.Context(), sold.ID, orders.Refund{Amount: "3.00"}))
	again, err := s.Orders.Book(t.Context(), "2026-03")
	require.NoError(t, err)
	assert.NotNil(t, again.ClosedAt)
	assert.Equal(t, march.Rows, again.Rows, "what was closed stays as it is")
	april, err := s.Orders.Book(t.Context(), "2026-04")
	require.NoError(t, err)
	require.Len(t, april.Rows, 1)
	assert.Equal(t, [4]any{"2026-03", int64(0), int64(-300), int64(-300)}, [4]any{april.Rows[0].Of, april.Rows[0].Lines, april.Rows[0].Gross, april.Rows[0].Net + april.Rows[0].Tax})
	may, err := s.Orders.Book(t.Context(), "2026-05")
	require.NoError(t, err)
	assert.Empty(t, may.Rows, "a correction stands in one month alone")
	s.clock.Forward(61 * 24 * time.Hour) // June
	assert.ErrorContains(t, s.Orders.CloseBook(t.Context(), "2026-05"), "close 2026-04 first")
	require.NoError(t, s.Orders.CloseBook(t.Context(), "2026-04"))
	may, err = s.Orders.Book(t.Context(), "2026-05")
	require.NoError(t, err)
	assert.Empty(t, may.Rows, "and isn't corrected twice")
	name, raw, err := s.Orders.BookFile(t.Context(), "2026-04", "csv")
	require.NoError(t, err)
	assert.Equal(t, "books-2026-04.csv", name)
	assert.Contains(t, string(raw), "2026-04,2026-03,GB,20%,GBP,0,-3.00,-0.50,-2.50,,,0.00\r\n")
}

// An order that can't be as it is told is kept, with what is wrong, and none keeps those
// after it from being read.
func TestAnOrderThatCannotBeIsKept(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(30))
	s.sendAll()
	sku := s.all()[0].SKU
	s.front.said(http.MethodGet, "/orders", func(answer map[string]any) {
		list := answer["orders"].([]any)
		for i, x := range list {
			o := x.(map[string]any)
			l := o["lines"].([]any)[0].(map[string]any)
			switch i {
			case 0:
				l["quantity"], l["price"] = 0, -5
			case 1:
				o["ref"], o["currency"] = "", "shells"
			case 2:
				o["lines"] = []any{}
			case 3:
				o["lines"] = []any{l, l} // one name twice
			case 5:
				l["quantity"], l["price"] = json.Number("9223372036854775807"), json.Number("9223372036854775807")
			case 6:
				l["delivery"], l["tax"], l["fees"], l["refunded"] = json.Number("9223372036854775807"), json.Number("-9223372036854775807"), json.Number("9223372036854775807"), json.Number("9223372036854775807")
			case 7:
				l["quantity"], l["price"] = 1_000_000, 1_000_000_000_000 // each can be, both together can't
			case 8:
				l["price"] = json.Number("1e30") // no whole number of ours
			}
		}
	})
	for range 9 {
		s.buy("GB", sku, 1)
	}
	s.readOrders()
	s.readOrders()
	problems := s.lines("problems")
	require.Len(t, problems, 7)
	words := ""
	for _, p := range problems {
		words += p.Problem + "\n"
	}
	assert.Contains(t, words, "its quantity is 0, its price -5")
	assert.Contains(t, words, `its currency is "shells"`)
	assert.Contains(t, words, "it has no lines")
	assert.Contains(t, words, "its quantity is 9223372036854775807")
	assert.Contains(t, words, "its tax is -9223372036854775807; its fees are 9223372036854775807; 9223372036854775807 of it was given back")
	assert.Contains(t, words, "its price 1000000000000")
	assert.Contains(t, words, "1e30")
	for _, p := range problems {
		paid, ok := money.Times(p.Price, p.Quantity)
		assert.True(t, ok && money.Believed(paid+p.Delivery), "what is kept can be added up: %+v", p.OrderLine)
	}
	earned, err := s.Orders.Earned(t.Context(), orders.Asked{By: "day"})
	require.NoError(t, err)
	for _, r := range earned.Rows {
		assert.True(t, money.Believed(r.Sales), "%+v", r)
	}
	good := s.lines("buy")
	require.Len(t, good, 3, "the fourth has two lines, the fifth one")
	assert.Equal(t, "GB-00005", good[2].OrderRef)
	sound(t, s.Store)
}

// Two lines that could each be had from one supplier can't both be, where there is
// one left there: the purchase says so, and nothing is bought.
func TestLinesOfOneProductAreBoughtTogether(t *testing.T) {
	s, gb, ie := onTwoSites(t, 1, 20)
	e := s.entries[0].Ref
	s.buy("GB", gb[e].SKU, 1)
	s.buy("IE", ie[e].SKU, 1)
	s.readOrders()
	rows := s.lines("buy")
	s.clearance(1)
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(rows)})
	require.NoError(t, err)
	at := int64(0)
	for _, w := range v.Lines[0].Ways {
		if w.Supplier == "Tidewrack Clearance" {
			at = w.Product
		}
	}
	if at == 0 {
		t.Fatal("the second supplier is no way to have it")
	}
	both := orders.Wanted{Lines: lineIDs(rows), Choice: map[int64]int64{rows[0].ID: at, rows[1].ID: at}}
	_, err = s.Orders.Buy(t.Context(), both)
	assert.ErrorContains(t, err, "only 1 left at Tidewrack Clearance for these lines together")
	assert.Len(t, s.lines("buy"), 2, "nothing was bought")
	delete(both.Choice, rows[1].ID)
	for _, w := range v.Lines[1].Ways {
		if w.Supplier != "Tidewrack Clearance" {
			both.Choice[rows[1].ID] = w.Product
		}
	}
	_, err = s.Orders.Buy(t.Context(), both)
	require.NoError(t, err)
}

// clearance has a second supplier, cheaper by far, sell some of the first of the goods.
func (s *stall) clearance(stock int64) {
	other, err := s.Sources.Make(s.t.Context(), sources.NewSource{Supplier: "Tidewrack Clearance", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(s.t, err)
	e := s.entries[0]
	list := fmt.Sprintf("ref,title,brand,ean,cost,stock\nT1,%q,%s,%s,1.00,%d\n", e.Title, e.Brand, e.GTIN, stock)
	f, err := s.Sources.BringIn(s.t.Context(), strings.NewReader(list), sources.Arriving{Name: "t.csv", SourceID: &other.ID})
	require.NoError(s.t, err)
	s.take(f.ID, other.ID, true)
}

// Six are sold while the cheapest supplier has two: they are promised of the one that
// has six, since that is where they will be bought, and it isn't offered twice.
func TestWhatIsSoldIsPromisedWhereItCanBeHad(t *testing.T) {
	s, gb, _ := onTwoSites(t, 1, 12)
	s.clearance(2)
	e := s.entries[0].Ref
	s.buy("GB", gb[e].SKU, 6)
	s.readOrders()
	v, err := s.Orders.Split(t.Context(), orders.Wanted{Lines: lineIDs(s.lines("buy"))})
	require.NoError(t, err)
	for _, w := range v.Lines[0].Ways {
		assert.Equal(t, w.Chosen, w.Supplier == "Fernhollow Wholesale")
	}
	for _, l := range s.all() {
		assert.LessOrEqual(t, l.Quantity, int64(6), l.SKU)
	}
}

// While a place is away several things happen to one line, two of them alike: once it
// is back it is told each of them, in their order, and each once.
func TestAPlaceIsToldAllThatHappenedWhileItWasAway(t *testing.T) {
	s, gb, _ := onTwoSites(t, 1, 9)
	ref := s.buy("GB", gb[s.entries[0].Ref].SKU, 1)
	s.readOrders()
	line := lineIDs(s.lines("buy"))
	_, err := s.Orders.Buy(t.Context(), s.best(line))
	require.NoError(t, err)
	s.market.SetDown(true)
	require.NoError(t, s.Orders.Sent(t.Context(), line, "Harbour Post", "HP-9"))
	for range 2 {
		require.NoError(t, s.Orders.Refund(t.Context(), line[0], orders.Refund{Amount: "0.50"}))
	}
	s.readOrders()
	assert.NotEqual(t, "sent", s.market.Ordered("GB", ref).Lines[0].State)
	s.market.SetDown(false)
	var heard atomic.Int64
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) { // it goes away again after the first
		if r.Method == http.MethodPost && strings.Contains(r.URL.Path, "/orders/") && heard.Add(1) > 1 {
			http.Error(w, "away", http.StatusServiceUnavailable)
			return
		}
		next.ServeHTTP(w, r)
	})
	s.readOrders()
	assert.Equal(t, [2]any{"sent", int64(0)}, [2]any{s.market.Ordered("GB", ref).Lines[0].State, s.market.Ordered("GB", ref).Lines[0].Refunded})
	s.front.set(nil)
	s.readOrders()
	s.readOrders()
	there := s.market.Ordered("GB", ref).Lines[0]
	assert.Equal(t, [3]any{"sent", "HP-9", int64(100)}, [3]any{there.State, there.Tracking, there.Refunded})
	untold, err := s.Store.Untold(t.Context(), s.site.ID)
	require.NoError(t, err)
	assert.Empty(t, untold)
	sound(t, s.Store)
}

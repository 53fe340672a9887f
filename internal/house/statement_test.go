package house_test

import (
	"cmp"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops/orders"
	"easymargin/internal/stops/prices"
	"easymargin/internal/store"
)

// statement drops a statement of GB and takes it as its columns are guessed, or as
// they are chosen.
func (s *stall) statement(text string, choose map[string]string) (orders.StatementTaken, error) {
	look, err := s.Orders.LookStatement(s.t.Context(), s.site.ID, "statement.csv", []byte(text))
	require.NoError(s.t, err)
	columns := map[string]string{}
	for _, c := range look.Columns {
		columns[c.Name] = c.As
	}
	for name, as := range choose {
		columns[name] = as
	}
	return s.Orders.TakeStatement(s.t.Context(), s.site.ID, orders.OrderReportChoice{Token: look.Token, Columns: columns})
}

func (s *stall) feesOf(ref string) (out []int64) {
	for _, l := range s.lines("all") {
		if l.OrderRef == ref {
			if l.Fees == nil {
				out = append(out, -1)
				continue
			}
			out = append(out, *l.Fees)
		}
	}
	return out
}

// What a place really kept comes from its statement: shared out to the penny, once
// however often it is read, and with what is no fee left and said.
func TestAStatementSaysWhatWasReallyKept(t *testing.T) {
	s, gb, _ := onTwoSites(t, 3, 9)
	first := s.buy("GB", gb[s.entries[0].Ref].SKU, 1)
	second := s.buy("GB", gb[s.entries[1].Ref].SKU, 2)
	s.readOrders()
	text := fmt.Sprintf("Order ID;Type;Amount;Posted date\n%[1]s;Order;25,99;2026-03-04\n%[1]s;Commission fee;-3,10;2026-03-04\n%[1]s;Commission fee;-3,10;2026-03-04\n"+
		"%[2]s;Closing fee;-1,25;2026-03-04\n%[2]s;Fee credit;0,20;2026-03-05\n;Payout;-400,00;2026-03-05\nNOBODY-1;Commission fee;-9,00;2026-03-05\n", first, second)
	got, err := s.statement(text, nil)
	require.NoError(t, err)
	assert.Equal(t, orders.StatementTaken{Rows: 5, New: 4, Kept: 310 + 310 + 125 - 20, Left: []string{"Order", "Payout"}, Unknown: []string{"NOBODY-1"}}, got)
	assert.Equal(t, []int64{620}, s.feesOf(first), "two rows alike are two")
	assert.Equal(t, []int64{105}, s.feesOf(second))

	// The next statement has some of the same rows, and more of the first order.
	again, err := s.statement(text+first+";Return fee;-0,50;2026-03-06\n", nil)
	require.NoError(t, err)
	assert.Equal(t, int64(1), again.New)
	assert.Equal(t, []int64{670}, s.feesOf(first))
	one := s.lines("all")
	for _, l := range one {
		if l.OrderRef != first {
			continue
		}
		v, err := s.Orders.One(t.Context(), l.OrderID)
		require.NoError(t, err)
		fees, left := int64(0), int64(0)
		for _, b := range v.Lines[0].Beside {
			left += b.Real
			if strings.Contains(b.Name, "commission") {
				fees += b.Real
				assert.True(t, b.Known)
			}
		}
		assert.Equal(t, int64(-670), fees)
		assert.Equal(t, *v.Lines[0].Real, left, "what is left adds up to it")
	}

	// Amounts that are all above 0 were all kept.
	plain, err := s.statement(fmt.Sprintf("order,fee\n%s,0.10\n", second), nil)
	require.NoError(t, err)
	assert.Equal(t, int64(10), plain.Kept)
	assert.Equal(t, []int64{115}, s.feesOf(second))

	// What can't be read is said with its row, and nothing of it is taken.
	for text, want := range map[string]string{
		"order,fee\n" + first + ",1.00\n" + second + ",lots\n":         "row 3: its amount \"lots\"",
		"order,fee,sku\n" + first + ",1.00,NOBODY\n":                   "row 2: order " + first + " has no line NOBODY",
		"order,what it is\n" + first + ",x\n":                          "no column is read as amount",
		"order,fee\n" + first + ",1.00\n" + second + ",1.005\n":        "row 3",
		"order,fee\n" + first + ",1.00\n" + second + ",\"1,000,00\"\n": "row 3",
	} {
		_, err := s.statement(text, nil)
		assert.ErrorContains(t, err, want)
	}
	assert.Equal(t, []int64{670}, s.feesOf(first))
	assert.Equal(t, []int64{115}, s.feesOf(second))
	sound(t, s.Store)
}

// What is said of a whole order is its lines' by what was paid for each; the shares add
// up to it whatever it is.
// What a place keeps for no order is in Earned and Books under its own name, once however
// often it is read; one that is told after its month was closed is a correction.
func TestFeesOfNoOrderAreInEarnedAndBooks(t *testing.T) {
	s, gb, _ := onTwoSites(t, 3, 9)
	sold := s.buy("GB", gb[s.entries[0].Ref].SKU, 1)
	s.readOrders()
	earned := func(by string) orders.Earned {
		e, err := s.Orders.Earned(t.Context(), orders.Asked{By: by, From: "2026-03-01", To: "2026-03-31"})
		require.NoError(t, err)
		require.Len(t, e.Totals, 1)
		for _, r := range append(e.Rows, e.Totals...) {
			require.Equal(t, r.Left, r.Sales+r.Tax+r.Fees+r.Cost+r.Sending+r.Other+r.Refunds, "%s %s adds up", by, r.Name)
		}
		return e
	}
	before := earned("day").Totals[0]
	text := "Order ID;Type;Amount;Posted date\n" + sold + ";Commission fee;-1,00;2026-03-04\n" +
		";Subscription;-25,00;2026-03-04\n;Storage;-3,10;2026-03-05\n;Storage;-3,10;2026-03-05\n;Fee credit;1,20;2026-03-06\n;Payout;-400,00;2026-03-05\n"
	got, err := s.statement(text, nil)
	require.NoError(t, err)
	with := earned("day").Totals[0]
	got2, err := s.statement(text, nil)
	require.NoError(t, err)
	assert.Equal(t, [4]int64{5, 4, 5, 0}, [4]int64{int64(got.Rows), int64(got.Apart), got.New, got2.New})
	assert.Equal(t, []string{"Payout"}, got.Left)

	const apart = 2500 + 310 + 310 - 120
	fee := before.Fees - with.Fees - apart // of the order: what the place really kept in place of what was expected
	assert.Equal(t, before.Left-apart-fee, with.Left)
	assert.Equal(t, before.Sales, with.Sales)
	for by, row := range map[string]string{"day": "2026-03-05", "month": "2026-03", "site": "Quaymarket GB", "product": "fees of no order", "supplier": "fees of no order"} {
		e := earned(by)
		assert.Equal(t, with, e.Totals[0], by)
		assert.True(t, slices.ContainsFunc(e.Rows, func(r orders.EarnedRow) bool { return r.Name == row }), "%s: %v", by, e.Rows)
	}
	assert.ElementsMatch(t, []orders.ApartFee{{Site: "Quaymarket GB", Kind: "Subscription", Currency: "GBP", Rows: 1, Amount: 2500},
		{Site: "Quaymarket GB", Kind: "Storage", Currency: "GBP", Rows: 2, Amount: 620}, {Site: "Quaymarket GB", Kind: "Fee credit", Currency: "GBP", Rows: 1, Amount: -120}}, earned("day").Apart)

	feesIn := func(month string) (of []string, sum int64) {
		b, err := s.Orders.Book(t.Context(), month)
		require.NoError(t, err)
		for _, r := range b.Rows {
			if r.Fee != "" {
				of, sum = append(of, r.Of+r.Fee), sum+r.Fees
			}
		}
		total := int64(0)
		for _, r := range b.Totals {
			total += r.Fees
		}
		require.Equal(t, sum, total)
		return of, sum
	}
	of, sum := feesIn("2026-03")
	assert.Equal(t, []string{"Fee credit", "Storage", "Subscription"}, of)
	assert.EqualValues(t, apart, sum)
	s.clock.Forward(40 * 24 * time.Hour)
	require.NoError(t, s.Orders.CloseBook(t.Context(), "2026-03"))
	_, err = s.statement("Order ID;Type;Amount;Posted date\n;Storage;-2,00;2026-03-28\n;Advertising;-7,00;2026-04-02\n", nil)
	require.NoError(t, err)
	of, sum = feesIn("2026-03")
	assert.Len(t, of, 3, "a closed month stays as it was")
	assert.EqualValues(t, apart, sum)
	of, sum = feesIn("2026-04")
	assert.Equal(t, []string{"Advertising", "2026-03Storage"}, of)
	assert.EqualValues(t, 900, sum)
}

func TestAFeeOfAWholeOrderIsSharedOut(t *testing.T) {
	s, gb, _ := onTwoSites(t, 3, 9)
	var rows strings.Builder
	rows.WriteString("order,line,sku,quantity,price\n")
	for i, price := range []string{"10.00", "10.00", "10.01"} {
		fmt.Fprintf(&rows, "W-1,%d,%s,1,%s\n", i+1, gb[s.entries[i].Ref].SKU, price)
	}
	look, err := s.Orders.LookReport(t.Context(), s.site.ID, "orders.csv", []byte(rows.String()))
	require.NoError(t, err)
	columns := map[string]string{}
	for _, c := range look.Columns {
		columns[c.Name] = c.As
	}
	_, err = s.Orders.TakeReport(t.Context(), s.site.ID, orders.OrderReportChoice{Token: look.Token, Columns: columns})
	require.NoError(t, err)
	_, err = s.statement("order,fee\nW-1,1.00\n", nil)
	require.NoError(t, err)
	got := s.feesOf("W-1")
	assert.ElementsMatch(t, []int64{33, 34, 33}, got)
	_, err = s.statement("order,line,fee\nW-1,2,0.07\n", nil)
	require.NoError(t, err)
	sum := int64(0)
	for _, v := range s.feesOf("W-1") {
		sum += v
	}
	assert.Equal(t, int64(107), sum)
	var left []store.FeeRow
	require.NoError(t, raw(t, filepath.Dir(s.Store.File())).Raw("SELECT * FROM fee_rows").Scan(&left).Error)
	assert.Len(t, left, 4)
}

// What lost money says why, what wasn't sold is named with whether its price ever led,
// and What if goes by what each was really sold.
func TestWhatSoldAtALossAndWhatDidnt(t *testing.T) {
	s, gb, _ := onTwoSites(t, 3, 9)
	ctx := t.Context()
	s.later(24 * time.Hour)
	s.buy("GB", gb[s.entries[0].Ref].SKU, 2)
	s.buy("GB", gb[s.entries[1].Ref].SKU, 1)
	s.readOrders()
	none, err := s.Orders.Losses(ctx, orders.Asked{})
	require.NoError(t, err)
	assert.Empty(t, none)
	var dear, back store.OrderLineRow
	for _, l := range s.lines("all") {
		if l.SKU == gb[s.entries[0].Ref].SKU {
			dear = l
		} else {
			back = l
		}
	}
	require.NoError(t, s.Orders.Real(ctx, dear.ID, "50.00", "", ""))
	_, err = s.Orders.Buy(ctx, orders.Wanted{})
	assert.ErrorContains(t, err, "at least one line")
	bought := s.best([]int64{back.ID})
	_, err = s.Orders.Buy(ctx, bought)
	require.NoError(t, err)
	require.NoError(t, s.Orders.Refund(ctx, back.ID, orders.Refund{Amount: unitText(back.Price)}))
	lost, err := s.Orders.Losses(ctx, orders.Asked{})
	require.NoError(t, err)
	require.Len(t, lost, 2)
	assert.Equal(t, dear.ID, lost[0].Line, "the worst first")
	assert.Contains(t, lost[0].Why, "more than was expected")
	assert.Equal(t, unitText(back.Price)+" was given back", lost[1].Why)
	for _, x := range lost {
		v, err := s.Orders.One(ctx, x.Order)
		require.NoError(t, err)
		assert.Equal(t, *v.Lines[0].Real, x.Left)
		assert.Equal(t, *v.Lines[0].Expected, x.Expected)
	}

	idle, err := s.Orders.Idle(ctx, "", store.Page{Limit: 100})
	require.NoError(t, err)
	left := map[string]int{}
	for _, x := range idle.Rows {
		left[x.Site+" "+x.SKU]++
		assert.Positive(t, x.Quantity)
		assert.LessOrEqual(t, x.Led, x.Looked)
	}
	assert.True(t, slices.IsSortedFunc(idle.Rows, func(a, b store.NeverSold) int { // by site, the most in stock first
		return cmp.Or(cmp.Compare(a.Site, b.Site), cmp.Compare(*b.Price*b.Quantity, *a.Price*a.Quantity))
	}), "%+v", idle.Rows)
	assert.Len(t, left, 4, "the third on one site, all three on the other: %v", left)
	assert.Zero(t, left["Quaymarket GB "+dear.SKU])

	s.ledAsItWas(idle.Rows[0])

	each, err := s.Prices.AskWhatIf(ctx, s.site.ID, prices.WhatIf{Cost: "10%", Sales: 1})
	require.NoError(t, err)
	assert.Equal(t, int64(3), each.Sales)
	sold, err := s.Prices.AskWhatIf(ctx, s.site.ID, prices.WhatIf{Cost: "10%", Sold: true})
	require.NoError(t, err)
	assert.Equal(t, int64(3), sold.Sales, "two of one and one of another")
	one := each.Now / 3 // all three cost the same and are asked the same for
	assert.NotEqual(t, sold.Most, nil)
	assert.InDelta(t, 3*one, sold.Now, 300)
	require.NoError(t, s.Orders.Cancel(ctx, []int64{dear.ID}))
	sold, err = s.Prices.AskWhatIf(ctx, s.site.ID, prices.WhatIf{Cost: "10%", Sold: true})
	require.NoError(t, err)
	assert.Equal(t, int64(1), sold.Sales, "what was called off wasn't sold")
	var product int64
	require.NoError(t, raw(t, filepath.Dir(s.Store.File())).Raw("SELECT supplier_product_id FROM order_lines WHERE id = ?", back.ID).Scan(&product).Error)
	on, err := s.Store.SoldOf(ctx, product, s.Now().AddDate(0, 0, -30))
	require.NoError(t, err)
	assert.Equal(t, []store.SoldOn{{Site: "Quaymarket GB", Units: 1}}, on)
}

// ledAsItWas says of a listing that wasn't sold how often it led: by what it cost when
// others were looked at, since it is on sale and in the time that is asked for.
func (s *stall) ledAsItWas(x store.NeverSold) {
	t, ctx, now := s.t, s.t.Context(), s.clock.Now()
	l, err := store.Get[store.Listing](ctx, s.Store, x.ListingID)
	require.NoError(t, err)
	site, err := store.Get[store.Site](ctx, s.Store, l.SiteID)
	require.NoError(t, err)
	all := *x.Price + site.Charged
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error {
		for _, p := range []struct {
			ago     time.Duration
			leading int64
		}{{0, all}, {0, all - 1}, {20 * time.Hour, all + 5}, {20 * 24 * time.Hour, all + 5}} { // the last before it was on sale
			if err := tx.Create(&store.MarketPoint{EntryID: *l.EntryID, Leading: &p.leading, At: now.Add(-p.ago)}); err != nil {
				return err
			}
		}
		return tx.Update(&l, map[string]any{"confirmed_price": *x.Price * 9}) // what it costs by now says nothing of then
	}))
	led := func(from string) [2]int64 {
		list, err := s.Orders.Idle(ctx, from, store.Page{Limit: 100})
		require.NoError(t, err)
		i := slices.IndexFunc(list.Rows, func(y store.NeverSold) bool { return y.ListingID == x.ListingID })
		require.GreaterOrEqual(t, i, 0)
		return [2]int64{list.Rows[i].Led - x.Led, list.Rows[i].Looked - x.Looked}
	}
	assert.Equal(t, [2]int64{2, 3}, led(""), "as dear as the leading one leads, a penny more doesn't")
	before := led(now.Format(time.DateOnly))
	assert.Equal(t, [2]int64{1, 2}, [2]int64{before[0] + x.Led, before[1] + x.Looked}, "of today alone")
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&l, map[string]any{"confirmed_price": *x.Price}) }))
}

// What really sells is said of each candidate on Weigh as soon as it is read: on its
// site, of the last thirty days, and not what was called off.
func TestWeighSaysWhatReallySells(t *testing.T) {
	s, gb, ie := onTwoSites(t, 3, 9)
	s.weigh()
	sold := func(sieve string) map[string]int64 {
		out := map[string]int64{}
		rows := s.sifted(sieve, "units_sold", true)
		assert.True(t, slices.IsSortedFunc(rows, func(a, b store.SiftedRow) int { return cmp.Compare(b.UnitsSold, a.UnitsSold) }))
		for _, r := range rows {
			out[r.EntryRef] = r.UnitsSold
		}
		return out
	}
	a, b, c := s.entries[0].Ref, s.entries[1].Ref, s.entries[2].Ref
	assert.Equal(t, map[string]int64{a: 0, b: 0, c: 0}, sold(""))
	s.buy("GB", gb[a].SKU, 2)
	s.buy("GB", gb[b].SKU, 3)
	s.buy("IE", ie[c].SKU, 1)
	s.readOrders()
	assert.Equal(t, map[string]int64{a: 2, b: 3, c: 0}, sold(""))
	assert.Equal(t, map[string]int64{b: 3}, sold(`[{"column":"units_sold","op":"above","values":["2"]}]`))
	for _, l := range s.lines("buy") {
		if l.SKU == gb[b].SKU {
			require.NoError(t, s.Orders.Cancel(t.Context(), []int64{l.ID}))
		}
	}
	assert.Equal(t, map[string]int64{a: 2, b: 0, c: 0}, sold(""))
	s.clock.Forward(31 * 24 * time.Hour)
	s.weigh()
	assert.Equal(t, map[string]int64{a: 0, b: 0, c: 0}, sold(""), "a month later")
}

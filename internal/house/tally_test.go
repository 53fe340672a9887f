package house_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops/orders"
	"easymargin/internal/store"
)

// typed keeps an order that a person types in, and gives its lines.
func (s *stall) typed(ref string, lines ...orders.TypedLine) []store.OrderLineRow {
	id, err := s.Orders.Type(s.t.Context(), orders.TypedOrder{SiteID: s.site.ID, Ref: ref, Buyer: place.Buyer{Name: "Ada Quill", Country: "GB"}, Lines: lines})
	require.NoError(s.t, err)
	s.idle()
	rows, err := s.Store.OrderRows(s.t.Context(), id)
	require.NoError(s.t, err)
	return rows
}

// The tax of a line with several units and one delivery is reckoned on what was paid
// and kept, wherever it is shown. The figures here are worked out by hand.
func TestTaxIsOfWhatWasPaidAndKept(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	ctx := t.Context()
	sku := s.all()[0].SKU
	l := s.typed("KETTLES", orders.TypedLine{SKU: sku, Quantity: 2, Price: "18.49", Delivery: "2.95"})[0]
	books := func() [3]int64 {
		b, err := s.Orders.Book(ctx, s.Now().Format("2006-01"))
		require.NoError(t, err)
		require.Len(t, b.Rows, 1)
		assert.Equal(t, "20%", b.Rows[0].Rate)
		return [3]int64{b.Rows[0].Gross, b.Rows[0].Tax, b.Rows[0].Net}
	}
	// 2 × 18.49 + 2.95 = 39.93, of which a sixth is 6.655
	assert.Equal(t, [3]int64{3993, 666, 3327}, books())
	v, err := s.Orders.One(ctx, l.OrderID)
	require.NoError(t, err)
	expected, real := map[string]int64{}, map[string]int64{}
	sum := int64(0)
	for _, b := range v.Lines[0].Beside {
		expected[b.Name], real[b.Name] = b.Expected, b.Real
		sum += b.Expected
	}
	assert.Equal(t, [3]int64{3698, 295, -666}, [3]int64{expected["item price"], expected["delivery charged"], expected["tax"]})
	assert.Equal(t, expected, real)
	assert.Equal(t, *l.ExpectedProfit, sum)
	assert.Equal(t, int64(-2*400), expected["landed cost"])
	assert.Equal(t, int64(-666), s.earned(t).Tax)

	// What the site asks from now on changes nothing of what was sold.
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error { return tx.SetSite(s.Now(), s.site.ID, map[string]any{"tax_rate": 50_000}) }))
	assert.Equal(t, [3]int64{3993, 666, 3327}, books())

	// Money goes back in the bounds of what was paid, delivery apart.
	_, err = s.Orders.Buy(ctx, s.best([]int64{l.ID}))
	require.NoError(t, err)
	for _, in := range []orders.Refund{{Amount: "100.00"}, {Amount: "36.99"}, {Amount: "2.96", Of: "delivery"}, {Amount: "0.00"}, {Amount: "-1.00"}} {
		assert.Equal(t, fault.Invalid, fault.KindOf(s.Orders.Refund(ctx, l.ID, in)), "%+v", in)
	}
	assert.Equal(t, [3]int64{3993, 666, 3327}, books(), "nothing was given back")
	require.NoError(t, s.Orders.Refund(ctx, l.ID, orders.Refund{Amount: "18.49"}))
	// 21.44 is kept, of which a sixth is 3.573
	assert.Equal(t, [3]int64{2144, 357, 1787}, books())
	require.NoError(t, s.Orders.Refund(ctx, l.ID, orders.Refund{Of: "delivery"}))
	// 18.49, of which a sixth is 3.082
	assert.Equal(t, [3]int64{1849, 308, 1541}, books())
	require.NoError(t, s.Orders.Refund(ctx, l.ID, orders.Refund{Returned: true}))
	assert.Equal(t, [3]int64{0, 0, 0}, books())
	assert.ErrorContains(t, s.Orders.Refund(ctx, l.ID, orders.Refund{}), "nothing is left")
	e := s.earned(t)
	assert.Equal(t, [3]int64{3993, 0, -3993}, [3]int64{e.Sales, e.Tax, e.Refunds})
	sound(t, s.Store)
}

// What the buyer paid for delivery is the order's: given back, it is shared over its
// lines as it was paid. One parcel is sent, however many lines are in it.
func TestDeliveryIsOfTheOrder(t *testing.T) {
	s := newStall(t, 2)
	s.deliver(always(400), always(9))
	s.sendAll()
	ctx := t.Context()
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error { return tx.SetSite(s.Now(), s.site.ID, map[string]any{"outbound": 285}) }))
	s.idle()
	all := s.all()
	lines := s.typed("TWO", orders.TypedLine{SKU: all[0].SKU, Quantity: 3, Price: "10.00", Delivery: "2.25"},
		orders.TypedLine{SKU: all[1].SKU, Quantity: 1, Price: "10.00", Delivery: "0.75"})
	outbound := func() (out []int64) {
		v, err := s.Orders.One(ctx, lines[0].OrderID)
		require.NoError(t, err)
		for _, l := range v.Lines {
			for _, b := range l.Beside {
				if b.Name == "outbound" {
					out = append(out, b.Expected)
				}
			}
		}
		return out
	}
	require.Len(t, outbound(), 2)
	assert.Equal(t, int64(-285), outbound()[0], "once, not three times")
	assert.Zero(t, outbound()[1], "in the same parcel")

	require.NoError(t, s.Orders.Refund(ctx, lines[1].ID, orders.Refund{Amount: "1.00", Of: "delivery"}))
	rows, err := s.Store.OrderRows(ctx, lines[0].OrderID)
	require.NoError(t, err)
	assert.Equal(t, [4]int64{75, 75, 25, 25}, [4]int64{rows[0].Refunded, rows[0].RefundedDelivery, rows[1].Refunded, rows[1].RefundedDelivery})
	assert.ErrorContains(t, s.Orders.Refund(ctx, lines[1].ID, orders.Refund{Amount: "2.01", Of: "delivery"}), "2.00")
	require.NoError(t, s.Orders.Refund(ctx, lines[0].ID, orders.Refund{Of: "delivery"}))
	rows, err = s.Store.OrderRows(ctx, lines[0].OrderID)
	require.NoError(t, err)
	assert.Equal(t, [2]int64{225, 75}, [2]int64{rows[0].Refunded, rows[1].Refunded})
	sound(t, s.Store)
}

// A place can't tell that more was given back than was paid: that is kept with what
// is wrong, and the books stay right.
func TestMoreWasGivenBackThanWasPaid(t *testing.T) {
	s := newStall(t, 1)
	s.deliver(always(400), always(9))
	s.sendAll()
	sku := s.all()[0].SKU
	s.front.said("GET", "/orders", func(answer map[string]any) {
		if list := answer["orders"].([]any); len(list) > 0 {
			list[0].(map[string]any)["lines"].([]any)[0].(map[string]any)["refunded"] = 1_000_000
		}
	})
	s.buy("GB", sku, 1)
	s.readOrders()
	s.readOrders()
	rows := s.lines("problems")
	require.Len(t, rows, 1)
	assert.Contains(t, rows[0].Problem, "10000.00 was given back, more than the")
	assert.Equal(t, rows[0].Price*rows[0].Quantity+rows[0].Delivery, rows[0].Refunded)
	b, err := s.Orders.Book(t.Context(), s.Now().Format("2006-01"))
	require.NoError(t, err)
	assert.Equal(t, [2]int64{0, 0}, [2]int64{b.Totals[0].Gross, b.Totals[0].Tax})
	sound(t, s.Store)
}

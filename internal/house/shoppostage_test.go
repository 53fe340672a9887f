package house_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// A basket in the own shop goes in one parcel: what the buyer pays and what sending is
// expected to cost are those of all that is in it, on the page, in the basket and in the
// order. Things of 600 g and 900 g: 2.95 for the one alone, 4.10 for both.
func TestABasketGoesInOneParcel(t *testing.T) {
	x := newTill(t, 2, 9)
	x.given(x.rows("cost,stock,weight", func(i int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,4.00,9,%d g", title, brand, gtin, 600+300*i)
	}))
	require.NoError(t, x.Places.SetTerms(t.Context(), x.here.ID, stops.IfMatch{}, stops.SiteTerms{
		DeliveryBands: []stops.PostageRow{{Weight: 1000, Amount: "2.95"}, {Weight: 2000, Amount: "4.10"}, {Weight: 2000, From: "900", Amount: "0"}, {To: "IE", Amount: "19.00"}},
		SendingBands:  []stops.PostageRow{{Weight: 1000, Amount: "2.50"}, {Weight: 2000, Amount: "3.60"}, {To: "IE", Amount: "9.00"}},
	}))
	x.idle()
	b := x.buyer()
	for _, sku := range x.skus {
		assert.Contains(t, b.get("/p/"+sku).text, "Delivery £2.95")
	}
	prices := []int64{*x.ours()[0].ConfirmedPrice, *x.ours()[1].ConfirmedPrice}
	assert.Contains(t, b.puts(x.skus[0], "1").text, "£"+unitText(prices[0]+295))
	assert.Contains(t, b.puts(x.skus[1], "1").text, "£"+unitText(prices[0]+prices[1]+410))
	done := b.post("/checkout", b.address())
	require.Contains(t, done.path, "/order/S-", done.text)

	x.readOrders()
	delivery, sending := int64(0), int64(0)
	for _, row := range x.lines("all") {
		delivery += row.Delivery
		l, err := store.Get[store.OrderLine](t.Context(), x.Store, row.ID)
		require.NoError(t, err)
		var lines []struct {
			Kind   string
			Amount int64
		}
		require.NoError(t, json.Unmarshal([]byte(l.Expected), &lines))
		for _, line := range lines {
			if line.Kind == "outbound" {
				sending -= line.Amount
			}
		}
	}
	assert.Equal(t, [2]int64{410, 360}, [2]int64{delivery, sending}, "1.5 kg in one parcel")

	heavy := x.buyer()
	said := heavy.puts(x.skus[1], "4")
	assert.Contains(t, said.text, "more than one parcel can hold")
	assert.Equal(t, "/basket", heavy.get("/checkout").path, "it can't be bought so")
}

package e2e_test

import (
	"encoding/csv"
	"encoding/json"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// From sold to sent by keyboard: the lines are there, bought as is cheapest, the
// supplier's order has whom each goes to, and the place is told carrier and number.
func TestOrdersAreBoughtAndSent(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/orders")
	s.sees("button", "How these 5 are best bought")
	s.sees("[role=row]", "GB-00001")
	s.clean(axeText(t), "orders", "light")
	s.keys('.')
	s.sees("section", "nothing costs less")
	s.sees("button", "Buy 5")
	s.clean(axeText(t), "a split", "dark")
	s.keys('.')
	s.sees("[role=row]", "P-00001")
	raw, err := os.ReadFile(saved(t, p.URL+"/api/purchases/1/order.csv", "order.csv"))
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 6)
	assert.NotEmpty(t, rows[1][5], "whom it goes to")

	s.MustNavigate(p.URL + "/orders?part=send")
	s.sees("[role=row]", "GB-00001").MustElement("input[type=checkbox]").MustClick()
	s.write(s.MustElement("[aria-label=Carrier]"), "Harbour Post")
	s.write(s.MustElement("[aria-label='Tracking number']"), "HP-77")
	s.keys(input.Enter)
	type order struct {
		Ref   string
		Lines []struct{ State, Carrier, Tracking string }
	}
	until(t, p, "the place was told", func([]run) bool {
		res, err := http.Get(p.Market + "/gateway/v1/sites/GB/orders")
		if err != nil {
			return false
		}
		defer res.Body.Close()
		var got struct{ Orders []order }
		if json.NewDecoder(res.Body).Decode(&got) != nil {
			return false
		}
		for _, o := range got.Orders {
			if o.Ref == "GB-00001" {
				return o.Lines[0].State == "sent" && o.Lines[0].Carrier == "Harbour Post" && o.Lines[0].Tracking == "HP-77"
			}
		}
		return false
	})
	s.MustNavigate(p.URL + "/orders/1")
	s.sees("section", "by Harbour Post, HP-77")
	s.sees("table", "left for you")
	s.clean(axeText(t), "an order", "light")

	// An order of a place that can't be asked is typed in; the same one again isn't taken.
	s.MustNavigate(p.URL + "/orders")
	s.press("Bring in")
	s.write(s.labelled("^Order$"), "BY-PHONE-1")
	s.write(s.MustElement("[aria-label='SKU 1']"), "NOBODY-1")
	s.write(s.MustElement("[aria-label='Price 1']"), "9.50")
	s.press("Keep the order")
	s.sees("[role=tab]", "Problems1")
	s.press("Bring in")
	s.write(s.labelled("^Order$"), "BY-PHONE-1")
	s.write(s.MustElement("[aria-label='SKU 1']"), "NOBODY-1")
	s.write(s.MustElement("[aria-label='Price 1']"), "9.50")
	s.press("Keep the order")
	s.says("here already")
	s.MustNavigate(p.URL + "/orders?part=problems")
	s.sees("[role=row]", "nothing of ours on")
}

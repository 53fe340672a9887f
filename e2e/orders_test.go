package e2e_test

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// placed are all orders of a site as the marketplace has them.
func placed[T any](t *testing.T, p *browser.Program, site string) []T {
	other, since, all := *p, "", []T{}
	for other.URL = p.Market; ; {
		var got struct {
			Orders []T
			Next   string
		}
		require.NoError(t, other.Ask(http.MethodGet, "/gateway/v1/sites/"+site+"/orders?since="+since, nil, &got))
		if len(got.Orders) == 0 {
			return all
		}
		all, since = append(all, got.Orders...), got.Next
	}
}

// From sold to sent by keyboard: the lines are there, bought as is cheapest, the
// supplier's order has whom each goes to, and the place is told carrier and number.
func TestOrdersAreBoughtAndSent(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	s := open(t, p, "/orders")
	s.sees("button", "How these 5 are best bought")
	sold := ask[struct{ Rows []weekLine }](t, p, "/api/v1/order-lines?part=buy").Rows
	require.Len(t, sold, 5)
	first := sold[0]
	s.sees("[role=row]", first.Order)
	s.clean(axeText(t), "orders", "light")
	s.keys('.')
	s.sees("section", "nothing costs less")
	s.sees("button", "Buy 5")
	s.clean(axeText(t), "a split", "dark")
	s.keys('.')
	until(t, p, "the purchases", func([]run) bool { return ask[counts](t, p, "/api/v1/counts").OrdersBuy == 0 })
	made := ask[struct {
		Rows []struct {
			ID    int64
			Ref   string
			Lines int
		}
	}](t, p, "/api/v1/purchases").Rows[0]
	s.sees("[role=row]", made.Ref)
	raw, err := os.ReadFile(saved(t, fmt.Sprintf("%s/api/v1/purchases/%d/export.csv", p.URL, made.ID), "order.csv"))
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+made.Lines)
	assert.NotEmpty(t, rows[1][5], "whom it goes to")

	s.MustNavigate(p.URL + "/orders?part=send")
	s.sees("[role=row]", first.Order).MustElement("input[type=checkbox]").MustClick()
	s.write(s.MustElement("[aria-label=Carrier]"), "Harbour Post")
	s.write(s.MustElement("[aria-label='Tracking number']"), "HP-77")
	s.keys(input.Enter)
	type order struct {
		Ref   string
		Lines []struct{ State, Carrier, Tracking string }
	}
	until(t, p, "the place was told", func([]run) bool {
		for _, o := range placed[order](t, p, "GB") {
			if o.Ref == first.Order {
				return o.Lines[0].State == "sent" && o.Lines[0].Carrier == "Harbour Post" && o.Lines[0].Tracking == "HP-77"
			}
		}
		return false
	})
	s.MustNavigate(fmt.Sprintf("%s/orders/%d", p.URL, first.OrderID))
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

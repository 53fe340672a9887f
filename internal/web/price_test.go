package web_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
)

// Prices through the API alone: tried, ruled, fixed, and every mistake answered at its field.
func TestPricesThroughTheAPI(t *testing.T) {
	s := newStall(t, func(x *sim.Entry) bool { return x.Category == "mugs" })
	e, entry, do := s.edge, s.entry, s.do
	do(200, "POST", "/api/v1/marketplaces", fmt.Sprintf(`{"name":"Quaymarket","address":%q}`, s.url))
	do(200, "PUT", "/api/v1/sites/1/terms", `{"charged":"0","outbound":"0","handling":"0","cushion":"0%","allowances":[]}`)
	do(200, "POST", "/api/v1/sources", `{"supplier":"Fernhollow","currency":"GBP","charge":"0","tax":"without"}`)
	do(
		201,
		"POST",
		"/api/v1/feeds?name=list.csv",
		fmt.Sprintf("ref,title,cost,stock,ean,brand\nA,%q,4.00,7,%s,%s\n", entry.Title, entry.GTIN, entry.Brand),
	)
	do(200, "POST", "/api/v1/feeds/1/take", `{"source_id":1,"once":true}`)
	price := func() any { return rows(e, "/api/v1/listings?site=1")[0]["price"] }
	before := price()

	// Asking changes nothing, however it is asked.
	assert.Contains(t, do(200, "POST", "/api/v1/quotes", `{"site_id":1,"product_id":1,"lead":"profit","value":"5.00"}`).text, `"profit":50`)
	assert.Contains(t, do(200, "POST", "/api/v1/quotes/by-site", `{"site_id":1,"product_id":1}`).text, `"best":true`)
	assert.Contains(
		t,
		do(
			200,
			"POST",
			"/api/v1/sites/1/rules/preview",
			`{"id":0,"name":"x","fits":{},"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`,
		).text,
		`"up":1`,
	)
	assert.Contains(t, do(200, "POST", "/api/v1/sites/1/what-if", `{"cost":"10%"}`).text, `"worse":1`)
	assert.Contains(t, do(200, "POST", "/api/v1/what-if", `{"cost":"10%"}`).text, `"home":"GBP"`)
	assert.Contains(
		t,
		do(200, "POST", "/api/v1/listings/1/rule/preview", `{"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`).text,
		`its own rule`,
	)
	assert.Equal(
		t,
		do(200, "GET", "/api/v1/listings/1/price-lines", "").text,
		do(200, "POST", "/api/v1/listings/1/rule/preview", `{}`).text,
		"without a rule of its own it is as it is",
	)
	assert.Contains(t, do(200, "POST", "/api/v1/listings/reprice/check", `{"listings":[1],"by":"10%"}`).text, `"refused":""`)
	assert.Equal(t, before, price())

	for _, c := range []struct{ method, path, body, field string }{
		{"POST", "/api/v1/quotes", `{"site_id":1,"lead":"price","value":"12,5,0"}`, "body.value"},
		{"POST", "/api/v1/quotes", `{"site_id":1,"cost":{"unit":"ten"}}`, "body.cost.unit"},
		{"POST", "/api/v1/sites/1/rules", `{"id":0,"name":"x","fits":{},"rule":{"aims":[{"kind":"margin","value":"18"}],"keep":[]}}`, "body.rule.aims[0].value"},
		{"POST", "/api/v1/sites/1/rules", `{"id":0,"name":"x","rule":{"aims":[{"kind":"margin","value":"18%"}],"keep":[]}}`, "body.fits"},
		{"POST", "/api/v1/sites/1/what-if", `{"fees_on":"soon"}`, "body.fees_on"},
		{"PUT", "/api/v1/sites/1/fees", `{"category":"mugs","starts_on":"2026-04-01","fees":[{"name":"f","of":"item","rate":15}]}`, "body.fees[0].rate"},
		{"POST", "/api/v1/sites/1/fees/upload", `{"currency":"EUR","schedules":[]}`, "body.file.currency"},
		{"PUT", "/api/v1/sites/1/terms", `{"charged":"0.00","outbound":"1.00","allowances":[{"name":"returns","of":"item","rate":"lots"}]}`, "body.allowances[0].rate"},
		{"POST", "/api/v1/listings/reprice", `{"listings":[1],"to":"0.01"}`, "body.by"},
		{"PUT", "/api/v1/listings/1/former-price", `{"former":"0.01"}`, "body.former"},
		{"PUT", "/api/v1/listings/1/rule", `{"rule":{"aims":[{"kind":"profit","value":"1.005"}],"keep":[]}}`, "body.rule.aims[0].value"},
		{"POST", "/api/v1/listings/1/rule/preview", `{"rule":{"aims":[{"kind":"margin","value":"18"}],"keep":[]}}`, "body.rule.aims[0].value"},
		{"POST", "/api/v1/what-if", `{"rates":{"EUR":"0.9"}}`, "body.rates"},
		{"POST", "/api/v1/what-if", `{"cost":"lots"}`, "body.cost"},
		{"POST", "/api/v1/what-if", `{"show":"nothing"}`, "body.show"},
		{"PUT", "/api/v1/sites/1/fees", `{"category":"","starts_on":"2026-04-01","fees":[],"warehouse":{"name":"w","steps":[{"name":"letter","fee":"3,x"}]}}`, "body.warehouse.steps[0].fee"},
		{"PUT", "/api/v1/sites/1/fees", `{"category":"","starts_on":"2026-04-01","fees":[],"warehouse":{"name":"w","steps":[]}}`, "body.warehouse"},
		{"PUT", "/api/v1/exchange-rates", `{"from":"EUR","to":"GBP","rate":"0"}`, "body.rate"},
		{"POST", "/api/v1/exchange-rates/fetch", `{"address":"nowhere"}`, "body.address"},
	} {
		got := e.ask(c.method, c.path, c.body)
		assert.Equal(t, 422, got.status, "%s %s: %s", c.path, c.body, got.text)
		assert.Contains(t, got.text, fmt.Sprintf("%q", c.field), "%s %s", c.path, c.body)
	}
	for path, body := range map[string]string{"/api/v1/rules/99/move": `{"to":0}`, "/api/v1/sites/99/what-if": `{}`, "/api/v1/listings/99/rule/preview": `{}`,
		"/api/v1/sites/99/rules/preview": `{"id":0,"name":"x","fits":{},"rule":{"aims":[],"keep":[]}}`} {
		assert.Equal(t, 404, e.ask("POST", path, body).status, path)
	}
	assert.Equal(t, 409, e.ask("DELETE", "/api/v1/rules/1", "").status, "the last rule stays")
	assert.Equal(t, before, price(), "no mistake changed anything")

	assert.Contains(
		t,
		e.ask("POST", "/api/v1/sites/1/fees/upload", `{"currency":"GBP","site":"`+strings.Repeat("x", 4<<20)+`"}`).text,
		"at most 4 MiB",
	)
	do(
		200,
		"POST",
		"/api/v1/sites/1/rules",
		`{"id":0,"name":"Mugs","fits":{"categories":["mugs"]},"rule":{"aims":[{"kind":"margin","value":"40%"}],"keep":[]}}`,
	)
	assert.Greater(t, price(), before)
	rules := get[[]map[string]any](e, "/api/v1/sites/1/rules")
	require.Len(t, rules, 2)
	assert.EqualValues(t, 1, rules[0]["listings"])
	do(200, "DELETE", fmt.Sprintf("/api/v1/rules/%v", rules[0]["id"]), "")
	assert.Equal(t, before, price())
	do(200, "POST", "/api/v1/listings/reprice", `{"listings":[1],"by":"1.00"}`)
	assert.EqualValues(t, before.(float64)+100, price())
	file := do(200, "GET", "/api/v1/sites/1/fees/export", "")
	assert.Contains(t, do(200, "POST", "/api/v1/sites/1/fees/upload", file.text).text, `"count":6`)
}

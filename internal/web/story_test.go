package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/demo"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

var start = demo.Start

func secondsOf(n int) time.Duration { return time.Duration(n) * time.Second }

// get asks for JSON and reads it.
func get[T any](e *edge, path string) T {
	var out T
	got := e.ask("GET", path, "")
	require.Equal(e.t, 200, got.status, "%s: %s", path, got.text)
	require.NoError(e.t, json.Unmarshal([]byte(got.text), &out), path)
	return out
}

// rows are the rows of a list.
func rows(e *edge, path string) []map[string]any {
	return get[struct{ Rows []map[string]any }](e, path).Rows
}

// settle blocks until no run is going on; listen before what begins one.
func (e *edge) settle(events <-chan stops.Event) {
	for {
		runs, err := e.house.Queue.Live(context.Background())
		require.NoError(e.t, err)
		if !slices.ContainsFunc(runs, func(r store.Run) bool { return r.Due < time.Now().Add(5*time.Second).UnixMilli() }) {
			return
		}
		<-events
	}
}

// stall is an edge with Quaymarket's stand-in beside it, not connected yet, and
// one of its entries to sell on.
type stall struct {
	*edge
	market *sim.Marketplace
	url    string
	entry  *sim.Entry
	events <-chan stops.Event
}

func newStall(t *testing.T, wanted func(*sim.Entry) bool) stall {
	market := demo.Quaymarket(sim.NewClock(demo.Start, 0))
	market.FirstWait, market.LineWait = 0, 0
	q := httptest.NewServer(market)
	t.Cleanup(q.Close)
	s := stall{edge: newEdge(t, web.Options{}), market: market, url: q.URL}
	for _, x := range market.Entries {
		if x.GTIN != "" && !x.Leave && wanted(x) {
			s.entry = x
			break
		}
	}
	require.NotNil(t, s.entry)
	events, end := s.house.Events.Listen()
	t.Cleanup(end)
	s.events = events
	return s
}

// do asks, wants a status, and waits until what was begun is done.
func (s stall) do(want int, method, path, body string) answer {
	got := s.ask(method, path, body)
	require.Equal(s.t, want, got.status, "%s %s: %s", method, path, got.text)
	s.settle(s.events)
	return got
}

// One product's way through the API alone, as somebody's own script would take it.
func TestTheWayOfOneProductThroughTheAPI(t *testing.T) {
	s := newStall(t, func(*sim.Entry) bool { return true })
	e, market, entry, do := s.edge, s.market, s.entry, s.do
	assert.Contains(t, e.ask("GET", "/api/v1/today", "").text, "No marketplace is connected")
	do(200, "POST", "/api/v1/marketplaces", fmt.Sprintf(`{"name":"Quaymarket","address":%q}`, s.url))
	do(200, "PUT", "/api/v1/sites/1/terms", `{"charged":"0","outbound":"0","handling":"0","cushion":"0%","allowances":[]}`)
	sites := get[[]map[string]any](e, "/api/v1/sites")
	require.NotEmpty(t, sites)
	assert.Equal(t, "GBP", sites[0]["currency"])
	assert.NotEmpty(t, get[[]map[string]any](e, "/api/v1/sites/1/fees"))

	do(200, "POST", "/api/v1/sources", `{"supplier":"Fernhollow","currency":"GBP","charge":"0","tax":"without"}`)
	list := func(cost string, stock int) string {
		return fmt.Sprintf("ref,title,cost,stock,ean,brand\nA,%q,%s,%d,%s,%s\n", entry.Title, cost, stock, entry.GTIN, entry.Brand)
	}
	do(201, "POST", "/api/v1/feeds?name=list.csv", list("4.00", 7))
	do(200, "POST", "/api/v1/feeds/1/take", `{"source_id":1,"once":true}`)
	listing := rows(e, "/api/v1/listings")
	require.Len(t, listing, 1)
	assert.Equal(t, "ready", listing[0]["state"])
	lines := get[struct{ Lines []struct{ Amount int64 } }](e, "/api/v1/listings/1/price-lines")
	sum := int64(0)
	for _, l := range lines.Lines {
		sum += l.Amount
	}
	assert.EqualValues(t, listing[0]["profit"], sum, "the lines add up to the penny")

	do(200, "POST", "/api/v1/submissions", `{}`)
	outs := rows(e, "/api/v1/submissions")
	require.Len(t, outs, 1)
	assert.EqualValues(t, 1, outs[0]["confirmed"])
	assert.Equal(t, "confirmed", rows(e, "/api/v1/submissions/1/lines")[0]["state"])
	assert.Equal(t, "live", rows(e, "/api/v1/listings")[0]["state"])

	do(201, "POST", "/api/v1/feeds?name=list.csv&source_id=1", list("4.10", 0))
	do(200, "POST", "/api/v1/feeds/2/take", `{"source_id":1,"once":true}`)
	changes := rows(e, "/api/v1/feeds/2/changes")
	fields := map[any]any{}
	for _, c := range changes {
		fields[c["field"]] = c["after"]
	}
	assert.Contains(t, fields, "cost")
	assert.Contains(t, fields, "stock")
	plan := get[struct{ ID int64 }](e, "/api/v1/plans")
	zero := rows(e, fmt.Sprintf("/api/v1/plans/%d/lines", plan.ID))
	require.NotEmpty(t, zero)
	assert.Equal(t, "zero", zero[0]["kind"])
	do(200, "POST", fmt.Sprintf("/api/v1/plans/%d/submit", plan.ID), `{}`)
	assert.EqualValues(t, 0, rows(e, "/api/v1/listings")[0]["confirmed_quantity"], "the marketplace has no stock of it any more")
	again := e.ask("POST", fmt.Sprintf("/api/v1/plans/%d/submit", plan.ID), `{}`)
	if again.status == 200 {
		assert.Contains(t, again.text, `"lines":0`)
	} else {
		assert.Equal(t, 409, again.status)
	}
	assert.EqualValues(t, 2, market.Applied(), "nothing goes twice")
	for _, path := range []string{"/api/v1/plans/999/submit", "/api/v1/submissions/9/retry", "/api/v1/submissions/9/abandon"} {
		assert.Equal(t, 404, e.ask("POST", path, `{}`).status, path)
	}
	assert.Equal(t, 409, e.ask("POST", "/api/v1/submissions/1/abandon", `{}`).status, "what was handed over can't be given up")
}

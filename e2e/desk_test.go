package e2e_test

import (
	"fmt"
	"net/http"
	"testing"

	"easymargin/e2e/browser"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// onTheBoard lists so many products on The Slipway Board, all they need said, and
// sends them.
func onTheBoard(t *testing.T, p *browser.Program, n int) int64 {
	type site struct {
		ID   int64
		Name string
	}
	var here int64
	for _, s := range ask[[]site](t, p, "/api/v1/sites") {
		if s.Name == "The Slipway Board" {
			here = s.ID
		}
	}
	require.NotZero(t, here)
	var found struct {
		Rows []struct {
			ProductID int64 `json:"product_id"`
		}
	}
	require.NoError(t, p.Ask(http.MethodGet, fmt.Sprintf("/api/v1/sites/%d/listable-products?limit=%d&words=mug", here, n), nil, &found))
	var products []int64
	for _, r := range found.Rows {
		products = append(products, r.ProductID)
	}
	require.Len(t, products, n)
	require.NoError(t, p.Ask(http.MethodPost, fmt.Sprintf("/api/v1/sites/%d/listings", here), map[string]any{"products": products, "category": "For the kitchen"}, nil))
	type list struct {
		Rows []struct {
			ID    int64
			State string
		}
	}
	read := func() list {
		return ask[list](t, p, fmt.Sprintf("/api/v1/preparations?site=%d&part=all&limit=50", here))
	}
	until(t, p, "they are there", func([]run) bool { return len(read().Rows) == n })
	var ids []int64
	for _, r := range read().Rows {
		ids = append(ids, r.ID)
		require.NoError(t, p.Ask(http.MethodPut, fmt.Sprintf("/api/v1/preparations/%d", r.ID), map[string]any{"say": []map[string]any{
			{"field": "description", "values": []string{"A good mug for the hill, hardly used."}}, {"field": "attributes.condition", "values": []string{"New"}}}}, nil))
	}
	until(t, p, "they are ready", func([]run) bool {
		for _, r := range read().Rows {
			if r.State != "ready" {
				return false
			}
		}
		return true
	})
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/submissions", map[string]any{"listings": ids}, nil))
	return here
}

// Ten listings are put up through the hand desk, by keyboard alone.
func TestTheHandDeskByKeyboard(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	onTheBoard(t, p, 10)
	type task struct{ Key, Title string }
	tasks := func() []task { return ask[[]task](t, p, "/api/v1/tasks") }
	until(t, p, "they wait at the desk", func([]run) bool { return len(tasks()) == 10 })
	s := open(t, p, "/send?tab=hand")
	require.NoError(t, proto.BrowserGrantPermissions{Permissions: []proto.BrowserPermissionType{proto.BrowserPermissionTypeClipboardSanitizedWrite, proto.BrowserPermissionTypeClipboardReadWrite}, Origin: p.URL, BrowserContextID: s.Browser().BrowserContextID}.Call(s.Browser()))
	for i := range 10 {
		first := tasks()[0]
		s.sees("h2", first.Title)
		if i == 0 {
			s.clean(axeText(t), "the hand desk", "light")
			s.sees("td", "^Title$")
			s.keys('c')
			s.sees("button", "copied")
			require.Equal(t, first.Title[:5], s.MustEval("() => navigator.clipboard.readText()").Str()[:5])
			s.keys('c')
			s.MustElement("[title='Copy Price']").MustWait("function() { return this.textContent.includes('copied') }")
			s.MustElement("[aria-label='The address of its page there']").MustInput("https://slipway.example/notice/1")
			s.keys(input.Enter)
		} else {
			s.keys('.')
		}
		until(t, p, "it is done", func([]run) bool { return len(tasks()) == 9-i })
	}
	s.sees("div", "Nothing is to be done by hand")
	s.MustNavigate(p.URL + "/send?tab=out")
	s.sees("[role=row]", "The Slipway Board")
}

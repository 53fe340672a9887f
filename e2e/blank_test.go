package e2e_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"easymargin/e2e/browser"

	"github.com/stretchr/testify/require"
)

// saved is what an address gives, in a file.
func saved(t *testing.T, address, name string) string {
	res, err := http.Get(address)
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, http.StatusOK, res.StatusCode, address)
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, raw, 0o600))
	return path
}

// listedOnCopperfold lists some mugs there and says all that their sheet needs.
func listedOnCopperfold(t *testing.T, p *browser.Program) []int64 {
	var found struct {
		Rows []struct {
			ProductID int64 `json:"product_id"`
		}
	}
	require.NoError(t, p.Ask(http.MethodGet, "/api/v1/sites/7/listable-products?limit=4&words=mug", nil, &found))
	var products []int64
	for _, r := range found.Rows {
		products = append(products, r.ProductID)
	}
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/7/listings", map[string]any{"products": products, "category": "cooking"}, nil))
	type list struct{ Rows []struct{ ID int64 } }
	read := func() list { return ask[list](t, p, "/api/v1/preparations?site=7&part=all") }
	until(t, p, "they are there", func([]run) bool { return len(read().Rows) == 4 })
	var ids []int64
	for _, r := range read().Rows {
		ids = append(ids, r.ID)
		require.NoError(t, p.Ask(http.MethodPut, fmt.Sprintf("/api/v1/preparations/%d", r.ID), map[string]any{"say": []map[string]any{
			{"field": "description", "values": []string{"A good mug for the hill."}}, {"field": "attributes.commodity_code", "values": []string{"7323.94"}},
			{"field": "attributes.origin", "values": []string{"norland"}}, {"field": "attributes.packer", "values": []string{"Saltmarsh Kit, Wick"}}}}, nil))
		var second struct{ Digest string }
		require.NoError(t, p.Ask(http.MethodPost, "/api/v1/pictures/fetch", map[string]any{"address": fmt.Sprintf("%s/pic/mug-back%d.png", p.Suppliers, r.ID)}, &second))
		one := ask[struct{ Pictures []struct{ Original string } }](t, p, fmt.Sprintf("/api/v1/preparations/%d", r.ID))
		pictures := []map[string]any{{"original": second.Digest, "recipe": map[string]any{}}}
		for _, x := range one.Pictures {
			pictures = append(pictures, map[string]any{"original": x.Original, "recipe": map[string]any{}})
		}
		require.NoError(t, p.Ask(http.MethodPut, fmt.Sprintf("/api/v1/preparations/%d/pictures", r.ID), map[string]any{"pictures": pictures}, nil))
	}
	return ids
}

// A blank is dropped and looked at, its sheet filled and uploaded on the place's
// own page, and what its people say of it comes back by its report.
func TestABlankIsDroppedFilledAndItsReportRead(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	seller := p.Market + "/copperfold/seller/"
	s := open(t, p, "/prepare?tab=asked&site=7")
	s.MustElement("[data-testid='file of Blank sheets of Copperfold NO']").MustSetFiles(saved(t, seller+"blanks/copperfold-cooking.xlsx", "copperfold-cooking.xlsx"))
	s.sees("table", "Commodity code")
	s.sees("td", "one of 4: Norland")
	s.clean(axeText(t), "a blank", "light")
	s.keys('.')
	s.sees("[role=status]", "Kept")
	s.sees("button", "of 6 needed") // what it asks for is what its category demands

	ids := listedOnCopperfold(t, p)
	until(t, p, "they are ready", func([]run) bool {
		for _, id := range ids {
			if ask[struct{ State string }](t, p, fmt.Sprintf("/api/v1/preparations/%d", id)).State != "ready" {
				return false
			}
		}
		return true
	})
	// All that is ready goes at once, by key: to three sites of a gateway and to the place of sheets.
	s.MustNavigate(p.URL + "/send")
	s.sees("button", "Send 7 ready listings")
	s.keys('.')
	s.sees("[role=row]", "Copperfold NO")
	for _, site := range []string{"Quaymarket GB", "Quaymarket IE", "Quaymarket DE"} {
		s.sees("[role=row]", site)
	}
	type file struct {
		ID   int64
		Name string
	}
	until(t, p, "the sheet is filled", func([]run) bool { return len(ask[[]file](t, p, "/api/v1/sheets")) == 1 })
	made := ask[[]file](t, p, "/api/v1/sheets")[0]
	s.MustNavigate(p.URL + "/send?tab=sheets")
	s.sees("section", made.Name)
	filled := saved(t, fmt.Sprintf("%s/api/v1/sheets/%d/content", p.URL, made.ID), made.Name)

	s.sees("button", "Not uploaded")
	place := open(t, p, "/") // the seller's own page, at the place
	place.MustNavigate(seller)
	place.MustElement("input[type=file]").MustSetFiles(filled)
	place.MustElement("select").MustSelect("Copperfold NO")
	place.press("Upload it")
	place.sees("td", "under review")

	s.press("I have uploaded it")
	s.sees("section", "4 without a word")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 60}, nil))
	report := "[data-testid='file of Report of Copperfold NO']"
	s.MustElement(report).MustSetFiles(saved(t, seller+"uploads/1/report.csv", "report.csv"))
	s.sees("strong", "report.csv")
	s.clean(axeText(t), "a report", "light")
	s.keys('.')
	s.sees("[role=status]", "0 listed, 0 refused, 4 they are at")
	s.sees("section", "is it sold in the box")

	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 49 * 60}, nil))
	s.MustElement(report).MustSetFiles(saved(t, seller+"uploads/1/report.csv", "report.csv"))
	s.sees("td", "rejected")
	s.keys('.')
	s.sees("[role=status]", "3 listed, 1 refused, 0 they are at")
	s.MustNavigate(p.URL + "/send?tab=refused")
	s.sees("[role=grid]", "say in the title what it is made of")

	// One part was refused: it is mended in a file, that is dropped back, and only it goes again.
	refused := saved(t, p.URL+"/api/v1/sites/7/refusals/export.csv", "refused.csv")
	raw, err := os.ReadFile(refused)
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 2)
	require.Equal(t, "title", rows[1][3])
	rows[1][4] = "Mug for the hill, titanium"
	var mended bytes.Buffer
	require.NoError(t, csv.NewWriter(&mended).WriteAll(rows))
	require.NoError(t, os.WriteFile(refused, mended.Bytes(), 0o600))
	s.MustElement("[data-testid='file of Mend what Copperfold NO refused in a file']").MustSetFiles(refused)
	s.sees("section", "1 value mended")
	s.clean(axeText(t), "mended in a file", "dark")
	s.keys('k')
	s.sees("button", "Send 1 listing")
	until(t, p, "it is worked out anew", idle)
	s.keys('.')
	s.sees("h1", "Listings to Copperfold NO")
	until(t, p, "its sheet is filled", func([]run) bool {
		return slices.ContainsFunc(ask[[]file](t, p, "/api/v1/sheets"), func(f file) bool { return f.ID != made.ID })
	})
	second := ask[[]file](t, p, "/api/v1/sheets")
	again := second[slices.IndexFunc(second, func(f file) bool { return f.ID != made.ID })]
	place.MustNavigate(seller)
	place.MustElement("input[type=file]").MustSetFiles(saved(t, fmt.Sprintf("%s/api/v1/sheets/%d/content", p.URL, again.ID), again.Name))
	place.MustElement("select").MustSelect("Copperfold NO")
	place.press("Upload it")
	place.sees("td", "under review")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/demo/advance", map[string]any{"minutes": 49 * 60}, nil))
	s.MustNavigate(p.URL + "/send?tab=sheets")
	s.MustElement(report).MustSetFiles(saved(t, seller+"uploads/2/report.csv", "report.csv"))
	s.sees("td", "listed")
	s.keys('.')
	s.sees("[role=status]", "1 listed, 0 refused")
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/7/listings/read-back", nil, nil))
	until(t, p, "all four are live after their review", func([]run) bool {
		for _, id := range ids {
			if ask[struct{ State string }](t, p, fmt.Sprintf("/api/v1/listings/%d", id)).State != "live" {
				return false
			}
		}
		return true
	})

	// Price and stock of all that is on sale there, as a light file.
	s.press("New light file")
	s.labelled("^Site").MustSelect("Copperfold NO")
	s.press("Keep it")
	s.sees("section", "price-and-stock.csv")
	light := ask[[]file](t, p, "/api/v1/price-stock-files")
	require.Len(t, light, 1)
	raw, err = os.ReadFile(saved(t, fmt.Sprintf("%s/api/v1/price-stock-files/%d/content", p.URL, light[0].ID), "light.csv"))
	require.NoError(t, err)
	rows, err = csv.NewReader(bytes.NewReader(raw)).ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{"sku", "price", "quantity"}, rows[0])
	require.Len(t, rows, 5)
}

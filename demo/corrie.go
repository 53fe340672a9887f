package demo

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html/template"
	"strings"

	"easymargin/internal/sim"
)

var corriePage = template.Must(
	template.New("").Parse(`<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{{.Title}} | Corrie & Wether</title>
<link rel="canonical" href="{{.Path}}"><style>body{font:16px/1.5 serif;max-width:40rem;margin:2rem auto;color:#223}</style>
<script type="application/ld+json">{{.Data}}</script></head>
<body><p><a href="/corrie/">Corrie & Wether</a> (a made-up shop of the demo)</p><h1>{{.Title}}</h1><p>{{.Price}} USD, delivery 5.90, free from 40.00</p></body></html>`),
)

var corrieHome = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>{{.Title}}</title>
<style>body{font:16px/1.6 serif;max-width:40rem;margin:2rem auto;color:#223}</style><h1>{{.Title}}</h1><p>{{.Words}}</p><ul>{{range .Links}}<li><a href="{{.Path}}">{{.Title}}</a>{{end}}</ul></html>`))

type link struct{ Path, Title string }

func corrieItems() []item { return items(catalogueSize)[1500:1524] }

func corriePath(it item) string {
	return "/corrie/goods/" + strings.ToLower(strings.NewReplacer(" ", "-", ",", "", "×", "x", ".", "").Replace(it.title()))
}

// suppliersPages are the documents of the suppliers' side of the demo: Corrie &
// Wether's shop with a page a product, and Brindlewick's sheet to download.
func suppliersPages() (sim.Pages, error) {
	pages, links := sim.Pages{}, []link{}
	render := func(path string, t *template.Template, data any) error {
		var b bytes.Buffer
		err := t.Execute(&b, data)
		pages[path] = sim.Page{Type: "text/html; charset=utf-8", Body: b.Bytes()}
		return err
	}
	for _, it := range corrieItems() {
		path := corriePath(it)
		price := pence(it.cost * 13 / 10)
		data, err := json.Marshal(
			map[string]any{
				"@context": "https://schema.org",
				"@type":    "Product",
				"name":     it.title(),
				"sku":      fmt.Sprintf("CW-%d", 5000+it.n),
				"gtin13":   it.gtin,
				"brand": map[string]any{
					"@type": "Brand",
					"name":  it.brand,
				},
				"category":    it.category,
				"description": "<p>" + it.good.name + ", " + it.way + ".</p>",
				"image":       []string{"/corrie/pic/" + it.category + "-" + it.ref() + ".png"},
				"offers": map[string]any{
					"@type":         "Offer",
					"price":         price,
					"priceCurrency": "USD",
					"availability":  "https://schema.org/InStock",
				},
			},
		)
		if err != nil {
			return nil, err
		}
		if err := render(
			path,
			corriePage,
			map[string]any{"Title": it.title(), "Path": path, "Price": price, "Data": template.JS(data)},
		); err != nil {
			return nil, err
		}
		links = append(links, link{path, it.title()})
	}
	sheet, err := Brindlewick()
	if err != nil {
		return nil, err
	}
	pages["/brindlewick/trade-list.xlsx"] = sim.Page{
		Type: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		Name: "brindlewick-trade-list.xlsx",
		Body: sheet,
	}
	pages[GulleryCatalogue] = sim.Page{Type: "text/csv; charset=utf-8", Name: "catalogue.csv", Body: fairCatalogue()}
	pages[GulleryListings] = sim.Page{Type: "text/csv; charset=utf-8", Name: "listing-report.csv", Body: fairListings()}
	if err := render(
		"/corrie/",
		corrieHome,
		map[string]any{
			"Title": "Corrie & Wether",
			"Words": "Paste the address of one of these pages under Sources, One page.",
			"Links": links,
		},
	); err != nil {
		return nil, err
	}
	return pages, render(
		"/",
		corrieHome,
		map[string]any{
			"Title": "The demo's suppliers, and a place without a gateway",
			"Words": "All of them are made up. Fetch the lists by their addresses, drop the sheet on Sources, paste a page's address.",
			"Links": []link{
				{
					"/fernhollow/products.csv",
					"Fernhollow Wholesale: the price list",
				},
				{"/tidewrack/clearance.json", "Tidewrack Clearance: what is left"},
				{
					"/brindlewick/trade-list.xlsx",
					"Brindlewick Outdoor: the trade list, a sheet to download",
				},
				{"/corrie/", "Corrie & Wether: a page a product"},
				{GulleryCatalogue, "Gullery Fair, a place without a gateway: its catalogue to download"},
				{GulleryListings, "Gullery Fair: the report of what you have listed there"},
			},
		},
	)
}

package sim

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"easymargin/core/money"
)

var pages = template.Must(template.New("").Parse(`{{define "top"}}<!doctype html><html lang="en"><meta charset="utf-8">
<title>{{.Title}} · {{.Place}}</title><style>body{font:16px/1.5 serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#223}
h1{font-size:1.5rem;margin:.2rem 0}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.4rem .6rem;border-bottom:1px solid #ccc}
td.n{text-align:right;font-family:monospace}small{color:#667}a{color:#245}img{float:right;width:9rem}.us{background:#f2efe2}</style>
<small><a href="/">{{.Place}}</a> (a made-up marketplace of the demo)</small>{{end}}
{{define "home"}}{{template "top" .}}<h1>{{.Place}}</h1><p>{{.Count}} entries. The newest offers of {{.Seller}}:</p><ul>{{range .Rows}}<li><a href="{{.Page}}">{{.Title}}</a>{{else}}<li>none yet{{end}}</ul><p>{{if .Sheets}}<a href="seller/">For sellers: its sheets</a> · {{end}}<a href="moods">How it behaves</a></p>{{end}}
{{define "entry"}}{{template "top" .}}<img src="{{.Entry.Picture}}" alt=""><h1>{{.Entry.Title}}</h1><p><small>{{.Entry.Brand}} · entry {{.Entry.Ref}} · {{.Entry.GTIN}}</small></p>
<table><tr><th>Seller<th>Price<th>Delivery<th>Stock</tr>{{range .Rows}}<tr{{if .Us}} class="us" id="ours"{{end}}><td>{{.Seller}}{{if .Lead}} <small>leads</small>{{end}}<td class="n">{{.Item}}<td class="n">{{.Delivery}}<td>{{.Stock}}{{if .SKU}}<form method="post" action="../buyers/buy"><input type="hidden" name="sku" value="{{.SKU}}"><input type="hidden" name="site" value="{{$.Site}}"><button>Somebody buys one</button></form>{{end}}</tr>{{else}}<tr><td colspan="4">No offers.{{end}}</table>{{end}}
{{define "bought"}}{{template "top" .}}<h1>{{.Title}}</h1>{{if .Off}}<p>It was called off, or sent back.</p>{{else}}<p>Somebody has bought it.</p>
<form method="post" action="call-off"><input type="hidden" name="site" value="{{.Site}}"><input type="hidden" name="ref" value="{{.Ref}}"><button>They change their mind</button></form>{{end}}{{end}}
{{define "seller"}}{{template "top" .}}<h1>Sheets of {{.Seller}}</h1>
<p>Download a blank, fill it, upload it here. People look new listings through: that takes two days. Changes of price and stock are done at once.</p>
<ul>{{range .Blanks}}<li><a href="blanks/{{.Name}}" download>{{.Name}}</a>{{end}}</ul>
<form method="post" action="uploads" enctype="multipart/form-data"><p><select name="site" aria-label="Country">{{range .Sites}}<option value="{{.Code}}">{{.Name}}{{end}}</select>
<input type="file" name="sheet" aria-label="Filled sheet" required> <button>Upload it</button></form>
<table><tr><th>Sheet<th>Country<th>Lines<th>State<th>Report</tr>{{range .Rows}}<tr><td>{{.Name}}<td>{{.Site}}<td class="n">{{.Lines}}<td>{{.State}}<td><a href="uploads/{{.ID}}/report.csv" download>report</a></tr>{{else}}<tr><td colspan="5">No sheets yet.{{end}}</table>{{end}}`))

type row struct {
	Seller, Item, Delivery, Stock string
	SKU                           string // of ours that can be bought
	Us, Lead                      bool
	total                         int64
}

// page is the public page of an entry: every offer, ours among them.
func (m *Marketplace) page(w http.ResponseWriter, r *http.Request) {
	e := m.byRef[r.PathValue("ref")]
	if e == nil {
		http.NotFound(w, r)
		return
	}
	show := func(v int64) string {
		return money.Of(v, money.Currency(m.Sites[0].Currency)).String() + " " + m.Sites[0].Currency
	}
	var rows []row
	for _, o := range m.asked(e) {
		rows = append(rows, row{o.Seller, show(o.Item), show(o.Delivery), "in stock", "", false, o.Lead, o.Item + o.Delivery})
	}
	m.mu.Lock()
	m.advance()
	for _, o := range m.own[m.Sites[0].Code] { // these pages are those of its first country
		if o.Entry == e.Ref {
			stock, sku := fmt.Sprintf("%d in stock", o.Quantity), o.SKU
			if o.Quantity == 0 {
				stock, sku = "no stock", ""
			}
			rows = append(rows, row{m.Seller, show(o.Price), show(0), stock, sku, true, false, o.Price})
		}
	}
	m.mu.Unlock()
	slices.SortStableFunc(rows, func(a, b row) int { return int(a.total - b.total) })
	m.render(w, "entry", map[string]any{"Title": e.Title, "Place": m.Name, "Entry": e, "Rows": rows, "Site": m.Sites[0].Code})
}

func (m *Marketplace) home(w http.ResponseWriter, _ *http.Request) {
	var rows []*Entry
	m.mu.Lock()
	m.advance()
	for _, o := range m.own[m.Sites[0].Code] { // these pages are those of its first country
		if e := m.byRef[o.Entry]; e != nil { // a listing of the seller's own is on no entry
			rows = append(rows, e)
		}
	}
	m.mu.Unlock()
	slices.SortFunc(rows, func(a, b *Entry) int { return strings.Compare(a.Title, b.Title) })
	m.render(
		w,
		"home",
		map[string]any{
			"Title":  "Welcome",
			"Place":  m.Name,
			"Count":  len(m.Entries),
			"Seller": m.Seller,
			"Rows":   rows[:min(len(rows), 200)],
			"Sheets": m.Sheets != nil,
		},
	)
}

// buyersRoutes are what made-up buyers do: buy a thing of ours, and call an order
// off, or send back what came. A person does it on the marketplace's pages.
func (m *Marketplace) buyersRoutes() {
	m.mux.HandleFunc("POST /buyers/buy", func(w http.ResponseWriter, r *http.Request) {
		n, err := strconv.ParseInt(cmp.Or(r.FormValue("quantity"), "1"), 10, 64)
		if err != nil || n < 1 {
			http.Error(w, "quantity is a whole number above 0", http.StatusBadRequest)
			return
		}
		ref, err := m.Buy(r.FormValue("site"), r.FormValue("sku"), n)
		if err != nil {
			http.Error(w, err.Error(), http.StatusConflict)
			return
		}
		m.render(w, "bought", map[string]any{"Title": "Order " + ref, "Place": m.Name, "Ref": ref, "Site": r.FormValue("site")})
	})
	m.mux.HandleFunc("POST /buyers/call-off", func(w http.ResponseWriter, r *http.Request) {
		site, ref := r.FormValue("site"), r.FormValue("ref")
		if m.Ordered(site, ref).Ref == "" {
			http.Error(w, "there is no order "+ref, http.StatusNotFound)
			return
		}
		m.CallOff(site, ref)
		m.render(w, "bought", map[string]any{"Title": "Order " + ref, "Place": m.Name, "Ref": ref, "Site": site, "Off": true})
	})
}

func (m *Marketplace) render(w http.ResponseWriter, name string, data any) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; form-action 'self'")
	_ = pages.ExecuteTemplate(w, name, data)
}

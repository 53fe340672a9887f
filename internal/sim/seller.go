package sim

import (
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"easymargin/core/money"
)

// Sheets is the part of a marketplace that takes filled sheets: a seller's page
// with blanks to download, a form to upload them, and what became of each.
type Sheets struct {
	Blanks []SheetBlank
	Review time.Duration // clock time that its people take
	Doors  []string      // sites whose gateway takes them too
}

// SheetBlank is a blank to download.
type SheetBlank struct {
	Name    string
	Content []byte
}

// upload is a filled sheet that a seller gave.
type upload struct {
	ID       int64
	Key      string
	Site     string
	Name     string
	Received time.Time
	Rows     []uploaded
	Applied  bool
}

// uploaded is a line of one. State is "" until it is looked at.
type uploaded struct {
	Row      int
	SKU      string
	Price    string
	Quantity string
	Listing  *Content // nil: a change of price and stock
	State    string
	Column   string
	Words    string
}

// sellerRoutes are those of the seller's page, and of the gateway's door for sheets.
func (m *Marketplace) sellerRoutes(api func(pattern string, h func(w http.ResponseWriter, r *http.Request))) {
	if m.Sheets == nil {
		return
	}
	m.mux.HandleFunc("GET /seller/{$}", m.seller)
	api("POST /gateway/v1/sites/{site}/sheets", m.giveSheet)
	api("GET /gateway/v1/sites/{site}/sheets/{id}", m.sheetLines)
	m.mux.HandleFunc("GET /seller/blanks/{name}", func(w http.ResponseWriter, r *http.Request) {
		for _, b := range m.Sheets.Blanks {
			if b.Name == r.PathValue("name") {
				w.Header().Set("Content-Disposition", `attachment; filename="`+b.Name+`"`)
				_, _ = w.Write(b.Content)
				return
			}
		}
		http.NotFound(w, r)
	})
	m.mux.HandleFunc("POST /seller/uploads", m.takeSheet)
	m.mux.HandleFunc("GET /seller/uploads/{id}/report.csv", m.report)
}

func (m *Marketplace) seller(w http.ResponseWriter, _ *http.Request) {
	type row struct {
		ID, Lines         int64
		Name, Site, State string
	}
	var rows []row
	m.mu.Lock()
	m.review()
	for _, u := range m.uploads {
		state := "under review"
		if !slices.ContainsFunc(u.Rows, func(x uploaded) bool { return x.State == "under review" || x.State == "question" }) {
			state = "looked through"
		}
		rows = append(rows, row{u.ID, int64(len(u.Rows)), u.Name, u.Site, state})
	}
	m.mu.Unlock()
	slices.Reverse(rows)
	m.render(w, "seller", map[string]any{"Title": "For sellers", "Place": m.Name, "Seller": m.Seller, "Blanks": m.Sheets.Blanks, "Sites": m.Sites, "Rows": rows})
}

// takeSheet takes an upload. One that it can't read is refused whole, with why.
func (m *Marketplace) takeSheet(w http.ResponseWriter, r *http.Request) {
	file, head, err := r.FormFile("sheet")
	if err != nil {
		http.Error(w, "choose a filled sheet", http.StatusBadRequest)
		return
	}
	defer file.Close()
	raw, err := io.ReadAll(io.LimitReader(file, 64<<20))
	var rows []uploaded
	if err == nil {
		rows, err = readSheet(head.Filename, raw)
	}
	site := r.FormValue("site")
	if err == nil && !slices.ContainsFunc(m.Sites, func(s Site) bool { return s.Code == site }) {
		err = errors.New("choose a country")
	}
	if err != nil {
		http.Error(w, "Refused: "+err.Error(), http.StatusUnprocessableEntity)
		return
	}
	m.mu.Lock()
	m.uploads = append(m.uploads, &upload{ID: int64(len(m.uploads) + 1), Site: site, Name: path.Base(head.Filename), Received: m.Clock.Now(), Rows: rows})
	m.review()
	m.tell()
	m.mu.Unlock()
	w.Header().Set("Location", "./") // from where it is served, under whatever path
	w.WriteHeader(http.StatusSeeOther)
}

// giveSheet takes an upload by the gateway; the same key again makes no second one.
func (m *Marketplace) giveSheet(w http.ResponseWriter, r *http.Request) {
	if !slices.Contains(m.Sheets.Doors, r.PathValue("site")) {
		problem(w, http.StatusNotFound, "sheets are uploaded on the sellers' page")
		return
	}
	raw, err := io.ReadAll(io.LimitReader(r.Body, 64<<20))
	var rows []uploaded
	if err == nil {
		rows, err = readSheet(r.URL.Query().Get("name"), raw)
	}
	if err != nil {
		problem(w, http.StatusUnprocessableEntity, err.Error())
		return
	}
	key := r.Header.Get("Idempotency-Key")
	m.mu.Lock()
	defer m.mu.Unlock()
	i := slices.IndexFunc(m.uploads, func(u *upload) bool { return key != "" && u.Key == key })
	if i < 0 {
		i = len(m.uploads)
		m.uploads = append(m.uploads, &upload{ID: int64(i + 1), Key: key, Site: r.PathValue("site"), Name: path.Base(r.URL.Query().Get("name")), Received: m.Clock.Now(), Rows: rows})
		m.review()
		m.tell()
	}
	answer(w, map[string]any{"id": strconv.Itoa(i + 1)})
}

// sheetLines is what became of the lines of an upload.
func (m *Marketplace) sheetLines(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(r.PathValue("id"), 10, 64)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.review()
	if id < 1 || id > int64(len(m.uploads)) {
		problem(w, http.StatusNotFound, "no such sheet")
		return
	}
	lines := []map[string]any{}
	for _, x := range m.uploads[id-1].Rows {
		state := map[string]string{"listed": "confirmed", "rejected": "refused"}[x.State]
		lines = append(lines, map[string]any{"sku": x.SKU, "state": cmp.Or(state, x.State), "column": x.Column, "words": x.Words})
	}
	answer(w, map[string]any{"lines": lines})
}

// readSheet reads a filled sheet of ours by its headers.
func readSheet(name string, raw []byte) ([]uploaded, error) {
	var table [][]string
	if strings.HasPrefix(string(raw), "PK") {
		f, err := excelize.OpenReader(strings.NewReader(string(raw)))
		if err != nil {
			return nil, fmt.Errorf("%s can't be opened", name)
		}
		defer f.Close()
		for _, sheet := range f.GetSheetList() {
			if v, err := f.GetSheetVisible(sheet); err == nil && v {
				if table, err = f.GetRows(sheet, excelize.Options{RawCellValue: true}); err != nil {
					return nil, err
				}
				break
			}
		}
	} else {
		r := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(raw), "\ufeff")))
		r.FieldsPerRecord = -1
		var err error
		if table, err = r.ReadAll(); err != nil {
			return nil, fmt.Errorf("%s can't be read: %w", name, err)
		}
	}
	at := map[string]int{}
	var out []uploaded
	for _, rec := range table {
		cell := func(name string) string {
			if i, ok := at[name]; ok && i < len(rec) {
				return strings.TrimSpace(rec[i])
			}
			return ""
		}
		if len(at) == 0 {
			if slices.ContainsFunc(rec, func(c string) bool { return header(c) == "sku" }) {
				for i, c := range rec {
					at[header(c)] = i
				}
			}
			continue
		}
		sku := cell("sku")
		if sku == "" || strings.HasPrefix(sku, "EXAMPLE") {
			continue
		}
		u := uploaded{Row: len(out) + 1, SKU: sku, Price: cell("price"), Quantity: cell("stock") + cell("quantity")}
		if _, whole := at["title"]; whole {
			u.Listing = &Content{Title: cell("title"), Description: cell("description"), Brand: cell("brand"), Attributes: map[string]string{
				"printed_price": cell("printed price"), "commodity_code": cell("commodity code"), "origin": cell("origin"), "packer": cell("packer")}}
			for _, p := range []string{"picture 1", "picture 2"} {
				if cell(p) != "" {
					u.Listing.Pictures = append(u.Listing.Pictures, cell(p))
				}
			}
		}
		out = append(out, u)
	}
	if len(at) == 0 {
		return nil, errors.New("no row names a column SKU")
	}
	return out, nil
}

// header is a column's name without its star.
func header(cell string) string { return strings.ToLower(strings.Trim(cell, " *")) }

// review looks through what was uploaded, as far as the clock has come: called
// with the marketplace locked.
func (m *Marketplace) review() {
	for _, u := range m.uploads {
		done := !m.Clock.Now().Before(u.Received.Add(m.Sheets.Review))
		if u.Applied {
			continue
		}
		u.Applied = true
		for i := range u.Rows {
			x := &u.Rows[i]
			if x.Listing != nil && !done {
				u.Applied = false
			}
			m.judge(u, x, done)
		}
	}
}

// judge decides on one line.
func (m *Marketplace) judge(u *upload, x *uploaded, done bool) {
	i := slices.IndexFunc(m.Sites, func(s Site) bool { return s.Code == u.Site })
	cur := money.Currency(m.Sites[i].Currency)
	had := m.own[u.Site][x.SKU]
	price, perr := money.Parse(x.Price, cur)
	quantity, qerr := strconv.ParseInt(x.Quantity, 10, 64)
	no := func(column, words string) { x.State, x.Column, x.Words = "rejected", column, words }
	switch {
	case x.State != "" && x.State != "under review" && x.State != "question":
		return
	case x.Listing == nil && had == nil:
		no("SKU", "there is no such listing of yours")
	case x.Price != "" && perr != nil:
		no("Price", "it is no price")
	case x.Quantity != "" && (qerr != nil || quantity < 0):
		no("Stock", "it is no number")
	case x.Listing != nil && !done:
		x.State = "under review"
		if x.Row == 2 {
			x.State, x.Words = "question", "is it sold in the box that the picture shows?"
		}
	case x.Listing != nil && m.refusedOnce[x.SKU] == "" && (x.Row == 4 || x.Row == 7):
		column, words := "Title", "say in the title what it is made of"
		if x.Row == 7 {
			column, words = "Packer", "the packer must be named with its town"
		}
		m.refusedOnce[x.SKU] = column
		no(column, words)
	default:
		x.State, x.Column, x.Words = "listed", "", ""
		now := own{SKU: x.SKU, Content: x.Listing}
		if had != nil {
			now = *had
		}
		if x.Price != "" {
			now.Price = price.Minor
		}
		if x.Quantity != "" {
			now.Quantity = quantity
		}
		if m.own[u.Site] == nil {
			m.own[u.Site] = map[string]*own{}
		}
		m.own[u.Site][x.SKU] = &now
		m.applied++
	}
}

// report is what became of an upload, as a file.
func (m *Marketplace) report(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(r.PathValue("id"), 10, 64)
	m.mu.Lock()
	defer m.mu.Unlock()
	m.review()
	m.tell()
	if id < 1 || id > int64(len(m.uploads)) {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="report-%d.csv"`, id))
	out := csv.NewWriter(w)
	rows := [][]string{{"Line", "SKU", "Status", "Column", "Message"}}
	for _, x := range m.uploads[id-1].Rows {
		rows = append(rows, []string{strconv.Itoa(x.Row), x.SKU, x.State, x.Column, x.Words})
	}
	_ = out.WriteAll(rows)
}

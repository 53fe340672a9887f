package preparing

import (
	"bytes"
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Mends is what a file says otherwise than refused listings of a site do: a
// place's report with its rows mended, or ours of what was refused.
type Mends struct {
	Token   string   `json:"token" doc:"Names it when it is kept"`
	Rows    int      `json:"rows"`
	Changes []Change `json:"changes"`
	Unused  []string `json:"unused" doc:"Columns that nothing is taken from"`
	Strange []string `json:"strange" doc:"SKUs of no refused listing of ours, the first few"`
}

// Change is what a file says of a field of a listing.
type Change struct {
	ListingID int64  `json:"id"`
	SKU       string `json:"sku"`
	Title     string `json:"title"`
	Field     string `json:"field"`
	Before    string `json:"before"`
	After     string `json:"after"`
}

// mostMends is the most listings that one file may mend.
const mostMends = 5000

// heads are what the columns of a file with mends are.
type heads struct {
	sku, field, value int                  // -1: there is none
	fields            map[int]blank.Filled // columns that each are of one field
	unused            []string
}

// skuWords are what a column of SKUs is called.
var skuWords = []string{"sku", "seller sku", "your sku"}

// headsOf reads a header: a column is of the field that a blank of the site fills
// it with, or that it is called as.
func headsOf(names []string, known map[string]blank.Filled) heads {
	h := heads{sku: -1, field: -1, value: -1, fields: map[int]blank.Filled{}}
	for i, raw := range names {
		name := strings.ToLower(strings.TrimSpace(raw))
		f, ok := known[name]
		switch {
		case name == "":
		case h.sku < 0 && (slices.Contains(skuWords, name) || f.From == "sku"):
			h.sku = i
		case h.field < 0 && (name == "field" || name == "column"):
			h.field = i
		case h.value < 0 && name == "value":
			h.value = i
		case ok && reckon.Sayable(f.From):
			h.fields[i] = f
		case reckon.Sayable(name):
			h.fields[i] = blank.Filled{From: name}
		default:
			h.unused = append(h.unused, stops.Clip(raw, 60))
		}
	}
	return h
}

// said are the fields that a row says.
func (h *heads) said(rec []string, known map[string]blank.Filled) map[string]string {
	at := func(i int) string {
		if i < 0 || i >= len(rec) {
			return ""
		}
		return plain(strings.TrimSpace(rec[i]))
	}
	out := map[string]string{}
	for i, f := range h.fields {
		if v := at(i); v != "" {
			out[f.From] = ours(f, v)
		}
	}
	if field, v := at(h.field), at(h.value); field != "" && v != "" {
		f, ok := known[strings.ToLower(field)]
		if !ok {
			f = blank.Filled{From: field}
		}
		if reckon.Sayable(f.From) {
			out[f.From] = ours(f, v)
		}
	}
	return out
}

// ours is our word for what a column says by its place's.
func ours(f blank.Filled, v string) string {
	for our, theirs := range f.Map {
		if strings.EqualFold(theirs, v) {
			return our
		}
	}
	return v
}

// plain takes the apostrophe away that keeps a text from being a formula.
func plain(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsAny(s[1:2], "=+-@\t\r") {
		return s[1:]
	}
	return s
}

// LookMends says what a file would mend of listings that a site refused. The file
// is kept until TakeMends.
func (st *Stop) LookMends(ctx context.Context, siteID int64, name string, raw []byte) (Mends, error) {
	out, _, err := st.mends(ctx, st.Store.Reading(ctx), siteID, name, raw)
	if err != nil {
		return out, err
	}
	out.Token = rand.Text()
	return out, os.WriteFile(st.Store.Inbox(out.Token), raw, 0o600)
}

// TakeMends keeps what a file mends, as if a person had said it; nothing is sent
// by it. It gives the listings that it is of.
func (st *Stop) TakeMends(ctx context.Context, siteID int64, token string) ([]int64, error) {
	gone := fault.New(fault.Conflict, "the file is no longer here; bring it in again")
	if !regexp.MustCompile(`^[A-Z2-7]{10,40}$`).MatchString(token) {
		return nil, gone
	}
	raw, err := os.ReadFile(st.Store.Inbox(token))
	if err != nil {
		return nil, gone
	}
	_, rows, err := st.mends(ctx, st.Store.Reading(ctx), siteID, "the file", raw)
	if err != nil {
		return nil, err
	}
	ids := []int64{}
	for _, r := range rows {
		ids = append(ids, r.ID)
	}
	if _, err := st.SayRows(ctx, rows); err != nil {
		return nil, err
	}
	return ids, os.Remove(st.Store.Inbox(token))
}

// mends reads what a file says otherwise than refused listings do. What it says as
// it was sent, or as it stands here by now, is nothing said.
func (st *Stop) mends(ctx context.Context, tx store.Tx, siteID int64, name string, raw []byte) (Mends, []RowSaid, error) {
	out := Mends{Changes: []Change{}, Unused: []string{}, Strange: []string{}}
	b, err := blank.Read(raw)
	if err != nil {
		return out, nil, fault.New(fault.Invalid, "%s: %v", stops.Clip(name, 100), err)
	}
	records, err := b.Records()
	if err != nil {
		return out, nil, err
	}
	known, err := stops.BlankFields(tx, siteID)
	if err != nil {
		return out, nil, err
	}
	if len(records) == 0 {
		return out, nil, fault.New(fault.Invalid, "%s is empty; its first row names its columns, and one of them is the SKU", stops.Clip(name, 100))
	}
	h := headsOf(records[0], known)
	out.Unused = append(out.Unused, h.unused...)
	if h.sku < 0 {
		return out, nil, fault.New(fault.Invalid, "%s has no column of SKUs; its first row names its columns, such as SKU", stops.Clip(name, 100))
	}
	if len(h.fields) == 0 && (h.field < 0 || h.value < 0) {
		return out, nil, fault.New(fault.Invalid, "%s has no column that says a field of a listing: name one as the place's blank does, or as field and value", stops.Clip(name, 100))
	}
	said := map[string]map[string]string{}
	var skus []string
	for _, rec := range records[1:] {
		if h.sku >= len(rec) || strings.TrimSpace(rec[h.sku]) == "" {
			continue
		}
		sku := plain(strings.TrimSpace(rec[h.sku]))
		out.Rows++
		if said[sku] == nil {
			said[sku], skus = map[string]string{}, append(skus, sku)
		}
		for f, v := range h.said(rec, known) {
			said[sku][f] = v
		}
	}
	refused, err := tx.RefusedBySKU(siteID, skus)
	if err != nil {
		return out, nil, err
	}
	var ids []int64
	for _, sku := range skus {
		if id, ok := refused[sku]; ok {
			ids = append(ids, id)
		} else if len(out.Strange) < 10 {
			out.Strange = append(out.Strange, stops.Clip(sku, 60))
		}
	}
	if len(ids) > mostMends {
		return out, nil, fault.New(fault.Invalid, "%d refused listings are in it; at most %d are mended by one file", len(ids), mostMends)
	}
	sent, err := tx.SentContents(ids)
	if err != nil {
		return out, nil, err
	}
	list, err := loadAll(tx, ids)
	if err != nil {
		return out, nil, err
	}
	var rows []RowSaid
	for _, x := range list {
		p, _, _, err := x.with(ctx, st.Now(), nil)
		if err != nil {
			return out, nil, err
		}
		before, err := place.ReadContent(sent[x.listing.ID])
		if err != nil {
			return out, nil, err
		}
		row, changes, err := otherwise(x, p.Content(&x.listing), before, said[x.listing.SKU])
		if err != nil {
			return out, nil, err
		}
		for i := range changes {
			changes[i].Title = p.Report.Title
		}
		if out.Changes = append(out.Changes, changes...); len(row.Say) > 0 {
			rows = append(rows, row)
		}
	}
	return out, rows, nil
}

// otherwise is what of the values that a file has for a listing is neither as it
// was sent nor as it is.
func otherwise(x *loaded, now, sent *place.Content, said map[string]string) (RowSaid, []Change, error) {
	row := RowSaid{ID: x.listing.ID}
	var out []Change
	for _, field := range slices.Sorted(maps.Keys(said)) {
		v := said[field]
		is, err := now.Text(field)
		if err != nil {
			return row, nil, err
		}
		was, err := sent.Text(field)
		if err != nil {
			return row, nil, err
		}
		if v == is || v == was {
			continue
		}
		values := []string{v}
		if field == "words" {
			values = strings.Split(v, ",")
		} else if strings.HasPrefix(field, "attributes.") && strings.Contains(v, "|") {
			values = strings.Split(v, "|")
		}
		for i := range values {
			values[i] = strings.TrimSpace(values[i])
		}
		row.Say = append(row.Say, FieldSaid{Field: field, Values: values})
		out = append(out, Change{ListingID: x.listing.ID, SKU: x.listing.SKU, Field: field, Before: is, After: v})
	}
	return row, out, nil
}

// refusedHeads are the columns of the file of what was refused.
const refusedHeads = "SKU,title,what they said,field,value\n"

var refusedColumns = blank.Columns{{Header: "SKU", From: "sku"}, {Header: "title", From: "title"}, {Header: "what they said", From: "words"},
	{Header: "field", From: "field"}, {Header: "value", From: "value"}}

// RefusedFile is what a site refused, a row each, to be mended in a spreadsheet:
// kind is csv or xlsx. None of its cells is a formula.
func (st *Stop) RefusedFile(ctx context.Context, siteID int64, kind string) ([]byte, error) {
	if kind != "csv" && kind != "xlsx" {
		return nil, fault.At("kind", "it comes as csv or xlsx")
	}
	tx := st.Store.Reading(ctx)
	ids, err := tx.RefusedOwn(siteID, mostMends)
	if err != nil {
		return nil, err
	}
	list, err := loadAll(tx, ids)
	if err != nil {
		return nil, err
	}
	var rows blank.List
	for _, x := range list {
		p, _, _, err := x.with(ctx, st.Now(), nil)
		if err != nil {
			return nil, err
		}
		value, err := p.Content(&x.listing).Text(x.listing.WordsField)
		if err != nil {
			return nil, err
		}
		rows = append(rows, blank.Row{"sku": x.listing.SKU, "title": p.Report.Title, "words": x.listing.Words, "field": x.listing.WordsField, "value": value})
	}
	b, err := blank.Read([]byte(refusedHeads))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	layout := blank.Layout{HeaderRow: 1, FirstRow: 2, Columns: refusedColumns, Output: blank.Output{Kind: kind, Encoding: "utf-8-bom"}}
	_, err = b.Fill(&layout, rows, &out, blank.Options{Human: true, Anyway: true})
	return out.Bytes(), err
}

// mendOperations are those of mending in a file.
func (st *Stop) mendOperations(api huma.API) {
	stops.Upload(api, stops.Post("/sites/{id}/mends/inspect", "inspect-mends", actor.Prepare, "What a file would mend of listings that were refused: a place's report mended, or ours. Nothing of it is kept", "prepare"), blank.MaxFile, st.LookMends)
	stops.Op(api, stops.Post("/sites/{id}/mends", "take-mends", actor.Prepare, "Keep what a file mends; nothing is sent by it", "prepare", "listings", "counts"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Token string `json:"token" maxLength:"40"`
			}
		}) ([]int64, error) {
			return st.TakeMends(ctx, in.ID, in.Body.Token)
		})
	stops.Download(api, stops.Read("/sites/{id}/refusals/export.{format}", "export-refusals", "listings", "What a site refused, to be mended in a spreadsheet"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Format
		}) (stops.File, error) {
			raw, err := st.RefusedFile(ctx, in.ID, in.Format.Format)
			return stops.File{Name: fmt.Sprintf("refused-%d.%s", in.ID, in.Format.Format), Content: raw}, err
		})
}

package sending

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"easymargin/core/money"
	"easymargin/internal/blank"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// outcomeColumns are the columns of a send-out's outcomes as a file.
var outcomeColumns = blank.Columns{
	{Header: "line", From: "line", As: "number"}, {Header: "what was done", From: "did"}, {Header: "SKU", From: "sku"}, {Header: "title", From: "title"},
	{Header: "price", From: "price", As: "number"}, {Header: "quantity", From: "quantity", As: "number"}, {Header: "outcome", From: "outcome"},
	{Header: "field", From: "field"}, {Header: "what they said", From: "words"}, {Header: "said later", From: "later"},
}

// Outcomes are those of a send-out as a file for a person's spreadsheet: kind is
// csv or xlsx. None of its cells is a formula.
func (st *Stop) Outcomes(ctx context.Context, id int64, kind string) ([]byte, error) {
	o, err := st.Store.SendOutRowOf(ctx, id)
	if err != nil {
		return nil, err
	}
	var rows blank.List
	add := func(x *store.SendLineRow) {
		row := blank.Row{"line": json.Number(strconv.Itoa(len(rows) + 1)), "did": didWords(&o, x), "sku": x.SKU, "title": x.Title, "outcome": x.State, "field": x.Field,
			"words": x.Words, "later": x.Later}
		if x.Price != nil {
			row["price"] = money.Of(*x.Price, money.Currency(x.Currency)).String()
		}
		if x.Quantity != nil {
			row["quantity"] = json.Number(strconv.FormatInt(*x.Quantity, 10))
		}
		rows = append(rows, row)
	}
	for page := (store.Page{Limit: 500}); ; {
		list, err := st.Store.SendLines(ctx, id, "", page)
		if err != nil {
			return nil, err
		}
		for i := range list.Rows {
			add(&list.Rows[i])
		}
		if page.Cursor = list.Next; page.Cursor == "" {
			break
		}
	}
	return stops.Table(kind, outcomeColumns, rows)
}

func didWords(o *store.SendOutRow, x *store.SendLineRow) string {
	switch {
	case x.Price == nil && x.Quantity == nil:
		return "words changed"
	case o.PlanID == nil && o.Undoes == nil:
		return "put up"
	case x.Price == nil && *x.Quantity == 0:
		return "taken off sale"
	}
	return "changed"
}

func describeOutcomes(api huma.API) {
	api.OpenAPI().AddOperation(&huma.Operation{Method: http.MethodGet, Path: "/api/send-outs/{id}/outcomes.{kind}", OperationID: "outcomes-file",
		Summary: "The outcomes of a send-out as a file: csv or xlsx",
		Parameters: []*huma.Param{{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: "integer"}},
			{Name: "kind", In: "path", Required: true, Schema: &huma.Schema{Type: "string", Enum: []any{"csv", "xlsx"}}}},
		Responses: map[string]*huma.Response{"200": {Description: "The file", Content: map[string]*huma.MediaType{"*/*": {}}}}})
}

// outcomesFile is the outcomes of a send-out to download.
func (st *Stop) outcomesFile(w http.ResponseWriter, r *http.Request) {
	id, err := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err != nil {
		stops.Refuse(w, http.StatusNotFound, "there is no such send-out")
		return
	}
	raw, err := st.Outcomes(r.Context(), id, chi.URLParam(r, "kind"))
	if err != nil {
		stops.Problem(w, err)
		return
	}
	stops.HandOut(w, fmt.Sprintf("send-out-%d.%s", id, chi.URLParam(r, "kind")), raw)
}

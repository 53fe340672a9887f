package sending

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

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

func (st *Stop) outcomeOperations(api huma.API) {
	stops.Download(api, stops.Read("/submissions/{id}/outcomes/export.{format}", "export-submission-outcomes", "sendouts", "The outcomes of a send-out as a file"),
		func(ctx context.Context, in *struct {
			stops.ByID
			stops.Format
		}) (stops.File, error) {
			raw, err := st.Outcomes(ctx, in.ID, in.Format.Format)
			return stops.File{Name: fmt.Sprintf("send-out-%d.%s", in.ID, in.Format.Format), Content: raw}, err
		})
}

package orders

import (
	"context"
	"crypto/sha256"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// statements are files in which a place says what it kept of what was sold: the real
// fees (docs/orders.md).
var statements = fileKind{"statement", "a statement has in each row an order and what was kept of it", []string{"order", "amount", "kind", "line", "sku", "day"}, 2, map[string][]string{
	"order":  {"order", "order id", "order number", "order no", "order ref", "order reference"},
	"amount": {"amount", "fee", "fees", "fee amount", "charge", "charged", "total", "net"},
	"kind":   {"kind", "type", "fee type", "description", "transaction type", "transaction", "what"},
	"line":   {"line", "line id", "order line", "order item", "order item id", "position"},
	"sku":    {"sku", "seller sku", "your sku", "item sku"},
	"day":    {"day", "date", "posted", "posted date", "transaction date"},
}}

// StatementTaken is what came of a statement.
type StatementTaken struct {
	Rows    int      `json:"rows" doc:"Of fees"`
	Apart   int      `json:"apart" doc:"Of them, those of no order, such as a subscription: they are in Earned and Books under their own names"`
	New     int64    `json:"new" doc:"Lines of orders, and fees of no order, that something new was said of"`
	Kept    int64    `json:"kept" doc:"All that these rows say was kept, minor units of the site's currency"`
	Left    []string `json:"left" doc:"What kinds of row are no fees, and were left"`
	Unknown []string `json:"unknown" doc:"Orders that aren't here: the first hundred"`
}

// LookStatement keeps a statement in the inbox and says what is recognised of it.
func (st *Stop) LookStatement(ctx context.Context, siteID int64, name string, raw []byte) (OrderReport, error) {
	return st.lookFile(ctx, &statements, siteID, name, raw)
}

// aFee are the words of rows that are fees, where a statement says what each is; a
// sale, a refund of it or a payout is none.
var aFee = regexp.MustCompile(`(?i)fee|commission|charge|levy|surcharge|advert|subscription|storage`)

// TakeStatement takes what a statement says was kept of each order, all of it or
// nothing; the same row of another statement is the same row. Where any amount is
// below 0, those were kept and the others given back; else all were kept. What is said
// of a whole order is shared out over its lines by what was paid for them; a fee of no
// order, such as a subscription, is the site's on its day.
func (st *Stop) TakeStatement(ctx context.Context, siteID int64, choice OrderReportChoice) (StatementTaken, error) {
	out := StatementTaken{Left: []string{}, Unknown: []string{}}
	err := st.takeFile(ctx, &statements, siteID, choice, func(tx store.Tx, site *store.Site, records [][]string) error {
		rows, err := out.read(records, choice.Columns, site, st.Now())
		if err != nil {
			return err
		}
		var keep []store.FeeRow
		var touched []int64
		var apart []store.SiteFee
		for _, r := range rows {
			if r.order == "" {
				out.Kept += r.amount
				apart = append(apart, store.SiteFee{SiteID: site.ID, Key: r.key, Kind: r.kind, Day: r.day, Amount: r.amount, At: st.Now()})
				continue
			}
			_, lines, known, err := tx.OrderOf(site.ID, r.order)
			if err != nil {
				return err
			}
			if !known {
				out.miss(r.order)
				continue
			}
			shares, err := r.shares(lines)
			if err != nil {
				return err
			}
			out.Kept += r.amount
			for i, v := range shares {
				if v != 0 {
					keep = append(keep, store.FeeRow{SiteID: site.ID, OrderLineID: lines[i].ID, Key: r.key, Kind: r.kind, Amount: v, At: st.Now()})
					touched = append(touched, lines[i].ID)
				}
			}
		}
		tx.Changed("orders")
		if out.New, err = tx.PutFeeRows(keep); err != nil {
			return err
		}
		more, err := tx.PutSiteFees(apart)
		if err != nil {
			return err
		}
		out.New, out.Apart = out.New+more, len(apart)
		return stops.First(tx.SumFees(touched), tx.Note(st.Now(), "statement taken", site.Name, stops.Plural(int64(out.Rows), "row", "rows")))
	})
	return out, err
}

// feeRow is a row of a statement that says what was kept.
type feeRow struct {
	n                int
	order, line, sku string
	kind, key        string
	day              string // YYYY-MM-DD, of a row of no order
	amount           int64
}

// read reads the rows that are fees.
func (t *StatementTaken) read(records [][]string, columns map[string]string, site *store.Site, now time.Time) ([]feeRow, error) {
	at := placesOf(records[0], columns)
	_, kinds := at["kind"]
	var out []feeRow
	below, like := false, map[string]int{}
	for i, rec := range records[1:] {
		row := reportRow{rec: rec, at: at, n: i + 2, currency: money.Currency(site.Currency)}
		kind := stops.Clip(row.cell("kind"), 100)
		if row.cell("order") == "" && row.cell("amount") == "" {
			continue
		}
		if (kinds || row.cell("order") == "") && !aFee.MatchString(kind) { // a sale, a payout, a sum of the whole
			if name := kind; !slices.Contains(t.Left, name) && len(t.Left) < 50 {
				t.Left = append(t.Left, name)
			}
			continue
		}
		r := feeRow{n: row.n, order: row.cell("order"), line: row.cell("line"), sku: row.cell("sku"), kind: kind, amount: row.signed("amount")}
		if r.order == "" {
			r.day = row.day("day", now).Format(time.DateOnly)
		}
		if row.err != nil {
			return nil, row.err
		}
		below = below || r.amount < 0
		said := strings.Join([]string{r.order, r.line, r.sku, r.kind, row.cell("amount"), row.cell("day")}, "\x00")
		like[said]++
		r.key = fmt.Sprintf("%x/%d", sha256.Sum256([]byte(said)), like[said])
		out = append(out, r)
	}
	if below {
		for i := range out {
			out[i].amount = -out[i].amount
		}
	}
	t.Rows = len(out)
	return out, nil
}

func (t *StatementTaken) miss(order string) {
	if !slices.Contains(t.Unknown, order) && len(t.Unknown) < 100 {
		t.Unknown = append(t.Unknown, order)
	}
}

// shares are what each line of the order has of a row: the line that it names, or all
// of them by what was paid for them. They add up to it exactly.
func (r *feeRow) shares(lines []store.OrderLine) ([]int64, error) {
	out := make([]int64, len(lines))
	if r.line != "" || r.sku != "" {
		i := slices.IndexFunc(lines, func(l store.OrderLine) bool {
			return (r.line == "" || l.Ref == r.line) && (r.sku == "" || l.SKU == r.sku)
		})
		if i < 0 {
			return nil, fault.New(fault.Invalid, "row %d: order %s has no line %s; choose another column for it, or none. Nothing was taken", r.n, stops.Clip(r.order, 60), stops.Clip(strings.TrimSpace(r.line+" "+r.sku), 80))
		}
		out[i] = r.amount
		return out, nil
	}
	weights := make([]int64, len(lines))
	for i, l := range lines {
		weights[i] = l.Price*l.Quantity + l.Delivery
	}
	return shared(r.amount, weights), nil
}

// shared is an amount shared out by weights, to the last minor unit: each has what is
// due up to it less what those before it have.
func shared(amount int64, weights []int64) []int64 {
	out := make([]int64, len(weights))
	whole := int64(0)
	for _, w := range weights {
		whole += w
	}
	sofar, given := int64(0), int64(0)
	for i, w := range weights {
		sofar += w
		due, ok := money.MulDiv(amount, sofar, max(whole, 1))
		if i == len(weights)-1 || !ok { // the last has the rest, and all where nothing was paid for any
			due = amount
		}
		out[i], given = due-given, due
	}
	return out
}

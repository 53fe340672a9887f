package orders

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"time"

	"easymargin/core/money"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Book is a month for the accountant: what was sold by country, tax rate and
// currency. Amounts are minor units. Once closed it stays as it is; what changes of
// it afterwards, such as money given back, is a correction in the first month that
// is open.
type Book struct {
	Month    string     `json:"month" doc:"YYYY-MM"`
	ClosedAt *time.Time `json:"closed" doc:"None: it is open"`
	ClosedBy string     `json:"closed_by"`
	Rows     []BookRow  `json:"rows"`
	Totals   []BookRow  `json:"totals" doc:"By currency"`
}

// BookRow is what was sold in one country at one tax rate; or what a place kept for no
// order under one name.
type BookRow struct {
	Of       string `json:"of" doc:"The closed month that it corrects; empty: of the month itself"`
	Country  string `json:"country" doc:"ISO 3166-1; empty: not known"`
	Rate     string `json:"rate" doc:"Of tax, such as 20%"`
	Currency string `json:"currency"`
	Lines    int64  `json:"lines"`
	Gross    int64  `json:"gross" doc:"What buyers paid, tax in it, less what was given back"`
	Tax      int64  `json:"tax"`
	Net      int64  `json:"net"`
	Place    string `json:"place" doc:"That kept a fee of no order; empty: a row of sales"`
	Fee      string `json:"fee" doc:"As the place calls it"`
	Fees     int64  `json:"fees" doc:"What it kept; not in gross, tax and net, which are of sales"`
}

type bookKey struct{ of, country, rate, currency, place, fee string }

func (r *BookRow) key() bookKey {
	return bookKey{r.Of, r.Country, r.Rate, r.Currency, r.Place, r.Fee}
}

// empty is a row of the same things with nothing in it.
func (r *BookRow) empty() *BookRow {
	return &BookRow{Country: r.Country, Rate: r.Rate, Currency: r.Currency, Place: r.Place, Fee: r.Fee}
}

func (r *BookRow) add(x *BookRow, times int64) {
	r.Lines, r.Gross, r.Tax, r.Net = r.Lines+times*x.Lines, r.Gross+times*x.Gross, r.Tax+times*x.Tax, r.Net+times*x.Net
	r.Fees += times * x.Fees
}

// month reads one; its first day and that of the next.
func month(text string) (from, to time.Time, err error) {
	from, err = time.Parse("2006-01", text)
	if err != nil {
		return from, from, fault.At("month", "%q is no month such as 2026-03", text)
	}
	return from, from.AddDate(0, 1, 0), nil
}

// sold is what was sold in a month as it is now, by what it is told apart by.
func (st *Stop) sold(ctx context.Context, text string) (map[bookKey]*BookRow, error) {
	from, to, err := month(text)
	if err != nil {
		return nil, err
	}
	out := map[bookKey]*BookRow{}
	err = st.Store.EachSold(ctx, store.SoldPart{From: from, To: to}, func(l *store.SoldLine) error {
		if l.State == store.LineCancelled {
			return nil
		}
		sum := comesTo(&l.OrderLine)
		r := BookRow{Country: l.Country, Rate: money.Rate(l.TaxRate).String(), Currency: l.Currency, Lines: 1, Gross: sum.Kept, Tax: sum.Tax, Net: sum.Net}
		if out[r.key()] == nil {
			out[r.key()] = r.empty()
		}
		out[r.key()].add(&r, 1)
		return nil
	})
	if err != nil {
		return nil, err
	}
	apart, err := st.Store.SiteFees(ctx, store.SoldPart{From: from, To: to})
	for i := range apart {
		x := &apart[i]
		r := BookRow{Currency: x.Currency, Place: x.Site, Fee: x.Kind, Fees: x.Amount}
		if out[r.key()] == nil {
			out[r.key()] = r.empty()
		}
		out[r.key()].add(&r, 1)
	}
	return out, err
}

// Book is a month as it is, or as it was closed.
func (st *Stop) Book(ctx context.Context, text string) (Book, error) {
	if _, _, err := month(text); err != nil {
		return Book{}, err
	}
	closed, err := st.Store.Reading(ctx).ClosedBooks()
	if err != nil {
		return Book{}, err
	}
	for _, c := range closed {
		if c.Month == text {
			var b Book
			err := json.Unmarshal([]byte(c.Content), &b)
			b.ClosedAt, b.ClosedBy = &c.At, c.Actor
			return b, err
		}
	}
	rows, err := st.sold(ctx, text)
	if err != nil {
		return Book{}, err
	}
	if first := firstOpen(closed); first == "" || first == text {
		if err := st.correct(ctx, rows, closed); err != nil {
			return Book{}, err
		}
	}
	return bookOf(text, rows), nil
}

// firstOpen is the month after the last that was closed; "" where none was.
func firstOpen(closed []store.ClosedBook) string {
	if len(closed) == 0 {
		return ""
	}
	_, next, err := month(closed[len(closed)-1].Month)
	if err != nil {
		return ""
	}
	return next.Format("2006-01")
}

// correct adds what closed months are otherwise by now than they were closed, less
// what later months corrected of it already.
func (st *Stop) correct(ctx context.Context, rows map[bookKey]*BookRow, closed []store.ClosedBook) error {
	for _, c := range closed {
		now, err := st.sold(ctx, c.Month)
		if err != nil {
			return err
		}
		for _, later := range closed {
			var b Book
			if err := json.Unmarshal([]byte(later.Content), &b); err != nil {
				return fmt.Errorf("the books of %s: %w", later.Month, err)
			}
			for i := range b.Rows {
				r := b.Rows[i]
				if of := cmp.Or(r.Of, later.Month); of != c.Month {
					continue
				}
				r.Of = ""
				if now[r.key()] == nil {
					now[r.key()] = r.empty()
				}
				now[r.key()].add(&r, -1)
			}
		}
		for _, r := range now {
			if r.Lines != 0 || r.Gross != 0 || r.Tax != 0 || r.Fees != 0 {
				r.Of = c.Month
				rows[r.key()] = r
			}
		}
	}
	return nil
}

func bookOf(text string, rows map[bookKey]*BookRow) Book {
	out, totals := Book{Month: text, Rows: []BookRow{}, Totals: []BookRow{}}, map[string]*BookRow{}
	for _, r := range rows {
		out.Rows = append(out.Rows, *r)
		if totals[r.Currency] == nil {
			totals[r.Currency] = &BookRow{Currency: r.Currency}
		}
		totals[r.Currency].add(r, 1)
	}
	slices.SortFunc(out.Rows, func(a, b BookRow) int {
		return cmp.Or(cmp.Compare(a.Of, b.Of), cmp.Compare(a.Currency, b.Currency), cmp.Compare(a.Place, b.Place), cmp.Compare(a.Fee, b.Fee),
			cmp.Compare(a.Country, b.Country), cmp.Compare(a.Rate, b.Rate))
	})
	for _, c := range slices.Sorted(maps.Keys(totals)) {
		out.Totals = append(out.Totals, *totals[c])
	}
	return out
}

// CloseBook closes a month that is over, once, after those before it.
func (st *Stop) CloseBook(ctx context.Context, text string) error {
	_, to, err := month(text)
	if err != nil {
		return err
	}
	if st.Now().Before(to) {
		return fault.New(fault.Conflict, "%s isn't over yet", text)
	}
	first, err := st.Store.FirstSold(ctx)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		closed, err := tx.ClosedBooks()
		if err != nil {
			return err
		}
		if next := cmp.Or(firstOpen(closed), first); next != "" && text != next {
			if text < next {
				return fault.New(fault.Conflict, "%s is closed already, or nothing was sold in it", text)
			}
			return fault.New(fault.Conflict, "close %s first: what changed of it belongs before %s", next, text)
		}
		b, err := st.Book(ctx, text)
		if err != nil {
			return err
		}
		content, err := json.Marshal(b)
		if err != nil {
			return err
		}
		made, err := tx.CloseBook(text, string(content), st.Now())
		if err == nil && !made {
			err = fault.New(fault.Conflict, "%s is closed already", text)
		}
		tx.Changed("orders")
		return stops.First(err, tx.Note(st.Now(), "books closed", text, ""))
	})
}

// bookColumns are the columns of a month's books as a file.
var bookColumns = blank.Columns{{Header: "month", From: "month"}, {Header: "corrects", From: "of"}, {Header: "country", From: "country"}, {Header: "tax rate", From: "rate"},
	{Header: "currency", From: "currency"}, {Header: "lines", From: "lines", As: "number"}, {Header: "gross", From: "gross", As: "number"}, {Header: "tax", From: "tax", As: "number"},
	{Header: "net", From: "net", As: "number"}, {Header: "place", From: "place"}, {Header: "fee of no order", From: "fee"}, {Header: "fees", From: "fees", As: "number"}}

// BookFile is a month's books as a file: csv or xlsx.
func (st *Stop) BookFile(ctx context.Context, text, kind string) (string, []byte, error) {
	b, err := st.Book(ctx, text)
	if err != nil {
		return "", nil, err
	}
	var rows blank.List
	for _, r := range b.Rows {
		amount := func(v int64) string { return money.Of(v, money.Currency(r.Currency)).String() }
		rows = append(rows, blank.Row{"month": b.Month, "of": r.Of, "country": r.Country, "rate": r.Rate, "currency": r.Currency, "lines": json.Number(strconv.FormatInt(r.Lines, 10)),
			"gross": amount(r.Gross), "tax": amount(r.Tax), "net": amount(r.Net),
			"place": r.Place, "fee": r.Fee, "fees": amount(r.Fees)})
	}
	raw, err := stops.Table(kind, bookColumns, rows)
	return fmt.Sprintf("books-%s.%s", text, kind), raw, err
}

package orders

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strconv"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// OrderReport is what is recognised of an order report that a place lets sellers
// download: one line of an order a row. Nothing of it is taken yet.
type OrderReport struct {
	Token   string              `json:"token"`
	Name    string              `json:"name"`
	Rows    int                 `json:"rows"`
	Columns []OrderReportColumn `json:"columns"`
	Missing []string            `json:"missing" doc:"What is needed and no column is read as"`
}

// OrderReportColumn is a column of a report.
type OrderReportColumn struct {
	Name    string   `json:"name"`
	As      string   `json:"as" doc:"One of the things that such a file says; empty: not read"`
	Samples []string `json:"samples"`
}

// OrderReportChoice is how a report is taken.
type OrderReportChoice struct {
	Token   string            `json:"token" maxLength:"40"`
	Columns map[string]string `json:"columns" doc:"Column → what it is read as"`
}

// reportWords are the names that columns of an order report are known by.
var reportWords = map[string][]string{
	"order":    {"order", "order id", "order number", "order no", "order ref", "order reference"},
	"line":     {"line", "line id", "order line", "order item", "order item id", "position"},
	"placed":   {"placed", "date", "order date", "placed at", "sold at", "sale date", "purchase date"},
	"sku":      {"sku", "seller sku", "your sku", "item sku"},
	"title":    {"title", "product", "item", "product name", "item title"},
	"quantity": {"quantity", "qty", "units", "quantity sold"},
	"price":    {"price", "item price", "unit price", "price each"},
	"delivery": {"delivery", "postage", "shipping", "delivery charge"},
	"tax":      {"tax", "vat", "tax amount"},
	"fees":     {"fees", "fee", "commission"},
	"state":    {"state", "status", "order status"},
	"buyer":    {"buyer", "buyer name", "recipient", "name", "ship to"},
	"address":  {"address", "delivery address", "ship to address"},
	"country":  {"country", "country code", "ship to country"},
}

// reportOrder is the order in which columns are guessed; the first few are needed.
var reportOrder = []string{"order", "sku", "quantity", "price", "line", "placed", "title", "delivery", "tax", "fees", "state", "buyer", "address", "country"}

const neededColumns = 4

// fileKind is a kind of file about orders that places let sellers download.
type fileKind struct {
	setting string // of how a site's are read
	wants   string // what such a file has
	order   []string
	needed  int // of order, so many at its beginning
	words   map[string][]string
}

var orderReports = fileKind{"order report", "an order report has a line of an order in each row", reportOrder, neededColumns, reportWords}

// set is the setting of how a site's files of the kind are read, JSON.
func (k *fileKind) set(siteID int64) string { return fmt.Sprintf("%s %d", k.setting, siteID) }

// LookReport keeps an order report in the inbox and says what is recognised of it.
func (st *Stop) LookReport(ctx context.Context, siteID int64, name string, raw []byte) (OrderReport, error) {
	return st.lookFile(ctx, &orderReports, siteID, name, raw)
}

// lookFile keeps a file in the inbox and says what is recognised of it: as one of the
// site was read before, else by the names of its columns.
func (st *Stop) lookFile(ctx context.Context, k *fileKind, siteID int64, name string, raw []byte) (OrderReport, error) {
	tx := st.Store.Reading(ctx)
	if _, err := tx.SiteOf(siteID); err != nil {
		return OrderReport{}, err
	}
	records, err := stops.RecordsOf(name, raw, k.wants)
	if err != nil {
		return OrderReport{}, err
	}
	set, err := tx.Setting(k.set(siteID))
	if err != nil {
		return OrderReport{}, err
	}
	before := map[string]string{}
	if set.Value != "" {
		if err := json.Unmarshal([]byte(set.Value), &before); err != nil {
			return OrderReport{}, err
		}
	}
	out := k.look(records, before)
	out.Name, out.Token = stops.Clip(name, 300), rand.Text()
	return out, os.WriteFile(st.Store.Inbox(out.Token), raw, 0o600)
}

func (k *fileKind) look(records [][]string, before map[string]string) OrderReport {
	out := OrderReport{Rows: len(records) - 1, Columns: []OrderReportColumn{}, Missing: []string{}}
	columns, taken := stops.GuessColumns(records, before, k.order, k.words)
	for _, c := range columns {
		out.Columns = append(out.Columns, OrderReportColumn{c.Name, c.As, c.Samples})
	}
	for _, as := range k.order[:k.needed] {
		if !taken[as] {
			out.Missing = append(out.Missing, as)
		}
	}
	return out
}

// takeFile has the rows of a file that was looked at taken, all of it or nothing, and
// keeps how its columns are read.
func (st *Stop) takeFile(ctx context.Context, k *fileKind, siteID int64, choice OrderReportChoice, take func(tx store.Tx, site *store.Site, records [][]string) error) error {
	gone := fault.New(fault.Conflict, "the file is no longer here; bring it in again")
	if !regexp.MustCompile(`^[A-Z2-7]{10,40}$`).MatchString(choice.Token) {
		return gone
	}
	raw, err := os.ReadFile(st.Store.Inbox(choice.Token))
	if err != nil {
		return gone
	}
	records, err := stops.RecordsOf("the file", raw, k.wants)
	if err != nil {
		return err
	}
	if missing := k.look(records, choice.Columns).Missing; len(missing) > 0 {
		return fault.At("columns", "no column is read as %s; choose one", strings.Join(missing, " or "))
	}
	kept, err := json.Marshal(choice.Columns)
	if err != nil {
		return err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		return stops.First(take(tx, &site, records), tx.PutSetting(k.set(siteID), string(kept)))
	})
	if err == nil {
		err = os.Remove(st.Store.Inbox(choice.Token))
	}
	return err
}

// TakeReport takes the orders of a report, all of it or nothing: a row that can't be
// read says which. Orders that are known are looked at for what changed.
func (st *Stop) TakeReport(ctx context.Context, siteID int64, choice OrderReportChoice) (int, error) {
	n := 0
	err := st.takeFile(ctx, &orderReports, siteID, choice, func(tx store.Tx, site *store.Site, records [][]string) error {
		list, err := ordersIn(records, choice.Columns, money.Currency(site.Currency), st.Now())
		if err != nil {
			return err
		}
		n = len(list)
		return stops.First(st.take(tx, site, list, store.OrderFile), tx.Note(st.Now(), "order report taken", site.Name, stops.Plural(int64(n), "order", "orders")))
	})
	return n, err
}

// placesOf is where in a record each thing stands.
func placesOf(header []string, columns map[string]string) map[string]int {
	at := map[string]int{}
	for i, name := range header {
		if as := columns[name]; as != "" {
			at[as] = i
		}
	}
	return at
}

// ordersIn reads the orders of a report; rows of one order make one.
func ordersIn(records [][]string, columns map[string]string, c money.Currency, now time.Time) ([]place.Order, error) {
	at := placesOf(records[0], columns)
	var out []place.Order
	of := map[string]int{}
	for i, rec := range records[1:] {
		row := reportRow{rec: rec, at: at, n: i + 2, currency: c}
		ref := row.cell("order")
		if ref == "" && row.cell("sku") == "" {
			continue
		}
		k, known := of[ref]
		if !known {
			k = len(out)
			of[ref] = k
			o := place.Order{Ref: ref, Currency: string(c), Placed: row.day("placed", now), Buyer: place.Buyer{Name: row.cell("buyer"), Country: strings.ToUpper(row.cell("country"))}}
			if a := row.cell("address"); a != "" {
				o.Buyer.Address = []string{a}
			}
			out = append(out, o)
		}
		l := place.OrderLine{Ref: row.cell("line"), SKU: row.cell("sku"), Title: row.cell("title"), Quantity: row.count("quantity"), Price: row.amount("price"),
			Delivery: row.amount("delivery"), Tax: row.known("tax"), Fees: row.known("fees"), State: stateOf(row.cell("state"))}
		if ref == "" {
			row.fail("order", "is empty")
		}
		if row.err != nil {
			return nil, row.err
		}
		out[k].Lines = append(out[k].Lines, l)
	}
	return out, nil
}

var (
	calledOff = regexp.MustCompile(`(?i)cancel|called off|void`)
	cameBack  = regexp.MustCompile(`(?i)return|sent back`)
)

// stateOf is what a place's word for an order's state means to us; "" for all that
// changes nothing.
func stateOf(word string) string {
	switch {
	case calledOff.MatchString(word):
		return place.OrderCancelled
	case cameBack.MatchString(word):
		return place.OrderReturned
	}
	return ""
}

// reportRow reads the cells of a row, and keeps the first that can't be read.
type reportRow struct {
	rec      []string
	at       map[string]int
	n        int // of the sheet
	currency money.Currency
	err      error
}

func (r *reportRow) cell(as string) string {
	i, ok := r.at[as]
	if !ok || i >= len(r.rec) {
		return ""
	}
	return strings.TrimSpace(r.rec[i])
}

func (r *reportRow) fail(as, why string) {
	if r.err == nil {
		r.err = fault.New(fault.Invalid, "row %d: its %s %q %s; mend it in the report, or choose another column. Nothing was taken", r.n, as, stops.Clip(r.cell(as), 40), why)
	}
}

func (r *reportRow) count(as string) int64 {
	n, err := strconv.ParseInt(r.cell(as), 10, 64)
	if err != nil || n < 1 || n > money.MostUnits {
		r.fail(as, fmt.Sprintf("is no whole number from 1 to %d", money.MostUnits))
	}
	return n
}

// commaed is an amount with a comma for its decimals and no other mark: anything else
// with a comma could mean two amounts.
var commaed = regexp.MustCompile(`^\d+,\d+$`)

func (r *reportRow) amount(as string) int64 {
	text := r.cell(as)
	if text == "" && as != "price" {
		return 0
	}
	v := r.signed(as)
	if v < 0 {
		r.fail(as, "is no amount such as 12.50")
	}
	return v
}

// signed is an amount that may be below 0.
func (r *reportRow) signed(as string) int64 {
	text := strings.Replace(r.cell(as), "−", "-", 1)
	minus := strings.HasPrefix(text, "-") || strings.HasPrefix(text, "(") && strings.HasSuffix(text, ")")
	text = strings.Trim(text, "-()")
	plain := strings.TrimSpace(strings.TrimSuffix(strings.TrimLeft(text, "£€$ "), string(r.currency)))
	if d, _ := r.currency.Digits(); commaed.MatchString(plain) && len(plain)-strings.IndexByte(plain, ',')-1 == d {
		plain = strings.Replace(plain, ",", ".", 1)
	}
	a, err := money.Parse(plain, r.currency)
	if err != nil || a.Minor > money.Most {
		r.fail(as, "is no amount such as 12.50")
	}
	if minus {
		return -a.Minor
	}
	return a.Minor
}

func (r *reportRow) known(as string) *int64 {
	if r.cell(as) == "" {
		return nil
	}
	v := r.amount(as)
	return &v
}

// dayForms are the ways of writing a moment that leave no doubt.
var dayForms = []string{time.RFC3339, "2006-01-02 15:04:05", "2006-01-02 15:04", time.DateOnly, "2 January 2006", "2 Jan 2006"}

func (r *reportRow) day(as string, now time.Time) time.Time {
	text := r.cell(as)
	if text == "" {
		return now
	}
	for _, form := range dayForms {
		if t, err := time.Parse(form, text); err == nil {
			return t.UTC()
		}
	}
	r.fail(as, "is no day such as 2026-03-03")
	return now
}

package orders

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// Earned is what was earned in a time, by one thing: a row for each of it and each
// currency, and their totals by currency. Amounts are minor units; what is spent is
// below 0, so that each row adds up to what is left.
type Earned struct {
	From   string      `json:"from" doc:"The first day"`
	To     string      `json:"to" doc:"The last day"`
	By     string      `json:"by"`
	Rows   []EarnedRow `json:"rows"`
	Totals []EarnedRow `json:"totals" doc:"By currency, that in which most was sold first"`
	Apart  []ApartFee  `json:"apart" doc:"What places kept for no order, by their names: it is among the fees of the totals"`
}

// ApartFee is what a place kept for no order in a time, under the name it gives it.
type ApartFee struct {
	Site     string `json:"site"`
	Kind     string `json:"kind" doc:"As the place calls it"`
	Currency string `json:"currency"`
	Rows     int64  `json:"rows"`
	Amount   int64  `json:"amount" doc:"Minor units that were kept; below 0: given back"`
}

// EarnedRow is what one thing earned.
type EarnedRow struct {
	Key      string `json:"key" doc:"A day, a month, or the id of what it is by"`
	Name     string `json:"name"`
	Currency string `json:"currency"`
	Lines    int64  `json:"lines"`
	Units    int64  `json:"units"`
	Sales    int64  `json:"sales" doc:"What buyers paid, delivery in it"`
	Tax      int64  `json:"tax"`
	Fees     int64  `json:"fees"`
	Cost     int64  `json:"cost" doc:"Of goods, landed"`
	Sending  int64  `json:"sending"`
	Other    int64  `json:"other" doc:"What was set aside for returns and the like"`
	Refunds  int64  `json:"refunds"`
	Left     int64  `json:"left" doc:"What is left, as far as is known"`
	Expected int64  `json:"expected" doc:"What was expected to be left when it came"`
	Losses   int64  `json:"losses" doc:"Lines that lost money"`
	Unknown  int64  `json:"unknown" doc:"Lines of which what was expected isn't known: they count with their sales alone"`
}

// Asked says what of what was earned is wanted; days are of UTC.
type Asked struct {
	From     string `query:"from" doc:"The first day, YYYY-MM-DD; thirty days ago where left out"`
	To       string `query:"to" doc:"The last day; today where left out"`
	By       string `query:"by" default:"day" enum:"day,month,site,supplier,category,product"`
	Site     int64  `query:"site"`
	Supplier int64  `query:"supplier"`
	Product  int64  `query:"product"`
}

// keys are what rows are told apart by, and called.
var keys = map[string]func(l *store.SoldLine) (key, name string){
	"day":   func(l *store.SoldLine) (string, string) { d := l.PlacedAt.UTC().Format(time.DateOnly); return d, d },
	"month": func(l *store.SoldLine) (string, string) { d := l.PlacedAt.UTC().Format("2006-01"); return d, d },
	"site":  func(l *store.SoldLine) (string, string) { return fmt.Sprint(l.SiteID), l.Site },
	"supplier": func(l *store.SoldLine) (string, string) {
		return fmt.Sprint(l.SupplierID), cmp.Or(l.Supplier, "not known")
	},
	"category": func(l *store.SoldLine) (string, string) { return l.Category, cmp.Or(l.Category, "not known") },
	"product":  func(l *store.SoldLine) (string, string) { return fmt.Sprint(l.ProductID), cmp.Or(l.OwnTitle, l.SKU) },
}

// Earned sums what was earned. What was called off before it was bought counts for
// nothing.
func (st *Stop) Earned(ctx context.Context, in Asked) (Earned, error) {
	part, out, err := st.part(in)
	if err != nil {
		return out, err
	}
	key, ok := keys[cmp.Or(in.By, "day")]
	if !ok {
		return out, fault.At("by", "%q is none of day, month, site, supplier, category and product", in.By)
	}
	rows, totals := map[[2]string]*EarnedRow{}, map[string]*EarnedRow{}
	err = st.Store.EachSold(ctx, part, func(l *store.SoldLine) error {
		if l.State == store.LineCancelled && l.BoughtAt == nil {
			return nil
		}
		k, name := key(l)
		at := [2]string{k, l.Currency}
		if rows[at] == nil {
			rows[at] = &EarnedRow{Key: k, Name: name, Currency: l.Currency}
		}
		if totals[l.Currency] == nil {
			totals[l.Currency] = &EarnedRow{Name: "all", Currency: l.Currency}
		}
		for _, r := range []*EarnedRow{rows[at], totals[l.Currency]} {
			if err := r.add(&l.OrderLine); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	apart, err := st.Store.SiteFees(ctx, part)
	if err != nil {
		return out, err
	}
	for i := range apart {
		x := &apart[i]
		k, name := ofNone(cmp.Or(in.By, "day"), x)
		at := [2]string{k, x.Currency}
		if rows[at] == nil {
			rows[at] = &EarnedRow{Key: k, Name: name, Currency: x.Currency}
		}
		if totals[x.Currency] == nil {
			totals[x.Currency] = &EarnedRow{Name: "all", Currency: x.Currency}
		}
		for _, r := range []*EarnedRow{rows[at], totals[x.Currency]} {
			r.Fees, r.Left = r.Fees-x.Amount, r.Left-x.Amount
		}
		out.count(x)
	}
	for _, r := range rows {
		out.Rows = append(out.Rows, *r)
	}
	for _, r := range totals {
		out.Totals = append(out.Totals, *r)
	}
	byTime := in.By == "" || in.By == "day" || in.By == "month"
	slices.SortFunc(out.Rows, func(a, b EarnedRow) int {
		if byTime {
			return cmp.Or(cmp.Compare(a.Key, b.Key), cmp.Compare(a.Currency, b.Currency))
		}
		return cmp.Or(cmp.Compare(a.Currency, b.Currency), cmp.Compare(b.Left, a.Left), cmp.Compare(a.Name, b.Name))
	})
	slices.SortFunc(out.Totals, func(a, b EarnedRow) int { // what most is sold in comes first
		return cmp.Or(cmp.Compare(b.Lines, a.Lines), cmp.Compare(a.Currency, b.Currency))
	})
	return out, nil
}

// ofNone is the row in which a fee of no order counts: that of its day, month or site,
// and one of its own where rows are of what was sold.
func ofNone(by string, x *store.KeptApart) (key, name string) {
	switch by {
	case "day":
		return x.Day, x.Day
	case "month":
		return x.Day[:7], x.Day[:7]
	case "site":
		return fmt.Sprint(x.SiteID), x.Site
	}
	return "fees of no order", "fees of no order"
}

// count adds a fee of no order to those of its name.
func (e *Earned) count(x *store.KeptApart) {
	i := slices.IndexFunc(e.Apart, func(a ApartFee) bool { return a.Site == x.Site && a.Kind == x.Kind && a.Currency == x.Currency })
	if i < 0 {
		i = len(e.Apart)
		e.Apart = append(e.Apart, ApartFee{Site: x.Site, Kind: x.Kind, Currency: x.Currency})
	}
	e.Apart[i].Rows, e.Apart[i].Amount = e.Apart[i].Rows+x.Rows, e.Apart[i].Amount+x.Amount
}

// part is which lines are asked for.
func (st *Stop) part(in Asked) (store.SoldPart, Earned, error) {
	today := st.Now().UTC().Truncate(24 * time.Hour)
	p := store.SoldPart{From: today.AddDate(0, 0, -29), To: today.AddDate(0, 0, 1), SiteID: in.Site, SupplierID: in.Supplier, ProductID: in.Product}
	for _, x := range []struct {
		field, text string
		into        *time.Time
		more        int
	}{{"from", in.From, &p.From, 0}, {"to", in.To, &p.To, 1}} {
		if x.text == "" {
			continue
		}
		d, err := time.Parse(time.DateOnly, x.text)
		if err != nil {
			return p, Earned{}, fault.At(x.field, "%q is no day such as 2026-03-03", x.text)
		}
		*x.into = d.AddDate(0, 0, x.more)
	}
	if !p.From.Before(p.To) {
		return p, Earned{}, fault.At("from", "the first day is after the last")
	}
	return p, Earned{From: p.From.Format(time.DateOnly), To: p.To.AddDate(0, 0, -1).Format(time.DateOnly), By: cmp.Or(in.By, "day"), Rows: []EarnedRow{}, Totals: []EarnedRow{}, Apart: []ApartFee{}}, nil
}

// add counts a line: what really was where that is known, else what was expected.
func (r *EarnedRow) add(l *store.OrderLine) error {
	r.Lines++
	sold := l.State != store.LineCancelled // else only what was spent on it counts
	if sold {
		r.Units += l.Quantity
	}
	lines, err := beside(l)
	if err != nil {
		return err
	}
	if len(lines) == 0 { // what it cost isn't known: only what was paid and given back is
		if r.Unknown++; sold {
			sum := comesTo(l)
			r.Sales, r.Refunds = r.Sales+sum.Paid, r.Refunds-sum.GivenBack
		}
		return nil
	}
	left := int64(0)
	for _, b := range lines {
		left += b.Real
		switch b.kind {
		case reckon.KindPrice, reckon.KindDelivery:
			r.Sales += b.Real
		case reckon.KindTax:
			r.Tax += b.Real
		case reckon.KindFee, reckon.KindFeeTax:
			r.Fees += b.Real
		case reckon.KindCost:
			r.Cost += b.Real
		case reckon.KindOutbound:
			r.Sending += b.Real
		case refundKind:
			r.Refunds += b.Real
		default:
			r.Other += b.Real
		}
	}
	r.Left += left
	if left < 0 {
		r.Losses++
	}
	if l.ExpectedProfit != nil {
		r.Expected += *l.ExpectedProfit
	}
	return nil
}

// Loss is a line that lost money, and why.
type Loss struct {
	Line     int64     `json:"line"`
	Order    int64     `json:"order"`
	Placed   time.Time `json:"placed"`
	Title    string    `json:"title"`
	Site     string    `json:"site"`
	Currency string    `json:"currency"`
	Left     int64     `json:"left"`
	Expected int64     `json:"expected"`
	Why      string    `json:"why"`
}

// mostLosses is how many lines an answer lists.
const mostLosses = 500

// Losses are the lines that lost money, the worst first, each with what made the
// most of it.
func (st *Stop) Losses(ctx context.Context, in Asked) ([]Loss, error) {
	part, _, err := st.part(in)
	if err != nil {
		return nil, err
	}
	out := []Loss{}
	err = st.Store.EachSold(ctx, part, func(l *store.SoldLine) error {
		lines, err := beside(&l.OrderLine)
		if err != nil || len(lines) == 0 {
			return err
		}
		x := Loss{Line: l.ID, Order: l.OrderID, Placed: l.PlacedAt, Title: cmp.Or(l.OwnTitle, l.SKU), Site: l.Site, Currency: l.Currency}
		worst := lines[0]
		for _, b := range lines {
			x.Left, x.Expected = x.Left+b.Real, x.Expected+b.Expected
			if b.Real-b.Expected < worst.Real-worst.Expected {
				worst = b
			}
		}
		if x.Left >= 0 {
			return nil
		}
		switch more := worst.Expected - worst.Real; {
		case l.State == store.LineCancelled:
			x.Why = "it was called off after it was bought"
		case more <= 0 || x.Expected < 0 && more < -x.Expected:
			x.Why = "it was sold at a loss: that was known when it came"
		case worst.kind == refundKind:
			x.Why = fmt.Sprintf("%s was given back", money.Of(more, money.Currency(l.Currency)))
		default:
			x.Why = fmt.Sprintf("%s: %s more than was expected", worst.Name, money.Of(more, money.Currency(l.Currency)))
		}
		if out = append(out, x); len(out) > 4*mostLosses {
			out = worstOf(out)
		}
		return nil
	})
	return worstOf(out), err
}

func worstOf(list []Loss) []Loss {
	slices.SortStableFunc(list, func(a, b Loss) int { return cmp.Compare(a.Left, b.Left) })
	return list[:min(len(list), mostLosses)]
}

// Idle is a listing that is on sale and was not sold in a time.
type Idle struct {
	Listing  int64  `json:"listing"`
	Product  int64  `json:"product"`
	SKU      string `json:"sku"`
	Title    string `json:"title"`
	Site     string `json:"site"`
	Currency string `json:"currency"`
	Price    *int64 `json:"price"`
	Quantity int64  `json:"quantity"`
	Looked   int64  `json:"looked" doc:"How often in that time a leading offer was seen on its entry while it was on sale"`
	Led      int64  `json:"led" doc:"Of these, how often what it cost then led, delivery in it. 0 of some: its rule never asks what leads"`
}

// Idle are listings that are on sale and were not sold since a day.
func (st *Stop) Idle(ctx context.Context, from string, p store.Page) (store.List[store.NeverSold], error) {
	part, _, err := st.part(Asked{From: from})
	if err != nil {
		return store.List[store.NeverSold]{}, err
	}
	return st.Store.NeverSold(ctx, part.From, p)
}

func idleOf(x store.NeverSold) Idle {
	return Idle{x.ListingID, x.ProductID, x.SKU, x.Title, x.Site, x.Currency, x.Price, x.Quantity, x.Looked, x.Led}
}

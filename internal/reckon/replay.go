package reckon

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/supply"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Past is what a rule would have done, or what really happened, over some days.
// Amounts are minor units; days count each listing by itself.
type Past struct {
	Moves     int64 // of prices
	Held      int64 // moves that would have waited for a person
	Lowest    Days  // asked no more than the lowest rival
	Leading   Days  // asked no more than the leading rival
	OnSale    Days
	Unkept    Days   // the price would have lain below its floor, had the rule kept nothing
	Least     *int64 // least profit of a sale
	Mean      *int64 // profit of a sale, over the time on sale
	BelowZero Days   // on sale at a loss

	earned, time int64 // profit × seconds, seconds, for the mean
}

// Days is a time in seconds.
type Days int64

// In is the time in days, tenths.
func (d Days) In() int64 { return (int64(d)*10 + 43200) / 86400 }

// PastDay is how one day went, over all listings.
type PastDay struct {
	Day    string // ISO 8601
	Lowest [2]Days
	Mean   [2]*int64
	Moves  [2]int64

	earned, time [2]int64
}

// ReplayRow is one listing of a replay.
type ReplayRow struct {
	ListingID int64
	SKU       string
	Title     string
	Then      Past // as the rule would have had it
	Was       Past
}

// Replay is a rule run over what was recorded, beside what really happened.
type Replay struct {
	Listings int64 // replayed
	Fits     int64 // it would hold
	From     time.Time
	To       time.Time
	Then     Past
	Was      Past
	Days     []PastDay
	Rows     []ReplayRow
}

// Replay runs the book's rule with an id over what was recorded of the listings
// it holds, at most so many of them, since a moment: costs, stock and rivals as
// they were, exchange rates and fees as of now. What may go goes at once, what
// is held stays undone.
func (b *Book) Replay(ctx context.Context, s *store.Store, ruleID int64, since time.Time, most int) (*Replay, error) {
	r := &Replay{From: since, To: b.Now}
	ids, fits, err := b.held(ctx, s, ruleID, most)
	if err != nil {
		return nil, err
	}
	r.Fits = fits
	for day := since; day.Before(b.Now); day = day.AddDate(0, 0, 1) {
		r.Days = append(r.Days, PastDay{Day: day.Format(DayForm)})
	}
	for part := range slices.Chunk(ids, 200) {
		rows, err := s.PricingRowsOf(ctx, part, b.Now.Add(-24*time.Hour))
		if err != nil {
			return nil, err
		}
		recorded, err := s.Replay(ctx, rows, since)
		if err != nil {
			return nil, err
		}
		for links := range ByListing(rows) {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			b.replay(r, links, recorded)
		}
	}
	r.Then.mean()
	r.Was.mean()
	for i := range r.Days {
		d := &r.Days[i]
		for k := range d.time {
			if d.time[k] > 0 {
				d.Mean[k] = ptr(d.earned[k] / d.time[k])
			}
		}
	}
	return r, nil
}

var errEnough = errors.New("enough of them")

// held are listings on sale that a rule holds, evenly spread where there are more.
func (b *Book) held(ctx context.Context, s *store.Store, ruleID int64, most int) (ids []int64, fits int64, err error) {
	ctx, end := context.WithCancelCause(ctx)
	defer end(nil)
	err = b.each(ctx, s, 1, store.Asked{}, func(links []store.PricingRow) {
		if links[0].ConfirmedPrice == nil || links[0].FixedPrice != nil || len(ids) >= most {
			return
		}
		w := b.WorkOut(links)
		if w.Rule == nil || w.Own || w.Rule.ID != ruleID {
			return
		}
		fits++
		if ids = append(ids, links[0].ID); len(ids) == most {
			end(errEnough)
		}
	})
	if errors.Is(context.Cause(ctx), errEnough) {
		err = nil
	}
	return ids, fits, err
}

// mean works out the mean of the time on sale.
func (p *Past) mean() {
	if p.time > 0 {
		p.Mean = ptr(p.earned / p.time)
	}
}

// moment is a time at which something of a listing changed.
type moment struct {
	at     time.Time
	change *store.ReplayChange
	market *store.MarketPoint
	was    *store.ConfirmedPoint
}

// moments are all that was recorded of a listing since the replay's beginning,
// in order; what was so before comes first.
func moments(links []store.PricingRow, rec *store.Replayed, from time.Time) []moment {
	out := []moment{{at: from}}
	add := func(m moment) {
		if m.at.Before(from) {
			m.at = from
		}
		out = append(out, m)
	}
	for i := range links {
		list := rec.Changes[links[i].SupplierProductID]
		for j := range list {
			add(moment{at: list[j].At, change: &list[j]})
		}
	}
	if id := links[0].EntryID; id != nil {
		list := rec.Market[*id]
		for j := range list {
			add(moment{at: list[j].At, market: &list[j]})
		}
	}
	list := rec.Confirmed[links[0].ID]
	for j := range list {
		add(moment{at: list[j].At, was: &list[j]})
	}
	slices.SortStableFunc(out, func(x, y moment) int { return x.at.Compare(y.at) })
	return out
}

// sameTime parts the moments of the first time from those that come later.
func sameTime(list []moment) (now, later []moment) {
	n := 1
	for n < len(list) && list[n].at.Equal(list[0].at) {
		n++
	}
	return list[:n], list[n:]
}

// asked is what is asked and offered, by the rule or in truth.
type asked struct {
	price    *int64
	quantity int64
	landed   int64
	moves    []time.Time
	held     *int64 // what it was to be when it was held last
}

// replay runs one listing through what was recorded of it.
func (b *Book) replay(r *Replay, links []store.PricingRow, rec *store.Replayed) {
	rows := slices.Clone(links)
	rewind(rows, rec)
	row := ReplayRow{ListingID: rows[0].ID, SKU: rows[0].SKU, Title: rows[0].Title}
	var then, was asked
	var market *store.MarketPoint
	days := map[string]*Book{}
	for list := moments(rows, rec, r.From); len(list) > 0; {
		var now []moment
		now, list = sameTime(list)
		at := now[0].at
		for i := range now {
			switch m := &now[i]; {
			case m.change != nil:
				apply(rows, m.change)
			case m.market != nil:
				market = m.market
			case m.was != nil:
				was.take(m.was, &row.Was, r, at)
			}
		}
		day := at.Format(DayForm)
		book := days[day]
		if book == nil {
			book = b.On(day)
			days[day] = book
		}
		book.Now = at
		until := b.Now
		if len(list) > 0 {
			until = list[0].at
		}
		book.step(r, &row, rows, rec, market, &then, &was, until)
	}
	row.Then.mean()
	row.Was.mean()
	r.Listings++
	r.Then.add(&row.Then)
	r.Was.add(&row.Was)
	r.Rows = append(r.Rows, row)
}

// take takes up what was confirmed.
func (a *asked) take(c *store.ConfirmedPoint, p *Past, r *Replay, at time.Time) {
	if c.Price != nil {
		if a.price != nil && *a.price != *c.Price && at.After(r.From) {
			p.Moves++
			r.day(at, func(d *PastDay) { d.Moves[1]++ })
		}
		if a.price = c.Price; c.Landed != nil {
			a.landed = *c.Landed
		}
	}
	if c.Quantity != nil {
		a.quantity = *c.Quantity
	}
}

func (r *Replay) day(at time.Time, do func(d *PastDay)) {
	n := int(at.Sub(r.From) / (24 * time.Hour))
	if n >= 0 && n < len(r.Days) {
		do(&r.Days[n])
	}
}

// step is what holds from one moment until the next.
func (b *Book) step(r *Replay, row *ReplayRow, rows []store.PricingRow, rec *store.Replayed, market *store.MarketPoint, then, was *asked, until time.Time) {
	known := false
	for i := range rows {
		rows[i].TakenAt, rows[i].Offers = &b.Now, offersText(market)
		rows[i].ConfirmedQuantity = then.quantity
		if at, ok := rec.Known[rows[i].SupplierProductID]; !ok || !at.After(b.Now) {
			known = true
		}
	}
	if !known {
		return // no supplier had it yet
	}
	f := b.WorkOut(rows)
	b.followed(r, row, &f, then, was)
	seconds := int64(until.Sub(b.Now).Seconds())
	row.Then.hold(b, &f, then, market, seconds)
	row.Was.hold(b, &f, was, market, seconds)
	if f.Broken == "" && then.quantity > 0 {
		loose := f.Wish
		loose.Keep, loose.Least = nil, 0
		if c, err := f.Terms.Choose(&loose, f.Spend); err == nil && c.Found && !f.Allows(c.Price) {
			row.Then.Unkept += Days(seconds)
		}
	}
	r.spread(b, &f, then, was, market, until)
}

// followed does what the plan would have let go.
func (b *Book) followed(r *Replay, row *ReplayRow, f *Figures, then, was *asked) {
	if then.price == nil && was.price != nil { // it begins where it was
		then.price, then.quantity, then.landed = was.price, was.quantity, was.landed
	}
	if then.price == nil { // it goes up, as soon as there is something to offer at a price
		if f.Broken == "" && f.Choice.Found && f.Offer > 0 {
			then.price, then.quantity, then.landed = &f.Choice.Price, f.Offer, f.Spend.Landed
		}
		return
	}
	day := b.Now.Add(-24 * time.Hour)
	then.moves = slices.DeleteFunc(then.moves, func(t time.Time) bool { return !t.After(day) })
	l := plan.Listing{Price: *then.price, Quantity: then.quantity, Landed: then.landed, Moves: int64(len(then.moves))}
	w, _, _ := b.wanted(f, l.Price)
	for _, x := range b.following(f.Rule).Guards.WorkOut(l, w) {
		if x.Verdict != plan.Go {
			if x.Verdict == plan.Held && !same(then.held, &x.Price.To) {
				row.Then.Held, then.held = row.Then.Held+1, &x.Price.To
			}
			continue
		}
		if x.Quantity != nil {
			then.quantity = x.Quantity.To
		}
		if x.Price != nil {
			to := x.Price.To
			then.price, then.landed, then.moves = &to, f.Spend.Landed, append(then.moves, b.Now)
			row.Then.Moves++
			r.day(b.Now, func(d *PastDay) { d.Moves[0]++ })
		}
	}
}

// hold counts a time during which something was asked.
func (p *Past) hold(b *Book, f *Figures, a *asked, market *store.MarketPoint, seconds int64) {
	if a.price == nil || a.quantity == 0 || seconds <= 0 {
		return
	}
	p.OnSale += Days(seconds)
	total := *a.price + b.Site.Charged
	if f.Terms != nil {
		total = *a.price + f.Terms.Charged(*a.price)
	}
	if market != nil && (market.Lowest == nil || total <= *market.Lowest) { // nobody knows where it wasn't read
		p.Lowest += Days(seconds)
	}
	if market != nil && (market.Leading == nil || total <= *market.Leading) {
		p.Leading += Days(seconds)
	}
	if f.Broken != "" {
		return
	}
	v, err := f.Terms.Profit(f.Spend, *a.price)
	if err != nil {
		return
	}
	if p.Least == nil || v < *p.Least {
		p.Least = &v
	}
	if v < 0 {
		p.BelowZero += Days(seconds)
	}
	p.earned, p.time = p.earned+v*seconds, p.time+seconds
}

// add adds one listing's past to that of all.
func (p *Past) add(x *Past) {
	p.Moves, p.Held = p.Moves+x.Moves, p.Held+x.Held
	p.Lowest, p.Leading, p.OnSale = p.Lowest+x.Lowest, p.Leading+x.Leading, p.OnSale+x.OnSale
	p.Unkept, p.BelowZero = p.Unkept+x.Unkept, p.BelowZero+x.BelowZero
	if x.Least != nil && (p.Least == nil || *x.Least < *p.Least) {
		p.Least = x.Least
	}
	p.earned, p.time = p.earned+x.earned, p.time+x.time
}

// spread puts a time into the days it lies in.
func (r *Replay) spread(b *Book, f *Figures, then, was *asked, market *store.MarketPoint, until time.Time) {
	for from := b.Now; from.Before(until); {
		n := int64(from.Sub(r.From) / (24 * time.Hour))
		end := r.From.Add(time.Duration(n+1) * 24 * time.Hour)
		if end.After(until) {
			end = until
		}
		seconds := int64(end.Sub(from).Seconds())
		r.day(from, func(d *PastDay) {
			for k, a := range []*asked{then, was} {
				var p Past
				p.hold(b, f, a, market, seconds)
				d.Lowest[k] += p.Lowest
				d.earned[k], d.time[k] = d.earned[k]+p.earned, d.time[k]+p.time
			}
		})
		from = end
	}
}

// rewind makes rows what they were before all that was recorded.
func rewind(rows []store.PricingRow, rec *store.Replayed) {
	for i := range rows {
		r := &rows[i]
		list := rec.Changes[r.SupplierProductID]
		for j := len(list) - 1; j >= 0; j-- {
			c := list[j]
			c.After = c.Before
			apply(rows[i:i+1], &c)
		}
		r.Doubt, r.FixedPrice, r.BackPrice, r.BackQuantity, r.Differs = "", nil, nil, nil, false
	}
}

// apply makes the rows of a supplier product what a feed said. Its cost is
// written in its own currency.
func apply(rows []store.PricingRow, c *store.ReplayChange) {
	for i := range rows {
		r := &rows[i]
		if r.SupplierProductID != c.ID {
			continue
		}
		switch c.Field {
		case "cost":
			if v, err := money.Parse(c.After, money.Currency(r.ItemCurrency)); err == nil {
				r.ItemCost = v.Minor
			}
		case "stock":
			s := supply.ReadStock(c.After)
			r.Stock, r.StockState = s.Count, string(s.State)
		case "listed":
			r.Gone = c.After == "gone"
		}
	}
}

// offersText are the offers of a market point, as an entry keeps them.
func offersText(m *store.MarketPoint) string {
	if m == nil || m.Lowest == nil {
		return ""
	}
	list := []place.Offer{{Seller: "the lowest", Item: *m.Lowest, Lead: m.Leading != nil && *m.Leading == *m.Lowest}}
	if m.Leading != nil && *m.Leading != *m.Lowest {
		list = append(list, place.Offer{Seller: "the leading", Item: *m.Leading, Lead: true})
	}
	text, err := json.Marshal(list)
	if err != nil {
		return ""
	}
	return string(text)
}

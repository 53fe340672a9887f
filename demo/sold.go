package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"easymargin/internal/stops/orders"
	"easymargin/internal/store"
)

// From when on buyers buy on each site, and how many do at least on a day.
var trade = []struct {
	site, code  string
	from, least int
}{{"Quaymarket GB", "GB", 2, 1}, {"Quaymarket IE", "IE", 27, 0}, {"Quaymarket DE", "DE", 41, 0}}

// theMorning is what was bought early on the morning of Start, and waits to be
// bought from suppliers: which of those there are many of, and how many.
var theMorning = []struct {
	site, code string
	of         int
	quantity   int64
}{
	{"Quaymarket GB", "GB", 3, 1}, {"Quaymarket GB", "GB", 11, 2}, {"Quaymarket GB", "GB", 19, 1}, {"Quaymarket IE", "IE", 5, 1},
	{"Quaymarket GB", "GB", 27, 3},
}

// sell is a day's afternoon: buyers buy, more of them as the weeks go by and on
// Sundays, some things often and most hardly ever. One now and then thinks
// better of it, or sends it back after a week.
func (p *past) sell(ctx context.Context, day int, morning time.Time) error {
	p.world.Clock.Forward(morning.Add(9 * time.Hour).Sub(p.Now()))
	m := p.world.Market
	for _, at := range trade {
		if day < at.from {
			continue
		}
		r := rand.New(rand.NewPCG(Seed*1000+uint64(p.sites[at.site]), uint64(day)))
		most := 2 + (day-at.from)/12
		if morning.Weekday() == time.Sunday {
			most += 3
		}
		for range at.least + r.IntN(most) {
			list := m.Deep(at.code, 3)
			if len(list) == 0 {
				continue
			}
			// The square of a number below one: half of what is bought is a quarter of the list.
			k := r.IntN(1000)
			sku := list[len(list)*k*k/1_000_000]
			ref, err := m.Buy(at.code, sku, 1+int64(max(0, r.IntN(9)-6)))
			if err != nil {
				return err
			}
			switch r.IntN(20) {
			case 0:
				m.CallOff(at.code, ref)
			case 1, 2:
				p.back[day+8] = append(p.back[day+8], [2]string{at.code, ref})
			}
		}
	}
	for _, o := range p.back[day] {
		if m.Ordered(o[0], o[1]).Lines[0].State == "sent" {
			m.CallOff(o[0], o[1])
		}
	}
	return p.readOrders(ctx)
}

// readOrders asks each site what was sold.
func (p *past) readOrders(ctx context.Context) error {
	for _, at := range trade {
		if err := p.Orders.Read(ctx, p.sites[at.site]); err != nil {
			return err
		}
		if err := p.idle(ctx, false); err != nil {
			return err
		}
	}
	return nil
}

// serve is what somebody does for those who bought: what came from suppliers
// goes out, what was sold is bought, what can't be had is called off, and what
// came back is seen to.
func (p *past) serve(ctx context.Context) error {
	here, err := p.arrive(ctx)
	if err != nil {
		return err
	}
	for _, id := range here {
		if err := p.Orders.Sent(ctx, []int64{id}, "Harbour Post", fmt.Sprintf("HP%07d", 4_100_000+id*37)); err != nil {
			return err
		}
	}
	wrong, err := p.Store.OrderLineRows(ctx, "problems", nil, store.Page{Limit: 100})
	if err != nil {
		return err
	}
	if ids := idsOf(wrong.Rows); len(ids) > 0 {
		if err := p.Orders.Settle(ctx, ids); err != nil {
			return err
		}
	}
	if err := p.buy(ctx); err != nil {
		return err
	}
	return p.readOrders(ctx)
}

// arrive notes what came from suppliers, two days after it was bought, and says the
// lines that can go out now.
func (p *past) arrive(ctx context.Context) ([]int64, error) {
	bought, err := p.Store.Buyings(ctx, store.Page{Limit: 30})
	if err != nil {
		return nil, err
	}
	var here []int64
	for _, b := range bought.Rows {
		if b.ArrivedAt != nil || p.Now().Sub(b.MadeAt) < 40*time.Hour {
			continue
		}
		lines, err := p.Store.BoughtRows(ctx, b.ID)
		if err == nil {
			err = p.Orders.Arrived(ctx, b.ID)
		}
		if err != nil {
			return nil, err
		}
		for _, l := range lines {
			if l.State == store.LineBought { // and wasn't called off meanwhile
				here = append(here, l.OrderLineID)
			}
		}
	}
	return here, nil
}

// buy buys what was sold as is cheapest, whatever it was sold in.
func (p *past) buy(ctx context.Context) error {
	sold, err := p.Store.OrderLineRows(ctx, "buy", nil, store.Page{Limit: 100})
	if err != nil || len(sold.Rows) == 0 {
		return err
	}
	split, err := p.Orders.Split(ctx, orders.Wanted{Lines: idsOf(sold.Rows)})
	if err != nil {
		return err
	}
	if len(split.Unserved) > 0 {
		if err := p.Orders.Cancel(ctx, split.Unserved); err != nil {
			return err
		}
	}
	want := orders.Wanted{Choice: map[int64]int64{}, Yes: true}
	for _, l := range split.Lines {
		for _, w := range l.Ways {
			if w.Chosen {
				want.Lines = append(want.Lines, l.ID)
				want.Choice[l.ID] = w.Product
			}
		}
	}
	if len(want.Lines) > 0 {
		_, err = p.Orders.Buy(ctx, want)
	}
	return err
}

func idsOf(lines []store.OrderLineRow) []int64 {
	var out []int64
	for _, l := range lines {
		out = append(out, l.ID)
	}
	return out
}

// statement brings in what the first site says it kept of a month's orders: a
// tenth of them are a little dearer than was reckoned.
func (p *past) statement(ctx context.Context, month time.Time) error {
	site := p.sites["Quaymarket GB"]
	text := &strings.Builder{}
	text.WriteString("Order,Type,Amount\n")
	lines, err := p.Store.OrderLineRows(ctx, "all", nil, store.Page{Limit: 500})
	if err != nil {
		return err
	}
	for _, l := range lines.Rows {
		if l.SiteID != site || l.State != store.LineSent || l.PlacedAt.Before(month) || !l.PlacedAt.Before(month.AddDate(0, 1, 0)) || l.Expected == "" {
			continue
		}
		var reckoned []struct {
			Kind   string
			Amount int64
		}
		if err := json.Unmarshal([]byte(l.Expected), &reckoned); err != nil {
			return err
		}
		kept := int64(0)
		for _, x := range reckoned {
			if strings.HasPrefix(x.Kind, "fee") {
				kept -= x.Amount
			}
		}
		if l.ID%10 == 0 {
			kept += kept / 8
		}
		fmt.Fprintf(text, "%s,Commission fee,-%d.%02d\n", l.OrderRef, kept/100, kept%100)
	}
	text.WriteString(",Subscription,-25.00\n")
	look, err := p.Orders.LookStatement(ctx, site, "statement-"+month.Format("2006-01")+".csv", []byte(text.String()))
	if err != nil {
		return err
	}
	columns := map[string]string{}
	for _, c := range look.Columns {
		columns[c.Name] = c.As
	}
	_, err = p.Orders.TakeStatement(ctx, site, orders.OrderReportChoice{Token: look.Token, Columns: columns})
	return err
}

// early has buyers buy on the morning of Start while nobody looks; a parcel came.
func (p *past) early(ctx context.Context) error {
	if _, err := p.arrive(ctx); err != nil {
		return err
	}
	for _, x := range theMorning {
		p.world.Clock.Forward(13 * time.Minute)
		list := p.world.Market.Deep(x.code, 10)
		if _, err := p.world.Market.Buy(x.code, list[x.of%len(list)], x.quantity); err != nil {
			return err
		}
	}
	return p.readOrders(ctx)
}

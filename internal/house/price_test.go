package house_test

import (
	"cmp"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sending"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

// all are a world's listings, however many.
func (w *world) all() []store.ListingRow {
	var out []store.ListingRow
	for p := (store.Page{Limit: 500}); ; {
		l, err := w.Store.Listings(w.t.Context(), store.ListingFilter{}, p)
		require.NoError(w.t, err)
		out = append(out, l.Rows...)
		if p.Cursor = l.Next; p.Cursor == "" {
			return out
		}
	}
}

func (w *world) prices() map[int64]store.ListingRow {
	out := map[int64]store.ListingRow{}
	for _, l := range w.all() {
		out[l.ID] = l
	}
	return out
}

// one is a listing with a price and stock, of a category.
func (w *world) one(category string) store.ListingRow {
	for _, l := range w.all() {
		if l.Price != nil && l.Quantity > 0 && (category == "" || l.Category == category) {
			return l
		}
	}
	require.FailNow(w.t, "no listing in "+category)
	return store.ListingRow{}
}

func (w *world) keep(r prices.NamedRule) int64 {
	id, err := w.Prices.KeepRule(w.t.Context(), w.site.ID, stops.IfMatch{}, r)
	require.NoError(w.t, err)
	w.idle()
	return id
}

func margin(v string) []prices.RuleCondition {
	return []prices.RuleCondition{{Kind: "margin", Value: v}}
}

func badField(t *testing.T, err error, field string) {
	t.Helper()
	var e *fault.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, field, e.Field)
}

func TestTheFirstRuleThatFitsHolds(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	mugs := w.keep(prices.NamedRule{Name: "Mugs", Fits: &prices.Fits{Categories: []string{"mugs"}}, Rule: prices.Rule{Aims: margin("30%")}})
	kitchen := w.keep(
		prices.NamedRule{Name: "Kitchen", Fits: &prices.Fits{Categories: []string{"kitchen"}}, Rule: prices.Rule{Aims: margin("25%")}},
	)
	holds := func() map[string]int64 {
		rules, err := w.Prices.Rules(ctx, w.site.ID)
		require.NoError(t, err)
		assert.Equal(t, "All the rest", rules[len(rules)-1].Name, "the last stays last")
		out := map[string]int64{}
		for _, r := range rules {
			out[r.Name] = r.Listings
		}
		return out
	}
	first := holds()
	inMugs := int64(0)
	for _, l := range w.all() {
		if l.Category == "Mugs and cups" {
			inMugs++
			assert.GreaterOrEqual(t, *l.Profit*100, 30*(*l.Price-*l.Tax), l.SKU)
		}
	}
	assert.Equal(t, inMugs, first["Mugs"])
	assert.NotZero(t, first["Kitchen"], "categories below it are in it")
	assert.Equal(t, int64(len(w.all())), first["Mugs"]+first["Kitchen"]+first["All the rest"])

	require.NoError(t, w.Prices.MoveRule(ctx, kitchen, 0))
	w.idle()
	moved := holds()
	assert.Zero(t, moved["Mugs"], "the kitchen's rule is tried first now")
	assert.Equal(t, first["Mugs"]+first["Kitchen"], moved["Kitchen"])
	require.NoError(t, w.Prices.MoveRule(ctx, mugs, 99))
	require.NoError(t, w.Prices.DropRule(ctx, kitchen))
	w.idle()
	assert.Equal(t, inMugs, holds()["Mugs"])

	rules, err := w.Prices.Rules(ctx, w.site.ID)
	require.NoError(t, err)
	last := rules[len(rules)-1]
	assert.Equal(t, fault.Conflict, fault.KindOf(w.Prices.DropRule(ctx, last.ID)))
	assert.Equal(t, fault.Conflict, fault.KindOf(w.Prices.MoveRule(ctx, last.ID, 0)))
	assert.Equal(t, fault.Missing, fault.KindOf(w.Prices.DropRule(ctx, 999)))
	for field, r := range map[string]prices.NamedRule{
		"name":           {Rule: prices.Rule{Aims: margin("1%")}, Fits: &prices.Fits{}},
		"fits":           {Name: "x", Rule: prices.Rule{Aims: margin("1%")}},
		"fits.cost_from": {Name: "x", Rule: prices.Rule{Aims: margin("1%")}, Fits: &prices.Fits{CostFrom: "12,5,0"}},
		"rule.aims":      {Name: "x", Fits: &prices.Fits{}},
		"rule.market.by": {Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Market: &prices.RuleMarket{Stance: "below", By: "a lot"}}},
		"rule.endings.at[0]": {Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Aims: margin("1%"),
			Endings: &prices.RuleEndings{Every: "1.00", At: []string{"1.49"}, Way: "up"}}},
		"rule.keep[0].value": {Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Aims: margin("1%"),
			Keep: []prices.RuleCondition{{Kind: "profit", Value: "x"}}}},
		"rule.least":          {Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Aims: margin("1%"), Least: "5.00", Most: "4.00"}},
		"rule.market.against": {Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Market: &prices.RuleMarket{Stance: "below", Against: "him"}}},
	} {
		_, err := w.Prices.KeepRule(ctx, w.site.ID, stops.IfMatch{}, r)
		badField(t, err, field)
	}
	_, err = w.Prices.KeepRule(
		ctx,
		w.site.ID,
		stops.IfMatch{},
		prices.NamedRule{ID: 999, Name: "x", Fits: &prices.Fits{}, Rule: prices.Rule{Aims: margin("1%")}},
	)
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestAPreviewSaysWhatKeepingDoes(t *testing.T) {
	w := priced(t)
	before := w.prices()
	r := prices.NamedRule{
		Name: "Dear ones",
		Fits: &prices.Fits{CostFrom: "20.00"},
		Rule: prices.Rule{Aims: margin("12%"), Keep: []prices.RuleCondition{{Kind: "profit", Value: "3.00"}}, Most: "150.00"},
	}
	said, err := w.Prices.PreviewRule(t.Context(), w.site.ID, r, false)
	require.NoError(t, err)
	assert.Equal(t, before, w.prices(), "a preview changes nothing")
	assert.NotEmpty(t, said.Words)
	w.keep(r)
	after := w.prices()
	var up, down, same, unsellable, worse, better int64
	for id, b := range before {
		a := after[id]
		if *b.Landed < 2000 {
			assert.Equal(t, b.Price, a.Price, "it isn't for those that cost less")
			continue
		}
		switch {
		case a.Price == nil:
			unsellable++
			continue
		case *a.Price > *b.Price:
			up++
		case *a.Price < *b.Price:
			down++
		default:
			same++
		}
		if d := *a.Profit - *b.Profit; d < 0 {
			worse -= d
		} else {
			better += d
		}
	}
	assert.Equal(
		t,
		[]int64{up, down, same, unsellable, worse, better},
		[]int64{said.Up, said.Down, said.Same, said.Unsellable, said.Worse, said.Better},
	)
	assert.Equal(t, up+down+same+unsellable, said.Fits)
	assert.NotZero(t, down)
	assert.NotZero(t, unsellable, "the dearest have no price under 150.00")
	bars := int64(0)
	for _, b := range said.Bars {
		bars += b.Count
	}
	assert.Equal(t, up+down, bars)
	require.Len(t, said.Most, 10)
	assert.Nil(t, said.Most[0].To, "those left without a price stand first")
	for _, m := range said.Most {
		assert.Equal(t, before[m.ListingID].Price, m.From)
		assert.Equal(t, after[m.ListingID].Price, m.To)
		if m.To != nil {
			sum := int64(0)
			for _, l := range m.Lines {
				sum += l.Amount
			}
			assert.Equal(t, *m.Profit, sum)
		}
	}
}

// Where fees are not known any more prices can't be told, and nothing is asked
// at them; but what the supplier has run out of goes off sale all the same.
func TestStockFallsWhereThePriceCantBeTold(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	w.fetch()
	w.sendAll()
	gateway := httptest.NewServer(http.HandlerFunc(func(out http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, "/fees") {
			_, _ = out.Write([]byte(`{"schedules":[]}`))
			return
		}
		w.market.ServeHTTP(out, r)
	}))
	defer gateway.Close()
	require.NoError(t, w.Store.MoveMarketplace(ctx, "Quaymarket", gateway.URL))
	require.NoError(t, w.Prices.RefreshFees(ctx, w.site.ID))
	w.idle()
	plan := w.openPlan()
	groups, err := w.Store.PlanGroups(ctx, plan.ID)
	require.NoError(t, err)
	require.Len(t, groups, 1)
	assert.Equal(t, []any{"no price", groups[0].Lines}, []any{groups[0].Kind, groups[0].Blocked}, "nothing of it goes by itself")

	w.clock.Forward(15 * time.Minute)
	w.fetch()
	plan = w.openPlan()
	lines, err := w.Store.PlanLines(ctx, store.PlanPart{Plan: plan.ID}, store.Page{Limit: 500})
	require.NoError(t, err)
	fallen := map[int64]int64{}
	for _, l := range lines.Rows {
		if l.ToQty != nil {
			assert.Nil(t, l.ToPrice)
			assert.Equal(t, "go", l.Verdict)
			fallen[l.ListingID] = *l.ToQty
		}
	}
	require.Greater(t, len(fallen), 20)
	_, err = w.Sending.SendPlan(ctx, plan.ID, sending.PlanChoice{})
	require.NoError(t, err)
	w.idle()
	for id, l := range w.prices() {
		if to, ok := fallen[id]; ok {
			assert.Equal(t, to, l.ConfirmedQuantity, l.SKU)
		}
		if l.State == "live" && (l.Stock == 0 || l.Gone) {
			assert.Zero(t, l.ConfirmedQuantity, "%s is on sale, and there is none", l.SKU)
		}
	}
}

// A reading of rivals that was cut short loses nothing, and the next goes on where it stopped.
func TestAReadingOfRivalsGoesOnWhereItStopped(t *testing.T) {
	w := priced(t)
	var asked, most atomic.Int64
	most.Store(4)
	gateway := httptest.NewServer(http.HandlerFunc(func(out http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, "/offers") && asked.Add(1) > most.Load() {
			http.Error(out, "too busy", http.StatusServiceUnavailable)
			return
		}
		w.market.ServeHTTP(out, r)
	}))
	defer gateway.Close()
	require.NoError(t, w.Store.MoveMarketplace(t.Context(), "Quaymarket", gateway.URL))
	unread := func() int {
		list, err := w.Store.ListedEntries(t.Context(), w.site.ID, 0, 10_000, w.clock.Now())
		require.NoError(t, err)
		return len(list)
	}
	all := unread()
	require.Greater(t, all, 1000)
	require.NoError(t, w.Prices.ReadRivals(t.Context(), w.site.ID))
	w.idle()
	assert.Equal(t, all-400, unread(), "four groups of a hundred were read and kept")
	asked.Store(0)
	most.Store(1000)
	require.NoError(t, w.Prices.ReadRivals(t.Context(), w.site.ID))
	w.idle()
	assert.Zero(t, unread())
	assert.Equal(t, int64((all-400+99)/100), asked.Load(), "and those were not asked for again")
}

func TestARuleStandsBesideRivals(t *testing.T) {
	w := priced(t)
	under := prices.NamedRule{
		Name: "A penny under",
		Fits: &prices.Fits{Categories: []string{"mugs"}},
		Rule: prices.Rule{Aims: margin("40%"),
			Keep: []prices.RuleCondition{{Kind: "profit", Value: "0.10"}}, Market: &prices.RuleMarket{Stance: "below", By: "0.01"}},
	}
	said, err := w.Prices.PreviewRule(t.Context(), w.site.ID, under, false)
	require.NoError(t, err)
	assert.Equal(t, said.Fits, said.Unread, "nobody has asked about rivals yet, and it says so")
	require.NoError(t, w.Prices.ReadRivals(t.Context(), w.site.ID))
	w.idle()
	said, err = w.Prices.PreviewRule(t.Context(), w.site.ID, under, false)
	require.NoError(t, err)
	assert.Zero(t, said.Unread)
	before := w.prices()
	w.keep(under)
	moved := int64(0)
	for id, l := range w.prices() {
		if *l.Price != *before[id].Price {
			moved++
		}
	}
	assert.Equal(t, said.Up+said.Down, moved, "and then it knows what will be")
	byRival := 0
	for _, l := range w.all() {
		if l.Category != "Mugs and cups" || l.Price == nil {
			continue
		}
		x, err := w.Prices.Explain(t.Context(), l.ID, nil)
		require.NoError(t, err)
		lowest := int64(0)
		for _, o := range x.Rivals {
			if total := o.Item + o.Delivery; !o.Ours && (lowest == 0 || total < lowest) {
				lowest = total
			}
		}
		assert.GreaterOrEqual(t, *l.Price, *l.Floor, "never under the floor")
		if l.Bound == "market" {
			byRival++
			assert.Equal(t, lowest-1, *l.Price, l.SKU)
			assert.Regexp(t, `^set by a rival: .+ asks `+unitText(lowest)+` in all; A penny under$`, x.Shown)
		}
	}
	assert.Greater(t, byRival, 20)
	// They are read again every hour, and only where a rule looks at them.
	mug := w.one("Mugs and cups")
	w.clock.Forward(61 * time.Minute)
	require.NoError(t, w.Round(t.Context()))
	w.idle()
	x, err := w.Prices.Explain(t.Context(), mug.ID, nil)
	require.NoError(t, err)
	assert.NotEmpty(t, x.Shown)
	runs, err := w.Store.LastRuns(t.Context(), 30)
	require.NoError(t, err)
	reads := 0
	for _, r := range runs {
		if r.Kind == "rivals" && r.State == store.RunDone {
			reads++
		}
	}
	assert.Equal(t, 3, reads, "asked for, with the rule, and after an hour")
}

func TestThePricesOfTomorrowUseTomorrowsFees(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	l := w.one("Mugs and cups")
	tomorrow := w.clock.Now().AddDate(0, 0, 1).Format("2006-01-02")
	require.NoError(
		t,
		w.Prices.SetFees(
			ctx,
			w.site.ID,
			stops.IfMatch{},
			[]byte(`{"category":"mugs","starts_on":"`+tomorrow+`","fees":[{"name":"commission","of":"total","rate":"25%"}]}`),
		),
	)
	w.idle()
	assert.Equal(t, *l.Price, *w.prices()[l.ID].Price, "not yet")
	then, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Day: tomorrow})
	require.NoError(t, err)
	assert.Greater(t, *then.Price, *l.Price)
	w.clock.Forward(24 * time.Hour)
	require.NoError(t, w.Round(ctx))
	w.idle()
	assert.Equal(t, *then.Price, *w.prices()[l.ID].Price, "by itself, when the day comes")
	fees, err := w.Prices.Fees(ctx, w.site.ID)
	require.NoError(t, err)
	found := false
	for _, f := range fees {
		if f.Category == "mugs" {
			found = true
			assert.True(t, f.Holds && f.ByHand)
			assert.Equal(t, []string{"commission: 25%, of item and delivery"}, f.Fees)
			assert.Equal(t, "Camp kitchen", f.Path)
		}
	}
	assert.True(t, found)

	require.NoError(t, w.Prices.RefreshFees(ctx, w.site.ID))
	w.idle()
	assert.Equal(t, *then.Price, *w.prices()[l.ID].Price, "reading the gateway's again leaves what a person wrote")
	require.NoError(t, w.Prices.DropFees(ctx, w.site.ID, "mugs", tomorrow))
	w.idle()
	assert.Equal(t, *l.Price, *w.prices()[l.ID].Price)
	assert.Equal(t, fault.Conflict, fault.KindOf(w.Prices.DropFees(ctx, w.site.ID, "", "2025-01-01")), "the gateway's own can't be dropped")

	file, err := w.Prices.FeesFile(ctx, w.site.ID)
	require.NoError(t, err)
	n, err := w.Prices.TakeFees(ctx, w.site.ID, file)
	require.NoError(t, err)
	assert.Equal(t, 6, n)
	w.idle()
	assert.Equal(t, *l.Price, *w.prices()[l.ID].Price, "a file that was saved changes nothing")
	_, err = w.Prices.TakeFees(ctx, w.site.ID, []byte(strings.Replace(string(file), `"kitchen"`, `"boats"`, 1)))
	assert.ErrorContains(t, err, `no category "boats"`)
	badField(t, w.Prices.SetFees(ctx, w.site.ID, stops.IfMatch{}, []byte(`{"category":"mugs","starts_on":"soon","fees":[]}`)), "starts_on")
}

func TestWhatIfOnlyAsks(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	before := w.prices()
	same, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{})
	require.NoError(t, err)
	assert.Equal(t, same.Now, same.Then)
	assert.Zero(t, same.Worse+same.UnderFloor+same.AtLoss)
	assert.Equal(t, int64(len(before)), same.Listings)
	sum := int64(0)
	for _, l := range before {
		sum += *l.Profit
	}
	assert.Equal(t, sum, same.Now)

	dearer, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{Cost: "30%", Sales: 3})
	require.NoError(t, err)
	assert.Equal(t, 3*same.Now, dearer.Now)
	lost, loss, floor := int64(0), int64(0), int64(0)
	for _, l := range before {
		cost := prices.BenchCost{Unit: unitText((l.Cost*130 + 50) / 100)}
		x, err := w.Prices.Bench(
			ctx,
			prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Cost: cost, Lead: "price", Value: unitText(*l.Price)},
		)
		require.NoError(t, err)
		lost += *l.Profit - *x.Profit
		if *x.Profit < 0 {
			loss++
		}
		if x.Floor == nil || *l.Price < *x.Floor {
			floor++
		}
	}
	assert.Equal(t, 3*lost, dearer.Now-dearer.Then)
	assert.Equal(t, []int64{loss, floor}, []int64{dearer.AtLoss, dearer.UnderFloor})
	assert.NotZero(t, loss)
	require.Len(t, dearer.Most, int(min(dearer.Worse, 100)))
	assert.True(t, slices.IsSortedFunc(dearer.Most, func(a, b prices.Move) int {
		return cmp.Compare(*b.ProfitWas-*b.Profit, *a.ProfitWas-*a.Profit)
	}), "those that fall furthest first")
	for _, m := range dearer.Most {
		left := int64(0)
		for _, x := range m.Lines {
			left += x.Amount
		}
		assert.Equal(t, *m.Profit, left, "each opens into its lines")
	}
	for show, n := range map[string]int64{"floor": floor, "loss": loss} {
		x, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{Cost: "30%", Show: show})
		require.NoError(t, err)
		require.Len(t, x.Most, int(min(n, 100)), show)
		for _, m := range x.Most {
			if show == "loss" {
				assert.Negative(t, *m.Profit)
			} else {
				assert.Less(t, *m.From, *m.Floor)
			}
		}
	}
	all, err := w.Prices.AskWhatIfAll(ctx, prices.WhatIf{Cost: "30%", Sales: 3})
	require.NoError(t, err)
	require.Len(t, all.Sites, 1, "only where we list")
	assert.Equal(t, []any{"GBP", dearer.Now, dearer.Then}, []any{all.Home, *all.Now, *all.Then})
	_, err = w.Prices.AskWhatIfAll(ctx, prices.WhatIf{Rates: map[string]string{"EUR": "0.9"}})
	badField(t, err, "rates")
	fees, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{FeesOn: "2026-04-02"})
	require.NoError(t, err)
	assert.NotZero(t, fees.Worse, "light costs more from April")
	gone, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{FeesOn: "2020-01-01", Show: "broken"})
	require.NoError(t, err)
	assert.Equal(
		t,
		[]int64{gone.Listings, 0, 0},
		[]int64{gone.Unpriced, gone.Now, gone.Then},
		"no fees were known then: nothing is compared",
	)
	assert.Contains(t, gone.Most[0].Why, "fees")
	none, err := w.Prices.AskWhatIf(ctx, w.site.ID, prices.WhatIf{Cost: "50%", Supplier: "Tidewrack Clearance"})
	require.NoError(t, err)
	assert.Zero(t, none.Worse, "nothing of theirs is sold")
	assert.Equal(t, before, w.prices(), "nothing is changed by asking")
	for field, q := range map[string]prices.WhatIf{"cost": {Cost: "a lot"}, "fees_on": {FeesOn: "April"}, "rates": {Rates: map[string]string{"EUR": "0"}}} {
		_, err := w.Prices.AskWhatIf(ctx, w.site.ID, q)
		badField(t, err, field)
	}
}

// unitText writes pence as pounds.
func unitText(minor int64) string {
	s := []byte{byte('0' + minor/10%10), byte('0' + minor%10)}
	whole := minor / 100
	digits := ""
	for whole > 0 || digits == "" {
		digits = string(rune('0'+whole%10)) + digits
		whole /= 10
	}
	return digits + "." + string(s)
}

func TestTheBenchGoesBothWays(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	l := w.one("Stoves")
	ask := prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID}
	x, err := w.Prices.Bench(ctx, ask)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]int64{*l.Price, *l.Profit, *l.Landed, *l.Floor, *l.BreakEven},
		[]int64{*x.Price, *x.Profit, x.Landed, *x.Floor, *x.BreakEven},
		"the bench starts from the rule's price",
	)
	sum := int64(0)
	for _, q := range x.Lines {
		sum += q.Amount
	}
	assert.Equal(t, *x.Profit, sum)
	for _, lead := range []struct{ lead, value string }{{"profit", "7.50"}, {"profit", "-1.00"}, {"margin", "25"}, {"margin", "25%"},
		{"return", "40%"}, {"markup", "90 %"}} {
		ask.Lead, ask.Value = lead.lead, lead.value
		x, err := w.Prices.Bench(ctx, ask)
		require.NoError(t, err, lead)
		ask.Lead, ask.Value = "price", unitText(*x.Price)
		same, err := w.Prices.Bench(ctx, ask)
		require.NoError(t, err)
		assert.Equal(t, *x.Profit, *same.Profit, "the price that a figure gives, written, gives the figure")
		if lead.lead == "profit" {
			assert.GreaterOrEqual(
				t,
				unitText(*same.Profit+10_000),
				unitText(map[string]int64{"7.50": 750, "-1.00": -100}[lead.value]+10_000),
			)
			ask.Value = unitText(*x.Price - 1)
			under, err := w.Prices.Bench(ctx, ask)
			require.NoError(t, err)
			assert.Less(t, *under.Profit, map[string]int64{"7.50": 750, "-1.00": -100}[lead.value], "it is the least")
		}
	}
	for field, q := range map[string]prices.BenchAsk{
		"value":         {Lead: "price", Value: "12,5,0"},
		"cost.unit":     {Cost: prices.BenchCost{Unit: "ten"}},
		"cost.currency": {Cost: prices.BenchCost{Currency: "XYZ"}},
		"cost.fx":       {Cost: prices.BenchCost{Currency: "USD", Unit: "1.00", FX: "0"}},
		"cost.duty":     {Cost: prices.BenchCost{Duty: "-4%"}},
		"charged":       {Charged: "free"},
		"day":           {Day: "tomorrow"},
		"former":        {Former: "0.01"},
	} {
		q.SiteID, q.ProductID = w.site.ID, l.ProductID
		_, err := w.Prices.Bench(ctx, q)
		badField(t, err, field)
	}
	_, err = w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Lead: "margin", Value: "99%"})
	assert.ErrorContains(t, err, "no price up to")
	_, err = w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: 99_999})
	assert.ErrorIs(t, err, store.ErrMissing)

	loose, err := w.Prices.Bench(ctx, prices.BenchAsk{
		SiteID:   w.site.ID,
		Category: "light",
		Lead:     "price",
		Value:    "20.00",
		Outbound: "0.00",
		Cost: prices.BenchCost{
			Unit:        "12.00",
			Currency:    "EUR",
			FX:          "0.8612",
			UnitsBought: 6,
			UnitsListed: 1,
			Duty:        "4.2",
			Charge:      "4.50",
			FreeFrom:    "35.00",
		},
	})
	require.NoError(t, err)
	// (12.00 + 4.50) / 6 × 1.042 × 0.8612 = 2.4678 → 2.47
	assert.Equal(t, int64(247), loose.Landed)
	assert.Equal(t, "2.47 GBP", loose.Cost[len(loose.Cost)-1].Amount)
	assert.Equal(t, "one item of the supplier's", loose.Cost[0].Name)
	found, err := w.Store.Search(ctx, "kettle", 1)
	require.NoError(t, err)
	item, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, SupplierProductID: found[0].ID})
	require.NoError(t, err)
	assert.Equal(t, found[0].Title, item.Title)
	assert.Equal(t, unitText(found[0].Cost), item.Figures.Unit)
	assert.NotNil(t, item.Price, "what a supplier has can be tried before it is ours")
	_, err = w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, SupplierProductID: 99_999})
	assert.ErrorIs(t, err, store.ErrMissing)
	unknown, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, Cost: prices.BenchCost{Unit: "12.00", Currency: "CHF"}})
	require.NoError(t, err)
	assert.Contains(t, unknown.Why, "no exchange rate from CHF to GBP")
}

func TestTheWarehousesFeeNeedsASize(t *testing.T) {
	w := priced(t)
	l := w.one("")
	ask := prices.BenchAsk{
		SiteID:    w.site.ID,
		ProductID: l.ProductID,
		Warehouse: "yes",
		Packed:    prices.BenchPacked{Weight: 1501, Length: 300, Width: 200, Height: 60},
	}
	x, err := w.Prices.Bench(t.Context(), ask)
	require.NoError(t, err)
	assert.Equal(t, "small parcel", x.Step)
	fee := int64(0)
	for _, q := range x.Lines {
		switch q.Name {
		case "warehouse fee":
			fee = -q.Amount
		case "outbound":
			assert.Zero(t, q.Amount, "the warehouse sends")
		}
	}
	assert.Equal(t, int64(304+2*22), fee, "two half kilos begun past the first kilo")
	ask.Packed = prices.BenchPacked{Weight: 1501, Length: 300, Width: 200}
	x, err = w.Prices.Bench(t.Context(), ask)
	require.NoError(t, err)
	assert.Nil(t, x.Price)
	assert.Contains(t, x.Why, "the packed length, width and height of the product is not known", "nothing is guessed")
	require.NoError(t, w.Prices.SetWarehouse(t.Context(), l.ID, stops.IfMatch{}, true))
	w.idle()
	row := w.prices()[l.ID]
	assert.Nil(t, row.Price, "Fernhollow says no sizes")
	assert.Contains(t, row.Why, "so the warehouse's fee can't be told")
	assert.Equal(t, store.ListingUnpriced, row.State)
}

func TestWhereIsItBestSold(t *testing.T) {
	w := priced(t)
	l := w.one("Mugs and cups")
	for from, rate := range map[string]string{"GBP": "1.1611"} {
		require.NoError(t, w.Prices.SetRate(t.Context(), from, "EUR", rate))
	}
	require.NoError(t, w.Prices.SetRate(t.Context(), "EUR", "GBP", "0.8612"))
	w.idle()
	rows, home, err := w.Prices.BenchSites(t.Context(), prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID})
	require.NoError(t, err)
	assert.Equal(t, "GBP", home)
	require.Len(t, rows, 3)
	assert.Equal(t, *l.Price, *rows[0].Price)
	best := int64(-1 << 62)
	for _, r := range rows {
		require.NotNil(t, r.Home, r.Site)
		best = max(best, *r.Home)
		assert.Equal(t, *r.Price, *r.Landed+*r.Fees+*r.Tax+*r.Outbound+*r.Profit)
	}
	for _, r := range rows {
		assert.Equal(t, *r.Home == best, r.Best)
		assert.Equal(t, r.Site == "Quaymarket GB", r.Listed)
	}
	assert.True(t, rows[0].Lists && !rows[1].Lists)
	loose, _, err := w.Prices.BenchSites(t.Context(), prices.BenchAsk{SiteID: w.site.ID, Cost: prices.BenchCost{Unit: "10.00"}})
	require.NoError(t, err)
	assert.Equal(t, []int64{1000, 1162}, []int64{*loose[0].Landed, *loose[1].Landed}, "ten pounds are ten pounds on every site")
}

func TestAPriceFixedByHandStays(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	w.sendAll()
	l := w.one("Mugs and cups")
	other := w.one("Stoves")
	before := w.prices()

	seen, err := w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID, other.ID}, By: "10%"})
	require.NoError(t, err)
	require.Len(t, seen, 2)
	assert.Equal(t, before, w.prices(), "seeing it keeps nothing")
	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID, other.ID}, By: "-80%", Keep: true})
	assert.ErrorContains(t, err, "under its floor")
	assert.Equal(t, before, w.prices(), "not even those that could")
	for field, r := range map[string]prices.Repricing{"by": {By: "12,5,0"}, "to": {To: "9.999"}} {
		r.Listings = []int64{l.ID}
		_, err := w.Prices.Reprice(ctx, r)
		badField(t, err, field)
	}
	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{999_999}, By: "1.00"})
	assert.ErrorIs(t, err, store.ErrMissing)

	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID}, By: "+0.50", Keep: true})
	require.NoError(t, err)
	w.idle()
	fixed := w.prices()[l.ID]
	assert.Equal(t, *l.Price+50, *fixed.Price)
	assert.Equal(t, "fixed", fixed.Bound)
	plan := w.openPlan()
	lines, err := w.Store.PlanLines(ctx, store.PlanPart{Plan: plan.ID}, store.Page{Limit: 100})
	require.NoError(t, err)
	require.Len(t, lines.Rows, 1, "the marketplace hears of it only by a plan")
	assert.Equal(t, "held", lines.Rows[0].Verdict)
	assert.Contains(t, lines.Rows[0].VerdictWhy, "by hand")

	require.NoError(t, w.setRule(prices.Rule{Aims: margin("30%"), Keep: []prices.RuleCondition{{Kind: "profit", Value: "0.10"}}}))
	w.idle()
	assert.Equal(t, *fixed.Price, *w.prices()[l.ID].Price, "no rule moves it")
	require.NoError(t, w.setRule(prices.Rule{Aims: margin("30%"), Keep: []prices.RuleCondition{{Kind: "profit", Value: "500.00"}}}))
	w.idle()
	under := w.prices()[l.ID]
	assert.Nil(t, under.Price, "but under its floor it is never asked")
	assert.Zero(t, under.Quantity)
	assert.Contains(t, under.Why, "under its floor")
	require.NoError(t, w.setRule(prices.Rule{Aims: margin("30%"), Keep: []prices.RuleCondition{{Kind: "profit", Value: "0.10"}}}))
	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID}, Release: true, Keep: true})
	require.NoError(t, err)
	w.idle()
	assert.Equal(t, "aim", w.prices()[l.ID].Bound)
}

func TestAListingsOwnRuleAndFormerPrice(t *testing.T) {
	w := priced(t)
	ctx := t.Context()
	w.sendAll()
	l := w.one("Mugs and cups")
	nine := prices.Rule{Aims: []prices.RuleCondition{{Kind: "profit", Value: "9.00"}}}
	seen, err := w.Prices.PreviewOwnRule(ctx, l.ID, &nine)
	require.NoError(t, err)
	assert.Equal(t, *l.Price, *w.prices()[l.ID].Price, "looking changes nothing")
	_, err = w.Prices.PreviewOwnRule(ctx, l.ID, &prices.Rule{Aims: margin("18")})
	badField(t, err, "rule.aims[0].value")
	require.NoError(t, w.Prices.SetOwnRule(ctx, l.ID, stops.IfMatch{}, &nine))
	w.idle()
	own := w.prices()[l.ID]
	assert.Equal(t, *seen.Price, *own.Price, "what was shown before it was kept is what came of it")
	again, err := w.Prices.PreviewOwnRule(ctx, l.ID, nil)
	require.NoError(t, err)
	assert.Equal(t, *l.Price, *again.Price, "without it the rules for all would hold")
	assert.GreaterOrEqual(t, *own.Profit, int64(900))
	x, err := w.Prices.Explain(ctx, l.ID, nil)
	require.NoError(t, err)
	require.NotNil(t, x.OwnRule)
	assert.Contains(t, x.Shown, "its own rule")
	badField(t, w.Prices.SetOwnRule(ctx, l.ID, stops.IfMatch{}, &prices.Rule{Aims: margin("18")}), "rule.aims[0].value")
	require.NoError(t, w.Prices.SetOwnRule(ctx, l.ID, stops.IfMatch{}, nil))
	w.idle()
	assert.Equal(t, *l.Price, *w.prices()[l.ID].Price)

	former := func(v int64) string {
		warning, err := w.Prices.SetFormer(ctx, l.ID, stops.IfMatch{}, unitText(v))
		require.NoError(t, err)
		return warning
	}
	badField(t, func() error { _, err := w.Prices.SetFormer(ctx, l.ID, stops.IfMatch{}, unitText(*l.Price)); return err }(), "former")
	assert.Contains(t, former(*l.Price+500), "not offered at that price", "it never was")
	// Offered at five pounds more, then again at its own price.
	w.clock.Forward(time.Hour)
	reprice := func(r prices.Repricing) {
		r.Listings, r.Keep = []int64{l.ID}, true
		_, err := w.Prices.Reprice(ctx, r)
		require.NoError(t, err)
		w.idle()
		plan := w.openPlan()
		lines, err := w.Store.PlanLines(ctx, store.PlanPart{Plan: plan.ID}, store.Page{Limit: 10})
		require.NoError(t, err)
		_, err = w.Sending.SendPlan(ctx, plan.ID, sending.PlanChoice{Lines: []int64{lines.Rows[0].ID}})
		require.NoError(t, err)
		w.idle()
		w.clock.Forward(time.Hour)
	}
	reprice(prices.Repricing{By: "5.00"})
	reprice(prices.Repricing{By: "-5.00"})
	assert.Empty(t, former(*l.Price+500), "within 30 days it was")
	assert.NotEmpty(t, former(*l.Price+501))
	x, err = w.Prices.Explain(ctx, l.ID, nil)
	require.NoError(t, err)
	assert.Equal(t, *l.Price+501, *x.Crossed)
	off, err := pricing.Off(*l.Price, *l.Price+501)
	require.NoError(t, err)
	require.NotNil(t, x.Former)
	assert.Equal(t, off, x.Former.Percent)
	assert.Contains(t, x.Former.Warning, "not offered at that price")
	tried, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Former: unitText(*l.Price + 500)})
	require.NoError(t, err)
	assert.Empty(t, tried.Former.Warning, "the bench knows what it was offered at")
	_, err = w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Former: unitText(*l.Price)})
	badField(t, err, "former")
	_, err = w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, ProductID: l.ProductID, Former: "9,9,9"})
	badField(t, err, "former")
	loose, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, Cost: prices.BenchCost{Unit: "4.00"}, Former: "99.00"})
	require.NoError(t, err)
	assert.Contains(t, loose.Former.Warning, "never offered here")
	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID}, By: "9.00", Keep: true})
	require.NoError(t, err)
	w.idle()
	x, err = w.Prices.Explain(ctx, l.ID, nil)
	require.NoError(t, err)
	assert.Contains(t, x.Former.Warning, "not above the price any more", "the price rose past it")
	_, err = w.Prices.Reprice(ctx, prices.Repricing{Listings: []int64{l.ID}, Release: true, Keep: true})
	require.NoError(t, err)
	w.idle()
	w.clock.Forward(31 * 24 * time.Hour)
	assert.NotEmpty(t, former(*l.Price+500), "too long ago")
}

func TestExchangeRatesComeThreeWays(t *testing.T) {
	w := newWorld(t)
	ctx := t.Context()
	rate := func(from string) prices.Rate {
		rates, _, err := w.Prices.Rates(ctx)
		require.NoError(t, err)
		for _, r := range rates {
			if r.From == from && r.To == "GBP" {
				return r
			}
		}
		return prices.Rate{}
	}
	n, err := w.Prices.RatesFile(ctx, "\ufefffrom,to,rate,day\nEUR,GBP,0.8612,2026-02-20\nUSD,GBP,0.7904,2026-03-02\n")
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	assert.Contains(t, rate("EUR").Stale, "11 days old")
	assert.Empty(t, rate("USD").Stale)
	for words, text := range map[string]string{
		`line 1: the column "rate"`: "from,to\nEUR,GBP\n", "line 3": "from,to,rate\nEUR,GBP,1\nEUR,GBP,x\n", "line 2": "from,to,rate,day\nEUR,GBP,1,2026-04-01\n", "no rate in it": "from,to,rate\n",
	} {
		_, err := w.Prices.RatesFile(ctx, text)
		assert.ErrorContains(t, err, words)
	}
	assert.Equal(t, "0.8612", rate("EUR").Rate, "a bad file changes nothing")
	x, err := w.Prices.Bench(ctx, prices.BenchAsk{SiteID: w.site.ID, Cost: prices.BenchCost{Unit: "10.00", Currency: "EUR"}})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(x.Warnings, " "), "11 days old", "a stale one is said where it counts")

	assert.NotContains(t, w.today(), "rate", "nothing of ours costs euros")
	_, err = w.Sources.Make(ctx, sources.NewSource{Supplier: "Brindlewick Outdoor", Currency: "EUR", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	assert.Equal(t, "The EUR rate is of 20 February, 11 days old", w.today()["rate"].Words)

	standIn := httptest.NewServer(&sim.Rates{Clock: w.clock, Worth: map[string]int64{"GBP": 1_000_000, "EUR": 860_000, "JPY": 5_200}})
	defer standIn.Close()
	_, err = w.Prices.FetchRates(ctx, standIn.URL)
	assert.ErrorContains(t, err, "private network")
	w.House.Fetch.Allow(strings.TrimPrefix(standIn.URL, "http://"))
	_, err = w.Prices.FetchRates(ctx, standIn.URL)
	require.NoError(t, err)
	assert.Equal(t, "fetched", rate("EUR").Way)
	assert.Equal(t, "2026-03-03", rate("EUR").Day)
	before := rate("EUR").Rate
	w.clock.Forward(24 * time.Hour)
	require.NoError(t, w.Round(ctx))
	w.idle()
	assert.Equal(t, "2026-03-04", rate("EUR").Day, "and every day from then on")
	assert.NotEqual(t, before, rate("EUR").Rate)
	standIn.Close()
	_, err = w.Prices.FetchRates(ctx, standIn.URL)
	assert.Equal(t, fault.Unavailable, fault.KindOf(err))
	badField(t, func() error { _, err := w.Prices.FetchRates(ctx, "rates"); return err }(), "address")
}

func TestASiteIsListedOnWhenAskedFor(t *testing.T) {
	w := priced(t)
	sites, err := w.Store.Sites(t.Context())
	require.NoError(t, err)
	ie := sites[1]
	require.Equal(t, "Quaymarket IE", ie.Name)
	require.NoError(t, w.Prices.SetRate(t.Context(), "GBP", "EUR", "1.1611"))
	w.idle()
	n, err := w.Store.CountListings(t.Context(), ie.ID)
	require.NoError(t, err)
	assert.Zero(t, n)
	require.NoError(t, w.Places.SetLists(t.Context(), ie.ID, true))
	w.idle()
	n, err = w.Store.CountListings(t.Context(), ie.ID)
	require.NoError(t, err)
	assert.Greater(t, n, int64(1000))
	priced := 0
	for _, l := range w.all() {
		if l.Site == ie.Name && l.Price != nil {
			priced++
			assert.Equal(t, "EUR", l.Currency)
		}
	}
	assert.Greater(t, priced, 1000, "by its own rule, in its own currency")
}

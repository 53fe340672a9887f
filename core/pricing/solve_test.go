package pricing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

// randomTerms draws schedules of every shape, whole bands that drop included.
//
// charged is what the buyer pays for delivery at a price, and total the price that
// asks for so much in all: both found without the terms.
func randomTerms(t *rapid.T, limit int64) (terms *pricing.Terms, charged, total func(int64) int64) {
	rate := func(name string, most int64) money.Rate { return money.Rate(rapid.Int64Range(0, most).Draw(t, name)) }
	base := rapid.SampledFrom([]pricing.Base{pricing.OfItem, pricing.OfTotal, pricing.OfTotalTax})
	s := pricing.Spec{Currency: "GBP", Limit: limit}
	bands := []pricing.ChargedBand{{}}
	switch rapid.SampledFrom([]string{"none", "one", "bands"}).Draw(t, "delivery") {
	case "one":
		bands[0].Amount = rapid.Int64Range(0, 600).Draw(t, "charge")
		s.Delivery = &bands[0].Amount
	case "bands":
		bands[0].Amount = rapid.Int64Range(0, 600).Draw(t, "charge")
		for range rapid.IntRange(0, 4).Draw(t, "more bands") {
			bands = append(bands, pricing.ChargedBand{From: bands[len(bands)-1].From + rapid.Int64Range(1, 900).Draw(t, "from"), Amount: rapid.Int64Range(0, 600).Draw(t, "charge")})
		}
		s.Charged = bands
	}
	charged = func(p int64) (amount int64) {
		for _, b := range bands {
			if b.From <= p {
				amount = b.Amount
			}
		}
		return amount
	}
	total = func(want int64) int64 {
		if s.Charged == nil {
			return max(1, want-charged(1))
		}
		for p := limit; p > 1; p-- {
			if p+charged(p) <= want {
				return p
			}
		}
		return 1
	}
	s.Tax.Way = rapid.SampledFrom([]pricing.TaxWay{"", pricing.TaxNone, pricing.TaxIncluded, pricing.TaxAdded}).Draw(t, "way")
	s.Tax.Rate = rate("tax", rapid.SampledFrom([]int64{300_000, 12_000_000}).Draw(t, "tax up to"))
	for range rapid.IntRange(0, 4).Draw(t, "fees") {
		f := pricing.Fee{Name: "fee", Of: base.Draw(t, "of"), Fixed: rapid.Int64Range(0, 90).Draw(t, "fixed")}
		if rapid.Bool().Draw(t, "least") {
			v := rapid.Int64Range(0, 200).Draw(t, "least at")
			f.Least = &v
		}
		if rapid.Bool().Draw(t, "most") {
			v := rapid.Int64Range(200, 900).Draw(t, "most at")
			f.Most = &v
		}
		if rapid.Bool().Draw(t, "taxed") {
			v := rate("fee tax", 250_000)
			f.Tax = &v
		}
		if n := rapid.IntRange(0, 4).Draw(t, "bands"); n == 0 {
			f.Rate = rate("rate", 400_000)
		} else {
			f.Banding = rapid.SampledFrom([]pricing.Banding{pricing.Slices, pricing.Whole}).Draw(t, "banding")
			to := int64(0)
			for range n {
				to += rapid.Int64Range(1, 900).Draw(t, "to")
				b := pricing.Band{To: to, Rate: rate("band", 400_000)}
				if f.Banding == pricing.Whole {
					b.Fixed = rapid.Int64Range(0, 100).Draw(t, "band fixed")
				}
				f.Bands = append(f.Bands, b)
			}
		}
		s.Fees = append(s.Fees, f)
	}
	for range rapid.IntRange(0, 2).Draw(t, "allowances") {
		s.Allowances = append(s.Allowances, pricing.Allowance{Name: "returns", Of: base.Draw(t, "of"), Rate: rate("put by", 90_000)})
	}
	terms, err := pricing.NewTerms(s)
	require.NoError(t, err)
	return terms, charged, total
}

func randomConditions(t *rapid.T, label string, most int) []pricing.Condition {
	var out []pricing.Condition
	for range rapid.IntRange(0, most).Draw(t, label) {
		out = append(out, pricing.Condition{
			Kind: rapid.SampledFrom([]pricing.Kind{pricing.MinProfit, pricing.MinMargin, pricing.MinReturn, pricing.Markup, pricing.MinPrice}).
				Draw(t, "kind"),
			Rate:   money.Rate(rapid.Int64Range(-400_000, 700_000).Draw(t, "rate")),
			Amount: rapid.Int64Range(-300, 900).Draw(t, "amount"),
		})
	}
	return out
}

// holds is docs/definitions/money.md's table of conditions, as plainly as it can be written.
func holds(terms *pricing.Terms, tax pricing.Tax, conds []pricing.Condition, c pricing.Spend, p int64) bool {
	q, err := terms.Quote(nil, c, money.Of(p, "GBP"))
	if err != nil {
		return false
	}
	for _, k := range conds {
		var ok bool
		switch k.Kind {
		case pricing.MinProfit:
			ok = q.Profit >= k.Amount
		case pricing.MinMargin:
			ok = q.Net > 0 && q.Profit*1_000_000 >= int64(k.Rate)*q.Net
		case pricing.MinReturn:
			ok = q.Profit*1_000_000 >= int64(k.Rate)*(c.Landed+c.Outbound)
		case pricing.MinPrice:
			ok = p >= k.Amount
		case pricing.Markup:
			net := p
			if tax.Way == pricing.TaxIncluded {
				x, _ := money.MulDiv(p, int64(tax.Rate), int64(money.One+tax.Rate))
				net -= x
			}
			ok = (net-k.Amount)*1_000_000 >= c.Landed*(1_000_000+int64(k.Rate))
		}
		if !ok {
			return false
		}
	}
	return true
}

func TestLeastIsTheScansLeast(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const limit = 3000
		terms, _, _ := randomTerms(t, limit)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 1500).Draw(t, "landed"), Outbound: rapid.Int64Range(0, 300).Draw(t, "outbound")}
		aims := randomConditions(t, "aims", 3)
		want, found := int64(0), false
		for p := int64(1); p <= limit && !found; p++ {
			if holds(terms, terms.Tax(), aims, spend, p) {
				want, found = p, true
			}
		}
		got, ok := terms.Least(aims, spend)
		require.Equal(t, found, ok)
		require.Equal(t, want, got)
	})
}

// chosen is docs/definitions/money.md, "Choosing the price", step by step and by trying
// every price: what Choose has to agree with.
func chosen(terms *pricing.Terms, w *pricing.Wish, c pricing.Spend, total func(int64) int64, limit int64) pricing.Choice {
	least := func(conds []pricing.Condition, from int64) int64 {
		for p := max(from, 1); p <= limit; p++ {
			if holds(terms, terms.Tax(), conds, c, p) {
				return p
			}
		}
		return 0
	}
	aim := int64(0)
	if len(w.Aims) > 0 {
		if aim = least(w.Aims, 1); aim == 0 {
			return pricing.Choice{Bound: pricing.ByAim}
		}
	}
	t, bound := aim, pricing.ByAim
	rival := int64(-1)
	for _, o := range w.Market.Offers {
		if !o.Ours && (o.Lead || !w.Market.AgainstLead) && (rival < 0 || o.Item+o.Delivery < rival) {
			rival = o.Item + o.Delivery
		}
	}
	if rival >= 0 && w.Market.Stance != "" && w.Market.Stance != pricing.Ignore {
		by := w.Market.By
		if w.Market.ByIsRate {
			by = (rival*int64(w.Market.ByRate) + 500_000) / 1_000_000
		}
		m := total(rival + map[pricing.Stance]int64{pricing.Below: -by, pricing.Above: by}[w.Market.Stance])
		if aim == 0 || w.Market.MayExceedAim || m < aim {
			t, bound = m, pricing.ByMarket
		}
	}
	if t == 0 {
		return pricing.Choice{Bound: pricing.ByMarket}
	}
	allowed := func(p int64) bool {
		if w.Endings.Every == 0 {
			return true
		}
		for _, at := range w.Endings.At {
			if p%w.Endings.Every == at {
				return true
			}
		}
		return false
	}
	up, down := t, t
	for !allowed(up) {
		up++
	}
	for down > 0 && !allowed(down) {
		down--
	}
	q := up
	if down > 0 && (w.Endings.Way == pricing.Down || w.Endings.Way == pricing.Nearest && t-down < up-t) {
		q = down
	}
	fits := func(p int64) bool { return p <= limit && p >= w.Least && holds(terms, terms.Tax(), w.Keep, c, p) }
	most := limit
	if w.Most != nil {
		most = min(most, *w.Most)
	}
	if q <= limit && !fits(q) {
		bound = pricing.ByKeep
		for q++; q <= limit && !(allowed(q) && fits(q)); q++ {
		}
	}
	if q <= most {
		return pricing.Choice{Price: q, Found: true, Bound: bound}
	}
	for _, ended := range []bool{true, false} {
		for p := most; p > 0; p-- {
			if fits(p) && (allowed(p) || !ended) {
				return pricing.Choice{Price: p, Found: true, Bound: pricing.ByMost}
			}
		}
	}
	return pricing.Choice{Bound: pricing.ByBounds}
}

func TestChoiceIsTheScansChoice(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const limit = 1500
		terms, _, total := randomTerms(t, limit)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 900).Draw(t, "landed"), Outbound: rapid.Int64Range(0, 90).Draw(t, "outbound")}
		w := pricing.Wish{
			Aims:  randomConditions(t, "aims", 2),
			Keep:  randomConditions(t, "keep", 2),
			Least: rapid.Int64Range(0, 900).Draw(t, "least"),
		}
		if rapid.Bool().Draw(t, "bounded") {
			m := rapid.Int64Range(w.Least, limit+100).Draw(t, "most")
			w.Most = &m
		}
		if rapid.Bool().Draw(t, "ended") {
			w.Endings = pricing.Endings{Every: 100, At: rapid.SampledFrom([][]int64{{0}, {49, 99}, {5, 50, 95}}).Draw(t, "at"),
				Way: rapid.SampledFrom([]pricing.Way{pricing.Up, pricing.Down, pricing.Nearest}).Draw(t, "way")}
		}
		m := &w.Market
		m.Stance = rapid.SampledFrom([]pricing.Stance{"", pricing.Ignore, pricing.Below, pricing.Equal, pricing.Above}).Draw(t, "stance")
		m.AgainstLead, m.MayExceedAim = rapid.Bool().Draw(t, "lead"), rapid.Bool().Draw(t, "exceed")
		m.By = rapid.Int64Range(0, 200).Draw(t, "by")
		if m.ByIsRate = rapid.Bool().Draw(t, "by a rate"); m.ByIsRate {
			m.ByRate = money.Rate(rapid.Int64Range(0, 200_000).Draw(t, "rate"))
		}
		leader := rapid.IntRange(-1, 3).Draw(t, "leader")
		for i := range rapid.IntRange(0, 4).Draw(t, "offers") {
			m.Offers = append(
				m.Offers,
				pricing.Offer{
					Item:     rapid.Int64Range(1, limit).Draw(t, "item"),
					Delivery: rapid.Int64Range(0, 300).Draw(t, "their delivery"),
					Ours:     rapid.Bool().Draw(t, "ours"),
					Lead:     i == leader,
				},
			)
		}
		got, err := terms.Choose(&w, spend)
		require.NoError(t, err)
		require.Equal(t, chosen(terms, &w, spend, total, limit), got)
	})
}

func TestLinesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		terms, charged, _ := randomTerms(t, 0)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 1e6).Draw(t, "landed"), Outbound: rapid.Int64Range(0, 1e4).Draw(t, "outbound")}
		p := rapid.Int64Range(1, 1e7).Draw(t, "price")
		q, err := terms.Quote(nil, spend, money.Of(p, "GBP"))
		require.NoError(t, err)
		sum := int64(0)
		for _, l := range q.Lines {
			sum += l.Amount
			require.True(t, l.Kind != pricing.LineDelivery || l.Amount == charged(p))
		}
		require.Equal(t, q.Profit, sum)
		alone, err := terms.Profit(spend, p)
		require.NoError(t, err)
		require.Equal(t, q.Profit, alone)
	})
}

func TestFarOutIsAnErrorNotAWrongNumber(t *testing.T) {
	rate := money.Rate(200_000)
	terms, err := pricing.NewTerms(pricing.Spec{Currency: "GBP", Limit: 1<<63 - 1,
		Fees: []pricing.Fee{{Name: "commission", Of: pricing.OfTotal, Rate: 150_000, Tax: &rate}}})
	require.NoError(t, err)
	p, ok := terms.BreakEven(pricing.Spend{Landed: 4_000_000_000_000_000_000})
	require.True(t, ok)
	left, err := terms.Profit(pricing.Spend{Landed: 4_000_000_000_000_000_000}, p)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, left, int64(0))
	before, err := terms.Profit(pricing.Spend{Landed: 4_000_000_000_000_000_000}, p-1)
	require.NoError(t, err)
	assert.Less(t, before, int64(0))
	_, err = terms.Profit(pricing.Spend{Landed: 1<<63 - 1, Outbound: 1<<63 - 1}, 1)
	assert.ErrorIs(t, err, money.ErrRange)
	_, err = terms.Quote(nil, pricing.Spend{}, money.Of(100, "EUR"))
	assert.ErrorContains(t, err, "EUR")
}

// fourFees is the schedule of the figures: two taxed fees, bands, a fixed part.
func fourFees(tb testing.TB) *pricing.Terms {
	tax, least := money.Rate(200_000), int64(30)
	d := int64(299)
	terms, err := pricing.NewTerms(pricing.Spec{Currency: "GBP", Delivery: &d, Tax: pricing.Tax{Way: pricing.TaxIncluded, Rate: 200_000},
		Fees: []pricing.Fee{
			{
				Name:    "commission",
				Of:      pricing.OfTotal,
				Banding: pricing.Slices,
				Bands:   []pricing.Band{{To: 10_000, Rate: 150_000}, {Rate: 80_000}},
				Least:   &least,
				Tax:     &tax,
			},
			{Name: "order fee", Of: pricing.OfItem, Fixed: 30},
			{Name: "payment fee", Of: pricing.OfTotal, Rate: 29_000, Fixed: 25, Tax: &tax},
			{Name: "advertising", Of: pricing.OfItem, Rate: 20_000},
		}})
	require.NoError(tb, err)
	return terms
}

func BenchmarkQuote(b *testing.B) {
	terms, lines := fourFees(b), make([]pricing.Line, 0, 16)
	b.ReportAllocs()
	p := int64(500)
	for b.Loop() {
		if _, err := terms.Quote(lines, pricing.Spend{Landed: 1200, Outbound: 310}, money.Of(p, "GBP")); err != nil {
			b.Fatal(err)
		}
		p = 500 + (p+37)%9000
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "quotes/s")
}

func benchWish() pricing.Wish {
	return pricing.Wish{
		Aims:    []pricing.Condition{{Kind: pricing.MinMargin, Rate: 180_000}, {Kind: pricing.MinProfit, Amount: 400}},
		Keep:    []pricing.Condition{{Kind: pricing.MinProfit, Amount: 100}},
		Endings: pricing.Endings{Every: 100, At: []int64{49, 99}, Way: pricing.Up},
	}
}

func BenchmarkChoose(b *testing.B) {
	terms, wish := fourFees(b), benchWish()
	b.ReportAllocs()
	cost := int64(100)
	for b.Loop() {
		if c, err := terms.Choose(&wish, pricing.Spend{Landed: cost, Outbound: 310}); err != nil || !c.Found {
			b.Fatal(c, err)
		}
		cost = 100 + (cost+131)%9000
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "prices/s")
}

// BenchmarkScan is the baseline of BenchmarkChoose: trying each price in turn.
func BenchmarkScan(b *testing.B) {
	terms, wish := fourFees(b), benchWish()
	cost := int64(100)
	for b.Loop() {
		spend := pricing.Spend{Landed: cost, Outbound: 310}
		for p := int64(1); ; p++ {
			if left, _ := terms.Profit(spend, p); left >= wish.Aims[1].Amount && left*1_000_000 >= int64(wish.Aims[0].Rate)*terms.Net(p) {
				break
			}
		}
		cost = 100 + (cost+131)%9000
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "prices/s")
}

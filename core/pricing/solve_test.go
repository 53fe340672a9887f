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
func randomTerms(t *rapid.T, limit int64) *pricing.Terms {
	rate := func(name string, most int64) money.Rate { return money.Rate(rapid.Int64Range(0, most).Draw(t, name)) }
	base := rapid.SampledFrom([]pricing.Base{pricing.OfItem, pricing.OfTotal, pricing.OfTotalTax})
	s := pricing.Spec{Currency: "GBP", Limit: limit}
	if rapid.Bool().Draw(t, "delivery") {
		d := rapid.Int64Range(0, 600).Draw(t, "charge")
		s.Delivery = &d
	}
	s.Tax.Way = rapid.SampledFrom([]pricing.TaxWay{"", pricing.TaxNone, pricing.TaxIncluded, pricing.TaxAdded}).Draw(t, "way")
	s.Tax.Rate = rate("tax", 300_000)
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
	return terms
}

func randomConditions(t *rapid.T, label string, most int) []pricing.Condition {
	var out []pricing.Condition
	for range rapid.IntRange(0, most).Draw(t, label) {
		out = append(out, pricing.Condition{
			Kind:   rapid.SampledFrom([]pricing.Kind{pricing.MinProfit, pricing.MinMargin, pricing.MinReturn, pricing.Markup, pricing.MinPrice}).Draw(t, "kind"),
			Rate:   money.Rate(rapid.Int64Range(-400_000, 700_000).Draw(t, "rate")),
			Amount: rapid.Int64Range(-300, 900).Draw(t, "amount"),
		})
	}
	return out
}

// holds is design/money.md's table of conditions, as plainly as it can be written.
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
		terms := randomTerms(t, limit)
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

func TestChoiceKeepsItsPromises(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const limit = 3000
		terms := randomTerms(t, limit)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 1500).Draw(t, "landed")}
		w := pricing.Wish{Aims: randomConditions(t, "aims", 2), Keep: randomConditions(t, "keep", 2), Least: rapid.Int64Range(0, 900).Draw(t, "least")}
		if rapid.Bool().Draw(t, "bounded") {
			m := rapid.Int64Range(w.Least, limit).Draw(t, "most")
			w.Most = &m
		}
		if rapid.Bool().Draw(t, "ended") {
			w.Endings = pricing.Endings{Every: 100, At: []int64{49, 99}, Way: rapid.SampledFrom([]pricing.Way{pricing.Up, pricing.Down, pricing.Nearest}).Draw(t, "way")}
		}
		got, err := terms.Choose(&w, spend)
		require.NoError(t, err)
		most := int64(limit)
		if w.Most != nil {
			most = *w.Most
		}
		fits := func(p int64) bool { return p >= w.Least && holds(terms, terms.Tax(), w.Keep, spend, p) }
		allowed := func(p int64) bool { return w.Endings.Every == 0 || p%100 == 49 || p%100 == 99 }
		if !got.Found {
			if got.Bound == pricing.ByBounds {
				for p := int64(1); p <= most; p++ {
					require.False(t, fits(p), "price %d would have done", p)
				}
			}
			return
		}
		require.True(t, fits(got.Price) && got.Price <= most)
		if got.Bound != pricing.ByMost {
			require.True(t, allowed(got.Price))
			return
		}
		for p := got.Price + 1; p <= most; p++ { // nothing better was left above
			require.False(t, fits(p) && (allowed(p) || !allowed(got.Price)))
		}
	})
}

func TestLinesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		terms := randomTerms(t, 0)
		spend := pricing.Spend{Landed: rapid.Int64Range(0, 1e6).Draw(t, "landed"), Outbound: rapid.Int64Range(0, 1e4).Draw(t, "outbound")}
		p := rapid.Int64Range(1, 1e7).Draw(t, "price")
		q, err := terms.Quote(nil, spend, money.Of(p, "GBP"))
		require.NoError(t, err)
		sum := int64(0)
		for _, l := range q.Lines {
			sum += l.Amount
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
			{Name: "commission", Of: pricing.OfTotal, Banding: pricing.Slices, Bands: []pricing.Band{{To: 10_000, Rate: 150_000}, {Rate: 80_000}}, Least: &least, Tax: &tax},
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

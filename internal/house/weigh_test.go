package house_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"easymargin/core/sieve"
	"easymargin/internal/fault"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/matching"
	"easymargin/internal/stops/prices"
	"easymargin/internal/stops/sources"
	"easymargin/internal/stops/weighing"
	"easymargin/internal/store"
)

// weighed is a stall whose supplier isn't looked up by itself, with goods that
// were weighed at what others ask. The last entry has no other seller.
func weighed(t *testing.T) *stall {
	s := newStall(t, 6)
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.Update(&store.Source{ID: s.source.ID}, map[string]any{"look_up": false})
	}))
	for i, e := range s.entries {
		e.Offers, e.Rating, e.Rank = nil, 0, 0
		if i < 5 {
			e.Offers = []sim.Offer{
				{Seller: "Cairn & Co", Item: int64(1500 + 300*i), Delivery: 299},
				{Seller: "=Bright Ridge", Item: int64(1900 + 300*i), Lead: true},
			}
			e.Rating = int64(400 + 10*i)
		}
	}
	s.given(s.rows("cost,stock", func(i int, title, brand, gtin string) string {
		return fmt.Sprintf("%q,%s,%s,%d.00,%d", title, brand, gtin, 4+i, 3*i)
	}))
	s.weigh()
	run, err := s.Weighing.ReadMarket(t.Context(), s.site.ID)
	require.NoError(t, err)
	require.Equal(t, store.RunDone, s.wait(run).State)
	s.idle()
	return s
}

func (s *stall) weigh() {
	s.t.Helper()
	run, err := s.Weighing.Weigh(s.t.Context(), s.site.ID, weighing.ToWeigh{What: "source", SourceID: s.source.ID})
	require.NoError(s.t, err)
	require.Equal(s.t, store.RunDone, s.wait(run).State)
	s.idle()
}

// sifted are the candidates that go through a sieve, in the order asked for.
func (s *stall) sifted(text, sort string, desc bool) []store.SiftedRow {
	s.t.Helper()
	l, err := s.Weighing.List(s.t.Context(), weighing.Asked{SiteID: s.site.ID, Sieve: text}, store.Page{Sort: sort, Desc: desc, Limit: 500})
	require.NoError(s.t, err)
	require.EqualValues(s.t, l.Total, len(l.Rows))
	return l.Rows
}

// hundredths is a share above nothing as the bench writes it.
func hundredths(v int64) string { return fmt.Sprintf("%d.%02d%%", (v+50)/10000, (v+50)/100%100) }

func refs(rows []store.SiftedRow) string {
	var out []string
	for _, r := range rows {
		out = append(out, r.Ref)
	}
	return strings.Join(out, " ")
}

// What is weighed agrees with the bench to the penny; what a place doesn't tell
// is blank; and nothing is listed, nor waits on Match, by that.
func TestWeighingAgreesWithTheBench(t *testing.T) {
	s := weighed(t)
	rows := s.sifted("", "landed", false)
	require.Len(t, rows, 6)
	for i, r := range rows[:5] {
		require.NotNil(t, r.Lowest, r.Ref)
		assert.EqualValues(t, 1500+300*i+299, *r.Lowest)
		assert.EqualValues(t, 1900+300*i, *r.Leading)
		assert.EqualValues(t, 2, *r.Sellers)
		assert.EqualValues(t, 400+10*i, *r.Rating)
		assert.Nil(t, r.Rank, "it doesn't tell")
		assert.EqualValues(t, 3*i, *r.Stock)
		for price, profit := range map[int64]*int64{*r.Lowest: r.ProfitLowest, *r.Leading: r.ProfitLeading, *r.PriceRule: r.ProfitRule} {
			a, err := s.Prices.Bench(t.Context(), prices.BenchAsk{SiteID: s.site.ID, SupplierProductID: r.SupplierProductID, Category: r.Category,
				Lead: "price", Value: unitText(price)})
			require.NoError(t, err)
			require.NotNil(t, profit)
			assert.Equal(t, *a.Profit, *profit, "%s at %s", r.Ref, unitText(price))
			assert.Equal(t, a.Landed, *r.Landed)
			if price == *r.Lowest {
				assert.Equal(t, a.Margin, hundredths(*r.MarginLowest))
				assert.Equal(t, a.Return, hundredths(*r.ReturnLowest))
			}
			if price == *r.PriceRule {
				assert.Equal(t, price, *a.Rule.Price)
			}
		}
		assert.Equal(t, *r.PriceAim-*r.Lowest, *r.Above, "delivery costs the buyer nothing here")
	}
	alone := rows[5]
	assert.Nil(t, alone.Lowest)
	assert.Nil(t, alone.ProfitLowest)
	assert.Nil(t, alone.Rating)
	assert.EqualValues(t, 0, *alone.Sellers, "it was asked, and nobody sells it")
	assert.NotNil(t, alone.PriceRule)
	assert.Empty(t, s.all(), "nothing is listed by it")
	c := s.counts()
	assert.Zero(t, c.MatchSeveral+c.MatchNone+c.MatchCertain, "nor waits for anybody")
}

// What isn't known stands last, whichever way, and no page loses or repeats a row.
func TestSiftedPages(t *testing.T) {
	s := weighed(t)
	assert.Equal(t, "R000 R001 R002 R003 R004 R005", refs(s.sifted("", "lowest", false)))
	assert.Equal(t, "R004 R003 R002 R001 R000 R005", refs(s.sifted("", "lowest", true)))
	for _, sort := range []string{"lowest", "rating", "brand", "supplier", "rank", "id"} {
		for _, desc := range []bool{false, true} {
			whole := refs(s.sifted("", sort, desc))
			var parts []string
			page := store.Page{Limit: 2, Sort: sort, Desc: desc}
			for range 4 {
				l, err := s.Weighing.List(t.Context(), weighing.Asked{SiteID: s.site.ID}, page)
				require.NoError(t, err)
				if len(l.Rows) > 0 {
					parts = append(parts, refs(l.Rows))
				}
				if page.Cursor = l.Next; l.Next == "" {
					break
				}
			}
			assert.Equal(t, whole, strings.Join(parts, " "), "%s %v", sort, desc)
		}
	}
	for _, p := range []store.Page{{Sort: "title; DROP TABLE weighings"}, {Sort: "lowest", Cursor: "k:x|y"}} {
		_, err := s.Weighing.List(t.Context(), weighing.Asked{SiteID: s.site.ID}, p)
		assert.Error(t, err)
	}
}

// rowFacts are a candidate's facts as core/sieve asks for them.
type rowFacts struct{ r *store.SiftedRow }

func (f rowFacts) Words(c string) (string, bool) {
	return map[string]string{"brand": f.r.Brand, "category": f.r.Category, "supplier": f.r.Weighing.Supplier, "title": f.r.Title}[c], true
}

func (f rowFacts) Number(c string) (int64, bool) {
	yes := map[bool]int64{true: 1}
	v := map[string]*int64{"landed": f.r.Landed, "stock": f.r.Stock, "lowest": f.r.Lowest, "leading": f.r.Leading, "sellers": f.r.Sellers,
		"rating": f.r.Rating, "rank": f.r.Rank, "weight": f.r.Weight, "ties_up": f.r.TiesUp, "profit_lowest": f.r.ProfitLowest, "margin_lowest": f.r.MarginLowest,
		"return_lowest": f.r.ReturnLowest, "profit_leading": f.r.ProfitLeading, "price_rule": f.r.PriceRule, "profit_rule": f.r.ProfitRule,
		"price_aim": f.r.PriceAim, "above": f.r.Above, "units_sold": &f.r.UnitsSold}[c]
	switch c {
	case "ours":
		return yes[f.r.Ours], true
	case "certain":
		return yes[f.r.Certain], true
	case "best_site":
		return yes[f.r.BestSite], true
	case "best_supplier":
		return yes[f.r.BestSupplier], true
	}
	if v == nil {
		return 0, false
	}
	return *v, true
}

// The list lets through what the sieve by its definition does.
func TestTheListSiftsAsASieveDoes(t *testing.T) {
	s := weighed(t)
	all := s.sifted("", "id", false)
	rapid.Check(t, func(rt *rapid.T) {
		cond := rapid.Custom(func(rt *rapid.T) sieve.Condition {
			c := rapid.SampledFrom(store.WeighColumns).Draw(rt, "column")
			op := rapid.SampledFrom(c.Ops()).Draw(rt, "op")
			value := func() string {
				switch c.Kind {
				case sieve.Amount:
					return unitText(rapid.Int64Range(0, 3500).Draw(rt, "amount"))
				case sieve.Share:
					return fmt.Sprint(rapid.IntRange(-20, 200).Draw(rt, "share"))
				case sieve.Rating:
					return fmt.Sprintf("4.%d", rapid.IntRange(0, 5).Draw(rt, "rating"))
				case sieve.Count:
					return fmt.Sprint(rapid.IntRange(0, 16).Draw(rt, "count"))
				case sieve.Truth:
					return rapid.SampledFrom([]string{"yes", "no"}).Draw(rt, "truth")
				case sieve.Text:
					return strings.Fields(rapid.SampledFrom(all).Draw(rt, "row").Title)[0]
				}
				w, _ := rowFacts{&all[rapid.IntRange(0, 5).Draw(rt, "row")]}.Words(c.Name)
				return rapid.SampledFrom([]string{w, strings.ToUpper(w), "Nobody's"}).Draw(rt, "name")
			}
			out := sieve.Condition{Column: c.Name, Op: op, Values: []string{value()}}
			switch op {
			case sieve.Empty, sieve.Filled:
				out.Values = nil
			case sieve.Between:
				out.Values = append(out.Values, value())
			}
			return out
		})
		sv := sieve.Sieve(rapid.SliceOfN(rapid.Map(rapid.SliceOfN(cond, 1, 3), func(c []sieve.Condition) sieve.Any { return c }), 0, 3).Draw(rt, "sieve"))
		text, err := json.Marshal(sv)
		require.NoError(rt, err)
		tests, err := sv.Ready(store.WeighColumns, "GBP")
		require.NoError(rt, err)
		var want []string
		for i := range all {
			if tests.Holds(rowFacts{&all[i]}) {
				want = append(want, all[i].Ref)
			}
		}
		l, err := s.Weighing.List(t.Context(), weighing.Asked{SiteID: s.site.ID, Sieve: string(text)}, store.Page{Sort: "id", Limit: 500})
		require.NoError(rt, err)
		assert.Equal(rt, strings.Join(want, " "), refs(l.Rows), string(text))
	})
}

// A sieve says what is wrong with it; a kept one says whether a rule could use it.
func TestSievesAreKept(t *testing.T) {
	s := weighed(t)
	for text, words := range map[string]string{
		`[{"column":"lowest","op":"above","values":["ten"]}]`: `condition 1, lowest: "ten" is not an amount in GBP`,
		`[{"column":"secret","op":"above","values":["1"]}]`:   "there is no such column",
		`[{"column":"title","op":"above","values":["1"]}]`:    "it can't be asked whether",
		`{"column":1}`: "a sieve is a list of conditions",
	} {
		_, err := s.Weighing.Count(t.Context(), weighing.Asked{SiteID: s.site.ID, Sieve: text})
		assert.ErrorContains(t, err, words, text)
		assert.Equal(t, fault.Invalid, fault.KindOf(err))
	}
	facts, follows := `[{"column":"lowest","op":"above","values":["20.00"]}]`, `[{"column":"profit_lowest","op":"above","values":["1.00"]}]`
	for name, text := range map[string]string{"Dear": facts, "Earns": follows} {
		_, err := s.Weighing.PutSieve(t.Context(), weighing.SieveView{Name: name, Sieve: text})
		require.NoError(t, err)
	}
	_, err := s.Weighing.PutSieve(t.Context(), weighing.SieveView{Name: "Earns", Sieve: follows, Sort: "lowest", Columns: []string{"lowest", "brand"}})
	require.NoError(t, err, "in place of the one of that name")
	list, err := s.Weighing.Sieves(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.True(t, list[0].Facts)
	assert.False(t, list[1].Facts)
	assert.Equal(t, "lowest", list[1].Sort)
	assert.Equal(t, []string{"lowest", "brand"}, list[1].Columns)
	_, err = s.Weighing.PutSieve(t.Context(), weighing.SieveView{Name: "Earns", Sieve: follows, Columns: []string{"secret"}})
	assert.ErrorContains(t, err, "there is no column")
	require.NoError(t, s.Weighing.ForgetSieve(t.Context(), list[0].ID))
	assert.Equal(t, fault.Missing, fault.KindOf(s.Weighing.ForgetSieve(t.Context(), list[0].ID)))
	n, err := s.Weighing.Count(t.Context(), weighing.Asked{SiteID: s.site.ID, Sieve: facts})
	require.NoError(t, err)
	assert.EqualValues(t, 4, n, "17.99 isn't")
}

// A rule can be for the products in a sieve: it follows what others ask, and the
// sieve when that changes. One that looks at what follows from prices can't be used.
func TestARuleForASieve(t *testing.T) {
	s := weighed(t)
	ctx := t.Context()
	rows := s.sifted("", "id", false)
	var choices []matching.Choice
	for _, r := range rows {
		choices = append(choices, matching.Choice{ID: r.MatchID, Entry: r.EntryRef})
	}
	_, err := s.Matching.DecideMany(ctx, choices)
	require.NoError(t, err)
	s.idle()
	dear := func(amount string) int64 {
		id, err := s.Weighing.PutSieve(ctx, weighing.SieveView{Name: "Dear",
			Sieve: `[{"column":"lowest","op":"above","values":["` + amount + `"]},[{"column":"rating","op":"above","values":["4.1"]},{"column":"stock","op":"is","values":["0"]}]]`})
		require.NoError(t, err)
		return id
	}
	id := dear("22.00") // R002 has 23.99 and 4.20
	rule := prices.NamedRule{Name: "Beside dear ones", Fits: &prices.Fits{Sieve: id}, Rule: prices.Rule{Aims: []prices.RuleCondition{{Kind: "price", Value: "40.00"}}}}
	preview, err := s.Prices.PreviewRule(ctx, s.site.ID, rule, false)
	require.NoError(t, err)
	assert.EqualValues(t, 3, preview.Fits)
	s.keep(rule)
	s.idle()
	held := func() string {
		var out []string
		for _, l := range s.all() {
			if l.Price != nil && *l.Price == 4000 {
				out = append(out, l.Ref)
			}
		}
		slices.Sort(out)
		return strings.Join(out, " ")
	}
	assert.Equal(t, "R002 R003 R004", held())
	list, err := s.Prices.Rules(ctx, s.site.ID)
	require.NoError(t, err)
	assert.Equal(t, id, list[0].Fits.Sieve)
	assert.Equal(t, "in the sieve Dear", list[0].For)

	dear("25.00")
	s.idle()
	assert.Equal(t, "R003 R004", held(), "the sieve changed")
	s.entries[3].Offers[0].Item = 900
	s.clock.Forward(7 * time.Hour)
	require.NoError(t, s.Prices.ReadRivals(ctx, s.site.ID))
	s.idle()
	assert.Equal(t, "R004", held(), "a rival undercut it")

	follows := `[{"column":"profit_lowest","op":"above","values":["1.00"]}]`
	_, err = s.Weighing.PutSieve(ctx, weighing.SieveView{Name: "Dear", Sieve: follows})
	assert.ErrorContains(t, err, `the price rule Beside dear ones of Quaymarket GB uses it`)
	assert.Equal(t, fault.Conflict, fault.KindOf(s.Weighing.ForgetSieve(ctx, id)))
	other, err := s.Weighing.PutSieve(ctx, weighing.SieveView{Name: "Earns", Sieve: follows})
	require.NoError(t, err)
	rule.Fits = &prices.Fits{Sieve: other}
	_, err = s.Prices.PreviewRule(ctx, s.site.ID, rule, false)
	assert.ErrorContains(t, err, "facts only")
	rule.Fits = &prices.Fits{Sieve: 4711}
	_, err = s.Prices.KeepRule(ctx, s.site.ID, stops.IfMatch{}, rule)
	assert.ErrorContains(t, err, "there is no such sieve")
	assert.Equal(t, "R004", held(), "and nothing moved by any of that")
}

// A site's catalogue is weighed as far as a supplier has something of it.
func TestWhatSuppliersHaveOfACatalogue(t *testing.T) {
	s := weighed(t)
	fair := s.fair()
	_, err := s.Weighing.Weigh(t.Context(), fair.ID, weighing.ToWeigh{What: "catalogue"})
	assert.Equal(t, fault.Invalid, fault.KindOf(err), "nothing is known of it yet")
	text := "Item ID;Item name;Barcode;Lowest price\n"
	for i, e := range s.entries[:2] {
		text += fmt.Sprintf("GF-%d;%s;%s;%d,99\n", i, e.Title, e.GTIN, 12+i)
	}
	s.report(fair, store.FileCatalogue, text+"GF-9;Tide clock;9529999999997;12,00\n")
	run, err := s.Weighing.Weigh(t.Context(), fair.ID, weighing.ToWeigh{What: "catalogue"})
	require.NoError(t, err)
	require.Equal(t, store.RunDone, s.wait(run).State)
	s.idle()
	s.site = fair
	rows := s.sifted("", "id", false)
	assert.Equal(t, "R000 R001", refs(rows))
	assert.EqualValues(t, 1299, *rows[0].Lowest, "as its file says")
	assert.Empty(t, s.all())
}

// A pasted list of numbers with costs is weighed, however its lines are parted;
// what can't be read is set aside, and nothing is listed.
func TestAPastedListIsWeighed(t *testing.T) {
	s := weighed(t)
	ctx := t.Context()
	n := func(i int) string { return s.entries[i].GTIN }
	var others []string
	for _, e := range s.market.Entries {
		if e.Category != "mugs" && e.GTIN != "" && !slices.Contains(others, e.GTIN) {
			others = append(others, e.GTIN)
		}
	}
	text := "EAN cost\n" + n(0) + " 3.10\n" + others[0] + ",4,50\n" + others[1] + "\t12\t4.20\n" + n(1) + " 4.50\n" + n(2) + "\t5.00\tmug, green\n7.25;" + n(3) + "\n\n" + n(4) + " soon\n" + n(5) + "  1.99  a thing, with words\n"
	got, err := s.Sources.TakeList(ctx, sources.NumberList{Supplier: "Skerry Lots", Currency: "gbp", Text: text})
	require.NoError(t, err)
	assert.EqualValues(t, [2]int64{8, 3}, [2]int64{got.Rows, got.SetAside}, "soon is no cost, and of two figures either may be it")
	require.Len(t, got.Lines, 4, "every line that isn't taken is named")
	assert.Equal(t, sources.ListedLine{Line: 1, Text: "EAN cost", Why: "neither a number nor a cost stands in it"}, got.Lines[0])
	for i, line := range []int{3, 4, 9} {
		assert.Equal(t, line, got.Lines[i+1].Line)
		assert.False(t, got.Lines[i+1].Taken)
		assert.NotEmpty(t, got.Lines[i+1].Why)
	}
	run, err := s.Weighing.Weigh(ctx, s.site.ID, weighing.ToWeigh{What: "source", SourceID: got.SourceID})
	require.NoError(t, err)
	require.Equal(t, store.RunDone, s.wait(run).State)
	s.idle()
	landed := map[string]int64{}
	for _, r := range s.sifted(`[{"column":"supplier","op":"is","values":["Skerry Lots"]}]`, "id", false) {
		landed[r.GTIN] = *r.Landed
		assert.Nil(t, r.Stock, "a list doesn't say")
		assert.NotNil(t, r.PriceRule)
		assert.Equal(t, store.MatchWeighed, r.State)
	}
	assert.Equal(t, map[string]int64{n(0): 310, n(1): 450, n(2): 500, n(3): 725, n(5): 199}, landed)
	assert.Empty(t, s.all())
	for field, in := range map[string]sources.NumberList{
		"supplier": {Supplier: " ", Currency: "GBP", Text: text},
		"text":     {Supplier: "Skerry Lots", Currency: "GBP", Text: "numbers please\n"},
		"currency": {Supplier: "Skerry Lots", Currency: "EUR", Text: text},
	} {
		_, err := s.Sources.TakeList(ctx, in)
		assert.Equal(t, fault.Invalid, fault.KindOf(err), field)
	}
	// Columns may be named, in any order; a wrong check digit is named with the right one.
	good := n(0)
	bad := good[:len(good)-1] + string('0'+(good[len(good)-1]-'0'+1)%10)
	named, err := s.Sources.TakeList(ctx, sources.NumberList{Supplier: "Named Lots", Currency: "GBP", Text: "Bezeichnung;EK netto;EAN\nBecher;3,10;" + good + "\nKessel;4,20;" + bad + "\n"})
	require.NoError(t, err)
	assert.Equal(t, []string{"title", "cost", "identifier"}, named.Names)
	assert.EqualValues(t, [2]int64{2, 0}, [2]int64{named.Rows, named.SetAside})
	require.Len(t, named.Lines, 1)
	assert.True(t, named.Lines[0].Taken)
	assert.Equal(t, "the number "+bad+": the check digit is wrong; with these digits it would be "+good[len(good)-1:], named.Lines[0].Why)

	again, err := s.Sources.TakeList(ctx, sources.NumberList{Supplier: "Skerry Lots", Currency: "GBP", Text: n(0) + " 2.80"})
	require.NoError(t, err)
	assert.Equal(t, got.SourceID, again.SourceID, "the next list is of the same source, and the others stay")
	again, err = s.Sources.TakeList(ctx, sources.NumberList{Supplier: "Skerry Lots", Currency: "GBP", Text: n(0) + " 2,80\n" + n(1) + " 14,99"})
	require.NoError(t, err)
	assert.Equal(t, [2]bool{true, true}, [2]bool{again.Names != nil, again.Lines != nil}, "a screen can count what isn't there")
	assert.EqualValues(t, [2]int64{2, 0}, [2]int64{again.Rows, again.SetAside})
	s.weigh()
	for _, r := range s.sifted(`[{"column":"supplier","op":"is","values":["Skerry Lots"]},{"column":"landed","op":"is","values":["14.99"]}]`, "id", false) {
		assert.Equal(t, n(1), r.GTIN)
	}
}

// One choice lists it on the place's other sites too, where it was weighed and
// the entry is the same; a site that isn't listed on stays as it was.
func TestListedFromWeighOnTheOtherSites(t *testing.T) {
	s := weighed(t)
	ctx := t.Context()
	sites, err := s.Store.Sites(ctx)
	require.NoError(t, err)
	for _, other := range sites[1:3] {
		run, err := s.Weighing.Weigh(ctx, other.ID, weighing.ToWeigh{What: "source", SourceID: s.source.ID})
		require.NoError(t, err)
		require.Equal(t, store.RunDone, s.wait(run).State)
	}
	s.idle()
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error {
		return tx.Update(&store.Site{ID: sites[1].ID}, map[string]any{"lists": true})
	}))
	r := s.sifted("", "id", false)[0]
	done, err := s.Matching.DecideMany(ctx, []matching.Choice{{ID: r.MatchID, Entry: r.EntryRef, Everywhere: true}})
	require.NoError(t, err)
	require.Empty(t, done.Failed)
	s.idle()
	var on []string
	for _, l := range s.all() {
		on = append(on, l.Site)
	}
	assert.ElementsMatch(t, []string{sites[0].Name, sites[1].Name}, on)
}

// What is dropped stays away when all is weighed again, with its reason, until
// it is brought back; what is chosen is listed; the rest waits on Match.
func TestOnwardFromWeigh(t *testing.T) {
	s := weighed(t)
	rows := s.sifted("", "id", false)
	ctx := t.Context()
	require.NoError(t, s.Weighing.Drop(ctx, []int64{rows[0].SupplierProductID}, "breaks in the post"))
	s.weigh()
	assert.Equal(t, "R001 R002 R003 R004 R005", refs(s.sifted("", "id", false)))
	l, err := s.Weighing.List(ctx, weighing.Asked{SiteID: s.site.ID, Dropped: true}, store.Page{})
	require.NoError(t, err)
	require.Len(t, l.Rows, 1)
	assert.Equal(t, "breaks in the post", l.Rows[0].Reason)
	require.NoError(t, s.Weighing.Undrop(ctx, []int64{rows[0].SupplierProductID}))
	assert.Len(t, s.sifted("", "id", false), 6)

	require.NoError(t, s.Weighing.Keep(ctx, []int64{rows[1].SupplierProductID}))
	assert.True(t, s.sifted("", "id", false)[1].Kept)

	assert.Equal(t, [2]string{store.MatchWeighed, "certain"}, [2]string{rows[2].State, rows[2].Verdict})
	done, err := s.Matching.DecideMany(ctx, []matching.Choice{{ID: rows[2].MatchID, Entry: rows[2].EntryRef}})
	require.NoError(t, err)
	require.Empty(t, done.Failed)
	s.idle()
	require.Len(t, s.all(), 1)
	now, err := s.Weighing.Open(ctx, rows[2].ID)
	require.NoError(t, err)
	assert.True(t, now.Candidate.Ours, "at once, though it was weighed before")
	s.weigh()
	assert.Equal(t, "R002", refs(s.sifted(`[{"column":"ours","op":"is","values":["yes"]}]`, "id", false)))

	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error {
		return tx.Update(&store.Site{ID: s.site.ID}, map[string]any{"accepts": false})
	}))
	_, err = s.Weighing.Ask(ctx, s.site.ID, []int64{rows[3].SupplierProductID})
	require.NoError(t, err)
	s.idle()
	assert.Contains(t, s.waiting(store.MatchCertain), "R003", "it waits for a look now")
	assert.Len(t, s.all(), 1)
}

// A number that changed is looked up again before anything is made of the old answer.
func TestAWeighedNumberThatChanges(t *testing.T) {
	s := weighed(t)
	require.Len(t, s.sifted("", "id", false), 6)
	s.given(s.rows("cost,stock", func(i int, title, brand, gtin string) string {
		if i == 0 {
			gtin, title, brand = "09529999999999", "A thing that no place has", "Nobody"
		}
		return fmt.Sprintf("%q,%s,%s,%d.00,%d", title, brand, gtin, 4+i, 3*i)
	}))
	s.weigh()
	assert.Equal(t, "R001 R002 R003 R004 R005", refs(s.sifted("", "id", false)), "nothing there is like it, so that it isn't weighed against anything")

	// One that has changed and wasn't looked up again yet isn't listed as it was.
	r := s.sifted("", "id", false)[0]
	require.NoError(t, s.Store.Do(t.Context(), func(tx store.Tx) error {
		return tx.Update(&store.Match{ID: r.MatchID}, map[string]any{"recheck": true})
	}))
	done, err := s.Matching.DecideMany(t.Context(), []matching.Choice{{ID: r.MatchID, Entry: r.EntryRef}})
	require.NoError(t, err)
	require.Len(t, done.Failed, 1)
	assert.Contains(t, done.Failed[0].Why, "has changed since")
	assert.Empty(t, s.all())
}

// Turning a source's look-ups on takes up what was weighed alone.
func TestLookUpsTurnedOnTakeUpWhatWasWeighed(t *testing.T) {
	s := weighed(t)
	set, err := s.Sources.Settings(t.Context(), s.source.ID)
	require.NoError(t, err)
	set.LookUp = true
	require.NoError(t, s.Sources.SetSettings(t.Context(), s.source.ID, stops.IfMatch{}, set))
	_, err = s.Matching.LookAgain(t.Context(), s.site.ID)
	require.NoError(t, err)
	s.idle()
	assert.Len(t, s.all(), 6)
}

// The market is read once in six hours at most, and a run that is cut short goes on.
func TestTheMarketIsNotReadAgainAtOnce(t *testing.T) {
	s := weighed(t)
	asked := 0
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if strings.Contains(r.URL.Path, "/offers") {
			asked++
		}
		next.ServeHTTP(w, r)
	})
	read := func() {
		run, err := s.Weighing.ReadMarket(t.Context(), s.site.ID)
		require.NoError(t, err)
		require.Equal(t, store.RunDone, s.wait(run).State)
		s.idle()
	}
	read()
	assert.Zero(t, asked)
	s.clock.Forward(7 * time.Hour)
	read()
	assert.Equal(t, 1, asked)
	opened := func() weighing.Opened {
		row, err := s.Weighing.Open(t.Context(), s.sifted("", "lowest", false)[0].ID)
		require.NoError(t, err)
		return row
	}
	require.Len(t, opened().Moved, 1, "it was the same when it was read again")
	s.entries[0].Offers = append(s.entries[0].Offers, sim.Offer{Seller: "The Peg Box", Item: 1200})
	s.clock.Forward(7 * time.Hour)
	read()
	s.entries[0].Offers[0].Item = 1100 // and of one alone, at once
	row := s.sifted("", "lowest", false)[0]
	require.NoError(t, s.Weighing.ReadMarketOf(t.Context(), s.site.ID, []int64{row.SupplierProductID}))
	assert.EqualValues(t, 1200, *s.sifted("", "lowest", false)[0].Lowest)
	assert.EqualValues(t, 3, *s.sifted("", "lowest", false)[0].Sellers)
	assert.Equal(t, fault.Invalid, fault.KindOf(s.Weighing.ReadMarketOf(t.Context(), s.site.ID, make([]int64, 201))))
	x := opened()
	require.Len(t, x.Moved, 2)
	assert.Equal(t, [2]int64{1799, 1200}, [2]int64{*x.Moved[0].Lowest, *x.Moved[1].Lowest})
	assert.Equal(t, [2]int64{2, 3}, [2]int64{x.Moved[0].Sellers, x.Moved[1].Sellers})
	assert.Len(t, x.Offers, 3)
	require.Len(t, x.Same, 1)
	assert.True(t, x.Same[0].BestSupplier)
}

// What was weighed once is weighed again by itself, once an hour; what wasn't isn't.
func TestWeighedAgainByItself(t *testing.T) {
	s := weighed(t)
	at := func() time.Time { return s.sifted("", "id", false)[0].WeighedAt }
	was := at()
	for _, step := range []struct {
		on   time.Duration
		anew bool
	}{{30 * time.Minute, false}, {40 * time.Minute, true}, {10 * time.Minute, false}} {
		s.clock.Forward(step.on)
		require.NoError(t, s.Weighing.Round(t.Context()))
		s.idle()
		assert.Equal(t, step.anew, at().After(was), step.on)
		was = at()
	}
	assert.Len(t, s.runs("weigh"), 3, "of one site: asked for, after its market was read, and after the hour")
}

// What else a seller offers is read part by part, with who supplies it; a place
// that doesn't tell says so.
func TestWhatOneSellerOffers(t *testing.T) {
	s := weighed(t)
	for i, e := range s.market.Entries {
		if i >= 150 {
			break
		}
		e.Offers = append(e.Offers, sim.Offer{Seller: "Marram Lots", Item: int64(1000 + i), Delivery: 99})
	}
	shop, err := s.Weighing.SoldBy(t.Context(), s.site.ID, "Marram Lots")
	require.NoError(t, err)
	assert.Equal(t, 150, len(shop.Rows))
	assert.False(t, shop.More)
	supplied := 0
	for _, r := range shop.Rows {
		supplied += len(r.Supplied)
		for _, x := range r.Supplied {
			assert.Equal(t, "Fernhollow Wholesale", x.Supplier)
			assert.NotEmpty(t, r.GTIN)
		}
	}
	assert.Positive(t, supplied)
	all, err := s.Weighing.SoldBy(t.Context(), s.site.ID, "The Peg Box")
	require.NoError(t, err)
	assert.Equal(t, 500, len(all.Rows), "no more is read")
	assert.True(t, all.More)
	none, err := s.Weighing.SoldBy(t.Context(), s.site.ID, "Nobody")
	require.NoError(t, err)
	assert.Empty(t, none.Rows)
	s.front.set(func(w http.ResponseWriter, r *http.Request, next http.Handler) {
		if strings.HasSuffix(r.URL.Path, "/sold") {
			http.NotFound(w, r)
			return
		}
		next.ServeHTTP(w, r)
	})
	_, err = s.Weighing.SoldBy(t.Context(), s.site.ID, "Marram Lots")
	assert.ErrorContains(t, err, "doesn't tell what one seller offers")
}

// No cell of the file is a formula, and its amounts are those of the list.
func TestCandidatesAsCSV(t *testing.T) {
	s := newStall(t, 1)
	s.entries[0].Offers = []sim.Offer{{Seller: "Cairn & Co", Item: 1500}}
	s.given(s.rows("cost,stock", func(_ int, title, _, gtin string) string {
		return fmt.Sprintf("%q,%q,%s,40.00,9", title, "=HYPERLINK(1)", gtin)
	}))
	run, err := s.Weighing.Weigh(t.Context(), s.site.ID, weighing.ToWeigh{What: "all"})
	require.NoError(t, err)
	s.wait(run)
	run, err = s.Weighing.ReadMarket(t.Context(), s.site.ID)
	require.NoError(t, err)
	s.wait(run)
	s.idle()
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	require.NoError(t, s.Weighing.Write(t.Context(), w, s.site, weighing.Asked{SiteID: s.site.ID}, store.Page{}))
	w.Flush()
	lines, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, lines, 2)
	cell := map[string]string{}
	for i, h := range lines[0] {
		cell[h] = lines[1][i]
	}
	assert.Equal(t, "'=HYPERLINK(1)", cell["brand"])
	assert.Equal(t, [3]string{"40.00", "15.00", ""}, [3]string{cell["landed"], cell["lowest"], cell["leading"]})
	assert.True(t, strings.HasPrefix(cell["profit at lowest"], "-"), "a loss is a figure: %s", cell["profit at lowest"])

	// The workbook says the same, its figures as figures and the rest as text.
	b.Reset()
	require.NoError(t, s.Weighing.WriteSheet(t.Context(), &b, s.site, weighing.Asked{SiteID: s.site.ID}, store.Page{}))
	f, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	rows, err := f.GetRows("Candidates", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, lines[0], rows[0])
	for i, head := range rows[0] {
		at, err := excelize.CoordinatesToCellName(i+1, 2)
		require.NoError(t, err)
		kind, err := f.GetCellType("Candidates", at)
		require.NoError(t, err)
		formula, err := f.GetCellFormula("Candidates", at)
		require.NoError(t, err)
		assert.Empty(t, formula)
		switch head {
		case "landed", "profit at lowest", "return at lowest, %":
			assert.Equal(t, excelize.CellTypeUnset, kind, head)
			assert.Equal(t, cell[head], rows[1][i])
		case "brand":
			assert.Equal(t, "=HYPERLINK(1)", rows[1][i], "a text, whatever it begins with")
		}
	}
}

package supply_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/core/money"
	"easymargin/core/supply"
)

func TestPrintsIsAMap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p, want := supply.NewPrints(rapid.IntRange(0, 20).Draw(t, "room")), map[int64][2]int64{}
		for range rapid.IntRange(0, 200).Draw(t, "entries") {
			hash := rapid.Int64Range(-40, 40).Draw(t, "hash") << rapid.SampledFrom([]int{0, 50}).Draw(t, "shift")
			v := [2]int64{rapid.Int64().Draw(t, "print"), rapid.Int64Range(1, 1<<40).Draw(t, "id")}
			p.Put(hash, v[0], v[1])
			want[hash] = v
		}
		assert.Equal(t, len(want), p.Len())
		for hash, v := range want {
			print, id, ok := p.Get(hash)
			require.True(t, ok)
			assert.Equal(t, v, [2]int64{print, id})
		}
		_, _, ok := p.Get(1 << 60)
		assert.False(t, ok)
	})
}

func TestAnUpdateLeavesWhatItDoesntSay(t *testing.T) {
	lead, list := int64(3), money.Of(999, "GBP")
	old := supply.Product{
		Ref:        "A",
		Title:      "Mug",
		Brand:      "Tarnwick",
		GTIN:       "09521000100010",
		GTINStatus: "good",
		Cost:       money.Of(240, "GBP"),
		ListPrice:  &list,
		LeadDays:   &lead,
		Stock: supply.Stock{
			State: supply.StockKnown,
			Count: 4,
		},
		Weight:     120,
		Pictures:   []string{"https://a.example/1.png"},
		Attributes: []supply.Attribute{{Name: "Finish", Value: "moss"}, {Name: "Season", Value: "all"}},
	}
	same := supply.Product{Ref: "A", Cost: money.Of(0, "GBP")}.Overlay(&old)
	assert.Equal(t, old.Fingerprint(), same.Fingerprint())
	next := supply.Product{
		Ref:        "A",
		Cost:       money.Of(255, "GBP"),
		Stock:      supply.Stock{State: supply.StockEnded},
		Attributes: []supply.Attribute{{Name: "Finish", Value: "rust"}},
	}.Overlay(
		&old,
	)
	assert.Equal(
		t,
		[]supply.Change{
			{Field: "cost", Before: "2.40", After: "2.55"},
			{Field: "stock", Before: "4", After: "ended"},
			{Field: "attribute Finish", Before: "moss", After: "rust"},
		},
		supply.Diff(&old, &next),
	)
}

// Products that differ in any one field have other fingerprints, and a diff that names it.
func TestFingerprintsSeeEveryField(t *testing.T) {
	seen := map[int64]string{}
	lead, price := int64(0), money.Of(0, "GBP")
	for name, p := range map[string]supply.Product{
		"nothing": {}, "ref": {Ref: "x"}, "mpn": {MPN: "x"}, "brand": {Brand: "x"}, "title": {Title: "x"}, "description": {Description: "x"}, "category": {Category: "x"},
		"cost": {Cost: money.Of(1, "")}, "currency": {Cost: money.Of(0, "x")}, "list": {ListPrice: &price}, "advertised": {LeastAdvertised: &price}, "stock": {Stock: supply.Stock{State: "known"}},
		"count": {Stock: supply.Stock{Count: 1}}, "from": {AvailableFrom: "x"}, "units": {UnitsPerItem: 1}, "order": {LeastOrder: 1}, "weight": {Weight: 1}, "length": {Length: 1}, "width": {Width: 1},
		"height": {Height: 1}, "lead": {LeadDays: &lead}, "pictures": {Pictures: []string{"x"}}, "link": {Link: "x"}, "condition": {Condition: "x"}, "group": {Group: "x"}, "colour": {Colour: "x"},
		"size": {Size: "x"}, "material": {Material: "x"}, "origin": {Origin: "x"}, "commodity": {CommodityCode: "x"}, "attribute": {Attributes: []supply.Attribute{{Name: "x", Value: "y"}}},
		"other attribute": {Attributes: []supply.Attribute{{Name: "y", Value: "x"}}}, "gtin": {GTIN: "x"},
	} {
		print := p.Fingerprint()
		assert.Empty(t, seen[print], "%s and %s look the same", name, seen[print])
		seen[print] = name
		if name != "nothing" && name != "ref" && name != "count" {
			assert.NotEmpty(t, supply.Diff(&supply.Product{}, &p), name)
		}
	}
}

package listing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/core/listing"
)

func TestTermsThatCantBe(t *testing.T) {
	for words, terms := range map[string]listing.Terms{
		"delivery 1 has no name":        {Delivery: []listing.Delivery{{Charge: "1.00"}}},
		"is not an amount in GBP":       {Delivery: []listing.Delivery{{Name: "Post", Charge: "1.005"}}},
		"at least 5 days and at most 3": {Delivery: []listing.Delivery{{Name: "Post", Least: 5, Most: 3}}},
		"there is no lowest one":        {LeastOffer: "85%"},
		"not a percentage of the price": {Offers: true, LeastOffer: "110%"},
		"\"half\" is not a percentage":  {Offers: true, LeastOffer: "half"},
	} {
		assert.ErrorContains(t, terms.Valid("GBP"), words)
	}
	assert.NoError(t, (&listing.Terms{}).Valid("GBP"))
	assert.NoError(t, (&listing.Terms{Delivery: []listing.Delivery{{Name: "Post", Charge: "3.95", Least: 2, Most: 4}}, Offers: true, LeastOffer: "85%"}).Valid("GBP"))
	assert.Error(t, (&listing.Terms{Delivery: []listing.Delivery{{Name: "Post", Charge: "3.95"}}}).Valid("JPY"), "yen have no decimals")
}

func TestTheLowestOffer(t *testing.T) {
	_, taken := (&listing.Terms{LeastOffer: "50%"}).Lowest(1000, 0)
	assert.False(t, taken)
	for _, c := range []struct {
		share              string
		price, floor, want int64
	}{
		{"85%", 1000, 700, 850}, {"85%", 999, 700, 850}, {"85%", 1000, 900, 900}, {"", 1000, 700, 1000}, {"50%", 1000, 1200, 1000},
	} {
		got, taken := (&listing.Terms{Offers: true, LeastOffer: c.share}).Lowest(c.price, c.floor)
		assert.True(t, taken)
		assert.Equal(t, c.want, got)
	}
	rapid.Check(t, func(t *rapid.T) {
		price, floor := rapid.Int64Range(1, 1e9).Draw(t, "price"), rapid.Int64Range(0, 1e9).Draw(t, "floor")
		got, _ := (&listing.Terms{Offers: true, LeastOffer: rapid.SampledFrom([]string{"", "1%", "33.33%", "99.99%", "100%"}).Draw(t, "share")}).Lowest(price, floor)
		if got > price || got < min(floor, price) {
			t.Fatal(got)
		}
	})
}

func TestWhatTermsAnswer(t *testing.T) {
	terms := listing.Terms{Condition: "New", ConditionNote: "boxed", Warranty: "two years", HandlingDays: 2, From: "Saltmarsh"}
	for ref, want := range map[string]string{"condition": "New", "condition_note": "boxed", "warranty": "two years", "handling_days": "2", "dispatched_from": "Saltmarsh",
		"returns_days": "", "colour": ""} {
		assert.Equal(t, want, terms.Said(ref), ref)
	}
}

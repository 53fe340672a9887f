package place_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/core/money"
	"easymargin/internal/place"
)

func TestWhatAPlaceTellsIsWithinBounds(t *testing.T) {
	wild, some := int64(math.MaxInt64), int64(450)
	assert.Equal(t, []place.Offer{{Seller: "Other", Item: 900}},
		place.BoundOffers([]place.Offer{{Item: wild}, {Seller: "Other", Item: 900}, {Item: 5, Delivery: -1}, {Item: money.Most + 1}}))
	assert.Equal(t, []place.Entry{{Ref: "A", Rating: &some}, {Ref: "B", Units: 6}},
		place.BoundEntries([]place.Entry{{Ref: "A", Units: wild, Rating: &some, Rank: &wild}, {Ref: "B", Units: 6}}))
	assert.Equal(t, []place.Listing{{SKU: "A", Price: money.Most, Quantity: money.MostUnits}, {SKU: "B"}, {SKU: "C", Price: 5, Quantity: 2}},
		place.BoundListings([]place.Listing{{SKU: "A", Price: wild, Quantity: wild}, {SKU: "B", Price: -5, Quantity: math.MinInt64}, {SKU: "C", Price: 5, Quantity: 2}}),
		"none is lost sight of")
	assert.Len(t, place.BoundSold([]place.Sold{{Item: wild}, {Item: 3, Delivery: 4}}), 1)
	assert.Equal(t, []place.Site{{TaxRate: int64(10 * money.One), MaxLines: money.MostUnits}}, place.BoundSites([]place.Site{{TaxRate: wild, MaxLines: wild, Picture: -1}}))
}

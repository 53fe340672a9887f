package shop

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Text can be read on every ground that is taken, and the ratios are those of WCAG.
func TestTextIsReadOnItsGround(t *testing.T) {
	assert.InDelta(t, 21, contrast("#000000", "#FFFFFF"), 0.01)
	assert.InDelta(t, 1, contrast("#2F6B5E", "#2f6b5e"), 0.001)
	assert.InDelta(t, 4.54, contrast("#767676", "#FFFFFF"), 0.01)
	for ground, want := range map[string]string{"#FFFFFF": ink, "#FFCC00": ink, "#000000": paper, "#2F6B5E": paper, "#1D2733": paper} {
		assert.Equal(t, want, on(ground), ground)
		assert.GreaterOrEqual(t, contrast(ground, on(ground)), 4.5, ground)
	}
}

// A former price is one only where it was more, and what it is less by is never more
// than it is.
func TestAFormerPrice(t *testing.T) {
	for _, c := range []struct {
		former      string
		price       int64
		minor, less int64
	}{{"", 999, 0, 0}, {"9.99", 999, 0, 0}, {"9.98", 999, 0, 0}, {"20.00", 999, 2000, 50}, {"10.00", 999, 1000, 0}, {"15.00", 1000, 1500, 33}, {"lots", 999, 0, 0}} {
		minor, less := former(&place.Content{Former: c.former}, c.price, "GBP")
		assert.Equal(t, [2]int64{c.minor, c.less}, [2]int64{minor, less}, "%+v", c)
	}
	rapid.Check(t, func(t *rapid.T) {
		price, more := rapid.Int64Range(1, 1e9).Draw(t, "price"), rapid.Int64Range(1, 1e9).Draw(t, "more")
		before := price + more
		minor, less := former(&place.Content{Former: digitsOf(before)}, price, "GBP")
		if minor != before || less*before > (before-price)*100 || (less+1)*before <= (before-price)*100 {
			t.Fatalf("%d was %d: %d per cent less", price, before, less)
		}
	})
}

func digitsOf(minor int64) string { return shown(minor, "GBP")[len("£"):] }

func TestAmountsAsBuyersReadThem(t *testing.T) {
	for want, x := range map[string]struct {
		minor int64
		code  string
	}{"£12.40": {1240, "GBP"}, "€0.05": {5, "EUR"}, "¥1200": {1200, "JPY"}, "−£3.00": {-300, "GBP"}, "12.40 ???": {1240, "???"}} {
		if x.code == "???" {
			assert.Contains(t, shown(x.minor, x.code), "???")
			continue
		}
		assert.Equal(t, want, shown(x.minor, x.code))
	}
}

// What delivery costs is the cheapest way that the listing offers, else what the site
// charges; a way without a charge is free.
func TestWhatDeliveryCosts(t *testing.T) {
	site := &store.Site{Currency: "GBP", Charged: 295}
	ways := func(charges ...string) *place.Content {
		c := &place.Content{Terms: &place.Terms{}}
		for _, x := range charges {
			c.Terms.Delivery = append(c.Terms.Delivery, place.Delivery{Name: "Post", Charge: x})
		}
		return c
	}
	for _, none := range []*place.Content{{}, ways()} {
		_, says := ownDelivery(none, site)
		assert.False(t, says, "the site's postage holds")
	}
	for want, c := range map[int64]*place.Content{199: ways("4.50", "1.99"), 0: ways("4.50", "")} {
		own, says := ownDelivery(c, site)
		assert.True(t, says)
		assert.Equal(t, want, own)
	}
	assert.Equal(t, "Post, £4.50, 2 to 3 working days", way(&place.Delivery{Name: "Post", Charge: "4.50", Least: 2, Most: 3}, "GBP"))
	assert.Equal(t, "Post, free, 3 working days", way(&place.Delivery{Name: "Post", Most: 3}, "GBP"))
}

func TestLinksKeepWhatTheyName(t *testing.T) {
	assert.Equal(t, "/c/Kit%20%3E%20Mugs%20%26%20more", link("c", "Kit > Mugs & more"))
	assert.Equal(t, "/p/..%2Fx", link("p", "../x"))
}

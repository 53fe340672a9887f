package pricing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
)

func TestTermsThatCantBe(t *testing.T) {
	minus, huge := int64(-1), int64(5)
	rate := money.Rate(-1)
	for field, s := range map[string]pricing.Spec{
		"currency":                {Currency: "ZZZ"},
		"limit":                   {Currency: "GBP", Limit: -1},
		"delivery_charged":        {Currency: "GBP", Delivery: &minus},
		"tax.way":                 {Currency: "GBP", Tax: pricing.Tax{Way: "maybe"}},
		"tax.rate":                {Currency: "GBP", Tax: pricing.Tax{Way: pricing.TaxAdded, Rate: -1}},
		"allowances[0].of":        {Currency: "GBP", Allowances: []pricing.Allowance{{Of: "net"}}},
		"allowances[0].rate":      {Currency: "GBP", Allowances: []pricing.Allowance{{Of: pricing.OfItem, Rate: -1}}},
		"fees[0].of":              {Currency: "GBP", Fees: []pricing.Fee{{Of: "profit"}}},
		"fees[0].rate":            {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Rate: -1}}},
		"fees[0].fixed":           {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Fixed: -1}}},
		"fees[0].least: bounds":   {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Least: &minus}}},
		"fees[0].least: is above": {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Least: &huge, Most: new(int64)}}},
		"fees[0].tax":             {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Tax: &rate}}},
		"fees[0].banding":         {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Banding: "steps", Bands: []pricing.Band{{}}}}},
		"fees[0].bands[0].rate": {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Banding: pricing.Whole,
			Bands: []pricing.Band{{Rate: -1}}}}},
		"fees[0].bands[1].to": {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Banding: pricing.Whole,
			Bands: []pricing.Band{{To: 5}, {To: 5}, {}}}}},
		"fees[0].bands[0].fixed: a": {Currency: "GBP", Fees: []pricing.Fee{{Of: pricing.OfItem, Banding: pricing.Slices,
			Bands: []pricing.Band{{Fixed: 1}}}}},
	} {
		_, err := pricing.NewTerms(s)
		assert.ErrorContains(t, err, field)
	}
}

// The margin strip draws by the kinds of line; their order is docs/definitions/money.md's.
func TestLinesComeInTheirOrder(t *testing.T) {
	tax, d := money.Rate(200_000), int64(299)
	terms, err := pricing.NewTerms(pricing.Spec{
		Currency: "GBP",
		Delivery: &d,
		Tax:      pricing.Tax{Way: pricing.TaxIncluded, Rate: 200_000},
		Fees: []pricing.Fee{
			{Name: "commission", Of: pricing.OfTotal, Rate: 150_000, Tax: &tax},
			{Name: "order fee", Of: pricing.OfItem, Fixed: 30},
		},
		Allowances: []pricing.Allowance{{Name: "returns", Of: pricing.OfItem, Rate: 20_000}},
	})
	require.NoError(t, err)
	q, err := terms.Quote(nil, pricing.Spend{Landed: 900, Outbound: 285}, money.Of(1999, "GBP"))
	require.NoError(t, err)
	assert.Equal(
		t,
		[]pricing.Line{
			{pricing.LinePrice, "item price", 1999},
			{pricing.LineDelivery, "delivery charged", 299},
			{pricing.LineTax, "tax", -383},
			{
				pricing.LineFee,
				"commission",
				-345,
			},
			{pricing.LineFee, "order fee", -30},
			{pricing.LineFeeTax, "commission tax", -69},
			{pricing.LineAllowance, "returns", -40},
			{pricing.LineCost, "landed cost", -900},
			{pricing.LineOutbound, "outbound", -285},
		},
		q.Lines,
	)
	assert.Equal(t, int64(246), q.Profit)
	assert.Equal(t, int64(1915), q.Net)
	assert.Equal(t, int64(1666), terms.NetOfTax(1999))
	for name, c := range map[string]struct {
		spend pricing.Spend
		price int64
	}{"a price below nothing": {pricing.Spend{}, -1}, "a cost below nothing": {pricing.Spend{Landed: -1},
		1}, "sending below nothing": {pricing.Spend{Outbound: -1}, 1}, "past the range": {pricing.Spend{}, 1<<63 - 1}} {
		_, err := terms.Quote(nil, c.spend, money.Of(c.price, "GBP"))
		assert.Error(t, err, name)
	}
}

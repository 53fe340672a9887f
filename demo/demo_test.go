package demo_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/demo"
	"easymargin/internal/sim"
)

func TestTheSameSeedGivesTheSameBytes(t *testing.T) {
	a, b := demo.Fernhollow(), demo.Fernhollow()
	assert.Equal(t, a, b)
	assert.Equal(t, 1199, bytes.Count(a[0], []byte("\n"))) // a header, 1 194 products and four slips
	m := demo.Quaymarket(sim.NewClock(demo.Start, 0))
	assert.InDelta(t, 3000, len(m.Entries), 10)
}

// The places have fees in every shape that the core knows, and each can be
// used as it stands.
func TestThePlacesHaveFeesOfEveryShape(t *testing.T) {
	clock := sim.NewClock(demo.Start, 0)
	places := []*sim.Marketplace{demo.Quaymarket(clock), demo.LanternRow(clock), demo.Copperfold(clock)}
	shapes, sites := map[string]bool{}, 0
	for _, m := range places {
		sites += len(m.Sites)
		for _, s := range m.Sites {
			for _, x := range m.Schedules {
				if x.Site != "" && x.Site != s.Code {
					continue
				}
				text, err := json.Marshal(x.Fees)
				require.NoError(t, err)
				var fees []pricing.Fee
				require.NoError(t, json.Unmarshal(text, &fees))
				terms, err := pricing.NewTerms(
					pricing.Spec{
						Currency: money.Currency(s.Currency),
						Fees:     fees,
						Tax:      pricing.Tax{Way: pricing.TaxWay(s.TaxWay), Rate: money.Rate(s.TaxRate)},
					},
				)
				require.NoError(t, err, "%s %s", s.Name, x.Category)
				_, ok := terms.BreakEven(pricing.Spend{Landed: 1000})
				assert.True(t, ok, "something can be sold on %s", s.Name)
				for _, f := range fees {
					shapes[string(f.Of)], shapes[string(f.Banding)] = true, true
					shapes["fixed"] = shapes["fixed"] || f.Fixed > 0
					shapes["least"] = shapes["least"] || f.Least != nil
					shapes["most"] = shapes["most"] || f.Most != nil
					shapes["taxed"] = shapes["taxed"] || f.Tax != nil
					for _, b := range f.Bands {
						shapes["band with a fixed part"] = shapes["band with a fixed part"] || b.Fixed > 0
					}
				}
				shapes["to come"] = shapes["to come"] || x.StartsOn > demo.Start.Format("2006-01-02")
				if x.Warehouse != nil {
					text, err := json.Marshal(x.Warehouse)
					require.NoError(t, err)
					var w pricing.Warehouse
					require.NoError(t, json.Unmarshal(text, &w))
					require.NoError(t, w.Check())
					shapes["warehouse"] = true
				}
			}
			shapes[s.TaxWay] = true
		}
	}
	assert.Equal(t, 7, sites)
	for _, shape := range []string{"item", "total", "total+tax", "slices", "whole", "", "fixed", "least", "most", "taxed", "band with a fixed part", "to come", "warehouse", "included", "added"} {
		assert.True(t, shapes[shape], "no fee is %q", shape)
	}
}

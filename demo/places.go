package demo

import "easymargin/internal/sim"

// Where the other places are served, beside Quaymarket.
const (
	LanternPath    = "/lantern-row"
	CopperfoldPath = "/copperfold"
)

type fees = []map[string]any

func place(clock *sim.Clock, name string, sites ...sim.Site) *sim.Marketplace {
	return &sim.Marketplace{
		Clock:  clock,
		Name:   name,
		Seller: "Saltmarsh Kit",
		Sites:  sites,
		Categories: []sim.Category{
			{Ref: "outdoor", Name: "Outdoor"},
			{Ref: "cooking", Parent: "outdoor", Name: "Cooking outdoors"},
			{Ref: "camping", Parent: "outdoor", Name: "Camping"},
			{Ref: "fires", Parent: "outdoor", Name: "Stoves, fires and fuel", NeedsLeave: true},
		},
	}
}

func (f feesOf) put(m *sim.Marketplace) *sim.Marketplace {
	for site, schedules := range f {
		for _, s := range schedules {
			s.Site = site
			m.Schedules = append(m.Schedules, s)
		}
	}
	return m
}

// feesOf are schedules by site.
type feesOf map[string][]sim.FeeSchedule

// LanternRow takes a rate of the whole price by its band, with a fixed part.
// In the US the tax is added, and its fees are of that too.
func LanternRow(clock *sim.Clock) *sim.Marketplace {
	whole := func(of string, bands fees, tax int) map[string]any {
		f := map[string]any{"name": "sale fee", "of": of, "banding": "whole", "bands": bands}
		if tax > 0 {
			f["tax"] = tax
		}
		return f
	}
	band := func(to, rate, fixed int) map[string]any {
		b := map[string]any{"rate": rate, "fixed": fixed}
		if to > 0 {
			b["to"] = to
		}
		return b
	}
	gb := fees{
		whole("item", fees{band(2000, 110_000, 20), band(7500, 125_000, 20), band(0, 98_000, 40)}, 200_000),
		{"name": "payment fee", "of": "total", "rate": 24_000, "fixed": 20},
	}
	later := fees{
		whole("item", fees{band(2500, 110_000, 25), band(7500, 130_000, 25), band(0, 98_000, 50)}, 200_000),
		{"name": "payment fee", "of": "total", "rate": 24_000, "fixed": 20},
	}
	us := fees{
		whole("total+tax", fees{band(2500, 120_000, 30), band(0, 132_000, 30)}, 0),
		{"name": "payment fee", "of": "total+tax", "rate": 29_000, "fixed": 30},
	}
	m := feesOf{
		"GB": {{StartsOn: "2025-01-01", Fees: gb}, {StartsOn: "2026-04-01", Fees: later}},
		"US": {{StartsOn: "2025-01-01", Fees: us}},
	}.put(
		place(
			clock,
			"Lantern Row",
			sim.Site{
				Code:     "GB",
				Name:     "Lantern Row GB",
				Currency: "GBP",
				TaxWay:   "included",
				TaxRate:  200_000,
				MaxLines: 500,
				Picture:  500,
				NoMarks:  true,
				Kind:     "own listings",
			},
			sim.Site{
				Code:     "US",
				Name:     "Lantern Row US",
				Currency: "USD",
				TaxWay:   "added",
				TaxRate:  72_500,
				MaxLines: 500,
				Picture:  500,
				Kind:     "own listings",
			},
		),
	)
	m.Demands = lanternAsks
	return m
}

// Copperfold takes a share between a least and a most in Japan, and slices in Norway.
func Copperfold(clock *sim.Clock) *sim.Marketplace {
	jp := fees{
		{"name": "sales fee", "of": "total", "rate": 100_000, "least": 80, "most": 3000, "tax": 100_000},
		{"name": "sheet fee", "of": "item", "fixed": 35},
	}
	no := fees{
		{
			"name":    "sales fee",
			"of":      "total",
			"banding": "slices",
			"bands":   fees{{"to": 50_000, "rate": 140_000}, {"to": 200_000, "rate": 90_000}, {"rate": 60_000}},
			"least":   900,
		},
	}
	cooking := fees{
		{"name": "sales fee", "of": "total", "rate": 85_000, "least": 80, "most": 2500, "tax": 100_000},
		{"name": "sheet fee", "of": "item", "fixed": 35},
	}
	return feesOf{
		"JP": {{StartsOn: "2025-01-01", Fees: jp}, {Category: "cooking", StartsOn: "2025-07-01", Fees: cooking}},
		"NO": {{StartsOn: "2025-01-01", Fees: no}},
	}.put(
		place(
			clock,
			"Copperfold",
			sim.Site{
				Code:     "JP",
				Name:     "Copperfold JP",
				Currency: "JPY",
				TaxWay:   "included",
				TaxRate:  100_000,
				MaxLines: 500,
				Picture:  800,
				Kind:     "sheet",
			},
			sim.Site{
				Code:     "NO",
				Name:     "Copperfold NO",
				Currency: "NOK",
				TaxWay:   "included",
				TaxRate:  250_000,
				MaxLines: 500,
				Picture:  800,
				Kind:     "sheet",
			},
		),
	)
}

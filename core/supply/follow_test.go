package supply_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/core/supply"
)

// What a link gives by its reports, oldest first: docs/definitions/following.md.
func TestWhatALinkGives(t *testing.T) {
	patient := supply.DefaultRule
	patient.Patience = 3
	guess := supply.DefaultRule
	guess.Unknown = 4
	reports := func(counts ...int64) []supply.Report {
		var out []supply.Report
		for i, n := range counts { // -1: missing from that feed
			r := supply.Report{At: now - int64(len(counts)-1-i)*60, Stock: known(n)}
			if n < 0 {
				r = supply.Report{At: r.At, Absent: true}
			}
			out = append(out, r)
		}
		return out
	}
	for name, c := range map[string]struct {
		rule      supply.Rule
		change    func(l *supply.Link)
		reports   []supply.Report
		later     int64 // seconds since the newest report
		confirmed int64
		offer     int64
		why       supply.Why
	}{
		"in stock":                      {supply.DefaultRule, nil, reports(9), 0, 0, 8, supply.WhyInStock},
		"heard just in time":            {supply.DefaultRule, nil, reports(9), 3600, 0, 8, supply.WhyInStock},
		"silent a second too long":      {supply.DefaultRule, nil, reports(9), 3601, 0, 0, supply.WhyStale},
		"never heard":                   {supply.DefaultRule, nil, nil, 0, 0, 0, supply.WhyStale},
		"missing":                       {supply.DefaultRule, nil, reports(9, -1), 0, 0, 0, supply.WhyGone},
		"missing from an update":        {supply.DefaultRule, func(l *supply.Link) { l.Update = true }, reports(9, -1), 0, 0, 8, supply.WhyInStock},
		"missing from every update":     {supply.DefaultRule, func(l *supply.Link) { l.Update = true }, reports(-1, -1), 0, 0, 0, supply.WhyUnknown},
		"ended, however long ago":       {supply.DefaultRule, nil, []supply.Report{{At: now, Stock: supply.Stock{State: supply.StockEnded}}}, 9999, 0, 0, supply.WhyEnded},
		"unknown counts as none":        {supply.DefaultRule, nil, []supply.Report{{At: now, Stock: supply.Stock{State: supply.StockUnknown}}}, 0, 0, 0, supply.WhyUnknown},
		"unknown counts as four":        {guess, nil, []supply.Report{{At: now, Stock: supply.Stock{State: supply.StockUnknown}}}, 0, 0, 3, supply.WhyUnknown},
		"none left":                     {supply.DefaultRule, nil, reports(0), 0, 0, 0, supply.WhyNoneLeft},
		"only the buffer":               {supply.DefaultRule, nil, reports(1), 0, 0, 0, supply.WhyTooFew},
		"not enough for one":            {supply.DefaultRule, func(l *supply.Link) { l.UnitsListed = 6 }, reports(5), 0, 0, 0, supply.WhyTooFew},
		"back once":                     {patient, nil, reports(0, 0, 9), 0, 0, 0, supply.WhyWaiting},
		"back twice":                    {patient, nil, reports(0, 9, 9), 0, 0, 0, supply.WhyWaiting},
		"back three times":              {patient, nil, reports(9, 9, 9), 0, 0, 8, supply.WhyInStock},
		"back for as long as is known":  {patient, nil, reports(9, 9), 0, 0, 8, supply.WhyInStock},
		"long ago there were none":      {patient, nil, reports(0, 9, 9, 9), 0, 0, 8, supply.WhyInStock},
		"on sale, it waits for nothing": {patient, nil, reports(0, 0, 9), 0, 1, 8, supply.WhyInStock},
		"falling is never delayed":      {patient, nil, reports(9, 9, 0), 0, 0, 0, supply.WhyNoneLeft},
	} {
		l := link(known(0), 1, 1)
		l.Reports = c.reports
		if c.change != nil {
			c.change(l)
		}
		g := c.rule.Gives(l, now+c.later, c.confirmed)
		assert.Equal(t, []any{c.offer, c.why}, []any{g.Offer, g.Why}, name)
	}
	for _, c := range [][4]int64{{9, 1, 1, 9}, {9, 6, 1, 54}, {13, 1, 6, 2}, {-1, 1, 1, 0}, {0, 1, 1, 0}, {5, 0, 0, 5}, {1 << 62, 4, 1, 1<<63 - 1},
		{1 << 62, 2, 1, 1<<63 - 1}, {1 << 62, 2, 2, 1 << 62}} {
		assert.Equal(t, c[3], supply.Sellable(c[0], c[1], c[2]), c)
	}
}

// The cheapest of those that have some takes the place of one that has none; of
// two that cost the same, the first.
func TestTheCheapestThatHasSome(t *testing.T) {
	at := func(landed, stock int64) supply.Link {
		l := *link(known(stock), 1, 1)
		l.Landed = landed
		return l
	}
	for name, c := range map[string]struct {
		links []supply.Link
		want  int
	}{
		"the cheapest":       {[]supply.Link{at(900, 9), at(800, 9), at(850, 9)}, 1},
		"that has some":      {[]supply.Link{at(900, 9), at(800, 0), at(850, 9)}, 2},
		"the first of two":   {[]supply.Link{at(800, 9), at(800, 9)}, 0},
		"none has any":       {[]supply.Link{at(900, 0), at(800, 0)}, 0},
		"one that is by far": {[]supply.Link{at(900, 9), at(1, 9)}, 1},
	} {
		got, _ := supply.DefaultRule.Choose(c.links, now, 0)
		assert.Equal(t, c.want, got, name)
	}
}

package plan_test

import (
	"bufio"
	"encoding/json"
	"os"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/supply"
)

// asked is a case of design/following.md. Those that can't be read are the
// command's to answer, not the core's.
type asked struct {
	Now  time.Time
	Rule struct {
		Buffer, Least, Cap, Patience *int64
		Saving, Small                *string
		Loss, Rest                   *bool
		Unknown                      json.RawMessage
		StaleHours                   *int64  `json:"stale_hours"`
		CostMoved                    *string `json:"cost_moved"`
		PriceMoved                   *string `json:"price_moved"`
		MovesPerDay                  *int64  `json:"moves_per_day"`
		RivalMoves                   *int64  `json:"rival_moves"`
	}
	Links []struct {
		Supplier, Mode, Landed string
		Present                bool
		UnitsBought            int64 `json:"units_bought"`
		UnitsListed            int64 `json:"units_listed"`
		Feeds                  []struct {
			At    time.Time
			Stock string
		}
	}
	Listing struct {
		Currency      money.Currency
		Price, Landed string
		Quantity      int64
		Fixed         bool
		Moves         []time.Time
	}
	Prices map[string]struct {
		Price, Profit, Broken *string
		BoundBy               *string `json:"bound_by"`
		ProfitNow             *string `json:"profit_now"`
		KeepsMet              bool    `json:"keeps_met"`
	}
}

type answered struct {
	Error    string
	Supplier string
	Offer    int64
	Why      string
	Lines    []struct {
		Kind     string
		Price    []string
		Quantity []int64
		Verdict  string
		Why      *string
	}
}

func (c *asked) amount(t *testing.T, text string) int64 {
	v, err := money.Parse(text, c.Listing.Currency)
	require.NoError(t, err)
	return v.Minor
}

func TestTheCasesOfFollowing(t *testing.T) {
	file, err := os.Open("testdata/follow.jsonl")
	require.NoError(t, err)
	defer file.Close()
	seen := 0
	for lines := bufio.NewScanner(file); lines.Scan(); {
		var row struct {
			Case   json.RawMessage
			Answer answered
		}
		require.NoError(t, json.Unmarshal(lines.Bytes(), &row))
		if row.Answer.Error != "" {
			continue
		}
		seen++
		var id struct{ ID string }
		require.NoError(t, json.Unmarshal(row.Case, &id))
		t.Run(id.ID, func(t *testing.T) { followed(t, row.Case, row.Answer) })
	}
	assert.Greater(t, seen, 80)
}

func followed(t *testing.T, text []byte, want answered) {
	var c asked
	rule, guards, stale := supply.DefaultRule, plan.DefaultGuards, int64(48)
	require.NoError(t, json.Unmarshal(text, &c))
	number(&rule.Buffer, c.Rule.Buffer)
	number(&rule.Least, c.Rule.Least)
	number(&rule.Cap, c.Rule.Cap)
	number(&rule.Patience, c.Rule.Patience)
	number(&stale, c.Rule.StaleHours)
	_ = json.Unmarshal(c.Rule.Unknown, &rule.Unknown) // "none" stays 0
	number(&guards.MovesPerDay, c.Rule.MovesPerDay)
	number(&guards.RivalMoves, c.Rule.RivalMoves)
	rate(t, &rule.Saving, c.Rule.Saving)
	rate(t, &guards.Small, c.Rule.Small)
	rate(t, &guards.CostMoved, c.Rule.CostMoved)
	rate(t, &guards.PriceMoved, c.Rule.PriceMoved)
	flag(&guards.Loss, c.Rule.Loss)
	flag(&guards.Rest, c.Rule.Rest)
	links := make([]supply.Link, len(c.Links))
	for i, l := range c.Links {
		links[i] = supply.Link{
			Present:     l.Present,
			Update:      l.Mode == "update",
			UnitsBought: l.UnitsBought,
			UnitsListed: l.UnitsListed,
			Landed:      c.amount(t, l.Landed),
			StaleAfter:  stale * 3600,
		}
		for _, f := range l.Feeds {
			r := supply.Report{At: f.At.Unix()}
			switch f.Stock {
			case "absent":
				r.Absent = true
			case "ended":
				r.Stock.State = supply.StockEnded
			case "unknown":
				r.Stock.State = supply.StockUnknown
			default:
				n, err := strconv.ParseInt(f.Stock, 10, 64)
				require.NoError(t, err)
				r.Stock = supply.Stock{State: supply.StockKnown, Count: n}
			}
			links[i].Reports = append(links[i].Reports, r)
		}
	}
	at, gives := rule.Choose(links, c.Now.Unix(), c.Listing.Quantity)
	assert.Equal(t, want.Supplier, c.Links[at].Supplier)
	assert.Equal(t, want.Offer, gives.Offer)
	assert.Equal(t, want.Why, string(gives.Why))
	l := plan.Listing{
		Price:    c.amount(t, c.Listing.Price),
		Quantity: c.Listing.Quantity,
		Landed:   c.amount(t, c.Listing.Landed),
		Fixed:    c.Listing.Fixed,
	}
	for _, m := range c.Listing.Moves {
		if m.After(c.Now.Add(-24*time.Hour)) && !m.After(c.Now) {
			l.Moves++
		}
	}
	p := c.Prices[want.Supplier]
	w := plan.Wanted{Offer: gives.Offer, Landed: links[at].Landed, Broken: p.Broken != nil, Found: p.Price != nil, KeepsMet: p.KeepsMet}
	if w.Found {
		w.Price, w.Profit, w.ProfitNow, w.ByRival = c.amount(
			t,
			*p.Price,
		), c.amount(
			t,
			*p.Profit,
		), c.amount(
			t,
			*p.ProfitNow,
		), *p.BoundBy == "rival"
	}
	show := func(v int64) string { return money.Of(v, c.Listing.Currency).String() }
	got := guards.WorkOut(l, w)
	require.Len(t, got, len(want.Lines))
	for i, x := range got {
		y := want.Lines[i]
		assert.Equal(t, y.Kind, string(x.Kind))
		assert.Equal(t, y.Verdict, string(x.Verdict))
		if y.Why == nil {
			assert.Empty(t, x.Why)
		} else {
			assert.Equal(t, *y.Why, string(x.Why))
		}
		if x.Price == nil {
			assert.Empty(t, y.Price)
		} else {
			assert.Equal(t, y.Price, []string{show(x.Price.From), show(x.Price.To)})
		}
		if x.Quantity == nil {
			assert.Empty(t, y.Quantity)
		} else {
			assert.Equal(t, y.Quantity, []int64{x.Quantity.From, x.Quantity.To})
		}
	}
}

func number(into, v *int64) {
	if v != nil {
		*into = *v
	}
}

func flag(into, v *bool) {
	if v != nil {
		*into = *v
	}
}

func rate(t *testing.T, into *money.Rate, text *string) {
	if text == nil {
		return
	}
	v, err := money.ParseRate(*text)
	require.NoError(t, err)
	*into = v
}

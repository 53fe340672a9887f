package written_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/pricing/written"
)

const feesFile = `{"site":"Quaymarket GB","currency":"GBP","schedules":[
	{"category":"","starts_on":"2025-01-01","fees":[{"name":"commission","of":"total","rate":"15%","least":"0.30","tax":"20%"}],
	 "warehouse":{"name":"warehouse","divisor":5000,"steps":[{"name":"parcel","longest":1200,"weight":23000,"fee":"3.10","over":1000,"half_kilo":"0.40"}]}},
	{"category":"light","starts_on":"2026-04-01","fees":[{"name":"commission","of":"item","banding":"whole","bands":[{"to":"50.00","rate":"9.5%","fixed":"0.20"},{"rate":"12%"}],"most":"9.00"}]},
	{"category":"light","starts_on":"2025-01-01","fees":[{"name":"commission","of":"item","rate":"8%","fixed":"0.20"}]}]}`

func TestAPriceForTomorrowUsesTomorrowsFees(t *testing.T) {
	all, err := written.ReadSchedules([]byte(feesFile), "GBP")
	require.NoError(t, err)
	s := pricing.NewSchedules(map[string]string{"light": "", "lamps": "light", "ring": "gnir", "gnir": "ring"}, all)
	for _, c := range []struct{ category, day, from, of string }{
		{"light", "2026-03-31", "2025-01-01", "light"}, {"light", "2026-04-01", "2026-04-01", "light"},
		{"lamps", "2026-04-02", "2026-04-01", "light"}, {"mugs", "2026-04-02", "2025-01-01", ""}, {"ring", "2026-04-02", "2025-01-01", ""},
	} {
		got, ok := s.On(c.category, c.day)
		require.True(t, ok)
		assert.Equal(t, c.from, got.StartsOn, c)
		assert.Equal(t, c.of, got.Category, c)
	}
	_, ok := s.On("mugs", "2024-12-31")
	assert.False(t, ok)
	w := s.WarehouseOn("lamps", "2026-04-02")
	require.NotNil(t, w, "the warehouse's fees stand further up")
	assert.Equal(t, "parcel", w.Steps[0].Name)
	assert.Equal(t, []string{"lamps", "light", ""}, s.Line("lamps"))
}

func TestSchedulesReadBack(t *testing.T) {
	all, err := written.ReadSchedules([]byte(feesFile), "GBP")
	require.NoError(t, err)
	text, err := written.WriteSchedules("Quaymarket GB", "GBP", all)
	require.NoError(t, err)
	again, err := written.ReadSchedules(text, "GBP")
	require.NoError(t, err)
	assert.Equal(t, all, again)
}

func TestSchedulesThatCantBeRead(t *testing.T) {
	for field, change := range map[string][2]string{
		"currency":                      {`"GBP"`, `"EUR"`},
		"schedules[0].starts_on":        {`"2025-01-01","fees":[{"name":"commission","of":"total"`, `"1 January","fees":[{"name":"commission","of":"total"`},
		"schedules[0].fees[0].rate":     {`"15%"`, `15`},
		"schedules[0].warehouse: steps": {`"steps":[{"name":"parcel","longest":1200,"weight":23000,"fee":"3.10","over":1000,"half_kilo":"0.40"}]`, `"steps":[]`},
		"schedules[1].fees[0]":          {`"to":"50.00"`, `"to":"0.00"`},
		"already":                       {`"2026-04-01"`, `"2025-01-01"`},
		"schedules[0].price":            {`"category":"",`, `"category":"","price":1,`},
	} {
		require.Contains(t, feesFile, change[0])
		_, err := written.ReadSchedules([]byte(strings.Replace(feesFile, change[0], change[1], 1)), "GBP")
		assert.ErrorContains(t, err, field)
	}
	_, err := written.ReadSchedules([]byte(`{"currency":"GBP","schedules":[]}`), "GBP")
	assert.ErrorContains(t, err, "at least one")
}

// The file that docs/fees.md shows can be read.
func TestTheFeesPageIsTrue(t *testing.T) {
	page, err := os.ReadFile(filepath.Join("..", "..", "..", "docs", "fees.md"))
	require.NoError(t, err)
	_, rest, found := strings.Cut(string(page), "```json\n")
	require.True(t, found)
	text, _, _ := strings.Cut(rest, "```")
	all, err := written.ReadSchedules([]byte(text), "GBP")
	require.NoError(t, err)
	assert.Equal(t, pricing.Whole, all[0].Fees[0].Banding)
	assert.Len(t, all[0].Warehouse.Steps, 2)
}

func TestFitsAndAllowancesAsTexts(t *testing.T) {
	f, err := written.ReadFits([]byte(`{"brands":["Tarnwick"],"cost_from":"5.00","cost_to":"9.99","weight_to":2000}`), "GBP")
	require.NoError(t, err)
	assert.Equal(t, int64(500), *f.CostFrom)
	for field, text := range map[string]string{"cost_from": `{"cost_from":"9.00","cost_to":"1.00"}`, "weight_from": `{"weight_from":5,"weight_to":4}`, "brands": `{"brands":"x"}`, "colour": `{"colour":["red"]}`, "cost_to": `{"cost_to":"1.005"}`} {
		_, err := written.ReadFits([]byte(text), "GBP")
		assert.ErrorContains(t, err, field)
	}
	a, err := written.ReadAllowances([]byte(`[{"name":"returns","of":"item","rate":"2%"}]`))
	require.NoError(t, err)
	assert.Equal(t, []pricing.Allowance{{Name: "returns", Of: pricing.OfItem, Rate: money.Rate(20_000)}}, a)
	_, err = written.ReadAllowances([]byte(`[{"name":"returns","of":"item","rate":"2"}]`))
	assert.ErrorContains(t, err, "allowances[0].rate")
}

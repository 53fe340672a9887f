package reckon

import (
	"context"
	"encoding/json"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// Fees are the categories and fee schedules that a place gives for a site,
// checked and ready to be kept.
type Fees struct {
	Categories []store.Category
	Schedules  []store.FeeSchedule
}

// ReadFees asks a place for a site's categories and fees.
func ReadFees(ctx context.Context, d place.Directory, site place.Site) (Fees, error) {
	var out Fees
	cats, err := d.Categories(ctx, site.Code)
	if err != nil {
		return out, err
	}
	for _, c := range cats {
		out.Categories = append(out.Categories, store.Category{Ref: c.Ref, Parent: c.Parent, Name: clip(c.Name, 200), NeedsLeave: c.NeedsLeave})
	}
	fees, err := d.Fees(ctx, site.Code)
	if err != nil {
		return out, err
	}
	for _, f := range fees {
		if _, err := pricing.NewTerms(pricing.Spec{Currency: money.Currency(site.Currency), Fees: f.Fees}); err != nil {
			return out, fault.New(
				fault.Unavailable,
				"the fees that %s gives for category %q from %s can't be right: %v",
				site.Name,
				f.Category,
				f.StartsOn,
				err,
			)
		}
		if f.Warehouse != nil {
			if err := f.Warehouse.Check(); err != nil {
				return out, fault.New(
					fault.Unavailable,
					"the warehouse fees that %s gives for category %q from %s can't be right: %v",
					site.Name,
					f.Category,
					f.StartsOn,
					err,
				)
			}
		}
		row, err := ScheduleRow(pricing.Schedule{Category: f.Category, StartsOn: f.StartsOn, Fees: f.Fees, Warehouse: f.Warehouse})
		if err != nil {
			return out, err
		}
		out.Schedules = append(out.Schedules, row)
	}
	return out, nil
}

// clip cuts a name that came from elsewhere.
func clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// Of are the same fees as rows of a site.
func (f Fees) Of(siteID int64) ([]store.Category, []store.FeeSchedule) {
	for i := range f.Categories {
		f.Categories[i].SiteID = siteID
	}
	for i := range f.Schedules {
		f.Schedules[i].SiteID = siteID
	}
	return f.Categories, f.Schedules
}

// ScheduleRow is a fee schedule as it is kept; SchedulesOf reads it back.
func ScheduleRow(s pricing.Schedule) (store.FeeSchedule, error) {
	row := store.FeeSchedule{Category: s.Category, StartsOn: s.StartsOn}
	text, err := json.Marshal(s.Fees)
	if err != nil {
		return row, err
	}
	row.Fees = string(text)
	if s.Warehouse != nil {
		text, err := json.Marshal(s.Warehouse)
		if err != nil {
			return row, err
		}
		row.Warehouse = string(text)
	}
	return row, nil
}

// FirstRule is the rule that a new site begins with: an 18 % margin, never
// under one unit of its currency, with endings that suit it.
func FirstRule(c money.Currency) string {
	show := func(v int64) string { return money.Of(v, c).String() }
	every, at, least := "100", []string{"80"}, "100"
	if exp, _ := c.Digits(); exp > 0 {
		one := int64(1)
		for range exp {
			one *= 10
		}
		every, at, least = show(one), []string{show(one * 49 / 100), show(one * 99 / 100)}, show(one)
	}
	text, err := json.Marshal(
		map[string]any{
			"aims":    []map[string]string{{"kind": "margin", "value": "18%"}},
			"keep":    []map[string]string{{"kind": "profit", "value": least}},
			"endings": map[string]any{"every": every, "at": at, "way": "up"},
		},
	)
	if err != nil {
		panic(err) // plain texts
	}
	return string(text)
}

// LastName is what the rule that holds for all the rest is called at first.
const LastName = "All the rest"

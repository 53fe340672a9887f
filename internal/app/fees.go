package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

// FeeRow is what a category pays on a site from a day on.
type FeeRow struct {
	Category string                  `json:"category" doc:"Ref; empty for every category without fees of its own"`
	Name     string                  `json:"name"`
	Path     string                  `json:"path" doc:"The categories above it, by name"`
	StartsOn string                  `json:"starts_on" doc:"YYYY-MM-DD"`
	Holds    bool                    `json:"holds" doc:"Whether it holds today"`
	Past     bool                    `json:"past" doc:"Whether a later one has taken its place"`
	ByHand   bool                    `json:"by_hand" doc:"Whether a person made it, rather than the gateway"`
	Fees     []string                `json:"fees" doc:"Each fee in words"`
	Exact    pricing.WrittenSchedule `json:"exact" doc:"As a file of schedules has it"`
}

// Fees lists a site's fee schedules: those that held, that hold today and that will.
func (a *App) Fees(ctx context.Context, siteID int64) ([]FeeRow, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	cats, err := a.Store.CategoriesOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	names, parent := map[string]string{"": "Everything else"}, map[string]string{}
	for _, c := range cats {
		names[c.Ref], parent[c.Ref] = c.Name, c.Parent
	}
	rows, err := a.Store.FeesOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	schedules, err := a.schedules(ctx, site)
	if err != nil {
		return nil, err
	}
	today, newest := a.now().Format(dayForm), map[string]string{}
	for _, s := range schedules {
		if s.StartsOn <= today {
			newest[s.Category] = s.StartsOn
		}
	}
	tree := pricing.NewSchedules(parent, nil)
	out := []FeeRow{}
	for i, s := range schedules {
		row := FeeRow{Category: s.Category, Name: names[s.Category], StartsOn: s.StartsOn, Holds: s.StartsOn == newest[s.Category], Past: s.StartsOn < newest[s.Category],
			ByHand: rows[i].ByHand, Fees: []string{}, Exact: s.Written(money.Currency(site.Currency))}
		if row.Name == "" {
			row.Name = s.Category
		}
		above := tree.Line(s.Category)
		slices.Reverse(above)
		for _, c := range above[1:] {
			if c != s.Category {
				row.Path += names[c] + " › "
			}
		}
		row.Path = strings.TrimSuffix(row.Path, " › ")
		for _, f := range s.Fees {
			row.Fees = append(row.Fees, feeWords(f, money.Currency(site.Currency)))
		}
		if w := s.Warehouse; w != nil {
			row.Fees = append(row.Fees, warehouseWords(*w, money.Currency(site.Currency)))
		}
		out = append(out, row)
	}
	return out, nil
}

// feeWords says one fee in a sentence's worth of words.
func feeWords(f pricing.Fee, c money.Currency) string {
	show := func(v int64) string { return money.Of(v, c).String() }
	var parts []string
	for i, b := range f.Bands {
		part := b.Rate.String()
		if b.Fixed > 0 {
			part += " and " + show(b.Fixed)
		}
		switch {
		case i < len(f.Bands)-1:
			part += " up to " + show(b.To)
		case f.Banding == pricing.Slices:
			part += " of what is above"
		default:
			part += " of all of it above that"
		}
		parts = append(parts, part)
	}
	if f.Rate > 0 {
		parts = append(parts, f.Rate.String())
	}
	if f.Fixed > 0 {
		parts = append(parts, show(f.Fixed)+" "+string(c)+" each")
	}
	if f.Least != nil {
		parts = append(parts, "at least "+show(*f.Least))
	}
	if f.Most != nil {
		parts = append(parts, "at most "+show(*f.Most))
	}
	if f.Tax != nil {
		parts = append(parts, "with "+f.Tax.String()+" tax")
	}
	if len(f.Bands) > 0 || f.Rate > 0 {
		parts[len(parts)-1] += map[pricing.Base]string{pricing.OfItem: ", of the item price", pricing.OfTotal: ", of item and delivery", pricing.OfTotalTax: ", of all the buyer pays, tax too"}[f.Of]
	}
	if len(parts) == 0 {
		parts = []string{"nothing"}
	}
	return f.Name + ": " + strings.Join(parts, ", ")
}

func warehouseWords(w pricing.Warehouse, c money.Currency) string {
	var parts []string
	for _, s := range w.Steps {
		part := s.Name + " " + money.Of(s.Fee, c).String()
		if s.HalfKilo > 0 {
			part += fmt.Sprintf(" and %s for each half kilo over %d g", money.Of(s.HalfKilo, c), s.Over)
		}
		parts = append(parts, part)
	}
	return "where its warehouse sends: " + strings.Join(parts, "; ")
}

func scheduleRow(s pricing.Schedule) (store.FeeSchedule, error) {
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

// FeesFile writes a site's schedules as a file, docs/fees.md.
func (a *App) FeesFile(ctx context.Context, siteID int64) ([]byte, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	list, err := a.schedules(ctx, site)
	if err != nil {
		return nil, err
	}
	return pricing.WriteSchedules(site.Name, money.Currency(site.Currency), list)
}

// TakeFees keeps the schedules of a file, docs/fees.md: each in the place of
// one of the same category and day. Prices are worked out anew.
func (a *App) TakeFees(ctx context.Context, siteID int64, text []byte) (int, error) {
	if len(text) > 4<<20 {
		return 0, invalid("file", "a file of fee schedules has at most 4 MiB")
	}
	return a.putSchedules(ctx, siteID, "file", func(c money.Currency) ([]pricing.Schedule, error) { return pricing.ReadSchedules(text, c) })
}

// SetFees keeps one schedule that a person wrote, in the form of a file's.
func (a *App) SetFees(ctx context.Context, siteID int64, text []byte) error {
	_, err := a.putSchedules(ctx, siteID, "", func(c money.Currency) ([]pricing.Schedule, error) {
		s, err := pricing.ReadSchedule(text, c)
		return []pricing.Schedule{s}, err
	})
	return err
}

func (a *App) putSchedules(ctx context.Context, siteID int64, field string, read func(money.Currency) ([]pricing.Schedule, error)) (int, error) {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return 0, err
	}
	list, err := read(money.Currency(site.Currency))
	if err != nil {
		return 0, fieldError(err, field)
	}
	cats, err := a.Store.CategoriesOf(ctx, siteID)
	if err != nil {
		return 0, err
	}
	for i, s := range list {
		if s.Category != "" && !slices.ContainsFunc(cats, func(c store.Category) bool { return c.Ref == s.Category }) {
			return 0, fieldError(fmt.Errorf("schedules[%d].category: %s has no category %q", i, site.Name, s.Category), field)
		}
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		for _, s := range list {
			row, err := scheduleRow(s)
			if err != nil {
				return err
			}
			row.SiteID = siteID
			if err := tx.PutSchedule(&row); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	a.note(ctx, "fees kept", site.Name, plural(int64(len(list)), "schedule", "schedules"))
	a.changed("sites")
	a.price(ctx, site)
	return len(list), nil
}

// DropFees drops a schedule that a person made. The gateway's is there again
// when its fees are read the next time.
func (a *App) DropFees(ctx context.Context, siteID int64, category, startsOn string) error {
	site, err := a.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error { return tx.DropSchedule(siteID, category, startsOn) })
	if errors.Is(err, store.ErrMissing) {
		return &Error{Conflict, "", "only a schedule that a person made can be dropped; the gateway's come back at every reading"}
	}
	if err != nil {
		return err
	}
	a.note(ctx, "fees dropped", site.Name, category+" from "+startsOn)
	a.changed("sites")
	a.price(ctx, site)
	return nil
}

// Category is a category of a site.
type Category struct {
	Ref    string `json:"ref"`
	Parent string `json:"parent"`
	Name   string `json:"name"`
}

// Categories lists a site's categories, by name.
func (a *App) Categories(ctx context.Context, siteID int64) ([]Category, error) {
	rows, err := a.Store.CategoriesOf(ctx, siteID)
	out := []Category{}
	for _, c := range rows {
		out = append(out, Category{c.Ref, c.Parent, c.Name})
	}
	return out, err
}

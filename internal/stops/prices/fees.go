package prices

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/core/pricing/written"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// FeeRow is what a category pays on a site from a day on.
type FeeRow struct {
	Category string           `json:"category" doc:"Ref; empty for every category without fees of its own"`
	Name     string           `json:"name"`
	Path     string           `json:"path" doc:"The categories above it, by name"`
	StartsOn string           `json:"starts_on" doc:"YYYY-MM-DD"`
	Holds    bool             `json:"holds" doc:"Whether it holds today"`
	Past     bool             `json:"past" doc:"Whether a later one has taken its place"`
	Version  int64            `json:"version" doc:"For If-Match"`
	ByHand   bool             `json:"by_hand" doc:"Whether a person made it, rather than the gateway"`
	Fees     []string         `json:"fees" doc:"Each fee in words"`
	Shown    []FeeShown       `json:"shown" doc:"Each fee as it is drawn"`
	Store    *StoreShown      `json:"store" doc:"What the marketplace's warehouse takes, where this says so"`
	Exact    written.Schedule `json:"exact" doc:"As a file of schedules has it"`
}

// FeeShown is one fee in the words and figures that it is drawn with.
type FeeShown struct {
	Name    string      `json:"name"`
	Rate    string      `json:"rate" doc:"Where it is one for all"`
	Of      string      `json:"of" doc:"What it is taken of, and how its bands work"`
	Bands   []BandShown `json:"bands"`
	Said    string      `json:"said" doc:"The bands in words"`
	Also    string      `json:"also" doc:"What is asked besides"`
	Changed bool        `json:"changed" doc:"Whether the version before had it otherwise"`
}

// BandShown is one band of a fee.
type BandShown struct {
	Rate  string `json:"rate" doc:"With what is fixed"`
	To    string `json:"to"`
	Share int64  `json:"share" doc:"Its rate, in per cent of the highest"`
}

// StoreShown is a warehouse's steps in words.
type StoreShown struct {
	Name  string      `json:"name"`
	Steps []StepShown `json:"steps"`
}

// StepShown is one step of a warehouse's fees.
type StepShown struct {
	Name string `json:"name"`
	Fits string `json:"fits" doc:"What fits it"`
	Fee  string `json:"fee"`
	Also string `json:"also"`
}

// Fees lists a site's fee schedules: those that held, that hold today and that will.
func (st *Stop) Fees(ctx context.Context, siteID int64) ([]FeeRow, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	cats, err := st.Store.Reading(ctx).CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	names, parent := map[string]string{"": "Everything else"}, map[string]string{}
	for _, c := range cats {
		names[c.Ref], parent[c.Ref] = c.Name, c.Parent
	}
	rows, err := st.Store.Reading(ctx).FeesOf(siteID)
	if err != nil {
		return nil, err
	}
	schedules, err := reckon.SchedulesOf(st.Store.Reading(ctx), site)
	if err != nil {
		return nil, err
	}
	today, newest := st.Now().Format(reckon.DayForm), map[string]string{}
	for _, s := range schedules {
		if s.StartsOn <= today {
			newest[s.Category] = s.StartsOn
		}
	}
	tree := pricing.NewSchedules(parent, nil)
	out := []FeeRow{}
	for i, s := range schedules {
		row := FeeRow{
			Category: s.Category,
			Name:     names[s.Category],
			StartsOn: s.StartsOn,
			Holds:    s.StartsOn == newest[s.Category],
			Past:     s.StartsOn < newest[s.Category],
			ByHand:   rows[i].ByHand,
			Fees:     []string{},
			Shown:    []FeeShown{},
			Exact:    written.Written(s, money.Currency(site.Currency)),
			Version:  rows[i].Version,
		}
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
			row.Shown = append(row.Shown, showFee(f, money.Currency(site.Currency)))
		}
		if w := s.Warehouse; w != nil {
			row.Fees = append(row.Fees, warehouseWords(*w, money.Currency(site.Currency)))
			row.Store = showWarehouse(*w, money.Currency(site.Currency))
		}
		if i > 0 && schedules[i-1].Category == s.Category {
			markChanged(row.Shown, out[i-1].Shown)
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
		parts[len(parts)-1] += map[pricing.Base]string{pricing.OfItem: ", of the item price", pricing.OfTotal: ", of item and delivery",
			pricing.OfTotalTax: ", of all the buyer pays, tax too"}[f.Of]
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

// FeesFile writes a site's schedules as a file, docs/fees.md.
func (st *Stop) FeesFile(ctx context.Context, siteID int64) ([]byte, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return nil, err
	}
	list, err := reckon.SchedulesOf(st.Store.Reading(ctx), site)
	if err != nil {
		return nil, err
	}
	return written.WriteSchedules(site.Name, money.Currency(site.Currency), list)
}

// TakeFees keeps the schedules of a file, docs/fees.md: each in the place of
// one of the same category and day. Prices are worked out anew.
func (st *Stop) TakeFees(ctx context.Context, siteID int64, text []byte) (int, error) {
	if len(text) > 4<<20 {
		return 0, fault.At("file", "a file of fee schedules has at most 4 MiB")
	}
	return st.putSchedules(
		ctx,
		siteID,
		"file",
		stops.IfMatch{},
		func(c money.Currency) ([]pricing.Schedule, error) { return written.ReadSchedules(text, c) },
	)
}

// SetFees keeps one schedule that a person wrote, in the form of a file's.
func (st *Stop) SetFees(ctx context.Context, siteID int64, edit stops.IfMatch, text []byte) error {
	_, err := st.putSchedules(ctx, siteID, "", edit, func(c money.Currency) ([]pricing.Schedule, error) {
		s, err := written.ReadSchedule(text, c)
		return []pricing.Schedule{s}, err
	})
	return err
}

func (st *Stop) putSchedules(
	ctx context.Context,
	siteID int64,
	field string,
	edit stops.IfMatch,
	read func(money.Currency) ([]pricing.Schedule, error),
) (int, error) {
	n := 0
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		cur := money.Currency(site.Currency)
		list, err := read(cur)
		if err != nil {
			return stops.FieldError(err, field)
		}
		cats, err := tx.CategoriesOf(siteID)
		if err != nil {
			return err
		}
		for i, s := range list {
			if s.Category != "" && !slices.ContainsFunc(cats, func(c store.Category) bool { return c.Ref == s.Category }) {
				return stops.FieldError(fmt.Errorf("schedules[%d].category: %s has no category %q", i, site.Name, s.Category), field)
			}
			if err := st.putSchedule(tx, site, s, edit); err != nil {
				return err
			}
		}
		n = len(list)
		tx.Changed("sites")
		return tx.Note(st.Now(), "fees kept", site.Name, stops.Plural(int64(n), "schedule", "schedules"))
	})
	return n, err
}

// kept is a schedule as it is now, for who edited another version of it.
type kept struct {
	written.Schedule
	Version int64 `json:"version"`
}

// putSchedule keeps one schedule, unless somebody else changed it since it was opened.
func (st *Stop) putSchedule(tx store.Tx, site store.Site, s pricing.Schedule, edit stops.IfMatch) error {
	was, there, err := tx.ScheduleOf(site.ID, s.Category, s.StartsOn)
	if err != nil {
		return err
	}
	if there {
		known, err := reckon.ReadSchedule(was)
		if err != nil {
			return err
		}
		now := kept{written.Written(known, money.Currency(site.Currency)), was.Version}
		if err := edit.Check(was.Version, "this schedule of "+site.Name, now); err != nil {
			return err
		}
	}
	row, err := reckon.ScheduleRow(s)
	if err != nil {
		return err
	}
	row.SiteID = site.ID
	return tx.PutSchedule(st.Now(), &row)
}

// DropFees drops a schedule that a person made. The gateway's is there again
// when its fees are read the next time.
func (st *Stop) DropFees(ctx context.Context, siteID int64, category, startsOn string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		err = tx.DropSchedule(st.Now(), siteID, category, startsOn)
		if errors.Is(err, store.ErrMissing) {
			return fault.New(fault.Conflict, "only a schedule that a person made can be dropped; the gateway's come back at every reading")
		}
		if err != nil {
			return err
		}
		tx.Changed("sites")
		return tx.Note(st.Now(), "fees dropped", site.Name, category+" from "+startsOn)
	})
}

// RefreshFees reads a site's categories and fees again.
func (st *Stop) RefreshFees(ctx context.Context, siteID int64) error {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return err
	}
	dir := st.Places(site.Marketplace).Directory
	if dir == nil {
		return fault.New(fault.Conflict, "%s has no door by which fees are read; write them by hand", site.Marketplace.Name)
	}
	fees, err := reckon.ReadFees(ctx, dir, place.Site{Code: site.Code, Name: site.Name, Currency: site.Currency})
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		cats, schedules := fees.Of(site.ID)
		if err := tx.PutFees(st.Now(), site.ID, cats, schedules); err != nil {
			return err
		}
		tx.Changed("sites")
		return tx.Note(st.Now(), "fees read", site.Name, "")
	})
}

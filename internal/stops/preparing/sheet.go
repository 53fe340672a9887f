package preparing

import (
	"context"
	"slices"
	"strings"

	"easymargin/core/listing"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// mostSheet is the most listings of one sheet.
const mostSheet = 10_000

// Sheet is many listings of one category as a grid: a row a listing, a column a
// thing that is said of them.
type Sheet struct {
	Columns []SheetColumn `json:"columns"`
	Rows    []SheetRow    `json:"rows"`
	More    bool          `json:"more" doc:"There are more than fit one sheet"`
}

// SheetColumn is one thing that is said of listings.
type SheetColumn struct {
	Field string             `json:"field"`
	Need  string             `json:"need" enum:"needed,helps,"`
	Asked *listing.Attribute `json:"asked,omitempty" doc:"What is asked of an attribute"`
}

// SheetRow is one listing of a sheet.
type SheetRow struct {
	ID      int64       `json:"id"`
	SKU     string      `json:"sku"`
	Title   string      `json:"title" doc:"As it would go up"`
	Picture string      `json:"picture" doc:"Digest of the leading one"`
	State   string      `json:"state"`
	Stops   int         `json:"stops"`
	Values  []string    `json:"values" doc:"A column each"`
	Ours    []bool      `json:"ours" doc:"Which of them a person said"`
	Off     []bool      `json:"off" doc:"Which of them don't apply"`
	Wrong   []WrongCell `json:"wrong"`
}

// WrongCell is what is wrong with one value of a row.
type WrongCell struct {
	Column int    `json:"column" doc:"From 0"`
	Level  string `json:"level" enum:"stops,helps,left out"`
	Words  string `json:"words"`
}

// RowSaid is what a person says of one listing in a sheet.
type RowSaid struct {
	ID  int64       `json:"id"`
	Say []FieldSaid `json:"say" maxItems:"500"`
}

// Sheet reads the listings of one category of a site: those that lack something,
// or all.
func (st *Stop) Sheet(ctx context.Context, siteID int64, category string, all bool) (Sheet, error) {
	out := Sheet{Columns: []SheetColumn{}, Rows: []SheetRow{}}
	ids, err := st.Store.PreparedIn(ctx, siteID, category, all, mostSheet+1)
	if err != nil {
		return out, err
	}
	if out.More = len(ids) > mostSheet; out.More {
		ids = ids[:mostSheet]
	}
	list, err := loadAll(st.Store.Reading(ctx), ids)
	if err != nil {
		return out, err
	}
	for _, x := range list {
		p, err := x.asking.Prepare(x.material, &x.listing)
		if err != nil {
			return out, err
		}
		of := inSheet(&p)
		if len(out.Columns) == 0 {
			out.Columns = columnsOf(of)
		}
		out.Rows = append(out.Rows, x.row(&p, of))
	}
	return out, nil
}

// columnsOf are the columns of a sheet: what one field is asked for is asked of
// all rows, though it may not apply to each.
func columnsOf(of []SaidField) []SheetColumn {
	var out []SheetColumn
	for i := range of {
		out = append(out, SheetColumn{Field: of[i].Field, Need: of[i].asks(), Asked: of[i].Asked})
	}
	return out
}

// asks is the need of a field, whether it applies or not.
func (f *SaidField) asks() string {
	if f.Asked != nil {
		return f.Asked.Need
	}
	return f.Need
}

// inSheet are the fields of a listing in the order of a sheet's columns: what is
// needed first, then what helps. The SKU is the row's.
func inSheet(p *reckon.Prepared) []SaidField {
	of := fields(p)[1:]
	order := map[string]int{listing.Needed: 1, listing.Helps: 2, "": 3}
	slices.SortStableFunc(of, func(a, b SaidField) int { return order[a.asks()] - order[b.asks()] })
	return of
}

// row is a listing as a row of a sheet.
func (x *loaded) row(p *reckon.Prepared, of []SaidField) SheetRow {
	out := SheetRow{ID: x.listing.ID, SKU: x.listing.SKU, Title: p.Report.Title, State: x.listing.State, Stops: p.Stops(), Wrong: []WrongCell{},
		Values: make([]string, len(of)), Ours: make([]bool, len(of)), Off: make([]bool, len(of))}
	if len(p.Pictures) > 0 {
		out.Picture = p.Pictures[0].Digest
	}
	for i, f := range of {
		out.Values[i], out.Ours[i], out.Off[i] = f.Value, f.From == reckon.FromPerson, f.Need == "does not apply"
		if f.Code != "" && f.Words != "" {
			out.Wrong = append(out.Wrong, WrongCell{i, f.Level, f.Words})
		}
	}
	return out
}

// CheckRows is what rows of a sheet would be with what a person says; nothing is kept.
func (st *Stop) CheckRows(ctx context.Context, said []RowSaid) ([]SheetRow, error) {
	return st.rows(ctx, st.Store.Reading(ctx), said, nil)
}

// SayRows keeps what a person says in a sheet, all of it or nothing.
func (st *Stop) SayRows(ctx context.Context, said []RowSaid) ([]SheetRow, error) {
	var out []SheetRow
	err := st.Store.Do(ctx, func(tx store.Tx) (err error) {
		var kept []store.Saying
		out, err = st.rows(ctx, tx, said, func(x *loaded, before, after *reckon.Prepared, say []FieldSaid, rows []store.Saying) error {
			kept = append(kept, rows...)
			for _, s := range say {
				if _, err := st.learn(ctx, tx, x, before, after, s.Field); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.Say(st.Now(), kept), tx.Note(st.Now(), "listings prepared", stops.Plural(int64(len(said)), "listing", "listings"), "in a sheet"))
	})
	return out, err
}

// rows works out rows with what a person says, and hands each on. With nobody to
// hand them to, what can't be read is said in its row.
func (st *Stop) rows(ctx context.Context, tx store.Tx, said []RowSaid,
	each func(x *loaded, before, after *reckon.Prepared, say []FieldSaid, rows []store.Saying) error) ([]SheetRow, error) {
	ids := make([]int64, len(said))
	for i := range said {
		ids[i] = said[i].ID
	}
	list, err := loadAll(tx, ids)
	if err != nil {
		return nil, err
	}
	out := []SheetRow{}
	for i, x := range list {
		before, after, rows, err := x.with(ctx, st.Now(), said[i].Say)
		if err != nil && each == nil {
			out = append(out, x.unread(&before, said[i].Say, err))
			continue
		}
		if err != nil {
			return nil, err
		}
		if each == nil {
			out = append(out, x.row(&after, inSheet(&after)))
			continue
		}
		if err := each(x, &before, &after, said[i].Say, rows); err != nil {
			return nil, err
		}
		out = append(out, x.row(&after, inSheet(&after)))
	}
	return out, nil
}

// unread is a row as it was, with what a person says in it and why that can't be
// read.
func (x *loaded) unread(before *reckon.Prepared, say []FieldSaid, why error) SheetRow {
	of := inSheet(before)
	out := x.row(before, of)
	for i, f := range of {
		for _, s := range say {
			if s.Field == f.Field {
				out.Values[i] = strings.Join(s.Values, "|")
				out.Wrong = append(out.Wrong, WrongCell{i, listing.Stops, why.Error()})
			}
		}
	}
	out.Stops++
	return out
}

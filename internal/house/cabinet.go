package house

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/internal/place"
	"easymargin/internal/place/sheets"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// cabinet keeps blanks and filled sheets, as place/sheets asks for them.
type cabinet struct {
	store *store.Store
	now   func() time.Time
}

// Takes implements sheets.Cabinet: sites of those kinds, and by sheets those of
// places that have no gateway.
func (c cabinet) Takes(ctx context.Context, name, code string) (sheets.How, money.Currency, error) {
	site, err := c.store.Reading(ctx).SiteNamed(name, code)
	how := sheets.ByGateway
	switch {
	case site.Kind == place.KindHand:
		how = sheets.ByHand
	case site.Kind == place.KindSheet || site.Marketplace.Address == "":
		how = sheets.BySheets
	}
	return how, money.Currency(site.Currency), err
}

// KeepTasks implements sheets.Cabinet.
func (c cabinet) KeepTasks(ctx context.Context, name, code, key string, lines []place.Line) error {
	return c.store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteNamed(name, code)
		if err != nil {
			return err
		}
		now := c.now()
		rows, none := make([]store.SheetLine, len(lines)), make([]int, len(lines))
		for i := range lines {
			text, err := json.Marshal(&lines[i])
			if err != nil {
				return err
			}
			rows[i], none[i] = store.SheetLine{Key: lines[i].Key, SKU: lines[i].SKU, Row: int64(i + 1), Task: string(text), At: &now}, -1
		}
		tx.Changed("sendouts", "counts")
		return tx.KeepSheets(site.ID, key, nil, rows, none)
	})
}

// Blank implements sheets.Cabinet.
func (c cabinet) Blank(ctx context.Context, name, code, category string) (sheets.Blank, bool, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(name, code)
	if err != nil {
		return sheets.Blank{}, false, err
	}
	row, there, err := tx.BlankOf(site.ID, category)
	if err != nil || !there {
		return sheets.Blank{}, false, err
	}
	out := sheets.Blank{Name: row.Name, Content: row.Content}
	if err := json.Unmarshal([]byte(row.Layout), &out.Layout); err != nil {
		return out, false, fmt.Errorf("the layout of %s: %w", row.Name, err)
	}
	return out, true, nil
}

// OnSale implements sheets.Cabinet.
func (c cabinet) OnSale(ctx context.Context, name, code string, skus []string) (map[string]sheets.OnSale, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(name, code)
	if err != nil {
		return nil, err
	}
	ours, err := tx.ListingsBySKU(site.ID, skus)
	out := map[string]sheets.OnSale{}
	for sku, l := range ours {
		out[sku] = sheets.OnSale{Price: l.ConfirmedPrice, Quantity: l.ConfirmedQuantity, Offer: l.Quantity, Floor: l.Floor}
	}
	return out, err
}

// Keep implements sheets.Cabinet.
func (c cabinet) Keep(ctx context.Context, name, code, key string, files []sheets.File, refused []sheets.Refused) error {
	return c.store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteNamed(name, code)
		if err != nil {
			return err
		}
		var rows []store.SheetFile
		var lines []store.SheetLine
		var fileOf []int
		for i, f := range files {
			rows = append(rows, store.SheetFile{SiteID: site.ID, Batch: key, Category: f.Category, Name: f.Name, Rows: int64(slices.Max(append(f.Rows, 0))), Content: f.Content, MadeAt: c.now()})
			for n, l := range f.Lines {
				lines, fileOf = append(lines, store.SheetLine{Key: l.Key, SKU: l.SKU, Row: int64(f.Rows[n])}), append(fileOf, i)
			}
		}
		for _, r := range refused {
			lines = append(lines, store.SheetLine{Key: r.Line.Key, SKU: r.Line.SKU, Said: store.SheetRefused, Field: r.Outcome.Field, Words: r.Outcome.Words})
			fileOf = append(fileOf, -1)
		}
		tx.Changed("sendouts", "counts")
		return tx.KeepSheets(site.ID, key, rows, lines, fileOf)
	})
}

// Told implements sheets.Cabinet: a batch rests until its place has said yes or
// no to each of its lines.
func (c cabinet) Told(ctx context.Context, name, code, key string) (place.Batch, bool, error) {
	tx := c.store.Reading(ctx)
	b := place.Batch{ID: key, State: place.BatchDone}
	site, err := tx.SiteNamed(name, code)
	if err != nil {
		return b, false, err
	}
	lines, err := tx.SheetLines(site.ID, key)
	for _, l := range lines {
		if l.Said != store.SheetConfirmed && l.Said != store.SheetRefused {
			b.State = place.BatchResting
			continue
		}
		b.Lines = append(b.Lines, place.Outcome{Key: l.Key, State: l.Said, Field: l.Field, Words: l.Words})
	}
	return b, len(lines) > 0, err
}

// Files implements sheets.Cabinet.
func (c cabinet) Files(ctx context.Context, name, code, key string) ([]sheets.Made, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(name, code)
	if err != nil {
		return nil, err
	}
	rows, err := tx.SheetsOf(site.ID, key)
	var out []sheets.Made
	for _, r := range rows {
		out = append(out, sheets.Made{ID: r.ID, Name: r.Name, Content: r.Content, There: r.UploadedAt != nil})
	}
	return out, err
}

// Drop implements sheets.Cabinet.
func (c cabinet) Drop(ctx context.Context, name, code, key string) error {
	return c.store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		site, err := tx.SiteNamed(name, code)
		if err != nil {
			return err
		}
		return tx.DropSheets(site.ID, key)
	})
}

// Given implements sheets.Cabinet.
func (c cabinet) Given(ctx context.Context, id int64, ref string) error {
	return c.store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sendouts", "counts")
		return tx.GiveSheet(id, ref, c.now())
	})
}

// Refs implements sheets.Cabinet.
func (c cabinet) Refs(ctx context.Context, name, code, key string) ([]string, error) {
	tx := c.store.Reading(ctx)
	site, err := tx.SiteNamed(name, code)
	if err != nil {
		return nil, err
	}
	return tx.SheetRefs(site.ID, key)
}

// Say implements sheets.Cabinet: by SKU; what a place says of others is none of ours.
func (c cabinet) Say(ctx context.Context, name, code, ref string, lines []place.SheetLine) error {
	return c.store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteNamed(name, code)
		if err != nil {
			return err
		}
		open, err := tx.OpenLinesOf(site.ID, ref)
		if err != nil {
			return err
		}
		fields, err := stops.BlankFields(tx, site.ID)
		if err != nil {
			return err
		}
		by := map[string][]*store.SheetLine{}
		for i := range open {
			by[open[i].SKU] = append(by[open[i].SKU], &open[i])
		}
		var said []store.SheetLine
		for _, x := range lines {
			for _, l := range by[x.SKU] {
				l.Said, l.Words, l.Field = store.SheetTaken, stops.Clip(x.Words, 1000), stops.Clip(cmp.Or(fields[strings.ToLower(x.Column)].From, x.Column), 100)
				if x.State == place.Confirmed || x.State == place.Refused {
					l.Said = x.State
				}
				said = append(said, *l)
			}
		}
		if len(said) == 0 {
			return nil
		}
		tx.Changed("sendouts")
		return tx.PutSheetWords(said)
	})
}

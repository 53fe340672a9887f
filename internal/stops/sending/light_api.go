package sending

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// lightOf is a light file as people write it, and what it said of each SKU last.
func lightOf(row *store.LightFile) (LightFile, map[string]string, error) {
	f := LightFile{ID: row.ID, Version: row.Version, SiteID: row.SiteID, Name: row.Name, Part: row.Part, Only: row.Only, Every: row.Every, Target: row.Target,
		Username: row.Username, Known: row.Password != "", Due: row.DueAt, Made: row.MadeAt, Rows: row.Rows, Error: row.Error, Columns: []LightColumn{}}
	l, err := blank.ReadLayout([]byte(row.Layout))
	if err != nil {
		return f, nil, fmt.Errorf("how %s is written: %w", row.Name, err)
	}
	f.Output.Encoding = l.Output.Encoding
	if l.Output.Delimiter == ";" {
		f.Output.Delimiter = "semicolon"
	}
	if l.Output.Decimal == "," {
		f.Output.Decimal = "comma"
	}
	for _, c := range l.Columns {
		x := LightColumn{Header: c.Header, From: c.From}
		if c.Value != nil {
			x.Value = *c.Value
		}
		if c.From == "do" {
			f.Change, f.End = c.Map["change"], c.Map["end"]
		}
		f.Columns = append(f.Columns, x)
	}
	last, err := row.Given()
	return f, last, err
}

// LightFiles are all, by name.
func (st *Stop) LightFiles(ctx context.Context) ([]LightFile, error) {
	rows, err := st.Store.LightFiles(ctx)
	out := make([]LightFile, 0, len(rows))
	for i := range rows {
		f, _, err := lightOf(&rows[i].LightFile)
		if err != nil {
			return out, err
		}
		f.Site = rows[i].Site
		out = append(out, f)
	}
	return out, err
}

// KeepLight keeps a light file: a new one where id is 0. One with a schedule is
// made at once, and then every so often.
func (st *Stop) KeepLight(ctx context.Context, id int64, edit stops.IfMatch, in LightFile) (int64, error) {
	if err := in.check(); err != nil {
		return 0, err
	}
	layout, err := json.Marshal(in.layout())
	if err != nil {
		return 0, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if _, err := tx.SiteOf(in.SiteID); err != nil {
			return err
		}
		if in.Target != "" && !isAddress(in.Target) {
			if !st.IsFolder(in.Target) {
				return fault.At("target", "%q is neither an address such as https://place.example/stock.csv nor a folder such as /srv/out", in.Target)
			}
			if in.Target, err = st.NameFolder(tx, "target", in.Target); err != nil {
				return err
			}
		}
		row := store.LightFile{SiteID: in.SiteID, Version: 1}
		if id != 0 {
			if row, err = store.GetTx[store.LightFile](tx, id); err != nil {
				return err
			}
			shown, _, err := lightOf(&row)
			if err != nil {
				return err
			}
			if err := edit.Check(row.Version, row.Name, shown); err != nil {
				return err
			}
			row.Version++
			if row.SiteID != in.SiteID || row.Part != in.Part || row.Layout != string(layout) || !slices.Equal(row.Only, in.Only) {
				row.Last = nil // it says something else than before: all of it is new
			}
		}
		if taken, err := tx.LightFileNamed(in.Name); err != nil {
			return err
		} else if taken != 0 && taken != id {
			return fault.At("name", "there is a light file called %s already", in.Name)
		}
		row.SiteID, row.Name, row.Part, row.Only, row.Layout, row.Every, row.Target, row.Username = in.SiteID, in.Name, in.Part, in.Only, string(layout), in.Every, in.Target,
			in.Username
		if in.Password != "" {
			if row.Password, err = st.Store.Seal(in.Password); err != nil {
				return err
			}
		}
		row.DueAt, row.Error = nil, ""
		if in.Every > 0 {
			now := st.Now()
			row.DueAt = &now
		}
		if err := tx.Save(&row); err != nil {
			return err
		}
		id = row.ID
		tx.Changed("sendouts")
		return tx.Note(st.Now(), "light file kept", in.Name, in.Target)
	})
	return id, err
}

// MakeLight has a light file made and given now.
func (st *Stop) MakeLight(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := store.GetTx[store.LightFile](tx, id)
		if err != nil {
			return err
		}
		if row.Target == "" {
			return fault.New(fault.Conflict, "%s goes nowhere by itself; download it", row.Name)
		}
		return stops.First(stops.Stopped(tx), st.queueLight(tx, &row))
	})
}

// DropLight forgets a light file. What was given of it stays where it is.
func (st *Stop) DropLight(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := store.GetTx[store.LightFile](tx, id)
		if err != nil {
			return err
		}
		tx.Changed("sendouts")
		return stops.First(tx.DropLightFile(id), tx.Note(st.Now(), "light file dropped", row.Name, ""))
	})
}

// DownloadLight makes a light file for a person who takes it there. What it says
// counts as given.
func (st *Stop) DownloadLight(ctx context.Context, id int64) (string, []byte, error) {
	row, err := store.Get[store.LightFile](ctx, st.Store, id)
	if err != nil {
		return "", nil, err
	}
	f, last, err := lightOf(&row)
	if err != nil {
		return "", nil, err
	}
	made, err := st.make(ctx, &f, last)
	if err != nil {
		return "", nil, err
	}
	return row.Name, made.content, st.Store.Do(ctx, func(tx store.Tx) error { return tx.PutGiven(id, st.Now(), made.rows, made.given) })
}

func (st *Stop) lightOperations(api huma.API) {
	stops.Op(api, stops.Read("/price-stock-files", "list-price-stock-files", "sendouts", "Light files: price and stock of what is on sale, made by hand or on a schedule"),
		func(ctx context.Context, _ *stops.None) ([]LightFile, error) { return st.LightFiles(ctx) })
	stops.Op(api, stops.Post("/price-stock-files", "create-price-stock-file", actor.Settings, "Keep a new light file", "sendouts"),
		func(ctx context.Context, in *stops.Body[LightFile]) (stops.Made, error) {
			id, err := st.KeepLight(ctx, 0, stops.IfMatch{}, in.Body)
			return stops.Made{ID: id}, err
		})
	stops.Op(api, stops.Put("/price-stock-files/{id}", "update-price-stock-file", actor.Settings, "Change a light file", "sendouts"), func(ctx context.Context, in *struct {
		stops.ByID
		stops.IfMatch
		Body LightFile
	}) (stops.Made, error) {
		id, err := st.KeepLight(ctx, in.ID, in.IfMatch, in.Body)
		return stops.Made{ID: id}, err
	})
	stops.Op(api, stops.Post("/price-stock-files/{id}/deliver", "deliver-price-stock-file", actor.Send, "Make a light file and give it to where it goes now", "sendouts", "runs"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.MakeLight(ctx, in.ID))
		})
	stops.Op(api, stops.Delete("/price-stock-files/{id}", "delete-price-stock-file", actor.Settings, "Forget a light file", "sendouts"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.DropLight(ctx, in.ID))
		})
	for what, do := range map[string]func(context.Context, int64) (string, []byte, error){"content": st.DownloadLight, "schema": st.schemaOf} {
		op := stops.Read("/price-stock-files/{id}/content", "download-price-stock-file", "sendouts", "A light file, made now")
		if what == "schema" {
			op = stops.Read("/price-stock-files/{id}/schema", "get-price-stock-file-schema", "sendouts", "What the columns of a light file are, as a Table Schema")
		}
		stops.Download(api, op, func(ctx context.Context, in *stops.ByID) (stops.File, error) {
			name, content, err := do(ctx, in.ID)
			return stops.File{Name: name, Content: content}, err
		})
	}
}

func (st *Stop) schemaOf(ctx context.Context, id int64) (string, []byte, error) {
	row, err := store.Get[store.LightFile](ctx, st.Store, id)
	if err != nil {
		return "", nil, err
	}
	f, _, err := lightOf(&row)
	if err != nil {
		return "", nil, err
	}
	text, err := f.Schema()
	return row.Name + ".schema.json", text, err
}

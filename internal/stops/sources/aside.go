package sources

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"strings"

	"easymargin/core/supply"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/store"
)

// checkRows is how many rows a check looks at before it answers.
const checkRows = 50_000

// Checked is what taking a feed would come to, as far as its first rows tell.
type Checked struct {
	Look     feed.Look    `json:"look"`
	Missing  []string     `json:"missing" doc:"Needed fields that no column is read as"`
	Rows     int64        `json:"rows" doc:"Rows looked at"`
	Whole    bool         `json:"whole" doc:"Whether that is all of them"`
	Fine     int64        `json:"fine" doc:"Rows that would be taken"`
	Repeats  int64        `json:"repeats"`
	SetAside int64        `json:"set_aside"`
	Warnings int64        `json:"warnings"`
	Problems []CheckedRow `json:"problems" doc:"The first rows with something to say"`
}

// CheckedRow is one row of a check.
type CheckedRow struct {
	Row      int              `json:"row"`
	Ref      string           `json:"ref"`
	Title    string           `json:"title"`
	Problems []supply.Problem `json:"problems" doc:"Why it would be set aside"`
	Warnings []string         `json:"warnings"`
}

var errEnough = errors.New("enough")

// Check reads a feed that waits as if it were taken, under other columns or with another
// row for its header perhaps, and keeps nothing of it. headerRow 0 is the row that is
// found.
func (st *Stop) Check(ctx context.Context, feedID int64, sourceID *int64, columns map[string]string, headerRow int) (Checked, error) {
	f, err := store.Get[store.Feed](ctx, st.Store, feedID)
	if err != nil {
		return Checked{}, err
	}
	if f.File == "" {
		return Checked{}, fault.New(fault.Conflict, "this feed has no file any more to look at: it is %s", f.State)
	}
	if sourceID == nil {
		sourceID = f.SourceID
	}
	reading := feed.Settings{Now: st.Now(), Guess: true}
	if sourceID != nil {
		s, err := st.Store.SourceOf(ctx, *sourceID)
		if err != nil {
			return Checked{}, err
		}
		if reading, err = st.readingOf(ctx, &s, f.Name, f.PartOf); err != nil {
			return Checked{}, err
		}
	}
	if columns != nil {
		reading.Columns = columns
	}
	if reading.HeaderRow = headerRow; headerRow > 0 {
		st.opened.take(f.File) // what was recognised under another header is of no use
	}
	file, err := feed.Open(st.Store.Inbox(f.File), reading)
	if err != nil {
		return Checked{}, err
	}
	out := Checked{Look: file.Look(), Whole: true, Problems: []CheckedRow{}}
	if reading.Currency == "" {
		reading.Loose = true // a new source's currency isn't typed yet
	}
	if out.Missing = out.Look.Missing(); len(out.Missing) > 0 && !reading.Update {
		return out, nil
	}
	var warned []CheckedRow
	err = file.Read(reading, func(r *feed.Row) error {
		if out.Rows == checkRows {
			out.Whole = false
			return errEnough
		}
		out.Rows++
		out.Warnings += int64(len(r.Warnings))
		switch {
		case len(r.Problems) > 0:
			out.SetAside++
		case r.Repeat:
			out.Repeats++
		default:
			out.Fine++
		}
		row := CheckedRow{
			r.Number,
			r.Product.Ref,
			r.Product.Title,
			append([]supply.Problem{}, r.Problems...),
			append([]string{}, r.Warnings...),
		}
		switch {
		case len(r.Problems) > 0 && len(out.Problems) < 200:
			out.Problems = append(out.Problems, row)
		case len(r.Problems) == 0 && len(r.Warnings) > 0 && len(warned) < 100:
			warned = append(warned, row)
		}
		return ctx.Err()
	})
	out.Problems = append(out.Problems, warned...) // what would be lost stands first
	if err != nil && !errors.Is(err, errEnough) {
		return out, err
	}
	return out, nil
}

// Mend takes one row that was set aside, with its cells mended. A row that
// still can't be taken says why, and nothing is changed.
func (st *Stop) Mend(ctx context.Context, asideID int64, cells []string) (store.Run, error) {
	aside, err := store.Get[store.SetAside](ctx, st.Store, asideID)
	if err != nil {
		return store.Run{}, err
	}
	if aside.MendedBy != nil {
		return store.Run{}, fault.New(fault.Conflict, "row %d was mended already", aside.Row)
	}
	whole, err := store.Get[store.Feed](ctx, st.Store, aside.FeedID)
	if err != nil {
		return store.Run{}, err
	}
	if whole.State != store.FeedTaken {
		return store.Run{}, fault.New(fault.Conflict, "take the feed first; then its rows can be mended")
	}
	header, err := headerOf(&whole)
	if err != nil {
		return store.Run{}, err
	}
	if len(cells) != len(header) {
		return store.Run{}, fault.At("cells", "the row has %d cells, and this feed has %d columns", len(cells), len(header))
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.WriteAll([][]string{append(header, feed.WhyColumn), append(append([]string(nil), cells...), "mended")}); err != nil {
		return store.Run{}, err
	}
	f, err := st.BringIn(
		ctx,
		&b,
		Arriving{Name: fmt.Sprintf("row %d of %s, mended", aside.Row, whole.Name), PartOf: &whole.ID, MendsRow: aside.Row},
	)
	if err != nil {
		return store.Run{}, err
	}
	checked, err := st.Check(ctx, f.ID, nil, nil, 0)
	if err == nil && checked.SetAside > 0 {
		var words []string
		for _, p := range checked.Problems[0].Problems {
			words = append(words, strings.TrimSpace(p.Column+": "+p.Reason))
		}
		err = fault.At("cells", "still not: %s", strings.Join(words, "; "))
	}
	if err != nil {
		return store.Run{}, errors.Join(
			err,
			st.Store.Do(ctx, func(tx store.Tx) error { return tx.UpdateFeed(f.ID, map[string]any{"state": store.FeedDiscarded}) }),
		)
	}
	return st.Take(ctx, f.ID, *whole.SourceID, nil, false)
}

// AsideFile is the rows a feed set aside as CSV, with the reasons in a column
// of their own: mended, it can be brought in again as it is.
func (st *Stop) AsideFile(ctx context.Context, feedID int64, w *csv.Writer) error {
	f, err := store.Get[store.Feed](ctx, st.Store, feedID)
	if err != nil {
		return err
	}
	header, err := headerOf(&f)
	if err != nil {
		return err
	}
	inert := func(cells []string) []string {
		out := make([]string, len(header), len(header)+1)
		for i := range min(len(out), len(cells)) {
			out[i] = feed.Inert(cells[i])
		}
		return out
	}
	if err := w.Write(append(inert(header), feed.WhyColumn)); err != nil {
		return err
	}
	return st.Store.EachSetAside(ctx, feedID, func(s store.SetAside) error {
		if s.MendedBy != nil {
			return nil
		}
		var why []string
		for _, p := range s.Problems {
			why = append(why, strings.TrimSpace(p.Column+": "+p.Reason))
		}
		return w.Write(append(inert(s.Cells), feed.Inert(strings.Join(why, "; "))))
	})
}

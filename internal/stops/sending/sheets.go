package sending

import (
	"context"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// SheetFile is a filled sheet of a send-out, on its way to its place.
type SheetFile struct {
	ID         int64      `json:"id"`
	SendOut    int64      `json:"send_out"`
	Site       string     `json:"site"`
	SiteID     int64      `json:"site_id"`
	Name       string     `json:"name"`
	Category   string     `json:"category" doc:"Ref; empty: changes of price and stock"`
	Rows       int64      `json:"rows"`
	Size       int64      `json:"size" doc:"Bytes"`
	MadeAt     time.Time  `json:"made"`
	FetchedAt  *time.Time `json:"fetched" doc:"When somebody downloaded it first: it may be at its place since"`
	UploadedAt *time.Time `json:"uploaded"`
	UploadedBy string     `json:"uploaded_by"`
	Taken      int64      `json:"taken" doc:"Lines that the place is at"`
	Confirmed  int64      `json:"confirmed"`
	Refused    int64      `json:"refused"`
	Open       int64      `json:"open" doc:"Lines without a word"`
	Address    string     `json:"address" doc:"Of the place, where it has one"`
	Asked      []Asked    `json:"asked" doc:"What the place says of lines that it is at, the first few"`
	Stale      string     `json:"stale" doc:"Why it may not go any more; empty: it may"`
}

// Asked is what a place says of a line that it is at: a question, mostly.
type Asked struct {
	SKU   string `json:"sku"`
	Words string `json:"words"`
}

func sheetFile(r *store.SheetFileRow) SheetFile {
	return SheetFile{r.ID, r.SendOut, r.Site, r.SiteID, r.Name, r.Category, r.Rows, r.Size, r.MadeAt, r.FetchedAt, r.UploadedAt, r.UploadedBy, r.Taken, r.Confirmed, r.Refused, r.Open, "", []Asked{}, ""}
}

func (st *Stop) sheetFiles(ctx context.Context, rows []store.SheetFileRow, err error) ([]SheetFile, error) {
	out := []SheetFile{}
	if err != nil {
		return out, err
	}
	tx := st.Store.Reading(ctx)
	for i := range rows {
		f := sheetFile(&rows[i])
		site, err := tx.SiteOf(f.SiteID)
		if err != nil {
			return out, err
		}
		f.Address = site.Marketplace.Address
		asked, err := tx.AskedOf(f.ID)
		if err != nil {
			return out, err
		}
		for _, a := range asked {
			f.Asked = append(f.Asked, Asked{a.SKU, a.Words})
		}
		if f.Stale, err = st.stale(tx, site, &rows[i]); err != nil {
			return out, err
		}
		out = append(out, f)
	}
	return out, nil
}

// stale says why a filled sheet may not go to its place any more: a line of it is
// not what may be offered at this moment. "" where it may.
func (st *Stop) stale(tx store.Tx, site store.Site, f *store.SheetFileRow) (string, error) {
	if f.UploadedAt != nil {
		return "", nil
	}
	lines, err := tx.SheetLinesOut(f.ID)
	if err != nil || len(lines) == 0 {
		return "", err
	}
	n, first, err := st.forbids(tx, site, lines)
	if err != nil {
		return "", err
	}
	if n == 0 {
		return "", nil
	}
	return fmt.Sprintf("%s changed since it was made (%s); give the send-out up and make it anew", stops.Plural(n, "line of it", "lines of it"), first), nil
}

// MayGo refuses a filled sheet that may not go to its place any more: one of its
// lines is not what may be offered at this moment.
func (st *Stop) MayGo(ctx context.Context, id int64) error {
	tx := st.Store.Reading(ctx)
	rows, err := tx.SheetFileRow(id)
	if err != nil {
		return err
	}
	site, err := tx.SiteOf(rows.SiteID)
	if err != nil {
		return err
	}
	why, err := st.stale(tx, site, &rows)
	if err == nil && why != "" {
		err = fault.New(fault.Conflict, "%s", why)
	}
	return err
}

// Fetch hands a filled sheet to a person who takes it to its place, and notes it.
// One that may not go any more is refused.
func (st *Stop) Fetch(ctx context.Context, id int64) (store.SheetFile, error) {
	if err := st.MayGo(ctx, id); err != nil {
		return store.SheetFile{}, err
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("sendouts")
		return tx.MarkFetched(id, st.Now())
	}); err != nil {
		return store.SheetFile{}, err
	}
	return st.Store.SheetFileContent(ctx, id)
}

// Uploaded notes that a person took a filled sheet to its place.
func (st *Stop) Uploaded(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.SheetFile](tx, id)
		if err != nil {
			return err
		}
		if f.UploadedAt != nil {
			return nil
		}
		site, err := tx.SiteOf(f.SiteID)
		if err != nil {
			return err
		}
		tx.Changed("sendouts", "counts")
		return stops.First(tx.MarkUploaded(id, st.Now(), actor.Of(ctx)), tx.Note(st.Now(), "sheet uploaded", site.Name, f.Name))
	})
}

// NotUploaded notes that a sheet that was downloaded went nowhere: its send-out can
// be given up as one that nobody handed over.
func (st *Stop) NotUploaded(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.SheetFile](tx, id)
		if err != nil {
			return err
		}
		if f.UploadedAt != nil {
			return fault.New(fault.Conflict, "%s is uploaded already", f.Name)
		}
		tx.Changed("sendouts")
		return stops.First(tx.MarkNotUploaded(id), tx.Note(st.Now(), "sheet not uploaded", f.Name, ""))
	})
}

// sheetOperations are those about filled sheets and what places say of them.
func (st *Stop) sheetOperations(api huma.API) {
	st.contentOperations(api)
	stops.Op(api, stops.Read("/sheets", "list-sheets", "sendouts", "Filled sheets that wait: to be uploaded at their place, or for its report"),
		func(ctx context.Context, _ *stops.None) ([]SheetFile, error) {
			rows, err := st.Store.OpenSheetFiles(ctx)
			return st.sheetFiles(ctx, rows, err)
		})
	stops.Op(api, stops.Read("/submissions/{id}/sheets", "list-submission-sheets", "sendouts", "The filled sheets of a send-out"),
		func(ctx context.Context, in *stops.ByID) ([]SheetFile, error) {
			rows, err := st.Store.SheetFilesOf(ctx, in.ID)
			return st.sheetFiles(ctx, rows, err)
		})
	stops.Op(api, stops.Post("/sheets/{id}/mark-uploaded", "mark-sheet-uploaded", actor.Send, "Note that a filled sheet was uploaded at its place", "sendouts", "counts"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.Uploaded(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/sheets/{id}/mark-not-uploaded", "mark-sheet-not-uploaded", actor.Send, "Note that a filled sheet was downloaded and not uploaded anywhere", "sendouts"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.NotUploaded(ctx, in.ID))
		})
	stops.Op(api, stops.Post("/sheets/{id}/mark-accepted", "mark-sheet-accepted", actor.Send, "Note that a place took all of a filled sheet, where it gives no report", "sendouts", "listings", "runs", "counts"),
		func(ctx context.Context, in *stops.ByID) (stops.Done, error) {
			return stops.Said(st.AllTaken(ctx, in.ID))
		})
	stops.Upload(api, stops.Post("/sites/{id}/sheet-reports/inspect", "inspect-sheet-report", actor.Prepare, "What is recognised of a place's report of filled sheets: the body is its file. Nothing of it is read in", "sendouts"), mostReport, st.LookReport)
	stops.Op(api, stops.Post("/sites/{id}/sheet-reports", "take-sheet-report", actor.Send, "Read in what a place's report says of filled sheets", "sendouts", "listings", "runs", "counts"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body ReportChoice
		}) (ReportTaken, error) {
			return st.TakeReport(ctx, in.ID, in.Body)
		})
}

// AllTaken notes that a place took all of a filled sheet, where it gives no report:
// its lines are there, as a person says who saw it.
func (st *Stop) AllTaken(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		f, err := store.GetTx[store.SheetFile](tx, id)
		if err != nil {
			return err
		}
		site, err := tx.SiteOf(f.SiteID)
		if err != nil {
			return err
		}
		open, err := tx.OpenSheetLines(f.SiteID)
		if err != nil {
			return err
		}
		var said []store.SheetLine
		for _, l := range open {
			if *l.FileID == id {
				l.Said, l.Words, l.Field = store.SheetConfirmed, "", ""
				said = append(said, l)
			}
		}
		tx.Changed("sendouts", "listings", "counts")
		return stops.First(tx.PutSheetWords(said), tx.MarkUploaded(id, st.Now(), actor.Of(ctx)), st.queueFollow(tx, site.Marketplace),
			tx.Note(st.Now(), "sheet taken", site.Name, f.Name))
	})
}

func (st *Stop) contentOperations(api huma.API) {
	stops.Download(api, stops.Read("/sheets/{id}/content", "download-sheet", "sendouts", "A filled sheet as its place takes it; refused where a line of it may not be offered so any more"),
		func(ctx context.Context, in *stops.ByID) (stops.File, error) {
			f, err := st.Fetch(ctx, in.ID)
			return stops.File{Name: f.Name, Content: f.Content}, err
		})
}

// noSuchReport is said where a report that was looked at is gone.
func noSuchReport(name string) error {
	return fault.New(fault.Conflict, "the report %s is no longer here; bring it in again", fmt.Sprintf("%.20s", name))
}

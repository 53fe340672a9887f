package sending

import (
	"archive/zip"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/url"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Task is something that a person does at a place that has neither a gateway nor
// a sheet: each of its fields is copied into the place's form.
type Task struct {
	Key       string      `json:"key"`
	Site      string      `json:"site"`
	SKU       string      `json:"sku"`
	ListingID int64       `json:"listing_id"`
	Title     string      `json:"title"`
	Kind      string      `json:"kind" enum:"take off,change,new"`
	Fields    []TaskField `json:"fields" doc:"In the order in which the place's form is filled in"`
	Pictures  int         `json:"pictures" doc:"In its zip, numbered"`
	Page      string      `json:"page" doc:"Where it stands there; empty: nobody said"`
	Since     *time.Time  `json:"since"`
	Overdue   bool        `json:"overdue" doc:"It waits longer than it may: what is on sale there may be something that can't be had"`
	Stale     string      `json:"stale" doc:"Why it may not be done so any more; empty: it may"`
}

// TaskField is one field to copy.
type TaskField struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Tasks are those that wait, the most urgent first.
func (st *Stop) Tasks(ctx context.Context) ([]Task, error) {
	rows, err := st.Store.Tasks(ctx, "")
	out := []Task{}
	for i := range rows {
		t, err := st.task(ctx, &rows[i])
		if err != nil {
			return out, err
		}
		out = append(out, t)
	}
	return out, err
}

func (st *Stop) task(ctx context.Context, r *store.TaskRow) (Task, error) {
	var l place.Line
	if err := json.Unmarshal([]byte(r.Task), &l); err != nil {
		return Task{}, fmt.Errorf("the task of %s: %w", r.SKU, err)
	}
	t := Task{Key: r.Key, Site: r.Site, SKU: r.SKU, ListingID: r.ListingID, Title: r.Title, Kind: "change", Page: r.Page, Since: r.At,
		Overdue: r.OverdueAt != nil && st.Now().After(*r.OverdueAt), Fields: taskFields(&l, money.Currency(r.Currency))}
	switch {
	case l.Do == place.DoCreate:
		t.Kind = "new"
	case l.Price == nil && l.Quantity != nil && *l.Quantity == 0:
		t.Kind = "take off"
	}
	if l.Content != nil {
		t.Pictures = len(l.Content.Pictures)
	}
	var err error
	t.Stale, err = st.forbidden(st.Store.Reading(ctx), r)
	return t, err
}

// forbidden says why a task may not be done as it was made; "" where it may.
func (st *Stop) forbidden(tx store.Tx, r *store.TaskRow) (string, error) {
	site, err := tx.SiteOf(r.SiteID)
	if err != nil {
		return "", err
	}
	lines, err := tx.Outgoing(r.SendOut)
	if err != nil {
		return "", err
	}
	lines = slices.DeleteFunc(lines, func(l store.OutgoingLine) bool { return l.ID != r.LineID })
	_, why, err := st.forbids(tx, site, lines)
	return why, err
}

// forbids counts those of some lines that may not be offered so at this moment,
// and says why the first may not.
func (st *Stop) forbids(tx store.Tx, site store.Site, lines []store.OutgoingLine) (n int64, first string, err error) {
	figures, book, err := st.figures(tx, site, lines)
	if err != nil {
		return 0, "", err
	}
	for i := range lines {
		l := &lines[i]
		why := "its product has no supplier any more"
		if f := figures[l.ListingID]; f != nil {
			why = book.Forbids(f, &l.SendLine)
		}
		if why == "" {
			continue
		}
		if n++; first == "" {
			first = l.SKU + ": " + why
		}
	}
	return n, first, nil
}

// taskFields are the fields of a line that say something, as a form asks for them.
func taskFields(l *place.Line, c money.Currency) []TaskField {
	out := []TaskField{}
	put := func(name, value string) {
		if value != "" {
			out = append(out, TaskField{name, value})
		}
	}
	x := l.Content
	if x != nil {
		put("Title", x.Title)
	}
	if l.Price != nil {
		put("Price", money.Of(*l.Price, c).String())
	}
	if l.Quantity != nil {
		put("Quantity", fmt.Sprint(*l.Quantity))
	}
	if x == nil {
		return out
	}
	put("Description", x.Description)
	put("Brand", x.Brand)
	put("Barcode", x.Number)
	put("Category", x.Category)
	for _, ref := range slices.Sorted(maps.Keys(x.Attributes)) {
		name := strings.ReplaceAll(ref, "_", " ")
		put(strings.ToUpper(name[:1])+name[1:], x.Attributes[ref])
	}
	put("Search words", strings.Join(x.Words, ", "))
	put("List price", x.ListPrice)
	if t := x.Terms; t != nil {
		put("Dispatch from", t.From)
		if t.Collection {
			put("Collection", "yes")
		}
		if t.Offers {
			put("Offers", strings.TrimSpace("welcome "+map[bool]string{true: "from " + t.LowestOffer}[t.LowestOffer != ""]))
		}
		put("Warranty", t.Warranty)
	}
	for _, field := range l.Cleared {
		out = append(out, TaskField{strings.TrimPrefix(field, "attributes."), "take it away"})
	}
	return out
}

// TaskDone is what a person says of a task.
type TaskDone struct {
	Key    string `json:"key" maxLength:"100"`
	Page   string `json:"page,omitempty" maxLength:"2000" doc:"Where the listing stands there now"`
	Failed string `json:"failed,omitempty" maxLength:"1000" doc:"The place doesn't take it, and why; left out: it is done"`
}

// Done notes that a person did a task at its place, or that the place didn't take it.
func (st *Stop) Done(ctx context.Context, in TaskDone) error {
	rows, err := st.Store.Tasks(ctx, in.Key)
	if err != nil {
		return err
	}
	if len(rows) == 0 {
		return fault.New(fault.Conflict, "this task is done or taken back already")
	}
	r := rows[0]
	if in.Page = strings.TrimSpace(in.Page); in.Page != "" {
		u, err := url.Parse(in.Page)
		if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" {
			return fault.At("page", "%q is no address of a page, such as https://…", in.Page)
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(r.SiteID)
		if err != nil {
			return err
		}
		x := r.SheetLine
		if x.Said = store.SheetConfirmed; in.Failed != "" {
			x.Said, x.Words = store.SheetRefused, in.Failed
		}
		if in.Page != "" {
			if err := tx.PutPage(r.ListingID, in.Page); err != nil {
				return err
			}
		}
		tx.Changed("sendouts", "listings", "counts")
		return stops.First(tx.PutSheetWords([]store.SheetLine{x}), st.queueFollow(tx, site.Marketplace), tx.Note(st.Now(), "done by hand", x.SKU, cmp.Or(in.Failed, in.Page)))
	})
}

// deskOperations are those of the hand desk.
func (st *Stop) deskOperations(api huma.API) {
	stops.Op(api, stops.Read("/tasks", "list-tasks", "sendouts", "What is to be done by hand at places that have neither a gateway nor a sheet; the most urgent first"),
		func(ctx context.Context, _ *stops.None) ([]Task, error) { return st.Tasks(ctx) })
	stops.Op(api, stops.Post("/tasks/complete", "complete-task", actor.Send, "Note that a task was done by hand, or that the place didn't take it", "sendouts", "listings", "runs", "counts"),
		func(ctx context.Context, in *stops.Body[TaskDone]) (stops.Done, error) {
			return stops.Said(st.Done(ctx, in.Body))
		})
	stops.Download(api, stops.Read("/tasks/{key}/pictures.zip", "download-task-pictures", "sendouts", "The pictures of a task, numbered in their order").File("application/zip"),
		func(ctx context.Context, in *struct {
			Key string `path:"key"`
		}) (stops.File, error) {
			return st.taskPictures(ctx, in.Key)
		})
}

// taskPictures is a zip of a task's pictures: 01-SKU.jpg, 02-SKU.png.
func (st *Stop) taskPictures(ctx context.Context, key string) (stops.File, error) {
	rows, err := st.Store.Tasks(ctx, key)
	if err == nil && len(rows) == 0 {
		err = store.ErrMissing
	}
	if err != nil {
		return stops.File{}, err
	}
	var l place.Line
	if err := json.Unmarshal([]byte(rows[0].Task), &l); err != nil {
		return stops.File{}, err
	}
	return stops.File{Name: l.SKU + "-pictures.zip", Type: "application/zip", Write: func(w io.Writer) error { return st.zipPictures(ctx, w, &l) }}, nil
}

func (st *Stop) zipPictures(ctx context.Context, w io.Writer, l *place.Line) error {
	z := zip.NewWriter(w)
	if l.Content != nil {
		tx := st.Store.Reading(ctx)
		for i, named := range l.Content.Pictures {
			p, err := tx.PictureNamed(named)
			if err != nil {
				return err
			}
			raw, err := os.ReadFile(st.Store.PictureFile(p.Digest, false))
			if err != nil {
				return err
			}
			file, err := z.Create(fmt.Sprintf("%02d-%s.%s", i+1, strings.ReplaceAll(l.SKU, "/", "-"), strings.Replace(p.Kind, "jpeg", "jpg", 1)))
			if err != nil {
				return err
			}
			if _, err := file.Write(raw); err != nil {
				return err
			}
		}
	}
	return z.Close()
}

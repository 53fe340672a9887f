package people

import (
	"context"
	"time"

	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// AuditAsked says which part of who did what is wanted.
type AuditAsked struct {
	Who   string `query:"who" doc:"Only what this one did"`
	Words string `query:"words" maxLength:"200" doc:"In what was done, with what, or how"`
	From  string `query:"from" doc:"From this day on, YYYY-MM-DD"`
	To    string `query:"to" doc:"Up to this day"`
}

func (a AuditAsked) part() (store.AuditPart, error) {
	from, err := day("from", a.From, 0)
	if err != nil {
		return store.AuditPart{}, err
	}
	to, err := day("to", a.To, 1)
	return store.AuditPart{Actor: a.Who, Words: a.Words, From: from, To: to}, err
}

// day is a day's beginning, or that of so many after; the zero time for none.
func day(field, text string, after int) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return t, fault.At(field, "%q is no day such as 2026-03-03", text)
	}
	return t.AddDate(0, 0, after), nil
}

// Deed is something that somebody did.
type Deed struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	What    string    `json:"what"`
	Subject string    `json:"subject"`
	Detail  string    `json:"detail"`
}

func deedOf(a store.Audit) Deed { return Deed{a.ID, a.At, a.Actor, a.What, a.Subject, a.Detail} }

// Deeds are who did what, the last first.
func (st *Stop) Deeds(ctx context.Context, a AuditAsked, p stops.Paged) (stops.List[Deed], error) {
	part, err := a.part()
	if err != nil {
		return stops.List[Deed]{}, err
	}
	l, err := st.Store.Audits(ctx, part, p.Page())
	return stops.Shown(l, err, deedOf)
}

// mostDeeds is how many rows a file of who did what has at most.
const mostDeeds = 100_000

var deedColumns = blank.Columns{{Header: "when", From: "at"}, {Header: "who", From: "who"}, {Header: "what was done", From: "what"},
	{Header: "with what", From: "subject"}, {Header: "how", From: "detail"}}

// DeedFile is who did what as a file, csv or xlsx, the last first; times are UTC.
func (st *Stop) DeedFile(ctx context.Context, a AuditAsked, kind string) ([]byte, error) {
	part, err := a.part()
	if err != nil {
		return nil, err
	}
	var rows blank.List
	for p := (store.Page{Limit: 500}); ; {
		l, err := st.Store.Audits(ctx, part, p)
		if err != nil {
			return nil, err
		}
		for _, d := range l.Rows {
			rows = append(rows, blank.Row{"at": d.At.UTC().Format("2006-01-02 15:04:05"), "who": d.Actor, "what": d.What, "subject": d.Subject, "detail": d.Detail})
		}
		if p.Cursor = l.Next; p.Cursor == "" {
			return stops.Table(kind, deedColumns, rows)
		}
		if len(rows) >= mostDeeds {
			return nil, fault.At("from", "there are more than %d rows: choose fewer days or one person", mostDeeds)
		}
	}
}

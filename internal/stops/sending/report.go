package sending

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"easymargin/internal/actor"
	"easymargin/internal/blank"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Report is what is recognised of a report that a place gives of filled sheets.
type Report struct {
	Token   string         `json:"token" doc:"Names it when it is read in"`
	Name    string         `json:"name"`
	Rows    int            `json:"rows"`
	Columns []ReportColumn `json:"columns"`
	States  []ReportState  `json:"states" doc:"The place's words for what became of a line"`
	Missing []string       `json:"missing" doc:"What is needed and no column is read as"`
	Known   int            `json:"known" doc:"Rows that are of lines which the place hasn't answered"`
}

// ReportColumn is a column of a report.
type ReportColumn struct {
	Name    string   `json:"name"`
	As      string   `json:"as" enum:",SKU,key,row,state,field,words"`
	Samples []string `json:"samples"`

	at int // its place in a record
}

// ReportState is a word of a place for what became of a line.
type ReportState struct {
	Word  string `json:"word"`
	Means string `json:"means" enum:"taken,confirmed,refused"`
	Rows  int    `json:"rows"`
}

// ReportChoice is how a report is read in.
type ReportChoice struct {
	Token   string            `json:"token" maxLength:"40"`
	Columns map[string]string `json:"columns" doc:"Column → what it is read as"`
	States  map[string]string `json:"states" doc:"The place's word → taken, confirmed, refused"`
}

// ReportTaken is what a report said.
type ReportTaken struct {
	Confirmed int      `json:"confirmed"`
	Refused   int      `json:"refused"`
	Taken     int      `json:"taken" doc:"That the place is still at"`
	Strange   []string `json:"strange" doc:"SKUs that no open line has, the first few"`
}

// reportWords are the names that columns of a report are known by.
var reportWords = map[string][]string{
	"SKU":   {"sku", "seller sku", "your sku", "your reference", "reference", "item", "article", "stock code", "custom label"},
	"key":   {"key", "line key"},
	"row":   {"row", "line", "row number", "line number", "row no", "line no"},
	"state": {"state", "status", "result", "outcome", "decision", "verdict"},
	"field": {"field", "column", "attribute", "concerns"},
	"words": {"message", "words", "reason", "error", "errors", "comment", "note", "remark", "remarks", "question", "details", "explanation"},
}

// reportOrder is the order in which columns are guessed.
var reportOrder = []string{"SKU", "key", "row", "state", "field", "words"}

var (
	saysYes = regexp.MustCompile(`(?i)\b(ok|accepted|approved|listed|live|active|published|success|successful|done|created|updated|yes|online)\b`)
	saysNo  = regexp.MustCompile(`(?i)\b(refused|rejected|error|failed|failure|invalid|declined|denied|no|not)\b`)
)

// meaningOf guesses what a place's word for a state means.
func meaningOf(word string) string {
	switch {
	case saysNo.MatchString(word):
		return store.SheetRefused
	case saysYes.MatchString(word):
		return store.SheetConfirmed
	}
	return store.SheetTaken
}

// mostReport is the most bytes that a report may have.
const mostReport = blank.MaxFile

// LookReport keeps a report in the inbox and says what is recognised of it. It is
// read as one of the site was before, else by its names.
func (st *Stop) LookReport(ctx context.Context, siteID int64, name string, raw []byte) (Report, error) {
	tx := st.Store.Reading(ctx)
	if _, err := tx.SiteOf(siteID); err != nil {
		return Report{}, err
	}
	records, err := stops.RecordsOf(name, raw, wants)
	if err != nil {
		return Report{}, err
	}
	form, err := tx.ReportFormOf(siteID)
	if err != nil {
		return Report{}, err
	}
	var choice ReportChoice
	if err := errors.Join(json.Unmarshal([]byte(form.Columns), &choice.Columns), json.Unmarshal([]byte(form.States), &choice.States)); err != nil {
		return Report{}, err
	}
	out := lookAt(records, &choice)
	out.Name, out.Token = stops.Clip(name, 300), rand.Text()
	open, err := tx.OpenSheetLines(siteID)
	if err != nil {
		return out, err
	}
	by := openLinesBy(open)
	for _, rec := range records[1:] {
		if by.find(rec, out.place()) != nil {
			out.Known++
		}
	}
	return out, os.WriteFile(st.Store.Inbox(out.Token), raw, 0o600)
}

// wants is what a report of filled sheets has.
const wants = "a report names at least a SKU and a state"

// lookAt says what columns and states are, as chosen before, else as guessed.
func lookAt(records [][]string, before *ReportChoice) Report {
	out := Report{Columns: []ReportColumn{}, States: []ReportState{}, Missing: []string{}, Rows: len(records) - 1}
	columns, taken := stops.GuessColumns(records, before.Columns, reportOrder, reportWords)
	for _, c := range columns {
		out.Columns = append(out.Columns, ReportColumn{c.Name, c.As, c.Samples, c.At})
	}
	if !taken["SKU"] && !taken["key"] && !taken["row"] {
		out.Missing = append(out.Missing, "SKU")
	}
	if !taken["state"] {
		out.Missing = append(out.Missing, "state")
		return out
	}
	at := out.place()["state"]
	for _, rec := range records[1:] {
		word := cell(rec, at)
		if word == "" {
			continue
		}
		i := slices.IndexFunc(out.States, func(s ReportState) bool { return s.Word == word })
		if i < 0 {
			i = len(out.States)
			out.States = append(out.States, ReportState{Word: word, Means: cmp.Or(before.States[word], meaningOf(word))})
		}
		out.States[i].Rows++
	}
	return out
}

// place says where each thing stands in a record.
func (r *Report) place() map[string]int {
	out := map[string]int{}
	for _, c := range r.Columns {
		if c.As != "" {
			out[c.As] = c.at
		}
	}
	return out
}

func cell(rec []string, at int) string {
	if at >= len(rec) {
		return ""
	}
	return strings.TrimSpace(rec[at])
}

// openBy finds open lines of filled sheets by what a report names them by.
type openBy struct {
	key map[string]*store.SheetLine
	sku map[string]*store.SheetLine // the newest
	row map[int64]*store.SheetLine  // of the newest file
	in  map[inRow][]*store.SheetLine
}

// inRow is a row of a file: a price and a quantity of one SKU are one.
type inRow struct{ file, row int64 }

func openLinesBy(list []store.SheetLine) openBy {
	by := openBy{map[string]*store.SheetLine{}, map[string]*store.SheetLine{}, map[int64]*store.SheetLine{}, map[inRow][]*store.SheetLine{}}
	for i := range list {
		l := &list[i]
		by.key[l.Key] = l
		at := inRow{*l.FileID, l.Row}
		by.in[at] = append(by.in[at], l)
		if by.sku[l.SKU] == nil {
			by.sku[l.SKU] = l
		}
		if *l.FileID == *list[0].FileID {
			by.row[l.Row] = l
		}
	}
	return by
}

func (b *openBy) find(rec []string, at map[string]int) *store.SheetLine {
	if i, ok := at["key"]; ok {
		if l := b.key[cell(rec, i)]; l != nil {
			return l
		}
	}
	if i, ok := at["SKU"]; ok {
		return b.sku[cell(rec, i)]
	}
	if i, ok := at["row"]; ok {
		n, err := strconv.ParseInt(cell(rec, i), 10, 64)
		if err == nil {
			return b.row[n]
		}
	}
	return nil
}

// TakeReport writes down what a report says of each line, and remembers how its
// columns were read. Sheets whose lines it names were uploaded, whoever said so.
func (st *Stop) TakeReport(ctx context.Context, siteID int64, choice ReportChoice) (ReportTaken, error) {
	out := ReportTaken{Strange: []string{}}
	if !regexp.MustCompile(`^[A-Z2-7]{10,40}$`).MatchString(choice.Token) {
		return out, noSuchReport(choice.Token)
	}
	raw, err := os.ReadFile(st.Store.Inbox(choice.Token))
	if err != nil {
		return out, noSuchReport(choice.Token)
	}
	records, err := stops.RecordsOf("the report", raw, wants)
	if err != nil {
		return out, err
	}
	look := lookAt(records, &choice)
	if len(look.Missing) > 0 {
		return out, fault.At("columns", "no column is read as %s; choose one", strings.Join(look.Missing, " or "))
	}
	means := map[string]string{}
	for _, s := range look.States {
		means[s.Word] = s.Means
	}
	columns, errA := json.Marshal(choice.Columns)
	states, errB := json.Marshal(choice.States)
	if err := errors.Join(errA, errB); err != nil {
		return out, err
	}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		out = ReportTaken{Strange: []string{}}
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		open, err := tx.OpenSheetLines(siteID)
		if err != nil {
			return err
		}
		fields, err := stops.BlankFields(tx, siteID)
		if err != nil {
			return err
		}
		by, at := openLinesBy(open), look.place()
		var said []store.SheetLine
		files := map[int64]bool{}
		for _, rec := range records[1:] {
			word := cell(rec, at["state"])
			if word == "" {
				continue
			}
			l := by.find(rec, at)
			if l == nil {
				if len(out.Strange) < 10 {
					out.Strange = append(out.Strange, stops.Clip(cell(rec, at["SKU"]), 60))
				}
				continue
			}
			for _, l := range by.in[inRow{*l.FileID, l.Row}] {
				l.Said, l.Words, l.Field = means[word], "", ""
				if i, ok := at["words"]; ok {
					l.Words = stops.Clip(cell(rec, i), 1000)
				}
				if i, ok := at["field"]; ok {
					name := cell(rec, i)
					l.Field = stops.Clip(cmp.Or(fields[strings.ToLower(name)].From, name), 100)
				}
				switch l.Said {
				case store.SheetConfirmed:
					out.Confirmed++
				case store.SheetRefused:
					l.Words = cmp.Or(l.Words, word)
					out.Refused++
				default:
					out.Taken++
				}
				files[*l.FileID] = true
				said = append(said, *l)
			}
		}
		if err := tx.PutSheetWords(said); err != nil {
			return err
		}
		for id := range files {
			if err := tx.MarkUploaded(id, st.Now(), actor.Of(ctx)); err != nil {
				return err
			}
		}
		tx.Changed("sendouts", "listings", "counts")
		return stops.First(tx.PutReportForm(store.ReportForm{SiteID: siteID, Columns: string(columns), States: string(states)}),
			st.queueFollow(tx, site.Marketplace), tx.Note(st.Now(), "report read", site.Name, stops.Plural(int64(len(said)), "line", "lines")))
	})
	if err == nil {
		_ = os.Remove(st.Store.Inbox(choice.Token))
	}
	return out, err
}

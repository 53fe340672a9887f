package stops

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Body is what a request or an answer carries.
type Body[T any] struct{ Body T }

// None is a question without any particulars.
type None struct{}

// ByID names one thing.
type ByID struct {
	ID int64 `path:"id"`
}

// Paged asks for one part of a list.
type Paged struct {
	Limit  int    `query:"limit" default:"100" minimum:"1" maximum:"500"`
	Cursor string `query:"cursor" doc:"Where the last part ended"`
	Sort   string `query:"sort"`
	Desc   bool   `query:"desc"`
}

// Page is what the store is asked for.
func (p Paged) Page() store.Page {
	return store.Page{Limit: p.Limit, Cursor: p.Cursor, Sort: p.Sort, Desc: p.Desc}
}

// List is one part of a list, how many rows it has in all, and where the next
// part begins ("" at the end).
type List[T any] struct {
	Rows  []T    `json:"rows"`
	Total int64  `json:"total"`
	More  bool   `json:"more,omitempty" doc:"There are more than total: they are not counted any further"`
	Next  string `json:"next"`
}

// Shown is a list of the store's as the API shows it.
func Shown[A, B any](l store.List[A], err error, show func(A) B) (List[B], error) {
	out := List[B]{Rows: make([]B, 0, len(l.Rows)), Total: l.Total, More: l.More, Next: l.Next}
	for _, r := range l.Rows {
		out.Rows = append(out.Rows, show(r))
	}
	return out, err
}

// Lists are never null here: every answer makes them, if only empty. What is wrong with
// a request is said without what was in it: that may be a password, and is known to who
// sent it. The first thing that is wrong stands in the detail, where people read.
func init() {
	huma.DefaultArrayNullable = false
	plain := huma.NewError
	huma.NewError = func(status int, words string, errs ...error) huma.StatusError {
		for _, err := range errs {
			var d *huma.ErrorDetail
			if errors.As(err, &d) && d.Location != "current" {
				d.Value = nil
			}
			if d != nil && d.Message == tooShort+"1" {
				d.Message = "write something here"
			}
			if d != nil && words == "validation failed" {
				words = "This can't be read: " + d.Location + ": " + d.Message
			}
		}
		return plain(status, words, errs...)
	}
}

// Done is the answer of a write that has nothing more to say.
type Done struct {
	OK bool `json:"ok"`
}

// Said is the answer of a write that went well or not.
func Said(err error) (Done, error) { return Done{err == nil}, err }

// Made is the answer of a write that made something.
type Made struct {
	ID int64 `json:"id"`
}

// Counted is the answer of a write that took so many.
type Counted struct {
	Count int `json:"count"`
}

// Run is work in the background as the API shows it.
type Run struct {
	ID      int64      `json:"id"`
	Kind    string     `json:"kind"`
	Title   string     `json:"title"`
	Subject int64      `json:"subject" doc:"What the run works on: a feed, a send-out"`
	State   string     `json:"state" enum:"queued,running,done,failed,stopped,set aside"`
	Done    int64      `json:"done"`
	Total   int64      `json:"total" doc:"0 while it isn't known"`
	Note    string     `json:"note" doc:"What came of it, in a sentence"`
	Error   string     `json:"error"`
	Actor   string     `json:"actor" doc:"Who began it"`
	Created time.Time  `json:"created"`
	Started *time.Time `json:"started"`
	Ended   *time.Time `json:"ended"`
}

// RunOf is a run as the API shows it.
func RunOf(r store.Run) Run {
	return Run{r.ID, r.Kind, r.Title, r.Subject, r.State, r.Done, r.Total, r.Note, r.Error, r.Actor, r.CreatedAt, r.StartedAt, r.EndedAt}
}

// Event is something that open screens want to know: a run moved, or lists of
// some topics changed.
type Event struct {
	Run    *Run     `json:"run,omitempty"`
	Topics []string `json:"topics,omitempty"`
}

var statuses = map[fault.Kind]int{
	fault.Invalid:     http.StatusUnprocessableEntity,
	fault.Missing:     http.StatusNotFound,
	fault.Conflict:    http.StatusConflict,
	fault.Stale:       http.StatusPreconditionFailed,
	fault.Held:        http.StatusConflict,
	fault.Unavailable: http.StatusBadGateway,
	fault.Full:        http.StatusInsufficientStorage,
	fault.Forbidden:   http.StatusForbidden,
	fault.TooLarge:    http.StatusRequestEntityTooLarge,
}

// StatusOf is the status and the words of an error. Our own mistakes are
// logged, and people are told only that it was one.
func StatusOf(err error) (int, string) {
	if errors.Is(err, context.Canceled) {
		return 499, "the request was given up"
	}
	status, ok := statuses[fault.KindOf(err)]
	if !ok {
		slog.Error("request failed", "error", err)
		return http.StatusInternalServerError, "this went wrong for a reason of our own making; nothing was changed. The log has more."
	}
	return status, fault.Words(err)
}

// ProblemOf is an error as huma answers it: problem+json, RFC 9457. One that
// somebody else's change is the reason for carries the thing as it is now.
func ProblemOf(err error) error {
	status, words := StatusOf(err)
	var e *fault.Error
	switch {
	case errors.As(err, &e) && e.Current != nil:
		return huma.NewError(status, words, &huma.ErrorDetail{Location: "current", Message: words, Value: e.Current})
	case errors.As(err, &e) && e.Field != "":
		details := []error{&huma.ErrorDetail{Location: "body." + e.Field, Message: e.Words}}
		for _, x := range e.Others {
			details = append(details, &huma.ErrorDetail{Location: "body." + x.Field, Message: x.Words})
		}
		return huma.NewError(status, words, details...)
	}
	return huma.NewError(status, words)
}

// Problem answers an error outside of an operation.
func Problem(w http.ResponseWriter, err error) {
	status, words := StatusOf(err)
	Refuse(w, status, words)
}

// Refuse answers with a status and a sentence, as problem+json.
func Refuse(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(huma.ErrorModel{Title: http.StatusText(status), Status: status, Detail: detail})
}

// IfMatch is the version that somebody edited, RFC 9110 section 13.1.1; without
// it, or with *, whatever is there is written over.
type IfMatch struct {
	IfMatch string `header:"If-Match" doc:"The version that was edited: the thing's version in quotes"`
}

// Check refuses an edit of what somebody else has changed since: current is
// what is there now, as the API shows it.
func (m IfMatch) Check(version int64, what string, current any) error {
	text := strings.TrimSpace(m.IfMatch)
	if text == "" || text == "*" || strings.Trim(strings.TrimPrefix(text, "W/"), `"`) == strconv.FormatInt(version, 10) {
		return nil
	}
	return &fault.Error{
		Kind:    fault.Stale,
		Words:   what + " was changed by somebody else since you opened it; yours was not kept. Look at both and choose",
		Current: current,
	}
}

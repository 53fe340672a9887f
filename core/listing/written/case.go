// Package written reads cases of docs/definitions/listing.md, section 2, a JSON object
// each, and writes their answers. What can't be read is an error that names the
// field.
package written

import (
	"encoding/json"
	"errors"
	"sync"

	"easymargin/core/form"
	"easymargin/core/listing"
	"easymargin/core/money"
)

// Case is one listing with what its category asks for, read.
type Case struct {
	ID       string          `json:"id"`
	Needs    json.RawMessage `json:"needs"`
	Entry    bool            `json:"entry"` // whether a catalogue entry was found
	Currency money.Currency  `json:"currency"`
	Values   listing.Values  `json:"values"`
}

// ReadCase reads one JSON object. The ID is filled in wherever it could be read.
func ReadCase(text []byte) (c Case, err error) {
	if err := form.Into("", text, &c); err != nil {
		var whose struct{ ID any }
		if json.Unmarshal(text, &whose) == nil { // so that the error says whose it is
			c.ID, _ = whose.ID.(string)
		}
		return c, err
	}
	if c.ID == "" {
		return c, errors.New("id: is missing")
	}
	return c, nil
}

// ReadNeeds reads what a category asks for, and makes it ready.
func ReadNeeds(text []byte, c money.Currency) (*listing.Checker, error) {
	var n listing.Needs
	if len(text) > 0 {
		if err := form.Into("needs", text, &n); err != nil {
			return nil, err
		}
	}
	return n.Ready(c)
}

// Reader answers cases, and remembers what was asked for last: many listings are
// of one category. It is for many goroutines; the zero value is ready.
type Reader struct {
	mu    sync.RWMutex
	known map[asked]*listing.Checker
}

type asked struct {
	needs    string
	currency money.Currency
}

// mostKnown is how many categories are remembered at once.
const mostKnown = 64

func (r *Reader) checker(needs []byte, c money.Currency) (*listing.Checker, error) {
	key := asked{string(needs), c}
	r.mu.RLock()
	k, ok := r.known[key]
	r.mu.RUnlock()
	if ok {
		return k, nil
	}
	k, err := ReadNeeds(needs, c)
	if err != nil {
		return nil, err
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.known == nil || len(r.known) >= mostKnown {
		r.known = map[asked]*listing.Checker{}
	}
	r.known[key] = k
	return k, nil
}

// AnswerLineOf answers one case, as a line of JSON.
func (r *Reader) AnswerLineOf(text []byte) []byte {
	c, err := ReadCase(text)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	checker, err := r.checker(c.Needs, c.Currency)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	report, err := checker.Check(&c.Values, c.Entry)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	return form.Line(struct {
		ID string `json:"id"`
		listing.Report
	}{c.ID, report})
}

// Package written reads cases of design/listing.md, section 2, a JSON object
// each, and writes their answers. What can't be read is an error that names the
// field.
package written

import (
	"encoding/json"
	"errors"

	"easymargin/core/form"
	"easymargin/core/listing"
	"easymargin/core/money"
)

// Case is one listing with what its category asks for, read.
type Case struct {
	ID       string         `json:"id"`
	Needs    listing.Needs  `json:"needs"`
	Entry    bool           `json:"entry"` // whether a catalogue entry was found
	Currency money.Currency `json:"currency"`
	Values   listing.Values `json:"values"`
}

// ReadCase reads one JSON object. The ID is filled in wherever it could be read.
func ReadCase(text []byte) (c Case, err error) {
	if o, err := form.Object("", text); err == nil { // so that an error further on says whose it is
		_ = json.Unmarshal(o.Values["id"], &c.ID)
	}
	if err := form.Into("", text, &c); err != nil {
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
	if err := form.Into("needs", text, &n); err != nil {
		return nil, err
	}
	return n.Ready(c)
}

// AnswerLineOf answers one case, as a line of JSON.
func AnswerLineOf(text []byte) []byte {
	c, err := ReadCase(text)
	if err != nil {
		return form.Refusal(c.ID, err)
	}
	checker, err := c.Needs.Ready(c.Currency)
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

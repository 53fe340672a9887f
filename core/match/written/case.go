// Package written reads matching cases written as JSON, a case a line, and
// writes their answers: docs/definitions/matching.md, "In and out".
package written

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"easymargin/core/match"
	"easymargin/core/money"
)

// Case is one case, read.
type Case struct {
	ID      json.RawMessage // as it was written
	Product match.Product
	Entries []match.Entry
}

// thing is what both sides may have. Amounts are in major units; weight and
// lengths are the parcel's and are never compared, so only their kind is checked.
type thing struct {
	Title       text  `json:"title"`
	Brand       text  `json:"brand"`
	MPN         text  `json:"mpn"`
	Category    text  `json:"category"`
	Units       count `json:"units"`
	Colour      text  `json:"colour"`
	Size        text  `json:"size"`
	Material    text  `json:"material"`
	Condition   text  `json:"condition"`
	Description text  `json:"description"`
	Currency    text  `json:"currency"`
}

type product struct {
	thing
	GTIN text   `json:"gtin"`
	Cost amount `json:"cost"`
}

type entry struct {
	thing
	Ref        text   `json:"ref"`
	GTINs      texts  `json:"gtins"`
	Lowest     amount `json:"lowest"`
	Copyable   *bool  `json:"copyable"`
	NeedsLeave *bool  `json:"needs_leave"`
}

// text is a JSON text; null is "", and a number is taken as it stands.
type text string

func (t *text) UnmarshalJSON(b []byte) error {
	switch {
	case bytes.Equal(b, []byte("null")):
		return nil
	case len(b) > 0 && b[0] == '"':
		var s string
		err := json.Unmarshal(b, &s)
		*t = text(s)
		return err
	case len(b) > 0 && (b[0] == '-' || b[0] >= '0' && b[0] <= '9'):
		*t = text(b)
		return nil
	}
	return errors.New("must be a text")
}

// texts is a list of texts, or null.
type texts []text

func (t *texts) UnmarshalJSON(b []byte) error {
	var list []text
	if err := json.Unmarshal(b, &list); err != nil {
		return errors.New("must be a list of texts")
	}
	*t = list
	return nil
}

// count is a whole number of at least 0; null and "" are 0, not said.
type count int64

func (c *count) UnmarshalJSON(b []byte) error {
	s := strings.Trim(string(b), `"`)
	if s == "null" || s == "" {
		return nil
	}
	var n int64
	if err := json.Unmarshal([]byte(strings.TrimSuffix(s, ".0")), &n); err != nil || n < 0 || n > 1_000_000 {
		return errors.New("must be a whole number from 0 to 1000000")
	}
	*c = count(n)
	return nil
}

// amount is an amount in major units, as a number or a text.
type amount string

func (a *amount) UnmarshalJSON(b []byte) error {
	s := strings.Trim(string(b), `"`)
	if s == "null" {
		return nil
	}
	*a = amount(s)
	return nil
}

// minor is the amount in minor units, rounded down: it is a hint. A currency
// that isn't said is taken to have two decimals.
func (a amount) minor(currency string) (int64, error) {
	if a == "" {
		return 0, nil
	}
	c := money.Currency(strings.ToUpper(currency))
	if !c.Valid() {
		c = "GBP"
	}
	whole, decimals, _ := strings.Cut(string(a), ".")
	if places, _ := c.Digits(); len(decimals) > places {
		decimals = decimals[:places]
	}
	if decimals != "" {
		whole += "." + decimals
	}
	m, err := money.Parse(whole, c)
	if err != nil {
		return 0, fmt.Errorf("%q is not an amount in major units", string(a))
	}
	return m.Minor, nil
}

// ReadCase reads one JSON object. The error names the field; the ID is filled
// in wherever it could be read.
func ReadCase(line []byte) (Case, error) {
	var c Case
	var top struct {
		ID      json.RawMessage `json:"id"`
		Product json.RawMessage `json:"product"`
		Entries json.RawMessage `json:"entries"`
	}
	if err := json.Unmarshal(line, &top); err != nil {
		return c, errors.New("case: must be a JSON object with id, product and entries")
	}
	c.ID = top.ID
	if len(top.Product) == 0 || top.Product[0] != '{' {
		return c, errors.New("product: must be an object")
	}
	var p product
	if err := fields("product", top.Product, &p); err != nil {
		return c, err
	}
	if strings.TrimSpace(string(p.Title)) == "" {
		return c, errors.New("product.title: is needed")
	}
	var err error
	if c.Product, err = p.product(); err != nil {
		return c, err
	}
	var list []json.RawMessage
	if len(top.Entries) > 0 {
		if err := json.Unmarshal(top.Entries, &list); err != nil {
			return c, errors.New("entries: must be a list of objects")
		}
	}
	seen := map[text]bool{}
	for i, raw := range list {
		name := fmt.Sprintf("entries[%d]", i)
		if len(raw) == 0 || raw[0] != '{' {
			return c, fmt.Errorf("%s: must be an object", name)
		}
		var e entry
		if err := fields(name, raw, &e); err != nil {
			return c, err
		}
		switch {
		case e.Ref == "":
			return c, fmt.Errorf("%s.ref: is needed", name)
		case seen[e.Ref]:
			return c, fmt.Errorf("%s.ref: %q is there twice", name, string(e.Ref))
		case strings.TrimSpace(string(e.Title)) == "":
			return c, fmt.Errorf("%s.title: is needed", name)
		}
		seen[e.Ref] = true
		m, err := e.entry(name)
		if err != nil {
			return c, err
		}
		c.Entries = append(c.Entries, m)
	}
	return c, nil
}

// fields reads an object into a value field by field, so that an error can name
// the field. Fields that are not known are left alone.
func fields(name string, raw json.RawMessage, into any) error {
	if err := json.Unmarshal(raw, into); err == nil {
		return nil
	}
	var all map[string]json.RawMessage
	if err := json.Unmarshal(raw, &all); err != nil {
		return fmt.Errorf("%s: must be an object", name)
	}
	for key, value := range all {
		one, err := json.Marshal(map[string]json.RawMessage{key: value})
		if err != nil {
			return fmt.Errorf("%s.%s: %w", name, key, err)
		}
		if err := json.Unmarshal(one, into); err != nil {
			return fmt.Errorf("%s.%s: %s", name, key, plain(err))
		}
	}
	return fmt.Errorf("%s: can't be read", name)
}

func plain(err error) string {
	var wrong *json.UnmarshalTypeError
	if errors.As(err, &wrong) {
		return "must not be a " + wrong.Value
	}
	return err.Error()
}

func (t *thing) thing() match.Thing {
	return match.Thing{
		Title: string(t.Title), Brand: string(t.Brand), MPN: string(t.MPN), Category: string(t.Category),
		Colour: string(t.Colour), Size: string(t.Size), Material: string(t.Material), Condition: string(t.Condition),
		Description: string(t.Description), Units: int64(t.Units), Currency: string(t.Currency),
	}
}

func (p *product) product() (match.Product, error) {
	out := match.Product{Thing: p.thing.thing(), GTIN: string(p.GTIN)}
	var err error
	if out.Price, err = p.Cost.minor(out.Currency); err != nil {
		return out, fmt.Errorf("product.cost: %w", err)
	}
	return out, nil
}

func (e *entry) entry(name string) (match.Entry, error) {
	out := match.Entry{Thing: e.thing.thing(), Ref: string(e.Ref),
		Closed: e.Copyable != nil && !*e.Copyable, ByLeave: e.NeedsLeave != nil && *e.NeedsLeave}
	for _, g := range e.GTINs {
		out.GTINs = append(out.GTINs, string(g))
	}
	var err error
	if out.Price, err = e.Lowest.minor(out.Currency); err != nil {
		return out, fmt.Errorf("%s.lowest: %w", name, err)
	}
	return out, nil
}

// Answer is what is said of a case.
type Answer struct {
	ID         json.RawMessage `json:"id"`
	Verdict    match.Verdict   `json:"verdict"`
	Ref        *string         `json:"ref"`
	Bought     *int64          `json:"units_bought"`
	Listed     *int64          `json:"units_listed"`
	Candidates []Candidate     `json:"candidates"`
}

// Candidate is an entry worth a look, the likeliest ranked 1.
type Candidate struct {
	Ref     string   `json:"ref"`
	Rank    int      `json:"rank"`
	For     []string `json:"for"`
	Against []string `json:"against"`
}

// Written is an answer in its written form.
func Written(id json.RawMessage, a match.Answer) Answer {
	out := Answer{ID: orNull(id), Verdict: a.Verdict, Candidates: []Candidate{}}
	if a.Ref != "" {
		out.Ref = &a.Ref
	}
	if a.Bought > 0 {
		out.Bought = &a.Bought
	}
	if a.Listed > 0 {
		out.Listed = &a.Listed
	}
	for i, c := range a.Candidates {
		out.Candidates = append(out.Candidates, Candidate{c.Ref, i + 1, c.For, c.Against})
	}
	return out
}

func orNull(id json.RawMessage) json.RawMessage {
	if len(id) == 0 {
		return json.RawMessage("null")
	}
	return id
}

// AnswerLineOf answers one line; one that can't be read is answered with its
// error.
func AnswerLineOf(line []byte) []byte {
	c, err := ReadCase(line)
	if err != nil {
		text, _ := json.Marshal(struct {
			ID    json.RawMessage `json:"id"`
			Error string          `json:"error"`
		}{orNull(c.ID), err.Error()})
		return text
	}
	text, err := json.Marshal(Written(c.ID, match.Weigh(&c.Product, c.Entries)))
	if err != nil {
		return []byte(`{"id":null,"error":"id: can't be written"}`)
	}
	return text
}

package preparing

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"strings"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// OurWord is our word for one of a place's allowed values, learnt from what
// somebody chose.
type OurWord struct {
	Category  string    `json:"category" doc:"Ref"`
	Path      string    `json:"path"`
	Attribute string    `json:"attribute"`
	Ours      string    `json:"ours"`
	Theirs    string    `json:"theirs"`
	By        string    `json:"by"`
	At        time.Time `json:"at"`
}

// Words are our words for a site's values.
func (st *Stop) Words(ctx context.Context, siteID int64) ([]OurWord, error) {
	tx := st.Store.Reading(ctx)
	found, err := tx.ValueWords(siteID)
	if err != nil {
		return nil, err
	}
	cats, err := tx.CategoriesOf(siteID)
	if err != nil {
		return nil, err
	}
	path := map[string]string{}
	for _, c := range paths(cats) {
		path[c.Ref] = c.Path
	}
	out := []OurWord{}
	for _, w := range found {
		out = append(out, OurWord{w.Category, path[w.Category], w.Attribute, w.Ours, w.Theirs, w.Actor, w.At})
	}
	return out, nil
}

// Forget takes back one of our words: what had its value by it has the
// supplier's again.
func (st *Stop) Forget(ctx context.Context, siteID int64, category, attribute, ours string) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		known, err := tx.ValueWords(siteID)
		if err != nil {
			return err
		}
		w := store.ValueWord{SiteID: siteID, Category: category, Attribute: attribute, Ours: reckon.Folded(ours)}
		there := false
		for _, x := range known {
			there = there || x.Category == w.Category && x.Attribute == w.Attribute && x.Ours == w.Ours
		}
		if !there {
			return fault.New(fault.Missing, "there is no word %q for %s", ours, strings.ReplaceAll(attribute, "_", " "))
		}
		tx.Changed("prepare", "listings", "counts")
		return stops.First(tx.Unlearn(st.Now(), w), tx.Note(st.Now(), "word forgotten", ours, attribute))
	})
}

// wordsFile is our words as CSV. No cell is a formula.
func (st *Stop) wordsFile(ctx context.Context, siteID int64) (stops.File, error) {
	words, err := st.Words(ctx, siteID)
	rows := [][]string{{"category", "attribute", "ours", "theirs"}}
	for _, x := range words {
		rows = append(rows, []string{feed.Inert(x.Category), feed.Inert(x.Attribute), feed.Inert(x.Ours), feed.Inert(x.Theirs)})
	}
	return stops.File{Name: fmt.Sprintf("words-%d.csv", siteID), Write: func(w io.Writer) error { return csv.NewWriter(w).WriteAll(rows) }}, err
}

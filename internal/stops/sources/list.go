package sources

import (
	"bytes"
	"context"
	"encoding/csv"
	"strings"
	"unicode"

	"easymargin/core/ident"
	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// kindList is the kind of a source of pasted lists.
const kindList = "list"

// maxListed is the most lines that a pasted list has.
const maxListed = 10_000

// NumberList is a pasted list: each line a product's number, what it costs, and
// words if there are any, parted by tabs, semicolons, commas or blanks.
type NumberList struct {
	Supplier string `json:"supplier" minLength:"1" maxLength:"120" doc:"Whose offer it is"`
	Currency string `json:"currency" minLength:"3" maxLength:"3"`
	Text     string `json:"text" maxLength:"1000000"`
}

// TakenList is what came of a list.
type TakenList struct {
	SourceID int64 `json:"source_id"`
	FeedID   int64 `json:"feed_id"`
	Rows     int64 `json:"rows"`
	SetAside int64 `json:"set_aside" doc:"Lines that couldn't be read; they stand by the feed, to be mended"`
}

// TakeList takes a pasted list as a feed of the supplier's lists, which are an
// update: what an earlier one told stays. What can't be read is set aside, as
// of any feed.
func (st *Stop) TakeList(ctx context.Context, in NumberList) (TakenList, error) {
	supplier := strings.TrimSpace(in.Supplier)
	if supplier == "" {
		return TakenList{}, fault.At("supplier", "say whose offer it is")
	}
	rows := listRows(in.Text)
	switch {
	case len(rows) == 0:
		return TakenList{}, fault.At("text", "paste lines with a product's number and its cost, such as: 9520001424021 4.20")
	case len(rows) > maxListed:
		return TakenList{}, fault.At("text", "a pasted list has at most %d lines; bring a longer one in as a file under Sources", maxListed)
	}
	name := supplier + ", lists"
	s, there, err := st.Store.SourceNamed(ctx, name)
	if err == nil && !there {
		s, err = st.make(ctx, NewSource{Supplier: supplier, Name: name, Currency: in.Currency, Mode: "update"}, kindList)
	}
	if err != nil {
		return TakenList{}, err
	}
	if s.Currency != strings.ToUpper(in.Currency) {
		return TakenList{}, fault.At("currency", "the lists of %s are in %s", supplier, s.Currency)
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.WriteAll(append([][]string{{"ref", "ean", "cost", "title"}}, rows...)); err != nil {
		return TakenList{}, err
	}
	f, err := st.BringIn(ctx, &b, Arriving{Name: "pasted list", SourceID: &s.ID})
	if err != nil {
		return TakenList{}, err
	}
	if f.State == store.FeedLooked {
		if _, err := st.takeInto(ctx, &f, &s, true); err != nil {
			return TakenList{}, err
		}
	}
	return TakenList{s.ID, f.ID, f.Rows, f.SetAside}, nil
}

// listRows are a list's lines as ref, number, cost and title. What isn't a line
// of it, such as a heading without a figure, is left out.
func listRows(text string) [][]string {
	var out [][]string
	for line := range strings.Lines(text) {
		parts := listParts(strings.TrimSpace(line))
		if len(parts) == 0 || !strings.ContainsFunc(parts[0]+strings.Join(parts[1:], ""), unicode.IsDigit) {
			continue
		}
		number, cost, words := parts[0], "", ""
		if len(parts) > 1 {
			cost, words = parts[1], strings.Join(parts[2:], " ")
		}
		if !ident.Read(number).Found() && ident.Read(cost).Found() { // the other way round
			number, cost = cost, number
		}
		if words != "" && strings.Trim(words, "0123456789., ") == "" { // a second figure: which one is the cost?
			cost, words = cost+" or "+words, ""
		}
		if words == "" {
			words = "Number " + number
		}
		out = append(out, []string{number, number, cost, words})
	}
	return out
}

// listParts parts a line by the first of the usual marks that it has; blanks
// part its number and its cost from the words.
func listParts(line string) []string {
	for _, mark := range []string{"\t", ";"} {
		if strings.Contains(line, mark) {
			return trimmed(strings.Split(line, mark))
		}
	}
	if number, rest, ok := strings.Cut(line, ","); ok && ident.Read(number).Found() {
		cost, words, _ := strings.Cut(strings.TrimSpace(rest), ",")
		return trimmed([]string{number, cost, words})
	}
	f := strings.Fields(line)
	if len(f) > 2 {
		f = append(f[:2:2], strings.Join(f[2:], " "))
	}
	return f
}

func trimmed(parts []string) []string {
	for i := range parts {
		parts[i] = strings.TrimSpace(parts[i])
	}
	return parts
}

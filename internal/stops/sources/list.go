package sources

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"slices"
	"strings"
	"unicode"

	"easymargin/core/ident"
	"easymargin/internal/fault"
	"easymargin/internal/feed"
	"easymargin/internal/stops"
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

// TakenList is what came of a list. Every line of it was taken, but for those that
// Lines says otherwise of.
type TakenList struct {
	SourceID int64        `json:"source_id"`
	FeedID   int64        `json:"feed_id"`
	Rows     int64        `json:"rows"`
	SetAside int64        `json:"set_aside" doc:"Lines that couldn't be read; they stand by the feed, to be mended"`
	Names    []string     `json:"names" doc:"What the columns are read as, where the first line names them; empty where it doesn't"`
	Lines    []ListedLine `json:"lines" doc:"The lines that were not taken, or that can't be looked up by their number, each with why"`
}

// ListedLine is a line of a pasted list of which something must be said.
type ListedLine struct {
	Line  int    `json:"line" doc:"From 1"`
	Text  string `json:"text" doc:"As it was pasted, clipped"`
	Taken bool   `json:"taken"`
	Why   string `json:"why"`
}

// TakeList takes a pasted list as a feed of the supplier's lists, which are an
// update: what an earlier one told stays. What can't be read is set aside, as
// of any feed.
func (st *Stop) TakeList(ctx context.Context, in NumberList) (TakenList, error) {
	supplier := strings.TrimSpace(in.Supplier)
	if supplier == "" {
		return TakenList{}, fault.At("supplier", "say whose offer it is")
	}
	read := readList(in.Text)
	rows := read.rows
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
	out := TakenList{SourceID: s.ID, FeedID: f.ID, Rows: f.Rows, SetAside: f.SetAside, Names: read.names, Lines: read.said}
	err = st.Store.EachSetAside(ctx, f.ID, func(a store.SetAside) error {
		if at := a.Row - 2; at >= 0 && at < len(read.lines) {
			l := read.lines[at]
			why := []string{}
			for _, p := range a.Problems {
				why = append(why, p.Reason)
			}
			out.Lines = slices.DeleteFunc(out.Lines, func(x ListedLine) bool { return x.Line == l.Line })
			out.Lines = append(out.Lines, ListedLine{l.Line, l.Text, false, strings.Join(why, "; ")})
		}
		return nil
	})
	slices.SortStableFunc(out.Lines, func(a, b ListedLine) int { return cmp.Compare(a.Line, b.Line) })
	return out, err
}

// listed is a pasted list as it was read.
type listed struct {
	names []string     // what its columns are, where its first line says so
	rows  [][]string   // ref, number, cost and title
	lines []ListedLine // that the rows are from
	said  []ListedLine // what must be said of lines
}

// readList reads a list's lines as ref, number, cost and title. What isn't a line of it,
// such as a heading, is left out, and that is said.
func readList(text string) listed {
	out := listed{names: []string{}, said: []ListedLine{}} // lists of the answer are never null
	n, first := 0, true
	for line := range strings.Lines(text) {
		n++
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		at := ListedLine{Line: n, Text: stops.Clip(line, 120)}
		parts := listParts(line)
		if first {
			first = false
			if strings.ContainsAny(line, "\t;,") { // blanks part words too
				out.names = append(out.names, listNames(parts)...)
			}
			if len(out.names) > 0 {
				continue
			}
		}
		if !strings.ContainsFunc(strings.Join(parts, ""), unicode.IsDigit) {
			at.Why = "neither a number nor a cost stands in it"
			out.said = append(out.said, at)
			continue
		}
		row := listRow(parts)
		if len(out.names) > 0 {
			row = namedRow(out.names, parts)
		}
		if why := unread(row[1]); why != "" {
			at.Taken, at.Why = true, why
			out.said = append(out.said, at)
		}
		out.rows, out.lines = append(out.rows, row), append(out.lines, at)
	}
	return out
}

// unread says why a line can't be looked up by its number; "" where it can.
func unread(number string) string {
	n := ident.Read(number)
	switch {
	case n.Found():
		return ""
	case n.Message() == "":
		return "no number stands in it: it is looked up by its words"
	}
	return "the number " + stops.Clip(number, 40) + ": " + n.Message()
}

// listNames are what the columns of a list are, where its first line names a number or a
// cost and holds no figure.
func listNames(parts []string) []string {
	if strings.ContainsFunc(strings.Join(parts, ""), unicode.IsDigit) {
		return nil
	}
	names := feed.Names(parts)
	if slices.Contains(names, "identifier") && slices.Contains(names, "cost") {
		return names
	}
	return nil
}

// namedRow is a line whose columns are named.
func namedRow(names, parts []string) []string {
	field := func(name string) string {
		if at := slices.Index(names, name); at >= 0 && at < len(parts) {
			return parts[at]
		}
		return ""
	}
	number := field("identifier")
	ref := cmp.Or(field("ref"), number)
	return []string{ref, number, field("cost"), cmp.Or(field("title"), "Number "+number)}
}

// listRow is a line whose columns nobody has named: a number, a cost and words.
func listRow(parts []string) []string {
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
	return []string{number, number, cost, cmp.Or(words, "Number "+number)}
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

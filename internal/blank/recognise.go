package blank

import (
	"encoding/xml"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"easymargin/internal/feed"
)

// Sheet is what is recognised of a sheet of a blank. Rows count from 1.
type Sheet struct {
	Name      *string  `json:"sheet" doc:"None: a text, which has no sheets"`
	HeaderRow int      `json:"header_row"`
	FirstRow  int      `json:"first_row" doc:"The first below the header that holds no marks"`
	Columns   []Column `json:"columns"`

	from int // place of the sheet in its workbook
}

// Column is a column of a blank.
type Column struct {
	Header  string   `json:"header"`
	Needed  *bool    `json:"needed" doc:"None: the blank marks no column"`
	Values  []string `json:"values" doc:"Of its drop-down; none: any"`
	Guess   *string  `json:"guess" doc:"What of a listing it is, such as title or attributes.colour"`
	Example string   `json:"example" doc:"What stands in its first row"`

	at   int // its place in the sheet, from 0
	most int
}

// deepest is how far down a header is looked for.
const deepest = 60

// near is how many rows above and below a header marks are looked for.
const near = 3

// grid are the rows of a sheet or of a text.
type grid func(row, col int) string

// Sheets are those of a blank that have a header, in their order.
func (b *Blank) Sheets() ([]Sheet, error) {
	out := []Sheet{}
	if b.book == nil {
		if s, ok := b.recogniseText(0); ok {
			out = append(out, s)
		}
		return out, nil
	}
	for i, file := range b.book.files {
		if b.book.parts[file] == nil {
			continue
		}
		s, err := b.book.sheet(file)
		if err != nil {
			if strings.Contains(file, "chartsheet") || strings.Contains(file, "dialogsheet") {
				continue
			}
			return nil, err
		}
		found, ok, err := b.book.recognise(s, i, 0)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, found)
		}
	}
	return out, nil
}

// recogniseText is a text's only sheet, with its header in a row; 0: looked for.
func (b *Blank) recogniseText(header int) (Sheet, bool) {
	width := 0
	for _, rec := range b.table[:min(len(b.table), max(deepest, header))] {
		width = max(width, len(rec))
	}
	at := func(row, col int) string {
		if row < 1 || row > len(b.table) || col >= len(b.table[row-1]) {
			return ""
		}
		return b.table[row-1][col]
	}
	return recognise(at, at, header, len(b.table), width, nil)
}

// recognise is a sheet of the workbook, with its header in a row; 0: looked for.
func (b *book) recognise(s *sheet, place, header int) (Sheet, bool, error) {
	at, rows, width := s.grid(header)
	over := func(row, col int) string { // a merged cell's mark is of all columns it lies over
		for _, a := range s.merged {
			if a.holds(col, row) {
				return at(a.row, a.col)
			}
		}
		return at(row, col)
	}
	comments, err := b.comments(place)
	if err != nil {
		return Sheet{}, false, err
	}
	guides, err := b.guides(place)
	if err != nil {
		return Sheet{}, false, err
	}
	noted := func(c Column, header int) mark {
		m := markOf(comments[columnName(c.at)+strconv.Itoa(header)], anything)
		if m == none {
			m = guides[plainHeader(Bare(c.Header))]
		}
		return m
	}
	out, ok := recognise(at, over, header, rows, width, noted)
	if !ok {
		return out, false, nil
	}
	out.Name, out.from = &b.names[place], place
	for i := range out.Columns {
		c := &out.Columns[i]
		k := b.column(s, place, c.at, out.FirstRow)
		c.Values, c.most = k.values, k.most
	}
	return out, true, nil
}

// grid is a sheet's cells, and how many rows and columns a header may be in.
func (s *sheet) grid(header int) (at grid, rows, width int) {
	by := map[int]*line{}
	for i := range s.lines {
		l := &s.lines[i]
		if l.n > max(deepest, header)+near+20 {
			break
		}
		by[l.n] = l
		rows = max(rows, l.n)
		if len(l.cells) > 0 {
			width = max(width, l.cells[len(l.cells)-1].col+1)
		}
	}
	return func(row, col int) string {
		if l := by[row]; l != nil {
			return l.text(col)
		}
		return ""
	}, rows, width
}

// recognise finds the header, where it isn't given, the marks near it and the first row of a grid.
// over is at, but for merged cells; noted gives the mark that a comment or a guide has for a column.
func recognise(at, over grid, header, rows, width int, noted func(c Column, header int) mark) (Sheet, bool) {
	best := 0
	for row := 1; row <= min(rows, deepest) && (header == 0 || best > 0); row++ {
		if score := headerScore(at, row, width); score > best {
			header, best = row, score
		}
	}
	if header == 0 {
		return Sheet{}, false
	}
	out := Sheet{HeaderRow: header, Columns: []Column{}}
	taken := map[string]int{}
	marked := false
	marks := make([]mark, 0, width)
	for col := range width {
		text := at(header, col)
		if strings.TrimSpace(text) == "" {
			continue
		}
		c := Column{Header: text, at: col}
		c.Guess = guess(Bare(text), taken)
		m := headerMark(text)
		for d := 1; d <= near && m == none; d++ {
			if m = markOf(over(header-d, col), little); m == none {
				m = markOf(over(header+d, col), alone)
			}
		}
		if m == none && noted != nil {
			m = noted(c, header)
		}
		marked = marked || m != none
		marks = append(marks, m)
		out.Columns = append(out.Columns, c)
	}
	out.FirstRow = header + 1
	for holdsMarks(at, out.FirstRow, width) && out.FirstRow < header+near+1 {
		out.FirstRow++
	}
	for i := range out.Columns {
		c := &out.Columns[i]
		c.Example = at(out.FirstRow, c.at)
		if marked {
			needed := marks[i] == yes
			c.Needed = &needed
		}
	}
	return out, true
}

func holdsMarks(at grid, row, width int) bool {
	for col := range width {
		if markOf(at(row, col), alone) != none {
			return true
		}
	}
	return false
}

// headerScore tells how much a row looks like a header: how many of its cells
// are short, different texts, and how many of those are known names.
func headerScore(at grid, row, width int) int {
	seen, known := map[string]bool{}, 0
	for col := range width {
		text := strings.TrimSpace(at(row, col))
		switch {
		case text == "":
			continue
		case markOf(text, alone) != none && text != "*":
			return 0 // a row of marks, or of a guide
		case len(text) > 80, !strings.ContainsFunc(text, unicode.IsLetter), strings.Contains(text, "://"):
			continue
		}
		key := plainHeader(Bare(text))
		if !seen[key] && feed.Known(Bare(text)) != "" {
			known++
		}
		seen[key] = true
	}
	if len(seen) < 2 {
		return 0
	}
	return 3*known + len(seen)
}

// mark is what is said of whether a column is needed.
type mark int

const (
	none mark = iota
	yes
	no
)

var (
	neededWord   = regexp.MustCompile(`(?i)(?:^|[^\pL])(required|mandatory|needed|obligatory|compulsory|pflicht(?:feld|angabe)?|erforderlich|obligatoire|requise?|verplicht|obbligatori[oa]|obligatori[oa]|påkrevd|obligatorisk|wymagane|必須)(?:$|[^\pL])`)
	unneededWord = regexp.MustCompile(`(?i)(?:^|[^\pL])((?:not|non|nicht|no|niet|ikke)[\s-]+(?:required|mandatory|needed|obligatory|compulsory|erforderlich|verplicht|obligatoire|requise?|obligatorio|obbligatorio|påkrevd)|unneeded|optional|optionnel(?:le)?|freiwillig|facultati(?:f|ve)|facoltativ[oa]|opcional|optioneel|valgfri|任意)(?:$|[^\pL])`)
	conditional  = regexp.MustCompile(`(?i)(?:^|[^\pL])(conditional(?:ly)?|recommended|preferred)(?:$|[^\pL])`)
)

// company is how much else may stand beside a mark.
type company int

const (
	alone    company = iota // nothing but words such as "field"
	little                  // a word or two
	anything                // as in a comment
)

// filler are words that say nothing beside a mark.
var filler = regexp.MustCompile(`(?i)[\pL]+`)

var fillers = []string{"field", "fields", "column", "value", "always", "is", "this", "must", "be", "for", "all", "every", "line", "row", "listing", "yes", "no", "feld", "champ"}

// markOf is what a text says of whether a column is needed, where it has no more
// company than it may.
func markOf(text string, with company) mark {
	text = strings.TrimSpace(text)
	if text == "" {
		return none
	}
	if strings.Trim(text, "*() ") == "" && strings.Contains(text, "*") {
		return yes
	}
	if with != anything && (len(strings.Fields(text)) > 4 || len([]rune(text)) > 40) {
		return none
	}
	found, word := none, ""
	for _, k := range []struct {
		words *regexp.Regexp
		mark  mark
	}{{unneededWord, no}, {conditional, no}, {neededWord, yes}} {
		if word = k.words.FindString(text); word != "" && !(k.words == conditional && with == anything) {
			found = k.mark
			break
		}
	}
	if found == none || with != alone {
		return found
	}
	rest := strings.Replace(text, word, " ", 1)
	for _, w := range filler.FindAllString(rest, -1) {
		if !slices.Contains(fillers, strings.ToLower(w)) {
			return none
		}
	}
	return found
}

// bracketed is a word behind or before a name, set off from it: "Title (required)",
// "Title – optional", "Title\nrequired".
var bracketed = regexp.MustCompile(`(?s)[(\[{]\s*([^()\[\]{}]*?)\s*[)\]}]|\s[-–—:|/]\s*([^-–—:|/]+)$|:\s*([^:]+)$|[\r\n]+\s*([^\r\n]+)`)

// headerMark is what a header's own text says: a star at its beginning or end, or
// a word set off from the name.
func headerMark(text string) mark {
	t := strings.TrimSpace(text)
	if strings.HasPrefix(t, "*") || strings.HasSuffix(t, "*") || strings.HasSuffix(t, "(*)") {
		return yes
	}
	for _, m := range bracketed.FindAllStringSubmatch(t, -1) {
		for _, part := range m[1:] {
			if k := markOf(part, alone); k != none {
				return k
			}
		}
	}
	return none
}

// Bare is a header without its mark.
func Bare(text string) string {
	t := bracketed.ReplaceAllStringFunc(strings.TrimSpace(text), func(s string) string {
		for _, part := range bracketed.FindStringSubmatch(s)[1:] {
			if markOf(part, alone) != none {
				return ""
			}
		}
		return s
	})
	return strings.TrimSpace(strings.Trim(t, "* "))
}

// plainHeader is how headers are compared: without white space and case.
func plainHeader(s string) string {
	return strings.ToLower(strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) || r == '\u200b' || r == '\ufeff' {
			return -1
		}
		return r
	}, s))
}

// values are the fields of docs/definitions/listing.md, section 2, by those of a feed.
var values = map[string]string{
	"ref": "sku", "identifier": "number", "cost": "price", "title": "title", "description": "description", "brand": "brand", "list_price": "list_price",
	"category": "category", "stock": "quantity", "weight": "package.weight", "length": "package.length", "width": "package.width", "height": "package.height",
	"colour": "attributes.colour", "size": "attributes.size", "material": "attributes.material", "origin": "attributes.origin",
	"commodity_code": "attributes.commodity_code", "condition": "attributes.condition", "mpn": "model", "group": "group",
}

// guess is what of a listing a column is, by its name; each thing once, pictures
// one after the other.
func guess(name string, taken map[string]int) *string {
	field := feed.Known(name)
	if field == "pictures" {
		taken[field]++
		path := "pictures." + strconv.Itoa(taken[field])
		return &path
	}
	path := values[field]
	if path == "" || taken[field] > 0 {
		return nil
	}
	taken[field]++
	return &path
}

// comments are the texts of a sheet's comments, by their cells.
func (b *book) comments(place int) (map[string]string, error) {
	out := map[string]string{}
	rels, err := b.relations(b.files[place])
	if err != nil {
		return out, err
	}
	for _, r := range rels {
		threaded := strings.HasSuffix(r.kind, "/threadedComment")
		if !strings.HasSuffix(r.kind, "/comments") && !threaded || b.parts[r.part] == nil {
			continue
		}
		raw, err := b.part(r.part)
		if err != nil {
			return out, err
		}
		err = each(raw, r.part, func(d *xml.Decoder, e xml.StartElement) error {
			if e.Name.Local != "comment" && e.Name.Local != "threadedComment" {
				return nil
			}
			var text string
			var err error
			if threaded {
				text, err = textIn(d)
			} else {
				text, err = feed.RichText(d)
			}
			ref := attr(e, "ref")
			out[ref] = strings.TrimSpace(out[ref] + " " + text)
			return err
		})
		if err != nil {
			return out, err
		}
	}
	return out, nil
}

// guides are the marks that other sheets of a workbook have for columns, by the
// columns' names: a row that names one, with a mark beside it.
func (b *book) guides(place int) (map[string]mark, error) {
	out := map[string]mark{}
	for i, file := range b.files {
		if i == place || b.parts[file] == nil {
			continue
		}
		s, err := b.sheet(file)
		if err != nil {
			continue // a chart, perhaps
		}
		for _, l := range s.lines[:min(len(s.lines), 5000)] {
			m, names := none, []string{}
			for _, c := range l.cells {
				if k := markOf(c.text, little); k != none && m == none {
					m = k
				} else if t := strings.TrimSpace(c.text); t != "" && len(t) <= 100 {
					names = append(names, plainHeader(Bare(t)))
				}
			}
			if m == none {
				continue
			}
			for _, name := range names {
				if _, ok := out[name]; !ok {
					out[name] = m
				}
			}
		}
	}
	return out, nil
}

// Template is the sheet of a blank that looks most like what is to be filled: the
// one with most columns that are known or needed.
func Template(list []Sheet) (Sheet, bool) {
	if len(list) == 0 {
		return Sheet{}, false
	}
	weight := func(s Sheet) int {
		n := len(s.Columns)
		for _, c := range s.Columns {
			if c.Guess != nil {
				n += 3
			}
			if c.Needed != nil && *c.Needed {
				n += 2
			}
		}
		return n
	}
	return slices.MaxFunc(list, func(a, c Sheet) int { return weight(a) - weight(c) }), true
}

// Most is the most UTF-16 units that the column's rule lets a text have; 0 for any.
func (c *Column) Most() int { return c.most }

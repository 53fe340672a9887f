package listing

import (
	"cmp"
	"fmt"
	"html"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// Block is one part of a description's template. Which of its fields counts is
// said by its kind.
type Block struct {
	Kind  string `json:"kind" enum:"text,facts,features,supplier,box,condition,kept"`
	Text  string `json:"text,omitempty" maxLength:"5000" doc:"Of a text, with {fields} in it; of a kept one its name; of the others their heading"`
	When  string `json:"when,omitempty" maxLength:"100" doc:"A field: the block stands only where it is filled"`
	Field string `json:"field,omitempty" maxLength:"100" doc:"Of features and box: the attribute that lists them"`
}

// The kinds of block.
const (
	BlockText      = "text"      // as written, placeholders filled
	BlockFacts     = "facts"     // each attribute with its value, a line each
	BlockFeatures  = "features"  // from the longest to the shortest line
	BlockSupplier  = "supplier"  // what the supplier says
	BlockBox       = "box"       // what is in the box, a line each
	BlockCondition = "condition" // the condition, with its note
	BlockKept      = "kept"      // a text that is kept by name, such as a table of sizes
)

// placeholder is a field in a text: {brand}, {attributes.colour} or {colour}.
var placeholder = regexp.MustCompile(`\{([a-z][a-z0-9_.]*)\}`)

// Valid tells what is wrong with a block.
func (b *Block) Valid() error {
	switch b.Kind {
	case BlockText:
		if strings.TrimSpace(b.Text) == "" {
			return fmt.Errorf("a text has no words")
		}
	case BlockKept:
		if strings.TrimSpace(b.Text) == "" {
			return fmt.Errorf("say which of the kept texts")
		}
	case BlockFacts, BlockFeatures, BlockSupplier, BlockBox, BlockCondition:
	default:
		return fmt.Errorf("there is no kind of block %q", b.Kind)
	}
	if utf8.RuneCountInString(b.Text) > 5000 {
		return fmt.Errorf("a block has at most 5000 characters")
	}
	rest := placeholder.ReplaceAllString(b.Text, "")
	if i := strings.IndexAny(rest, "{}"); i >= 0 && b.Kind == BlockText {
		return fmt.Errorf("a field stands in braces, such as {brand}; %q is none", rest[i:min(len(rest), i+20)])
	}
	return nil
}

// Describe makes a description of a template: safe HTML of p, ul, li and b where
// tags says that they are taken, else plain text. said is the supplier's own
// text, clean already; kept gives a kept text by its name, "" where there is
// none; of the values it takes what each block names. A block
// whose field is empty, or which would have nothing to say, is left out, and so
// is a line of a text whose placeholders are all empty.
func Describe(blocks []Block, v *Values, said string, kept func(name string) string, tags []string) string {
	d := describer{v: v, said: said, kept: kept, html: slices.Contains(tags, "p") || slices.Contains(tags, "ul") || slices.Contains(tags, "br"), tags: tags}
	for i := range blocks {
		if b := &blocks[i]; b.When == "" || d.text(b.When) != "" {
			d.block(b)
		}
	}
	return strings.TrimSpace(d.out.String())
}

type describer struct {
	v    *Values
	said string
	kept func(name string) string
	html bool
	tags []string
	out  strings.Builder
}

// text is a field's value: a name of values, or an attribute.
func (d *describer) text(field string) string {
	if field == "title" && d.v.Title == "" {
		field = "kind"
	}
	return d.v.Text(strings.TrimPrefix(field, "attributes."))
}

func (d *describer) block(b *Block) {
	switch b.Kind {
	case BlockText:
		for line := range strings.Lines(b.Text) {
			d.paragraph(d.filled(strings.TrimSpace(line)))
		}
	case BlockKept:
		d.table(d.kept(strings.TrimSpace(b.Text)))
	case BlockSupplier:
		if d.said == "" {
			return
		}
		d.heading(b.Text)
		if d.html && strings.Contains(d.said, "<") {
			d.out.WriteString(d.said + "\n")
			return
		}
		for line := range strings.Lines(d.said) {
			d.paragraph(strings.TrimSpace(line))
		}
	case BlockFacts:
		d.list(b.Text, d.facts())
	case BlockFeatures:
		lines := d.lines(cmp.Or(b.Field, "features"))
		slices.SortStableFunc(lines, func(a, c string) int { return utf8.RuneCountInString(c) - utf8.RuneCountInString(a) })
		d.list(b.Text, lines)
	case BlockBox:
		d.list(b.Text, d.lines(cmp.Or(b.Field, "in_the_box")))
	case BlockCondition:
		text := d.text("condition")
		if note := d.text("condition_note"); text != "" && note != "" {
			text += ": " + note
		}
		if text != "" {
			d.heading(b.Text)
			d.paragraph(text)
		}
	}
}

// filled is a line with its placeholders filled; "" where it has some and all
// are empty.
func (d *describer) filled(line string) string {
	had, has := false, false
	out := placeholder.ReplaceAllStringFunc(line, func(p string) string {
		text := d.text(p[1 : len(p)-1])
		had, has = true, has || text != ""
		return text
	})
	if had && !has {
		return ""
	}
	return strings.Join(strings.Fields(out), " ")
}

// facts are the attributes, in the order of their names, "Colour: Moss".
func (d *describer) facts() []string {
	var out []string
	for _, ref := range slices.Sorted(keysOf(d.v.Attributes)) {
		value := strings.TrimSpace(strings.Join(d.v.Attributes[ref], ", "))
		if value == "" || ref == "condition" || ref == "condition_note" || ref == "features" || ref == "in_the_box" {
			continue
		}
		name := strings.ReplaceAll(ref, "_", " ")
		out = append(out, strings.ToUpper(name[:1])+name[1:]+": "+strings.ReplaceAll(value, "|", ", "))
	}
	return out
}

func keysOf(m map[string]Text) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

// lines are what a field lists: parted by bars, semicolons or lines.
func (d *describer) lines(field string) []string {
	var out []string
	for _, s := range strings.FieldsFunc(d.text(field), func(r rune) bool { return r == '|' || r == ';' || r == '\n' }) {
		if s = strings.TrimSpace(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (d *describer) list(heading string, lines []string) {
	if len(lines) == 0 {
		return
	}
	d.heading(heading)
	if d.html && slices.Contains(d.tags, "ul") {
		d.out.WriteString("<ul>")
		for _, s := range lines {
			d.out.WriteString("<li>" + html.EscapeString(s) + "</li>")
		}
		d.out.WriteString("</ul>\n")
		return
	}
	for _, s := range lines {
		d.paragraph("• " + s)
	}
}

// table writes a kept text: lines whose cells are parted by tabs or bars as a
// table, where every line has as many and the place takes tables; else line by line.
func (d *describer) table(text string) {
	var rows [][]string
	even := true
	for line := range strings.Lines(text) {
		if line = d.filled(strings.ReplaceAll(strings.TrimSpace(line), "\t", " | ")); line == "" {
			continue
		}
		cells := strings.FieldsFunc(line, func(r rune) bool { return r == '|' })
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		rows = append(rows, cells)
		even = even && len(cells) > 1 && len(cells) == len(rows[0])
	}
	takes := d.html
	for _, tag := range []string{"table", "tr", "td"} {
		takes = takes && slices.Contains(d.tags, tag)
	}
	if !even || !takes || len(rows) == 0 {
		for _, cells := range rows {
			d.paragraph(strings.Join(cells, " · "))
		}
		return
	}
	d.out.WriteString("<table>")
	for _, cells := range rows {
		d.out.WriteString("<tr>")
		for _, c := range cells {
			d.out.WriteString("<td>" + html.EscapeString(c) + "</td>")
		}
		d.out.WriteString("</tr>")
	}
	d.out.WriteString("</table>\n")
}

func (d *describer) heading(text string) {
	if text = d.filled(strings.TrimSpace(text)); text == "" {
		return
	}
	if d.html && slices.Contains(d.tags, "b") {
		d.raw("<b>" + html.EscapeString(text) + "</b>")
		return
	}
	d.paragraph(text)
}

func (d *describer) paragraph(text string) {
	if text == "" {
		return
	}
	if d.html {
		text = html.EscapeString(text)
	}
	d.raw(text)
}

// raw writes a line of its own, as the place has lines.
func (d *describer) raw(text string) {
	switch {
	case d.html && slices.Contains(d.tags, "p"):
		d.out.WriteString("<p>" + text + "</p>\n")
	case d.html && slices.Contains(d.tags, "br"):
		d.out.WriteString(text + "<br>\n")
	default:
		d.out.WriteString(text + "\n")
	}
}

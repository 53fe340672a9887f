package blank

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"easymargin/internal/fault"
)

// workbookWriter writes a workbook again with rows put into one of its sheets.
// All other parts go over as they are, packed bytes and all.
type workbookWriter struct {
	*book
	job      *job
	place    int
	rows     int
	zip      *zip.Writer
	part     io.Writer // the sheet
	buf      []byte
	order    []int // of targets, by their columns
	copied   int   // bytes of the sheet that were written or left out
	next     int   // of the sheet's lines: the first that isn't written
	date     string
	over     map[string]bool // cells whose formulas are written over
	formulas bool
}

// bulk is how many cells make the packer hurry.
const bulk = 20_000

func (b *book) writer(j *job, place, rows int, w io.Writer) (writer, error) {
	out := &workbookWriter{book: b, job: j, place: place, rows: rows, zip: zip.NewWriter(w), over: map[string]bool{}}
	if rows*len(j.targets) > bulk {
		out.zip.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestSpeed) })
	}
	for i := range j.targets {
		out.order = append(out.order, i)
	}
	slices.SortFunc(out.order, func(a, c int) int { return j.targets[a].col - j.targets[c].col })
	return out, out.look()
}

// look sees which formulas would be written over, and whether there are any.
func (w *workbookWriter) look() error {
	s := w.job.sheet
	w.formulas = s.formulas || w.chain != ""
	for i := range s.lines {
		l := &s.lines[i]
		if l.n < w.job.start || l.n >= w.job.start+w.rows {
			continue
		}
		for _, t := range w.job.targets {
			c := l.at(t.col)
			switch {
			case c == nil || !c.formula:
			case c.shared:
				return fault.New(fault.Invalid, "%s%d has a formula that other cells share: it can't be filled; leave %s out", columnName(t.col), l.n, t.Header)
			default:
				w.over[columnName(t.col)+strconv.Itoa(l.n)] = true
			}
		}
	}
	return nil
}

// changed are the parts that are written anew, by name; the sheet apart.
func (w *workbookWriter) changed() (map[string][]byte, error) {
	out := map[string][]byte{}
	raw, err := w.book.part(w.main)
	if err != nil {
		return nil, err
	}
	if w.formulas && w.rows > 0 {
		if now := recalculated(raw); !bytes.Equal(now, raw) {
			out[w.main] = now
		}
	}
	if w.needsDate() {
		if err := w.addDate(out); err != nil {
			return nil, err
		}
	}
	if len(w.over) == 0 || w.chain == "" || w.parts[w.chain] == nil {
		return out, nil
	}
	if raw, err = w.book.part(w.chain); err != nil {
		return nil, err
	}
	if raw, err = unchained(raw, w.ids[w.place], w.over); err != nil {
		return nil, err
	}
	if out[w.chain] = raw; raw != nil {
		return out, nil
	}
	// Without a cell there is no chain.
	for part, entry := range map[string]*regexp.Regexp{
		relsOf(w.main):        regexp.MustCompile(`<(?:\w+:)?Relationship\b[^>]*calcChain"[^>]*?(?:/>|></(?:\w+:)?Relationship>)`),
		"[content_types].xml": regexp.MustCompile(`<(?:\w+:)?Override\b[^>]*calcChain[^>]*?(?:/>|></(?:\w+:)?Override>)`),
	} {
		if raw, err = w.book.part(part); err != nil {
			return nil, err
		}
		out[part] = entry.ReplaceAll(raw, nil)
	}
	return out, nil
}

var (
	chainEntry = regexp.MustCompile(`<((?:\w+:)?c)\b[^>]*?(?:/>|></(?:\w+:)?c>)`)
	chainCell  = regexp.MustCompile(`\br="([^"]*)"`)
	chainSheet = regexp.MustCompile(`\bi="([^"]*)"`)
)

// unchained is the order of calculation without cells that have no formula any
// more; nil where none is left. An entry without a sheet is on that of the one
// before it: ECMA-376 part 1, 18.6.1.
func unchained(raw []byte, id string, over map[string]bool) ([]byte, error) {
	at, said, left := "", "", 0
	out := chainEntry.ReplaceAllFunc(raw, func(e []byte) []byte {
		m := chainSheet.FindSubmatch(e)
		if m != nil {
			at = string(m[1])
		}
		cell := chainCell.FindSubmatch(e)
		if at == id && cell != nil && over[string(cell[1])] {
			return nil
		}
		left++
		if m == nil && said != at {
			e = chainCell.ReplaceAll(e, fmt.Appendf(nil, `r="$1" i="%s"`, at))
		}
		said = at
		return e
	})
	if left == 0 {
		return nil, nil
	}
	return out, nil
}

func relsOf(part string) string {
	i := strings.LastIndexByte(part, '/') + 1
	return part[:i] + "_rels/" + part[i:] + ".rels"
}

// needsDate tells whether a column of dates has no format at all: a date would
// be shown as a count of days.
func (w *workbookWriter) needsDate() bool {
	return slices.ContainsFunc(w.job.targets, func(t target) bool { return t.As == "date" && t.style == "" })
}

var (
	cellFormats = regexp.MustCompile(`(<(\w+:)?cellXfs\b[^>]*?\bcount=")(\d+)("[^>]*>)`)
	formatsEnd  = regexp.MustCompile(`</(\w+:)?cellXfs>`)
)

// addDate adds a format for days at the end of the workbook's.
func (w *workbookWriter) addDate(out map[string][]byte) error {
	rels, err := w.relations(w.main)
	if err != nil {
		return err
	}
	for _, r := range rels {
		if !strings.HasSuffix(r.kind, "/styles") || w.parts[r.part] == nil {
			continue
		}
		raw, err := w.book.part(r.part)
		if err != nil {
			return err
		}
		m := cellFormats.FindSubmatch(raw)
		at := formatsEnd.FindIndex(raw)
		if m == nil || at == nil {
			return nil
		}
		n, _ := strconv.Atoi(string(m[3]))
		xf := fmt.Sprintf(`<%sxf numFmtId="14" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>`, m[2])
		now := slices.Concat(raw[:at[0]], []byte(xf), raw[at[0]:])
		out[r.part] = cellFormats.ReplaceAll(now, fmt.Appendf(nil, "${1}%d${4}", n+1))
		w.date = strconv.Itoa(n)
	}
	return nil
}

var (
	calcTag = regexp.MustCompile(`<(\w+:)?calcPr\b[^>]*?(/?)>`)
	fullRun = regexp.MustCompile(`\bfullCalcOnLoad="[^"]*"`)
	// what stands behind calcPr in a workbook: ECMA-376 part 1, 18.2.27
	behindCalc = regexp.MustCompile(`<(?:\w+:)?(?:oleSize|customWorkbookViews|pivotCaches|smartTagPr|smartTagTypes|webPublishing|fileRecoveryPr|webPublishObjects|extLst)\b|</(\w+:)?workbook>`)
)

// recalculated has programs work out all formulas when they open the workbook.
func recalculated(raw []byte) []byte {
	if at := calcTag.FindSubmatchIndex(raw); at != nil {
		tag := raw[at[0]:at[1]]
		if fullRun.Match(tag) {
			tag = fullRun.ReplaceAll(tag, []byte(`fullCalcOnLoad="1"`))
		} else {
			end := len(tag) - 1
			if tag[end-1] == '/' {
				end--
			}
			tag = slices.Concat(bytes.TrimRight(tag[:end], " "), []byte(` fullCalcOnLoad="1"`), tag[end:])
		}
		return slices.Concat(raw[:at[0]], tag, raw[at[1]:])
	}
	at := behindCalc.FindIndex(raw)
	if at == nil {
		return raw
	}
	prefix := ""
	if m := regexp.MustCompile(`<(\w+:)?workbook\b`).FindSubmatch(raw); m != nil {
		prefix = string(m[1])
	}
	return slices.Concat(raw[:at[0]], []byte("<"+prefix+`calcPr calcId="0" fullCalcOnLoad="1"/>`), raw[at[0]:])
}

func (w *workbookWriter) begin() error {
	changed, err := w.changed()
	if err != nil {
		return err
	}
	var sheet *zip.File
	for _, f := range w.book.zip.File {
		name := partName(f.Name)
		if name == w.files[w.place] {
			sheet = f // the last: it is written as rows come
			continue
		}
		now, ok := changed[name]
		switch {
		case !ok:
			err = w.zip.Copy(f)
		case now != nil:
			err = w.write(f, now)
		}
		if err != nil {
			return err
		}
	}
	h := zip.FileHeader{Name: sheet.Name, Method: zip.Deflate, Modified: sheet.Modified}
	if w.part, err = w.zip.CreateHeader(&h); err != nil {
		return err
	}
	return w.head()
}

func (w *workbookWriter) write(f *zip.File, raw []byte) error {
	h := zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: f.Modified}
	part, err := w.zip.CreateHeader(&h)
	if err == nil {
		_, err = part.Write(raw)
	}
	return err
}

// head writes what stands before the first row that is written.
func (w *workbookWriter) head() error {
	s := w.job.sheet
	if s.dataTag[1] > 0 {
		w.raw(s.dataTag[0])
		w.buf = append(w.buf, "<"+s.prefix+"sheetData>"...)
		w.copied = s.dataTag[1]
		return nil
	}
	for w.next < len(s.lines) && s.lines[w.next].n < w.job.start {
		w.next++
	}
	to := s.data[0]
	if w.next > 0 {
		to = s.lines[w.next-1].to
	}
	w.raw(to)
	return nil
}

// raw copies the sheet's own bytes up to a place, its dimension brought up to date.
func (w *workbookWriter) raw(to int) {
	s := w.job.sheet
	if d := s.dimension; w.copied <= d[0] && d[1] > 0 && d[1] <= to && w.rows > 0 && len(w.order) > 0 {
		w.buf = append(w.buf, s.raw[w.copied:d[0]]...)
		first, last := w.job.targets[w.order[0]].col, w.job.targets[w.order[len(w.order)-1]].col
		now := area{first, w.job.start, last, w.job.start + w.rows - 1}
		if was, ok := areaOf(string(s.raw[d[0]:d[1]])); ok {
			now = now.with(was)
		}
		w.buf = append(w.buf, now.String()...)
		w.copied = d[1]
	}
	if to > w.copied {
		w.buf = append(w.buf, s.raw[w.copied:to]...)
		w.copied = to
	}
}

func (w *workbookWriter) flush(at int) error {
	if len(w.buf) < at {
		return nil
	}
	_, err := w.part.Write(w.buf)
	w.buf = w.buf[:0]
	return err
}

func (w *workbookWriter) row(n int, values []value) error {
	s := w.job.sheet
	if w.next < len(s.lines) && s.lines[w.next].n == n {
		l := &s.lines[w.next]
		w.next++
		w.raw(l.from)
		w.line(l, values)
		return w.flush(1 << 16)
	}
	w.buf = append(w.buf, '<')
	w.buf = append(w.buf, s.prefix...)
	w.buf = append(w.buf, `row r="`...)
	w.buf = strconv.AppendInt(w.buf, int64(n), 10)
	w.buf = append(w.buf, `">`...)
	for _, i := range w.order {
		w.cell(n, i, values[i])
	}
	w.buf = append(w.buf, "</"...)
	w.buf = append(w.buf, s.prefix...)
	w.buf = append(w.buf, "row>"...)
	return w.flush(1 << 16)
}

var spanAttr = regexp.MustCompile(`\bspans="(\d+):(\d+)"`)

// line writes a row that the sheet has already, with some of its cells filled.
func (w *workbookWriter) line(l *line, values []value) {
	s := w.job.sheet
	tag := s.raw[l.from:l.inner]
	if bytes.HasSuffix(tag, []byte("/>")) {
		tag = append(bytes.TrimRight(slices.Clone(tag[:len(tag)-2]), " "), '>')
	}
	if m := spanAttr.FindSubmatchIndex(tag); m != nil && len(w.order) > 0 {
		from, to := number(string(tag[m[2]:m[3]])), number(string(tag[m[4]:m[5]]))
		first, last := w.job.targets[w.order[0]].col+1, w.job.targets[w.order[len(w.order)-1]].col+1
		tag = slices.Concat(tag[:m[0]], fmt.Appendf(nil, `spans="%d:%d"`, min(from, first), max(to, last)), tag[m[1]:])
	}
	w.buf = append(w.buf, tag...)
	w.copied = l.inner
	next := 0
	own := func(to int) { // the line's own cells before a column
		for ; next < len(l.cells) && l.cells[next].col < to; next++ {
			c := &l.cells[next]
			w.buf = append(w.buf, s.raw[w.copied:c.from]...)
			w.copied = c.to
			w.own(c, l.n)
		}
	}
	for _, i := range w.order {
		col := w.job.targets[i].col
		own(col)
		if values[i].kind == empty {
			continue // what stands there stays
		}
		if next < len(l.cells) && l.cells[next].col == col {
			c := &l.cells[next]
			w.buf = append(w.buf, s.raw[w.copied:c.from]...)
			w.copied = c.to
			next++
		}
		w.cell(l.n, i, values[i])
	}
	own(maxColumns)
	if l.end == l.to { // it had no end tag
		w.buf = append(w.buf, "</"+s.prefix+"row>"...)
	} else {
		w.buf = append(w.buf, s.raw[w.copied:l.to]...)
	}
	w.copied = l.to
}

var hasRef = regexp.MustCompile(`^<[\w:]+(?:\s[^>]*)?\sr="`)

// own writes a cell as it stands; one that says where it is only by its place
// among the others says so now.
func (w *workbookWriter) own(c *cell, n int) {
	raw := w.job.sheet.raw[c.from:c.to]
	if hasRef.Match(raw[:min(len(raw), 200)]) {
		w.buf = append(w.buf, raw...)
		return
	}
	at := bytes.IndexAny(raw, " />")
	w.buf = append(w.buf, raw[:at]...)
	w.buf = fmt.Appendf(w.buf, ` r="%s%d"`, columnName(c.col), n)
	w.buf = append(w.buf, raw[at:]...)
}

// cell writes a filled cell.
func (w *workbookWriter) cell(n, i int, v value) {
	if v.kind == empty {
		return
	}
	t, prefix := &w.job.targets[i], w.job.sheet.prefix
	style := t.style
	if style == "" && v.kind == asDate {
		style = w.date
	}
	w.buf = append(w.buf, '<')
	w.buf = append(w.buf, prefix...)
	w.buf = append(w.buf, `c r="`...)
	w.buf = append(w.buf, columnName(t.col)...)
	w.buf = strconv.AppendInt(w.buf, int64(n), 10)
	if style != "" {
		w.buf = append(w.buf, `" s="`...)
		w.buf = append(w.buf, style...)
	}
	text := v.text
	number := v.kind == asNumber
	if v.kind == asDate {
		d, _ := day(text)
		if days, ok := serial(d, w.early); ok {
			text, number = strconv.Itoa(days), true
		}
	}
	if number {
		w.buf = append(w.buf, `"><`...)
		w.buf = append(w.buf, prefix...)
		w.buf = append(w.buf, "v>"...)
		w.buf = append(w.buf, text...)
		w.close("v", "c")
		return
	}
	w.buf = append(w.buf, `" t="inlineStr"><`...)
	w.buf = append(w.buf, prefix...)
	w.buf = append(w.buf, "is><"...)
	w.buf = append(w.buf, prefix...)
	w.buf = append(w.buf, 't')
	if spacious(text) {
		w.buf = append(w.buf, ` xml:space="preserve"`...)
	}
	w.buf = append(w.buf, '>')
	w.buf = appendText(w.buf, text)
	w.close("t", "is", "c")
}

func (w *workbookWriter) close(names ...string) {
	for _, name := range names {
		w.buf = append(w.buf, "</"...)
		w.buf = append(w.buf, w.job.sheet.prefix...)
		w.buf = append(w.buf, name...)
		w.buf = append(w.buf, '>')
	}
}

// spacious tells whether a text has white space that a reader might drop.
func spacious(s string) bool {
	return s != "" && (s[0] <= ' ' || s[len(s)-1] <= ' ' || strings.ContainsAny(s, "\n\r\t") || strings.Contains(s, "  "))
}

var looksEscaped = regexp.MustCompile(`_(x[0-9A-Fa-f]{4}_)`)

// appendText writes a text as XML, and what looks like an escape of ST_Xstring
// (ECMA-376 part 1, 22.9.2.19) so that it is read as it stands.
func appendText(b []byte, s string) []byte {
	if strings.Contains(s, "_x") {
		s = escapeX(s)
	}
	last := 0
	for i := range len(s) {
		var as string
		switch s[i] {
		case '&':
			as = "&amp;"
		case '<':
			as = "&lt;"
		case '>':
			as = "&gt;"
		case '\r':
			as = "&#13;" // a bare one is read as a line feed: XML 1.0, section 2.11
		default:
			continue
		}
		b = append(b, s[last:i]...)
		b = append(b, as...)
		last = i + 1
	}
	return append(b, s[last:]...)
}

// escapeX writes every _xHHHH_ as _x005F_xHHHH_; they may share a stroke.
func escapeX(s string) string {
	var out strings.Builder
	for {
		at := looksEscaped.FindStringIndex(s)
		if at == nil {
			out.WriteString(s)
			return out.String()
		}
		out.WriteString(s[:at[0]] + "_x005F")
		out.WriteString(s[at[0] : at[1]-1])
		s = s[at[1]-1:]
	}
}

func (w *workbookWriter) end() error {
	s := w.job.sheet
	if s.dataTag[1] > 0 {
		w.buf = append(w.buf, "</"+s.prefix+"sheetData>"...)
	}
	w.raw(len(s.raw))
	if err := w.flush(0); err != nil {
		return err
	}
	return w.zip.Close()
}

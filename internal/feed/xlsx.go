package feed

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math/big"
	"os"
	"path"
	"regexp"
	"strconv"
	"strings"
)

// xlsx is a sheet of an Office Open XML workbook (ECMA-376). It is read here,
// a row at a time, rather than by a library: what a cell is stored as decides
// how it is read (1.234 as a number and as a text are a thousand apart), and no
// library tells that without holding the whole sheet.
type xlsx struct{}

// maxStrings is the most text that a workbook's table of shared strings may have.
const maxStrings = 96 << 20

func (xlsx) name() string { return "xlsx" }

func (xlsx) recognise(head []byte) bool { return string(head) == sheetMark }

// sheetMark stands for the head of a file that was seen to be a workbook.
const sheetMark = "a workbook"

func partName(s string) string {
	return strings.ToLower(strings.TrimPrefix(strings.ReplaceAll(s, `\`, "/"), "/"))
}

// isSheet tells a workbook from another zip.
func isSheet(r io.ReaderAt, size int64) (bool, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return false, wrong("the zip file is broken (%v); ask the supplier to send it again", err)
	}
	for _, f := range z.File {
		switch n := partName(f.Name); {
		case n == "xl/workbook.xml":
			return true, nil
		case n == "xl/workbook.bin":
			return false, wrong("this is a binary sheet (XLSB); save it as XLSX and bring it in again")
		case n == "content.xml":
			return false, wrong("this is an OpenDocument sheet; save it as XLSX or CSV and bring it in again")
		}
	}
	return false, nil
}

// workbook is what has to be known before a sheet's rows can be read.
type workbook struct {
	close   func() error
	parts   map[string]*zip.File
	names   []string // of the sheets, in order
	files   []string // their parts
	strings []string
	early   bool // days are counted from 1904
}

func openWorkbook(in *input) (*workbook, error) {
	w := &workbook{parts: map[string]*zip.File{}, close: func() error { return nil }}
	var z *zip.Reader
	var err error
	if in.inner != nil {
		z, err = zip.NewReader(bytes.NewReader(in.inner), int64(len(in.inner)))
	} else {
		var file *zip.ReadCloser
		if file, err = zip.OpenReader(in.path); err == nil {
			z, w.close = &file.Reader, file.Close
		}
	}
	if err != nil {
		return nil, wrong("the sheet is broken (%v); save it again and bring it in", err)
	}
	for _, f := range z.File {
		w.parts[partName(f.Name)] = f
	}
	if err := w.index(); err != nil {
		return nil, errors.Join(err, w.close())
	}
	return w, nil
}

// each calls fn for every start element of a part, until it says to stop.
func (w *workbook) each(part string, fn func(d *xmlTokens, e xml.StartElement) error) error {
	f := w.parts[part]
	if f == nil {
		return wrong("the sheet is broken: its part %s is missing", part)
	}
	r, err := f.Open()
	if err != nil {
		return wrong("the sheet can't be unpacked (%v)", err)
	}
	defer r.Close()
	d := newXMLTokens(&capped{r: r}, "the sheet's part "+part)
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return brokenXML(err, "the sheet's part "+part)
		}
		if e, ok := t.(xml.StartElement); ok {
			if err := fn(d, e); err != nil {
				return err
			}
		}
	}
}

func attr(e xml.StartElement, local string) string {
	for _, a := range e.Attr {
		if a.Name.Local == local {
			return a.Value
		}
	}
	return ""
}

func (w *workbook) index() error {
	targets := map[string]string{}
	err := w.each("xl/_rels/workbook.xml.rels", func(_ *xmlTokens, e xml.StartElement) error {
		if e.Name.Local == "Relationship" {
			t := strings.ReplaceAll(attr(e, "Target"), `\`, "/")
			if !strings.HasPrefix(t, "/") {
				t = "xl/" + t
			}
			targets[attr(e, "Id")] = partName(path.Clean(t))
			if strings.HasSuffix(attr(e, "Type"), "/sharedStrings") {
				targets["shared"] = partName(path.Clean(t))
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	err = w.each("xl/workbook.xml", func(_ *xmlTokens, e xml.StartElement) error {
		switch e.Name.Local {
		case "workbookPr":
			v := attr(e, "date1904")
			w.early = v == "1" || v == "true"
		case "sheet":
			id := ""
			for _, a := range e.Attr {
				if a.Name.Local == "id" && a.Name.Space != "" {
					id = a.Value
				}
			}
			if part := targets[id]; w.parts[part] != nil && strings.Contains(part, "worksheet") ||
				w.parts[part] != nil && !strings.Contains(part, "chartsheet") {
				w.names, w.files = append(w.names, attr(e, "name")), append(w.files, part)
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if len(w.files) == 0 {
		return wrong("the workbook has no sheet")
	}
	shared := targets["shared"]
	if shared == "" || w.parts[shared] == nil {
		return nil
	}
	size := 0
	return w.each(shared, func(d *xmlTokens, e xml.StartElement) error {
		if e.Name.Local != "si" {
			return nil
		}
		text, err := RichText(d)
		if err != nil {
			return brokenXML(err, "the sheet's texts")
		}
		if size += len(text) + 16; size > maxStrings {
			return wrong(
				"the sheet has more than %d MiB of different texts, which is the most that is read; save it as CSV and bring that in",
				maxStrings>>20,
			)
		}
		w.strings = append(w.strings, text)
		return nil
	})
}

// RichText is the text inside an element of a workbook whose start was read: all of
// its t elements but those that say how to pronounce it (ECMA-376 part 1, 18.4.6).
// One of more than MaxCell bytes is an error.
func RichText(d interface{ Token() (xml.Token, error) }) (string, error) {
	var b strings.Builder
	for depth, skip, in := 1, 0, false; depth > 0; {
		t, err := d.Token()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.StartElement:
			depth++
			in = t.Name.Local == "t"
			if t.Name.Local == "rPh" && skip == 0 {
				skip = depth
			}
		case xml.EndElement:
			if depth == skip {
				skip = 0
			}
			depth--
			in = false
		case xml.CharData:
			if in && skip == 0 {
				b.Write(t)
			}
			if b.Len() > MaxCell {
				return "", tooLong(0)
			}
		}
	}
	return unescapeX(b.String()), nil
}

var escapedX = regexp.MustCompile(`_x([0-9A-Fa-f]{4})_`)

// unescapeX decodes _x000D_ and its like, ECMA-376 part 1, 22.4.2.4.
func unescapeX(s string) string {
	if !strings.Contains(s, "_x") {
		return s
	}
	return escapedX.ReplaceAllStringFunc(s, func(m string) string {
		n, err := strconv.ParseUint(m[2:6], 16, 32)
		if err != nil || n >= 0xd800 && n < 0xe000 {
			return m
		}
		return string(rune(n))
	})
}

func (xlsx) look(in *input, s Settings) (Look, error) {
	w, err := openWorkbook(in)
	if err != nil {
		return Look{}, err
	}
	defer func() { _ = w.close() }()
	var best Look
	var header header
	for i, name := range w.names {
		if s.Sheet != "" && name != s.Sheet {
			continue
		}
		h := newHeaderFinder(&s)
		n := 0
		err := w.rows(w.files[i], func(r *Record) bool {
			n++
			return !h.found(r) && n < headerRows
		})
		if err != nil {
			return Look{}, err
		}
		if h.best.rank > header.rank { // the first sheet that has one
			header = h.best
			best = Look{from1904: w.early, Sheet: name, Sheets: w.names, HeaderRow: header.row, Columns: header.columns}
		}
		if header.rank > guessed {
			return best, nil
		}
	}
	if header.rank == 0 {
		return Look{}, errNoHeader
	}
	return best, nil
}

func (xlsx) records(in *input, l *Look, yield func(*Record) bool) error {
	w, err := openWorkbook(in)
	if err != nil {
		return err
	}
	defer func() { _ = w.close() }()
	for i, name := range w.names {
		if name == l.Sheet {
			return w.rows(w.files[i], func(r *Record) bool { return r.Row <= l.HeaderRow || yield(r) })
		}
	}
	return wrong("the workbook no longer has the sheet %q", l.Sheet)
}

var errEnough = errors.New("enough")

// rows yields the rows of a sheet.
func (w *workbook) rows(part string, yield func(*Record) bool) error {
	var rec Record
	row := 0
	err := w.each(part, func(d *xmlTokens, e xml.StartElement) error {
		if e.Name.Local != "row" {
			return nil
		}
		row++
		if n, err := strconv.Atoi(attr(e, "r")); err == nil && n >= row {
			row = n
		}
		rec.Row, rec.Cells, rec.Number = row, rec.Cells[:0], rec.Number[:0]
		if err := w.cells(d, &rec); err != nil {
			return err
		}
		if !yield(&rec) {
			return errEnough
		}
		return nil
	})
	if errors.Is(err, errEnough) {
		return nil
	}
	return err
}

// cells reads the cells of a row whose start was read.
func (w *workbook) cells(d *xmlTokens, rec *Record) error {
	for {
		t, err := d.Token()
		if err != nil {
			return brokenXML(err, fmt.Sprintf("row %d of the sheet", rec.Row))
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name.Local == "row" {
				return nil
			}
		case xml.StartElement:
			if t.Name.Local != "c" {
				continue
			}
			at := len(rec.Cells)
			if n := columnOf(attr(t, "r")); n >= at {
				at = n
			}
			if at >= MaxColumns {
				return tooMany(rec.Row)
			}
			text, number, err := w.cell(d, attr(t, "t"))
			if err != nil {
				return brokenXML(err, fmt.Sprintf("row %d of the sheet", rec.Row))
			}
			for len(rec.Cells) < at {
				rec.Cells, rec.Number = append(rec.Cells, ""), append(rec.Number, false)
			}
			rec.Cells, rec.Number = append(rec.Cells, text), append(rec.Number, number)
		}
	}
}

// columnOf is the place of a cell's column, from 0; −1 where its name doesn't say.
func columnOf(ref string) int {
	n := 0
	for i := range len(ref) {
		c := ref[i] | 0x20
		if c < 'a' || c > 'z' {
			break
		}
		if n = n*26 + int(c-'a') + 1; n > MaxColumns*2 {
			return MaxColumns
		}
	}
	return n - 1
}

// cell reads one cell whose start was read.
func (w *workbook) cell(d *xmlTokens, kind string) (string, bool, error) {
	text := ""
	for depth := 1; depth > 0; {
		t, err := d.Token()
		if err != nil {
			return "", false, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "is":
				if text, err = RichText(d); err != nil {
					return "", false, err
				}
				continue
			case "v":
				if text, err = charData(d); err != nil {
					return "", false, err
				}
				continue
			}
			depth++
		case xml.EndElement:
			depth--
		}
	}
	switch kind {
	case "s":
		n, err := strconv.Atoi(strings.TrimSpace(text))
		if err != nil || n < 0 || n >= len(w.strings) {
			return "", false, wrong("the sheet is broken: a cell points to a text that isn't there")
		}
		return w.strings[n], false, nil
	case "b":
		if strings.TrimSpace(text) == "1" {
			return "TRUE", false, nil
		}
		return "FALSE", false, nil
	case "str", "inlineStr":
		return unescapeX(text), false, nil
	case "e", "d":
		return text, false, nil
	}
	if text = strings.TrimSpace(text); text == "" {
		return "", false, nil
	}
	if plain, ok := plainNumber(text); ok {
		return plain, true, nil
	}
	return text, false, nil
}

func charData(d *xmlTokens) (string, error) {
	var b strings.Builder
	for {
		t, err := d.Token()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.CharData:
			if b.Write(t); b.Len() > MaxCell {
				return "", tooLong(0)
			}
		case xml.EndElement:
			return b.String(), nil
		case xml.StartElement:
			if err := d.Skip(); err != nil {
				return "", err
			}
		}
	}
}

var storedNumber = regexp.MustCompile(`^(-?)([0-9]*)(?:\.([0-9]*))?(?:[eE]([+-]?[0-9]{1,3}))?$`)

// plainNumber writes a number as a program stores it in plain decimal form, to
// 15 significant digits, beyond which a stored number says nothing true.
func plainNumber(s string) (string, bool) {
	m := storedNumber.FindStringSubmatch(s)
	if m == nil || m[2]+m[3] == "" {
		return "", false
	}
	exp := 0
	if m[4] != "" {
		exp, _ = strconv.Atoi(m[4])
	}
	digits := strings.TrimLeft(m[2]+m[3], "0")
	exp -= len(m[3]) // the value is digits × 10^exp
	if over := len(digits) - 15; over > 0 {
		if exp >= 0 && m[4] == "" && exp+len(digits) > 15 && m[3] == "" {
			return m[1] + digits, true // a long whole number written out in full, as JSON may: keep every digit
		}
		n, _ := new(big.Int).SetString(digits, 10)
		unit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(over)), nil)
		n.Add(n, new(big.Int).Quo(unit, big.NewInt(2))).Quo(n, unit)
		digits, exp = n.String(), exp+over
	}
	for exp < 0 && strings.HasSuffix(digits, "0") {
		digits, exp = digits[:len(digits)-1], exp+1
	}
	switch {
	case digits == "":
		return "0", true
	case exp > 30 || exp < -60:
		return "", false
	case exp >= 0:
		digits += strings.Repeat("0", exp)
	case len(digits) <= -exp:
		digits = "0." + strings.Repeat("0", -exp-len(digits)) + digits
	default:
		digits = digits[:len(digits)+exp] + "." + digits[len(digits)+exp:]
	}
	return m[1] + digits, true
}

// isOldSheet recognises the compound files of sheets before XLSX and of those
// with a password.
func isOldSheet(path string) bool {
	f, err := os.Open(path)
	if err != nil {
		return false
	}
	defer f.Close()
	magic := make([]byte, 4)
	_, err = io.ReadFull(f, magic)
	return err == nil && string(magic) == "\xd0\xcf\x11\xe0"
}

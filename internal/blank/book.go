package blank

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"strings"

	"golang.org/x/text/encoding/unicode"

	"easymargin/internal/fault"
	"easymargin/internal/feed"
)

// book is a workbook: an Office Open XML package, ECMA-376.
type book struct {
	zip     *zip.Reader
	parts   map[string]*zip.File // by name, from the package's root, in lower case
	main    string               // part of the workbook itself
	names   []string             // of the sheets, in order
	files   []string             // their parts
	ids     []string             // their sheetIds
	strings []string             // shared
	ranges  []named
	early   bool // days are counted from 1904
	chain   string
	read    map[string]*sheet // by part
	tables  []table           // once asked for
	tabled  bool
}

// named is a defined name.
type named struct {
	name, text string
	sheet      int // whose own it is; −1: everyone's
}

func broken(what string, err error) error {
	return fault.New(fault.Invalid, "the workbook is broken: %s (%v); save it again", what, err)
}

func openBook(raw []byte) (*book, error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, broken("it can't be unpacked", err)
	}
	b := &book{zip: z, parts: map[string]*zip.File{}, read: map[string]*sheet{}}
	for _, f := range z.File {
		b.parts[partName(f.Name)] = f
	}
	rels, err := b.relations("")
	if err != nil {
		return nil, err
	}
	b.main = "xl/workbook.xml"
	for _, r := range rels {
		if strings.HasSuffix(r.kind, "/officeDocument") {
			b.main = r.part
		}
	}
	if b.parts[b.main] == nil {
		return nil, fault.New(fault.Invalid, "this is no workbook that can be read here (XLSX, XLSM); save it as one")
	}
	if strings.HasSuffix(b.main, ".bin") {
		return nil, fault.New(fault.Invalid, "this is a binary workbook (XLSB); save it as XLSX")
	}
	return b, b.index()
}

func partName(s string) string {
	return strings.ToLower(strings.TrimPrefix(strings.ReplaceAll(s, `\`, "/"), "/"))
}

// part unpacks a part, as UTF-8.
func (b *book) part(name string) ([]byte, error) {
	f := b.parts[partName(name)]
	if f == nil {
		return nil, fault.New(fault.Invalid, "the workbook is broken: its part %s is missing", name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, broken(name, err)
	}
	defer r.Close()
	raw, err := io.ReadAll(io.LimitReader(r, maxPart+1))
	if err != nil {
		return nil, broken(name, err)
	}
	if len(raw) > maxPart {
		return nil, fault.New(fault.Invalid, "the workbook's part %s has more than %d MiB, which is the most that is read", name, maxPart>>20)
	}
	if bytes.HasPrefix(raw, []byte("\xff\xfe")) || bytes.HasPrefix(raw, []byte("\xfe\xff")) {
		if raw, err = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(raw); err != nil {
			return nil, broken(name, err)
		}
		raw = bytes.Replace(raw, []byte(`encoding="UTF-16"`), []byte(`encoding="UTF-8"`), 1)
	}
	return raw, nil
}

// newTokens decodes XML whose bytes are UTF-8 already.
func newTokens(raw []byte) *xml.Decoder {
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil }
	return d
}

// each calls fn for every start tag of a part.
func each(raw []byte, what string, fn func(d *xml.Decoder, e xml.StartElement) error) error {
	d := newTokens(raw)
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return broken(what, err)
		}
		if e, ok := t.(xml.StartElement); ok {
			if err := fn(d, e); err != nil {
				return err
			}
		}
	}
}

// relation is what one part says of another.
type relation struct{ id, kind, part string }

// relations are those of a part; "" is the package.
func (b *book) relations(of string) ([]relation, error) {
	dir, file := path.Split(of)
	name := path.Join(dir, "_rels", file+".rels")
	if b.parts[partName(name)] == nil {
		return nil, nil
	}
	raw, err := b.part(name)
	if err != nil {
		return nil, err
	}
	var out []relation
	err = each(raw, name, func(_ *xml.Decoder, e xml.StartElement) error {
		if e.Name.Local == "Relationship" && attr(e, "TargetMode") != "External" {
			to := strings.ReplaceAll(attr(e, "Target"), `\`, "/")
			if !strings.HasPrefix(to, "/") {
				to = path.Join(dir, to)
			}
			out = append(out, relation{attr(e, "Id"), attr(e, "Type"), partName(path.Clean(to))})
		}
		return nil
	})
	return out, err
}

func attr(e xml.StartElement, local string) string {
	for _, a := range e.Attr {
		if a.Name.Local == local {
			return a.Value
		}
	}
	return ""
}

// index reads what has to be known of the workbook before its sheets.
func (b *book) index() error {
	rels, err := b.relations(b.main)
	if err != nil {
		return err
	}
	target, shared := map[string]string{}, ""
	for _, r := range rels {
		target[r.id] = r.part
		switch {
		case strings.HasSuffix(r.kind, "/sharedStrings"):
			shared = r.part
		case strings.HasSuffix(r.kind, "/calcChain"):
			b.chain = r.part
		}
	}
	raw, err := b.part(b.main)
	if err != nil {
		return err
	}
	err = each(raw, b.main, func(d *xml.Decoder, e xml.StartElement) error {
		switch e.Name.Local {
		case "workbookPr":
			v := attr(e, "date1904")
			b.early = v == "1" || v == "true"
		case "sheet":
			part := ""
			for _, a := range e.Attr {
				if a.Name.Local == "id" && a.Name.Space != "" {
					part = target[a.Value]
				}
			}
			b.names, b.files, b.ids = append(b.names, attr(e, "name")), append(b.files, part), append(b.ids, attr(e, "sheetId"))
		case "definedName":
			own := -1
			if v := attr(e, "localSheetId"); v != "" {
				own = number(v)
			}
			text, err := textIn(d)
			if err != nil {
				return broken("a name", err)
			}
			b.ranges = append(b.ranges, named{attr(e, "name"), text, own})
		}
		return nil
	})
	if err != nil || shared == "" || b.parts[shared] == nil {
		return err
	}
	if raw, err = b.part(shared); err != nil {
		return err
	}
	return each(raw, "its texts", func(d *xml.Decoder, e xml.StartElement) error {
		if e.Name.Local != "si" {
			return nil
		}
		text, err := feed.RichText(d)
		b.strings = append(b.strings, text)
		return err
	})
}

// number is a whole number as an attribute has it; −1 where it is none.
func number(s string) int {
	n := 0
	if s == "" || len(s) > 9 {
		return -1
	}
	for _, r := range s {
		if r < '0' || r > '9' {
			return -1
		}
		n = n*10 + int(r-'0')
	}
	return n
}

// textIn is all text inside an element whose start was read.
func textIn(d *xml.Decoder) (string, error) {
	var out strings.Builder
	for depth := 1; depth > 0; {
		t, err := d.Token()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			depth--
		case xml.CharData:
			out.Write(t)
		}
	}
	return out.String(), nil
}

// sheetOf is the place of a sheet by its name, as written or without case; −1 for none.
func (b *book) sheetOf(name string) int {
	for i, n := range b.names {
		if n == name {
			return i
		}
	}
	for i, n := range b.names {
		if strings.EqualFold(n, name) {
			return i
		}
	}
	return -1
}

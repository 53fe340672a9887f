package feed

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strings"
)

// xmlFile is an XML document (XML 1.0): its rows are the repeated element.
// Attributes and child elements are columns, attributes of a child too; a
// repeated child is a list. Entities of the document's own are never expanded
// and nothing outside it is fetched.
type xmlFile struct{}

func (xmlFile) name() string { return "xml" }

func (xmlFile) recognise(head []byte) bool {
	t := bytes.TrimLeft(head, " \t\r\n")
	return len(t) > 1 && t[0] == '<' &&
		(t[1] == '?' || t[1] == '!' || t[1] == '_' || t[1] >= 'A' && t[1] <= 'Z' || t[1] >= 'a' && t[1] <= 'z' || t[1] >= 0x80)
}

func brokenXML(err error, what string) error {
	var e *Error
	var syntax *xml.SyntaxError
	switch {
	case errors.As(err, &e):
		return err
	case errors.As(err, &syntax) && strings.Contains(syntax.Msg, "entity"):
		return wrong("%s uses an entity of its own at line %d (%s); such entities are not read", what, syntax.Line, syntax.Msg)
	case errors.As(err, &syntax):
		return wrong("%s is broken at line %d (%s); ask the supplier to send it again", what, syntax.Line, syntax.Msg)
	case errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF):
		return wrong("%s ends too early; ask the supplier to send it again", what)
	}
	return err
}

// shape is what is known of the elements at one path.
type shape struct {
	count  int             // in all
	most   int             // most of them under one parent
	fields map[string]bool // fields that their attributes and children name
	depth  int
	order  int
}

// look finds the repeated element: of those that come more than once under one
// parent, the one whose parts name the most fields; else a single one that
// names two.
func (xmlFile) look(in *input, s Settings) (Look, error) {
	r, err := in.text()
	if err != nil {
		return Look{}, err
	}
	defer r.Close()
	d := newXMLTokens(r, "the XML")
	shapes := map[string]*shape{}
	type level struct {
		path  string
		under map[string]int
	}
	stack := []level{{"", map[string]int{}}}
	see := func(path, name string) {
		if field, _ := s.known(name); field != "" {
			shapes[path].fields[field] = true
		}
	}
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return Look{}, brokenXML(err, "the XML")
		}
		switch t := t.(type) {
		case xml.StartElement:
			if len(stack) > MaxDepth {
				return Look{}, wrong("the XML has elements more than %d deep inside one another, which is the most that is read", MaxDepth)
			}
			top := &stack[len(stack)-1]
			path := top.path + "/" + t.Name.Local
			sh := shapes[path]
			if sh == nil {
				if len(shapes) > MaxColumns {
					return Look{}, wrong("the XML has more than %d sorts of elements, which is the most that is read", MaxColumns)
				}
				sh = &shape{fields: map[string]bool{}, depth: len(stack), order: len(shapes)}
				shapes[path] = sh
			}
			sh.count++
			top.under[path]++
			sh.most = max(sh.most, top.under[path])
			if top.path != "" {
				see(top.path, t.Name.Local)
			}
			for _, a := range t.Attr {
				see(path, a.Name.Local)
			}
			stack = append(stack, level{path, map[string]int{}})
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		}
	}
	best, bestPath := (*shape)(nil), ""
	for path, sh := range shapes {
		if len(sh.fields) < 2 {
			continue
		}
		better := best == nil || (sh.most > 1) != (best.most > 1) && sh.most > 1 ||
			(sh.most > 1) == (best.most > 1) &&
				(len(sh.fields) > len(best.fields) || len(sh.fields) == len(best.fields) && sh.order < best.order)
		if better {
			best, bestPath = sh, path
		}
	}
	if best == nil {
		return Look{}, wrong("no repeated element was found whose parts name at least two of ref, title, cost, stock and the like")
	}
	l, err := keyedLook(
		s,
		func(k *keys, yield func(*Record) bool) error { return eachElement(in, bestPath, k, yield) },
		"the XML has no rows",
	)
	l.Sheet = bestPath
	return l, err
}

func (xmlFile) records(in *input, l *Look, yield func(*Record) bool) error {
	return eachElement(in, l.Sheet, keysOf(l), yield)
}

// eachElement yields the elements at a path, by place from 1.
func eachElement(in *input, path string, k *keys, yield func(*Record) bool) error {
	r, err := in.text()
	if err != nil {
		return err
	}
	defer r.Close()
	d := newXMLTokens(r, "the XML")
	at, n := "", 0
	var rec Record
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return brokenXML(err, "the XML")
		}
		switch t := t.(type) {
		case xml.StartElement:
			if at += "/" + t.Name.Local; at != path {
				continue
			}
			n++
			rec.reset(n)
			if _, err := k.element(&rec, d, t, "", 0); err != nil {
				return brokenXML(err, "the XML")
			}
			at = at[:strings.LastIndexByte(at, '/')]
			if !yield(&rec) {
				return nil
			}
		case xml.EndElement:
			at = at[:strings.LastIndexByte(at, '/')]
		}
	}
}

// element fills a record from an element whose start was read; its own text is
// given back. above is the path of names below the row, ending in "/".
func (k *keys) element(r *Record, d *xmlTokens, e xml.StartElement, above string, depth int) (string, error) {
	if depth > MaxDepth {
		return "", wrong("the XML has elements more than %d deep inside one another, which is the most that is read", MaxDepth)
	}
	for _, a := range e.Attr {
		if a.Name.Space == "xmlns" || a.Name.Local == "xmlns" || a.Name.Space == "http://www.w3.org/2001/XMLSchema-instance" ||
			a.Name.Local == "lang" ||
			a.Name.Local == "space" && a.Name.Space != "" {
			continue
		}
		name := a.Name.Local
		if above != "" {
			name = above + "@" + name
		}
		if err := k.put(r, name, a.Value, false); err != nil {
			return "", err
		}
	}
	var text strings.Builder
	children := false
	for {
		t, err := d.Token()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.CharData:
			if text.Write(t); text.Len() > MaxCell {
				return "", tooLong(r.Row)
			}
		case xml.StartElement:
			children = true
			name := above + t.Name.Local
			inner, err := k.element(r, d, t, name+"/", depth+1)
			if err != nil {
				return "", err
			}
			if strings.TrimSpace(inner) != "" {
				if err := k.put(r, name, inner, false); err != nil {
					return "", err
				}
			} else {
				k.column(name)
			}
		case xml.EndElement:
			if children && strings.TrimSpace(text.String()) == "" {
				return "", nil
			}
			return text.String(), nil
		}
	}
}

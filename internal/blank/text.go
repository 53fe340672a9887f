package blank

import (
	"bufio"
	"io"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"easymargin/internal/feed"
)

// textWriter writes records by RFC 4180.
type textWriter struct {
	blank   *Blank
	job     *job
	w       *bufio.Writer
	done    io.Closer // flushes the encoder
	mark    string
	lineEnd string
	decimal string
	record  []string
}

func (b *Blank) textWriter(j *job, kind string, w io.Writer) (writer, error) {
	o := &j.layout.Output
	t := &textWriter{blank: b, job: j, mark: o.Delimiter, lineEnd: "\r\n", decimal: o.Decimal}
	if t.mark == "" {
		if t.mark = ","; kind == "tsv" {
			t.mark = "\t"
		} else if b.book == nil {
			t.mark = string(b.mark)
		}
	}
	if o.LineEnd == "lf" {
		t.lineEnd = "\n"
	}
	var e encoding.Encoding = encoding.Nop
	switch o.Encoding {
	case "utf-8-bom":
		e = unicode.UTF8BOM
	case "utf-16":
		e = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case "windows-1252":
		e = charmap.Windows1252
	}
	out := transform.NewWriter(w, e.NewEncoder())
	t.w, t.done = bufio.NewWriterSize(out, 1<<16), out
	return t, nil
}

func (t *textWriter) begin() error {
	l := t.job.layout
	if l.Output.Header == "none" {
		return nil
	}
	header := l.HeaderRow
	if header == 0 {
		found, _, err := t.blank.find(l)
		if err != nil {
			return err
		}
		header = found.HeaderRow
	}
	for n := 1; n < t.job.start; n++ {
		if l.Output.Header == "last" && n != header {
			continue
		}
		if err := t.write(t.above(n)); err != nil {
			return err
		}
	}
	return nil
}

// above is a row of the blank as it stands, as wide as the header at least.
func (t *textWriter) above(n int) []string {
	rec := t.record[:0]
	if t.blank.book == nil {
		if n <= len(t.blank.table) {
			rec = append(rec, t.blank.table[n-1]...)
		}
	} else if l := t.job.sheet.line(n); l != nil {
		for _, c := range l.cells {
			for len(rec) < c.col {
				rec = append(rec, "")
			}
			rec = append(rec, c.text)
		}
		for len(rec) > t.job.width && rec[len(rec)-1] == "" {
			rec = rec[:len(rec)-1]
		}
	}
	for len(rec) < t.job.width {
		rec = append(rec, "")
	}
	return rec
}

func (t *textWriter) row(_ int, values []value) error {
	rec := t.record[:0]
	for range t.job.width {
		rec = append(rec, "")
	}
	for i, v := range values {
		text := v.text
		switch {
		case v.kind == asNumber && t.decimal == ",":
			text = strings.Replace(text, ".", ",", 1)
		case v.kind == asText && t.job.Human:
			text = feed.Inert(text)
		}
		rec[t.job.targets[i].col] = text
	}
	t.record = rec
	return t.write(rec)
}

func (t *textWriter) write(rec []string) error {
	for i, field := range rec {
		if i > 0 {
			_, _ = t.w.WriteString(t.mark)
		}
		if quoted(field, t.mark) || len(rec) == 1 && field == "" {
			field = `"` + strings.ReplaceAll(field, `"`, `""`) + `"`
		}
		_, _ = t.w.WriteString(field)
	}
	_, err := t.w.WriteString(t.lineEnd)
	return err
}

func quoted(s, mark string) bool {
	return s != "" && (strings.ContainsAny(s, "\"\r\n") || strings.Contains(s, mark) || s[0] == ' ' || s[len(s)-1] == ' ')
}

func (t *textWriter) end() error {
	if err := t.w.Flush(); err != nil {
		return err
	}
	return t.done.Close()
}

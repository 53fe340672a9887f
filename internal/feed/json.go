package feed

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
)

// jsonFile is a JSON document: its rows are the first non-empty array of
// objects in document order.
type jsonFile struct{}

func (jsonFile) name() string { return "json" }

func (jsonFile) recognise(head []byte) bool {
	t := bytes.TrimLeft(head, " \t\r\n")
	return len(t) > 0 &&
		(t[0] == '{' || t[0] == '[' && len(bytes.TrimLeft(t[1:], " \t\r\n")) > 0 && bytes.IndexByte([]byte(`{["]}0123456789-tfn`),
			bytes.TrimLeft(t[1:], " \t\r\n")[0]) >= 0)
}

func (jsonFile) look(in *input, s Settings) (Look, error) {
	return keyedLook(
		s,
		func(k *keys, yield func(*Record) bool) error { return eachJSON(in, k, yield) },
		"no list of objects was found in this JSON",
	)
}

func (jsonFile) records(in *input, l *Look, yield func(*Record) bool) error {
	return eachJSON(in, keysOf(l), yield)
}

// keys gives each key of keyed rows a column, in the order they first appear.
type keys struct {
	names []string
	at    map[string]int
}

func keysOf(l *Look) *keys {
	k := &keys{at: map[string]int{}}
	for _, c := range l.Columns {
		k.column(c.Name)
	}
	return k
}

func (k *keys) column(name string) int {
	i, ok := k.at[name]
	if !ok {
		i = len(k.names)
		k.at[name] = i
		k.names = append(k.names, name)
	}
	return i
}

// put sets the cell of a key. A key that comes again makes a list.
func (k *keys) put(r *Record, name, text string, number bool) error {
	i := k.column(name)
	if i >= MaxColumns {
		return tooMany(r.Row)
	}
	if len(text) > MaxCell {
		return tooLong(r.Row)
	}
	for len(r.Cells) <= i {
		r.Cells, r.Number = append(r.Cells, ""), append(r.Number, false)
	}
	if r.Cells[i] == "" {
		r.Cells[i], r.Number[i] = text, number
		if list, ok := r.Lists[i]; ok {
			r.Lists[i] = append(list, text)
		}
		return nil
	}
	if r.Lists == nil {
		r.Lists = map[int][]string{}
	}
	if r.Lists[i] == nil {
		r.Lists[i] = []string{r.Cells[i]}
	}
	r.Lists[i] = append(r.Lists[i], text)
	r.Cells[i], r.Number[i] = r.Cells[i]+", "+text, false
	if len(r.Cells[i]) > MaxCell {
		return tooLong(r.Row)
	}
	return nil
}

func (r *Record) reset(row int) {
	r.Row, r.Cells, r.Number, r.Lists, r.Broken = row, r.Cells[:0], r.Number[:0], nil, ""
}

// keyedLook reads all keys of a file of keyed rows and names their fields.
func keyedLook(s Settings, each func(k *keys, yield func(*Record) bool) error, nothing string) (Look, error) {
	k := &keys{at: map[string]int{}}
	rows := 0
	if err := each(k, func(*Record) bool { rows++; return true }); err != nil {
		return Look{}, err
	}
	if rows == 0 {
		return Look{}, wrong("%s", nothing)
	}
	return Look{Columns: nameKeys(k.names, &s)}, nil
}

// nameKeys names the fields of keys. A key inside another (brand/name) is known
// by the two together, else by itself where no key at the top has its field.
func nameKeys(names []string, s *Settings) []Column {
	out, _ := nameColumns(names, s)
	taken := map[string]bool{}
	for _, c := range out {
		taken[c.Field] = true
	}
	for i := range out {
		parts := strings.Split(out[i].Name, "/")
		if out[i].Field != "" || len(parts) < 2 {
			continue
		}
		last, above := strings.TrimPrefix(parts[len(parts)-1], "@"), parts[len(parts)-2]
		try := []string{above + last, last}
		switch fold(last) {
		case "value", "amount", "text", "content":
			try = []string{above}
		case "url", "src", "href", "link", "source":
			if field, _ := s.known(above); field == "pictures" { // a list of pictures, each with its address inside
				try = []string{above}
			}
		}
		for _, name := range try {
			field, unit := s.known(name)
			if field == "" || taken[field] && field != "pictures" || name == last && field == "title" {
				continue
			}
			taken[field] = true
			out[i].Field, out[i].unit = field, unit
			break
		}
	}
	return out
}

// eachJSON yields the rows of a JSON document.
func eachJSON(in *input, k *keys, yield func(*Record) bool) error {
	r, err := in.text()
	if err != nil {
		return err
	}
	defer r.Close()
	d := newJSONTokens(r)
	goOn := true
	found, err := walkJSON(d, 0, func(n int) (bool, error) {
		var rec Record
		var raw json.RawMessage
		if err := d.Decode(&raw); err != nil {
			return false, err
		}
		rec.reset(n)
		if err := k.object(&rec, raw); err != nil {
			return false, err
		}
		goOn = yield(&rec)
		return goOn, nil
	})
	for found && err == nil && goOn { // what follows the rows must be whole too, or the file was cut off
		if _, err = d.Token(); errors.Is(err, io.EOF) {
			return nil
		}
	}
	var e *Error
	if err != nil && !errors.As(err, &e) {
		return wrong("the JSON is broken at byte %d (%v); ask the supplier to send it again", d.InputOffset(), short(err))
	}
	return err
}

func short(err error) error {
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return errors.New("it ends too early")
	}
	return err
}

// walkJSON goes through one value and calls row for each element of the first
// non-empty array of objects; it stops there, and says whether it was found.
func walkJSON(d *jsonTokens, depth int, row func(n int) (bool, error)) (bool, error) {
	t, err := d.Token()
	if err != nil {
		return false, err
	}
	delim, ok := t.(json.Delim)
	if !ok {
		return false, nil
	}
	if depth > MaxDepth {
		return false, wrong("the JSON has values more than %d deep inside one another, which is the most that is read", MaxDepth)
	}
	if delim == '{' {
		for d.More() {
			if _, err := d.Token(); err != nil {
				return false, err
			}
			if found, err := walkJSON(d, depth+1, row); found || err != nil {
				return found, err
			}
		}
		_, err := d.Token()
		return false, err
	}
	for n := 1; d.More(); n++ {
		if n == 1 && !objectNext(d) {
			for d.More() {
				if found, err := walkJSON(d, depth+1, row); found || err != nil {
					return found, err
				}
			}
			break
		}
		goOn, err := row(n)
		if err != nil || !goOn {
			return true, err
		}
		if !d.More() {
			_, err := d.Token()
			return true, err
		}
	}
	_, err = d.Token()
	return false, err
}

// objectNext tells whether an object comes next.
func objectNext(d *jsonTokens) bool {
	b, ok := d.Buffered().(*bytes.Reader)
	if !ok {
		return false
	}
	for {
		c, err := b.ReadByte()
		if err != nil {
			return true // the window ends here; an object is likely, and Decode tells
		}
		if c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == ',' {
			continue
		}
		return c == '{'
	}
}

// object fills a record from one JSON object.
func (k *keys) object(r *Record, raw []byte) error {
	if t := bytes.TrimSpace(raw); len(t) == 0 || t[0] != '{' {
		r.Broken = "this is no object with names and values"
		r.Cells = append(r.Cells[:0], clip(string(raw), 200))
		return nil
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	if _, err := d.Token(); err != nil {
		return err
	}
	return k.members(r, d, "", 0)
}

func (k *keys) members(r *Record, d *json.Decoder, above string, depth int) error {
	for d.More() {
		t, err := d.Token()
		if err != nil {
			return err
		}
		if err := k.value(r, d, above+fmt.Sprint(t), depth); err != nil {
			return err
		}
	}
	_, err := d.Token()
	return err
}

func (k *keys) value(r *Record, d *json.Decoder, name string, depth int) error {
	if depth > MaxDepth {
		return wrong("row %d has values more than %d deep inside one another, which is the most that is read", r.Row, MaxDepth)
	}
	t, err := d.Token()
	if err != nil {
		return err
	}
	switch t := t.(type) {
	case json.Delim:
		if t == '{' {
			return k.members(r, d, name+"/", depth+1)
		}
		i := k.column(name)
		if i >= MaxColumns {
			return tooMany(r.Row)
		}
		for d.More() {
			if err := k.value(r, d, name, depth+1); err != nil {
				return err
			}
		}
		if i < len(r.Cells) && r.Cells[i] != "" && r.Lists[i] == nil {
			if r.Lists == nil {
				r.Lists = map[int][]string{}
			}
			r.Lists[i] = []string{r.Cells[i]}
		}
		_, err := d.Token()
		return err
	case json.Number:
		if plain, ok := plainNumber(t.String()); ok {
			return k.put(r, name, plain, true)
		}
		return k.put(r, name, t.String(), false)
	case string:
		return k.put(r, name, t, false)
	case bool:
		return k.put(r, name, fmt.Sprint(t), false)
	}
	k.column(name) // null
	return nil
}

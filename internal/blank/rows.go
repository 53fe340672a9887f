package blank

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"golang.org/x/sync/errgroup"

	"easymargin/internal/fault"
)

// List are rows that are held already, numbered from 1.
type List []Row

// Len implements Rows.
func (l List) Len() int { return len(l) }

// Each implements Rows.
func (l List) Each(yield func(n int, r Row) error) error {
	for i, r := range l {
		if err := yield(i+1, r); err != nil {
			return err
		}
	}
	return nil
}

// File are the rows of a file: a JSON object a line. Blank lines are none.
type File struct {
	path string
	n    int
}

// maxLine is the most bytes that a line may have.
const maxLine = 16 << 20

// OpenRows counts the rows of a file.
func OpenRows(path string) (*File, error) {
	f := &File{path: path}
	err := f.lines(func(int, []byte) error {
		f.n++
		return nil
	})
	return f, err
}

// Len is how many rows there are.
func (f *File) Len() int { return f.n }

// lines gives the lines that aren't blank, by their numbers from 1.
func (f *File) lines(yield func(n int, line []byte) error) error {
	in, err := os.Open(f.path)
	if err != nil {
		return err
	}
	defer in.Close()
	sc := bufio.NewScanner(in)
	sc.Buffer(make([]byte, 0, 1<<16), maxLine)
	n := 0
	for sc.Scan() {
		n++
		line := sc.Bytes()
		if n == 1 {
			line = bytes.TrimPrefix(line, []byte("\ufeff"))
		}
		if len(bytes.TrimSpace(line)) == 0 {
			continue
		}
		if err := yield(n, line); err != nil {
			return err
		}
	}
	if errors.Is(sc.Err(), bufio.ErrTooLong) {
		return fault.New(fault.Invalid, "line %d of the rows has more than %d MiB, which is the most that is read", n+1, maxLine>>20)
	}
	return sc.Err()
}

// batch is how many rows are handed over at once, from reading to writing.
const batch = 256

type numbered struct {
	n   int
	row Row
}

// Each reads the rows, some ahead of who takes them.
func (f *File) Each(yield func(n int, r Row) error) error {
	ahead := make(chan []numbered, 4)
	stop := make(chan struct{})
	var g errgroup.Group
	g.Go(func() error {
		defer close(ahead)
		list := make([]numbered, 0, batch)
		send := func() error {
			select {
			case ahead <- list:
				list = make([]numbered, 0, batch)
				return nil
			case <-stop:
				return io.EOF
			}
		}
		take := func(n int, line []byte) error {
			row, err := ReadRow(line)
			if err != nil {
				return fault.New(fault.Invalid, "line %d of the rows: %v", n, err)
			}
			if list = append(list, numbered{n, row}); len(list) < batch {
				return nil
			}
			return send()
		}
		err := fault.Caught(func() error { return f.lines(take) })
		if err == nil && len(list) > 0 {
			err = send()
		}
		if errors.Is(err, io.EOF) {
			return nil // who takes them has enough
		}
		return err
	})
	var err error
	for list := range ahead {
		for i := range list {
			if err == nil {
				if err = yield(list[i].n, list[i].row); err != nil {
					close(stop)
				}
			}
		}
	}
	return errors.Join(err, g.Wait())
}

// ReadRow reads a row: a JSON object. Half of a surrogate pair is no character,
// and is kept as something that no cell holds.
func ReadRow(line []byte) (Row, error) {
	d := json.NewDecoder(bytes.NewReader(wholePairs(line)))
	d.UseNumber()
	var row Row
	if err := d.Decode(&row); err != nil {
		return nil, fmt.Errorf("it is no JSON object (%w)", err)
	}
	if row == nil {
		return nil, errors.New("it is no JSON object")
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return nil, errors.New("something follows the object")
	}
	return row, nil
}

// wholePairs puts U+FFFF, which is no character, in the place of escapes that
// are half of a pair; a decoder would make a character of them.
func wholePairs(line []byte) []byte {
	if !bytes.Contains(line, []byte(`\ud`)) && !bytes.Contains(line, []byte(`\uD`)) {
		return line
	}
	out := bytes.Clone(line)
	for i := 0; i+1 < len(out); i++ {
		if out[i] != '\\' {
			continue
		}
		half := surrogate(out[i:])
		switch {
		case half == 0:
			i++ // what is escaped
		case half == 'h' && surrogate(out[i+6:]) == 'l':
			i += 11
		default:
			copy(out[i+2:i+6], "ffff")
			i += 5
		}
	}
	return out
}

// surrogate tells whether an escape is the high or the low half of a pair: h, l; 0 for neither.
func surrogate(b []byte) byte {
	if len(b) < 6 || b[0] != '\\' || b[1] != 'u' || b[2]|0x20 != 'd' {
		return 0
	}
	switch c := b[3] | 0x20; {
	case c == '8' || c == '9' || c == 'a' || c == 'b' || b[3] == '8' || b[3] == '9':
		return 'h'
	case c >= 'c' && c <= 'f':
		return 'l'
	}
	return 0
}

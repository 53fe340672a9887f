package feed

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// jsonLines is JSON Lines: an object a line. A broken line is a row of its own.
type jsonLines struct{}

func (jsonLines) name() string { return "jsonl" }

// recognise wants an object on most of the first lines; a single line is a JSON
// document where it has a list of objects in it.
func (jsonLines) recognise(head []byte) bool {
	if t := bytes.TrimLeft(head, " \t\r\n"); len(t) == 0 || t[0] != '{' {
		return false
	}
	lines, objects := 0, 0
	for line := range bytes.Lines(head) {
		if line = bytes.TrimSpace(line); len(line) == 0 {
			continue
		}
		if lines++; line[0] == '{' && json.Valid(line) {
			objects++
		}
		if lines == 20 {
			break
		}
	}
	if lines == 1 {
		return objects == 1 && !bytes.Contains(head, []byte("[{")) && !bytes.Contains(head, []byte("[ {"))
	}
	return objects*2 >= lines
}

func (jsonLines) look(in *input, s Settings) (Look, error) {
	return keyedLook(s, func(k *keys, yield func(*Record) bool) error { return eachLine(in, k, yield) }, "there is no object in this file")
}

func (jsonLines) records(in *input, l *Look, yield func(*Record) bool) error {
	return eachLine(in, keysOf(l), yield)
}

func eachLine(in *input, k *keys, yield func(*Record) bool) error {
	r, err := in.text()
	if err != nil {
		return err
	}
	defer r.Close()
	b := bufio.NewReaderSize(r, 256<<10)
	var rec Record
	for n := 1; ; n++ {
		line, err := wholeLine(b, n)
		if err != nil && !errors.Is(err, io.EOF) {
			return in.broken(err)
		}
		rec.reset(n)
		if t := bytes.TrimSpace(line); len(t) > 0 {
			if !json.Valid(t) {
				rec.Broken = "this line is no whole JSON object"
				rec.Cells = append(rec.Cells, clip(string(t), 200))
			} else if err := k.object(&rec, t); err != nil {
				return err
			}
			if !yield(&rec) {
				return nil
			}
		}
		if errors.Is(err, io.EOF) {
			return nil
		}
	}
}

// wholeLine reads a line of up to MaxToken bytes.
func wholeLine(b *bufio.Reader, n int) ([]byte, error) {
	var all []byte
	for {
		part, err := b.ReadSlice('\n')
		if all == nil && err == nil {
			return part, nil
		}
		all = append(all, part...)
		if len(all) > MaxToken {
			return nil, &Error{
				Row:    n,
				limit:  true,
				Reason: fmt.Sprintf("has more than %d MiB, which is the most that is read of one line", MaxToken>>20),
			}
		}
		if !errors.Is(err, bufio.ErrBufferFull) {
			return all, err
		}
	}
}

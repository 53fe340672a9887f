package feed

import (
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// input is a file with its wrapping and its encoding seen through: it can be
// read from the start as often as is needed.
type input struct {
	path     string
	wrapping string // gzip, zip or ""
	encoding string // utf-8, utf-16, windows-1252; "" for a sheet, which is no text
	decode   encoding.Encoding
	head     []byte // the first characters, decoded
	inner    []byte // a workbook that was wrapped once more
}

// maxInner is the most that a workbook inside a gzip or a zip may have: it is
// read here and there, so it is held.
const maxInner = 64 << 20

// TooBig is the error for a file of n bytes, over MaxBytes.
func TooBig(n int64) error {
	return wrong(
		"the file has %d MiB, and %d MiB is the most that is read; split it and bring the parts in as one source set to update",
		n>>20,
		int64(MaxBytes)>>20,
	)
}

var errBomb = wrong("unpacked, the file has more than %d MiB, which is the most that is read", int64(MaxPlain)>>20)

// unwrap looks through the whole file once: for its wrapping, its size
// unpacked, and whether it is UTF-8 from end to end.
func unwrap(path string) (*input, error) {
	in := &input{path: path}
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	info, err := file.Stat()
	switch {
	case err != nil:
		return nil, err
	case info.Size() == 0:
		return nil, wrong("the file is empty; ask the supplier to send it again")
	case info.Size() > MaxBytes:
		return nil, TooBig(info.Size())
	}
	if isOldSheet(path) {
		return nil, wrong("this is an old sheet (XLS) or one with a password; save it as XLSX without a password and bring it in again")
	}
	magic := make([]byte, 4)
	n, err := io.ReadFull(file, magic)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, err
	}
	switch magic = magic[:n]; {
	case bytes.HasPrefix(magic, []byte("\x1f\x8b")):
		in.wrapping = "gzip"
	case bytes.HasPrefix(magic, []byte("PK\x03\x04")), bytes.HasPrefix(magic, []byte("PK\x05\x06")):
		sheet, err := isSheet(file, info.Size())
		if err != nil {
			return nil, err
		}
		if sheet {
			in.head = []byte(sheetMark)
			return in, nil
		}
		in.wrapping = "zip"
	}
	return in, in.sniff()
}

// sniff reads all of the plain bytes once.
func (in *input) sniff() error {
	if in.wrapping != "" {
		if found, err := in.wrappedSheet(); found || err != nil {
			return err
		}
	}
	r, err := in.plain()
	if err != nil {
		return err
	}
	defer r.Close()
	valid, read := true, int64(0)
	buf, kept := make([]byte, 256<<10), 0 // kept: the start of a character cut off at the end
	var head []byte
	for {
		n, err := r.Read(buf[kept:])
		if read += int64(n); head == nil || len(head) < 64<<10 {
			head = append(head, buf[kept:kept+n]...)
		}
		all := buf[:kept+n]
		if valid {
			cut := len(all)
			if err == nil { // at most three bytes of a character may be still to come
				for back := 1; back < utf8.UTFMax && back <= len(all); back++ {
					if b := all[len(all)-back]; utf8.RuneStart(b) {
						if !utf8.FullRune(all[len(all)-back:]) {
							cut = len(all) - back
						}
						break
					}
				}
			}
			valid = utf8.Valid(all[:cut])
			kept = copy(buf, all[cut:])
		} else {
			kept = 0
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return in.broken(err)
		}
	}
	if read == 0 {
		return wrong("the file is empty; ask the supplier to send it again")
	}
	in.encoding, in.decode = encodingOf(head, valid)
	if in.decode != nil {
		decoded, _, err := transform.Bytes(in.decode.NewDecoder(), head[:len(head)&^1])
		if err != nil {
			return wrong("the text can't be decoded as %s: %v", in.encoding, err)
		}
		head = decoded
	}
	in.head = bytes.TrimPrefix(head, []byte("\ufeff"))
	return nil
}

// wrappedSheet takes up a workbook inside a gzip or a zip.
func (in *input) wrappedSheet() (bool, error) {
	r, err := in.plain()
	if err != nil {
		return false, err
	}
	defer r.Close()
	b := bufio.NewReader(r)
	if magic, err := b.Peek(4); err != nil || string(magic) != "PK\x03\x04" {
		return false, nil
	}
	all, err := io.ReadAll(io.LimitReader(b, maxInner+1))
	switch {
	case err != nil:
		return false, in.broken(err)
	case len(all) > maxInner:
		return false, wrong(
			"the sheet inside the %s has more than %d MiB, which is the most that is read of one; send it as it is",
			in.wrapping,
			maxInner>>20,
		)
	}
	sheet, err := isSheet(bytes.NewReader(all), int64(len(all)))
	if err != nil || !sheet {
		return false, err
	}
	in.inner, in.head = all, []byte(sheetMark)
	return true, nil
}

func encodingOf(head []byte, valid bool) (string, encoding.Encoding) {
	switch {
	case bytes.HasPrefix(head, []byte("\xff\xfe")):
		return "utf-16", unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case bytes.HasPrefix(head, []byte("\xfe\xff")):
		return "utf-16", unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	}
	var zeros [2]int
	some := head[:min(len(head), 4096)]
	for i, b := range some {
		if b == 0 {
			zeros[i%2]++
		}
	}
	if most := len(some) / 2 * 3 / 4; len(some) >= 4 && zeros[1] > most && zeros[0] == 0 {
		return "utf-16", unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)
	} else if len(some) >= 4 && zeros[0] > most && zeros[1] == 0 {
		return "utf-16", unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	}
	if valid {
		return "utf-8", nil
	}
	return "windows-1252", charmap.Windows1252
}

func (in *input) broken(err error) error {
	var e *Error
	if errors.As(err, &e) || in.wrapping == "" {
		return err
	}
	return wrong("the %s file is broken (%v); ask the supplier to send it again", in.wrapping, err)
}

// text opens the file from its start as UTF-8 without a byte-order mark.
func (in *input) text() (io.ReadCloser, error) {
	r, err := in.plain()
	if err != nil {
		return nil, err
	}
	if in.decode != nil {
		r = &both{transform.NewReader(r, in.decode.NewDecoder()), r}
	}
	b := bufio.NewReaderSize(r, 256<<10)
	if mark, err := b.Peek(3); err == nil && bytes.Equal(mark, []byte("\ufeff")) {
		_, _ = b.Discard(3)
	}
	return &both{b, r}, nil
}

// plain opens the file unpacked.
func (in *input) plain() (io.ReadCloser, error) {
	file, err := os.Open(in.path)
	if err != nil {
		return nil, err
	}
	switch in.wrapping {
	case "gzip":
		z, err := gzip.NewReader(bufio.NewReaderSize(file, 256<<10))
		if err != nil {
			_ = file.Close()
			return nil, in.broken(err)
		}
		return &both{&capped{r: z}, file}, nil
	case "zip":
		inner, err := single(file)
		if err != nil {
			_ = file.Close()
			return nil, err
		}
		return &both{&capped{r: inner}, &two{inner, file}}, nil
	}
	return file, nil
}

// single opens the one file in a zip.
func single(file *os.File) (io.ReadCloser, error) {
	info, err := file.Stat()
	if err != nil {
		return nil, err
	}
	z, err := zip.NewReader(file, info.Size())
	if err != nil {
		return nil, wrong("the zip file is broken (%v); ask the supplier to send it again", err)
	}
	var found *zip.File
	for _, f := range z.File {
		if f.FileInfo().IsDir() {
			continue
		}
		if found != nil {
			return nil, wrong(
				"the zip holds more than one file (%s and %s); pack the one that is to be read by itself",
				clip(found.Name, 80),
				clip(f.Name, 80),
			)
		}
		found = f
	}
	if found == nil {
		return nil, wrong("the zip holds no file")
	}
	r, err := found.Open()
	if err != nil {
		return nil, wrong("the zip file can't be unpacked (%v); pack it without a password", err)
	}
	return r, nil
}

// capped ends a stream that unpacks to more than MaxPlain.
type capped struct {
	r io.Reader
	n int64
}

func (c *capped) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	if c.n += int64(n); c.n > MaxPlain {
		return 0, errBomb
	}
	return n, err
}

type both struct {
	io.Reader
	io.Closer
}

type two [2]io.Closer

func (t *two) Close() error { return errors.Join(t[0].Close(), t[1].Close()) }

// clip shortens a text to n bytes, at a character.
func clip(s string, n int) string {
	if len(s) <= n {
		return s
	}
	for n > 0 && !utf8.RuneStart(s[n]) {
		n--
	}
	return s[:n] + "…"
}

func tooLong(row int) error {
	return &Error{
		Row:   row,
		limit: true,
		Reason: fmt.Sprintf(
			"has a cell of more than %d KiB, which is the most that is read; a quote opened there may never be closed",
			MaxCell>>10,
		),
	}
}

func tooMany(row int) error {
	return &Error{Row: row, limit: true, Reason: fmt.Sprintf("has more than %d columns, which is the most that is read", MaxColumns)}
}

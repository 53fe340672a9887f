package store

import (
	"bufio"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"io"
	"os"
	"path/filepath"
	"strconv"

	"easymargin/core/supply"
)

// marks are what an intake has to know of each product of a source: 25 bytes
// an entry, kept in a file beside the data so that the next feed of a million
// rows needn't read the table for them. The file is a cache and nothing more:
// it belongs to the data only as long as the source names it, which is set in
// the transaction that took the feed, and without it the table is read.
type mark struct {
	hash, print, id int64
	state           byte
}

// State bits of a mark.
const (
	markAway    = 1 << iota // gone, or missing from the last feed
	markGone                // gone
	markStocked             // has stock
)

const markSize = 25

func (s *Store) marksFile(sourceID int64, tag string) string {
	return filepath.Join(s.dir, "marks-"+strconv.FormatInt(sourceID, 10)+"-"+filepath.Base(tag))
}

// readMarks calls fn for every mark of the file a source names; false where it
// can't be used.
func (s *Store) readMarks(source *Source, fn func(m mark)) bool {
	if source.Marks == "" {
		return false
	}
	file, err := os.Open(s.marksFile(source.ID, source.Marks))
	if err != nil {
		return false
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil || info.Size() < 4 || (info.Size()-4)%markSize != 0 {
		return false
	}
	sum, r := crc32.NewIEEE(), bufio.NewReaderSize(file, 64<<10)
	var one [markSize]byte
	for range (info.Size() - 4) / markSize {
		if _, err := io.ReadFull(r, one[:]); err != nil {
			return false
		}
		sum.Write(one[:])
		fn(
			mark{
				int64(binary.LittleEndian.Uint64(one[:])),
				int64(binary.LittleEndian.Uint64(one[8:])),
				int64(binary.LittleEndian.Uint64(one[16:])),
				one[24],
			},
		)
	}
	_, err = io.ReadFull(r, one[:4])
	return err == nil && binary.LittleEndian.Uint32(one[:4]) == sum.Sum32()
}

// writeMarks writes a new file of marks and gives its tag. Where it can't be
// written the source goes without.
func (s *Store) writeMarks(sourceID int64, known *supply.Prints, state func(id int64) byte) string {
	tag := rand.Text()
	file, err := os.OpenFile(s.marksFile(sourceID, tag), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return ""
	}
	sum, w := crc32.NewIEEE(), bufio.NewWriterSize(file, 64<<10)
	var one [markSize]byte
	known.Each(func(hash, print, id int64) {
		binary.LittleEndian.PutUint64(one[:], uint64(hash))
		binary.LittleEndian.PutUint64(one[8:], uint64(print))
		binary.LittleEndian.PutUint64(one[16:], uint64(id))
		one[24] = state(id)
		sum.Write(one[:])
		_, _ = w.Write(one[:]) // Flush tells
	})
	_, _ = w.Write(binary.LittleEndian.AppendUint32(nil, sum.Sum32()))
	if errors.Join(w.Flush(), file.Close()) != nil {
		return ""
	}
	return tag
}

// tidyMarks removes the files of a source but the one it names now.
func (s *Store) tidyMarks(sourceID int64, tag string) error {
	list, err := filepath.Glob(s.marksFile(sourceID, "*"))
	var errs []error
	for _, f := range list {
		if f != s.marksFile(sourceID, tag) {
			errs = append(errs, os.Remove(f))
		}
	}
	return errors.Join(append(errs, err)...)
}

package feed

import "easymargin/internal/fault"

// aheadRows is how many records go from the scanner to the parser at a time.
const aheadRows = 256

// ahead yields the records of a file that aren't blank, cut by another
// goroutine a few steps ahead, so that cutting and parsing share two cores.
func (f *File) ahead(yield func(*Record) bool) error {
	parts, free, done := make(chan []Record, 4), make(chan []Record, 6), make(chan error, 1)
	stop := make(chan struct{})
	go func() {
		defer close(parts)
		var part []Record
		send := func() bool {
			select {
			case parts <- part:
			case <-stop:
				return false
			}
			select {
			case part = <-free:
				part = part[:0]
			default:
				part = nil
			}
			return true
		}
		cut := func(r *Record) bool {
			if r.blank() {
				return true
			}
			if len(part) < cap(part) {
				part = part[:len(part)+1]
			} else {
				part = append(part, Record{})
			}
			to := &part[len(part)-1]
			to.Row, to.Lists, to.Broken = r.Row, r.Lists, r.Broken
			to.Cells, to.Number = append(to.Cells[:0], r.Cells...), append(to.Number[:0], r.Number...)
			return len(part) < aheadRows || send()
		}
		done <- fault.Caught(func() error { return f.kind.records(f.in, &f.base, cut) })
		if len(part) > 0 {
			send()
		}
	}()
	more := true
	for part := range parts {
		for i := range part {
			if more = more && yield(&part[i]); !more {
				break
			}
		}
		if !more {
			break
		}
		select {
		case free <- part:
		default:
		}
	}
	close(stop)
	for range parts { // let the scanner end before its file is anybody else's
	}
	return <-done
}

package stops

import (
	"context"
	"errors"
	"io"
	"net/http"
	"time"

	"easymargin/internal/fault"
)

// patient reads a body that must keep coming: each part of it has its own time.
type patient struct {
	io.Reader
	control *http.ResponseController
	stall   time.Duration
}

func (p *patient) Read(b []byte) (int, error) {
	_ = p.control.SetReadDeadline(time.Now().Add(p.stall)) // where it can't be set there is none
	return p.Reader.Read(b)
}

// receive gives the body of a request to whoever keeps it, as it comes, so that
// any size streams to disk. Where nothing more of it comes for a while, that is
// said, by its name.
func receive(w http.ResponseWriter, r *http.Request, name string, stall time.Duration, keep func(io.Reader) error) error {
	control := http.NewResponseController(w)
	err := keep(&patient{r.Body, control, stall})
	_ = control.SetReadDeadline(time.Time{})
	var t interface{ Timeout() bool }
	if errors.Is(err, context.DeadlineExceeded) || errors.As(err, &t) && t.Timeout() {
		return fault.New(fault.Invalid, "nothing more of %s came for %d seconds; nothing of it was kept, send it again", name, int(stall.Seconds()))
	}
	return err
}

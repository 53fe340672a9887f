package web

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/http"
	"time"
)

// events streams runs and changes until the listener goes, or its log-in ends.
func (s *server) events(w http.ResponseWriter, r *http.Request) {
	c, end := s.Events.Listen()
	defer end()
	flush := http.NewResponseController(w)
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	_, _ = fmt.Fprint(w, ": here\n\n")
	if flush.Flush() != nil {
		return
	}
	beat := time.NewTicker(cmp.Or(s.Beat, 20*time.Second))
	defer beat.Stop()
	for {
		select {
		case <-r.Context().Done():
			return
		case <-beat.C:
			if who, err := s.known(r); err != nil || who.May == 0 { // its log-in has ended since
				return
			}
			_, _ = fmt.Fprint(w, ": still here\n\n")
		case e := <-c:
			text, err := json.Marshal(e)
			if err != nil {
				return
			}
			_, _ = fmt.Fprintf(w, "data: %s\n\n", text)
		}
		if flush.Flush() != nil {
			return
		}
	}
}

package sim

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"sync"
	"time"
)

// OwnHost stands in a list for the address of the stand-in that serves it.
const OwnHost = "http://own.invalid"

// Supplier serves a price list at an address. The first call gets the first
// list; later ones the next, once Every has gone by since the list changed.
type Supplier struct {
	Clock *Clock
	Every time.Duration
	Lists [][]byte
	Type  string // media type of the lists
	// Made makes the list of a moment, where it isn't one of Lists.
	Made func(now time.Time) []byte

	mu      sync.Mutex
	at      int
	changed time.Time
	down    bool
}

// SetDown makes the address fail, or work again.
func (s *Supplier) SetDown(down bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.down = down
}

// ServeHTTP serves the list of the moment, with an ETag.
func (s *Supplier) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	now := s.Clock.Now()
	switch {
	case s.changed.IsZero():
		s.changed = now
	case s.at < len(s.Lists)-1 && now.Sub(s.changed) >= s.Every:
		s.at++
		s.changed = now
	}
	changed, down := s.changed, s.down
	var list []byte
	if s.Made == nil {
		list = s.Lists[s.at]
	}
	s.mu.Unlock()
	if s.Made != nil {
		list, changed = s.Made(now), time.Time{}
	}
	if down {
		http.Error(w, "the price list is being rebuilt", http.StatusServiceUnavailable)
		return
	}
	list = bytes.ReplaceAll(list, []byte(OwnHost), []byte("http://"+r.Host)) // wherever it happens to listen
	sum := sha256.Sum256(list)
	w.Header().Set("ETag", `"`+hex.EncodeToString(sum[:8])+`"`)
	if !changed.IsZero() {
		w.Header().Set("Last-Modified", changed.Format(http.TimeFormat))
	}
	w.Header().Set("Content-Type", s.Type)
	if r.Header.Get("If-None-Match") == w.Header().Get("ETag") {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	_, _ = w.Write(list)
}

// at and changed are what has to outlive a restart.
type supplierState struct {
	At      int
	Changed time.Time
}

func (s *Supplier) state() supplierState {
	s.mu.Lock()
	defer s.mu.Unlock()
	return supplierState{s.at, s.changed}
}

func (s *Supplier) restore(st supplierState) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.at, s.changed = max(0, min(st.At, len(s.Lists)-1)), st.Changed
}

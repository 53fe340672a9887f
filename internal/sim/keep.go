package sim

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"sync"
	"time"
)

// World is all stand-ins of a demo, kept in a file so that a restart finds
// them as they were.
type World struct {
	Clock    *Clock
	Supplier *Supplier
	Market   *Marketplace

	mu   sync.Mutex
	file string
}

type worldState struct {
	Time     time.Time
	Supplier supplierState
	Own      map[string]*own
	Batches  map[string]*batch
	Keys     map[string]string
	Done     map[string]outcome
}

// Keep restores the stand-ins from file, if it is there, and writes it after
// every change from then on.
func (w *World) Keep(file string) error {
	w.Market.once.Do(w.Market.init)
	w.file = file
	text, err := os.ReadFile(file)
	switch {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return fmt.Errorf("reading the stand-ins: %w", err)
	default:
		var st worldState
		if err := json.Unmarshal(text, &st); err != nil {
			return fmt.Errorf("reading the stand-ins in %s: %w", file, err)
		}
		w.Clock.Forward(st.Time.Sub(w.Clock.Now()))
		w.Supplier.restore(st.Supplier)
		w.Market.own, w.Market.batches, w.Market.keys, w.Market.done = st.Own, st.Batches, st.Keys, st.Done
	}
	w.Market.changed = w.save
	return nil
}

// save is called with the marketplace locked.
func (w *World) save() {
	w.mu.Lock()
	defer w.mu.Unlock()
	m := w.Market
	text, err := json.Marshal(worldState{w.Clock.Now(), w.Supplier.state(), m.own, m.batches, m.keys, m.done})
	if err == nil {
		next := w.file + ".next"
		if err = os.WriteFile(next, text, 0o600); err == nil {
			err = os.Rename(next, w.file)
		}
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "keeping the stand-ins:", err)
	}
}

// Save writes the file now.
func (w *World) Save() {
	w.Market.mu.Lock()
	defer w.Market.mu.Unlock()
	w.save()
}

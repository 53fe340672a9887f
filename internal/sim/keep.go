package sim

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"net/http"
	"os"
	"sync"
	"time"
)

// World is all stand-ins of a demo, kept in a file so that a restart finds
// them as they were.
type World struct {
	Clock  *Clock
	Living bool                 // whose lists and rivals move by the clock
	Lists  map[string]*Supplier // by path
	Pages  Pages
	Market *Marketplace
	Others map[string]*Marketplace // by the path they are under
	Rates  *Rates

	mu    sync.Mutex
	file  string
	state map[string]json.RawMessage // of each marketplace, as of its last change
}

type worldState struct {
	Living  bool
	Time    time.Time
	Lists   map[string]supplierState
	Markets map[string]json.RawMessage // marketState by path; the first's is ""
}

// KeptLiving tells whether the stand-ins kept in file, if any, are of a living world.
func KeptLiving(file string) (living, there bool, err error) {
	text, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		return false, false, nil
	}
	if err != nil {
		return false, false, fmt.Errorf("reading the stand-ins: %w", err)
	}
	var st struct{ Living bool }
	if err := json.Unmarshal(text, &st); err != nil {
		return false, true, fmt.Errorf("reading the stand-ins in %s: %w", file, err)
	}
	return st.Living, true, nil
}

// Keep restores the stand-ins from file, if it is there, and writes it after
// every change from then on.
func (w *World) Keep(file string) error {
	w.file, w.state = file, map[string]json.RawMessage{}
	markets := map[string]*Marketplace{"": w.Market}
	maps.Copy(markets, w.Others)
	for _, m := range markets {
		m.once.Do(m.init)
	}
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
		for path, l := range st.Lists {
			if s := w.Lists[path]; s != nil {
				s.restore(l)
			}
		}
		for path, m := range markets {
			if err := m.restore(st.Markets[path]); err != nil {
				return fmt.Errorf("reading the stand-ins in %s: %w", file, err)
			}
		}
	}
	for path, m := range markets {
		w.state[path] = m.kept()
		m.changed = func() { w.save(path, m) }
	}
	return nil
}

// Suppliers serves every supplier: their lists and their pages.
func (w *World) Suppliers() http.Handler {
	mux := http.NewServeMux()
	for path, s := range w.Lists {
		mux.Handle("GET "+path, s)
	}
	mux.HandleFunc("GET /pic/{ref}", photo(onPaper))
	mux.HandleFunc("GET /corrie/pic/{ref}", photo(onPaper))
	if w.Rates != nil {
		mux.Handle("GET "+RatesPath, w.Rates)
	}
	mux.Handle("GET /", w.Pages)
	return mux
}

// RatesPath is where exchange rates are served, beside the suppliers.
const RatesPath = "/rates/latest"

// Markets serves every marketplace: the first at the root, the others under their paths.
func (w *World) Markets() http.Handler {
	mux := http.NewServeMux()
	for path, m := range w.Others {
		mux.Handle(path+"/", http.StripPrefix(path, m))
	}
	mux.Handle("/", w.Market)
	return mux
}

// save is called with the marketplace locked.
func (w *World) save(path string, m *Marketplace) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.state[path] = m.kept()
	lists := map[string]supplierState{}
	for path, s := range w.Lists {
		lists[path] = s.state()
	}
	text, err := json.Marshal(worldState{w.Living, w.Clock.Now(), lists, w.state})
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
	w.save("", w.Market)
}

// marketState is what a marketplace knows of its seller.
type marketState struct {
	Own      map[string]map[string]*own
	Batches  map[string]*batch
	Keys     map[string]string
	Done     map[string]outcome
	Pictures map[string]bool
	Uploads  []*upload           `json:",omitempty"`
	Refused  map[string]string   `json:",omitempty"`
	Orders   map[string][]*Order `json:",omitempty"`
	Ordered  int                 `json:",omitempty"`
}

// kept is what is written down of a marketplace, which is locked.
func (m *Marketplace) kept() json.RawMessage {
	text, err := json.Marshal(marketState{m.own, m.batches, m.keys, m.done, m.pictures, m.uploads, m.refusedOnce, m.orders, m.ordered})
	if err != nil {
		panic(err) // plain values only
	}
	return text
}

// restore puts back what was written down; nothing of what wasn't.
func (m *Marketplace) restore(text json.RawMessage) error {
	if text == nil {
		return nil
	}
	var st marketState
	if err := json.Unmarshal(text, &st); err != nil {
		return err
	}
	m.own, m.batches, m.keys, m.done, m.pictures, m.uploads = st.Own, st.Batches, st.Keys, st.Done, st.Pictures, st.Uploads
	m.orders, m.ordered = st.Orders, st.Ordered
	if st.Refused != nil {
		m.refusedOnce = st.Refused
	}
	if m.pictures == nil {
		m.pictures = map[string]bool{}
	}
	for _, listed := range m.own {
		for _, o := range listed {
			if o.Content != nil && o.Entry != "" && m.byRef[o.Entry] == nil {
				m.putEntry(o.Entry, o.Content)
			}
		}
	}
	return nil
}

package sending

import (
	"context"
	"fmt"
	"slices"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// How says where, when and in what order that goes which a person lets go. The
// zero value is all of it, at once, in the order it became ready. What takes
// stock down never waits: it goes at once whatever is said here.
type How struct {
	Sites []int64    `json:"sites,omitempty" maxItems:"1000" doc:"Only to these; to all where left out"`
	At    *time.Time `json:"at,omitempty" doc:"Not before; at once where left out"`
	Over  int64      `json:"over_minutes,omitempty" minimum:"0" maximum:"1440" doc:"Spread over so long from then on; filled sheets and tasks stay whole"`
	Order string     `json:"order,omitempty" enum:"profit,price" doc:"What goes first: what earns most, or what costs most; as they became ready where left out"`
}

// longestWait is how far ahead something may be let go: its figures are looked at
// again before it goes, but a person forgets what they let go a month ago.
const longestWait = 30 * 24 * time.Hour

// check says what is wrong with it.
func (h How) check(now time.Time) error {
	if h.At == nil {
		return nil
	}
	if wait := h.At.Sub(now); wait > longestWait {
		return fault.At("at", "%s is more than 30 days ahead; choose an earlier time", h.At.Format("2 January 2006 15:04"))
	} else if wait < -time.Minute {
		return fault.At("at", "%s has passed; choose a later time, or leave it out to send at once", h.At.Format("2 January 2006 15:04"))
	}
	return nil
}

// goes tells whether what is for a site is among it.
func (h How) goes(site int64) bool { return len(h.Sites) == 0 || slices.Contains(h.Sites, site) }

// step is how far apart the parts of what is spread are.
const step = 5 * time.Minute

// part is lines of one site that go together, and from when on; nil: at once.
type part struct {
	lines []store.SendLine
	at    *time.Time
}

// waits tells whether anything of it is to wait.
func (h How) waits() bool { return h.At != nil || h.Over > 0 }

// parts divides lines for a site: no more in one than it takes, and spread over
// the time that was said. offered is how many are on offer of each listing now.
func (h How) parts(site *store.Site, lines []store.SendLine, offered map[int64]int64, now time.Time) []part {
	if !h.waits() {
		return inParts(lines, mostLines(site), nil)
	}
	var first, waits []store.SendLine
	for _, l := range lines {
		if l.Quantity != nil && *l.Quantity < offered[l.ListingID] {
			first = append(first, l)
		} else {
			waits = append(waits, l)
		}
	}
	out := inParts(first, mostLines(site), nil)
	from := now
	if h.At != nil {
		from = *h.At
	}
	n := int64(1)
	if !bySheet(site) {
		n = max(n, min(int64(time.Duration(h.Over)*time.Minute/step)+1, int64(len(waits))))
	}
	apart := time.Duration(h.Over) * time.Minute / time.Duration(max(n-1, 1))
	each := (int64(len(waits)) + n - 1) / n
	for i, p := range inParts(waits, each, nil) {
		at := from.Add(time.Duration(i) * apart)
		out = append(out, inParts(p.lines, mostLines(site), &at)...)
	}
	return out
}

func inParts(lines []store.SendLine, most int64, at *time.Time) []part {
	var out []part
	for some := range slices.Chunk(lines, int(max(most, 1))) {
		out = append(out, part{some, at})
	}
	return out
}

// Hold keeps a send-out that was not handed over yet from going, until Release.
func (st *Stop) Hold(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return st.pause(tx, id, true, "send-out held") })
}

// Release lets a send-out go on that was held: at once, or when its time comes.
func (st *Stop) Release(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		return stops.First(st.pause(tx, id, false, "send-out released"), st.resume(tx))
	})
}

func (st *Stop) pause(tx store.Tx, id int64, on bool, what string) error {
	o, err := store.GetTx[store.SendOut](tx, id)
	if err != nil {
		return err
	}
	if o.State != store.SendWaiting {
		return fault.New(fault.Conflict, "this send-out was handed over already, so it can't be held; what it changed can be taken back")
	}
	tx.Changed("sendouts", "counts")
	return stops.First(tx.Update(&o, map[string]any{"paused": on}), tx.Note(st.Now(), what, fmt.Sprint(id), ""))
}

package today

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// runTidy drops what has been kept for long enough.
const runTidy = "tidy"

// kind is something that is kept for a while.
type kind struct {
	name  string
	words string
	days  int64 // unless set otherwise
	least int64
	drop  func(st *Stop, ctx context.Context, before time.Time) (int64, error)
}

// inStore drops rows.
func inStore(what string) func(st *Stop, ctx context.Context, before time.Time) (int64, error) {
	return func(st *Stop, ctx context.Context, before time.Time) (int64, error) {
		all := int64(0)
		for {
			n := int64(0)
			err := st.Store.Do(ctx, func(tx store.Tx) (err error) { n, err = tx.Tidy(what, before); return err })
			if all += n; err != nil || n == 0 {
				return all, err
			}
		}
	}
}

var kinds = []kind{
	{"files", "Suppliers' files in the inbox, once taken or discarded", 30, 1, (*Stop).dropFiles},
	{"history", "What feeds changed of suppliers' costs and stock", 730, 60, inStore("history")},
	{"sendouts", "Send-outs that are through, and the lines of plans they came from", 400, 60, inStore("sendouts")},
	{"runs", "Runs that are over", 60, 1, inStore("runs")},
	{"audit", "Who did what", 730, 30, inStore("audit")},
	{"answers", "Answers to writes, so that one that comes again is not done twice", 1, 1, inStore("answers")},
	{"buyers", "Names and addresses of buyers, once their order is over; and mails", 90, 1, inStore("buyers")},
	{"sessions", "Log-ins and baskets that nobody used", 30, 1, inStore("sessions")},
}

// Kept says how long one kind of thing is kept.
type Kept struct {
	Kind  string `json:"kind"`
	Words string `json:"words"`
	Days  int64  `json:"days" minimum:"1" maximum:"36500"`
	Least int64  `json:"least" doc:"Days it is kept at least"`
}

// Edition implements stops.Edited.
func (k Keeping) Edition() int64 { return k.Version }

// Keeping says how long things are kept.
type Keeping struct {
	Version int64      `json:"version" doc:"For If-Match"`
	Kinds   []Kept     `json:"kinds"`
	Tidied  *time.Time `json:"tidied" doc:"When what was older was dropped last"`
	Note    string     `json:"note" doc:"What was dropped then"`
}

// keepingSetting is the setting of days by kind, JSON.
const keepingSetting = "keeping"

// Keeping is how long things are kept now.
func (st *Stop) Keeping(ctx context.Context) (Keeping, error) {
	out, err := kept(st.Store.Reading(ctx))
	if err != nil {
		return out, err
	}
	last, there, err := st.Store.LastRun(ctx, runTidy)
	if there {
		out.Tidied, out.Note = last.EndedAt, last.Note
	}
	return out, err
}

// kept is how long things are kept, as it was set.
func kept(tx store.Tx) (Keeping, error) {
	set, err := tx.Setting(keepingSetting)
	if err != nil {
		return Keeping{}, err
	}
	days := map[string]int64{}
	if set.Value != "" {
		if err := json.Unmarshal([]byte(set.Value), &days); err != nil {
			return Keeping{}, fmt.Errorf("how long things are kept: %w", err)
		}
	}
	out := Keeping{Version: set.Version, Kinds: []Kept{}}
	for _, k := range kinds {
		x := Kept{k.name, k.words, k.days, k.least}
		if d, ok := days[k.name]; ok {
			x.Days = d
		}
		out.Kinds = append(out.Kinds, x)
	}
	return out, nil
}

// Keep sets how long things are kept, in days by kind; kinds that are left out
// stay as they are. What is older goes at once.
func (st *Stop) Keep(ctx context.Context, edit stops.IfMatch, days map[string]int64) error {
	for name, d := range days {
		i := slices.IndexFunc(kinds, func(k kind) bool { return k.name == name })
		if i < 0 {
			return fault.At("days", "nothing of the kind %q is kept", name)
		}
		if d < kinds[i].least {
			return fault.At("days."+name, "%s: kept for at least %s", kinds[i].words, stops.Plural(kinds[i].least, "day", "days"))
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		now, err := kept(tx)
		if err != nil {
			return err
		}
		if err := edit.Check(now.Version, "how long things are kept", now); err != nil {
			return err
		}
		set := map[string]int64{}
		for _, k := range now.Kinds {
			set[k.Kind] = k.Days
		}
		maps.Copy(set, days)
		text, err := json.Marshal(set)
		if err != nil {
			return err
		}
		if err := tx.PutSetting(keepingSetting, string(text)); err != nil {
			return err
		}
		if err := st.queueTidy(tx); err != nil {
			return err
		}
		tx.Changed("keeping")
		var said []string
		for _, k := range kinds {
			if d, ok := days[k.name]; ok {
				said = append(said, fmt.Sprintf("%s %d days", k.name, d))
			}
		}
		return tx.Note(st.Now(), "keeping set", "", strings.Join(said, ", "))
	})
}

func (st *Stop) queueTidy(tx store.Tx) error {
	return tx.Queue(&store.Run{Kind: runTidy, Lane: runTidy, Title: "Tidying away what is old", Once: true, CreatedAt: st.Now()})
}

// day is the day on which something was done last.
type day struct {
	mu sync.Mutex
	at string
}

// is tells whether it is another day now, and notes it.
func (d *day) is(now time.Time) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	was := d.at
	d.at = now.Format(time.DateOnly)
	return was != d.at
}

// Round has what is old tidied away once a day.
func (st *Stop) Round(ctx context.Context) error {
	if !st.tidied.is(st.Now()) {
		return nil
	}
	return st.Store.Do(ctx, st.queueTidy)
}

// doTidy drops what has been kept for long enough, a kind after another.
func (st *Stop) doTidy(ctx context.Context, t *work.Task) error {
	now, err := st.Keeping(ctx)
	if err != nil {
		return err
	}
	var said []string
	for i, k := range kinds {
		n, err := k.drop(st, ctx, st.Now().AddDate(0, 0, -int(now.Kinds[i].Days)))
		if err != nil {
			return fmt.Errorf("tidying away %s: %w", k.name, err)
		}
		if n > 0 {
			said = append(said, fmt.Sprintf("%d %s", n, k.name))
		}
		t.At(int64(i+1), int64(len(kinds)))
	}
	if t.Note = "dropped " + strings.Join(said, ", "); said == nil {
		t.Note = "nothing was old enough to drop"
	}
	return st.Store.Do(ctx, func(tx store.Tx) error { tx.Changed("keeping"); return nil })
}

// dropFiles removes the files of feeds that are over, and those that no feed
// names: a crash may have left them.
func (st *Stop) dropFiles(ctx context.Context, before time.Time) (int64, error) {
	old, err := st.Store.OldFiles(ctx, before)
	if err != nil {
		return 0, err
	}
	dropped := int64(0)
	for _, name := range old {
		if err := os.Remove(st.Store.Inbox(name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return dropped, err
		}
		dropped++
	}
	if err := st.Store.Do(ctx, func(tx store.Tx) error { return tx.ForgetFiles(old) }); err != nil {
		return dropped, err
	}
	list, err := os.ReadDir(st.Store.Inbox(""))
	if err != nil {
		return dropped, err
	}
	for _, d := range list {
		info, err := d.Info()
		if err != nil || time.Since(info.ModTime()) < 24*time.Hour { // on its way, perhaps
			continue
		}
		named, err := st.Store.FileNamed(ctx, d.Name())
		if err != nil {
			return dropped, err
		}
		if !named && os.Remove(st.Store.Inbox(d.Name())) == nil {
			dropped++
		}
	}
	return dropped, nil
}

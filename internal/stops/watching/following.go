package watching

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Figures are those of docs/definitions/following.md as a person writes them: shares as
// percentages. What a price rule leaves out is as its site has it.
type Figures struct {
	Buffer      *int64 `json:"buffer,omitempty" minimum:"0" maximum:"1000000" doc:"Kept back of what a supplier has, in listed units"`
	Least       *int64 `json:"least,omitempty" minimum:"0" maximum:"1000000" doc:"Less than so many is offered as none"`
	Cap         *int64 `json:"cap,omitempty" minimum:"1" maximum:"1000000" doc:"The most that is offered"`
	Patience    *int64 `json:"patience,omitempty" minimum:"1" maximum:"20" doc:"Feeds in a row that must have some before what was sold out is offered again"`
	Unknown     *int64 `json:"unknown,omitempty" minimum:"0" maximum:"1000000" doc:"What an unknown stock counts as"`
	Saving      string `json:"saving,omitempty" doc:"Another supplier takes over where it saves more of the landed cost"`
	Small       string `json:"small,omitempty" doc:"A smaller move of the price that meets what the rule keeps is left alone"`
	CostMoved   string `json:"cost_moved,omitempty" doc:"A change is held where the landed cost moved by more"`
	PriceMoved  string `json:"price_moved,omitempty" doc:"And where the price would move by more"`
	MovesPerDay *int64 `json:"moves_per_day,omitempty" minimum:"1" maximum:"1000" doc:"And after so many moves in 24 hours"`
	RivalMoves  *int64 `json:"rival_moves,omitempty" minimum:"1" maximum:"1000" doc:"After so many moves set by rivals in 24 hours the price waits"`
	Loss        *bool  `json:"loss,omitempty" doc:"A price may lose money without a person"`
	Rest        *bool  `json:"rest,omitempty" doc:"What loses money on every sale goes off sale while its price is held"`
}

// follow reads what a person wrote.
func (f Figures) follow() (reckon.Follow, error) {
	out := reckon.Follow{Buffer: f.Buffer, Least: f.Least, Cap: f.Cap, Patience: f.Patience, Unknown: f.Unknown, MovesPerDay: f.MovesPerDay,
		RivalMoves: f.RivalMoves, Loss: f.Loss, Rest: f.Rest}
	for _, x := range []struct {
		field, text string
		into        **money.Rate
	}{{"saving", f.Saving, &out.Saving}, {"small", f.Small, &out.Small}, {"cost_moved", f.CostMoved, &out.CostMoved},
		{"price_moved", f.PriceMoved, &out.PriceMoved}} {
		if x.text == "" {
			continue
		}
		v, err := stops.Share(x.field, x.text)
		if err == nil && v < 0 {
			err = fault.At(x.field, "%q is below nothing", x.text)
		}
		if err != nil {
			return out, err
		}
		*x.into = &v
	}
	return out, nil
}

// written are figures as a person would write them.
func written(f reckon.Follow) Figures {
	share := func(v *money.Rate) string {
		if v == nil {
			return ""
		}
		return v.String()
	}
	return Figures{f.Buffer, f.Least, f.Cap, f.Patience, f.Unknown, share(f.Saving), share(f.Small), share(f.CostMoved), share(f.PriceMoved),
		f.MovesPerDay, f.RivalMoves, f.Loss, f.Rest}
}

// whole are complete figures as a person would write them.
func whole(f reckon.Following) Figures {
	s, g := &f.Stock, &f.Guards
	return written(reckon.Follow{Buffer: &s.Buffer, Least: &s.Least, Cap: &s.Cap, Patience: &s.Patience, Unknown: &s.Unknown, Saving: &s.Saving,
		Small: &g.Small, CostMoved: &g.CostMoved, PriceMoved: &g.PriceMoved, MovesPerDay: &g.MovesPerDay, RivalMoves: &g.RivalMoves,
		Loss: &g.Loss, Rest: &g.Rest})
}

// SiteFollowing is how a site follows its suppliers and rivals.
type SiteFollowing struct {
	Figures    Figures    `json:"figures"`
	Runs       string     `json:"runs" enum:"by hand,alone" doc:"Whether what may go waits for a person, or is sent by itself"`
	ActsFrom   *time.Time `json:"acts_from,omitempty" readOnly:"true" doc:"Until then it only says what it would send by itself"`
	AtOnce     bool       `json:"at_once,omitempty" doc:"It acts from now on, without a week of only saying"`
	QuietFrom  string     `json:"quiet_from,omitempty" doc:"HH:MM by the machine's clock: from then on prices aren't sent by themselves"`
	QuietTo    string     `json:"quiet_to,omitempty"`
	MostAtOnce int64      `json:"most_at_once" minimum:"0" maximum:"10000000" doc:"More changes than that at once wait for a person; 0: any number"`
	MostADay   int64      `json:"most_a_day" minimum:"0" maximum:"10000000" doc:"So many go by themselves in 24 hours; 0: any number"`
	BatchHours int64      `json:"batch_hours" minimum:"1" maximum:"720" doc:"Hours after which you are told that a batch was never finished"`
}

// RuleFollowing is what a price rule sets otherwise than its site.
type RuleFollowing struct {
	ID       int64      `json:"id" readOnly:"true"`
	Version  int64      `json:"version" readOnly:"true"`
	Name     string     `json:"name" readOnly:"true"`
	Listings int64      `json:"listings" readOnly:"true"`
	Figures  Figures    `json:"figures"`
	Runs     string     `json:"runs" enum:",by hand,alone" doc:"Empty: as the site"`
	ActsFrom *time.Time `json:"acts_from,omitempty" readOnly:"true"`
	AtOnce   bool       `json:"at_once,omitempty"`
}

// FollowingView is how a site follows, with its price rules in their order.
type FollowingView struct {
	Version int64           `json:"version"`
	Site    SiteFollowing   `json:"site"`
	Rules   []RuleFollowing `json:"rules"`
}

// Edition implements stops.Edited.
func (v FollowingView) Edition() int64 { return v.Version }

// clockText is a minute of the day as a person writes it.
func clockText(m int64) string { return fmt.Sprintf("%02d:%02d", m/60, m%60) }

func minuteOf(field, text string) (int64, error) {
	t, err := time.Parse("15:04", text)
	if err != nil {
		return 0, fault.At(field, "%q is no time of day such as 22:00", text)
	}
	return int64(t.Hour()*60 + t.Minute()), nil
}

func siteFollowing(site store.Site) (SiteFollowing, error) {
	f, err := reckon.ReadFollow(site.Guards, site.Name)
	out := SiteFollowing{Figures: whole(f.Over(reckon.DefaultFollowing)), Runs: site.Runs, ActsFrom: site.ActsFrom, MostAtOnce: site.MostAtOnce,
		MostADay: site.MostADay, BatchHours: site.BatchHours}
	if site.QuietFrom != site.QuietTo {
		out.QuietFrom, out.QuietTo = clockText(site.QuietFrom), clockText(site.QuietTo)
	}
	return out, err
}

// Following is how a site follows.
func (st *Stop) Following(ctx context.Context, siteID int64) (FollowingView, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return FollowingView{}, err
	}
	out := FollowingView{Version: site.Version, Rules: []RuleFollowing{}}
	if out.Site, err = siteFollowing(site); err != nil {
		return out, err
	}
	counts, err := st.Store.RuleCounts(ctx, siteID)
	if err != nil {
		return out, err
	}
	holds := map[int64]int64{}
	for _, c := range counts {
		if c.RuleID != nil {
			holds[*c.RuleID] = c.N
		}
	}
	rows, err := st.Store.Reading(ctx).Rules(siteID)
	for _, row := range rows {
		x, err := ruleFollowing(row)
		if err != nil {
			return out, err
		}
		x.Listings = holds[row.ID]
		out.Rules = append(out.Rules, x)
	}
	return out, err
}

func ruleFollowing(row store.PriceRule) (RuleFollowing, error) {
	f, err := reckon.ReadFollow(row.Follows, "the price rule "+row.Name)
	return RuleFollowing{ID: row.ID, Version: row.Version, Name: row.Name, Figures: written(f), Runs: row.Runs, ActsFrom: row.ActsFrom}, err
}

// actsFrom is from when on something acts by itself that is set to: what began
// to only just now has its first week, unless a person wants none.
func (st *Stop) actsFrom(was, is string, from *time.Time, atOnce bool) *time.Time {
	now := st.Now()
	switch {
	case is != store.Alone:
		return nil
	case atOnce:
		return &now
	case was == store.Alone:
		return from
	}
	then := now.Add(reckon.FirstWeek)
	return &then
}

// SetFollowing sets how a site follows. All of it is worked out anew; nothing
// goes to the marketplace by this.
func (st *Stop) SetFollowing(ctx context.Context, siteID int64, edit stops.IfMatch, in SiteFollowing) error {
	f, err := in.Figures.follow()
	if err != nil {
		return err
	}
	text, err := json.Marshal(f)
	if err != nil {
		return err
	}
	var from, to int64
	if in.QuietFrom != "" || in.QuietTo != "" {
		if from, err = minuteOf("quiet_from", in.QuietFrom); err != nil {
			return err
		}
		if to, err = minuteOf("quiet_to", in.QuietTo); err != nil {
			return err
		}
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		now, err := siteFollowing(site)
		if err != nil {
			return err
		}
		if err := edit.Check(site.Version, "how "+site.Name+" follows", FollowingView{Version: site.Version, Site: now}); err != nil {
			return err
		}
		tx.Changed("sites", "plan", "following")
		runs := cmp.Or(in.Runs, store.ByHand)
		return stops.First(
			tx.SetSite(st.Now(), siteID, map[string]any{"guards": string(text), "batch_hours": in.BatchHours, "runs": runs,
				"acts_from": st.actsFrom(site.Runs, runs, site.ActsFrom, in.AtOnce), "quiet_from": from, "quiet_to": to,
				"most_at_once": in.MostAtOnce, "most_a_day": in.MostADay, "version": site.Version + 1}),
			tx.Note(st.Now(), "following set", site.Name, runs),
		)
	})
}

// SetRuleFollowing sets what a price rule does otherwise than its site.
func (st *Stop) SetRuleFollowing(ctx context.Context, ruleID int64, edit stops.IfMatch, in RuleFollowing) error {
	f, err := in.Figures.follow()
	if err != nil {
		return err
	}
	text, err := json.Marshal(f)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := store.GetTx[store.PriceRule](tx, ruleID)
		if err != nil {
			return err
		}
		now, err := ruleFollowing(row)
		if err != nil {
			return err
		}
		if err := edit.Check(row.Version, "how the price rule "+row.Name+" follows", now); err != nil {
			return err
		}
		follows := string(text)
		if follows == "{}" {
			follows = ""
		}
		tx.Changed("rules", "plan", "following")
		return stops.First(
			tx.SetRuleFollows(st.Now(), &row, map[string]any{"follows": follows, "runs": in.Runs,
				"acts_from": st.actsFrom(row.Runs, in.Runs, row.ActsFrom, in.AtOnce), "version": row.Version + 1}),
			tx.Note(st.Now(), "following set", row.Name, cmp.Or(in.Runs, "as its site")),
		)
	})
}

// Trial asks what figures would do; RuleID 0 is the site itself.
type Trial struct {
	RuleID  int64   `json:"rule_id,omitempty"`
	Figures Figures `json:"figures"`
}

// TrialView is what a site's plan would be under other figures, beside what it
// is under those of now.
type TrialView struct {
	Listings int64        `json:"listings" doc:"On sale there, that were looked at"`
	Of       int64        `json:"of" doc:"On sale there; more than were looked at: the counts are a sample's, made whole"`
	Kinds    []TrialCount `json:"kinds"`
	Offered  [2]int64     `json:"offered" doc:"Units offered in all: now and then"`
	None     [2]int64     `json:"none" doc:"Listings that offer none: now and then"`
	Switch   [2]int64     `json:"switch" doc:"Listings that change their supplier: now and then"`
}

// TrialCount counts lines of one consequence and verdict.
type TrialCount struct {
	Kind    string `json:"kind"`
	Name    string `json:"name"`
	Verdict string `json:"verdict" enum:"go,held,blocked"`
	Now     int64  `json:"now"`
	Then    int64  `json:"after"`
}

// sampled is how many listings a trial looks at; more are reckoned from them.
const sampled = 50_000

// Try works out what figures would do, before they are kept. Nothing is changed.
func (st *Stop) Try(ctx context.Context, siteID int64, in Trial) (TrialView, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return TrialView{}, err
	}
	f, err := in.Figures.follow()
	if err != nil {
		return TrialView{}, err
	}
	now, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return TrialView{}, err
	}
	then, err := now.Following(in.RuleID, f)
	if err != nil {
		return TrialView{}, err
	}
	sums, err := now.Compare(ctx, st.Store, then, sampled)
	if err != nil {
		return TrialView{}, err
	}
	out := TrialView{Listings: sums.Looked, Of: sums.Of, Kinds: []TrialCount{}, Offered: sums.Offered, None: sums.None, Switch: sums.Switched}
	for _, kind := range kinds {
		for _, verdict := range []string{"go", "held", "blocked"} {
			if c := sums.Lines[[2]string{kind, verdict}]; c != [2]int64{} {
				out.Kinds = append(out.Kinds, TrialCount{kind, names[kind], verdict, c[0], c[1]})
			}
		}
	}
	return out, nil
}

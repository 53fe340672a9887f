package prices

import (
	"context"
	"slices"
	"time"

	"easymargin/core/money"
	"easymargin/internal/reckon"
)

// replayed is how many listings a replay runs at most.
const replayed = 1000

// PastView is what a rule would have done, or what really happened: amounts in
// minor units, times in days, each listing's by itself.
type PastView struct {
	Moves   int64   `json:"moves" doc:"Of prices"`
	Held    int64   `json:"held" doc:"Moves that would have waited for a person, and are left undone"`
	Lowest  float64 `json:"lowest" doc:"Days on which it asked no more than the lowest rival"`
	Leading float64 `json:"leading" doc:"Days on which it asked no more than the leading rival"`
	OnSale  float64 `json:"on_sale"`
	Unkept  float64 `json:"unkept" doc:"Days on which the price would have lain below its floor, had there been none"`
	AtLoss  float64 `json:"at_loss" doc:"Days on sale at which a sale would have lost money"`
	Least   *int64  `json:"least" doc:"Least profit of a sale"`
	Mean    *int64  `json:"mean" doc:"Profit of a sale, over the time on sale"`
}

// ReplayDay is how one day went: by the rule, and in truth.
type ReplayDay struct {
	Day    string    `json:"day"`
	Lowest []float64 `json:"lowest" doc:"Listings that asked no more than the lowest rival, over the day: by the rule, in truth"`
	Mean   []*int64  `json:"mean" doc:"Mean profit of a sale: by the rule, in truth"`
	Moves  []int64   `json:"moves"`
}

// ReplayRow is one listing of a replay.
type ReplayRow struct {
	ListingID int64    `json:"listing_id"`
	SKU       string   `json:"sku"`
	Title     string   `json:"title"`
	Then      PastView `json:"then"`
	Was       PastView `json:"was"`
}

// ReplayView is a rule run over what was recorded, beside what really happened.
type ReplayView struct {
	Currency string      `json:"currency"`
	Words    string      `json:"words" doc:"The rule as a sentence"`
	Listings int64       `json:"listings"`
	All      bool        `json:"all" doc:"Whether those are all on sale that it would hold"`
	From     time.Time   `json:"from"`
	To       time.Time   `json:"to"`
	Then     PastView    `json:"then"`
	Was      PastView    `json:"was"`
	Days     []ReplayDay `json:"days"`
	Rows     []ReplayRow `json:"rows" doc:"The twenty that differ most in what a sale left"`
	Seconds  float64     `json:"seconds"`
}

func viewPast(p *reckon.Past) PastView {
	days := func(d reckon.Days) float64 { return float64(d.In()) / 10 }
	return PastView{p.Moves, p.Held, days(p.Lowest), days(p.Leading), days(p.OnSale), days(p.Unkept), days(p.BelowZero), p.Least, p.Mean}
}

// Replay runs a rule, changed or new, over the recorded history of so many days:
// what it would have done beside what really happened. Nothing is changed.
func (st *Stop) Replay(ctx context.Context, siteID int64, r NamedRule, days int) (ReplayView, error) {
	began := time.Now()
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return ReplayView{}, err
	}
	_, made, err := r.made(st.Store.Reading(ctx), money.Currency(site.Currency))
	if err != nil {
		return ReplayView{}, err
	}
	now, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return ReplayView{}, err
	}
	made, then := with(now, r.ID, made)
	got, err := then.Replay(ctx, st.Store, made.ID, st.Now().AddDate(0, 0, -days), replayed)
	if err != nil {
		return ReplayView{}, err
	}
	out := ReplayView{Currency: site.Currency, Words: r.Rule.Words(site.Currency), Listings: got.Listings, All: got.Fits < replayed, From: got.From, To: got.To,
		Then: viewPast(&got.Then), Was: viewPast(&got.Was), Days: []ReplayDay{}, Rows: []ReplayRow{}}
	for i := range got.Days {
		d := &got.Days[i]
		const day = 24 * 3600
		out.Days = append(out.Days, ReplayDay{d.Day, []float64{float64(d.Lowest[0]) / day, float64(d.Lowest[1]) / day}, d.Mean[:], d.Moves[:]})
	}
	slices.SortStableFunc(got.Rows, func(x, y reckon.ReplayRow) int { return int(apart(&y) - apart(&x)) })
	for i := range got.Rows[:min(len(got.Rows), 20)] {
		x := &got.Rows[i]
		out.Rows = append(out.Rows, ReplayRow{x.ListingID, x.SKU, x.Title, viewPast(&x.Then), viewPast(&x.Was)})
	}
	out.Seconds = time.Since(began).Seconds()
	return out, nil
}

// apart is how far a rule would have been from what happened, in what a sale left.
func apart(r *reckon.ReplayRow) int64 {
	if r.Then.Mean == nil || r.Was.Mean == nil {
		return 0
	}
	d := *r.Then.Mean - *r.Was.Mean
	return max(d, -d)
}

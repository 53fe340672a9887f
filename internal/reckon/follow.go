package reckon

import (
	"encoding/json"
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/core/plan"
	"easymargin/core/supply"
	"easymargin/internal/store"
)

// Follow are the figures of docs/definitions/following.md as a site or a price rule sets
// them; nil is as whatever stands above it: the site, or the defaults. Rates are
// millionths, in JSON.
type Follow struct {
	Buffer      *int64      `json:"buffer,omitempty"`
	Least       *int64      `json:"least,omitempty"`
	Cap         *int64      `json:"cap,omitempty"`
	Patience    *int64      `json:"patience,omitempty"`
	Unknown     *int64      `json:"unknown,omitempty"`
	Saving      *money.Rate `json:"saving,omitempty"`
	Small       *money.Rate `json:"small,omitempty"`
	CostMoved   *money.Rate `json:"cost_moved,omitempty"`
	PriceMoved  *money.Rate `json:"price_moved,omitempty"`
	MovesPerDay *int64      `json:"moves_per_day,omitempty"`
	RivalMoves  *int64      `json:"rival_moves,omitempty"`
	Loss        *bool       `json:"loss,omitempty"`
	Rest        *bool       `json:"rest,omitempty"`
}

// Following are the figures of following.md, complete.
type Following struct {
	Stock  supply.Rule
	Guards plan.Guards
}

// DefaultFollowing are following.md's.
var DefaultFollowing = Following{supply.DefaultRule, plan.DefaultGuards}

// Over puts what is set over other figures.
func (f *Follow) Over(on Following) Following {
	s, g := &on.Stock, &on.Guards
	set(&s.Buffer, f.Buffer)
	set(&s.Least, f.Least)
	set(&s.Cap, f.Cap)
	set(&s.Patience, f.Patience)
	set(&s.Unknown, f.Unknown)
	set(&s.Saving, f.Saving)
	set(&g.Small, f.Small)
	set(&g.CostMoved, f.CostMoved)
	set(&g.PriceMoved, f.PriceMoved)
	set(&g.MovesPerDay, f.MovesPerDay)
	set(&g.RivalMoves, f.RivalMoves)
	set(&g.Loss, f.Loss)
	set(&g.Rest, f.Rest)
	return on
}

func set[T any](into, v *T) {
	if v != nil {
		*into = *v
	}
}

// ReadFollow reads the figures that a site or a rule sets; whose is for the error.
func ReadFollow(text, whose string) (Follow, error) {
	var f Follow
	if text == "" {
		return f, nil
	}
	if err := json.Unmarshal([]byte(text), &f); err != nil {
		return f, fmt.Errorf("what %s sets of stock and moves: %w", whose, err)
	}
	return f, nil
}

// followingOf are a site's figures, with the defaults for what it doesn't set.
func followingOf(site store.Site) (Following, error) {
	f, err := ReadFollow(site.Guards, site.Name)
	return f.Over(DefaultFollowing), err
}

// following are the figures that hold where a rule does; the site's where none does.
func (b *Book) following(r *Ruled) Following {
	if r == nil || r.ID == 0 {
		return b.Follows
	}
	return r.Own.Over(b.Follows)
}

// ActsAlone tells whether anything of a site may be sent without a person, now
// or once a first week is over.
func (b *Book) ActsAlone() bool {
	if b.Site.Runs == store.Alone {
		return true
	}
	for i := range b.Rules {
		if b.Rules[i].Runs == store.Alone {
			return true
		}
	}
	return false
}

// FirstWeek is how long a new rule only says what it would send by itself.
const FirstWeek = 7 * 24 * time.Hour

// Quiet tells whether a moment, by this machine's own clock, lies in a site's
// quiet hours, in which prices aren't sent by themselves.
func Quiet(site *store.Site, at time.Time) bool {
	if site.QuietFrom == site.QuietTo {
		return false
	}
	at = at.Local()
	m := int64(at.Hour()*60 + at.Minute())
	if site.QuietFrom < site.QuietTo {
		return m >= site.QuietFrom && m < site.QuietTo
	}
	return m >= site.QuietFrom || m < site.QuietTo
}

// patience is the most that a rule of the book has.
func (b *Book) patience() int64 {
	k := b.Follows.Stock.Patience
	for i := range b.Rules {
		k = max(k, b.following(&b.Rules[i]).Stock.Patience)
	}
	return k
}

// Recall reads what feeds said of the suppliers of those listings that offer
// none and whose rule wants it said more than once.
func (b *Book) Recall(tx store.Tx, rows []store.PricingRow) error {
	k := b.patience()
	if k < 2 {
		return nil
	}
	var ids []int64
	for i := range rows {
		if rows[i].ConfirmedQuantity == 0 && !rows[i].Gone {
			ids = append(ids, rows[i].SupplierProductID)
		}
	}
	if ids == nil {
		return nil
	}
	var err error
	b.Reports, err = tx.Reports(ids, k)
	return err
}

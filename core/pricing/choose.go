package pricing

import (
	"math"
	"sort"

	"easymargin/core/money"
)

// Way is how a price is brought to an ending.
type Way string

// The ways of docs/definitions/money.md, "Choosing the price", step 3.
const (
	Up      Way = "up"
	Down    Way = "down"
	Nearest Way = "nearest"
)

// Endings are the allowed prices: those with price mod Every among At. The
// zero value allows all.
type Endings struct {
	Every int64   `json:"every"` // minor units
	At    []int64 `json:"at"`    // minor units, sorted, each in 0 … Every − 1
	Way   Way     `json:"way"`
}

// Stance is where to stand beside the rivals.
type Stance string

// The stances of docs/definitions/money.md, step 2. The zero value ignores rivals.
const (
	Ignore Stance = "ignore"
	Below  Stance = "below"
	Equal  Stance = "equal"
	Above  Stance = "above"
)

// Offer is one seller's offer on the entry, minor units.
type Offer struct {
	Item, Delivery int64
	Ours, Lead     bool
}

// Market is the stance and the offers it looks at.
type Market struct {
	Stance       Stance
	AgainstLead  bool // against the leading offer rather than the lowest
	By           int64
	ByRate       money.Rate
	ByIsRate     bool
	MayExceedAim bool
	Offers       []Offer
}

// Wish is what a seller wants of a price.
type Wish struct {
	Aims    []Condition
	Keep    []Condition
	Least   int64  // 0: none
	Most    *int64 // nil: the limit
	Endings Endings
	Market  Market
}

// Bound names the step that set a price, or for no price the step that failed.
type Bound string

// The steps of docs/definitions/money.md, "Choosing the price".
const (
	ByAim    Bound = "aim"
	ByMarket Bound = "market"
	ByKeep   Bound = "keep"
	ByMost   Bound = "most"
	ByBounds Bound = "bounds" // only where there is no price
)

// Choice is the price chosen, or none and the step that failed.
type Choice struct {
	Price int64
	Found bool
	Bound Bound
}

// Choose finds the price. It follows docs/definitions/money.md, "Choosing the price",
// step by step. An error says that an amount went out of range.
func (t *Terms) Choose(w *Wish, c Spend) (Choice, error) {
	want, bound, err := t.want(w, c)
	if err != nil || bound == "" {
		return Choice{Bound: want.Bound}, err
	}
	most := t.limit
	if w.Most != nil {
		most = min(most, *w.Most)
	}
	keep := t.goal(w.Keep, c, w.Least)
	q, ok := w.Endings.pick(want.Price)
	if ok && q <= most && keep.met(t, q) {
		return Choice{q, true, bound}, nil
	}
	if ok && q <= t.limit && !keep.met(t, q) {
		bound = ByKeep
		q, ok = t.nextAllowed(&w.Endings, &keep, q+1)
	}
	if ok && q <= most {
		return Choice{q, true, bound}, nil
	}
	if q, ok = t.lastAllowed(&w.Endings, &keep, most); !ok {
		q, ok = t.greatest(&keep, 1, most)
	}
	if !ok {
		return Choice{Bound: ByBounds}, t.inRange(most)
	}
	return Choice{q, true, ByMost}, nil
}

// want is steps 1 and 2; an empty bound means no price, and then the choice says why.
func (t *Terms) want(w *Wish, c Spend) (Choice, Bound, error) {
	aim := int64(0)
	if len(w.Aims) > 0 {
		var ok bool
		if aim, ok = t.Least(w.Aims, c); !ok {
			return Choice{Bound: ByAim}, "", t.inRange(t.limit)
		}
	}
	m, ok, err := w.Market.price(t)
	if err != nil {
		return Choice{}, "", err
	}
	switch {
	case !ok && len(w.Aims) == 0:
		return Choice{Bound: ByMarket}, "", nil
	case !ok:
		return Choice{Price: aim}, ByAim, nil
	case len(w.Aims) == 0 || w.Market.MayExceedAim || m < aim:
		return Choice{Price: m}, ByMarket, nil
	}
	return Choice{Price: aim}, ByAim, nil
}

// inRange is an error where prices up to p could not all be looked at.
func (t *Terms) inRange(p int64) error {
	if t.top < min(p, t.limit) {
		return money.ErrRange
	}
	return nil
}

// price is step 2's m; false where there is nothing to stand beside.
func (m *Market) price(t *Terms) (int64, bool, error) {
	if m.Stance == "" || m.Stance == Ignore {
		return 0, false, nil
	}
	best, found := int64(math.MaxInt64), false
	for _, o := range m.Offers {
		if o.Ours || m.AgainstLead && !o.Lead {
			continue
		}
		total, ok := money.Add(o.Item, o.Delivery)
		if !ok {
			return 0, false, money.ErrRange
		}
		best, found = min(best, total), true
	}
	if !found {
		return 0, false, nil
	}
	by := m.By
	if m.ByIsRate {
		var ok bool
		if by, ok = money.Share(best, m.ByRate); !ok {
			return 0, false, money.ErrRange
		}
	}
	total, ok := best, true
	switch m.Stance {
	case Below:
		total, ok = money.Add(best, -by)
	case Above:
		total, ok = money.Add(best, by)
	}
	if !ok {
		return 0, false, money.ErrRange
	}
	return t.Under(total), true, nil
}

func (e *Endings) all() bool { return e.Every == 0 || len(e.At) == 0 }

// pick brings t to an allowed price, step 3; false where that is out of range.
func (e *Endings) pick(t int64) (int64, bool) {
	if e.all() {
		return t, true
	}
	up, upOK := e.from(t)
	if e.Way != Down && e.Way != Nearest {
		return up, upOK
	}
	down, downOK := e.to(t)
	switch {
	case !downOK:
		return up, upOK
	case e.Way == Down || !upOK || t-down < up-t:
		return down, true
	}
	return up, true
}

// from is the least allowed price ≥ p.
func (e *Endings) from(p int64) (int64, bool) {
	p = max(p, 1)
	if e.all() {
		return p, true
	}
	base, mod := p-p%e.Every, p%e.Every
	i := sort.Search(len(e.At), func(i int) bool { return e.At[i] >= mod })
	if i < len(e.At) {
		return money.Add(base, e.At[i])
	}
	base, ok := money.Add(base, e.Every)
	if !ok {
		return 0, false
	}
	return money.Add(base, e.At[0])
}

// to is the greatest allowed price ≤ p.
func (e *Endings) to(p int64) (int64, bool) {
	if e.all() || p < 1 {
		return p, p >= 1
	}
	base, mod := p-p%e.Every, p%e.Every
	i := sort.Search(len(e.At), func(i int) bool { return e.At[i] > mod })
	v := base
	if i > 0 {
		v += e.At[i-1]
	} else {
		v += e.At[len(e.At)-1] - e.Every
	}
	return v, v >= 1
}

// nextAllowed is the least allowed price from p on that meets g.
func (t *Terms) nextAllowed(e *Endings, g *goal, p int64) (int64, bool) {
	for {
		q, ok := t.least(g, p, t.top)
		if !ok {
			return 0, false
		}
		if p, ok = e.from(q); !ok || p > t.top {
			return 0, false
		}
		if p == q || g.met(t, p) {
			return p, true
		}
	}
}

// lastAllowed is the greatest allowed price up to p that meets g.
func (t *Terms) lastAllowed(e *Endings, g *goal, p int64) (int64, bool) {
	for {
		q, ok := t.greatest(g, 1, p)
		if !ok {
			return 0, false
		}
		if p, ok = e.to(q); !ok {
			return 0, false
		}
		if p == q || g.met(t, p) {
			return p, true
		}
	}
}

// BreakEven is the least price that loses nothing; false where there is none.
func (t *Terms) BreakEven(c Spend) (int64, bool) {
	return t.Least([]Condition{{Kind: MinProfit}}, c)
}

// Floor is the least price at which every keep holds and p ≥ least: the lowest
// offer worth accepting. False where there is none up to the limit.
func (t *Terms) Floor(w *Wish, c Spend) (int64, bool) {
	g := t.goal(w.Keep, c, w.Least)
	return t.least(&g, 1, t.top)
}

// Holds tells whether all conditions hold at price p.
func (t *Terms) Holds(conds []Condition, c Spend, p int64) bool {
	g := t.goal(conds, c, 1)
	return g.met(t, p)
}

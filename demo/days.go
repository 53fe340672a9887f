package demo

import (
	"math/rand/v2"
	"time"

	"easymargin/internal/sim"
)

// Begin is the morning on which Saltmarsh Kit began, sixty days before Start.
var Begin = time.Date(2026, 1, 2, 7, 0, 0, 0, time.UTC)

const days = 60

// What happens on the morning of Start: Fernhollow's list of the night has the
// surprises, and the one of half past eight is broken off. It is whole again
// from ten past ten on, and moves every quarter of an hour.
var (
	surprises = time.Date(2026, 3, 3, 6, 0, 0, 0, time.UTC)
	broken    = time.Date(2026, 3, 3, 8, 30, 0, 0, time.UTC)
	whole     = time.Date(2026, 3, 3, 10, 10, 0, 0, time.UTC)
)

// step counts how often suppliers' lists have moved by a moment: every morning
// at six, and every quarter of an hour of the days after that of Start.
func step(now time.Time) int {
	n := int(now.Sub(surprises.AddDate(0, 0, -days)) / (24 * time.Hour))
	if now.Before(whole) {
		return min(max(n, 0), days)
	}
	return days + 1 + int(now.Sub(whole)/(15*time.Minute))
}

// cast are the few things that the story is about. Nothing happens to them
// before the morning of Start.
type cast struct {
	dearer [2]int // their cost rose past their floor
	soldUp int    // a bestseller that its supplier has none left of
	rival  int    // somebody went under us
}

// theCast is found among the things everybody sells: each comes as one, and the
// marketplace lets us sell it.
func theCast() cast {
	of := map[string][]int{}
	for _, it := range items(fernhollowRows)[soldAbroad:firstPick] {
		if it.pack == 1 {
			of[it.category] = append(of[it.category], it.n)
		}
	}
	return cast{dearer: [2]int{of["cookware"][0], of["tarps"][0]}, soldUp: of["stoves"][0], rival: of["mugs"][0]}
}

func (c cast) has(n int) bool {
	return n == c.dearer[0] || n == c.dearer[1] || n == c.soldUp || n == c.rival
}

// walked is where things have got to by a step: costs that wander around the
// usual one, stock that is sold and comes in again, things that go and return.
// A list that is more restless moves so many times as often.
func walked(all []item, seed uint64, step, restless int) []item {
	c := theCast()
	out := append([]item(nil), all...)
	gone := make([]bool, len(out))
	for s := 1; s <= step; s++ {
		r := rand.New(rand.NewPCG(Seed*100+seed, uint64(s)))
		for i := range out {
			it, k, by := &out[i], r.IntN(1000)/restless, r.Int64N(6)
			switch {
			case c.has(it.n):
				it.stock = 20 + by
			case k < 12:
				it.cost = min(it.cost+it.cost*(1+by)/100, it.usual*118/100)
			case k < 24:
				it.cost = max(it.cost-it.cost*(1+by)/100, it.usual*88/100)
			case k < 150:
				it.stock = max(0, it.stock-1-by)
			case k < 190:
				it.stock = 15 + by*13
			case k < 194:
				it.stock = 0
			case k < 196:
				gone[i] = true
			case k < 240:
				gone[i] = false
			}
		}
	}
	kept := out[:0]
	for i := range out {
		if !gone[i] {
			kept = append(kept, out[i])
		}
	}
	return kept
}

// surprised are things as the morning of Start has them.
func surprised(all []item) []item {
	c := theCast()
	for i := range all {
		switch it := &all[i]; it.n {
		case c.dearer[0], c.dearer[1]:
			it.cost = it.usual * 148 / 100
		case c.soldUp:
			it.stock = 0
		}
	}
	return all
}

// fernhollowAt is Fernhollow's list of a moment.
func fernhollowAt(now time.Time) []byte {
	n := step(now)
	all := items(fernhollowRows + 4)
	if n == 0 {
		return fernhollowFile(all[:fernhollowRows], true)
	}
	list := walked(all, 2, n, 1)
	if n >= days {
		list = surprised(list)
	}
	if !now.Before(broken) && now.Before(whole) {
		list = list[:400]
	}
	return fernhollowFile(list, false)
}

// tidewrackAt is Tidewrack's list of a moment: clearance costs, few of each.
func tidewrackAt(now time.Time) []byte {
	list := walked(tidewrackItems(), 5, step(now), 3)
	for i := range list {
		list[i].cost, list[i].stock = list[i].cost*82/100, list[i].stock%9
	}
	return tidewrackList(list)
}

// brindlewickAt is the sheet that Brindlewick sends on a day.
func brindlewickAt(now time.Time) ([]byte, error) {
	all := brindlewickItems()
	list := walked(all, 4, step(now)/7, 4)
	at := map[int]item{}
	for _, it := range list {
		at[it.n] = it
	}
	for i := range all { // its rows keep their places
		if it, ok := at[all[i].n]; ok {
			all[i] = it
		} else {
			all[i].stock = 0
		}
	}
	return brindlewickSheet(all, now.Format(time.DateOnly))
}

// wander is what others ask on an entry at a moment: a little more or less
// every few hours, each seller in turn. On the morning of Start somebody goes
// under us on one of them.
func wander(under string) func(e *sim.Entry, now time.Time) []sim.Offer {
	return func(e *sim.Entry, now time.Time) []sim.Offer {
		out := append([]sim.Offer(nil), e.Offers...)
		seed := uint64(0)
		for _, c := range e.Ref {
			seed = seed*31 + uint64(c)
		}
		least := -1
		for i := range out {
			o := &out[i]
			slot := uint64(now.Sub(Begin)/time.Hour) + uint64(i*7) + seed%72
			r := rand.New(rand.NewPCG(seed+uint64(i), slot/72))
			o.Item = o.Item*(97+r.Int64N(7))/1000*10 + 9
			o.Lead = false
			if e.Ref == under && i == 0 && !now.Before(surprises) {
				o.Item = o.Item * 93 / 100
			}
			if least < 0 || o.Item+o.Delivery < out[least].Item+out[least].Delivery {
				least = i
			}
		}
		if least >= 0 {
			out[least].Lead = true
		}
		return out
	}
}

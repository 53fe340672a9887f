package buying

import "slices"

// Cheapest divides a purchase so that it costs least; of what costs the same, from
// the fewest suppliers; then, line by line in order, by the option earlier in its
// list. It stops with the best found so far once stop says so, and says what no
// split can be below.
func (p *Purchase) Cheapest(stop func() bool) (Split, error) {
	all, err := p.choices()
	if err != nil {
		return Split{}, err
	}
	x := newSearch(p, all, stop)
	bound := x.least()
	proved := !x.stopped
	if proved {
		x.earliest()
		proved = !x.stopped
	}
	picks := make([]int, len(all))
	for i := range picks {
		picks[i] = -1
	}
	for k, i := range x.lines {
		picks[i] = x.opts[k][x.best[k]].at
	}
	out := p.split(all, picks)
	if out.Proved = proved; !proved {
		out.Bound = min(bound/x.scale, out.Total)
	}
	return out, nil
}

// search looks for the choice of least weight. The weight of a choice is its cost
// times scale, and one for each supplier bought from: of what costs the same, fewer
// suppliers weigh less. It is a branch and bound over what each supplier's goods
// may come to and, where that doesn't settle it, over what each line may be bought
// by, with a Lagrangian bound (lagrange.go).
type search struct {
	sup   []side
	lines []int // of the purchase, that can be had
	opts  [][]option
	scale int64
	stop  func() bool

	stopped bool
	weight  int64 // of the best
	best    []int // by line: place among opts
	wanted  int64 // a choice of so much ends the search
	open    int64 // the least bound of what was not looked at any more

	theta []int64 // prices of goods at the suppliers that gave the best bound at first
	lag   lagrange
}

// option is a way to have a line, scaled.
type option struct {
	s     int
	goods int64
	at    int // its place among the line's choices
}

// side is what holds at a supplier, scaled.
type side struct {
	delivery, least int64
	free            int64 // goods from which delivery is free
}

// never is more than all goods can come to.
const never = int64(1) << 60

// cost is what goods weigh at a supplier that is bought from.
func (s *side) cost(goods int64) int64 {
	total := max(goods, s.least) + 1
	if max(goods, s.least) < s.free {
		total += s.delivery
	}
	return total
}

func newSearch(p *Purchase, all [][]Choice, stop func() bool) *search {
	x := &search{scale: int64(len(p.Suppliers)) + 1, stop: stop, weight: never, wanted: -1, open: never}
	x.sup = make([]side, len(p.Suppliers))
	for i := range p.Suppliers {
		s := &p.Suppliers[i]
		x.sup[i] = side{s.Delivery * x.scale, s.Least * x.scale, never}
		if s.FreeFrom != nil && *s.FreeFrom <= p.largest() {
			x.sup[i].free = *s.FreeFrom * x.scale
		}
	}
	for i, list := range all {
		var opts []option
		for k, c := range list {
			o := option{p.Lines[i].Options[c.Option].Supplier, c.Goods * x.scale, k}
			// The same goods from the same supplier: the earlier is taken.
			if !slices.ContainsFunc(opts, func(b option) bool { return b.s == o.s && b.goods == o.goods }) {
				opts = append(opts, o)
			}
		}
		if opts != nil {
			x.lines, x.opts = append(x.lines, i), append(x.opts, opts)
		}
	}
	x.lag.init(x)
	return x
}

// weigh is the weight of a choice.
func (x *search) weigh(picks []int) int64 {
	g := x.lag.goods
	used := x.lag.used
	clear(g)
	clear(used)
	for i, k := range picks {
		o := &x.opts[i][k]
		g[o.s] += o.goods
		used[o.s] = true
	}
	total := int64(0)
	for s := range x.sup {
		if used[s] {
			total += x.sup[s].cost(g[s])
		}
	}
	return total
}

// offer takes a choice where it weighs less than the best so far.
func (x *search) offer(picks []int) {
	if w := x.weigh(picks); w < x.weight {
		x.weight, x.best = w, append(x.best[:0], picks...)
	}
}

// least finds the choice of least weight, and gives what none can be below.
func (x *search) least() (bound int64) {
	if len(x.lines) == 0 {
		x.weight, x.best = 0, []int{}
		return 0
	}
	x.begin()
	n := x.root()
	x.theta = slices.Repeat([]int64{x.lag.one}, len(x.sup))
	x.look(n, x.theta, true)
	if x.stopped {
		return min(x.open, x.weight)
	}
	return x.weight
}

// mostSubsets is for how many suppliers all ways to choose among them are tried at
// the beginning, to begin with a good choice.
const mostSubsets = 12

// begin makes first choices: the cheapest of each line from each set of suppliers.
func (x *search) begin() {
	picks := make([]int, len(x.lines))
	cheapest := func(allowed func(s int) bool) bool {
		for i, opts := range x.opts {
			at := -1
			for k := range opts {
				if allowed(opts[k].s) && (at < 0 || opts[k].goods < opts[at].goods) {
					at = k
				}
			}
			if at < 0 {
				return false
			}
			picks[i] = at
		}
		return true
	}
	cheapest(func(int) bool { return true })
	x.offer(picks)
	if len(x.sup) <= mostSubsets {
		for set := 1; set < 1<<len(x.sup); set++ {
			if cheapest(func(s int) bool { return set>>s&1 == 1 }) {
				x.offer(picks)
			}
		}
	}
	x.better()
}

// better moves one line at a time to where it weighs less, while any does.
func (x *search) better() {
	picks := slices.Clone(x.best)
	for moved := true; moved && !x.stop(); {
		moved = false
		for i := range picks {
			was := picks[i]
			for k := range x.opts[i] {
				picks[i] = k
				if x.weigh(picks) < x.weight {
					x.offer(picks)
					was, moved = k, true
				}
			}
			picks[i] = was
		}
	}
}

// earliest makes the best choice the first of its weight: line by line, the option
// earliest in its list with which that weight can be had.
func (x *search) earliest() {
	n := x.root()
	target := x.weight
	for i := range x.opts {
		for k := 0; k < x.best[i]; k++ {
			if x.lag.with(n, i, k) > target {
				continue // surely not
			}
			held := slices.Clone(x.best)
			x.weight, x.wanted = target+1, target
			m := n.clone()
			m.fix(i, k)
			x.look(m, x.theta, false)
			found := x.weight == target
			x.weight, x.wanted = target, -1
			if x.stopped && !found {
				x.best = held
				return
			}
			if found {
				break // x.best has it
			}
			x.best = held
		}
		n.fix(i, x.best[i])
	}
}

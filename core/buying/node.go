package buying

import (
	"container/heap"
	"slices"
)

// node is a part of all choices: which options of each line are still allowed, and
// what the goods of each supplier may come to.
type node struct {
	out    [][]bool // by line and option: it is no longer allowed
	closed []bool   // suppliers that aren't bought from
	opened []bool   // those that are
	lo, hi []int64  // of goods
}

func (x *search) root() *node {
	n := &node{out: make([][]bool, len(x.opts)), closed: make([]bool, len(x.sup)), opened: make([]bool, len(x.sup)),
		lo: make([]int64, len(x.sup)), hi: slices.Repeat([]int64{never}, len(x.sup))}
	for i := range x.opts {
		n.out[i] = make([]bool, len(x.opts[i]))
	}
	return n
}

func (n *node) clone() *node {
	m := &node{make([][]bool, len(n.out)), slices.Clone(n.closed), slices.Clone(n.opened), slices.Clone(n.lo), slices.Clone(n.hi)}
	for i := range n.out {
		m.out[i] = slices.Clone(n.out[i])
	}
	return m
}

// fix allows only one option of a line.
func (n *node) fix(line, option int) {
	for k := range n.out[line] {
		n.out[line][k] = k != option
	}
}

// tighten draws what follows from what is allowed: what goods can come to at the
// least and at the most, and who is bought from. It is false where nothing is left.
func (x *search) tighten(n *node) bool {
	for again := true; again; {
		again = false
		low, high := make([]int64, len(x.sup)), make([]int64, len(x.sup))
		must := make([]bool, len(x.sup))
		most, least := make([]int64, len(x.sup)), make([]int64, len(x.sup))
		for i, opts := range x.opts {
			clear(most)
			for s := range least {
				least[s] = never
			}
			only, several, any := -1, false, false
			for k := range opts {
				o := &opts[k]
				if n.closed[o.s] {
					n.out[i][k] = true
				}
				if n.out[i][k] {
					continue
				}
				any = true
				most[o.s], least[o.s] = max(most[o.s], o.goods), min(least[o.s], o.goods)
				several = several || only >= 0 && only != o.s
				only = o.s
			}
			if !any {
				return false
			}
			for s := range most {
				high[s] += most[s]
			}
			if !several {
				must[only] = true
				low[only] += least[only]
			}
		}
		for s := range x.sup {
			n.lo[s], n.hi[s] = max(n.lo[s], low[s]), min(n.hi[s], high[s])
			if must[s] && n.closed[s] || n.opened[s] && n.lo[s] > n.hi[s] {
				return false
			}
			n.opened[s] = n.opened[s] || must[s]
			if !n.opened[s] && !n.closed[s] && n.lo[s] > n.hi[s] {
				n.closed[s], again = true, true
			}
		}
	}
	return true
}

// waiting are parts that were bounded and are to be divided, the least bound first.
type waiting []waits

type waits struct {
	n     *node
	theta []int64
	bound int64
}

// Len, Less, Swap, Push and Pop implement heap.Interface.
func (w waiting) Len() int           { return len(w) }
func (w waiting) Less(i, j int) bool { return w[i].bound < w[j].bound }
func (w waiting) Swap(i, j int)      { w[i], w[j] = w[j], w[i] }
func (w *waiting) Push(v any)        { *w = append(*w, v.(waits)) }
func (w *waiting) Pop() any {
	old := *w
	v := old[len(old)-1]
	*w = old[:len(old)-1]
	return v
}

// look searches a part: what may weigh least is divided first. theta are the prices
// to begin with; first keeps those that gave the best bound of all.
func (x *search) look(n *node, theta []int64, first bool) {
	var open waiting
	for parts := []*node{n}; ; {
		for _, m := range parts {
			bound, prices, left := x.bounded(m, theta, first)
			if first {
				x.theta, first = prices, false
			}
			if left {
				heap.Push(&open, waits{m, prices, bound})
			}
		}
		if len(open) == 0 || x.weight == x.wanted {
			return
		}
		next := heap.Pop(&open).(waits)
		if next.bound >= x.weight {
			return
		}
		if x.stop() {
			x.stopped, x.open = true, next.bound
			return
		}
		theta = next.theta
		x.lag.at(next.n, theta) // the choice at its prices, by which it is divided
		parts = x.parts(next.n, theta)
	}
}

// bounded bounds a part, and strikes out of it what can't be better than the best.
// It is false where nothing is left.
func (x *search) bounded(n *node, theta []int64, first bool) (int64, []int64, bool) {
	if !x.tighten(n) {
		return 0, theta, false
	}
	bound, theta := x.lag.bound(n, theta, first)
	for bound < x.weight && x.lag.strike(n, theta) {
		if !x.tighten(n) {
			return bound, theta, false
		}
		bound, theta = x.lag.bound(n, theta, false)
	}
	return bound, theta, bound < x.weight
}

// parts divides a part where its bound is furthest from the truth: at a supplier,
// by whether it is bought from and what its goods come to; else at a line.
func (x *search) parts(n *node, theta []int64) []*node {
	s := x.lag.furthest(n, theta)
	side := &x.sup[s]
	goods := x.lag.goods[s]
	if !n.opened[s] {
		yes, no := n.clone(), n.clone()
		yes.opened[s], no.closed[s] = true, true
		if x.lag.used[s] {
			return []*node{yes, no}
		}
		return []*node{no, yes}
	}
	for _, at := range []int64{side.free, side.least} {
		if n.lo[s] < at && at <= n.hi[s] && at < never {
			below, from := n.clone(), n.clone()
			below.hi[s], from.lo[s] = at-x.scale, at
			if goods >= at {
				return []*node{from, below}
			}
			return []*node{below, from}
		}
	}
	line, option := x.lag.torn(n, theta, s)
	if line < 0 {
		return nil // all is fixed: what it weighs was offered
	}
	with, without := n.clone(), n.clone()
	with.fix(line, option)
	without.out[line][option] = true
	return []*node{with, without}
}

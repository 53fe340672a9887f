package buying

import "slices"

// lagrange bounds what a part of all choices can weigh at the least. Each supplier
// is given a price theta for its goods: lines are bought by whatever is cheapest at
// these prices, and each supplier weighs what it does at the goods that suit it best
// at its price. Whatever the prices, no choice of the part weighs less; the bound is
// exact integer arithmetic, and floating point only steers which prices are tried.
type lagrange struct {
	x   *search
	one int64 // a price of 1

	picks  []int
	goods  []int64 // of picks, by supplier
	used   []bool
	suits  []int64 // goods that suit each supplier best
	weighs []int64 // and what it weighs there, in units of 1/one
	exact  int64   // the last bound, in those units
}

// tries is how many prices are tried for a part; more at the beginning.
const (
	tries      = 24
	triesFirst = 300
)

func (l *lagrange) init(x *search) {
	l.x = x
	most := int64(1)
	for i := range x.opts {
		dearest := int64(0)
		for _, o := range x.opts[i] {
			dearest = max(dearest, o.goods)
		}
		most += dearest
	}
	for i := range x.sup {
		most += x.sup[i].delivery + x.sup[i].least + 1
	}
	l.one = 1 << 10
	for l.one > 1 && most > (1<<61)/(l.one*8) {
		l.one >>= 1
	}
	l.picks, l.goods, l.used = make([]int, len(x.opts)), make([]int64, len(x.sup)), make([]bool, len(x.sup))
	l.suits, l.weighs = make([]int64, len(x.sup)), make([]int64, len(x.sup))
}

// at is the bound at some prices, with the choice that lines make there.
func (l *lagrange) at(n *node, theta []int64) int64 {
	total := int64(0)
	clear(l.goods)
	clear(l.used)
	for i, opts := range l.x.opts {
		best, cost := -1, int64(0)
		for k := range opts {
			if n.out[i][k] {
				continue
			}
			if c := theta[opts[k].s] * opts[k].goods; best < 0 || c < cost {
				best, cost = k, c
			}
		}
		l.picks[i] = best
		total += cost
		l.goods[opts[best].s] += opts[best].goods
		l.used[opts[best].s] = true
	}
	for s := range l.x.sup {
		l.suits[s], l.weighs[s] = l.suit(n, s, theta[s])
		total += l.weighs[s]
	}
	l.exact = total
	return ceil(total, l.one)
}

// suit is which goods suit a supplier best at a price, and what it weighs there
// less what lines pay for them.
func (l *lagrange) suit(n *node, s int, theta int64) (goods, weight int64) {
	if n.closed[s] {
		return 0, 0
	}
	side := &l.x.sup[s]
	weight = never << 2
	for _, g := range [...]int64{n.lo[s], n.hi[s], side.least, side.free - l.x.scale, side.free} {
		if g < n.lo[s] || g > n.hi[s] {
			continue
		}
		if w := l.one*side.cost(g) - theta*g; w < weight {
			goods, weight = g, w
		}
	}
	if !n.opened[s] && weight > 0 {
		return 0, 0
	}
	return goods, weight
}

// natural are prices at which nothing is lost where goods settle in one stretch of
// a supplier's cost: what the next goods cost there; and at a supplier that may not
// be bought from, the least that any goods cost each.
func (l *lagrange) natural(n *node) []int64 {
	out := make([]int64, len(l.x.sup))
	for s := range l.x.sup {
		side := &l.x.sup[s]
		out[s] = l.one
		switch {
		case n.opened[s] && n.hi[s] <= side.least:
			out[s] = 0
		case !n.opened[s] && !n.closed[s]:
			out[s] = 4 * l.one
			for _, g := range [...]int64{n.hi[s], side.least, side.free - l.x.scale, side.free} {
				if g > 0 && g <= n.hi[s] {
					out[s] = min(out[s], l.one*side.cost(g)/g)
				}
			}
		}
	}
	return out
}

// bound is the best bound that is found for a part, and the prices that give it.
// Choices that lines make on the way are offered.
func (l *lagrange) bound(n *node, theta []int64, first bool) (int64, []int64) {
	x := l.x
	best, prices := int64(-1), theta
	now := l.natural(n)
	if l.at(n, theta) > l.at(n, now) {
		copy(now, theta)
	}
	most := tries
	if first {
		most = triesFirst
	}
	share, stale := 1.0, 0
	for t := range most {
		b := l.at(n, now)
		if b > best {
			best, prices, stale = b, slices.Clone(now), 0
		} else if stale++; stale > 8 {
			share, stale = share/2, 0
		}
		goods, used, suits := slices.Clone(l.goods), slices.Clone(l.used), slices.Clone(l.suits)
		x.offer(l.picks)
		if best >= x.weight || x.weight == x.wanted || t == most-1 {
			break
		}
		norm := 0.0
		for s := range goods {
			if used[s] || suits[s] > 0 {
				d := float64(goods[s] - suits[s])
				norm += d * d
			}
		}
		if norm == 0 {
			break
		}
		gap := float64(max(x.weight-b, 1))
		for s := range goods {
			if n.closed[s] {
				continue
			}
			step := share * gap * float64(goods[s]-suits[s]) / norm * float64(l.one)
			now[s] = min(max(now[s]+int64(step), -2*l.one), 4*l.one)
		}
	}
	l.at(n, prices) // so that what follows sees the choice at the best prices
	return best, prices
}

// strike takes out what can't be part of a choice that weighs less than the best:
// options of lines and suppliers that would raise the bound too far. It follows at
// with the same prices, and tells whether anything was struck.
func (l *lagrange) strike(n *node, theta []int64) bool {
	x, struck := l.x, false
	room := (x.weight-1)*l.one - l.exact
	for i, opts := range x.opts {
		least := theta[opts[l.picks[i]].s] * opts[l.picks[i]].goods
		for k := range opts {
			if !n.out[i][k] && theta[opts[k].s]*opts[k].goods-least > room {
				n.out[i][k], struck = true, true
			}
		}
	}
	for s := range x.sup {
		if n.opened[s] || n.closed[s] {
			continue
		}
		n.opened[s] = true
		_, weighs := l.suit(n, s, theta[s])
		n.opened[s] = false
		if weighs-l.weighs[s] > room {
			n.closed[s], struck = true, true
		}
	}
	return struck
}

// furthest is the supplier at which the bound is furthest below what the choice at
// some prices weighs there.
func (l *lagrange) furthest(n *node, theta []int64) int {
	at, most := -1, int64(-1)
	for s := range l.x.sup {
		if n.closed[s] {
			continue
		}
		weighs := int64(0)
		if l.used[s] {
			weighs = l.x.sup[s].cost(l.goods[s])
		}
		if gap := l.one*weighs - l.weighs[s] - theta[s]*l.goods[s]; gap > most {
			at, most = s, gap
		}
	}
	return at
}

// torn is the line, and its option, that a supplier's goods hang on most: the one
// whose next best option at some prices is hardly worse.
func (l *lagrange) torn(n *node, theta []int64, s int) (line, option int) {
	line, option = -1, -1
	least, size := never<<1, int64(-1)
	for _, here := range []bool{true, false} { // those that concern the supplier first
		for i, opts := range l.x.opts {
			best := l.picks[i]
			next, concerns, goods := never<<1, opts[best].s == s, opts[best].goods
			for k := range opts {
				if k == best || n.out[i][k] {
					continue
				}
				concerns = concerns || opts[k].s == s
				next = min(next, theta[opts[k].s]*opts[k].goods-theta[opts[best].s]*opts[best].goods)
			}
			if next >= never<<1 || here && !concerns {
				continue
			}
			if next < least || next == least && goods > size {
				line, option, least, size = i, best, next, goods
			}
		}
		if line >= 0 {
			break
		}
	}
	return line, option
}

// with is a bound of a part with a line bought by one option.
func (l *lagrange) with(n *node, line, option int) int64 {
	if n.out[line][option] {
		return never
	}
	m := n.clone()
	m.fix(line, option)
	if !l.x.tighten(m) {
		return never
	}
	return l.at(m, l.x.theta)
}

// ceil is a/b rounded up; b is above 0.
func ceil(a, b int64) int64 {
	q := a / b
	if a%b > 0 {
		q++
	}
	return q
}

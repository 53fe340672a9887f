package pricing

import "easymargin/core/money"

// Point is what is left at a price, minor units.
type Point struct {
	Price  int64 `json:"price"`
	Profit int64 `json:"profit"`
}

// Fall is a run of prices, both ends in it, at which less is left than at the
// lower price Best.
type Fall struct {
	From int64 `json:"from"`
	To   int64 `json:"to"`
	Best int64 `json:"best"` // the lower price that leaves more
	Less int64 `json:"less"` // how much less is left at From, minor units
}

// Curve is profit against price from lo to hi as the few points that define
// it: between two of them it is a straight line but for each line's rounding.
// Where it jumps there is a point on either side.
func (t *Terms) Curve(c Spend, lo, hi int64) []Point {
	lo, hi = max(lo, 1), min(hi, t.top)
	var out []Point
	put := func(p int64) {
		if n := len(out); n > 0 && out[n-1].Price >= p {
			return
		}
		if v, err := t.Profit(c, p); err == nil {
			out = append(out, Point{p, v})
		}
	}
	for i := range t.stretch {
		from, to := t.span(i)
		if to >= lo && from <= hi {
			put(max(from, lo))
			put(min(to, hi))
		}
	}
	return out
}

// span is the first and the last price of a stretch.
func (t *Terms) span(i int) (from, to int64) {
	if i+1 < len(t.stretch) {
		return t.stretch[i].from, t.stretch[i+1].from - 1
	}
	return t.stretch[i].from, t.top
}

// Falls are the stretches in which a higher price earns less: past the edge of
// a band that takes more of the whole price, until that is made up again.
// Steps back that are only rounding don't count. Costs don't matter to it.
func (t *Terms) Falls() []Fall {
	var out []Fall
	best, most := int64(0), int64(0)
	for p, i := int64(1), 0; p <= t.top; {
		for i+1 < len(t.stretch) && t.stretch[i+1].from <= p {
			i++
		}
		s := &t.stretch[i]
		_, to := t.span(i)
		noise := s.slack/int64(money.One) + 1
		at, end := s.at(t, p).left, s.at(t, to).left
		begins := p
		if best == 0 || at >= most-noise {
			if best == 0 || at >= most {
				best, most = p, at
			}
			if s.high >= 0 || end >= most-noise {
				if end >= most {
					best, most = to, end
				}
				p = to + 1
				continue
			}
			// Every further unit of price costs more than it brings.
			if last, ok := t.greatest(&goal{from: p, need: most}, p, to); ok {
				begins = last + 1
			}
		}
		made, ok := t.least(&goal{from: begins, need: most}, begins, t.top)
		if !ok {
			made = t.top + 1
		}
		if made > begins {
			out = append(out, Fall{From: begins, To: made - 1, Best: best, Less: most - t.stretchOf(begins).at(t, begins).left})
		}
		p = made
	}
	return out
}

func (t *Terms) stretchOf(p int64) *stretch {
	i := 0
	for i+1 < len(t.stretch) && t.stretch[i+1].from <= p {
		i++
	}
	return &t.stretch[i]
}

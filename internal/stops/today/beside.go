package today

import (
	"context"
	"time"

	"easymargin/internal/store"
)

// TodayBeside is what stands beside what needs a person.
type TodayBeside struct {
	Comes []Coming `json:"comes" doc:"What happens by itself next, the next first"`
	Away  []Gone   `json:"away" doc:"What happened since the moment that was asked about"`
}

// Coming is something that happens by itself at a time.
type Coming struct {
	Kind string    `json:"kind" enum:"feed,light file,send-out,fees"`
	Name string    `json:"name"`
	At   time.Time `json:"at"`
}

// Gone is so much of one kind that happened.
type Gone struct {
	Kind  string `json:"kind"`
	Count int64  `json:"count"`
	Link  string `json:"link" doc:"Where it is seen"`
}

// mostComing is how much of what comes is told.
const mostComing = 6

// Beside is what comes next, and what happened since a moment; the zero time: nothing.
func (st *Stop) Beside(ctx context.Context, since time.Time) (TodayBeside, error) {
	out := TodayBeside{Comes: []Coming{}, Away: []Gone{}}
	comes, err := st.Store.Comes(ctx, st.Now(), mostComing)
	if err != nil {
		return out, err
	}
	for _, c := range comes {
		out.Comes = append(out.Comes, Coming(c))
	}
	if since.IsZero() {
		return out, nil
	}
	a, err := st.Store.SinceThen(ctx, since.UTC())
	if err != nil {
		return out, err
	}
	out.Away = happened(a)
	return out, nil
}

// happened is what of it isn't nothing, what costs money first.
func happened(a store.Away) []Gone {
	out := []Gone{}
	for _, g := range []Gone{
		{"lines sold", a.Orders, "/orders?part=all"}, {"changes refused", a.Refused, "/send?tab=refused"}, {"feeds held", a.Held, "/sources"},
		{"went out of stock at suppliers", a.Gone, "/watch?tab=suppliers"}, {"costs moved", a.Costs, "/watch?tab=suppliers"},
		{"watches set off", a.Hits, "/watch?tab=watches"}, {"changes confirmed", a.Confirmed, "/send?tab=out"}, {"feeds taken", a.Feeds, "/sources"},
	} {
		if g.Count > 0 {
			out = append(out, g)
		}
	}
	return out
}

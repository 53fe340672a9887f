package house

import (
	"context"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// Planned is what a plan over all sites comes to, and what became of it where it
// was sent.
type Planned struct {
	Lines     int64   `json:"lines"`
	Go        int64   `json:"go"`
	Held      int64   `json:"held"`
	Blocked   int64   `json:"blocked"`
	ToZero    int64   `json:"to_zero"`
	PriceUp   int64   `json:"price_up"`
	PriceDown int64   `json:"price_down"`
	Seconds   float64 `json:"seconds"`

	Sent      *int64 `json:"sent,omitempty"` // lines handed over
	Confirmed *int64 `json:"confirmed,omitempty"`
	Refused   *int64 `json:"refused,omitempty"`
	Open      *int64 `json:"open,omitempty"` // not answered when it was no longer waited for
}

// Plan works out all that changed and sums the plans of all sites. It is for a
// program that is not the server; where one serves the data, that works it out.
func (h *House) Plan(ctx context.Context) (Planned, error) {
	began := time.Now()
	err := h.workOut(ctx)
	if err != nil {
		return Planned{}, err
	}
	groups, err := h.Store.PlanGroups(ctx, 0)
	out := Planned{}
	for _, g := range groups {
		out.Lines, out.Go, out.Held, out.Blocked = out.Lines+g.Lines, out.Go+g.Go, out.Held+g.Held, out.Blocked+g.Blocked
		switch g.Kind {
		case "zero", "rest", "no price":
			out.ToZero += g.Go
		case "up":
			out.PriceUp += g.Lines
		case "down":
			out.PriceDown += g.Lines
		}
	}
	out.Seconds = time.Since(began).Seconds()
	return out, err
}

// workOut works out what is marked, or waits until the server has.
func (h *House) workOut(ctx context.Context) error {
	err := h.Store.Lock()
	switch {
	case err == nil:
		defer func() { _ = h.Store.Unlock() }()
		if err := h.Sources.Silence(ctx); err != nil {
			return err
		}
		if err := h.Prices.DayRound(ctx); err != nil {
			return err
		}
		return h.Prices.WorkOut(ctx)
	case fault.KindOf(err) != fault.Conflict:
		return err
	}
	for {
		c, err := h.Store.Counts(ctx, h.Now())
		if err != nil || c.Dirty == 0 {
			return err
		}
		if err := pause(ctx, 100*time.Millisecond); err != nil {
			return err
		}
	}
}

func pause(ctx context.Context, d time.Duration) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(d):
		return nil
	}
}

// SendPlans lets all go that may of every plan, and waits until it is answered,
// at most so long. Where no server does, it hands it over itself.
func (h *House) SendPlans(ctx context.Context, out *Planned, most time.Duration) error {
	plans, err := h.Store.OpenPlans(ctx)
	if err != nil {
		return err
	}
	var ids []int64
	for _, p := range plans {
		sent, err := h.Sending.SendPlan(ctx, p.ID, sending.PlanChoice{})
		if fault.KindOf(err) == fault.Conflict {
			continue // a place that takes nothing by a gateway
		}
		if err != nil {
			return err
		}
		ids = append(ids, sent.SendOuts...)
	}
	served := h.Store.Lock()
	if served == nil {
		if err := h.Start(ctx); err != nil {
			return err
		}
		defer h.Close()
	}
	for until := time.Now().Add(most); ; {
		open, err := h.tally(ctx, ids, out)
		if err != nil || open == 0 || time.Now().After(until) {
			return err
		}
		if err := pause(ctx, 100*time.Millisecond); err != nil {
			return err
		}
	}
}

// tally counts what became of some send-outs, and tells how many lines may still
// be answered.
func (h *House) tally(ctx context.Context, ids []int64, out *Planned) (int64, error) {
	var sent, confirmed, refused, open, stuck int64
	for _, id := range ids {
		o, err := h.Store.SendOutRowOf(ctx, id)
		if err != nil {
			return 0, err
		}
		sent, confirmed, refused = sent+o.Lines-o.Withdrawn, confirmed+o.Confirmed, refused+o.Refused
		open += o.Waiting + o.Unknown
		if o.State == store.SendDone || o.State == store.SendWaiting && !o.Alive {
			stuck += o.Waiting + o.Unknown
		}
	}
	out.Sent, out.Confirmed, out.Refused, out.Open = &sent, &confirmed, &refused, &open
	return open - stuck, nil
}

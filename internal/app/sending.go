package app

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"time"

	"easymargin/internal/market"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

const runSend = "send"

// Sent is what became of a wish to send: the send-outs it made, and how many lines they have.
type Sent struct {
	SendOuts []int64    `json:"send_outs"`
	Lines    int64      `json:"lines"`
	Runs     []work.Run `json:"runs"`
}

// SendListings puts listings that are ready (all of them where ids is nil) or
// were refused (only by their ids) into send-outs and begins sending. Each
// listing goes once: it is taken out of ready in the same transaction.
func (a *App) SendListings(ctx context.Context, ids []int64) (Sent, error) {
	return a.send(ctx, nil, func(tx store.Tx) (map[int64][]store.SendLine, error) {
		list, err := tx.Sendables(ids)
		if err != nil {
			return nil, err
		}
		out, marked := map[int64][]store.SendLine{}, []int64{}
		for _, l := range list {
			if l.Floor != nil && *l.Price < *l.Floor {
				continue // never under the floor
			}
			marked = append(marked, l.ID)
			out[l.SiteID] = append(out[l.SiteID], store.SendLine{ListingID: l.ID, Price: l.Price, Quantity: ptr(l.Quantity), Cost: ptr(l.Cost), CostCur: l.CostCurrency})
		}
		if len(marked) == 0 {
			return out, nil
		}
		return out, tx.MarkListings(marked, store.ListingSent)
	})
}

// SendPlan sends the lines of an open plan that a person chose: held ones only
// where they were named. Lines that a newer change has overtaken stay behind.
func (a *App) SendPlan(ctx context.Context, planID int64, choice store.PlanChoice) (Sent, error) {
	p, err := store.Get[store.Plan](ctx, a.Store, planID)
	if err != nil {
		return Sent{}, err
	}
	if !p.Open {
		return Sent{}, &Error{Conflict, "plan", "a newer plan has taken this one's place; look at that one"}
	}
	return a.send(ctx, &p.ID, func(tx store.Tx) (map[int64][]store.SendLine, error) {
		list, err := tx.PlanSendables(p.ID, choice)
		if err != nil {
			return nil, err
		}
		out, marked := map[int64][]store.SendLine{}, []int64{}
		for i := range list {
			x := &list[i]
			marked = append(marked, x.ID)
			out[p.SiteID] = append(out[p.SiteID], store.SendLine{ListingID: x.ListingID, PlanLineID: &x.ID, Price: x.ToPrice, Quantity: x.ToQty, Cost: x.Cost, CostCur: x.CostCur})
		}
		if len(marked) == 0 {
			return out, nil
		}
		return out, tx.MarkPlanLines(marked, store.SendSent)
	})
}

// send keeps lines as send-outs, no more lines each than the site takes, and queues them.
func (a *App) send(ctx context.Context, planID *int64, pick func(tx store.Tx) (map[int64][]store.SendLine, error)) (Sent, error) {
	sites, err := a.Store.Sites(ctx)
	if err != nil {
		return Sent{}, err
	}
	out := Sent{SendOuts: []int64{}, Runs: []work.Run{}}
	titles := map[int64]string{}
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		lines, err := pick(tx)
		if err != nil {
			return err
		}
		for _, site := range sites {
			rest := lines[site.ID]
			for len(rest) > 0 {
				n := int(min(int64(len(rest)), max(site.MaxLines, 1)))
				o := store.SendOut{SiteID: site.ID, PlanID: planID, Key: rand.Text(), State: store.SendWaiting, CreatedAt: a.now()}
				if err := tx.Create(&o); err != nil {
					return err
				}
				part := rest[:n]
				for i := range part {
					part[i].SendOutID, part[i].Key, part[i].State = o.ID, fmt.Sprintf("%s-%d", o.Key, i+1), store.SendWaiting
				}
				if err := tx.CreateAll(part); err != nil {
					return err
				}
				out.SendOuts = append(out.SendOuts, o.ID)
				out.Lines += int64(n)
				titles[o.ID] = fmt.Sprintf("Sending %s to %s", plural(int64(n), "listing", "listings"), site.Name)
				rest = rest[n:]
			}
		}
		return nil
	})
	if err != nil {
		return Sent{}, err
	}
	for _, id := range out.SendOuts {
		r, err := a.Queue.Add(ctx, runSend, titles[id], id)
		if err != nil {
			return out, err
		}
		out.Runs = append(out.Runs, r)
	}
	if out.Lines > 0 {
		a.note(ctx, "sent", plural(out.Lines, "line", "lines"), "")
	}
	a.changed("listings", "sendouts", "plan", "counts")
	return out, nil
}

// SendAgain tries a send-out anew that could not be handed over or followed.
// It carries the same keys, so the marketplace does nothing twice.
func (a *App) SendAgain(ctx context.Context, id int64) (work.Run, error) {
	o, err := store.Get[store.SendOut](ctx, a.Store, id)
	if err != nil {
		return work.Run{}, err
	}
	if o.State == store.SendDone || o.Error == "" {
		return work.Run{}, &Error{Conflict, "", "this send-out is on its way or through; there is nothing to try again"}
	}
	err = a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&o, map[string]any{"error": ""}) })
	if err != nil {
		return work.Run{}, err
	}
	a.changed("sendouts", "counts")
	return a.Queue.Add(ctx, runSend, "Trying a send-out again", id)
}

// GiveUp ends a send-out that could not be handed over. Its listings are as
// they were before, to be sent anew.
func (a *App) GiveUp(ctx context.Context, id int64) error {
	o, err := store.Get[store.SendOut](ctx, a.Store, id)
	if err != nil {
		return err
	}
	if o.State != store.SendWaiting || o.Error == "" {
		return &Error{Conflict, "", "only a send-out that could not be handed over can be given up"}
	}
	lines, err := a.Store.Outgoing(ctx, id)
	if err != nil {
		return err
	}
	site, err := a.Store.SiteOf(ctx, o.SiteID)
	if err != nil {
		return err
	}
	now := a.now()
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		for _, l := range lines {
			if l.PlanLineID == nil {
				if err := tx.MarkListings([]int64{l.ListingID}, store.ListingReady); err != nil {
					return err
				}
			}
		}
		return errors.Join(tx.MarkLines(id, store.SendWaiting, store.SendGivenUp, o.Error, &now),
			tx.Update(&o, map[string]any{"state": store.SendDone, "done_at": &now}))
	})
	if err != nil {
		return err
	}
	a.note(ctx, "send-out given up", fmt.Sprint(id), o.Error)
	a.changed("sendouts", "listings", "counts")
	a.price(ctx, site)
	return nil
}

// doSend hands a send-out over and follows it to its end. Killed anywhere, it
// goes on: the batch and each line carry keys that the marketplace knows.
func (a *App) doSend(ctx context.Context, t *work.Task) error {
	o, err := store.Get[store.SendOut](ctx, a.Store, t.Subject)
	if err != nil {
		return err
	}
	if o.State == store.SendDone {
		return nil
	}
	site, err := a.Store.SiteOf(ctx, o.SiteID)
	if err != nil {
		return err
	}
	gw := a.gateway(site.Marketplace)
	lines, err := a.Store.Outgoing(ctx, o.ID)
	if err != nil {
		return err
	}
	total := int64(len(lines))
	t.At(0, total)
	if o.State == store.SendWaiting {
		if err := a.handOver(ctx, gw, site, &o, lines); err != nil {
			return a.stuck(ctx, &o, err)
		}
	}
	for {
		b, err := retry(ctx, a.opt.Pauses, func() (market.Batch, error) { return gw.Batch(ctx, site.Code, o.Batch) })
		if err != nil {
			return a.stuck(ctx, &o, err)
		}
		answered, err := a.answer(ctx, &o, b)
		if err != nil {
			return err
		}
		t.At(answered, total)
		if b.State == "done" {
			break
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(a.opt.Poll):
		}
	}
	now := a.now()
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		return errors.Join(tx.MarkLines(o.ID, store.SendSent, store.SendGivenUp, "the marketplace ended the batch without a word on this line", &now),
			tx.Update(&store.SendOut{ID: o.ID}, map[string]any{"state": store.SendDone, "done_at": &now, "error": ""}))
	})
	if err != nil {
		return err
	}
	row, err := a.Store.SendOutRowOf(ctx, o.ID)
	if err != nil {
		return err
	}
	t.Note = fmt.Sprintf("%s: %d confirmed, %d refused", site.Name, row.Confirmed, row.Refused)
	a.note(ctx, "send-out answered", site.Name, t.Note)
	a.changed("sendouts", "listings", "plan", "counts")
	a.price(ctx, site)
	return nil
}

// handOver gives the batch to the marketplace and notes its name for it.
func (a *App) handOver(ctx context.Context, gw market.Marketplace, site store.Site, o *store.SendOut, lines []store.OutgoingLine) error {
	out := make([]market.Line, len(lines))
	for i, l := range lines {
		out[i] = market.Line{Key: l.Key, SKU: l.SKU, Entry: l.EntryRef, Price: l.Price, Quantity: l.Quantity}
	}
	b, err := retry(ctx, a.opt.Pauses, func() (market.Batch, error) { return gw.Send(ctx, site.Code, o.Key, out) })
	if err != nil {
		return err
	}
	now := a.now()
	o.Batch, o.State = b.ID, store.SendSent
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		return errors.Join(tx.Update(&store.SendOut{ID: o.ID}, map[string]any{"batch": b.ID, "state": store.SendSent, "sent_at": &now, "error": ""}),
			tx.MarkLines(o.ID, store.SendWaiting, store.SendSent, "", nil))
	})
	a.changed("sendouts")
	return err
}

// stuck notes why a send-out does not move, so that a person can decide.
func (a *App) stuck(ctx context.Context, o *store.SendOut, err error) error {
	if ctx.Err() != nil {
		err = errors.New("stopped before it was through")
	}
	e := a.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error {
		return tx.Update(&store.SendOut{ID: o.ID}, map[string]any{"error": err.Error(), "tries": o.Tries + 1})
	})
	a.changed("sendouts", "counts")
	if ctx.Err() != nil {
		return errors.Join(ctx.Err(), e)
	}
	return errors.Join(err, e)
}

// retry asks again after growing pauses while it may work later.
func retry[T any](ctx context.Context, pauses []time.Duration, ask func() (T, error)) (T, error) {
	for i := 0; ; i++ {
		v, err := ask()
		if err == nil || !market.MayWorkLater(err) || i >= len(pauses) {
			return v, err
		}
		select {
		case <-ctx.Done():
			return v, ctx.Err()
		case <-time.After(pauses[i]):
		}
	}
}

// answer writes down what the marketplace says of lines that have had no
// answer yet, and tells how many have one now. What is said twice counts once.
func (a *App) answer(ctx context.Context, o *store.SendOut, b market.Batch) (int64, error) {
	said := map[string]market.Outcome{}
	for _, l := range b.Lines {
		said[l.Key] = l
	}
	lines, err := a.Store.Outgoing(ctx, o.ID)
	if err != nil {
		return 0, err
	}
	answered, fresh := int64(0), []store.OutgoingLine{}
	for _, l := range lines {
		if _, ok := said[l.Key]; ok {
			answered++
			if l.State == store.SendSent {
				fresh = append(fresh, l)
			}
		}
	}
	if len(fresh) == 0 {
		return answered, nil
	}
	now := a.now()
	err = a.Store.Do(ctx, func(tx store.Tx) error {
		for _, l := range fresh {
			if err := a.settle(tx, l, said[l.Key], now); err != nil {
				return err
			}
		}
		return nil
	})
	a.changed("sendouts", "counts")
	return answered, err
}

// settle is one line's outcome and what it means for its listing.
func (a *App) settle(tx store.Tx, l store.OutgoingLine, out market.Outcome, now time.Time) error {
	listing, err := store.GetTx[store.Listing](tx, l.ListingID)
	if err != nil {
		return err
	}
	state := store.SendRefused
	change := map[string]any{"words": clip(out.Words, 1000), "words_field": out.Field}
	if out.State == store.SendConfirmed {
		state = store.SendConfirmed
		change = map[string]any{"words": "", "words_field": "", "confirmed_at": &now, "state": store.ListingLive}
		if l.Price != nil {
			change["confirmed_price"], change["confirmed_cost"], change["confirmed_cost_cur"] = l.Price, l.Cost, l.CostCur
		}
		if l.Quantity != nil {
			change["confirmed_quantity"] = *l.Quantity
		}
	} else if listing.ConfirmedAt == nil {
		change["state"] = store.ListingRefused
	}
	return errors.Join(
		tx.Update(&store.SendLine{ID: l.ID}, map[string]any{"state": state, "words": clip(out.Words, 1000), "field": out.Field, "answered_at": &now}),
		tx.Update(&listing, change))
}

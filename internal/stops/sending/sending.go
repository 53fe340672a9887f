// Package sending is the stop where what a person let go is handed over to a
// marketplace, followed to its end, and settled: confirmed, refused in the
// marketplace's words, given up, or unknown until what is on sale there has been
// read back. It keeps the promises of docs/definitions/supply.md, section 7: never under
// the floor, never above what the supplier has at the moment it is handed over,
// never twice, and nothing on sale lost sight of.
package sending

import (
	"context"
	"crypto/rand"
	"fmt"
	"time"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Send.
type Stop struct {
	stops.Deps
	// Poll is how soon a batch is asked about, growing from there.
	Poll time.Duration

	aloneAt stops.Pace
}

// New makes the stop.
func New(d stops.Deps, poll time.Duration) *Stop { return &Stop{Deps: d, Poll: poll} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) {
	q.Handle(store.RunSend, st.doSend)
	q.Handle(store.RunFollow, st.doFollow)
	q.Handle(store.RunRead, st.doRead)
	q.Handle(store.RunAlone, st.doAlone)
	q.Handle(store.RunLight, st.doLight)
}

// Resume takes up what was let go and that no run is at any more.
func (st *Stop) Resume(ctx context.Context) error {
	return st.Store.Do(ctx, func(tx store.Tx) error { return st.resume(tx) })
}

func (st *Stop) resume(tx store.Tx) error {
	waiting, err := tx.WaitingSendOuts()
	for i := 0; err == nil && i < len(waiting); i++ {
		_, err = st.queueSend(tx, &waiting[i], "")
	}
	if err != nil {
		return err
	}
	followed, err := tx.FollowedMarketplaces()
	for i := 0; err == nil && i < len(followed); i++ {
		err = st.queueFollow(tx, followed[i])
	}
	return err
}

// Sent is what became of a wish to send: the send-outs it made, how many lines
// they have, and how many could not go yet.
type Sent struct {
	SendOuts []int64     `json:"send_outs"`
	Lines    int64       `json:"lines"`
	Reworked int64       `json:"reworked" doc:"Listings chosen for which something changed a moment ago: they are worked out again first, and stayed behind"`
	Later    int64       `json:"later" doc:"Of the lines, those that wait for the time that was said"`
	Runs     []stops.Run `json:"runs"`
}

// SendListings puts listings that are ready (all of them where ids is nil) or
// were refused (only by their ids) into send-outs and begins sending. Each
// listing goes once: it is taken out of ready in the same transaction.
func (st *Stop) SendListings(ctx context.Context, ids []int64, how How) (Sent, error) {
	reworked := int64(0)
	out, err := st.send(ctx, store.SendOut{}, how, func(tx store.Tx) ([]store.SendLine, map[int64]int64, error) {
		list, err := tx.Sendables(ids, how.Order)
		if err != nil {
			return nil, nil, err
		}
		if reworked, err = tx.CountDirtyReady(ids); err != nil {
			return nil, nil, err
		}
		var lines []store.SendLine
		var marked []int64
		sites := map[int64]int64{}
		doors := map[int64]error{}
		for i := range list {
			l := &list[i]
			if l.Floor == nil || *l.Price < *l.Floor {
				continue // never under the floor
			}
			if !how.goes(l.SiteID) {
				continue
			}
			if _, asked := doors[l.SiteID]; !asked {
				doors[l.SiteID] = st.door(tx, l.SiteID)
			}
			if err := doors[l.SiteID]; err != nil {
				if ids != nil {
					return nil, nil, err
				}
				continue // nothing can be sent there; the others go
			}
			marked, sites[l.ID] = append(marked, l.ID), l.SiteID
			lines = append(
				lines,
				store.SendLine{
					ListingID: l.ID,
					Was:       l.State,
					Price:     l.Price,
					Quantity:  &l.Quantity,
					Cost:      l.Cost,
					CostCur:   l.CostCur,
					Landed:    l.Landed,
				},
			)
		}
		return lines, sites, tx.MarkListings(marked, store.ListingSent)
	})
	out.Reworked = reworked
	return out, err
}

// SendWords sends what listings on sale are to say otherwise than they do there:
// those named, or all where ids is nil. Only what differs goes; prices and stock
// are left as they are. A place of sheets is given the whole row.
func (st *Stop) SendWords(ctx context.Context, ids []int64, how How) (Sent, error) {
	return st.send(ctx, store.SendOut{}, how, func(tx store.Tx) ([]store.SendLine, map[int64]int64, error) {
		list, err := tx.Worded(ids)
		if err != nil {
			return nil, nil, err
		}
		var lines []store.SendLine
		sites, doors, whole := map[int64]int64{}, map[int64]error{}, map[int64]bool{}
		for i := range list {
			l := &list[i]
			if !how.goes(l.SiteID) {
				continue
			}
			if _, asked := doors[l.SiteID]; !asked {
				doors[l.SiteID] = st.door(tx, l.SiteID)
				site, err := tx.SiteOf(l.SiteID)
				if err != nil {
					return nil, nil, err
				}
				whole[l.SiteID] = site.Kind == place.KindSheet
			}
			if err := doors[l.SiteID]; err != nil {
				if ids != nil {
					return nil, nil, err
				}
				continue
			}
			sites[l.ID] = l.SiteID
			line := store.SendLine{ListingID: l.ID, Was: l.State, Does: store.DoesChange}
			if whole[l.SiteID] { // a row of a sheet has a price and a quantity: those that are there, where they may be still
				line.Price, line.Quantity, line.Cost, line.CostCur, line.Landed = l.ConfirmedPrice, &l.ConfirmedQuantity, l.ConfirmedCost, l.ConfirmedCostCur, l.ConfirmedLanded
			}
			lines = append(lines, line)
		}
		return lines, sites, nil
	})
}

// PlanChoice says which lines of a plan a person lets go. The zero value is all
// that may go by themselves.
type PlanChoice struct {
	Lines  []int64 `json:"lines,omitempty" doc:"Only these, held ones among them; all that may go where left out"`
	Kind   string  `json:"kind,omitempty" doc:"Only those of one consequence"`
	Except []int64 `json:"except,omitempty" doc:"Of all that may go, not these"`
	Held   []int64 `json:"held,omitempty" doc:"And these held ones, which somebody has looked at"`

	At   *time.Time `json:"at,omitempty" doc:"Not before; at once where left out. What takes stock down goes at once all the same"`
	Over int64      `json:"over_minutes,omitempty" minimum:"0" maximum:"1440" doc:"Spread over so long from then on"`
}

// SendPlan sends the lines of a plan that a person chose: held ones only where
// they were named. Lines that a newer change has overtaken stay behind.
func (st *Stop) SendPlan(ctx context.Context, planID int64, choice PlanChoice) (Sent, error) {
	out, err := st.send(ctx, store.SendOut{PlanID: &planID}, How{At: choice.At, Over: choice.Over}, func(tx store.Tx) ([]store.SendLine, map[int64]int64, error) {
		p, err := store.GetTx[store.Plan](tx, planID)
		if err != nil {
			return nil, nil, err
		}
		if err := st.door(tx, p.SiteID); err != nil {
			return nil, nil, err
		}
		return st.letGo(tx, p, store.PlanChoice{Lines: choice.Lines, Kind: choice.Kind, Except: choice.Except, Held: choice.Held})
	})
	if err == nil && len(choice.Lines) == 0 {
		out.Reworked, err = st.Store.CountDirtyPlanned(ctx, planID)
	}
	return out, err
}

// letGo takes lines out of a plan, and makes those that are handed over of them.
func (st *Stop) letGo(tx store.Tx, p store.Plan, choice store.PlanChoice) ([]store.SendLine, map[int64]int64, error) {
	list, err := tx.PlanSendables(p.ID, choice)
	if err != nil {
		return nil, nil, err
	}
	var lines []store.SendLine
	var marked, listings []int64
	sites := map[int64]int64{}
	for i := range list {
		x := &list[i]
		marked, listings, sites[x.ListingID] = append(marked, x.ID), append(listings, x.ListingID), p.SiteID
		lines = append(lines, lineOf(x))
	}
	return lines, sites, stops.First(
		tx.MarkPlanLines(marked, store.PlanSent),
		tx.ForgetBack(lines, st.Now()),
		tx.DirtyListings(st.Now(), listings),
	)
}

// lineOf is what is handed over of a line of a plan.
func lineOf(x *store.PlanLine) store.SendLine {
	return store.SendLine{ListingID: x.ListingID, PlanLineID: &x.ID, Was: store.ListingLive, Price: x.ToPrice, Quantity: x.ToQty,
		Cost: x.Cost, CostCur: x.CostCur, Landed: x.Landed}
}

// send keeps lines as send-outs with the runs that hand them over, all in one
// transaction: no more lines each than the site takes, and those that put stock
// to nothing by themselves and first. like is what they have in common.
func (st *Stop) send(
	ctx context.Context,
	like store.SendOut,
	how How,
	pick func(tx store.Tx) (lines []store.SendLine, sites map[int64]int64, err error),
) (Sent, error) {
	out := Sent{SendOuts: []int64{}, Runs: []stops.Run{}}
	if err := how.check(st.Now()); err != nil {
		return out, err
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		if err := stops.Stopped(tx); err != nil {
			return err
		}
		lines, siteOf, err := pick(tx)
		if err != nil || len(lines) == 0 {
			return err
		}
		if err := keepKeys(tx, lines); err != nil {
			return err
		}
		sites, err := tx.Sites()
		if err != nil {
			return err
		}
		var offered map[int64]int64
		if how.waits() {
			if offered, err = tx.Offered(lines); err != nil {
				return err
			}
		}
		for _, urgent := range []bool{true, false} {
			for i := range sites {
				var mine []store.SendLine
				for _, x := range lines {
					if siteOf[x.ListingID] == sites[i].ID && toNothing(&x) == urgent {
						mine = append(mine, x)
					}
				}
				if err := st.batches(tx, &sites[i], like, urgent, how.parts(&sites[i], mine, offered, st.Now()), &out); err != nil {
					return err
				}
			}
		}
		tx.Changed("listings", "sendouts", "plan", "counts")
		return tx.Note(st.Now(), "sent", stops.Plural(out.Lines, "line", "lines"), "")
	})
	return out, err
}

// toNothing tells whether a line only takes a listing off sale.
func toNothing(x *store.SendLine) bool {
	return x.Price == nil && x.Quantity != nil && *x.Quantity == 0
}

// keepKeys gives lines that were perhaps handed over before, the same and never
// answered, the key they had then: the marketplace knows it, and does nothing twice.
func keepKeys(tx store.Tx, lines []store.SendLine) error {
	ids := make([]int64, len(lines))
	for i := range lines {
		ids[i] = lines[i].ListingID
	}
	before, err := tx.PerhapsHanded(ids)
	if err != nil {
		return err
	}
	same := func(a, b *int64) bool { return a == b || a != nil && b != nil && *a == *b }
	for i := range lines {
		if lines[i].Does == store.DoesChange {
			continue // what it says may be something else by now
		}
		if b, ok := before[lines[i].ListingID]; ok && same(b.Price, lines[i].Price) && same(b.Quantity, lines[i].Quantity) {
			lines[i].Key = b.Key
		}
	}
	return nil
}

// batches makes the send-outs of one site; what waits for its time is queued
// when that comes.
func (st *Stop) batches(tx store.Tx, site *store.Site, like store.SendOut, urgent bool, parts []part, out *Sent) error {
	for _, p := range parts {
		o := like
		o.SiteID, o.Key, o.State, o.Urgent, o.Sender, o.CreatedAt = site.ID, rand.Text(), store.SendWaiting, urgent, actorOf(tx), st.Now()
		o.AgainAt = p.at
		if err := tx.Create(&o); err != nil {
			return err
		}
		for i := range p.lines {
			p.lines[i].SendOutID, p.lines[i].State = o.ID, store.SendWaiting
			if p.lines[i].Key == "" {
				p.lines[i].Key = fmt.Sprintf("%s-%d", o.Key, i+1)
			}
		}
		if err := tx.InsertSendLines(p.lines); err != nil {
			return err
		}
		n := int64(len(p.lines))
		out.SendOuts, out.Lines = append(out.SendOuts, o.ID), out.Lines+n
		if p.at != nil {
			out.Later += n
			continue
		}
		r, err := st.queueSend(tx, &o, fmt.Sprintf("Sending %s to %s", stops.Plural(n, "listing", "listings"), site.Name))
		if err != nil {
			return err
		}
		out.Runs = append(out.Runs, stops.RunOf(r))
	}
	return nil
}

// mostSheet is the most rows of one filled sheet.
const mostSheet = 100_000

// mostLines is how many lines one send-out to a site may have.
func mostLines(site *store.Site) int64 {
	if bySheet(site) {
		return mostSheet
	}
	return max(site.MaxLines, 1)
}

// bySheet tells whether what goes to a site becomes a file or tasks for a person.
func bySheet(site *store.Site) bool {
	return site.Kind == place.KindSheet || site.Kind == place.KindHand || site.Marketplace.Address == ""
}

func actorOf(tx store.Tx) string { return actor.Of(tx.Context()) }

// queueSend queues the handing over of a send-out, behind those of its place
// that were let go before it.
func (st *Stop) queueSend(tx store.Tx, o *store.SendOut, title string) (store.Run, error) {
	site, err := tx.SiteOf(o.SiteID)
	if err != nil {
		return store.Run{}, err
	}
	if title == "" {
		title = "Sending to " + site.Name
	}
	r := store.Run{
		Kind:      store.RunSend,
		Lane:      store.Lane(store.RunSend, site.MarketplaceID),
		Title:     title,
		Subject:   o.ID,
		Urgent:    o.Urgent,
		CreatedAt: st.Now(),
	}
	err = tx.Queue(&r)
	return r, err
}

// queueFollow queues the asking about what a marketplace was handed.
func (st *Stop) queueFollow(tx store.Tx, m store.Marketplace) error {
	r := store.Run{
		Kind:      store.RunFollow,
		Lane:      store.Lane(store.RunFollow, m.ID),
		Title:     "Waiting for " + m.Name + "'s answers",
		Subject:   m.ID,
		Once:      true,
		CreatedAt: st.Now(),
	}
	return tx.Queue(&r)
}

// queueRead queues the reading back of what a site has on sale.
func (st *Stop) queueRead(tx store.Tx, site store.Site) error {
	site, err := tx.SiteOf(site.ID) // with its marketplace, whoever read it
	if err != nil || site.Marketplace.Address == "" {
		return err // one that can't be asked: its listing report is brought in
	}
	r := store.Run{
		Kind:      store.RunRead,
		Lane:      store.Lane(store.RunRead, site.MarketplaceID),
		Title:     "Reading back what is on sale on " + site.Name,
		Subject:   site.ID,
		Once:      true,
		CreatedAt: st.Now(),
	}
	return tx.Queue(&r)
}

// SendAgain tries a send-out anew that could not be handed over or followed.
// Its lines carry the same keys, so the marketplace does nothing twice.
func (st *Stop) SendAgain(ctx context.Context, id int64) (store.Run, error) {
	var run store.Run
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := tx.SendOutRowOf(id)
		if err != nil {
			return err
		}
		if !st.may(&row) {
			return fault.New(fault.Conflict, "this send-out is on its way or through; there is nothing to try again")
		}
		o, err := store.GetTx[store.SendOut](tx, id)
		if err != nil {
			return err
		}
		if err := tx.Update(&o, map[string]any{"error": "", "paused": false, "again_at": nil}); err != nil {
			return err
		}
		tx.Changed("sendouts", "counts")
		if o.State == store.SendWaiting {
			run, err = st.queueSend(tx, &o, "Trying a send-out again")
			return err
		}
		site, err := tx.SiteOf(o.SiteID)
		if err != nil {
			return err
		}
		return st.queueFollow(tx, site.Marketplace)
	})
	return run, err
}

// may tells whether a person may try a send-out again or give it up: it isn't
// through, and no run is at it, or its marketplace has had its time.
func (st *Stop) may(o *store.SendOutRow) bool {
	switch o.State {
	case store.SendWaiting:
		return !o.Alive
	case store.SendSent:
		return !o.Followed || o.Overdue(st.Now())
	}
	return false
}

// GiveUp ends a send-out that could not be handed over or was never finished.
// What was surely never handed over is as it was before; what may have been is
// unknown, and is read back at once.
func (st *Stop) GiveUp(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		row, err := tx.SendOutRowOf(id)
		if err != nil {
			return err
		}
		if !st.may(&row) {
			return fault.New(
				fault.Conflict,
				"this send-out is on its way or through; only one that nothing is being done for can be given up",
			)
		}
		o, err := store.GetTx[store.SendOut](tx, id)
		if err != nil {
			return err
		}
		lines, err := tx.Outgoing(id)
		if err != nil {
			return err
		}
		fetched, err := tx.Fetched(id)
		if err == nil && fetched != "" {
			err = fault.New(fault.Conflict, "%s was downloaded; say first, under Send, Sheets, whether it was uploaded", fetched)
		}
		if err != nil {
			return err
		}
		kept, err := tx.NeverUploaded(id)
		if err != nil {
			return err
		}
		now := st.Now()
		var lost, back []store.OutgoingLine
		for _, l := range lines {
			switch {
			case kept && l.State == store.SendSent: // its sheet was made, and nobody took it anywhere
				back = append(back, l)
			case l.State == store.SendSent, l.State == store.SendWaiting && o.Perhaps && l.Handed:
				lost = append(lost, l)
			case l.State == store.SendWaiting:
				back = append(back, l)
			}
		}
		if err := st.putBack(tx, back, o.Error); err != nil {
			return err
		}
		if err := st.unknown(tx, o.SiteID, lost, "given up: "+o.Error); err != nil {
			return err
		}
		tx.Changed("sendouts", "listings", "counts")
		return stops.First(
			tx.Update(&o, map[string]any{"state": store.SendDone, "done_at": &now}),
			tx.Note(now, "send-out given up", fmt.Sprint(id), o.Error),
		)
	})
}

// putBack gives lines up that were surely never handed over: their listings
// are as they were before.
func (st *Stop) putBack(tx store.Tx, lines []store.OutgoingLine, why string) error {
	var ids, listings []int64
	was := map[string][]int64{}
	for _, l := range lines {
		ids, listings = append(ids, l.ID), append(listings, l.ListingID)
		if l.PlanLineID == nil && l.Does != store.DoesChange {
			was[l.Was] = append(was[l.Was], l.ListingID)
		}
	}
	if ids == nil {
		return nil
	}
	for state, of := range was {
		if err := tx.MarkListings(of, state); err != nil {
			return err
		}
	}
	return stops.First(
		tx.SetLines(ids, map[string]any{"state": store.SendGivenUp, "words": why, "answered_at": st.Now()}),
		tx.DirtyListings(st.Now(), listings),
	)
}

// unknown says of lines that may have been handed over that nobody told what
// became of them. What is on sale there is read back at once, and again later:
// a marketplace may still be at work on them.
func (st *Stop) unknown(tx store.Tx, siteID int64, lines []store.OutgoingLine, why string) error {
	var ids, listings []int64
	for _, l := range lines {
		ids, listings = append(ids, l.ID), append(listings, l.ListingID)
	}
	if ids == nil {
		return nil
	}
	site, err := tx.SiteOf(siteID)
	if err != nil {
		return err
	}
	now := st.Now()
	return stops.First(
		tx.SetLines(ids, map[string]any{"state": store.SendUnknown, "words": why}),
		tx.MarkUnconfirmed(listings, store.ListingUnknown),
		tx.DirtyListings(now, listings),
		st.queueRead(tx, site),
		tx.ReadAt(siteID, now.Add(10*time.Minute), now.Add(time.Hour)),
	)
}

// outlet is the port of a site by which things are sold there.
func (st *Stop) outlet(site store.Site) (place.Outlet, error) {
	o := st.Places(site.Marketplace).Outlet
	if o == nil {
		return nil, fault.New(
			fault.Conflict,
			"%s takes nothing by a gateway: change it there by hand, and bring its listing report in again under Places",
			site.Marketplace.Name,
		)
	}
	return o, nil
}

// door tells whether anything can be sent to a site.
func (st *Stop) door(tx store.Tx, siteID int64) error {
	site, err := tx.SiteOf(siteID)
	if err == nil {
		_, err = st.outlet(site)
	}
	return err
}

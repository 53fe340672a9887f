// Package orders is the stop where what was sold comes in, is bought and is sent
// on (docs/orders.md). What is sold is promised at once: nothing
// of it is offered anywhere any more.
package orders

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Stop is the use cases of Orders.
type Stop struct {
	stops.Deps

	lookedAt stops.Pace
}

// New makes the stop.
func New(d stops.Deps) *Stop { return &Stop{Deps: d} }

// Handle says how its runs are done.
func (st *Stop) Handle(q *work.Queue) { q.Handle(store.RunOrders, st.doOrders) }

// readEvery is how often what was sold is asked for.
const readEvery = 3 * time.Minute

// Round asks for what was sold where it is time, and takes back what is no longer
// promised.
func (st *Stop) Round(ctx context.Context) error {
	now := st.Now()
	if !st.lookedAt.After(time.Minute, now) {
		return nil
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		sites, err := tx.OrderSites(now.Add(-readEvery))
		for i := 0; err == nil && i < len(sites); i++ {
			err = st.queue(tx, &sites[i])
		}
		if err != nil {
			return err
		}
		lines, products, err := tx.Delivered()
		if err != nil {
			return err
		}
		return stops.First(tx.SetOrderLines(lines, map[string]any{"promised": false}), tx.DirtySold(now, products), tx.EndSent(now.Add(-settled), now))
	})
}

// settled is how long after it was sent an order counts as done.
const settled = 30 * 24 * time.Hour

// Read asks for what was sold on a site now.
func (st *Stop) Read(ctx context.Context, siteID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		return st.queue(tx, &site)
	})
}

func (st *Stop) queue(tx store.Tx, site *store.Site) error {
	if st.Places(site.Marketplace).Orders == nil {
		return nil
	}
	return tx.Queue(&store.Run{Kind: store.RunOrders, Lane: store.Lane(store.RunOrders, site.MarketplaceID), Title: "Reading what was sold on " + site.Name,
		Subject: site.ID, Once: true, CreatedAt: st.Now()})
}

// doOrders tells a place what became of its orders, and reads what was sold there
// since it was read last. The same order read twice is one order.
func (st *Stop) doOrders(ctx context.Context, t *work.Task) error {
	site, err := st.Store.SiteOf(ctx, t.Subject)
	if err != nil {
		return err
	}
	port := st.Places(site.Marketplace).Orders
	if port == nil {
		return nil
	}
	wrong := st.tell(ctx, &site, port)
	cursor, taken := site.OrdersCursor, int64(0)
	for {
		list, next, err := port.Orders(ctx, site.Code, cursor)
		if err != nil {
			at := st.Now()
			return errors.Join(wrong, err, st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error { return tx.OrdersRead(site.ID, cursor, at) }))
		}
		if next == "" {
			next = cursor // it tells them all each time
		}
		if err := st.Store.Do(ctx, func(tx store.Tx) error {
			return stops.First(st.take(tx, &site, list, store.OrderGateway), tx.OrdersRead(site.ID, next, st.Now()))
		}); err != nil {
			return errors.Join(wrong, fmt.Errorf("taking what was sold on %s: %w", site.Name, err))
		}
		taken += int64(len(list))
		t.At(taken, 0)
		if len(list) == 0 || next == cursor {
			break
		}
		cursor = next
	}
	t.Note = fmt.Sprintf("%s: %s read", site.Name, stops.Plural(taken, "order", "orders"))
	return wrong
}

// tell says to a place what became of lines; what it refuses is for a person.
func (st *Stop) tell(ctx context.Context, site *store.Site, port place.Orders) error {
	lines, err := st.Store.Untold(ctx, site.ID)
	if err != nil {
		return err
	}
	for _, l := range lines {
		list, err := tellingsOf(l.ID, l.Told)
		if err != nil {
			return fmt.Errorf("what %s is to be told: %w", site.Name, err)
		}
		for _, x := range list {
			err := port.Answer(ctx, site.Code, l.OrderRef, x.Key, []place.OrderAnswer{x.Answer})
			var no *place.Refusal
			problem := ""
			if errors.As(err, &no) {
				problem = no.Error()
			} else if err != nil {
				return err
			}
			if err := st.Store.Do(context.WithoutCancel(ctx), func(tx store.Tx) error { return st.told(tx, l.ID, x.Key, problem) }); err != nil {
				return err
			}
		}
	}
	return nil
}

// telling is something that a place is to be told of a line. The key stays the same
// however often it is tried, and no two things have the same.
type telling struct {
	Key    string            `json:"key"`
	Answer place.OrderAnswer `json:"answer"`
}

// tellingsOf are what is still to be told of a line, the first first.
func tellingsOf(line int64, text string) ([]telling, error) {
	if text == "" {
		return nil, nil
	}
	if strings.HasPrefix(text, "{") { // one alone, as it was kept before
		one := telling{Key: fmt.Sprintf("line-%d-%x", line, sha256.Sum256([]byte(text)))[:40]}
		err := json.Unmarshal([]byte(text), &one.Answer)
		return []telling{one}, err
	}
	var out []telling
	err := json.Unmarshal([]byte(text), &out)
	return out, err
}

// toTell is what is still to be told of a line, with something more.
func toTell(l *store.OrderLine, a *place.OrderAnswer) (string, error) {
	list, err := tellingsOf(l.ID, l.Told)
	if err != nil {
		return "", err
	}
	text, err := json.Marshal(append(list, telling{rand.Text(), *a}))
	return string(text), err
}

// told notes that a place was told something of a line, and what it said to it where
// that was a no.
func (st *Stop) told(tx store.Tx, line int64, key, problem string) error {
	l, err := store.GetTx[store.OrderLine](tx, line)
	if err != nil {
		return err
	}
	list, err := tellingsOf(l.ID, l.Told)
	if err != nil {
		return err
	}
	text := ""
	if list = slices.DeleteFunc(list, func(x telling) bool { return x.Key == key }); len(list) > 0 {
		raw, err := json.Marshal(list)
		if err != nil {
			return err
		}
		text = string(raw)
	}
	columns := map[string]any{"told": text}
	if problem != "" {
		columns["problem"] = problem
	}
	tx.Changed("orders", "counts")
	return tx.SetOrderLines([]int64{line}, columns)
}

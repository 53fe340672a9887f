package orders

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/tally"
	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Sent says of lines that they are on their way to their buyers, with what their
// places are told.
func (st *Stop) Sent(ctx context.Context, ids []int64, carrier, tracking string) error {
	carrier, tracking = strings.TrimSpace(carrier), strings.TrimSpace(tracking)
	if carrier == "" {
		return fault.At("carrier", "say by whom it goes")
	}
	if tracking == "" {
		return fault.At("tracking", "say its tracking number")
	}
	return st.act(ctx, ids, "sent", []string{store.LineBought, store.LineNew}, func(l *store.OrderLine, now time.Time) (map[string]any, *place.OrderAnswer, error) {
		columns := map[string]any{"state": store.LineSent, "sent_at": &now, "carrier": carrier, "tracking": tracking}
		if l.BoughtAt == nil { // it was bought elsewhere, by now
			columns["bought_at"] = &now
		}
		return columns, &place.OrderAnswer{Line: l.Ref, Do: place.OrderSent, Carrier: carrier, Tracking: tracking}, nil
	})
}

// Cancel calls lines off that weren't sent. What wasn't bought yet is no longer
// promised.
func (st *Stop) Cancel(ctx context.Context, ids []int64) error {
	return st.act(ctx, ids, "cancelled", []string{store.LineNew, store.LineBought}, func(l *store.OrderLine, now time.Time) (map[string]any, *place.OrderAnswer, error) {
		columns := map[string]any{"state": store.LineCancelled, "ended_at": &now, "problem": ""}
		if l.State == store.LineNew {
			columns["promised"] = false
		}
		return columns, &place.OrderAnswer{Line: l.Ref, Do: place.OrderCancelled}, nil
	})
}

// Refund is money to give back for one line, in its order's currency.
type Refund struct {
	Amount   string `json:"amount,omitempty" maxLength:"40" doc:"All that is left of what was paid where left out"`
	Of       string `json:"of,omitempty" enum:"goods,delivery" default:"goods" doc:"Of the line's goods, or of the whole order's delivery"`
	Returned bool   `json:"returned,omitempty" doc:"It came back"`
}

// Refund gives money back, never more than is left of what was paid. What is given
// back of delivery is shared over the lines of the order, as delivery was.
func (st *Stop) Refund(ctx context.Context, id int64, in Refund) error {
	lines, currency, err := st.linesBeside(ctx, id)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(lines, func(l store.OrderLine) bool { return l.ID == id })
	left := make([]int64, len(lines))
	all := int64(0)
	for i := range lines {
		if in.Of == "delivery" {
			left[i] = deliveryLeft(&lines[i])
		} else if i == at {
			left[i] = goodsLeft(&lines[i])
		}
		all += left[i]
	}
	v := all
	if strings.TrimSpace(in.Amount) != "" {
		if v, err = stops.Amount("amount", in.Amount, currency); err != nil {
			return err
		}
	}
	if v > all {
		return fault.At("amount", "%s is more than is left of what was paid for %s: %s", money.Of(v, currency), cmp.Or(in.Of, "goods"), money.Of(all, currency))
	}
	if v == 0 && !in.Returned {
		return fault.At("amount", "nothing is left of what was paid for %s, or nothing is to be given back", cmp.Or(in.Of, "goods"))
	}
	parts, _ := tally.Share(v, left) // their sum was paid, so that it is in range
	var ids []int64
	of := map[int64]int64{}
	for i, l := range lines {
		if parts[i] > 0 || i == at && in.Returned {
			ids, of[l.ID] = append(ids, l.ID), parts[i]
		}
	}
	states := []string{store.LineSent, store.LineDone, store.LineBought, store.LineReturned, store.LineCancelled}
	if in.Of == "delivery" {
		states = nil // the order's, however far each line is
	}
	return st.act(ctx, ids, "refunded", states,
		func(l *store.OrderLine, now time.Time) (map[string]any, *place.OrderAnswer, error) {
			columns := map[string]any{"problem": ""}
			if part := of[l.ID]; in.Of == "delivery" {
				if part > deliveryLeft(l) {
					return nil, nil, fault.New(fault.Conflict, "some of it was given back meanwhile; look again")
				}
				columns["refunded"], columns["refunded_delivery"] = l.Refunded+part, l.RefundedDelivery+part
			} else if columns["refunded"] = l.Refunded + part; part > goodsLeft(l) {
				return nil, nil, fault.New(fault.Conflict, "some of it was given back meanwhile; look again")
			}
			if in.Returned && l.ID == id {
				columns["state"], columns["ended_at"] = store.LineReturned, &now
			}
			if of[l.ID] == 0 {
				return columns, nil, nil
			}
			return columns, &place.OrderAnswer{Line: l.Ref, Do: place.OrderRefunded, Amount: of[l.ID]}, nil
		})
}

// linesBeside are the lines of the order that a line is of, with their currency.
func (st *Stop) linesBeside(ctx context.Context, id int64) ([]store.OrderLine, money.Currency, error) {
	tx := st.Store.Reading(ctx)
	line, err := store.GetTx[store.OrderLine](tx, id)
	if err != nil {
		return nil, "", err
	}
	o, err := store.GetTx[store.Order](tx, line.OrderID)
	if err != nil {
		return nil, "", err
	}
	lines, err := tx.LinesOfOrder(line.OrderID)
	return lines, money.Currency(o.Currency), err
}

// currencyOf is the currency that a line was sold in.
func (st *Stop) currencyOf(ctx context.Context, lineID int64) (money.Currency, error) {
	_, currency, err := st.linesBeside(ctx, lineID)
	return currency, err
}

// Settle says of lines with a problem that a person has seen to it.
func (st *Stop) Settle(ctx context.Context, ids []int64) error {
	return st.act(ctx, ids, "seen to", nil, func(*store.OrderLine, time.Time) (map[string]any, *place.OrderAnswer, error) {
		return map[string]any{"problem": ""}, nil, nil
	})
}

// Real says what a line really cost, in its order's currency; "" leaves it as it is.
func (st *Stop) Real(ctx context.Context, id int64, cost, sending, fees string) error {
	currency, err := st.currencyOf(ctx, id)
	if err != nil {
		return err
	}
	columns := map[string]any{}
	for name, text := range map[string]string{"cost": cost, "sending": sending, "fees": fees} {
		if strings.TrimSpace(text) == "" {
			continue
		}
		v, err := stops.Amount(name, text, currency)
		if err != nil {
			return err
		}
		columns[name] = v
	}
	if len(columns) == 0 {
		return fault.New(fault.Invalid, "say what its goods, sending it or its fees really cost")
	}
	return st.act(ctx, []int64{id}, "really", nil, func(*store.OrderLine, time.Time) (map[string]any, *place.OrderAnswer, error) {
		return columns, nil, nil
	})
}

// act changes lines that are in one of some states, all or none, and keeps what
// their places are to be told: a run tells them, whatever happens meanwhile.
func (st *Stop) act(ctx context.Context, ids []int64, what string, states []string,
	do func(l *store.OrderLine, now time.Time) (map[string]any, *place.OrderAnswer, error)) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		lines, err := tx.OrderLines(ids)
		if err != nil {
			return err
		}
		if len(lines) != len(ids) || len(ids) == 0 {
			return fault.New(fault.Missing, "some of these lines are not there any more; look again")
		}
		now := st.Now()
		var sold []int64
		sites := map[int64]bool{}
		for i := range lines {
			l := &lines[i]
			if states != nil && !strings.Contains(" "+strings.Join(states, " ")+" ", " "+l.State+" ") {
				return fault.New(fault.Conflict, "%s is %s already, so it can't be %s", stops.Clip(orSKU(l), 80), l.State, what)
			}
			columns, answer, err := do(l, now)
			if err != nil {
				return err
			}
			o, err := store.GetTx[store.Order](tx, l.OrderID)
			if err != nil {
				return err
			}
			if answer != nil && (o.Origin == store.OrderGateway || o.Origin == store.OrderShop) {
				if columns["told"], err = toTell(l, answer); err != nil {
					return err
				}
				sites[o.SiteID] = true
			}
			if err := tx.SetOrderLines([]int64{l.ID}, columns); err != nil {
				return err
			}
			if l.SupplierProductID != nil {
				sold = append(sold, *l.SupplierProductID)
			}
			if err := tx.Note(now, "order "+what, o.Ref, fmt.Sprint(l.ID)); err != nil {
				return err
			}
		}
		for id := range sites {
			site, err := tx.SiteOf(id)
			if err != nil {
				return err
			}
			if err := st.queue(tx, &site); err != nil {
				return err
			}
		}
		tx.Changed("orders", "counts", "listings")
		return tx.DirtySold(now, sold)
	})
}

func orSKU(l *store.OrderLine) string {
	if l.Title != "" {
		return l.Title
	}
	return l.SKU
}

// TypedOrder is an order that a person types in.
type TypedOrder struct {
	SiteID  int64       `json:"site_id"`
	Ref     string      `json:"ref" minLength:"1" maxLength:"100" doc:"The place's name for it"`
	Buyer   place.Buyer `json:"buyer"`
	Lines   []TypedLine `json:"lines" minItems:"1" maxItems:"200"`
	Placed  *time.Time  `json:"placed,omitempty" doc:"Now where left out"`
	Country string      `json:"country,omitempty" maxLength:"2"`
}

// TypedLine is a line of one.
type TypedLine struct {
	SKU      string `json:"sku" minLength:"1" maxLength:"200"`
	Quantity int64  `json:"quantity" minimum:"1" maximum:"100000"`
	Price    string `json:"price" maxLength:"40" doc:"Of one, in the site's currency"`
	Delivery string `json:"delivery,omitempty" maxLength:"40"`
}

// Type keeps an order that a person types in: of a place that tells none.
func (st *Stop) Type(ctx context.Context, in TypedOrder) (int64, error) {
	var id int64
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(in.SiteID)
		if err != nil {
			return err
		}
		if _, _, known, err := tx.OrderOf(site.ID, in.Ref); err != nil {
			return err
		} else if known {
			return fault.At("ref", "the order %s of %s is here already", in.Ref, site.Name)
		}
		o := place.Order{Ref: strings.TrimSpace(in.Ref), Placed: st.Now(), Currency: site.Currency, Buyer: in.Buyer}
		if in.Placed != nil {
			o.Placed = *in.Placed
		}
		for i, l := range in.Lines {
			x := place.OrderLine{Ref: fmt.Sprint(i + 1), SKU: strings.TrimSpace(l.SKU), Quantity: l.Quantity}
			if x.Price, err = stops.Amount(fmt.Sprintf("lines[%d].price", i), l.Price, money.Currency(site.Currency)); err != nil {
				return err
			}
			if strings.TrimSpace(l.Delivery) != "" {
				if x.Delivery, err = stops.Amount(fmt.Sprintf("lines[%d].delivery", i), l.Delivery, money.Currency(site.Currency)); err != nil {
					return err
				}
			}
			o.Lines = append(o.Lines, x)
		}
		if err := st.take(tx, &site, []place.Order{o}, store.OrderTyped); err != nil {
			return err
		}
		row, _, _, err := tx.OrderOf(site.ID, o.Ref)
		id = row.ID
		return stops.First(err, tx.Note(st.Now(), "order typed in", o.Ref, site.Name))
	})
	return id, err
}

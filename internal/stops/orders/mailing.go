package orders

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// MailOrder sends a purchase to its supplier by mail: once, and again where the mail was
// refused.
func (st *Stop) MailOrder(ctx context.Context, id int64) error {
	list, err := st.Store.BoughtRows(ctx, id)
	if err != nil {
		return err
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		b, err := store.GetTx[store.Buying](tx, id)
		if err != nil {
			return err
		}
		before, err := tx.MailsAbout(store.AboutPurchase(id))
		if err != nil {
			return err
		}
		if b.MailedAt != nil && (len(before) == 0 || before[len(before)-1].RefusedAt == nil) {
			return fault.New(fault.Conflict, "%s was mailed already, on %s", b.Ref, b.MailedAt.Format("2 January 15:04"))
		}
		to, err := tx.OrdersGoTo(b.SupplierID)
		if err != nil {
			return err
		}
		if to == "" {
			return fault.New(fault.Conflict, "nobody said where this supplier's orders go; say so in its source's settings")
		}
		text, err := letter(&b, list)
		if err != nil {
			return err
		}
		now := st.Now()
		queued, err := tx.QueueMail(store.Mail{Recipient: to, Subject: "Order " + b.Ref, Body: text, About: store.AboutPurchase(id), MadeAt: now})
		if err == nil && !queued {
			err = fault.New(fault.Conflict, "no mail server is set; set one under Watch, Watches")
		}
		tx.Changed("orders")
		return stops.First(err, tx.Update(&b, map[string]any{"mailed_at": &now}), tx.Note(now, "order mailed", b.Ref, to))
	})
}

// letter is what a supplier is written: a line for each, with whom it goes to.
func letter(b *store.Buying, list []store.BoughtRow) (string, error) {
	var out strings.Builder
	fmt.Fprintf(&out, "Our reference: %s\n\n", b.Ref)
	for _, r := range list {
		fmt.Fprintf(&out, "%d × %s  %s\n", r.Items, place.OneLine(r.Ref), place.OneLine(r.Title))
		var buyer place.Buyer
		if r.Buyer != "" {
			if err := json.Unmarshal([]byte(r.Buyer), &buyer); err != nil {
				return "", fmt.Errorf("who bought %s: %w", r.OrderRef, err)
			}
		}
		fmt.Fprintf(&out, "  for order %s: %s\n", place.OneLine(r.OrderRef), place.OneLine(strings.Join(append([]string{buyer.Name}, append(buyer.Address, buyer.Country)...), ", ")))
	}
	return out.String(), nil
}

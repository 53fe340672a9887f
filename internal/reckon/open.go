package reckon

import (
	"fmt"
	"time"

	"easymargin/internal/store"
)

// Forbids says, in words, why a line may not be handed over as things are now:
// never under the floor, never above what the supplier has. "" where it may.
func (b *Book) Forbids(f *Figures, x *store.SendLine) string {
	if x.Quantity != nil && *x.Quantity > f.Offer {
		return fmt.Sprintf("%d were to be offered, and only %d can be now: %s", *x.Quantity, f.Offer, b.OfferWhy(f))
	}
	price := x.Price
	if price == nil && x.Quantity != nil && *x.Quantity > f.Link.ConfirmedQuantity {
		price = f.Link.ConfirmedPrice // more would be sold at the price that is there
	}
	if price == nil {
		return ""
	}
	if f.Broken != "" {
		return f.Broken
	}
	floor, ok := f.Floor()
	switch {
	case !ok:
		return "no price keeps what its rule asks now"
	case *price < floor:
		return fmt.Sprintf("%s is under its floor now, which is %s", b.Money(*price), b.Money(floor))
	}
	return ""
}

// Withdraw takes a line back that was surely never handed over. Its listing is
// as it was before, where the line would have put it on sale.
func Withdraw(tx store.Tx, now time.Time, x *store.OpenLine, why string) error {
	x.State = store.SendWithdrawn
	if err := tx.SetLines([]int64{x.ID}, map[string]any{"state": store.SendWithdrawn, "words": why, "answered_at": now}); err != nil {
		return err
	}
	if x.PlanLineID != nil || x.Does == store.DoesChange {
		return nil
	}
	return tx.MarkListings([]int64{x.ListingID}, x.Was)
}

// sift parts the lines of a listing: those that are still on their way, and
// those that are taken back, since they were surely never handed over and the
// figures forbid them.
func (b *Book) sift(l *store.Listing, f *Figures, lines []store.OpenLine) (still []store.OpenLine, back []withdrawn) {
	for i := range lines {
		x := &lines[i]
		if x.Does == store.DoesChange {
			continue // words alone: they hold nothing up, and nothing forbids them
		}
		why := b.Forbids(f, &x.SendLine)
		if why == "" || !x.Surely() {
			still = append(still, *x)
			continue
		}
		back = append(back, withdrawn{*x, "taken back before it was handed over: " + why})
		if x.PlanLineID == nil {
			l.State = x.Was
		}
	}
	return still, back
}

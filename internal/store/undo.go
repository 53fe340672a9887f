package store

import "time"

// BackLine is a line of a send-out as it can be taken back: what it changed, and
// what is on sale now.
type BackLine struct {
	ID                int64
	ListingID         int64
	State             string
	Price             *int64
	Quantity          *int64
	FromPrice         *int64 // before it; nil where it put up something new
	FromQty           *int64
	Planned           bool // it came from a plan; otherwise it put the listing up
	SKU               string
	Title             string
	Currency          string
	ListingState      string
	ConfirmedPrice    *int64
	ConfirmedQuantity int64
	ConfirmedLanded   *int64
	Open              bool   // something of it is on its way
	Back              bool   // it was taken back already
	Wanted            *int64 // the price worked out
	Offer             int64
	Fixed             bool
}

// BackLines are the lines of a send-out, for taking them back.
func (tx Tx) BackLines(sendOutID int64) ([]BackLine, error) {
	var out []BackLine
	err := tx.db.Raw(`SELECT x.id, x.listing_id, x.state, x.price, x.quantity, p.from_price, p.from_qty, p.id IS NOT NULL AS planned,
		l.sku, q.title, l.currency, l.state AS listing_state, l.confirmed_price, l.confirmed_quantity, l.confirmed_landed, l.price AS wanted,
		l.quantity AS offer, l.fixed_price IS NOT NULL AS fixed,
		EXISTS (SELECT 1 FROM send_lines y WHERE y.listing_id = l.id AND y.state IN ('waiting', 'sent', 'unknown')) AS open,
		EXISTS (SELECT 1 FROM send_outs o JOIN send_lines y ON y.send_out_id = o.id WHERE o.undoes = x.send_out_id AND y.listing_id = l.id
			AND y.state IN ('waiting', 'sent', 'confirmed', 'unknown')) AS back
		FROM send_lines x JOIN listings l ON l.id = x.listing_id JOIN products q ON q.id = l.product_id
		LEFT JOIN plan_lines p ON p.id = x.plan_line_id WHERE x.send_out_id = ? AND x.does = '' ORDER BY x.id`, sendOutID).Scan(&out).Error
	return out, err
}

// HoldBack notes of listings that what is wanted of them now was taken back: of
// some the price, of which the same move is held until another is due; of some
// more stock, which is held until somebody lets it go.
func (tx Tx) HoldBack(priced, counted []int64) error {
	if err := tx.db.Exec("UPDATE listings SET back_price = price WHERE id"+inList, listOf(priced)).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE listings SET back_quantity = quantity WHERE id"+inList, listOf(counted)).Error
}

// ForgetBack forgets what was taken back of listings that a person or a rule
// lets change again, and that theirs was another price than ours.
func (tx Tx) ForgetBack(lines []SendLine, now time.Time) error {
	var priced, counted []int64
	for i := range lines {
		if lines[i].Price != nil {
			priced = append(priced, lines[i].ListingID)
		}
		if q := lines[i].Quantity; q != nil && *q > 0 {
			counted = append(counted, lines[i].ListingID)
		}
	}
	if err := tx.CloseDifferences(priced, DifferOurs, now); err != nil {
		return err
	}
	if err := tx.db.Exec("UPDATE listings SET back_price = NULL WHERE back_price IS NOT NULL AND id"+inList, listOf(priced)).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE listings SET back_quantity = NULL WHERE back_quantity IS NOT NULL AND id"+inList, listOf(counted)).Error
}

// PutSentLines writes lines of a site's plan that are let go as they are made.
func (tx Tx) PutSentLines(now time.Time, siteID int64, lines []PlanLine) error {
	p, ok, err := tx.PlanOf(siteID)
	if err == nil && !ok {
		p = Plan{SiteID: siteID, MadeAt: now}
		err = tx.db.Create(&p).Error
	}
	if err != nil {
		return err
	}
	for i := range lines {
		x := &lines[i]
		x.PlanID, x.Place, x.State = p.ID, placeOf(x.Kind), PlanSent
	}
	return tx.CreateAll(lines)
}

package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/store"
)

func ownRule(l store.Listing) (*Rule, error) {
	if l.OwnRule == "" {
		return nil, nil
	}
	var r Rule
	if err := json.Unmarshal([]byte(l.OwnRule), &r); err != nil {
		return nil, fmt.Errorf("reading the own rule of listing %d: %w", l.ID, err)
	}
	return &r, nil
}

// Repricing fixes prices by hand, or lets them go again. With Keep false
// nothing is changed and only what would become of them is said.
type Repricing struct {
	Listings []int64 `json:"listings" minItems:"1" maxItems:"10000"`
	To       string  `json:"to,omitempty" doc:"The price itself"`
	By       string  `json:"by,omitempty" doc:"An amount such as 1.50 or -1.50, or a rate such as 5% or -5%, on the price now"`
	Release  bool    `json:"release,omitempty" doc:"Let them follow their rule again"`
	Keep     bool    `json:"keep,omitempty"`
}

// Reprice changes the prices of a set of listings by a figure or a rate, each
// in its own currency, and fixes them; they stay until released. A price under
// its floor is never fixed: its line says why, and nothing at all is kept then.
func (a *App) Reprice(ctx context.Context, r Repricing) ([]Move, error) {
	links, err := a.Store.PricingRowsOf(ctx, r.Listings, a.now().Add(-24*time.Hour))
	if err != nil {
		return nil, err
	}
	pricers := map[int64]*pricer{}
	out := []Move{}
	fix := map[int64]*int64{}
	refused := ""
	for rows := range byListing(links) {
		l := &rows[0]
		p := pricers[l.SiteID]
		if p == nil {
			site, err := a.Store.SiteOf(ctx, l.SiteID)
			if err != nil {
				return nil, err
			}
			if p, err = a.pricer(ctx, site); err != nil {
				return nil, err
			}
			pricers[l.SiteID] = p
		}
		to, err := r.price(p.currency, l.Price)
		if err != nil {
			return nil, err
		}
		for i := range rows {
			rows[i].FixedPrice = to
		}
		w := p.workOut(rows)
		m := p.move(l, w)
		m.To = to
		if r.Release {
			m.To = nil
			if w.choice.Found {
				m.To = ptr(w.choice.Price)
			}
		} else if to == nil || !w.choice.Found {
			m.Refused = p.refused(to, m)
			refused = cmp.Or(refused, m.Refused)
		}
		m.Lines = []QuoteLine{}
		if m.To != nil && w.broken == "" {
			if q, err := w.terms.Quote(nil, w.spend, money.Of(*m.To, p.currency)); err == nil {
				m.Profit, m.Lines = &q.Profit, quoteLines(q)
			}
		}
		fix[l.ID] = to
		out = append(out, m)
	}
	if len(out) == 0 {
		return nil, store.ErrMissing
	}
	if !r.Keep {
		return out, nil
	}
	if refused != "" {
		return nil, &Error{Invalid, "by", "nothing was kept: " + refused}
	}
	return out, a.keepFixed(ctx, fix, pricers)
}

func (p *pricer) refused(to *int64, m Move) string {
	switch {
	case to == nil:
		return m.Title + " has no price to change"
	case m.Floor == nil:
		return fmt.Sprintf("%s has no price that keeps what its rule asks", m.Title)
	case *to < *m.Floor:
		return fmt.Sprintf("%s would ask %s, under its floor of %s %s", m.Title, p.money(*to), p.money(*m.Floor), p.currency)
	}
	return fmt.Sprintf("%s would ask %s, at which its rule's keeps don't hold", m.Title, p.money(*to))
}

// price is what a listing would ask; nil where it is released, or has no price to change.
func (r *Repricing) price(c money.Currency, now *int64) (*int64, error) {
	switch {
	case r.Release:
		return nil, nil
	case r.To != "":
		v, err := amount("to", r.To, c)
		if err == nil && (v < 1 || v > pricing.DefaultLimit) {
			err = invalid("to", "a price is from %s to %s %s", money.Of(1, c), money.Of(pricing.DefaultLimit, c), c)
		}
		return &v, err
	case r.By == "":
		return nil, invalid("by", "say by how much, such as 1.50 or -5%%")
	case now == nil:
		return nil, nil
	}
	by, text := int64(0), strings.ReplaceAll(strings.TrimSpace(r.By), "−", "-")
	if strings.HasSuffix(text, "%") {
		rate, err := share("by", text)
		if err != nil {
			return nil, err
		}
		var ok bool
		if by, ok = money.Share(*now, rate); !ok {
			return nil, invalid("by", "%s is out of range", r.By)
		}
	} else {
		v, err := amount("by", strings.TrimLeft(text, "+-"), c)
		if err != nil {
			return nil, err
		}
		if by = v; strings.HasPrefix(text, "-") {
			by = -v
		}
	}
	to, ok := money.Add(*now, by)
	if !ok || to < 1 || to > pricing.DefaultLimit {
		return nil, invalid("by", "a price is from %s to %s %s", money.Of(1, c), money.Of(pricing.DefaultLimit, c), c)
	}
	return &to, nil
}

func (a *App) keepFixed(ctx context.Context, fix map[int64]*int64, pricers map[int64]*pricer) error {
	err := a.Store.Do(ctx, func(tx store.Tx) error {
		for id, v := range fix {
			if err := tx.Update(&store.Listing{ID: id}, map[string]any{"fixed_price": v}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, p := range pricers {
		a.note(ctx, "prices fixed or released by hand", p.site.Name, plural(int64(len(fix)), "listing", "listings"))
		a.price(ctx, p.site)
	}
	a.changed("listings")
	return nil
}

// SetOwnRule gives a listing a rule of its own in place of the site's list; nil takes it away.
func (a *App) SetOwnRule(ctx context.Context, listingID int64, r *Rule) error {
	return a.setListing(ctx, listingID, "own price rule", func(l store.Listing, c money.Currency) (map[string]any, error) {
		if r == nil {
			return map[string]any{"own_rule": ""}, nil
		}
		text, err := r.text(c)
		return map[string]any{"own_rule": string(text)}, err
	})
}

// SetFormer sets the former price that a listing shows crossed out, a text in
// major units; "" takes it away. It must be above the price.
func (a *App) SetFormer(ctx context.Context, listingID int64, former string) (string, error) {
	warning := ""
	err := a.setListing(ctx, listingID, "former price", func(l store.Listing, c money.Currency) (map[string]any, error) {
		if former == "" {
			return map[string]any{"former": nil}, nil
		}
		v, err := amount("former", former, c)
		if err != nil {
			return nil, err
		}
		if l.Price != nil {
			if _, err := pricing.Off(*l.Price, v); err != nil {
				return nil, invalid("former", "%v, which is %s", err, money.Of(*l.Price, c))
			}
		}
		warning, err = a.formerWarning(ctx, l.ID, v)
		return map[string]any{"former": v}, err
	})
	return warning, err
}

// SetWarehouse says whether a listing is kept and sent by the marketplace's warehouse.
func (a *App) SetWarehouse(ctx context.Context, listingID int64, on bool) error {
	return a.setListing(ctx, listingID, "who sends it", func(store.Listing, money.Currency) (map[string]any, error) {
		return map[string]any{"warehouse": on}, nil
	})
}

func (a *App) setListing(ctx context.Context, id int64, what string, change func(l store.Listing, c money.Currency) (map[string]any, error)) error {
	l, err := store.Get[store.Listing](ctx, a.Store, id)
	if err != nil {
		return err
	}
	site, err := a.Store.SiteOf(ctx, l.SiteID)
	if err != nil {
		return err
	}
	columns, err := change(l, money.Currency(site.Currency))
	if err != nil {
		return err
	}
	if err := a.Store.Do(ctx, func(tx store.Tx) error { return tx.Update(&store.Listing{ID: id}, columns) }); err != nil {
		return err
	}
	a.note(ctx, what+" set", site.Name, fmt.Sprintf("listing %d", id))
	a.changed("listings")
	a.price(ctx, site)
	return nil
}

package prices

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
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
	Keep     bool    `json:"-"` // else it is only worked out
}

// Reprice changes the prices of a set of listings by a figure or a rate, each
// in its own currency, and fixes them; they stay until released. A price under
// its floor is never fixed: its line says why, and nothing at all is kept then.
func (st *Stop) Reprice(ctx context.Context, r Repricing) ([]Move, error) {
	links, err := st.Store.PricingRowsOf(ctx, r.Listings, st.Now().Add(-24*time.Hour))
	if err != nil {
		return nil, err
	}
	pricers := map[int64]*reckon.Book{}
	out := []Move{}
	fix := map[int64]*int64{}
	refused := ""
	for rows := range reckon.ByListing(links) {
		l := &rows[0]
		p := pricers[l.SiteID]
		if p == nil {
			site, err := st.Store.SiteOf(ctx, l.SiteID)
			if err != nil {
				return nil, err
			}
			if p, err = st.Book(st.Store.Reading(ctx), site); err != nil {
				return nil, err
			}
			pricers[l.SiteID] = p
		}
		to, err := r.price(p.Currency, l.Price)
		if err != nil {
			return nil, err
		}
		for i := range rows {
			rows[i].FixedPrice = to
		}
		w := p.WorkOut(rows)
		m := moveOf(p, l, &w)
		m.To = to
		if r.Release {
			m.To = nil
			if w.Choice.Found {
				m.To = &w.Choice.Price
			}
		} else if to == nil || !w.Choice.Found {
			m.Refused = refusal(p, to, m)
			refused = cmp.Or(refused, m.Refused)
		}
		m.Lines = []QuoteLine{}
		if m.To != nil && w.Broken == "" {
			if q, err := w.Terms.Quote(nil, w.Spend, money.Of(*m.To, p.Currency)); err == nil {
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
		return nil, fault.At("by", "nothing was kept: %s", refused)
	}
	return out, st.keepFixed(ctx, fix, pricers)
}

func refusal(p *reckon.Book, to *int64, m Move) string {
	switch {
	case to == nil:
		return m.Title + " has no price to change"
	case m.Floor == nil:
		return fmt.Sprintf("%s has no price that keeps what its rule asks", m.Title)
	case *to < *m.Floor:
		return fmt.Sprintf("%s would ask %s, under its floor of %s %s", m.Title, p.Money(*to), p.Money(*m.Floor), p.Currency)
	}
	return fmt.Sprintf("%s would ask %s, at which its rule's keeps don't hold", m.Title, p.Money(*to))
}

// price is what a listing would ask; nil where it is released, or has no price to change.
func (r *Repricing) price(c money.Currency, now *int64) (*int64, error) {
	switch {
	case r.Release:
		return nil, nil
	case r.To != "":
		v, err := stops.Amount("to", r.To, c)
		if err == nil && (v < 1 || v > pricing.DefaultLimit) {
			err = fault.At("to", "a price is from %s to %s %s", money.Of(1, c), money.Of(pricing.DefaultLimit, c), c)
		}
		return &v, err
	case r.By == "":
		return nil, fault.At("by", "say by how much, such as 1.50 or -5%%")
	case now == nil:
		return nil, nil
	}
	by, text := int64(0), strings.TrimPrefix(strings.ReplaceAll(strings.TrimSpace(r.By), "−", "-"), "+")
	if strings.HasSuffix(text, "%") {
		rate, err := stops.Share("by", text)
		if err != nil {
			return nil, err
		}
		var ok bool
		if by, ok = money.Share(*now, rate); !ok {
			return nil, fault.At("by", "%s is out of range", r.By)
		}
	} else {
		v, err := stops.Amount("by", strings.TrimLeft(text, "+-"), c)
		if err != nil {
			return nil, err
		}
		if by = v; strings.HasPrefix(text, "-") {
			by = -v
		}
	}
	to, ok := money.Add(*now, by)
	if !ok || to < 1 || to > pricing.DefaultLimit {
		return nil, fault.At("by", "a price is from %s to %s %s", money.Of(1, c), money.Of(pricing.DefaultLimit, c), c)
	}
	return &to, nil
}

func (st *Stop) keepFixed(ctx context.Context, fix map[int64]*int64, books map[int64]*reckon.Book) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		ids := []int64{}
		for id, v := range fix {
			ids = append(ids, id)
			if err := tx.WantListing(id, map[string]any{"fixed_price": v}); err != nil {
				return err
			}
		}
		if err := tx.DirtyListings(st.Now(), ids); err != nil {
			return err
		}
		for _, b := range books {
			if err := tx.Note(
				st.Now(),
				"prices fixed or released by hand",
				b.Site.Name,
				stops.Plural(int64(len(fix)), "listing", "listings"),
			); err != nil {
				return err
			}
		}
		tx.Changed("listings")
		return nil
	})
}

// SetOwnRule gives a listing a rule of its own in place of the site's list; nil takes it away.
func (st *Stop) SetOwnRule(ctx context.Context, listingID int64, edit stops.IfMatch, r *Rule) error {
	return st.setListing(
		ctx,
		listingID,
		edit,
		"own price rule",
		func(_ store.Tx, l store.Listing, c money.Currency) (map[string]any, error) {
			if r == nil {
				return map[string]any{"own_rule": ""}, nil
			}
			text, err := r.text(c)
			return map[string]any{"own_rule": string(text)}, err
		},
	)
}

// SetFormer sets the former price that a listing shows crossed out, a text in
// major units; "" takes it away. It must be above the price.
func (st *Stop) SetFormer(ctx context.Context, listingID int64, edit stops.IfMatch, former string) (string, error) {
	warning := ""
	err := st.setListing(
		ctx,
		listingID,
		edit,
		"former price",
		func(tx store.Tx, l store.Listing, c money.Currency) (map[string]any, error) {
			if former == "" {
				return map[string]any{"former": nil}, nil
			}
			v, err := stops.Amount("former", former, c)
			if err != nil {
				return nil, err
			}
			if l.Price != nil {
				if _, err := pricing.Off(*l.Price, v); err != nil {
					return nil, fault.At("former", "%v, which is %s", err, money.Of(*l.Price, c))
				}
			}
			warning, err = st.formerWarning(tx, l.ID, v)
			return map[string]any{"former": v}, err
		},
	)
	return warning, err
}

// SetWarehouse says whether a listing is kept and sent by the marketplace's warehouse.
func (st *Stop) SetWarehouse(ctx context.Context, listingID int64, edit stops.IfMatch, on bool) error {
	return st.setListing(ctx, listingID, edit, "who sends it", func(store.Tx, store.Listing, money.Currency) (map[string]any, error) {
		return map[string]any{"warehouse": on}, nil
	})
}

// Wanted is what a person wants of a listing, as it is shown beside another edit of it.
type Wanted struct {
	Version   int64  `json:"version"`
	Fixed     *int64 `json:"fixed_price"`
	Former    *int64 `json:"former"`
	Warehouse bool   `json:"warehouse"`
	OwnRule   *Rule  `json:"own_rule,omitempty"`
}

func (st *Stop) setListing(
	ctx context.Context,
	id int64,
	edit stops.IfMatch,
	what string,
	change func(tx store.Tx, l store.Listing, c money.Currency) (map[string]any, error),
) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		l, err := store.GetTx[store.Listing](tx, id)
		if err != nil {
			return err
		}
		site, err := tx.SiteOf(l.SiteID)
		if err != nil {
			return err
		}
		own, err := ownRule(l)
		if err != nil {
			return err
		}
		if err := edit.Check(l.Version, "this listing", Wanted{l.Version, l.FixedPrice, l.Former, l.Warehouse, own}); err != nil {
			return err
		}
		columns, err := change(tx, l, money.Currency(site.Currency))
		if err != nil {
			return err
		}
		if err := tx.SetListing(st.Now(), id, columns); err != nil {
			return err
		}
		tx.Changed("listings")
		return tx.Note(st.Now(), what+" set", site.Name, stops.ListingName(id))
	})
}

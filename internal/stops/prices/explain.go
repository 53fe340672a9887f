package prices

import (
	"context"
	"fmt"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// Explained is a listing's price with the lines that made it.
type Explained struct {
	BenchAnswer
	Fixed   bool   `json:"fixed" doc:"Whether the price was fixed by hand"`
	OwnRule *Rule  `json:"own_rule,omitempty" doc:"The listing's own rule, in place of the list's"`
	Bound   string `json:"bound" doc:"What set the price"`
	Shown   string `json:"shown" doc:"Why the price is what it is, in words"`
	Tied    string `json:"tied" doc:"What one sale ties up where only whole cases can be bought, and how many were sold; empty where nothing is left over"`
	Crossed *int64 `json:"crossed" doc:"The former price shown crossed out"`
}

// Explain opens a listing's price, or another price for it, into its lines.
func (st *Stop) Explain(ctx context.Context, listingID int64, price *int64) (Explained, error) {
	return st.explain(ctx, listingID, price, func([]store.PricingRow, money.Currency) error { return nil })
}

// PreviewOwnRule opens the price that a listing would have by a rule of its
// own, before it is kept; without one, by the site's rules. Nothing is changed.
func (st *Stop) PreviewOwnRule(ctx context.Context, listingID int64, r *Rule) (Explained, error) {
	return st.explain(ctx, listingID, nil, func(links []store.PricingRow, c money.Currency) error {
		text := []byte{}
		if r != nil {
			var err error
			if text, err = r.text(c); err != nil {
				return err
			}
		}
		for i := range links {
			links[i].OwnRule = string(text)
		}
		return nil
	})
}

// soldOver is the time over which it is said how much of a listing was sold.
const soldOver = 60 * 24 * time.Hour

// tied says what one sale of a listing ties up, and how much of it is sold.
func (st *Stop) tied(ctx context.Context, p *reckon.Book, l *store.Listing, link *store.PricingRow) (string, error) {
	words := p.TiedWhy(link)
	if words == "" {
		return "", nil
	}
	sold, err := st.Store.SoldSince(ctx, []int64{l.ProductID}, st.Now().Add(-soldOver))
	return fmt.Sprintf("%s; %d sold in 60 days", words, sold[l.ProductID]), err
}

// crossedOut says what may be said of the former price that a listing has; the
// price may have risen past it since.
func (st *Stop) crossedOut(ctx context.Context, b *bench, former int64) (*BenchFormer, error) {
	off, err := pricing.Off(*b.out.Price, former)
	if err != nil {
		return &BenchFormer{
			Warning: "it is not above the price any more, which is " + b.Money(*b.out.Price) + ", so it can't be shown",
		}, nil
	}
	warning, err := st.formerWarning(st.Store.Reading(ctx), b.out.ListingID, former)
	return &BenchFormer{off, warning}, err
}

// explain is Explain of a listing as change would have it.
func (st *Stop) explain(
	ctx context.Context,
	listingID int64,
	price *int64,
	change func([]store.PricingRow, money.Currency) error,
) (Explained, error) {
	l, err := store.Get[store.Listing](ctx, st.Store, listingID)
	if err != nil {
		return Explained{}, err
	}
	site, err := st.Store.SiteOf(ctx, l.SiteID)
	if err != nil {
		return Explained{}, err
	}
	p, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return Explained{}, err
	}
	links, err := st.Store.PricingRowsOf(ctx, []int64{l.ID}, p.Now.Add(-24*time.Hour))
	if err != nil {
		return Explained{}, err
	}
	if len(links) == 0 {
		return Explained{}, store.ErrMissing
	}
	if err := change(links, p.Currency); err != nil {
		return Explained{}, err
	}
	b := newBench(p)
	b.links = links
	b.rivals(links[0].Offers)
	b.w = p.WorkOut(links)
	b.cost = p.Cost(b.w.Link)
	b.out.Title, b.out.SKU, b.out.ListingID, b.out.Live = links[0].Title, links[0].SKU, l.ID, l.ConfirmedPrice
	b.out.Offer, b.out.Quantity = p.OfferWhy(&b.w), b.w.Offer
	ask := BenchAsk{}
	if price != nil {
		if *price < 1 || *price > pricing.DefaultLimit {
			return Explained{}, fault.At("price", "a price is from %s to %s", p.Money(1), p.Money(pricing.DefaultLimit))
		}
		ask = BenchAsk{Lead: "price", Value: p.Money(*price)}
	}
	if err := b.answer(ask); err != nil {
		return Explained{}, err
	}
	out := Explained{BenchAnswer: b.out, Fixed: l.FixedPrice != nil, Bound: string(b.w.Choice.Bound), Crossed: l.Former}
	if out.Tied, err = st.tied(ctx, p, &l, b.w.Link); err != nil {
		return Explained{}, err
	}
	if l.Former != nil && b.out.Price != nil {
		if out.Former, err = st.crossedOut(ctx, b, *l.Former); err != nil {
			return Explained{}, err
		}
	}
	out.Shown = b.out.Rule.Why
	if b.w.Rule != nil && !out.Fixed {
		out.Shown = reckon.Words(out.Shown, b.w.Rule.Name)
	}
	if out.OwnRule, err = ownRule(l); err != nil {
		return Explained{}, err
	}
	return out, nil
}

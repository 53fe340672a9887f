package prices

import (
	"cmp"
	"context"
	"errors"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/store"
)

// BenchSite is one row of a product's prices side by side.
type BenchSite struct {
	SiteID    int64  `json:"site_id"`
	Site      string `json:"site"`
	Currency  string `json:"currency"`
	Lists     bool   `json:"lists" doc:"Whether we list there"`
	Listed    bool   `json:"listed" doc:"Whether this product is listed there"`
	Price     *int64 `json:"price" doc:"By the rule that holds there"`
	Profit    *int64 `json:"profit"`
	Margin    string `json:"margin"`
	BreakEven *int64 `json:"break_even"`
	Landed    *int64 `json:"landed"`
	Fees      *int64 `json:"fees"`
	Tax       *int64 `json:"tax"`
	Outbound  *int64 `json:"outbound"`
	Home      *int64 `json:"home" doc:"The profit in the first site's currency; none without a rate"`
	Best      bool   `json:"best" doc:"Whether one sale leaves most here"`
	Why       string `json:"why" doc:"Why there is no price"`
}

// BenchSites works the same product or figures out on every site, each by its
// own rule: where is it best sold? The profits are compared in the first
// site's currency, Home.
func (st *Stop) BenchSites(ctx context.Context, q BenchAsk) (rows []BenchSite, home string, err error) {
	sites, err := st.Store.Sites(ctx)
	if err != nil || len(sites) == 0 {
		return []BenchSite{}, "", err
	}
	at, err := st.home(ctx, sites)
	if err != nil {
		return nil, "", err
	}
	home = at.currency
	asked, err := st.Store.SiteOf(ctx, q.SiteID)
	if err != nil {
		return nil, "", err
	}
	if q.ProductID == 0 && q.SupplierProductID == 0 && q.Cost.Currency == "" {
		q.Cost.Currency = asked.Currency // loose figures stay in the currency they were typed in
	}
	best := -1
	for _, site := range sites {
		x := BenchSite{SiteID: site.ID, Site: site.Name, Currency: site.Currency, Lists: site.Lists}
		ask := q
		ask.Lead, ask.Value, ask.Former = "rule", "", ""
		if site.ID != q.SiteID { // those are of the other site, in its currency
			ask.Charged, ask.Outbound, ask.Category, ask.Warehouse, ask.Cost.Handling, ask.Cost.FX = "", "", "", "", "", ""
			if asked.MarketplaceID == site.MarketplaceID {
				ask.Category = q.Category
			}
		}
		b, err := st.benchOn(ctx, site, ask)
		if err == nil {
			err = b.answer(ask)
		}
		var e *fault.Error
		switch {
		case errors.As(err, &e):
			x.Why = e.Words
		case err != nil:
			return nil, "", err
		default:
			x.fill(b)
		}
		if x.Profit != nil {
			x.Home = at.of(*x.Profit, site.Currency)
		}
		rows = append(rows, x)
		if x.Home != nil && (best < 0 || *x.Home > *rows[best].Home) {
			best = len(rows) - 1
		}
	}
	if best >= 0 {
		rows[best].Best = true
	}
	return rows, home, nil
}

func (x *BenchSite) fill(b *bench) {
	x.Listed = b.out.ListingID != 0
	x.Price, x.Profit, x.Margin, x.BreakEven = b.out.Price, b.out.Profit, b.out.Margin, b.out.BreakEven
	x.Why = b.out.Why
	if x.Price == nil {
		x.Why = cmp.Or(x.Why, b.out.Rule.Why)
		return
	}
	x.Landed = &b.out.Landed
	var lines []pricing.Line
	for _, l := range b.out.Lines {
		lines = append(lines, pricing.Line{Kind: pricing.LineKind(l.Kind), Name: l.Name, Amount: l.Amount})
	}
	x.Fees, x.Tax, x.Outbound = reckon.Parts(lines)
}

// homeRates change amounts into the currency that sites are compared in: the
// first site's.
type homeRates struct {
	currency string
	rates    map[string]money.FX
}

func (st *Stop) home(ctx context.Context, sites []store.Site) (homeRates, error) {
	h := homeRates{sites[0].Currency, map[string]money.FX{}}
	rates, err := st.Store.Reading(ctx).Rates()
	for _, r := range rates {
		if r.To == h.currency {
			h.rates[r.From] = money.FX(r.Rate)
		}
	}
	return h, err
}

// of is an amount in the home currency; nil without a rate.
func (h homeRates) of(minor int64, currency string) *int64 {
	if currency == h.currency {
		return &minor
	}
	rate := h.rates[currency]
	if rate == 0 {
		return nil
	}
	v, err := rate.Change(money.Of(minor, money.Currency(currency)), money.Currency(h.currency))
	if err != nil {
		return nil
	}
	return &v.Minor
}

package prices

import (
	"cmp"
	"context"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"easymargin/core/money"
	"easymargin/core/pricing"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// Move is what would become of one listing's price.
type Move struct {
	ListingID int64       `json:"listing_id"`
	Title     string      `json:"title"`
	SKU       string      `json:"sku"`
	Currency  string      `json:"currency"`
	From      *int64      `json:"from" doc:"The price now; none where there is none"`
	To        *int64      `json:"to"`
	ProfitWas *int64      `json:"profit_was" doc:"At the price now"`
	Profit    *int64      `json:"profit" doc:"At the new price"`
	Floor     *int64      `json:"floor"`
	Why       string      `json:"why"`
	Refused   string      `json:"refused" doc:"Why this price can't be fixed; empty where it can"`
	Lines     []QuoteLine `json:"lines" doc:"Of the new price, or in what-if of the price now; only of those that are listed"`
}

// Bar is one bar of a histogram of changes in per cent; From is in it, To is not.
type Bar struct {
	From  *int64 `json:"from" doc:"Per cent; none: everything below To"`
	To    *int64 `json:"to" doc:"Per cent; none: everything from From on"`
	Words string `json:"words" doc:"Which changes it counts"`
	Count int64  `json:"count"`
}

// Preview is what a change of rules would do to a site's listings.
type Preview struct {
	Currency   string `json:"currency"`
	Words      string `json:"words" doc:"The rule as a sentence"`
	Listings   int64  `json:"listings" doc:"Of the site"`
	Looked     int64  `json:"looked" doc:"Listings that were looked at; fewer than there are: the counts are a sample's, made whole"`
	Fits       int64  `json:"fits" doc:"Listings the rule would hold"`
	Up         int64  `json:"up"`
	Down       int64  `json:"down"`
	Same       int64  `json:"same"`
	Unsellable int64  `json:"unsellable" doc:"That have a price now and would have none"`
	Priced     int64  `json:"priced" doc:"That have no price now and would have one"`
	Without    int64  `json:"without" doc:"That have none and would have none"`
	Unread     int64  `json:"unread" doc:"That it holds, and of which what others ask was never read though the rule looks at it"`
	Bars       []Bar  `json:"bars"`
	Most       []Move `json:"most" doc:"The ten that move most"`
	Worse      int64  `json:"worse" doc:"What one sale of each that earns less would lose, minor units, not below 0"`
	AtOnce     int64  `json:"at_once" doc:"Of what is on sale, the prices that would move where they go by themselves: they are sent within seconds of keeping it, but for what is held"`
	Better     int64  `json:"better" doc:"What one sale of each that earns more would gain"`
}

// edges are the borders of the histogram's bars, per cent.
var edges = []int64{-25, -10, -5, -2, 0, 2, 5, 10, 25}

// sampled is how many listings a sample looks at.
const sampled = 50_000

// PreviewRule works out what keeping a rule would do, before it is kept; from a
// sample of the listings at once, where that is asked for. Nothing is changed.
func (st *Stop) PreviewRule(ctx context.Context, siteID int64, r NamedRule, sample bool) (Preview, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return Preview{}, err
	}
	_, made, err := r.made(st.Store.Reading(ctx), money.Currency(site.Currency))
	if err != nil {
		return Preview{}, err
	}
	now, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return Preview{}, err
	}
	made, then := with(now, r.ID, made)
	out := Preview{Currency: site.Currency, Words: r.Rule.Words(site.Currency), Bars: bars(), Most: []Move{}}
	err = st.each(ctx, &out, then, sample, func(links []store.PricingRow) {
		l := &links[0]
		w := then.WorkOut(links)
		holds := w.Rule != nil && w.Rule.ID == made.ID && !w.Own
		if !holds && !(l.RuleID != nil && *l.RuleID == r.ID && r.ID != 0) {
			return // neither held by it now nor then
		}
		if holds {
			out.Fits++
			if made.Stands() && w.Link.Offers == "" {
				out.Unread++
			}
		}
		m := moveOf(then, l, &w)
		out.sent(then, l, &w, m)
		out.put(m)
	})
	if err != nil {
		return out, err
	}
	return out, st.openMoves(ctx, then, out.Most, func([]store.PricingRow) {}, func(m Move) *int64 { return m.To })
}

// SiteChange is what a person would set of a site. What is left out stays.
type SiteChange struct {
	Terms       *stops.SiteTerms       `json:"terms,omitempty"`
	Particulars *stops.SiteParticulars `json:"particulars,omitempty"`
}

// PreviewSite works out what setting a site's terms or particulars would do to its
// prices, before they are kept; from a sample of the listings at once, where that is
// asked for. Nothing is changed.
func (st *Stop) PreviewSite(ctx context.Context, siteID int64, c SiteChange, sample bool) (Preview, error) {
	site, err := st.Store.SiteOf(ctx, siteID)
	if err != nil {
		return Preview{}, err
	}
	changed := site
	if c.Particulars != nil {
		if err := c.Particulars.Set(&changed); err != nil {
			return Preview{}, err
		}
		changed.TermsUnsaid = changed.TermsUnsaid || changed.Currency != site.Currency
	}
	if c.Terms != nil {
		if err := c.Terms.Set(&changed); err != nil {
			return Preview{}, err
		}
	}
	now, err := st.Book(st.Store.Reading(ctx), site)
	if err != nil {
		return Preview{}, err
	}
	then, err := st.Book(st.Store.Reading(ctx), changed)
	if err != nil {
		return Preview{}, err
	}
	out := Preview{Currency: changed.Currency, Bars: bars(), Most: []Move{}}
	err = st.each(ctx, &out, then, sample, func(links []store.PricingRow) {
		w, was := then.WorkOut(links), now.WorkOut(links)
		m := moveOf(then, &links[0], &w)
		if m.ProfitWas = nil; m.From != nil && was.Broken == "" {
			if v, err := was.Terms.Profit(was.Spend, *m.From); err == nil {
				m.ProfitWas = &v
			}
		}
		out.Fits++
		out.sent(then, &links[0], &w, m)
		out.put(m)
	})
	if err != nil {
		return out, err
	}
	return out, st.openMoves(ctx, then, out.Most, func([]store.PricingRow) {}, func(m Move) *int64 { return m.To })
}

// each goes through a site's listings, or a sample of them, and makes the counts those
// of all.
func (st *Stop) each(ctx context.Context, out *Preview, then *reckon.Book, sample bool, look func([]store.PricingRow)) error {
	all, err := st.Store.CountListings(ctx, then.Site.ID)
	if err != nil {
		return err
	}
	every := int64(1)
	if sample {
		every = max(1, (all+sampled-1)/sampled)
	}
	err = then.Some(ctx, st.Store, every, func(links []store.PricingRow) {
		out.Looked++
		look(links)
	})
	out.settle()
	if out.Listings = out.Looked; every > 1 {
		out.whole(all)
	}
	return err
}

// whole makes the counts of a sample those of all.
func (v *Preview) whole(all int64) {
	v.Listings = all
	if v.Looked == 0 {
		return
	}
	for _, n := range []*int64{&v.Fits, &v.Up, &v.Down, &v.Same, &v.Unsellable, &v.Priced, &v.Without, &v.Unread, &v.AtOnce, &v.Worse, &v.Better} {
		*n, _ = money.MulDiv(*n, all, v.Looked)
	}
	for i := range v.Bars {
		v.Bars[i].Count, _ = money.MulDiv(v.Bars[i].Count, all, v.Looked)
	}
}

// with is the book in which a rule stands as it was made: a new one before the
// last, with an id of its own below 0, a known one in its place.
func with(now *reckon.Book, id int64, made reckon.Ruled) (reckon.Ruled, *reckon.Book) {
	rules := slices.Clone(now.Rules)
	at := slices.IndexFunc(rules, func(x reckon.Ruled) bool { return x.ID == id })
	if at < 0 || id == 0 {
		made.ID = -1
		return made, now.Under(slices.Insert(rules, max(len(rules)-1, 0), made))
	}
	made.Own, made.Runs = rules[at].Own, rules[at].Runs
	rules[at] = made
	return made, now.Under(rules)
}

// openMoves fills in the lines of moves that are shown, at the price that at says.
func (st *Stop) openMoves(ctx context.Context, p *reckon.Book, moves []Move, change func([]store.PricingRow), at func(Move) *int64) error {
	where, ids := map[int64]int{}, []int64{}
	for i := range moves {
		moves[i].Lines = []QuoteLine{}
		where[moves[i].ListingID], ids = i, append(ids, moves[i].ListingID)
	}
	rows, err := st.Store.PricingRowsOf(ctx, ids, p.Now.Add(-24*time.Hour))
	if err != nil {
		return err
	}
	for links := range reckon.ByListing(rows) {
		m := &moves[where[links[0].ID]]
		m.Title, m.SKU = links[0].Title, links[0].SKU
		change(links)
		w, price := p.WorkOut(links), at(*m)
		if w.Broken != "" || price == nil {
			continue
		}
		q, err := w.Terms.Quote(nil, w.Spend, money.Of(*price, p.Currency))
		if err != nil {
			continue // out of range: there are no lines to show
		}
		m.Lines = quoteLines(q)
	}
	return nil
}

func quoteLines(q pricing.Quote) []QuoteLine {
	out := []QuoteLine{}
	for _, x := range q.Lines {
		out = append(out, QuoteLine{string(x.Kind), x.Name, x.Amount, string(reckon.PartOf(x.Kind))})
	}
	return out
}

func bars() []Bar {
	sign := func(v int64) string { return strings.Replace(strconv.FormatInt(v, 10), "-", "−", 1) }
	last := len(edges) - 1
	out := []Bar{{To: &edges[0], Words: "under " + sign(edges[0]) + " %"}}
	for i := range edges[1:] {
		out = append(out, Bar{From: &edges[i], To: &edges[i+1], Words: sign(edges[i]) + " to " + sign(edges[i+1]) + " %"})
	}
	return append(out, Bar{From: &edges[last], Words: sign(edges[last]) + " % and more"})
}

// move compares what was worked out with the price the listing has now.
func moveOf(p *reckon.Book, l *store.PricingRow, w *reckon.Figures) Move {
	m := Move{ListingID: l.ID, Title: l.Title, SKU: l.SKU, Currency: string(p.Currency), From: l.Price, Why: w.Broken}
	if w.Broken != "" {
		return m
	}
	m.Why = p.PriceWhy(w)
	if v, ok := w.Floor(); ok {
		m.Floor = &v
	}
	if w.Choice.Found {
		m.To = &w.Choice.Price
		if v, err := w.Terms.Profit(w.Spend, w.Choice.Price); err == nil {
			m.Profit = &v
		}
	}
	if l.Price != nil {
		if v, err := w.Terms.Profit(w.Spend, *l.Price); err == nil {
			m.ProfitWas = &v
		}
	}
	return m
}

// put counts one listing. A move of a price keeps its share in the ten that move most.
func (v *Preview) put(m Move) {
	switch {
	case m.From == nil && m.To == nil:
		v.Without++
		return
	case m.From == nil:
		v.Priced++
		return
	case m.To == nil:
		v.Unsellable++
	case *m.To == *m.From:
		v.Same++
		return
	case *m.To > *m.From:
		v.Up++
	default:
		v.Down++
	}
	if m.Profit != nil && m.ProfitWas != nil {
		if d := *m.Profit - *m.ProfitWas; d < 0 {
			v.Worse -= d
		} else {
			v.Better += d
		}
	}
	if m.To != nil {
		share, _ := money.MulDiv(*m.To-*m.From, 1_000_000, max(*m.From, 1))
		i := sort.Search(len(edges), func(i int) bool { return edges[i]*10_000 > share })
		v.Bars[i].Count++
	}
	v.Most = append(v.Most, m)
	if len(v.Most) >= 200 {
		v.settle()
	}
}

// sent counts a listing whose move would be sent by itself as soon as it is kept.
func (v *Preview) sent(p *reckon.Book, l *store.PricingRow, w *reckon.Figures, m Move) {
	if l.ConfirmedPrice != nil && m.To != nil && *m.To != *l.ConfirmedPrice && p.GoesAlone(w) {
		v.AtOnce++
	}
}

// settle keeps the ten that move most: those left without a price first.
func (v *Preview) settle() {
	far := func(m Move) int64 {
		if m.To == nil {
			return 1<<62 + *m.From>>1
		}
		share, _ := money.MulDiv(*m.To-*m.From, 1_000_000, max(*m.From, 1))
		return max(share, -share)
	}
	slices.SortStableFunc(v.Most, func(a, b Move) int { return cmp.Compare(far(b), far(a)) })
	v.Most = v.Most[:min(len(v.Most), 10)]
}

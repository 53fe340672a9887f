package matching

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/core/match"
	"easymargin/core/money"
	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/reckon"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// SecondSupplyView is a supplier's product that is certainly what is sold already from
// another supplier, and that supplies nothing yet.
type SecondSupplyView struct {
	ID        int64  `json:"id" doc:"Of the supplier's product"`
	ProductID int64  `json:"product_id"`
	ListingID int64  `json:"listing_id" doc:"The listing that the amounts are of"`
	Title     string `json:"title"`
	SKU       string `json:"sku"`
	Site      string `json:"site"`
	Now       string `json:"now" doc:"The supplier that the listing is worked out from"`
	Paid      *int64 `json:"paid" doc:"Its landed cost of one of the listing, minor units of currency; null: it has none"`
	Supplier  string `json:"supplier" doc:"Who has it too"`
	Ref       string `json:"ref"`
	Units     int64  `json:"units_bought" doc:"Single units in their item"`
	Landed    *int64 `json:"landed" doc:"What one of the listing would cost from them; null: it can't be told"`
	Saves     int64  `json:"saves" doc:"What one sale would cost less; below 0: more"`
	Sold      int64  `json:"sold" doc:"Sales in the last thirty days"`
	Month     int64  `json:"month" doc:"What these would have earned more"`
	Currency  string `json:"currency"`
	Stock     int64  `json:"stock"`
	Why       string `json:"why" doc:"Why it would not be bought from all the same; empty where it would"`
}

// SecondSuppliesAsked names second supplies by the suppliers' products that they are.
type SecondSuppliesAsked struct {
	IDs []int64 `json:"ids,omitempty" maxItems:"10000" doc:"Of suppliers' products"`
}

// SecondSuppliesTaken are those that supply something now.
type SecondSuppliesTaken struct {
	IDs []int64 `json:"ids" doc:"To take back, by take-back-second-supplies"`
}

// mostSeconds is how many second supplies are kept; shownSeconds how many are listed.
const (
	mostSeconds  = 50_000
	shownSeconds = 500
)

// doSeconds finds what suppliers have that is sold already from another one.
func (st *Stop) doSeconds(ctx context.Context, t *work.Task) error {
	judge, books := match.NewJudge(), map[int64]*reckon.Book{}
	var found []store.SecondSupply
	for after := int64(0); len(found) < mostSeconds; {
		pairs, err := st.Store.SecondPairs(ctx, after, groupSize)
		if err != nil {
			return err
		}
		if len(pairs) == 0 {
			break
		}
		after = pairs[len(pairs)-1].SupplierProductID
		for _, p := range pairs {
			x, ok, err := st.second(ctx, judge, books, p)
			if err != nil {
				return err
			}
			if ok {
				found = append(found, x)
			}
		}
	}
	if err := st.earned(ctx, found); err != nil {
		return err
	}
	t.Note = stops.Plural(int64(len(found)), "product has a second supplier", "products have a second supplier")
	return st.Store.Do(ctx, func(tx store.Tx) error {
		tx.Changed("matches", "counts")
		return tx.PutSecondSupplies(found)
	})
}

// second weighs a supplier's product against the one that supplies what is sold. It is a
// second supply where Match's rules say for certain that both are the same, and how many
// single units are in either agrees with what was decided.
func (st *Stop) second(ctx context.Context, judge match.Judge, books map[int64]*reckon.Book, p store.SecondPair) (out store.SecondSupply, ok bool, err error) {
	item, err := store.Get[store.SupplierProduct](ctx, st.Store, p.SupplierProductID)
	if err != nil {
		return out, false, err
	}
	beside, err := store.Get[store.SupplierProduct](ctx, st.Store, p.BesideID)
	if err != nil {
		return out, false, err
	}
	ours, err := stops.Bought(&item)
	if err != nil {
		return out, false, err
	}
	theirs, err := stops.Bought(&beside)
	if err != nil {
		return out, false, err
	}
	a := judge.Weigh(&ours, []match.Entry{{Ref: beside.Ref, GTINs: []string{beside.GTIN}, Thing: theirs.Thing}})
	if a.Verdict != match.Certain || max(a.Listed, 1) != max(p.UnitsBought, 1) {
		return out, false, nil
	}
	listed, err := st.Store.Reading(ctx).ListedAs(p.ProductID)
	if err != nil || len(listed) == 0 {
		return out, false, err
	}
	l := &listed[0]
	for i := range listed {
		if listed[i].Landed != nil {
			l = &listed[i]
			break
		}
	}
	out = store.SecondSupply{SupplierProductID: item.ID, ProductID: p.ProductID, ListingID: l.ID, UnitsBought: max(a.Bought, 1), Currency: l.Currency}
	return out, true, st.costs(ctx, books, l, &out)
}

// costs says what one of a listing would cost from a second supply, and why it would not
// be bought from all the same.
func (st *Stop) costs(ctx context.Context, books map[int64]*reckon.Book, l *store.ListingRow, x *store.SecondSupply) error {
	row, err := store.Get[store.Listing](ctx, st.Store, l.ID)
	if err != nil {
		return err
	}
	b := books[row.SiteID]
	if b == nil {
		site, err := st.Store.SiteOf(ctx, row.SiteID)
		if err != nil {
			return err
		}
		if b, err = st.Book(st.Store.Reading(ctx), site); err != nil {
			return err
		}
		books[row.SiteID] = b
	}
	rows, err := st.Store.FoundRows(ctx, []int64{x.SupplierProductID})
	if err != nil || len(rows) == 0 {
		return err
	}
	would := &rows[0]
	would.Units, would.UnitsBought = max(l.Units, 1), x.UnitsBought
	landed, why := b.LandedFrom(would)
	if x.Why = why; landed == nil {
		return nil
	}
	x.Landed = landed
	if l.Landed != nil {
		x.Saves = *l.Landed - *landed
	}
	return nil
}

// earned says what second supplies would have earned in the last thirty days.
func (st *Stop) earned(ctx context.Context, list []store.SecondSupply) error {
	products := make([]int64, len(list))
	for i := range list {
		products[i] = list[i].ProductID
	}
	sold, err := st.Store.SoldSince(ctx, products, st.Now().Add(-30*24*time.Hour))
	if err != nil {
		return err
	}
	for i := range list {
		x := &list[i]
		x.Sold = sold[x.ProductID]
		if month, ok := money.Times(max(x.Saves, 0), x.Sold); ok && x.Why == "" && money.Believed(month) {
			x.Month = month
		}
	}
	return nil
}

// SecondSupplies lists what suppliers have that is sold already from another one, what
// earns most first.
func (st *Stop) SecondSupplies(ctx context.Context) (stops.List[SecondSupplyView], error) {
	out := stops.List[SecondSupplyView]{Rows: []SecondSupplyView{}}
	rows, err := st.Store.SecondSupplies(ctx, shownSeconds)
	if err != nil {
		return out, err
	}
	sums, err := st.Store.SecondSums(ctx)
	for _, s := range sums {
		out.Total += s.N
	}
	for _, r := range rows {
		out.Rows = append(out.Rows, SecondSupplyView{ID: r.SupplierProductID, ProductID: r.ProductID, ListingID: r.ListingID, Title: r.Title, SKU: r.SKU, Site: r.Site, Now: r.Now,
			Paid: r.Paid, Supplier: r.Supplier, Ref: r.Ref, Units: r.UnitsBought, Landed: r.Landed, Saves: r.Saves, Sold: r.Sold, Month: r.Month,
			Currency: r.Currency, Stock: r.Stock, Why: r.Why})
	}
	return out, err
}

// TakeSecond has supplier products supply what they are: one, several, or all that are
// proposed where none is named. It says which it took.
func (st *Stop) TakeSecond(ctx context.Context, ids []int64) ([]int64, error) {
	if len(ids) == 0 {
		rows, err := st.Store.SecondSupplies(ctx, mostSeconds)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			ids = append(ids, r.SupplierProductID)
		}
	}
	taken := []int64{}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range ids {
			x, err := tx.SecondSupplyOf(id)
			if errors.Is(err, store.ErrMissing) {
				continue // found anew without it, or taken by somebody else
			}
			if err != nil {
				return err
			}
			p, err := store.GetTx[store.SupplierProduct](tx, id)
			if err != nil {
				return err
			}
			if err := stops.First(st.supply(tx, x.ProductID, &p, units{bought: x.UnitsBought}), tx.DropSecondSupply(id)); err != nil {
				return err
			}
			taken = append(taken, id)
		}
		if len(taken) == 0 {
			return fault.New(fault.Conflict, "none of these is proposed any more; the list was found anew")
		}
		tx.Changed("matches", "listings", "plan", "counts", "products")
		return tx.Note(st.Now(), "second supplier taken", stops.Plural(int64(len(taken)), "product", "products"), "")
	})
	return taken, err
}

// UntakeSecond takes second supplies back: what supplies only as one of several no longer
// does. They are proposed again when they are found anew.
func (st *Stop) UntakeSecond(ctx context.Context, ids []int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		for _, id := range ids {
			link, linked, err := tx.LinkOf(id)
			if err != nil {
				return err
			}
			if !linked {
				continue
			}
			gone, err := tx.DropLink(link.ID)
			if err != nil {
				return err
			}
			if !gone {
				return fault.New(fault.Conflict, "it is the only supplier of what is listed; take that off sale first")
			}
			if err := tx.DirtyProducts(st.Now(), []int64{link.ProductID}); err != nil {
				return err
			}
		}
		run := stops.SecondsRun(st.Now())
		tx.Changed("matches", "listings", "plan", "counts", "products")
		return stops.First(tx.Queue(&run), tx.Note(st.Now(), "second supplier taken back", stops.Plural(int64(len(ids)), "product", "products"), ""))
	})
}

// DismissSecond keeps that a supplier's product is another thing than it was taken for, or
// takes that back.
func (st *Stop) DismissSecond(ctx context.Context, id int64, dismissed bool) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		there, err := tx.DismissSecondSupply(id, dismissed)
		if err != nil {
			return err
		}
		if !there {
			return store.ErrMissing
		}
		tx.Changed("matches", "counts")
		return tx.Note(st.Now(), "second supplier refused", fmt.Sprintf("%t", dismissed), "")
	})
}

func (st *Stop) secondOperations(api huma.API) {
	stops.Op(api, stops.Read("/second-supplies", "list-second-supplies", "matches", "What suppliers have that is certainly sold already from another one, what earns most first"),
		func(ctx context.Context, _ *stops.None) (stops.List[SecondSupplyView], error) {
			return st.SecondSupplies(ctx)
		})
	stops.Op(api, stops.Post("/second-supplies/take", "take-second-supplies", actor.Prepare, "Have suppliers' products supply what they are; all that are proposed where none is named", "matches", "listings", "plan", "counts", "products"),
		func(ctx context.Context, in *struct{ Body SecondSuppliesAsked }) (SecondSuppliesTaken, error) {
			ids, err := st.TakeSecond(ctx, in.Body.IDs)
			return SecondSuppliesTaken{ids}, err
		})
	stops.Op(api, stops.Post("/second-supplies/take-back", "take-back-second-supplies", actor.Prepare, "Have suppliers' products no longer supply what they were taken for", "matches", "listings", "plan", "counts", "products"),
		func(ctx context.Context, in *struct{ Body SecondSuppliesAsked }) (stops.Done, error) {
			return stops.Said(st.UntakeSecond(ctx, in.Body.IDs))
		})
	stops.Op(api, stops.Put("/second-supplies/{id}/dismissed", "dismiss-second-supply", actor.Prepare, "Say that a supplier's product is another thing, or take that back", "matches", "counts"),
		func(ctx context.Context, in *struct {
			stops.ByID
			Body struct {
				Dismissed bool `json:"dismissed"`
			}
		}) (stops.Done, error) {
			return stops.Said(st.DismissSecond(ctx, in.ID, in.Body.Dismissed))
		})
}

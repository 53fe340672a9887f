package places

import (
	"cmp"
	"context"
	"fmt"
	"strings"

	"easymargin/core/ident"
	"easymargin/core/match"
	"easymargin/core/supply"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// offered is one of our offers as a place has it.
type offered struct {
	sku, entry         string
	gtin, title, brand string
	mpn                string
	price, quantity    int64
	known              *store.Entry // the entry, where it is known
}

var judge = match.NewJudge()

// keepListings takes over what a listing report says is on sale.
func (st *Stop) keepListings(ctx context.Context, f *store.PlaceFile, site store.Site, rows []fileRow) error {
	var list []offered
	for _, x := range rows {
		p := &x.row.Product.Product
		o := offered{sku: stops.Clip(p.Ref, 200), entry: stops.Clip(x.entry, 200), gtin: p.GTIN, title: stops.Clip(p.Title, 500),
			brand: stops.Clip(p.Brand, 200), mpn: stops.Clip(p.MPN, 100), price: p.Cost.Minor}
		if p.Stock.State == supply.StockKnown {
			o.quantity = p.Stock.Count
		}
		if p.Cost.Minor == 0 || string(p.Cost.Currency) != site.Currency {
			f.Aside++ // no price, or one in another currency: nothing that could be followed
			continue
		}
		list = append(list, o)
	}
	return st.takeOver(ctx, f, site, list)
}

// takeOver makes some offers of a site that a seller has there already ours to
// follow: each is tied to our product and to suppliers, by number, SKU, or
// maker's number. What can't be tied is kept as untied. Those that were taken
// over before are made what they are there now.
func (st *Stop) takeOver(ctx context.Context, f *store.PlaceFile, site store.Site, list []offered) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		skus := make([]string, len(list))
		for i := range list {
			skus[i] = list[i].sku
		}
		ours, err := tx.ListingsBySKU(site.ID, skus)
		if err != nil {
			return err
		}
		var fresh []*offered
		for i := range list {
			o := &list[i]
			l, there := ours[o.sku]
			if !there {
				fresh = append(fresh, o)
				continue
			}
			if l.ConfirmedPrice != nil && *l.ConfirmedPrice == o.price && l.ConfirmedQuantity == o.quantity && l.State == store.ListingLive {
				f.Same++
				continue
			}
			if err := tx.ConfirmAsThere(&l, o.price, o.quantity, nil, st.Now()); err != nil {
				return err
			}
			if err := tx.DirtyListings(st.Now(), []int64{l.ID}); err != nil {
				return err
			}
			f.Changed++
		}
		if err := st.tieAll(tx, f, site, fresh); err != nil {
			return err
		}
		tx.Changed("listings", "products", "counts")
		return nil
	})
}

// tieAll ties offers that are new to us.
func (st *Stop) tieAll(tx store.Tx, f *store.PlaceFile, site store.Site, list []*offered) error {
	if len(list) == 0 {
		return nil
	}
	if err := st.entriesOf(tx, site, list); err != nil {
		return err
	}
	var numbers, refs []string
	for _, o := range list {
		if n := o.number(); n != "" {
			numbers = append(numbers, n)
		}
		refs = append(refs, refsIn(o.sku)...)
	}
	byNumber, err := tx.ItemsByNumber(numbers)
	if err != nil {
		return err
	}
	byRef, err := tx.ItemsByRefs(refs)
	if err != nil {
		return err
	}
	var ties []*store.Taken
	var untied []store.Untied
	var tied []string
	for _, o := range list {
		items, err := st.suppliersOf(o, byNumber, byRef)
		if err != nil {
			return err
		}
		if len(items) == 0 {
			untied = append(untied, o.untied(site.ID, st))
			continue
		}
		ties, tied = append(ties, st.tie(site, o, items)), append(tied, o.sku)
	}
	f.New, f.Untied = f.New+int64(len(ties)), f.Untied+int64(len(untied))
	if err := tx.PutUntiedRows(untied); err != nil {
		return err
	}
	if err := tx.DropUntied(site.ID, tied); err != nil {
		return err
	}
	return tx.TakeOver(st.Now(), site, ties)
}

func (o *offered) untied(siteID int64, st *Stop) store.Untied {
	price := o.price
	return store.Untied{SiteID: siteID, SKU: o.sku, EntryRef: o.entry, Price: &price, Quantity: o.quantity, SeenAt: st.Now(),
		Title: o.title, GTIN: o.gtin, Brand: o.brand, MPN: o.mpn}
}

// number is the offer's product number: its own, or its entry's.
func (o *offered) number() string {
	if o.gtin == "" && o.known != nil {
		return o.known.GTIN
	}
	return o.gtin
}

// entriesOf finds the entries of offers, and keeps those that only the report
// names.
func (st *Stop) entriesOf(tx store.Tx, site store.Site, list []*offered) error {
	var refs []string
	for _, o := range list {
		if o.entry != "" {
			refs = append(refs, o.entry)
		}
	}
	entries, err := tx.EntriesByRef(site.ID, refs)
	if err != nil {
		return err
	}
	known := map[string]*store.Entry{}
	for i := range entries {
		known[entries[i].Ref] = &entries[i]
	}
	var fresh []*store.Entry
	for _, o := range list {
		if o.entry == "" {
			continue
		}
		if known[o.entry] == nil {
			e := &store.Entry{SiteID: site.ID, Ref: o.entry, GTIN: o.gtin, Title: cmp.Or(o.title, o.entry), Brand: o.brand, MPN: o.mpn, SeenAt: st.Now(),
				GTINs: []string{}}
			known[o.entry], fresh = e, append(fresh, e)
		}
		o.known = known[o.entry]
	}
	return tx.PutEntries(st.Now(), site.ID, fresh)
}

// refsIn are what in a SKU may be a supplier's ref: all of it, or what stands
// before or after a stroke, where it is long enough to be one.
func refsIn(sku string) []string {
	out := []string{sku}
	for i, r := range sku {
		if strings.ContainsRune("-_/. ", r) {
			for _, part := range []string{sku[:i], sku[i+1:]} {
				if len(part) >= 4 {
					out = append(out, part)
				}
			}
		}
	}
	return out
}

// tiedItem is a supplier product that an offer is made of, with how many.
type tiedItem struct {
	item           *store.SupplierProduct
	product        match.Product
	bought, listed int64
}

// suppliersOf are the supplier products that an offer is surely of: by its
// number, or by its SKU; never one that its words contradict.
func (st *Stop) suppliersOf(o *offered, byNumber, byRef map[string][]store.SupplierProduct) ([]tiedItem, error) {
	e := match.Entry{Ref: "there", Thing: match.Thing{Title: o.title, Brand: o.brand, MPN: o.mpn}}
	if o.gtin != "" {
		e.GTINs = []string{o.gtin}
	}
	if k := o.known; k != nil {
		e.Title, e.Brand, e.MPN, e.Units = cmp.Or(e.Title, k.Title), cmp.Or(e.Brand, k.Brand), cmp.Or(e.MPN, k.MPN), k.Units
		e.Colour, e.Size, e.Material = k.Colour, k.Size, k.Material
		e.GTINs = append(e.GTINs, k.GTIN)
	}
	var out []tiedItem
	seen := map[int64]bool{}
	weigh := func(items []store.SupplierProduct, bySKU bool) error {
		for i := range items {
			it := &items[i]
			if seen[it.ID] {
				continue
			}
			seen[it.ID] = true
			p, err := thingOf(it)
			if err != nil {
				return err
			}
			if e.Title == "" { // nothing but the number or the SKU: the seller tied them
				out = append(out, tiedItem{it, p, max(it.UnitsPerItem, 1), 1})
				continue
			}
			a := judge.Weigh(&p, []match.Entry{e})
			ok := a.Verdict == match.Certain || bySKU && a.Verdict == match.Likely && a.Bought > 0 && a.Listed > 0
			if ok {
				out = append(out, tiedItem{it, p, a.Bought, a.Listed})
			}
		}
		return nil
	}
	if err := weigh(byNumber[o.number()], false); err != nil {
		return nil, err
	}
	for _, ref := range refsIn(o.sku) {
		if err := weigh(byRef[ref], true); err != nil {
			return nil, err
		}
	}
	for i := 1; i < len(out); i++ { // one listing sells one number of units
		if out[i].listed != out[0].listed {
			out = append(out[:i], out[i+1:]...)
			i--
		}
	}
	return out, nil
}

// thingOf is a supplier product as core/match has it.
func thingOf(p *store.SupplierProduct) (match.Product, error) {
	said, err := p.Product()
	if err != nil {
		return match.Product{}, fmt.Errorf("reading %s: %w", p.Ref, err)
	}
	return match.Product{
		GTIN: p.GTIN, Guessed: p.GTINStatus == string(ident.WhyLeadingZeros),
		Thing: match.Thing{Title: p.Title, Brand: p.Brand, MPN: said.MPN, Colour: said.Colour, Size: said.Size, Material: said.Material,
			Condition: said.Condition, Description: said.Description, Units: p.UnitsPerItem},
	}, nil
}

// tie is what is written of an offer and its suppliers.
func (st *Stop) tie(site store.Site, o *offered, items []tiedItem) *store.Taken {
	price := o.price
	t := &store.Taken{
		Product: store.Product{SKU: o.sku, GTIN: cmp.Or(o.number(), items[0].item.GTIN), Title: cmp.Or(o.title, items[0].item.Title),
			Brand: cmp.Or(o.brand, items[0].item.Brand), CreatedAt: st.Now()},
		Listing: store.Listing{SiteID: site.ID, SKU: o.sku, Units: items[0].listed, Currency: site.Currency, ConfirmedPrice: &price,
			ConfirmedQuantity: o.quantity},
		Entry: o.known,
	}
	for _, it := range items {
		t.Items = append(t.Items, store.TakenItem{ID: it.item.ID, UnitsBought: it.bought})
	}
	return t
}

// TieByHand ties an offer that was tied to nothing to a supplier product that a
// person chose.
func (st *Stop) TieByHand(ctx context.Context, siteID int64, sku string, itemID, bought, listed int64) error {
	if bought < 1 || bought > 10_000 || listed < 1 || listed > 10_000 {
		return fault.At("units_bought", "write how many are in it, from 1 to 10000")
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		site, err := tx.SiteOf(siteID)
		if err != nil {
			return err
		}
		u, there, err := tx.UntiedOf(site.ID, sku)
		if err != nil {
			return err
		}
		if !there || u.Price == nil {
			return fault.New(fault.Missing, "%s is not among what is tied to nothing on %s", sku, site.Name)
		}
		item, err := store.GetTx[store.SupplierProduct](tx, itemID)
		if err != nil {
			return err
		}
		o := &offered{sku: u.SKU, entry: u.EntryRef, gtin: u.GTIN, title: u.Title, brand: u.Brand, mpn: u.MPN, price: *u.Price, quantity: u.Quantity}
		if err := st.entriesOf(tx, site, []*offered{o}); err != nil {
			return err
		}
		if err := tx.TakeOver(st.Now(), site, []*store.Taken{st.tie(site, o, []tiedItem{{item: &item, bought: bought, listed: listed}})}); err != nil {
			return err
		}
		if err := tx.DropUntied(site.ID, []string{sku}); err != nil {
			return err
		}
		tx.Changed("listings", "products", "counts")
		return tx.Note(st.Now(), "tied by hand", sku, item.Ref)
	})
}

package store

import (
	"fmt"
	"time"
)

// Taken is an offer of ours that is on a site already, with the supplier
// products that it is made of.
type Taken struct {
	Product Product // as it would be made; an item that is sold already has one
	Listing Listing // with its SKU there, its units, and what is asked and offered
	Entry   *Entry  // nil where it is on none
	Items   []TakenItem
}

// TakenItem is a supplier product of an offer.
type TakenItem struct{ ID, UnitsBought int64 }

// TakeOver makes such offers listings that are live at what is asked there, each
// with its product, its suppliers and their matches. A listing of ours on the
// same entry that was never handed over becomes it. All are worked out next.
func (tx Tx) TakeOver(now time.Time, site Site, list []*Taken) error {
	if len(list) == 0 {
		return nil
	}
	var items, entries []int64
	var skus []string
	for _, t := range list {
		for _, i := range t.Items {
			items = append(items, i.ID)
		}
		if t.Entry != nil {
			entries = append(entries, t.Entry.ID)
		}
		skus = append(skus, t.Listing.SKU)
	}
	links, err := tx.LinksOfItems(items)
	if err != nil {
		return err
	}
	unsent, err := tx.UnsentOnEntries(site.ID, entries)
	if err != nil {
		return err
	}
	given, err := tx.productSKUs(skus)
	if err != nil {
		return err
	}
	w := takeover{tx: tx, now: now, site: site, links: links, unsent: unsent, given: given, linked: map[[2]int64]bool{}}
	if w.next, err = tx.nextID("products"); err != nil {
		return err
	}
	for _, t := range list {
		if err := w.put(t); err != nil {
			return fmt.Errorf("taking %s over: %w", t.Listing.SKU, err)
		}
	}
	return w.write()
}

// productSKUs are which of some SKUs a product of ours has.
func (tx Tx) productSKUs(skus []string) (map[string]bool, error) {
	var rows []string
	err := tx.db.Raw("SELECT sku FROM products WHERE sku"+inList, textList(skus)).Scan(&rows).Error
	out := map[string]bool{}
	for _, s := range rows {
		out[s] = true
	}
	return out, err
}

// takeover collects what is written together.
type takeover struct {
	tx                         Tx
	now                        time.Time
	site                       Site
	links                      map[int64]SupplyLink // by supplier product
	unsent                     map[int64]Listing    // by entry
	given                      map[string]bool      // SKUs of products
	linked                     map[[2]int64]bool    // product and supplier product
	next                       int64
	products, supply, listings [][]any
	skus                       [][]any
	matches                    []Match
	dirty                      []int64 // products
}

func (w *takeover) put(t *Taken) error {
	productID := int64(0)
	for _, i := range t.Items {
		if l, there := w.links[i.ID]; there {
			productID = l.ProductID
			break
		}
	}
	var adopted *Listing
	if t.Entry != nil {
		if l, there := w.unsent[t.Entry.ID]; there && (productID == 0 || l.ProductID == productID) {
			adopted, productID = &l, l.ProductID
			delete(w.unsent, t.Entry.ID)
		}
	}
	if productID == 0 {
		productID = w.next
		w.next++
		p := t.Product
		for n := 2; w.given[p.SKU]; n++ { // ours by another way
			p.SKU = fmt.Sprintf("%s-%d", t.Product.SKU, n)
		}
		w.given[p.SKU] = true
		w.products = append(w.products, []any{productID, p.SKU, p.GTIN, p.Title, p.Brand, p.Picture, stamp(w.now)})
	}
	for _, i := range t.Items {
		pair := [2]int64{productID, i.ID}
		if l, there := w.links[i.ID]; !w.linked[pair] && !(there && l.ProductID == productID) {
			w.linked[pair] = true
			w.links[i.ID] = SupplyLink{ProductID: productID, SupplierProductID: i.ID}
			w.supply = append(w.supply, []any{productID, i.ID, i.UnitsBought})
		}
		if t.Entry != nil {
			w.matches = append(w.matches, Match{SupplierProductID: i.ID, SiteID: w.site.ID, State: MatchMade, EntryID: &t.Entry.ID,
				Candidates: `["` + t.Entry.Ref + `"]`, DecidedBy: "take-over", DecidedAt: w.now, Verdict: "certain", UnitsBought: i.UnitsBought,
				UnitsListed: t.Listing.Units})
		}
	}
	w.dirty = append(w.dirty, productID)
	l := t.Listing
	if adopted != nil {
		if err := w.tx.Adopt(adopted.ID, l.SKU); err != nil {
			return err
		}
		return w.tx.ConfirmAsThere(adopted, *l.ConfirmedPrice, l.ConfirmedQuantity, nil, w.now)
	}
	var entry *int64
	category := ""
	if t.Entry != nil {
		entry, category = &t.Entry.ID, t.Entry.Category
	}
	w.skus = append(w.skus, []any{l.SKU})
	w.listings = append(w.listings, []any{w.site.ID, l.SKU, productID, entry, category, max(l.Units, 1), ListingLive, l.Currency,
		*l.ConfirmedPrice, l.ConfirmedQuantity, stamp(w.now)})
	return nil
}

func (w *takeover) write() error {
	if err := w.tx.db.Exec("PRAGMA defer_foreign_keys = ON").Error; err != nil {
		return err
	}
	for _, x := range []struct {
		into     string
		rows     [][]any
		conflict string
	}{
		{"supply_links (product_id, supplier_product_id, units_bought)", w.supply, "ON CONFLICT DO NOTHING"},
		{"products (id, sku, gtin, title, brand, picture, created_at)", w.products, ""},
		{"given_skus (sku)", w.skus, "ON CONFLICT DO NOTHING"},
		{`listings (site_id, sku, product_id, entry_id, category, units, state, currency, confirmed_price, confirmed_quantity, confirmed_at)`,
			w.listings, ""},
	} {
		if err := w.tx.insertRows(x.into, x.rows, x.conflict); err != nil {
			return err
		}
	}
	if err := w.tx.PutMatches(w.matches); err != nil {
		return err
	}
	return w.tx.DirtyProducts(w.now, w.dirty)
}

package matching

import (
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// makeNew makes the listing by which a supplier product gets an entry of its own
// in a catalogue: what the place needs to make one is said on Prepare.
func (st *Stop) makeNew(tx store.Tx, site *store.Site, p *store.SupplierProduct) error {
	link, ours, err := tx.LinkOf(p.ID)
	if err != nil {
		return err
	}
	if !ours {
		prod := store.Product{GTIN: p.GTIN, Title: p.Title, Brand: p.Brand, CreatedAt: st.Now()}
		if err := stops.MakeProduct(tx, p, &prod, 0); err != nil {
			return err
		}
		link.ProductID = prod.ID
	}
	there, err := tx.ListingsOn(link.ProductID, site.ID)
	if err != nil {
		return err
	}
	for i := range there {
		if there[i].EntryID == nil {
			return tx.Want(st.Now(), there[i].ID)
		}
	}
	tx.Changed("prepare")
	_, err = stops.ListOwn(tx, st.Now(), site, []int64{link.ProductID}, "")
	return err
}

// dropNew takes that listing off again. One that was never handed over goes.
func (st *Stop) dropNew(tx store.Tx, site store.Site, p *store.SupplierProduct) error {
	link, ours, err := tx.LinkOf(p.ID)
	if err != nil || !ours {
		return err
	}
	there, err := tx.ListingsOn(link.ProductID, site.ID)
	if err != nil {
		return err
	}
	for i := range there {
		l := &there[i]
		if l.EntryID != nil {
			continue
		}
		tx.Changed("prepare")
		handed, err := tx.EverHandedOver(l.ID)
		if err != nil {
			return err
		}
		if handed {
			err = tx.Unwant(st.Now(), l.ID)
		} else {
			err = tx.DeleteListing(l.ID)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

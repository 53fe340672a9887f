package matching

import (
	"cmp"
	"fmt"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// units are how many single units are in the supplier's item and in what an
// entry sells; 0 is not known, and taken for one.
type units struct{ bought, listed int64 }

// list makes the product and the listing of an entry, or adds a supplier to
// them where they are there. How many single units are in the supplier's item
// stays with the link, how many are sold with the listing: the same product may
// be sold singly at one place and by the six at another. Where only a person
// can tell whether it is right, nothing is made and the doubt is said; decided
// says that one has.
func (st *Stop) list(tx store.Tx, site store.Site, p *store.SupplierProduct, e *store.Entry, u units, decided bool) (doubt string, err error) {
	known, there, err := tx.ListingOfEntry(site.ID, e.ID)
	if err != nil {
		return "", err
	}
	if there {
		return st.join(tx, known, p, u, decided)
	}
	old, linked, err := tx.LinkOf(p.ID)
	if err != nil {
		return "", err
	}
	if !linked {
		return "", st.makeProduct(tx, site, p, e, u)
	}
	// Sold already: on another site, or on another entry of this one.
	elsewhere, err := tx.ListingsOn(old.ProductID, site.ID)
	if err != nil {
		return "", err
	}
	if len(elsewhere) > 0 && !decided {
		return fmt.Sprintf("you sell it on another entry here already, as %s", elsewhere[0].SKU), nil
	}
	prod, err := store.GetTx[store.Product](tx, old.ProductID)
	if err != nil {
		return "", err
	}
	if err := st.supplied(tx, &old, u); err != nil {
		return "", err
	}
	l := listingOf(site, prod.ID, e, u.listed)
	return "", tx.InsertListing(st.Now(), &l, prod.SKU)
}

// join adds a supplier to what is listed on an entry. How many a listing sells
// is what was decided first, unless a person says otherwise.
func (st *Stop) join(tx store.Tx, l store.Listing, p *store.SupplierProduct, u units, decided bool) (doubt string, err error) {
	if u.listed > 0 && u.listed != l.Units {
		if !decided {
			return fmt.Sprintf("you list %d in one there, and by this supplier's row the entry sells %d", l.Units, u.listed), nil
		}
		if err := tx.SetUnits(st.Now(), l.ID, u.listed); err != nil {
			return "", err
		}
	}
	if l.Unwanted && decided {
		if err := tx.Want(st.Now(), l.ID); err != nil {
			return "", err
		}
	}
	return "", st.supply(tx, l.ProductID, p, u)
}

// supply adds a supplier to a product that is sold already.
func (st *Stop) supply(tx store.Tx, productID int64, p *store.SupplierProduct, u units) error {
	link, linked, err := tx.LinkBetween(productID, p.ID)
	if err != nil {
		return err
	}
	if linked {
		return st.supplied(tx, &link, u)
	}
	prod, err := store.GetTx[store.Product](tx, productID)
	if err != nil {
		return err
	}
	link = stops.LinkOf(productID, p, u.bought)
	if err := tx.Create(&link); err != nil {
		return err
	}
	was := prod.FamilyID
	if err := stops.JoinFamily(tx, p, &prod); err != nil {
		return err
	}
	if prod.FamilyID != was {
		if err := tx.Save(&prod); err != nil {
			return err
		}
	}
	return tx.DirtyProducts(st.Now(), []int64{productID})
}

// supplied makes a link that is there what was decided: so many in the
// supplier's item, and no doubt.
func (st *Stop) supplied(tx store.Tx, link *store.SupplyLink, u units) error {
	if (u.bought == 0 || u.bought == link.UnitsBought) && link.Doubt == "" {
		return nil
	}
	if u.bought > 0 {
		link.UnitsBought = u.bought
	}
	link.Doubt = ""
	if err := tx.Save(link); err != nil {
		return err
	}
	return tx.DirtyProducts(st.Now(), []int64{link.ProductID})
}

func (st *Stop) makeProduct(tx store.Tx, site store.Site, p *store.SupplierProduct, e *store.Entry, u units) error {
	prod := st.newProduct(p, e)
	if err := stops.MakeProduct(tx, p, &prod, u.bought); err != nil {
		return err
	}
	l := listingOf(site, prod.ID, e, u.listed)
	return tx.InsertListing(st.Now(), &l, prod.SKU)
}

// newProduct is a product as an entry and its supplier have it, without a SKU.
func (st *Stop) newProduct(p *store.SupplierProduct, e *store.Entry) store.Product {
	return store.Product{GTIN: e.GTIN, Title: cmp.Or(e.Title, p.Title), Brand: cmp.Or(e.Brand, p.Brand), Picture: e.Picture, CreatedAt: st.Now()}
}

func listingOf(site store.Site, productID int64, e *store.Entry, listed int64) store.Listing {
	return store.Listing{SiteID: site.ID, ProductID: productID, EntryID: &e.ID, Category: e.Category, Units: cmp.Or(listed, max(e.Units, 1)),
		State: store.ListingUnpriced, Currency: site.Currency}
}

// lift takes the doubt off what a supplier product supplies; doubt puts one on.
func (st *Stop) lift(tx store.Tx, itemID int64) error { return st.doubt(tx, itemID, "") }

func (st *Stop) doubt(tx store.Tx, itemID int64, why string) error {
	links, err := tx.LinksOf(itemID)
	if err != nil {
		return err
	}
	var ids []int64
	for _, l := range links {
		if l.Doubt != why {
			ids = append(ids, l.ID)
		}
	}
	return tx.Doubt(st.Now(), ids, why)
}

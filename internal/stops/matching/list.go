package matching

import (
	"cmp"
	"fmt"
	"strings"

	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// list makes the product and the listing of an entry, or adds a supplier to
// them where they are there. How many single units are in the supplier's item
// stays with the link, how many are sold with the listing: the same product may
// be sold singly at one place and by the six at another. Where only a person
// can tell whether it is right, nothing is made and the doubt is said; decided
// says that one has.
func (st *Stop) list(tx store.Tx, site store.Site, p *store.SupplierProduct, e *store.Entry, decided bool) (doubt string, err error) {
	known, there, err := tx.ListingOfEntry(site.ID, e.ID)
	if err != nil {
		return "", err
	}
	if there {
		return "", st.supply(tx, known.ProductID, p)
	}
	old, linked, err := tx.LinkOf(p.ID)
	if err != nil {
		return "", err
	}
	if !linked {
		return "", st.newProduct(tx, site, p, e)
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
	return "", st.newListing(tx, site, &prod, e)
}

// supply adds a supplier to a product that is sold already.
func (st *Stop) supply(tx store.Tx, productID int64, p *store.SupplierProduct) error {
	if linked, err := tx.Linked(productID, p.ID); err != nil || linked {
		return err
	}
	prod, err := store.GetTx[store.Product](tx, productID)
	if err != nil {
		return err
	}
	link := linkOf(productID, p)
	if err := tx.Create(&link); err != nil {
		return err
	}
	was := prod.FamilyID
	if err := st.joinFamily(tx, p, &prod); err != nil {
		return err
	}
	if prod.FamilyID != was {
		if err := tx.Save(&prod); err != nil {
			return err
		}
	}
	return tx.DirtyProducts(st.Now(), []int64{productID})
}

func (st *Stop) newProduct(tx store.Tx, site store.Site, p *store.SupplierProduct, e *store.Entry) error {
	prod := st.productOf(p, e)
	prod.SKU = fmt.Sprintf("new-%d", p.ID)
	if err := st.joinFamily(tx, p, &prod); err != nil {
		return err
	}
	if err := tx.Create(&prod); err != nil {
		return err
	}
	prod.SKU = sku(prod.Brand, prod.ID)
	if err := tx.Save(&prod); err != nil {
		return err
	}
	link := linkOf(prod.ID, p)
	if err := tx.Create(&link); err != nil {
		return err
	}
	return st.newListing(tx, site, &prod, e)
}

// productOf is a product as an entry and its supplier have it, without a SKU.
func (st *Stop) productOf(p *store.SupplierProduct, e *store.Entry) store.Product {
	return store.Product{GTIN: e.GTIN, Title: cmp.Or(e.Title, p.Title), Brand: cmp.Or(e.Brand, p.Brand), Picture: e.Picture, CreatedAt: st.Now()}
}

func linkOf(productID int64, p *store.SupplierProduct) store.SupplyLink {
	return store.SupplyLink{ProductID: productID, SupplierProductID: p.ID, UnitsBought: max(p.UnitsPerItem, 1)}
}

func listingOf(site store.Site, productID int64, e *store.Entry) store.Listing {
	return store.Listing{SiteID: site.ID, ProductID: productID, EntryID: &e.ID, Category: e.Category, Units: max(e.Units, 1),
		State: store.ListingUnpriced, Currency: site.Currency}
}

func (st *Stop) newListing(tx store.Tx, site store.Site, prod *store.Product, e *store.Entry) error {
	l := listingOf(site, prod.ID, e)
	return tx.InsertListing(st.Now(), &l, prod.SKU)
}

// joinFamily makes a product a variant, where the supplier's row is one of a
// group. The families are ours: groups of several suppliers join in one where
// they share a variant.
func (st *Stop) joinFamily(tx store.Tx, p *store.SupplierProduct, prod *store.Product) error {
	said, err := p.Product()
	if err != nil || said.Group == "" {
		return err
	}
	family, known, err := tx.FamilyOfGroup(p.SourceID, said.Group)
	if err != nil {
		return fmt.Errorf("the group %s: %w", said.Group, err)
	}
	if !known {
		if prod.FamilyID != nil {
			family = *prod.FamilyID
		} else {
			f := store.Family{Title: p.Title}
			if err := tx.Create(&f); err != nil {
				return err
			}
			family = f.ID
		}
		if err := tx.Create(&store.FamilyGroup{SourceID: p.SourceID, Group: said.Group, FamilyID: family}); err != nil {
			return err
		}
	}
	if prod.FamilyID != nil {
		return nil // it is a variant of something already
	}
	var apart []string
	for _, s := range []string{said.Colour, said.Size, said.Material} {
		if s != "" {
			apart = append(apart, s)
		}
	}
	if len(apart) == 0 {
		apart = []string{p.Ref}
	}
	prod.FamilyID, prod.Variant = &family, stops.Clip(strings.Join(apart, ", "), 200)
	return nil
}

// sku is two letters of the brand and a number of its own.
func sku(brand string, id int64) string {
	letters := strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' {
			return r
		}
		return -1
	}, strings.ToUpper(brand))
	return fmt.Sprintf("%s-%05d", (letters + "XX")[:2], id)
}

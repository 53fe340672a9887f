package stops

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"easymargin/internal/store"
)

// MakeProduct makes a product of ours that a supplier product supplies, so many
// units in each of its items; 0: as it says. It gets a SKU, and is a variant
// where the supplier's row is one of a group.
func MakeProduct(tx store.Tx, p *store.SupplierProduct, prod *store.Product, bought int64) error {
	if err := JoinFamily(tx, p, prod); err != nil {
		return err
	}
	give, err := SKUs(tx)
	if err != nil {
		return err
	}
	if prod.SKU, err = give(p, prod.Brand, prod.Variant); err != nil {
		return err
	}
	if err := tx.Create(prod); err != nil {
		return err
	}
	link := LinkOf(prod.ID, p, bought)
	return tx.Create(&link)
}

// LinkOf has a supplier product supply a product.
func LinkOf(productID int64, p *store.SupplierProduct, bought int64) store.SupplyLink {
	return store.SupplyLink{ProductID: productID, SupplierProductID: p.ID, UnitsBought: cmp.Or(bought, max(p.UnitsPerItem, 1))}
}

// JoinFamily makes a product a variant, where the supplier's row is one of a
// group. The families are ours: groups of several suppliers join in one where
// they share a variant.
func JoinFamily(tx store.Tx, p *store.SupplierProduct, prod *store.Product) error {
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
	prod.FamilyID, prod.Variant = &family, Clip(strings.Join(apart, ", "), 200)
	return nil
}

// ListOwn makes listings of our own of some products on a site, as they are when
// they go up. Each goes into the category given, else into that of the same name
// as where it is sold already. It says how many weren't there.
func ListOwn(tx store.Tx, now time.Time, site *store.Site, products []int64, category string) (int64, error) {
	if !site.Lists {
		if err := tx.Update(&store.Site{ID: site.ID}, map[string]any{"lists": true}); err != nil {
			return 0, err
		}
		tx.Changed("sites", "places")
	}
	there, err := tx.ListedOn(site.ID, products)
	if err != nil {
		return 0, err
	}
	guessed, err := tx.GuessCategories(site.ID, products)
	if err != nil {
		return 0, err
	}
	var n int64
	for _, id := range products {
		if there[id] {
			continue
		}
		there[id] = true
		n++
		again, err := tx.WantOn(now, site.ID, id)
		if err != nil || again {
			if err != nil {
				return n, err
			}
			continue
		}
		p, err := store.GetTx[store.Product](tx, id)
		if err != nil {
			return n, err
		}
		l := store.Listing{SiteID: site.ID, ProductID: id, Category: cmp.Or(category, guessed[id]), Units: 1, State: store.ListingUnpriced, Currency: site.Currency}
		if err := tx.InsertListing(now, &l, OwnSKU(p.SKU)); err != nil {
			return n, err
		}
	}
	return n, QueueDemands(tx, now, site)
}

// QueueDemands queues the reading of what a site asks for, where none waits.
func QueueDemands(tx store.Tx, now time.Time, site *store.Site) error {
	alive, err := tx.RunAlive(RunDemands, site.ID)
	if err != nil || alive {
		return err
	}
	return tx.Queue(&store.Run{Kind: RunDemands, Lane: store.Lane(RunDemands, site.ID), Title: "Reading what " + site.Name + " asks for",
		Subject: site.ID, Once: true, CreatedAt: now})
}

// OwnSKU is a SKU that every place takes: docs/definitions/listing.md, section 2.
func OwnSKU(sku string) string {
	sku = strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || strings.ContainsRune("-_./", r) {
			return r
		}
		return '-'
	}, sku)
	return sku[:min(len(sku), 36)] // with room for a number behind it
}
